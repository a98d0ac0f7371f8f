"""Shapes made by moving curves: extruded, turned, swept, translated."""

from __future__ import annotations

import math
from dataclasses import replace
from typing import Literal

import numpy as np
from numpy.typing import NDArray

from ...core.geometry.meshes import Body, mesh_of_triangles
from ...core.geometry.paths import Frame2, Path, PlaneCurve, on_plane
from ...core.geometry.regions import Region
from ...core.geometry.surfaces import Surface
from ...core.geometry.swept import Revolved, Translated, sweep
from ...core.shaping.faces import curved_faces
from ...core.shaping.stacks import (
    StackError,
    bounded_by,
    capped_stack,
    closed_body,
    extruded_body,
    extruded_surface,
    ring_stack,
)
from ..base import ClauseError, Made, Notice, Remedy, Take, Work, choice, number, point
from ..said import metres, place_text
from .common import Place, ShapeClause, dial_aid, line_aid, made
from .drawn import CURVES, Curves

__all__ = ["Extrude", "Revolve", "Sweep", "Translate"]

Array = NDArray[np.float64]


class Extrude(ShapeClause):
    kind = "extrude"
    title = "Extrude"
    summary = "Walls over outlines, or a body: with a height, a lean, a taper and rounded edges."
    sentence = (
        "**Extrude** the curves by {height} {direction}[direction=leaning|, shifted by {lean_x} and {lean_y}]¦, walls "
        "leaning in by {taper}, {ends}[ends=capped|, upright edges rounded by {rounding} and the top edge by {top}]."
    )
    takes = (CURVES,)

    height: float = number(
        4.0,
        "m",
        0.001,
        1000.0,
        0.1,
        "Height",
    )
    direction: Literal["square", "leaning"] = choice(
        "square", {"square": "square to their plane", "leaning": "leaning"}, "Direction"
    )
    lean_x: float = number(0.0, "m", -1000.0, 1000.0, 0.1, "Shift of the top, first direction")
    lean_y: float = number(0.0, "m", -1000.0, 1000.0, 0.1, "Shift of the top, second direction")
    taper: float = number(
        0.0, "°", -80.0, 80.0, 1.0, "Taper", "How far the walls of closed outlines lean inward"
    )
    ends: Literal["open", "capped"] = choice(
        "capped", {"open": "open as walls", "capped": "closed to a body"}, "Ends"
    )
    rounding: float = number(0.0, "m", 0.0, 100.0, 0.05, "Rounding of upright edges")
    top: float = number(0.0, "m", 0.0, 100.0, 0.05, "Rounding of the top edge")

    def make(self, work: Work) -> Made:
        given: Curves = work.inputs["curves"]
        lean = np.array([self.lean_x, self.lean_y]) if self.direction == "leaning" else np.zeros(2)
        taper = float(np.radians(self.taper))
        frame = _upward(given.curves[0].frame)
        paths = on_plane(given.curves, frame)
        try:
            if self.ends == "open":
                longest = max(paths, key=lambda p: p.length)
                if taper and not longest.closed:
                    raise ClauseError.of(
                        "open curve leaning",
                        {},
                        "taper",
                        remedies=(Remedy("Stand it upright", {"taper": 0.0}),),
                    )
                surface = extruded_surface(longest, frame, self.height, lean, taper)
                return made(
                    surface, warnings=_one_used(paths, longest), aids=_anchor(longest, frame)
                )
            return self._body(paths, frame, lean, taper)
        except StackError as error:
            if error.most is None:
                raise ClauseError(f"The outline cannot be extruded: {error}.", "taper") from None
            least = float(np.degrees(np.arctan2(error.most, self.height)))
            facts = {"taper": self.taper, "top": self.top, "why": error}
            room = {"most": error.most, "least": least}
            gentler = {"taper": math.floor(10 * least) / 10, "top": 0.0}
            raise ClauseError.of(
                "walls meet",
                facts | room,
                "taper" if taper else "top",
                remedies=(Remedy(f"Lean them by {gentler['taper']:g}° alone", gentler),),
            ) from None

    def _body(self, paths: list[Path], frame: Frame2, lean: Array, taper: float) -> Made:
        closed = [p for p in paths if p.closed]
        if not closed:
            open_walls = Remedy("Make it open as walls", {"ends": "open"})
            raise ClauseError.of("no curve closed", {}, "ends", remedies=(open_walls,))
        warnings = []
        if len(closed) < len(paths):
            warnings.append(
                Notice(
                    f"{len(paths) - len(closed)} open curves were left out of the body.",
                    value="ends",
                )
            )
        top = min(self.top, 0.98 * self.height)
        if top < self.top:
            warnings.append(
                Notice(
                    f"The top edge was rounded by {metres(top, '.3g')}; more does not fit the "
                    "height.",
                    value="top",
                )
            )
        tolerance = max(max(p.size for p in closed) * 1e-3, 1e-6)
        bodies, small = [], []
        for group in nested(closed):
            body, clamped = extruded_body(
                group, frame, self.height, lean, taper, top, self.rounding, tolerance
            )
            bodies.append(body)
            small += clamped
        if small:
            at = frame.lifted(small[0][0][None])[0]
            warnings.append(
                Notice(
                    f"{len(small)} upright edges have no room for {metres(self.rounding)}; the "
                    "largest radius that fits was made, "
                    f"first {metres(small[0][1], '.3g')} at {place_text(at)}.",
                    at=(float(at[0]), float(at[1]), float(at[2])),
                    value="rounding",
                )
            )
        body = _together(bodies)
        largest = max(closed, key=lambda p: abs(p.signed_area))
        try:
            skin: Surface | None = extruded_surface(largest, frame, self.height, lean, taper)
        except StackError:
            skin = None
        return made(replace(body, skin=skin), warnings=warnings, aids=_anchor(largest, frame))


