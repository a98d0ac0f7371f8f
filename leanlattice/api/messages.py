"""What the server says: models of its answers and of the messages on the live channel."""

from __future__ import annotations

from typing import Any, Literal

from pydantic import BaseModel, Field

from ..clauses.base import Choice, Clause, Notice, Remedy, Segment, Take, ValueSpec
from ..clauses.guide import GUIDE
from ..clauses.registry import CLAUSE_TYPES, group_of
from ..clauses.said import said
from ..clauses.sought import SOUGHT_BY
from ..clauses.sources import SOURCES
from ..core.results import RESULT_TYPES
from ..core.sections import Section, catalogue
from ..statement.document import Statement
from ..statement.edits import Edit, SetValue
from ..statement.evaluate import Outcome
from ..statement.formulas import FormulaError, resolve_dimensions
from ..store.named import LONGEST
from ..store.store import Position

__all__ = [
    "Choice",
    "ClauseKind",
    "DimensionValue",
    "EditRequest",
    "FigureMessage",
    "NotMadeMessage",
    "NoticeMessage",
    "OutcomeMessage",
    "PackFile",
    "PackMessage",
    "PackRequest",
    "Problem",
    "ProjectCard",
    "SectionMessage",
    "SectionsMessage",
    "SettingMessage",
    "SettingRequest",
    "StateMessage",
    "StatementMessage",
    "TableColumn",
    "TableMessage",
    "clause_kind",
    "lengths_of",
    "outcome_message",
    "section_message",
    "statement_message",
]


class LengthMessage(BaseModel):
    """A length in a sentence, or several that go together: their ``values`` in a ``unit``; the
    ``words`` for them, which stand ``at`` a place, and the ``form`` of these with braces in the
    place of each."""

    at: int
    words: str
    values: list[float]
    unit: Literal["m", "mm"]
    form: str


class Problem(BaseModel):
    """A problem body after RFC 9457, with the lengths in its detail."""

    type: str = "about:blank"
    title: str
    status: int
    detail: str
    lengths: list[LengthMessage]


class ClauseKind(BaseModel):
    """All the interface needs to know of a clause type; ``group`` is its place in the guide."""

    kind: str
    chapter: str
    group: str
    title: str
    summary: str
    explained: str
    sought_by: str
    """More words that somebody may look for it by."""
    sources: list[str]
    """What its methods are after."""
    begins: dict[str, Any]
    """Values that one which is chosen from the guide begins with."""
    sketches: dict[str, list[str]]
    """Drawings in which values are shown that go together, and which of them."""
    has_picture: bool
    segments: list[Segment]
    values: list[ValueSpec]
    takes: list[Take]
    gives: str
    serves: bool
    """Whether what it gives is only there for other clauses."""
    goes_on: str
    """The value, if any, that says how far the work is taken."""


def clause_kind(kind: type[Clause]) -> ClauseKind:
    return ClauseKind(
        kind=kind.kind,
        chapter=kind.chapter,
        group=group_of(kind),
        title=kind.title,
        summary=kind.summary,
        explained=GUIDE[kind.kind].explained,
        sought_by=SOUGHT_BY.get(kind.kind, ""),
        sources=list(SOURCES.get(kind.kind, ())),
        begins=dict(kind.begins),
        sketches={name: list(values) for name, values in kind.sketches.items()},
        has_picture=bool(GUIDE[kind.kind].sample),
        segments=kind.segments(),
        values=list(kind.specs().values()),
        takes=list(kind.takes),
        gives=kind.gives,
        serves=RESULT_TYPES[kind.gives].serves,
        goes_on=kind.goes_on,
    )


class SectionMessage(BaseModel):
    """A section in the units of tables: mm, cm², cm⁴, kg/m; ``listed`` tells whether it is commonly
    made."""

    name: str
    family: str
    height_mm: float
    width_mm: float
    wall_mm: float
    area_cm2: float
    inertia_y_cm4: float
    inertia_z_cm4: float
    mass_kg_m: float
    material: str
    listed: bool


