"""Where ribs are cut: families of planes."""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray

__all__ = ["Planes", "evenly", "fan", "parallel"]

Array = NDArray[np.float64]


@dataclass(frozen=True, eq=False)
class Planes:
    """Planes through ``origins`` (n, 3) in metres with unit axes ``x`` and ``y`` (n, 3); their
    normal is x × y. Where ``half`` is given, only what lies beyond so far along x counts; where
    ``near`` (n, 2) is, pieces that lie wholly before or beyond it along x do not."""

    origins: Array
    x: Array
    y: Array
    half: float | None = None
    near: Array | None = None

    @property
    def normals(self) -> Array:
        return np.cross(self.x, self.y)

    def __len__(self) -> int:
        return len(self.origins)

    def lifted(self, flat: Array, which: NDArray[np.int64]) -> tuple[Array, Array]:
        """Places (n, 3) in space of places (n, 2) in planes ``which`` (n,), and the unit vectors
        (n, 2, 3) along x and y."""
        ways = np.stack([self.x[which], self.y[which]], axis=1)
        return self.origins[which] + np.einsum("ni,nij->nj", flat, ways), ways


def evenly(
    low: float,
    high: float,
    number: int | None = None,
    spacing: float = 1.0,
    start: float | None = None,
) -> Array:
    """Places from ``low`` to ``high``: a ``number`` of them each in the middle of its share; or
    ``spacing`` apart, as many as fit, centred or from ``start`` past the low end."""
    if number is not None:
        return np.asarray(low + (np.arange(number) + 0.5) * (high - low) / number)
    if start is not None:
        return np.arange(low + start, high, spacing)
    count = max(1, int(np.floor((high - low) / spacing)))
    return np.asarray((low + high) / 2 + (np.arange(count) - (count - 1) / 2) * spacing)


def parallel(normal: Array, up: Array, places: Array) -> Planes:
    """Planes square to ``normal`` (3,) at distances ``places`` (n,) along it; y is ``up`` as far as
    it lies in them."""
    n = np.asarray(normal, float) / np.linalg.norm(normal)
    y = np.asarray(up, float) - float(np.dot(up, n)) * n
    if np.linalg.norm(y) < 1e-9:
        y = np.cross(n, [1.0, 0, 0]) if abs(n[0]) < 0.9 else np.cross(n, [0, 1.0, 0])
    y = y / np.linalg.norm(y)
    x = np.cross(y, n)
    count = len(places)
    return Planes(
        np.asarray(places, float)[:, None] * n, np.tile(x, (count, 1)), np.tile(y, (count, 1))
    )


def fan(centre: Array, number: int, core: float, first: float = 0.0) -> Planes:
    """Upright half planes about the plumb line through ``centre`` (3,), beyond a ``core`` radius
    (m), from ``first`` (rad)."""
    angle = first + 2 * np.pi * np.arange(number) / number
    x = np.column_stack([np.cos(angle), np.sin(angle), np.zeros(number)])
    return Planes(np.tile(centre, (number, 1)), x, np.tile([0.0, 0, 1.0], (number, 1)), core)
