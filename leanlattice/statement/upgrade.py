"""Statements of former versions of the format, as ones of the present version that read alike.

A former version is data (``former/``) and an entry in ``CHANGES``. Of a statement of it, kinds and
inputs get their new names, a value whose default is another one today is written out with the one
it had, and so is what a clause works on where it would be something else by itself.
"""

from __future__ import annotations

from collections.abc import Callable, Mapping, Sequence
from dataclasses import dataclass, field
from typing import Any

from ..clauses.base import ClauseError
from ..clauses.registry import CLAUSE_TYPES
from .document import FORMAT_VERSION, ClauseEntry, Statement, read_statement
from .former import former_kinds
from .former.labels import with_names
from .inputs import Inputs, Kinds, sources

__all__ = ["CHANGES", "Change", "chosen", "read_upgraded", "upgraded"]


@dataclass(frozen=True)
class Change:
    """What became of a version's clauses in the next one: new names of ``kinds``, of ``inputs`` by
    kind, and ``values`` that were not there before and do what was done then. Kinds are named as
    they were.

    ``through`` says, by kind and input, of what kind the results were that are taken no more, and
    which of their inputs is taken in their place. ``finish`` is told the old clauses, what they
    took, and the new ones by id, and writes into these what single clauses cannot tell.
    """

    kinds: Mapping[str, str] = field(default_factory=dict)
    inputs: Mapping[str, Mapping[str, str]] = field(default_factory=dict)
    values: Mapping[str, Mapping[str, Any]] = field(default_factory=dict)
    through: Mapping[tuple[str, str], tuple[str, str]] = field(default_factory=dict)
    finish: Callable[
        [Sequence[ClauseEntry], Mapping[str, Inputs], Mapping[str, ClauseEntry]], None
    ] = lambda old, inputs, new: None


CHANGES: dict[int, Change] = {
    1: Change(
        kinds={"sheets": "set-out", "rib-sheets": "set-out"},
        inputs={"sheets": {"labelled": "parts"}, "rib-sheets": {"ribs": "parts"}},
        values={"frame": {"meeting": "apart"}},
    ),
    2: Change(
        kinds={"label": "name"},
        inputs={"label": {"frame": "structure"}, "bars": {"labelled": "structure"}},
        through={("set-out", "parts"): ("label", "panels")},
        finish=with_names,
    ),
}
"""By the former version."""


@dataclass(frozen=True)
class _Placed:
    entry: ClauseEntry
    inputs: Inputs
    works: bool


def read_upgraded(text: str | bytes) -> Statement:
    """Statement of the present version from a JSON text of any; raises ``StatementError``."""
    return upgraded(read_statement(text))


def upgraded(statement: Statement) -> Statement:
    """The statement as one of the present version; itself where it is one."""
    for version in range(statement.version, FORMAT_VERSION):
        statement = _next(statement, version)
    return statement


def _next(statement: Statement, version: int) -> Statement:
    """A statement of a version as one of the next."""
    former, change = former_kinds(version), CHANGES.get(version, Change())
    # The version after the last former one is the present one.
    is_last = version + 1 == FORMAT_VERSION
    kinds: Kinds = CLAUSE_TYPES if is_last else former_kinds(version + 1)
    before = chosen(statement.clauses, former)
    kind_of = {entry.id: entry.kind for entry in statement.clauses}
    new = []
    for old in statement.clauses:
        entry = _renewed(old, version, change)
        gone = _inputs_gone(old.kind, former, entry.kind, kinds, change)
        on = {
            n: _through(old.kind, n, ids, change, kind_of, before)
            for n, ids in entry.on.items()
            if n not in gone
        }
        new.append(entry.model_copy(update={"on": on}))
    change.finish(statement.clauses, before, {entry.id: entry for entry in new})
    after = chosen(new, kinds)
    for old, entry in zip(statement.clauses, new, strict=True):
        if old.id not in before or entry.kind not in kinds:
            continue
        names = change.inputs.get(old.kind, {})
        was = {
            names.get(n, n): _through(old.kind, n, ids, change, kind_of, before)
            for n, ids in before[old.id].items()
        }
        now = after.get(old.id, {})
        for name in [take.name for take in kinds[entry.kind].takes]:
            if list(was.get(name, ())) != list(now.get(name, ())) and name not in entry.on:
                entry.on[name] = list(was.get(name, ()))
    return statement.model_copy(update={"clauses": new, "version": version + 1})


def _inputs_gone(
    old_kind: str, former: Kinds, new_kind: str, kinds: Kinds, change: Change
) -> set[str]:
    """Inputs, by their new names, that a kind of clauses had and has no more."""
    if old_kind not in former or new_kind not in kinds:
        return set()
    names = change.inputs.get(old_kind, {})
    had = {names.get(take.name, take.name) for take in former[old_kind].takes}
    return had - {take.name for take in kinds[new_kind].takes}


def _through(
    kind: str,
    name: str,
    ids: str | Sequence[str],
    change: Change,
    kind_of: Mapping[str, str],
    before: Mapping[str, Inputs],
) -> str | list[str]:
    """What an input ``name`` of a clause of a ``kind`` takes now that took ``ids``: in place of
    some, what these took."""
    if (kind, name) not in change.through:
        return ids if isinstance(ids, str) else list(ids)
    gone, by = change.through[kind, name]
    out: list[str] = []
    for source in [ids] if isinstance(ids, str) else ids:
        taken = before.get(source, {}).get(by, ()) if kind_of.get(source) == gone else (source,)
        out += [t for t in taken if t not in out]
    return out[0] if isinstance(ids, str) and len(out) == 1 else out


def _renewed(entry: ClauseEntry, version: int, change: Change) -> ClauseEntry:
    """A clause with new names, and with the values it had by default where these are others now."""
    former = former_kinds(version).get(entry.kind)
    kind = change.kinds.get(entry.kind, entry.kind)
    if former is None:
        return entry.model_copy(deep=True)
    names = change.inputs.get(entry.kind, {})
    values = dict(change.values.get(entry.kind, {}))
    now = _defaults(kind, version + 1)
    values |= {n: v for n, v in former.values.items() if n in now and now[n] != v}
    values |= entry.values
    on = {names.get(name, name): source for name, source in entry.on.items()}
    return entry.model_copy(update={"kind": kind, "on": on, "values": values}, deep=True)


def _defaults(kind: str, version: int) -> Mapping[str, Any]:
    if version < FORMAT_VERSION:
        return former_kinds(version)[kind].values
    return {name: _plain(spec.default) for name, spec in CLAUSE_TYPES[kind].specs().items()}


def _plain(value: Any) -> Any:
    """A value as JSON has it."""
    return [_plain(v) for v in value] if isinstance(value, list | tuple) else value


def chosen(entries: Sequence[ClauseEntry], kinds: Kinds) -> dict[str, Inputs]:
    """What each clause works on, by its id; those that are off, unknown or find nothing to work on
    are left out."""
    placed: list[_Placed] = []
    by_id: dict[str, _Placed] = {}
    for entry in entries:
        inputs: Inputs = {}
        works = not entry.off and entry.kind in kinds
        if works:
            try:
                inputs = sources(entry, placed, by_id, kinds)
            except ClauseError:
                works = False
        by_id[entry.id] = _Placed(entry, inputs, works)
        placed.append(by_id[entry.id])
    return {i: p.inputs for i, p in by_id.items() if p.works}
