"""Materials: what is told of each against the rows of all things made of it."""

from __future__ import annotations

from collections import defaultdict
from collections.abc import Callable
from typing import NamedTuple

from ...clauses.registry import CLAUSE_TYPES
from ...core.materials import MATERIALS
from .pack_files import Found, Pack, Row, beyond, number_in

__all__ = ["materials_as_listed"]

TITLES = {m.title: m.name for m in MATERIALS.values()}
ROUNDED = 1e-3
"""By what share, or by what of a unit, sums of rounded numbers differ."""


class _Amount(NamedTuple):
    """What one thing is of, and how much of it: metres, m² and kg, where it has some."""

    material: str
    type: str
    length: float
    area: float
    mass: float


def _number(row: Row, column: str, table: str) -> float:
    return number_in(row, column, table)


def _member(row: Row) -> _Amount:
    length = _number(row, "length_mm", "members") / 1000
    return _Amount(row["material"], row["type"], length, 0.0, _number(row, "mass_kg", "members"))


def _panel(row: Row) -> _Amount:
    area, name = _number(row, "area_m2", "panels"), row["material"]
    thickness = _number(row, "thickness_mm", "panels") / 1000
    return _Amount(name, row["type"], 0.0, area, area * thickness * _density(name))


def _solid(row: Row) -> _Amount:
    name = TITLES.get(row["material"], "")
    area = _number(row, "area_m2", "bodies")
    return _Amount(name, row["type"], 0.0, area, _number(row, "mass_kg", "bodies"))


def _plate(table: str) -> Callable[[Row], _Amount]:
    """What tells of a plate of a kind in a ``table``."""

    def read(row: Row) -> _Amount:
        area, mass = (_number(row, name, table) for name in ("area_m2", "mass_kg"))
        return _Amount(row["material"], row["kind"], 0.0, area, mass)

    return read


def _hub(row: Row) -> _Amount:
    return _Amount(row["material"], row["kind"], 0.0, 0.0, _number(row, "mass_kg", "hubs"))


def _density(name: str) -> float:
    return MATERIALS[name].density if name in MATERIALS else 0.0


def _flat_part(table: str) -> Callable[[Row], _Amount]:
    """What tells of a flat part of its own type in a ``table``."""

    def read(row: Row) -> _Amount:
        area, name = _number(row, "area_m2", table), row["material"]
        thickness = _number(row, "thickness_mm", table) / 1000
        return _Amount(name, row["label"], 0.0, area, area * thickness * _density(name))

    return read


TABLES: dict[str, tuple[str, Callable[[Row], _Amount]]] = {
    "member": ("members", _member),
    "panel": ("panels", _panel),
    "solid": ("bodies", _solid),
    "strip": ("strips", _flat_part("strips")),
    "plate": ("node_plates", _plate("node_plates")),
    "end plate": ("end_plates", _plate("end_plates")),
    "hub": ("hubs", _hub),
    "unrolled": ("unrolled", _flat_part("unrolled")),
}
"""The table of things by what one of them is called. Ribs tell no material."""


GIVEN_BY = {
    "member": "Structure",
    "panel": "Panels",
    "solid": "Solids",
    "rib": "Ribs",
    "strip": "Strips",
    "plate": "NodePlates",
    "end plate": "EndPlates",
    "hub": "Hubs",
    "unrolled": "Unrolled",
}
"""The type of results that things are of."""
MEASURED = {"member": "length_m", "hub": ""}
"""What else than volume and mass is told of things, where it is not their area."""


def materials_as_listed(pack: Pack) -> Found:
    """Counts, types, lengths, areas and masses of materials.csv against the rows of all things
    (shares of 1), volumes against masses, and sources against the figures of their clauses."""
    rows = pack.rows("materials")
    for row in rows:
        where = f"{row['material']} in materials.csv"
        yield beyond(row["material"] not in MATERIALS), f"{where} is no material"
        yield beyond(row["things"] not in GIVEN_BY), f"{where}: “{row['things']}”"
        for column in {"length_m", "area_m2"} - {MEASURED.get(row["things"], "area_m2")}:
            yield beyond(row[column] != ""), f"{where}: {column}"
        mass = number_in(row, "mass_kg", "materials")
        volume = number_in(row, "volume_m3", "materials")
        yield _off(volume * _density(row["material"]), mass), f"{where}: volume"
    yield from _counted(pack, rows)
    for things, (table, read) in TABLES.items():
        if table in pack.tables:
            told = [row for row in rows if row["things"] == things]
            yield from _summed(told, [read(row) for row in pack.rows(table)], table)
    yield from _ribs(pack, [row for row in rows if row["things"] == "rib"])


def _counted(pack: Pack, rows: list[Row]) -> Found:
    """Whether each source has as many things as its clause says."""
    clauses = {c["id"]: c for c in pack.report["clauses"]}
    counts: dict[tuple[str, str], float] = defaultdict(float)
    for row in rows:
        counts[row["source"], row["things"]] += number_in(row, "count", "materials")
    for (source, things), count in counts.items():
        where = f"{source} in materials.csv: {things}s"
        clause = clauses.get(source, {"kind": "", "figures": {}})
        kind = CLAUSE_TYPES.get(clause["kind"])
        yield beyond(kind is None or kind.gives != GIVEN_BY.get(things)), where
        told = clause["figures"].get(f"{things}s")
        if told is not None:
            yield abs(count - float(told["value"])), where


def _summed(told: list[Row], made: list[_Amount], table: str) -> Found:
    by_name: dict[str, list[_Amount]] = defaultdict(list)
    for amount in made:
        by_name[amount.material].append(amount)
    for name in sorted({*by_name, *(row["material"] for row in told)}):
        own, rows = by_name[name], [row for row in told if row["material"] == name]
        where = f"{name} in materials.csv and {table}.csv"
        sums = {
            "count": float(len(own)),
            "length_m": sum(amount.length for amount in own),
            "area_m2": sum(amount.area for amount in own),
            "mass_kg": sum(amount.mass for amount in own),
        }
        for column, wanted in sums.items():
            listed = sum(number_in(r, column, "materials") for r in rows if r[column])
            yield _off(listed, wanted), f"{where}: {column}"
        if len(rows) == 1:
            types = len({amount.type for amount in own})
            yield abs(types - number_in(rows[0], "types", "materials")), f"{where}: types"


def _ribs(pack: Pack, rows: list[Row]) -> Found:
    """Ribs by their areas and thicknesses, whatever they are of."""
    ribs = pack.rows("ribs")
    if not ribs:
        return
    areas = [number_in(r, "area_m2", "ribs") for r in ribs]
    thick = [number_in(r, "thickness_mm", "ribs") / 1000 for r in ribs]
    volume = sum(a * t for a, t in zip(areas, thick, strict=True))
    for column, wanted in (("count", len(ribs)), ("area_m2", sum(areas)), ("volume_m3", volume)):
        listed = sum(number_in(row, column, "materials") for row in rows)
        yield _off(listed, wanted), f"materials.csv and ribs.csv: {column}"
    if len(rows) == 1:
        sets = len({r["set"] for r in ribs})
        yield abs(sets - number_in(rows[0], "types", "materials")), "materials.csv: types of ribs"
    materials = {r["material"] for r in pack.rows("parts") if r["kind"] == "rib"}
    for name in materials - {row["material"] for row in rows}:
        yield beyond(True), f"{name} of parts.csv is not in materials.csv"


def _off(listed: float, wanted: float) -> float:
    """How far two sums differ, as a share of what they are or, of little, of a unit."""
    return max(abs(listed - wanted) / max(abs(wanted), 1.0) - ROUNDED, 0.0)
