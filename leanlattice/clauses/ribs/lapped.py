"""Ribs in two sets that go into each other."""

from __future__ import annotations

import itertools
from typing import Literal

import numpy as np
from numpy.typing import NDArray

from ...core.geometry.meshes import Body
from ...core.ribs.laps import Crossing, Laps, Slots, lapped
from ...core.ribs.lightened import hollowed
from ...core.ribs.parts import Ribs
from ...core.ribs.plates import Cut
from ..base import Made, Notice, Work, choice, number
from ..lattice.common import place_of
from ..shape.common import body_needed
from .common import UP, Family, RibClause, counted

__all__ = ["SLOTTED", "LappedClause"]

Array = NDArray[np.float64]
SLOTTED = (
    " Slots have {clearance} to spare, {above} slotted from above over {share} of the common length, their corners {corners}"
    "[corners=diagonal| by a tool {tool} across][corners=across| by a tool {tool} across][corners=along| by a tool {tool} across]"
    ", at least {wall} from ends and each other. Ribs are {inside}[inside=open| {border} from edges and slots, rounded by "
    "{radius}]; pieces under {least} are left out, and necks under {neck} are told."
)


class LappedClause(RibClause):
    """Base of clauses whose ribs go into each other in two sets."""

    clearance: float = number(0.2, "mm", -2.0, 50.0, 0.05, "Clearance")
    above: Literal["first", "second"] = choice(
        "first", {"first": "the first set", "second": "the second set"}, "Slotted from above"
    )
    share: float = number(50.0, "%", 5.0, 95.0, 1.0, "Share")
    corners: Literal["sharp", "diagonal", "across", "along"] = choice(
        "diagonal",
        {
            "sharp": "left as the tool leaves them", "diagonal": "cleared diagonally", "across": "cleared across",
            "along": "cleared along",
        },
        "Relief", "The round cut that clears a slot's inner corners",
    )  # fmt: skip
    tool: float = number(6.0, "mm", 0.1, 100.0, 0.5, "Tool diameter")
    wall: float = number(12.0, "mm", 0.0, 1000.0, 1.0, "Least wall")
    inside: Literal["solid", "open"] = choice("solid", {"solid": "solid", "open": "open inside,"}, "Inside")
    border: float = number(80.0, "mm", 1.0, 5000.0, 1.0, "Border")
    radius: float = number(30.0, "mm", 1.0, 1000.0, 1.0, "Radius")

    def families(self, body: Body, work: Work) -> tuple[Family, Family]:
        """The two families of planes; raises ``ClauseError``."""
        raise NotImplementedError

    def prepared(self, cuts: list[Cut]) -> list[Cut]:
        """The two sets as they are before they are slotted."""
        return cuts

    def aids(self, body: Body) -> dict[str, Array]:
        """What handles hang on."""
        return {}

    def make(self, work: Work) -> Made:
        body = body_needed(work.inputs["shape"], "ribs are cut")
        families = self.families(body, work)
        cuts = self.prepared([self.cut(body, f, work) for f in families])
        first, second = (cuts[0].ribs, cuts[1].ribs) if self.above == "first" else (cuts[1].ribs, cuts[0].ribs)
        slots = Slots(
            self.clearance / 1000, self.share / 100, 0.0 if self.corners == "sharp" else self.tool / 2000,
            self.corners if self.corners != "sharp" else "diagonal", self.wall / 1000,
        )  # fmt: skip
        laps = lapped(first, second, slots, UP, lambda: work.progress(0.5))
        ribs = (
            hollowed(laps.ribs, laps.zones, self.border / 1000, self.radius / 1000)
            if self.inside == "open"
            else laps.ribs
        )
        warnings = [n for f, c in zip(families, cuts, strict=True) for n in self.told(c, f.value)]
        warnings += self._crossing_notices(laps) + self._within(cuts)
        sets = tuple(f.series for f in (families if self.above == "first" else families[::-1]))
        zones = tuple(tuple(z) for z in laps.zones)
        made = Ribs(tuple(ribs), tuple(laps.crossings), self.material, sets, zones)
        return self.made(made, body, warnings, self.aids(body))

    def _crossing_notices(self, laps: Laps) -> list[Notice]:
        out = []
        by_words: dict[str, list[Crossing]] = {}
        for c in laps.crossings:
            if c.wrong:
                by_words.setdefault(c.wrong.split(":")[0].rsplit(" in ", 1)[0].rsplit(" of ", 1)[0], []).append(c)
        for words, found in by_words.items():
            names = ", ".join(f"{laps.ribs[c.first].label} × {laps.ribs[c.second].label}" for c in found[:5])
            value = "wall" if "mm" in words else "above"
            out.append(Notice(f"At {counted(len(found), 'crossing', 'crossings')} slots {words}: {names}.",
                              at=place_of(found[0].place), value=value))  # fmt: skip
        if laps.fell:
            names = ", ".join(laps.ribs[k].label for k in laps.fell[:6])
            one = laps.ribs[laps.fell[0]]
            which = counted(len(laps.fell), "rib falls", "ribs fall")
            out.append(Notice(f"{which} apart where slots go through: {names}; the largest piece is kept. The other set slotted "
                              "from above, or another share, may keep them whole.",
                              at=place_of(one.origin), value="above"))  # fmt: skip
        return out

    def _within(self, cuts: list[Cut]) -> list[Notice]:
        """Ribs of one set that run into each other inside the body."""
        for cut in cuts:
            ribs = cut.ribs
            for a, b in itertools.pairwise(ribs):
                if a.number == b.number or abs(a.normal @ b.normal) > 1 - 1e-9:
                    continue
                probe = lapped([a], [b], Slots(), UP).crossings
                if probe:
                    return [Notice(f"Planes {a.label} and {b.label} of one set cross inside the body; fewer of them, or a "
                                   "straighter spine, keeps them apart.", at=place_of(probe[0].place))]  # fmt: skip
        return []
