"""What is brought from files, before it becomes a shape: loose faces, lines, heights, pictures; and
its repair."""

from __future__ import annotations

from dataclasses import dataclass, field

import numpy as np
import scipy
from numpy.typing import NDArray

from ..geometry.meshes import Body, Mesh, half_edges, mesh_of_triangles, pieces, used_only, weld
from ..geometry.paths import Path
from ..geometry.surfaces import Surface
from .stacks import cap_triangles

__all__ = [
    "Brought",
    "DrawnLines",
    "Heights",
    "Loose",
    "Outlines",
    "Picture",
    "ReadProblem",
    "Repair",
    "Wires",
    "repaired",
]

Array = NDArray[np.float64]
Index = NDArray[np.int32]


class ReadProblem(ValueError):
    """A file that cannot be used, in a sentence that says why and what would work."""


@dataclass(frozen=True, eq=False)
class Loose:
    """Triangles (T, 3) over vertices (V, 3) in the file's own unit, as they come. ``unit`` is the
    unit in metres where the file says it, else 0. ``faces`` are exact surfaces in metres where it
    has some. ``up`` is the axis the format says points upward, "" where it says none."""

    vertices: Array
    triangles: Index
    unit: float = 0.0
    faces: tuple[Surface, ...] = ()
    up: str = ""


@dataclass(frozen=True, eq=False)
class Heights:
    """Scattered places (n, 3)."""

    points: Array


@dataclass(frozen=True, eq=False)
class Picture:
    """Brightness (rows, columns) from 0 to 1, the first row on top."""

    grey: Array


@dataclass(frozen=True, eq=False)
class Outlines:
    """Paths in a plane in the file's own unit, and that unit in metres where the file says it, else
    0."""

    paths: tuple[Path, ...]
    unit: float = 0.0


@dataclass(frozen=True, eq=False)
class Wires:
    """Lines (m, 2) between points (n, 3) in the file's own unit, and that unit in metres where the
    file says it, else 0.

    ``names`` gives points by name and ``named_lines`` further lines by the names of their ends,
    which may stand in another file. ``layers`` and ``named_layers`` are what each of these is on,
    where that is told.
    """

    points: Array
    lines: NDArray[np.int64]
    unit: float = 0.0
    names: dict[str, int] = field(default_factory=dict)
    layers: tuple[str, ...] = ()
    named_layers: tuple[str, ...] = ()
    named_lines: tuple[tuple[str, str], ...] = ()

    def joined(self, other: Wires | None = None) -> Wires:
        """With those of another file, and all lines by the numbers of their ends; raises
        ``ReadProblem`` where a line names a point that is not there."""
        names, lines, points, unit = dict(self.names), self.lines, self.points, self.unit
        named = self.named_lines
        if other is not None:
            names |= {name: len(points) + k for name, k in other.names.items()}
            lines = np.vstack([lines, other.lines + len(points)])
            points = np.vstack([points, other.points])
            named += other.named_lines
            unit = unit or other.unit
        unknown = next((name for line in named for name in line if name not in names), None)
        if unknown is not None:
            raise ReadProblem(
                f"A member ends at “{unknown[:40]}”, and no node has that label; choose the table of nodes as well."
            )
        ends = np.array([[names[a], names[b]] for a, b in named], np.int64).reshape(-1, 2)
        layers = self.layers + self.named_layers if other is None else ()
        return Wires(points, np.vstack([lines, ends]), unit, layers=layers)


@dataclass(frozen=True, eq=False)
class DrawnLines:
    """Lines in space in the file's own unit, and that unit in metres where the file says it, else
    0.

    ``places`` (n, 3) of each one; ``bulges`` (n − 1, 3) from the middle between two of them to that
    of the arc, 0 where it is straight; and the name of the layer it is on.
    """

    places: tuple[Array, ...]
    bulges: tuple[Array, ...]
    layers: tuple[str, ...]
    unit: float = 0.0


Brought = Loose | Heights | Picture | Outlines | Wires | DrawnLines


