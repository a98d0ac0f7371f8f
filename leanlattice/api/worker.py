"""What worker processes do: evaluate statements, make tables, draw sheets, write packs."""

from __future__ import annotations

import contextlib
import gc
import math
import signal
import tempfile
import time
from collections.abc import Callable, Iterator
from dataclasses import asdict, replace
from functools import cache
from multiprocessing.connection import Connection
from pathlib import Path
from typing import Any

import numpy as np
from numpy.typing import NDArray

from ..clauses.base import ClauseError, Remedy
from ..clauses.registry import CLAUSE_TYPES
from ..clauses.shape.drawn import Curves
from ..clauses.shape.files import Underlay
from ..core.flat.nesting import score
from ..core.flat.searching import nest_better
from ..core.flat.sheets import Layout, Sheets
from ..exchange import wire
from ..exchange.curves import curves_dxf, curves_svg
from ..exchange.dxf import sheet_dxf
from ..exchange.kinds import KINDS
from ..exchange.material import Material, tables_of
from ..exchange.models import write_model
from ..exchange.pack import write_pack
from ..exchange.pictures import picture_of
from ..exchange.processes import Reader
from ..exchange.subjects import subjects_of
from ..exchange.svg import sheet_svg
from ..exchange.underlays import straightened_png
from ..statement.document import ClauseEntry, Statement, files_used, read_statement
from ..statement.evaluate import Cancelled, Outcome, ResultCache, evaluate, last_of_each
from ..statement.plan import Step, plan
from ..store.database import in_words
from ..store.files import FileStore, opener, with_files
from .jobs import (
    ArrangeSheets,
    DrawSheet,
    DrawUnderlay,
    Evaluate,
    Job,
    MakeTable,
    Portray,
    TrySetting,
    WriteCurves,
    WriteModel,
    WritePack,
    WriteSheet,
    sketch_key,
)
from .messages import (
    FigureMessage,
    NotMadeMessage,
    TableColumn,
    TableMessage,
    lengths_of,
    outcome_message,
)

__all__ = ["warm_up", "warm_up_later", "while_quiet", "work"]

PROGRESS_EVERY = 0.15
"""Seconds between reports of progress."""
MOTION_EVERY = 0.07
"""Seconds between pictures of a net that moves."""

QUIET = 2.0
"""Seconds without a job after which a worker makes ready for what is not always needed."""
SECOND_LOOK_AFTER = 0.15
"""Seconds in which a hand that goes on dragging is not kept waiting by figures that follow the
picture."""

REMEMBERED = 0.25
"""Share of its memory in which a worker remembers results."""

Say = Callable[..., None]
Stop = Callable[[], bool]


class Results(ResultCache):
    """Results of a worker, and the files they are made from."""

    def __init__(self, files: Path, limit: int) -> None:
        super().__init__(limit)
        self.store = FileStore(files)
        self.reader = Reader()
        self.open_file = opener(self.store.get, self.reader)
        self.failed: dict[str, ClauseError] = {}
        """What failed when a picture was made, by key: the rest need not try it again."""


def _outcomes(
    job: Job, cache: Results, say: Say, stop: Stop, pause: float = 0.0, later: float | None = None
) -> Iterator[Outcome]:
    statement = read_statement(job.statement)
    if files_used(statement):
        cache.reader.prepare()
    said = 0.0

    def progress(clause: str, share: float) -> None:
        nonlocal said
        if time.monotonic() - said > PROGRESS_EVERY:
            said = time.monotonic()
            say("progress", clause, share)

    shown = 0.0

    def motion(
        clause: str, source: str, places: NDArray[np.float64], step: int, residual: float
    ) -> bool:
        """Says where the net of ``source`` is while ``clause`` moves it (``places``, ``step``,
        ``residual``), now and then."""
        nonlocal shown
        if stop():
            raise Cancelled
        due = time.monotonic() - shown > MOTION_EVERY
        if due:
            shown = time.monotonic()
            say("motion", wire.motion(clause, source, places, step, residual))
        return due

    def begins(step: Step) -> None:
        if step.key in job.barred:
            once_more = Remedy("Try again", {})
            why = {"why": job.barred[step.key]}
            raise ClauseError.of("barred", why, remedies=(once_more,))
        if step.key in cache.failed:
            raise cache.failed[step.key]
        say("begins", step.entry.id, step.key)

    def fails(step: Step, error: ClauseError) -> None:
        cache.failed[step.key] = error

    yield from evaluate(
        statement, cache, stop, progress, pause, cache.open_file, later, motion, begins, fails
    )
    say("begins", "", "")


