"""The clauses that put members between what is there: struts, purlins, ties and bracing."""

from __future__ import annotations

from typing import Any, Literal

import numpy as np
import scipy
from numpy.typing import NDArray

from ...core.structure.builders.between import LINKS, line_of_member, linked, struts_between
from ...core.structure.inserted import nearest_members
from ...core.structure.roles import ROLES
from ...core.structure.structure import Structure
from ..base import (
    ClauseError,
    Figure,
    Made,
    Remedy,
    Work,
    choice,
    count,
    headline,
    number,
    places,
    section,
)
from ..catalogue import not_made, section_of
from ..said import place_text
from ..shape.common import Place, checked_points
from .common import MEETING, STRUCTURE, MeetingClause

__all__ = ["Link", "Struts"]

Array = NDArray[np.float64]
ROLE_WORDS = {
    name: ROLES[name].plural for name in ("strut", "purlin", "brace", "tie", "post", "web")
}
Role = Literal["strut", "purlin", "brace", "tie", "post", "web"]
SHORTEST = 1e-3
"""Metres below which what is between two places is nothing."""
LEVEL = 1e-9
LEVEL_SHARE = 0.05
"""Share of its width up to which what is there is level, so that struts begin between its sides."""


def _places_apart(base: Structure, near: Array, members: list[int]) -> tuple[Remedy, ...]:
    """Places (k, 3) of which those that come to a member another has already are moved to the
    middle of the nearest one that is free; nothing where there are too few members."""
    if base.count < len(members):
        return ()
    middles = np.array(
        [
            line_of_member(base, m).at(np.array([line_of_member(base, m).length / 2]))[0]
            for m in range(base.count)
        ]
    )
    places, taken = near.copy(), set(members)
    for k, member in enumerate(members):
        if member not in members[:k]:
            continue
        away = np.linalg.norm(middles - near[k], axis=1)
        away[list(taken)] = np.inf
        free = int(np.argmin(away))
        if not np.isfinite(away[free]):
            return ()
        taken.add(free)
        places[k] = middles[free]
    moved = [[round(v, 3) for v in place] for place in places.tolist()]
    return (Remedy("Move it to the nearest other one", {"lines": moved}),)


class Struts(MeetingClause):
    kind = "struts"
    title = "Put struts between"
    builds = "struts"
    summary = "Struts in V, beside each other or as a fan between members that are there; purlins."
    sentence = (
        "**Put** {how_many} {role} {way} between the members nearest to {lines}, {free} of each "
        "kept free at both ends, in {section}¦, " + MEETING + "."
    )
    takes = (STRUCTURE,)
    gives = "Structure"
    keeps_numbers = True

    how_many: int = count(
        8, 1, 400, "Number", "Of V, of members side by side, or of those of a fan"
    )
    role: Role = choice("strut", ROLE_WORDS, "Role")
    way: Literal["along", "across", "fan", "onward"] = choice(
        "along",
        {
            "along": "in V, which point to the first one,",
            "across": "side by side from the first to each other",
            "fan": "as a fan from the middle of the first one",
            "onward": "side by side from one to the next",
        },
        "Way",
    )
    lines: list[Place] = places(
        lambda: [(0.0, 0.0, 3.0), (0.0, 0.0, 0.0)],
        "Lines",
        "A place near each member; drag them in the view. The first has the points of V.",
    )
    free: float = number(5.0, "%", 0.0, 49.0, 1.0, "Kept free")
    section: str = section("CHS 76.1 × 4", "Section")

    def make(self, work: Work) -> Made:
        base: Structure = work.inputs["structure"]
        own = section_of(self.section, "section")
        near = checked_points(self.lines, 2, 40, "places of lines", "lines")
        members, away = nearest_members(base, near)
        self._check(base, near, members.tolist())
        made = struts_between(
            base,
            members.tolist(),
            self.way,
            self.how_many,
            self.free / 100,
            own,
            self.role,
            self.wanted_meeting(),
        )
        if made.count == base.count:
            raise ClauseError(
                f"All {ROLES[self.role].plural} that would be put here are there already; between "
                "members at other places there is room.",
                "lines",
                near[0],
            )
        out = self.told(made, made, not_made(own, "section"))
        out.figures.update(self._figures(made, float(away.max())))
        return out

    @classmethod
    def beside(cls, box: Array) -> dict[str, Any]:
        """Between what lies highest and one side of what lies lowest, or in one level between its
        sides."""
        (x, y, low), (far_x, far_y, high) = box.tolist()
        middle = (x + far_x) / 2
        if high - low > LEVEL_SHARE * max(far_x - x, far_y - y):
            ends = [[middle, (y + far_y) / 2, high], [middle, y, low]]
        else:
            ends = [[middle, y, low], [middle, far_y, low]]
        return {"lines": [[round(v, 2) for v in end] for end in ends]}

    def _check(self, base: Structure, near: Array, members: list[int]) -> None:
        """Raises ``ClauseError`` where two places are nearest to one member, or lines lie on each
        other."""
        for k, member in enumerate(members):
            if member in members[:k]:
                first, second = members.index(member) + 1, k + 1
                facts = {"first": first, "second": second, "place": place_text(near[k])}
                raise ClauseError.of(
                    "places at one member",
                    facts,
                    "lines",
                    near[k],
                    _places_apart(base, near, members),
                )
        every = [line_of_member(base, m) for m in members]
        at = [line.at(np.array([0.0, 0.5, 1.0]) * line.length) for line in every]
        for k, other in enumerate(at[1:], 2):
            if min(np.abs(o - at[0]).max() for o in (other, other[::-1])) < SHORTEST:
                raise ClauseError(
                    f"The lines at places 1 and {k} lie on each other, and nothing is between "
                    "them.",
                    "lines",
                    near[k - 1],
                )

    def _figures(self, made: Structure, away: float) -> dict[str, Figure]:
        own = slice(made.since[1], None)
        lengths = made.lengths[own]
        figures = {
            "put_between": headline(ROLES[self.role].plural.capitalize(), len(lengths)),
            "shortest_between": Figure("Shortest of them", float(lengths.min()), "m", 3),
            "longest_between": Figure("Longest of them", float(lengths.max()), "m", 3),
            "off_lines": Figure("Farthest place from its line", away, "m", 2),
        }
        rise = (
            made.axis_places[made.offsets[1:][own] - 1] - made.axis_places[made.offsets[:-1][own]]
        )
        steep = np.degrees(
            np.arcsin(np.clip(np.abs(rise[:, 2]) / np.maximum(lengths, LEVEL), 0, 1))
        )
        figures["flattest"] = Figure("Flattest, from level", float(steep.min()), "°", 1)
        figures["steepest"] = Figure("Steepest, from level", float(steep.max()), "°", 1)
        return figures


