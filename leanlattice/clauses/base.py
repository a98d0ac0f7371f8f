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
    "marks",
    "no_files",
    "number",
    "offsets",
    "places",
    "point",
    "profiles",
    "section",
]

CHAPTERS = ("Shape", "Lattice", "Settle", "Frame", "Prove", "Make")


@dataclass(frozen=True)
class Remedy:
    """An edit that would help, offered beside a warning: a clause of ``kind`` with ``values`` put in before the one that
    warns, or without a kind the ``values`` given to the one that warns, or to the clause of its input ``of``."""

    title: str
    values: Mapping[str, Any]
    kind: str = ""
    of: str = ""


class ClauseError(Exception):
    """A clause cannot do its work: a sentence that names the value at fault and what would work."""

    def __init__(
        self, text: str, value: str | None = None, at: NDArray[np.float64] | None = None, remedies: tuple[Remedy, ...] = ()
    ) -> None:  # fmt: skip
        super().__init__(text)
        self.text, self.value, self.remedies = text, value, remedies
        self.at = None if at is None else [float(x) for x in at]


@dataclass(frozen=True)
class Figure:
    """A figure of a clause: a number with its unit, how many decimals are worth showing, and the place it is found at
    where it has one."""

    label: str
    value: float | int | str
    unit: str = ""
    decimals: int = 0
    at: tuple[float, float, float] | None = None


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
    remedies: tuple[Remedy, ...] = ()


@dataclass(frozen=True)
class Made:
    """What a clause made: the result, its figures by name and its warnings.

    ``later`` works out further figures and warnings, for which a hand that drags something does not wait. Between its
    parts it calls the function it is given, which raises when the work is no longer wanted.
    """

    result: Any
    figures: dict[str, Figure] = field(default_factory=dict)
    warnings: list[Notice] = field(default_factory=list)
    later: Callable[[Callable[[], None]], tuple[dict[str, Figure], list[Notice]]] | None = None
    aids: dict[str, NDArray[np.float64]] = field(default_factory=dict)
    """Places (n, 3) in metres that handles hang on and that the statement does not hold, by name."""

    def finished(self, check: Callable[[], None] = lambda: None) -> Made:
        """With everything that was left for later; ``check`` is called now and then and may raise."""
        if self.later is None:
            return self
        figures, warnings = self.later(check)
        return Made(self.result, self.figures | figures, [*self.warnings, *warnings], None, self.aids)


def no_files(wanted: str, digest: str, name: str) -> Any:
    """Where there are no stored files."""
    raise KeyError(digest)


@dataclass(frozen=True)
class Work:
    """What a clause is given to work with besides its values: earlier results by name, and a progress report.

    An input that takes many results holds a list of them. Calling ``progress`` with a share from 0 to 1 raises when the
    work is no longer wanted. ``show`` shows places (n, 3) of the vertices of the net that is taken while they move, with
    the step and the residual, and tells whether it did. ``trail`` holds what earlier runs left that differed at most in
    the value a clause ``goes_on`` by. ``open_file`` gives what a stored file holds, by what is wanted of it, its hash and
    its name; raises ``KeyError`` where it is not stored.
    """

    inputs: Mapping[str, Any]
    progress: Callable[[float], None] = lambda share: None
    open_file: Callable[[str, str, str], Any] = no_files
    show: Callable[[NDArray[np.float64], int, float], bool] = lambda places, step, residual: False
    trail: list[Any] = field(default_factory=list)


class Handle(BaseModel):
    """A handle in the view that sets a number: it lies at ``origin`` + ``direction`` · value · ``scale``.

    ``origin`` names a value that is a place. Where the place follows from the work, the clause gives an aid instead:
    ``line NAME``, a place and a step for 1, or for an angle ``dial NAME``, a centre, an arm at 0 and an axis.
    """

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
    kind: Literal[
        "number",
        "count",
        "choice",
        "section",
        "profiles",
        "point",
        "places",
        "curves",
        "cage",
        "offsets",
        "marks",
        "file",
        "arrangement",
    ]
    label: str
    hint: str = ""
    unit: str = ""
    least: float | None = None
    most: float | None = None
    step: float | None = None
    choices: list[Choice] = []
    default: Any = None
    handle: Handle | None = None
    accepts: list[str] = []
    """Endings of files that can be read."""


