"""The clause that puts panels in the cells of a net."""

from __future__ import annotations

from collections.abc import Callable, Mapping
from dataclasses import replace
from functools import partial
from typing import ClassVar, Literal

import numpy as np
from numpy.typing import NDArray

from ..core.geometry.nets import Net
from ..core.geometry.polygons import best_planes
from ..core.nets.insets import reaches
from ..core.panels.names import names_of_panels
from ..core.panels.outlines import outlines_of_panels
from ..core.panels.panels import Panels, panel_net
from ..core.panels.seats import MemberHeights, member_heights, member_reach
from ..core.panels.valleys import leaning_panels
from ..core.structure.structure import Structure
from .base import (
    TO_COME,
    Clause,
    ClauseError,
    Figure,
    Made,
    Notice,
    Remedy,
    Take,
    Work,
    choice,
    counted,
    headline,
    number,
)
from .by_size import JOINTS, SHEETS
from .catalogue import SERIES, SHEET_WORDS
from .frame.common import CELLS, NET, CellsWanted, marked_cells
from .said import mm
from .twisted import twist_figures

__all__ = ["PanelCells"]

CLASH = 1e-4
"""What (m) panels and members may share."""


class PanelCells(Clause):
    kind = "panels"
    chapter = "Frame"
    title = "Panel the cells"
    builds = "panels"
    summary = (
        "A panel in every cell; those that are not flat enough are twisted cold or split into "
        "triangles."
    )
    sentence = (
        "**Panel** {cells} in {thickness} {material}[seat=packers,net,raised| with joints of "
        "{joint}], {form}[form=flat,bent| within {tolerance}][form=bent| and {stress}]"
        "[form=flat,bent| or else split][form=pyramids| {rise} of their "
        "span high], {seat}[seat=raised| by {height}][seat=between|, {clear} clear of them, "
        "their undersides {height} above the net].¦ Named {series}, those equal within {alike} "
        "being of one type, {cut}."
    )
    takes = (
        NET,
        Take(name="frame", types=("Structure",), label="Structure", optional=True, regarded=True),
    )
    gives = "Panels"

    sketches: ClassVar[Mapping[str, tuple[str, ...]]] = {
        "panels": ("joint", "thickness", "height", "clear")
    }

    cells: CellsWanted = choice("all", CELLS, "Cells")
    thickness: float = number(12.0, "mm", 0.1, 500.0, 0.5, "Thickness", by_size=SHEETS)
    material: str = choice("glass", SHEET_WORDS, "Material")
    joint: float = number(
        20.0,
        "mm",
        0.0,
        500.0,
        1.0,
        "Joint",
        "Clear distance between neighbouring panels",
        by_size=JOINTS,
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
    form: Literal["flat", "bent", "pyramids"] = choice(
        "flat",
        {"flat": "flat", "bent": "flat or cold-bent", "pyramids": "as pyramids"},
        "Form",
        "Quads are cut flat and twisted to their corners; pyramids have a triangle on each side of "
        "a cell",
    )
    stress: float = number(
        15.0,
        "MPa",
        0.1,
        500.0,
        1.0,
        "Bending stress",
        "What twisting takes, at most; that of loads comes to it",
    )
    rise: float = number(
        25.0,
        "%",
        -200.0,
        200.0,
        1.0,
        "Rise",
        "Of the widest circle about a cell's middle; inward below 0",
    )
    seat: Literal["packers", "net", "raised", "between"] = choice(
        "packers",
        {
            "packers": "on packers clear of the members",
            "net": "with their undersides on the net",
            "raised": "raised from the net",
            "between": "between the members",
        },
        "Seat",
        "How panels sit: packers are as high as the members reach above the panels' planes",
    )
    height: float = number(
        20.0, "mm", -1000.0, 1000.0, 1.0, "Height", "From the net to the underside"
    )
    clear: float = number(
        10.0, "mm", 0.0, 500.0, 1.0, "Clear", "Between panels and the widest member beside them"
    )
    series: Literal["", "A", "B", "C", "D"] = choice(
        "", SERIES, "Series", "A letter before all names, for other panels"
    )
    alike: float = number(
        1.0, "mm", 0.01, 200.0, 0.1, "Tolerance of types", "What panels of one type may differ by"
    )

    cut: Literal["own", "alike"] = choice(
        "own",
        {"own": "each cut to its own corners", "alike": "all of a type cut alike"},
        "Cut",
        "What is cut alike is of the mean shape of its type; joints take up what its corners are "
        "off",
    )

    def make(self, work: Work) -> Made:
        net: Net = work.inputs["net"]
        structure: Structure | None = work.inputs.get("frame")
        if structure is not None and work.key("net") not in structure.sources:
            structure = None  # a structure of another net says nothing of these panels
        panels = self._laid(net, work.key("net"))
        if self.seat == "between":
            panels = replace(panels, joint=self._joint_between(panels, structure))
        beside = None if structure is None else member_heights(panels, structure)
        raised = self.height / 1000 if self.seat in ("raised", "between") else 0.0
        if self.seat == "packers" and beside is not None:
            raised = _packer_height(beside.height)
        panels = replace(
            panels,
            raised=raised,
            series=self.series,
            tolerance=self.alike / 1000,
            alike=self.cut == "alike",
        )
        warnings = _leaning(panels)
        if self.form != "pyramids":
            warnings = _split(panels, net, self.tolerance) + warnings
        if structure is not None and beside is not None:
            warnings += _in_members(panels, structure, beside)
        return Made(panels, self._figures(panels), warnings, partial(_types, panels))

    def _laid(self, net: Net, key: str) -> Panels:
        """Panels in the cells of a net, before it is known how they sit."""
        thickness, joint = self.thickness / 1000, self.joint / 1000
        return panel_net(
            net,
            self.tolerance / 1000,
            self.material,
            thickness,
            joint,
            kept=marked_cells(net, self.cells),
            source=key,
            apex=self._apexes(net),
            stress=self.stress * 1e6 if self.form == "bent" else 0.0,
        )

    def _figures(self, panels: Panels) -> dict[str, Figure]:
        return {
            "panels": headline("Panels", panels.count),
            "split": headline("Cells split", self._split_count(panels)),
            "area": headline("Panel area", float(panels.areas.sum()), "m²", 1),
            "flatness": headline("Least flat panel", float(panels.flatness.max()) * 1000, "mm", 2),
            "largest": Figure("Largest panel", float(panels.areas.max()), "m²", 2),
            "mass": Figure("Panel mass", float(panels.masses.sum()), "kg", 0),
            "panel_types": TO_COME,
            "tolerance": Figure("Equal within", self.alike, "mm", 2),
            "joint": Figure("Joint", panels.joint * 1000, "mm", 1),
            "raised": Figure("Underside above the net", panels.raised * 1000, "mm", 1),
        } | twist_figures(panels)

    def _split_count(self, panels: Panels) -> int:
        return len(panels.split_cells) if self.form != "pyramids" else 0

    def _apexes(self, net: Net) -> NDArray[np.float64] | None:
        """Tips (C, 3) of pyramids over cells, if that is what panels are."""
        if self.form != "pyramids":
            return None
        spans = 2 * np.maximum(reaches(net), 0.0)
        normals = best_planes(net.vertices, net.corners, net.offsets)[1]
        tips: NDArray[np.float64] = net.cell_means + (self.rise / 100 * spans)[:, None] * normals
        return tips

    def _joint_between(self, panels: Panels, structure: Structure | None) -> float:
        """Metres between panels that are clear of the members between them."""
        if structure is None:
            raise ClauseError(
                "Between which members panels lie is not told; choose a structure of this net, or "
                "another seat.",
                "seat",
            )
        return 2 * (max(member_reach(panels, structure), 0.0) + self.clear / 1000)


def _types(panels: Panels, check: Callable[[], None]) -> tuple[dict[str, Figure], list[Notice]]:
    """How many types there are, and how far those cut alike are off their corners."""
    types = int(names_of_panels(panels).panel_type.max(initial=0))
    figures = {"panel_types": headline("Panel types", types)}
    if not panels.alike:
        return figures, []
    off = outlines_of_panels(panels).off
    figures["cut_off_nodes"] = headline("Cut off their corners by", float(off.max()), "mm", 2)
    return figures, _closing(panels, off)


def _closing(panels: Panels, off: NDArray[np.float64]) -> list[Notice]:
    """What is said where corners are ``off`` (n,) mm so far that joints may close."""
    owner = np.repeat(np.arange(panels.count), np.diff(panels.offsets))
    both = off[owner] + np.where(panels.neighbour >= 0, off[panels.neighbour], 0.0)
    worst = int(np.argmax(both))
    if both[worst] <= panels.joint * 1000:
        return []
    which = np.unique(owner[both > panels.joint * 1000])
    needed = float(np.ceil(both[worst] * 10)) / 10
    x, y, z = panels.places[panels.corners[worst]].tolist()
    beside = counted(len(which), "panel", "panels")
    text = (
        f"Joints of {mm(panels.joint * 1000)} may close beside {beside}, "
        f"as those cut alike are off their corners by up to {mm(off.max(), '.1f')}; joints of "
        f"{mm(needed)}, or a smaller tolerance of types, would work."
    )
    return [Notice(text, "panel", tuple(map(int, which[:2000])), (x, y, z), "joint")]


def _packer_height(heights: NDArray[np.float64]) -> float:
    """The least height (m), to a tenth of a millimetre and not below 0, at which panels are clear
    of members that reach ``heights`` (k,) above their planes."""
    return max(float(np.ceil(heights.max(initial=0.0) * 1e4 - 1e-6)) / 1e4, 0.0)


def _in_members(panels: Panels, structure: Structure, beside: MemberHeights) -> list[Notice]:
    """What is said where panels share space with members ``beside`` them."""
    heights, panel, member = beside
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
    remedy = Remedy(f"Raise the panels by {mm(needed)}", {"seat": "raised", "height": needed})
    which = tuple(map(int, np.unique(panel[clash])[:2000]))
    clashing = Notice.coded(
        "panels in members",
        facts,
        of="panel",
        which=which,
        at=(float(at[0]), float(at[1]), float(at[2])),
        value="seat",
        remedies=(remedy,),
    )
    return [clashing]


def _leaning(panels: Panels) -> list[Notice]:
    """What is said where neighbouring panels run into each other."""
    sides = leaning_panels(panels)
    short = np.flatnonzero(sides.joint > panels.joint + CLASH)
    if not short.size:
        return []
    worst = int(short[np.argmax(sides.joint[short])])
    needed = float(np.ceil(sides.joint[worst] * 1e4 - 1e-6)) / 10
    x, y, z = sides.at[worst].tolist()
    which = np.unique(np.concatenate([sides.panel[short], sides.neighbour[short]]))
    facts = {"sides": short.size, "joint": panels.joint * 1000, "needed": needed}
    notice = Notice.coded(
        "panels in each other",
        facts,
        of="panel",
        which=tuple(map(int, which[:2000])),
        at=(x, y, z),
        value="joint",
        remedies=(Remedy(f"Joints of {mm(needed)}", {"joint": needed}),) if needed <= 500 else (),
    )
    return [notice]


def _split(panels: Panels, net: Net, tolerance: float) -> list[Notice]:
    cells = panels.split_cells
    if not cells.size:
        return []
    worst = int(cells[np.argmax(net.flatness[cells])])
    at = net.vertices[net.corners[net.offsets[worst] : net.offsets[worst + 1]]].mean(axis=0)
    pieces = np.flatnonzero(np.isin(panels.cell, cells))
    several = cells.size > 1
    text = (
        f"{cells.size} of {net.cell_count} cells {'are' if several else 'is'} not flat within "
        f"{mm(tolerance)} "
        f"and {'were' if several else 'was'} split; the worst is "
        f"{mm(net.flatness[worst] * 1000, '.1f')} out."
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
