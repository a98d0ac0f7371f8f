"""Structures that go on: what a further clause makes, behind all that was there before."""

from __future__ import annotations

from dataclasses import fields, replace
from typing import Any, TypeVar

import numpy as np
from numpy.typing import NDArray

from .cut_backs import CutBacks
from .cuts import Cuts
from .structure import Structure

__all__ = ["appended", "last_stage"]

T = TypeVar("T")
Index = NDArray[np.int32]


ARRAYS_OF_NODES = (
    *("places", "normals", "station", "stage", "origin", "foot"),
    *("rule", "meeting", "radius", "height", "further"),
)
ARRAYS_OF_MEMBERS = (
    *("path", "offsets", "offset", "scale", "waist", "up", "bulge", "section_of", "role", "group"),
    *("member_station", "member_stage", "set_back", "copy_of", "mirrored"),
)
KNOWN_OF_MEMBERS = ("lengths", "square_back", "mean_lengths", "masses")
"""Figures of members that hang on nothing but themselves."""


def last_stage(structure: Structure) -> int:
    """The stage of what was made last, from 0."""
    return max(int(structure.stage.max(initial=0)), int(structure.member_stage.max(initial=0)))


def appended(base: Structure, addition: Structure, stage: int | None = None) -> Structure:
    """The ``base``, all of whose nodes and members keep their numbers, and behind it the
    ``addition`` as a ``stage`` of its own, the next where it is not given. Nothing of them is
    joined."""
    sections, section_of = _shared(base.sections, addition.sections)
    rules, rule_of = _shared(base.rules, addition.rules)
    sources, source_of = _shared(base.sources, addition.sources)
    stage = 1 + last_stage(base) if stage is None else stage
    moved = _counted_on(_as_stage(addition, stage), base, source_of)
    moved = replace(moved, section_of=section_of[moved.section_of], rule=rule_of[moved.rule])
    names = (*ARRAYS_OF_NODES, *ARRAYS_OF_MEMBERS)
    both: dict[str, Any] = {
        name: np.concatenate([getattr(base, name), getattr(moved, name)]) for name in names
    }
    made = replace(
        base,
        **both,
        cuts=Cuts.together([base.cuts, moved.cuts]),
        sections=sections,
        rules=rules,
        sources=sources,
        since=(len(base.places), base.count),
    )
    _remember(made, base, addition)
    return made


def _remember(made: Structure, base: Structure, addition: Structure) -> None:
    """Tells the structure ``made`` of both what is known of each of its members already."""
    backs = base.cut_backs, addition.cut_backs
    vars(made)["cut_backs"] = CutBacks(
        *(np.concatenate([getattr(back, f.name) for back in backs]) for f in fields(CutBacks))
    )
    for name in KNOWN_OF_MEMBERS:
        vars(made)[name] = np.concatenate([getattr(base, name), getattr(addition, name)])


def _as_stage(addition: Structure, stage: int) -> Structure:
    """An addition whose nodes and members are of a ``stage``."""
    return replace(
        addition,
        stage=np.full(len(addition.places), stage, np.int32),
        member_stage=np.full(addition.count, stage, np.int32),
    )


def _counted_on(addition: Structure, base: Structure, source_of: Index) -> Structure:
    """An addition whose nodes, entries and members are counted on from those of the ``base``, and
    its sources as ``source_of`` (k,) tells."""
    nodes, members = np.int32(len(base.places)), np.int32(base.count)
    origin, further = addition.origin.copy(), addition.further.copy()
    stands = origin[:, 0] >= 0
    origin[stands, 0] = source_of[origin[stands, 0]]
    further[:, 0] += nodes
    further[:, 1] = source_of[further[:, 1]]
    cuts = addition.cuts
    return replace(
        addition,
        origin=origin,
        further=further,
        path=addition.path + nodes,
        offsets=addition.offsets[1:] + base.offsets[-1],
        copy_of=addition.copy_of + members,
        cuts=replace(cuts, end=cuts.end + 2 * members),
    )


def _shared(base: tuple[T, ...], addition: tuple[T, ...]) -> tuple[tuple[T, ...], Index]:
    """All different things of both, those of the ``base`` first, and the place of each of the
    others among them."""
    every = tuple(dict.fromkeys((*base, *addition)))
    return every, np.array([every.index(thing) for thing in addition], np.int32)
