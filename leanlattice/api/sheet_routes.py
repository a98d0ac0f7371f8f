"""Routes of flat parts: better arrangements in the background, and the cutting table."""

from __future__ import annotations

from typing import Annotated, Any

from fastapi import APIRouter, HTTPException, Request
from fastapi import Path as InPath
from fastapi.responses import Response
from pydantic import BaseModel, Field
from starlette.concurrency import run_in_threadpool

from ..statement.edits import SetValue
from .asked import PROBLEMS, ClauseId, ProjectId, done_by, hub_of, store_of
from .channel import Arranged, ArrangingNow
from .jobs import ArrangeSheets, DrawSheet, WriteSheet
from .live import Session
from .pool import Ticket
from .strict import StrictRoute
from .table_link import TableCommand, TableLink

__all__ = ["sheet_router"]

sheet_router = APIRouter(prefix="/api", responses=PROBLEMS, route_class=StrictRoute)
SheetNumber = Annotated[int, InPath(ge=1, le=100_000)]


class ArrangeRequest(BaseModel):
    """How long a better arrangement is looked for."""

    seconds: float = Field(30.0, ge=1.0, le=600.0)


class Arranging(BaseModel):
    """A search: the clause it is for, and whether it runs."""

    clause: str
    running: bool


class TableFault(BaseModel):
    """Something on a sheet the table does not cut, in a sentence, and where (mm)."""

    text: str
    x: float
    y: float


class TableJob(BaseModel):
    """A sheet on the table: how long (s) it takes and how far it is, and the lengths (mm) of its
    cuts, marks and idle moves."""

    number: int
    name: str
    seconds: float
    done: float
    cut_mm: float
    mark_mm: float
    idle_mm: float
    width: float
    height: float
    starts: int


class TableState(BaseModel):
    """What the table says of itself."""

    state: str
    fault: str
    goes_on: bool
    """Whether it begins, or goes on, when it is told to."""
    says: str
    tool: float
    worn: float
    sheet: bool
    pace: float
    queue: list[TableJob]
    finished: list[TableJob]
    move: int = 0
    x: float = 0.0
    y: float = 0.0
    kind: str = "idle"


class TableAnswer(BaseModel):
    """Whether the table took a sheet, and if not why."""

    job: TableJob | None = None
    faults: list[TableFault] = []


class TableMove(BaseModel):
    """A move: idle, mark or cut; its way in mm; how long it takes (s)."""

    kind: str
    way: list[tuple[float, float]]
    seconds: float


def _link(request: Request) -> TableLink:
    link: TableLink = request.app.state.table
    return link


def _running(request: Request) -> dict[str, Ticket]:
    running: dict[str, Ticket] = request.app.state.arranging
    return running


@sheet_router.get("/projects/{project}/sheets/{number}.svg", response_class=Response)
async def sheet(request: Request, project: ProjectId, number: SheetNumber) -> Response:
    """A sheet as SVG."""
    session = await hub_of(request).session(project)
    svg = await done_by(request, session, DrawSheet(session.position.statement.text(), number))
    if svg is None:
        raise HTTPException(404, f"There is no sheet {number}.")
    return Response(str(svg), media_type="image/svg+xml", headers={"Cache-Control": "no-store"})


@sheet_router.post("/projects/{project}/arrangements/{clause}")
async def arrange(
    request: Request, project: ProjectId, clause: ClauseId, body: ArrangeRequest
) -> Arranging:
    """Begins to look for a better arrangement; when it is found it becomes an edit like any other.
    The live channel tells how it goes."""
    hub = hub_of(request)
    session = await hub.session(project)
    if clause not in {c.id for c in session.position.statement.clauses}:
        raise HTTPException(404, f"There is no clause “{clause}”.")
    running = _running(request)
    if project in running:
        return Arranging(clause=clause, running=True)
    told: dict[str, Any] = {"sheets": 0, "used": 0.0, "share": 0.0}

    def heard(kind: str, what: tuple[Any, ...]) -> None:
        if kind == "better":
            told["sheets"], told["used"] = what
        elif kind == "progress":
            told["share"] = what[1]
        else:
            return
        session.say(ArrangingNow(clause=clause, **told))

    ticket = hub.pool.submit_aside(
        ArrangeSheets(session.position.statement.text(), clause, body.seconds), heard
    )
    running[project] = ticket
    hub.background(_applied(request, session, clause, ticket))
    return Arranging(clause=clause, running=True)


async def _applied(request: Request, session: Session, clause: str, ticket: Ticket) -> None:
    """Makes an edit of what was found, if it is better than what there was and the clause is still
    there."""
    text = ""
    try:
        kind, *what = await ticket.finished
        if kind != "done":
            text = what[0] if what else ""
            return
        lies, sheets, used, better = what[0]
        if not better:
            text = "No better arrangement was found; a longer search may find one."
            return
        text = f"{sheets} sheet{'' if sheets == 1 else 's'}, {used * 100:.0f} % within outlines."
        async with session.lock:
            if clause in {c.id for c in session.position.statement.clauses}:
                edit = SetValue(clause=clause, name="arrangement", value=[list(x) for x in lies])
                position = await run_in_threadpool(
                    store_of(request).edit, session.project, edit, session.position.head
                )
                await session.moved(position)
    finally:
        _running(request).pop(session.project, None)
        session.say(Arranged(clause=clause, text=text))


@sheet_router.delete("/projects/{project}/arrangements/{clause}")
async def stop_arranging(request: Request, project: ProjectId, clause: ClauseId) -> Arranging:
    """Ends the search; the best it has found is kept."""
    ticket = _running(request).get(project)
    if ticket is not None:
        hub_of(request).pool.stop(ticket)
    return Arranging(clause=clause, running=False)


@sheet_router.get("/table")
async def table(request: Request) -> TableState:
    """The state of the cutting table."""
    return TableState(**await _link(request).ask("STATUS"))


@sheet_router.post("/table")
async def command_table(request: Request, body: TableCommand) -> TableState:
    """One command to the table; 409 with its words where it does not do it."""
    good, answer = await _link(request).command(body)
    if not good:
        raise HTTPException(409, str(answer))
    return TableState(**answer)


@sheet_router.post("/projects/{project}/sheets/{number}/cut")
async def cut_sheet(request: Request, project: ProjectId, number: SheetNumber) -> TableAnswer:
    """Sends a sheet's DXF to the table, which takes it or says what it cannot cut."""
    session = await hub_of(request).session(project)
    content = await done_by(request, session, WriteSheet(session.position.statement.text(), number))
    if not isinstance(content, bytes):
        raise HTTPException(404, f"There is no sheet {number}.")
    good, answer = await _link(request).load(
        f"{session.position.statement.name}, sheet {number}", content
    )
    return (
        TableAnswer(job=TableJob(**answer))
        if good
        else TableAnswer(faults=[TableFault(**f) for f in answer])
    )


@sheet_router.get("/table/jobs/{number}")
async def table_path(request: Request, number: Annotated[int, InPath(ge=1)]) -> list[TableMove]:
    """All moves of a sheet in the queue or just finished."""
    good, answer = await _link(request).line(f"PATH {number}")
    if not good:
        raise HTTPException(404, f"The table knows no sheet {number} any more.")
    return [TableMove(kind=kind, way=way, seconds=seconds) for kind, way, seconds in answer]
