"""The clause that gives cells of a net depth: plates, rings about openings, or one pierced
shell."""

from __future__ import annotations

from dataclasses import replace
from functools import partial
from typing import ClassVar, Literal

import numpy as np
from numpy.typing import NDArray

from ...core.geometry.nets import MARKS, Net
from ...core.geometry.polygons import areas
from ...core.materials import MASSES, MATERIALS, SHEETS
from ...core.nets.insets import reaches
from ...core.solids.deepened import Deepened, Depth, Opening, TurnedOver, deepened
from ...core.solids.solids import Solids
from ..base import (
    TO_COME,
    Clause,
    ClauseError,
    Figure,
    Made,
    Notice,
    Remedy,
    Take,
    Work,
    choice,
    counted,
    number,
)
from ..by_size import CELL_DEPTHS
from ..catalogue import SERIES
from ..lattice.common import NET, check_size, place_of
from ..said import metres, mm
from ..shape.common import PULLS, share_of_pulls
from ..solids import figures_of, types_of

__all__ = ["DeepenCells"]

Array = NDArray[np.float64]
WORDS = {name: MATERIALS[name].title for name in (*MASSES, "GL24h", "S355", *SHEETS)}
SHORT = 0.4
"""Share of the usual length below which it is an edge that is in the way, not the depth."""
ARC = 6
"""Chords of a rounded corner."""