class Segment(BaseModel):
    """A piece of a sentence: text or a value, shown only while value ``when`` has the choice ``equals``."""

    text: str = ""
    value: str = ""
    strong: bool = False
    when: str = ""
    equals: str = ""


class Take(BaseModel):
    """An earlier result a clause works on; with ``many``, all fitting ones that nothing else has taken up; one that is ``asked``
    for only when it is chosen. What a clause ``uses_up`` others find taken up."""

    name: str
    type: str
    label: str
    optional: bool = False
    many: bool = False
    asked: bool = False
    uses_up: bool = False


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


def places(default: Callable[[], Any], label: str, hint: str = "") -> Any:
    """A list of places (x, y, z) in metres, each dragged in the view; any number of them."""
    return _value(default, kind="places", unit="m", label=label, hint=hint)


def curves(default: Callable[[], Any], label: str, hint: str = "") -> Any:
    """Curves drawn on a plane: lists of a type's name and its points (x, y) in metres."""
    return _value(default, kind="curves", unit="m", label=label, hint=hint)


def cage(default: Callable[[], Any], label: str, hint: str = "") -> Any:
    """A coarse mesh: its vertices in metres, faces, creased edges and corners."""
    return _value(default, kind="cage", unit="m", label=label, hint=hint)


def offsets(default: Callable[[], Any], label: str, hint: str = "") -> Any:
    """How far each point of a control box is moved (dx, dy, dz) in metres; points left out stay."""
    return _value(default, kind="offsets", unit="m", label=label, hint=hint)


def arrangement(label: str, hint: str = "") -> Any:
    """Where parts lie: label, sheet in the order in which sheets are taken, shift x and y (mm), turn (°), whether pinned."""
    return _value(list, kind="arrangement", label=label, hint=hint)


def _arranged(places: Any) -> str:
    pinned = sum(bool(p[5]) for p in places)
    if not places:
        return "arranged as they come"
    return (
        f"{pinned} pinned"
        if pinned == len(places)
        else f"{len(places)} arranged" + (f", {pinned} of them pinned" if pinned else "")
    )


def marks(default: Callable[[], Any], label: str, hint: str = "") -> Any:
    """Places on a picture as shares of its width and height, from its upper left corner."""
    return _value(default, kind="marks", label=label, hint=hint)


def file(label: str, accepts: list[str], hint: str = "") -> Any:
    """A stored file: its content's hash and its name; empty before one is chosen."""
    return _value(list, kind="file", label=label, hint=hint, accepts=accepts)


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
    goes_on: ClassVar[str] = ""
    """The value, if any, that only says how far the work is taken."""

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


def _counted(count: int, one: str, many: str) -> str:
    return f"{count} {one if count == 1 else many}"


_READ: dict[str, Callable[[ValueSpec, Any], str]] = {
    "choice": lambda spec, v: next(c.title for c in spec.choices if c.key == v),
    "profiles": lambda spec, v: f"{len(v)} profiles",
    "point": lambda spec, v: "(" + ", ".join(f"{x:g}" for x in v) + ") m",
    "number": lambda spec, v: (
        f"£{v:,g}" if spec.unit == "£" else f"{v:,g}" + ("" if spec.unit in ("", "°") else " ") + spec.unit
    ),
    "count": lambda spec, v: f"{v:,g}",
    "places": lambda spec, v: _counted(len(v), "place", "places"),
    "curves": lambda spec, v: _counted(len(v), "curve", "curves"),
    "cage": lambda spec, v: _counted(len(v[1]) if len(v) > 1 else 0, "face", "faces"),
    "offsets": lambda spec, v: _counted(sum(any(d) for d in v), "point", "points"),
    "marks": lambda spec, v: _counted(len(v), "mark", "marks"),
    "arrangement": lambda spec, v: _arranged(v),
    "file": lambda spec, v: f"“{v[1]}”" if len(v) > 1 else "(no file yet)",
}


def _read(spec: ValueSpec, value: Any) -> str:
    read = _READ.get(spec.kind)
    return read(spec, value) if read else str(value)


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
