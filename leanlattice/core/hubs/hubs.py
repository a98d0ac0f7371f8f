"""Hubs: balls at a structure's nodes with a flat seat and a hole for each member, as solids."""

from __future__ import annotations

from collections.abc import Callable
from dataclasses import dataclass, replace
from functools import cache, cached_property
from typing import Any

import numpy as np
from numpy.typing import NDArray

from ..geometry.prisms import ring_between
from ..materials import MATERIALS
from ..results import Result, result_type
from ..solids.solids import Solids
from ..structure.hub_seats import HubSeats, Making, hub_seats
from ..structure.names import names_of_structure
from ..structure.structure import Structure
from .alike import alike_seats
from .likeness import hub_kinds

__all__ = ["Hubs", "ball_of_triangles", "hubs"]

Array = NDArray[np.float64]
Index = NDArray[np.int32]
SIDES = 12
"""Corners of a seat, and of a hole."""
WITHIN = 1 - 1e-5
"""Of their radii, how far out the corners of seats are: those of two that touch stay two."""
APART = float(np.radians(8.0))
"""Angle from seats within which the rest of a ball has no corners."""


@result_type("Hubs", "hubs", "hub")
@dataclass(frozen=True, eq=False)
class Hubs(Result):
    """Hubs (k) at nodes of a ``structure``.

    Parameters
    ----------
    structure : what they hold together
    seats : of its members
    off : (n,) metres by which the middles of seats are off where their members begin; not 0 where
        hubs are made alike
    kind_of : (k,) from 1; hubs of a kind are equal within the tolerance, or made alike
    is_alike : whether all of a kind are made alike
    making : what they are made as
    bolt : name of what is screwed into the holes; empty where there are none
    solids : (k) the hubs, their round sides in triangles between places on the balls
    """

    structure: Structure
    seats: HubSeats
    off: Array
    kind_of: Index
    is_alike: bool
    making: Making
    bolt: str
    solids: Solids

    @property
    def count(self) -> int:
        return self.seats.count

    @cached_property
    def labels(self) -> list[str]:
        """Names (k,) by the nodes they are at."""
        return [
            f"{label}-H" for label in names_of_structure(self.structure).nodes(self.seats.nodes)
        ]

    @cached_property
    def kinds(self) -> list[str]:
        """Names (k,) of the kinds of hubs that are alike."""
        return [f"{self.structure.series}NH{n}" for n in self.kind_of.tolist()]

    @cached_property
    def masses(self) -> Array:
        """Masses (k,) in kg, of the true balls less what is beyond seats and in holes."""
        each = np.pi * self.making.hole**2 / 4 * self.making.deep
        volumes = self.seats.volumes - each * np.diff(self.seats.offsets)
        return np.asarray(volumes * MATERIALS[self.solids.materials[0]].density)


def hubs(
    structure: Structure,
    making: Making,
    bolt: str,
    material: str,
    tolerance: float,
    progress: Callable[[float], None],
    is_alike: bool = False,
) -> Hubs:
    """Hubs at the nodes that members are held back for.

    Parameters
    ----------
    structure : whose members they hold
    making : what they are made as
    bolt : name of what is screwed into the holes
    material : a name in ``MATERIALS``
    tolerance : within how many metres two are of one kind
    progress : told the share that is done
    is_alike : whether all of a kind are made alike
    """
    seats = hub_seats(structure, making)
    off = np.zeros(len(seats.hub))
    if is_alike:
        seats, kind, off = alike_seats(seats, tolerance)
    else:
        kind = hub_kinds(seats, tolerance)
    solids = _solids(seats, making, material, progress)
    solids = replace(solids, tolerance=tolerance, series=structure.series)
    return Hubs(structure, seats, off, kind, is_alike, making, bolt, solids)


def _solids(
    seats: HubSeats, making: Making, material: str, progress: Callable[[float], None]
) -> Solids:
    """Hubs as closed bodies."""
    rings = _rings(seats, making)
    directions = np.asarray(ball_of_triangles().vertices)
    vertices, triangles, before = [np.zeros((0, 3))], [np.zeros((0, 3), np.int32)], 0
    for k in range(seats.count):
        if k % 50 == 0:
            progress(k / seats.count)
        corners, faces = _body(seats, k, rings, directions)
        vertices.append(corners + seats.middles[k])
        triangles.append(faces + before)
        before += len(corners)
    return Solids(
        vertices=np.vstack(vertices),
        triangles=np.vstack(triangles).astype(np.int32),
        offsets=np.cumsum([len(faces) for faces in triangles]).astype(np.int32),
        materials=(material,),
        material_of=np.zeros(seats.count, np.int32),
    )


