"""Shapes: surfaces and bodies."""

from __future__ import annotations

from collections.abc import Iterator
from typing import Any

import numpy as np
from numpy.typing import NDArray

from ...core.geometry.meshes import Body, Mesh
from ...core.geometry.surfaces import Surface
from ...core.shaping.facets import facets
from ...core.shaping.onto import finer, measures
from ..subjects import Subject
from ..tables import Table, table_of_rows
from .kind import (
    UNSPECIFIED,
    Arrays,
    BuildingModel,
    Drawing,
    Kind,
    Layer,
    Measure,
    Picture,
    Schedule,
    Solid,
    narrow,
)

__all__ = ["KIND", "exact_form_of", "written_mesh"]

OFF, MOST_TRIANGLES = 5e-4, 40_000
"""How far (m) triangles of a body that are written lie from its curved faces, as long as there are
no more of them."""


def written_mesh(shape: Surface | Body) -> Mesh:
    """The triangles of a shape; those of a body within ``OFF`` of its faces where
    ``MOST_TRIANGLES`` suffice."""
    if isinstance(shape, Body) and shape.faces:
        return finer(shape, OFF, MOST_TRIANGLES).mesh
    return facets(shape).mesh


def exact_form_of(shape: Surface | Body) -> Any:
    """The exact form of a shape for STEP; ``None`` where triangles are all there is."""
    from ..step import exact_form

    return exact_form(shape)


def _delivered(subject: Subject) -> bool:
    """Whether a shape is written: nothing was made of it, ribs are cut from it, or it has an exact
    form. What other shapes are made of is not what is built."""
    if subject.ends or "Ribs" in subject.made:
        return True
    return subject.head and subject.once(exact_form_of) is not None


def _drawn(shape: Surface | Body) -> Drawing:
    shown = facets(shape)
    return {"body": isinstance(shape, Body)}, {
        "positions": shown.points.astype("<f4"),
        "normals": np.round(shown.normals * 127).astype("i1"),
        "triangles": narrow(shown.triangles),
        "borders": narrow(shown.borders),
        "lines": narrow(shown.lines),
    }


def _measured(shape: Surface | Body) -> Arrays:
    shown = facets(shape)
    gauss, mean = shown.curvatures.T
    return {"slope": np.degrees(shown.slopes), "gauss": gauss, "mean": mean}


def _picture(shape: Surface | Body) -> Picture:
    shown = facets(shape)
    lines = [shown.points[e] for e in (*shown.borders, *shown.lines)]
    return Picture(shown.mesh.vertices, shown.mesh.triangles, lines)


def _centroid(mesh: Mesh, closed: bool) -> NDArray[np.float64]:
    """Middle (3,) of a body's volume, or of a surface's area."""
    corner = mesh.vertices[mesh.triangles]
    if closed:
        weight = np.einsum("ij,ij->i", corner[:, 0], np.cross(corner[:, 1], corner[:, 2])) / 6
        middle = corner.sum(axis=1) / 4
    else:
        weight = np.linalg.norm(mesh.triangle_crosses, axis=1) / 2
        middle = corner.mean(axis=1)
    return np.asarray(weight @ middle / weight.sum())


def _bodies(subject: Subject) -> Table:
    """Bodies and surfaces with their volumes, areas and middles, as their triangles have them, and
    of bodies with curved faces as these are."""
    shape = subject.result
    mesh, closed = subject.once(written_mesh), isinstance(shape, Body)
    faced = isinstance(shape, Body) and bool(shape.faces)
    exact = [round(m, 9) for m in measures(shape)] if faced else ["", ""]
    places = np.concatenate(
        [_centroid(mesh, closed), mesh.vertices.min(axis=0), mesh.vertices.max(axis=0)]
    )
    head = ["label", "kind", "volume_m3", "area_m2"]
    head += [f"{of}_{a}_m" for of in ("centroid", "low", "high") for a in "xyz"]
    head += ["triangles", "exact", "exact_volume_m3", "exact_area_m2"]
    row = [
        subject.clause,
        "body" if closed else "surface",
        round(Body(mesh).volume, 9) if closed else "",
        round(mesh.area, 6),
        *(np.round(places, 6) + 0.0).tolist(),
        len(mesh.triangles),
        int(subject.once(exact_form_of) is not None),
        *exact,
    ]
    return table_of_rows(head, [row])


def _solids(subject: Subject) -> Iterator[Solid]:
    if subject.ends:
        mesh = subject.once(written_mesh)
        yield Solid(subject.clause, "shape", mesh.vertices, mesh.triangles)


def _building(model: BuildingModel, subject: Subject) -> None:
    if not subject.ends:
        return
    mesh, closed = subject.once(written_mesh), isinstance(subject.result, Body)
    model.add_faced(
        "IfcBuildingElementProxy",
        subject.clause,
        "body" if closed else "surface",
        mesh.vertices,
        mesh.triangles,
        UNSPECIFIED,
        "ELEMENT",
        closed,
    )


KIND = Kind(
    "Shape",
    layers=(
        Layer("surface", "Shape", alone=True),
        Layer("lines", "Lines of u and v", shown=True, over="surface"),
    ),
    drawn=_drawn,
    measures=(
        Measure(
            "slope", "slope of the shape", "° from level", "surface", bounds=(0, 90), spread=False
        ),
        Measure("gauss", "Gaussian curvature", "1/m²", "surface", even=True, spread=False),
        Measure("mean", "mean curvature", "1/m", "surface", even=True, spread=False),
    ),
    measured=_measured,
    measured_later=True,
    schedules=(Schedule("solids", _bodies, group="solids"),),
    solids=_solids,
    building=_building,
    picture=_picture,
    delivered=_delivered,
    card={"area": "area"},
)
