"""Sessions and windows by themselves: what is evaluated when, and what waits for whom."""

from __future__ import annotations

import asyncio
import time
from types import SimpleNamespace

import pytest
from hypothesis import given
from hypothesis import strategies as st

from leanlattice.api import live, windows
from leanlattice.api.live import Hub, Session
from leanlattice.api.messages import outcome_message
from leanlattice.api.shown import Shown
from leanlattice.api.windows import Window
from leanlattice.statement.edits import SetValue, apply
from leanlattice.statement.evaluate import Outcome
from leanlattice.store.store import Position

from ..conftest import demo


class NoResults:
    """A store in which nothing is kept."""

    def get(self, keys):
        return {}

    def put(self, rows):
        pass

    def known(self, key):
        return False

    def forget(self, keys):
        pass


class Given:
    """A job that was handed in, and what is said of it."""

    def __init__(self, job, hear):
        self.job, self.hear_of = job, hear
        self.finished = asyncio.get_running_loop().create_future()
        self.worker, self.began, self.cancelled = None, 0.0, False

    def begins(self, now):
        self.worker, self.began = object(), now

    def says(self, kind, *what):
        if kind in ("done", "failed"):
            self.finished.set_result((kind, *what))
        self.hear_of(kind, what)


class PoolOfNone:
    """Takes jobs in and leaves them to the test."""

    def __init__(self):
        self.given = []

    def submit(self, project, job, hear, lane, instead_of=None, rest=False):
        if instead_of is not None:
            self.cancel(instead_of)
        self.given.append(Given(job, hear))
        return self.given[-1]

    def cancel(self, ticket):
        ticket.cancelled = True
        if not ticket.finished.done():
            ticket.finished.set_result(("cancelled",))


def with_session(story, monkeypatch):
    clock = SimpleNamespace(now=100.0)
    clocks = SimpleNamespace(monotonic=lambda: clock.now, perf_counter=time.perf_counter)
    monkeypatch.setattr(live, "time", clocks)

    async def main():
        hub = Hub(None, NoResults(), PoolOfNone())
        session = Session("p", hub, Position(demo("ferry-shelter"), 0, False, False))
        window = Window(None)
        session.windows.add(window)
        await story(session, window, hub.pool.given, clock)

    asyncio.run(main())


async def edited(session, rise):
    statement, _ = apply(
        session.position.statement, SetValue(clause="cap", name="rise", value=rise)
    )
    await session.moved(Position(statement, session.position.head + 1, True, False))


def test_what_is_drawn_comes_first_and_the_rest_can_wait(monkeypatch):
    async def story(session, window, given, clock):
        await session.evaluate()
        (first,) = given
        assert first.job.picture
        first.says("done", True)
        assert not given[1].job.picture
        assert not session.settled
        given[1].says("done", False)
        assert session.settled
        assert len(given) == 2

    with_session(story, monkeypatch)


def test_while_a_hand_is_dragging_the_workers_are_free_for_the_next_picture(monkeypatch):
    monkeypatch.setattr(live, "PREVIEW_PAUSE", 0.05)
    edit = {"op": "set", "clause": "cap", "name": "rise", "value": 2.0}

    async def story(session, window, given, clock):
        await session.preview(window, edit, 1)
        given[0].says("done", True)
        assert len(given) == 1
        await session.preview(window, {**edit, "value": 2.1}, 2)
        await asyncio.sleep(0.2)
        assert len(given) == 2, "the rest of what was passed is not begun"
        given[1].says("done", True)
        await asyncio.sleep(0.2)
        assert len(given) == 3
        assert not given[2].job.picture
        session.stop()

    with_session(story, monkeypatch)


def test_a_newer_state_ends_the_evaluation_before(monkeypatch):
    async def story(session, window, given, clock):
        await session.evaluate()
        given[0].begins(clock.now)
        clock.now += 1
        await edited(session, 2.0)
        assert given[0].cancelled
        assert "2.0" in given[1].job.statement

    with_session(story, monkeypatch)


