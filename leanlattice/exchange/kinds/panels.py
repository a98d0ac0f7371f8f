"""Panels before they are labelled."""

from __future__ import annotations

import numpy as np

from ...core.panels.panels import Panels
from .kind import Arrays, Drawing, Kind, Layer, Measure, Picture, narrow
from .nets import cuts_of_polygons

__all__ = ["KIND"]


def _drawn(panels: Panels) -> Drawing:
    return {"material": panels.material, "raised": panels.raised}, {
        "positions": panels.places.astype("<f4"),
        "corners": narrow(panels.corners),
        "counts": narrow(np.diff(panels.offsets)),
    } | cuts_of_polygons(panels.places, panels.corners, panels.offsets)


def _measured(panels: Panels) -> Arrays:
    return {"flatness": panels.flatness, "area": panels.areas}


def _picture(panels: Panels) -> Picture:
    return Picture(panels.places, None, [panels.places[side] for side in panels.sides])


KIND = Kind(
    "Panels",
    layers=(Layer("panels", "Panels", "panel", shown=True),),
    drawn=_drawn,
    measures=(
        Measure("flatness", "panel flatness", "mm", "panels", "panel", scale=1000, digits=1),
        Measure("area", "panel area", "m²", "panels", "panel", total=True),
    ),
    measured=_measured,
    picture=_picture,
    portrait=False,
    card={"panels": "panels"},
)
