"""The store: projects with their whole history, in one SQLite file."""

from __future__ import annotations

import json
import threading
import uuid
from collections import OrderedDict
from collections.abc import Mapping
from dataclasses import dataclass, replace
from pathlib import Path
from typing import Any

from pydantic import ValidationError
from sqlalchemy import select
from sqlalchemy.orm import Session

from ..statement.document import Statement, StatementError, read_statement
from ..statement.edits import (
    KEPT,
    AddClause,
    Edit,
    EditError,
    Upgrade,
    apply,
    apply_kept,
    check_kept,
)
from ..statement.fitting import fitted
from ..statement.upgrade import upgraded
from ..statement.words import words_of
from .copies import NAME, copies
from .database import (
    CORRUPT,
    StorageError,
    in_words,
    opened,
    reading,
    sound,
    tables,
    version,
    writing,
)
from .margin import copy_margin, margin, note
from .models import EditRow, NamedState, ProjectRow, StatementCopy, now
from .named import Named, name_state, named_states

__all__ = ["Position", "Stale", "State", "Store", "UnknownProject", "Unreadable"]

COPY_EVERY = 25
MIGRATIONS = Path(__file__).parent / "migrations"
MARK = "has-projects"
"""A file that says that there is a database, so that one that has gone is not begun anew."""
LOST = (
    "{file} has gone or is empty, though there were projects. Nothing was written. Run “lean-lattice "
    "doctor --restore latest” to put the latest of {copies} copies in its place, or give another "
    "folder by --data to begin anew."
)
CHECKED = 64_000_000
"""Bytes up to which a database is looked through when it is opened; larger ones by the doctor, and
whenever a copy is made."""
KNOWN = 256
"""Statements that are kept in memory."""


def _latest() -> str:
    """The newest revision there is, by the names of the files."""
    return max(file.stem for file in (MIGRATIONS / "versions").glob("*.py")).partition("_")[0]


class UnknownProject(KeyError):
    """There is no such project."""


class Unreadable(Exception):
    """What a project stands at cannot be read, in a sentence; its history is all there."""


class Stale(Exception):
    """The statement moved on since the edit was drawn up."""


@dataclass(frozen=True)
class Position:
    """A statement as one of the present version, the edit it stands at, and whether one can go back
    or forward from there."""

    statement: Statement
    head: int
    can_undo: bool
    can_redo: bool
    undoes: str = ""
    redoes: str = ""
    """What going back takes back and going forward does again, in words; empty where one cannot."""


@dataclass(frozen=True)
class State:
    """Where a project once stood: after edit ``head``, made when and in which words, whether that
    can be read, and what people named it."""

    head: int
    made: str
    words: str
    readable: bool
    named: Named | None = None


def _short(error: Exception) -> str:
    """The first line of what went wrong, as a sentence."""
    text = str(error).splitlines()[0][:300] if str(error) else type(error).__name__
    if isinstance(error, ValidationError):
        text = error.errors()[0]["msg"].removeprefix("Value error, ")
    return text[:1].upper() + text[1:].rstrip(".") + "."


@dataclass(frozen=True, eq=False)
class _Known:
    """A statement somewhere in a history, of the version it had then, and how many edits it is from
    the last whole copy."""

    statement: Statement
    since_copy: int


def _is_upgrade(edit: EditRow) -> bool:
    return edit.edit.startswith('{"op":"upgrade"')


def _words(edit: EditRow, statement: Statement | None) -> str:
    """An edit in words, its clauses as a ``statement`` before or after it has them."""
    clauses = list(statement.clauses) if statement is not None else []
    try:
        change, inverse = (KEPT.validate_json(text) for text in (edit.edit, edit.inverse))
    except ValueError:
        return "a change that cannot be read"
    if isinstance(inverse, AddClause):
        clauses.append(inverse.clause)
    return words_of(change, clauses)


