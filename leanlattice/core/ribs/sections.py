"""Sections of a body's triangles, made those of the curved faces these stand for."""

from __future__ import annotations

from collections.abc import Callable, Sequence
from dataclasses import dataclass
from typing import Any, Protocol

import numpy as np
import shapely
from numpy.typing import NDArray

from ..geometry.meshes import Body
from ..shaping.faces import deviation
from ..shaping.onto import Carriers, moved_onto
from .polygons import polygons_of_rings

__all__ = ["SAGITTA", "Charts", "on_faces"]

Array = NDArray[np.float64]
Index = NDArray[np.int64]
SAGITTA = 3e-5
"""Chords of sections lie at most about so far (m) inside the curves they stand for."""
MOST = 400
"""Chords at most for what was one."""
PASSES = 3
"""How often chords are parted further where they do not yet follow a face."""
UNEVEN = 1.3
"""Edges that bend by so much more in one part than in another are looked at again."""
QUARTERS = (0.25, 0.5, 0.75)
ALIKE = 0.1
"""Share by which the area of a piece may change at most."""
BESIDE = (0.5, -0.5, 1.0, -1.0)
"""Shares of how far triangles lie from faces, by which sections are tried to the side."""
STEPS = 4
"""Of Newton's method along a face, from places between two that are known."""
FOUND = 1e-8
"""Places that lie nearer (m) to the plane of their section are in it."""


class Charts(Protocol):
    """Planes, or bent surfaces, of sections."""

    def lifted(self, flat: Array, which: Index) -> tuple[Array, Array]:
        """Places (n, 3) in space of places (n, 2) in sections ``which`` (n,), and the unit vectors
        (n, 2, 3) there along x and y."""


def on_faces(
    body: Body,
    sections: Sequence[list[shapely.Polygon]],
    charts: Charts,
    beside: Callable[[int, float], list[shapely.Polygon]] | None = None,
) -> list[list[shapely.Polygon]]:
    """The pieces of each section with corners on the body's curved faces, and more between them, so
    that chords follow these to ``SAGITTA``.

    Where a section all but touches a face the triangles, which lie inside of it, may have another
    picture of it than there is. Then ``beside`` gives pieces of a section a little (m) to one side,
    from which they are tried again; what is not found so stays as far as it was found.
    """
    if not body.faces:
        return list(map(list, sections))
    out, doubtful = _all_on_faces(body, sections, np.arange(len(sections)), charts)
    if beside is None or not doubtful:
        return out
    off = deviation(body)
    for k in doubtful:
        for share in BESIDE:
            found, doubt = _all_on_faces(body, [beside(k, share * off)], np.array([k]), charts)
            if found[0] and not doubt:
                out[k] = found[0]
                break
    return out


def _all_on_faces(
    body: Body, sections: Sequence[list[shapely.Polygon]], number: Index, charts: Charts
) -> tuple[list[list[shapely.Polygon]], list[int]]:
    """The pieces of sections ``number`` (n,) on the body's faces, and the positions of those of
    which it is doubtful that they are all there is."""
    pieces: Any = np.array([p for s in sections for p in s], object)
    out: list[list[shapely.Polygon]] = [[] for _ in sections]
    if not len(pieces):
        return out, []
    section_of = np.repeat(np.arange(len(sections)), [len(s) for s in sections])
    rings, piece_of = shapely.get_rings(pieces, return_index=True)
    closed, ring_of = shapely.get_coordinates(rings, return_index=True)
    last = np.append(np.diff(ring_of) > 0, True)
    corner, ring_of = closed[~last], ring_of[~last]
    moved, ring_of, lost = _followed(body, corner, ring_of, number[section_of[piece_of]], charts)
    made = polygons_of_rings(np.split(moved, np.flatnonzero(np.diff(ring_of)) + 1), piece_of)
    doubtful = set(section_of[piece_of[lost]].tolist())
    for k in np.flatnonzero(~shapely.is_valid(made)).tolist():
        doubtful.add(int(section_of[k]))
        sound = shapely.make_valid(made[k], method="structure", keep_collapsed=False)
        whole = max(shapely.get_parts(sound), key=lambda part: part.area, default=pieces[k])
        made[k] = whole if abs(whole.area / pieces[k].area - 1) < ALIKE else pieces[k]
    for k, piece in zip(section_of.tolist(), made, strict=True):
        out[k].append(piece)
    return out, sorted(doubtful)


