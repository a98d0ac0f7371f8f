"""Structures: how they are drawn, named and written."""

from __future__ import annotations

from collections.abc import Iterator
from typing import Any

import numpy as np
from numpy.typing import NDArray

from ...core.materials import Material
from ...core.structure.axes import set_out_lines
from ...core.structure.bodies import body_axes, body_outlines, body_solids
from ...core.structure.cuts import ALONG, ASIDE, LEVEL, NORMAL, RADIUS
from ...core.structure.groups import groups_of
from ...core.structure.meetings import MEETINGS
from ...core.structure.names import names_of_structure
from ...core.structure.pieces import Pieces, pieces_of
from ...core.structure.roles import ROLE_NAMES, ROLES, role_layers, role_number
from ...core.structure.structure import LEVEL as SAME_LIFT
from ...core.structure.structure import Structure
from ..subjects import Subject
from .kind import Arrays, Drawing, Kind, Layer, Lines, Measure, NotMade, Picture, Solid, narrow
from .structure_building import build_structure, solids_of_members
from .structure_tables import SCHEDULES

__all__ = ["KIND"]

Index = NDArray[np.int64]
NO_PLANE = -128
"""In the place of a normal, which is of bytes from −127 to 127."""
ROUND_SEGMENTS, OF_SADDLES = 8, 20
"""Sides of a round section as the view draws it, and where some ends fit other tubes."""


def _octahedral(normals: np.ndarray) -> np.ndarray:
    """Unit vectors (n, 3) as two signed bytes (n, 2), to about half a degree (Meyer et al.,
    2010)."""
    n = normals / np.abs(normals).sum(axis=1, keepdims=True)
    folded = (1 - np.abs(n[:, [1, 0]])) * np.where(n[:, :2] >= 0, 1.0, -1.0)
    return np.asarray(np.round(np.where(n[:, 2:] < 0, folded, n[:, :2]) * 127), np.int8)


def _even_lifts(structure: Structure) -> NDArray[np.float64] | None:
    """How far the axes of each section's members lie above their nodes along their heights; nothing
    where that is not all there is to say of them."""
    if not structure.is_lifted.all():
        return None
    section = structure.section_of[structure.member_of_entry]
    lifts = np.zeros(len(structure.sections))
    lifts[section] = structure.lift
    return lifts if np.abs(structure.lift - lifts[section]).max(initial=0.0) < SAME_LIFT else None


def _cut_normals(structure: Structure, pieces: Pieces) -> Arrays:
    """Normals (K, 2, 2, 2), as two signed bytes each, of the planes that cut the ends of pieces; of
    one plane twice, and ``NO_PLANE`` where there is none. Nothing where no end is cut."""
    if not structure.cuts.count:
        return {}
    normals, _ = structure.cuts.of_ends(2 * structure.count)
    none = np.asarray(~normals.any(axis=2))
    normals[none[:, 1], 1] = normals[none[:, 1], 0]
    short = np.full((2 * structure.count, 2, 2), NO_PLANE, np.int8)
    cut = ~none[:, 0]
    short[cut] = _octahedral(normals[cut].reshape(-1, 3)).reshape(-1, 2, 2)
    out = np.full((len(pieces.member), 2, 2, 2), NO_PLANE, np.int8)
    first, last = _pieces_left(structure, pieces)
    out[first, 0], out[last, 1] = short[::2], short[1::2]
    return {"cutNormals": out} | _saddles(structure, pieces, first, last)


def _saddles(structure: Structure, pieces: Pieces, first: Index, last: Index) -> Arrays:
    """Of the two cuts at both ends of pieces (K, 2, 2, 5): the radius of the tube that they fit,
    how far aside the piece passes, and what a metre of its width and of its height adds to that,
    all divided by how much of the cut's normal lies along the piece; 0 of planes. Last, how far
    before the place where the axis is cut the plane at the tube's side meets that, in metres.
    Nothing where no end fits a tube."""
    if not structure.cuts.is_saddle.any():
        return {}
    rows = structure.cuts.rows_of_ends(2 * structure.count)
    alone = ~rows[:, 1].any(axis=1)
    rows[alone, 1] = rows[alone, 0]
    away, up = (frame.reshape(-1, 3)[:, None] for frame in structure.end_frames)
    normal = rows[..., NORMAL]
    aside = np.cross(rows[..., ALONG], normal)
    # Seen along the piece, not from its end.
    wide = np.cross(up, away) * np.tile([1.0, -1.0], structure.count)[:, None, None]
    told = np.stack(
        [rows[..., RADIUS], -rows[..., ASIDE], (aside * wide).sum(-1), (aside * up).sum(-1)], -1
    )
    into = np.abs((normal * away).sum(-1))
    into[into == 0] = 1.0
    back = structure.axis_back.reshape(-1, 1)
    told = np.concatenate([told, (-rows[..., LEVEL] - into * back)[..., None]], -1)
    told /= into[..., None]
    out = np.zeros((len(pieces.member), 2, 2, 5), "<f4")
    out[first, 0], out[last, 1] = told[::2], told[1::2]
    return {"saddles": out}


