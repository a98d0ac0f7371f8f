"""The flat part, and panels made into flat parts."""

from __future__ import annotations

from collections.abc import Callable
from dataclasses import dataclass, field

import numpy as np
import shapely
from numpy.typing import NDArray

from ..geometry.bends import Bend
from ..panels.outlines import outlines_of_panels
from ..panels.panels import Panels
from ..results import Result
from .lettering import LABEL_HEIGHT, NEIGHBOUR_HEIGHT, Names, lettered

__all__ = ["CutResult", "Part", "Parts", "panel_parts"]

Array = NDArray[np.float64]


@dataclass(frozen=True, eq=False)
class Part(Result):
    """One flat piece; outlines (n, 2) in mm, outer counter-clockwise, seen from its outside.

    ``marks`` are open polylines (n, 2) of single-stroke lettering, ``scores`` lines (2, 2) along
    which it is folded. ``pose`` (4, 4) takes (x, y, 0,
    1) in millimetres to its place in metres; where it is bent, by ``bend`` in metres, to that of
    one of its plane pieces, and of one that is folded to the piece with the first of its triangles.
    Area in mm².
    """

    label: str
    kind: str
    outer: Array
    pose: Array
    material: str
    thickness: float
    inner: tuple[Array, ...] = ()
    marks: tuple[Array, ...] = field(default=())
    bend: Bend | None = None
    scores: tuple[Array, ...] = ()

    def places(self, flat: Array) -> Array:
        """Places (n, 3) in metres of flat ones (n, 2) in millimetres."""
        if self.bend is not None:
            return self.bend.places(flat / 1000)
        return np.asarray(flat @ self.pose[:3, :2].T + self.pose[:3, 3])

    def pieces(self) -> list[tuple[shapely.Polygon, Array]]:
        """Its plane pieces, in millimetres, each with its pose (3, 4): itself where it is not
        bent."""
        shape = shapely.Polygon(self.outer, self.inner)
        if self.bend is None:
            return [(shape, self.pose[:3])]
        low, high = shape.bounds[0], shape.bounds[2]
        ends, out = self.bend.at * 1000, []
        for k, pose in enumerate(self.bend.poses()):
            a = ends[k] if k else min(low, ends[0])
            b = ends[k + 1] if k + 1 < self.bend.pieces else max(high, ends[-1])
            piece = shapely.clip_by_rect(shape, a, shape.bounds[1] - 1, b, shape.bounds[3] + 1)
            out += [
                (p, pose)
                for p in shapely.get_parts(piece)
                if isinstance(p, shapely.Polygon) and not p.is_empty
            ]
        return out

    @property
    def grade(self) -> tuple[str, float]:
        """Material and thickness (mm), to a hundredth: what lies on one sheet agrees in both."""
        return self.material, round(self.thickness, 2)

    @property
    def shape(self) -> shapely.Polygon:
        """Its outline less its openings, in mm."""
        return shapely.Polygon(self.outer, self.inner)

    @property
    def area(self) -> float:
        return float(self.shape.area)

    @property
    def cut_length(self) -> float:
        """Length in mm of all outlines."""
        return float(shapely.Polygon(self.outer, self.inner).length)


@dataclass(frozen=True, eq=False)
class Parts(Result):
    """Flat parts (n) of the things ``of`` a kind in a result: panels, ribs.

    ``source`` (n,) is the thing each part is of. Of some there may be no part, ``missing`` (k,)
    with their labels, as they are too small for the ``joint`` (mm) that is taken off, and some
    parts have no room for all their names, ``unlabelled`` (k,).
    """

    parts: tuple[Part, ...]
    of: str
    source: NDArray[np.int32]
    missing: NDArray[np.int32]
    unlabelled: NDArray[np.int32]
    missing_labels: tuple[str, ...] = ()
    joint: float = 0.0

    @classmethod
    def each(cls, parts: tuple[Part, ...], of: str, unlabelled: NDArray[np.int32]) -> Parts:
        """Parts that are the things themselves, none of them missing."""
        every, none = np.arange(len(parts), dtype=np.int32), np.zeros(0, np.int32)
        return cls(parts, of, every, none, unlabelled)

    @property
    def count(self) -> int:
        """Number of parts."""
        return len(self.parts)

    def by_source(self) -> dict[int, Part]:
        """Parts by the things they are of."""
        return dict(zip(self.source.tolist(), self.parts, strict=True))


