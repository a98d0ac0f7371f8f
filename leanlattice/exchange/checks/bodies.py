"""Solids of a material: their table against the models, and their masses against their material."""

from __future__ import annotations

from typing import Any

import ifcopenshell.util.placement
import numpy as np
from numpy.typing import NDArray

from ...core.materials import MATERIALS
from .likeness import sizes_of_mesh
from .models import element_layer, element_material, elements_in, meshes_in
from .pack_files import Found, Pack, Row, beyond, number_in, tolerance_of, vector_in
from .steps import step_in

__all__ = ["bodies_as_listed", "bodies_in_step"]

Array = NDArray[np.float64]
DENSITY = {m.title: m.density for m in MATERIALS.values()}
ROUNDED_KG, ROUNDED_M3, ROUNDED_M2 = 5.1e-7, 1e-9, 1e-6
"""What masses, volumes and areas are rounded to."""
SINGLE = 2e-6
"""Places in models are so exact, as shares of the whole."""


def bodies_as_listed(pack: Pack) -> Found:
    """Volumes, areas and middles of bodies.csv against the solids in model.glb, and masses against
    their materials (thousandths, mm); sizes along their own directions, whether those of a type are
    alike, the figures of the clause, and the building model."""
    rows = {r["label"]: r for r in pack.rows("bodies")}
    if not rows:
        return
    for row in rows.values():
        yield from _weighs(row)
    yield from _as_reported(pack, list(rows.values()))
    if pack.has("model.glb"):
        found = meshes_in(pack, "model.glb")
        reach = max(float(np.abs(places).max(initial=1e-9)) for places, _ in found.values())
        for label, row in rows.items():
            if label in found:
                yield from _measures(row, *found[label], reach)
                yield from _sizes(row, found[label][0], reach)
        yield from _types(pack, list(rows.values()), found)
    if pack.has("model.ifc"):
        elements = elements_in(pack)
        for label, row in rows.items():
            if label in elements:
                other = element_material(elements[label]) != row["material"]
                yield beyond(other), f"{label} in model.ifc: material"
                off = element_layer(elements[label]) * 1000 - number_in(row, "skin_mm", "bodies")
                yield abs(off) * 1000, f"{label} in model.ifc: layer"
                told = elements[label].ObjectType
                yield beyond(told != row["type"]), f"{label} in model.ifc: type “{told}”"
                yield from _stands(row, elements[label])
                told = elements[label].Description or ""
                yield beyond(told != row["group"]), f"{label} in model.ifc: “{told}”"


def _weighs(row: Row) -> Found:
    where = f"{row['label']} in bodies.csv"
    density = DENSITY.get(row["material"])
    yield beyond(density is None), f"{where}: there is no material “{row['material']}”"
    volume, mass = number_in(row, "volume_m3", "bodies"), number_in(row, "mass_kg", "bodies")
    yield beyond(not volume > 0), f"{where}: volume"
    if density is not None:
        skin = number_in(row, "skin_mm", "bodies") / 1000
        made = number_in(row, "area_m2", "bodies") * skin if skin else volume
        room = ROUNDED_KG + (ROUNDED_M3 + ROUNDED_M2 * skin) * density
        off = max(abs(mass - made * density) - room, 0.0)
        yield off / max(mass, 1e-3) * 1000, f"{where}: mass"


def _as_reported(pack: Pack, rows: list[Row]) -> Found:
    """The clauses' volumes and masses in all."""
    told = [c["figures"] for c in pack.report["clauses"] if "heaviest" in c["figures"]]
    for figure, column in (("volume", "volume_m3"), ("mass", "mass_kg")):
        said = sum(float(figures[figure]["value"]) for figures in told)
        listed = sum(number_in(row, column, "bodies") for row in rows)
        where = f"report.json says {said:g} for {listed:g} in bodies.csv: {figure}"
        yield abs(listed / max(said, 1e-12) - 1) * 1000, where


