"""Members, nodes, their angles, the bars they are cut from, and the wireframe."""

from __future__ import annotations

import itertools
import re
from collections.abc import Iterator

import numpy as np
import shapely
from numpy.typing import NDArray

from ...core.sections import UnknownSection, find
from ...core.structure.roles import ROLES
from .pack_cuts import lengths_weighed
from .pack_files import Found, Pack, Row, beyond, number_in, vector_in
from .pack_members import Members, members_of

__all__ = [
    "angles_at_nodes",
    "bars_hold_members",
    "cut_lengths",
    "lengths_left",
    "masses_and_materials",
    "member_lengths",
    "nodes_as_members",
    "rolls",
    "types_of_members",
    "wireframe_as_members",
]

Array = NDArray[np.float64]
LETTERS = "".join(role.letter for role in ROLES.values())
ROUNDED_KG = 0.0005
"""Masses are written to a gram."""
SWOLLEN = 1e-4
"""Share of its mass by which a swelling tube may be off, which is taken for lines along it."""
ROUNDED_M = 2e-6
"""Lengths between two cuts that are each written to a thousandth of a millimetre."""


STEEP = 1e-3
"""What is so much of a unit direction off a normal lies along it."""
ON_ARC_M = 1e-4
"""Metres from an arc within which a line is one of its chords."""
TURNED_M = 2e-6
"""Metres by which ends of a direction are off that are each written to a micrometre."""


def _turned(lengths: Array) -> Array:
    """By how much (°) directions of pieces so long (n,) in metres may be off by rounding."""
    return np.asarray(np.degrees(TURNED_M / np.maximum(lengths, TURNED_M)))


def member_lengths(pack: Pack) -> Found:
    for row in pack.rows("members"):
        for end in ("start", "end"):
            if row[end] not in pack.nodes:
                yield np.inf, f"{row['label']}: node {row[end]} is not in nodes.csv"
    m = members_of(pack)
    if m is None:
        return
    for row, length in zip(m.rows, m.whole.tolist(), strict=True):
        off = abs(length * 1000 - number_in(row, "length_mm", "members"))
        yield (
            off,
            f"{row['label']} between {row['start']} and {row['end']}, members.csv or nodes.csv",
        )


def cut_lengths(pack: Pack) -> Found:
    for row in pack.rows("members"):
        columns = ("length_mm", "cut_length_mm", "start_setback_mm", "end_setback_mm")
        length, cut, start, end = (number_in(row, c, "members") for c in columns)
        yield abs(length - start - end - cut), f"{row['label']} in members.csv"


def lengths_left(pack: Pack) -> Found:
    """Members without a length are told in the report, and no others have none."""
    m = members_of(pack)
    if m is None:
        return
    told = pack.not_made("member")
    for row, left in zip(m.rows, lengths_weighed(pack, m).tolist(), strict=True):
        if row["label"] not in told:
            yield max(0.0, -left * 1000), f"{row['label']} in members.csv"


def types_of_members(pack: Pack) -> Found:
    groups: dict[str, list[Row]] = {}
    for row in pack.rows("members"):
        groups.setdefault(row["type"], []).append(row)
    for kind in pack.rows("member_types"):
        where = f"{kind['type']} in member_types.csv"
        rows = groups.pop(kind["type"], [])
        if len(rows) != int(kind["count"]):
            yield np.inf, f"{where}: {kind['count']} in the types, {len(rows)} among the members"
            continue
        cuts = [number_in(r, "cut_length_mm", "members") for r in rows]
        yield abs(max(cuts) - min(cuts) - float(kind["spread_mm"])), where
        yield abs(float(np.mean(cuts)) - float(kind["cut_length_mm"])), where
        yield beyond({r["section"] for r in rows} != {kind["section"]}), f"{where}: sections differ"
    for name in groups:
        yield np.inf, f"{name} of members.csv is not in member_types.csv"


def rolls(pack: Pack) -> Found:
    """Heights square to their members, and the roll as their directions have it (°)."""
    m = members_of(pack)
    if m is None:
        return
    given = np.array([number_in(r, "roll_deg", "members") for r in m.rows])
    axis = m.ways[m.first, 0]
    off = np.abs((given - _rolls(axis, m.up[m.first]) + 180) % 360 - 180)
    # Near plumb the angle is noise, and the direction alone counts.
    off[np.abs(axis[:, 2]) > 1 - 1e-4] = 0.0
    turned = _turned(m.lengths)
    off = np.maximum(off - turned[m.first], 0.0)
    slant = np.degrees(np.abs(np.einsum("ij,ij->i", m.up, m.axis)))
    size = np.degrees(np.abs(np.linalg.norm(m.up, axis=1) - 1))
    np.maximum.at(off, m.row, np.maximum(np.maximum(slant - turned, 0.0), size))
    for row, value in zip(m.rows, off, strict=True):
        yield float(value), f"{row['label']} in members.csv"


