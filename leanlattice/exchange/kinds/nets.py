"""Nets, laid and settled."""

from __future__ import annotations

from collections.abc import Iterator
from typing import Any

import numpy as np
from numpy.typing import NDArray

from ...core.geometry.nets import MARKS, Net
from ...core.geometry.polygons import areas, corner_angles
from ...core.geometry.triangulation import not_fans, polygon_triangles
from ...core.nets.strands import ribbons
from ..balance import EDGES, NODES, balance_of_edges, balance_of_nodes, is_settled
from ..subjects import Subject
from ..tables import Table, table_of_rows
from .kind import (
    UNSPECIFIED,
    Arrays,
    BuildingModel,
    Drawing,
    Kind,
    Layer,
    Lines,
    Measure,
    Picture,
    Schedule,
    Solid,
    narrow,
)

__all__ = ["KIND", "cuts_of_polygons"]

RESIDUALS_SHOWN = 300


def cuts_of_polygons(points: NDArray[Any], corners: NDArray[Any], offsets: NDArray[Any]) -> Arrays:
    """How to cut polygons that triangles from their first corner do not fill: their positions, and
    the triangles of one after the other as places in their own run of corners."""
    which = not_fans(points, corners, offsets)
    if not len(which):
        return {}
    counts = np.diff(offsets)[which]
    starts = np.concatenate([[0], np.cumsum(counts)]).astype(np.int32)
    places = np.arange(starts[-1], dtype=np.int32)
    own = places + np.repeat(offsets[which] - starts[:-1], counts)
    triangles, owner = polygon_triangles(points[corners[own]], places, starts)
    return {"cutOf": narrow(which), "cuts": narrow(triangles - starts[owner][:, None])}


def _drawn(net: Net) -> Drawing:
    arrays = {
        "positions": net.vertices.astype("<f4"),
        "edges": narrow(net.edges),
        "border": np.packbits(net.border, bitorder="little"),
        "corners": narrow(net.corners),
        "counts": narrow(np.diff(net.offsets)),
    } | cuts_of_polygons(net.vertices, net.corners, net.offsets)
    if net.weave is not None:
        points, triangles = ribbons(net)
        arrays |= {"bands": points.astype("<f4"), "bandTriangles": narrow(triangles)}
    if net.marks is not None:
        arrays["marks"] = net.marks.astype("u1")
    if net.cell_marks is not None:
        arrays["cellMarks"] = net.cell_marks.astype("u1")
    return {}, arrays


