"""Cells cut out of a skin by a partition of space."""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np
import scipy
from numpy.typing import NDArray

from ..geometry.charts import smooth_faces
from ..geometry.meshes import Mesh, half_edges
from ..geometry.nets import Net, NetError, build_net
from ..geometry.surfaces import Surface
from .geodesic import at_border

__all__ = ["cells_cut_by_skin"]

Array = NDArray[np.float64]
Index = NDArray[np.int32]
Long = NDArray[np.int64]
NEAREST = 12
MENDINGS, SMALL_TOO = 40, 6
"""Rounds of giving away and parting pieces, and in how many of them small ones are given away too:
what is given away may close a ring that is parted again."""
CORNER = np.radians(30)


@dataclass(frozen=True, eq=False)
class _Half:
    """Half-edges of a mesh's triangles, as each smooth face has them: 3t + k runs from corner k of
    triangle t to the next.

    ``corner`` names the vertex each leaves, a vertex on a crease once for each face; ``twin`` is −1
    at the faces' borders, where ``across`` is the half-edge on the other side of a crease.
    """

    corner: Long
    vertex: Long
    twin: Long
    across: Long
    after: Long

    @property
    def before(self) -> Long:
        return self.after[self.after]


def _half_of(mesh: Mesh) -> _Half:
    face = smooth_faces(mesh)
    twin, after, _ = half_edges(mesh.triangles, len(mesh.vertices))
    owner = np.arange(mesh.triangles.size) // 3
    same = face[owner[twin]] == face[owner]
    across = np.where((twin >= 0) & ~same, twin, -1)
    twin = np.where((twin >= 0) & same, twin, -1)
    vertex = mesh.triangles.ravel().astype(np.int64)
    _, corner = np.unique(vertex * (int(face.max()) + 1) + face[owner], return_inverse=True)
    return _Half(corner.ravel().astype(np.int64), vertex, twin, across, after.astype(np.int64))


def cells_cut_by_skin(
    surface: Surface, mesh: Mesh, points: Array, weights: Array, sliver: float = 0.0
) -> tuple[Net, Index]:
    """Net of the pieces into which the power cells (Aurenhammer, 1987) of ``points`` (n, 3) with
    ``weights`` (n,) cut a surface, and for every cell of it the point it belongs to.

    ``mesh`` is the surface in triangles several times smaller than the cells. Vertices of the net
    lie where three pieces meet, or two at a border or crease, and at its corners; between them
    edges run straight. Pieces smaller than the share ``sliver`` of the usual one go to the
    neighbour they touch most; pieces that run round into themselves are parted. Raises ``NetError``
    where that is of no avail.
    """
    half = _half_of(mesh)
    owner, label, points, weights = _settled(mesh, half, points, weights, sliver)
    start = label[half.corner]
    differs = start != start[half.after]
    rings, ring_label = _rings(half, start, differs, _sharp_corners(mesh, half))
    keys = np.concatenate(rings)
    names, number = np.unique(keys, return_inverse=True)
    vertices, uv = _placed(surface, mesh, half, owner[start], differs, names, points, weights)
    offsets = np.concatenate([[0], np.cumsum([len(r) for r in rings])]).astype(np.int32)
    net = build_net(surface, vertices, uv, number.astype(np.int32), offsets)
    return net, owner[ring_label].astype(np.int32)


def _nearest(places: Array, points: Array, weights: Array) -> Long:
    """The point in whose power cell each place lies."""
    k = min(NEAREST, len(points))
    away, which = (
        np.asarray(x).reshape(len(places), k)
        for x in scipy.spatial.cKDTree(points).query(places, k=k)
    )
    best = np.argmin(away**2 - weights[which], axis=1)
    return np.asarray(which[np.arange(len(places)), best], np.int64)


