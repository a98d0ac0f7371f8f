"""What people keep in the margin of a project: no part of its statement, nor of its history."""

from __future__ import annotations

import json
from collections.abc import Mapping
from typing import Any

from sqlalchemy.orm import Session

from ..statement.edits import EditError
from .models import MarginRow

__all__ = ["LARGEST", "copy_margin", "margin", "note"]

LARGEST = 1_000_000
"""Bytes of a margin at most."""


def margin(session: Session, project: str) -> dict[str, Any]:
    """What stands in the margin of a project, by the names it was noted under."""
    row = session.get(MarginRow, project)
    found: dict[str, Any] = json.loads(row.notes) if row is not None else {}
    return found


def note(session: Session, project: str, notes: Mapping[str, Any]) -> None:
    """Notes something in the margin in place of what stood there under the same names; raises
    ``EditError`` where it would be too much."""
    text = json.dumps(margin(session, project) | dict(notes), allow_nan=False)
    if len(text) > LARGEST:
        raise EditError(
            f"The margin of a project takes {LARGEST:,} bytes; this would be {len(text):,}. "
            "Forget some views or distances first."
        )
    row = session.get(MarginRow, project)
    if row is None:
        session.add(MarginRow(project=project, notes=text))
    else:
        row.notes = text


def copy_margin(session: Session, source: str, target: str) -> None:
    """Notes in the margin of one project what stands in that of another."""
    found = margin(session, source)
    if found:
        note(session, target, found)
