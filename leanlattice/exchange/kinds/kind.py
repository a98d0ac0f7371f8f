"""What the outside does with the results of one type: one object says it all."""

from __future__ import annotations

from collections.abc import Callable, Iterable, Mapping
from dataclasses import dataclass, field
from typing import Any, Protocol

import numpy as np
from numpy.typing import NDArray

from ...core.materials import MATERIALS
from ..subjects import Subject
from ..tables import Table

__all__ = [
    "UNSPECIFIED",
    "Arrays",
    "BuildingModel",
    "Drawing",
    "Kind",
    "Layer",
    "Lines",
    "Measure",
    "NotMade",
    "Picture",
    "Schedule",
    "Solid",
    "looks_of",
    "narrow",
    "plain_drawing",
]

UNSPECIFIED = "not specified"
"""Material of what has none."""
Places = NDArray[np.float64]
Arrays = dict[str, NDArray[Any]]
Drawing = tuple[dict[str, Any], Arrays]
"""What the view is sent of a result: a few plain values, and arrays by name."""


@dataclass(frozen=True)
class Layer:
    """A layer of the view: the ``thing`` one picks in it, whether it is ``shown`` at first, and
    whether it is drawn from measures too. One that is seen ``alone`` is drawn as long as nothing
    stands for the result, wanted or not; one ``over`` another only with that."""

    name: str
    title: str
    thing: str = ""
    shown: bool = False
    measured: bool = False
    alone: bool = False
    over: str = ""


@dataclass(frozen=True)
class Measure:
    """A figure of each single thing of a result, by its ``name`` among the measures sent.

    It colours a ``layer`` and is shown in ``unit`` after it was multiplied by ``scale``, with so
    many ``digits``. One that is ``even`` lies on either side of nothing; ``bounds`` do not follow
    the values; ``before`` names the same measure before a net settled. Without a ``thing`` one
    cannot pick by it, and with ``total`` what is picked adds up to a figure.
    """

    name: str
    title: str
    unit: str
    layer: str
    thing: str = ""
    scale: float = 1.0
    digits: int = 2
    even: bool = False
    bounds: tuple[float, float] | None = None
    before: str = ""
    note: str = ""
    total: bool = False
    spread: bool = True
    """Whether its values are counted up in a distribution."""
    words: str = ""
    """The list, among the ``words`` told of a drawing, that its values count in from 0."""


@dataclass(frozen=True)
class Schedule:
    """A table of a result, written as ``{name}.csv`` in a ``group`` of a pack.

    One with a ``title`` is shown on the Schedules screen; it ``needs`` results of these types, or
    any of what ``empty`` names, and tells all about each single ``thing``.
    """

    name: str
    build: Callable[[Subject], Table | None]
    title: str = ""
    needs: tuple[str, ...] = ()
    thing: str = ""
    group: str = "schedules"
    empty: str = ""


@dataclass(frozen=True)
class Solid:
    """A body or skin in models: its ``name``, how it looks, places (n, 3) in metres and triangles
    (m, 3)."""

    name: str
    look: str
    vertices: Places
    triangles: NDArray[np.int32]


@dataclass(frozen=True)
class Lines:
    """Lines of a wireframe: their ``ends`` (n, 2, 3) in metres, and the layer of each (n,)."""

    ends: Places
    layers: NDArray[np.str_]


@dataclass(frozen=True)
class Picture:
    """What a small picture shows: places (n, 3), triangles (m, 3) or none, and lines (k, 3), which
    are drawn in ``colour`` where there are no triangles."""

    places: Places
    triangles: NDArray[np.int32] | None
    lines: list[Places]
    colour: tuple[int, int, int] = (61, 74, 134)


@dataclass(frozen=True)
class NotMade:
    """Something that is designed but cannot be made as it is: what it is, its label, and why, where
    lengths are known as numbers (``said``)."""

    what: str
    label: str
    why: str


