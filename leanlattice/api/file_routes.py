"""Routes of files: saved statements, what is brought in, pictures to trace over, curves as
drawings."""

from __future__ import annotations

import re
from typing import Annotated, Literal

from fastapi import APIRouter, File, HTTPException, Request, UploadFile
from fastapi import Path as InPath
from fastapi.responses import Response
from pydantic import BaseModel
from starlette.concurrency import run_in_threadpool

from ..statement.document import LARGEST_BROUGHT
from ..store.files import with_files
from .asked import PROBLEMS, ClauseId, ProjectId, done_by, files_of, hub_of, uploads_of
from .jobs import DrawUnderlay, WriteCurves, WriteModel
from .strict import StrictRoute

__all__ = ["file_router"]

file_router = APIRouter(prefix="/api", responses=PROBLEMS, route_class=StrictRoute)


@file_router.get("/projects/{project}/statement-file", response_class=Response)
async def statement_file(request: Request, project: ProjectId) -> Response:
    """The statement as a file, complete with the contents of the files it uses."""
    session = await hub_of(request).session(project)
    whole = await run_in_threadpool(with_files, session.position.statement, files_of(request))
    return Response(
        whole.text(), media_type="application/json", headers={"Cache-Control": "no-store"}
    )


class StoredFile(BaseModel):
    """A stored file: what a value of a clause holds of it."""

    digest: str
    name: str
    size: int


@file_router.post("/files", status_code=201)
async def store_file(request: Request, file: Annotated[UploadFile, File()]) -> StoredFile:
    """Keeps a file by the hash of its content; the clause that uses it reads it and says what is
    wrong with it."""
    async with uploads_of(request):
        return await _stored(request, file)


async def _stored(request: Request, file: UploadFile) -> StoredFile:
    content = await file.read()
    name = re.sub(r"[\x00-\x1f\x7f/\\\\]", " ", file.filename or "file").strip()[-100:] or "file"
    if not content:
        raise HTTPException(422, f"“{name}” is empty.")
    if len(content) > LARGEST_BROUGHT:
        raise HTTPException(
            413, f"“{name}” has {len(content):,} bytes; at most {LARGEST_BROUGHT:,} are read."
        )
    digest = await run_in_threadpool(files_of(request).put, content)
    return StoredFile(digest=digest, name=name, size=len(content))


@file_router.get("/projects/{project}/underlays/{clause}.png", response_class=Response)
async def underlay(request: Request, project: ProjectId, clause: ClauseId) -> Response:
    """The straightened picture of an underlay."""
    session = await hub_of(request).session(project)
    png = await done_by(request, session, DrawUnderlay(session.position.statement.text(), clause))
    if not isinstance(png, bytes):
        raise HTTPException(404, "There is no picture to show for that clause.")
    return Response(png, media_type="image/png", headers={"Cache-Control": "no-store"})


@file_router.get("/files/{digest}", response_class=Response)
async def stored_picture(
    request: Request, digest: Annotated[str, InPath(pattern="^[0-9a-f]{64}$")]
) -> Response:
    """A stored picture as it came, to mark its corners on; other files are not given out."""
    try:
        content = await run_in_threadpool(files_of(request).get, digest)
    except KeyError:
        raise HTTPException(404, "There is no such file.") from None
    kind = {b"\x89PNG": "image/png", b"\xff\xd8\xff": "image/jpeg"}.get(
        content[:4] if content[:1] == b"\x89" else content[:3]
    )
    if kind is None:
        raise HTTPException(404, "That file is not a picture.")
    return Response(
        content, media_type=kind, headers={"Cache-Control": "max-age=31536000, immutable"}
    )


@file_router.get("/projects/{project}/model.glb", response_class=Response)
async def model_file(request: Request, project: ProjectId) -> Response:
    """The solids of all that is made as glTF, in one binary file; metres, y upward."""
    session = await hub_of(request).session(project)
    content = await done_by(request, session, WriteModel(session.position.statement.text()))
    if not isinstance(content, bytes):
        raise HTTPException(404, "Nothing is made yet of which there could be a model.")
    return Response(content, media_type="model/gltf-binary", headers={"Cache-Control": "no-store"})


@file_router.get("/projects/{project}/curves/{clause}.{ending}", response_class=Response)
async def curves_file(
    request: Request, project: ProjectId, clause: ClauseId, ending: Literal["svg", "dxf"]
) -> Response:
    """The curves of a clause as a drawing, in millimetres."""
    session = await hub_of(request).session(project)
    text = await done_by(
        request, session, WriteCurves(session.position.statement.text(), clause, ending)
    )
    if not isinstance(text, str):
        raise HTTPException(404, "That clause gives no curves.")
    kind = "image/svg+xml" if ending == "svg" else "image/vnd.dxf"
    disposition = f'attachment; filename="{clause}.{ending}"'
    return Response(
        text,
        media_type=kind,
        headers={"Cache-Control": "no-store", "Content-Disposition": disposition},
    )
