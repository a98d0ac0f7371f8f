"""Sections: a catalogue of European steel hollow sections, and solid rectangular timber of any
size."""

from __future__ import annotations

import difflib
import re
from dataclasses import dataclass
from functools import cache

import numpy as np
from numpy.typing import NDArray

__all__ = ["Section", "UnknownSection", "catalogue", "find", "outline"]

STEEL_DENSITY = 7850.0
"""kg/m³ (EN 1991-1-1, table A.4)."""
TIMBER_DENSITY = 420.0
"""kg/m³, mean of glued laminated timber GL24h (EN 14080, table 5)."""


@dataclass(frozen=True)
class Section:
    """A prismatic section. Lengths in metres, area in m², inertias in m⁴, mass in kg/m.

    ``height`` lies along the local z (the roll direction), ``width`` along the local y. ``wall`` is
    0 for solid ones.
    """

    name: str
    kind: str
    height: float
    width: float
    wall: float
    area: float
    inertia_y: float
    inertia_z: float
    torsion: float
    mass: float
    material: str
    corner: float = 1.5
    """Outer corner radius in walls, where there are corners."""

    @property
    def round(self) -> bool:
        return self.kind == "CHS"


class UnknownSection(KeyError):
    """A name that is neither in the catalogue nor a timber size; ``nearest`` lists names that come
    close."""

    def __init__(self, name: str, nearest: list[str]) -> None:
        super().__init__(name)
        self.name, self.nearest = name, nearest


# Sizes in mm, after EN 10210-2: what is commonly rolled.
CHS = {
    21.3: (2.6, 3.2), 26.9: (2.6, 3.2), 33.7: (2.6, 3.2, 4), 42.4: (2.6, 3.2, 4), 48.3: (2.6, 3.2, 4, 5),
    60.3: (2.6, 3.2, 4, 5), 76.1: (2.6, 3.2, 4, 5), 88.9: (3.2, 4, 5, 6.3), 101.6: (3.2, 4, 5, 6.3),
    114.3: (3.2, 4, 5, 6.3), 139.7: (4, 5, 6.3, 8, 10), 168.3: (4, 5, 6.3, 8, 10), 177.8: (5, 6.3, 8, 10),
    193.7: (5, 6.3, 8, 10), 219.1: (5, 6.3, 8, 10, 12.5), 244.5: (5, 6.3, 8, 10, 12.5),
    273: (5, 6.3, 8, 10, 12.5), 323.9: (5, 6.3, 8, 10, 12.5), 355.6: (6.3, 8, 10, 12.5), 406.4: (6.3, 8, 10, 12.5),
}  # fmt: skip
SHS = {
    40: (2.6, 3.2, 4), 50: (2.6, 3.2, 4, 5), 60: (2.6, 3.2, 4, 5), 70: (3.2, 4, 5), 80: (3.2, 4, 5, 6.3),
    90: (4, 5, 6.3), 100: (4, 5, 6.3, 8), 120: (5, 6.3, 8, 10), 140: (5, 6.3, 8, 10), 150: (5, 6.3, 8, 10),
    160: (5, 6.3, 8, 10), 180: (6.3, 8, 10), 200: (5, 6.3, 8, 10, 12.5), 250: (6.3, 8, 10, 12.5),
    300: (6.3, 8, 10, 12.5),
}  # fmt: skip
RHS = {
    (50, 30): (2.6, 3.2, 4), (60, 40): (2.6, 3.2, 4, 5), (80, 40): (3.2, 4, 5, 6.3), (90, 50): (3.2, 4, 5, 6.3),
    (100, 50): (3.2, 4, 5, 6.3), (100, 60): (3.2, 4, 5, 6.3), (120, 60): (4, 5, 6.3, 8), (120, 80): (4, 5, 6.3, 8),
    (140, 80): (4, 5, 6.3, 8), (150, 100): (4, 5, 6.3, 8), (160, 80): (4, 5, 6.3, 8), (180, 100): (4, 5, 6.3, 8),
    (200, 100): (5, 6.3, 8, 10), (200, 120): (6.3, 8, 10), (250, 150): (6.3, 8, 10, 12.5),
    (300, 200): (6.3, 8, 10, 12.5),
}  # fmt: skip
# Cold-formed ones after EN 10219-2: thinner walls, and rounder corners where they are not circular.
COLD_CHS = {
    26.9: (2, 2.5), 33.7: (2, 2.5, 3), 42.4: (2, 2.5, 3), 48.3: (2, 2.5, 3), 60.3: (2, 2.5, 3),
    76.1: (2, 2.5, 3), 88.9: (2, 2.5, 3), 101.6: (2, 2.5, 3), 114.3: (2.5, 3, 4), 139.7: (3, 4), 168.3: (3, 4),
    193.7: (4, 5), 219.1: (4, 5),
}  # fmt: skip
COLD_SHS = {
    20: (2,), 25: (2, 2.5), 30: (2, 2.5, 3), 40: (2, 2.5, 3), 50: (2, 2.5, 3), 60: (2, 2.5, 3), 70: (2.5, 3, 4),
    80: (2.5, 3, 4), 90: (3, 4), 100: (3, 4, 5), 120: (3, 4, 5), 140: (4, 5), 150: (4, 5, 6), 200: (5, 6, 8),
}  # fmt: skip
COLD_RHS = {
    (40, 20): (2, 2.5, 3), (50, 30): (2, 2.5, 3), (60, 40): (2, 2.5, 3), (80, 40): (2, 2.5, 3),
    (100, 50): (2.5, 3, 4), (120, 60): (3, 4, 5), (140, 70): (4, 5), (150, 100): (4, 5, 6),
    (200, 100): (4, 5, 6), (250, 150): (5, 6, 8),
}  # fmt: skip
COLD = "cold"
"""The word after a size that tells a cold-formed section from a hot-finished one."""
TIMBER = (
    (60, 120),
    (60, 160),
    (80, 160),
    (80, 200),
    (100, 200),
    (120, 240),
    (140, 280),
    (160, 320),
    (200, 400),
)
TIMBER_LIMITS = (20.0, 2000.0)


