"""Clauses that change some members of a structure: their sections, how they meet and are turned, or
whether they are there at all."""

from __future__ import annotations

from dataclasses import replace
from typing import ClassVar, Literal

import numpy as np
from numpy.typing import NDArray

from ...core.sections import Section
from ...core.sections.graded import sizes_between
from ...core.structure.changed import meeting_otherwise, nodes_of, turned, with_sections, without
from ...core.structure.chosen import Chosen
from ...core.structure.groups import groups_of
from ...core.structure.roles import ROLE_NAMES, ROLES
from ...core.structure.structure import Structure
from ..base import (
    Clause,
    ClauseError,
    Figure,
    Made,
    Notice,
    Remedy,
    Take,
    Work,
    choice,
    count,
    headline,
    listed,
    number,
    places,
    section,
)
from ..catalogue import not_made, section_of
from ..shape.common import Place, checked_points
from ..shape.drawn import Curves
from .common import MEETING, STRUCTURE, MeetingClause, structure_figures, told_of

__all__ = [
    "CHOSEN",
    "WHICH",
    "ChosenClause",
    "GiveSection",
    "GradeSections",
    "LeaveOutMembers",
    "MeetOtherwise",
    "TurnMembers",
    "Which",
]

Array = NDArray[np.float64]
Mask = NDArray[np.bool_]
NET = Take(name="net", types=("Net",), label="Net", optional=True, beside=True)
CURVES = Take(name="curves", types=("Curves",), label="Curves", optional=True)
Which = Literal[
    "all", "last", "role", "group", "section", "length", "heights", "around", "nearest", "cells"
]
WHICH = {
    "all": "all members",
    "last": "the members of the clause before",
    "role": "the members that are",
    "group": "the members in group",
    "section": "the members in",
    "length": "the members",
    "heights": "the members with middles",
    "around": "the members within",
    "nearest": "the members nearest to",
    "cells": "the members beside cells",
}
"""Which members are meant, as choices."""
ROLE_WORDS = {name: f"all {role.plural}" for name, role in ROLES.items()}
CHOSEN = (
    "{which}[which=role| {role}][which=group| {group} of {role}][which=section| {given}]"
    "[which=length| {shortest} to {longest} long][which=heights| from {low} to {high} up]"
    "[which=around| {reach} of {near}][which=nearest| {near}]"
    "[which=cells| of {least} to {most}]"
)
"""Which members are meant, in a sentence."""
SAME = 1e-9
MOST_OFFERED = 3
"""How many other choices are offered where no member is meant."""


