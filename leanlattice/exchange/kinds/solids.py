"""Solids of materials: how they are drawn, listed and written."""

from __future__ import annotations

from collections.abc import Iterator
from typing import Any

import numpy as np

from ...core.geometry.meshes import Body
from ...core.materials import MATERIALS
from ...core.shaping.facets import facets
from ...core.solids.solids import Solids
from ..subjects import Subject
from ..tables import Table, rounded
from .amounts import Amounts, materials_of
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
    looks_of,
    narrow,
)

__all__ = ["KIND", "drawing_by_name", "drawing_of_solids", "solids_at_nodes"]


def drawing_of_solids(solids: Solids) -> Drawing:
    shown = facets(Body(solids.whole))
    words = {
        "groups": list(solids.groups) or ["all"],
        "materials": [MATERIALS[name].title for name in solids.materials],
    }
    told = {
        "labels": solids.labels,
        "words": words,
    } | looks_of(solids.materials)
    arrays = {
        "positions": shown.points.astype("<f4"),
        "normals": np.round(shown.normals * 127).astype("i1"),
        "triangles": narrow(shown.triangles),
        "lines": narrow(shown.borders),
        "owner": narrow(solids.owner),
        "middles": solids.middles.astype("<f4"),
        "solidMaterial": narrow(solids.material_of),
    }
    if solids.sides is not None:
        side = np.zeros(len(shown.points), np.uint8)
        side[shown.triangles] = solids.sides[:, None]
        arrays["pointSide"] = side
    if solids.group is not None:
        arrays["solidGroup"] = narrow(solids.group)
    return told, arrays


def drawing_by_name(labels: list[str], solids: Solids) -> Drawing:
    """Solids drawn by ``labels`` of their own."""
    told, arrays = drawing_of_solids(solids)
    return told | {"labels": labels}, arrays


def solids_at_nodes(labels: list[str], solids: Solids) -> Iterator[Solid]:
    """Solids at nodes by ``labels`` of their own, one by one."""
    for label, body in zip(labels, solids.bodies, strict=True):
        yield Solid(label, "node", body.mesh.vertices, body.mesh.triangles)


def _measured(solids: Solids) -> Arrays:
    group = np.zeros(solids.count) if solids.group is None else solids.group
    return {
        "volume": solids.volumes,
        "mass": solids.masses,
        "solidType": solids.type_of.astype(float),
        "solidMaterial": solids.material_of.astype(float),
        "solidGroup": group.astype(float),
    }


def _picture(solids: Solids) -> Picture:
    shown = facets(Body(solids.whole))
    lines = [shown.points[edge] for edge in shown.borders]
    return Picture(solids.vertices, solids.triangles, lines)


def _table(subject: Subject) -> Table:
    solids: Solids = subject.result
    title = [MATERIALS[name].title for name in solids.materials]
    columns: dict[str, list[Any]] = {
        "label": solids.labels,
        "type": solids.type_labels(),
        "group": solids.group_labels(),
        "material": [title[k] for k in solids.material_of.tolist()],
        "skin_mm": [round(solids.skin * 1000, 4)] * solids.count,
        "volume_m3": rounded(solids.volumes, 9),
        "area_m2": rounded(solids.areas, 6),
        "mass_kg": rounded(solids.masses, 6),
    }
    columns |= {f"centroid_{a}_m": rounded(solids.middles[:, k], 6) for k, a in enumerate("xyz")}
    for k, way in enumerate(("along", "up", "through")):
        columns[f"size_{way}_mm"] = rounded(solids.sizes[:, k] * 1000, 3)
    for k, way in enumerate(("along", "up")):
        columns |= {f"{way}_{a}": rounded(solids.axes[:, k, i], 8) for i, a in enumerate("xyz")}
    return Table("solid", columns, list(range(solids.count)))


def _solids(subject: Subject) -> Iterator[Solid]:
    solids: Solids = subject.result
    for label, body in zip(solids.labels, solids.bodies, strict=True):
        yield Solid(label, "shape", body.mesh.vertices, body.mesh.triangles)


def _building(model: BuildingModel, subject: Subject) -> None:
    """Solids as proxies, each of its type; those with air in them as coverings of their foil."""
    solids: Solids = subject.result
    title = [MATERIALS[name].title for name in solids.materials]
    types, of = solids.type_labels(), solids.material_of.tolist()
    groups, middles, axes = solids.group_labels(), solids.middles, solids.axes
    for k, solid in enumerate(_solids(subject)):
        model.add_faced(
            "IfcCovering" if solids.skin else "IfcBuildingElementProxy",
            solid.name,
            types[k],
            solid.vertices,
            solid.triangles,
            title[of[k]],
            "MEMBRANE" if solids.skin else "ELEMENT",
            frame=(middles[k], axes[k]),
            layer=solids.skin,
        )
        model.describe(groups[k])


def _amounts(subject: Subject) -> Amounts:
    solids: Solids = subject.result
    return Amounts(
        "solid",
        [solids.materials[k] for k in solids.material_of.tolist()],
        solids.type_of.tolist(),
        solids.masses,
        area=solids.areas,
        volume=None if solids.skin else solids.volumes,
    )


KIND = Kind(
    "Solids",
    layers=(Layer("solids", "Solids", "solid", shown=True),),
    drawn=drawing_of_solids,
    measures=(
        Measure("volume", "volume of a solid", "m³", "solids", "solid", digits=3, total=True),
        Measure("mass", "mass of a solid", "kg", "solids", "solid", digits=0, total=True),
        Measure(
            "solidGroup", "group of solids", "", "solids", "solid", spread=False, words="groups"
        ),
        Measure("solidType", "type of a solid", "", "solids", "solid", digits=0),
        Measure(
            "solidMaterial",
            "material of solids",
            "",
            "solids",
            "solid",
            spread=False,
            words="materials",
        ),
    ),
    measured=_measured,
    measured_later=True,
    schedules=(
        Schedule("bodies", _table, "Solids", ("Solids",), "solid"),
        materials_of(_amounts),
    ),
    solids=_solids,
    building=_building,
    picture=_picture,
    card={"solids": "solids", "mass": "mass"},
)
