"""The files of a pack as such: that all are there, as they were written, and tell of one
statement."""

from __future__ import annotations

import json
import re
from collections.abc import Sequence
from pathlib import Path

from pypdfium2 import PdfDocument, PdfiumError

from ...clauses.registry import CLAUSE_TYPES
from ...statement.document import StatementError
from ...statement.plan import plan
from ...statement.upgrade import read_upgraded
from ..manifest import differences
from .pack_files import RINGS, Found, Pack, beyond

__all__ = [
    "MAY_BE_EMPTY",
    "belong_together",
    "checks_as_found",
    "clauses_as_stated",
    "differences_but",
    "drawings_name_all",
    "figures_as_counted",
]

TOGETHER = (
    ("nodes", "members", "member_types", "node_angles"),
    ("parts", "sheets"),
    ("settled_nodes", "settled_edges"),
    ("net_nodes", "net_edges", "net_cells"),
)
"""Tables of which each needs the others."""
MAY_BE_EMPTY = {name for group in TOGETHER for name in group}
"""Tables that are there without rows, where their others have some."""
COUNTED = {
    "members": "members",
    "nodes": "nodes",
    "panels": "panels",
    "ribs": "ribs",
    "sheets": "sheets",
    "parts": "parts",
    "solids": "bodies",
    "bodies": "node_bodies",
    "hubs": "hubs",
    "end_plates": "end_plates",
    "wraps": "wraps",
}
"""Figures that count the rows of a table."""
FRAMES = tuple(name for name, kind in CLAUSE_TYPES.items() if kind.gives == "Structure")
"""Kinds of clauses that give structures."""


def differences_but(folder: Path, foreign: Sequence[str]) -> list[str]:
    """What differs from the manifest, but for files known to be foreign."""
    known = {f"{name} is not of this pack" for name in foreign}
    return [d for d in differences(folder) if d not in known]


def belong_together(pack: Pack) -> Found:
    """Tables that need each other and hold something, and the drawings they speak of."""
    yield from _tables_complete(pack)
    if "ribs" in pack.tables and "parts" in pack.tables:
        yield (
            float("assembly" not in pack.tables),
            "assembly.csv is missing beside ribs.csv and parts.csv",
        )
    stood = {row["label"] for row in (*pack.rows("panels"), *pack.rows("ribs"))}
    if stood - pack.not_made():
        bent = len(pack.rows("bends")) > 0
        yield (
            float("poses" not in pack.tables and not bent),
            "poses.csv is missing beside panels.csv or ribs.csv",
        )
    if any(r.get("radius_m") for r in pack.rows("ribs")) and "parts" in pack.tables:
        yield float("bends" not in pack.tables), "bends.csv is missing beside bent ribs in ribs.csv"
    yield from _pairs(pack, "solids.csv", "solids.glb")
    drawn = {p.stem for p in (pack.folder / "sheets").glob("*.dxf")}
    pictured = {p.stem for p in (pack.folder / "sheets").glob("*.svg")}
    listed = {f"sheet-{n:02d}" for n in pack.sheet_rows}
    if drawn or pictured:
        for name in sorted(drawn | pictured | listed):
            for there, ending in ((drawn, "dxf"), (pictured, "svg")):
                yield float(name not in there), f"sheets/{name}.{ending} is missing"
        if "parts" in pack.tables:
            yield (
                float(len(drawn - listed)),
                f"sheets.csv does not speak of {', '.join(sorted(drawn - listed))}",
            )


def _tables_complete(pack: Pack) -> Found:
    """Tables that hold nothing, or that lack others."""
    for name, rows in pack.tables.items():
        yield float(not rows and name not in MAY_BE_EMPTY), f"{name}.csv holds no rows"
    for group in TOGETHER:
        tables = [t for t in group if t in pack.tables]
        for name in group if tables else ():
            yield float(name not in tables), f"{name}.csv is missing beside {', '.join(tables)}.csv"


def _pairs(pack: Pack, one: str, two: str) -> Found:
    for here, other in ((one, two), (two, one)):
        if pack.has(here):
            yield float(not pack.has(other)), f"{other} is missing beside {here}"


def clauses_as_stated(pack: Pack) -> Found:
    """The report tells of the clauses of the statement, in the words their values give them."""
    try:
        statement = read_upgraded((pack.folder / "statement.json").read_bytes())
    except (OSError, StatementError) as error:
        yield 1.0, f"statement.json: {error}"
        return
    steps = {s.entry.id: s for s in plan(statement)}
    told = {c["id"]: c for c in pack.report["clauses"]}
    for name in [*steps, *(k for k in told if k not in steps)]:
        if name not in told or name not in steps:
            where = "report.json" if name not in told else "statement.json"
            yield 1.0, f"clause “{name}” is missing in {where}"
            continue
        step, clause = steps[name], told[name]
        yield float(clause["kind"] != step.entry.kind), f"“{name}” is another kind in report.json"
        if clause["status"] == "done":
            same = step.clause is not None and clause["sentence"] == step.sentence
            yield (
                float(not same),
                f"the sentence of “{name}” in report.json is not that of statement.json",
            )


