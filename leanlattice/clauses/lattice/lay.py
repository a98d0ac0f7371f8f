"""Clauses that lay a net on a shape, and what draws its pattern together."""

from __future__ import annotations

import math
from abc import abstractmethod
from collections.abc import Mapping
from dataclasses import dataclass, replace
from typing import Any, ClassVar, Literal

import numpy as np
from numpy.typing import NDArray

from ...core.geometry.charts import Charted
from ...core.geometry.meshes import Body
from ...core.geometry.meshsurface import MeshSurface
from ...core.geometry.nets import NetError
from ...core.geometry.projected import ProjectionError, projected
from ...core.geometry.surfaces import Surface
from ...core.patterns.borders import BORDERS
from ...core.patterns.drawnmodule import ModuleError, module_of_lines
from ...core.patterns.lay import Placing, bays_for_module, bays_of_module, lay
from ...core.patterns.pulls import Pull, pull_at
from ...core.patterns.table import PATTERNS, Pattern, own_pattern, whole_bays
from ...core.results import Result, result_type
from ..base import (
    Clause,
    ClauseError,
    Figure,
    Made,
    Notice,
    Remedy,
    Work,
    choice,
    count,
    headline,
    number,
    places,
)
from ..by_size import MODULES
from ..said import metres
from ..shape.common import PULLS, Place, checked_points, surface_needed
from ..shape.drawn import CURVES, Curves
from .common import MOST_CELLS, SHAPE, NetClause, made_net, net_of

__all__ = ["LayModule", "LayPattern", "PullAlong", "PullTo", "Pulling", "TakeFaces"]

Array = NDArray[np.float64]


@result_type("Pull", "pull", serves=True)
@dataclass(frozen=True, eq=False)
class Pulling(Result):
    """Points (k, 2 or 3 coordinates) that pull one by one, or lines that pull as a whole."""

    lines: tuple[Array, ...]
    strength: float
    reach: float

    def on(self, surface: Surface) -> list[Pull]:
        return [pull_at(surface, line, self.strength, self.reach) for line in self.lines]


class PullClause(Clause):
    """Base of clauses that draw a pattern together."""

    chapter = "Lattice"
    gives = "Pull"


def _strength() -> float:
    return number(
        50.0, "%", -90.0, 90.0, 5.0, "Strength", "Below 0 % it spreads the pattern instead."
    )


def _reach() -> float:
    return number(
        4.0, "m", 0.05, 1000.0, 0.1, "Reach", "Where the pull has fallen to about a third"
    )


class PullTo(PullClause):
    kind = "pull"
    title = "Pull points"
    summary = "Points that draw the next pattern together about themselves, or spread it."
    sentence = "**Pull** the pattern to {points} by {strength} within {reach}."

    points: list[Place] = places(
        lambda: [(0.0, 0.0, 3.0)], "Points", "Drag them in the view; Alt drags up and down."
    )
    strength: float = _strength()
    reach: float = _reach()

    def make(self, work: Work) -> Made:
        points = checked_points(self.points, 1, 40, "pull points", "points")
        return Made(Pulling(tuple(p[None] for p in points), self.strength / 100, self.reach))


class PullAlong(PullClause):
    kind = "pull-curves"
    title = "Pull curves"
    summary = "Curves that draw the next pattern together along themselves, or spread it."
    sentence = "**Pull** the pattern to the curves by {strength} within {reach}."
    takes = (CURVES,)

    strength: float = _strength()
    reach: float = _reach()

    def make(self, work: Work) -> Made:
        drawn: Curves = work.inputs["curves"]
        lines = []
        for c in drawn.curves[:40]:
            line = c.polyline(c.path.size * 2e-3)
            lines.append(np.vstack([line, line[:1]]) if c.path.closed else line)
        return Made(Pulling(tuple(lines), self.strength / 100, self.reach))


