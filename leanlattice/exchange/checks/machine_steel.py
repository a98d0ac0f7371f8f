"""Steel pieces of machine files, wrapped about their members again, against cuts and arms of
plates."""

from __future__ import annotations

from typing import NamedTuple

import numpy as np
import shapely
from numpy.typing import NDArray

from ...core.sections import find
from .machine import rows_by_piece
from .machine_arms import ENDS, Arm, arms_of
from .machine_files import Steel, steel_files
from .pack_cuts import cuts_of
from .pack_files import Found, Pack, Row, beyond, number_in
from .pack_members import Members, members_of
from .pack_saddles import lines_met

__all__ = ["steel_as_cut"]

Array = NDArray[np.float64]
ROUND_MM, NEAR_MM = 0.008, 0.02
"""What two decimals leave, and within which a place is on a line."""
CORNER_MM = 0.05
"""Within which slots have their corners."""
SHARE = 2e-4
"""Of a face's area, that an outline of straight lines may be off it."""
SCANS, STEPS = 4, 721
"""How often the turn of a slot is looked for more closely, and in how many steps."""
FINE = 2001
"""Places along a face by which its area is worked out."""


class _Face(NamedTuple):
    """Where a face begins on the section, the direction in which it goes on, and how far, in mm;
    the ``radius`` of a skin."""

    start: Array
    way: Array
    width: float
    radius: float = 0.0

    def on(self, along: Array) -> Array:
        """Places (n, 2) by width and height so far ``along`` (n,) it."""
        if not self.radius:
            return np.asarray(self.start + along[:, None] * self.way)
        # From the underside on towards the negative width.
        turn = -np.pi / 2 - along / self.radius
        return self.radius * np.column_stack([np.cos(turn), np.sin(turn)])


def _faces(name: str) -> dict[str, _Face]:
    """The faces of a section by letter: as it is seen from the outside, up from the lower left."""
    shape = find(name).shape
    h, w = shape.height * 1000, shape.width * 1000
    if shape.round:
        return {"v": _Face(np.zeros(2), np.zeros(2), np.pi * h, h / 2)}
    web = getattr(shape, "web", 0.0) * 1000
    side = -web / 2 if shape.family in ("I", "IPE", "HEA", "HEB", "T") else -w / 2
    every = {
        "v": _Face(np.array([side, -h / 2]), np.array([0.0, 1.0]), h),
        "o": _Face(np.array([-w / 2, h / 2]), np.array([1.0, 0.0]), w),
        "u": _Face(np.array([w / 2, -h / 2]), np.array([-1.0, 0.0]), w),
        "h": _Face(np.array([w / 2, h / 2]), np.array([0.0, -1.0]), h),
    }
    letters = {"L": "vu", "T": "vo", "Flat": "v", "SHS": "vouh", "RHS": "vouh", "Box": "vouh"}
    return {letter: every[letter] for letter in letters.get(shape.family, "vou")}


class _Tube(NamedTuple):
    """A member that a piece is of, with the arms that enter its two ends."""

    pack: Pack
    m: Members
    k: int
    length: float
    arms: tuple[Arm | None, Arm | None]

    def edge(self, end: int, places: Array) -> Array:
        """Where on the piece's x (n,) in mm its cuts end the lines through ``places`` (n, 2)."""
        cuts = cuts_of(self.pack).get((self.k, end))
        if cuts is None:
            return np.full(len(places), self.length * end)
        piece = int(self.m.first[self.k] + (self.m.count[self.k] - 1 if end else 0))
        width, up, way = self.m.frame(piece, end)
        into = -way if end else way
        met = lines_met(cuts.cuts, into, places @ np.stack([width, up]) / 1000).max(axis=0)
        back = number_in(self.m.rows[self.k], f"{ENDS[end]}_setback_mm", "members")
        if end:
            return np.asarray(self.length + back - 1000 * met)
        return np.asarray(1000 * met - back)


def steel_as_cut(pack: Pack) -> Found:
    """How far (mm) the outlines of steel pieces are off the cuts of their members and off the arms
    that enter them, and their holes off where bolts are."""
    m, files = members_of(pack), steel_files(pack)
    if m is None or not files:
        return
    row_of = {row["label"]: k for k, row in enumerate(m.rows)}
    wanted = rows_by_piece(pack)
    for name, piece in files.items():
        rows = wanted.get((name, piece.label))
        if not rows or piece.members[0] not in row_of:
            continue
        k = row_of[piece.members[0]]
        arms = [arms_of(pack).get((piece.members[0], end)) for end in (0, 1)]
        tube = _Tube(pack, m, k, piece.length, (arms[0], arms[1]))
        where = f"machine/{name}"
        yield from _counted(rows, tube, where)
        yield from _outlines(tube, piece, where)
        yield from _holes(tube, piece, where)


