"""Parts put together again from the files: outlines of sheets as solids where they go.

Ribs stand where assembly.csv and bends.csv say, about the middles of their boards; panels where
poses.csv says, from their undersides on.
"""

from __future__ import annotations

from collections.abc import Callable, Iterator, Mapping, Sequence
from dataclasses import dataclass

import manifold3d
import numpy as np
import shapely
from numpy.typing import NDArray

from .flat import flat_of
from .pack_files import Found, Pack, PackError, number_in
from .panel_twists import heights_in_pose
from .panels import outline_in_pose, pose_of

__all__ = ["apart", "panels_overlap", "ribs_in_place", "ribs_overlap", "told_of_tools"]

Array = NDArray[np.float64]
Row = Mapping[str, str]
Pair = tuple[str, str]
"""Labels of two parts."""
PIECES = 8
"""Into how many a twisted plate is parted each way."""
SEARCH = 0.05
"""Gaps larger than this (m) are not measured."""
ROUNDED = 0.02
"""What (mm) outlines beside which a tool ran are taken back more than by half its width, as its
rounds are of many sides."""


@dataclass(frozen=True)
class _Placed:
    """A part where it goes: its solid in metres, and the two planes it lies between, by their
    normal and levels; none of one that is bent."""

    solid: manifold3d.Manifold
    kind: str
    between: tuple[Array, float, float] | None = None


def ribs_in_place(pack: Pack) -> dict[str, manifold3d.Manifold]:
    """Solids of ribs by label, where the assembly says they go."""
    return {label: p.solid for label, p in _placed(pack).items() if p.kind == "rib"}


def _placed(pack: Pack) -> dict[str, _Placed]:
    """All parts by label, where they go."""
    if "placed" not in pack.kept:
        pack.kept["placed"] = _ribs(pack) | _panels(pack)
    found: dict[str, _Placed] = pack.kept["placed"]
    return found


def _panels(pack: Pack) -> dict[str, _Placed]:
    poses, flat = {r["label"]: r for r in pack.rows("poses")}, flat_of(pack)
    out = {}
    for row in pack.rows("panels"):
        label = row["label"]
        if label not in poses or label not in flat.parts:
            continue
        place, x, y = pose_of(poses[label])
        normal = np.cross(x, y)
        thick = number_in(row, "thickness_mm", "panels") / 1000
        outline = manifold3d.CrossSection(
            [outline_in_pose(pack, label) / 1000], manifold3d.FillRule.EvenOdd
        )
        plate = manifold3d.Manifold.extrude(outline, thick)
        if number_in(row, "twist_mm", "panels"):
            plate = _twisted(pack, row, plate, poses[label])
        solid = _sound(plate.transform(np.column_stack([x, y, normal, place])), label)
        level = float(place @ normal)
        between = None if number_in(row, "twist_mm", "panels") else (normal, level, level + thick)
        out[label] = _Placed(solid, "panel", between)
    return out


def _twisted(
    pack: Pack, row: dict[str, str], plate: manifold3d.Manifold, pose: dict[str, str]
) -> manifold3d.Manifold:
    """A plate in its own frame, in metres, moved to where it is twisted to."""

    def moved(places: Array) -> Array:
        off = heights_in_pose(pack, row, pose, places[:, :2] * 1000) / 1000
        return np.column_stack([places[:, :2], places[:, 2] + off])

    low_x, low_y, _, high_x, high_y, _ = plate.bounding_box()
    fine = max(high_x - low_x, high_y - low_y) / PIECES
    return plate.refine_to_length(fine).warp_batch(moved)


def _ribs(pack: Pack) -> dict[str, _Placed]:
    """Ribs by the rows of the assembly, carried piece by piece where a part has bends. Outlines
    keep from their parts what a tool needs, and plates that are wider than their slots on purpose
    are made so much thinner."""
    pieces: dict[str, list[Row]] = {}
    for row in pack.rows("bends"):
        pieces.setdefault(row["label"], []).append(row)
    flat, press, out = flat_of(pack), pack.press_mm, {}
    for row in pack.rows("assembly"):
        label = row["label"]
        if label not in flat.parts:
            continue
        _, outer, inner = flat.parts[label]
        low = outer.points.min(axis=0)
        rings = [ring.points - low for ring in (outer, *inner)]
        section = manifold3d.CrossSection(rings, manifold3d.FillRule.EvenOdd)
        tool = pack.tool(label)
        if tool:
            section = section.offset(-tool / 2 - ROUNDED, manifold3d.JoinType.Round, 2.0, 96)
        whole = float(row["thickness_mm"])
        thickness, reach = (whole - press) / 1000, 2 * float(np.ptp(outer.points, axis=0).sum())
        plates = [_carried(section ^ _strip(p, reach), p, thickness) for p in pieces.get(label, [])]
        if plates:
            solid = manifold3d.Manifold.batch_boolean(plates, manifold3d.OpType.Add)
            out[label] = _Placed(_sound(solid, label), "rib")
            continue
        solid = _sound(_carried(section, row, thickness), label)
        place, x, y = _frame(row)
        normal = np.cross(x, y)
        level, half = float(place @ normal), whole / 2000
        out[label] = _Placed(solid, "rib", (normal, level - half, level + half))
    return out


