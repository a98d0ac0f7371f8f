"""Members along lines: what can be followed, and the clause that puts members along curves."""

from __future__ import annotations

from typing import Literal

import numpy as np
from numpy.typing import NDArray

from ...core.geometry.line_sets import Lines, straightened
from ...core.geometry.lines import Line, line_of
from ...core.geometry.nets import Net
from ...core.nets.runs import border_runs, line_along, runs_of_way
from ...core.sections import Section, UnknownSection, find
from ...core.structure.builders.along_lines import along_lines
from ...core.structure.roles import ROLES
from ...core.structure.structure import Structure
from ..base import (
    ClauseError,
    Figure,
    Made,
    Notice,
    Remedy,
    Take,
    Work,
    choice,
    listed,
    number,
    section,
    text,
)
from ..catalogue import not_made, section_of
from ..lattice.common import place_of
from ..said import mm
from ..shape.drawn import Curves
from .common import MEETING, NAMED, ONTO, FrameClause

__all__ = [
    "ALONG",
    "CURVES_OR_NET",
    "ROLE_WORDS",
    "FrameCurves",
    "followed",
    "lines_from",
    "told_by",
]

Rows = NDArray[np.int64]
CURVES = Take(name="curves", types=("Curves", "Lines"), label="Curves")
CURVES_OR_NET = (
    Take(name="curves", types=("Curves", "Lines"), label="Curves", optional=True),
    Take(name="net", types=("Net",), label="Net", optional=True),
)
ALONG = {
    "curves": "the curves",
    "first": "the net one way",
    "second": "the net another way",
    "third": "the net a third way",
    "border": "the net's border",
}
"""What can be followed."""
WAYS = {"first": 0, "second": 1, "third": 2}
CLOSE = 0.005
"""Metres by which straight pieces and arcs may be off the curves they stand for."""
SHORTEST = 1e-6
"""Metres below which a line is a point."""
ROLE_WORDS = {
    name: ROLES[name].plural
    for name in ("arch", "chord", "column", "strut", "purlin", "brace", "tie", "edge", "grid")
}
"""What members along lines can be."""


def lines_from(given: Curves | Lines, off: float, straight: bool = False) -> Lines:
    """Curves on planes as lines within ``off`` metres of them, and lines as they are; in
    ``straight`` pieces where these are wanted."""
    if isinstance(given, Curves):
        lines = tuple(line_of(curve, off, straight) for curve in given.curves)
        return Lines(lines, ("",) * len(lines))
    lines = given.lines
    if straight:
        lines = tuple(straightened(line, off) for line in lines)
    return Lines(lines, given.layers or ("",) * len(lines))


def followed(work: Work, along: str, value: str) -> tuple[list[Line], list[Rows]]:
    """Lines by what is chosen of ``ALONG``, and of those of a net the vertices they lead through;
    raises ``ClauseError`` about a ``value`` where there are none."""
    if along == "curves":
        curves: Curves | Lines | None = work.inputs.get("curves")
        if curves is None and work.inputs.get("net") is not None:
            first = Remedy("Follow the net one way", {value: "first"})
            raise ClauseError.of("no curves to follow", {}, value, remedies=(first,))
        if curves is None:
            raise ClauseError(
                "There are no curves above to follow; draw some, or follow a net.", value
            )
        return list(lines_from(curves, CLOSE).lines), []
    net: Net | None = work.inputs.get("net")
    if net is None:
        raise ClauseError(
            "There is no net above to follow; lay one, or draw curves and follow these.", value
        )
    runs = border_runs(net) if along == "border" else runs_of_way(net, WAYS[along])
    if not runs:
        raise ClauseError("The net has no border to follow; one of its ways would work.", value)
    return [line_along(net, run) for run in runs], runs


