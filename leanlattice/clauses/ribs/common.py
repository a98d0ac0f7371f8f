"""What rib clauses share: families of planes, what is said of cuts, and the proof."""

from __future__ import annotations

from collections.abc import Callable
from dataclasses import dataclass, replace
from typing import Any, ClassVar, Literal

import numpy as np
from numpy.typing import NDArray

from ...core.flat.together import put_together
from ...core.geometry.meshes import Body
from ...core.materials import MATERIALS
from ...core.ribs.parts import Ribs
from ...core.ribs.planes import Planes
from ...core.ribs.plates import Cut, cut_ribs
from ...core.ribs.spines import Bends
from ...core.shaping.faces import stands_for_curves
from ...core.shaping.solids import SolidError
from ..base import (
    Clause,
    ClauseError,
    Figure,
    Made,
    Notice,
    Take,
    Work,
    choice,
    headline,
    listed,
    number,
)
from ..by_size import THICKNESSES
from ..catalogue import SHEET_WORDS
from ..lattice.common import place_of
from ..said import mm

__all__ = [
    "CURVES",
    "MOST_RIBS",
    "UP",
    "Family",
    "RibClause",
    "counted",
    "extent_along",
    "in_plan",
    "length_of",
    "proof",
    "rib_figures",
    "thickness_value",
]

Array = NDArray[np.float64]
UP = np.array([0.0, 0.0, 1.0])
CURVES = Take(name="curves", types=("Curves",), label="Curves")
MOST_RIBS = 600
OVERLAP_MM3, GAP_MM, AWAY_MM = 1.0, 0.1, 1.0
"""What counts as put together without a flaw."""


def thickness_value(label: str) -> float:
    hint = "As measured, not as ordered"
    return number(18.0, "mm", 0.2, 1000.0, 0.1, label, hint, by_size=THICKNESSES)


@dataclass(frozen=True)
class Family:
    """A family of planes, or of surfaces that ribs are bent to, with its name, thickness (m) and
    the value that says how many there are."""

    planes: Planes | Bends
    series: str
    thickness: float
    value: str


class RibClause(Clause):
    """Base of clauses that cut ribs."""

    chapter = "Frame"
    gives = "Ribs"
    whole: ClassVar[bool] = True
    """Whether all outer edges of ribs are to lie on the body."""

    material: str = choice("plywood", SHEET_WORDS, "Material")
    least: float = number(20.0, "cm²", 0.0, 100000.0, 1.0, "Least piece")
    neck: float = number(30.0, "mm", 0.0, 5000.0, 1.0, "Least neck")
    series: Literal["", "P", "Q", "R", "T"] = choice(
        "",
        {"": "by set"} | {s: f"in series {s}" for s in "PQRT"},
        "Labels",
        "A letter before all labels, for more ribs in the same statement",
    )

    def cut(self, body: Body, family: Family, work: Work) -> Cut:
        if len(family.planes) > MOST_RIBS:
            raise ClauseError(
                f"That would be {len(family.planes)} planes; at most {MOST_RIBS} can be worked with.",
                family.value,
            )
        try:
            return cut_ribs(
                body,
                family.planes,
                self.series + family.series,
                family.thickness,
                self.least * 1e-4,
                self.neck * 1e-3,
                lambda: work.progress(0.1),
            )
        except SolidError as error:
            raise ClauseError(str(error)) from None

    def told(self, cut: Cut, value: str) -> list[Notice]:
        out = []
        if cut.missed:
            names = listed(cut.missed)
            out.append(
                Notice(
                    f"{counted(len(cut.missed), 'plane misses', 'planes miss')} the body: number {names}.",
                    value=value,
                )
            )
        if cut.left_out:
            names = listed(label for label, _ in cut.left_out)
            which = counted(len(cut.left_out), "piece is", "pieces are")
            out.append(
                Notice(
                    f"{which} smaller than {self.least:g} cm² and left out: {names}.",
                    at=place_of(cut.left_out[0][1]),
                    value="least",
                )
            )
        if cut.necks:
            names = listed(label for label, _ in cut.necks)
            which = counted(len(cut.necks), "rib has a neck", "ribs have necks")
            out.append(
                Notice(
                    f"{which} thinner than {mm(self.neck)}: {names}.",
                    at=place_of(cut.necks[0][1]),
                    value="neck",
                )
            )
        return out

    def made(
        self,
        ribs: Ribs,
        body: Body,
        warnings: list[Notice],
        aids: dict[str, Array] | None = None,
        more: dict[str, Figure] | None = None,
    ) -> Made:
        """What a clause made: ``ribs`` cut from a ``body``, with their figures and ``more`` of
        them, ``warnings``, and ``aids`` on which handles hang; the proof follows."""
        if not ribs.ribs:
            raise ClauseError(
                f"No rib is left: all planes miss the body, or what they cut is smaller than {self.least:g} cm² or cut away. "
                "More planes, or a smaller least piece, may leave some.",
                "least",
            )
        known = replace(
            ribs,
            body=body if self.whole else None,
            clearance=float(getattr(self, "clearance", 0.0)),
        )
        figures = rib_figures(known) | (more or {})
        return Made(known, figures, warnings, lambda check: proof(known, check), aids or {})


