"""Parts put together again: solids from their flat outlines and poses, measured against each other
and the design."""

from __future__ import annotations

from collections.abc import Callable, Sequence
from dataclasses import dataclass
from typing import Any

import manifold3d
import numpy as np
import shapely
from numpy.typing import NDArray

from ..geometry.meshes import Body
from ..shaping.onto import off_faces
from ..shaping.solids import SolidError, solid_of_rings
from .parts import Part

__all__ = ["Together", "put_together"]

Array = NDArray[np.float64]
PRESS = 0.5
"""The most (mm) by which a plate can be pressed into a slot that is narrower."""
CLOSE, SEARCH = 0.001, 0.05
"""Gaps larger than this (m) are none between parts that meet."""
LEAST_SINE = 0.02
"""Plates at a smaller angle are looked at as wholes."""
LOST = 1e-3
"""Share of a part's area that may be lost where it is cut into plane pieces."""
ALONG = 0.02
"""Outlines are measured against the body at places so far (m) apart."""


@dataclass(frozen=True)
class Together:
    """The largest ``overlap`` (mm³) of two parts and the largest ``gap`` (mm) between two that are
    to meet, each with their labels, and how far (mm) an outline lies from the body, ``slots`` left
    out, with its label."""

    overlap: float
    overlapping: tuple[str, ...]
    gap: float
    apart: tuple[str, ...]
    away: float
    furthest: str


def put_together(
    parts: Sequence[Part],
    meeting: Sequence[tuple[int, int]],
    body: Body | None = None,
    zones: Sequence[Sequence[shapely.Polygon]] = (),
    check: Callable[[float], None] = lambda share: None,
    press: float = 0.0,
) -> Together:
    """All pairs of parts whose boxes meet are intersected as solids; ``meeting`` (positions) are
    those that touch.

    ``zones`` of each part, in metres in its plane, are where it is cut for others; there its outer
    outline is not measured against ``body``. ``check`` hears of the share done and may raise. By
    ``press`` (mm) plates are wider than their slots on purpose, and measured as if they were so
    much thinner, as far as they can be pressed in.
    """
    near = _Near(parts, min(press, PRESS))
    wanted = {(min(i, j), max(i, j)) for i, j in meeting}
    overlap, gap = 0.0, 0.0
    overlapping: tuple[str, ...] = ()
    apart: tuple[str, ...] = ()
    pairs = near.pairs()
    gaps = dict.fromkeys(wanted, SEARCH)
    for n, (a, b) in enumerate(pairs):
        check(0.9 * n / max(len(pairs), 1))
        i, j = near.owner[a], near.owner[b]
        one, two = near.both(a, b)
        size = float((one ^ two).volume()) * 1e9
        if size > overlap:
            overlap, overlapping = size, (parts[i].label, parts[j].label)
        if gaps.get((i, j), 0.0) > 0:
            # Most all but touch, and a short look is a quick one.
            size = float(one.min_gap(two, CLOSE))
            gaps[i, j] = min(gaps[i, j], float(one.min_gap(two, SEARCH)) if size >= CLOSE else size)
    for (i, j), size in gaps.items():
        if size * 1000 > gap:
            gap, apart = size * 1000, (parts[i].label, parts[j].label)
    away, furthest = 0.0, ""
    if body is not None:
        check(0.9)
        away, furthest = _off_body(parts, body, zones)
    return Together(overlap, overlapping, gap, apart, away, furthest)


def _off_body(
    parts: Sequence[Part], body: Body, zones: Sequence[Sequence[shapely.Polygon]]
) -> tuple[float, str]:
    """How far (mm) an outer outline lies from the body, and the label of its part."""
    every, of = [], []
    for n, p in enumerate(parts):
        flat = _resampled(p.outer, ALONG * 1000)
        if len(zones) and len(zones[n]):
            cut = shapely.union_all(list(zones[n])).buffer(ALONG)
            flat = flat[~shapely.contains_xy(cut, flat / 1000)]
        every.append(p.places(flat))
        of.append(np.full(len(flat), n))
    off = off_faces(body, np.concatenate(every)) * 1000
    if not len(off) or off.max() <= 0:
        return 0.0, ""
    return float(off.max()), parts[np.concatenate(of)[np.argmax(off)]].label


