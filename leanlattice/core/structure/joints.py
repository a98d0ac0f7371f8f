"""Members of a structure brought to meet at its nodes: welded, apart, or held back for bodies."""

from __future__ import annotations

from dataclasses import replace

import numpy as np

from .arms import Arms, set_backs
from .bodies import fitted_bodies
from .meetings import Meeting, meeting_number
from .structure import Structure
from .welding import weld_cuts

__all__ = ["with_joints"]


def with_joints(structure: Structure, arms: Arms, meeting: Meeting) -> Structure:
    """The structure with its members cut or held back as a ``meeting`` has it, and its bodies.

    Where members pass or but one ends there is no body, and they are held apart.
    """
    nodes = len(structure.places)
    structure = replace(structure, rules=(meeting,), rule=np.zeros(nodes, np.int32))
    if meeting.way == "welded":
        way = np.full(nodes, meeting_number("welded"), np.int32)
        cuts, square = weld_cuts(structure, arms)
        cut = replace(structure, meeting=way, cuts=cuts, set_back=square)
        made = replace(cut, set_back=cut.where_cut(cut.cut_backs.far))
        # Worked out once: it does not depend on the set-backs.
        vars(made)["cut_backs"] = cut.cut_backs
        return made
    clear = set_backs(structure, arms, meeting.gap)
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
