"""The equal mesh: all edges one length, swung with compasses over a surface from two crossing lines
(Otto et al., 1974; Bouhaya et al., 2014)."""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray

from ..geometry.nets import Net, build_net
from ..geometry.polygons import vector_areas
from ..geometry.surfaces import Surface

__all__ = ["EqualMesh", "equal_mesh"]

Array = NDArray[np.float64]
EXACT = 1e-8
SHARPEST = np.radians(12)
"""Where rhombs close to less than this the mesh has run out."""


@dataclass(frozen=True, eq=False)
class EqualMesh:
    """The net, and the places (n, 3) at which it ran out before the shape's edge: rhombs closed up,
    or nothing was found."""

    net: Net
    ran_out: Array


class _Spread:
    """Vertices found so far, by their places (i, j) in the mesh."""

    def __init__(self, surface: Surface, length: float) -> None:
        self.surface, self.length = surface, length
        self.uv: dict[tuple[int, int], Array] = {}
        self.at: dict[tuple[int, int], Array] = {}
        self.ran_out: list[Array] = []

    def covered(self, uv: Array) -> NDArray[np.bool_]:
        """Whether parameters (n, 2) lie on the surface."""
        inside = np.ones(len(uv), bool)
        for axis, closed in enumerate((self.surface.closed_u, self.surface.closed_v)):
            if closed:  # once round is enough: beyond that the mesh would lie over itself
                inside &= np.abs(uv[:, axis] - self.uv[0, 0][axis]) <= 0.5
            else:
                inside &= (uv[:, axis] >= -1e-12) & (uv[:, axis] <= 1 + 1e-12)
        if self.surface.domain is not None:
            inside &= self.surface.domain.contains(np.clip(uv, 0, 1))
        return inside

    def solved(self, start: Array, gaps, partials) -> tuple[Array, Array, NDArray[np.bool_]]:  # type: ignore[no-untyped-def]
        """Parameters (n, 2) at which both ``gaps`` of the places (n, 3) vanish, by Newton's method
        from ``start``; the places; and whether each was found."""
        uv = start.copy()
        for _ in range(40):
            p = self.surface.extended(uv)
            g = gaps(p)
            if np.abs(g).max(initial=0.0) < 0.01 * EXACT:
                break
            held = self._held(uv)
            su, sv = self.surface.derivatives(held, 1, 0), self.surface.derivatives(held, 0, 1)
            d = partials(p)
            j = np.stack([np.einsum("nkd,nd->nk", d, su), np.einsum("nkd,nd->nk", d, sv)], axis=-1)
            det = j[:, 0, 0] * j[:, 1, 1] - j[:, 0, 1] * j[:, 1, 0]
            det = np.where(np.abs(det) < 1e-14, 1e-14, det)
            step = np.stack([j[:, 1, 1] * g[:, 0] - j[:, 0, 1] * g[:, 1],
                             j[:, 0, 0] * g[:, 1] - j[:, 1, 0] * g[:, 0]], axis=1) / det[:, None]  # fmt: skip
            uv = uv - np.clip(step, -0.05, 0.05)
        p = self.surface.extended(uv)
        return uv, p, np.abs(gaps(p)).max(axis=1) < EXACT

    def _held(self, uv: Array) -> Array:
        out = np.clip(uv, 0.0, 1.0)
        for axis, closed in enumerate((self.surface.closed_u, self.surface.closed_v)):
            if closed:
                out[:, axis] = uv[:, axis] % 1.0
        return out

    def line(self, start: Array, direction: Array, way: tuple[int, int], most: int) -> None:
        """Steps of one length from the first vertex along the section of the surface by its normal
        and ``direction``."""
        origin = self.at[0, 0]
        across = np.cross(self.surface.normals(self._held(start[None]))[0], direction)
        across /= np.linalg.norm(across)
        key, heading = (0, 0), direction * self.length
        for _ in range(most):
            p = self.at[key]
            su, sv = (
                self.surface.derivatives(self._held(self.uv[key][None]), *o)[0]
                for o in ((1, 0), (0, 1))
            )
            guess = (
                self.uv[key] + np.linalg.lstsq(np.column_stack([su, sv]), heading, rcond=None)[0]
            )

            def gaps(q: Array, p: Array = p) -> Array:
                d = q - p
                return np.column_stack(
                    [(d * d).sum(axis=1) - self.length**2, (q - origin) @ across]
                )

            def partials(q: Array, p: Array = p) -> Array:
                return np.stack([2 * (q - p), np.broadcast_to(across, q.shape)], axis=1)

            uv, q, found = self.solved(guess[None], gaps, partials)
            if not found[0] or not self.covered(uv)[0] or (q[0] - p) @ heading <= 0:
                return
            key = (key[0] + way[0], key[1] + way[1])
            self.uv[key], self.at[key] = uv[0], q[0]
            heading = q[0] - p

    def quadrant(self, di: int, dj: int, most: int) -> None:
        """Vertices of a quadrant, one diagonal after the other: each at one length from its two
        neighbours."""
        for total in range(2, 2 * most):
            keys = [
                (di * a, dj * (total - a)) for a in range(1, total)
                if (di * (a - 1), dj * (total - a)) in self.at and (di * a, dj * (total - a - 1)) in self.at
                and (di * (a - 1), dj * (total - a - 1)) in self.at
            ]  # fmt: skip
            if not keys:
                return
            self._diagonal(keys, di, dj)

    def _diagonal(self, keys: list[tuple[int, int]], di: int, dj: int) -> None:
        before = np.array(
            [[self.at[i - di, j], self.at[i, j - dj], self.at[i - di, j - dj]] for i, j in keys]
        )
        uvs = np.array(
            [[self.uv[i - di, j], self.uv[i, j - dj], self.uv[i - di, j - dj]] for i, j in keys]
        )
        one, two, back = before[:, 0], before[:, 1], before[:, 2]

        def gaps(q: Array) -> Array:
            a, b = q - one, q - two
            return np.column_stack([(a * a).sum(axis=1), (b * b).sum(axis=1)]) - self.length**2

        def partials(q: Array) -> Array:
            return 2 * np.stack([q - one, q - two], axis=1)

        uv, q, found = self.solved(uvs[:, 0] + uvs[:, 1] - uvs[:, 2], gaps, partials)
        inside = self.covered(uv)
        a, b = one - back, two - back
        angle = np.arccos(np.clip(np.einsum("ij,ij->i", a, b) / self.length**2, -1, 1))
        # Beyond the first corner again is the corner behind; a rhomb that is all but closed is no
        # use.
        real = found & (np.linalg.norm(q - back, axis=1) > 0.1 * self.length)
        real &= (angle > SHARPEST) & (angle < np.pi - SHARPEST)
        for k, key in enumerate(keys):
            if real[k] and inside[k]:
                self.uv[key], self.at[key] = uv[k], q[k]
            elif not real[k] and inside[k]:
                self.ran_out.append(before[k].mean(axis=0))


