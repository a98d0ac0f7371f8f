"""Members parted into lengths that can be delivered, spliced to each other between their nodes."""

from __future__ import annotations

import itertools
from dataclasses import dataclass, replace

import numpy as np
from numpy.typing import NDArray

from ..nets.turns import steps_from_first
from .appended import last_stage
from .cuts import Cuts
from .inserted import inserted, runs_of_entries
from .joints import met_anew
from .meetings import Meeting, meeting_number
from .structure import Structure

__all__ = ["Spliced", "parted", "splice_places", "spliced", "turns_taken"]

Array = NDArray[np.float64]
Index = NDArray[np.int32]
Rows = NDArray[np.int64]
Mask = NDArray[np.bool_]


@dataclass(frozen=True, eq=False)
class Spliced:
    """A ``structure`` of whose members so many are ``parted``, with so many ``splices``, of which
    some are ``crowded``: nearer to a node than they should be; and of those that were to run
    slantwise some ``butted``, as they lie in arcs."""

    structure: Structure
    parted: int
    splices: int
    crowded: int
    butted: int


def spliced(
    structure: Structure,
    chosen: Mask,
    longest: float,
    lap: float,
    clear: float,
    staggered: bool = True,
) -> Spliced:
    """The structure with those ``chosen`` that are longer than they may be in lengths, which meet
    at nodes of their own between those that are there.

    Parameters
    ----------
    chosen : (M,) which members may be parted
    longest : metres that a piece may be long, with what it laps the next one by
    lap : metres along which splices run slantwise; square where it is 0
    clear : metres that splices keep from nodes where they can
    staggered : whether members beside each other are spliced at different places
    """
    long = np.flatnonzero(chosen & (structure.cut_lengths > longest + 1e-9))
    if not len(long):
        return Spliced(structure, 0, 0, 0, 0)
    second = turns_taken(structure) if staggered else np.zeros(structure.count, bool)
    stops = np.split(runs_of_entries(structure), structure.offsets[1:-1])
    runs = [splice_places(stops[m], longest - lap, clear, bool(second[m])) for m in long.tolist()]
    away = [np.abs(at[:, None] - stops[m]).min(axis=1) for m, at in zip(long, runs, strict=True)]
    member = np.repeat(long, [len(at) for at in runs]).astype(np.int32)
    made = _parted_at(structure, member, np.concatenate(runs), lap)
    crowded = int(np.count_nonzero(np.concatenate(away) < clear - 1e-9))
    new = made.meeting[len(structure.places) :]
    butted = int(np.count_nonzero(new != meeting_number("scarf"))) if lap else 0
    return Spliced(made, len(long), len(member), crowded, butted)


def _parted_at(structure: Structure, member: Index, run: Array, lap: float) -> Structure:
    """The structure with each ``member`` (k,) parted at ``run`` (k,) metres along it, spliced along
    a ``lap`` in metres."""
    nodes = len(structure.places)
    ready = inserted(structure, member, run)
    meeting = Meeting("scarf", lap=lap) if lap else Meeting("welded")
    rules = tuple(dict.fromkeys((*ready.rules, meeting)))
    rule = ready.rule.copy()
    rule[nodes:] = rules.index(meeting)
    made = parted(replace(ready, rules=rules, rule=rule), np.flatnonzero(ready.path >= nodes))
    touched = np.arange(len(made.places)) >= nodes
    return replace(met_anew(made, touched), since=(nodes, structure.count))


def splice_places(stops: Array, longest: float, clear: float, second: bool) -> Array:
    """How far along (k,) a member is parted that has nodes at ``stops`` (n,), so that no piece is
    longer than ``longest`` and, where that can be, no splice nearer to a node than ``clear``; all
    in metres.

    The pieces are as even as can be; of those that come ``second`` the first and the last are half
    as long, so that they are spliced where others are not.
    """
    length = float(stops[-1])
    count = max(int(np.ceil(length / longest - 1e-9)), 1)
    wanted = (np.arange(count) + 0.5 if second else np.arange(1, count)) * length / count
    places: list[float] = []
    last = 0.0
    for at in [*wanted.tolist(), length]:
        while min(at, length) - last > longest * (1 + 1e-9) or at < length:
            far = last + longest
            place = _clear_of(stops, min(at, far), last, far, clear)
            places.append(place)
            last = place
            if at < length:
                break
    return np.array(places)


