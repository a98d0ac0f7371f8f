"""Clauses that mark edges and cells for what is built of them."""

from __future__ import annotations

from dataclasses import replace
from typing import Literal

import numpy as np
import scipy
from numpy.typing import NDArray

from ...core.geometry.nets import MARKS, Net
from ...core.nets.borders import edges_along, side_towards
from ...core.nets.strands import strands_of
from ...core.nets.thinning import chosen_by_seed
from ..base import ClauseError, Figure, Made, Notice, Work, choice, count, number, places
from ..shape.common import Place, checked_points
from .common import NET, NetClause, made_net
from .zones import WHERE, ZONE, ZoneClause

__all__ = ["MarkCells", "MarkEdges"]

ALONG = np.cos(np.radians(20.0))
MARK = {name: name for name in (*MARKS[1:], MARKS[0])}


def _mark() -> str:
    return choice("main", MARK, "Mark", "Sections and panels can be chosen by it in chapter Frame.")


def _share() -> float:
    return number(20.0, "%", 0.0, 100.0, 1.0, "Share")


def _by_seed(many: int, share: float, seed: int) -> NDArray[np.bool_]:
    """A share (%) of so many, by a seed; a larger share holds what a smaller one did."""
    chosen = np.zeros(many, bool)
    chosen[chosen_by_seed(np.arange(many), share / 100, seed)] = True
    return chosen


def _marked(
    old: NDArray[np.int32] | None, chosen: NDArray[np.bool_], mark: str
) -> NDArray[np.int32]:
    marks = np.zeros(len(chosen), np.int32) if old is None else old.copy()
    marks[chosen] = MARKS.index(mark)
    return marks


def _counts(marks: NDArray[np.int32], what: str) -> dict[str, Figure]:
    return {
        f"{what}_{name}": Figure(f"{name.capitalize()} {what}", int((marks == k).sum()))
        for k, name in enumerate(MARKS)
        if k and (marks == k).any()
    }


def _nothing(chosen: NDArray[np.bool_], value: str) -> list[Notice]:
    return (
        []
        if chosen.any()
        else [Notice("Nothing in the net is so, and nothing was marked.", value=value)]
    )


class MarkEdges(NetClause):
    kind = "mark-edges"
    title = "Mark edges"
    summary = (
        "Edges at the border, along rings, ribs or diagonals, long or steep ones, every so many "
        "strands, or a random share, by a mark."
    )
    sentence = (
        "**Mark** edges {which}[which=longer| than {length}][which=steep| than {angle}]"
        "[which=strands| {every}, from number {first}][which=places| {places}]"
        "[which=side| {azimuth}][which=share| {share} of them, by seed {seed},] as {mark}."
    )
    takes = (NET,)

    which: Literal[
        "border",
        "side",
        "rings",
        "ribs",
        "diagonals",
        "longer",
        "steep",
        "strands",
        "places",
        "share",
    ] = choice(
        "border",
        {
            "border": "at the border",
            "side": "of the border's side towards",
            "rings": "along u, as rings and courses run",
            "ribs": "along v, as ribs run",
            "diagonals": "that run diagonally",
            "longer": "that are longer",
            "steep": "that are steeper",
            "strands": "of strands, one in",
            "places": "nearest to",
            "share": "at random,",
        },
        "Which",
    )
    length: float = number(2.0, "m", 0.001, 1000.0, 0.05, "Length")
    angle: float = number(45.0, "°", 0.0, 90.0, 1.0, "Angle", "To the level")
    every: int = count(3, 1, 1000, "One in")
    first: int = count(1, 1, 1000, "From")
    places: list[Place] = places(
        lambda: [(0.0, 0.0, 0.0)], "Places", "Drag them in the view; Alt drags up and down."
    )
    azimuth: float = number(0.0, "°", -360.0, 360.0, 5.0, "Towards", "0° is +x, 90° is +y")
    share: float = _share()
    seed: int = count(1, 0, 100_000, "Seed")
    mark: str = _mark()

    def make(self, work: Work) -> Made:
        net: Net = work.inputs["net"]
        chosen = self._chosen(net)
        marks = _marked(net.marks, chosen, self.mark)
        return made_net(
            replace(net, marks=marks), _counts(marks, "edges"), _nothing(chosen, "which")
        )

    def _chosen(self, net: Net) -> NDArray[np.bool_]:
        if self.which == "border":
            return net.border
        if self.which == "side":
            return edges_along(net, side_towards(net, np.radians(self.azimuth)))
        if self.which == "share":
            return _by_seed(len(net.edges), self.share, self.seed)
        if self.which == "longer":
            return np.asarray(net.edge_lengths > self.length)
        if self.which == "places":
            at = checked_points(self.places, 1, 400, "places", "places")
            return np.isin(
                np.arange(len(net.edges)),
                scipy.spatial.cKDTree(net.vertices[net.edges].mean(axis=1)).query(at)[1],
            )
        way = net.vertices[net.edges[:, 1]] - net.vertices[net.edges[:, 0]]
        way /= np.maximum(net.edge_lengths, 1e-300)[:, None]
        if self.which == "steep":
            return np.asarray(np.abs(way[:, 2]) > np.sin(np.radians(self.angle)))
        if self.which == "strands":
            strand = strands_of(net).strand
            names = np.unique(strand[~net.border])
            if self.first > len(names):
                raise ClauseError(f"There are {len(names)} strands; begin at one of them.", "first")
            return np.isin(strand, names[self.first - 1 :: self.every]) & ~net.border
        at = net.surface._off_points(np.clip(net.uv[net.edges[:, 0]], 0.0, 1.0), 1e-4)
        share = []
        for order in ((1, 0), (0, 1)):
            d = net.surface.derivatives(at, *order)
            share.append(
                np.abs(np.einsum("ij,ij->i", way, d))
                / np.maximum(np.linalg.norm(d, axis=1), 1e-300)
                > ALONG
            )
        along_u, along_v = share
        chosen = {"rings": along_u, "ribs": along_v, "diagonals": ~along_u & ~along_v}[self.which]
        return np.asarray(chosen & ~net.border)


class MarkCells(ZoneClause):
    kind = "mark-cells"
    title = "Mark cells"
    summary = "Cells at the border, with so many corners, or in a zone, by a mark."
    sentence = (
        f"**Mark** cells {ZONE}[where=corners| {{corners}} corners]"
        "[where=share| {share} of them, by seed {seed},] as {mark}."
    )

    where: Literal["border", "corners", "share", "height", "size", "region", "near", "facing"] = (
        choice(
            "border",
            {"border": "at the border", "corners": "with", "share": "at random,"} | WHERE,
            "Which",
        )
    )
    corners: int = count(6, 3, 1000, "Corners")
    share: float = _share()
    seed: int = count(1, 0, 100_000, "Seed")
    mark: str = _mark()

    def make(self, work: Work) -> Made:
        net: Net = work.inputs["net"]
        if self.where == "border":
            chosen = np.asarray(np.maximum.reduceat(net.border[net.sides], net.offsets[:-1]))
        elif self.where == "corners":
            chosen = np.asarray(np.diff(net.offsets) == self.corners)
        elif self.where == "share":
            chosen = _by_seed(net.cell_count, self.share, self.seed)
        else:
            chosen = self.zone(self.where, net, work)
        marks = _marked(net.cell_marks, chosen, self.mark)
        return made_net(
            replace(net, cell_marks=marks), _counts(marks, "cells"), _nothing(chosen, "where")
        )