@dataclass
class Repair:
    """What was done to faces to make them sound, in counts and places."""

    merged: int = 0
    without_area: int = 0
    doubled: int = 0
    turned: int = 0
    stray: int = 0
    holes: list[tuple[float, float, float]] = field(default_factory=list)
    left_open: list[tuple[float, float, float]] = field(default_factory=list)
    crowded: list[tuple[float, float, float]] = field(default_factory=list)

    def sentences(self) -> list[str]:
        """What was done, each in a few words."""
        told = (
            (self.merged, "{} doubled point{s} made one"), (self.without_area, "{} face{s} without area left out"),
            (self.doubled, "{} repeated face{s} left out"), (self.turned, "{} face{s} turned to agree with the rest"),
            (self.stray, "{} stray face{s} left out"), (len(self.holes), "{} hole{s} closed"),
            (len(self.crowded), "{} face{s} left out where more than two met at an edge"),
        )  # fmt: skip
        return [text.format(f"{n:,}", s="" if n == 1 else "s") for n, text in told if n]


def _places(vertices: Array, triangles: Index) -> list[tuple[float, float, float]]:
    return [(float(x), float(y), float(z)) for x, y, z in vertices[triangles].mean(axis=1)]


def repaired(
    vertices: Array, triangles: Index, close_holes: bool = True
) -> tuple[Mesh | Body, Repair]:
    """A sound mesh, or a body where it closes, from loose triangles in metres, and what was done to
    them.

    Equal points are made one, faces without area and repeated ones left out, faces turned so that
    neighbours agree, pieces smaller than a thousandth of the largest left out, and where
    ``close_holes`` small flat holes closed: those shorter than a tenth of the extent, in meshes
    that are otherwise closed.
    """
    done = Repair()
    size = float(np.ptp(vertices, axis=0).max()) if len(vertices) else 0.0
    welded, number = weld(vertices, 1e-6 * size)
    done.merged = len(vertices) - len(welded)
    t = number[triangles]
    flat = (t[:, 0] == t[:, 1]) | (t[:, 1] == t[:, 2]) | (t[:, 2] == t[:, 0])
    a, b, c = (welded[t[:, k]] for k in range(3))
    longest = np.maximum.reduce(
        [
            np.linalg.norm(b - a, axis=1),
            np.linalg.norm(c - b, axis=1),
            np.linalg.norm(a - c, axis=1),
        ]
    )
    flat |= (
        np.linalg.norm(np.cross(b - a, c - a), axis=1) <= 1e-9 * np.maximum(longest, 1e-300) ** 2
    )
    done.without_area = int(flat.sum())
    t = t[~flat]
    _, first = np.unique(np.sort(t, axis=1), axis=0, return_index=True)
    done.doubled = len(t) - len(first)
    t = t[np.sort(first)]
    t = _without_crowds(welded, t, done)
    t = _agreeing(t, len(welded), done)
    t = _without_strays(welded, t, done)
    if not len(t):
        raise ReadProblem("No faces are left once those without area are taken away.")
    mesh = mesh_of_triangles(*used_only(welded, t))
    mesh = _pieces_outward(mesh, done)
    if close_holes:
        mesh = _holes_closed(mesh, done)
    done.left_open = [
        (float(x), float(y), float(z))
        for x, y, z in (mesh.vertices[loop].mean(axis=0) for loop in mesh.loops)
    ]
    return (mesh if mesh.loops else Body(mesh)), done