def _measured(net: Net) -> Arrays:
    corner = (net.vertices, net.corners, net.offsets)
    sharpest = np.minimum.reduceat(corner_angles(*corner), net.offsets[:-1])
    arrays = {
        "edgeLength": net.edge_lengths,
        "cellArea": areas(*corner),
        "cellFlatness": net.flatness,
        "cellAngle": np.degrees(sharpest),
    }
    balance = net.equilibrium
    if balance is None:
        return arrays
    every = max(1, len(balance.residuals) // RESIDUALS_SHOWN)
    return arrays | {
        "edgeForce": balance.forces,
        "reactions": balance.reactions,
        "edgeLengthBefore": balance.lengths,
        "cellFlatnessBefore": balance.flatness,
        "residuals": balance.residuals[::every],
        "residualSteps": np.arange(0, len(balance.residuals), every),
    }


def _picture(net: Net) -> Picture:
    if net.weave is not None:
        points, triangles = ribbons(net)
        bands = points.reshape(-1, 4, 3)
        sides = [line for band in bands for line in (band[[0, 2]], band[[1, 3]])]
        return Picture(points, triangles, sides)
    filled = polygon_triangles(net.vertices, net.corners, net.offsets)[0]
    return Picture(net.vertices, filled, [net.vertices[e] for e in net.edges])


def _nodes(subject: Subject) -> Table | None:
    if not subject.ends:
        return None
    net = subject.result
    places = np.round(net.vertices, 6) + 0.0
    rows = [
        [subject.clause, k, *place, valence]
        for k, (place, valence) in enumerate(
            zip(places.tolist(), net.valence.tolist(), strict=True), 1
        )
    ]
    return table_of_rows(["clause", "node", "x_m", "y_m", "z_m", "valence"], rows)


def _edges(subject: Subject) -> Table | None:
    if not subject.ends:
        return None
    net = subject.result
    marks = np.zeros(len(net.edges), int) if net.marks is None else net.marks
    strand = None if net.weave is None else net.weave.strand
    rows = []
    for e, (a, b) in enumerate((net.edges + 1).tolist()):
        length = round(float(net.edge_lengths[e]) * 1000, 3)
        own = "" if strand is None or net.border[e] else int(strand[e]) + 1
        rows.append([subject.clause, a, b, length, int(net.border[e]), MARKS[marks[e]], own])
    return table_of_rows(["clause", "start", "end", "length_mm", "border", "mark", "strand"], rows)


def _cells(subject: Subject) -> Table | None:
    if not subject.ends:
        return None
    net = subject.result
    size = areas(net.vertices, net.corners, net.offsets)
    rows = []
    for c in range(net.cell_count):
        corners = net.corners[net.offsets[c] : net.offsets[c + 1]] + 1
        named = " ".join(map(str, corners.tolist()))
        flat = round(float(net.flatness[c]) * 1000, 3)
        rows.append([subject.clause, c + 1, named, round(float(size[c]), 6), flat])
    return table_of_rows(["clause", "cell", "corners", "area_m2", "flatness_mm"], rows)


def _strands(subject: Subject) -> Table | None:
    net = subject.result
    if not subject.ends or net.weave is None:
        return None
    inner = ~net.border
    strand, lengths = net.weave.strand[inner], net.edge_lengths[inner]
    size = [round(net.weave.width * 1000, 3), round(net.weave.thickness * 1000, 3)]
    pieces, total = np.bincount(strand), np.bincount(strand, lengths)
    rows = [
        [subject.clause, k + 1, round(float(total[k]) * 1000, 3), int(pieces[k]), *size]
        for k in np.flatnonzero(pieces).tolist()
    ]
    if not rows:
        return None
    head = ["clause", "strand", "length_mm", "pieces", "width_mm", "thickness_mm"]
    return table_of_rows(head, rows)


def _solids(subject: Subject) -> Iterator[Solid]:
    """The cells of a net that nothing was made of."""
    net = subject.result
    if subject.ends:
        triangles, _ = polygon_triangles(net.vertices, net.corners, net.offsets)
        yield Solid(subject.clause, "shape", net.vertices, triangles)


def _lines(subject: Subject) -> Lines | None:
    net = subject.result
    return Lines(net.vertices[net.edges], np.full(len(net.edges), "NET")) if subject.ends else None


def _building(model: BuildingModel, subject: Subject) -> None:
    for skin in _solids(subject):
        model.add_faced(
            "IfcBuildingElementProxy",
            skin.name,
            "surface",
            skin.vertices,
            skin.triangles,
            UNSPECIFIED,
            "ELEMENT",
            False,
        )


KIND = Kind(
    "Net",
    layers=(
        Layer("net", "Net", alone=True),
        Layer("cells", "Cells of the net", alone=True),
        Layer("forces", "Edge forces", measured=True),
        Layer("reactions", "Reactions", measured=True),
    ),
    drawn=_drawn,
    measures=(
        Measure("edgeLength", "edge length of the net", "m", "net", before="edgeLengthBefore"),
        Measure(
            "edgeForce",
            "edge force of a settled net",
            "kN, compression below 0",
            "forces",
            even=True,
            note="thicker: more; whole bars: tension, broken: compression; arrows: reactions",
        ),
        Measure("cellArea", "cell area", "m²", "cells"),
        Measure("cellAngle", "smallest angle of a cell", "°", "cells", digits=1),
        Measure(
            "cellFlatness",
            "cell flatness",
            "mm",
            "cells",
            scale=1000,
            digits=1,
            before="cellFlatnessBefore",
        ),
    ),
    measured=_measured,
    schedules=(
        Schedule("net_nodes", _nodes, group="nets"),
        Schedule("net_edges", _edges, group="nets"),
        Schedule("net_cells", _cells, group="nets"),
        Schedule("strands", _strands, group="nets"),
        Schedule(NODES, balance_of_nodes, group="forces"),
        Schedule(EDGES, balance_of_edges, group="forces"),
    ),
    solids=_solids,
    lines=_lines,
    building=_building,
    picture=_picture,
    delivered=lambda subject: subject.head or is_settled(subject),
    card={"cells": "cells"},
    told_until="Structure",
)
