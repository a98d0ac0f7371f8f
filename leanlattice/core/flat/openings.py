"""Openings of solids as flat templates; those that are alike are drawn once."""

from __future__ import annotations

from collections.abc import Callable
from dataclasses import dataclass

import numpy as np
import shapely
from numpy.typing import NDArray

from ..geometry.developed import laid_outline, nearest_frame
from ..naming.numbering import type_numbers
from ..panels.panels import Sheet
from ..solids.solids import Solids
from .lettering import LABEL_HEIGHT, Names
from .parts import Part
from .templates import OpeningsDrawn, Templates, pose_in

__all__ = ["opening_templates"]

Array = NDArray[np.float64]
Index = NDArray[np.int32]
POINT = 1e-9
"""Metres within which corners are one."""


def opening_templates(
    solids: Solids,
    sheet: Sheet,
    tolerance: float,
    progress: Callable[[float], None] = lambda share: None,
) -> Templates:
    """The outlines of all openings of ``solids``, seen square to them, on parts of a ``sheet``;
    openings whose sides and diagonals agree within a ``tolerance`` (m) have one template, mirror
    images two. Solids without openings have none."""
    rings = _rings(solids)
    alike = _alike(rings, tolerance, solids.vertices)
    made = []
    for number, members in enumerate(alike, 1):
        progress(number / len(alike))
        made.append(_drawn(solids, rings, members, number, sheet))
    count = len(made)
    of = np.repeat(np.arange(count), [len(one.members) for one in made]).astype(np.int32)
    every = [ring for one in made for ring in one.members]
    return Templates(
        solids=solids,
        parts=tuple(one.part for one in made),
        body=np.array([one.body for one in made], np.int32),
        pieces=np.bincount(of, minlength=count).astype(np.int32),
        stretch=np.zeros(count),
        off=np.array([one.off[0] for one in made]),
        sides=((),) * count,
        borders=tuple(one.borders for one in made),
        unlabelled=np.flatnonzero([not one.complete for one in made]).astype(np.int32),
        openings=OpeningsDrawn(
            template=of,
            body=_bodies(solids, rings)[every],
            poses=np.array([pose for one in made for pose in one.poses]).reshape(-1, 4, 4),
            off=np.array([off for one in made for off in one.off]),
        ),
    )


def _rings(solids: Solids) -> list[Index]:
    """The vertices of each opening, without those that are in one place."""
    if solids.openings is None:
        return []
    out = []
    for ring in np.split(solids.openings.rings, solids.openings.offsets[1:-1]):
        places = solids.vertices[ring]
        apart = np.linalg.norm(places - np.roll(places, 1, axis=0), axis=1) > POINT
        out.append(ring[apart])
    return out


def _bodies(solids: Solids, rings: list[Index]) -> Index:
    return solids.owner_of_vertex[[ring[0] for ring in rings]]


def _features(places: Array) -> Array:
    """Sides and diagonals to the next but one (k, 2), in metres, of an outline (k, 3)."""
    ways = [np.roll(places, -step, axis=0) - places for step in (1, 2)]
    return np.stack([np.linalg.norm(way, axis=1) for way in ways], axis=1)


def _alike(rings: list[Index], tolerance: float, vertices: Array) -> list[list[int]]:
    """Positions of rings that are alike within a ``tolerance`` (m), in the order of the first of
    each kind."""
    kinds: dict[tuple[int, int], list[int]] = {}
    counts = np.array([len(ring) for ring in rings])
    for corners in np.unique(counts).tolist():
        rows = np.flatnonzero(counts == corners)
        features = np.array([_features(vertices[rings[k]]) for k in rows.tolist()])
        for k, kind in zip(rows.tolist(), type_numbers(features, tolerance)[0], strict=True):
            kinds.setdefault((corners, int(kind)), []).append(k)
    return sorted(kinds.values())


@dataclass(frozen=True, eq=False)
class _Drawn:
    """A template and the openings it is for: ``members`` by their positions, with the ``poses``
    (n, 4, 4) of the part in each and how far ``off`` (n,) metres its corners then are."""

    part: Part
    body: int
    members: list[int]
    poses: list[Array]
    off: list[float]
    borders: tuple[Array, ...]
    complete: bool


def _drawn(
    solids: Solids, rings: list[Index], members: list[int], number: int, sheet: Sheet
) -> _Drawn:
    first = solids.vertices[rings[members[0]]]
    flat, *frame = laid_outline(first)
    poses, off = [], []
    for k in members:
        places = solids.vertices[rings[k]]
        if k != members[0]:
            places = np.roll(places, -_turn(_features(first), _features(places)), axis=0)
            frame = list(nearest_frame(flat, places))
        at, axes = frame
        poses.append(pose_in(at, axes))
        off.append(float(np.linalg.norm(at + flat @ axes[:2] - places, axis=1).max()))
    body = int(solids.owner_of_vertex[rings[members[0]][0]])
    label = f"{solids.labels[body]}-V{number}"
    names = Names(shapely.Polygon(flat * 1000))
    names.write(label, LABEL_HEIGHT, names.room()[0])
    part = Part(
        label=label,
        kind="template",
        outer=flat * 1000,
        inner=(),
        pose=poses[0],
        material=sheet.material,
        thickness=sheet.thickness * 1000,
        marks=tuple(names.strokes),
    )
    borders = tuple(solids.vertices[np.append(rings[k], rings[k][0])] for k in members)
    return _Drawn(part, body, members, poses, off, borders, names.complete)


def _turn(first: Array, other: Array) -> int:
    """By how many corners an outline's features (k, 2) are turned against another's."""
    turned = np.array([np.roll(other, -k, axis=0) for k in range(len(other))])
    return int(np.argmin(np.abs(turned - first).max(axis=(1, 2))))
