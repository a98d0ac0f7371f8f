"""Templates of faces and openings: how they are drawn and listed."""

from __future__ import annotations

from typing import Any

import numpy as np

from ...core.flat.templates import Templates
from ..subjects import Subject
from ..tables import Table, rounded
from .flat import PARTS, POSES, frame_columns, larger_than_any_sheet
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
        "face": _faces(templates),
        "material": [part.material for part in templates.parts],
        "thickness_mm": [round(part.thickness, 3) for part in templates.parts],
        "area_m2": rounded(np.array([part.area for part in templates.parts]) / 1e6, 6),
        "smaller_percent": [round(templates.smaller * 100, 4)] * templates.count,
        "stretch_percent": rounded(templates.stretch * 100, 4),
        "off_mm": rounded(templates.off * 1000, 3),
        "beyond": [" ".join(str(side.beyond) for side in each) for each in sides],
        "angles_deg": [" ".join(f"{np.degrees(s.angle):.2f}" for s in each) for each in sides],
    }
    return Table("template", columns, list(range(templates.count)))


def _faces(templates: Templates) -> list[int | str]:
    """Numbers of the faces in their solids; nothing for openings."""
    if templates.openings is not None:
        return [""] * templates.count
    return [int(part.label.rpartition("-")[2]) for part in templates.parts]


def _openings(subject: Subject) -> Table | None:
    """Each opening, with where its template stands in it as poses.csv says it of parts."""
    templates: Templates = subject.result
    openings = templates.openings
    if openings is None:
        return None
    labels = np.array(templates.solids.labels)
    low = [part.outer.min(axis=0) for part in templates.parts]
    frames, names, counts = [], [], np.zeros(templates.count, int)
    for template, pose in zip(openings.template.tolist(), openings.poses, strict=True):
        counts[template] += 1
        names.append(f"{templates.parts[template].label}.{counts[template]}")
        frames.append((pose[:3, 3] + pose[:3, :2] @ low[template], pose[:3, :2].T * 1000))
    columns: dict[str, list[Any]] = {
        "label": names,
        "template": [templates.parts[k].label for k in openings.template.tolist()],
        "solid": labels[openings.body].tolist(),
        "off_mm": rounded(openings.off * 1000, 3),
    } | frame_columns(frames)
    return Table("template", columns, openings.template.tolist())


KIND = Kind(
    "Templates",
    layers=(Layer("templates", "Templates", "template", shown=True),),
    drawn=_drawn,
    picture=_picture,
    portrait=False,
    schedules=(
        Schedule("templates", _table, "Templates", ("Templates",), "template"),
        Schedule("openings", _openings, "Openings", ("Templates",), "template"),
        PARTS,
        POSES,
    ),
    not_made=lambda subject: larger_than_any_sheet(subject, "template"),
)