LIES = (
    "{density}: [density=bays|{bays_across} across and {bays_along} along]"
    "[density=module|as near {module} as whole bays allow]"
    "[density=exact|{module}, what is left over at the borders]¦, "
    "{spread}[spread=plan| from {rise} above the level and {azimuth} in plan], {turned}[turned=turned| by {turn}]"
    "[turned=moved| by {across} bays across and {along} along], {border}[border=cut|, cells under {sliver} merged]."
)


@dataclass(frozen=True)
class Laid:
    """What a clause lays: the pattern, and what it needs besides where it lies."""

    pattern: Pattern
    seed: int = 1
    rounds: int = 0
    sectors: int = 6
    lean: float = 0.0
    warnings: tuple[Notice, ...] = ()


class LaidClause(NetClause):
    """Base of clauses that lay a pattern: its density, how it lies, and what happens at the
    border."""

    # Bays of much the same size whatever the proportions of the shape are.
    begins: ClassVar[Mapping[str, Any]] = {"density": "module"}

    density: Literal["bays", "module", "exact"] = choice(
        "bays",
        {"bays": "number of bays", "module": "module", "exact": "exact module"},
        "Density",
        "A module is solved along the real lengths.",
    )
    bays_across: int = count(
        16,
        1,
        2000,
        "Bays across",
        "Along the profiles of a loft; around a dome.",
        ("bay", "bays"),
    )
    bays_along: int = count(
        24, 1, 2000, "Bays along", "From profile to profile; from a dome's edge to its apex."
    )
    module: float = number(
        1.5,
        "m",
        0.01,
        1000.0,
        0.01,
        "Module",
        "Mean size of a bay along the surface; of equilateral triangles, hexagons and tri-hexagons the side.",
        by_size=MODULES,
    )
    spread: Literal["parameters", "even", "plan"] = choice(
        "parameters",
        {"parameters": "by the shape's parameters", "even": "by even lengths", "plan": "projected"},
        "How it lies",
    )
    azimuth: float = number(
        0.0, "°", -360.0, 360.0, 5.0, "Direction in plan", "The picture is projected from there"
    )
    rise: float = number(90.0, "°", -90.0, 90.0, 5.0, "Angle upward", "90° is straight from above")
    turned: Literal["straight", "mirrored", "turned", "moved"] = choice(
        "straight",
        {"straight": "straight", "mirrored": "mirrored", "turned": "turned", "moved": "moved"},
        "Turned",
    )
    turn: float = number(
        45.0, "°", -360.0, 360.0, 1.0, "Turn", "About the middle of the shape's parameters"
    )
    across: float = number(0.5, "", -1000.0, 1000.0, 0.05, "Moved across")
    along: float = number(0.0, "", -1000.0, 1000.0, 0.05, "Moved along")
    border: str = choice("cut", {k: b.title for k, b in BORDERS.items()}, "Border")
    sliver: float = number(
        5.0,
        "%",
        0.0,
        90.0,
        1.0,
        "Slivers",
        "Cells cut to less of the usual cell are merged with a neighbour; 0 % keeps them.",
    )

    @abstractmethod
    def laid(self, work: Work) -> Laid:
        """The pattern; raises ``ClauseError`` where there is none."""

    def make(self, work: Work) -> Made:
        laid = self.laid(work)
        surface = self._seen(surface_needed(work.inputs["shape"], whole=True))
        closed = (surface.closed_u, surface.closed_v)
        asked = self._bays(surface, laid.pattern)
        self._check_count(asked, laid)
        longer = (1.0, 1.0)
        if self.density == "exact":
            asked, longer = self._exact(surface, laid.pattern)
            self._check_count(asked, laid)
        bays = whole_bays(laid.pattern, asked, closed)
        placing = self._placing(
            surface,
            laid,
            [p for given in work.inputs.get("pulls") or [] for p in given.on(surface)],
        )
        placing = replace(placing, longer=longer)
        try:
            net = lay(surface, laid.pattern, bays, self.border, placing)
        except NetError as error:
            raise ClauseError(
                f"{error} More bays, or a border cut at the edge, will help.", "bays_across"
            ) from None
        if net.cell_count == 0:
            raise ClauseError(
                f"With {bays[0]} × {bays[1]} bays and {BORDERS[self.border].title}, no cell is left; use more bays or cut at "
                "the edge.",
                "border",
            )
        warnings = list(laid.warnings)
        if self.density == "bays" and bays != asked:
            warnings.append(
                Notice(
                    f"{asked[0]} × {asked[1]} bays would not close on themselves with this pattern; "
                    f"{bays[0]} × {bays[1]} were made.",
                    value="bays_across" if bays[0] != asked[0] else "bays_along",
                )
            )
        if surface.pieced and self.border != "cut":
            warnings.append(
                Notice(
                    "On the faces of a body a pattern is always cut where they meet.",
                    value="border",
                )
            )
        made = made_net(net, None, warnings)
        return replace(
            made, figures=made.figures | self._deviation(surface, bays, longer, laid.pattern)
        )

    def _seen(self, surface: Surface) -> Surface:
        """The surface as the pattern is to see it."""
        if self.spread != "plan":
            return surface
        if surface.pieced:
            raise ClauseError(
                "A pattern cannot be projected onto all sides of a body; take its top as a surface first, or lay the pattern by "
                "the shape's parameters.",
                "spread",
            )
        a, r = np.radians(self.azimuth), np.radians(self.rise)
        try:
            return projected(
                surface, np.array([np.cos(a) * np.cos(r), np.sin(a) * np.cos(r), np.sin(r)])
            )
        except ProjectionError as error:
            raise ClauseError(
                f"The pattern cannot be projected that way: as seen from there {error}. Another direction, or laying it by the "
                "shape's parameters, works.",
                "spread",
            ) from None

    def _placing(self, surface: Surface, laid: Laid, pulls: list[Pull]) -> Placing:
        wanted = laid.pattern
        straight = self.turned in ("straight", "moved")
        if not straight and (surface.closed_u or surface.closed_v) and self.turned == "turned":
            raise ClauseError(
                "A pattern cannot be turned on a shape that closes on itself, as it would not meet itself again; move it, or use "
                "skewed quads or a diagrid instead.",
                "turned",
            )
        if not straight and not wanted.turns:
            raise ClauseError(
                f"The pattern “{wanted.title}” lies straight; choose that, or another pattern.",
                "turned",
            )
        moved = self.turned == "moved" and wanted.turns
        return Placing(
            border=self.border,
            turn=float(np.radians(self.turn)) if self.turned == "turned" else 0.0,
            shift=(self.across, self.along) if moved else (0.0, 0.0),
            lean=laid.lean,
            mirrored=self.turned == "mirrored",
            even=self.spread == "even",
            pulls=tuple(pulls),
            sliver=self.sliver / 100,
            seed=laid.seed,
            rounds=laid.rounds,
            sectors=laid.sectors,
        )

    def _check_count(self, bays: tuple[int, int], laid: Laid) -> None:
        cells = (
            laid.sectors * bays[1] ** 2
            if laid.pattern.needs == "sectors"
            else round(bays[0] * bays[1] * laid.pattern.cells_per_bay)
        )
        if cells <= MOST_CELLS:
            return
        share = (cells / MOST_CELLS) ** 0.5
        facts: dict[str, Any] = {"cells": cells, "most": MOST_CELLS}
        if self.density != "bays":
            larger = float(np.ceil(self.module * share * 100) / 100)
            facts |= {"module": self.module, "works": larger}
            remedy = Remedy(f"Make it {metres(larger)}", {"module": larger})
            raise ClauseError.of("module too small", facts, "module", remedies=(remedy,))
        across, along = (max(int(count / share), 1) for count in bays)
        facts |= {"across": bays[0], "along": bays[1], "fewer": across, "and_along": along}
        fewer = {"bays_across": across, "bays_along": along}
        remedy = Remedy(f"Lay {across:,} × {along:,} bays", fewer)
        raise ClauseError.of("too many bays", facts, "bays_across", remedies=(remedy,))

    def _bays(self, surface: Surface, pattern: Pattern) -> tuple[int, int]:
        least = 3 if surface.closed_u else 1
        if self.density == "bays":
            if surface.closed_v and self.bays_along < 3:
                raise ClauseError(
                    f"{self.bays_along} bays do not close a ring; give 3 or more along.",
                    "bays_along",
                )
            if self.bays_across < least:
                raise ClauseError(
                    f"{self.bays_across} bays do not close a ring; give {least} or more around this shape.",
                    "bays_across",
                )
            return self.bays_across, self.bays_along
        along_u, along_v = surface.lengths
        most = min(along_u / least, along_v)
        if self.module > most:
            fits = _at_most(most, 2)
            facts = {"module": self.module, "along_u": along_u, "along_v": along_v, "fits": fits}
            remedy = Remedy(f"Make it {metres(fits)}", {"module": fits})
            raise ClauseError.of("module too large", facts, "module", remedies=(remedy,))
        return bays_for_module(surface, self.module, pattern)

    def _exact(
        self, surface: Surface, pattern: Pattern
    ) -> tuple[tuple[int, int], tuple[float, float]]:
        """Bays of exactly the module, and by how much they are longer than the shape."""
        if surface.pieced:
            raise ClauseError(
                "On the faces of a body bays are whole, so that cells meet along its edges; choose the module as near as whole "
                "bays allow, or take a side of the body first.",
                "density",
            )
        if self.border == "past":
            raise ClauseError(
                "With an exact module cells end at the border or before it; cut at the edge, or keep whole cells only.",
                "border",
            )
        return bays_of_module(surface, self.module, pattern)

    def _deviation(
        self,
        surface: Surface,
        bays: tuple[int, int],
        longer: tuple[float, float],
        pattern: Pattern,
    ) -> dict[str, Figure]:
        side = pattern.side
        sizes = [
            length * more / n for length, more, n in zip(surface.lengths, longer, bays, strict=True)
        ]
        fitting = [round(n / more, 2) for n, more in zip(bays, longer, strict=True)]
        decimals = 2 if self.density == "exact" else 0
        out = {
            "bays_across": Figure("Bays across", fitting[0] if decimals else bays[0], "", decimals),
            "bays_along": Figure("Bays along", fitting[1] if decimals else bays[1], "", decimals),
            "module_across": Figure("Mean bay across", sizes[0], "m", 3),
            "module_along": Figure("Mean bay along", sizes[1], "m", 3),
        }
        if self.density != "bays":
            for name, size, share in zip(("across", "along"), sizes, side, strict=True):
                deviation = (size / (self.module * share) - 1) * 100
                out[f"deviation_{name}"] = headline(f"Deviation {name}", deviation, "%", 1)
        return out


