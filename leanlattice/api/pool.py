"""The workers of a server: those that people wait for, and one for what nobody waits for."""

from __future__ import annotations

import itertools
import time
from collections import OrderedDict
from collections.abc import Collection
from dataclasses import replace
from pathlib import Path

from .crew import GOES_ON, Crew
from .jobs import Job
from .limits import Limits
from .workers import OnMessage, Ticket

__all__ = ["Pool", "Ticket"]

NOBODY = "This server keeps statements and does not evaluate them."


class Pool:
    """Takes jobs in, and makes them stop."""

    def __init__(self, limits: Limits, files: Path) -> None:
        self.limits = limits
        self._numbers = itertools.count()
        self._barred: OrderedDict[str, str] = OrderedDict()
        self.crew = Crew(limits, files, self._barred, begun=limits.workers)
        one = replace(limits, workers=1, most=1)
        self.aside = Crew(one, files, self._barred, begun=0, gives_way=True)

    def submit(
        self,
        project: str,
        job: Job,
        on_message: OnMessage | None = None,
        lane: str = "work",
        instead_of: Ticket | None = None,
        rest: bool = False,
    ) -> Ticket:
        """Hands in a job for a ``lane`` of a project, in which one is done after the other;
        ``on_message(kind, what)`` is called in the event loop until it is cancelled.

        It may come ``instead_of`` another, which is cancelled, and where that one still waits has
        its turn. With ``rest`` it can wait until nobody waits for anything else.
        """
        ticket = Ticket(next(self._numbers), project, lane, job, on_message)
        ticket.rest = rest
        since = None if instead_of is None else self.crew.cancel(instead_of)
        self._add(self.crew, ticket, since)
        return ticket

    def submit_aside(self, job: Job, on_message: OnMessage | None = None) -> Ticket:
        """Hands in a job that takes long and that nobody waits for, to a worker of its own that
        gives way to others."""
        ticket = Ticket(next(self._numbers), "", "aside", job, on_message)
        self._add(self.aside, ticket)
        return ticket

    def _add(self, crew: Crew, ticket: Ticket, since: float | None = None) -> None:
        if self.limits.workers:
            crew.add(ticket, since)
        else:
            ticket.hear("failed", NOBODY)

    def cancel(self, ticket: Ticket) -> None:
        """Makes a job stop soon; nothing more is heard of it."""
        (self.aside if ticket.lane == "aside" else self.crew).cancel(ticket)

    def stop(self, ticket: Ticket) -> None:
        """Makes a job come to its end soon; what it has found by then is its result."""
        if ticket.worker is not None:
            ticket.worker.ask_to_stop()
        else:
            self.cancel(ticket)

    def go_on(self, ticket: Ticket) -> None:
        """Lets a quiet job be quiet for longer."""
        ticket.goes_on_until = time.monotonic() + GOES_ON

    def allow(self, keys: Collection[str]) -> None:
        """Lets results be made again in which a worker was ended."""
        for key in keys:
            self._barred.pop(key, None)

    def close(self) -> None:
        self.crew.close()
        self.aside.close()
