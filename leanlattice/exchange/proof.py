"""Ribs put together again from the files: outlines of sheets as solids where the assembly says they go."""

from __future__ import annotations

from collections.abc import Iterator, Mapping, Sequence

import manifold3d
import numpy as np
from numpy.typing import NDArray

__all__ = ["apart", "overlapping", "solids_of"]

Array = NDArray[np.float64]
Row = Mapping[str, str]
SEARCH = 0.05
"""Gaps larger than this (m) are not measured."""
ROUNDED = 0.02
"""What (mm) outlines beside which a tool ran are taken back more than by half its width, as its rounds are of many sides."""


def solids_of(
    rows: Sequence[Row], outlines: Mapping[str, tuple[Array, list[Array]]], tool: float
) -> dict[str, manifold3d.Manifold]:
    """Solid in metres of each part by label: its outer and inner outlines on the sheet, counted from the lower left corner of
    the outer one, carried to where that corner goes; ``tool`` (mm) is the width its outlines keep from it in all."""
    out = {}
    for row in rows:
        if row["label"] not in outlines:
            continue
        outer, inner = outlines[row["label"]]
        low = outer.min(axis=0)
        rings = [(np.asarray(r) - low) for r in (outer, *inner)]
        section = manifold3d.CrossSection(rings, manifold3d.FillRule.EvenOdd)
        if tool:
            section = section.offset(-tool / 2 - ROUNDED, manifold3d.JoinType.Round, 2.0, 96)
        thickness = float(row["thickness_mm"]) / 1000
        place, x, y = (
            np.array([float(row[f"{n}{a}{u}"]) for a in "xyz"]) for n, u in (("", "_m"), ("right_", ""), ("up_", ""))
        )
        plate = manifold3d.Manifold.extrude(section.scale((0.001, 0.001)), thickness).translate(
            (0.0, 0.0, -thickness / 2)
        )
        out[row["label"]] = plate.transform(np.column_stack([x, y, np.cross(x, y), place]))
    return out


def overlapping(solids: Mapping[str, manifold3d.Manifold]) -> Iterator[tuple[float, str]]:
    """Volumes (mm³) that pairs of parts share."""
    labels = list(solids)
    boxes = np.array([solids[k].bounding_box() for k in labels]).reshape(-1, 2, 3)
    meet = ((boxes[:, None, 0] <= boxes[None, :, 1]) & (boxes[:, None, 1] >= boxes[None, :, 0])).all(axis=2)
    for i, j in np.argwhere(np.triu(meet, 1)).tolist():
        yield float((solids[labels[i]] ^ solids[labels[j]]).volume()) * 1e9, f"{labels[i]} and {labels[j]}"


def apart(rows: Sequence[Row], solids: Mapping[str, manifold3d.Manifold]) -> Iterator[tuple[float, str]]:
    """Gaps (mm) between parts that are to meet."""
    for row in rows:
        for other in row["meets"].split():
            if row["label"] < other and row["label"] in solids and other in solids:
                yield float(solids[row["label"]].min_gap(solids[other], SEARCH)) * 1000, f"{row['label']} and {other}"
