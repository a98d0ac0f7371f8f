"""Clauses that put members along lines: what the sentence asks for, and what cannot be had."""

from __future__ import annotations

import numpy as np
import pytest

from leanlattice.clauses.registry import CLAUSE_TYPES
from leanlattice.core.structure.names import names_of_structure
from leanlattice.core.structure.roles import ROLE_NAMES

from .test_lattice_clauses import clauses, made, outcomes


def drawn(*curves, plane="front", **more):
    return "draw", {"curves": [list(curve) for curve in curves], "plane": plane} | more


ARCH = drawn(("arc", [[-6, 0], [0, 4], [6, 0]]))
POSTS = drawn(("line", [[-3, 0], [-3, 1]]), ("line", [[3, 0], [3, 1]]))
GRID = (
    ("barrel", {"length": 12}),
    ("pattern", {"pattern": "quads", "bays_across": 8, "bays_along": 6}),
)


def last_of(*rows, on=None):
    statement = clauses(*rows)
    if on is not None:
        last = statement.clauses[-1].model_copy(update={"on": on})
        statement = statement.model_copy(update={"clauses": [*statement.clauses[:-1], last]})
    return list(outcomes(statement).values())[-1]


def test_an_arch_is_one_bent_member_or_as_many_straight_pieces_as_keep_near_it():
    bent = made(ARCH, ("frame-curves", {}))
    assert bent.figures["members"].value == bent.figures["bent_members"].value == 1
    assert bent.figures["smallest_radius"].value == pytest.approx(6.5)
    pieces = made(ARCH, ("frame-curves", {"bend": "straight", "parts": "between", "off": 5}))
    assert pieces.figures["members"].value > 10
    assert "bent_members" not in pieces.figures
    assert pieces.figures["total_length"].value == pytest.approx(
        bent.figures["total_length"].value, rel=2e-2
    )
    assert {ROLE_NAMES[k] for k in bent.result.role} == {"arch"}


def test_members_along_curves_land_on_what_they_touch_of_the_structure_before():
    beam = drawn(("line", [[-6, 0], [6, 0]]))
    rows = [beam, ("frame-curves", {"role": "chord"}), POSTS]
    entry = ("frame-curves", {"role": "strut", "section": "SHS 50 × 4"})
    on = {"curves": ["draw-2"], "structure": ["frame-curves-1"]}
    found = last_of(*rows, entry, on=on)
    assert found.status == "done"
    made_of = found.result
    assert made_of.count == 3
    # The beam runs on over both, and they stop at its side.
    assert len(made_of.path) == 4 + 2 * 2
    assert made_of.set_back[1:, 0] == pytest.approx([0.06985] * 2, abs=1e-9)
    assert names_of_structure(made_of).every_member == ["H1", "S1", "S2"]


def test_bends_tighter_than_their_section_are_told():
    tight = drawn(("arc", [[-0.06, 0], [0, 0.06], [0.06, 0]]))
    warnings = made(tight, ("frame-curves", {"section": "CHS 219.1 × 8"})).warnings
    (told,) = (w for w in warnings if w.value == "section")
    assert "60 mm" in told.text


def test_trusses_follow_curves_a_net_or_its_border():
    along = {
        way: made(*GRID, ARCH, ("trusses", {"along": way, "panelled": "bays"})).figures
        for way in ("first", "second", "border")
    }
    assert {way: f["trusses"].value for way, f in along.items()} == {
        "first": 9,
        "second": 7,
        "border": 1,
    }
    curves = made(*GRID, ARCH, ("trusses", {"panels": 10}))
    assert curves.figures["trusses"].value == 1
    assert curves.figures["members"].value == 22
    assert set(curves.aids) == {"line depth"}


def test_trusses_both_ways_share_what_they_have_in_common():
    values = {"webs": "pratt", "panelled": "bays", "depth": 0.6}
    rows = [*GRID, ("trusses", values | {"along": "first"})]
    one = made(*rows)
    on = {"net": ["pattern-1"], "structure": ["trusses-2"]}
    both = last_of(*rows, ("trusses", values | {"along": "second"}), on=on)
    assert both.figures["nodes"].value == one.figures["nodes"].value == 2 * 7 * 9
    posts = [o.figures["post_members"].value for o in (one, both)]
    assert posts == [63, 63]
    assert both.result.since == (126, one.result.count)


