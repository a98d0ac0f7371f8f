"""Parts put together again: solids from their flat outlines and poses, measured against each other and the design."""

from __future__ import annotations

from collections.abc import Callable, Sequence
from dataclasses import dataclass

import numpy as np
import shapely
from numpy.typing import NDArray
from scipy.spatial import cKDTree

from ..geometry.meshes import Body, Mesh
from ..geometry.meshsurface import nearest_in_triangles
from ..ribs.plates import solid_of
from ..settling.slides import nearest_on_mesh
from ..shaping.solids import refined
from .parts import Part

__all__ = ["Together", "put_together"]

Array = NDArray[np.float64]
SEARCH = 0.05
"""Gaps larger than this (m) are none between parts that meet."""
FINE = 60.0
"""Triangles measured against are no longer than the body over this."""
DOUBTFUL = 1e-4
"""Distances (m) that are looked into again."""
ALONG = 0.02
"""Outlines are measured against the body at places so far (m) apart."""


@dataclass(frozen=True)
class Together:
    """The largest ``overlap`` (mm³) of two parts and the largest ``gap`` (mm) between two that are to meet, each with their
    labels, and how far (mm) an outline lies from the body, ``slots`` left out, with its label."""

    overlap: float
    overlapping: tuple[str, ...]
    gap: float
    apart: tuple[str, ...]
    away: float
    furthest: str


def put_together(
    parts: Sequence[Part], meeting: Sequence[tuple[int, int]], body: Body | None = None,
    zones: Sequence[Sequence[shapely.Polygon]] = (),
    check: Callable[[float], None] = lambda share: None,
) -> Together:  # fmt: skip
    """All pairs of parts whose boxes meet are intersected as solids; ``meeting`` (positions) are those that touch.

    ``zones`` of each part, in metres in its plane, are where it is cut for others; there its outer outline is not measured
    against ``body``. ``check`` hears of the share done and may raise.
    """
    solids = []
    for p in parts:
        shape = shapely.Polygon(p.outer, p.inner)
        solids.append(solid_of(shape, p.pose[:3] * [1, 1, 1, 1], p.thickness))
    boxes = np.array([s.bounding_box() for s in solids]).reshape(-1, 2, 3)
    meet = ((boxes[:, None, 0] <= boxes[None, :, 1]) & (boxes[:, None, 1] >= boxes[None, :, 0])).all(axis=2)
    pairs = np.argwhere(np.triu(meet, 1))
    overlap = 0.0
    overlapping: tuple[str, ...] = ()
    for n, (i, j) in enumerate(pairs.tolist()):
        if n % 50 == 0:
            check(0.7 * n / max(len(pairs), 1))
        size = float((solids[i] ^ solids[j]).volume()) * 1e9
        if size > overlap:
            overlap, overlapping = size, (parts[i].label, parts[j].label)
    gap = 0.0
    apart: tuple[str, ...] = ()
    for n, (i, j) in enumerate(meeting):
        if n % 50 == 0:
            check(0.7 + 0.2 * n / max(len(meeting), 1))
        size = float(solids[i].min_gap(solids[j], SEARCH)) * 1000
        if size > gap:
            gap, apart = size, (parts[i].label, parts[j].label)
    away, furthest = 0.0, ""
    if body is not None:
        # Of triangles alike small the nearest has a near middle.
        skin = refined(body, float(body.mesh.extent.max()) / FINE).mesh
        find, exact = nearest_on_mesh(skin, 40), _exactly(skin)
        for n, p in enumerate(parts):
            check(0.9 + 0.1 * n / len(parts))
            flat = _resampled(p.outer, ALONG * 1000)
            if len(zones) and len(zones[n]):
                cut = shapely.union_all(list(zones[n])).buffer(ALONG)
                flat = flat[~shapely.contains_xy(cut, flat / 1000)]
            if not len(flat):
                continue
            at = np.column_stack([flat, np.zeros(len(flat)), np.ones(len(flat))]) @ p.pose[:3].T
            off = np.linalg.norm(find(at)[0] - at, axis=1)
            # Thin wedges have so many small triangles that the nearest can be missed.
            far = np.flatnonzero(off > DOUBTFUL)
            off = np.concatenate([np.delete(off, far), exact(at[far], off[far])]) * 1000
            if off.max() > away:
                away, furthest = float(off.max()), p.label
    return Together(overlap, overlapping, gap, apart, away, furthest)


def _exactly(mesh: Mesh) -> Callable[[Array, Array], Array]:
    """Gives distances (n,) of places (n, 3) from a mesh that are known to be at most so much."""
    corner = mesh.vertices[mesh.triangles]
    middle = corner.mean(axis=1)
    tree, reach = cKDTree(middle), float(np.linalg.norm(corner - middle[:, None], axis=2).max())

    def find(places: Array, most: Array) -> Array:
        out = most.copy()
        for k, (x, d) in enumerate(zip(places, most, strict=True)):
            near = np.array(tree.query_ball_point(x, d + reach))
            share = nearest_in_triangles(x[None, None], *(corner[near, c][None] for c in range(3)))[0]
            at = np.einsum("nc,ncd->nd", share, corner[near])
            out[k] = min(d, float(np.linalg.norm(at - x, axis=1).min()))
        return out

    return find


def _resampled(ring: Array, step: float) -> Array:
    closed = np.vstack([ring, ring[:1]])
    at = np.concatenate([[0.0], np.cumsum(np.linalg.norm(np.diff(closed, axis=0), axis=1))])
    wanted = np.linspace(0, at[-1], max(4, int(at[-1] / step)), endpoint=False)
    return np.column_stack([np.interp(wanted, at, closed[:, k]) for k in range(2)])
