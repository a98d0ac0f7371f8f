"""Triangles of what is between two like grids of places, one outside of the other."""

from __future__ import annotations

import numpy as np
from numpy.typing import NDArray

__all__ = ["skin_of_disc", "skin_of_grid"]

Index = NDArray[np.int32]
Numbers = NDArray[np.integer]


def _face(rows: Numbers, next_rows: Numbers) -> Numbers:
    """Triangles (T, 3) between lines of places and the next lines (n, rows)."""
    a, b, c, d = rows[:, :-1], next_rows[:, :-1], next_rows[:, 1:], rows[:, 1:]
    halves = [np.stack([a, b, c], -1), np.stack([a, c, d], -1)]
    return np.concatenate(halves).reshape(-1, 3)


def _wall(here: Numbers, on: Numbers, below: int) -> Numbers:
    """Triangles (T, 3) from places and those after them to those of the other face, which come
    ``below`` so many numbers later. Walls between neighbours are parted alike."""
    upper = np.column_stack([here, on + below, on])
    lower = np.column_stack([here, here + below, on + below])
    return np.concatenate([upper, lower])


def skin_of_grid(columns: int, rows: int) -> Index:
    """Triangles (T, 3) of what is between two grids of (columns + 1) × (rows + 1) places."""
    number = np.arange((columns + 1) * (rows + 1)).reshape(columns + 1, rows + 1)
    below = number.size
    face = _face(number[:-1], number[1:])
    # Two walls are seen from outside as their lines run, the others against them.
    seen = [_wall(line[:-1], line[1:], below) for line in (number[:, 0], number[-1])]
    turned = [_wall(line[:-1], line[1:], below)[:, ::-1] for line in (number[0], number[:, -1])]
    return np.vstack([face, face[:, ::-1] + below, *seen, *turned]).astype(np.int32)


def skin_of_disc(steps: int, rows: int) -> Index:
    """Triangles (T, 3) of what is between two discs of ``steps`` × ``rows`` places from the rim in,
    and one in the middle of each that comes after them."""
    number = np.arange(steps * rows).reshape(steps, rows)
    on = np.roll(number, -1, axis=0)
    tip = np.full(steps, steps * rows)
    below = steps * rows + 1
    face = np.vstack([_face(number, on), np.column_stack([number[:, -1], on[:, -1], tip])])
    wall = _wall(number[:, 0], on[:, 0], below)
    return np.vstack([face, face[:, ::-1] + below, wall]).astype(np.int32)