def _rolls(axis: Array, up: Array) -> Array:
    """Turns (n,) in degrees about members of heights ``up`` (n, 3) from the most upright ones."""
    upright = np.abs(axis[:, 2]) > 1 - 1e-9
    level = np.where(upright[:, None], [1.0, 0.0, 0.0], [0.0, 0.0, 1.0])
    level = level - np.einsum("ij,ij->i", level, axis)[:, None] * axis
    level /= np.maximum(np.linalg.norm(level, axis=1, keepdims=True), 1e-12)
    sine = np.einsum("ij,ij->i", np.cross(level, up), axis)
    return np.asarray(np.degrees(np.arctan2(sine, np.einsum("ij,ij->i", level, up))))


def nodes_as_members(pack: Pack) -> Found:
    """Valence, largest set-back (mm) and the length of normals as members and geometry have
    them."""
    valence: dict[str, int] = {}
    back: dict[str, float] = {}
    m = members_of(pack)
    for node in itertools.chain.from_iterable(m.nodes if m is not None else ()):
        valence[node] = valence.get(node, 0) + 1
    for row in pack.rows("members"):
        for end in ("start", "end"):
            back[row[end]] = max(
                back.get(row[end], 0.0), number_in(row, f"{end}_setback_mm", "members")
            )
    for row in pack.rows("nodes"):
        label, where = row["label"], f"{row['label']} in nodes.csv"
        yield (
            float(abs(number_in(row, "valence", "nodes") - valence.get(label, 0))),
            f"{where}: valence",
        )
        off = abs(number_in(row, "setback_mm", "nodes") - back.get(label, 0.0))
        yield max(off - 0.05, 0.0), f"{where}: set-back"
        yield (
            abs(float(np.linalg.norm(vector_in(row, "nodes", "normal_{}"))) - 1) * 1000,
            f"{where}: normal",
        )
        yield float(bool(row["support"])), f"{where}: a support, of which nothing else tells"


def angles_at_nodes(pack: Pack) -> Found:
    """Angles of members at nodes (°), worked out from directions, heights and normals."""
    m = members_of(pack)
    rows = pack.rows("node_angles")
    if m is None or "node_angles" not in pack.tables:
        return
    normals = {r["label"]: vector_in(r, "nodes", "normal_{}") for r in pack.rows("nodes")}
    ways = _ways(m)
    lead = _first_ways(ways, normals)
    turned = _most_turned(m)
    for row in rows:
        node, member = row["node"], row["member"]
        where = f"{member} at {node} in node_angles.csv"
        left = ways.get((node, member))
        if not left or node not in normals:
            yield np.inf, f"{where}: they do not meet, or it stands there too often"
            continue
        columns = ("plan_angle_deg", "elevation_deg", "twist_deg")
        given = np.array([number_in(row, c, "node_angles") for c in columns])
        offs = [
            float(
                np.abs(
                    (given - _angles(away, lead.get(node), normals[node], up) + 180) % 360 - 180
                ).max()
            )
            for away, up in left
        ]
        nearest = int(np.argmin(offs))
        del left[nearest]
        yield max(offs[nearest] - turned[node], 0.0), where
    yield (
        beyond(any(ways.values())),
        f"node_angles.csv holds {len(rows)} ways of {2 * len(m.nodes)} from nodes",
    )


def _ways(m: Members) -> dict[tuple[str, str], list[tuple[Array, Array]]]:
    """By node and member all ways with the heights of their sections."""
    ways: dict[tuple[str, str], list[tuple[Array, Array]]] = {}
    for k, row in enumerate(m.rows):
        pieces = range(m.first[k], m.first[k] + m.count[k])
        for end, sign in ((0, 1.0), (1, -1.0)):
            for p in pieces:
                node = m.nodes[p][end]
                ways.setdefault((node, row["label"]), []).append((sign * m.ways[p, end], m.up[p]))
    return ways


def _first_ways(
    ways: dict[tuple[str, str], list[tuple[Array, Array]]], normals: dict[str, Array]
) -> dict[str, Array]:
    """By node the direction of its first way that does not lead along the normal, if there is
    one."""
    lead: dict[str, Array] = {}
    for (node, _), own in ways.items():
        for away, _ in own:
            if node in normals and not _is_steep(away, normals[node]):
                lead.setdefault(node, away)
    return lead


def _is_steep(away: Array, normal: Array) -> bool:
    return bool(np.linalg.norm(away - (away @ normal) * normal) < STEEP)