@pytest.mark.parametrize(
    ("rows", "values", "value", "words"),
    [
        ([], {}, "along", "no curves above"),
        ([ARCH], {"along": "first"}, "along", "no net above"),
        ([drawn(("line", [[0, 0], [0, 5]]))], {}, "side", "straight below"),
        ([drawn(("circle", [[0, 0], [3, 0]]), plane="plan")], {"panels": 2}, "panels", "3 or more"),
        ([("ball", {}), ("pattern", {})], {"along": "border"}, "along", "no border"),
        (
            [drawn(*[("line", [[0, k], [9, k]]) for k in range(60)])],
            {"panels": 400},
            "panels",
            "24,000",
        ),
    ],
)
def test_what_no_truss_can_lie_along_is_told(rows, values, value, words):
    found = last_of(*rows, ("trusses", values))
    assert (found.status, found.error_value) == ("failed", value)
    assert words in found.error


def test_a_truss_of_no_depth_is_refused_with_the_value():
    found = last_of(ARCH, ("trusses", {"depth": 0}))
    assert found.status == "failed"
    assert found.error_value == "depth"
    assert "0" in found.error


def test_webs_that_leave_nothing_of_themselves_are_told_with_their_places():
    found = made(ARCH, ("trusses", {"depth": 0.05, "panels": 20}))
    (told,) = [w for w in found.warnings if "no length left" in w.text]
    assert told.which
    assert np.isfinite(told.at).all()


STAGE = [
    drawn(("arc", [[-8, 0.8], [0, 3], [8, 0.8]]), ("line", [[-8, 0], [8, 0]])),
    ("frame-curves", {"role": "chord"}),
]
ROOF = [
    ("barrel", {"length": 12}),
    ("pattern", {"pattern": "quads", "bays_across": 6, "bays_along": 4}),
    ("frame", {}),
]
BETWEEN = {"lines": [[0, 0, 3], [0, 0, 0]], "how_many": 6, "meeting": "apart"}


def test_struts_land_on_the_lines_nearest_to_the_places_and_leave_names_as_they_were():
    base, found = made(*STAGE).result, made(*STAGE, ("struts", BETWEEN))
    assert found.figures["put_between"].value == 12
    assert found.warnings == ()
    assert found.result.since == (len(base.places), base.count)
    names = [names_of_structure(s).every_member for s in (base, found.result)]
    assert names[1][:2] == names[0]
    assert 0 < found.figures["flattest"].value < found.figures["steepest"].value < 90
    # Changed early, struts follow: the arch is raised.
    higher = [drawn(("arc", [[-8, 0.8], [0, 4], [8, 0.8]]), ("line", [[-8, 0], [8, 0]])), STAGE[1]]
    again = made(*higher, ("struts", BETWEEN))
    assert again.figures["longest_between"].value > found.figures["longest_between"].value


def test_ties_and_purlins_are_linked_and_lie_within_members():
    tie = made(ARCH, ("frame-curves", {}), ("link", {"places": [[-6, 0, 0], [6, 0, 0]]}))
    assert tie.figures["links"].value == 1
    assert tie.figures["link_length"].value == pytest.approx(12.0)
    assert {ROLE_NAMES[k] for k in tie.result.role} == {"arch", "tie"}
    on = {"on": "members", "places": [[-3, 0, 3], [3, 0, 3.5]], "role": "brace"}
    within = made(ARCH, ("frame-curves", {}), ("link", on))
    assert len(within.result.places) == len(tie.result.places) + 2
    assert within.figures["off_places"].value > 0


