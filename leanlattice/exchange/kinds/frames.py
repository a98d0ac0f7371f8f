"""Frames and the panels on them, before they are labelled."""

from __future__ import annotations

import numpy as np

from ...core.framing.frames import Frame
from ...core.framing.panels import Panels
from .kind import Arrays, Drawing, Kind, Layer, Measure, Picture, narrow
from .nets import cuts_of_polygons

__all__ = ["FRAME", "PANELS"]

ROUND_SEGMENTS = 8
"""Sides of a round section as the view draws it."""


def _octahedral(normals: np.ndarray) -> np.ndarray:
    """Unit vectors (n, 3) as two signed bytes (n, 2), to about half a degree (Meyer et al.,
    2010)."""
    n = normals / np.abs(normals).sum(axis=1, keepdims=True)
    folded = (1 - np.abs(n[:, [1, 0]])) * np.where(n[:, :2] >= 0, 1.0, -1.0)
    return np.asarray(np.round(np.where(n[:, 2:] < 0, folded, n[:, :2]) * 127), np.int8)


def _frame_drawn(frame: Frame) -> Drawing:
    sections = []
    for k, section in enumerate(frame.sections):
        lifts = frame.lift[frame.section_of == k]
        sections.append(
            {
                "name": section.name,
                "round": section.shape.round,
                "outline": np.round(section.shape.outline(ROUND_SEGMENTS)[0], 5).tolist(),
                "lift": float(lifts[0]) if lifts.size else 0.0,
            }
        )
    return {"sections": sections}, {
        "positions": frame.net.vertices.astype("<f4"),
        "members": narrow(frame.members),
        "setBacks": np.round(np.minimum(frame.set_back, 6.5) * 1e4).astype("<u2"),
        "ups": _octahedral(frame.up),
        # Of one or two sections a bit tells which.
        "sectionOf": np.packbits(frame.section_of.astype(bool), bitorder="little")
        if len(frame.sections) < 3
        else frame.section_of.astype("u1"),
    }


def _panels_drawn(panels: Panels) -> Drawing:
    places = panels.net.vertices
    return {"material": panels.material, "raised": panels.raised}, {
        "positions": places.astype("<f4"),
        "corners": narrow(panels.corners),
        "counts": narrow(np.diff(panels.offsets)),
    } | cuts_of_polygons(places, panels.corners, panels.offsets)


def _frame_measured(frame: Frame) -> Arrays:
    return {"length": frame.lengths, "cutLength": frame.cut_lengths, "mass": frame.masses}


def _panels_measured(panels: Panels) -> Arrays:
    return {"flatness": panels.flatness, "area": panels.areas}


def _edges(result: Frame | Panels) -> Picture:
    net = result.net
    return Picture(net.vertices, None, [net.vertices[e] for e in net.edges])


FRAME = Kind(
    "Frame",
    layers=(
        Layer("members", "Members", "member", shown=True),
        Layer("nodes", "Nodes", "node"),
    ),
    drawn=_frame_drawn,
    measures=(
        Measure(
            "length", "member length", "m", "members", "member", note="node to node", total=True
        ),
        Measure("mass", "member mass", "kg", "members", "member", digits=1, total=True),
    ),
    measured=_frame_measured,
    picture=_edges,
    written_as="Labelled",
    card={"members": "members", "mass": "mass"},
)
PANELS = Kind(
    "Panels",
    layers=(Layer("panels", "Panels", "panel", shown=True),),
    drawn=_panels_drawn,
    measures=(
        Measure("flatness", "panel flatness", "mm", "panels", "panel", scale=1000, digits=1),
        Measure("area", "panel area", "m²", "panels", "panel", total=True),
    ),
    measured=_panels_measured,
    picture=_edges,
    portrait=False,
    card={"panels": "panels"},
)
