"""Jobs are done from their first clause to their last file, and done again with an early value
changed: all that are not walked in the interface."""

from __future__ import annotations

import pytest

from leanlattice.exchange.groups import GROUPS
from leanlattice.exchange.pack import write_pack
from leanlattice.exchange.readers import open_brought
from leanlattice.statement.document import Statement
from leanlattice.statement.evaluate import ResultCache, evaluate

from ..jobs import JOBS, WALKED


def evaluated(statement, cache):
    def open_file(wanted, digest, name):
        return open_brought(wanted, name, statement.files[digest].bytes())

    return list(evaluate(statement, cache, open_file=open_file))


def changed(statement, ident, value, old, new) -> Statement:
    """The statement with a number of a clause, or else a dimension, that was ``old``."""
    plain = statement.model_dump()
    if ident:
        values = next(c["values"] for c in plain["clauses"] if c["id"] == ident)
        assert float(values.get(value, old)) == float(old)
        values[value] = float(new)
    else:
        dimension = next(d for d in plain["dimensions"] if d["name"] == value)
        assert float(dimension["value"]) == float(old)
        dimension["value"] = float(new)
    return Statement.model_validate(plain)


def figure(outcomes, name):
    return [o.figures[name] for o in outcomes if name in o.figures]


@pytest.mark.timeout(300)
@pytest.mark.parametrize("name", sorted(JOBS.keys() - WALKED))
def test_a_job_is_done_and_done_again_with_an_early_value_changed(tmp_path, name):
    job = JOBS[name]
    cache, first = ResultCache(), job.statement()
    second = changed(first, *job.early)
    before, after = evaluated(first, cache), evaluated(second, cache)
    for outcomes in (before, after):
        assert not [o for o in outcomes if o.status != "done"], [o.error for o in outcomes]
    assert figure(before, job.figure) != figure(after, job.figure)

    wanted = {k for k, g in GROUPS.items() if not g.on_request or g.title == job.asked}
    assert not job.asked or any(GROUPS[k].title == job.asked for k in wanted)
    pack = write_pack(tmp_path, second, after, wanted)
    assert len(pack.findings) > 5
    assert not pack.wrong, pack.wrong
    assert not pack.not_made
    for table in job.tables:
        assert (tmp_path / f"{table}.csv").read_text().count("\n") > 4, table
    assert not job.written or any(tmp_path.glob(job.written))
