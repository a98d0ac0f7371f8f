"""Lines in space as a result of their own, and lines led through places."""

from __future__ import annotations

from dataclasses import dataclass, field
from itertools import pairwise

import numpy as np
from numpy.typing import NDArray

from ..results import Result, result_type
from .arcs import nearest_shares_of_arcs, unit
from .lines import Line

__all__ = ["Lines", "line_through", "linked_runs", "straightened"]

Array = NDArray[np.float64]
Index = NDArray[np.int64]
CORNER = float(np.cos(np.radians(25.0)))
"""Where places turn by more from one step to the next they have a corner."""
UP = np.array([0.0, 0.0, 1.0])
SAME = 1e-9
"""Metres within which two places are one."""
FLATTEST = 1e-6
"""Of a chord, the share that an arc rises by at least; a flatter one is straight."""


@result_type("Lines", "lines")
@dataclass(frozen=True, eq=False)
class Lines(Result):
    """Lines of straight pieces and arcs in space.

    Parameters
    ----------
    lines : in metres
    layers : the layer each one is on; empty where it is on none
    """

    lines: tuple[Line, ...]
    layers: tuple[str, ...] = field(default=())

    def on_layer(self, name: str) -> Lines:
        """Those on a layer of this ``name``, in whatever case it is written."""
        wanted = name.strip().casefold()
        kept = [k for k, layer in enumerate(self.layers) if layer.strip().casefold() == wanted]
        return Lines(tuple(self.lines[k] for k in kept), tuple(self.layers[k] for k in kept))


def linked_runs(pairs: Index, count: int) -> list[tuple[list[int], bool]]:
    """Runs of so many places that ``pairs`` (n, 2) of them join, open ones first, and whether they
    close on themselves; no more than two meet at a place."""
    beside: list[list[int]] = [[] for _ in range(count)]
    for a, b in pairs.tolist():
        beside[a].append(b)
        beside[b].append(a)
    seen = [False] * count
    ends = [k for k in range(count) if len(beside[k]) == 1]
    out = []
    for start in [*ends, *range(count)]:
        if seen[start]:
            continue
        run, here = [start], start
        seen[start] = True
        while True:
            onward = next((k for k in beside[here] if not seen[k]), None)
            if onward is None:
                break
            seen[onward] = True
            run.append(onward)
            here = onward
        out.append((run, len(run) > 2 and start in beside[here]))
    return out


def line_through(places: Array, normals: Array | None, off: float, bent: bool = True) -> Line:
    """The line of as few straight pieces and arcs as may be that begins and ends with the
    ``places`` (n, 3) it is led through, has their corners, and is off none of them by more than
    ``off`` metres.

    Each piece reaches as far as it can: the arc through its first place, one half-way and its last.
    Where it is not to be ``bent`` it is of straight pieces alone.
    Heights stand along the ``normals`` (n, 3), and where none are given as upright as can be.
    """
    kept = np.concatenate([[True], np.linalg.norm(np.diff(places, axis=0), axis=1) > SAME])
    places = places[kept]
    normals = np.tile(UP, (len(places), 1)) if normals is None else normals[kept]
    steps = unit(np.diff(places, axis=0))
    turns = np.einsum("ij,ij->i", steps[:-1], steps[1:])
    corners = [0, *(np.flatnonzero(turns < CORNER) + 1).tolist(), len(places) - 1]
    stops, bulges = [0], []
    for first, last in pairwise(corners):
        here = first
        while here < last:
            here, bulge = _farthest(places, here, last, off, bent)
            stops.append(here)
            bulges.append(bulge)
    return Line(places[stops], np.array(bulges).reshape(-1, 3), unit(normals[stops]))


def _farthest(places: Array, first: int, last: int, off: float, bent: bool) -> tuple[int, Array]:
    """How far one piece from the first place reaches, by halving, and its bulge."""
    least, most = first + 1, last
    best = np.zeros(3)
    while least < most:
        tried = (least + most + 1) // 2
        bulge = _arc(places, first, tried, off, bent)
        if bulge is None:
            most = tried - 1
        else:
            least, best = tried, bulge
    return least, best if least > first + 1 else np.zeros(3)


def _arc(places: Array, first: int, last: int, off: float, bent: bool) -> Array | None:
    """Bulge of what leads from one place to another past those between; nothing where it is off
    them."""
    between = places[first + 1 : last]
    chord = places[last] - places[first]
    length = float(np.linalg.norm(chord))
    if length < SAME:
        return None
    tried = [np.zeros(3)]
    if bent:
        tried.append(_through_middle(chord, places[(first + last) // 2] - places[first]))
    for bulge in tried:
        start, way, rise = (
            np.broadcast_to(x, between.shape) for x in (places[first], chord, bulge)
        )
        _, away = nearest_shares_of_arcs(start, way, rise, between)
        if not len(between) or away.max() <= off:
            return bulge
    return None


def _through_middle(chord: Array, to: Array) -> Array:
    """Bulge (3,) of the arc over a ``chord`` (3,) from its start through a place ``to`` (3,) from
    there: with a along and b across the chord, its radius is that of the circle through the
    three."""
    length = float(np.linalg.norm(chord))
    along = float(to @ chord) / length
    aside = to - along * chord / length
    across = float(np.linalg.norm(aside))
    if across < FLATTEST * length:
        return np.zeros(3)
    # The centre lies this far across, towards the place where it is above 0.
    centre = (along * (along - length) + across * across) / (2 * across)
    radius = float(np.hypot(length / 2, centre))
    return np.asarray((centre + radius) * aside / across)


def straightened(line: Line, off: float) -> Line:
    """The same line in straight pieces that are off it by no more than ``off`` metres."""
    places, run = line.sampled(off)
    return Line(places, np.zeros((len(places) - 1, 3)), line.normals_at(run))
