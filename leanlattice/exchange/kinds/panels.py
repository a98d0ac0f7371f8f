"""Panels: how they are drawn, named and written."""

from __future__ import annotations

import itertools
from collections.abc import Iterator
from typing import Any

import mapbox_earcut
import numpy as np
from numpy.typing import NDArray

from ...clauses.said import mm, said
from ...core.flat.parts import Part
from ...core.flat.twisted import twisted_plate
from ...core.geometry.divided import finer
from ...core.geometry.prisms import pierced_prism, prism
from ...core.materials import MATERIALS
from ...core.panels.names import names_of_panels
from ...core.panels.outlines import PanelOutlines, Patch, outlines_of_panels
from ...core.panels.panels import Panels, Sheet
from ...core.panels.seats import nodes_of_corners
from ...core.panels.twist import heights_of_patch
from ...core.panels.valleys import fold_angles
from ...core.structure.names import names_of_structure
from ..subjects import Subject
from ..tables import Table, rounded
from .amounts import Amounts, materials_of
from .flat import PARTS, POSES, larger_than_any_sheet
from .kind import (
    Arrays,
    BuildingModel,
    Drawing,
    Kind,
    Layer,
    Measure,
    NotMade,
    Picture,
    Schedule,
    Solid,
    looks_of,
    narrow,
)
from .nets import cuts_of_polygons

__all__ = ["KIND"]

Array = NDArray[np.float64]
PIECES, MOST_TRIANGLES = 6, 200_000
"""Into how many the longest side of a panel that is bent is parted in the view, as far as all of
them have no more triangles."""


def _drawn(panels: Panels) -> Drawing:
    exact = panels.edges.are_worked or panels.alike or bool(panels.bent.any())
    told = {
        "raised": 0.0 if exact else panels.raised,
        "exact": exact,
        "words": {"sheets": [_sheet_text(sheet) for sheet in panels.sheets]},
    } | looks_of(sheet.material for sheet in panels.sheets)
    middles = np.add.reduceat(panels.places[panels.corners], panels.offsets[:-1], axis=0)
    return told, {
        "sheetOf": narrow(panels.sheet_of),
        "middles": (middles / np.diff(panels.offsets)[:, None]).astype("<f4"),
    } | (_as_cut(panels) if exact else _as_cells(panels))


def _as_cells(panels: Panels) -> Arrays:
    """Panels up to the places between which they stand."""
    return {
        "positions": panels.places.astype("<f4"),
        "corners": narrow(panels.corners),
        "counts": narrow(np.diff(panels.offsets)),
    } | cuts_of_polygons(panels.places, panels.corners, panels.offsets)


def _as_cut(panels: Panels) -> Arrays:
    """Panels as they are cut, with their openings, where their undersides are."""
    cut = outlines_of_panels(panels)
    flat, triangles, owner = _faces(cut)
    order = np.argsort(owner, kind="stable")
    place = np.empty(len(order), np.int64)
    place[order] = np.arange(len(order))
    counts = np.bincount(owner, minlength=panels.count)
    starts = np.concatenate([[0], np.cumsum(counts)])
    face_owner = owner[triangles[:, 0]]
    by_panel = np.argsort(face_owner, kind="stable")
    cuts = place[triangles[by_panel]] - starts[face_owner[by_panel]][:, None]
    places = _standing(cut, flat[order], starts)
    return {
        "positions": places.astype("<f4"),
        "corners": narrow(np.arange(len(places), dtype=np.int32)),
        "counts": narrow(counts.astype(np.int32)),
        "cutOf": narrow(np.arange(panels.count, dtype=np.int32)),
        "cuts": narrow(cuts.astype(np.int32)),
        "cutCounts": narrow(np.bincount(face_owner, minlength=panels.count).astype(np.int32)),
    }


def _faces(cut: PanelOutlines) -> tuple[Array, NDArray[np.int32], NDArray[np.int64]]:
    """Places (n, 2) of all panels in their own planes, in mm, triangles (m, 3) between them, and
    the panel (n,) each place is of; those that are bent in pieces small enough to show it."""
    flats, faces, before = [], [], 0
    for outer, holes in zip(cut.outer, cut.holes, strict=True):
        rings = [outer, *holes]
        flat, stops = np.concatenate(rings), np.cumsum([len(ring) for ring in rings])
        face = mapbox_earcut.triangulate_float64(flat, stops.astype(np.uint32))
        faces.append(face.reshape(-1, 3).astype(np.int32) + before)
        flats.append(flat)
        before += len(flat)
    owner = np.repeat(np.arange(len(flats)), [len(flat) for flat in flats])
    # The panel goes along as a third number, which is the same on all of a triangle.
    places, triangles = np.column_stack([np.concatenate(flats), owner]), np.concatenate(faces)
    if cut.patches:
        bent = np.isin(owner, list(cut.patches))[triangles[:, 0]]
        largest = max(float(np.ptp(patch.corners, axis=0).max()) for patch in cut.patches.values())
        places, fine = finer(places, triangles[bent], largest / PIECES, MOST_TRIANGLES)
        triangles = np.concatenate([triangles[~bent], fine])
    return places[:, :2], triangles, np.round(places[:, 2]).astype(np.int64)


