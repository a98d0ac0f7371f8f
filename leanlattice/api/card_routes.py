"""Routes of projects' cards: their pictures and figures."""

from __future__ import annotations

import json
from collections.abc import Iterable

from fastapi import APIRouter, HTTPException, Request
from fastapi.responses import Response
from starlette.concurrency import run_in_threadpool

from ..clauses.registry import CLAUSE_TYPES
from ..exchange.kinds import KINDS
from ..store.models import ProjectRow
from .asked import PROBLEMS, ProjectId, hub_of, sent_picture, store_of
from .jobs import Portray
from .messages import OutcomeMessage, ProjectCard
from .strict import StrictRoute

__all__ = ["card", "card_router", "figures_of_card"]

card_router = APIRouter(prefix="/api", responses=PROBLEMS, route_class=StrictRoute)


def card(row: ProjectRow) -> ProjectCard:
    told = json.loads(row.figures)
    builds = told.pop("builds", [])
    has_picture = told.pop("picture", False)
    return ProjectCard(
        id=row.id,
        name=row.name,
        created=row.created,
        changed=row.changed,
        demo=row.demo is not None,
        builds=builds,
        figures=told,
        has_picture=bool(has_picture),
    )


def figures_of_card(outcomes: Iterable[OutcomeMessage]) -> dict[str, object]:
    """What the card of a project says, by the words for it."""
    outcomes = list(outcomes)
    given = {o.gives for o in outcomes}
    words = [CLAUSE_TYPES[o.kind].builds for o in outcomes if o.status == "done"]
    out: dict[str, object] = {"picture": True, "builds": list(dict.fromkeys(filter(None, words)))}
    for outcome in filter(None, (_told(outcomes, name) for name in KINDS)):
        kind = KINDS[outcome.gives]
        if kind.told_until in given:
            continue
        for f in outcome.figures:
            if f.name in kind.card:
                told = {"value": f.value, "unit": f.unit, "decimals": f.decimals}
                out[kind.card[f.name]] = told
    return out


def _told(outcomes: Iterable[OutcomeMessage], type_name: str) -> OutcomeMessage | None:
    """The outcome whose result of a type is told of: the last that something of another type was
    made of, and so not the ground below it; where nothing was, the last. None where there is
    none."""
    done = [o for o in outcomes if o.status == "done"]
    gone = {i for o in done if o.gives == type_name for i in o.stands_for}
    used = {i for o in done if o.gives != type_name for i in o.stands_for}
    left = [o for o in done if o.gives == type_name and o.id not in gone]
    made = [o for o in left if o.id in used]
    return next(iter(reversed(made or left)), None)


async def _keep(
    request: Request, project: str, picture: bytes, outcomes: Iterable[OutcomeMessage]
) -> None:
    await run_in_threadpool(store_of(request).set_picture, project, picture)
    await run_in_threadpool(store_of(request).set_figures, project, figures_of_card(outcomes))


@card_router.get("/projects")
def projects(request: Request) -> list[ProjectCard]:
    return [card(row) for row in store_of(request).projects()]


@card_router.put("/projects/{project}/picture", status_code=204)
async def put_picture(request: Request, project: ProjectId) -> None:
    """The picture on the project's card, a PNG; its figures are those of the last evaluation."""
    picture = await sent_picture(request)
    session = await hub_of(request).session(project)
    await _keep(request, project, picture, session.outcomes.values())


@card_router.post("/projects/{project}/picture")
async def portray(request: Request, project: ProjectId) -> ProjectCard:
    """Works a project out in the background to make its card a picture, where it has none."""
    position = await run_in_threadpool(store_of(request).position, project)
    if not card(store_of(request).project(project)).has_picture:
        kind, *what = (
            await hub_of(request).pool.submit_aside(Portray(position.statement.text())).finished
        )
        if kind != "done":
            raise HTTPException(409, what[0] if what else "This was cancelled.")
        outcomes, picture = what[0]
        # It may have been opened meanwhile, which makes a better one.
        if not card(store_of(request).project(project)).has_picture:
            await _keep(request, project, picture, outcomes)
    return card(store_of(request).project(project))


@card_router.get("/projects/{project}/picture", response_class=Response)
def get_picture(request: Request, project: ProjectId) -> Response:
    picture = store_of(request).picture(project)
    if picture is None:
        raise HTTPException(404, "This project has no picture yet; open it once.")
    return Response(picture, media_type="image/png", headers={"Cache-Control": "no-cache"})
