"""What a clause type is: typed values, a sentence, what it takes and gives, and the call into the core."""

from __future__ import annotations

import re
from collections.abc import Callable, Mapping
from dataclasses import dataclass, field
from typing import Any, ClassVar, Literal

import numpy as np
from numpy.typing import NDArray
from pydantic import BaseModel, ConfigDict, Field, ValidationError
from pydantic.fields import FieldInfo
from pydantic_core import ErrorDetails

__all__ = [
    "CHAPTERS",
    "Choice",
    "Clause",
    "ClauseError",
    "Figure",
    "Handle",
    "Made",
    "Notice",
    "Segment",
    "Take",
    "ValueSpec",
    "Work",
    "choice",
    "count",
    "number",
    "point",
    "profiles",
    "section",
]

CHAPTERS = ("Shape", "Lattice", "Settle", "Frame", "Prove", "Make")


class ClauseError(Exception):
    """A clause cannot do its work: a sentence that names the value at fault and what would work."""

    def __init__(self, text: str, value: str | None = None, at: NDArray[np.float64] | None = None) -> None:
        super().__init__(text)
        self.text, self.value = text, value
        self.at = None if at is None else [float(x) for x in at]


@dataclass(frozen=True)
class Figure:
    """A figure of a clause: a number with its unit, and how many decimals are worth showing."""

    label: str
    value: float | int | str
    unit: str = ""
    decimals: int = 0


@dataclass(frozen=True)
class Notice:
    """A warning in words, with what it is about so that it can be shown.

    ``of`` is ``"node"``, ``"member"``, ``"panel"`` or ``"cell"`` and ``which`` their positions in the result;
    ``at`` is a place in metres.
    """

    text: str
    of: str = ""
    which: tuple[int, ...] = ()
    at: tuple[float, float, float] | None = None
    value: str | None = None


@dataclass(frozen=True)
class Made:
    """What a clause made: the result, its figures by name and its warnings."""

    result: Any
    figures: dict[str, Figure] = field(default_factory=dict)
    warnings: list[Notice] = field(default_factory=list)


@dataclass(frozen=True)
class Work:
    """What a clause is given to work with besides its values: earlier results by name, and a progress report.

    Calling ``progress`` with a share from 0 to 1 raises when the work is no longer wanted.
    """

    inputs: Mapping[str, Any]
    progress: Callable[[float], None] = lambda share: None


class Handle(BaseModel):
    """A handle in the view that sets a number: it lies at ``origin`` + ``direction`` · value · ``scale``."""

    origin: str
    direction: tuple[float, float, float]
    scale: float = 1.0


class Choice(BaseModel):
    """One of the choices of a value: what is stored, and how it reads in the sentence."""

    key: str
    title: str


class ValueSpec(BaseModel):
    """Everything the interface needs to show and edit a value."""

    name: str
    kind: Literal["number", "count", "choice", "section", "profiles", "point"]
    label: str
    hint: str = ""
    unit: str = ""
    least: float | None = None
    most: float | None = None
    step: float | None = None
    choices: list[Choice] = []
    default: Any = None
    handle: Handle | None = None


class Segment(BaseModel):
    """A piece of a sentence: text or a value, shown only while value ``when`` has the choice ``equals``."""

    text: str = ""
    value: str = ""
    strong: bool = False
    when: str = ""
    equals: str = ""


class Take(BaseModel):
    """An earlier result a clause works on."""

    name: str
    type: str
    label: str
    optional: bool = False


def _value(default: Any, limits: dict[str, Any] | None = None, **spec: Any) -> Any:
    factory = {"default_factory": default} if callable(default) else {"default": default}
    extra: Any = {"spec": {k: v for k, v in spec.items() if v is not None}}
    return Field(**factory, **(limits or {}), json_schema_extra=extra)


def number(
    default: float, unit: str, least: float, most: float, step: float, label: str, hint: str = "",
    handle: Handle | None = None,
) -> Any:  # fmt: skip
    """A number in its unit, from ``least`` to ``most``; a drag changes it by ``step``."""
    return _value(
        default, {"ge": least, "le": most, "allow_inf_nan": False}, kind="number", unit=unit, least=least, most=most,
        step=step, label=label, hint=hint, handle=handle,
    )  # fmt: skip


def count(default: int, least: int, most: int, label: str, hint: str = "") -> Any:
    """A whole number from ``least`` to ``most``."""
    return _value(
        default, {"ge": least, "le": most}, kind="count", least=least, most=most, step=1, label=label, hint=hint
    )


