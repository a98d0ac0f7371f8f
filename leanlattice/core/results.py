"""What clauses make: the base of its classes, and the one table of its types."""

from __future__ import annotations

from collections.abc import Callable
from dataclasses import dataclass, fields, replace
from functools import wraps
from typing import Any, TypeVar

from .sizes import bytes_of

__all__ = ["RESULT_TYPES", "Result", "ResultType", "remembered", "result_type", "type_of"]

R = TypeVar("R", bound="type[Result]")
One = TypeVar("One", bound="Result")
Told = TypeVar("Told")


class Result:
    """Base of the dataclasses that leave the process they were made in.

    What is worked out of the fields and remembered (``cached_property``) stays behind: it is worked
    out again where it is wanted.
    """

    def __getstate__(self) -> dict[str, Any]:
        return {f.name: getattr(self, f.name) for f in fields(self)}  # type: ignore[arg-type]

    @property
    def nbytes(self) -> int:
        """Bytes it takes, as far as the arrays in its fields go."""
        return bytes_of(self)


def remembered(function: Callable[[One], Told]) -> Callable[[One], Told]:
    """Declares that what a ``function`` of one result gives is worked out once, and kept with the
    result like what its properties remember."""
    name = f"{function.__module__}.{function.__qualname__}"

    @wraps(function)
    def once(result: One) -> Told:
        kept = vars(result)
        if name not in kept:
            kept[name] = function(result)
        told: Told = kept[name]
        return told

    return once


@dataclass(frozen=True)
class ResultType:
    """A type of results: the ``name`` clauses take and give it by, its ``title`` as people read it,
    and the ``things`` one can pick in it.

    A result stands for what it was directly made of where that is of its own type, and for all
    below that is of a type it ``covers``: these are not drawn beside it. One that ``serves`` is
    only there for other clauses. ``classes`` are of this type.
    """

    name: str
    title: str
    things: tuple[str, ...] = ()
    covers: tuple[str, ...] = ()
    serves: bool = False
    classes: tuple[type[Result], ...] = ()


RESULT_TYPES: dict[str, ResultType] = {}
"""All types by name, as the modules that declare them are imported."""


def result_type(
    name: str, title: str, *things: str, covers: tuple[str, ...] = (), serves: bool = False
) -> Callable[[R], R]:
    """Declares that results of a class are of a type, as ``ResultType`` describes it; a type may
    have several classes.

    Raises ``TypeError`` where another class of that type tells something else of it.
    """
    told = ResultType(name, title, things, covers, serves)

    def declare(kind: R) -> R:
        before = RESULT_TYPES.get(name, told)
        if replace(before, classes=()) != told:
            raise TypeError(f"{kind.__name__} tells something else of “{name}” than others do")
        RESULT_TYPES[name] = replace(told, classes=(*before.classes, kind))
        return kind

    return declare


def type_of(result: object) -> ResultType | None:
    """The type a result is of; ``None`` for what no type is declared for."""
    return next((t for t in RESULT_TYPES.values() if isinstance(result, t.classes)), None)
