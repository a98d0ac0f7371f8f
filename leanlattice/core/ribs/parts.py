"""Ribs as flat parts: outlines in millimetres with their own label and, at each slot, their partner's."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass
from functools import cached_property
from typing import Any

import numpy as np
import shapely
from numpy.typing import NDArray

from ..flat.lettering import lettered
from ..flat.parts import LABEL_HEIGHT, LEAST_HEIGHT, NEIGHBOUR_HEIGHT, Part
from .assembly import Assembly, assembly
from .laps import Crossing, Passing
from .plates import Rib

__all__ = ["Ribs", "rib_parts"]

Array = NDArray[np.float64]
SMALLER = 0.75


@dataclass(frozen=True, eq=False)
class Ribs:
    """Ribs with the ``crossings`` at which they go into each other, of a ``material``; ``sets`` names their series in the
    order in which they are put in, ``zones`` are polygons in the plane of each rib where it is cut for others, and
    ``passing`` are ribs in each other's way."""

    ribs: tuple[Rib, ...]
    crossings: tuple[Crossing, ...]
    material: str
    sets: tuple[str, ...]
    zones: tuple[tuple[shapely.Polygon, ...], ...] = ()
    passing: tuple[Passing, ...] = ()

    @cached_property
    def assembly(self) -> Assembly:
        """The order in which they go together."""
        return assembly(len(self.ribs), self.crossings, self.passing)

    @property
    def labels(self) -> list[str]:
        return [r.label for r in self.ribs]


def rib_parts(ribs: Ribs) -> tuple[tuple[Part, ...], list[int]]:
    """Flat parts of all ribs, and positions of those without room for all their names.

    A part lies as its rib stands, x along it; its pose puts it back.
    """
    partners: list[list[tuple[str, Array]]] = [[] for _ in ribs.ribs]
    for c in ribs.crossings:
        for own, other, side in ((c.first, c.second, -1.0), (c.second, c.first, 1.0)):
            rib = ribs.ribs[own]
            for (low, high), middle in zip(c.spans, c.middles, strict=True):
                end = low if side < 0 else high
                # Beside the slot's closed end, in what is left of the common length.
                at = c.place + c.way * ((middle + end) / 2 - (c.spans[0][0] + c.spans[0][1]) / 2)
                flat = np.array([(at - rib.origin) @ rib.x, (at - rib.origin) @ rib.y]) * 1000
                partners[own].append((ribs.ribs[other].label, flat))
    parts, without = [], []
    for k, rib in enumerate(ribs.ribs):
        shape = shapely.Polygon(
            shapely.get_coordinates(rib.shape.exterior) * 1000,
            [shapely.get_coordinates(h) * 1000 for h in rib.shape.interiors],
        )
        marks, complete = _names(rib.label, partners[k], shape)
        if not complete:
            without.append(k)
        shape = shapely.orient_polygons(shape)
        pose = np.vstack([rib.pose * [0.001, 0.001, 0.001, 1.0], [0, 0, 0, 1]])
        parts.append(Part(rib.label, "rib", np.asarray(shape.exterior.coords)[:-1], pose, ribs.material, rib.thickness * 1000,
                          tuple(np.asarray(h.coords)[:-1] for h in shape.interiors), tuple(marks)))  # fmt: skip
    return tuple(parts), without


def _names(label: str, partners: Sequence[tuple[str, Array]], shape: shapely.Polygon) -> tuple[list[Array], bool]:
    """Strokes of a part's label in its widest place and of its partners' where they go in, each made smaller until it keeps
    clear of outlines and of the others; those that would be too small to read are left out."""
    taken: list[Any] = []
    marks: list[Array] = []
    complete = True

    def write(text: str, tallest: float, places: list[Array]) -> None:
        nonlocal complete
        height = tallest
        while height >= LEAST_HEIGHT:
            for place in places:
                strokes, box = lettered(text, height, place, 0.0)
                area = shapely.Polygon(box)
                if shape.contains_properly(area) and not any(area.intersects(t) for t in taken):
                    marks.extend(strokes)
                    taken.append(area)
                    return
            height *= SMALLER
        complete = False

    line = shapely.maximum_inscribed_circle(shape, tolerance=2.0)
    room = shapely.get_coordinates(line)
    radius = float(line.length)
    write(label, min(LABEL_HEIGHT, 1.1 * radius), [room[0]])
    for text, place in partners:
        aside = NEIGHBOUR_HEIGHT * 1.6
        write(text, NEIGHBOUR_HEIGHT, [place, *(place + [dx, 0.0] for dx in (aside, -aside, 2 * aside, -2 * aside))])
    return marks, complete
