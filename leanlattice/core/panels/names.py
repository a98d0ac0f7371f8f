"""Names and types of panels."""

from __future__ import annotations

from dataclasses import dataclass
from functools import cached_property
from typing import Any

import numpy as np
from numpy.typing import NDArray

from ..naming.numbering import ROW, median_side, numbers_by_stage
from ..results import remembered
from .outlines import outlines_of_panels
from .panels import Panels
from .shapes import shape_types

__all__ = ["PanelNames", "names_of_panels"]

Index = NDArray[np.int32]
Positions = NDArray[np.integer[Any]]


@dataclass(frozen=True, eq=False)
class PanelNames:
    """Numbers (n,) and types from 1 of panels; a letter stands before each, and the series before
    that."""

    panels_named: Panels
    panel: Index

    @property
    def series(self) -> str:
        """What stands before all names."""
        return self.panels_named.series

    @cached_property
    def panel_type(self) -> Index:
        """Types (n,) from 1 of panels; names are there sooner."""
        return _panel_types(self.panels_named)

    @property
    def prefixes(self) -> dict[str, str]:
        """What stands before the numbers of panels, and of their types."""
        return {"panel": f"{self.series}P", "panelType": f"{self.series}Q"}

    def panels(self, which: Positions) -> list[str]:
        """Labels of panels (n,)."""
        return [f"{self.prefixes['panel']}{n}" for n in self.panel[which].tolist()]

    def types(self, which: Positions) -> list[str]:
        """Labels of the types of panels (n,)."""
        return [f"{self.prefixes['panelType']}{n}" for n in self.panel_type[which].tolist()]

    @property
    def every_panel(self) -> list[str]:
        """Labels of all panels."""
        return self.panels(np.arange(len(self.panel), dtype=np.int32))


@remembered
def names_of_panels(panels: Panels) -> PanelNames:
    """Names by position in the panels' series, and types of those that are equal within their
    tolerance; panels of different corner counts have different types."""
    depth = {0: ROW * median_side(panels.places, panels.sides)} if panels.count else {}
    one_stage = np.zeros(panels.count, np.int32)
    number = numbers_by_stage(panels.station, one_stage, depth)
    return PanelNames(panels, number)


def _panel_types(panels: Panels) -> Index:
    """Types from 1 by shapes; those whose edges could not be worked are of types of their own."""
    types = shape_types(panels)
    if not panels.edges.are_worked:
        return types + 1
    bare = ~outlines_of_panels(panels).done
    _, number = np.unique(2 * types + bare, return_inverse=True)
    return (number + 1).astype(np.int32)
