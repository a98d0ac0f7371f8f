"""Steel members for machines: one file a piece as the DSTV interface for numerically controlled
steelwork has it (7th edition, 1998). Lengths in millimetres.

Outlines tell where each face ends, bevelled ends at the face's own surface; the angles of the head
are left at 0.
"""

from __future__ import annotations

from collections.abc import Iterable
from dataclasses import dataclass
from pathlib import Path

import shapely

from ..core.sections.hollow import CircularHollow, RectangularHollow
from ..core.sections.profiles import Angle, Channel, ISection, Tee
from ..core.sections.section import Section
from ..core.sections.shapes import Shape
from ..core.sections.solid import Flat, Round
from ..core.working.faces import WorkedFace

__all__ = ["SteelPiece", "write_nc"]

CODES: dict[type[Shape], str] = {
    CircularHollow: "RO",
    Round: "RU",
    RectangularHollow: "M",
    ISection: "I",
    Channel: "U",
    Angle: "L",
    Tee: "T",
    Flat: "B",
}
"""The letters by which the standard knows profiles."""
MM = 1000.0


@dataclass(frozen=True)
class SteelPiece:
    """What a file tells: the ``label`` of a piece, that of the ``project``, the ``members`` that
    are it, the ``section``, the ``length`` between saw cuts in mm, the ``faces``, and ``notes``."""

    project: str
    label: str
    members: list[str]
    section: Section
    length: float
    faces: list[WorkedFace]
    notes: list[str]


def write_nc(path: Path, piece: SteelPiece) -> None:
    """Writes the file of one piece."""
    lines = ["ST", *_head(piece), *_holes(piece.faces), *_outlines(piece.faces), "EN"]
    path.write_text("\n".join(lines) + "\n", encoding="ascii", errors="replace")


def _head(piece: SteelPiece) -> Iterable[str]:
    """The head: comments, then one value a line in the order of the standard."""
    shape = piece.section.shape
    code = next(code for family, code in CODES.items() if isinstance(shape, family))
    notes = ["faces are seen from outside, x along the piece, y up from their lower left corners"]
    for note in (*notes, *piece.notes, "members " + " ".join(piece.members)):
        yield f"** {note}"
    web, flange = _walls(shape)
    sizes = [shape.height * MM, shape.width * MM, flange, web, _fillet(shape)]
    yield f"  {piece.project}"
    yield "  -"
    yield "  -"
    yield f"  {piece.label}"
    yield f"  {piece.section.material.name}"
    yield f"  {len(piece.members)}"
    yield f"  {shape.name.replace(' × ', '*').replace(' ', '')}"
    yield f"  {code}"
    yield f"  {piece.length:10.2f},{piece.length:10.2f}"
    for value in sizes:
        yield f"  {value:10.2f}"
    yield f"  {piece.section.mass:10.3f}"
    yield f"  {_girth(shape):10.3f}"
    for _ in range(4):
        yield f"  {0.0:10.3f}"
    for _ in range(4):
        yield "  "


def _walls(shape: Shape) -> tuple[float, float]:
    """Thicknesses of web and flange in mm."""
    if isinstance(shape, Flat):
        return shape.width * MM, 0.0
    web = getattr(shape, "web", shape.wall)
    return web * MM, getattr(shape, "flange", shape.wall) * MM


def _fillet(shape: Shape) -> float:
    return float(getattr(shape, "fillet", 0.0) * MM)


def _girth(shape: Shape) -> float:
    """Square metres of paint a metre takes."""
    return float(sum(shapely.Polygon(outer).length for outer, _ in shape.pieces(360)))


def _holes(faces: list[WorkedFace]) -> Iterable[str]:
    """Round holes through the wall at a face."""
    rows = [(f.face.letter, *hole) for f in faces for hole in f.holes.tolist()]
    if rows:
        yield "BO"
    for letter, x, y, diameter in rows:
        yield f"  {letter}  {x:10.2f}u {y:10.2f} {diameter:10.2f}"


def _outlines(faces: list[WorkedFace]) -> Iterable[str]:
    """The ring round each part of a face, closed."""
    for face in faces:
        for ring in face.rings:
            yield "AK"
            for k, (x, y) in enumerate([*ring.tolist(), ring[0].tolist()]):
                letter = " " if k else face.face.letter
                yield f"  {letter}  {x:10.2f}u {y:10.2f} {0.0:10.2f}"
