"""One server a data folder: two would each keep a history the other does not know of."""

from __future__ import annotations

import fcntl
import os
from collections.abc import Iterator
from contextlib import contextmanager
from pathlib import Path

__all__ = ["FolderTaken", "held_folder"]

NAME = "server.lock"


class FolderTaken(Exception):
    """Another server has the folder, in a sentence that says where it is."""


@contextmanager
def held_folder(folder: Path, address: str) -> Iterator[None]:
    """Holds a data folder for the server at ``address`` until it is left, or the process ends in
    whatever way; raises ``FolderTaken`` where another holds it."""
    folder.mkdir(parents=True, exist_ok=True)
    with (folder / NAME).open("a+", encoding="utf-8") as file:
        try:
            fcntl.flock(file, fcntl.LOCK_EX | fcntl.LOCK_NB)
        except OSError:
            file.seek(0)
            other = file.read().strip() or "another address"
            raise FolderTaken(
                f"The projects in {folder} are open in a server at {other}. Use that one, stop it, "
                "or give this one a folder of its own by --data."
            ) from None
        file.truncate(0)
        file.write(f"{address} (process {os.getpid()})\n")
        file.flush()
        yield
