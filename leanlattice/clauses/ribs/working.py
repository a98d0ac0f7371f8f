"""Ribs of two sets worked out of what says how, and what is told of them: by the clauses that cut
them, and by those that amend how they go together."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import replace

import numpy as np
from numpy.typing import NDArray

from ...core.geometry.meshes import Body
from ...core.ribs.lapping import Lapped, Lapping, worked
from ...core.ribs.laps import Crossing, Slots
from ...core.ribs.parts import Ribs
from ..base import Clause, ClauseError, Figure, Made, Notice, Remedy, Work, listed
from ..lattice.common import place_of
from ..said import filled, metres, mm
from .common import counted, proof, rib_figures

__all__ = ["PLAIN_SLOTS", "ribs_worked"]

PLAIN_SLOTS = Slots(clearance=0.0002, relief=0.003, wall=0.012)
"""How ribs are slotted where nobody says how: with 0.2 mm to spare, half and half, inner corners
cleared diagonally by a tool 6 mm across, 12 mm from ends and each other."""

FAULTY = {
    "entwined": "lock each other",
    "caught": "lock each other",
    "three": "run into another where three ribs meet",
    "slot": "leave less than {wall:g} mm to another slot",
    "end": "leave less than {wall:g} mm at an end",
}
"""How faults of crossings are told."""
THIN = ("slot", "end")


def ribs_worked(
    clause: Clause,
    lapping: Lapping,
    material: str,
    body: Body | None,
    work: Work,
    warnings: Sequence[Notice] = (),
    aids: dict[str, NDArray[np.float64]] | None = None,
) -> Made:
    """What a ``clause`` made by its ``work`` of a ``lapping`` of two sets of ribs of a
    ``material``: with outer edges on a ``body``, if they are to, ``warnings`` of its own, and
    ``aids`` on which handles hang; raises ``ClauseError``."""
    clearance, thinnest = lapping.slots.clearance * 1000, lapping.thinnest * 1000
    if clearance <= -thinnest / 2:
        raise ClauseError(
            f"Clearance is {mm(clearance)}, which leaves no slot for plates {mm(thinnest)} thick; "
            f"it must be more than {mm(-thinnest / 2)}.",
            _own(clause, "clearance"),
        )
    found = worked(lapping, lambda: work.progress(0.5))
    if not found.ribs:
        raise ClauseError(
            "No rib is left: all planes miss the body, or what they cut is too small or cut away. "
            "More planes, or a smaller least piece, may leave some.",
            _own(clause, "least"),
        )
    ribs = replace(_ribs(found, lapping, material), body=body, clearance=clearance)
    told = [
        *_crossing_notices(clause, found, lapping),
        *_edge_notices(clause, found, lapping),
        *_assembly_notices(clause, ribs),
    ]
    way = "; ".join(f"{s} {w}" for s, w in ribs.put_in().items())
    figures = rib_figures(ribs) | {
        "goes_in": Figure("Put together", way),
        "clearance": Figure("Clearance of slots", clearance, "mm", 2),
    }
    notices = [*warnings, *(replace(notice, amendable=True) for notice in told)]
    return Made(ribs, figures, notices, lambda check: proof(ribs, check), aids or {})


def _ribs(found: Lapped, lapping: Lapping, material: str) -> Ribs:
    laps = found.laps
    series = tuple(s.series for s in lapping.order)
    zones = tuple(tuple(z) for z in laps.zones)
    cut = Ribs(tuple(found.ribs), tuple(laps.crossings), material, series, zones)
    return replace(
        cut,
        passing=tuple(laps.passing),
        beyond=found.beyond,
        unslotted=found.unslotted,
        lapping=lapping,
    )


def _own(clause: Clause, value: str) -> str | None:
    """The name of a value where it is one of the clause's own, so that it can be pointed at."""
    return value if value in clause.specs() else None


def _crossing_notices(clause: Clause, found: Lapped, lapping: Lapping) -> list[Notice]:
    out = []
    laps, wall = found.laps, lapping.slots.wall * 1000
    by_words: dict[str, list[Crossing]] = {}
    for c in laps.crossings:
        if c.fault:
            by_words.setdefault(FAULTY[c.fault], []).append(c)
    for words, at_fault in by_words.items():
        names = listed(
            (f"{laps.ribs[c.first].label} × {laps.ribs[c.second].label}" for c in at_fault), 5
        )
        first = at_fault[0]
        turn = _turned(clause, lapping) if first.locked and not lapping.slots.turn else ()
        facts = {
            "crossings": counted(len(at_fault), "crossing", "crossings"),
            "fault": filled(words, {"wall": wall}),
            "labels": names,
        }
        value = _own(clause, "wall" if first.fault in THIN else "above")
        out.append(
            Notice.coded(
                "slots at fault", facts, at=place_of(first.place), value=value, remedies=turn
            )
        )
    if laps.fell:
        names = listed(laps.ribs[k].label for k in laps.fell)
        which = counted(len(laps.fell), "rib falls", "ribs fall")
        out.append(
            Notice(
                f"{which} apart where slots go through: {names}; the largest piece is kept. The "
                "other set slotted from above, or another share, may keep them whole.",
                at=place_of(laps.ribs[laps.fell[0]].origin),
                value=_own(clause, "above"),
            )
        )
    return out


def _turned(clause: Clause, lapping: Lapping) -> tuple[Remedy, ...]:
    """Slots from the other side where ribs would lock: as a value of a clause that says how they
    are slotted, or by one that does, where none has said it yet."""
    title, values = "Slot from the other side where they would lock", {"turn": "needed"}
    if "turn" in clause.specs():
        return (Remedy(title, values),)
    return (Remedy(title, values, "rib-slots", below=True),) if lapping.slots == PLAIN_SLOTS else ()


def _edge_notices(clause: Clause, found: Lapped, lapping: Lapping) -> list[Notice]:
    out = []
    if found.gone:
        which = counted(len(found.gone), "rib is", "ribs are")
        value = _own(clause, "proud" if lapping.proud < 0 else "clearance")
        names = listed(found.gone, 6)
        out.append(Notice(f"{which} cut away altogether and left out: {names}.", value=value))
    if found.footless and lapping.feet is not None:
        which = counted(found.footless, "rib has", "ribs have")
        ground = lapping.feet.ground
        out.append(
            Notice(
                f"{which} no feet: too short for them, or reaching below the ground at "
                f"{metres(ground)}.",
                value=_own(clause, "ground"),
            )
        )
    if found.thin:
        which = counted(len(found.thin), "hole is", "holes are")
        walls = listed(mm(w) for w in sorted({r.wall * 1000 for r in lapping.rods}))
        names = listed(found.thin, 6)
        out.append(
            Notice(
                f"{which} left out for want of {walls} to an edge or slot: {names}.",
                value=_own(clause, "holes"),
            )
        )
    if found.loose and "rod" in clause.specs():
        which = counted(len(found.loose), "rod passes", "rods pass")
        numbers = listed(f"{k}" for k in found.loose)
        out.append(Notice(f"{which} no rib: number {numbers}.", value="holes"))
    return out


def _assembly_notices(clause: Clause, ribs: Ribs) -> list[Notice]:
    """Ribs that no order puts together."""
    out = []
    for group in ribs.assembly.locked:
        names = listed((ribs.labels[k] for k in group), 8)
        out.append(
            Notice(
                f"{len(group)} ribs lock each other and cannot be put together in any order: "
                f"{names}. Fewer ribs, or the other set slotted from above, may free them.",
                at=place_of(ribs.ribs[group[0]].middle),
                value=_own(clause, "above"),
            )
        )
    return out