class SectionsMessage(BaseModel):
    """Sections that are meant by what was typed, the likeliest first, and how many there are."""

    count: int
    sections: list[SectionMessage]


def section_message(section: Section) -> SectionMessage:
    shape, worth = section.shape, section.shape.properties
    return SectionMessage(
        name=section.name,
        family=shape.family,
        height_mm=round(shape.height * 1e3, 2),
        width_mm=round(shape.width * 1e3, 2),
        wall_mm=round(shape.wall * 1e3, 2),
        area_cm2=round(worth.area * 1e4, 2),
        inertia_y_cm4=round(worth.inertia_y * 1e8, 2),
        inertia_z_cm4=round(worth.inertia_z * 1e8, 2),
        mass_kg_m=round(section.mass, 3),
        material=section.grade,
        listed=section.name in catalogue(),
    )


class FigureMessage(BaseModel):
    name: str
    label: str
    value: float | int | str
    unit: str
    decimals: int
    headline: bool
    at: tuple[float, float, float] | None = None


class RemedyMessage(BaseModel):
    """An edit that would help: a clause of ``kind`` with ``values`` before the one that warns or
    ``below`` it, the clause that is ``moved`` before it, what it is to work ``on`` by input, or
    ``values`` for ``clause``."""

    title: str
    lengths: list[LengthMessage]
    kind: str
    below: bool
    moved: str
    clause: str
    values: dict[str, Any]
    on: dict[str, str]


class NoticeMessage(BaseModel):
    """A warning; ``which`` of the things ``of`` a kind it is about are those of a ``clause``."""

    text: str
    lengths: list[LengthMessage]
    of: str
    which: list[int]
    clause: str
    code: str
    """Of one that has remedies: what is wrong, whatever the words."""
    at: tuple[float, float, float] | None
    value: str | None
    remedies: list[RemedyMessage]
    amendable: bool
    """Whether it is told no more once a later clause amends the result."""


class OutcomeMessage(BaseModel):
    """What became of a clause; ``key`` names the geometry that shows it."""

    id: str
    kind: str
    gives: str
    """The type of its result."""
    status: Literal["done", "begun", "failed", "waiting", "off"]
    key: str
    sentence: str
    figures: list[FigureMessage]
    warnings: list[NoticeMessage]
    error: str
    error_lengths: list[LengthMessage]
    error_code: str
    error_value: str | None
    error_at: tuple[float, float, float] | None
    remedies: list[RemedyMessage]
    seconds: float
    inputs: dict[str, list[str]]
    resolved: dict[str, float]
    again: bool
    complete: bool
    stands_for: list[str]
    """Clauses whose results are not drawn beside this one's."""
    keeps_numbers: bool
    """Whether things of those of its own type have the same numbers in its result."""


def lengths_of(text: str) -> list[LengthMessage]:
    """What a sentence knows of its lengths."""
    return [LengthMessage(**length._asdict()) for length in said(text).lengths]


def _remedies(o: Outcome, remedies: tuple[Remedy, ...]) -> list[RemedyMessage]:
    return [
        RemedyMessage(
            title=r.title,
            lengths=lengths_of(r.title),
            kind=r.kind,
            below=r.below,
            moved=r.moved,
            clause=o.source(r.of, r.place) or o.id,
            values=dict(r.values),
            on=dict(r.on),
        )
        for r in remedies
    ]


def notice_message(o: Outcome, notice: Notice) -> NoticeMessage:
    """A notice of an outcome."""
    return NoticeMessage(
        text=notice.text,
        lengths=lengths_of(notice.text),
        of=notice.of,
        which=list(notice.which),
        clause=o.source(notice.input, notice.place) or o.id,
        code=notice.code,
        at=notice.at,
        value=notice.value,
        remedies=_remedies(o, notice.remedies),
        amendable=notice.amendable,
    )


