"""What can be said of a data folder, and what can be mended in it."""

from __future__ import annotations

import hashlib
import sqlite3
from collections.abc import Iterator
from contextlib import closing
from dataclasses import dataclass
from pathlib import Path

from .copies import NAME, copies
from .database import StorageError, sound
from .files import leftovers, remove_leftovers
from .store import Store

__all__ = ["Finding", "examine", "tidy"]


@dataclass(frozen=True)
class Finding:
    """A thing that was looked at, whether it is sound, and what is to be done where it is not."""

    of: str
    sound: bool
    text: str


def examine(folder: Path) -> Iterator[Finding]:
    """Everything in a data folder that can be checked: the database, each project where it stands,
    stored files by their hashes, copies, and what was left half-written. Nothing is changed."""
    file = folder / NAME
    if not file.exists() or not file.stat().st_size:
        there = "is empty" if file.exists() else "is not there"
        yield Finding("database", False, f"{file} {there}; put a copy back with --restore.")
    elif wrong := sound(file):
        yield Finding("database", False, f"{file} is damaged ({wrong}); put a copy back.")
    else:
        yield Finding("database", True, f"{file} is sound.")
        yield from _projects(folder)
    yield from _files(folder)
    for copy in copies(folder):
        text = copy.wrong or f"of {copy.made}: {copy.projects} projects, {copy.edits} changes."
        yield Finding(f"copy {copy.file.name}", not copy.wrong, text)
    for left in leftovers(folder):
        yield Finding(f"{left.relative_to(folder)}", False, "was left half-written; --tidy.")


def _projects(folder: Path) -> Iterator[Finding]:
    try:
        store = Store(folder)
    except StorageError as error:
        yield Finding("projects", False, str(error))
        return
    try:
        for row in store.projects():
            try:
                at = store.position(row.id)
                said = f"{len(at.statement.clauses)} clauses, after change {at.head}."
                yield Finding(f"project “{row.name}”", True, said)
            except Exception as error:  # whatever it is, the others are looked at all the same
                yield Finding(f"project “{row.name}”", False, str(error))
    finally:
        store.close()


def _files(folder: Path) -> Iterator[Finding]:
    wrong = [
        path.name
        for path in sorted((folder / "files").glob("?" * 64))
        if hashlib.sha256(path.read_bytes()).hexdigest() != path.name
    ]
    for name in wrong:
        yield Finding(f"file {name}", False, "is not what was stored; bring it in again.")
    if not wrong:
        yield Finding("stored files", True, "All are what their names say.")


def tidy(folder: Path) -> list[Path]:
    """Removes what was left half-written and rebuilds the indexes of the database."""
    gone = remove_leftovers(folder)
    if not sound(folder / NAME):
        with closing(sqlite3.connect(folder / NAME)) as connection:
            connection.execute("REINDEX")
    return gone