def _most_turned(m: Members) -> dict[str, float]:
    """By how much (°) angles at each node may be off by rounding: by its shortest way, and by the
    first, to which they are measured."""
    out: dict[str, float] = {}
    for nodes, turned in zip(m.nodes, (2 * _turned(m.lengths)).tolist(), strict=True):
        for node in nodes:
            out[node] = max(out.get(node, 0.0), turned)
    return out


def _angles(away: Array, lead: Array | None, normal: Array, up: Array) -> Array:
    """Plan angle, elevation and twist (°) of one member leaving a node whose first way leads
    along ``lead``."""
    height = float(away @ normal)
    flat = away - height * normal
    ref = up if lead is None else lead - (lead @ normal) * normal
    steep = _is_steep(away, normal)
    plan = 0.0 if steep else float(np.arctan2(np.cross(ref, flat) @ normal, ref @ flat))
    level = ref if steep else normal - height * away
    twist = np.arctan2(np.cross(level, up) @ away, level @ up)
    return np.degrees([plan, np.arctan2(height, np.linalg.norm(flat)), twist])


def masses_and_materials(pack: Pack) -> Found:
    """Masses (% off) by section and cut length, and the grade the section's name stands for."""
    m = members_of(pack)
    if m is None:
        return
    lengths = zip(m.rows, lengths_weighed(pack, m).tolist(), m.is_even.tolist(), strict=True)
    for row, length, is_even in lengths:
        where = f"{row['label']} in members.csv"
        try:
            section = find(row["section"])
        except UnknownSection:
            yield np.inf, f"{where}: there is no section “{row['section']}”"
            continue
        yield 100.0 * (row["material"] != section.grade), f"{where}: material"
        cut = max(length, 0.0)
        mass = number_in(row, "mass_kg", "members")
        rounded = ROUNDED_KG + section.mass * (ROUNDED_M + (0.0 if is_even else SWOLLEN * cut))
        off = max(abs(mass - section.mass * cut) - rounded, 0.0)
        yield off / max(section.mass * cut, 0.01) * 100, f"{where}: mass"
        letter = row["label"].rstrip("0123456789")[-1:]
        role = ROLES.get(row["layer"])
        yield 100.0 * (role is None or role.letter != letter), f"{where}: layer"


def bars_hold_members(pack: Pack) -> Found:
    """Cuts on one bar keep the kerf apart and lie within it, are as long as their members, and of
    one section."""
    members = {r["label"]: r for r in pack.rows("members")}
    bars: dict[str, list[tuple[float, float, Row]]] = {}
    seen: set[str] = set()
    for row in pack.rows("bars"):
        member, where = members.get(row["member"]), f"{row['member']} on {row['bar']} in bars.csv"
        if member is None or row["member"] in seen:
            yield np.inf, f"{where}: it is cut twice or not in members.csv"
            continue
        seen.add(row["member"])
        begin, end = number_in(row, "from_mm", "bars"), number_in(row, "to_mm", "bars")
        bars.setdefault(row["bar"], []).append((begin, end, row))
        yield abs(end - begin - number_in(member, "cut_length_mm", "members")), where
        yield beyond(row["section"] != member["section"]), f"{where}: section"
    planned = [c for c in pack.report.get("clauses", []) if c["kind"] == "bars"]
    if members and not bars and not pack.not_made("bars"):
        for clause in planned:
            asked = clause["status"] == "done" and clause["figures"]["bars"]["value"] > 0
            yield beyond(asked), f"“{clause['id']}” planned bars, and there is no bars.csv"
    told = pack.not_made("member")
    numbers: dict[str, set[int]] = {}
    for bar in bars:
        named = re.fullmatch(r"([A-D]?B)(\d+)", bar)
        yield beyond(named is None), f"“{bar}” in bars.csv is no name of a bar"
        if named is not None:
            numbers.setdefault(named.group(1), set()).add(int(named.group(2)))
    for name, own in numbers.items():
        yield (
            beyond(own != set(range(1, len(own) + 1))),
            f"bars {name}… of bars.csv are not counted on",
        )
    if bars:
        series = {re.sub(r"B\d+$", "", bar) for bar in bars}
        for label in members:
            mine = re.sub(rf"[{LETTERS}]\d+$", "", label) in series
            yield beyond(mine and label not in seen | told), f"{label} is on no bar in bars.csv"
    for bar, on in bars.items():
        on.sort(key=lambda cut: cut[0])
        stocks = {number_in(r, "stock_mm", "bars") for _, _, r in on}
        kerfs = {number_in(r, "kerf_mm", "bars") for _, _, r in on}
        yield (
            beyond(len(stocks) + len(kerfs) > 2),
            f"{bar} in bars.csv is of several stocks or kerfs",
        )
        yield (
            max(0.0, on[-1][1] - min(stocks), -on[0][0]),
            f"{on[-1][2]['member']} on {bar} in bars.csv",
        )
        for one, two in itertools.pairwise(on):
            near = one[1] + max(kerfs) - two[0]
            yield max(0.0, near), f"{one[2]['member']} and {two[2]['member']} on {bar} in bars.csv"
    by_series: dict[str, set[str]] = {}
    for row in pack.rows("bars"):
        by_series.setdefault(re.sub(r"\d+$", "", row["bar"]), set()).add(row["kerf_mm"])
    for own_series, values in by_series.items():
        yield beyond(len(values) > 1), f"{own_series}… in bars.csv: several kerfs"