class BuildingModel(Protocol):
    """A building model that elements are added to."""

    def profile(self, section: Any) -> Any:
        """The profile of a section, made once."""

    def outline(self, outer: Places, inner: Iterable[Places] = ()) -> Any:
        """A profile bounded by a ring (n, 2) in metres, with openings."""

    def add(
        self,
        kind: str,
        label: str,
        type_name: str,
        place: Places,
        axes: Places,
        profile: Any,
        depth: float,
        material: str,
        predefined: str,
        planes: Places | None = None,
    ) -> None:
        """An element of class ``kind`` with a ``label``, of the type ``type_name``: a ``profile``
        extruded by ``depth`` along the third of ``axes`` (3, 3; rows x, y, z) from ``place``, in a
        ``material``, ``predefined`` as the standard's enumeration has it; cut off at ``planes``
        (k, 4), each a normal out of it and a level in metres."""

    def add_faced(
        self,
        kind: str,
        label: str,
        type_name: str,
        vertices: Places,
        triangles: NDArray[np.integer[Any]],
        material: str,
        predefined: str,
        closed: bool = True,
        frame: tuple[Places, Places] | None = None,
        layer: float = 0.0,
    ) -> None:
        """An element bounded by ``triangles`` (m, 3) of ``vertices`` (n, 3), which are ``closed``
        or an open shell; ``kind``, ``label``, ``type_name``, ``material`` and ``predefined`` as in
        ``add``, its own ``frame``, a place and axes (3, 3; rows x, y, z), where it has one, and the
        thickness of the ``layer`` it is, where it is one."""

    def describe(self, text: str) -> None:
        """Tells of the element that was added last what it is one of; nothing by no text."""

    def add_axis(self, places: Places, bulges: Places) -> None:
        """The axis of the element that was added last and stands at the origin: through ``places``
        (n, 3) in metres, straight or in arcs by their ``bulges`` (n − 1, 3)."""


@dataclass(frozen=True)
class Kind:
    """What the outside does with results of the type ``name``.

    The view draws ``layers`` of what ``drawn`` makes of a result, or without it of its ``picture``;
    while a hand drags, of its ``sketch`` where ``has_sketch`` says that there is one. ``measured``
    gives the values of its ``measures``, and of others that only the view needs.

    ``named`` gives the numbers of its things and what stands before them, where names are made of
    these. Where it is ``measured_later``, a hand that drags does not wait for the values.
    ``schedules``, ``solids``, ``lines`` and ``building`` are for files. ``card`` has the words by
    which the project's card tells figures, by their names. Figures of this type are not told once
    there are some of the type ``told_until``.
    """

    name: str
    layers: tuple[Layer, ...] = ()
    drawn: Callable[[Any], Drawing] | None = None
    has_sketch: Callable[[Any], bool] = lambda result: False
    sketch: Callable[[Any], Drawing] | None = None
    measures: tuple[Measure, ...] = ()
    measured: Callable[[Any], Arrays] | None = None
    measured_later: bool = False
    named: Callable[[Any], Drawing] | None = None
    schedules: tuple[Schedule, ...] = ()
    solids: Callable[[Subject], Iterable[Solid]] | None = None
    lines: Callable[[Subject], Lines | None] | None = None
    building: Callable[[BuildingModel, Subject], None] | None = None
    not_made: Callable[[Subject], Iterable[NotMade]] | None = None
    picture: Callable[[Any], Picture] | None = None
    portrait: bool = True
    """Whether its picture may be that of a project."""
    delivered: Callable[[Subject], bool] = lambda subject: subject.head
    """Whether files are written of a result at all."""
    card: Mapping[str, str] = field(default_factory=dict)
    told_until: str = ""

    @property
    def is_drawn(self) -> bool:
        """Whether the view is sent anything of it."""
        return self.drawn is not None or (bool(self.layers) and self.picture is not None)

    def drawing(self, result: Any, sketched: bool = False) -> Drawing:
        """What the view is sent of a result; its sketch if wanted and there is one."""
        if sketched and self.sketch is not None and self.has_sketch(result):
            return self.sketch(result)
        if self.drawn is not None:
            return self.drawn(result)
        if self.picture is None:
            raise TypeError(f"There is nothing to draw of “{self.name}”.")
        return plain_drawing(self.picture(result))


def narrow(values: NDArray[Any]) -> NDArray[Any]:
    """The same numbers in the narrowest unsigned type of 2 or 4 bytes that holds them."""
    return values.astype(np.uint16 if values.size == 0 or values.max() < 65536 else np.uint32)


def looks_of(names: Iterable[str]) -> dict[str, Any]:
    """How materials of such ``names`` look, one by one: colour, finish, whether it is clear."""
    materials = [MATERIALS[name] for name in names]
    return {
        "looks": [list(material.look) for material in materials],
        "finishes": [material.finish for material in materials],
        "clear": [material.clear for material in materials],
    }


def plain_drawing(picture: Picture) -> Drawing:
    """What a view draws of what has no drawing of its own: triangles and lines."""
    starts = [line[:-1] for line in picture.lines]
    ends = [line[1:] for line in picture.lines]
    count = sum(map(len, starts))
    pairs = len(picture.places) + np.arange(2 * count).reshape(-1, 2)
    none = np.zeros((0, 3))
    between = np.stack([np.vstack([none, *starts]), np.vstack([none, *ends])], axis=1)
    triangles = np.zeros((0, 3), np.int32) if picture.triangles is None else picture.triangles
    return {}, {
        "positions": np.vstack([picture.places, between.reshape(-1, 3)]).astype("<f4"),
        "triangles": narrow(triangles),
        "lines": narrow(pairs),
    }
