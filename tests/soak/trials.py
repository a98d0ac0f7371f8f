"""Trials of the server by force: kills, hostile requests and files, many people, full disks.

Each begins servers of its own on this machine and says what became of them.
"""

from __future__ import annotations

import contextlib
import json
import random
import shutil
import subprocess
import threading
import time
from collections import Counter
from collections.abc import Iterator
from dataclasses import dataclass
from pathlib import Path

import httpx
import psutil
from websockets.exceptions import WebSocketException
from websockets.sync.client import connect

from benchmarks.crowd import at_work, figures
from leanlattice.statement.document import ClauseEntry, Statement

from .. import patient
from ..ui.browser import Server
from .hostile import hostile_files, hostile_frames, hostile_requests

ALLOWED = {503, 507}
"""Answers of 500 and more that say something: storage that does not answer, and no room."""
SERVER_MEMORY, WORKER_MEMORY = 1_500_000_000, 3_500_000_000
"""Bytes that the server and each worker may take at most."""
FILE_IN = 10.0
"""Seconds in which a project with a hostile file is worked out, by a worker that is there."""
RESULT_EVERY = 10.0
"""Seconds in which everybody sees a result."""


@dataclass(frozen=True)
class Found:
    """What was tried, what is promised, what was found, and whether it held; nothing of the last
    where this machine does not let one try it."""

    tried: str
    promised: str
    found: str
    held: bool | None


class Memory:
    """Watches the memory of a server and its workers."""

    def __init__(self, server: Server) -> None:
        self.server, self.most, self.most_worker = server, 0, 0
        self._ended = threading.Event()
        self._thread = threading.Thread(target=self._watch, daemon=True)
        self._thread.start()

    def _watch(self) -> None:
        while not self._ended.wait(0.5):
            with contextlib.suppress(psutil.Error):
                process = psutil.Process(self.server.process.pid)
                self.most = max(self.most, process.memory_info().rss)
                for worker in process.children(recursive=True):
                    self.most_worker = max(self.most_worker, worker.memory_info().rss)

    def end(self) -> Found:
        self._ended.set()
        self._thread.join()
        return Found(
            "memory meanwhile",
            f"server {SERVER_MEMORY / 1e9:g} GB, worker {WORKER_MEMORY / 1e9:g} GB",
            f"server {self.most / 1e9:.2f} GB, worker {self.most_worker / 1e9:.2f} GB",
            self.most <= SERVER_MEMORY and self.most_worker <= WORKER_MEMORY,
        )


@contextlib.contextmanager
def serving(folder: Path, **how: object) -> Iterator[Server]:
    server = Server(folder / "data", **{"demo": False, **how})
    try:
        yield server
    finally:
        server.stop()


def imported(server: Server, statement: Statement) -> str:
    file = {"file": ("a.json", statement.text())}
    return patient.post(f"{server.url}/api/projects/import", files=file).json()["id"]


def names_back(server: Server, project: str) -> list[str]:
    """The names a project had, from the first."""
    names, base = [], f"{server.url}/api/projects/{project}"
    while (now := patient.get(f"{base}/statement").json())["can_undo"]:
        names.append(now["statement"]["name"])
        patient.post(f"{base}/history/undo")
    return names[::-1]


