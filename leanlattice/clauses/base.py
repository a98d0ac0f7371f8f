"""What a clause type is: typed values, a sentence, what it takes and gives, and the call into the
core."""

from __future__ import annotations

import re
from collections.abc import Callable, Collection, Iterable, Mapping
from dataclasses import dataclass, field
from functools import cache
from typing import Any, ClassVar

import numpy as np
from numpy.typing import NDArray
from pydantic import BaseModel, ConfigDict, ValidationError
from pydantic_core import ErrorDetails

from .codes import TEXTS, text_of
from .said import said
from .values import (
    Choice,
    Handle,
    ValueSpec,
    arrangement,
    cage,
    choice,
    count,
    curves,
    file,
    marks,
    number,
    offsets,
    places,
    point,
    profiles,
    read,
    section,
    spec_of,
    text,
)

__all__ = [
    "CHAPTERS",
    "MORE",
    "TO_COME",
    "Choice",
    "Clause",
    "ClauseError",
    "Figure",
    "Handle",
    "Made",
    "Notice",
    "Remedy",
    "Segment",
    "Take",
    "ValueSpec",
    "Work",
    "arrangement",
    "cage",
    "choice",
    "count",
    "curves",
    "file",
    "headline",
    "listed",
    "marks",
    "no_files",
    "number",
    "offsets",
    "places",
    "point",
    "profiles",
    "section",
    "text",
]

CHAPTERS = ("Shape", "Lattice", "Settle", "Frame", "Prove", "Make")


@dataclass(frozen=True)
class Remedy:
    """An edit that would help, offered beside a warning: a clause of ``kind`` with ``values`` put
    in before the one that warns, or without a kind the ``values`` given to the one that warns, or
    to the clause at a ``place`` of its input ``of``. A new clause can be put ``below`` the one that
    warns, too. A clause that is ``moved`` is put before the one that warns. One that ``takes``
    something else for an input is offered where a clause above is of one of the kinds named, and
    not used already; it is then told which to work ``on``. Without any of these, it is worked out
    once more as it is.
    """

    title: str
    values: Mapping[str, Any]
    kind: str = ""
    of: str = ""
    place: int = 0
    moved: str = ""
    below: bool = False
    takes: Mapping[str, tuple[str, ...]] = field(default_factory=dict)
    on: Mapping[str, str] = field(default_factory=dict)

    def __post_init__(self) -> None:
        object.__setattr__(self, "title", said(self.title))


class ClauseError(Exception):
    """A clause cannot do its work: a sentence that names the value at fault and what would work.
    One with remedies has a ``code``."""

    def __init__(
        self,
        text: str,
        value: str | None = None,
        at: NDArray[np.float64] | None = None,
        remedies: tuple[Remedy, ...] = (),
        code: str = "",
    ) -> None:
        self.text = said(text)
        super().__init__(self.text)
        _check_code(code, remedies)
        self.value, self.remedies, self.code = value, remedies, code
        self.at = None if at is None else [float(x) for x in at]

    @classmethod
    def of(
        cls,
        code: str,
        facts: Mapping[str, Any],
        value: str | None = None,
        at: NDArray[np.float64] | None = None,
        remedies: tuple[Remedy, ...] = (),
    ) -> ClauseError:
        """One with the text of a ``code`` and its ``facts``, the ``value`` at fault, where it is
        ``at`` (3,) in metres, and ``remedies``."""
        return cls(text_of(code, facts), value, at, remedies, code)


class StillOpen(ClauseError):
    """Nothing is wrong, but what a clause is made of is still to be drawn or chosen: a sentence
    that says what, and ``shown``, what there is all the same."""

    def __init__(self, text: str, value: str, shown: Made | None = None) -> None:
        super().__init__(text, value)
        self.shown = shown


def _check_code(code: str, remedies: tuple[Remedy, ...]) -> None:
    if (remedies and not code) or (code and code not in TEXTS):
        raise TypeError(f"what has a remedy has a code of the table of texts, not “{code}”")


@dataclass(frozen=True)
class Figure:
    """A figure of a clause: a number with its unit, how many decimals are worth showing, and the
    place it is found at where it has one. A ``headline`` is told beside the view, too."""

    label: str
    value: float | int | str
    unit: str = ""
    decimals: int = 0
    at: tuple[float, float, float] | None = None
    headline: bool = False


