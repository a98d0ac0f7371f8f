"""A pack as its files tell of it."""

from __future__ import annotations

import csv
import json
from dataclasses import dataclass, field
from pathlib import Path
from typing import Any

import numpy as np
from numpy.typing import NDArray

from .dxf import SheetDrawing, read_sheet

__all__ = ["Pack", "PackError", "Row", "number_in", "read_pack"]

Array = NDArray[np.float64]
Row = dict[str, str]


class PackError(Exception):
    """A file of the pack that cannot be read, in a sentence."""


PRESS = 0.5
"""The most (mm) by which a plate can be pressed into a slot that is narrower."""


@dataclass
class Pack:
    """What the files say."""

    folder: Path
    tables: dict[str, list[Row]]
    nodes: dict[str, Array]
    sheets: dict[int, SheetDrawing]
    joint_mm: dict[str, float]
    tool_mm: float
    """Width of the tool beside which outlines run."""
    clearance_mm: float
    """The most that slots have to spare."""
    press_mm: float
    """The most that slots are narrower than their plates on purpose."""
    away_mm: list[tuple[float, str]]
    """How far edges of ribs lie off their body, by clause."""
    kept: dict[str, Any] = field(default_factory=dict)
    """What more than one check works out."""


def number_in(row: Row, column: str, table: str) -> float:
    try:
        value = float(row[column])
    except (KeyError, TypeError, ValueError):
        raise PackError(
            f"{table}.csv: {row.get('label', row)}: “{row.get(column)}” is no number for {column}"
        ) from None
    if not np.isfinite(value):
        raise PackError(f"{table}.csv: {row.get('label', row)}: {column} is {value}")
    return value


def read_pack(folder: Path) -> Pack:
    tables: dict[str, list[Row]] = {}
    for path in sorted(folder.glob("*.csv")):
        with path.open(encoding="utf-8", newline="") as file:
            tables[path.stem] = list(csv.DictReader(file))
    nodes = {r["label"]: np.array([number_in(r, f"{a}_m", "nodes") for a in "xyz"]) for r in tables.get("nodes", [])}
    sheets = {}
    for path in sorted((folder / "sheets").glob("sheet-*.dxf")):
        try:
            sheets[int(path.stem.split("-")[1])] = read_sheet(path)
        except ValueError as error:
            raise PackError(f"sheets/{path.name} cannot be read: {error}") from None
    clauses = json.loads((folder / "report.json").read_text(encoding="utf-8"))["clauses"]
    told = [(c["id"], {k: f["value"] for k, f in c["figures"].items()}) for c in clauses]
    tool = max((float(f["tool"]) for _, f in told if "tool" in f), default=0.0)
    clearances = [float(f["clearance"]) for _, f in told if "clearance" in f]
    away = [(float(f["away"]), f"ribs of “{name}”") for name, f in told if "away" in f]
    clearance, press = max(clearances, default=0.0), min(-min([*clearances, 0.0]), PRESS)
    return Pack(folder, tables, nodes, sheets, _joints(clauses), tool, clearance, press, away)


def _joints(clauses: list[dict[str, Any]]) -> dict[str, float]:
    """Joint in mm by series letter, from the report: panels of the n-th label clause have the joint of its panels."""
    out, joint = {}, 0.0
    for clause in clauses:
        joint = float(clause["figures"].get("joint", {}).get("value", joint))
        if clause["kind"] == "label":
            series = clause["sentence"].partition("in series ")[2][:1]
            out[series] = joint
    return out
