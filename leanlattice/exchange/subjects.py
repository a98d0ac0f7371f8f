"""What files are written of: results of clauses, each with what was made of it."""

from __future__ import annotations

from collections.abc import Callable, Iterable, Mapping
from dataclasses import dataclass, field, replace
from functools import cached_property
from typing import Any, NamedTuple, TypeVar

import numpy as np

from ..clauses.registry import CLAUSE_TYPES
from ..core.flat.bars import BarPlan
from ..core.flat.parts import Part
from ..core.flat.sheets import OnSheets, Sheets
from ..core.flat_parts import parts_of
from ..core.results import type_of
from ..statement.evaluate import Outcome
from ..statement.inputs import Inputs

__all__ = ["Subject", "subjects_of"]

T = TypeVar("T")


class Use(NamedTuple):
    """A ``result`` that a ``clause`` made of another, which it took at a ``place`` of an input."""

    result: Any
    clause: str
    place: int


@dataclass(frozen=True, eq=False)
class Subject:
    """The ``result`` of a ``clause`` of a ``kind``, and what was made of it.

    ``type`` is the name of its type of results and ``made`` holds the last result of each type that
    was made of it. Another result of its type may have
    been, which then stands for it: it is a ``head`` where none was. ``inputs`` tells what it
    was made of. Sheets it is, or its parts are set out on, are numbered on after ``sheets_before``.
    ``structure`` is the one whose nodes panels have at their corners; ``before`` is the one that a
    structure was made of. Something is ``cut_by`` it
    where it gives the outlines of openings.
    """

    clause: str
    kind: str
    type: str
    result: Any
    made: Mapping[str, Use] = field(default_factory=dict)
    head: bool = True
    inputs: Inputs = field(default_factory=dict)
    sheets_before: int = 0
    structure: Subject | None = None
    before: Subject | None = None
    cut_by: bool = False
    _known: dict[Callable[[Any], Any], Any] = field(default_factory=dict, repr=False)

    def once(self, work_out: Callable[[Any], T]) -> T:
        """What a function makes of the result; worked out once, however many files are of it."""
        if work_out not in self._known:
            self._known[work_out] = work_out(self.result)
        known: T = self._known[work_out]
        return known

    def once_with_all(self, work_out: Callable[[Subject], T]) -> T:
        """What a function makes of it and of what was made of it; worked out once."""
        if work_out not in self._known:
            self._known[work_out] = work_out(self)
        known: T = self._known[work_out]
        return known

    @property
    def ends(self) -> bool:
        """Whether nothing was made of it."""
        return not self.made

    @property
    def is_drawn_out(self) -> bool:
        """Whether its lines are to be worked by."""
        return self.ends or self.cut_by

    @cached_property
    def on_sheets(self) -> OnSheets | None:
        """Where its flat parts lie, if they are set out."""
        if "Sheets" not in self.made:
            return None
        sheets: Sheets = self.made["Sheets"].result
        return sheets.of(self.made["Sheets"].place)

    @property
    def node_plates(self) -> Any:
        """Node plates that hold its members, made of it or of what it was made of; ``None`` where
        there are none, or members were changed since."""
        subject: Subject | None = self
        while subject is not None:
            if "NodePlates" in subject.made:
                plates = subject.made["NodePlates"].result
                own, held = self.result, plates.structure
                same = np.array_equal(own.path, held.path)
                return plates if same and np.array_equal(own.set_back, held.set_back) else None
            subject = subject.before
        return None

    @property
    def bars(self) -> BarPlan | None:
        return self.made["BarPlan"].result if "BarPlan" in self.made else None

    @property
    def has_outdated_bars(self) -> bool:
        """Whether bars were planned for what it was made of, and not for what it is now."""
        below = self.before
        while below is not None and "BarPlan" not in below.made:
            below = below.before
        return self.bars is None and below is not None and self.head

    @cached_property
    def parts(self) -> dict[int, Part]:
        """One flat part of each thing it has, by their positions, set out on sheets or not."""
        if self.on_sheets is not None:
            things = self.on_sheets.parts.source.tolist()
            return dict(zip(things, self.on_sheets.lying, strict=True))
        made = parts_of(self.result)
        return {} if made is None else made.by_source()