def _anchor(path: Path, frame: Frame2) -> dict[str, Array]:
    """The middle of a path and the normal of its plane: where a handle for the height hangs."""
    return line_aid(
        "height", frame.lifted(path.polygon(path.size * 0.01).mean(axis=0)[None])[0], frame.normal
    )


def _upward(frame: Frame2) -> Frame2:
    """The same plane, its normal upward where it has an upward side."""
    return frame if frame.normal[2] >= -1e-12 else Frame2(frame.origin, frame.y, frame.x)


def _one_used(paths: list[Path], used: Path) -> list[Notice]:
    left = len(paths) - 1
    if not left:
        return []
    text = f"A surface is made of one curve: the longest, {metres(used.length, '.2f')}; {left} others were left out."
    return [Notice(text, value="ends")]


def nested(paths: list[Path]) -> list[list[Path]]:
    """Outlines with the openings directly within each; an outline within an opening begins a piece
    of its own."""
    regions = [Region(p.polygon(p.size * 1e-3)) for p in paths]
    depth, parent = [], []
    for i, r in enumerate(regions):
        around = [
            j
            for j, o in enumerate(regions)
            if j != i
            and o.polygon.contains(r.polygon.representative_point())
            and o.polygon.area > r.polygon.area
        ]
        depth.append(len(around))
        parent.append(min(around, key=lambda j: regions[j].polygon.area) if around else -1)
    return [
        [paths[i], *(paths[j] for j in range(len(paths)) if parent[j] == i)]
        for i in range(len(paths))
        if depth[i] % 2 == 0
    ]


def _together(bodies: list[Body]) -> Body:
    if len(bodies) == 1:
        return bodies[0]
    counts = np.cumsum([0] + [len(b.mesh.vertices) for b in bodies])
    vertices = np.vstack([b.mesh.vertices for b in bodies])
    triangles = np.vstack([b.mesh.triangles + n for b, n in zip(bodies, counts[:-1], strict=True)])
    before = np.cumsum([0] + [len(b.mesh.triangles) for b in bodies])
    faces = [
        replace(f, triangles=f.triangles + n)
        for b, n in zip(bodies, before[:-1], strict=True)
        for f in b.faces
    ]
    return closed_body(vertices, triangles, faces=faces)