class DeepenCells(Clause):
    kind = "deepen"
    chapter = "Frame"
    title = "Deepen cells"
    builds = "coffers"
    summary = (
        "Cells as solids whose sides meet on mitres: plates, rings about openings, a pierced shell."
    )
    sentence = (
        "**Deepen** the cells to {depth} of {material}, {side}[side=outside,inside| and {away} "
        "away from the net], {form}[form=frames| {width} wide][form=even,height,pulls| of {share}]"
        "[form=height| at the foot to {other} at the top][form=pulls| to {other} at them]"
        "[form=even,height,pulls| of the cell][form=even,height,pulls,frames|, rounded by "
        "{radius}], {made_as}[made_as=pieces| with joints of {joint}].¦ Named {series}, those equal "
        "within {alike} being of one type."
    )
    takes: ClassVar[tuple[Take, ...]] = (NET, PULLS)
    gives = "Solids"

    depth: float = number(
        0.2, "m", 0.0005, 20.0, 0.01, "Depth", "From face to face", by_size=CELL_DEPTHS
    )
    material: str = choice("concrete", WORDS, "Material")
    side: Literal["inside", "middle", "outside"] = choice(
        "inside",
        {
            "inside": "inside of the net",
            "middle": "to both sides of the net",
            "outside": "outside of the net",
        },
        "Side",
    )
    away: float = number(0.0, "m", 0.0, 20.0, 0.01, "Away", "Between the net and the nearer face")
    form: Literal["whole", "even", "height", "pulls", "frames"] = choice(
        "whole",
        {
            "whole": "whole",
            "even": "about openings",
            "height": "about openings that change with height,",
            "pulls": "about openings that change near pulls,",
            "frames": "as frames about openings,",
        },
        "Form",
        pictured=True,
    )
    share: float = number(50.0, "%", 1.0, 95.0, 1.0, "Opening", "Of the way to the cell's corners")
    other: float = number(80.0, "%", 1.0, 95.0, 1.0, "Largest opening", "At the top, or at pulls")
    width: float = number(
        0.1, "m", 0.001, 20.0, 0.01, "Width", "Of a frame along each side, the joint included"
    )
    radius: float = number(0.05, "m", 0.0, 100.0, 0.01, "Radius", "Clamped where it does not fit")
    made_as: Literal["pieces", "one"] = choice(
        "pieces", {"pieces": "each cell by itself", "one": "all cells as one shell"}, "Made"
    )
    joint: float = number(0.0, "mm", 0.0, 500.0, 1.0, "Joint", "On the net")
    series: Literal["", "A", "B", "C", "D"] = choice("", SERIES, "Series")
    alike: float = number(
        1.0, "mm", 0.01, 200.0, 0.1, "Tolerance of types", "What solids of one type may differ by"
    )

    def make(self, work: Work) -> Made:
        net: Net = work.inputs["net"]
        check_size(len(net.corners) * (ARC if self.form != "whole" else 1), "form")
        opening = None
        if self.form != "whole":
            share = None if self.form == "frames" else 1 - self._shares(work, net)
            opening = Opening(share, self.radius, ARC if self.radius else 1, self.width)
        try:
            found = deepened(
                net,
                self._depths(),
                self.material,
                opening,
                self.joint / 1000,
                self.made_as == "one",
            )
        except TurnedOver as error:
            raise self._no_room(net, error) from None
        solids = self._named(net, found)
        figures = figures_of(solids)
        if opening is not None and opening.share is not None:
            figures["opening"] = self._openings(1 - opening.share)
        if self.made_as == "pieces":
            figures["solid_types"] = TO_COME
        later = partial(types_of, solids) if self.made_as == "pieces" else None
        return Made(solids, figures, self._narrow(net, found) + self._clamped(found), later)

    def _depths(self) -> Depth:
        if self.side == "middle":
            return Depth(self.depth / 2, -self.depth / 2)
        if self.side == "outside":
            return Depth(self.away + self.depth, self.away)
        return Depth(-self.away, -self.away - self.depth)

    def _shares(self, work: Work, net: Net) -> Array:
        """How large the opening of each cell (C,) is, as a share of the cell's reach."""
        least, most = self.share / 100, self.other / 100
        middles = net.cell_means
        if self.form == "height":
            height = middles[:, 2]
            rise = (height - height.min()) / max(float(np.ptp(height)), 1e-9)
            return np.asarray(least + rise * (most - least))
        if self.form == "pulls":
            far = share_of_pulls(work, middles, "form", "let openings be alike everywhere")
            return np.asarray(most + far * (least - most))
        return np.full(net.cell_count, least)

    def _named(self, net: Net, found: Deepened) -> Solids:
        """The solids with their series, and grouped by the marks of cells where there are some."""
        group = None
        marks = net.cell_marks
        if marks is not None and marks.any() and len(found.cells):
            group = marks[found.cells].astype(np.int32)
        return replace(
            found.solids,
            series=self.series,
            tolerance=self.alike / 1000,
            groups=MARKS if group is not None else (),
            group=group,
        )

    def _openings(self, shares: Array) -> Figure:
        low, high = shares.min() * 100, shares.max() * 100
        told = f"{low:.0f}" if high - low < 0.5 else f"{low:.0f} to {high:.0f}"
        return Figure("Openings", f"{told} % of the cell")

    def _no_room(self, net: Net, error: TurnedOver) -> ClauseError:
        cell, at = error.cell, net.cell_means[error.cell]
        if error.length < SHORT * float(np.median(net.edge_lengths)):
            needed = float(np.ceil(error.length * 1.01e3)) / 1000
            facts = {"depth": self.depth, "edge": error.length * 1000, "needed": needed}
            title = f"Merge vertices nearer than {metres(needed)}"
            remedy = Remedy(title, {"distance": needed}, kind="merge")
            return ClauseError.of("cells fold over edges", facts, "depth", at, (remedy,))
        area = areas(net.vertices, net.corners, net.offsets)[cell]
        name = f"a cell of {area:.3g} m²"
        joints = f", with joints of {mm(self.joint)}," if self.joint else ""
        return ClauseError(
            f"At {metres(self.depth)} deep{joints} the sides of {name} run into each other; a "
            "shallower one, the other side, narrower joints, or larger cells there would have "
            "room.",
            "depth",
            at,
        )

    def _narrow(self, net: Net, found: Deepened) -> list[Notice]:
        """What is said of cells with no room for the width of their frame."""
        if not len(found.shrunk):
            return []
        cells = counted(len(found.shrunk), "cell has", "cells have")
        room = float(reaches(net)[found.shrunk].min())
        text = (
            f"{cells} no room for a frame {metres(self.width)} wide and got a narrower one; the "
            f"narrowest is {metres(2 * max(room, 0.0), '.3g')} across. A narrower frame, or larger "
            "cells "
            "there, would be alike everywhere."
        )
        which = tuple(map(int, found.shrunk[:2000]))
        at = place_of(net.cell_means[found.shrunk[0]])
        return [Notice(text, "cell", which, at, "width")]

    def _clamped(self, found: Deepened) -> list[Notice]:
        if not len(found.clamped):
            return []
        corners = counted(len(found.clamped), "corner has", "corners have")
        text = (
            f"{corners} no room for a radius of {metres(self.radius)} and got the largest that "
            "fits; a "
            "smaller radius, or larger openings, would be alike everywhere."
        )
        return [Notice(text, at=place_of(found.clamped[0]), value="radius")]
