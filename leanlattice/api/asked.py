"""What routes share: the parts of the application a request is about, and how jobs are waited
for."""

from __future__ import annotations

import asyncio
from typing import Annotated

from fastapi import HTTPException, Request
from fastapi import Path as InPath

from ..store.database import StorageError
from ..store.files import FileStore
from ..store.store import Store
from .jobs import Job
from .live import Hub, Session
from .messages import Problem
from .settings import Settings

__all__ = [
    "PROBLEMS",
    "ClauseId",
    "Head",
    "ProjectId",
    "done_by",
    "files_of",
    "hub_of",
    "sent_picture",
    "settings_of",
    "store_of",
    "uploads_of",
]

PROBLEMS: dict[int | str, dict[str, object]] = {
    status: {"model": Problem, "description": text}
    for status, text in (
        (404, "No such thing"),
        (409, "Does not fit"),
        (413, "Too large"),
        (421, "Not this host"),
        (422, "Not understood"),
        (503, "Storage does not answer"),
        (507, "No room"),
    )
}
ProjectId = Annotated[str, InPath(pattern="^[0-9a-f]{12}$")]
Head = Annotated[int, InPath(ge=0, lt=2**63)]
ClauseId = Annotated[str, InPath(pattern=r"^[A-Za-z0-9_-]{1,40}$")]


LARGEST_PICTURE = 2_000_000
"""Bytes of a picture at most."""


def hub_of(request: Request) -> Hub:
    hub: Hub = request.app.state.hub
    return hub


def store_of(request: Request) -> Store:
    return hub_of(request).store


def uploads_of(request: Request) -> asyncio.Semaphore:
    """Held by those who read what is sent: few at a time, so that their memory has a bound."""
    uploads: asyncio.Semaphore = request.app.state.uploads
    return uploads


def settings_of(request: Request) -> Settings:
    settings: Settings = request.app.state.settings
    return settings


def files_of(request: Request) -> FileStore:
    files: FileStore = request.app.state.files
    return files


async def sent_picture(request: Request) -> bytes:
    """The body of a request that is to be a picture; 422 where it is none, or too large."""
    picture = await request.body()
    if not picture.startswith(b"\x89PNG\r\n\x1a\n") or len(picture) > LARGEST_PICTURE:
        raise HTTPException(422, f"A PNG of at most {LARGEST_PICTURE:,} bytes is wanted.")
    return picture


async def done_by(request: Request, session: Session, job: Job) -> object:
    """What a job comes to; 409 with its sentence where it fails or is cancelled, ``StorageError``
    where the disk does not do what it should."""
    kind, *what = await hub_of(request).do(session.project, job, session)
    if kind == "failed" and len(what) > 1:
        raise StorageError(what[0], full=what[1])
    if kind != "done":
        raise HTTPException(409, what[0] if what else "This was cancelled.")
    return what[0]
