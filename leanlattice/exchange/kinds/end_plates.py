"""End plates: how they are drawn and listed."""

from __future__ import annotations

from typing import Any

import numpy as np

from ...core.flat.end_plates import EndPlates
from ...core.structure.names import names_of_structure
from ..subjects import Subject
from ..tables import Table, rounded
from .amounts import materials_of
from .flat import PARTS, POSES, larger_than_any_sheet
from .kind import Arrays, Kind, Layer, Measure, Schedule
from .plates import (
    amounts_of_plates,
    building_of_plates,
    drawing_of_plates,
    picture_of_plates,
    solids_of_plates,
)

__all__ = ["KIND"]

ENDS = ("start", "end")


def _measured(plates: EndPlates) -> Arrays:
    return {
        "endPlateMass": plates.masses,
        "endPlateLength": plates.sizes.max(axis=1),
        "endPlateKind": plates.solids.type_of.astype(float),
    }


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
        "kind": plates.kinds,
        "at": _at(plates),
        "outline": ["round" if boring.is_round else "rectangle"] * count,
        "material": [part.material for part in parts],
        "thickness_mm": [round(part.thickness, 3) for part in parts],
        "length_mm": rounded(plates.sizes.max(axis=1), 3),
        "width_mm": rounded(plates.sizes.min(axis=1), 3),
        "beyond_mm": [round(boring.beyond * 1000, 3)] * count,
        "gap_mm": rounded(gaps[plates.structure.rule[plates.nodes]] * 1000, 3),
        "raised_mm": rounded(plates.ends.raised[plates.first] * 1000, 3),
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


KIND = Kind(
    "EndPlates",
    layers=(Layer("endPlates", "End plates", "end plate", shown=True),),
    drawn=drawing_of_plates,
    measures=(
        Measure("endPlateMass", "mass of an end plate", "kg", "endPlates", "end plate", total=True),
        Measure(
            "endPlateLength", "length of an end plate", "mm", "endPlates", "end plate", digits=0
        ),
        Measure("endPlateKind", "kind of end plate", "", "endPlates", "end plate", digits=0),
    ),
    measured=_measured,
    measured_later=True,
    picture=picture_of_plates,
    portrait=False,
    card={"end_plates": "end plates"},
    schedules=(
        Schedule("end_plates", _table, "End plates", ("EndPlates",), "end plate"),
        Schedule("plated_ends", _ends, "Ends on plates", ("EndPlates",), "end plate"),
        PARTS,
        POSES,
        materials_of(amounts_of_plates),
    ),
    solids=solids_of_plates,
    building=building_of_plates,
    not_made=lambda subject: larger_than_any_sheet(subject, "end plate"),
)