class ChosenClause(Clause):
    """Base of clauses that change those members of a structure that are chosen."""

    chapter = "Frame"
    gives = "Structure"
    takes: ClassVar[tuple[Take, ...]] = (STRUCTURE, NET)

    which: Which = choice("role", WHICH, "Which members")
    role: Literal[
        "grid",
        "edge",
        "chord",
        "web",
        "post",
        "column",
        "strut",
        "tie",
        "arch",
        "purlin",
        "brace",
        "lath",
    ] = choice("grid", ROLE_WORDS, "Role")
    group: int = count(1, 1, 1000, "Group", "As the view colours them, counted within the role")
    given: str = section("CHS 88.9 × 4", "Their section")
    shortest: float = number(0.0, "m", 0.0, 1000.0, 0.1, "Shortest")
    longest: float = number(2.0, "m", 0.0, 1000.0, 0.1, "Longest")
    low: float = number(0.0, "m", -10000.0, 10000.0, 0.1, "From")
    high: float = number(3.0, "m", -10000.0, 10000.0, 0.1, "To")
    reach: float = number(3.0, "m", 0.001, 10000.0, 0.1, "Within")
    near: list[Place] = places(
        lambda: [(0.0, 0.0, 0.0)], "Places", "Drag them in the view; Alt drags up and down."
    )
    least: float = number(0.0, "m²", 0.0, 10000.0, 0.1, "Smallest cell")
    most: float = number(1.0, "m²", 0.0, 10000.0, 0.1, "Largest cell", "Of those beside a member")

    def chosen(self, work: Work, more: Array | None = None) -> Chosen:
        """What is meant; raises ``ClauseError`` where it cannot be told. ``more`` (k, 3) are the
        places that distances are measured from, where they are not those of the choice."""
        limits = {
            "length": (self.shortest, self.longest, "longest"),
            "heights": (self.low, self.high, "high"),
            "around": (0.0, self.reach, "reach"),
            "cells": (self.least, self.most, "most"),
        }
        low, high, value = limits.get(self.which, (0.0, np.inf, ""))
        if low > high:
            raise ClauseError(
                f"Nothing lies between {low:g} and {high:g}; the second must be at least "
                "the first.",
                value,
            )
        near = np.zeros((0, 3))
        if self.which in ("around", "nearest"):
            near = checked_points(self.near, 1, 400, "places", "near")
        return Chosen(
            which=self.which,
            role=self.role,
            group=self.group,
            section=section_of(self.given, "given").name if self.which == "section" else "",
            low=low,
            high=high,
            places=near if more is None else more,
            net=work.inputs.get("net"),
            source=work.key("net"),
        )

    def members(self, work: Work) -> Mask:
        """Which members (M,) are meant; raises ``ClauseError`` where there is none."""
        base: Structure = work.inputs["structure"]
        chosen = self.chosen(work)
        if self.which == "cells":
            _check_net(base, chosen, "which")
        found = chosen.members(base)
        if not found.any():
            there = {"there": self._what_there_is(base, chosen)}
            meant = self._meant_instead(base)
            raise ClauseError.of("no member meant", there, "which", remedies=meant)
        return found

    def _meant_instead(self, base: Structure) -> tuple[Remedy, ...]:
        """Other members that could be meant: those of the commonest roles, groups or sections that
        there are, or else all."""
        if self.which == "role":
            kinds, counts = np.unique(base.role, return_counts=True)
            names = [ROLE_NAMES[k] for k in kinds[np.argsort(-counts, kind="stable")].tolist()]
            return tuple(Remedy(f"Take {ROLE_WORDS[r]}", {"role": r}) for r in names[:MOST_OFFERED])
        if self.which == "section":
            names = [section.name for section in base.sections]
            return tuple(Remedy(f"Take those in {n}", {"given": n}) for n in names[:MOST_OFFERED])
        return (Remedy("Take all members", {"which": "all"}),)

    def _what_there_is(self, base: Structure, chosen: Chosen) -> str:
        """What could be meant instead, as a sentence without its stop."""
        if self.which == "role":
            roles = [ROLES[ROLE_NAMES[k]].plural for k in np.unique(base.role).tolist()]
            return f"The structure has {' and '.join(roles)}"
        if self.which == "group":
            names = groups_of(base)[0]
            return f"The structure has {listed(names, 12)}"
        if self.which == "section":
            return f"The structure is of {' and '.join(s.name for s in base.sections[:6])}"
        measure = {"length": "length", "heights": "height", "around": "distance", "cells": "cells"}
        values = chosen.measured(base, measure[self.which]) if self.which in measure else None
        if values is None or np.isnan(values).all():
            return "All members would work"
        said = {
            "length": "The lengths are",
            "heights": "Middles lie",
            "around": "Distances are",
            "cells": "Cells beside members have",
        }[self.which]
        unit = "m²" if self.which == "cells" else "m"
        return f"{said} {np.nanmin(values):.2f} to {np.nanmax(values):.2f} {unit}"

    def made(self, work: Work, structure: Structure, warnings: list[Notice], meant: Mask) -> Made:
        """What was made of the members that are ``meant`` (M,), and what is told of it."""
        base: Structure = work.inputs["structure"]
        figures = {"meant": headline("Members changed", int(meant.sum()))}
        figures |= structure_figures(structure)
        return Made(structure, figures, warnings + told_of(structure, base))


class GiveSection(ChosenClause):
    kind = "give-section"
    title = "Give members a section"
    summary = "Members chosen by role, section, length, height, place or cell size, in a section."
    sentence = "**Give** " + CHOSEN + " {section}."
    keeps_numbers = True

    section: str = section("CHS 114.3 × 5", "Section")

    def make(self, work: Work) -> Made:
        base: Structure = work.inputs["structure"]
        own = section_of(self.section, "section")
        meant = self.members(work)
        made = with_sections(base, (own,), np.where(meant, 0, -1).astype(np.int32))
        out = self.made(work, made, not_made(own, "section"), meant)
        gain = float(made.masses.sum() - base.masses.sum())
        out.figures["gain"] = Figure("Change of mass", gain, "kg", 0)
        return out


THICKER = {
    "long": ("length", 1),
    "short": ("length", -1),
    "high": ("height", 1),
    "deep": ("height", -1),
    "far": ("distance", 1),
    "close": ("distance", -1),
    "large": ("cells", 1),
    "small": ("cells", -1),
}
"""By what members are graded, and whether more of it makes them thicker."""


