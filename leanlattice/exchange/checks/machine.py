"""Machine files against the tables of a pack: every member in one of them or told why not, as long,
as heavy and as bent as it is."""

from __future__ import annotations

from collections.abc import Iterator
from typing import Any

import numpy as np
from numpy.typing import NDArray

from ...core.materials import MATERIALS
from ...core.sections import Section, find
from .machine_arms import arms_of
from .machine_files import Steel, Timber, steel_files, timber_parts
from .pack_files import Found, Pack, Row, beyond, number_in
from .pack_members import Members, members_of

__all__ = ["machine_as_listed", "rows_by_piece"]

Array = NDArray[np.float64]
CODES = {
    **dict.fromkeys(("CHS",), "RO"),
    **dict.fromkeys(("SHS", "RHS", "Box"), "M"),
    **dict.fromkeys(("IPE", "HEA", "HEB", "I"), "I"),
    **dict.fromkeys(("UPE", "U"), "U"),
    **{"L": "L", "T": "T", "Flat": "B", "Round": "RU"},
}
"""The letters of steel profiles by the families of sections."""
STRAIGHT = 1e-5
"""Radians that an axis may turn by where nodes are written to a micrometre."""
LEAST = {"steel": 3.0, "timber": 20.0}
"""Lesser sides of a section that the radius has to be of which a piece can be bent to."""
SHARPEST = np.radians(30.0)
"""A turn at a node that is sharper is a corner."""
TIGHT = "turns more than a straight piece can be bent; split it where it turns"
WRITTEN, NC_MM = 0.0006, 0.006
"""Millimetres that numbers of both kinds of files are rounded by."""
ROUNDED_KG = 6e-4


def machine_as_listed(pack: Pack) -> Found:
    """Whether machine.csv and the files tell of the same members, and whether these are as long, as
    heavy and of the same section and material as members.csv has them (mm)."""
    rows, m = pack.rows("machine"), members_of(pack)
    if "machine" not in pack.tables or m is None:
        return
    labels = [row["label"] for row in m.rows]
    yield beyond(sorted(r["member"] for r in rows) != sorted(labels)), "members of machine.csv"
    row_of = {label: k for k, label in enumerate(labels)}
    for row in rows:
        if row["member"] in row_of:
            yield from _member(pack, m, row_of[row["member"]], row)
    pieces = rows_by_piece(pack)
    steel, timber = steel_files(pack), timber_parts(pack)
    there = {(name, piece.label): piece for name, piece in steel.items()} | timber
    for key in sorted(set(pieces) ^ set(there)):
        yield np.inf, f"{key[1]} of machine/{key[0]}"
    for key in sorted(set(pieces) & set(there)):
        yield from _piece(pieces[key], there[key], m, row_of, f"{key[1]} of machine/{key[0]}")


def rows_by_piece(pack: Pack) -> dict[tuple[str, str], list[Row]]:
    """Rows of machine.csv by file and piece, of those that are in one."""
    out: dict[tuple[str, str], list[Row]] = {}
    for row in pack.rows("machine"):
        if row["file"]:
            out.setdefault((row["file"], row["piece"]), []).append(row)
    return out


def _member(pack: Pack, m: Members, k: int, row: Row) -> Found:
    """One row of machine.csv against what is to be told of the member."""
    where = f"{row['member']} in machine.csv"
    section = find(m.rows[k]["section"])
    radius = _least_radius(m, k)
    told = float(row["bend_radius_m"]) if row["bend_radius_m"] else np.inf
    off = abs(told - radius) if np.isfinite(min(told, radius)) else 0.0
    slack = 0.0006 + STRAIGHT * radius**2 if np.isfinite(radius) else 0.0
    yield beyond(np.isfinite(told) != np.isfinite(radius) or off > slack), f"{where}: bend"
    why = _left_out(m, k, section, radius)
    yield beyond(row["left_out"] not in why), f"{where}: left out"
    standard = {"steel": "DSTV NC", "timber": "BTLx"}.get(section.material.family, "")
    yield beyond(row["standard"] != ("" if row["left_out"] else standard)), f"{where}: standard"
    for name in ("file", "piece", "notches", "slots", "bolts"):
        yield beyond(bool(row[name]) == bool(row["left_out"])), f"{where}: {name}"
    arms = [arm for end in (0, 1) if (arm := arms_of(pack).get((row["member"], end)))]
    bolts = sum(len(arm.bolts) for arm in arms)
    if row["file"]:
        yield abs(number_in(row, "bolts", "machine") - bolts), f"{where}: bolts"
    if row["file"].endswith(".nc1"):
        yield abs(number_in(row, "notches", "machine")), f"{where}: notches"


def _left_out(m: Members, k: int, section: Section, radius: float) -> set[str]:
    """What may be said of why a member is in no file; nothing where it is in one."""
    family, shape = section.material.family, section.shape
    if m.whole[k] <= m.back[m.first[k], 0] + m.back[m.first[k] + m.count[k] - 1, 1]:
        return {"no length left between its set-backs"}
    if family not in LEAST:
        return {"neither of steel nor of timber"}
    if (family == "timber" and shape.family != "Timber") or (
        family == "steel" and not _code(section)
    ):
        return {"a section of several pieces, or timber that is not rectangular"}
    if not m.is_even[k]:
        return {"swells on its way; machines are told of even sections"}
    if _sharpest(m, k) > SHARPEST:
        return {TIGHT}
    least = LEAST[family] * min(shape.width, shape.height)
    near = abs(radius - least) < 1e-3 * least
    return {"", TIGHT} if near else {TIGHT} if radius < least else {""}


