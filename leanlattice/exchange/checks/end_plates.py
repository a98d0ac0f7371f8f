"""End plates: put where poses.csv says, against the ends that stand on them and their holes."""

from __future__ import annotations

import itertools
from collections.abc import Sequence
from dataclasses import dataclass
from functools import cached_property

import numpy as np
import shapely
from numpy.typing import NDArray

from ...core.materials import MATERIALS
from .flat import flat_of
from .likeness import kinds_alike
from .models import meshes_in
from .pack_cuts import cuts_of, section_polygon
from .pack_files import Found, Pack, Row, beyond, number_in
from .pack_members import Members, axes_at_ends, ends_at, members_of
from .panel_edges import rings_within
from .panels import outline_in_pose, places_in_pose, pose_of
from .wanted_solids import mesh_volume

__all__ = ["ends_on_plates", "plates_as_listed"]

Array = NDArray[np.float64]
ENDS = ("start", "end")
ROUND_MM, ROUNDED_KG, ROUNDED_M2 = 0.01, 5.1e-5, 5.1e-7
ROUND_SHARE = 1e-3
"""Of its size, by which the sides of a round outline are within it."""
TILT = 1e-4
"""What unit directions may differ by and still be one."""
SEVERAL, CLEAR_MM = 3, 10.0
"""Members on one plate from which these stand apart, and by how much."""
BESIDE, APART = 1.2, 2.2
"""Diameters that the middles of holes keep from edges and from each other (EN 1993-1-8, table
3.3)."""


@dataclass(frozen=True)
class _Plate:
    """A plate of a ``row`` where it stands: its frame (4, 3) in metres, place first, its outline in
    mm, and the corners of its holes."""

    row: Row
    frame: Array
    outline: shapely.Polygon
    holes: list[Array]

    @property
    def label(self) -> str:
        return self.row["label"]

    def number(self, column: str) -> float:
        """What its row says."""
        return number_in(self.row, column, "end_plates")

    def local(self, places: Array) -> Array:
        """Places (n, 3) in metres as (n, 3) in mm in its own frame, z towards its members."""
        return np.asarray((places - self.frame[0]) @ self.frame[1:].T * 1000)

    @cached_property
    def middles(self) -> Array:
        """Middles (b, 2) of its holes."""
        return np.array([ring.mean(axis=0) for ring in self.holes]).reshape(-1, 2)


def _plates(pack: Pack) -> dict[str, _Plate]:
    """Plates that are drawn and have poses, by label."""
    poses, parts = {r["label"]: r for r in pack.rows("poses")}, flat_of(pack).parts
    out = {}
    for row in pack.rows("end_plates"):
        label = row["label"]
        if label not in poses or label not in parts:
            continue
        place, x, y = pose_of(poses[label])
        _, outer, inner = parts[label]
        holes = [
            places_in_pose(pack, label, r) for r in rings_within(outer, inner, pack.tool(label))
        ]
        outline = shapely.Polygon(outline_in_pose(pack, label))
        out[label] = _Plate(row, np.stack([place, x, y, np.cross(x, y)]), outline, holes)
    return out


def plates_as_listed(pack: Pack) -> Found:
    """Names, sizes (mm), areas and masses of end_plates.csv, how large holes are and how they
    stand, whether plates of a kind are alike, and how they lie in model.glb."""
    rows = pack.rows("end_plates")
    standing = {row["plate"] for row in pack.rows("plated_ends")}
    for name in sorted(standing ^ {row["label"] for row in rows}):
        yield np.inf, f"{name} is in one of end_plates.csv and plated_ends.csv only"
    at_node: dict[str, int] = {}
    for row in rows:
        at_node[row["node"]] = at_node.get(row["node"], 0) + 1
    for row in rows:
        where = f"{row['label']} in end_plates.csv"
        bolted = at_node[row["node"]] == 2
        yield beyond(row["at"] != ("bolted" if bolted else "under")), f"{where}: at"
        wanted = {f"{row['node']}-E{k}" for k in ((1, 2) if bolted else ("",))}
        yield beyond(row["label"] not in wanted), f"{where}: node {row['node']}"
        yield beyond(row["node"] not in pack.nodes), f"{where}: node {row['node']}"
        yield _weighs(row), f"{where}: mass"
    for plate in _plates(pack).values():
        yield from _as_drawn(plate)
        yield from _as_modelled(pack, plate)
    yield from kinds_alike(pack, "end_plates", "end_plate_kinds")


