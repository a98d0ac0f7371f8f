"""Templates of faces of solids."""

from __future__ import annotations

import numpy as np
import pytest
import shapely

from leanlattice.core.flat.templates import Faces, templates_of
from leanlattice.core.geometry.meshes import Body, mesh_of_triangles
from leanlattice.core.geometry.prisms import prism
from leanlattice.core.solids.deepened import Depth, Opening, deepened
from leanlattice.core.solids.solids import solids_of

from ..known import known
from .nets import one_cell

CREASE = np.radians(30)


def prisms(*outlines, height=1.0):
    bodies = []
    for outline in outlines:
        places = np.column_stack([outline, np.zeros(len(outline))])
        vertices, triangles = prism(places, np.array([0, 0, 1.0]), height)
        bodies.append(Body(mesh_of_triangles(vertices, triangles)))
    return solids_of(bodies, "limestone")


def drawn(solids, wanted="every", each=False):
    return templates_of(Faces(solids, CREASE), wanted, each, "plywood", 0.004)


TRAPEZIUM = np.array([[0, 0], [3, 0], [2, 1], [0, 1]], float)


@known("a prism over a trapezium", "its six faces, 45°, 90° and 135°")
def test_faces_of_a_prism_are_drawn_once_a_type():
    templates, lost = drawn(prisms(TRAPEZIUM, TRAPEZIUM + [5, 0], TRAPEZIUM[:3] + [9, 9]))
    assert not len(lost)
    assert sorted(templates.pieces.tolist()) == [1] * 5 + [2] * 6
    of_first = [k for k, body in enumerate(templates.body) if body == 0]
    area = sum(templates.parts[k].area for k in of_first) / 1e6
    assert area == pytest.approx(2 * 2.5 + 3 + 1 + 2 + np.sqrt(2))
    is_top = [templates.parts[k].pose[2, 3] > 0.9 for k in of_first]
    is_whole = [templates.parts[k].area == pytest.approx(2.5e6) for k in of_first]
    (top,) = np.array(of_first)[np.array(is_top) & is_whole]
    assert [np.degrees(s.angle) for s in templates.sides[top]] == pytest.approx([90] * 4)
    angles = {round(np.degrees(s.angle)) for k in of_first for s in templates.sides[k]}
    assert angles == {45, 90, 135}


def test_outer_inner_and_faces_around_are_all_there_are():
    solids = prisms(TRAPEZIUM)
    counts = [drawn(solids, wanted)[0].count for wanted in ("outer", "inner", "around", "every")]
    assert counts == [1, 1, 4, 6]
    assert drawn(prisms(TRAPEZIUM, TRAPEZIUM + [5, 0]), "outer", each=True)[0].count == 2


@pytest.mark.parametrize("sides", [3, 5, 8, 48])
def test_templates_folded_together_have_the_skin_of_their_solid(sides):
    angle = 2 * np.pi * np.arange(sides) / sides
    solids = prisms(2 * np.column_stack([np.cos(angle), np.sin(angle)]), height=3.0)
    templates, lost = drawn(solids)
    # Of 48 sides those around are one face, which is opened.
    assert templates.count == (3 if sides == 48 else sides + 2)
    assert not len(lost)
    area = sum(part.area for part in templates.parts) / 1e6
    assert area == pytest.approx(solids.areas[0])
    for part in templates.parts:
        assert shapely.is_valid(part.shape)
        if sides < 48:
            inside = shapely.Polygon(part.outer).buffer(0.01)
            assert all(shapely.LineString(line).within(inside) for line in part.marks)


def test_sides_begin_with_the_outline_and_name_faces_as_these_name_them():
    templates, _ = drawn(prisms(TRAPEZIUM))
    named = {part.label: k for k, part in enumerate(templates.parts)}
    for part, sides in zip(templates.parts, templates.sides, strict=True):
        assert len(sides) == len(part.outer)
        places = part.places(part.outer)
        for k, side in enumerate(sides):
            other = templates.parts[named[f"J1-{side.beyond}"]]
            shared = np.stack([places[k], places[(k + 1) % len(places)]])
            corners = other.places(other.outer)
            away = np.linalg.norm(corners[:, None] - shared, axis=2).min(axis=0)
            assert away.max() < 1e-9, (part.label, k)


LONG = [
    [-0.053, -1.7274, -1.4373], [0.7991, 0.1683, -0.0871], [0.1463, 1.1159, 0.8962],
    [-0.8924, 0.4433, 0.6282],
]  # fmt: skip
SIX = [
    [-0.8828, -0.1384, 0.3508], [0.0238, -0.6586, -0.3741], [0.3998, -0.7856, -0.6252],
    [0.7154, -0.103, -0.4024], [0.2037, 0.6285, 0.247], [-0.4599, 1.0571, 0.8038],
]  # fmt: skip


@pytest.mark.parametrize("stays", [0.3, 0.4, 0.42, 0.6])
@pytest.mark.parametrize("cell", [LONG, SIX])
def test_rings_that_are_almost_plane_are_hardly_stretched(cell, stays):
    """Fans of thin triangles at rounded corners pulled what was laid flat out of shape."""
    opening = Opening(np.array([stays]), 0.1)
    rings = deepened(one_cell(cell), Depth(0.0, -0.32), "GL24h", opening).solids
    templates, lost = drawn(rings, "outer")
    assert not len(lost)
    assert templates.count == 1
    assert templates.off[0] < 5e-4
    assert templates.stretch[0] < 1e-6
