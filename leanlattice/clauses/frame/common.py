"""What the clauses of chapter Frame share: how members meet, what is told of them, and figures."""

from __future__ import annotations

import math
from collections.abc import Mapping
from dataclasses import replace
from typing import ClassVar, Literal

import numpy as np
from numpy.typing import NDArray

from ...core.geometry.nets import MARKS, Net
from ...core.materials import MATERIALS
from ...core.naming.numbering import bands
from ...core.structure.appended import appended
from ...core.structure.bodies import body_masses, missed_bodies
from ...core.structure.crossings import TOUCHING, crossings_of
from ...core.structure.inserted import landed_near
from ...core.structure.meetings import BODIES, Meeting
from ...core.structure.names import names_of_structure
from ...core.structure.overrun import held_past_bends, overrun
from ...core.structure.roles import ROLE_NAMES
from ...core.structure.structure import Structure
from ..base import (
    Clause,
    ClauseError,
    Figure,
    Made,
    Notice,
    Remedy,
    Take,
    Work,
    choice,
    headline,
    number,
)
from ..catalogue import SERIES
from ..lattice.common import place_of
from ..said import mm

__all__ = [
    "CELLS",
    "MEETING",
    "NAMED",
    "NET",
    "ONTO",
    "STRUCTURE",
    "CellsWanted",
    "FrameClause",
    "MeetingClause",
    "check_edges",
    "marked_cells",
    "structure_figures",
    "told_of",
]

NO_LENGTH = 1e-6
"""Metres below which an edge has no direction that a member could take."""
OVER = 1e-6
"""Metres by which cuts may overrun and still be rounding."""
HOPELESS = 10.0
"""A member that would have to be so many times as long as it is cannot be helped by its section."""
BODY_WORDS = {name: MATERIALS[name].title for name in ("S355", "S235", "GL24h", "concrete")}
"""What bodies at nodes are made of, as choices."""
ONTO = Take(
    name="structure",
    types=("Structure",),
    label="Goes on with the structure",
    optional=True,
    asked=True,
)
STRUCTURE = Take(name="structure", types=("Structure",), label="Structure")
NET = Take(name="net", types=("Net",), label="Net")
CellsWanted = Literal["all", "main", "second", "third", "others"]
CELLS = {
    "all": "the cells",
    "main": "cells marked main",
    "second": "cells marked second",
    "third": "cells marked third",
    "others": "unmarked cells",
}
"""Which cells of a net are meant, as choices."""
MEETING = (
    "{meeting}[meeting=ball,hub,disc,plate,seats| {sizes} {radius} radius]"
    "[meeting=disc,plate|, {thickness} thick]"
    "[meeting=ball,hub,disc,plate|, in {body_material}, at least {gap} apart]"
    "[meeting=seats|, seats {gap} apart]"
    "[meeting=arms| {thickness} thick, their arms {beyond} wider than members on each side, "
    "corners of {rounding}, folds of {fold} at most and {radius} or more out, {backs}]"
    "[meeting=apart| {gap} apart] at nodes"
)
"""How members meet, in a sentence."""
NAMED = "[structure=none|, named {series}]"
"""How what begins a structure is named, in a sentence."""


def marked_cells(net: Net, wanted: CellsWanted) -> NDArray[np.bool_]:
    """Which cells (C,) of a net are wanted, by their marks.

    Raises ``ClauseError``, about the value ``cells``, where none is.
    """
    if wanted == "all":
        return np.ones(net.cell_count, bool)
    marks = np.zeros(net.cell_count, np.int32) if net.cell_marks is None else net.cell_marks
    kept = np.asarray(marks == (0 if wanted == "others" else MARKS.index(wanted)))
    if not kept.any():
        raise ClauseError(
            "No cell of the net is marked so; “Mark cells” before this clause does it.", "cells"
        )
    return kept


