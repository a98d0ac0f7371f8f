"""The route of contact sheets: values tried out without making an edit of them."""

from __future__ import annotations

import base64

from fastapi import APIRouter, HTTPException, Request

from ..statement.edits import EditError, apply
from .asked import PROBLEMS, ProjectId, hub_of
from .jobs import TrySetting
from .messages import SettingMessage, SettingRequest
from .strict import StrictRoute

__all__ = ["setting_router"]

setting_router = APIRouter(prefix="/api", responses=PROBLEMS, route_class=StrictRoute)


@setting_router.post("/projects/{project}/settings")
async def try_setting(request: Request, project: ProjectId, body: SettingRequest) -> SettingMessage:
    """A picture and figures of what the statement comes to with other values."""
    hub = hub_of(request)
    session = await hub.session(project)
    statement = session.position.statement
    try:
        for value in body.values:
            statement, _ = apply(statement, value)
    except EditError as error:
        raise HTTPException(409, str(error)) from None
    # As many at a time as there are workers, apart from what the project itself waits for.
    lane = f"setting {body.number % max(hub.pool.limits.workers, 1)}"
    job = TrySetting(statement.text())
    kind, *what = await hub.pool.submit(f"{project} {lane}", job, lane=lane).finished
    if kind != "done":
        raise HTTPException(409, what[0] if what else "This was cancelled.")
    figures, picture = what[0]
    return SettingMessage(figures=figures, picture=base64.b64encode(picture).decode())
