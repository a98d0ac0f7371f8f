"""Tables: columns by header, and their CSV form."""

from __future__ import annotations

import csv
import io
from collections.abc import Iterable, Sequence
from dataclasses import dataclass, field
from typing import Any

import numpy as np
from numpy.typing import NDArray

__all__ = ["Table", "picked", "rounded", "table_of_rows"]


@dataclass(frozen=True)
class Table:
    """Columns by header; the header carries the unit. ``of`` says what a row is about and ``index``
    where in the result it is; without either it is about nothing one can pick."""

    of: str
    columns: dict[str, list[Any]]
    index: list[int] = field(default_factory=list)

    @property
    def count(self) -> int:
        """Number of rows."""
        return max(map(len, self.columns.values()), default=0)

    def text(self) -> str:
        """CSV with a header line."""
        out = io.StringIO()
        writer = csv.writer(out, lineterminator="\n")
        writer.writerow(self.columns)
        writer.writerows(zip(*self.columns.values(), strict=True))
        return out.getvalue()


def table_of_rows(head: Sequence[str], rows: Iterable[Sequence[Any]]) -> Table:
    """The table of rows about things one cannot pick; ``head`` names their columns."""
    columns: dict[str, list[Any]] = {name: [] for name in head}
    for row in rows:
        for column, value in zip(columns.values(), row, strict=True):
            column.append(value)
    return Table("", columns)


def rounded(values: NDArray[Any], decimals: int) -> list[float]:
    """Numbers to so many decimals, never a negative zero."""
    return [float(v) for v in np.round(values, decimals) + 0.0]


def picked(names: Sequence[str], order: NDArray[Any]) -> list[str]:
    """Names in another order."""
    return [names[i] for i in order]