def _evaluate(job: Evaluate, cache: Results, say: Say, stop: Stop) -> None:
    drawn: set[str] = set()
    cache.forget(job.fresh)
    # What others stand for is not measured while a picture is waited for.
    unmeasured = _replaced(job) if job.picture else frozenset()
    rest = False
    if job.picture:
        shorter, rest = _as_far_as_drawn(job)
        outcomes = _outcomes(shorter, cache, say, stop, later=math.inf)
    else:
        later = max(job.pause, SECOND_LOOK_AFTER)
        outcomes = _outcomes(job, cache, say, stop, job.pause, later)
    for outcome in outcomes:
        if outcome.id in unmeasured:
            outcome = replace(outcome, complete=False)
        rest = rest or not outcome.complete
        if outcome.id in job.told and not _is_news(outcome, job):
            continue
        sketch = (
            job.sketch
            and outcome.key not in job.known | job.begun
            and wire.has_sketch(outcome.result)
        )
        if sketch:
            outcome = replace(outcome, key=sketch_key(outcome.key))
        geometry: bytes | None = None
        measures: bytes | None = None
        if outcome.status in ("done", "begun") and outcome.key not in job.known:
            if outcome.id not in drawn and outcome.key not in job.begun:
                geometry = wire.geometry(outcome.key, outcome.result, outcome.aids, sketch)
                drawn.add(outcome.id)
            if outcome.id not in unmeasured and outcome.status == "done":
                measures = wire.measures(outcome.key, outcome.result, waits=not outcome.complete)
        say("outcome", outcome_message(outcome), geometry, measures)
    say("done", rest)


def _replaced(job: Job) -> frozenset[str]:
    """Ids of clauses whose results others stand for, so that the view draws these."""
    steps = [step for step in plan(read_statement(job.statement)) if step.works]
    return frozenset(name for step in steps for name in step.stands_for)


def _is_news(outcome: Outcome, job: Evaluate) -> bool:
    """Whether there is more to say of a clause than was told: its later figures."""
    shown = {outcome.key, sketch_key(outcome.key)} & job.known
    return outcome.status == "done" and outcome.complete and not shown


def _as_far_as_drawn(job: Job) -> tuple[Job, bool]:
    """The same of the clauses up to the last that the view draws, and whether there are more."""
    statement = read_statement(job.statement)
    types = [CLAUSE_TYPES.get(c.kind) for c in statement.clauses]
    last = max((k for k, t in enumerate(types) if t is None or t.drawn), default=-1)
    first = statement.model_copy(update={"clauses": statement.clauses[: last + 1]})
    return Job(first.text(), barred=job.barred), last + 1 < len(types)


def _make_table(job: MakeTable, cache: Results, say: Say, stop: Stop) -> None:
    outcomes = last_of_each(_outcomes(job, cache, say, stop))
    heads = [subject for subject in subjects_of(outcomes) if subject.head]
    tables = [
        TableMessage(
            of=table.of,
            clause=subject.clause,
            columns=[TableColumn(name=n, values=v) for n, v in table.columns.items()],
            index=table.index,
        )
        for subject, table in tables_of(heads, job.name)
    ]
    say("done", tables)


def _draw_sheet(job: DrawSheet | WriteSheet, cache: Results, say: Say, stop: Stop) -> None:
    for subject in subjects_of(last_of_each(_outcomes(job, cache, say, stop))):
        k = job.number - subject.sheets_before - 1
        if subject.type == "Sheets" and 0 <= k < subject.result.layout.sheet_count:
            draw = sheet_svg if isinstance(job, DrawSheet) else sheet_dxf
            say("done", draw(subject.result.layout, k))
            return
    say("done", None)


