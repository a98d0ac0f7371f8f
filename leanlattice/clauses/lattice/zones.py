"""Zones of a net, and clauses that change what lies in one."""

from __future__ import annotations

from typing import Literal

import numpy as np
import shapely
from numpy.typing import NDArray

from ...core.geometry.nets import Net
from ...core.geometry.polygons import areas, vector_areas
from ...core.nets.refining import refined
from ...core.nets.thinning import without_cells
from ..base import ClauseError, Figure, Made, Notice, Take, Work, choice, count, number
from ..said import metres
from ..shape.common import PULLS
from ..shape.drawn import Curves
from .common import NET, NetClause, check_size, made_net
from .lay import Pulling

__all__ = ["LeaveOut", "RefineCells"]

Array = NDArray[np.float64]
Cells = NDArray[np.bool_]
REGION = Take(name="region", types=("Curves",), label="Region in plan", optional=True)
WHERE = {
    "height": "at heights",
    "size": "that are larger",
    "region": "within outlines in plan",
    "near": "near pull points",
    "facing": "that face",
}
ZONE = (
    "{where}[where=height| between {low} and {high}][where=size| than {module}][where=near| within their reach]"
    "[where=facing| {facing}, within {within}]"
)


class ZoneClause(NetClause):
    """Base of clauses that change the cells of a zone."""

    takes = (NET, REGION, PULLS)

    low: float = number(0.0, "m", -10000.0, 10000.0, 0.1, "From")
    high: float = number(2.0, "m", -10000.0, 10000.0, 0.1, "To")
    module: float = number(
        1.5,
        "m",
        0.01,
        1000.0,
        0.05,
        "Module",
        "Cells whose area is more than that of a square this wide",
    )
    facing: Literal["up", "sideways", "down"] = choice(
        "up", {"up": "upward", "sideways": "sideways", "down": "downward"}, "Facing"
    )
    within: float = number(45.0, "°", 1.0, 90.0, 1.0, "Angle", "Of a cell to that direction")

    def zone(self, where: str, net: Net, work: Work) -> Cells:
        """Which cells (C,) lie in the zone; raises ``ClauseError`` where it cannot be told."""
        if where == "size":
            return np.asarray(areas(net.vertices, net.corners, net.offsets) > self.module**2)
        if where == "facing":
            return self._facing(net)
        middle = net.cell_means
        if where == "height":
            if self.low > self.high:
                raise ClauseError(
                    f"From {metres(self.low)} to {metres(self.high)} holds no height; exchange the "
                    "two.",
                    "low",
                )
            return np.asarray((middle[:, 2] >= self.low) & (middle[:, 2] <= self.high))
        return _near(middle, work) if where == "near" else _within(middle, work)

    def _facing(self, net: Net) -> Cells:
        normal = vector_areas(net.vertices, net.corners, net.offsets)
        up = normal[:, 2] / np.maximum(np.linalg.norm(normal, axis=1), 1e-300)
        share = {"up": up, "down": -up, "sideways": np.sqrt(np.maximum(1 - up**2, 0.0))}[
            self.facing
        ]
        return np.asarray(share >= np.cos(np.radians(self.within)) - 1e-9)


def _near(middle: Array, work: Work) -> Cells:
    pulls: list[Pulling] = work.inputs.get("pulls") or []
    if not pulls:
        raise ClauseError(
            "There are no pull points above; add “Pull points” before this clause.", "where"
        )
    near = np.zeros(len(middle), bool)
    for pull in pulls:
        for line in pull.lines:
            near |= np.linalg.norm(middle[:, None] - line[None], axis=2).min(axis=1) <= pull.reach
    return near


def _within(middle: Array, work: Work) -> Cells:
    drawn: Curves | None = work.inputs.get("region")
    rings = (
        [c.polyline(c.path.size * 1e-3)[:, :2] for c in drawn.curves if c.path.closed]
        if drawn
        else []
    )
    if not rings:
        raise ClauseError(
            "There is no closed outline above to be the region; draw one before this clause.",
            "where",
        )
    region = shapely.union_all([shapely.make_valid(shapely.Polygon(r)) for r in rings])
    return np.asarray(shapely.contains_xy(region, middle[:, 0], middle[:, 1]))


class RefineCells(ZoneClause):
    kind = "refine"
    title = "Refine zones"
    summary = "Finer cells at heights, in steps towards the foot, within a region in plan, near pulls, or where cells are large."
    sentence = f"**Refine** cells {ZONE}, {{way}}, {{times}}."

    where: Literal["height", "steps", "size", "region", "near", "facing"] = choice(
        "height", {"steps": "in steps towards the foot"} | WHERE, "Where"
    )
    way: Literal["halved", "joined", "spokes"] = choice(
        "halved",
        {
            "halved": "halving their sides",
            "joined": "joining the middles of their sides",
            "spokes": "with spokes",
        },
        "Way",
    )
    times: int = count(
        1, 1, 5, "Times", "In steps towards the foot, as many steps", words=("time", "times")
    )

    def make(self, work: Work) -> Made:
        net: Net = work.inputs["net"]
        zones = 0
        for k in range(self.times):
            work.progress(k / self.times)
            wanted = (
                self._step(net, k) if self.where == "steps" else self.zone(self.where, net, work)
            )
            if not wanted.any():
                break
            zones = int(wanted.sum()) if k == 0 else zones
            check_size(net.cell_count + 4 * int(wanted.sum()), "times")
            net = refined(net, wanted, self.way)
        warnings = []
        if not zones:
            warnings.append(
                Notice("No cell lies in the zone, so that nothing was refined.", value="where")
            )
        return made_net(net, {"refined": Figure("Cells refined", zones)}, warnings)

    def _step(self, net: Net, k: int) -> Cells:
        """Cells below step ``k`` of the height, counted from the highest."""
        z = net.cell_means[:, 2]
        low, high = float(net.vertices[:, 2].min()), float(net.vertices[:, 2].max())
        return np.asarray(z < low + (high - low) * (1 - (k + 1) / (self.times + 1)))


class LeaveOut(ZoneClause):
    kind = "leave-out"
    title = "Leave cells out"
    summary = "Takes a zone out of the net, or keeps it alone: what faces down, lies in a region, or above a height."
    sentence = f"**Leave out** {{keep}} cells {ZONE}."

    where: Literal["height", "size", "region", "near", "facing"] = choice("facing", WHERE, "Where")
    facing: Literal["up", "sideways", "down"] = choice(
        "down", {"up": "upward", "sideways": "sideways", "down": "downward"}, "Facing"
    )
    keep: Literal["these", "others"] = choice(
        "these", {"these": "the", "others": "all but the"}, "Which"
    )

    def make(self, work: Work) -> Made:
        net: Net = work.inputs["net"]
        chosen = self.zone(self.where, net, work)
        if self.keep == "others":
            chosen = ~chosen
        if chosen.all():
            raise ClauseError(
                "That would leave no cell; another zone, or leaving out all but it, works.", "where"
            )
        warnings = []
        if not chosen.any():
            warnings.append(
                Notice("No cell lies in the zone, so that none was left out.", value="where")
            )
        return made_net(
            without_cells(net, np.flatnonzero(chosen)),
            {"taken": Figure("Left out", int(chosen.sum()))},
            warnings,
        )