class Revolve(ShapeClause):
    kind = "revolve"
    title = "Revolve"
    summary = "A profile turned about an axis: the whole, a half or a wedge."
    sentence = "**Revolve** the profile about the {axis} axis through {through}, from {start} through {sweep}, {ends}."
    takes = (CURVES,)

    axis: Literal["z", "x", "y"] = choice("z", {"z": "upright", "x": "x", "y": "y"}, "Axis")
    through: Place = point((0.0, 0.0, 0.0), "Place on the axis")
    start: float = number(
        0.0, "°", -360.0, 360.0, 5.0, "From", "Where the profile stands counts as 0°"
    )
    sweep: float = number(360.0, "°", 1.0, 360.0, 5.0, "Through")
    ends: Literal["open", "capped"] = choice(
        "open", {"open": "as a surface", "capped": "closed to a body"}, "Ends"
    )

    def make(self, work: Work) -> Made:
        given: Curves = work.inputs["curves"]
        profile = max(given.curves, key=lambda c: c.path.length)
        surface = self._surface(profile)
        aids = self._dials(profile)
        if self.ends == "open":
            return made(
                surface, warnings=_one_used([c.path for c in given.curves], profile.path), aids=aids
            )
        try:
            body = bounded_by(surface)
        except StackError:
            try:
                body = replace(self._wedge(profile, surface), skin=surface)
            except StackError as error:
                raise ClauseError(
                    f"The body cannot be closed: {error}. Bring the profile's ends to the axis.",
                    "ends",
                ) from None
        return made(body, aids=aids)

    def _dials(self, profile: PlaneCurve) -> dict[str, Array]:
        """Handles where the profile is farthest from the axis: that of the start a little further
        in."""
        foot, axis = np.array(self.through), self._axis
        p = profile.points(np.linspace(0, 1, 65)) - foot
        along = (p @ axis)[:, None] * axis
        k = int(np.argmax(np.linalg.norm(p - along, axis=1)))
        centre, arm, first = foot + along[k], (p - along)[k], np.radians(self.start)
        turned = np.cos(first) * arm + np.sin(first) * np.cross(axis, arm)
        return dial_aid("start", centre, 0.8 * arm, axis) | dial_aid("sweep", centre, turned, axis)

    @property
    def _axis(self) -> Array:
        return {"x": np.array([1.0, 0, 0]), "y": np.array([0, 1.0, 0]), "z": np.array([0, 0, 1.0])}[
            self.axis
        ]

    def _surface(self, profile: PlaneCurve) -> Revolved:
        foot, axis = np.array(self.through), self._axis
        p = profile.points(np.linspace(0, 1, 257)) - foot
        away = np.linalg.norm(p - (p @ axis)[:, None] * axis, axis=1)
        if away.max() < 1e-9:
            raise ClauseError(
                "The profile lies on the axis, so that turning it makes nothing; move one of them.",
                "through",
            )
        # A curve that lies in a plane with the axis may touch it at its ends but not cross it.
        helper = p[int(np.argmax(away))]
        side = helper - (helper @ axis) * axis
        across = (p @ side) / np.linalg.norm(side)
        if across.min() < -1e-6 * away.max():
            at = profile.points(np.array([float(np.argmin(across)) / 256]))[0]
            raise ClauseError(
                f"The profile crosses the axis, so that the surface would run through itself, first near {place_text(at)}; "
                "move the profile or the axis.",
                "through",
                at,
            )
        near = away < 1e-7 * away.max()
        degenerate = {
            name for name, k in (("v0", 0), ("v1", -1)) if near[k] and not profile.path.closed
        }
        whole = abs(self.sweep - 360) < 1e-9
        surface = Revolved(
            profile,
            foot,
            axis,
            float(np.radians(self.start)),
            float(np.radians(self.sweep)),
            whole,
            profile.path.closed,
            frozenset(degenerate),
            profile.path.joints,
        )
        # The outside looks away from the axis, or upward where it lies flat.
        uv = np.stack(np.meshgrid([0.1, 0.4, 0.7], [0.2, 0.5, 0.8]), axis=-1).reshape(-1, 2)
        q = surface.points(uv) - foot
        out = q - (q @ axis)[:, None] * axis
        facing = float(np.einsum("ij,ij->", surface.normals(uv), out))
        if profile.path.closed:
            middle = profile.points(np.linspace(0, 1, 64, endpoint=False)).mean(axis=0) - foot
            r = np.linalg.norm(middle - (middle @ axis) * axis)
            centre = out / np.linalg.norm(out, axis=1, keepdims=True) * r + (middle @ axis) * axis
            facing = float(np.einsum("ij,ij->", surface.normals(uv), q - centre))
        turned = surface.swapped() if facing < 0 else surface
        assert isinstance(turned, Revolved)
        return turned

    def _wedge(self, profile: PlaneCurve, surface: Revolved) -> Body:
        """A wedge whose faces are the profile run on to the axis."""
        foot, axis = np.array(self.through), self._axis
        v = profile.path.parameters(profile.path.size * 1e-3)
        p = profile.points(v)
        if not profile.path.closed:
            ends = p[[-1, 0]]
            onto = foot + ((ends - foot) @ axis)[:, None] * axis
            p = np.vstack([p, onto])
        steps = max(int(np.ceil(self.sweep / 7.5)), 2)
        shares = np.linspace(0, 1, steps + 1)
        q = p - foot
        along = (q @ axis)[:, None] * axis
        out, aside = q - along, np.cross(axis, q - along)
        angles = np.radians(self.start + self.sweep * shares)
        rings = np.stack([foot + along + np.cos(a) * out + np.sin(a) * aside for a in angles])
        walls = ring_stack(rings)
        # Faces run on to the axis are no part of the surface.
        own = np.flatnonzero((walls % len(p) < len(v)).all(axis=1))
        uv = np.zeros((len(shares), len(p), 2))
        uv[..., 0], uv[:, : len(v), 1] = shares[:, None], v
        mesh = mesh_of_triangles(rings.reshape(-1, 3), walls)
        return capped_stack(rings, curved_faces(surface, mesh, uv.reshape(-1, 2), which=own))


