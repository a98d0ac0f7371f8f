"""Slabs with funnels: round openings about which the slab bends smoothly down."""

from __future__ import annotations

import numpy as np
from numpy.typing import NDArray

from ..geometry.forms import plane
from ..geometry.meshes import Body, Mesh, mesh_of_triangles, used_only, weld
from ..geometry.regions import Region
from ..geometry.triangulation import polygon_triangles
from ..patterns.lay import flat_pattern
from .stacks import closed_body

__all__ = ["funnel_profile", "funnel_slab", "mirrored_body"]

Array = NDArray[np.float64]
Index = NDArray[np.int32]


def funnel_profile(
    throat: float, depth: float, above: float, below: float, steps: int = 7
) -> Array:
    """Section (n, 2) of a funnel as radius and height: level at the slab, a quarter circle of
    radius ``above``, upright at ``throat``, a quarter circle of radius ``below`` outward, ending
    ``depth`` below the slab; all in metres. Quarter circles are of so many ``steps``."""
    t = np.linspace(0, np.pi / 2, steps)
    top = np.column_stack([throat + above * (1 - np.sin(t)), -above * (1 - np.cos(t))])
    foot = np.column_stack([throat + below * (1 - np.cos(t)), -depth + below * (1 - np.sin(t))])
    straight = depth - above - below
    middle = np.linspace(
        -above, -depth + below, max(int(np.ceil(straight / max(above, throat / 2, 1e-9))), 1) + 1
    )
    wall = np.column_stack([np.full(len(middle), throat), middle])
    out = np.vstack([top, wall, foot] if below > 0 else [top, wall])
    keep = np.r_[True, np.linalg.norm(np.diff(out, axis=0), axis=1) > 1e-9]
    return out[keep]


def funnel_slab(
    outline: Array,
    centres: Array,
    throat: float,
    depth: float,
    above: float,
    below: float,
    level: float,
    bays: int,
) -> Mesh:
    """Mesh of a level slab over ``outline`` (n, 2) at height ``level`` with a funnel about each of
    ``centres`` (m, 2).

    Lengths in metres; funnels are ``funnel_profile`` of ``throat``, ``depth``, ``above`` and
    ``below``, and the slab has ``bays`` along its longer side. The funnels keep clear of each other
    and of the outline by ``throat + above``; border runs are named ``outer border`` and ``throat
    1`` …."""
    reach = throat + above
    turn = np.linspace(0, 2 * np.pi, 49)[:-1]
    circles = tuple(c + reach * np.column_stack([np.cos(turn), -np.sin(turn)]) for c in centres)
    low, size = outline.min(axis=0), np.ptp(outline, axis=0)
    region = Region(outline, circles).mapped(low, size)
    surface = plane(
        np.array([*low, 0.0]), np.array([size[0], 0, 0]), np.array([0, size[1], 0]), region
    )
    shape = size / size.max() * bays
    flat = flat_pattern(
        surface, "quads", (max(round(shape[0]), 4), max(round(shape[1]), 4)), follow=True
    )
    points = low + flat.uv * size
    # What was added between the points of a circle lies on its chords; it is moved out onto the
    # circle.
    for c in centres:
        away = points - c
        distance = np.linalg.norm(away, axis=1)
        on = np.abs(distance - reach) < 0.01 * reach
        points[on] = c + away[on] * (reach / distance[on])[:, None]
    cover = polygon_triangles(flat.uv, flat.corners, flat.offsets)[0]
    base = mesh_of_triangles(np.column_stack([points, np.zeros(len(points))]), cover)
    vertices, triangles, names = [base.vertices], [base.triangles], {}
    count = len(base.vertices)
    profile = funnel_profile(throat, depth, above, below)
    for loop in base.loops:
        p = base.vertices[loop, :2]
        k = int(np.argmin(np.linalg.norm(centres - p.mean(axis=0), axis=1))) if len(centres) else 0
        if (
            not len(centres)
            or np.abs(np.linalg.norm(p - centres[k], axis=1) - reach).max() > 0.02 * reach
        ):
            names["outer border"] = loop
            continue
        way = (p - centres[k]) / np.linalg.norm(p - centres[k], axis=1)[:, None]
        rings = centres[k] + profile[1:, :1, None] * way[None]
        heights = np.broadcast_to(profile[1:, 1, None, None], (len(profile) - 1, len(loop), 1))
        vertices.append(np.concatenate([rings, heights], axis=2).reshape(-1, 3))
        number = np.vstack(
            [loop, count + np.arange((len(profile) - 1) * len(loop)).reshape(-1, len(loop))]
        )
        a, b = number[:-1], np.roll(number[:-1], -1, axis=1)
        d, c = number[1:], np.roll(number[1:], -1, axis=1)
        # The loop runs with the slab on its left; the funnel goes on across it.
        triangles.append(
            np.concatenate([np.stack([b, a, d], axis=-1), np.stack([b, d, c], axis=-1)]).reshape(
                -1, 3
            )
        )
        names[f"throat {k + 1}"] = number[-1].astype(np.int32)
        count += (len(profile) - 1) * len(loop)
    every = np.vstack(vertices) + [0, 0, level]
    return mesh_of_triangles(every, np.vstack(triangles).astype(np.int32), names)


def mirrored_body(mesh: Mesh, plane_height: float) -> Body:
    """Body between a mesh and its mirror image in the level plane at ``plane_height`` (m): borders
    that lie on the plane are welded, others closed by upright walls."""
    n = len(mesh.vertices)
    image = mesh.vertices * [1, 1, -1] + [0, 0, 2 * plane_height]
    t = mesh.triangles
    parts = [t, t[:, ::-1] + n]
    for loop in mesh.loops:
        if np.abs(mesh.vertices[loop, 2] - plane_height).max() < 1e-9 * max(
            float(mesh.extent.max()), 1e-9
        ):
            continue
        a, b = loop, np.roll(loop, -1)
        parts += [np.column_stack([b, a, a + n]), np.column_stack([b, a + n, b + n])]
    vertices, triangles = np.vstack([mesh.vertices, image]), np.vstack(parts).astype(np.int32)
    welded, number = weld(vertices, 1e-9 * float(mesh.extent.max()))
    return closed_body(*used_only(welded, number[triangles]))