def test_somebody_who_never_rests_sees_what_comes_of_it(monkeypatch):
    """Each change would end the evaluation before; after a while one is let go on, and the newest
    state follows it."""

    async def story(session, window, given, clock):
        await session.evaluate()
        for k in range(8):
            if given[-1].worker is None:
                given[-1].begins(clock.now)
            clock.now += 1
            await edited(session, 2 + k / 10)
        held = given[-1]
        assert not held.cancelled
        assert clock.now - held.began < live.HELD
        assert str(2.7) not in held.job.statement
        held.says("done", False)
        while given[-1] is held:
            await asyncio.sleep(0.01)
        assert str(2.7) in given[-1].job.statement, "the newest, and none of those between"
        given[-1].says("done", False)
        assert session.settled

    with_session(story, monkeypatch)


def test_a_net_that_is_seen_to_move_stops_when_it_is_told_to(monkeypatch):
    async def story(session, window, given, clock):
        await session.evaluate()
        given[0].begins(clock.now)
        clock.now += live.UNSEEN + 1
        given[0].says("motion", b"places")
        await edited(session, 2.0)
        assert given[0].cancelled

    with_session(story, monkeypatch)


def test_one_that_takes_for_ever_is_not_let_go_on_for_ever(monkeypatch):
    async def story(session, window, given, clock):
        await session.evaluate()
        given[0].begins(clock.now)
        clock.now += live.UNSEEN + 1
        await edited(session, 2.0)
        assert not given[0].cancelled
        clock.now += live.HELD
        await edited(session, 2.1)
        assert given[0].cancelled
        assert "2.1" in given[-1].job.statement

    with_session(story, monkeypatch)


def test_what_fails_is_said_and_worked_out_again_when_it_is_asked_for(monkeypatch):
    async def story(session, window, given, clock):
        await session.evaluate()
        given[0].says("failed", "The worker ended.")
        assert not session.settled
        said = [window._queue.get_nowait() for _ in range(window._queue.qsize())]
        assert any("The worker ended." in str(message) for message in said)
        assert not session.busy

    with_session(story, monkeypatch)


def test_a_window_that_takes_nothing_is_closed_before_it_fills_the_memory(monkeypatch):
    monkeypatch.setattr(windows, "MOST_WAITING", 1000)
    window, full = Window(None), []
    window.on_full = lambda: full.append(True)
    for _ in range(100):
        window.put(bytes(90))
    assert full
    assert sum(map(len, iter_queue(window))) <= 1000


def iter_queue(window):
    while not window._queue.empty():
        yield window._queue.get_nowait()


@given(st.lists(st.tuples(st.sampled_from("abcdefgh"), st.integers(0, 400)), max_size=40))
def test_what_is_shown_keeps_within_its_bytes(puts):
    shown = Shown(NoResults(), most=5000)
    for key, size in puts:
        outcome = outcome_message(Outcome(key, "dome", "done", key=key))
        shown.put(outcome, bytes(size), b"")
        assert shown.known(key, complete=True)
    kept = list(dict.fromkeys(key for key, _ in reversed(puts)))
    last = dict(puts)
    inside = [k for k in kept if k in shown]
    assert inside == kept[: len(inside)], "what was used last stays"
    assert sum(1000 + last[k] for k in inside if last[k]) <= 5000 + 1400
    shown.forget(kept)
    assert shown._size == 0


@pytest.mark.parametrize("opened", [10, live.MOST_SESSIONS + 30])
def test_projects_nobody_is_in_are_let_go_when_there_are_many(opened):
    store = SimpleNamespace(position=lambda p: Position(demo("ferry-shelter"), 0, False, False))

    async def main():
        hub = Hub(store, NoResults(), PoolOfNone())
        watched = await hub.session("watched")
        watched.windows.add(Window(None))
        for k in range(opened):
            await hub.session(f"p{k}")
        assert await hub.session("watched") is watched
        assert len(hub._sessions) <= live.MOST_SESSIONS + 1
        return len(hub._sessions)

    assert asyncio.run(main()) == min(opened + 1, live.MOST_SESSIONS + 1)
