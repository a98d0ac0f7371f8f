"""Surfaces made by moving curves: extruded, turned about an axis, carried along a spine."""

from __future__ import annotations

from dataclasses import dataclass
from typing import Literal

import numpy as np
import scipy
from numpy.typing import NDArray

from .paths import Path, PlaneCurve
from .surfaces import Surface

__all__ = ["Extruded", "Revolved", "Swept", "Translated", "rotation_minimising_frames", "sweep"]

Array = NDArray[np.float64]


@dataclass(frozen=True, eq=False)
class Extruded(Surface):
    """Straight lines from a curve to the one above it, at equal parameters: u along, v from low to
    high."""

    low: PlaneCurve
    high: PlaneCurve
    closed_u: bool
    seams_u: tuple[float, ...]
    flipped: bool = False

    @property
    def breaks(self) -> tuple[tuple[float, ...], tuple[float, ...]]:
        return self.low.path.breaks, ()

    def derivatives(self, uv: Array, du: int = 0, dv: int = 0) -> Array:
        if dv > 1:
            return np.zeros((len(uv), 3))
        a, b = (
            c.points(uv[:, 0]) if du == 0 else c.derivatives(uv[:, 0], du)
            for c in (self.low, self.high)
        )
        v = uv[:, 1:]
        return b - a if dv else (1 - v) * a + v * b


@dataclass(frozen=True, eq=False)
class Revolved(Surface):
    """A profile turned about an axis: u round from ``first`` through ``sweep`` (rad), v along the
    profile."""

    profile: PlaneCurve
    foot: Array
    axis: Array
    first: float
    sweep: float
    closed_u: bool
    closed_v: bool
    degenerate: frozenset[str]
    seams_v: tuple[float, ...]
    flipped: bool = False

    @property
    def breaks(self) -> tuple[tuple[float, ...], tuple[float, ...]]:
        return (), self.profile.path.breaks

    def derivatives(self, uv: Array, du: int = 0, dv: int = 0) -> Array:
        v = uv[:, 1]
        p = self.profile.points(v) - self.foot if dv == 0 else self.profile.derivatives(v, dv)
        along = (p @ self.axis)[:, None] * self.axis
        out = p - along
        aside = np.cross(self.axis, out)
        angle = self.first + self.sweep * uv[:, 0] + du * np.pi / 2
        turned = self.sweep**du * (np.cos(angle)[:, None] * out + np.sin(angle)[:, None] * aside)
        if du:
            return turned
        return turned + along + (self.foot if dv == 0 else 0.0)


@dataclass(frozen=True, eq=False)
class Translated(Surface):
    """A generatrix carried along a directrix without turning: u along the generatrix, v along the
    directrix."""

    generatrix: PlaneCurve
    directrix: PlaneCurve
    closed_u: bool
    closed_v: bool
    seams_u: tuple[float, ...]
    seams_v: tuple[float, ...]
    flipped: bool = False

    @property
    def breaks(self) -> tuple[tuple[float, ...], tuple[float, ...]]:
        return self.generatrix.path.breaks, self.directrix.path.breaks

    def derivatives(self, uv: Array, du: int = 0, dv: int = 0) -> Array:
        if du and dv:
            return np.zeros((len(uv), 3))
        if du:
            return self.generatrix.derivatives(uv[:, 0], du)
        if dv:
            return self.directrix.derivatives(uv[:, 1], dv)
        return (
            self.generatrix.points(uv[:, 0])
            + self.directrix.points(uv[:, 1])
            - self.directrix.points(np.zeros(1))
        )


