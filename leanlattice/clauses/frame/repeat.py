"""The clause that repeats a bay of members."""

from __future__ import annotations

from collections.abc import Callable
from typing import Any, Literal

import numpy as np

from ...core.structure.clashes import clashes_of
from ...core.structure.names import names_of_structure
from ...core.structure.repeated import Move, Repeated, repeated
from ...core.structure.structure import Structure
from ..base import (
    Clause,
    ClauseError,
    Figure,
    Made,
    Notice,
    Remedy,
    Work,
    choice,
    count,
    headline,
    number,
    point,
)
from ..lattice.common import place_of
from ..said import metres
from ..shape.common import Place, dial_aid, line_aid
from .common import STRUCTURE, structure_figures

__all__ = ["RepeatBay"]

MOST_MEMBERS = 60_000
MOST_OFFERED = 3
"""How many ways of joining bays are offered."""
OVERLAPS = 0.5
"""Share of a copy's members that lie on others from which on it lies on what is there."""


class RepeatBay(Clause):
    kind = "repeat-bay"
    chapter = "Frame"
    title = "Repeat the bay"
    summary = "All members so far again: moved on, turned about an upright axis, or mirrored."
    sentence = (
        "**Repeat** the bay {way}[way=along,around|, {copies} more,]"
        "[way=along| by {dx}, {dy}, {dz}][way=around| by {angle} about {centre}]"
        "[way=mirrored| through {centre}, facing {azimuth}]; nodes within {near} are one."
    )
    takes = (STRUCTURE,)
    gives = "Structure"
    keeps_numbers = True

    way: Literal["along", "around", "mirrored"] = choice(
        "along",
        {
            "along": "further on",
            "around": "round an upright axis",
            "mirrored": "mirrored in an upright plane",
        },
        "Way",
    )
    copies: int = count(3, 1, 1000, "Copies")
    dx: float = number(0.0, "m", -1000.0, 1000.0, 0.1, "Step in x")
    dy: float = number(6.0, "m", -1000.0, 1000.0, 0.1, "Step in y")
    dz: float = number(0.0, "m", -1000.0, 1000.0, 0.1, "Step in z")
    angle: float = number(30.0, "°", -360.0, 360.0, 5.0, "Angle", "From one bay to the next")
    centre: Place = point((0.0, 0.0, 0.0), "Through")
    azimuth: float = number(
        90.0, "°", -360.0, 360.0, 5.0, "Facing", "In plan, from x; 0° mirrors left and right"
    )
    near: float = number(1.0, "mm", 0.001, 1000.0, 1.0, "Joined within")

    def make(self, work: Work) -> Made:
        bay: Structure = work.inputs["structure"]
        moves = self._moves()
        if bay.count * (1 + len(moves)) > MOST_MEMBERS:
            raise ClauseError(
                f"{bay.count:,} members {len(moves):,} times more would be "
                f"{bay.count * (1 + len(moves)):,}; at most {MOST_MEMBERS:,} can be worked with.",
                "copies",
            )
        made = repeated(bay, moves, self.near / 1000)
        self._check(bay, made, len(moves))
        figures = {
            "bays": headline("Bays", 1 + len(moves)),
            "shared_nodes": headline("Nodes shared by bays", made.shared),
        }

        def later(check: Callable[[], None]) -> tuple[dict[str, Figure], list[Notice]]:
            return {}, self._overlapping(bay, made.structure, check)

        return Made(
            made.structure,
            figures | structure_figures(made.structure),
            self._told(bay, made),
            later,
            self._handles(bay),
        )

    def _moves(self) -> list[Move]:
        if self.way == "along":
            step = np.array([self.dx, self.dy, self.dz])
            return [Move(np.eye(3), (k + 1) * step) for k in range(self.copies)]
        centre = np.array(self.centre)
        if self.way == "around":
            turns = [np.radians(self.angle) * (k + 1) for k in range(self.copies)]
            matrices = [_turned(turn) for turn in turns]
        else:
            facing = np.radians(self.azimuth)
            normal = np.array([np.cos(facing), np.sin(facing), 0.0])
            matrices = [np.eye(3) - 2 * np.outer(normal, normal)]
        return [Move(matrix, centre - matrix @ centre) for matrix in matrices]

    def _check(self, bay: Structure, made: Repeated, copies: int) -> None:
        """Raises ``ClauseError`` where copies lie on what is there."""
        if made.doubled <= OVERLAPS * bay.count * copies:
            return
        facts = {"doubled": made.doubled, "members": bay.count * copies}
        raise ClauseError.of("bays coincide", facts, self._value, remedies=self._joining(bay))

    def _told(self, bay: Structure, made: Repeated) -> list[Notice]:
        if made.shared:
            return []
        return [Notice.coded("bays apart", {}, value="near", remedies=self._joining(bay))]

    def _joining(self, bay: Structure) -> tuple[Remedy, ...]:
        """Steps as long as the ``bay``, or planes at its ends, by which bays share nodes."""
        low, high = bay.places.min(axis=0).tolist(), bay.places.max(axis=0).tolist()
        offers: list[tuple[str, dict[str, Any]]] = []
        for axis, name in enumerate("xy"):
            if self.way == "along":
                step = round(high[axis] - low[axis], 6)
                still = {"dx": 0.0, "dy": 0.0, "dz": 0.0}
                offers.append((f"Step by {metres(step)} in {name}", still | {f"d{name}": step}))
            if self.way == "mirrored":
                facing = {"azimuth": 90.0 * axis}
                for end in (high, low):
                    centre = [0.0, 0.0, 0.0]
                    centre[axis] = round(end[axis], 6) + 0.0  # no negative nothing
                    title = f"Mirror it at {name} = {metres(centre[axis])}"
                    offers.append((title, facing | {"centre": centre}))
        return tuple(Remedy(title, v) for title, v in offers if self._joins(bay, v))[:MOST_OFFERED]

    def _joins(self, bay: Structure, values: dict[str, Any]) -> bool:
        """Whether bays share nodes, and few members lie on others, by other ``values``."""
        moves = self.model_copy(update=values)._moves()
        made = repeated(bay, moves, self.near / 1000)
        return made.shared > 0 and made.doubled <= OVERLAPS * bay.count * len(moves)

    def _overlapping(
        self, bay: Structure, made: Structure, check: Callable[[], None]
    ) -> list[Notice]:
        """What is told of members of different bays that run into each other; what does so within a
        bay is its own."""
        within = {tuple(sorted(pair)) for pair in clashes_of(bay, 0.0, check).members.tolist()}
        found = clashes_of(made, 0.0, check)
        originals = np.sort(made.copy_of[found.members], axis=1).tolist()
        rows = [k for k, pair in enumerate(originals) if tuple(pair) not in within]
        if not rows:
            return []
        one, other = names_of_structure(made).members(found.members[rows[0]])
        pairs = f"{len(rows):,} pairs" if len(rows) > 1 else "1 pair"
        text = (
            f"{pairs} of members of different bays run into each other, such as {one} and {other}. "
            "A longer step, another angle, or members ending where bays meet, would part them."
        )
        which = tuple(dict.fromkeys(found.members[rows].ravel().tolist()))[:2000]
        at = place_of(found.places[rows[0]])
        return [Notice(text, "member", which, at, self._value)]

    @property
    def _value(self) -> str:
        """What to change where bays lie on each other."""
        return {"along": "dy", "around": "angle", "mirrored": "centre"}[self.way]

    def _handles(self, bay: Structure) -> dict[str, np.ndarray]:
        middle = (bay.places.min(axis=0) + bay.places.max(axis=0)) / 2
        if self.way == "along":
            flat = middle + [self.dx, 0.0, self.dz]
            return line_aid("dy", flat, [0.0, 1.0, 0.0])
        reach = float(np.ptp(bay.places, axis=0).max()) / 2
        if self.way == "mirrored":
            return dial_aid("azimuth", self.centre, [reach, 0, 0], [0, 0, 1])
        arm = middle - self.centre
        arm[2] = 0.0
        size = float(np.linalg.norm(arm))
        arm = np.array([reach, 0.0, 0.0]) if size < 1e-6 else arm
        return dial_aid("angle", self.centre, arm, [0, 0, 1])


def _turned(angle: float) -> np.ndarray:
    """Turn about z (rad)."""
    c, s = float(np.cos(angle)), float(np.sin(angle))
    return np.array([[c, -s, 0.0], [s, c, 0.0], [0.0, 0.0, 1.0]])
