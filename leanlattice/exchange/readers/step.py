"""STEP: exact faces, and their triangles."""

from __future__ import annotations

import tempfile
from dataclasses import dataclass
from pathlib import Path
from typing import Any

import numpy as np
from numpy.typing import NDArray

from ...core.geometry.rational import RationalSpline
from ...core.geometry.regions import Region
from ...core.shaping.brought import Loose, ReadProblem
from ..step import silenced

__all__ = ["Measured", "measured_step", "read_step"]

DEFLECTION = 2e-4
"""How far triangles may lie from the exact faces, as a share of the extent."""
CLOSE = 1e-5
"""Share by which measures may be off."""
MOST_FACES = 5_000
Array = NDArray[np.float64]


def _shape(content: bytes) -> Any:
    from OCP.IFSelect import IFSelect_ReturnStatus
    from OCP.STEPControl import STEPControl_Reader

    if not content.lstrip()[:20].startswith(b"ISO-10303-21"):
        raise ReadProblem("it does not begin as a STEP file does.")
    if b"END-ISO-10303-21" not in content[-4000:]:
        raise ReadProblem("it ends before its end; it was cut off on its way.")
    silenced()
    with tempfile.NamedTemporaryFile(suffix=".step") as file:
        Path(file.name).write_bytes(content)
        reader = STEPControl_Reader()
        if reader.ReadFile(file.name) != IFSelect_ReturnStatus.IFSelect_RetDone:
            raise ReadProblem("it cannot be read as STEP.")
        reader.TransferRoots()
        shape = reader.OneShape()
    if shape is None or shape.IsNull():
        raise ReadProblem("it holds no faces.")
    return shape


@dataclass(frozen=True, eq=False)
class Measured:
    """Area (m²) of all faces of a file and volume (m³) of all its solids, and between which corners
    ``low`` and ``high`` (3,) they lie, in metres."""

    area: float
    volume: float
    low: Array
    high: Array


def measured_step(content: bytes) -> Measured:
    """A file measured in its exact form."""
    from OCP.Bnd import Bnd_Box
    from OCP.BRepBndLib import BRepBndLib
    from OCP.BRepGProp import BRepGProp
    from OCP.GProp import GProp_GProps
    from OCP.TopAbs import TopAbs_ShapeEnum
    from OCP.TopExp import TopExp_Explorer

    shape = _shape(content)
    area, box, volume = GProp_GProps(), Bnd_Box(), 0.0
    BRepGProp.SurfaceProperties_s(shape, area, CLOSE)
    BRepBndLib.AddOptimal_s(shape, box, False, False)
    solids = TopExp_Explorer(shape, TopAbs_ShapeEnum.TopAbs_SOLID)
    while solids.More():
        one = GProp_GProps()
        BRepGProp.VolumeProperties_s(solids.Current(), one, CLOSE)
        volume += float(one.Mass()) / 1e9
        solids.Next()
    low, high = (
        np.array([corner.X(), corner.Y(), corner.Z()]) / 1000
        for corner in (box.CornerMin(), box.CornerMax())
    )
    return Measured(float(area.Mass()) / 1e6, volume, low, high)


def _faces(shape: Any) -> list[Any]:
    from OCP.TopAbs import TopAbs_ShapeEnum
    from OCP.TopExp import TopExp_Explorer
    from OCP.TopoDS import TopoDS

    out, explorer = [], TopExp_Explorer(shape, TopAbs_ShapeEnum.TopAbs_FACE)
    face_of = getattr(TopoDS, "Face_s", None) or TopoDS.Face
    while explorer.More():
        out.append(face_of(explorer.Current()))
        explorer.Next()
    if not out:
        raise ReadProblem("it holds no faces.")
    if len(out) > MOST_FACES:
        raise ReadProblem(f"it holds {len(out):,} faces; at most {MOST_FACES:,} are read.")
    return out


def read_step(content: bytes, ending: str) -> Loose:
    """All faces of a file: exact, in metres, and as triangles in millimetres."""
    shape = _shape(content)
    from OCP.BRepBuilderAPI import BRepBuilderAPI_NurbsConvert

    # Of faces that have triangles already only these are converted.
    exact = BRepBuilderAPI_NurbsConvert(shape, True).Shape()
    faces = tuple(_exact(face) for face in _faces(exact))
    vertices, triangles = _triangles(shape)
    return Loose(vertices, triangles, 1e-3, faces)


