"""States of projects that people gave a name, to find them again: “before the client”."""

from __future__ import annotations

from collections.abc import Mapping
from dataclasses import dataclass

from sqlalchemy import select
from sqlalchemy.orm import Session

from ..statement.edits import EditError
from .models import EditRow, NamedState

__all__ = ["LONGEST", "MOST", "Named", "name_state", "named_states"]

LONGEST, MOST = 80, 200
"""Characters of a name, and names of a project, at most."""


@dataclass(frozen=True)
class Named:
    """What a state is called, and whether there is a picture of it."""

    name: str
    has_picture: bool


def named_states(session: Session, project: str) -> Mapping[int, Named]:
    """By the edit after which a project stood so."""
    rows = select(NamedState.head, NamedState.name, NamedState.picture.is_not(None)).where(
        NamedState.project == project
    )
    return {head: Named(name, seen) for head, name, seen in session.execute(rows)}


def name_state(session: Session, project: str, head: int, name: str) -> None:
    """Gives a state a ``name``; an empty one takes it away. Raises ``EditError`` where the project
    never stood there, or has too many names."""
    edit = session.get(EditRow, head) if head else None
    if head and (edit is None or edit.project != project):
        raise EditError(f"The project never stood at {head}, so that it can have no name.")
    row = session.get(NamedState, (project, head))
    if not name:
        if row is not None:
            session.delete(row)
        return
    if len(name) > LONGEST:
        raise EditError(f"A name has at most {LONGEST} characters; this one has {len(name):,}.")
    if row is not None:
        row.name = name
        return
    if len(named_states(session, project)) >= MOST:
        raise EditError(f"{MOST} states have names already; take one away first.")
    session.add(NamedState(project=project, head=head, name=name))
