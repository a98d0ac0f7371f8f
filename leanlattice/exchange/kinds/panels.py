"""Panels: how they are drawn, named and written."""

from __future__ import annotations

import itertools
from collections.abc import Iterator
from typing import Any

import numpy as np
from numpy.typing import NDArray

from ...core.geometry.prisms import prism
from ...core.materials import MATERIALS
from ...core.panels.names import names_of_panels
from ...core.panels.panels import Panels, Sheet
from ...core.panels.seats import nodes_of_corners
from ...core.panels.valleys import fold_angles
from ...core.structure.names import names_of_structure
from ..subjects import Subject
from ..tables import Table, rounded
from .amounts import Amounts, materials_of
from .flat import PARTS, POSES, larger_than_any_sheet
from .kind import (
    Arrays,
    BuildingModel,
    Drawing,
    Kind,
    Layer,
    Measure,
    NotMade,
    Picture,
    Schedule,
    Solid,
    narrow,
)
from .nets import cuts_of_polygons

__all__ = ["KIND"]


def _drawn(panels: Panels) -> Drawing:
    of = [MATERIALS[sheet.material] for sheet in panels.sheets]
    told = {
        "raised": panels.raised,
        "looks": [list(material.look) for material in of],
        "clear": [material.clear for material in of],
        "words": {"sheets": [_sheet_text(sheet) for sheet in panels.sheets]},
    }
    middles = np.add.reduceat(panels.places[panels.corners], panels.offsets[:-1], axis=0)
    return told, {
        "positions": panels.places.astype("<f4"),
        "corners": narrow(panels.corners),
        "counts": narrow(np.diff(panels.offsets)),
        "sheetOf": narrow(panels.sheet_of),
        "middles": (middles / np.diff(panels.offsets)[:, None]).astype("<f4"),
    } | cuts_of_polygons(panels.places, panels.corners, panels.offsets)


def _sheet_text(sheet: Sheet) -> str:
    return f"{sheet.thickness * 1000:g} mm {MATERIALS[sheet.material].title}"


def _measured(panels: Panels) -> Arrays:
    return {
        "flatness": panels.flatness,
        "area": panels.areas,
        "panelMass": panels.masses,
        "panelSheet": panels.sheet_of.astype(float),
    }


def _picture(panels: Panels) -> Picture:
    return Picture(panels.places, None, [panels.places[side] for side in panels.sides])


def _named(panels: Panels) -> Drawing:
    names = names_of_panels(panels)
    return {"prefixes": names.prefixes}, {"panel": narrow(names.panel)}


def _corners(subject: Subject) -> list[str]:
    """Labels of the nodes at the corners of each panel, in a row, and places in metres of corners
    that are at none, as of tips; empty without a structure."""
    panels: Panels = subject.result
    if subject.structure is None:
        return [""] * panels.count
    structure = subject.structure.result
    label = [*subject.structure.once(names_of_structure).every_node, ""]
    node = nodes_of_corners(panels, structure)[panels.corners].tolist()
    start = panels.offsets.tolist()
    runs = [node[a:b] for a, b in itertools.pairwise(start)]
    places = panels.places[panels.corners].tolist()
    out = []
    for run, first in zip(runs, start, strict=False):
        on = [label[n] if n >= 0 else _written(places[first + k]) for k, n in enumerate(run)]
        out.append(" ".join(on) if max(run) >= 0 else "")
    return out


def _written(place: list[float]) -> str:
    return "/".join(f"{c:.9f}" for c in place)


