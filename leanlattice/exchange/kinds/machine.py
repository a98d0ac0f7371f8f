"""Machine files of structures: which members are in which, and what these tell."""

from __future__ import annotations

from typing import Any

import numpy as np
from numpy.typing import NDArray

from ...core.structure.names import StructureNames, names_of_structure
from ...core.structure.structure import Structure
from ...core.working.machined import LeftOut, Machined, Standard, machined
from ..subjects import Subject
from ..tables import Table, rounded
from .kind import Schedule

__all__ = ["MACHINE", "Told", "told_of"]

STANDARDS = {Standard.NONE: "", Standard.NC: "DSTV NC", Standard.BTLX: "BTLx"}
WHY = {
    LeftOut.NONE: "",
    LeftOut.NOTHING_LEFT: "no length left between its set-backs",
    LeftOut.MATERIAL: "neither of steel nor of timber",
    LeftOut.SECTION: "a section of several pieces, or timber that is not rectangular",
    LeftOut.SWELLS: "swells on its way; machines are told of even sections",
    LeftOut.TIGHT: "turns more than a straight piece can be bent; split it where it turns",
}
"""Why members are in no file."""


class Told:
    """What machine files tell of the structure of a subject: its members by piece and file."""

    def __init__(self, subject: Subject) -> None:
        self.structure: Structure = subject.result
        self.names: StructureNames = subject.once(names_of_structure)
        plates = subject.node_plates
        arms = () if plates is None else (plates.arms, plates.joint)
        self.work: Machined = machined(self.structure, *arms)
        self.btlx = f"{subject.clause}.btlx"

    def label(self, piece: int) -> str:
        """The name of a piece: that of its type, numbered where its members are worked apart."""
        pieces = self.work.pieces
        (name,) = self.names.types(pieces.type[[piece]])
        number = int(pieces.number[piece])
        return f"{name}-{number}" if number else name

    def file(self, piece: int) -> str:
        """The file a piece is told of in, in the folder of these."""
        standard = self.work.standard[self.work.pieces.member[piece]]
        return self.btlx if standard == Standard.BTLX else f"{self.label(piece)}.nc1"


def told_of(subject: Subject) -> Told:
    """What machine files tell of a subject's structure; worked out once."""
    return subject.once_with_all(Told)


def _table(subject: Subject) -> Table:
    """Members by piece and file: how long these are, to what they are bent, and what is worked in
    them."""
    told = told_of(subject)
    work, names = told.work, told.names
    order = names.member_order
    left = [LeftOut(k) for k in work.left_out[order].tolist()]
    is_told = [why is LeftOut.NONE for why in left]
    pieces = work.pieces.piece[order].tolist()
    radii = work.blanks.bend_radii[order]
    standards = [STANDARDS[Standard(s)] for s in work.standard[order].tolist()]
    columns: dict[str, list[Any]] = {
        "member": names.members(order),
        "standard": _if(is_told, standards),
        "file": _if(is_told, [told.file(p) for p in pieces]),
        "piece": _if(is_told, [told.label(p) for p in pieces]),
        "bend_radius_m": [r if np.isfinite(r) else "" for r in rounded(radii, 3)],
        **{name: _if(is_told, counts[order].tolist()) for name, counts in _counts(work).items()},
        "left_out": [WHY[why] for why in left],
    }
    return Table("member", columns, order.tolist())


def _if(told: list[bool], values: list[Any]) -> list[Any]:
    """The values (n,) of members that are told of, and nothing of others."""
    return [value if ok else "" for value, ok in zip(values, told, strict=True)]


def _counts(work: Machined) -> dict[str, NDArray[np.int64]]:
    """How many notches, slots and bolts there are in each member (M,)."""
    members, ends = work.structure.count, work.slots.end // 2
    bolts = len(work.slots.stations) if work.slots.hole else 0
    counted = {
        "notches": np.bincount(work.notches.member, minlength=members),
        "slots": np.bincount(ends[work.slots.is_cut], minlength=members),
        "bolts": bolts * np.bincount(ends, minlength=members),
    }
    return {name: counts.astype(np.int64) for name, counts in counted.items()}


MACHINE = Schedule("machine", _table, "Machine pieces", ("Structure",), group="machine")