def figures_as_counted(pack: Pack) -> Found:
    """Figures that count rows, where one clause alone has them."""
    for figure, table in COUNTED.items():
        kinds = {
            "members": FRAMES,
            "nodes": FRAMES,
            "bodies": FRAMES,
            "panels": ("panels",),
        }.get(figure)
        having = [
            c
            for c in pack.report["clauses"]
            if figure in c["figures"]
            and c["status"] == "done"
            and (kinds is None or c["kind"] in kinds)
        ]
        # Spliced ribs are counted where they are whole, and again as the lengths they are made of.
        used = {source for c in having for ids in c["inputs"].values() for source in ids}
        whole = [c for c in having if c["id"] in used]
        having = [c for c in having if c["id"] not in used]
        if len(having) != 1 or table not in pack.tables:
            continue
        rows = pack.rows(table)
        if figure == "parts":
            rows = [r for r in rows if r["sheet"]]
        counted = [(having[0], len(rows))]
        if figure == "ribs":
            uncut = {r["label"].partition("-")[0] for r in rows}
            counted += [(c, len(uncut)) for c in whole]
        for clause, count in counted:
            said = clause["figures"][figure]["value"]
            where = f"report.json says {said} {figure} for {count} in {table}.csv"
            yield abs(float(said) - count), where
    rings = [
        c["figures"]["rings"]["value"] for c in pack.report["clauses"] if "rings" in c["figures"]
    ]
    if rings and "ribs" in pack.tables:
        count = sum(r["set"].endswith(RINGS) for r in pack.rows("ribs"))
        yield (
            abs(sum(rings) - count),
            f"report.json says {sum(rings)} rings for {count} in ribs.csv",
        )
    yield from _kept_by_names(pack)
    for row, total in ((r, t) for r, t in _masses(pack) if t):
        yield (
            abs(row / total - 1) * 100,
            f"report.json says {row:.1f} kg for {total:.1f} kg in members.csv and node_bodies.csv",
        )


def _kept_by_names(pack: Pack) -> Found:
    """Figures of structures that are but named anew, which stay what they were."""
    clauses = {c["id"]: c for c in pack.report["clauses"]}
    for clause in clauses.values():
        if clause["kind"] != "name" or clause["status"] != "done":
            continue
        (source,) = clause["inputs"]["structure"]
        before = clauses.get(source, {}).get("figures", {})
        for name in sorted(
            clause["figures"].keys() & before.keys() - {"member_types", "tolerance"}
        ):
            yield (
                beyond(clause["figures"][name] != before[name]),
                f"report.json says another {name} of {source} than of {clause['id']}",
            )


def _masses(pack: Pack) -> list[tuple[float, float]]:
    frames = [c for c in pack.report["clauses"] if c["kind"] in FRAMES and c["status"] == "done"]
    # What another goes on with is told by that one.
    used = {source for c in frames for ids in c["inputs"].values() for source in ids}
    frames = [c for c in frames if c["id"] not in used]
    if len(frames) != 1 or "members" not in pack.tables:
        return []
    rows = (*pack.rows("members"), *pack.rows("node_bodies"))
    total = sum(float(r["mass_kg"]) for r in rows)
    return [(float(frames[0]["figures"]["mass"]["value"]), total)]


def drawings_name_all(pack: Pack) -> Found:
    """The PDF can be read, and names every node and member."""
    path = pack.folder / "drawings.pdf"
    if not path.is_file():
        return
    text = _pdf_text(path)
    if text is None:
        yield 1.0, "drawings.pdf cannot be read"
        return
    words = set(re.findall(r"\w+", text))
    for table in ("nodes", "members"):
        for row in pack.rows(table):
            yield (
                float(row["label"] not in words),
                f"{row['label']} of {table}.csv is not in drawings.pdf",
            )


def _pdf_text(path: Path) -> str | None:
    """The words of all pages; ``None`` where it cannot be read or has no page."""
    try:
        document = PdfDocument(path)
    except PdfiumError:
        return None
    try:
        pages = [page.get_textpage().get_text_range() for page in document]
    except PdfiumError:
        return None
    finally:
        document.close()
    return "\n".join(pages) if pages else None


def checks_as_found(pack: Pack, found: dict[str, bool]) -> Found:
    """``checks.json`` says of every check what is found now."""
    path = pack.folder / "checks.json"
    if not path.is_file():
        return
    try:
        listed = {
            c["check"]: bool(c["passed"]) for c in json.loads(path.read_text(encoding="utf-8"))
        }
    except (ValueError, KeyError, TypeError):
        yield 1.0, "checks.json cannot be read"
        return
    for name in sorted({*listed, *found}):
        said = listed.get(name)
        yield (
            float(said is None or (name in found and said != found[name])),
            f"checks.json, “{name}”",
        )
