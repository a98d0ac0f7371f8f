"""The statement: a list of clauses and named dimensions, and its JSON form."""

from __future__ import annotations

import json
import math
import re
from typing import Annotated, Any, Literal

from pydantic import BaseModel, ConfigDict, Field, ValidationError, field_validator, model_validator

__all__ = ["FORMAT", "FORMAT_VERSION", "ClauseEntry", "Dimension", "Statement", "StatementError", "read_statement"]

FORMAT = "lean-lattice-statement"
FORMAT_VERSION = 1
LARGEST_FILE = 5_000_000
MOST_VALUES = 50_000

Id = Annotated[str, Field(pattern=r"^[A-Za-z0-9_-]{1,40}$")]
Text = Annotated[str, Field(max_length=200)]


class StatementError(ValueError):
    """A text that cannot be read as a statement, with a sentence saying why and what would work."""


class Dimension(BaseModel):
    """A name for a number that values can refer to. ``value`` is a number or a formula over other names."""

    model_config = ConfigDict(extra="forbid")

    name: Annotated[str, Field(pattern=r"^[^\W\d]\w{0,39}$")]
    value: float | Text
    unit: Literal["m", "mm", "°", ""] = "m"


def _plain_value(value: Any, depth: int = 0) -> int:
    """Number of plain values in ``value``; raises for what is not plain, not finite or nested too deeply."""
    if isinstance(value, float) and not math.isfinite(value):
        raise ValueError(f"{value} is not a number that can be used; give a finite one")
    if isinstance(value, str) and len(value) > 300:
        raise ValueError(f"the text “{value[:40]} …” has {len(value)} characters; at most 300 are read")
    if isinstance(value, bool | int | float | str) or value is None:
        return 1
    if isinstance(value, list | tuple) and depth < 4:
        return sum(_plain_value(v, depth + 1) for v in value)
    raise ValueError("a value is a number, a text, or a list of them up to four deep")


class ClauseEntry(BaseModel):
    """One clause as written: values may be numbers, choices, lists of points, or formulas over dimensions.

    Values left out have their defaults. ``on`` names earlier clauses to work on instead of the nearest fitting ones.
    """

    model_config = ConfigDict(extra="forbid")

    id: Id
    kind: Annotated[str, Field(max_length=40)]
    off: bool = False
    on: dict[Text, Id] = {}
    values: Annotated[dict[Text, Any], Field(max_length=50)] = {}

    @field_validator("values")
    @classmethod
    def _plain(cls, values: dict[str, Any]) -> dict[str, Any]:
        if sum(_plain_value(v) for v in values.values()) > MOST_VALUES:
            raise ValueError(f"a clause holds more than {MOST_VALUES:,} numbers")
        return values


class Statement(BaseModel):
    """A design. The format's version counts up when an older program could no longer read a statement."""

    model_config = ConfigDict(extra="forbid")

    format: Literal["lean-lattice-statement"] = "lean-lattice-statement"
    version: int = FORMAT_VERSION
    program: Text = ""
    name: Annotated[str, Field(min_length=1, max_length=120)] = "Untitled"
    dimensions: Annotated[list[Dimension], Field(max_length=200)] = []
    clauses: Annotated[list[ClauseEntry], Field(max_length=200)] = []

    @field_validator("name")
    @classmethod
    def _plain(cls, name: str) -> str:
        name = re.sub(r"[\x00-\x1f\x7f]", " ", name).strip()
        if not name:
            raise ValueError("the name is empty")
        return name

    @model_validator(mode="after")
    def _distinct(self) -> Statement:
        for what, names in (("clause", [c.id for c in self.clauses]), ("dimension", [d.name for d in self.dimensions])):
            twice = next((n for n in names if names.count(n) > 1), None)
            if twice is not None:
                raise ValueError(f"two {what}s are called “{twice}”; give each a name of its own")
        return self

    def clause(self, clause_id: str) -> ClauseEntry | None:
        return next((c for c in self.clauses if c.id == clause_id), None)

    def text(self) -> str:
        """JSON text, the same for the same statement."""
        return json.dumps(self.model_dump(), ensure_ascii=False, indent=2, allow_nan=False) + "\n"


def _refuse_constant(name: str) -> float:
    raise StatementError(f"The statement contains {name}, which is not a number; write a finite one.")


def read_statement(text: str | bytes) -> Statement:
    """Statement from its JSON text; raises ``StatementError`` with a sentence."""
    if len(text) > LARGEST_FILE:
        raise StatementError(f"The statement is {len(text):,} bytes long; at most {LARGEST_FILE:,} are read.")
    try:
        plain = json.loads(text, parse_constant=_refuse_constant)
    except StatementError:
        raise
    except (ValueError, RecursionError) as error:
        raise StatementError(f"This is not a statement: it cannot be read as JSON ({error}).") from None
    if not isinstance(plain, dict) or plain.get("format") != FORMAT:
        raise StatementError(f"This is not a statement: its “format” should be “{FORMAT}”.")
    version = plain.get("version")
    if isinstance(version, int) and version > FORMAT_VERSION:
        raise StatementError(
            f"The statement is of version {version}; this program reads up to version {FORMAT_VERSION}. "
            "Open it with a newer program."
        )
    try:
        return Statement.model_validate(plain)
    except ValidationError as error:
        first = error.errors()[0]
        where = " → ".join(str(x) for x in first["loc"]) or "the statement"
        raise StatementError(f"The statement cannot be read at {where}: {first['msg']}.") from None
    except RecursionError:
        raise StatementError("The statement is nested too deeply.") from None