class GradeSections(ChosenClause):
    kind = "grade-sections"
    title = "Grade sections"
    summary = "Several sizes of one family, thicker with length, height, nearness or cell size."
    sentence = (
        "**Grade** " + CHOSEN + " in {steps} sizes from {thin} to {thick}, thicker {by}"
        "[by=far,close| {pulls}]."
    )
    keeps_numbers = True

    steps: int = count(4, 2, 12, "Sizes", "As many as are made between the two")
    thin: str = section("CHS 60.3 × 4", "Thinnest")
    thick: str = section("CHS 139.7 × 5", "Thickest")
    by: Literal["long", "short", "high", "deep", "far", "close", "large", "small"] = choice(
        "long",
        {
            "long": "the longer they are",
            "short": "the shorter they are",
            "high": "the higher they lie",
            "deep": "the lower they lie",
            "far": "the farther they are from",
            "close": "the nearer they are to",
            "large": "the larger the cells beside them",
            "small": "the smaller the cells beside them",
        },
        "Thicker",
    )
    pulls: list[Place] = places(
        lambda: [(0.0, 0.0, 0.0)], "Pulls", "Drag them in the view; Alt drags up and down."
    )

    def make(self, work: Work) -> Made:
        base: Structure = work.inputs["structure"]
        sections = self._sections()
        meant = self.members(work)
        measure, sign = THICKER[self.by]
        pulls = None
        if measure == "distance":
            pulls = checked_points(self.pulls, 1, 400, "pulls", "pulls")
        chosen = self.chosen(work, pulls)
        if measure == "cells":
            _check_net(base, chosen, "by")
        values = chosen.measured(base, measure)
        meant &= ~np.isnan(values)
        warnings = [n for k, v in ((0, "thin"), (-1, "thick")) for n in not_made(sections[k], v)]
        which = np.full(base.count, -1, np.int32)
        which[meant] = _steps(sign * values[meant], len(sections))
        used = len(np.unique(which[meant]))
        if used == 1:
            text = "All of them are alike in what grades them, and have one size."
            warnings.append(Notice(text, value="by"))
        out = self.made(work, with_sections(base, sections, which), warnings, meant)
        out.figures.update(_by_section(out.result, meant))
        return out

    def _sections(self) -> tuple[Section, ...]:
        """Sections from the thinnest on; raises ``ClauseError`` where there are none between."""
        thin, thick = section_of(self.thin, "thin"), section_of(self.thick, "thick")
        if thin.mass > thick.mass:
            raise ClauseError(
                f"{thin.name} is heavier than {thick.name}; the other way round would work.",
                "thick",
            )
        try:
            return sizes_between(thin, thick, self.steps)
        except ValueError:
            raise ClauseError(
                f"{thin.name} and {thick.name} are of different families or materials; two of one "
                "would work.",
                "thick",
            ) from None


def _steps(values: Array, steps: int) -> NDArray[np.int32]:
    """Which of so many even steps from the least to the most each of the values (n,) is in."""
    low, high = float(values.min()), float(values.max())
    if high - low < SAME * max(1.0, abs(high)):
        return np.full(len(values), steps - 1, np.int32)
    share = (values - low) / (high - low)
    return np.minimum(share * steps, steps - 1).astype(np.int32)


def _by_section(structure: Structure, meant: Mask) -> dict[str, Figure]:
    """How many of those that are ``meant`` (M,) have each section."""
    found = np.bincount(structure.section_of[meant], minlength=len(structure.sections))
    return {
        f"of_section_{k}": Figure(section.name, n)
        for k, (section, n) in enumerate(zip(structure.sections, found.tolist(), strict=True))
        if n
    }


