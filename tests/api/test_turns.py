"""Whose turn it is: fair among projects, and nothing waits for ever."""

from __future__ import annotations

from hypothesis import given
from hypothesis import strategies as st

from leanlattice.api.turns import LONGEST_WAIT, Entry, Turns


def simulated(works, servers=1, until=1000.0):
    """When each of ``works`` (time of arrival, project, seconds it takes) is begun, in a simulation
    of so many servers."""
    turns, begun, running, now = Turns(), {}, [], 0.0
    waiting = sorted(enumerate(works), key=lambda item: item[1][0])
    while (waiting or running or len(turns)) and now < until:
        while waiting and waiting[0][1][0] <= now:
            number, (arrival, project, _) = waiting.pop(0)
            turns.add(Entry(project, "evaluate", number, arrival))
        for end, project, began in [r for r in running if r[0] <= now]:
            running.remove((end, project, began))
            turns.end(project, "evaluate", began, end)
        for entry in turns.order(now):
            if len(running) < servers:
                turns.begin(entry)
                begun[entry.what] = now
                running.append((now + works[entry.what][2], entry.project, now))
        ahead = [r[0] for r in running] + ([waiting[0][1][0]] if waiting else [])
        now = min(ahead) if ahead else now
    return begun


def test_small_work_overtakes_large():
    works = [(0.0, "large", 3.0), (0.1, "large", 3.0), (0.2, "small", 0.1), (0.3, "small", 0.1)]
    begun = simulated(works)
    assert begun[2] < begun[1]
    assert begun[3] < begun[1]


def test_a_project_has_no_credit_from_when_it_rested():
    """One that comes after a long rest shares with one that was at work all along."""
    works = [(float(k), "busy", 1.0) for k in range(20)]
    works += [(10.0, "rested", 1.0) for _ in range(5)]
    begun = simulated(works)
    first = sorted((begun[k], works[k][1]) for k in range(len(works)) if begun[k] >= 11.0)[:6]
    assert {"busy", "rested"} == {project for _, project in first}


def test_a_project_does_one_thing_of_a_lane_at_a_time():
    begun = simulated([(0.0, "a", 2.0), (0.0, "a", 2.0), (0.0, "b", 1.0)], servers=3)
    assert (begun[0], begun[1], begun[2]) == (0.0, 2.0, 0.0)


def test_lanes_of_a_project_do_not_wait_for_each_other():
    turns = Turns()
    turns.add(Entry("p", "work", "pack", 0.0))
    turns.begin(turns.order(0.0)[0])
    turns.add(Entry("p", "evaluate", "edit", 1.0))
    assert [e.what for e in turns.order(1.0)] == ["edit"]


def test_what_is_dropped_is_not_begun():
    turns = Turns()
    turns.add(Entry("p", "evaluate", "first", 0.0))
    turns.add(Entry("p", "evaluate", "second", 0.0))
    assert turns.drop("first").since == 0.0
    assert turns.drop("never there") is None
    assert [e.what for e in turns.order(0.0)] == ["second"]
    assert turns.drop("second") is not None
    assert not len(turns)
    assert turns.order(0.0) == []


works = st.lists(
    st.tuples(st.floats(0, 20), st.sampled_from("abcdef"), st.floats(0.01, 2.0)), max_size=40
)


@given(works, st.integers(1, 3))
def test_everything_is_begun_once_and_lanes_keep_their_order(works, servers):
    begun = simulated(works, servers)
    assert sorted(begun) == list(range(len(works)))
    for project in "abcdef":
        own = sorted((works[k][0], k) for k in begun if works[k][1] == project)
        times = [begun[k] for _, k in own]
        assert times == sorted(times)


@given(st.integers(2, 20), st.floats(0.05, 0.9), st.integers(1, 2))
def test_nobody_waits_long_for_one_that_takes_much(people, each, servers):
    """One asks for more and more; the others for one thing each."""
    greedy = [(0.0, "greedy", 1.0) for _ in range(60)]
    others = [(5.0, f"p{k}", each) for k in range(people)]
    begun = simulated(greedy + others, servers)
    latest = max(begun[k] for k in range(60, 60 + people)) - 5.0
    assert latest <= LONGEST_WAIT + 2.0 + people * each / servers + each
