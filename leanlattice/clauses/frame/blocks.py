"""The clause that lays courses of blocks in a surface."""

from __future__ import annotations

from collections.abc import Callable
from dataclasses import replace
from functools import partial
from typing import ClassVar, Literal

import numpy as np
import shapely
from numpy.typing import NDArray

from ...core.geometry.arcs import unit
from ...core.geometry.meshes import Body
from ...core.geometry.meshsurface import MeshSurface
from ...core.geometry.paths import PlaneCurve
from ...core.geometry.surfaces import Surface
from ...core.materials import MASSES, MATERIALS
from ...core.shaping.solids import SolidError, prism
from ...core.solids.courses import Laying, NoRoom, Rise, Run, blocks_of, halved_counts, runs_of
from ...core.solids.cut_out import cut_out
from ...core.solids.lintels import Lintel, NoBearing, with_lintels
from ...core.solids.solids import Solids
from ..base import (
    TO_COME,
    Clause,
    ClauseError,
    Figure,
    Made,
    Notice,
    Remedy,
    Take,
    Work,
    choice,
    count,
    counted,
    headline,
    number,
)
from ..by_size import BLOCKS, BLOCKS_HIGH
from ..catalogue import SERIES
from ..said import metres, mm
from ..shape.common import SHAPE, surface_needed
from ..solids import figures_of, types_of

__all__ = ["LayBlocks"]

Array = NDArray[np.float64]
WORDS = {name: MATERIALS[name].title for name in (*MASSES, "GL24h")}
MOST_BLOCKS = 20_000
MOST_SIDES = 6_000_000
"""Corners of all blocks together, beyond which they could not be shown."""
THIN = 0.25
"""Share of a whole block's size below which what an opening leaves of it is told."""


