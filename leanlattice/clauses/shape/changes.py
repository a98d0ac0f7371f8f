"""Shapes moved, turned, scaled, mirrored, repeated, smoothed, swapped, and bent by a control
box."""

from __future__ import annotations

from typing import Literal

import numpy as np
from numpy.typing import NDArray

from ...core.geometry.mapped import Affine, mapped
from ...core.geometry.meshes import (
    Body,
    Mesh,
    MeshError,
    mesh_of_triangles,
    pieces,
    used_only,
    weld,
)
from ...core.geometry.meshsurface import MeshSurface, mesh_surface
from ...core.geometry.surfaces import Surface
from ...core.shaping.bending import control_box
from ...core.shaping.easing import eased
from ...core.shaping.faces import carried_face
from ...core.shaping.facets import facets
from ...core.shaping.solids import SolidError, boolean, refined
from ...core.shaping.stacks import upright_walls
from ..base import ClauseError, Made, Work, choice, count, number, offsets, point
from .common import (
    SHAPE,
    Coordinate,
    Place,
    Shape,
    ShapeClause,
    dial_aid,
    line_aid,
    made,
    surface_needed,
)

__all__ = [
    "BendShape",
    "MirrorShape",
    "MoveShape",
    "RepeatShape",
    "ScaleShape",
    "SmoothShape",
    "SwapSides",
    "TakeSide",
    "TurnShape",
    "carried",
]

Array = NDArray[np.float64]
AXES = {"x": np.array([1.0, 0, 0]), "y": np.array([0, 1.0, 0]), "z": np.array([0, 0, 1.0])}


def _middle(shape: Shape) -> Array:
    vertices = facets(shape).mesh.vertices
    return np.asarray((vertices.min(axis=0) + vertices.max(axis=0)) / 2)


def _step_aids(shape: Shape, step: tuple[float, float, float]) -> dict[str, Array]:
    """Handles for a step in x, y and upward: where it leads to, and from there each along its own
    direction."""
    out: dict[str, Array] = {}
    for k, name in enumerate(("dx", "dy", "dz")):
        ahead = AXES["xyz"[k]]
        # Apart from each other by a share of the shape, so that each can be taken hold of.
        place = (
            _middle(shape)
            + np.array(step) * (1 - ahead)
            + 0.12 * float(facets(shape).mesh.extent.max()) * ahead
        )
        out |= line_aid(name, place, ahead)
    return out


def carried(shape: Shape, by: Affine) -> Shape:
    """A shape moved, turned, scaled or mirrored."""
    if isinstance(shape, Surface):
        if isinstance(shape, MeshSurface):
            return _carried_mesh(shape, by)
        return mapped(shape, by)
    mesh = shape.mesh.with_vertices(by.points(shape.mesh.vertices))
    mesh = mesh.reversed() if by.mirrors else mesh
    skin = None if shape.skin is None else carried(shape.skin, by)
    faces = tuple(f for face in shape.faces if (f := carried_face(face, by)) is not None)
    return Body(mesh, skin, faces)  # type: ignore[arg-type]


def _carried_mesh(surface: MeshSurface, by: Affine) -> MeshSurface:
    faces = surface.faces or surface.mesh
    out = mesh_surface(faces.with_vertices(by.points(faces.vertices)), "fitting")
    # The flat picture may have turned over, or in a mirror the faces have.
    side = np.einsum(
        "ij,ij->",
        out.mesh.normals[:50] if len(out.mesh.vertices) >= 50 else out.mesh.normals,
        _turned_normals(surface, by)[: len(out.mesh.vertices)][:50],
    )
    return out.swapped() if side < 0 else out  # type: ignore[return-value]


def _turned_normals(surface: MeshSurface, by: Affine) -> Array:
    n = surface.mesh.normals * (-1 if surface.flipped else 1)
    return np.asarray(n @ np.linalg.inv(by.matrix))


