"""What the outside does with results, type by type: the one table of it."""

from __future__ import annotations

from typing import Any

from ...core.results import type_of
from .curves import CURVES, LINES, UNDERLAY
from .end_plates import KIND as END_PLATES
from .flat import BARS, ON_SHEETS
from .hubs import KIND as HUBS
from .kind import Kind, Layer, Measure, Schedule
from .nets import KIND as NET
from .node_plates import KIND as NODE_PLATES
from .panels import KIND as PANELS
from .ribs import KIND as RIBS
from .shapes import KIND as SHAPE
from .solids import KIND as SOLIDS
from .strips import KIND as STRIPS
from .structures import KIND as STRUCTURE
from .templates import KIND as TEMPLATES
from .tube_ends import KIND as TUBE_ENDS
from .unrolled import KIND as UNROLLED

__all__ = ["KINDS", "Kind", "Layer", "Measure", "Schedule", "kind_of", "types_with"]

KINDS: dict[str, Kind] = {
    k.name: k
    for k in (
        UNDERLAY,
        CURVES,
        LINES,
        SHAPE,
        NET,
        STRUCTURE,
        PANELS,
        RIBS,
        SOLIDS,
        TEMPLATES,
        STRIPS,
        UNROLLED,
        NODE_PLATES,
        END_PLATES,
        HUBS,
        TUBE_ENDS,
        ON_SHEETS,
        BARS,
    )
}
"""By type of results. A new type is entered here; layers, readouts and schedules are in its order,
and the last that a project has is on its card."""


def kind_of(result: Any) -> Kind | None:
    """What is done with a result; ``None`` for what only serves other clauses."""
    found = type_of(result)
    return KINDS.get(found.name) if found is not None else None


def types_with(facet: str) -> tuple[str, ...]:
    """Types of results that have something: ``solids``, ``lines``, ``building`` …"""
    return tuple(name for name, kind in KINDS.items() if getattr(kind, facet))
