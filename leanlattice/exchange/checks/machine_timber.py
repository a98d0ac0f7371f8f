"""Timber parts of machine files, put back where their members are, against cuts, crossings and arms
of plates."""

from __future__ import annotations

from typing import NamedTuple

import numpy as np
from numpy.typing import NDArray

from .crossings import Pass, passes_of
from .machine import rows_by_piece
from .machine_arms import ENDS, Arm, arms_of
from .machine_files import Clearing, Drilled, Sawn, Timber, timber_parts
from .pack_cuts import cuts_of
from .pack_files import Found, Pack, beyond, number_in
from .pack_members import Members, members_of

__all__ = ["timber_as_cut"]

Array = NDArray[np.float64]
ROUND_MM = 0.003
SHALLOW_MM = 0.03
"""What a notch may be short of being one at all."""
RUN_OUT_MM = 1.0
"""What a notch reaches over the sides of a part at most."""
SQUARE = np.array([[-1.0, -1.0], [1.0, -1.0], [1.0, 1.0], [-1.0, 1.0]])
GRID = np.array([(a, b) for a in np.linspace(-1, 1, 9) for b in np.linspace(-1, 1, 9)])


class _Bench(NamedTuple):
    """A member that a part is of: its row ``k`` among the members, and how far along its axis, in
    mm, the part begins."""

    m: Members
    k: int
    back: float

    @property
    def label(self) -> str:
        return self.m.rows[self.k]["label"]

    def piece(self, end: int) -> int:
        return int(self.m.first[self.k] + (self.m.count[self.k] - 1 if end else 0))

    def axis_end(self, end: int) -> float:
        """Where on the part's x the axis ends."""
        return float(self.m.whole[self.k] * 1000 if end else 0.0) - self.back


def timber_as_cut(pack: Pack) -> Found:
    """How far (mm) what is sawn, cleared and drilled in timber parts is from where it is to be."""
    m = members_of(pack)
    parts = timber_parts(pack)
    if m is None or not parts:
        return
    row_of = {row["label"]: k for k, row in enumerate(m.rows)}
    wanted = rows_by_piece(pack)
    notches = _notches_wanted(pack)
    for (file, label), part in parts.items():
        if (file, label) not in wanted or part.members[0] not in row_of:
            continue
        k = row_of[part.members[0]]
        bench = _Bench(m, k, number_in(m.rows[k], "start_setback_mm", "members"))
        where = f"{label} of machine/{file}"
        yield _stands(bench, part), f"{where}: where it stands"
        for end in (0, 1):
            yield _sawn(pack, bench, part, end), f"{where}: {ENDS[end]}"
        yield from _notched(bench, part, notches.get(bench.label, []), where)
        yield from _entered(pack, bench, part, where)
        for other in part.members[1:]:
            yield beyond(notches.get(other) or notches.get(bench.label)), f"{where}: {other}"


def _stands(bench: _Bench, part: Timber) -> float:
    """How far (mm) the corner of a part's box and its directions are off."""
    width, up, way = bench.m.frame(bench.piece(0), 0)
    half = part.size[1:] / 2
    corner = bench.m.start[bench.piece(0)] * 1000 + bench.back * way
    corner = corner + half[0] * up - half[1] * width
    off = np.abs(part.stands - np.stack([corner, way, -up, width]))
    return max(float(off[0].max()) - ROUND_MM, 100 * float(off[1:].max()) - ROUND_MM, 0.0)


def _sawn(pack: Pack, bench: _Bench, part: Timber, end: int) -> float:
    """How far (mm) planes of an end are off those of cuts.csv, on the part's long edges."""
    saws = [saw for saw in part.saws if saw.end == ENDS[end]]
    planes = _planes(pack, bench, part, end)
    if len(saws) != len(planes):
        return np.inf
    off = np.array([[_off_plane(part, plane, saw) for saw in saws] for plane in planes])
    return max(float(off.min(axis=1).max()), float(off.min(axis=0).max()))


