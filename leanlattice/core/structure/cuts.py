"""Planes and saddles that cut ends of members: how far along its axis each place of a section ends.

Along the axis of an end, whose unit direction a leads into the member, the material at a place q of
the section lies on the kept side of a plane n · x ≤ l, with n · a < 0, from

    s(q) = (l − n · q) / (n · a)

on. A saddle is where an end meets a tube of radius ρ whose side that plane touches, and whose axis
runs along c, in the plane of n and a, as far aside from this end's as c × n tells. What lies y
aside of the tube's axis goes on to its surface, from

    s(q) + (ρ − √(ρ² − y²)) / (n · a)

on. Of two cuts the larger s counts. What they leave of an end is told by ``cut_backs``.
"""

from __future__ import annotations

from collections.abc import Callable, Sequence
from dataclasses import dataclass, field
from functools import cached_property
from typing import Any

import numpy as np
from numpy.typing import NDArray

from ..compiled import compiled
from ..results import Result

__all__ = ["Cuts", "cut_over", "over_at", "taken_at", "taken_by_two"]

Array = NDArray[np.float64]
Index = NDArray[np.int32]

PLANES = 2
"""Most planes and saddles that cut an end."""
NORMAL, LEVEL, ALONG, RADIUS, ASIDE, CUT = slice(0, 3), 3, slice(4, 7), 7, 8, 9
"""What stands where in a cut as kernels take it, and how many numbers that is."""
OVER = 8
"""How many numbers tell how far a cut takes a section; see ``cut_over``."""


@dataclass(frozen=True, eq=False)
class Cuts(Result):
    """Planes and saddles (C) that cut ends, in the order of these and at most two of each.

    ``end`` (C,) is twice the member's number, plus 1 for its last end; ``normal`` (C, 3) is the
    unit direction out of the member, and ``level`` (C,) how far along it, in metres, the plane
    lies from where the member's axis ends. ``tube`` (C, 5) tells of saddles the direction of the
    axis of the tube they fit, its radius and how far aside it lies, both in metres: 0 of planes,
    and without rows where there are only these.
    """

    end: Index
    normal: Array
    level: Array
    tube: Array = field(default_factory=lambda: np.zeros((0, 5)))

    @classmethod
    def none(cls) -> Cuts:
        return cls(np.zeros(0, np.int32), np.zeros((0, 3)), np.zeros(0))

    @classmethod
    def of_rows(cls, end: Index, rows: Array) -> Cuts:
        """Cuts of ends (C,) in order, as kernels have them (C, CUT)."""
        tube = rows[:, ALONG.start :]
        some = tube[:, 3].any()
        return cls(end, rows[:, NORMAL], rows[:, LEVEL], tube if some else tube[:0])

    @classmethod
    def together(cls, every: Sequence[Cuts]) -> Cuts:
        """All of several, in the order of their ends."""
        end = np.concatenate([cuts.end for cuts in every])
        rows = np.concatenate([cuts.rows for cuts in every])
        order = np.argsort(end, kind="stable")
        return cls.of_rows(end[order], rows[order])

    @cached_property
    def count(self) -> int:
        return len(self.end)

    @cached_property
    def rows(self) -> Array:
        """As kernels take them (C, CUT)."""
        tube = self.tube if len(self.tube) else np.zeros((self.count, 5))
        return np.column_stack([self.normal, self.level, tube])

    @property
    def is_saddle(self) -> NDArray[np.bool_]:
        """Which of them (C,) fit a tube."""
        return np.asarray(self.rows[:, RADIUS] > 0)

    def some(self, which: NDArray[Any], end: Index | None = None) -> Cuts:
        """Those that ``which`` (C,) or (k,) selects, of ends (k,) that are numbered anew."""
        end = self.end[which] if end is None else end
        return Cuts.of_rows(end.astype(np.int32), self.rows[which])

    def moved(self, ways: Callable[[Array], Array], mirrors: bool) -> Cuts:
        """The same where directions (n, 3) are as ``ways`` makes them, in a mirror image or not."""
        tube = self.tube.copy()
        if len(tube):
            tube[:, :3] = ways(tube[:, :3])
            # In a mirror image what lay to the one side lies to the other.
            tube[:, 4] *= -1 if mirrors else 1
        return Cuts(self.end, ways(self.normal), self.level, tube)

    @cached_property
    def ends_cut(self) -> Index:
        """Ends that one plane or more cut, each once, in their order."""
        return self.end[np.diff(self.end, prepend=-1) > 0]

    def rows_of_ends(self, ends: int) -> Array:
        """As kernels take them (ends, 2, CUT), 0 where there is none."""
        out = np.zeros((ends, PLANES, CUT))
        out[self.end, np.arange(self.count) - np.searchsorted(self.end, self.end)] = self.rows
        return out

    def of_ends(self, ends: int) -> tuple[Array, Array]:
        """Normals (ends, 2, 3), 0 where there is no plane, and levels (ends, 2)."""
        rows = self.rows_of_ends(ends)
        return rows[:, :, NORMAL], rows[:, :, LEVEL]


