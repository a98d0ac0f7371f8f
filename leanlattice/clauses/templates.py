"""The clause that draws faces and openings of solids as flat templates."""

from __future__ import annotations

from typing import Literal

import numpy as np
from numpy.typing import NDArray

from ..core.flat.openings import opening_templates
from ..core.flat.templates import (
    Faces,
    Templates,
    Wanted,
    bodies_drawn,
    cut_smaller,
    templates_of,
)
from ..core.panels.panels import Sheet
from ..core.solids.solids import Solids
from .base import (
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
    headline,
    number,
)
from .catalogue import SHEET_AND_FILM_WORDS

__all__ = ["DrawTemplates"]

MOST = 3000


class DrawTemplates(Clause):
    kind = "face-templates"
    chapter = "Make"
    title = "Draw templates"
    summary = (
        "Faces of solids laid flat, to scale, each side with the face beyond it and the angle "
        "between; or their openings."
    )
    sentence = (
        "**Draw** {faces}[faces=every,outer,inner,around| of {which}] as templates of {thickness} "
        "{material}, {size}[size=smaller| by {smaller}]¦[faces=openings|; those that are alike "
        "within {alike} once][faces=every,outer,inner,around|; what meets at no more than {crease} "
        "is one face. Tell of those stretched by more than {stretch}]."
    )
    takes = (Take(name="solids", types=("Solids",), label="Solids"),)
    gives = "Templates"

    faces: Wanted | Literal["openings"] = choice(
        "every",
        {
            "every": "every face",
            "outer": "the outer faces",
            "inner": "the inner faces",
            "around": "the faces between the outer and the inner",
            "openings": "the openings",
        },
        "Faces",
        "Outer faces look along the third direction of a solid: out of a shell, or up; openings "
        "are seen square to them",
    )
    which: Literal["types", "each"] = choice(
        "types", {"types": "one solid of each type", "each": "each solid"}, "Solids"
    )
    thickness: float = number(4.0, "mm", 0.1, 500.0, 0.5, "Thickness")
    material: str = choice("plywood", SHEET_AND_FILM_WORDS, "Material")
    size: Literal["full", "smaller"] = choice(
        "full",
        {"full": "to their size", "smaller": "cut smaller"},
        "Size",
        "What is stretched is cut smaller by the share it gives under its tension",
    )
    smaller: float = number(1.0, "%", 0.0, 20.0, 0.1, "Smaller by")
    crease: float = number(30.0, "°", 1.0, 89.0, 1.0, "Least angle of an edge")
    stretch: float = number(
        0.5, "%", 0.0, 100.0, 0.1, "Stretch", "By which a length differs from that on the solid"
    )

    alike: float = number(
        1.0, "mm", 0.01, 200.0, 0.1, "Tolerance of openings", "In sides and diagonals"
    )

    def make(self, work: Work) -> Made:
        solids: Solids = work.inputs["solids"]
        if self.faces == "openings":
            return self._of_openings(work, solids)
        faces = Faces(solids, float(np.radians(self.crease)))
        self._check_number(faces)
        templates, lost = templates_of(
            faces,
            self.faces,
            self.which == "each",
            self.material,
            self.thickness / 1000,
            work.progress,
        )
        if not templates.count:
            raise ClauseError(
                "None of the solids has such a face that can be laid flat; other faces, or a "
                "smaller angle of edges, would work.",
                "faces",
            )
        templates = self._sized(templates)
        areas = np.array([part.area / 1e6 for part in templates.parts])
        figures = {
            "templates": headline("Templates", templates.count),
            "template_area": headline("Template area", float(areas.sum()), "m²", 2),
            "stretched": Figure("Most stretched", templates.stretch.max() * 100, "%", 2),
        }
        return Made(templates, figures, self._stretched(templates) + _lost(faces, lost))

    def _of_openings(self, work: Work, solids: Solids) -> Made:
        if solids.openings is None:
            others = Remedy("Draw those of the other cells", {}, takes={"solids": ("deepen",)})
            every = Remedy("Draw every face", {"faces": "every"})
            raise ClauseError.of("no openings", {}, "faces", remedies=(others, every))
        sheet = Sheet(self.material, self.thickness / 1000)
        drawn = opening_templates(solids, sheet, self.alike / 1000, work.progress)
        templates = self._sized(drawn)
        areas = np.array([part.area / 1e6 for part in templates.parts])
        figures = {
            "templates": headline("Templates", templates.count),
            "openings_drawn": headline("Openings", int(templates.pieces.sum())),
            "template_area": headline("Template area", float(areas.sum()), "m²", 2),
        }
        return Made(templates, figures)

    def _sized(self, templates: Templates) -> Templates:
        """The templates as large as they are to be cut."""
        return cut_smaller(templates, self.smaller / 100) if self.size == "smaller" else templates

    def _check_number(self, faces: Faces) -> None:
        assert self.faces != "openings"
        bodies = bodies_drawn(faces.solids, self.which == "each")
        count = len(faces.chosen(self.faces, bodies))
        if count > MOST:
            wider = f"{self.crease:g}° between faces"
            raise ClauseError(
                f"With {wider} that would be {count:,} templates; at most {MOST:,} can be drawn. A "
                "larger angle, or one solid of each type, would be fewer.",
                "crease" if self.which == "types" else "which",
            )

    def _stretched(self, templates: Templates) -> list[Notice]:
        much = np.flatnonzero(templates.stretch > self.stretch / 100)
        if not much.size:
            return []
        worst = int(much[np.argmax(templates.stretch[much])])
        count = counted(len(much), "template is", "templates are")
        text = (
            f"{count} of faces curved both ways and stretched by more than {self.stretch:g} %, the "
            f"most {templates.parts[worst].label} by {templates.stretch[worst] * 100:.2f} %."
        )
        at = _place(templates.borders[worst][0])
        return [Notice(text, "template", tuple(map(int, much[:2000])), at, "stretch")]


def _lost(faces: Faces, lost: NDArray[np.int32]) -> list[Notice]:
    """What is said of faces that have no template."""
    if not len(lost):
        return []
    first = int(lost[0])
    label = faces.solids.labels[faces.body[first]]
    count = counted(len(lost), "face lies over itself", "faces lie over themselves")
    text = (
        f"{count} when laid flat and got no template, as face "
        f"{faces.number[first]} of {label}; a smaller angle of edges would part them."
    )
    corners = faces.solids.triangles[faces.triangles(first)]
    return [Notice(text, at=_place(faces.solids.vertices[corners[:, 0]]), value="crease")]


def _place(places: NDArray[np.float64]) -> tuple[float, float, float]:
    x, y, z = places.mean(axis=0).tolist()
    return x, y, z
