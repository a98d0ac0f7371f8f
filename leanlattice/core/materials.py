"""Materials: the one table of what things are made of."""

from __future__ import annotations

from collections.abc import Mapping
from dataclasses import dataclass, field

__all__ = ["FILMS", "FINISHES", "MASSES", "MATERIALS", "SHEETS", "STEELS", "TIMBERS", "Material"]

GPA, MPA = 1e9, 1e6
FINISHES = {
    "steel": "metal",
    "aluminium": "metal",
    "timber": "timber",
    "board": "timber",
    "concrete": "stone",
    "stone": "stone",
    "glass": "glass",
    "plastic": "glass",
    "film": "glass",
    "fabric": "cloth",
    "paper": "matt",
}
"""How surfaces of materials take light, by family."""


@dataclass(frozen=True)
class Material:
    """What something is made of, by mean values in SI units.

    ``stiffness`` and ``shear_stiffness`` (Pa) are moduli, along the grain or the outer plies where
    there is one; ``density`` in kg/m³ and ``expansion`` in 1/K. ``strengths`` (Pa) are
    characteristic ones by what they withstand: ``yield`` and ``ultimate``, or ``bending``,
    ``tension``, ``compression`` and ``shear``; what no standard fixes for the material as such is
    left out. ``safety`` is the partial factor that goes with them. ``look`` is its colour;
    ``clear`` tells whether one sees through it.
    """

    name: str
    title: str
    family: str
    density: float
    stiffness: float
    shear_stiffness: float
    expansion: float
    strengths: Mapping[str, float] = field(default_factory=dict, hash=False)
    safety: float = 1.0
    look: tuple[int, int, int] = (150, 150, 150)
    clear: bool = False

    @property
    def finish(self) -> str:
        """How its surface takes light, as one word of ``FINISHES``."""
        return FINISHES[self.family]


def _steel(name: str, yields: float, ultimate: float) -> Material:
    """A structural steel up to 40 mm thick: EN 1993-1-1, table 3.1 and clauses 3.2.6 and 6.1;
    density EN 1991-1-1, table A.4."""
    strengths = {"yield": yields * MPA, "ultimate": ultimate * MPA}
    moduli = (210 * GPA, 81 * GPA)
    look = (46, 58, 110)
    return Material(name, f"steel {name}", "steel", 7850.0, *moduli, 12e-6, strengths, 1.0, look)


def _timber(
    name: str,
    density: float,
    stiffness: float,
    shear_stiffness: float,
    strengths: tuple[float, float, float, float],
    safety: float,
) -> Material:
    """Timber of a strength class ``name``: mean ``density`` (kg/m³), ``stiffness`` along the grain
    and ``shear_stiffness`` (MPa), characteristic ``strengths`` in bending, tension, compression and
    shear (MPa), and ``safety`` after EN 1995-1-1, table 2.3."""
    named = dict(zip(("bending", "tension", "compression", "shear"), strengths, strict=True))
    return Material(
        name,
        f"timber {name}",
        "timber",
        density,
        stiffness * MPA,
        shear_stiffness * MPA,
        5e-6,
        {what: value * MPA for what, value in named.items()},
        safety,
        (178, 146, 92),
    )


STEELS = ("S355", "S235", "S275", "S460")
"""Grades of steel members; the first is meant where none is named."""
TIMBERS = ("GL24h", "GL28h", "GL30h", "GL32h", "C24", "C30")
"""Classes of timber members, likewise."""
MASSES = ("concrete", "limestone")
"""What bodies are cast or cut from, besides."""
SHEETS = ("glass", "plywood", "aluminium", "steel", "polycarbonate", "card")
"""What panels and ribs are made of."""
FILMS = ("ETFE", "PVC")
"""What membranes are made of."""

# Glued timber after EN 14080, table 5; solid timber after EN 338, table 1. Glass after EN 572-1.
# Sheet densities after EN 1991-1-1, annex A, plywood's after EN 12369-2 (birch). Moduli of plywood
# are those along the outer plies of birch; aluminium after EN 1999-1-1, clause 3.2.5.
_EVERY = (
    _steel("S235", 235, 360),
    _steel("S275", 275, 430),
    _steel("S355", 355, 490),
    _steel("S460", 460, 540),
    _timber("GL24h", 420, 11_500, 650, (24, 19.2, 24, 3.5), 1.25),
    _timber("GL28h", 460, 12_600, 650, (28, 22.3, 28, 3.5), 1.25),
    _timber("GL30h", 480, 13_600, 650, (30, 24, 30, 3.5), 1.25),
    _timber("GL32h", 490, 14_200, 650, (32, 25.6, 32, 3.5), 1.25),
    _timber("C24", 420, 11_000, 690, (24, 14.5, 21, 4.0), 1.3),
    _timber("C30", 460, 12_000, 750, (30, 19, 24, 4.0), 1.3),
    # Reinforced concrete C30/37: EN 1992-1-1, table 3.1, clause 2.4.2.4; EN 1991-1-1, table A.1.
    Material(
        "concrete", "concrete", "concrete", 2500.0, 33 * GPA, 13.75 * GPA, 10e-6,
        {"compression": 30 * MPA}, 1.5, (196, 194, 188),
    ),
    # Dense limestone: EN 1991-1-1, table A.2; the modulus is what is usual for it.
    Material(
        "limestone", "limestone", "stone", 2600.0, 50 * GPA, 20 * GPA, 5e-6, look=(214, 206, 184)
    ),
    Material(
        "glass", "glass", "glass", 2500.0, 70 * GPA, 28.5 * GPA, 9e-6, {"bending": 45 * MPA}, 1.8,
        (168, 196, 206), clear=True,
    ),
    Material(
        "plywood", "plywood", "board", 680.0, 9 * GPA, 0.6 * GPA, 5e-6, look=(214, 186, 140)
    ),
    Material(
        "aluminium", "aluminium sheet", "aluminium", 2700.0, 70 * GPA, 27 * GPA, 23e-6,
        look=(186, 190, 196),
    ),
    Material(
        "steel", "steel sheet", "steel", 7850.0, 210 * GPA, 81 * GPA, 12e-6, look=(120, 128, 150)
    ),
    Material(
        "polycarbonate", "polycarbonate", "plastic", 1200.0, 2.3 * GPA, 0.85 * GPA, 65e-6,
        look=(196, 210, 214), clear=True,
    ),
    Material("card", "card", "paper", 750.0, 3 * GPA, 1 * GPA, 10e-6, look=(226, 214, 190)),
    # Films of fluoropolymer: what is usual for them at room temperature and small strains.
    Material(
        "ETFE", "ETFE film", "film", 1750.0, 0.9 * GPA, 0.32 * GPA, 120e-6,
        look=(190, 208, 222), clear=True,
    ),
    Material(
        "PVC", "coated polyester fabric", "fabric", 1250.0, 0.7 * GPA, 0.01 * GPA, 50e-6,
        look=(236, 234, 226),
    ),
)  # fmt: skip
MATERIALS: dict[str, Material] = {m.name: m for m in _EVERY}
"""By the name that stands in sentences and schedules."""