def rib_figures(ribs: Ribs) -> dict[str, Figure]:
    """How many ribs there are, and how much of them."""
    volume = sum(r.shape.area * r.thickness for r in ribs.ribs)
    longest = max((length_of(r.shape) for r in ribs.ribs), default=0.0)
    return {
        "ribs": headline("Ribs", len(ribs.ribs)),
        "crossings": headline("Crossings", len(ribs.crossings)),
        "rib_area": headline("Area of ribs", sum(r.shape.area for r in ribs.ribs), "m²", 2),
        "rib_mass": headline("Mass", volume * MATERIALS[ribs.material].density, "kg", 1),
        "longest_rib": headline("Longest rib", longest, "m", 2),
    }


def proof(ribs: Ribs, check: Callable[[], None]) -> tuple[dict[str, Figure], list[Notice]]:
    """The parts put together again as solids."""
    parts = ribs.parts.parts
    press = max(-ribs.clearance, 0.0)
    try:
        found = put_together(
            parts, ribs.meeting, ribs.body, ribs.off_body(), lambda share: check(), press
        )
    except SolidError as error:
        return {}, [
            Notice(
                f"The ribs cannot be put together again: {error}. Other thicknesses or numbers "
                "may work.",
                amendable=True,
            )
        ]
    figures = {
        "overlap": headline("Overlap put together", found.overlap, "mm³", 3),
        "gap": headline(
            "Largest gap at a slot or joint" if ribs.splices else "Largest gap at a slot",
            found.gap,
            "mm",
            3,
        ),
    }
    if ribs.body is not None:
        against = "the body's triangles" if stands_for_curves(ribs.body) else "the body"
        figures["away"] = headline(f"Edges off {against}", found.away, "mm", 3)
    out = []
    if found.overlap > OVERLAP_MM3:
        out.append(
            Notice(
                f"Put together again, {' and '.join(found.overlapping)} overlap by {found.overlap:.0f} mm³.",
                amendable=True,
            )
        )
    # A plate in the middle of its slot keeps half the clearance to both sides.
    if found.gap > GAP_MM + max(ribs.clearance / 2, ribs.gap, 0.0):
        out.append(
            Notice(
                f"Put together again, {' and '.join(found.apart)} stay {mm(found.gap, '.2f')} "
                "apart "
                "where they are to meet.",
                amendable=True,
            )
        )
    if found.away > AWAY_MM:
        out.append(
            Notice(
                f"Put together again, an edge of {found.furthest} lies {mm(found.away, '.1f')} off "
                "the body.",
                amendable=True,
            )
        )
    return figures, out


def length_of(shape: Any) -> float:
    low_x, low_y, high_x, high_y = shape.bounds if not shape.is_empty else (0.0, 0.0, 0.0, 0.0)
    return float(max(high_x - low_x, high_y - low_y))


def counted(n: int, one: str, many: str) -> str:
    return f"{n} {one if n == 1 else many}"


def extent_along(body: Body, normal: Array) -> tuple[float, float]:
    h = body.mesh.vertices @ normal
    return float(h.min()), float(h.max())


def in_plan(angle: float) -> Array:
    """Normal of upright planes that run at an angle (°) in plan."""
    a = np.radians(angle)
    return np.array([np.sin(a), -np.cos(a), 0.0])
