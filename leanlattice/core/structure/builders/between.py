"""Members between what is there: struts and purlins from line to line, links of places."""

from __future__ import annotations

from collections.abc import Callable, Sequence
from itertools import pairwise

import numpy as np
from numpy.typing import NDArray

from ...geometry.arcs import unit
from ...geometry.lines import Line
from ...sections import Section
from ..arms import arms_of
from ..inserted import landed_near
from ..joints import with_joints
from ..meetings import Meeting
from ..roles import role_number
from ..structure import Structure
from .assembled import assembled
from .heights import square_to

__all__ = [
    "BETWEEN",
    "LINKS",
    "NEAR",
    "line_of_member",
    "linked",
    "straight_members",
    "struts_between",
]

Array = NDArray[np.float64]
Index = NDArray[np.int32]
NEAR = 1e-5
"""Metres from a member's axis within which ends of what is put between lie on it."""


def line_of_member(structure: Structure, member: int) -> Line:
    """The axis of a member as a line."""
    entries = slice(structure.offsets[member], structure.offsets[member + 1])
    segments = slice(entries.start - member, entries.stop - member - 1)
    return Line(
        structure.axis_places[entries], structure.bulge[segments], structure.up_of_entry[entries]
    )


def _along(first: Line, others: Sequence[Line], count: int, free: float) -> list[Array]:
    """Ends (n, 2, 3) of members in V along two lines: from so many places of the first one to the
    ones before and behind it of each other."""
    tips = first.at(_stops(first, free, (np.arange(count) + 0.5) / count))
    out = []
    for other in others:
        feet = other.at(_stops(other, free, np.arange(count + 1) / count))
        out += [np.stack([tips, feet[:-1]], axis=1), np.stack([tips, feet[1:]], axis=1)]
    return out


def _across(first: Line, others: Sequence[Line], count: int, free: float) -> list[Array]:
    """From so many places of the first line to those beside them of each other."""
    tips = first.at(_stops(first, free, _even(count)))
    feet = [other.at(_stops(other, free, _even(count))) for other in others]
    return [np.stack([tips, at], axis=1) for at in feet]


def _fan(first: Line, others: Sequence[Line], count: int, free: float) -> list[Array]:
    """From the middle of the first line to so many places of each other."""
    tip = np.repeat(first.at(np.array([first.length / 2])), count, axis=0)
    return [np.stack([tip, o.at(_stops(o, free, _even(count)))], axis=1) for o in others]


def _onward(first: Line, others: Sequence[Line], count: int, free: float) -> list[Array]:
    """From line to line, as purlins."""
    rows = [line.at(_stops(line, free, _even(count))) for line in (first, *others)]
    return [np.stack([a, b], axis=1) for a, b in pairwise(rows)]


BETWEEN: dict[str, Callable[[Line, Sequence[Line], int, float], list[Array]]] = {
    "along": _along,
    "across": _across,
    "fan": _fan,
    "onward": _onward,
}
"""How members lead from a first line to others: ends, for so many and the share that is kept free
at both ends of each line."""


def _even(count: int) -> Array:
    """Shares (n,) from 0 to 1; a single one is in the middle."""
    return np.linspace(0.0, 1.0, count) if count > 1 else np.array([0.5])


def _stops(line: Line, free: float, share: Array) -> Array:
    """Metres along a line (n,) of shares of what is not kept free at its ends."""
    return (free + (1 - 2 * free) * share) * line.length


def _one_way(first: Line, other: Line) -> Line:
    """The other line, turned where it runs against the first."""
    ends, others = first.places[[0, -1]], other.places[[0, -1]]
    along = np.linalg.norm(ends - others, axis=1).sum()
    against = np.linalg.norm(ends - others[::-1], axis=1).sum()
    if along <= against:
        return other
    return Line(other.places[::-1], other.bulge[::-1], other.normals[::-1])


def struts_between(
    base: Structure,
    members: Sequence[int],
    way: str,
    count: int,
    free: float,
    section: Section,
    role: str,
    meeting: Meeting,
) -> Structure:
    """A structure with members between some of its own, which run on where they land.

    Parameters
    ----------
    base : the structure
    members : of it, along whose axes they lead; the first one is that with the tips
    way : an entry of ``BETWEEN``
    count : of tips, or of feet of a fan
    free : share of each line that is kept free at both of its ends
    section, role : of what is put between
    meeting : how these meet what they land on
    """
    lines = [line_of_member(base, m) for m in members]
    first, others = lines[0], [_one_way(lines[0], line) for line in lines[1:]]
    ends = np.concatenate(BETWEEN[way](first, others, count, free))
    return landed_near(base, _alike(ends, section, role, meeting), NEAR)


def _in_pairs(count: int) -> Index:
    return np.arange(count - count % 2, dtype=np.int32).reshape(-1, 2)


def _in_a_row(count: int) -> Index:
    number = np.arange(count, dtype=np.int32)
    return np.column_stack([number[:-1], number[1:]])


def _in_a_ring(count: int) -> Index:
    number = np.arange(count, dtype=np.int32)
    return np.column_stack([number, np.roll(number, -1)])


def _each_with_each(count: int) -> Index:
    return np.column_stack(np.triu_indices(count, 1)).astype(np.int32)


LINKS: dict[str, Callable[[int], Index]] = {
    "pairs": _in_pairs,
    "row": _in_a_row,
    "ring": _in_a_ring,
    "each": _each_with_each,
}
"""Which of so many places are joined with which."""


def linked(
    base: Structure, places: Array, way: str, section: Section, role: str, meeting: Meeting
) -> Structure:
    """A structure with members between places of it.

    Parameters
    ----------
    base : the structure
    places : (n, 3) at nodes of it or on axes of its members
    way : an entry of ``LINKS``
    section, role : of what is put between
    meeting : how these meet what they land on
    """
    return landed_near(base, _alike(places[LINKS[way](len(places))], section, role, meeting), NEAR)


def straight_members(
    ends: Array,
    sections: tuple[Section, ...],
    which: Index,
    roles: tuple[str, ...],
    meeting: Meeting,
) -> Structure:
    """Members between pairs of places; places that are one are one node.

    Parameters
    ----------
    ends : (n, 2, 3) in metres
    sections, roles : and the place among both (n,) of each member (``which``)
    meeting : how they meet
    """
    places, node = np.unique(np.round(ends.reshape(-1, 3), 7), axis=0, return_inverse=True)
    path = node.ravel().astype(np.int32)
    # What was rounded to be compared stands where it was.
    places[path] = ends.reshape(-1, 3)
    count = len(ends)
    axis = unit(ends[:, 1] - ends[:, 0])
    number = np.arange(count, dtype=float)
    station = np.zeros((len(places), 2))
    station[path, 1] = np.repeat(number, 2)
    made = assembled(
        places=places,
        normals=np.tile([0.0, 0.0, 1.0], (len(places), 1)),
        path=path,
        offsets=np.arange(0, 2 * count + 1, 2, dtype=np.int32),
        up=square_to(axis, np.array([[0.0, 0.0, 1.0]]), np.array([[1.0, 0.0, 0.0]])),
        wanted=sections,
        which=which,
        role=np.array([role_number(role) for role in roles], np.int32)[which],
        station=station,
        member_station=np.column_stack([np.zeros(count), number]),
    )
    return with_joints(made, arms_of(made), meeting)


def _alike(ends: Array, section: Section, role: str, meeting: Meeting) -> Structure:
    """Members between pairs of places (n, 2, 3), all of one section and role."""
    return straight_members(ends, (section,), np.zeros(len(ends), np.int32), (role,), meeting)
