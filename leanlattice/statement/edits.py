"""Edits of a statement: small, complete, and each with the edit that takes it back."""

from __future__ import annotations

from typing import Annotated, Any, Literal

from pydantic import BaseModel, ConfigDict, Field, TypeAdapter, ValidationError

from ..clauses.registry import CLAUSE_TYPES
from ..core.shaping import cages
from ..core.shaping.cages import Cage, CageError
from .document import ClauseEntry, Dimension, Statement, StatementError, read_statement

__all__ = [
    "EDIT",
    "KEPT",
    "Edit",
    "EditError",
    "SingleEdit",
    "Upgrade",
    "apply",
    "apply_kept",
    "check_kept",
    "read_edit",
]


class EditError(ValueError):
    """An edit that does not fit the statement, in a sentence."""


class _Op(BaseModel):
    model_config = ConfigDict(extra="forbid")


class SetValue(_Op):
    """Gives a value of a clause; ``null`` returns it to its default."""

    op: Literal["set"] = "set"
    clause: str
    name: str
    value: Any


Coordinate = Annotated[float, Field(ge=-1e6, le=1e6, allow_inf_nan=False)]
Corner = tuple[Coordinate, Coordinate, Coordinate]


class AddClause(_Op):
    """Puts a clause in before position ``at`` (from 0); ``beside`` a box from its least to its
    greatest corner (m) of what is there, by which values begin that it says nothing of."""

    op: Literal["add"] = "add"
    at: Annotated[int, Field(ge=0)]
    clause: ClauseEntry
    beside: tuple[Corner, Corner] | None = None


class RemoveClause(_Op):
    op: Literal["remove"] = "remove"
    clause: str


class MoveClause(_Op):
    """Moves a clause to position ``to`` (from 0)."""

    op: Literal["move"] = "move"
    clause: str
    to: Annotated[int, Field(ge=0)]


class SwitchClause(_Op):
    op: Literal["switch"] = "switch"
    clause: str
    off: bool


class BundleClause(_Op):
    """Puts a clause to those of a name, or with an empty one takes it from these."""

    op: Literal["bundle"] = "bundle"
    clause: str
    bundle: str


class WorkOn(_Op):
    """Names the earlier clause an input comes from; ``null`` means the nearest fitting one."""

    op: Literal["on"] = "on"
    clause: str
    input: str
    source: str | list[str] | None


class SetDimension(_Op):
    """Adds a dimension, or changes the one of that name in place; ``at`` is where a new one
    goes."""

    op: Literal["dimension"] = "dimension"
    dimension: Dimension
    at: int | None = None


class RemoveDimension(_Op):
    op: Literal["undimension"] = "undimension"
    name: str


class ReshapeCage(_Op):
    """Changes the faces of a cage: split an edge or a face, draw edges out, bridge two edges,
    delete faces, weld points, crease edges or let them go, mark corners or let them go, put in a
    face of its own."""

    op: Literal["cage"] = "cage"
    clause: str
    name: str = "cage"
    do: Literal[
        "split", "split face", "draw out", "bridge", "delete", "weld", "crease", "corner", "face"
    ]
    edges: Annotated[list[tuple[int, int]], Field(max_length=500)] = []
    faces: Annotated[list[int], Field(max_length=2000)] = []
    points: Annotated[list[int], Field(max_length=2000)] = []
    by: tuple[float, float, float] = (0.0, 0.0, 0.0)
    """How far edges are drawn out, or the middle of a face that is put in, in metres."""
    share: Annotated[float, Field(ge=0.02, le=0.98)] = 0.5


class PlaceParts(_Op):
    """Places parts on sheets: each by label, place of its sheet, shift (mm), turn (°) and whether
    it is pinned. All others stay where they are."""

    op: Literal["place"] = "place"
    clause: str
    name: str = "arrangement"
    lies: Annotated[
        list[tuple[str, int, float, float, float, bool]], Field(min_length=1, max_length=6000)
    ]


class Rename(_Op):
    op: Literal["rename"] = "rename"
    name: str


OfClause = SetValue | SwitchClause | BundleClause | WorkOn | ReshapeCage | PlaceParts
"""What changes one clause where it stands."""
SingleEdit = Annotated[
    OfClause | AddClause | RemoveClause | MoveClause | SetDimension | RemoveDimension | Rename,
    Field(discriminator="op"),
]


