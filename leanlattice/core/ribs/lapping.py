"""Two sets of ribs that go into each other: what they are worked out of, and what comes of it."""

from __future__ import annotations

from collections.abc import Callable, Sequence
from dataclasses import dataclass, field, replace
from typing import Any

import numpy as np
import shapely
from numpy.typing import NDArray

from ..results import Result
from .edges import footed, raised
from .laps import Laps, Slots, lapped
from .lightened import drilled, holes_in, hollowed
from .plates import Rib

__all__ = ["Feet", "Lapped", "Lapping", "Openings", "RibSet", "Rods", "worked"]

Array = NDArray[np.float64]
UP = np.array([0.0, 0.0, 1.0])
LEANS = 0.01
"""Plates whose y leans by more from the plumb have neither feet nor edges moved."""


@dataclass(frozen=True, eq=False)
class RibSet(Result):
    """``ribs`` of a set as they were cut, its ``series``, and the ``normals`` (k, 3) of its planes;
    none where they are bent."""

    ribs: tuple[Rib, ...]
    series: str
    normals: Array


@dataclass(frozen=True)
class Feet(Result):
    """Feet so ``wide``, ``inset`` from the ends of a rib, down to the ``ground``, in metres."""

    wide: float
    inset: float
    ground: float


@dataclass(frozen=True)
class Openings(Result):
    """Openings with a ``border`` to edges and slots, rounded by ``radius``, in metres."""

    border: float
    radius: float


@dataclass(frozen=True, eq=False)
class Rods(Result):
    """Rods or cables of a ``radius`` along ``paths`` (k, 3) through the ribs of a set, ``of`` (0 or
    1), or of both (``None``); holes keep ``wall`` to edges and slots, in metres."""

    radius: float
    paths: tuple[Array, ...]
    of: int | None
    wall: float


@dataclass(frozen=True, eq=False)
class Lapping(Result):
    """What two sets of ribs are worked out of: the ``sets`` as they were cut, which of them is
    slotted from ``above``, how they are slotted, by how much (m) upper edges stand ``proud``, and
    what feet, openings and rods they have."""

    sets: tuple[RibSet, RibSet]
    above: int = 0
    slots: Slots = field(default_factory=Slots)
    proud: float = 0.0
    feet: Feet | None = None
    openings: Openings | None = None
    rods: tuple[Rods, ...] = ()

    @property
    def order(self) -> tuple[RibSet, RibSet]:
        """The sets, that which is slotted from above first."""
        first, second = self.sets
        return (first, second) if self.above == 0 else (second, first)

    @property
    def thinnest(self) -> float:
        """Thickness (m) of the thinnest rib; infinite without any."""
        return min((r.thickness for s in self.sets for r in s.ribs), default=np.inf)


@dataclass
class _Moved:
    """Ribs of a set with their edges moved, what of each does not follow the body by intent, how
    many could not be given feet, and those of which nothing is left."""

    ribs: list[Rib] = field(default_factory=list)
    beyond: list[Any] = field(default_factory=list)
    footless: int = 0
    gone: list[Rib] = field(default_factory=list)

    def let_go(self, which: set[str]) -> None:
        """Takes ribs out by their labels."""
        self.gone += [r for r in self.ribs if r.label in which]
        kept = [k for k, r in enumerate(self.ribs) if r.label not in which]
        self.ribs, self.beyond = [self.ribs[k] for k in kept], [self.beyond[k] for k in kept]


@dataclass(frozen=True, eq=False)
class Lapped:
    """What comes of it: ``ribs``, the ``laps`` before anything was opened, shapes ``unslotted``,
    what does not follow the body by intent (``beyond``); labels of ribs that are ``gone``, and of
    those in which a hole had no room (``thin``), how many are ``footless``, and numbers from 1 of
    the last rods that pass no rib (``loose``)."""

    ribs: list[Rib]
    laps: Laps
    unslotted: tuple[shapely.Polygon, ...]
    beyond: tuple[Any, ...]
    gone: list[str]
    thin: list[str]
    footless: int
    loose: list[int]


