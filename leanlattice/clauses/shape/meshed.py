"""Free shapes: spanned boundaries, cages, hollow-column canopies, slabs with funnels."""

from __future__ import annotations

from typing import Annotated, Literal

import numpy as np
import shapely
from numpy.typing import NDArray
from pydantic import Field

from ...core.geometry.meshes import Body, Mesh, MeshError, mesh_of_triangles
from ...core.geometry.meshsurface import mesh_surface
from ...core.geometry.regions import Region
from ...core.shaping.cages import Cage, CageError, limit, subdivide
from ...core.shaping.canopies import CanopyError, canopy, scatter
from ...core.shaping.funnels import funnel_slab, mirrored_body
from ...core.shaping.plates import thin_plate
from ..base import (
    ClauseError,
    Figure,
    Made,
    Notice,
    Remedy,
    Take,
    Work,
    cage,
    choice,
    count,
    number,
    places,
)
from ..lattice.common import place_of
from ..said import metres, place_text
from .common import Coordinate, Place, ShapeClause, checked_points, line_aid, made
from .drawn import Curves
from .placed import middles_of

__all__ = ["CageShape", "Canopy", "FunnelSlab", "Span"]

Array = NDArray[np.float64]
OUTLINE = Take(name="outline", types=("Curves",), label="Outline")
Places = Annotated[list[Place], Field(max_length=500)]
CENTRES = Take(name="centres", types=("Curves",), label="Columns at", optional=True, asked=True)
MOST_COLUMNS = 60


def _outline(curves: Curves) -> tuple[Array, tuple[Array, ...]]:
    """The largest closed curve as places (n, 3), and the closed ones within it."""
    closed = [c for c in curves.curves if c.path.closed]
    if not closed:
        raise ClauseError("The outline is not closed; close or join it.")
    rings = [c.polyline(c.path.size * 5e-4) for c in closed]
    areas = [shapely.Polygon(r[:, :2]).area for r in rings]
    k = int(np.argmax(areas))
    whole = shapely.Polygon(rings[k][:, :2])
    if np.ptp(rings[k][:, :2], axis=0).min() < 1e-9:
        raise ClauseError(
            "Seen in plan the outline has no area; draw it in plan, or tilt its plane."
        )
    if not whole.is_valid:
        raise ClauseError(
            f"The outline crosses itself: {shapely.is_valid_reason(whole)}; move its points apart."
        )
    inner = tuple(
        r
        for i, r in enumerate(rings)
        if i != k and whole.contains(shapely.Polygon(r[:, :2]).representative_point())
    )
    return rings[k], inner


def _densified(ring: Array, most: int = 140) -> Array:
    """The ring with points no further apart than a hundred-and-fortieth of its length."""
    line = shapely.LineString(np.vstack([ring, ring[:1]]))
    dense = shapely.segmentize(line, line.length / most)
    return np.asarray(shapely.get_coordinates(dense, include_z=True))[:-1]


def _counted_heights(count: int) -> str:
    return f"{count} height lies" if count == 1 else f"{count} heights lie"


