"""Nine structures written out as plain arrays: what any of them needs is said by the same fields."""

from __future__ import annotations

import numpy as np
import pytest
import shapely
import trimesh

from leanlattice.core.sections import find
from leanlattice.core.structure.arms import arms_of
from leanlattice.core.structure.joints import with_joints
from leanlattice.core.structure.roles import role_number
from leanlattice.core.structure.solids import member_solids
from leanlattice.core.structure.structure import Structure

UP = (0.0, 0.0, 1.0)


def weighs_what_is_listed(made, within=6e-3):
    """Every member's solid is closed, its faces outward, and as heavy as is listed."""
    told = []
    for member, vertices, triangles in member_solids(made, 24, same_area=True):
        mesh = trimesh.Trimesh(vertices, triangles, process=False)
        assert mesh.is_watertight
        assert mesh.is_winding_consistent
        section = made.sections[made.section_of[member]]
        # Sharp corners are drawn where a shape has round ones.
        wanted = made.masses[member] / section.material.density * sharpness(section)
        assert mesh.volume == pytest.approx(wanted, rel=within)
        told.append(member)
    assert told == np.flatnonzero(made.mean_lengths > 0).tolist()


def sharpness(section):
    """How much larger a section's area is as it is drawn."""
    if section.shape.round:
        return 1.0
    rings = [(outer, inner) for outer, inner in section.shape.pieces(24)]
    area = sum(
        shapely.Polygon(outer).area - (0.0 if inner is None else shapely.Polygon(inner).area)
        for outer, inner in rings
    )
    return area / section.shape.properties.area


def star_of(plan, elevation, meeting, length=2.0, section="CHS 88.9 × 4"):
    """Members from one node (degrees) that meet there as a ``meeting`` has it."""
    return stars_of([(plan, elevation)], meeting, length, section)


def stars_of(stars, meeting, length=2.0, section="CHS 88.9 × 4"):
    """Stars of members, each by plan and elevation (degrees), that meet as a ``meeting`` has it."""
    places, members = [], []
    for n, star in enumerate(stars):
        middle, first = np.array([6 * length * n, 0, 0]), len(places)
        plan, elevation = np.radians(star)
        ways = np.column_stack(
            [np.cos(elevation) * np.cos(plan), np.cos(elevation) * np.sin(plan), np.sin(elevation)]
        )
        places += [middle, *(middle + length * ways)]
        for k, way in enumerate(ways):
            side = np.cross([0, 0, 1.0], way)
            up = np.cross(way, side) if np.linalg.norm(side) > 1e-6 else [1, 0, 0]
            members.append({"path": [first, first + k + 1], "up": up, "section": section})
    made = structure(places, members)
    return with_joints(made, arms_of(made), meeting)


def running_through():
    """A member that runs through a node at which two others end."""
    return structure(
        [(0, 0, 0), (2, 0, 0), (-2, 0, 0), (0, 2, 0), (0, -2, 0)],
        [{"path": [2, 0, 1]}, {"path": [0, 3]}, {"path": [0, 4]}],
    )


def bent_at_a_node():
    """Two members at a node, of which one is an arc."""
    return structure(
        [(0, 0, 0), (2, 0, 0), (0, 2, 0)],
        [{"path": [0, 1], "bulge": (0, 0.1, 0)}, {"path": [0, 2]}],
    )


