"""One worker process, as the server holds it: what it is at, what it takes, and how it ends."""

from __future__ import annotations

import asyncio
import contextlib
import threading
import time
from collections import Counter
from collections.abc import Callable
from dataclasses import replace
from pathlib import Path
from typing import Any

import psutil

from .jobs import Job, start
from .nursery import processes

__all__ = ["Ticket", "Worker"]

ENDINGS = ("done", "failed", "cancelled")
OnMessage = Callable[[str, tuple[Any, ...]], None]


class Ticket:
    """A job that was handed in. ``finished`` resolves to its last message: ``(kind, *what)``."""

    def __init__(
        self, number: int, project: str, lane: str, job: Job, on_message: OnMessage | None
    ) -> None:
        self.number, self.project, self.lane = number, project, lane
        self.job, self.on_message = job, on_message
        self.finished: asyncio.Future[tuple[Any, ...]] = asyncio.get_running_loop().create_future()
        self.wanted = True
        self.rest = False
        """Whether it can wait until nobody waits for anything else."""
        self.worker: Worker | None = None
        """Who is at it."""
        self.began = 0.0
        self.at: tuple[str, str] | None = None
        """The clause, and its key, that is worked on."""
        self.tries: Counter[str] = Counter()
        """How often its worker ended at which key, or at none."""
        self.goes_on_until = 0.0
        """Until when it may be quiet, because somebody said so."""

    def hear(self, kind: str, *what: Any) -> None:
        if kind in ENDINGS and not self.finished.done():
            self.finished.set_result((kind, *what))
        if self.on_message is not None and self.wanted:
            self.on_message(kind, what)


class Worker:
    """A process and the thread that listens to it. All methods run in the event loop.

    ``on_free`` is called when it can take a job, ``on_lost`` when its process ended by itself or
    by ``end``, each with the job it was at, if it was at one.
    """

    def __init__(
        self,
        files: Path,
        on_free: Callable[[Worker, Ticket | None], None],
        on_lost: Callable[[Worker, Ticket | None], None],
        memory: int,
        gives_way: bool = False,
    ) -> None:
        self.loop = asyncio.get_running_loop()
        self.on_free, self.on_lost = on_free, on_lost
        self.current: Ticket | None = None
        self.ready = self.closing = False
        self.heard_at = self.free_since = time.monotonic()
        self.told_of = False
        """Whether it was said that it is quiet."""
        self.slow = False
        """Whether it is at a job that takes long, and so is not to keep others waiting."""
        self.why = ""
        """Why it was ended, in a sentence; empty where that was none of ours."""
        context = processes()
        self.connection, theirs = context.Pipe()
        self.cancelled = context.Value("q", -1, lock=False)
        args = theirs, self.cancelled, str(files), memory, gives_way
        # No daemon, as those may begin no process to read files in; it ends with this one anyway.
        self.process = context.Process(target=start, args=args, daemon=False)
        threading.Thread(target=self._live, args=(self.connection, theirs), daemon=True).start()

    def _live(self, connection: Any, theirs: Any) -> None:
        """Begins the process, which waits for what it is a copy of, and listens to it."""
        with contextlib.suppress(RuntimeError):  # the loop is closed
            try:
                self.process.start()
                theirs.close()
                if self.closing:
                    self.process.kill()
                while True:
                    self.loop.call_soon_threadsafe(self._heard, connection.recv())
            except (EOFError, OSError):
                self.loop.call_soon_threadsafe(self._lost)

    @property
    def free(self) -> bool:
        return self.ready and self.current is None and not self.closing

    def take(self, ticket: Ticket, barred: dict[str, str]) -> None:
        """Begins a job, in which results of ``barred`` keys are not made but fail with their
        sentence."""
        self.current, ticket.worker = ticket, self
        ticket.began = self.heard_at = time.monotonic()
        ticket.at, self.told_of, self.slow = None, False, False
        with contextlib.suppress(BrokenPipeError, OSError):  # its end is noticed by the listener
            self.connection.send((ticket.number, replace(ticket.job, barred=barred)))

    def _heard(self, message: tuple[Any, ...]) -> None:
        number, kind, *what = message
        self.heard_at = time.monotonic()
        self.told_of = False
        if kind == "ready":
            self.ready = True
            self.free_since = self.heard_at
            self.on_free(self, None)
            return
        ticket = self.current
        if ticket is None or number != ticket.number:
            return
        if kind == "begins":
            ticket.at = (what[0], what[1]) if what[0] else None
            return
        if kind in ENDINGS:
            self._leave(ticket)
        ticket.hear(kind, *what)
        if kind in ENDINGS:
            self.on_free(self, ticket)

    def _leave(self, ticket: Ticket) -> None:
        self.current, ticket.worker = None, None
        self.free_since = time.monotonic()
        self.slow = False

    def _lost(self) -> None:
        if self.closing:
            return
        self.closing = True
        ticket = self.current
        if ticket is not None:
            self._leave(ticket)
        self.on_lost(self, ticket)

    @property
    def memory(self) -> int:
        """Bytes its process holds; none before it is there."""
        if self.process.pid is None:
            return 0
        try:
            return int(psutil.Process(self.process.pid).memory_info().rss)
        except psutil.Error:
            return 0

    def ask_to_stop(self) -> None:
        """Its job is to come to an end soon."""
        if self.current is not None:
            self.cancelled.value = self.current.number

    def end(self, why: str = "") -> None:
        """Ends the process at once, whatever it is at."""
        self.why = why
        self.process.kill()

    def close(self) -> None:
        self.closing = True
        # One that is still being begun is ended as soon as it is there.
        if self.process.pid is not None:
            self.process.kill()
            self.process.join(5)
        self.connection.close()
