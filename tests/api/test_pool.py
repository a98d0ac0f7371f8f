"""Worker processes: what happens when one dies, hangs, or is not wanted any more."""

from __future__ import annotations

import asyncio
import os
import signal
import tempfile
import threading
import time
from pathlib import Path

import pytest

from leanlattice.api.crew import PATIENCE
from leanlattice.api.jobs import Evaluate, MakeTable
from leanlattice.api.limits import Limits
from leanlattice.api.pool import Pool
from leanlattice.statement.document import ClauseEntry, Statement

from ..conftest import demo

SMALL = demo("ferry-shelter").text()


def large(bays: int = 120) -> str:
    kinds = ("loft", "pattern", "frame", "panels", "name", "set-out")
    values = {"pattern": {"bays_across": bays, "bays_along": bays}}
    return Statement(
        clauses=[ClauseEntry(id=k, kind=k, values=values.get(k, {})) for k in kinds]
    ).text()


def on_a_pool(size, story, **limits):
    """Runs ``story(pool)`` in an event loop with a pool of its own."""

    async def main():
        bounds = Limits(workers=size, **{"most": size, **limits})
        pool = Pool(bounds, Path(tempfile.mkdtemp()))
        try:
            return await asyncio.wait_for(story(pool), 120)
        finally:
            pool.close()

    return asyncio.run(main())


@pytest.fixture(scope="module")
def one():
    """Runs ``story(pool)`` with a pool of one worker that is shared by those who do not mind."""
    loop = asyncio.new_event_loop()
    thread = threading.Thread(target=loop.run_forever)
    thread.start()

    def done(work):
        return asyncio.run_coroutine_threadsafe(asyncio.wait_for(work, 120), loop).result()

    async def begun():
        return Pool(Limits(workers=1, most=1), Path(tempfile.mkdtemp()))

    async def ended(pool):
        pool.close()

    pool = done(begun())
    yield lambda story: done(story(pool))
    done(ended(pool))
    loop.call_soon_threadsafe(loop.stop)
    thread.join()
    loop.close()


def listener():
    heard = []
    return heard, lambda kind, what: heard.append((kind, what))


async def until(test, seconds=60.0):
    deadline = time.monotonic() + seconds
    while not test():
        assert time.monotonic() < deadline, "it did not come to that"
        await asyncio.sleep(0.01)


def outcomes_of(heard):
    return {what[0].id: what[0] for kind, what in heard if kind == "outcome"}


def test_a_worker_that_dies_is_replaced_and_its_job_done_all_the_same(one):
    async def story(pool):
        heard, hear = listener()
        ticket = pool.submit("p", Evaluate(large(70)), hear, lane="evaluate")
        await until(lambda: ticket.at is not None and ticket.at[0] == "panels")
        os.kill(ticket.worker.process.pid, signal.SIGKILL)
        assert (await ticket.finished)[0] == "done"
        assert ticket.tries.total() == 1
        assert outcomes_of(heard)["panels"].status == "done"

    one(story)


def test_a_clause_in_which_workers_end_fails_with_a_sentence_and_stops_nothing_else(one):
    rows = [("loft", "a", {}), ("pattern", "b", {"bays_across": 150, "bays_along": 150})]
    rows += [("dome", "c", {})]
    statement = Statement(clauses=[ClauseEntry(id=i, kind=k, values=v) for k, i, v in rows])

    async def story(pool):
        heard, hear = listener()
        ticket = pool.submit("p", Evaluate(statement.text()), hear, lane="evaluate")
        while not ticket.finished.done():
            if ticket.worker is not None and ticket.at is not None and ticket.at[0] == "b":
                os.kill(ticket.worker.process.pid, signal.SIGKILL)
                await until(lambda: ticket.worker is None)
            await asyncio.sleep(0.005)
        found = outcomes_of(heard)
        assert {k: o.status for k, o in found.items()} == {"a": "done", "b": "failed", "c": "done"}
        assert "ended unexpectedly" in found["b"].error
        assert found["b"].remedies[0].title == "Try again"
        # It is not begun again by itself, but when somebody says so.
        again, hear = listener()
        await pool.submit("p", Evaluate(statement.text()), hear, lane="evaluate").finished
        assert outcomes_of(again)["b"].status == "failed"
        pool.allow(list(pool._barred))
        allowed, hear = listener()
        await pool.submit("p", Evaluate(statement.text()), hear, lane="evaluate").finished
        assert outcomes_of(allowed)["b"].status == "done"

    one(story)


def memory_of_a_worker():
    """Bytes that a worker takes after something small."""

    async def story(pool):
        _, hear = listener()
        await pool.submit("p", Evaluate(SMALL), hear, lane="evaluate").finished
        return max(worker.memory for worker in pool.crew.workers)

    return on_a_pool(1, story)


def test_a_job_that_takes_too_much_memory_is_ended_with_a_sentence():
    async def story(pool):
        heard, hear = listener()
        job = Evaluate(large(54))
        assert (await pool.submit("p", job, hear, lane="evaluate").finished)[0] == "done"
        found = outcomes_of(heard)
        assert found["name"].status == "done"
        assert f"{most / 1e9:.1f} GB of memory" in found["set-out"].error

    # So many parts take five times as much as that.
    most = memory_of_a_worker() + 60_000_000
    on_a_pool(1, story, memory=most)


