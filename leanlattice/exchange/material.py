"""What there is to write of a statement."""

from __future__ import annotations

from collections.abc import Iterable, Iterator, Sequence
from dataclasses import dataclass, replace
from typing import Any

from ..core.naming.labelled import Labelled, name_all
from ..core.results import RESULT_TYPES
from ..statement.document import Statement
from ..statement.evaluate import Outcome
from .kinds import KINDS
from .kinds.kind import NotMade
from .subjects import Subject, subjects_of
from .tables import Table

__all__ = ["Material", "tables_of", "unused"]

TOLERANCE = 0.001
"""Members of structures that nobody labelled are of one type within this (m)."""
SERIES = ("", "A", "B", "C", "D")


@dataclass(frozen=True, eq=False)
class Material:
    """What there is to write of a statement of a ``name``: results in the order of its clauses.
    Structures that nobody labelled have names by position."""

    name: str
    subjects: list[Subject]

    @classmethod
    def of(cls, statement: Statement, outcomes: Sequence[Outcome]) -> Material:
        named = _with_names(subjects_of(outcomes))
        return cls(statement.name, [s for s in named if KINDS[s.type].delivered(s)])

    @property
    def framed(self) -> list[Subject]:
        """Labelled structures."""
        return [s for s in self.subjects if isinstance(s.result, Labelled)]

    def having(self, facet: str) -> Iterator[tuple[Subject, Any]]:
        """Subjects whose types have a facet of ``Kind``, each with what it is there."""
        for subject in self.subjects:
            found = getattr(KINDS[subject.type], facet)
            if found is not None:
                yield subject, found

    def not_made(self) -> list[NotMade]:
        """What is designed but cannot be made as it is."""
        return [
            missing
            for subject, left_out in self.having("not_made")
            for missing in left_out(subject)
        ]


def _with_names(subjects: list[Subject]) -> list[Subject]:
    """Structures that nobody labelled are named by position, each with the last panels at its nodes
    that nobody labelled, in a series that is free."""
    taken = {s.result.series for s in subjects if isinstance(s.result, Labelled)}
    free = [s for s in SERIES if s not in taken]
    out = []
    for subject in subjects:
        if subject.type != "Structure" or not subject.ends or not free:
            out.append(subject)
            continue
        structure = subject.result
        panels = [
            s.result
            for s in subjects
            if s.type == "Panels"
            and s.ends
            and not set(s.result.sources).isdisjoint(structure.sources)
        ]
        named = name_all(structure, panels[-1] if panels else None, free.pop(0), TOLERANCE)
        out.append(replace(subject, type="Labelled", result=named))
    return out


def tables_of(subjects: Iterable[Subject], name: str) -> list[tuple[Subject, Table]]:
    """The schedule of that name of each subject that has one; raises ``KeyError`` where no type of
    results has one of that name."""
    if not any(s.name == name for kind in KINDS.values() for s in kind.schedules):
        raise KeyError(name)
    return [
        (subject, table)
        for subject in subjects
        for schedule in KINDS[subject.type].schedules
        if schedule.name == name and (table := schedule.build(subject)) is not None
    ]


def unused(outcomes: Sequence[Outcome]) -> list[Outcome]:
    """Clauses that only serve others and that nothing uses."""
    taken = {source for o in outcomes for source in o.taken}
    return [
        o
        for o in outcomes
        if o.status == "done" and o.id not in taken and RESULT_TYPES[o.gives].serves
    ]