def _measures(row: Row, places: Array, triangles: NDArray[np.integer], reach: float) -> Found:
    where = f"{row['label']} in bodies.csv or model.glb"
    corner = places[triangles]
    crosses = np.cross(corner[:, 1] - corner[:, 0], corner[:, 2] - corner[:, 0])
    area = float(np.linalg.norm(crosses, axis=1).sum() / 2)
    base = places[0]
    local = corner - base
    weight = np.einsum("ij,ij->i", local[:, 0], np.cross(local[:, 1], local[:, 2])) / 6
    volume = float(weight.sum())
    middle = base + weight @ local.sum(axis=1) / 4 / volume
    room = SINGLE * reach
    yield abs(area / number_in(row, "area_m2", "bodies") - 1) * 1000, f"{where}: area"
    yield abs(volume / number_in(row, "volume_m3", "bodies") - 1) * 1000, f"{where}: volume"
    off = float(np.abs(vector_in(row, "bodies", "centroid_{}_m") - middle).max())
    yield max(off - room, 0.0) * 1000, f"{where}: centroid"


def _stands(row: Row, element: Any) -> Found:
    """How far (mm, thousandths) an element's own frame is from a solid's middle and directions."""
    where = f"{row['label']} in bodies.csv and model.ifc"
    matrix = ifcopenshell.util.placement.get_local_placement(element.ObjectPlacement)
    middle = vector_in(row, "bodies", "centroid_{}_m")
    yield float(np.abs(matrix[:3, 3] - middle).max()) * 1000, f"{where}: place"
    for k, way in enumerate(("along", "up")):
        off = np.abs(matrix[:3, k] - vector_in(row, "bodies", way + "_{}")).max()
        yield float(off) * 1000, f"{where}: {way}"


def _sizes(row: Row, places: Array, reach: float) -> Found:
    """Extents along a solid's own directions (mm), which are square to each other."""
    where = f"{row['label']} in bodies.csv"
    along, up = (vector_in(row, "bodies", way + "_{}") for way in ("along", "up"))
    axes = np.stack([along, up, np.cross(along, up)])
    yield beyond(bool(np.abs(axes @ axes.T - np.eye(3)).max() > 1e-6)), f"{where}: directions"
    extents = np.ptp(places @ axes.T, axis=0) * 1000
    for size, way in zip(extents.tolist(), ("along", "up", "through"), strict=True):
        off = abs(size - number_in(row, f"size_{way}_mm", "bodies"))
        yield max(off - 2000 * SINGLE * reach, 0.0), f"{where}: size {way}"


def _types(
    pack: Pack, rows: list[Row], found: dict[str, tuple[Array, NDArray[np.integer]]]
) -> Found:
    """How far (mm) solids of one type differ beyond what they are told to be equal within; and
    whether types are of one material each, and all that are of one have its label."""
    tolerance = tolerance_of(pack)
    leads: dict[str, tuple[Row, Array]] = {}
    for row in rows:
        if row["label"] not in found:
            continue
        own = sizes_of_mesh(*found[row["label"]]) * 1000
        lead, sizes = leads.setdefault(row["type"], (row, own))
        where = f"{row['label']} and {lead['label']} of type {row['type']} in bodies.csv"
        yield max(float(np.abs(own - sizes).max()) - 2 * tolerance, 0.0), where
        yield beyond(row["material"] != lead["material"]), f"{where}: material"


def bodies_in_step(pack: Pack) -> Found:
    """Area and volume of bodies.step against the rows of bodies.csv that it has products of
    (thousandths)."""
    told = step_in(pack, "bodies.step")
    if told is None:
        return
    names, found = told
    rows = {row["label"]: row for row in pack.rows("bodies")}
    if not rows:
        yield 0.0, "bodies.step"
        return
    yield beyond(len(names) != len(set(names))), "a solid stands twice in bodies.step"
    for name in sorted(set(names) - rows.keys()):
        yield beyond(True), f"{name} of bodies.step is not in bodies.csv"
    own = [rows[name] for name in names if name in rows]
    area = sum(number_in(row, "area_m2", "bodies") for row in own)
    volume = sum(number_in(row, "volume_m3", "bodies") for row in own)
    yield abs(found.area / max(area, 1e-12) - 1) * 1000, "area of bodies.step"
    yield abs(found.volume / max(volume, 1e-12) - 1) * 1000, "volume of bodies.step"
