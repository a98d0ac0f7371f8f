"""Straightening pictures from four corners."""

from __future__ import annotations

import numpy as np
from numpy.typing import NDArray

__all__ = ["PictureError", "homography", "plane_size"]

Array = NDArray[np.float64]


class PictureError(ValueError):
    """Corners from which no picture can be straightened, in a sentence."""


def _check(corners: Array) -> None:
    before, after = corners - np.roll(corners, 1, axis=0), np.roll(corners, -1, axis=0) - corners
    turns = before[:, 0] * after[:, 1] - before[:, 1] * after[:, 0]
    if not (np.all(turns > 1e-9) or np.all(turns < -1e-9)):
        raise PictureError(
            "The four corners do not go round a quadrilateral; put them upper left, upper right, lower right, "
            "lower left."
        )


def homography(corners: Array, width: float = 1.0, height: float = 1.0) -> Array:
    """Matrix (3, 3) that carries the straightened picture's places to the photographed ones.

    ``corners`` (4, 2) are the photographed places of (0, 0), (width, 0), (width, height), (0,
    height). Direct linear solution of the eight equations (Hartley and Zisserman, 2004, §4.1).
    Raises ``PictureError``.
    """
    _check(corners)
    flat = np.array([[0, 0], [width, 0], [width, height], [0, height]], float)
    rows = []
    for (x, y), (u, v) in zip(flat, corners, strict=True):
        rows.append([x, y, 1, 0, 0, 0, -u * x, -u * y])
        rows.append([0, 0, 0, x, y, 1, -v * x, -v * y])
    h = np.linalg.solve(np.array(rows), corners.ravel())
    return np.append(h, 1.0).reshape(3, 3)


def plane_size(corners: Array, centre: Array) -> tuple[float, float]:
    """Width and height, in pixels along the longer sides, of the rectangle that four corners (4, 2)
    show.

    ``centre`` (2,) is where the camera's axis meets the picture: its middle, unless it was trimmed.
    With it the ratio of the sides is the true one (Zhang and He, 2007, eqs. 11–20); where the
    picture has no perspective it is that of the mean sides.
    """
    _check(corners)
    sides = np.linalg.norm(np.roll(corners, -1, axis=0) - corners, axis=1)
    width, height = (sides[0] + sides[2]) / 2, (sides[1] + sides[3]) / 2
    m1, m2, m4, m3 = (np.append(c - centre, 1.0) for c in corners)
    k2 = np.cross(m1, m4) @ m3 / (np.cross(m2, m4) @ m3)
    k3 = np.cross(m1, m4) @ m2 / (np.cross(m3, m4) @ m2)
    n2, n3 = k2 * m2 - m1, k3 * m3 - m1
    longest = float(max(sides.max(), 1e-9))
    if abs(n2[2]) > 1e-3 and abs(n3[2]) > 1e-3:
        f2 = -(n2[0] * n3[0] + n2[1] * n3[1]) / (n2[2] * n3[2])
        if (0.2 * longest) ** 2 < f2 < (20 * longest) ** 2:
            w = (n2[0] ** 2 + n2[1] ** 2) / f2 + n2[2] ** 2
            h = (n3[0] ** 2 + n3[1] ** 2) / f2 + n3[2] ** 2
            ratio = float(np.sqrt(w / h))
            area = width * height
            width, height = np.sqrt(area * ratio), np.sqrt(area / ratio)
    return float(width), float(height)
