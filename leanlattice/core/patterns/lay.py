"""Laying a pattern on a surface."""

from __future__ import annotations

import numpy as np
from numpy.typing import NDArray

from ..geometry.nets import Net, build_net
from ..geometry.surfaces import Surface
from .borders import BORDERS, cut_at_edge
from .flat import PATTERNS, FlatPattern

__all__ = ["bays_for_module", "lay"]

SIDES = ("u0", "u1", "v0", "v1")


def bays_for_module(surface: Surface, module: float) -> tuple[int, int]:
    """Numbers of bays along u and v whose real mean size comes closest to ``module`` in metres."""
    along_u, along_v = surface.lengths
    least = 3 if surface.closed_u else 1
    return max(least, round(along_u / module)), max(1, round(along_v / module))


def lay(surface: Surface, pattern: str, bays: tuple[int, int], border: str = "cut") -> Net:
    """Net of the pattern with the given numbers of bays along u and v.

    ``pattern`` and ``border`` name entries of ``PATTERNS`` and ``BORDERS``. A direction that is closed needs three
    bays or more. Sides that shrink to a point are cut and welded to one vertex whatever the border treatment.
    The net may have no cells when the treatment leaves none.
    """
    flat = PATTERNS[pattern].build(*bays, surface.closed_u)
    open_sides = [s for s in SIDES if not (surface.closed_u and s[0] == "u") and s not in surface.degenerate]
    flat = cut_at_edge(flat, sorted(surface.degenerate))
    flat = BORDERS[border].treat(flat, open_sides)
    flat = _welded(flat, surface)
    if surface.flipped:
        flat = _reversed(flat)
    vertices = surface.extended(flat.uv) if border == "past" else surface.points(flat.uv)
    return build_net(surface, vertices, flat.uv, flat.corners, flat.offsets)


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