class LayBlocks(Clause):
    kind = "blocks"
    chapter = "Frame"
    title = "Lay courses of blocks"
    builds = "blocks"
    summary = "A thick surface as courses of blocks whose joints are square to it."
    sentence = (
        "**Lay** blocks of {material}, {thickness} thick, {side}, {stacked}:[stacked=number| "
        "{courses}][stacked=height| {height}], {rising}, "
        "{blocks} in the longest¦, {bond}, half as many where they would be shorter than {least}, "
        "{top}[top=key,eye| {crown} wide], with joints of {joint}, "
        "{openings}[openings=lintels| that rest {bearing} on both sides,]"
        "[openings=lintels,plain| {reach}]. Faces are within {within} of the surface; named "
        "{series}, those equal within {alike} being of one type."
    )
    takes: ClassVar[tuple[Take, ...]] = (
        SHAPE,
        Take(name="curves", types=("Curves",), label="Openings", optional=True, cut_by=True),
    )
    gives = "Solids"

    material: str = choice("limestone", WORDS, "Material")
    thickness: float = number(0.35, "m", 0.01, 20.0, 0.01, "Thickness", by_size=BLOCKS)
    side: Literal["inside", "middle", "outside"] = choice(
        "inside",
        {
            "inside": "inside of the surface",
            "middle": "to both sides of the surface",
            "outside": "outside of the surface",
        },
        "Side",
    )
    stacked: Literal["number", "height"] = choice(
        "number", {"number": "by number of courses", "height": "by height of courses"}, "By"
    )
    height: float = number(
        0.5,
        "m",
        0.01,
        20.0,
        0.01,
        "Height of a course",
        "As near as whole courses come to it",
        by_size=BLOCKS_HIGH,
    )
    courses: int = count(12, 1, 500, "Courses", words=("course", "courses"))
    rising: Literal["v", "u"] = choice(
        "v", {"v": "one above the other along v", "u": "one above the other along u"}, "Rising"
    )
    blocks: int = count(32, 1, 2000, "Blocks", "In the longest course", ("block", "blocks"))
    bond: Literal["half", "none"] = choice(
        "half", {"half": "every other course by half a block", "none": "joint over joint"}, "Bond"
    )
    least: float = number(
        0.3, "m", 0.0, 100.0, 0.05, "Shortest block", "Halved as long as the number is even"
    )
    top: Literal["key", "eye", "open"] = choice(
        "key",
        {
            "key": "closed by one block",
            "eye": "open at the top by an eye",
            "open": "up to its border",
        },
        "Top",
    )
    crown: float = number(
        0.8, "m", 0.0, 100.0, 0.05, "Width of the top", "Along the surface", by_size=BLOCKS_HIGH
    )
    joint: float = number(10.0, "mm", 0.0, 500.0, 1.0, "Joint", "Half of it each block gives")
    openings: Literal["none", "lintels", "plain"] = choice(
        "none",
        {
            "none": "without openings",
            "lintels": "with openings under lintels",
            "plain": "with openings",
        },
        "Openings",
        "Closed curves carried square to their plane",
    )
    reach: Literal["through", "ahead", "behind"] = choice(
        "through",
        {
            "through": "through all of the shell",
            "ahead": "cut only ahead of their plane",
            "behind": "cut only behind their plane",
        },
        "Reach",
    )
    bearing: float = number(0.2, "m", 0.0, 20.0, 0.05, "Bearing")
    within: float = number(2.0, "mm", 0.01, 100.0, 0.1, "Within", "Of triangles from the surface")
    series: Literal["", "A", "B", "C", "D"] = choice("", SERIES, "Series")
    alike: float = number(
        1.0, "mm", 0.01, 200.0, 0.1, "Tolerance of types", "What blocks of one type may differ by"
    )

    def make(self, work: Work) -> Made:
        laying = self._laying(_smooth(work.inputs["shape"]))
        run = runs_of(laying)
        self._check_size(run)
        cutters, lintels = [], []
        closed = self._outlines(work)
        missed = []
        for number_of, curve in enumerate(closed, 1):
            cutter, inside = self._opening(laying, curve)
            cutters.append(cutter)
            run, found = self._with_lintels(laying, run, inside, number_of)
            lintels += found
            if not found and not inside(_every_place(laying)).any():
                missed.append(number_of)
        try:
            blocks = blocks_of(laying, run, self.material)
            whole = blocks.volumes
            made, of = cut_out(blocks, cutters) if cutters else (blocks, np.arange(blocks.count))
        except NoRoom as error:
            raise self._no_room(error, len(laying.counts)) from None
        except SolidError as error:
            raise ClauseError(str(error), "reach") from None
        if not made.count:
            raise ClauseError(
                "The openings leave nothing of the shell; smaller ones would work.", "openings"
            )
        made = replace(made, series=self.series, tolerance=self.alike / 1000)
        warnings = _missed(missed, len(closed)) + _crumbs(made, whole[of])
        figures = self._figures(laying, made, lintels)
        return Made(made, figures, warnings, partial(types_of, made))

    def _outlines(self, work: Work) -> list[PlaneCurve]:
        """Closed curves that openings are cut by; raises ``ClauseError`` where there are none."""
        if self.openings == "none":
            return []
        curves = work.inputs.get("curves")
        closed = [] if curves is None else [c for c in curves.curves if c.path.closed]
        if not closed:
            raise ClauseError(
                "There are no closed curves above that openings could be cut by; draw some, or "
                "choose those that are meant, or lay blocks without openings.",
                "openings",
            )
        return closed

    def _laying(self, surface: Surface) -> Laying:
        """How blocks lie; raises ``ClauseError`` where they cannot."""
        rise = self._rise(surface)
        spared = 0.0 if self.top == "open" else self.crown / 2
        if spared >= rise.height or (rise.ends_in_point(1) and spared <= 0):
            raise ClauseError(
                f"The top is {metres(self.crown)} wide; it must be more than 0 and less than "
                f"{metres(2 * rise.height, '.2f')}, twice the length of the surface up to it.",
                "crown",
            )
        levels = rise.levels(self._number(rise.height - spared), spared)
        counts = halved_counts(rise.lengths_of_courses(levels), self.blocks, self.least)
        out, into = {"inside": (0.0, 1.0), "middle": (0.5, 0.5), "outside": (1.0, 0.0)}[self.side]
        laying = Laying(
            rise=rise,
            outside=out * self.thickness,
            inside=into * self.thickness,
            levels=levels,
            counts=counts,
            staggered=self.bond == "half",
            joint=self.joint / 1000,
            within=self.within / 1000,
            closed_by_key=self.top == "key",
        )
        self._check_thickness(laying)
        return laying

    def _number(self, length: float) -> int:
        """How many courses there are on a ``length`` (m) up the surface."""
        if self.stacked == "number":
            return self.courses
        return max(round(length / self.height), 1)

    def _rise(self, surface: Surface) -> Rise:
        """The surface as courses see it; raises ``ClauseError`` where they cannot be stacked so, or
        not be ended as they are to be."""
        rise = _upward(surface, 1 if self.rising == "v" else 0)
        if surface.closed_u and surface.closed_v:
            raise ClauseError(
                "The surface closes along u and along v, so that no course of it is the lowest; a "
                "part of it that begins with a border would work.",
                "rising",
            )
        if (surface.closed_u, surface.closed_v)[rise.axis]:
            other = "u" if self.rising == "v" else "v"
            remedy = Remedy(f"Courses along {other}", {"rising": other})
            facts = {"this": self.rising, "other": other}
            raise ClauseError.of("blocks around a ring", facts, "rising", remedies=(remedy,))
        if rise.ends_in_point(0):
            raise ClauseError(
                "The surface ends in a point below, where no course can stand; a part of it that "
                "begins with a border, such as a dome, would work.",
                "rising",
            )
        is_point = rise.ends_in_point(1)
        if self.top == "key" and not is_point:
            remedy = Remedy("Lay them up to the border", {"top": "open"})
            raise ClauseError.of("blocks without a point", {}, "top", remedies=(remedy,))
        if self.top == "open" and is_point:
            remedy = Remedy("Close it by one block", {"top": "key"})
            raise ClauseError.of("blocks at a point", {}, "top", remedies=(remedy,))
        return rise

    def _check_thickness(self, laying: Laying) -> None:
        """Raises ``ClauseError`` where the shell is thicker than its radius on the side it goes
        to."""
        surface, even = laying.rise.surface, np.linspace(0.0, 1.0, 41)
        last = 1.0 if laying.closed_by_key else laying.levels[-1]
        up = laying.levels[0] + (last - laying.levels[0]) * even
        uv = surface._off_points(laying.rise.uv(even[:, None], up), 1e-3)
        gauss, mean = surface.curvatures(uv).T
        spread = np.sqrt(np.maximum(mean**2 - gauss, 0.0))
        # Bent towards the inside, a surface has its centres there.
        bent = np.array([(mean + spread).max(), -(mean - spread).min()])
        depth = np.array([laying.inside, laying.outside])
        if (bent * depth >= 1).any():
            k = int(np.argmax(bent * depth))
            where = uv[int(np.argmax(mean + spread)) if k == 0 else int(np.argmin(mean - spread))]
            raise ClauseError(
                f"The blocks go {metres(depth[k])} to the {('inside', 'outside')[k]} of the "
                "surface, "
                f"which bends there to a radius of {metres(1 / bent[k], '.2f')}; thinner ones, or "
                "the other "
                "side, would work.",
                "thickness",
                surface.points(where[None])[0],
            )

    def _check_size(self, run: Run) -> None:
        blocks = len(run.course)
        corners = int((run.last - run.first).sum()) * 8
        if blocks > MOST_BLOCKS or corners > MOST_SIDES:
            raise ClauseError(
                f"There would be {blocks:,} blocks with {corners:,} corners; at most "
                f"{MOST_BLOCKS:,} with {MOST_SIDES:,} can be laid. Fewer courses or blocks, or "
                "faces less near to the surface, would work.",
                "blocks" if blocks > MOST_BLOCKS else "within",
            )

    def _no_room(self, error: NoRoom, courses: int) -> ClauseError:
        which = "the key" if error.course >= courses else f"course {error.course + 1}"
        return ClauseError(
            f"Joints of {mm(self.joint)} leave nothing of a block in {which}, which has "
            f"{mm(error.size * 1000, '.0f')} there; narrower joints, or fewer courses or blocks, "
            "would "
            "leave some.",
            "joint",
            error.at,
        )

    def _opening(
        self, laying: Laying, curve: PlaneCurve
    ) -> tuple[Body, Callable[[Array], NDArray[np.bool_]]]:
        """The body that is taken out for an opening, and what tells whether places (n, 3) are in
        it."""
        axis = np.asarray(curve.frame.normal, float)
        along = _every_place(laying) @ axis
        margin = 0.05 * float(np.ptp(along)) + laying.inside + laying.outside + 0.1
        here = float(curve.frame.origin @ axis)
        low = here if self.reach == "ahead" else min(float(along.min()) - margin, here)
        high = here if self.reach == "behind" else max(float(along.max()) + margin, here)
        if high - low < 1e-9:
            raise ClauseError("Openings lie beyond the shell; turn their reach round.", "reach")
        ring = curve.polyline(curve.path.size * 5e-4)
        return prism(ring, [], axis, low, high), _inside_of(ring, axis, (low, high))

    def _with_lintels(
        self, laying: Laying, run: Run, inside: Callable[[Array], NDArray[np.bool_]], opening: int
    ) -> tuple[Run, list[Lintel]]:
        if self.openings == "plain":
            return run, []
        try:
            return with_lintels(laying, run, inside, self.bearing)
        except NoBearing:
            raise ClauseError(
                f"Opening {opening} leaves nothing on both sides for a lintel to rest on; a "
                "narrower one, or none, would work.",
                "openings",
            ) from None

    def _figures(self, laying: Laying, blocks: Solids, lintels: list[Lintel]) -> dict[str, Figure]:
        rise = laying.rise.height - (0.0 if self.top == "open" else self.crown / 2)
        figures = figures_of(blocks)
        figures["solids"] = headline("Blocks", blocks.count)
        figures["solid_types"] = TO_COME
        figures["course_height"] = Figure("Height of a course", rise / len(laying.counts), "m", 3)
        figures["fewest"] = Figure("Fewest in a course", int(laying.counts.min()))
        if lintels:
            widest = max(lintels, key=lambda lintel: lintel.width)
            x, y, z = widest.top.tolist()
            figures["lintels"] = Figure("Lintels", len(lintels))
            figures["widest_lintel"] = Figure("Widest lintel", widest.width, "m", 2, (x, y, z))
        return figures


