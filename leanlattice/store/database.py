"""SQLite files: how they are opened, read and written, and what goes wrong with them, in words."""

from __future__ import annotations

import errno
import sqlite3
from collections.abc import Iterator
from contextlib import closing, contextmanager
from pathlib import Path

from sqlalchemy import Engine, create_engine, event
from sqlalchemy.exc import DatabaseError
from sqlalchemy.orm import Session

__all__ = [
    "CORRUPT",
    "StorageError",
    "in_words",
    "opened",
    "reading",
    "sound",
    "tables",
    "version",
    "writing",
]

WAIT = 30
"""Seconds for which one waits for another that writes."""
FULL = (
    "The disk is full, so nothing was changed. What was done before is safe. Make room in {folder} "
    "and try again."
)
READ_ONLY = (
    "The projects can be read but not written to, so nothing was changed. What was done before is "
    "safe. Allow writing in {folder} and try again."
)
LOCKED = (
    "Another program holds the projects, so nothing was changed. What was done before is safe. "
    "Close what has {folder} open (a copy or a check of the database, perhaps) and try again."
)
CORRUPT = (
    "The database in {folder} is damaged. Stop the server and run “lean-lattice doctor”: it says "
    "what can be read and puts a copy of it in its place."
)
UNREADABLE = (
    "The disk does not give the projects out, so nothing was changed. See to the disk that {folder} "
    "is on, then start the server again; “lean-lattice doctor” says what can be read."
)
WORDS = (
    ("full", FULL),
    ("readonly", READ_ONLY),
    ("locked", LOCKED),
    ("malformed", CORRUPT),
    ("not a database", CORRUPT),
    ("no such table", CORRUPT),
    ("disk i/o", UNREADABLE),
    ("unable to open", UNREADABLE),
)
"""What SQLite says, and what is said of it."""
FAULTS = {
    errno.ENOSPC: FULL,
    errno.EDQUOT: FULL,
    errno.EROFS: READ_ONLY,
    errno.EACCES: READ_ONLY,
    errno.EPERM: READ_ONLY,
}
"""The same for what the system says of files."""


class StorageError(Exception):
    """What is kept cannot be read or written: what happened, what is safe and what to do. ``full``
    where there is no room."""

    def __init__(self, text: str, full: bool = False) -> None:
        super().__init__(text)
        self.full = full


def in_words(error: Exception, folder: Path) -> StorageError | None:
    """What went wrong with files in a folder; none where it was something else."""
    template = None
    if isinstance(error, OSError):
        template = FAULTS.get(error.errno or 0)
    elif isinstance(error, DatabaseError | sqlite3.DatabaseError):
        said = str(getattr(error, "orig", error)).lower()
        template = next((text for part, text in WORDS if part in said), None)
    if template is None:
        return None
    return StorageError(template.format(folder=folder), full=template is FULL)


def opened(file: Path, synchronous: str = "FULL") -> Engine:
    """An engine for a file, made if there is none; with ``synchronous="NORMAL"`` the last of what
    was written may be lost with the machine, but never the file."""
    engine = create_engine(f"sqlite:///{file}", connect_args={"timeout": WAIT})

    @event.listens_for(engine, "connect")
    def _pragmas(connection, record) -> None:  # type: ignore[no-untyped-def]
        connection.isolation_level = None  # transactions are begun below, where they say so
        for pragma in ("journal_mode=WAL", f"synchronous={synchronous}", "foreign_keys=ON"):
            connection.execute(f"PRAGMA {pragma}")

    @event.listens_for(engine, "begin")
    def _begin(connection) -> None:  # type: ignore[no-untyped-def]
        # A transaction that reads and then writes would fail when another wrote in between; one
        # that only reads never waits for others.
        writes = connection.get_execution_options().get("writes", False)
        connection.exec_driver_sql("BEGIN IMMEDIATE" if writes else "BEGIN")

    return engine


@contextmanager
def reading(engine: Engine) -> Iterator[Session]:
    """A session that only reads; raises ``StorageError``."""
    with _told(engine), Session(engine) as session:
        yield session


@contextmanager
def writing(engine: Engine) -> Iterator[Session]:
    """A session that writes; what it did is on disk when it is left. Raises ``StorageError``, and
    then nothing was changed."""
    with _told(engine), Session(engine.execution_options(writes=True)) as session, session.begin():
        yield session


@contextmanager
def _told(engine: Engine) -> Iterator[None]:
    try:
        yield
    except (DatabaseError, OSError) as error:
        told = in_words(error, Path(engine.url.database or "").parent)
        if told is None:
            raise
        raise told from error


def sound(file: Path) -> str:
    """What SQLite finds wrong with a file, empty where it is sound; it is not changed."""
    try:
        connection = sqlite3.connect(f"file:{file}?mode=ro", uri=True)
        try:
            found = [row[0] for row in connection.execute("PRAGMA quick_check(5)")]
            found += [
                f"{row[0]}: a row belongs to nothing in {row[2]}"
                for row in connection.execute("PRAGMA foreign_key_check")
            ][:5]
        finally:
            connection.close()
    except sqlite3.DatabaseError as error:
        return str(error)
    return "" if found == ["ok"] else "; ".join(f for f in found if f != "ok")


def tables(file: Path) -> set[str]:
    """Names of the tables in a file, which is not changed."""
    with closing(sqlite3.connect(f"file:{file}?mode=ro", uri=True)) as connection:
        return {r[0] for r in connection.execute("SELECT name FROM sqlite_master")}


def version(file: Path) -> str:
    """The revision of the tables in a file, empty where it has none."""
    if "alembic_version" not in tables(file):
        return ""
    with closing(sqlite3.connect(f"file:{file}?mode=ro", uri=True)) as connection:
        row = connection.execute("SELECT version_num FROM alembic_version").fetchone()
        return str(row[0]) if row else ""
