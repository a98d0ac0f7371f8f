"""The catalogue: what there is to see, measure, list and deliver, for the interface to ask."""

from __future__ import annotations

from fastapi import APIRouter
from pydantic import BaseModel

from ..clauses.registry import CLAUSE_TYPES
from ..core.geometry.nets import MARKS
from ..core.materials import MATERIALS
from ..core.results import RESULT_TYPES
from ..exchange.groups import GROUPS
from ..exchange.kinds import KINDS, Schedule
from ..statement.document import DimensionUnit
from .asked import PROBLEMS
from .strict import StrictRoute

__all__ = ["catalogue_router"]

catalogue_router = APIRouter(prefix="/api", responses=PROBLEMS, route_class=StrictRoute)


STEPS: dict[DimensionUnit, float] = {"m": 0.05, "mm": 1.0, "°": 1.0, "": 1.0}


class LayerMessage(BaseModel):
    """A layer of the view, the thing one picks in it, and whether it is shown at first."""

    name: str
    title: str
    thing: str
    shown: bool
    measured: bool
    alone: bool
    """Whether it is drawn as long as nothing stands for the result."""
    over: str
    """The layer with which alone it is drawn."""


class MeasureMessage(BaseModel):
    """A figure of each single thing of a result: how it is named, coloured, counted up and
    added."""

    name: str
    title: str
    unit: str
    layer: str
    thing: str
    scale: float
    digits: int
    even: bool
    bounds: tuple[float, float] | None
    before: str
    note: str
    total: bool
    spread: bool
    words: str
    """The list among a drawing's words that its values count in; empty for figures."""


class ResultTypeMessage(BaseModel):
    """A type of results: its things, layers and measures; its figures are not told once there are
    some of the type ``told_until``."""

    name: str
    title: str
    things: list[str]
    layers: list[LayerMessage]
    measures: list[MeasureMessage]
    told_until: str


class ScheduleMessage(BaseModel):
    """A schedule, the thing it tells all about, the types of results it needs, and a sentence for
    when it has no rows."""

    name: str
    title: str
    thing: str
    needs: tuple[str, ...]
    empty: str


class GroupMessage(BaseModel):
    """A group of files: what is in it, the types of results it needs one of, of which kinds of
    clauses where not of any, and whether it is only written when it is asked for."""

    key: str
    title: str
    about: str
    needs: list[str]
    made_by: list[str]
    on_request: bool


class UnitMessage(BaseModel):
    """A unit of dimensions, and by how much a click changes one."""

    name: DimensionUnit
    step: float


class MaterialMessage(BaseModel):
    """A material, its density (kg/m³) and modulus of elasticity (N/mm²)."""

    name: str
    title: str
    family: str
    density: float
    stiffness_n_mm2: float


class Catalogue(BaseModel):
    """All that the interface has no lists of its own of."""

    types: list[ResultTypeMessage]
    schedules: list[ScheduleMessage]
    pack_groups: list[GroupMessage]
    marks: list[str]
    """Words for marks of edges and cells, from the first on."""
    units: list[UnitMessage]
    """Units of dimensions."""
    materials: list[MaterialMessage]


def _type_message(name: str) -> ResultTypeMessage:
    told, kind = RESULT_TYPES[name], KINDS[name]
    return ResultTypeMessage(
        name=name,
        title=told.title,
        things=list(told.things),
        layers=[LayerMessage.model_validate(vars(layer)) for layer in kind.layers],
        measures=[MeasureMessage.model_validate(vars(measure)) for measure in kind.measures],
        told_until=kind.told_until,
    )


def _givers(name: str) -> str:
    """The clause, or clauses, that give results of a type."""
    titles = [c.title for c in CLAUSE_TYPES.values() if c.gives == name]
    if len(titles) == 1:
        return f"“{titles[0]}”"
    return f"a clause that gives {RESULT_TYPES[name].title}, such as “{titles[0]}”"


def _schedule_message(schedule: Schedule) -> ScheduleMessage:
    needed = schedule.empty or " and ".join(_givers(name) for name in schedule.needs)
    return ScheduleMessage(
        name=schedule.name,
        title=schedule.title,
        thing=schedule.thing,
        needs=schedule.needs,
        empty=f"No rows yet: they come with {needed}.",
    )


@catalogue_router.get("/catalogue")
def catalogue() -> Catalogue:
    """Types of results with their layers and measures, schedules, groups of files, marks, units."""
    every = [s for kind in KINDS.values() for s in kind.schedules if s.title]
    # One that comes with anything is not what a project is opened on.
    schedules = {s.name: s for s in sorted(every, key=lambda s: not s.needs)}
    return Catalogue(
        types=[_type_message(name) for name in KINDS],
        schedules=[_schedule_message(s) for s in schedules.values()],
        pack_groups=[
            GroupMessage.model_validate({"key": key} | vars(group)) for key, group in GROUPS.items()
        ],
        marks=list(MARKS[1:]),
        materials=[
            MaterialMessage(
                name=m.name,
                title=m.title,
                family=m.family,
                density=m.density,
                stiffness_n_mm2=m.stiffness / 1e6,
            )
            for m in MATERIALS.values()
        ],
        units=[UnitMessage(name=name, step=step) for name, step in STEPS.items()],
    )
