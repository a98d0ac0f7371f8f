"""Reading a pack back and verifying it from the files alone.

Nothing here uses what wrote the files: lengths, planes, joints and overlaps are worked out anew
from the numbers that a workshop would get.
"""

from __future__ import annotations

import csv
from collections.abc import Callable, Iterator, Sequence
from dataclasses import dataclass
from pathlib import Path

from .checks import (
    axes,
    bodies,
    crossings,
    end_plates,
    ends,
    files,
    flat,
    folded,
    hubs,
    likeness,
    machine,
    machine_steel,
    machine_timber,
    materials,
    members,
    models,
    node_bodies,
    node_plates,
    pack_cuts,
    pack_members,
    panel_edges,
    panel_twists,
    panels,
    proof,
    ribs,
    saw,
    strips,
    templates,
    touching,
    tube_ends,
    unrolled,
)
from .checks.pack_files import Found, Pack, PackError

__all__ = ["CHECKS", "GUARDS", "Check", "Finding", "check_pack", "findings_of"]


@dataclass(frozen=True)
class Finding:
    """One check that had something to look at: whether it passed, its worst value with unit, and
    where that is."""

    check: str
    passed: bool
    worst: float
    unit: str
    where: str


@dataclass(frozen=True)
class Check:
    """A check: what its worst value counts, the most that passes, and what finds values with
    places."""

    name: str
    unit: str
    most: float
    found: Callable[[Pack], Found]
    guards: bool = False
    """Whether nothing is handed out that could be cut where it fails."""


LENGTH_MM = 0.01
"""Lengths are written to 0.001 mm and coordinates to 0.001 mm: more than this is a mistake."""
CHECKS: tuple[Check, ...] = (
    Check("tables and drawings that belong together", "missing", 0.0, files.belong_together),
    Check("report against statement", "clauses", 0.0, files.clauses_as_stated),
    Check("figures against the rows they count", "", 0.5, files.figures_as_counted),
    Check("member lengths against node coordinates", "mm", LENGTH_MM, members.member_lengths),
    Check("pieces of members that run on", "mm", LENGTH_MM, pack_members.pieces_of_members),
    Check("cut lengths against set-backs", "mm", LENGTH_MM, members.cut_lengths),
    Check("planes that cut ends", "mm", 0.05, pack_cuts.cuts_as_listed),
    Check("bodies at nodes", "mm", 0.05, node_bodies.bodies_as_listed),
    Check("members have a length left between set-backs", "mm", 0.0, members.lengths_left),
    Check("members and bodies do not run into each other", "mm", 0.1, touching.clear_at_nodes),
    Check("member types against members", "mm", LENGTH_MM, members.types_of_members),
    Check("members of a type are one part", "mm", 0.1, likeness.members_of_types_alike),
    Check("masses, grades and layers of members", "%", 0.001, members.masses_and_materials),
    Check("rolls against the directions of heights", "°", 0.01, members.rolls),
    Check("nodes against their members", "", 0.05, members.nodes_as_members),
    Check("angles at nodes", "°", 0.01, members.angles_at_nodes),
    Check("labels unique and the same everywhere", "mistakes", 0.0, models.labels_everywhere),
    Check("wireframe against node coordinates", "mm", LENGTH_MM, members.wireframe_as_members),
    Check("members on stock bars", "mm", LENGTH_MM, members.bars_hold_members),
    Check("saw list against stock bars", "mm", 0.06, saw.saw_list_as_bars),
    Check("drawings name every node and member", "missing", 0.0, files.drawings_name_all),
    Check(
        "outlines closed, simple and straight, in millimetres", "outlines", 0.0, flat.outlines_sound
    ),
    Check("parts as listed", "mm", 0.05, flat.parts_as_listed),
    Check("sheets as listed", "mm", 0.05, flat.sheets_as_listed),
    Check("one material and thickness a sheet", "parts", 0.0, flat.one_kind_a_sheet),
    Check("nothing overlaps on a sheet", "mm²", 0.01, flat.nothing_overlaps),
    Check("parts keep their spacing", "mm", 0.06, flat.kept_apart),
    Check("everything on its sheet, within the margin", "mm", 0.05, flat.on_their_sheets),
    Check("pictures of sheets as their drawings", "mm", 0.01, flat.pictures_as_drawings),
    Check("every part bears its label", "parts", 0.0, flat.lettered_with_own_label),
    Check("single parts as on their sheets", "mm", 0.02, flat.single_parts_as_on_sheets),
    Check("panels against their nodes", "mm", 0.01, panels.panels_as_nodes),
    Check("angles between panels", "°", 0.02, panels.panels_meet),
    Check("types of panels", "mm", LENGTH_MM, panels.types_of_panels),
    Check("panel sides against edges in space less the joint", "mm", 0.05, panels.panel_sides),
    Check("places of parts", "thousandths", LENGTH_MM, panels.poses_as_parts),
    Check("panels put back lie between their nodes", "mm", 0.06, panels.panels_in_place),
    Check("panels cut alike", "mm", 0.02, panels.panels_cut_alike),
    Check("twists of panels", "mm or MPa/100", 0.02, panel_twists.twists_of_panels),
    Check("holes of panels", "mm", 0.06, panel_edges.holes_of_panels),
    Check("panels put back share nothing", "mm³", 1.0, proof.panels_overlap),
    Check("ribs against parts and assembly", "%", 0.01, ribs.ribs_as_parts),
    Check("pieces of bent ribs", "mm", 0.02, ribs.bends_as_listed),
    Check("ribs put together again share nothing", "mm³", 1.0, proof.ribs_overlap, guards=True),
    Check("ribs put together again meet at their slots", "mm", 0.15, ribs.ribs_apart, guards=True),
    Check("edges of ribs lie on their body", "mm", 1.0, ribs.edges_on_bodies, guards=True),
    Check("ribs go in one after the other", "mm³", 5.0, ribs.order_works),
    Check("solids of models against schedules", "mm", 0.6, models.mesh_models),
    Check("models alike", "mm", 0.05, models.models_alike),
    Check("building model against schedules", "mm", 0.1, models.building_elements),
    Check("axes of members in the building model", "mm", LENGTH_MM, axes.axes_as_listed),
    Check("solids of a material as listed", "thousandths", 0.05, bodies.bodies_as_listed),
    Check("materials against all that is made of them", "", 0.0, materials.materials_as_listed),
    Check("templates against their solids", "mm", 0.05, templates.templates_as_solids),
    Check("openings against their solids", "mm", 0.05, templates.openings_as_solids),
    Check("folded parts as drawn", "mm", 0.05, folded.folded_as_drawn),
    Check("strips and their neighbours", "", 0.0, strips.strips_as_told),
    Check("strips folded up against the model", "mm", 0.1, strips.strips_folded),
    Check("arms of node plates lie on axes", "mm", 0.02, node_plates.arms_on_axes),
    Check("node plates as listed", "mm", 0.05, node_plates.plates_as_listed),
    Check("ends of members on their plates", "mm", 0.02, end_plates.ends_on_plates),
    Check("end plates as listed", "mm", 0.05, end_plates.plates_as_listed),
    Check("templates of tubes as these are cut", "mm", 0.05, tube_ends.wraps_as_cut),
    Check("hubs as listed", "mm", 0.05, hubs.hubs_as_listed),
    Check("seats of hubs are where members begin", "mm", 0.02, hubs.seats_at_members),
    Check("hubs in STEP", "thousandths", 0.1, hubs.hubs_in_step),
    Check("holes of strips meet", "mm", 0.1, strips.holes_meet),
    Check("unrolled parts as listed", "mm", 0.05, unrolled.unrolled_as_listed),
    Check("unrolled parts in space", "mm", 0.05, unrolled.unrolled_in_space),
    Check("shapes as listed", "thousandths", 0.05, models.shapes_as_listed),
    Check("exact form of shapes", "thousandths", 2.0, models.step_as_listed),
    Check("crossings against pieces", "mm", LENGTH_MM, crossings.crossings_as_pieces),
    Check("machine files as listed", "mm", 0.02, machine.machine_as_listed),
    Check("steel pieces of machine files as cut", "mm", 0.05, machine_steel.steel_as_cut),
    Check("timber parts of machine files as cut", "mm", 0.05, machine_timber.timber_as_cut),
    Check("nets against their nodes", "", 0.0, ends.nets_as_nodes),
    Check("wireframe against nets", "mm", LENGTH_MM, ends.wireframe_as_nets),
    Check("solids of a material in STEP", "thousandths", 0.1, bodies.bodies_in_step),
    Check("curves as drawn", "thousandths", 0.5, ends.curves_as_drawn),
    Check("lines as drawn", "mm", LENGTH_MM, ends.lines_as_drawn),
    Check("forces at settled nodes sum to nothing", "% of the mean load", 1.0, ends.forces_balance),
    Check("reactions only where something holds", "%", 0.5, ends.reactions_held),
    Check("lengths of settled edges against their nodes", "mm", LENGTH_MM, ends.settled_lengths),
)
"""Checks in the order in which they are told; those with nothing to look at are not told of."""
GUARDS = tuple(c.name for c in CHECKS if c.guards)