class MoveShape(ShapeClause):
    kind = "move"
    title = "Move"
    summary = "The shape elsewhere."
    sentence = "**Move** the shape by {dx} in x, {dy} in y and {dz} upward."
    takes = (SHAPE,)

    dx: float = number(0.0, "m", -10000.0, 10000.0, 0.1, "In x")
    dy: float = number(0.0, "m", -10000.0, 10000.0, 0.1, "In y")
    dz: float = number(1.0, "m", -10000.0, 10000.0, 0.1, "Upward")

    def make(self, work: Work) -> Made:
        shape, step = work.inputs["shape"], (self.dx, self.dy, self.dz)
        return made(carried(shape, Affine.moving(np.array(step))), aids=_step_aids(shape, step))


class TurnShape(ShapeClause):
    kind = "turn"
    title = "Turn"
    summary = "The shape turned about an axis."
    sentence = "**Turn** the shape by {angle} about the {axis} axis through {through}."
    takes = (SHAPE,)

    angle: float = number(45.0, "°", -360.0, 360.0, 1.0, "Angle")
    axis: Literal["z", "x", "y"] = choice("z", {"z": "upright", "x": "x", "y": "y"}, "Axis")
    through: Place = point((0.0, 0.0, 0.0), "Place on the axis")

    def make(self, work: Work) -> Made:
        by = Affine.turning(AXES[self.axis], float(np.radians(self.angle)), np.array(self.through))
        shape, axis, foot = work.inputs["shape"], AXES[self.axis], np.array(self.through)
        from_axis = _middle(shape) - foot
        arm = from_axis - (from_axis @ axis) * axis
        reach = 0.6 * float(facets(shape).mesh.extent.max())
        if np.linalg.norm(arm) < 0.1 * reach:
            arm = reach * AXES[{"z": "x", "x": "y", "y": "z"}[self.axis]]
        return made(
            carried(shape, by), aids=dial_aid("angle", foot + (from_axis @ axis) * axis, arm, axis)
        )


class ScaleShape(ShapeClause):
    kind = "scale"
    title = "Scale"
    summary = "The shape larger or smaller, evenly or by direction."
    sentence = "**Scale** the shape by {fx} in x, {fy} in y and {fz} upward, about {about}."
    takes = (SHAPE,)

    fx: float = number(1.0, "", 0.001, 1000.0, 0.01, "Factor in x")
    fy: float = number(1.0, "", 0.001, 1000.0, 0.01, "Factor in y")
    fz: float = number(1.2, "", 0.001, 1000.0, 0.01, "Factor upward")
    about: Place = point((0.0, 0.0, 0.0), "Place that stays")

    def make(self, work: Work) -> Made:
        by = Affine.scaling(np.array([self.fx, self.fy, self.fz]), np.array(self.about))
        return made(carried(work.inputs["shape"], by))


class MirrorShape(ShapeClause):
    kind = "mirror"
    title = "Mirror"
    summary = "The shape on the other side of a plane; of a body both halves can be kept as one."
    sentence = "**Mirror** the shape in the {plane} through {through}, {keep}."
    takes = (SHAPE,)

    plane: Literal["x", "y", "z"] = choice(
        "x",
        {"x": "upright plane square to x", "y": "upright plane square to y", "z": "level plane"},
        "Plane",
    )
    through: Place = point((0.0, 0.0, 0.0), "Place on the plane")
    keep: Literal["only", "both"] = choice(
        "only", {"only": "giving that alone", "both": "united with the first"}, "Keep"
    )

    def make(self, work: Work) -> Made:
        shape: Shape = work.inputs["shape"]
        image = carried(shape, Affine.mirroring(AXES[self.plane], np.array(self.through)))
        return made(image) if self.keep == "only" else made(together([shape, image], "keep"))


