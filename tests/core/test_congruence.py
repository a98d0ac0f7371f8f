"""Types of members: what is one part however it is moved, turned or counted, and what is not."""

from __future__ import annotations

import itertools
from dataclasses import replace

import numpy as np
import pytest
import trimesh
from hypothesis import given, settings
from hypothesis import strategies as st
from scipy.spatial.transform import Rotation

from leanlattice.core.patterns.lay import lay
from leanlattice.core.sections import find
from leanlattice.core.structure.appended import appended
from leanlattice.core.structure.arms import arms_of
from leanlattice.core.structure.builders.from_net import from_net
from leanlattice.core.structure.congruence import member_types
from leanlattice.core.structure.cuts import Cuts
from leanlattice.core.structure.joints import with_joints
from leanlattice.core.structure.meetings import Meeting
from leanlattice.core.structure.solids import member_solids

from ..conftest import surfaces
from ..known import known
from . import structures
from .test_welding import BOX, OPEN, TUBE, fan, welded

SQUARE = "SHS 80 × 4"


def moved(made, matrix, by=7.0):
    """Everything turned or mirrored by a matrix, and moved."""
    ways = {n: getattr(made, n) @ matrix.T for n in ("offset", "up", "bulge", "normals")}
    cuts = Cuts(made.cuts.end, made.cuts.normal @ matrix.T, made.cuts.level)
    return replace(made, places=made.places @ matrix.T + by, cuts=cuts, **ways)


def counted_back(made):
    """The same members, each from its other end: where a section is not even, its height is turned
    so that it stays where it is."""
    entry = np.concatenate(
        [np.arange(a, b)[::-1] for a, b in zip(made.offsets[:-1], made.offsets[1:], strict=True)]
    )
    first = np.concatenate([[0], np.cumsum(np.diff(made.offsets) - 1)])
    segment = np.concatenate([np.arange(a, b)[::-1] for a, b in itertools.pairwise(first)])
    end = made.cuts.end ^ 1
    order = np.argsort(end, kind="stable")
    cuts = Cuts(end[order].astype(np.int32), made.cuts.normal[order], made.cuts.level[order])
    by_entry = {n: getattr(made, n)[entry] for n in ("path", "offset", "scale")}
    by_segment = {n: getattr(made, n)[segment] for n in ("up", "bulge")}
    way = -made.chords[segment] / np.linalg.norm(made.chords[segment], axis=1, keepdims=True)
    turns = np.array([s.shape.seen_back for s in made.sections])
    turn = turns[made.section_of[made.member_of_segment]][:, None]
    up = by_segment["up"]
    by_segment["up"] = np.cos(turn) * up + np.sin(turn) * np.cross(up, way)
    back = made.set_back[:, ::-1].copy()
    return replace(made, **by_entry, **by_segment, cuts=cuts, set_back=back)


def together(one, other):
    """Types of the members of both, in one structure."""
    types = member_types(appended(one, other))
    return types[: one.count], types[one.count :]


def skew_fan(section, tilt=0.4):
    """Bars of one length that leave a node in different directions, no two cut alike."""
    ways = np.array([[1, 0, 0], [0.2, 1, tilt], [-1, 0.4, 0], [-0.3, -0.8, -0.2], [0.7, -0.7, 0.6]])
    ways /= np.linalg.norm(ways, axis=1, keepdims=True)
    heights = np.cross(np.cross(ways, [0.1, 0.2, 1.0]), ways)
    members = [{"path": [0, k + 1], "section": section, "up": tuple(heights[k])} for k in range(5)]
    return welded(structures.structure([(0, 0, 0), *ways], members))


EVERY = {
    "tubes": lambda: skew_fan(TUBE),
    "boxes": lambda: skew_fan(BOX),
    "squares": lambda: skew_fan(SQUARE),
    "channels": lambda: skew_fan("UPE 100"),
    "angles": lambda: skew_fan("L 80 × 80 × 8"),
    "tees": lambda: skew_fan("T 100 × 100 × 8 × 10"),
    "weave": structures.weave,
    "arch": structures.arch,
    "truss": structures.truss,
    "column": structures.branching_column,
}


@known("members moved, turned and counted from the other end", "of the same types")
@pytest.mark.parametrize("name", EVERY)
@given(seed=st.integers(0, 10**6))
@settings(max_examples=10, deadline=None)
def test_a_part_stays_of_its_type_wherever_it_is(name, seed):
    made = EVERY[name]()
    matrix = Rotation.random(random_state=seed).as_matrix()
    for other in (moved(made, matrix), counted_back(made), moved(counted_back(made), matrix)):
        one, two = together(made, other)
        assert one.tolist() == two.tolist()
        assert one.tolist() == member_types(made).tolist()


