"""Formulas in values: numbers, units, named dimensions, + − × ÷ and a few functions.

A bare number is in the unit of the value the formula stands in. A dimension is converted to it,
when both are lengths or both angles: with ``bay`` = 1.5 m, ``2 * bay`` is 3 in a value in metres
and 3000 in one in millimetres.
"""

from __future__ import annotations

import ast
import math
import operator
import re
from collections.abc import Callable, Mapping
from dataclasses import dataclass

from .document import Dimension

__all__ = ["FormulaError", "Named", "names_in", "resolve", "resolve_dimensions"]

LONGEST = 200
DEEPEST = 30
UNITS = {
    "m": ("length", 1.0),
    "mm": ("length", 1e-3),
    "cm": ("length", 1e-2),
    "km": ("length", 1e3),
    "°": ("angle", math.pi / 180),
    "deg": ("angle", math.pi / 180),
    "rad": ("angle", 1.0),
}
FUNCTIONS: dict[str, Callable[..., float]] = {
    "sqrt": math.sqrt,
    "min": min,
    "max": max,
    "abs": abs,
    "round": lambda x: float(round(x)),
    "sin": lambda x: math.sin(math.radians(x)),
    "cos": lambda x: math.cos(math.radians(x)),
    "tan": lambda x: math.tan(math.radians(x)),
}
OPERATORS: dict[type[ast.AST], Callable[..., float]] = {
    ast.Add: operator.add,
    ast.Sub: operator.sub,
    ast.Mult: operator.mul,
    ast.Div: operator.truediv,
    ast.USub: operator.neg,
    ast.UAdd: operator.pos,
}
_QUANTITY = re.compile(
    r"(?<![\w.])(\d+(?:[.]\d*)?(?:[eE][+-]?\d+)?)\s*(mm|cm|km|m|°|deg|rad)(?!\w)"
)


class FormulaError(ValueError):
    """A formula that has no value, in a sentence."""


@dataclass(frozen=True)
class Named:
    """The number a name stands for, in its unit."""

    value: float
    unit: str


def _tree(text: str, unit: str) -> ast.expr:
    if len(text) > LONGEST:
        raise FormulaError(
            f"The formula is {len(text)} characters long; at most {LONGEST} are read."
        )

    def quantity(match: re.Match[str]) -> str:
        return repr(_converted(float(match[1]), match[2], unit, match[0]))

    plain = _QUANTITY.sub(
        quantity, text.replace("×", "*").replace("÷", "/").replace("−", "-").replace("·", "*")
    )
    try:
        return ast.parse(plain.strip(), mode="eval").body
    except (SyntaxError, ValueError, MemoryError, RecursionError):
        raise FormulaError(
            f"“{text}” is not a formula; write something like 2 * bay or 1.5 + 0.2."
        ) from None


def _converted(value: float, unit: str, to: str, shown: str) -> float:
    if unit == to or not unit:
        return value
    kind, scale = UNITS[unit]
    to_kind, to_scale = UNITS.get(to, ("", 1.0))
    if not to:
        return value
    if kind != to_kind:
        raise FormulaError(
            f"“{shown}” is {'an' if kind == 'angle' else 'a'} {kind}, but a value in {to} is wanted."
        )
    return value * scale / to_scale


def names_in(text: str) -> set[str]:
    """Names of dimensions a formula refers to."""
    tree = _tree(text, "")
    called = {id(n.func) for n in ast.walk(tree) if isinstance(n, ast.Call)}
    return {n.id for n in ast.walk(tree) if isinstance(n, ast.Name) and id(n) not in called}


def resolve(text: str, unit: str, names: Mapping[str, Named | FormulaError]) -> float:
    """Value of a formula in ``unit``; raises ``FormulaError``."""

    def value(node: ast.expr, depth: int = 0) -> float:
        if depth > DEEPEST:
            raise FormulaError(f"“{text[:40]} …” is nested too deeply.")
        if (
            isinstance(node, ast.Constant)
            and isinstance(node.value, int | float)
            and not isinstance(node.value, bool)
        ):
            return float(node.value)
        if isinstance(node, ast.Name):
            return named(node.id)
        if isinstance(node, ast.UnaryOp) and type(node.op) in OPERATORS:
            return OPERATORS[type(node.op)](value(node.operand, depth + 1))
        if isinstance(node, ast.BinOp) and type(node.op) in OPERATORS:
            return OPERATORS[type(node.op)](
                value(node.left, depth + 1), value(node.right, depth + 1)
            )
        if isinstance(node, ast.Call) and isinstance(node.func, ast.Name) and not node.keywords:
            if node.func.id in FUNCTIONS:
                return float(FUNCTIONS[node.func.id](*(value(a, depth + 1) for a in node.args)))
            raise FormulaError(
                f"There is no function “{node.func.id}”; there are {', '.join(FUNCTIONS)}."
            )
        raise FormulaError(f"“{text}” is not a formula; write something like 2 * bay or 1.5 + 0.2.")

    def named(name: str) -> float:
        if name not in names:
            known = ", ".join(sorted(names)) or "none yet"
            raise FormulaError(f"There is no dimension “{name}”; known names: {known}.")
        found = names[name]
        if isinstance(found, FormulaError):
            raise found
        return _converted(found.value, found.unit, unit, name)

    try:
        result = value(_tree(text, unit))
    except ZeroDivisionError:
        raise FormulaError(f"“{text}” divides by zero.") from None
    except (OverflowError, TypeError, ValueError) as error:
        if isinstance(error, FormulaError):
            raise
        raise FormulaError(f"“{text}” has no value ({error}).") from None
    if not math.isfinite(result):
        raise FormulaError(f"“{text}” has no finite value.")
    return result


def resolve_dimensions(dimensions: list[Dimension]) -> dict[str, Named | FormulaError]:
    """Values of all dimensions by name; one that has none gets the error that says why."""
    by_name = {d.name: d for d in dimensions}
    out: dict[str, Named | FormulaError] = {}

    def visit(name: str, path: tuple[str, ...]) -> None:
        if name in out or name not in by_name:
            return
        if name in path:
            circle = " → ".join((*path[path.index(name) :], name))
            out[name] = FormulaError(
                f"“{name}” refers to itself: {circle}. Give one of them a number."
            )
            return
        dimension = by_name[name]
        try:
            if isinstance(dimension.value, str):
                for other in sorted(names_in(dimension.value)):
                    visit(other, (*path, name))
                if name not in out:
                    out[name] = Named(resolve(dimension.value, dimension.unit, out), dimension.unit)
            elif math.isfinite(dimension.value):
                out[name] = Named(float(dimension.value), dimension.unit)
            else:
                raise FormulaError(f"“{name}” is {dimension.value}; give it a finite number.")
        except FormulaError as error:
            out.setdefault(name, error)

    for name in by_name:
        visit(name, ())
    return out
