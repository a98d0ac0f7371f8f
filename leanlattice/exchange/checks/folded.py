"""Parts folded up again from their drawings, folds.csv and poses.csv."""

from __future__ import annotations

from dataclasses import dataclass, replace

import numpy as np
import scipy.spatial
import shapely
import trimesh
from numpy.typing import NDArray

from ...core.materials import FILMS
from .flat import flat_of, polygon_of
from .pack_files import Found, Pack, PackError, Row, beyond, number_in
from .panels import outline_in_pose, places_in_pose, pose_of

__all__ = [
    "SNAP_MM",
    "Fold",
    "Folded",
    "face_at",
    "folded_as_drawn",
    "folded_up",
    "folds_by_part",
    "holes_of",
    "on_mesh",
]

Array = NDArray[np.float64]
TABLES = ("strips", "node_plates")
"""Tables of parts that may be folded."""
SNAP_MM = 0.02
"""What ends of folds may be off the corners of outlines."""
CRUMB = 6.0
"""Area (mm²) of what folds that are drawn longer by a millimetre part off at the corners."""
ROUNDED_DEG = 1e-4
SCORED_DEG = 0.05
"""Folds that are less sharp bend of themselves."""
STEP_MM = 0.5
"""How far beside the middle of a fold the faces are looked for that it parts."""
SIDES = {"away": 1.0, "towards": -1.0, "flat": 0.0}
GAP = 1 / 3
"""Share in the middle of a fold towards the outside that is not scored."""


@dataclass(frozen=True, eq=False)
class Fold:
    """A fold of a part: its ``ends`` (2, 2) in mm in the part's own frame, by how much it
    ``turns`` (rad) away from the outside, the strip a flap lies on that is folded there, and if
    it is ``scored``."""

    ends: Array
    turns: float
    flap_on: str
    scored: bool

    @property
    def either_side(self) -> Array:
        """Places (2, 2) beside its middle, on its left and on its right."""
        way = self.ends[1] - self.ends[0]
        off = np.array([-way[1], way[0]]) / np.linalg.norm(way) * STEP_MM
        return self.ends.mean(axis=0) + np.array([off, -off])


@dataclass(frozen=True, eq=False)
class Folded:
    """A part put together again: its plane ``faces`` in mm in its own frame, the place and axes
    (4, 3) each stands by, and the strips that those which are flaps lie on."""

    faces: list[shapely.Polygon]
    frames: list[Array]
    flap_on: list[str]

    def stand(self, k: int, flat: Array) -> Array:
        """Places (n, 3) in mm of flat ones (n, 2) of a face."""
        at, x, y, _ = self.frames[k]
        return np.asarray(at + flat[:, :1] * x + flat[:, 1:] * y)

    def corners(self, k: int) -> Array:
        """Where the corners (n, 3) of a face stand."""
        return self.stand(k, np.asarray(self.faces[k].exterior.coords)[:-1])


def folds_by_part(pack: Pack) -> dict[str, list[Fold]]:
    """Folds by parts; raises ``PackError`` for a side that is none."""
    out: dict[str, list[Fold]] = {}
    limp = {row["label"] for row in pack.rows("strips") if row["material"] in FILMS}
    for row in pack.rows("folds"):
        if row["side"] not in SIDES:
            raise PackError(f"folds.csv: {row['part']}: side is “{row['side']}”")
        ends = [[number_in(row, f"{e}_{a}_mm", "folds") for a in "xy"] for e in ("from", "to")]
        turn, sign = np.radians(number_in(row, "angle_deg", "folds")), SIDES[row["side"]]
        if turn < 0 or (turn == 0) != (sign == 0):
            raise PackError(f"folds.csv: {row['part']}: {row['side']} by {row['angle_deg']}°")
        is_sharp = np.degrees(turn) >= SCORED_DEG and row["part"] not in limp
        if row["scored"] != ("yes" if is_sharp else "no"):
            raise PackError(f"folds.csv: {row['part']}: scored “{row['scored']}”")
        fold = Fold(np.array(ends), float(sign * turn), row["flap_on"], row["scored"] == "yes")
        out.setdefault(row["part"], []).append(fold)
    return out


def folded_as_drawn(pack: Pack) -> Found:
    """Sizes, holes, areas and folds of the tables of what is folded against the drawings and
    folds.csv, and what is scored on sheets against that (mm)."""
    folds = folds_by_part(pack)
    rows = [(table, row) for table in TABLES for row in pack.rows(table)]
    for name in sorted(set(folds) - {row["label"] for _, row in rows}):
        yield np.inf, f"{name} of folds.csv is in no table"
    for table, row in rows:
        own = folds.get(row["label"], [])
        where = f"{row['label']} in {table}.csv"
        within = [f for f in own if f.scored and not f.flap_on]
        yield abs(len(within) - number_in(row, "folds", table)), f"{where}: folds"
        largest = max((abs(np.degrees(f.turns)) for f in within), default=0.0)
        off = abs(largest - number_in(row, "largest_fold_deg", table))
        yield beyond(off > ROUNDED_DEG), f"{where}: largest fold"
        if row["label"] in flat_of(pack).parts:
            yield from _drawn(pack, table, row, own)
    yield from _numbers(pack)


