"""Beginnings: short real statements that new projects may start from."""

from __future__ import annotations

from pathlib import Path
from typing import Annotated

from fastapi import APIRouter, HTTPException, Request
from fastapi import Path as InPath
from fastapi.responses import Response
from pydantic import BaseModel

from ..statement.document import Statement
from ..statement.upgrade import read_upgraded
from .asked import PROBLEMS
from .demo_cards import card_of_demo
from .strict import StrictRoute

__all__ = ["BEGINNINGS", "Key", "beginning_router", "begun"]

beginning_router = APIRouter(prefix="/api/beginnings", responses=PROBLEMS, route_class=StrictRoute)

BEGINNINGS = {
    "roof-on-profiles": "Through profiles that one draws and drags, with a net, bars and panes.",
    "dome": "A cap by its span and rise, in triangles, with the panes it takes.",
    "hung-shell": "A net that hangs from its edge, turned over: it stands by thrust alone.",
    "hollow-columns": "A canopy that flows down into columns, settled, and cut into strips.",
    "space-frame": "Two layers and webs on columns, with hubs at their nodes.",
    "woven-timber": "Laths over and under each other, with scarfs where they are too long.",
    "waffle": "A body cut into ribs both ways that slot into each other.",
    "ground": "A piece of ground by its heights, as slotted card or board.",
    "seat": "A profile drawn by hand, drawn out and cut into slices that stand side by side.",
    "facade": "A curved wall with an opening in every cell, and its sheet rolled out flat.",
    "blocks": "A dome of cut blocks, each with templates of its faces.",
    "model": "A mesh or STEP file from elsewhere, to lay nets on or cut into ribs.",
    "lines": "Bars along lines that one draws, on columns, cut from stock.",
}
"""What each is, by the stem of its statement file, in the order in which they are offered."""

Key = Annotated[str, InPath(pattern="^[a-z-]{1,40}$")]


class Beginning(BaseModel):
    """A statement to begin with: its ``title`` is the name of what is begun."""

    key: str
    title: str
    says: str


def _file(request: Request, key: str) -> Path:
    folder: Path = request.app.state.settings.beginnings_folder
    if key not in BEGINNINGS:
        raise HTTPException(404, f"There is no beginning “{key}”.")
    return folder / f"{key}.json"


def begun(request: Request, key: str) -> Statement:
    """The statement a beginning is."""
    return read_upgraded(_file(request, key).read_bytes())


@beginning_router.get("")
def beginnings(request: Request) -> list[Beginning]:
    """What may be begun with, the likeliest first."""
    return [
        Beginning(key=key, title=begun(request, key).name, says=says)
        for key, says in BEGINNINGS.items()
    ]


@beginning_router.get("/{key}/picture", response_class=Response)
def picture(request: Request, key: Key) -> Response:
    """What comes of it; where that is nothing yet, what its last clause makes."""
    # What it draws with is only needed here; without it the server starts sooner.
    from ..exchange.guide import guide_picture

    card = card_of_demo(_file(request, key))
    drawn = card.picture if card else guide_picture(begun(request, key).clauses[-1].kind)
    if drawn is None:
        raise HTTPException(404, "There is no picture of that.")
    return Response(drawn, media_type="image/png", headers={"Cache-Control": "max-age=86400"})
