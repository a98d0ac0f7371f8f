"""Chapter Frame: members along a net's edges and panels in its cells."""

from __future__ import annotations

from dataclasses import replace
from typing import Literal

import numpy as np
from numpy.typing import NDArray

from ..core.geometry.nets import MARKS, Net
from ..core.materials import MATERIALS
from ..core.naming.numbering import bands
from ..core.panels.panels import Panels, panel_net
from ..core.panels.seats import member_heights
from ..core.sections import Section
from ..core.structure.builders.from_net import from_net, from_strands
from ..core.structure.builders.heights import SET_OUT
from ..core.structure.structure import Structure
from .base import (
    Clause,
    ClauseError,
    Figure,
    Made,
    Notice,
    Remedy,
    Take,
    Work,
    choice,
    headline,
    number,
    section,
)
from .catalogue import SHEET_WORDS, not_made, section_of

__all__ = ["FrameNet", "PanelCells", "in_each_other"]

HOPELESS = 10.0
"""A member that would have to be so many times as long as it is cannot be helped by its section."""
CLASH = 1e-4
"""What (m) panels and members may share."""
NET = Take(name="net", types=("Net",), label="Net")


class FrameNet(Clause):
    kind = "frame"
    chapter = "Frame"
    title = "Frame the net"
    summary = (
        "A member along every edge, or one along every strand of a weave; a section of its own for "
        "the border."
    )
    sentence = (
        "**Frame** in {inner}, edge in {border}, {marks}[marks=marked| in {main}, second in {second}, third in {third}], "
        "with the net at the {set_out} of the section, turned {roll} from the "
        "normal, {gap} apart at nodes."
    )
    takes = (NET,)
    gives = "Structure"

    inner: str = section("CHS 88.9 × 4", "Section", "Members along inner edges")
    border: str = section("CHS 139.7 × 5", "Edge section", "Members along the border")
    marks: Literal["alike", "marked"] = choice(
        "alike", {"alike": "marked edges alike", "marked": "edges marked main"}, "Marked edges"
    )
    main: str = section("CHS 168.3 × 6.3", "Main section", "Members along edges marked as main")
    second: str = section("CHS 114.3 × 5", "Second section")
    third: str = section("CHS 88.9 × 4", "Third section")
    set_out: Literal["top", "centre", "bottom"] = choice(
        "centre",
        {k: k for k in SET_OUT},
        "Set-out line",
        "Which line of the section lies on the net",
    )
    roll: float = number(
        0.0, "°", -180.0, 180.0, 1.0, "Roll", "Turn of the section about its axis from the normal"
    )
    gap: float = number(
        10.0,
        "mm",
        0.0,
        500.0,
        1.0,
        "Gap at nodes",
        "Least clear distance between members at a node",
    )

    def make(self, work: Work) -> Made:
        net: Net = work.inputs["net"]
        inner, border = section_of(self.inner, "inner"), section_of(self.border, "border")
        marked: tuple[Section, ...] = ()
        warnings = not_made(inner, "inner") + not_made(border, "border")
        if self.marks == "marked":
            marked = (
                section_of(self.main, "main"),
                section_of(self.second, "second"),
                section_of(self.third, "third"),
            )
            for section, value in zip(marked, ("main", "second", "third"), strict=True):
                warnings += not_made(section, value)
            if net.marks is None or not net.marks.any():
                warnings.append(
                    Notice(
                        "No edge of the net is marked; add “Mark edges” before the frame.",
                        value="marks",
                    )
                )
        build = from_net if net.weave is None else from_strands
        structure = build(
            net,
            inner,
            border,
            self.set_out,
            np.radians(self.roll),
            self.gap / 1000,
            marked,
            work.key("net"),
        )
        warnings += _no_length_left(structure)
        return Made(structure, structure_figures(structure), warnings)