class Link(MeetingClause):
    kind = "link"
    title = "Link places"
    summary = "Ties, braces, struts or purlins between places of the structure."
    sentence = "**Link** {on} {places} {way} by {role} in {section}, " + MEETING + "."
    takes = (STRUCTURE,)
    gives = "Structure"
    keeps_numbers = True

    on: Literal["nodes", "members"] = choice(
        "nodes",
        {"nodes": "the nodes nearest to", "members": "the places on members nearest to"},
        "Where",
    )
    places: list[Place] = places(
        lambda: [(-5.0, 0.0, 0.0), (5.0, 0.0, 0.0)], "Places", "Drag them in the view."
    )
    way: Literal["pairs", "row", "ring", "each"] = choice(
        "pairs",
        {
            "pairs": "two by two",
            "row": "one after the other",
            "ring": "in a ring",
            "each": "each with each",
        },
        "Way",
    )
    role: Role = choice("tie", ROLE_WORDS, "Role", "Ties carry tension alone")
    section: str = section("Round 24", "Section")

    def make(self, work: Work) -> Made:
        base: Structure = work.inputs["structure"]
        own = section_of(self.section, "section")
        wanted = checked_points(self.places, 2, 400, "places", "places")
        at = self._places(base, wanted)
        pairs = LINKS[self.way](len(at))
        short = np.linalg.norm(at[pairs[:, 1]] - at[pairs[:, 0]], axis=1) < SHORTEST
        if short.any():
            a, b = pairs[np.argmax(short)] + 1
            raise ClauseError(
                f"Places {a} and {b} are at one place of the structure, "
                f"{place_text(at[a - 1])}; move one of them.",
                "places",
                at[a - 1],
            )
        made = linked(base, at, self.way, own, self.role, self.wanted_meeting())
        out = self.told(made, made, not_made(own, "section"))
        lengths = made.lengths[made.since[1] :]
        away = np.linalg.norm(at - wanted, axis=1)
        out.figures.update(
            links=headline(ROLES[self.role].plural.capitalize(), len(lengths)),
            link_length=Figure("Length of them", float(lengths.sum()), "m", 2),
            off_places=Figure("Farthest place from the structure", float(away.max()), "m", 2),
        )
        return out

    def _places(self, base: Structure, wanted: Array) -> Array:
        """Where (n, 3) on the structure the places are that are wanted."""
        if self.on == "nodes":
            return np.asarray(base.places[scipy.spatial.cKDTree(base.places).query(wanted)[1]])
        out = wanted.copy()
        for k, member in enumerate(nearest_members(base, wanted)[0].tolist()):
            line = line_of_member(base, member)
            out[k] = line.at(np.array([line.nearest(wanted[k])]))[0]
        return out
