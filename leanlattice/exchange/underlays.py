"""The straightened picture of an underlay."""

from __future__ import annotations

import io

from PIL import Image

from ..clauses.shape.files import Underlay
from ..core.shaping.pictures import homography
from .readers.heights import open_picture

__all__ = ["straightened_png"]

LONGEST = 1600
"""Pixels along the longer side."""


def straightened_png(underlay: Underlay, content: bytes) -> bytes:
    """PNG in which the rectangle of the four corners is upright and in its true proportions."""
    picture = open_picture(content).convert("RGB")
    width, height = underlay.size
    scale = LONGEST / max(width, height)
    columns, rows = max(round(width * scale), 2), max(round(height * scale), 2)
    matrix = homography(underlay.corners * [picture.width, picture.height], columns, rows)
    matrix = matrix / matrix[2, 2]
    straight = picture.transform(
        (columns, rows),
        Image.Transform.PERSPECTIVE,
        tuple(float(v) for v in matrix.ravel()[:8]),
        Image.Resampling.BILINEAR,
        fillcolor=(247, 241, 227),
    )
    out = io.BytesIO()
    straight.save(out, "PNG", compress_level=3)
    return out.getvalue()
