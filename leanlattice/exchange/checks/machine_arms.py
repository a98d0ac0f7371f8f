"""Arms of node plates as they enter members that machines are told of."""

from __future__ import annotations

from typing import NamedTuple

import numpy as np
import shapely
from numpy.typing import NDArray

from ...core.sections import find
from .folded import Folded, folded_up
from .pack_files import Pack, Row, number_in
from .pack_members import Members, members_of
from .pack_saddles import radii_of

__all__ = ["ENDS", "Arm", "arms_of"]

Array = NDArray[np.float64]
ENDS = ("start", "end")
KEPT = "arms in members"


class Arm(NamedTuple):
    """An arm by its ``row`` of plate_arms.csv: how ``thick`` and ``wide`` it is and how ``deep`` in
    its member in mm, whether it ``cuts`` the section, where its bolts are along the member's axis,
    and the unit direction (2,) ``across`` it by the section's width and height, where drawings
    tell that."""

    row: Row
    thick: float
    wide: float
    deep: float
    cuts: bool
    bolts: list[float]
    across: Array | None

    @property
    def hole(self) -> float:
        return number_in(self.row, "hole_mm", "plate_arms")


def arms_of(pack: Pack) -> dict[tuple[str, int], Arm]:
    """Arms by the labels of members and which end of these they enter; worked out once."""
    if KEPT not in pack.kept:
        m = members_of(pack)
        pack.kept[KEPT] = {} if m is None else _arms_of(pack, m)
    found: dict[tuple[str, int], Arm] = pack.kept[KEPT]
    return found


def _arms_of(pack: Pack, m: Members) -> dict[tuple[str, int], Arm]:
    plates = folded_up(pack, "node_plates") if pack.rows("plate_arms") else {}
    known = {row["label"]: row for row in pack.rows("node_plates")}
    row_of = {row["label"]: k for k, row in enumerate(m.rows)}
    out = {}
    for row in pack.rows("plate_arms"):
        if row["member"] in row_of and row["end"] in ENDS and row["plate"] in known:
            k, end = row_of[row["member"]], ENDS.index(row["end"])
            plate = plates.get(row["plate"])
            across = None if plate is None else _across(m, k, end, plate, row)
            out[row["member"], end] = _arm(m.rows[k], row, known[row["plate"]], across)
    return out


def _arm(member: Row, row: Row, plate: Row, across: Array | None) -> Arm:
    thick = number_in(plate, "thickness_mm", "node_plates")
    wide = number_in(row, "width_mm", "plate_arms")
    cuts = True
    if find(member["section"]).shape.round:
        inside = radii_of(member["section"], 1.0)[1] * 2000
        cuts = bool(wide**2 + thick**2 > inside**2)
    bolts = [float(at) for at in row["holes_at_mm"].split()]
    return Arm(row, thick, wide, number_in(row, "enters_mm", "plate_arms"), cuts, bolts, across)


def _across(m: Members, k: int, end: int, plate: Folded, row: Row) -> Array:
    """The direction (2,) across an arm, as its plate is folded up from the drawing: of the face
    that lies along the axis where the arm ends."""
    piece = int(m.first[k] + (m.count[k] - 1 if end else 0))
    width, up, way = m.frame(piece, end)
    at = (m.end if end else m.start)[piece] * 1000
    tip = at + number_in(row, "to_mm", "plate_arms") * (-way if end else way)
    off = []
    for frame, face in zip(plate.frames, plate.faces, strict=True):
        flat = shapely.Point((tip - frame[0]) @ frame[1], (tip - frame[0]) @ frame[2])
        off.append(abs((tip - frame[0]) @ frame[3]) + face.distance(flat))
    normal = plate.frames[int(np.argmin(off))][3]
    across = np.array([normal @ width, normal @ up])
    return np.asarray(across / np.linalg.norm(across))
