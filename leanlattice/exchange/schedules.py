"""Schedules: tables of nodes, members, types, angles, panels and parts, and their CSV form."""

from __future__ import annotations

import csv
import io
from collections.abc import Callable, Iterable, Sequence
from dataclasses import dataclass
from functools import cached_property
from typing import Any

import numpy as np
import shapely
from numpy.typing import NDArray

from ..core.flat.bars import BarPlan
from ..core.flat.parts import Part, panel_parts
from ..core.flat.sheets import Sheets
from ..core.framing.frames import node_angles
from ..core.framing.naming import Labelled
from ..core.geometry.polygons import areas
from ..core.ribs.parts import Ribs, way_in
from ..statement.evaluate import Outcome

__all__ = ["SCHEDULES", "Named", "Table", "panel_outline_areas", "schedule"]


@dataclass(frozen=True, eq=False)
class Named:
    """A labelled frame, or ribs, of a ``clause``, with what was made of it; its sheets are numbered
    on after ``sheets_before``."""

    clause: str
    source: Labelled | Ribs
    sheets: Sheets | None = None
    bars: BarPlan | None = None
    sheets_before: int = 0

    @classmethod
    def all_of(cls, outcomes: Iterable[Outcome]) -> list[Named]:
        """All labelled frames and ribs among outcomes, each with the clause it is of and its last
        sheets and bars. Ribs of which others are spliced are not made."""
        outcomes = list(outcomes)
        spliced = {source for o in outcomes if isinstance(o.result, Ribs) for source in o.taken}
        sheets: dict[str, Sheets] = {}
        bars: dict[str, BarPlan] = {}
        sources: list[tuple[str, Labelled | Ribs]] = []
        for outcome in outcomes:
            result = outcome.result
            if outcome.id in spliced:
                continue
            if isinstance(result, Labelled | Ribs):
                sources.append((outcome.id, result))
            elif isinstance(result, Sheets):
                sheets |= dict.fromkeys(outcome.taken, result)
            elif isinstance(result, BarPlan):
                bars |= dict.fromkeys(outcome.taken, result)
        out, before = [], 0
        for clause, result in sources:
            out.append(cls(clause, result, sheets.get(clause), bars.get(clause), before))
            before += sheets[clause].layout.sheet_count if clause in sheets else 0
        return out

    @cached_property
    def panel_parts(self) -> dict[int, Part]:
        """Flat parts of panels by their positions, whether they are set out on sheets or not."""
        if not self.framed or self.labelled.panels is None:
            return {}
        if self.sheets is not None:
            parts, part_of = self.sheets.layout.parts, self.sheets.part_of
        else:
            made = panel_parts(self.labelled.panels, self.labelled.panel_labels)
            parts, part_of = made.parts, made.part_of_panel
        return {int(i): parts[part_of[i]] for i in np.flatnonzero(part_of >= 0)}

    @property
    def labelled(self) -> Labelled:
        """The labelled frame, where it is one."""
        assert isinstance(self.source, Labelled)
        return self.source

    @property
    def framed(self) -> bool:
        return isinstance(self.source, Labelled)


@dataclass(frozen=True)
class Table:
    """Columns by header; the header carries the unit. ``index`` is the position in the result of
    each row's thing."""

    of: str
    columns: dict[str, list[Any]]
    index: list[int]

    def text(self) -> str:
        """CSV with a header line."""
        out = io.StringIO()
        writer = csv.writer(out, lineterminator="\n")
        writer.writerow(self.columns)
        writer.writerows(zip(*self.columns.values(), strict=True))
        return out.getvalue()


SHORTEST_PIECE = 0.001
"""What (mm) of a plane piece lies within an outline and is more than a corner that touches it."""


def _rounded(values: NDArray[Any], decimals: int) -> list[float]:
    return [float(v) for v in np.round(values, decimals) + 0.0]


def _pick(names: Sequence[str], order: NDArray[Any]) -> list[str]:
    return [names[i] for i in order]


def _nodes(labelled: Labelled, _: Named) -> Table:
    frame, order = labelled.frame, np.argsort(labelled.node)
    net = frame.net
    columns: dict[str, list[Any]] = {"label": _pick(labelled.node_labels, order)}
    for axis, values in zip("xyz", net.vertices[order].T, strict=True):
        columns[f"{axis}_m"] = _rounded(values, 6)
    columns["valence"] = net.valence[order].tolist()
    columns["support"] = [""] * len(order)
    for axis, values in zip("xyz", net.normals[order].T, strict=True):
        columns[f"normal_{axis}"] = _rounded(values, 6)
    columns["setback_mm"] = _rounded(frame.node_set_back[order] * 1000, 1)
    return Table("node", columns, order.tolist())