class LayPattern(LaidClause):
    kind = "pattern"
    version = 3
    title = "Lay a pattern"
    summary = "A net of one of many patterns on the shape, by number of bays or by module."
    sentence = (
        "**Lay** {pattern}[pattern=voronoi| of seed {seed}, drawn apart {rounds}][pattern=nudged| by seed {seed}, drawn "
        "apart {rounds}][pattern=sectors|, {sectors} of them][pattern=rhombs| that lean by {lean}], by "
        + LIES
    )
    takes = (SHAPE, PULLS)

    pattern: str = choice(
        "diagrid", {k: p.title for k, p in PATTERNS.items()}, "Pattern", pictured=True
    )
    seed: int = count(1, 0, 100_000, "Seed", "Another seed scatters the points otherwise")
    rounds: int = count(
        8,
        0,
        100,
        "Drawn apart",
        "Each time the points move to the middles of their cells",
        words=("time", "times"),
    )
    sectors: int = count(6, 3, 60, "Sectors")
    lean: float = number(
        0.5, "bays", -5.0, 5.0, 0.05, "Lean", "How far each row stands from the one before"
    )

    def laid(self, work: Work) -> Laid:
        pattern = PATTERNS[self.pattern]
        lean = self.lean if pattern.needs == "lean" else 0.0
        return Laid(pattern, self.seed, self.rounds, self.sectors, lean)


