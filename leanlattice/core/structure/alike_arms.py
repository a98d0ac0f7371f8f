"""Node plates cut alike: the arms of all of a kind have the mean form of theirs, and each plate is
laid where these fit its members best."""

from __future__ import annotations

from dataclasses import replace
from typing import NamedTuple

import numpy as np
from numpy.typing import NDArray

from ..naming.numbering import in_order, type_numbers
from .plate_arms import PlateArms
from .plate_ends import corners_of, touches

__all__ = ["AlikeArms", "alike_arms"]

Array = NDArray[np.float64]
Index = NDArray[np.int32]
MEANT = ("aside", "width", "rounding", "first", "run", "slant", "elevation")
"""What of arms is the mean of theirs."""
TIP = 0.01
"""How far a plate's normal is followed to tell its sides apart, in lengths of its arms."""


class AlikeArms(NamedTuple):
    """The ``arms`` of plates cut alike, the ``kind`` (k,) of each from 1, and how far ``off`` (n,)
    the axes of their members arms are, in metres, where they begin or where they end on these."""

    arms: PlateArms
    kind: Index
    off: Array


def alike_arms(arms: PlateArms, tolerance: float) -> AlikeArms:
    """Arms of plates of a kind alike. Plates are of a kind where they are as thick, and lengths,
    heights and arcs between their arms are equal within the ``tolerance`` (m) in their order; there
    are no mirror images, as plates have an outer side.

    Arms still end as far into members as their own did, and are as far on these as the mean.
    """
    features = _features(arms)
    kind = _kinds(arms, features, tolerance)
    groups = [_in_step(features, arms, rows) for rows in _rows_of(kind)]
    formed = _formed(arms, [own for own in groups if len(own) > 1])
    laid = _laid(arms, formed, groups)
    return AlikeArms(
        laid, kind, np.linalg.norm(_on_arms(laid) - _on_axes(laid, arms), axis=2).max(1)
    )


def _features(arms: PlateArms) -> Array:
    """Lengths (n, f) in metres that equal arms have in common, and the arc to the next."""
    high = arms.run * np.tan(arms.slant)
    straight = arms.stop - arms.start
    arc = arms.angle * (arms.reach + arms.reach[arms.following]) / 2
    end = high + straight * np.sin(arms.elevation)
    lengths = [getattr(arms, name) for name in ("aside", "width", "rounding", "first", "run")]
    return np.column_stack([arms.reach, arc, straight, high, end, *lengths])


def _kinds(arms: PlateArms, features: Array, tolerance: float) -> Index:
    """Kinds (k,) from 1 in the order in which they come."""
    counts = np.diff(arms.offsets)
    out, made = np.zeros(arms.count, np.int32), 0
    groups = np.column_stack([counts, arms.thickness])
    for group in np.unique(groups, axis=0):
        rows = np.flatnonzero((groups == group).all(axis=1))
        at = arms.offsets[rows][:, None] + np.arange(int(group[0]))
        types, found = type_numbers(features[at], tolerance)
        out[rows] = types + made
        made += found
    return in_order(out)


def _rows_of(kind: Index) -> list[NDArray[np.int64]]:
    """The plates of each kind."""
    order = np.argsort(kind, kind="stable")
    return np.split(order, np.flatnonzero(np.diff(kind[order])) + 1)


def _in_step(features: Array, arms: PlateArms, rows: NDArray[np.int64]) -> NDArray[np.int64]:
    """The arms (m, a) of plates of a kind, each from the one on that is most like the first of the
    first plate."""
    around = np.arange(int(arms.offsets[rows[0] + 1] - arms.offsets[rows[0]]))
    at = arms.offsets[rows][:, None] + around
    own = features[at]
    off = [((np.roll(own, -turn, axis=1) - own[0]) ** 2).sum(axis=(1, 2)) for turn in around]
    turn = np.argmin(off, axis=0)
    return np.take_along_axis(at, (turn[:, None] + around) % len(around), axis=1)