def _settled(
    mesh: Mesh, half: _Half, points: Array, weights: Array, sliver: float
) -> tuple[Long, Long, Array, Array]:
    """Pieces that are discs with three vertices or more: the point each belongs to, the piece of
    each corner, and the points with those added to part pieces that close on themselves."""
    at = np.zeros(int(half.corner.max()) + 1, np.int64)
    at[half.corner] = half.vertex
    belongs = _nearest(mesh.vertices, points, weights)[at]
    weight = np.bincount(
        half.corner, np.repeat(np.linalg.norm(mesh.triangle_crosses, axis=1) / 6, 3)
    )
    sharp = _sharp_corners(mesh, half)
    for round_ in range(MENDINGS):
        label = _pieces(half, belongs)
        start = label[half.corner]
        differs = start != start[half.after]
        counts, cycles = _outlines(half, start, differs, sharp)
        area = np.bincount(label, weight)
        small = (area < sliver * np.median(area)) & (round_ < SMALL_TOO)
        enclosed = (counts < 3) | small
        ringed = (cycles != 1) & ~enclosed
        if not (enclosed | ringed).any():
            owner = np.zeros(len(area), np.int64)
            owner[label] = belongs
            return owner, label, points, weights
        touching = differs & enclosed[start]
        if round_ and not touching.any() and not ringed.any():
            break
        belongs = _given_away(half, start, belongs, touching)
        belongs, points, weights = _parted(
            mesh, at, label, belongs, np.flatnonzero(ringed), points, weights
        )
    raise NetError("The cells are so large for this shape that they close on themselves.")


def _pieces(half: _Half, belongs: Long) -> Long:
    a, b = half.corner, half.corner[half.after]
    same = belongs[a] == belongs[b]
    graph = scipy.sparse.coo_array(
        (np.ones(int(same.sum())), (a[same], b[same])), shape=(len(belongs), len(belongs))
    )
    return np.asarray(scipy.sparse.csgraph.connected_components(graph, directed=False)[1], np.int64)


def _given_away(half: _Half, start: Long, belongs: Long, touching: NDArray[np.bool_]) -> Long:
    """Pieces given to the neighbour they touch most; of two neighbours that both go, only one."""
    rows = np.flatnonzero(touching)
    if not len(rows):
        return belongs
    mine, other = start[rows], belongs[half.corner[half.after[rows]]]
    pair, times = np.unique(np.column_stack([mine, other]), axis=0, return_counts=True)
    order = np.lexsort((-times, pair[:, 0]))
    pair = pair[order][np.unique(pair[order, 0], return_index=True)[1]]
    to = np.full(int(start.max()) + 1, -1, np.int64)
    to[pair[:, 0]] = pair[:, 1]
    label = np.zeros(len(belongs), np.int64)
    label[half.corner] = start
    out = belongs.copy()
    moved = to[label] >= 0
    out[moved] = to[label][moved]
    return out


def _parted(
    mesh: Mesh, at: Long, label: Long, belongs: Long, ringed: Long, points: Array, weights: Array
) -> tuple[Long, Array, Array]:
    """Pieces that close on themselves parted across their longest way; each part gets a point of
    its own."""
    belongs = belongs.copy()
    for piece in ringed.tolist():
        rows = np.flatnonzero(label == piece)
        p = mesh.vertices[at[rows]]
        centred = p - p.mean(axis=0)
        way = np.linalg.svd(centred, full_matrices=False)[2][0]
        far = centred @ way > 0
        if far.all() or not far.any():
            continue
        old = belongs[rows[0]]
        step = way * float(np.abs(centred @ way).max()) / 4
        belongs[rows[far]], belongs[rows[~far]] = len(points), len(points) + 1
        centre = p.mean(axis=0)
        points = np.vstack([points, centre + step, centre - step])
        weights = np.append(weights, [weights[old], weights[old]])
    return belongs, points, weights


def _sharp_corners(mesh: Mesh, half: _Half) -> NDArray[np.bool_]:
    """Whether the outline of a face turns sharply at the vertex a half-edge leaves, or three faces
    meet there."""
    border = np.flatnonzero(half.twin < 0)
    step = mesh.vertices[half.vertex[half.after[border]]] - mesh.vertices[half.vertex[border]]
    step /= np.maximum(np.linalg.norm(step, axis=1, keepdims=True), 1e-300)
    leaving = np.zeros((int(half.vertex.max()) + 1, 3))
    out = np.zeros(len(half.corner), bool)
    count = int(half.corner.max()) + 1
    arriving = np.zeros((count, 3))
    arriving[half.corner[half.after[border]]] = step
    leaving = np.zeros((count, 3))
    leaving[half.corner[border]] = step
    turns = np.einsum("ij,ij->i", arriving, leaving) < np.cos(CORNER)
    on_border = np.zeros(count, bool)
    on_border[half.corner[border]] = True
    sharp = on_border & turns
    # A corner of one face is one of all that meet there.
    vertices = np.zeros(int(half.vertex.max()) + 1, bool)
    vertices[half.vertex[sharp[half.corner]]] = True
    faces_at = np.zeros(len(vertices), np.int64)
    np.add.at(faces_at, half.vertex[np.unique(half.corner, return_index=True)[1]], 1)
    vertices |= faces_at > 2
    out[:] = vertices[half.vertex] & on_border[half.corner]
    return out


