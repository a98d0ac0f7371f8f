"""What it takes to check a pack of many parts."""

from __future__ import annotations

import tempfile
import time
from pathlib import Path

from leanlattice.exchange.check import findings_of
from leanlattice.exchange.checks.pack_files import Pack
from leanlattice.exchange.pack import write_pack
from leanlattice.statement.document import ClauseEntry, Statement
from leanlattice.statement.evaluate import ResultCache, evaluate

__all__ = ["checked_pack"]

GROUPS = {"schedules", "sheets"}
"""The files of flat parts; models, which are read by other packages, take longer to read."""


def checked_pack(cells: int = 77) -> tuple[int, float]:
    """How many parts there are in the pack of a framed and panelled vault with so many cells each
    way, and how many times as long as reading its files all checks take."""
    rows = (
        ("vault", "barrel", {"length": 30}),
        ("net", "pattern", {"pattern": "quads", "bays_across": cells, "bays_along": cells}),
        ("bars", "frame", {}),
        ("panes", "panels", {}),
        ("sheets", "set-out", {}),
    )
    statement = Statement(
        clauses=[ClauseEntry(id=i, kind=kind, values=values) for i, kind, values in rows]
    )
    outcomes = list(evaluate(statement, ResultCache()))
    with tempfile.TemporaryDirectory() as folder:
        write_pack(Path(folder), statement, outcomes, GROUPS)
        started = time.perf_counter()
        pack = Pack(Path(folder))
        parts = len(pack.part_rows)
        _ = pack.nodes, pack.sheets, pack.report
        reading = time.perf_counter() - started
        started = time.perf_counter()
        wrong = [finding for finding in findings_of(Path(folder)) if not finding.passed]
        taken = time.perf_counter() - started
    assert not wrong, wrong
    return parts, taken / reading
