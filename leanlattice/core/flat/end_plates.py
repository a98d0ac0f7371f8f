"""Plates on which ends of members stand at feet, or by which two of them are bolted."""

from __future__ import annotations

from collections.abc import Callable, Iterator
from dataclasses import dataclass, replace
from functools import cached_property
from itertools import combinations, pairwise
from typing import Any, NamedTuple

import numpy as np
import shapely
from numpy.typing import NDArray

from ..geometry.arcs import CIRCLE, unit
from ..geometry.prisms import pierced_prism
from ..panels.edges import APART, BESIDE
from ..results import result_type
from ..sections.shapes import circle
from ..solids.solids import Solids
from ..structure.faults import Fault
from ..structure.names import StructureNames, names_of_structure
from ..structure.plated import PlatedEnds, blame_moved, plated_ends
from ..structure.structure import Structure
from .lettering import LABEL_HEIGHT, NEIGHBOUR_HEIGHT, Names
from .parts import CutResult, Part
from .templates import pose_in

__all__ = ["Boring", "EndPlates", "end_plates", "least_beyond"]

Array = NDArray[np.float64]
Index = NDArray[np.int32]
ROUND = 96
"""Sides of round sections and plates as they are drawn."""
DUST = 1e-10
"""Cubic metres that bodies may share by rounding."""
ALIKE = 1 + 1e-6
"""Times the smallest area of rectangles up to which one counts as small."""
ALONG = 1e-6
"""Length below which a direction lies square to a plate."""


class Boring(NamedTuple):
    """How plates are outlined and bored.

    Parameters
    ----------
    is_round : whether they are round, rather than rectangles
    beyond : metres that they reach beyond what stands on them
    bolts : holes in the middle of what reaches beyond; in rectangles one in each corner and the
        others along the two longer sides
    hole : their diameter, in metres
    """

    is_round: bool
    beyond: float
    bolts: int
    hole: float


def least_beyond(hole: float) -> float:
    """Metres that plates reach beyond members at least, for holes of a diameter in metres."""
    return 2 * BESIDE * hole


@result_type("EndPlates", "end plates", "end plate")
@dataclass(frozen=True, eq=False)
class EndPlates(CutResult):
    """Plates (k) that ends of a ``structure`` stand on.

    Parameters
    ----------
    structure : whose members are cut for them
    boring : how they are outlined and bored
    ends : (n) that stand on plates
    plate : (n,) the plate each stands on
    parts : (k,) as they are cut, seen from their members
    solids : (k) the plates
    unlabelled : (u,) those without room for all that is written on them
    """

    structure: Structure
    boring: Boring
    ends: PlatedEnds
    plate: Index
    parts: tuple[Part, ...]
    solids: Solids
    unlabelled: Index

    @cached_property
    def first(self) -> Index:
        """The first end (k,) on each."""
        return np.searchsorted(self.plate, np.arange(len(self.parts))).astype(np.int32)

    @cached_property
    def nodes(self) -> Index:
        """The node (k,) each is at."""
        return self.ends.node[self.first]

    @cached_property
    def sizes(self) -> Array:
        """How long and wide (k, 2) they are along their drawings, in mm."""
        return np.array([np.ptp(part.outer, axis=0) for part in self.parts]).reshape(-1, 2)

    @property
    def kinds(self) -> list[str]:
        """Names (k,) of the kinds of plates that are alike."""
        return [f"{self.structure.series}EP{n}" for n in self.solids.type_of.tolist()]

    @property
    def masses(self) -> Array:
        """Masses (k,) in kg."""
        return self.solids.masses

    @cached_property
    def overlapping(self) -> Index:
        """Plates (m,) that run into others."""
        solids = self.solids
        low = np.array([body.mesh.vertices.min(axis=0) for body in solids.bodies]).reshape(-1, 3)
        high = np.array([body.mesh.vertices.max(axis=0) for body in solids.bodies]).reshape(-1, 3)
        boxes: Any = shapely.box(low[:, 0], low[:, 1], high[:, 0], high[:, 1])
        one, other = shapely.STRtree(boxes).query(boxes, predicate="intersects")
        near = (one < other) & (low[one, 2] < high[other, 2]) & (low[other, 2] < high[one, 2])
        pairs = np.column_stack([one, other])[near]
        bodies = {k: _solid(solids, k) for k in np.unique(pairs).tolist()}
        shared = [(bodies[a] ^ bodies[b]).volume() for a, b in pairs.tolist()]
        return np.unique(pairs[np.array(shared) > DUST]).astype(np.int32)


