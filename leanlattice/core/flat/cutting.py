"""What a tool follows to cut parts out: outlines beside which it keeps by half its width, tabs, and
what that takes."""

from __future__ import annotations

from collections.abc import Iterator
from dataclasses import dataclass
from typing import TYPE_CHECKING

import manifold3d
import numpy as np
from numpy.typing import NDArray

if TYPE_CHECKING:
    from .parts import Part

from ..results import Result

__all__ = ["Cutting", "beside", "not_cut", "outlines", "tabs_along"]

Array = NDArray[np.float64]
ROUND = 48
"""Corners of a full circle the tool makes around a corner."""
LOST = 0.02
"""Share of the square of the tool's width that a tool may leave uncut before it is told: inner
corners are always rounded."""


@dataclass(frozen=True)
class Cutting(Result):
    """How sheets are cut: ``tool``, the width (mm) of what it takes away, 0 where its middle
    follows the outlines; ``tab``, how wide (mm) bridges are left ``every`` so far (mm) along
    outlines, 0 for none; ``speed`` along outlines (mm/s), ``start`` (s) it takes to begin one; and
    the ``rate`` of an hour."""

    tool: float = 0.0
    tab: float = 0.0
    every: float = 600.0
    speed: float = 50.0
    start: float = 3.0
    rate: float = 0.0

    def seconds(self, length: float, outlines: int) -> float:
        """What a length (mm) of so many outlines takes, ways between them left out."""
        return length / self.speed + outlines * self.start


def beside(outer: Array, inner: tuple[Array, ...], tool: float) -> tuple[list[Array], list[Array]]:
    """Ways (n, 2) of the middle of a tool that cuts a part out: grown outside, shrunk in openings,
    by half its width. Openings too small for it are left out."""
    if tool <= 0:
        return [outer], list(inner)
    grown = manifold3d.CrossSection([outer], manifold3d.FillRule.EvenOdd)
    grown = grown.offset(tool / 2, manifold3d.JoinType.Round, 2.0, ROUND)
    rings = [np.asarray(r) for r in grown.to_polygons()]
    openings: list[Array] = []
    for ring in inner:
        hole = manifold3d.CrossSection([ring], manifold3d.FillRule.EvenOdd)
        openings += [
            np.asarray(r)
            for r in hole.offset(-tool / 2, manifold3d.JoinType.Round, 2.0, ROUND).to_polygons()
        ]
    # A slot that the tool does not enter may close to an opening; it is none.
    return [r for r in rings if _area(r) > 0], [r for r in openings if _area(r) > 0]


def outlines(part: Part, cutting: Cutting) -> tuple[list[Array], list[Array]]:
    """Outer and inner ways of the tool for a part, in its own frame."""
    return beside(part.outer, part.inner, cutting.tool)


def not_cut(part: Part, tool: float) -> float:
    """Area (mm²) beyond inner corners that a tool leaves uncut in a part's slots and openings
    because it does not get in."""
    if tool <= 0:
        return 0.0
    rings = [part.outer, *part.inner]
    section = manifold3d.CrossSection(rings, manifold3d.FillRule.EvenOdd)
    closed = section.offset(tool / 2, manifold3d.JoinType.Round, 2.0, ROUND)
    closed = closed.offset(-tool / 2, manifold3d.JoinType.Round, 2.0, ROUND)
    left = (closed - section).decompose()
    return float(sum(a for a in (p.area() for p in left) if a > LOST * 10 * tool * tool))


def tabs_along(ring: Array, tab: float, every: float) -> Iterator[Array]:
    """Bridges (k, 2) along a closed outline, two or more, evenly apart and in the middle of its
    straighter stretches."""
    closed = np.vstack([ring, ring[:1]])
    at = np.concatenate([[0.0], np.cumsum(np.linalg.norm(np.diff(closed, axis=0), axis=1))])
    length = float(at[-1])
    count = max(2, round(length / every))
    if tab <= 0 or length < 4 * tab * count:
        return
    for k in range(count):
        middle = (k + 0.5) * length / count
        # The longest side nearby holds a bridge best.
        near = np.flatnonzero(
            (at[1:] > middle - length / count / 3) & (at[:-1] < middle + length / count / 3)
        )
        side = near[np.argmax((at[1:] - at[:-1])[near])]
        if at[side + 1] - at[side] > tab:
            middle = float(np.clip(middle, at[side] + tab / 2, at[side + 1] - tab / 2))
        inside = at[(at > middle - tab / 2) & (at < middle + tab / 2)]
        places = np.concatenate([[middle - tab / 2], inside, [middle + tab / 2]]) % length
        yield np.column_stack([np.interp(places, at, closed[:, c]) for c in (0, 1)])


def _area(ring: Array) -> float:
    ahead = np.roll(ring, -1, axis=0)
    return float((ring[:, 0] * ahead[:, 1] - ring[:, 1] * ahead[:, 0]).sum() / 2)
