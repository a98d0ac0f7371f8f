"""Nets with fewer parts: cells taken out, edges and vertices dissolved, near vertices made one; and
nets eased."""

from __future__ import annotations

from dataclasses import replace

import numpy as np
import scipy
from numpy.typing import NDArray

from ..geometry.nets import Net, build_net
from ..geometry.polygons import cleaned, vector_areas
from ..geometry.surfaces import Surface
from .fans import cell_of_half_edges, creases, fans, following, twins
from .rebuilt import lifted, rebuilt
from .spots import on_shape, unwrapped

__all__ = [
    "chosen_by_seed",
    "eased_on_shape",
    "merged_near",
    "without_cells",
    "without_edges",
    "without_thin_cells",
    "without_vertices",
]

Array = NDArray[np.float64]
Index = NDArray[np.int32]


def chosen_by_seed(candidates: NDArray[np.int64], share: float, seed: int) -> NDArray[np.int64]:
    """The given share of the candidates, chosen by a seed; a larger share holds what a smaller one
    did."""
    order = np.random.default_rng(seed).permutation(len(candidates))
    return np.sort(candidates[order[: round(share * len(candidates))]])


def without_cells(net: Net, cells: NDArray[np.int64]) -> Net:
    """The net with openings in place of some cells."""
    kept = np.ones(net.cell_count, bool)
    kept[cells] = False
    counts = np.diff(net.offsets)
    offsets = np.concatenate([[0], np.cumsum(counts[kept])]).astype(np.int32)
    made = rebuilt(net, net.vertices, net.uv, net.corners[np.repeat(kept, counts)], offsets)
    return made if net.raised_from is None else replace(made, raised_from=net.raised_from[kept])


def without_edges(net: Net, edges: NDArray[np.int64]) -> tuple[Net, int]:
    """Inner edges dissolved one by one, their two cells becoming one, and how many were.

    An edge stays where its cells would touch themselves, or a vertex would be left hanging.
    """
    twin, after = twins(net).tolist(), following(net)
    before = np.empty_like(after)
    before[after] = np.arange(len(after), dtype=np.int32)
    nxt, prv = after.tolist(), before.tolist()
    corner = net.corners.tolist()
    half_of_edge = np.full(len(net.edges), -1)
    half_of_edge[net.sides] = np.arange(len(net.sides))
    gone = np.zeros(len(nxt), bool)
    valence = net.valence.copy()
    done = 0
    for e in edges.tolist():
        h = int(half_of_edge[e])
        t = twin[h]
        if (
            t < 0
            or gone[h]
            or min(valence[net.edges[e]]) <= 2
            or _meet_elsewhere(h, t, nxt, corner)
        ):
            continue
        nxt[prv[h]], prv[nxt[t]] = nxt[t], prv[h]
        nxt[prv[t]], prv[nxt[h]] = nxt[h], prv[t]
        gone[[h, t]] = True
        valence[net.edges[e]] -= 1
        done += 1
    return rebuilt(net, net.vertices, net.uv, *_walked(nxt, gone, corner)), done


def without_thin_cells(net: Net, share: float, rounds: int = 6) -> Net:
    """The net with cells smaller than a ``share`` of the usual one, or inside out, joined to the
    neighbour they have their longest edge with."""
    for _ in range(rounds):
        size = vector_areas(net.vertices, net.corners, net.offsets)
        facing = np.add.reduceat(net.normals[net.corners], net.offsets[:-1], axis=0)
        facing /= np.maximum(np.linalg.norm(facing, axis=1, keepdims=True), 1e-300)
        thin = np.einsum("ij,ij->i", size, facing) < share * np.median(np.linalg.norm(size, axis=1))
        if not thin.any():
            break
        cell = cell_of_half_edges(net)
        half = np.flatnonzero(thin[cell] & ~net.border[net.sides])
        order = half[np.lexsort((-net.edge_lengths[net.sides[half]], cell[half]))]
        longest = order[np.unique(cell[order], return_index=True)[1]]
        net, gone = without_edges(net, np.unique(net.sides[longest]).astype(np.int64))
        if not gone:
            break
    return net


def _meet_elsewhere(h: int, t: int, nxt: list[int], corner: list[int]) -> bool:
    """Whether the cells of a half-edge and its twin are one, or share more than its two
    vertices."""
    rings = []
    for start in (h, t):
        ring, k = [], start
        while True:
            ring.append(corner[k])
            k = nxt[k]
            if k == start:
                break
            if k in (h, t):
                return True
        rings.append(ring)
    return len(set(rings[0]) & set(rings[1])) > 2


def _walked(nxt: list[int], gone: NDArray[np.bool_], corner: list[int]) -> tuple[Index, Index]:
    seen = gone.copy()
    corners, counts = [], []
    for start in range(len(nxt)):
        if seen[start]:
            continue
        size, k = 0, start
        while not seen[k]:
            seen[k] = True
            corners.append(corner[k])
            size += 1
            k = nxt[k]
        counts.append(size)
    return np.array(corners, np.int32), np.concatenate([[0], np.cumsum(counts)]).astype(np.int32)


