"""Members as the files of a pack tell of them, in straight pieces."""

from __future__ import annotations

from dataclasses import dataclass
from functools import cached_property

import numpy as np
from numpy.typing import NDArray

from ...core.sections import UnknownSection, find
from .pack_files import Found, Pack, PackError, Row, beyond, number_in, vector_in

__all__ = ["Members", "members_of", "pieces_of_members"]

Array = NDArray[np.float64]


@dataclass(frozen=True)
class Members:
    """Rows (n) of members.csv and their straight pieces (p), member after member: those that
    pieces.csv tells, or one from node to node; lengths in metres.

    ``row`` (p,) is the member of a piece and ``nodes`` (p,) the labels of the two it runs between;
    ``start`` and ``end`` (p, 3) are places of its axis, ``up`` (p, 3) the direction of the
    section's height, ``back`` (p, 2) the set-backs at ends of members, 0 between; ``height``,
    ``width`` and ``round`` (p,) tell the section.
    """

    rows: list[Row]
    row: NDArray[np.int64]
    nodes: list[tuple[str, str]]
    start: Array
    end: Array
    up: Array
    back: Array
    height: Array
    width: Array
    round: NDArray[np.bool_]

    @cached_property
    def lengths(self) -> Array:
        """Of pieces (p,)."""
        return np.linalg.norm(self.end - self.start, axis=1)

    @cached_property
    def axis(self) -> Array:
        return (self.end - self.start) / np.maximum(self.lengths, 1e-12)[:, None]

    @cached_property
    def side(self) -> Array:
        return np.cross(self.up, self.axis)

    @cached_property
    def first(self) -> NDArray[np.int64]:
        """The first piece (n,) of each member."""
        return np.searchsorted(self.row, np.arange(len(self.rows)))

    @cached_property
    def count(self) -> NDArray[np.int64]:
        """Number of pieces (n,) of each member."""
        return np.bincount(self.row, minlength=len(self.rows))

    @cached_property
    def whole(self) -> Array:
        """Lengths (n,) of members along their axes."""
        return np.bincount(self.row, self.lengths, minlength=len(self.rows)).astype(float)


def members_of(pack: Pack) -> Members | None:
    """Members of a pack; ``None`` where there are none or a node is missing, which another check
    tells."""
    if "members" not in pack.kept:
        pack.kept["members"] = _members_of(pack)
    found: Members | None = pack.kept["members"]
    return found


def _members_of(pack: Pack) -> Members | None:
    rows = pack.rows("members")
    told = _pieces_by_member(pack)
    ends = [r[e] for r in (*rows, *pack.rows("pieces")) for e in ("start", "end")]
    if not rows or any(node not in pack.nodes for node in ends):
        return None
    pieces = [_Piece.of(row, k, pack, told.get(row["label"], [])) for k, row in enumerate(rows)]
    every = [piece for own in pieces for piece in own]
    sizes = [_size(rows[piece.row]["section"]) for piece in every]
    return Members(
        rows=rows,
        row=np.array([piece.row for piece in every]),
        nodes=[piece.nodes for piece in every],
        start=np.array([piece.places[0] for piece in every]),
        end=np.array([piece.places[1] for piece in every]),
        up=np.array([piece.up for piece in every]),
        back=np.array([piece.back for piece in every]),
        height=np.array([s[0] for s in sizes]),
        width=np.array([s[1] for s in sizes]),
        round=np.array([s[2] for s in sizes]),
    )


@dataclass(frozen=True)
class _Piece:
    """A straight piece of the member in a ``row``; the fields are those of ``Members``."""

    row: int
    nodes: tuple[str, str]
    places: Array
    up: Array
    back: tuple[float, float]

    @classmethod
    def of(cls, member: Row, row: int, pack: Pack, told: list[Row]) -> list[_Piece]:
        """The pieces of a member: those that are ``told``, or one from node to node."""
        first, last = (number_in(member, f"{e}_setback_mm", "members") for e in ("start", "end"))
        out = []
        for n, piece in enumerate(told or [member]):
            nodes = (piece["start"], piece["end"])
            up = vector_in(piece, "pieces" if told else "members", "up_{}")
            off = _offsets(piece) if told else _lifted(member, up)
            back = (first / 1000 if n == 0 else 0.0, last / 1000 if n + 1 >= len(told) else 0.0)
            places = np.stack([pack.nodes[node] for node in nodes]) + off
            out.append(cls(row, nodes, places, up, back))
        return out


def _pieces_by_member(pack: Pack) -> dict[str, list[Row]]:
    told: dict[str, list[Row]] = {}
    for row in pack.rows("pieces"):
        told.setdefault(row["member"], []).append(row)
    return told


def _offsets(piece: Row) -> Array:
    """From the two nodes of a piece to its axis (2, 3) in metres."""
    forms = (f"{end}_off_{{}}_mm" for end in ("start", "end"))
    return np.stack([vector_in(piece, "pieces", form) for form in forms]) / 1000


def _lifted(row: Row, up: Array) -> Array:
    """The same of a member that lies as far above both nodes."""
    return np.tile(number_in(row, "lift_mm", "members") / 1000 * up, (2, 1))


def _size(name: str) -> tuple[float, float, bool]:
    """Height and width (m) of a section as its name tells, and whether it is round."""
    try:
        shape = find(name).shape
    except UnknownSection:
        raise PackError(f"members.csv: “{name}” names no section") from None
    return shape.height, shape.width, shape.round


def pieces_of_members(pack: Pack) -> Found:
    """Pieces follow each other from a member's start to its end, as long as they are said to be
    (mm)."""
    known = {r["label"] for r in pack.rows("members")}
    for row in pack.rows("pieces"):
        where = f"{row['member']} in pieces.csv"
        yield beyond(row["member"] not in known), f"{where}: there is no such member"
        for end in ("start", "end"):
            yield beyond(row[end] not in pack.nodes), f"{where}: node {row[end]} is not there"
    m = members_of(pack)
    told = _pieces_by_member(pack)
    if m is None:
        return
    for k, row in enumerate(m.rows):
        if row["label"] in told:
            yield from _follow_each_other(m, k, told[row["label"]])


def _follow_each_other(m: Members, member: int, own: list[Row]) -> Found:
    """Of the pieces of one member."""
    row, first = m.rows[member], int(m.first[member])
    where = f"{row['label']} in pieces.csv"
    numbers = [r["piece"] for r in own]
    yield beyond(numbers != [str(n + 1) for n in range(len(own))]), f"{where}: numbers"
    ends = [row["start"], *(r["end"] for r in own)]
    starts = [*(r["start"] for r in own), row["end"]]
    yield beyond(ends != starts), f"{where}: nodes do not follow each other"
    turned = np.abs(m.up[first] - vector_in(row, "members", "up_{}")).max()
    yield 1000 * float(turned), f"{where}: height in members.csv"
    lift = float(_offsets(own[0])[0] @ m.up[first]) * 1000
    yield abs(lift - number_in(row, "lift_mm", "members")), f"{where}: lift in members.csv"
    for n, piece in enumerate(own):
        length = float(m.lengths[first + n]) * 1000
        yield abs(length - number_in(piece, "length_mm", "pieces")), f"{where}: length"
    apart = np.abs(m.start[first + 1 : first + len(own)] - m.end[first : first + len(own) - 1])
    yield float(apart.max(initial=0.0)) * 1000, f"{where}: pieces are apart"
