"""Windows: one socket each, and what waits to be sent to it."""

from __future__ import annotations

import asyncio
from collections.abc import Callable, Iterable

from fastapi import WebSocket
from pydantic import BaseModel

from .channel import OutcomeSaid
from .messages import OutcomeMessage
from .shown import Shown

__all__ = ["MOST_WAITING", "Window"]

MOST_WAITING = 256_000_000
"""Bytes that may wait for a window that does not take them."""


class Window:
    """One socket. ``have`` says of which keys it was sent the geometry and the measures.

    What it has not taken yet waits, up to ``MOST_WAITING`` bytes; one that takes nothing any more
    is closed then by ``on_full``, and sees everything anew when it comes back.
    """

    def __init__(self, socket: WebSocket) -> None:
        self.socket = socket
        self.have: set[str] = set()
        self.on_full: Callable[[], object] = lambda: None
        self.waiting = 0
        self._queue: asyncio.Queue[str | bytes] = asyncio.Queue()

    def put(self, message: str | bytes) -> None:
        """Sends a message when those before it are sent."""
        self.waiting += len(message)
        if self.waiting > MOST_WAITING:
            self.on_full()
        else:
            self._queue.put_nowait(message)

    def say(self, message: BaseModel) -> None:
        self.put(message.model_dump_json())

    def forget(self, keys: Iterable[str]) -> None:
        """It no longer has what shows ``keys``."""
        self.have -= {f"{part} {key}" for key in keys for part in ("geometry", "measures")}

    def show(self, outcome: OutcomeMessage, shown: Shown, run: int) -> None:
        """The geometry first, so that an outcome never speaks of what is not there yet."""
        found = shown.get(outcome.key) if outcome.key else None
        for part, message in zip(
            ("geometry", "measures"), found[1:] if found else (), strict=False
        ):
            if message and f"{part} {outcome.key}" not in self.have:
                self.have.add(f"{part} {outcome.key}")
                self.put(message)
        self.say(OutcomeSaid(run=run, outcome=outcome))

    async def pump(self) -> None:
        while True:
            message = await self._queue.get()
            if isinstance(message, str):
                await self.socket.send_text(message)
            else:
                await self.socket.send_bytes(message)
            self.waiting -= len(message)
