"""Templates of faces: how they are drawn and listed."""

from __future__ import annotations

from typing import Any

import numpy as np

from ...core.flat.templates import Templates
from ..subjects import Subject
from ..tables import Table, rounded
from .flat import PARTS, POSES, larger_than_any_sheet
from .kind import Drawing, Kind, Layer, Picture, Schedule, narrow

__all__ = ["KIND"]

PLUM = (122, 46, 98)


def _drawn(templates: Templates) -> Drawing:
    lines = [line for lines in templates.borders for line in lines]
    return {}, {
        "positions": np.vstack(lines).astype("<f4"),
        "counts": narrow(np.array([len(line) for line in lines])),
    }


def _picture(templates: Templates) -> Picture:
    lines = [line for lines in templates.borders for line in lines]
    return Picture(np.vstack(lines), None, lines, PLUM)


def _table(subject: Subject) -> Table:
    templates: Templates = subject.result
    solids, body = templates.solids, templates.body
    labels, types = np.array(solids.labels), np.array(solids.type_labels())
    sides = templates.sides
    columns: dict[str, list[Any]] = {
        "label": [part.label for part in templates.parts],
        "solid": labels[body].tolist(),
        "type": types[body].tolist(),
        "pieces": templates.pieces.tolist(),
        "face": [int(part.label.rpartition("-")[2]) for part in templates.parts],
        "material": [part.material for part in templates.parts],
        "thickness_mm": [round(part.thickness, 3) for part in templates.parts],
        "area_m2": rounded(np.array([part.area for part in templates.parts]) / 1e6, 6),
        "stretch_percent": rounded(templates.stretch * 100, 4),
        "off_mm": rounded(templates.off * 1000, 3),
        "beyond": [" ".join(str(side.beyond) for side in each) for each in sides],
        "angles_deg": [" ".join(f"{np.degrees(s.angle):.2f}" for s in each) for each in sides],
    }
    return Table("template", columns, list(range(templates.count)))


KIND = Kind(
    "Templates",
    layers=(Layer("templates", "Templates", "template", shown=True),),
    drawn=_drawn,
    picture=_picture,
    portrait=False,
    schedules=(
        Schedule("templates", _table, "Templates", ("Templates",), "template"),
        PARTS,
        POSES,
    ),
    not_made=lambda subject: larger_than_any_sheet(subject, "template"),
)
