"""What is wrong with a form that a net settled to, in words, with what would help."""

from __future__ import annotations

from dataclasses import dataclass
from typing import Any

import numpy as np
from numpy.typing import NDArray

from ...core.geometry.nets import MARKS, Net
from ...core.geometry.polygons import vector_areas
from ...core.nets.borders import loops_by_size
from ...core.settling.aims import Aim
from ...core.settling.holds import Hold
from ...core.settling.newton import softest
from ...core.settling.problem import SettleError
from ...core.settling.solver import Settled
from ...core.settling.terms import EdgeTerm, Lengths, Term
from ..base import ClauseError, Notice, Remedy
from ..lattice.common import place_of

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
    """An aim as it was used: itself if there was one, its term, the edges (m,) its rows are, and
    its place among the aims that were taken."""

    aim: Aim | None
    term: Term
    edges: NDArray[np.int64]
    place: int = 0


def fallen(net: Net, x: Array) -> None:
    """Raises ``ClauseError`` where edges have shrunk to nothing, so that there is no net any
    more."""
    lengths = _lengths(net, x)
    if lengths.min() < GONE * np.median(net.edge_lengths):
        small = lengths < COLLAPSED * np.median(net.edge_lengths)
        _, text, remedy = _collapsed_set(net, small)
        at = x[net.edges[int(np.argmin(lengths))]].mean(axis=0)
        raise ClauseError.of("edges gone", {"edges": text}, at=at, remedies=(remedy,))


def diagnosis(
    net: Net, done: Settled, used: list[Used], holds: list[Hold], steps: int
) -> list[Notice]:
    """Notices about a form that a ``net`` was ``done`` to in so many ``steps``, what was ``used``
    for it and by which ``holds``, the gravest first."""
    unmet = _unmet_holds(net, done, used, holds)
    out = [*_collapsed(net, done), *_folded(net, done), *unmet]
    if not unmet:
        out += _fights(done, used)
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
    """The key of the set of which the largest share has collapsed, how many of it in words, and
    what would keep it."""
    sets = _sets(net)
    key = max(sets, key=lambda k: float(small[sets[k]].mean()))
    words = WORDS.get(key, f"the edges marked {key}")
    text = f"{int(small[sets[key]].sum())} of the {int(sets[key].sum())} edges of {words}"
    return (
        key,
        text.replace("edges of the edges", "edges"),
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
    key, text, remedy = _collapsed_set(net, small)
    slides = any(np.isin(net.edges[small], s.vertices).any() for s in done.problem.slides)
    code = "edges collapsed sliding" if slides and key in ("outer", "holes") else "edges collapsed"
    facts = {"edges": text, "shortest": lengths.min() * 1000}
    return [Notice.coded(code, facts, at=place_of(at), remedies=(remedy,))]


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
    folded = Notice.coded(
        "net folded",
        {"edges": int(over.sum())},
        of="cell",
        which=tuple(map(int, cells[:200])),
        at=place_of(at),
        remedies=(Remedy("Aim for equal lengths", {"aim": "equal"}, "aim"),),
    )
    return [folded]


def _pulls(done: Settled, used: list[Used]) -> list[Array]:
    out = []
    for u in used:
        pull = np.zeros_like(done.vertices)
        u.term.pull(done.vertices, pull)
        out.append(pull)
    return out


def _stronger(u: Used, times: float) -> Remedy:
    word = "ten times as strong" if times > 1 else "a tenth as strong"
    strength = u.aim.strength * times if u.aim else 1.0
    title = f"Make “{u.term.name}” {word}"
    return Remedy(title, {"strength": float(f"{strength:.4g}")}, of="aims", place=u.place)


def _fights(done: Settled, used: list[Used]) -> list[Notice]:
    """Aims that are missed, each with what pulls against it most."""
    out = []
    pulls = _pulls(done, used)
    loads = -done.loads
    for u, pull in zip(used, pulls, strict=True):
        gap = u.term.gap(done.vertices)
        size = float((pull * pull).sum())
        if gap <= u.term.fair or size <= 0 or u.aim is None:
            continue
        against = [
            (-float((p * pull).sum()) / size, v)
            for v, p in zip(used, pulls, strict=True)
            if v is not u
        ]
        share, worst = max(against, key=lambda found: found[0], default=(0.0, None))
        by_load = -float((loads * pull).sum()) / size
        held = float((np.where(done.problem.any_held, pull, 0.0) ** 2).sum()) / size
        facts: dict[str, Any] = {"aim": u.term.name, "gap": gap, "unit": u.term.unit}
        remedies: tuple[Remedy, ...] = (_stronger(u, 10.0),)
        if worst is not None and share >= max(by_load, held, 0.05):
            code = "aim missed for an aim"
            facts |= {"other": worst.term.name, "share": share * 100}
            if _can_be_weaker(worst):
                remedies += (_stronger(worst, 0.1),)
        elif by_load >= max(held, 0.05):
            code, facts["share"] = "aim missed for the load", by_load * 100
        else:
            code, facts["share"] = "aim missed for a hold", held * 100
        out.append(Notice.coded(code, facts, remedies=remedies))
    return out


def _can_be_weaker(u: Used) -> bool:
    if u.aim is None or isinstance(u.term, EdgeTerm):
        return False
    return bool(np.isfinite(u.aim.strength))


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
            facts = {
                "hold": hold.named,
                "aim": u.term.name,
                "edges": int(beside.sum()),
                "there": there * 100,
                "rest": rest * 100,
            }
            remedies = (_stronger(u, 0.1),) if u.aim else ()
            out.append(Notice.coded("hold unmet", facts, at=place_of(at), remedies=remedies))
    return out


def _unbalanced(done: Settled, steps: int) -> list[Notice]:
    facts: dict[str, Any] = {
        "steps": len(done.residuals) - 1,
        "residual": done.residuals[-1] * 100,
    }
    go_on = Remedy("Go on", {"steps": min(2 * steps, 100_000)})
    unbalanced = Notice.coded("unbalanced", facts, value="steps", remedies=(go_on,))
    if done.problem.count > SOFT_VERTICES:
        return [unbalanced]
    try:
        motion, share = softest(done.problem, done.vertices)
    except SettleError:
        return [unbalanced]
    if share >= SLACK:
        return [unbalanced]
    size = np.linalg.norm(motion, axis=1)
    facts["vertices"] = int((size > 0.3).sum())
    slack = Notice.coded(
        "unbalanced and slack",
        facts,
        at=place_of(done.vertices[int(np.argmax(size))]),
        value="steps",
        remedies=(go_on, Remedy("Stay close", {"aim": "close", "strength": 1.0}, "aim")),
    )
    return [slack]