def structure(places, members, normals=None, feet=()):
    """A structure of places and members, each a mapping with its ``path`` and whatever is not as
    usual: ``offset`` and ``scale`` an entry, ``up``, ``bulge`` and ``waist`` a segment, ``role``,
    ``section``, ``set_back``, ``group``, ``copy_of`` and ``mirrored``."""
    places = np.array(places, float)
    nodes, count = len(places), len(members)
    paths = [m["path"] for m in members]
    names = [m.get("section", "CHS 88.9 × 4") for m in members]
    different = tuple(dict.fromkeys(names))

    def entries(name, usual):
        return np.concatenate(
            [
                np.broadcast_to(m.get(name, usual), (len(m["path"]), *np.shape(usual)))
                for m in members
            ]
        )

    def segments(name, usual):
        return np.concatenate(
            [np.broadcast_to(m.get(name, usual), (len(m["path"]) - 1, 3)) for m in members]
        )

    up = segments("up", UP).astype(float)
    return Structure(
        places=places,
        normals=np.broadcast_to(np.array(UP if normals is None else normals, float), (nodes, 3)).copy(),
        station=places[:, :2].copy(),
        member_station=np.array([places[p, :2].mean(axis=0) for p in paths]),
        stage=np.zeros(nodes, np.int32),
        origin=np.full((nodes, 2), -1, np.int32),
        foot=np.isin(np.arange(nodes), feet),
        rule=np.zeros(nodes, np.int32),
        meeting=np.zeros(nodes, np.int32),
        radius=np.zeros(nodes),
        height=np.zeros(nodes),
        path=np.concatenate(paths).astype(np.int32),
        offsets=np.concatenate([[0], np.cumsum([len(p) for p in paths])]).astype(np.int32),
        offset=entries("offset", (0.0, 0.0, 0.0)).astype(float),
        scale=entries("scale", 1.0).astype(float),
        waist=np.concatenate(
            [np.broadcast_to(m.get("waist", 0.0), len(m["path"]) - 1) for m in members]
        ).astype(float),
        up=up / np.linalg.norm(up, axis=1, keepdims=True),
        bulge=segments("bulge", (0.0, 0.0, 0.0)).astype(float),
        sections=tuple(map(find, different)),
        section_of=np.array([different.index(n) for n in names], np.int32),
        role=np.array([role_number(m.get("role", "grid")) for m in members], np.int32),
        member_stage=np.zeros(count, np.int32),
        group=np.array([m.get("group", 0) for m in members], np.int32),
        set_back=np.array([m.get("set_back", (0.0, 0.0)) for m in members], float),
        copy_of=np.array([m.get("copy_of", k) for k, m in enumerate(members)], np.int32),
        mirrored=np.array([m.get("mirrored", False) for m in members], bool),
    )  # fmt: skip


def diagrid():
    """Four tubes that meet at right angles, their far ends free."""
    corners = [(1, 1, 0), (-1, 1, 0), (-1, -1, 0), (1, -1, 0)]
    return structure([(0, 0, 0), *corners], [{"path": [0, k]} for k in (1, 2, 3, 4)])


def double_layer(n, m, bay, depth):
    """Square on square offset: n × m bays above, their middles joined below, and webs between."""
    above = [(i * bay, j * bay, depth) for j in range(m + 1) for i in range(n + 1)]
    below = [((i + 0.5) * bay, (j + 0.5) * bay, 0) for j in range(m) for i in range(n)]

    def top(i, j):
        return j * (n + 1) + i

    def bottom(i, j):
        return len(above) + j * n + i

    members = [
        {"path": [top(i, j), top(i + 1, j)], "role": "chord"}
        for j in range(m + 1)
        for i in range(n)
    ]
    members += [
        {"path": [top(i, j), top(i, j + 1)], "role": "chord"}
        for j in range(m)
        for i in range(n + 1)
    ]
    members += [
        {"path": [bottom(i, j), bottom(i + 1, j)], "role": "chord"}
        for j in range(m)
        for i in range(n - 1)
    ]
    members += [
        {"path": [bottom(i, j), bottom(i, j + 1)], "role": "chord"}
        for j in range(m - 1)
        for i in range(n)
    ]
    corners = [(0, 0), (1, 0), (0, 1), (1, 1)]
    members += [
        {
            "path": [bottom(i, j), top(i + a, j + b)],
            "role": "web",
            "up": (1, -1, 0) if a == b else (1, 1, 0),
        }
        for j in range(m)
        for i in range(n)
        for a, b in corners
    ]
    return structure([*above, *below], members)


def truss():
    """A bottom chord that runs through, with two webs that stop short of each other on it."""
    places = [(0, 0, 0), (1, 0, 0), (2, 0, 0), (0, 0, 1), (2, 0, 1)]
    chord = {"path": [0, 1, 2], "role": "chord", "section": "SHS 100 × 5"}
    webs = [
        {
            "path": [3, 1],
            "role": "web",
            "section": "CHS 60.3 × 4",
            "offset": [(0, 0, 0), (-0.06, 0, 0)],
        },
        {
            "path": [4, 1],
            "role": "web",
            "section": "CHS 60.3 × 4",
            "offset": [(0, 0, 0), (0.06, 0, 0)],
        },
    ]
    up = {"up": (0, 1, 0)}
    return structure(places, [chord, *(web | up for web in webs)])


