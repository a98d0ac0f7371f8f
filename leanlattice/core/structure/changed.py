"""Members of a structure given other sections or another way to meet, swollen, turned about their
axes, or left out; all that meets at their nodes meets anew."""

from __future__ import annotations

from dataclasses import replace

import numpy as np
from numpy.typing import NDArray

from ..geometry.arcs import unit
from ..sections import Section
from .builders.assembled import used_sections
from .builders.heights import square_to
from .joined import with_members
from .joints import met_anew
from .meetings import Meeting
from .structure import Structure

__all__ = ["meeting_otherwise", "nodes_of", "swollen", "turned", "with_sections", "without"]

Array = NDArray[np.float64]
Index = NDArray[np.int32]
Mask = NDArray[np.bool_]
ON_LINE = 1e-9
"""Metres by which the top or bottom of a section may be off its nodes and still lie on them."""
STRAIGHT = 1e-9
"""By how much directions of a member's segments may differ while it is straight."""


def with_sections(structure: Structure, wanted: tuple[Section, ...], which: Index) -> Structure:
    """The structure with other sections: of those ``wanted`` the one (M,) of each member, −1 where
    it keeps its own.

    Members whose top or bottom lies on their nodes go on lying so.
    """
    changed = which >= 0
    every = (*structure.sections, *wanted)
    of = np.where(changed, which + len(structure.sections), structure.section_of)
    before = np.array([s.shape.height for s in structure.sections])[structure.section_of]
    after = np.array([s.shape.height for s in every])[of]
    entry = structure.member_of_entry
    on_line = np.abs(np.abs(structure.lift) - before[entry] / 2) < ON_LINE
    grown = np.where(on_line, (after - before)[entry] / 2 * np.sign(structure.lift), 0.0)
    sections, section_of = used_sections(every, of.astype(np.int32))
    made = replace(
        structure,
        sections=sections,
        section_of=section_of,
        offset=structure.offset + grown[:, None] * structure.up_of_entry,
    )
    made = _with_copies(made, section_of != section_of[structure.copy_of])
    return met_anew(made, nodes_of(structure, changed))


def turned(structure: Structure, chosen: Mask, wanted: Array, angle: float) -> Structure:
    """The structure with the heights of those ``chosen`` (M,) turned to directions ``wanted``
    (S, 3), and on by an ``angle`` (rad) about their axes. Straight members stand one way all along,
    and lie as far off their nodes along their heights as before."""
    ways = unit(structure.chords)
    member = structure.member_of_segment
    square = square_to(ways, wanted, structure.up)
    sums = [np.bincount(member, square[:, k], structure.count) for k in range(3)]
    of_all = np.asarray(np.stack(sums, axis=1), np.float64)
    first = ways[structure.first_segment][member]
    bends = np.bincount(member, np.abs(ways - first).max(axis=1) > STRAIGHT, structure.count) > 0
    square = np.where(bends[member][:, None], square, square_to(ways, of_all[member], square))
    square = np.cos(angle) * square + np.sin(angle) * np.cross(ways, square)
    up = np.where(chosen[member][:, None], square, structure.up)
    made = replace(structure, up=up)
    moved = structure.lift[:, None] * (made.up_of_entry - structure.up_of_entry)
    made = replace(made, offset=structure.offset + moved)
    made = _with_copies(made, chosen | chosen[structure.copy_of])
    return met_anew(made, nodes_of(structure, chosen))


def swollen(structure: Structure, chosen: Mask, at_nodes: Array, between: Array) -> Structure:
    """The structure whose members that are ``chosen`` (M,) have sections of so many times their
    size at their nodes (P,) and in the middles of the segments between (S,)."""
    entry, segment = structure.member_of_entry, structure.member_of_segment
    first = structure.first_entry
    waist = between - (at_nodes[first] + at_nodes[first + 1]) / 2
    made = replace(
        structure,
        scale=np.where(chosen[entry], at_nodes, structure.scale),
        waist=np.where(chosen[segment], waist, structure.waist),
    )
    made = _with_copies(made, chosen | chosen[structure.copy_of])
    return met_anew(made, nodes_of(structure, chosen))


def meeting_otherwise(structure: Structure, touched: Mask, meeting: Meeting) -> Structure:
    """The structure with another ``meeting`` at nodes that are ``touched`` (N,)."""
    every = tuple(dict.fromkeys((*structure.rules, meeting)))
    wanted = np.where(touched, every.index(meeting), structure.rule)
    which, rule = np.unique(wanted, return_inverse=True)
    rules = tuple(every[k] for k in which.tolist())
    made = replace(structure, rules=rules, rule=rule.astype(np.int32))
    return met_anew(made, touched)


def without(structure: Structure, chosen: Mask) -> tuple[Structure, Mask]:
    """The structure without those ``chosen`` (M,), and without the nodes that only they led to; and
    which of the nodes (N,) are left."""
    touched = nodes_of(structure, chosen)
    left = with_members(structure, ~chosen)
    kept = np.zeros(len(structure.places), bool)
    kept[left.path] = True
    number = (np.cumsum(kept) - 1).astype(np.int32)
    names = ("places", "normals", "station", "stage", "origin", "foot", "rule", "meeting")
    own = {name: getattr(left, name)[kept] for name in (*names, "radius", "height")}
    further = left.further[kept[left.further[:, 0]]].copy()
    further[:, 0] = number[further[:, 0]]
    nodes, members = structure.since
    since = (int(kept[:nodes].sum()), int((~chosen)[:members].sum()))
    made = replace(left, **own, path=number[left.path], further=further, since=since)
    return met_anew(made, touched[kept]), kept


def nodes_of(structure: Structure, members: Mask) -> Mask:
    """The nodes (N,) that members lead to."""
    out = np.zeros(len(structure.places), bool)
    out[structure.path[members[structure.member_of_entry]]] = True
    return out


def _with_copies(structure: Structure, parted: Mask) -> Structure:
    """The structure whose members that are ``parted`` (M,) are copies of none."""
    own = np.arange(structure.count, dtype=np.int32)
    return replace(
        structure,
        copy_of=np.where(parted, own, structure.copy_of).astype(np.int32),
        mirrored=structure.mirrored & ~parted,
    )
