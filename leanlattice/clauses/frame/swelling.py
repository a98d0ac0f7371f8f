"""Tubes that swell: round members that are thicker at their nodes, or near pulls."""

from __future__ import annotations

from typing import Literal

import numpy as np
from numpy.typing import NDArray

from ...core.structure.changed import swollen
from ...core.structure.structure import Structure
from ...core.structure.swelling import scales_at
from ..base import ClauseError, Figure, Made, Notice, Work, choice, number
from ..said import mm
from ..shape.common import PULLS, share_of_pulls
from .chosen import CHOSEN, ChosenClause
from .common import STRUCTURE

__all__ = ["SwellMembers"]

Array = NDArray[np.float64]
Mask = NDArray[np.bool_]
NET_BESIDE = ChosenClause.takes[1]
THIN_WALL = 0.002
"""Metres of wall below which a tube that was made thinner is told."""


class SwellMembers(ChosenClause):
    kind = "swell-members"
    title = "Swell members"
    summary = "Round members that grow to their nodes, and more near pulls."
    sentence = (
        "**Swell** " + CHOSEN + " to {at_nodes} times their size at nodes and {between} times "
        "between them, {growth}[growth=pull| up to {most} times as much at them]."
    )
    takes = (STRUCTURE, NET_BESIDE, PULLS)
    keeps_numbers = True

    at_nodes: float = number(1.5, "", 0.1, 10.0, 0.05, "At nodes", "Times the section's size")
    between: float = number(
        0.8, "", 0.1, 10.0, 0.05, "Between nodes", "Times the section's size, in the middle"
    )
    growth: Literal["even", "pull"] = choice(
        "even", {"even": "alike everywhere", "pull": "more near pulls,"}, "Growth"
    )
    most: float = number(1.6, "", 0.1, 10.0, 0.05, "At pulls", "Times what it is out of reach")

    def make(self, work: Work) -> Made:
        base: Structure = work.inputs["structure"]
        meant = self.members(work)
        is_round = np.array([s.shape.round for s in base.sections])[base.section_of]
        if not (meant & is_round).any():
            raise ClauseError(
                "None of the members that are meant is round; give them a round section, such as "
                "CHS 88.9 × 4, or mean others.",
                "which",
            )
        first = base.first_entry
        middles = (base.axis_places[first] + base.axis_places[first + 1]) / 2 + base.bulge
        at_nodes = self.at_nodes * self._grown(work, base.axis_places)
        between = self.between * self._grown(work, middles)
        made = swollen(base, meant & is_round, at_nodes, between)
        warnings = _left_even(base, meant & ~is_round) + _thin_walls(made, meant & is_round)
        out = self.made(work, made, warnings, meant & is_round)
        gain = float(made.masses.sum() - base.masses.sum())
        out.figures.update(_thicknesses(made, meant & is_round))
        out.figures["gain"] = Figure("Change of mass", gain, "kg", 0)
        return out

    def _grown(self, work: Work, places: Array) -> Array:
        """By what sizes at ``places`` (n, 3) are multiplied (n,) for the pulls."""
        if self.growth == "even":
            return np.ones(len(places))
        far = share_of_pulls(work, places, "growth", "let the members swell alike everywhere")
        return np.asarray(self.most + far * (1 - self.most))


def _left_even(base: Structure, others: Mask) -> list[Notice]:
    """What is told of members that are meant and not round."""
    rows = np.flatnonzero(others)
    if not rows.size:
        return []
    names = sorted({base.sections[k].name for k in base.section_of[rows].tolist()})
    text = f"{rows.size} members in {' and '.join(names[:4])} are not round and stay as they are."
    return [Notice(text, "member", tuple(map(int, rows[:2000])), value="which")]


def _scales(structure: Structure, chosen: Mask) -> tuple[NDArray[np.int64], Array]:
    """Segments (k,) of those ``chosen`` and the scale of the section at their start, quarters and
    end (k, 5)."""
    segments = np.flatnonzero(chosen[structure.member_of_segment])
    first = structure.first_entry[segments]
    own = structure.scale[first], structure.scale[first + 1], structure.waist[segments]
    shares = [np.full(len(segments), share) for share in np.linspace(0, 1, 5)]
    return segments, np.column_stack([scales_at(*own, share) for share in shares])


def _thicknesses(structure: Structure, chosen: Mask) -> dict[str, Figure]:
    """Diameters of what swells."""
    segments, scale = _scales(structure, chosen)
    member = structure.member_of_segment[segments]
    height = np.array([s.shape.height for s in structure.sections])[structure.section_of[member]]
    thick = scale * height[:, None] * 1000
    return {
        "thickest": Figure("Largest diameter", float(thick.max()), "mm", 1),
        "thinnest": Figure("Smallest diameter", float(thick.min()), "mm", 1),
    }


def _thin_walls(structure: Structure, chosen: Mask) -> list[Notice]:
    """What is told of tubes whose walls, which shrink with them, are too thin to be welded."""
    segments, scale = _scales(structure, chosen)
    member = structure.member_of_segment[segments]
    walls = np.array([s.shape.wall or np.inf for s in structure.sections])
    wall = walls[structure.section_of[member]] * scale.min(axis=1)
    thin = np.unique(member[wall < THIN_WALL - 1e-9])
    if not thin.size:
        return []
    least = float(wall.min()) * 1000
    text = (
        f"{thin.size} members have a wall of {mm(least, '.1f')} at their thinnest, which shrinks "
        "with "
        f"their size; a section with a thicker wall, or more than {scale.min():.2f} times its "
        "size, would work."
    )
    return [Notice(text, "member", tuple(map(int, thin[:2000])), value="between")]
