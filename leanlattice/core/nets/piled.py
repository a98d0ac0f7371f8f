"""Bars that lie on top of each other: straight as they are, they lift the net they are laid on."""

from __future__ import annotations

from dataclasses import dataclass, replace

import numpy as np
import scipy
from numpy.typing import NDArray

from ..geometry.arcs import unit
from ..geometry.nets import Net
from .rebuilt import rebuilt

__all__ = ["Bars", "Contacts", "piled"]

Array = NDArray[np.float64]
Long = NDArray[np.int64]
ROUNDS_OF_TILT = 12
"""Rounds in which contacts are made square to bars that tilt."""
LEAST_LEAN = 0.2
"""Cosine below which bars are not raised further for how they lean."""


@dataclass(frozen=True, eq=False)
class Bars:
    """Straight bars (B) from ``first`` to ``last`` (B, 3), each raised along ``normals`` (B, 2, 3)
    at its two ends."""

    first: Array
    last: Array
    normals: Array

    def shares(self, bar: Long, places: Array) -> Array:
        """How far (n,) places are along bars (n,), from −½ to ½."""
        way = (self.last - self.first)[bar]
        square = np.maximum(np.einsum("ij,ij->i", way, way), 1e-300)
        middle = (self.first[bar] + self.last[bar]) / 2
        return np.asarray(np.einsum("ij,ij->i", places - middle, way) / square)

    def at(self, bar: Long, share: Array) -> Array:
        """Places (n, 3) at shares (n,) of bars (n,)."""
        way = (self.last - self.first)[bar]
        return np.asarray((self.first[bar] + self.last[bar]) / 2 + share[:, None] * way)

    def raised(self, heights: Array, thickness: float) -> Bars:
        """Bars of middle heights and slopes (2 B,), in thicknesses."""
        middle, slope = np.split(heights, 2)
        low, high = (
            thickness * (middle + way * slope)[:, None] * self.normals[:, k]
            for k, way in enumerate((-0.5, 0.5))
        )
        return Bars(self.first + low, self.last + high, self.normals)


@dataclass(frozen=True, eq=False)
class Contacts:
    """Where ``bars`` rest on each other.

    Parameters
    ----------
    end, bears : (n,) the bar that ends at a contact, and the one that bears it
    at : (n,) the vertex of the net there
    held : (k,) ends that stay on the net: twice the bar, plus 1 for its last end
    """

    bars: Bars
    end: Long
    bears: Long
    at: Long
    held: Long


def piled(net: Net, contacts: Contacts, thickness: float) -> tuple[Net, Array, Array]:
    """The net lifted by bars that rest on each other, how far its vertices were lifted for it (V,),
    and how far ends are off the bars they rest on (n,), all in metres.

    The height of a bar above the net is linear along it. At each contact an end is a ``thickness``
    (m) above the bar it rests on, square to both, and ends that are held lie on the net: as many
    equations as there are unknowns, or a few more, which are met as nearly as can be by the least
    heights.
    """
    places, normals = net.vertices[contacts.at], net.normals[contacts.at]
    above, low = _lines(contacts, contacts.end, places, normals)
    below, lower = _lines(contacts, contacts.bears, places, normals)
    apart, lean = np.ones(len(places)), np.ones(len(places))
    for _ in range(ROUNDS_OF_TILT):
        heights = _solved(contacts, above - below, apart - (low - lower) / thickness)
        lean = _lean(contacts, contacts.bars.raised(heights, thickness), normals)
        apart = 1 / np.maximum(lean, LEAST_LEAN)
    up, down = low / thickness + above @ heights, lower / thickness + below @ heights
    rise = np.zeros(len(net.vertices))
    rise[contacts.at] = (up + down) / 2 * thickness
    lifted = _lifted(net, contacts, rise, (up - down) / 2)
    return lifted, rise, np.abs((up - down) * lean - 1) * thickness


def _lines(
    contacts: Contacts, bar: Long, places: Array, normals: Array
) -> tuple[scipy.sparse.csr_array, Array]:
    """Gives of middle heights and slopes the height of each ``bar`` (n,) at ``places`` (n, 3), and
    how far (n,) in metres it lies above these as it is, along the ``normals`` (n, 3)."""
    share = contacts.bars.shares(bar, places)
    above = np.einsum("ij,ij->i", contacts.bars.at(bar, share) - places, normals)
    return _linear(bar, share, len(contacts.bars.first)), above


def _solved(contacts: Contacts, contact: scipy.sparse.csr_array, wanted: Array) -> Array:
    """Middle heights and slopes (2 B,) of all bars for what is ``wanted`` (n,) at each contact."""
    count, held = len(contacts.bars.first), contacts.held
    ends = _linear(held >> 1, np.where(held % 2, 0.5, -0.5), count)
    system = scipy.sparse.vstack([contact, ends])
    right = np.concatenate([wanted, np.zeros(len(held))])
    return np.asarray(
        scipy.sparse.linalg.lsmr(system, right, atol=1e-12, btol=1e-12, maxiter=20 * count)[0]
    )


def _lean(contacts: Contacts, raised: Bars, normals: Array) -> Array:
    """Cosines (n,) between what is square to both bars at a contact and the net's normal there."""
    way = raised.last - raised.first
    square = unit(np.cross(way[contacts.end], way[contacts.bears]))
    return np.asarray(np.abs(np.einsum("ij,ij->i", square, normals)))


def _lifted(net: Net, contacts: Contacts, rise: Array, half: Array) -> Net:
    """The net with vertices lifted by their ``rise`` (V,) along its normals, where ends lie
    ``half`` (n,) thicknesses above it and what they rest on as far below."""
    assert net.weave is not None
    vertices = net.vertices + rise[:, None] * net.normals
    of_ends = np.full(len(net.vertices), -1, np.int64)
    of_ends[contacts.at] = np.arange(len(half))
    weave = replace(net.weave, level=_levels(net, contacts.end, of_ends, half))
    lifted = rebuilt(net, vertices, net.uv, net.corners, net.offsets)
    return replace(lifted, weave=weave)


def _linear(bar: Long, share: Array, bars: int) -> scipy.sparse.csr_array:
    """Gives of middle heights and slopes of all bars (2 B,) the height of each ``bar`` (n,) at a
    ``share`` (n,) of its length from its middle."""
    rows = np.arange(len(bar))
    values = np.concatenate([np.ones(len(bar)), share])
    at = (np.concatenate([rows, rows]), np.concatenate([bar, bar + bars]))
    return scipy.sparse.csr_array((values, at), shape=(len(bar), 2 * bars))


def _levels(net: Net, bar: Long, of_ends: Long, half: Array) -> Array:
    """Levels (E, 2) in thicknesses of strands at the ends of edges: of the ``bar`` (n,) that ends
    at a vertex ``half`` (n,) above it, of the one that passes there as far below."""
    assert net.weave is not None
    strand = net.weave.strand[:, None]
    end = of_ends[net.edges]
    ends_here = bar[end] == strand
    level = np.where(ends_here, half[end], -half[end])
    return np.asarray(np.where((end >= 0) & ~net.border[:, None], level, 0.0))
