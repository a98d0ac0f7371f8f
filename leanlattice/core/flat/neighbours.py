"""Parts moved among those that lie on a sheet: apart to the spacing, and left and down to it."""

from __future__ import annotations

from collections.abc import Sequence
from typing import Any

import numpy as np
import shapely
from numpy.typing import NDArray

from .sheets import Stock, placed

__all__ = ["SLACK", "Neighbours", "lying"]

Array = NDArray[np.float64]
SLACK = 1e-6
"""What (mm) counts as nothing."""
PUSHES, PUSHED = 6, 0.01
"""Steps in which a part is pushed one way, and the least (mm) it is pushed by."""


class Neighbours:
    """A part about to lie on a sheet of a ``stock``, and what of the ``shapes`` (mm) that lie
    there, with their ``boxes`` (n, 4), lies within ``reach`` (mm) of where it may come. Its own
    ``shape`` is turned by ``angle`` (rad), which gives it an extent from ``low`` (2,) of a ``size``
    (2,)."""

    def __init__(
        self,
        shapes: list[Any],
        boxes: Sequence[Array],
        stock: Stock,
        shape: Any,
        angle: float,
        low: Array,
        size: Array,
        reach: float,
    ) -> None:
        self.shapes, self.stock, self.reach = shapes, stock, reach
        self.shape = lying(shape, angle, np.zeros(2))
        self.low = stock.margin - low
        room = np.array([stock.width, stock.height]) - 2 * stock.margin
        self.high = self.low + np.maximum(room - size, 0.0)
        self.box = np.concatenate([low, low + size])
        self.boxes = np.array(boxes).reshape(-1, 4)

    def _near(self, shift: Array, back: Array, ahead: float) -> Any:
        """Shapes that may come nearer than the spacing if the part is moved left and down by up to
        ``back`` (2,) and the other way by up to ``ahead``."""
        spacing = self.stock.spacing
        low = self.box[:2] + shift - spacing - back
        high = self.box[2:] + shift + spacing + ahead
        near = (self.boxes[:, :2] <= high).all(axis=1) & (self.boxes[:, 2:] >= low).all(axis=1)
        return np.array([self.shapes[k] for k in np.flatnonzero(near)], object)

    def _at(self, shift: Array) -> Any:
        return shapely.transform(self.shape, lambda points: points + shift)

    def freed(self, shift: Array) -> Array | None:
        """A place near by where it keeps the spacing, found by moving it away from what it is too
        near to; ``None`` where that does not lead to one."""
        others = self._near(shift, np.full(2, self.reach), self.reach)
        spacing = self.stock.spacing
        start = shift
        for _ in range(PUSHES):
            shape = self._at(shift)
            distance = shapely.distance(others, shape) if len(others) else np.array([np.inf])
            k = int(np.argmin(distance))
            short = spacing - float(distance[k])
            if short <= 0:
                return shift
            if distance[k] <= 0:
                return None
            line = shapely.get_coordinates(shapely.shortest_line(others[k], shape))
            away = (line[1] - line[0]) / distance[k]
            shift = np.clip(shift + (short + SLACK) * away, self.low, self.high)
            if np.abs(shift - start).max() > self.reach:
                return None
        return None

    def pushed(self, shift: Array) -> Array:
        """Its place pushed left and down until it lies at the spacing from others or at the margin.

        A push by what the nearest is further away than the spacing brings it no nearer than that.
        """
        for axis in (0, 1, 0):
            room = min(float(shift[axis] - self.low[axis]), self.reach)
            # Only what stands in its way, as seen along the axis.
            others = self._near(shift, room * np.eye(2)[axis], 0.0)
            for _ in range(PUSHES):
                step = room
                if len(others):
                    distance = float(shapely.distance(others, self._at(shift)).min())
                    step = min(step, distance - self.stock.spacing - SLACK)
                if step < PUSHED and step < room:
                    break
                shift = shift - step * np.eye(2)[axis]
                room -= step
                if room <= 0:
                    break
        return shift


def lying(shape: Any, angle: float, shift: Array) -> Any:
    """A shape (mm) turned and shifted to where it lies."""
    return shapely.transform(shape, lambda points: placed(points, angle, shift))
