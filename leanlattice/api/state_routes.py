"""Routes of where a project stood: its states, what they are called, and the way back to them."""

from __future__ import annotations

from fastapi import APIRouter, HTTPException, Request
from fastapi.responses import Response
from starlette.concurrency import run_in_threadpool

from ..store.store import State
from .asked import PROBLEMS, Head, ProjectId, hub_of, sent_picture, store_of
from .messages import NameRequest, StatementMessage, StateMessage, statement_message
from .strict import StrictRoute

__all__ = ["state_router"]

state_router = APIRouter(
    prefix="/api/projects/{project}/states", responses=PROBLEMS, route_class=StrictRoute
)


def _message(state: State) -> StateMessage:
    named = state.named
    return StateMessage(
        head=state.head,
        made=state.made,
        words=state.words,
        readable=state.readable,
        name=named.name if named else "",
        has_picture=named is not None and named.has_picture,
    )


@state_router.get("")
def states(request: Request, project: ProjectId) -> list[StateMessage]:
    """Where the project stood, the last first: also where that can no longer be read. Those that
    have a name and lie further back come behind them."""
    return [_message(state) for state in store_of(request).states(project)]


@state_router.post("/{head}")
async def go_to(request: Request, project: ProjectId, head: Head) -> StatementMessage:
    """Back to where the project stood; nothing of its history is lost."""
    position = await run_in_threadpool(store_of(request).go_to, project, head)
    session = await hub_of(request).session(project)
    async with session.lock:
        await session.moved(position)
    return statement_message(project, position)


@state_router.put("/{head}/name", status_code=204)
def name_state(request: Request, project: ProjectId, head: Head, body: NameRequest) -> None:
    """Names a state, so that one finds it again; an empty name takes that away."""
    store_of(request).name_state(project, head, body.name.strip())


@state_router.put("/{head}/picture", status_code=204)
async def put_picture(request: Request, project: ProjectId, head: Head) -> None:
    """How a named state looks, a PNG."""
    picture = await sent_picture(request)
    await run_in_threadpool(store_of(request).set_picture_of_state, project, head, picture)


@state_router.get("/{head}/picture", response_class=Response)
def get_picture(request: Request, project: ProjectId, head: Head) -> Response:
    picture = store_of(request).picture_of_state(project, head)
    if picture is None:
        raise HTTPException(404, "There is no picture of this state.")
    return Response(picture, media_type="image/png", headers={"Cache-Control": "no-cache"})