def _member_order(labelled: Labelled) -> NDArray[Any]:
    return np.lexsort((labelled.member, labelled.frame.net.border))


def _members(labelled: Labelled, _: Named) -> Table:
    frame, order = labelled.frame, _member_order(labelled)
    section = [frame.sections[s] for s in frame.section_of[order]]
    start, end = frame.members[order].T
    back = _rounded(frame.set_back[order].ravel() * 1000, 3)
    return Table(
        "member",
        {
            "label": _pick(labelled.member_labels, order),
            "layer": ["edge" if b else "grid" for b in frame.net.border[order]],
            "type": labelled.named("member_type", labelled.member_type[order]),
            "section": [s.name for s in section],
            "material": [s.material for s in section],
            "start": _pick(labelled.node_labels, start),
            "end": _pick(labelled.node_labels, end),
            "length_mm": _rounded(frame.lengths[order] * 1000, 3),
            "cut_length_mm": _rounded(frame.cut_lengths[order] * 1000, 3),
            "roll_deg": _rounded(np.degrees(frame.rolls[order]), 3),
            "start_setback_mm": back[::2],
            "end_setback_mm": back[1::2],
            "mass_kg": _rounded(frame.masses[order], 3),
            **{f"up_{a}": _rounded(frame.up[order, k], 6) for k, a in enumerate("xyz")},
            "lift_mm": _rounded(frame.lift[order] * 1000, 3),
        },
        order.tolist(),
    )


def _member_types(labelled: Labelled, _: Named) -> Table:
    frame, types = labelled.frame, labelled.member_type
    names, first, counts = np.unique(types, return_index=True, return_counts=True)
    total, low, high = (
        np.zeros(len(names)),
        np.full(len(names), np.inf),
        np.full(len(names), -np.inf),
    )
    np.add.at(total, types - 1, frame.cut_lengths)
    np.minimum.at(low, types - 1, frame.cut_lengths)
    np.maximum.at(high, types - 1, frame.cut_lengths)
    return Table(
        "member_type",
        {
            "type": labelled.named("member_type", names),
            "section": [frame.sections[s].name for s in frame.section_of[first]],
            "cut_length_mm": _rounded(total / counts * 1000, 3),
            "count": counts.tolist(),
            "spread_mm": _rounded((high - low) * 1000, 3),
        },
        names.tolist(),
    )


def _node_angles(labelled: Labelled, _: Named) -> Table:
    frame = labelled.frame
    rank = np.empty(len(frame.members), np.int64)
    rank[_member_order(labelled)] = np.arange(len(rank))
    first = np.full(len(frame.net.vertices), len(rank), np.int64)
    np.minimum.at(first, frame.members.ravel(), np.repeat(rank, 2))
    node, member, angles = node_angles(frame, _member_order(labelled)[first].astype(np.int32))
    order = np.argsort(labelled.node[node], kind="stable")
    degrees = np.degrees(angles[order])
    return Table(
        "node",
        {
            "node": _pick(labelled.node_labels, node[order]),
            "member": _pick(labelled.member_labels, member[order]),
            "plan_angle_deg": _rounded(degrees[:, 0], 3),
            "elevation_deg": _rounded(degrees[:, 1], 3),
            "twist_deg": _rounded(degrees[:, 2], 3),
        },
        node[order].tolist(),
    )


def panel_outline_areas(labelled: Labelled) -> NDArray[np.float64]:
    """Areas (panels,) in m² between the joints' middles."""
    panels = labelled.panels
    assert panels is not None
    return areas(panels.net.vertices, panels.corners, panels.offsets)


