"""The clause that puts trusses along lines."""

from __future__ import annotations

from typing import Literal

import numpy as np
from numpy.typing import NDArray

from ...core.geometry.lines import Line
from ...core.structure.builders.trusses import NoSide, TrussForm, trusses
from ..base import ClauseError, Made, Work, choice, count, headline, number, section
from ..by_size import DEEPER, DEPTHS
from ..catalogue import not_made, section_of
from ..shape.common import line_aid
from .common import MEETING, NAMED, ONTO, FrameClause
from .lines import ALONG, CURVES_OR_NET, followed

__all__ = ["Trusses"]

Rows = NDArray[np.int64]
MOST_PANELS = 20_000
LEAST = 1e-3
"""Metres of depth below which there is no room for a web."""


class Trusses(FrameClause):
    kind = "trusses"
    joins = True
    title = "Put trusses along"
    builds = "trusses"
    summary = "Trusses along curves, strands or borders: chords at a depth, and webs between."
    sentence = (
        "**Put** {webs} trusses along {along}, {panelled}[panelled=even| {panels} panels each], "
        "{chords} {side}, {reach}[reach=even| {depth}][reach=lens| {depth} at the ends to {middle} "
        "half-way]¦, turned {inclination}[chords=two|, {width} apart with {lacing} between them], "
        "chords in {top}, {bend}, {through}, "
        "second chords in {bottom}, webs in {web}, " + MEETING + NAMED + "."
    )
    takes = (*CURVES_OR_NET, ONTO)

    webs: Literal["warren", "pratt", "howe", "crossed", "vierendeel"] = choice(
        "warren",
        {
            "warren": "Warren",
            "pratt": "Pratt",
            "howe": "Howe",
            "crossed": "cross-braced",
            "vierendeel": "Vierendeel",
        },
        "Webs",
        "In Pratt trusses diagonals fall towards the middle, in Howe trusses they rise",
        pictured=True,
    )
    along: Literal["curves", "first", "second", "third", "border"] = choice(
        "curves", ALONG, "Along"
    )
    panelled: Literal["even", "bays"] = choice(
        "even",
        {"even": "with", "bays": "with a panel between each two places of the line"},
        "Panels",
    )
    panels: int = count(8, 1, 400, "Panels", "Of equal lengths along the line")
    chords: Literal["one", "two"] = choice(
        "one", {"one": "the second chord", "two": "two second chords"}, "Second chords"
    )
    side: Literal["below", "above", "inside", "outside"] = choice(
        "below",
        {"below": "below", "above": "above", "inside": "inside", "outside": "outside"},
        "Side",
    )
    reach: Literal["even", "lens"] = choice(
        "even", {"even": "at a depth of", "lens": "at a depth that goes from"}, "Depth"
    )
    depth: float = number(
        1.0, "m", LEAST, 100.0, 0.05, "Depth", "Between the axes of the chords", by_size=DEPTHS
    )
    middle: float = number(1.6, "m", LEAST, 100.0, 0.05, "Depth half-way", by_size=DEEPER)
    inclination: float = number(
        0.0, "°", -90.0, 90.0, 1.0, "Inclination", "Turn of the truss about its line"
    )
    width: float = number(
        0.8, "m", LEAST, 100.0, 0.05, "Apart", "Between the two second chords", by_size=DEPTHS
    )
    lacing: Literal["posts", "laced"] = choice(
        "posts",
        {"posts": "posts", "laced": "posts and diagonals"},
        "Between second chords",
    )
    top: str = section("CHS 88.9 × 4", "Chords", "Along the lines")
    bend: Literal["straight", "bent"] = choice(
        "straight",
        {"straight": "straight from node to node", "bent": "bent as the line"},
        "Bending",
        "Bent chords are arcs from node to node; second ones run beside the line",
    )
    through: Literal["through", "between"] = choice(
        "through",
        {"through": "running through their nodes", "between": "from node to node"},
        "Chords run",
    )
    bottom: str = section("CHS 88.9 × 4", "Second chords")
    web: str = section("CHS 60.3 × 4", "Webs")

    def make(self, work: Work) -> Made:
        lines, runs = followed(work, self.along, "along")
        long = [k for k, line in enumerate(lines) if line.length > LEAST]
        if not long:
            raise ClauseError("The lines are points; no truss can lie along them.", "along")
        lines, runs = [lines[k] for k in long], [runs[k] for k in long] if runs else []
        self._check_panels(lines)
        top, bottom = section_of(self.top, "top"), section_of(self.bottom, "bottom")
        web = section_of(self.web, "web")
        warnings = not_made(top, "top") + not_made(bottom, "bottom") + not_made(web, "web")
        form = self._form()
        stands_on = runs if form.panels == 0 else []
        try:
            own = trusses(
                lines,
                form,
                (top, bottom, web),
                self.wanted_meeting(),
                work.key("net") if stands_on else "",
                stands_on,
            )
        except NoSide as error:
            raise ClauseError(
                f"A line leads straight {self.side} somewhere, so that no truss can be on that "
                "side of it; another side would work.",
                "side",
                error.at,
            ) from None
        made = self.added(work, own, warnings, near=0.001)
        made.figures.update(trusses=headline("Trusses", len(lines)))
        made.aids.update(self._handle(lines))
        return made

    def _form(self) -> TrussForm:
        return TrussForm(
            webs=self.webs,
            panels=self.panels if self.panelled == "even" else 0,
            depth=self.depth,
            middle=self.middle if self.reach == "lens" else None,
            side=self.side,
            inclination=np.radians(self.inclination),
            width=self.width if self.chords == "two" else 0.0,
            laced=self.lacing == "laced",
            bent=self.bend == "bent",
            through=self.through == "through",
        )

    def _check_panels(self, lines: list[Line]) -> None:
        if self.panelled == "bays":
            return
        if self.panels * len(lines) > MOST_PANELS:
            raise ClauseError(
                f"{len(lines)} lines with {self.panels} panels each are "
                f"{self.panels * len(lines):,}; at most {MOST_PANELS:,} can be worked with.",
                "panels",
            )
        closed = next((line for line in lines if line.closed), None)
        if closed is not None and self.panels < 3:
            raise ClauseError(
                f"A line comes back to its start; {self.panels} panels go nowhere along it. "
                "3 or more would work.",
                "panels",
                closed.places[0],
            )

    def _handle(self, lines: list[Line]) -> dict[str, NDArray[np.float64]]:
        """What the handle of the depth hangs on: the middle of the first line."""
        if self.inclination or self.side in ("inside", "outside"):
            return {}
        name = "depth" if self.reach == "even" else "middle"
        place = lines[0].at(np.array([lines[0].length / 2]))[0]
        return line_aid(name, place, [0.0, 0.0, -1.0 if self.side == "below" else 1.0])
