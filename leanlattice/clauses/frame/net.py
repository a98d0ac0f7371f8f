"""The clause that puts members along a net's edges or strands."""

from __future__ import annotations

from typing import Literal

import numpy as np
from numpy.typing import NDArray

from ...core.geometry.nets import Net
from ...core.nets.strands import families_of
from ...core.sections import Section
from ...core.structure.builders.from_net import from_net
from ...core.structure.builders.heights import SET_OUT
from ..base import Made, Notice, Remedy, Work, choice, number, section
from ..catalogue import not_made, section_of
from .common import MEETING, NAMED, NET, ONTO, FrameClause, check_edges

__all__ = ["FrameNet"]

WAYS = {"first": 0, "second": 1, "third": 2}
"""Families of strands that run through nodes."""


class FrameNet(FrameClause):
    kind = "frame"
    version = 2
    title = "Frame the net"
    summary = (
        "A member along every edge, or ones that run on through nodes one way, or along every strand "
        "of a weave; a section of its own for the border."
    )
    sentence = (
        "**Frame** in {inner}, edge in {border}, {marks}[marks=marked| in {main}, second in {second}, third in {third}], "
        "with the net at the {set_out} of the section, turned {roll} from the "
        "normal, {through}, " + MEETING + NAMED + "."
    )
    takes = (NET, ONTO)
    keeps_numbers = True

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
    through: Literal["none", "first", "second", "third"] = choice(
        "none",
        {
            "none": "one for each edge or strand",
            "first": "running through nodes one way",
            "second": "running through nodes another way",
            "third": "running through nodes a third way",
        },
        "Running through",
        "Members of one way run on through nodes; others end at them",
    )

    def make(self, work: Work) -> Made:
        net: Net = work.inputs["net"]
        check_edges(net)
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
        own = from_net(
            net,
            inner,
            border,
            self.set_out,
            np.radians(self.roll),
            self.wanted_meeting(),
            marked,
            work.key("net"),
            self._running_on(net, warnings),
        )
        return self.added(work, own, warnings)

    def _running_on(self, net: Net, warnings: list[Notice]) -> NDArray[np.int64] | None:
        """Where members run on through nodes (2E,), if they do; adds what is told of it."""
        if self.through == "none":
            return None
        if net.weave is not None:
            warnings.append(_of_ways("runs on anyway"))
            return None
        families, wanted = families_of(net), WAYS[self.through]
        if not families.passes:
            warnings.append(_of_ways("runs on nowhere"))
        elif wanted >= families.count:
            warnings.append(_of_ways("runs on fewer ways", families.count))
        return families.passing_ends(min(wanted, families.count - 1))


def _of_ways(code: str, ways: int = 0) -> Notice:
    """What is told where members cannot run through nodes as they are to."""
    each = Remedy("One for each edge or strand", {"through": "none"})
    return Notice.coded(code, {"ways": ways}, value="through", remedies=(each,))
