"""Ribs that go into each other: as solids, flat parts, and in the order of their assembly."""

from __future__ import annotations

from collections.abc import Iterator, Sequence
from dataclasses import replace
from typing import Any

import numpy as np

from ...core.flat.parts import Part
from ...core.materials import MATERIALS
from ...core.ribs.meshed import meshed, rib_solid
from ...core.ribs.parts import Ribs, way_in
from ...core.ribs.plates import Rib
from ..subjects import Subject
from ..tables import Table, picked, rounded
from .amounts import Amounts, materials_of
from .flat import PARTS, POSES, LieOfPart, frame_columns, larger_than_any_sheet
from .kind import (
    Arrays,
    BuildingModel,
    Drawing,
    Kind,
    Layer,
    Measure,
    Picture,
    Schedule,
    Solid,
    narrow,
)

__all__ = ["KIND"]

SHORTEST_PIECE = 0.001
"""What (mm) of a plane piece lies within an outline and is more than a corner that touches it."""


def _drawn(ribs: Ribs) -> Drawing:
    return _plates(ribs, ribs.ribs)


def _has_sketch(ribs: Ribs) -> bool:
    return bool(ribs.unslotted)


def _sketch(ribs: Ribs) -> Drawing:
    """Ribs without their slots, which are filled by others anyway: a quarter of the corners."""
    whole = zip(ribs.ribs, ribs.unslotted, strict=True)
    return _plates(ribs, [replace(rib, shape=shape) for rib, shape in whole])


def _plates(ribs: Ribs, plates: Sequence[Rib]) -> Drawing:
    drawn, together = meshed(plates), ribs.assembly
    arrays = {
        "order": np.array(together.order, "<i4"),
        "ways": together.way.astype("<f4"),
        "positions": drawn.places.astype("<f4"),
        "triangles": narrow(drawn.triangles),
        "owner": narrow(drawn.owner),
        "lines": narrow(drawn.lines),
    }
    if any(r.bend for r in ribs.ribs):
        arrays["flat"] = drawn.flat.astype("<f4")
    told = {"labels": ribs.labels, "finishes": [MATERIALS[ribs.material].finish]}
    return told, arrays


def _measured(ribs: Ribs) -> Arrays:
    return {"ribArea": np.array([rib.shape.area for rib in ribs.ribs])}


def _picture(ribs: Ribs) -> Picture:
    drawn = meshed(ribs.ribs)
    lines = [drawn.places[pair] for pair in drawn.lines]
    return Picture(drawn.places, drawn.triangles.astype(np.int32), lines)


def _ribs(subject: Subject) -> Table:
    ribs: Ribs = subject.result
    slots = np.zeros(len(ribs.ribs), np.int64)
    for c in ribs.crossings:
        slots[[c.first, c.second]] += 1
    thickness = np.array([rib.thickness for rib in ribs.ribs])
    area = np.array([rib.shape.area for rib in ribs.ribs])
    length = np.array([rib.shape.length for rib in ribs.ribs])
    columns: dict[str, list[Any]] = {
        "label": [r.label for r in ribs.ribs],
        "set": [r.series for r in ribs.ribs],
        "thickness_mm": rounded(thickness * 1000, 3),
        "radius_m": [round(r.bend.radius, 3) if r.bend else "" for r in ribs.ribs],
        "slots": slots.tolist(),
        "area_m2": rounded(area, 6),
        "outline_length_mm": rounded(length * 1000, 3),
    }
    return Table("rib", columns, list(range(len(ribs.ribs))))


def _amounts(subject: Subject) -> Amounts:
    ribs: Ribs = subject.result
    area = np.array([rib.shape.area for rib in ribs.ribs])
    volume = area * [rib.thickness for rib in ribs.ribs]
    sets = [rib.series for rib in ribs.ribs]
    mass = volume * MATERIALS[ribs.material].density
    return Amounts("rib", [ribs.material] * len(sets), sets, mass, area=area, volume=volume)


def _named_pairs(ribs: Ribs, pairs: Iterator[tuple[int, int]]) -> list[str]:
    """For each rib the labels of those it is in a pair with."""
    others: list[list[str]] = [[] for _ in ribs.ribs]
    for first, second in pairs:
        others[first].append(ribs.labels[second])
        others[second].append(ribs.labels[first])
    return [" ".join(names) for names in others]