class FrameCurves(FrameClause):
    kind = "frame-curves"
    joins = True
    title = "Frame the curves"
    builds = "bars along curves"
    summary = "Members along curves, bent or straight, that meet where the curves do."
    sentence = (
        "**Frame** the curves on {layer} as {role} in {section}¦, {by_layer}, {bend} within {off} "
        "of them, {parts}, turned {roll}, one where they come within {near}, "
        + MEETING
        + NAMED
        + "."
    )
    takes = (CURVES, ONTO)

    section: str = section("CHS 139.7 × 5", "Section")
    role: Literal["arch", "chord", "column", "strut", "purlin", "brace", "tie", "edge", "grid"] = (
        choice("arch", ROLE_WORDS, "Role", "Where members meet, columns and arches run on")
    )
    layer: str = text("Layer", "all layers", "Of lines from a file; empty for all")
    by_layer: Literal["alike", "named"] = choice(
        "alike",
        {"alike": "all alike", "named": "or as their layer is called"},
        "By layer",
        "A layer called after a section, a role or both says what is on it: “PURLIN CHS 60.3 × 4”",
    )
    bend: Literal["arcs", "straight"] = choice(
        "arcs", {"arcs": "bent to arcs", "straight": "in straight pieces"}, "Bending"
    )
    off: float = number(5.0, "mm", 0.1, 1000.0, 1.0, "Off the curves", "At most")
    parts: Literal["along", "between"] = choice(
        "along",
        {"along": "one member all along each", "between": "a member from node to node"},
        "Members",
    )
    roll: float = number(0.0, "°", -180.0, 180.0, 1.0, "Roll", "Turn of sections about axes")
    near: float = number(1.0, "mm", 0.001, 1000.0, 1.0, "Joined within")

    def make(self, work: Work) -> Made:
        lines = self._lines(work.inputs["curves"])
        own = section_of(self.section, "section")
        sections = [own] * len(lines.lines)
        roles: list[str] = [self.role] * len(lines.lines)
        if self.by_layer == "named":
            for k, layer in enumerate(lines.layers):
                role, found = told_by(layer)
                roles[k], sections[k] = role or self.role, found or own
        structure = along_lines(
            lines.lines,
            sections,
            roles,
            self.wanted_meeting(),
            self.near / 1000,
            self.parts == "between",
            np.radians(self.roll),
        )
        warnings = not_made(own, "section") + _too_tight(structure)
        made = self.added(work, structure, warnings, self.near / 1000)
        made.figures.update(_bent(structure))
        return made

    def _lines(self, given: Curves | Lines) -> Lines:
        """What members are to lie along; raises ``ClauseError`` where there is nothing."""
        every = lines_from(given, self.off / 1000, self.bend == "straight")
        lines = every.on_layer(self.layer) if self.layer.strip() else every
        if not lines.lines:
            there = listed(dict.fromkeys(f"“{name}”" for name in every.layers if name), 12)
            raise ClauseError(
                f"There is no line on a layer “{self.layer.strip()[:60]}”; "
                + (f"there are {there}." if there else "no line is on any, and all would work."),
                "layer",
            )
        long = [k for k, line in enumerate(lines.lines) if line.length > SHORTEST]
        if not long:
            raise ClauseError("The curves are points; no member can lie along them.", "curves")
        return Lines(tuple(lines.lines[k] for k in long), tuple(lines.layers[k] for k in long))


ROLES_NAMED = {
    word.casefold(): name
    for name, role in ROLES.items()
    for word in (name, role.plural, role.layer)
}
"""Roles by the words that mean them."""


def told_by(layer: str) -> tuple[str, Section | None]:
    """The role and the section that the name of a layer tells, as far as it does."""
    words = layer.replace("_", " ").split()
    role = ROLES_NAMED.get(words[0].casefold(), "") if words else ""
    try:
        return role, find(" ".join(words[1:] if role else words))
    except UnknownSection:
        return role, None


def _radii(structure: Structure) -> NDArray[np.float64]:
    """Radii (S,) of segments in metres; endless where they are straight."""
    rise = np.linalg.norm(structure.bulge, axis=1)
    chord = np.linalg.norm(structure.chords, axis=1)
    bent = rise > 1e-9 * np.maximum(chord, 1e-300)
    # With (c² / 4 + h²) / 2 h.
    round_it = (chord**2 / 4 + rise**2) / np.where(bent, 2 * rise, 1.0)
    return np.where(bent, round_it, np.inf)


def _bent(structure: Structure) -> dict[str, Figure]:
    radii = _radii(structure)
    bent = np.isfinite(radii)
    if not bent.any():
        return {}
    members = len(np.unique(structure.member_of_segment[bent]))
    return {
        "bent_members": Figure("Bent members", members),
        "smallest_radius": Figure("Smallest radius", float(radii.min()), "m", 2),
    }


def _too_tight(structure: Structure) -> list[Notice]:
    """What is told where a section would turn into itself."""
    half = [max(s.shape.height, s.shape.width) / 2 for s in structure.sections]
    deep = np.array(half)[structure.section_of]
    radii = _radii(structure)
    tight = np.flatnonzero(radii <= deep[structure.member_of_segment])
    if not tight.size:
        return []
    worst = int(tight[np.argmin(radii[tight])])
    at = place_of(structure.axis_places[structure.first_entry[worst]])
    told = (
        f"{tight.size} bends are tighter than their section is deep, the tightest "
        f"{mm(radii[worst] * 1000, '.0f')}; a slimmer section or rounder curves would work."
    )
    return [Notice(told, at=at, value="section")]
