"""What is meant of a net: its borders, sides, corners, heights, places or a region, as data."""

from __future__ import annotations

from collections.abc import Callable
from dataclasses import dataclass, field

import numpy as np
import scipy
import shapely
from numpy.typing import NDArray

from .geometry.nets import Net
from .nets.borders import corners_of_loop, loops_by_size, side_towards
from .results import Result

__all__ = ["SELECTIONS", "Selection"]

Array = NDArray[np.float64]
Rows = NDArray[np.int64]
SLACK = 1e-9
"""Metres by which a vertex may lie beyond heights and still be between them."""


@dataclass(frozen=True, eq=False)
class Selection(Result):
    """Some vertices of a net.

    Parameters
    ----------
    which : an entry of ``SELECTIONS``
    azimuth : of a side, in radians in plan from x
    low, high : heights in metres
    places : (k, 3) in metres, to which the nearest are meant, or what lies between the first of
        them and the last
    outlines : closed rings (n, 2) in plan, in metres
    """

    which: str = "border"
    azimuth: float = 0.0
    low: float = 0.0
    high: float = 0.0
    places: Array = field(default_factory=lambda: np.zeros((0, 3)))
    outlines: tuple[Array, ...] = ()

    def vertices(self, net: Net) -> Rows:
        """Vertices (n,) of a net that are meant, each once and in their order."""
        return SELECTIONS[self.which](net, self)


def _of_loops(loops: list[NDArray[np.int32]]) -> Rows:
    return np.unique(np.concatenate(loops)).astype(np.int64) if loops else np.zeros(0, np.int64)


def _loops_near(net: Net, selection: Selection) -> Rows:
    nearest = set()
    for place in selection.places if net.loops else ():
        away = [np.linalg.norm(net.vertices[loop] - place, axis=1).min() for loop in net.loops]
        nearest.add(int(np.argmin(away)))
    return _of_loops([net.loops[k] for k in nearest])


def _stretch(net: Net, selection: Selection) -> Rows:
    """Along a loop from what is nearest to the first place on, as it runs, to what is nearest to
    the last one; the loop is that which comes nearest to the first."""
    if not net.loops:
        return np.zeros(0, np.int64)
    first, last = selection.places[0], selection.places[-1]
    away = [np.linalg.norm(net.vertices[loop] - first, axis=1) for loop in net.loops]
    loop = net.loops[int(np.argmin([far.min() for far in away]))]
    at = net.vertices[loop]
    begin, end = (int(np.argmin(np.linalg.norm(at - place, axis=1))) for place in (first, last))
    count = (end - begin) % len(loop) + 1
    return np.unique(np.roll(loop, -begin)[:count]).astype(np.int64)


def _heights(net: Net, selection: Selection) -> Rows:
    z = net.vertices[:, 2]
    return np.flatnonzero((z >= selection.low - SLACK) & (z <= selection.high + SLACK))


def _nearest(net: Net, selection: Selection) -> Rows:
    found = scipy.spatial.cKDTree(net.vertices).query(selection.places)[1]
    return np.unique(found).astype(np.int64)


def _region(net: Net, selection: Selection) -> Rows:
    rings = [shapely.make_valid(shapely.Polygon(ring)) for ring in selection.outlines]
    region = shapely.union_all(rings)
    return np.flatnonzero(shapely.intersects_xy(region, net.vertices[:, 0], net.vertices[:, 1]))


SELECTIONS: dict[str, Callable[[Net, Selection], Rows]] = {
    "border": lambda net, _: _of_loops(net.loops),
    "outer": lambda net, _: _of_loops(loops_by_size(net)[:1]),
    "inner": lambda net, _: _of_loops(loops_by_size(net)[1:]),
    "loops": _loops_near,
    "stretch": _stretch,
    "side": lambda net, selection: _of_loops([side_towards(net, selection.azimuth)]),
    "corners": lambda net, _: _of_loops([loop[corners_of_loop(net, loop)] for loop in net.loops]),
    "heights": _heights,
    "places": _nearest,
    "region": _region,
}
"""Ways in which vertices are meant."""
