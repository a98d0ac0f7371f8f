"""Parts that are folded: what their tables have alike, and the table of their folds."""

from __future__ import annotations

from collections.abc import Sequence
from typing import Any

import numpy as np
import shapely
from numpy.typing import NDArray

from ...core.flat.folds import Folds
from ...core.flat.parts import Part
from ...core.flat.sheets import narrowest_turn
from ..subjects import Subject
from ..tables import Table, rounded
from .kind import Schedule

__all__ = ["FOLDS", "folded_columns", "largest_folds"]

Array = NDArray[np.float64]
SIDES = {1: "away", -1: "towards", 0: "flat"}
"""Which way a fold goes from the outside."""


def folded_columns(folds: Folds, parts: Sequence[Part]) -> dict[str, list[Any]]:
    """Columns of ``parts`` (n) with their sizes, folds, holes and what they are of."""
    length, width = _sizes(parts)
    count = np.bincount(folds.part[folds.within], minlength=len(parts))
    return {
        "length_mm": rounded(length, 3),
        "width_mm": rounded(width, 3),
        "folds": count.tolist(),
        "largest_fold_deg": rounded(largest_folds(folds, len(parts)), 4),
        "holes": [len(part.inner) for part in parts],
        "area_m2": rounded(np.array([part.area for part in parts]) / 1e6, 6),
        "material": [part.material for part in parts],
        "thickness_mm": [round(part.thickness, 3) for part in parts],
    }


def largest_folds(folds: Folds, count: int) -> Array:
    """The largest fold of each of ``count`` parts, in degrees; 0 where there is none."""
    out = np.zeros(count)
    np.maximum.at(out, folds.part[folds.within], np.abs(folds.turns[folds.within]))
    return out


def _sizes(parts: Sequence[Part]) -> tuple[Array, Array]:
    """How far apart the farthest corners of outlines (S,) are, and how wide they are where they
    are narrowest (S,), in mm."""
    length, width = np.empty(len(parts)), np.empty(len(parts))
    for k, part in enumerate(parts):
        hull = shapely.get_coordinates(shapely.convex_hull(shapely.MultiPoint(part.outer)))
        length[k] = np.linalg.norm(hull[:, None] - hull, axis=2).max()
        turn = narrowest_turn(part.outer)
        width[k] = np.ptp(np.sin(turn) * hull[:, 0] + np.cos(turn) * hull[:, 1])
    return length, width


def _folds(subject: Subject) -> Table | None:
    """Where parts are folded and flaps begin, from the lower left corners of the drawings in
    ``parts/``: first within a part, of which the first has on its right what poses.csv stands,
    then flaps, which are on the right of their folds."""
    folds: Folds = subject.result.folds
    parts: Sequence[Part] = subject.result.parts
    piece = folds.part
    if not len(piece):
        return None
    low = np.array([part.outer.min(axis=0) for part in parts])[piece]
    ends = (folds.ends * 1000 - low[:, None]).transpose(1, 0, 2)
    number = np.arange(len(piece)) - np.searchsorted(piece, piece) + 1
    labels = np.array([*(part.label for part in parts), ""])
    columns: dict[str, list[Any]] = {
        "part": labels[piece].tolist(),
        "fold": number.tolist(),
        "side": [SIDES[int(sign)] for sign in np.sign(folds.turns)],
        "angle_deg": rounded(np.abs(folds.turns), 4),
        "scored": np.where(folds.scored, "yes", "no").tolist(),
        "flap_on": labels[folds.meets].tolist(),
    }
    for name, places in zip(("from", "to"), ends, strict=True):
        columns |= {f"{name}_{a}_mm": rounded(places[:, k], 4) for k, a in enumerate("xy")}
    return Table(parts[0].kind, columns, piece.tolist())


FOLDS = Schedule("folds", _folds, "Folds", empty="strips or node plates that are folded")
