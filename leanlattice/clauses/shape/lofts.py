"""Lofts and domes."""

from __future__ import annotations

from typing import Any, Literal

import numpy as np

from ...core.geometry.curves import first_coincident
from ...core.geometry.meshes import Body
from ...core.geometry.surfaces import Surface, crossing_profiles, dome, loft
from ...core.shaping.stacks import StackError, bounded_by
from ..base import ClauseError, Figure, Handle, Made, Notice, Work, choice, number, point, profiles
from ..said import metres
from .common import Place, ShapeClause, made

__all__ = ["DomeShape", "LoftShape"]

MOST_PROFILES, MOST_POINTS = 60, 200


def _three_arches() -> list[list[tuple[float, float, float]]]:
    arches = []
    for y, span, rise in ((0.0, 12.0, 4.0), (9.0, 14.0, 5.0), (18.0, 12.0, 4.0)):
        turns = np.linspace(np.pi, 0, 5)
        arches.append(
            [(round(span / 2 * np.cos(t), 2), y, round(rise * np.sin(t), 2)) for t in turns]
        )
    return arches


class LoftShape(ShapeClause):
    kind = "loft"
    title = "Loft through profiles"
    summary = "A smooth surface through two or more curves, each drawn through its own points."
    sentence = "**Loft** through {profiles}, {closed}[closed=closed|, {ends}], {outside}."

    profiles: list[list[Place]] = profiles(
        _three_arches, "Profiles", "Drag points in the view; open the list for exact coordinates."
    )
    closed: Literal["open", "closed"] = choice(
        "open",
        {"open": "each open", "closed": "each closed"},
        "Profiles are",
        "A closed profile returns to its start.",
    )
    ends: Literal["open", "capped"] = choice(
        "open",
        {"open": "as a surface", "capped": "closed to a body by flat ends"},
        "Ends",
        "A body is closed and can be cut, hollowed and united with others.",
    )
    outside: Literal["out", "swapped"] = choice(
        "out", {"out": "its outside outward", "swapped": "its outside and inside swapped"}, "Sides"
    )

    def make(self, work: Work) -> Made:
        lines = self._checked()
        closed = self.closed == "closed"
        solid = closed and self.ends == "capped"
        # The outside of a body is where there is none of it.
        surface = loft(lines, closed, self.outside == "swapped" and not solid)
        crossing = crossing_profiles(surface)
        if crossing is not None:
            i, at = crossing
            raise ClauseError(
                f"Profiles {i + 1} and {i + 2} cross near ({at[0]:.2f}, {at[1]:.2f}, {at[2]:.2f}) m; "
                f"move one of them so that they stay apart along their whole length.",
                "profiles",
                at,
            )
        return made(_body(surface) if solid else surface, warnings=_folds(surface))

    def _checked(self) -> list[np.ndarray[Any, np.dtype[np.float64]]]:
        if not 2 <= len(self.profiles) <= MOST_PROFILES:
            raise ClauseError(
                f"A loft of {len(self.profiles)} profiles cannot be made; give 2 to {MOST_PROFILES}.",
                "profiles",
            )
        least = 3 if self.closed == "closed" else 2
        lines = [np.array(p, float).reshape(-1, 3) for p in self.profiles]
        for i, line in enumerate(lines, 1):
            if not least <= len(line) <= MOST_POINTS:
                raise ClauseError(
                    f"Profile {i} has {len(line)} point{'s' if len(line) != 1 else ''}; "
                    f"{'a closed one' if least == 3 else 'it'} needs {least} to {MOST_POINTS}.",
                    "profiles",
                )
            twin = first_coincident(line, self.closed == "closed")
            if twin is not None:
                after = (twin + 1) % len(line)
                raise ClauseError(
                    f"Points {twin + 1} and {after + 1} of profile {i} lie on the same place "
                    f"({', '.join(f'{x:g}' for x in line[twin])}) m; move or remove one of them.",
                    "profiles",
                    line[twin],
                )
        return lines


def _body(surface: Surface) -> Body:
    """The body between the first and the last profile, which are closed by flat faces."""
    try:
        return bounded_by(surface)
    except StackError as error:
        raise ClauseError(
            f"The body cannot be closed: {error}. Bring the points of the first and of the last "
            "profile each into one plane.",
            "profiles",
        ) from None


def _folds(surface: Surface) -> list[Notice]:
    """A warning where the surface turns over on itself between neighbouring places."""
    axis = np.linspace(0.004, 0.996, 48)
    u, v = np.meshgrid(axis, axis, indexing="ij")
    uv = np.column_stack([u.ravel(), v.ravel()])
    normals = surface.normals(uv).reshape(48, 48, 3)
    for a, b in ((normals[1:], normals[:-1]), (normals[:, 1:], normals[:, :-1])):
        hits = np.argwhere(np.einsum("ijk,ijk->ij", a, b) < 0)
        if hits.size:
            at = surface.points(np.array([[axis[hits[0, 0]], axis[hits[0, 1]]]]))[0]
            return [
                Notice(
                    f"The surface folds over near ({at[0]:.2f}, {at[1]:.2f}, {at[2]:.2f}) m; "
                    "space the points of the profiles more evenly or pull the profiles apart.",
                    at=(float(at[0]), float(at[1]), float(at[2])),
                    value="profiles",
                )
            ]
    return []


class DomeShape(ShapeClause):
    kind = "dome"
    title = "Dome"
    fills = ((-6.0, -6.0, 0.0), (6.0, 6.0, 3.0))
    summary = "A cap of a sphere, from its span and its rise."
    sentence = "**Dome** of {span} span and {rise} rise, standing at {centre}."

    span: float = number(
        12.0,
        "m",
        0.1,
        1000.0,
        0.1,
        "Span",
        handle=Handle(origin="centre", direction=(1, 0, 0), scale=0.5),
    )
    rise: float = number(
        3.0,
        "m",
        0.01,
        500.0,
        0.05,
        "Rise",
        "Half the span makes a half sphere; more makes it bulge.",
        handle=Handle(origin="centre", direction=(0, 0, 1)),
    )
    centre: Place = point((0.0, 0.0, 0.0), "Centre")

    def make(self, work: Work) -> Made:
        if self.rise > 0.95 * self.span:
            raise ClauseError(
                f"A rise of {metres(self.rise)} over a span of {metres(self.span)} leaves next to "
                "no opening at the foot; "
                f"at most {metres(0.95 * self.span)} works.",
                "rise",
            )
        surface = dome(self.span, self.rise, np.array(self.centre))
        return made(surface, {"radius": Figure("Radius", surface.radius, "m", 3)})
