"""Clauses of chapter Frame: what the sentence asks for, and what is told where it cannot be had."""

from __future__ import annotations

import numpy as np
import pytest

from leanlattice.core.structure.roles import role_number

from .test_lattice_clauses import clauses, made, outcomes

QUADS = ("pattern", {"pattern": "quads", "bays_across": 16, "bays_along": 6})
HEXAGONS = ("pattern", {"pattern": "hexagons", "density": "module", "module": 1})


def members_of_more_pieces(structure):
    return int(np.count_nonzero(np.diff(structure.offsets) > 2))


def test_members_run_through_nodes_the_way_that_is_chosen():
    rows = [("barrel", {}), QUADS]
    each, first, second = (
        made(*rows, ("frame", {"through": way})) for way in ("none", "first", "second")
    )
    assert members_of_more_pieces(each.result) == 0
    runs = [members_of_more_pieces(o.result) for o in (first, second)]
    assert sorted(runs) == [6 - 1, 16 - 1]
    assert [o.warnings for o in (first, second)] == [(), ()]
    # The same edges, the same metres, fewer pieces.
    for o in (first, second):
        assert o.result.lengths.sum() == pytest.approx(each.result.lengths.sum(), rel=1e-12)
        assert o.result.count < each.result.count
        inner = o.result.role != role_number("edge")
        assert set(o.result.role[inner].tolist()) == {role_number("grid")}


@pytest.mark.parametrize(
    ("rows", "way", "code"),
    [
        ([("barrel", {}), QUADS], "third", "runs on fewer ways"),
        ([("barrel", {}), HEXAGONS], "first", "runs on nowhere"),
        ([("barrel", {}), QUADS, ("weave", {})], "second", "runs on anyway"),
    ],
)
def test_a_way_that_is_not_there_is_told_with_a_remedy(rows, way, code):
    found = made(*rows, ("frame", {"through": way, "meeting": "apart"}))
    (told,) = [w for w in found.warnings if w.value == "through"]
    assert told.code == code
    (remedy,) = told.remedies
    again = made(*rows, ("frame", {"through": way, "meeting": "apart"} | remedy.values))
    assert "through" not in {w.value for w in again.warnings}


def test_laths_that_meet_others_at_a_small_angle_are_told_and_can_be_held_apart():
    trihexagons = {
        "pattern": "trihexagons",
        "bays_across": 12,
        "bays_along": 12,
        "spread": "plan",
    }
    laths = {"inner": "GL24h 140x60", "border": "GL24h 140x60"}
    woven = [("dome", {}), ("pattern", trihexagons), ("weave", {"width": 140, "thickness": 60})]
    welded = made(*woven, ("frame", laths))
    (notice,) = (w for w in welded.warnings if w.code == "cuts overrun")
    assert len(notice.which) > 1
    (remedy,) = notice.remedies
    apart = made(*woven, ("frame", laths | remedy.values))
    assert not any(w.code == "cuts overrun" for w in apart.warnings)
    (held,) = (w for w in apart.warnings if w.code == "held past bends")
    assert set(held.which) < set(range(apart.result.count))


def test_edges_without_length_are_refused_with_what_merges_them():
    ugly = [("loft", {}), ("pattern", {"bays_across": 4, "bays_along": 4}), ("reciprocal", {})]
    ugly.append(("truncate", {"times": 5}))
    refused = list(outcomes(clauses(*ugly, ("frame", {}))).values())[-1]
    assert refused.status == "failed"
    assert refused.error_code == "edges without length"
    (remedy,) = refused.remedies
    mended = made(*ugly, (remedy.kind, remedy.values), ("frame", {}))
    assert mended.status == "done"
