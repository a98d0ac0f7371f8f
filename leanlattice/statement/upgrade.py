"""Statements of former versions of the format, as ones of the present version that read alike.

A former version is data (``former/``) and an entry in ``CHANGES``. Of a statement of it, kinds and
inputs get their new names, a value whose default is another one today is written out with the one
it had, and so is what a clause works on where it would be something else by itself.
"""

from __future__ import annotations

from collections.abc import Callable, Collection, Mapping, Sequence
from dataclasses import dataclass, field
from typing import Any

from ..clauses.base import ClauseError
from ..clauses.registry import CLAUSE_TYPES
from .document import FORMAT_VERSION, ClauseEntry, Statement, read_statement
from .former import former_kinds
from .former.labels import with_names
from .former.ribs import ribs_parted
from .inputs import Inputs, Kinds, sources

__all__ = ["CHANGES", "Change", "chosen", "read_upgraded", "upgraded"]


@dataclass(frozen=True)
class Change:
    """What became of a version's clauses in the next one: new names of ``kinds``, of ``inputs`` by
    kind, and ``values`` that were not there before and do what was done then. Kinds are named as
    they were.

    ``through`` says, by kind and input, of what kind the results were that are taken no more, and
    which of their inputs is taken in their place. ``finish`` is told the old clauses, what they
    took, and the new ones by id, and writes into these what single clauses cannot tell. ``parted``
    is told a new clause, the old one, and ids that are taken, and gives the clauses it became, the
    first with its id, or none where it stays one. What was made of it is made of the last of them.
    """

    kinds: Mapping[str, str] = field(default_factory=dict)
    inputs: Mapping[str, Mapping[str, str]] = field(default_factory=dict)
    values: Mapping[str, Mapping[str, Any]] = field(default_factory=dict)
    through: Mapping[tuple[str, str], tuple[str, str]] = field(default_factory=dict)
    finish: Callable[
        [Sequence[ClauseEntry], Mapping[str, Inputs], Mapping[str, ClauseEntry]], None
    ] = lambda old, inputs, new: None
    parted: Callable[[ClauseEntry, ClauseEntry, Collection[str]], list[ClauseEntry]] = (
        lambda entry, old, ids: []
    )


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
    3: Change(parted=ribs_parted),
}
"""By the former version."""


_Named = Mapping[str, str | list[str]]
"""Clauses that are named for inputs."""


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
    kinds = _kinds_of(version + 1)
    before = chosen(statement.clauses, former)
    kind_of = {entry.id: entry.kind for entry in statement.clauses}

    def taken_now(old: ClauseEntry, inputs: Inputs | _Named) -> dict[str, str | list[str]]:
        """Inputs of a clause by their new names, as far as its kind still has them."""
        names = change.inputs.get(old.kind, {})
        new = {names.get(name, name): ids for name, ids in inputs.items()}
        gone = _inputs_gone(old.kind, former, change, kinds)
        return {
            name: _through(change.through.get((old.kind, name)), ids, kind_of, before)
            for name, ids in new.items()
            if name not in gone
        }

    new = [
        _renewed(old, version, change).model_copy(update={"on": taken_now(old, old.on)})
        for old in statement.clauses
    ]
    change.finish(statement.clauses, before, {entry.id: entry for entry in new})
    new, last = _parted(new, statement.clauses, change)
    works = [old for old in statement.clauses if old.id in before]
    was = {old.id: _by_last(taken_now(old, before[old.id]), last) for old in works}
    _all_written_out(new, was, chosen(new, kinds))
    return statement.model_copy(update={"clauses": new, "version": version + 1})


def _kinds_of(version: int) -> Kinds:
    """The version after the last former one is the present one."""
    return CLAUSE_TYPES if version == FORMAT_VERSION else former_kinds(version)


def _by_last(inputs: _Named, last: Mapping[str, str]) -> dict[str, list[str]]:
    """Inputs with the last of what each became in the place of clauses."""
    return {name: [last.get(i, i) for i in ids] for name, ids in inputs.items()}


def _parted(
    entries: Sequence[ClauseEntry], old: Sequence[ClauseEntry], change: Change
) -> tuple[list[ClauseEntry], dict[str, str]]:
    """Clauses with those that became several, and by the id of one the last of what it became,
    which is what others named in its place."""
    ids = {entry.id for entry in entries}
    out: list[ClauseEntry] = []
    last: dict[str, str] = {}
    for entry, before in zip(entries, old, strict=True):
        on = {
            name: last.get(source, source)
            if isinstance(source, str)
            else [last.get(s, s) for s in source]
            for name, source in entry.on.items()
        }
        became = change.parted(entry.model_copy(update={"on": on}), before, ids)
        out += became or [entry.model_copy(update={"on": on})]
        if became:
            last[entry.id] = became[-1].id
            ids |= {clause.id for clause in became}
    return out, last


def _all_written_out(
    entries: Sequence[ClauseEntry],
    was: Mapping[str, Mapping[str, Any]],
    now: Mapping[str, Inputs],
) -> None:
    for entry in entries:
        if entry.id in was:
            _written_out(entry, was[entry.id], now.get(entry.id, {}))


def _written_out(entry: ClauseEntry, was: Mapping[str, Any], now: Inputs) -> None:
    """Writes into a clause what it worked on where it would be something else by itself."""
    for name in sorted(was.keys() | now.keys()):
        if list(was.get(name, ())) != list(now.get(name, ())) and name not in entry.on:
            entry.on[name] = list(was.get(name, ()))


def _inputs_gone(kind: str, former: Kinds, change: Change, kinds: Kinds) -> set[str]:
    """Inputs, by their new names, that a kind of clauses had and has no more."""
    new_kind = change.kinds.get(kind, kind)
    if kind not in former or new_kind not in kinds:
        return set()
    names = change.inputs.get(kind, {})
    had = {names.get(take.name, take.name) for take in former[kind].takes}
    return had - {take.name for take in kinds[new_kind].takes}


def _through(
    passed: tuple[str, str] | None,
    ids: str | Sequence[str],
    kind_of: Mapping[str, str],
    before: Mapping[str, Inputs],
) -> str | list[str]:
    """What is taken now by what took ``ids``: in place of clauses of a kind that is ``passed``,
    what these took by one of their inputs."""
    if passed is None:
        return ids if isinstance(ids, str) else list(ids)
    kind, name = passed
    out: list[str] = []
    for source in [ids] if isinstance(ids, str) else ids:
        is_passed = kind_of.get(source) == kind
        taken = before.get(source, {}).get(name, ()) if is_passed else (source,)
        out += [t for t in taken if t not in out]
    return out[0] if isinstance(ids, str) and len(out) == 1 else out


def _renewed(entry: ClauseEntry, version: int, change: Change) -> ClauseEntry:
    """A clause with new names, and with the values it had by default where these are others now."""
    former = former_kinds(version).get(entry.kind)
    kind = change.kinds.get(entry.kind, entry.kind)
    if former is None:
        return entry.model_copy(deep=True)
    values = dict(change.values.get(entry.kind, {}))
    now = _defaults(kind, version + 1)
    values |= {n: v for n, v in former.values.items() if n in now and now[n] != v}
    values |= entry.values
    return entry.model_copy(update={"kind": kind, "values": values}, deep=True)


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
