"""How much memory results take, as far as their arrays go."""

from __future__ import annotations

from dataclasses import fields, is_dataclass
from typing import Any

import numpy as np

__all__ = ["bytes_of"]

LEAST = 512
"""Bytes an object is taken to have besides its arrays."""
DEEPEST = 6


def bytes_of(thing: Any) -> int:
    """Bytes of all different arrays within a result, through dataclasses, lists and mappings."""
    seen: set[int] = set()

    def size(item: Any, depth: int) -> int:
        while isinstance(item, np.ndarray) and isinstance(item.base, np.ndarray):
            item = item.base
        if isinstance(item, str | int | float | bool | type(None)) or id(item) in seen:
            return 0
        seen.add(id(item))
        if isinstance(item, np.ndarray):
            return int(item.nbytes)
        if depth > DEEPEST:
            return LEAST
        if is_dataclass(item) and not isinstance(item, type):
            return LEAST + sum(size(getattr(item, f.name, None), depth + 1) for f in fields(item))
        if isinstance(item, dict):
            return LEAST + sum(size(v, depth + 1) for v in item.values())
        if isinstance(item, list | tuple):
            return sum(size(v, depth + 1) for v in item)
        return LEAST

    return size(thing, 0)
