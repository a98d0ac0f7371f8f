"""Chapter Make: labels, types, flat parts and sheets."""

from __future__ import annotations

from dataclasses import dataclass
from functools import cached_property
from typing import Literal

import numpy as np
from numpy.typing import NDArray

from ..core.flat.parts import panel_parts
from ..core.flat.sheets import Layout, Stock, set_out_rows
from ..core.framing.frames import Frame
from ..core.framing.labels import bands, numbers_by_position, type_numbers
from ..core.framing.panels import Panels
from ..core.geometry.nets import Net
from .base import Clause, ClauseError, Figure, Made, Notice, Take, Work, choice, number

__all__ = ["Label", "Labelled", "SetOutSheets", "Sheets"]

Index = NDArray[np.int32]


@dataclass(frozen=True, eq=False)
class Labelled:
    """A frame and its panels with their names and types.

    ``node``, ``member`` and ``panel`` hold numbers from 1; members of the border count for themselves and carry
    another letter. ``member_type`` and ``panel_type`` hold types from 1; panels of different corner counts have
    different types. ``tolerance`` in metres.
    """

    frame: Frame
    panels: Panels | None
    series: str
    node: Index
    member: Index
    panel: Index
    member_type: Index
    panel_type: Index
    tolerance: float

    @property
    def prefixes(self) -> dict[str, str]:
        return {name: self.series + letter for name, letter in (("node", "N"), ("member", "M"), ("edge", "E"),
                ("panel", "P"), ("member_type", "T"), ("panel_type", "Q"))}  # fmt: skip

    def _named(self, prefix: str, numbers: Index) -> list[str]:
        return [f"{self.prefixes[prefix]}{n}" for n in numbers]

    @cached_property
    def node_labels(self) -> list[str]:
        return self._named("node", self.node)

    @cached_property
    def member_labels(self) -> list[str]:
        inner, edge = self.prefixes["member"], self.prefixes["edge"]
        border = self.frame.net.border
        return [f"{edge if b else inner}{n}" for n, b in zip(self.member, border, strict=True)]

    @cached_property
    def panel_labels(self) -> list[str]:
        return self._named("panel", self.panel)


def _positions(net: Net, places: NDArray[np.float64]) -> tuple[NDArray[np.float64], NDArray[np.float64]]:
    """Distance along the shape's longer direction and across it, in metres, of parameters ``places`` (n, 2)."""
    sizes = np.array(net.surface.lengths)
    along, across = (0, 1) if sizes[0] > sizes[1] else (1, 0)
    metres = places * sizes
    return metres[:, along], metres[:, across]


def _mean_uv(net: Net, corners: Index, offsets: Index) -> NDArray[np.float64]:
    uv = net.uv[corners]
    if net.surface.closed_u:  # across the seam, count on past it
        first = np.repeat(uv[offsets[:-1]], np.diff(offsets), axis=0)
        uv = uv.copy()
        uv[:, 0] += np.round(first[:, 0] - uv[:, 0])
    return np.asarray(np.add.reduceat(uv, offsets[:-1], axis=0) / np.diff(offsets)[:, None])


def _numbered(net: Net, places: NDArray[np.float64]) -> Index:
    return numbers_by_position(*_positions(net, places), 0.2 * float(np.median(net.edge_lengths))) + 1


def _panel_types(panels: Panels, tolerance: float) -> Index:
    """Types from 1 by side lengths and by the distances between every other corner."""
    counts = np.diff(panels.offsets)
    out, used = np.zeros(panels.count, np.int32), 0
    for k in np.unique(counts):
        rows = np.flatnonzero(counts == k)
        p = panels.net.vertices[panels.corners[panels.offsets[rows][:, None] + np.arange(k)]]
        features = np.stack([np.linalg.norm(np.roll(p, -s, axis=1) - p, axis=2) for s in (1, 2)], axis=2)
        types, found = type_numbers(features, tolerance)
        out[rows] = types + used + 1
        used += found
    return out


