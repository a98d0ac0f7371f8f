"""Whether members of one type are one part: as large, and spread as far, in the model."""

from __future__ import annotations

import numpy as np
from numpy.typing import NDArray

from .models import meshes_in
from .pack_files import Found, Pack, Row, tolerance_of

__all__ = ["kinds_alike", "kinds_counted", "members_of_types_alike", "sizes_of_mesh"]

Array = NDArray[np.float64]

MODEL = "model.glb"


def members_of_types_alike(pack: Pack) -> Found:
    """How far (mm) the sizes of solids of one type differ, beyond what members are told to be
    equal within."""
    yield from alike(pack, pack.rows("members"), "type")


def kinds_alike(pack: Pack, table: str, figure: str) -> Found:
    """How far (mm) sizes of things of one kind in a ``table`` differ beyond the tolerance, and how
    many kinds there are against the ``figure`` of their clause."""
    yield from kinds_counted(pack, table, figure)
    yield from alike(pack, pack.rows(table), "kind")


def kinds_counted(pack: Pack, table: str, figure: str) -> Found:
    """How many kinds of things there are in a ``table`` against the ``figure`` of their clause."""
    rows = pack.rows(table)
    told = [c["figures"][figure] for c in pack.report["clauses"] if figure in c["figures"]]
    if len(told) == 1:
        off = abs(len({row["kind"] for row in rows}) - float(told[0]["value"]))
        yield off, f"kinds in {table}.csv and report.json"


def alike(pack: Pack, rows: list[Row], column: str) -> Found:
    """How far (mm) the solids of those ``rows`` that a ``column`` puts together differ, beyond what
    is told to be equal within; those that are cut alike do not."""
    if not pack.has(MODEL):
        return
    tolerance = tolerance_of(pack)
    meshes = meshes_in(pack, MODEL)
    leads: dict[str, tuple[str, Array]] = {}
    for row in rows:
        label, kind = row["label"], row[column]
        if label not in meshes:
            continue
        own = sizes_of_mesh(*meshes[label]) * 1000
        name, lead = leads.setdefault(kind, (label, own))
        off = float(np.abs(own - lead).max())
        room = 0.0 if row.get("cut") == "alike" and column == "kind" else 2 * tolerance
        yield max(off - room, 0.0), f"{label} and {name} of {column} {kind} in {MODEL}"


def sizes_of_mesh(vertices: Array, triangles: NDArray[np.integer]) -> Array:
    """Four lengths of a closed mesh that do not depend on where it is and how it is turned, in its
    own unit: the side of a cube of its volume, and its radii of gyration along its main axes,
    which fall.

    Of a tetrahedron from the origin to a, b and c with the volume v, ∫ x xᵀ is
    v / 20 (s sᵀ + a aᵀ + b bᵀ + c cᵀ) with s = a + b + c.
    """
    corner = vertices[triangles] - vertices.mean(axis=0)
    volume = np.einsum("ni,ni->n", corner[:, 0], np.cross(corner[:, 1], corner[:, 2])) / 6
    total = volume.sum()
    middle = volume @ corner.sum(axis=1) / 4 / total
    corner = corner - middle
    volume = np.einsum("ni,ni->n", corner[:, 0], np.cross(corner[:, 1], corner[:, 2])) / 6
    sums = corner.sum(axis=1)
    moment = np.einsum("n,ni,nj->ij", volume, sums, sums)
    moment += np.einsum("n,nki,nkj->ij", volume, corner, corner)
    spread = np.linalg.eigvalsh(moment / 20 / total)[::-1]
    return np.concatenate([[np.cbrt(abs(total))], np.sqrt(np.maximum(spread, 0.0))])
