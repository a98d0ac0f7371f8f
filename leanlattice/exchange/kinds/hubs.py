"""Hubs: how they are drawn and listed."""

from __future__ import annotations

from collections.abc import Iterator
from typing import Any

import numpy as np

from ...core.hubs.hubs import Hubs
from ...core.structure.names import names_of_structure
from ..subjects import Subject
from ..tables import Table, rounded
from .amounts import Amounts, materials_of
from .kind import (
    Arrays,
    BuildingModel,
    Drawing,
    Kind,
    Layer,
    Measure,
    Picture,
    Schedule,
    Solid,
)
from .solids import drawing_by_name, solids_at_nodes

__all__ = ["KIND"]

ENDS = ("start", "end")


def _drawn(hubs: Hubs) -> Drawing:
    return drawing_by_name(hubs.labels, hubs.solids)


def _measured(hubs: Hubs) -> Arrays:
    off = np.zeros(hubs.count)
    np.maximum.at(off, hubs.seats.hub, hubs.off * 1000)
    return {
        "hubMass": hubs.masses,
        "hubRadius": hubs.seats.radius * 1000,
        "hubSeats": np.diff(hubs.seats.offsets).astype(float),
        "hubKind": hubs.kind_of.astype(float),
        "hubOff": off,
    }


def _picture(hubs: Hubs) -> Picture:
    solids = hubs.solids
    return Picture(solids.vertices, solids.triangles, [])


def _material(hubs: Hubs) -> str:
    return hubs.solids.materials[0]


def _table(subject: Subject) -> Table:
    hubs: Hubs = subject.result
    seats = hubs.seats
    columns: dict[str, list[Any]] = {
        "label": hubs.labels,
        "node": names_of_structure(hubs.structure).nodes(seats.nodes),
        "kind": hubs.kinds,
        "seats": np.diff(seats.offsets).tolist(),
    }
    columns["made"] = ["alike" if hubs.is_alike else "own"] * hubs.count
    columns |= {f"{axis}_m": rounded(seats.middles[:, k], 6) for k, axis in enumerate("xyz")}
    columns["radius_mm"] = rounded(seats.radius * 1000, 5)
    columns["hollow_mm"] = rounded(seats.hollow * 1000, 5)
    columns["mass_kg"] = rounded(hubs.masses, 4)
    columns["material"] = [_material(hubs)] * hubs.count
    return Table("hub", columns, list(range(hubs.count)))


def _seats(subject: Subject) -> Table:
    """Seats: where axes meet them and which way these lead, how far from the middle of the hub they
    are along its radius square to them, and the holes in them."""
    hubs: Hubs = subject.result
    seats, ends = hubs.seats, hubs.seats.ends
    count = len(seats.hub)
    places = seats.middles[seats.hub] + ends.off + ends.set_back[:, None] * ends.way
    columns: dict[str, list[Any]] = {
        "hub": np.array(hubs.labels)[seats.hub].tolist(),
        "member": names_of_structure(hubs.structure).members(ends.member),
        "end": [ENDS[end] for end in ends.end.tolist()],
        "from_middle_mm": rounded(ends.levels * 1000, 5),
        "seat_mm": rounded(2 * ends.reach * 1000, 3),
        **{f"{axis}_m": rounded(places[:, k], 6) for k, axis in enumerate("xyz")},
        **{f"way_{axis}": rounded(ends.way[:, k], 7) for k, axis in enumerate("xyz")},
        "off_mm": rounded(hubs.off * 1000, 3),
        "bolt": [hubs.bolt] * count,
        "hole_mm": [round(hubs.making.hole * 1000, 3)] * count,
        "deep_mm": [round(hubs.making.deep * 1000, 3)] * count,
    }
    return Table("hub", columns, seats.hub.tolist())


def _amounts(subject: Subject) -> Amounts:
    hubs: Hubs = subject.result
    return Amounts("hub", [_material(hubs)] * hubs.count, hubs.kinds, hubs.masses)


def _solids(subject: Subject) -> Iterator[Solid]:
    hubs: Hubs = subject.result
    return solids_at_nodes(hubs.labels, hubs.solids)


def _building(model: BuildingModel, subject: Subject) -> None:
    """Hubs as fastenings of members, each of its kind."""
    hubs: Hubs = subject.result
    for kind, solid in zip(hubs.kinds, _solids(subject), strict=True):
        shape = (solid.vertices, solid.triangles, _material(hubs), "USERDEFINED")
        model.add_faced("IfcDiscreteAccessory", solid.name, kind, *shape)


KIND = Kind(
    "Hubs",
    layers=(Layer("hubs", "Hubs", "hub", shown=True),),
    drawn=_drawn,
    measures=(
        Measure("hubRadius", "radius of a hub", "mm", "hubs", "hub", digits=1),
        Measure("hubMass", "mass of a hub", "kg", "hubs", "hub", total=True),
        Measure("hubSeats", "seats of a hub", "", "hubs", "hub", digits=0),
        Measure("hubOff", "seats off their members", "mm", "hubs", "hub", digits=2),
        Measure("hubKind", "kind of hub", "", "hubs", "hub", digits=0),
    ),
    measured=_measured,
    measured_later=True,
    picture=_picture,
    portrait=False,
    card={"hubs": "hubs"},
    schedules=(
        Schedule("hubs", _table, "Hubs", ("Hubs",), "hub"),
        Schedule("hub_seats", _seats, "Seats", ("Hubs",), "hub"),
        materials_of(_amounts),
    ),
    solids=_solids,
    building=_building,
)
