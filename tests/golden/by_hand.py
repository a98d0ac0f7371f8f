"""A pyramid of tubes with glass between them, worked out from its five corners.

Nothing here knows the application: school geometry over three numbers a point, in ``math`` alone.
The tables are those of a pack, column by column; docs/verification.md shows them with the formulas.
"""

from __future__ import annotations

import math
from functools import cache
from itertools import combinations

from .vectors import angle, average, cross, distance_of_outlines, dot, minus, plus, times, unit

# Corners in metres: a rectangle on the ground, and the apex over a place off its middle.
CORNERS = {
    "N1": (0, 0, 0),
    "N2": (4, 0, 0),
    "N3": (1, 1.5, 3),
    "N4": (0, 4.5, 0),
    "N5": (4, 4.5, 0),
}
# Members run from the corner that comes first in the file to the one that comes later.
MEMBERS = {
    "M1": ("N1", "N3"),
    "M2": ("N2", "N3"),
    "M3": ("N4", "N3"),
    "M4": ("N5", "N3"),
    "E1": ("N1", "N2"),
    "E2": ("N1", "N4"),
    "E3": ("N2", "N5"),
    "E4": ("N5", "N4"),
}
# Corners of the panels, counter-clockwise seen from outside, the longest side first.
PANELS = {
    "P1": ("N2", "N3", "N1"),
    "P2": ("N4", "N1", "N3"),
    "P3": ("N5", "N3", "N2"),
    "P4": ("N3", "N5", "N4"),
}
FACES = {"P1": "N1 N2 N3", "P2": "N4 N1 N3", "P3": "N2 N5 N3", "P4": "N5 N4 N3"}
"""As the file lists the corners, from the lowest of its cell on."""
GRID, EDGE = ("CHS 88.9 × 4", 88.9, 4.0), ("CHS 139.7 × 5", 139.7, 5.0)
STEEL = 7850.0
GAP, JOINT, THICK = 10.0, 20.0, 12.0
# Where panels lie on sheets: sheet, place of the mean of their corners (mm), and turn (degrees).
LIES = {
    "P1": (1, (2000.0, 2400.0), 90),
    "P2": (2, (2020.0, 2140.0), 180),
    "P3": (1, (5600.0, 1260.0), 0),
    "P4": (2, (7220.0, 1120.0), 0),
}
SHEET, PRICE = (10000.0, 4800.0), 60.0
SPEED, RATE, BEGINNING = 3.0, 45.0, 3.0
"""Metres a minute, pounds an hour, seconds to begin a cut."""
STOCK, KERF = 12000.0, 4.0


def section(member):
    return GRID if member.startswith("M") else EDGE


def radius(member):
    return section(member)[1] / 2


def length(member):
    """Node to node, mm."""
    a, b = MEMBERS[member]
    return 1000 * math.dist(CORNERS[a], CORNERS[b])


def axis(member):
    a, b = MEMBERS[member]
    return unit(minus(CORNERS[b], CORNERS[a]))


def leaving(member, node):
    return axis(member) if MEMBERS[member][0] == node else times(-1, axis(member))


def at_node(node):
    return [m for m in MEMBERS if node in MEMBERS[m]]


def facing(panel):
    """Outward normal of a panel."""
    a, b, c = (CORNERS[n] for n in PANELS[panel])
    return unit(cross(minus(b, a), minus(c, a)))


def height(member):
    """Direction of the section's height: half-way between the faces beside the member."""
    beside = [p for p in PANELS if set(MEMBERS[member]) <= set(PANELS[p])]
    return unit(plus(*(facing(p) for p in beside)))


def normal(node):
    """Of the faces at a node, each weighted with its angle there."""
    out = (0.0, 0.0, 0.0)
    for panel, corners in PANELS.items():
        if node in corners:
            one, two = (minus(CORNERS[n], CORNERS[node]) for n in corners if n != node)
            out = plus(out, times(angle(one, two), facing(panel)))
    return unit(out)