def _solid(solids: Solids, k: int) -> Any:
    """One body as what knows what it shares with others."""
    import manifold3d

    mesh = solids.body(k).mesh
    return manifold3d.Manifold(
        manifold3d.Mesh64(np.asarray(mesh.vertices, float), np.asarray(mesh.triangles, np.uint64))
    )


def end_plates(
    structure: Structure,
    boring: Boring,
    material: str,
    tolerance: float,
    progress: Callable[[float], None] = lambda share: None,
) -> EndPlates:
    """Plates at all nodes that can have them.

    Parameters
    ----------
    structure : whose members are cut for plates
    boring : how these are outlined and bored
    material : what they are of
    tolerance : metres within which plates are of one kind
    progress : told the share done
    """
    every = plated_ends(structure)
    outlined = _outlined(structure, every, boring)
    kept = every.fault[every.node] == 0
    ends = every.some(kept)
    drawn = [one for one, is_kept in zip(outlined, kept.tolist(), strict=True) if is_kept]
    plate = (np.cumsum(_leads(ends)) - 1).astype(np.int32)
    parts: list[Part] = []
    complete: list[bool] = []
    for part, is_complete in _drawn(structure, ends, drawn, boring, material):
        progress(len(parts) / len(plate))
        parts.append(part)
        complete.append(is_complete)
    bodies = [_body(part) for part in parts]
    return EndPlates(
        structure=structure,
        boring=boring,
        ends=ends,
        plate=plate,
        parts=tuple(parts),
        solids=_together(bodies, material, tolerance, structure.series),
        unlabelled=np.flatnonzero(~np.array(complete, bool)).astype(np.int32),
    )


def _drawn(
    structure: Structure,
    ends: PlatedEnds,
    outlined: list[_Outlined],
    boring: Boring,
    material: str,
) -> Iterator[tuple[Part, bool]]:
    """Plate after plate as parts, and whether each has all its names.

    Parameters
    ----------
    structure, ends : whose ends (n) stand on them
    outlined : (n) how the plate of each end is outlined
    boring, material : as of all plates
    """
    names = names_of_structure(structure)
    starts = np.flatnonzero(_leads(ends)).tolist()
    for first, last in pairwise([*starts, len(outlined)]):
        thickness = structure.rules[structure.rule[ends.node[first]]].thickness
        label = _label(ends, first, names)
        plain = _plain(outlined[first], boring, label, (material, thickness))
        stands = [one.stands for one in outlined[first:last]]
        yield _written(plain, stands, names.members(ends.member[first:last]))


def _body(part: Part) -> tuple[Array, Index]:
    """A plate as a closed body: vertices (v, 3) in metres and triangles (t, 3)."""
    rings = [part.outer / 1000, *(ring[::-1] / 1000 for ring in part.inner)]
    frame = part.pose[:3] * [1000, 1000, 1000, 1]
    return pierced_prism(rings, frame, part.thickness / 1000)


def _leads(ends: PlatedEnds) -> NDArray[np.bool_]:
    """Which ends (n,) are the first on their plates: all at a foot share one."""
    shared = np.zeros(len(ends.node), bool)
    shared[1:] = (ends.node[1:] == ends.node[:-1]) & ~ends.is_pair[1:]
    return ~shared


def _label(ends: PlatedEnds, first: int, names: StructureNames) -> str:
    """The name of the plate of its ``first`` end."""
    (node,) = names.nodes(ends.node[first : first + 1])
    if not ends.is_pair[first]:
        return f"{node}-E"
    return f"{node}-E{1 if ends.partner[first] > first else 2}"


