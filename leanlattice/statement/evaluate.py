"""Evaluation of a planned statement, doing only what is new."""

from __future__ import annotations

import math
import time
from collections import OrderedDict
from collections.abc import Callable, Collection, Iterable, Iterator, Mapping, Sequence
from dataclasses import dataclass, field, replace
from functools import partial
from typing import Any

import numpy as np
from numpy.typing import NDArray

from ..clauses.base import (
    Clause,
    ClauseError,
    Figure,
    Made,
    Notice,
    Remedy,
    StillOpen,
    Work,
    no_files,
)
from ..clauses.registry import CLAUSE_TYPES
from .document import Statement
from .inputs import Inputs, taken
from .plan import Step, plan
from .standing import amenders

__all__ = ["Cancelled", "Outcome", "ResultCache", "evaluate", "last_of_each", "unseen"]

TRAILS = 6


OpenFile = Callable[[str, str, str], Any]
"""Gives what a stored file holds: by what is wanted, its hash and its name."""
OnMotion = Callable[[str, str, NDArray[np.float64], int, float], bool]
"""Hears of a net that moves: the clause, the one that made the net, the places, the step and the
residual; whether it was shown."""


def unseen(
    clause: str, source: str, places: NDArray[np.float64], step: int, residual: float
) -> bool:
    """Nobody looks on while a net moves, whatever ``clause``, ``source``, ``places``, ``step`` and
    ``residual`` are."""
    return False


class Cancelled(Exception):
    """The work is no longer wanted."""


@dataclass(frozen=True)
class Outcome:
    """What became of a clause. ``status`` is ``"done"``; ``"begun"`` where what it is made of is
    still to be drawn or chosen; ``"failed"``, ``"waiting"`` or ``"off"``."""

    id: str
    kind: str
    status: str
    key: str = ""
    sentence: str = ""
    figures: Mapping[str, Figure] = field(default_factory=dict)
    warnings: tuple[Notice, ...] = ()
    error: str = ""
    error_value: str | None = None
    error_at: tuple[float, float, float] | None = None
    remedies: tuple[Remedy, ...] = ()
    """What would mend a failing clause."""
    error_code: str = ""
    seconds: float = 0.0
    inputs: Inputs = field(default_factory=dict)
    resolved: Mapping[str, float] = field(default_factory=dict)
    """What values written as formulas come to."""
    again: bool = False
    complete: bool = True
    """Whether nothing was left for later."""
    aids: Mapping[str, Any] = field(default_factory=dict)
    stands_for: tuple[str, ...] = ()
    """Ids of clauses whose results are not drawn beside this one's."""
    result: Any = None

    @property
    def gives(self) -> str:
        """Name of the type of results it makes; empty where its kind is unknown."""
        kind = CLAUSE_TYPES.get(self.kind)
        return kind.gives if kind else ""

    @property
    def taken(self) -> list[str]:
        """Ids of all clauses it works on."""
        return taken(self.inputs)

    def source(self, name: str, place: int = 0) -> str:
        """Id of the clause an input, or what has a ``place`` in it, comes from; empty where it
        comes from none."""
        ids = self.inputs.get(name, ())
        return ids[place] if place < len(ids) else ""


class ResultCache:
    """Results by key. Beyond ``limit`` bytes the least lately used are dropped, but for those of
    the statement that is evaluated, however many clauses it has."""

    def __init__(self, limit: int = 1_500_000_000) -> None:
        self._limit = limit
        self._made: OrderedDict[str, tuple[Made, float]] = OrderedDict()
        self._sizes: dict[str, int] = {}
        self._total = 0
        self._wanted: frozenset[str] = frozenset()
        self._trails: OrderedDict[str, list[Any]] = OrderedDict()

    def want(self, keys: Iterable[str]) -> None:
        """Keeps results of these keys, whatever their size, until others are wanted."""
        self._wanted = frozenset(keys)

    def get(self, key: str) -> tuple[Made, float] | None:
        if key in self._made:
            self._made.move_to_end(key)
        return self._made.get(key)

    def put(self, key: str, made: Made, seconds: float) -> None:
        self._drop(key)
        self._made[key] = (made, seconds)
        self._sizes[key] = made.result.nbytes
        self._total += self._sizes[key]
        for other in list(self._made) if self._total > self._limit else ():
            if self._total > self._limit and other not in self._wanted and other != key:
                self._drop(other)

    def _drop(self, key: str) -> None:
        if self._made.pop(key, None) is not None:
            self._total -= self._sizes.pop(key)

    def trail(self, key: str) -> list[Any]:
        """What runs of a clause left to go on from; of few clauses at a time."""
        self._trails.setdefault(key, [])
        self._trails.move_to_end(key)
        while len(self._trails) > TRAILS:
            self._trails.popitem(last=False)
        return self._trails[key]

    def forget(self, keys: Collection[str]) -> None:
        """Lets go of results and trails by their keys."""
        for key in keys:
            self._drop(key)
            self._trails.pop(key, None)


