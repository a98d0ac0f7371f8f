"""Members as they are drawn and weighed: lines of their axes, and solids along them."""

from __future__ import annotations

from collections.abc import Iterator

import numpy as np
from numpy.typing import NDArray

from .structure import Structure

__all__ = ["axis_line", "member_solids", "ring_between", "set_out_lines"]

Array = NDArray[np.float64]
Index = NDArray[np.int32]

TURN = np.radians(6.0)
"""Most of a turn that a chord of a drawn arc stands for."""


def _along_arc(start: Array, chord: Array, bulge: Array) -> Array:
    """Places (k, 3) after the start along an arc, its end the last; of a straight one its end."""
    rise, length = float(np.linalg.norm(bulge)), float(np.linalg.norm(chord))
    if rise <= 1e-12 * max(length, 1e-300):
        return (start + chord)[None]
    half = 2 * np.arctan(2 * rise / length)
    radius = (length**2 / 4 + rise**2) / (2 * rise)
    pieces = max(2, int(np.ceil(2 * half / TURN)))
    angle = np.linspace(-half, half, pieces + 1)[1:]
    along, across = chord / length, bulge / rise
    centre = start + chord / 2 + bulge - radius * across
    round_it = np.cos(angle)[:, None] * across + np.sin(angle)[:, None] * along
    out = centre + radius * round_it
    out[-1] = start + chord
    return np.asarray(out)


def axis_line(structure: Structure, member: int, off_axis: bool = False) -> tuple[Array, Index]:
    """Places (k, 3) along a member's axis, arcs as chords, and the segment (k − 1,) that each of
    its pieces is of; with ``off_axis`` those of its nodes' places instead."""
    first = structure.offsets[member]
    entries = slice(first, structure.offsets[member + 1])
    at = structure.places[structure.path[entries]] if off_axis else structure.axis_places[entries]
    segment = first - member
    places, owner = [at[:1]], []
    for k in range(len(at) - 1):
        run = _along_arc(at[k], at[k + 1] - at[k], structure.bulge[segment + k])
        places.append(run)
        owner += [segment + k] * len(run)
    return np.vstack(places), np.array(owner, np.int32)


def set_out_lines(structure: Structure) -> tuple[Array, Index]:
    """Lines (n, 2, 3) from node to node of all members, arcs as chords, and the member (n,) of
    each."""
    ends = structure.places[structure.path]
    straight = np.stack([ends[structure.first_entry], ends[structure.first_entry + 1]], axis=1)
    if not structure.bulge.any():
        return straight, structure.member_of_segment
    runs = [axis_line(structure, m, off_axis=True)[0] for m in range(structure.count)]
    lines = [np.stack([run[:-1], run[1:]], axis=1) for run in runs]
    owner = np.repeat(np.arange(structure.count), [len(line) for line in lines])
    return np.concatenate(lines), owner.astype(np.int32)


def ring_between(a: int, b: int, n: int) -> Index:
    """Triangles between two loops of n points that start at ``a`` and ``b``; outside to the right
    of a → b."""
    k = np.arange(n)
    m = (k + 1) % n
    return np.concatenate(
        [np.column_stack([a + k, a + m, b + m]), np.column_stack([a + k, b + m, b + k])]
    )


def _faces(n: int, stations: int, hollow: bool) -> Index:
    """Triangles of a tube of outer loops of n points, one at each station, and behind them the
    inner ones where it is ``hollow``."""
    last = (stations - 1) * n
    outer = [ring_between(k * n, (k + 1) * n, n) for k in range(stations - 1)]
    if not hollow:
        fan = np.column_stack([np.zeros(n - 2, int), np.arange(2, n), np.arange(1, n - 1)])
        return np.concatenate([*outer, fan, fan[:, ::-1] + last]).astype(np.int32)
    base = stations * n
    inner = [ring_between(base + (k + 1) * n, base + k * n, n) for k in range(stations - 1)]
    ends = [ring_between(base, 0, n), ring_between(last, base + last, n)]
    return np.concatenate([*outer, *inner, *ends]).astype(np.int32)


def member_solids(
    structure: Structure, segments: int = 12, same_area: bool = False
) -> Iterator[tuple[int, Array, Index]]:
    """Member number, vertices (n, 3) in metres and triangles (m, 3) of each member that has a
    length left.

    Closed, normals outward; hollow sections are hollow, and what turns at a node or along an arc is
    mitred. Round sections are polygons of so many ``segments`` with corners on the circles or, with
    ``same_area``, of the circles' area.
    """
    size = 2 * np.pi / segments
    grown = float(np.sqrt(size / np.sin(size))) if same_area else 1.0
    loops: list[list[Array]] = []
    for section in structure.sections:
        scale = grown if section.shape.round else 1.0
        rings = section.shape.outline(segments)
        loops.append([ring * scale for ring in rings if ring is not None])
    known: dict[tuple[int, int, bool], Index] = {}
    for m in np.flatnonzero(structure.cut_lengths > 0).tolist():
        places, stands = _placed(structure, m)
        own = loops[structure.section_of[m]]
        shape = (len(own[0]), len(places), len(own) > 1)
        if shape not in known:
            known[shape] = _faces(*shape)
        vertices = [
            places[k] + loop[:, :1] * stands[k, 0] + loop[:, 1:] * stands[k, 1]
            for loop in own
            for k in range(len(places))
        ]
        yield m, np.vstack(vertices), known[shape]


def _placed(structure: Structure, member: int) -> tuple[Array, Array]:
    """Where rings of a member's section stand: places (k, 3), and what a metre along its width and
    along its height is there (k, 2, 3): square to its ends, and mitred between."""
    places, owner = axis_line(structure, member)
    ways = np.diff(places, axis=0)
    lengths = np.linalg.norm(ways, axis=1)
    ways /= lengths[:, None]
    up = _square_to(structure.up[owner], ways)
    side = np.cross(up, ways)
    first = structure.offsets[member]
    at_entries = np.concatenate([[0.0], np.cumsum(np.bincount(owner - owner[0], lengths))])
    run = np.concatenate([[0.0], np.cumsum(lengths)])
    scale = np.interp(run, at_entries, structure.scale[first : structure.offsets[member + 1]])
    low, high = structure.set_back[member, 0], run[-1] - structure.set_back[member, 1]
    kept = np.flatnonzero((run > low) & (run < high))
    kept = kept[(kept > 0) & (kept < len(run) - 1)]
    before = int(np.clip(np.searchsorted(run, low, "right") - 1, 0, len(ways) - 1))
    after = int(np.clip(np.searchsorted(run, high, "left") - 1, 0, len(ways) - 1))
    start = places[before] + (low - run[before]) * ways[before]
    end = places[after] + (high - run[after]) * ways[after]
    mitred = []
    for k in kept:
        middle = ways[k - 1] + ways[k]
        frame = np.stack([side[k - 1], up[k - 1]])
        slid = frame - np.outer(frame @ middle / (ways[k - 1] @ middle), ways[k - 1])
        mitred.append(slid * scale[k])
    sizes = np.interp([low, high], run, scale)
    rings = [
        np.stack([side[before], up[before]]) * sizes[0],
        *mitred,
        np.stack([side[after], up[after]]) * sizes[1],
    ]
    return np.vstack([start, places[kept], end]), np.stack(rings)


def _square_to(up: Array, ways: Array) -> Array:
    """The directions ``up`` (k, 3) made square to ``ways`` (k, 3)."""
    square = up - np.einsum("ij,ij->i", up, ways)[:, None] * ways
    return np.asarray(square / np.linalg.norm(square, axis=1, keepdims=True))
