"""Pull points and curves: they draw a pattern together about themselves, or spread it."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass

import numpy as np
import shapely
from numpy.typing import NDArray

from ..geometry.surfaces import Surface

__all__ = ["Pull", "drawn", "even_parameters", "pull_at", "share_out_of_reach"]

Array = NDArray[np.float64]
MOST = 0.9
"""Beyond this the pattern would fold over itself."""


@dataclass(frozen=True, eq=False)
class Pull:
    """``line`` (k, 2) are the parameters of a point or of a curve; ``strength`` from −0.9, which
    spreads, to 0.9, which draws together; ``reach`` in metres is where the pull has fallen to a
    third."""

    line: Array
    strength: float
    reach: float


def pull_at(surface: Surface, points: Array, strength: float, reach: float) -> Pull:
    """A pull at the places of a shape nearest to points (k, 3) in space: one point, or the line
    through several."""
    return Pull(surface.closest(points), float(np.clip(strength, -MOST, MOST)), reach)


def drawn(
    uv: Array, pulls: tuple[Pull, ...], lengths: tuple[float, float], closed: tuple[bool, bool]
) -> Array:
    """Parameters (n, 2) after one pull after the other.

    A place at the distance d from a pull moves towards it by strength · d · exp(−(d / reach)²),
    lengths being those the sides of the square stand for. As d (1 − s exp(−d²)) grows with d for
    every |s| < 1, no cell folds.
    """
    size = np.array(lengths)
    for pull in pulls:
        here = uv * size
        towards = _towards(here, pull.line * size, size, closed)
        distance = np.linalg.norm(towards, axis=1)
        share = pull.strength * np.exp(-((distance / pull.reach) ** 2))
        uv = (here + share[:, None] * towards) / size
        for axis in np.flatnonzero(closed):
            uv[:, axis] %= 1.0
    return uv


def _towards(here: Array, line: Array, size: Array, closed: tuple[bool, bool]) -> Array:
    """Steps (n, 2) in metres to the nearest place of a point or line, the short way round where
    that closes."""
    best = np.full((len(here), 2), np.inf)
    turns = [(-1.0, 0.0, 1.0) if c else (0.0,) for c in closed]
    for a in turns[0]:
        for b in turns[1]:
            moved = line + np.array([a, b]) * size
            if len(line) == 1:
                step = moved - here
            else:
                path = shapely.LineString(moved)
                points = shapely.points(here)
                foot = shapely.line_interpolate_point(path, shapely.line_locate_point(path, points))
                step = shapely.get_coordinates(foot) - here
            nearer = np.linalg.norm(step, axis=1) < np.linalg.norm(best, axis=1)
            best = np.where(nearer[:, None], step, best)
    return best


def even_parameters(surface: Surface, samples: int = 65, lines: int = 9) -> tuple[Array, Array]:
    """Parameters (samples,) along u and along v at which equal shares of the mean length of the
    lines that way are reached."""
    fine = np.linspace(0.0, 1.0, samples)
    out = []
    for axis in (0, 1):
        grid = (
            surface.grid(samples, lines)
            if axis == 0
            else np.swapaxes(surface.grid(lines, samples), 0, 1)
        )
        steps = np.linalg.norm(np.diff(grid, axis=0), axis=2).mean(axis=1)
        reached = np.concatenate([[0.0], np.cumsum(np.maximum(steps, 1e-12 * steps.sum()))])
        out.append(np.interp(fine, reached / reached[-1], fine))
    return out[0], out[1]


def share_out_of_reach(lines: Sequence[tuple[Array, float]], places: Array) -> Array:
    """From 0 at pulls to 1 out of the reach of all of them, of places (n, 3).

    ``lines`` are points (1, 3) or (1, 2), polylines (k, 2) or (k, 3) and their reach in metres;
    from points in space the distance counts, from others that in plan.
    """
    share = np.ones(len(places))
    for line, reach in lines:
        share = np.minimum(share, _away(places, line) / reach)
    return np.clip(share, 0.0, 1.0)


def _away(places: Array, line: Array) -> Array:
    """Distances (n,) of places from a point or polyline, in space or in plan."""
    if line.shape[1] == 3 and len(line) == 1:
        return np.asarray(np.linalg.norm(places - line[0], axis=1))
    flat = shapely.LineString(line[:, :2]) if len(line) > 1 else shapely.Point(line[0, :2])
    return np.asarray(shapely.distance(flat, shapely.points(places[:, :2])))
