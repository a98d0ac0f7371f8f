"""Chapter Lattice: clauses that lay a net on a shape."""

from __future__ import annotations

from typing import Literal

import numpy as np

from ..core.framing.labels import bands
from ..core.geometry.meshsurface import MeshSurface
from ..core.geometry.nets import Net, NetError, build_net
from ..core.geometry.surfaces import Surface
from ..core.patterns.borders import BORDERS
from ..core.patterns.lay import bays_for_module, lay
from ..core.patterns.table import PATTERNS
from .base import Clause, ClauseError, Figure, Made, Notice, Take, Work, choice, count, number
from .shape.common import surface_needed

__all__ = ["LayPattern", "TakeFaces"]

MOST_CELLS = 120_000


class LayPattern(Clause):
    kind = "pattern"
    chapter = "Lattice"
    title = "Lay a pattern"
    summary = "A net of quads, rhombs or triangles on the shape, by number of bays or by module."
    sentence = (
        "**Lay** {pattern} by {density}: [density=bays|{bays_across} bays across and {bays_along} along]"
        "[density=module|as near {module} as whole bays allow], {border}."
    )
    takes = (Take(name="shape", type="Shape", label="Shape"),)
    gives = "Net"

    pattern: str = choice("diagrid", {k: p.title for k, p in PATTERNS.items()}, "Pattern")
    density: Literal["bays", "module"] = choice(
        "bays", {"bays": "number of bays", "module": "module"}, "Density", "A module is solved along the real lengths."
    )
    bays_across: int = count(16, 1, 2000, "Bays across", "Along the profiles of a loft; around a dome.")
    bays_along: int = count(24, 1, 2000, "Bays along", "From profile to profile; from a dome's edge to its apex.")
    module: float = number(1.5, "m", 0.01, 1000.0, 0.01, "Module", "Mean size of a bay along the surface.")
    border: str = choice("cut", {k: b.title for k, b in BORDERS.items()}, "Border")

    def make(self, work: Work) -> Made:
        surface = surface_needed(work.inputs["shape"])
        bays = self._bays(surface)
        cells = bays[0] * bays[1] * PATTERNS[self.pattern].cells_per_bay
        if cells > MOST_CELLS:
            value, now = ("module", f"a module of {self.module:g} m") if self.density == "module" else ("bays_across",
                f"{bays[0]:,} × {bays[1]:,} bays")  # fmt: skip
            share = (cells / MOST_CELLS) ** 0.5
            works = (
                f"a module of {_rounded_up(self.module * share)} m or more works"
                if self.density == "module"
                else f"{int(bays[0] / share):,} × {int(bays[1] / share):,} bays or fewer work"
            )
            raise ClauseError(f"{now[0].upper()}{now[1:]} would make {cells:,} cells; the limit is {MOST_CELLS:,}, "
                              f"so {works}.", value)  # fmt: skip
        try:
            net = lay(surface, self.pattern, bays, self.border)
        except NetError as error:
            raise ClauseError(f"{error} More bays, or a border cut at the edge, will help.", "bays_across") from None
        if net.cell_count == 0:
            raise ClauseError(
                f"With {bays[0]} × {bays[1]} bays and whole cells only, no cell is left; use more bays or cut at the "
                "edge.", "border",
            )  # fmt: skip
        figures = net_figures(net) | self._deviation(surface, bays)
        return Made(net, figures, _short_edges(net))

    def _bays(self, surface: Surface) -> tuple[int, int]:
        least = 3 if surface.closed_u else 1
        if self.density == "bays":
            if surface.closed_v and self.bays_along < 3:
                raise ClauseError(f"{self.bays_along} bays do not close a ring; give 3 or more along.", "bays_along")
            if self.bays_across < least:
                raise ClauseError(
                    f"{self.bays_across} bays do not close a ring; give {least} or more around this shape.",
                    "bays_across",
                )
            return self.bays_across, self.bays_along
        along_u, along_v = surface.lengths
        if self.module > min(along_u / least, along_v):
            raise ClauseError(
                f"A module of {self.module:g} m is larger than the shape allows, which measures {along_u:.2f} × "
                f"{along_v:.2f} m; at most {min(along_u / least, along_v):.2f} m works.",
                "module",
            )
        return bays_for_module(surface, self.module)

    def _deviation(self, surface: Surface, bays: tuple[int, int]) -> dict[str, Figure]:
        sizes = [length / n for length, n in zip(surface.lengths, bays, strict=True)]
        out = {
            "bays_across": Figure("Bays across", bays[0]),
            "bays_along": Figure("Bays along", bays[1]),
            "module_across": Figure("Mean bay across", sizes[0], "m", 3),
            "module_along": Figure("Mean bay along", sizes[1], "m", 3),
        }
        if self.density == "module":
            for name, label, size in zip(("across", "along"), ("across", "along"), sizes, strict=True):
                deviation = (size / self.module - 1) * 100
                out[f"deviation_{name}"] = Figure(f"Deviation {label}", deviation, "%", 1)
        return out


class TakeFaces(Clause):
    kind = "faces"
    chapter = "Lattice"
    title = "Take the shape's own faces"
    summary = "The faces of a cage, a canopy or an imported mesh as cells, just as they are."
    sentence = "**Take** the shape's own faces as cells."
    takes = (Take(name="shape", type="Shape", label="Shape"),)
    gives = "Net"

    def make(self, work: Work) -> Made:
        surface = surface_needed(work.inputs["shape"])
        if not isinstance(surface, MeshSurface):
            raise ClauseError("This shape is smooth and has no faces of its own; lay a pattern on it.")
        faces = surface.faces or surface.mesh
        if surface.flipped:
            faces = faces.reversed()
        if faces.face_count > MOST_CELLS:
            raise ClauseError(f"The shape has {faces.face_count:,} faces; at most {MOST_CELLS:,} can be cells. Lay a pattern on "
                              "it instead.")  # fmt: skip
        try:
            net = build_net(surface, faces.vertices, surface.uv, faces.corners, faces.offsets)
        except NetError as error:
            raise ClauseError(str(error)) from None
        return Made(net, net_figures(net), _short_edges(net))


def _rounded_up(value: float) -> str:
    return f"{np.ceil(value * 100) / 100:g}"


def net_figures(net: Net) -> dict[str, Figure]:
    lengths = net.edge_lengths
    return {
        "cells": Figure("Cells", net.cell_count),
        "edges": Figure("Edges", len(net.edges)),
        "vertices": Figure("Vertices", len(net.vertices)),
        "border_loops": Figure("Border loops", len(net.loops)),
        "shortest": Figure("Shortest edge", float(lengths.min()), "m", 3),
        "longest": Figure("Longest edge", float(lengths.max()), "m", 3),
        "distinct_lengths": Figure("Lengths, to 1 mm", int(bands(lengths, 0.001).max()) + 1),
        "flatness": Figure("Least flat cell", float(net.flatness.max()) * 1000, "mm", 1),
    }


def _short_edges(net: Net) -> list[Notice]:
    lengths = net.edge_lengths
    short = np.flatnonzero(lengths < 0.05 * np.median(lengths))
    if not short.size:
        return []
    at = net.vertices[net.edges[short[0]]].mean(axis=0)
    text = (
        f"{short.size} edge{'s are' if short.size > 1 else ' is'} shorter than a twentieth of the usual, the shortest "
        f"{lengths.min() * 1000:.0f} mm; fewer bays where the shape narrows will help."
    )
    return [Notice(text, "member", tuple(map(int, short[:200])), (float(at[0]), float(at[1]), float(at[2])))]
