"""Canopies on hollow columns: an outline divided into cells, each drawn down to a foot."""

from __future__ import annotations

import numpy as np
import shapely
from numpy.typing import NDArray

from ..geometry.meshes import Mesh, weld
from ..geometry.regions import Region

__all__ = ["CanopyError", "canopy", "scatter"]

Array = NDArray[np.float64]
Index = NDArray[np.int32]
CORNER = np.radians(25)


class CanopyError(ValueError):
    """A canopy that cannot be made, in a sentence."""


def scatter(region: Region, count: int, seed: int, rounds: int = 12) -> Array:
    """``count`` places (n, 2) spread over a region from a seed: random ones, each drawn to the
    middle of what is nearest to it (Lloyd, 1982), so that they keep apart."""
    rng = np.random.default_rng(seed)
    low, high = region.outer.min(axis=0), region.outer.max(axis=0)
    places = np.zeros((0, 2))
    while len(places) < count:
        tries = low + rng.random((4 * count + 16, 2)) * (high - low)
        places = np.vstack([places, tries[region.contains(tries)]])
    places = places[:count]
    for _ in range(rounds):
        cells = _cells(region, places)
        places = np.array(
            [
                np.array(c.representative_point().coords[0])
                if not c.contains(c.centroid)
                else np.array(c.centroid.coords[0])
                for c in cells
            ]
        )
    return places


def _cells(region: Region, sites: Array) -> list[shapely.Polygon]:
    """The part of the region nearest to each site, in the order of the sites; the largest piece
    where there are more."""
    if len(sites) == 1:
        return [region.polygon]
    diagram = shapely.voronoi_polygons(
        shapely.MultiPoint(sites), extend_to=region.polygon.buffer(1.0)
    )
    parts = list(diagram.geoms)
    tree = shapely.STRtree(parts)
    out = []
    for site in sites:
        hits = tree.query(shapely.Point(site), predicate="intersects")
        if not len(hits):
            raise CanopyError("Two columns stand on the same place.")
        cut = shapely.intersection(parts[hits[0]], region.polygon)
        pieces = [p for p in shapely.get_parts(cut) if p.geom_type == "Polygon" and p.area > 0]
        if not pieces:
            raise CanopyError(
                f"The column at ({site[0]:.2f}, {site[1]:.2f}) m stands outside the outline."
            )
        out.append(max(pieces, key=lambda p: p.area))
    return out


def _divided_rings(cells: list[shapely.Polygon], around: int) -> tuple[Array, list[Index]]:
    """Points (n, 2) on the cells' borders, about ``around`` for each, and each cell's run of them
    counter-clockwise.

    Runs between places where three cells meet, or where the outline has a corner, are divided
    evenly by their length, once for both cells beside them.
    """
    rings = [np.asarray(shapely.geometry.polygon.orient(c).exterior.coords)[:-1] for c in cells]
    size = max(float(np.ptp(np.vstack(rings), axis=0).max()), 1e-9)
    points, number = weld(np.vstack(rings), 1e-7 * size)
    ends = np.cumsum([len(r) for r in rings])
    runs = [_without_repeats(r) for r in np.split(number, ends[:-1])]
    links: dict[int, set[int]] = {}
    for run in runs:
        for a, b in zip(run, np.roll(run, -1), strict=True):
            links.setdefault(int(a), set()).add(int(b))
            links.setdefault(int(b), set()).add(int(a))
    nodes = {v for v, near in links.items() if len(near) != 2 or _turns(points, v, sorted(near))}
    lengths = [shapely.LinearRing(points[r]).length for r in runs]
    step = float(np.mean(lengths)) / around
    made: dict[tuple[int, ...], list[int]] = {}
    out_points: list[Array] = []
    node_number: dict[int, int] = {}

    def named(v: int) -> int:
        if v not in node_number:
            node_number[v] = len(out_points)
            out_points.append(points[v])
        return node_number[v]

    out_rings = []
    for run in runs:
        starts = [k for k, v in enumerate(run) if int(v) in nodes] or [0]
        ring: list[int] = []
        for s, e in zip(starts, [*starts[1:], starts[0] + len(run)], strict=True):
            chain = tuple(int(run[k % len(run)]) for k in range(s, e + 1))
            key = min(chain, chain[::-1])
            if key not in made:
                line = shapely.LineString(points[list(key)])
                parts = max(round(line.length / step), 3 if len(starts) == 1 else 1)
                inner = [
                    np.array(line.interpolate(k / parts, normalized=True).coords[0])
                    for k in range(1, parts)
                ]
                first = len(out_points)
                out_points.extend(inner)
                made[key] = list(range(first, first + len(inner)))
            middle = made[key] if chain == key else made[key][::-1]
            ring += [named(chain[0]), *middle]
        out_rings.append(np.array(ring, np.int32))
    return np.array(out_points), out_rings