def without_vertices(net: Net, vertices: NDArray[np.int64]) -> tuple[Net, int]:
    """Inner vertices dissolved, the cells about each becoming one, and how many were; of two with a
    cell in common only the first."""
    about = fans(net)
    cell, after = cell_of_half_edges(net), following(net)
    fan_of = {int(v): i for i, v in enumerate(about.vertex) if not about.open[i]}
    taken = np.zeros(net.cell_count, bool)
    rings: list[list[int]] = []
    for v in vertices.tolist():
        i = fan_of.get(v)
        if i is None:
            continue
        halves = about.half[about.offsets[i] : about.offsets[i + 1]]
        cells = cell[halves]
        if taken[cells].any():
            continue
        ring: list[int] = []
        for h in halves:
            k = int(after[h])
            while int(net.corners[after[k]]) != v:
                ring.append(int(net.corners[k]))
                k = int(after[k])
        if len(ring) < 3 or len(set(ring)) < len(ring):
            continue
        taken[cells] = True
        rings.append(ring)
    counts = np.diff(net.offsets)
    corners = np.concatenate(
        [net.corners[np.repeat(~taken, counts)], *(np.array(r, np.int32) for r in rings)]
    )
    sizes = np.concatenate([counts[~taken], np.array([len(r) for r in rings], np.int32)])
    offsets = np.concatenate([[0], np.cumsum(sizes)]).astype(np.int32)
    return rebuilt(net, net.vertices, net.uv, corners, offsets), len(rings)


def merged_near(net: Net, distance: float) -> tuple[Net, int]:
    """Vertices joined by edges shorter than ``distance`` (m) made one in their middle, on the shape
    where the net lies on it; and how many went. At borders, and at creases of a body, a vertex of
    there stays, a corner first. Chains of short edges end at one vertex."""
    short = net.edges[net.edge_lengths < distance]
    count = len(net.vertices)
    if not len(short):
        return net, 0
    graph = scipy.sparse.coo_array(
        (np.ones(len(short)), (short[:, 0], short[:, 1])), shape=(count, count)
    )
    group = scipy.sparse.csgraph.connected_components(graph, directed=False)[1]
    sizes = np.bincount(group)
    centre = (
        np.stack([np.bincount(group, net.vertices[:, k]) for k in range(3)], axis=1)
        / sizes[:, None]
    )
    rank = _standing(net)
    order = np.lexsort((np.linalg.norm(net.vertices - centre[group], axis=1), -rank, group))
    first = order[np.searchsorted(group[order], np.arange(len(sizes)))]
    moved = np.flatnonzero((sizes > 1) & (rank[first] == 0))
    vertices, uv = net.vertices.copy(), net.uv.copy()
    vertices[first[moved]] = centre[moved]
    if on_shape(net) and len(moved):
        uv[first[moved]] = net.surface.closest(centre[moved])
        vertices[first[moved]] = net.surface.points(uv[first[moved]])
    corners, offsets = cleaned(first[group][net.corners].astype(np.int32), net.offsets)
    made = rebuilt(net, vertices, uv, corners, offsets)
    return made, count - len(made.vertices)


def _standing(net: Net) -> Index:
    """How firmly each vertex (V,) has to stay: 2 at corners, 1 along borders and creases of a body,
    else 0."""
    sharp = net.border.copy()
    if net.surface.pieced:
        sharp |= creases(net)
    times = np.bincount(net.edges[sharp].ravel(), minlength=len(net.vertices))
    return np.where(times > 2, 2, np.minimum(times, 1)).astype(np.int32)


def eased_on_shape(net: Net, rounds: int) -> Net:
    """Every inner vertex moved to the middle of its neighbours and back onto the shape, ``rounds``
    times (Laplacian smoothing). The border stays."""
    a, b = np.vstack([net.edges, net.edges[:, ::-1]]).T
    fixed = np.zeros(len(net.vertices), bool)
    fixed[net.loop_vertices] = True
    surface, uv, vertices = net.surface, net.uv, net.vertices
    flat = on_shape(net)
    count = np.bincount(a, minlength=len(uv))[:, None]
    for _ in range(rounds):
        straight = (
            np.stack([np.bincount(a, vertices[b, k], len(uv)) for k in range(3)], axis=1) / count
        )
        if surface.pieced:
            uv = np.where(fixed[:, None], uv, surface.closest(straight))
        else:
            step = (
                _along_shape(surface, uv, straight - vertices) if flat else np.full_like(uv, np.nan)
            )
            # At an apex, and off the shape, parameters alone tell the way.
            mean = unwrapped(surface, uv[b], uv[a]) - uv[a]
            mean = np.stack([np.bincount(a, mean[:, k], len(uv)) for k in (0, 1)], axis=1) / count
            uv = np.where(fixed[:, None], uv, uv + np.where(np.isfinite(step), step, mean))
        for axis, closed in enumerate((surface.closed_u, surface.closed_v)):
            uv[:, axis] = uv[:, axis] % 1.0 if closed else np.clip(uv[:, axis], 0.0, 1.0)
        moved = surface.points(uv) if flat else lifted(net, uv, straight)
        vertices = np.where(fixed[:, None], vertices, moved)
    return build_net(surface, vertices, uv, net.corners, net.offsets)


def _along_shape(surface: Surface, uv: Array, step: Array) -> Array:
    """Steps (n, 2) of parameters that come nearest to steps (n, 3) in space; not a number where
    they are too large to hold for or the parameters mean nothing."""
    su, sv = surface.derivatives(uv, 1, 0), surface.derivatives(uv, 0, 1)
    e, f, g = (np.einsum("ij,ij->i", x, y) for x, y in ((su, su), (su, sv), (sv, sv)))
    du, dv = np.einsum("ij,ij->i", su, step), np.einsum("ij,ij->i", sv, step)
    det = e * g - f * f
    sound = det > 1e-9 * np.maximum(e, g).max() ** 2
    det = np.where(sound, det, 1.0)
    out = np.column_stack([(g * du - f * dv) / det, (e * dv - f * du) / det])
    out[~sound | (np.abs(out).max(axis=1) > 0.25)] = np.nan
    return out
