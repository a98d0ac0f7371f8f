"""The smooth surface over a boundary that bends least."""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np
import shapely
from numpy.typing import NDArray

from ..compiled import compiled
from ..geometry.regions import Region
from ..geometry.surfaces import Surface

__all__ = ["Plate", "thin_plate"]

Array = NDArray[np.float64]


@dataclass(frozen=True, eq=False)
class Plate(Surface):
    """z(x, y) = a + b x + c y + Σ wᵢ r² ln r over a region in plan; u and v are shares of its box
    along x and y."""

    centres: Array
    weights: Array
    affine: Array
    low: Array
    size: Array
    domain: Region | None
    flipped: bool = False

    def derivatives(self, uv: Array, du: int = 0, dv: int = 0) -> Array:
        x, y = (self.low + uv * self.size - self._shift).T / self._scale
        z = (
            self._height(x, y, du, dv)
            * (self.size[0] / self._scale) ** du
            * (self.size[1] / self._scale) ** dv
        )
        out = np.zeros((len(uv), 3))
        if du + dv == 0:
            out[:, :2] = self.low + uv * self.size
        elif du + dv == 1:
            out[:, 0 if du else 1] = self.size[0 if du else 1]
        out[:, 2] = z
        return out

    @property
    def _shift(self) -> Array:
        return self.low + self.size / 2

    @property
    def _scale(self) -> float:
        return float(self.size.max())

    def _height(self, x: Array, y: Array, dx: int, dy: int) -> Array:
        plane = [
            self.affine[0] + self.affine[1] * x + self.affine[2] * y,
            self.affine[1],
            self.affine[2],
        ]
        rest = plane[0] if dx + dy == 0 else plane[1 if dx else 2] if dx + dy == 1 else 0.0
        return np.asarray(
            _kernel_sums(np.column_stack([x, y]), self.centres, self.weights, dx, dy) + rest
        )

    def normals(self, uv: Array) -> Array:
        x, y = (self.low + np.clip(uv, 0.0, 1.0) * self.size - self._shift).T / self._scale
        slopes = _slope_sums(np.column_stack([x, y]), self.centres, self.weights) + self.affine[1:]
        n = np.column_stack([-slopes / self._scale, np.ones(len(uv))])
        n /= np.linalg.norm(n, axis=1, keepdims=True)
        return -n if self.flipped else n

    @property
    def lengths(self) -> tuple[float, float]:
        """The box's sides, as the surface rarely reaches across it all."""
        return float(self.size[0]), float(self.size[1])


@compiled(fastmath=True)
def _kernel_sums(at: Array, centres: Array, weights: Array, dx: int, dy: int) -> Array:
    """Σ wᵢ k(at − centreᵢ) (n,) with the derivative of r² ln r that is ``dx`` times by x and ``dy``
    times by y."""
    out = np.zeros(len(at))
    for i in range(len(at)):
        total = 0.0
        for k in range(len(centres)):
            ex, ey = at[i, 0] - centres[k, 0], at[i, 1] - centres[k, 1]
            square = max(ex * ex + ey * ey, 1e-24)
            if dx + dy == 0:
                value = square * np.log(square) / 2
            elif dx + dy == 1:
                value = (ex if dx else ey) * (np.log(square) + 1)
            elif dx == 1:
                value = 2 * ex * ey / square
            else:
                e = ex if dx else ey
                value = np.log(square) + 1 + 2 * e * e / square
            total += weights[k] * value
        out[i] = total
    return out


@compiled(fastmath=True)
def _slope_sums(at: Array, centres: Array, weights: Array) -> Array:
    """Both first derivatives (n, 2) of the same sum, each logarithm taken once."""
    out = np.zeros((len(at), 2))
    for i in range(len(at)):
        for k in range(len(centres)):
            ex, ey = at[i, 0] - centres[k, 0], at[i, 1] - centres[k, 1]
            value = weights[k] * (np.log(max(ex * ex + ey * ey, 1e-24)) + 1)
            out[i, 0] += ex * value
            out[i, 1] += ey * value
    return out


def thin_plate(
    outline: Array, openings: tuple[Array, ...], points: Array, softness: float, level_edge: bool
) -> Plate:
    """Surface through a closed ``outline`` (n, 3), the edges of ``openings`` in it, and near
    ``points`` (m, 3), all in metres, that bends least in plan.

    Thin-plate spline (Duchon, 1977): the border is kept, ``softness`` ≥ 0 says how freely the
    surface may pass by the points: 0 passes through them, 1 lets the bending decide (smoothing as
    in Wahba, 1990, §2.4). With ``level_edge`` the surface leaves the border level: a second ring of
    heights stands close inside it.
    """
    ring = outline[:, :2]
    low, size = ring.min(axis=0), np.ptp(ring, axis=0)
    scale, shift = float(size.max()), low + size / 2
    fixed = [outline]
    if level_edge:
        polygon = shapely.Polygon(ring)
        step = 0.004 * scale
        inner = polygon.buffer(-step)
        nearest = (
            shapely.get_coordinates(
                shapely.line_interpolate_point(
                    inner.exterior, shapely.line_locate_point(inner.exterior, shapely.points(ring))
                )
            )
            if not inner.is_empty and inner.geom_type == "Polygon"
            else np.zeros((0, 2))
        )
        if len(nearest):
            fixed.append(np.column_stack([nearest, outline[:, 2]]))
    fixed_points = np.vstack(fixed)
    at = np.vstack([fixed_points, points])
    flat = (at[:, :2] - shift) / scale
    # Two heights at one place would leave no solution: the first counts.
    _, first = np.unique(np.round(flat, 7), axis=0, return_index=True)
    first.sort()
    flat, heights = flat[first], at[first, 2]
    free = first >= len(fixed_points)
    n = len(flat)
    e = flat[:, None] - flat[None]
    square = np.maximum((e * e).sum(axis=2), 1e-24)
    kernel = square * np.log(square) / 2
    kernel[np.diag_indices(n)] = np.where(
        free, 8 * np.pi * 0.02 * softness**2 / max(1.0001 - softness, 1e-4), 0.0
    )
    affine = np.column_stack([np.ones(n), flat])
    system = np.block([[kernel, affine], [affine.T, np.zeros((3, 3))]])
    solution = (
        np.linalg.lstsq(system, np.concatenate([heights, np.zeros(3)]), rcond=1e-13)[0]
        if n < 4
        else (np.linalg.solve(system, np.concatenate([heights, np.zeros(3)])))
    )
    region = Region(ring, tuple(o[:, :2] for o in openings)).mapped(low, size)
    return Plate(flat, solution[:n], solution[n:], low, size, region)
