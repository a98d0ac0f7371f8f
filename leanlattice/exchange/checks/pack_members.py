"""Members as the files of a pack tell of them, in straight pieces and arcs."""

from __future__ import annotations

from dataclasses import dataclass
from functools import cached_property

import numpy as np
from numpy.typing import NDArray

from ...core.sections import UnknownSection, find
from .pack_files import Found, Pack, PackError, Row, beyond, number_in, vector_in

__all__ = ["Axes", "Axis", "Members", "axes_at_ends", "ends_at", "members_of", "pieces_of_members"]

Array = NDArray[np.float64]
Axis = tuple[Array, Array, float]
"""A place and a direction of a member's axis at its end, and how far it is cut back, in metres."""
Axes = dict[tuple[str, str], Axis]
"""By members and their ends."""
ROUNDED_M, TURN_ROUNDED_DEG = 1e-6, 1e-4
"""What bulges and turns are rounded by, and more."""
STRAIGHT_M = 2e-9
"""Metres of bulge below which a piece is straight, as it is written to a nanometre."""
CHORD_TURN = np.radians(6.0)
"""Most of a turn that a chord of an arc stands for."""


@dataclass(frozen=True)
class Members:
    """Rows (n) of members.csv and their pieces (p), straight or arcs, member after member: those
    that pieces.csv tells, or one from node to node; lengths in metres.

    ``row`` (p,) is the member of a piece and ``nodes`` (p,) the labels of the two it runs between;
    ``start`` and ``end`` (p, 3) are places of its axis, ``bulge`` (p, 3) leads from its middle to
    the arc's, ``up`` (p, 3) is the direction of the section's height, ``back`` (p, 2) the
    set-backs at ends of members, 0 between; ``height``, ``width`` and ``round`` (p,) tell the
    section, ``centroid`` (p, 2) where its middle of area lies off the axis, along width and height,
    and ``scale`` (p, 3) how much larger it is at the start, in the middle and at the end.
    """

    rows: list[Row]
    row: NDArray[np.int64]
    nodes: list[tuple[str, str]]
    start: Array
    end: Array
    bulge: Array
    up: Array
    back: Array
    scale: Array
    height: Array
    width: Array
    round: NDArray[np.bool_]
    centroid: Array

    @cached_property
    def ends(self) -> dict[str, set[tuple[str, str]]]:
        """Members and their ends by the nodes they are at."""
        out: dict[str, set[tuple[str, str]]] = {}
        for row in self.rows:
            for end in ("start", "end"):
                out.setdefault(row[end], set()).add((row["label"], end))
        return out

    @cached_property
    def chord(self) -> Array:
        """From end to end (p,)."""
        return np.linalg.norm(self.end - self.start, axis=1)

    @cached_property
    def turn(self) -> Array:
        """By how much (p,) arcs turn, in radians: four times the angle at the chord's end between
        it and the middle of the arc."""
        rise = np.linalg.norm(self.bulge, axis=1)
        return np.where(rise > STRAIGHT_M, 4 * np.arctan2(rise, self.chord / 2), 0.0)

    @cached_property
    def lengths(self) -> Array:
        """Of pieces (p,): of an arc its radius times its turn."""
        half = np.where(self.turn > 0, self.turn / 2, 1.0)
        return np.where(self.turn > 0, self.chord * half / np.sin(half), self.chord)

    @cached_property
    def axis(self) -> Array:
        """Along chords (p, 3)."""
        return (self.end - self.start) / np.maximum(self.chord, 1e-12)[:, None]

    @cached_property
    def ways(self) -> Array:
        """Directions (p, 2, 3) in which the axis leaves the start of a piece and comes to its
        end."""
        outward = self.bulge / np.maximum(np.linalg.norm(self.bulge, axis=1), 1e-12)[:, None]
        along = np.cos(self.turn / 2)[:, None] * self.axis
        aside = np.sin(self.turn / 2)[:, None] * outward
        return np.stack([along + aside, along - aside], axis=1)

    @cached_property
    def frames(self) -> Array:
        """Widths, heights and ways (p, 2, 3, 3) of sections at either end of pieces."""
        ups = [_turned_with(self.up, self.axis, self.ways[:, end]) for end in (0, 1)]
        up = np.stack(ups, axis=1)
        return np.stack([np.cross(up, self.ways), up, self.ways], axis=2)

    def frame(self, piece: int, end: int) -> Array:
        """Width, height and way (3, 3) of a section at an end of a piece."""
        return np.asarray(self.frames[piece, end])

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

    @cached_property
    def is_even(self) -> NDArray[np.bool_]:
        """Whether the section (n,) of each member is as large all along."""
        off = np.abs(self.scale - 1).max(axis=1)
        return np.bincount(self.row, off, minlength=len(self.rows)) == 0

    def knots(self, member: int) -> tuple[Array, Array]:
        """Metres along a member at which its cones meet, eight a piece, and the section's scale
        there: on the parabola through that at the start, in the middle and at the end."""
        pieces = slice(self.first[member], self.first[member] + self.count[member])
        share, run, size = np.linspace(0, 1, 9)[1:], [np.zeros(1)], [self.scale[pieces.start, :1]]
        for (start, middle, end), length in zip(
            self.scale[pieces], self.lengths[pieces], strict=True
        ):
            bent = np.polynomial.Polynomial.fit([0, 0.5, 1], [start, middle, end], 2)
            run.append(run[-1][-1] + share * length)
            size.append(bent(share))
        return np.concatenate(run), np.concatenate(size)

    @cached_property
    def of_centroids(self) -> Array:
        """Lengths (n,) of the lines along which centroids run: by as much other than the axes as
        these turn, times how far the centroid is to the outside."""
        off = self.centroid[:, :1] * self.side + self.centroid[:, 1:] * self.up
        outward = self.bulge / np.maximum(np.linalg.norm(self.bulge, axis=1), 1e-12)[:, None]
        more = np.einsum("ij,ij->i", off, outward) * self.turn
        out = self.whole + np.bincount(self.row, more, minlength=len(self.rows))
        for p in np.flatnonzero(self.row[:-1] == self.row[1:]).tolist():
            came, leaves = self.ways[p, 1], self.ways[p + 1, 0]
            half = np.sqrt(max((1 + came @ leaves) / 2, 1e-12))
            out[self.row[p]] += (off[p] + off[p + 1]) / 2 @ (came - leaves) / half
        return out

    def straight(self, off: float) -> Members:
        """The same with arcs as chords of small turns that are ``off`` them by no more, in metres;
        their inner ends are at no node."""
        if not self.turn.any():
            return self
        rows, share, beyond_it = self._parts(self._chords(off))
        start, end = self._places(rows, share), self._places(rows, beyond_it)
        axis = (end - start) / np.linalg.norm(end - start, axis=1, keepdims=True)
        before, after = share * self.lengths[rows], (1 - beyond_it) * self.lengths[rows]
        first, last = _ends_of_runs(rows)
        of_piece = [self.nodes[p] for p in rows.tolist()]
        starts = [n[0] if a else "" for n, a in zip(of_piece, first.tolist(), strict=True)]
        ends = [n[1] if b else "" for n, b in zip(of_piece, last.tolist(), strict=True)]
        back = (self.back[rows] - np.column_stack([before, after])) * np.column_stack([first, last])
        return Members(
            rows=self.rows,
            row=self.row[rows],
            nodes=list(zip(starts, ends, strict=True)),
            start=start,
            end=end,
            bulge=np.zeros_like(start),
            up=_turned_with(self.up[rows], self.axis[rows], axis),
            back=back,
            scale=self.scale[rows],
            height=self.height[rows],
            width=self.width[rows],
            round=self.round[rows],
            centroid=self.centroid[rows],
        )

    def _parts(self, counts: NDArray[np.int64]) -> tuple[NDArray[np.int64], Array, Array]:
        """The pieces (k,) that parts are of, and from which share of them to which, of pieces that
        are parted in so many (p,). Parts that lie within set-backs are left out, but for the first
        where that would leave none."""
        rows = np.repeat(np.arange(len(self.row)), counts)
        share = np.concatenate([np.linspace(0, 1, n + 1)[:-1] for n in counts])
        beyond_it = share + 1 / counts[rows]
        lengths, back = self.lengths[rows], self.back[rows]
        left = (beyond_it * lengths > back[:, 0]) & ((1 - share) * lengths > back[:, 1])
        left |= (counts[rows] == 1) | ((np.bincount(rows, left)[rows] == 0) & (share == 0))
        return rows[left], share[left], beyond_it[left]

    def _chords(self, off: float) -> NDArray[np.int64]:
        """In how many chords (p,) pieces are parted so that these are ``off`` by no more."""
        radius = self.lengths / np.where(self.turn > 0, self.turn, np.inf)
        radius = np.maximum(radius, off)
        step = 2 * np.arccos(np.maximum(1 - off / radius, np.cos(CHORD_TURN / 2)))
        return np.maximum(np.ceil(self.turn / step), 1).astype(np.int64)

    def _places(self, piece: NDArray[np.int64], share: Array) -> Array:
        """Places (k, 3) at shares (k,) of the turns of pieces (k,), of straight ones of their
        lengths."""
        chord = self.end[piece] - self.start[piece]
        half = np.where(self.turn > 0, self.turn / 2, 1.0)[piece]
        radius = self.chord[piece] / 2 / np.sin(half)
        angle = (2 * share - 1) * half
        outward = self.bulge[piece]
        outward = outward / np.maximum(np.linalg.norm(outward, axis=1), 1e-12)[:, None]
        along = (radius * np.sin(angle))[:, None] * self.axis[piece]
        over = (radius * (np.cos(angle) - np.cos(half)))[:, None] * outward
        bent = self.start[piece] + chord / 2 + along + over
        is_bent = (self.turn[piece] > 0)[:, None]
        return np.where(is_bent, bent, self.start[piece] + share[:, None] * chord)


