"""Ribs in two sets that go into each other."""

from __future__ import annotations

import itertools
from abc import abstractmethod
from collections.abc import Mapping
from dataclasses import dataclass, field, replace
from typing import Any, ClassVar, Literal

import numpy as np
import shapely
from numpy.typing import NDArray

from ...core.geometry.meshes import Body
from ...core.ribs.edges import footed, raised
from ...core.ribs.laps import Crossing, Laps, Slots, lapped
from ...core.ribs.lightened import drilled, holes_in, hollowed, through
from ...core.ribs.parts import Ribs
from ...core.ribs.planes import Planes
from ...core.ribs.plates import Cut, Rib
from ..base import (
    ClauseError,
    Figure,
    Made,
    Notice,
    Remedy,
    Take,
    Work,
    choice,
    listed,
    number,
    places,
)
from ..lattice.common import place_of
from ..shape.common import SHAPE, Place, body_needed, checked_points
from ..shape.drawn import Curves
from .common import UP, Family, RibClause, counted

__all__ = ["CABLES", "SLOTTED", "LappedClause"]

Array = NDArray[np.float64]
SLOTTED = (
    "¦ Slots have {clearance} to spare, {above} slotted from above {turn} over {share} of the common "
    "length, their corners {corners}[corners=diagonal| by a tool {tool} across]"
    "[corners=across| by a tool {tool} across][corners=along| by a tool {tool} across], entries {entry}"
    "[entry=chamfered| by {chamfer}], at least {wall} from ends and each other. Ribs are {inside}"
    "[inside=open| {border} from edges and slots, rounded by {radius}], upper edges {proud} proud, "
    "{feet}[feet=feet| {foot} wide, {inset} in from their ends, down to {ground}], {rods}"
    "[rods=first| {rod} across through {holes}][rods=second| {rod} across through {holes}]"
    "[rods=drawn| {rod} across]; pieces under {least} are left out, and necks under {neck} are told. "
    "Labels are {series}."
)
CABLES = Take(name="cables", types=("Curves",), label="Cables", optional=True, asked=True)
LEANS = 0.01
"""Plates whose y leans by more from the plumb have neither feet nor edges moved."""


FAULTY = {
    "entwined": "lock each other",
    "caught": "lock each other",
    "three": "run into another where three ribs meet",
    "slot": "leave less than {wall:g} mm to another slot",
    "end": "leave less than {wall:g} mm at an end",
}
"""How faults of crossings are told."""


@dataclass
class _Set:
    """Ribs of a set with their edges moved, what of each does not follow the body by intent, how
    many could not be given feet, and those of which nothing is left."""

    ribs: list[Rib] = field(default_factory=list)
    beyond: list[Any] = field(default_factory=list)
    footless: int = 0
    gone: list[Rib] = field(default_factory=list)

    def let_go(self, which: set[str]) -> None:
        """Takes ribs out by their labels."""
        self.gone += [r for r in self.ribs if r.label in which]
        kept = [k for k, r in enumerate(self.ribs) if r.label not in which]
        self.ribs, self.beyond = [self.ribs[k] for k in kept], [self.beyond[k] for k in kept]


