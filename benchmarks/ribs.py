"""Ribs against the bare plane sections they begin with."""

from __future__ import annotations

import time
from collections.abc import Callable
from pathlib import Path

import numpy as np

from leanlattice.core.flat.nesting import Nest, nest
from leanlattice.core.flat.searching import nest_better
from leanlattice.core.flat.sheets import Sheets
from leanlattice.core.geometry.forms import torus
from leanlattice.core.geometry.meshes import Body
from leanlattice.core.ribs.laps import Slots, lapped
from leanlattice.core.ribs.planes import evenly, parallel
from leanlattice.core.ribs.plates import cut_ribs
from leanlattice.core.shaping.facets import surface_mesh
from leanlattice.core.shaping.solids import as_solid
from leanlattice.statement.document import read_statement
from leanlattice.statement.evaluate import ResultCache, evaluate

__all__ = ["nested_ribs", "slotted_ribs"]

UP = np.array([0.0, 0.0, 1.0])


def slotted_ribs(seconds: Callable[..., list[float]]) -> float:
    """200 ribs of a body of 100,000 triangles, slots included, against the 200 bare sections."""
    mesh = surface_mesh(torus(np.zeros(3), 5.0, 1.5), (320, 160))[0]
    body = Body(mesh)
    low, high = body.mesh.vertices.min(axis=0), body.mesh.vertices.max(axis=0)
    families = [
        parallel(np.eye(3)[axis], UP, evenly(low[axis], high[axis], 100)) for axis in (0, 1)
    ]

    def bare() -> None:
        solid = as_solid(Body(mesh))  # one that has not been worked with
        for planes in families:
            frame = np.stack([planes.x[0], planes.y[0], planes.normals[0]])
            turned = solid.transform(np.column_stack([frame, np.zeros(3)]))
            for origin in planes.origins:
                turned.slice(float(frame[2] @ origin))

    def ribs() -> None:
        fresh = Body(mesh)
        first, second = (
            cut_ribs(fresh, p, s, 0.012).ribs for p, s in zip(families, "AB", strict=True)
        )
        lapped(first, second, Slots(0.0002), UP)

    whole, sections = seconds(ribs, bare)
    return whole / sections


def nested_ribs(root: Path, search: float = 30.0) -> tuple[int, float, float]:
    """How many ribs of the hide cut more closely there are, seconds to their first arrangement on its sheets, and the share
    of what is taken of the sheets that lies outside their outlines after a search of so many seconds."""
    statement = read_statement((root / "demo" / "bird-hide.json").read_bytes())
    ribs, lengths, boards = statement.clauses[-3:]
    ribs.values |= {"spacing_first": 0.118, "spacing_second": 0.118}
    boards.values |= {"width": 6000, "height": 1830}
    lengths.off = True
    made = [o.result for o in evaluate(statement, ResultCache())]
    layout = next(r for r in made if isinstance(r, Sheets)).layout
    nest(Nest(layout.parts[:4], layout.stocks))  # warms up
    started = time.perf_counter()
    first = nest(Nest(layout.parts, layout.stocks))
    taken = time.perf_counter() - started
    ends = time.perf_counter() + search
    best = nest_better(first.made, first, lambda: time.perf_counter() < ends, lambda found: None)
    assert (best.sheet >= 0).all(), boards
    return len(layout.parts), taken, 1 - best.within_outlines()
