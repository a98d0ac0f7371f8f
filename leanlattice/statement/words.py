"""Edits in a few words, as a history and undo tell them."""

from __future__ import annotations

from collections.abc import Callable, Iterable
from dataclasses import dataclass
from typing import Any

from ..clauses.registry import CLAUSE_TYPES
from .document import ClauseEntry
from .edits import BundleClause, Edit, Upgrade

__all__ = ["words_of"]


@dataclass(frozen=True)
class _Told:
    """What edits are told by: clauses before or after them, by id."""

    clauses: dict[str, ClauseEntry]

    def kind(self, clause: str) -> Any:
        entry = self.clauses.get(clause)
        return CLAUSE_TYPES.get(entry.kind) if entry else None

    def title(self, clause: str) -> str:
        kind = self.kind(clause)
        return f"“{kind.title}”" if kind else clause


def _of_value(edit: Any, told: _Told) -> str:
    kind = told.kind(edit.clause)
    spec = kind.specs().get(edit.name) if kind else None
    name = spec.label.lower() if spec else edit.name.replace("_", " ")
    return f"{name} of {told.title(edit.clause)}"


def _of_parts(edit: Any, _: _Told) -> str:
    one = len(edit.lies) == 1
    return f"{edit.lies[0][0] if one else f'{len(edit.lies)} parts'} placed"


def _of_added(edit: Any, _: _Told) -> str:
    kind = CLAUSE_TYPES.get(edit.clause.kind)
    return f"“{kind.title}” added" if kind else f"{edit.clause.id} added"


def _of_bundle(edit: Any, told: _Told) -> str:
    if edit.bundle:
        return f"{told.title(edit.clause)} put to “{edit.bundle}”"
    return f"{told.title(edit.clause)} taken from its bundle"


def _of_several(edit: Any, told: _Told) -> str:
    """What was done to how many, or the first and how many more."""
    ops = {single.op for single in edit.edits}
    done = OF_SEVERAL.get(next(iter(ops))) if len(ops) == 1 else None
    if len(edit.edits) == 1 or done is None:
        first = WORDS[edit.edits[0].op](edit.edits[0], told)
        more = len(edit.edits) - 1
        return f"{first} and {more} more" if more else first
    if ops == {"switch"}:
        done += " off" if edit.edits[0].off else " on"
    names = {single.bundle for single in edit.edits if isinstance(single, BundleClause)}
    if len(names) == 1 and (name := names.pop()):
        done += f" as “{name}”"
    return f"{len(edit.edits)} clauses {done}"


OF_SEVERAL = {
    "add": "added",
    "remove": "removed",
    "move": "moved",
    "switch": "switched",
    "bundle": "bundled",
}
"""What was done to clauses, of edits that do the same to several."""
WORDS: dict[str, Callable[[Any, _Told], str]] = {
    "set": _of_value,
    "cage": _of_value,
    "place": _of_parts,
    "add": _of_added,
    "remove": lambda e, told: f"{told.title(e.clause)} removed",
    "move": lambda e, told: f"{told.title(e.clause)} moved",
    "switch": lambda e, told: f"{told.title(e.clause)} switched {'off' if e.off else 'on'}",
    "bundle": _of_bundle,
    "together": _of_several,
    "on": lambda e, told: f"what {told.title(e.clause)} works on",
    "dimension": lambda e, _: f"dimension {e.dimension.name}",
    "undimension": lambda e, _: f"dimension {e.name} removed",
    "upgrade": lambda e, _: f"written in version {e.statement.version}",
    "rename": lambda e, _: f"named “{e.name[:40]}”",
}
"""By the operation of an edit."""


def words_of(edit: Edit | Upgrade, clauses: Iterable[ClauseEntry] = ()) -> str:
    """An edit in a few words, those of its ``clauses`` by their titles."""
    return WORDS[edit.op](edit, _Told({entry.id: entry for entry in clauses}))