def headline(
    label: str,
    value: float | int | str,
    unit: str = "",
    decimals: int = 0,
    at: tuple[float, float, float] | None = None,
) -> Figure:
    """A figure with a ``label``, its ``value``, ``unit``, ``decimals`` and place ``at``, that is
    told beside the view, too."""
    return Figure(label, value, unit, decimals, at, headline=True)


@dataclass(frozen=True)
class Notice:
    """A warning in words, with what it is about so that it can be shown.

    ``of`` is ``"node"``, ``"member"``, ``"panel"`` or ``"cell"`` and ``which`` their positions in
    the result or, with an ``input``, in the one that the clause took at that ``place`` of it;
    ``at`` is a place in metres. With ``figure``, the name of one, it is only told where nothing it
    was made from has that figure. One with remedies has a ``code``. One that is ``amendable`` is
    not told where a later clause amends the result, which then tells what is so of it.
    """

    text: str
    of: str = ""
    which: tuple[int, ...] = ()
    at: tuple[float, float, float] | None = None
    value: str | None = None
    remedies: tuple[Remedy, ...] = ()
    figure: str = ""
    input: str = ""
    place: int = 0
    code: str = ""
    amendable: bool = False

    def __post_init__(self) -> None:
        _check_code(self.code, self.remedies)
        object.__setattr__(self, "text", said(self.text))

    @classmethod
    def coded(cls, code: str, facts: Mapping[str, Any], **fields: Any) -> Notice:
        """One with the text of a ``code`` and its ``facts``; ``fields`` are those of the class."""
        return cls(text_of(code, facts), code=code, **fields)


TO_COME = Figure("", "")
"""In the place of a figure that is left for later."""


@dataclass(frozen=True)
class Made:
    """What a clause made: the result, its figures by name and its warnings.

    ``later`` works out further figures and warnings, for which a hand that drags something does not
    wait; those that are ``TO_COME`` stand where they will be told. Between its parts it calls the
    function it is given, which raises when the work is no longer wanted.
    """

    result: Any
    figures: dict[str, Figure] = field(default_factory=dict)
    warnings: list[Notice] = field(default_factory=list)
    later: Callable[[Callable[[], None]], tuple[dict[str, Figure], list[Notice]]] | None = None
    aids: dict[str, NDArray[np.float64]] = field(default_factory=dict)
    """Places (n, 3) in metres that handles hang on and that the statement does not hold, by name.
    """

    @property
    def figures_by_now(self) -> dict[str, Figure]:
        """Figures without those that are still to come."""
        return {name: figure for name, figure in self.figures.items() if figure is not TO_COME}

    def finished(self, check: Callable[[], None] = lambda: None) -> Made:
        """With everything that was left for later; ``check`` is called now and then and may
        raise."""
        if self.later is None:
            return self
        figures, warnings = self.later(check)
        return Made(
            self.result, self.figures | figures, [*self.warnings, *warnings], None, self.aids
        )


def no_files(wanted: str, digest: str, name: str) -> Any:
    """Where there are no stored files."""
    raise KeyError(digest)


@dataclass(frozen=True)
class Work:
    """What a clause is given to work with besides its values: earlier results by name, and a
    progress report.

    An input that takes many results holds a list of them. ``keys`` tells results by input: those of
    one key are the same, wherever they were worked out. Calling ``progress`` with a share from 0
    to 1 raises when the work is no longer wanted. ``show`` shows places (n, 3) of the vertices of
    the net that is taken while they move, with the step and the residual, and tells whether it did.
    ``trail`` holds what earlier runs left that differed at most in the value a clause ``goes_on``
    by. ``open_file`` gives what a stored file holds, by what is wanted of it, its hash and its
    name; raises ``KeyError`` where it is not stored.
    """

    inputs: Mapping[str, Any]
    keys: Mapping[str, tuple[str, ...]] = field(default_factory=dict)
    progress: Callable[[float], None] = lambda share: None
    open_file: Callable[[str, str, str], Any] = no_files
    show: Callable[[NDArray[np.float64], int, float], bool] = lambda places, step, residual: False
    trail: list[Any] = field(default_factory=list)

    def key(self, name: str) -> str:
        """Key of what an input holds; empty where it holds nothing."""
        return next(iter(self.keys.get(name, ())), "")