def weave(thickness=0.02):
    """Two laths over and under two others: nodes at the crossings and at the ends, of which those
    of the first lath are 0 to 3."""
    places = [(x, y, 0) for y in (1, 2) for x in (0, 1, 2, 3)]
    places += [(x, y, 0) for x in (1, 2) for y in (0, 3)]
    level = thickness / 2

    def lath(path, levels):
        offset = [(0, 0, level * k) for k in levels]
        return {"path": path, "role": "lath", "section": "Timber 60 × 20", "offset": offset}

    along = [lath([0, 1, 2, 3], (0, 1, -1, 0)), lath([4, 5, 6, 7], (0, -1, 1, 0))]
    across = [lath([8, 1, 5, 9], (0, -1, 1, 0)), lath([10, 2, 6, 11], (0, 1, -1, 0))]
    return structure(places, [*along, *across])


def reciprocal(depth=0.12):
    """Three bars, each with its end on the next one and the end of another on itself."""
    turns = np.radians([90, 210, 330])
    contacts = 0.5 * np.column_stack([np.cos(turns), np.sin(turns), np.zeros(3)])
    outer = [contacts[k] + 2 * (contacts[k] - contacts[(k + 1) % 3]) for k in range(3)]
    bars = [
        {
            "path": [3 + k, k, (k + 1) % 3],
            "role": "lath",
            "section": "Timber 60 × 120",
            "offset": [(0, 0, 0), (0, 0, -depth / 2), (0, 0, depth / 2)],
        }
        for k in range(3)
    ]
    return structure([*contacts, *outer], bars, feet=(3, 4, 5))


def arch(radius=5.0):
    """Half a circle as one member of two arcs."""
    places = [(-radius, 0, 0), (0, 0, radius), (radius, 0, 0)]
    rise = radius * (1 - np.sqrt(0.5)) * np.sqrt(0.5)
    bulge = [(-rise, 0, rise), (rise, 0, rise)]
    up = [(-np.sqrt(0.5), 0, np.sqrt(0.5)), (np.sqrt(0.5), 0, np.sqrt(0.5))]
    return structure(
        places, [{"path": [0, 1, 2], "role": "arch", "bulge": bulge, "up": up}], feet=(0, 2)
    )


def branching_column():
    """A column that forks below a beam which runs on over both branches."""
    places = [(0, 0, 0), (0, 0, 3), (-1, 0, 4), (1, 0, 4), (-2, 0, 4), (2, 0, 4)]
    column = {"path": [0, 1], "role": "column", "section": "CHS 139.7 × 5", "up": (1, 0, 0)}
    branches = [{"path": [1, k], "role": "column", "up": (0, 1, 0)} for k in (2, 3)]
    beam = {"path": [4, 2, 3, 5], "role": "edge", "section": "SHS 100 × 5"}
    return structure(places, [column, *branches, beam], feet=(0,))


def mirrored_bay():
    """A bay of two members, and the same seen in a mirror at x = 0."""
    bay = [(0, 0, 0), (1, 0, 0), (1, 1, 1)]
    other = [(-x, y, z) for x, y, z in bay[1:]]
    up, seen = (0.0, -np.sqrt(0.5), np.sqrt(0.5)), (0.0, -np.sqrt(0.5), np.sqrt(0.5))
    members = [
        {"path": [0, 1], "section": "RHS 100 × 50 × 5"},
        {"path": [1, 2], "up": up, "section": "RHS 100 × 50 × 5"},
        {"path": [0, 3], "section": "RHS 100 × 50 × 5", "copy_of": 0, "mirrored": True},
        {"path": [3, 4], "up": seen, "section": "RHS 100 × 50 × 5", "copy_of": 1, "mirrored": True},
    ]
    return structure([*bay, *other], members)


def purlin_on_rafter():
    """A purlin that lies on a rafter: both run on, on levels of their own."""
    places = [(-2, 0, 0), (0, 0, 0), (2, 0, 0), (0, -1, 0), (0, 1, 0)]
    rafter = {"path": [0, 1, 2], "role": "grid", "section": "Timber 80 × 200"}
    purlin = {
        "path": [3, 1, 4],
        "role": "purlin",
        "section": "Timber 60 × 120",
        "offset": [(0, 0, 0.16)] * 3,
    }
    return structure(places, [rafter, purlin])
