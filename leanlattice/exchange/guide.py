"""Small pictures for the built-in guide, drawn from what the clauses really make."""

from __future__ import annotations

import io
from functools import lru_cache
from typing import Any

import numpy as np
from numba import njit
from numpy.typing import NDArray
from PIL import Image, ImageDraw

from ..clauses.guide import GUIDE
from ..clauses.shape.drawn import Curves
from ..core.framing.frames import Frame
from ..core.framing.panels import Panels
from ..core.geometry.meshes import Body
from ..core.geometry.nets import Net
from ..core.geometry.surfaces import Surface
from ..core.shaping.facets import facets
from ..statement.document import ClauseEntry, Statement
from ..statement.evaluate import ResultCache, evaluate

__all__ = ["guide_picture"]

Array = NDArray[np.float64]
SIZE = (288, 180)
FINE = 3
GROUND, INK, PLUM, SHAPE = (233, 239, 241), (61, 74, 134), (122, 46, 98), np.array([224, 218, 199])
AWAY = np.array([0.55, -0.8, 0.6]) / np.linalg.norm([0.55, -0.8, 0.6])
RIGHT = np.cross([0, 0, 1.0], AWAY) / np.linalg.norm(np.cross([0, 0, 1.0], AWAY))
UP = np.cross(AWAY, RIGHT)
LIGHT = np.array([-0.2, -0.65, 0.75])


def _flat(points: Array) -> Array:
    return np.column_stack([points @ RIGHT, points @ UP])


def _drawn(result: Any) -> tuple[Array, NDArray[np.int32] | None, list[Array]]:
    """Places, triangles and lines of a result."""
    if isinstance(result, Surface | Body):
        f = facets(result)
        return f.mesh.vertices, f.mesh.triangles, [f.points[e] for e in f.lines]
    if isinstance(result, Curves):
        lines = []
        for c in result.curves:
            p = c.polyline(c.path.size * 5e-4)
            lines.append(np.vstack([p, p[:1]]) if c.path.closed else p)
        return np.vstack(lines), None, lines
    net: Net | None = result if isinstance(result, Net) else result.net if isinstance(result, Frame | Panels) else None
    if net is not None:
        return net.vertices, None, [net.vertices[e] for e in net.edges]
    return np.zeros((0, 3)), None, []


@lru_cache(maxsize=128)
def guide_picture(kind: str) -> bytes | None:
    """PNG of what the guide's sample of a clause type makes; ``None`` where it has none."""
    entry = GUIDE.get(kind)
    if entry is None or not entry.sample:
        return None
    clauses = [ClauseEntry(id=f"c{i}", kind=k, values=v) for i, (k, v) in enumerate(entry.sample)]
    outcomes = list(evaluate(Statement(clauses=clauses), ResultCache(), pause=1e-9))
    results = [o for o in outcomes if o.status == "done"]
    if not results or (results[-1].id != clauses[-1].id and not any(o.id == clauses[-1].id for o in results)):
        return None
    last = next(o for o in results if o.id == clauses[-1].id).result
    places, triangles, lines = _drawn(last)
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
            pen.line([tuple(p) for p in at(line)], PLUM if isinstance(last, Curves) else INK, FINE + 1)
    out = io.BytesIO()
    image.resize(SIZE, Image.Resampling.LANCZOS).save(out, "PNG", optimize=True)
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
    for line in lines:
        ends, away = at(line), line @ AWAY + reach
        for (x0, y0), (x1, y1), d0, d1 in zip(ends[:-1], ends[1:], away[:-1], away[1:], strict=True):
            t = np.linspace(0, 1, max(int(np.hypot(x1 - x0, y1 - y0)), 1) + 1)
            x = np.clip((x0 + t * (x1 - x0)).astype(int), 0, size[0] - 2)
            y = np.clip((y0 + t * (y1 - y0)).astype(int), 0, size[1] - 2)
            seen = d0 + t * (d1 - d0) >= front[y, x]
            for dx in (0, 1):
                for dy in (0, 1):
                    picture[y[seen] + dy, x[seen] + dx] = (120, 110, 82)
    return picture


@njit(cache=True)
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