def _without_repeats(run: Index) -> Index:
    return run[run != np.roll(run, 1)]


def _turns(points: Array, v: int, near: list[int]) -> bool:
    a, b = points[v] - points[near[0]], points[near[1]] - points[v]
    return abs(float(np.arctan2(a[0] * b[1] - a[1] * b[0], a @ b))) > CORNER


def canopy(
    region: Region,
    sites: Array,
    height: float,
    share: float,
    around: int,
    along: int,
    round_feet: bool,
    level: float,
) -> Mesh:
    """Mesh of quads over a ``region``: from the cell of each of the ``sites`` (n, 2) a funnel of
    ``along`` rings of ``around`` quads down to a foot, which is a circle with ``round_feet``.

    The border of the cells lies ``height`` (m) above ``level``, the feet on it; a foot is its cell
    shrunk to ``share`` about its middle, or a circle of that area. Named runs: ``outer border`` and
    ``foot 1`` … in the order of the sites. In section a funnel is a quarter of an ellipse, level at
    the border and upright at the foot.
    """
    cells = _cells(region, sites)
    points, rings = _divided_rings(cells, around)
    vertices = [np.column_stack([points, np.full(len(points), level + height)])]
    count = len(points)
    quads, names = [], {}
    s = np.linspace(0, np.pi / 2, along + 1)[1:]
    for k, (ring, cell) in enumerate(zip(rings, cells, strict=True), 1):
        p = points[ring]
        centre = np.array(cell.centroid.coords[0])
        if not cell.contains(shapely.Point(centre)):
            centre = np.array(cell.representative_point().coords[0])
        foot = centre + share * (p - centre)
        if round_feet:
            way = p - centre
            radius = share * np.sqrt(cell.area / np.pi)
            radius = min(radius, 0.9 * cell.exterior.distance(shapely.Point(centre)))
            foot = centre + radius * way / np.linalg.norm(way, axis=1, keepdims=True)
        inward = np.sin(s)[:, None, None]
        levels = p + inward * (foot - p)
        heights = np.broadcast_to(
            (level + height * np.cos(s))[:, None, None], (along, len(ring), 1)
        )
        vertices.append(np.concatenate([levels, heights], axis=2).reshape(-1, 3))
        number = np.vstack([ring, count + np.arange(along * len(ring)).reshape(along, -1)])
        a, b = number[:-1], np.roll(number[:-1], -1, axis=1)
        d, c = number[1:], np.roll(number[1:], -1, axis=1)
        quads.append(np.stack([a, b, c, d], axis=-1).reshape(-1, 4))
        names[f"foot {k}"] = number[-1].astype(np.int32)
        count += along * len(ring)
    flat = np.concatenate(quads).astype(np.int32)
    mesh = Mesh(
        np.vstack(vertices), flat.ravel(), np.arange(0, flat.size + 1, 4, dtype=np.int32), names
    )
    feet = {int(v) for run in names.values() for v in run}
    outer = max(
        (loop for loop in mesh.loops if int(loop[0]) not in feet),
        key=len,
        default=np.zeros(0, np.int32),
    )
    return Mesh(mesh.vertices, mesh.corners, mesh.offsets, {"outer border": outer, **names})