@pytest.mark.parametrize("section", [TUBE, BOX, SQUARE])
def test_bars_as_long_but_cut_otherwise_are_different_parts(section):
    made = skew_fan(section)
    square = replace(made, cuts=Cuts.none(), set_back=np.zeros((5, 2)))
    assert len(set(member_types(square).tolist())) == 1
    # The far edges of cuts lie differently: where lengths agree, only forms tell them apart.
    level = replace(made, set_back=np.zeros((5, 2)))
    assert len(set(member_types(level).tolist())) == 5


@pytest.mark.parametrize("section", [TUBE, BOX, SQUARE])
def test_mirror_images_are_different_parts_unless_turning_makes_them_the_same(section):
    flip = np.diag([1.0, 1.0, -1.0])
    one, two = together(skew_fan(section), moved(skew_fan(section), flip))
    assert (one != two).any()
    # A fan in a plane is its own mirror image there.
    flat = welded(fan([0, 75, 190], section))
    one, two = together(flat, moved(flat, flip))
    assert one.tolist() == two.tolist()


@pytest.mark.parametrize(
    ("section", "alike"),
    [
        ("IPE 120", True),
        ("UPE 100", False),
        ("T 100 × 100 × 8 × 10", True),
        ("L 80 × 80 × 8", False),
    ],
)
def test_a_cut_at_the_other_end_makes_the_same_part_where_the_section_is_even(section, alike):
    """Two bars side by side, mitred alike, one at its first and the other at its last end."""
    places = [(0, 0, 0), (1, 0, 0), (0, 3, 0), (1, 3, 0)]
    made = structures.structure(
        places, [{"path": path, "section": section} for path in ([0, 1], [2, 3])]
    )
    normals = np.array([[-1, 0, 1], [1, 0, 1]]) / np.sqrt(2)
    types = member_types(replace(made, cuts=Cuts(np.array([0, 3], np.int32), normals, np.zeros(2))))
    assert (types[0] == types[1]) == alike


@known("a wheel of n equal spokes, welded", "one type")
@pytest.mark.parametrize("section", [TUBE, BOX, SQUARE])
@pytest.mark.parametrize("spokes", [3, 4, 7])
def test_spokes_of_a_wheel_are_of_one_type(section, spokes):
    made = welded(fan((360 / spokes * np.arange(spokes)).tolist(), section))
    assert set(member_types(made).tolist()) == {1}


def test_round_bars_are_told_apart_by_the_turn_between_their_ends():
    """Both ends of a tube are mitred, in planes at an angle; heights say nothing of a tube."""

    def mitred(turn, height):
        second = (1.0, np.cos(turn), np.sin(turn))
        up = (0.0, np.cos(height), np.sin(height))
        places = [(0, -1, 0), (0, 0, 0), (1, 0, 0), second]
        ends = [{"path": [0, 1], "up": (0, 0, 1)}, {"path": [2, 3], "up": (1.0, 0, 0)}]
        made = structures.structure(places, [{"path": [1, 2], "up": up}, *ends])
        return with_joints(made, arms_of(made, joined=True), Meeting("welded"))

    def same(a, b):
        one, two = together(mitred(*a), mitred(*b))
        return one[0] == two[0]

    assert same((0.5, 0.0), (0.5, 1.1))
    assert not same((0.5, 0.0), (0.9, 0.0))
    # Turned the other way it is the mirror image.
    assert not same((0.5, 0.0), (-0.5, 0.0))
    assert same((np.pi, 0.0), (-np.pi, 0.4))


@given(surfaces(), st.sampled_from([TUBE, BOX, SQUARE, *OPEN]), st.floats(1e-4, 0.02))
@settings(max_examples=12, deadline=None)
def test_solids_of_one_type_are_alike(surface, section, tolerance):
    net = lay(surface, "quads", (5, 4))
    own = find(section)
    made = from_net(net, own, own, "top", 0.1, Meeting("welded"))
    made = replace(made, tolerance=tolerance)
    types = member_types(made)
    found = {}
    for m, vertices, triangles in member_solids(made, 12):
        solid = trimesh.Trimesh(vertices, triangles, process=False)
        spread = np.sqrt(np.abs(np.linalg.eigvalsh(solid.moment_inertia)) / solid.mass)
        found.setdefault(types[m], []).append(spread)
    assert sum(map(len, found.values())) > 30
    for spreads in found.values():
        assert np.ptp(spreads, axis=0).max() < 3 * tolerance
