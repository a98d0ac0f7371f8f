"""A structure along the edges of a net."""

from __future__ import annotations

from dataclasses import replace

import numpy as np
from numpy.typing import NDArray

from ...geometry.nets import Net
from ...nets.stations import run_stations, vertex_stations
from ...sections import Section
from ..arms import arms_of, set_backs
from ..roles import role_number
from ..structure import Structure
from .heights import SET_OUT, members_up

__all__ = ["from_net"]

Array = NDArray[np.float64]


def from_net(
    net: Net,
    inner: Section,
    border: Section,
    set_out: str,
    roll: float,
    gap: float,
    marked: tuple[Section, ...] = (),
    source: str = "",
) -> Structure:
    """A member along every edge of a ``net``, in the order of its edges.

    Parameters
    ----------
    net : its vertices become the nodes, in their order
    inner, border : the sections of members along inner edges and along the border
    set_out : the line of the section that lies on the net, an entry of ``SET_OUT``
    roll : turn of the section's height about the axis from the faces beside it, in radians
    gap : what stays free between members that meet, in metres
    marked : sections of edges that are marked, by their marks from 1 on
    source : key of the net
    """
    count, nodes = len(net.edges), len(net.vertices)
    wanted = (inner, border, *marked)
    which = net.border.astype(np.int32)
    if net.marks is not None and marked:
        which = np.where(net.marks > 0, np.minimum(net.marks, len(marked)) + 1, which)
    sections, section_of = used_sections(wanted, which)
    offsets = np.arange(0, 2 * count + 1, 2, dtype=np.int32)
    up = members_up(net, roll)
    heights = np.array([s.shape.height for s in sections])[section_of]
    lift = SET_OUT[set_out] * heights
    structure = Structure(
        places=net.vertices,
        normals=net.normals,
        station=vertex_stations(net),
        member_station=run_stations(net, net.edges.ravel(), offsets),
        stage=np.zeros(nodes, np.int32),
        origin=np.column_stack([np.zeros(nodes), np.arange(nodes)]).astype(np.int32),
        foot=np.zeros(nodes, bool),
        path=net.edges.ravel(),
        offsets=offsets,
        offset=np.repeat(lift[:, None] * up, 2, axis=0),
        scale=np.ones(2 * count),
        up=up,
        bulge=np.zeros((count, 3)),
        sections=sections,
        section_of=section_of,
        role=np.where(net.border, role_number("edge"), role_number("grid")).astype(np.int32),
        member_stage=np.zeros(count, np.int32),
        group=np.zeros(count, np.int32),
        set_back=np.zeros((count, 2)),
        copy_of=np.arange(count, dtype=np.int32),
        mirrored=np.zeros(count, bool),
        sources=(source,),
    )
    # All that meets at a vertex of the net is one joint, however far it is rolled or set out.
    arms = arms_of(structure, joined=True)
    return replace(structure, set_back=set_backs(structure, arms, gap))


def used_sections(
    wanted: tuple[Section, ...], which: NDArray[np.int32]
) -> tuple[tuple[Section, ...], NDArray[np.int32]]:
    """The different sections that are used, and the one (M,) of each member, of those ``wanted`` by
    their places (M,)."""
    different = tuple(dict.fromkeys(wanted))
    section_of = np.array([different.index(s) for s in wanted], np.int32)[which]
    used = np.unique(section_of)
    return tuple(different[k] for k in used), np.searchsorted(used, section_of).astype(np.int32)
