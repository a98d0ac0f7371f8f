"""Tables of the store."""

from __future__ import annotations

from datetime import UTC, datetime

from sqlalchemy import ForeignKey, Index, LargeBinary
from sqlalchemy.orm import DeclarativeBase, Mapped, mapped_column

__all__ = ["Base", "EditRow", "MarginRow", "NamedState", "ProjectRow", "StatementCopy", "now"]


def now() -> str:
    """The time in UTC, as it is kept: ISO 8601 to the second."""
    return datetime.now(UTC).strftime("%Y-%m-%dT%H:%M:%SZ")


class Base(DeclarativeBase):
    pass


class ProjectRow(Base):
    """A project. ``head`` is the edit its statement stands at, 0 before the first; ``demo`` names
    the demo file it was made from, and ``figures`` is what its card shows (JSON)."""

    __tablename__ = "projects"

    id: Mapped[str] = mapped_column(primary_key=True)
    name: Mapped[str]
    created: Mapped[str]
    changed: Mapped[str]
    removed: Mapped[str | None]
    demo: Mapped[str | None]
    head: Mapped[int] = mapped_column(default=0)
    figures: Mapped[str] = mapped_column(default="{}")
    picture: Mapped[bytes | None] = mapped_column(LargeBinary, deferred=True)


class EditRow(Base):
    """One accepted edit and the one that takes it back; ``parent`` is the edit before it, 0 for the
    first."""

    __tablename__ = "edits"
    __table_args__ = (Index("edits_by_parent", "project", "parent"),)

    id: Mapped[int] = mapped_column(primary_key=True, autoincrement=True)
    project: Mapped[str] = mapped_column(ForeignKey("projects.id", ondelete="CASCADE"))
    parent: Mapped[int]
    edit: Mapped[str]
    inverse: Mapped[str]
    created: Mapped[str]


class NamedState(Base):
    """What the state of a project after edit ``head`` is called, and how it looked."""

    __tablename__ = "named_states"

    project: Mapped[str] = mapped_column(
        ForeignKey("projects.id", ondelete="CASCADE"), primary_key=True
    )
    head: Mapped[int] = mapped_column(primary_key=True)
    name: Mapped[str]
    picture: Mapped[bytes | None] = mapped_column(LargeBinary, deferred=True)


class MarginRow(Base):
    """What people keep in the margin of a project (JSON)."""

    __tablename__ = "margins"

    project: Mapped[str] = mapped_column(
        ForeignKey("projects.id", ondelete="CASCADE"), primary_key=True
    )
    notes: Mapped[str]


class StatementCopy(Base):
    """The whole statement after edit ``after``; 0 is the start."""

    __tablename__ = "copies"

    project: Mapped[str] = mapped_column(
        ForeignKey("projects.id", ondelete="CASCADE"), primary_key=True
    )
    after: Mapped[int] = mapped_column(primary_key=True)
    statement: Mapped[str]
