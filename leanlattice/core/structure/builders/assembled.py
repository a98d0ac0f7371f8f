"""A structure put together of what a builder knows: places, members along paths, and their sections."""

from __future__ import annotations

from collections.abc import Sequence

import numpy as np
from numpy.typing import NDArray

from ...geometry.arcs import without_slight
from ...sections import Section
from ..structure import Structure

__all__ = ["assembled", "used_sections"]

Array = NDArray[np.float64]
Index = NDArray[np.int32]


def assembled(
    places: Array,
    normals: Array,
    path: Index,
    offsets: Index,
    up: Array,
    wanted: Sequence[Section],
    which: Index,
    role: Index,
    station: Array,
    member_station: Array,
    offset: Array | None = None,
    group: Index | None = None,
    source: str | None = None,
    on_source: int | None = None,
    bulge: Array | None = None,
) -> Structure:
    """A structure of one stage; nothing is set back.

    Parameters
    ----------
    places, normals : (N, 3) in metres, and unit directions outward
    path, offsets : (P,), (M + 1,) nodes that members run through, one member after the other
    up : (S, 3) unit directions of heights, for each segment
    wanted, which : sections, and the place of each member's (M,) among them
    role : (M,) of each member, its place in ``ROLES``
    station, member_station : (N, 2), (M, 2) metres along and across
    offset : (P, 3) from nodes to axes, in metres; on them where it is not given
    group : (M,) a number within the stage
    source : key of the result whose vertices the nodes are, in their order
    on_source : how many of the first nodes are its, all of them where it is not given
    bulge : (S, 3) of segments; members run straight on from node to node where it is not given
    """
    nodes, members = len(places), len(role)
    sections, section_of = used_sections(tuple(wanted), which)
    known = 0 if source is None else nodes if on_source is None else on_source
    return Structure(
        places=places,
        normals=normals,
        station=station,
        member_station=member_station,
        stage=np.zeros(nodes, np.int32),
        origin=_origins(nodes, known),
        foot=np.zeros(nodes, bool),
        rule=np.zeros(nodes, np.int32),
        meeting=np.zeros(nodes, np.int32),
        radius=np.zeros(nodes),
        height=np.zeros(nodes),
        path=path,
        offsets=offsets,
        offset=np.zeros((len(path), 3)) if offset is None else offset,
        scale=np.ones(len(path)),
        waist=np.zeros(len(up)),
        up=up,
        bulge=np.zeros_like(up) if bulge is None else without_slight(bulge),
        sections=sections,
        section_of=section_of,
        role=role,
        member_stage=np.zeros(members, np.int32),
        group=np.zeros(members, np.int32) if group is None else group,
        set_back=np.zeros((members, 2)),
        copy_of=np.arange(members, dtype=np.int32),
        mirrored=np.zeros(members, bool),
        sources=() if source is None else (source,),
    )


def _origins(nodes: int, known: int) -> Index:
    """Where nodes (N, 2) stand: the first that are ``known`` on the first source, in its order."""
    number = np.arange(nodes, dtype=np.int32)
    stands = number < known
    return np.column_stack([np.where(stands, 0, -1), np.where(stands, number, -1)]).astype(np.int32)


def used_sections(wanted: tuple[Section, ...], which: Index) -> tuple[tuple[Section, ...], Index]:
    """The different sections that are used, and the one (M,) of each member, of those ``wanted`` by
    their places (M,)."""
    different = tuple(dict.fromkeys(wanted))
    section_of = np.array([different.index(s) for s in wanted], np.int32)[which]
    used = np.unique(section_of)
    return tuple(different[k] for k in used), np.searchsorted(used, section_of).astype(np.int32)