def _walk(half: _Half, start: Long, differs: NDArray[np.bool_]) -> tuple[Long, Long]:
    """The boundary of all pieces as a map from node to next node, and the half-edge at whose start
    each node's piece lies.

    Node 4h + 0 is the vertex half-edge h leaves, where that is at a border; 4h + 1 the place on
    half-edge h where its piece ends; 4h + 2 the same seen from the piece at its end; 4h + 3 the
    middle of h's triangle as corner of the piece at the start of h.
    """
    n = len(start)
    h = np.arange(n)
    after, before = half.after, half.before
    following = np.full(4 * n, -1, np.int64)
    border = half.twin < 0
    three = differs & differs[after] & differs[before]

    # From where a piece ends along h, through h's triangle, to where it ends along the half-edge
    # that arrives there.
    rows = h[differs & ~three]
    # The piece at the start of h keeps the whole of the half-edge before, or ends on it.
    ends_before = differs[before[rows]]
    here = rows[ends_before]
    following[4 * here + 1] = 4 * before[here] + 2
    far = rows[~ends_before]
    following[4 * far + 1] = 4 * after[far] + 2
    rows = h[three]
    following[4 * rows + 1] = 4 * rows + 3
    following[4 * rows + 3] = 4 * before[rows] + 2

    # On reaching half-edge h from its end's piece: on into the triangle beyond, or along the
    # border.
    rows = h[differs & ~border]
    following[4 * rows + 2] = 4 * half.twin[rows] + 1
    rows = h[border]
    leaving = np.full(int(half.corner.max()) + 1, -1, np.int64)
    leaving[half.corner[rows]] = rows
    onward = leaving[half.corner[after[rows]]]
    same = ~differs[rows]
    # A piece of the face across the crease ends where this one does not: a vertex all the same.
    passed = same & (half.across[rows] >= 0) & differs[half.across[rows]]
    following[4 * rows[same]] = np.where(passed[same], 4 * rows[same] + 1, 4 * onward[same])
    following[4 * rows[passed] + 1] = 4 * onward[passed]
    following[4 * rows[~same]] = 4 * rows[~same] + 1
    following[4 * rows[~same] + 2] = 4 * onward[~same]
    piece_at = np.empty(4 * n, np.int64)
    piece_at[0::4], piece_at[1::4], piece_at[3::4] = start, start, start
    piece_at[2::4] = start[after]
    return following, piece_at


def _cycles(following: Long) -> tuple[Long, Long]:
    """The nodes of all cycles, one after the other, and the cycle each belongs to."""
    nodes = np.flatnonzero(following >= 0)
    graph = scipy.sparse.coo_array(
        (np.ones(len(nodes)), (nodes, following[nodes])), shape=(len(following), len(following))
    )
    found = scipy.sparse.csgraph.connected_components(graph, directed=False)[1][nodes]
    _, first, group = np.unique(found, return_index=True, return_inverse=True)
    sizes = np.bincount(group)
    out = np.empty(len(nodes), np.int64)
    cycle = np.repeat(np.arange(len(sizes)), sizes)
    at = nodes[first]
    place = np.concatenate([[0], np.cumsum(sizes)[:-1]])
    left = sizes.copy()
    running = np.arange(len(sizes))
    while len(running):
        out[place[running]] = at[running]
        place[running] += 1
        left[running] -= 1
        at[running] = following[at[running]]
        running = running[left[running] > 0]
    return out, cycle


def _is_vertex(
    half: _Half, differs: NDArray[np.bool_], sharp: NDArray[np.bool_], node: Long
) -> NDArray[np.bool_]:
    h, kind = node // 4, node % 4
    return np.where(kind == 3, True, np.where(kind == 0, sharp[h], half.twin[h] < 0))


def _outlines(
    half: _Half, start: Long, differs: NDArray[np.bool_], sharp: NDArray[np.bool_]
) -> tuple[Long, Long]:
    """Net vertices on the outlines of each piece, and how many outlines it has."""
    following, piece_at = _walk(half, start, differs)
    nodes, cycle = _cycles(following)
    count = int(start.max()) + 1
    piece = piece_at[nodes]
    used = np.bincount(piece, _is_vertex(half, differs, sharp, nodes).astype(float), count).astype(
        np.int64
    )
    first = np.unique(cycle, return_index=True)[1]
    return used, np.bincount(piece[first], minlength=count)


