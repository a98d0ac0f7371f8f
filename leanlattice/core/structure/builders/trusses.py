"""Trusses along lines: a chord that follows one, one or two more at a depth, webs between."""

from __future__ import annotations

from collections.abc import Callable, Sequence
from dataclasses import dataclass, replace

import numpy as np
from numpy.typing import NDArray

from ...geometry.arcs import unit
from ...geometry.lines import Line
from ...results import Result
from ...sections import Section
from ..arms import arms_of
from ..joined import joined
from ..joints import with_joints
from ..meetings import Meeting
from ..roles import role_number
from ..structure import Structure
from .along_lines import LINE_APART
from .assembled import assembled
from .heights import square_to

__all__ = ["SIDES", "WEBS", "NoSide", "TrussForm", "trusses"]

Array = NDArray[np.float64]
Index = NDArray[np.int32]
Pairs = list[tuple[int, int]]
FIRST, SECOND, WEB, POST = 0, 1, 2, 3
"""Groups of members: first chords, second chords, webs, posts and transoms."""
ROLES_OF_GROUPS = np.array([role_number(r) for r in ("chord", "chord", "web", "post")], np.int32)
SAME = 1e-6
"""Metres within which nodes of two trusses are one."""
FLAT = 1e-3
"""Of a unit direction, what has to lie square to the line for there to be a side of it."""


class NoSide(ValueError):
    """A line leads straight to the side its truss is to be on; ``at`` a place where it does."""

    def __init__(self, at: Array) -> None:
        super().__init__("There is no such side of the line.")
        self.at = at


@dataclass(frozen=True)
class TrussForm:
    """What trusses are like.

    Parameters
    ----------
    webs : an entry of ``WEBS``
    panels : how many along a line; 0 for one between each two of its places
    depth, middle : in metres, from the line to the second chords at its ends and half-way, where
        that is another
    side : an entry of ``SIDES``
    inclination : by which that side is turned about the line, in radians
    width : in metres, between two second chords; 0 for one
    laced : whether diagonals lie between two second chords, besides posts
    through : whether chords run through their nodes
    bent : whether chords are bent as the line is, not straight from node to node
    """

    webs: str = "warren"
    panels: int = 8
    depth: float = 1.0
    middle: float | None = None
    side: str = "below"
    inclination: float = 0.0
    width: float = 0.0
    laced: bool = False
    through: bool = True
    bent: bool = False


@dataclass(frozen=True, eq=False)
class _Truss(Result):
    """One truss: nodes, runs of them that chords follow, and pairs that webs join.

    ``places``, ``normals`` (n, 3); ``run`` (n,) how far along the line they are; ``aside`` (n, 3)
    unit directions square to the line and the depth; ``chords`` of nodes, one after the other,
    with the bulges (k − 1, 3) between them, ``webs`` and ``posts`` pairs of them.
    """

    places: Array
    normals: Array
    run: Array
    aside: Array
    chords: tuple[tuple[int, NDArray[np.int64], Array], ...]
    webs: Index
    posts: Index


def _warren(panels: int, closed: bool) -> tuple[Pairs, Pairs]:
    pairs = [(i + k, i) for i in range(panels) for k in (0, 1)]
    return pairs, []


def _uprights(panels: int, closed: bool) -> Pairs:
    return [(i, i) for i in range(panels if closed else panels + 1)]


def _falling(panels: int) -> Pairs:
    """Diagonals that fall from the first chord towards the middle."""
    half = panels / 2
    return [(i, i + 1) if i < half else (i + 1, i) for i in range(panels)]


def _pratt(panels: int, closed: bool) -> tuple[Pairs, Pairs]:
    return _falling(panels), _uprights(panels, closed)


def _howe(panels: int, closed: bool) -> tuple[Pairs, Pairs]:
    return [(b, a) for a, b in _falling(panels)], _uprights(panels, closed)


def _crossed(panels: int, closed: bool) -> tuple[Pairs, Pairs]:
    both = [pair for i in range(panels) for pair in ((i, i + 1), (i + 1, i))]
    return both, _uprights(panels, closed)


