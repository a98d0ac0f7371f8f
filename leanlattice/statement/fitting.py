"""What a clause that is added begins with, to fit what is there: names of its own, sizes of the
model's order, a place that is free, and what nobody has worked on yet."""

from __future__ import annotations

from typing import Any

import numpy as np
from numpy.typing import NDArray

from ..clauses.base import Clause
from ..clauses.registry import CLAUSE_TYPES
from ..clauses.values import ValueSpec
from .document import ClauseEntry, Statement
from .edits import AddClause, Edit, SingleEdit, Together, apply
from .plan import plan

__all__ = ["fitted"]

Array = NDArray[np.float64]
PLACE = "centre"
"""The value that says where a form stands."""
APART = 0.15
"""Share of a form's width by which it keeps off what is there."""
STEPS = ((0.5, 0.01), (5.0, 0.1), (50.0, 0.5), (np.inf, 5.0))
"""Up to what width (m) places of forms are rounded to how much (m)."""
TUBE = "CHS "
USUAL = (8.0, 40.0)
"""Model sizes (m) between which tubes begin as they are; for a model half or twice as large they
are two sizes smaller or larger."""
SIZES_TO_HALF = 2.0


def fitted(statement: Statement, edit: Edit) -> Edit:
    """An edit as it fits a statement. A clause that is added gets a series of names that nothing
    else of its type has, so that no name stands twice; beside a box of what is there it begins
    with values of its size, and where there is room. What it says itself stays."""
    if isinstance(edit, Together):
        return _fitted_one_by_one(statement, edit)
    if not isinstance(edit, AddClause):
        return edit
    kind = CLAUSE_TYPES.get(edit.clause.kind)
    if kind is None:
        return edit.model_copy(update={"beside": None})
    on = _sources(statement, edit, kind) if edit.beside is not None else {}
    on |= edit.clause.on
    values = _names(statement, edit.clause.model_copy(update={"on": on}), kind)
    values |= _like_the_last(statement, edit.at, kind)
    if edit.beside is not None:
        box = np.array(edit.beside)
        size = float((box[1] - box[0]).max())
        values |= _of_size(kind, size) | _placed(kind, box) | kind.beside(box)
    values |= edit.clause.values
    if values == edit.clause.values and on == edit.clause.on and edit.beside is None:
        return edit
    clause = edit.clause.model_copy(update={"values": values, "on": on})
    return edit.model_copy(update={"clause": clause, "beside": None})


def _sources(statement: Statement, edit: AddClause, kind: type[Clause]) -> dict[str, Any]:
    """What a clause works on by input, where that is not the nearest. Where another of its kind
    works on that already it is the nearest that nobody has taken yet, such as the other one of two
    drawings; and what joins a structure goes on with the one there is."""
    steps = [step for step in plan(statement)[: edit.at] if step.works]
    taken = {source for step in steps for source in step.taken}
    out: dict[str, Any] = {}
    for take in kind.takes:
        fitting = [s.entry.id for s in steps if CLAUSE_TYPES[s.entry.kind].gives in take.types]
        if kind.joins and take.asked and kind.gives in take.types and fitting:
            out[take.name] = fitting[-1]
        if take.optional or take.many or kind.gives in take.types:
            continue
        alike = {
            source
            for step in steps
            if step.entry.kind == kind.kind
            for source in step.inputs.get(take.name, ())
        }
        left = [source for source in fitting if source not in taken]
        if left and fitting[-1] in alike:
            out[take.name] = left[-1]
    return out


def _fitted_one_by_one(statement: Statement, several: Together) -> Together:
    """Edits that are made together, each as it fits what those before it make."""
    edits: list[SingleEdit] = []
    for single in several.edits:
        edits.append(fitted(statement, single))  # type: ignore[arg-type]
        statement, _ = apply(statement, edits[-1])
    return Together(edits=edits)


def _names(statement: Statement, clause: ClauseEntry, kind: type[Clause]) -> dict[str, Any]:
    """The series of names a clause begins with, where that is not the first one."""
    spec = kind.specs().get("series")
    if spec is None or _goes_on(clause, kind):
        return {}
    others = [c for c in statement.clauses if _gives(c) == kind.gives]
    taken = {c.values.get("series", spec.default) for c in others}
    free = next((c.key for c in spec.choices if c.key not in taken), spec.default)
    return {} if free == spec.default else {"series": free}


def _like_the_last(statement: Statement, at: int, kind: type[Clause]) -> dict[str, Any]:
    """Values of the last clause before place ``at`` that one of a kind begins like."""
    kinds, names = kind.follows
    fitting = [c for c in statement.clauses[:at] if c.kind in kinds and not c.off]
    return {name: v for c in fitting[-1:] for name, v in c.values.items() if name in names}


def _goes_on(clause: ClauseEntry, kind: type[Clause]) -> bool:
    """Whether a clause takes what it gives more of, and so has names already."""
    same = [t for t in kind.takes if kind.gives in t.types]
    return any(not t.asked or clause.on.get(t.name) for t in same)


def _gives(clause: ClauseEntry) -> str:
    """The type of what a clause with a series of its own gives; empty for others."""
    kind = CLAUSE_TYPES.get(clause.kind)
    return kind.gives if kind is not None and "series" in kind.specs() else ""


def _of_size(kind: type[Clause], size: float) -> dict[str, Any]:
    """Values that begin otherwise for a model of a ``size`` (m)."""
    begin = {name: _begins(spec, size) for name, spec in kind.specs().items()}
    return {name: v for name, v in begin.items() if v != kind.specs()[name].default}


def _begins(spec: ValueSpec, size: float) -> Any:
    if spec.by_size:
        return next(value for most, value in spec.by_size if size <= most)
    if spec.kind == "section" and str(spec.default).startswith(TUBE):
        return _tube(spec.default, size)
    return spec.default


def _tube(usual: str, size: float) -> str:
    """The tube that stands for a ``usual`` one in a model of a ``size`` (m)."""
    from ..core.sections.sizes import CHS

    off = size / float(np.clip(size, *USUAL))
    shift = round(SIZES_TO_HALF * np.log2(max(off, 1e-6)))
    if shift == 0:
        return usual
    diameter, wall = (float(part) for part in usual.removeprefix(TUBE).split(" × "))
    diameters = list(CHS)
    at = int(np.clip(diameters.index(diameter) + shift, 0, len(diameters) - 1))
    found = diameters[at]
    walls = np.array(CHS[found])
    # As thick for its diameter as the usual one.
    thick = walls[np.argmin(np.abs(walls / found - wall / diameter))]
    return f"{TUBE}{found:g} × {thick:g}"


def _placed(kind: type[Clause], box: Array) -> dict[str, Any]:
    """Where a form stands that would run into a ``box`` (2, 3): beyond its greatest x."""
    spec = kind.specs().get(PLACE)
    if spec is None or kind.fills is None:
        return {}
    own = np.array(kind.fills)
    if (own[1] <= box[0]).any() or (own[0] >= box[1]).any():
        return {}
    wide = float(own[1, 0] - own[0, 0])
    step = next(step for most, step in STEPS if wide <= most)
    move = np.ceil((box[1, 0] - own[0, 0] + APART * wide) / step - 1e-9) * step
    x, y, z = spec.default
    return {PLACE: [round(float(x + move), 6), y, z]}
