"""Bolts and the holes they go through."""

from __future__ import annotations

__all__ = ["BOLT_HOLES"]

BOLT_HOLES = {
    "M8": 9.0,
    "M10": 11.0,
    "M12": 13.0,
    "M16": 18.0,
    "M20": 22.0,
    "M24": 26.0,
    "M27": 30.0,
    "M30": 33.0,
}
"""Diameters (mm) of normal round holes by the bolt (EN 1090-2, table 11; below M12 as at M12)."""
