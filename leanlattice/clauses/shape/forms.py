"""Standard forms: each one sentence with handles."""

from __future__ import annotations

from typing import Any, Literal

import numpy as np

from ...core.geometry import forms
from ...core.geometry.surfaces import Surface
from ...core.shaping.solids import prism
from ...core.shaping.stacks import bounded_by
from ..base import ClauseError, Figure, Handle, Made, Work, choice, number, point
from ..said import metres
from .common import Place, ShapeClause, dial_aid, made

__all__ = [
    "Ball",
    "Barrel",
    "Box",
    "Cone",
    "Conoid",
    "Cylinder",
    "Ellipsoid",
    "HyperbolicParaboloid",
    "Torus",
]

SOLID = {"surface": "as a surface", "body": "as a body"}


def _size(
    default: float,
    label: str,
    direction: tuple[float, float, float],
    scale: float = 1.0,
    least: float = 0.01,
) -> Any:
    return number(
        default,
        "m",
        least,
        1000.0,
        0.1,
        label,
        handle=Handle(origin="centre", direction=direction, scale=scale),
    )


def _centre(label: str = "Centre") -> Any:
    return point((0.0, 0.0, 0.0), label)


def _solid() -> Any:
    return choice(
        "surface",
        SOLID,
        "Kind",
        "A body is closed and can be cut, hollowed and united with others.",
    )


def _made(surface: Surface, kind: str, figures: dict[str, Figure] | None = None) -> Made:
    """The surface, or the body it bounds with flat ends."""
    if kind == "surface":
        return made(surface, figures)
    return made(bounded_by(surface), figures)


class Ball(ShapeClause):
    kind = "ball"
    title = "Sphere or ball"
    fills = ((-3.0, -3.0, 0.0), (3.0, 3.0, 6.0))
    summary = "A whole sphere: a surface, or a solid ball."
    sentence = "**Sphere** of radius {radius} about {centre}, {solid}."

    radius: float = _size(3.0, "Radius", (1, 0, 0))
    centre: Place = point((0.0, 0.0, 3.0), "Centre")
    solid: Literal["surface", "body"] = _solid()

    def make(self, work: Work) -> Made:
        return _made(forms.sphere(np.array(self.centre), self.radius), self.solid)


class Ellipsoid(ShapeClause):
    kind = "ellipsoid"
    title = "Ellipsoid"
    fills = ((-6.0, -4.0, 0.0), (6.0, 4.0, 3.0))
    summary = "Three half axes, the whole or the upper half."
    sentence = "**Ellipsoid** with half axes {along_x}, {along_y} and {along_z} about {centre}, {part}, {solid}."

    along_x: float = _size(6.0, "Half axis in x", (1, 0, 0))
    along_y: float = _size(4.0, "Half axis in y", (0, 1, 0))
    along_z: float = _size(3.0, "Half axis in z", (0, 0, 1))
    centre: Place = _centre()
    part: Literal["whole", "upper"] = choice(
        "upper", {"whole": "the whole", "upper": "its upper half"}, "Part"
    )
    solid: Literal["surface", "body"] = _solid()

    def make(self, work: Work) -> Made:
        lowest = 0.0 if self.part == "upper" else -np.pi / 2
        return _made(
            forms.ellipsoid(
                np.array(self.centre), np.array([self.along_x, self.along_y, self.along_z]), lowest
            ),
            self.solid,
        )


class Torus(ShapeClause):
    kind = "torus"
    title = "Torus"
    fills = ((-6.5, -6.5, 0.0), (6.5, 6.5, 3.0))
    summary = "A ring of round section, lying level."
    sentence = "**Torus** with a ring of radius {ring} and a section of radius {tube} about {centre}, {solid}."

    ring: float = _size(5.0, "Radius of the ring", (1, 0, 0))
    tube: float = _size(1.5, "Radius of the section", (0, 0, 1))
    centre: Place = point((0.0, 0.0, 1.5), "Centre")
    solid: Literal["surface", "body"] = _solid()

    def make(self, work: Work) -> Made:
        if self.tube >= self.ring:
            raise ClauseError(
                f"A section of radius {metres(self.tube)} closes the middle of a ring of radius "
                f"{metres(self.ring)}; less than "
                f"{metres(self.ring)} works.",
                "tube",
            )
        return _made(forms.torus(np.array(self.centre), self.ring, self.tube), self.solid)


class Cylinder(ShapeClause):
    kind = "cylinder"
    title = "Cylinder"
    fills = ((-3.0, -3.0, 0.0), (3.0, 3.0, 6.0))
    summary = "An upright cylinder: its wall, or solid."
    sentence = "**Cylinder** of radius {radius} and height {height} on {centre}, {solid}."

    radius: float = _size(3.0, "Radius", (1, 0, 0))
    height: float = _size(6.0, "Height", (0, 0, 1))
    centre: Place = _centre("Foot")
    solid: Literal["surface", "body"] = _solid()

    def make(self, work: Work) -> Made:
        return _made(forms.cylinder(np.array(self.centre), self.radius, self.height), self.solid)