def _inputs(step: Step, made: Mapping[str, Made]) -> dict[str, Any]:
    """Results by input, those of an input that takes many as a list."""
    results = {n: [made[source].result for source in ids] for n, ids in step.inputs.items()}
    many = {t.name for t in step.clause.takes if t.many} if step.clause else set()
    single = {n: found[0] for n, found in results.items() if n not in many}
    return {n: results.get(n, []) for n in many} | single


def evaluate(
    statement: Statement,
    cache: ResultCache,
    cancelled: Callable[[], bool] = lambda: False,
    on_progress: Callable[[str, float], None] = lambda clause, share: None,
    pause: float = 0.0,
    open_file: OpenFile = no_files,
    later: float | None = None,
    on_motion: OnMotion = unseen,
    on_begin: Callable[[Step], None] = lambda step: None,
    on_failure: Callable[[Step, ClauseError], None] = lambda step, error: None,
) -> Iterator[Outcome]:
    """Outcomes of a ``statement`` clause by clause, as they come, of results in ``cache`` and new
    ones; raises ``Cancelled`` soon after ``cancelled()`` turns true.

    ``open_file`` gives what files hold. ``on_begin`` hears of each clause that is worked out now,
    and may refuse it by ``ClauseError``; ``on_failure`` hears of each that fails, ``on_progress``
    how far one is, and ``on_motion`` of nets that move while they are worked on.

    Before the first new clause whose result the view does not draw it waits for ``pause`` seconds.
    What clauses leave for later is worked out at once, or, when ``later`` is given, at the end and
    after so many seconds, or not at all where these are endless; their outcomes then come a second
    time, complete. It is left alone where another clause has amended the result, and tells the same
    of its own; a clause that was to do so and fails has it worked out at the end.
    """
    unfinished: list[tuple[Step, Outcome]] = []
    made: dict[str, Made] = {}
    failed: dict[str, str] = {}
    begun: set[str] = set()
    steps = plan(statement)
    amended_by = amenders(steps)
    cache.want(s.key for s in steps)
    for planned in steps:
        _check(cancelled)
        # What is only taken where it can be had does not keep a clause from being made.
        step = planned.without(
            {n for n, ids in planned.inputs.items() if n in planned.spare and failed.keys() & ids}
        )
        entry = step.entry
        error, waits_for = step.error, step.waits_for
        if not waits_for:
            waits_for = next((failed[source] for source in step.taken if source in failed), None)
        sentence = step.sentence
        if entry.off:
            yield Outcome(entry.id, entry.kind, "off")
            continue
        if error is None and waits_for is None and step.clause is not None:
            if not step.clause.drawn and cache.get(step.key) is None:
                pause = _wait(pause, cancelled)
            try:
                if cache.get(step.key) is None:
                    on_begin(step)
                outcome, made[entry.id] = _done(
                    step,
                    step.clause,
                    made,
                    cache,
                    cancelled,
                    on_progress,
                    open_file,
                    on_motion,
                    finish=later is None and entry.id not in amended_by,
                )
                yield outcome
                if made[entry.id].later is not None:
                    unfinished.append((step, outcome))
                continue
            except ClauseError as raised:
                error = raised
                on_failure(step, error)
        if error is not None:
            failed[entry.id] = entry.id
            shown = None
            if isinstance(error, StillOpen):
                begun.add(entry.id)
                shown = error.shown
            yield Outcome(
                entry.id,
                entry.kind,
                "begun" if entry.id in begun else "failed",
                key=step.key if shown else "",
                aids=shown.aids if shown else {},
                result=shown.result if shown else None,
                sentence=sentence,
                error=error.text,
                error_value=error.value,
                error_at=(error.at[0], error.at[1], error.at[2]) if error.at else None,
                resolved=step.resolved,
                remedies=_offered(error.remedies, step, steps),
                error_code=error.code,
                inputs=step.inputs,
            )
        else:
            failed[entry.id] = waits_for or ""
            yield Outcome(
                entry.id,
                entry.kind,
                "waiting",
                sentence=sentence,
                error=_waiting(statement, waits_for or "", waits_for in begun),
                error_value=waits_for,
            )
    for step, outcome in unfinished if later != math.inf else ():
        later = None if later is None else _wait(later, cancelled)
        if made.keys() & amended_by.get(step.entry.id, ()):
            if later is not None:
                yield replace(outcome, complete=True)
            continue
        yield _completed(step, outcome, made, cache, cancelled, on_begin)


def last_of_each(outcomes: Iterable[Outcome]) -> list[Outcome]:
    """Outcomes clause by clause, each as it came last."""
    return list({outcome.id: outcome for outcome in outcomes}.values())


