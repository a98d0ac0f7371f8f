"""Results worth keeping, in a file of their own: it can be thrown away at any time."""

from __future__ import annotations

import logging
import time
from collections.abc import Iterable
from pathlib import Path

from sqlalchemy import Engine, delete, func, select, update
from sqlalchemy.exc import SQLAlchemyError
from sqlalchemy.orm import DeclarativeBase, Mapped, mapped_column

from .database import StorageError, opened, reading, sound, writing

__all__ = ["ResultStore"]

log = logging.getLogger("leanlattice")

NAME = "results.db"
LIMIT = 200_000_000
LARGEST = 0.25
"""Share of the limit that one result may have."""
ROOM = 0.8
"""Share of the limit down to which is let go when it is passed."""


class _Base(DeclarativeBase):
    pass


class _Row(_Base):
    """What a clause with this key made: its outcome (JSON) and the messages that show it."""

    __tablename__ = "results"

    key: Mapped[str] = mapped_column(primary_key=True)
    outcome: Mapped[str]
    geometry: Mapped[bytes]
    measures: Mapped[bytes]
    size: Mapped[int]
    used: Mapped[int] = mapped_column(index=True)


class ResultStore:
    """What clauses made, by key, up to ``limit`` bytes in ``folder``; what was not used for longest
    goes first. Where it cannot be read or written, there are no results: they are made again."""

    def __init__(self, folder: Path, limit: int = LIMIT) -> None:
        self.file, self.limit = folder / NAME, limit
        self._used: set[str] = set()
        self._known: set[str] = set()
        self.engine: Engine | None = self._opened()

    def _opened(self) -> Engine | None:
        if self.file.exists() and sound(self.file):
            log.warning("%s was damaged and is begun anew; results are made again.", self.file)
            self._remove()
        engine = opened(self.file, synchronous="NORMAL")
        try:
            with writing(engine) as session:
                _Base.metadata.create_all(session.connection())
                self._known = set(session.scalars(select(_Row.key)))
        except (StorageError, SQLAlchemyError) as error:
            log.warning("results cannot be kept: %s", error)
            engine.dispose()
            return None
        return engine

    def _remove(self) -> None:
        for ending in ("", "-wal", "-shm"):
            self.file.with_name(self.file.name + ending).unlink(missing_ok=True)

    def close(self) -> None:
        if self.engine is not None:
            self.engine.dispose()

    def known(self, key: str) -> bool:
        """Whether a result is kept already."""
        return key in self._known

    def forget(self, keys: Iterable[str]) -> None:
        """Results that are to be kept anew when they come again."""
        self._known.difference_update(keys)

    def get(self, keys: Iterable[str]) -> dict[str, tuple[str, bytes, bytes]]:
        """Outcome (JSON), geometry and measures of the known ones of ``keys``."""
        if self.engine is None:
            return {}
        try:
            with reading(self.engine) as session:
                rows = list(session.scalars(select(_Row).where(_Row.key.in_(list(keys)))))
                found = {r.key: (r.outcome, r.geometry, r.measures) for r in rows}
        except (StorageError, SQLAlchemyError) as error:
            log.warning("kept results cannot be read: %s", error)
            return {}
        self._used.update(found)
        return found

    def put(self, rows: Iterable[tuple[str, str, bytes, bytes]]) -> None:
        """Keeps key, outcome (JSON), geometry and measures of results; one too large for the limit
        is left out."""
        if self.engine is None:
            return
        try:
            self._put(self.engine, rows)
        except (StorageError, SQLAlchemyError) as error:
            log.warning("results cannot be kept: %s", error)

    def _put(self, engine: Engine, rows: Iterable[tuple[str, str, bytes, bytes]]) -> None:
        with writing(engine) as session:
            used, self._used = self._used, set()
            changed = update(_Row).where(_Row.key.in_(used)).values(used=time.time_ns())
            session.execute(changed)
            for key, outcome, geometry, measures in rows:
                size = len(outcome) + len(geometry) + len(measures)
                if size <= self.limit * LARGEST:
                    row = _Row(
                        key=key,
                        outcome=outcome,
                        geometry=geometry,
                        measures=measures,
                        size=size,
                        used=time.time_ns(),
                    )
                    session.merge(row)
            session.flush()
            total = session.scalar(select(func.sum(_Row.size))) or 0
            if total > self.limit:
                gone = []
                for key, size in session.execute(select(_Row.key, _Row.size).order_by(_Row.used)):
                    gone.append(key)
                    total -= size
                    if total <= ROOM * self.limit:
                        break
                session.execute(delete(_Row).where(_Row.key.in_(gone)))
            known = set(session.scalars(select(_Row.key)))
        self._known = known
