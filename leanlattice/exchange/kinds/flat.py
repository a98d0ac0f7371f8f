"""Flat parts on their sheets: tables that all results with parts have alike."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass
from typing import Any

import numpy as np
import shapely
from numpy.typing import NDArray

from ...core.flat.bars import BarPlan
from ...core.flat.parts import Part, Parts
from ...core.flat.sheets import Layout, Sheets
from ...core.geometry.arcs import unit
from ...core.panels.names import names_of_panels
from ...core.panels.panels import Panels
from ..subjects import Subject
from ..tables import Table, rounded
from .kind import Drawing, Kind, NotMade, Schedule

__all__ = [
    "BARS",
    "ON_SHEETS",
    "PARTS",
    "POSES",
    "SHEETS",
    "LieOfPart",
    "frame_columns",
    "larger_than_any_sheet",
]

Array = NDArray[np.float64]


@dataclass(frozen=True, eq=False)
class LieOfPart:
    """How a part lies on its sheet: its place ``flat`` (2,) in mm at the lower left corner of its
    outline's extent there, and ``back`` (2, 2), which takes ways on the sheet to its own."""

    flat: Array
    back: Array

    @classmethod
    def of(cls, layout: Layout, i: int) -> LieOfPart:
        low = np.min([r.min(axis=0) for r in layout.ways(i)[0]], axis=0)
        c, s = np.cos(layout.angle[i]), np.sin(layout.angle[i])
        back = np.array([[c, -s], [s, c]])
        return cls((low - layout.shift[i]) @ back, back)

    def frame(self, pose: Array) -> tuple[Array, Array]:
        """Where that corner goes (3,) and which ways the sheet's two sides then run (2, 3), by a
        pose (3, 4)."""
        return pose @ [*self.flat, 0.0, 1.0], self.back @ pose[:, :2].T * 1000


def frame_columns(frames: Sequence[tuple[Array, Array]]) -> dict[str, list[Any]]:
    """Columns of places (3,) and of two directions each (2, 3)."""
    places = np.array([f[0] for f in frames]).reshape(-1, 3)
    axes = np.array([f[1] for f in frames]).reshape(-1, 2, 3)
    named = (("{}_m", places), ("right_{}", axes[:, 0]), ("up_{}", axes[:, 1]))
    return {
        name.format(a): rounded(values[:, k], 8)
        for name, values in named
        for k, a in enumerate("xyz")
    }


def _order_of_parts(subject: Subject, parts: Parts) -> NDArray[Any]:
    """Parts (n,) in the order of their things' numbers."""
    if isinstance(subject.result, Panels):
        return np.argsort(subject.once(names_of_panels).panel[parts.source])
    return np.arange(parts.count)


def _parts(subject: Subject) -> Table | None:
    """Part after part, copies after one of each."""
    lies = subject.on_sheets
    if lies is None:
        return None
    layout = lies.layout
    in_order = _order_of_parts(subject, lies.parts)
    order: list[int] = lies.rows[:, in_order].ravel().tolist()
    on = layout.sheet >= 0
    ways = {i: layout.ways(i)[:2] for i in order}
    low = {i: np.min([r.min(axis=0) for r in outer], axis=0) for i, (outer, _) in ways.items()}
    lengths = {
        i: sum(shapely.LinearRing(r).length for r in (*outer, *inner))
        for i, (outer, inner) in ways.items()
    }
    turns = np.round(np.degrees(layout.angle), 6) + 0.0
    number = layout.sheet + 1 + subject.sheets_before
    parts = layout.parts
    columns: dict[str, list[Any]] = {
        "label": [parts[i].label for i in order],
        "kind": [parts[i].kind for i in order],
        "sheet": [int(number[i]) if on[i] else "" for i in order],
        "x_mm": [round(float(low[i][0]), 3) if on[i] else "" for i in order],
        "y_mm": [round(float(low[i][1]), 3) if on[i] else "" for i in order],
        "rotation_deg": [float(turns[i]) if on[i] else "" for i in order],
        "area_m2": [round(parts[i].area / 1e6, 6) for i in order],
        "cut_length_mm": [round(lengths[i], 3) for i in order],
        "material": [parts[i].material for i in order],
        "thickness_mm": [round(parts[i].thickness, 3) for i in order],
        "tool_mm": [layout.cutting.tool] * len(order),
        "joint_mm": [round(lies.parts.joint, 3)] * len(order),
        "source": [subject.clause] * len(order),
    }
    index = np.tile(lies.parts.source[in_order], len(lies.rows)).tolist()
    return Table(lies.parts.of, columns, index)