class Sweep(ShapeClause):
    kind = "sweep"
    title = "Sweep along a spine"
    summary = "One or more profiles carried along a curve, square to it and without twist."
    sentence = "**Sweep** the profiles along the spine, {ends}."
    takes = (
        Take(name="profiles", types=("Curves",), label="Profiles"),
        Take(name="spine", types=("Curves",), label="Spine"),
    )

    ends: Literal["open", "capped"] = choice(
        "open", {"open": "as a surface", "capped": "closed to a body"}, "Ends"
    )

    def make(self, work: Work) -> Made:
        profiles: Curves = work.inputs["profiles"]
        spines: Curves = work.inputs["spine"]
        spine = max(spines.curves, key=lambda c: c.path.length)
        paths = [c.path for c in profiles.curves]
        if len({p.closed for p in paths}) > 1:
            raise ClauseError(
                "Some profiles are open and some closed; make them all alike.", "ends"
            )
        warnings = _one_used([c.path for c in spines.curves], spine.path)
        if spine.path.joints:
            at = spine.points(np.array(spine.path.joints[:1]))[0]
            warnings.append(
                Notice(
                    f"The spine has {len(spine.path.joints)} sharp corner{'s' if len(spine.path.joints) > 1 else ''}, first at "
                    f"{place_text(at)}, where the profile turns at once; round them first.",
                    at=(float(at[0]), float(at[1]), float(at[2])),
                )
            )
        surface = sweep(paths, spine)
        surface = _outward(surface, spine) if paths[0].closed else _upward_surface(surface)  # type: ignore[assignment]
        if self.ends == "open":
            return made(surface, warnings=warnings)
        if not paths[0].closed:
            raise ClauseError("Open profiles bound no body; close them, or make a surface.", "ends")
        return made(bounded_by(surface), warnings=warnings)


def _outward(surface: Surface, spine: PlaneCurve) -> Surface:
    uv = np.stack(np.meshgrid(np.linspace(0.03, 0.97, 7), [0.2, 0.5, 0.8]), axis=-1).reshape(-1, 2)
    away = surface.points(uv) - spine.points(uv[:, 1])
    return surface.swapped() if np.einsum("ij,ij->", surface.normals(uv), away) < 0 else surface


def _upward_surface(surface: Surface) -> Surface:
    uv = np.stack(
        np.meshgrid(np.linspace(0.03, 0.97, 7), np.linspace(0.03, 0.97, 7)), axis=-1
    ).reshape(-1, 2)
    return surface.swapped() if surface.normals(uv)[:, 2].sum() < -1e-9 else surface


class Translate(ShapeClause):
    kind = "translate"
    title = "Translate along a directrix"
    summary = "One curve carried along another without turning, such as an arch along an arch."
    sentence = "**Translate** the generatrix along the directrix, {outside}."
    takes = (
        Take(name="generatrix", types=("Curves",), label="Generatrix"),
        Take(name="directrix", types=("Curves",), label="Directrix"),
    )

    outside: Literal["out", "swapped"] = choice(
        "out", {"out": "its outside upward", "swapped": "its outside and inside swapped"}, "Sides"
    )

    def make(self, work: Work) -> Made:
        g = max(work.inputs["generatrix"].curves, key=lambda c: c.path.length)
        d = max(work.inputs["directrix"].curves, key=lambda c: c.path.length)
        way = np.abs(
            np.cross(
                g.derivatives(np.linspace(0.01, 0.99, 9)), d.derivatives(np.linspace(0.01, 0.99, 9))
            )
        )
        if way.max() < 1e-9 * g.path.length * d.path.length:
            raise ClauseError(
                "The generatrix and the directrix run the same way, so that nothing is spanned; turn one."
            )
        surface: Surface = Translated(
            g, d, g.path.closed, d.path.closed, g.path.joints, d.path.joints
        )
        surface = _upward_surface(surface)
        return made(surface.swapped() if self.outside == "swapped" else surface)
