"""Surfaces with true points, derivatives, normals and curvature at arrays of (u, v)."""

from __future__ import annotations

import itertools
from abc import ABC, abstractmethod
from dataclasses import dataclass, replace
from functools import cached_property

import numpy as np
import scipy
import shapely
from numpy.typing import NDArray

from ..results import Result, result_type
from .curves import Curve, through_points
from .regions import Region

__all__ = ["JET", "Dome", "Loft", "Surface", "crossing_profiles", "dome", "loft"]

Array = NDArray[np.float64]


JET = ((0, 0), (1, 0), (0, 1), (2, 0), (1, 1), (0, 2))
"""Orders of derivatives by u and v."""


@result_type("Shape", "shape")
class Surface(Result, ABC):
    """A surface over the square [0, 1] × [0, 1] of parameters (u, v); lengths in metres.

    One that is ``pieced`` has several pictures side by side there, so that what lies between two
    places of it cannot be told from their parameters.

    ``closed_u`` tells that u = 0 and u = 1 are the same line, ``closed_v`` likewise. ``degenerate``
    names the sides that shrink to a point: any of ``"u0"``, ``"u1"``, ``"v0"``, ``"v1"``.
    ``domain`` is the part of the square the surface covers, where that is not the whole.
    ``seams_u`` and ``seams_v`` are parameters at which it has a crease. The outside is where
    ``normals`` point.
    """

    closed_u: bool = False
    closed_v: bool = False
    degenerate: frozenset[str] = frozenset()
    flipped: bool = False
    pieced: bool = False
    domain: Region | None = None
    seams_u: tuple[float, ...] = ()
    seams_v: tuple[float, ...] = ()

    @abstractmethod
    def derivatives(self, uv: Array, du: int = 0, dv: int = 0) -> Array:
        """Partial derivatives (n, 3) of order ``du`` by u and ``dv`` by v at ``uv`` (n, 2)."""

    def points(self, uv: Array) -> Array:
        """Points (n, 3) at ``uv`` (n, 2)."""
        return self.derivatives(uv)

    def jet(self, uv: Array) -> tuple[Array, ...]:
        """Points and all derivatives (n, 3) up to the second, in the order of ``JET``."""
        return tuple(self.derivatives(uv, *order) for order in JET)

    def wrapped(self, uv: Array) -> Array:
        """Parameters (n, 2) held in the square, those of closed directions by whole turns."""
        out = np.clip(uv, 0.0, 1.0)
        for axis, closed in enumerate((self.closed_u, self.closed_v)):
            if closed:
                out[:, axis] = uv[:, axis] % 1.0
        return out

    def extended(self, uv: Array) -> Array:
        """Points (n, 3) at ``uv`` that may lie outside the square: there the surface runs on along
        its tangents."""
        inside = self.wrapped(uv)
        out = self.points(inside)
        past = uv - inside
        past[:, [self.closed_u, self.closed_v]] = 0.0
        rows = np.flatnonzero(np.any(past != 0.0, axis=1))
        if rows.size:
            at = inside[rows]
            out[rows] += past[rows, :1] * self.derivatives(at, 1, 0) + past[
                rows, 1:
            ] * self.derivatives(at, 0, 1)
        return out

    def normals(self, uv: Array) -> Array:
        """Unit normals (n, 3) on the outside at ``uv`` (n, 2).

        Where a side has shrunk to a point the limit a hair's breadth inside is taken.
        """
        at = self._off_points(np.clip(uv, 0.0, 1.0), 1e-6)
        n = np.cross(self.derivatives(at, 1, 0), self.derivatives(at, 0, 1))
        n /= np.maximum(np.linalg.norm(n, axis=1, keepdims=True), 1e-300)
        return -n if self.flipped else n

    def _off_points(self, uv: Array, share: float) -> Array:
        """Parameters at least ``share`` away from the sides that have shrunk to a point."""
        uv = uv.copy()
        for side in self.degenerate:
            axis, end = "uv".index(side[0]), float(side[1])
            near = np.abs(uv[:, axis] - end) < share
            uv[near, axis] = abs(end - share)
        return uv

    def curvatures(self, uv: Array) -> Array:
        """Gaussian (1/m²) and mean (1/m) curvature (n, 2) from both fundamental forms (do Carmo,
        1976, §3.3).

        Mean curvature is positive where the surface bends towards its inside, as a sphere does.
        """
        su, sv = self.derivatives(uv, 1, 0), self.derivatives(uv, 0, 1)
        n = self.normals(uv)
        e, f, g = (np.einsum("ij,ij->i", a, b) for a, b in ((su, su), (su, sv), (sv, sv)))
        ll, m, k = (
            np.einsum("ij,ij->i", self.derivatives(uv, *o), n) for o in ((2, 0), (1, 1), (0, 2))
        )
        area2 = np.maximum(e * g - f * f, 1e-300)
        return np.column_stack(
            [(ll * k - m * m) / area2, -(e * k - 2 * f * m + g * ll) / (2 * area2)]
        )

    def closest(self, points: Array, steps: int = 30) -> Array:
        """Parameters (n, 2) of the surface points closest to ``points`` (n, 3).

        Newton's method on the squared distance, clamped to the square, from the nearest sample of a
        grid (Piegl and Tiller, 1997, §6.1). Finds the nearest point when the grid start lies in its
        basin.
        """
        grid, tree = self._samples
        return self.closest_from(points, grid[tree.query(points)[1]], steps)

    def closest_from(self, points: Array, uv: Array, steps: int = 30) -> Array:
        """The same from parameters ``uv`` (n, 2) near by."""
        for _ in range(steps):
            places, su, sv, suu, suv, svv = self.jet(uv)
            d = places - points
            gu, gv = np.einsum("ij,ij->i", su, d), np.einsum("ij,ij->i", sv, d)
            huu, huv, hvv = (
                np.einsum("ij,ij->i", a, b) + np.einsum("ij,ij->i", c, d)
                for a, b, c in ((su, su, suu), (su, sv, suv), (sv, sv, svv))
            )
            det = huu * hvv - huv * huv
            convex = (det > 1e-14 * np.abs(huu * hvv)) & (huu > 0)
            # Where the Hessian is not definite, its Gauss–Newton part still gives a way down.
            guu, gvv = np.einsum("ij,ij->i", su, su), np.einsum("ij,ij->i", sv, sv)
            huu, hvv, huv = (
                np.where(convex, huu, guu),
                np.where(convex, hvv, gvv),
                np.where(convex, huv, 0.0),
            )
            det = np.maximum(np.where(convex, det, guu * gvv), 1e-300)
            step = np.column_stack([(hvv * gu - huv * gv) / det, (huu * gv - huv * gu) / det])
            new = uv - np.clip(step, -0.1, 0.1)
            for axis, closed in enumerate((self.closed_u, self.closed_v)):
                if closed:
                    new[:, axis] %= 1.0
            # On a side that is a point u has no meaning, and the search would stop there.
            new = self._off_points(np.clip(new, 0.0, 1.0), 1e-9)
            moved = np.abs(new - uv).max(initial=0.0)
            uv = new
            if moved < 1e-14:
                break
        return uv

    @cached_property
    def _samples(self) -> tuple[Array, scipy.spatial.cKDTree]:
        axis = np.linspace(0.0, 1.0, 41)
        grid = self._off_points(
            np.stack(np.meshgrid(axis, axis, indexing="ij"), axis=-1).reshape(-1, 2), 0.0125
        )
        return grid, scipy.spatial.cKDTree(self.points(grid))

    @property
    def breaks(self) -> tuple[tuple[float, ...], tuple[float, ...]]:
        """Parameters of u and of v, within the square, between which it is smooth: creases, and
        where pieces meet without one."""
        return self.seams_u, self.seams_v

    def grid(self, nu: int, nv: int) -> Array:
        """Points (nu, nv, 3) at even parameters."""
        u, v = np.meshgrid(np.linspace(0, 1, nu), np.linspace(0, 1, nv), indexing="ij")
        return self.points(np.column_stack([u.ravel(), v.ravel()])).reshape(nu, nv, 3)

    @cached_property
    def lengths(self) -> tuple[float, float]:
        """Mean real length in metres of the lines along u and of those along v."""
        return self._mean_length(0, self.seams_u), self._mean_length(1, self.seams_v)

    def _mean_length(self, axis: int, seams: tuple[float, ...]) -> float:
        """Mean length (m) of 17 lines along one parameter, with a place at each corner they
        have."""
        along = np.unique(np.concatenate([np.linspace(0, 1, 257), np.array(seams, float)]))
        across = np.linspace(0, 1, 17)
        at = np.stack(np.meshgrid(across, along, indexing="ij"), axis=-1).reshape(-1, 2)
        places = self.points(at[:, ::-1] if axis == 0 else at).reshape(len(across), len(along), 3)
        return float(np.linalg.norm(np.diff(places, axis=1), axis=2).sum(axis=1).mean())

    def quadrature(self) -> tuple[Array, Array]:
        """Parameters (n, 2) and weights (n,) that integrate over the part of the square the surface
        covers.

        Gauss–Legendre points on 12 × 12 patches of 4 × 4; where there is a domain, the centroids of
        a fine grid cut by it.
        """
        if self.domain is not None:
            axis = np.linspace(0.0, 1.0, 65)
            x, y = np.meshgrid(axis[:-1], axis[:-1], indexing="ij")
            step = axis[1]
            boxes = shapely.box(x.ravel(), y.ravel(), x.ravel() + step, y.ravel() + step)
            shapely.prepare(self.domain.polygon)
            whole = shapely.covers(self.domain.polygon, boxes)
            touching = ~whole & shapely.intersects(self.domain.polygon, boxes)
            cut = shapely.intersection(boxes[touching], self.domain.polygon)
            cut = cut[shapely.area(cut) > 0]
            inner = np.column_stack([x.ravel(), y.ravel()])[whole] + step / 2
            at = np.vstack([inner, shapely.get_coordinates(shapely.centroid(cut))])
            return at, np.concatenate([np.full(len(inner), step**2), shapely.area(cut)])
        axes = []
        for seams in (self.seams_u, self.seams_v):
            breaks = np.unique(np.concatenate([np.linspace(0.0, 1.0, 13), np.array(seams)]))
            nodes, weights = np.polynomial.legendre.leggauss(4)
            size = np.diff(breaks)[:, None]
            axes.append(
                ((breaks[:-1, None] + size * (nodes + 1) / 2).ravel(), (size * weights / 2).ravel())
            )
        (u, wu), (v, wv) = axes
        uu, vv = np.meshgrid(u, v, indexing="ij")
        return np.column_stack([uu.ravel(), vv.ravel()]), np.outer(wu, wv).ravel()

    @cached_property
    def area(self) -> float:
        """Area in m²."""
        uv, weights = self.quadrature()
        cross = np.cross(self.derivatives(uv, 1, 0), self.derivatives(uv, 0, 1))
        return float(np.linalg.norm(cross, axis=1) @ weights)

    def swapped(self) -> Surface:
        """The same surface with outside and inside exchanged."""
        return replace(self, flipped=not self.flipped)  # type: ignore[type-var]


