"""What answers from the first moment: pages at once, and everything else as soon as the application
is there."""

from __future__ import annotations

import asyncio
import gc
import importlib
import logging
from collections.abc import Callable
from typing import Any

from starlette.types import ASGIApp, Receive, Scope, Send

from .guard import Guard, problem
from .nursery import make_ready
from .pages import Pages
from .settings import Settings

__all__ = ["Front"]

log = logging.getLogger("leanlattice")


class Front:
    """An ASGI application that makes the real one in the background and hands over to it.

    What that needs takes a while to import; a page is shown meanwhile, and what it asks for waits.
    Where it cannot be made, ``failed`` says why and ``on_failure`` is called, which ends the
    server.
    """

    def __init__(self, settings: Settings) -> None:
        self._settings = settings
        self._pages = Guard(Pages(settings.interface))
        self._refusing = Guard(_unavailable)
        self._app: ASGIApp | None = None
        self._made = asyncio.Event()
        self._ends = asyncio.Event()
        self.failed = ""
        self.on_failure: Callable[[], None] = lambda: None

    async def __call__(self, scope: Scope, receive: Receive, send: Send) -> None:
        if scope["type"] == "lifespan":
            await self._live(receive, send)
        elif self._app is None and not scope["path"].startswith("/api/"):
            await self._pages(scope, receive, send)
        else:
            await self._made.wait()
            await (self._app or self._refusing)(scope, receive, send)

    async def _live(self, receive: Receive, send: Send) -> None:
        await receive()
        if self._settings.workers != 0:
            make_ready()
        making = asyncio.create_task(self._make())
        await send({"type": "lifespan.startup.complete"})
        await receive()
        self._ends.set()
        await making
        await send({"type": "lifespan.shutdown.complete"})

    async def _make(self) -> None:
        try:
            made = await asyncio.to_thread(_create, self._settings)
            async with made.router.lifespan_context(made):
                self._app = made
                self._made.set()
                await self._ends.wait()
        except Exception as error:
            log.debug("the application was not made", exc_info=True)
            self.failed = str(error) or type(error).__name__
            self._app = None
            self._made.set()
            self.on_failure()


def _create(settings: Settings) -> Any:
    # What is loaded stays: to look through it for garbage over and over takes a tenth of the time.
    gc.disable()
    try:
        return importlib.import_module("leanlattice.api.app").create_app(settings)
    finally:
        gc.freeze()
        gc.enable()


async def _unavailable(scope: Scope, receive: Receive, send: Send) -> None:
    if scope["type"] == "websocket":
        await send({"type": "websocket.close", "code": 1011, "reason": "It could not be started"})
    else:
        detail = "The projects could not be opened; the server says why where it was started."
        await problem(503, "Not started", detail)(scope, receive, send)