def _completed(
    step: Step,
    outcome: Outcome,
    made: dict[str, Made],
    cache: ResultCache,
    cancelled: Callable[[], bool],
    on_begin: Callable[[Step], None],
) -> Outcome:
    """The outcome with what was left for later, or a warning that it could not be had."""
    try:
        on_begin(step)
        result = made[step.entry.id] = _finished(step, made, cancelled)
    except Cancelled:
        raise
    except ClauseError as error:
        told = str(error)
    except Exception as fault:  # what is there stays, whatever figures there are not
        told = f"{type(fault).__name__}: {fault}"
    else:
        cache.put(step.key, result, outcome.seconds)
        return replace(
            outcome, figures=result.figures, warnings=tuple(result.warnings), complete=True
        )
    missing = Notice(f"Not all figures of this could be worked out. {told}")
    return replace(outcome, warnings=(*outcome.warnings, missing), complete=True)


def _finished(step: Step, made: Mapping[str, Made], cancelled: Callable[[], bool]) -> Made:
    """What was left for later is worked out. What is so of an input already is not told again:
    there it can be mended."""
    result = made[step.entry.id].finished(partial(_check, cancelled))
    known = {name for source in step.taken for name in made[source].figures}
    return replace(result, warnings=[w for w in result.warnings if w.figure not in known])


def _check(cancelled: Callable[[], bool]) -> None:
    if cancelled():
        raise Cancelled


def _wait(seconds: float, cancelled: Callable[[], bool]) -> float:
    """Waits unless cancelled; what is left to wait is nothing."""
    until = time.perf_counter() + seconds
    while seconds and time.perf_counter() < until:
        _check(cancelled)
        time.sleep(0.005)
    return 0.0


def _offered(remedies: tuple[Remedy, ...], step: Step, steps: Sequence[Step]) -> tuple[Remedy, ...]:
    """Those of a step's ``remedies`` that can be done, with what each is to work on, the last
    fitting one before it."""
    before = [s for s in steps[: [s.entry.id for s in steps].index(step.entry.id)] if s.works]
    out = []
    for remedy in remedies:
        on: dict[str, str] = {}
        for name, kinds in remedy.takes.items():
            others = [s for s in before if s.entry.kind in kinds and s.entry.id not in step.taken]
            if others:
                on[name] = others[-1].entry.id
        if len(on) == len(remedy.takes):
            out.append(replace(remedy, on=on))
    return tuple(out)


def _waiting(statement: Statement, clause_id: str, begun: bool) -> str:
    """What is said of one that waits for a clause, which is ``begun`` or could not be made."""
    entry = statement.clause(clause_id)
    kind = CLAUSE_TYPES.get(entry.kind) if entry else None
    if entry is not None and kind is None:
        return f"Waits for clause “{clause_id}” above, of a kind this program does not know; it may be what this works on."
    why = "which is only begun" if begun else "which could not be made"
    return f"Waits for “{kind.title if kind else clause_id}” above, {why}."


def _done(
    step: Step,
    clause: Clause,
    made: Mapping[str, Made],
    cache: ResultCache,
    cancelled: Callable[[], bool],
    on_progress: Callable[[str, float], None],
    open_file: OpenFile,
    on_motion: OnMotion,
    finish: bool,
) -> tuple[Outcome, Made]:
    known = cache.get(step.key)
    if known is None:

        def progress(share: float) -> None:
            _check(cancelled)
            on_progress(step.entry.id, share)

        started = time.perf_counter()
        try:
            moved = next(iter(step.inputs.get("net", ())), "")
            show = partial(on_motion, step.entry.id, moved)
            trail = cache.trail(step.trail) if step.trail else []
            inputs = _inputs(step, made)
            result = clause.make(Work(inputs, step.sources, progress, open_file, show, trail))
        except (ClauseError, Cancelled):
            raise
        except MemoryError:
            raise ClauseError(
                "This needs more memory than there is; fewer bays would work."
            ) from None
        except (
            Exception
        ) as fault:  # a fault of ours must not stop the clauses that do not depend on it
            raise ClauseError(
                f"This could not be computed with these values ({type(fault).__name__}: {fault}). Undo brings the last "
                "state back."
            ) from fault
        seconds = time.perf_counter() - started
        cache.put(step.key, result, seconds)
    else:
        result, seconds = known
    if finish and result.later is not None:
        result = _finished(step, {**made, step.entry.id: result}, cancelled)
        cache.put(step.key, result, seconds)
    return (
        Outcome(
            step.entry.id,
            step.entry.kind,
            "done",
            step.key,
            step.sentence,
            result.figures_by_now,
            tuple(result.warnings),
            seconds=seconds,
            inputs=step.inputs,
            resolved=step.resolved,
            again=known is not None,
            complete=result.later is None,
            aids=result.aids,
            stands_for=step.stands_for,
            result=result.result,
        ),
        result,
    )