def _sheets(subject: Subject) -> Table:
    """What each sheet is cut from, and how."""
    layout: Layout = subject.result.layout
    every = range(layout.sheet_count)
    stocks, grades = [layout.stock(k) for k in every], [layout.grade(k) for k in every]
    columns: dict[str, list[Any]] = {
        "sheet": [k + 1 + subject.sheets_before for k in every],
        "width_mm": [s.width for s in stocks],
        "height_mm": [s.height for s in stocks],
        "material": [material for material, _ in grades],
        "thickness_mm": [thickness for _, thickness in grades],
        "margin_mm": [s.margin for s in stocks],
        "spacing_mm": [s.spacing for s in stocks],
        "tool_mm": [layout.cutting.tool] * len(stocks),
        "parts": [int((layout.sheet == k).sum()) for k in every],
        "used_percent": [round(float(100 * u), 2) for u in layout.used()],
        "source": [_sources_on(subject, k) for k in every],
    }
    return Table("sheet", columns, list(every))


def _sources_on(subject: Subject, sheet: int) -> str:
    """The clauses whose parts lie on a sheet."""
    sheets: Sheets = subject.result
    on = [
        name
        for place, name in enumerate(subject.inputs["parts"])
        if (sheets.layout.sheet[sheets.of(place).rows] == sheet).any()
    ]
    return " ".join(on)


def _flat_parts(subject: Subject) -> list[Part]:
    """One of every part that is not bent, set out on sheets or not; those of panels in the order of
    their numbers."""
    flat = [(thing, part) for thing, part in subject.parts.items() if part.bend is None]
    if isinstance(subject.result, Panels):
        numbers = subject.once(names_of_panels).panel
        flat.sort(key=lambda found: int(numbers[found[0]]))
    return [part for _, part in flat]


def _poses(subject: Subject) -> Table | None:
    """Where each flat part stands: the place of its lower left corner and the directions its x and
    y take, in the frame of its drawing in ``parts/``. Ribs that are bent stand as bends.csv says.
    """
    flat = _flat_parts(subject)
    if not flat:
        return None
    frames = []
    for part in flat:
        low = part.outer.min(axis=0)
        # What is cut smaller than it stands goes on further than a millimetre a millimetre.
        ways = unit(part.pose[:3, :2].T)
        frames.append((part.places(low[None])[0], ways))
    columns: dict[str, list[Any]] = {"label": [p.label for p in flat]} | frame_columns(frames)
    return Table("part", columns, list(range(len(flat))))


def larger_than_any_sheet(subject: Subject, what: str) -> list[NotMade]:
    """Parts that lie on no sheet."""
    lies = subject.on_sheets
    if lies is None:
        return []
    return [NotMade(what, lies.layout.parts[i].label, "larger than any sheet") for i in lies.off]


PARTS = Schedule("parts", _parts, "Flat parts", ("Sheets",))
SHEETS = Schedule("sheets", _sheets)
POSES = Schedule("poses", _poses)


def _sheets_drawn(sheets: Sheets) -> Drawing:
    layout = sheets.layout
    every = range(layout.sheet_count)
    stock = [layout.stock(k) for k in every]
    grades = [layout.grade(k) for k in every]
    lie = np.column_stack([layout.shift, np.degrees(layout.angle)])
    of = zip(layout.sheet.tolist(), layout.parts, strict=True)
    scored = {sheet for sheet, part in of if len(part.scores)}
    plain = {
        "labels": [p.label for p in layout.parts],
        "slots": layout.slot.tolist(),
        "widths": [s.width for s in stock],
        "heights": [s.height for s in stock],
        "grades": [f"{thickness:g} mm {material}" for material, thickness in grades],
        "used": np.round(layout.used(), 4).tolist(),
        "scored": [bool(k in scored) for k in every],
        "partsOf": [parts.count for parts in sheets.made],
    }
    return plain, {
        "lie": lie.astype("<f4"),
        "sheetOfPart": layout.sheet.astype("<i2"),
        "pinned": layout.pinned.astype("u1"),
        "pose": np.array([p.pose[:3] for p in layout.parts]).reshape(-1, 12).astype("<f4"),
    }


def _bars_drawn(plan: BarPlan) -> Drawing:
    return {}, {"barOfMember": plan.bar.astype("<i4")}


ON_SHEETS = Kind("Sheets", drawn=_sheets_drawn, schedules=(SHEETS,))
BARS = Kind("BarPlan", drawn=_bars_drawn)