def _ends_of_runs(values: NDArray[np.int64]) -> tuple[NDArray[np.bool_], NDArray[np.bool_]]:
    """Which of the values (n,), equals of which follow each other, are the first and which the last
    of a run."""
    changes = np.diff(values) != 0
    return np.append(True, changes), np.append(changes, True)


def _turned_with(up: Array, before: Array, after: Array) -> Array:
    """Heights (n, 3) turned about what is square to both directions (n, 3), from one to the
    other."""
    axis = np.cross(before, after)
    sine = np.linalg.norm(axis, axis=1)[:, None]
    cosine = np.einsum("ij,ij->i", before, after)[:, None]
    about = axis / np.maximum(sine, 1e-12)
    along = np.einsum("ij,ij->i", about, up)[:, None] * about
    return np.where(sine < 1e-12, up, along + cosine * (up - along) + sine * np.cross(about, up))


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
        bulge=np.array([piece.bulge for piece in every]),
        up=np.array([piece.up for piece in every]),
        back=np.array([piece.back for piece in every]),
        scale=np.array([piece.scale for piece in every]),
        height=np.array([s[0] for s in sizes]),
        width=np.array([s[1] for s in sizes]),
        round=np.array([s[2] for s in sizes]),
        centroid=np.array([s[3] for s in sizes]),
    )


