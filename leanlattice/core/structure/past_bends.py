"""Cuts of ends that reach past the next bend of their member, where only its last piece is cut."""

from __future__ import annotations

import numpy as np
from numpy.typing import NDArray

from .structure import Structure

__all__ = ["past_bends"]

Array = NDArray[np.float64]


def past_bends(structure: Structure) -> Array:
    """How far (M, 2) the cuts of ends reach past where the mitre of the next bend begins, in
    metres; −∞ of ends that no plane cuts and of members that do not bend.

    A plane that lies all but along a member, as where it meets another at a small angle, leaves
    its section far from its end. Solids are cut by it in their first and last pieces alone, so that
    beyond the bend they would run into what the plane holds them off.
    """
    out = np.full((structure.count, 2), -np.inf)
    bent = np.flatnonzero(np.diff(structure.offsets) > 2)
    if not structure.cuts.count or not bent.size:
        return out
    first = structure.first_segment[bent]
    last = first + np.diff(structure.offsets)[bent] - 2
    end, beside = np.column_stack([first, last]), np.column_stack([first + 1, last - 1])
    way = structure.chords / np.linalg.norm(structure.chords, axis=1, keepdims=True)
    cosine = np.einsum("mij,mij->mi", way[end], way[beside])
    half = np.array([np.hypot(s.shape.width, s.shape.height) / 2 for s in structure.sections])
    # Half the angle of a bend has the tangent √((1 − cos) / (1 + cos)).
    tangent = np.sqrt(np.maximum(1 - cosine, 0.0) / np.maximum(1 + cosine, 1e-12))
    mitre = half[structure.section_of[bent]][:, None] * tangent
    whole = structure.cut_backs.whole.reshape(-1, 2)[bent]
    past = whole + mitre - structure.segment_lengths[end]
    out[bent] = np.where(np.isnan(past), -np.inf, past)
    return out