def _body(seats: HubSeats, k: int, rings: list[Array], directions: Array) -> tuple[Array, Index]:
    """Corners (n, 3) of one hub about its middle, and its triangles (t, 3): the corners of rings
    come first, ring after ring, then those of its round side and of its hollow.

    Parameters
    ----------
    seats, k : the hub
    rings : (n, 12, 3) corners of the rims of all seats, and of the mouths and floors of their holes
    directions : (162, 3) of what corners there may be on a ball
    """
    own = slice(int(seats.offsets[k]), int(seats.offsets[k + 1]))
    count = own.stop - own.start
    rest = seats.radius[k] * _away_from(directions, seats, k, own)
    round_side = _hull(np.concatenate([rings[0][own].reshape(-1, 3), rest]), count)
    # The rest comes behind all rings.
    behind = (len(rings) - 1) * SIDES * count
    round_side[round_side >= SIDES * count] += behind
    corners = [*(ring[own].reshape(-1, 3) for ring in rings), rest]
    faces = [round_side, _seat_faces(count, drilled=len(rings) > 1)]
    if seats.hollow[k]:
        air = ball_of_triangles(1)
        faces.append(air.faces[:, ::-1] + sum(map(len, corners)))
        corners.append(seats.hollow[k] * air.vertices)
    return np.concatenate(corners), np.concatenate(faces)


def _rings(seats: HubSeats, making: Making) -> list[Array]:
    """Corners (n, 12, 3) of seats and, where there are any, of the mouths and floors of holes,
    counter-clockwise as seen from outside, in metres from the middles of hubs."""
    ends = seats.ends
    side = np.cross(ends.way, np.eye(3)[np.abs(ends.way).argmin(axis=1)])
    side /= np.maximum(np.linalg.norm(side, axis=1, keepdims=True), 1e-9)
    across = np.cross(ends.way, side)
    turn = 2 * np.pi / SIDES * np.arange(SIDES)
    circle = np.cos(turn)[:, None] * side[:, None] + np.sin(turn)[:, None] * across[:, None]
    middle = ends.levels[:, None] * ends.way
    rims = middle[:, None] + WITHIN * ends.reach[:, None, None] * circle
    if not making.hole:
        return [rims]
    axis = ends.off + ends.set_back[:, None] * ends.way
    # Of the area of the round hole.
    hole = making.hole / 2 * np.sqrt(turn[1] / np.sin(turn[1]))
    mouths = axis[:, None] + hole * circle
    return [rims, mouths, mouths - making.deep * ends.way[:, None]]


@cache
def ball_of_triangles(halved: int = 2) -> Any:
    """A mesh whose corners are unit directions, evenly spread: 42 where the sides of its triangles
    are ``halved`` once, 162 where twice."""
    import trimesh

    return trimesh.creation.icosphere(subdivisions=halved)


def _away_from(every: Array, seats: HubSeats, hub: int, own: slice) -> Array:
    """Those of unit directions (n, 3) that are not near a seat of a ``hub``."""
    ends = seats.ends
    taken = np.arcsin(np.minimum(ends.reach[own] / seats.radius[hub], 1.0))
    least = np.cos(np.minimum(taken + APART, np.pi))
    return np.asarray(every[(every @ ends.way[own].T < least).all(axis=1)])


def _hull(points: Array, seats: int) -> Index:
    """Triangles (t, 3), outward, of the convex hull of points (n, 3), without those that fill the
    rims of the first so many seats."""
    from scipy.spatial import ConvexHull

    hull = ConvexHull(points)
    triangles = hull.simplices.astype(np.int32)
    corner = points[triangles]
    normal = np.cross(corner[:, 1] - corner[:, 0], corner[:, 2] - corner[:, 0])
    inward = np.einsum("ij,ij->i", normal, hull.equations[:, :3]) < 0
    triangles[inward] = triangles[inward][:, ::-1]
    seat = np.where(triangles < SIDES * seats, triangles // SIDES, -1 - triangles)
    fills = (seat[:, 0] == seat[:, 1]) & (seat[:, 1] == seat[:, 2])
    return triangles[~fills]


def _seat_faces(seats: int, drilled: bool) -> Index:
    """Triangles (t, 3) of so many seats by the corners of all rims, then those of all mouths and of
    all floors."""
    disc = np.column_stack([np.zeros(SIDES - 2), *(np.arange(1, SIDES - 1) + k for k in (0, 1))])
    first = SIDES * np.arange(seats)[:, None, None]
    if not drilled:
        return (first + disc[None]).reshape(-1, 3).astype(np.int32)
    every = SIDES * seats
    ring = ring_between(0, every, SIDES)
    wall = ring_between(every, 2 * every, SIDES)
    faces = np.concatenate([ring, wall, disc + 2 * every])
    return (first + faces[None]).reshape(-1, 3).astype(np.int32)
