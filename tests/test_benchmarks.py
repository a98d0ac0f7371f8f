"""The table of speed ratios can be worked out; what is no matter of time is held to its limit here."""

from __future__ import annotations

import importlib
from pathlib import Path

import pytest

from benchmarks.table import bytes_sent

MODULES = [p.stem for p in (Path(__file__).parents[1] / "benchmarks").glob("[a-z]*.py")]


@pytest.mark.parametrize("name", MODULES)
def test_a_module_finds_all_it_measures(name):
    importlib.import_module(f"benchmarks.{name}")


def test_a_structure_is_shown_by_little_more_than_its_places():
    (row,) = bytes_sent()
    assert 1.0 < row.share <= row.limit
