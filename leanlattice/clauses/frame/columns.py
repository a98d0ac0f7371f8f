"""The clause that stands a structure on columns."""

from __future__ import annotations

from collections.abc import Callable
from typing import Any, Literal

import numpy as np
import scipy
from numpy.typing import NDArray

from ...core.geometry.nets import Net
from ...core.geometry.rays import first_hits
from ...core.shaping.facets import facets
from ...core.structure.builders.branching import branching, trees
from ...core.structure.builders.columns import with_columns, with_rails
from ...core.structure.meetings import Meeting
from ...core.structure.structure import Structure
from ..base import (
    Clause,
    ClauseError,
    Figure,
    Made,
    Notice,
    Take,
    Work,
    choice,
    count,
    counted,
    headline,
    number,
    places,
    section,
)
from ..catalogue import not_made, section_of
from ..lattice.common import place_of
from ..said import metres, mm
from ..shape.common import Place, checked_points
from .common import STRUCTURE, structure_figures

__all__ = ["StandOnColumns"]

Array = NDArray[np.float64]
Rows = NDArray[np.int64]
NET = Take(name="net", types=("Net",), label="Net", optional=True, beside=True)
GROUND = Take(
    name="ground", types=("Shape",), label="Ground or body", optional=True, asked=True, beside=True
)
LOWEST = 0.5
"""Metres above the ground from which on columns begin as ones that stand on it."""
STOREY = 3.0
"""Metres that they are about as long as they begin where what they carry is no higher."""
AROUND = 0.1
"""Metres above and below the lowest place within which nodes begin as those that have columns."""
SHORT = 0.05
"""Metres below which a column is none."""


def _held(base: Structure, net: Net, source: str) -> Rows:
    """The nodes (n,) on what was held of a settled net, whose key is ``source``; raises
    ``ClauseError`` where nothing was."""
    balance = net.equilibrium
    if balance is None:
        raise ClauseError(
            "The net above has not settled, and nothing of it is held; choose nodes by places, "
            "heights or share.",
            "which",
        )
    held = np.flatnonzero(balance.held.any(axis=1) | balance.slid)
    found = base.nodes_on(source, held.astype(np.int32))
    if (found < 0).all():
        raise ClauseError(
            "The structure does not stand on the net that settled; choose the net it was framed "
            "from below the sentence, or nodes by places.",
            "which",
        )
    return np.unique(found[found >= 0]).astype(np.int64)


def _under(base: Structure, middles: Array) -> Rows:
    """The nodes (n,) nearest in plan to ``middles`` (k, 3) of cells, of such above each other the
    lowest."""
    order = np.argsort(base.places[:, 2], kind="stable")
    flat = np.round(base.places[order, :2], 6)
    _, first = np.unique(flat, axis=0, return_index=True)
    lowest = order[np.sort(first)]
    nearest = scipy.spatial.cKDTree(base.places[lowest, :2]).query(middles[:, :2])[1]
    return np.unique(lowest[nearest]).astype(np.int64)


