"""The clause that checks solids against what can be lifted, laid and told apart."""

from __future__ import annotations

from collections.abc import Callable
from functools import partial

import numpy as np
from numpy.typing import NDArray

from ...core.solids.likeness import nearly_alike
from ...core.solids.solids import Solids
from ..base import (
    TO_COME,
    Clause,
    Figure,
    Made,
    Notice,
    Take,
    Work,
    counted,
    headline,
    listed,
    number,
)
from ..said import filled, mm

__all__ = ["CheckSolids"]

MOST_SHOWN = 2000


class CheckSolids(Clause):
    kind = "check-solids"
    chapter = "Prove"
    title = "Check solids"
    summary = "Solids too heavy to be lifted, too thin at an edge, or too alike to be told apart."
    sentence = (
        "**Check** that solids weigh no more than {heaviest}, are {thinnest} or more across, and "
        "that those of two types differ by {apart} or more."
    )
    takes = (Take(name="solids", types=("Solids",), label="Solids"),)
    gives = "Solids"
    keeps_numbers = True

    heaviest: float = number(500.0, "kg", 0.001, 1e7, 10.0, "Heaviest", "What can be lifted")
    thinnest: float = number(
        60.0, "mm", 0.0, 10_000.0, 5.0, "Thinnest", "The least of its sizes along itself"
    )
    apart: float = number(
        5.0, "mm", 0.0, 1000.0, 0.5, "Apart", "Types that differ by less could be mixed up"
    )

    def make(self, work: Work) -> Made:
        solids: Solids = work.inputs["solids"]
        masses, across = solids.masses, solids.sizes.min(axis=1) * 1000
        figures = {
            "solids": headline("Solids", solids.count),
            "mass": headline("Mass", float(masses.sum()), "kg", 0),
            "heaviest_solid": headline("Heaviest", float(masses.max()), "kg", 0),
            "thinnest_solid": headline("Thinnest", float(across.min()), "mm", 0),
            "alike": TO_COME,
        }
        text = (
            "heavier than {limit:g} kg, {label} the most with {worst:.0f} kg; smaller ones, or a "
            "lighter material, would work"
        )
        warnings = _told(solids, masses > self.heaviest, masses, text, self.heaviest, "heaviest")
        text = (
            "less than {limit:g} mm across, {label} the least with {worst:.0f} mm; wider ones, or "
            "openings that end at joints, would work"
        )
        warnings += _told(solids, across < self.thinnest, -across, text, self.thinnest, "thinnest")
        return Made(solids, figures, warnings, partial(self._alike, solids))

    def _alike(
        self, solids: Solids, check: Callable[[], None]
    ) -> tuple[dict[str, Figure], list[Notice]]:
        """Types that could be mixed up."""
        pairs, differ = nearly_alike(
            solids.vertices, solids.triangles, solids.offsets, solids.type_of, self.apart / 1000
        )
        types = np.unique(pairs)
        figures = {"alike": headline("Types too alike", len(types))}
        if not types.size:
            return figures, []
        first = np.searchsorted(np.sort(solids.type_of), types)
        rows = np.argsort(solids.type_of, kind="stable")[first]
        names = np.array(solids.type_labels())[rows]
        one, other = (names[np.searchsorted(types, t)] for t in pairs[int(np.argmin(differ))])
        least = float(differ.min()) * 1000
        which = np.flatnonzero(np.isin(solids.type_of, types))[:MOST_SHOWN]
        x, y, z = solids.middles[which[0]].tolist()
        text = (
            f"{counted(len(types), 'type', 'types')} ({listed(names)}) differ by less than "
            f"{mm(self.apart)} from another, {one} and {other} by {mm(least, '.1f')}; a larger "
            "tolerance of types would make them one, other numbers would make them differ more."
        )
        return figures, [Notice(text, "solid", tuple(which.tolist()), (x, y, z), "apart")]


def _told(
    solids: Solids,
    wrong: NDArray[np.bool_],
    badness: NDArray[np.float64],
    text: str,
    limit: float,
    value: str,
) -> list[Notice]:
    """What is told of solids that are ``wrong`` (B,), the worst of which has most ``badness``.

    Parameters
    ----------
    solids : all of them
    wrong : (B,) those meant
    badness : (B,) by which the worst is found
    text : with places for the limit, the worst one's label and what it has
    limit : what it is held to
    value : of the clause
    """
    rows = np.flatnonzero(wrong)
    if not rows.size:
        return []
    worst = int(rows[np.argmax(badness[rows])])
    x, y, z = solids.middles[worst].tolist()
    facts = {"limit": limit, "label": solids.labels[worst], "worst": abs(float(badness[worst]))}
    count = f"{len(rows):,} {'solids are' if len(rows) > 1 else 'solid is'} "
    return [
        Notice(
            count + filled(text, facts) + ".",
            "solid",
            tuple(rows[:MOST_SHOWN].tolist()),
            (x, y, z),
            value,
        )
    ]
