"""From the first moment there is an answer: a page, and for all else one that comes when it can."""

from __future__ import annotations

import asyncio
import gzip
import subprocess
import sys
import threading
from pathlib import Path
from types import SimpleNamespace

import httpx
from starlette.responses import PlainTextResponse

from leanlattice.api import front
from leanlattice.api.front import Front
from leanlattice.api.settings import Settings


def with_front(monkeypatch, tmp_path, create, story):
    """Runs ``story(front, ask)`` while the server is up, where the application is made by
    ``create``."""
    (tmp_path / "index.html").write_text("<p>page</p>", encoding="utf-8")
    monkeypatch.setattr(front, "_create", create)

    async def main():
        made = Front(Settings(interface=tmp_path, data=tmp_path))
        told, heard = asyncio.Queue(), asyncio.Queue()
        living = asyncio.create_task(made({"type": "lifespan"}, told.get, heard.put))
        await told.put({"type": "lifespan.startup"})
        assert (await heard.get())["type"] == "lifespan.startup.complete"
        transport = httpx.ASGITransport(made)
        async with httpx.AsyncClient(transport=transport, base_url="http://127.0.0.1") as client:
            found = await asyncio.wait_for(story(made, client.get), 20)
        await told.put({"type": "lifespan.shutdown"})
        await living
        return found

    return asyncio.run(main())


class Application:
    """Stands for the real one."""

    def __init__(self):
        self.router, self.lived = SimpleNamespace(lifespan_context=lambda app: self), []

    async def __aenter__(self):
        self.lived.append("began")

    async def __aexit__(self, *_):
        self.lived.append("ended")

    async def __call__(self, scope, receive, send):
        await PlainTextResponse(f"made {scope['path']}")(scope, receive, send)


def test_a_page_is_there_before_the_application_is(monkeypatch, tmp_path):
    may, app = threading.Event(), Application()

    def create(settings):
        may.wait(10)
        return app

    async def story(made, ask):
        assert "page" in (await ask("/")).text
        assert "page" in (await ask("/p/0123456789ab")).text
        assert (await ask("/", headers={"host": "elsewhere.example"})).status_code == 421
        waiting = asyncio.create_task(ask("/api/about"))
        await asyncio.sleep(0.2)
        assert not waiting.done()
        may.set()
        assert (await waiting).text == "made /api/about"
        assert (await ask("/")).text == "made /"

    with_front(monkeypatch, tmp_path, create, story)
    assert app.lived == ["began", "ended"]


def test_what_keeps_it_from_being_made_is_said_and_ends_the_server(monkeypatch, tmp_path):
    def create(settings):
        raise RuntimeError("The cellar is flooded.")

    async def story(made, ask):
        ended = []
        made.on_failure = lambda: ended.append(True)
        answer = await ask("/api/about")
        assert answer.status_code == 503
        assert answer.headers["content-type"] == "application/problem+json"
        assert made.failed == "The cellar is flooded."
        assert ended

    with_front(monkeypatch, tmp_path, create, story)


def test_what_answers_first_does_not_wait_for_the_compiler_and_the_solvers():
    """They are fetched when something is worked out, by the processes that do so."""
    heavy = ("numba", "scipy.spatial", "scipy.sparse", "scipy.interpolate", "OCP", "ifcopenshell")
    code = f"import sys, leanlattice.api.app; print([m for m in {heavy} if m in sys.modules])"
    told = subprocess.run([sys.executable, "-c", code], capture_output=True, text=True, check=True)
    assert told.stdout.strip() == "[]"


def test_the_first_screen_is_light_and_all_of_it_not_heavy():
    """Scripts and styles as they go over the wire: what the first page names, and everything."""
    built = Path(__file__).parents[2] / "frontend" / "dist"
    page = (built / "index.html").read_text(encoding="utf-8")
    sizes = {
        f.name: len(gzip.compress(f.read_bytes()))
        for f in (built / "assets").iterdir()
        if f.suffix in (".js", ".css")
    }
    first = [name for name in sizes if name in page]
    assert len(first) >= 2
    assert sum(sizes[name] for name in first) < 200_000
    assert sum(sizes.values()) < 450_000
