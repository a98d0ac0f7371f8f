"""Solids of members and panels, for models and for drawing."""

from __future__ import annotations

from collections.abc import Iterator

import numpy as np
from numpy.typing import NDArray

from ..geometry.triangulation import polygon_triangles
from .frames import Frame

__all__ = ["member_solids", "prism"]

Array = NDArray[np.float64]
Index = NDArray[np.int32]


def _ring(a: int, b: int, n: int) -> Index:
    """Triangles between two loops of n points that start at ``a`` and ``b``; outside to the right
    of a → b."""
    k = np.arange(n)
    m = (k + 1) % n
    return np.concatenate(
        [np.column_stack([a + k, a + m, b + m]), np.column_stack([a + k, b + m, b + k])]
    )


def member_solids(
    frame: Frame, segments: int = 12, same_area: bool = False
) -> Iterator[tuple[int, Array, Index]]:
    """Member number, vertices (n, 3) in metres and triangles (m, 3) of each member that has a
    length left.

    Closed, normals outward; hollow sections are hollow. Round sections are polygons of so many
    ``segments`` with corners on the circles or, with ``same_area``, of the circles' area.
    """
    grown = (
        float(np.sqrt(2 * np.pi / segments / np.sin(2 * np.pi / segments))) if same_area else 1.0
    )
    templates = []
    for section in frame.sections:
        scale = grown if section.shape.round else 1.0
        outer, inner = (
            None if ring is None else ring * scale for ring in section.shape.outline(segments)
        )
        assert outer is not None
        n = len(outer)
        if inner is None:
            loops = np.concatenate([outer, outer])
            fan = np.column_stack([np.zeros(n - 2, int), np.arange(2, n), np.arange(1, n - 1)])
            faces = np.concatenate([_ring(0, n, n), fan, fan[:, ::-1] + n])
            end = np.repeat([0, 1], n)
        else:
            loops = np.concatenate([outer, outer, inner, inner])
            faces = np.concatenate(
                [_ring(0, n, n), _ring(3 * n, 2 * n, n), _ring(2 * n, 0, n), _ring(n, 3 * n, n)]
            )
            end = np.tile(np.repeat([0, 1], n), 2)
        templates.append((loops, end, faces.astype(np.int32)))
    start = frame.net.vertices[frame.members[:, 0]]
    for m in np.flatnonzero(frame.cut_lengths > 0):
        loops, end, faces = templates[frame.section_of[m]]
        stations = np.array([frame.set_back[m, 0], frame.lengths[m] - frame.set_back[m, 1]])[end]
        across = loops[:, :1] * frame.side[m] + (loops[:, 1:] + frame.lift[m]) * frame.up[m]
        yield int(m), start[m] + stations[:, None] * frame.axis[m] + across, faces


def prism(polygon: Array, normal: Array, thickness: float) -> tuple[Array, Index]:
    """Closed solid of a flat ``polygon`` (n, 3), counter-clockwise about ``normal``, raised along
    it."""
    n = len(polygon)
    face, _ = polygon_triangles(polygon, np.arange(n, dtype=np.int32), np.array([0, n], np.int32))
    faces = np.concatenate([face[:, ::-1], face + n, _ring(0, n, n)])
    return np.concatenate([polygon, polygon + thickness * normal]), faces.astype(np.int32)
