"""What the interface draws: results as binary arrays.

A message is a little-endian uint32 with the length of a JSON header, the header padded to a
multiple of 4 bytes, and the arrays one after the other, each padded to 4 bytes. The header says
what it is and, array by array, the name, the type, the shape and the offset from the end of the
header.
"""

from __future__ import annotations

import json
import struct
from collections.abc import Callable, Mapping, Sequence
from dataclasses import replace
from typing import Any

import numpy as np
from numpy.typing import NDArray

from ..clauses.shape.drawn import Curves
from ..core.flat.bars import BarPlan
from ..core.flat.sheets import Sheets
from ..core.framing.frames import Frame
from ..core.framing.naming import Labelled
from ..core.framing.panels import Panels
from ..core.framing.sections import outline
from ..core.geometry.meshes import Body
from ..core.geometry.nets import Net
from ..core.geometry.polygons import areas, corner_angles
from ..core.geometry.surfaces import Surface
from ..core.geometry.triangulation import not_fans, polygon_triangles
from ..core.nets.strands import ribbons
from ..core.results import type_of
from ..core.ribs.meshed import meshed
from ..core.ribs.parts import Ribs
from ..core.ribs.plates import Rib
from ..core.shaping.facets import facets

__all__ = ["geometry", "has_sketch", "measures", "motion", "pack_arrays", "unpack_arrays"]

Arrays = dict[str, NDArray[Any]]
ROUND_SEGMENTS = 8
RESIDUALS_SHOWN = 300


def pack_arrays(header: dict[str, Any], arrays: Arrays) -> bytes:
    """One message from a header and arrays."""
    listed, blocks, offset = [], [], 0
    for name, array in arrays.items():
        data = np.ascontiguousarray(array).tobytes()
        listed.append(
            {"name": name, "type": array.dtype.str, "shape": array.shape, "offset": offset}
        )
        data += b"\0" * (-len(data) % 4)
        blocks.append(data)
        offset += len(data)
    head = json.dumps({**header, "arrays": listed}, separators=(",", ":")).encode()
    head += b" " * (-len(head) % 4)
    return struct.pack("<I", len(head)) + head + b"".join(blocks)


def unpack_arrays(message: bytes) -> tuple[dict[str, Any], Arrays]:
    """Header and arrays of a message."""
    (size,) = struct.unpack_from("<I", message)
    header = json.loads(message[4 : 4 + size])
    out = {}
    for a in header["arrays"]:
        count = int(np.prod(a["shape"]))
        out[a["name"]] = np.frombuffer(message, a["type"], count, 4 + size + a["offset"]).reshape(
            a["shape"]
        )
    return header, out


def _index(values: NDArray[Any]) -> NDArray[Any]:
    """The same numbers in the narrowest unsigned type that holds them."""
    return values.astype(np.uint16 if values.size == 0 or values.max() < 65536 else np.uint32)


def _octahedral(normals: NDArray[np.float64]) -> NDArray[np.int8]:
    """Unit vectors (n, 3) as two signed bytes (n, 2), to about half a degree (Meyer et al.,
    2010)."""
    n = normals / np.abs(normals).sum(axis=1, keepdims=True)
    folded = (1 - np.abs(n[:, [1, 0]])) * np.where(n[:, :2] >= 0, 1.0, -1.0)
    return np.asarray(np.round(np.where(n[:, 2:] < 0, folded, n[:, :2]) * 127), np.int8)


def _shape(shape: Surface | Body) -> tuple[dict[str, Any], Arrays]:
    f = facets(shape)
    return {"body": isinstance(shape, Body)}, {
        "positions": f.points.astype("<f4"),
        "normals": np.round(f.normals * 127).astype("i1"),
        "triangles": _index(f.triangles),
        "borders": _index(f.borders),
        "lines": _index(f.lines),
    }


def _net(net: Net) -> tuple[dict[str, Any], Arrays]:
    arrays = {
        "positions": net.vertices.astype("<f4"),
        "edges": _index(net.edges),
        "border": np.packbits(net.border, bitorder="little"),
        "corners": _index(net.corners),
        "counts": _index(np.diff(net.offsets)),
    } | _cuts(net.vertices, net.corners, net.offsets)
    if net.weave is not None:
        points, triangles = ribbons(net)
        arrays |= {"bands": points.astype("<f4"), "bandTriangles": _index(triangles)}
    if net.marks is not None:
        arrays["marks"] = net.marks.astype("u1")
    if net.cell_marks is not None:
        arrays["cellMarks"] = net.cell_marks.astype("u1")
    return {}, arrays