def taken_at(cuts: Array, away: Array, up: Array, places: Array) -> Array:
    """How far (n, k) in metres along the axes of ends (n,) cuts take the places of a section; 0
    where nothing cuts.

    Parameters
    ----------
    cuts : (n, 2, CUT) of the ends, as ``Cuts.rows_of_ends`` has them
    away, up : (n, 3) unit directions of each end into its member and of the section's height
    places : (n, k, 2) in metres by the width, which is up × away, and the height
    """
    out = np.zeros(places.shape[:2])
    _taken_at(*(np.ascontiguousarray(a, float) for a in (cuts, away, up, places)), out)
    return out


@compiled
def _taken_at(cuts, away, up, places, out):  # type: ignore[no-untyped-def]
    """Fills in what ``taken_at`` gives."""
    one, two = np.empty(OVER), np.empty(OVER)
    for e in range(len(cuts)):
        if not taken_by_two(cuts[e], away[e], up[e], one, two):
            continue
        for k in range(places.shape[1]):
            y, z = places[e, k, 0], places[e, k, 1]
            out[e, k] = max(over_at(one, y, z), over_at(two, y, z))


@compiled
def cut_over(cut, away, up, out):  # type: ignore[no-untyped-def]
    """Fills ``out`` (OVER,) with where a cut meets lines along ``away`` through a section: the
    value on the axis and what a metre along the width and along the height add to it; of a saddle
    the radius of the tube, how far aside of its axis the axis lies and what the same add to that,
    and what the depth of the tube's surface is multiplied by."""
    normal = cut[:3]
    side, aside = _crossed(up, away), _crossed(cut[4:7], normal)
    into = _dot(normal, away)
    out[0] = cut[LEVEL] / into
    out[1] = -_dot(normal, side) / into
    out[2] = -_dot(normal, up) / into
    out[3] = cut[RADIUS]
    out[4] = -cut[ASIDE]
    out[5] = _dot(aside, side)
    out[6] = _dot(aside, up)
    out[7] = 1.0 / into


@compiled
def _crossed(a, b):  # type: ignore[no-untyped-def]
    """a × b as three numbers."""
    x = a[1] * b[2] - a[2] * b[1]
    y = a[2] * b[0] - a[0] * b[2]
    return x, y, a[0] * b[1] - a[1] * b[0]


@compiled
def _dot(a, b):  # type: ignore[no-untyped-def]
    return a[0] * b[0] + a[1] * b[1] + a[2] * b[2]


@compiled
def over_at(over, wide, high):  # type: ignore[no-untyped-def]
    """How far a cut takes the place of a section that lies so ``wide`` and ``high``, in metres."""
    value = over[0] + over[1] * wide + over[2] * high
    radius = over[3]
    if radius > 0.0:
        aside = over[4] + over[5] * wide + over[6] * high
        value += (radius - np.sqrt(max(radius * radius - aside * aside, 0.0))) * over[7]
    return value


@compiled
def taken_by_two(cuts, away, up, one, two):  # type: ignore[no-untyped-def]
    """Fills in how far two cuts take a section, one alone twice; tells whether there is one.

    Parameters
    ----------
    cuts : (2, CUT) of an end
    away, up : (3,) unit directions of the end into its member and of the section's height
    one, two : (OVER,) room for what ``cut_over`` tells of each
    """
    if not cuts[0, :3].any():
        return False
    cut_over(cuts[0], away, up, one)
    two[:] = one
    if cuts[1, :3].any():
        cut_over(cuts[1], away, up, two)
    return True