def check_pack(folder: Path, foreign: Sequence[str] = ()) -> list[Finding]:
    """All findings on the pack in ``folder``; a file that cannot be read is a finding too. Files
    that are known to be ``foreign`` to it are passed over."""
    return list(findings_of(folder, foreign))


def findings_of(folder: Path, foreign: Sequence[str] = ()) -> Iterator[Finding]:
    """The same one after the other, each worked out when it is asked for."""
    pack = Pack(folder)
    wrong = files.differences_but(folder, foreign)
    where = "; ".join(wrong[:6]) + (" …" if len(wrong) > 6 else "")
    as_listed = Finding(
        "files as the manifest lists them", not wrong, float(len(wrong)), "files", where
    )
    try:
        if not (folder / "statement.json").is_file():
            raise PackError(f"there is no statement.json in {folder}")
        _ = pack.tables, pack.nodes, pack.sheets, pack.report
    except (PackError, OSError, KeyError, ValueError, csv.Error) as error:
        yield Finding("readable", False, 0.0, "", str(error))
        yield as_listed
        return
    yield Finding("readable", True, 0.0, "", "")
    yield as_listed
    told = {}
    for check in CHECKS:
        finding = _finding(check, pack)
        if finding is not None:
            told[finding.check] = finding.passed
            yield finding
    off = [where for value, where in files.checks_as_found(pack, told) if value]
    if off:
        yield Finding("checks as they were found", False, float(len(off)), "checks", off[0])


def _finding(check: Check, pack: Pack) -> Finding | None:
    """What a check found; ``None`` where there was nothing to look at."""
    try:
        found = list(check.found(pack))
    except PackError as error:
        return Finding(check.name, False, 0.0, check.unit, str(error))
    except Exception as error:  # whatever a file holds, the other checks go on
        where = f"what stands in the files cannot be followed ({type(error).__name__}: {error})"
        return Finding(check.name, False, 0.0, check.unit, where)
    if not found:
        return None
    # What is no number is further off than anything.
    worst, where = max(found, key=lambda f: f[0] if f[0] == f[0] else float("inf"))
    worst = float(worst)
    passed = worst <= check.most
    return Finding(check.name, passed, round(worst, 6), check.unit, where if worst else "")
