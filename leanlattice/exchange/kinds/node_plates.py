"""Node plates: how they are drawn and listed."""

from __future__ import annotations

from typing import Any

import numpy as np

from ...core.flat.node_plates import NodePlates
from ...core.structure.names import names_of_structure
from ..subjects import Subject
from ..tables import Table, rounded
from .amounts import materials_of
from .flat import PARTS, POSES, larger_than_any_sheet
from .folded import FOLDS, folded_columns, largest_folds
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


def _measured(plates: NodePlates) -> Arrays:
    off = np.zeros(plates.count)
    np.maximum.at(off, plates.arms.plate, plates.off * 1000)
    return {
        "plateMass": plates.masses,
        "plateFold": largest_folds(plates.folds, plates.count),
        "plateArms": np.diff(plates.arms.offsets).astype(float),
        "plateKind": plates.kind_of.astype(float),
        "plateOff": off,
    }


def _table(subject: Subject) -> Table:
    plates: NodePlates = subject.result
    arms = plates.arms
    columns: dict[str, list[Any]] = {
        "label": plates.labels,
        "node": names_of_structure(plates.structure).nodes(arms.nodes),
        "kind": plates.kinds,
        "arms": np.diff(arms.offsets).tolist(),
    }
    columns["cut"] = ["alike" if plates.is_alike else "own"] * plates.count
    columns |= folded_columns(plates.folds, plates.parts)
    columns["mass_kg"] = rounded(plates.masses, 4)
    return Table("plate", columns, list(range(plates.count)))


def _arms(subject: Subject) -> Table:
    """Arms, with where they are on the axes of members, counted along these from their ends at the
    nodes."""
    plates: NodePlates = subject.result
    arms = plates.arms
    labels = np.array(plates.labels)
    at = plates.hole_stations * 1000
    columns: dict[str, list[Any]] = {
        "plate": labels[arms.plate].tolist(),
        "member": names_of_structure(plates.structure).members(arms.member),
        "end": [ENDS[end] for end in arms.end.tolist()],
        "width_mm": rounded(arms.width * 1000, 3),
        "from_mm": rounded(arms.start * 1000, 3),
        "to_mm": rounded(arms.stop * 1000, 3),
        "enters_mm": rounded((arms.stop - arms.set_back) * 1000, 3),
        "hole_mm": [round(plates.joint.hole * 1000, 3)] * len(arms.plate),
        "off_mm": rounded(plates.off * 1000, 3),
        "holes_at_mm": [" ".join(f"{mm:.3f}" for mm in own) for own in at.tolist()],
    }
    return Table("plate", columns, arms.plate.tolist())


KIND = Kind(
    "NodePlates",
    layers=(Layer("nodePlates", "Node plates", "plate", shown=True),),
    drawn=drawing_of_plates,
    measures=(
        Measure("plateFold", "largest fold of a node plate", "°", "nodePlates", "plate", digits=1),
        Measure("plateMass", "mass of a node plate", "kg", "nodePlates", "plate", total=True),
        Measure("plateArms", "arms of a node plate", "", "nodePlates", "plate", digits=0),
        Measure("plateOff", "arms off their members", "mm", "nodePlates", "plate", digits=2),
        Measure("plateKind", "kind of node plate", "", "nodePlates", "plate", digits=0),
    ),
    measured=_measured,
    measured_later=True,
    picture=picture_of_plates,
    portrait=False,
    card={"node_plates": "node plates"},
    schedules=(
        Schedule("node_plates", _table, "Node plates", ("NodePlates",), "plate"),
        Schedule("plate_arms", _arms, "Arms", ("NodePlates",), "plate"),
        FOLDS,
        PARTS,
        POSES,
        materials_of(amounts_of_plates),
    ),
    solids=solids_of_plates,
    building=building_of_plates,
    not_made=lambda subject: larger_than_any_sheet(subject, "plate"),
)
