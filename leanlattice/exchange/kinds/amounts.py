"""How much of each material things are made of: the table of it, whatever they are."""

from __future__ import annotations

from collections.abc import Callable, Sequence
from dataclasses import dataclass
from typing import Any

import numpy as np
from numpy.typing import NDArray

from ...core.materials import MATERIALS
from ..subjects import Subject
from ..tables import Table, table_of_rows
from .kind import Schedule

__all__ = ["Amounts", "materials_of"]

Array = NDArray[np.float64]
HEAD = (
    *("source", "things", "material", "count", "types"),
    *("length_m", "area_m2", "volume_m3", "mass_kg"),
)


@dataclass(frozen=True)
class Amounts:
    """What things (n) are made of.

    Parameters
    ----------
    things : what one of them is called
    material : names in ``MATERIALS``
    types : their types
    mass : kg
    length, area : metres and m², where they have one
    volume : m³; of the mass, where none is given
    """

    things: str
    material: Sequence[str]
    types: Sequence[Any]
    mass: Array
    length: Array | None = None
    area: Array | None = None
    volume: Array | None = None

    def rows(self, source: str) -> list[tuple[Any, ...]]:
        """A row for each material, as the table has it."""
        material, types = np.array(self.material), np.array(self.types)
        out: list[tuple[Any, ...]] = []
        for name in dict.fromkeys(self.material):
            own = material == name
            mass = float(self.mass[own].sum())
            volume = mass / MATERIALS[name].density
            if self.volume is not None:
                volume = float(self.volume[own].sum())
            counts = (int(own.sum()), len(np.unique(types[own])))
            sizes = (_sum(self.length, own), _sum(self.area, own), round(volume, 6))
            out.append((source, self.things, name, *counts, *sizes, round(mass, 3)))
        return out


def _sum(values: Array | None, own: NDArray[np.bool_]) -> float | str:
    return "" if values is None else round(float(values[own].sum()), 4)


def materials_of(amounts: Callable[[Subject], Amounts]) -> Schedule:
    """The schedule of materials of results that have such ``amounts``."""

    def build(subject: Subject) -> Table:
        return table_of_rows(HEAD, amounts(subject).rows(subject.clause))

    return Schedule(
        "materials", build, "Materials", empty="members, panels, ribs or solids of any kind"
    )
