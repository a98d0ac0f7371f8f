"""The table of known answers lists every test that is marked as one, and tells what was measured."""

from __future__ import annotations

import ast
from pathlib import Path

import pytest

from .known import TABLE, Row, approx, differences, held_to, measured, written

TESTS = Path(__file__).resolve().parent


def marked():
    """Tests marked as known, by path and name, with case and answer."""
    out = {}
    for path in sorted(TESTS.rglob("test_*.py")):
        for item in ast.walk(ast.parse(path.read_text())):
            for mark in getattr(item, "decorator_list", []):
                if isinstance(mark, ast.Call) and getattr(mark.func, "id", "") == "known":
                    name = f"{path.relative_to(TESTS.parent).as_posix()}::{item.name}"
                    out[name] = tuple(ast.literal_eval(a) for a in mark.args)
    return out


def test_every_known_answer_is_listed_and_nothing_else():
    rows = [line.split("|") for line in TABLE.read_text().splitlines() if "::test_" in line]
    listed = {r[4].strip(" `"): (r[1].strip(), r[2].strip()) for r in rows}
    assert listed == marked()


def test_a_figure_that_is_worse_or_held_to_another_limit_is_told(tmp_path, monkeypatch):
    rows = [Row("a ball", "round", "tests/a.py::test_ball", {1e-9: 3e-12, 1e-3: 4e-4})]
    monkeypatch.setattr("tests.known.TABLE", tmp_path / "table.md")
    (tmp_path / "table.md").write_text(written(rows))
    assert differences(rows) == []
    better = [Row("a ball", "round", "tests/a.py::test_ball", {1e-9: 1e-15, 1e-3: 5e-4})]
    assert differences(better) == []
    for worst in (
        {1e-9: 3e-12, 1e-3: 9e-4},
        {1e-9: 3e-12, 1e-2: 4e-4},
        {1e-9: 5e-10, 1e-3: 4e-4},
        {},
    ):
        assert differences([Row("a ball", "round", "tests/a.py::test_ball", worst)]), worst
    assert differences([Row("a ball", "square", "tests/a.py::test_ball", rows[0].worst)])
    assert differences([Row("a cube", "square", "tests/a.py::test_cube", {})])


def test_what_is_compared_is_measured():
    measured.clear()
    assert approx(1.0, rel=1e-2) == 1.001
    assert approx([2.0, 3.0005], abs=1e-3) == [2.0, 3.0]
    held_to([0.0, -0.02], 0.1)
    assert measured == pytest.approx({1e-2: 1e-3, 1e-3: 5e-4, 0.1: 0.02})
    assert approx(1.0, rel=1e-2) != 1.1
    with pytest.raises(AssertionError, match="more than"):
        held_to(0.2, 0.1)
    measured.clear()
