"""Strips: how they are drawn, folded and listed."""

from __future__ import annotations

from collections.abc import Iterator
from typing import Any

import numpy as np
import shapely
from numpy.typing import NDArray

from ...core.flat.sheets import narrowest_turn
from ...core.flat.strips import SCORED, Strips
from ...core.materials import MATERIALS
from ..subjects import Subject
from ..tables import Table, rounded
from .amounts import Amounts, materials_of
from .flat import PARTS, POSES, larger_than_any_sheet
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

Array = NDArray[np.float64]
SIDES = {1: "away", -1: "towards", 0: "flat"}
"""Which way a fold goes from the outside."""


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
    return {
        "labels": strips.labels,
        "looks": [list(MATERIALS[strips.parts[0].material].look)],
    }, {
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


def _largest_folds(strips: Strips) -> Array:
    """The largest fold (S,) of each, in degrees."""
    within = strips.folds.within
    out = np.zeros(strips.count)
    np.maximum.at(out, strips.folds.strip[within], np.abs(strips.folds.turns[within]))
    return out


def _areas(strips: Strips) -> Array:
    return np.array([part.area for part in strips.parts]) / 1e6


def _measured(strips: Strips) -> Arrays:
    return {"stripFold": _largest_folds(strips), "stripArea": _areas(strips)}


def _picture(strips: Strips) -> Picture:
    laid = strips.laid
    lines = [strips.places[[laid.start[h], laid.end[h]]] for h in laid.ring.tolist()]
    return Picture(strips.places, laid.corners, lines)


def _sizes(strips: Strips) -> tuple[Array, Array]:
    """How far apart the farthest corners of outlines (S,) are, and how wide they are where they
    are narrowest (S,), in mm."""
    length, width = np.empty(strips.count), np.empty(strips.count)
    for k, part in enumerate(strips.parts):
        hull = shapely.get_coordinates(shapely.convex_hull(shapely.MultiPoint(part.outer)))
        length[k] = np.linalg.norm(hull[:, None] - hull, axis=2).max()
        turn = narrowest_turn(part.outer)
        width[k] = np.ptp(np.sin(turn) * hull[:, 0] + np.cos(turn) * hull[:, 1])
    return length, width


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
    length, width = _sizes(strips)
    within = strips.folds.within
    folds = np.bincount(strips.folds.strip[within], minlength=strips.count)
    columns: dict[str, list[Any]] = {
        "label": strips.labels,
        "length_mm": rounded(length, 3),
        "width_mm": rounded(width, 3),
        "folds": folds.tolist(),
        "largest_fold_deg": rounded(_largest_folds(strips), 4),
        "holes": [len(part.inner) for part in strips.parts],
        "neighbours": _neighbours(strips),
        "area_m2": rounded(_areas(strips), 6),
        "material": [part.material for part in strips.parts],
        "thickness_mm": [round(part.thickness, 3) for part in strips.parts],
    }
    return Table("strip", columns, list(range(strips.count)))


def _folds(subject: Subject) -> Table | None:
    """Where strips are folded and flaps begin, from the lower left corners of the drawings in
    ``parts/``: first within a strip, of which the first has on its right what poses.csv stands,
    then flaps, which are on the right of their folds."""
    strips: Strips = subject.result
    folds = strips.folds
    piece = folds.strip
    if not len(piece):
        return None
    low = np.array([part.outer.min(axis=0) for part in strips.parts])[piece]
    ends = (folds.ends * 1000 - low[:, None]).transpose(1, 0, 2)
    number = np.arange(len(piece)) - np.searchsorted(piece, piece) + 1
    labels = np.array([*strips.labels, ""])
    columns: dict[str, list[Any]] = {
        "strip": labels[piece].tolist(),
        "fold": number.tolist(),
        "side": [SIDES[int(sign)] for sign in np.sign(folds.turns)],
        "angle_deg": rounded(np.abs(folds.turns), 4),
        "scored": np.where(folds.scored, "yes", "no").tolist(),
        "flap_on": labels[folds.meets].tolist(),
    }
    for name, places in zip(("from", "to"), ends, strict=True):
        columns |= {f"{name}_{a}_mm": rounded(places[:, k], 4) for k, a in enumerate("xy")}
    return Table("strip", columns, piece.tolist())


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
        Schedule("folds", _folds, "Folds", ("Strips",), "strip"),
        PARTS,
        POSES,
        materials_of(_amounts),
    ),
    solids=_solids,
    building=_build,
    not_made=lambda subject: larger_than_any_sheet(subject, "strip"),
)