class LayModule(LaidClause):
    kind = "own-module"
    title = "Lay a module of one's own"
    summary = "Lines drawn in one bay, repeated across and along the shape; they match at the bay's borders."
    sentence = (
        "**Lay** the drawn lines as one bay, {bay}[bay=given| {wide} wide and {deep} deep from the drawing's origin], by "
        + LIES
    )
    takes = (SHAPE, CURVES, PULLS)

    bay: Literal["box", "given"] = choice(
        "box", {"box": "the box about them", "given": "a rectangle"}, "Bay"
    )
    wide: float = number(1.0, "m", 0.001, 1000.0, 0.1, "Width")
    deep: float = number(1.0, "m", 0.001, 1000.0, 0.1, "Depth")

    def laid(self, work: Work) -> Laid:
        drawn: Curves = work.inputs["curves"]
        lines = []
        for c in drawn.curves[:200]:
            line = c.path.polygon(c.path.size * 2e-2)
            lines.append(np.vstack([line, line[:1]]) if c.path.closed else line)
        every = np.vstack(lines)
        low, size = np.zeros(2), np.array([self.wide, self.deep])
        if self.bay == "box":
            low, size = every.min(axis=0), np.ptp(every, axis=0)
            if size.min() < 1e-6:
                raise ClauseError(
                    "The lines have no width or no depth; give the bay as a rectangle instead.",
                    "bay",
                )
        try:
            found = module_of_lines([(line - low) / size for line in lines])
        except ModuleError as error:
            raise ClauseError(str(error), "bay") from None
        warnings: tuple[Notice, ...] = ()
        if len(found.loose):
            at = ", ".join(f"({x:.2f}, {y:.2f})" for x, y in (found.loose * size + low)[:3])
            warnings = (
                Notice(
                    f"{len(found.loose)} ends of lines lead nowhere, at {at} of the drawing; what hangs there is left "
                    "out.",
                    value="bay",
                ),
            )
        return Laid(own_pattern(found.module), warnings=warnings)


