"""Laying a pattern on a surface."""

from __future__ import annotations

from dataclasses import dataclass, replace

import numpy as np
from numpy.typing import NDArray

from ..geometry.charts import Charted
from ..geometry.nets import Net, build_net
from ..geometry.regions import Region
from ..geometry.surfaces import Surface
from ..nets.thinning import merged_near, without_thin_cells
from .borders import BORDERS, cut_at_edge
from .flat import FlatPattern, are_convex, merged_places, reversed_cells, used_places
from .layout import Layout
from .pulls import Pull, drawn, even_parameters
from .slivers import without_slivers
from .stitching import stitched
from .table import Pattern, entry_of, whole_bays
from .trimming import SLIVER, trim

__all__ = ["Placing", "bays_for_module", "bays_of_module", "flat_pattern", "lay", "lines_at_seams"]

Array = NDArray[np.float64]
SIDES = ("u0", "u1", "v0", "v1")
NEAR_SEAM = 0.04
"""Vertices of either side of a seam closer than this share of a bay become one."""
SPECK = 1e-4
"""Edges shorter than this share of the usual one are none."""
THIN = 0.02
"""Cells at seams smaller than this share of the usual one go to a neighbour even where slivers are
kept."""
SQUARE = np.array([[0.0, 0.0], [1.0, 0.0], [1.0, 1.0], [0.0, 1.0]])


@dataclass(frozen=True)
class Placing:
    """How a pattern lies: ``border`` names an entry of ``BORDERS``; ``turn`` (rad), ``shift`` and
    ``lean`` in bays; ``even`` lays it by even lengths rather than by parameters; cells cut to less
    than the share ``sliver`` of the usual one are merged with a neighbour. ``seed``, ``rounds`` and
    ``sectors`` go to patterns that need them. Cells cut to less than the share ``speck`` are left
    out. ``longer`` is by how much a pattern is longer than the shape along u and v, about its
    middle, so that a module can be met where no whole number of bays does."""

    border: str = "cut"
    turn: float = 0.0
    shift: tuple[float, float] = (0.0, 0.0)
    lean: float = 0.0
    mirrored: bool = False
    even: bool = False
    pulls: tuple[Pull, ...] = ()
    sliver: float = 0.0
    seed: int = 1
    rounds: int = 8
    sectors: int = 6
    speck: float = SLIVER
    longer: tuple[float, float] = (1.0, 1.0)


def bays_for_module(
    surface: Surface, module: float, pattern: str | Pattern = "quads"
) -> tuple[int, int]:
    """Numbers of bays along u and v whose real mean size comes closest to that of a ``module`` in
    metres."""
    (along_u, along_v), (across, along) = surface.lengths, entry_of(pattern).side
    least_u, least_v = (3 if closed else 1 for closed in (surface.closed_u, surface.closed_v))
    return max(least_u, round(along_u / (module * across))), max(
        least_v, round(along_v / (module * along))
    )


def bays_of_module(
    surface: Surface, module: float, pattern: str | Pattern = "quads"
) -> tuple[tuple[int, int], tuple[float, float]]:
    """Numbers of bays along u and v that cover the shape with bays of exactly that ``module`` in
    metres, and by how much they are longer than it; as many on either side of its middle, or all
    from a side that is one point. In a closed direction, or between two such sides, they come as
    close as whole bays allow."""
    nearest = bays_for_module(surface, module, pattern)
    bays, longer = [], []
    closed = surface.closed_u, surface.closed_v
    points = [{f"{axis}0", f"{axis}1"} <= surface.degenerate for axis in "uv"]
    ends = [a or b for a, b in zip(closed, points, strict=True)]
    for length, share, whole, near in zip(
        surface.lengths, entry_of(pattern).side, ends, nearest, strict=True
    ):
        # An even number and one to spare for patterns that begin within a bay.
        count = near if whole else 2 * (int(np.ceil(length / (module * share) / 2)) + 1)
        bays.append(count)
        longer.append(1.0 if whole else count * module * share / length)
    return (bays[0], bays[1]), (longer[0], longer[1])