def _numbers(pack: Pack) -> Found:
    """Folds of each part are counted from 1."""
    counts: dict[str, int] = {}
    for row in pack.rows("folds"):
        counts[row["part"]] = counts.get(row["part"], 0) + 1
        off = abs(number_in(row, "fold", "folds") - counts[row["part"]])
        yield off, f"{row['part']} in folds.csv: fold {row['fold']}"


def _drawn(pack: Pack, table: str, row: Row, folds: list[Fold]) -> Found:
    label, where = row["label"], f"{row['label']} in {table}.csv"
    number, outer, inner = flat_of(pack).parts[label]
    shape = polygon_of(outer, inner, pack.tool(label))
    yield abs(len(inner) - number_in(row, "holes", table)), f"{where}: holes"
    room = 0.02 if pack.tool(label) else SNAP_MM
    for size, name in zip(_sizes(shape), ("length_mm", "width_mm"), strict=True):
        yield max(abs(size - number_in(row, name, table)) - room, 0.0), f"{where}: {name}"
    told = number_in(row, "area_m2", table)
    yield abs(told - number_in(pack.part_rows[label], "area_m2", "parts")) * 1e3, f"{where}: area"
    scored = _scores(pack, label, number, shape)
    yield from _lines_differ(folds, scored, f"{label} on sheet {number}: score lines")
    ends = [fold.ends for fold in folds if not fold.scored]
    if ends:
        ring = shapely.LinearRing(outline_in_pose(pack, label))
        away = shapely.distance(ring, shapely.points(np.concatenate(ends)))
        room = SNAP_MM + pack.tool(label)
        yield max(float(away.max()) - room, 0.0), f"{label} in folds.csv: ends"


def _sizes(shape: shapely.Polygon) -> tuple[float, float]:
    """How far apart the farthest corners are, and the width where it is narrowest: square to a
    side of the convex hull."""
    corners = shapely.get_coordinates(shape.convex_hull)
    length = float(scipy.spatial.distance.pdist(corners).max())
    sides = np.diff(corners, axis=0)
    across = np.column_stack([-sides[:, 1], sides[:, 0]]) / np.linalg.norm(sides, axis=1)[:, None]
    return length, float(np.ptp(corners @ across.T, axis=0).min())


def _lines_differ(folds: list[Fold], scored: Array, where: str) -> Found:
    """How far ends of score lines (n, 2, 2) are from those of ``folds``."""
    wanted = [line for fold in folds for line in _scored(fold)]
    yield beyond(len(wanted) != len(scored)), where
    if not wanted or len(wanted) != len(scored):
        return
    # Both ends of each at once, whichever comes first.
    both = np.array([line.ravel() for line in wanted])
    drawn = np.concatenate([scored.reshape(-1, 4), scored[:, ::-1].reshape(-1, 4)])
    away = np.asarray(scipy.spatial.cKDTree(drawn).query(both)[0])
    yield float(away.max()), where


def _scored(fold: Fold) -> list[Array]:
    a, b = fold.ends
    if not fold.scored:
        return []
    if fold.turns > 0:
        return [fold.ends]
    way = b - a
    return [np.array([a, a + way * (1 - GAP) / 2]), np.array([a + way * (1 + GAP) / 2, b])]


def _scores(pack: Pack, label: str, number: int, shape: shapely.Polygon) -> Array:
    """Score lines (n, 2, 2) of a part on its sheet, in its own frame from its lower left corner
    on."""
    lines = np.array([s.points for s in pack.sheets[number].scores if len(s.points) == 2])
    if not len(lines):
        return np.zeros((0, 2, 2))
    middles = shapely.points(lines.mean(axis=1))
    own = lines[shapely.dwithin(shape, middles, SNAP_MM)]
    return places_in_pose(pack, label, own)


def folded_up(pack: Pack, table: str) -> dict[str, Folded]:
    """Parts of a ``table`` by label, folded up from what is drawn where poses.csv says."""
    kept = f"folded {table}"
    if kept not in pack.kept:
        poses, folds = {r["label"]: r for r in pack.rows("poses")}, folds_by_part(pack)
        out = {}
        for row in pack.rows(table):
            label = row["label"]
            if label in poses and label in flat_of(pack).parts:
                out[label] = _one_folded(pack, row, poses[label], folds.get(label, []))
        pack.kept[kept] = out
    found: dict[str, Folded] = pack.kept[kept]
    return found