def _followed(
    body: Body, corner: Array, ring_of: Index, section_of: Index, charts: Charts
) -> tuple[Array, Index, Index]:
    """Corners (m, 2) of rings, on faces and close enough to each other, of those (n, 2) given, the
    ring of each, and the rings of corners that came onto no face."""
    after, before = _next_in_ring(ring_of)
    section = section_of[ring_of]
    middle = charts.lifted((corner + corner[after]) / 2, section)[0]
    triangle = body.mesh.search.nearest(middle)[0]
    carriers = Carriers.of_triangles(body, np.column_stack([triangle[before], triangle]))
    length = np.linalg.norm(corner[after] - corner, axis=1)
    reach = np.maximum(length, length[before])
    moved, parameters = moved_onto(
        body, corner, carriers, reach, lambda flat, which: charts.lifted(flat, section[which])
    )
    lost = np.isnan(parameters).any(axis=2) & (carriers.faces >= 0)
    lost_in = ring_of[lost.any(axis=1)]
    _try_one(body, (corner, moved, parameters), carriers, (length[before], length), section, charts)
    edges = _Edges(carriers.faces[:, 1].astype(np.int64), parameters[:, 1], parameters[after, 0])
    for _ in range(PASSES):
        of, moved, edges = _parted(body, moved, after, edges, section, charts)
        if len(of) == len(ring_of):
            break
        ring_of, section = ring_of[of], section[of]
        after = _next_in_ring(ring_of)[0]
    return moved, ring_of, np.unique(lost_in)


def _try_one(
    body: Body,
    known: tuple[Array, Array, Array],
    carriers: Carriers,
    length: tuple[Array, Array],
    section: Index,
    charts: Charts,
) -> None:
    """Corners, moved ones and their parameters, of which those that came onto no two faces are put
    onto that of the longer edge beside them: a section may all but miss where two faces meet."""
    corner, moved, parameters = known
    two = (carriers.faces[:, 0] != carriers.faces[:, 1]) & (carriers.faces >= 0).any(axis=1)
    lost = np.flatnonzero(two & np.isnan(parameters).all(axis=(1, 2)))
    longer = (length[1] > length[0]).astype(int)[lost]
    one = carriers.faces[lost, longer]
    lost, longer, one = lost[one >= 0], longer[one >= 0], one[one >= 0]
    found, uv = moved_onto(
        body,
        corner[lost],
        Carriers(np.column_stack([one, one]), np.zeros((len(lost), 2, 3))),
        np.maximum(*length)[lost],
        lambda flat, which: charts.lifted(flat, section[lost[which]]),
    )
    moved[lost] = found
    parameters[lost, longer] = uv[:, 0]


def _next_in_ring(ring_of: Index) -> tuple[Index, Index]:
    """The corners (n,) after and before each, of rings that follow each other."""
    count = len(ring_of)
    first = np.concatenate([[0], np.flatnonzero(np.diff(ring_of)) + 1])
    last = np.append(first[1:], count) - 1
    after, before = np.arange(1, count + 1), np.arange(-1, count - 1)
    after[last], before[first] = first, last
    return after, before


@dataclass(frozen=True, eq=False)
class _Edges:
    """Edges from corners of rings to the next, each in a ``face`` (n,) or, where that is −1, in
    none that is still to be followed, with the parameters (n, 2) of their ends."""

    face: Index
    start: Array
    stop: Array


def _parted(
    body: Body, corner: Array, after: Index, edges: _Edges, section: Index, charts: Charts
) -> tuple[Index, Array, _Edges]:
    """Edges parted into chords: which edge (m,) each is of, where it starts (m, 2), and it."""
    count, again = np.ones(len(corner), np.int64), np.zeros(len(corner), bool)
    every: list[tuple[Index, Array, Array, Array]] = []
    for k in range(len(body.faces)):
        edge = np.flatnonzero(edges.face == k)
        if len(edge):
            chords = _Chords(
                body,
                k,
                (corner[edge], corner[after[edge]]),
                (edges.start[edge], edges.stop[edge]),
                section[edge],
                charts,
            )
            count[edge], again[edge] = chords.needed()
            of, share, places, uv = chords.between(count[edge])
            every.append((edge[of], share, places, uv))
    own = np.arange(len(corner)), np.zeros(len(corner)), corner, edges.start
    of, share, places, start = (np.concatenate(part) for part in zip(own, *every, strict=True))
    order = np.lexsort((share, of))
    of, start = of[order], start[order]
    stop = np.where(
        (np.diff(of, append=-1) == 0)[:, None], np.roll(start, -1, axis=0), edges.stop[of]
    )
    return of, places[order], _Edges(np.where(again, edges.face, -1)[of], start, stop)


