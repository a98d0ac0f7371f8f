"""Members between what is there: how many, where they land, and at which angles."""

from __future__ import annotations

import numpy as np
import pytest

from leanlattice.core.geometry.drawing import path_of
from leanlattice.core.geometry.lines import line_of
from leanlattice.core.geometry.paths import Frame2, PlaneCurve
from leanlattice.core.sections import find
from leanlattice.core.structure.builders.along_lines import along_lines
from leanlattice.core.structure.builders.between import line_of_member, linked, struts_between
from leanlattice.core.structure.meetings import Meeting
from leanlattice.core.structure.roles import role_number

from ..known import held_to, known
from . import structures

X, Y, Z = np.eye(3)
CHORD, STRUT = find("CHS 139.7 × 5"), find("CHS 76.1 × 4")
WELDED, APART = Meeting("welded"), Meeting("apart", 0.02)


def stage(*items):
    """Members along curves on upright planes across y, at as many metres along it."""
    lines = [
        line_of(PlaneCurve(path_of(kind, at), Frame2(y * Y, X, Z)), 0.005) for y, kind, at in items
    ]
    return along_lines(lines, CHORD, "chord", WELDED, 0.001)


ARCH = (0.0, "arc", [[-8, 1], [0, 3], [8, 1]])
CHORDS = [(y, "line", [[-8, 0], [8, 0]]) for y in (-2.0, 2.0)]
LEVEL = [(0.0, "line", [[-6, 2], [6, 2]]), (0.0, "line", [[6, 0], [-6, 0]])]


def between(base, members, way, count, free=0.0, meeting=APART):
    return struts_between(base, members, way, count, free, STRUT, "strut", meeting)


@known(
    "V-struts, n of them between two lines", "2 n members, n + 1 feet; atan(2 h n / L) from level"
)
@pytest.mark.parametrize("n", [1, 3, 8])
def test_struts_in_v(n):
    base = stage(*LEVEL)
    made = between(base, [0, 1], "along", n)
    own = slice(2, None)
    held_to(made.count - 2 - 2 * n, 0)
    ends = made.axis_places[np.column_stack([made.offsets[:-1], made.offsets[1:] - 1])][own]
    held_to(len(np.unique(np.round(ends[:, 1], 6), axis=0)) - (n + 1), 0)
    rise = np.arcsin(np.abs(ends[:, 1, 2] - ends[:, 0, 2]) / made.lengths[own])
    held_to(rise - np.arctan(2 * 2.0 * n / 12.0), 1e-9)
    assert set(made.role[own].tolist()) == {role_number("strut")}


@known(
    "struts between an arch and two chords", "2 n members, no two longer than their mirror images"
)
def test_struts_from_an_arch_to_two_chords():
    base = stage(ARCH, *CHORDS)
    made = between(base, [0, 1, 2], "across", 6, free=0.1)
    held_to(made.count - 3 - 12, 0)
    first, second = np.split(made.lengths[3:], 2)
    held_to(first - second, 1e-9)
    held_to(first - first[::-1], 1e-9)
    # A tenth of each line is kept free at both ends.
    at = made.axis_places[made.offsets[3:-1]]
    arch = line_of_member(base, 0)
    runs = np.array([arch.nearest(place) for place in at])
    held_to([runs.min() - 0.1 * arch.length, runs.max() - 0.9 * arch.length], 1e-6)


def test_a_fan_leads_from_the_middle_and_purlins_from_line_to_line():
    base = stage(ARCH, *CHORDS)
    fan = between(base, [0, 1, 2], "fan", 5)
    tips = fan.axis_places[fan.offsets[3:-1]]
    held_to(tips - [0, 0, 3], 1e-6)
    assert fan.count == 3 + 10
    purlins = between(base, [1, 0, 2], "onward", 4)
    assert purlins.count == 3 + 8
    one = between(base, [1, 2], "onward", 1)
    ends = one.axis_places[-2:]
    held_to(np.sort(ends[:, 1]) - [-2, 2], 1e-9)
    held_to(ends[:, 0], 1e-9)


def test_what_runs_there_runs_on_and_struts_stop_a_gap_before_its_side():
    base = stage(*LEVEL)
    made = between(base, [0, 1], "across", 3, free=0.1)
    assert made.set_back[:2] == pytest.approx(base.set_back)
    # Square to the chord: half of 139.7 mm and the gap.
    held_to(made.set_back[2:] - (0.06985 + 0.02), 1e-9)
    assert made.lengths[:2] == pytest.approx(base.lengths, abs=1e-9)
    for meeting in (WELDED, Meeting("ball", 0.005, "each", 0.08)):
        structures.weighs_what_is_listed(
            between(stage(ARCH, *CHORDS), [0, 1, 2], "along", 5, 0.05, meeting)
        )


def test_lines_that_run_against_each_other_are_joined_all_the_same():
    turned = [LEVEL[0], (0.0, "line", [[-6, 0], [6, 0]])]
    one, other = (between(stage(*lines), [0, 1], "across", 4) for lines in (LEVEL, turned))
    held_to(one.lengths[2:] - 2.0, 1e-9)
    held_to(other.lengths[2:] - 2.0, 1e-9)


@pytest.mark.parametrize(("way", "count"), [("pairs", 2), ("row", 3), ("ring", 4), ("each", 6)])
def test_places_are_linked(way, count):
    base = stage(*LEVEL)
    corners = np.array([[-6, 0, 2.0], [6, 0, 0], [-3, 0, 0], [5, 0, 2]])
    made = linked(base, corners, way, STRUT, "tie", WELDED)
    assert made.count - 2 == count
    ends = {tuple(np.round(p, 6)) for p in made.places[made.ends[2:]].reshape(-1, 3)}
    assert ends == {tuple(p) for p in corners}
    assert len(made.places) == len(base.places) + 2
