"""Copies of the database that are made by themselves, and put back when it is damaged."""

from __future__ import annotations

import os
import sqlite3
from contextlib import closing
from dataclasses import dataclass
from datetime import UTC, datetime
from pathlib import Path

from .database import sound

__all__ = ["KEPT", "NAME", "Copy", "copies", "make_copy", "put_back"]

NAME = "lean-lattice.db"
FOLDER = "copies"
KEPT = 10
STAMP = "%Y%m%d-%H%M%S-%f"
BESIDE = (NAME, f"{NAME}-wal", f"{NAME}-shm")
PAGES = 2000
"""Pages that are copied before others have their turn with the database."""


@dataclass(frozen=True)
class Copy:
    """A copy of the database, when it was made (ISO 8601) and how many projects and changes are in
    it, or what is wrong with it."""

    file: Path
    made: str
    projects: int
    edits: int
    wrong: str = ""


def make_copy(folder: Path) -> Path | None:
    """Copies the database of a data folder, also while it is used; none where nothing has changed
    since the last copy. The ``KEPT`` latest are kept."""
    file, into = folder / NAME, folder / FOLDER
    known = _files(folder)
    if not file.exists() or (known and _state(file) == _state(known[0])):
        return None
    into.mkdir(exist_ok=True)
    new = into / f"lean-lattice-{datetime.now(UTC).strftime(STAMP)}.db"
    part = new.with_suffix(".part")
    try:
        with (
            closing(sqlite3.connect(f"file:{file}?mode=ro", uri=True)) as source,
            closing(sqlite3.connect(part)) as target,
        ):
            source.backup(target, pages=PAGES)
            target.execute("PRAGMA journal_mode=DELETE")
        if sound(part) or not _counted(part)[0]:
            return None  # a damaged or empty one would push good ones out
        _on_disk(part)
        part.replace(new)
    finally:
        part.unlink(missing_ok=True)
    for old in _files(folder)[KEPT:]:
        old.unlink(missing_ok=True)
    return new


def copies(folder: Path) -> list[Copy]:
    """The copies there are, the latest first."""
    return [_looked_at(file) for file in _files(folder)]


def put_back(folder: Path, copy: Path) -> list[Path]:
    """Puts a copy in the place of the database; what was there is moved aside, to the files that
    are given back. No server may be at work on the folder."""
    part = folder / f"{NAME}.part"
    part.write_bytes(copy.read_bytes())
    _on_disk(part)
    stamp = datetime.now(UTC).strftime(STAMP)
    there = [name for name in BESIDE if (folder / name).exists()]
    aside = [(folder / name).rename(folder / f"damaged-{stamp}-{name}") for name in there]
    part.replace(folder / NAME)
    return aside


def _files(folder: Path) -> list[Path]:
    return sorted((folder / FOLDER).glob("lean-lattice-*.db"), reverse=True)


def _looked_at(file: Path) -> Copy:
    made = datetime.fromtimestamp(file.stat().st_mtime, UTC).strftime("%Y-%m-%dT%H:%M:%SZ")
    wrong = sound(file)
    projects, edits = (0, 0) if wrong else _counted(file)
    return Copy(file, made, projects, edits, wrong)


def _counted(file: Path) -> tuple[int, int]:
    """Projects and changes in a database, none where it has no tables."""
    try:
        with closing(sqlite3.connect(f"file:{file}?mode=ro", uri=True)) as connection:
            (projects,) = connection.execute("SELECT count(*) FROM projects").fetchone()
            (edits,) = connection.execute("SELECT count(*) FROM edits").fetchone()
            return int(projects), int(edits)
    except sqlite3.DatabaseError:
        return 0, 0


def _state(file: Path) -> tuple[object, ...]:
    """What differs between two states of a database in which something was changed."""
    ask = "SELECT count(*), max(changed), max(removed), sum(head), max(head) FROM projects"
    try:
        with closing(sqlite3.connect(f"file:{file}?mode=ro", uri=True)) as connection:
            return tuple(connection.execute(ask).fetchone()), *_counted(file)
    except sqlite3.DatabaseError:
        return ()


def _on_disk(file: Path) -> None:
    with file.open("rb+") as opened:
        os.fsync(opened.fileno())