def _vierendeel(panels: int, closed: bool) -> tuple[Pairs, Pairs]:
    return [], _uprights(panels, closed)


WEBS: dict[str, Callable[[int, bool], tuple[Pairs, Pairs]]] = {
    "warren": _warren,
    "pratt": _pratt,
    "howe": _howe,
    "crossed": _crossed,
    "vierendeel": _vierendeel,
}
"""Pairs of a node of the first chord and one of the second, for so many panels: webs, and posts.
A Warren truss has nodes of the second chord half-way between those of the first, others beside
them."""

SIDES: dict[str, Callable[[Array], Array]] = {
    "below": lambda normals: np.tile([0.0, 0.0, -1.0], (len(normals), 1)),
    "above": lambda normals: np.tile([0.0, 0.0, 1.0], (len(normals), 1)),
    "inside": lambda normals: -normals,
    "outside": lambda normals: normals,
}
"""Unit directions (n, 3) from a line to its second chords, by its normals (n, 3)."""


def trusses(
    lines: Sequence[Line],
    form: TrussForm,
    sections: tuple[Section, Section, Section],
    meeting: Meeting,
    source: str = "",
    vertices: Sequence[NDArray[np.int64]] = (),
) -> Structure:
    """Trusses along lines, which share the nodes and members that lie on each other.

    Raises ``NoSide`` where a line leads straight to the side its truss is to be on.

    Parameters
    ----------
    lines : that the first chords follow, straight from node to node
    form : what the trusses are like
    sections : of first chords, second chords, and webs and posts
    meeting : how members meet
    source, vertices : key of a net, and its vertices that the places of each line are, where
        they are such and panels are from place to place
    """
    made = [_truss(line, form) for line in lines]
    first = np.concatenate([[0], np.cumsum([len(truss.places) for truss in made])])
    structure = _assembled(made, first, form.through, sections)
    structure = _standing_on(structure, source, vertices, made, first)
    # Where trusses cross, one post stands for both.
    structure = joined(structure, SAME).structure
    return with_joints(structure, arms_of(structure, joined=True), meeting)


def _assembled(
    made: list[_Truss],
    first: NDArray[np.int64],
    through: bool,
    sections: tuple[Section, Section, Section],
) -> Structure:
    """Trusses one behind the other; the nodes of each begin at the ``first`` of it (T + 1,)."""
    members = [
        (kind, nodes + start, bulge)
        for truss, start in zip(made, first[:-1].tolist(), strict=True)
        for kind, nodes, bulge in _members(truss, through)
    ]
    kinds, runs, bulges = zip(*members, strict=True)
    path = np.concatenate(runs).astype(np.int32)
    offsets = np.concatenate([[0], np.cumsum([len(run) for run in runs])]).astype(np.int32)
    groups = np.array(kinds, np.int32)
    places = np.vstack([truss.places for truss in made])
    along = np.repeat(LINE_APART * np.arange(len(made)), np.diff(first))
    station = np.column_stack([along, np.concatenate([truss.run for truss in made])])
    return assembled(
        places=places,
        normals=np.vstack([truss.normals for truss in made]),
        path=path,
        offsets=offsets,
        up=_heights(places, np.vstack([truss.aside for truss in made]), path, offsets),
        wanted=sections,
        which=np.minimum(groups, WEB),
        role=ROLES_OF_GROUPS[groups],
        station=station,
        member_station=np.add.reduceat(station[path], offsets[:-1]) / np.diff(offsets)[:, None],
        group=groups,
        bulge=np.vstack(bulges),
    )


