"""Nets laid flat: their outlines against where their corners stand, and against each other."""

from __future__ import annotations

import numpy as np
from numpy.typing import NDArray

from .flat import flat_of
from .pack_files import Found, Pack, Row, beyond, number_in
from .panels import outline_in_pose, places_in_pose, pose_of

__all__ = ["unrolled_as_listed", "unrolled_in_space"]

Array = NDArray[np.float64]
SAG = 0.01
"""By what share a chord between neighbouring corners may be shorter than what lies flat."""
ROUND_MM = 2e-3
ROUND_SHARE = 2e-5
LONG_M = 0.02
MEET_M = 1e-5
"""What corners of neighbours that meet may be off each other."""


def _corners(pack: Pack) -> dict[str, dict[int, tuple[Array, Array]]]:
    """Of each part by its outlines the flat corners (n, 2) in mm and where they stand (n, 3)."""
    rows: dict[str, dict[int, list[Row]]] = {}
    for row in pack.rows("unrolled_places"):
        number = int(number_in(row, "outline", "unrolled_places"))
        rows.setdefault(row["label"], {}).setdefault(number, []).append(row)
    return {
        label: {number: _read(own) for number, own in rings.items()}
        for label, rings in rows.items()
    }


def _read(rows: list[Row]) -> tuple[Array, Array]:
    names = ("x_mm", "y_mm", "x_m", "y_m", "z_m")
    both = np.array([[number_in(r, n, "unrolled_places") for n in names] for r in rows])
    return both[:, :2], both[:, 2:]


def unrolled_as_listed(pack: Pack) -> Found:
    """Sizes, openings, areas and neighbours of unrolled.csv against the drawings (mm)."""
    rows = pack.rows("unrolled")
    named = {row["label"]: row["neighbours"].split() for row in rows}
    for row in rows:
        label, where = row["label"], f"{row['label']} in unrolled.csv"
        for other in named[label]:
            yield beyond(label not in named.get(other, [])), f"{where}: neighbours"
        if label not in flat_of(pack).parts:
            continue
        _, _, inner = flat_of(pack).parts[label]
        yield abs(len(inner) - number_in(row, "openings", "unrolled")), f"{where}: openings"
        size = np.ptp(outline_in_pose(pack, label), axis=0)
        for given, name in zip(size, ("along_mm", "across_mm"), strict=True):
            yield abs(given - number_in(row, name, "unrolled")), f"{where}: {name}"
        told = number_in(row, "area_m2", "unrolled")
        off = abs(told - number_in(pack.part_rows[label], "area_m2", "parts")) * 1e3
        yield off, f"{where}: area"


def unrolled_in_space(pack: Pack) -> Found:
    """Corners of unrolled_places.csv against the outlines on sheets (mm), lengths between them in
    space against those in the flat beyond what is told to be stretched, and whether neighbours
    meet."""
    corners = _corners(pack)
    rows = {row["label"]: row for row in pack.rows("unrolled")}
    for label in sorted(set(corners) ^ set(rows)):
        yield np.inf, f"{label} is not both in unrolled.csv and unrolled_places.csv"
    for label, row in rows.items():
        if label not in corners:
            continue
        where = f"{label} in unrolled_places.csv"
        stretch = number_in(row, "stretch_percent", "unrolled") / 100
        found = _stretch(*corners[label][0])
        is_off = stretch < 0 or abs(found - stretch) > ROUND_SHARE
        yield beyond(is_off), f"{label} in unrolled.csv: stretch"
        for number, (flat, stand) in corners[label].items():
            yield from _lengths(flat, stand, stretch, f"{where}, outline {number}")
        if label in flat_of(pack).parts:
            yield from _as_drawn(pack, label, corners[label], where)
        yield from _meet(label, row, corners, where)
        yield _off_pose(pack, label, corners[label]), f"{label} in poses.csv"


def _stretch(flat: Array, stand: Array) -> float:
    """By what share sides (n) that are not short differ from those in space, at most."""
    lies = np.linalg.norm(np.roll(flat, -1, axis=0) - flat, axis=1) / 1000
    stands = np.linalg.norm(np.roll(stand, -1, axis=0) - stand, axis=1)
    long = stands >= LONG_M
    return float(np.abs(lies[long] / stands[long] - 1).max(initial=0.0))


def _lengths(flat: Array, stand: Array, stretch: float, where: str) -> Found:
    """How much (mm) sides in space are longer or shorter than they may be."""
    lies = np.linalg.norm(np.roll(flat, -1, axis=0) - flat, axis=1)
    chord = np.linalg.norm(np.roll(stand, -1, axis=0) - stand, axis=1) * 1000
    longer = chord - lies * (1 + stretch) - ROUND_MM
    shorter = lies * (1 - stretch - SAG) - chord - ROUND_MM
    yield max(float(longer.max()), float(shorter.max()), 0.0), where


def _as_drawn(pack: Pack, label: str, corners: dict[int, tuple[Array, Array]], where: str) -> Found:
    """How far (mm) corners are from those of the outlines on a sheet, each opening in turn."""
    _, outer, inner = flat_of(pack).parts[label]
    yield beyond(len(corners) != 1 + len(inner)), f"{where}: outlines"
    if pack.tool(label):
        return  # outlines keep clear of their parts
    drawn = [
        _mean_and_extent(places_in_pose(pack, label, np.asarray(ring.points)))
        for ring in (outer, *inner)
    ]
    for flat, _ in corners.values():
        own = _mean_and_extent(flat)
        yield float(min(np.abs(own - other).max() for other in drawn)), where


def _mean_and_extent(corners: Array) -> Array:
    """Mean and extent (4,) of corners (n, 2)."""
    return np.array([*corners.mean(axis=0), *np.ptp(corners, axis=0)])


def _meet(
    label: str, row: Row, corners: dict[str, dict[int, tuple[Array, Array]]], where: str
) -> Found:
    """Whether a part has two corners or more in common with each neighbour, and with no other."""
    own = np.round(corners[label][0][1] / MEET_M)
    for other in corners:
        if other == label:
            continue
        there = np.round(corners[other][0][1] / MEET_M)
        shared = (np.abs(own[:, None] - there).max(axis=2) <= 1).any(axis=1).sum()
        is_told = other in row["neighbours"].split()
        yield beyond((shared >= 2) != is_told), f"{where}: {label} and {other}"


def _off_pose(pack: Pack, label: str, corners: dict[int, tuple[Array, Array]]) -> float:
    """How much further (mm) corners are from where the pose puts them than they are from the best
    one."""
    poses = {r["label"]: r for r in pack.rows("poses")}
    if label not in poses:
        return 0.0
    place, x, y = pose_of(poses[label])
    flat, stand = corners[0]
    put = place * 1000 + flat[:, :1] * x + flat[:, 1:] * y
    told = np.sqrt(((put - stand * 1000) ** 2).sum(axis=1).mean())
    one, other = flat - flat.mean(axis=0), (stand - stand.mean(axis=0)) * 1000
    best = np.linalg.svd(one.T @ other)[1].sum()
    least = max((one**2).sum() + (other**2).sum() - 2 * best, 0.0) / len(flat)
    return max(float(told - np.sqrt(least)), 0.0)
