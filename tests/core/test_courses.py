"""Courses of blocks: their volumes by closed forms, joints, and that they fill their shell."""

import manifold3d
import numpy as np
import pytest
from hypothesis import given, settings
from hypothesis import strategies as st

from leanlattice.core.geometry.meshes import half_edges
from leanlattice.core.geometry.surfaces import dome, loft
from leanlattice.core.shaping.solids import as_solid
from leanlattice.core.solids.courses import (
    Laying,
    NoRoom,
    Rise,
    blocks_of,
    halved_counts,
    runs_of,
)

from ..conftest import SURFACES, arch, ring
from ..known import approx, held_to, known

RADIUS, THICKNESS, CROWN = 6.0, 0.35, 0.8


def laid(surface, courses=6, blocks=16, **more):
    """How blocks lie in a surface, and they themselves."""
    axis, key = more.pop("axis", 1), more.pop("key", False)
    least = more.pop("least", 0.0)
    rise = Rise(surface, axis)
    levels = rise.levels(courses, CROWN / 2 if key else 0.0)
    counts = halved_counts(rise.lengths_of_courses(levels), blocks, least)
    given = {"outside": 0.0, "inside": THICKNESS, "staggered": True, "joint": 0.0, "within": 2e-3}
    laying = Laying(rise, levels=levels, counts=counts, closed_by_key=key, **(given | more))
    run = runs_of(laying)
    return laying, run, blocks_of(laying, run, "limestone")


def hemisphere():
    return dome(2 * RADIUS, RADIUS, np.zeros(3))


@known("blocks of a hemisphere between meridians and parallels", "Δφ (R³ − r³)/3 (sin θ₂ − sin θ₁)")
def test_blocks_of_a_sphere_have_the_volume_of_the_closed_form():
    laying, run, blocks = laid(hemisphere(), key=True, least=0.6, within=1e-4)
    assert len(np.unique(laying.counts)) > 1
    height = np.sin(np.pi / 2 * laying.levels)
    turn = 2 * np.pi * (run.last - run.first) / run.steps
    shell = (RADIUS**3 - (RADIUS - THICKNESS) ** 3) / 3
    wanted = turn * shell * (height[run.course + 1] - height[run.course])
    held_to(blocks.volumes[:-1] / wanted - 1, 6e-5)
    held_to(blocks.volumes.sum() / (2 * np.pi * shell) - 1, 6e-5)
    coarse = laid(hemisphere(), key=True, least=0.6)[2]
    assert coarse.groups[-1] == "key"
    assert coarse.type_of.max() == len(laying.counts) + 1


@known("a tube of rings, between two radii", "π (R² − r²) h in all, by Pappus, and as many alike")
def test_blocks_of_a_tube():
    # A ring of so many points is a circle to a millionth.
    tube = loft([ring(0, 3.0, 96), ring(4.0, 3.0, 96)], closed=True)
    _, _, blocks = laid(tube, courses=5, blocks=12, outside=0.2, inside=0.3, within=1e-5)
    held_to(blocks.volumes.sum() / (np.pi * (3.2**2 - 2.7**2) * 4.0) - 1, 2e-5)
    assert blocks.count == 60
    held_to(blocks.volumes / blocks.volumes.mean() - 1, 1e-5)


@known("dry blocks of a dome put together", "one body without gaps, of their volumes together")
def test_dry_blocks_fill_their_shell():
    _, _, blocks = laid(hemisphere(), key=True, least=1.0)
    solids = [as_solid(body) for body in blocks.bodies]
    whole = manifold3d.Manifold.batch_boolean(solids, manifold3d.OpType.Add)
    held_to(whole.volume() / blocks.volumes.sum() - 1, 1e-6)
    # Inside and outside are two areas, the ground between them a ring: nothing is left between.
    outside, inside = 2 * np.pi * RADIUS**2, 2 * np.pi * (RADIUS - THICKNESS) ** 2
    ground = np.pi * (RADIUS**2 - (RADIUS - THICKNESS) ** 2)
    assert whole.surface_area() == approx(outside + inside + ground, rel=3e-3)


@settings(max_examples=12)
@given(
    st.sampled_from(sorted(SURFACES)),
    st.integers(1, 9),
    st.integers(3, 24),
    st.floats(0.0, 0.03),
    st.booleans(),
)
def test_blocks_are_closed_and_apart(name, courses, blocks, joint, staggered):
    surface = SURFACES[name]()
    key = "v1" in surface.degenerate
    laying, run, made = laid(
        surface, courses, blocks, joint=joint, staggered=staggered, key=key, within=0.02
    )
    twin, _, bad = half_edges(made.triangles, len(made.vertices))
    assert (twin >= 0).all()
    assert not len(bad)
    assert (made.volumes > 0).all()
    dry = blocks_of(Laying(**(vars(laying) | {"joint": 0.0})), run, "limestone")
    assert (made.volumes <= dry.volumes * (1 + 1e-9)).all()
    assert made.count == len(run.course) + key


@known("a joint of 20 mm between blocks of a dome", "20 mm between their ends, on the surface")
def test_joints_are_as_wide_as_they_are_to_be():
    laying, run, _ = laid(hemisphere(), key=True, joint=0.02)
    from leanlattice.core.solids.courses import _alike, _rows

    rows = _rows(laying)
    first, second = (_alike(laying, run, np.array([k]), rows) for k in (0, 1))
    columns = int(run.last[0] - run.first[0])
    grid = (columns + 1, rows + 1, 3)
    end = first.vertices[0][: grid[0] * grid[1]].reshape(grid)[-1]
    start = second.vertices[0][: grid[0] * grid[1]].reshape(grid)[0]
    held_to(np.linalg.norm(start - end, axis=1) - 0.02, 2e-5)


def test_courses_without_room_for_their_joints_are_told():
    with pytest.raises(NoRoom) as told:
        laid(hemisphere(), courses=20, key=True, joint=0.6)
    assert 0 < told.value.size < 0.6


def test_half_blocks_end_the_courses_of_an_open_vault():
    vault = loft([arch(0, 12, 4), arch(20, 12, 4)])
    _, run, blocks = laid(vault, courses=3, blocks=5, axis=0)
    per_course = [(run.last - run.first)[run.course == k] for k in range(3)]
    assert [len(widths) for widths in per_course] == [5, 6, 5]
    assert all(widths.sum() == run.steps for widths in per_course)
    assert blocks.group_labels()[-1] == "course 3"


def test_counts_are_halved_while_that_is_possible():
    lengths = np.array([24.0, 12.0, 3.0, 1.0])
    assert halved_counts(lengths, 24, 0.5).tolist() == [24, 24, 6, 3]
    assert halved_counts(lengths, 7, 0.5).tolist() == [7, 7, 7, 7]
