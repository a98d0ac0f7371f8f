"""The pack: every file a statement has material for, written to a folder."""

from __future__ import annotations

import json
from collections.abc import Callable, Iterable, Sequence
from dataclasses import asdict, dataclass
from pathlib import Path

from .. import __version__
from ..clauses.registry import CLAUSE_TYPES
from ..statement.document import Statement
from ..statement.evaluate import Outcome
from .balance import write_balance
from .check import GUARDS, Finding, check_pack
from .drawings import write_drawings
from .dxf import write_part, write_sheet, write_wireframe
from .ends import write_curves, write_nets, write_shapes
from .ifc import write_ifc
from .manifest import MANIFEST, removed_before, write_manifest
from .material import Material, NotMade, not_made, unused
from .models import write_models
from .schedules import SCHEDULES, schedule
from .step import write_step
from .svg import sheet_svg

__all__ = ["GROUPS", "Group", "Written", "report", "write_pack"]

ALWAYS = {"statement.json", "report.json", "checks.json", MANIFEST}
Progress = Callable[[str, float], None]


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


def report(outcomes: Sequence[Outcome], missing: Iterable[NotMade] = ()) -> dict[str, object]:
    """Every readout, as in ``report.json``."""
    idle = {o.id for o in unused(outcomes, {k: c.gives for k, c in CLAUSE_TYPES.items()})}
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
                "warnings": [w.text for w in o.warnings] + ([UNUSED] if o.id in idle else []),
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
    folder.mkdir(parents=True, exist_ok=True)
    foreign = removed_before(folder)
    evaluated = statement.model_copy(update={"program": f"Lean Lattice {__version__}"})
    (folder / "statement.json").write_text(evaluated.text(), encoding="utf-8")
    material = Material.of(statement, outcomes)
    missing = not_made(material.named)
    _write_json(folder / "report.json", report(outcomes, missing))
    for k, (name, group) in enumerate(GROUPS.items()):
        if name in wanted if wanted is not None else not group.on_request:
            progress(name, 0.85 * k / len(GROUPS))
            group.write(folder, material, progress)
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


def _schedules(folder: Path, material: Material, _: Progress) -> None:
    for name in SCHEDULES:
        tables = [t for t in (schedule(name, n) for n in material.named) if t is not None]
        if tables:
            head, *others = (t.text() for t in tables)
            text = head + "".join(t.partition("\n")[2] for t in others)
            (folder / f"{name}.csv").write_text(text, encoding="utf-8")


def _balance(folder: Path, material: Material, _: Progress) -> None:
    if material.settled:
        write_balance(folder, material.settled)


def _sheets(folder: Path, material: Material, progress: Progress) -> None:
    every = [
        (n.sheets.layout, k, n.sheets_before + k + 1)
        for n in material.named
        if n.sheets
        for k in range(n.sheets.layout.sheet_count)
    ]
    for layout, k, number in every:
        target = folder / "sheets"
        target.mkdir(exist_ok=True)
        progress(f"sheet {number} of {len(every)}", 0.85 * (1 + number / len(every)) / len(GROUPS))
        write_sheet(target / f"sheet-{number:02d}.dxf", layout, k)
        (target / f"sheet-{number:02d}.svg").write_text(sheet_svg(layout, k), encoding="utf-8")


def _parts(folder: Path, material: Material, _: Progress) -> None:
    for part in (p for n in material.named if n.sheets for p in n.sheets.layout.parts):
        (folder / "parts").mkdir(exist_ok=True)
        write_part(folder / "parts" / f"{part.label}.dxf", part)


def _wireframe(folder: Path, material: Material, _: Progress) -> None:
    if material.framed or material.nets:
        nets = [net for _, net in material.nets]
        write_wireframe(folder / "wireframe.dxf", [n.labelled for n in material.framed], nets)


def _model(name: str) -> Callable[[Path, Material, Progress], None]:
    def write(folder: Path, material: Material, _: Progress) -> None:
        if _solid(material):
            write_models(folder, material, {name})

    return write


def _solid(material: Material) -> bool:
    return bool(material.named or any(s.ends for s in material.shapes) or material.nets)


def _drawings(folder: Path, material: Material, _: Progress) -> None:
    if material.framed:
        write_drawings(folder / "drawings.pdf", material.name, material.framed)


def _building_model(folder: Path, material: Material, _: Progress) -> None:
    if _solid(material):
        write_ifc(folder / "model.ifc", material)


def _shapes(folder: Path, material: Material, _: Progress) -> None:
    if material.shapes:
        write_shapes(folder, material.shapes)


def _nets(folder: Path, material: Material, _: Progress) -> None:
    if material.nets:
        write_nets(folder, material.nets)


def _curves(folder: Path, material: Material, _: Progress) -> None:
    if material.curves:
        write_curves(folder, material.curves)


def _exact(folder: Path, material: Material, _: Progress) -> None:
    forms = [s.form for s in material.shapes if s.exact]
    if forms:
        write_step(folder / "shape.step", forms)


@dataclass(frozen=True)
class Group:
    """A group of files: its title, what is in it, how it is written, and the types of results it
    needs one of; ``on_request`` ones are only written when they are named."""

    title: str
    about: str
    write: Callable[[Path, Material, Progress], None]
    needs: tuple[str, ...]
    on_request: bool = False


LABELLED = ("Labelled", "Frame")
THINGS = (*LABELLED, "Ribs")
ANYTHING = (*THINGS, "Shape", "Net")
GROUPS: dict[str, Group] = {
    "schedules": Group(
        "Schedules",
        "nodes, members, types, angles, panels, ribs, parts, sheets, places, bars as CSV",
        _schedules,
        THINGS,
    ),
    "forces": Group(
        "Forces of settled nets",
        "places, loads, reactions and edge forces in kN as CSV",
        _balance,
        ("Net",),
    ),
    "sheets": Group(
        "Sheets", "flat parts to cut, DXF and SVG in millimetres", _sheets, ("Sheets",)
    ),
    "parts": Group(
        "Single parts", "every flat part as a DXF of its own", _parts, ("Sheets",), True
    ),
    "drawings.pdf": Group(
        "Drawings, PDF", "plan, elevations, assembly plan, schedules on A3", _drawings, LABELLED
    ),
    "wireframe.dxf": Group(
        "Wireframe",
        "set-out lines of members and edges of nets, DXF in metres",
        _wireframe,
        (*LABELLED, "Net"),
    ),
    "model.glb": Group(
        "Model, GLB",
        "members, panels, ribs and bodies as solids with their labels",
        _model("model.glb"),
        ANYTHING,
    ),
    "model.obj": Group(
        "Model, OBJ", "the same solids as named objects", _model("model.obj"), ANYTHING
    ),
    "model.stl": Group("Model, STL", "the same solids as one mesh", _model("model.stl"), ANYTHING),
    "model.ifc": Group(
        "Building model, IFC 4",
        "members, plates, ribs and shapes with profiles and materials",
        _building_model,
        ANYTHING,
    ),
    "shape.step": Group(
        "Shape, STEP", "surfaces and bodies in their exact form", _exact, ("Shape",)
    ),
    "solids": Group(
        "Shapes",
        "volumes, areas and middles as CSV, and their triangles as GLB",
        _shapes,
        ("Shape",),
    ),
    "nets": Group("Nets", "nodes, edges, cells and strands as CSV", _nets, ("Net",)),
    "curves": Group(
        "Curves", "lengths and areas as CSV, the curves as DXF and SVG", _curves, ("Curves",)
    ),
}
"""Groups of files in the order in which they are written; each writes what there is material for.
"""