def together(shapes: list[Shape], value: str) -> Shape:
    """Bodies united; surfaces as the pieces of one mesh."""
    if all(isinstance(s, Body) for s in shapes):
        try:
            return boolean([s for s in shapes if isinstance(s, Body)], "union")
        except SolidError as error:
            raise ClauseError(str(error), value) from None
    if any(isinstance(s, Body) for s in shapes):
        raise ClauseError(
            "A body and a surface cannot be made one; thicken the surface first.", value
        )
    meshes = [facets(s).mesh for s in shapes]
    counts = np.cumsum([0] + [len(m.vertices) for m in meshes])
    vertices = np.vstack([m.vertices for m in meshes])
    welded, number = weld(vertices, 1e-7 * float(np.ptp(vertices, axis=0).max()))
    triangles = np.vstack([m.triangles + n for m, n in zip(meshes, counts[:-1], strict=True)])
    mesh = mesh_of_triangles(welded, number[triangles])
    if pieces(mesh.triangles, len(welded)).max(initial=0) > 0:
        raise ClauseError(
            "The copies do not touch along their edges, so that they make no single surface; thicken the shape to a body "
            "first, or move the plane or the step to where they meet.",
            value,
        )
    return mesh_surface(mesh)


class RepeatShape(ShapeClause):
    kind = "repeat"
    title = "Repeat"
    summary = "Copies in a row or around an axis, united with the first."
    sentence = (
        "**Repeat** the shape {copies} in all {way}[way=along|, each by {dx} in x, {dy} in y and {dz} upward from the "
        "last][way=around|, about the upright through {centre} through {angle}]."
    )
    takes = (SHAPE,)

    copies: int = count(3, 2, 100, "Copies", words=("time", "times"))
    way: Literal["along", "around"] = choice(
        "along", {"along": "in a row", "around": "around an axis"}, "Way"
    )
    dx: float = number(5.0, "m", -1000.0, 1000.0, 0.1, "In x")
    dy: float = number(0.0, "m", -1000.0, 1000.0, 0.1, "In y")
    dz: float = number(0.0, "m", -1000.0, 1000.0, 0.1, "Upward")
    centre: Place = point((0.0, 0.0, 0.0), "Place on the axis")
    angle: float = number(
        360.0, "°", -360.0, 360.0, 5.0, "Angle", "In all; a full turn is divided evenly"
    )

    def make(self, work: Work) -> Made:
        shape: Shape = work.inputs["shape"]
        if len(facets(shape).mesh.triangles) * self.copies > 400_000:
            most = 400_000 // len(facets(shape).mesh.triangles)
            raise ClauseError(
                f"{self.copies} copies would be too many triangles; {most} work.", "copies"
            )
        full = abs(abs(self.angle) - 360) < 1e-9
        shapes = [shape]
        for k in range(1, self.copies):
            work.progress(k / self.copies)
            if self.way == "along":
                by = Affine.moving(k * np.array([self.dx, self.dy, self.dz]))
            else:
                step = np.radians(self.angle) / (self.copies if full else self.copies - 1)
                by = Affine.turning(AXES["z"], float(k * step), np.array(self.centre))
            shapes.append(carried(shape, by))
        aids = _step_aids(shape, (self.dx, self.dy, self.dz)) if self.way == "along" else {}
        return made(together(shapes, "copies"), aids=aids)


class SmoothShape(ShapeClause):
    kind = "smooth"
    title = "Smooth"
    summary = "Eases bumps and edges without shrinking."
    sentence = "**Smooth** the shape {rounds}, {border}."
    takes = (SHAPE,)

    rounds: int = count(10, 1, 500, "Times", words=("time", "times"))
    border: Literal["kept", "free"] = choice(
        "kept", {"kept": "keeping its border", "free": "its border too"}, "Border"
    )

    def make(self, work: Work) -> Made:
        shape: Shape = work.inputs["shape"]
        mesh = facets(shape).mesh
        out = mesh.with_vertices(eased(mesh, self.rounds, self.border == "kept"))
        if isinstance(shape, Body):
            return made(Body(mesh_of_triangles(out.vertices, out.triangles)))
        return made(mesh_surface(mesh_of_triangles(out.vertices, out.triangles)))


class SwapSides(ShapeClause):
    kind = "swap"
    title = "Swap outside and inside"
    summary = "The other side of a surface becomes its outside."
    sentence = "**Swap** outside and inside."
    takes = (SHAPE,)

    def make(self, work: Work) -> Made:
        shape: Shape = work.inputs["shape"]
        if isinstance(shape, Body):
            raise ClauseError(
                "A body's outside is where it is not; only the sides of a surface can be swapped."
            )
        return made(shape.swapped())