@dataclass(frozen=True, eq=False)
class Loft(Surface):
    """The surface that interpolates profiles: ``profiles[i]`` is the line v = ``stations[i]``."""

    profiles: tuple[Curve, ...]
    stations: Array
    across: scipy.interpolate.CubicSpline
    closed_u: bool
    flipped: bool = False

    def derivatives(self, uv: Array, du: int = 0, dv: int = 0) -> Array:
        u, v = uv[:, 0], uv[:, 1]
        share = self.across(v, dv)
        out = np.zeros((len(uv), 3))
        for i, profile in enumerate(self.profiles):
            out += share[:, i, None] * profile.derivatives(u, du)
        return out


def loft(profiles: list[Array], closed: bool = False, swapped: bool = False) -> Loft:
    """Surface through two or more profiles, each given by its points (n_i, 3); the n_i may differ.

    The outside of an open surface is the side that looks up, that of a closed one looks away from
    its axis; ``swapped`` exchanges outside and inside.

    Each profile is an interpolating cubic spline over [0, 1]; between the profiles runs a cubic
    spline through the profiles' points at equal parameter (skinning; Woodward, 1988), whose
    stations are the mean accumulated chord lengths. As that spline is linear in what it
    interpolates, all derivatives are exact.
    """
    curves = tuple(through_points(p, closed) for p in profiles)
    t = np.linspace(0.0, 1.0, 33)
    samples = np.stack([c.points(t) for c in curves])
    gaps = np.linalg.norm(np.diff(samples, axis=0), axis=2).mean(axis=1)
    stations = np.concatenate([[0.0], np.cumsum(gaps) / gaps.sum()])
    surface = Loft(
        curves, stations, scipy.interpolate.CubicSpline(stations, np.eye(len(curves))), closed
    )
    return replace(surface, flipped=bool(_outside_is_reversed(surface) ^ swapped))


