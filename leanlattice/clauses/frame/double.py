"""The clause that makes a double-layer grid of a net."""

from __future__ import annotations

from typing import Any, Literal

import numpy as np
import scipy
from numpy.typing import NDArray

from ...core.geometry.nearest import mesh_search
from ...core.geometry.nets import Net
from ...core.nets.turns import NotAlternate
from ...core.shaping.facets import facets
from ...core.structure.builders.double_layer import (
    SecondLayer,
    double_layer,
    second_layer,
)
from ..base import ClauseError, Figure, Made, Notice, Remedy, Take, Work, choice, number, section
from ..by_size import DEEPER, DEPTHS
from ..catalogue import not_made, section_of
from ..lattice.common import place_of
from ..said import metres
from ..shape.common import PULLS, line_aid, share_of_pulls
from .common import MEETING, NAMED, NET, ONTO, FrameClause, check_edges

__all__ = ["DoubleLayer"]

Array = NDArray[np.float64]
LEAST = 1e-3
"""Metres between layers below which there is no room for a web."""
CLEAR = 0.8
"""Of the depth at which a layer would fold, what is offered instead."""
SHAPE = Take(name="shape", types=("Shape",), label="Second layer on", optional=True, asked=True)


class DoubleLayer(FrameClause):
    kind = "double-layer"
    title = "Double the net"
    builds = "double layer"
    summary = "A second layer of chords at a depth from the net, and webs between: a space frame."
    sentence = (
        "**Double** the net by a second layer {side}, its nodes {arrangement}, {reach}"
        "[reach=even| {depth}][reach=middle| {depth} at the border to {most} in the middle]"
        "[reach=pull| {depth} out of the pulls' reach to {most} at them], "
        "with chords in {top}, second chords in {bottom}, webs in {web}"
        "¦[arrangement=cells|, {bays}], " + MEETING + NAMED + "."
    )
    takes = (NET, SHAPE, PULLS, ONTO)

    side: Literal["inside", "outside"] = choice(
        "inside", {"inside": "inside", "outside": "outside"}, "Side"
    )
    arrangement: Literal["cells", "alternate", "nodes", "middles"] = choice(
        "cells",
        {
            "cells": "under every bay",
            "alternate": "under every second bay",
            "nodes": "under every node",
            "middles": "under every node and in the middle of every bay",
        },
        "Arrangement",
        "Of quads: square on square offset, square on diagonal, two-way trusses, and webs from "
        "the corners of a top bay to the middle of the bottom bay",
        pictured=True,
    )
    reach: Literal["even", "middle", "pull", "shape"] = choice(
        "even",
        {
            "even": "at a depth of",
            "middle": "at a depth that grows from",
            "pull": "at a depth that goes from",
            "shape": "on a second surface",
        },
        "Reach",
    )
    depth: float = number(
        1.2, "m", LEAST, 100.0, 0.05, "Depth", "Between the axes of both layers", by_size=DEPTHS
    )
    most: float = number(2.0, "m", LEAST, 100.0, 0.05, "Other depth", by_size=DEEPER)
    top: str = section("CHS 88.9 × 4", "Chords", "Members along the net's edges")
    bottom: str = section("CHS 88.9 × 4", "Second chords")
    web: str = section("CHS 60.3 × 4", "Webs")
    bays: Literal["all", "thinned"] = choice(
        "all",
        {"all": "no bay left open", "thinned": "every other bay within left open"},
        "Bays",
        "Open bays have neither webs nor a node of the second layer",
    )

    def make(self, work: Work) -> Made:
        net: Net = work.inputs["net"]
        check_edges(net)
        top, bottom = section_of(self.top, "top"), section_of(self.bottom, "bottom")
        web = section_of(self.web, "web")
        warnings = not_made(top, "top") + not_made(bottom, "bottom") + not_made(web, "web")
        layer = self._layer(net)
        places = self._places(net, layer, work)
        warnings += self._folds(layer, places)
        meeting, source = self.wanted_meeting(), work.key("net")
        own = double_layer(net, layer, places, top, bottom, web, meeting, source)
        made = self.added(work, own, warnings)
        depths = np.linalg.norm(places - layer.beside, axis=1)
        made.figures.update(
            least_depth=Figure("Least depth", float(depths.min()), "m", 3),
            most_depth=Figure("Largest depth", float(depths.max()), "m", 3),
        )
        made.aids.update(self._handle(layer))
        return made

    def _layer(self, net: Net) -> SecondLayer:
        """What the second layer is like; raises ``ClauseError`` where there is none such."""
        try:
            thinned = self.bays == "thinned" and self.arrangement == "cells"
            return second_layer(net, self.arrangement, thinned)
        except NotAlternate as error:
            every = Remedy("A node under every bay", {"arrangement": "cells"})
            facts = dict(zip("xyz", place_of(error.at), strict=True))
            raise ClauseError.of(
                "bays not in turns", facts, "arrangement", error.at, (every,)
            ) from None

    def _handle(self, layer: SecondLayer) -> dict[str, Array]:
        """What the handle of the depth hangs on: the middle of the net."""
        if self.reach == "shape":
            return {}
        away = np.linalg.norm(layer.beside - layer.beside.mean(axis=0), axis=1)
        middle = int(np.argmin(away))
        name = "depth" if self.reach == "even" else "most"
        return line_aid(name, layer.beside[middle], self._sign * layer.normals[middle])

    @property
    def _sign(self) -> float:
        return -1.0 if self.side == "inside" else 1.0

    def _places(self, net: Net, layer: SecondLayer, work: Work) -> Array:
        """Places (B, 3) of the second layer's nodes; raises ``ClauseError`` where there can be
        none."""
        if self.reach == "shape":
            return self._on_shape(layer, work.inputs.get("shape"))
        share = np.zeros(len(layer.beside))
        if self.reach == "middle":
            share = _from_border(net, layer.beside)
        if self.reach == "pull":
            otherwise = "let the depth grow towards the middle"
            share = 1 - share_of_pulls(work, layer.beside, "reach", otherwise)
        depth = self.depth + share * (self.most - self.depth)
        return np.asarray(layer.beside + self._sign * depth[:, None] * layer.normals)

    def _on_shape(self, layer: SecondLayer, shape: Any) -> Array:
        """The nearest places of the second surface, all on one side of the net."""
        if shape is None:
            raise ClauseError(
                "No shape is chosen for the second layer to lie on; choose one below the "
                "sentence, or give a depth.",
                "reach",
            )
        mesh = facets(shape).mesh
        search = mesh_search(mesh.vertices, mesh.triangles)
        triangle, share, _ = search.nearest(layer.beside)
        places = search.places(triangle, share)
        out = np.einsum("ij,ij->i", places - layer.beside, layer.normals)
        side = self._sign * out
        if (side < LEAST).any():
            worst = int(np.argmin(side))
            at = place_of(layer.beside[worst])
            facts: dict[str, Any] = {"nodes": int((side < LEAST).sum()), "side": self.side}
            facts |= dict(zip("xyz", at, strict=True))
            other = "outside" if self.side == "inside" else "inside"
            remedies = (
                Remedy(f"Take the side {other}", {"side": other}),
                Remedy("Give a depth instead", {"reach": "even"}),
            )
            raise ClauseError.of("no room for webs", facts, "reach", layer.beside[worst], remedies)
        return np.asarray(places)

    def _folds(self, layer: SecondLayer, places: Array) -> list[Notice]:
        """What is told where the second layer is folded: the depth is more than the shape bends
        round."""
        a, b = layer.chords.T
        over, under = layer.beside[b] - layer.beside[a], places[b] - places[a]
        turned = np.flatnonzero(np.einsum("ij,ij->i", over, under) <= 0)
        if not turned.size:
            return []
        at = place_of(places[a[turned[0]]])
        remedies: tuple[Remedy, ...] = ()
        if self.reach == "even":
            # A chord grows by a step of normals times the depth, until that takes all of it.
            step = self._sign * (layer.normals[b] - layer.normals[a])
            shrinks = -np.einsum("ij,ij->i", over, step)[turned]
            room = float((np.einsum("ij,ij->i", over, over)[turned] / shrinks).min())
            less = max(float(f"{CLEAR * room:.2g}"), LEAST)
            remedies = (Remedy(f"Make the depth {metres(less)}", {"depth": less}),)
        facts = {"chords": turned.size}
        return [Notice.coded("second layer folded", facts, at=at, value="depth", remedies=remedies)]


def _from_border(net: Net, places: Array) -> Array:
    """From 0 at the border to 1 at the place (n,) furthest away from it; 1 without a border."""
    if not len(net.loop_vertices):
        return np.ones(len(places))
    away, _ = scipy.spatial.cKDTree(net.vertices[net.loop_vertices]).query(places)
    return np.asarray(away / max(float(np.max(away)), 1e-9))
