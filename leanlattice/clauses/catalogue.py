"""Sections and materials by the names that stand in sentences."""

from __future__ import annotations

from functools import cache

from ..core.materials import FILMS, MATERIALS, SHEETS
from ..core.sections import Section, Shape, UnknownSection, find, nearest_made
from .base import ClauseError, Notice, Remedy

__all__ = [
    "ANGLE_WORDS",
    "SERIES",
    "SHEET_AND_FILM_WORDS",
    "SHEET_WORDS",
    "not_made",
    "section_of",
]

SHEET_WORDS = {name: MATERIALS[name].title for name in SHEETS}
"""What panels and ribs are made of, as choices."""
SHEET_AND_FILM_WORDS = SHEET_WORDS | {name: MATERIALS[name].title for name in FILMS}
"""The same and what is stretched."""
ANGLE_WORDS = {"listed": "listed alone", "written": "written beside them"}
"""Where angles of folds stand, as choices."""
SERIES = {"": "without a series letter"} | {letter: f"in series {letter}" for letter in "ABCD"}
"""Letters before all names, as choices."""


def section_of(name: str, value: str) -> Section:
    """The section of that name; raises ``ClauseError`` naming the nearest ones where there is
    none."""
    try:
        return find(name)
    except UnknownSection as error:
        nearest = " or ".join(f"“{n}”" for n in error.nearest)
        why = f": {error.why}" if error.why else ""
        raise ClauseError(
            f"There is no section “{name[:60]}”{why}; {nearest} would work, or a size of your own "
            "such as “Timber 80 × 160”, “Box 300 × 200 × 12” or “CHS 88.9 × 4 S235”.",
            value,
        ) from None


@cache
def _sizes_made(family: type[Shape]) -> frozenset[Shape]:
    """Sizes of a family that are commonly made."""
    return frozenset(family.made())


def not_made(section: Section, value: str) -> list[Notice]:
    """What is said of a section whose size no table of its family has."""
    shape = section.shape
    if not shape.tabled or shape in _sizes_made(type(shape)):
        return []
    grade = section.material.name
    names = [find(name).shape.named_of(grade) for name in nearest_made(shape)]
    facts = {"family": shape.family, "section": section.name}
    remedies = tuple(Remedy(f"Use {name}", {value: name}) for name in names)
    return [Notice.coded("section in no table", facts, value=value, remedies=remedies)]