class Together(_Op):
    """Several edits, one after the other, as a single one: all are made or none."""

    op: Literal["together"] = "together"
    edits: Annotated[list[SingleEdit], Field(min_length=1, max_length=500)]


class Upgrade(_Op):
    """Puts a whole statement in the place of another: that of another version of the format. The
    store alone makes it."""

    op: Literal["upgrade"] = "upgrade"
    statement: Statement


Edit = Annotated[SingleEdit | Together, Field(discriminator="op")]


EDIT: TypeAdapter[Edit] = TypeAdapter(Edit)
KEPT: TypeAdapter[Edit | Upgrade] = TypeAdapter(
    Annotated[Edit | Upgrade, Field(discriminator="op")]
)
"""What a history is made of."""


def read_edit(plain: Any) -> Edit:
    """An edit from what a message holds; raises ``EditError`` with a sentence."""
    try:
        return EDIT.validate_python(plain)
    except ValidationError as error:
        first = error.errors()[0]
        where = " → ".join(str(x) for x in first["loc"])
        reason = first["msg"].removeprefix("Value error, ")
        raise EditError(f"That is no edit: {where + ': ' if where else ''}{reason}.") from None


def apply_kept(statement: Statement, edit: Edit | Upgrade) -> tuple[Statement, Edit | Upgrade]:
    """What ``apply`` gives of an edit in a history."""
    if isinstance(edit, Upgrade):
        return edit.statement, Upgrade(statement=statement)
    return apply(statement, edit)


def apply(statement: Statement, edit: Edit) -> tuple[Statement, Edit]:
    """The edited statement and the edit that takes it back; raises ``EditError`` with a
    sentence."""
    plain = Statement.model_validate(statement.model_dump())
    inverse = _apply(plain, edit)
    try:
        return Statement.model_validate(plain.model_dump()), inverse
    except ValidationError as error:
        reason = error.errors()[0]["msg"].removeprefix("Value error, ")
        raise EditError(f"That change cannot be made: {reason}.") from None


def check_kept(statement: Statement, edit: Edit, inverse: Edit) -> None:
    """Raises ``EditError`` where what an edit leads to, or one of both edits, is not the same after
    it was written and read again."""
    try:
        again = read_statement(statement.text())
        both = [EDIT.validate_json(EDIT.dump_json(e)) for e in (edit, inverse)]
    except (StatementError, ValueError, RecursionError) as error:
        raise EditError(f"That change could not be read back, and is not made. {error}") from None
    if again != statement or both != [edit, inverse]:
        raise EditError(
            "That change would not be the same after it was read back, and is not made."
        )


def _place(statement: Statement, clause_id: str) -> int:
    for i, clause in enumerate(statement.clauses):
        if clause.id == clause_id:
            return i
    raise EditError(f"There is no clause “{clause_id}” any more.")


def _reshaped(edit: ReshapeCage, clause: ClauseEntry) -> Any:
    spec = CLAUSE_TYPES[clause.kind].specs().get(edit.name) if clause.kind in CLAUSE_TYPES else None
    if spec is None or spec.kind != "cage":
        raise EditError(f"Clause “{edit.clause}” has no cage.")
    try:
        return reshaped(clause.values.get(edit.name, spec.default), edit)
    except CageError as error:
        raise EditError(str(error)) from None
    except (TypeError, ValueError, IndexError, OverflowError):
        raise EditError(
            "A cage with formulas in it cannot be changed face by face; give its points as numbers."
        ) from None


def _placed(edit: PlaceParts, clause: ClauseEntry) -> Edit:
    """Places parts in a clause's arrangement; the edit that takes it back."""
    before = clause.values.get(edit.name)
    lies = [] if before is None else before
    if not isinstance(lies, list) or not all(isinstance(lie, list) and lie for lie in lies):
        raise EditError(f"“{edit.name}” of “{edit.clause}” is no arrangement of parts.")
    new = {lie[0]: list(lie) for lie in edit.lies}
    kept = {str(lie[0]): lie for lie in lies}
    added = [lie for label, lie in new.items() if label not in kept]
    clause.values[edit.name] = [new.get(str(lie[0]), lie) for lie in lies] + added
    whole = SetValue(clause=edit.clause, name=edit.name, value=before)
    if added or len(kept) < len(lies):
        return whole
    former = [tuple(kept[label]) for label in new]
    try:
        return PlaceParts(clause=edit.clause, name=edit.name, lies=former)
    except ValidationError:
        return whole