def _pieces_left(structure: Structure, pieces: Pieces) -> tuple[Index, Index]:
    """Of each member the first and the last piece (M,), (M,) of which its cuts leave something;
    those at its ends where they leave nothing."""
    at = pieces.places[pieces.ends]
    lengths = np.linalg.norm(at[:, 1] - at[:, 0], axis=1)
    is_left = pieces.set_back.sum(axis=1) < lengths - 1e-9
    every = np.arange(structure.count)
    ends = [np.searchsorted(pieces.member, every)]
    ends.append(np.searchsorted(pieces.member, every, "right") - 1)
    rows = np.flatnonzero(is_left)
    owner = pieces.member[rows]
    out = [np.searchsorted(owner, every), np.searchsorted(owner, every, "right") - 1]
    some = np.bincount(owner, minlength=structure.count) > 0
    padded = np.append(rows, 0)
    first, last = (np.where(some, padded[o], e) for o, e in zip(out, ends, strict=True))
    return first, last


def _swells(structure: Structure, pieces: Pieces) -> Arrays:
    """The section's scale (K, 2) at the ends of pieces; nothing where all are even."""
    if not structure.is_uneven.any():
        return {}
    return {"scales": pieces.scale[pieces.ends].astype("<f4")}


def _bodies(structure: Structure) -> tuple[dict[str, Any], Arrays]:
    """Bodies at nodes: round ones by their middles and sizes, plates by the outlines of their
    middles; nothing where there are none."""
    nodes = np.flatnonzero(structure.radius > 0)
    if not len(nodes):
        return {}, {}
    form = MEETINGS[structure.meeting[nodes[0]]]
    sizes = np.column_stack([structure.radius[nodes], structure.height[nodes]])
    arrays = {
        "bodyNodes": narrow(nodes),
        "bodyPlaces": structure.body_middles[nodes].astype("<f4"),
        "bodySizes": sizes.astype("<f4"),
        "bodyAxes": _octahedral(structure.normals[nodes]),
    }
    if form == "plate":
        rings = body_outlines(structure, nodes)
        counts = [len(rings[node]) for node in nodes.tolist()]
        placed = [rings[node] @ body_axes(structure.normals[node])[:2] for node in nodes.tolist()]
        arrays |= {
            "bodyOutlines": np.vstack(placed).astype("<f4"),
            "bodyCorners": np.array(counts, "u1"),
        }
    return {"bodies": form}, arrays


def _drawn(structure: Structure) -> Drawing:
    """Straight pieces between nodes that are lifted by section, or between places of axes and with
    their members, where that does not say it."""
    lifts = _even_lifts(structure)
    is_edge = structure.role == role_number("edge")
    segments = OF_SADDLES if structure.cuts.is_saddle.any() else ROUND_SEGMENTS
    sections = [
        {
            "name": section.name,
            "round": section.shape.round,
            "look": _look(section.material),
            "finish": section.material.finish,
            "outlines": [
                np.round(outer, 5).tolist() for outer, _ in section.shape.pieces(segments)
            ],
            "lift": 0.0 if lifts is None else float(lifts[k]),
            "edge": bool(is_edge[structure.section_of == k].all()),
        }
        for k, section in enumerate(structure.sections)
    ]
    pieces = pieces_of(structure)
    ends, axis = structure.ends, {}
    if lifts is None:
        ends = pieces.ends
        axis = {"axis": pieces.places.astype("<f4"), "member": narrow(pieces.member)}
    told, bodies = _bodies(structure)
    names = [section["name"] for section in sections]
    groups = groups_of(structure)[0]
    told |= {"words": {"roles": _roles(structure), "groups": groups, "sections": names}}
    return {"sections": sections} | told, {
        "positions": structure.places.astype("<f4"),
        "pieces": narrow(ends),
        "setBacks": np.round(np.minimum(pieces.set_back, 6.5) * 1e4).astype("<u2"),
        "ups": _octahedral(structure.up[pieces.segment]),
        # Of one or two sections a bit tells which.
        "sectionOf": np.packbits(structure.section_of.astype(bool), bitorder="little")
        if len(structure.sections) < 3
        else structure.section_of.astype("u1"),
    } | axis | _cut_normals(structure, pieces) | _swells(structure, pieces) | bodies


