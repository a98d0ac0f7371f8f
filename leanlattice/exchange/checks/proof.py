"""Ribs put together again from the files: outlines of sheets as solids where the assembly says they
go."""

from __future__ import annotations

from collections.abc import Iterator, Mapping, Sequence

import manifold3d
import numpy as np
from numpy.typing import NDArray

from .pack_files import PackError

__all__ = ["apart", "overlapping", "solids_of"]

Array = NDArray[np.float64]
Row = Mapping[str, str]
Pair = tuple[str, str]
"""Labels of two parts."""
SEARCH = 0.05
"""Gaps larger than this (m) are not measured."""
ROUNDED = 0.02
"""What (mm) outlines beside which a tool ran are taken back more than by half its width, as its
rounds are of many sides."""


def solids_of(
    rows: Sequence[Row],
    bends: Sequence[Row],
    outlines: Mapping[str, tuple[Array, list[Array]]],
    tools: Mapping[str, float],
    press: float = 0.0,
) -> dict[str, manifold3d.Manifold]:
    """Solid in metres of each part by label, by ``rows`` of the assembly.

    Outer and inner ``outlines`` on the sheet, counted from the lower left corner of the outer one,
    are carried to where that corner goes, piece by piece where a part has ``bends``. ``tools`` (mm)
    are the widths outlines keep from their parts in all, and ``press`` (mm) what plates are wider
    than their slots on purpose: they are made so much thinner.
    """
    pieces: dict[str, list[Row]] = {}
    for row in bends:
        pieces.setdefault(row["label"], []).append(row)
    out = {}
    for row in rows:
        label = row["label"]
        if label not in outlines:
            continue
        outer, inner = outlines[label]
        low = outer.min(axis=0)
        rings = [(np.asarray(r) - low) for r in (outer, *inner)]
        section = manifold3d.CrossSection(rings, manifold3d.FillRule.EvenOdd)
        tool = tools.get(label, 0.0)
        if tool:
            section = section.offset(-tool / 2 - ROUNDED, manifold3d.JoinType.Round, 2.0, 96)
        thickness, reach = (
            (float(row["thickness_mm"]) - press) / 1000,
            2 * float(np.ptp(outer, axis=0).sum()),
        )
        plates = [_carried(section ^ _strip(p, reach), p, thickness) for p in pieces.get(label, [])]
        out[label] = _sound(
            manifold3d.Manifold.batch_boolean(plates, manifold3d.OpType.Add)
            if plates
            else _carried(section, row, thickness),
            label,
        )
    return out


def _sound(solid: manifold3d.Manifold, label: str) -> manifold3d.Manifold:
    """A solid that is one: of an empty or broken one nothing could be told, as it overlaps
    nothing."""
    if solid.status() != manifold3d.Error.NoError or solid.is_empty() or solid.volume() <= 0:
        raise PackError(f"{label} put together again is no solid")
    return solid


def _strip(row: Row, reach: float) -> manifold3d.CrossSection:
    """What of a sheet lies within a plane piece."""
    along = np.array([float(row["along_x"]), float(row["along_y"])])
    across = np.array([-along[1], along[0]])
    low, high = float(row["from_mm"]), float(row["to_mm"])
    corner = np.array([[low, -reach], [high, -reach], [high, reach], [low, reach]])
    return manifold3d.CrossSection(
        [corner @ np.stack([along, across])], manifold3d.FillRule.NonZero
    )


def _frame(row: Row) -> tuple[Array, Array, Array]:
    """Where a plate's lower left corner goes, and its x and y (3,) there."""
    names = (("", "_m"), ("right_", ""), ("up_", ""))
    place, x, y = (np.array([float(row[f"{n}{a}{u}"]) for a in "xyz"]) for n, u in names)
    return place, x, y


def _carried(section: manifold3d.CrossSection, row: Row, thickness: float) -> manifold3d.Manifold:
    """A plate (m) about where a section of its sheet (mm) goes."""
    place, x, y = _frame(row)
    plate = manifold3d.Manifold.extrude(section.scale((0.001, 0.001)), thickness).translate(
        (0.0, 0.0, -thickness / 2)
    )
    return plate.transform(np.column_stack([x, y, np.cross(x, y), place]))


def overlapping(
    rows: Sequence[Row], bends: Sequence[Row], solids: Mapping[str, manifold3d.Manifold]
) -> Iterator[tuple[float, Pair]]:
    """Volumes (mm³) that pairs of parts share. Those of which one lies all on one side of the other
    share nothing; there are many in a stack."""
    labels, bent = list(solids), {r["label"] for r in bends}
    frames = {
        r["label"]: _frame(r) for r in rows if r["label"] in solids and r["label"] not in bent
    }
    planes = {k: (np.cross(x, y), place @ np.cross(x, y)) for k, (place, x, y) in frames.items()}
    half = {r["label"]: float(r["thickness_mm"]) / 2000 for r in rows}
    corners = {k: np.asarray(s.to_mesh64().vert_properties)[:, :3] for k, s in solids.items()}

    def beside(one: str, other: str) -> bool:
        if one not in planes:
            return False
        off = corners[other] @ planes[one][0] - planes[one][1]
        return bool(off.min() > half[one] or off.max() < -half[one])

    boxes = np.array([solids[k].bounding_box() for k in labels]).reshape(-1, 2, 3)
    meet = (
        (boxes[:, None, 0] <= boxes[None, :, 1]) & (boxes[:, None, 1] >= boxes[None, :, 0])
    ).all(axis=2)
    for i, j in np.argwhere(np.triu(meet, 1)).tolist():
        a, b = labels[i], labels[j]
        clear = not len(corners[a]) or not len(corners[b]) or beside(a, b) or beside(b, a)
        yield 0.0 if clear else float((solids[a] ^ solids[b]).volume()) * 1e9, (a, b)


def apart(
    rows: Sequence[Row], solids: Mapping[str, manifold3d.Manifold], column: str, spare: float
) -> Iterator[tuple[float, Pair]]:
    """Gaps (mm) between parts that are to touch by a ``column`` of the assembly, less what they
    have to ``spare`` (mm)."""
    for row in rows:
        for other in row[column].split():
            if row["label"] < other and row["label"] in solids and other in solids:
                gap = float(solids[row["label"]].min_gap(solids[other], SEARCH)) * 1000
                yield max(gap - spare, 0.0), (row["label"], other)
