"""What pushes a net."""

from __future__ import annotations

from typing import Literal

from ...core.loads import GRAVITY, Push
from ..base import Made, Work, choice, number, places, section
from ..catalogue import section_of
from ..shape.common import Place, checked_points
from .holds import SettleClause

__all__ = ["PushNet"]


class PushNet(SettleClause):
    kind = "push"
    title = "Push"
    summary = "A load on the plan or the surface, pressure along the normals, the members' own weight, or forces at places."
    sentence = (
        "**Push** the net by {push}[push=plan| {load}][push=surface| {load}][push=pressure| {load}][push=weight| {mass}]"
        "[push=section| {members}][push=skin| {thickness} thick and of {density}][push=points| {force} at {places}]."
    )
    gives = "Push"

    push: Literal["plan", "surface", "pressure", "weight", "section", "skin", "points"] = choice(
        "plan",
        {
            "plan": "a load on its plan of",
            "surface": "a load on its surface of",
            "pressure": "pressure outward of",
            "weight": "its members' weight of",
            "section": "the weight of members",
            "skin": "the weight of a skin",
            "points": "forces downward of",
        },
        "Push",
    )
    load: float = number(
        1.0, "kN/m²", -1000.0, 1000.0, 0.1, "Load", "Below 0 it lifts, or sucks inward."
    )
    mass: float = number(20.0, "kg/m", 0.0, 10000.0, 1.0, "Mass")
    members: str = section("CHS 88.9 × 4", "Section")
    thickness: float = number(20.0, "mm", 0.0, 5000.0, 1.0, "Thickness")
    density: float = number(500.0, "kg/m³", 0.0, 30000.0, 10.0, "Density")
    force: float = number(1.0, "kN", -10000.0, 10000.0, 0.1, "Force", "Below 0 it lifts.")
    places: list[Place] = places(
        lambda: [(0.0, 0.0, 3.0)], "Places", "The nearest nodes are pushed."
    )

    def make(self, work: Work) -> Made:
        if self.push == "points":
            at = checked_points(self.places, 1, 400, "places", "places")
            return Made(Push("points", self.force, at))
        if self.push in ("weight", "section"):
            own = self.push == "section"
            mass = section_of(self.members, "members").mass if own else self.mass
            return Made(Push("edges", mass * GRAVITY))
        if self.push == "skin":
            return Made(Push("surface", self.thickness / 1000 * self.density * GRAVITY))
        return Made(Push(self.push, self.load))
