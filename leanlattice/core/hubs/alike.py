"""Hubs made alike: the seats of all of a kind are where the mean of theirs is, and each hub is
turned so that these fit its members best."""

from __future__ import annotations

from dataclasses import replace
from typing import NamedTuple

import numpy as np
from numpy.typing import NDArray

from ..geometry.arcs import unit
from ..naming.numbering import in_order
from ..structure.hub_seats import HubSeats, SeatEnds
from .likeness import hub_kinds

__all__ = ["AlikeSeats", "alike_seats"]

Array = NDArray[np.float64]
Index = NDArray[np.int32]
MATCHED = 3.0
"""Tolerances within which seats of hubs of a kind have to lie over each other."""
LEAST_SINE = 0.1
"""Of the angle between two directions that turn a hub over another."""


class AlikeSeats(NamedTuple):
    """The ``seats`` of hubs made alike, the ``kind`` (k,) of each hub from 1, and how far ``off``
    (n,) the places where their members begin the middles of seats are, in metres."""

    seats: HubSeats
    kind: Index
    off: Array


def alike_seats(seats: HubSeats, tolerance: float) -> AlikeSeats:
    """Seats of hubs of a kind alike; those are of a kind that ``hub_kinds`` takes for equal within
    the ``tolerance`` (m), and that can be turned so that their seats lie over each other."""
    places = _places(seats.ends)
    kind, groups = np.zeros(seats.count, np.int64), []
    left = hub_kinds(seats, tolerance)
    while (left > 0).any():
        first = int(np.argmax(left > 0))
        rows = np.flatnonzero(left == left[first])
        orders = [_over(seats, places, first, int(row), MATCHED * tolerance) for row in rows]
        matched = np.array([order is not None for order in orders])
        groups.append(np.array([order for order in orders if order is not None]))
        rows = rows[matched]
        left[rows], kind[rows] = 0, len(groups)
    made = _formed(seats, places, groups)
    off = np.linalg.norm(_places(made.ends) - places, axis=1)
    return AlikeSeats(made, in_order(kind), off)


def _places(ends: SeatEnds) -> Array:
    """Where (n, 3) members begin, from the middles of their hubs on."""
    return ends.off + ends.set_back[:, None] * ends.way


def _over(
    seats: HubSeats, places: Array, one: int, other: int, within: float
) -> NDArray[np.int64] | None:
    """The seats (k,) of a hub in the order in which they lie over those of ``one`` when it is
    turned so that this fits best; ``None`` where none is ``within`` so many metres.

    Parameters
    ----------
    seats : of all hubs
    places : (n, 3) of their middles, from the middles of hubs on
    one, other : the hubs
    within : metres
    """
    own, others = (
        np.arange(int(seats.offsets[hub]), int(seats.offsets[hub + 1])) for hub in (one, other)
    )
    lead, follow = places[own], places[others]
    i, j = _two_apart(lead)
    apart = np.linalg.norm(follow[:, None] - follow, axis=2)
    may = np.abs(apart - np.linalg.norm(lead[i] - lead[j])) < 2 * within
    first, second = np.nonzero(may & ~np.eye(len(own), dtype=bool))
    frames = _frames(follow[first], follow[second])
    turned = follow @ np.swapaxes(frames, 1, 2) @ _frames(lead[i], lead[j])
    off = np.linalg.norm(turned[:, None] - lead[:, None], axis=3)
    order = off.argmin(axis=2)
    is_order = (np.sort(order, axis=1) == np.arange(len(own))).all(axis=1)
    worst = np.where(is_order, off.min(axis=2).max(axis=1), np.inf)
    if worst.min(initial=np.inf) >= within:
        return None
    return np.asarray(others[order[worst.argmin()]])


def _two_apart(places: Array) -> tuple[int, int]:
    """Two of places (k, 3) whose directions are nearest to square to each other."""
    ways = unit(places)
    cosine = np.abs(ways @ ways.T)
    i, j = np.unravel_index(int(cosine.argmin()), cosine.shape)
    return int(i), int(j)


def _frames(one: Array, other: Array) -> Array:
    """Axes (…, 3, 3; rows) by the directions of two places (…, 3); of a line, any about it."""
    x = unit(one)
    side = np.cross(x, other)
    is_line = np.linalg.norm(side, axis=-1) < LEAST_SINE * np.linalg.norm(other, axis=-1)
    beside = np.cross(x, np.eye(3)[np.abs(x).argmin(axis=-1)])
    z = unit(np.where(is_line[..., None], beside, side))
    return np.stack([x, np.cross(z, x), z], axis=-2)


def _formed(seats: HubSeats, places: Array, groups: list[NDArray[np.int64]]) -> HubSeats:
    """Seats of each group (m, k) of hubs where the mean of theirs is."""
    ends, radius, hollow = seats.ends, seats.radius.copy(), seats.hollow.copy()
    new = {name: getattr(ends, name).copy() for name in ("way", "off", "set_back", "reach")}
    for own in groups:
        if len(own) == 1:
            continue
        hubs = seats.hub[own[:, 0]]
        turn = _turns(places[own], places[own[0]])
        middle = (places[own] @ turn).mean(axis=0)
        way = unit((ends.way[own] @ turn).mean(axis=0))
        reach = ends.reach[own].mean(axis=0)
        mean = replace(ends.some(own[0]), way=way, reach=reach)
        radius[hubs] = max(float(seats.radius[hubs].mean()), float(mean.needs[0][0]))
        hollow[hubs] = seats.hollow[hubs].mean()
        back = np.swapaxes(_turns(places[own], middle), 1, 2)
        new["way"][own] = way @ back
        new["off"][own] = _aside(middle, way) @ back
        new["set_back"][own] = np.sqrt(radius[hubs[0]] ** 2 - reach**2)
        new["reach"][own] = reach
    return replace(seats, ends=replace(ends, **new), radius=radius, hollow=hollow)


def _aside(places: Array, way: Array) -> Array:
    """What of places (k, 3) is square to directions (k, 3)."""
    return np.asarray(places - np.einsum("ki,ki->k", places, way)[:, None] * way)


def _turns(places: Array, wanted: Array) -> Array:
    """The turns (m, 3, 3) about the middles of hubs that take rows of places (m, k, 3) nearest to
    those ``wanted`` (k, 3) (Kabsch, 1976)."""
    left, _, right = np.linalg.svd(np.swapaxes(places, 1, 2) @ wanted)
    left[:, :, 2] *= np.linalg.det(left @ right)[:, None]
    return np.asarray(left @ right)
