"""The plan of an evaluation: what each clause works on and its cache key, without doing any
work."""

from __future__ import annotations

import difflib
import hashlib
import json
from collections import deque
from collections.abc import Collection, Mapping
from dataclasses import dataclass, field, replace
from functools import cache, cached_property
from pathlib import Path
from typing import Any

from .. import __version__
from ..clauses.base import Clause, ClauseError
from ..clauses.registry import CLAUSE_TYPES
from ..core.results import RESULT_TYPES
from .document import ClauseEntry, Statement
from .formulas import FormulaError, Named, resolve, resolve_dimensions
from .inputs import Inputs, sources, taken

__all__ = ["Step", "plan", "program"]


@dataclass(frozen=True)
class Step:
    """What is to be done for a clause: either ``clause`` with its ``inputs``, or the sentence why
    not.

    ``key`` is the same for the same type, values and inputs. ``inputs`` gives ids of clauses by
    input, and ``sources`` the keys of their results in the same order. ``waits_for`` is the failing
    clause this one depends on.
    """

    entry: ClauseEntry
    clause: Clause | None = None
    inputs: Inputs = field(default_factory=dict)
    key: str = ""
    trail: str = ""
    """The same for what differs at most in how far it goes on; empty where nothing does."""
    error: ClauseError | None = None
    waits_for: str | None = None
    sources: Inputs = field(default_factory=dict)
    spare: frozenset[str] = frozenset()
    """Inputs that nobody asked for and that the clause can do without."""
    stands_for: tuple[str, ...] = ()
    """Ids of clauses whose results are not drawn beside this one's."""

    def without(self, lost: Collection[str]) -> Step:
        """The step without some inputs."""
        if not lost or self.clause is None:
            return self
        inputs = {n: s for n, s in self.inputs.items() if n not in lost}
        sources = {n: k for n, k in self.sources.items() if n not in lost}
        key, trail = _keys(self.clause, sources)
        return replace(self, inputs=inputs, sources=sources, key=key, trail=trail)

    @property
    def works(self) -> bool:
        """Whether it is on and can be read."""
        return self.clause is not None and not self.entry.off

    @cached_property
    def sentence(self) -> str:
        """The clause's sentence as plain text; empty where it cannot be read."""
        return self.clause.reads(self.inputs) if self.clause is not None else ""

    @property
    def taken(self) -> list[str]:
        """Ids of all clauses it works on."""
        return taken(self.inputs)

    @cached_property
    def resolved(self) -> dict[str, float]:
        """Numbers that values written as formulas come to."""
        if self.clause is None:
            return {}
        numbers = {n for n, spec in self.clause.specs().items() if spec.kind in ("number", "count")}
        return {
            n: getattr(self.clause, n)
            for n, v in self.entry.values.items()
            if n in numbers and isinstance(v, str)
        }


def _resolved(
    entry: ClauseEntry, kind: type[Clause], names: Mapping[str, Named | FormulaError]
) -> dict[str, Any]:
    """Values with formulas replaced by numbers; raises ``ClauseError`` naming the value."""
    specs = kind.specs()

    def number(value: Any, unit: str) -> Any:
        if isinstance(value, str):
            return resolve(value, unit, names)
        if isinstance(value, list | tuple):
            return [number(v, unit) for v in value]
        return value

    def curve(item: Any, unit: str) -> Any:
        """The first entry of a curve is the word for its type."""
        return (
            [item[0], *number(item[1:], unit)] if isinstance(item, list | tuple) and item else item
        )

    out = {}
    for name, value in entry.values.items():
        spec = specs.get(name)
        if spec is None or spec.kind in ("choice", "section", "text", "file", "arrangement"):
            out[name] = value
            continue
        try:
            if spec.kind == "curves" and isinstance(value, list | tuple):
                out[name] = [curve(item, spec.unit) for item in value]
            else:
                out[name] = number(value, spec.unit)
        except FormulaError as error:
            raise ClauseError(f"{spec.label}: {error}", name) from None
        if (
            spec.kind == "count"
            and isinstance(out[name], float)
            and abs(out[name] - round(out[name])) < 1e-9
        ):
            out[name] = round(out[name])
    return out


@dataclass(frozen=True)
class _Planned:
    """What was planned of a statement by a program: its dimensions and its clauses as text, a step
    for each of these, and the clauses ``below`` each, by id."""

    program: str
    dimensions: str
    texts: list[str]
    steps: list[Step]
    below: dict[str, frozenset[str]]

    def begins_as(self, dimensions: str, texts: list[str]) -> int:
        """With how many of its clauses a statement with these dimensions and texts begins too."""
        if dimensions != self.dimensions or program() != self.program:
            return 0
        pairs = zip(self.texts, texts, strict=False)
        differs = (k for k, (own, other) in enumerate(pairs) if own != other)
        return next(differs, min(len(self.texts), len(texts)))


_RECENT: deque[_Planned] = deque(maxlen=6)
"""The last plans: as steps depend on the clauses before them alone, those of a statement that
begins as one of these are known."""


