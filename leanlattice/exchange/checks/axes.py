"""Axes of members in the building model against the pieces that schedules tell."""

from __future__ import annotations

from typing import Any

import numpy as np
from numpy.typing import NDArray

from .models import elements_in
from .pack_files import Found, Pack
from .pack_members import Members, members_of

__all__ = ["axes_as_listed"]

Array = NDArray[np.float64]


def axes_as_listed(pack: Pack) -> Found:
    """Members that are not told by a profile along a straight line have an axis, which runs as
    their pieces do (mm)."""
    m = members_of(pack)
    if m is None or not pack.has("model.ifc"):
        return
    row_of = {row["label"]: k for k, row in enumerate(m.rows)}
    for label, element in elements_in(pack).items():
        is_faced = element.Representation.Representations[0].Items[0].is_a("IfcTriangulatedFaceSet")
        if label in row_of and (is_faced or _axes_of(element)):
            yield _off_axis(m, row_of[label], element) * 1000, f"{label} in model.ifc: axis"


def _axes_of(element: Any) -> list[Any]:
    told = element.Representation.Representations
    return [r for r in told if r.RepresentationIdentifier == "Axis"]


def _off_axis(m: Members, row: int, element: Any) -> float:
    """How far (m) the axis of a member is from the one its pieces tell: its ends and its length,
    piece by piece."""
    told = _axes_of(element)
    if len(told) != 1:
        return np.inf
    pieces = slice(m.first[row], m.first[row] + m.count[row])
    curve = told[0].Items[0]
    points = np.array(curve.Points.CoordList, float)
    if len(curve.Segments) != m.count[row]:
        return np.inf
    runs = [points[np.array(s.wrappedValue) - 1] for s in curve.Segments]
    ends = np.array([(run[0], run[-1]) for run in runs])
    off = np.abs(ends - np.stack([m.start[pieces], m.end[pieces]], axis=1)).max()
    lengths = np.array([_length_through(run) for run in runs])
    return float(max(off, np.abs(lengths - m.lengths[pieces]).max()))


def _length_through(run: Array) -> float:
    """Length in metres of a straight line through two places, or an arc through three."""
    if len(run) == 2:
        return float(np.linalg.norm(run[1] - run[0]))
    first, second = run[0] - run[1], run[2] - run[1]
    sine = np.linalg.norm(np.cross(first, second))
    chord = float(np.linalg.norm(run[2] - run[0]))
    # By the angle at the middle: half the turn is what it lacks of a straight one.
    half = np.pi - np.arctan2(sine, first @ second)
    return chord * half / float(np.sin(half)) if half > 1e-9 else chord