class _Near:
    """Plane pieces of parts as solids, of pairs only what of each lies near the other: a plate is
    met by another only along the line in which their planes meet. ``owner`` are positions of the
    parts they are of."""

    def __init__(self, parts: Sequence[Part], press: float = 0.0) -> None:
        pieces = [(k, shape, pose) for k, p in enumerate(parts) for shape, pose in p.pieces()]
        self.owner = [k for k, _, _ in pieces]
        self.shapes = [shape for _, shape, _ in pieces]
        self.pose = np.array([pose for _, _, pose in pieces]).reshape(-1, 3, 4)
        self.axes = self.pose[:, :, :3] * 1000
        areas = np.bincount(self.owner, [s.area for s in self.shapes], len(parts))
        for p, area in zip(parts, areas.tolist(), strict=True):
            if not abs(area - p.area) <= LOST * max(p.area, 1.0) or p.area <= 0:
                raise SolidError(
                    f"{p.label} is no sound plate: its pieces are {area:.0f} of {p.area:.0f} mm²"
                )
        self.thick = np.array([parts[k].thickness - press for k in self.owner])

    def pairs(self) -> list[tuple[int, int]]:
        """Pairs of pieces of different parts that meet, or all but meet: their boxes in space do,
        and neither lies all on one side of the other."""
        flat: Any = shapely.bounds(np.array(self.shapes, object))
        corner = flat[:, [[0, 1], [2, 1], [2, 3], [0, 3]]].reshape(-1, 4, 2)
        at = np.einsum("nkc,ndc->nkd", corner, self.pose[:, :, :2]) + self.pose[:, None, :, 3]
        grow = self.thick[:, None] / 1000
        low, high = at.min(axis=1) - grow, at.max(axis=1) + grow
        meet = ((low[:, None] <= high[None]) & (high[:, None] >= low[None])).all(axis=2)
        owner = np.array(self.owner)
        i, j = np.argwhere(np.triu(meet & (owner[:, None] != owner[None]), 1)).T
        reach = (grow[i, 0] + grow[j, 0])[:, None]
        beside = np.zeros(len(i), bool)
        for a, b in ((i, j), (j, i)):
            off = np.einsum("nkd,nd->nk", at[b] - self.pose[a, None, :, 3], self.axes[a, :, 2])
            beside |= ((off > reach).all(axis=1)) | ((off < -reach).all(axis=1))
        return list(zip(i[~beside].tolist(), j[~beside].tolist(), strict=True))

    def both(self, i: int, j: int) -> tuple[manifold3d.Manifold, manifold3d.Manifold]:
        """What of two pieces lies near the other, as solids in metres."""
        n, m = self.axes[i, :, 2], self.axes[j, :, 2]
        cosine = float(n @ m)
        sine = float(np.sqrt(max(1 - cosine * cosine, 0.0)))
        return self._part(i, j, n, m, cosine, sine), self._part(j, i, m, n, cosine, sine)

    def _part(
        self, i: int, j: int, n: Array, m: Array, cosine: float, sine: float
    ) -> manifold3d.Manifold:
        shape: Any = self.shapes[i]
        if sine > LEAST_SINE:
            x, y = self.axes[i, :, 0], self.axes[i, :, 1]
            way = np.cross(n, m) / sine
            along = np.array([way @ x, way @ y])
            across = np.array([along[1], -along[0]])
            # Where the other's middle plane cuts this one's: (p - other) . m = 0 for p in this
            # plane.
            slope = np.array([x @ m, y @ m])
            at = float(slope @ across)
            place = float((self.pose[j, :, 3] - self.pose[i, :, 3]) @ m) * 1000 / at
            width = (self.thick[j] + self.thick[i] * abs(cosine)) / sine / 2 + SEARCH * 1000
            far = 2 * float(np.abs(shape.bounds).max()) + width
            u, v = np.array([-1, 1, 1, -1]) * width + place, np.array([-1, -1, 1, 1]) * far
            shape = shape.intersection(shapely.Polygon(u[:, None] * across + v[:, None] * along))
        pieces = [p for p in shapely.get_parts(shape) if isinstance(p, shapely.Polygon)]
        rings = [
            shapely.get_coordinates(r)[:-1] for p in pieces for r in (p.exterior, *p.interiors)
        ]
        return solid_of_rings(rings, self.pose[i], float(self.thick[i]))


def _resampled(ring: Array, step: float) -> Array:
    closed = np.vstack([ring, ring[:1]])
    at = np.concatenate([[0.0], np.cumsum(np.linalg.norm(np.diff(closed, axis=0), axis=1))])
    wanted = np.linspace(0, at[-1], max(4, int(at[-1] / step)), endpoint=False)
    return np.column_stack([np.interp(wanted, at, closed[:, k]) for k in range(2)])