class TakeSide(ShapeClause):
    kind = "take-side"
    title = "Take a side of a body"
    summary = (
        "The faces that look up, down or sideways as a surface of their own, to lay a lattice on."
    )
    sentence = "**Take** the {side} of the body, as far as faces lie within {within} of it, {flat}."
    takes = (SHAPE,)

    side: Literal["top", "underside", "walls", "skin"] = choice(
        "top",
        {
            "top": "top",
            "underside": "underside",
            "walls": "walls",
            "skin": "surface it was made from",
        },
        "Side",
    )
    within: float = number(
        80.0, "°", 1.0, 90.0, 1.0, "Angle", "Of a face to the direction of the side"
    )
    flat: Literal["fitting", "plan", "flattened"] = choice(
        "fitting",
        {"fitting": "laid out as fits", "plan": "laid out by its plan", "flattened": "flattened"},
        "Parameters",
        "How u and v are given to the faces",
    )

    def make(self, work: Work) -> Made:
        shape: Shape = work.inputs["shape"]
        if self.side == "skin":
            return made(surface_needed(shape))
        mesh: Mesh = facets(shape).mesh
        unit = mesh.triangle_crosses / np.maximum(
            np.linalg.norm(mesh.triangle_crosses, axis=1, keepdims=True), 1e-300
        )
        limit = np.cos(np.radians(self.within))
        up = unit[:, 2]
        chosen = {
            "top": up >= limit,
            "underside": up <= -limit,
            "walls": np.sqrt(np.maximum(1 - up**2, 0)) >= limit,
        }[self.side]
        if not chosen.any():
            raise ClauseError(
                f"No face lies within {self.within:g}° of the {self.side}; a larger angle finds some.",
                "within",
            )
        part = mesh_of_triangles(*used_only(mesh.vertices, mesh.triangles[chosen]))
        if self.side == "walls" and self.flat == "fitting":
            walls = upright_walls(part)
            if walls is not None:
                return made(walls)
        try:
            return made(mesh_surface(part, self.flat))
        except MeshError as error:
            raise ClauseError(str(error), "flat") from None


class BendShape(ShapeClause):
    kind = "bend"
    title = "Control box"
    summary = "Bends whatever is inside a box by moving the points of the box."
    sentence = (
        "**Bend** the shape with a control box of {nx} × {ny} × {nz} points, {moves} of them moved."
    )
    takes = (SHAPE,)

    nx: int = count(3, 2, 7, "Points along x")
    ny: int = count(3, 2, 7, "Points along y")
    nz: int = count(2, 2, 7, "Points upward")
    moves: list[tuple[Coordinate, Coordinate, Coordinate]] = offsets(
        list,
        "Moved points",
        "Drag points of the box in the view; Shift click picks several, Alt drags up and down.",
    )

    def make(self, work: Work) -> Made:
        shape: Shape = work.inputs["shape"]
        counts = (self.nx, self.ny, self.nz)
        total = int(np.prod(counts))
        moves = np.zeros((total, 3))
        given = np.array(self.moves, float).reshape(-1, 3)[:total]
        moves[: len(given)] = given
        points = facets(shape).mesh.vertices
        box = control_box(points, counts, moves)
        aids = {"box": box.rest, "box counts": np.array([counts], float)}
        if not moves.any():
            return made(shape, aids=aids)
        if isinstance(shape, Surface) and not isinstance(shape, MeshSurface):
            return made(mapped(shape, box), aids=aids)
        if isinstance(shape, MeshSurface):
            faces = shape.faces or shape.mesh
            bent = mesh_surface(faces.with_vertices(box.points(faces.vertices)))
            return made(bent.swapped() if shape.flipped else bent, aids=aids)
        longest = float(np.ptp(points, axis=0).max()) / 20
        try:
            body = refined(shape, longest)
        except SolidError as error:
            raise ClauseError(str(error)) from None
        mesh = body.mesh.with_vertices(box.points(body.mesh.vertices))
        skin = None if shape.skin is None else mapped(shape.skin, box)
        return made(Body(mesh, skin), aids=aids)