class _Outlined(NamedTuple):
    """Of an end the ``frame`` (3, 3; rows) of its plate and the ``middle`` (3,) of the face that it
    stands on; half the sizes (2,) of the plate, the middles (b, 2) of its holes, and the outlines
    (c, 2) of what ``stands`` on it, about that middle. All in metres."""

    frame: Array
    middle: Array
    half: Array
    bolts: Array
    stands: list[Array]

    def rings(self, boring: Boring) -> tuple[Array, tuple[Array, ...]]:
        """The outline (c, 2) of the plate and those of its holes."""
        corners = np.array([[-1.0, -1.0], [1.0, -1.0], [1.0, 1.0], [-1.0, 1.0]])
        outer = circle(ROUND) if boring.is_round else corners
        hole = boring.hole / 2 * CIRCLE
        return self.half * outer, tuple(at + hole for at in self.bolts)


def _outlined(structure: Structure, ends: PlatedEnds, boring: Boring) -> list[_Outlined]:
    """How the plate of each end (n) is outlined; notes nodes whose plates have no room for their
    bolts, and those that moved."""
    blame_moved(structure, ends)
    outlines = [_outline_on_plate(structure, ends, k) for k in range(len(ends.node))]
    out = []
    firsts = np.searchsorted(ends.node, ends.node)
    for k, lead in enumerate(firsts.tolist()):
        together = outlines[lead : lead + int(ends.several[k])]
        every = [ring for own in together for ring in own]
        x = _first_way(structure, ends, lead, np.vstack(every))
        frame = np.stack([x, np.cross(-ends.normal[k], x), -ends.normal[k]])
        one = _of_outlines(every, outlines[k], frame, boring)
        if _crowded(one.bolts, boring.hole) and ends.fault[ends.node[k]] == 0:
            ends.fault[ends.node[k]] = Fault.NARROW
        out.append(one)
    return out


def _of_outlines(every: list[Array], own: list[Array], frame: Array, boring: Boring) -> _Outlined:
    """A plate about ``every`` outline (c, 3), with its ``own`` ones drawn on it.

    Parameters
    ----------
    every, own : in metres, on the face that members stand on
    frame : (3, 3; rows) of the plate
    boring : how it is outlined and bored
    """
    flat = np.vstack(every) @ frame[:2].T
    low, high = flat.min(axis=0), flat.max(axis=0)
    middle = (low + high) / 2
    half = (high - low) / 2 + boring.beyond
    if boring.is_round:
        reach = float(np.linalg.norm(flat - middle, axis=1).max())
        half = np.full(2, reach + boring.beyond)
    at = own[0][0]
    centre = at + (middle - frame[:2] @ at) @ frame[:2]
    stands = [ring @ frame[:2].T - middle for ring in own]
    return _Outlined(frame, centre, half, _bolts(half, boring), stands)