def _cuts(points: NDArray[Any], corners: NDArray[Any], offsets: NDArray[Any]) -> Arrays:
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
    return {"cutOf": _index(which), "cuts": _index(triangles - starts[owner][:, None])}


def _frame(frame: Frame) -> tuple[dict[str, Any], Arrays]:
    sections = []
    for k, section in enumerate(frame.sections):
        lifts = frame.lift[frame.section_of == k]
        sections.append(
            {
                "name": section.name,
                "round": section.round,
                "outline": np.round(outline(section, ROUND_SEGMENTS)[0], 5).tolist(),
                "lift": float(lifts[0]) if lifts.size else 0.0,
            }
        )
    return {"sections": sections}, {
        "positions": frame.net.vertices.astype("<f4"),
        "members": _index(frame.members),
        "setBacks": np.round(np.minimum(frame.set_back, 6.5) * 1e4).astype("<u2"),
        "ups": _octahedral(frame.up),
        # Of one or two sections a bit tells which.
        "sectionOf": np.packbits(frame.section_of.astype(bool), bitorder="little")
        if len(frame.sections) < 3
        else frame.section_of.astype("u1"),
    }


def _panels(panels: Panels) -> tuple[dict[str, Any], Arrays]:
    return {"material": panels.material, "raised": panels.raised}, {
        "positions": panels.net.vertices.astype("<f4"),
        "corners": _index(panels.corners),
        "counts": _index(np.diff(panels.offsets)),
    } | _cuts(panels.net.vertices, panels.corners, panels.offsets)


def _labelled(labelled: Labelled) -> tuple[dict[str, Any], Arrays]:
    arrays = {"node": labelled.node, "member": labelled.member, "panel": labelled.panel}
    arrays |= {"memberType": labelled.member_type, "panelType": labelled.panel_type}
    border = np.packbits(labelled.frame.net.border, bitorder="little")
    return {"prefixes": labelled.prefixes}, {k: _index(v) for k, v in arrays.items()} | {
        "border": border
    }


def _sheets(sheets: Sheets) -> tuple[dict[str, Any], Arrays]:
    at = (
        np.where(sheets.part_of >= 0, sheets.layout.sheet[sheets.part_of], -1)
        if len(sheets.part_of)
        else sheets.part_of
    )
    stock = [sheets.layout.stock(k) for k in range(sheets.layout.sheet_count)]
    layout = sheets.layout
    lie = np.column_stack([layout.shift, np.degrees(layout.angle)])
    return (
        {
            "labels": [p.label for p in layout.parts],
            "slots": layout.slot.tolist(),
            "widths": [s.width for s in stock],
            "heights": [s.height for s in stock],
            "grades": [
                f"{thickness:g} mm {material}"
                for material, thickness in (layout.grade(k) for k in range(layout.sheet_count))
            ],
            "used": np.round(sheets.layout.used(), 4).tolist(),
        },
        {
            "sheetOfPanel": at.astype("<i2"),
            "partOf": sheets.part_of.astype("<i4"),
            "lie": lie.astype("<f4"),
            "sheetOfPart": layout.sheet.astype("<i2"),
            "pinned": layout.pinned.astype("u1"),
            "pose": np.array([p.pose[:3] for p in layout.parts]).reshape(-1, 12).astype("<f4"),
        },
    )


def _ribs(ribs: Ribs) -> tuple[dict[str, Any], Arrays]:
    return _plates(ribs, ribs.ribs)


def _unslotted(ribs: Ribs) -> tuple[dict[str, Any], Arrays]:
    """Ribs without their slots, which are filled by others anyway: a quarter of the corners."""
    return _plates(
        ribs, [replace(r, shape=s) for r, s in zip(ribs.ribs, ribs.unslotted, strict=True)]
    )


