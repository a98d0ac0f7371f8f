"""Bodies at nodes as node_bodies.csv tells of them."""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np
import shapely
from numpy.typing import NDArray

from ...core.materials import MATERIALS
from .pack_files import Found, Pack, Row, beyond, number_in, vector_in
from .pack_members import Members, members_of

__all__ = ["NodeBody", "bodies_as_listed", "bodies_of"]

Array = NDArray[np.float64]

FORMS = ("ball", "hub", "disc", "plate")
WIDEST = 1.1547
"""Of its radius, beyond which a plate is round."""
ROUNDED_KG = 0.0005
ROUNDED_MM = 0.002


@dataclass(frozen=True)
class NodeBody:
    """The body in a ``row``: its ``middle``, axes (rows; the last along the node's normal),
    ``radius`` and ``height`` in metres, and a plate's ``outline`` (n, 2) in these axes."""

    row: Row
    middle: Array
    axes: Array
    radius: float
    height: float
    outline: Array | None

    @property
    def volume(self) -> float:
        """In m³."""
        if self.row["form"] == "ball":
            return 4 / 3 * np.pi * self.radius**3
        if self.outline is not None:
            return float(shapely.Polygon(self.outline).area) * self.height
        return np.pi * self.radius**2 * self.height


def bodies_of(pack: Pack) -> dict[str, NodeBody]:
    """By the node's label; those at nodes that are not there are left out."""
    if "node bodies" not in pack.kept:
        pack.kept["node bodies"] = _bodies_of(pack)
    found: dict[str, NodeBody] = pack.kept["node bodies"]
    return found


def _bodies_of(pack: Pack) -> dict[str, NodeBody]:
    normals = {r["label"]: vector_in(r, "nodes", "normal_{}") for r in pack.rows("nodes")}
    m, out = members_of(pack), {}
    for row in pack.rows("node_bodies"):
        if m is None or row["node"] not in normals:
            continue
        normal = normals[row["node"]]
        x = np.cross(np.eye(3)[int(np.argmin(np.abs(normal)))], normal)
        x /= max(float(np.linalg.norm(x)), 1e-12)
        axes = np.stack([x, np.cross(normal, x), normal])
        radius = number_in(row, "radius_mm", "node_bodies") / 1000
        outline = _plate(axes, radius, m, row["node"]) if row["form"] == "plate" else None
        height = number_in(row, "height_mm", "node_bodies") / 1000
        middle = vector_in(row, "node_bodies", "{}_m")
        out[row["node"]] = NodeBody(row, middle, axes, radius, height, outline)
    return out


def _plate(axes: Array, radius: float, m: Members, node: str) -> Array:
    """A plate's outline: straight where members end, round beyond."""
    plate: shapely.Geometry = shapely.Point(0, 0).buffer(radius * WIDEST, quad_segs=6)
    for away in _ways(m).get(node, []):
        flat = axes[:2] @ away
        flat = flat / max(float(np.linalg.norm(flat)), 1e-9)
        across, far = np.array([-flat[1], flat[0]]), 3 * radius
        near = [radius * flat + far * across, radius * flat - far * across]
        side = shapely.Polygon([*near, near[1] - 2 * far * flat, near[0] - 2 * far * flat])
        plate = shapely.intersection(plate, side)
    return np.asarray(shapely.get_coordinates(shapely.orient_polygons(plate)))[:-1]


def _ways(m: Members) -> dict[str, list[Array]]:
    """Directions in which members leave the nodes at their ends."""
    out: dict[str, list[Array]] = {}
    for k, row in enumerate(m.rows):
        first, last = m.first[k], m.first[k] + m.count[k] - 1
        out.setdefault(row["start"], []).append(m.ways[first, 0])
        out.setdefault(row["end"], []).append(-m.ways[last, 1])
    return out


def bodies_as_listed(pack: Pack) -> Found:
    """Bodies stand in the middle of the axes that end there (mm) and weigh what their size and
    material say."""
    m = members_of(pack)
    rows = pack.rows("node_bodies")
    if m is None or not rows:
        return
    yield beyond(len({r["node"] for r in rows}) != len(rows)), "a node has two bodies"
    bodies = bodies_of(pack)
    ends: dict[str, list[Array]] = {}
    for k, row in enumerate(m.rows):
        ends.setdefault(row["start"], []).append(m.start[m.first[k]])
        ends.setdefault(row["end"], []).append(m.end[m.first[k] + m.count[k] - 1])
    for row in rows:
        where = f"{row['node']} in node_bodies.csv"
        body = bodies.get(row["node"])
        known = row["form"] in FORMS and row["material"] in MATERIALS
        if body is None or not known or len(ends.get(row["node"], [])) < 2:
            yield np.inf, f"{where}: node, form, material, or that two members end there"
            continue
        off = float(np.abs(np.mean(ends[row["node"]], axis=0) - body.middle).max())
        yield max(off * 1000 - ROUNDED_MM, 0.0), f"{where}: middle"
        yield from _size_and_mass(body, where)


def _size_and_mass(body: NodeBody, where: str) -> Found:
    """A ball's height (mm), and the mass (% off) of a body."""
    yield beyond(min(body.radius, body.height) <= 0), f"{where}: size"
    if body.row["form"] == "ball":
        yield max(abs(body.height - 2 * body.radius) * 1000 - ROUNDED_MM, 0.0), f"{where}: height"
    mass = body.volume * MATERIALS[body.row["material"]].density
    # Sizes are written to a thousandth of a millimetre.
    slack = ROUNDED_KG + mass * 1e-4
    off = max(abs(number_in(body.row, "mass_kg", "node_bodies") - mass) - slack, 0.0)
    yield off / max(mass, 0.01) * 100, f"{where}: mass"
