"""Routes by resource: catalogue, projects, statement, schedules, pack, live channel.

What writes files is imported only where it is needed: without it the server starts sooner.
"""

from __future__ import annotations

import shutil
import uuid
import zipfile
from pathlib import Path
from typing import Annotated, Literal

from fastapi import APIRouter, File, HTTPException, Query, Request, UploadFile, WebSocket
from fastapi import Path as InPath
from fastapi.responses import FileResponse, Response
from pydantic import BaseModel, Field
from starlette.concurrency import run_in_threadpool

from .. import __version__
from ..clauses.registry import CLAUSE_TYPES
from ..core.sections import search
from ..exchange.groups import GROUPS
from ..exchange.kinds import KINDS
from ..statement.document import Statement
from ..statement.edits import Rename
from ..statement.upgrade import read_upgraded
from ..store.database import StorageError
from ..store.files import PART, without_files
from ..store.store import UnknownProject, Unreadable
from .asked import (
    PROBLEMS,
    ProjectId,
    done_by,
    files_of,
    hub_of,
    settings_of,
    store_of,
    uploads_of,
)
from .beginnings import begun
from .card_routes import card
from .channel import Trouble
from .demo import restore_demo
from .jobs import MakeTable, WritePack
from .live import Hub
from .messages import (
    ClauseKind,
    EditRequest,
    OutcomeMessage,
    PackFile,
    PackMessage,
    PackRequest,
    ProjectCard,
    SectionsMessage,
    StatementMessage,
    TableMessage,
    clause_kind,
    section_message,
    statement_message,
)
from .strict import StrictRoute

__all__ = ["router"]

router = APIRouter(prefix="/api", responses=PROBLEMS, route_class=StrictRoute)
PACKS_KEPT = 3


class About(BaseModel):
    name: str = "Lean Lattice"
    version: str = __version__


@router.get("/about")
async def about() -> About:
    return About()


@router.get("/clause-kinds")
async def clause_kinds() -> list[ClauseKind]:
    """All clause types: their sentences, values with units and limits, what they take and give."""
    return [clause_kind(k) for k in CLAUSE_TYPES.values()]


@router.get("/guide/{kind}.png", response_class=Response)
def guide(kind: Annotated[str, InPath(pattern="^[a-z-]{1,40}$")]) -> Response:
    """What a clause type makes, as a small picture."""
    # What it draws with is only needed here; without it the server starts sooner.
    from ..exchange.guide import guide_picture

    return _picture(guide_picture(kind))


Word = Annotated[str, InPath(pattern="^[a-z_-]{1,40}$")]


@router.get("/guide/{kind}/{value}/{key}.png", response_class=Response)
def choice_picture(kind: Word, value: Word, key: Word) -> Response:
    """What a clause type makes with one of its values chosen, as a small picture."""
    from ..exchange.guide import guide_picture

    return _picture(guide_picture(kind, value, key))


def _picture(content: bytes | None) -> Response:
    if content is None:
        raise HTTPException(404, "There is no picture of that.")
    return Response(content, media_type="image/png", headers={"Cache-Control": "max-age=86400"})


@router.get("/sections")
async def sections(
    text: Annotated[str, Query(max_length=80)] = "", most: Annotated[int, Query(ge=1, le=500)] = 80
) -> SectionsMessage:
    """Sections whose names hold all words of a text, and the one it names itself, be it of a size
    of one's own."""
    found = search(text)
    return SectionsMessage(count=len(found), sections=[section_message(s) for s in found[:most]])


@router.get("/statement-schema")
async def statement_schema() -> dict[str, object]:
    """JSON schema of the statement format."""
    return Statement.model_json_schema()


class NewProject(BaseModel):
    name: Annotated[str, Field(min_length=1, max_length=120)] = "New structure"
    beginning: Annotated[str, Field(pattern="^[a-z-]{0,40}$")] = ""
    """What it begins with, by its key; nothing where it is empty."""


