"""Drawings that values are shown in: of values there are, and drawn by the interface."""

from __future__ import annotations

import re
from pathlib import Path

import pytest

from leanlattice.clauses.registry import CLAUSE_TYPES

SOURCE = Path(__file__).parents[2] / "frontend" / "src" / "workbench" / "sketches.ts"
DRAWN = {
    name: set(re.findall(r"^      (\w+): \{ d:", body, re.M))
    for name, body in re.findall(
        r"^  (\w+): \{\n    title(.*?)^  \},", SOURCE.read_text(encoding="utf-8"), re.M | re.S
    )
}
SKETCHED = [kind for kind in CLAUSE_TYPES.values() if kind.sketches]


def test_every_drawing_is_of_some_clause():
    assert {name for kind in SKETCHED for name in kind.sketches} == set(DRAWN)


@pytest.mark.parametrize("kind", SKETCHED, ids=lambda kind: kind.kind)
def test_values_are_drawn_that_there_are(kind):
    for name, values in kind.sketches.items():
        assert set(values) <= DRAWN[name]
        assert set(values) <= set(kind.specs())
        assert all(kind.specs()[value].kind == "number" for value in values)
