"""Members in straight pieces."""

from __future__ import annotations

import numpy as np
import pytest

from leanlattice.core.structure.pieces import pieces_of

from ..known import approx, known
from . import structures
from .structures import structure


@known("a member through three nodes", "cut where its saw cuts are, beyond its first piece too")
def test_pieces_end_at_the_saw_cuts():
    places = [(0, 0, 0), (1, 0, 0), (1, 2, 0), (5, 5, 5)]
    one = structure(
        places,
        [
            {"path": [0, 1, 2], "set_back": (1.25, 0.5), "offset": (0, 0, 0.1)},
            {"path": [2, 3]},
        ],
    )
    pieces = pieces_of(one)
    assert pieces.member.tolist() == [0, 0, 1]
    assert pieces.set_back == approx(np.array([[1, 0], [0.25, 0.5], [0, 0]]), abs=1e-12)
    middle = pieces.places[pieces.ends[0]].mean(axis=0)
    assert middle == approx([0.5, 0, 0.1], abs=1e-12)


@pytest.mark.parametrize(
    "build", [structures.arch, structures.diagrid, structures.weave, structures.truss]
)
def test_what_is_left_of_pieces_is_as_long_as_what_is_cut(build):
    made = build()
    pieces = pieces_of(made)
    ways = pieces.places[pieces.ends[:, 1]] - pieces.places[pieces.ends[:, 0]]
    left = np.linalg.norm(ways, axis=1) - pieces.set_back.sum(axis=1)
    sums = np.bincount(pieces.member, left, minlength=made.count)
    # Chords of six degrees are a two-thousandth shorter than their arcs.
    assert sums == pytest.approx(made.cut_lengths, rel=5e-4)
    assert (np.diff(pieces.member) >= 0).all()
