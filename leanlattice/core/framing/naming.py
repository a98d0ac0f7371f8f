"""Names and types of everything in a frame."""

from __future__ import annotations

from dataclasses import dataclass
from functools import cached_property

import numpy as np
from numpy.typing import NDArray

from ..geometry.nets import Net
from ..results import Result, result_type
from .frames import Frame
from .labels import bands, numbers_by_position, type_numbers
from .panels import Panels

__all__ = ["Labelled", "name_all"]

Index = NDArray[np.int32]


@result_type("Labelled", "labels")
@dataclass(frozen=True, eq=False)
class Labelled(Result):
    """A frame and its panels with their names and types.

    ``node``, ``member`` and ``panel`` hold numbers from 1; members of the border count for
    themselves and carry another letter. ``member_type`` and ``panel_type`` hold types from 1;
    panels of different corner counts have different types. ``tolerance`` in metres.
    """

    frame: Frame
    panels: Panels | None
    series: str
    node: Index
    member: Index
    panel: Index
    member_type: Index
    panel_type: Index
    tolerance: float

    @property
    def prefixes(self) -> dict[str, str]:
        return {
            name: self.series + letter
            for name, letter in (
                ("node", "N"),
                ("member", "M"),
                ("edge", "E"),
                ("panel", "P"),
                ("member_type", "T"),
                ("panel_type", "Q"),
            )
        }

    def named(self, prefix: str, numbers: Index) -> list[str]:
        return [f"{self.prefixes[prefix]}{n}" for n in numbers]

    @cached_property
    def node_labels(self) -> list[str]:
        return self.named("node", self.node)

    @cached_property
    def member_labels(self) -> list[str]:
        inner, edge = self.prefixes["member"], self.prefixes["edge"]
        border = self.frame.net.border
        return [f"{edge if b else inner}{n}" for n, b in zip(self.member, border, strict=True)]

    @cached_property
    def panel_labels(self) -> list[str]:
        return self.named("panel", self.panel)


def _positions(
    net: Net, places: NDArray[np.float64]
) -> tuple[NDArray[np.float64], NDArray[np.float64]]:
    """Distance along the shape's longer direction and across it, in metres, of parameters
    ``places`` (n, 2)."""
    sizes = np.array(net.surface.lengths)
    along, across = (0, 1) if sizes[0] > sizes[1] else (1, 0)
    metres = places * sizes
    return metres[:, along], metres[:, across]


def _mean_uv(net: Net, corners: Index, offsets: Index) -> NDArray[np.float64]:
    uv = net.uv[corners]
    if net.surface.closed_u:  # across the seam, count on past it
        first = np.repeat(uv[offsets[:-1]], np.diff(offsets), axis=0)
        uv = uv.copy()
        uv[:, 0] += np.round(first[:, 0] - uv[:, 0])
    return np.asarray(np.add.reduceat(uv, offsets[:-1], axis=0) / np.diff(offsets)[:, None])


def _numbered(net: Net, places: NDArray[np.float64]) -> Index:
    return (
        numbers_by_position(*_positions(net, places), 0.2 * float(np.median(net.edge_lengths))) + 1
    )


def _panel_types(panels: Panels, tolerance: float) -> Index:
    """Types from 1 by side lengths and by the distances between every other corner."""
    counts = np.diff(panels.offsets)
    out, used = np.zeros(panels.count, np.int32), 0
    for k in np.unique(counts):
        rows = np.flatnonzero(counts == k)
        p = panels.net.vertices[panels.corners[panels.offsets[rows][:, None] + np.arange(k)]]
        features = np.stack(
            [np.linalg.norm(np.roll(p, -s, axis=1) - p, axis=2) for s in (1, 2)], axis=2
        )
        types, found = type_numbers(features, tolerance)
        out[rows] = types + used + 1
        used += found
    return out


def name_all(frame: Frame, panels: Panels | None, series: str, tolerance: float) -> Labelled:
    """Names by position and types of equal things within ``tolerance`` (m).

    Members are of one type when section and cut length agree. ``panels`` must lie on the frame's
    net.
    """
    net = frame.net
    every_two = np.arange(0, 2 * len(net.edges) + 1, 2, dtype=np.int32)
    middles = _mean_uv(net, net.edges.ravel(), every_two)
    member, member_type, used = (
        np.zeros(len(net.edges), np.int32),
        np.zeros(len(net.edges), np.int32),
        0,
    )
    for rows in (np.flatnonzero(~net.border), np.flatnonzero(net.border)):
        if rows.size:
            member[rows] = _numbered(net, middles[rows])
    for s in range(len(frame.sections)):
        rows = np.flatnonzero(frame.section_of == s)
        if rows.size:
            found = bands(frame.cut_lengths[rows], tolerance)
            member_type[rows] = found + used + 1
            used += int(found.max()) + 1
    none = np.zeros(0, np.int32)
    panel = _numbered(net, _mean_uv(net, panels.corners, panels.offsets)) if panels else none
    panel_type = _panel_types(panels, tolerance) if panels else none
    return Labelled(
        frame,
        panels,
        series,
        _numbered(net, net.uv),
        member,
        panel,
        member_type,
        panel_type,
        tolerance,
    )
