"""Which hubs are equal to one another, wherever they are and however they are turned."""

from __future__ import annotations

from itertools import combinations

import numpy as np
from numpy.typing import NDArray

from ..naming.numbering import in_order, type_numbers
from ..structure.hub_seats import HubSeats

__all__ = ["hub_kinds"]

Array = NDArray[np.float64]
Index = NDArray[np.int32]
HANDED = 1e-4
"""Share of the sixth power of its radius from which a hub is told from its mirror image."""


def hub_kinds(seats: HubSeats, tolerance: float) -> Index:
    """Kinds (k,) from 1 of hubs, in the order in which these come; equal ones differ by less than
    the ``tolerance`` (m) in their radii, in how far the middles of their seats are from theirs and
    from each other, and in how large seats are. Mirror images are two kinds."""
    counts = np.diff(seats.offsets)
    out = np.zeros(seats.count, np.int32)
    made = 0
    for count in np.unique(counts).tolist():
        own = np.flatnonzero(counts == count)
        features = np.array([_features(seats, k, tolerance) for k in own.tolist()])
        types, _ = type_numbers(features[:, None, :], tolerance)
        out[own] = types + made
        made += int(types.max()) + 1
    return in_order(out)


def _features(seats: HubSeats, hub: int, tolerance: float) -> Array:
    """Lengths in metres that equal hubs have in common."""
    own = slice(int(seats.offsets[hub]), int(seats.offsets[hub + 1]))
    ends = seats.ends
    places = ends.off[own] + ends.set_back[own, None] * ends.way[own]
    i, j = np.triu_indices(len(places), 1)
    apart = np.linalg.norm(places[i] - places[j], axis=1)
    middle = np.linalg.norm(places, axis=1)
    hand = _hand(places, seats.radius[hub]) * 3 * tolerance
    return np.concatenate(
        [
            [seats.radius[hub], seats.hollow[hub], hand],
            np.sort(ends.reach[own]),
            np.sort(middle),
            np.sort(apart),
        ]
    )


def _hand(places: Array, radius: float) -> int:
    """1 or −1 for a hub and its mirror image, by the ``places`` (n, 3) of its seats; 0 where these
    are one: what three places enclose with the middle changes its sign with the mirror and with
    their order, and so does what the differences of their distances multiply to."""
    if len(places) < 3:
        return 0
    a, b, c = np.array(list(combinations(range(len(places)), 3))).T
    encloses = np.einsum("ij,ij->i", places[a], np.cross(places[b], places[c]))
    ab, bc, ca = (
        np.linalg.norm(places[p] - places[q], axis=1) for p, q in ((a, b), (b, c), (c, a))
    )
    total = float((encloses * (ab - bc) * (bc - ca) * (ca - ab)).sum()) / radius**6
    return int(np.sign(total)) if abs(total) > HANDED else 0
