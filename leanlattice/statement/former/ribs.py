"""Ribs of version 3, whose clauses also said how they are slotted, stand, and are lightened."""

from __future__ import annotations

from collections.abc import Collection, Mapping
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
    former = former_kinds(VERSION)[entry.kind].values
    said = {**former, **entry.values}
    moved = {*SLOTS, *FEET, *OPENINGS, *RODS, "inside", "rods"}
    kept = {name: value for name, value in entry.values.items() if name not in moved}
    out = [entry.model_copy(update={"values": kept}, deep=True)]

    def add(kind: str, values: Mapping[str, Any], on: Mapping[str, Any] | None = None) -> None:
        source = {"ribs": out[-1].id}
        name = _free(f"{entry.id}-{kind.removeprefix('rib-')}", {*ids, *(c.id for c in out)})
        values = dict(values)
        out.append(
            entry.model_copy(
                update={"id": name, "kind": kind, "values": values, "on": source | dict(on or {})},
                deep=True,
            )
        )

    own = {name: said[name] for name in SLOTS if said[name] != former[name]}
    if own:
        add("rib-slots", own)
    if said["feet"] != "none" or said["proud"] != 0:
        add("rib-feet", {name: said[name] for name in FEET})
    if said["inside"] == "open":
        add("rib-openings", {name: said[name] for name in OPENINGS})
    if said["rods"] != "none":
        curves = {"curves": old.on[CABLES]} if CABLES in old.on else {}
        add("rib-rods", {name: said[name] for name in RODS} | {"way": said["rods"]}, curves)
    return out


def _free(name: str, taken: Collection[str]) -> str:
    name = name[:LONGEST_ID]
    number = 2
    free = name
    while free in taken:
        free = f"{name[: LONGEST_ID - 3]}-{number}"
        number += 1
    return free
