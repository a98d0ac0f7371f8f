"""Scattered heights from text, and pictures."""

from __future__ import annotations

import io
import re

import numpy as np
from PIL import Image, UnidentifiedImageError

from ...core.shaping.brought import Heights, Picture, ReadProblem

__all__ = ["LARGEST_PICTURE", "open_picture", "read_heights", "read_picture"]

MOST_PLACES = 200_000
LARGEST_PICTURE = 40_000_000
"""Pixels."""


def read_heights(content: bytes, ending: str) -> Heights:
    """Places from lines of x, y and z, parted by commas, semicolons, tabs or spaces; words in the
    first line are passed over, lines that begin with # too."""
    try:
        text = content.decode("utf-8-sig")
    except UnicodeDecodeError:
        raise ReadProblem("it is not text; lines of x, y and z are wanted.") from None
    rows: list[list[float]] = []
    for number, line in enumerate(text.splitlines(), 1):
        plain = line.strip()
        if not plain or plain.startswith("#"):
            continue
        semicolons = ";" in plain
        words = [w for w in re.split(r"[;\s]+" if semicolons else r"[,\s]+", plain) if w]
        try:
            values = [float(w.replace(",", ".") if semicolons else w) for w in words[:3]]
        except ValueError:
            if not rows and number <= 3:
                continue
            raise ReadProblem(
                f"line {number:,} is “{plain[:40]}”; three numbers x, y and z are wanted."
            ) from None
        if len(values) < 3:
            raise ReadProblem(
                f"line {number:,} holds {len(values)} number{'s' if len(values) != 1 else ''}; three are wanted."
            )
        if not np.isfinite(values).all():
            raise ReadProblem(
                f"line {number:,} holds “{plain[:40]}”, which is not a number that can be used."
            )
        rows.append(values)
        if len(rows) > MOST_PLACES:
            raise ReadProblem(f"it holds more than {MOST_PLACES:,} places.")
    if not rows:
        raise ReadProblem("it holds no places.")
    return Heights(np.array(rows))


def open_picture(content: bytes) -> Image.Image:
    """A PNG or JPEG picture; raises ``ReadProblem`` for anything else or one of absurd size."""
    try:
        picture = Image.open(io.BytesIO(content), formats=("PNG", "JPEG"))
        if picture.width * picture.height > LARGEST_PICTURE:
            raise ReadProblem(
                f"it has {picture.width:,} × {picture.height:,} pixels; at most {LARGEST_PICTURE:,} altogether are read."
            )
        picture.load()
    except UnidentifiedImageError:
        raise ReadProblem("it is not a PNG or JPEG picture.") from None
    except (OSError, SyntaxError, Image.DecompressionBombError) as error:
        raise ReadProblem(f"the picture is damaged ({str(error)[:100]}).") from None
    return picture


def read_picture(content: bytes, ending: str) -> Picture:
    """Brightness of a picture."""
    return Picture(np.asarray(open_picture(content).convert("L"), float) / 255)