class Span(ShapeClause):
    kind = "span"
    title = "Span a boundary"
    summary = (
        "The smooth surface over a closed boundary that bends least, near points at given heights."
    )
    sentence = (
        "**Span** the boundary past {heights} with a stiffness of {stiffness}, its edge {edge}."
    )
    takes = (
        OUTLINE,
        Take(name="guides", types=("Curves",), label="Curves to pass near", optional=True),
    )

    heights: Places = places(
        lambda: [(0.0, 0.0, 3.0)],
        "Heights",
        "Places to pass near; Alt drags them up and down in the view.",
    )
    stiffness: float = number(
        0.0,
        "%",
        0.0,
        99.0,
        1.0,
        "Stiffness",
        "0 % passes through the heights; more lets the surface be smoother.",
    )
    edge: Literal["free", "level"] = choice(
        "free", {"free": "free to slope", "level": "tangent to the level"}, "Edge"
    )

    def make(self, work: Work) -> Made:
        outline, openings = _outline(work.inputs["outline"])
        guides: Curves | None = work.inputs.get("guides")
        given = np.array(self.heights, float).reshape(-1, 3)
        if guides is not None and work.key("guides") != work.key("outline"):
            lines = [
                c.points(np.linspace(0, 1, 41)[: 40 if c.path.closed else 41])
                for c in guides.curves
            ]
            given = np.vstack([given, *lines])
        polygon = shapely.Polygon(outline[:, :2])
        inside = (
            shapely.contains_xy(polygon, given[:, 0], given[:, 1])
            if len(given)
            else np.zeros(0, bool)
        )
        warnings = []
        if len(given) and not inside.all():
            k = int(np.flatnonzero(~inside)[0])
            warnings.append(
                Notice(
                    f"{_counted_heights(int((~inside).sum()))} outside the boundary and left out, first "
                    f"{place_text(given[k])}.",
                    at=place_of(given[k]),
                    value="heights",
                )
            )
        surface = thin_plate(
            _densified(outline), openings, given[inside], self.stiffness / 100, self.edge == "level"
        )
        figures = {}
        if inside.any():
            uv = (given[inside][:, :2] - surface.low) / surface.size
            gaps = np.abs(surface.points(uv)[:, 2] - given[inside][:, 2])
            figures["miss"] = Figure("Passes by, at most", float(gaps.max()) * 1000, "mm", 0)
        return made(surface, figures, warnings)


def _start_cage() -> list[list[list[float]]]:
    xs, ys = (-6.0, -2.0, 2.0, 6.0), (-4.0, 0.0, 4.0)
    vertices = [[x, y, 2.0 if y == 0 and abs(x) == 2 else 0.0] for y in ys for x in xs]
    faces = [
        [4 * j + i, 4 * j + i + 1, 4 * j + i + 5, 4 * j + i + 4] for j in range(2) for i in range(3)
    ]
    return [vertices, [[float(v) for v in f] for f in faces], [], []]


class CageShape(ShapeClause):
    kind = "cage"
    title = "Cage"
    summary = "A coarse mesh drawn flat in plan, its points lifted, subdivided to a smooth surface."
    sentence = "**Cage** of {cage}, subdivided {rounds}, {outside}."

    cage: list[
        Annotated[list[Annotated[list[Coordinate], Field(max_length=4)]], Field(max_length=4000)]
    ] = cage(
        _start_cage, "Faces", "Draw it on the Trace screen; lift its points in the view with Alt."
    )
    rounds: int = count(4, 1, 6, "Subdivided", words=("time", "times"))
    outside: Literal["out", "swapped"] = choice(
        "out", {"out": "its outside upward", "swapped": "its outside and inside swapped"}, "Sides"
    )

    def make(self, work: Work) -> Made:
        try:
            drawn = Cage.of(self.cage).checked()
        except CageError as error:
            raise ClauseError(str(error), "cage") from None
        except (ValueError, IndexError, OverflowError):
            raise ClauseError(
                "The cage cannot be read: its faces are lists of whole numbers of its points.",
                "cage",
            ) from None
        if not drawn.faces:
            raise ClauseError("The cage has no faces; draw one on the Trace screen.", "cage")
        if len(drawn.faces) * 4**self.rounds > 200_000:
            most = int(np.log(200_000 / len(drawn.faces)) / np.log(4))
            raise ClauseError(
                f"{len(drawn.faces)} faces subdivided {self.rounds} times would be {len(drawn.faces) * 4**self.rounds:,}; "
                f"{max(most, 1)} times work.",
                "rounds",
            )
        mesh, kind, sharp = subdivide(drawn, self.rounds)
        smooth, _ = limit(mesh, kind, sharp)
        mesh = mesh.with_vertices(smooth)
        if (mesh.triangle_crosses[:, 2].sum() < 0) != (self.outside == "swapped"):
            mesh = mesh.reversed()
        figures = {
            "faces": Figure("Faces", mesh.face_count),
            "points": Figure("Cage points", len(drawn.vertices)),
        }
        return mesh_made(mesh, figures)


def mesh_made(
    mesh: Mesh,
    figures: dict[str, Figure],
    warnings: list[Notice] | None = None,
    aids: dict[str, Array] | None = None,
) -> Made:
    """An open mesh as a surface, or a closed one as a body."""
    if not mesh.loops:
        body = Body(mesh_of_triangles(mesh.vertices, mesh.triangles))
        return made(
            body if body.volume > 0 else Body(body.mesh.reversed()), figures, warnings, aids
        )
    try:
        return made(mesh_surface(mesh), figures, warnings, aids)
    except MeshError as error:
        raise ClauseError(str(error)) from None