def _triangles(shape: Any) -> tuple[Array, NDArray[np.int32]]:
    from OCP.Bnd import Bnd_Box
    from OCP.BRep import BRep_Tool
    from OCP.BRepBndLib import BRepBndLib
    from OCP.BRepMesh import BRepMesh_IncrementalMesh
    from OCP.TopAbs import TopAbs_Orientation
    from OCP.TopLoc import TopLoc_Location

    box = Bnd_Box()
    BRepBndLib.Add_s(shape, box)
    low, high = box.CornerMin(), box.CornerMax()
    size = max(high.X() - low.X(), high.Y() - low.Y(), high.Z() - low.Z())
    BRepMesh_IncrementalMesh(shape, DEFLECTION * size, False, 0.2, False)
    vertices, triangles, base = [], [], 0
    for face in _faces(shape):
        location = TopLoc_Location()
        mesh = BRep_Tool.Triangulation_s(face, location)
        if mesh is None:
            continue
        move = location.Transformation()
        for k in range(1, mesh.NbNodes() + 1):
            p = mesh.Node(k).Transformed(move)
            vertices.append((p.X(), p.Y(), p.Z()))
        turned = face.Orientation() == TopAbs_Orientation.TopAbs_REVERSED
        for k in range(1, mesh.NbTriangles() + 1):
            t = mesh.Triangle(k)
            a, b, c = (t.Value(i) - 1 + base for i in (1, 2, 3))
            triangles.append((a, c, b) if turned else (a, b, c))
        base = len(vertices)
    if not triangles:
        raise ReadProblem("its faces cannot be divided into triangles.")
    return np.array(vertices), np.array(triangles, np.int32)


def _exact(face: Any) -> RationalSpline:
    from OCP.BRep import BRep_Tool
    from OCP.BRepTools import BRepTools
    from OCP.Geom import Geom_BSplineSurface
    from OCP.GeomConvert import GeomConvert
    from OCP.TopAbs import TopAbs_Orientation

    surface = BRep_Tool.Surface_s(face)
    if surface is None:
        raise ReadProblem(
            "one of its faces has no exact form, only triangles; as an STL it could be brought in."
        )
    spline = (
        surface
        if isinstance(surface, Geom_BSplineSurface)
        else GeomConvert.SurfaceToBSplineSurface_s(surface)
    )
    if spline.IsUPeriodic():
        spline.SetUNotPeriodic()
    if spline.IsVPeriodic():
        spline.SetVNotPeriodic()
    n, m = spline.NbUPoles(), spline.NbVPoles()
    control, weights = np.empty((n, m, 3)), np.empty((n, m))
    for i in range(n):
        for j in range(m):
            p = spline.Pole(i + 1, j + 1)
            control[i, j] = p.X() / 1000, p.Y() / 1000, p.Z() / 1000
            weights[i, j] = spline.Weight(i + 1, j + 1)
    knots_u = np.concatenate(
        [[spline.UKnot(k)] * spline.UMultiplicity(k) for k in range(1, spline.NbUKnots() + 1)]
    )
    knots_v = np.concatenate(
        [[spline.VKnot(k)] * spline.VMultiplicity(k) for k in range(1, spline.NbVKnots() + 1)]
    )
    u0, u1, v0, v1 = BRepTools.UVBounds_s(face)
    # Bounds come a hair too wide.
    u0, u1 = max(u0, knots_u[0]), min(u1, knots_u[-1])
    v0, v1 = max(v0, knots_v[0]), min(v1, knots_v[-1])
    return RationalSpline(
        control,
        weights,
        knots_u,
        knots_v,
        spline.UDegree(),
        spline.VDegree(),
        (u0, u1),
        (v0, v1),
        _domain(face, (u0, u1), (v0, v1)),
        face.Orientation() == TopAbs_Orientation.TopAbs_REVERSED,
    )


def _domain(face: Any, range_u: tuple[float, float], range_v: tuple[float, float]) -> Region | None:
    """The part of its rectangle a face covers, from the curves of its wires; ``None`` where that is
    all of it."""
    from OCP.BRep import BRep_Tool
    from OCP.BRepTools import BRepTools_WireExplorer
    from OCP.Geom2dAdaptor import Geom2dAdaptor_Curve
    from OCP.GeomAbs import GeomAbs_CurveType
    from OCP.TopAbs import TopAbs_Orientation, TopAbs_ShapeEnum
    from OCP.TopExp import TopExp_Explorer
    from OCP.TopoDS import TopoDS

    wire_of = getattr(TopoDS, "Wire_s", None) or TopoDS.Wire
    rings = []
    wires = TopExp_Explorer(face, TopAbs_ShapeEnum.TopAbs_WIRE)
    while wires.More():
        points: list[tuple[float, float]] = []
        edges = BRepTools_WireExplorer(wire_of(wires.Current()), face)
        while edges.More():
            edge = edges.Current()
            curve = BRep_Tool.CurveOnSurface_s(edge, face, 0.0, 0.0)
            straight = Geom2dAdaptor_Curve(curve).GetType() == GeomAbs_CurveType.GeomAbs_Line
            first, last = BRep_Tool.Range_s(edge, face)
            t = np.linspace(first, last, 2 if straight else 161)
            if edges.Orientation() == TopAbs_Orientation.TopAbs_REVERSED:
                t = t[::-1]
            for x in t:
                p = curve.Value(float(x))
                points.append((p.X(), p.Y()))
            edges.Next()
        if len(points) >= 3:
            ring = (np.array(points) - [range_u[0], range_v[0]]) / [
                range_u[1] - range_u[0],
                range_v[1] - range_v[0],
            ]
            keep = np.linalg.norm(np.roll(ring, -1, axis=0) - ring, axis=1) > 1e-7
            rings.append(np.clip(ring[keep], 0.0, 1.0))
        wires.Next()
    if not rings:
        return None
    region = Region.of(rings)
    return None if not region.openings and abs(region.polygon.area - 1) < 1e-6 else region
