"""Kinds of values: what the interface needs to show and edit them, and how they read."""

from __future__ import annotations

from collections.abc import Callable, Sequence
from typing import Any, Literal

from pydantic import BaseModel, Field
from pydantic.fields import FieldInfo

__all__ = [
    "Choice",
    "Handle",
    "ValueSpec",
    "arrangement",
    "cage",
    "choice",
    "count",
    "curves",
    "file",
    "marks",
    "number",
    "offsets",
    "places",
    "point",
    "profiles",
    "read",
    "section",
    "spec_of",
    "text",
]


class Handle(BaseModel):
    """A handle in the view that sets a number: it lies at ``origin`` + ``direction`` · value ·
    ``scale``.

    ``origin`` names a value that is a place. Where the place follows from the work, the clause
    gives an aid instead: ``line NAME``, a place and a step for 1, or for an angle ``dial NAME``, a
    centre, an arm at 0 and an axis.
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
        "text",
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
    pictured: bool = False
    """Whether there is a picture of each choice."""
    default: Any = None
    handle: Handle | None = None
    one: str = ""
    """The word that follows a count of one, and ``many`` that follows others."""
    many: str = ""
    accepts: list[str] = []
    """Endings of files that can be read."""
    by_size: list[tuple[float, float]] = []
    """Up to what size of the model (m) the value begins with what, the last for any."""


def _value(default: Any, limits: dict[str, Any] | None = None, **spec: Any) -> Any:
    factory = {"default_factory": default} if callable(default) else {"default": default}
    extra: Any = {"spec": {k: v for k, v in spec.items() if v is not None}}
    return Field(**factory, **(limits or {}), json_schema_extra=extra)


def number(
    default: float,
    unit: str,
    least: float,
    most: float,
    step: float,
    label: str,
    hint: str = "",
    handle: Handle | None = None,
    by_size: Sequence[tuple[float, float]] = (),
) -> Any:
    """A number in its ``unit``, ``default`` at first, from ``least`` to ``most``; a drag changes it
    by ``step``. The interface shows its ``label`` and ``hint``, and a ``handle`` in the view.
    ``by_size`` tells what it begins with in models up to so many metres large, the last in any."""
    return _value(
        default,
        {"ge": least, "le": most, "allow_inf_nan": False},
        kind="number",
        unit=unit,
        least=least,
        most=most,
        step=step,
        label=label,
        hint=hint,
        handle=handle,
        by_size=[(most, value) for most, value in by_size],
    )


def count(
    default: int,
    least: int,
    most: int,
    label: str,
    hint: str = "",
    words: tuple[str, str] = ("", ""),
) -> Any:
    """A whole number, ``default`` at first, from ``least`` to ``most``, with its ``label`` and
    ``hint``; of ``words`` that follow it the first is for one."""
    return _value(
        default,
        {"ge": least, "le": most},
        kind="count",
        least=least,
        most=most,
        step=1,
        label=label,
        hint=hint,
        one=words[0],
        many=words[1],
    )


def choice(
    default: str, titles: dict[str, str], label: str, hint: str = "", pictured: bool = False
) -> Any:
    """One of the keys of ``titles``, ``default`` at first, which reads as its title in the sentence;
    with its ``label`` and ``hint``. What is ``pictured`` is chosen by pictures of what the guide's
    sample makes with each."""
    choices = [Choice(key=k, title=t) for k, t in titles.items()]
    return _value(
        default, kind="choice", choices=choices, label=label, hint=hint, pictured=pictured or None
    )


def section(default: str, label: str, hint: str = "") -> Any:
    """The name of a section of the catalogue."""
    return _value(default, kind="section", label=label, hint=hint)


def text(label: str, empty: str, hint: str = "") -> Any:
    """A short text, which reads as ``empty`` where there is none."""
    return _value("", {"max_length": 200}, kind="text", label=label, hint=hint, one=empty)


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
    """Where parts lie: label, sheet in the order in which sheets are taken, shift x and y (mm),
    turn (°), whether pinned."""
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


def spec_of(name: str, info: FieldInfo) -> ValueSpec:
    """What the interface needs of a field made by one of these functions."""
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
        f"£{v:,g}"
        if spec.unit == "£"
        else f"{v:,g}" + ("" if spec.unit in ("", "°") else " ") + spec.unit
    ),
    "count": lambda spec, v: f"{v:,g} {spec.one if v == 1 else spec.many}".rstrip(),
    "text": lambda spec, v: f"“{v}”" if v else spec.one,
    "places": lambda spec, v: _counted(len(v), "place", "places"),
    "curves": lambda spec, v: _counted(len(v), "curve", "curves"),
    "cage": lambda spec, v: _counted(len(v[1]) if len(v) > 1 else 0, "face", "faces"),
    "offsets": lambda spec, v: _counted(sum(any(d) for d in v), "point", "points"),
    "marks": lambda spec, v: _counted(len(v), "mark", "marks"),
    "arrangement": lambda spec, v: _arranged(v),
    "file": lambda spec, v: f"“{v[1]}”" if len(v) > 1 else "(no file yet)",
}


def read(spec: ValueSpec, value: Any) -> str:
    """A value as it reads in the sentence."""
    as_text = _READ.get(spec.kind)
    return as_text(spec, value) if as_text else str(value)
