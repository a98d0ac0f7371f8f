"""What can be asked of worker processes."""

from __future__ import annotations

import os
from collections.abc import Mapping
from dataclasses import dataclass, field
from multiprocessing.connection import Connection
from typing import Any

__all__ = [
    "ArrangeSheets",
    "DrawSheet",
    "DrawUnderlay",
    "Evaluate",
    "Job",
    "MakeTable",
    "Portray",
    "TrySetting",
    "WriteCurves",
    "WriteModel",
    "WritePack",
    "WriteSheet",
    "sketch_key",
    "start",
]


NICE, NICER = 2, 12
"""How far workers stand back behind the server, so that it answers; ones that give way further."""


def start(
    connection: Connection, cancelled: Any, files: str, memory: int, gives_way: bool = False
) -> None:
    """Where a worker process begins, which speaks over ``connection``, looks at ``cancelled``, has
    stored ``files`` in a folder and ``memory`` (bytes) to take, and where it ``gives_way`` is in no
    hurry. What it needs is imported only there, so that the server starts sooner."""
    from ..exchange.processes import ends_with_its_parent

    ends_with_its_parent()
    os.setpriority(os.PRIO_PROCESS, 0, NICER if gives_way else NICE)
    from .worker import work

    work(connection, cancelled, files, memory)


def sketch_key(key: str) -> str:
    """The key of the sketch of a result."""
    return f"{key}~"


@dataclass(frozen=True)
class Job:
    """A statement (JSON) to work on. Results of ``barred`` keys are not made but fail with their
    sentence."""

    statement: str
    barred: Mapping[str, str] = field(default_factory=dict, kw_only=True)


@dataclass(frozen=True)
class Evaluate(Job):
    """Evaluates clauses; sends what shows those whose key is not ``known``, and of those ``begun``
    only what was left for later. Results with ``fresh`` keys are worked out anew. With ``sketch``,
    results are shown by a sketch where they have one, under a key of its own.

    With ``picture`` only as far as the last clause that the view draws, without what is left for
    later; ends by saying whether there is a rest. The rest is begun only after ``pause`` seconds,
    so that while a hand is dragging the machine is free for the next picture; of clauses that were
    ``told`` of nothing more is said where there is nothing new.
    """

    known: frozenset[str] = frozenset()
    begun: frozenset[str] = frozenset()
    pause: float = 0.0
    fresh: frozenset[str] = frozenset()
    sketch: bool = False
    picture: bool = False
    told: frozenset[str] = frozenset()


@dataclass(frozen=True)
class MakeTable(Job):
    """The schedule ``name`` of every result that has one."""

    name: str = ""


@dataclass(frozen=True)
class DrawSheet(Job):
    """Sheet ``number`` (from 1 over all sheets clauses) as SVG."""

    number: int = 1


@dataclass(frozen=True)
class WriteSheet(Job):
    """The same sheet as DXF."""

    number: int = 1


@dataclass(frozen=True)
class ArrangeSheets(Job):
    """A better arrangement of what clause ``clause`` sets out, looked for so many ``seconds`` or
    until it is stopped."""

    clause: str = ""
    seconds: float = 30.0


@dataclass(frozen=True)
class WritePack(Job):
    """The pack into ``folder``."""

    folder: str = ""
    wanted: frozenset[str] | None = None


@dataclass(frozen=True)
class WriteModel(Job):
    """The solids of all that is made as glTF, in one binary file; nothing where there are none."""


@dataclass(frozen=True)
class DrawUnderlay(Job):
    """The straightened picture of clause ``clause`` as PNG, and where it lies."""

    clause: str = ""


@dataclass(frozen=True)
class WriteCurves(Job):
    """The curves of clause ``clause`` as SVG or DXF."""

    clause: str = ""
    ending: str = "svg"


@dataclass(frozen=True)
class Portray(Job):
    """What is drawn of a statement: its outcomes and a small picture as PNG."""


@dataclass(frozen=True)
class TrySetting(Job):
    """What the statement comes to with other values: a small picture, and figures: first those of
    what it shows."""