def _counted(rows: list[Row], tube: _Tube, where: str) -> Found:
    """Slots as machine.csv counts them, which all members of a piece have alike."""
    slots = sum(arm is not None and arm.cuts for arm in tube.arms)
    off = [abs(number_in(row, "slots", "machine") - slots) for row in rows]
    yield max(off), f"{where}: slots in machine.csv"


def _outlines(tube: _Tube, piece: Steel, where: str) -> Found:
    """Each place on an outline is to lie on a cut, on a side of its face or on a slot; and what is
    left of a face is to be as much. Slots lie as folded plates have them; without drawings of
    these, as outlines do."""
    faces = _faces(tube.m.rows[tube.k]["section"])
    yield beyond({letter for letter, _ in piece.rings} != set(faces)), f"{where}: faces"
    found = [_slot(tube, piece, end) for end in (0, 1)]
    for end, slot in enumerate(found):
        yield _off_arm(tube, piece, end, slot), f"{where}: slot at its {ENDS[end]}"
    # Where a slot meets a corner, rounded places of its outline tell little of how it turns.
    slots = [
        slot if slot is None or arm is None or arm.across is None else arm.across
        for slot, arm in zip(found, tube.arms, strict=True)
    ]
    for letter, face in faces.items():
        own = [ring for name, ring in piece.rings if name == letter]
        if own:
            yield from _face(tube, face, own, slots, f"{where}: face {letter}")


def _off_arm(tube: _Tube, piece: Steel, end: int, slot: Array | None) -> float:
    """How far (mm) the deepest places of a slot, across such a direction (2,), are off the sides of
    its arm."""
    arm = tube.arms[end]
    if arm is None or not arm.cuts:
        return 0.0
    if slot is None or _open_corners(tube, piece, end, slot) > CORNER_MM:
        return np.inf
    if arm.across is None:
        return 0.0
    off = _off_sides(_deepest(tube, piece, end)[0], arm.across[None], arm)
    return max(float(off.max(initial=0.0)) - 4 * ROUND_MM, 0.0)


def _open_corners(tube: _Tube, piece: Steel, end: int, across: Array) -> float:
    """How far (mm) the inner corners of a slot in a tube are from the nearest of its outline."""
    arm, (face, *_) = tube.arms[end], _faces(tube.m.rows[tube.k]["section"]).values()
    if arm is None or not face.radius:
        return 0.0
    half = arm.thick / 2
    wide = np.sqrt(face.radius**2 - half**2)
    signs = np.array([[1, 1], [1, -1], [-1, 1], [-1, -1]])
    wanted = signs * [half, wide] @ np.array([across, [-across[1], across[0]]])
    at = tube.length - arm.deep if end else arm.deep
    corners = np.concatenate([ring for _, ring in piece.rings])
    stand = np.column_stack([corners[:, 0] - at, face.on(corners[:, 1])])
    wanted = np.column_stack([np.zeros(4), wanted])
    return float(np.linalg.norm(wanted[:, None] - stand, axis=2).min(axis=1).max())


def _face(
    tube: _Tube, face: _Face, rings: list[Array], slots: list[Array | None], where: str
) -> Found:
    """The outlines of one face."""
    off = np.concatenate([_off(tube, face, slots, ring) for ring in rings])
    yield max(float(off.max()) - ROUND_MM, 0.0), where
    yield beyond(any(np.abs(r[0] - r[-1]).max() > 0 for r in rings)), f"{where}: open"
    left = sum(shapely.Polygon(ring).area for ring in rings)
    wanted = _area(tube, face, slots)
    yield beyond(abs(left - wanted) > SHARE * wanted + 1.0), f"{where}: area"


def _deepest(tube: _Tube, piece: Steel, end: int) -> tuple[Array, Array]:
    """Places (n, 2) in mm by width and height where the slot at an end is deepest: those on its
    sides, and ends of faces (k, 2), such as the seam of a skin, which may lie within it."""
    arm, found, ends = tube.arms[end], [np.zeros((0, 2))], [np.zeros((0, 2))]
    if arm is None or not arm.cuts:
        return found[0], ends[0]
    at = tube.length - arm.deep if end else arm.deep
    faces = _faces(tube.m.rows[tube.k]["section"])
    for letter, ring in piece.rings:
        deep = ring[np.abs(ring[:, 0] - at) < NEAR_MM, 1]
        if letter in faces:
            face = faces[letter]
            inner = (deep > NEAR_MM) & (deep < face.width - NEAR_MM)
            found.append(face.on(deep[inner]))
            ends.append(face.on(deep[~inner]))
    return np.concatenate(found), np.concatenate(ends)