def subjects_of(outcomes: Iterable[Outcome]) -> list[Subject]:
    """Whatever was made, clause by clause, but for what only serves other clauses."""
    done = [o for o in outcomes if o.status == "done"]
    found = {o.id: type_of(o.result) for o in done}
    types = {i: t.name for i, t in found.items() if t is not None and not t.serves}
    made, replaced = _uses(done, types)
    before = _sheets_before(done, made, replaced)
    cut_by = _cut_by(done)
    out = []
    for o in done:
        if o.id not in types:
            continue
        sheets = made[o.id]["Sheets"].clause if "Sheets" in made[o.id] else o.id
        subject = Subject(
            clause=o.id,
            kind=o.kind,
            type=types[o.id],
            result=o.result,
            made=made[o.id],
            head=o.id not in replaced,
            inputs=o.inputs,
            sheets_before=before.get(sheets, 0),
            cut_by=o.id in cut_by,
        )
        out.append(subject)
    return _with_structures(
        [s for s in _with_those_before(out) if s.type != "Sheets" or s.clause in before]
    )


def _uses(
    done: list[Outcome], types: Mapping[str, str]
) -> tuple[dict[str, dict[str, Use]], set[str]]:
    """What was made of each clause's result, by the ``types`` of what was made; and the clauses
    for which others of their type stand."""
    made: dict[str, dict[str, Use]] = {o.id: {} for o in done}
    replaced: set[str] = set()
    for o in done:
        replaced |= {source for source in o.stands_for if types.get(source) == types.get(o.id)}
        for ids in o.inputs.values():
            for place, source in enumerate(ids):
                if source in made:
                    made[source][types.get(o.id, "")] = Use(o.result, o.id, place)
    return made, replaced


def _cut_by(done: list[Outcome]) -> set[str]:
    """The clauses that give outlines of openings."""
    return {
        source
        for o in done
        for take in CLAUSE_TYPES[o.kind].takes
        if take.cut_by
        for source in o.inputs.get(take.name, ())
    }


def _with_those_before(subjects: list[Subject]) -> list[Subject]:
    """The same, structures with the one they were made of."""
    known: dict[str, Subject] = {}
    for s in subjects:
        sources = s.inputs.get("structure", ()) if s.type == "Structure" else ()
        known[s.clause] = replace(s, before=known.get(sources[0]) if sources else None)
    return list(known.values())


def _with_structures(subjects: list[Subject]) -> list[Subject]:
    """The same, panels with the structure they have nodes of."""
    standing = [s for s in subjects if s.type == "Structure" and s.head]
    lines = _lines(subjects)
    return [
        replace(s, structure=_structure_of(s, standing, lines)) if s.type == "Panels" else s
        for s in subjects
    ]


def _lines(subjects: Iterable[Subject]) -> dict[str, str]:
    """The clause that each clause's structure began with."""
    lines: dict[str, str] = {}
    for s in subjects:
        if s.type == "Structure":
            before = s.inputs.get("structure", ())
            lines[s.clause] = lines.get(before[0], s.clause) if before else s.clause
    return lines


def _structure_of(
    panels: Subject, standing: list[Subject], lines: Mapping[str, str]
) -> Subject | None:
    """The last structure that stands on what the panels lie on; first of the line of the one they
    were made with."""
    keys = set(panels.result.sources)
    beside = [s for s in standing if not keys.isdisjoint(s.result.sources)]
    chosen = {lines.get(source) for source in panels.inputs.get("frame", ())}
    own = [s for s in beside if lines[s.clause] in chosen]
    found = own or beside
    return found[-1] if found else None


def _sheets_before(
    done: list[Outcome], made: Mapping[str, Mapping[str, Use]], replaced: set[str]
) -> dict[str, int]:
    """How many sheets come before those of each clause; of parts that are set out twice the last
    sheets count."""
    used = {
        of["Sheets"].clause
        for source, of in made.items()
        if "Sheets" in of and source not in replaced
    }
    out, count = {}, 0
    for o in done:
        if o.id in used:
            out[o.id] = count
            count += o.result.layout.sheet_count
    return out
