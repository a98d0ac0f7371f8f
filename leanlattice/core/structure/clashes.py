"""Members that come too near each other without meeting, and nodes that are crowded."""

from __future__ import annotations

from collections.abc import Callable, Iterator
from dataclasses import dataclass
from typing import Any

import numpy as np
import scipy
from numpy.typing import NDArray

from ..geometry.arcs import tangents
from ..geometry.segments import near_pairs, nearest_shares
from .axes import drawn_axes
from .joined import with_members
from .solids import member_solids
from .structure import Structure

__all__ = ["Clashes", "Crowds", "clashes_of", "crowds_of"]

Array = NDArray[np.float64]
Rows = NDArray[np.int64]
Mask = NDArray[np.bool_]
MOST_SOLIDS = 3000
"""Most pairs that are looked at as solids; the nearest go first."""
SIDES = 24
"""Sides of round sections as solids."""
NOTHING = 1e-9
"""Cubic metres that members may share and still only touch."""
WITHIN = 1e-9


@dataclass(frozen=True, eq=False)
class Clashes:
    """Pairs (k, 2) of members that are too near each other, the worst first, where (k, 3), and how
    far apart (k,) they are in metres, below 0 by how far they run into each other."""

    members: Rows
    places: Array
    apart: Array


@dataclass(frozen=True, eq=False)
class Crowds:
    """Of each node the least ``angle`` (N,) in radians between two ways that leave it, endless where
    there are none, and how many ``arms`` (N,) do."""

    angle: Array
    arms: NDArray[np.int32]


def clashes_of(
    structure: Structure, clear: float = 0.0, check: Callable[[], None] = lambda: None
) -> Clashes:
    """Members that share no node and are nearer to each other than ``clear`` metres, or in each
    other; as solids, with what their cuts leave. ``check`` is called now and then and may raise."""
    pairs, apart, places = _near(structure, clear)
    check()
    order = np.argsort(apart, kind="stable")
    pairs, apart, places = pairs[order], apart[order], places[order]
    sure = _are_round(structure, pairs, places)
    found = sure & (apart < clear - WITHIN)
    unsure = np.flatnonzero(~sure)[:MOST_SOLIDS]
    for row, gap, place in _as_solids(structure, pairs, unsure, clear, check):
        found[row], apart[row], places[row] = True, gap, place
    rows = np.flatnonzero(found)
    rows = rows[np.argsort(apart[rows], kind="stable")]
    return Clashes(pairs[rows], places[rows], apart[rows])


def _near(structure: Structure, clear: float) -> tuple[Rows, Array, Array]:
    """Pairs (k, 2) of members that share no node and may be too near, how far apart (k,) the
    circles about their sections are at least, and where (k, 3); each pair once."""
    starts, ends, member = _chords(structure)
    radius = _radii(structure)[member]
    pairs = near_pairs(starts, ends, 2 * radius + clear)
    owners = member[pairs]
    strangers = np.asarray(owners[:, 0] != owners[:, 1])
    strangers[strangers] = ~_share_nodes(structure, owners[strangers])
    one, other = pairs[strangers].T
    first, second = (starts[one], ends[one]), (starts[other], ends[other])
    share, along, away = nearest_shares(first, second)
    apart = away - radius[one] - radius[other]
    at = (_at(first, share) + _at(second, along)) / 2
    return _each_once(np.sort(owners[strangers], axis=1), apart, at, apart < clear)


def _at(ends: tuple[Array, Array], share: Array) -> Array:
    """Places (k, 3) at shares (k,) of straight pieces from their starts to their ends."""
    return ends[0] + share[:, None] * (ends[1] - ends[0])


def _each_once(owners: Rows, apart: Array, at: Array, kept: Mask) -> tuple[Rows, Array, Array]:
    """Of those ``kept`` (k,) of pairs of owners (k, 2) each once, where it is least ``apart``."""
    owners, apart, at = owners[kept], apart[kept], at[kept]
    order = np.lexsort((apart, owners[:, 1], owners[:, 0]))
    owners, apart, at = owners[order], apart[order], at[order]
    new = np.ones(len(owners), bool)
    new[1:] = np.any(owners[1:] != owners[:-1], axis=1)
    return owners[new].astype(np.int64), apart[new], at[new]


def _chords(structure: Structure) -> tuple[Array, Array, Rows]:
    """Starts and ends (n, 3) of the straight pieces of axes, arcs as chords, and their members."""
    at, first = structure.axis_places, structure.first_entry
    bent: Mask = np.asarray(np.abs(structure.bulge).sum(axis=1) > 0)
    starts, ends = [at[first[~bent]]], [at[first[~bent] + 1]]
    member = [structure.member_of_segment[~bent].astype(np.int64)]
    for m in np.unique(structure.member_of_segment[bent]).tolist():
        line, _, segment = drawn_axes(structure).of_member(m)
        own = bent[segment]
        starts.append(line[:-1][own])
        ends.append(line[1:][own])
        member.append(np.full(int(own.sum()), m, np.int64))
    return np.vstack(starts), np.vstack(ends), np.concatenate(member)