def _smooth(shape: object) -> Surface:
    """The surface that courses follow; raises ``ClauseError`` where it has no lines to follow."""
    surface = None if isinstance(shape, Body) and shape.skin is None else surface_needed(shape)
    if (
        surface is None
        or isinstance(surface, MeshSurface)
        or surface.domain is not None
        or surface.pieced
    ):
        raise ClauseError(
            "Courses follow the lines of u and v of a whole surface; a mesh, or a surface that was "
            "cut, has none. One that is lofted, revolved, swept or a dome would work, with "
            "openings as closed curves."
        )
    return surface


def _upward(surface: Surface, axis: int) -> Rise:
    """The surface with its courses from below up: from a border to a point, or else from the lower
    to the higher end."""
    rise = Rise(surface, axis)
    if rise.ends_in_point(0) != rise.ends_in_point(1):
        return replace(rise, turned=rise.ends_in_point(0))
    ends = rise.places(np.linspace(0, 1, 17)[:, None], np.array([0.0, 1.0]))
    low, high = ends[:, 0, 2].mean(), ends[:, 1, 2].mean()
    return replace(rise, turned=bool(high < low - 1e-9))


def _inside_of(
    ring: Array, axis: Array, reach: tuple[float, float]
) -> Callable[[Array], NDArray[np.bool_]]:
    """What tells whether places (n, 3) are in what a ``ring`` (n, 3) takes up that is carried along
    an ``axis`` between two levels on it."""
    x = unit(np.cross([1.0, 0, 0] if abs(axis[0]) < 0.9 else [0, 1.0, 0], axis)[None])[0]
    plane = np.column_stack([x, np.cross(axis, x)])
    outline = shapely.Polygon(ring @ plane)
    shapely.prepare(outline)

    def inside(places: Array) -> NDArray[np.bool_]:
        deep, flat = places @ axis, places @ plane
        within = shapely.contains_xy(outline, flat[:, 0], flat[:, 1])
        return np.asarray(within & (deep >= reach[0]) & (deep <= reach[1]))

    return inside


