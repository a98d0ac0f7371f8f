"""Members of structures: their roll and what stays free between them at nodes."""

from __future__ import annotations

import itertools

import manifold3d
import numpy as np
import pytest

from leanlattice.core.structure.solids import member_solids


def structure_of(outcomes, name):
    return next(o.result for o in outcomes(name).values() if o.kind == "frame")


@pytest.mark.parametrize(
    ("name", "least"), [("roll_at_arris_foam", 140), ("roll_at_arris_diagrid", 200)]
)
def test_members_in_a_face_of_a_box_do_not_roll_off_it(outcomes, name, least):
    structure = structure_of(outcomes, name)
    ends = structure.places[structure.ends]
    low, high = ends.reshape(-1, 3).min(axis=0), ends.reshape(-1, 3).max(axis=0)
    in_face = np.stack([(np.abs(ends - side) < 1e-6).all(axis=1) for side in (low, high)], axis=2)
    alone = in_face.reshape(-1, 6).sum(axis=1) == 1  # those on an arris are in two
    assert alone.sum() > least
    outward = in_face[alone, :, 1].astype(float) - in_face[alone, :, 0]
    off = np.linalg.norm(outward - structure.up[alone], axis=1)
    half_width = max(s.shape.width for s in structure.sections) / 2
    assert off.max() * half_width < 1e-4


@pytest.mark.parametrize(("name", "gap"), [("gap_10", 0.010), ("gap_100", 0.100)])
def test_members_keep_just_the_gap_asked_for(outcomes, name, gap):
    structure = structure_of(outcomes, name)
    solids = {m: manifold3d.Manifold.hull_points(v) for m, v, _ in member_solids(structure, 64)}
    nearest = np.inf
    for node in range(len(structure.places)):
        at = [m for m in np.flatnonzero((structure.ends == node).any(axis=1)) if m in solids]
        for a, b in itertools.combinations(at, 2):
            nearest = min(nearest, solids[a].min_gap(solids[b], 2 * gap))
    assert nearest == pytest.approx(gap, abs=3e-5)