def _bolts(half: Array, boring: Boring) -> Array:
    """Middles (b, 2) of holes in a plate of ``half`` sizes (2,), in metres."""
    inset = half - boring.beyond / 2
    if boring.is_round:
        turn = 2 * np.pi * (np.arange(boring.bolts) + 0.5) / boring.bolts
        return inset[0] * np.column_stack([np.cos(turn), np.sin(turn)])
    share = np.linspace(-1.0, 1.0, boring.bolts // 2)
    long = int(half[1] > half[0] + ALONG)
    sides = []
    for side in (-1.0, 1.0):
        at = np.full((len(share), 2), side)
        at[:, long] = share
        sides.append(at * inset)
    return np.vstack(sides)


def _crowded(bolts: Array, hole: float) -> bool:
    """Whether holes are nearer to each other than they may be."""
    apart = np.linalg.norm(bolts[:, None] - bolts, axis=2) + np.diag(np.full(len(bolts), np.inf))
    return bool(apart.min() < APART * hole)


def _first_way(structure: Structure, ends: PlatedEnds, k: int, stands: Array) -> Array:
    """The unit direction (3,) along the drawing of a plate whose first end is ``k``: two of the
    members that share it lean apart along it, those for which a rectangle about all that
    ``stands`` (c, 3) on it is the smallest; else the width of the first, or its height, lies along
    it."""
    normal, count = ends.normal[k], int(ends.several[k])
    up = structure.end_frames[1][ends.member[k], ends.end[k]]
    wanted = [np.cross(up, ends.away[k]), up]
    if not ends.is_pair[k]:
        twos = combinations(ends.away[k : k + count], 2)
        wanted = [*(one - other for one, other in twos), *wanted]
    flat = [way - (way @ normal) * normal for way in wanted]
    ways = unit(np.array([way for way in flat if np.linalg.norm(way) > ALONG]))
    if count < 3:
        return np.asarray(ways[0])
    sizes = [np.ptp(stands @ np.stack([x, np.cross(normal, x)]).T, axis=0) for x in ways]
    areas = np.prod(sizes, axis=1)
    return np.asarray(ways[np.argmax(areas < areas.min() * ALIKE)])


def _outline_on_plate(structure: Structure, ends: PlatedEnds, k: int) -> list[Array]:
    """Outlines (c, 3) in metres of an end's section on the face that it stands on: along its axis
    from how it is square to that."""
    member, end = int(ends.member[k]), int(ends.end[k])
    entry = structure.offsets[member + 1] - 1 if end else structure.offsets[member]
    up = structure.end_frames[1][member, end]
    # Seen from the last end, widths run the other way.
    side = np.cross(up, ends.away[k]) * (-1 if end else 1)
    shape = structure.sections[structure.section_of[member]].shape
    at = structure.places[ends.node[k]] + ends.off[k]
    out = []
    for outer, _ in shape.pieces(ROUND):
        square = structure.scale[entry] * outer @ np.stack([side, up])
        beyond = ends.level[k] - square @ ends.normal[k]
        along = beyond / (ends.normal[k] @ ends.away[k])
        out.append(at + square + along[:, None] * ends.away[k])
    return out


def _plain(one: _Outlined, boring: Boring, label: str, sheet: tuple[str, float]) -> Part:
    """A plate as a part with nothing on it, of a material and thickness in metres."""
    outer, holes = one.rings(boring)
    material, thickness = sheet
    return Part(
        label=label,
        kind="end plate",
        outer=1000 * outer,
        inner=tuple(1000 * hole for hole in holes),
        pose=pose_in(one.middle - thickness * one.frame[2], one.frame),
        material=material,
        thickness=thickness * 1000,
    )


def _written(part: Part, stands: list[list[Array]], members: list[str]) -> tuple[Part, bool]:
    """A plate with the outlines of what ``stands`` on it, in metres, and the names of these
    ``members``; and whether it has all its names."""
    names = Names(part.shape)
    rings = [1000 * np.vstack([ring, ring[:1]]) for own in stands for ring in own]
    middles = [np.vstack(own).mean(axis=0) * 1000 for own in stands]
    step = np.array([0.0, float(np.ptp(part.outer[:, 1])) / 16])
    names.write(part.label, LABEL_HEIGHT / 2, np.stack([middles[0] + k * step for k in (2, 1, 4)]))
    for name, middle in zip(members, middles, strict=True):
        names.write(name, NEIGHBOUR_HEIGHT, np.stack([middle - k * step for k in (2, 1, 4)]))
    return replace(part, marks=(*names.strokes, *rings)), names.complete


def _together(
    bodies: list[tuple[Array, Index]], material: str, tolerance: float, series: str
) -> Solids:
    """Closed bodies of one material."""
    before = np.cumsum([0, *(len(vertices) for vertices, _ in bodies)])
    faces = [triangles + k for (_, triangles), k in zip(bodies, before, strict=False)]
    return Solids(
        vertices=np.vstack([np.zeros((0, 3)), *(vertices for vertices, _ in bodies)]),
        triangles=np.vstack([np.zeros((0, 3), np.int32), *faces]).astype(np.int32),
        offsets=np.cumsum([0, *(len(triangles) for _, triangles in bodies)]).astype(np.int32),
        materials=(material,),
        material_of=np.zeros(len(bodies), np.int32),
        series=series,
        tolerance=tolerance,
    )