def equal_mesh(
    surface: Surface, length: float, start: Array, turn: float, most: int = 400
) -> EqualMesh:
    """Net of rhombs on a ``surface`` whose edges all measure ``length`` (m), from the crossing of
    two lines at parameters ``start`` (2,), turned by ``turn`` (rad) from the lines of u; whole
    rhombs only, and no more than ``most`` along a line."""
    spread = _Spread(surface, length)
    start = np.asarray(start, float)
    spread.uv[0, 0], spread.at[0, 0] = start, surface.points(start[None])[0]
    su = surface.derivatives(start[None], 1, 0)[0]
    normal = surface.normals(start[None])[0]
    su -= (su @ normal) * normal
    su /= np.linalg.norm(su)
    sv = np.cross(normal, su)
    c, s = np.cos(turn), np.sin(turn)
    first, second = c * su + s * sv, c * sv - s * su
    for direction, way in (
        (first, (1, 0)),
        (-first, (-1, 0)),
        (second, (0, 1)),
        (-second, (0, -1)),
    ):
        spread.line(start, direction, way, most)
    for di in (1, -1):
        for dj in (1, -1):
            spread.quadrant(di, dj, most)
    return EqualMesh(_net(surface, spread), np.array(spread.ran_out).reshape(-1, 3))


def _net(surface: Surface, spread: _Spread) -> Net:
    keys = sorted(spread.at)
    number = {key: k for k, key in enumerate(keys)}
    cells = [
        [number[i, j], number[i + 1, j], number[i + 1, j + 1], number[i, j + 1]] for i, j in keys
        if (i + 1, j) in number and (i, j + 1) in number and (i + 1, j + 1) in number
    ]  # fmt: skip
    corners = np.array(cells, np.int32).reshape(-1, 4)
    used = np.unique(corners)
    name = np.zeros(len(keys), np.int32)
    name[used] = np.arange(len(used))
    uv = np.array([spread.uv[k] for k in keys]).reshape(-1, 2)[used]
    for axis, closed in enumerate((surface.closed_u, surface.closed_v)):
        if closed:
            uv[:, axis] %= 1.0
    vertices = np.array([spread.at[k] for k in keys]).reshape(-1, 3)[used]
    corners = name[corners]
    offsets = np.arange(0, corners.size + 1, 4, dtype=np.int32)
    if len(corners):
        facing = vector_areas(vertices, corners.ravel(), offsets)
        if np.einsum("ij,ij->", facing, surface.normals(uv[corners[:, 0]])) < 0:
            corners = corners[:, ::-1]
    return build_net(surface, vertices, uv, np.ascontiguousarray(corners).ravel(), offsets)