def _planes(pack: Pack, bench: _Bench, part: Timber, end: int) -> Array:
    """The planes (n, 4) an end is to be sawn by, normals out of the part and levels in mm."""
    cuts = cuts_of(pack).get((bench.k, end))
    if cuts is None:
        return np.array([[1.0 if end else -1.0, 0, 0, part.size[0] * end]])
    frame = bench.m.frame(bench.piece(end), end)[[2, 0, 1]]
    normals = cuts.planes[:, :3] @ frame.T
    levels = cuts.planes[:, 3] * 1000 + normals[:, 0] * bench.axis_end(end)
    return np.column_stack([normals, levels])


def _off_plane(part: Timber, plane: Array, saw: Sawn) -> float:
    """How far (mm) the corners of a part in a plane (4,) are off a saw's; much where it takes the
    other side."""
    corners = SQUARE * part.size[[2, 1]] / 2
    on = (plane[3] - corners @ plane[1:3]) / plane[0]
    off = np.abs((np.column_stack([on, corners]) - saw.place) @ saw.normal).max()
    return float(off) + 1000 * float(saw.normal @ plane[:3] < 0)


class _Wanted(NamedTuple):
    """A notch that is to be: the member and the other as they pass a node, the plane of the floor
    by a unit ``normal`` (3,) out of it and a level in metres, and the row that tells of it."""

    own: Pass
    other: Pass
    normal: Array
    level: float
    where: str


def _notches_wanted(pack: Pack) -> dict[str, list[_Wanted]]:
    """The notches of members by label, half-way between faces that overlap."""
    m = members_of(pack)
    out: dict[str, list[_Wanted]] = {}
    passes = passes_of(m) if m is not None else {}
    for row in pack.rows("crossings"):
        here = passes.get(row["node"], {})
        if row["kind"] != "notch" or row["over"] not in here or row["under"] not in here:
            continue
        over, under = here[row["over"]], here[row["under"]]
        normal = np.cross(over.way, under.way)
        normal /= np.linalg.norm(normal)
        normal *= np.sign((over.place - under.place) @ normal)
        low = over.place @ normal - over.reach(normal) / 2
        high = under.place @ normal + under.reach(normal) / 2
        middle = (low + high) / 2
        name = f"{row['over']} over {row['under']} at {row['node']}"
        out.setdefault(row["over"], []).append(_Wanted(over, under, -normal, -middle, name))
        out.setdefault(row["under"], []).append(_Wanted(under, over, normal, middle, name))
    return out


def _notched(bench: _Bench, part: Timber, wanted: list[_Wanted], where: str) -> Found:
    """Notches of a part against those that are to be."""
    found = [c for c in part.clearings if c.name.startswith("notch")]
    left = list(found)
    for notch in wanted:
        own = f"{where}: notch, {notch.where}"
        named = [c for c in left if c.name == f"notch for {notch.other.label}"]
        at = notch.own.along * 1000 - bench.back
        near = min(named, key=lambda c: abs(c.ring[:, 0].mean() - at), default=None)
        if near is None:
            yield beyond(_depth(part, notch) > SHALLOW_MM), own
            continue
        left.remove(near)
        yield _off_floor(part, notch, near, at), own
    yield beyond(left), f"{where}: {len(left)} notches for nothing"


def _off_floor(part: Timber, notch: _Wanted, made: Clearing, at: float) -> float:
    """How far (mm) a floor is off its plane, its corners off the strip in which the other passes
    and off the part's sides, over which they reach a little, and its depth off the highest of the
    part above it."""
    floor = made.floor
    stand = notch.own.placed((floor - [at, 0, 0]) / 1000)
    off = np.abs(stand @ notch.normal - notch.level) * 1000
    across = np.cross(notch.normal, notch.other.way)
    across /= np.linalg.norm(across)
    aside = np.abs((stand - notch.other.place) @ across) - notch.other.reach(across) / 2
    # Cleared square to the floor, it is to take all of the part above it, and little more.
    bound = 1 if abs(made.normal[2]) >= abs(made.normal[1]) else 2
    wanted = part.size[3 - bound] / 2 + made.deep * abs(made.normal[bound])
    over = np.abs(floor[:, bound]) - wanted
    worst = max(float(off.max()), float(np.abs(aside).max()) * 1000, float(-over.min()))
    worst = max(worst, float(over.max()) - RUN_OUT_MM)
    return max(worst, abs(_depth(part, notch) - made.deep)) - ROUND_MM