class Label(Clause):
    kind = "label"
    chapter = "Make"
    title = "Label and sort into types"
    summary = "Names that follow position, and types of members and panels that are equal within a tolerance."
    sentence = "**Label** nodes, members and panels {series}, equal within {tolerance} being of one type."
    takes = (
        Take(name="frame", type="Frame", label="Frame"),
        Take(name="panels", type="Panels", label="Panels", optional=True),
    )
    gives = "Labelled"

    series: Literal["", "A", "B", "C", "D"] = choice(
        "", {"": "without a series letter"} | {s: f"in series {s}" for s in "ABCD"}, "Series",
        "A letter before all names, for a second frame in the same statement",
    )  # fmt: skip
    tolerance: float = number(1.0, "mm", 0.01, 200.0, 0.1, "Tolerance")

    def make(self, work: Work) -> Made:
        frame: Frame = work.inputs["frame"]
        panels: Panels | None = work.inputs.get("panels")
        if panels is not None and panels.net is not frame.net:
            raise ClauseError("The panels and the frame lie on different nets; choose both from the same one.")
        net, within = frame.net, self.tolerance / 1000
        every_two = np.arange(0, 2 * len(net.edges) + 1, 2, dtype=np.int32)
        middles = _mean_uv(net, net.edges.ravel(), every_two)
        member = np.zeros(len(net.edges), np.int32)
        member_type, used = np.zeros(len(net.edges), np.int32), 0
        for rows in (np.flatnonzero(~net.border), np.flatnonzero(net.border)):
            if rows.size:
                member[rows] = _numbered(net, middles[rows])
        for s in range(len(frame.sections)):
            rows = np.flatnonzero(frame.section_of == s)
            if rows.size:
                found = bands(frame.cut_lengths[rows], within)
                member_type[rows] = found + used + 1
                used += int(found.max()) + 1
        empty = np.zeros(0, np.int32)
        labelled = Labelled(
            frame, panels, self.series, _numbered(net, net.uv), member,
            _numbered(net, _mean_uv(net, panels.corners, panels.offsets)) if panels else empty,
            member_type, _panel_types(panels, within) if panels else empty, within,
        )  # fmt: skip
        figures = {"member_types": Figure("Member types", used)}
        if panels:
            figures["panel_types"] = Figure("Panel types", int(labelled.panel_type.max()))
        return Made(labelled, figures)


@dataclass(frozen=True, eq=False)
class Sheets:
    """Flat parts of the panels of ``labelled``, set out on sheets. ``part_of_panel`` (panels,) is −1 where there is
    no part."""

    labelled: Labelled
    layout: Layout
    part_of_panel: Index


class SetOutSheets(Clause):
    kind = "sheets"
    chapter = "Make"
    title = "Set panels out on sheets"
    summary = "Every panel as a flat part with its names, in rows on sheets."
    sentence = (
        "**Set out** the panels on sheets of {width} × {height}, {spacing} apart and {margin} from the sheet's edge."
    )
    takes = (Take(name="labelled", type="Labelled", label="Labels"),)
    gives = "Sheets"

    width: float = number(6000.0, "mm", 100.0, 30000.0, 10.0, "Sheet length")
    height: float = number(3210.0, "mm", 100.0, 30000.0, 10.0, "Sheet width")
    spacing: float = number(20.0, "mm", 0.0, 1000.0, 1.0, "Spacing", "Least distance between parts")
    margin: float = number(20.0, "mm", 0.0, 1000.0, 1.0, "Margin", "Free strip along the sheet's edge")

    def make(self, work: Work) -> Made:
        labelled: Labelled = work.inputs["labelled"]
        if labelled.panels is None:
            raise ClauseError("There are no panels to set out; add a “Panel the cells” clause before the labels.")
        if 2 * self.margin >= min(self.width, self.height):
            raise ClauseError(
                f"A margin of {self.margin:g} mm leaves nothing of a sheet {self.width:g} × {self.height:g} mm; less "
                f"than {min(self.width, self.height) / 2:g} mm works.",
                "margin",
            )
        made = panel_parts(labelled.panels, labelled.panel_labels, work.progress)
        layout = set_out_rows(made.parts, Stock(self.width, self.height, self.margin, self.spacing))
        on = layout.sheet >= 0
        figures = {
            "parts": Figure("Flat parts", int(on.sum())),
            "sheets": Figure("Sheets", layout.sheet_count),
            "used": Figure("Sheet used", float(layout.used().mean() * 100) if on.any() else 0.0, "%", 0),
            "cut_length": Figure("Cutting length", sum(p.cut_length for p in made.parts) / 1000, "m", 1),
        }
        return Made(Sheets(labelled, layout, made.part_of_panel), figures,
                    self._notices(labelled, made.too_small, made.unlabelled, layout, made.part_of_panel))  # fmt: skip

    def _notices(
        self, labelled: Labelled, too_small: list[int], unlabelled: list[int], layout: Layout, part_of: Index
    ) -> list[Notice]:
        off = [int(i) for i in np.flatnonzero((part_of >= 0) & (layout.sheet[part_of] < 0))]
        told = (
            (too_small, f"too small for a joint of {labelled.panels.joint * 1000 if labelled.panels else 0:g} mm and "
             "left out; a narrower joint or fewer bays would work", "margin"),
            (off, f"larger than a sheet of {self.width:g} × {self.height:g} mm less its margin and left out; a larger "
             "sheet or more bays would work", "width"),
            (unlabelled, "without room for all their names; they carry those that fit", None),
        )  # fmt: skip
        out = []
        for which, text, value in told:
            if which:
                names = ", ".join(labelled.panel_labels[i] for i in which[:5]) + (" …" if len(which) > 5 else "")
                one = "is" if len(which) == 1 else "are"
                out.append(Notice(f"{len(which)} panel{'s' if len(which) > 1 else ''} ({names}) {one} {text}.",
                                  "panel", tuple(which[:2000]), value=value))  # fmt: skip
        return out
