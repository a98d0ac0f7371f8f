"""Hubs in STEP: exact, one of each kind, as large as they are told."""

from __future__ import annotations

import re

import numpy as np
import pytest

from leanlattice.exchange import step_hubs
from leanlattice.exchange.readers.step import measured_step

from ..clauses.test_hubs import GRID, QUADS, ROOF
from ..clauses.test_node_plates import made

CROWDED = ("pattern", {"pattern": "triangles", "density": "module", "module": 2.5})


@pytest.mark.parametrize(
    "values", [{"bolt": "M12", "made": "alike", "tolerance": 20}, {"joint": "hollow"}]
)
@pytest.mark.parametrize("net", [QUADS, CROWDED])
def test_one_hub_of_each_kind_is_written_in_its_exact_form(tmp_path, net, values):
    *_, last = made(ROOF, net, GRID, ("hubs", values))
    hubs = last.result
    step_hubs.write_hubs(tmp_path / "hubs.step", [hubs])
    content = (tmp_path / "hubs.step").read_bytes()
    _, first = np.unique(hubs.kind_of, return_index=True)
    assert set(re.findall(rb"PRODUCT\s*\(\s*'([^']*)'", content)) == {
        hubs.labels[k].encode() for k in first
    }
    volume = hubs.masses[first].sum() / 7850
    assert measured_step(content).volume == pytest.approx(volume, rel=1e-6)
    # A ball, seats, walls and floors of holes: no facets.
    assert b"SPHERICAL_SURFACE" in content
    seats = int(np.diff(hubs.seats.offsets)[first].sum())
    assert content.count(b"PLANE(") == seats * (2 if hubs.making.hole else 1)


def test_more_kinds_than_can_be_waited_for_are_not_written(tmp_path, monkeypatch):
    monkeypatch.setattr(step_hubs, "MOST_KINDS", 3)
    *_, last = made(ROOF, QUADS, GRID, ("hubs", {}))
    step_hubs.write_hubs(tmp_path / "hubs.step", [last.result])
    assert not (tmp_path / "hubs.step").exists()