def structure_figures(structure: Structure) -> dict[str, Figure]:
    lengths = structure.cut_lengths
    return {
        "members": headline("Members", len(lengths)),
        "nodes": headline("Nodes", len(structure.places)),
        "total_length": headline("Total length", float(np.maximum(lengths, 0).sum()), "m", 1),
        "mass": headline("Mass", float(structure.masses.sum()), "kg", 0),
        "shortest": headline("Shortest member", float(structure.lengths.min()), "m", 3),
        "longest": headline("Longest member", float(structure.lengths.max()), "m", 3),
        "distinct_lengths": headline(
            "Lengths, to 1 mm", int(bands(structure.lengths, 0.001).max()) + 1
        ),
        "largest_set_back": headline(
            "Largest set-back", float(structure.set_back.max()) * 1000, "mm", 0
        ),
    }


def _no_length_left(structure: Structure) -> list[Notice]:
    gone = np.flatnonzero(structure.cut_lengths <= 0)
    if not gone.size:
        return []
    worst = int(gone[np.argmin(structure.cut_lengths[gone])])
    at = structure.middles[worst]
    length, needed = structure.lengths[worst], float(structure.set_back[worst].sum())
    why = (
        f"would need {needed * 1000:.0f} mm. A slimmer section or fewer bays would work"
        if needed < HOPELESS * length
        else "meets another at so small an angle that no set-back parts them; the net needs another edge there"
    )
    text = (
        f"{gone.size} member{'s have' if gone.size > 1 else ' has'} no length left between the set-backs; the worst is "
        f"{length * 1000:.0f} mm long and {why}."
    )
    return [
        Notice(
            text,
            "member",
            tuple(map(int, gone[:200])),
            (float(at[0]), float(at[1]), float(at[2])),
            "inner",
        )
    ]


class PanelCells(Clause):
    kind = "panels"
    chapter = "Frame"
    title = "Panel the cells"
    summary = "A flat panel in every cell; cells that are not flat enough are split into triangles."
    sentence = (
        "**Panel** {cells} in {thickness} {material} with joints of {joint}, flat within {tolerance} or else "
        "split, {seat}[seat=raised| by {height}]."
    )
    takes = (NET, Take(name="frame", types=("Structure",), label="Structure", optional=True))
    gives = "Panels"

    cells: Literal["all", "main", "second", "third", "others"] = choice(
        "all",
        {
            "all": "the cells",
            "main": "cells marked main",
            "second": "cells marked second",
            "third": "cells marked third",
            "others": "unmarked cells",
        },
        "Cells",
    )
    thickness: float = number(12.0, "mm", 0.1, 500.0, 0.5, "Thickness")
    material: str = choice("glass", SHEET_WORDS, "Material")
    joint: float = number(
        20.0, "mm", 0.0, 500.0, 1.0, "Joint", "Clear distance between neighbouring panels"
    )
    tolerance: float = number(
        3.0,
        "mm",
        0.0,
        500.0,
        0.5,
        "Flat within",
        "Largest distance of a corner from the panel's best plane",
    )
    seat: Literal["packers", "net", "raised"] = choice(
        "packers",
        {
            "packers": "on packers clear of the members",
            "net": "with their undersides on the net",
            "raised": "raised from the net",
        },
        "Seat",
        "How panels sit: packers are as high as the members reach above the panels' planes",
    )
    height: float = number(
        20.0, "mm", -1000.0, 1000.0, 1.0, "Height", "From the net to the underside"
    )

    def make(self, work: Work) -> Made:
        net: Net = work.inputs["net"]
        structure: Structure | None = work.inputs.get("frame")
        if structure is not None and work.key("net") not in structure.sources:
            structure = None  # a structure of another net says nothing of these panels
        kept = None if self.cells == "all" else self._marked(net)
        panels = panel_net(
            net,
            self.tolerance / 1000,
            self.material,
            self.thickness / 1000,
            self.joint / 1000,
            kept,
            work.key("net"),
        )
        raised = self.height / 1000 if self.seat == "raised" else 0.0
        if self.seat == "packers" and structure is not None:
            raised = packer_height(panels, structure)
        panels = replace(panels, raised=raised)
        density = MATERIALS[self.material].density
        area = float(panels.areas.sum())
        figures = {
            "panels": headline("Panels", panels.count),
            "split": headline("Cells split", len(panels.split_cells)),
            "area": headline("Panel area", area, "m²", 1),
            "flatness": headline("Least flat panel", float(panels.flatness.max()) * 1000, "mm", 2),
            "largest": Figure("Largest panel", float(panels.areas.max()), "m²", 2),
            "mass": Figure("Panel mass", area * panels.thickness * density, "kg", 0),
            "joint": Figure("Joint", self.joint, "mm", 1),
            "raised": Figure("Underside above the net", raised * 1000, "mm", 1),
        }
        warnings = _split(panels, net, self.tolerance)
        if structure is not None:
            warnings += in_each_other(panels, structure)
        return Made(panels, figures, warnings)

    def _marked(self, net: Net) -> NDArray[np.bool_]:
        """Which cells (C,) get a panel."""
        marks = np.zeros(net.cell_count, np.int32) if net.cell_marks is None else net.cell_marks
        kept = np.asarray(marks == (0 if self.cells == "others" else MARKS.index(self.cells)))
        if not kept.any():
            raise ClauseError(
                "No cell of the net is marked so; “Mark cells” before the panels does it.", "cells"
            )
        return kept


