"""Statements that once showed mistakes, evaluated once and written out once for all tests that look at them."""

from __future__ import annotations

from functools import cache
from pathlib import Path

import pytest

from leanlattice.exchange.pack import write_pack
from leanlattice.statement.document import Statement
from leanlattice.statement.evaluate import Outcome, ResultCache, evaluate
from leanlattice.statement.upgrade import read_upgraded

STATEMENTS = Path(__file__).parent / "statements"


def statement_of(name: str) -> Statement:
    return read_upgraded((STATEMENTS / f"{name}.json").read_bytes())


@cache
def outcomes_of(name: str) -> dict[str, Outcome]:
    return {o.id: o for o in evaluate(statement_of(name), ResultCache())}


@pytest.fixture
def outcomes():
    """Outcomes by clause of a statement by name."""
    return outcomes_of


@pytest.fixture(scope="session")
def pack(tmp_path_factory):
    """The folder of a statement's pack, with what its check found."""

    @cache
    def of(name: str):
        folder = tmp_path_factory.mktemp(name)
        return folder, write_pack(folder, statement_of(name), list(outcomes_of(name).values()))

    return of
