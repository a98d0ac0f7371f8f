"""What the clauses of chapter Lattice share: figures of a net, and warnings about what is too
small."""

from __future__ import annotations

from collections.abc import Sequence

import numpy as np
from numpy.typing import NDArray

from ...core.geometry.nets import Net, NetError, build_net
from ...core.geometry.polygons import areas, corner_angles
from ...core.geometry.surfaces import Surface
from ...core.naming.numbering import bands
from ..base import Clause, ClauseError, Figure, Made, Notice, Take, headline
from ..said import mm

__all__ = [
    "MOST_CELLS",
    "NET",
    "SHAPE",
    "NetClause",
    "check_size",
    "made_net",
    "net_of",
    "place_of",
]

Array = NDArray[np.float64]
Index = NDArray[np.int32]
MOST_CELLS = 120_000
NET = Take(name="net", types=("Net",), label="Net")
SHAPE = Take(name="shape", types=("Shape",), label="Shape")


class NetClause(Clause):
    """Base of clauses that give a net."""

    chapter = "Lattice"
    gives = "Net"


def check_size(cells: int, value: str) -> None:
    """Raises ``ClauseError`` where a change would make more cells than can be worked with."""
    if cells > MOST_CELLS:
        raise ClauseError(
            f"That would make {cells:,} cells; at most {MOST_CELLS:,} can be worked with. Fewer work.",
            value,
        )


def place_of(p: Array | Sequence[float]) -> tuple[float, float, float]:
    return (float(p[0]), float(p[1]), float(p[2]))


def net_of(
    surface: Surface,
    vertices: Array,
    uv: Array,
    corners: Index,
    offsets: Index,
    value: str | None = None,
) -> Net:
    """A net on a surface: ``vertices`` (V, 3) with their parameters ``uv`` (V, 2), cells of which
    have the ``corners`` between their ``offsets``; raises ``ClauseError``, about ``value``, where
    its cells do not form a surface."""
    try:
        return build_net(surface, vertices, uv, corners, offsets)
    except NetError as error:
        raise ClauseError(
            f"{error} Other values, or fewer changes before this one, will help.", value
        ) from None


def made_net(
    net: Net, figures: dict[str, Figure] | None = None, warnings: list[Notice] | None = None
) -> Made:
    """What a clause made, with the figures of its own work and those every net has; what takes
    longer to work out than to draw follows when there is time."""
    counts = {
        "cells": headline("Cells", net.cell_count),
        "edges": headline("Edges", len(net.edges)),
        "vertices": headline("Vertices", len(net.vertices)),
        "border_loops": Figure("Border loops", len(net.loops)),
    }
    return Made(
        net,
        {**(figures or {}), **counts},
        warnings or [],
        lambda check: (_figures(net), _short_edges(net)),
    )


def _figures(net: Net) -> dict[str, Figure]:
    lengths, sizes, flat = (
        net.edge_lengths,
        areas(net.vertices, net.corners, net.offsets),
        net.flatness,
    )
    angles = np.degrees(corner_angles(net.vertices, net.corners, net.offsets))
    inner = np.setdiff1d(np.arange(len(net.vertices)), net.loop_vertices)
    valence = net.valence[inner] if len(inner) else net.valence
    least, most = int(valence.min()), int(valence.max())
    shortest, longest = int(np.argmin(lengths)), int(np.argmax(lengths))
    small, large, bent = int(np.argmin(sizes)), int(np.argmax(sizes)), int(np.argmax(flat))
    sharp, wide = int(np.argmin(angles)), int(np.argmax(angles))

    def edge(e: int) -> tuple[float, float, float]:
        return place_of(net.vertices[net.edges[e]].mean(axis=0))

    def cell(c: int) -> tuple[float, float, float]:
        return place_of(net.vertices[net.corners[net.offsets[c] : net.offsets[c + 1]]].mean(axis=0))

    def corner(k: int) -> tuple[float, float, float]:
        return place_of(net.vertices[net.corners[k]])

    return {
        "shortest": headline("Shortest edge", float(lengths[shortest]), "m", 3, edge(shortest)),
        "longest": headline("Longest edge", float(lengths[longest]), "m", 3, edge(longest)),
        "spread": headline(
            "Spread of lengths", float(lengths.std() / lengths.mean()) * 100, "%", 1
        ),
        "distinct_lengths": headline("Lengths, to 1 mm", int(bands(lengths, 0.001).max()) + 1),
        "sharpest": headline("Smallest angle", float(angles[sharp]), "°", 1, corner(sharp)),
        "widest": Figure("Largest angle", float(angles[wide]), "°", 1, corner(wide)),
        "smallest_cell": headline("Smallest cell", float(sizes[small]), "m²", 3, cell(small)),
        "largest_cell": headline("Largest cell", float(sizes[large]), "m²", 3, cell(large)),
        "flatness": headline("Least flat cell", float(flat[bent]) * 1000, "mm", 1, cell(bent)),
        "valence": headline(
            "Edges at a vertex", f"{least}" if least == most else f"{least} to {most}"
        ),
    }


def _short_edges(net: Net) -> list[Notice]:
    lengths = net.edge_lengths
    short = np.flatnonzero(lengths < 0.05 * np.median(lengths))
    if not short.size:
        return []
    text = (
        f"{short.size} edge{'s are' if short.size > 1 else ' is'} shorter than a twentieth of the usual, the shortest "
        f"{mm(lengths.min() * 1000, '.0f')}; fewer bays where the shape narrows, or merging near "
        "vertices, will help."
    )
    at = net.vertices[net.edges[short[np.argmin(lengths[short])]]].mean(axis=0)
    return [Notice(text, "member", tuple(map(int, short[:200])), place_of(at))]
