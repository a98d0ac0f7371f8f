"""What a settling net works towards."""

from __future__ import annotations

from typing import Literal

from ...core.settling.aims import EDGE_AIMS, Aim
from ..base import ClauseError, Made, Work, choice, count, number
from ..said import metres
from .holds import SettleClause

__all__ = ["AimFor"]

_PLAIN = ("density", "force", "film")
"""Aims that are forces themselves and need no strength."""
OVER, STRONG = ", over {over}", ", with a strength of {strength}"


class AimFor(SettleClause):
    kind = "aim"
    title = "Aim for"
    summary = "Force densities, edge forces, lengths, flat cells, fair strands, equal areas, a film, right angles, closeness."
    sentence = (
        "**Aim** for {aim}"
        + "".join(
            f"[aim={aim}|{own}{OVER if aim in EDGE_AIMS else ''}{STRONG if aim not in _PLAIN else ''}]"
            for aim, own in {
                "density": " of {density}",
                "force": " of {force}",
                "length": " of {length}",
                "today": " times {share}",
                "equal": "",
                "few": " of {kinds}",
                "merged": " within {tolerance}",
                "between": " {least} and {most}",
                "flat": "",
                "fair": "",
                "areas": "",
                "film": " of {tension}",
                "close": "",
                "skin": "",
                "right": "",
            }.items()
        )
        + "."
    )
    gives = "Aim"

    aim: Literal[
        "density",
        "force",
        "length",
        "today",
        "equal",
        "few",
        "merged",
        "between",
        "flat",
        "fair",
        "areas",
        "film",
        "close",
        "skin",
        "right",
    ] = choice(
        "density",
        {
            "density": "a force density",
            "force": "an edge force",
            "length": "a length",
            "today": "lengths as they are",
            "equal": "equal lengths",
            "few": "lengths",
            "merged": "lengths alike",
            "between": "lengths between",
            "flat": "flat cells",
            "fair": "fair strands",
            "areas": "equal cell areas",
            "film": "the smallest area, as a film",
            "close": "staying where it is",
            "skin": "staying close to its shape",
            "right": "right angles",
        },
        "Aim",
    )
    density: float = number(
        2.0, "kN/m", -1e6, 1e6, 0.1, "Force density", "Force over length; below 0 in compression."
    )
    force: float = number(5.0, "kN", -1e6, 1e6, 0.5, "Edge force")
    length: float = number(1.0, "m", 0.001, 1000.0, 0.05, "Length")
    share: float = number(100.0, "%", 1.0, 1000.0, 1.0, "Share", "Of the lengths before")
    least: float = number(0.5, "m", 0.0, 1000.0, 0.05, "Least length")
    most: float = number(2.0, "m", 0.001, 1000.0, 0.05, "Most length")
    kinds: int = count(12, 1, 1000, "Kinds of lengths", words=("kind at most", "kinds at most"))
    tolerance: float = number(
        10.0, "mm", 0.01, 10_000.0, 1.0, "Tolerance", "Lengths that differ by less become one"
    )
    tension: float = number(1.0, "kN/m", 0.001, 1e6, 0.1, "Film tension")
    over: Literal["all", "inner", "border", "outer", "holes", "main", "second", "third"] = choice(
        "all",
        {
            "all": "all edges",
            "inner": "inner edges",
            "border": "the borders",
            "outer": "the outer border",
            "holes": "the borders within",
            "main": "edges marked main",
            "second": "edges marked second",
            "third": "edges marked third",
        },
        "Over",
    )
    strength: float = number(
        100.0,
        "kN/m",
        1e-6,
        1e9,
        10.0,
        "Strength",
        "Force for a metre off.",
    )

    def make(self, work: Work) -> Made:
        if self.aim == "between" and self.least > self.most:
            raise ClauseError(
                f"Between {metres(self.least)} and {metres(self.most)} lies no length; exchange "
                "the two.",
                "least",
            )
        return Made(
            Aim(
                aim=self.aim,
                over=self.over,
                strength=self.strength,
                density=self.density,
                force=self.force,
                tension=self.tension,
                length=self.length,
                least=self.least,
                most=self.most,
                share=self.share / 100,
                kinds=self.kinds,
                tolerance=self.tolerance / 1000,
            )
        )
