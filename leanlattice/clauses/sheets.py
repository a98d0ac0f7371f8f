"""Flat parts of all kinds nested on sheets, and the sheets there are."""

from __future__ import annotations

from collections.abc import Mapping, Sequence
from dataclasses import dataclass, replace
from typing import Annotated, Any, ClassVar, Literal

import numpy as np
from pydantic import Field

from ..core.flat.cutting import Cutting, not_cut
from ..core.flat.nesting import Nest, nest
from ..core.flat.parts import Part, Parts
from ..core.flat.sheets import Kept, Layout, OnSheets, Sheets, Stock
from ..core.flat.usual_sheets import least_usual
from ..core.flat_parts import PARTS_OF, parts_of
from .base import (
    Clause,
    ClauseError,
    Figure,
    Made,
    Notice,
    Remedy,
    Take,
    Work,
    arrangement,
    choice,
    count,
    headline,
    listed,
    number,
)
from .catalogue import SHEET_WORDS
from .said import mm, mm_by

__all__ = ["SetOut", "SheetStock"]

Lie = tuple[
    Annotated[str, Field(max_length=60)],
    Annotated[int, Field(ge=0, le=10_000)],
    Annotated[float, Field(ge=-1e6, le=1e6, allow_inf_nan=False)],
    Annotated[float, Field(ge=-1e6, le=1e6, allow_inf_nan=False)],
    Annotated[float, Field(ge=-3600, le=3600, allow_inf_nan=False)],
    bool,
]
MOST_PARTS = 6000


class SheetStock(Clause):
    kind = "sheet-stock"
    chapter = "Make"
    title = "Keep sheets in stock"
    summary = "Sheets of another size, or offcuts, that are taken first."
    sentence = (
        "**Keep** in stock {sheets} of {width} × {height} {grade}[grade=one| of {thickness} {material}], at {price} "
        "each, taken before others."
    )
    gives = "Stock"
    drawn = False

    sheets: int = count(1, 1, 500, "Number", words=("sheet", "sheets"))
    width: float = number(1200.0, "mm", 50.0, 30000.0, 10.0, "Length")
    height: float = number(600.0, "mm", 50.0, 30000.0, 10.0, "Width")
    price: float = number(0.0, "£", 0.0, 100000.0, 1.0, "Price", "Offcuts may cost nothing")
    grade: Literal["any", "one"] = choice("any", {"any": "for any part", "one": "for parts"}, "For")
    thickness: float = number(18.0, "mm", 0.1, 1000.0, 0.1, "Thickness")
    material: str = choice("plywood", SHEET_WORDS, "Material")

    def make(self, work: Work) -> Made:
        of = (self.material, self.thickness) if self.grade == "one" else ("", 0.0)
        stock = Stock(self.width, self.height, 0.0, 0.0, self.sheets, self.price, *of)
        return Made(
            stock,
            {"in_stock": Figure("In stock", self.width * self.height * self.sheets / 1e6, "m²", 2)},
        )


@dataclass(frozen=True)
class _Words:
    """How notices speak of things of a kind, and what else helps where they are too large."""

    one: str
    many: str
    smaller: str = ""


WORDS = {
    "panel": _Words("panel", "panels", "more bays"),
    "rib": _Words("rib", "ribs"),
    "template": _Words("template", "templates"),
    "strip": _Words("strip", "strips", "a smaller greatest length"),
    "wrap": _Words("template", "templates"),
    "plate": _Words("node plate", "node plates", "arms that enter by less"),
    "end plate": _Words("end plate", "end plates", "less beyond members"),
    "unrolled": _Words("unrolled part", "unrolled parts", "a smaller greatest length"),
}
"""By the kind of things that parts are of."""


def _things(parts: Parts, which: list[int]) -> tuple[list[int], list[str]]:
    """The things that some parts are of, and their labels."""
    return parts.source[which].tolist(), [parts.parts[k].label for k in which]


def _count(of: str, things: Sequence[int], labels: Sequence[str]) -> str:
    """How many things of a kind, and which, “are”."""
    words, alone = WORDS[of], len(things) == 1
    count = f"{len(things)} {words.one if alone else words.many}"
    return f"{count} ({listed(labels, 5)}) {'is' if alone else 'are'}"


