"""The store: projects with their whole history, and results worth keeping, in one SQLite file."""

from __future__ import annotations

import json
import time
import uuid
from dataclasses import dataclass
from pathlib import Path

from alembic import command
from alembic.config import Config
from pydantic import ValidationError
from sqlalchemy import Engine, create_engine, delete, event, func, select, update
from sqlalchemy.orm import Session

from ..statement.document import Statement, StatementError, read_statement
from ..statement.edits import EDIT, Edit, EditError, apply, check_kept, words_of
from .models import EditRow, ProjectRow, ResultRow, StatementCopy, now

__all__ = ["Position", "ResultStore", "Stale", "State", "Store", "UnknownProject", "Unreadable"]

COPY_EVERY = 25


class UnknownProject(KeyError):
    """There is no such project."""


class Unreadable(Exception):
    """What a project stands at cannot be read, in a sentence; its history is all there."""


class Stale(Exception):
    """The statement moved on since the edit was drawn up."""


@dataclass(frozen=True)
class Position:
    """A statement, the edit it stands at, and whether one can go back or forward from there."""

    statement: Statement
    head: int
    can_undo: bool
    can_redo: bool


@dataclass(frozen=True)
class State:
    """Where a project once stood: after edit ``head``, made when and in which words, and whether
    that can be read."""

    head: int
    made: str
    words: str
    readable: bool


def _engine(file: Path) -> Engine:
    engine = create_engine(f"sqlite:///{file}", connect_args={"timeout": 30})

    @event.listens_for(engine, "connect")
    def _pragmas(connection, record) -> None:  # type: ignore[no-untyped-def]
        connection.isolation_level = None  # transactions are begun below, where they say so
        for pragma in ("journal_mode=WAL", "synchronous=FULL", "foreign_keys=ON"):
            connection.execute(f"PRAGMA {pragma}")

    @event.listens_for(engine, "begin")
    def _begin(connection) -> None:  # type: ignore[no-untyped-def]
        # A transaction that reads and then writes would otherwise fail when another wrote in
        # between.
        connection.exec_driver_sql("BEGIN IMMEDIATE")

    return engine


def _short(error: Exception) -> str:
    """The first line of what went wrong, as a sentence."""
    text = str(error).splitlines()[0][:300] if str(error) else type(error).__name__
    if isinstance(error, ValidationError):
        text = error.errors()[0]["msg"].removeprefix("Value error, ")
    return text[:1].upper() + text[1:].rstrip(".") + "."