def _truss(line: Line, form: TrussForm) -> _Truss:
    at_first, at_second = _stations(line, form)
    outward, first_aside = _directions(line, at_first, form)
    across, aside = _directions(line, at_second, form)
    spread = [-form.width / 2, form.width / 2] if form.width else [0.0]
    second = [_beside(line, at_second, form, s) for s in spread]
    rows = _rows([len(at_first), *[len(at_second)] * len(spread)])
    webs, posts = WEBS[form.webs](form.panels or len(line.run) - 1, line.closed)
    transoms = np.column_stack(rows[1:]) if len(spread) > 1 else np.zeros((0, 2))
    lacing = _lacing(rows, line.closed) if form.laced and len(spread) > 1 else []
    return _Truss(
        places=np.vstack([line.at(at_first), *second]),
        normals=np.vstack([-outward, *[across] * len(spread)]),
        run=np.concatenate([at_first, *[at_second] * len(spread)]),
        aside=np.vstack([first_aside, *[aside] * len(spread)]),
        chords=_chords(rows, line, form, at_second, spread),
        webs=np.vstack([_joining(webs, rows), *lacing]).astype(np.int32),
        posts=np.vstack([_joining(posts, rows), transoms]).astype(np.int32),
    )


def _beside(line: Line, run: Array, form: TrussForm, aside: float) -> Array:
    """Places (n, 3) of a second chord beside those so many metres along the line (n,)."""
    across, sideways = _directions(line, run, form)
    at = line.at(run)
    if form.webs == "warren" and not form.bent:
        stops = line.at(_stops(line, form))
        at = (stops[:-1] + stops[1:]) / 2
    return np.asarray(at + _depths(line, run, form)[:, None] * across + aside * sideways)


def _lacing(rows: list[NDArray[np.int64]], closed: bool) -> list[NDArray[np.int64]]:
    """Diagonals (k, 2) between two second chords, one way and the other in turns."""
    one, other = rows[1:]
    count = len(one) if closed else len(one) - 1
    here, on = np.arange(count), (np.arange(count) + 1) % len(one)
    is_even = here % 2 == 0
    start = np.where(is_even, one[here], other[here])
    end = np.where(is_even, other[on], one[on])
    return [np.column_stack([start, end])]


def _rows(counts: list[int]) -> list[NDArray[np.int64]]:
    """Numbers of things that come in rows of so many, one row behind the other."""
    return [
        np.arange(last - count, last) for count, last in zip(counts, np.cumsum(counts), strict=True)
    ]


def _stops(line: Line, form: TrussForm) -> Array:
    """How far along the line panels begin and end."""
    return np.linspace(0.0, line.length, form.panels + 1) if form.panels else line.run


def _stations(line: Line, form: TrussForm) -> tuple[Array, Array]:
    """How far along the line the nodes of the first chord (n,) and of second chords (m,) are."""
    stops = _stops(line, form)
    ends = stops[:-1] if line.closed else stops
    return ends, ends if form.webs != "warren" else (stops[:-1] + stops[1:]) / 2


def _depths(line: Line, run: Array, form: TrussForm) -> Array:
    """Depths (n,) so many metres along a line (n,): even, or a parabola from end to end."""
    if line.closed or form.middle is None:
        return np.full(len(run), form.depth)
    share = run / line.length
    return form.depth + (1 - (2 * share - 1) ** 2) * (form.middle - form.depth)


def _chords(
    rows: list[NDArray[np.int64]],
    line: Line,
    form: TrussForm,
    at_second: Array,
    spread: list[float],
) -> tuple[tuple[int, NDArray[np.int64], Array], ...]:
    """Group, nodes and bulges of each chord, of the nodes along it; what is closed comes back.

    Parameters
    ----------
    rows : nodes of the first chord and of second ones
    line, form : of the truss
    at_second : (n,) how far along the line nodes of second chords are
    spread : how far aside each of these is, in metres
    """
    out = []
    for k, row in enumerate(rows):
        run = at_second if k else _stations(line, form)[0]
        if len(row) < 2:
            continue
        if line.closed:
            row, run = np.append(row, row[0]), np.append(run, run[0] + line.length)

        def at(run: Array, aside: float | None = spread[k - 1] if k else None) -> Array:
            run = np.where(run > line.length, run - line.length, run) if line.closed else run
            return line.at(run) if aside is None else _beside(line, run, form, aside)

        bulge = np.zeros((len(row) - 1, 3))
        if form.bent:
            bulge = _bulges(at(run[:-1]), at((run[:-1] + run[1:]) / 2), at(run[1:]))
        out.append((SECOND if k else FIRST, row, bulge))
    return tuple(out)


