"""Ways to spoil a pack: every file, every column and every model in turn."""

from __future__ import annotations

import csv
import itertools
import json
import os
import re
import shutil
from collections.abc import Callable, Iterator
from functools import cache
from pathlib import Path

import ezdxf
import ifcopenshell
import numpy as np
import trimesh

Spoil = Callable[[Path], object]
FREE_COLUMNS = {
    # What no other file knows: names of clauses that only group rows, and counts of pieces of a drawn curve.
    ("curves", "pieces"), ("solids", "exact"),
    # More than parts happen to keep; less is found.
    ("sheets", "spacing_mm"),
}  # fmt: skip


MAY_BE_EXCHANGED = {
    # Members of one length may change bars, and cells of one size their numbers, without a mistake.
    ("bars", "bar"), ("bars", "member"), ("net_cells", "corners"), ("assembly", "step"),
    # Shares of sheets that are filled all but alike.
    ("sheets", "used_percent"),
}  # fmt: skip


def spoils(folder: Path) -> Iterator[tuple[str, str, Spoil]]:
    """Name of the file, what is done to it, and what does it to the copy of a pack."""
    seen = set()
    for path in sorted(p for p in folder.rglob("*") if p.is_file() and p.name != "manifest.json"):
        if path.parent != folder and (path.parent, path.suffix) in seen:
            continue  # one of many alike
        seen.add((path.parent, path.suffix))
        name = path.relative_to(folder).as_posix()
        yield name, "deleted", lambda pack, name=name: (pack / name).unlink()
        yield (
            name,
            "garbage",
            lambda pack, name=name: (pack / name).write_bytes(b"\x00\x01garbage\xff" * 40),
        )
        yield name, "cut off", lambda pack, name=name: halved(pack / name)
        if path.suffix == ".csv":
            yield name, "emptied", lambda pack, name=name: emptied(pack / name)
            yield from spoiled_columns(path)
        yield from (
            (name, how, lambda pack, f=f, name=name: f(pack / name)) for how, f in BY_NAME(name)
        )