def kills(folder: Path, rounds: int, seed: int = 7) -> Found:
    """SIGKILL wherever it falls within bursts of edits; every acknowledged one is there after."""
    chance, acknowledged, unanswered = random.Random(seed), [], []
    orphans = 0
    with serving(folder, workers=0) as server:
        project = imported(server, Statement(name="Killed"))
        base = f"{server.url}/api/projects/{project}"
        for round_ in range(rounds):
            head, sent = patient.get(f"{base}/statement").json()["head"], ""
            children = psutil.Process(server.process.pid).children(recursive=True)
            killer = threading.Timer(chance.uniform(0.02, 0.3), server.kill)
            with patient.Client() as client, contextlib.suppress(httpx.HTTPError):
                client.get(f"{base}/statement")
                for k in range(10_000):
                    sent = f"name {round_}-{k}"
                    body = {"edit": {"op": "rename", "name": sent}, "base": head}
                    head = client.post(f"{base}/edits", json=body).json()["head"]
                    acknowledged.append(sent)
                    if k == 0:  # however busy the machine is, a burst has begun
                        killer.start()
            if killer.ident is None:
                server.kill()
            else:
                killer.join()
            unanswered.append(sent)
            orphans += sum(c.is_running() for c in psutil.wait_procs(children, 5)[1])
            server.start()
        kept = names_back(server, project)
    # The last of a burst may have been made without its answer getting through.
    lost = [n for n in acknowledged if n not in set(kept)]
    foreign = [n for n in kept if n not in {*acknowledged, *unanswered}]
    said = f"{len(acknowledged)} acknowledged, {len(lost)} lost, {orphans} workers left"
    in_order = [n for n in kept if n in set(acknowledged)] == acknowledged
    held = not lost and not foreign and not orphans and in_order and bool(acknowledged)
    return Found(
        f"{rounds} kills within bursts of edits", "nothing acknowledged is lost", said, held
    )


