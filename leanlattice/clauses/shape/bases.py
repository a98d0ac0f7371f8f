"""Bodies from surfaces: on a base, and between two."""

from __future__ import annotations

from typing import Literal

import numpy as np

from ...core.geometry.meshes import Body, Mesh
from ...core.shaping.bases import between, clear_height, on_level
from ...core.shaping.facets import facets
from ...core.shaping.solids import SolidError
from ..base import ClauseError, Figure, Made, Notice, Take, Work, choice, number
from ..said import metres, place_text
from .common import SHAPE, Shape, ShapeClause, line_aid, made

__all__ = ["BetweenSurfaces", "OnBase"]


def _open_mesh(shape: Shape) -> Mesh:
    if isinstance(shape, Body):
        raise ClauseError("This shape is a body already; only an open surface can be filled under.")
    return facets(shape).mesh


def _no_plan(error: SolidError) -> ClauseError:
    """Why nothing can be filled under a surface."""
    where = "" if error.at is None else f" near {place_text(error.at)}"
    return ClauseError(f"{error}{where}; turn or cut it first.", None, error.at)


class OnBase(ShapeClause):
    kind = "base"
    title = "Stand on a base"
    summary = "A body from a surface down to a flat foot."
    sentence = "**Stand** the surface on a flat base {by}[by=level| {level}, at least][by=depth|] {depth} below its lowest point."
    takes = (SHAPE,)

    by: Literal["depth", "level"] = choice(
        "depth", {"depth": "that lies", "level": "at level"}, "Base"
    )
    level: float = number(0.0, "m", -10000.0, 10000.0, 0.1, "Level of the base")
    depth: float = number(0.3, "m", 0.001, 1000.0, 0.01, "Least depth")

    def make(self, work: Work) -> Made:
        shape: Shape = work.inputs["shape"]
        mesh = _open_mesh(shape)
        k = int(np.argmin(mesh.vertices[:, 2]))
        lowest = mesh.vertices[k]
        most = float(lowest[2]) - self.depth
        level = most if self.by == "depth" else self.level
        if level > most + 1e-9:
            raise ClauseError(
                f"The lowest point lies at {metres(lowest[2], '.3f')}, {place_text(lowest)}; with "
                f"{metres(self.depth)} left below it the base "
                f"lies at {metres(np.floor(most * 1000) / 1000)} or lower.",
                "level",
                lowest,
            )
        try:
            body = on_level(mesh, level)
        except SolidError as error:
            raise _no_plan(error) from None
        figures = {
            "base_level": Figure("Base at", level, "m", 2),
            "height": Figure("Height", float(mesh.vertices[:, 2].max()) - level, "m", 2),
        }
        aids = line_aid("depth", lowest, np.array([0.0, 0.0, -1.0])) if self.by == "depth" else None
        return made(body, figures, aids=aids)


class BetweenSurfaces(ShapeClause):
    kind = "between"
    title = "Fill between two surfaces"
    summary = "A body where, seen in plan, one surface lies above another."
    sentence = "**Fill** between the two surfaces, {least} or more apart."
    takes = (
        Take(name="one", types=("Shape",), label="One surface"),
        Take(name="other", types=("Shape",), label="Other surface"),
    )

    least: float = number(0.1, "m", 0.0, 1000.0, 0.01, "Least depth")

    def make(self, work: Work) -> Made:
        upper, lower = (_open_mesh(work.inputs[k]) for k in ("one", "other"))
        if upper.vertices[:, 2].mean() < lower.vertices[:, 2].mean():
            upper, lower = lower, upper
        depth, at = clear_height(upper, lower)
        if not np.isfinite(depth):
            raise ClauseError(
                "The two surfaces do not lie above each other anywhere in plan; move one of them, or choose others."
            )
        try:
            body = between(upper, lower)
        except SolidError as error:
            raise _no_plan(error) from None
        if not len(body.mesh.triangles):
            raise ClauseError(
                "The two surfaces have no room between them; move one of them up or down."
            )
        warnings = []
        if depth < self.least - 1e-9:
            what = "cross each other" if depth < 0 else f"come as near as {metres(depth, '.3f')}"
            warnings.append(
                Notice(
                    f"The surfaces {what} at {place_text(at)}; moving one by "
                    f"{metres(self.least - depth, '.3f')} keeps them "
                    f"{metres(self.least)} apart.",
                    at=(float(at[0]), float(at[1]), float(at[2])),
                    value="least",
                )
            )
        return made(body, {"least_depth": Figure("Least depth", depth, "m", 3)}, warnings)