def _roles(structure: Structure) -> list[str]:
    """What members are, of what there is in a structure."""
    return [ROLES[ROLE_NAMES[k]].plural for k in np.unique(structure.role).tolist()]


def _measured(structure: Structure) -> Arrays:
    return {
        "memberRole": narrow(np.unique(structure.role, return_inverse=True)[1].ravel()),
        "memberGroup": narrow(groups_of(structure)[1]),
        "section": narrow(structure.section_of),
        "length": structure.lengths,
        "cutLength": structure.cut_lengths,
        "mass": structure.masses,
    }


def _look(material: Material) -> tuple[int, int, int] | None:
    """The colour of what is not of steel, which is drawn in the view's own."""
    return None if material.family == "steel" else material.look


def _picture(structure: Structure) -> Picture:
    """In the colour of the section most of it is of."""
    metres = np.bincount(structure.section_of, structure.lengths, len(structure.sections))
    look = _look(structure.sections[int(np.argmax(metres))].material) if metres.size else None
    lines = list(set_out_lines(structure)[0])
    if look is None:
        return Picture(structure.places, None, lines)
    return Picture(structure.places, None, lines, look)


def _named(structure: Structure) -> Drawing:
    names = names_of_structure(structure)
    numbers = {"node": names.node, "member": names.member}
    arrays = {name: narrow(values) for name, values in numbers.items()}
    arrays["role"] = structure.role.astype("u1")
    return {"prefixes": names.prefixes, "memberPrefixes": names.member_prefixes}, arrays


def _solids(subject: Subject) -> Iterator[Solid]:
    names = subject.once(names_of_structure)
    labels = names.every_member
    for m, vertices, faces in subject.once(solids_of_members):
        yield Solid(labels[m], "member", vertices, faces)
    labels = names.every_node
    for n, vertices, faces in body_solids(subject.result):
        yield Solid(labels[n], "node", vertices, faces)


def _lines(subject: Subject) -> Lines:
    """Set-out lines of members, node to node."""
    structure: Structure = subject.result
    ends, member = set_out_lines(structure)
    return Lines(ends, role_layers()[structure.role[member]])


def _not_made(subject: Subject) -> Iterator[NotMade]:
    """Members on no bar or without a length."""
    structure: Structure = subject.result
    lengths, names = structure.cut_lengths, subject.once(names_of_structure)
    for label in names.members(np.flatnonzero(structure.mean_lengths <= 0)):
        yield NotMade("member", label, "no length left between its set-backs")
    plan = subject.bars
    if plan is not None:
        for label in names.members(np.flatnonzero((plan.bar < 0) & (lengths > plan.longest))):
            yield NotMade("member", label, f"longer than a bar of {plan.longest:g} m")
    if subject.has_outdated_bars:
        yield NotMade("bars", f"{structure.series}B", "planned before their members were changed")


KIND = Kind(
    "Structure",
    layers=(
        Layer("members", "Members", "member", shown=True),
        Layer("nodes", "Nodes", "node"),
        Layer("bodies", "Bodies at nodes", "node", shown=True),
        Layer("labels", "Labels"),
    ),
    drawn=_drawn,
    measures=(
        Measure(
            "length", "member length", "m", "members", "member", note="along the axis", total=True
        ),
        Measure("mass", "member mass", "kg", "members", "member", digits=1, total=True),
        Measure(
            "memberRole", "role of members", "", "members", "member", spread=False, words="roles"
        ),
        Measure(
            "memberGroup", "group of members", "", "members", "member", spread=False, words="groups"
        ),
        Measure(
            "section",
            "section of members",
            "",
            "members",
            "member",
            spread=False,
            words="sections",
        ),
    ),
    measured=_measured,
    picture=_picture,
    named=_named,
    schedules=SCHEDULES,
    solids=_solids,
    lines=_lines,
    building=build_structure,
    not_made=_not_made,
    card={"members": "members", "mass": "mass"},
)
