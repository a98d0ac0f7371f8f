"""Routes of what people keep in the margin of a project: views, distances, targets and axes, and
how lengths are written."""

from __future__ import annotations

from typing import Annotated, Literal

from fastapi import APIRouter, Request
from pydantic import BaseModel, ConfigDict, Field, ValidationError

from .asked import PROBLEMS, ProjectId, store_of
from .strict import StrictRoute

__all__ = ["Margin", "margin_router"]

margin_router = APIRouter(
    prefix="/api/projects/{project}/margin", responses=PROBLEMS, route_class=StrictRoute
)

Metres = Annotated[float, Field(ge=-1e9, le=1e9, allow_inf_nan=False)]
Share = Annotated[float, Field(ge=0, le=1, allow_inf_nan=False)]
Amount = Annotated[float, Field(allow_inf_nan=False)]
Name = Annotated[str, Field(min_length=1, max_length=120)]
Spot = tuple[Metres, Metres, Metres]


class _Noted(BaseModel):
    model_config = ConfigDict(extra="forbid")


class Stand(_Noted):
    """Where a camera stands and what it looks at, and half the height it sees in parallel looks."""

    position: Spot
    target: Spot
    half: Metres


class CutThere(_Noted):
    """A section cut across an axis, at a share of the model's extent."""

    axis: Literal["x", "y", "z"]
    share: Share


class KeptView(_Noted):
    """A view one comes back to: from where, with which layers, by what it is coloured, and cut."""

    name: Name
    stand: Stand
    look: Literal["oblique", "plan", "x", "y"]
    shown: Annotated[dict[Name, bool], Field(max_length=200)]
    colour_by: Name
    cut: CutThere | None = None


class Distance(_Noted):
    """A distance that was measured, between two places."""

    start: Spot
    end: Spot


class Target(_Noted):
    """What a figure is to be at least or at most."""

    least: Amount | None = None
    most: Amount | None = None


class GridAxes(_Noted):
    """How far grid axes lie apart, 0 for none, and at which heights there are levels."""

    on: bool = False
    x: Annotated[Metres, Field(ge=0)] = 5.0
    y: Annotated[Metres, Field(ge=0)] = 5.0
    levels: Annotated[list[Metres], Field(max_length=60)] = [0.0]


class Margin(_Noted):
    """What is kept of a project beside its statement."""

    views: Annotated[list[KeptView], Field(max_length=200)] = []
    distances: Annotated[list[Distance], Field(max_length=500)] = []
    targets: Annotated[dict[Name, Target], Field(max_length=500)] = {}
    axes: GridAxes = GridAxes()
    lengths: Literal["metric", "feet"] = "metric"


@margin_router.get("")
def margin(request: Request, project: ProjectId) -> Margin:
    """What stands in the margin of a project; what cannot be read is as if it were not there."""
    notes = store_of(request).margin(project)
    try:
        return Margin.model_validate(notes)
    except ValidationError as error:
        wrong = {fault["loc"][0] for fault in error.errors()}
        return Margin.model_validate({k: v for k, v in notes.items() if k not in wrong})


@margin_router.patch("", status_code=204)
def note(request: Request, project: ProjectId, body: Margin) -> None:
    """Notes what is given in place of what stood there; the rest stays as it is."""
    store_of(request).note(project, body.model_dump(mode="json", exclude_unset=True))
