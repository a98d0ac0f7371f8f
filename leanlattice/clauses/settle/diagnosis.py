"""What is wrong with a form that a net settled to, in words, with what would help."""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray

from ...core.geometry.nets import MARKS, Net
from ...core.geometry.polygons import vector_areas
from ...core.nets.borders import loops_by_size
from ...core.settling.newton import softest
from ...core.settling.problem import SettleError
from ...core.settling.solver import Settled
from ...core.settling.terms import EdgeTerm, Lengths, Term
from ..base import ClauseError, Notice, Remedy
from ..lattice.common import place_of
from .aims import AimFor
from .holds import Hold

__all__ = ["Used", "diagnosis", "fallen"]

Array = NDArray[np.float64]
COLLAPSED, GONE = 0.08, 1e-6
"""Edges shorter than these shares of what was usual have collapsed, or are nothing."""
STRETCHED, ELSEWHERE = 0.2, 3.0
"""Edges at a hold off by more than this share, and so many times more than elsewhere, cannot meet
it."""
SLACK = 1e-7
"""A motion so much softer than usual is resisted by nothing."""
SOFT_VERTICES = 6000


@dataclass(frozen=True, eq=False)
class Used:
    """An aim as it was used: its clause if it has one, its term, the edges (m,) its rows are, and
    the input it came by."""

    clause: AimFor | None
    term: Term
    edges: NDArray[np.int64]
    input: str


def fallen(net: Net, x: Array) -> None:
    """Raises ``ClauseError`` where edges have shrunk to nothing, so that there is no net any
    more."""
    lengths = _lengths(net, x)
    if lengths.min() < GONE * np.median(net.edge_lengths):
        text, _, remedy = _collapsed_set(net, lengths < COLLAPSED * np.median(net.edge_lengths))
        raise ClauseError(
            f"{text} have shrunk to nothing. An aim for equal lengths there, or a hold, keeps them apart.",
            None,
            x[net.edges[int(np.argmin(lengths))]].mean(axis=0),
            (remedy,),
        )


def diagnosis(
    net: Net, done: Settled, used: list[Used], holds: list[Hold], steps: int
) -> list[Notice]:
    """Notices about a form that a ``net`` was ``done`` to in so many ``steps``, what was ``used``
    for it and by which ``holds``, the gravest first."""
    out = [*_collapsed(net, done), *_folded(net, done), *_unmet_holds(net, done, used, holds)]
    told = {u for n in out for u in n.text.split("“")[1:]}
    out += [n for n in _fights(done, used) if not told]
    if not done.converged:
        out += _unbalanced(done, steps)
    return out


def _lengths(net: Net, x: Array) -> Array:
    return np.asarray(np.linalg.norm(x[net.edges[:, 1]] - x[net.edges[:, 0]], axis=1))


def _sets(net: Net) -> dict[str, NDArray[np.bool_]]:
    """Edges (E,) of each set that an aim can be over, by its key."""
    loops = loops_by_size(net)
    outer = (
        np.isin(net.edges, loops[0]).all(axis=1) & net.border
        if loops
        else np.zeros(len(net.edges), bool)
    )
    out = {"outer": outer, "holes": net.border & ~outer, "inner": ~net.border}
    if net.marks is not None:
        out |= {MARKS[k]: net.marks == k for k in range(1, len(MARKS))}
    return {key: chosen for key, chosen in out.items() if chosen.any()}


WORDS = {"outer": "the outer border", "holes": "the borders within", "inner": "the edges within"}


def _collapsed_set(net: Net, small: NDArray[np.bool_]) -> tuple[str, str, Remedy]:
    """The set of which the largest share has collapsed, how many of it in words, and what would
    keep it."""
    sets = _sets(net)
    key = max(sets, key=lambda k: float(small[sets[k]].mean()))
    words = WORDS.get(key, f"the edges marked {key}")
    text = f"{int(small[sets[key]].sum())} of the {int(sets[key].sum())} edges of {words}"
    return (
        text.replace("edges of the edges", "edges"),
        words,
        Remedy(f"Aim for equal lengths over {words}", {"aim": "equal", "over": key}, "aim"),
    )


def _collapsed(net: Net, done: Settled) -> list[Notice]:
    lengths = _lengths(net, done.vertices)
    small = (lengths < COLLAPSED * net.edge_lengths) & (
        lengths < COLLAPSED * np.median(net.edge_lengths)
    )
    if not small.any():
        return []
    at = done.vertices[net.edges[int(np.argmin(lengths))]].mean(axis=0)
    text, words, remedy = _collapsed_set(net, small)
    slides = any(np.isin(net.edges[small], s.vertices).any() for s in done.problem.slides)
    why = (
        " Its vertices slide together along what holds them."
        if slides and "border" in words
        else ""
    )
    return [
        Notice(
            f"{text} have all but collapsed, the shortest to {lengths.min() * 1000:.0f} mm.{why} "
            "An aim for equal lengths there, or a hold, keeps them apart.",
            at=place_of(at),
            remedies=(remedy,),
        )
    ]


