"""Packs of all demos, written and compared: what a change of the code changes in what it makes.

    python -m tests.packs write FOLDER [NAME …]
    python -m tests.packs compare BEFORE AFTER

Numbers that differ by less than a ten-millionth are the same; of tables it tells columns, of the
rest files. Exit 1 where anything differs.
"""

from __future__ import annotations

import csv
import json
import math
import sys
from collections import Counter
from pathlib import Path

from leanlattice.exchange.pack import write_pack
from leanlattice.exchange.readers import open_brought
from leanlattice.statement.evaluate import ResultCache, evaluate
from leanlattice.statement.upgrade import read_upgraded

from .conftest import DEMO

SAME = 1e-7
PROGRAM = ("manifest.json", "program")
"""What tells one program from another, and is not looked at."""
MOST_TOLD = 8


def write(folder, names=()):
    """Packs of the demos of those names, or of all."""
    for path in sorted(DEMO.glob("*.json")):
        if names and path.stem not in names:
            continue
        statement = read_upgraded(path.read_text(encoding="utf-8"))

        def open_file(wanted, digest, name, statement=statement):
            return open_brought(wanted, name, statement.files[digest].bytes())

        outcomes = list(evaluate(statement, ResultCache(), open_file=open_file))
        write_pack(folder / path.stem, statement, outcomes)
        print(path.stem, flush=True)


def differences(before, after):
    """Sentences, file by file."""
    files = [
        {p.relative_to(f).as_posix() for p in f.rglob("*") if p.is_file()} for f in (before, after)
    ]
    yield from (f"{name} is gone" for name in sorted(files[0] - files[1]))
    yield from (f"{name} is new" for name in sorted(files[1] - files[0]))
    for name in sorted(files[0] & files[1]):
        one, two = before / name, after / name
        if one.name == PROGRAM[0] or one.read_bytes() == two.read_bytes():
            continue
        compare = {".csv": tables, ".json": documents}.get(one.suffix)
        told = list(compare(one, two)) if compare else ["differs"]
        yield from (f"{name}: {what}" for what in told[:MOST_TOLD])
        if len(told) > MOST_TOLD:
            yield f"{name}: and {len(told) - MOST_TOLD} more"


def tables(one, two):
    rows = []
    for path in (one, two):
        with path.open(encoding="utf-8", newline="") as file:
            rows.append(list(csv.DictReader(file)))
    heads = [list(r[0]) if r else [] for r in rows]
    if heads[0] != heads[1]:
        yield f"columns {heads[0]} became {heads[1]}"
    if len(rows[0]) != len(rows[1]):
        yield f"{len(rows[0])} rows became {len(rows[1])}"
        return
    changed, first = Counter(), {}
    for a, b in zip(*rows, strict=True):
        for column in (c for c in heads[0] if c in heads[1] and not same(a[c], b[c])):
            changed[column] += 1
            first.setdefault(column, (next(iter(a.values())), a[column], b[column]))
    for column, count in changed.items():
        name, was, now = first[column]
        yield f"{column} in {count} of {len(rows[0])} rows, first {name}: {was} became {now}"


def documents(one, two):
    yield from _values("", *(json.loads(p.read_text(encoding="utf-8")) for p in (one, two)))


def _values(where, a, b):
    if isinstance(a, dict) and isinstance(b, dict):
        for key in dict.fromkeys([*a, *b]):
            if key != PROGRAM[1]:
                yield from _values(f"{where}/{key}", a.get(key), b.get(key))
    elif isinstance(a, list) and isinstance(b, list) and len(a) == len(b):
        for k, (x, y) in enumerate(zip(a, b, strict=True)):
            name = x.get("id") or x.get("check") if isinstance(x, dict) else None
            yield from _values(f"{where}/{name or k}", x, y)
    elif not same(a, b):
        yield f"{where}: {str(a)[:80]} became {str(b)[:80]}"


def same(a, b):
    """Whether two values are the same, numbers to what is worth telling."""
    try:
        return math.isclose(float(a), float(b), rel_tol=SAME, abs_tol=SAME)
    except (TypeError, ValueError):
        return a == b


def main(what, *given):
    if what == "write":
        write(Path(given[0]), given[1:])
        return 0
    before, after = map(Path, given)
    found = False
    for name in sorted({p.name for p in (*before.iterdir(), *after.iterdir())}):
        for told in differences(before / name, after / name):
            print(f"{name}/{told}")
            found = True
    return int(found)


if __name__ == "__main__":
    sys.exit(main(*sys.argv[1:]))
