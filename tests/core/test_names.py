"""Names and types of structures and panels."""

from __future__ import annotations

from dataclasses import replace

import numpy as np

from leanlattice.core.panels.names import names_of_panels
from leanlattice.core.panels.panels import panel_net
from leanlattice.core.patterns.lay import lay
from leanlattice.core.sections import find
from leanlattice.core.structure.builders.from_net import from_net
from leanlattice.core.structure.meetings import Meeting
from leanlattice.core.structure.names import names_of_structure

TUBE, EDGE = find("CHS 88.9 × 4"), find("CHS 139.7 × 5")


def test_names_follow_position(surface):
    net = lay(surface, "diagrid", (8, 7))
    structure = from_net(net, TUBE, EDGE, "top", 0.0, Meeting(gap=0.01))
    named = names_of_structure(structure)
    panels = names_of_panels(panel_net(net, 0.003, "glass", 0.012, 0.02))
    for labels in (named.every_node, named.every_member, panels.every_panel):
        assert len(set(labels)) == len(labels)
    assert named.members(np.array([3])) == named.every_member[3:4]
    assert sorted(named.node) == list(range(1, len(net.vertices) + 1))
    assert {label[0] for label in named.every_member} == {"M", "E"}
    # Rows follow each other along: the numbers rise with the distance along, but for the order within a row.
    sizes = np.array(net.surface.lengths)
    along = (net.uv * sizes)[:, int(sizes[1] >= sizes[0])]
    order = along[np.argsort(named.node)]
    assert (np.diff(order) > -0.21 * np.median(net.edge_lengths)).all()
    for t in np.unique(named.member_type):
        same = named.member_type == t
        assert np.ptp(structure.cut_lengths[same]) <= 0.001
        assert len(set(structure.section_of[same])) == 1


def test_a_series_stands_before_every_name_and_types_are_as_wide_as_the_tolerance(surface):
    net = lay(surface, "quads", (6, 5))
    plain = from_net(net, TUBE, EDGE, "centre", 0.0, Meeting(gap=0.01))
    named = names_of_structure(replace(plain, series="C", tolerance=10.0))
    assert {label[:2] for label in named.every_member} == {"CM", "CE"}
    assert {label[:2] for label in named.every_node} == {"CN"}
    assert [label[1:] for label in named.every_member] == names_of_structure(plain).every_member
    # Within ten metres all of one section are of one type.
    assert sorted(set(named.types(named.member_type))) == ["CT1", "CT2"]
    panels = panel_net(net, 0.003, "glass", 0.012, 0.02)
    wide = names_of_panels(replace(panels, series="C", tolerance=10.0))
    assert {label[:2] for label in wide.every_panel} == {"CP"}
    # Triangles and quads are of different types however wide it is.
    shapes = len(np.unique(np.diff(panels.offsets)))
    assert set(wide.types(np.arange(panels.count))) == {f"CQ{k + 1}" for k in range(shapes)}