def outcome_message(o: Outcome) -> OutcomeMessage:
    return OutcomeMessage(
        id=o.id,
        kind=o.kind,
        gives=o.gives,
        status=o.status,
        key=o.key,
        sentence=o.sentence,
        figures=[FigureMessage(name=name, **vars(figure)) for name, figure in o.figures.items()],
        warnings=[notice_message(o, w) for w in o.warnings],
        error=o.error,
        error_lengths=lengths_of(o.error),
        error_code=o.error_code,
        error_value=o.error_value,
        error_at=o.error_at,
        remedies=_remedies(o, o.remedies),
        seconds=o.seconds,
        inputs={name: list(ids) for name, ids in o.inputs.items()},
        resolved=dict(o.resolved),
        again=o.again,
        complete=o.complete,
        stands_for=list(o.stands_for),
        keeps_numbers=o.kind in CLAUSE_TYPES and CLAUSE_TYPES[o.kind].keeps_numbers,
    )


class DimensionValue(BaseModel):
    name: str
    value: float | None
    error: str


class StateMessage(BaseModel):
    """Where a project stood: after edit ``head``, ``made`` when and in which words, and whether
    that can be read."""

    head: int
    made: str
    words: str
    readable: bool
    name: str
    """What people called it; empty where they did not."""
    has_picture: bool


class NameRequest(BaseModel):
    """What a state is to be called; empty for no name any more."""

    name: str = Field(max_length=LONGEST)


class StatementMessage(BaseModel):
    """A statement, where it stands in its history, and what its dimensions come to."""

    type: Literal["statement"] = "statement"
    project: str
    statement: Statement
    head: int
    can_undo: bool
    can_redo: bool
    undoes: str
    redoes: str
    """What undo takes back and redo does again, in words; empty where there is nothing."""
    dimensions: list[DimensionValue]


def statement_message(project: str, position: Position) -> StatementMessage:
    values = resolve_dimensions(position.statement.dimensions)
    dimensions = []
    for d in position.statement.dimensions:
        found = values[d.name]
        wrong = isinstance(found, FormulaError)
        number = None if isinstance(found, FormulaError) else found.value
        dimensions.append(
            DimensionValue(name=d.name, value=number, error=str(found) if wrong else "")
        )
    return StatementMessage(
        project=project,
        statement=position.statement,
        head=position.head,
        can_undo=position.can_undo,
        can_redo=position.can_redo,
        undoes=position.undoes,
        redoes=position.redoes,
        dimensions=dimensions,
    )


class EditRequest(BaseModel):
    """An edit, and the head it was drawn up against."""

    edit: Edit
    base: int


class SettingRequest(BaseModel):
    """Values to try out without making an edit of them; ``number`` spreads the work over the
    workers."""

    values: list[SetValue] = Field(min_length=1, max_length=4)
    number: int = Field(0, ge=0, le=10_000)


class SettingMessage(BaseModel):
    """What a setting comes to: a picture as PNG in base 64, and figures: first those of what it
    shows."""

    figures: list[FigureMessage]
    picture: str


class CardFigure(BaseModel):
    value: float | int | str
    unit: str
    decimals: int


class ProjectCard(BaseModel):
    """A project among others; ``builds`` are words for the kind of structure it is, and ``figures``
    go by the words for them."""

    id: str
    name: str
    created: str
    changed: str
    demo: bool
    builds: list[str]
    figures: dict[str, CardFigure]
    has_picture: bool


class TableColumn(BaseModel):
    name: str
    values: list[float | int | str]


class TableMessage(BaseModel):
    """A schedule of one result. ``index`` says which ``of`` of clause ``clause`` each row
    is about."""

    of: str
    clause: str
    columns: list[TableColumn]
    index: list[int]


class NotMadeMessage(BaseModel):
    """Something designed that cannot be made as it is, and why."""

    what: str
    label: str
    why: str
    lengths: list[LengthMessage]


class PackRequest(BaseModel):
    """Which groups of files to write; all but single parts when left out."""

    files: list[str] | None = Field(None, max_length=50)


class PackFile(BaseModel):
    name: str
    size: int


class PackMessage(BaseModel):
    """A written pack: its files and what guards it."""

    id: str
    files: list[PackFile]
    checks: list[dict[str, Any]]
    not_made: list[NotMadeMessage]
    held_back: bool
    """Whether only the statement, its report and the checks were written, as the ribs do not go
    together."""