class TakeFaces(NetClause):
    kind = "faces"
    title = "Take the shape's own faces"
    summary = "The faces of a cage, a canopy or an imported mesh as cells, just as they are."
    sentence = "**Take** the shape's own faces as cells."
    takes = (SHAPE,)

    def make(self, work: Work) -> Made:
        shape = work.inputs["shape"]
        surface = surface_needed(shape, whole=True)
        if isinstance(surface, Charted) and isinstance(shape, Body):
            mesh = shape.mesh
            if mesh.face_count > MOST_CELLS:
                raise _too_many_faces(mesh.face_count)
            return made_net(
                net_of(
                    surface,
                    mesh.vertices,
                    surface.closest(mesh.vertices),
                    mesh.corners,
                    mesh.offsets,
                )
            )
        if not isinstance(surface, MeshSurface):
            raise ClauseError(
                "This shape is smooth and has no faces of its own; lay a pattern on it."
            )
        faces = surface.faces or surface.mesh
        if surface.flipped:
            faces = faces.reversed()
        if faces.face_count > MOST_CELLS:
            raise _too_many_faces(faces.face_count)
        return made_net(net_of(surface, faces.vertices, surface.uv, faces.corners, faces.offsets))


def _too_many_faces(count: int) -> ClauseError:
    return ClauseError(
        f"The shape has {count:,} faces; at most {MOST_CELLS:,} can be cells. Lay a pattern on it instead."
    )


def _at_most(value: float, digits: int) -> float:
    """The largest number of so many significant ``digits`` that is not above a positive one."""
    unit = 10.0 ** (math.floor(math.log10(value)) + 1 - digits)
    return float(f"{math.floor(value / unit) * unit:.{digits}g}")