def _assembly(subject: Subject) -> Table | None:
    """Ribs in the order in which they go together: where the lower left corner of each outline on
    its sheet goes, and which ways the sheet's two sides then run."""
    if subject.on_sheets is None:
        return None
    ribs, lies = subject.result, subject.on_sheets
    together = ribs.assembly
    order = [*together.order, *(k for group in together.locked for k in group)]
    locked = len(order) - len(together.order)
    meets = _named_pairs(ribs, ((c.first, c.second) for c in ribs.crossings if not c.locked))
    joins = _named_pairs(ribs, ((s.first, s.second) for s in ribs.splices))
    columns: dict[str, list[Any]] = {
        "step": [k + 1 for k in range(len(order))],
        "label": picked(ribs.labels, np.array(order)),
        "goes_in": [way_in(w) for w in together.way] + ["locked"] * locked,
        "meets": [meets[i] for i in order],
        "thickness_mm": rounded(np.array([ribs.ribs[i].thickness for i in order]) * 1000, 3),
    }
    ways = np.vstack([np.array(together.way).reshape(-1, 3), np.zeros((locked, 3))])
    columns |= {f"way_{a}": rounded(ways[:, k], 8) for k, a in enumerate("xyz")}
    rows = lies.rows[0][order].tolist()
    stands = [_stands(LieOfPart.of(lies.layout, i), lies.layout.parts[i]) for i in rows]
    columns |= frame_columns(stands)
    return Table("rib", columns | {"joins": [joins[i] for i in order]}, order)


def _stands(lie: LieOfPart, part: Part) -> tuple[Any, Any]:
    """Where the corner of a part's outline goes, and which ways its sheet's sides then run."""
    if part.bend is None:
        return lie.frame(part.pose[:3])
    # Of a piece that the outline but touches nothing is told.
    low, high = part.outer[:, 0].min(), part.outer[:, 0].max()
    at = np.clip(lie.flat[:1], low + 2 * SHORTEST_PIECE, high - 2 * SHORTEST_PIECE)
    piece = part.bend.piece_at(at / 1000)[0]
    return part.places(lie.flat[None])[0], lie.frame(part.bend.poses()[piece])[1]


def _bends(subject: Subject) -> Table | None:
    """Plane pieces of bent ribs: from where to where each goes, along which way on the sheet, and
    where it stands."""
    ribs, lies = subject.result, subject.on_sheets
    if lies is None or not any(r.bend for r in ribs.ribs):
        return None
    names = ("label", "piece", "from_mm", "to_mm", "along_x", "along_y", "turn_deg")
    columns: dict[str, list[Any]] = {name: [] for name in names}
    frames, index = [], []
    for i, part in enumerate(lies.lying):
        if part.bend is None:
            continue
        lie, at, poses = (
            LieOfPart.of(lies.layout, int(lies.rows[0, i])),
            part.bend.at * 1000,
            part.bend.poses(),
        )
        low, high = part.outer[:, 0].min(), part.outer[:, 0].max()
        turns = np.degrees(np.append(part.bend.turns, 0.0))
        room = np.minimum(at[1:], high) - np.maximum(at[:-1], low)
        pieces = np.flatnonzero(room > SHORTEST_PIECE).tolist()
        for n, k in enumerate(pieces, 1):
            ends = np.clip(at[k : k + 2], low, high) - lie.flat[0]
            turn = turns[k] if k != pieces[-1] else 0.0
            along = rounded(lie.back[:, 0], 8)
            row = (part.label, n, *rounded(ends, 4), *along, round(float(turn), 4))
            for column, value in zip(columns.values(), row, strict=True):
                column.append(value)
            frames.append(lie.frame(poses[k]))
            index.append(i)
    return Table("rib", columns | frame_columns(frames), index)


def _solids(subject: Subject) -> Iterator[Solid]:
    for rib in subject.result.ribs:
        vertices, triangles = rib_solid(rib)
        yield Solid(rib.label, "rib", vertices, triangles.astype(np.int32))


def _building(model: BuildingModel, subject: Subject) -> None:
    """Ribs as plates about their middle planes, with their openings; bent ones by their faces."""
    ribs: Ribs = subject.result
    for rib in ribs.ribs:
        if rib.bend is not None:
            solid = rib_solid(rib)
            named = ("IfcPlate", rib.label, rib.series)
            model.add_faced(*named, *solid, ribs.material, "SHEET", layer=rib.thickness)
            continue
        outer, *inner = (
            np.array(ring.coords) for ring in (rib.shape.exterior, *rib.shape.interiors)
        )
        model.add(
            "IfcPlate",
            rib.label,
            rib.series,
            rib.origin - rib.normal * rib.thickness / 2,
            np.stack([rib.x, rib.y, rib.normal]),
            model.outline(outer[:-1], [ring[:-1] for ring in inner]),
            rib.thickness,
            ribs.material,
            "SHEET",
        )


KIND = Kind(
    "Ribs",
    layers=(Layer("ribs", "Ribs", "rib", shown=True),),
    drawn=_drawn,
    has_sketch=_has_sketch,
    sketch=_sketch,
    measures=(Measure("ribArea", "rib area", "m²", "ribs", "rib", total=True),),
    measured=_measured,
    schedules=(
        Schedule("ribs", _ribs, "Ribs", ("Ribs",), "rib"),
        PARTS,
        POSES,
        Schedule("assembly", _assembly, "Assembly", ("Ribs", "Sheets")),
        Schedule("bends", _bends, "Bends", ("Ribs", "Sheets")),
        materials_of(_amounts),
    ),
    solids=_solids,
    building=_building,
    not_made=lambda subject: larger_than_any_sheet(subject, "rib"),
    picture=_picture,
    card={"ribs": "ribs", "rib_mass": "mass"},
)
