"""Lengths in sentences: kept as numbers beside the words, so that they can be read in other units.

Who writes a sentence puts a length into it by ``mm`` or ``metres``, which mark where it stands;
notices, errors and remedies take the marks out again, and know the lengths from then on.
"""

from __future__ import annotations

import re
from collections.abc import Mapping, Sequence
from typing import Any, NamedTuple

__all__ = ["Length", "Said", "filled", "metres", "mm", "mm_by", "place_text", "said"]

START, BETWEEN, END = "\ue000", "\ue001", "\ue002"
"""Characters of private use, which no sentence has otherwise."""
MARKED = re.compile(f"{START}([^{END}]*){END}")
FIELD = r"\{\w+:[^{}]+\}"
TOLD = re.compile(rf"(\(?{FIELD}(?:(?: × | and | or |, ){FIELD})*\)?) (mm|m)(?![\w²³/])")
"""A number with its unit of length in the text of a code, or several with one."""


class Length(NamedTuple):
    """A length in a sentence, or several that go together: their ``values`` in a ``unit``, ``"m"``
    or ``"mm"``; the ``words`` for them, which stand ``at`` a place, and the ``form`` of these with
    braces in the place of each."""

    at: int
    words: str
    values: tuple[float, ...]
    unit: str
    form: str


class Said(str):
    """A sentence that knows its lengths."""

    lengths: tuple[Length, ...]

    @property
    def marked(self) -> str:
        """The sentence with its lengths marked again, to be put into another."""
        out, past = "", 0
        for length in self.lengths:
            out += self[past : length.at]
            out += _marked(length.values, length.unit, length.form, length.words)
            past = length.at + len(length.words)
        return out + self[past:]


def _marked(values: Sequence[float], unit: str, form: str, words: str) -> str:
    told = " ".join(repr(float(value)) for value in values)
    return START + BETWEEN.join((told, unit, form, words)) + END


def mm(value: float, form: str = "g") -> str:
    """A length in millimetres, written in a ``form``, within a sentence."""
    return _marked((value,), "mm", "{}", f"{value:{form}} mm")


def metres(value: float, form: str = "g") -> str:
    """A length in metres, written in a ``form``, within a sentence."""
    return _marked((value,), "m", "{}", f"{value:{form}} m")


def mm_by(width: float, height: float) -> str:
    """A size in millimetres within a sentence."""
    return _marked((width, height), "mm", "{} × {}", f"{width:g} × {height:g} mm")


def place_text(at: Any) -> str:
    """A place (3,) in metres within a sentence."""
    places = [float(x) for x in at]
    words = "(" + ", ".join(f"{x:.2f}" for x in places) + ") m"
    return _marked(places, "m", "({}, {}, {})", words)


def said(text: str) -> Said:
    """A sentence without the marks of lengths, which it knows instead."""
    if isinstance(text, Said):
        return text
    words, lengths, past = "", [], 0
    for found in MARKED.finditer(text):
        told, unit, form, own = found[1].split(BETWEEN)
        words += text[past : found.start()]
        values = tuple(map(float, told.split()))
        lengths.append(Length(len(words), own, values, unit, form))
        words += own
        past = found.end()
    out = Said(words + text[past:])
    out.lengths = tuple(lengths)
    return out


def filled(text: str, facts: Mapping[str, Any]) -> str:
    """The text of a code with its ``facts`` in the place of their names in braces; numbers that a
    unit of length follows are marked."""
    out, past = "", 0
    for found in TOLD.finditer(text):
        out += text[past : found.start()].format_map(facts)
        values = [facts[name] for name in re.findall(r"\{(\w+)", found[1])]
        form = re.sub(FIELD, "{}", found[1])
        out += _marked(values, found[2], form, found[0].format_map(facts))
        past = found.end()
    return out + text[past:].format_map(facts)