def packer_height(panels: Panels, structure: Structure) -> float:
    """The least height (m), to a tenth of a millimetre and not below 0, at which panels are clear
    of the members beside them."""
    heights = member_heights(panels, structure)[0]
    return max(float(np.ceil(heights.max(initial=0.0) * 1e4 - 1e-6)) / 1e4, 0.0)


def in_each_other(panels: Panels, structure: Structure, of: str = "") -> list[Notice]:
    """What is said where panels share space with members beside them; ``of`` names the input the
    panels come from, where they are not the clause's own."""
    heights, panel, member = member_heights(panels, structure)
    into = heights - panels.raised
    clash = np.flatnonzero(into > CLASH)
    if not clash.size:
        return []
    needed = float(np.ceil(heights.max() * 1e4 - 1e-6)) / 10
    worst = int(clash[np.argmax(into[clash])])
    at = structure.middles[member[worst]]
    facts = {
        "clashes": clash.size,
        "sides": len(heights),
        "depth": into[worst] * 1000,
        "needed": needed,
    }
    remedy = Remedy(
        f"Raise the panels by {needed:g} mm", {"seat": "raised", "height": needed}, of=of
    )
    which = tuple(map(int, np.unique(panel[clash])[:2000]))
    clashing = Notice.coded(
        "panels in members",
        facts,
        of="panel",
        which=which,
        at=(float(at[0]), float(at[1]), float(at[2])),
        value=None if of else "seat",
        remedies=(remedy,),
    )
    return [clashing]


def _split(panels: Panels, net: Net, tolerance: float) -> list[Notice]:
    cells = panels.split_cells
    if not cells.size:
        return []
    worst = int(cells[np.argmax(net.flatness[cells])])
    at = net.vertices[net.corners[net.offsets[worst] : net.offsets[worst + 1]]].mean(axis=0)
    pieces = np.flatnonzero(np.isin(panels.cell, cells))
    text = (
        f"{cells.size} of {net.cell_count} cells {'are' if cells.size > 1 else 'is'} not flat within {tolerance:g} mm "
        f"and {'were' if cells.size > 1 else 'was'} split; the worst is {net.flatness[worst] * 1000:.1f} mm out."
    )
    return [
        Notice(
            text,
            "panel",
            tuple(map(int, pieces[:2000])),
            (float(at[0]), float(at[1]), float(at[2])),
            "tolerance",
        )
    ]
