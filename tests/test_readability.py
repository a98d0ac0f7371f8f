"""How much a reader has to hold in the head at once: no statement and no function is larger than the
limits, but for those of the modules listed in the file beside this one, which only shrinks."""

from __future__ import annotations

import ast
import json
from collections.abc import Iterator
from pathlib import Path

import pytest

ROOT = Path(__file__).resolve().parents[1]
LISTED: dict[str, int] = json.loads((Path(__file__).parent / "readability.json").read_text())
STATEMENT, FUNCTION = 60, 400
"""Nodes of the syntax tree in a statement without those within it, and in a whole function."""
FUNCTIONS = (ast.FunctionDef, ast.AsyncFunctionDef)
PARTS = (ast.stmt, ast.ExceptHandler, ast.match_case)


def entries(node: ast.AST) -> list[ast.AST]:
    """Rows of what is read as a table, one after the other: values of a dictionary by their keys,
    and what is given by name."""
    if isinstance(node, ast.Dict):
        return list(node.values)
    return list(getattr(node, "keywords", []))


def own_nodes(statement: ast.AST) -> int:
    """Nodes of a statement without those of the statements and the table rows within it."""
    rows = set(map(id, entries(statement)))
    inner = [child for child in ast.iter_child_nodes(statement) if not isinstance(child, PARTS)]
    return 1 + sum(own_nodes(child) for child in inner if id(child) not in rows) + len(rows)


def largest_part(statement: ast.stmt) -> int:
    """Nodes of the statement itself, or of its largest table row."""
    sizes = [own_nodes(statement)]
    todo: list[ast.AST] = [statement]
    while todo:
        node = todo.pop()
        sizes += [own_nodes(row) for row in entries(node)]
        todo += [c for c in ast.iter_child_nodes(node) if not isinstance(c, PARTS)]
    return max(sizes)


def too_large(text: str) -> Iterator[tuple[int, str]]:
    """Lines and what begins there: functions, and statements in them, beyond the limits."""
    seen: set[int] = set()
    for function in ast.walk(ast.parse(text)):
        if not isinstance(function, FUNCTIONS):
            continue
        whole = sum(1 for _ in ast.walk(function))
        if whole > FUNCTION:
            yield function.lineno, f"“{function.name}” has {whole} nodes"
        for inner in ast.walk(function):
            if not isinstance(inner, ast.stmt) or inner is function or id(inner) in seen:
                continue
            seen.add(id(inner))
            own = largest_part(inner)
            if own > STATEMENT:
                yield inner.lineno, f"a statement in “{function.name}” has {own} nodes"


def found() -> dict[str, list[str]]:
    out = {}
    for path in sorted((ROOT / "leanlattice").rglob("*.py")):
        places = [f"line {line}: {what}" for line, what in too_large(path.read_text("utf-8"))]
        if places:
            out[path.relative_to(ROOT).as_posix()] = places
    return out


def test_no_module_becomes_harder_to_read():
    worse = {name: places for name, places in found().items() if len(places) > LISTED.get(name, 0)}
    told = "\n".join(f"{name}: {place}" for name, places in worse.items() for place in places)
    assert not worse, f"Too large to be held in the head (or take a number out):\n{told}"


def test_the_list_of_modules_shrinks():
    now = {name: len(places) for name, places in found().items()}
    better = {name: now.get(name, 0) for name, count in LISTED.items() if now.get(name, 0) < count}
    assert not better, f"Lower these in readability.json: {better}"


@pytest.mark.parametrize(
    ("text", "many"),
    [
        ("def f():\n    return " + " + ".join(["a"] * 12), 0),
        ("def f():\n    return " + " + ".join(["a"] * 30), 1),
        ("def f():\n" + "    a = b + c\n" * 30, 0),
        ("def f():\n" + "    a = b + c\n" * 90, 1),
        ("def f():\n    if a:\n" + "        a = b + c\n" * 30, 0),
        ("X = [" + ", ".join(["1"] * 500) + "]", 0),
        ("def f():\n    return {" + ", ".join(f"'{k}': a + b" for k in range(20)) + "}", 0),
        ("def f():\n    return {'k': " + " + ".join(["a"] * 30) + "}", 1),
    ],
)
def test_statements_and_functions_are_counted(text, many):
    assert len(list(too_large(text))) == many
