"""Worker processes: each project has one of its own liking, so that its results stay in that one's
memory."""

from __future__ import annotations

import asyncio
import contextlib
import itertools
import multiprocessing
import threading
import zlib
from collections import deque
from collections.abc import Callable
from pathlib import Path
from typing import Any

from .jobs import Job, start

__all__ = ["Pool", "Ticket"]

PATIENCE = 2.0
"""Seconds after which a job that was cancelled and does not stop is ended with its process."""
ENDINGS = ("done", "failed", "cancelled")

OnMessage = Callable[[str, tuple[Any, ...]], None]


class Ticket:
    """A job that was handed in. ``finished`` resolves to its last message: ``(kind, *what)``."""

    def __init__(self, number: int, job: Job, on_message: OnMessage | None) -> None:
        self.number, self.job, self.on_message = number, job, on_message
        self.finished: asyncio.Future[tuple[Any, ...]] = asyncio.get_running_loop().create_future()
        self.wanted = True

    def hear(self, kind: str, *what: Any) -> None:
        if kind in ENDINGS and not self.finished.done():
            self.finished.set_result((kind, *what))
        if self.on_message is not None and self.wanted:
            self.on_message(kind, what)


class _Worker:
    """One process and the thread that listens to it. All methods run in the event loop."""

    def __init__(
        self, loop: asyncio.AbstractEventLoop, files: Path, gives_way: bool = False
    ) -> None:
        self.loop, self.files, self.gives_way = loop, files, gives_way
        self.queue: deque[Ticket] = deque()
        self.current: Ticket | None = None
        self.closing = False
        self._start()

    def _start(self) -> None:
        context = multiprocessing.get_context("spawn")
        self.connection, theirs = context.Pipe()
        self.cancelled = context.Value("q", -1, lock=False)
        args = theirs, self.cancelled, str(self.files), self.gives_way
        self.process = context.Process(target=start, args=args, daemon=True)
        self.ready = False
        self.process.start()
        theirs.close()
        threading.Thread(target=self._listen, args=(self.connection,), daemon=True).start()

    def _listen(self, connection: Any) -> None:
        with contextlib.suppress(RuntimeError):  # the loop is closed
            try:
                while True:
                    self.loop.call_soon_threadsafe(self._heard, connection.recv())
            except (EOFError, OSError):
                self.loop.call_soon_threadsafe(self._lost, connection)

    def submit(self, ticket: Ticket) -> None:
        self.queue.append(ticket)
        self._next()

    def _next(self) -> None:
        while self.ready and self.current is None and self.queue:
            ticket = self.queue.popleft()
            if not ticket.wanted:
                ticket.hear("cancelled")
                continue
            self.current = ticket
            with contextlib.suppress(
                BrokenPipeError, OSError
            ):  # its end is noticed by the listener
                self.connection.send((ticket.number, ticket.job))

    def _heard(self, message: tuple[Any, ...]) -> None:
        number, kind, *what = message
        if kind == "ready":
            self.ready = True
            self._next()
            return
        if self.current is None or number != self.current.number:
            return
        ticket = self.current
        if kind in ENDINGS:
            self.current = None
        ticket.hear(kind, *what)
        self._next()

    def _lost(self, connection: Any) -> None:
        if self.closing or connection is not self.connection:
            return
        ticket, self.current = self.current, None
        self._start()
        if ticket is not None and ticket.wanted:
            ticket.hear(
                "failed",
                "The computation ended unexpectedly, perhaps for want of memory; undo, or use fewer "
                "bays, and try again.",
            )
        elif ticket is not None:
            ticket.hear("cancelled")
        self._next()

    def cancel(self, ticket: Ticket) -> None:
        ticket.wanted = False
        if ticket is self.current:
            self.cancelled.value = ticket.number
            self.loop.call_later(PATIENCE, self._end_if_stuck, ticket)

    def _end_if_stuck(self, ticket: Ticket) -> None:
        if ticket is self.current and not self.closing:
            self.process.kill()

    def close(self) -> None:
        self.closing = True
        self.process.kill()
        self.process.join(5)
        self.connection.close()


class Pool:
    """A fixed number of workers."""

    def __init__(self, size: int, files: Path) -> None:
        loop = asyncio.get_running_loop()
        self._workers = [_Worker(loop, files) for _ in range(size)]
        self._files = files
        self._aside: _Worker | None = None
        self._numbers = itertools.count()

    def _worker(self, project: str) -> _Worker:
        return self._workers[zlib.crc32(project.encode()) % len(self._workers)]

    def submit(self, project: str, job: Job, on_message: OnMessage | None = None) -> Ticket:
        """Hands in a job; ``on_message(kind, what)`` is called in the event loop until it is
        cancelled."""
        ticket = Ticket(next(self._numbers), job, on_message)
        if not self._workers:
            ticket.hear("failed", "This server keeps statements and does not evaluate them.")
            return ticket
        self._worker(project).submit(ticket)
        return ticket

    def submit_to(self, number: int, job: Job) -> Ticket:
        """Hands in a job that belongs to nobody in particular; consecutive numbers go to different
        workers."""
        ticket = Ticket(next(self._numbers), job, None)
        if not self._workers:
            ticket.hear("failed", "This server keeps statements and does not evaluate them.")
        else:
            self._workers[number % len(self._workers)].submit(ticket)
        return ticket

    def submit_aside(self, job: Job, on_message: OnMessage | None = None) -> Ticket:
        """Hands in a job that takes long and that nobody waits for, to a worker of its own that
        gives way to others."""
        if self._aside is None and self._workers:
            self._aside = _Worker(asyncio.get_running_loop(), self._files, gives_way=True)
        ticket = Ticket(next(self._numbers), job, on_message)
        if self._aside is None:
            ticket.hear("failed", "This server keeps statements and does not evaluate them.")
        else:
            self._aside.submit(ticket)
        return ticket

    def cancel_aside(self, ticket: Ticket) -> None:
        """Makes such a job come to its end soon; what it has found by then is its result."""
        if self._aside is not None and not ticket.finished.done():
            self._aside.cancel(ticket)

    def cancel(self, project: str, ticket: Ticket) -> None:
        """Makes a job stop soon; nothing more is heard of it."""
        if not ticket.finished.done():
            self._worker(project).cancel(ticket)

    def close(self) -> None:
        for worker in (*self._workers, *([self._aside] if self._aside else [])):
            worker.close()
