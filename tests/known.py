"""Tests of known answers tell how far off they were, which docs/verification.md lists.

A test marked ``known`` is a row of that table. What it compares by ``approx`` or ``held_to`` is
measured: the worst of each limit is carried to the end of the run, where the table is compared
with it, or written anew by ``make verification``.
"""

from __future__ import annotations

import math
from collections.abc import Iterable
from dataclasses import dataclass
from pathlib import Path
from typing import Any

import numpy as np
import pytest

from .golden import section

TABLE = Path(__file__).resolve().parents[1] / "docs" / "verification.md"
HEAD = """# What the computation is held to

Closed forms and published values. `make test` measures every row and compares it with this table, which `make verification`
writes: the worst deviation that was found, of the largest that passes, as a share where the answer is a number and in the unit
of the answer otherwise. “As counted” is what is true or false, and is true.

| case | answer | worst of what passes | test |
|---|---|---|---|
"""
NOISE = 1000.0
"""What is so many times less than what passes is mostly rounding, which differs between machines,
and is not told in figures."""
MOST_LIMITS = 4
WORSE = 2.0
"""A deviation so many times the one that the table tells is another one."""

measured: dict[float, float] = {}
"""The worst deviation of each limit in the test that runs."""


def known(case: str, answer: str) -> Any:
    """Marks a test as a row of the table."""
    return pytest.mark.known(case=case, answer=answer)


def held_to(deviation: Any, limit: float) -> None:
    """Asserts that no deviation is more than the limit, and tells the worst."""
    every = np.atleast_1d(np.abs(np.asarray(deviation, float)))
    worst = float(every.max()) if every.size else 0.0
    _measured(limit, worst)
    assert worst <= limit, f"{worst:.3g} is more than {limit:g}"


def _measured(limit: Any, worst: float) -> None:
    # Plain numbers, which travel between processes.
    measured[float(limit)] = max(measured.get(float(limit), 0.0), worst)


class approx:  # noqa: N801 - stands for what it is named after
    """Compares as ``pytest.approx`` does, and tells by how much it was off: as a share of the
    answer, or in its unit where only ``abs`` is given."""

    __array_ufunc__ = None
    """Arrays leave the comparison to this."""

    def __init__(self, answer: Any, rel: float | None = None, abs: float | None = None) -> None:
        self.answer, self.rel, self.abs = answer, rel, abs

    def __eq__(self, other: object) -> bool:
        given, answer = np.asarray(other, float), np.asarray(self.answer, float)
        off = np.abs(given - answer)
        rel = self.rel if self.rel is not None or self.abs is not None else 1e-6
        if rel is None:
            limit, by = self.abs or 0.0, off
        else:
            size = np.abs(answer)
            small = size * rel <= (self.abs if self.abs is not None else 1e-12)
            limit, by = rel, np.where(small, 0.0, off / np.where(small, 1.0, size))
        _measured(limit, float(by.max()) if by.size else 0.0)
        return bool(other == pytest.approx(self.answer, rel=self.rel, abs=self.abs))

    __hash__ = None  # type: ignore[assignment]

    def __repr__(self) -> str:
        return repr(pytest.approx(self.answer, rel=self.rel, abs=self.abs))


@dataclass
class Row:
    """A row of the table: what it is about, where it is tested, and the worst of each limit."""

    case: str
    answer: str
    test: str
    worst: dict[float, float]

    def text(self) -> str:
        return f"| {self.case} | {self.answer} | {self.told()} | `{self.test}` |"

    def told(self) -> str:
        """The worst of each limit, or of all of them where they follow what was drawn by chance."""
        if not self.worst:
            return "as counted"
        if len(self.worst) > MOST_LIMITS:
            return f"{_rounded(max(v / k for k, v in self.worst.items() if k))} of limits that vary"
        return "; ".join(_told(v, k) for k, v in sorted(self.worst.items()))


def _rounded(value: float) -> str:
    """One digit, rounded up."""
    ten = 10 ** math.floor(math.log10(max(value, 1e-300)))
    return _short(math.ceil(value / ten - 1e-9) * ten)