class Canopy(ShapeClause):
    kind = "canopy"
    title = "Hollow-column canopy"
    summary = "An outline divided into one cell a column, each drawn down to a hollow foot."
    sentence = (
        "**Canopy** over the outline on [columns=scattered|{posts} ]{columns}"
        "[columns=scattered| with seed {seed}]"
        "[columns=placed| at {sites}], {height} high, feet {share} of their cells and {feet}¦, divided {around} times around "
        "and {along} times along."
    )
    takes = (OUTLINE, CENTRES)

    columns: Literal["scattered", "placed", "middles"] = choice(
        "scattered",
        {
            "scattered": "scattered",
            "placed": "columns placed by hand",
            "middles": "columns at the middles of curves",
        },
        "Columns",
        "The curves are chosen in the clause's menu.",
    )
    posts: int = count(3, 1, 60, "Number of columns", words=("column", "columns"))
    seed: int = count(1, 0, 100000, "Seed", "Another seed scatters them otherwise")
    sites: Places = places(
        lambda: [(-4.0, 0.0, 0.0), (4.0, 1.0, 0.0)], "Places", "Drag the columns in the view."
    )
    height: float = number(4.0, "m", 0.1, 100.0, 0.1, "Height")
    share: float = number(
        18.0, "%", 2.0, 90.0, 1.0, "Size of the feet", "Of the cell's size in plan"
    )
    feet: Literal["round", "alike"] = choice(
        "round", {"round": "round", "alike": "of their cells' form"}, "Form of the feet"
    )
    around: int = count(36, 6, 200, "Divided around")
    along: int = count(8, 2, 60, "Divided along")

    def make(self, work: Work) -> Made:
        outline, _ = _outline(work.inputs["outline"])
        region = Region(outline[:, :2])
        level = float(outline[:, 2].mean())
        try:
            if self.columns == "scattered":
                sites = scatter(region, self.posts, self.seed)
            else:
                sites = self._sites(work.inputs.get("centres"))
                outside = np.flatnonzero(~region.contains(sites))
                if len(outside):
                    raise ClauseError(
                        f"Column {outside[0] + 1} at {place_text(sites[outside[0]])} stands outside the outline; move it in.",
                        "sites",
                        np.array([*sites[outside[0]], level]),
                    )
            mesh = canopy(
                region,
                sites,
                self.height,
                self.share / 100,
                self.around,
                self.along,
                self.feet == "round",
                level,
            )
        except CanopyError as error:
            raise ClauseError(str(error), "sites") from None
        figures = {
            "columns": Figure("Columns", len(sites)),
            "faces": Figure("Faces", mesh.face_count),
        }
        return mesh_made(
            mesh, figures, aids=line_aid("height", [*sites.mean(axis=0), level], [0, 0, 1])
        )

    def _sites(self, centres: Curves | None) -> Array:
        """Columns (n, 2) that are placed by hand or by other curves."""
        if self.columns == "placed":
            return checked_points(self.sites, 1, MOST_COLUMNS, "columns", "sites")[:, :2]
        return _placed_by(centres)


def _placed_by(curves: Curves | None) -> Array:
    """Middles (n, 2) in plan of closed curves; raises ``ClauseError`` where there are none, or too
    many."""
    middles = [] if curves is None else [at[:2] for at, _ in middles_of(curves)]
    if not middles:
        drawn = Remedy("Stand them at the circles above", {}, takes={"centres": ("circles",)})
        raise ClauseError.of("no curves for columns", {}, "columns", remedies=(drawn,))
    if len(middles) > MOST_COLUMNS:
        raise ClauseError(
            f"{len(middles)} columns are more than the {MOST_COLUMNS} that can be worked with.",
            "columns",
        )
    return np.array(middles)


