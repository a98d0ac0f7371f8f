"""Groups of members: what a clause made of one role and kind."""

from __future__ import annotations

import numpy as np

from leanlattice.core.structure.appended import appended
from leanlattice.core.structure.groups import groups_of, in_group
from leanlattice.core.structure.roles import role_number

from . import structures
from .test_double_layer import doubled, sheet


def test_layers_of_a_double_grid_are_groups_of_their_own():
    made = doubled(sheet(3, 2), "cells")
    names, which = groups_of(made)
    assert names == ["chords 1", "chords 2", "webs"]
    assert (which == made.group).all()
    second = in_group(made, role_number("chord"), 2)
    assert (second == (made.group == 1)).all()
    assert not in_group(made, role_number("chord"), 3).any()
    assert not in_group(made, role_number("tie"), 1).any()


def test_what_two_clauses_made_is_told_by_their_order():
    bay, more = structures.double_layer(2, 2, 1.0, 0.7), structures.truss()
    both = appended(bay, more)
    names, which = groups_of(both)
    assert names == ["chords of step 1", "webs of step 1", "chords of step 2", "webs of step 2"]
    assert np.bincount(which).sum() == both.count
    assert (which[: bay.count] < 2).all()
    assert (which[bay.count :] >= 2).all()


def test_very_many_kinds_are_one_group():
    lines = [{"path": [0, 1], "role": "arch", "group": k} for k in range(40)]
    names, which = groups_of(structures.structure([(0, 0, 0), (1, 0, 0)], lines))
    assert names == ["arches"]
    assert not which.any()
