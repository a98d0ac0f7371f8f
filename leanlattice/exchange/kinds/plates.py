"""What plates at nodes have alike: how they are drawn, weighed and written."""

from __future__ import annotations

from collections.abc import Iterator

import numpy as np

from ...core.flat.end_plates import EndPlates
from ...core.flat.node_plates import NodePlates
from ..subjects import Subject
from .amounts import Amounts
from .kind import BuildingModel, Drawing, Picture, Solid
from .solids import drawing_by_name, solids_at_nodes

__all__ = [
    "amounts_of_plates",
    "building_of_plates",
    "drawing_of_plates",
    "picture_of_plates",
    "solids_of_plates",
]

Plates = EndPlates | NodePlates


def drawing_of_plates(plates: Plates) -> Drawing:
    return drawing_by_name(plates.labels, plates.solids)


def picture_of_plates(plates: Plates) -> Picture:
    return Picture(plates.solids.vertices, plates.solids.triangles, [])


def amounts_of_plates(subject: Subject) -> Amounts:
    """Plates by what their parts are called."""
    plates: Plates = subject.result
    materials = [part.material for part in plates.parts]
    area = np.array([part.area for part in plates.parts]) / 1e6
    return Amounts(plates.parts[0].kind, materials, plates.kinds, plates.masses, area=area)


def solids_of_plates(subject: Subject) -> Iterator[Solid]:
    plates: Plates = subject.result
    return solids_at_nodes(plates.labels, plates.solids)


def building_of_plates(model: BuildingModel, subject: Subject) -> None:
    """Plates as they stand, each of its kind."""
    plates: Plates = subject.result
    each = zip(plates.kinds, plates.parts, solids_of_plates(subject), strict=True)
    for kind, part, solid in each:
        shape = (solid.vertices, solid.triangles, part.material, "SHEET")
        model.add_faced("IfcPlate", solid.name, kind, *shape, layer=part.thickness / 1000)
