"""Trusses along lines: how many nodes and members, where they lie, and what they share."""

from __future__ import annotations

import numpy as np
import pytest

from leanlattice.core.geometry.drawing import path_of
from leanlattice.core.geometry.lines import line_of
from leanlattice.core.geometry.paths import Frame2, PlaneCurve
from leanlattice.core.geometry.surfaces import loft
from leanlattice.core.nets.runs import border_runs, line_along, runs_of_way
from leanlattice.core.patterns.lay import lay
from leanlattice.core.sections import find
from leanlattice.core.structure.builders.trusses import (
    SIDES,
    WEBS,
    NoSide,
    TrussForm,
    trusses,
)
from leanlattice.core.structure.meetings import Meeting

from ..known import held_to, known
from . import structures

X, Y, Z = np.eye(3)
SECTIONS = (find("CHS 88.9 × 4"), find("CHS 76.1 × 4"), find("CHS 48.3 × 4"))
WELDED = Meeting("welded")


def line(kind="line", at=((0, 0), (12, 0)), frame=Frame2(np.zeros(3), X, Z)):
    return line_of(PlaneCurve(path_of(kind, at), frame), 0.005)


RING = line("circle", ((0, 0), (4, 0)), Frame2(np.zeros(3), X, Y))


def truss(lines, meeting=WELDED, **form):
    return trusses(lines, TrussForm(**form), SECTIONS, meeting)


def counted(made):
    """Members of each group, and nodes."""
    return [*np.bincount(made.group, minlength=4).tolist(), len(made.places)]


COUNTS = {
    "warren": lambda n: [n, n - 1, 2 * n, 0, 2 * n + 1],
    "pratt": lambda n: [n, n, n, n + 1, 2 * n + 2],
    "howe": lambda n: [n, n, n, n + 1, 2 * n + 2],
    "crossed": lambda n: [n, n, 2 * n, n + 1, 2 * n + 2],
    "vierendeel": lambda n: [n, n, 0, n + 1, 2 * n + 2],
}
ROUND = {
    "warren": lambda n: [n, n, 2 * n, 0, 2 * n],
    "pratt": lambda n: [n, n, n, n, 2 * n],
    "howe": lambda n: [n, n, n, n, 2 * n],
    "crossed": lambda n: [n, n, 2 * n, n, 2 * n],
    "vierendeel": lambda n: [n, n, 0, n, 2 * n],
}


@known("trusses of n panels", "chords, webs, posts and nodes of five kinds, open and round")
@pytest.mark.parametrize("webs", WEBS)
@pytest.mark.parametrize("n", [1, 2, 7])
def test_members_and_nodes_are_as_many_as_panels_ask_for(webs, n):
    made = truss([line()], webs=webs, panels=n, through=False)
    held_to(np.subtract(counted(made), COUNTS[webs](n)), 0)
    whole = truss([line()], webs=webs, panels=n)
    chords = 1 if webs == "warren" and n == 1 else 2
    held_to(np.subtract(counted(whole)[:2], [1, chords - 1]), 0)
    if n > 2:
        held_to(
            np.subtract(counted(truss([RING], webs=webs, panels=n, through=False)), ROUND[webs](n)),
            0,
        )


@known("webs of a level truss", "√(p² + d²) with posts, √(p² / 4 + d²) of a Warren truss")
def test_webs_are_as_long_as_panel_and_depth_ask_for():
    for webs, run in (("pratt", 2.0), ("howe", 2.0), ("crossed", 2.0), ("warren", 1.0)):
        made = truss([line()], webs=webs, panels=6, depth=1.5)
        held_to(made.lengths[made.group == 2] - np.hypot(run, 1.5), 1e-12)
        held_to(made.lengths[made.group == 3] - 1.5, 1e-12)


def test_diagonals_of_a_pratt_truss_fall_towards_the_middle_and_of_a_howe_truss_rise():
    for webs, sign in (("pratt", 1), ("howe", -1)):
        made = truss([line()], webs=webs, panels=6)
        ends = made.places[made.ends[made.group == 2]]
        upper = np.where(ends[:, :1, 2] > ends[:, 1:, 2], ends[:, 0], ends[:, 1])
        lower = np.where(ends[:, :1, 2] > ends[:, 1:, 2], ends[:, 1], ends[:, 0])
        nearer = np.abs(upper[:, 0] - 6) - np.abs(lower[:, 0] - 6)
        assert (sign * nearer > 0).all()


@pytest.mark.parametrize("side", SIDES)
def test_second_chords_are_on_their_side_at_their_depth(side):
    arch = line("arc", ((-6, 0), (0, 3), (6, 0)))
    made = truss([arch], webs="pratt", side=side, depth=0.5, middle=0.9, panels=8)
    posts = made.places[made.ends[made.group == 3]]
    across = posts[:, 1] - posts[:, 0]
    depth = np.linalg.norm(across, axis=1)
    assert depth[[0, -1]] == pytest.approx(0.5)
    assert depth.max() == depth[4] == pytest.approx(0.9)
    way = np.einsum(
        "ij,ij->i", across / depth[:, None], made.normals[made.ends[made.group == 3, 0]]
    )
    held_to(way + 1, 1e-9)
    up = {"below": -1, "above": 1, "inside": -1, "outside": 1}[side]
    assert (np.sign(across[:, 2]) == up).all()
    if side in ("inside", "outside"):
        centre = np.array([0, 0, 3 - 7.5])
        held_to(np.linalg.norm(np.cross(across, posts[:, 0] - centre), axis=1), 1e-9)


