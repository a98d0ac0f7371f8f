"""The live channel: one session a project, evaluating its statement and telling every window what
came of it."""

from __future__ import annotations

import asyncio
import contextlib
import time
from collections.abc import Coroutine
from dataclasses import dataclass
from typing import Any

from fastapi import WebSocket
from starlette.concurrency import run_in_threadpool
from starlette.websockets import WebSocketDisconnect

from ..clauses.registry import CLAUSE_TYPES
from ..statement.document import Statement
from ..statement.edits import EditError, apply, read_edit
from ..statement.evaluate import Outcome
from ..statement.plan import plan
from ..statement.standing import amended, notices_of, still_told
from ..statement.strict_json import read_json
from ..store.results import ResultStore
from ..store.store import Position, Store
from .channel import (
    Asked,
    Busy,
    Cancel,
    Drawn,
    Dropped,
    GoOn,
    Idle,
    OfRun,
    Preview,
    Progress,
    Quiet,
    Restart,
    Settle,
    Trouble,
    read_asked,
)
from .jobs import Evaluate, Job, sketch_key
from .messages import OutcomeMessage, notice_message, outcome_message, statement_message
from .pool import Pool, Ticket
from .shown import Shown
from .windows import MOST_WAITING, Window

__all__ = ["Hub", "Session"]

LARGEST_MESSAGE = 2_000_000
CLOSING = 2.0
"""Seconds in which a window that takes nothing is told that it is closed."""
MOST_SESSIONS = 64
"""Projects that are kept in mind with no window open."""
UNSEEN, HELD = 3.0, 12.0
"""Seconds after which, when nothing came of any evaluation, the one that runs is let go on although
a newer one is wanted, and for how long."""
KEEP_AFTER = 1.5
"""Seconds after which results that still stand are kept for a later day."""
PREVIEW_PAUSE = 0.6
"""Seconds a preview waits for the next one before it goes on to what the view does not draw."""