def _short(value: float) -> str:
    return f"{value:.3g}".replace("e-0", "e-")


def _told(worst: float, limit: float) -> str:
    if worst * NOISE <= limit:
        return f"less than {_short(limit / NOISE)} of {_short(limit)}"
    return f"{_rounded(worst)} of {_short(limit)}"


def written(rows: Iterable[Row]) -> str:
    """The whole table; rows of tests that are there and were not run stay as they are."""
    lines = {row.test: row.text() for row in rows}
    for test, line in listed().items():
        path, _, name = test.partition("::")
        file = TABLE.parents[1] / path
        if test not in lines and file.is_file() and f"def {name}(" in file.read_text():
            lines[test] = line
    table = HEAD + "".join(f"{lines[test]}\n" for test in sorted(lines))
    return f"{table}\n{section.as_markdown()}"


def listed() -> dict[str, str]:
    """Lines of the table by test."""
    lines = TABLE.read_text().splitlines() if TABLE.is_file() else []
    return {x.split("|")[-2].strip(" `"): x for x in lines if x.startswith("| ") and "::" in x}


def differences(rows: Iterable[Row]) -> list[str]:
    """What of the table is no longer so, of rows that were measured."""
    lines, out = listed(), []
    for row in rows:
        line = lines.get(row.test)
        if line is None:
            out.append(f"{row.test} is not listed")
            continue
        case, answer, told = (c.strip() for c in line.strip("|").split("|")[:3])
        if (case, answer) != (row.case, row.answer):
            out.append(f"{row.test} is listed as “{case}: {answer}”")
        elif not _agrees(told, row.worst):
            out.append(f"{row.test}: {row.text().split('|')[3].strip()} is listed as {told}")
    return out


def _agrees(told: str, worst: dict[float, float]) -> bool:
    if told == "as counted":
        return not worst
    if told.endswith("of limits that vary"):
        share = max((v / k for k, v in worst.items() if k), default=0.0)
        return len(worst) > MOST_LIMITS and share <= max(WORSE * float(told.split()[0]), 10 / NOISE)
    limits = {}
    for piece in told.split("; "):
        value, _, limit = piece.partition(" of ")
        limits[limit] = 0.0 if value.startswith("less") else float(value)
    if set(limits) != {_short(k) for k in worst}:
        return False
    return all(v <= max(WORSE * limits[_short(k)], 10 * k / NOISE) for k, v in worst.items())


class Verification:
    """Carries what tests measured to the end of the run, from wherever they ran."""

    def __init__(self, config: pytest.Config) -> None:
        self.config = config
        self.rows: dict[str, Row] = {}
        self.wrong: list[str] = []

    @pytest.hookimpl(wrapper=True)
    def pytest_runtest_call(self, item: pytest.Item) -> Any:
        measured.clear()
        result = yield
        mark = item.get_closest_marker("known")
        if mark is not None:
            test = item.nodeid.partition("[")[0]
            item.user_properties.append(("known", [mark.kwargs, test, list(measured.items())]))
        return result

    def pytest_runtest_logreport(self, report: pytest.TestReport) -> None:
        if report.when != "call" or not report.passed:
            return
        for name, value in report.user_properties:
            if name == "known":
                told, test, worst = value
                row = self.rows.setdefault(test, Row(told["case"], told["answer"], test, {}))
                for limit, off in worst:
                    row.worst[limit] = max(row.worst.get(limit, 0.0), off)

    def pytest_sessionfinish(self, session: pytest.Session) -> None:
        if hasattr(self.config, "workerinput") or not self.rows:
            return
        if self.config.getoption("--write-verification"):
            TABLE.write_text(written(self.rows.values()), encoding="utf-8")
            return
        self.wrong = differences(self.rows.values())
        if self.wrong:
            session.exitstatus = 1

    def pytest_unconfigure(self) -> None:
        """Said last of all, below the counts, where whoever looks why a run failed looks first."""
        if self.wrong:
            print("\ndocs/verification.md is not what was measured; see “make verification”:")
            print("\n".join(self.wrong))
