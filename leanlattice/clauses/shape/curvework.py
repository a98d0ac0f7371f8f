"""Operations on curves."""

from __future__ import annotations

from typing import Literal

import numpy as np

from ...core.geometry.drawing import cubics_through
from ...core.geometry.paths import PlaneCurve, on_plane
from ...core.shaping import pathcuts, pathwork
from ..base import ClauseError, Made, Notice, Take, Work, choice, count, number
from ..lattice.common import place_of
from ..said import metres, place_text
from .drawn import CURVES, CurveClause, Curves, made_curves

__all__ = [
    "CopyCurves",
    "ExtendCurves",
    "JoinCurves",
    "MirrorCurves",
    "OffsetCurves",
    "RoundCorners",
    "SmoothCurves",
    "SplitCurves",
    "TrimCurves",
    "UniteOutlines",
]


class RoundCorners(CurveClause):
    kind = "round-corners"
    title = "Round corners"
    summary = (
        "True arcs at the corners between straight pieces; clamped where the radius does not fit."
    )
    sentence = "**Round** the corners with a radius of {radius}."
    takes = (CURVES,)

    radius: float = number(0.5, "m", 0.001, 1000.0, 0.05, "Radius")

    def make(self, work: Work) -> Made:
        given: Curves = work.inputs["curves"]
        out, clamped, left = [], [], []
        for c in given.curves:
            rounded = pathwork.round_corners(c.path, self.radius)
            out.append(PlaneCurve(rounded.path, c.frame))
            clamped += [(c.frame.lifted(at[None])[0], r) for at, r in rounded.clamped]
            left += [c.frame.lifted(at[None])[0] for at in rounded.left]
        warnings = []
        if left:
            named = "; ".join(place_text(at) for at in left[:4]) + ("; …" if len(left) > 4 else "")
            which = "1 corner stays" if len(left) == 1 else f"{len(left)} corners stay"
            text = f"{which} as drawn, as one of their sides is a freely drawn curve ({named})."
            warnings.append(Notice(text, at=place_of(left[0]), value="radius"))
        if clamped:
            named = "; ".join(f"{place_text(at)}: {metres(r, '.3g')}" for at, r in clamped[:4]) + (
                "; …" if len(clamped) > 4 else ""
            )
            at = clamped[0][0]
            warnings.append(
                Notice(
                    f"A radius of {metres(self.radius)} does not fit at {len(clamped)} "
                    f"corner{'s' if len(clamped) > 1 else ''}; the "
                    f"largest that does was made there ({named}).",
                    at=(float(at[0]), float(at[1]), float(at[2])),
                    value="radius",
                )
            )
        return made_curves(out, warnings, "radius")


class OffsetCurves(CurveClause):
    kind = "offset-curves"
    title = "Offset curves"
    summary = "Curves at an even distance, outward or inward; arcs stay arcs."
    sentence = "**Offset** the curves by {distance} {side}, {keep}."
    takes = (CURVES,)

    distance: float = number(0.5, "m", 0.001, 1000.0, 0.05, "Distance")
    side: Literal["out", "in"] = choice(
        "out",
        {"out": "outward", "in": "inward"},
        "Side",
        "Of an open curve outward is to its right.",
    )
    keep: Literal["only", "both"] = choice(
        "only", {"only": "giving those alone", "both": "keeping the first too"}, "Keep"
    )

    def make(self, work: Work) -> Made:
        given: Curves = work.inputs["curves"]
        out: list[PlaneCurve] = list(given.curves) if self.keep == "both" else []
        lost = 0
        for c in given.curves:
            left = 1.0 if not c.path.closed or c.path.signed_area > 0 else -1.0
            d = self.distance * left * (-1 if self.side == "out" else 1)
            new = pathwork.offset(c.path, d, max(c.path.size * 2e-4, 1e-6))
            lost += not new
            out += [PlaneCurve(p, c.frame) for p in new]
        warnings = [
            Notice(
                f"Nothing is left of {lost} curve{'s' if lost > 1 else ''} at "
                f"{metres(self.distance)}.",
                value="distance",
            )
        ]
        return made_curves(out, warnings if lost else [], "distance")


