"""Many people at work at once: how long a change waits to be taken, and how long each waits for what
comes of it."""

from __future__ import annotations

import asyncio
import itertools
import json
import random
import tempfile
import time
from dataclasses import dataclass, field
from pathlib import Path

import httpx
import numpy as np
import websockets

from tests.ui.browser import Server

ROOT = Path(__file__).resolve().parents[1]
STATEMENTS = ROOT / "tests" / "fixtures" / "version_1" / "demos"
PROJECTS = {"ferry-shelter": ("cap", "rise", 1.2, 2.0), "boat-hall": ("net", "bays_across", 10, 16)}
"""What they work on, and of each a value that is changed within bounds: roofs of a hundred and of a
thousand members with their panels and sheets, which stay what they are however demos grow."""


@dataclass
class Person:
    """One of them: seconds to each acknowledgement, and when a result was seen."""

    acknowledged: list[float] = field(default_factory=list)
    seen: list[float] = field(default_factory=list)
    refused: list[str] = field(default_factory=list)

    def longest_wait(self, began: float, ended: float) -> float:
        """Seconds it went without a result at most."""
        moments = [began, *(t for t in self.seen if began <= t <= ended), ended]
        return float(np.diff(moments).max())


async def _works(url: str, name: str, seconds: float, every: float, turn: int) -> Person:
    clause, value, low, high = PROJECTS[name]
    person, rng = Person(), random.Random(turn)
    async with httpx.AsyncClient(base_url=url, timeout=60) as client:
        statement = json.loads((STATEMENTS / f"{name}.json").read_text(encoding="utf-8"))
        statement["name"] = f"{statement['name']} {turn}"
        file = {"file": ("a.json", json.dumps(statement))}
        project = (await client.post("/api/projects/import", files=file)).json()["id"]
        live = f"{url.replace('http', 'ws')}/api/projects/{project}/live"
        async with websockets.connect(live, max_size=None, origin=url) as socket:
            listening = asyncio.create_task(_listens(socket, person))
            # They do not all begin at the same moment.
            await asyncio.sleep(every * rng.random())
            head, until = 0, time.perf_counter() + seconds
            for _ in itertools.takewhile(lambda _: time.perf_counter() < until, itertools.count()):
                began = time.perf_counter()
                new = rng.randint(low, high) if isinstance(low, int) else rng.uniform(low, high)
                edit = {"op": "set", "clause": clause, "name": value, "value": new}
                body = {"edit": edit, "base": head}
                answer = await client.post(f"/api/projects/{project}/edits", json=body)
                person.acknowledged.append(time.perf_counter() - began)
                if answer.status_code == 200:
                    head = answer.json()["head"]
                else:
                    person.refused.append(answer.text)
                await asyncio.sleep(max(0.0, every - (time.perf_counter() - began)))
            listening.cancel()
    return person


async def _listens(socket: websockets.ClientConnection, person: Person) -> None:
    async for message in socket:
        if isinstance(message, str) and json.loads(message)["type"] == "drawn":
            person.seen.append(time.perf_counter())


def at_work(url: str, people: int, seconds: float, every: float = 2.0) -> list[Person]:
    """So many people at work at the server at ``url``, each on a project of their own, of which
    each makes a change ``every`` so many seconds."""

    async def all_of_them() -> list[Person]:
        names = itertools.cycle(PROJECTS)
        works = [_works(url, next(names), seconds, every, k) for k in range(people)]
        return list(await asyncio.gather(*works))

    return asyncio.run(all_of_them())


def crowd(people: int, seconds: float) -> tuple[float, float, int]:
    """The 95th percentile of seconds until a change is acknowledged, the longest any person went
    without a result, and how many changes there were."""
    with tempfile.TemporaryDirectory() as folder:
        server = Server(Path(folder) / "data", demo=False)
        try:
            time.sleep(8)  # until workers are ready
            began = time.perf_counter()
            found = at_work(server.url, people, seconds)
            ended = time.perf_counter()
        finally:
            server.stop()
    assert not any(p.refused for p in found), next(p.refused for p in found if p.refused)
    return figures(found, began, ended)


def figures(found: list[Person], began: float, ended: float) -> tuple[float, float, int]:
    """The 95th percentile of acknowledgements (s), the longest wait for a result (s), and how many
    changes there were."""
    acknowledged = [t for p in found for t in p.acknowledged]
    longest = max(p.longest_wait(began, ended) for p in found)
    return float(np.percentile(acknowledged, 95)), longest, len(acknowledged)
