"""Tables of what a statement ends in without members or parts: shapes, nets, strands and curves."""

from __future__ import annotations

import csv
from collections.abc import Iterable, Sequence
from pathlib import Path
from typing import Any

import numpy as np
import trimesh
from numpy.typing import NDArray

from ..clauses.shape.drawn import Curves
from ..core.geometry.meshes import Body
from ..core.geometry.nets import MARKS, Net
from ..core.geometry.polygons import areas
from .curves import curves_dxf, curves_svg
from .material import Shape

__all__ = ["write_curves", "write_nets", "write_shapes", "y_up"]

Array = NDArray[np.float64]


def _write(path: Path, head: Sequence[str], rows: Iterable[Sequence[Any]]) -> None:
    with path.open("w", encoding="utf-8", newline="") as file:
        table = csv.writer(file, lineterminator="\n")
        table.writerow(head)
        table.writerows(rows)


def y_up(places: Array) -> Array:
    """Places (n, 3) as GLB wants them, with y upward."""
    return places[:, [0, 2, 1]] * [1.0, 1.0, -1.0]


def centroid(shape: Shape) -> Array:
    """Middle (3,) of a body's volume, or of a surface's area."""
    corner = shape.mesh.vertices[shape.mesh.triangles]
    if shape.closed:
        weight = np.einsum("ij,ij->i", corner[:, 0], np.cross(corner[:, 1], corner[:, 2])) / 6
        middle = corner.sum(axis=1) / 4
    else:
        weight = np.linalg.norm(shape.mesh.triangle_crosses, axis=1) / 2
        middle = corner.mean(axis=1)
    return np.asarray(weight @ middle / weight.sum())


def write_shapes(folder: Path, shapes: Sequence[Shape]) -> None:
    """``solids.csv`` and ``solids.glb``: bodies and surfaces with their volumes, areas and middles,
    as their triangles have them, and of bodies with curved faces as these are."""
    head = ["label", "kind", "volume_m3", "area_m2"]
    head += [f"{of}_{a}_m" for of in ("centroid", "low", "high") for a in "xyz"] + [
        "triangles",
        "exact",
        "exact_volume_m3",
        "exact_area_m2",
    ]
    rows = []
    scene = trimesh.Scene()
    for s in shapes:
        mesh = s.mesh
        volume = round(Body(mesh).volume, 9) if s.closed else ""
        exact = ["", ""] if s.measures is None else [round(m, 9) for m in s.measures]
        places = np.concatenate([centroid(s), mesh.vertices.min(axis=0), mesh.vertices.max(axis=0)])
        rounded = (np.round(places, 6) + 0.0).tolist()
        kind = "body" if s.closed else "surface"
        rows.append(
            [
                s.clause,
                kind,
                volume,
                round(mesh.area, 6),
                *rounded,
                len(mesh.triangles),
                int(s.exact),
                *exact,
            ]
        )
        drawn = trimesh.Trimesh(y_up(mesh.vertices), mesh.triangles, process=False)
        scene.add_geometry(drawn, node_name=s.clause, geom_name=s.clause)
    _write(folder / "solids.csv", head, rows)
    (folder / "solids.glb").write_bytes(bytes(scene.export(file_type="glb")))


def write_nets(folder: Path, nets: Sequence[tuple[str, Net]]) -> None:
    """``net_nodes.csv``, ``net_edges.csv`` and ``net_cells.csv``, and ``strands.csv`` of woven
    ones."""
    nodes, edges, cells, strands = [], [], [], []
    for clause, net in nets:
        for k, (place, valence) in enumerate(
            zip(np.round(net.vertices, 6) + 0.0, net.valence, strict=True), 1
        ):
            nodes.append([clause, k, *place.tolist(), int(valence)])
        marks = np.zeros(len(net.edges), int) if net.marks is None else net.marks
        strand = None if net.weave is None else net.weave.strand
        for e, (a, b) in enumerate((net.edges + 1).tolist()):
            length = round(float(net.edge_lengths[e]) * 1000, 3)
            own = "" if strand is None or net.border[e] else int(strand[e]) + 1
            edges.append([clause, a, b, length, int(net.border[e]), MARKS[marks[e]], own])
        size = areas(net.vertices, net.corners, net.offsets)
        for c in range(net.cell_count):
            corners = net.corners[net.offsets[c] : net.offsets[c + 1]] + 1
            flat = round(float(net.flatness[c]) * 1000, 3)
            cells.append(
                [
                    clause,
                    c + 1,
                    " ".join(map(str, corners.tolist())),
                    round(float(size[c]), 6),
                    flat,
                ]
            )
        strands += _strand_rows(clause, net)
    _write(folder / "net_nodes.csv", ["clause", "node", "x_m", "y_m", "z_m", "valence"], nodes)
    head = ["clause", "start", "end", "length_mm", "border", "mark", "strand"]
    _write(folder / "net_edges.csv", head, edges)
    _write(folder / "net_cells.csv", ["clause", "cell", "corners", "area_m2", "flatness_mm"], cells)
    if strands:
        head = ["clause", "strand", "length_mm", "pieces", "width_mm", "thickness_mm"]
        _write(folder / "strands.csv", head, strands)


def _strand_rows(clause: str, net: Net) -> list[list[Any]]:
    if net.weave is None:
        return []
    inner = ~net.border
    strand, lengths = net.weave.strand[inner], net.edge_lengths[inner]
    size = [round(net.weave.width * 1000, 3), round(net.weave.thickness * 1000, 3)]
    pieces, total = np.bincount(strand), np.bincount(strand, lengths)
    return [
        [clause, int(k) + 1, round(float(total[k]) * 1000, 3), int(pieces[k]), *size]
        for k in np.flatnonzero(pieces)
    ]


def write_curves(folder: Path, curves: Sequence[tuple[str, Curves]]) -> None:
    """``curves.csv``, and of every clause a DXF and an SVG with true arcs."""
    rows = []
    for clause, drawn in curves:
        (folder / f"curves-{clause}.dxf").write_text(curves_dxf(drawn), encoding="utf-8")
        (folder / f"curves-{clause}.svg").write_text(curves_svg(drawn), encoding="utf-8")
        for k, curve in enumerate(drawn.curves, 1):
            path = curve.path
            area = round(abs(path.signed_area), 6) if path.closed else ""
            rows.append(
                [clause, k, int(path.closed), len(path.pieces), round(path.length, 6), area]
            )
    _write(
        folder / "curves.csv", ["clause", "curve", "closed", "pieces", "length_m", "area_m2"], rows
    )