def lay(
    surface: Surface,
    pattern: str | Pattern,
    bays: tuple[int, int],
    border: str = "cut",
    placing: Placing | None = None,
) -> Net:
    """Net of the pattern with the given numbers of bays along u and v.

    ``pattern`` is an entry of ``PATTERNS`` or its name, ``border`` one of ``BORDERS``; ``placing``
    says the rest. In a closed direction the bays are rounded up to whole repeats. Sides that shrink
    to a point are cut and welded to one vertex whatever the border treatment. Where the surface
    covers part of the square only, the treatment is that of its outline. The net may have no cells
    when the treatment leaves none.
    """
    placing = replace(placing or Placing(), border=border)
    if isinstance(surface, Charted):
        return _without_specks(_on_charts(surface, pattern, bays, placing))
    flat = flat_pattern(surface, pattern, bays, placing=placing)
    past = border == "past" and surface.domain is None
    vertices = surface.extended(flat.uv) if past else surface.points(flat.uv)
    return _without_specks(build_net(surface, vertices, flat.uv, flat.corners, flat.offsets))


def _without_specks(net: Net) -> Net:
    """The net without edges that are next to nothing, as where an outline all but meets a
    vertex."""
    if not len(net.edges):
        return net
    least = SPECK * float(np.median(net.edge_lengths))
    return merged_near(net, least)[0] if net.edge_lengths.min() < least else net


def _on_charts(
    surface: Charted, pattern: str | Pattern, bays: tuple[int, int], placing: Placing
) -> Net:
    """The pattern on every chart with bays of one size, those counted being of the largest chart,
    and made one along the seams."""
    size = [length / n for length, n in zip(surface.real, bays, strict=True)]
    flats = []
    for chart, low, scale in zip(surface.charts, surface.low, surface.scale, strict=True):
        own = tuple(max(1, round(length / s)) for length, s in zip(chart.real, size, strict=True))
        pulls = []
        for pull in placing.pulls:
            line = (pull.line - low) / scale
            line = line[np.all((line >= 0) & (line <= 1), axis=1)]
            pulls += [replace(pull, line=line)] if len(line) else []
        # However small, no cell may be missing at a seam; thin ones are merged afterwards.
        here = replace(placing, border="cut", pulls=tuple(pulls), even=False, speck=1e-12)
        flats.append(flat_pattern(chart, pattern, (own[0], own[1]), placing=here))
    vertices, uv, corners, offsets = stitched(surface, flats, NEAR_SEAM * min(size))
    if surface.flipped:
        corners = reversed_cells(FlatPattern(uv, corners, offsets)).corners
    return without_thin_cells(
        build_net(surface, vertices, uv, corners, offsets), max(placing.sliver, THIN)
    )


def flat_pattern(
    surface: Surface,
    pattern: str | Pattern,
    bays: tuple[int, int],
    follow: bool = False,
    placing: Placing | None = None,
) -> FlatPattern:
    """The welded cells of ``lay`` in the square: a ``pattern`` on a ``surface`` by ``bays`` along u
    and v, lying as ``placing`` says; with ``follow`` they take every point of the domain's
    outline."""
    placing = placing or Placing()
    closed = (surface.closed_u, surface.closed_v)
    bays, longer = whole_bays(pattern, bays, closed), placing.longer
    along_u, along_v = surface.lengths
    layout = Layout(
        bays,
        closed,
        (along_u * longer[0], along_v * longer[1]),
        placing.turn,
        placing.shift,
        placing.lean,
        placing.mirrored,
        _margin(placing, surface),
        placing.seed,
        placing.rounds,
        placing.sectors,
        surface.degenerate,
    )
    flat = entry_of(pattern).build(layout)
    if placing.longer != (1.0, 1.0):
        kept = [_kept(surface, axis) for axis in "uv"]
        flat = replace(flat, uv=kept + (flat.uv - kept) * placing.longer)
    if placing.pulls:
        flat = replace(flat, uv=drawn(flat.uv, placing.pulls, surface.lengths, closed))
    flat = _treated(flat, surface, placing, follow)
    if placing.sliver and placing.border == "cut":
        flat = without_slivers(flat, placing.sliver, np.array(surface.lengths))
    flat = _welded(flat, surface)
    if placing.longer == (1.0, 1.0) or placing.even:
        # A module that is met leaves no room for lines to be drawn to creases.
        flat = replace(flat, uv=_along_seams(flat.uv, surface, bays, placing.even))
    return reversed_cells(flat) if surface.flipped else flat


