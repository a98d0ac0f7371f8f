"""What the clauses of former versions of the format took, gave and had for values, as data.

A file ``version_N.json`` a version, by kind: its title, what it ``takes`` and ``gives``, and the
defaults of its ``values``. They never change.
"""

from __future__ import annotations

import json
from collections.abc import Mapping
from dataclasses import dataclass, field
from functools import cache
from pathlib import Path
from typing import Any

from ...clauses.base import Take

__all__ = ["FormerKind", "former_kinds"]


@dataclass(frozen=True)
class FormerKind:
    """A kind of clauses as it was: what it takes and gives, and the defaults of its ``values``."""

    title: str
    takes: tuple[Take, ...]
    gives: str
    values: Mapping[str, Any]
    begins: Mapping[str, Any] = field(default_factory=dict)


@cache
def former_kinds(version: int) -> Mapping[str, FormerKind]:
    """All kinds of clauses of a former version of the format by name."""
    file = Path(__file__).parent / f"version_{version}.json"
    return {
        name: FormerKind(
            title=said["title"],
            takes=tuple(Take(**take) for take in said["takes"]),
            gives=said["gives"],
            values=said["values"],
        )
        for name, said in json.loads(file.read_text(encoding="utf-8")).items()
    }
