"""The statement: a list of clauses and named dimensions, and its JSON form."""

from __future__ import annotations

import base64
import hashlib
import json
import math
import re
from typing import Annotated, Any, Literal

from pydantic import BaseModel, ConfigDict, Field, ValidationError, field_validator, model_validator

from .strict_json import NotJson, read_json

__all__ = [
    "FORMAT",
    "FORMAT_VERSION",
    "LARGEST_BROUGHT",
    "ClauseEntry",
    "Dimension",
    "DimensionUnit",
    "EmbeddedFile",
    "Statement",
    "StatementError",
    "files_used",
    "read_statement",
]

FORMAT = "lean-lattice-statement"
FORMAT_VERSION = 4
LARGEST_FILE = 150_000_000
"""Bytes of a statement file, the contents of the files it uses included."""
LARGEST_BROUGHT = 100_000_000
"""Bytes of a single file that is brought in."""
LARGEST_TEXT = 5_000_000
"""Bytes of it without them."""
MOST_VALUES = 50_000

Id = Annotated[str, Field(pattern=r"^[A-Za-z0-9_-]{1,40}$")]
Text = Annotated[str, Field(max_length=200)]
Digest = Annotated[str, Field(pattern=r"^[0-9a-f]{64}$")]
DimensionUnit = Literal["m", "mm", "°", ""]


class StatementError(ValueError):
    """A text that cannot be read as a statement, with a sentence saying why and what would work."""


class Dimension(BaseModel):
    """A name for a number that values can refer to. ``value`` is a number or a formula over other
    names."""

    model_config = ConfigDict(extra="forbid")

    name: Annotated[str, Field(pattern=r"^[^\W\d]\w{0,39}$")]
    value: Annotated[float, Field(allow_inf_nan=False)] | Text
    unit: DimensionUnit = "m"


def _plain_value(value: Any, depth: int = 0) -> int:
    """Number of plain values in ``value``; raises for what is not plain, not finite or nested too
    deeply."""
    if isinstance(value, float) and not math.isfinite(value):
        raise ValueError(f"{value} is not a number that can be used; give a finite one")
    if isinstance(value, str) and len(value) > 300:
        raise ValueError(
            f"the text “{value[:40]} …” has {len(value)} characters; at most 300 are read"
        )
    if isinstance(value, bool | int | float | str) or value is None:
        return 1
    if isinstance(value, list | tuple) and depth < 4:
        return sum(_plain_value(v, depth + 1) for v in value)
    raise ValueError("a value is a number, a text, or a list of them up to four deep")


class ClauseEntry(BaseModel):
    """One clause as written: values may be numbers, choices, lists of points, or formulas over
    dimensions.

    Values left out have their defaults. ``on`` names earlier clauses to work on instead of the
    nearest fitting ones. ``bundle`` is what people call those it belongs to: “roof”, “columns”.
    """

    model_config = ConfigDict(extra="forbid")

    id: Id
    kind: Annotated[str, Field(max_length=40)]
    off: bool = False
    on: dict[Text, Id | Annotated[list[Id], Field(max_length=100)]] = {}
    bundle: Annotated[str, Field(max_length=40)] = ""
    values: Annotated[dict[Text, Any], Field(max_length=50)] = {}

    @field_validator("values")
    @classmethod
    def _plain(cls, values: dict[str, Any]) -> dict[str, Any]:
        if sum(_plain_value(v) for v in values.values()) > MOST_VALUES:
            raise ValueError(f"a clause holds more than {MOST_VALUES:,} numbers")
        return values


class EmbeddedFile(BaseModel):
    """The content of a file a statement uses, in base 64."""

    model_config = ConfigDict(extra="forbid")

    name: Text
    content: str

    def bytes(self) -> bytes:
        return base64.b64decode(self.content)


class Statement(BaseModel):
    """A design. The format's version counts up when an older program could no longer read a
    statement."""

    model_config = ConfigDict(extra="forbid")

    format: Literal["lean-lattice-statement"] = "lean-lattice-statement"
    version: int = FORMAT_VERSION
    program: Text = ""
    name: Annotated[str, Field(min_length=1, max_length=120)] = "Untitled"
    dimensions: Annotated[list[Dimension], Field(max_length=200)] = []
    clauses: Annotated[list[ClauseEntry], Field(max_length=400)] = []
    files: Annotated[dict[Digest, EmbeddedFile], Field(max_length=100)] = {}
    """Contents of the files it uses, by their SHA-256: in statement files only, so that they are
    complete."""

    @field_validator("files")
    @classmethod
    def _as_named(cls, files: dict[str, EmbeddedFile]) -> dict[str, EmbeddedFile]:
        for digest, file in files.items():
            try:
                content = file.bytes()
            except ValueError:
                raise ValueError(f"the content of “{file.name}” is not in base 64") from None
            if hashlib.sha256(content).hexdigest() != digest:
                raise ValueError(f"the content of “{file.name}” is not the one its hash names")
        return files

    @field_validator("name")
    @classmethod
    def _plain(cls, name: str) -> str:
        name = re.sub(r"[\x00-\x1f\x7f]", " ", name).strip()
        if not name:
            raise ValueError("the name is empty")
        return name

    @model_validator(mode="after")
    def _distinct(self) -> Statement:
        for what, names in (
            ("clause", [c.id for c in self.clauses]),
            ("dimension", [d.name for d in self.dimensions]),
        ):
            twice = next((n for n in names if names.count(n) > 1), None)
            if twice is not None:
                raise ValueError(f"two {what}s are called “{twice}”; give each a name of its own")
        return self

    def clause(self, clause_id: str) -> ClauseEntry | None:
        return next((c for c in self.clauses if c.id == clause_id), None)

    def text(self) -> str:
        """JSON text, the same for the same statement."""
        plain = self.model_dump()
        if not self.files:
            del plain["files"]
        for clause in plain["clauses"]:
            if not clause["bundle"]:
                del clause["bundle"]
        return json.dumps(plain, ensure_ascii=False, indent=2, allow_nan=False) + "\n"


def files_used(statement: Statement) -> dict[str, str]:
    """Names by hash of the files that values of the statement name: lists of a hash and a name."""
    out = {}
    for clause in statement.clauses:
        for value in clause.values.values():
            if (
                isinstance(value, list)
                and len(value) == 2
                and all(isinstance(v, str) for v in value)
            ):
                digest, name = value
                if re.fullmatch(r"[0-9a-f]{64}", digest):
                    out[digest] = name
    return out


def read_statement(text: str | bytes) -> Statement:
    """Statement from its JSON text; raises ``StatementError`` with a sentence."""
    # Only a statement that carries files may be long, and its files are counted apart.
    marker = '"files"' if isinstance(text, str) else b'"files"'
    most = LARGEST_FILE if marker in text else LARGEST_TEXT  # type: ignore[operator]
    if len(text) > most:
        raise StatementError(
            f"The statement is {len(text):,} bytes long; at most {most:,} are read."
        )
    try:
        plain = read_json(text)
    except NotJson as error:
        raise StatementError(f"This is not a statement that can be read. {error}") from None
    if not isinstance(plain, dict) or plain.get("format") != FORMAT:
        raise StatementError(f"This is not a statement: its “format” should be “{FORMAT}”.")
    carried = plain.get("files")
    text_only = len(text) - (
        sum(len(str(f)) for f in carried.values()) if isinstance(carried, dict) else 0
    )
    if text_only > LARGEST_TEXT:
        raise StatementError(
            f"The statement is {text_only:,} bytes long without its files; at most {LARGEST_TEXT:,} are read."
        )
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