def _folded(net: Net, done: Settled) -> list[Notice]:
    """Cells turned over against their neighbours where they were not before."""
    inner = net.edge_cells.min(axis=1) >= 0
    pairs = net.edge_cells[inner]

    def facing(x: Array) -> Array:
        n = vector_areas(x, net.corners, net.offsets)
        n = n / np.maximum(np.linalg.norm(n, axis=1, keepdims=True), 1e-300)
        return np.asarray(np.einsum("ij,ij->i", n[pairs[:, 0]], n[pairs[:, 1]]))

    over = (facing(done.vertices) < -0.2) & (facing(net.vertices) > 0)
    if not over.any():
        return []
    cells = np.unique(pairs[over])
    at = done.vertices[net.edges[inner][over][0]].mean(axis=0)
    return [
        Notice(
            f"The net has folded over itself along {int(over.sum())} edges. An aim for right angles or equal lengths, or a weaker "
            "push, keeps it open.",
            "cell",
            tuple(map(int, cells[:200])),
            place_of(at),
            remedies=(Remedy("Aim for equal lengths", {"aim": "equal"}, "aim"),),
        )
    ]


def _pulls(done: Settled, used: list[Used]) -> list[Array]:
    out = []
    for u in used:
        pull = np.zeros_like(done.vertices)
        u.term.pull(done.vertices, pull)
        out.append(pull)
    return out


def _stronger(u: Used, times: float) -> Remedy:
    word = "ten times as strong" if times > 1 else "a tenth as strong"
    strength = u.clause.strength * times if u.clause else 1.0
    return Remedy(
        f"Make “{u.term.name}” {word}", {"strength": float(f"{strength:.4g}")}, of=u.input
    )


def _fights(done: Settled, used: list[Used]) -> list[Notice]:
    """Aims that are missed, each with what pulls against it most."""
    out = []
    pulls = _pulls(done, used)
    loads = -done.loads
    for u, pull in zip(used, pulls, strict=True):
        gap = u.term.gap(done.vertices)
        size = float((pull * pull).sum())
        if gap <= u.term.fair or size <= 0 or u.clause is None:
            continue
        against = [
            (-float((p * pull).sum()) / size, v)
            for v, p in zip(used, pulls, strict=True)
            if v is not u
        ]
        share, worst = max(against, key=lambda found: found[0], default=(0.0, None))
        by_load = -float((loads * pull).sum()) / size
        held = float((np.where(done.problem.any_held, pull, 0.0) ** 2).sum()) / size
        text = f"The aim for “{u.term.name}” is missed by up to {gap:.3g} {u.term.unit}"
        remedies: tuple[Remedy, ...] = (_stronger(u, 10.0),)
        if worst is not None and share >= max(by_load, held, 0.05):
            text += (
                f": that for “{worst.term.name}” pulls against {share * 100:.0f} % of its force."
            )
            if (
                worst.clause is not None
                and np.isfinite(worst.clause.strength)
                and not isinstance(worst.term, EdgeTerm)
            ):
                remedies += (_stronger(worst, 0.1),)
        elif by_load >= max(held, 0.05):
            text += f": the load pulls against {by_load * 100:.0f} % of its force."
        else:
            text += f": what is held takes {held * 100:.0f} % of its force."
        out.append(Notice(text, remedies=remedies))
    return out


def _unmet_holds(net: Net, done: Settled, used: list[Used], holds: list[Hold]) -> list[Notice]:
    """Holds that the lengths aimed for cannot follow: edges beside them are far off, those
    elsewhere are not."""
    out = []
    for u in used:
        if not isinstance(u.term, Lengths):
            continue
        strain = np.abs(u.term.strains(done.vertices))
        for hold in holds:
            beside = np.isin(u.term.edges, hold.vertices(net)).sum(axis=1) == 1
            if not beside.any() or beside.all():
                continue
            there, rest = float(np.mean(strain[beside])), float(np.mean(strain[~beside]))
            if there < STRETCHED or there < ELSEWHERE * rest:
                continue
            at = done.vertices[
                u.term.edges[np.flatnonzero(beside)[int(np.argmax(strain[beside]))]]
            ].mean(axis=0)
            out.append(
                Notice(
                    f"The hold of {hold.named} cannot be met with the aim for “{u.term.name}”: "
                    f"the {int(beside.sum())} edges beside it are {there * 100:.0f} % off on the mean, "
                    f"those elsewhere {rest * 100:.0f} %.",
                    at=place_of(at),
                    remedies=(_stronger(u, 0.1),) if u.clause else (),
                )
            )
    return out


def _unbalanced(done: Settled, steps: int) -> list[Notice]:
    text = f"After {len(done.residuals) - 1} steps {done.residuals[-1] * 100:.2g} % of the load is not balanced."
    remedies = [Remedy("Go on", {"steps": min(2 * steps, 100_000)})]
    at = None
    if done.problem.count <= SOFT_VERTICES:
        try:
            motion, share = softest(done.problem, done.vertices)
        except SettleError:
            return [
                Notice(text + " Going on may balance it.", value="steps", remedies=tuple(remedies))
            ]
        if share < SLACK:
            size = np.linalg.norm(motion, axis=1)
            at = place_of(done.vertices[int(np.argmax(size))])
            text += f" Nothing resists a motion of {int((size > 0.3).sum())} vertices: they need a hold or an aim."
            remedies.append(Remedy("Stay close", {"aim": "close", "strength": 1.0}, "aim"))
            return [Notice(text, at=at, value="steps", remedies=tuple(remedies))]
    return [Notice(text + " Going on may balance it.", value="steps", remedies=tuple(remedies))]