class LappedClause(RibClause):
    """Base of clauses whose ribs go into each other in two sets."""

    takes: ClassVar[tuple[Take, ...]] = (SHAPE, CABLES)

    sketches: ClassVar[Mapping[str, tuple[str, ...]]] = {
        "slot": ("clearance", "share", "tool", "chamfer", "wall"),
        "rib": ("border", "radius", "foot", "inset", "rod"),
    }

    clearance: float = number(
        0.2,
        "mm",
        -2.0,
        50.0,
        0.05,
        "Clearance",
        "Below 0 plates are pressed in; by more than 0.5 mm they cannot be",
    )
    above: Literal["first", "second"] = choice(
        "first", {"first": "the first set", "second": "the second set"}, "Slotted from above"
    )
    turn: Literal["fixed", "needed"] = choice(
        "fixed",
        {"fixed": "everywhere", "needed": "but where that would lock"},
        "Where",
        "Where ribs would lock, the other can be slotted from above at that crossing alone.",
    )
    share: float = number(50.0, "%", 5.0, 95.0, 1.0, "Share")
    corners: Literal["sharp", "diagonal", "across", "along"] = choice(
        "diagonal",
        {
            "sharp": "left as the tool leaves them",
            "diagonal": "cleared diagonally",
            "across": "cleared across",
            "along": "cleared along",
        },
        "Relief",
        "The round cut that clears a slot's inner corners",
    )
    tool: float = number(6.0, "mm", 0.1, 100.0, 0.5, "Tool diameter")
    entry: Literal["square", "chamfered"] = choice(
        "square", {"square": "square", "chamfered": "chamfered"}, "Entries"
    )
    chamfer: float = number(
        3.0, "mm", 0.1, 200.0, 0.5, "Chamfer", "At 45° on both sides of a slot's open end"
    )
    wall: float = number(12.0, "mm", 0.0, 1000.0, 1.0, "Least wall")
    inside: Literal["solid", "open"] = choice(
        "solid", {"solid": "solid", "open": "open inside,"}, "Inside"
    )
    border: float = number(80.0, "mm", 1.0, 5000.0, 1.0, "Border")
    radius: float = number(30.0, "mm", 1.0, 1000.0, 1.0, "Radius")
    proud: float = number(
        0.0,
        "mm",
        -2000.0,
        2000.0,
        1.0,
        "Proud",
        "Above the body's surface; below 0 they are cut back",
    )
    feet: Literal["none", "feet"] = choice(
        "none", {"none": "without feet", "feet": "on feet"}, "Feet"
    )
    foot: float = number(120.0, "mm", 5.0, 5000.0, 5.0, "Width of a foot")
    inset: float = number(50.0, "mm", 0.0, 10000.0, 5.0, "Feet set in")
    ground: float = number(0.0, "m", -1000.0, 10000.0, 0.05, "Ground")
    rods: Literal["none", "first", "second", "drawn"] = choice(
        "none",
        {
            "none": "without rods",
            "first": "the first set on rods",
            "second": "the second set on rods",
            "drawn": "with holes for cables along drawn curves",
        },
        "Rods",
        "Or cables: square to the ribs of a set, or along curves, which are chosen in the clause's menu",
    )
    rod: float = number(12.0, "mm", 0.5, 500.0, 0.5, "Rod diameter")
    holes: list[Place] = places(
        lambda: [(0.0, 0.0, 1.0)],
        "Rods",
        "Each runs square to the ribs through its place; drag them.",
    )

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
        order = (0, 1) if self.above == "first" else (1, 0)
        moved = [self._moved(cuts[k].ribs) for k in order]
        thinnest = min(f.thickness for f in families) * 1000
        if self.clearance <= -thinnest / 2:
            raise ClauseError(
                f"Clearance is {self.clearance:g} mm, which leaves no slot for plates {thinnest:g} mm thick; it must be more than "
                f"{-thinnest / 2:g} mm.",
                "clearance",
            )
        slots = Slots(
            self.clearance / 1000,
            self.share / 100,
            0.0 if self.corners == "sharp" else self.tool / 2000,
            self.corners if self.corners != "sharp" else "diagonal",
            self.wall / 1000,
            self.chamfer / 1000 if self.entry == "chamfered" else 0.0,
            self.turn == "needed",
        )
        laps = self._slotted(moved, slots, work)
        ribs, thin = self._opened(laps, families, self._paths(families, work.inputs.get("cables")))
        warnings = self.family_notices(families)
        warnings += [n for f, c in zip(families, cuts, strict=True) for n in self.told(c, f.value)]
        warnings += (
            self._crossing_notices(laps) + self._within(cuts) + self._edge_notices(moved, thin)
        )
        sets = tuple(self.series + families[k].series for k in order)
        made = Ribs(
            tuple(ribs),
            tuple(laps.crossings),
            self.material,
            sets,
            tuple(tuple(z) for z in laps.zones),
            tuple(laps.passing),
            (*moved[0].beyond, *moved[1].beyond),
            self._unslotted([*moved[0].ribs, *moved[1].ribs], laps, ribs),
        )
        warnings += self._assembly_notices(made)
        return self.made(made, body, warnings, self.aids(body), self._order_figure(made))

    def _slotted(self, sets: list[_Set], slots: Slots, work: Work) -> Laps:
        """The two sets slotted; ribs of which slots leave nothing are let go of, and the others not
        slotted for them."""
        while True:
            laps = lapped(sets[0].ribs, sets[1].ribs, slots, UP, lambda: work.progress(0.5))
            eaten = {r.label for r in laps.ribs if r.shape.is_empty}
            if not eaten:
                return laps
            for one in sets:
                one.let_go(eaten)

    def _moved(self, ribs: list[Rib]) -> _Set:
        out = _Set()
        for rib in ribs:
            shape: shapely.Polygon = rib.shape
            apart: Any = shapely.Polygon()
            if rib.y @ UP > 1 - LEANS:
                if self.proud:
                    shape = raised(shape, self.proud / 1000)
                    apart = shape.symmetric_difference(rib.shape)
                if self.feet == "feet" and not shape.is_empty:
                    shape, foot = footed(
                        shape, self.ground - rib.origin[2], self.foot / 1000, self.inset / 1000
                    )
                    out.footless += foot.is_empty
                    apart = apart.union(foot)
            out.ribs.append(replace(rib, shape=shape))
            out.beyond.append(apart)
        out.let_go({r.label for r in out.ribs if r.shape.is_empty})
        return out

    def _paths(self, families: tuple[Family, Family], cables: Curves | None) -> list[Array]:
        """Ways (k, 3) along which rods or cables run."""
        if self.rods == "none":
            return []
        if self.rods == "drawn":
            if cables is None:
                raise ClauseError(
                    "There are no curves for the cables yet: draw some above, and choose them as “Cables” in this clause's menu.",
                    "rods",
                )
            out = []
            for curve in cables.curves:
                line = curve.polyline(max(curve.path.size * 1e-4, 1e-6))
                out.append(np.vstack([line, line[:1]]) if curve.path.closed else line)
            return out
        planes = families[self.rods == "second"].planes
        normals = planes.normals if isinstance(planes, Planes) else np.zeros((1, 3))
        if not len(normals):
            return []
        if np.abs(normals @ normals[0]).min() < 1 - 1e-6:
            raise ClauseError(
                "These ribs do not stand parallel, so that no straight rod goes through them; the other set may, or cables "
                "along drawn curves.",
                "rods",
            )
        return [through(p, normals[0]) for p in checked_points(self.holes, 1, 200, "rods", "holes")]

    def _opened(
        self, laps: Laps, families: tuple[Family, Family], paths: list[Array]
    ) -> tuple[list[Rib], list[str]]:
        """Ribs with openings and holes, and labels of those in which a hole had no room."""
        r, ribs = self.rod / 2000, laps.ribs
        only = {"first": families[0].series, "second": families[1].series}.get(self.rods)
        held = [
            bool(paths) and only in (None, rib.series.removeprefix(self.series)) for rib in ribs
        ]
        if self.inside == "open":
            kept = [
                [*z, *(holes_in(rib, paths, r) if own else [])]
                for rib, z, own in zip(ribs, laps.zones, held, strict=True)
            ]
            ribs = hollowed(ribs, kept, self.border / 1000, self.radius / 1000)
        if not paths:
            return ribs, []
        done, thin = drilled(
            [rib for rib, own in zip(ribs, held, strict=True) if own], paths, r, self.wall / 1000
        )
        drawn = iter(done)
        return [next(drawn) if own else rib for rib, own in zip(ribs, held, strict=True)], thin

    def _unslotted(
        self, whole: list[Rib], laps: Laps, ribs: list[Rib]
    ) -> tuple[shapely.Polygon, ...]:
        """Shapes of ribs before they were slotted, with all that was opened in them since."""
        out = []
        for k, (before, slotted, now) in enumerate(zip(whole, laps.ribs, ribs, strict=True)):
            shape = before.shape
            if k in laps.fell:
                shape = now.shape
            elif now.shape is not slotted.shape:
                rings: Any = shapely.polygons(np.array(list(now.shape.interiors), object))
                fresh = shapely.contains(shape, shapely.point_on_surface(rings))
                shape = shapely.Polygon(
                    shape.exterior, [*shape.interiors, *(r.exterior for r in rings[fresh])]
                )
            out.append(shape)
        return tuple(out)

    def _crossing_notices(self, laps: Laps) -> list[Notice]:
        out = []
        by_words: dict[str, list[Crossing]] = {}
        for c in laps.crossings:
            if c.fault:
                by_words.setdefault(FAULTY[c.fault], []).append(c)
        for words, found in by_words.items():
            names = listed(
                (f"{laps.ribs[c.first].label} × {laps.ribs[c.second].label}" for c in found), 5
            )
            thin = found[0].fault in ("slot", "end")
            value = "wall" if thin else "above"
            helps = found[0].locked and self.turn != "needed"
            turn = Remedy("Slot from the other side where they would lock", {"turn": "needed"})
            facts = {
                "crossings": counted(len(found), "crossing", "crossings"),
                "fault": words.format(wall=self.wall),
                "labels": names,
            }
            notice = Notice.coded(
                "slots at fault",
                facts,
                at=place_of(found[0].place),
                value=value,
                remedies=(turn,) if helps else (),
            )
            out.append(notice)
        if laps.fell:
            names = listed(laps.ribs[k].label for k in laps.fell)
            one = laps.ribs[laps.fell[0]]
            which = counted(len(laps.fell), "rib falls", "ribs fall")
            out.append(
                Notice(
                    f"{which} apart where slots go through: {names}; the largest piece is kept. The other set slotted "
                    "from above, or another share, may keep them whole.",
                    at=place_of(one.origin),
                    value="above",
                )
            )
        return out

    def _edge_notices(self, moved: list[_Set], thin: list[str]) -> list[Notice]:
        out = []
        gone = [r.label for m in moved for r in m.gone]
        if gone:
            which = counted(len(gone), "rib is", "ribs are")
            value = "proud" if self.proud < 0 else "clearance"
            out.append(
                Notice(f"{which} cut away altogether and left out: {listed(gone, 6)}.", value=value)
            )
        without = sum(m.footless for m in moved)
        if without:
            which = counted(without, "rib has", "ribs have")
            out.append(
                Notice(
                    f"{which} no feet: too short for them, or reaching below the ground at {self.ground:g} m.",
                    value="ground",
                )
            )
        if thin:
            which = counted(len(thin), "hole is", "holes are")
            out.append(
                Notice(
                    f"{which} left out for want of {self.wall:g} mm to an edge or slot: {listed(thin, 6)}.",
                    value="holes",
                )
            )
        return out

    def _assembly_notices(self, ribs: Ribs) -> list[Notice]:
        """Ribs that no order puts together."""
        out = []
        for group in ribs.assembly.locked:
            names = listed((ribs.labels[k] for k in group), 8)
            out.append(
                Notice(
                    f"{len(group)} ribs lock each other and cannot be put together in any order: {names}. Fewer ribs, or "
                    "the other set slotted from above, may free them.",
                    at=place_of(ribs.ribs[group[0]].middle),
                    value="above",
                )
            )
        return out

    def _order_figure(self, ribs: Ribs) -> dict[str, Figure]:
        return {
            "goes_in": Figure(
                "Put together", "; ".join(f"{s} {w}" for s, w in ribs.put_in().items())
            ),
            "clearance": Figure("Clearance of slots", self.clearance, "mm", 2),
        }

    def _within(self, cuts: list[Cut]) -> list[Notice]:
        """Ribs of one set that run into each other inside the body."""
        for cut in cuts:
            ribs = cut.ribs
            for a, b in itertools.pairwise(ribs):
                if (
                    a.bend is not None
                    or a.number == b.number
                    or abs(a.normal @ b.normal) > 1 - 1e-9
                ):
                    continue
                probe = lapped([a], [b], Slots(), UP).crossings
                if probe:
                    return [
                        Notice(
                            f"Planes {a.label} and {b.label} of one set cross inside the body; fewer of them, or a "
                            "straighter spine, keeps them apart.",
                            at=place_of(probe[0].place),
                        )
                    ]
        return []
