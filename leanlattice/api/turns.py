"""Whose turn it is: work that waits, by project, so that none waits long for the others."""

from __future__ import annotations

from collections import deque
from dataclasses import dataclass
from typing import Generic, TypeVar

__all__ = ["Entry", "Turns"]

LONGEST_WAIT, LONGEST_REST = 4.0, 8.0
"""Seconds after which what has waited longest goes first, whatever its project has had, and the
same for what can wait."""
What = TypeVar("What")


@dataclass(frozen=True, eq=False)
class Entry(Generic[What]):
    """Work that waits in a ``lane`` of a ``project`` ``since`` a time in seconds; ``rest`` where it
    can wait until nobody waits for anything else."""

    project: str
    lane: str
    what: What
    since: float
    rest: bool = False


class Turns(Generic[What]):
    """Work that waits. In each lane of a project one thing is done after the other; among projects
    those go first that had the least time so far, so that small work overtakes large.

    Start-time fair queueing (Goyal, Vin and Cheng, 1996) by the seconds that work took; one that
    comes anew begins where the others are, and so has no credit from before.
    """

    def __init__(self) -> None:
        self._waiting: dict[tuple[str, str], deque[Entry[What]]] = {}
        self._busy: set[tuple[str, str]] = set()
        self._had: dict[str, float] = {}
        self._ended: dict[tuple[str, str], float] = {}
        self._level = 0.0

    def __len__(self) -> int:
        return sum(map(len, self._waiting.values()))

    def add(self, entry: Entry[What], first: bool = False) -> None:
        """Puts work at the end of its lane, or ``first`` in it."""
        if not self._active(entry.project):
            self._had[entry.project] = max(self._had.get(entry.project, 0.0), self._level)
        lane = self._waiting.setdefault((entry.project, entry.lane), deque())
        (lane.appendleft if first else lane.append)(entry)

    def drop(self, what: What) -> Entry[What] | None:
        """Takes work out that waits; none where it does not."""
        for key, lane in self._waiting.items():
            for entry in lane:
                if entry.what is what:
                    lane.remove(entry)
                    self._tidy(key)
                    return entry
        return None

    def order(self, now: float) -> list[Entry[What]]:
        """What can be begun, in the order in which it is to be."""
        heads = [lane[0] for key, lane in self._waiting.items() if key not in self._busy]

        def rank(entry: Entry[What]) -> tuple[bool, bool, float, float]:
            # For what was before it in its lane, nobody else has kept it waiting.
            since = max(entry.since, self._ended.get((entry.project, entry.lane), entry.since))
            if now - since > (LONGEST_REST if entry.rest else LONGEST_WAIT):
                return False, False, 0.0, since
            return True, entry.rest, self._had[entry.project], since

        return sorted(heads, key=rank)

    def begin(self, entry: Entry[What]) -> None:
        """The first of a lane is begun."""
        key = entry.project, entry.lane
        self._waiting[key].popleft()
        self._busy.add(key)
        self._level = max(self._level, self._had[entry.project])
        self._tidy(key)

    def end(self, project: str, lane: str, began: float, now: float) -> None:
        """What was begun in a lane has ended now."""
        self._busy.discard((project, lane))
        self._ended[project, lane] = now
        self._had[project] = self._had.get(project, self._level) + now - began
        for known in list(self._had):
            if self._had[known] <= self._level and not self._active(known):
                del self._had[known]
        for key in [k for k in self._ended if k not in self._waiting]:
            del self._ended[key]

    def _active(self, project: str) -> bool:
        return any(p == project for p, _ in (*self._waiting, *self._busy))

    def _tidy(self, key: tuple[str, str]) -> None:
        if not self._waiting[key]:
            del self._waiting[key]