class TrimCurves(CurveClause):
    kind = "trim-curves"
    title = "Trim curves"
    summary = "Keeps what lies inside or outside other curves."
    sentence = "**Trim** the curves, keeping what lies {keep} the trimming curves."
    takes = (CURVES, Take(name="by", types=("Curves",), label="Trimming curves"))

    keep: Literal["inside", "outside"] = choice(
        "inside",
        {"inside": "inside", "outside": "outside"},
        "Keep",
        "Of an open trimming curve inside is to its left.",
    )

    def make(self, work: Work) -> Made:
        given: Curves = work.inputs["curves"]
        cutters: Curves = work.inputs["by"]
        out = []
        for c in given.curves:
            parts = [c.path]
            for cutter in on_plane(cutters.curves, c.frame):
                parts = [q for p in parts for q in pathcuts.keep_side(p, cutter, self.keep)]
            out += [PlaneCurve(p, c.frame) for p in parts]
        return made_curves(out, value="keep")


class ExtendCurves(CurveClause):
    kind = "extend-curves"
    title = "Extend curves"
    summary = "Runs open curves on, straight or along their last arc, until they meet other curves."
    sentence = "**Extend** the open curves to the curves they meet, {what}."
    takes = (CURVES, Take(name="to", types=("Curves",), label="Curves to meet"))

    what: Literal["alone", "both"] = choice(
        "alone", {"alone": "giving those alone", "both": "keeping both"}, "Keep"
    )

    def make(self, work: Work) -> Made:
        given: Curves = work.inputs["curves"]
        targets: Curves = work.inputs["to"]
        out, same = [], 0
        for c in given.curves:
            path = c.path
            for target in on_plane(targets.curves, c.frame):
                path = pathcuts.extend(path, target)
            same += abs(path.length - c.path.length) < 1e-12
            out.append(PlaneCurve(path, c.frame))
        warnings = [
            Notice(
                f"{same} curve{'s meet' if same > 1 else ' meets'} nothing further on and stayed.",
                value="what",
            )
        ]
        if self.what == "both":
            out += list(targets.curves)
        return made_curves(out, warnings if same else [])


class JoinCurves(CurveClause):
    kind = "join-curves"
    title = "Join curves"
    summary = "Open curves whose ends meet become one; runs that return to their start are closed."
    sentence = "**Join** curves whose ends lie within {tolerance}."
    takes = (CURVES,)

    tolerance: float = number(1.0, "mm", 0.001, 1000.0, 0.1, "Tolerance")

    def make(self, work: Work) -> Made:
        given: Curves = work.inputs["curves"]
        out: list[PlaneCurve] = []
        by_frame: dict[tuple[float, ...], list[PlaneCurve]] = {}
        for c in given.curves:
            by_frame.setdefault(
                tuple(np.round([*c.frame.normal, c.frame.normal @ c.frame.origin], 9)), []
            ).append(c)
        for group in by_frame.values():
            frame = group[0].frame
            out += [
                PlaneCurve(p, frame)
                for p in pathcuts.join(on_plane(group, frame), self.tolerance / 1000)
            ]
        return made_curves(out)


class SplitCurves(CurveClause):
    kind = "split-curves"
    title = "Split curves"
    summary = "Each curve in parts of equal length."
    sentence = "**Split** each curve in {parts} parts of equal length."
    takes = (CURVES,)

    parts: int = count(2, 2, 200, "Parts")

    def make(self, work: Work) -> Made:
        given: Curves = work.inputs["curves"]
        out = [
            PlaneCurve(p, c.frame)
            for c in given.curves
            for p in pathcuts.split_evenly(c.path, self.parts)
        ]
        return made_curves(out, value="parts")


class MirrorCurves(CurveClause):
    kind = "mirror-curves"
    title = "Mirror curves"
    summary = "The curves on the other side of a line in their plane."
    sentence = (
        "**Mirror** the curves in the line through {at} along {angle} of their plane, {keep}."
    )
    takes = (CURVES,)

    at: float = number(
        0.0,
        "m",
        -1000.0,
        1000.0,
        0.1,
        "Distance of the line",
        "From the plane's origin, square to the line",
    )
    angle: float = number(
        90.0, "°", -360.0, 360.0, 5.0, "Direction of the line", "From the plane's first direction"
    )
    keep: Literal["only", "both"] = choice(
        "both", {"only": "giving those alone", "both": "keeping the first too"}, "Keep"
    )

    def make(self, work: Work) -> Made:
        given: Curves = work.inputs["curves"]
        a = np.radians(self.angle)
        normal = np.array([np.sin(a), -np.cos(a)])
        matrix = np.eye(2) - 2 * np.outer(normal, normal)
        new = [
            PlaneCurve(c.path.mapped(matrix, 2 * self.at * normal), c.frame) for c in given.curves
        ]
        return made_curves([*given.curves, *new] if self.keep == "both" else new)


