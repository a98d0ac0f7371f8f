"""The pack: every file a statement has material for, written to a folder."""

from __future__ import annotations

import json
from collections.abc import Callable, Iterable, Sequence
from dataclasses import asdict, dataclass
from pathlib import Path

from .. import __version__
from ..statement.document import Statement
from ..statement.evaluate import Outcome, last_of_each
from ..statement.plan import plan
from ..statement.standing import amended, notices_of, still_told
from .check import GUARDS, Finding, check_pack
from .checks.files import MAY_BE_EMPTY
from .curves import curves_dxf, curves_svg
from .drawings import write_drawings
from .dxf import write_part, write_sheet, write_wireframe
from .groups import GROUPS
from .ifc import write_ifc
from .kinds import KINDS
from .kinds.kind import NotMade
from .kinds.machine import told_of
from .kinds.shapes import exact_form_of, written_mesh
from .lines import lines_dxf
from .machine import write_machine_files
from .manifest import MANIFEST, removed_before, write_manifest
from .material import Material, tables_of, unused
from .models import write_model, write_skins
from .step import write_step
from .step_hubs import write_hubs
from .step_solids import write_solids
from .svg import sheet_svg

__all__ = ["WRITERS", "Written", "report", "write_pack"]

ALWAYS = {"statement.json", "report.json", "checks.json", MANIFEST}
Progress = Callable[[str, float], None]
Write = Callable[[Path, Material, Progress], None]


@dataclass(frozen=True)
class Written:
    """What became of a pack: what its check found, what is designed but could not be made, and
    files in the folder that are not of it."""

    findings: list[Finding]
    not_made: list[NotMade]
    foreign: list[str]

    @property
    def wrong(self) -> list[Finding]:
        return [f for f in self.findings if not f.passed]

    @property
    def held_back(self) -> bool:
        return any(f.check in GUARDS for f in self.wrong)


def report(
    statement: Statement, outcomes: Sequence[Outcome], missing: Iterable[NotMade] = ()
) -> dict[str, object]:
    """Every readout, as in ``report.json``."""
    idle = {o.id: [UNUSED] for o in unused(outcomes)}
    steps = plan(statement)
    standing, anew = notices_of(steps), amended(steps)
    return {
        "clauses": [
            {
                "id": o.id,
                "kind": o.kind,
                "status": o.status,
                "sentence": o.sentence,
                "inputs": {name: list(ids) for name, ids in o.inputs.items()},
                "figures": {
                    name: {"value": f.value, "unit": f.unit} for name, f in o.figures.items()
                },
                "warnings": [
                    w.text for w in (*still_told(o.warnings, o.id, anew), *standing.get(o.id, ()))
                ]
                + idle.get(o.id, []),
                "error": o.error,
            }
            for o in outcomes
        ],
        "not_made": [asdict(m) for m in missing],
    }


UNUSED = "Nothing below uses this."


def write_pack(
    folder: Path,
    statement: Statement,
    outcomes: list[Outcome],
    wanted: set[str] | None = None,
    progress: Progress = lambda name, share: None,
) -> Written:
    """Writes the pack of a ``statement`` into ``folder``, of what could be made of its
    ``outcomes``, and reads it back; ``progress`` hears what is written and the share done.

    What an earlier pack left there is taken away first. ``wanted`` limits it to some of ``GROUPS``;
    without it all but those written on request are. Statement, report, checks and manifest are
    always written.
    """
    outcomes = last_of_each(outcomes)
    folder.mkdir(parents=True, exist_ok=True)
    foreign = removed_before(folder)
    evaluated = statement.model_copy(update={"program": f"Lean Lattice {__version__}"})
    (folder / "statement.json").write_text(evaluated.text(), encoding="utf-8")
    material = Material.of(statement, outcomes)
    missing = material.not_made()
    _write_json(folder / "report.json", report(statement, outcomes, missing))
    for k, (name, group) in enumerate(GROUPS.items()):
        if name in wanted if wanted is not None else not group.on_request:
            progress(name, 0.85 * k / len(GROUPS))
            WRITERS[name](folder, material, progress)
    progress("checks", 0.9)
    write_manifest(folder, foreign)
    findings = check_pack(folder, foreign)
    written = Written(findings, missing, foreign)
    if written.held_back:
        _hold_back(folder, foreign)
    _write_json(folder / "checks.json", [asdict(f) for f in findings])
    write_manifest(folder, foreign)
    return written


def _hold_back(folder: Path, foreign: list[str]) -> None:
    """Takes away all that could be made from: ribs that do not go together are not to be cut."""
    for path in sorted(folder.rglob("*"), reverse=True):
        if path.is_dir():
            if not any(path.iterdir()):
                path.rmdir()
        elif path.relative_to(folder).as_posix() not in {*ALWAYS, *foreign}:
            path.unlink()


def _write_json(path: Path, content: object) -> None:
    path.write_text(json.dumps(content, ensure_ascii=False, indent=2) + "\n", encoding="utf-8")