def _formed(arms: PlateArms, groups: list[NDArray[np.int64]]) -> PlateArms:
    """Arms of each group (m, a) of the mean form of these, in frames of their own plates."""
    new = {name: getattr(arms, name).copy() for name in (*MEANT, "start", "angle", "way")}
    straight = arms.stop - arms.start
    is_new = np.zeros(len(arms.plate), bool)
    for own in groups:
        for name in MEANT:
            new[name][own] = getattr(arms, name)[own].mean(axis=0)
        new["start"][own] = arms.stop[own] - straight[own].mean(axis=0)
        angle = arms.angle[own].mean(axis=0)
        turn = np.concatenate([[0.0], np.cumsum(angle)[:-1]])
        new["angle"][own] = angle
        new["way"][own] = np.column_stack([np.cos(turn), np.sin(turn)])
        is_new[own] = True
    formed = replace(arms, **new)
    # No arm is folded before its corners, which are where the mean form has them.
    least = touches(formed) + arms.thickness[arms.plate]
    first = np.where(is_new, np.maximum(formed.first, least), arms.first)
    corner = np.where(is_new[:, None], corners_of(formed), arms.corner)
    return replace(formed, first=first, corner=corner)


def _laid(arms: PlateArms, formed: PlateArms, groups: list[NDArray[np.int64]]) -> PlateArms:
    """The ``formed`` arms in the frames in which they are nearest to the axes that ``arms`` are on:
    rigid motions by least squares (Kabsch, 1976)."""
    middles, frames = arms.middles.copy(), arms.frames.copy()
    wanted = _on_axes(formed, arms)
    for own in groups:
        if len(own) == 1:
            continue
        plate = arms.plate[own[:, 0]]
        tip = TIP * arms.reach[own].mean()
        turn = np.array([[0.0, 0.0, tip], [0.0, 0.0, -tip]])
        local = np.concatenate([_local(formed)[own[0]].reshape(-1, 3), turn])
        middle = arms.middles[plate][:, None]
        sides = middle + turn @ arms.frames[plate]
        places = np.concatenate([wanted[own].reshape(len(own), -1, 3), sides], axis=1)
        centre, about = places.mean(axis=1), local.mean(axis=0)
        both = np.einsum("qi,mqj->mij", local - about, places - centre[:, None])
        left, _, right = np.linalg.svd(both)
        left[:, :, 2] *= np.linalg.det(left @ right)[:, None]
        frames[plate] = left @ right
        middles[plate] = centre - about @ frames[plate]
    return replace(formed, middles=middles, frames=frames)


def _local(arms: PlateArms) -> Array:
    """The middles (n, 2, 3) of arms at their second folds and at their ends, in the frames of their
    plates."""
    high = arms.run * np.tan(arms.slant)
    fold = np.column_stack([arms.first + arms.run, arms.aside, high])
    straight = arms.stop - arms.start
    beyond = np.column_stack([np.cos(arms.elevation), np.sin(arms.elevation)]) * straight[:, None]
    end = fold.copy()
    end[:, [0, 2]] += beyond
    way = arms.way
    axes = np.stack([way, way[:, ::-1] * [-1.0, 1.0]], axis=1)
    plan = np.einsum("nki,nij->nkj", np.stack([fold, end], axis=1)[:, :, :2], axes)
    return np.concatenate([plan, np.stack([fold, end], axis=1)[:, :, 2:]], axis=2)


def _on_arms(arms: PlateArms) -> Array:
    """Where (n, 2, 3) arms begin and end on axes, in metres."""
    every = np.repeat(arms.plate, 2)
    return arms.placed(every, _local(arms).reshape(-1, 3)).reshape(-1, 2, 3)


def _on_axes(formed: PlateArms, arms: PlateArms) -> Array:
    """Where (n, 2, 3) axes are at which ``formed`` arms are to begin and end, by the ``arms`` that
    are on them."""
    begins, ends = np.moveaxis(_on_arms(arms), 1, 0)
    ways = (ends - begins) / (arms.stop - arms.start)[:, None]
    back = (formed.stop - formed.start)[:, None] * ways
    return np.stack([ends - back, ends], axis=1)
