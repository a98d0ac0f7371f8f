"""Laying a pattern on a surface."""

from __future__ import annotations

import numpy as np
from numpy.typing import NDArray

from ..geometry.nets import Net, build_net
from ..geometry.surfaces import Surface
from .borders import BORDERS, cut_at_edge
from .flat import PATTERNS, FlatPattern, keep_cells
from .trimming import trim

__all__ = ["bays_for_module", "flat_pattern", "lay", "lines_at_seams"]

Array = NDArray[np.float64]
SIDES = ("u0", "u1", "v0", "v1")


def bays_for_module(surface: Surface, module: float) -> tuple[int, int]:
    """Numbers of bays along u and v whose real mean size comes closest to ``module`` in metres."""
    along_u, along_v = surface.lengths
    least_u, least_v = (3 if closed else 1 for closed in (surface.closed_u, surface.closed_v))
    return max(least_u, round(along_u / module)), max(least_v, round(along_v / module))


def lay(surface: Surface, pattern: str, bays: tuple[int, int], border: str = "cut") -> Net:
    """Net of the pattern with the given numbers of bays along u and v.

    ``pattern`` and ``border`` name entries of ``PATTERNS`` and ``BORDERS``. A direction that is closed needs three
    bays or more. Sides that shrink to a point are cut and welded to one vertex whatever the border treatment. Where the
    surface covers part of the square only, the border treatment is that of its outline.
    The net may have no cells when the treatment leaves none.
    """
    flat = flat_pattern(surface, pattern, bays, border)
    past = border == "past"
    vertices = surface.extended(flat.uv) if past and surface.domain is None else surface.points(flat.uv)
    return build_net(surface, vertices, flat.uv, flat.corners, flat.offsets)


def flat_pattern(
    surface: Surface, pattern: str, bays: tuple[int, int], border: str = "cut", follow: bool = False
) -> FlatPattern:
    """The welded cells of ``lay`` in the square; with ``follow`` they take every point of the domain's outline."""
    flat = PATTERNS[pattern].build(*bays, surface.closed_u)
    closed = {axis for axis, is_closed in (("u", surface.closed_u), ("v", surface.closed_v)) if is_closed}
    open_sides = [s for s in SIDES if s[0] not in closed and s not in surface.degenerate]
    if surface.closed_v:
        flat = _once_round(flat)
    flat = cut_at_edge(flat, sorted(surface.degenerate))
    domain = surface.domain
    flat = BORDERS[border].treat(flat, open_sides) if domain is None else trim(flat, domain, border, follow)
    flat = _welded(flat, surface)
    uv = flat.uv.copy()
    for axis, seams in enumerate((surface.seams_u, surface.seams_v)):
        even, real = lines_at_seams(seams, bays[axis])
        inside = (uv[:, axis] > 0) & (uv[:, axis] < 1)
        uv[inside, axis] = np.interp(uv[inside, axis], even, real)
    flat = FlatPattern(uv, flat.corners, flat.offsets)
    return _reversed(flat) if surface.flipped else flat


def lines_at_seams(seams: tuple[float, ...], bays: int) -> tuple[Array, Array]:
    """Even parameters (n,) and those (n,) to which they are drawn so that lines between bays run along the creases.

    Where there are more creases than half the bays nothing is drawn to them.
    """
    even, real = [0.0], [0.0]
    if len(seams) <= bays / 2:
        for seam in seams:
            line = max(round(seam * bays), round(even[-1] * bays) + 1)
            if line < bays and seam > real[-1]:
                even.append(line / bays)
                real.append(seam)
    return np.array([*even, 1.0]), np.array([*real, 1.0])


def _once_round(flat: FlatPattern) -> FlatPattern:
    """Cells whose middle lies within one turn of v, over vertices that are the same after a turn."""
    counts = np.diff(flat.offsets)
    middles = np.add.reduceat(flat.uv[flat.corners, 1], flat.offsets[:-1]) / counts
    flat = keep_cells(flat, (middles > -1e-9) & (middles < 1 - 1e-9))
    v = flat.uv[:, 1] % 1.0
    v = np.where(np.abs(v - 1.0) < 1e-9, 0.0, v)
    u = np.where(np.abs(flat.uv[:, 0] - 1.0) < 1e-9, 1.0, flat.uv[:, 0])
    uv, number = np.unique(np.round(np.column_stack([u, v]), 9), axis=0, return_inverse=True)
    return FlatPattern(uv, number.ravel()[flat.corners].astype(np.int32), flat.offsets)


def _welded(flat: FlatPattern, surface: Surface) -> FlatPattern:
    """Vertices on a side that is one point become one; corners repeated by that and unused vertices are dropped."""
    uv, corners, offsets = flat.uv, flat.corners, flat.offsets
    name = np.arange(len(uv), dtype=np.int32)
    for side in surface.degenerate:
        on = np.flatnonzero(uv[:, "uv".index(side[0])] == float(side[1]))
        name[on] = on[:1].repeat(len(on))
    if surface.degenerate:
        corners = name[corners]
        following = np.roll(corners, -1)
        following[offsets[1:] - 1] = corners[offsets[:-1]]
        kept = corners != following
        counts = np.add.reduceat(kept.astype(np.int32), offsets[:-1]) if len(offsets) > 1 else np.zeros(0, np.int32)
        kept &= np.repeat(counts >= 3, np.diff(offsets))
        corners = corners[kept]
        offsets = np.concatenate([[0], np.cumsum(counts[counts >= 3])]).astype(np.int32)
    used = np.zeros(len(uv), bool)
    used[corners] = True
    number = np.cumsum(used, dtype=np.int32) - 1
    return FlatPattern(uv[used], number[corners], offsets)


def _reversed(flat: FlatPattern) -> FlatPattern:
    """The same cells turned the other way round, each still starting at its first corner."""
    counts: NDArray[np.int32] = np.diff(flat.offsets)
    start = np.repeat(flat.offsets[:-1], counts)
    k = np.arange(len(flat.corners)) - start
    return FlatPattern(flat.uv, flat.corners[start + (-k) % np.repeat(counts, counts)], flat.offsets)