def test_an_inclined_truss_and_one_with_two_second_chords():
    leaning = truss([line()], inclination=np.radians(30), depth=1.0, panels=4)
    second = leaning.places[leaning.path[leaning.offsets[1] : leaning.offsets[2]]]
    held_to(np.abs(second[:, 1]) - 0.5, 1e-12)
    held_to(second[:, 2] + np.sqrt(0.75), 1e-12)
    three = truss([line()], width=1.2, depth=0.8, panels=4, through=False)
    held_to(np.subtract(counted(three), [4, 6, 16, 4, 13]), 0)
    held_to(np.sort(three.lengths[three.group == 3]) - 1.2, 1e-12)
    ends = three.places[three.ends[three.group == 1]]
    held_to(np.abs(ends[:, :, 1]) - 0.6, 1e-12)


@pytest.mark.parametrize("webs", WEBS)
@pytest.mark.parametrize("way", ["welded", "ball"])
@pytest.mark.parametrize("width", [0.0, 1.0])
def test_solids_are_closed_and_weigh_what_is_listed(webs, way, width):
    meeting = Meeting(way, 0.005, "each", 0.06)
    for along in (line("arc", ((-6, 0), (0, 3), (6, 0))), RING):
        made = truss([along], meeting, webs=webs, width=width, panels=6, depth=0.8, middle=1.0)
        assert (made.mean_lengths > 0).all()
        held_to(np.einsum("ij,ij->i", made.up, made.chords), 1e-9)
        structures.weighs_what_is_listed(made)


def test_trusses_both_ways_of_a_net_share_posts_and_stand_on_its_vertices():
    sheet = lay(loft([np.array([[0.0, y, 3], [6, y, 3]]) for y in (0.0, 4.0)]), "quads", (6, 4))
    runs = [run for way in (0, 1) for run in runs_of_way(sheet, way)]
    assert sorted(len(run) for run in runs) == [5] * 7 + [7] * 5
    lines = [line_along(sheet, run) for run in runs]
    made = trusses(
        lines, TrussForm("pratt", 0, 0.7, 0.7), SECTIONS, WELDED, source="net", vertices=runs
    )
    nodes = len(sheet.vertices)
    assert len(made.places) == 2 * nodes
    assert counted(made)[3] == nodes
    on = made.nodes_on("net", np.arange(nodes))
    held_to(made.places[on] - sheet.vertices, 1e-12)


def test_a_border_is_followed_round():
    sheet = lay(loft([np.array([[0.0, y, 3], [6, y, 3]]) for y in (0.0, 4.0)]), "quads", (6, 4))
    (run,) = border_runs(sheet)
    made = truss([line_along(sheet, run)], panels=0, webs="vierendeel")
    assert counted(made) == [1, 1, 0, 20, 40]


def test_a_line_that_leads_to_its_truss_side_is_told():
    with pytest.raises(NoSide) as told:
        truss([line(at=((2, 0), (2, 5)))], side="below")
    assert told.value.at[:2] == pytest.approx([2, 0])
    assert truss([line(at=((2, 0), (2, 5)))], side="inside").count


@known("a bent truss along an arc of radius R", "chords R α and (R − d) α long, of arcs")
@pytest.mark.parametrize("webs", WEBS)
def test_bent_chords_run_along_their_line_and_beside_it(webs):
    # A quarter of a circle of 5 m in plan, its truss inside.
    frame = Frame2(np.zeros(3), X, Y)
    quarter = line("arc", ((5, 0), (5 * np.cos(np.pi / 4), 5 * np.sin(np.pi / 4)), (0, 5)), frame)
    made = truss([quarter], webs=webs, panels=6, depth=0.8, side="below", inclination=np.pi / 2,
                 bent=True)  # fmt: skip
    radii = np.linalg.norm(made.places[:, :2], axis=1)
    is_outer = np.abs(radii - 5) < 1e-9
    beside = radii[~is_outer].mean()
    held_to(np.abs(beside - 5) - 0.8, 1e-9)
    held_to(radii[~is_outer] - beside, 1e-9)
    turn = np.pi / 2 * (5 / 6 if webs == "warren" else 1)
    held_to(made.lengths[made.group == 0] - 5 * np.pi / 2, 1e-9)
    held_to(made.lengths[made.group == 1] - beside * turn, 1e-9)
    straight = truss([quarter], webs=webs, panels=6, depth=0.8)
    assert not straight.bulge.any()


@pytest.mark.parametrize("webs", WEBS)
def test_second_chords_are_laced_in_turns(webs):
    plain, laced = (
        truss([line()], webs=webs, panels=7, width=0.6, laced=has) for has in (False, True)
    )
    bays = 6 if webs == "warren" else 7
    assert laced.count - plain.count == bays
    assert len(laced.places) == len(plain.places)
    between = laced.places[laced.ends]
    added = (laced.group == 2) & (np.abs(np.diff(between[:, :, 1], axis=1)[:, 0]) > 0.59)
    assert added.sum() == bays
    # One way and the other, end to end.
    assert (between[added][:-1, 1] == between[added][1:, 0]).all()
    ring = truss([RING], webs=webs, panels=8, width=0.6, laced=True)
    assert ring.count - truss([RING], webs=webs, panels=8, width=0.6).count == 8