class TurnMembers(ChosenClause):
    kind = "turn-members"
    title = "Turn members"
    summary = (
        "Sections turned about their axes: upright, along the skin, towards places or a curve."
    )
    sentence = "**Turn** " + CHOSEN + " {towards}[towards=places| {pulls}], and on by {angle}."
    takes = (STRUCTURE, NET, CURVES)
    keeps_numbers = True

    towards: Literal["upright", "skin", "places", "curve", "own"] = choice(
        "upright",
        {
            "upright": "upright",
            "skin": "square to the skin",
            "places": "towards the nearest of",
            "curve": "towards the curves",
            "own": "from how they stand",
        },
        "Towards",
        "Where the height of a section points",
    )
    pulls: list[Place] = places(
        lambda: [(0.0, 0.0, 0.0)], "Places", "Drag them in the view; Alt drags up and down."
    )
    angle: float = number(0.0, "°", -180.0, 180.0, 1.0, "Angle", "About the axis")

    def make(self, work: Work) -> Made:
        base: Structure = work.inputs["structure"]
        meant = self.members(work)
        wanted = self._wanted(base, work.inputs.get("curves"))
        warnings = _round_ones(base, meant)
        made = turned(base, meant, wanted, float(np.radians(self.angle)))
        return self.made(work, made, warnings, meant)

    def _wanted(self, base: Structure, curves: Curves | None) -> Array:
        """Directions (S, 3) for heights."""
        first, last = base.first_entry, base.first_entry + 1
        middles = (base.axis_places[first] + base.axis_places[last]) / 2
        if self.towards == "upright":
            return np.tile([0.0, 0.0, 1.0], (len(middles), 1))
        if self.towards == "skin":
            return np.asarray(base.normals[base.path[first]] + base.normals[base.path[last]])
        if self.towards == "own":
            return base.up
        if self.towards == "curve":
            if curves is None:
                raise ClauseError(
                    "There is no curve above to turn to; draw one, or turn members upright.",
                    "towards",
                )
            pulls = np.vstack([c.polyline(c.path.size * 1e-4) for c in curves.curves])
        else:
            pulls = checked_points(self.pulls, 1, 400, "places", "pulls")
        nearest = np.argmin(np.linalg.norm(middles[:, None] - pulls, axis=2), axis=1)
        return np.asarray(pulls[nearest] - middles)


def _round_ones(structure: Structure, meant: Mask) -> list[Notice]:
    """What is told where turning shows nothing."""
    is_round = np.array([s.shape.round for s in structure.sections])[structure.section_of]
    if not is_round[meant].all():
        return []
    return [Notice("They are all round, and look the same however they are turned.")]


class MeetOtherwise(ChosenClause, MeetingClause):
    kind = "meet-otherwise"
    title = "Let members meet otherwise"
    summary = "Members chosen by role, section, length or place, welded, coped or held back."
    sentence = "**Let** " + CHOSEN + " and all that comes to their nodes be " + MEETING + "."
    keeps_numbers = True

    def make(self, work: Work) -> Made:
        base: Structure = work.inputs["structure"]
        meant = self.members(work)
        nodes = nodes_of(base, meant)
        made = meeting_otherwise(base, nodes, self.wanted_meeting())
        figures = {"met": headline("Nodes changed", int(nodes.sum()))} | structure_figures(made)
        return Made(
            made, figures, told_of(made, base) + self._bodies_missed(replace(made, since=(0, 0)))
        )


class LeaveOutMembers(ChosenClause):
    kind = "leave-out-members"
    title = "Leave out members"
    summary = "The structure without members chosen by role, section, length, place or cell size."
    sentence = "**Leave out** " + CHOSEN + "."

    def make(self, work: Work) -> Made:
        base: Structure = work.inputs["structure"]
        meant = self.members(work)
        if meant.all():
            raise ClauseError(
                f"All {base.count:,} members are meant, and nothing would be left; fewer would "
                "work.",
                "which",
            )
        made, kept = without(base, meant)
        figures = {
            "left_out": headline("Members left out", int(meant.sum())),
            "nodes_gone": Figure("Nodes gone", len(base.places) - len(made.places)),
        }
        figures |= structure_figures(made)
        return Made(made, figures, [*told_of(made, base), *_loose_ends(made, base, kept)])


def _loose_ends(made: Structure, base: Structure, kept: Mask) -> list[Notice]:
    """What is told of members that end at nothing any more, neither at another nor at a foot; of
    the nodes of the ``base`` those ``kept`` (N,) are left, in their order."""
    loose = np.flatnonzero((made.valence == 1) & (base.valence[kept] > 1) & ~made.foot)
    if not loose.size:
        return []
    x, y, z = made.places[loose[0]].tolist()
    text = (
        f"{loose.size} {'nodes have' if loose.size > 1 else 'node has'} but one member left; "
        "what ends there hangs free."
    )
    return [Notice(text, "node", tuple(map(int, loose[:2000])), (x, y, z), "which")]


def _check_net(base: Structure, chosen: Chosen, value: str) -> None:
    """Raises ``ClauseError`` where no member lies along the edges of a net."""
    if chosen.net is None or np.isnan(chosen.measured(base, "cells")).all():
        raise ClauseError(
            "No member lies along the edges of a net above, and there are no cells beside them; "
            "choose the net they were framed from, or choose them otherwise.",
            value,
        )
