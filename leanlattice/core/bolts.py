"""Bolts, the holes they go through and those that their threads are cut into."""

from __future__ import annotations

__all__ = ["BOLT_HOLES", "TAPPING_DRILLS"]

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

TAPPING_DRILLS = {
    "M8": 6.8,
    "M10": 8.5,
    "M12": 10.2,
    "M16": 14.0,
    "M20": 17.5,
    "M24": 21.0,
    "M27": 24.0,
    "M30": 26.5,
}
"""Diameters (mm) that are drilled for coarse threads by the bolt (ISO 2306)."""
