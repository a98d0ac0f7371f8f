"""The clause that parts a net into strips of sheet that are cut flat and folded up to it."""

from __future__ import annotations

from dataclasses import replace
from typing import Literal

import numpy as np
from numpy.typing import NDArray

from ..core.flat.flaps import Joint
from ..core.flat.fold_angles import with_angles
from ..core.flat.parting import Parting
from ..core.flat.seams import Room
from ..core.flat.strips import Strips, StripsError, strips_of
from ..core.geometry.nets import Net
from ..core.nets.rows import RowsError
from ..core.panels.panels import Sheet
from .base import (
    Clause,
    ClauseError,
    Figure,
    Made,
    Notice,
    Take,
    Work,
    choice,
    counted,
    headline,
    number,
)
from .catalogue import ANGLE_WORDS, SHEET_AND_FILM_WORDS
from .said import mm, mm_by

__all__ = ["CutStrips"]

MOST = 40_000
"""Cells that can be worked with."""
MOST_BY_SEAMS = 6_000
"""The same where seams are looked for one by one."""


class CutStrips(Clause):
    kind = "strips"
    chapter = "Make"
    title = "Cut into strips"
    builds = "strips"
    summary = "A net as strips of sheet or fabric, unrolled, with folds, flaps and holes."
    sentence = (
        "**Cut** the net into strips {along} of {thickness} {material}, none larger than {length} "
        "× {width}, joined by {joint}¦[joint=holes| {diameter} wide and at most {every} apart]"
        "[joint=holes,flaps|, the flaps {deep} deep], angles of folds {angles}, {size}"
        "[size=smaller| by {shorter} along and {narrower} across them]."
    )
    takes = (Take(name="net", types=("Net",), label="Net"),)
    gives = "Strips"

    along: Parting = choice(
        "long",
        {
            "long": "the long way",
            "short": "the short way",
            "ends": "from border to border",
            "loops": "round in loops",
            "least": "with the shortest seams",
            "cells": "cell by cell",
            "coffers": "coffer by coffer",
        },
        "Way",
        "Along rows of quads, or of triangles between strands; seams can part any net; cell by "
        "cell gives panels, folded where they are not flat, and coffer by coffer what was raised "
        "from one cell, with flaps to their neighbours",
    )
    thickness: float = number(2.0, "mm", 0.1, 50.0, 0.1, "Thickness")
    material: str = choice("aluminium", SHEET_AND_FILM_WORDS, "Material")
    length: float = number(2900.0, "mm", 50.0, 30000.0, 50.0, "Greatest length", "With its flaps")
    width: float = number(1400.0, "mm", 20.0, 30000.0, 50.0, "Greatest width", "With its flaps")
    joint: Literal["holes", "flaps", "none"] = choice(
        "holes",
        {"holes": "flaps with holes", "flaps": "flaps", "none": "their edges alone"},
        "Joint",
    )
    deep: float = number(
        25.0, "mm", 3.0, 500.0, 1.0, "Depth of flaps", "Less where there is no room"
    )
    diameter: float = number(5.0, "mm", 0.5, 50.0, 0.5, "Diameter of holes")
    angles: Literal["listed", "written"] = choice("listed", ANGLE_WORDS, "Angles of folds")
    every: float = number(150.0, "mm", 2.0, 2000.0, 10.0, "Greatest distance of holes")
    size: Literal["full", "smaller"] = choice(
        "full",
        {"full": "cut to their size", "smaller": "cut smaller"},
        "Size",
        "What is stretched is cut smaller by the share it gives under its tension",
    )
    shorter: float = number(1.0, "%", 0.0, 20.0, 0.1, "Shorter along strips")
    narrower: float = number(1.0, "%", 0.0, 20.0, 0.1, "Narrower across strips")

    def make(self, work: Work) -> Made:
        net: Net = work.inputs["net"]
        joint = self._joint()
        self._check(net, joint)
        room = Room(self.length / 1000, self.width / 1000)
        sheet = Sheet(self.material, self.thickness / 1000)
        try:
            strips = strips_of(net, self.along, room, joint, sheet, work.progress, self._smaller())
        except RowsError as error:
            raise ClauseError(str(error), "along") from None
        except StripsError as error:
            raise ClauseError(
                f"{error} Holes further apart, or none, would work.", "every"
            ) from None
        if self.angles == "written":
            strips = replace(strips, parts=with_angles(strips.parts, strips.folds, work.progress))
        return Made(strips, _figures(strips), self._notices(strips))

    def _smaller(self) -> tuple[float, float]:
        """Shares along and across by which strips are cut smaller than they stand."""
        if self.size == "full":
            return 0.0, 0.0
        if self.joint == "holes":
            raise ClauseError(
                "Holes of strips that are cut smaller would not meet, as flaps are not stretched "
                "alike; flaps without holes, or edges alone, work.",
                "joint",
            )
        return self.shorter / 100, self.narrower / 100

    def _joint(self) -> Joint:
        deep = 0.0 if self.joint == "none" else self.deep / 1000
        diameter = self.diameter / 1000 if self.joint == "holes" else 0.0
        joint = Joint(deep, diameter, self.every / 1000)
        if deep < joint.least:
            raise ClauseError(
                f"Flaps {mm(self.deep)} deep have no room for holes {mm(self.diameter)} wide; "
                f"{mm(joint.least * 1000, '.1f')} or more works.",
                "deep",
            )
        return joint

    def _check(self, net: Net, joint: Joint) -> None:
        most = MOST_BY_SEAMS if self.along == "least" else MOST
        if net.cell_count > most:
            raise ClauseError(
                f"The net has {net.cell_count:,} cells; at most {most:,} can be cut this way.",
                "along",
            )
        for name in ("width", "length"):
            size = getattr(self, name)
            if size <= 2000 * joint.deep:
                raise ClauseError(
                    f"Strips {mm(size)} wide have no room for flaps {mm(self.deep)} deep on both "
                    f"sides; more than {mm(2000 * joint.deep)} works.",
                    name,
                )

    def _notices(self, strips: Strips) -> list[Notice]:
        flaps = strips.flaps
        bare = np.setdiff1d(np.arange(len(flaps.half)), flaps.hole_of)
        told = [
            self._of_seams(strips, flaps.without, "no room for a flap", "deep"),
            self._of_seams(strips, strips.lapped, "a flap that would lie over a strip", "deep"),
        ]
        if self.joint == "holes":
            what = f"no room for a hole {mm(self.diameter)} wide"
            told.append(self._of_seams(strips, flaps.half[bare], what, "diameter"))
        return self._too_large(strips) + [notice for notice in told if notice.which]

    def _of_seams(self, strips: Strips, half: NDArray[np.int32], what: str, value: str) -> Notice:
        """What is said of half-edges at seams, with the first of their places."""
        if not len(half):
            return Notice("")
        laid = strips.laid
        which = np.unique(laid.piece[half // 3])
        at = (strips.places[laid.start[half[0]]] + strips.places[laid.end[half[0]]]) / 2
        label = strips.labels[int(laid.piece[half[0] // 3])]
        x, y, z = at.tolist()
        count = counted(len(half), "seam has", "seams have")
        text = f"{count} {what}, as of {label} at ({x:.2f}, {y:.2f}, {z:.2f}) m."
        return Notice(text, "strip", tuple(map(int, which[:2000])), _place(at), value)

    def _too_large(self, strips: Strips) -> list[Notice]:
        large = strips.large
        if not len(large):
            return []
        shown = ", ".join(strips.labels[k] for k in large[:5].tolist())
        more = " …" if len(large) > 5 else ""
        text = (
            f"{counted(len(large), 'strip', 'strips')} cannot be parted and "
            f"{'is' if len(large) == 1 else 'are'} larger than {mm_by(self.length, self.width)} "
            f"with flaps, or would lie over themselves: {shown}{more}; a smaller module, larger "
            "strips, or another way would work."
        )
        first = strips.parts[int(large[0])]
        at = _place(first.places(first.outer).mean(axis=0))
        return [Notice(text, "strip", tuple(map(int, large[:2000])), at, "width")]


def _place(at: NDArray[np.float64]) -> tuple[float, float, float]:
    x, y, z = at.tolist()
    return x, y, z


def _figures(strips: Strips) -> dict[str, Figure]:
    within = strips.folds.turns[strips.folds.within]
    largest = float(np.abs(within).max(initial=0.0))
    area = sum(part.area for part in strips.parts) / 1e6
    return {
        "strips": headline("Strips", strips.count),
        "strip_folds": headline("Folds", len(within)),
        "strip_flaps": headline("Flaps", len(strips.flaps.half)),
        "strip_holes": Figure("Holes that meet", len(strips.flaps.holes)),
        "largest_fold": Figure("Largest fold", largest, "°", 1),
        "strip_area": Figure("Strip area", area, "m²", 2),
        "rebuilt": headline("Folded up within", float(strips.off.max()) * 1000, "mm", 3),
    }
