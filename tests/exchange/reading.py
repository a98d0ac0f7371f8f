"""Which files of a pack each of its checks reads."""

from __future__ import annotations

import sys
import time
from collections.abc import ItemsView, Sequence
from functools import cached_property
from pathlib import Path
from typing import Any

from leanlattice.exchange.check import Check
from leanlattice.exchange.checks.pack_files import Pack

OPENED: list[set[str] | None] = [None]
"""Where paths of files that are opened are noted, while anybody wants to know."""


def note(path: Path | str) -> None:
    """Tells that a file is read, where what reads it opens it unseen or knows it already."""
    if OPENED[0] is not None:
        OPENED[0].add(str(path))


sys.addaudithook(lambda event, given: note(given[0]) if event == "open" else None)


class Tables(dict):
    """Tables that note which of them are looked into."""

    def __init__(self, tables: dict[str, Any], looked_into: set[str]) -> None:
        super().__init__(tables)
        self.looked_into = looked_into

    def get(self, name: str, *default: Any) -> Any:
        self.looked_into.add(name)
        return super().get(name, *default)

    def __getitem__(self, name: str) -> Any:
        self.looked_into.add(name)
        return super().__getitem__(name)

    def items(self) -> ItemsView[str, Any]:
        self.looked_into |= set(self)
        return super().items()


class WatchedPack(Pack):
    """A pack that notes which tables are looked into."""

    @cached_property
    def looked_into(self) -> set[str]:
        return set()

    @cached_property
    def tables(self) -> Tables:  # type: ignore[override]
        return Tables(Pack.tables.func(self), self.looked_into)


def read_by(checks: Sequence[Check], folder: Path) -> dict[str, set[str]]:
    """Names of the files in ``folder`` that each check reads, by the names of checks, those that
    take least long first. All tables are opened by each; they count where they are looked into."""
    out, seconds = {}, {}
    for check in checks:
        pack, OPENED[0] = WatchedPack(folder), set()
        started = time.perf_counter()
        try:
            list(check.found(pack))
            opened = {Path(path) for path in OPENED[0]}
        finally:
            OPENED[0] = None
        seconds[check.name] = time.perf_counter() - started
        own = {path.relative_to(folder).as_posix() for path in opened if folder in path.parents}
        tables = {f"{name}.csv" for name in pack.looked_into}
        out[check.name] = {name for name in own if not name.endswith(".csv")} | tables
    return {name: out[name] for name in sorted(out, key=seconds.__getitem__)}