def _bulges(start: Array, middle: Array, end: Array) -> Array:
    """Bulges (n, 3) of arcs that pass through the middle between their ends nearest to places
    (n, 3)."""
    chord = unit(end - start)
    rise = middle - (start + end) / 2
    return np.asarray(rise - np.einsum("ij,ij->i", rise, chord)[:, None] * chord)


def _standing_on(
    structure: Structure,
    source: str,
    vertices: Sequence[NDArray[np.int64]],
    made: list[_Truss],
    first: NDArray[np.int64],
) -> Structure:
    """The structure with the nodes of its first chords standing on vertices of a net.

    Parameters
    ----------
    structure : of all trusses
    source, vertices : of the net, for each truss
    made, first : the trusses, and the node (T + 1,) each begins with
    """
    if not vertices:
        return structure
    origin = structure.origin.copy()
    for truss, start, run in zip(made, first[:-1].tolist(), vertices, strict=True):
        nodes = np.unique(truss.chords[0][1])
        origin[start + nodes] = np.column_stack([np.zeros(len(nodes), int), run[: len(nodes)]])
    return replace(structure, origin=origin, sources=(source,))


def _joining(pairs: Pairs, rows: list[NDArray[np.int64]]) -> Index:
    """Nodes (k, 2) of pairs that count along the first chord and along each of the others."""
    if not pairs:
        return np.zeros((0, 2), np.int32)
    a, b = np.array(pairs).T
    first = rows[0]
    every = [np.column_stack([first[a % len(first)], row[b % len(row)]]) for row in rows[1:]]
    return np.vstack(every).astype(np.int32)


def _directions(line: Line, run: Array, form: TrussForm) -> tuple[Array, Array]:
    """Unit directions (n, 3) in which the depth of a truss is, so many metres along its line
    (n,), and those square to them and to the line."""
    ways = line.directions_at(run)
    wanted = SIDES[form.side](line.normals_at(run))
    aside = np.cross(ways, wanted)
    size = np.linalg.norm(aside, axis=1)
    if (size < FLAT).any():
        raise NoSide(line.at(run[size < FLAT][:1])[0])
    aside /= size[:, None]
    if not form.inclination:
        return wanted, aside
    turned = np.cos(form.inclination) * wanted + np.sin(form.inclination) * aside
    return turned, unit(np.cross(ways, turned))


def _members(truss: _Truss, through: bool) -> list[tuple[int, NDArray[np.int64], Array]]:
    """Group, nodes and bulges of each member of a truss."""
    out: list[tuple[int, NDArray[np.int64], Array]] = []
    for kind, nodes, bulge in truss.chords:
        if through:
            out.append((kind, nodes, bulge))
            continue
        ends = np.column_stack([nodes[:-1], nodes[1:]])
        out += [(kind, pair, rise[None]) for pair, rise in zip(ends, bulge, strict=True)]
    for kind, pairs in ((WEB, truss.webs), (POST, truss.posts)):
        out += [(kind, pair.astype(np.int64), np.zeros((1, 3))) for pair in pairs]
    return out


def _heights(places: Array, aside: Array, path: Index, offsets: Index) -> Array:
    """Heights (S, 3) of members' sections: in the plane of their truss, square to their axes."""
    inner = np.ones(len(path), bool)
    inner[offsets[1:] - 1] = False
    start = np.flatnonzero(inner)
    chord = places[path[start + 1]] - places[path[start]]
    axis = chord / np.maximum(np.linalg.norm(chord, axis=1, keepdims=True), 1e-300)
    out_of_plane = aside[path[start]] + aside[path[start + 1]]
    in_plane = np.cross(axis, out_of_plane)
    upward = np.where(in_plane[:, 2:] < 0, -in_plane, in_plane)
    return square_to(axis, upward, np.array([[0.0, 0.0, 1.0]]), np.array([[1.0, 0.0, 0.0]]))