def _circular(d_mm: float, t_mm: float, cold: bool = False) -> Section:
    d, t = d_mm / 1e3, t_mm / 1e3
    inner = d - 2 * t
    area = np.pi * (d**2 - inner**2) / 4
    inertia = np.pi * (d**4 - inner**4) / 64
    name, grade = _named(f"CHS {d_mm:g} × {t_mm:g}", cold)
    return Section(
        name, "CHS", d, d, t, area, inertia, inertia, 2 * inertia, area * STEEL_DENSITY, grade
    )


def _named(size: str, cold: bool) -> tuple[str, str]:
    """Name and grade of a section."""
    return (f"{size} {COLD}", "S355 cold-formed") if cold else (size, "S355")


def _corner_radii(t_mm: float, cold: bool) -> tuple[float, float]:
    """Outer and inner corner radius in wall thicknesses, for properties: EN 10210-2, annex B, and
    EN 10219-2, annex B, where they grow with the wall."""
    if not cold:
        return 1.5, 1.0
    return (2.0, 1.0) if t_mm <= 6 else (2.5, 1.5) if t_mm <= 10 else (3.0, 2.0)


def _rectangular(h_mm: float, b_mm: float, t_mm: float, cold: bool = False) -> Section:
    """Properties by the formulas of EN 10210-2 and EN 10219-2, annex B."""
    h, b, t = h_mm / 1e3, b_mm / 1e3, t_mm / 1e3
    outer, inner = (k * t for k in _corner_radii(t_mm, cold))
    area = 2 * t * (b + h - 2 * t) - (4 - np.pi) * (outer**2 - inner**2)

    def inertia(h: float, b: float) -> float:
        total = (b * h**3 - (b - 2 * t) * (h - 2 * t) ** 3) / 12
        for sign, radius, half in ((-1, outer, h / 2), (1, inner, h / 2 - t)):
            corner = (1 - np.pi / 4) * radius**2
            arm = half - (10 - 3 * np.pi) / (12 - 3 * np.pi) * radius
            own = (1 / 3 - np.pi / 16 - 1 / (3 * (12 - 3 * np.pi))) * radius**4
            total += sign * 4 * (own + corner * arm**2)
        return float(total)

    mean = (outer + inner) / 2
    run = 2 * (b + h - 2 * t) - 2 * mean * (4 - np.pi)
    enclosed = (b - t) * (h - t) - mean**2 * (4 - np.pi)
    torsion = t**3 * run / 3 + 4 * enclosed**2 * t / run
    kind = "SHS" if h == b else "RHS"
    size = f"{h_mm:g}" if h == b else f"{h_mm:g} × {b_mm:g}"
    name, grade = _named(f"{kind} {size} × {t_mm:g}", cold)
    return Section(
        name, kind, h, b, t, area, inertia(h, b), inertia(b, h), torsion, area * STEEL_DENSITY, grade,
        round(outer / t, 3),
    )  # fmt: skip


