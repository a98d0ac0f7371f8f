"""Machine files: members as pieces that a saw, a drill line or a joinery machine can take over."""

from __future__ import annotations

from pathlib import Path

import numpy as np

from ..core.working.faces import worked_faces
from ..core.working.machined import Standard
from .btlx import Cut, Hole, Pocket, TimberPart, write_btlx
from .dstv import SteelPiece, write_nc
from .kinds.machine import Told

__all__ = ["write_machine_files"]

MM = 1000.0


def write_machine_files(folder: Path, project: str, told: Told) -> None:
    """Writes the files of one structure's members into a ``folder``."""
    steel, timber = (told.work.told(s) for s in (Standard.NC, Standard.BTLX))
    if len(steel) or len(timber):
        folder.mkdir(exist_ok=True)
    for piece in steel.tolist():
        write_nc(folder / told.file(piece), _steel_piece(project, told, piece))
    if len(timber):
        parts = [_timber_part(told, piece) for piece in timber.tolist()]
        write_btlx(folder / told.btlx, project, parts)


def _members(told: Told, piece: int) -> list[str]:
    """Labels of the members that are a piece, the one first that its file is of."""
    members = told.work.pieces.members(piece)
    lead = told.work.pieces.member[piece]
    return told.names.members(np.concatenate([[lead], members[members != lead]]))


def _bent(told: Told, member: int) -> str:
    """That a member is bent once it is cut; nothing of what stays straight."""
    radius = float(told.work.blanks.bend_radii[member])
    return "" if np.isnan(radius) else f"cut straight, then bent to radii from {radius:.3f} m"


def _steel_piece(project: str, told: Told, piece: int) -> SteelPiece:
    structure, member = told.structure, int(told.work.pieces.member[piece])
    bent = _bent(told, member)
    return SteelPiece(
        project=project,
        label=told.label(piece),
        members=_members(told, piece),
        section=structure.sections[structure.section_of[member]],
        length=float(told.work.blanks.lengths[member]) * MM,
        faces=worked_faces(structure, member, told.work.slots),
        notes=[bent] if bent else [],
    )


def _timber_part(told: Told, piece: int) -> TimberPart:
    structure, blanks = told.structure, told.work.blanks
    member = int(told.work.pieces.member[piece])
    section = structure.sections[structure.section_of[member]]
    length = float(blanks.lengths[member])
    rows = np.arange(*np.searchsorted(structure.cuts.end, [2 * member, 2 * member + 2]))
    planes, ends = blanks.planes[rows], structure.cuts.end[rows] % 2
    return TimberPart(
        label=told.label(piece),
        members=_members(told, piece),
        material=section.material.name,
        mass=float(structure.masses[member]),
        size=np.array([length, section.shape.height, section.shape.width]),
        origin=blanks.origins[member],
        frame=blanks.frames[member, 0],
        cuts=[Cut(int(e), p[:3], float(p[3])) for e, p in zip(ends, planes, strict=True)],
        pockets=[*_notched(told, member), *_slotted(told, member, length)],
        holes=_drilled(told, member, length),
        note=_bent(told, member),
    )


def _notched(told: Told, member: int) -> list[Pocket]:
    notches, names = told.work.notches, told.names
    rows = told.work.notches_in(member)
    others = names.members(notches.other[rows])
    return [
        Pocket(f"notch for {other}", notches.corners[k], notches.normal[k], float(notches.depth[k]))
        for k, other in zip(rows.tolist(), others, strict=True)
    ]


def _slotted(told: Told, member: int, length: float) -> list[Pocket]:
    """Slots from the ends on, as far as arms enter."""
    slots, out = told.work.slots, []
    for end in (0, 1):
        row = slots.of_end(member, end)
        if row < 0 or not slots.is_cut[row]:
            continue
        normal = np.array([1.0 if end else -1.0, 0.0, 0.0])
        floor = length - slots.depth if end else slots.depth
        ring = slots.outline(row)
        ring = ring if end else ring[::-1]
        corners = np.column_stack([np.full(4, floor), ring])
        out.append(Pocket("slot", corners, normal, slots.depth))
    return out


def _drilled(told: Told, member: int, length: float) -> list[Hole]:
    """Holes of the bolts through arms."""
    slots, out = told.work.slots, []
    for end in (0, 1):
        row = slots.of_end(member, end)
        if row < 0 or not slots.hole:
            continue
        for station in (length - slots.stations if end else slots.stations).tolist():
            way = np.array([0.0, *slots.normal[row]])
            out.append(Hole(np.array([station, 0.0, 0.0]), way, slots.hole))
    return out
