"""Sections of members: shapes of several families, of a material."""

from .families import FAMILIES
from .names import UnknownSection, catalogue, find, nearest_made, search
from .section import Section
from .shapes import Shape

__all__ = [
    "FAMILIES",
    "Section",
    "Shape",
    "UnknownSection",
    "catalogue",
    "find",
    "nearest_made",
    "search",
]