def _slot(tube: _Tube, piece: Steel, end: int) -> Array | None:
    """The unit direction (2,) across the slot at an end, of places where it is deepest."""
    arm, (places, ends) = tube.arms[end], _deepest(tube, piece, end)
    if len(places) < 2:
        # A slot that takes the end of a leg has one side on it.
        places = np.concatenate([places, ends])
    if arm is None or len(places) < 2:
        return None
    best, step = 0.0, np.pi
    for _ in range(SCANS):
        turns = best + step * np.linspace(-0.5, 0.5, STEPS)
        across = np.stack([np.cos(turns), np.sin(turns)], axis=1)
        best = float(turns[_off_sides(places, across, arm).max(axis=0).argmin()])
        step *= 4 / STEPS
    return np.array([np.cos(best), np.sin(best)])


def _off_sides(places: Array, across: Array, arm: Arm) -> Array:
    """How far (n, k) in mm places (n, 2) of a section are off the sides of an arm that lies across
    directions (k, 2)."""
    thick = np.abs(places @ across.T) - arm.thick / 2
    wide = np.abs(places @ np.stack([across[:, 1], -across[:, 0]])) - arm.wide / 2
    return np.minimum(np.abs(thick), np.abs(wide) + np.maximum(thick, 0.0))


def _off(tube: _Tube, face: _Face, slots: list[Array | None], ring: Array) -> Array:
    """How far (n,) in mm places of a ring are off the nearest line that they may lie on."""
    x, along = ring.T
    places = face.on(along)
    first, last = (tube.edge(end, places) for end in (0, 1))
    beyond_it = np.maximum(np.maximum(first - x, x - last), 0.0)
    sides = np.minimum(np.abs(along), np.abs(along - face.width)) + beyond_it
    off = [np.abs(x - first), np.abs(x - last), sides]
    for end, (arm, across) in enumerate(zip(tube.arms, slots, strict=True)):
        if arm is None or across is None:
            continue
        deep = tube.length - x if end else x
        beside = np.abs(places @ across) - arm.thick / 2
        past = np.maximum(deep - arm.deep, 0.0)
        off += [np.abs(beside) + past, np.abs(deep - arm.deep) + np.maximum(beside, 0.0)]
        if not face.radius:
            wide = np.abs(np.abs(places @ [across[1], -across[0]]) - arm.wide / 2)
            off.append(wide + past + np.maximum(beside, 0.0))
    return np.asarray(np.min(off, axis=0))


def _area(tube: _Tube, face: _Face, slots: list[Array | None]) -> float:
    """Square mm that are left of a face."""
    along = np.linspace(0, face.width, FINE)
    places = face.on(along)
    first, last = (tube.edge(end, places) for end in (0, 1))
    for end, (arm, across) in enumerate(zip(tube.arms, slots, strict=True)):
        if arm is None or across is None:
            continue
        within = np.clip(0.5 + (arm.thick / 2 - np.abs(places @ across)) * FINE / face.width, 0, 1)
        if not face.radius:
            within *= np.abs(places @ [across[1], -across[0]]) < arm.wide / 2
        taken = np.maximum(arm.deep - (tube.length - last if end else first), 0.0) * within
        first, last = (first, last - taken) if end else (first + taken, last)
    return float(np.trapezoid(last - first, along))


def _holes(tube: _Tube, piece: Steel, where: str) -> Found:
    """Holes against the bolts of arms: through the axis, square to the arm."""
    faces = _faces(tube.m.rows[tube.k]["section"])
    used = 0
    for x, arm in _bolts(tube):
        near = [(f, h) for f, h in piece.holes if f in faces and abs(h[0] - x) < 5 * NEAR_MM]
        used += len(near)
        yield beyond(not near), f"{where}: no hole at {x:.1f} mm"
        for letter, (at, along, diameter) in near:
            off = max(abs(at - x), abs(diameter - arm.hole))
            if arm.across is not None:
                place = faces[letter].on(np.array([along]))[0]
                aside = abs(float(place @ [arm.across[1], -arm.across[0]]))
                off = max(off, aside - 3 * ROUND_MM)
            yield max(off - ROUND_MM, 0.0), f"{where}: hole at {x:.1f} mm"
    yield abs(used - len(piece.holes)), f"{where}: holes"


def _bolts(tube: _Tube) -> list[tuple[float, Arm]]:
    """Where on the piece's x bolts are, in mm, each with its arm."""
    out = []
    for end, arm in enumerate(tube.arms):
        if arm is None:
            continue
        back = number_in(tube.m.rows[tube.k], f"{ENDS[end]}_setback_mm", "members")
        deep = [at - back for at in arm.bolts]
        out += [(tube.length - at if end else at, arm) for at in deep]
    return out
