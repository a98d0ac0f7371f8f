"""Nets of which the places are given."""

from __future__ import annotations

import numpy as np

from leanlattice.core.geometry.nets import Net, build_net
from leanlattice.core.geometry.surfaces import loft

__all__ = ["SHEET", "one_cell"]

SHEET = loft([np.array([[0, 0, 0], [4, 0, 0]]), np.array([[0, 3, 0], [4, 3, 0]])])


def one_cell(places: np.ndarray) -> Net:
    """A net of one cell with its corners at ``places`` (n, 3); its surface matters to nothing."""
    count = len(places)
    corners, offsets = np.arange(count, dtype=np.int32), np.array([0, count], np.int32)
    return build_net(SHEET, np.asarray(places, float), np.zeros((count, 2)), corners, offsets)