class Run:
    """One evaluation: whom it tells, and what it has to say when."""

    def __init__(self, session: Session, wanted: Wanted) -> None:
        self.session, self.windows = session, wanted.windows
        self.keep, self.preview = wanted.keep, wanted.preview
        self.steps = plan(wanted.statement)
        self.text = wanted.statement.text()
        self.fresh: frozenset[str] = frozenset()
        self.picture = True
        """Whether it is at what is drawn, and not yet at the rest."""
        self.told: set[str] = set()
        """Ids of clauses that were told of."""
        self.number, self.started = session.run, time.perf_counter()
        self.drawn = False
        self.notices = {
            name: [notice_message(Outcome(name, "", "done"), n) for n in notices]
            for name, notices in notices_of(self.steps).items()
        }
        """What is told of clauses for where they stand."""
        self.amended = amended(self.steps)
        self.keys = [s.key for s in self.steps if s.key]
        drawn = [
            s.entry.id
            for s in self.steps
            if s.entry.kind not in CLAUSE_TYPES or CLAUSE_TYPES[s.entry.kind].drawn
        ]
        self.last_drawn = drawn[-1] if drawn else None

    def say(self, message: OfRun) -> None:
        own = message.model_copy(update={"run": self.number, "preview": self.preview})
        for window in self.windows:
            window.say(own)

    def tell(self, outcome: OutcomeMessage) -> None:
        self.told.add(outcome.id)
        if outcome.status == "done":
            told = still_told(outcome.warnings, outcome.id, self.amended)
            told += self.notices.get(outcome.id, [])
            outcome = outcome.model_copy(update={"warnings": told})
        if self.keep:
            self.session.outcomes[outcome.id] = outcome
        for window in self.windows:
            window.show(outcome, self.session.hub.shown, self.number)
        if outcome.id == self.last_drawn and not self.drawn:
            self.drawn = True
            self.session.seen_at = time.monotonic()
            self.say(Drawn())

    def seen_by(self, key: str) -> str:
        """The key by which all of a result that is wanted is known, or "": for previews it may be
        that of its sketch."""
        keys = (key,) if self.keep else (key, sketch_key(key))
        return next((k for k in keys if self.session.hub.shown.known(k, complete=self.keep)), "")

    def tell_known(self) -> None:
        """Everything is known by its key: nothing needs to run. Ids and inputs are those of this
        statement."""
        for step in self.steps:
            found = None if step.entry.off else self.session.hub.shown.get(self.seen_by(step.key))
            if found is None:
                self.tell(outcome_message(Outcome(step.entry.id, step.entry.kind, "off")))
                continue
            own = {
                "id": step.entry.id,
                "inputs": {name: list(ids) for name, ids in step.inputs.items()},
                "resolved": step.resolved,
                "again": True,
            }
            self.tell(found[0].model_copy(update=own))

    def hear(self, kind: str, what: tuple[Any, ...]) -> None:
        """Takes what the worker says."""
        if self.number != self.session.run:
            return
        if kind == "outcome":
            outcome, geometry, measures = what
            if outcome.key:
                self.session.hub.shown.put(outcome, geometry or b"", measures or b"")
            self.tell(outcome)
        elif kind == "progress":
            self.say(Progress(clause=what[0], share=what[1]))
        elif kind == "motion":
            self.session.seen_at = time.monotonic()
            for window in self.windows:
                window.put(what[0])
        elif kind == "quiet":
            self.session.say_quiet(*what)
        elif kind == "failed":
            self.say(Trouble(text=what[0]))
            self.end(complete=False)
        elif kind == "done" and what[0] and self.picture:
            self.picture = False
            self.go_on_with_rest()
        elif kind == "done":
            self.end()

    def go_on_with_rest(self) -> None:
        """What the view does not draw; while a hand is dragging only when it rests, so that the
        workers are free for the next picture."""
        drawn = self.session.ticket

        def go_on() -> None:
            if self.number == self.session.run and self.session.ticket is drawn:
                self.session.hand_in(self)

        if self.keep:
            go_on()
        else:
            asyncio.get_running_loop().call_later(PREVIEW_PAUSE, go_on)

    def job(self) -> Evaluate:
        """What is to be worked out: first what is drawn, then the rest."""
        shown = self.session.hub.shown
        keys = self.keys if self.keep else [*self.keys, *map(sketch_key, self.keys)]
        known = frozenset(k for k in keys if shown.known(k, complete=True))
        begun = frozenset(k for k in keys if k not in known and shown.known(k, complete=False))
        return Evaluate(
            self.text,
            known=known,
            begun=begun,
            fresh=self.fresh if self.picture else frozenset(),
            sketch=not self.keep,
            picture=self.picture,
            told=frozenset(self.told),
        )

    async def kept(self) -> None:
        """Keeps the results, unless they are soon those of a state that is passed."""
        await asyncio.sleep(KEEP_AFTER)
        if self.number == self.session.run:
            await self.session.hub.shown.keep(self.keys)

    def end(self, complete: bool = True) -> None:
        if self.keep and complete:
            self.session.settled = True
            self.session.hub.background(self.kept())
        if self.last_drawn is None:
            self.say(Drawn())
        self.say(Idle(seconds=time.perf_counter() - self.started))
        self.session.ended()


@dataclass(frozen=True, eq=False)
class Wanted:
    """An evaluation that is asked for: of what, for which windows, whether its results are those of
    the project, and the number of the preview it is for."""

    statement: Statement
    windows: list[Window]
    keep: bool
    preview: int | None = None