def _standing(cut: PanelOutlines, flat: Array, starts: NDArray[np.int64]) -> Array:
    """Where places (n, 3) of panels stand that lie ``flat`` (n, 2), panel by panel from ``starts``
    on; in metres."""
    of = np.repeat(np.arange(len(starts) - 1), np.diff(starts))
    high = np.zeros(len(flat))
    if cut.patches:
        bent = np.flatnonzero(np.isin(of, list(cut.patches)))
        own = [cut.patches[k] for k in of[bent].tolist()]
        corners, heights = (np.array([getattr(p, name) for p in own]) for name in Patch._fields)
        high[bent] = heights_of_patch(flat[bent], corners, heights)
    local = np.column_stack([flat, high])
    return np.asarray(np.einsum("nij,nj->ni", cut.poses[of, :3, :3], local) + cut.poses[of, :3, 3])


def _sheet_text(sheet: Sheet) -> str:
    return f"{sheet.thickness * 1000:g} mm {MATERIALS[sheet.material].title}"


def _measured(panels: Panels) -> Arrays:
    return {
        "flatness": panels.flatness,
        "area": panels.areas,
        "panelMass": panels.masses,
        "panelSheet": panels.sheet_of.astype(float),
        "twistStress": panels.twist_stresses,
        "panelOff": outlines_of_panels(panels).off if panels.alike else np.zeros(panels.count),
    }


def _picture(panels: Panels) -> Picture:
    return Picture(panels.places, None, [panels.places[side] for side in panels.sides])


def _named(panels: Panels) -> Drawing:
    names = names_of_panels(panels)
    return {"prefixes": names.prefixes}, {"panel": narrow(names.panel)}


def _corners(subject: Subject) -> list[str]:
    """Labels of the nodes at the corners of each panel, in a row, and places in metres of corners
    that are at none, as of tips; empty without a structure."""
    panels: Panels = subject.result
    if subject.structure is None:
        return [""] * panels.count
    structure = subject.structure.result
    label = [*subject.structure.once(names_of_structure).every_node, ""]
    node = nodes_of_corners(panels, structure)[panels.corners].tolist()
    start = panels.offsets.tolist()
    runs = [node[a:b] for a, b in itertools.pairwise(start)]
    places = panels.places[panels.corners].tolist()
    out = []
    for run, first in zip(runs, start, strict=False):
        on = [label[n] if n >= 0 else _written(places[first + k]) for k, n in enumerate(run)]
        out.append(" ".join(on) if max(run) >= 0 else "")
    return out


def _written(place: list[float]) -> str:
    return "/".join(f"{c:.9f}" for c in place)


def _table(subject: Subject) -> Table | None:
    panels: Panels = subject.result
    names = subject.once(names_of_panels)
    order = np.argsort(names.panel)
    corners = _corners(subject)
    columns: dict[str, list[Any]] = {
        "label": names.panels(order),
        "type": names.types(order),
        "corners": [corners[i] for i in order],
        "area_m2": rounded(panels.areas[order], 4),
        "flatness_mm": rounded(panels.flatness[order] * 1000, 3),
        "material": [panels.materials[i] for i in order.tolist()],
        "thickness_mm": rounded(panels.thicknesses[order] * 1000, 3),
        "raised_mm": [round(panels.raised * 1000, 3)] * len(order),
    }
    columns["cut"] = ["alike" if panels.alike else "own"] * len(order)
    columns["off_mm"] = _off(panels, order)
    columns |= _edges(panels, order)
    columns["twist_mm"] = rounded(panels.twists[order] * 1000, 3)
    columns["twist_stress_MPa"] = rounded(panels.twist_stresses[order] / 1e6, 3)
    columns |= _sides(panels, names.every_panel, order)
    return Table("panel", columns, order.tolist())


def _off(panels: Panels, order: NDArray[np.int64]) -> list[float]:
    """How far (mm) what is cut of panels is off their corners, before the joint is taken off."""
    if not panels.alike:
        return [0.0] * len(order)
    return rounded(outlines_of_panels(panels).off[order], 3)


def _edges(panels: Panels, order: NDArray[np.int64]) -> dict[str, list[Any]]:
    """What the edges of panels are worked to: radii of corners and holes; 0 where nothing is
    done."""
    edges, count = panels.edges, len(order)
    if not edges.are_worked:
        nothing: list[Any] = [0] * count
        return dict.fromkeys(("corner_radius_mm", "holes", "hole_mm", "rim_mm"), nothing)
    cut = outlines_of_panels(panels)
    done = cut.done[order]
    holes = [len(cut.holes[i]) for i in order.tolist()]
    drilled = np.array(holes) > 0
    return {
        "corner_radius_mm": rounded(np.where(done, edges.radius * 1000, 0.0), 3),
        "holes": holes,
        "hole_mm": rounded(np.where(drilled, edges.hole * 1000, 0.0), 3),
        "rim_mm": rounded(np.where(drilled, edges.rim * 1000, 0.0), 3),
    }


