"""Workers are copies of one process, and none of them outlives the server."""

from __future__ import annotations

import asyncio
import subprocess
import sys
from multiprocessing import forkserver
from pathlib import Path

import psutil

from leanlattice.api import nursery
from leanlattice.api.jobs import Evaluate
from leanlattice.api.limits import Limits
from leanlattice.api.pool import Pool

from .test_pool import SMALL

SERVES = """
import asyncio, sys, tempfile
from pathlib import Path
from leanlattice.api.limits import Limits
from leanlattice.api.pool import Pool

async def main():
    pool = Pool(Limits(workers=2, most=2), Path(tempfile.mkdtemp()))
    while not all(w.ready for w in pool.crew.workers):
        await asyncio.sleep(0.05)
    print("ready", flush=True)
    await asyncio.sleep(600)

asyncio.run(main())
"""


def copied() -> int:
    """The process that workers are copies of."""
    return int(forkserver._forkserver._forkserver_pid)


def done_on(folder: Path, between=lambda pool: None) -> list[int]:
    """Runs a job on a pool before and after something; gives the processes of its workers."""

    async def main():
        pool = Pool(Limits(workers=1, most=1), folder)
        ids = []
        try:
            for _ in range(2):
                ticket = pool.submit("p", Evaluate(SMALL))
                kind, *_ = await asyncio.wait_for(ticket.finished, 120)
                assert kind == "done"
                ids.append(pool.crew.workers[0].process.pid)
                between(pool)
        finally:
            pool.close()
        return ids

    return asyncio.run(main())


def test_workers_are_copies_of_one_process_that_stays(tmp_path):
    [first, _] = done_on(tmp_path)
    was = copied()
    [second, _] = done_on(tmp_path)
    assert first != second
    assert copied() == was
    assert psutil.Process(was).ppid() == psutil.Process().pid


def test_it_is_begun_anew_where_it_ended(tmp_path):
    def end(pool):
        worker = psutil.Process(pool.crew.workers[0].process.pid)
        psutil.Process(copied()).kill()
        worker.wait(20)

    before, after = done_on(tmp_path, end)
    assert before != after, "what ends with it is replaced"


def test_nothing_outlives_a_server_that_is_killed(tmp_path):
    serving = subprocess.Popen([sys.executable, "-c", SERVES], stdout=subprocess.PIPE, text=True)
    assert serving.stdout.readline() == "ready\n"
    begun = psutil.Process(serving.pid).children(recursive=True)
    assert len(begun) >= 4  # two workers, what they are copies of, and what looks after memory
    serving.kill()
    serving.wait()
    _, alive = psutil.wait_procs(begun, timeout=20)
    assert not [p for p in alive if p.status() != psutil.STATUS_ZOMBIE]


def test_without_copies_each_is_begun_for_itself(monkeypatch):
    monkeypatch.setattr("multiprocessing.get_all_start_methods", lambda: ["spawn"])
    assert nursery.processes().get_start_method() == "spawn"
    nursery.make_ready()