def test_a_job_that_is_quiet_is_told_of_and_then_ended_unless_it_may_go_on():
    async def story(pool):
        for goes_on in (True, False):
            heard, hear = listener()
            ticket = pool.submit("p", MakeTable(large(60), "members"), hear)
            await until(lambda: ticket.at is not None)  # noqa: B023
            worker = ticket.worker
            os.kill(worker.process.pid, signal.SIGSTOP)
            await until(lambda: any(kind == "quiet" for kind, _ in heard))  # noqa: B023
            if goes_on:
                pool.go_on(ticket)
                await asyncio.sleep(1.5)
                os.kill(worker.process.pid, signal.SIGCONT)
                assert (await ticket.finished)[0] == "done"
            else:
                await ticket.finished
                assert not worker.process.is_alive()
                (sentence,) = pool._barred.values()
                assert "without getting further" in sentence

    on_a_pool(1, story, quiet=0.5)


def test_a_job_that_takes_long_keeps_nobody_waiting():
    """With one worker at work at a time, and the project of both at home with it."""

    async def story(pool):
        assert (await pool.submit("p", MakeTable(SMALL, "nodes")).finished)[0] == "done"
        long = pool.submit("p", Evaluate(large(220)), lane="evaluate")
        await until(lambda: long.at is not None)
        other = pool.submit("q", MakeTable(SMALL, "members"))
        own = pool.submit("p", MakeTable(SMALL, "members"))
        assert (await other.finished)[0] == (await own.finished)[0] == "done"
        assert not long.finished.done()
        pool.cancel(long)

    on_a_pool(1, story, most=2, long=0.5)


def test_a_project_stays_with_the_worker_that_knows_it():
    async def story(pool):
        await until(lambda: all(w.ready for w in pool.crew.workers))
        homes = {}
        for _ in range(3):
            for project in ("p", "q"):
                ticket = pool.submit(project, MakeTable(SMALL, "nodes"))
                homes.setdefault(project, set()).add(ticket.worker)
                await ticket.finished
        assert homes["p"] != homes["q"]
        assert all(len(found) == 1 for found in homes.values())

    on_a_pool(2, story)


def test_what_comes_instead_of_another_has_its_turn(one):
    async def story(pool):
        first = pool.submit("p", MakeTable(SMALL, "nodes"))
        waiting = [pool.submit(name, Evaluate(SMALL), lane="evaluate") for name in "qr"]
        newer = pool.submit("q", Evaluate(SMALL), lane="evaluate", instead_of=waiting[0])
        assert waiting[0].finished.result() == ("cancelled",)
        since = {e.project: e.since for e in pool.crew._turns.order(0.0)}
        assert since["q"] < since["r"]
        for ticket in (first, newer, waiting[1]):
            assert (await ticket.finished)[0] == "done"

    one(story)


def test_a_cancelled_job_says_no_more_and_makes_room(one):
    async def story(pool):
        heard, hear = listener()
        ticket = pool.submit("p", Evaluate(large()), hear)
        await until(lambda: any(kind == "progress" for kind, _ in heard))
        count = len(heard)
        started = time.monotonic()
        pool.cancel(ticket)
        kind, *_ = await pool.submit("p", MakeTable(SMALL, "nodes")).finished
        assert kind == "done"
        assert time.monotonic() - started < PATIENCE + 10
        assert len(heard) == count, "nothing more is heard of it"
        assert (await ticket.finished)[0] == "cancelled"

    one(story)


def test_a_worker_that_does_not_stop_is_ended(one):
    async def story(pool):
        heard, hear = listener()
        ticket = pool.submit("p", Evaluate(large()), hear)
        await until(lambda: any(kind == "progress" for kind, _ in heard))
        stuck = pool.crew.workers[0].process
        os.kill(stuck.pid, signal.SIGSTOP)  # it can hear nothing now
        pool.cancel(ticket)
        await until(lambda: not stuck.is_alive(), PATIENCE + 10)
        assert (await pool.submit("p", MakeTable(SMALL, "nodes")).finished)[0] == "done"

    one(story)


def test_a_queued_job_that_is_cancelled_never_runs(one):
    async def story(pool):
        first = pool.submit("p", MakeTable(SMALL, "members"))
        heard, hear = listener()
        second = pool.submit("p", MakeTable(SMALL, "nodes"), hear)
        pool.cancel(second)
        assert (await first.finished)[0] == "done"
        assert (await second.finished)[0] == "cancelled"
        assert not heard

    one(story)


def test_faults_in_a_job_are_told_and_the_worker_lives_on(one):
    async def story(pool):
        worker = pool.crew.workers[0].process
        kind, text = await pool.submit("p", MakeTable("{", "members")).finished
        assert kind == "failed"
        assert "StatementError" in text
        kind, text = await pool.submit("p", MakeTable(SMALL, "wishes")).finished
        assert kind == "failed"
        assert pool.crew.workers[0].process is worker
        assert worker.is_alive()

    one(story)
