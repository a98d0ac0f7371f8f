"""The live channel: one session a project, evaluating its statement and telling every window what came of it."""

from __future__ import annotations

import asyncio
import contextlib
import json
import time
from collections import OrderedDict
from collections.abc import Callable
from typing import Any

from fastapi import WebSocket
from starlette.concurrency import run_in_threadpool
from starlette.websockets import WebSocketDisconnect

from ..clauses.registry import CLAUSE_TYPES
from ..statement.document import Statement
from ..statement.edits import EditError, apply
from ..statement.evaluate import Outcome, Step, plan
from ..store.store import EDIT, Position, ResultStore, Store
from .jobs import Evaluate, Job
from .messages import OutcomeMessage, outcome_message, statement_message
from .pool import Pool, Ticket

__all__ = ["Hub", "Session"]

MEMORY = 400_000_000
LARGEST_MESSAGE = 2_000_000


class Shown:
    """What shows results, by key: outcome and messages. Kept in memory up to a size, and in the store."""

    def __init__(self, store: ResultStore) -> None:
        self.store = store
        self._memory: OrderedDict[str, tuple[OutcomeMessage, bytes, bytes]] = OrderedDict()
        self._size = 0

    def __contains__(self, key: str) -> bool:
        return key in self._memory

    def get(self, key: str) -> tuple[OutcomeMessage, bytes, bytes] | None:
        if key in self._memory:
            self._memory.move_to_end(key)
        return self._memory.get(key)

    def put(self, outcome: OutcomeMessage, geometry: bytes, measures: bytes) -> None:
        if outcome.key in self._memory:
            return
        self._memory[outcome.key] = (outcome, geometry, measures)
        self._size += len(geometry) + len(measures)
        while self._size > MEMORY and len(self._memory) > 1:
            _, (_, g, m) = self._memory.popitem(last=False)
            self._size -= len(g) + len(m)

    async def recall(self, keys: list[str]) -> None:
        """Brings what the store has of ``keys`` into memory."""
        missing = [k for k in keys if k and k not in self._memory]
        if missing:
            for outcome, geometry, measures in (await run_in_threadpool(self.store.get, missing)).values():
                self.put(OutcomeMessage.model_validate_json(outcome), geometry, measures)

    async def keep(self, keys: list[str]) -> None:
        """Writes what is in memory of ``keys`` to the store, as it will be wanted after a restart."""
        for key in keys:
            found = self._memory.get(key)
            if found is not None:
                outcome, geometry, measures = found
                await run_in_threadpool(self.store.put, key, outcome.model_dump_json(), geometry, measures)


class Window:
    """One socket. ``have`` are the keys whose geometry it was sent."""

    def __init__(self, socket: WebSocket) -> None:
        self.socket = socket
        self.have: set[str] = set()
        self.queue: asyncio.Queue[str | bytes] = asyncio.Queue()

    def say(self, kind: str, **what: Any) -> None:
        self.queue.put_nowait(json.dumps({"type": kind, **what}))

    def show(self, outcome: OutcomeMessage, shown: Shown, run: int) -> None:
        """The geometry first, so that an outcome never speaks of what is not there yet."""
        found = shown.get(outcome.key) if outcome.key and outcome.key not in self.have else None
        if found is not None:
            self.have.add(outcome.key)
            for message in found[1:]:
                if message:
                    self.queue.put_nowait(message)
        self.queue.put_nowait(f'{{"type":"outcome","run":{run},"outcome":{outcome.model_dump_json()}}}')

    async def pump(self) -> None:
        while True:
            message = await self.queue.get()
            if isinstance(message, str):
                await self.socket.send_text(message)
            else:
                await self.socket.send_bytes(message)


