"""The quick part of the soak test; the whole is ``make soak``."""

from __future__ import annotations

import pytest

from leanlattice.exchange.readers import open_brought
from leanlattice.statement.document import ClauseEntry, Statement
from leanlattice.statement.evaluate import ResultCache, evaluate

from . import hostile, trials


def test_kills_lose_nothing(tmp_path):
    found = trials.kills(tmp_path, 2)
    assert found.held, found


def test_hostile_requests_get_an_answer_in_words(tmp_path):
    found = trials.requests(tmp_path, 250)
    assert found.held, found


def test_files_that_are_spoiled_were_well_before():
    for name, kind, content in hostile.well():
        entry = ClauseEntry(id="a", kind=kind, values={"file": ["0" * 64, name]})

        def read(wanted, digest, name, content=content):
            return open_brought(wanted, name, content)

        statement = Statement(clauses=[entry])
        (found,) = {o.id: o for o in evaluate(statement, ResultCache(), open_file=read)}.values()
        assert found.status == "done", (name, found.error)


def test_hostile_files_stop_nothing_else(tmp_path):
    found = trials.files(tmp_path, 10, within=80)  # others are at work on the machine
    assert found.held, found


def test_people_at_work_get_results_while_workers_are_killed(tmp_path):
    for found in trials.people(tmp_path, 4, 8, 4):
        assert found.held, found


def test_a_full_disk_loses_nothing(tmp_path):
    found = trials.full_disk(tmp_path, 1)
    if found.held is None:
        pytest.skip(found.found)
    assert found.held, found
