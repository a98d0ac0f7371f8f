"""A pack as its files tell of it."""

from __future__ import annotations

import csv
import json
from collections.abc import Iterator
from dataclasses import dataclass, field
from functools import cached_property
from pathlib import Path
from typing import Any

import numpy as np
from numpy.typing import NDArray

from ..dxf import SheetDrawing, read_sheet, read_wireframe

__all__ = [
    "RINGS",
    "Found",
    "Pack",
    "PackError",
    "Row",
    "beyond",
    "number_in",
    "tolerance_of",
    "vector_in",
]

Array = NDArray[np.float64]
Row = dict[str, str]
Found = Iterator[tuple[float, str]]
"""How far things are from what they should be, and where each is."""
RINGS = "S"
"""The last letter of sets of rings on rods."""
PRESS = 0.5
"""The most (mm) by which a plate can be pressed into a slot that is narrower."""


class PackError(Exception):
    """A file of the pack that cannot be read, in a sentence."""


def beyond(wrong: object) -> float:
    """How far off something is that is right or wrong and nothing between: without end, or not at
    all."""
    return np.inf if wrong else 0.0


def number_in(row: Row, column: str, table: str) -> float:
    """A number of a table; raises ``PackError`` naming table, row and column."""
    name = row.get("label") or row.get("node") or row.get("sheet") or str(row)[:60]
    try:
        value = float(row[column])
    except (KeyError, TypeError, ValueError):
        raise PackError(
            f"{table}.csv: {name}: “{row.get(column)}” is no number for {column}"
        ) from None
    if not np.isfinite(value):
        raise PackError(f"{table}.csv: {name}: {column} is {value}")
    return value


def vector_in(row: Row, table: str, form: str) -> Array:
    """Three numbers of a table (3,); ``form`` gives the columns, with {} for x, y and z."""
    return np.array([number_in(row, form.format(a), table) for a in "xyz"])


@dataclass
class Pack:
    """What the files in ``folder`` say; each is read once, when it is first looked at."""

    folder: Path
    kept: dict[str, Any] = field(default_factory=dict)
    """What more than one check works out."""

    @cached_property
    def tables(self) -> dict[str, list[Row]]:
        out = {}
        for path in sorted(self.folder.glob("*.csv")):
            with path.open(encoding="utf-8", newline="") as file:
                out[path.stem] = list(csv.DictReader(file))
        for name, rows in out.items():
            for row in rows:
                if None in row or None in row.values():
                    raise PackError(
                        f"{name}.csv: a row has more or fewer values than columns: {str(row)[:80]}"
                    )
        return out

    def rows(self, table: str) -> list[Row]:
        return self.tables.get(table, [])

    def has(self, name: str) -> bool:
        return (self.folder / name).is_file()

    @cached_property
    def nodes(self) -> dict[str, Array]:
        """Places (3,) in metres by label."""
        return {r["label"]: vector_in(r, "nodes", "{}_m") for r in self.rows("nodes")}

    @cached_property
    def sheets(self) -> dict[int, SheetDrawing]:
        out = {}
        for path in sorted((self.folder / "sheets").glob("sheet-*.dxf")):
            try:
                out[int(path.stem.split("-")[1])] = read_sheet(path)
            except ValueError as error:
                raise PackError(f"sheets/{path.name} cannot be read: {error}") from None
        return out

    @cached_property
    def report(self) -> dict[str, Any]:
        try:
            found = json.loads((self.folder / "report.json").read_text(encoding="utf-8"))
        except (OSError, ValueError) as error:
            raise PackError(f"report.json cannot be read: {error}") from None
        if not isinstance(found, dict) or not isinstance(found.get("clauses"), list):
            raise PackError("report.json holds no clauses")
        return found

    def not_made(self, what: str = "") -> set[str]:
        """Labels of what the report says is not made: of all, or of one kind of thing."""
        listed = self.report.get("not_made", [])
        return {m["label"] for m in listed if what in ("", m.get("what"))}

    def figure(self, clause: str, name: str) -> float:
        """A figure of a clause; 0 where it has none."""
        for c in self.report["clauses"]:
            if c["id"] == clause and name in c["figures"]:
                return float(c["figures"][name]["value"])
        return 0.0

    def wireframe(self, *names: str) -> tuple[Array, NDArray[np.str_]]:
        """Lines (n, 2, 3) in metres of the wireframe on layers of these names, and their layers;
        raises ``PackError`` where it cannot be read."""
        lines, layers = self._wireframe
        wanted = np.isin(layers, names)
        return lines[wanted], layers[wanted]

    @cached_property
    def _wireframe(self) -> tuple[Array, NDArray[np.str_]]:
        try:
            return read_wireframe(self.folder / "wireframe.dxf")
        except ValueError as error:
            raise PackError(f"wireframe.dxf cannot be read: {error}") from None

    @cached_property
    def sheet_rows(self) -> dict[int, Row]:
        """Rows of sheets.csv by number."""
        return {int(number_in(r, "sheet", "sheets")): r for r in self.rows("sheets")}

    @cached_property
    def part_rows(self) -> dict[str, Row]:
        return {r["label"]: r for r in self.rows("parts")}

    def tool(self, label: str) -> float:
        """Width (mm) of the tool beside which the outlines of a part run."""
        return (
            number_in(self.part_rows[label], "tool_mm", "parts") if label in self.part_rows else 0.0
        )

    @cached_property
    def press_mm(self) -> float:
        """The most that slots are narrower than their plates on purpose."""
        return min(-min([*self.clearances, 0.0]), PRESS)

    @cached_property
    def clearances(self) -> list[float]:
        """What slots have to spare, by clause, in mm."""
        return [
            float(c["figures"]["clearance"]["value"])
            for c in self.report["clauses"]
            if "clearance" in c["figures"]
        ]


def tolerance_of(pack: Pack) -> float:
    """Within how many mm things are told to be equal at the widest; a millimetre where nothing is
    told."""
    figures = [clause["figures"] for clause in pack.report["clauses"]]
    told = [float(own["tolerance"]["value"]) for own in figures if "tolerance" in own]
    return max(told, default=1.0)
