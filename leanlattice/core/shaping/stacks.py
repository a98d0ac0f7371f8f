"""Bodies from outlines: stacks of rings with capped ends."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import replace
from typing import Any

import manifold3d
import numpy as np
import shapely
from numpy.typing import NDArray

from ..geometry.drawing import closed_polygon
from ..geometry.meshes import Body, Face, Mesh, mesh_of_triangles, used_only, weld
from ..geometry.paths import Frame2, Path, PlaneCurve
from ..geometry.surfaces import Surface
from ..geometry.swept import Extruded
from .faces import curved_faces
from .facets import surface_mesh
from .pathwork import Rounded, matched_offset, round_corners

__all__ = [
    "StackError",
    "bounded_by",
    "cap_loops",
    "cap_triangles",
    "capped_stack",
    "closed_body",
    "extruded_body",
    "extruded_surface",
    "ring_stack",
    "upright_walls",
]

Array = NDArray[np.float64]
Index = NDArray[np.int32]


class StackError(ValueError):
    """Outlines that cannot be stacked, in a sentence. ``most`` is the largest value that would
    work, where known."""

    def __init__(self, text: str, most: float | None = None) -> None:
        super().__init__(text)
        self.most = most


def ring_stack(rings: Array, closed_along: bool = False) -> Index:
    """Triangles between consecutive rings (m, n): each ring closed, ring after ring; numbers as in
    ``rings.reshape(-1)``."""
    m, n = rings.shape[:2]
    number = np.arange(m * n).reshape(m, n)
    low = number if closed_along else number[:-1]
    high = np.roll(number, -1, axis=0) if closed_along else number[1:]
    a, b = low, np.roll(low, -1, axis=1)
    d, c = high, np.roll(high, -1, axis=1)
    return np.concatenate(
        [np.stack([a, b, c], axis=-1).reshape(-1, 3), np.stack([a, c, d], axis=-1).reshape(-1, 3)]
    ).astype(np.int32)


def _stack_of(
    rings: list[list[Array]],
    frame_heights: list[tuple[Frame2, float]],
    walls: Sequence[tuple[Extruded, Array]] = (),
) -> Body:
    """Body between levels; ``rings[k][i]`` is outline i (n_i, 2) at level k, the first outline
    outside, others openings. Of each, ``walls`` are the surface between two levels and the
    parameters (n_i,) of its places."""
    vertices: list[Array] = []
    triangles: list[Index] = []
    faces: list[Face] = []
    base, count = 0, 0
    starts: list[int] = []
    for i in range(len(rings[0])):
        lifted = np.stack(
            [f.lifted(r[i]) + h * f.normal for r, (f, h) in zip(rings, frame_heights, strict=True)]
        )
        stack = ring_stack(lifted)
        if walls:
            faces += [
                replace(f, triangles=f.triangles + count)
                for f in _wall_faces(*walls[i], lifted, stack)
            ]
        triangles.append(stack + base)
        vertices.append(lifted.reshape(-1, 3))
        starts.append(base)
        base += lifted.shape[0] * lifted.shape[1]
        count += len(stack)
    for level, up in ((0, False), (len(rings) - 1, True)):
        flat = rings[level]
        cap = np.asarray(manifold3d.triangulate([np.ascontiguousarray(r) for r in flat]))
        number = np.concatenate(
            [starts[i] + level * len(flat[i]) + np.arange(len(flat[i])) for i in range(len(flat))]
        )
        cap = number[cap].astype(np.int32)
        triangles.append(cap if up else cap[:, ::-1])
    return closed_body(np.vstack(vertices), np.vstack(triangles), faces=faces)


def _wall_faces(surface: Extruded, u: Array, rings: Array, stack: Index) -> tuple[Face, ...]:
    """Faces of walls between two ``rings`` (2, n, 3), of which the triangles are given."""
    uv = np.column_stack([np.tile(u, 2), np.repeat([0.0, 1.0], len(u))])
    return curved_faces(surface, mesh_of_triangles(rings.reshape(-1, 3), stack), uv)


def closed_body(
    vertices: Array,
    triangles: Index,
    tolerance: float | None = None,
    faces: Sequence[Face] = (),
) -> Body:
    """Body of triangles that close: welded, without triangles that have no area, outside outward;
    ``faces`` are made of some of them."""
    size = float(np.ptp(vertices, axis=0).max())
    welded, number = weld(vertices, (1e-9 if tolerance is None else tolerance) * max(size, 1e-9))
    t = number[triangles]
    kept = (t[:, 0] != t[:, 1]) & (t[:, 1] != t[:, 2]) & (t[:, 2] != t[:, 0])
    number = np.cumsum(kept) - 1
    left = tuple(
        replace(f, triangles=number[f.triangles[kept[f.triangles]]])
        for f in faces
        if kept[f.triangles].any()
    )
    body = Body(mesh_of_triangles(*used_only(welded, t[kept])), faces=left)
    return body.reversed() if body.volume < 0 else body


def extruded_body(
    outlines: list[Path],
    frame: Frame2,
    height: float,
    lean: Array,
    taper: float,
    rounding: float,
    corners: float,
    tolerance: float,
) -> tuple[Body, list[tuple[Array, float]]]:
    """Body over closed ``outlines`` in ``frame`` (the first the outside, the others openings within
    it), in chords within ``tolerance`` (m).

    ``height`` (m) is along the frame's normal, ``lean`` (2,) the shift of the top in the plane,
    ``taper`` (rad) how far the walls lean inward, ``rounding`` (m) the radius of the top edge and
    ``corners`` (m) that of the upright edges. Gives the body and the corners with less room, with
    the radius made there. With a rounded top it has no curved faces but its triangles. Raises
    ``StackError`` where walls meet before the top.
    """
    ways = [p if (p.signed_area > 0) == (i == 0) else p.reversed() for i, p in enumerate(outlines)]
    steps = np.array([0.0])
    if rounding > 0:
        angles = np.linspace(0, np.pi / 2, 7)
        steps = np.concatenate([steps, height - rounding + rounding * np.sin(angles)])
        insets = np.concatenate(
            [[0.0], np.tan(taper) * steps[1:] + rounding * (1 - np.cos(angles))]
        )
    else:
        steps = np.array([0.0, height])
        insets = np.tan(taper) * steps
    base = [round_corners(p, corners) if corners > 0 else Rounded(p, [], []) for p in ways]
    places = [_places(b.path, tolerance) for b in base]
    rings, outlines_at = [], []
    for step, inset in zip(steps, insets, strict=True):
        level, paths = [], []
        for path, rounded, (piece, share, _) in zip(ways, base, places, strict=True):
            moved = path if inset == 0 else matched_offset(path, inset)
            if moved is not None and corners > 0:
                moved = round_corners(moved, corners).path
            if moved is None or len(moved.pieces) != len(rounded.path.pieces):
                raise StackError("the walls meet before the top", _largest_inset(ways))
            ring = np.empty((len(piece), 2))
            for k, p in enumerate(moved.pieces):
                ring[piece == k] = p.derivatives(share[piece == k])
            level.append(ring + lean * (step / height))
            paths.append(Path(moved.pieces, True, rounded.path.knots))
        if not shapely.Polygon(level[0], level[1:]).is_valid:
            raise StackError("the walls cross before the top", _largest_inset(ways))
        rings.append(level)
        outlines_at.append(paths)
    walls = []
    if rounding == 0:
        top = Frame2(frame.lifted(lean[None])[0] + height * frame.normal, frame.x, frame.y)
        walls = [
            (Extruded(PlaneCurve(low, frame), PlaneCurve(high, top), True, low.joints), u)
            for low, high, (_, _, u) in zip(*outlines_at, places, strict=True)
        ]
    body = _stack_of(rings, [(frame, float(s)) for s in steps], walls)
    return body, [c for b in base for c in b.clamped]


def _places(path: Path, tolerance: float) -> tuple[Index, Array, Array]:
    """Piece (n,), share of it (n,) and parameter (n,) of points along a closed path, close enough
    to follow it."""
    shares = [p.samples(tolerance)[:-1] for p in path.pieces]
    piece = np.repeat(np.arange(len(shares), dtype=np.int32), [len(s) for s in shares])
    share = np.concatenate(shares)
    return piece, share, path.knots[piece] + share * np.diff(path.knots)[piece]


def _largest_inset(paths: list[Path]) -> float:
    """The largest inset (m) at which all outlines still exist, by bisection."""
    low, high = 0.0, max(p.size for p in paths)
    for _ in range(30):
        middle = (low + high) / 2
        moved = [matched_offset(p, middle) for p in paths]
        rings = [m.polygon(0.01) for m in moved if m is not None]
        good = len(rings) == len(moved) and bool(shapely.Polygon(rings[0], rings[1:]).is_valid)
        low, high = (middle, high) if good else (low, middle)
    return low


def cap_triangles(vertices: Array, loop: Index, flat_within: float | None = None) -> Index:
    """Triangles (m, 3) that close a border ``loop``, cut out in its best plane.

    Raises ``StackError`` for a loop that strays from its plane by more than ``flat_within`` of its
    size.
    """
    p = vertices[loop]
    centre = p.mean(axis=0)
    _, spread, axes = np.linalg.svd(p - centre, full_matrices=False)
    if flat_within is not None and spread[2] > flat_within * spread[0]:
        at = ", ".join(f"{x:.2f}" for x in centre)
        raise StackError(
            f"the opening about ({at}) m is not flat and cannot be closed by a flat face"
        )
    flat = (p - centre) @ axes[:2].T
    area = np.sum(flat[:, 0] * np.roll(flat[:, 1], -1) - np.roll(flat[:, 0], -1) * flat[:, 1])
    # The patch runs against the border it closes.
    shown = flat[::-1] if area < 0 else flat[::-1] * [1, -1]
    return np.asarray(loop[::-1][np.asarray(manifold3d.triangulate([np.ascontiguousarray(shown)]))])


def cap_loops(mesh: Mesh, faces: Sequence[Face] = ()) -> Body:
    """The mesh, of which some triangles make up ``faces``, with a flat face in each of its border
    loops; raises ``StackError`` for a loop that is not flat."""
    extra = [cap_triangles(mesh.vertices, loop, 1e-4) for loop in mesh.loops]
    triangles = np.vstack([mesh.triangles, *extra]).astype(np.int32)
    return closed_body(mesh.vertices, triangles, faces=faces)


def bounded_by(surface: Surface) -> Body:
    """Body within a surface and flat faces in its border loops; raises ``StackError`` for a loop
    that is not flat."""
    mesh, uv = surface_mesh(surface)
    return replace(cap_loops(mesh, curved_faces(surface, mesh, uv)), skin=surface)


def capped_stack(rings: Array, faces: Sequence[Face] = ()) -> Body:
    """Body of rings (m, n, 3), each flat, the first and last closed by faces; ``faces`` are made of
    some triangles of ``ring_stack``."""
    m, n = rings.shape[:2]
    vertices = rings.reshape(-1, 3)
    walls = ring_stack(rings)
    first = np.arange(n, dtype=np.int32)
    caps = [
        cap_triangles(vertices, first, 1e-4),
        cap_triangles(vertices, ((m - 1) * n + first)[::-1], 1e-4),
    ]
    return closed_body(vertices, np.vstack([walls, *caps]).astype(np.int32), faces=faces)


def extruded_surface(
    low: Path, frame: Frame2, height: float, lean: Array, taper: float
) -> Extruded:
    """The walls alone over a curve ``low`` in ``frame``, with true curves below and above:
    ``height`` (m) high, shifted by ``lean`` (2,) at the top, drawn in by ``taper`` (rad)."""
    inset = float(np.tan(taper) * height)
    way = low if not low.closed or low.signed_area > 0 else low.reversed()
    high = way if inset == 0 else matched_offset(way, inset)
    if high is None:
        raise StackError("the walls meet before the top", _largest_inset([way]))
    top = Frame2(frame.lifted(lean[None])[0] + height * frame.normal, frame.x, frame.y)
    # Counter-clockwise below, height along the normal: the outside is to the right of the path.
    return Extruded(PlaneCurve(way, frame), PlaneCurve(high, top), way.closed, way.joints)


SHARP = np.radians(15.0)
"""Walls that turn by less from one to the next are taken as a bend."""


def upright_walls(mesh: Mesh) -> Surface | None:
    """Plane upright walls all round a body, between two levels, as one surface that is carried up
    and has its corners; ``None`` where a mesh is something else."""
    loops = mesh.loops
    size = max(float(mesh.extent.max()), 1e-9)
    if len(loops) != 2 or np.abs(mesh.triangle_crosses[:, 2]).max() > 1e-9 * size**2:
        return None
    rings = sorted((mesh.vertices[loop] for loop in loops), key=lambda r: float(r[0, 2]))
    plans = [shapely.Polygon(r[:, :2]) for r in rings]
    level = all(np.ptp(r[:, 2]) < 1e-9 * size for r in rings)
    if not level or plans[0].symmetric_difference(plans[1]).area > 1e-9 * size**2:
        return None
    simple: Any = shapely.orient_polygons(plans[0].simplify(1e-9 * size))
    outline = np.asarray(simple.exterior.coords)[:-1]
    # Not to begin in the middle of a wall, of which the simplified outline keeps the first corner.
    ways = np.diff(np.vstack([outline[-1:], outline, outline[:1]]), axis=0)
    heading = np.arctan2(ways[:, 1], ways[:, 0])
    turn = np.abs((np.diff(heading) + np.pi) % (2 * np.pi) - np.pi)
    outline, turn = outline[turn > 1e-9], turn[turn > 1e-9]
    if len(outline) < 3 or turn.min() < SHARP:
        return None
    low, high = float(rings[0][0, 2]), float(rings[1][0, 2])
    frame = Frame2(np.array([0.0, 0.0, low]), np.array([1.0, 0.0, 0.0]), np.array([0.0, 1.0, 0.0]))
    surface = extruded_surface(closed_polygon(outline), frame, high - low, np.zeros(2), 0.0)
    # The integral of place times normal along the walls is twice the plan's area, outward.
    middle = mesh.vertices[mesh.triangles].mean(axis=1)
    outward = (
        np.einsum("ij,ij->", mesh.triangle_crosses[:, :2], middle[:, :2] - outline.mean(axis=0)) > 0
    )
    return surface if outward else surface.swapped()