def _one_folded(pack: Pack, row: Row, pose: Row, folds: list[Fold]) -> Folded:
    """One part, face after face from the one that stands by its pose."""
    label = row["label"]
    # What is cut smaller than it stands is stretched first.
    told = [row.get(name) for name in ("shorter_percent", "narrower_percent")]
    stretch = 1 / (1 - np.array([float(share or 0) for share in told]) / 100)
    folds = [replace(fold, ends=fold.ends * stretch) for fold in folds]
    outline = outline_in_pose(pack, label) * stretch
    faces = _faces(outline, folds, SNAP_MM + pack.tool(label))
    tree = shapely.STRtree(faces)
    first = face_at(tree, _stands(folds), label) if folds else 0
    place, x, y = pose_of(pose)
    stood = np.array([place * 1000, x, y, np.cross(x, y)])
    beside: dict[int, list[tuple[int, Fold]]] = {}
    flap_on = [""] * len(faces)
    for fold in folds:
        left, right = (face_at(tree, at, label) for at in fold.either_side)
        beside.setdefault(left, []).append((right, fold))
        beside.setdefault(right, []).append((left, fold))
        flap_on[right] = fold.flap_on or flap_on[right]  # a fold has the strip on its left
    frames = _all_turned(faces, beside, {first: stood})
    if len(frames) < len(faces):
        raise PackError(f"{label} of folds.csv does not hang together")
    return Folded(faces, [frames[k] for k in sorted(frames)], flap_on)


def _all_turned(
    faces: list[shapely.Polygon],
    beside: dict[int, list[tuple[int, Fold]]],
    frames: dict[int, Array],
) -> dict[int, Array]:
    """Frames of all faces that hang together with those that have one, by the folds ``beside``
    each."""
    waiting = list(frames)
    while waiting:
        here = waiting.pop()
        for there, fold in beside.get(here, []):
            if there not in frames:
                frames[there] = _turned(frames[here], fold, faces[there])
                waiting.append(there)
    return frames


def _stands(folds: list[Fold]) -> Array:
    """A place (2,) in the face that stands by the pose of a part: on the right of its first fold,
    or, where it has only flaps, on the left of theirs."""
    within = [fold for fold in folds if not fold.flap_on]
    found = within[0].either_side[1] if within else folds[0].either_side[0]
    return np.asarray(found)


def _faces(outline: Array, folds: list[Fold], reach: float) -> list[shapely.Polygon]:
    """What ``folds`` part an outline (n, 2) into. Their ends are corners of it but for what they
    are rounded by, and what a tool leaves, which is all within ``reach``."""
    lines = [_to_corners(fold.ends, outline, reach) for fold in folds]
    whole = shapely.union_all([shapely.LinearRing(outline), *lines])
    faces = shapely.get_parts(shapely.polygonize([whole]))
    return [face for face in faces if face.area > CRUMB * reach]


def _to_corners(ends: Array, outline: Array, reach: float) -> shapely.LineString:
    """A line between the corners of an outline (n, 2) nearest to its ``ends`` (2, 2), beyond those
    that have none within ``reach``."""
    way = (ends[1] - ends[0]) / np.linalg.norm(ends[1] - ends[0])
    out = [ends[0] - reach * way, ends[1] + reach * way]
    for k, end in enumerate(ends):
        away = np.linalg.norm(outline - end, axis=1)
        if away.min() <= reach:
            out[k] = outline[np.argmin(away)]
    return shapely.LineString(out)


def face_at(tree: shapely.STRtree, at: Array, label: str) -> int:
    found = tree.query(shapely.Point(at), predicate="intersects")
    if len(found) != 1:
        raise PackError(f"{label}: a fold of folds.csv is not within its outline")
    return int(found[0])


def _turned(frame: Array, fold: Fold, face: shapely.Polygon) -> Array:
    """The frame of the face beyond a fold, turned about it, away from the outside or towards it."""
    at, x, y, normal = frame
    a, b = (at + e[0] * x + e[1] * y for e in fold.ends)
    way = (b - a) / np.linalg.norm(b - a)
    off = np.asarray(face.representative_point().coords[0]) - fold.ends[0]
    along = fold.ends[1] - fold.ends[0]
    is_left = along[0] * off[1] > along[1] * off[0]
    # Turned about the fold as it runs with the face beyond it on its left.
    way = way if is_left else -way
    turn = scipy.spatial.transform.Rotation.from_rotvec(-fold.turns * way)
    return np.array([a + turn.apply(at - a), *turn.apply([x, y, normal])])


def on_mesh(places: Array, mesh: tuple[Array, NDArray[np.integer]]) -> Array:
    """Distances (n,) of places (n, 3) from a mesh."""
    corners = mesh[0][mesh[1]]
    pairs = np.repeat(places, len(corners), axis=0)
    nearest = trimesh.triangles.closest_point(np.tile(corners, (len(places), 1, 1)), pairs)
    away = np.linalg.norm(nearest - pairs, axis=1)
    return np.asarray(away.reshape(len(places), -1).min(axis=1))


def holes_of(pack: Pack, label: str) -> list[Array]:
    """Middles (2,) of a part's holes in its own frame from its lower left corner on."""
    _, _, inner = flat_of(pack).parts[label]
    middles = [shapely.Polygon(hole.points).centroid.coords[0] for hole in inner]
    return list(places_in_pose(pack, label, np.array(middles)))