def wireframe_as_members(pack: Pack) -> Found:
    """Every member's line in its layer, and no others (mm)."""
    if not pack.has("wireframe.dxf") or "members" not in pack.tables:
        return
    m = members_of(pack)
    if m is None:
        return
    lines, layers = pack.wireframe(*(role.layer for role in ROLES.values()))
    on_arcs = np.zeros(len(lines), bool)
    for off, mine, where in _arcs_as_lines(m, pack, lines, layers):
        on_arcs |= mine
        yield off * 1000, where
    lines, layers = lines[~on_arcs], layers[~on_arcs]
    straight = int(np.count_nonzero(m.turn == 0))
    if len(lines) != straight:
        yield np.inf, f"{len(lines)} lines in wireframe.dxf for {straight} pieces of members"
        return
    yield from _straight_as_lines(m, pack, lines, layers)


def _straight_as_lines(m: Members, pack: Pack, lines: Array, layers: NDArray[np.str_]) -> Found:
    """Straight pieces against the nearest lines of their layer."""
    tree = shapely.STRtree(shapely.points(lines.mean(axis=1)[:, :2]))
    for p in np.flatnonzero(m.turn == 0).tolist():
        nodes, row = m.nodes[p], m.rows[m.row[p]]
        ends = np.stack([pack.nodes[node] for node in nodes])
        near = tree.query(shapely.Point(ends.mean(axis=0)[:2]).buffer(0.02))
        near = near[layers[near] == row["layer"].upper()]
        off = min(
            (min(np.abs(lines[k] - e).max() for e in (ends, ends[::-1])) for k in near),
            default=np.inf,
        )
        yield float(off) * 1000, f"{row['label']} in wireframe.dxf"


def _arcs_as_lines(
    m: Members, pack: Pack, lines: Array, layers: NDArray[np.str_]
) -> Iterator[tuple[float, NDArray[np.bool_], str]]:
    """Of each arc how far (m) its chords in the wireframe are off it, which lines these are, and
    where that is."""
    for p in np.flatnonzero(m.turn > 0).tolist():
        row = m.rows[m.row[p]]
        ends = np.stack([pack.nodes[node] for node in m.nodes[p]])
        off, mine = _off_arc(ends, m.bulge[p], lines, layers == row["layer"].upper())
        yield off, mine, f"{row['label']} in wireframe.dxf"


def _off_arc(
    ends: Array, bulge: Array, lines: Array, of_layer: NDArray[np.bool_]
) -> tuple[float, NDArray[np.bool_]]:
    """How far (m) the chords of an arc are from leading along it from one of its ``ends`` (2, 3) to
    the other, and which of the lines (n, 2, 3) these are: of those ``of_layer`` (n,)."""
    chord = max(float(np.linalg.norm(ends[1] - ends[0])), 1e-12)
    along = (ends[1] - ends[0]) / chord
    # The circle through both nodes and the arc's crown.
    bulge = bulge - (bulge @ along) * along
    rise = float(np.linalg.norm(bulge))
    radius, outward = (chord**2 / 4 + rise**2) / (2 * rise), bulge / rise
    local = lines - ends.mean(axis=0) - (rise - radius) * outward
    angle = np.arctan2(local @ along, local @ outward)
    aside = np.abs(local @ np.cross(along, outward))
    off = np.hypot(np.linalg.norm(local, axis=2) - radius, aside).max(axis=1)
    half = 2 * np.arctan2(2 * rise, chord)
    within = (np.abs(angle) <= half + ON_ARC_M / radius).all(axis=1)
    mine = of_layer & within & (off < ON_ARC_M)
    return max(_gaps(angle[mine], half) * radius, float(off[mine].max(initial=0.0))), mine


def _gaps(runs: Array, half: float) -> float:
    """How far apart runs (k, 2) of angles are at most, or from leading from −half to half."""
    runs = np.sort(runs, axis=1)
    runs = runs[np.argsort(runs[:, 0])]
    steps = np.concatenate([[-half], runs.ravel(), [half]]).reshape(-1, 2)
    return float(np.abs(np.diff(steps, axis=1)).max())
