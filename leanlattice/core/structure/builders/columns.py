"""Columns from nodes of a structure down to what they stand on, and rails between them."""

from __future__ import annotations

from dataclasses import replace

import numpy as np
from numpy.typing import NDArray

from ...geometry.arcs import unit
from ...sections import Section
from ..arms import arms_of
from ..inserted import landed_near
from ..joined import landed
from ..joints import with_joints
from ..meetings import Meeting
from ..roles import role_number
from ..structure import Structure
from .assembled import assembled
from .between import NEAR, straight_members
from .heights import square_to

__all__ = ["columns", "with_columns", "with_rails"]

Array = NDArray[np.float64]
Index = NDArray[np.int32]


def columns(heads: Array, feet: Array, station: Array, section: Section) -> Structure:
    """A column from each foot (n, 3) up to its head (n, 3), numbered by its ``station`` (n, 2).
    Feet come behind heads."""
    count = len(heads)
    number = np.arange(count, dtype=np.int32)
    axis = (heads - feet) / np.linalg.norm(heads - feet, axis=1, keepdims=True)
    # An upright column's height is along x, that of one that leans in the plane it leans in.
    up = square_to(axis, np.where(np.abs(axis[:, 2:]) > 1 - 1e-6, [1.0, 0, 0], [0, 0, 1.0]))
    made = assembled(
        places=np.concatenate([heads, feet]),
        normals=np.tile([0.0, 0.0, 1.0], (2 * count, 1)),
        path=np.column_stack([number + count, number]).ravel(),
        offsets=np.arange(0, 2 * count + 1, 2, dtype=np.int32),
        up=up,
        wanted=(section,),
        which=np.zeros(count, np.int32),
        role=np.full(count, role_number("column"), np.int32),
        station=np.concatenate([station, station]),
        member_station=station,
    )
    made.foot[count:] = True
    return made


def with_columns(
    base: Structure, nodes: Index, feet: Array, section: Section, meeting: Meeting
) -> Structure:
    """A structure that stands on columns. At its nodes they meet by the rules of these; at their
    feet they end square.

    Parameters
    ----------
    base : the structure
    nodes : (n,) of it that columns lead to
    feet : (n, 3) in metres, where they stand
    section : of the columns
    meeting : how columns alone would meet
    """
    own = columns(base.places[nodes], feet, base.station[nodes], section)
    own = with_joints(own, arms_of(own, joined=True), meeting)
    return landed(base, own, np.concatenate([nodes, np.full(len(nodes), -1, np.int32)]))


def with_rails(
    base: Structure, nodes: Index, feet: Array, above: float, section: Section, meeting: Meeting
) -> Structure:
    """A structure whose columns are joined by rails, one below each member that joins their heads.

    Parameters
    ----------
    base : the structure with its columns
    nodes, feet : (n,), (n, 3) where columns lead to and stand, as ``with_columns`` has them
    above : metres along columns from their feet to the rails
    section : of the rails
    meeting : how they meet the columns, which run on
    """
    foot = np.full(len(base.places), -1)
    foot[nodes] = np.arange(len(nodes))
    pairs = np.unique(np.sort(foot[base.ends], axis=1), axis=0)
    pairs = pairs[(pairs[:, 0] >= 0) & (pairs[:, 0] < pairs[:, 1])]
    if not len(pairs):
        return base
    at = feet + above * unit(base.places[nodes] - feet)
    which = np.zeros(len(pairs), np.int32)
    rails = straight_members(at[pairs], (section,), which, ("strut",), meeting)
    return replace(landed_near(base, rails, NEAR), since=base.since)
