"""The table of patterns. A new one is one entry: a module that repeats, or a builder of its own."""

from __future__ import annotations

from collections.abc import Callable
from dataclasses import dataclass
from functools import partial

from .flat import FlatPattern
from .layout import Layout
from .modules import MODULES, Module, tiled
from .rings import sectors
from .scattered import nudged_grid, scattered

__all__ = ["PATTERNS", "Pattern", "entry_of", "own_pattern", "whole_bays"]

ROOT3 = 3**0.5


@dataclass(frozen=True)
class Pattern:
    """An entry of the table.

    ``title`` as it reads in a sentence; ``build`` gives its cells for a layout. ``side`` is the
    real size of a bay across and along for a module of 1 m, and ``repeats`` the bays after which it
    does. ``needs`` names what else of a layout it goes by: ``"seed"``, ``"sectors"`` or ``"lean"``;
    ``turns`` whether it can be turned and mirrored.
    """

    title: str
    summary: str
    build: Callable[[Layout], FlatPattern]
    cells_per_bay: float
    side: tuple[float, float] = (1.0, 1.0)
    repeats: tuple[int, int] = (1, 1)
    needs: str = ""
    turns: bool = True


def _repeating(
    title: str, summary: str, name: str, side: tuple[float, float] = (1.0, 1.0), needs: str = ""
) -> Pattern:
    module = MODULES[name]
    cells = len(module.cells) / (module.bays[0] * module.bays[1])
    return Pattern(title, summary, partial(tiled, module), cells, side, module.bays, needs)


PATTERNS: dict[str, Pattern] = {
    "quads": _repeating("quads", "four-sided cells in rows", "quads"),
    "diagrid": _repeating("a diagrid", "rhombs on two crossing families of diagonals", "diagrid"),
    "triangles": _repeating("triangles on one diagonal", "bays halved, all along the same diagonal", "triangles"),
    "alternating": _repeating(
        "triangles on alternating diagonals", "bays halved along diagonals that alternate", "alternating"
    ),
    "crossed": _repeating("triangles on both diagonals", "bays quartered by both diagonals", "crossed"),
    "equilateral": _repeating(
        "equilateral triangles", "rows staggered by half a side; the module is the side", "equilateral", (1.0, ROOT3 / 2)
    ),
    "ringed": _repeating("a diagrid with rings", "rhombs halved by rings", "ringed"),
    "hexagons": _repeating("hexagons", "three members at each node; the module is the side", "hexagons", (ROOT3, 1.5)),
    "trihexagons": _repeating(
        "tri-hexagons", "hexagons between triangles, as the three-way weave; the module is the side", "trihexagons",
        (2.0, ROOT3),
    ),
    "rhombs": _repeating("skewed quads", "four-sided cells that lean from row to row", "quads", needs="lean"),
    "lamella": _repeating("lamellas", "staggered rhombs: at each node one passes through and two meet it", "lamella"),
    "sectors": Pattern(
        "sectors", "rows of triangles round an apex, a triangle a sector fewer in each", sectors, 2.0, needs="sectors",
        turns=False,
    ),
    "nudged": Pattern(
        "Voronoi cells off a grid", "a grid's points moved by a seed", nudged_grid, 1.0, needs="seed", turns=False
    ),
    "voronoi": Pattern(
        "scattered Voronoi cells", "points scattered by a seed and drawn apart", scattered, 1.0, needs="seed", turns=False
    ),
}  # fmt: skip


def entry_of(pattern: str | Pattern) -> Pattern:
    """An entry of the table by its name, or one that stands in no table."""
    return PATTERNS[pattern] if isinstance(pattern, str) else pattern


def own_pattern(module: Module) -> Pattern:
    """The pattern of a module that is not in the table."""
    cells = len(module.cells) / (module.bays[0] * module.bays[1])
    return Pattern("a module of one's own", "", partial(tiled, module), cells, repeats=module.bays)


def whole_bays(
    pattern: str | Pattern, bays: tuple[int, int], closed: tuple[bool, bool]
) -> tuple[int, int]:
    """Bays rounded up so that a pattern closes on itself: in a closed direction whole repeats, and
    3 bays at least."""
    out = []
    for n, is_closed, repeat in zip(bays, closed, entry_of(pattern).repeats, strict=True):
        out.append(max(-(-n // repeat) * repeat, -(-3 // repeat) * repeat) if is_closed else n)
    return out[0], out[1]
