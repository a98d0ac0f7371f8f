"""Templates of cut ends of tubes: what is wrapped about a tube to mark where it is cut.

Round a tube of radius R, at the angle φ from its height, a cut begins so far along its axis as
the farther of its planes and saddles, s(φ), takes the place of the section's rim (see ``cuts``).
Laid flat as one looks at it from outside, it lies φ (R + t / 2) to the right, t being how thick the
template is, and s upward; angles run to the right.
"""

from __future__ import annotations

from collections.abc import Callable
from dataclasses import dataclass
from functools import partial
from typing import NamedTuple

import numpy as np
import shapely
from numpy.typing import NDArray

from ..naming.numbering import in_order, type_numbers
from ..results import result_type
from ..structure.cuts import CUT, taken_at
from ..structure.structure import Structure
from .lettering import NEIGHBOUR_HEIGHT, Names
from .parts import CutResult, Part
from .templates import pose_in

__all__ = ["CutEnds", "TubeTemplates", "Wrap", "cut_ends", "tube_templates"]

Array = NDArray[np.float64]
Index = NDArray[np.int32]
STEPS = 180
"""Places round a tube where its cut is looked at."""
LEAST_TURN = 1e-4
"""Radians between two of them."""
FLAT = 1e-12
"""Metres below which what a cut rises by from place to place is nothing."""
LOOKED_AT, HALVED, SLOPE = 360, 40, 1e-4
"""Places at which, and how many times halved, it is looked for where cuts meet, and the radians
either way by which their slopes are told."""
LETTER = "TE"
EVEN = 1e-6
"""By how much a section may swell at an end and is a tube all the same."""
QUARTERS = ("up", "right", "down", "left")
"""What is written at each quarter of a template: where it lies by the section's height."""
ASIDE = 10.0
"""Millimetres beside the line it is of."""


class Wrap(NamedTuple):
    """What templates are made of.

    Parameters
    ----------
    material : a name in ``MATERIALS``
    thickness : in metres
    overlap : metres that they are longer than their tubes are round
    beyond : metres that they are left behind the shortest place of the tube
    """

    material: str
    thickness: float
    overlap: float
    beyond: float


class CutEnds(NamedTuple):
    """Ends (n,) of round members that planes or saddles cut.

    Parameters
    ----------
    member, end : (n,) which member, and which end of it
    radius : (n,) outer radii in metres
    cuts : (n, 2, CUT) of them, as ``Cuts.rows_of_ends`` has them
    away, up : (n, 3) unit directions of the ends into their members and of the sections' heights
    far : (n,) how far from the end of the axis there is something of the tube
    """

    member: Index
    end: Index
    radius: Array
    cuts: Array
    away: Array
    up: Array
    far: Array

    def cut(self, turn: Array) -> Array:
        """How far (n, k) from where there is something of the tube its cut is, at angles (k,)."""
        return self._taken(self.cuts, turn) - self.far[:, None]

    def of(self, k: int) -> CutEnds:
        """One of them."""
        one = slice(k, k + 1)
        return CutEnds(
            self.member[one],
            self.end[one],
            self.radius[one],
            self.cuts[one],
            self.away[one],
            self.up[one],
            self.far[one],
        )

    def turns(self) -> Array:
        """Angles (k,) in order, from 0 to a whole turn, at which the cut of the one end there is is
        looked at: every so often, where its two cuts meet and where each is nearest and farthest.
        """
        one, two = self._each()
        found = _zeros(lambda turn: one(turn) - two(turn))
        for each in (one, two):
            found += _zeros(partial(_slope, each))
        evenly = 2 * np.pi / STEPS * np.arange(STEPS)
        every = np.unique(np.round([*evenly, *(np.array(found) % (2 * np.pi))], 9))
        kept = np.diff(every, prepend=-1.0) > LEAST_TURN
        return np.append(every[kept], 2 * np.pi)

    def _each(self) -> list[Callable[[Array], Array]]:
        """How far each of the cuts of the one end there is takes it, at angles (k,); one alone
        twice."""
        own = self.cuts[0][self.cuts[0].any(axis=1)]
        alone = np.zeros((2, 1, 2, CUT))
        alone[:, 0, 0] = own[0], own[-1]
        return [partial(self._row, cuts) for cuts in alone]

    def _row(self, cuts: Array, turn: Array) -> Array:
        return np.asarray(self._taken(cuts, turn)[0])

    def _taken(self, cuts: Array, turn: Array) -> Array:
        """How far (n, k) along from the ends of their axes ``cuts`` take the tubes."""
        # To the right as one looks at it with the member leading up.
        rim = np.column_stack([-np.sin(turn), np.cos(turn)])
        return taken_at(cuts, self.away, self.up, self.radius[:, None, None] * rim)


