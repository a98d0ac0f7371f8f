"""Node plates: plates with an arm for each member that ends at a node, cut flat and folded."""

from __future__ import annotations

from collections.abc import Callable
from dataclasses import dataclass
from functools import cached_property

import numpy as np
import shapely
from numpy.typing import NDArray

from ..geometry.arcs import CIRCLE
from ..geometry.meshes import half_edges
from ..geometry.triangulation import polygon_triangles
from ..results import result_type
from ..solids.solids import Solids
from ..structure.alike_arms import alike_arms
from ..structure.names import StructureNames, names_of_structure
from ..structure.plate_arms import ArmJoint, PlateArms, plate_arms
from ..structure.structure import Structure
from .folds import FLAT, Folds, by_piece, score_lines, told_turns
from .lettering import LABEL_HEIGHT, NEIGHBOUR_HEIGHT, Names
from .parts import CutResult, Part
from .templates import pose_in

__all__ = ["NodePlates", "node_plates"]

Array = NDArray[np.float64]
Index = NDArray[np.int32]
STEP = float(np.radians(10.0))
"""Most that an outline turns at once where it is round."""
SIDES = np.array([0.5, -0.5])
"""Left and right of an arm, in its widths."""
NAMED_AT = 7
"""Places along an arm where the name of its member may stand."""
BEFORE_FOLD = 0.6
"""Share of the way to its first fold where it stands otherwise."""
QUARTERS = 4
"""Sides of the field about a hole."""


@result_type("NodePlates", "node plates", "plate")
@dataclass(frozen=True, eq=False)
class NodePlates(CutResult):
    """Plates (k) at nodes of a ``structure``.

    Parameters
    ----------
    structure : what they hold together
    joint : how they are joined to members
    arms : of all plates
    off : (n,) metres by which arms are off the axes of their members; not 0 where plates are cut
        alike
    kind_of : (k,) from 1; plates of a kind are equal within the tolerance, or cut alike
    is_alike : whether all of a kind are cut alike
    parts : (k,) as they are cut, each named by its node
    folds : of the plates
    solids : (k) the plates as they are folded, without their roundings at folds
    unlabelled : (u,) those without room for all that is written on them
    """

    structure: Structure
    joint: ArmJoint
    arms: PlateArms
    off: Array
    kind_of: Index
    is_alike: bool
    parts: tuple[Part, ...]
    folds: Folds
    solids: Solids
    unlabelled: Index

    @property
    def hole_stations(self) -> Array:
        """How far (n, b) holes are along members' axes, in metres from their ends."""
        return np.asarray(self.arms.set_back[:, None] + self.joint.stations)

    @property
    def kinds(self) -> list[str]:
        """Names (k,) of the kinds of plates that are alike."""
        return [f"{self.structure.series}NP{n}" for n in self.kind_of.tolist()]

    @cached_property
    def masses(self) -> Array:
        """Mass (k,) in kg of what is cut."""
        return self.solids.masses


def node_plates(
    structure: Structure,
    joint: ArmJoint,
    material: str,
    tolerance: float,
    is_alike: bool = False,
    progress: Callable[[float], None] = lambda share: None,
) -> NodePlates:
    """Plates at all nodes that can have one.

    Parameters
    ----------
    structure : whose members are held back for plates
    joint : how these are joined to members
    material : what they are of
    tolerance : metres within which plates are of one kind
    is_alike : whether all of a kind are cut alike
    progress : told the share done
    """
    arms = plate_arms(structure, joint)
    off, kind = np.zeros(len(arms.plate)), None
    if is_alike:
        arms, kind, off = alike_arms(arms, tolerance)
    names = names_of_structure(structure)
    drawing = _Drawing(arms, joint, names)
    progress(0.1)
    parts, complete = drawing.parts(material, lambda share: progress(0.1 + 0.8 * share))
    solids = _solids(arms, drawing, material, tolerance, structure.series)
    return NodePlates(
        structure=structure,
        joint=joint,
        arms=arms,
        off=off,
        kind_of=solids.type_of if kind is None else kind,
        is_alike=is_alike,
        parts=tuple(parts),
        folds=drawing.folds,
        solids=solids,
        unlabelled=np.flatnonzero(~complete).astype(np.int32),
    )