def _outside_is_reversed(surface: Loft) -> bool:
    uv = np.stack(
        np.meshgrid(np.linspace(0, 1, 25)[:-1], np.linspace(0, 1, 9), indexing="ij"), axis=-1
    ).reshape(-1, 2)
    cross = np.cross(surface.derivatives(uv, 1, 0), surface.derivatives(uv, 0, 1))
    if surface.closed_u:
        points = surface.points(uv).reshape(24, 9, 3)
        return bool(np.sum((points - points.mean(axis=0)).reshape(-1, 3) * cross) < 0)
    total = cross.sum(axis=0)
    # A wall that looks neither up nor down keeps the side its parameters give it.
    return bool(total[2] < -1e-9 * np.abs(cross).sum())


def crossing_profiles(surface: Loft) -> tuple[int, Array] | None:
    """The first profile (counted from 0) that meets the next one, and the place (3,), or ``None``.

    From every pair of close samples the nearest places on the two curves are sought by Gauss–Newton
    steps; the curves meet where that distance comes to nothing. Profiles also count as meeting
    where the step from one to the other at equal parameter turns back between neighbouring samples.
    """
    t = np.linspace(0.0, 1.0, 401)
    lines = np.stack([c.points(t) for c in surface.profiles])
    size = max(float(np.ptp(lines.reshape(-1, 3), axis=0).max()), 1e-300)
    for i, (one, two) in enumerate(itertools.pairwise(surface.profiles)):
        step = lines[i + 1] - lines[i]
        turned = np.flatnonzero(np.einsum("ij,ij->i", step[:-1], step[1:]) < 0)
        if turned.size:
            return i, lines[i, turned[0]]
        gaps, near = (np.asarray(x) for x in scipy.spatial.cKDTree(lines[i + 1]).query(lines[i]))
        spacing = np.linalg.norm(np.diff(lines[i : i + 2], axis=1), axis=2).max()
        rows = np.flatnonzero(gaps < 2 * spacing)
        if not rows.size:
            continue
        a, b = t[rows], t[near[rows]]
        for _ in range(12):
            d, ta, tb = one.points(a) - two.points(b), one.derivatives(a), two.derivatives(b)
            aa, ab, bb = (np.einsum("ij,ij->i", x, y) for x, y in ((ta, ta), (ta, tb), (tb, tb)))
            ra, rb = np.einsum("ij,ij->i", ta, d), np.einsum("ij,ij->i", tb, d)
            det = np.maximum(aa * bb - ab * ab, 1e-12 * aa * bb)
            a = np.clip(a - (bb * ra - ab * rb) / det, 0.0, 1.0)
            b = np.clip(b - (ab * ra - aa * rb) / det, 0.0, 1.0)
        met = np.flatnonzero(np.linalg.norm(one.points(a) - two.points(b), axis=1) < 1e-6 * size)
        if met.size:
            return i, one.points(a[met[:1]])[0]
    return None