def test_a_bay_is_repeated_and_early_values_change_all_copies():
    rows = [*STAGE, ("struts", BETWEEN)]
    along = made(*rows, ("repeat-bay", {"dx": 16, "dy": 0, "copies": 2}))
    assert along.figures["bays"].value == 3
    assert along.figures["shared_nodes"].value == 4
    assert along.figures["strut_members"].value == 36
    more = made(
        *STAGE,
        ("struts", BETWEEN | {"how_many": 4}),
        ("repeat-bay", {"dx": 16, "dy": 0, "copies": 2}),
    )
    assert more.figures["strut_members"].value == 24
    mirrored = made(*rows, ("repeat-bay", {"way": "mirrored", "centre": [8, 0, 0], "azimuth": 0}))
    assert mirrored.result.places[:, 0].max() == pytest.approx(24)
    assert mirrored.result.mirrored.sum() == 14
    around = made(*rows, ("repeat-bay", {"way": "around", "angle": 90, "centre": [8, 0, 0]}))
    assert around.figures["bays"].value == 4


@pytest.mark.parametrize(
    ("entry", "value", "words"),
    [
        (("struts", {"lines": [[0, 0, 3], [1, 0, 3]]}), "lines", "Places 1 and 2"),
        (("struts", {"lines": [[0, 0, 3]]}), "lines", "1 places of lines"),
        (("link", {"places": [[8, 0, 0], [7.9, 0, 0]]}), "places", "one place"),
        (("repeat-bay", {"dx": 0, "dy": 0}), "dy", "lie on members"),
        (("repeat-bay", {"way": "mirrored"}), "centre", "lie on members"),
        (("repeat-bay", {"copies": 1000, "dy": 1}), None, ""),
    ],
)
def test_what_cannot_be_put_between_or_repeated_says_why(entry, value, words):
    found = last_of(*STAGE, entry)
    if value is None:
        assert found.status == "done"
        return
    assert (found.status, found.error_value) == ("failed", value)
    assert words in found.error


def test_struts_at_one_member_offer_places_at_two():
    found = last_of(*STAGE, ("struts", {"lines": [[0, 0, 3], [1, 0, 3]]}))
    assert found.error_code == "places at one member"
    (remedy,) = found.remedies
    mended = last_of(*STAGE, ("struts", dict(remedy.values)))
    assert mended.status == "done"
    # With a single member there is nowhere to move to.
    alone = last_of(ARCH, ("frame-curves", {}), ("struts", {}))
    assert (alone.error_code, alone.remedies) == ("places at one member", ())


@pytest.mark.parametrize(
    ("rows", "entry"),
    [
        (STAGE, ("struts", BETWEEN)),
        (STAGE, ("link", {"places": [[0, 0, 3], [0, 0, 0]]})),
        (ROOF, ("brace-bays", {})),
        (ROOF, ("columns", {"which": "heights"})),
        (STAGE, ("frame-curves", {"role": "chord"})),
        (ROOF, ("trusses", {"along": "first"})),
        (ROOF, ("splice-members", {})),
    ],
)
def test_what_is_put_in_twice_is_told_in_words(rows, entry):
    found = last_of(*rows, entry, entry)
    assert "could not be computed" not in found.error
    assert found.status == "done" or "already" in found.error


def test_struts_begin_between_what_is_high_and_low_or_in_one_level_from_side_to_side():
    begin = CLAUSE_TYPES["struts"].beside
    top, low = begin(np.array([[0, -1.4, 0], [4.5, 1.4, 2.1]]))["lines"]
    assert (top, low) == ([2.25, 0.0, 2.1], [2.25, -1.4, 0.0])
    one, other = begin(np.array([[0, -1.4, 3], [4.5, 1.4, 3]]))["lines"]
    assert (one[1], other[1]) == (-1.4, 1.4)


def test_bays_that_stand_apart_are_told():
    (told,) = made(*STAGE, ("repeat-bay", {"dy": 5})).warnings
    assert told.value == "near"
    assert "apart" in told.text


