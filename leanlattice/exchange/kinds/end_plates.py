"""End plates: how they are drawn and listed."""

from __future__ import annotations

from collections.abc import Iterator
from typing import Any

import numpy as np

from ...core.flat.end_plates import EndPlates
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
    Picture,
    Schedule,
    Solid,
)
from .solids import drawing_by_name, solids_at_nodes

__all__ = ["KIND"]

ENDS = ("start", "end")


def _drawn(plates: EndPlates) -> Drawing:
    return drawing_by_name(plates.labels, plates.solids)


def _measured(plates: EndPlates) -> Arrays:
    return {
        "endPlateMass": plates.masses,
        "endPlateLength": plates.sizes.max(axis=1),
        "endPlateKind": plates.solids.type_of.astype(float),
    }


def _picture(plates: EndPlates) -> Picture:
    solids = plates.solids
    return Picture(solids.vertices, solids.triangles, [])


def _kinds(plates: EndPlates) -> list[str]:
    """Names (k,) of the kinds of plates."""
    return [f"{plates.structure.series}EP{n}" for n in plates.solids.type_of.tolist()]


def _at(plates: EndPlates) -> list[str]:
    """What each (k,) is: under members, or bolted to another."""
    return ["bolted" if pair else "under" for pair in plates.ends.is_pair[plates.first].tolist()]


def _table(subject: Subject) -> Table:
    plates: EndPlates = subject.result
    parts, boring, count = plates.parts, plates.boring, plates.count
    gaps = np.array([rule.gap for rule in plates.structure.rules])
    columns: dict[str, list[Any]] = {
        "label": plates.labels,
        "node": names_of_structure(plates.structure).nodes(plates.nodes),
        "kind": _kinds(plates),
        "at": _at(plates),
        "outline": ["round" if boring.is_round else "rectangle"] * count,
        "material": [part.material for part in parts],
        "thickness_mm": [round(part.thickness, 3) for part in parts],
        "length_mm": rounded(plates.sizes.max(axis=1), 3),
        "width_mm": rounded(plates.sizes.min(axis=1), 3),
        "beyond_mm": [round(boring.beyond * 1000, 3)] * count,
        "gap_mm": rounded(gaps[plates.structure.rule[plates.nodes]] * 1000, 3),
        "holes": [len(part.inner) for part in parts],
        "hole_mm": [round(boring.hole * 1000, 3)] * count,
        "area_m2": [round(part.area / 1e6, 6) for part in parts],
        "mass_kg": rounded(plates.masses, 4),
    }
    return Table("end plate", columns, list(range(count)))


def _ends(subject: Subject) -> Table:
    """Ends that stand on plates, with the angles between their axes and these."""
    plates: EndPlates = subject.result
    ends = plates.ends
    sine = -np.einsum("ij,ij->i", ends.normal, ends.away)
    columns: dict[str, list[Any]] = {
        "plate": [plates.labels[k] for k in plates.plate.tolist()],
        "member": names_of_structure(plates.structure).members(ends.member),
        "end": [ENDS[end] for end in ends.end.tolist()],
        "angle_deg": rounded(np.degrees(np.arcsin(np.clip(sine, -1.0, 1.0))), 3),
    }
    return Table("end plate", columns, plates.plate.tolist())


def _amounts(subject: Subject) -> Amounts:
    plates: EndPlates = subject.result
    materials = [part.material for part in plates.parts]
    area = np.array([part.area for part in plates.parts]) / 1e6
    return Amounts("end plate", materials, _kinds(plates), plates.masses, area=area)


def _solids(subject: Subject) -> Iterator[Solid]:
    plates: EndPlates = subject.result
    return solids_at_nodes(plates.labels, plates.solids)


def _building(model: BuildingModel, subject: Subject) -> None:
    """Plates, each of its kind."""
    plates: EndPlates = subject.result
    each = zip(_kinds(plates), plates.parts, _solids(subject), strict=True)
    for kind, part, solid in each:
        shape = (solid.vertices, solid.triangles, part.material, "SHEET")
        model.add_faced("IfcPlate", solid.name, kind, *shape, layer=part.thickness / 1000)


KIND = Kind(
    "EndPlates",
    layers=(Layer("endPlates", "End plates", "end plate", shown=True),),
    drawn=_drawn,
    measures=(
        Measure("endPlateMass", "mass of an end plate", "kg", "endPlates", "end plate", total=True),
        Measure(
            "endPlateLength", "length of an end plate", "mm", "endPlates", "end plate", digits=0
        ),
        Measure("endPlateKind", "kind of end plate", "", "endPlates", "end plate", digits=0),
    ),
    measured=_measured,
    measured_later=True,
    picture=_picture,
    portrait=False,
    card={"end_plates": "end plates"},
    schedules=(
        Schedule("end_plates", _table, "End plates", ("EndPlates",), "end plate"),
        Schedule("plated_ends", _ends, "Ends on plates", ("EndPlates",), "end plate"),
        PARTS,
        POSES,
        materials_of(_amounts),
    ),
    solids=_solids,
    building=_building,
    not_made=lambda subject: larger_than_any_sheet(subject, "end plate"),
)