def worked(lapping: Lapping, check: Callable[[], None] = lambda: None) -> Lapped:
    """Ribs of two sets with their edges moved, slotted, opened and drilled; ``check`` is called now
    and then and may raise."""
    moved = [_moved(s.ribs, lapping) for s in lapping.order]
    laps = _slotted(moved, lapping.slots, check)
    ribs, thin = _opened(laps, lapping)
    unslotted = _unslotted([*moved[0].ribs, *moved[1].ribs], laps, ribs)
    beyond = (*moved[0].beyond, *moved[1].beyond)
    gone = [r.label for m in moved for r in m.gone]
    footless = sum(m.footless for m in moved)
    loose = _loose(laps.ribs, lapping.rods[-1], lapping) if lapping.rods else []
    return Lapped(ribs, laps, unslotted, beyond, gone, thin, footless, loose)


def _moved(ribs: Sequence[Rib], lapping: Lapping) -> _Moved:
    out, feet = _Moved(), lapping.feet
    for rib in ribs:
        shape: shapely.Polygon = rib.shape
        apart: Any = shapely.Polygon()
        if rib.y @ UP > 1 - LEANS:
            if lapping.proud:
                shape = raised(shape, lapping.proud)
                apart = shape.symmetric_difference(rib.shape)
            if feet is not None and not shape.is_empty:
                shape, foot = footed(shape, feet.ground - rib.origin[2], feet.wide, feet.inset)
                out.footless += foot.is_empty
                apart = apart.union(foot)
        out.ribs.append(replace(rib, shape=shape))
        out.beyond.append(apart)
    out.let_go({r.label for r in out.ribs if r.shape.is_empty})
    return out


def _slotted(sets: list[_Moved], slots: Slots, check: Callable[[], None]) -> Laps:
    """The two sets slotted; ribs of which slots leave nothing are let go of, and the others not
    slotted for them."""
    while True:
        laps = lapped(sets[0].ribs, sets[1].ribs, slots, UP, check)
        eaten = {r.label for r in laps.ribs if r.shape.is_empty}
        if not eaten:
            return laps
        for one in sets:
            one.let_go(eaten)


def _opened(laps: Laps, lapping: Lapping) -> tuple[list[Rib], list[str]]:
    """Ribs with openings and holes, and labels of those in which a hole had no room."""
    ribs, rods = laps.ribs, lapping.rods
    held = [[_is_held(rib, one, lapping) for rib in ribs] for one in rods]
    if lapping.openings is not None:
        kept = [list(zone) for zone in laps.zones]
        for one, own in zip(rods, held, strict=True):
            for k in np.flatnonzero(own):
                kept[k] += holes_in(ribs[k], one.paths, one.radius)
        ribs = hollowed(ribs, kept, lapping.openings.border, lapping.openings.radius)
    thin: list[str] = []
    for one, own in zip(rods, held, strict=True):
        done, without = drilled(
            [rib for rib, is_held in zip(ribs, own, strict=True) if is_held],
            one.paths,
            one.radius,
            one.wall,
        )
        drawn = iter(done)
        ribs = [next(drawn) if is_held else rib for rib, is_held in zip(ribs, own, strict=True)]
        thin += without
    return ribs, thin


def _is_held(rib: Rib, rods: Rods, lapping: Lapping) -> bool:
    return rods.of is None or rib.series == lapping.sets[rods.of].series


def _loose(ribs: Sequence[Rib], rods: Rods, lapping: Lapping) -> list[int]:
    """Numbers from 1 of rods that pass no rib."""
    held = [rib for rib in ribs if _is_held(rib, rods, lapping)]
    return [
        number
        for number, path in enumerate(rods.paths, 1)
        if not any(
            rib.shape.contains(hole.centroid)
            for rib in held
            for hole in holes_in(rib, [path], rods.radius)
        )
    ]


def _unslotted(whole: list[Rib], laps: Laps, ribs: list[Rib]) -> tuple[shapely.Polygon, ...]:
    """Shapes of ribs before they were slotted, with all that was opened in them since."""
    out = []
    for k, (before, slotted, now) in enumerate(zip(whole, laps.ribs, ribs, strict=True)):
        shape = before.shape
        if k in laps.fell:
            shape = now.shape
        elif now.shape is not slotted.shape:
            rings: Any = shapely.polygons(np.array(list(now.shape.interiors), object))
            fresh = shapely.contains(shape, shapely.point_on_surface(rings))
            shape = shapely.Polygon(
                shape.exterior, [*shape.interiors, *(r.exterior for r in rings[fresh])]
            )
        out.append(shape)
    return tuple(out)