def _arrange(job: ArrangeSheets, cache: Results, say: Say, stop: Stop) -> None:
    """Says each better arrangement, and at the end the best. Being stopped is no failure: what was
    found is kept."""
    sheets = _result(job, cache, say, lambda: False)
    if not isinstance(sheets, Sheets):
        say("failed", "There is nothing set out to arrange; the clause could not be made.")
        return
    began, said = time.monotonic(), 0.0

    def goes_on() -> bool:
        nonlocal said
        passed = time.monotonic() - began
        if passed - said > PROGRESS_EVERY:
            said = passed
            say("progress", "", min(passed / job.seconds, 1.0))
        return passed < job.seconds and not stop()

    def better(found: Layout) -> None:
        say("better", found.sheet_count, found.within_outlines())

    start = sheets.layout
    found = nest_better(start.made, start, goes_on, better)
    say(
        "done",
        (found.lies(), found.sheet_count, found.within_outlines(), score(found) < score(start)),
    )


def _write_pack(job: WritePack, cache: Results, say: Say, stop: Stop) -> None:
    def progress(name: str, share: float) -> None:
        if stop():
            raise Cancelled
        say("progress", name, share)

    outcomes = last_of_each(_outcomes(job, cache, say, stop))
    statement = with_files(read_statement(job.statement), cache.store)
    wanted = None if job.wanted is None else set(job.wanted)
    written = write_pack(Path(job.folder), statement, outcomes, wanted, progress)
    checks = [asdict(f) for f in written.findings]
    missing = [
        NotMadeMessage(what=m.what, label=m.label, why=m.why, lengths=lengths_of(m.why))
        for m in written.not_made
    ]
    say("done", (checks, missing, written.held_back))


def _result(
    job: DrawUnderlay | WriteCurves | ArrangeSheets, cache: Results, say: Say, stop: Stop
) -> Any:
    for outcome in _outcomes(job, cache, say, stop):
        if outcome.id == job.clause:
            return outcome.result
    return None


def _draw_underlay(job: DrawUnderlay, cache: Results, say: Say, stop: Stop) -> None:
    made = _result(job, cache, say, stop)
    say(
        "done",
        straightened_png(made, cache.store.get(made.file[0]))
        if isinstance(made, Underlay)
        else None,
    )


def _write_model(job: WriteModel, cache: Results, say: Say, stop: Stop) -> None:
    outcomes = last_of_each(_outcomes(job, cache, say, stop))
    with tempfile.TemporaryDirectory() as folder:
        file = Path(folder) / "model.glb"
        write_model(file, Material.of(read_statement(job.statement), outcomes))
        say("done", file.read_bytes() if file.exists() else None)


def _write_curves(job: WriteCurves, cache: Results, say: Say, stop: Stop) -> None:
    made = _result(job, cache, say, stop)
    write = curves_svg if job.ending == "svg" else curves_dxf
    say("done", write(made) if isinstance(made, Curves) else None)


def _try_setting(job: TrySetting, cache: Results, say: Say, stop: Stop) -> None:
    """Ends with a sentence where what a picture would show cannot be made."""
    short, _ = _as_far_as_drawn(job)
    outcomes = [o for o in _outcomes(short, cache, say, stop, later=math.inf) if o.status != "off"]
    seen = _portrayed(outcomes)
    if seen is None:
        say("failed", "There is nothing yet of which a picture could be made.")
    elif seen.status != "done":
        broken = next((o for o in outcomes if o.status == "failed"), seen)
        say("failed", broken.error)
    else:
        done = [o for o in reversed(outcomes) if o.status == "done"]
        done.sort(key=lambda o: o.gives != seen.gives)
        every = [f for o in done for f in outcome_message(o).figures]
        first: dict[str, FigureMessage] = {}
        for figure in every:
            first.setdefault(figure.name, figure)
        say("done", (list(first.values()), picture_of(seen.result)))


def _portray(job: Portray, cache: Results, say: Say, stop: Stop) -> None:
    """Only what the view draws is worked out, and nothing that is left for later."""
    short, _ = _as_far_as_drawn(job)
    outcomes = list(_outcomes(short, cache, say, stop, later=math.inf))
    seen = _portrayed([o for o in outcomes if o.status == "done"])
    if seen is None:
        say("failed", "There is nothing to draw yet.")
        return
    say("done", ([outcome_message(o) for o in outcomes], picture_of(seen.result)))


def _portrayed(outcomes: list[Outcome]) -> Outcome | None:
    """The one that a picture of them all shows: of the type that covers others, the last."""
    by_type = {o.gives: o for o in outcomes}
    pictured = [name for name, kind in KINDS.items() if kind.picture and kind.portrait]
    return next((by_type[name] for name in reversed(pictured) if name in by_type), None)


