"""Nets laid flat in parts: how they are drawn and listed."""

from __future__ import annotations

from typing import Any

import mapbox_earcut
import numpy as np
from numpy.typing import NDArray

from ...core.flat.unrolling import Unrolled
from ...core.materials import MATERIALS
from ..subjects import Subject
from ..tables import Table, rounded
from .amounts import Amounts, materials_of
from .flat import PARTS, POSES, larger_than_any_sheet
from .kind import Arrays, Drawing, Kind, Layer, Measure, Picture, Schedule, looks_of, narrow

__all__ = ["KIND"]

LONG = 0.02
"""Metres below which sides are short: what they are rounded by would tell."""
PLUM = (122, 46, 98)


def _drawn(unrolled: Unrolled) -> Drawing:
    """Parts in triangles between their outlines, as they stand and as they lie beside that; each
    comes in from the side it looks to."""
    stand, flat, triangles, owner, lines, ways = [], [], [], [], [], []
    count = 0
    for k, (part, rings) in enumerate(zip(unrolled.parts, unrolled.rings, strict=True)):
        corners = np.vstack([part.outer, *part.inner])
        ends = np.cumsum([len(ring) for ring in rings])
        made = mapbox_earcut.triangulate_float64(corners, ends.astype(np.uint32)).reshape(-1, 3)
        triangles.append(made.astype(np.int64) + count)
        owner.append(np.full(len(made), k))
        lines += [
            _around(count + np.arange(b - len(r), b)) for b, r in zip(ends, rings, strict=True)
        ]
        stand.append(np.vstack(rings))
        flat.append(part.places(corners))
        ways.append(-part.pose[:3, 2] * 1000)
        count += len(corners)
    return {"labels": unrolled.labels} | looks_of([unrolled.parts[0].material]), {
        "positions": np.vstack(stand).astype("<f4"),
        "flat": np.vstack(flat).astype("<f4"),
        "triangles": narrow(np.vstack(triangles)),
        "owner": narrow(np.concatenate(owner)),
        "lines": narrow(np.vstack(lines)),
        "order": np.arange(unrolled.count, dtype="<i4"),
        "ways": np.array(ways).astype("<f4"),
    }


def _around(ring: NDArray[np.int64]) -> NDArray[np.int64]:
    """Pairs (n, 2) of the places of a ``ring`` (n,)."""
    return np.column_stack([ring, np.roll(ring, -1)])


def _measured(unrolled: Unrolled) -> Arrays:
    return {"unrolledStretch": unrolled.stretch * 100, "unrolledArea": _areas(unrolled)}


def _picture(unrolled: Unrolled) -> Picture:
    lines = [np.vstack([ring, ring[:1]]) for rings in unrolled.rings for ring in rings]
    return Picture(np.vstack(lines), None, lines, PLUM)


def _areas(unrolled: Unrolled) -> Any:
    return np.array([part.area for part in unrolled.parts]) / 1e6


def _along_outlines(unrolled: Unrolled) -> Any:
    """By what share (S,) sides of outer outlines that are not short differ from those in space, at
    most."""
    out = []
    for part, rings in zip(unrolled.parts, unrolled.rings, strict=True):
        lies, stands = (
            np.linalg.norm(np.roll(ring, -1, axis=0) - ring, axis=1)
            for ring in (part.outer / 1000, rings[0])
        )
        long = stands >= LONG
        out.append(float(np.abs(lies[long] / stands[long] - 1).max(initial=0.0)))
    return np.array(out)


def _table(subject: Subject) -> Table:
    unrolled: Unrolled = subject.result
    labels = unrolled.labels
    size = np.array([np.ptp(part.outer, axis=0) for part in unrolled.parts])
    columns: dict[str, list[Any]] = {
        "label": labels,
        "along_mm": rounded(size[:, 0], 3),
        "across_mm": rounded(size[:, 1], 3),
        "openings": [len(part.inner) for part in unrolled.parts],
        "neighbours": [" ".join(labels[k] for k in own) for own in unrolled.neighbours],
        "stretch_percent": rounded(_along_outlines(unrolled) * 100, 3),
        "area_m2": rounded(_areas(unrolled), 6),
        "material": [part.material for part in unrolled.parts],
        "thickness_mm": [round(part.thickness, 3) for part in unrolled.parts],
    }
    return Table("unrolled", columns, list(range(unrolled.count)))


def _places(subject: Subject) -> Table:
    """Where every corner of the outlines stands, from the lower left corners of the drawings in
    ``parts/``."""
    unrolled: Unrolled = subject.result
    labels, rings, flat, stand, index = [], [], [], [], []
    for k, (part, own) in enumerate(zip(unrolled.parts, unrolled.rings, strict=True)):
        for number, (ring, places) in enumerate(zip((part.outer, *part.inner), own, strict=True)):
            labels += [part.label] * len(ring)
            rings += [number] * len(ring)
            index += [k] * len(ring)
            flat.append(ring - part.outer.min(axis=0))
            stand.append(places)
    columns: dict[str, list[Any]] = {"label": labels, "outline": rings}
    columns |= {f"{a}_mm": rounded(np.vstack(flat)[:, k], 4) for k, a in enumerate("xy")}
    columns |= {f"{a}_m": rounded(np.vstack(stand)[:, k], 7) for k, a in enumerate("xyz")}
    return Table("unrolled", columns, index)


def _amounts(subject: Subject) -> Amounts:
    unrolled: Unrolled = subject.result
    materials = [part.material for part in unrolled.parts]
    mass = [p.area / 1e9 * p.thickness * MATERIALS[p.material].density for p in unrolled.parts]
    return Amounts("unrolled", materials, unrolled.labels, np.array(mass), area=_areas(unrolled))


KIND = Kind(
    "Unrolled",
    layers=(Layer("unrolled", "Unrolled parts", "unrolled", shown=True),),
    drawn=_drawn,
    measures=(
        Measure(
            "unrolledStretch", "stretch of an unrolled part", "%", "unrolled", "unrolled", digits=3
        ),
        Measure(
            "unrolledArea", "area of an unrolled part", "m²", "unrolled", "unrolled", total=True
        ),
    ),
    measured=_measured,
    picture=_picture,
    portrait=False,
    schedules=(
        Schedule("unrolled", _table, "Unrolled", ("Unrolled",), "unrolled"),
        Schedule("unrolled_places", _places),
        PARTS,
        POSES,
        materials_of(_amounts),
    ),
    not_made=lambda subject: larger_than_any_sheet(subject, "unrolled"),
)
