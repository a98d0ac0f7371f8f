"""Cushions over the cells of a net: two foils held along their border, with air between."""

from __future__ import annotations

from collections.abc import Iterator
from dataclasses import dataclass
from typing import NamedTuple

import numpy as np
from numpy.typing import NDArray

from ..geometry.mitres import corners_moved_in
from ..geometry.nets import Net
from ..nets.fans import cell_axes, cell_of_half_edges, following, preceding
from ..nets.insets import reaches
from .skins import Skins, joined
from .solids import Solids

__all__ = ["Cushions", "Foils", "blown"]

Array = NDArray[np.float64]
Index = NDArray[np.int32]
LEAST_ROWS, MOST_ROWS = 3, 12
"""Into which a cushion is divided from its border to its middle."""
AROUND = 4
"""Steps around, at least, for each row."""
CHUNK = 200
"""Cushions whose equations are solved at once."""


@dataclass(frozen=True)
class Foils:
    """How cushions are blown: their rise ``up`` and ``down`` as shares of the span, the width of
    the widest circle about the middle of what is spanned; how far (m) they are ``held`` in from the
    sides of cells; what their foils are of, a name in ``MATERIALS`` and a ``thickness`` (m); and
    ``within`` how many metres of them their facets lie, as far as rows go."""

    up: float
    down: float
    held: float
    material: str
    thickness: float
    within: float


@dataclass(frozen=True, eq=False)
class Cushions:
    """Cushions as ``solids`` and the ``cells`` (B,) they are over. There are none over cells
    ``without_room`` (k,) within what holds them, and over those ``bent_in`` (k,), of whose middle
    not all of the border is seen."""

    solids: Solids
    cells: Index
    without_room: Index
    bent_in: Index


def blown(net: Net, chosen: NDArray[np.bool_], foils: Foils) -> Cushions:
    """Cushions over the ``chosen`` (C,) cells of a ``net``.

    Foils lie as membranes under even pressure do, by small deflections: Δh is the same all over one
    and h = 0 along its border (Prandtl, 1903), h being made so large that its highest place is at
    the share of the span. The border of a cell that is not plane is spanned by the surface of least
    tension, from which both foils rise.
    """
    spans = 2 * (reaches(net) - foils.held)
    able = chosen & (spans > 0)
    rows = _rows(foils, float(spans[able].max(initial=0.0)))
    skins, cells, bent = [], [], []
    for borders in _borders(net, able, foils.held):
        seen = borders.sees_all
        bent.append(borders.cells[~seen])
        whole = borders.only(seen)
        if len(whole.cells):
            skins.append(_skins(whole, spans[whole.cells], foils, rows))
            cells.append(whole.cells)
    none = [np.zeros(0, np.int32)]
    kept = np.sort(np.concatenate(none + cells))
    forms = [
        Skins(*skin, np.searchsorted(kept, own).astype(np.int32))
        for skin, own in zip(skins, cells, strict=True)
    ]
    solids = _solids(net, forms, kept, foils)
    without = np.flatnonzero(chosen & ~able).astype(np.int32)
    return Cushions(solids, kept, without, np.sort(np.concatenate(none + bent)))


class _Borders(NamedTuple):
    """Borders of cells (B,) of one number of sides n: their corners in the best plane of each,
    ``flat`` (B, n, 2) about the middle, and ``off`` (B, n) it; ``middles`` and ``axes`` (B, 3, 3;
    rows) of these planes."""

    cells: Index
    flat: Array
    off: Array
    middles: Array
    axes: Array

    @property
    def sees_all(self) -> NDArray[np.bool_]:
        """Whether all of a border (B,) is seen from its middle."""
        after = np.roll(self.flat, -1, axis=1)
        cross = self.flat[..., 0] * after[..., 1] - self.flat[..., 1] * after[..., 0]
        return np.asarray((cross > 0).all(axis=1))

    def only(self, kept: NDArray[np.bool_]) -> _Borders:
        flat, off = self.flat[kept], self.off[kept]
        return _Borders(self.cells[kept], flat, off, self.middles[kept], self.axes[kept])


def _borders(net: Net, able: NDArray[np.bool_], held: float) -> Iterator[_Borders]:
    """Borders of the cells (C,) that are ``able``, by their numbers of sides, ``held`` (m) in from
    their sides."""
    first, axes = net.offsets[:-1], cell_axes(net)
    corners = net.vertices[net.corners] + _moved_in(net, axes[:, 2], held)
    counts = np.diff(net.offsets)
    for sides in np.unique(counts[able]).tolist():
        cells = np.flatnonzero(able & (counts == sides)).astype(np.int32)
        own = corners[first[cells][:, None] + np.arange(sides)]
        middles = own.mean(axis=1)
        local = np.einsum("bnd,bkd->bnk", own - middles[:, None], axes[cells])
        yield _Borders(cells, local[..., :2], local[..., 2], middles, axes[cells])


def _moved_in(net: Net, normal: Array, held: float) -> Array:
    """How corners (H, 3) move for all sides of their cells to move in by so many metres."""
    here = net.vertices[net.corners]
    way = here[following(net)] - here
    way /= np.maximum(np.linalg.norm(way, axis=1, keepdims=True), 1e-300)
    square = np.cross(normal[cell_of_half_edges(net)], way)
    return corners_moved_in(square, preceding(net), np.full(len(here), held))


