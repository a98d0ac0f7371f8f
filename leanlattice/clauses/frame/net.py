"""The clause that puts members along a net's edges or strands."""

from __future__ import annotations

from typing import Literal

import numpy as np
from numpy.typing import NDArray

from ...core.geometry.nets import Net
from ...core.nets.strands import families_of
from ...core.sections import Section
from ...core.selection import Selection
from ...core.structure.builders.from_net import from_net
from ...core.structure.builders.heights import SET_OUT
from ..base import Made, Notice, Remedy, Work, choice, number, places, section
from ..catalogue import not_made, section_of
from ..shape.common import Place, checked_points
from .common import MEETING, NAMED, NET, ONTO, FrameClause, check_edges

__all__ = ["FrameNet"]

WAYS = {"first": 0, "second": 1, "third": 2}
"""Families of strands that run through nodes."""


class FrameNet(FrameClause):
    kind = "frame"
    version = 2
    title = "Frame the net"
    builds = "lattice"
    summary = (
        "A member along every edge, or ones that run on through nodes one way, or along every strand "
        "of a weave; a section of its own for the border."
    )
    sentence = (
        "**Frame** in {inner}, edge in {border} {edges}[edges=side| facing {facing}]"
        "[edges=heights| {low} and {high}][edges=loops,stretch| {places}], "
        "{marks}[marks=marked| in {main}, second in {second}, third in {third}], "
        "with the net at the {set_out} of the section¦, turned {roll} from the "
        "normal, {through}, " + MEETING + NAMED + "."
    )
    takes = (NET, ONTO)
    keeps_numbers = True

    inner: str = section("CHS 88.9 × 4", "Section", "Members along inner edges")
    border: str = section("CHS 139.7 × 5", "Edge section", "Members along the border")
    edges: Literal["border", "outer", "inner", "side", "heights", "loops", "stretch"] = choice(
        "border",
        {
            "border": "along the whole border",
            "outer": "along the outer border",
            "inner": "along openings",
            "side": "along the side",
            "heights": "along the border between heights of",
            "loops": "along the loops nearest to",
            "stretch": "along the border from the first to the last of",
        },
        "Edge members",
        "The rest of the border is framed as what is within; from place to place it runs "
        "counter-clockwise, seen from outside",
    )
    facing: float = number(0.0, "°", -360.0, 360.0, 5.0, "Facing", "In plan, from x")
    low: float = number(-0.1, "m", -10000.0, 10000.0, 0.1, "From")
    high: float = number(0.1, "m", -10000.0, 10000.0, 0.1, "To")
    places: list[Place] = places(
        lambda: [(0.0, 0.0, 0.0)], "Places", "Drag them in the view; Alt drags up and down."
    )
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
            self._edges(net, warnings),
        )
        return self.added(work, own, warnings)

    def _edges(self, net: Net, warnings: list[Notice]) -> NDArray[np.bool_] | None:
        """Which edges (E,) are edge members, if not all of the border; adds what is told of it."""
        if self.edges == "border":
            return None
        fewest = 2 if self.edges == "stretch" else 1
        wanted = checked_points(self.places, fewest, 400, "places", "places")
        meant = Selection(
            self.edges, np.radians(self.facing), self.low, self.high, wanted
        ).vertices(net)
        is_meant = np.zeros(len(net.vertices), bool)
        is_meant[meant] = True
        found = net.border & is_meant[net.edges].all(axis=1)
        if not found.any():
            whole = Remedy("Take the whole border", {"edges": "border"})
            low, high = _heights_of_border(net)
            facts = {"low": low, "high": high}
            warnings.append(
                Notice.coded("no edge members", facts, value="edges", remedies=(whole,))
            )
        return found

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


def _heights_of_border(net: Net) -> tuple[float, float]:
    """Between which heights the border lies, in metres; nothing where there is none."""
    z = net.vertices[net.loop_vertices, 2] if len(net.loop_vertices) else np.zeros(1)
    # Adding nothing takes the sign from what is all but 0.
    return round(float(z.min()), 2) + 0.0, round(float(z.max()), 2) + 0.0


def _of_ways(code: str, ways: int = 0) -> Notice:
    """What is told where members cannot run through nodes as they are to."""
    each = Remedy("One for each edge or strand", {"through": "none"})
    return Notice.coded(code, {"ways": ways}, value="through", remedies=(each,))