class Barrel(ShapeClause):
    kind = "barrel"
    title = "Barrel vault"
    fills = ((-5.0, -9.0, 0.0), (5.0, 9.0, 3.5))
    summary = "A vault of circular section, from its span, rise and length."
    sentence = "**Barrel vault** of {span} span, {rise} rise and {length} length over {centre}."

    span: float = _size(10.0, "Span", (1, 0, 0), 0.5)
    rise: float = _size(3.5, "Rise", (0, 0, 1))
    length: float = _size(18.0, "Length", (0, 1, 0), 0.5)
    centre: Place = _centre()

    def make(self, work: Work) -> Made:
        if self.rise > 0.95 * self.span:
            raise ClauseError(
                f"A rise of {metres(self.rise)} over a span of {metres(self.span)} leaves next to "
                "no opening at the foot; at most "
                f"{metres(0.95 * self.span)} works.",
                "rise",
            )
        surface = forms.barrel(np.array(self.centre), self.span, self.rise, self.length)
        radius = (self.span**2 / 4 + self.rise**2) / (2 * self.rise)
        return made(surface, {"radius": Figure("Radius", radius, "m", 3)})


class Cone(ShapeClause):
    kind = "cone"
    title = "Cone"
    fills = ((-4.0, -4.0, 0.0), (4.0, 4.0, 6.0))
    summary = "An upright cone, pointed or cut off level."
    sentence = (
        "**Cone** of radius {radius} below and {top} above, {height} high on {centre}, {solid}."
    )

    radius: float = _size(4.0, "Radius below", (1, 0, 0))
    top: float = number(0.0, "m", 0.0, 1000.0, 0.1, "Radius above")
    height: float = _size(6.0, "Height", (0, 0, 1))
    centre: Place = _centre("Foot")
    solid: Literal["surface", "body"] = _solid()

    def make(self, work: Work) -> Made:
        return _made(
            forms.cone(np.array(self.centre), self.radius, self.top, self.height), self.solid
        )


class Conoid(ShapeClause):
    kind = "conoid"
    title = "Conoid"
    fills = ((-5.0, -7.0, 0.0), (5.0, 7.0, 4.0))
    summary = (
        "Straight lines from a parabola at one end to a flatter one, or a level line, at the other."
    )
    sentence = "**Conoid** {width} wide and {length} long over {centre}, rising {rise} in front and {end_rise} behind."

    width: float = _size(10.0, "Width", (1, 0, 0), 0.5)
    length: float = _size(14.0, "Length", (0, 1, 0), 0.5)
    rise: float = _size(4.0, "Rise in front", (0, 0, 1))
    end_rise: float = number(0.0, "m", 0.0, 1000.0, 0.1, "Rise behind")
    centre: Place = _centre()

    def make(self, work: Work) -> Made:
        return made(
            forms.conoid(np.array(self.centre), self.width, self.length, self.rise, self.end_rise)
        )


class HyperbolicParaboloid(ShapeClause):
    kind = "saddle"
    title = "Hyperbolic paraboloid"
    summary = "The doubly ruled surface through four corners."
    sentence = "**Hyperbolic paraboloid** through {first}, {second}, {third} and {fourth}."

    first: Place = point((-6.0, -6.0, 0.0), "First corner", "Alt drags it up and down.")
    second: Place = point((6.0, -6.0, 4.0), "Second corner", "Alt drags it up and down.")
    third: Place = point((6.0, 6.0, 0.0), "Third corner", "Alt drags it up and down.")
    fourth: Place = point((-6.0, 6.0, 4.0), "Fourth corner", "Alt drags it up and down.")

    def make(self, work: Work) -> Made:
        corners = np.array([self.first, self.second, self.third, self.fourth])
        turns = np.cross(
            np.roll(corners, -1, axis=0) - corners,
            np.roll(corners, -2, axis=0) - np.roll(corners, -1, axis=0),
        )
        if (
            np.linalg.norm(turns, axis=1).min()
            < 1e-9 * float(np.ptp(corners, axis=0).max() or 1.0) ** 2
        ):
            raise ClauseError(
                "Three of the corners lie on one line; move one of them aside.", "first", corners[0]
            )
        return made(forms.hyperbolic_paraboloid(corners))


class Box(ShapeClause):
    kind = "box"
    title = "Box"
    fills = ((-3.0, -3.0, 0.0), (3.0, 3.0, 4.0))
    summary = "A block with level and upright faces."
    sentence = (
        "**Box** {along_x} × {along_y} and {height} high, standing on {centre}, turned by {turn}."
    )

    along_x: float = _size(6.0, "Size in x", (1, 0, 0), 0.5)
    along_y: float = _size(6.0, "Size in y", (0, 1, 0), 0.5)
    height: float = _size(4.0, "Height", (0, 0, 1))
    centre: Place = _centre("Middle of its foot")
    turn: float = number(
        0.0, "°", -360.0, 360.0, 1.0, "Turn", "About the upright through its middle"
    )

    def make(self, work: Work) -> Made:
        c, s = np.cos(np.radians(self.turn)), np.sin(np.radians(self.turn))
        flat = np.array([[-1, -1], [1, -1], [1, 1], [-1, 1]]) * [self.along_x / 2, self.along_y / 2]
        ring = np.column_stack([flat @ np.array([[c, s], [-s, c]]), np.zeros(4)]) + np.array(
            self.centre
        )
        up = np.array([0.0, 0.0, 1.0])
        arm = [0.0, -0.5 * self.along_y - 0.15 * max(self.along_x, self.along_y), 0.0]
        body = prism(ring, [], up, self.centre[2], self.centre[2] + self.height)
        return made(body, aids=dial_aid("turn", self.centre, arm, up))