def _rows(foils: Foils, span: float) -> int:
    """Rows whose chords stay near enough to the largest foil: of a parabola of a rise f over n rows
    to its middle they are f / (4 n²) off."""
    rise = max(abs(foils.up), abs(foils.down)) * span
    return int(np.clip(np.ceil(np.sqrt(rise / (4 * foils.within))), LEAST_ROWS, MOST_ROWS))


def _skins(borders: _Borders, spans: Array, foils: Foils, rows: int) -> tuple[Array, Index]:
    """Vertices (B, V, 3) and triangles (T, 3) of cushions: the upper foil from its border in to its
    middle, then what of the lower one is not on the border."""
    sides = borders.flat.shape[1]
    each = -(-AROUND * rows // sides)
    rim = _divided(borders.flat, each)
    share = np.arange(rows, 0, -1) / rows
    flat = (share[:, None, None] * rim[:, None]).reshape(len(rim), -1, 2)
    flat = np.concatenate([flat, np.zeros((len(flat), 1, 2))], axis=1)
    steps = rim.shape[1]
    face = _disc(steps, rows)
    height, level = _membranes(flat, face, _divided(borders.off[..., None], each)[..., 0])
    high = spans[:, None] * height
    upper = np.dstack([flat, level + foils.up * high])
    lower = np.dstack([flat, level - foils.down * high])[:, steps:]
    local = np.concatenate([upper, lower], axis=1)
    space = np.einsum("bvk,bkd->bvd", local, borders.axes)
    below = np.where(face < steps, face, face + flat.shape[1] - steps)
    triangles = np.vstack([face, below[:, ::-1]]).astype(np.int32)
    return space + borders.middles[:, None], triangles


def _divided(corners: Array, each: int) -> Array:
    """Places (B, n · each, k) along sides between corners (B, n, k), ``each`` a side."""
    after = np.roll(corners, -1, axis=1)
    share = (np.arange(each) / each)[:, None]
    places = corners[:, :, None] * (1 - share) + after[:, :, None] * share
    return np.asarray(places.reshape(len(corners), -1, corners.shape[2]))


def _disc(steps: int, rows: int) -> Index:
    """Triangles (T, 3) of a disc of ``rows`` rings of ``steps`` places, from the border in, and a
    middle."""
    number = np.arange(rows * steps).reshape(rows, steps)
    on = np.roll(number, -1, axis=1)
    a, b, c, d = number[:-1], on[:-1], on[1:], number[1:]
    rings = [np.stack([a, b, c], -1), np.stack([a, c, d], -1)]
    tip = np.full(steps, rows * steps)
    middle = np.column_stack([number[-1], on[-1], tip])
    return np.vstack([*(ring.reshape(-1, 3) for ring in rings), middle]).astype(np.int32)


def _membranes(flat: Array, face: Index, off: Array) -> tuple[Array, Array]:
    """Heights (B, V) of membranes over discs, 1 at most and 0 at their border, and the levels
    (B, V) of those that span their borders without pressure.

    Parameters
    ----------
    flat : (B, V, 2) places, those of borders first
    face : (T, 3) triangles of each
    off : (B, k) levels of borders
    """
    fixed = off.shape[1]
    height, level = np.zeros(flat.shape[:2]), np.zeros(flat.shape[:2])
    level[:, :fixed] = off
    for begin in range(0, len(flat), CHUNK):
        own = slice(begin, begin + CHUNK)
        stiffness, load = _equations(flat[own], face)
        free = stiffness[:, fixed:, fixed:]
        held = -np.einsum("bij,bj->bi", stiffness[:, fixed:, :fixed], off[own])
        found = np.linalg.solve(free, np.stack([load[:, fixed:], held], axis=-1))
        height[own, fixed:], level[own, fixed:] = found[..., 0], found[..., 1]
    return height / height.max(axis=1, keepdims=True), level


def _equations(flat: Array, face: Index) -> tuple[Array, Array]:
    """Stiffness (B, V, V) and loads (B, V) of membranes in linear triangles (Courant, 1943)."""
    p = flat[:, face]
    sides = np.roll(p, -2, axis=2) - np.roll(p, -1, axis=2)
    double = sides[..., 0, 0] * sides[..., 1, 1] - sides[..., 0, 1] * sides[..., 1, 0]
    each = np.einsum("btik,btjk->btij", sides, sides) / (2 * double)[..., None, None]
    count, vertices = flat.shape[:2]
    at = face[:, :, None].astype(np.int64) * vertices + face[:, None, :]
    stiffness = _summed(each.reshape(count, -1), at.ravel(), vertices * vertices)
    load = _summed(np.repeat(double / 6, 3, axis=1), face.ravel(), vertices)
    return stiffness.reshape(count, vertices, vertices), load


def _summed(values: Array, at: NDArray[np.integer], size: int) -> Array:
    """Sums (B, size) of values (B, n) by where they go (n,)."""
    order = np.argsort(at, kind="stable")
    places, starts = np.unique(at[order], return_index=True)
    out = np.zeros((len(values), size))
    out[:, places] = np.add.reduceat(values[:, order], starts, axis=1)
    return out


def _solids(net: Net, forms: list[Skins], cells: Index, foils: Foils) -> Solids:
    vertices, triangles, offsets = joined(forms, len(cells))
    return Solids(
        vertices=vertices,
        triangles=triangles,
        offsets=offsets,
        materials=(foils.material,),
        material_of=np.zeros(len(cells), np.int32),
        frames=cell_axes(net)[cells],
        skin=foils.thickness,
    )
