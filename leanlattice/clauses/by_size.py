"""What values begin with in models of other sizes than a usual hall: up to how many metres, and
then how much, in the unit of the value; the last holds for any."""

from __future__ import annotations

__all__ = [
    "ANY",
    "BLOCKS",
    "BLOCKS_HIGH",
    "CELL_DEPTHS",
    "DEEPER",
    "DEPTHS",
    "JOINTS",
    "MODULES",
    "SHEETS",
    "SPACINGS",
    "THICKNESSES",
]

BySize = tuple[tuple[float, float], ...]
ANY = 1e9
"""More metres than any model is large."""
THICKNESSES: BySize = ((0.4, 3.0), (1.0, 6.0), (2.0, 12.0), (4.0, 18.0), (7.0, 27.0), (ANY, 40.0))
"""Ribs (mm), as sheets are made."""
MODULES: BySize = (
    (0.6, 0.05),
    (1.5, 0.1),
    (4.0, 0.3),
    (10.0, 0.75),
    (30.0, 1.5),
    (60.0, 3.0),
    (ANY, 5.0),
)
"""How large bays of a pattern are (m): a tenth to a twentieth of shapes."""
SPACINGS: BySize = ((0.4, 0.05), (1.0, 0.1), (3.0, 0.25), (8.0, 0.5), (20.0, 1.0), (ANY, 2.0))
"""How far ribs are apart (m)."""
DEPTHS: BySize = ((1.0, 0.05), (3.0, 0.15), (8.0, 0.5), (40.0, 1.2), (80.0, 2.0), (ANY, 3.0))
"""Between the chords of trusses and double layers (m): a fifteenth to a thirtieth of spans."""
DEEPER: BySize = ((1.0, 0.08), (3.0, 0.25), (8.0, 0.8), (40.0, 2.0), (80.0, 3.5), (ANY, 5.0))
"""The same where it is larger (m)."""
CELL_DEPTHS: BySize = ((1.0, 0.02), (3.0, 0.05), (8.0, 0.1), (40.0, 0.2), (ANY, 0.4))
"""By how much cells are deepened or raised (m)."""
BLOCKS: BySize = ((1.0, 0.04), (3.0, 0.12), (8.0, 0.25), (20.0, 0.35), (40.0, 0.6), (ANY, 1.0))
"""How thick courses of blocks are (m)."""
BLOCKS_HIGH: BySize = ((1.0, 0.06), (3.0, 0.18), (8.0, 0.4), (20.0, 0.5), (40.0, 0.9), (ANY, 1.5))
"""How high they are, and how wide what closes them (m)."""
SHEETS: BySize = ((0.6, 1.0), (1.5, 3.0), (4.0, 6.0), (ANY, 12.0))
"""How thick panels are (mm)."""
JOINTS: BySize = ((0.6, 1.0), (1.5, 2.0), (4.0, 8.0), (ANY, 20.0))
"""How wide joints between them are (mm)."""
