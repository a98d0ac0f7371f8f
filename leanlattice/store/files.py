"""Files that were brought in, by the hash of their content."""

from __future__ import annotations

import base64
import hashlib
import os
from collections import OrderedDict
from collections.abc import Callable
from pathlib import Path
from typing import TYPE_CHECKING

from ..statement.document import EmbeddedFile, Statement, files_used

if TYPE_CHECKING:
    from ..core.shaping.brought import Brought

__all__ = ["FileStore", "opener", "with_files", "without_files"]

OPENED_KEPT = 6


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
            beside = path.with_suffix(f".{os.getpid()}")
            with beside.open("wb") as out:
                out.write(content)
                out.flush()
                os.fsync(out.fileno())
            beside.replace(path)
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
    """Opens files by what is wanted, hash and name, and remembers the last few."""
    known: OrderedDict[tuple[str, str, str], Brought] = OrderedDict()

    def open_file(wanted: str, digest: str, name: str) -> Brought:
        key = (wanted, digest, name.rpartition(".")[2].lower())
        if key not in known:
            known[key] = read(wanted, name, get(digest))
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
