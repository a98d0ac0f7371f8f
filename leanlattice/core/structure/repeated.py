"""A bay of a structure repeated: moved, turned or mirrored, and known as copies of it."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass, replace

import numpy as np
from numpy.typing import NDArray

from .appended import appended
from .joined import joined
from .structure import Structure

__all__ = ["Move", "Repeated", "moved", "repeated"]

Array = NDArray[np.float64]
Index = NDArray[np.int32]


@dataclass(frozen=True, eq=False)
class Move:
    """A place p goes to ``matrix`` (3, 3) p + ``shift`` (3,); the matrix keeps lengths."""

    matrix: Array
    shift: Array

    @property
    def mirrors(self) -> bool:
        return bool(np.linalg.det(self.matrix) < 0)

    def places(self, at: Array) -> Array:
        return np.asarray(at @ self.matrix.T + self.shift)

    def ways(self, directions: Array) -> Array:
        return np.asarray(directions @ self.matrix.T)


@dataclass(frozen=True, eq=False)
class Repeated:
    """A ``structure`` with its copies; how many nodes of these are those of another bay
    (``shared``), and how many of their members lay on others (``doubled``) and are gone."""

    structure: Structure
    shared: int
    doubled: int


def repeated(bay: Structure, moves: Sequence[Move], near: float) -> Repeated:
    """The ``bay`` and behind it a copy for each of the ``moves``; nodes within ``near`` metres of
    each other are one, where members meet anew.

    Members of copies tell which member of the bay they are a copy of, and whether they are its
    mirror image. What the bay had keeps its numbers and names.
    """
    made = bay
    for move in moves:
        copy = moved(bay, move)
        made = replace(appended(made, copy), copy_of=_of_bay(made, bay))
    whole = joined(made, near)
    since = (len(bay.places), bay.count)
    return Repeated(replace(whole.structure, since=since), whole.nodes, whole.short + whole.doubled)


def _of_bay(made: Structure, bay: Structure) -> Index:
    """The member that each is a copy of when one more bay is behind those ``made``."""
    return np.concatenate([made.copy_of, bay.copy_of])


def moved(structure: Structure, move: Move) -> Structure:
    """The structure as it is moved. In a mirror image members run the other way: so their
    sections, which are right-handed about their axes, are mirrored as well."""
    still = replace(
        structure,
        places=move.places(structure.places),
        normals=move.ways(structure.normals),
        offset=move.ways(structure.offset),
        up=move.ways(structure.up),
        bulge=move.ways(structure.bulge),
        cuts=structure.cuts.moved(move.ways, move.mirrors),
        # What stood on something stands on nothing elsewhere.
        origin=np.full_like(structure.origin, -1),
        further=structure.further[:0],
        sources=(),
    )
    return _reversed(still) if move.mirrors else still


def _reversed(structure: Structure) -> Structure:
    """Every member from its end to its start, as a mirror image."""
    entries = _backwards(structure.offsets)
    segments = _backwards(structure.offsets - np.arange(len(structure.offsets)))
    cuts = structure.cuts
    order = np.argsort(cuts.end ^ 1, kind="stable")
    return replace(
        structure,
        path=structure.path[entries],
        offset=structure.offset[entries],
        scale=structure.scale[entries],
        waist=structure.waist[segments],
        up=structure.up[segments],
        bulge=structure.bulge[segments],
        set_back=structure.set_back[:, ::-1].copy(),
        cuts=cuts.some(order, (cuts.end ^ 1)[order]),
        mirrored=~structure.mirrored,
    )


def _backwards(offsets: NDArray[np.integer]) -> NDArray[np.int64]:
    """The order in which things that come in rows, of which each begins at one of the ``offsets``,
    stand when each row is turned round."""
    number = np.arange(int(offsets[-1]))
    row = np.searchsorted(offsets, number, "right") - 1
    return np.asarray(offsets[row] + offsets[row + 1] - 1 - number)