@dataclass(frozen=True, eq=False)
class Swept(Surface):
    """Profiles carried along a spine in frames that do not turn about it: u along the profile, v
    along the spine.

    S(u, v) = c(v) + a(u, v) n(v) + b(u, v) m(v), where the profile's coordinates a and b are
    blended between profiles by ``shares``.
    """

    profiles: tuple[Path, ...]
    spine: PlaneCurve
    across: scipy.interpolate.CubicSpline
    up: scipy.interpolate.CubicSpline
    shares: scipy.interpolate.CubicSpline
    closed_u: bool
    closed_v: bool
    seams_u: tuple[float, ...]
    flipped: bool = False

    @property
    def breaks(self) -> tuple[tuple[float, ...], tuple[float, ...]]:
        return tuple(sorted({b for p in self.profiles for b in p.breaks})), self.spine.path.breaks

    def derivatives(self, uv: Array, du: int = 0, dv: int = 0) -> Array:
        u, v = uv[:, 0], uv[:, 1]
        flat = [p.derivatives(u, du) for p in self.profiles]
        out = np.zeros((len(uv), 3))
        for k in range(
            dv + 1
        ):  # Leibniz: derivatives of the profile's coordinates times those of the frame
            share = self.shares(v, dv - k)
            ab = sum(share[:, i, None] * f for i, f in enumerate(flat))
            factor = [1, dv, 1][k] if dv == 2 else 1
            out += factor * (ab[:, :1] * self.across(v, k) + ab[:, 1:] * self.up(v, k))  # type: ignore[index]
        if du == 0:
            out += self.spine.points(v) if dv == 0 else self.spine.derivatives(v, dv)
        return out


def rotation_minimising_frames(points: Array, tangents: Array, first: Array) -> Array:
    """Normals (n, 3) along a curve that turn about it as little as can be, begun with ``first``
    (3,).

    Double reflection (Wang, Jüttler, Zheng and Liu, 2008): fourth-order accurate in the spacing of
    the points.
    """
    out = np.empty_like(points)
    r = first - (first @ tangents[0]) * tangents[0]
    out[0] = r / np.linalg.norm(r)
    for i in range(len(points) - 1):
        v1 = points[i + 1] - points[i]
        c1 = v1 @ v1
        if c1 < 1e-300:
            out[i + 1] = out[i]
            continue
        r_left = out[i] - (2 / c1) * (v1 @ out[i]) * v1
        t_left = tangents[i] - (2 / c1) * (v1 @ tangents[i]) * v1
        v2 = tangents[i + 1] - t_left
        c2 = v2 @ v2
        r = r_left - (2 / c2) * (v2 @ r_left) * v2 if c2 > 1e-30 else r_left
        r = r - (r @ tangents[i + 1]) * tangents[i + 1]
        out[i + 1] = r / np.linalg.norm(r)
    return out


def sweep(profiles: list[Path], spine: PlaneCurve, stations: int = 240) -> Swept:
    """Profiles (x to the side, y upward) carried along ``spine``, the first at its start and the
    last at its end.

    The frames begin with the side level and turn about the spine as little as can be; round a
    closed spine what they have turned by is spread evenly, so that they meet.
    """
    closed = spine.path.closed
    v = np.linspace(0, 1, stations + 1)
    at = np.where(v == 1.0, 0.0, v) if closed else v
    points, tangents = spine.points(at), spine.derivatives(at)
    tangents /= np.maximum(np.linalg.norm(tangents, axis=1, keepdims=True), 1e-300)
    side = np.cross(tangents[0], [0.0, 0.0, 1.0])
    if np.linalg.norm(side) < 1e-6:
        side = np.array([1.0, 0.0, 0.0])
    across = rotation_minimising_frames(points, tangents, side)
    if closed:
        turned = np.arctan2(np.cross(across[-1], across[0]) @ tangents[0], across[-1] @ across[0])
        angle = (turned * v)[:, None]
        across = np.cos(angle) * across + np.sin(angle) * np.cross(tangents, across)
        across[-1] = across[0]
    up = np.cross(across, tangents)
    ends: Literal["periodic", "not-a-knot"] = "periodic" if closed else "not-a-knot"
    if closed:
        up[-1] = up[0]
    where = np.linspace(0, 1, len(profiles)) if len(profiles) > 1 else np.array([0.0, 1.0])
    values = np.eye(len(profiles)) if len(profiles) > 1 else np.ones((2, 1))
    seams = tuple(sorted({t for p in profiles for t in p.joints}))
    return Swept(
        tuple(profiles),
        spine,
        scipy.interpolate.CubicSpline(v, across, bc_type=ends),
        scipy.interpolate.CubicSpline(v, up, bc_type=ends),
        scipy.interpolate.CubicSpline(where, values),
        profiles[0].closed,
        closed,
        seams,
    )