def _sides(panels: Panels, labels: list[str], order: NDArray[np.int64]) -> dict[str, list[str]]:
    """What lies beyond the sides of panels, from their first corner on, and the angles there."""
    beyond = [labels[k] if k >= 0 else "-" for k in panels.neighbour.tolist()]
    degrees = np.degrees(fold_angles(panels)).tolist()
    angles = ["-" if np.isnan(a) else f"{a:.2f}" for a in degrees]
    runs = [slice(*panels.offsets[i : i + 2].tolist()) for i in order.tolist()]
    return {
        "beyond": [" ".join(beyond[run]) for run in runs],
        "angles_deg": [" ".join(angles[run]) for run in runs],
    }


def _amounts(subject: Subject) -> Amounts:
    panels: Panels = subject.result
    types = subject.once(names_of_panels).panel_type.tolist()
    return Amounts("panel", panels.materials, types, panels.masses, area=panels.areas)


def _solids(subject: Subject) -> Iterator[Solid]:
    patches = outlines_of_panels(subject.result).patches
    for thing, part in subject.parts.items():
        vertices, faces = _solid(part, patches.get(thing))
        yield Solid(part.label, "panel", vertices, faces)


def _solid(part: Part, patch: Patch | None) -> tuple[Array, NDArray[np.int32]]:
    """Places (n, 3) in metres and triangles (m, 3) of a plate above its plane, or twisted to a
    patch."""
    if patch is not None:
        return twisted_plate(part, patch)
    thick, frame = part.thickness / 1000, part.pose[:3] * [1.0, 1.0, 1000.0, 1.0]
    if part.inner:
        return pierced_prism([part.outer, *(ring[::-1] for ring in part.inner)], frame, thick)
    flat = np.column_stack([part.outer, np.zeros(len(part.outer)), np.ones(len(part.outer))])
    return prism(flat @ frame.T, frame[:, 2], thick)


def _build(model: BuildingModel, subject: Subject) -> None:
    """Panels as plates, held back by half the joint."""
    panels: Panels = subject.result
    names = subject.once(names_of_panels)
    things = np.array(list(subject.parts), np.int32)
    sheets = [panels.sheets[k] for k in panels.sheet_of[things].tolist()]
    named = zip(names.panels(things), names.types(things), sheets, strict=True)
    patches = outlines_of_panels(panels).patches
    for (label, type_name, sheet), (thing, part) in zip(named, subject.parts.items(), strict=True):
        if thing in patches:
            solid = twisted_plate(part, patches[thing])
            named_as = ("IfcPlate", label, type_name)
            model.add_faced(*named_as, *solid, sheet.material, "SHEET", layer=sheet.thickness)
            continue
        place, axes = part.pose[:3, 3], part.pose[:3, :3].T * 1000
        sized = (
            model.outline(part.outer / 1000, [ring / 1000 for ring in part.inner]),
            sheet.thickness,
        )
        model.add("IfcPlate", label, type_name, place, axes, *sized, sheet.material, "SHEET")


def _not_made(subject: Subject) -> Iterator[NotMade]:
    """Panels without a part or on no sheet."""
    panels: Panels = subject.result
    without = np.array([i for i in range(panels.count) if i not in subject.parts], np.int32)
    why = said(f"too small for a joint of {mm(panels.joint * 1000)}")
    for label in subject.once(names_of_panels).panels(without):
        yield NotMade("panel", label, why)
    yield from larger_than_any_sheet(subject, "panel")


KIND = Kind(
    "Panels",
    layers=(Layer("panels", "Panels", "panel", shown=True),),
    drawn=_drawn,
    measures=(
        Measure("flatness", "panel flatness", "mm", "panels", "panel", scale=1000, digits=1),
        Measure("area", "panel area", "m²", "panels", "panel", total=True),
        Measure("panelMass", "mass of a panel", "kg", "panels", "panel", digits=1, total=True),
        Measure(
            "twistStress", "stress of bent panels", "MPa", "panels", "panel", scale=1e-6, digits=1
        ),
        Measure("panelOff", "cut off its corners", "mm", "panels", "panel", digits=2),
        Measure(
            "panelSheet", "sheets of panels", "", "panels", "panel", spread=False, words="sheets"
        ),
    ),
    measured=_measured,
    picture=_picture,
    portrait=False,
    card={"panels": "panels"},
    named=_named,
    schedules=(
        Schedule("panels", _table, "Panels", ("Panels",), "panel"),
        PARTS,
        POSES,
        materials_of(_amounts),
    ),
    solids=_solids,
    building=_build,
    not_made=_not_made,
)
