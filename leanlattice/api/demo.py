"""The demo projects."""

from __future__ import annotations

from pathlib import Path

from ..statement.edits import Rename
from ..statement.upgrade import read_upgraded
from ..store.files import FileStore, without_files
from ..store.store import Store
from .demo_cards import card_of_demo

__all__ = ["restore_demo"]


def restore_demo(store: Store, files: FileStore, folder: Path) -> list[str]:
    """Ids of the demo projects as they came, made where they are missing.

    One that was changed becomes a project like any other, under a name of its own, and a fresh one
    is made.
    """
    present = {row.demo: row for row in store.projects() if row.demo is not None}
    out = []
    for file in sorted(folder.glob("*.json")):
        row = present.get(file.stem)
        if row is not None and row.head == 0:
            out.append(row.id)
            continue
        if row is not None:
            store.set_demo(row.id, None)
            store.edit(row.id, Rename(name=f"{row.name[:100]} (changed)"))
        statement = without_files(read_upgraded(file.read_bytes()), files)
        out.append(store.create(statement, demo=file.stem))
        card = card_of_demo(file)
        if card is not None:
            store.set_picture(out[-1], card.picture)
            store.set_figures(out[-1], card.figures)
    return out
