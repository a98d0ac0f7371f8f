"""Panels that are twisted cold: by how much and how stressed by their corners, and where they are
then."""

from __future__ import annotations

import numpy as np
from numpy.typing import NDArray

from ...core.materials import MATERIALS
from .pack_files import Found, Pack, Row, number_in
from .panels import corners_of, outline_in_pose, panels_at_nodes, plane_of, pose_of

__all__ = ["heights_in_pose", "heights_of_twisted", "twists_of_panels"]

Array = NDArray[np.float64]
TITLES = {m.title: m for m in MATERIALS.values()}
LARGEST_RATIO = 0.45
ROUNDED = 0.002
"""Share of a stress that rounded places of nodes may tell on a panel that is hardly twisted."""


def twists_of_panels(pack: Pack) -> Found:
    """Twists (mm) and stresses (hundredths of MPa) of panels.csv, worked out from their corners."""
    for row in panels_at_nodes(pack):
        twist, stress = (number_in(row, f"{n}", "panels") for n in ("twist_mm", "twist_stress_MPa"))
        where = f"{row['label']} in panels.csv: twist"
        if not twist:
            yield abs(stress) * 100, where
            continue
        corners = corners_of(pack, row)
        if len(corners) != 4:
            yield np.inf, where
            continue
        out, across, curved = _bent(corners / 1000)
        yield abs(out * 1000 - twist), where
        wanted = _stress(row, out / across, curved) / 1e6
        yield max(abs(wanted - stress) - ROUNDED * wanted, 0.0) * 100, f"{where}: stress"


def _bent(p: Array) -> tuple[float, float, Array]:
    """How far (m) the patch between corners (4, 3) in metres is twisted in its middle, how long (m)
    the shorter of its middle lines is, and its principal curvatures (2,; 1/m): what its second form
    is to its first."""
    diagonals = p[2] - p[0], p[3] - p[1]
    ways = np.stack([diagonals[0] - diagonals[1], diagonals[0] + diagonals[1]]) / 2
    normal = np.cross(*ways)
    normal /= np.linalg.norm(normal)
    out = float((p[0] - p[1] + p[2] - p[3]) @ normal)
    first, second = ways @ ways.T, np.array([[0.0, out], [out, 0.0]])
    curved = np.asarray(np.linalg.eigvals(np.linalg.solve(first, second)).real)
    return abs(out), float(np.linalg.norm(ways, axis=1).min()), curved


def _stress(row: Row, slope: float, curved: Array) -> float:
    """Largest tension (Pa) at the sides of a plate bent to curvatures (2,; 1/m), its ends turned to
    each other by a ``slope``: the larger root of a plane stress."""
    of = MATERIALS.get(row["material"]) or TITLES[row["material"]]
    ratio = min(max(of.stiffness / (2 * of.shear_stiffness) - 1, 0.0), LARGEST_RATIO)
    stiff = 2 * of.shear_stiffness * (1 + ratio) / (1 - ratio**2)
    bent = np.array([curved[0] + ratio * curved[1], curved[1] + ratio * curved[0]])
    shear = stiff * number_in(row, "thickness_mm", "panels") / 2000 * np.abs(bent).max()
    along = of.stiffness * slope**2 / 12
    return float(np.linalg.eigvalsh(np.array([[along, shear], [shear, 0.0]])).max())


def heights_in_pose(pack: Pack, row: Row, pose: Row, places: Array) -> Array:
    """How far (k,) in mm a twisted panel is off its plane at places (k, 2) in mm of its own frame,
    from its lower left corner on."""
    at, x, y = pose_of(pose)
    corners = corners_of(pack, row)
    middle, axes, normal = plane_of(corners)
    flat = (corners - middle) @ axes.T
    here = (at * 1000 + places[:, :1] * x + places[:, 1:] * y - middle) @ axes.T
    u, v = _shares(flat, here)
    weights = np.stack([(1 - u) * (1 - v), u * (1 - v), u * v, (1 - u) * v], axis=1)
    return np.asarray(weights @ ((corners - middle) @ normal))


def heights_of_twisted(pack: Pack, row: Row, pose: Row) -> tuple[float, float] | None:
    """Between which heights (mm) above its plane a twisted panel with sharp corners lies; ``None``
    where its outline is not known, or these are rounded."""
    if number_in(row, "corner_radius_mm", "panels"):
        return None
    off = heights_in_pose(pack, row, pose, outline_in_pose(pack, row["label"]))
    return float(off.min()), float(off.max())


def _shares(corners: Array, places: Array) -> tuple[Array, Array]:
    """Shares (k,) along the first and the last side of a quad (4, 2) at which lines between its
    sides pass through ``places`` (k, 2): roots of a quadratic."""
    a, b, c, d = corners
    along, up, skew, to = b - a, d - a, a - b + c - d, places - a
    two = _cross(skew, up)
    one = _cross(along, up) + _cross(to, skew)
    none = _cross(to, along)
    root = np.sqrt(np.maximum(one**2 - 4 * two * none, 0.0))
    # The root that stays where the quad becomes a parallelogram, and two vanishes.
    v = -2 * none / (one + np.where(one < 0, -root, root))
    below = along + v[:, None] * skew
    u = np.einsum("ij,ij->i", to - v[:, None] * up, below) / np.einsum("ij,ij->i", below, below)
    return u, v


def _cross(one: Array, other: Array) -> Array:
    return np.asarray(one[..., 0] * other[..., 1] - one[..., 1] * other[..., 0])