def _tables(folder: Path, material: Material, group: str) -> None:
    """Schedules of a group, each in one file with those of all results one after the other. Those
    without rows are written only beside others that belong to them."""
    every = [s for kind in KINDS.values() for s in kind.schedules if s.group == group]
    for name in dict.fromkeys(s.name for s in every):
        tables = [table for _, table in tables_of(material.subjects, name)]
        if any(table.count for table in tables) or (tables and name in MAY_BE_EMPTY):
            head, *others = (t.text() for t in tables)
            text = head + "".join(t.partition("\n")[2] for t in others)
            (folder / f"{name}.csv").write_text(text, encoding="utf-8")


def _tables_of(group: str) -> Write:
    return lambda folder, material, progress: _tables(folder, material, group)


def _sheets(folder: Path, material: Material, progress: Progress) -> None:
    every = [
        (subject.result.layout, k, subject.sheets_before + k + 1)
        for subject in material.subjects
        if subject.type == "Sheets"
        for k in range(subject.result.layout.sheet_count)
    ]
    for layout, k, number in every:
        target = folder / "sheets"
        target.mkdir(exist_ok=True)
        progress(f"sheet {number} of {len(every)}", 0.85 * (1 + number / len(every)) / len(GROUPS))
        write_sheet(target / f"sheet-{number:02d}.dxf", layout, k)
        (target / f"sheet-{number:02d}.svg").write_text(sheet_svg(layout, k), encoding="utf-8")


def _parts(folder: Path, material: Material, _: Progress) -> None:
    for part in (p for s in material.subjects if s.type == "Sheets" for p in s.result.layout.parts):
        (folder / "parts").mkdir(exist_ok=True)
        write_part(folder / "parts" / f"{part.label}.dxf", part)


def _wireframe(folder: Path, material: Material, _: Progress) -> None:
    drawn = [lines(subject) for subject, lines in material.having("lines")]
    wires = [lines for lines in drawn if lines is not None]
    if wires:
        write_wireframe(folder / "wireframe.dxf", wires)


def _model(name: str) -> Write:
    return lambda folder, material, progress: write_model(folder / name, material)


def _drawings(folder: Path, material: Material, _: Progress) -> None:
    if any(subject.type == "Structure" for subject in material.subjects):
        write_drawings(folder / "drawings.pdf", material.name, material.subjects)


def _building_model(folder: Path, material: Material, _: Progress) -> None:
    write_ifc(folder / "model.ifc", material)


def _shapes(folder: Path, material: Material, _: Progress) -> None:
    _tables(folder, material, "solids")
    shapes = [s for s in material.subjects if s.type == "Shape"]
    if shapes:
        write_skins(folder / "solids.glb", [(s.clause, s.once(written_mesh)) for s in shapes])


def _curves(folder: Path, material: Material, _: Progress) -> None:
    _tables(folder, material, "curves")
    for subject in material.subjects:
        if subject.type == "Curves" and subject.is_drawn_out:
            name = f"curves-{subject.clause}"
            (folder / f"{name}.dxf").write_text(curves_dxf(subject.result), encoding="utf-8")
            (folder / f"{name}.svg").write_text(curves_svg(subject.result), encoding="utf-8")
        elif subject.type == "Lines" and subject.ends:
            drawing = folder / f"lines-{subject.clause}.dxf"
            drawing.write_text(lines_dxf(subject.result), encoding="utf-8")


def _exact(folder: Path, material: Material, _: Progress) -> None:
    shapes = [s for s in material.subjects if s.type == "Shape"]
    forms = [(s.clause, form) for s in shapes if (form := s.once(exact_form_of)) is not None]
    if forms:
        write_step(folder / "shape.step", forms)


def _bodies(folder: Path, material: Material, _: Progress) -> None:
    every = [s.result for s in material.subjects if s.type == "Solids"]
    write_solids(folder / "bodies.step", every)


def _hubs(folder: Path, material: Material, _: Progress) -> None:
    write_hubs(folder / "hubs.step", [s.result for s in material.subjects if s.type == "Hubs"])


def _machine(folder: Path, material: Material, _: Progress) -> None:
    _tables(folder, material, "machine")
    for subject in material.subjects:
        if subject.type == "Structure":
            write_machine_files(folder / "machine", material.name, told_of(subject))


WRITERS: dict[str, Write] = {
    "schedules": _tables_of("schedules"),
    "forces": _tables_of("forces"),
    "sheets": _sheets,
    "parts": _parts,
    "drawings.pdf": _drawings,
    "wireframe.dxf": _wireframe,
    "model.glb": _model("model.glb"),
    "model.obj": _model("model.obj"),
    "model.stl": _model("model.stl"),
    "model.ifc": _building_model,
    "shape.step": _exact,
    "bodies.step": _bodies,
    "hubs.step": _hubs,
    "machine": _machine,
    "solids": _shapes,
    "nets": _tables_of("nets"),
    "curves": _curves,
}
"""What writes each group; nothing where there is no material for it."""
