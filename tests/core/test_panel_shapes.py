"""Panels that are cut alike: the mean of their shapes, laid over each of them."""

from __future__ import annotations

from dataclasses import replace

import numpy as np
from hypothesis import given
from hypothesis import strategies as st

from leanlattice.core.panels.names import names_of_panels
from leanlattice.core.panels.outlines import outlines_of_panels
from leanlattice.core.panels.panels import panel_net
from leanlattice.core.panels.shapes import cut_alike, shape_types
from leanlattice.core.patterns.lay import lay

from ..conftest import roof
from ..known import held_to, known


def panels_of(pattern="triangles", bays=(7, 5), within=0.05, stress=0.0):
    net = lay(roof(), pattern, bays)
    made = panel_net(net, 0.01, "aluminium", 0.004, 0.02, stress=stress)
    return replace(made, tolerance=within, alike=True)


def own_flat(panels):
    """Corners (C, 2) of panels as they are before any is cut as others."""
    return np.vstack(outlines_of_panels(replace(panels, alike=False, joint=0.0)).sharp)


def each(panels, corners):
    return [corners[a:b] for a, b in zip(panels.offsets[:-1], panels.offsets[1:], strict=True)]


def lengths(corners):
    """Distances of all corners from all others."""
    return np.linalg.norm(corners[:, None] - corners, axis=2)


@known("right triangles whose legs differ by d, cut alike", "legs half-way between theirs")
def test_two_that_differ_in_their_legs_are_cut_half_way_between():
    d = 0.004
    flat = np.array([[0, 0], [1, 0], [0, 1 - d], [5, 5], [5, 6 + d], [4, 5]])
    places = np.column_stack([flat, np.zeros(6)])
    panels = replace(
        panels_of(within=0.02),
        places=places,
        corners=np.arange(6, dtype=np.int32),
        offsets=np.array([0, 3, 6], np.int32),
        sheet_of=np.zeros(2, np.int32),
    )
    cut = cut_alike(panels, flat)
    one, two = each(panels, cut)
    legs = [np.sort(lengths(shape)[np.triu_indices(3, 1)]) for shape in (one, two)]
    held_to(legs[0] - legs[1], 1e-12)
    held_to(legs[0][:2] - [1 - d / 2, 1 + d / 2], 1e-4 * d)
    off = np.linalg.norm(cut - flat, axis=1)
    assert d / 4 < off.max() < d / 2, "each takes its share"


@given(
    pattern=st.sampled_from(["triangles", "quads", "hexagons"]),
    within=st.floats(0.001, 0.3),
    across=st.integers(2, 7),
)
def test_any_of_one_type_are_congruent_and_near_their_corners(pattern, within, across):
    panels = panels_of(pattern, (across, 4), within)
    flat = own_flat(panels)
    types, cut = shape_types(panels), each(panels, cut_alike(panels, flat))
    for kind in np.unique(types).tolist():
        rows = np.flatnonzero(types == kind)
        lead = np.sort(lengths(cut[rows[0]]).ravel())
        for k in rows.tolist():
            held_to(np.sort(lengths(cut[k]).ravel()) - lead, 1e-6)
    owner = np.repeat(np.arange(panels.count), np.diff(panels.offsets))
    off = np.linalg.norm(np.vstack(cut) - flat, axis=1) / 1000
    counts = np.diff(panels.offsets)[owner]
    # Sides and every other corner's distances agree within the tolerance; corners add these up.
    assert (off <= 2 * counts * panels.tolerance + 1e-9).all()
    alone = np.bincount(types)[types[owner]] == 1
    held_to(off[alone], 1e-12)


def test_what_is_twisted_is_cut_to_its_own_corners():
    panels = panels_of("quads", (6, 4), within=0.3, stress=400e6)
    assert panels.bent.any()
    cut = outlines_of_panels(panels)
    assert not cut.off[panels.bent].any()
    types = names_of_panels(panels).panel_type
    assert not set(types[panels.bent]) & set(types[~panels.bent])


def test_types_are_as_they_were_where_each_is_cut_to_its_own():
    panels = replace(panels_of(within=0.05), alike=False)
    assert not outlines_of_panels(panels).off.any()
    assert (names_of_panels(panels).panel_type == shape_types(panels) + 1).all()