def _table(subject: Subject) -> Table | None:
    panels: Panels = subject.result
    names = subject.once(names_of_panels)
    order = np.argsort(names.panel)
    corners = _corners(subject)
    columns: dict[str, list[Any]] = {
        "label": names.panels(order),
        "type": names.types(order),
        "corners": [corners[i] for i in order],
        "area_m2": rounded(panels.areas[order], 4),
        "flatness_mm": rounded(panels.flatness[order] * 1000, 3),
        "material": [panels.materials[i] for i in order.tolist()],
        "thickness_mm": rounded(panels.thicknesses[order] * 1000, 3),
        "raised_mm": [round(panels.raised * 1000, 3)] * len(order),
    }
    columns |= _sides(panels, names.every_panel, order)
    return Table("panel", columns, order.tolist())


def _sides(panels: Panels, labels: list[str], order: NDArray[np.int64]) -> dict[str, list[str]]:
    """What lies beyond the sides of panels, from their first corner on, and the angles there."""
    beyond = [labels[k] if k >= 0 else "-" for k in panels.neighbour.tolist()]
    degrees = np.degrees(fold_angles(panels)).tolist()
    angles = ["-" if np.isnan(a) else f"{a:.2f}" for a in degrees]
    runs = [slice(*panels.offsets[i : i + 2].tolist()) for i in order.tolist()]
    return {
        "beyond": [" ".join(beyond[run]) for run in runs],
        "angles_deg": [" ".join(angles[run]) for run in runs],
    }


def _amounts(subject: Subject) -> Amounts:
    panels: Panels = subject.result
    types = subject.once(names_of_panels).panel_type.tolist()
    return Amounts("panel", panels.materials, types, panels.masses, area=panels.areas)


def _solids(subject: Subject) -> Iterator[Solid]:
    for part in subject.parts.values():
        flat = np.column_stack([part.outer, np.zeros(len(part.outer)), np.ones(len(part.outer))])
        thick = part.thickness / 1000
        vertices, faces = prism(flat @ part.pose[:3].T, part.pose[:3, 2] * 1000, thick)
        yield Solid(part.label, "panel", vertices, faces)


def _build(model: BuildingModel, subject: Subject) -> None:
    """Panels as plates, held back by half the joint."""
    panels: Panels = subject.result
    names = subject.once(names_of_panels)
    things = np.array(list(subject.parts), np.int32)
    sheets = [panels.sheets[k] for k in panels.sheet_of[things].tolist()]
    named = zip(names.panels(things), names.types(things), sheets, strict=True)
    for (label, type_name, sheet), part in zip(named, subject.parts.values(), strict=True):
        place, axes = part.pose[:3, 3], part.pose[:3, :3].T * 1000
        sized = (model.outline(part.outer / 1000), sheet.thickness)
        model.add("IfcPlate", label, type_name, place, axes, *sized, sheet.material, "SHEET")


def _not_made(subject: Subject) -> Iterator[NotMade]:
    """Panels without a part or on no sheet."""
    panels: Panels = subject.result
    without = np.array([i for i in range(panels.count) if i not in subject.parts], np.int32)
    why = f"too small for a joint of {panels.joint * 1000:g} mm"
    for label in subject.once(names_of_panels).panels(without):
        yield NotMade("panel", label, why)
    yield from larger_than_any_sheet(subject, "panel")


KIND = Kind(
    "Panels",
    layers=(Layer("panels", "Panels", "panel", shown=True),),
    drawn=_drawn,
    measures=(
        Measure("flatness", "panel flatness", "mm", "panels", "panel", scale=1000, digits=1),
        Measure("area", "panel area", "m²", "panels", "panel", total=True),
        Measure("panelMass", "mass of a panel", "kg", "panels", "panel", digits=1, total=True),
        Measure(
            "panelSheet", "sheets of panels", "", "panels", "panel", spread=False, words="sheets"
        ),
    ),
    measured=_measured,
    picture=_picture,
    portrait=False,
    card={"panels": "panels"},
    named=_named,
    schedules=(
        Schedule("panels", _table, "Panels", ("Panels",), "panel"),
        PARTS,
        POSES,
        materials_of(_amounts),
    ),
    solids=_solids,
    building=_build,
    not_made=_not_made,
)
