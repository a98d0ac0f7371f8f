"""Files that were brought in, by the hash of their content."""

from __future__ import annotations

import base64
import hashlib
import os
import shutil
import threading
import time
from collections import OrderedDict
from collections.abc import Callable, Iterator
from pathlib import Path

from ..core.shaping.brought import Brought, ReadProblem
from ..statement.document import EmbeddedFile, Statement, files_used
from .database import in_words

__all__ = [
    "PART",
    "FileStore",
    "leftovers",
    "opener",
    "remove_leftovers",
    "with_files",
    "without_files",
]

OPENED_KEPT = 6
SLOW, REFUSED_FOR = 1.0, 60.0
"""Seconds: what could not be read in the first is not tried again within the second."""
PART = ".part"
"""Ending of what is being written."""


def leftovers(folder: Path) -> Iterator[Path]:
    """Files and folders that were left half-written in a data folder by a server that was ended."""
    for within in (folder, folder / "files", folder / "copies", *(folder / "packs").glob("*")):
        yield from sorted(within.glob(f"*{PART}"))


def remove_leftovers(folder: Path) -> list[Path]:
    """Removes these; what they were."""
    found = list(leftovers(folder))
    for path in found:
        if path.is_dir():
            shutil.rmtree(path, ignore_errors=True)
        else:
            path.unlink(missing_ok=True)
    return found


class FileStore:
    """A folder of contents, each under its SHA-256. Nothing in it ever changes."""

    def __init__(self, folder: Path) -> None:
        self.folder = folder

    def put(self, content: bytes) -> str:
        """Keeps a content; its hash. It is on disk before this returns."""
        digest = hashlib.sha256(content).hexdigest()
        path = self.folder / digest
        if not path.exists():
            self.folder.mkdir(parents=True, exist_ok=True)
            beside = path.with_suffix(f".{os.getpid()}-{threading.get_ident()}{PART}")
            try:
                with beside.open("wb") as out:
                    out.write(content)
                    out.flush()
                    os.fsync(out.fileno())
                beside.replace(path)
            except OSError as error:
                raise in_words(error, self.folder) or error from None
            finally:
                beside.unlink(missing_ok=True)
        return digest

    def get(self, digest: str) -> bytes:
        """The content of a hash; raises ``KeyError``."""
        if len(digest) != 64 or not digest.isalnum():
            raise KeyError(digest)
        try:
            return (self.folder / digest).read_bytes()
        except OSError:
            raise KeyError(digest) from None


def opener(
    get: Callable[[str], bytes], read: Callable[[str, str, bytes], Brought]
) -> Callable[[str, str, str], Brought]:
    """Opens files by what is wanted, hash and name, and remembers the last few; what could not be
    read is not tried again for a while, so that no change to something else waits for it."""
    known: OrderedDict[tuple[str, str, str], Brought] = OrderedDict()
    refused: dict[tuple[str, str, str], tuple[float, str]] = {}

    def open_file(wanted: str, digest: str, name: str) -> Brought:
        key = (wanted, digest, name.rpartition(".")[2].lower())
        began = time.monotonic()
        until, sentence = refused.get(key, (began, ""))
        if began < until:
            raise ReadProblem(sentence)
        refused.pop(key, None)
        if key not in known:
            try:
                known[key] = read(wanted, name, get(digest))
            except ReadProblem as problem:
                ended = time.monotonic()
                if ended - began > SLOW:
                    refused[key] = ended + REFUSED_FOR, str(problem)
                raise
            while len(known) > OPENED_KEPT:
                known.popitem(last=False)
        known.move_to_end(key)
        return known[key]

    return open_file


def with_files(statement: Statement, files: FileStore) -> Statement:
    """The statement with the contents of the files it uses in it, as it is saved to disk; missing
    ones stay out."""
    embedded = {}
    for digest, name in files_used(statement).items():
        try:
            embedded[digest] = EmbeddedFile(
                name=name, content=base64.b64encode(files.get(digest)).decode()
            )
        except KeyError:
            continue
    return statement.model_copy(update={"files": embedded})


def without_files(statement: Statement, files: FileStore) -> Statement:
    """The statement without contents, which are kept in ``files``."""
    for file in statement.files.values():
        files.put(file.bytes())
    return statement.model_copy(update={"files": {}})
