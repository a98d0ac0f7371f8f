"""Cuts of ends that overrun: past the next bend of their member, or into those of its other end.

A plane that lies all but along a member, as where it meets another at a small angle, leaves its
section far from its end. Solids are cut by it in their first and last pieces alone: beyond a bend
they would run into what the plane holds them off, and where the cuts of a straight one cross, there
is nothing between them.
"""

from __future__ import annotations

import numpy as np
from numpy.typing import NDArray

from .cut_backs import outlines_of
from .cuts import RADIUS, taken_at
from .structure import Structure

__all__ = ["held_past_bends", "overrun"]

Array = NDArray[np.float64]
Rows = NDArray[np.intp]
AROUND = np.pi / 90 * np.arange(180)
"""Angles at which tubes are looked at that fit others."""


def overrun(structure: Structure) -> Array:
    """How far (M, 2) planes that cut ends reach past where the mitre of the next bend begins or, of
    straight members, past what cuts the other end, in metres; −∞ where no plane cuts, and where all
    of the section is there between both ends."""
    out = np.full((structure.count, 2), -np.inf)
    is_cut = np.zeros(structure.count, bool)
    is_cut[structure.cuts.ends_cut // 2] = True
    bends = np.diff(structure.offsets) > 2
    near = structure.where_cut(structure.cut_backs.whole).sum(axis=1) > structure.lengths
    bent, straight = np.flatnonzero(bends), np.flatnonzero(is_cut & ~bends & near)
    if bent.size:
        out[bent] = _past_bends(structure, bent)
    if straight.size:
        out[straight] = _past_each_other(structure, straight)[:, None]
    return out


def held_past_bends(structure: Structure) -> Array:
    """How far (M, 2) square ends lie past the next bend of their member, in metres, so that they
    are in another piece than the one they were to be held back along; below 0 of others."""
    first = structure.first_segment
    last = first + np.diff(structure.offsets) - 2
    past = structure.set_back - structure.segment_lengths[np.column_stack([first, last])]
    past.ravel()[structure.cuts.ends_cut] = -np.inf
    past[first == last] = -np.inf
    return np.asarray(past)


def _past_bends(structure: Structure, members: Rows) -> Array:
    """Of ``members`` (n,) that bend, of both ends (n, 2)."""
    first = structure.first_segment[members]
    last = first + np.diff(structure.offsets)[members] - 2
    end, beside = np.column_stack([first, last]), np.column_stack([first + 1, last - 1])
    way = structure.chords / np.linalg.norm(structure.chords, axis=1, keepdims=True)
    cosine = np.einsum("mij,mij->mi", way[end], way[beside])
    half = np.array([np.hypot(s.shape.width, s.shape.height) / 2 for s in structure.sections])
    # Half the angle of a bend has the tangent √((1 − cos) / (1 + cos)).
    tangent = np.sqrt(np.maximum(1 - cosine, 0.0) / np.maximum(1 + cosine, 1e-12))
    mitre = half[structure.section_of[members]][:, None] * tangent
    past = (
        structure.cut_backs.whole.reshape(-1, 2)[members] + mitre - structure.segment_lengths[end]
    )
    return np.where(np.isnan(past), -np.inf, past)


def _past_each_other(structure: Structure, members: Rows) -> Array:
    """Of straight ``members`` (n,), the most of what the cuts of both ends take at any place of the
    section, less what there is."""
    taken = _taken(structure, members)
    # Of two planes the larger counts, and the most of a sum of larger ones is that of one sum.
    sums = (taken[:, 0, :, None] + taken[:, 1, None, :]).reshape(-1, 4, 3)
    outlines = outlines_of(structure.sections)
    most = np.empty(len(members))
    for k in range(len(structure.sections)):
        rows = np.flatnonzero(structure.section_of[members] == k)
        radius = outlines.radii[k, 0]
        if radius > 0:
            over = sums[rows, :, 0] + radius * np.linalg.norm(sums[rows, :, 1:], axis=2)
        else:
            ring = outlines.corners_of(k)
            over = (sums[rows, :, :1] + sums[rows, :, 1:] @ ring.T).max(axis=2)
        most[rows] = over.max(axis=1)
    fits = structure.cuts.rows_of_ends(2 * structure.count)[..., RADIUS].any(axis=1)
    for n in np.flatnonzero(fits.reshape(-1, 2)[members].any(axis=1)).tolist():
        most[n] = _most_of_saddles(structure, int(members[n]))
    return most - structure.lengths[members]


def _most_of_saddles(structure: Structure, member: int) -> float:
    """The most of what the cuts of both ends of a tube take at any place of its section (m), of
    which saddles are some."""
    ends = slice(2 * member, 2 * member + 2)
    cuts = structure.cuts.rows_of_ends(2 * structure.count)[ends]
    away, up = (frames[member] for frames in structure.end_frames)
    radius = structure.sections[structure.section_of[member]].shape.height / 2
    rim = radius * np.column_stack([np.sin(AROUND), np.cos(AROUND)])
    # Seen from the last end, widths run the other way.
    taken = taken_at(cuts, away, up, np.stack([rim, rim * [-1, 1]]))
    square = ~cuts[:, 0].any(axis=1)
    return float((taken + np.where(square, structure.set_back[member], 0.0)[:, None]).sum(0).max())


def _taken(structure: Structure, members: Rows) -> Array:
    """How far along the axes the planes of both ends lie (n, 2 ends, 2 planes, 3): on the axis,
    and what a metre of the width and of the height adds. One plane counts twice, and a square end
    as one."""
    normals, levels = structure.cuts.of_ends(2 * structure.count)
    ends = np.column_stack([2 * members, 2 * members + 1])
    normal, level = normals[ends], levels[ends]
    none = np.asarray(~normal.any(axis=3))
    normal[..., 1, :] = np.where(none[..., 1:], normal[..., 0, :], normal[..., 1, :])
    level[..., 1] = np.where(none[..., 1], level[..., 0], level[..., 1])
    away, up = (frames[members][:, :, None] for frames in structure.end_frames)
    into = np.einsum("meki,meki->mek", normal, np.broadcast_to(away, normal.shape))
    square = none[..., 0]
    into[square] = 1.0
    side = np.cross(up, away)
    wide, high = (
        np.einsum("meki,meki->mek", normal, np.broadcast_to(d, normal.shape)) for d in (side, up)
    )
    out = np.stack([level / into, -wide / into, -high / into], axis=-1)
    out[square] = 0.0
    out[..., 0][square] = structure.set_back[members][square][:, None]
    # Seen from the last end, widths run the other way.
    out[:, 1, :, 1] *= -1
    return np.asarray(out)
