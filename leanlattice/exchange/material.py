"""What there is to write of a statement."""

from __future__ import annotations

from collections.abc import Iterable, Iterator, Sequence
from dataclasses import dataclass
from functools import cached_property
from typing import Any

from ..core.results import RESULT_TYPES
from ..statement.document import Statement
from ..statement.evaluate import Outcome
from .kinds import KINDS
from .kinds.kind import NotMade, Solid
from .subjects import Subject, subjects_of
from .tables import Table

__all__ = ["Material", "tables_of", "unused"]


@dataclass(frozen=True, eq=False)
class Material:
    """What there is to write of a statement of a ``name``: results in the order of its clauses."""

    name: str
    subjects: list[Subject]

    @classmethod
    def of(cls, statement: Statement, outcomes: Sequence[Outcome]) -> Material:
        subjects = subjects_of(outcomes)
        return cls(statement.name, [s for s in subjects if KINDS[s.type].delivered(s)])

    def having(self, facet: str) -> Iterator[tuple[Subject, Any]]:
        """Subjects whose types have a facet of ``Kind``, each with what it is there."""
        for subject in self.subjects:
            found = getattr(KINDS[subject.type], facet)
            if found is not None:
                yield subject, found

    @cached_property
    def solids(self) -> list[Solid]:
        """All solids of models."""
        return [solid for subject, build in self.having("solids") for solid in build(subject)]

    def not_made(self) -> list[NotMade]:
        """What is designed but cannot be made as it is."""
        return [
            missing
            for subject, left_out in self.having("not_made")
            for missing in left_out(subject)
        ]


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
