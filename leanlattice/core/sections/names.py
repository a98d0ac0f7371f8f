"""Sections by their names, as they stand in sentences."""

from __future__ import annotations

import difflib
import re
from dataclasses import dataclass
from functools import cache, lru_cache

import numpy as np

from ..materials import MATERIALS
from .families import FAMILIES
from .section import Section
from .shapes import Shape
from .sizes import COLD
from .solid import Timber

__all__ = ["UnknownSection", "catalogue", "find", "nearest_made", "search"]


class UnknownSection(KeyError):
    """A name that stands for no section; ``nearest`` lists names that come close, and ``why`` says
    what is wrong with it where it is of a family."""

    def __init__(self, name: str, nearest: list[str], why: str = "") -> None:
        super().__init__(name)
        self.name, self.nearest, self.why = name, nearest, why


@cache
def catalogue() -> dict[str, Section]:
    """All sections that are commonly made, by name, family after family, small to large: first
    those of hot-finished and then those of cold-formed steel."""
    every = [shape for family in FAMILIES.values() for shape in family.made()]
    every.sort(key=lambda shape: bool(shape.formed))
    return {s.name: Section(s, MATERIALS[s.materials[0]]) for s in every}


@dataclass(frozen=True)
class _Words:
    """What a name says: a family, sizes in mm, whether cold-formed, and a material or none."""

    family: str
    sizes: tuple[float, ...]
    cold: bool
    material: str

    @classmethod
    def of(cls, name: str) -> _Words:
        text = re.sub(r"(?<=[\d.])\s*[x×]\s*(?=[\d.])", " ", name.strip().lower().replace(",", "."))
        # A family may stand right before its first size; a class of timber ends in digits itself.
        families = "|".join(f.lower() for f in FAMILIES)
        words = re.sub(rf"^({families})(?=[\d.])", r"\1 ", text).replace("×", " ").split()
        grades = {m.lower(): m for m in MATERIALS}
        known = {f.lower(): f for f in FAMILIES}
        family, material, cold = "", "", False
        sizes: list[float] = []
        for k, word in enumerate(words):
            if k == 0 and word in known:
                family = known[word]
            elif word in grades and not material:
                material = grades[word]
            elif word == COLD and k:
                cold = True
            else:
                sizes.append(_number(word))
        if not family and material in Timber.materials:
            family = Timber.family
        return cls(family, tuple(sizes), cold, material)


def _number(word: str) -> float:
    """The number a word is; not a number where it is none."""
    try:
        return float(word)
    except ValueError:
        return np.nan


@lru_cache(512)
def find(name: str) -> Section:
    """Section by name; spaces, letter case and ``x`` for ``×`` do not matter. It may be of any size
    that can be made, and of any material of its family: ``RHS 200x120x8``, ``GL28h 120x360``,
    ``CHS 88.9 × 4 S235``.

    Raises ``UnknownSection`` with the nearest names.
    """
    words = _Words.of(name)
    if not words.family or np.isnan(words.sizes).any():
        raise UnknownSection(name, _nearest(name, words))
    family = FAMILIES[words.family]
    if len(words.sizes) != family.count:
        raise UnknownSection(name, _nearest(name, words))
    material = words.material or family.materials[0]
    if material not in family.materials:
        raise UnknownSection(name, _nearest(name, words), f"{words.family} is not of {material}")
    try:
        shape = family.of_sizes(words.sizes, words.cold)
    except ValueError as error:
        raise UnknownSection(name, _nearest(name, words), str(error)) from None
    if words.cold and not shape.formed:
        raise UnknownSection(name, _nearest(name, words), f"{words.family} is not cold-formed")
    return Section(shape, MATERIALS[material])


def nearest_made(shape: Shape) -> list[str]:
    """Names of the sections of the same family that are made and come nearest in size."""
    words = _Words(shape.family, shape.size, bool(shape.formed), "")
    return _nearest(shape.name, words)


def _nearest(name: str, words: _Words) -> list[str]:
    """Names that come close: of the same family the nearest in size, else those written most
    alike."""
    own = [s for s in catalogue().values() if s.shape.family == words.family]
    wanted = [size for size in words.sizes if not np.isnan(size)]
    if own and wanted and min(wanted) > 0:

        def apart(section: Section) -> float:
            # The outer size says more than the wall.
            weight = [1.0] * (len(section.shape.size) - 1) + [0.1]
            pairs = zip(weight, section.shape.size, wanted, strict=False)
            return sum(w * abs(np.log(a / b)) for w, a, b in pairs)

        return [s.name for s in sorted(own, key=apart)[:2]]
    written = {n.lower(): n for n in catalogue()}
    close = difflib.get_close_matches(name.lower(), written, n=2, cutoff=0.3)
    return [written[n] for n in close] or ["CHS 88.9 × 4"]


def search(text: str) -> list[Section]:
    """Sections that are meant by what is typed: the one that has this very name, whether it is
    commonly made or not, and those whose names hold all its words, or whose titles have words
    that begin with them."""
    try:
        own = [find(text)]
    except UnknownSection:
        own = []
    words = re.sub(r"(?<=[\d.])\s*[x×]\s*(?=[\d.])", " ", text.lower()).replace("×", " ").split()
    fitting = [s for s in catalogue().values() if all(_is_told(word, s) for word in words)]
    return own + [s for s in fitting if s not in own]


def _is_told(word: str, section: Section) -> bool:
    """Whether a word stands in the name of a section, or begins one of its title."""
    title = section.shape.title.lower().split()
    return word in section.name.lower() or any(own.startswith(word) for own in title)
