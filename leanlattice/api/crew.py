"""A crew of workers and what waits for them: every project has its turn, a job that takes long
keeps nobody waiting, and none takes more of the machine than it may."""

from __future__ import annotations

import asyncio
import time
from collections import Counter, OrderedDict
from pathlib import Path

from .limits import Limits
from .turns import Entry, Turns
from .workers import Ticket, Worker

__all__ = ["GOES_ON", "PATIENCE", "Crew"]

PATIENCE = 2.0
"""Seconds after which a job that was cancelled and does not stop is ended with its process."""
LOOK_EVERY = 0.25
"""Seconds between looks at what workers are at and what they take."""
TRIES = 2
"""How often a job is begun whose worker ends at the same place for no reason that is known."""
MOST_TRIES = 6
REMEMBERED = 200
"""Projects, and results that are not to be made again, that are kept in mind."""
RECYCLED = 0.6
"""Share of its memory beyond which a worker with nothing to do is begun anew."""
AGAIN = 2.0
"""Seconds until another is begun where one ended before it was ready."""
KEPT = 60.0
"""Seconds for which a worker that is one too many is kept with nothing to do."""
GOES_ON = 600.0
"""Seconds more that a quiet job is given by somebody who says so."""
ENDED = (
    "The computation ended unexpectedly, perhaps for want of memory; undo, or use fewer bays, and "
    "try again."
)


def _too_much(most: int) -> str:
    return (
        f"This took more than {most / 1e9:.1f} GB of memory and was ended. Fewer bays, a coarser "
        "file or fewer parts take less."
    )


def _too_quiet(seconds: float) -> str:
    return (
        f"This was worked on for {seconds:.0f} s without getting further, and was ended. Fewer "
        "bays or parts are done sooner; it can also be tried again."
    )


