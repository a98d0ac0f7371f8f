"""Ribs as flat parts: outlines in millimetres with their own label and, at each slot, their
partner's."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass
from functools import cached_property
from typing import Any

import numpy as np
import shapely
from numpy.typing import NDArray

from ..flat.lettering import LABEL_HEIGHT, NEIGHBOUR_HEIGHT, Names
from ..flat.parts import Part, Parts
from ..geometry.meshes import Body
from ..results import Result, result_type
from .assembly import Assembly, assembly
from .lapping import Lapping
from .laps import Crossing, Passing
from .plates import Rib

__all__ = ["Ribs", "Splice", "rib_parts", "way_in"]

Array = NDArray[np.float64]
STEEP = 0.9
"""Ways that rise or fall by more than this are upright."""
COMPASS = ("+x", "+x +y", "+y", "−x +y", "−x", "−x −y", "−y", "+x −y")
"""Names of directions in plan, every eighth of a turn from x."""


@dataclass(frozen=True, eq=False)
class Splice(Result):
    """Lengths ``first`` and ``second`` (positions) of one rib that are joined end to end, and where
    in space the name of the second stands on the first and the other way, ``names`` (2, 3)."""

    first: int
    second: int
    names: Array


@result_type("Ribs", "ribs", "rib", covers=("Net", "Shape", "Curves"))
@dataclass(frozen=True, eq=False)
class Ribs(Result):
    """Ribs with the ``crossings`` at which they go into each other, of a ``material``; ``sets``
    names their series in the order in which they are put in, ``zones`` are polygons in the plane of
    each rib where it is cut for others, and ``passing`` are ribs in each other's way; ``beyond``
    are polygons of each that do not follow the body by intent. ``unslotted`` are their shapes
    before others cut into them, where any do. Outer edges lie on ``body``, if they are to; slots
    have ``clearance`` (mm) to spare.

    Where ribs are spliced, they are lengths joined by ``splices`` with ``gap`` (mm) between them,
    ``whole`` are the ribs before, and ``of_whole`` tells which of these each is of; lengths of one
    rib are joined before it goes in. Ribs in two sets that are whole know the ``lapping`` they were
    worked out of."""

    ribs: tuple[Rib, ...]
    crossings: tuple[Crossing, ...]
    material: str
    sets: tuple[str, ...]
    zones: tuple[tuple[shapely.Polygon, ...], ...] = ()
    passing: tuple[Passing, ...] = ()
    beyond: tuple[Any, ...] = ()
    unslotted: tuple[shapely.Polygon, ...] = ()
    body: Body | None = None
    clearance: float = 0.0
    splices: tuple[Splice, ...] = ()
    gap: float = 0.0
    whole: Ribs | None = None
    of_whole: tuple[int, ...] = ()
    lapping: Lapping | None = None

    @cached_property
    def assembly(self) -> Assembly:
        """The order in which they go together."""
        if self.whole is None:
            return assembly(len(self.ribs), self.crossings, self.passing)
        return self.whole.assembly.of_parts(self.of_whole)

    @property
    def meeting(self) -> list[tuple[int, int]]:
        """Pairs of ribs (positions) that touch each other when they are together."""
        slotted = [(c.first, c.second) for c in self.crossings if not c.locked]
        return slotted + [(s.first, s.second) for s in self.splices]

    @cached_property
    def parts(self) -> Parts:
        """Their flat parts."""
        return rib_parts(self)

    def put_in(self) -> dict[str, str]:
        """How ribs of each set go in, in words, in the order of their first."""
        ways: dict[str, list[str]] = {}
        for k, way in zip(self.assembly.order, self.assembly.way, strict=True):
            word = way_in(way)
            if word not in ways.setdefault(self.ribs[k].series, []):
                ways[self.ribs[k].series].append(word)
        return {series: " and ".join(sorted(words)) for series, words in ways.items()}

    def off_body(self) -> list[list[Any]]:
        """Of each rib, polygons in which its outline does not lie on the body: slots, and edges
        moved by intent."""
        out = [list(z) for z in self.zones] or [[] for _ in self.ribs]
        for k, apart in enumerate(self.beyond):
            out[k] += [p for p in shapely.get_parts(apart) if not p.is_empty]
        return out

    @property
    def labels(self) -> list[str]:
        return [r.label for r in self.ribs]


def way_in(way: Array) -> str:
    """The way (3,) a rib goes in, in words."""
    if not way.any():
        return "stood up"
    if abs(way[2]) > STEEP:
        return "from above" if way[2] < 0 else "from below"
    # The side it comes from is the one it moves away from.
    side = np.degrees(np.arctan2(-way[1], -way[0])) % 360
    return f"from the side, {COMPASS[round(side / 45) % 8]}"


def rib_parts(ribs: Ribs) -> Parts:
    """Flat parts of all ribs.

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
                partners[own].append((ribs.ribs[other].label, rib.flattened(at[None])[0] * 1000))
    for s in ribs.splices:
        for own, other, at in ((s.first, s.second, s.names[0]), (s.second, s.first, s.names[1])):
            rib = ribs.ribs[own]
            partners[own].append((ribs.ribs[other].label, rib.flattened(at[None])[0] * 1000))
    parts, without = [], []
    for k, rib in enumerate(ribs.ribs):
        shape = shapely.Polygon(
            shapely.get_coordinates(rib.shape.exterior) * 1000,
            [shapely.get_coordinates(h) * 1000 for h in rib.shape.interiors],
        )
        names = _names(rib.label, partners[k], shape)
        if not names.complete:
            without.append(k)
        shape = shapely.orient_polygons(shape)
        pose = np.vstack([rib.pose * [0.001, 0.001, 0.001, 1.0], [0, 0, 0, 1]])
        parts.append(
            Part(
                rib.label,
                "rib",
                np.asarray(shape.exterior.coords)[:-1],
                pose,
                ribs.material,
                rib.thickness * 1000,
                tuple(np.asarray(h.coords)[:-1] for h in shape.interiors),
                tuple(names.strokes),
                rib.bend,
            )
        )
    every = np.arange(len(parts), dtype=np.int32)
    none = np.zeros(0, np.int32)
    return Parts(tuple(parts), "rib", every, none, np.array(without, np.int32))


def _names(label: str, partners: Sequence[tuple[str, Array]], shape: shapely.Polygon) -> Names:
    """A part's partners' labels where they go in, and its own in the widest place left."""
    names = Names(shape)
    aside = np.array([0.0, 1.0, -1.0, 2.0, -2.0])[:, None] * [NEIGHBOUR_HEIGHT * 1.6, 0.0]
    for text, place in partners:
        names.write(text, NEIGHBOUR_HEIGHT, place + aside)
    # Its own label comes where the others leave the widest place.
    middle, room = names.room()
    names.write(label, min(LABEL_HEIGHT, 1.1 * room), middle)
    return names