def requests(folder: Path, count: int, seed: int = 11) -> Found:
    """Hostile requests and frames; the server answers each in words, and others as before."""
    said: Counter[int] = Counter()
    traces = 0
    with serving(folder, workers=1) as server:
        project = imported(server, Statement(name="Beaten"))
        live = f"{server.url.replace('http', 'ws')}/api/projects/{project}/live"
        with patient.Client(base_url=server.url) as client:
            for method, path, how in hostile_requests(project, count - count // 10, seed):
                try:
                    answer = client.request(method, path, **how)
                except (httpx.InvalidURL, httpx.UnsupportedProtocol, UnicodeError, ValueError):
                    said[-1] += 1  # the client does not send it
                    continue
                said[answer.status_code] += 1
                traces += "Traceback" in answer.text
        sockets = 0
        frames = hostile_frames(count // 10, seed)
        with connect(
            live, origin=server.url, max_size=None, open_timeout=patient.SECONDS
        ) as socket:
            try:
                for frame in frames:
                    socket.send(frame)
                    sockets += 1
                socket.send(json.dumps({"type": "nonsense"}))
                answered = any("no message of type" in str(m) for m in iter(socket.recv, None))
            except WebSocketException:
                answered = False
        after = patient.get(f"{server.url}/api/projects/{project}/statement").status_code
        log = Path(server.log.name).read_text(errors="replace")
    bad = sum(n for status, n in said.items() if status >= 500 and status not in ALLOWED)
    traces += log.count("Traceback")
    held = not bad and not traces and answered and after == 200
    words = (
        f"{bad} answers of 5xx, {traces} traces, the socket {'stays' if answered else 'is lost'}"
    )
    return Found(
        f"{count} hostile requests and frames", "an answer in words, no trace", words, held
    )


def files(folder: Path, count: int, within: float = FILE_IN, seed: int = 13) -> Found:
    """Hostile files, each brought into a project that has something else in it as well, which is
    worked out ``within`` so many seconds."""
    outcomes: Counter[str] = Counter()
    slowest, blocked, faults = 0.0, 0, []
    with serving(folder, workers=1) as server, httpx.Client(base_url=server.url, timeout=90) as c:
        # A worker takes some seconds to begin, which no file is to blame for.
        warm = imported(server, Statement(clauses=[ClauseEntry(id="b", kind="dome", values={})]))
        c.get(f"/api/projects/{warm}/outcomes")
        for name, kind, content in hostile_files(count, seed):
            stored = c.post("/api/files", files={"file": (name, content)})
            if stored.status_code != 201:
                outcomes["refused"] += 1
                continue
            value = [stored.json()["digest"], name]
            clauses = [ClauseEntry(id="a", kind=kind, values={"file": value})]
            clauses += [ClauseEntry(id="b", kind="dome", values={})]
            project = imported(server, Statement(name="Files", clauses=clauses))
            began = time.monotonic()
            answer = c.get(f"/api/projects/{project}/outcomes")
            slowest = max(slowest, time.monotonic() - began)
            if answer.status_code != 200:
                faults.append(f"{name}: {answer.text[:200]}")
                continue
            found = {o["id"]: o for o in answer.json()}
            outcomes[found["a"]["status"]] += 1
            blocked += found["b"]["status"] != "done"
            if "Traceback" in found["a"]["error"] or "could not be computed" in found["a"]["error"]:
                faults.append(f"{name}: {found['a']['error']}")
    held = not faults and not blocked and sum(outcomes.values()) == count
    held = held and slowest <= within
    said = ", ".join(f"{n} {status}" for status, n in sorted(outcomes.items()))
    said += f"; slowest {slowest:.1f} s" + "".join(f"; {f}" for f in faults[:3])
    promised = f"read, or refused in a sentence, within {within:g} s"
    return Found(f"{count} hostile files", promised, said, held)


def people(folder: Path, number: int, seconds: float, kill_every: float) -> list[Found]:
    """Many at work while a worker is killed now and then."""
    with serving(folder) as server:
        memory, killed, ended = Memory(server), [], threading.Event()
        time.sleep(8)

        def kill() -> None:
            while not ended.wait(kill_every):
                workers = psutil.Process(server.process.pid).children(recursive=True)
                if workers:
                    victim = random.choice(workers)
                    with contextlib.suppress(psutil.Error):
                        victim.kill()
                        killed.append(victim.pid)

        killing = threading.Thread(target=kill, daemon=True)
        killing.start()
        began = time.perf_counter()
        found = at_work(server.url, number, seconds)
        over = time.perf_counter()
        ended.set()
        killing.join()
        watched = memory.end()
    acknowledged, longest, changes = figures(found, began, over)
    refused = sum(len(p.refused) for p in found)
    wait = RESULT_EVERY + kill_every * bool(killed)
    return [
        Found(
            f"{number} people for {seconds:g} s, {len(killed)} workers killed",
            f"acknowledged in 1 s (95 %), a result each {wait:g} s, no change refused",
            f"{changes} changes, {acknowledged * 1000:.0f} ms, {longest:.1f} s, {refused} refused",
            acknowledged <= 1.0 and longest <= wait and not refused,
        ),
        watched,
    ]


@contextlib.contextmanager
def small_disk(folder: Path, size: str = "24m") -> Iterator[Path | None]:
    """A disk of so much room, none where this machine does not let one make one."""
    disk = folder / "disk"
    disk.mkdir()
    command = ["mount", "-t", "tmpfs", "-o", f"size={size}", "tmpfs", str(disk)]
    if not shutil.which("mount") or subprocess.run(command, capture_output=True).returncode:
        yield None
        return
    try:
        yield disk
    finally:
        subprocess.run(["umount", "-l", str(disk)], check=False)


def full_disk(folder: Path, times: int) -> Found:
    """A disk that fills up while one is at work: refused in words, and all is there after."""
    what = f"a disk filled {times} times"
    promised = "507 in words, nothing lost, on it goes"
    with small_disk(folder) as disk:
        if disk is None:
            return Found(what, promised, "this machine lets nobody mount a disk", None)
        with serving(disk, workers=0) as server:
            project = imported(server, Statement(name="Filled"))
            base, names, refused = f"{server.url}/api/projects/{project}", [], 0
            with patient.Client() as client:

                def rename(name: str) -> int:
                    head = client.get(f"{base}/statement").json()["head"]
                    body = {"edit": {"op": "rename", "name": name}, "base": head}
                    status = client.post(f"{base}/edits", json=body, timeout=60).status_code
                    if status == 200:
                        names.append(name)
                    return status

                statuses = set()
                for k in range(times):
                    rename(f"before {k}")
                    ballast = disk / "ballast"
                    with contextlib.suppress(OSError), ballast.open("wb", 0) as file:
                        while True:
                            file.write(bytes(4096))
                    statuses = {rename(f"full {k}-{n} " + "x" * 90) for n in range(200)}
                    refused += 507 in statuses
                    ballast.unlink()
                    assert rename(f"after {k}") == 200
            server.kill()
            server.start()
            kept = names_back(server, project)
    held = kept == names and refused == times and statuses <= {200, 507}
    said = f"refused {refused} times, {len(names)} changes made, {len(kept)} there after a kill"
    return Found(what, promised, said, held)
