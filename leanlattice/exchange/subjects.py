"""What files are written of: results of clauses, each with what was made of it."""

from __future__ import annotations

from collections.abc import Callable, Iterable, Mapping
from dataclasses import dataclass, field
from functools import cached_property
from typing import Any, TypeVar

from ..core.flat.bars import BarPlan
from ..core.flat.parts import Part, panel_parts
from ..core.flat.sheets import Sheets
from ..core.naming.labelled import Labelled
from ..core.results import type_of
from ..statement.evaluate import Outcome

__all__ = ["Subject", "subjects_of"]

T = TypeVar("T")


@dataclass(frozen=True, eq=False)
class Subject:
    """The ``result`` of a ``clause`` of a ``kind``, and what was made of it.

    ``type`` is the name of its type of results and ``made`` holds the last result of each type that
    was made of it. Another result of its type may have been, which then stands for it: it is a
    ``head`` where none was. Its sheets are numbered on after ``sheets_before``.
    """

    clause: str
    kind: str
    type: str
    result: Any
    made: Mapping[str, Any] = field(default_factory=dict)
    head: bool = True
    sheets_before: int = 0
    _known: dict[Callable[[Any], Any], Any] = field(default_factory=dict, repr=False)

    def once(self, work_out: Callable[[Any], T]) -> T:
        """What a function makes of the result; worked out once, however many files are of it."""
        if work_out not in self._known:
            self._known[work_out] = work_out(self.result)
        known: T = self._known[work_out]
        return known

    @property
    def ends(self) -> bool:
        """Whether nothing was made of it."""
        return not self.made

    @property
    def sheets(self) -> Sheets | None:
        return self.made.get("Sheets")

    @property
    def bars(self) -> BarPlan | None:
        return self.made.get("BarPlan")

    @cached_property
    def panel_parts(self) -> dict[int, Part]:
        """Flat parts of the panels of a labelled structure by their positions, set out on sheets or
        not."""
        labelled = self.result
        if not isinstance(labelled, Labelled) or labelled.panels is None:
            return {}
        if self.sheets is not None:
            parts, part_of = self.sheets.layout.parts, self.sheets.part_of
        else:
            flat = panel_parts(labelled.panels, labelled.panel_labels)
            parts, part_of = flat.parts, flat.part_of_panel
        return {i: parts[part] for i, part in enumerate(part_of.tolist()) if part >= 0}


def subjects_of(outcomes: Iterable[Outcome]) -> list[Subject]:
    """Whatever was made, clause by clause, but for what only serves other clauses."""
    done = [o for o in outcomes if o.status == "done"]
    found = {o.id: type_of(o.result) for o in done}
    types = {i: t.name for i, t in found.items() if t is not None and not t.serves}
    made: dict[str, dict[str, Any]] = {o.id: {} for o in done}
    replaced: set[str] = set()
    for o in done:
        replaced |= {source for source in o.stands_for if types.get(source) == types.get(o.id)}
        for source in o.taken:
            if source in made:
                made[source][types.get(o.id, "")] = o.result
    out, before = [], 0
    for o in done:
        if o.id not in types:
            continue
        head = o.id not in replaced
        subject = Subject(o.id, o.kind, types[o.id], o.result, made[o.id], head, before)
        out.append(subject)
        if head and subject.sheets is not None:
            before += subject.sheets.layout.sheet_count
    return out