def _every_place(laying: Laying) -> Array:
    """Places (n, 3) all over the surface."""
    even = np.linspace(0.0, 1.0, 65)
    return laying.rise.places(even[:, None], even).reshape(-1, 3)


def _missed(missed: list[int], openings: int) -> list[Notice]:
    if not missed:
        return []
    named = ", ".join(map(str, missed[:8]))
    text = (
        f"{len(missed)} of {openings} openings ({named}) {'meet' if len(missed) > 1 else 'meets'} "
        "nothing of the shell."
    )
    return [Notice(text, value="reach")]


def _crumbs(blocks: Solids, whole: Array) -> list[Notice]:
    """What is told of blocks of which openings left little."""
    small = np.flatnonzero(blocks.volumes < THIN * whole)
    if not small.size:
        return []
    worst = int(small[np.argmin(blocks.volumes[small])])
    x, y, z = blocks.middles[worst].tolist()
    text = (
        f"Openings leave less than a quarter of "
        f"{counted(small.size, 'block', 'blocks')}, {blocks.labels[worst]} the least with "
        f"{blocks.masses[worst]:.1f} kg; an opening that ends at a joint, or other courses, would "
        "leave whole ones."
    )
    return [Notice(text, "solid", tuple(small[:2000].tolist()), (x, y, z), "blocks")]
