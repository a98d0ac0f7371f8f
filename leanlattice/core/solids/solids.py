"""Solids of materials: closed bodies with what they weigh, the groups they are of and their
types."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass
from functools import cached_property
from typing import NamedTuple

import numpy as np
from numpy.typing import NDArray

from ..geometry.meshes import Body, Mesh, mesh_of_triangles
from ..materials import MATERIALS
from ..naming.numbering import in_order
from ..results import Result, result_type
from .likeness import solid_types

__all__ = ["SIDES", "Openings", "Solids", "solids_of"]

Array = NDArray[np.float64]
Index = NDArray[np.int32]
LETTER, TYPE_LETTER = "K", "J"
SIDES = ("between", "outside", "inside")
FACING = 0.5
"""Cosine from which a triangle looks out of a shell, or into it."""


class Openings(NamedTuple):
    """Openings through bodies: their outlines on the outside, counter-clockwise as seen from there.

    Parameters
    ----------
    rings : (k,) vertices of all, one after the other
    offsets : (n + 1,) where each begins in ``rings``, and their end
    """

    rings: Index
    offsets: Index


@result_type("Solids", "solids", "solid", covers=("Shape", "Net"))
@dataclass(frozen=True, eq=False)
class Solids(Result):
    """Closed bodies (B) that share no vertices (V), numbered from 1 in a ``series``.

    Parameters
    ----------
    vertices : (V, 3) in metres
    triangles : (T, 3) counter-clockwise seen from outside; body ``i`` has
        ``triangles[offsets[i]:offsets[i + 1]]``
    offsets : (B + 1,)
    materials : names in ``MATERIALS``
    material_of : (B,) positions in ``materials``
    groups : names of what bodies are grouped by, such as courses; none where they are not
    group : (B,) positions in ``groups``
    frames : (B, 3, 3) unit vectors (rows) along a body, across it and through it; the axes of space
        where nothing is said
    series : what stands before all names
    tolerance : within how many metres bodies are equal, and of one type
    skin : metres of material that bodies have about the air in them; 0 where they are solid
    side : (T,) positions in ``SIDES``, where these do not follow from the frames
    openings : through bodies, where they are known
    """

    vertices: Array
    triangles: Index
    offsets: Index
    materials: tuple[str, ...]
    material_of: Index
    groups: tuple[str, ...] = ()
    group: Index | None = None
    frames: Array | None = None
    series: str = ""
    tolerance: float = 0.001
    skin: float = 0.0
    side: Index | None = None
    openings: Openings | None = None

    @property
    def count(self) -> int:
        return len(self.offsets) - 1

    @property
    def labels(self) -> list[str]:
        return [f"{self.series}{LETTER}{k}" for k in range(1, self.count + 1)]

    @cached_property
    def whole(self) -> Mesh:
        """All bodies as one mesh."""
        return mesh_of_triangles(self.vertices, self.triangles)

    @cached_property
    def owner(self) -> Index:
        """The body (T,) each triangle is of."""
        return np.repeat(np.arange(self.count, dtype=np.int32), np.diff(self.offsets))

    @cached_property
    def owner_of_vertex(self) -> Index:
        """The body (V,) each vertex is of."""
        out = np.zeros(len(self.vertices), np.int32)
        out[self.triangles] = self.owner[:, None]
        return out

    @cached_property
    def bodies(self) -> tuple[Body, ...]:
        """Each by itself."""
        return tuple(self.body(i) for i in range(self.count))

    def body(self, i: int) -> Body:
        """One of them by itself."""
        triangles = self.triangles[self.offsets[i] : self.offsets[i + 1]]
        used, corners = np.unique(triangles, return_inverse=True)
        return Body(mesh_of_triangles(self.vertices[used], corners.reshape(-1, 3).astype(np.int32)))

    @cached_property
    def _sums(self) -> tuple[Array, Array]:
        """Volumes (B,) in m³ and their centroids (B, 3), by the divergence theorem about a corner
        of each."""
        start = self.vertices[self.triangles[self.offsets[:-1], 0]]
        corner = self.vertices[self.triangles] - start[self.owner][:, None]
        six = np.einsum("ij,ij->i", corner[:, 0], np.cross(corner[:, 1], corner[:, 2]))
        total = np.add.reduceat(six, self.offsets[:-1])
        moment = np.add.reduceat(six[:, None] * corner.sum(axis=1), self.offsets[:-1], axis=0)
        return total / 6, start + moment / (4 * total[:, None])

    @property
    def volumes(self) -> Array:
        """m³ (B,)."""
        return self._sums[0]

    @property
    def middles(self) -> Array:
        """Centroids (B, 3) in metres."""
        return self._sums[1]

    @cached_property
    def areas(self) -> Array:
        """m² (B,)."""
        size = np.linalg.norm(self.whole.triangle_crosses, axis=1) / 2
        return np.asarray(np.add.reduceat(size, self.offsets[:-1]))

    @property
    def masses(self) -> Array:
        """kg (B,); of bodies with air in them those of their skins."""
        density = np.array([MATERIALS[name].density for name in self.materials])
        made = self.areas * self.skin if self.skin else self.volumes
        return np.asarray(made * density[self.material_of])

    @cached_property
    def sides(self) -> Index | None:
        """Which side of a shell each triangle (T,) is of, by positions in ``SIDES``; ``None`` where
        nothing is said of directions."""
        if self.side is not None or self.frames is None:
            return self.side
        crosses = self.whole.triangle_crosses
        along = np.einsum("ij,ij->i", crosses, self.frames[self.owner, 2])
        along /= np.maximum(np.linalg.norm(crosses, axis=1), 1e-300)
        out, into = along > FACING, along < -FACING
        return np.where(out, 1, np.where(into, 2, 0)).astype(np.int32)

    @property
    def axes(self) -> Array:
        """Unit vectors (B, 3, 3; rows) along each, across it and through it."""
        if self.frames is not None:
            return self.frames
        return np.broadcast_to(np.eye(3), (self.count, 3, 3))

    @cached_property
    def sizes(self) -> Array:
        """Extents (B, 3) in metres along the axes of each one's frame."""
        axes = self.axes[self.owner]
        along = np.einsum("tij,tkj->kti", axes, self.vertices[self.triangles])
        high = np.maximum.reduceat(along.max(axis=0), self.offsets[:-1], axis=0)
        low = np.minimum.reduceat(along.min(axis=0), self.offsets[:-1], axis=0)
        return np.asarray(high - low)

    @cached_property
    def type_of(self) -> Index:
        """Types (B,) from 1 of bodies that are equal within the tolerance and of one material;
        mirror images are two types."""
        kinds = solid_types(self.vertices, self.triangles, self.offsets, self.tolerance)
        return in_order(np.column_stack([self.material_of, kinds]))

    def type_labels(self) -> list[str]:
        """Names (B,) of the types of bodies."""
        return [f"{self.series}{TYPE_LETTER}{n}" for n in self.type_of.tolist()]

    def group_labels(self) -> list[str]:
        """Names (B,) of the groups bodies are of; empty where there are none."""
        if self.group is None:
            return [""] * self.count
        return [self.groups[k] for k in self.group.tolist()]


def solids_of(bodies: Sequence[Body], material: str, series: str = "") -> Solids:
    """Bodies as solids of one ``material``, in their order."""
    meshes = [body.mesh for body in bodies]
    before = np.cumsum([0, *(len(m.vertices) for m in meshes)])
    counts = [len(m.triangles) for m in meshes]
    triangles = [m.triangles + n for m, n in zip(meshes, before, strict=False)]
    return Solids(
        vertices=np.vstack([np.zeros((0, 3)), *(m.vertices for m in meshes)]),
        triangles=np.vstack([np.zeros((0, 3), np.int32), *triangles]).astype(np.int32),
        offsets=np.concatenate([[0], np.cumsum(counts)]).astype(np.int32),
        materials=(material,),
        material_of=np.zeros(len(meshes), np.int32),
        series=series,
    )
