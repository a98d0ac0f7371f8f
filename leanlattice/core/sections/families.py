"""All families of sections. A new one is one class, entered here."""

from __future__ import annotations

from .hollow import Box, CircularHollow, RectangularHollow, SquareHollow
from .profiles import HEA, HEB, IPE, Angle, Channel, DoubleChannel, ISection, RolledChannel, Tee
from .shapes import Shape
from .solid import Flat, Round, Timber

__all__ = ["FAMILIES"]

FAMILIES: dict[str, type[Shape]] = {
    cls.family: cls
    for cls in (
        *(CircularHollow, SquareHollow, RectangularHollow, Box),
        *(IPE, HEA, HEB, ISection, RolledChannel, DoubleChannel, Channel, Angle, Tee),
        *(Flat, Round, Timber),
    )
}
"""By the word their names begin with."""