def _panels(labelled: Labelled, _: Named) -> Table | None:
    panels = labelled.panels
    if panels is None:
        return None
    order = np.argsort(labelled.panel)
    corners = [
        " ".join(
            labelled.node_labels[c]
            for c in panels.corners[panels.offsets[i] : panels.offsets[i + 1]]
        )
        for i in order
    ]
    return Table(
        "panel",
        {
            "label": _pick(labelled.panel_labels, order),
            "type": labelled.named("panel_type", labelled.panel_type[order]),
            "corners": corners,
            "area_m2": _rounded(panel_outline_areas(labelled)[order], 4),
            "flatness_mm": _rounded(panels.flatness[order] * 1000, 3),
            "material": [panels.material] * len(order),
            "thickness_mm": [panels.thickness * 1000] * len(order),
            "raised_mm": [round(panels.raised * 1000, 3)] * len(order),
        },
        order.tolist(),
    )


def _parts(named: Named) -> Table | None:
    sheets = named.sheets
    if sheets is None:
        return None
    layout = sheets.layout
    panels = named.source.panels if isinstance(named.source, Labelled) else None
    joint = panels.joint * 1000 if panels else 0.0
    of = np.flatnonzero(sheets.part_of >= 0)
    # Copies follow after one of every part.
    order = (
        np.argsort(named.source.panel[of])
        if isinstance(named.source, Labelled)
        else np.arange(len(of))
    )
    order = (
        np.concatenate([order + k for k in range(0, len(layout.parts), max(len(of), 1))])
        if len(of)
        else order
    )
    on = layout.sheet >= 0
    ways = [layout.ways(i)[:2] for i in range(len(layout.parts))]
    low = [np.min([r.min(axis=0) for r in outer], axis=0) for outer, _ in ways]
    lengths = [sum(shapely.LinearRing(r).length for r in (*outer, *inner)) for outer, inner in ways]
    return Table(
        "panel" if named.framed else "rib",
        {
            "label": [layout.parts[i].label for i in order],
            "kind": [layout.parts[i].kind for i in order],
            "sheet": [
                int(layout.sheet[i]) + 1 + named.sheets_before if on[i] else "" for i in order
            ],
            "x_mm": [round(float(low[i][0]), 3) if on[i] else "" for i in order],
            "y_mm": [round(float(low[i][1]), 3) if on[i] else "" for i in order],
            "rotation_deg": [
                round(float(np.degrees(layout.angle[i])), 3) + 0.0 if on[i] else "" for i in order
            ],
            "area_m2": [round(layout.parts[i].area / 1e6, 6) for i in order],
            "cut_length_mm": [round(lengths[i], 3) for i in order],
            "material": [layout.parts[i].material for i in order],
            "thickness_mm": [round(layout.parts[i].thickness, 3) for i in order],
            "tool_mm": [layout.cutting.tool] * len(order),
            "joint_mm": [round(joint, 3)] * len(order),
            "source": [named.clause] * len(order),
        },
        of[order % len(of)].tolist() if len(of) else [],
    )


def _sheets(named: Named) -> Table | None:
    """What each sheet is cut from, and how."""
    if named.sheets is None or not named.sheets.layout.sheet_count:
        return None
    layout = named.sheets.layout
    every = range(layout.sheet_count)
    stocks, grades = [layout.stock(k) for k in every], [layout.grade(k) for k in every]
    used = layout.used()
    columns: dict[str, list[Any]] = {
        "sheet": [k + 1 + named.sheets_before for k in every],
        "width_mm": [s.width for s in stocks],
        "height_mm": [s.height for s in stocks],
        "material": [material for material, _ in grades],
        "thickness_mm": [thickness for _, thickness in grades],
        "margin_mm": [s.margin for s in stocks],
        "spacing_mm": [s.spacing for s in stocks],
        "tool_mm": [layout.cutting.tool] * len(stocks),
        "parts": [int((layout.sheet == k).sum()) for k in every],
        "used_percent": [round(float(100 * u), 2) for u in used],
        "source": [named.clause] * len(stocks),
    }
    return Table("sheet", columns, list(every))


def _poses(named: Named) -> Table | None:
    """Where each flat part stands: the place of its lower left corner and the directions its x and
    y take, in the frame of its drawing in ``parts/``. Ribs that are bent stand as bends.csv says.
    """
    if named.sheets is not None:
        parts = [p for p in named.sheets.layout.parts if "." not in p.label]
    elif isinstance(named.source, Ribs):
        parts = list(named.source.parts[0])
    else:
        parts = list(named.panel_parts.values())
    flat = [p for p in parts if p.bend is None]
    if not flat:
        return None
    if isinstance(named.source, Labelled):
        number = dict(zip(named.source.panel_labels, named.source.panel, strict=True))
        flat.sort(key=lambda part: number[part.label])
    frames = []
    for part in flat:
        low = part.outer.min(axis=0)
        frames.append((part.places(low[None])[0], part.pose[:3, :2].T * 1000))
    columns: dict[str, list[Any]] = {"label": [p.label for p in flat]} | _frame_columns(frames)
    return Table("part", columns, list(range(len(flat))))