def reshaped(value: Any, change: ReshapeCage) -> Any:
    """A cage in plain lists with the change made; raises ``CageError``."""
    cage = Cage.of(value)
    match change.do:
        case "split":
            for edge in change.edges[:1]:
                cage = cages.split_edge(cage, edge, change.share)
        case "split face":
            for face in change.faces[:1]:
                cage = cages.split_face(cage, face)
        case "draw out":
            cage = cages.extrude_edges(cage, change.edges, change.by)
        case "bridge":
            if len(change.edges) != 2:
                raise CageError("Choose two edges to put a face between.")
            cage = cages.bridge(cage, *change.edges)
        case "delete":
            cage = cages.delete_faces(cage, change.faces)
        case "weld":
            cage = cages.weld_vertices(cage, change.points)
        case "crease":
            cage = cages.toggle_creases(cage, change.edges)
        case "corner":
            cage = cages.toggle_corners(cage, change.points)
        case "face":
            cage = cages.add_quad(cage, change.by, change.share * 8.0)
    return cage.plain()


def _apply(statement: Statement, edit: Edit) -> Edit:
    """Makes an edit; the one that takes it back."""
    clauses, dimensions = statement.clauses, statement.dimensions
    match edit:
        case AddClause():
            clauses.insert(min(edit.at, len(clauses)), edit.clause)
            return RemoveClause(clause=edit.clause.id)
        case RemoveClause():
            at = _place(statement, edit.clause)
            return AddClause(at=at, clause=clauses.pop(at))
        case MoveClause():
            at = _place(statement, edit.clause)
            clauses.insert(min(edit.to, len(clauses) - 1), clauses.pop(at))
            return MoveClause(clause=edit.clause, to=at)
        case Together():
            inverses = [_apply(statement, single) for single in edit.edits]
            return Together(edits=inverses[::-1])
        case SetDimension():
            return _set_dimension(dimensions, edit)
        case RemoveDimension():
            return _remove_dimension(dimensions, edit)
        case Rename():
            name, statement.name = statement.name, edit.name
            return Rename(name=name)
        case _:
            return _changed(clauses[_place(statement, edit.clause)], edit)


def _changed(clause: ClauseEntry, edit: OfClause) -> Edit:
    """Changes one clause; the edit that takes that back."""
    match edit:
        case SetValue():
            before = clause.values.get(edit.name)
            if edit.value is None:
                clause.values.pop(edit.name, None)
            else:
                clause.values[edit.name] = edit.value
            return SetValue(clause=edit.clause, name=edit.name, value=before)
        case ReshapeCage():
            before = clause.values.get(edit.name)
            clause.values[edit.name] = _reshaped(edit, clause)
            return SetValue(clause=edit.clause, name=edit.name, value=before)
        case PlaceParts():
            return _placed(edit, clause)
        case SwitchClause():
            before_off, clause.off = clause.off, edit.off
            return SwitchClause(clause=edit.clause, off=before_off)
        case BundleClause():
            former, clause.bundle = clause.bundle, edit.bundle
            return BundleClause(clause=edit.clause, bundle=former)
        case WorkOn():
            source = clause.on.pop(edit.input, None)
            if edit.source is not None:
                clause.on[edit.input] = edit.source
            return WorkOn(clause=edit.clause, input=edit.input, source=source)


def _set_dimension(dimensions: list[Dimension], edit: SetDimension) -> Edit:
    for i, known in enumerate(dimensions):
        if known.name == edit.dimension.name:
            dimensions[i] = edit.dimension
            return SetDimension(dimension=known)
    dimensions.insert(len(dimensions) if edit.at is None else edit.at, edit.dimension)
    return RemoveDimension(name=edit.dimension.name)


def _remove_dimension(dimensions: list[Dimension], edit: RemoveDimension) -> Edit:
    for i, known in enumerate(dimensions):
        if known.name == edit.name:
            return SetDimension(dimension=dimensions.pop(i), at=i)
    raise EditError(f"There is no dimension “{edit.name}”.")