class MeetingClause(Clause):
    """Base of clauses that add members to a structure and say how these meet."""

    chapter = "Frame"
    gives = "Structure"

    sketches: ClassVar[Mapping[str, tuple[str, ...]]] = {
        "arms": ("beyond", "rounding", "fold", "gap")
    }

    meeting: Literal[
        "welded", "coped", "apart", "ball", "hub", "disc", "plate", "arms", "seats"
    ] = choice(
        "welded",
        {
            "welded": "welded",
            "coped": "welded, tubes coped",
            "apart": "held",
            "ball": "held back for balls",
            "hub": "held back for hubs",
            "disc": "held back for discs",
            "plate": "held back for plates",
            "arms": "held back for folded plates",
            "seats": "held back for seats on hubs",
        },
        "Meeting",
        "Welded members are cut by planes; coped tubes fit the side of a thicker one they stop at; "
        "others stop where they are apart, or at a body",
    )
    sizes: Literal["each", "alike", "fixed"] = choice(
        "each",
        {
            "each": "as large as each node needs, from",
            "alike": "all as large as any needs, from",
            "fixed": "of",
        },
        "Sizes of bodies",
    )
    radius: float = number(60.0, "mm", 1.0, 2000.0, 1.0, "Radius")
    thickness: float = number(20.0, "mm", 1.0, 500.0, 1.0, "Thickness", "Of discs and plates")
    body_material: str = choice("S355", BODY_WORDS, "Material of bodies")
    gap: float = number(
        10.0,
        "mm",
        0.0,
        500.0,
        1.0,
        "Gap at nodes",
        "Least clear distance between members at a node",
    )

    beyond: float = number(
        8.0, "mm", -200.0, 200.0, 1.0, "Beyond members", "For welds; below 0 arms are narrower"
    )
    rounding: float = number(12.0, "mm", 0.5, 200.0, 1.0, "Radius of corners between arms")
    backs: Literal["each", "alike"] = choice(
        "each",
        {"each": "each as far as it needs", "alike": "those of a section alike"},
        "Set-backs",
    )
    fold: float = number(30.0, "°", 5.0, 60.0, 1.0, "Sharpest fold")

    def begun(self, own: Structure) -> Structure:
        """The ``own`` members as a structure of their own."""
        return own

    def added(
        self, work: Work, own: Structure, warnings: list[Notice], near: float | None = None
    ) -> Made:
        """What was made: the ``own`` members behind those of the structure that is gone on with, or
        as one that begins; with what is told of them behind the ``warnings``. Where ``near`` is
        given, those of its nodes that are within so many metres of what is there are at it."""
        base: Structure | None = work.inputs.get("structure")
        if base is None:
            structure = self.begun(own)
        elif near is None:
            structure = appended(base, own)
        else:
            # Members may be cut otherwise where they landed.
            structure = own = landed_near(base, own, near)
        return self.told(structure, own, warnings)

    def told(self, structure: Structure, own: Structure, warnings: list[Notice]) -> Made:
        """A ``structure`` with its figures, and behind the ``warnings`` what is told of its last
        members, whose ends are cut as in ``own``."""
        told = [*warnings, *_short_of_room(structure, own)]
        return Made(structure, structure_figures(structure), told + self._bodies_missed(structure))

    def wanted_meeting(self) -> Meeting:
        """How members are to meet."""
        return Meeting(
            way="welded" if self.meeting == "coped" else self.meeting,
            saddles=self.meeting == "coped",
            gap=self.gap / 1000,
            sizes=self.backs if self.meeting == "arms" else self.sizes,
            radius=self.radius / 1000,
            thickness=self.thickness / 1000,
            material=self.body_material,
            beyond=self.beyond / 1000,
            rounding=self.rounding / 1000,
            fold=math.radians(self.fold),
        )

    def _bodies_missed(self, structure: Structure) -> list[Notice]:
        """What is said of bodies that members do not reach, and where there are none at all."""
        if self.meeting not in BODIES:
            return []
        if not structure.radius[structure.since[0] :].any():
            return [
                Notice(
                    "No node has a body: where members pass each other none fits between.",
                    value="meeting",
                )
            ]
        nodes, needed = missed_bodies(structure, first=structure.since[0])
        if not len(nodes):
            return []
        radius = float(np.ceil(needed * 1000))
        x, y, z = structure.places[nodes[0]].tolist()
        facts = {"nodes": len(nodes), "radius": self.radius, "needed": radius}
        notice = Notice.coded(
            "bodies not reached",
            facts,
            of="node",
            which=tuple(map(int, nodes[:2000])),
            at=(x, y, z),
            value="radius",
            remedies=(
                Remedy(f"Make them of {mm(radius)}", {"radius": radius}),
                Remedy("Make each as large as it needs", {"sizes": "each"}),
            ),
        )
        return [notice]


class FrameClause(MeetingClause):
    """Base of clauses that add members to a structure or begin one, which is named."""

    series: Literal["", "A", "B", "C", "D"] = choice(
        "", SERIES, "Series", "A letter before all names, for a second structure"
    )

    def begun(self, own: Structure) -> Structure:
        return replace(own, series=self.series)


