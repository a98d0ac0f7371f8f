"""Members of a structure brought to meet at its nodes: welded, apart, or held back for bodies."""

from __future__ import annotations

from dataclasses import replace

import numpy as np
from numpy.typing import NDArray

from ..geometry.arcs import unit
from .arms import Arms, arms_of, set_backs
from .bodies import fitted_bodies
from .cuts import Cuts
from .hub_seats import seat_set_backs
from .meetings import Meeting, meeting_number
from .plate_ends import arm_set_backs
from .plated import plated
from .structure import Structure
from .welding import weld_cuts

__all__ = ["met_anew", "with_joints"]

IN_LINE = 1e-9
"""By how much the cosine between two ends may be off −1 while these lead on from each other."""


def with_joints(structure: Structure, arms: Arms, meeting: Meeting) -> Structure:
    """The structure with its members cut or held back as a ``meeting`` has it, and its bodies.

    Where members pass or but one ends there is no body, and they are held apart.
    """
    if meeting.way == "scarf":
        return _scarfed(with_joints(structure, arms, replace(meeting, way="welded")), meeting)
    nodes = len(structure.places)
    structure = replace(structure, rules=(meeting,), rule=np.zeros(nodes, np.int32))
    if meeting.way == "welded":
        way = np.full(nodes, meeting_number("welded"), np.int32)
        cuts, square = weld_cuts(structure, arms, meeting.saddles)
        return replace(structure, meeting=way).cut_by(cuts, square)
    if meeting.way == "plated":
        return plated(structure, arms)
    clear = set_backs(structure, arms, meeting.gap)
    if meeting.way in ("arms", "seats"):
        set_back, has = (
            arm_set_backs(structure, clear, meeting.sizes == "alike")
            if meeting.way == "arms"
            else seat_set_backs(structure, clear)
        )
        way = np.where(has, meeting_number(meeting.way), 0).astype(np.int32)
        return replace(structure, meeting=way, set_back=set_back)
    if not meeting.has_bodies:
        return replace(structure, set_back=clear)
    bodies = fitted_bodies(structure, arms, clear, meeting)
    return replace(
        structure,
        meeting=np.where(bodies.radius > 0, meeting_number(meeting.way), 0).astype(np.int32),
        radius=bodies.radius,
        height=bodies.height,
        set_back=bodies.set_back,
    )


def _scarfed(structure: Structure, meeting: Meeting) -> Structure:
    """Welded members, of which two that go on in one line are cut by one plane that runs over their
    height along the ``lap`` of their meeting."""
    pairs = _in_line(structure)
    if not len(pairs):
        return replace(structure, rules=(meeting,))
    away, up = (frame.reshape(-1, 3) for frame in structure.end_frames)
    first = pairs[:, 0]
    height = np.array([s.shape.height for s in structure.sections])
    slope = meeting.lap / height[structure.section_of[first // 2]]
    normal = unit(slope[:, None] * up[first] - away[first])
    scarfs = Cuts(
        end=pairs.ravel().astype(np.int32),
        normal=np.stack([normal, -normal], axis=1).reshape(-1, 3),
        level=np.zeros(pairs.size),
    )
    is_joined = np.isin(structure.cuts.end, pairs)
    way = structure.meeting.copy()
    way[structure.ends.ravel()[first]] = meeting_number("scarf")
    cuts = Cuts.together([structure.cuts.some(~is_joined), scarfs])
    made = replace(structure, rules=(meeting,), meeting=way, cuts=cuts)
    return replace(made, set_back=made.where_cut(made.cut_backs.far))


def _in_line(structure: Structure) -> NDArray[np.int64]:
    """Pairs (k, 2) of straight ends that are all there is at a node and lead on from each other
    there; a plane that runs along an arc would not stay within it."""
    node = structure.ends.ravel()
    alone = np.flatnonzero(
        (structure.valence[node] == 2)
        & (np.bincount(node, minlength=len(structure.places)) == 2)[node]
    )
    pairs = alone[np.argsort(node[alone], kind="stable")].reshape(-1, 2)
    away = structure.end_frames[0].reshape(-1, 3)
    cosine = np.einsum("ij,ij->i", away[pairs[:, 0]], away[pairs[:, 1]])
    section = structure.section_of[pairs // 2]
    straight = structure.straight_ends[pairs].all(axis=1)
    return pairs[straight & (cosine < IN_LINE - 1) & (section[:, 0] == section[:, 1])]


def met_anew(structure: Structure, touched: NDArray[np.bool_]) -> Structure:
    """A structure whose members meet anew, by the rules of their nodes, at those that are
    ``touched`` (N,)."""
    arms = arms_of(structure)
    ends = structure.ends
    set_back = structure.set_back.copy()
    own = {n: getattr(structure, n).copy() for n in ("meeting", "radius", "height")}
    is_stale = touched[ends.ravel()]
    cuts = [structure.cuts.some(~is_stale[structure.cuts.end])]
    for k in np.unique(structure.rule[touched]).tolist():
        fresh = with_joints(structure, arms, structure.rules[k])
        # What is alike everywhere changes everywhere.
        everywhere = structure.rules[k].is_alike_everywhere
        here = (touched | everywhere) & (structure.rule == k)
        at = here[ends]
        set_back[at] = fresh.set_back[at]
        for name, values in own.items():
            values[here] = getattr(fresh, name)[here]
        cuts.append(fresh.cuts.some(at.ravel()[fresh.cuts.end]))
    return replace(structure, **own, set_back=set_back, cuts=Cuts.together(cuts))