class Session:
    """A project that is open somewhere. Only one evaluation runs at a time: a newer one ends the one before."""

    def __init__(self, project: str, hub: Hub, position: Position) -> None:
        self.project, self.hub, self.position = project, hub, position
        self.windows: set[Window] = set()
        self.outcomes: dict[str, OutcomeMessage] = {}
        self.lock = asyncio.Lock()
        self.ticket: Ticket | None = None
        self.run = 0
        self.settled = False

    def say(self, kind: str, **what: Any) -> None:
        for window in self.windows:
            window.say(kind, **what)

    def stop(self) -> None:
        if self.ticket is not None:
            self.hub.pool.cancel(self.project, self.ticket)
            self.ticket = None

    async def moved(self, position: Position) -> None:
        """The project stands elsewhere: tells all windows and evaluates."""
        self.position = position
        message = statement_message(self.project, position).model_dump_json()
        for window in self.windows:
            window.queue.put_nowait(message)
        await self.evaluate()

    async def evaluate(self) -> None:
        """Evaluates where the project stands, for all windows."""
        self.outcomes, self.settled = {}, False
        await self._start(self.position.statement, list(self.windows), keep=True)

    async def preview(self, window: Window, edit: Any, number: int) -> None:
        """Evaluates an edit that is not made yet, for the window that asks."""
        try:
            statement, _ = apply(self.position.statement, EDIT.validate_python(edit))
        except (EditError, ValueError) as error:
            window.say("problem", text=str(error))
            window.say("drawn", run=self.run, preview=number)
            return
        self.settled = False
        await self._start(statement, [window], keep=False, preview=number)

    async def _start(self, statement: Statement, windows: list[Window], keep: bool, preview: int | None = None) -> None:
        self.stop()
        self.run += 1
        run, started = self.run, time.perf_counter()
        shown = self.hub.shown
        steps = plan(statement)
        keys = [s.key for s in steps if s.key]
        await shown.recall(keys)
        if run != self.run:
            return
        drawn = [s.entry.id for s in steps if s.entry.kind not in CLAUSE_TYPES or CLAUSE_TYPES[s.entry.kind].drawn]
        waiting = {"drawn": drawn[-1] if drawn else None}

        def told(outcome: OutcomeMessage) -> None:
            if keep:
                self.outcomes[outcome.id] = outcome
            for window in windows:
                window.show(outcome, shown, run)
                if outcome.id == waiting["drawn"]:
                    window.say("drawn", run=run, preview=preview)

        def ended() -> None:
            seconds = time.perf_counter() - started
            if keep:
                self.settled = True
                task = asyncio.ensure_future(shown.keep(keys))
                self.hub.tasks.add(task)
                task.add_done_callback(self.hub.tasks.discard)
            if not drawn:
                for window in windows:
                    window.say("drawn", run=run, preview=preview)
            for window in windows:
                window.say("idle", run=run, seconds=seconds, preview=preview)

        for window in windows:
            window.say("busy", run=run, preview=preview)
        if all(s.entry.off or (s.key and s.key in shown) for s in steps):
            self._tell_known(steps, told)
            ended()
            return

        def heard(kind: str, what: tuple[Any, ...]) -> None:
            if run != self.run:
                return
            if kind == "outcome":
                outcome, geometry, measures = what
                if outcome.key:
                    shown.put(outcome, geometry or b"", measures or b"")
                told(outcome)
            elif kind == "progress":
                for window in windows:
                    window.say("progress", run=run, clause=what[0], share=what[1])
            elif kind in ("done", "failed"):
                if kind == "failed":
                    for window in windows:
                        window.say("problem", text=what[0])
                ended()

        known = frozenset(k for k in keys if k in shown)
        self.ticket = self.hub.pool.submit(self.project, Evaluate(statement.text(), known), heard)

    def _tell_known(self, steps: list[Step], told: Callable[[OutcomeMessage], None]) -> None:
        """Everything is known by its key: nothing needs to run. Ids and inputs are those of this statement."""
        for step in steps:
            if step.entry.off:
                told(outcome_message(Outcome(step.entry.id, step.entry.kind, "off")))
                continue
            found = self.hub.shown.get(step.key)
            assert found is not None
            told(found[0].model_copy(update={"id": step.entry.id, "inputs": dict(step.inputs), "resolved": step.resolved, "again": True}))


class Hub:
    """All open sessions."""

    def __init__(self, store: Store, results: ResultStore, pool: Pool) -> None:
        self.store, self.pool, self.shown = store, pool, Shown(results)
        self.tasks: set[asyncio.Future[Any]] = set()
        self._sessions: dict[str, Session] = {}
        self._opening = asyncio.Lock()

    async def session(self, project: str) -> Session:
        """The session of a project, opened when it is not; raises ``UnknownProject``."""
        async with self._opening:
            if project not in self._sessions:
                position = await run_in_threadpool(self.store.position, project)
                self._sessions[project] = Session(project, self, position)
            return self._sessions[project]

    async def do(self, project: str, job: Job, session: Session) -> tuple[Any, ...]:
        """Runs a job to its end, telling the project's windows of its progress; its last message."""

        def heard(kind: str, what: tuple[Any, ...]) -> None:
            if kind == "progress" and what[0] not in session.outcomes:
                session.say("progress", run=session.run, clause="", what=what[0], share=what[1])

        try:
            return await self.pool.submit(project, job, heard).finished
        finally:
            if session.ticket is None or session.ticket.finished.done():
                session.say("idle", run=session.run, seconds=0.0, preview=None)

    async def serve(self, project: str, socket: WebSocket) -> None:
        """Serves one window until it closes."""
        session = await self.session(project)
        window = Window(socket)
        session.windows.add(window)
        pump = asyncio.create_task(window.pump())
        try:
            window.queue.put_nowait(statement_message(project, session.position).model_dump_json())
            if session.settled:
                for outcome in session.outcomes.values():
                    window.show(outcome, self.shown, session.run)
                window.say("idle", run=session.run, seconds=0.0, preview=None)
            else:
                await session.evaluate()
            await self._listen(session, window)
        except (WebSocketDisconnect, RuntimeError):
            pass
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
            text = await window.socket.receive_text()
            try:
                if len(text) > LARGEST_MESSAGE:
                    raise ValueError("The message is too long.")
                message = json.loads(text)
                kind = message["type"]
                if kind == "preview":
                    await session.preview(window, message["edit"], int(message["number"]))
                elif kind == "settle":
                    await session.evaluate()
                elif kind == "cancel":
                    session.stop()
                    session.say("idle", run=session.run, seconds=0.0, preview=None, cancelled=True)
                elif kind == "dropped":
                    window.have -= {str(k) for k in message["keys"]}
                else:
                    raise ValueError(f"There is no message of type “{kind}”.")
            except (ValueError, KeyError, TypeError, RecursionError) as error:
                window.say("problem", text=f"That message was not understood: {error}")