@dataclass(frozen=True, eq=False)
class Dome(Surface):
    """A spherical cap: u runs round, v from the edge (0) to the apex (1)."""

    radius: float
    half_angle: float
    centre: Array
    closed_u: bool = True
    degenerate: frozenset[str] = frozenset({"v1"})
    flipped: bool = False

    def derivatives(self, uv: Array, du: int = 0, dv: int = 0) -> Array:
        turn, tilt = 2 * np.pi * uv[:, 0], self.half_angle * (1 - uv[:, 1])
        # The n-th derivative of sin x is sin(x + n π/2), and of cos x likewise.
        tu, tv = turn + du * np.pi / 2, tilt + dv * np.pi / 2
        scale = self.radius * (2 * np.pi) ** du * (-self.half_angle) ** dv
        flat = np.zeros_like(turn) if du else np.cos(tv)
        out = scale * np.column_stack([np.sin(tv) * np.cos(tu), np.sin(tv) * np.sin(tu), flat])
        return out if du or dv else out + self.centre


def dome(span: float, rise: float, centre: Array) -> Dome:
    """Spherical cap of the given ``span`` and ``rise`` (m, both above 0) standing on ``centre``
    (3,).

    Radius from the chord theorem: R = (a² + h²) / 2h with a half the span and h the rise.
    """
    a = span / 2
    radius = (a * a + rise * rise) / (2 * rise)
    half_angle = float(np.arctan2(a, radius - rise))
    return Dome(radius, half_angle, np.asarray(centre, float) + [0.0, 0.0, rise - radius])