def _depth(part: Timber, notch: _Wanted) -> float:
    """How far (mm) a member reaches above the plane of a floor, within the other's strip."""
    across = np.cross(notch.normal, notch.other.way)
    across /= np.linalg.norm(across)
    half = part.size[[2, 1]] / 2000
    centre = (notch.other.place - notch.own.place) @ across
    reach = notch.other.reach(across) / 2
    over = []
    for z in (-half[1], half[1]):
        local = np.column_stack([np.zeros(len(GRID)), GRID[:, 0] * half[0], np.full(len(GRID), z)])
        stand = notch.own.placed(local)
        along = (centre + GRID[:, 1] * reach - (stand - notch.own.place) @ across) / (
            notch.own.way @ across
        )
        stand = stand + along[:, None] * notch.own.way
        over.append(float((stand @ notch.normal - notch.level).max()))
    return max(over) * 1000


def _entered(pack: Pack, bench: _Bench, part: Timber, where: str) -> Found:
    """Slots and holes of a part against the arms that enter its member."""
    for end in (0, 1):
        arm = arms_of(pack).get((bench.label, end))
        slots = [c for c in part.clearings if c.name == "slot" and (c.normal[0] > 0) == bool(end)]
        holes = [h for h in part.holes if (h.place[0] > part.size[0] / 2) == bool(end)]
        own = f"{where}: {ENDS[end]}"
        yield beyond(len(slots) != (arm is not None)), f"{own}: slots"
        yield beyond(len(holes) != (len(arm.bolts) if arm else 0)), f"{own}: holes"
        if arm is None or len(slots) != 1 or len(holes) != len(arm.bolts):
            continue
        yield max(_off_slot(slots[0], part, arm, end) - ROUND_MM, 0.0), f"{own}: slot"
        way = -1.0 if end else 1.0
        stations = np.sort([way * (h.place[0] - bench.axis_end(end)) for h in holes])
        yield float(np.abs(stations - np.sort(arm.bolts)).max(initial=0.0)), f"{own}: bolts"
        for hole in holes:
            off = _off_hole(hole, slots[0], part, arm)
            yield max(off - ROUND_MM, 0.0), f"{own}: hole"


def _off_slot(slot: Clearing, part: Timber, arm: Arm, end: int) -> float:
    """How far (mm) a slot is off the middle, and off its arm's width, thickness, depth and turn."""
    ring = slot.ring
    middle = np.abs(ring[:, 1:].mean(axis=0)).max()
    level = np.abs(ring[:, 0] - part.size[0] * end).max()
    sides = np.sort(np.linalg.norm(np.diff(ring, axis=0), axis=1)[:2])
    sizes = np.abs(sides - np.sort([arm.wide, arm.thick])).max()
    turned = 0.0 if arm.across is None else abs(float(_along(slot)[1:] @ arm.across)) * arm.wide
    return float(max(middle, level, sizes, turned, abs(slot.deep - arm.deep)))


def _off_hole(hole: Drilled, slot: Clearing, part: Timber, arm: Arm) -> float:
    """How far (mm) a hole is off the axis and off being square to the slot, its diameter off its
    bolt's, and how much it lacks to be right through."""
    axis = hole.place - (hole.place @ hole.normal) * hole.normal
    aside = np.abs(axis[1:]).max()
    askew = 100 * np.abs([hole.normal @ _along(slot), hole.normal[0]]).max()
    reach = float(np.hypot(*part.size[1:])) / 2
    before = hole.place @ hole.normal
    short = reach - min(before, hole.deep - before)
    return float(max(aside, askew, short, abs(hole.diameter - arm.hole)))


def _along(slot: Clearing) -> Array:
    """The unit direction (3,) of the long sides of a slot."""
    steps = np.diff(slot.ring, axis=0)[:2]
    lengths = np.linalg.norm(steps, axis=1)
    return np.asarray(steps[lengths.argmax()] / lengths.max())
