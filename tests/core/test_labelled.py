"""Names and types of all that a structure has."""

from __future__ import annotations

import numpy as np

from leanlattice.core.naming.labelled import name_all
from leanlattice.core.panels.panels import panel_net
from leanlattice.core.patterns.lay import lay
from leanlattice.core.sections import find
from leanlattice.core.structure.builders.from_net import from_net
from leanlattice.core.structure.meetings import Meeting

TUBE, EDGE = find("CHS 88.9 × 4"), find("CHS 139.7 × 5")


def test_names_follow_position(surface):
    net = lay(surface, "diagrid", (8, 7))
    structure = from_net(net, TUBE, EDGE, "top", 0.0, Meeting(gap=0.01))
    named = name_all(structure, panel_net(net, 0.003, "glass", 0.012, 0.02), "", 0.001)
    for labels in (named.node_labels, named.member_labels, named.panel_labels):
        assert len(set(labels)) == len(labels)
    assert sorted(named.node) == list(range(1, len(net.vertices) + 1))
    assert {label[0] for label in named.member_labels} == {"M", "E"}
    # Rows follow each other along: the numbers rise with the distance along, but for the order within a row.
    sizes = np.array(net.surface.lengths)
    along = (net.uv * sizes)[:, int(sizes[1] >= sizes[0])]
    order = along[np.argsort(named.node)]
    assert (np.diff(order) > -0.21 * np.median(net.edge_lengths)).all()
    for t in np.unique(named.member_type):
        same = named.member_type == t
        assert np.ptp(structure.cut_lengths[same]) <= 0.001
        assert len(set(structure.section_of[same])) == 1
