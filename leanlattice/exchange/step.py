"""STEP: surfaces as splines and bodies as solids of these, for programs that keep exact forms."""

from __future__ import annotations

import itertools
import re
from collections.abc import Sequence
from pathlib import Path
from typing import Any

import numpy as np
from numpy.typing import NDArray

from ..core.geometry.exact import SplineSurface, fitted_spline, spline_surface
from ..core.geometry.meshes import Body, half_edges, pieces
from ..core.geometry.meshsurface import MeshSurface
from ..core.geometry.patches import patch
from ..core.geometry.surfaces import Dome, Loft, Surface
from ..core.shaping.faces import stands_for_curves
from ..core.shaping.onto import measures

__all__ = ["MM", "exact_form", "sewn_solid", "silenced", "write_step"]

Array = NDArray[np.float64]
MM = 1000.0
"""This format counts in millimetres."""
SEWN = 1e-2
"""Edges nearer (mm) to each other are one."""
SAME = 1e-4
"""Share by which the volume of a solid may differ from that of the body it is to be."""
STRAIGHT = 1e-7
"""Edges of triangles whose middles lie so near (m) to a face are edges of it."""
POINT = 2e-3
"""Sides of faces smaller (mm) than this are points."""
MOST_FACES = 200
NUMBERED = re.compile(r"PRODUCT\('([^']*) \d+',(\s*)'\1 \d+',")
"""Names of products as the package writes them, counted."""


def silenced() -> None:
    """Keeps the package from talking to the terminal."""
    from OCP.Message import Message

    messenger = (getattr(Message, "DefaultMessenger_s", None) or Message.DefaultMessenger)()
    for printer in list(messenger.Printers()):
        messenger.RemovePrinter(printer)


def exact_form(shape: Surface | Body) -> Any:
    """A surface or body in the form of the package that writes STEP; ``None`` where triangles are
    all there is of it.

    Domes and lofts are what they are; others are splines within a thousandth of a millimetre, one
    for each smooth part. Plane faces close bodies.
    """
    silenced()
    if isinstance(shape, Body):
        return _solid(shape)
    if isinstance(shape, MeshSurface) or shape.domain is not None or shape.pieced:
        return None
    faces = [_face(part, 0.0) for part in _patches(shape)]
    if not faces or any(face is None for face in faces):
        return None
    return faces[0] if len(faces) == 1 else _sewn(faces)


def _patches(surface: Surface) -> list[Surface]:
    """Smooth parts of a surface."""
    lines = [np.unique([0.0, *breaks, 1.0]) for breaks in surface.breaks]
    if max(len(line) for line in lines) == 2:
        return [surface]
    corners = [list(itertools.pairwise(line.tolist())) for line in lines]
    every = itertools.product(*corners)
    return [patch(surface, np.array([a, c]), np.array([b, d])) for (a, b), (c, d) in every]


def _face(surface: Surface, offset: float) -> Any:
    """The face of a smooth surface, or of one ``offset`` (m) outside of it; ``None`` where no
    spline comes near enough."""
    if isinstance(surface, Dome) and not offset:
        face = _cap_face(surface)
    else:
        spline = (
            spline_surface(surface)
            if isinstance(surface, Loft) and not offset
            else fitted_spline(
                lambda uv: surface.points(uv) + (offset * surface.normals(uv) if offset else 0.0)
            )
        )
        if spline is None:
            return None
        face = _spline_face(spline)
    return face.Reversed() if surface.flipped else face


def _spline_face(spline: SplineSurface) -> Any:
    from OCP.BRepBuilderAPI import BRepBuilderAPI_MakeFace
    from OCP.collections import Array1_double, Array1_int, Array2_gp_Pnt
    from OCP.Geom import Geom_BSplineSurface
    from OCP.gp import gp_Pnt

    n, m, _ = spline.control.shape
    poles = Array2_gp_Pnt(1, n, 1, m)
    for i in range(n):
        for j in range(m):
            poles.SetValue(i + 1, j + 1, gp_Pnt(*(float(c) * MM for c in spline.control[i, j])))

    def knots(values: np.ndarray[Any, Any]) -> tuple[Any, Any]:
        different, counts = np.unique(values, return_counts=True)
        reals, integers = Array1_double(1, len(different)), Array1_int(1, len(different))
        for k, (value, count) in enumerate(zip(different, counts, strict=True), 1):
            reals.SetValue(k, float(value))
            integers.SetValue(k, int(count))
        return reals, integers

    (ku, mu), (kv, mv) = knots(spline.knots_u), knots(spline.knots_v)
    made = Geom_BSplineSurface(
        poles, ku, kv, mu, mv, spline.degree_u, spline.degree_v, False, False
    )
    return BRepBuilderAPI_MakeFace(made, POINT).Face()


