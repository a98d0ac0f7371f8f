"""Coarse meshes drawn by hand: changed face by face, and subdivided to smooth surfaces."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass, field, replace
from typing import Any

import numpy as np
from numpy.typing import NDArray

from ..geometry.meshes import Mesh

__all__ = [
    "Cage",
    "CageError",
    "add_quad",
    "bridge",
    "delete_faces",
    "extrude_edges",
    "limit",
    "split_edge",
    "split_face",
    "subdivide",
    "toggle_corners",
    "toggle_creases",
    "weld_vertices",
]

Array = NDArray[np.float64]
Index = NDArray[np.int32]


class CageError(ValueError):
    """A cage that cannot be used or changed so, in a sentence."""


@dataclass(frozen=True)
class Cage:
    """Vertices (x, y, z) in metres, faces of three or four of them, creased edges and corners."""

    vertices: tuple[tuple[float, float, float], ...]
    faces: tuple[tuple[int, ...], ...]
    creases: frozenset[tuple[int, int]] = field(default_factory=frozenset)
    corners: frozenset[int] = field(default_factory=frozenset)

    @staticmethod
    def of(value: Sequence[Sequence[Sequence[float]]]) -> Cage:
        """Cage from plain lists: vertices, faces, and where given creases and corners. Raises
        ``CageError``."""
        if len(value) < 2:
            raise CageError("A cage has vertices and faces.")
        vertices = tuple((float(p[0]), float(p[1]), float(p[2])) for p in value[0])
        faces = []
        for i, face in enumerate(value[1], 1):
            f = tuple(int(v) for v in face)
            if len(f) not in (3, 4) or len(set(f)) != len(f):
                raise CageError(f"Face {i} has {len(set(f))} corners; three or four work.")
            if min(f) < 0 or max(f) >= len(vertices):
                raise CageError(
                    f"Face {i} speaks of point {max(f) + 1}; there are {len(vertices)}."
                )
            faces.append(f)
        edges = {edge for f in faces for edge in _edges(f)}
        pairs = (
            (min(int(e[0]), int(e[1])), max(int(e[0]), int(e[1])))
            for e in (value[2] if len(value) > 2 else [])
        )
        creases = frozenset(e for e in pairs if e in edges)
        points = frozenset(
            int(c[0])
            for c in (value[3] if len(value) > 3 else [])
            if 0 <= int(c[0]) < len(vertices)
        )
        return Cage(vertices, tuple(faces), creases, points)

    def plain(self) -> list[list[list[float]]]:
        """As plain lists, to be written in a statement."""
        return [
            [list(v) for v in self.vertices],
            [list(f) for f in self.faces],
            [list(e) for e in sorted(self.creases)],
            [[c] for c in sorted(self.corners)],
        ]

    def owners(self) -> dict[tuple[int, int], list[int]]:
        """Faces at every edge."""
        out: dict[tuple[int, int], list[int]] = {}
        for i, face in enumerate(self.faces):
            for edge in _edges(face):
                out.setdefault(edge, []).append(i)
        return out

    def checked(self) -> Cage:
        """The cage without unused points and creases that are no edges; raises ``CageError`` where
        an edge has more than two faces or two faces turn against each other."""
        directed = set()
        for face in self.faces:
            for a, b in zip(face, (*face[1:], face[0]), strict=True):
                if (a, b) in directed:
                    p, q = self.vertices[a], self.vertices[b]
                    raise CageError(
                        f"Two faces lie on the same side of the edge from ({p[0]:g}, {p[1]:g}) to ({q[0]:g}, {q[1]:g}) m."
                    )
                directed.add((a, b))
        used = sorted({v for f in self.faces for v in f})
        edges = {_edge(a, b) for a, b in directed}
        number = {v: k for k, v in enumerate(used)}
        return Cage(
            tuple(self.vertices[v] for v in used),
            tuple(tuple(number[v] for v in f) for f in self.faces),
            frozenset((number[a], number[b]) for a, b in self.creases if (a, b) in edges),
            frozenset(number[c] for c in self.corners if c in number),
        )


def _edge(a: int, b: int) -> tuple[int, int]:
    return (a, b) if a < b else (b, a)


def _edges(face: tuple[int, ...]) -> list[tuple[int, int]]:
    return [_edge(a, b) for a, b in zip(face, (*face[1:], face[0]), strict=True)]


def _existing(cage: Cage, edge: Sequence[int]) -> tuple[int, int]:
    e = _edge(int(edge[0]), int(edge[1]))
    if e not in cage.owners():
        raise CageError("There is no such edge in the cage any more.")
    return e


def split_edge(cage: Cage, edge: Sequence[int], share: float = 0.5) -> Cage:
    """A new line of points across the strip of quads through ``edge``, from border to border or
    round.

    Each quad of the strip becomes two; a triangle at its end becomes a triangle and a quad.
    """
    start = _existing(cage, edge)
    owners = cage.owners()
    new: dict[tuple[int, int], int] = {}
    vertices = list(cage.vertices)

    def middle(e: tuple[int, int], ahead: bool) -> None:
        a, b = (e[0], e[1]) if ahead else (e[1], e[0])
        p, q = np.array(cage.vertices[a]), np.array(cage.vertices[b])
        x, y, z = p + share * (q - p)
        new[e] = len(vertices)
        vertices.append((float(x), float(y), float(z)))

    middle(start, True)
    queue = [(start, i, True) for i in owners[start]]
    done: set[int] = set()
    while queue:
        e, i, ahead = queue.pop()
        face = cage.faces[i]
        if i in done or len(face) != 4:
            continue
        done.add(i)
        k = next(k for k in range(4) if _edge(face[k], face[(k + 1) % 4]) == e)
        opposite = _edge(face[(k + 2) % 4], face[(k + 3) % 4])
        # The share counts from the same side of the strip all along.
        low_first = (e[0] if ahead else e[1]) == face[k]
        start_side = face[(k + 3) % 4] if low_first else face[(k + 2) % 4]
        if opposite not in new:
            middle(opposite, opposite[0] == start_side)
        queue += [
            (opposite, j, opposite[0] == start_side) for j in owners[opposite] if j not in done
        ]
    faces: list[tuple[int, ...]] = []
    for face in cage.faces:
        faces += _parted(face, new)
    creases = set()
    for e in cage.creases:
        creases |= {_edge(e[0], new[e]), _edge(new[e], e[1])} if e in new else {e}
    return Cage(tuple(vertices), tuple(faces), frozenset(creases), cage.corners).checked()


def _parted(face: tuple[int, ...], new: dict[tuple[int, int], int]) -> list[tuple[int, ...]]:
    cut = [k for k in range(len(face)) if _edge(face[k], face[(k + 1) % len(face)]) in new]
    if not cut:
        return [face]
    if len(face) == 4 and len(cut) == 2 and (cut[1] - cut[0]) == 2:
        k = cut[0]
        a, b, c, d = (face[(k + i) % 4] for i in range(4))
        m, n = new[_edge(a, b)], new[_edge(c, d)]
        return [(a, m, n, d), (m, b, c, n)]
    if len(face) == 4 and len(cut) == 4:
        raise CageError("The strip of quads crosses itself there; split another edge.")
    k = cut[0]
    turned = tuple(face[(k + i) % len(face)] for i in range(len(face)))
    m = new[_edge(turned[0], turned[1])]
    if len(face) == 3:
        return [(turned[0], m, turned[2]), (m, turned[1], turned[2])]
    return [(turned[0], m, turned[3]), (m, turned[1], turned[2]), (m, turned[2], turned[3])]


def split_face(cage: Cage, face: int) -> Cage:
    """A quad into two triangles along its shorter diagonal; a triangle into three quads about its
    middle."""
    if not 0 <= face < len(cage.faces):
        raise CageError("There is no such face in the cage any more.")
    f = cage.faces[face]
    p = np.array([cage.vertices[v] for v in f])
    faces = list(cage.faces)
    if len(f) == 4:
        short = np.linalg.norm(p[0] - p[2]) <= np.linalg.norm(p[1] - p[3])
        faces[face : face + 1] = (
            [(f[0], f[1], f[2]), (f[0], f[2], f[3])]
            if short
            else [(f[0], f[1], f[3]), (f[1], f[2], f[3])]
        )
        return Cage(cage.vertices, tuple(faces), cage.creases, cage.corners).checked()
    raise CageError("A triangle has no diagonal to be split along; split one of its edges.")


def extrude_edges(cage: Cage, edges: Sequence[Sequence[int]], by: Sequence[float]) -> Cage:
    """A new quad along every border edge of ``edges``, its far side moved ``by`` (x, y, z) in
    metres."""
    owners = cage.owners()
    moved: dict[int, int] = {}
    vertices, faces = list(cage.vertices), list(cage.faces)
    for edge in edges:
        e = _existing(cage, edge)
        if len(owners[e]) != 1:
            raise CageError(
                "Only an edge at the border can be drawn out; this one has a face on either side."
            )
        face = cage.faces[owners[e][0]]
        k = next(k for k in range(len(face)) if _edge(face[k], face[(k + 1) % len(face)]) == e)
        a, b = face[k], face[(k + 1) % len(face)]
        for v in (a, b):
            if v not in moved:
                x, y, z = np.array(cage.vertices[v]) + np.array(by, float)
                moved[v] = len(vertices)
                vertices.append((float(x), float(y), float(z)))
        faces.append((b, a, moved[a], moved[b]))
    return Cage(tuple(vertices), tuple(faces), cage.creases, cage.corners).checked()


def bridge(cage: Cage, one: Sequence[int], two: Sequence[int]) -> Cage:
    """A face between two border edges; a triangle where they share a point."""
    owners = cage.owners()
    ends = []
    for edge in (one, two):
        e = _existing(cage, edge)
        if len(owners[e]) != 1:
            raise CageError(
                "A face is put between two edges at the border; one of these has a face on either side."
            )
        face = cage.faces[owners[e][0]]
        k = next(k for k in range(len(face)) if _edge(face[k], face[(k + 1) % len(face)]) == e)
        ends.append((face[(k + 1) % len(face)], face[k]))  # against the face that is there
    (a, b), (c, d) = ends
    if {a, b} == {c, d}:
        raise CageError("Choose two different edges.")
    new = (a, b, d) if b == c else (a, b, c) if d == a else (a, b, c, d)
    return Cage(cage.vertices, (*cage.faces, new), cage.creases, cage.corners).checked()


def delete_faces(cage: Cage, faces: Sequence[int]) -> Cage:
    """The cage without some faces."""
    gone = {int(f) for f in faces}
    if not set(range(len(cage.faces))) - gone:
        raise CageError("A cage needs a face at least.")
    return Cage(
        cage.vertices,
        tuple(f for i, f in enumerate(cage.faces) if i not in gone),
        cage.creases,
        cage.corners,
    ).checked()


def weld_vertices(cage: Cage, points: Sequence[int]) -> Cage:
    """Points made one, in their middle; faces left with two corners go."""
    chosen = sorted({int(p) for p in points})
    if len(chosen) < 2 or chosen[0] < 0 or chosen[-1] >= len(cage.vertices):
        raise CageError("Choose two points or more to weld.")
    x, y, z = np.mean([cage.vertices[p] for p in chosen], axis=0)
    vertices = list(cage.vertices)
    vertices[chosen[0]] = (float(x), float(y), float(z))
    number = dict.fromkeys(chosen, chosen[0])
    faces = []
    for f in cage.faces:
        g = [number.get(v, v) for v in f]
        g = [v for k, v in enumerate(g) if v != g[(k + 1) % len(g)]]
        if len(g) >= 3 and len(set(g)) == len(g):
            faces.append(tuple(g))
    if not faces:
        raise CageError("Nothing would be left of the cage.")
    creases = frozenset(_edge(number.get(a, a), number.get(b, b)) for a, b in cage.creases)
    corners = frozenset(number.get(c, c) for c in cage.corners)
    return Cage(
        tuple(vertices), tuple(faces), frozenset(e for e in creases if e[0] != e[1]), corners
    ).checked()


def toggle_creases(cage: Cage, edges: Sequence[Sequence[int]]) -> Cage:
    """Edges made sharp, or smooth again where they are sharp."""
    return replace(cage, creases=cage.creases ^ {_existing(cage, e) for e in edges})


def toggle_corners(cage: Cage, points: Sequence[int]) -> Cage:
    """Points made corners, or smooth again where they are."""
    wrong = [p for p in points if not 0 <= p < len(cage.vertices)]
    if wrong:
        raise CageError("There is no such point in the cage any more.")
    return replace(cage, corners=cage.corners ^ set(points))


def add_quad(cage: Cage, middle: Sequence[float], size: float) -> Cage:
    """A level square face of its own about ``middle`` (x, y, z), ``size`` (m) wide."""
    x, y, z = (float(c) for c in middle)
    h, n = size / 2, len(cage.vertices)
    new = ((x - h, y - h, z), (x + h, y - h, z), (x + h, y + h, z), (x - h, y + h, z))
    return replace(
        cage, vertices=cage.vertices + new, faces=(*cage.faces, (n, n + 1, n + 2, n + 3))
    )


def _arrays(cage: Cage) -> tuple[Array, list[tuple[int, ...]], set[tuple[int, int]], set[int]]:
    return (
        np.array(cage.vertices, float).reshape(-1, 3),
        list(cage.faces),
        set(cage.creases),
        set(cage.corners),
    )


def subdivide(cage: Cage, rounds: int) -> tuple[Mesh, Array, Array]:
    """The cage subdivided ``rounds`` times, all of it quads; which vertices (V,) stay sharp: 0
    smooth, 1 on a crease or border, 2 a corner; and the sharp edges (n, 2).

    Catmull and Clark (1978) with the rules for creases and corners of Hoppe et al. (1994) and
    DeRose, Kass and Truong (1998); borders are creases, and border points with one face corners
    only where marked.
    """
    p, faces, creases, corners = _arrays(cage)
    f = np.array(
        [[*face, face[0]] if len(face) == 3 else list(face) for face in faces], np.int64
    ).reshape(-1, 4)
    sizes = np.array([len(face) for face in faces])
    sharp_edges = np.array(sorted(creases), np.int64).reshape(-1, 2)
    marked = np.zeros(len(p), bool)
    marked[sorted(corners)] = True
    for _ in range(rounds):
        p, f, sizes, sharp_edges, marked = _round(p, f, sizes, sharp_edges, marked)
    kind, edges, _, _, _, sharp = _kinds(p, f, sizes, sharp_edges, marked)
    corners_flat = (
        f.ravel()
        if np.all(sizes == 4)
        else np.concatenate([r[:s] for r, s in zip(f, sizes, strict=True)])
    )
    offsets = np.concatenate([[0], np.cumsum(sizes)]).astype(np.int32)
    return Mesh(p, corners_flat.astype(np.int32), offsets), kind, edges[sharp]


def _edge_table(f: Any, sizes: Any, count: int):  # type: ignore[no-untyped-def]
    """Edges (E, 2), the edge of every side, faces left and right of each edge and whether it is a
    border."""
    sides = [
        np.column_stack([f[:, k], np.where(k + 1 < sizes, f[:, (k + 1) % 4], f[:, 0])])
        for k in range(4)
    ]
    owner = [np.arange(len(f))] * 4
    valid = [k < sizes for k in range(4)]
    pairs = np.concatenate([s[v] for s, v in zip(sides, valid, strict=True)])
    owners = np.concatenate([o[v] for o, v in zip(owner, valid, strict=True)])
    key = np.minimum(pairs[:, 0], pairs[:, 1]) * count + np.maximum(pairs[:, 0], pairs[:, 1])
    unique, number = np.unique(key, return_inverse=True)
    edges = np.column_stack([unique // count, unique % count])
    of_side = np.full(f.shape, -1)
    at = 0
    for k, v in enumerate(valid):
        n = int(v.sum())
        of_side[v, k] = number[at : at + n]
        at += n
    return edges, of_side, owners, number, np.bincount(number, minlength=len(edges)) == 1


def _kinds(p: Any, f: Any, sizes: Any, sharp_edges: Any, marked: Any):  # type: ignore[no-untyped-def]
    count = len(p)
    edges, of_side, owners, number, border = _edge_table(f, sizes, count)
    key = edges[:, 0] * count + edges[:, 1]
    wanted = np.sort(sharp_edges, axis=1)
    sharp = border | np.isin(key, wanted[:, 0] * count + wanted[:, 1])
    touching = np.bincount(edges[sharp].ravel(), minlength=count)
    kind = np.where(marked | (touching > 2), 2, np.where(touching == 2, 1, 0))
    return kind, edges, of_side, owners, number, sharp


def _round(p: Any, f: Any, sizes: Any, sharp_edges: Any, marked: Any):  # type: ignore[no-untyped-def]
    count = len(p)
    kind, edges, of_side, owners, number, sharp = _kinds(p, f, sizes, sharp_edges, marked)
    corner_sum = (
        p[f[:, 0]] + p[f[:, 1]] + p[f[:, 2]] + np.where((sizes == 4)[:, None], p[f[:, 3]], 0.0)
    )
    middles = corner_sum / sizes[:, None]
    ends = p[edges[:, 0]] + p[edges[:, 1]]
    beside = np.zeros((len(edges), 3))
    np.add.at(beside, number, middles[owners])
    edge_points = np.where(sharp[:, None], ends / 2, (ends + beside) / 4)

    valence = np.bincount(edges.ravel(), minlength=count)
    ring = np.zeros((count, 3))
    np.add.at(ring, edges[:, 0], p[edges[:, 1]])
    np.add.at(ring, edges[:, 1], p[edges[:, 0]])
    face_ring = np.zeros((count, 3))
    face_count = np.zeros(count)
    for k in range(4):
        v = k < sizes
        np.add.at(face_ring, f[v, k], middles[v])
        np.add.at(face_count, f[v, k], 1)
    n = np.maximum(valence, 1)[:, None]
    smooth = ((n - 2) * p + ring / n + face_ring / np.maximum(face_count, 1)[:, None]) / n
    along = np.zeros((count, 3))
    np.add.at(along, edges[sharp, 0], p[edges[sharp, 1]])
    np.add.at(along, edges[sharp, 1], p[edges[sharp, 0]])
    creased = (6 * p + along) / 8
    moved = np.where((kind == 2)[:, None], p, np.where((kind == 1)[:, None], creased, smooth))

    e0, m0 = count, count + len(edges)
    new = []
    for k in range(4):
        v = np.flatnonzero(k < sizes)
        back = np.where(k == 0, sizes[v] - 1, k - 1)
        new.append(np.column_stack([f[v, k], e0 + of_side[v, k], m0 + v, e0 + of_side[v, back]]))
    quads = np.concatenate(new)
    sharp_now = np.flatnonzero(sharp)
    halves = np.concatenate(
        [np.column_stack([edges[sharp_now, s], e0 + sharp_now]) for s in (0, 1)]
    )
    marks = np.concatenate([marked, np.zeros(len(edges) + len(f), bool)])
    return np.vstack([moved, edge_points, middles]), quads, np.full(len(quads), 4), halves, marks


def limit(mesh: Mesh, kind: Array, sharp: Any) -> tuple[Array, Array]:
    """Places (V, 3) to which the vertices of a subdivided cage tend, and unit normals of the limit
    surface there.

    Of a quad mesh: (n² v + 4 Σ edge neighbours + Σ face opposites) / (n (n + 5)) inside, (4 v +
    both neighbours) / 6 along creases (Halstead, Kass and DeRose, 1993). Normals are the
    angle-weighted ones of the faces between limit places, which differ from those of the limit
    surface by the square of the faces' size.
    """
    p = mesh.vertices
    f = mesh.corners.reshape(-1, 4).astype(np.int64)
    count = len(p)
    edges = np.unique(
        np.sort(np.concatenate([f[:, [k, (k + 1) % 4]] for k in range(4)]), axis=1), axis=0
    )
    valence = np.bincount(edges.ravel(), minlength=count)[:, None]
    ring, far = np.zeros((count, 3)), np.zeros((count, 3))
    np.add.at(ring, edges[:, 0], p[edges[:, 1]])
    np.add.at(ring, edges[:, 1], p[edges[:, 0]])
    for k in range(4):
        np.add.at(far, f[:, k], p[f[:, (k + 2) % 4]])
    inside = (valence**2 * p + 4 * ring + far) / (valence * (valence + 5))
    along = np.zeros((count, 3))
    np.add.at(along, sharp[:, 0], p[sharp[:, 1]])
    np.add.at(along, sharp[:, 1], p[sharp[:, 0]])
    out = np.where(
        (kind == 0)[:, None], inside, np.where((kind == 1)[:, None], (4 * p + along) / 6, p)
    )
    return out, mesh.with_vertices(out).normals
