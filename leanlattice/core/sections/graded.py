"""Sizes of sections in steps from one to another."""

from __future__ import annotations

import numpy as np

from .names import catalogue
from .section import Section

__all__ = ["sizes_between"]


def sizes_between(thin: Section, thick: Section, steps: int) -> tuple[Section, ...]:
    """So many ``steps`` (2 or more) of sections from ``thin`` to ``thick``, of one family and
    material: those that are commonly made and come nearest to even ratios of mass and height, each
    once, so that they may be fewer.

    Raises ``ValueError`` where the two are of different families or materials.
    """
    if thin.shape.family != thick.shape.family or thin.material != thick.material:
        raise ValueError("sections of different families or materials")
    own = [
        Section(made.shape, thin.material)
        for made in catalogue().values()
        if made.shape.family == thin.shape.family and made.shape.formed == thin.shape.formed
    ]
    sizes = np.log([(s.mass, s.shape.height) for s in own])
    ends = np.log([(s.mass, s.shape.height) for s in (thin, thick)])
    found = [thin]
    for share in np.arange(1, steps - 1) / (steps - 1):
        wanted = ends[0] + share * (ends[1] - ends[0])
        found.append(own[int(np.argmin(np.abs(sizes - wanted).sum(axis=1)))])
    return tuple(dict.fromkeys((*found, thick)))
