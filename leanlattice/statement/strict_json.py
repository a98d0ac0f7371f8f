"""JSON as the standard has it: what cannot be written again is not read."""

from __future__ import annotations

import json
import math
import re
from typing import Any

__all__ = ["NotJson", "read_json"]

LARGEST_WHOLE = 2**63
"""Whole numbers beyond it have no place in 64 bits, and none in the database."""
SHOWN = 40
ESCAPED_SURROGATE = re.compile(r"\\u[dD][89a-fA-F]")


class NotJson(ValueError):
    """A text that is no JSON, or one with a number or letter that nothing can hold, in a
    sentence."""


def _refused(name: str) -> Any:
    raise NotJson(f"{name} is no number that can be used; write a finite one.")


def _real(text: str) -> float:
    value = float(text)
    if not math.isfinite(value):
        raise NotJson(f"{text[:SHOWN]} is larger than any number here can be.")
    return value


def _whole(text: str) -> int:
    # Longer ones would take long to read, whatever they are.
    if len(text) > 20 or not -LARGEST_WHOLE <= (value := int(text)) < LARGEST_WHOLE:
        raise NotJson(f"{text[:SHOWN]} is larger than any whole number here can be.")
    return value


def _check_letters(value: Any) -> None:
    """Raises for halves of letters, which UTF-8 cannot write."""
    waiting = [value]
    while waiting:
        one = waiting.pop()
        if isinstance(one, str):
            try:
                one.encode()
            except UnicodeEncodeError:
                raise NotJson("A text holds half a letter, which cannot be written.") from None
        elif isinstance(one, dict):
            waiting += [*one.keys(), *one.values()]
        elif isinstance(one, list):
            waiting += one


def read_json(text: str | bytes) -> Any:
    """What a JSON text holds (RFC 8259): finite numbers, whole ones within 64 bits, whole letters;
    raises ``NotJson`` with a sentence."""
    try:
        plain = text.decode() if isinstance(text, bytes) else text
        plain.encode()
        value = json.loads(plain, parse_constant=_refused, parse_float=_real, parse_int=_whole)
        if ESCAPED_SURROGATE.search(plain):
            _check_letters(value)
    except NotJson:
        raise
    except UnicodeError:
        raise NotJson("It is no JSON, as it is not written in UTF-8.") from None
    except RecursionError:
        raise NotJson("It is nested too deeply.") from None
    except ValueError as error:
        raise NotJson(f"It cannot be read as JSON ({error}).") from None
    return value
