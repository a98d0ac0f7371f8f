"""Solids of a material."""

from __future__ import annotations

from collections.abc import Iterator
from typing import Any

import numpy as np

from ...core.materials import MATERIALS
from ...core.shaping.facets import facets
from ...core.shaping.separate import Solids
from ..subjects import Subject
from ..tables import Table, rounded
from .kind import (
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

__all__ = ["KIND"]


def _drawn(solids: Solids) -> Drawing:
    shown = [facets(body) for body in solids.bodies]
    points = np.array([len(f.points) for f in shown])
    before = np.concatenate([[0], np.cumsum(points)[:-1]])
    pairs = zip(shown, before, strict=True)
    triangles = [f.triangles + n for f, n in pairs]
    borders = [f.borders + n for f, n in zip(shown, before, strict=True)]
    counts = [len(f.triangles) for f in shown]
    return {"labels": solids.labels, "material": solids.material}, {
        "positions": np.vstack([f.points for f in shown]).astype("<f4"),
        "normals": np.round(np.vstack([f.normals for f in shown]) * 127).astype("i1"),
        "triangles": narrow(np.vstack(triangles)),
        "lines": narrow(np.vstack(borders)),
        "owner": narrow(np.repeat(np.arange(len(shown)), counts)),
    }


def _measured(solids: Solids) -> Arrays:
    return {"volume": solids.volumes, "mass": solids.masses}


def _picture(solids: Solids) -> Picture:
    shown = [facets(body) for body in solids.bodies]
    sizes = np.cumsum([0, *(len(f.mesh.vertices) for f in shown)])
    triangles = [f.mesh.triangles + n for f, n in zip(shown, sizes[:-1], strict=True)]
    lines = [f.points[e] for f in shown for e in f.borders]
    places = np.vstack([f.mesh.vertices for f in shown])
    return Picture(places, np.vstack(triangles).astype(np.int32), lines)


def _table(subject: Subject) -> Table:
    solids: Solids = subject.result
    columns: dict[str, list[Any]] = {
        "label": solids.labels,
        "material": [MATERIALS[solids.material].title] * len(solids.bodies),
        "volume_m3": rounded(solids.volumes, 9),
        "area_m2": rounded(solids.areas, 6),
        "mass_kg": rounded(solids.masses, 3),
    }
    columns |= {f"centroid_{a}_m": rounded(solids.middles[:, k], 6) for k, a in enumerate("xyz")}
    return Table("solid", columns, list(range(len(solids.bodies))))


def _solids(subject: Subject) -> Iterator[Solid]:
    solids: Solids = subject.result
    for label, body in zip(solids.labels, solids.bodies, strict=True):
        yield Solid(label, "shape", body.mesh.vertices, body.mesh.triangles)


def _building(model: BuildingModel, subject: Subject) -> None:
    material = MATERIALS[subject.result.material].title
    for solid in _solids(subject):
        named = ("IfcBuildingElementProxy", solid.name, "solid")
        model.add_faced(*named, solid.vertices, solid.triangles, material, "ELEMENT")


KIND = Kind(
    "Solids",
    layers=(Layer("solids", "Solids", "solid", shown=True),),
    drawn=_drawn,
    measures=(
        Measure("volume", "volume of a solid", "m³", "solids", "solid", digits=3, total=True),
        Measure("mass", "mass of a solid", "kg", "solids", "solid", digits=0, total=True),
    ),
    measured=_measured,
    schedules=(Schedule("bodies", _table, "Solids", ("Solids",), "solid"),),
    solids=_solids,
    building=_building,
    picture=_picture,
    card={"solids": "solids", "mass": "mass"},
)