def _rings(
    half: _Half, start: Long, differs: NDArray[np.bool_], sharp: NDArray[np.bool_]
) -> tuple[list[Long], Long]:
    """Outlines of the pieces as keys of net vertices, and the piece of each."""
    following, piece_at = _walk(half, start, differs)
    nodes, cycle = _cycles(following)
    used = _is_vertex(half, differs, sharp, nodes)
    nodes, cycle = nodes[used], cycle[used]
    h, kind = nodes // 4, nodes % 4
    # One key for one place: the triangle, the edge by its vertices, or the vertex.
    total = int(half.vertex.max()) + 1
    a, b = half.vertex[h], half.vertex[half.after[h]]
    edge = np.minimum(a, b) * total + np.maximum(a, b)
    key = np.where(kind == 3, -1 - h // 3, np.where(kind == 0, a * total + a, edge))
    starts = np.unique(cycle, return_index=True)[1]
    return np.split(key, starts[1:]), piece_at[nodes[starts]]


def _placed(
    surface: Surface, mesh: Mesh, half: _Half, belongs: Long, differs: NDArray[np.bool_], names: Long, points: Array,
    weights: Array,
) -> tuple[Array, Array]:  # fmt: skip
    """Places (n, 3) of the named net vertices on the surface, and their parameters (n, 2);
    ``belongs`` is the point the start of each half-edge does."""
    total = int(half.vertex.max()) + 1
    straight = np.empty((len(names), 3))
    inner = np.flatnonzero(names < 0)
    t = -1 - names[inner]
    corners = mesh.vertices[mesh.triangles[t]]
    straight[inner] = np.einsum(
        "nk,nkd->nd", _meeting(corners, belongs.reshape(-1, 3)[t], points, weights), corners
    )
    outer = np.flatnonzero(names >= 0)
    a, b = np.divmod(names[outer], total)
    straight[outer] = mesh.vertices[a]
    ends = np.flatnonzero(a != b)
    h = np.flatnonzero(differs & (half.twin < 0))
    x, y = half.vertex[h], half.vertex[half.after[h]]
    key = np.minimum(x, y) * total + np.maximum(x, y)
    order = np.argsort(key, kind="stable")
    h = h[order][np.searchsorted(key[order], names[outer[ends]])]
    p, q = mesh.vertices[half.vertex[h]], mesh.vertices[half.vertex[half.after[h]]]
    i, j = belongs[h], belongs[half.after[h]]
    lead, lag = (
        _power(p, j, points, weights) - _power(p, i, points, weights),
        _power(q, i, points, weights) - _power(q, j, points, weights),
    )
    along = np.clip(lead / np.maximum(lead + lag, 1e-300), 0.05, 0.95)
    straight[outer[ends]] = p + along[:, None] * (q - p)
    uv = surface.closest(straight)
    if not surface.pieced:
        # The triangles end on chords of a bowed border; their corners lie on it.
        uv[outer[ends]] = at_border(surface, uv[outer[ends]])
    return surface.points(uv), uv


def _power(places: Array, which: Long, points: Array, weights: Array) -> Array:
    return np.asarray(((places - points[which]) ** 2).sum(axis=1) - weights[which])


def _meeting(corners: Array, which: Long, points: Array, weights: Array) -> Array:
    """Shares (n, 3) of triangles' corners (n, 3, 3) at the place as far, by power, from all three
    points ``which`` (n, 3); kept within the triangle."""
    power = ((corners[:, None] - points[which][:, :, None]) ** 2).sum(axis=3) - weights[which][
        :, :, None
    ]
    system = np.concatenate([power[:, :2] - power[:, 2:], np.ones((len(which), 1, 3))], axis=1)
    share = np.full((len(which), 3), 1 / 3)
    size = np.abs(system[:, :2]).max(axis=(1, 2), initial=1e-300)
    sound = np.abs(np.linalg.det(system)) > 1e-9 * size**2
    share[sound] = np.linalg.solve(system[sound], np.array([0.0, 0.0, 1.0])[:, None])[..., 0]
    share = np.clip(share, 0.02, 1.0)
    return share / share.sum(axis=1, keepdims=True)