class Session:
    """A project that is open somewhere. Only one evaluation runs at a time: a newer one ends the
    one before, or, where nothing came of any for a while, waits for its end, so that also somebody
    who never rests sees what comes of it."""

    def __init__(self, project: str, hub: Hub, position: Position) -> None:
        self.project, self.hub, self.position = project, hub, position
        self.windows: set[Window] = set()
        self.outcomes: dict[str, OutcomeMessage] = {}
        self.lock = asyncio.Lock()
        self.ticket: Ticket | None = None
        self.jobs: set[Ticket] = set()
        self.run = 0
        self.settled = False
        self.fresh: frozenset[str] = frozenset()
        """Keys of what is to be worked out anew by the next evaluation."""
        self.next: Wanted | None = None
        """What waits for the evaluation that runs."""
        self.seen_at = time.monotonic()
        """When something last came of an evaluation."""

    @property
    def busy(self) -> bool:
        return self.ticket is not None and not self.ticket.finished.done()

    @property
    def idle(self) -> bool:
        """Whether nobody is in it and nothing is done for it."""
        return not (self.windows or self.busy or self.jobs or self.lock.locked())

    def say(self, message: OfRun) -> None:
        own = message.model_copy(update={"run": self.run})
        for window in self.windows:
            window.say(own)

    def say_quiet(self, clause: str, seconds: float, more: float) -> None:
        """Nothing was heard of a clause for so many seconds; it is ended after so many more."""
        self.say(Quiet(clause=clause, seconds=seconds, more=more))

    def go_on(self) -> None:
        """Work that was quiet for long is let go on."""
        for ticket in (*([self.ticket] if self.ticket else []), *self.jobs):
            self.hub.pool.go_on(ticket)

    def stop(self) -> None:
        self.next = None
        if self.ticket is not None:
            self.hub.pool.cancel(self.ticket)
            self.ticket = None

    def cancel(self) -> None:
        """Ends all work for this project: evaluation, packs, tables."""
        self.stop()
        for job in self.jobs:
            self.hub.pool.cancel(job)

    def ended(self) -> None:
        """An evaluation has come to its end; what waited for that is begun."""
        self.seen_at = time.monotonic()
        wanted, self.next = self.next, None
        if wanted is not None:
            self.hub.background(self._start(wanted))

    def _holds(self) -> bool:
        """Whether the evaluation that runs is let go on although a newer one is wanted."""
        if not self.busy or self.ticket is None or self.ticket.worker is None:
            return False
        now = time.monotonic()
        return now - self.seen_at > UNSEEN and now - self.ticket.began < HELD

    def _overdue(self, wanted: Wanted) -> None:
        """What was held is still running: it gives way now."""
        if self.next is wanted:
            self.hub.background(self._start(wanted))

    async def moved(self, position: Position) -> None:
        """The project stands elsewhere: tells all windows and evaluates."""
        self.position = position
        message = statement_message(self.project, position).model_dump_json()
        for window in self.windows:
            window.put(message)
        await self.evaluate()

    async def evaluate(self) -> None:
        """Evaluates where the project stands, for all windows."""
        self.settled = False
        await self._start(Wanted(self.position.statement, list(self.windows), keep=True))

    async def restart(self, clause: str) -> None:
        """Works a clause, and all that stands on it, out anew from its start."""
        steps = plan(self.position.statement)
        anew = {clause}
        for step in steps:
            if anew & set(step.taken):
                anew.add(step.entry.id)
        self.fresh = frozenset(
            k for s in steps if s.entry.id in anew for k in (s.key, s.trail) if k
        )
        self.hub.pool.allow(self.fresh)
        for window in self.windows:
            window.forget(self.fresh)
        self.stop()
        await self.evaluate()

    async def preview(self, window: Window, edit: Any, number: int) -> None:
        """Evaluates an edit that is not made yet, for the window that asks."""
        try:
            statement, _ = apply(self.position.statement, read_edit(edit))
        except EditError as error:
            window.say(Trouble(text=str(error)))
            window.say(Drawn(run=self.run, preview=number))
            return
        self.settled = False
        await self._start(Wanted(statement, [window], keep=False, preview=number))

    async def _start(self, wanted: Wanted) -> None:
        if self._holds() and self.ticket is not None:
            if self.next is None:
                left = HELD - (time.monotonic() - self.ticket.began)
                asyncio.get_running_loop().call_later(left, self._overdue, wanted)
            self.next = wanted
            return
        if not self.busy:
            self.seen_at = time.monotonic()
        self.next = None
        self.run += 1
        run = Run(self, wanted)
        shown = self.hub.shown
        if wanted.keep:
            self.outcomes = {}
            await shown.recall(run.keys)
        if run.number != self.run:
            return
        run.fresh, self.fresh = self.fresh, frozenset()
        shown.forget(run.fresh)
        run.say(Busy())
        if all(s.entry.off or (s.key and run.seen_by(s.key)) for s in run.steps):
            self.stop()
            run.tell_known()
            run.end()
            return
        self.hand_in(run)

    def hand_in(self, run: Run) -> None:
        """Gives what a run is at to the workers, instead of what they were given before."""
        self.ticket = self.hub.pool.submit(
            self.project,
            run.job(),
            run.hear,
            lane="evaluate",
            instead_of=self.ticket,
            rest=not run.picture,
        )


