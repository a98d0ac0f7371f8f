"""The clause that cuts nets into strips: what it says, refuses and hands on."""

from __future__ import annotations

import pytest

from leanlattice.clauses import strips
from leanlattice.exchange.kinds import KINDS

from .test_lattice_clauses import clauses, outcomes

VAULT = ("barrel", {"span": 6, "rise": 2, "length": 5})
QUADS = ("pattern", {"pattern": "quads", "bays_across": 10, "bays_along": 5})


def made(*rows):
    return list(outcomes(clauses(*rows)).values())


def test_strips_are_told_with_their_folds_tabs_and_how_well_they_fold_up():
    *_, cut, sheets = made(VAULT, QUADS, ("strips", {}), ("set-out", {"width": 3000}))
    assert cut.status == sheets.status == "done", (cut.error, sheets.error)
    figures = {name: figure.value for name, figure in cut.figures.items()}
    assert figures["strips"] == cut.result.count
    assert figures["strip_holes"] == len(cut.result.flaps.holes) > 0
    # Between bays of a barrel of ten chords, but for where strips are parted.
    assert figures["strip_folds"] == cut.result.folds.within.sum()
    assert figures["rebuilt"] < 0.1
    assert not cut.warnings
    assert sheets.result.made[0].of == "strip"


def test_fabric_is_cut_smaller_and_set_out_as_it_is_cut():
    values = {"material": "PVC", "joint": "flaps", "size": "smaller", "shorter": 3, "narrower": 0}
    *_, full, _ = made(VAULT, QUADS, ("strips", values | {"size": "full"}), ("set-out", {}))
    *_, metal = made(VAULT, QUADS, ("strips", {}), ("set-out", {"width": 3000}))
    *_, cut, sheets = made(VAULT, QUADS, ("strips", values), ("set-out", {}))
    assert "cut smaller by 3 % along and 0 % across them" in cut.sentence
    assert cut.figures["strip_folds"].value == 0
    share = cut.figures["strip_area"].value / full.figures["strip_area"].value
    # Flaps are as deep as they were.
    assert 0.97 < share < 0.975
    assert {part.material for part in sheets.result.layout.parts} == {"PVC"}
    # The sheets screen tells what score lines mean where there are some.
    scored = [KINDS["Sheets"].drawing(o.result)[0]["scored"] for o in (metal, sheets)]
    assert (any(scored[0]), any(scored[1])) == (True, False)


def test_angles_of_folds_are_written_where_they_are_asked_for():
    listed, written = (
        made(VAULT, QUADS, ("strips", {"angles": angles}))[-1].result
        for angles in ("listed", "written")
    )
    for one, other in zip(listed.parts, written.parts, strict=True):
        for before, after in zip(one.marks, other.marks, strict=False):
            assert (before == after).all()
    more = sum(len(p.marks) for p in written.parts) - sum(len(p.marks) for p in listed.parts)
    assert more > listed.folds.scored.sum()


@pytest.mark.parametrize(
    ("values", "value", "told"),
    [
        ({"along": "loops"}, "along", "lie round in loops"),
        ({"deep": 10, "diameter": 6}, "deep", "14.4 mm or more works"),
        ({"width": 40}, "width", "more than 50 mm works"),
        ({"size": "smaller"}, "joint", "flaps without holes, or edges alone, work"),
    ],
)
def test_what_cannot_be_cut_is_told_with_what_would_work(values, value, told):
    *_, cut = made(VAULT, QUADS, ("strips", values))
    assert cut.status == "failed"
    assert told in cut.error
    assert cut.error_value == value


def test_too_many_cells_are_refused_before_they_are_cut(monkeypatch):
    monkeypatch.setattr(strips, "MOST_BY_SEAMS", 40)
    *_, cut = made(VAULT, QUADS, ("strips", {"along": "least"}))
    assert "at most 40" in cut.error
    *_, cut = made(VAULT, QUADS, ("strips", {}))
    assert cut.status == "done"


def test_too_many_holes_are_refused_before_they_are_drawn():
    *_, cut = made(("dome", {"span": 900, "rise": 300}), QUADS, ("strips", {}))
    assert "at most 60,000 can be worked with. Holes further apart, or none, would" in cut.error
    assert cut.error_value == "every"


def test_strips_that_are_too_large_and_seams_without_room_are_listed_with_their_places():
    *_, cut = made(VAULT, QUADS, ("strips", {"length": 800, "width": 500}))
    large = next(w for w in cut.warnings if w.value == "width")
    assert "larger than 800 × 500 mm" in large.text
    assert large.of == "strip"
    assert len(large.which) == cut.result.count
    assert large.at is not None
    fine = ("pattern", {"pattern": "quads", "bays_across": 200, "bays_along": 5})
    *_, cut = made(VAULT, fine, ("strips", {"along": "ends", "diameter": 9}))
    bare = next(w for w in cut.warnings if w.value == "diameter")
    assert "no room for a hole 9 mm wide, as of ST" in bare.text
    *_, plain = made(VAULT, fine, ("strips", {"along": "ends", "joint": "flaps"}))
    assert not [w for w in plain.warnings if w.value == "diameter"]


def test_strips_without_tabs_have_bare_edges():
    *_, cut = made(VAULT, QUADS, ("strips", {"joint": "none"}))
    assert not len(cut.result.flaps.half)
    assert cut.figures["strip_flaps"].value == 0
    assert all(not part.inner for part in cut.result.parts)
