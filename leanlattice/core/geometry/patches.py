"""Surfaces made from one: its parts between creases, and walls along its sides."""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray

from .surfaces import Surface

__all__ = ["Patch", "Wall", "patch"]

Array = NDArray[np.float64]
STEP = 1e-5
"""Share of a side over which differences of a wall are taken."""
WITHIN = 1e-9
"""Share of a patch by which its derivatives are taken inside of it, as they change at creases."""


@dataclass(frozen=True, eq=False)
class Patch(Surface):
    """``base`` between parameters ``low`` and ``high`` (2,), smooth up to its sides."""

    base: Surface
    low: Array
    high: Array
    closed_u: bool
    closed_v: bool
    degenerate: frozenset[str]
    flipped: bool

    @property
    def breaks(self) -> tuple[tuple[float, ...], tuple[float, ...]]:
        shares = [
            (np.array(line, float) - low) / (high - low)
            for line, low, high in zip(self.base.breaks, self.low, self.high, strict=True)
        ]
        u, v = (tuple(s[(s > WITHIN) & (s < 1 - WITHIN)].tolist()) for s in shares)
        return u, v

    def derivatives(self, uv: Array, du: int = 0, dv: int = 0) -> Array:
        size = self.high - self.low
        inside = np.clip(uv, WITHIN, 1 - WITHIN) if du + dv else uv
        scale = float(size[0] ** du * size[1] ** dv)
        return scale * self.base.derivatives(self.low + inside * size, du, dv)


@dataclass(frozen=True, eq=False)
class Wall(Surface):
    """Straight lines along the normals of ``base`` on one of its sides, as ``"u0"``: u runs along
    the side, and v from ``inside`` to ``outside`` (m) of it. Its derivatives are differences."""

    base: Surface
    side: str
    inside: float
    outside: float
    closed_u: bool

    def _places(self, uv: Array) -> Array:
        axis = "uv".index(self.side[0])
        at = np.empty_like(uv)
        at[:, axis], at[:, 1 - axis] = float(self.side[1]), uv[:, 0]
        off = self.inside + uv[:, 1:] * (self.outside - self.inside)
        return self.base.points(at) + off * self.base.normals(at)

    def derivatives(self, uv: Array, du: int = 0, dv: int = 0) -> Array:
        if du + dv == 0:
            return self._places(uv)
        # Within the square, so that a closed side is not asked for beyond its ends.
        middle = np.clip(uv, 2 * STEP, 1 - 2 * STEP)
        step = STEP * np.eye(2)[0 if du else 1]
        low, high = (
            self.derivatives(middle + way, du - (du > 0), dv - (du == 0)) for way in (-step, step)
        )
        return np.asarray((high - low) / (2 * STEP))


def patch(base: Surface, low: Array, high: Array) -> Patch:
    """The part of a surface between parameters ``low`` and ``high`` (2,)."""
    whole = (low == 0) & (high == 1)
    kept = {
        side
        for side in base.degenerate
        if (low, high)[int(side[1])]["uv".index(side[0])] == float(side[1])
    }
    closed_u, closed_v = bool(base.closed_u and whole[0]), bool(base.closed_v and whole[1])
    return Patch(base, low, high, closed_u, closed_v, frozenset(kept), base.flipped)