def _zeros(value: Callable[[Array], Array]) -> list[float]:
    """Angles at which a ``value`` of angles (k,) is 0, between some at which it changes sign."""
    turn = np.linspace(0.0, 2 * np.pi, LOOKED_AT + 1)
    at = value(turn)
    low = np.flatnonzero((at[:-1] * at[1:] < 0) & (np.abs(at[:-1] - at[1:]) > FLAT))
    a, b = turn[low], turn[low + 1]
    rising = at[low + 1] > 0
    for _ in range(HALVED):
        middle = (a + b) / 2
        past = (value(middle) > 0) == rising
        a, b = np.where(past, a, middle), np.where(past, middle, b)
    # Where it is 0 all along there is no such place.
    alone = (at[:-1] == 0) & (at[1:] != 0)
    return [*((a + b) / 2).tolist(), *turn[:-1][alone].tolist()]


def _slope(value: Callable[[Array], Array], turn: Array) -> Array:
    """How much a ``value`` of angles rises about them (k,)."""
    return value(turn + SLOPE) - value(turn - SLOPE)


@result_type("TubeTemplates", "tube templates", "wrap")
@dataclass(frozen=True, eq=False)
class TubeTemplates(CutResult):
    """Templates (k) of cut ends of a structure's tubes, each for all ends that are cut alike.

    Parameters
    ----------
    structure : whose members they are for
    ends : (n) of its members
    template : (n,) the template of each, its position in ``parts``
    wrap : what they are made of
    parts : (k,) as they are cut
    unlabelled : (u,) those without room for all that is written on them
    """

    structure: Structure
    ends: CutEnds
    template: Index
    wrap: Wrap
    parts: tuple[Part, ...]
    unlabelled: Index

    @property
    def first(self) -> Index:
        """The first end (k,) of each template."""
        return np.unique(self.template, return_index=True)[1].astype(np.int32)

    def rolled(self, k: int) -> Array:
        """The edge (m, 3) of a template as it is wrapped about its first tube, in metres."""
        end = int(self.first[k])
        frame, at = _frame(self.structure, self.ends, end)
        own = self.ends.of(end)
        turn = own.turns()
        across = np.cos(turn)[:, None] * frame[2] + np.sin(turn)[:, None] * frame[0]
        return np.asarray(at + own.cut(turn)[0][:, None] * frame[1] + own.radius * across)


