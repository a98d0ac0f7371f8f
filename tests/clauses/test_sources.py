"""Sources that are told of clauses: of clauses there are, and told by the code that follows them."""

from __future__ import annotations

import re
from pathlib import Path

import pytest

import leanlattice
from leanlattice.clauses.registry import CLAUSE_TYPES
from leanlattice.clauses.sources import SOURCES

CODE = " ".join(
    re.sub(r"\s+", " ", path.read_text(encoding="utf-8"))
    for path in sorted((Path(leanlattice.__file__).parent / "core").rglob("*.py"))
)


def test_sources_are_told_of_clauses_that_there_are():
    assert set(SOURCES) <= set(CLAUSE_TYPES)


@pytest.mark.parametrize("source", sorted({line for told in SOURCES.values() for line in told}))
def test_what_is_told_is_what_the_code_follows(source):
    """Each part says what is done, and by whom: a standard, or authors with the year."""
    for part in source.split("; "):
        who = part.split(": ")[-1]
        standard = re.match(r"EN \d{4}[-\d]*", who)
        if standard:
            assert standard[0] in CODE
            continue
        author = re.match(r"[\w-]+", who)
        year = re.search(r"\b\d{4}\b", who)
        assert author, part
        assert year, part
        assert re.search(rf"{author[0]}\b.{{0,120}}?{year[0]}", CODE), part
