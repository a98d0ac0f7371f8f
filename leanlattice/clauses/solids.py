"""The clause that takes a body apart into solids of a material."""

from __future__ import annotations

from collections.abc import Callable
from typing import Literal

from ..core.geometry.meshes import Body
from ..core.materials import MATERIALS
from ..core.solids.separate import separated
from ..core.solids.solids import Solids
from .base import Clause, ClauseError, Figure, Made, Notice, Take, Work, choice, headline, number

__all__ = ["MakeSolids", "figures_of", "types_of"]

WORDS = {name: MATERIALS[name].title for name in ("concrete", "limestone", "GL24h", "S355")}


class MakeSolids(Clause):
    kind = "solids"
    chapter = "Make"
    title = "Solids of a material"
    summary = "Each closed piece of a body as one solid, with its volume and mass."
    sentence = (
        "**Make** each piece of the body a solid of {material}, leaving out those of less than "
        "{least}. Labels are {series}."
    )
    takes = (Take(name="shape", types=("Shape",), label="Body"),)
    gives = "Solids"

    material: str = choice("concrete", WORDS, "Material")
    least: float = number(
        0.0, "dm³", 0.0, 1_000_000.0, 0.1, "Least solid", "Crumbs are left out and told"
    )
    series: Literal["", "A", "B", "C"] = choice(
        "",
        {"": "in the first series"} | {s: f"in series {s}" for s in "ABC"},
        "Labels",
        "A letter before all labels, for more solids in the same statement",
    )

    def make(self, work: Work) -> Made:
        shape = work.inputs["shape"]
        if not isinstance(shape, Body):
            raise ClauseError("A surface has no inside; thicken it, or make a body of it, first.")
        solids, crumbs = separated(shape, self.material, self.series, self.least / 1000)
        if not solids.count:
            largest = max(crumb.volume for crumb in crumbs) * 1000
            raise ClauseError(
                f"Least solid is {self.least:g} dm³, but the largest piece has {largest:.3g} dm³; "
                "a smaller one would leave something.",
                "least",
            )
        warnings = []
        if crumbs:
            count = f"{len(crumbs):,} piece{'s' if len(crumbs) > 1 else ''}"
            lost = sum(crumb.volume for crumb in crumbs) * 1000
            at = crumbs[0].mesh.vertices[0].tolist()
            warnings.append(
                Notice(
                    f"{count} of less than {self.least:g} dm³ left out, {lost:.3g} dm³ in all.",
                    at=(at[0], at[1], at[2]),
                    value="least",
                )
            )
        return Made(solids, figures_of(solids), warnings)


def types_of(solids: Solids, check: Callable[[], None]) -> tuple[dict[str, Figure], list[Notice]]:
    """How many types of solids there are, which is left for later."""
    return {"solid_types": headline("Types of solids", int(solids.type_of.max(initial=0)))}, []


def figures_of(solids: Solids) -> dict[str, Figure]:
    """How many there are, how much of the material, and the heaviest."""
    heaviest = int(solids.masses.argmax())
    x, y, z = solids.middles[heaviest].tolist()
    return {
        "solids": headline("Solids", solids.count),
        "volume": headline("Volume", float(solids.volumes.sum()), "m³", 3),
        "mass": headline("Mass", float(solids.masses.sum()), "kg", 0),
        "heaviest": headline("Heaviest", float(solids.masses.max()), "kg", 0, (x, y, z)),
        "surface": Figure("Surface", float(solids.areas.sum()), "m²", 2),
        "tolerance": Figure("Equal within", solids.tolerance * 1000, "mm", 2),
    }