def _bars(labelled: Labelled, named: Named) -> Table | None:
    plan = named.bars
    if plan is None:
        return None
    on = np.flatnonzero(plan.bar >= 0)
    order = on[np.lexsort((plan.start[on], plan.bar[on]))]
    sections = [labelled.frame.sections[plan.section_of_bar[b]].name for b in plan.bar[order]]
    begin = plan.start[order] * 1000
    return Table(
        "member",
        {
            "bar": [f"{labelled.series}B{b + 1}" for b in plan.bar[order]],
            "section": sections,
            "stock_mm": [round(plan.stock * 1000, 3)] * len(order),
            "member": _pick(labelled.member_labels, order),
            "from_mm": _rounded(begin, 3),
            "to_mm": _rounded(begin + labelled.frame.cut_lengths[order] * 1000, 3),
            "kerf_mm": [round(plan.kerf * 1000, 3)] * len(order),
        },
        order.tolist(),
    )


def _ribs(named: Named) -> Table | None:
    if not isinstance(named.source, Ribs):
        return None
    ribs = named.source.ribs
    slots = np.zeros(len(ribs), np.int64)
    for c in named.source.crossings:
        slots[[c.first, c.second]] += 1
    return Table(
        "rib",
        {
            "label": [r.label for r in ribs],
            "set": [r.series for r in ribs],
            "thickness_mm": _rounded(np.array([r.thickness for r in ribs]) * 1000, 3),
            "radius_m": [round(r.bend.radius, 3) if r.bend else "" for r in ribs],
            "slots": slots.tolist(),
            "area_m2": _rounded(np.array([r.shape.area for r in ribs]), 6),
            "outline_length_mm": _rounded(np.array([r.shape.length for r in ribs]) * 1000, 3),
        },
        list(range(len(ribs))),
    )


def _assembly(named: Named) -> Table | None:
    """Ribs in the order in which they go together: where the lower left corner of each outline on
    its sheet goes, and which ways the sheet's two sides then run."""
    if not isinstance(named.source, Ribs) or named.sheets is None:
        return None
    ribs, layout = named.source, named.sheets.layout
    together = ribs.assembly
    order = [*together.order, *(k for group in together.locked for k in group)]
    meets: list[list[str]] = [[] for _ in ribs.ribs]
    for c in ribs.crossings:
        if not c.locked:
            meets[c.first].append(ribs.labels[c.second])
            meets[c.second].append(ribs.labels[c.first])
    joins: list[list[str]] = [[] for _ in ribs.ribs]
    for splice in ribs.splices:
        joins[splice.first].append(ribs.labels[splice.second])
        joins[splice.second].append(ribs.labels[splice.first])
    columns: dict[str, list[Any]] = {
        "step": [k + 1 for k in range(len(order))],
        "label": _pick(ribs.labels, np.array(order)),
        "goes_in": [way_in(w) for w in together.way]
        + ["locked"] * (len(order) - len(together.order)),
        "meets": [" ".join(meets[i]) for i in order],
        "thickness_mm": _rounded(np.array([ribs.ribs[i].thickness for i in order]) * 1000, 3),
    }
    ways = np.vstack(
        [np.array(together.way).reshape(-1, 3), np.zeros((len(order) - len(together.order), 3))]
    )
    columns |= {f"way_{a}": _rounded(ways[:, k], 8) for k, a in enumerate("xyz")}
    frames = []
    for i in order:
        lies, part = _Lies.of(named.sheets, i), layout.parts[i]
        if part.bend is None:
            frames.append(lies.frame(part.pose[:3]))
        else:
            place = part.places(lies.flat[None])[0]
            # Of a piece that the outline but touches nothing is told.
            ends = part.outer[:, 0].min(), part.outer[:, 0].max()
            at = np.clip(lies.flat[:1], ends[0] + 2 * SHORTEST_PIECE, ends[1] - 2 * SHORTEST_PIECE)
            frames.append(
                (place, lies.frame(part.bend.poses()[part.bend.piece_at(at / 1000)[0]])[1])
            )
    columns |= _frame_columns(frames) | {"joins": [" ".join(joins[i]) for i in order]}
    return Table("rib", columns, order)


