"""Which earlier clauses a clause works on: those it names, or the nearest fitting ones."""

from __future__ import annotations

from collections.abc import Mapping, Sequence
from typing import Any, Protocol

from ..clauses.base import ClauseError, Remedy, Take
from .document import ClauseEntry

__all__ = ["Inputs", "KindOfClause", "Kinds", "Placed", "sources", "taken"]

Inputs = Mapping[str, tuple[str, ...]]
"""Names of clauses, or keys of their results, by input; of most inputs one."""


OFFERED = 3
"""Kinds of clauses that are offered where one has nothing to work on."""


class KindOfClause(Protocol):
    """What is known of a kind of clauses to tell what they work on."""

    @property
    def title(self) -> str: ...
    @property
    def takes(self) -> tuple[Take, ...]: ...
    @property
    def gives(self) -> str: ...
    @property
    def begins(self) -> Mapping[str, Any]: ...


Kinds = Mapping[str, KindOfClause]


class Placed(Protocol):
    """A clause whose inputs are known; ``works`` where it is on and can be read."""

    @property
    def entry(self) -> ClauseEntry: ...
    @property
    def inputs(self) -> Inputs: ...
    @property
    def works(self) -> bool: ...


def taken(inputs: Inputs) -> list[str]:
    """All that are named, input after input."""
    return [name for names in inputs.values() for name in names]


def sources(
    entry: ClauseEntry, before: Sequence[Placed], by_id: Mapping[str, Placed], kinds: Kinds
) -> dict[str, tuple[str, ...]]:
    """Ids of the clauses to work on by input, of those ``before`` in their order and ``by_id``.

    Of several inputs of one type the last has the nearest clause above, the one before it the next
    nearest. Raises ``ClauseError`` where there is none, or one named does not fit.
    """
    kind = kinds[entry.kind]
    _check_names(entry, kind)
    out: dict[str, tuple[str, ...]] = {}
    nearest: dict[tuple[str, ...], list[str]] = {}
    asked = [entry.on[t.name] for t in kind.takes if t.asked and t.name in entry.on]
    for take in reversed(kind.takes):
        wanted = entry.on.get(take.name)
        if wanted is not None:
            named = _named(wanted, take, kind, by_id, kinds)
            if named:
                out[take.name] = named
            continue
        if take.asked or (take.optional and sum(t.types == take.types for t in kind.takes) > 1):
            continue  # beside another of its type it is only taken when asked for
        if take.types not in nearest:
            fitting = _fitting(take.types, before, kinds)
            nearest[take.types] = [s for s in fitting if s not in asked]
        fitting = nearest[take.types]
        free = fitting
        if take.many:
            gone = _gone(before, by_id, kinds)
            free = [source for source in fitting if source not in gone]
        if free:
            out[take.name] = tuple(free) if take.many else (fitting.pop(),)
        elif not take.optional:
            raise _nothing_left(take) if fitting else _nothing_above(take, before, kinds)
    return out


def _check_names(entry: ClauseEntry, kind: KindOfClause) -> None:
    unknown = set(entry.on) - {t.name for t in kind.takes}
    if unknown:
        raise ClauseError(f"“{kind.title}” does not work on a “{sorted(unknown)[0]}”.")


def _named(
    wanted: str | list[str],
    take: Take,
    kind: KindOfClause,
    by_id: Mapping[str, Placed],
    kinds: Kinds,
) -> tuple[str, ...]:
    """The clauses that are named for an input; of several the last, where it takes one."""
    named = [wanted] if isinstance(wanted, str) else wanted
    if not named and not take.optional:
        raise ClauseError(f"“{kind.title}” needs a {take.label.lower()}; it cannot be left empty.")
    for source in named:
        _check_source(take, source, by_id, kinds)
    return tuple(named if take.many else named[-1:])


def _gone(before: Sequence[Placed], by_id: Mapping[str, Placed], kinds: Kinds) -> set[str]:
    """Clauses whose results another stands in the place of, or has used up."""
    return {
        source
        for placed in before
        for name, ids in placed.inputs.items()
        for source in ids
        if _is_change(placed, by_id, source, kinds) or _used_up(placed, name, kinds)
    }


def _fitting(wanted: tuple[str, ...], before: Sequence[Placed], kinds: Kinds) -> list[str]:
    return [
        s.entry.id
        for s in before
        if not s.entry.off and s.entry.kind in kinds and kinds[s.entry.kind].gives in wanted
    ]


def _used_up(placed: Placed, name: str, kinds: Kinds) -> bool:
    """Whether what a clause takes by an input is gone for others."""
    if not placed.works:
        return False
    return any(t.uses_up and t.name == name for t in kinds[placed.entry.kind].takes)


def _is_change(step: Placed, by_id: Mapping[str, Placed], source: str, kinds: Kinds) -> bool:
    """Whether a clause makes of ``source`` another result of the same type, which then stands in
    its place."""
    if step.entry.off or source not in by_id:
        return False
    own, other = kinds.get(step.entry.kind), kinds.get(by_id[source].entry.kind)
    return own is not None and other is not None and own.gives == other.gives


def _check_source(take: Take, wanted: str, by_id: Mapping[str, Placed], kinds: Kinds) -> None:
    step = by_id.get(wanted)
    if step is None or step.entry.off:
        what = (
            f"clause “{wanted}”, is switched off"
            if step
            else f"clause “{wanted}”, is not among those above"
        )
        raise ClauseError(f"The {take.label.lower()} this works on, {what}; choose another.")
    given = kinds.get(step.entry.kind)
    if given is None or given.gives not in take.types:
        raise ClauseError(f"Clause “{wanted}” gives no {take.label.lower()}; choose one that does.")


def _nothing_above(take: Take, before: Sequence[Placed], kinds: Kinds) -> ClauseError:
    """That there is nothing to take; kinds of clauses that give it are offered, first of all those
    that have what they need in turn among the clauses ``before``."""
    above = [s.entry for s in before if not s.entry.off and s.entry.kind in kinds]
    given = {kinds[entry.kind].gives for entry in above}
    givers = [(name, kind) for name, kind in kinds.items() if kind.gives in take.types]

    def lacks(giver: tuple[str, KindOfClause]) -> bool:
        return not all(t.optional or given.intersection(t.types) for t in giver[1].takes)

    offered = sorted(givers, key=lacks)[:OFFERED]
    titles = " or ".join(f"“{kind.title}”" for _, kind in offered)
    remedies = [
        Remedy(f"{kind.title} before it", dict(kind.begins), kind=name) for name, kind in offered
    ]
    facts = {"label": take.label.lower(), "titles": titles}
    return ClauseError.of("nothing above", facts, remedies=tuple(remedies))


def _nothing_left(take: Take) -> ClauseError:
    return ClauseError(
        f"All {take.label.lower()} above are taken up already; choose which to take once more."
    )