def choice(default: str, titles: dict[str, str], label: str, hint: str = "") -> Any:
    """One of the keys of ``titles``, which reads as its title in the sentence."""
    choices = [Choice(key=k, title=t) for k, t in titles.items()]
    return _value(default, kind="choice", choices=choices, label=label, hint=hint)


def section(default: str, label: str, hint: str = "") -> Any:
    """The name of a section of the catalogue."""
    return _value(default, kind="section", label=label, hint=hint)


def point(default: tuple[float, float, float], label: str, hint: str = "") -> Any:
    """A place (x, y, z) in metres, dragged in the view."""
    return _value(default, kind="point", unit="m", label=label, hint=hint)


def profiles(default: Callable[[], Any], label: str, hint: str = "") -> Any:
    """Lists of points in metres, each point dragged in the view."""
    return _value(default, kind="profiles", unit="m", label=label, hint=hint)


class Clause(BaseModel):
    """Base of all clause types. A subclass is entered in the registry and needs nothing else to be usable."""

    model_config = ConfigDict(frozen=True, extra="forbid")

    kind: ClassVar[str]
    version: ClassVar[int] = 1
    chapter: ClassVar[str]
    title: ClassVar[str]
    summary: ClassVar[str]
    sentence: ClassVar[str]
    """Text with ``{value}`` in it, ``**strong**`` words, and ``[value=choice|text]`` for what depends on a choice."""
    takes: ClassVar[tuple[Take, ...]] = ()
    gives: ClassVar[str]
    drawn: ClassVar[bool] = True
    """Whether the view draws the result, so that a drag waits for it."""

    def make(self, work: Work) -> Made:
        """Does the work; raises ``ClauseError`` with a sentence when it cannot."""
        raise ClauseError(f"A clause of kind “{self.kind}” makes nothing.")

    @classmethod
    def specs(cls) -> dict[str, ValueSpec]:
        return {name: _spec(name, info) for name, info in cls.model_fields.items()}

    @classmethod
    def segments(cls) -> list[Segment]:
        out: list[Segment] = []
        for match in re.finditer(r"\[(\w+)=(\w+)\|([^\]]*)\]|([^\[]+)", cls.sentence):
            when, equals, inner, plain = match.groups()
            for piece in re.finditer(r"\{(\w+)\}|\*\*(.+?)\*\*|([^{*]+)", inner if when else plain):
                value, strong, text = piece.groups()
                out.append(
                    Segment(
                        value=value or "", text=strong or text or "", strong=bool(strong), when=when or "",
                        equals=equals or "",
                    )
                )  # fmt: skip
        return out

    def reads(self) -> str:
        """The sentence with its values, as plain text."""
        specs = self.specs()
        return "".join(
            _read(specs[s.value], getattr(self, s.value)) if s.value else s.text
            for s in self.segments()
            if not s.when or str(getattr(self, s.when)) == s.equals
        )

    @classmethod
    def of(cls, values: Mapping[str, Any]) -> Clause:
        """Clause from plain values; raises ``ClauseError`` with a sentence for the first one that does not do."""
        for name, spec in cls.specs().items():
            keys = [c.key for c in spec.choices]
            if spec.kind == "choice" and name in values and values[name] not in keys:
                shown = str(values[name])[:60]
                raise ClauseError(f"{spec.label} is “{shown}”; choose one of: {', '.join(keys)}.", name)
        try:
            return cls(**values)
        except ValidationError as error:
            first = error.errors()[0]
            name = str(first["loc"][0])
            raise ClauseError(_sentence(cls, name, first), name if name in cls.model_fields else None) from None


def _spec(name: str, info: FieldInfo) -> ValueSpec:
    extra = info.json_schema_extra
    assert isinstance(extra, dict)
    given: Any = extra["spec"]
    return ValueSpec(name=name, default=info.get_default(call_default_factory=True), **given)


def _read(spec: ValueSpec, value: Any) -> str:
    if spec.kind == "choice":
        return next(c.title for c in spec.choices if c.key == value)
    if spec.kind == "profiles":
        return f"{len(value)} profiles"
    if spec.kind == "point":
        return "(" + ", ".join(f"{x:g}" for x in value) + ") m"
    if spec.kind in ("number", "count"):
        return f"{value:,g}" + (("" if spec.unit == "°" else " ") + spec.unit if spec.unit else "")
    return str(value)


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
    return f"{label} is {shown}: {error['msg'][:1].lower()}{error['msg'][1:]}."
