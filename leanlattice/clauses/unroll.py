"""The clause that lays a net flat on sheets, with an opening in each cell."""

from __future__ import annotations

from typing import Literal

import numpy as np
from numpy.typing import NDArray

from ..core.flat.seams import Room
from ..core.flat.unrolling import Pierced, Unrolled, UnrollingError, unrolled_net
from ..core.geometry.nets import Net
from ..core.panels.panels import Sheet
from .base import (
    Clause,
    ClauseError,
    Made,
    Notice,
    Take,
    Work,
    choice,
    counted,
    headline,
    number,
)
from .catalogue import SHEET_WORDS
from .said import metres, mm_by

__all__ = ["Unroll"]

MOST = 4000
"""Cells that can be worked with."""


class Unroll(Clause):
    kind = "unroll"
    chapter = "Make"
    title = "Unroll"
    builds = "unrolled skin"
    summary = "A bent wall or roof laid flat in sheets parted between cells, cells pierced or not."
    sentence = (
        "**Unroll** the net in sheets of {thickness} {material}, none larger than {length} × "
        "{width}, its cells {cells}[cells=pierced| to {share} of the way to their corners, rounded "
        "by {radius}].¦ Tell of those stretched by more than {stretch}."
    )
    takes = (Take(name="net", types=("Net",), label="Net"),)
    gives = "Unrolled"

    thickness: float = number(3.0, "mm", 0.1, 50.0, 0.1, "Thickness")
    material: str = choice("aluminium", SHEET_WORDS, "Material")
    length: float = number(2950.0, "mm", 50.0, 100_000.0, 50.0, "Greatest length")
    width: float = number(1450.0, "mm", 20.0, 100_000.0, 50.0, "Greatest width")
    cells: Literal["whole", "pierced"] = choice(
        "pierced", {"whole": "whole", "pierced": "pierced"}, "Cells"
    )
    share: float = number(60.0, "%", 1.0, 98.0, 1.0, "Opening", "Of the way to the cell's corners")
    radius: float = number(0.05, "m", 0.0, 10.0, 0.01, "Radius of corners")
    stretch: float = number(
        0.1, "%", 0.0, 100.0, 0.05, "Stretch", "By which a length differs from that on the surface"
    )

    def make(self, work: Work) -> Made:
        net: Net = work.inputs["net"]
        if net.cell_count > MOST:
            raise ClauseError(
                f"The net has {net.cell_count:,} cells; at most {MOST:,} can be unrolled.", "cells"
            )
        pierced = Pierced(self.share / 100, self.radius) if self.cells == "pierced" else None
        room = Room(self.length / 1000, self.width / 1000)
        sheet = Sheet(self.material, self.thickness / 1000)
        try:
            unrolled = unrolled_net(net, pierced, room, sheet, work.progress)
        except UnrollingError as error:
            raise ClauseError(str(error)) from None
        area = sum(part.area for part in unrolled.parts) / 1e6
        figures = {
            "unrolled": headline("Unrolled parts", unrolled.count),
            "pierced_cells": headline("Openings", int(unrolled.openings.sum())),
            "unrolled_area": headline("Unrolled area", area, "m²", 2),
            "stretched": headline("Most stretched", unrolled.stretch.max() * 100, "%", 3),
        }
        return Made(unrolled, figures, self._notices(unrolled))

    def _notices(self, unrolled: Unrolled) -> list[Notice]:
        much = np.flatnonzero(unrolled.stretch > self.stretch / 100)
        worst = float(unrolled.stretch.max()) * 100
        stretched = (
            f"{counted(len(much), 'part is', 'parts are')} stretched by more than "
            f"{self.stretch:g} %, the most by {worst:.2f} %: the surface bends both ways, "
            "or closes like a tube."
        )
        large = (
            f"{counted(len(unrolled.large), 'part is', 'parts are')} of one cell and larger than "
            f"{mm_by(self.length, self.width)}; a smaller module, or larger sheets, would work."
        )
        out = _of_parts(unrolled, much, stretched, "stretch")
        out += _of_parts(unrolled, unrolled.large, large, "width")
        if unrolled.clamped:
            count = counted(unrolled.clamped, "opening has", "openings have")
            text = f"{count} no room for a radius of {metres(self.radius)} and got the largest that fits."
            out.append(Notice(text, value="radius"))
        return out


def _of_parts(
    unrolled: Unrolled, which: NDArray[np.integer], text: str, value: str
) -> list[Notice]:
    """A notice of some parts, with the place of the first; none of none."""
    if not len(which):
        return []
    x, y, z = unrolled.rings[int(which[0])][0].mean(axis=0).tolist()
    return [Notice(text, "unrolled", tuple(map(int, which[:2000])), (x, y, z), value)]