class FunnelSlab(ShapeClause):
    kind = "funnels"
    title = "Slab with funnels"
    summary = "A level slab that bends smoothly down around openings; alone, or with a second skin below as a body."
    sentence = (
        "**Slab** over the outline at height {level} with funnels at {sites}, {depth} deep to a throat of radius {throat}¦, "
        "rounded by {above} above[skins=one| and {below} below], {skins}."
    )
    takes = (OUTLINE,)

    level: float = number(3.0, "m", -1000.0, 1000.0, 0.1, "Height")
    sites: Places = places(
        lambda: [(-2.0, 0.0, 0.0), (2.5, 0.5, 0.0)], "Funnels", "Drag them in the view."
    )
    depth: float = number(0.8, "m", 0.01, 100.0, 0.05, "Depth")
    throat: float = number(0.5, "m", 0.01, 100.0, 0.05, "Throat radius")
    above: float = number(0.5, "m", 0.0, 100.0, 0.05, "Radius above")
    below: float = number(0.2, "m", 0.0, 100.0, 0.05, "Radius below")
    skins: Literal["one", "two"] = choice(
        "two", {"one": "one skin", "two": "mirrored to a second skin and closed"}, "Skins"
    )

    def make(self, work: Work) -> Made:
        outline, _ = _outline(work.inputs["outline"])
        ring = outline[:, :2] if shapely.LinearRing(outline[:, :2]).is_ccw else outline[::-1, :2]
        centres = np.array([p[:2] for p in self.sites], float).reshape(-1, 2)
        warnings = []
        below = self.below if self.skins == "one" else 0.0
        above = self.above
        if above + below > self.depth:
            above, below = (r * self.depth / (above + below) for r in (above, below))
            warnings.append(
                Notice(
                    f"Radii of {metres(self.above)} and {metres(self.below)} do not fit a depth of "
                    f"{metres(self.depth)}; {metres(above, '.3g')} and "
                    f"{metres(below, '.3g')} were made.",
                    value="above",
                )
            )
        self._check_room(ring, centres, self.throat + above)
        size = float(np.ptp(ring, axis=0).max())
        bays = int(np.clip(size / max(self.throat, size / 60), 24, 60))
        mesh = funnel_slab(ring, centres, self.throat, self.depth, above, below, self.level, bays)
        figures = {"funnels": Figure("Funnels", len(centres))}
        aids = self._lines(ring, centres)
        if self.skins == "two":
            return made(mirrored_body(mesh, self.level - self.depth), figures, warnings, aids)
        return mesh_made(mesh, figures, warnings, aids)

    def _lines(self, ring: Array, centres: Array) -> dict[str, Array]:
        """Handles at the first corner of the slab for its height, at the first funnel for its depth
        and throat."""
        aids = line_aid("level", [*ring[0], 0.0], [0, 0, 1])
        if len(centres):
            at = [*centres[0], self.level]
            aids |= line_aid("depth", at, [0, 0, -1])
            aids |= line_aid("throat", [*centres[0], self.level - self.depth], [1, 0, 0])
        return aids

    def _check_room(self, ring: Array, centres: Array, reach: float) -> None:
        if not len(centres):
            return
        polygon = shapely.Polygon(ring)
        points = shapely.points(centres)
        room = np.where(
            shapely.contains(polygon, points), shapely.distance(polygon.exterior, points), -1.0
        )
        k = int(np.argmin(room))
        if room[k] <= reach * 1.01:
            at = np.array([*centres[k], self.level])
            if room[k] <= 0:
                raise ClauseError(
                    f"Funnel {k + 1} at {place_text(at)} lies outside the outline; move it in.",
                    "sites",
                    at,
                )
            raise ClauseError(
                f"Funnel {k + 1} at {place_text(at)} needs {metres(reach, '.2f')} to each side and "
                f"has {metres(room[k], '.2f')} to the edge; move "
                "it in, or make the throat or the radius above smaller.",
                "sites",
                at,
            )
        if len(centres) > 1:
            apart = (
                np.linalg.norm(centres[:, None] - centres[None], axis=2)
                + np.eye(len(centres)) * 1e9
            )
            i, j = np.unravel_index(np.argmin(apart), apart.shape)
            if apart[i, j] <= 2.02 * reach:
                raise ClauseError(
                    f"Funnels {i + 1} and {j + 1} are {metres(apart[i, j], '.2f')} apart and need "
                    f"{metres(2 * reach, '.2f')}; move them apart.",
                    "sites",
                    np.array([*centres[i], self.level]),
                )