WORK: dict[type[Job], Callable[[Any, Results, Say, Stop], None]] = {
    Evaluate: _evaluate,
    MakeTable: _make_table,
    DrawSheet: _draw_sheet,
    WriteSheet: _draw_sheet,
    ArrangeSheets: _arrange,
    WritePack: _write_pack,
    DrawUnderlay: _draw_underlay,
    WriteCurves: _write_curves,
    WriteModel: _write_model,
    TrySetting: _try_setting,
    Portray: _portray,
}


@cache
def warm_up() -> None:
    """Runs the whole route once on a small roof, so that nothing is compiled while somebody
    waits; no second time in one process, nor in copies of it."""
    kinds = ("loft", "pattern", "frame", "panels", "name", "set-out")
    values: dict[str, dict[str, Any]] = {"pattern": {"bays_across": 4, "bays_along": 4}}
    clauses = [ClauseEntry(id=k, kind=k, values=values.get(k, {})) for k in kinds]
    for outcome in evaluate(Statement(clauses=clauses), ResultCache()):
        wire.geometry("", outcome.result)


LATER: tuple[tuple[tuple[str, dict[str, Any]], ...], ...] = (
    (
        ("box", {}),
        ("waffle", {"number_first": 2, "number_second": 2}),
        ("set-out", {}),
    ),
    (
        ("loft", {}),
        ("pattern", {"pattern": "quads", "bays_across": 4, "bays_along": 4}),
        ("hold", {}),
        ("push", {}),
        ("aim", {"aim": "equal"}),
        ("aim", {"aim": "flat"}),
        ("aim", {"aim": "density"}),
        ("settle", {"steps": 20}),
    ),
)
"""Statements, as kinds of clauses and their values, of what not every project needs."""


def warm_up_later() -> Iterator[str]:
    """The same for what not every project needs, clause by clause; gives the kind of each that was
    run, so that whoever goes through them can stop there."""
    for rows in LATER:
        clauses = [
            ClauseEntry(id=f"c{k}", kind=kind, values=values)
            for k, (kind, values) in enumerate(rows)
        ]
        for outcome in evaluate(Statement(clauses=clauses), ResultCache()):
            yield outcome.kind


def while_quiet(connection: Connection, steps: Iterator[object]) -> None:
    """Takes ``steps`` while nothing is asked for over ``connection``, once that is so for a while;
    whatever is asked for is waited for by somebody, so what is left waits for the next time."""
    if connection.poll(QUIET):
        return
    for _ in steps:
        if connection.poll():
            return


def _steps(cache: Results, files: Path) -> Iterator[str]:
    yield from warm_up_later()
    if any(files.glob("*")):
        cache.reader.prepare()


def work(connection: Connection, cancelled: Any, files: str, memory: int) -> None:
    """Main loop of a worker: takes ``(number, job)``, says ``(number, kind, …)``. ``cancelled`` is
    a shared number: the job it names is to stop. Results are remembered up to a share of the
    ``memory`` (bytes) it may take."""
    signal.signal(signal.SIGINT, signal.SIG_IGN)
    cache = Results(Path(files), int(REMEMBERED * memory))
    warm_up()
    # What is loaded by now stays: looking through it again and again for garbage would take longer
    # than most work.
    gc.freeze()
    with contextlib.suppress(EOFError, BrokenPipeError, OSError):
        connection.send((-1, "ready"))
        steps = _steps(cache, Path(files))
        while True:
            while_quiet(connection, steps)
            number, job = connection.recv()

            def say(kind: str, *what: Any, number: int = number) -> None:
                connection.send((number, kind, *what))

            def stop(number: int = number) -> bool:
                return bool(cancelled.value == number)

            if not (isinstance(job, Evaluate) and job.told):
                cache.failed.clear()
            try:
                WORK[type(job)](job, cache, say, stop)
            except Cancelled:
                say("cancelled")
            except (BrokenPipeError, EOFError):
                raise
            except OSError as error:
                told = in_words(error, Path(files).parent)
                say("failed", *((str(told), told.full) if told else (str(error),)))
            except Exception as error:
                say("failed", f"This could not be done ({type(error).__name__}: {error}).")