class Segment(BaseModel):
    """A piece of a sentence: text or a value, shown only while value ``when`` has one of the
    choices ``equals``; where ``when`` is an input that is asked for, while none is chosen."""

    text: str = ""
    value: str = ""
    strong: bool = False
    when: str = ""
    equals: tuple[str, ...] = ()
    more: bool = False
    """Whether it stands behind a word until it is asked for."""


class Take(BaseModel):
    """An earlier result of one of these ``types`` a clause works on; with ``many``, all fitting
    ones that nothing else has taken up; one that is ``asked`` for only when it is chosen. What a
    clause ``uses_up`` others find taken up. One that would be ``regarded`` if it stood above is
    told of where it stands below. What stays ``beside`` what is made with it, as the ground below
    columns, is still drawn. What is ``cut_by``, as outlines of openings, is delivered all the
    same."""

    name: str
    types: tuple[str, ...]
    label: str
    optional: bool = False
    many: bool = False
    asked: bool = False
    uses_up: bool = False
    regarded: bool = False
    beside: bool = False
    cut_by: bool = False


MORE = "¦"
"""Parts what a sentence says first from the rest of it."""


def _segments(sentence: str, more: bool) -> list[Segment]:
    """The pieces of a sentence, or of the rest of one."""
    out: list[Segment] = []
    for match in re.finditer(r"\[(\w+)=([\w,]+)\|([^\]]*)\]|([^\[]+)", sentence):
        when, equals, inner, plain = match.groups()
        for piece in re.finditer(r"\{(\w+)\}|\*\*(.+?)\*\*|([^{*]+)", inner if when else plain):
            value, strong, text = piece.groups()
            out.append(
                Segment(
                    value=value or "",
                    text=strong or text or "",
                    strong=bool(strong),
                    when=when or "",
                    equals=tuple(equals.split(",")) if equals else (),
                    more=more,
                )
            )
    return out


class Clause(BaseModel):
    """Base of all clause types. A subclass is entered in the registry and needs nothing else to be
    usable."""

    model_config = ConfigDict(frozen=True, extra="forbid", defer_build=True)

    kind: ClassVar[str]
    version: ClassVar[int] = 1
    chapter: ClassVar[str]
    title: ClassVar[str]
    summary: ClassVar[str]
    sentence: ClassVar[str]
    """Text with ``{value}`` in it, ``**strong**`` words, and ``[value=choice,choice|text]`` for
    what depends on a choice. What comes after ``¦`` is seldom set, and stands behind a word."""
    takes: ClassVar[tuple[Take, ...]] = ()
    gives: ClassVar[str]
    drawn: ClassVar[bool] = True
    """Whether the view draws the result, so that a drag waits for it."""
    keeps_numbers: ClassVar[bool] = False
    """Whether things of what it makes more of have the same numbers in what it makes."""
    goes_on: ClassVar[str] = ""
    """The value, if any, that only says how far the work is taken."""
    begins: ClassVar[Mapping[str, Any]] = {}
    """Values that one which is chosen from the guide begins with, where these are others than
    those that are meant where none are given."""
    sketches: ClassVar[Mapping[str, tuple[str, ...]]] = {}
    """Drawings of the interface in which values are shown that go together, and which of them."""
    amends: ClassVar[str] = ""
    """The input, if any, whose result is worked out anew with something said of it."""
    fills: ClassVar[tuple[tuple[float, ...], tuple[float, ...]] | None] = None
    """The box from its least to its greatest corner (m) that a form fills as it begins."""

    @classmethod
    def beside(cls, box: NDArray[np.float64]) -> dict[str, Any]:
        """Values that one begins with beside a ``box`` (2, 3), from its least to its greatest
        corner in metres, of what is there."""
        return {}

    follows: ClassVar[tuple[tuple[str, ...], tuple[str, ...]]] = ((), ())
    """Kinds of clauses whose last above one that is added begins like, and in which values."""
    joins: ClassVar[bool] = False
    """Whether one that is added goes on with the structure there is, if nobody says otherwise."""
    builds: ClassVar[str] = ""
    """What of a structure it is that makes it one of its kind, in a word or two, as on cards."""

    def make(self, work: Work) -> Made:
        """Does the work; raises ``ClauseError`` with a sentence when it cannot."""
        raise ClauseError(f"A clause of kind “{self.kind}” makes nothing.")

    @classmethod
    @cache  # asked for again and again while a hand drags
    def specs(cls) -> Mapping[str, ValueSpec]:
        return {name: spec_of(name, info) for name, info in cls.model_fields.items()}

    @classmethod
    @cache
    def segments(cls) -> list[Segment]:
        first, _, rest = cls.sentence.partition(MORE)
        return _segments(first, False) + _segments(rest, True)

    def reads(self, inputs: Collection[str] = ()) -> str:
        """The sentence with its values, as plain text, of a clause that has these ``inputs``."""
        specs = self.specs()

        def is_said(segment: Segment) -> bool:
            if not segment.when:
                return True
            if segment.when in specs:
                return str(getattr(self, segment.when)) in segment.equals
            return segment.when not in inputs

        return "".join(
            read(specs[s.value], getattr(self, s.value)) if s.value else s.text
            for s in self.segments()
            if is_said(s)
        )

    @classmethod
    def of(cls, values: Mapping[str, Any]) -> Clause:
        """Clause from plain values; raises ``ClauseError`` with a sentence for the first one that
        does not do."""
        for name, spec in cls.specs().items():
            keys = [c.key for c in spec.choices]
            if spec.kind == "choice" and name in values and values[name] not in keys:
                shown = str(values[name])[:60]
                raise ClauseError(
                    f"{spec.label} is “{shown}”; choose one of: {', '.join(keys)}.", name
                )
        try:
            return cls(**values)
        except ValidationError as error:
            first = error.errors()[0]
            name = str(first["loc"][0])
            raise ClauseError(
                _sentence(cls, name, first), name if name in cls.model_fields else None
            ) from None


