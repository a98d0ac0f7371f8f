"""What is said on the live channel, either way: every message in text is one of these.

Geometry, measures and motion are sent besides, in binary (``exchange/wire.py``).
"""

from __future__ import annotations

from typing import Annotated, Any, Literal

from pydantic import BaseModel, ConfigDict, Field, SkipValidation, TypeAdapter, ValidationError

from ..statement.edits import Edit
from .messages import OutcomeMessage, StatementMessage

__all__ = [
    "ASKED",
    "SAID",
    "Arranged",
    "ArrangingNow",
    "Busy",
    "Cancel",
    "Drawn",
    "Dropped",
    "GoOn",
    "Idle",
    "OfRun",
    "OutcomeSaid",
    "Preview",
    "Progress",
    "Quiet",
    "Restart",
    "Settle",
    "Trouble",
    "read_asked",
    "schemas",
]


class OfRun(BaseModel):
    """What is said of an evaluation: its number, and that of the preview it is for."""

    run: int = 0
    preview: int | None = None


class Busy(OfRun):
    """An evaluation has begun."""

    type: Literal["busy"] = "busy"


class Progress(OfRun):
    """How far a clause has got, or something else that is done for the project."""

    type: Literal["progress"] = "progress"
    clause: str
    share: float
    what: str = ""


class Quiet(OfRun):
    """Nothing was heard of a clause for so many seconds; it is ended after so many more."""

    type: Literal["quiet"] = "quiet"
    clause: str
    seconds: float
    more: float


class OutcomeSaid(OfRun):
    """What came of a clause."""

    type: Literal["outcome"] = "outcome"
    outcome: OutcomeMessage


class Drawn(OfRun):
    """All that the view draws has been sent."""

    type: Literal["drawn"] = "drawn"


class Idle(OfRun):
    """Everything is done, in so many seconds, or was cancelled."""

    type: Literal["idle"] = "idle"
    seconds: float
    cancelled: bool = False


class Trouble(OfRun):
    """What went wrong, in a sentence."""

    type: Literal["problem"] = "problem"
    text: str


class ArrangingNow(OfRun):
    """The best arrangement on sheets that was found so far, and the share of the time taken."""

    type: Literal["arranging"] = "arranging"
    clause: str
    sheets: int
    used: float
    share: float


class Arranged(OfRun):
    """The end of a search for an arrangement, in words; empty where there is nothing to say."""

    type: Literal["arranged"] = "arranged"
    clause: str
    text: str


SAID = Annotated[
    StatementMessage
    | OutcomeSaid
    | Busy
    | Progress
    | Quiet
    | Drawn
    | Idle
    | Trouble
    | ArrangingNow
    | Arranged,
    Field(discriminator="type"),
]
"""What the server says to a window."""


class _Asked(BaseModel):
    model_config = ConfigDict(extra="ignore")


class Preview(_Asked):
    """Shows what an edit would do, without making it; what is said of it bears its number."""

    type: Literal["preview"] = "preview"
    # Read where it is applied, so that what is wrong with it is told of the preview.
    edit: SkipValidation[Edit]
    number: int


class Settle(_Asked):
    """Back to what the statement says."""

    type: Literal["settle"] = "settle"


class Restart(_Asked):
    """Works a clause, and what stands on it, out anew."""

    type: Literal["restart"] = "restart"
    clause: str


class Cancel(_Asked):
    """Ends the evaluation that runs."""

    type: Literal["cancel"] = "cancel"


class GoOn(_Asked):
    """Lets work of which nothing was heard for long go on."""

    type: Literal["go-on"] = "go-on"


class Dropped(_Asked):
    """The window no longer has what shows some keys."""

    type: Literal["dropped"] = "dropped"
    keys: list[str]


Asked = Preview | Settle | Restart | Cancel | GoOn | Dropped
ASKED: TypeAdapter[Asked] = TypeAdapter(Annotated[Asked, Field(discriminator="type")])
"""What a window asks of the server."""


def read_asked(plain: Any) -> Asked:
    """A message of a window; raises ``ValueError`` with a sentence."""
    try:
        return ASKED.validate_python(plain)
    except ValidationError as error:
        first = error.errors()[0]
        if first["type"] == "union_tag_invalid":
            raise ValueError(f"There is no message of type “{first['ctx']['tag']}”.") from None
        where = ".".join(str(part) for part in first["loc"][1:])
        reason = f"{where}: {first['msg']}" if where else first["msg"]
        raise ValueError(f"{reason}.") from None


def schemas() -> dict[str, Any]:
    """What either side says as JSON schemas by name, ``Said`` and ``Asked`` of all of it, for the
    document of the interface."""
    _, told = TypeAdapter.json_schemas(
        [("said", "serialization", TypeAdapter(SAID)), ("asked", "validation", ASKED)],
        ref_template="#/components/schemas/{model}",
    )
    found: dict[str, Any] = dict(told["$defs"])
    adapters: dict[str, TypeAdapter[Any]] = {"Said": TypeAdapter(SAID), "Asked": ASKED}
    for name, adapter in adapters.items():
        whole = adapter.json_schema(
            mode="serialization" if name == "Said" else "validation",
            ref_template="#/components/schemas/{model}",
        )
        whole.pop("$defs", None)
        found[name] = whole
    return found