@router.post("/projects", status_code=201)
def new_project(request: Request, body: NewProject) -> ProjectCard:
    """A project that is empty, or starts from a beginning, whose name it then bears."""
    store = store_of(request)
    if body.beginning:
        statement = without_files(begun(request, body.beginning), files_of(request))
        return card(store.project(store.create(statement)))
    try:
        statement = Statement(name=body.name)
    except ValueError as error:
        raise HTTPException(
            422, f"“{body.name[:40]}” is no name for a project; use some letters."
        ) from error
    return card(store.project(store.create(statement)))


@router.post("/projects/import", status_code=201)
async def import_project(request: Request, file: Annotated[UploadFile, File()]) -> ProjectCard:
    """A project from a statement file."""
    store = store_of(request)
    async with uploads_of(request):
        content = await file.read()
        files = files_of(request)
        statement = await run_in_threadpool(lambda: without_files(read_upgraded(content), files))
    return card(store.project(await run_in_threadpool(store.create, statement)))


@router.post("/demo/restore")
async def demo_restore(request: Request) -> list[ProjectCard]:
    """The demo projects as they came. Ones that were changed are kept beside them under a name of
    their own."""
    store = store_of(request)
    restored = await run_in_threadpool(
        restore_demo, store, files_of(request), settings_of(request).demo_folder
    )
    await hub_of(request).reread()
    return [card(store.project(p)) for p in restored]


@router.get("/projects/{project}")
def project(request: Request, project: ProjectId) -> ProjectCard:
    return card(store_of(request).project(project))


@router.delete("/projects/{project}", status_code=204)
def remove_project(request: Request, project: ProjectId) -> None:
    """Takes a project out of sight; it can be brought back."""
    store_of(request).set_removed(project, True)


@router.post("/projects/{project}/bring-back", status_code=204)
def bring_back(request: Request, project: ProjectId) -> None:
    store_of(request).set_removed(project, False)


@router.post("/projects/{project}/duplicate", status_code=201)
def duplicate_project(request: Request, project: ProjectId) -> ProjectCard:
    store = store_of(request)
    statement = store.position(project).statement
    copy = statement.model_copy(update={"name": f"{statement.name[:110]} (copy)"})
    made = store.create(copy)
    store.copy_margin(project, made)
    return card(store.project(made))


class NewName(BaseModel):
    name: Annotated[str, Field(min_length=1, max_length=120)]


@router.put("/projects/{project}/name")
async def rename_project(request: Request, project: ProjectId, body: NewName) -> StatementMessage:
    session = await hub_of(request).session(project)
    async with session.lock:
        position = await run_in_threadpool(store_of(request).edit, project, Rename(name=body.name))
        await session.moved(position)
    return statement_message(project, position)


@router.get("/projects/{project}/statement")
async def statement(request: Request, project: ProjectId) -> StatementMessage:
    return statement_message(project, (await hub_of(request).session(project)).position)


@router.get("/projects/{project}/outcomes")
async def outcomes(request: Request, project: ProjectId) -> list[OutcomeMessage]:
    """What became of each clause in the last evaluation; starts one when there was none."""
    session = await hub_of(request).session(project)
    while not session.settled:
        if not session.busy:
            await session.evaluate()
        if session.ticket is None:  # all was known, or somebody ended it at once
            continue
        kind, *what = await session.ticket.finished
        if kind == "failed":
            raise HTTPException(409, what[0])
        if session.ticket is None:
            raise HTTPException(409, "This was cancelled.")
    return list(session.outcomes.values())


@router.post("/projects/{project}/edits")
async def edit(request: Request, project: ProjectId, body: EditRequest) -> StatementMessage:
    """Makes one edit. It is in the history on disk before this answers."""
    session = await hub_of(request).session(project)
    async with session.lock:
        position = await run_in_threadpool(store_of(request).edit, project, body.edit, body.base)
        await session.moved(position)
    return statement_message(project, position)


@router.post("/projects/{project}/history/{way}")
async def history(
    request: Request, project: ProjectId, way: Literal["undo", "redo"]
) -> StatementMessage:
    """One edit back or forward."""
    session = await hub_of(request).session(project)
    store = store_of(request)
    async with session.lock:
        position = await run_in_threadpool(store.undo if way == "undo" else store.redo, project)
        await session.moved(position)
    return statement_message(project, position)