def _code(section: Section) -> str:
    return CODES.get(section.shape.family, "")


def _least_radius(m: Members, k: int) -> float:
    """Metres to which a member is bent at most, without end where it is straight."""
    pieces = range(m.first[k], m.first[k] + m.count[k])
    radii = [m.lengths[p] / m.turn[p] for p in pieces if m.turn[p] > STRAIGHT]
    for p, turn in _kinks(m, k):
        if turn > STRAIGHT:
            radii.append((m.lengths[p] + m.lengths[p + 1]) / 2 / turn)
    return float(min(radii, default=np.inf))


def _sharpest(m: Members, k: int) -> float:
    """Radians by which a member turns at a node at most."""
    return max((turn for _, turn in _kinks(m, k)), default=0.0)


def _kinks(m: Members, k: int) -> Iterator[tuple[int, float]]:
    """Pieces of a member but the last, and by how many radians it turns where each ends."""
    for p in range(m.first[k], m.first[k] + m.count[k] - 1):
        came, goes = m.ways[p, 1], m.ways[p + 1, 0]
        yield p, float(np.arctan2(np.linalg.norm(np.cross(came, goes)), came @ goes))


def _piece(
    rows: list[Row], piece: Steel | Timber, m: Members, row_of: dict[str, int], where: str
) -> Found:
    """What a file tells of a piece as a whole against the members that are it."""
    told = [row["member"] for row in rows]
    yield beyond(sorted(told) != sorted(piece.members)), f"{where}: members"
    if piece.members[0] not in row_of:
        return
    row = m.rows[row_of[piece.members[0]]]
    types = {m.rows[row_of[label]]["type"] for label in told if label in row_of}
    yield beyond(types != {piece.label.partition("-")[0]}), f"{where}: type"
    section = find(row["section"])
    length = number_in(row, "cut_length_mm", "members")
    if isinstance(piece, Steel):
        yield max(abs(piece.length - length) - NC_MM, 0.0), f"{where}: length"
        yield from _head(piece, section, where)
    else:
        yield from _box(piece, section, row, where)
        counts = [sum(c.name.startswith(w) for c in piece.clearings) for w in ("notch", "slot")]
        counts.append(len(piece.holes))
        for name, count in zip(("notches", "slots", "bolts"), counts, strict=True):
            wrong = any(number_in(r, name, "machine") != count for r in rows)
            yield beyond(wrong), f"{where}: {name}"


def _box(piece: Timber, section: Section, row: Row, where: str) -> Found:
    """The box of a timber part, its material and weight against its member in a ``row``."""
    length = number_in(row, "cut_length_mm", "members")
    size = np.array([length, section.shape.height * 1000, section.shape.width * 1000])
    yield max(float(np.abs(piece.size - size).max()) - WRITTEN, 0.0), f"{where}: size"
    yield beyond(piece.material != section.material.name), f"{where}: material"
    yield beyond(piece.count != len(piece.members)), f"{where}: count"
    off = abs(piece.weight - number_in(row, "mass_kg", "members"))
    yield beyond(off > 2 * ROUNDED_KG), f"{where}: weight"


def _head(piece: Steel, section: Section, where: str) -> Found:
    """The head of a steel piece against its section."""
    shape = section.shape
    name = shape.name.replace(" × ", "*").replace(" ", "")
    words = [section.material.name, str(len(piece.members)), name, _code(section)]
    yield beyond(piece.head[4:8] != words), f"{where}: head"
    sizes = _sizes(shape) * 1000
    told = np.array([piece.number(line) for line in range(9, 14)])
    yield max(float(np.abs(told - sizes).max()) - NC_MM, 0.0), f"{where}: sizes"
    mass = shape.properties.area * MATERIALS[section.material.name].density
    yield beyond(abs(piece.number(14) - mass) > ROUNDED_KG), f"{where}: mass per metre"
    yield beyond(abs(piece.number(15) - _around(shape)) > 0.001), f"{where}: paint"


def _sizes(shape: Any) -> Array:
    """Height, width, and thicknesses of flange and web, and the fillet between (5,), in metres."""
    code = CODES.get(shape.family, "")
    flange, web = 0.0, 0.0
    if code in ("RO", "M", "L"):
        flange = web = shape.thickness
    elif code in ("I", "U", "T"):
        flange, web = shape.flange, shape.web
    elif code == "B":
        web = shape.width
    return np.array([shape.height, shape.width, flange, web, getattr(shape, "fillet", 0.0)])


def _around(shape: Any) -> float:
    """Metres round a section with sharp corners; outside only of a hollow one."""
    if shape.round:
        return float(np.pi * shape.height)
    within = 0.0
    if CODES.get(shape.family) in ("I", "U"):
        within = 2 * (shape.width - shape.web)
    return 2.0 * (shape.height + shape.width) + float(within)