def _cap_face(surface: Dome) -> Any:
    from OCP.BRepBuilderAPI import BRepBuilderAPI_MakeFace
    from OCP.gp import gp_Ax3, gp_Dir, gp_Pnt, gp_Sphere

    centre = gp_Pnt(*(float(c) * MM for c in surface.centre))
    sphere = gp_Sphere(gp_Ax3(centre, gp_Dir(0, 0, 1)), surface.radius * MM)
    edge = np.pi / 2 - surface.half_angle
    return BRepBuilderAPI_MakeFace(sphere, 0.0, 2 * np.pi, edge, np.pi / 2).Face()


def _sewn(faces: Sequence[Any]) -> Any:
    from OCP.BRepBuilderAPI import BRepBuilderAPI_Sewing
    from OCP.TopAbs import TopAbs_ShapeEnum

    sewing = BRepBuilderAPI_Sewing(SEWN)
    for face in faces:
        sewing.Add(face)
    sewing.Perform()
    sewn = sewing.SewedShape()
    return _shell_of(sewn) if sewn.ShapeType() == TopAbs_ShapeEnum.TopAbs_FACE else sewn


def _solid(body: Body) -> Any:
    """The solid of a body all of which is known; ``None`` where it does not close, or not to the
    same volume."""
    from OCP.BRepCheck import BRepCheck_Analyzer

    walls = _plane_faces(body)
    if body.cut or stands_for_curves(body) or walls is None:
        return None
    faces = [_face(part, f.offset) for f in body.faces for part in _patches(f.surface)]
    if any(face is None for face in faces) or not (faces or walls):
        return None
    sides = _sewn([*faces, *walls])
    ends = _faces_in(_open_wires(sides))
    solid = sewn_solid([sides, *ends] if ends else [sides])
    if solid is None or abs(_volume(solid) / measures(body)[0] - 1) > SAME:
        return None
    return solid if BRepCheck_Analyzer(solid).IsValid() else None


def sewn_solid(sides: Sequence[Any], plane: bool = False) -> Any:
    """The solid within sides that close; ``None`` where they do not. Its sides look outward; where
    all are ``plane`` that is sooner found out."""
    from OCP.BRepBuilderAPI import BRepBuilderAPI_MakeSolid
    from OCP.TopAbs import TopAbs_ShapeEnum

    shell = sides[0] if len(sides) == 1 else _sewn(sides)
    if shell.ShapeType() != TopAbs_ShapeEnum.TopAbs_SHELL:
        return None
    solid = BRepBuilderAPI_MakeSolid(_cast("Shell", shell)).Solid()
    return solid.Reversed() if _volume(solid, plane) < 0 else solid


def _cast(kind: str, shape: Any) -> Any:
    from OCP.TopoDS import TopoDS

    return (getattr(TopoDS, f"{kind}_s", None) or getattr(TopoDS, kind))(shape)


def _shell_of(face: Any) -> Any:
    from OCP.BRep import BRep_Builder
    from OCP.TopoDS import TopoDS_Shell

    shell, builder = TopoDS_Shell(), BRep_Builder()
    builder.MakeShell(shell)
    builder.Add(shell, face)
    shell.Closed(True)
    return shell


def _volume(solid: Any, plane: bool = False) -> float:
    """Volume (m³), below 0 where it is inside out, of a solid whose faces are ``plane`` or not."""
    from OCP.BRepGProp import BRepGProp
    from OCP.GProp import GProp_GProps

    found = GProp_GProps()
    measure = getattr(BRepGProp, "VolumeProperties_s", None) or BRepGProp.VolumeProperties
    if plane:
        measure(solid, found)
    else:
        measure(solid, found, 1e-6)
    return float(found.Mass()) / MM**3


def _open_wires(shape: Any) -> list[Any]:
    """Closed runs of edges that belong to one face alone."""
    from OCP.ShapeAnalysis import ShapeAnalysis_FreeBounds
    from OCP.TopAbs import TopAbs_ShapeEnum
    from OCP.TopExp import TopExp_Explorer

    found = TopExp_Explorer(
        ShapeAnalysis_FreeBounds(shape, SEWN, False, False).GetClosedWires(),
        TopAbs_ShapeEnum.TopAbs_WIRE,
    )
    out = []
    while found.More():
        out.append(_cast("Wire", found.Current()))
        found.Next()
    return out


def _faces_in(wires: Sequence[Any]) -> list[Any]:
    """Plane faces within wires; those that lie within another in one plane are its openings."""
    from OCP.BRepBuilderAPI import BRepBuilderAPI_FindPlane, BRepBuilderAPI_MakeFace

    planes: list[tuple[Any, list[Any]]] = []
    for wire in wires:
        found = BRepBuilderAPI_FindPlane(wire, SEWN)
        if not found.Found():
            continue
        plane = found.Plane().Pln()
        for other, own in planes:
            apart = other.Distance(plane.Location())
            if apart < SEWN and other.Axis().IsParallel(plane.Axis(), 1e-6):
                own.append(wire)
                break
        else:
            planes.append((plane, [wire]))
    out = []
    for plane, own in planes:
        own.sort(key=_reach, reverse=True)
        made = BRepBuilderAPI_MakeFace(plane, own[0], True)
        for hole in own[1:]:
            made.Add(_cast("Wire", hole.Reversed()))
        out.append(_righted(made.Face()))
    return out