class CopyCurves(CurveClause):
    kind = "copy-curves"
    title = "Copy curves"
    summary = "Copies in a row, or around a point of their plane."
    sentence = (
        "**Copy** the curves {way}, {copies} in all[way=along|, each {dx} across and {dy} up from the last]"
        "[way=around|, about {cx} across and {cy} up through {angle}]."
    )
    takes = (CURVES,)

    way: Literal["along", "around"] = choice(
        "along", {"along": "in a row", "around": "around a point"}, "Way"
    )
    copies: int = count(3, 1, 200, "Copies")
    dx: float = number(4.0, "m", -1000.0, 1000.0, 0.1, "Step across")
    dy: float = number(0.0, "m", -1000.0, 1000.0, 0.1, "Step up")
    cx: float = number(0.0, "m", -1000.0, 1000.0, 0.1, "Point across")
    cy: float = number(0.0, "m", -1000.0, 1000.0, 0.1, "Point up")
    angle: float = number(
        360.0, "°", -360.0, 360.0, 5.0, "Angle", "In all; a full turn is divided evenly"
    )

    def make(self, work: Work) -> Made:
        given: Curves = work.inputs["curves"]
        out = []
        full = abs(abs(self.angle) - 360) < 1e-9
        for k in range(self.copies):
            if self.way == "along":
                matrix, shift = np.eye(2), k * np.array([self.dx, self.dy])
            else:
                a = np.radians(self.angle) * k / max(self.copies if full else self.copies - 1, 1)
                matrix = np.array([[np.cos(a), -np.sin(a)], [np.sin(a), np.cos(a)]])
                centre = np.array([self.cx, self.cy])
                shift = centre - matrix @ centre
            out += [PlaneCurve(c.path.mapped(matrix, shift), c.frame) for c in given.curves]
        return made_curves(out, value="copies")


class UniteOutlines(CurveClause):
    kind = "unite-outlines"
    title = "Unite outlines"
    summary = "One outline around closed curves that overlap."
    sentence = "**Unite** overlapping closed curves to the outline of their common area, {keep}."
    takes = (CURVES,)

    keep: Literal["all", "outer"] = choice(
        "all", {"all": "openings too", "outer": "without openings"}, "Openings"
    )

    def make(self, work: Work) -> Made:
        given: Curves = work.inputs["curves"]
        closed = [c for c in given.curves if c.path.closed]
        if not closed:
            raise ClauseError("None of the curves is closed; join or close them first.")
        frame = closed[0].frame
        paths = pathcuts.unite(on_plane(closed, frame), max(given.size * 1e-4, 1e-6))
        if self.keep == "outer":
            paths = [p for p in paths if p.signed_area > 0]
        return made_curves([PlaneCurve(p, frame) for p in paths])


class SmoothCurves(CurveClause):
    kind = "smooth-curves"
    title = "Smooth or resample curves"
    summary = "A smooth curve through evenly spaced points of each curve, eased as often as asked."
    sentence = "**Smooth** each curve to {points} even points, eased {rounds}."
    takes = (CURVES,)

    points: int = count(24, 3, 500, "Points")
    rounds: int = count(
        0, 0, 200, "Eased", "0 only spaces the points evenly", words=("time", "times")
    )

    def make(self, work: Work) -> Made:
        given: Curves = work.inputs["curves"]
        out = []
        for c in given.curves:
            if self.rounds:
                out.append(PlaneCurve(pathwork.smooth(c.path, self.points, self.rounds), c.frame))
            else:
                out.append(
                    PlaneCurve(
                        cubics_through(pathwork.resample(c.path, self.points), c.path.closed),
                        c.frame,
                    )
                )
        return made_curves(out, value="points")
