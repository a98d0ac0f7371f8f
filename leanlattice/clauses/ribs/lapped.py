"""Ribs in two sets that go into each other."""

from __future__ import annotations

import itertools
from abc import abstractmethod
from typing import ClassVar

import numpy as np
from numpy.typing import NDArray

from ...core.geometry.meshes import Body
from ...core.ribs.lapping import Lapping, RibSet
from ...core.ribs.laps import Slots, lapped
from ...core.ribs.planes import Planes
from ...core.ribs.plates import Cut
from ..base import Made, Notice, Take, Work
from ..lattice.common import place_of
from ..shape.common import SHAPE, body_needed
from .common import UP, Family, RibClause
from .working import PLAIN_SLOTS, ribs_worked

__all__ = ["CUT_SO", "LappedClause"]

Array = NDArray[np.float64]
CUT_SO = (
    "¦ Pieces under {least} are left out, and necks under {neck} are told. Labels are {series}."
)


class LappedClause(RibClause):
    """Base of clauses whose ribs go into each other in two sets."""

    takes: ClassVar[tuple[Take, ...]] = (SHAPE,)

    @abstractmethod
    def families(self, body: Body, work: Work) -> tuple[Family, Family]:
        """The two families of planes; raises ``ClauseError``."""

    def family_notices(self, families: tuple[Family, Family]) -> list[Notice]:
        """What is to be told of the families before they cut anything."""
        return []

    def prepared(self, cuts: list[Cut]) -> list[Cut]:
        """The two sets as they are before their edges are moved and slotted."""
        return cuts

    def aids(self, body: Body) -> dict[str, Array]:
        """What handles hang on."""
        return {}

    def make(self, work: Work) -> Made:
        body = body_needed(work.inputs["shape"], "Cutting ribs works")
        families = self.families(body, work)
        cuts = self.prepared([self.cut(body, f, work) for f in families])
        first, second = (
            _set(family, self.series, cut) for family, cut in zip(families, cuts, strict=True)
        )
        warnings = self.family_notices(families)
        warnings += [n for f, c in zip(families, cuts, strict=True) for n in self.told(c, f.value)]
        warnings += _within(cuts)
        return ribs_worked(
            self,
            Lapping((first, second), slots=PLAIN_SLOTS),
            self.material,
            body if self.whole else None,
            work,
            warnings,
            self.aids(body),
        )


def _set(family: Family, series: str, cut: Cut) -> RibSet:
    planes = family.planes
    normals = planes.normals if isinstance(planes, Planes) else np.zeros((0, 3))
    return RibSet(tuple(cut.ribs), series + family.series, normals)


def _within(cuts: list[Cut]) -> list[Notice]:
    """Ribs of one set that run into each other inside the body."""
    for cut in cuts:
        for a, b in itertools.pairwise(cut.ribs):
            if a.bend is not None or a.number == b.number or abs(a.normal @ b.normal) > 1 - 1e-9:
                continue
            probe = lapped([a], [b], Slots(), UP).crossings
            if probe:
                return [
                    Notice(
                        f"Planes {a.label} and {b.label} of one set cross inside the body; fewer of "
                        "them, or a straighter spine, keeps them apart.",
                        at=place_of(probe[0].place),
                    )
                ]
    return []