def _weighs(row: Row) -> float:
    """How far (%) the mass is off."""
    if row["material"] not in MATERIALS:
        return np.inf
    area, thickness, mass = (
        number_in(row, name, "end_plates") for name in ("area_m2", "thickness_mm", "mass_kg")
    )
    each = thickness / 1000 * MATERIALS[row["material"]].density
    off = abs(area * each - mass) - ROUNDED_KG - ROUNDED_M2 * each
    return max(off, 0.0) / max(mass, 1e-3) * 100


def _as_drawn(plate: _Plate) -> Found:
    """Sizes and holes (mm) of a plate against its row."""
    where = f"{plate.label} in end_plates.csv"
    low_x, low_y, high_x, high_y = plate.outline.bounds
    sizes = sorted((high_x - low_x, high_y - low_y))
    yield abs(sizes[1] - plate.number("length_mm")), f"{where}: length"
    yield abs(sizes[0] - plate.number("width_mm")), f"{where}: width"
    corners = len(shapely.simplify(plate.outline, 1e-3).exterior.coords) - 1
    wanted = "round" if corners > 4 else "rectangle"
    yield beyond(plate.row["outline"] != wanted), f"{where}: outline"
    area = shapely.Polygon(plate.outline.exterior, plate.holes).area / 1e6
    slack = ROUNDED_M2 + ROUND_MM * plate.outline.length / 1e6
    yield max(abs(area - plate.number("area_m2")) - slack, 0.0) * 1e6, f"{where}: area"
    yield abs(plate.number("holes") - len(plate.holes)), f"{where}: holes"
    if plate.holes:
        yield from _holes(plate, where)


def _holes(plate: _Plate, where: str) -> Found:
    """How large holes are (mm), and how they keep from edges and from each other."""
    size, half = plate.number("hole_mm"), plate.number("beyond_mm") / 2
    for ring, middle in zip(plate.holes, plate.middles, strict=True):
        across = 2 * float(np.linalg.norm(ring - middle, axis=1).mean())
        yield abs(across - size), f"{where}: hole"
    middles = shapely.points(plate.middles)
    rim = shapely.distance(middles, plate.outline.exterior)
    slack = ROUND_MM + _roundness(plate)
    yield (
        max(float(np.abs(rim - half).max()) - slack, 0.0),
        f"{where}: holes in the middle of edges",
    )
    yield max(BESIDE * size - float(rim.min()) - slack, 0.0), f"{where}: holes beside edges"
    apart = np.linalg.norm(plate.middles[:, None] - plate.middles, axis=2)
    np.fill_diagonal(apart, np.inf)
    yield max(APART * size - float(apart.min()) - ROUND_MM, 0.0), f"{where}: holes apart"


def _roundness(plate: _Plate) -> float:
    """What (mm) a round outline is within its circle."""
    return ROUND_SHARE * plate.number("length_mm") if plate.row["outline"] == "round" else 0.0


def _as_modelled(pack: Pack, plate: _Plate) -> Found:
    """How far (mm) the body in model.glb is from lying between the faces of a plate."""
    if not pack.has("model.glb") or plate.label not in meshes_in(pack, "model.glb"):
        return
    vertices, triangles = meshes_in(pack, "model.glb")[plate.label]
    local, thick = plate.local(vertices), plate.number("thickness_mm")
    room = ROUND_MM + 2e-4 * float(np.abs(vertices).max())
    where = f"{plate.label} in model.glb"
    off = np.minimum(np.abs(local[:, 2]), np.abs(local[:, 2] - thick))
    yield max(float(off.max()) - room, 0.0), f"{where}: faces"
    bounds = np.array(plate.outline.bounds)
    reach = np.concatenate([local[:, :2].min(axis=0), local[:, :2].max(axis=0)])
    yield max(float(np.abs(reach - bounds).max()) - room, 0.0), f"{where}: outline"
    volume = mesh_volume(vertices, triangles) * 1e9
    wanted = shapely.Polygon(plate.outline.exterior, plate.holes).area * thick
    slack = room * (plate.outline.length * thick + 2 * plate.outline.area)
    yield max(abs(volume - wanted) - slack, 0.0) / plate.outline.area, f"{where}: volume"