@router.get("/projects/{project}/schedules/{name}")
async def schedule(request: Request, project: ProjectId, name: str) -> list[TableMessage]:
    """A schedule, one table a result that has it."""
    known = dict.fromkeys(s.name for kind in KINDS.values() for s in kind.schedules)
    if name not in known:
        raise HTTPException(
            404, f"There is no schedule “{name[:40]}”; there are {', '.join(known)}."
        )
    session = await hub_of(request).session(project)
    tables = await done_by(request, session, MakeTable(session.position.statement.text(), name))
    assert isinstance(tables, list)
    return tables


def _packs(request: Request, project: str) -> Path:
    return settings_of(request).data / "packs" / project


@router.post("/projects/{project}/pack")
async def make_pack(request: Request, project: ProjectId, body: PackRequest) -> PackMessage:
    """Writes a pack and checks it from its files."""
    session = await hub_of(request).session(project)
    pack_id = uuid.uuid4().hex[:12]
    packs = _packs(request, project)
    unknown = set(body.files or ()) - set(GROUPS)
    if unknown:
        known = ", ".join(GROUPS)
        raise HTTPException(
            422, f"There is no group of files “{sorted(unknown)[0][:40]}”; there are {known}."
        )
    wanted = None if body.files is None else frozenset(body.files)
    folder = packs / f"{pack_id}{PART}"
    try:
        job = WritePack(session.position.statement.text(), str(folder), wanted)
        found = await done_by(request, session, job)
        assert isinstance(found, tuple)
        checks, missing, held = found
        files = await run_in_threadpool(_zipped, packs, folder, pack_id)
    finally:
        # Whatever became of it, nothing half-written stays.
        await run_in_threadpool(shutil.rmtree, folder, ignore_errors=True)
    return PackMessage(
        id=pack_id,
        files=files,
        checks=checks,
        not_made=missing,
        held_back=held,
    )


def _zipped(packs: Path, folder: Path, pack_id: str) -> list[PackFile]:
    files = sorted(p for p in folder.rglob("*") if p.is_file())
    listed = [PackFile(name=str(p.relative_to(folder)), size=p.stat().st_size) for p in files]
    part = packs / f"{pack_id}.zip{PART}"
    try:
        with zipfile.ZipFile(part, "w", zipfile.ZIP_DEFLATED, compresslevel=3) as archive:
            for path in files:
                archive.write(path, path.relative_to(folder))
        part.replace(packs / f"{pack_id}.zip")
    finally:
        part.unlink(missing_ok=True)
    for old in sorted(packs.glob("*.zip"), key=lambda p: p.stat().st_mtime)[:-PACKS_KEPT]:
        old.unlink(missing_ok=True)
    return listed


@router.get("/projects/{project}/pack/{pack_id}.zip", response_class=FileResponse)
def get_pack(
    request: Request, project: ProjectId, pack_id: Annotated[str, InPath(pattern="^[0-9a-f]{12}$")]
) -> FileResponse:
    path = _packs(request, project) / f"{pack_id}.zip"
    if not path.is_file():
        raise HTTPException(404, "There is no such pack any more; write it again.")
    name = (
        "".join(c if c.isalnum() else "-" for c in store_of(request).project(project).name)
        .strip("-")
        .lower()
    )
    return FileResponse(path, filename=f"{name or 'pack'}.zip", media_type="application/zip")


@router.websocket("/projects/{project}/live")
async def live(socket: WebSocket, project: str) -> None:
    """The live channel of a project: statement, outcomes and geometry as they change."""
    hub: Hub = socket.app.state.hub
    await socket.accept()
    try:
        await hub.serve(project, socket)
    except UnknownProject:
        await socket.close(4404, "There is no such project.")
    except Unreadable:
        await socket.close(4422, "The project cannot be read.")
    except StorageError as error:
        await socket.send_text(Trouble(text=str(error)).model_dump_json())
        await socket.close(1011, "The projects cannot be read.")