def cut_ends(structure: Structure) -> CutEnds:
    """All ends of round members that planes cut, where these are straight and do not swell."""
    half = np.array([s.shape.height / 2 if s.shape.round else 0.0 for s in structure.sections])
    entries = np.column_stack([structure.offsets[:-1], structure.offsets[1:] - 1]).ravel()
    which = structure.cuts.ends_cut
    radius = half[structure.section_of[which // 2]]
    even = np.abs(structure.scale[entries[which]] - 1) < EVEN
    fits = (radius > 0) & structure.straight_ends[which] & even
    which, radius = which[fits], radius[fits]
    member, end = (which // 2).astype(np.int32), (which % 2).astype(np.int32)
    cuts = structure.cuts.rows_of_ends(2 * structure.count)[which]
    away, up = (frame.reshape(-1, 3)[which] for frame in structure.end_frames)
    return CutEnds(member, end, radius, cuts, away, up, structure.set_back[member, end])


def tube_templates(
    structure: Structure, wrap: Wrap, tolerance: float, progress: Callable[[float], None]
) -> TubeTemplates:
    """Templates of all cut ends of tubes.

    Parameters
    ----------
    structure : whose members they are for
    wrap : what they are made of
    tolerance : within how many metres ends that share one are cut alike
    progress : told the share that is done
    """
    ends = cut_ends(structure)
    turn = np.linspace(0.0, 2 * np.pi, STEPS, endpoint=False)
    features = np.column_stack([ends.radius, ends.cut(turn)])
    template = in_order(type_numbers(features[:, None, :], tolerance)[0]) - 1
    first = np.unique(template, return_index=True)[1]
    parts, complete = [], []
    for k, end in enumerate(first.tolist()):
        if k % 50 == 0:
            progress(k / len(first))
        names = _part(structure, ends, end, wrap, f"{structure.series}{LETTER}{k + 1}")
        parts.append(names[0])
        complete.append(names[1])
    unlabelled = np.flatnonzero(~np.array(complete, bool)).astype(np.int32)
    return TubeTemplates(structure, ends, template, wrap, tuple(parts), unlabelled)


def _frame(structure: Structure, ends: CutEnds, end: int) -> tuple[Array, Array]:
    """The frame (3, 3; rows right, along the member, outward) of a template where it begins, and
    the place on the axis its lower edge is level with."""
    member, which = int(ends.member[end]), int(ends.end[end])
    away, up = (frame[member, which] for frame in structure.end_frames)
    entry = structure.offsets[member + which] - which
    at = structure.axis_places[entry] + ends.far[end] * away
    return np.stack([np.cross(away, up), away, up]), at


def _part(
    structure: Structure, ends: CutEnds, end: int, wrap: Wrap, label: str
) -> tuple[Part, bool]:
    """The template of an end, and whether it has room for all that is written on it.

    Parameters
    ----------
    structure, ends, end : what it is of
    wrap : what it is made of
    label : its name
    """
    frame, at = _frame(structure, ends, end)
    own, radius = ends.of(end), ends.radius[end]
    around = 2 * np.pi * (radius + wrap.thickness / 2)
    turn = own.turns()
    edge = np.column_stack([turn / (2 * np.pi) * around, own.cut(turn)[0]])
    outer = _outline(edge, wrap) * 1000
    names = _named(outer, label, around * 1000, wrap.beyond * 1000)
    part = Part(
        label=label,
        kind="wrap",
        outer=outer,
        pose=pose_in(at + radius * frame[2], frame),
        material=wrap.material,
        thickness=wrap.thickness * 1000,
        marks=tuple(names.strokes),
    )
    return part, names.complete


def _outline(edge: Array, wrap: Wrap) -> Array:
    """The outline of a template from the ``edge`` (n, 2) that goes once round; what overlaps its
    beginning is cut as that is."""
    around, behind = edge[-1, 0], edge[:, 1].max() + wrap.beyond
    again = edge[1:][edge[1:, 0] < wrap.overlap] + [around, 0.0]
    last = around + wrap.overlap, np.interp(wrap.overlap, *edge.T)
    return np.vstack([edge, again, last, (last[0], behind), (0.0, behind)])


def _named(outer: Array, label: str, around: float, beyond: float) -> Names:
    """What is written on a template with an outline (n, 2), ``around`` wide and left ``beyond`` the
    cut, in mm: its name, which quarter lies where, and where it has gone round once."""
    names, high = Names(shapely.Polygon(outer)), outer[:, 1].max()
    middle = high - beyond / 2
    for quarter, word in enumerate(QUARTERS):
        beside = np.array([[around * quarter / 4 + ASIDE, middle]])
        names.write(word, NEIGHBOUR_HEIGHT / 2, beside, np.pi / 2)
    names.write(label, NEIGHBOUR_HEIGHT, np.array([[around * 3 / 8, middle]]))
    names.strokes.append(np.array([[around, high - beyond], [around, high]]))
    return names
