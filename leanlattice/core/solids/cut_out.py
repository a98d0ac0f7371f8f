"""Openings cut out of solids: what is left of each, in pieces where it falls apart."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import replace

import manifold3d
import numpy as np
from numpy.typing import NDArray

from ..geometry.meshes import Body, Mesh
from ..shaping.solids import as_body, as_solid
from .solids import Solids

__all__ = ["cut_out"]

Array = NDArray[np.float64]
Index = NDArray[np.int32]
CRUMB = 1e-9
"""Cubic metres below which nothing is left."""


def cut_out(solids: Solids, cutters: Sequence[Body]) -> tuple[Solids, Index]:
    """What is left of ``solids`` when ``cutters`` are taken out of each, and which of them each
    (B',) is a piece of. Those that no cutter meets stay as they are.

    Raises ``SolidError`` where a cutter is not closed.
    """
    takes = [as_solid(cutter) for cutter in cutters]
    met = _met(solids, cutters)
    vertices, triangles, of = [], [], []
    start = 0
    for k in range(solids.count):
        body = solids.body(k)
        kept = [body.mesh] if not met[k] else _left(body, takes)
        for mesh in kept:
            vertices.append(mesh.vertices)
            triangles.append(mesh.triangles + start)
            of.append(k)
            start += len(mesh.vertices)
    source = np.array(of, np.int32)
    counts = [len(t) for t in triangles]
    made = replace(
        solids,
        vertices=np.vstack([np.zeros((0, 3)), *vertices]),
        triangles=np.vstack([np.zeros((0, 3), np.int32), *triangles]).astype(np.int32),
        offsets=np.concatenate([[0], np.cumsum(counts)]).astype(np.int32),
        material_of=solids.material_of[source],
        group=None if solids.group is None else solids.group[source],
        frames=None if solids.frames is None else solids.frames[source],
        side=None,
    )
    return made, source


def _met(solids: Solids, cutters: Sequence[Body]) -> NDArray[np.bool_]:
    """Which solids (B,) have a box in common with a cutter."""
    corner = solids.vertices[solids.triangles]
    low = np.minimum.reduceat(corner.min(axis=1), solids.offsets[:-1], axis=0)
    high = np.maximum.reduceat(corner.max(axis=1), solids.offsets[:-1], axis=0)
    out = np.zeros(solids.count, bool)
    for cutter in cutters:
        places = cutter.mesh.vertices
        out |= ((low <= places.max(axis=0)) & (high >= places.min(axis=0))).all(axis=1)
    return out


def _left(body: Body, takes: Sequence[manifold3d.Manifold]) -> list[Mesh]:
    """Meshes of the pieces of a body less what is taken; itself where nothing is."""
    whole = as_solid(body)
    left = manifold3d.Manifold.batch_boolean([whole, *takes], manifold3d.OpType.Subtract)
    if whole.volume() - left.volume() < CRUMB:
        return [body.mesh]
    return [as_body(piece).mesh for piece in left.decompose() if piece.volume() > CRUMB]
