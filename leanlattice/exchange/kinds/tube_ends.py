"""Templates of tube ends: how they are drawn and listed."""

from __future__ import annotations

from typing import Any

import numpy as np

from ...core.flat.tube_ends import TubeTemplates
from ...core.structure.names import names_of_structure
from ..subjects import Subject
from ..tables import Table, rounded
from .flat import PARTS, POSES, larger_than_any_sheet
from .kind import Drawing, Kind, Layer, Picture, Schedule, narrow

__all__ = ["KIND"]

PLUM = (122, 46, 98)
ENDS = ("start", "end")


def _drawn(templates: TubeTemplates) -> Drawing:
    lines = [templates.rolled(k) for k in range(templates.count)]
    return {}, {
        "positions": np.vstack(lines).astype("<f4"),
        "counts": narrow(np.array([len(line) for line in lines])),
    }


def _picture(templates: TubeTemplates) -> Picture:
    lines = [templates.rolled(k) for k in range(templates.count)]
    return Picture(np.vstack(lines), None, lines, PLUM)


def _table(subject: Subject) -> Table:
    templates: TubeTemplates = subject.result
    parts, count = templates.parts, templates.count
    radius = templates.ends.radius[templates.first]
    columns: dict[str, list[Any]] = {
        "label": templates.labels,
        "pieces": np.bincount(templates.template, minlength=count).tolist(),
        "radius_mm": rounded(radius * 1000, 3),
        "overlap_mm": [round(templates.wrap.overlap * 1000, 3)] * count,
        "material": [part.material for part in parts],
        "thickness_mm": [round(part.thickness, 3) for part in parts],
        "area_m2": rounded(np.array([part.area for part in parts]) / 1e6, 6),
    }
    return Table("wrap", columns, list(range(count)))


def _ends(subject: Subject) -> Table:
    """Ends of members with the template of each, and how far along the axis its lower edge lies."""
    templates: TubeTemplates = subject.result
    ends, order = templates.ends, np.argsort(templates.template, kind="stable")
    columns: dict[str, list[Any]] = {
        "wrap": np.array(templates.labels)[templates.template[order]].tolist(),
        "member": names_of_structure(templates.structure).members(ends.member[order]),
        "end": [ENDS[end] for end in ends.end[order].tolist()],
        "from_mm": rounded(ends.far[order] * 1000, 3),
    }
    return Table("wrap", columns, templates.template[order].tolist())


KIND = Kind(
    "TubeTemplates",
    layers=(Layer("wraps", "Tube ends", "wrap", shown=True),),
    drawn=_drawn,
    picture=_picture,
    portrait=False,
    schedules=(
        Schedule("wraps", _table, "Tube templates", ("TubeTemplates",), "wrap"),
        Schedule("tube_ends", _ends, "Tube ends", ("TubeTemplates",), "wrap"),
        PARTS,
        POSES,
    ),
    not_made=lambda subject: larger_than_any_sheet(subject, "wrap"),
)