class Hub:
    """All open sessions."""

    def __init__(self, store: Store, results: ResultStore, pool: Pool) -> None:
        self.store, self.pool, self.shown = store, pool, Shown(results)
        self._tasks: set[asyncio.Future[Any]] = set()
        self._sessions: dict[str, Session] = {}
        self._opening = asyncio.Lock()

    def background(self, work: Coroutine[Any, Any, None]) -> None:
        """Lets something go on by itself."""
        task = asyncio.ensure_future(work)
        self._tasks.add(task)
        task.add_done_callback(self._tasks.discard)

    async def session(self, project: str) -> Session:
        """The session of a project, opened when it is not; raises ``UnknownProject``."""
        async with self._opening:
            if project not in self._sessions:
                self._let_go()
                position = await run_in_threadpool(self.store.position, project)
                self._sessions[project] = Session(project, self, position)
            return self._sessions[project]

    def _let_go(self) -> None:
        """Forgets sessions that nobody is in, when there are many."""
        idle = [p for p, s in self._sessions.items() if s.idle]
        for project in idle[: max(len(self._sessions) - MOST_SESSIONS, 0)]:
            del self._sessions[project]

    async def reread(self) -> None:
        """Brings open sessions to where the store says their projects stand."""
        for session in list(self._sessions.values()):
            async with session.lock:
                position = await run_in_threadpool(self.store.position, session.project)
                if position.head != session.position.head:
                    await session.moved(position)

    async def do(self, project: str, job: Job, session: Session) -> tuple[Any, ...]:
        """Runs a job to its end, telling the project's windows of its progress; its last
        message."""

        def heard(kind: str, what: tuple[Any, ...]) -> None:
            if kind == "progress" and what[0] not in session.outcomes:
                session.say(Progress(clause="", what=what[0], share=what[1]))
            elif kind == "quiet":
                session.say_quiet(*what)

        ticket = self.pool.submit(project, job, heard)
        session.jobs.add(ticket)
        try:
            return await ticket.finished
        finally:
            session.jobs.discard(ticket)
            if not session.busy:
                session.say(Idle(seconds=0.0))

    async def serve(self, project: str, socket: WebSocket) -> None:
        """Serves one window until it closes."""
        session = await self.session(project)
        window = Window(socket)
        session.windows.add(window)
        pump = asyncio.create_task(window.pump())
        try:
            window.say(statement_message(project, session.position))
            if session.settled:
                for outcome in session.outcomes.values():
                    window.show(outcome, self.shown, session.run)
                window.say(Idle(run=session.run, seconds=0.0))
            else:
                await session.evaluate()
            listening = asyncio.create_task(self._listen(session, window))
            window.on_full = listening.cancel
            await listening
        except (WebSocketDisconnect, RuntimeError):
            pass
        except asyncio.CancelledError:
            if window.waiting <= MOST_WAITING:
                raise
            pump.cancel()
            with contextlib.suppress(TimeoutError, RuntimeError):
                await asyncio.wait_for(socket.close(1013, "This window takes nothing"), CLOSING)
        finally:
            pump.cancel()
            with contextlib.suppress(asyncio.CancelledError, WebSocketDisconnect, RuntimeError):
                await pump
            session.windows.discard(window)
            if not session.windows:
                session.stop()
                session.settled = session.settled and bool(session.outcomes)
            elif not session.settled:
                await session.evaluate()

    async def _listen(self, session: Session, window: Window) -> None:
        while True:
            received = await window.socket.receive()
            if received["type"] == "websocket.disconnect":
                raise WebSocketDisconnect(received.get("code", 1000))
            try:
                text = received.get("text")
                if text is None:
                    raise ValueError("Messages are texts in JSON.")
                if len(text) > LARGEST_MESSAGE:
                    raise ValueError("The message is too long.")
                await self._asked(session, window, read_asked(read_json(text)))
            except (ValueError, RecursionError) as error:
                window.say(Trouble(text=f"That message was not understood: {error}"))

    async def _asked(self, session: Session, window: Window, message: Asked) -> None:
        """Does what a window asks."""
        match message:
            case Preview():
                await session.preview(window, message.edit, message.number)
            case Settle():
                await session.evaluate()
            case Restart():
                await session.restart(message.clause)
            case Cancel():
                session.cancel()
                session.say(Idle(seconds=0.0, cancelled=True))
            case GoOn():
                session.go_on()
            case Dropped():
                window.forget(message.keys)