def ends_on_plates(pack: Pack) -> Found:
    """How far (mm) plates are from where members end, reach beyond these otherwise than they are
    said to, or are off what they are bolted to or lie above."""
    m, rows = members_of(pack), pack.rows("plated_ends")
    if m is None or not rows:
        return
    plates = _plates(pack)
    row_of = {row["label"]: k for k, row in enumerate(m.rows)}
    stands: dict[str, list[Array]] = {}
    for row in (row for row in rows if row["plate"] in plates):
        where, plate = f"{row['member']} at {row['plate']} in plated_ends.csv", plates[row["plate"]]
        if (row["member"], row["end"]) not in ends_at(m, plate.row["node"]):
            yield np.inf, f"{where}: member or end"
            continue
        end = _End.of(pack, m, row_of[row["member"]], ENDS.index(row["end"]))
        yield from _on_face(plate, end, row, where)
        stands.setdefault(plate.row["node"], []).append(end.outline_on(plate))
    at_node: dict[str, list[_Plate]] = {}
    for plate in plates.values():
        at_node.setdefault(plate.row["node"], []).append(plate)
    for node, here in at_node.items():
        yield from _at_node(pack, here, stands.get(node, []), len(ends_at(m, node)))


def _at_node(pack: Pack, plates: list[_Plate], stands: list[Array], ends: int) -> Found:
    """How plates at one node lie (mm) and reach beyond what ``stands`` there, outlines (c, 3) in
    metres, of so many ends."""
    for plate in plates:
        where = f"{plate.label} in end_plates.csv"
        yield beyond(len(stands) != ends), f"{where}: ends that stand on it"
        yield from _lies(pack, plate, [p for p in plates if p is not plate], where)
        yield _reaches(plate, stands), f"{where}: beyond"
        yield _stand_apart(plate, stands), f"{where}: members apart"


def _stand_apart(plate: _Plate, every: Sequence[Array]) -> float:
    """How much (mm) nearer than they are to be three or more members are on a plate, ``every``
    outline (c, 3) in metres; of others, whether it is raised for nothing."""
    if len(every) < SEVERAL:
        return beyond(plate.number("raised_mm") != 0)
    hulls = [shapely.MultiPoint(plate.local(own)[:, :2]).convex_hull for own in every]
    apart = min(one.distance(other) for one, other in itertools.combinations(hulls, 2))
    return max(CLEAR_MM - apart - ROUND_MM - ROUND_SHARE * plate.number("length_mm"), 0.0)


@dataclass(frozen=True)
class _End:
    """An end of a member: the place (3,) of its axis in metres, the frame (3, 3) of its width, its
    height and the way into it, how far (m) it is cut back, the planes (k, 4) that cut it, and the
    corners (c, 2) of its section in metres."""

    place: Array
    frame: Array
    back: float
    planes: Array
    corners: Array

    @classmethod
    def of(cls, pack: Pack, m: Members, member: int, end: int) -> _End:
        piece = m.first[member] + (m.count[member] - 1 if end else 0)
        frame = m.frame(piece, end) * np.array([[1], [1], [-1 if end else 1]])
        polygon = section_polygon(m.rows[member]["section"])
        corners = np.vstack([np.asarray(p.exterior.coords) for p in polygon.geoms])
        cut = cuts_of(pack).get((member, end))
        return cls(
            place=m.end[piece] if end else m.start[piece],
            frame=frame,
            back=float(m.back[piece, end]),
            planes=np.zeros((0, 4)) if cut is None else cut.planes,
            corners=corners * m.scale[piece, 2 if end else 0],
        )

    def outline_on(self, plate: _Plate) -> Array:
        """Places (c, 3) in metres of its section's corners on the face of a plate."""
        square = self.place + self.corners @ self.frame[:2]
        normal, thick = plate.frame[3], plate.number("thickness_mm") / 1000
        level = thick - (square - plate.frame[0]) @ normal
        return np.asarray(square + (level / (self.frame[2] @ normal))[:, None] * self.frame[2])