def counted(number: int, one: str, many: str) -> str:
    """So many things in words, of which there is ``one`` or ``many``."""
    return f"{number:,} {one if number == 1 else many}"


def listed(names: Iterable[Any], most: int = 6) -> str:
    """Names one after the other, with “…” where there are more than ``most``."""
    every = [str(n) for n in names]
    return ", ".join(every[:most]) + (" …" if len(every) > most else "")


WANTED = {
    "list_type": "a list of values",
    "tuple_type": "a list of values",
    "float_type": "a number",
    "float_parsing": "a number",
    "int_type": "a whole number",
    "int_parsing": "a whole number",
    "int_from_float": "a whole number",
    "string_type": "a text",
    "bool_type": "true or false",
    "bool_parsing": "true or false",
    "finite_number": "a finite number",
    "missing": "there",
    "dict_type": "named values",
}
"""What a value must be, by the type of error the validation gives."""
LIMITS = {
    "greater_than_equal": ("ge", "at least"),
    "less_than_equal": ("le", "at most"),
    "greater_than": ("gt", "more than"),
    "less_than": ("lt", "less than"),
    "too_short": ("min_length", "a list of at least"),
    "too_long": ("max_length", "a list of at most"),
    "string_too_long": ("max_length", "a text of at most"),
}


def _wanted(error: ErrorDetails) -> str:
    """What a value at fault must be, in words."""
    kind, context = error["type"], error.get("ctx", {})
    if kind in WANTED:
        return WANTED[kind]
    if kind in LIMITS:
        name, words = LIMITS[kind]
        limit = context.get(name)
        items = {
            "too_short": " entries",
            "too_long": " entries",
            "string_too_long": " characters",
        }.get(kind, "")
        return f"{words} {limit:,g}{items}" if isinstance(limit, int | float) else words
    if "expected" in context:
        return f"one of {context['expected']}"
    return "of another kind"


def _sentence(cls: type[Clause], name: str, error: ErrorDetails) -> str:
    if name not in cls.model_fields:
        known = ", ".join(cls.model_fields)
        return f"“{cls.title}” has no value called “{name}”; it has {known}."
    spec = cls.specs()[name]
    given = error["input"]
    shown = f"{given:g}" if isinstance(given, float) else str(given)[:60]
    where = " → ".join(str(int(x) + 1) for x in error["loc"][1:] if isinstance(x, int))
    label = spec.label + (f" ({where})" if where else "")
    unit = f" {spec.unit}" if spec.unit else ""
    if spec.kind in ("number", "count") and spec.least is not None and spec.most is not None:
        whole = "a whole number " if spec.kind == "count" else ""
        return f"{label} is {shown}{unit}; it must be {whole}from {spec.least:,g} to {spec.most:,g}{unit}."
    if error["type"] == "missing":
        return f"{label} has no value; give one."
    return f"{label} is {shown}; it must be {_wanted(error)}."
