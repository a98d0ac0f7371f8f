"""The clause that makes some panels of another sheet."""

from __future__ import annotations

from typing import ClassVar, Literal

import numpy as np
from numpy.typing import NDArray

from ...core.geometry.nets import MARKS, Net
from ...core.geometry.polygons import best_planes
from ...core.materials import MATERIALS
from ...core.nets.thinning import chosen_by_seed
from ...core.panels.panels import Panels, Sheet, with_sheet
from ..base import (
    Clause,
    ClauseError,
    Figure,
    Made,
    Notice,
    Take,
    Work,
    choice,
    count,
    headline,
    number,
)
from ..catalogue import SHEET_WORDS
from ..lattice.common import NET
from ..shape.common import PULLS, share_of_pulls
from ..twisted import twist_figures, twisted_too_far

__all__ = ["GiveSheet"]

Array = NDArray[np.float64]
Mask = NDArray[np.bool_]
MARK = {name: name for name in (*MARKS[1:], MARKS[0])}
REACHED = 1 - 1e-9
"""Share of the way out of a pull's reach below which a panel is near it."""


class GiveSheet(Clause):
    kind = "give-sheet"
    chapter = "Frame"
    title = "Give panels a sheet"
    summary = "Some panels of another material or thickness: by chance, by marks, slope or size."
    sentence = (
        "**Make** {which}[which=share| {share} of {among}, by seed {seed},]"
        "[which=marked| {mark}][which=steep,level| {slope}][which=facing| {azimuth}, within "
        "{within},][which=large,small| {area}] of {thickness} {material}."
    )
    takes: ClassVar[tuple[Take, ...]] = (
        Take(name="panels", types=("Panels",), label="Panels"),
        NET.model_copy(update={"optional": True, "beside": True}),
        PULLS,
    )
    gives = "Panels"
    keeps_numbers = True

    which: Literal[
        "all", "share", "marked", "steep", "level", "facing", "large", "small", "near"
    ] = choice(
        "share",
        {
            "all": "all panels",
            "share": "by chance",
            "marked": "panels in cells marked",
            "steep": "panels that are steeper than",
            "level": "panels that are no steeper than",
            "facing": "panels that face",
            "large": "panels larger than",
            "small": "panels no larger than",
            "near": "panels within the reach of pulls",
        },
        "Which panels",
    )
    share: float = number(20.0, "%", 0.0, 100.0, 1.0, "Share", "Of all there are")
    among: Literal["all", "rest"] = choice(
        "rest",
        {"rest": "those still as they were", "all": "all panels"},
        "Among",
    )
    seed: int = count(1, 0, 100_000, "Seed")
    mark: str = choice("main", MARK, "Mark")
    slope: float = number(45.0, "°", 0.0, 90.0, 1.0, "Slope", "0° is level, 90° upright")
    azimuth: float = number(180.0, "°", -360.0, 360.0, 5.0, "Towards", "0° is +x, 90° is +y")
    within: float = number(45.0, "°", 1.0, 180.0, 1.0, "Within", "In plan")
    area: float = number(1.0, "m²", 0.0, 100_000.0, 0.1, "Area")
    thickness: float = number(3.0, "mm", 0.1, 500.0, 0.5, "Thickness")
    material: str = choice("aluminium", SHEET_WORDS, "Material")

    def make(self, work: Work) -> Made:
        panels: Panels = work.inputs["panels"]
        chosen = self._chosen(panels, work)
        made = with_sheet(panels, chosen, Sheet(self.material, self.thickness / 1000))
        told = self._told(panels, chosen) + twisted_too_far(made)
        return Made(made, self._figures(made, chosen) | twist_figures(made), told)

    def _chosen(self, panels: Panels, work: Work) -> Mask:
        """Which panels (n,) are meant; raises ``ClauseError`` where it cannot be told."""
        if self.which == "all":
            return np.ones(panels.count, bool)
        if self.which == "share":
            return self._by_chance(panels)
        if self.which == "marked":
            return self._marked(panels, work)
        if self.which == "large":
            return np.asarray(panels.areas > self.area)
        if self.which == "small":
            return np.asarray(panels.areas <= self.area)
        centres, normals = best_planes(panels.places, panels.corners, panels.offsets)
        if self.which == "near":
            far = share_of_pulls(work, centres, "which", "choose panels another way")
            return np.asarray(far < REACHED)
        if self.which == "facing":
            return self._facing(normals)
        steep = np.degrees(np.arccos(np.clip(np.abs(normals[:, 2]), 0.0, 1.0)))
        return np.asarray((steep > self.slope) == (self.which == "steep"))

    def _by_chance(self, panels: Panels) -> Mask:
        out = np.zeros(panels.count, bool)
        if self.among == "all":
            out[chosen_by_seed(np.arange(panels.count), self.share / 100, self.seed)] = True
            return out
        rest = np.flatnonzero(panels.sheet_of == 0)
        wanted = self.share / 100 * panels.count
        share = min(wanted / max(len(rest), 1), 1.0)
        out[chosen_by_seed(rest, share, self.seed)] = True
        return out

    def _marked(self, panels: Panels, work: Work) -> Mask:
        net: Net | None = work.inputs.get("net")
        if net is None or work.key("net") not in panels.sources:
            raise ClauseError(
                "The net the panels were put in is not chosen here, so that its marks are not "
                "known; choose that net, or other panels.",
                "which",
            )
        marks = np.zeros(net.cell_count, np.int32) if net.cell_marks is None else net.cell_marks
        return np.asarray(marks[panels.cell] == MARKS.index(self.mark))

    def _facing(self, normals: Array) -> Mask:
        """Those whose normal looks in a direction in plan; none that is level."""
        size = np.linalg.norm(normals[:, :2], axis=1)
        towards = np.radians(self.azimuth)
        cosine = normals[:, :2] @ [np.cos(towards), np.sin(towards)] / np.maximum(size, 1e-12)
        return np.asarray((size > 1e-6) & (cosine >= np.cos(np.radians(self.within)) - 1e-12))

    def _figures(self, panels: Panels, chosen: Mask) -> dict[str, Figure]:
        figures = {
            "panels": headline("Panels", panels.count),
            "given": Figure("Panels given this sheet", int(np.count_nonzero(chosen))),
            "area": headline("Panel area", float(panels.areas.sum()), "m²", 1),
            "mass": headline("Panel mass", float(panels.masses.sum()), "kg", 0),
            "sheets_of": headline("Kinds of sheets", len(panels.sheets)),
        }
        for k, sheet in enumerate(panels.sheets):
            mine = panels.sheet_of == k
            name = f"{sheet.thickness * 1000:g} mm {MATERIALS[sheet.material].title}"
            area, mass = panels.areas[mine].sum(), panels.masses[mine].sum()
            figures[f"panels_of_{k + 1}"] = Figure(f"Panels of {name}", int(mine.sum()))
            figures[f"area_of_{k + 1}"] = Figure(f"Area of {name}", float(area), "m²", 1)
            figures[f"mass_of_{k + 1}"] = Figure(f"Mass of {name}", float(mass), "kg", 0)
        return figures

    def _told(self, panels: Panels, chosen: Mask) -> list[Notice]:
        if self.which == "share" and self.among == "rest":
            rest = int((panels.sheet_of == 0).sum())
            if self.share / 100 * panels.count > rest + 0.5:
                text = (
                    f"{self.share:g} % of the panels are wanted, but only "
                    f"{100 * rest / panels.count:.0f} % have no sheet of their own yet: the shares "
                    "add up to more than all. Smaller ones, or a share of all panels, would work."
                )
                return [Notice(text, value="share")]
        if chosen.any():
            return []
        return [Notice("No panel is so, and none was given the sheet.", value="which")]
