"""Columns that branch: a trunk, forks in levels, and branches to what they bear."""

from __future__ import annotations

from collections.abc import Callable
from dataclasses import dataclass, replace

import numpy as np
import scipy
from numpy.typing import NDArray

from ...sections import Section
from ..inserted import landed_near
from ..meetings import Meeting
from ..structure import Structure
from .between import NEAR, straight_members

__all__ = ["Trees", "branching", "trees"]

Array = NDArray[np.float64]
Rows = NDArray[np.int64]
ROUNDS = 40
"""Of moving trunks to the middle of what they bear."""


@dataclass(frozen=True, eq=False)
class Trees:
    """Trunks (t, 2, 3) from their feet to their first forks, and branches (b, 2, 3) from forks to
    further ones or to heads, in metres; ``bears`` (n,) tells the trunk of each head."""

    trunks: Array
    branches: Array
    bears: Rows


def trees(
    heads: Array,
    count: int,
    fork: float,
    levels: int,
    feet: Callable[[Array], Array],
    seed: int = 0,
) -> Trees:
    """Trees that bear ``heads`` (n, 3).

    Heads are shared out among trunks by nearness in plan (k-means; Lloyd, 1982). A trunk stands
    below the middle of what it bears and forks at a share of the way up to it; with more levels
    what is above a fork is halved along its longer direction, and each half has a fork of its own
    as far up again.

    Parameters
    ----------
    heads : in metres
    count : of trunks, no more than heads
    fork : share of the height at which a trunk forks
    levels : of forks
    feet : gives where (n, 3) those stand that are to be below places (n, 3)
    seed : of where trunks are looked for first
    """
    bears = _shared_out(heads, count, seed)
    groups = [np.flatnonzero(bears == k) for k in range(int(bears.max()) + 1)]
    middles = np.array([heads[own].mean(axis=0) for own in groups])
    stands = feet(middles)
    trunks, branches = [], []
    for foot, middle, own in zip(stands, middles, groups, strict=True):
        first = foot + fork * (middle - foot)
        trunks.append((foot, first))
        branches += _grown(heads[own], first, fork, levels)
    return Trees(np.array(trunks), np.array(branches).reshape(-1, 2, 3), bears)


def _shared_out(heads: Array, count: int, seed: int) -> Rows:
    """The trunk (n,) of each head, counted from 0 without gaps."""
    plan = heads[:, :2]
    random = np.random.default_rng(seed)
    _, label = scipy.cluster.vq.kmeans2(
        plan, plan[_spread(plan, count)], iter=ROUNDS, minit="matrix", rng=random
    )
    return np.asarray(np.unique(label, return_inverse=True)[1], np.int64)


def _spread(plan: Array, count: int) -> list[int]:
    """So many of the places (n, 2), each as far from those before as any is."""
    chosen = [int(np.argmin(plan @ np.array([1.0, 1e-3])))]
    away = np.linalg.norm(plan - plan[chosen[0]], axis=1)
    for _ in range(count - 1):
        chosen.append(int(np.argmax(away)))
        away = np.minimum(away, np.linalg.norm(plan - plan[chosen[-1]], axis=1))
    return chosen


def _grown(heads: Array, fork: Array, share: float, levels: int) -> list[tuple[Array, Array]]:
    """Branches from a fork to all heads, through so many ``levels`` of forks with itself."""
    if levels <= 1 or len(heads) <= 2:
        return [(fork, head) for head in heads]
    out = []
    for half in _halves(heads):
        further = fork + share * (half.mean(axis=0) - fork)
        if len(half) == 1:
            out.append((fork, half[0]))
        else:
            out.append((fork, further))
            out += _grown(half, further, share, levels - 1)
    return out


def _halves(heads: Array) -> tuple[Array, Array]:
    """Two halves of places (n, 3) along the direction in plan in which they spread most."""
    plan = heads[:, :2] - heads[:, :2].mean(axis=0)
    _, _, ways = np.linalg.svd(plan, full_matrices=False)
    order = np.argsort(np.round(plan @ ways[0], 9), kind="stable")
    middle = len(order) // 2
    return heads[order[:middle]], heads[order[middle:]]


def branching(
    base: Structure, made: Trees, trunk: Section, branch: Section, meeting: Meeting
) -> Structure:
    """A structure that stands on trees; their heads are nodes of it.

    Parameters
    ----------
    base : the structure
    made : the trees
    trunk, branch : their sections
    meeting : how members meet at forks; at heads by the rules of the structure's nodes
    """
    ends = np.concatenate([made.trunks, made.branches])
    which = np.repeat(np.array([0, 1], np.int32), [len(made.trunks), len(made.branches)])
    own = straight_members(ends, (trunk, branch), which, ("column", "column"), meeting)
    foot = np.zeros(len(own.places), bool)
    foot[own.ends[: len(made.trunks), 0]] = True
    return landed_near(base, replace(own, foot=foot), NEAR)
