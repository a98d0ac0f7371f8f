"""Ribs of version 3, whose clauses also said how they are slotted, stand, and are lightened."""

from __future__ import annotations

from collections.abc import Collection, Iterator
from typing import Any

from ..document import ClauseEntry
from . import former_kinds

__all__ = ["ribs_parted"]

VERSION = 3
RIBS = ("waffle", "spine-ribs", "round-ribs")
SLOTS = ("clearance", "above", "turn", "share", "corners", "tool", "entry", "chamfer", "wall")
FEET = ("feet", "foot", "inset", "ground", "proud")
OPENINGS = ("border", "radius")
RODS = ("rod", "holes", "wall")
CABLES = "cables"
LONGEST_ID = 40


def ribs_parted(entry: ClauseEntry, old: ClauseEntry, ids: Collection[str]) -> list[ClauseEntry]:
    """Clauses in place of one that cut ribs: itself, and one each for how they are slotted, stand,
    are opened and have rods, where the ``old`` one said so otherwise than by default; ``ids`` are
    taken. None for clauses of other kinds."""
    if entry.kind not in RIBS:
        return []
    moved = {*SLOTS, *FEET, *OPENINGS, *RODS, "inside", "rods"}
    kept = {name: value for name, value in entry.values.items() if name not in moved}
    out = [entry.model_copy(update={"values": kept}, deep=True)]
    for kind, values in _amending(entry):
        on: dict[str, Any] = {"ribs": out[-1].id}
        if kind == "rib-rods" and CABLES in old.on:
            on["curves"] = old.on[CABLES]
        name = _free(f"{entry.id}-{kind.removeprefix('rib-')}", {*ids, *(c.id for c in out)})
        fresh = {"id": name, "kind": kind, "values": values, "on": on}
        out.append(entry.model_copy(update=fresh, deep=True))
    return out


def _amending(entry: ClauseEntry) -> Iterator[tuple[str, dict[str, Any]]]:
    """Kinds and values of the clauses that say what one that cut ribs said of them."""
    former = former_kinds(VERSION)[entry.kind].values
    said = {**former, **entry.values}
    slots = {name: said[name] for name in SLOTS if said[name] != former[name]}
    if slots:
        yield "rib-slots", slots
    if said["feet"] != "none" or said["proud"] != 0:
        yield "rib-feet", {name: said[name] for name in FEET}
    if said["inside"] == "open":
        yield "rib-openings", {name: said[name] for name in OPENINGS}
    if said["rods"] != "none":
        yield "rib-rods", {name: said[name] for name in RODS} | {"way": said["rods"]}


def _free(name: str, taken: Collection[str]) -> str:
    name = name[:LONGEST_ID]
    number = 2
    free = name
    while free in taken:
        free = f"{name[: LONGEST_ID - 3]}-{number}"
        number += 1
    return free