class CutResult(Result):
    """Base of results that are flat parts themselves: ``parts`` (n,) of one kind, ``unlabelled``
    (k,) of them without room for all that is written on them."""

    parts: tuple[Part, ...]
    unlabelled: NDArray[np.int32]

    @property
    def count(self) -> int:
        """Number of parts."""
        return len(self.parts)

    @property
    def labels(self) -> list[str]:
        """Their labels."""
        return [part.label for part in self.parts]

    @property
    def flat_parts(self) -> Parts:
        """As parts that are set out on sheets."""
        kind = self.parts[0].kind if self.parts else ""
        return Parts.each(self.parts, kind, self.unlabelled)


def panel_parts(
    panels: Panels, labels: list[str], progress: Callable[[float], None] = lambda share: None
) -> Parts:
    """Flat parts of all panels, with their outline held back by half the joint on every side.

    A part lies with its longest side along x. ``progress`` is told the share done.
    """
    cut = outlines_of_panels(panels)
    polygons, alive = cut.polygons, cut.left
    room = np.zeros((panels.count, 3))
    lines = shapely.maximum_inscribed_circle(polygons[alive], tolerance=1.0)
    room[alive, :2] = shapely.get_coordinates(lines).reshape(-1, 2, 2)[:, 0]
    room[alive, 2] = shapely.length(lines)
    sheets, of = panels.sheets, panels.sheet_of.tolist()
    parts: list[Part] = []
    unlabelled: list[int] = []
    made = np.flatnonzero(alive).astype(np.int32)
    for i in made:
        if i % 50 == 0:
            progress(i / panels.count)
        beyond = panels.neighbour[panels.offsets[i] : panels.offsets[i + 1]]
        around = [labels[j] if j >= 0 else "" for j in beyond]
        names = _names(labels[i], around, cut.sharp[i], polygons[i], room[i])
        if not names.complete:
            unlabelled.append(len(parts))
        part = Part(
            label=labels[i],
            kind="panel",
            outer=cut.outer[i],
            inner=cut.holes[i],
            pose=cut.poses[i],
            material=sheets[of[i]].material,
            thickness=sheets[of[i]].thickness * 1000,
            marks=tuple(names.strokes),
        )
        parts.append(part)
    missing = np.flatnonzero(~alive).astype(np.int32)
    no_room = np.array(unlabelled, np.int32)
    without = tuple(labels[k] for k in missing)
    joint = panels.joint * 1000
    return Parts(tuple(parts), "panel", made, missing, no_room, without, joint)


def _names(
    label: str, around: list[str], corners: Array, polygon: shapely.Polygon, room: Array
) -> Names:
    """A part's own label in its widest place, ``room`` (3,): middle and radius, and its
    neighbours' along their sides."""
    names = Names(polygon)
    box = lettered(label, LABEL_HEIGHT, room[:2], 0.0)[1]
    fit = 0.85 * room[2] / (np.hypot(*np.ptp(box, axis=0)) / 2)
    names.write(label, LABEL_HEIGHT * min(fit, 1.0), room[None, :2])
    for k, name in enumerate(around):
        if not name:
            continue
        a, b = corners[k], corners[(k + 1) % len(corners)]
        along = (b - a) / np.linalg.norm(b - a)
        inward = np.array([-along[1], along[0]])
        angle = float(np.arctan2(along[1], along[0]))
        names.write(name, NEIGHBOUR_HEIGHT, ((a + b) / 2)[None], angle, 1.2 * inward)
    return names
