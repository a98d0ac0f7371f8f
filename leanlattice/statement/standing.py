"""What is told of clauses for where they stand among the others, and not for what they make."""

from __future__ import annotations

from collections.abc import Collection, Iterable, Iterator, Sequence
from typing import NamedTuple, Protocol, TypeVar

from ..clauses.base import Clause, Notice, Remedy, Take
from .plan import Step

__all__ = ["amended", "amenders", "notices_of", "still_told"]


class Amendable(Protocol):
    """A notice, as it is or as it is sent."""

    @property
    def amendable(self) -> bool: ...


AnyNotice = TypeVar("AnyNotice", bound=Amendable)

STRUCTURE = "Structure"
KEPT = "kept"
"""The choice of a series that leaves the names as they are."""


def notices_of(steps: Sequence[Step]) -> dict[str, list[Notice]]:
    """What is to be told of clauses, by id, in a plan of ``steps``: that what they would look at
    comes after them, that what they make parts for is changed after them, or that what they begin
    bears the names of something else."""
    working = [step for step in steps if step.works]
    out: dict[str, list[Notice]] = {}
    for step, notice in (*_too_early(working), *_made_early(working), *_named_alike(working)):
        out.setdefault(step.entry.id, []).append(notice)
    return out


def amended(steps: Sequence[Step]) -> frozenset[str]:
    """Ids of clauses whose results a later one amends, in a plan of ``steps``."""
    return frozenset(amenders(steps))


def amenders(steps: Sequence[Step]) -> dict[str, list[str]]:
    """Ids of the clauses that amend a result, by that of the clause that made it, in a plan of
    ``steps``."""
    out: dict[str, list[str]] = {}
    for step in steps:
        if step.works and _clause(step).amends:
            for source in step.inputs.get(_clause(step).amends, ()):
                out.setdefault(source, []).append(step.entry.id)
    return out


def still_told(
    warnings: Iterable[AnyNotice], clause: str, amended: Collection[str]
) -> list[AnyNotice]:
    """The ``warnings`` of a clause without those that are told by what amends its result, if
    anything does."""
    return [w for w in warnings if clause not in amended or not w.amendable]


def _too_early(steps: Sequence[Step]) -> Iterator[tuple[Step, Notice]]:
    """Steps that would regard what a later one makes of something they take, too."""
    by_id = {step.entry.id: step for step in steps}
    for k, step in enumerate(steps):
        takes = () if step.clause is None else step.clause.takes
        for take in takes:
            if not take.regarded or take.name in step.entry.on:
                continue
            shared = {i for name, ids in step.inputs.items() if name != take.name for i in ids}
            regarded = _all_below(step.inputs.get(take.name, ()), by_id)
            later = _first_fitting(steps[k + 1 :], take, shared)
            if later is not None and not shared & regarded:
                before = {s.entry.id for s in steps[:k]}
                yield step, _not_regarded(step, take, later, before)


def _first_fitting(steps: Sequence[Step], take: Take, shared: set[str]) -> Step | None:
    """The first step that gives what an input takes, made of something that is ``shared``."""
    fitting = (s for s in steps if s.clause is not None and s.clause.gives in take.types)
    return next((step for step in fitting if shared.intersection(step.taken)), None)


def _all_below(ids: Sequence[str], by_id: dict[str, Step]) -> set[str]:
    """Ids of all that is needed for some clauses, themselves included."""
    out: set[str] = set()
    left = list(ids)
    while left:
        name = left.pop()
        if name in by_id and name not in out:
            out.add(name)
            left += by_id[name].taken
    return out


def _not_regarded(step: Step, take: Take, later: Step, before: set[str]) -> Notice:
    """What is told of a ``step`` that does not regard a ``later`` one for an input; that may be
    moved if all it takes stands ``before`` the step."""
    labels = {t.name: t.label.lower() for t in _clause(step).takes}
    shared = next(n for n, ids in step.inputs.items() if set(ids).intersection(later.taken))
    facts = {"title": _title(later), "label": labels[take.name], "of": labels[shared]}
    move = Remedy(f"Put “{_title(later)}” above", {}, moved=later.entry.id)
    return Notice.coded(
        "stands too low", facts, remedies=(move,) if before.issuperset(later.taken) else ()
    )