def check_edges(net: Net) -> None:
    """Raises ``ClauseError`` where edges have no length, along which no member can lie."""
    gone = np.flatnonzero(net.edge_lengths < NO_LENGTH)
    if gone.size:
        at = net.vertices[net.edges[gone[0], 0]]
        merged = Remedy("Merge vertices within 1 mm of each other", {"distance": 0.001}, "merge")
        facts = {"edges": gone.size, "x": at[0], "y": at[1], "z": at[2]}
        raise ClauseError.of("edges without length", facts, at=at, remedies=(merged,))


def told_of(structure: Structure, base: Structure) -> list[Notice]:
    """What is told of the members of a ``structure`` that was changed, where it is not told of as
    many of its ``base`` by what made that."""
    now, before = (_of_all(replace(s, since=(0, 0))) for s in (structure, base))
    known = {(notice.code, notice.value): len(notice.which) for notice in before}
    more = [n for n in now if len(n.which) > known.get((n.code, n.value), 0)]
    # What would help is a value of another clause.
    return [replace(notice, value=None, remedies=()) for notice in more]


def _of_all(structure: Structure) -> list[Notice]:
    return _short_of_room(structure, structure)


def structure_figures(structure: Structure) -> dict[str, Figure]:
    lengths = structure.cut_lengths
    bodies = body_masses(structure)
    figures = {
        "members": headline("Members", len(lengths)),
        "nodes": headline("Nodes", len(structure.places)),
        "total_length": headline("Total length", float(np.maximum(lengths, 0).sum()), "m", 1),
        "mass": headline("Mass", float(structure.masses.sum() + bodies.sum()), "kg", 0),
        "shortest": headline("Shortest member", float(structure.lengths.min()), "m", 3),
        "longest": headline("Longest member", float(structure.lengths.max()), "m", 3),
        "distinct_lengths": headline(
            "Lengths, to 1 mm", int(bands(structure.lengths, 0.001).max()) + 1
        ),
        "largest_set_back": headline(
            "Largest set-back", _largest_set_back(structure) * 1000, "mm", 0
        ),
    }
    figures |= _by_role(structure)
    figures |= _crossing(structure)
    if structure.radius.any():
        radii = structure.radius[structure.radius > 0] * 1000
        figures |= {
            "bodies": Figure("Bodies at nodes", len(radii)),
            "body_mass": Figure("Mass of these", float(bodies.sum()), "kg", 0),
            "largest_body": Figure("Largest radius", float(radii.max()), "mm", 0),
        }
    return figures


def _crossing(structure: Structure) -> dict[str, Figure]:
    """How many members pass each other on levels, and what that takes."""
    found = crossings_of(structure) if structure.offset.any() else None
    if found is None or not len(found.node):
        return {}
    figures = {"crossings": Figure("Crossings on levels", len(found.node))}
    notch, block = float(-found.clear.min()), float(found.clear.max())
    if notch > TOUCHING:
        figures["deepest_notch"] = Figure("Deepest notch, both together", notch * 1000, "mm", 1)
    if block > TOUCHING:
        figures["thickest_block"] = Figure("Thickest block between", block * 1000, "mm", 1)
    return figures


def _largest_set_back(structure: Structure) -> float:
    """In metres, of members that have a length left: what no set-back parts has none to tell."""
    left = structure.cut_lengths > 0
    return float(structure.set_back[left].max(initial=0.0))


def _by_role(structure: Structure) -> dict[str, Figure]:
    """How many members of each role there are, how long and heavy, where there are several."""
    numbers = np.unique(structure.role)
    figures: dict[str, Figure] = {}
    for k in numbers if len(numbers) > 1 else ():
        name, own = ROLE_NAMES[k], structure.role == k
        title = name.capitalize()
        length = float(np.maximum(structure.cut_lengths[own], 0).sum())
        figures |= {
            f"{name}_members": Figure(f"{title} members", int(own.sum())),
            f"{name}_length": Figure(f"{title} length", length, "m", 1),
            f"{name}_mass": Figure(f"{title} mass", float(structure.masses[own].sum()), "kg", 0),
        }
    return figures


