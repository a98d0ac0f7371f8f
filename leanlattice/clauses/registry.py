"""All clause types by kind. A new one is entered here."""

from __future__ import annotations

from .base import Clause
from .frame import FrameNet, PanelCells
from .lattice import LayPattern
from .make import CutBars, Label, SetOutSheets
from .shape import DomeShape, LoftShape

__all__ = ["CLAUSE_TYPES"]

CLAUSE_TYPES: dict[str, type[Clause]] = {
    c.kind: c for c in (LoftShape, DomeShape, LayPattern, FrameNet, PanelCells, Label, SetOutSheets, CutBars)
}