def _sound(solid: manifold3d.Manifold, label: str) -> manifold3d.Manifold:
    """A solid that is one: of an empty or broken one nothing could be told, as it overlaps
    nothing."""
    if solid.status() != manifold3d.Error.NoError or solid.is_empty() or solid.volume() <= 0:
        raise PackError(f"{label} put together again is no solid")
    return solid


def _strip(row: Row, reach: float) -> manifold3d.CrossSection:
    """What of a sheet lies within a plane piece."""
    along = np.array([float(row["along_x"]), float(row["along_y"])])
    across = np.array([-along[1], along[0]])
    low, high = float(row["from_mm"]), float(row["to_mm"])
    corner = np.array([[low, -reach], [high, -reach], [high, reach], [low, reach]])
    return manifold3d.CrossSection(
        [corner @ np.stack([along, across])], manifold3d.FillRule.NonZero
    )


def _frame(row: Row) -> tuple[Array, Array, Array]:
    """Where a plate's lower left corner goes, and its x and y (3,) there."""
    names = (("", "_m"), ("right_", ""), ("up_", ""))
    place, x, y = (np.array([float(row[f"{n}{a}{u}"]) for a in "xyz"]) for n, u in names)
    return place, x, y


def _carried(section: manifold3d.CrossSection, row: Row, thickness: float) -> manifold3d.Manifold:
    """A plate (m) about where a section of its sheet (mm) goes."""
    place, x, y = _frame(row)
    plate = manifold3d.Manifold.extrude(section.scale((0.001, 0.001)), thickness).translate(
        (0.0, 0.0, -thickness / 2)
    )
    return plate.transform(np.column_stack([x, y, np.cross(x, y), place]))


def ribs_overlap(pack: Pack) -> Found:
    """Volumes (mm³) that ribs share with each other and with panels."""
    return _told(pack, lambda kinds: "rib" in kinds)


def panels_overlap(pack: Pack) -> Found:
    """Volumes (mm³) that panels share with each other."""
    return _told(pack, lambda kinds: kinds == {"panel"})


def _told(pack: Pack, wanted: Callable[[set[str]], bool]) -> Found:
    """What pairs of parts of the kinds that are wanted share."""
    placed = _placed(pack)
    if "shared" not in pack.kept:
        pack.kept["shared"] = list(_shared(placed))
    found: list[tuple[float, Pair]] = pack.kept["shared"]
    for value, pair in found:
        if wanted({placed[label].kind for label in pair}):
            yield told_of_tools(pack, value, pair)


def told_of_tools(pack: Pack, value: float, pair: Pair) -> tuple[float, str]:
    """What two parts have wrong, and the tool that leaves inner corners uncut where it is more than
    nothing."""
    where = " and ".join(pair)
    tool = max((pack.tool(label) for label in pair if label in pack.part_rows), default=0.0)
    if not value or not tool:
        return value, where
    return value, f"{where}, cut with a tool {tool:g} mm wide; a narrower one or larger reliefs"


def _shared(placed: Mapping[str, _Placed]) -> Iterator[tuple[float, Pair]]:
    """Volumes (mm³) that pairs of parts share whose boxes meet. Those of which one lies all on one
    side of the other share nothing; there are many in a stack."""
    labels = list(placed)
    corners = {k: np.asarray(p.solid.to_mesh64().vert_properties)[:, :3] for k, p in placed.items()}

    def is_beside(one: str, other: str) -> bool:
        between = placed[one].between
        if between is None:
            return False
        normal, low, high = between
        off = corners[other] @ normal
        return bool(off.min() > high or off.max() < low)

    for i, j in _meeting(np.array([placed[k].solid.bounding_box() for k in labels])):
        a, b = labels[i], labels[j]
        clear = is_beside(a, b) or is_beside(b, a)
        both = (placed[a].solid, placed[b].solid)
        yield 0.0 if clear else float((both[0] ^ both[1]).volume()) * 1e9, (a, b)


def _meeting(boxes: Array) -> list[tuple[int, int]]:
    """Pairs of boxes (n, 6), their lower corners before their upper ones, that meet."""
    if not len(boxes):
        return []
    low, high = boxes[:, :3], boxes[:, 3:]
    flat = shapely.box(low[:, 0], low[:, 1], high[:, 0], high[:, 1])
    one, other = shapely.STRtree(flat).query(flat)
    meet = (one < other) & (low[one, 2] <= high[other, 2]) & (high[one, 2] >= low[other, 2])
    return sorted(zip(one[meet].tolist(), other[meet].tolist(), strict=True))


def apart(
    rows: Sequence[Row], solids: Mapping[str, manifold3d.Manifold], column: str, spare: float
) -> Iterator[tuple[float, Pair]]:
    """Gaps (mm) between parts that are to touch by a ``column`` of the assembly, less what they
    have to ``spare`` (mm)."""
    for row in rows:
        for other in row[column].split():
            if row["label"] < other and row["label"] in solids and other in solids:
                gap = float(solids[row["label"]].min_gap(solids[other], SEARCH)) * 1000
                yield max(gap - spare, 0.0), (row["label"], other)
