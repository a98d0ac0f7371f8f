"""Hubs in STEP in their exact form: balls with plane seats and round holes."""

from __future__ import annotations

from collections.abc import Sequence
from pathlib import Path
from typing import Any

import numpy as np
from numpy.typing import NDArray

from ..core.hubs.hubs import Hubs, ball_of_triangles
from .step import MM, silenced, write_step

__all__ = ["MOST_KINDS", "write_hubs"]

Array = NDArray[np.float64]
MOST_KINDS = 100
"""Of all hubs of a pack; where there are more, none is written."""
BEYOND = 2.0
"""Of a ball's radius, how far what is cut off reaches beyond a seat."""


def write_hubs(path: Path, every: Sequence[Hubs]) -> None:
    """Writes the first hub of each kind by its label, in its place."""
    first = [np.unique(hubs.kind_of, return_index=True)[1] for hubs in every]
    if not 0 < sum(len(own) for own in first) <= MOST_KINDS:
        return
    silenced()
    named = [
        (hubs.labels[k], _hub(hubs, k))
        for hubs, own in zip(every, first, strict=True)
        for k in np.sort(own).tolist()
    ]
    write_step(path, named)


def _hub(hubs: Hubs, k: int) -> Any:
    """One hub: a ball without what is beyond its seats, and without its holes."""
    from OCP.BRepAlgoAPI import BRepAlgoAPI_Cut
    from OCP.BRepPrimAPI import BRepPrimAPI_MakeSphere
    from OCP.gp import gp_Ax2, gp_Dir, gp_Pnt

    seats = hubs.seats
    pole, seam = (gp_Dir(*way.tolist()) for way in _axes(hubs, k))
    axes = gp_Ax2(gp_Pnt(*(seats.middles[k] * MM).tolist()), pole, seam)
    ball = BRepPrimAPI_MakeSphere(axes, float(seats.radius[k]) * MM).Shape()
    away = _cut_away(hubs, k)
    if seats.hollow[k]:
        away.append(BRepPrimAPI_MakeSphere(axes, float(seats.hollow[k]) * MM).Shape())
    cut = BRepAlgoAPI_Cut()
    cut.SetArguments(_listed([ball]))
    cut.SetTools(_listed(away))
    cut.Build()
    return cut.Shape()


def _cut_away(hubs: Hubs, k: int) -> list[Any]:
    """What is beyond the seats of a hub, and its holes."""
    seats, ends, making = hubs.seats, hubs.seats.ends, hubs.making
    radius, out = float(seats.radius[k]) * MM, []
    for seat in range(int(seats.offsets[k]), int(seats.offsets[k + 1])):
        way, middle = ends.way[seat], seats.middles[k]
        on = (middle + ends.levels[seat] * way) * MM
        out.append(_cylinder(on, way, radius, BEYOND * radius))
        if making.hole:
            floor = middle + ends.off[seat] + (ends.set_back[seat] - making.deep) * way
            out.append(_cylinder(floor * MM, way, making.hole * MM / 2, 2 * making.deep * MM))
    return out


def _axes(hubs: Hubs, k: int) -> tuple[Array, Array]:
    """Directions (3,), (3,) of a hub's pole, which no seat is over, and of its seam, as far as can
    be from touching the rims of seats: the format does not keep faces whose borders do."""
    seats = hubs.seats
    own = slice(int(seats.offsets[k]), int(seats.offsets[k + 1]))
    way = seats.ends.way[own]
    rim = np.arcsin(np.minimum(seats.ends.reach[own] / seats.radius[k], 1.0))
    every = np.asarray(ball_of_triangles().vertices)
    best, out = -np.pi, (every[0], every[0])
    for pole in every[every[:, 2] >= 0]:
        side = every - (every @ pole)[:, None] * pole
        size = np.linalg.norm(side, axis=1)
        side = side[size > 0.5] / size[size > 0.5, None]
        to_pole = np.arccos(np.clip(np.abs(way @ pole), 0.0, 1.0))
        aside = np.arcsin(np.clip(np.abs(np.cross(pole, side) @ way.T), 0.0, 1.0))
        to_seam = np.where(side @ way.T >= 0, aside, to_pole)
        clear = np.minimum(to_seam - rim, to_pole - rim).min(axis=1)
        if clear.max() > best:
            best, out = float(clear.max()), (pole, side[int(clear.argmax())])
    return out


def _cylinder(at: Array, way: Array, radius: float, high: float) -> Any:
    """A round solid that stands ``at`` a place (3,) along a direction, in millimetres."""
    from OCP.BRepPrimAPI import BRepPrimAPI_MakeCylinder
    from OCP.gp import gp_Ax2, gp_Dir, gp_Pnt

    axis = gp_Ax2(gp_Pnt(*at.tolist()), gp_Dir(*way.tolist()))
    return BRepPrimAPI_MakeCylinder(axis, radius, high).Shape()


def _listed(shapes: Sequence[Any]) -> Any:
    """Shapes as the package's own list."""
    from OCP.OCP.collections import List_TopoDS_Shape

    out = List_TopoDS_Shape()
    for shape in shapes:
        out.Append(shape)
    return out
