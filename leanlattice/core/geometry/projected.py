"""A surface as seen along a direction: its parameters are the places of that picture."""

from __future__ import annotations

from dataclasses import dataclass, field

import numpy as np
import scipy
from numpy.typing import NDArray

from .flatten import turned_over
from .meshsurface import MeshSurface
from .regions import Region
from .surfaces import Surface

__all__ = ["Projected", "ProjectionError", "picture_axes", "places_seen_at", "projected"]

Array = NDArray[np.float64]
SIDE_POINTS = 240
UPRIGHT = 1e-9
"""A surface seen at less of its size than this stands upright on the picture."""


class ProjectionError(ValueError):
    """A surface that lies over itself as seen along a direction."""


def picture_axes(direction: Array) -> Array:
    """Two unit vectors (2, 3) across a view along ``direction`` (3,); x and y for a view from
    above."""
    d = np.asarray(direction, float) / np.linalg.norm(direction)
    across = np.cross([0.0, 1.0, 0.0], d) if abs(d[1]) < 0.95 else np.cross([0.0, 0.0, 1.0], d)
    across /= np.linalg.norm(across)
    return np.stack([across, np.cross(d, across)])


def places_seen_at(surface: Surface, seen: Array, axes: Array) -> tuple[Array, NDArray[np.bool_]]:
    """Parameters (n, 2) of the places of a surface seen at ``seen`` (n, 2) in the picture across
    ``axes`` (2, 3), by Newton's method from the nearest sample, and whether each was found; they
    may lie outside the square."""
    axis = np.linspace(0, 1, 41)
    grid = np.stack(np.meshgrid(axis, axis, indexing="ij"), axis=-1).reshape(-1, 2)
    samples = surface.points(grid) @ axes.T
    uv = grid[scipy.spatial.cKDTree(samples).query(seen)[1]].astype(float)
    for _ in range(40):
        gap = surface.extended(uv) @ axes.T - seen
        inside = surface.wrapped(uv)
        su, sv = (
            surface.derivatives(inside, 1, 0) @ axes.T,
            surface.derivatives(inside, 0, 1) @ axes.T,
        )
        det = su[:, 0] * sv[:, 1] - su[:, 1] * sv[:, 0]
        det = np.where(np.abs(det) < 1e-14, 1e-14, det)
        step = np.column_stack(
            [
                (sv[:, 1] * gap[:, 0] - sv[:, 0] * gap[:, 1]) / det,
                (su[:, 0] * gap[:, 1] - su[:, 1] * gap[:, 0]) / det,
            ]
        )
        uv = uv - np.clip(step, -0.1, 0.1)
        if np.abs(step).max(initial=0.0) < 1e-13:
            break
    size = float(np.ptp(samples, axis=0).max())
    return uv, np.linalg.norm(surface.extended(uv) @ axes.T - seen, axis=1) < 1e-7 * size


