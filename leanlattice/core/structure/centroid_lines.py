"""How much longer or shorter than their axes the lines are along which members' centroids run."""

from __future__ import annotations

import numpy as np
from numpy.typing import NDArray

from ..geometry.arcs import tangents

__all__ = ["centroid_gains"]

Array = NDArray[np.float64]
Index = NDArray[np.int32]


def centroid_gains(
    chords: Array, bulge: Array, up: Array, centroid: Array, member: Index, count: int
) -> Array:
    """Metres (M,) by which the line of centroids is longer than the axis (Pappus).

    An arc whose centroid lies d to the inside of its axis is shorter by d times its turn; at a
    mitre of turn β, by 2 d tan(β / 2).

    Parameters
    ----------
    chords, bulge, up : (S, 3) of segments
    centroid : (S, 2) of their sections from the axis, along width and height
    member : (S,) that each is of
    count : of members
    """
    if not centroid.any():
        return np.zeros(count)
    ways = chords / np.maximum(np.linalg.norm(chords, axis=1, keepdims=True), 1e-300)
    off = centroid[:, :1] * np.cross(up, ways) + centroid[:, 1:] * up
    leaving, arriving = tangents(chords, bulge)
    rise = np.linalg.norm(bulge, axis=1)
    outward = bulge / np.maximum(rise, 1e-300)[:, None]
    size = np.maximum(np.linalg.norm(chords, axis=1), 1e-300)
    gain = np.einsum("ij,ij->i", off, outward) * 4 * np.arctan(2 * rise / size)
    out = np.bincount(member, gain, minlength=count)
    inner = np.flatnonzero(member[:-1] == member[1:])
    before, after = arriving[inner], leaving[inner + 1]
    cosine = np.sqrt(np.maximum((1 + np.einsum("ij,ij->i", before, after)) / 2, 1e-12))
    between = (off[inner] + off[inner + 1]) / 2
    lost = np.einsum("ij,ij->i", between, after - before) / cosine
    return np.asarray(out - np.bincount(member[inner], lost, minlength=count))
