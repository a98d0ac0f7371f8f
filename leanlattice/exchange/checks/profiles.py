"""Profiles in building models drawn anew from their parameters, with sharp corners."""

from __future__ import annotations

from collections.abc import Callable
from typing import Any

import numpy as np
import shapely
import shapely.affinity
from numpy.typing import NDArray
from shapely.geometry.base import BaseGeometry

from .pack_cuts import section_polygon

__all__ = ["drawn_profile", "profile_differs"]

Array = NDArray[np.float64]
Polygon = BaseGeometry
SIDES = 720
"""Of circles."""


def _circle(profile: Any) -> Polygon:
    angles = 2 * np.pi / SIDES * np.arange(SIDES)
    return shapely.Polygon(profile.Radius * np.column_stack([np.cos(angles), np.sin(angles)]))


def _circle_hollow(profile: Any) -> Polygon:
    whole = _circle(profile)
    share = 1 - profile.WallThickness / profile.Radius
    return whole - shapely.affinity.scale(whole, share, share, origin=(0, 0))


def _box(width: float, height: float) -> Polygon:
    return shapely.box(-width / 2, -height / 2, width / 2, height / 2)


def _rectangle(profile: Any) -> Polygon:
    return _box(profile.XDim, profile.YDim)


def _rectangle_hollow(profile: Any) -> Polygon:
    wall = 2 * profile.WallThickness
    return _rectangle(profile) - _box(profile.XDim - wall, profile.YDim - wall)


def _i_shape(profile: Any) -> Polygon:
    width, height, flange = profile.OverallWidth, profile.OverallDepth, profile.FlangeThickness
    return (_box(width, height) - _box(width, height - 2 * flange)) | _box(
        profile.WebThickness, height
    )


def _u_shape(profile: Any) -> Polygon:
    """Its web to the left."""
    width, height, web = profile.FlangeWidth, profile.Depth, profile.WebThickness
    hollow = _box(width, height - 2 * profile.FlangeThickness)
    return _box(width, height) - shapely.affinity.translate(hollow, web, 0)


def _l_shape(profile: Any) -> Polygon:
    """Its heel to the lower left."""
    width, height, wall = profile.Width or profile.Depth, profile.Depth, profile.Thickness
    return _box(width, height) - shapely.affinity.translate(_box(width, height), wall, wall)


def _t_shape(profile: Any) -> Polygon:
    """Its flange above."""
    width, height = profile.FlangeWidth, profile.Depth
    below = shapely.affinity.translate(_box(width, height), 0, -profile.FlangeThickness)
    return (_box(width, height) - below) | _box(profile.WebThickness, height)


def _bounded(profile: Any) -> Polygon:
    outer = np.array([p.Coordinates for p in profile.OuterCurve.Points], float)
    inner = [
        np.array([p.Coordinates for p in curve.Points], float)
        for curve in getattr(profile, "InnerCurves", None) or ()
    ]
    return shapely.Polygon(outer, inner)


def _composite(profile: Any) -> Polygon:
    return shapely.union_all([drawn_profile(one) for one in profile.Profiles])


DRAWN: dict[str, Callable[[Any], Polygon]] = {
    "IfcCircleProfileDef": _circle,
    "IfcCircleHollowProfileDef": _circle_hollow,
    "IfcRectangleProfileDef": _rectangle,
    "IfcRectangleHollowProfileDef": _rectangle_hollow,
    "IfcIShapeProfileDef": _i_shape,
    "IfcUShapeProfileDef": _u_shape,
    "IfcLShapeProfileDef": _l_shape,
    "IfcTShapeProfileDef": _t_shape,
    "IfcArbitraryClosedProfileDef": _bounded,
    "IfcArbitraryProfileDefWithVoids": _bounded,
    "IfcCompositeProfileDef": _composite,
}
"""What is in the middle of their boxes is drawn there, as ISO 16739-1 has it."""


def drawn_profile(profile: Any) -> Polygon:
    """A profile (x, y) in metres where it lies."""
    drawn = DRAWN[profile.is_a()](profile)
    place = getattr(profile, "Position", None)
    if place is None:
        return drawn
    x, y = place.Location.Coordinates
    c, s = place.RefDirection.DirectionRatios if place.RefDirection else (1.0, 0.0)
    return shapely.affinity.affine_transform(drawn, [c, -s, s, c, x, y])


def profile_differs(profile: Any, section: str) -> float:
    """How far (mm) a profile is from the section of a name: the area by which they differ, by the
    length of its outline."""
    wanted = section_polygon(section, SIDES)
    return float(drawn_profile(profile).symmetric_difference(wanted).area / wanted.length * 1000)