@dataclass(frozen=True, eq=False)
class Projected(Surface):
    """``base`` with parameters that are shares of the box, from ``low`` of ``size`` (2,) in metres,
    that it fills in the picture across ``axes`` (2, 3)."""

    base: Surface
    axes: Array
    low: Array
    size: Array
    domain: Region | None
    flipped: bool = False
    _last: dict[str, tuple[Array, Array]] = field(default_factory=dict, repr=False)

    def _base_uv(self, uv: Array) -> Array:
        known = self._last.get("uv")
        if known is None or known[0].shape != uv.shape or not np.array_equal(known[0], uv):
            found = places_seen_at(self.base, self.low + uv * self.size, self.axes)[0]
            known = (uv.copy(), self.base.wrapped(found))
            self._last["uv"] = known
        return known[1]

    def derivatives(self, uv: Array, du: int = 0, dv: int = 0) -> Array:
        """Points and first derivatives; those of higher order are not known and taken as none."""
        at = self._base_uv(uv)
        if du + dv == 0:
            return self.base.points(at)
        if du + dv > 1:
            return np.zeros((len(uv), 3))
        su, sv = self.base.derivatives(at, 1, 0), self.base.derivatives(at, 0, 1)
        jacobian = np.stack([su @ self.axes.T, sv @ self.axes.T], axis=-1) / self.size[:, None]
        # Where the surface stands upright on the picture, or a side of it shrinks to a point, a step
        # may move nothing: the least that comes nearest is taken.
        step = np.linalg.pinv(jacobian, rcond=UPRIGHT)[:, :, 0 if du else 1]
        return np.asarray(step[:, :1] * su + step[:, 1:] * sv)

    def normals(self, uv: Array) -> Array:
        n = self.base.normals(self._base_uv(uv))
        return n if self.flipped == self._facing_away else -n

    def curvatures(self, uv: Array) -> Array:
        c = self.base.curvatures(self._base_uv(uv))
        return c if self.flipped == self._facing_away else c * [1, -1]

    @property
    def _facing_away(self) -> bool:
        """Whether the base's outside looks away from who sees the picture."""
        at = self.base.normals(np.array([[0.5, 0.5], [0.3, 0.4], [0.6, 0.7]]))
        return bool((at @ np.cross(*self.axes)).sum() < 0)

    @property
    def lengths(self) -> tuple[float, float]:
        """The sides of the picture's box."""
        return float(self.size[0]), float(self.size[1])


def projected(surface: Surface, direction: Array) -> Surface:
    """The same surface with the parameters of its picture along ``direction`` (3,), from its tip.

    Raises ``ProjectionError`` where parts of it lie over each other in that picture.
    """
    axes = picture_axes(direction)
    ahead = np.cross(*axes)
    if isinstance(surface, MeshSurface):
        seen = surface.mesh.vertices @ axes.T
        turned = turned_over(seen, surface.mesh.triangles)
        if turned.any() and not turned_over(seen * [1, -1], surface.mesh.triangles).any():
            mesh, flipped = surface.mesh.reversed(), not surface.flipped
        elif turned.any():
            raise ProjectionError("faces of it lie over each other or edge on")
        else:
            mesh, flipped = surface.mesh, surface.flipped
        low, size = seen.min(axis=0), np.ptp(seen, axis=0)
        uv = (seen - low) / size
        return MeshSurface(
            mesh,
            uv,
            (float(size[0]), float(size[1])),
            Region.of([uv[r] for r in mesh.loops]),
            flipped,
        )
    axis = np.linspace(0, 1, 33)
    grid = np.stack(np.meshgrid(axis, axis, indexing="ij"), axis=-1).reshape(-1, 2)
    if surface.domain is not None:
        grid = grid[surface.domain.contains(grid)]
    facing = surface.normals(grid) @ ahead
    if facing.min() < 1e-6 and facing.max() > -1e-6:
        raise ProjectionError("parts of it stand edge on or hang over others")
    rings = [surface.points(r) @ axes.T for r in _border_rings(surface)]
    if not rings:
        raise ProjectionError("it closes on itself")
    every = np.vstack(rings)
    low, size = every.min(axis=0), np.ptp(every, axis=0)
    region = Region.of([(r - low) / size for r in rings])
    return Projected(surface, axes, low, size, region, bool(facing.mean() < 0))


def _border_rings(surface: Surface) -> list[Array]:
    """Closed runs of parameters round what the surface covers."""
    if surface.domain is not None:
        return [surface.domain.outer, *surface.domain.openings]
    t = np.arange(SIDE_POINTS) / SIDE_POINTS
    if surface.closed_u or surface.closed_v:
        axis = 1 if surface.closed_u else 0
        if surface.closed_u and surface.closed_v:
            return []
        ends = [e for e in (0.0, 1.0) if f"{'uv'[axis]}{int(e)}" not in surface.degenerate]
        return [np.column_stack([t, np.full_like(t, e)][:: 1 if axis else -1]) for e in ends]
    zero, one = np.zeros_like(t), np.ones_like(t)
    return [
        np.vstack([np.column_stack(s) for s in ((t, zero), (one, t), (1 - t, one), (zero, 1 - t))])
    ]