class _Drawing:
    """What of all plates is drawn, in metres in the flat; parts in millimetres."""

    def __init__(self, arms: PlateArms, joint: ArmJoint, names: StructureNames) -> None:
        self.arms = arms
        self.joint = joint
        self.labels = [f"{label}-P" for label in names.nodes(arms.nodes)]
        self.members = names.members(arms.member)
        self.second = arms.first + arms.slope
        way = arms.way
        self.left = np.column_stack([-way[:, 1], way[:, 0]])
        self.holes = self._holes()
        self.folds = self._folds()

    def flat(self, along: Array, share: Array) -> Array:
        """Flat places (n, k, 2) of so far ``along`` (n, k) arms, by shares (n, k) of their widths
        beside their middles."""
        arms = self.arms
        beside = arms.aside[:, None] + share * arms.width[:, None]
        way, left = arms.way[:, None], self.left[:, None]
        return np.asarray(along[:, :, None] * way + beside[:, :, None] * left)

    def across(self, along: Array) -> Array:
        """The two ends (n, 2, 2) of lines across arms, left and right, so far ``along`` (n,)."""
        both = np.column_stack([along, along])
        return self.flat(both, np.broadcast_to(SIDES, both.shape))

    def _holes(self) -> Array:
        """How far (n, b) along arms the middles of their holes are."""
        begins = self.second + self.arms.set_back - self.arms.start
        return np.asarray(begins[:, None] + self.joint.stations)

    def _hole_rings(self) -> Array:
        """Outlines (n, b, 24, 2) of the holes of arms."""
        middles = self.flat(self.holes, np.zeros(self.holes.shape))
        return np.asarray(middles[:, :, None] + self.joint.hole / 2 * CIRCLE)

    def _folds(self) -> Folds:
        """What is folded, plate by plate: the line on whose left the arm goes on."""
        arms = self.arms
        ends = np.stack([self.across(arms.first), self.across(self.second)], axis=1)
        turns = told_turns(-np.column_stack([arms.slant, arms.elevation - arms.slant]))
        plate = np.repeat(arms.plate, 2)
        kept = np.abs(turns.ravel()) >= FLAT
        none = np.full(int(kept.sum()), -1, np.int32)
        return Folds(plate[kept], ends.reshape(-1, 2, 2)[kept], turns.ravel()[kept], none)

    @cached_property
    def middles(self) -> list[tuple[Array, NDArray[np.bool_]]]:
        """Of each plate what is not folded: corners (m, 2), and which of them lie on first folds,
        two of each arm, on the right and on the left."""
        arms = self.arms
        first = self.across(arms.first)
        after = arms.following
        out = []
        for a, b in zip(arms.offsets[:-1].tolist(), arms.offsets[1:].tolist(), strict=True):
            corners, on_fold = [], []
            for k in range(a, b):
                between = self._between(k, int(after[k]))
                corners += [first[k, ::-1], between]
                on_fold += [True] * 2 + [False] * len(between)
            out.append((np.vstack(corners), np.array(on_fold)))
        return out

    def _between(self, arm: int, other: int) -> Array:
        """Corners (m, 2) of the outline between an arm's first fold and that of the next."""
        arms = self.arms
        middle = arms.corner[arm]
        if np.isfinite(middle[0]):
            # Clockwise about the middle of the rounding, from one side to the other.
            start = np.arctan2(*-self.left[arm][::-1])
            turn = arms.angle[arm] - np.pi
            angle = start + np.linspace(0.0, turn, int(np.ceil(-turn / STEP)) + 1)
            radius = np.full(len(angle), arms.rounding[arm])
            return middle + radius[:, None] * np.column_stack([np.cos(angle), np.sin(angle)])
        turn = arms.angle[arm] - np.pi
        if turn <= 0:
            return np.zeros((0, 2))
        start = np.arctan2(*self.left[arm][::-1])
        share = np.linspace(0.0, 1.0, int(np.ceil(turn / STEP)) + 1)
        one = arms.width[arm] / 2 + arms.aside[arm]
        two = arms.width[other] / 2 - arms.aside[other]
        radius = one + share * (two - one)
        angle = start + share * turn
        return radius[:, None] * np.column_stack([np.cos(angle), np.sin(angle)])

    def parts(
        self, material: str, progress: Callable[[float], None]
    ) -> tuple[list[Part], NDArray[np.bool_]]:
        """All plates as parts, and whether each has all its names."""
        arms = self.arms
        second, ends = self.across(self.second) * 1000, self.across(arms.reach) * 1000
        holes = self._hole_rings() * 1000
        folds = self.folds
        lines = by_piece(*score_lines(folds.ends * 1000, folds.turns, folds.part), arms.count)
        out, complete = [], np.ones(arms.count, bool)
        for k, (corners, on_fold) in enumerate(self.middles):
            if k % 50 == 0:
                progress(k / arms.count)
            own = range(int(arms.offsets[k]), int(arms.offsets[k + 1]))
            outer = _with_arms(corners * 1000, on_fold, second[own], ends[own])
            inner = tuple(hole for j in own for hole in holes[j])
            names = self._names(k, outer, inner)
            complete[k] = names.complete
            part = Part(
                label=self.labels[k],
                kind="plate",
                outer=outer,
                inner=inner,
                pose=pose_in(arms.middles[k], arms.frames[k]),
                material=material,
                thickness=float(arms.thickness[k]) * 1000,
                marks=tuple(names.strokes),
                scores=tuple(lines[k]),
            )
            out.append(part)
        return out, complete

    def _names(self, k: int, outer: Array, inner: tuple[Array, ...]) -> Names:
        """A plate's own name in its middle, and along each arm that of its member."""
        arms = self.arms
        names = Names(shapely.Polygon(outer, inner))
        names.write(self.labels[k], LABEL_HEIGHT / 2, np.zeros((1, 2)))
        at, turns = self.beside_holes
        for j in range(int(arms.offsets[k]), int(arms.offsets[k + 1])):
            names.write(self.members[j], NEIGHBOUR_HEIGHT, at[j], turns[j])
        return names

    @cached_property
    def beside_holes(self) -> tuple[Array, list[float]]:
        """Places (n, 8, 2) in mm for the names of members, the middle ones of their arms first and
        before their first folds last, and how these are turned to be upright."""
        arms = self.arms
        straight = np.linspace(self.second, arms.reach, NAMED_AT + 2, axis=1)[:, 1:-1]
        from_middle = np.abs(np.arange(NAMED_AT) - NAMED_AT // 2)
        order = np.argsort(from_middle, kind="stable")
        along = np.column_stack([straight[:, order], arms.first * BEFORE_FOLD])
        places = self.flat(along, np.zeros(along.shape)) * 1000
        way = np.where(arms.way[:, :1] < 0, -arms.way, arms.way)
        return places, np.arctan2(way[:, 1], way[:, 0]).tolist()


def _with_arms(corners: Array, on_fold: NDArray[np.bool_], second: Array, ends: Array) -> Array:
    """The outline (m, 2) of a plate: its middle's ``corners``, and after the right one of each arm
    the corners of that arm at its ``second`` fold and at its ``ends`` (a, 2, 2; left and right)."""
    out, arm, is_right = [], 0, True
    begin = 0
    for at in np.flatnonzero(on_fold).tolist():
        if is_right:
            out += [corners[begin : at + 1], second[arm, 1:], ends[arm, ::-1], second[arm, :1]]
            arm, begin = arm + 1, at + 1
        is_right = not is_right
    return np.vstack([*out, corners[begin:]])


class _Skin:
    """The middle surface of plates in triangles, vertex by vertex with what they move by for the
    surface to move a metre towards its outside."""

    def __init__(self) -> None:
        self.places: list[Array] = []
        self.moves: list[Array] = []
        self.triangles: list[Index] = []
        self.owner: list[Index] = []
        self.count = 0

    def add(self, places: Array, moves: Array) -> int:
        """Adds vertices (n, 3); the number of the first."""
        first = self.count
        self.places.append(places)
        self.moves.append(moves)
        self.count += len(places)
        return first

    def fill(self, triangles: NDArray[np.integer], owner: NDArray[np.integer]) -> None:
        """Adds triangles (t, 3) of the plates (t,)."""
        self.triangles.append(triangles.astype(np.int32))
        self.owner.append(owner.astype(np.int32))

    def whole(self) -> tuple[Array, Array, Index, Index]:
        """Places and moves (n, 3) of all vertices, and all triangles (t, 3) with their plates."""
        places, moves = (np.vstack(rows) for rows in (self.places, self.moves))
        return places, moves, np.concatenate(self.triangles), np.concatenate(self.owner)


def _closed(middle: Index, owner: Index, count: int) -> tuple[Index, Index]:
    """Triangles (k, 3) of bodies about a middle surface of ``count`` vertices, whose other sides
    come behind these, and what they are of (k,)."""
    rim = np.flatnonzero(half_edges(middle, count)[0] < 0)
    a, b = middle.ravel()[rim], np.roll(middle, -1, axis=1).ravel()[rim]
    walls = np.concatenate([np.stack([a + count, b + count, b], 1), np.stack([a + count, b, a], 1)])
    every = np.concatenate([middle, middle[:, ::-1] + count, walls])
    return every.astype(np.int32), np.concatenate([owner, owner, np.tile(owner[rim // 3], 2)])


def _solids(
    arms: PlateArms, drawing: _Drawing, material: str, tolerance: float, series: str
) -> Solids:
    """Plates as closed bodies of their thickness, mitred at folds."""
    skin = _Skin()
    right, left = _add_middles(skin, arms, drawing)
    _add_arms(skin, arms, drawing, right, left)
    places, moves, middle, owner = skin.whole()
    half = np.zeros(len(places))
    half[middle] = arms.thickness[owner][:, None] / 2
    off = moves * half[:, None]
    triangles, owner = _closed(middle, owner, len(places))
    order = np.argsort(owner, kind="stable")
    offsets = np.searchsorted(owner[order], np.arange(arms.count + 1))
    return Solids(
        vertices=np.concatenate([places + off, places - off]),
        triangles=triangles[order],
        offsets=offsets.astype(np.int32),
        materials=(material,),
        material_of=np.zeros(arms.count, np.int32),
        series=series,
        tolerance=tolerance,
    )


def _add_middles(skin: _Skin, arms: PlateArms, drawing: _Drawing) -> tuple[Index, Index]:
    """Adds what is not folded; the numbers (n,), (n,) of the right and left ends of first folds."""
    if not arms.count:
        return np.zeros(0, np.int32), np.zeros(0, np.int32)
    flat = np.vstack([corners for corners, _ in drawing.middles])
    on_fold = np.concatenate([fold for _, fold in drawing.middles])
    counts = np.array([len(corners) for corners, _ in drawing.middles])
    offsets = np.concatenate([[0], np.cumsum(counts)]).astype(np.int32)
    plate = np.repeat(np.arange(arms.count), counts)
    local = np.column_stack([flat, np.zeros(len(flat))])
    moves = arms.frames[plate, 2].copy()
    at = np.flatnonzero(on_fold)
    moves[at] = np.repeat(_normals(arms, np.zeros(len(arms.plate)), arms.slant), 2, axis=0)
    skin.add(arms.placed(plate.astype(np.int32), local), moves)
    corners = np.arange(len(flat), dtype=np.int32)
    triangles, owner = polygon_triangles(flat, corners, offsets)
    skin.fill(triangles, owner)
    return at[::2].astype(np.int32), at[1::2].astype(np.int32)


def _normals(arms: PlateArms, before: Array, after: Array) -> Array:
    """What vertices (n, 3) of folds between two elevations (n,), (n,) of arms move by for both
    sides to move by a metre; for the same ones, the normal there."""
    mean, half = (before + after) / 2, (after - before) / 2
    local = np.column_stack([-np.sin(mean)[:, None] * arms.way, np.cos(mean)])
    turned = np.einsum("ni,nij->nj", local, arms.frames[arms.plate])
    return np.asarray(turned / np.cos(half)[:, None])


def _add_arms(skin: _Skin, arms: PlateArms, drawing: _Drawing, right: Index, left: Index) -> None:
    """Adds arms from their first folds on, whose ends are there already."""
    n, holes = len(arms.plate), drawing.holes
    every = np.arange(n)
    fold = _normals(arms, arms.slant, arms.elevation)
    plain = _normals(arms, arms.elevation, arms.elevation)
    bolts = holes.shape[1]
    # Fields about holes end half-way between these.
    steps = [drawing.second, *((holes[:, k] + holes[:, k + 1]) / 2 for k in range(bolts - 1))]
    steps.append(arms.reach)
    rows = []
    for k, along in enumerate(steps):
        local = np.column_stack([np.repeat(along, 2), _beside(arms, SIDES).ravel()])
        moves = np.repeat(fold if k == 0 else plain, 2, axis=0)
        first = skin.add(arms.folded(np.repeat(every, 2).astype(np.int32), local), moves)
        rows.append(first + 2 * every[:, None] + np.arange(2))
    _quads(skin, arms, np.column_stack([left, right]), rows[0])
    for k in range(max(bolts, 1)):
        if bolts:
            _field(skin, arms, rows[k], rows[k + 1], _ring(skin, arms, drawing, k, plain))
        else:
            _quads(skin, arms, rows[k], rows[k + 1])


def _beside(arms: PlateArms, share: Array) -> Array:
    """How far (n, k) from lines through the middles of plates places are beside the arms' own."""
    return np.asarray(arms.aside[:, None] + share * arms.width[:, None])


def _quads(skin: _Skin, arms: PlateArms, near: Index, far: NDArray[np.integer]) -> None:
    """Fills arms between two lines (n, 2; left and right) across them."""
    one = np.column_stack([near[:, 0], near[:, 1], far[:, 1]])
    two = np.column_stack([near[:, 0], far[:, 1], far[:, 0]])
    skin.fill(np.concatenate([one, two]), np.tile(arms.plate, 2))


def _ring(skin: _Skin, arms: PlateArms, drawing: _Drawing, k: int, moves: Array) -> Index:
    """Adds the rings about the k-th hole of all arms; numbers (n, 24), counter-clockwise from
    straight on."""
    n, sides = len(arms.plate), len(CIRCLE)
    circle = drawing.joint.hole / 2 * CIRCLE
    along = drawing.holes[:, k, None] + circle[:, 0]
    across = arms.aside[:, None] + circle[:, 1]
    local = np.column_stack([along.ravel(), across.ravel()])
    owner = np.repeat(np.arange(n), sides).astype(np.int32)
    first = skin.add(arms.folded(owner, local), np.repeat(moves, sides, axis=0))
    return (first + np.arange(n * sides).reshape(n, sides)).astype(np.int32)


def _field(
    skin: _Skin,
    arms: PlateArms,
    near: NDArray[np.integer],
    far: NDArray[np.integer],
    ring: Index,
) -> None:
    """Fills the field between two lines (n, 2; left and right) across arms, but for the ring
    (n, 24) of a hole in it."""
    # Counter-clockwise, each beside a quarter of the ring.
    corners = np.column_stack([far[:, 0], near[:, 0], near[:, 1], far[:, 1]])
    quarter = ring.shape[1] // QUARTERS
    for q in range(QUARTERS):
        at = corners[:, q]
        for step in range(quarter):
            a, b = ring[:, q * quarter + step], ring[:, (q * quarter + step + 1) % ring.shape[1]]
            skin.fill(np.column_stack([at, b, a]), arms.plate)
        last = ring[:, (q + 1) * quarter % ring.shape[1]]
        skin.fill(np.column_stack([at, corners[:, (q + 1) % QUARTERS], last]), arms.plate)