@dataclass(frozen=True)
class _Piece:
    """A piece of the member in a ``row``; the fields are those of ``Members``."""

    row: int
    nodes: tuple[str, str]
    places: Array
    bulge: Array
    up: Array
    back: tuple[float, float]
    scale: tuple[float, float, float]

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
            bulge = _bulge(piece, places) if told else np.zeros(3)
            scale = _scales(piece) if told else (1.0, 1.0, 1.0)
            out.append(cls(row, nodes, places, bulge, up, back, scale))
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


def _scales(piece: Row) -> tuple[float, float, float]:
    """How much larger the section is at a piece's start, in its middle and at its end."""
    start, middle, end = (
        number_in(piece, f"{at}_scale", "pieces") for at in ("start", "middle", "end")
    )
    return start, middle, end


def _bulge(piece: Row, places: Array) -> Array:
    """From the middle of a piece's chord, between ``places`` (2, 3), to that of the arc: square to
    the chord but for rounding, which a large radius would tell."""
    bulge = vector_in(piece, "pieces", "bulge_{}_mm") / 1000
    chord = places[1] - places[0]
    along = (bulge @ chord) / max(float(chord @ chord), 1e-12)
    return np.asarray(bulge - along * chord)


def _lifted(row: Row, up: Array) -> Array:
    """The same of a member that lies as far above both nodes."""
    return np.tile(number_in(row, "lift_mm", "members") / 1000 * up, (2, 1))


def _size(name: str) -> tuple[float, float, bool, tuple[float, float]]:
    """Height and width (m) of a section as its name tells, whether it is round, and where its
    middle of area is."""
    try:
        shape = find(name).shape
    except UnknownSection:
        raise PackError(f"members.csv: “{name}” names no section") from None
    return shape.height, shape.width, shape.round, shape.centroid


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


def _as_listed(m: Members, piece: int, row: Row, where: str) -> Found:
    """The length, bulge and turn of one piece."""
    yield beyond(_bulges_otherwise(m, piece, row)), f"{where}: bulge or turn"
    length = float(m.lengths[piece]) * 1000
    yield abs(length - number_in(row, "length_mm", "pieces")), f"{where}: length"


def _bulges_otherwise(m: Members, piece: int, row: Row) -> bool:
    """Whether a piece's bulge is not square to its chord, or turns otherwise than its row says, but
    for rounding."""
    bulge = vector_in(row, "pieces", "bulge_{}_mm") / 1000
    chord = max(float(m.chord[piece]), ROUNDED_M)
    turn = np.degrees(4 * np.arctan2(np.linalg.norm(bulge), chord / 2))
    slack = TURN_ROUNDED_DEG + np.degrees(8 * ROUNDED_M / chord)
    along = abs(float(bulge @ m.axis[piece]))
    return bool(
        along > ROUNDED_M + 4 * ROUNDED_M * np.linalg.norm(bulge) / chord
        or abs(turn - number_in(row, "turn_deg", "pieces")) > slack
    )


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
        yield from _as_listed(m, first + n, piece, where)
    apart = np.abs(m.start[first + 1 : first + len(own)] - m.end[first : first + len(own) - 1])
    yield float(apart.max(initial=0.0)) * 1000, f"{where}: pieces are apart"


def axes_at_ends(m: Members) -> Axes:
    """Place and direction of the axis at each end of members, in metres, and how far it is cut
    back there."""
    out: Axes = {}
    for k, row in enumerate(m.rows):
        first, last = m.first[k], m.first[k] + m.count[k] - 1
        out[row["label"], "start"] = (m.start[first], m.ways[first, 0], float(m.back[first, 0]))
        out[row["label"], "end"] = (m.end[last], -m.ways[last, 1], float(m.back[last, 1]))
    return out


def ends_at(m: Members, node: str) -> set[tuple[str, str]]:
    """Members and their ends at a node."""
    return m.ends.get(node, set())
