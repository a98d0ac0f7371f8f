"""The pack: every file a statement has material for, written to a folder."""

from __future__ import annotations

import json
import shutil
from collections.abc import Callable, Iterable
from dataclasses import asdict, dataclass
from pathlib import Path

from .. import __version__
from ..core.geometry.nets import Net
from ..core.geometry.surfaces import Surface
from ..statement.document import Statement
from ..statement.evaluate import Outcome
from .balance import carries, write_balance
from .check import GUARDS, Finding, check_pack
from .drawings import write_drawings
from .dxf import write_part, write_sheet, write_wireframe
from .ifc import write_ifc
from .models import write_models
from .schedules import SCHEDULES, Named, schedule
from .step import has_exact_form, write_step
from .svg import sheet_svg

__all__ = ["GROUPS", "ON_REQUEST", "report", "write_pack"]


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


def write_pack(
    folder: Path,
    statement: Statement,
    outcomes: list[Outcome],
    wanted: set[str] | None = None,
    progress: Callable[[str, float], None] = lambda name, share: None,
) -> list[Finding]:
    """Writes the pack into ``folder`` and gives what the check of the written files found.

    ``wanted`` limits it to some of ``GROUPS``; without it all but those ``ON_REQUEST`` are written. Statement, report
    and checks are always written.
    """
    folder.mkdir(parents=True, exist_ok=True)
    evaluated = statement.model_copy(update={"program": f"Lean Lattice {__version__}"})
    (folder / "statement.json").write_text(evaluated.text(), encoding="utf-8")
    _write_json(folder / "report.json", report(outcomes))
    every = Named.all_of(outcomes)
    material = Material(statement.name, every, [n for n in every if n.framed],
                        [o.result for o in outcomes if isinstance(o.result, Surface)],
                        [(o.id, o.result) for o in outcomes if o.kind == "settle" and carries(o.result)])  # fmt: skip
    for k, (group, write) in enumerate(GROUPS.items()):
        if group not in ON_REQUEST if wanted is None else group in wanted:
            progress(group, 0.85 * k / len(GROUPS))
            write(folder, material, progress)
    progress("checks", 0.9)
    findings = check_pack(folder)
    if any(f.check in GUARDS and not f.passed for f in findings):
        _hold_back(folder)
    _write_json(folder / "checks.json", [asdict(f) for f in findings])
    return findings


def _hold_back(folder: Path) -> None:
    """Takes away all that could be made from: ribs that do not go together are not to be cut."""
    for path in folder.iterdir():
        if path.name not in ALWAYS:
            shutil.rmtree(path) if path.is_dir() else path.unlink()


ALWAYS = {"statement.json", "report.json", "checks.json"}


def _write_json(path: Path, content: object) -> None:
    path.write_text(json.dumps(content, ensure_ascii=False, indent=2) + "\n", encoding="utf-8")


@dataclass(frozen=True)
class Material:
    """What there is to write of a statement."""

    name: str
    every: list[Named]
    named: list[Named]
    """Those of labelled frames."""
    surfaces: list[Surface]
    settled: list[tuple[str, Net]]
    """Settled nets that carry something, by clause."""


Progress = Callable[[str, float], None]


def _schedules(folder: Path, material: Material, _: Progress) -> None:
    for name in SCHEDULES:
        tables = [t for t in (schedule(name, n) for n in material.every) if t is not None]
        if tables:
            head, *others = (t.text() for t in tables)
            text = head + "".join(t.partition("\n")[2] for t in others)
            (folder / f"{name}.csv").write_text(text, encoding="utf-8")


def _balance(folder: Path, material: Material, _: Progress) -> None:
    if material.settled:
        write_balance(folder, material.settled)


def _sheets(folder: Path, material: Material, progress: Progress) -> None:
    every = [(n.sheets.layout, k, n.sheets_before + k + 1) for n in material.every if n.sheets
             for k in range(n.sheets.layout.sheet_count)]  # fmt: skip
    for layout, k, number in every:
        target = folder / "sheets"
        target.mkdir(exist_ok=True)
        progress(f"sheet {number} of {len(every)}", 0.85 * (1 + number / len(every)) / len(GROUPS))
        write_sheet(target / f"sheet-{number:02d}.dxf", layout, k)
        (target / f"sheet-{number:02d}.svg").write_text(sheet_svg(layout, k), encoding="utf-8")


def _parts(folder: Path, material: Material, _: Progress) -> None:
    for part in (p for n in material.every if n.sheets for p in n.sheets.layout.parts):
        (folder / "parts").mkdir(exist_ok=True)
        write_part(folder / "parts" / f"{part.label}.dxf", part)


def _wireframe(folder: Path, material: Material, _: Progress) -> None:
    if material.named:
        write_wireframe(folder / "wireframe.dxf", [n.labelled for n in material.named])


def _model(name: str) -> Callable[[Path, Material, Progress], None]:
    def write(folder: Path, material: Material, _: Progress) -> None:
        if material.every:
            write_models(folder, material.every, {name})

    return write


def _drawings(folder: Path, material: Material, _: Progress) -> None:
    if material.named:
        write_drawings(folder / "drawings.pdf", material.name, material.named)


def _building_model(folder: Path, material: Material, _: Progress) -> None:
    if material.every:
        write_ifc(folder / "model.ifc", material.name, material.every)


def _shape(folder: Path, material: Material, _: Progress) -> None:
    exact = [s for s in material.surfaces if has_exact_form(s)]
    if exact:
        write_step(folder / "shape.step", exact)


GROUPS: dict[str, Callable[[Path, Material, Progress], None]] = {
    "schedules": _schedules,
    "forces": _balance,
    "sheets": _sheets,
    "parts": _parts,
    "drawings.pdf": _drawings,
    "wireframe.dxf": _wireframe,
    "model.glb": _model("model.glb"),
    "model.obj": _model("model.obj"),
    "model.stl": _model("model.stl"),
    "model.ifc": _building_model,
    "shape.step": _shape,
}
"""Writers by group of files; each writes what there is material for."""

ON_REQUEST = {"parts"}
"""Groups that are written only when they are named."""
