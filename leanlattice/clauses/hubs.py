"""The clause that makes round hubs with a seat for each member at the nodes of a structure."""

from __future__ import annotations

from typing import Literal

import numpy as np

from ..core.bolts import TAPPING_DRILLS
from ..core.hubs.hubs import Hubs, hubs
from ..core.materials import MATERIALS
from ..core.structure.faults import Fault
from ..core.structure.hub_seats import HubSeats, Making, hub_seats
from ..core.structure.names import names_of_structure
from ..core.structure.structure import Structure
from .at_nodes import MOST as MOST_SHOWN
from .at_nodes import MOVED, Why, none_made, without_part
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
from .said import mm

__all__ = ["MakeHubs"]

MOST = 5000
"""Hubs that can be worked with."""
LARGE = 6.0
"""Times as large a hub may be as its widest seat before that is told."""
METALS = {name: MATERIALS[name].title for name in ("S355", "S235", "aluminium")}
"""What hubs are made of, as choices."""


class MakeHubs(Clause):
    kind = "hubs"
    chapter = "Make"
    title = "Make hubs"
    summary = "A ball at each node with a flat seat for each member, tapped or for welding."
    sentence = (
        "**Make** hubs at nodes of {material}, their seats {joint}[joint=tapped| for {bolt}, "
        "{deep} deep][joint=hollow|, with a wall of {wall}]¦; those alike within {tolerance} are of "
        "one kind, {made}."
    )
    takes = (Take(name="structure", types=("Structure",), label="Structure"),)
    gives = "Hubs"

    material: str = choice("S355", METALS, "Material")
    joint: Literal["tapped", "plain", "hollow"] = choice(
        "tapped",
        {
            "tapped": "drilled and tapped",
            "plain": "plain, for welding",
            "hollow": "plain, for welding, and hollow",
        },
        "Joint",
    )
    bolt: str = choice("M16", {name: name for name in TAPPING_DRILLS}, "Size of bolts")
    deep: float = number(25.0, "mm", 3.0, 500.0, 1.0, "Depth of holes")
    wall: float = number(8.0, "mm", 1.0, 500.0, 0.5, "Wall of hollow hubs")
    tolerance: float = number(1.0, "mm", 0.01, 50.0, 0.1, "Tolerance of kinds")
    made: Literal["own", "alike"] = choice(
        "own",
        {"own": "each made to its own members", "alike": "and made alike"},
        "Made",
        "What is made alike has its seats where the mean of its kind has them; joints take up what "
        "these are off the ends of members",
    )

    def make(self, work: Work) -> Made:
        structure: Structure = work.inputs["structure"]
        making = self._made_as()
        seats = hub_seats(structure, making)
        told = without_part(structure, seats.fault, "hub", self._why(seats))
        if not seats.count:
            raise ClauseError(none_made(told, "hub"), told[0].value if told else None)
        if seats.count > MOST:
            raise ClauseError(f"There would be {seats.count:,} hubs; at most {MOST:,} can be made.")
        bolt = self.bolt if making.hole else ""
        tolerance, is_alike = self.tolerance / 1000, self.made == "alike"
        made = hubs(structure, making, bolt, self.material, tolerance, work.progress, is_alike)
        told += _too_large(structure, seats)
        return Made(made, _figures(made) | {"tolerance": self._equal()}, told)

    def _made_as(self) -> Making:
        if self.joint != "tapped":
            return Making(wall=self.wall / 1000 if self.joint == "hollow" else 0.0)
        return Making(TAPPING_DRILLS[self.bolt] / 1000, self.deep / 1000)

    def _equal(self) -> Figure:
        return Figure("Equal within", self.tolerance, "mm", 2)

    def _why(self, seats: HubSeats) -> dict[Fault, Why]:
        """Why nodes have no hub."""
        least = {fault: _needed(seats, fault) for fault in (Fault.SMALL, Fault.MET)}
        return {
            Fault.OTHER: Why(
                "members that are not held back for seats on hubs, as they can be where they are "
                "framed"
            ),
            Fault.PASSES: Why("members that pass; only where all end can a hub hold them"),
            Fault.BENT: Why("members that are bent where they end; seats are for straight ones"),
            Fault.CLOSE: Why("members less than 8° apart, whose seats would take too large a hub"),
            Fault.SMALL: Why(
                "no room for all seats on a hub of the radius that was asked for where it is "
                f"framed; {mm(least[Fault.SMALL], ',.0f')} or more does for all"
            ),
            Fault.NARROW: Why("a seat too small for its hole; smaller bolts would do", "bolt"),
            Fault.MOVED: Why(MOVED),
            Fault.MET: Why(
                "holes that meet each other; less deep ones would do, or hubs of "
                f"{mm(least[Fault.MET], ',.0f')} radius or more where it is framed",
                "deep",
            ),
        }


def _needed(seats: HubSeats, fault: Fault) -> float:
    """The radius in mm that would do for all nodes with a ``fault``."""
    return float(np.ceil(seats.needed[seats.fault == fault].max(initial=0.0) * 1000))


def _too_large(structure: Structure, seats: HubSeats) -> list[Notice]:
    """Of hubs that narrow angles make many times as large as what they hold."""
    radius, angle = seats.ends.needs
    widest = np.maximum.reduceat(seats.ends.reach, seats.ends.starts[:-1])
    large = np.flatnonzero(radius > LARGE * widest)
    if not large.size:
        return []
    worst = large[np.argmax(radius[large])]
    node = seats.nodes[worst]
    label = names_of_structure(structure).nodes(seats.nodes[[worst]])[0]
    text = (
        f"{counted(large.size, 'hub is', 'hubs are')} over {LARGE:g} times as large as the widest "
        f"seat, {label} the most with {mm(radius[worst] * 1000, '.0f')} radius: members meet at "
        f"{np.degrees(angle[worst]):.0f}° there. Members further apart, or slimmer ones, would take "
        "smaller hubs."
    )
    x, y, z = structure.places[node].tolist()
    nodes = tuple(map(int, seats.nodes[large][:MOST_SHOWN]))
    return [Notice(text, "node", nodes, (x, y, z), input="structure")]


def _figures(made: Hubs) -> dict[str, Figure]:
    radius = made.seats.radius * 1000
    figures = {
        "hubs": headline("Hubs", made.count),
        "hub_kinds": headline("Kinds of hubs", int(made.kind_of.max())),
        "hub_mass": headline("Mass of hubs", float(made.masses.sum()), "kg", 0),
        "hub_largest": headline("Largest radius of a hub", float(radius.max()), "mm", 1),
        "hub_smallest": Figure("Smallest radius of a hub", float(radius.min()), "mm", 1),
        "hub_seats": Figure("Seats", len(made.seats.hub)),
    }
    if made.is_alike:
        most = float(made.off.max() * 1000)
        figures["hub_off"] = Figure("Most seats are off", most, "mm", 2)
    if made.making.hole:
        figures["hub_hole"] = Figure("Drilled", made.making.hole * 1000, "mm", 1)
    return figures
