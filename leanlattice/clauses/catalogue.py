"""Sections of the catalogue by the names that stand in sentences."""

from __future__ import annotations

from ..core.framing.sections import Section, UnknownSection, find
from .base import ClauseError

__all__ = ["section_of"]


def section_of(name: str, value: str) -> Section:
    """The section of that name; raises ``ClauseError`` naming the nearest ones where there is
    none."""
    try:
        return find(name)
    except UnknownSection as error:
        nearest = " or ".join(f"“{n}”" for n in error.nearest)
        raise ClauseError(
            f"There is no section “{name[:60]}” in the catalogue; {nearest} would work, or timber of any size such as "
            "“Timber 80 × 160”.",
            value,
        ) from None
