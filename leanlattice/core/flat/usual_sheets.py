"""Sizes in which sheets are usually sold, and the least of them that takes given parts."""

from __future__ import annotations

from collections import defaultdict
from collections.abc import Sequence

import numpy as np
from numpy.typing import NDArray

from ..materials import MATERIALS
from .parts import Part

__all__ = ["USUAL", "least_usual", "usual_for"]

Array = NDArray[np.float64]
Size = tuple[float, float]
_METAL: tuple[Size, ...] = (
    (2000.0, 1000.0),
    (2500.0, 1250.0),
    (3000.0, 1500.0),
    (4000.0, 2000.0),
    (6000.0, 2000.0),
)
_CLEAR: tuple[Size, ...] = ((2050.0, 1250.0), (3050.0, 2050.0), (6000.0, 2100.0))

USUAL: dict[str, tuple[Size, ...]] = {
    "steel": _METAL,
    "aluminium": _METAL,
    "board": ((1250.0, 1250.0), (2500.0, 1250.0), (2500.0, 1500.0), (3000.0, 1500.0)),
    "glass": ((1605.0, 2250.0), (3210.0, 2250.0), (6000.0, 3210.0)),
    "plastic": _CLEAR,
    "film": ((3000.0, 1500.0), (10000.0, 1500.0), (25000.0, 1500.0)),
    "fabric": ((3000.0, 2500.0), (10000.0, 2500.0), (25000.0, 2500.0)),
    "paper": ((700.0, 500.0), (1000.0, 700.0), (1400.0, 1000.0)),
}
"""Length and width (mm) by the family of the material, from the least on: what merchants keep; of
what comes off rolls, lengths that are handled."""
OTHERS: tuple[Size, ...] = _METAL
ROUNDING = 1e-6
"""Millimetres that turned outlines are off."""
ANGLES = {"quarters": 4, "free": 8, "halves": 1, "none": 1}
"""Into how many directions of a whole turn parts may be laid; halves do not change their extent."""


def usual_for(parts: Sequence[Part]) -> tuple[Size, ...]:
    """The sizes for the material that most of the area of ``parts`` is of."""
    area: defaultdict[str, float] = defaultdict(float)
    for part in parts:
        area[part.material] += part.area
    if not area:
        return OTHERS
    most = MATERIALS.get(max(area, key=lambda name: area[name]))
    return USUAL.get(most.family, OTHERS) if most is not None else OTHERS


def least_usual(parts: Sequence[Part], turns: str, margin: float) -> Size:
    """The least usual size that takes each of ``parts``, turned as ``turns`` says, with so much
    ``margin`` (mm) all round; where none does, the one that takes the most of them."""
    sizes = sorted(usual_for(parts), key=lambda size: size[0] * size[1])
    if not parts:
        return sizes[0]
    wide, high = _extents(parts, ANGLES[turns])
    taken = []
    for length, width in sizes:
        inside = (wide <= length - 2 * margin + ROUNDING) & (high <= width - 2 * margin + ROUNDING)
        taken.append(int(inside.any(axis=0).sum()))
    return sizes[int(np.argmax(taken))]


def _extents(parts: Sequence[Part], directions: int) -> tuple[Array, Array]:
    """How wide and how high (D, P) in mm parts are, turned into each of so many directions of a
    whole turn."""
    angle = 2 * np.pi * np.arange(max(directions // 2, 1)) / max(directions, 1)
    wide, high = np.empty((2, len(angle), len(parts)))
    for k, part in enumerate(parts):
        across = part.outer @ np.array([np.cos(angle), np.sin(angle)])
        up = part.outer @ np.array([-np.sin(angle), np.cos(angle)])
        wide[:, k], high[:, k] = np.ptp(across, axis=0), np.ptp(up, axis=0)
    return wide, high
