"""The clause that parts a body by the cells of a net."""

from __future__ import annotations

from typing import ClassVar, Literal

import numpy as np

from ...core.geometry.meshes import Body
from ...core.geometry.nets import Net
from ...core.shaping.parted import FoldedCell, parted_by_cells, together
from ...core.shaping.solids import SolidError
from ..base import Clause, ClauseError, Figure, Made, Notice, Take, Work, choice, headline, number
from ..lattice.common import NET, place_of
from ..said import metres, mm
from ..shape.common import body_needed, made

__all__ = ["PartByCells"]

MOST_PIECES = 4_000
LEFT = 1e-3
"""Share of a body that may be in no piece, and not taken by joints, without a word."""


class PartByCells(Clause):
    kind = "part-by-cells"
    chapter = "Frame"
    title = "Part a body by cells"
    summary = "A piece of the body for every cell of a net; walls stand on its edges, square to it."
    sentence = (
        "**Part** the body by the cells of the net, {reach} to both sides of it, those at its "
        "border {border}, with joints of {joint}."
    )
    takes: ClassVar[tuple[Take, ...]] = (
        Take(name="body", types=("Shape",), label="Body"),
        NET,
    )
    gives = "Shape"

    reach: float = number(
        0.5, "m", 0.001, 1000.0, 0.1, "Reach", "What lies farther from the net is left out"
    )
    border: Literal["beyond", "net"] = choice(
        "beyond",
        {"beyond": "going on beyond it as far", "net": "ending there"},
        "At the border",
    )
    joint: float = number(10.0, "mm", 0.0, 1000.0, 1.0, "Joint", "Between neighbouring pieces")

    def make(self, work: Work) -> Made:
        body, net = body_needed(work.inputs["body"], "Parting works"), work.inputs["net"]
        if net.cell_count > MOST_PIECES:
            raise ClauseError(
                f"The net has {net.cell_count:,} cells; at most {MOST_PIECES:,} can be pieces. "
                "Larger cells would work."
            )
        try:
            pieces = parted_by_cells(
                body, net, self.reach, self.joint / 1000, self.border == "beyond", work.progress
            )
        except FoldedCell as error:
            corners = net.corners[net.offsets[error.cell] : net.offsets[error.cell + 1]]
            raise ClauseError(
                f"Walls {metres(self.reach)} to both sides of the net, with joints of "
                f"{mm(self.joint)}, "
                "meet each other over a cell; less reach or a narrower joint would leave room.",
                "reach",
                net.vertices[corners].mean(axis=0),
            ) from None
        except SolidError as error:
            raise ClauseError(str(error)) from None
        volumes = np.array([piece.volume for piece in pieces])
        if not (volumes > 0).any():
            raise ClauseError(
                "The body lies over or under none of the cells; another net, or more reach, would "
                "part it.",
                "reach",
            )
        return made(together(pieces), self._figures(volumes), self._left_out(body, net, volumes))

    def _figures(self, volumes: np.ndarray) -> dict[str, Figure]:
        some = volumes[volumes > 0]
        return {
            "pieces": headline("Pieces", len(some)),
            "largest_piece": Figure("Largest piece", float(some.max()) * 1000, "dm³", 1),
            "smallest_piece": Figure("Smallest piece", float(some.min()) * 1000, "dm³", 1),
        }

    def _left_out(self, body: Body, net: Net, volumes: np.ndarray) -> list[Notice]:
        """What is told of cells without a piece, and of what lies in none."""
        out = []
        empty = np.flatnonzero(volumes <= 0)
        if empty.size:
            corners = net.corners[net.offsets[empty[0]] : net.offsets[empty[0] + 1]]
            text = (
                f"{empty.size} {'cells have' if empty.size > 1 else 'cell has'} nothing of the "
                "body over or under them; more reach, or a net that lies in it, would."
            )
            at = place_of(net.vertices[corners].mean(axis=0))
            out.append(Notice(text, "cell", tuple(map(int, empty[:2000])), at, "reach"))
        left = 1 - float(volumes.sum()) / body.volume
        if left > LEFT and not self.joint:
            text = (
                f"{left:.1%} of the body is in no piece: it lies farther from the net than "
                f"{metres(self.reach)}, or beside it."
            )
            out.append(Notice(text, value="reach"))
        return out