def _radii(structure: Structure) -> Array:
    """Radius (M,) of the circle about each member's section where that is largest."""
    shapes = [s.shape for s in structure.sections]
    half = [s.height / 2 if s.round else np.hypot(s.height, s.width) / 2 for s in shapes]
    return np.asarray(np.array(half)[structure.section_of] * structure.largest_scale)


def _share_nodes(structure: Structure, pairs: Rows) -> Mask:
    """Whether the members of each of the pairs (k, 2) lead to one node."""
    ones = np.ones(len(structure.path), np.int32)
    shape = (structure.count, len(structure.places))
    at = scipy.sparse.csr_array((ones, (structure.member_of_entry, structure.path)), shape=shape)
    shared: Any = at[pairs[:, 0]].multiply(at[pairs[:, 1]]).sum(axis=1)
    return np.asarray(np.ravel(shared) > 0)


def _are_round(structure: Structure, pairs: Rows, places: Array) -> Mask:
    """Whether both members of pairs (k, 2) are even, straight and round, and what is between their
    axes is between their sides: the place (k, 3) half-way lies off their ends."""
    is_round = np.array([s.shape.round for s in structure.sections])[structure.section_of]
    easy = is_round & structure.is_plain
    out = np.asarray(easy[pairs[:, 0]] & easy[pairs[:, 1]])
    ends = structure.axis_places[
        np.column_stack([structure.offsets[:-1], structure.offsets[1:] - 1])
    ]
    radius, length = _radii(structure), np.maximum(structure.lengths, 1e-300)
    for side in (0, 1):
        m = pairs[:, side]
        way = (ends[m, 1] - ends[m, 0]) / length[m, None]
        run = np.einsum("ij,ij->i", places - ends[m, 0], way)
        back = np.maximum(structure.set_back[m], 0.0) + radius[m, None]
        out &= (run > back[:, 0]) & (run < length[m] - back[:, 1])
    return out


def _as_solids(
    structure: Structure, pairs: Rows, rows: Rows, clear: float, check: Callable[[], None]
) -> Iterator[tuple[int, float, Array]]:
    """The row, the distance and the place (3,) of those of the pairs (k, 2) in ``rows`` that are
    too near as solids."""
    import manifold3d

    kept = np.zeros(structure.count, bool)
    kept[pairs[rows].ravel()] = True
    if not kept.any():
        return
    number = np.flatnonzero(kept)
    solids = {}
    for k, vertices, triangles in member_solids(with_members(structure, kept), SIDES):
        mesh = manifold3d.Mesh(vertices.astype(np.float32), triangles.astype(np.uint32))
        solids[int(number[k])] = manifold3d.Manifold(mesh)
    for count, row in enumerate(rows.tolist()):
        if count % 100 == 0:
            check()
        one, other = (solids.get(int(m)) for m in pairs[row])
        if one is None or other is None:
            continue
        common = one ^ other
        if common.volume() > NOTHING:
            low, high = np.reshape(common.bounding_box(), (2, 3))
            yield row, -float((high - low).min()), (low + high) / 2
        elif clear > 0:
            gap = float(one.min_gap(other, clear))
            if gap < clear - WITHIN:
                low, high = np.reshape(one.bounding_box(), (2, 3))
                yield row, gap, np.clip(_middle(other), low, high)


def _middle(solid: Any) -> Array:
    return np.reshape(solid.bounding_box(), (2, 3)).mean(axis=0)


def crowds_of(structure: Structure) -> Crowds:
    """How crowded each node is."""
    leaving, arriving = tangents(structure.chords, structure.bulge)
    first = structure.first_entry
    node = np.concatenate([structure.path[first], structure.path[first + 1]])
    ways = np.vstack([leaving, -arriving])
    order = np.argsort(node, kind="stable")
    node, ways = node[order], ways[order]
    arms = np.bincount(node, minlength=len(structure.places)).astype(np.int32)
    cosine = np.full(len(structure.places), -np.inf)
    for step in range(1, int(arms.max(initial=0))):
        same = np.flatnonzero(node[:-step] == node[step:])
        between = np.einsum("ij,ij->i", ways[same], ways[same + step])
        np.maximum.at(cosine, node[same], between)
    angle = np.where(np.isfinite(cosine), np.arccos(np.clip(cosine, -1, 1)), np.inf)
    return Crowds(angle, arms)
