"""STEP: shapes in their exact form."""

from __future__ import annotations

import re
from pathlib import Path
from typing import Any

import numpy as np

from ..core.geometry.exact import spline_surface
from ..core.geometry.surfaces import Dome, Loft, Surface

__all__ = ["has_exact_form", "silenced", "write_step"]


def has_exact_form(surface: Surface) -> bool:
    return isinstance(surface, Loft | Dome)


def silenced() -> None:
    """Keeps the package from talking to the terminal."""
    from OCP.Message import Message

    messenger = (getattr(Message, "DefaultMessenger_s", None) or Message.DefaultMessenger)()
    for printer in list(messenger.Printers()):
        messenger.RemovePrinter(printer)


def _spline_face(surface: Loft) -> Any:
    from OCP.BRepBuilderAPI import BRepBuilderAPI_MakeFace
    from OCP.collections import Array1_double, Array1_int, Array2_gp_Pnt
    from OCP.Geom import Geom_BSplineSurface
    from OCP.gp import gp_Pnt

    exact = spline_surface(surface)
    n, m, _ = exact.control.shape
    poles = Array2_gp_Pnt(1, n, 1, m)
    for i in range(n):
        for j in range(m):
            # This format counts in millimetres.
            poles.SetValue(i + 1, j + 1, gp_Pnt(*(float(c) * 1000 for c in exact.control[i, j])))

    def knots(values: np.ndarray[Any, Any]) -> tuple[Any, Any]:
        different, counts = np.unique(values, return_counts=True)
        reals, integers = Array1_double(1, len(different)), Array1_int(1, len(different))
        for k, (value, count) in enumerate(zip(different, counts, strict=True), 1):
            reals.SetValue(k, float(value))
            integers.SetValue(k, int(count))
        return reals, integers

    (ku, mu), (kv, mv) = knots(exact.knots_u), knots(exact.knots_v)
    spline = Geom_BSplineSurface(
        poles, ku, kv, mu, mv, exact.degree_u, exact.degree_v, False, False
    )
    return BRepBuilderAPI_MakeFace(spline, 1e-6).Face()


def _cap_face(surface: Dome) -> Any:
    from OCP.BRepBuilderAPI import BRepBuilderAPI_MakeFace
    from OCP.gp import gp_Ax3, gp_Dir, gp_Pnt, gp_Sphere

    centre = gp_Pnt(*(float(c) * 1000 for c in surface.centre))
    sphere = gp_Sphere(gp_Ax3(centre, gp_Dir(0, 0, 1)), surface.radius * 1000)
    edge = np.pi / 2 - surface.half_angle
    return BRepBuilderAPI_MakeFace(sphere, 0.0, 2 * np.pi, edge, np.pi / 2).Face()


def write_step(path: Path, surfaces: list[Surface]) -> None:
    """Writes the faces of surfaces that have an exact form, in millimetres."""
    from OCP.IFSelect import IFSelect_ReturnStatus
    from OCP.STEPControl import STEPControl_StepModelType, STEPControl_Writer

    silenced()
    writer = STEPControl_Writer()
    for surface in surfaces:
        face = _spline_face(surface) if isinstance(surface, Loft) else _cap_face(surface)  # type: ignore[arg-type]
        if surface.flipped:
            face = face.Reversed()
        writer.Transfer(face, STEPControl_StepModelType.STEPControl_AsIs)
    if writer.Write(str(path)) != IFSelect_ReturnStatus.IFSelect_RetDone:
        raise OSError(f"{path.name} could not be written")
    text = path.read_text(encoding="utf-8")
    # The time of day would make the same statement give other bytes.
    text = re.sub(r"'\d{4}-\d\d-\d\dT[\d:]+'", "'2000-01-01T00:00:00'", text, count=1)
    # So would the writer's count of what it has written so far.
    path.write_text(re.sub(r"(STEP translator [\d.]+) [\d.]+", r"\1", text), encoding="utf-8")