def _without_crowds(vertices: Array, t: Index, done: Repair) -> Index:
    """Where more than two faces meet at an edge, the smallest of them go until two are left."""
    for _ in range(4):
        a, b = t.ravel().astype(np.int64), np.roll(t, -1, axis=1).ravel().astype(np.int64)
        key = np.minimum(a, b) * len(vertices) + np.maximum(a, b)
        _, which, times = np.unique(key, return_inverse=True, return_counts=True)
        crowded = np.flatnonzero(times[which.ravel()] > 2)
        if not len(crowded):
            break
        area = np.linalg.norm(
            np.cross(vertices[t[:, 1]] - vertices[t[:, 0]], vertices[t[:, 2]] - vertices[t[:, 0]]),
            axis=1,
        )
        order = crowded[np.lexsort((-area[crowded // 3], which.ravel()[crowded]))]
        groups = which.ravel()[order]
        start = np.r_[True, groups[1:] != groups[:-1]]
        rank = np.arange(len(order)) - np.maximum.accumulate(
            np.where(start, np.arange(len(order)), 0)
        )
        gone = np.unique(order[rank >= 2] // 3)
        done.crowded += _places(vertices, t[gone])
        t = np.delete(t, gone, axis=0)
    return t


def _agreeing(t: Index, count: int, done: Repair) -> Index:
    """Faces turned so that neighbours run along their common edge in opposite ways, piece by
    piece."""
    n = len(t)
    a, b = t.ravel().astype(np.int64), np.roll(t, -1, axis=1).ravel().astype(np.int64)
    key = np.minimum(a, b) * count + np.maximum(a, b)
    order = np.argsort(key, kind="stable")
    same = np.flatnonzero(key[order][1:] == key[order][:-1])
    one, two = order[same], order[same + 1]
    against = a[one] == a[two]
    f, g = one // 3, two // 3
    graph = scipy.sparse.coo_array(
        (np.ones(2 * len(f)), (np.r_[f, g], np.r_[g, f])), shape=(n, n)
    ).tocsr()
    differs = scipy.sparse.coo_array(
        (np.r_[against, against] + 1.0, (np.r_[f, g], np.r_[g, f])), shape=(n, n)
    ).tocsr()
    group = scipy.sparse.csgraph.connected_components(graph, directed=False)[1]
    turn = np.zeros(n, bool)
    for k in np.unique(group[np.unique(np.r_[f[against], g[against]])]) if against.any() else []:
        start = int(np.flatnonzero(group == k)[0])
        nodes, before = scipy.sparse.csgraph.breadth_first_order(graph, start, directed=False)
        for node in nodes[1:]:
            parent = before[node]
            turn[node] = turn[parent] ^ (differs[parent, node] > 1.5)
        mine = nodes
        if turn[mine].sum() > len(mine) / 2:
            turn[mine] = ~turn[mine]
    done.turned += int(turn.sum())
    out = t.copy()
    out[turn] = out[turn][:, ::-1]
    return out


def _without_strays(vertices: Array, t: Index, done: Repair) -> Index:
    group = pieces(t, len(vertices))
    area = np.linalg.norm(
        np.cross(vertices[t[:, 1]] - vertices[t[:, 0]], vertices[t[:, 2]] - vertices[t[:, 0]]),
        axis=1,
    )
    sizes = np.bincount(group, area)
    small = sizes[group] < 1e-3 * sizes.max(initial=0.0)
    done.stray = int(small.sum())
    return t[~small]


def _pieces_outward(mesh: Mesh, done: Repair) -> Mesh:
    """Closed pieces with positive volume, unless they lie within another as hollows do."""
    if len(half_edges(mesh.triangles, len(mesh.vertices))[2]):
        return mesh
    group = pieces(mesh.triangles, len(mesh.vertices))
    t = mesh.triangles.copy()
    p = mesh.vertices[t] - mesh.vertices.mean(axis=0)
    volumes = np.bincount(group, np.einsum("ij,ij->i", p[:, 0], np.cross(p[:, 1], p[:, 2])))
    if not mesh.loops and len(volumes) == 1 and volumes[0] < 0:
        done.turned += len(t)
        return mesh_of_triangles(mesh.vertices, t[:, ::-1])
    if not mesh.loops and len(volumes) > 1:
        largest = int(np.argmax(np.abs(volumes)))
        if volumes[largest] < 0:
            done.turned += len(t)
            return mesh_of_triangles(mesh.vertices, t[:, ::-1])
    return mesh


def _holes_closed(mesh: Mesh, done: Repair) -> Mesh:
    """Holes that are short against the whole, each filled; a mesh that is open on purpose keeps its
    longest border."""
    loops = sorted(mesh.loops, key=lambda loop: len(loop))
    if not loops:
        return mesh
    reach = float(np.linalg.norm(mesh.extent))
    new = []
    for loop in loops:
        p = mesh.vertices[loop]
        around = float(np.linalg.norm(np.roll(p, -1, axis=0) - p, axis=1).sum())
        small = around <= 0.3 * reach or (len(loop) <= 4 and len(mesh.triangles) > 40)
        if not small or len(loop) < 3 or len(set(loop.tolist())) != len(loop):
            continue
        new.append(cap_triangles(mesh.vertices, loop))
        done.holes.append(tuple(float(x) for x in p.mean(axis=0)))  # type: ignore[arg-type]
    if not new:
        return mesh
    return mesh_of_triangles(mesh.vertices, np.vstack([mesh.triangles, *new]).astype(np.int32))
