"""Strips: how they are drawn, folded and listed."""

from __future__ import annotations

from collections.abc import Iterator

import numpy as np
from numpy.typing import NDArray

from ...core.flat.folds import SCORED
from ...core.flat.strips import Strips
from ...core.materials import MATERIALS
from ..subjects import Subject
from ..tables import Table
from .amounts import Amounts, materials_of
from .flat import PARTS, POSES, larger_than_any_sheet
from .folded import FOLDS, folded_columns, largest_folds
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
    looks_of,
    narrow,
)

__all__ = ["KIND"]

Array = NDArray[np.float64]


def _drawn(strips: Strips) -> Drawing:
    """Triangles in the order in which they are folded, each beginning with the side it is folded
    about, with the one before it and its turn."""
    laid = strips.laid
    first = np.maximum(laid.parent, 0) % 3
    turned = np.take_along_axis(laid.corners, (first[:, None] + np.arange(3)) % 3, axis=1)
    number = np.empty(len(laid.order), np.int64)
    number[laid.order] = np.arange(len(laid.order))
    before = np.where(laid.before >= 0, number[np.maximum(laid.before, 0)], -1)
    is_fold = (laid.parent >= 0) & (np.abs(strips.turns) >= SCORED)
    lines = np.concatenate([laid.ring, laid.parent[is_fold]])
    way = -_outward(strips)
    return {"labels": strips.labels} | looks_of([strips.parts[0].material]), {
        "positions": strips.places.astype("<f4"),
        "flat": laid.flat.astype("<f4"),
        "triangles": narrow(turned[laid.order]),
        "owner": narrow(laid.piece[laid.order]),
        "before": before[laid.order].astype("<i4"),
        "turns": strips.turns[laid.order].astype("<f4"),
        "lines": narrow(np.stack([laid.start[lines], laid.end[lines]], axis=1)),
        "order": np.arange(strips.count, dtype="<i4"),
        "ways": way.astype("<f4"),
    }


def _outward(strips: Strips) -> Array:
    """Which way (S, 3) each strip looks, on the whole."""
    p = strips.places[strips.laid.corners]
    cross = np.cross(p[:, 1] - p[:, 0], p[:, 2] - p[:, 0])
    out = np.zeros((strips.count, 3))
    np.add.at(out, strips.laid.piece, cross)
    return np.asarray(out / np.maximum(np.linalg.norm(out, axis=1, keepdims=True), 1e-300))


def _areas(strips: Strips) -> Array:
    return np.array([part.area for part in strips.parts]) / 1e6


def _measured(strips: Strips) -> Arrays:
    return {"stripFold": largest_folds(strips.folds, strips.count), "stripArea": _areas(strips)}


def _picture(strips: Strips) -> Picture:
    laid = strips.laid
    lines = [strips.places[[laid.start[h], laid.end[h]]] for h in laid.ring.tolist()]
    return Picture(strips.places, laid.corners, lines)


def _neighbours(strips: Strips) -> list[str]:
    """The strips that each meets, in their order."""
    beyond = strips.beyond
    at = np.flatnonzero(beyond >= 0)
    pairs = np.stack([strips.laid.piece[at // 3], strips.laid.piece[beyond[at] // 3]], axis=1)
    out: list[list[str]] = [[] for _ in range(strips.count)]
    for one, other in np.unique(pairs, axis=0).tolist():
        if one != other:
            out[one].append(strips.labels[other])
    return [" ".join(names) for names in out]


def _table(subject: Subject) -> Table:
    strips: Strips = subject.result
    labels, columns = strips.labels, folded_columns(strips.folds, strips.parts)
    ahead = {"label": labels, "neighbours": _neighbours(strips)}
    for name, share in zip(("shorter", "narrower"), strips.smaller, strict=True):
        columns[f"{name}_percent"] = [round(100 * share, 4)] * strips.count
    return Table("strip", ahead | columns, list(range(strips.count)))


def _amounts(subject: Subject) -> Amounts:
    strips: Strips = subject.result
    materials = [part.material for part in strips.parts]
    mass = [p.area / 1e9 * p.thickness * MATERIALS[p.material].density for p in strips.parts]
    return Amounts("strip", materials, strips.labels, np.array(mass), area=_areas(strips))


def _solids(subject: Subject) -> Iterator[Solid]:
    """Strips as they are folded up, without their flaps."""
    strips: Strips = subject.result
    laid = strips.laid
    order = np.argsort(laid.piece, kind="stable")
    ends = np.cumsum(np.bincount(laid.piece))[:-1]
    for label, triangles in zip(strips.labels, np.split(laid.corners[order], ends), strict=True):
        used, corners = np.unique(triangles, return_inverse=True)
        triangles = corners.reshape(-1, 3).astype(np.int32)
        yield Solid(label, "panel", strips.places[used], triangles)


def _build(model: BuildingModel, subject: Subject) -> None:
    """Strips as plates of their thickness, folded, without their flaps."""
    (part, *_) = subject.result.parts
    for skin in _solids(subject):
        shape = (skin.vertices, skin.triangles, part.material, "SHEET")
        model.add_faced("IfcPlate", skin.name, "strip", *shape, False, layer=part.thickness / 1000)


KIND = Kind(
    "Strips",
    layers=(Layer("strips", "Strips", "strip", shown=True),),
    drawn=_drawn,
    measures=(
        Measure("stripFold", "largest fold of a strip", "°", "strips", "strip", digits=1),
        Measure("stripArea", "strip area", "m²", "strips", "strip", total=True),
    ),
    measured=_measured,
    picture=_picture,
    portrait=False,
    card={"strips": "strips"},
    schedules=(
        Schedule("strips", _table, "Strips", ("Strips",), "strip"),
        FOLDS,
        PARTS,
        POSES,
        materials_of(_amounts),
    ),
    solids=_solids,
    building=_build,
    not_made=lambda subject: larger_than_any_sheet(subject, "strip"),
)
