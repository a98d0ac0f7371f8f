"""Structures before they are labelled."""

from __future__ import annotations

import numpy as np
from numpy.typing import NDArray

from ...core.structure.pieces import pieces_of
from ...core.structure.solids import set_out_lines
from ...core.structure.structure import LEVEL, Structure
from .kind import Arrays, Drawing, Kind, Layer, Measure, Picture, narrow

__all__ = ["KIND"]

ROUND_SEGMENTS = 8
"""Sides of a round section as the view draws it."""


def _octahedral(normals: np.ndarray) -> np.ndarray:
    """Unit vectors (n, 3) as two signed bytes (n, 2), to about half a degree (Meyer et al.,
    2010)."""
    n = normals / np.abs(normals).sum(axis=1, keepdims=True)
    folded = (1 - np.abs(n[:, [1, 0]])) * np.where(n[:, :2] >= 0, 1.0, -1.0)
    return np.asarray(np.round(np.where(n[:, 2:] < 0, folded, n[:, :2]) * 127), np.int8)


def _even_lifts(structure: Structure) -> NDArray[np.float64] | None:
    """How far the axes of each section's members lie above their nodes along their heights; nothing
    where that is not all there is to say of them."""
    if not structure.is_lifted.all():
        return None
    section = structure.section_of[structure.member_of_entry]
    lifts = np.zeros(len(structure.sections))
    lifts[section] = structure.lift
    return lifts if np.abs(structure.lift - lifts[section]).max(initial=0.0) < LEVEL else None


def _drawn(structure: Structure) -> Drawing:
    """Straight pieces between nodes that are lifted by section, or between places of axes and with
    their members, where that does not say it."""
    lifts = _even_lifts(structure)
    sections = [
        {
            "name": section.name,
            "round": section.shape.round,
            "outline": np.round(section.shape.outline(ROUND_SEGMENTS)[0], 5).tolist(),
            "lift": 0.0 if lifts is None else float(lifts[k]),
        }
        for k, section in enumerate(structure.sections)
    ]
    pieces = pieces_of(structure)
    ends, axis = structure.ends, {}
    if lifts is None:
        ends = pieces.ends
        axis = {"axis": pieces.places.astype("<f4"), "member": narrow(pieces.member)}
    return {"sections": sections}, {
        "positions": structure.places.astype("<f4"),
        "pieces": narrow(ends),
        "setBacks": np.round(np.minimum(pieces.set_back, 6.5) * 1e4).astype("<u2"),
        "ups": _octahedral(structure.up[pieces.segment]),
        # Of one or two sections a bit tells which.
        "sectionOf": np.packbits(structure.section_of.astype(bool), bitorder="little")
        if len(structure.sections) < 3
        else structure.section_of.astype("u1"),
    } | axis


def _measured(structure: Structure) -> Arrays:
    return {
        "length": structure.lengths,
        "cutLength": structure.cut_lengths,
        "mass": structure.masses,
    }


def _picture(structure: Structure) -> Picture:
    return Picture(structure.places, None, list(set_out_lines(structure)[0]))


KIND = Kind(
    "Structure",
    layers=(
        Layer("members", "Members", "member", shown=True),
        Layer("nodes", "Nodes", "node"),
    ),
    drawn=_drawn,
    measures=(
        Measure(
            "length", "member length", "m", "members", "member", note="along the axis", total=True
        ),
        Measure("mass", "member mass", "kg", "members", "member", digits=1, total=True),
    ),
    measured=_measured,
    picture=_picture,
    written_as="Labelled",
    card={"members": "members", "mass": "mass"},
)
