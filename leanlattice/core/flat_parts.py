"""Flat parts of results of any type: the one table of what they are made of."""

from __future__ import annotations

from collections.abc import Callable
from typing import Any

from .flat.parts import CutResult, Parts, panel_parts
from .panels.names import names_of_panels
from .panels.panels import Panels
from .results import type_of
from .ribs.parts import Ribs

__all__ = ["PARTS_OF", "parts_of"]

Progress = Callable[[float], None]


def _of_panels(panels: Panels, progress: Progress) -> Parts:
    return panel_parts(panels, names_of_panels(panels).every_panel, progress)


def _of_ribs(ribs: Ribs, progress: Progress) -> Parts:
    return ribs.parts


def _own(result: CutResult, progress: Progress) -> Parts:
    return result.flat_parts


PARTS_OF: dict[str, Callable[[Any, Progress], Parts]] = {
    "Panels": _of_panels,
    "Ribs": _of_ribs,
    "Strips": _own,
    "Templates": _own,
    "NodePlates": _own,
    "EndPlates": _own,
    "TubeTemplates": _own,
    "Unrolled": _own,
}
"""By type of results: what gives its flat parts, told how far it is. A type that has some is
entered here."""


def parts_of(result: Any, progress: Progress = lambda share: None) -> Parts | None:
    """Flat parts of a result; ``None`` where it has none."""
    found = type_of(result)
    make = PARTS_OF.get(found.name) if found is not None else None
    return make(result, progress) if make is not None else None