def _kept(surface: Surface, axis: str) -> float:
    """What stays where it is along u or v when a pattern becomes longer: the side that is one
    point, or the middle."""
    low, high = (f"{axis}{end}" in surface.degenerate for end in (0, 1))
    return 0.5 if low == high else float(high)


def _margin(placing: Placing, surface: Surface) -> float:
    """How far past the square cells are needed, as pulls bring some from there: as far as the
    strongest moves any."""
    if not placing.pulls:
        return 0.0
    most = max(0.43 * abs(p.strength) * p.reach for p in placing.pulls)
    return float(len(placing.pulls) * most / min(surface.lengths))


def _treated(flat: FlatPattern, surface: Surface, placing: Placing, follow: bool) -> FlatPattern:
    """The cells with the treatment of the border, on whatever closes or shrinks to a point cut
    without asking."""
    closed = {
        axis for axis, is_closed in (("u", surface.closed_u), ("v", surface.closed_v)) if is_closed
    }
    open_sides = [s for s in SIDES if s[0] not in closed and s not in surface.degenerate]
    flat = cut_at_edge(flat, sorted(surface.degenerate))
    if surface.domain is not None:
        return trim(flat, surface.domain, placing.border, follow, placing.speck)
    if placing.border == "cut" and not any(flat.closed) and not are_convex(flat):
        return trim(flat, Region(SQUARE), "cut")
    return BORDERS[placing.border].treat(flat, open_sides)


def _along_seams(uv: Array, surface: Surface, bays: tuple[int, int], even_lengths: bool) -> Array:
    """Parameters with lines between bays drawn to the creases, or spaced by even lengths where
    there are none."""
    uv = uv.copy()
    lengths = even_parameters(surface) if even_lengths else None
    for axis, seams in enumerate((surface.seams_u, surface.seams_v)):
        inside = (uv[:, axis] > 0) & (uv[:, axis] < 1)
        if lengths is not None and not seams and surface.domain is None:
            even, real = np.linspace(0, 1, len(lengths[axis])), lengths[axis]
        else:
            even, real = lines_at_seams(seams, bays[axis])
        uv[inside, axis] = np.interp(uv[inside, axis], even, real)
    return uv


def lines_at_seams(seams: tuple[float, ...], bays: int) -> tuple[Array, Array]:
    """Even parameters (n,) and those (n,) to which they are drawn so that lines between bays run
    along the creases.

    Where there are more creases than half the bays nothing is drawn to them.
    """
    even, real = [0.0], [0.0]
    if len(seams) <= bays / 2:
        for seam in seams:
            line = max(round(seam * bays), round(even[-1] * bays) + 1)
            if line < bays and seam > real[-1]:
                even.append(line / bays)
                real.append(seam)
    return np.array([*even, 1.0]), np.array([*real, 1.0])


def _welded(flat: FlatPattern, surface: Surface) -> FlatPattern:
    """Vertices on a side that is one point become one; corners repeated by that and unused vertices
    are dropped."""
    if surface.degenerate:
        name = np.arange(len(flat.uv), dtype=np.int32)
        for side in surface.degenerate:
            on = np.flatnonzero(flat.uv[:, "uv".index(side[0])] == float(side[1]))
            name[on] = on[:1].repeat(len(on))
        flat = merged_places(flat, name)
    return used_places(flat)
