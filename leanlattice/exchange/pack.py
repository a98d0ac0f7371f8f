"""The pack: every file a statement has material for, written to a folder."""

from __future__ import annotations

import json
from collections.abc import Callable, Iterable
from dataclasses import asdict
from pathlib import Path

from .. import __version__
from ..core.flat.sheets import Sheets
from ..core.framing.naming import Labelled
from ..statement.document import Statement
from ..statement.evaluate import Outcome
from .check import Finding, check_pack
from .dxf import write_sheet, write_wireframe
from .models import write_models
from .schedules import SCHEDULES, schedule
from .svg import sheet_svg

__all__ = ["MODELS", "report", "write_pack"]

MODELS = ("model.glb", "model.obj", "model.stl")


def report(outcomes: Iterable[Outcome]) -> dict[str, object]:
    """Every readout, as in ``report.json``."""
    return {
        "clauses": [
            {
                "id": o.id,
                "kind": o.kind,
                "sentence": o.sentence,
                "figures": {name: {"value": f.value, "unit": f.unit} for name, f in o.figures.items()},
                "warnings": [w.text for w in o.warnings] + ([o.error] if o.error else []),
            }
            for o in outcomes
        ]
    }


def _named(outcomes: list[Outcome]) -> list[tuple[Labelled, Sheets | None]]:
    """Labelled frames with their sheets; of several sheet clauses on one frame the last."""
    sheets = {id(o.result.labelled): o.result for o in outcomes if isinstance(o.result, Sheets)}
    return [(o.result, sheets.get(id(o.result))) for o in outcomes if isinstance(o.result, Labelled)]


def write_pack(
    folder: Path,
    statement: Statement,
    outcomes: list[Outcome],
    wanted: set[str] | None = None,
    progress: Callable[[str, float], None] = lambda name, share: None,
) -> list[Finding]:
    """Writes the pack into ``folder`` and gives what the check of the written files found.

    ``wanted`` limits it to groups of files, named as in ``deliverables``: ``schedules``, ``sheets``, ``wireframe.dxf``
    and the models. Statement, report and checks are always written.
    """
    folder.mkdir(parents=True, exist_ok=True)
    every = wanted is None
    evaluated = statement.model_copy(update={"program": f"Lean Lattice {__version__}"})
    (folder / "statement.json").write_text(evaluated.text(), encoding="utf-8")
    text = json.dumps(report(outcomes), ensure_ascii=False, indent=2)
    (folder / "report.json").write_text(text + "\n", encoding="utf-8")
    named = _named(outcomes)
    if named and (every or "schedules" in (wanted or ())):
        progress("schedules", 0.1)
        _write_schedules(folder, named)
    if named and (every or "wireframe.dxf" in (wanted or ())):
        progress("wireframe.dxf", 0.3)
        write_wireframe(folder / "wireframe.dxf", [labelled for labelled, _ in named])
    if every or "sheets" in (wanted or ()):
        _write_sheets(folder, named, progress)
    formats = {m for m in MODELS if every or m in (wanted or ())}
    if named and formats:
        progress("models", 0.7)
        write_models(folder, named, formats)
    progress("checks", 0.85)
    findings = check_pack(folder)
    (folder / "checks.json").write_text(
        json.dumps([asdict(f) for f in findings], ensure_ascii=False, indent=2) + "\n", encoding="utf-8"
    )
    return findings


def _write_schedules(folder: Path, named: list[tuple[Labelled, Sheets | None]]) -> None:
    for name in SCHEDULES:
        tables = [t for t in (schedule(name, labelled, sheets) for labelled, sheets in named) if t is not None]
        if tables:
            head, *others = (t.text() for t in tables)
            text = head + "".join(t.partition("\n")[2] for t in others)
            (folder / f"{name}.csv").write_text(text, encoding="utf-8")


def _write_sheets(
    folder: Path, named: list[tuple[Labelled, Sheets | None]], progress: Callable[[str, float], None]
) -> None:
    number, total = 0, sum(s.layout.sheet_count for _, s in named if s)
    for _, sheets in named:
        for k in range(sheets.layout.sheet_count if sheets else 0):
            assert sheets is not None
            number += 1
            target = folder / "sheets"
            target.mkdir(exist_ok=True)
            progress(f"sheet {number} of {total}", 0.3 + 0.4 * number / total)
            write_sheet(target / f"sheet-{number:02d}.dxf", sheets.layout, k)
            (target / f"sheet-{number:02d}.svg").write_text(sheet_svg(sheets.layout, k), encoding="utf-8")