def _short_of_room(structure: Structure, own: Structure) -> list[Notice]:
    """What is told of the last members of a ``structure``, cut as in ``own``, that have no length
    left, are thicker than long, or whose ends cannot be where they are to be."""
    thick = _thicker_than_long(structure)
    return [
        *_no_length_left(structure),
        *_of_thick(structure, thick),
        *_overrunning(structure, own, thick),
    ]


def _thicker_than_long(structure: Structure) -> NDArray[np.bool_]:
    """Which members (M,) are no longer from node to node than their section is across; of those
    that have a length left, and were not there before."""
    across = np.array([max(s.shape.width, s.shape.height) for s in structure.sections])
    thick = structure.lengths <= across[structure.section_of]
    thick &= structure.mean_lengths > 0
    thick[: structure.since[1]] = False
    return np.asarray(thick)


def _of_thick(structure: Structure, thick: NDArray[np.bool_]) -> list[Notice]:
    """What is told of members that are as ``thick`` (M,) as they are long."""
    rows = np.flatnonzero(thick)
    if not rows.size:
        return []
    worst = int(rows[np.argmin(structure.lengths[rows])])
    section = structure.sections[structure.section_of[worst]]
    facts = {
        "members": rows.size,
        "label": names_of_structure(structure).members(np.array([worst]))[0],
        "length": structure.lengths[worst] * 1000,
        "section": section.name,
        "across": max(section.shape.width, section.shape.height) * 1000,
    }
    which, at = tuple(map(int, rows[:2000])), place_of(structure.middles[worst])
    return [Notice.coded("thicker than long", facts, of="member", which=which, at=at)]


def _overrunning(structure: Structure, own: Structure, thick: NDArray[np.bool_]) -> list[Notice]:
    """What is told of ``own`` members, the last of a structure, whose ends cannot be where they are
    to be; not of ``thick`` ones (M,), of which that is told."""
    left = own.mean_lengths > 0
    left &= ~thick[structure.count - len(left) :]
    apart = (Remedy("Hold members apart", {"meeting": "apart"}),)
    cut = _beyond_bends(structure, overrun(own)[left], left, "cuts overrun", apart)
    return cut + _beyond_bends(structure, held_past_bends(own)[left], left, "held past bends", ())


def _beyond_bends(
    structure: Structure,
    past: NDArray[np.float64],
    left: NDArray[np.bool_],
    code: str,
    remedies: tuple[Remedy, ...],
) -> list[Notice]:
    """What is told where ends lie past what they are to stay within.

    Parameters
    ----------
    past : (n, 2) how far ends lie past it, in metres, of those of the last members that are
    left : (m,) which of these have a length left
    code, remedies : of the notice
    """
    over = np.flatnonzero(past.max(axis=1) > OVER)
    # What was there before is told by its own clause.
    members = np.flatnonzero(left) + structure.count - len(left)
    over = over[members[over] >= structure.since[1]]
    if not over.size:
        return []
    row = int(over[np.argmax(past[over].max(axis=1))])
    end, worst = int(np.argmax(past[row])), int(members[row])
    x, y, z = structure.places[structure.ends[worst, end]].tolist()
    facts = {
        "members": over.size,
        "label": names_of_structure(structure).members(np.array([worst]))[0],
        "past": past[row, end] * 1000,
    }
    notice = Notice.coded(
        code,
        facts,
        of="member",
        which=tuple(map(int, members[over][:2000])),
        at=(x, y, z),
        value="meeting",
        remedies=remedies,
    )
    return [notice]


def _no_length_left(structure: Structure) -> list[Notice]:
    left = structure.mean_lengths
    gone = np.flatnonzero(left <= 0)
    # What was there before is told by its own clause.
    gone = gone[gone >= structure.since[1]]
    if not gone.size:
        return []
    worst = int(gone[np.argmin(left[gone])])
    at = structure.middles[worst]
    length, needed = structure.lengths[worst], float(structure.square_back[worst].sum())
    why = (
        f"would need {mm(needed * 1000, '.0f')}. A slimmer section or fewer bays would work"
        if needed < HOPELESS * length
        else "meets another at so small an angle that no set-back parts them; the net needs another edge there"
    )
    text = (
        f"{gone.size} member{'s have' if gone.size > 1 else ' has'} no length left between the set-backs; the worst is "
        f"{mm(length * 1000, '.0f')} long and {why}."
    )
    return [
        Notice(
            text,
            "member",
            tuple(map(int, gone[:200])),
            (float(at[0]), float(at[1]), float(at[2])),
            "inner",
        )
    ]