class Store:
    """Projects and their history. Every change is committed before the call returns.

    Going back and forward is a step of a pointer: what was seen lately is in memory, and what was
    not is one inverse edit away from what was. All methods raise ``StorageError`` where the disk
    does not do what it should.
    """

    def __init__(self, folder: Path) -> None:
        self._known: OrderedDict[tuple[str, int], _Known] = OrderedDict()
        self._lock = threading.Lock()
        try:
            folder.mkdir(parents=True, exist_ok=True)
        except OSError as error:
            raise in_words(error, folder) or error from None
        file, mark = folder / NAME, folder / MARK
        size = file.stat().st_size if file.exists() else 0
        if not size and (mark.exists() or copies(folder)):
            raise StorageError(LOST.format(file=file, copies=len(copies(folder))))
        if 0 < size <= CHECKED and (wrong := sound(file)):
            raise StorageError(f"{CORRUPT.format(folder=folder)} SQLite says: {wrong[:200]}.")
        there = tables(file) if size else set()
        if there and ProjectRow.__tablename__ not in there:
            raise StorageError(f"{file} is no database of Lean Lattice; give another folder.")
        self.engine = opened(file)
        if not there or version(file) != _latest():
            self._migrate()
        mark.touch()

    def _migrate(self) -> None:
        # This takes as long to import as all else that is needed here.
        from alembic import command
        from alembic.config import Config

        config = Config()
        config.set_main_option("script_location", str(MIGRATIONS))
        with writing(self.engine) as session:
            config.attributes["connection"] = session.connection()
            command.upgrade(config, "head")

    def close(self) -> None:
        self.engine.dispose()

    def projects(self) -> list[ProjectRow]:
        """All projects that are not removed, the last changed first."""
        with reading(self.engine) as session:
            rows = select(ProjectRow).where(ProjectRow.removed.is_(None))
            return list(session.scalars(rows.order_by(ProjectRow.changed.desc(), ProjectRow.name)))

    def project(self, project_id: str) -> ProjectRow:
        with reading(self.engine) as session:
            return self._row(session, project_id)

    def _row(self, session: Session, project_id: str) -> ProjectRow:
        row = session.get(ProjectRow, project_id)
        if row is None:
            raise UnknownProject(project_id)
        return row

    def create(self, statement: Statement, demo: str | None = None) -> str:
        """A new project that starts with ``statement``; its id."""
        project_id, at = uuid.uuid4().hex[:12], now()
        with writing(self.engine) as session:
            session.add(
                ProjectRow(
                    id=project_id,
                    name=statement.name,
                    created=at,
                    changed=at,
                    demo=demo,
                    head=0,
                    figures="{}",
                )
            )
            session.flush()
            session.add(StatementCopy(project=project_id, after=0, statement=statement.text()))
        return project_id

    def set_removed(self, project_id: str, removed: bool) -> None:
        """Takes a project out of sight, or brings it back; nothing is deleted."""
        with writing(self.engine) as session:
            self._row(session, project_id).removed = now() if removed else None

    def set_demo(self, project_id: str, demo: str | None) -> None:
        with writing(self.engine) as session:
            self._row(session, project_id).demo = demo

    def set_figures(self, project_id: str, figures: dict[str, object]) -> None:
        """What the project's card shows; not a change of the project."""
        with writing(self.engine) as session:
            self._row(session, project_id).figures = json.dumps(figures)

    def set_picture(self, project_id: str, picture: bytes) -> None:
        with writing(self.engine) as session:
            self._row(session, project_id).picture = picture

    def picture(self, project_id: str) -> bytes | None:
        with reading(self.engine) as session:
            return self._row(session, project_id).picture

    def kept(self, project_id: str) -> Statement:
        """The statement a project stands at as it is kept, of whatever version it is."""
        with reading(self.engine) as session:
            return self._at(session, project_id, self._row(session, project_id).head).statement

    def position(self, project_id: str) -> Position:
        """Where the project stands, rebuilt from the last whole copy and the edits since."""
        with reading(self.engine) as session:
            row = self._row(session, project_id)
            return self._position(session, project_id, row.head)

    def _position(self, session: Session, project_id: str, head: int) -> Position:
        statement = upgraded(self._at(session, project_id, head).statement)
        back, ahead = self._last(session, head), self._next(session, project_id, head)
        undoes, redoes = (_words(edit, statement) if edit else "" for edit in (back, ahead))
        return Position(statement, head, back is not None, ahead is not None, undoes, redoes)

    def _last(self, session: Session, head: int) -> EditRow | None:
        """The last edit that does more than to write another version."""
        while head and (edit := session.get(EditRow, head)) is not None:
            if not _is_upgrade(edit):
                return edit
            head = edit.parent
        return None

    def _at(self, session: Session, project_id: str, head: int) -> _Known:
        """The statement after an edit, from memory or from the last whole copy and the edits
        since."""
        known = self._remembered(project_id, head)
        if known is not None:
            return known
        chain: list[EditRow] = []
        at = head
        while (copy := session.get(StatementCopy, (project_id, at))) is None:
            edit = session.get(EditRow, at)
            if edit is None or edit.project != project_id:
                raise Unreadable(
                    f"The history of the project is broken at edit {at}: it is missing. Run "
                    "“lean-lattice doctor”, which says what can be read."
                )
            chain.append(edit)
            at = edit.parent
        try:
            statement = read_statement(copy.statement)
            for edit in reversed(chain):
                statement, _ = apply_kept(statement, KEPT.validate_json(edit.edit))
        except (StatementError, EditError, ValueError) as error:
            raise Unreadable(
                f"The project stands at something that cannot be read: {_short(error)} Its history "
                "is all there; go back to where it can be."
            ) from None
        return self._remember(project_id, head, _Known(statement, len(chain)))

    def _remembered(self, project_id: str, head: int) -> _Known | None:
        with self._lock:
            if (project_id, head) in self._known:
                self._known.move_to_end((project_id, head))
            return self._known.get((project_id, head))

    def _remember(self, project_id: str, head: int, known: _Known) -> _Known:
        with self._lock:
            self._known[project_id, head] = known
            while len(self._known) > KNOWN:
                self._known.popitem(last=False)
        return known

    def _step_from(self, project_id: str, head: int, edit: EditRow, back: bool) -> None:
        """Remembers what an edit, or taking it back, makes of the statement at ``head``, where that
        is in memory and can be had."""
        known = self._remembered(project_id, head)
        there = edit.parent if back else edit.id
        if known is None or self._remembered(project_id, there) is not None:
            return
        try:
            change = KEPT.validate_json(edit.inverse if back else edit.edit)
            statement, _ = apply_kept(known.statement, change)
        except (EditError, ValueError):
            return
        since = known.since_copy + (-1 if back else 1)
        self._remember(project_id, there, _Known(statement, max(since, 0)))

    def states(self, project_id: str, most: int = 100) -> list[State]:
        """Where a project stood, the last first, as far back as ``most`` edits, and behind them
        those with a name that are not among these."""
        with reading(self.engine) as session:
            at = self._row(session, project_id).head
            chain: list[EditRow] = []
            while at and len(chain) < most and (edit := session.get(EditRow, at)) is not None:
                chain.append(edit)
                at = edit.parent
            statement = self._kept_or_none(session, project_id, at)
            first = self._row(session, project_id).created
            out = [State(at, first, "as it began", statement is not None)] if at == 0 else []
            for edit in reversed(chain):
                words = "a change that cannot be read"
                try:
                    change = KEPT.validate_json(edit.edit)
                    words = _words(edit, statement)
                    statement = None if statement is None else apply_kept(statement, change)[0]
                except (EditError, ValueError):
                    statement = None
                if statement is None:
                    statement = self._kept_or_none(session, project_id, edit.id)
                out.append(State(edit.id, edit.created, words, statement is not None))
            named = named_states(session, project_id)
            told = [replace(state, named=named.get(state.head)) for state in out[::-1]]
            others = sorted(set(named) - {state.head for state in told}, reverse=True)
            return told + [self._apart(session, project_id, k, named[k]) for k in others]

    def _apart(self, session: Session, project_id: str, head: int, named: Named) -> State:
        """A named state that lies further back, or on a way that was left."""
        edit = session.get(EditRow, head) if head else None
        made = self._row(session, project_id).created if edit is None else edit.created
        readable = self._kept_or_none(session, project_id, head) is not None
        return State(head, made, "", readable, named)

    def margin(self, project_id: str) -> dict[str, Any]:
        """What people keep in the margin of a project."""
        with reading(self.engine) as session:
            self._row(session, project_id)
            return margin(session, project_id)

    def note(self, project_id: str, notes: Mapping[str, Any]) -> None:
        """Notes something in the margin of a project; raises ``EditError`` where it is too much."""
        with writing(self.engine) as session:
            self._row(session, project_id)
            note(session, project_id, notes)

    def copy_margin(self, source: str, target: str) -> None:
        """Notes in the margin of a project what stands in that of another."""
        with writing(self.engine) as session:
            copy_margin(session, source, target)

    def name_state(self, project_id: str, head: int, name: str) -> None:
        """Names a state; an empty name takes that away."""
        with writing(self.engine) as session:
            self._row(session, project_id)
            name_state(session, project_id, head, name)

    def set_picture_of_state(self, project_id: str, head: int, picture: bytes) -> None:
        """Keeps how a named state looks (PNG); raises ``EditError`` where it has no name."""
        with writing(self.engine) as session:
            row = session.get(NamedState, (project_id, head))
            if row is None:
                raise EditError("Only of what has a name a picture is kept; name it first.")
            row.picture = picture

    def picture_of_state(self, project_id: str, head: int) -> bytes | None:
        """How a named state looked, if that is known."""
        with reading(self.engine) as session:
            row = session.get(NamedState, (project_id, head))
            return None if row is None else row.picture

    def _kept_or_none(self, session: Session, project_id: str, head: int) -> Statement | None:
        try:
            return self._at(session, project_id, head).statement
        except Unreadable:
            return None

    def go_to(self, project_id: str, head: int) -> Position:
        """Back to where a project stood after an earlier edit, or where one named it on a way that
        was left; raises ``EditError`` where it never did."""
        with writing(self.engine) as session:
            row = self._row(session, project_id)
            at = row.head
            is_named = session.get(NamedState, (project_id, head)) is not None
            while at != head and not is_named:
                edit = session.get(EditRow, at) if at else None
                if edit is None:
                    raise EditError(f"The project never stood at {head}; it may have moved on.")
                at = edit.parent
            position = self._position(session, project_id, head)
            row.head, row.changed, row.name = head, now(), position.statement.name
            return position

    def _beside(self, session: Session, row: ProjectRow, back: bool) -> EditRow | None:
        """The edit a project stands at, or the newest made from there."""
        if back:
            return session.get(EditRow, row.head)
        return self._next(session, row.id, row.head)

    def _next(self, session: Session, project_id: str, head: int) -> EditRow | None:
        rows = select(EditRow).where(EditRow.project == project_id, EditRow.parent == head)
        return session.scalars(rows.order_by(EditRow.id.desc()).limit(1)).first()

    def edit(self, project_id: str, edit: Edit, base: int | None = None) -> Position:
        """Applies an edit; raises ``EditError`` when it does not fit, ``Stale`` when the project no
        longer stands at ``base``."""
        with writing(self.engine) as session:
            row = self._row(session, project_id)
            if base is not None and base != row.head:
                raise Stale(row.head)
            before = self._of_present_version(session, row)
            edit = fitted(before.statement, edit)
            after, inverse = apply(before.statement, edit)
            check_kept(after, edit, inverse)
            new_id = self._add_edit(session, row, edit, inverse)
            since = before.since_copy + 1
            if since > COPY_EVERY:
                session.add(StatementCopy(project=project_id, after=new_id, statement=after.text()))
                since = 0
            row.changed, row.name = now(), after.name
        self._remember(project_id, new_id, _Known(after, since))
        told = words_of(edit, [*before.statement.clauses, *after.clauses])
        return Position(after, new_id, True, False, told)

    def _of_present_version(self, session: Session, row: ProjectRow) -> _Known:
        """The statement a project stands at, of the present version of the format; where it is of a
        former one, a step of the history first makes it one."""
        known = self._at(session, row.id, row.head)
        new = upgraded(known.statement)
        if new is known.statement:
            return known
        self._add_edit(session, row, Upgrade(statement=new), Upgrade(statement=known.statement))
        return self._remember(row.id, row.head, _Known(new, known.since_copy + 1))

    def _add_edit(
        self, session: Session, row: ProjectRow, edit: Edit | Upgrade, inverse: Edit | Upgrade
    ) -> int:
        """Puts an edit behind the one a project stands at, which it then stands at; its number."""
        new = EditRow(
            project=row.id,
            parent=row.head,
            edit=KEPT.dump_json(edit).decode(),
            inverse=KEPT.dump_json(inverse).decode(),
            created=now(),
        )
        session.add(new)
        session.flush()
        row.head = new.id
        return new.id

    def undo(self, project_id: str) -> Position:
        """Back by one edit; stays where it is at the beginning."""
        return self._step(project_id, back=True)

    def redo(self, project_id: str) -> Position:
        """Forward along the newest edit made from here; stays where it is at the end."""
        return self._step(project_id, back=False)

    def _step(self, project_id: str, back: bool) -> Position:
        with writing(self.engine) as session:
            row = self._row(session, project_id)
            while (edit := self._beside(session, row, back)) is not None:
                self._step_from(project_id, row.head, edit, back)
                row.head = edit.parent if back else edit.id
                row.changed = now()
                # Another version of the format reads alike: that alone would be no step.
                if not _is_upgrade(edit):
                    break
            position = self._position(session, project_id, row.head)
            row.name = position.statement.name
            return position
