"""STEP of a pack: what products it has, and how large they are in all."""

from __future__ import annotations

import re
from typing import TYPE_CHECKING

from .pack_files import Pack, PackError

if TYPE_CHECKING:
    from ..readers.step import Measured

__all__ = ["step_in"]

PRODUCT = re.compile(r"\bPRODUCT\s*\(\s*'([^']*)'")
"""Labels of solids, as names of products."""


def step_in(pack: Pack, name: str) -> tuple[list[str], Measured] | None:
    """Names of the products of a file and its measures; ``None`` where there is no such file.

    Raises ``PackError`` where it cannot be read.
    """
    path = pack.folder / name
    if not path.is_file():
        return None
    from ..readers.step import measured_step

    content = path.read_bytes()
    try:
        found = measured_step(content)
    except Exception as error:
        raise PackError(f"{name} cannot be read: {error}") from None
    return PRODUCT.findall(content.decode("utf-8", "replace")), found