def least_start(theta, r1, r2):
    """How far from the node two tubes of those radii, ``theta`` between their axes, can start to
    be ``GAP`` apart: tried by halving, with two rectangles in the plane of the axes."""

    def tube(start, r, way):
        square = (-way[1], way[0])
        return [
            (way[0] * s + square[0] * t, way[1] * s + square[1] * t)
            for s, t in ((start, -r), (start + 20 * r, -r), (start + 20 * r, r), (start, r))
        ]

    low, high = 0.0, 20.0 * max(r1, r2)
    for _ in range(60):
        s = (low + high) / 2
        one = tube(s, r1, (1.0, 0.0))
        two = tube(s, r2, (math.cos(theta), math.sin(theta)))
        low, high = (low, s) if distance_of_outlines(one, two) >= GAP else (s, high)
    return high


@cache
def set_back(member, node):
    """Largest of what the other members at the node ask for, mm."""
    return max(
        least_start(
            angle(leaving(member, node), leaving(other, node)), radius(member), radius(other)
        )
        for other in at_node(node)
        if other != member
    )


def cut_length(member):
    return length(member) - sum(set_back(member, n) for n in MEMBERS[member])


def mass(member):
    """kg: π/4 (d² − (d − 2t)²) × length × density."""
    _, d, t = section(member)
    return math.pi / 4 * (d**2 - (d - 2 * t) ** 2) / 1e6 * cut_length(member) / 1e3 * STEEL


def roll(member):
    """From the upright plane through the axis to the height, right-handed about the axis."""
    a = axis(member)
    upright = unit(minus((0, 0, 1), times(a[2], a)))
    return _turn(upright, height(member), a)


def _turn(start, end, about):
    """Degrees from one direction to another, right-handed about a third."""
    return math.degrees(math.atan2(dot(cross(start, end), about), dot(start, end)))


def by_cut_length(members):
    return sorted(members, key=cut_length)


def type_of(member):
    grid, edge = (by_cut_length(m for m in MEMBERS if m[0] == k) for k in "ME")
    return f"T{[*grid, *edge].index(member) + 1}"


def sides(panel):
    return [1000 * math.dist(CORNERS[a], CORNERS[b]) for a, b in combinations(PANELS[panel], 2)]


def area(panel):
    """m², before the joint is taken off: half the cross product."""
    a, b, c = (CORNERS[n] for n in PANELS[panel])
    return math.hypot(*cross(minus(b, a), minus(c, a))) / 2


def panel_type(panel):
    return f"Q{sorted(PANELS, key=lambda p: sum(sides(p))).index(panel) + 1}"


def left(panel):
    """Share of a panel's lengths that the joint leaves: (ρ − joint/2)/ρ, with the radius ρ = 2A/U
    of its inner circle."""
    rho = 2e6 * area(panel) / sum(sides(panel))
    return (rho - JOINT / 2) / rho


def raised():
    """How far panels lie above the net, mm: clear of the edge tubes half a joint in from their
    axes, to a tenth of a millimetre."""
    return math.ceil(10 * math.sqrt(radius("E1") ** 2 - (JOINT / 2) ** 2)) / 10


def shrunk(panel):
    """Corners the joint leaves, m: each on the way to the centre of the inner circle, which
    weighs the corners with their opposite sides."""
    a, b, c = (CORNERS[n] for n in PANELS[panel])
    bc, ca, ab = math.dist(b, c), math.dist(c, a), math.dist(a, b)
    centre = times(1 / (bc + ca + ab), plus(times(bc, a), times(ca, b), times(ab, c)))
    return [plus(centre, times(left(panel), minus(p, centre))) for p in (a, b, c)]


def directions(panel):
    """Right, along the longest side, and up, square to it, in the panel's plane."""
    a, b, _ = (CORNERS[n] for n in PANELS[panel])
    right = unit(minus(b, a))
    return right, cross(facing(panel), right)


def outline(panel):
    """Corners of the flat part, mm, from the mean of the panel's three."""
    middle = average(*(CORNERS[n] for n in PANELS[panel]))
    away = [minus(p, middle) for p in shrunk(panel)]
    return [tuple(1000 * dot(p, way) for way in directions(panel)) for p in away]