def _plates(ribs: Ribs, plates: Sequence[Rib]) -> tuple[dict[str, Any], Arrays]:
    drawn, together = meshed(plates), ribs.assembly
    arrays = {
        "order": np.array(together.order, "<i4"),
        "ways": together.way.astype("<f4"),
        "positions": drawn.places.astype("<f4"),
        "triangles": _index(drawn.triangles),
        "owner": _index(drawn.owner),
        "lines": _index(drawn.lines),
    }
    if any(r.bend for r in ribs.ribs):
        arrays["flat"] = drawn.flat.astype("<f4")
    return {"labels": ribs.labels, "material": ribs.material}, arrays


def _bars(plan: BarPlan) -> tuple[dict[str, Any], Arrays]:
    return {}, {"barOfMember": plan.bar.astype("<i4")}


def _curves(drawn: Curves) -> tuple[dict[str, Any], Arrays]:
    lines = []
    for c in drawn.curves:
        p = c.polyline(max(c.path.size * 4e-4, 1e-6))
        lines.append(np.vstack([p, p[:1]]) if c.path.closed else p)
    return {}, {
        "positions": np.vstack(lines).astype("<f4"),
        "counts": _index(np.array([len(p) for p in lines])),
    }


Build = Callable[[Any], tuple[dict[str, Any], Arrays]]
DRAWN: dict[str, tuple[str, Build]] = {
    "Shape": ("surface", _shape),
    "Curves": ("curves", _curves),
    "Net": ("net", _net),
    "Frame": ("frame", _frame),
    "Panels": ("panels", _panels),
    "Ribs": ("ribs", _ribs),
    "Labelled": ("labels", _labelled),
    "Sheets": ("sheets", _sheets),
    "BarPlan": ("bars", _bars),
}
"""By type of result, the layer it is drawn on and what is sent of it."""


def has_sketch(result: Any) -> bool:
    """Whether there is something simpler to show a result by while a hand drags."""
    return isinstance(result, Ribs) and bool(result.unslotted)


def geometry(
    key: str, result: Any, aids: Mapping[str, NDArray[Any]] | None = None, sketch: bool = False
) -> bytes | None:
    """The message that shows a result, as a sketch of it if wanted, or ``None`` where there is
    nothing to draw. ``aids`` go along with it."""
    kind = type_of(result)
    if kind is None or kind.name not in DRAWN:
        return None
    layer, build = DRAWN[kind.name]
    meta, arrays = (_unslotted if sketch and has_sketch(result) else build)(result)
    arrays |= {f"aid {name}": np.asarray(a, "<f4") for name, a in (aids or {}).items()}
    return pack_arrays({"type": "geometry", "key": key, "layer": layer, "meta": meta}, arrays)


def motion(
    clause: str, source: str, places: NDArray[np.float64], step: int, residual: float
) -> bytes:
    """The message that shows the net of clause ``source`` at other ``places`` (V, 3) while
    ``clause`` moves it: after how many ``step``s, and with what ``residual``."""
    return pack_arrays(
        {
            "type": "motion",
            "key": clause,
            "layer": source,
            "meta": {"step": step, "residual": residual},
        },
        {"positions": places.astype("<f4")},
    )


def _net_measures(net: Net) -> Arrays:
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


def _shape_measures(shape: Surface | Body) -> Arrays:
    shown = facets(shape)
    gauss, mean = shown.curvatures.T
    return {"slope": np.degrees(shown.slopes), "gauss": gauss, "mean": mean}


def _frame_measures(frame: Frame) -> Arrays:
    return {"length": frame.lengths, "cutLength": frame.cut_lengths, "mass": frame.masses}


def _panel_measures(panels: Panels) -> Arrays:
    return {"flatness": panels.flatness, "area": panels.areas}


def _rib_measures(ribs: Ribs) -> Arrays:
    return {"ribArea": np.array([rib.shape.area for rib in ribs.ribs])}


MEASURES: dict[str, Callable[[Any], Arrays]] = {
    "Net": _net_measures,
    "Shape": _shape_measures,
    "Frame": _frame_measures,
    "Panels": _panel_measures,
    "Ribs": _rib_measures,
}
"""By type of result, figures of its single things."""


def measures(key: str, result: Any) -> bytes | None:
    """The message with the figures of each single thing in a result, for colours, distributions and
    details."""
    kind = type_of(result)
    if kind is None or kind.name not in MEASURES:
        return None
    arrays = {name: values.astype("<f4") for name, values in MEASURES[kind.name](result).items()}
    return pack_arrays({"type": "measures", "key": key}, arrays)
