"""The clause that draws templates to wrap about the cut ends of tubes."""

from __future__ import annotations

from ..core.flat.tube_ends import TubeTemplates, Wrap, cut_ends, tube_templates
from ..core.structure.structure import Structure
from .base import Clause, ClauseError, Figure, Made, Notice, Take, Work, choice, headline, number
from .catalogue import SHEET_WORDS

__all__ = ["DrawTubeEnds"]

MOST = 3000
"""Templates that can be worked with."""


class DrawTubeEnds(Clause):
    kind = "tube-ends"
    chapter = "Make"
    title = "Draw tube ends"
    summary = "Templates to wrap about tubes, to mark where their ends are cut."
    sentence = (
        "**Draw** what is wrapped about cut ends of tubes as templates of {thickness} {material}, "
        "with {overlap} that overlap and {beyond} behind the cut¦; those cut alike within "
        "{tolerance} share one."
    )
    takes = (Take(name="structure", types=("Structure",), label="Structure"),)
    gives = "TubeTemplates"

    thickness: float = number(0.5, "mm", 0.05, 10.0, 0.05, "Thickness")
    material: str = choice("card", SHEET_WORDS, "Material")
    overlap: float = number(20.0, "mm", 0.0, 200.0, 1.0, "Overlap")
    beyond: float = number(50.0, "mm", 20.0, 500.0, 5.0, "Width behind the cut")
    tolerance: float = number(0.2, "mm", 0.01, 5.0, 0.05, "Tolerance", "Of where they are cut")

    def make(self, work: Work) -> Made:
        structure: Structure = work.inputs["structure"]
        ends = cut_ends(structure)
        if not len(ends.member):
            raise ClauseError(
                "No end of a tube is cut by a plane; tubes of one width all along that are welded "
                "where they are framed are."
            )
        wrap = Wrap(self.material, self.thickness / 1000, self.overlap / 1000, self.beyond / 1000)
        made = tube_templates(structure, wrap, self.tolerance / 1000, work.progress)
        if made.count > MOST:
            raise ClauseError(
                f"There would be {made.count:,} templates; at most {MOST:,} can be drawn. A larger "
                "tolerance makes them fewer.",
                "tolerance",
            )
        return Made(made, self._figures(made), _without_names(made))

    def _figures(self, made: TubeTemplates) -> dict[str, Figure]:
        longest = max(float(part.outer[:, 1].max()) for part in made.parts) - self.beyond
        return {
            "wraps": headline("Templates", made.count),
            "wrapped_ends": headline("Ends of tubes", len(made.template)),
            "wrap_depth": headline("Longest cut along a tube", longest, "mm", 1),
            "tolerance": Figure("Equal within", self.tolerance, "mm", 2),
            "wrap_area": Figure("Template area", sum(p.area for p in made.parts) / 1e6, "m²", 2),
        }


def _without_names(made: TubeTemplates) -> list[Notice]:
    """What is said of templates without room for all that is written on them."""
    few = made.unlabelled
    if not len(few):
        return []
    text = (
        f"{len(few)} of {made.count} templates have no room for all their words; wider ones behind "
        "the cut have."
    )
    return [Notice(text, "wrap", tuple(map(int, few[:2000])), value="beyond")]