class _Chords:
    """Edges of sections in ``face`` of a body, from places ``start`` to ``stop`` (n, 2) of known
    parameters."""

    def __init__(
        self,
        body: Body,
        face: int,
        ends: tuple[Array, Array],
        known: tuple[Array, Array],
        section: Index,
        charts: Charts,
    ) -> None:
        self.body, self.face, self.section, self.charts = body, face, section, charts
        self.start, self.stop = ends
        self.first = known[0]
        step = known[1] - known[0]
        surface = body.faces[face].surface
        for axis, closed in enumerate((surface.closed_u, surface.closed_v)):
            if closed:
                step[:, axis] -= np.round(step[:, axis])
        self.step = step

    def needed(self) -> tuple[Index, NDArray[np.bool_]]:
        """Numbers (n,) of chords that follow the face from end to end, 1 where an end is not on it,
        and which of them are to be looked at again, as the face bends much more in one part.

        From the greatest of the second differences at quarters of an edge.
        """
        number = len(self.start)
        known = np.isfinite(self.first).all(axis=1) & np.isfinite(self.step).all(axis=1)
        every = np.flatnonzero(known)
        count, uneven = np.ones(number, np.int64), np.zeros(number, bool)
        if not len(every):
            return count, uneven
        at = [self._places(every, np.full(len(every), share))[0] for share in QUARTERS]
        line = np.stack([self.start[every], *at, self.stop[every]])
        chord = self.stop[every] - self.start[every]
        length = np.maximum(np.linalg.norm(chord, axis=1), 1e-300)
        second = line[:-2] - 2 * line[1:-1] + line[2:]
        bulge = np.abs(chord[:, 0] * second[..., 1] - chord[:, 1] * second[..., 0]) / length
        most = bulge.max(axis=0)
        # Chords that bulge by more than that are no picture of the face.
        sound = np.isfinite(most) & (most < length / 4)
        wanted = np.ceil(np.sqrt(2 * np.where(sound, most, 0.0) / SAGITTA) - 1e-3)
        count[every] = np.clip(wanted, 1, MOST)
        uneven[every] = sound & (most > UNEVEN * bulge.min(axis=0)) & (most > SAGITTA / 2)
        return count, uneven

    def between(self, count: Index) -> tuple[Index, Array, Array, Array]:
        """What parts edges into ``count`` chords: edges (m,), shares of them, places (m, 2) and
        parameters (m, 2)."""
        of = np.repeat(np.arange(len(count)), count - 1)
        nth = np.arange(len(of)) - np.repeat(np.cumsum(count - 1) - (count - 1), count - 1) + 1
        share = nth / count[of]
        return of, share, *self._places(of, share)

    def _places(self, of: Index, share: Array) -> tuple[Array, Array]:
        """Places (m, 2) at shares (m,) of edges, moved onto the face in the planes of their
        sections, and parameters (m, 2) of them."""
        face = self.body.faces[self.face]
        flat = self.start[of] + share[:, None] * (self.stop - self.start)[of]
        place, ways = self.charts.lifted(flat, self.section[of])
        normal = np.cross(ways[:, 0], ways[:, 1])
        uv = face.surface.wrapped(self.first[of] + share[:, None] * self.step[of])
        for _ in range(STEPS):
            off = np.einsum("ij,ij->i", face.at(uv) - place, normal)
            if not np.nanmax(np.abs(off), initial=0.0) > FOUND:
                break
            su, sv = face.surface.derivatives(uv, 1, 0), face.surface.derivatives(uv, 0, 1)
            slope = np.column_stack(
                [np.einsum("ij,ij->i", s, normal) for s in (su, sv)],
            )
            size = np.maximum(np.einsum("ij,ij->i", slope, slope), 1e-300)
            uv = face.surface.wrapped(uv - np.clip(slope * (off / size)[:, None], -0.1, 0.1))
        step = face.at(uv) - place
        out = flat + np.einsum("ij,ikj->ik", step, ways)
        length = np.linalg.norm(self.stop - self.start, axis=1)[of]
        off = np.abs(np.einsum("ij,ij->i", step, normal))
        lost = np.flatnonzero(~((off < FOUND) & (np.linalg.norm(step, axis=1) < length / 2)))
        if len(lost):
            faces = np.full((len(lost), 2), self.face)
            out[lost], known = moved_onto(
                self.body,
                flat[lost],
                Carriers(faces, np.zeros((len(lost), 2, 3))),
                length[lost],
                lambda at, which: self.charts.lifted(at, self.section[of[lost[which]]]),
            )
            uv[lost] = known[:, 0]
        return out, uv
