"""What shows results, by key: in memory up to a size, and in the store."""

from __future__ import annotations

from collections import OrderedDict
from collections.abc import Collection

from starlette.concurrency import run_in_threadpool

from ..store.results import ResultStore
from .messages import OutcomeMessage

__all__ = ["Shown"]

MEMORY = 400_000_000
"""Bytes of messages kept in memory."""
OUTCOME, PICKED = 1000, 36
"""Bytes of memory a figure or a warning takes, and of each thing a warning names."""


def _bytes(outcome: OutcomeMessage, geometry: bytes, measures: bytes) -> int:
    """Bytes that a result takes, of its words about as much as they are large."""
    words = OUTCOME * (1 + len(outcome.figures) + len(outcome.warnings))
    words += PICKED * sum(len(w.which) for w in outcome.warnings)
    return len(geometry) + len(measures) + words


class Shown:
    """What shows results, by key: outcome and messages. Kept in memory up to a size, and in the
    store."""

    def __init__(self, store: ResultStore, most: int = MEMORY) -> None:
        self.store, self._most = store, most
        self._memory: OrderedDict[str, tuple[OutcomeMessage, bytes, bytes]] = OrderedDict()
        self._size = 0

    def __contains__(self, key: str) -> bool:
        return key in self._memory

    def known(self, key: str, complete: bool) -> bool:
        """Whether there is something to show for a key, with nothing left for later if
        ``complete``."""
        return key in self._memory and (self._memory[key][0].complete or not complete)

    def get(self, key: str) -> tuple[OutcomeMessage, bytes, bytes] | None:
        if key in self._memory:
            self._memory.move_to_end(key)
        return self._memory.get(key)

    def put(self, outcome: OutcomeMessage, geometry: bytes, measures: bytes) -> None:
        known = self._memory.get(outcome.key)
        if known is not None:
            # What was left for later has come: more to say of it, and maybe more to draw.
            geometry, measures = geometry or known[1], measures or known[2]
            self._size -= _bytes(*known)
        self._memory[outcome.key] = (outcome, geometry, measures)
        self._size += _bytes(outcome, geometry, measures)
        while self._size > self._most and len(self._memory) > 1:
            _, oldest = self._memory.popitem(last=False)
            self._size -= _bytes(*oldest)

    def forget(self, keys: Collection[str]) -> None:
        """Lets go of what shows ``keys``."""
        self.store.forget(keys)
        for key in keys:
            if key in self._memory:
                self._size -= _bytes(*self._memory.pop(key))

    async def recall(self, keys: list[str]) -> None:
        """Brings what the store has of ``keys`` into memory."""
        missing = [k for k in keys if k and k not in self._memory]
        if missing:
            for outcome, geometry, measures in (
                await run_in_threadpool(self.store.get, missing)
            ).values():
                self.put(OutcomeMessage.model_validate_json(outcome), geometry, measures)

    async def keep(self, keys: list[str]) -> None:
        """Writes what is in memory of ``keys`` to the store, as it will be wanted after a
        restart."""
        new = [key for key in keys if not self.store.known(key)]
        found = [self._memory[key] for key in new if key in self._memory]
        rows = [(o.key, o.model_dump_json(), geometry, measures) for o, geometry, measures in found]
        await run_in_threadpool(self.store.put, rows)