def _made_early(steps: Sequence[Step]) -> Iterator[tuple[Step, Notice]]:
    """Steps that make parts for members of a structure that a later one changes."""
    for k, step in enumerate(steps):
        held = [take.name for take in _clause(step).takes if take.types == (STRUCTURE,)]
        if _clause(step).chapter != "Make" or _clause(step).gives == STRUCTURE:
            continue
        line = {i for name in held if name not in step.entry.on for i in step.inputs.get(name, ())}
        later = _first_changing(steps[k + 1 :], line)
        if later is not None:
            before = {s.entry.id for s in steps[:k]}
            move = Remedy(f"Put “{_title(later)}” above", {}, moved=later.entry.id)
            remedies = (move,) if before.issuperset(later.taken) else ()
            yield step, Notice.coded("made too early", {"title": _title(later)}, remedies=remedies)


def _first_changing(steps: Sequence[Step], line: set[str]) -> Step | None:
    """The first step that changes members of a structure of a ``line`` that goes on with all that
    steps give of it."""
    line = set(line)
    for step in steps:
        clause = _clause(step)
        needed = [t.name for t in clause.takes if t.types == (STRUCTURE,) and not t.optional]
        if clause.gives != STRUCTURE or not line.intersection(
            i for name in needed for i in step.inputs.get(name, ())
        ):
            continue
        if clause.chapter == "Frame":
            return step
        line.add(step.entry.id)
    return None


class _Line(NamedTuple):
    """What has one set of names: the step that ``began`` it, its ``series``, and the last step that
    says it."""

    began: Step
    series: str
    said_by: Step


def _named_alike(steps: Sequence[Step]) -> Iterator[tuple[Step, Notice]]:
    """Steps that name things as others of their type are named already."""
    lines: dict[str, _Line] = {}
    for step in steps:
        line = _line_of(step, lines)
        if line is not None:
            lines[step.entry.id] = line
    replaced = {name for step in steps for name in step.stands_for}
    heads: dict[tuple[str, str], _Line] = {}
    for name, line in lines.items():
        if name in replaced:
            continue
        gives = _clause(line.began).gives
        first = heads.setdefault((gives, line.series), line)
        if first.began is not line.began:
            used = {series for given, series in heads if given == gives}
            yield line.said_by, _same_names(line, first, used)


def _line_of(step: Step, lines: dict[str, _Line]) -> _Line | None:
    """The line a step is of; ``None`` where its things have no series."""
    clause = _clause(step)
    own = getattr(clause, "series", None)
    before = next((lines[i] for i in step.taken if i in lines and _goes_on(lines[i], clause)), None)
    if before is None:
        return None if own is None else _Line(step, own, step)
    choices = {c.key for c in clause.specs()["series"].choices} if own is not None else set()
    if own is None or own == KEPT or KEPT not in choices:
        return before
    return before._replace(series=own, said_by=step)


def _goes_on(line: _Line, clause: Clause) -> bool:
    return _clause(line.began).gives == clause.gives


def _same_names(line: _Line, first: _Line, used: set[str]) -> Notice:
    """``used`` are the series that things of this type have so far."""
    choices = _clause(line.said_by).specs()["series"].choices
    free = next((c for c in choices if c.key not in used | {KEPT}), None)
    remedies = () if free is None else (Remedy(f"Name them {free.title}", {"series": free.key}),)
    facts = {"title": _title(first.began)}
    return Notice.coded("names stand twice", facts, value="series", remedies=remedies)


def _clause(step: Step) -> Clause:
    if step.clause is None:
        raise ValueError(f"the clause “{step.entry.id}” cannot be read")
    return step.clause


def _title(step: Step) -> str:
    return _clause(step).title