class Crew:
    """Workers, begun as they are needed within ``limits``; ``barred`` tells of results, by key, in
    which one was ended, so that they fail with a sentence and are not made again by themselves.

    A project goes to the worker it was with before, which has its results in memory, unless that
    one is busy for long.
    """

    def __init__(
        self,
        limits: Limits,
        files: Path,
        barred: OrderedDict[str, str],
        begun: int,
        gives_way: bool = False,
    ) -> None:
        self.limits, self.barred = limits, barred
        self._files, self._gives_way, self._least = files, gives_way, begun
        self._turns: Turns[Ticket] = Turns()
        self._homes: OrderedDict[str, Worker] = OrderedDict()
        self.workers: list[Worker] = []
        self._closed = False
        self._replenish()
        self._loop = asyncio.get_running_loop()
        self._clock = self._loop.call_later(LOOK_EVERY, self._look)

    def add(self, ticket: Ticket, since: float | None = None) -> None:
        """Puts a job in its lane, where it waits ``since`` a time (s); now unless told."""
        since = time.monotonic() if since is None else since
        self._turns.add(Entry(ticket.project, ticket.lane, ticket, since, ticket.rest))
        self._next()

    def cancel(self, ticket: Ticket) -> float | None:
        """Makes a job stop soon, of which nothing more is heard; since when it waited, if it still
        did."""
        if ticket.finished.done() or not ticket.wanted:
            return None
        ticket.wanted = False
        if ticket.worker is not None:
            ticket.worker.ask_to_stop()
            self._loop.call_later(PATIENCE, self._end_if_stuck, ticket.worker, ticket)
            return None
        entry = self._turns.drop(ticket)
        ticket.hear("cancelled")
        return entry.since if entry else None

    def _end_if_stuck(self, worker: Worker, ticket: Ticket) -> None:
        if worker.current is ticket:
            worker.end()

    def close(self) -> None:
        """Ends all of them."""
        self._closed = True
        self._clock.cancel()
        for worker in self.workers:
            worker.close()

    # Who does what next.

    def _next(self) -> None:
        now = time.monotonic()
        for entry in self._turns.order(now):
            if self._at_work >= self.limits.workers:
                break
            worker = self._worker_for(entry, now)
            if worker is not None:
                self._turns.begin(entry)
                worker.take(entry.what, dict(self.barred))
        self._grow()

    @property
    def _at_work(self) -> int:
        return sum(w.current is not None and not w.slow for w in self.workers)

    def _worker_for(self, entry: Entry[Ticket], now: float) -> Worker | None:
        """The one that knows the project, or after a while another that is free."""
        free = [w for w in self.workers if w.free]
        home = self._homes.get(entry.project)
        if home is None or home not in free:
            if not free or (home is not None and now - entry.since < self.limits.wait):
                return None
            guests = Counter(map(id, self._homes.values()))
            home = min(free, key=lambda w: guests[id(w)])
        self._homes[entry.project] = home
        self._homes.move_to_end(entry.project)
        while len(self._homes) > REMEMBERED:
            self._homes.popitem(last=False)
        return home

    def _grow(self) -> None:
        """One worker more where all that there are take long, or where one could be at work and
        none is there for it."""
        if self._closed or len(self.workers) >= self.limits.most:
            return
        if any(not w.ready for w in self.workers):
            return
        none_left = all(w.slow for w in self.workers) and (self.workers or len(self._turns))
        if none_left or (
            len(self._turns)
            and self._at_work < self.limits.workers
            and not any(w.free for w in self.workers)
        ):
            self._begin_one()

    def _begin_one(self) -> None:
        worker = Worker(self._files, self._free, self._lost, self.limits.memory, self._gives_way)
        self.workers.append(worker)

    def _free(self, worker: Worker, ticket: Ticket | None) -> None:
        if ticket is not None:
            self._turns.end(ticket.project, ticket.lane, ticket.began, time.monotonic())
        self._next()

    # What becomes of those that end, are quiet, or take too much.

    def _forgotten(self, worker: Worker) -> None:
        self.workers.remove(worker)
        for project in [p for p, w in self._homes.items() if w is worker]:
            del self._homes[project]
        # One that did not even come to be ready would end like that again and again.
        self._loop.call_later(0.0 if worker.ready else AGAIN, self._replenish)

    def _replenish(self) -> None:
        while len(self.workers) < self._least and not self._closed:
            self._begin_one()

    def _lost(self, worker: Worker, ticket: Ticket | None) -> None:
        self._forgotten(worker)
        if ticket is not None:
            self._turns.end(ticket.project, ticket.lane, ticket.began, time.monotonic())
            if ticket.wanted:
                self._again(ticket, worker.why)
            else:
                ticket.hear("cancelled")
        self._next()

    def _again(self, ticket: Ticket, why: str) -> None:
        """Begins a job anew whose worker ended; what it ended at, where that is known for a cause
        or happens again, fails with a sentence, and so stops nothing else."""
        clause, key = ticket.at or ("", "")
        ticket.tries[key] += 1
        at_fault = bool(why) or ticket.tries[key] >= TRIES
        if (at_fault and not clause) or ticket.tries.total() >= MOST_TRIES:
            ticket.hear("failed", why or ENDED)
            return
        if at_fault:
            self.barred[key] = why or ENDED
            while len(self.barred) > REMEMBERED:
                self.barred.popitem(last=False)
        now = time.monotonic()
        entry = Entry(ticket.project, ticket.lane, ticket, now, ticket.rest)
        self._turns.add(entry, first=True)

    def _look(self) -> None:
        self._clock = self._loop.call_later(LOOK_EVERY, self._look)
        now = time.monotonic()
        for worker in list(self.workers):
            if worker.current is None:
                self._look_at_idle(worker, now)
            else:
                self._look_at_busy(worker, worker.current, now)
        self._next()

    def _look_at_idle(self, worker: Worker, now: float) -> None:
        spare = len(self.workers) > self._least and now - worker.free_since > KEPT
        if worker.free and (spare or worker.memory > RECYCLED * self.limits.memory):
            worker.close()
            self._forgotten(worker)

    def _look_at_busy(self, worker: Worker, ticket: Ticket, now: float) -> None:
        worker.slow = worker.slow or now - ticket.began > self.limits.long
        quiet = now - worker.heard_at
        if worker.memory > self.limits.memory:
            worker.end(_too_much(self.limits.memory))
        elif now < ticket.goes_on_until:
            return
        elif quiet > 2 * self.limits.quiet:
            worker.end(_too_quiet(quiet))
        elif quiet > self.limits.quiet and not worker.told_of:
            worker.told_of = True
            ticket.hear("quiet", ticket.at[0] if ticket.at else "", quiet, self.limits.quiet)