def _righted(face: Any) -> Any:
    """The face with its openings turned as they have to be."""
    from OCP.ShapeFix import ShapeFix_Face

    fixed = ShapeFix_Face(face)
    fixed.FixOrientation()
    return fixed.Face()


def _reach(wire: Any) -> float:
    from OCP.Bnd import Bnd_Box
    from OCP.BRepBndLib import BRepBndLib

    box = Bnd_Box()
    (getattr(BRepBndLib, "Add_s", None) or BRepBndLib.Add)(wire, box)
    return float(box.SquareExtent())


def _plane_faces(body: Body) -> list[Any] | None:
    """Plane walls of a body with straight edges, as faces; those with curved edges close what is
    open otherwise. ``None`` where there are too many."""
    from OCP.BRepBuilderAPI import BRepBuilderAPI_MakeFace, BRepBuilderAPI_MakePolygon
    from OCP.gp import gp_Pnt

    mesh = body.mesh
    flat = np.flatnonzero(body.face_of < 0)
    if not len(flat):
        return []
    group = _plane_groups(body, flat)
    if group.max() >= MOST_FACES:
        return None
    out = []
    for k in range(group.max() + 1):
        own = mesh.triangles[flat[group == k]]
        twin = half_edges(own, len(mesh.vertices))[0]
        border = np.flatnonzero(twin < 0)
        ends = own.ravel()[border], np.roll(own, -1, axis=1).ravel()[border]
        middle = (mesh.vertices[ends[0]] + mesh.vertices[ends[1]]) / 2
        curved = [bool(_beside(face, mesh.vertices, ends, middle).any()) for face in body.faces]
        following = dict(zip(ends[0].tolist(), ends[1].tolist(), strict=True))
        ring = [int(ends[0][0])]
        while (after := following[ring[-1]]) != ring[0] and len(ring) <= len(following):
            ring.append(after)
        if any(curved) or len(ring) != len(following):
            continue
        polygon = BRepBuilderAPI_MakePolygon()
        for at in mesh.vertices[ring] * MM:
            polygon.Add(gp_Pnt(*at.tolist()))
        polygon.Close()
        out.append(BRepBuilderAPI_MakeFace(polygon.Wire(), True).Face())
    return out


def _plane_groups(body: Body, flat: NDArray[np.int64]) -> NDArray[np.integer]:
    """Which connected plane piece each of the triangles ``flat`` (n,) is of."""
    mesh = body.mesh
    crosses = mesh.triangle_crosses[flat]
    unit = crosses / np.maximum(np.linalg.norm(crosses, axis=1, keepdims=True), 1e-300)
    off = np.einsum("ij,ij->i", unit, mesh.vertices[mesh.triangles[flat, 0]])
    plane = np.round(np.column_stack([unit, off / max(float(mesh.extent.max()), 1e-9)]), 6) + 0.0
    which = np.unique(plane, axis=0, return_inverse=True)[1].ravel()
    count = len(mesh.vertices)
    # Triangles of different planes share no corner here, so that they are not connected.
    apart = mesh.triangles[flat].astype(np.int64) + which[:, None] * count
    number = np.unique(apart, return_inverse=True)[1].reshape(-1, 3).astype(np.int32)
    return pieces(number, int(number.max()) + 1)


def _beside(face: Any, vertices: Array, ends: tuple[Any, Any], middle: Array) -> NDArray[np.bool_]:
    """Which edges have both ends on a face but bulge less than it."""
    on = np.ones(len(middle), bool)
    for end in ends:
        on &= np.linalg.norm(face.nearest(vertices[end])[1] - vertices[end], axis=1) < STRAIGHT
    off = np.linalg.norm(face.nearest(middle)[1] - middle, axis=1)
    return np.asarray(on & (off > STRAIGHT))


def write_step(path: Path, named: Sequence[tuple[str, Any]]) -> None:
    """Writes exact forms, in millimetres, each as a product of its name."""
    from OCP.IFSelect import IFSelect_ReturnStatus
    from OCP.Interface import Interface_Static
    from OCP.STEPControl import STEPControl_StepModelType, STEPControl_Writer

    silenced()
    writer = STEPControl_Writer()
    for name, form in named:
        # Kept by the package for all that is written after, so each needs a name.
        Interface_Static.SetCVal_s("write.step.product.name", name)
        writer.Transfer(form, STEPControl_StepModelType.STEPControl_AsIs)
    if writer.Write(str(path)) != IFSelect_ReturnStatus.IFSelect_RetDone:
        raise OSError(f"{path.name} could not be written")
    text = path.read_text(encoding="utf-8")
    # The time of day would make the same statement give other bytes.
    text = re.sub(r"'\d{4}-\d\d-\d\dT[\d:]+'", "'2000-01-01T00:00:00'", text, count=1)
    # So would the count of what the package has written so far, which it adds to each name.
    path.write_text(NUMBERED.sub(r"PRODUCT('\1',\2'\1',", text), encoding="utf-8")