@dataclass(frozen=True, eq=False)
class _Lies:
    """How a part lies on its sheet: its place ``flat`` (2,) in mm at the lower left corner of its
    outline's extent there, and ``back`` (2, 2), which takes ways on the sheet to its own."""

    flat: NDArray[np.float64]
    back: NDArray[np.float64]

    @classmethod
    def of(cls, sheets: Sheets, i: int) -> _Lies:
        layout = sheets.layout
        low = np.min([r.min(axis=0) for r in layout.ways(i)[0]], axis=0)
        c, s = np.cos(layout.angle[i]), np.sin(layout.angle[i])
        back = np.array([[c, -s], [s, c]])
        return cls((low - layout.shift[i]) @ back, back)

    def frame(self, pose: NDArray[np.float64]) -> tuple[NDArray[np.float64], NDArray[np.float64]]:
        """Where that corner goes (3,) and which ways the sheet's two sides then run (2, 3), by a
        pose (3, 4)."""
        return pose @ [*self.flat, 0.0, 1.0], self.back @ pose[:, :2].T * 1000


def _frame_columns(
    frames: Sequence[tuple[NDArray[np.float64], NDArray[np.float64]]],
) -> dict[str, list[Any]]:
    places = np.array([f[0] for f in frames]).reshape(-1, 3)
    axes = np.array([f[1] for f in frames]).reshape(-1, 2, 3)
    return {
        name.format(a): _rounded(values[:, k], 8)
        for name, values in (("{}_m", places), ("right_{}", axes[:, 0]), ("up_{}", axes[:, 1]))
        for k, a in enumerate("xyz")
    }


def _bends(named: Named) -> Table | None:
    """Plane pieces of bent ribs: from where to where each goes, along which way on the sheet, and
    where it stands."""
    if (
        not isinstance(named.source, Ribs)
        or named.sheets is None
        or not any(r.bend for r in named.source.ribs)
    ):
        return None
    columns: dict[str, list[Any]] = {
        k: [] for k in ("label", "piece", "from_mm", "to_mm", "along_x", "along_y", "turn_deg")
    }
    frames, index = [], []
    for i, part in enumerate(named.sheets.layout.parts[: len(named.source.ribs)]):
        if part.bend is None:
            continue
        lies, at, poses = _Lies.of(named.sheets, i), part.bend.at * 1000, part.bend.poses()
        low, high = part.outer[:, 0].min(), part.outer[:, 0].max()
        turns = np.degrees(np.append(part.bend.turns, 0.0))
        room = np.minimum(at[1:], high) - np.maximum(at[:-1], low)
        pieces = np.flatnonzero(room > SHORTEST_PIECE).tolist()
        for n, k in enumerate(pieces):
            ends = np.clip(at[k : k + 2], low, high) - lies.flat[0]
            turn = turns[k] if k != pieces[-1] else 0.0
            row = (
                part.label,
                n + 1,
                *_rounded(ends, 4),
                *_rounded(lies.back[:, 0], 8),
                round(float(turn), 4),
            )
            for column, value in zip(columns.values(), row, strict=True):
                column.append(value)
            frames.append(lies.frame(poses[k]))
            index.append(i)
    return Table("rib", columns | _frame_columns(frames), index)


def _framed(build: Callable[[Labelled, Named], Table | None]) -> Callable[[Named], Table | None]:
    return lambda named: build(named.labelled, named) if named.framed else None


SCHEDULES: dict[str, Callable[[Named], Table | None]] = {
    "nodes": _framed(_nodes),
    "members": _framed(_members),
    "member_types": _framed(_member_types),
    "node_angles": _framed(_node_angles),
    "panels": _framed(_panels),
    "ribs": _ribs,
    "parts": _parts,
    "sheets": _sheets,
    "poses": _poses,
    "assembly": _assembly,
    "bends": _bends,
    "bars": _framed(_bars),
}
"""Builders by file name; each gives ``None`` where there is nothing to tell."""


def schedule(name: str, named: Named) -> Table | None:
    """The table of that name; raises ``KeyError`` for an unknown one."""
    return SCHEDULES[name](named)
