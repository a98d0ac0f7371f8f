"""Templates of openings in solids."""

from __future__ import annotations

import numpy as np
import pytest
from hypothesis import given, settings
from hypothesis import strategies as st

from leanlattice.core.flat.openings import opening_templates
from leanlattice.core.geometry.nets import build_net
from leanlattice.core.geometry.surfaces import dome
from leanlattice.core.panels.panels import Sheet
from leanlattice.core.patterns.lay import lay
from leanlattice.core.solids.deepened import Depth, Opening, deepened

from ..known import approx, known
from .nets import SHEET

PLY = Sheet("plywood", 0.012)
IN = Depth(0.0, -0.2)
ODD = np.array([[0, 0], [2, 0], [1.6, 1], [0.1, 1.3]])
"""A cell that is like no mirror image of itself."""


def pierced(net, share, radius=0.0, as_one=True, depth=IN):
    opening = Opening(np.full(net.cell_count, 1 - share), radius, 5 if radius else 1)
    return deepened(net, depth, "concrete", opening, as_one=as_one).solids


def scattered(*cells):
    """A net of cells (4, 3) that do not touch."""
    corners = np.arange(4 * len(cells), dtype=np.int32)
    offsets = np.arange(0, 4 * len(cells) + 1, 4, dtype=np.int32)
    return build_net(SHEET, np.vstack(cells), np.zeros((len(corners), 2)), corners, offsets)


def placed(flat, turn, tilt, shift):
    """Places in plan, tilted, turned and moved."""
    places = np.column_stack([flat, np.zeros(len(flat))])
    c, s = np.cos(tilt), np.sin(tilt)
    places = places @ np.array([[1, 0, 0], [0, c, -s], [0, s, c]]).T
    c, s = np.cos(turn), np.sin(turn)
    return places @ np.array([[c, -s, 0], [s, c, 0], [0, 0, 1]]).T + shift


@known("cells of 1 m² of a level net, half open", "one template of ¼ m² for all")
@pytest.mark.parametrize("as_one", [False, True])
def test_openings_that_are_alike_have_one_template(as_one):
    templates = opening_templates(
        pierced(lay(SHEET, "quads", (4, 3)), 0.5, as_one=as_one), PLY, 1e-3
    )
    assert templates.count == 1
    assert templates.pieces.tolist() == [12]
    assert templates.parts[0].area == approx(0.25e6)
    assert templates.openings.off.max() < 1e-12
    assert len(set(templates.openings.body.tolist())) == (1 if as_one else 12)


@settings(max_examples=15)
@given(st.floats(0.3, 0.9), st.floats(0.0, 0.2), st.booleans())
def test_templates_lie_in_the_openings_they_are_for(share, radius, as_one):
    net = lay(dome(10, 3, np.zeros(3)), "hexagons", (9, 4))
    solids = pierced(net, share, radius, as_one)
    templates = opening_templates(solids, PLY, 1e-6)
    openings = templates.openings
    assert templates.pieces.sum() == len(openings.template) == net.cell_count
    middles = set()
    for template, pose, body in zip(openings.template, openings.poses, openings.body, strict=True):
        outer = templates.parts[template].outer
        own = solids.vertices[solids.owner_of_vertex == body]
        corners = pose[:3, 3] + outer @ pose[:3, :2].T
        away = np.linalg.norm(own[:, None] - corners, axis=2).min(axis=0)
        assert away.max() < 1e-5
        assert np.linalg.det(pose[:3, :3] * 1000) == approx(1.0)
        after = np.roll(outer, -1, axis=0)
        assert (outer[:, 0] * after[:, 1] - outer[:, 1] * after[:, 0]).sum() > 0
        middles.add(tuple(np.round(corners.mean(axis=0), 6)))
    assert len(middles) == net.cell_count


def test_turned_and_moved_openings_are_alike_and_mirror_images_are_not():
    mirrored = (ODD * [-1, 1])[::-1]
    net = scattered(
        placed(ODD, 0.0, 0.0, [0, 0, 0]),
        placed(mirrored, 0.4, 0.1, [9, 0, 1]),
        placed(np.roll(ODD, 2, axis=0), 2.0, 0.9, [0, 9, 5]),
    )
    templates = opening_templates(pierced(net, 0.6, 0.05), PLY, 1e-4)
    assert templates.openings.template.tolist() == [0, 0, 1]
    assert templates.pieces.tolist() == [2, 1]
    assert templates.openings.off.max() < 1e-9
    assert [part.label for part in templates.parts] == ["K1-V1", "K1-V2"]
    assert not templates.unlabelled.size


def test_openings_within_the_tolerance_say_how_far_they_are_off():
    wider = ODD * [1.003, 1]
    net = scattered(placed(ODD, 0, 0, [0, 0, 0]), placed(wider, 1, 0, [9, 0, 0]))
    apart = opening_templates(pierced(net, 0.5), PLY, 1e-4)
    assert apart.count == 2
    together = opening_templates(pierced(net, 0.5), PLY, 0.01)
    assert together.pieces.tolist() == [2]
    assert together.off.tolist() == approx([0.0])
    # Half of a length of 2 × 0.5 m that is 3 ‰ more, shared by both ends.
    assert 0.0005 < together.openings.off[1] < 0.003


def test_solids_without_openings_have_no_templates():
    whole = deepened(lay(SHEET, "quads", (4, 3)), IN, "concrete").solids
    assert whole.openings is None
    assert opening_templates(whole, PLY, 1e-3).count == 0