def _on_face(plate: _Plate, end: _End, row: Row, where: str) -> Found:
    """How far (mm) the face of a plate is from what cuts the end of a member."""
    normal, thick = plate.frame[3], plate.number("thickness_mm")
    sine = float(normal @ end.frame[2])
    angle = float(np.degrees(np.arcsin(np.clip(sine, -1.0, 1.0))))
    # Next to a right angle what the sine is rounded by counts much.
    slack = 0.002 + np.degrees(1e-8 / max(np.sqrt(max(1 - sine**2, 0.0)), 1e-4))
    off = abs(angle - number_in(row, "angle_deg", "plated_ends"))
    yield beyond(off > slack), f"{where}: angle"
    cut = [p for p in end.planes if np.abs(p[:3] + normal).max() < TILT]
    if cut:
        at = end.place + cut[0][3] * cut[0][:3]
    else:
        yield beyond(len(end.planes) > 0 or sine < 1 - TILT), f"{where}: it is cut otherwise"
        at = end.place + end.back * end.frame[2]
    yield max(abs(float(plate.local(at[None])[0, 2]) - thick) - ROUND_MM, 0.0), where


def _reaches(plate: _Plate, every: Sequence[Array]) -> float:
    """How far (mm) a plate reaches beyond what stands on it, ``every`` outline (c, 3) in metres,
    otherwise than it is to."""
    if not every:
        return 0.0
    stands = plate.local(np.vstack(every))[:, :2]
    wanted = plate.number("beyond_mm")
    low_x, low_y, high_x, high_y = plate.outline.bounds
    slack = ROUND_MM + ROUND_SHARE * plate.number("length_mm")
    if plate.row["outline"] == "round":
        middle = np.array([low_x + high_x, low_y + high_y]) / 2
        reach = float(np.linalg.norm(stands - middle, axis=1).max())
        return max(abs((high_x - low_x) / 2 - reach - wanted) - slack, 0.0)
    low, high = stands.min(axis=0), stands.max(axis=0)
    left = np.array([low[0] - low_x, low[1] - low_y, high_x - high[0], high_y - high[1]])
    return max(float(np.abs(left - wanted).max()) - slack, 0.0)


def _lies(pack: Pack, plate: _Plate, others: Sequence[_Plate], where: str) -> Found:
    """How far (mm) a plate is otherwise above its node, or from the one that it is bolted to, than
    it is said to be, and how far their holes are apart."""
    gap, raised = plate.number("gap_mm"), plate.number("raised_mm")
    if not others:
        node = pack.nodes[plate.row["node"]]
        above = [-float(plate.local(at[None])[0, 2]) for at in (node, *_axes(pack, plate))]
        off = min(abs(value - gap - raised) for value in above)
        yield max(off - ROUND_MM, 0.0), f"{where}: gap"
        return
    yield beyond(raised != 0), f"{where}: raised"
    (other,) = others
    yield beyond(np.abs(plate.frame[3] + other.frame[3]).max() > TILT), f"{where}: {other.label}"
    if not len(other.middles):
        return
    holes = other.frame[0] + other.middles / 1000 @ other.frame[1:3]
    local = plate.local(holes)
    yield max(float(np.abs(-local[:, 2] - gap).max()) - ROUND_MM, 0.0), f"{where}: gap"
    if len(plate.middles):
        apart = np.linalg.norm(local[:, None, :2] - plate.middles, axis=2).min(axis=1)
        yield float(apart.max()), f"{where}: holes of {other.label}"


def _axes(pack: Pack, plate: _Plate) -> list[Array]:
    """Where the axes end (3,) of members at a plate's node, in metres."""
    m = members_of(pack)
    if m is None:
        return []
    axes = axes_at_ends(m)
    return [axes[end][0] for end in ends_at(m, plate.row["node"])]