@pytest.mark.parametrize(
    ("values", "code", "offered"),
    [
        ({"dy": 5}, "bays apart", "Step by 16 m in x"),
        ({"dx": 0, "dy": 0}, "bays coincide", "Step by 16 m in x"),
        ({"way": "mirrored"}, "bays coincide", "Mirror it at x = "),
        (
            {"way": "mirrored", "centre": [99, 0, 0], "azimuth": 0},
            "bays apart",
            "Mirror it at x = ",
        ),
    ],
)
def test_bays_are_joined_by_one_click(values, code, offered):
    rows = [*STAGE, ("struts", BETWEEN)]
    told = last_of(*rows, ("repeat-bay", values))
    remedies = told.remedies or told.warnings[0].remedies
    assert code in (told.error_code, *(w.code for w in told.warnings))
    assert any(r.title.startswith(offered) for r in remedies)
    for remedy in remedies:
        joined = made(*rows, ("repeat-bay", values | dict(remedy.values)))
        assert joined.figures["shared_nodes"].value > 0


def test_bays_that_run_into_each_other_are_told_with_their_members():
    rows = [
        ("barrel", {"length": 12}),
        ("pattern", {"pattern": "quads", "bays_across": 6, "bays_along": 4}),
        ("frame", {}),
    ]
    (clash,) = [w for w in made(*rows, ("repeat-bay", {"dy": 5, "copies": 1})).warnings if w.which]
    assert clash.value == "dy"
    assert "of different bays run into each other" in clash.text
    assert clash.at is not None
    structure = made(*rows, ("repeat-bay", {"dy": 5, "copies": 1})).result
    assert max(clash.which) >= structure.since[1] > min(clash.which)
    assert not [w for w in made(*rows, ("repeat-bay", {"dy": 12})).warnings if w.which]
    assert not [w for w in made(*rows, ("repeat-bay", {"dy": 40})).warnings if w.which]


def test_cut_lines_become_arches_and_planes_that_miss_are_told():
    barrel = ("barrel", {"length": 12, "span": 10, "rise": 3})
    cuts = made(barrel, ("cut-lines", {"cuts": 5}))
    assert cuts.figures["curves"].value == 5
    arches = made(barrel, ("cut-lines", {"cuts": 5}), ("frame-curves", {}))
    assert arches.figures["members"].value == arches.figures["bent_members"].value == 5
    # (s² / 4 + r²) / 2 r
    assert arches.figures["smallest_radius"].value == pytest.approx(34 / 6, rel=2e-3)
    spine = drawn(("line", [[0, -9], [0, 9]]), plane="plan")
    along = made(
        spine, barrel, ("cut-lines", {"way": "spine", "cuts": 10, "first": 0, "last": 100})
    )
    (told,) = along.warnings
    assert along.figures["planes"].value == 10
    assert along.figures["curves"].value == 6
    assert "4 of 10 planes miss" in told.text
    level = made(barrel, ("cut-lines", {"way": "level", "cuts": 2}))
    assert level.figures["curves"].value == 4


@pytest.mark.parametrize(
    ("rows", "values", "words"),
    [
        ([("barrel", {})], {"way": "spine"}, "no curves above"),
        (
            [drawn(("line", [[50, 0], [60, 0]]), plane="plan"), ("barrel", {})],
            {"way": "spine"},
            "No plane meets",
        ),
    ],
)
def test_cut_lines_that_cannot_be_had_say_why(rows, values, words):
    found = last_of(*rows, ("cut-lines", values))
    assert (found.status, found.error_value) == ("failed", "way")
    assert words in found.error


def test_bent_trusses_follow_the_upper_edges_of_ribs():
    body = [
        ("ball", {"solid": "body", "radius": 2, "centre": [0, 0, 1]}),
        ("cut-plane", {"through": [0, 0, 0]}),
    ]
    ribs = (
        "waffle",
        {"number_first": 5, "number_second": 4, "thick_first": 12, "thick_second": 12},
    )
    lines = ("lines-of", {"what": "ribs", "bend": "arcs"})
    found = last_of(*body, ribs, lines, on={"ribs": ["waffle-2"]})
    assert found.figures["lines"].value == found.figures["bent"].value == 9
    middle = max(line.length for line in found.result.lines)
    assert middle == pytest.approx(2 * np.pi, rel=1e-3)
    assert "No ribs are chosen" in last_of(*body, ribs, lines).error