def _notice(of: str, things: Sequence[int], labels: Sequence[str], text: str) -> Notice:
    """What is said of some things of a kind."""
    return Notice(f"{_count(of, things, labels)} {text}.", of, tuple(things[:2000]))


class SetOut(Clause):
    kind = "set-out"
    chapter = "Make"
    title = "Set parts out on sheets"
    summary = "Every panel and rib as a flat part with its names, nested on sheets."
    sentence = (
        "**Set out** {copies} of every part on sheets {size}[size=given| {width} × {height}] at "
        "{price} each, {spacing} apart and "
        "{margin} from the sheet's edge, {turns}, {arrangement}.¦ Cut {path}[path=beside| of a tool {tool} wide], "
        "{tabs}[tabs=tabs| {tab} wide every {every}], at {speed} and {rate} an hour."
    )
    takes = (
        Take(
            name="parts",
            types=tuple(PARTS_OF),
            label="Panels, ribs, strips and other flat parts",
            many=True,
            uses_up=True,
        ),
        Take(
            name="stocks",
            types=("Stock",),
            label="Sheets in stock",
            optional=True,
            many=True,
            uses_up=True,
        ),
    )
    gives = "Sheets"
    drawn = False

    sketches: ClassVar[Mapping[str, tuple[str, ...]]] = {
        "nest": ("margin", "spacing", "tab", "every")
    }
    # Whoever begins does not know yet how large parts are.
    begins: ClassVar[Mapping[str, Any]] = {"size": "usual"}

    copies: int = count(1, 1, 50, "Number of each")
    size: Literal["given", "usual"] = choice(
        "given",
        {"given": "of", "usual": "of the least usual size that takes every part,"},
        "Size of sheets",
        "Usual sizes are those in which merchants keep sheets of the material",
    )
    width: float = number(2500.0, "mm", 100.0, 30000.0, 10.0, "Sheet length")
    height: float = number(1250.0, "mm", 100.0, 30000.0, 10.0, "Sheet width")
    price: float = number(60.0, "£", 0.0, 100000.0, 1.0, "Price of a sheet")
    spacing: float = number(12.0, "mm", 0.0, 1000.0, 1.0, "Spacing", "Least distance between parts")
    margin: float = number(
        20.0, "mm", 0.0, 1000.0, 1.0, "Margin", "Free strip along the sheet's edge"
    )
    turns: Literal["quarters", "free", "halves", "none"] = choice(
        "quarters",
        {
            "quarters": "turned by quarters",
            "free": "turned by eighths",
            "halves": "turned by halves, with the grain",
            "none": "not turned, with the grain",
        },
        "Turns",
        "The grain runs along the sheet's length and along a part as it stands, level for a rib.",
    )
    arrangement: list[Lie] = arrangement(
        "Arrangement", "Parts are moved and pinned on the Sheets screen."
    )
    path: Literal["along", "beside"] = choice(
        "along", {"along": "along the outlines", "beside": "beside the outlines by half"}, "Path"
    )
    tool: float = number(
        6.0, "mm", 0.01, 100.0, 0.1, "Tool or kerf", "The width of what is cut away"
    )
    tabs: Literal["none", "tabs"] = choice(
        "none", {"none": "without tabs", "tabs": "held by tabs"}, "Tabs"
    )
    tab: float = number(8.0, "mm", 0.1, 200.0, 1.0, "Width of a tab")
    every: float = number(600.0, "mm", 20.0, 10000.0, 10.0, "Distance of tabs")
    speed: float = number(3.0, "m/min", 0.01, 500.0, 0.1, "Speed")
    rate: float = number(45.0, "£", 0.0, 10000.0, 1.0, "Rate of an hour")

    def make(self, work: Work) -> Made:
        results = work.inputs["parts"]
        half = replace(work, progress=lambda share: work.progress(share / 2))
        found = [parts_of(result, half.progress) for result in results]
        made = tuple(parts for parts in found if parts is not None)
        every = [part for parts in made for part in parts.parts]
        nesting = replace(work, progress=lambda share: work.progress((1 + share) / 2))
        own = self._own_stock(every)
        layout = self.nested(every, nesting, own)
        sheets = Sheets(made, layout)
        notices = [
            notice
            for place, result in enumerate(results)
            for notice in self._told_of(sheets.of(place), result, place, own)
        ]
        figures = self.figures(layout)
        if self.size == "usual":
            figures["sheet_length"] = Figure("Sheets long", own.width, "mm")
            figures["sheet_width"] = Figure("Sheets wide", own.height, "mm")
        return Made(sheets, figures, notices + self.notices(layout))

    def _own_stock(self, parts: Sequence[Part]) -> Stock:
        """The sheets that parts are set out on besides those kept; raises ``ClauseError`` where the
        margin leaves nothing of one."""
        size = (self.width, self.height)
        if self.size == "usual":
            size = least_usual(parts, self.turns, self.margin)
        if 2 * self.margin >= min(size):
            raise ClauseError(
                f"A margin of {mm(self.margin)} leaves nothing of a sheet "
                f"{mm_by(*size)}; less than {mm(min(size) / 2)} works.",
                "margin",
            )
        return Stock(*size, self.margin, self.spacing, 0, self.price)

    def _told_of(self, on: OnSheets, result: Any, place: int, own: Stock) -> list[Notice]:
        """What is said of the parts of one result: those that could not be made, that are too large
        and that have no room for all their names."""
        parts = on.parts
        off = [k for k in range(parts.count) if on.layout.sheet[on.rows[0, k]] < 0]
        can_splice = parts.of == "rib" and not result.whole
        small = (
            f"too small for a joint of {mm(parts.joint)} and left out; a narrower joint or "
            "fewer bays would work"
        )
        too_small = _notice(parts.of, parts.missing.tolist(), parts.missing_labels, small)
        too_large = self._too_large(parts, off, can_splice, own)
        short = "without room for all names; those that fit are there"
        nameless = _notice(parts.of, *_things(parts, parts.unlabelled.tolist()), short)
        told = (too_small, too_large, nameless)
        return [replace(n, input="parts", place=place) for n in told if n.which]

    def _too_large(self, parts: Parts, off: list[int], can_splice: bool, own: Stock) -> Notice:
        """What is said of parts that are ``off`` all sheets, which are of the ``own`` size."""
        of = parts.of
        things, labels = _things(parts, off)
        value = "width" if self.size == "given" else "size"
        facts = {"parts": _count(of, things, labels), "width": own.width, "height": own.height}
        fields: dict[str, Any] = {"of": of, "which": tuple(things[:2000]), "value": value}
        if not can_splice:
            helps = f" or {WORDS[of].smaller}" if WORDS[of].smaller else ""
            remedies = self._larger([parts.parts[k] for k in off], own)
            told = facts | {"helps": helps}
            return Notice.coded("parts too large for sheets", told, remedies=remedies, **fields)
        return Notice.coded("parts too large", facts, remedies=(self._splice(own),), **fields)

    def _larger(self, parts: list[Part], own: Stock) -> tuple[Remedy, ...]:
        """Larger sheets that are usually sold, where they take more of the parts."""
        if not parts:
            return ()
        size = least_usual(parts, self.turns, self.margin)
        if size[0] * size[1] <= own.width * own.height:
            return ()
        return (Remedy(f"Take sheets of {mm_by(*size)}", {"size": "usual"}),)

    def _splice(self, own: Stock) -> Remedy:
        low, high = (side - 2 * self.margin for side in sorted((own.width, own.height)))
        title = f"Splice ribs longer than {mm(high)}"
        return Remedy(title, {"longest": high, "tallest": low}, "splice-ribs")

    def cutting(self) -> Cutting:
        tool = self.tool if self.path == "beside" else 0.0
        if tool > self.spacing:
            raise ClauseError(
                f"A tool {mm(self.tool)} wide does not pass between parts {mm(self.spacing)} "
                "apart; a spacing of "
                f"{mm(self.tool)} or more works.",
                "spacing",
            )
        return Cutting(
            tool,
            self.tab if self.tabs == "tabs" else 0.0,
            self.every,
            self.speed * 1000 / 60,
            rate=self.rate,
        )

    def stocks(self, work: Work, own: Stock) -> tuple[Stock, ...]:
        """The ``own`` sheet and those in stock."""
        kept: Sequence[Stock] = work.inputs.get("stocks") or ()
        return (own, *(replace(s, margin=self.margin, spacing=self.spacing) for s in kept))

    def nested(self, parts: Sequence[Part], work: Work, own: Stock) -> Layout:
        """All copies of parts on sheets, those that are arranged where they were put if they still
        fit there."""
        cutting, stocks = self.cutting(), self.stocks(work, own)
        many = [
            p if k == 0 else replace(p, label=f"{p.label}.{k + 1}")
            for k in range(self.copies)
            for p in parts
        ]
        if len(many) > MOST_PARTS:
            raise ClauseError(
                f"That would be {len(many):,} parts; at most {MOST_PARTS:,} can be set out.",
                "copies",
            )
        made = Nest(many, stocks, self.turns)
        layout = nest(made, self._kept(many), progress=work.progress)
        return replace(layout, cutting=cutting, made=made)

    def _kept(self, parts: Sequence[Part]) -> Kept | None:
        if not self.arrangement:
            return None
        at = {p.label: i for i, p in enumerate(parts)}
        slot, angle, shift = (
            np.full(len(parts), -1),
            np.zeros(len(parts)),
            np.zeros((len(parts), 2)),
        )
        pinned = np.zeros(len(parts), bool)
        for label, sheet, x, y, turn, fixed in self.arrangement:
            if label in at:
                i = at[label]
                slot[i], angle[i], shift[i], pinned[i] = sheet, np.radians(turn), (x, y), fixed
        return Kept(slot, angle, shift, pinned)

    def figures(self, layout: Layout) -> dict[str, Figure]:
        on = layout.sheet >= 0
        parts = [p for p, there in zip(layout.parts, on, strict=True) if there]
        cutting = layout.cutting
        length = sum(p.cut_length for p in parts)
        taken = [layout.stock(k) for k in range(layout.sheet_count)]
        area = sum(s.width * s.height for s in taken) / 1e6
        net = sum(p.area for p in parts) / 1e6
        seconds = cutting.seconds(length, sum(1 + len(p.inner) for p in parts))
        out = {
            "parts": Figure("Flat parts", int(on.sum())),
            "sheets": headline("Sheets", layout.sheet_count),
            "used": headline("Sheet area used", net / area * 100 if area else 0.0, "%", 0),
            "within_outlines": Figure(
                "Area used within outlines", layout.within_outlines() * 100, "%", 0
            ),
            "waste": Figure("Waste", area - net, "m²", 2),
            "cut_length": headline("Cutting length", length / 1000, "m", 1),
            "cut_time": Figure("Cutting time", seconds / 60, "min", 0),
            "cost": Figure(
                "Cost", sum(s.price for s in taken) + seconds / 3600 * self.rate, "£", 0
            ),
        }
        if cutting.tool:
            out["tool"] = Figure("Tool", cutting.tool, "mm", 2)
        return out

    def notices(self, layout: Layout) -> list[Notice]:
        """What holds for parts of any kind."""
        out = []
        tool = layout.cutting.tool
        if tool:
            stuck = [p.label for p in layout.parts if not_cut(p, tool) > 0]
            if stuck:
                which = f"{len(stuck)} part has" if len(stuck) == 1 else f"{len(stuck)} parts have"
                out.append(
                    Notice(
                        f"{which} slots or openings a tool {mm(tool)} wide does not get into: "
                        f"{listed(stuck, 6)}.",
                        value="tool",
                    )
                )
        moved = self._moved_off(layout)
        if moved:
            which = "One part" if len(moved) == 1 else f"{len(moved)} parts"
            out.append(
                Notice(
                    f"{which} no longer fitted where pinned and found another place: {listed(moved, 6)}.",
                    value="arrangement",
                )
            )
        return out

    def _moved_off(self, layout: Layout) -> list[str]:
        at = {p.label: i for i, p in enumerate(layout.parts)}
        return [
            a[0] for a in self.arrangement if a[5] and a[0] in at and not layout.pinned[at[a[0]]]
        ]
