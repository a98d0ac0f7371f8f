"""Small pictures of results, drawn without a browser: for the built-in guide and for contact
sheets."""

from __future__ import annotations

import io
from typing import Any

import numpy as np
from numpy.typing import NDArray
from PIL import Image, ImageDraw

from ..core.compiled import compiled
from .kinds import kind_of
from .kinds.kind import Picture

__all__ = ["picture_of"]

Array = NDArray[np.float64]
SIZE = (288, 180)
FINE = 3
GROUND, SHAPE = (233, 239, 241), np.array([224, 218, 199])
AWAY = np.array([0.55, -0.8, 0.6]) / np.linalg.norm([0.55, -0.8, 0.6])
RIGHT = np.cross([0, 0, 1.0], AWAY) / np.linalg.norm(np.cross([0, 0, 1.0], AWAY))
UP = np.cross(AWAY, RIGHT)
LIGHT = np.array([-0.2, -0.65, 0.75])


def _flat(points: Array) -> Array:
    return np.column_stack([points @ RIGHT, points @ UP])


def _picture(result: Any) -> Picture:
    """What is drawn of a result: nothing where there is no picture of its type."""
    kind = kind_of(result)
    if kind is None or kind.picture is None:
        return Picture(np.zeros((0, 3)), None, [])
    return kind.picture(result)


def picture_of(result: Any) -> bytes:
    """PNG of a result seen obliquely: a shape lit, a net by its cells and edges, curves as
    lines."""
    picture = _picture(result)
    places, triangles, lines = picture.places, picture.triangles, picture.lines
    flat = _flat(places)
    low, size = flat.min(axis=0), np.maximum(np.ptp(flat, axis=0), 1e-9)
    width, height = SIZE[0] * FINE, SIZE[1] * FINE
    scale = 0.86 * min(width / size[0], height / size[1])
    middle = low + size / 2

    def at(points: Array) -> Array:
        p = (_flat(points) - middle) * scale
        return np.column_stack([width / 2 + p[:, 0], height / 2 - p[:, 1]])

    if triangles is not None:
        image = Image.fromarray(_shaded(places, triangles, lines, at, (width, height)))
    else:
        image = Image.new("RGB", (width, height), GROUND)
        pen = ImageDraw.Draw(image)
        for line in lines:
            pen.line([tuple(p) for p in at(line)], picture.colour, FINE + 1)
    out = io.BytesIO()
    image.resize(SIZE, Image.Resampling.LANCZOS).save(out, "PNG")
    return out.getvalue()


def _shaded(
    places: Array, triangles: NDArray[np.int32], lines: list[Array], at: Any, size: tuple[int, int]
) -> NDArray[np.uint8]:
    """Picture (rows, columns, 3) of lit triangles and of the lines that nothing hides."""
    p = places[triangles]
    normals = np.cross(p[:, 1] - p[:, 0], p[:, 2] - p[:, 0])
    normals /= np.maximum(np.linalg.norm(normals, axis=1, keepdims=True), 1e-300)
    inside = normals @ AWAY < 0
    light = np.abs(normals @ (LIGHT / np.linalg.norm(LIGHT)))
    tone = (0.62 + 0.38 * light)[:, None] * SHAPE * np.where(inside, 0.84, 1.0)[:, None]
    picture = np.empty((size[1], size[0], 3), np.uint8)
    picture[:] = GROUND
    front = np.full((size[1], size[0]), -np.inf)
    _fill(picture, front, at(places), places @ AWAY, triangles, tone.astype(np.uint8))
    depth = places @ AWAY
    reach = 0.012 * max(float(np.ptp(depth)), 1e-9)
    starts, ends = (
        np.vstack([np.zeros((0, 3)), *(line[part] for line in lines)]) for part in (HERE, THERE)
    )
    _draw(picture, front, at(starts), at(ends), starts @ AWAY + reach, ends @ AWAY + reach)
    return picture


HERE, THERE = slice(None, -1), slice(1, None)


@compiled
def _draw(picture, front, starts, ends, near, far):  # type: ignore[no-untyped-def]
    """Draws lines, two pixels wide, where nothing lies in front of them."""
    rows, columns = front.shape
    for k in range(len(starts)):
        across, down = ends[k, 0] - starts[k, 0], ends[k, 1] - starts[k, 1]
        steps = max(int(np.hypot(across, down)), 1)
        for step in range(steps + 1):
            t = step / steps
            x = min(max(int(starts[k, 0] + t * across), 0), columns - 2)
            y = min(max(int(starts[k, 1] + t * down), 0), rows - 2)
            if near[k] + t * (far[k] - near[k]) >= front[y, x]:
                for dx in range(2):
                    for dy in range(2):
                        picture[y + dy, x + dx, 0] = 120
                        picture[y + dy, x + dx, 1] = 110
                        picture[y + dy, x + dx, 2] = 82


@compiled
def _fill(picture, front, flat, depth, triangles, tone):  # type: ignore[no-untyped-def]
    """Fills triangles pixel by pixel, the nearest one winning (Catmull, 1974)."""
    rows, columns = front.shape
    for t in range(len(triangles)):
        a, b, c = triangles[t, 0], triangles[t, 1], triangles[t, 2]
        ux, uy = flat[b, 0] - flat[a, 0], flat[b, 1] - flat[a, 1]
        vx, vy = flat[c, 0] - flat[a, 0], flat[c, 1] - flat[a, 1]
        det = ux * vy - uy * vx
        if abs(det) < 1e-9:
            continue
        x0 = max(int(min(flat[a, 0], flat[b, 0], flat[c, 0])), 0)
        x1 = min(int(max(flat[a, 0], flat[b, 0], flat[c, 0])) + 1, columns - 1)
        y0 = max(int(min(flat[a, 1], flat[b, 1], flat[c, 1])), 0)
        y1 = min(int(max(flat[a, 1], flat[b, 1], flat[c, 1])) + 1, rows - 1)
        for y in range(y0, y1 + 1):
            for x in range(x0, x1 + 1):
                px, py = x - flat[a, 0], y - flat[a, 1]
                s, r = (px * vy - py * vx) / det, (ux * py - uy * px) / det
                if s < -1e-3 or r < -1e-3 or s + r > 1.001:
                    continue
                z = depth[a] + s * (depth[b] - depth[a]) + r * (depth[c] - depth[a])
                if z > front[y, x]:
                    front[y, x] = z
                    picture[y, x] = tone[t]
