"""A settled net as a shape of its own."""

from __future__ import annotations

from ...core.geometry.meshes import MeshError
from ...core.geometry.nets import Net
from ...core.nets.own import own_surface
from ..base import ClauseError, Made, Work
from ..lattice.common import NET
from ..shape.common import made
from .holds import SettleClause

__all__ = ["ShapeOfNet"]


class ShapeOfNet(SettleClause):
    kind = "net-shape"
    title = "Take the net as a shape"
    summary = "The cells of a net as the faces of a shape, on which another pattern can be laid."
    sentence = "**Take** the net's cells as a shape."
    takes = (NET,)
    gives = "Shape"

    def make(self, work: Work) -> Made:
        net: Net = work.inputs["net"]
        try:
            return made(own_surface(net.vertices, net.corners, net.offsets))
        except MeshError as error:
            raise ClauseError(f"The cells of the net make no shape: {error}") from None
