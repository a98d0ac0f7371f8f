"""What holds a net, as data: which vertices, and what of them stays or what they slide on."""

from __future__ import annotations

from collections.abc import Callable
from dataclasses import dataclass
from typing import Any

import numpy as np
from numpy.typing import NDArray

from ..geometry.meshes import Body
from ..geometry.meshsurface import MeshSurface
from ..geometry.nets import Net
from ..geometry.paths import PlaneCurve
from ..results import Result, result_type
from ..selection import Selection
from ..shaping.facets import facets
from .problem import Slide
from .slides import along_curves, in_planes, over_mesh, over_surface

__all__ = ["AXES", "Hold"]

Rows = NDArray[np.int64]
AXES = {"fixed": (True, True, True), "level": (False, False, True), "plumb": (True, True, False)}
"""Coordinates that stay, by how vertices are held; what slides on something keeps none."""
SKIN = 1e-9
"""A body whose corners lie nearer to a surface than this share of its size is bounded by it."""


@result_type("Hold", "hold", serves=True)
@dataclass(frozen=True, eq=False)
class Hold(Result):
    """Vertices that are held.

    Parameters
    ----------
    selection : which they are
    named : the same in words
    how : an entry of ``AXES``, or of what they slide on: ``upright`` planes across ``azimuth``
        (rad), a ``curve`` or a ``shape``
    curves, shape : which these are
    """

    selection: Selection
    named: str
    how: str = "fixed"
    azimuth: float = 0.0
    curves: tuple[PlaneCurve, ...] = ()
    shape: Any = None

    def vertices(self, net: Net) -> Rows:
        """Vertices (n,) of the net that are held."""
        return self.selection.vertices(net)

    @property
    def axes(self) -> tuple[bool, bool, bool]:
        """Coordinates that stay."""
        return AXES.get(self.how, (False, False, False))

    def slide(self, net: Net, vertices: Rows) -> Slide | None:
        """What those vertices slide on."""
        if self.how in AXES or not len(vertices):
            return None
        return _SLIDES[self.how](self, net, vertices)


def _to_curve(hold: Hold, net: Net, vertices: Rows) -> Slide:
    return along_curves(vertices, hold.curves)


def _to_shape(hold: Hold, net: Net, vertices: Rows) -> Slide:
    """On the surface itself, where a shape is one or all of a body's skin is."""
    surface = hold.shape.skin if isinstance(hold.shape, Body) else hold.shape
    if surface is not None and not isinstance(surface, MeshSurface):
        shown = facets(surface)
        assert shown.uv is not None
        slide = over_surface(vertices, surface, shown.mesh, shown.uv)
        if not isinstance(hold.shape, Body):
            return slide
        skin = hold.shape.mesh.vertices
        if np.abs(slide.onto(skin) - skin).max() < SKIN * float(hold.shape.mesh.extent.max()):
            return slide
    return over_mesh(vertices, facets(hold.shape).mesh)


def _upright(hold: Hold, net: Net, vertices: Rows) -> Slide:
    across = np.array([np.cos(hold.azimuth), np.sin(hold.azimuth), 0.0])
    return in_planes(vertices, net.vertices[vertices], across)


_SLIDES: dict[str, Callable[[Hold, Net, Rows], Slide]] = {
    "curve": _to_curve,
    "shape": _to_shape,
    "upright": _upright,
}
