"""How a pattern lies in the square of parameters: bays, turn, shift, lean and mirror."""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray

__all__ = ["Layout"]

Array = NDArray[np.float64]


@dataclass(frozen=True)
class Layout:
    """Takes places counted in bays to parameters.

    ``bays`` along u and v; ``closed`` the directions that close; ``lengths`` (m) what the sides of
    the square stand for, so that a ``turn`` (rad, about the middle) keeps its angle in reality.
    ``shift`` in bays; ``lean`` moves each row by so many bays against the one before. ``margin`` is
    how far past the square, as a share of it, cells are wanted. ``seed``, ``rounds`` and
    ``sectors`` are for patterns that scatter points or count round an apex; ``apexes`` names the
    sides of the square that are one point.
    """

    bays: tuple[int, int]
    closed: tuple[bool, bool] = (False, False)
    lengths: tuple[float, float] = (1.0, 1.0)
    turn: float = 0.0
    shift: tuple[float, float] = (0.0, 0.0)
    lean: float = 0.0
    mirrored: bool = False
    margin: float = 0.0
    seed: int = 1
    rounds: int = 8
    sectors: int = 6
    apexes: frozenset[str] = frozenset()

    @property
    def _turned(self) -> Array:
        c, s = np.cos(self.turn), np.sin(self.turn)
        size = np.array(self.lengths)
        mirror = np.diag([-1.0 if self.mirrored else 1.0, 1.0])
        return np.asarray(np.diag(1 / size) @ np.array([[c, -s], [s, c]]) @ np.diag(size) @ mirror)

    @property
    def matrix(self) -> Array:
        """From a step in bays to a step in parameters (2, 2)."""
        return np.asarray(
            self._turned
            @ np.diag(1 / np.array(self.bays))
            @ np.array([[1.0, self.lean], [0.0, 1.0]])
        )

    @property
    def origin(self) -> Array:
        """Parameters (2,) of bay (0, 0); a turn and a mirror are about the middle."""
        shift = np.array(self.shift) / np.array(self.bays)
        return np.asarray(self._turned @ (shift - 0.5) + 0.5)

    def placed(self, bays: Array) -> Array:
        """Parameters (n, 2) of places (n, 2) counted in bays; in closed directions within one
        turn."""
        uv = bays @ self.matrix.T + self.origin
        for axis, closed in enumerate(self.closed):
            if closed:
                uv[:, axis] %= 1.0
                uv[np.abs(uv[:, axis] - 1.0) < 1e-9, axis] = 0.0
            else:
                near = np.round(uv[:, axis])
                uv[:, axis] = np.where(np.abs(uv[:, axis] - near) < 1e-12, near, uv[:, axis])
        return uv

    @property
    def box(self) -> tuple[Array, Array]:
        """Lowest and highest place (2,) in bays that a pattern over the square and its margin has
        to cover."""
        m = self.margin
        corners = np.array([[-m, -m], [1 + m, -m], [1 + m, 1 + m], [-m, 1 + m]])
        bays = (corners - self.origin) @ np.linalg.inv(self.matrix).T
        return bays.min(axis=0), bays.max(axis=0)