def _timber(b_mm: float, h_mm: float) -> Section:
    b, h = b_mm / 1e3, h_mm / 1e3
    short, long = min(b, h), max(b, h)
    # Torsion of a solid rectangle: Roark's formulas, table 10.7, case 4.
    torsion = long * short**3 * (1 / 3 - 0.21 * short / long * (1 - short**4 / (12 * long**4)))
    return Section(
        f"Timber {b_mm:g} × {h_mm:g}", "Timber", h, b, 0.0, b * h, b * h**3 / 12, h * b**3 / 12, torsion,
        b * h * TIMBER_DENSITY, "GL24h",
    )  # fmt: skip


@cache
def catalogue() -> dict[str, Section]:
    """All sections by name, family after family, small to large."""
    out = [_circular(d, t) for d, walls in CHS.items() for t in walls]
    out += [_rectangular(b, b, t) for b, walls in SHS.items() for t in walls]
    out += [_rectangular(h, b, t) for (h, b), walls in RHS.items() for t in walls]
    out += [_circular(d, t, True) for d, walls in COLD_CHS.items() for t in walls]
    out += [_rectangular(b, b, t, True) for b, walls in COLD_SHS.items() for t in walls]
    out += [_rectangular(h, b, t, True) for (h, b), walls in COLD_RHS.items() for t in walls]
    out += [_timber(b, h) for b, h in TIMBER]
    return {s.name: s for s in out}


def find(name: str) -> Section:
    """Section by name; spaces, letter case and ``x`` for ``×`` do not matter. Timber may be of any
    size in mm.

    Raises ``UnknownSection`` with the nearest names.
    """
    words = re.findall(r"[a-z]+|[\d.]+", name.lower().replace("×", " ").replace("x", " "))
    cold = COLD in words[1:]
    family, *rest = [w for k, w in enumerate(words) if k == 0 or w != COLD] or [""]
    try:
        sizes = [float(r) for r in rest]
    except ValueError:
        sizes = []
    if (
        family == "timber"
        and len(sizes) == 2
        and all(TIMBER_LIMITS[0] <= s <= TIMBER_LIMITS[1] for s in sizes)
    ):
        return _timber(*sizes)
    tidy = f"{family.upper() if family != 'timber' else 'Timber'} " + " × ".join(
        f"{s:g}" for s in sizes
    )
    if cold:
        tidy += f" {COLD}"
    if tidy in catalogue():
        return catalogue()[tidy]
    raise UnknownSection(name, _nearest(tidy, family.upper(), sizes))


def _nearest(tidy: str, family: str, sizes: list[float]) -> list[str]:
    """Names that come close: of the same family the nearest in size, else those written most
    alike."""
    own = [s for s in catalogue().values() if s.kind == family]
    if own and sizes and min(sizes) > 0:

        def apart(section: Section) -> float:
            given = [float(x) for x in re.findall(r"[\d.]+", section.name)]
            length = max(len(given), len(sizes))
            mine, other = (v + [1e-3] * (length - len(v)) for v in (given, sizes))
            # The outer size says more than the wall.
            weight = [1.0] * (length - 1) + [0.1]
            return sum(w * abs(np.log(a / b)) for w, a, b in zip(weight, mine, other, strict=True))

        return [s.name for s in sorted(own, key=apart)[:2]]
    return difflib.get_close_matches(tidy, catalogue(), n=2, cutoff=0.3) or ["CHS 88.9 × 4"]


def outline(
    section: Section, segments: int = 16
) -> tuple[NDArray[np.float64], NDArray[np.float64] | None]:
    """Outer and inner outline (n, 2) as (y, z) in metres, counter-clockwise; the inner one is
    ``None`` when solid."""
    if section.round:
        turn = np.linspace(0, 2 * np.pi, segments, endpoint=False)
        unit = np.column_stack([np.cos(turn), np.sin(turn)])
        return unit * section.height / 2, unit * (section.height / 2 - section.wall)
    unit = np.array([[-1.0, -1.0], [1.0, -1.0], [1.0, 1.0], [-1.0, 1.0]])
    half = np.array([section.width, section.height]) / 2
    return unit * half, unit * (half - section.wall) if section.wall else None
