"""Figures of the code itself that may only become better; the file beside this one is tightened as they do."""

from __future__ import annotations

import ast
import json
from pathlib import Path

ROOT = Path(__file__).resolve().parents[1]
LIMITS = json.loads((Path(__file__).parent / "ratchets.json").read_text())
LONG, MANY = 100, 4
"""Columns of a line, and parameters of a function, beyond which something is to be said."""


def sources() -> list[Path]:
    return sorted((ROOT / "leanlattice").rglob("*.py"))


def lines_of(paths) -> int:
    """Lines that are not empty."""
    return sum(
        1 for p in paths for line in p.read_text(encoding="utf-8").splitlines() if line.strip()
    )


def share_of_tests() -> float:
    frontend = ROOT / "frontend" / "src"
    units = [p for e in ("test.ts", "test.tsx") for p in frontend.rglob(f"*.{e}")]
    tests = lines_of([*(ROOT / "tests").rglob("*.py"), *units])
    own = [p for e in ("ts", "tsx", "css") for p in frontend.rglob(f"*.{e}")]
    own = [p for p in own if p not in units and p.name != "schema.d.ts"]
    code = lines_of([*sources(), *own, *(ROOT / "benchmarks").rglob("*.py")])
    return 100 * tests / (tests + code)


def undescribed() -> list[str]:
    """Public functions of more than four parameters whose docstrings do not name each."""
    out = []
    for path in sources():
        tree = ast.parse(path.read_text(encoding="utf-8"))
        for node in ast.walk(tree):
            if not isinstance(node, ast.FunctionDef) or node.name.startswith("_"):
                continue
            names = [
                a.arg for a in (*node.args.posonlyargs, *node.args.args, *node.args.kwonlyargs)
            ]
            names = [n for n in names if n not in ("self", "cls")]
            text = ast.get_docstring(node) or ""
            if len(names) > MANY and any(n not in text for n in names):
                out.append(f"{path.relative_to(ROOT)}: {node.name}")
    return out


def found() -> dict[str, float]:
    text = [p.read_text(encoding="utf-8") for p in sources()]
    return {
        "tests_percent": share_of_tests(),
        "python_lines_over_100": sum(len(line) > LONG for t in text for line in t.splitlines()),
        "formatter_off": sum(t.count("# fmt: skip") + t.count("# fmt: off") for t in text),
        "undescribed_parameters": len(undescribed()),
    }


def test_figures_do_not_become_worse():
    now = found()
    assert set(now) == set(LIMITS)
    assert now["tests_percent"] >= LIMITS["tests_percent"], (
        f"{now['tests_percent']:.1f} % of the code are tests"
    )
    for name in set(now) - {"tests_percent"}:
        assert now[name] <= LIMITS[name], f"{name} rose from {LIMITS[name]} to {now[name]}"


def test_figures_are_tightened_when_they_improve():
    now = found()
    assert now["tests_percent"] < LIMITS["tests_percent"] + 1.5, (
        "raise tests_percent in ratchets.json"
    )
    for name in set(now) - {"tests_percent"}:
        assert now[name] > 0.95 * LIMITS[name] - 5, f"lower {name} in ratchets.json to {now[name]}"