def _clear_of(stops: Array, wanted: float, last: float, far: float, clear: float) -> float:
    """The place nearest to the one that is ``wanted``, after the ``last`` one and no farther than
    ``far``, that is ``clear`` of all nodes; the middle between nodes where these are closer."""
    gaps = np.column_stack([stops[:-1], stops[1:]])
    narrow = gaps[:, 1] - gaps[:, 0] < 2 * clear
    middle = gaps.mean(axis=1)
    low = np.where(narrow, middle, gaps[:, 0] + clear)
    high = np.where(narrow, middle, gaps[:, 1] - clear)
    place = np.clip(wanted, low, high)
    fits = (place > last + 1e-9) & (place <= far + 1e-9)
    if not fits.any():
        return far if far < stops[-1] else wanted
    # A wide gap goes before a narrow one that is a little nearer.
    off = np.abs(place - wanted) + np.where(narrow, clear, 0.0)
    return float(place[np.argmin(np.where(fits, off, np.inf))])


def turns_taken(structure: Structure) -> Mask:
    """Which members (M,) come second where those beside each other take turns: such that lie side
    by side across a third one, on which they follow each other, and share no node."""
    at: dict[int, list[int]] = {}
    for node, member in zip(
        structure.path.tolist(), structure.member_of_entry.tolist(), strict=True
    ):
        at.setdefault(node, []).append(member)
    paths = [
        set(structure.path[a:b].tolist())
        for a, b in zip(structure.offsets[:-1], structure.offsets[1:], strict=True)
    ]
    first, last = structure.first_entry, structure.first_entry + 1
    beside: set[tuple[int, int]] = set()
    for a, b in structure.path[np.column_stack([first, last])].tolist():
        beside.update(itertools.product(at[a], at[b]))
    strangers = [(a, b) for a, b in sorted(beside) if a != b and paths[a].isdisjoint(paths[b])]
    pairs = np.array(strangers, np.int32).reshape(-1, 2)
    return np.asarray(steps_from_first(pairs, structure.count) % 2 == 1)


def parted(structure: Structure, entries: NDArray[np.integer]) -> Structure:
    """The structure whose members are parted at inner ``entries`` of their paths: the first piece
    of each keeps its number, others come behind all that are there, as a further stage."""
    owner, first, last = _pieces(structure, entries)
    runs = list(zip(first.tolist(), last.tolist(), owner.tolist(), strict=True))
    rows = np.concatenate([np.arange(a, b + 1) for a, b, _ in runs])
    segments = np.concatenate([np.arange(a, b) - m for a, b, m in runs])
    is_parted = np.bincount(owner, minlength=structure.count) > 1
    number = np.arange(len(owner), dtype=np.int32)
    no_copy = (is_parted | is_parted[structure.copy_of])[owner]
    names = ("section_of", "role", "group", "member_station")
    stage = structure.member_stage[owner].copy()
    stage[structure.count :] = 1 + last_stage(structure)
    return replace(
        structure,
        **{name: getattr(structure, name)[owner] for name in names},
        member_stage=stage,
        mirrored=structure.mirrored[owner] & ~no_copy,
        copy_of=np.where(no_copy, number, structure.copy_of[owner]).astype(np.int32),
        path=structure.path[rows],
        offset=structure.offset[rows],
        scale=structure.scale[rows],
        offsets=np.concatenate([[0], np.cumsum(last - first + 1)]).astype(np.int32),
        waist=structure.waist[segments],
        up=structure.up[segments],
        bulge=structure.bulge[segments],
        set_back=_backs(structure, owner, first, last),
        cuts=_cuts(structure, owner, last),
    )


def _pieces(structure: Structure, entries: NDArray[np.integer]) -> tuple[Rows, Rows, Rows]:
    """The member that each piece (m,) is of, and the entries it begins and ends at."""
    first = np.concatenate([structure.offsets[:-1], entries]).astype(np.int64)
    owner = np.concatenate([np.arange(structure.count), structure.member_of_entry[entries]])
    order = np.lexsort((first, owner))
    is_last = np.append(owner[order][1:] != owner[order][:-1], True)
    following = np.append(first[order][1:], 0)
    last = np.empty(len(first), np.int64)
    last[order] = np.where(is_last, structure.offsets[owner[order] + 1] - 1, following)
    return owner, first, last


def _backs(structure: Structure, owner: Rows, first: Rows, last: Rows) -> Array:
    """Set-backs (m, 2) of pieces: those of their members at these's ends, else none."""
    begins = first == structure.offsets[owner]
    ends = last == structure.offsets[owner + 1] - 1
    return structure.set_back[owner] * np.column_stack([begins, ends])


def _cuts(structure: Structure, owner: Rows, last: Rows) -> Cuts:
    """The cuts of members' ends, at the pieces that have these now."""
    ends = last == structure.offsets[owner + 1] - 1
    last_piece = np.empty(structure.count, np.int64)
    last_piece[owner[ends]] = np.flatnonzero(ends)
    cuts = structure.cuts
    member, end = np.divmod(cuts.end, 2)
    moved = np.where(end == 1, 2 * last_piece[member] + 1, cuts.end)
    order = np.argsort(moved, kind="stable")
    return cuts.some(order, moved[order])