class StandOnColumns(Clause):
    kind = "columns"
    chapter = "Frame"
    title = "Stand on columns"
    builds = "columns"
    summary = "Columns from some of a structure's nodes down to a level or a ground."
    sentence = (
        "**Stand** the structure on columns in {section}, {which}[which=places| {places}]"
        "[which=heights| {low} and {high}][which=chance,cells| {share} by seed {seed}], {way}"
        "[way=leaning| {towards}][way=branching| {trunks} trunks, which fork at {fork} of the way "
        "up, {levels}, into branches in {branch}], down to {down}[down=level| {level}], {rails}"
        "[rails=between| in {rail}, {above} above their feet, coped]¦; "
        "none longer than {longest} "
        "or nearer to another than {apart}."
    )
    takes = (STRUCTURE, GROUND, NET)
    gives = "Structure"
    keeps_numbers = True

    branch: str = section("CHS 114.3 × 5", "Branches")
    rail: str = section("CHS 60.3 × 4", "Rails")
    section: str = section("CHS 168.3 × 6.3", "Section")
    towards: list[Place] = places(lambda: [(0.0, 0.0, -6.0)], "Towards", "Their lines meet there.")
    which: Literal["places", "heights", "chance", "cells", "held"] = choice(
        "places",
        {
            "places": "under the nodes nearest to",
            "heights": "under all nodes between heights of",
            "chance": "under a share of the nodes of",
            "cells": "under the middles of a share of the cells of",
            "held": "under all nodes that were held when the net settled",
        },
        "Which",
    )
    places: list[Place] = places(
        lambda: [(0.0, 0.0, 3.0)], "Places", "Drag them in the view; Alt drags up and down."
    )
    low: float = number(-0.1, "m", -10000.0, 10000.0, 0.1, "From")
    high: float = number(0.1, "m", -10000.0, 10000.0, 0.1, "To")
    share: float = number(5.0, "%", 0.0, 100.0, 1.0, "Share")
    seed: int = count(1, 0, 1_000_000, "Seed")
    way: Literal["upright", "normal", "leaning", "branching"] = choice(
        "upright",
        {
            "upright": "upright",
            "normal": "square to the structure",
            "leaning": "leaning towards",
            "branching": "branching from",
        },
        "Way",
    )
    trunks: int = count(4, 1, 400, "Trunks", "Nodes are shared out among them by nearness")
    fork: float = number(55.0, "%", 5.0, 95.0, 1.0, "Forks at")
    levels: Literal["once", "twice", "thrice"] = choice(
        "once", {"once": "once", "twice": "twice", "thrice": "three times"}, "Levels"
    )
    down: Literal["level", "ground"] = choice(
        "level", {"level": "a level of", "ground": "the ground chosen"}, "Down to"
    )
    rails: Literal["none", "between"] = choice(
        "none",
        {"none": "without rails", "between": "with rails below members that join their heads,"},
        "Whether rails",
    )
    above: float = number(0.25, "m", 0.0, 1000.0, 0.05, "Above their feet")
    level: float = number(-3.0, "m", -10000.0, 10000.0, 0.1, "Level")
    longest: float = number(12.0, "m", 0.1, 1000.0, 0.5, "Longest", "Longer ones are told")
    apart: float = number(0.5, "m", 0.0, 1000.0, 0.1, "Apart", "Nearer feet are told")

    @classmethod
    def beside(cls, box: Array) -> dict[str, Any]:
        """Columns under what lies lowest, down to the ground where that is below."""
        (x, y, low), (far_x, far_y, _) = box.tolist()
        level = 0.0 if low >= LOWEST else round(low) - STOREY
        corners = [(x, y, low), (far_x, y, low), (x, far_y, low), (far_x, far_y, low)]
        return {
            "which": "heights",
            "low": round(low - AROUND, 1),
            "high": round(low + AROUND, 1),
            "level": level,
            "places": [[round(v, 2) for v in corner] for corner in corners],
        }

    def make(self, work: Work) -> Made:
        base: Structure = work.inputs["structure"]
        own = section_of(self.section, "section")
        nodes = self._nodes(base, work)
        if self.way == "branching":
            return self._branching(work, base, nodes)
        ways = self._ways(base, nodes)
        reach = self._reach(base.places[nodes], ways, work.inputs.get("ground"))
        stands = np.isfinite(reach) & (reach >= SHORT)
        warnings = not_made(own, "section") + self._missing(base, nodes[~stands])
        if not stands.any():
            raise ClauseError(
                "No column reaches what it is to stand on: the nodes lie below it or beside it. "
                "Another level, way or ground would work.",
                "level" if self.down == "level" else "down",
                base.places[nodes[0]],
            )
        nodes, reach, ways = nodes[stands], reach[stands], ways[stands]
        feet = base.places[nodes] + reach[:, None] * ways
        made = with_columns(base, nodes.astype(np.int32), feet, own, Meeting("welded"))
        if self.rails == "between":
            made = self._railed(made, nodes, feet, reach)
        figures: dict[str, Figure] = {
            "columns": headline("Columns", len(nodes)),
            "longest_column": headline("Longest column", float(reach.max()), "m", 2),
        }
        warnings += self._too_long(made, feet, reach) + self._too_near(feet)
        return Made(made, figures | structure_figures(made), warnings)

    def _railed(self, made: Structure, nodes: Rows, feet: Array, reach: Array) -> Structure:
        """The structure with rails between its columns; raises ``ClauseError`` where they would lie
        above heads, or no member joins two of these."""
        if self.above >= reach.min():
            raise ClauseError(
                f"Rails {metres(self.above)} above the feet would be above the head of a column of "
                f"{metres(reach.min(), '.2f')}; lower ones would work.",
                "above",
                feet[np.argmin(reach)],
            )
        own = section_of(self.rail, "rail")
        coped = Meeting("welded", saddles=True)
        railed = with_rails(made, nodes.astype(np.int32), feet, self.above, own, coped)
        if railed.count == made.count:
            raise ClauseError(
                "No member joins the heads of two columns, so that there is nothing to have a rail "
                "below it; columns under more nodes, or none, would work.",
                "rails",
                feet[0],
            )
        return railed

    def _branching(self, work: Work, base: Structure, nodes: Rows) -> Made:
        """The structure on trunks that branch."""
        if self.rails != "none":
            raise ClauseError("Trunks that branch have no rails; upright ones may.", "rails")
        trunk, branch = section_of(self.section, "section"), section_of(self.branch, "branch")
        if self.trunks > len(nodes):
            raise ClauseError(
                f"{self.trunks} trunks cannot share {len(nodes)} nodes; that many or fewer can.",
                "trunks",
            )
        levels = {"once": 1, "twice": 2, "thrice": 3}[self.levels]
        found = trees(
            base.places[nodes], self.trunks, self.fork / 100, levels, self._feet(work), self.seed
        )
        made = branching(base, found, trunk, branch, Meeting("welded"))
        lengths = made.lengths[made.since[1] :]
        figures = {
            "columns": headline("Trunks", len(found.trunks)),
            "branches": headline("Branches", len(found.branches)),
            "longest_column": headline("Longest of both", float(lengths.max()), "m", 2),
        }
        warnings = not_made(trunk, "section") + not_made(branch, "branch")
        warnings += self._too_long(made, np.repeat(found.trunks[:1, 0], len(lengths), 0), lengths)
        warnings += self._too_near(found.trunks[:, 0])
        return Made(made, figures | structure_figures(made), warnings)

    def _feet(self, work: Work) -> Callable[[Array], Array]:
        """Gives where what is below places stands; raises ``ClauseError`` where it cannot."""

        def feet(middles: Array) -> Array:
            down = np.tile([0.0, 0.0, -1.0], (len(middles), 1))
            reach = self._reach(middles, down, work.inputs.get("ground"))
            if not (np.isfinite(reach) & (reach >= SHORT)).all():
                lost = int(np.argmin(np.where(np.isfinite(reach), reach, -np.inf)))
                raise ClauseError(
                    "A trunk does not reach what it is to stand on; another level, more trunks "
                    "or a larger ground would let it.",
                    "level" if self.down == "level" else "down",
                    middles[lost],
                )
            return np.asarray(middles + reach[:, None] * down)

        return feet

    def _nodes(self, base: Structure, work: Work) -> Rows:
        """Nodes (n,) under which columns are to stand; raises ``ClauseError`` where there are
        none."""
        at = base.places
        if self.which == "places":
            wanted = checked_points(self.places, 1, 400, "places", "places")
            found = np.unique(scipy.spatial.cKDTree(at).query(wanted)[1])
        elif self.which == "heights":
            found = np.flatnonzero((at[:, 2] >= self.low - 1e-9) & (at[:, 2] <= self.high + 1e-9))
        elif self.which == "held":
            found = _held(base, self._net(work), work.key("net"))
        elif self.which == "cells":
            net = self._net(work)
            found = _under(base, net.cell_means[self._share_of(net.cell_count)])
        else:
            found = self._share_of(len(at))
        if not len(found):
            # Adding nothing takes the sign from what is all but 0.
            low, high = (round(float(z), 2) + 0.0 for z in (at[:, 2].min(), at[:, 2].max()))
            raise ClauseError(
                "No node of the structure is meant; its nodes lie between heights of "
                f"{metres(low, '.2f')} and {metres(high, '.2f')}.",
                "share" if self.which in ("chance", "cells") else "low",
            )
        return found.astype(np.int64)

    def _share_of(self, count: int) -> Rows:
        """So large a share of things 0 … ``count``, by the seed."""
        chosen = np.random.default_rng(self.seed).permutation(count)
        return np.asarray(np.sort(chosen[: round(self.share / 100 * count)]))

    def _net(self, work: Work) -> Net:
        """The net that is meant; raises ``ClauseError`` where there is none."""
        net: Net | None = work.inputs.get("net")
        if net is None:
            raise ClauseError(
                "There is no net above whose cells or holds could be meant; choose nodes by "
                "places, heights or share.",
                "which",
            )
        return net

    def _ways(self, base: Structure, nodes: Rows) -> Array:
        """Unit directions (n, 3) in which columns lead down."""
        if self.way == "normal":
            normal = base.normals[nodes]
            return np.asarray(np.where(normal[:, 2:] > 0, -normal, normal))
        ways = np.tile([0.0, 0.0, -1.0], (len(nodes), 1))
        if self.way == "leaning":
            (towards,) = checked_points(self.towards[:1], 1, 1, "places", "towards")
            to = towards - base.places[nodes]
            size = np.linalg.norm(to, axis=1, keepdims=True)
            ways = np.where(size > SHORT, to / np.maximum(size, SHORT), ways)
        return ways

    def _reach(self, heads: Array, ways: Array, ground: Any) -> Array:
        """How far (n,) in metres it is from heads to where columns stand; without end where it is
        not there."""
        if self.down == "ground":
            if ground is None:
                raise ClauseError(
                    "No shape is chosen to be the ground; choose one below the sentence, or give "
                    "a level.",
                    "down",
                )
            mesh = facets(ground).mesh
            return first_hits(mesh.vertices, mesh.triangles, heads, ways)
        falls = ways[:, 2] < -1e-6
        reach = (heads[:, 2] - self.level) / np.where(falls, -ways[:, 2], 1.0)
        return np.asarray(np.where(falls & (reach > 0), reach, np.inf))

    def _missing(self, base: Structure, nodes: Rows) -> list[Notice]:
        if not len(nodes):
            return []
        told = counted(len(nodes), "column misses", "columns miss")
        text = (
            f"{told} what there is to stand on, and none is made there; another level, way or "
            "ground would be reached."
        )
        at = place_of(base.places[nodes[0]])
        return [Notice(text, "node", tuple(map(int, nodes[:2000])), at, "down")]

    def _too_long(self, made: Structure, feet: Array, reach: Array) -> list[Notice]:
        long = np.flatnonzero(reach > self.longest)
        if not long.size:
            return []
        first = made.since[1]
        told = counted(long.size, "column is", "columns are")
        text = (
            f"{told} longer than {metres(self.longest)}, the longest "
            f"{metres(reach.max(), '.2f')}; fewer, or a higher level, would be shorter."
        )
        which = tuple(map(int, first + long[:2000]))
        return [Notice(text, "member", which, place_of(feet[np.argmax(reach)]), "longest")]

    def _too_near(self, feet: Array) -> list[Notice]:
        pairs = scipy.spatial.cKDTree(feet).query_pairs(self.apart, output_type="ndarray")
        if not len(pairs):
            return []
        away = np.linalg.norm(feet[pairs[:, 0]] - feet[pairs[:, 1]], axis=1)
        worst = int(np.argmin(away))
        pairs_told = counted(len(pairs), "pair of columns stands", "pairs of columns stand")
        text = (
            f"{pairs_told} nearer than {metres(self.apart)} to each other, the nearest "
            f"{mm(away[worst] * 1000, '.0f')}; other places or another way would part them."
        )
        return [Notice(text, at=place_of(feet[pairs[worst, 0]]), value="apart")]