def pose(panel):
    """Where the lower left of the part is that lies with its longest side along x, its right and
    its up: the first corner of that side, on the panel's underside."""
    corner = plus(shrunk(panel)[0], times(raised() / 1000, facing(panel)))
    return corner, *directions(panel)


def on_sheet(panel):
    """Corners on its sheet, mm."""
    _, (x, y), degrees = LIES[panel]
    c, s = {0: (1, 0), 90: (0, 1), 180: (-1, 0)}[degrees]
    return [(x + c * u - s * v, y + s * u + c * v) for u, v in outline(panel)]


def nodes_csv():
    for node, (x, y, z) in CORNERS.items():
        yield (node, x, y, z, len(at_node(node)), "", *normal(node),
               max(set_back(m, node) for m in at_node(node)))  # fmt: skip


def members_csv():
    for m, (a, b) in MEMBERS.items():
        layer = "grid" if m[0] == "M" else "edge"
        yield (m, layer, type_of(m), section(m)[0], "S355", a, b, length(m), cut_length(m), roll(m),
               set_back(m, a), set_back(m, b), mass(m), *height(m), 0)  # fmt: skip


def member_types_csv():
    for m in (*by_cut_length(m for m in MEMBERS if m[0] == "M"),
              *by_cut_length(m for m in MEMBERS if m[0] == "E")):  # fmt: skip
        yield type_of(m), section(m)[0], cut_length(m), 1, 0


def node_angles_csv():
    """Plan angle about the node's normal from its first member, elevation above the plane square
    to it, twist from the normal to the section's height."""
    for node in CORNERS:
        n = normal(node)
        first = leaving(at_node(node)[0], node)
        zero = minus(first, times(dot(first, n), n))
        rows = []
        for m in at_node(node):
            way = leaving(m, node)
            rise = dot(way, n)
            plan = _turn(zero, minus(way, times(rise, n)), n)
            level = minus(n, times(rise, way))
            rows.append((plan % 360 if abs(plan) > 1e-9 else 0.0, m, rise, level, way))
        for plan, m, rise, level, way in sorted(rows):
            yield node, m, plan, math.degrees(math.asin(rise)), _turn(level, height(m), way)


def panels_csv():
    for p in PANELS:
        beside = [beyond(p, *ends) for ends in ends_of_sides(p)]
        angles = [
            "-" if q is None else f"{180 - math.degrees(angle(facing(p), facing(q))):.2f}"
            for q in beside
        ]
        named = " ".join(q or "-" for q in beside)
        told = (p, panel_type(p), FACES[p], area(p), 0, "glass", THICK, raised(), "own", *(7 * [0]))
        yield *told, named, " ".join(angles)


def ends_of_sides(panel):
    """Nodes at the ends of a panel's sides, in the order of its corners in the file."""
    corners = FACES[panel].split()
    return [(a, corners[(k + 1) % 3]) for k, a in enumerate(corners)]


def beyond(panel, *ends):
    """The panel beyond a side; none at the border."""
    return next((q for q in PANELS if q != panel and set(ends) <= set(PANELS[q])), None)


def parts_csv():
    for p in PANELS:
        sheet, _, degrees = LIES[p]
        low = [min(corner[k] for corner in on_sheet(p)) for k in (0, 1)]
        yield (p, "panel", sheet, *low, degrees, area(p) * left(p) ** 2, sum(sides(p)) * left(p),
               "glass", THICK, 0, JOINT, "panels")  # fmt: skip


def poses_csv():
    for p in PANELS:
        origin, right, up = pose(p)
        yield p, *origin, *right, *up


def sheets_csv():
    for number in (1, 2):
        on = [p for p in PANELS if LIES[p][0] == number]
        used = sum(area(p) * left(p) ** 2 for p in on) / (SHEET[0] * SHEET[1] / 1e6)
        yield number, *SHEET, "glass", THICK, 20, 20, 0, len(on), 100 * used, "panels"


