"""Worker processes: what happens when one dies, hangs, or is not wanted any more."""

from __future__ import annotations

import asyncio
import os
import signal
import tempfile
import time
from pathlib import Path

from leanlattice.api.jobs import Evaluate, MakeTable
from leanlattice.api.pool import PATIENCE, Pool
from leanlattice.statement.document import ClauseEntry, Statement

from ..conftest import demo

SMALL = demo("ferry-shelter").text()


def large(bays: int = 120) -> str:
    kinds = ("loft", "pattern", "frame", "panels", "label", "sheets")
    values = {"pattern": {"bays_across": bays, "bays_along": bays}}
    return Statement(
        clauses=[ClauseEntry(id=k, kind=k, values=values.get(k, {})) for k in kinds]
    ).text()


def on_a_pool(size, story):
    """Runs ``story(pool)`` in an event loop with a pool of its own."""

    async def main():
        pool = Pool(size, Path(tempfile.mkdtemp()))
        try:
            return await asyncio.wait_for(story(pool), 120)
        finally:
            pool.close()

    return asyncio.run(main())


def listener():
    heard = []
    return heard, lambda kind, what: heard.append((kind, what))


async def until(test, seconds=60.0):
    deadline = time.monotonic() + seconds
    while not test():
        assert time.monotonic() < deadline, "it did not come to that"
        await asyncio.sleep(0.01)


def test_a_worker_that_dies_is_replaced_and_its_job_told():
    async def story(pool):
        heard, hear = listener()
        ticket = pool.submit("p", Evaluate(large()), hear)
        await until(lambda: any(kind == "outcome" for kind, _ in heard))
        os.kill(pool._workers[0].process.pid, signal.SIGKILL)
        kind, text = await ticket.finished
        assert kind == "failed"
        assert "ended unexpectedly" in text
        # The next job finds a fresh worker.
        kind, tables = await pool.submit("p", MakeTable(SMALL, "members")).finished
        assert kind == "done"
        assert len(tables[0].index) == 168

    on_a_pool(1, story)


def test_a_cancelled_job_says_no_more_and_makes_room():
    async def story(pool):
        heard, hear = listener()
        ticket = pool.submit("p", Evaluate(large()), hear)
        await until(lambda: any(kind == "progress" for kind, _ in heard))
        count = len(heard)
        started = time.monotonic()
        pool.cancel("p", ticket)
        kind, *_ = await pool.submit("p", MakeTable(SMALL, "nodes")).finished
        assert kind == "done"
        assert time.monotonic() - started < PATIENCE + 10
        assert len(heard) == count, "nothing more is heard of it"
        assert (await ticket.finished)[0] == "cancelled"

    on_a_pool(1, story)


def test_a_worker_that_does_not_stop_is_ended():
    async def story(pool):
        heard, hear = listener()
        ticket = pool.submit("p", Evaluate(large()), hear)
        await until(lambda: any(kind == "progress" for kind, _ in heard))
        stuck = pool._workers[0].process
        os.kill(stuck.pid, signal.SIGSTOP)  # it can hear nothing now
        pool.cancel("p", ticket)
        await until(lambda: not stuck.is_alive(), PATIENCE + 10)
        assert (await pool.submit("p", MakeTable(SMALL, "nodes")).finished)[0] == "done"

    on_a_pool(1, story)


def test_a_queued_job_that_is_cancelled_never_runs():
    async def story(pool):
        first = pool.submit("p", MakeTable(SMALL, "members"))
        heard, hear = listener()
        second = pool.submit("p", MakeTable(SMALL, "nodes"), hear)
        pool.cancel("p", second)
        assert (await first.finished)[0] == "done"
        assert (await second.finished)[0] == "cancelled"
        assert not heard

    on_a_pool(1, story)


def test_faults_in_a_job_are_told_and_the_worker_lives_on():
    async def story(pool):
        worker = pool._workers[0].process
        kind, text = await pool.submit("p", MakeTable("{", "members")).finished
        assert kind == "failed"
        assert "StatementError" in text
        kind, text = await pool.submit("p", MakeTable(SMALL, "wishes")).finished
        assert kind == "failed"
        assert pool._workers[0].process is worker
        assert worker.is_alive()

    on_a_pool(1, story)