def plan(statement: Statement) -> list[Step]:
    """Steps in the order of the clauses, without doing any work."""
    dimensions = json.dumps([d.model_dump() for d in statement.dimensions])
    texts = [entry.model_dump_json() for entry in statement.clauses]
    recent = list(_RECENT)
    shared = [planned.begins_as(dimensions, texts) for planned in recent]
    most = max(shared, default=0)
    known = recent[shared.index(most)] if most else _Planned(program(), dimensions, [], [], {})
    if most == len(texts) == len(known.texts):
        return known.steps[:]
    steps = known.steps[:most]
    done = {step.entry.id: step for step in steps}
    below = {name: known.below[name] for name in done}
    names = resolve_dimensions(statement.dimensions)
    for entry in statement.clauses[most:]:
        step = Step(entry) if entry.off else _step(entry, steps, done, names)
        made_of = _made_of(step)
        below[entry.id] = made_of.union(*(below[i] for i in made_of))
        step = replace(step, stands_for=_stands_for(step, below[entry.id], done))
        steps.append(step)
        done[entry.id] = step
    _RECENT.append(_Planned(program(), dimensions, texts, steps[:], below))
    return steps


def _made_of(step: Step) -> frozenset[str]:
    """Clauses whose results go into a step's, which what stays beside it does not."""
    beside = {take.name for take in step.clause.takes if take.beside} if step.clause else set()
    return frozenset(i for name, ids in step.inputs.items() if name not in beside for i in ids)


def _stands_for(step: Step, below: Collection[str], by_id: Mapping[str, Step]) -> tuple[str, ...]:
    """Clauses whose results a step's stands for: those of its own type it takes, and all ``below``
    it of types that its type covers."""
    if step.clause is None:
        return ()
    own = step.clause.gives
    covered = RESULT_TYPES[own].covers
    gives = {i: clause.gives for i in below if (clause := by_id[i].clause) is not None}
    return tuple(
        i for i, given in gives.items() if given in covered or (given == own and i in step.taken)
    )


def _step(
    entry: ClauseEntry,
    before: list[Step],
    by_id: Mapping[str, Step],
    names: Mapping[str, Named | FormulaError],
) -> Step:
    kind = CLAUSE_TYPES.get(entry.kind)
    if kind is None:
        return Step(entry, error=ClauseError(_unknown_kind(entry.kind)))
    try:
        clause = kind.of(_resolved(entry, kind, names))
        inputs = sources(entry, before, by_id, CLAUSE_TYPES)
    except ClauseError as error:
        unknown = next((s.entry.id for s in before if _is_unknown(s.entry)), None)
        return Step(entry, error=error, waits_for=None if error.value else unknown)
    unknown = _unknown_after(entry, kind, inputs, before)
    if unknown is not None:
        return Step(entry, clause, inputs, waits_for=unknown)
    spare = frozenset(
        t.name for t in kind.takes if t.optional and not t.many and t.name not in entry.on
    )
    failing = {
        name: source
        for name, ids in inputs.items()
        for source in ids
        if by_id[source].error or by_id[source].waits_for
    }
    inputs = {n: ids for n, ids in inputs.items() if n not in failing or n not in spare}
    for name, source in failing.items():
        if name not in spare:
            return Step(entry, clause, inputs, waits_for=by_id[source].waits_for or source)
    keys = {n: tuple(by_id[source].key for source in ids) for n, ids in sorted(inputs.items())}
    return Step(entry, clause, inputs, *_keys(clause, keys), sources=keys, spare=spare)


def _keys(clause: Clause, sources: Inputs) -> tuple[str, str]:
    """The key of a clause's result and that of its trail, by its values and the keys of what it
    takes."""

    def key(leaving_out: str = "") -> str:
        values = clause.model_dump(exclude={leaving_out})
        text = json.dumps(
            [program(), clause.kind, clause.version, values, dict(sources)], sort_keys=True
        )
        return hashlib.sha256(text.encode()).hexdigest()[:32]

    return key(), key(clause.goes_on) if clause.goes_on else ""


@cache
def program() -> str:
    """What tells this program from others: its version and what its computation is written in.
    Results of another one are not taken for its own."""
    digest = hashlib.sha256(__version__.encode())
    package = Path(__file__).resolve().parents[1]
    for folder in ("core", "clauses"):
        for path in sorted((package / folder).rglob("*.py")):
            digest.update(path.read_bytes())
    return digest.hexdigest()[:16]


def _is_unknown(entry: ClauseEntry) -> bool:
    return not entry.off and entry.kind not in CLAUSE_TYPES


def _unknown_after(
    entry: ClauseEntry, kind: type[Clause], inputs: Inputs, before: list[Step]
) -> str | None:
    """The first clause of an unknown kind that stands between a clause and what it takes by itself:
    that may be what it would work on, and to work on something else would be a silent mistake."""
    optional = {t.name for t in kind.takes if t.optional}
    needed = taken({n: ids for n, ids in inputs.items() if n not in optional | set(entry.on)})
    at = {s.entry.id: k for k, s in enumerate(before)}
    first = min((at[s] for s in needed), default=len(before))
    return next((s.entry.id for s in before[first:] if _is_unknown(s.entry)), None)


def _unknown_kind(kind: str) -> str:
    near = difflib.get_close_matches(kind, CLAUSE_TYPES, 3, 0.5)
    which = f"; near are {', '.join(near)}" if near else ""
    return (
        f"This program knows no clause of kind “{kind[:40]}”{which}. Switch it off, or open the statement in the "
        "version it was written with."
    )
