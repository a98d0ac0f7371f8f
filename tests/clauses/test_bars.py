"""Members cut from stock bars: figures, several lengths, and what is too long."""

from __future__ import annotations

import numpy as np
import pytest

from leanlattice.exchange.check import check_pack
from leanlattice.exchange.groups import GROUPS
from leanlattice.exchange.pack import write_pack

from .test_lattice_clauses import clauses, outcomes

FRAME = (
    ("barrel", {"span": 8, "rise": 3, "length": 10}),
    ("pattern", {"bays_across": 6, "bays_along": 6}),
    ("frame", {}),
)


def planned(**values):
    *_, found = outcomes(clauses(*FRAME, ("bars", values))).values()
    assert found.status == "done", found.error
    return found


def test_figures_tell_what_is_bought_and_that_less_may_not_do():
    found = planned()
    plan, told = found.result, {name: f.value for name, f in found.figures.items()}
    members = plan.structure.cut_lengths.sum()
    assert told["bought"] == pytest.approx(12 * told["bars"])
    assert members <= told["least"] <= told["bought"]
    assert told["bars_used"] == pytest.approx(100 * members / told["bought"])
    # What is no member and no cut, is an offcut.
    cuts = np.bincount(plan.bar, plan.structure.cut_lengths + plan.kerf)
    assert plan.offcuts == pytest.approx(np.maximum(plan.lengths - cuts, 0))
    none = planned(offcut=12).figures
    assert none["kept"].value == 0
    assert none["kept_length"].value == 0


def test_a_search_and_more_lengths_take_no_more():
    one = planned().figures["bought"].value
    best = planned(search="best").figures
    assert best["least"].value <= best["bought"].value <= one
    two = planned(lengths="two", second=6, search="best")
    assert two.figures["bought"].value <= one
    assert set(two.result.lengths) <= {6.0, 12.0}


def test_members_longer_than_all_bars_are_told_with_the_longest_of_these():
    found = planned(stock=1.0, lengths="two", second=1.2)
    long = found.result.structure.cut_lengths > 1.2
    assert (found.result.bar[long] < 0).all()
    assert (found.result.bar[~long] >= 0).all()
    (notice,) = found.warnings
    assert "longer than a bar of 1.2 m" in notice.text


def test_a_saw_list_tells_each_bar_as_its_members_are(tmp_path):
    statement = clauses(*FRAME, ("bars", {"lengths": "two", "second": 5, "search": "best"}))
    found = list(outcomes(statement).values())
    written = write_pack(tmp_path, statement, found, set(GROUPS))
    assert not written.wrong
    told = {f.check for f in check_pack(tmp_path)}
    assert "saw list against stock bars" in told
    rows = (tmp_path / "saw_list.csv").read_text().splitlines()
    assert len(rows) == 1 + found[-1].figures["bars"].value
