"""Templates of tube ends: known answers for mitres, and any welded stars."""

from __future__ import annotations

import numpy as np
import pytest
from hypothesis import assume, given
from hypothesis import strategies as st

from leanlattice.core.flat.tube_ends import STEPS, Wrap, cut_ends, tube_templates
from leanlattice.core.structure.meetings import Meeting

from ..known import approx, held_to, known
from .structures import star_of

WELDED = Meeting("welded")
WRAP = Wrap("card", 0.0005, 0.02, 0.05)
RADIUS = 0.0889 / 2
TURN = 2 * np.pi / STEPS * np.arange(STEPS)


def drawn(plan, elevation, tolerance=1e-6, **values):
    made = star_of(plan, elevation, WELDED, **values)
    return made, tube_templates(made, WRAP, tolerance, lambda share: None)


@known("template of a tube's mitre", "R / tan(γ / 2) (1 − cos φ) along, R φ round, a sine curve")
@pytest.mark.parametrize("degrees", [60.0, 90.0, 150.0])
def test_two_tubes_on_a_mitre(degrees):
    _, templates = drawn([0, degrees], [0, 0])
    # The other tube lies at the left of the first, seen from above along it.
    cut = templates.ends.cut(TURN)[0]
    depth = RADIUS / np.tan(np.radians(degrees / 2))
    towards = TURN[int(cut.argmax())]
    held_to(cut - depth * (1 + np.cos(TURN - towards)), 1e-9)
    assert abs(np.sin(towards)) == approx(1.0)
    assert templates.ends.far[0] == approx(-depth, rel=1e-9)
    part = templates.parts[0]
    around = 2 * np.pi * (RADIUS + WRAP.thickness / 2) * 1000
    low, high = part.outer.min(axis=0), part.outer.max(axis=0)
    assert low == approx([0, 0], abs=1e-9)
    assert high == approx([around + 20, 2 * depth * 1000 + 50], rel=1e-9)
    mean = depth * 1000 + 50
    # The overlap begins as the whole does.
    again = np.interp(np.linspace(0, 20, 2001), TURN * around / (2 * np.pi), cut * 1000).mean()
    assert part.area == approx(around * mean + 20 * (high[1] - again), rel=1e-6)


def test_an_end_seen_from_the_other_side_has_its_template_mirrored():
    """Both tubes of a mitre that are not of one template are each other's mirror image."""
    _, templates = drawn([0, 70], [0, 0])
    one, two = templates.ends.cut(TURN)
    assert one == approx(np.roll(two[::-1], 1), abs=1e-9)
    assert templates.count == 2


def test_ends_that_are_cut_alike_share_a_template():
    _, templates = drawn([0, 90, 180, 270], [0] * 4)
    assert len(templates.template) == 4
    assert templates.count == 1


@given(
    st.lists(st.tuples(st.floats(0, 360), st.floats(-70, 70)), min_size=2, max_size=6),
    st.sampled_from(["CHS 88.9 × 4", "CHS 33.7 × 3"]),
)
def test_wrapped_about_their_tubes_templates_lie_on_the_planes_that_cut_these(ways, section):
    plan, elevation = np.array(ways).T
    made, templates = drawn(plan, elevation, section=section)
    assume(templates.count)
    normals, levels = made.cuts.of_ends(2 * made.count)
    for k, end in enumerate(templates.first.tolist()):
        member, which = int(templates.ends.member[end]), int(templates.ends.end[end])
        at = made.axis_places[made.offsets[member + which] - which]
        own = 2 * member + which
        there = np.abs(normals[own]).sum(axis=1) > 0
        over = (templates.rolled(k) - at) @ normals[own][there].T - levels[own][there]
        # On the plane that takes most, and on the kept side of the other.
        held_to(over.max(axis=1), 1e-9)
        assert made.set_back[member, which] == approx(templates.ends.far[end], abs=1e-9)


def test_what_is_not_a_tube_or_not_cut_has_no_template():
    square = star_of([0, 90], [0, 0], WELDED, section="SHS 60 × 4")
    assert not len(cut_ends(square).member)
    apart = star_of([0, 90], [0, 0], Meeting("apart"))
    assert not len(cut_ends(apart).member)