def bars_csv():
    """On each bar the longest member left, and of the others those that fill it best; a saw cut
    between neighbours."""
    number = 0
    for letter in "ME":
        waiting = by_cut_length(m for m in MEMBERS if m[0] == letter)
        while waiting:
            number += 1
            choices = [c for k in range(1, 5) for c in combinations(waiting, k)]
            fitting = [c for c in choices if sum(cut_length(m) + KERF for m in c) <= STOCK + KERF]
            fitting = [c for c in fitting if waiting[-1] in c]
            chosen = max(fitting, key=lambda c: sum(cut_length(m) + KERF for m in c))
            at = 0.0
            for m in reversed(by_cut_length(chosen)):
                yield f"B{number}", section(m)[0], STOCK, m, at, at + cut_length(m), KERF
                at += cut_length(m) + KERF
            waiting = [m for m in waiting if m not in chosen]


COLUMNS = {
    "nodes.csv": (nodes_csv, "label,x_m,y_m,z_m,valence,support,normal_x,normal_y,normal_z,setback_mm"),
    "members.csv": (
        members_csv,
        "label,layer,type,section,material,start,end,length_mm,cut_length_mm,roll_deg,"
        "start_setback_mm,end_setback_mm,mass_kg,up_x,up_y,up_z,lift_mm",
    ),
    "member_types.csv": (member_types_csv, "type,section,cut_length_mm,count,spread_mm"),
    "node_angles.csv": (node_angles_csv, "node,member,plan_angle_deg,elevation_deg,twist_deg"),
    "panels.csv": (
        panels_csv,
        "label,type,corners,area_m2,flatness_mm,material,thickness_mm,raised_mm,cut,off_mm,"
        "corner_radius_mm,holes,hole_mm,rim_mm,twist_mm,twist_stress_MPa,"
        "beyond,angles_deg",
    ),
    "parts.csv": (
        parts_csv,
        "label,kind,sheet,x_mm,y_mm,rotation_deg,area_m2,cut_length_mm,material,thickness_mm,"
        "tool_mm,joint_mm,source",
    ),
    "poses.csv": (poses_csv, "label,x_m,y_m,z_m,right_x,right_y,right_z,up_x,up_y,up_z"),
    "sheets.csv": (
        sheets_csv,
        "sheet,width_mm,height_mm,material,thickness_mm,margin_mm,spacing_mm,tool_mm,parts,"
        "used_percent,source",
    ),
    "bars.csv": (bars_csv, "bar,section,stock_mm,member,from_mm,to_mm,kerf_mm"),
}  # fmt: skip


def table(name):
    """Header and rows of one file of the pack."""
    rows, header = COLUMNS[name]
    return header.split(","), list(rows())


def cut_minutes():
    return sum(sum(sides(p)) * left(p) / 1000 / SPEED + BEGINNING / 60 for p in PANELS)


FIGURES = {
    ("net", "cells"): lambda: 4,
    ("net", "edges"): lambda: 8,
    ("frame", "members"): lambda: 8,
    ("frame", "total_length"): lambda: sum(map(cut_length, MEMBERS)) / 1000,
    ("frame", "mass"): lambda: sum(map(mass, MEMBERS)),
    ("frame", "largest_set_back"): lambda: max(set_back(m, n) for m in MEMBERS for n in MEMBERS[m]),
    ("panels", "area"): lambda: sum(map(area, PANELS)),
    ("panels", "mass"): lambda: sum(map(area, PANELS)) * THICK / 1000 * 2500,
    ("panels", "raised"): raised,
    ("sheets", "cut_length"): lambda: sum(sum(sides(p)) * left(p) for p in PANELS) / 1000,
    ("sheets", "cut_time"): cut_minutes,
    ("sheets", "cost"): lambda: 2 * PRICE + cut_minutes() / 60 * RATE,
}
"""Of report.json, by clause and figure."""


def member_frame(member):
    """Where a member starts, m, and the width, height and length of its section's space."""
    a, way = MEMBERS[member][0], axis(member)
    start = plus(CORNERS[a], times(set_back(member, a) / 1000, way))
    return start, cross(height(member), way), height(member), way


def member_middle(member):
    start, _, _, way = member_frame(member)
    return plus(start, times(cut_length(member) / 2000, way))


def panel_middle(panel):
    """Of the solid: half the thickness above its underside."""
    lift = (raised() + THICK / 2) / 1000
    return plus(average(*shrunk(panel)), times(lift, facing(panel)))