class Store:
    """Projects and their history. Every change is committed before the call returns."""

    def __init__(self, folder: Path) -> None:
        folder.mkdir(parents=True, exist_ok=True)
        self.engine = _engine(folder / "lean-lattice.db")
        config = Config()
        config.set_main_option("script_location", str(Path(__file__).parent / "migrations"))
        with self.engine.begin() as connection:
            config.attributes["connection"] = connection
            command.upgrade(config, "head")

    def projects(self) -> list[ProjectRow]:
        """All projects that are not removed, the last changed first."""
        with Session(self.engine) as session:
            rows = select(ProjectRow).where(ProjectRow.removed.is_(None))
            return list(session.scalars(rows.order_by(ProjectRow.changed.desc(), ProjectRow.name)))

    def project(self, project_id: str) -> ProjectRow:
        with Session(self.engine) as session:
            return self._row(session, project_id)

    def _row(self, session: Session, project_id: str) -> ProjectRow:
        row = session.get(ProjectRow, project_id)
        if row is None:
            raise UnknownProject(project_id)
        return row

    def create(self, statement: Statement, demo: str | None = None) -> str:
        """A new project that starts with ``statement``; its id."""
        project_id = uuid.uuid4().hex[:12]
        with Session(self.engine) as session, session.begin():
            session.add(
                ProjectRow(
                    id=project_id,
                    name=statement.name,
                    created=now(),
                    changed=now(),
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
        with Session(self.engine) as session, session.begin():
            self._row(session, project_id).removed = now() if removed else None

    def set_demo(self, project_id: str, demo: str | None) -> None:
        with Session(self.engine) as session, session.begin():
            self._row(session, project_id).demo = demo

    def set_figures(self, project_id: str, figures: dict[str, object]) -> None:
        """What the project's card shows; not a change of the project."""
        with Session(self.engine) as session, session.begin():
            self._row(session, project_id).figures = json.dumps(figures)

    def set_picture(self, project_id: str, picture: bytes) -> None:
        with Session(self.engine) as session, session.begin():
            self._row(session, project_id).picture = picture

    def picture(self, project_id: str) -> bytes | None:
        with Session(self.engine) as session:
            return self._row(session, project_id).picture

    def position(self, project_id: str) -> Position:
        """Where the project stands, rebuilt from the last whole copy and the edits since."""
        with Session(self.engine) as session:
            row = self._row(session, project_id)
            return self._position(session, project_id, row.head)

    def _position(self, session: Session, project_id: str, head: int) -> Position:
        chain: list[EditRow] = []
        at = head
        while (copy := session.get(StatementCopy, (project_id, at))) is None:
            edit = session.get(EditRow, at)
            if edit is None or edit.project != project_id:
                raise UnknownProject(f"{project_id}: history broken at edit {at}")
            chain.append(edit)
            at = edit.parent
        try:
            statement = read_statement(copy.statement)
            for edit in reversed(chain):
                statement, _ = apply(statement, EDIT.validate_json(edit.edit))
        except (StatementError, EditError, ValueError) as error:
            raise Unreadable(
                f"The project stands at something that cannot be read: {_short(error)} Its history "
                "is all there; go back to where it can be."
            ) from None
        return Position(
            statement, head, head != 0, self._next(session, project_id, head) is not None
        )

    def states(self, project_id: str, most: int = 100) -> list[State]:
        """Where a project stood, the last first, as far back as ``most`` edits."""
        with Session(self.engine) as session:
            at = self._row(session, project_id).head
            chain: list[EditRow] = []
            while at and len(chain) < most and (edit := session.get(EditRow, at)) is not None:
                chain.append(edit)
                at = edit.parent
            statement = self._read_or_none(session, project_id, at)
            first = self._row(session, project_id).created
            out = [State(at, first, "as it began", statement is not None)] if at == 0 else []
            for edit in reversed(chain):
                words = "a change that cannot be read"
                try:
                    change = EDIT.validate_json(edit.edit)
                    words = words_of(change)
                    statement = None if statement is None else apply(statement, change)[0]
                except (EditError, ValueError):
                    statement = None
                if statement is None:
                    statement = self._read_or_none(session, project_id, edit.id)
                out.append(State(edit.id, edit.created, words, statement is not None))
            return out[::-1]

    def _read_or_none(self, session: Session, project_id: str, head: int) -> Statement | None:
        try:
            return self._position(session, project_id, head).statement
        except Unreadable:
            return None

    def go_to(self, project_id: str, head: int) -> Position:
        """Back to where a project stood after an earlier edit; raises ``EditError`` where it never
        did."""
        with Session(self.engine) as session, session.begin():
            row = self._row(session, project_id)
            at = row.head
            while at != head:
                edit = session.get(EditRow, at) if at else None
                if edit is None:
                    raise EditError(f"The project never stood at {head}; it may have moved on.")
                at = edit.parent
            position = self._position(session, project_id, head)
            row.head, row.changed, row.name = head, now(), position.statement.name
            return position

    def _next(self, session: Session, project_id: str, head: int) -> EditRow | None:
        rows = select(EditRow).where(EditRow.project == project_id, EditRow.parent == head)
        return session.scalars(rows.order_by(EditRow.id.desc()).limit(1)).first()

    def edit(self, project_id: str, edit: Edit, base: int | None = None) -> Position:
        """Applies an edit; raises ``EditError`` when it does not fit, ``Stale`` when the project no
        longer stands at ``base``."""
        with Session(self.engine) as session, session.begin():
            row = self._row(session, project_id)
            if base is not None and base != row.head:
                raise Stale(row.head)
            before = self._position(session, project_id, row.head)
            after, inverse = apply(before.statement, edit)
            check_kept(after, edit, inverse)
            new = EditRow(
                project=project_id,
                parent=row.head,
                edit=EDIT.dump_json(edit).decode(),
                inverse=EDIT.dump_json(inverse).decode(),
                created=now(),
            )
            session.add(new)
            session.flush()
            if self._since_copy(session, project_id, row.head) >= COPY_EVERY:
                session.add(StatementCopy(project=project_id, after=new.id, statement=after.text()))
            row.head, row.changed, row.name = new.id, now(), after.name
            return Position(after, new.id, True, False)

    def _since_copy(self, session: Session, project_id: str, head: int) -> int:
        steps, at = 1, head
        while session.get(StatementCopy, (project_id, at)) is None:
            edit = session.get(EditRow, at)
            assert edit is not None
            at, steps = edit.parent, steps + 1
        return steps

    def undo(self, project_id: str) -> Position:
        """Back by one edit; stays where it is at the beginning."""
        return self._step(project_id, back=True)

    def redo(self, project_id: str) -> Position:
        """Forward along the newest edit made from here; stays where it is at the end."""
        return self._step(project_id, back=False)

    def _step(self, project_id: str, back: bool) -> Position:
        with Session(self.engine) as session, session.begin():
            row = self._row(session, project_id)
            edit = (
                session.get(EditRow, row.head)
                if back
                else self._next(session, project_id, row.head)
            )
            if edit is not None:
                row.head = edit.parent if back else edit.id
                row.changed = now()
            position = self._position(session, project_id, row.head)
            row.name = position.statement.name
            return position


class ResultStore:
    """What clauses made, by key, up to ``limit`` bytes; what was not used for longest goes
    first."""

    def __init__(self, engine: Engine, limit: int = 200_000_000) -> None:
        self.engine, self.limit = engine, limit

    def get(self, keys: list[str]) -> dict[str, tuple[str, bytes, bytes]]:
        """Outcome (JSON), geometry and measures of the known ones of ``keys``."""
        with Session(self.engine) as session, session.begin():
            rows = list(session.scalars(select(ResultRow).where(ResultRow.key.in_(keys))))
            found = {r.key: (r.outcome, r.geometry, r.measures) for r in rows}
            session.execute(
                update(ResultRow).where(ResultRow.key.in_(found)).values(used=time.time_ns())
            )
            return found

    def put(self, rows: list[tuple[str, str, bytes, bytes]]) -> None:
        """Keeps key, outcome (JSON), geometry and measures of results; one too large for the limit
        is left out."""
        with Session(self.engine) as session, session.begin():
            for key, outcome, geometry, measures in rows:
                size = len(outcome) + len(geometry) + len(measures)
                if size <= self.limit // 4:
                    used = time.time_ns()
                    session.merge(
                        ResultRow(
                            key=key,
                            outcome=outcome,
                            geometry=geometry,
                            measures=measures,
                            size=size,
                            used=used,
                        )
                    )
            session.flush()
            total = session.scalar(select(func.sum(ResultRow.size))) or 0
            if total > self.limit:
                for old, bytes_ in session.execute(
                    select(ResultRow.key, ResultRow.size).order_by(ResultRow.used)
                ):
                    session.execute(delete(ResultRow).where(ResultRow.key == old))
                    total -= bytes_
                    if total <= 0.8 * self.limit:
                        break