def halved(path: Path) -> None:
    content = path.read_bytes()
    path.write_bytes(content[: len(content) // 2])


def emptied(path: Path) -> None:
    """Leaves a table its head alone."""
    head, _, _ = path.read_text(encoding="utf-8").partition("\n")
    path.write_text(f"{head}\n", encoding="utf-8")


def rows_of(path: Path) -> list[dict[str, str]]:
    with path.open(encoding="utf-8", newline="") as file:
        return list(csv.DictReader(file))


def rewrite(path: Path, rows: list[dict[str, str]]) -> None:
    with path.open("w", encoding="utf-8", newline="") as file:
        table = csv.DictWriter(file, rows[0], lineterminator="\n")
        table.writeheader()
        table.writerows(rows)


def spoiled_columns(path: Path) -> Iterator[tuple[str, str, Spoil]]:
    rows = rows_of(path)
    for column in rows[0]:
        if (path.stem, column) in FREE_COLUMNS:
            continue
        most = max((abs(float(r[column])) for r in rows if is_number(r[column])), default=0.0)
        k = next((k for k, r in enumerate(rows) if r[column] not in ("", "0", "0.0")), 0)
        value = rows[k][column]
        if is_number(value):
            number = float(value)
            whole = value.lstrip("-").isdigit()
            for how, new in (
                (
                    "more",
                    number
                    + (1 if whole else max(0.5 if column.endswith("kN") else 0.02, 0.05 * most)),
                ),
                ("turned", -number),
            ):
                if how == "turned" and (
                    number == 0 or (column in ("rotation_deg",) and abs(abs(number) - 180) < 1e-6)
                ):
                    continue
                text = str(int(new)) if whole else str(new)
                yield path.name, f"{column} {how}", setter(path.name, k, column, text)
        else:
            yield (
                path.name,
                f"{column} changed",
                setter(path.name, k, column, "Z999" if value else "x"),
            )
        other = next(
            (j for j, r in enumerate(rows) if r[column] != value and unlike(r, rows[k], column)),
            None,
        )
        if other is not None and (path.stem, column) not in MAY_BE_EXCHANGED:
            yield path.name, f"{column} exchanged", exchanger(path.name, k, other, column)
    if len(rows) > 1:
        yield (
            path.name,
            "a row left out",
            lambda pack: rewrite(pack / path.name, rows_of(pack / path.name)[:-1]),
        )
    yield path.name, "a row twice", lambda pack: first_row_twice(pack / path.name)


def first_row_twice(table: Path) -> None:
    rows = rows_of(table)
    rewrite(table, [*rows, rows[0]])


def is_number(text: str) -> bool:
    try:
        return np.isfinite(float(text))
    except ValueError:
        return False


def unlike(one: dict[str, str], two: dict[str, str], column: str) -> bool:
    """Whether rows differ in more than one column, so that exchanging it says something else."""
    return any(one[c] != two[c] for c in one if c != column)


def setter(name: str, k: int, column: str, text: str) -> Spoil:
    def spoil(pack: Path) -> None:
        rows = rows_of(pack / name)
        rows[k][column] = text
        rewrite(pack / name, rows)

    return spoil


def exchanger(name: str, one: int, two: int, column: str) -> Spoil:
    def spoil(pack: Path) -> None:
        rows = rows_of(pack / name)
        rows[one][column], rows[two][column] = rows[two][column], rows[one][column]
        rewrite(pack / name, rows)

    return spoil


def transformed(matrix: np.ndarray, flip: bool = False) -> Callable[[Path], None]:
    def spoil(path: Path) -> None:
        if path.suffix == ".obj":
            lines = []
            for line in path.read_text().splitlines():
                head, *rest = line.split(" ")
                if head == "v":
                    x = matrix[:3, :3] @ [float(v) for v in rest] + matrix[:3, 3]
                    line = "v " + " ".join(f"{v:.6f}" for v in x)
                elif head == "f" and flip:
                    line = " ".join(["f", *rest[::-1]])
                lines.append(line)
            path.write_text("\n".join(lines) + "\n")
            return
        loaded = trimesh.load(path, process=False)
        loaded.apply_transform(matrix)
        content = loaded.export(file_type=path.suffix[1:])
        path.write_bytes(content if isinstance(content, bytes) else content.encode())

    return spoil


def shift(x: float) -> np.ndarray:
    out = np.eye(4)
    out[0, 3] = x
    return out


def drawing(change: Callable[[ezdxf.document.Drawing], None]) -> Callable[[Path], None]:
    def spoil(path: Path) -> None:
        document = ezdxf.readfile(path)
        change(document)
        document.saveas(path)

    return spoil


def polylines(document: ezdxf.document.Drawing, layer: str) -> list:
    return list(document.modelspace().query(f'LWPOLYLINE[layer=="{layer}"]'))


def mirrored(document: ezdxf.document.Drawing) -> None:
    width = max(p[0] for p in polylines(document, "SHEET")[0].get_points("xy"))
    for line in document.modelspace().query("LWPOLYLINE"):
        line.set_points([(width - x, y) for x, y in line.get_points("xy")][::-1], format="xy")


def bulged(document: ezdxf.document.Drawing) -> None:
    outline = polylines(document, "CUT_OUTER")[0]
    points = [list(p) for p in outline.get_points("xyb")]
    points[0][2] = 0.3
    outline.set_points(points, format="xyb")


def opened(document: ezdxf.document.Drawing) -> None:
    polylines(document, "CUT_OUTER")[0].close(False)


def larger_sheet(document: ezdxf.document.Drawing) -> None:
    edge = polylines(document, "SHEET")[0]
    edge.set_points([(2 * x, 2 * y) for x, y in edge.get_points("xy")], format="xy")


def moved_part(document: ezdxf.document.Drawing) -> None:
    polylines(document, "CUT_OUTER")[0].translate(7, 0, 0)


def grown_part(document: ezdxf.document.Drawing) -> None:
    outline = polylines(document, "CUT_OUTER")[0]
    low = np.min(outline.get_points("xy"), axis=0)
    outline.set_points(
        [tuple(low + 1.01 * (np.array(p) - low)) for p in outline.get_points("xy")], format="xy"
    )


def no_letters(document: ezdxf.document.Drawing) -> None:
    """Every letter upside down: mirrored in its own middle."""
    for line in polylines(document, "MARK"):
        points = np.array(line.get_points("xy"))
        middle = points[:, 0].mean()
        line.set_points([(2 * middle - x, y) for x, y in points.tolist()], format="xy")


def inches(document: ezdxf.document.Drawing) -> None:
    document.units = 1


def moved_line(document: ezdxf.document.Drawing) -> None:
    line = next(iter(document.modelspace().query("LINE")))
    line.translate(0.01, 0, 0)


SHEET = [
    ("mirrored", drawing(mirrored)), ("a side an arc", drawing(bulged)), ("an outline open", drawing(opened)),
    ("SHEET twice as large", drawing(larger_sheet)), ("a part moved", drawing(moved_part)),
    ("a part grown", drawing(grown_part)), ("letters mirrored", drawing(no_letters)), ("in inches", drawing(inches)),
]  # fmt: skip
PART = [SHEET[1], SHEET[2], SHEET[5], SHEET[7]]
MESH = [
    ("mirrored", transformed(np.diag([-1.0, 1, 1, 1]))), ("scaled", transformed(np.diag([1.01, 1.01, 1.01, 1]))),
    ("moved", transformed(shift(0.02))),
]  # fmt: skip


def replaced(old: str, new: str, count: int = 1) -> Callable[[Path], None]:
    """A piece of text exchanged, by a regular expression."""

    def spoil(path: Path) -> None:
        text = path.read_text(encoding="utf-8")
        changed = re.sub(old, new, text, count=count)
        assert changed != text, old
        path.write_text(changed, encoding="utf-8")

    return spoil


def thicker(path: Path) -> None:
    text = path.read_text(encoding="utf-8")
    if "IFCEXTRUDEDAREASOLID" not in text:
        placed_elsewhere(path)
        return
    found = re.search(r"(IFCEXTRUDEDAREASOLID\([^;]*,)([\d.E+-]+)\);", text)
    path.write_text(
        text.replace(found.group(0), f"{found.group(1)}{2 * float(found.group(2))!r});"),
        encoding="utf-8",
    )


def placed_elsewhere(path: Path) -> None:
    """The last local placement of an element 50 mm along x."""
    model = ifcopenshell.open(str(path))
    element = model.by_type("IfcElement")[-1]
    solid = element.Representation.Representations[0].Items[0]
    if solid.is_a("IfcTriangulatedFaceSet"):
        solid.Coordinates.CoordList = tuple(
            (x + 0.05, y, z) for x, y, z in solid.Coordinates.CoordList
        )
    else:
        at = element.ObjectPlacement.RelativePlacement.Location
        x, y, z = at.Coordinates
        at.Coordinates = (x + 0.05, y, z)
    model.write(str(path))


def another_material(path: Path) -> None:
    model = ifcopenshell.open(str(path))
    model.by_type("IfcMaterial")[-1].Name = "cheese"
    model.write(str(path))


def another_layer(path: Path) -> None:
    """Nothing of a model without layers, which then is not spoiled at all: garbage instead."""
    model = ifcopenshell.open(str(path))
    layers = model.by_type("IfcMaterialLayer")
    if not layers:
        path.write_bytes(b"")
        return
    layers[-1].LayerThickness += 0.001
    model.write(str(path))


IFC = [
    ("an element moved", placed_elsewhere),
    ("thicker", thicker),
    ("another material", another_material),
    ("a thicker layer", another_layer),
]


def figure_changed(path: Path) -> None:
    report = json.loads(path.read_text())
    for name in ("members", "ribs", "load"):
        having = [c for c in report["clauses"] if name in c["figures"]]
        if having:
            having[-1]["figures"][name]["value"] += 3
            break
    else:
        report["clauses"][-1]["sentence"] += " And more."
    path.write_text(json.dumps(report))


def sentence_changed(path: Path) -> None:
    report = json.loads(path.read_text())
    report["clauses"][0]["sentence"] = "Draw nothing."
    path.write_text(json.dumps(report))


def flag_turned(path: Path) -> None:
    checks = json.loads(path.read_text())
    checks[-1]["passed"] = not checks[-1]["passed"]
    path.write_text(json.dumps(checks))


def kind_changed(path: Path) -> None:
    statement = json.loads(path.read_text())
    statement["clauses"][0]["values"] = {}
    statement["clauses"][0]["kind"] = "torus"
    path.write_text(json.dumps(statement))


def numbered(pattern: str) -> Callable[[Path], None]:
    """The first number that a pattern captures by 3 more; nothing to spoil is garbage instead."""

    def spoil(path: Path) -> None:
        text = path.read_text(encoding="utf-8")
        found = re.search(pattern, text)
        if found is None:
            path.write_bytes(b"")
            return
        changed = f"{float(found.group(1)) + 3:.3f}"
        path.write_text(text[: found.start(1)] + changed + text[found.end(1) :], encoding="utf-8")

    return spoil


NC = [
    ("a corner moved", numbered(r"AK\n(?:.*\n){2} +([\d.]+)u")),
    ("a hole moved", numbered(r"BO\n  v +([\d.]+)u")),
    ("a hole moved aside", numbered(r"BO\n  v +[\d.]+u +([\d.]+)")),
    ("another length", numbered(r"([\d.]+), *[\d.]+\n")),
    ("a size", numbered(r",.*\n +([\d.]+)\n")),
]
BTLX = [
    ("a part longer", numbered(r' Length="([\d.]+)"')),
    ("a part wider", numbered(r' Width="([\d.]+)"')),
    ("a part heavier", numbered(r' Weight="([\d.]+)"')),
    ("a part more", numbered(r' Count="(\d+)"')),
    ("a part elsewhere", numbered(r'ReferencePoint X="([-\d.]+)"')),
    ("a part turned", numbered(r'XVector X="([-\d.]+)"')),
    ("a cut moved", numbered(r'UserReferencePlane ID="101">\s*<Position>\s*<ReferencePoint X="([-\d.]+)"')),
    ("a cut turned", numbered(r'ID="101">\s*<Position>.*\n\s*<XVector X="[-\d.]+" Y="[-\d.]+" Z="([-\d.]+)"')),
    ("another end", replaced("<Orientation>start", "<Orientation>end")),
    ("a square end elsewhere", numbered(r"end</Orientation>\s*<StartX>([1-9][\d.]*)")),
    ("a notch deeper", numbered(r'Contour Depth="([\d.]+)"')),
    ("a notch wider", numbered(r'EndPoint X="([1-9][\d.]*)"')),
    ("a hole wider", numbered(r"<Diameter>([\d.]+)")),
    ("a hole elsewhere", numbered(r"<Drilling(?:.*\n)+?\s*<StartX>([\d.]+)")),
]  # fmt: skip


def BY_NAME(name: str) -> list[tuple[str, Callable[[Path], None]]]:  # noqa: N802
    if name.startswith("sheets/") and name.endswith(".dxf"):
        return SHEET
    if name.startswith("sheets/"):
        return [("a point moved", replaced(r"M(\d+)\.", r"M1\1."))]
    if name.startswith("machine/"):
        return NC if name.endswith("nc1") else BTLX
    if name.startswith("parts/"):
        return PART
    if (name.startswith("model.") and not name.endswith("ifc")) or name == "solids.glb":
        return MESH
    if name == "model.ifc":
        return IFC
    return {
        "wireframe.dxf": [("a line moved", drawing(moved_line)), ("in inches", drawing(inches))],
        "report.json": [
            ("a figure changed", figure_changed),
            ("a sentence changed", sentence_changed),
        ],
        "checks.json": [("a flag turned", flag_turned)],
        "statement.json": [("a clause exchanged", kind_changed)],
    }.get(name, [])


SPOILED = itertools.count()
"""Times (ns) given to files that are spoiled, no two alike."""


def _mended(pack: Path, copy: Path) -> None:
    """Makes a copy as the pack is."""
    for name in _changed(pack, copy):
        if (pack / name).exists():
            shutil.copy2(pack / name, copy / name)
        else:
            (copy / name).unlink()


def _changed(pack: Path, copy: Path) -> set[str]:
    """Files that differ in size or in the time of their last change, or that only one has."""
    return {name for name, _ in _ages_of_pack(pack) ^ _ages(copy)}


@cache
def _ages_of_pack(pack: Path) -> set[tuple[str, tuple[int, int]]]:
    """Ages of what is never spoiled itself."""
    return _ages(pack)


def _ages(folder: Path) -> set[tuple[str, tuple[int, int]]]:
    out = set()
    for root, _, names in os.walk(folder):
        for name in names:
            path = os.path.join(root, name)
            found = os.stat(path)
            out.add((os.path.relpath(path, folder), (found.st_size, found.st_mtime_ns)))
    return out


def spoiled(pack: Path, copy: Path, spoil: Spoil) -> None:
    """A copy of a pack, spoiled. One that was spoiled before is mended first."""
    if copy.exists():
        _mended(pack, copy)
    else:
        shutil.copytree(pack, copy)
    spoil(copy)
    for name in _changed(pack, copy):
        if (copy / name).exists():
            os.utime(copy / name, ns=(0, next(SPOILED)))
