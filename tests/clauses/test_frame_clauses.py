"""Clauses of chapter Frame: what the sentence asks for, and what is told where it cannot be had."""

from __future__ import annotations

import numpy as np
import pytest

from leanlattice.core.structure.names import names_of_structure
from leanlattice.core.structure.roles import role_number

from .test_lattice_clauses import clauses, made, outcomes

QUADS = ("pattern", {"pattern": "quads", "bays_across": 16, "bays_along": 6})
HEXAGONS = ("pattern", {"pattern": "hexagons", "density": "module", "module": 1})


def members_of_more_pieces(structure):
    return int(np.count_nonzero(np.diff(structure.offsets) > 2))


def test_members_run_through_nodes_the_way_that_is_chosen():
    rows = [("barrel", {}), QUADS]
    each, first, second = (
        made(*rows, ("frame", {"through": way})) for way in ("none", "first", "second")
    )
    assert members_of_more_pieces(each.result) == 0
    runs = [members_of_more_pieces(o.result) for o in (first, second)]
    assert sorted(runs) == [6 - 1, 16 - 1]
    assert [o.warnings for o in (first, second)] == [(), ()]
    # The same edges, the same metres, fewer pieces.
    for o in (first, second):
        assert o.result.lengths.sum() == pytest.approx(each.result.lengths.sum(), rel=1e-12)
        assert o.result.count < each.result.count
        inner = o.result.role != role_number("edge")
        assert set(o.result.role[inner].tolist()) == {role_number("grid")}


@pytest.mark.parametrize(
    ("rows", "way", "code"),
    [
        ([("barrel", {}), QUADS], "third", "runs on fewer ways"),
        ([("barrel", {}), HEXAGONS], "first", "runs on nowhere"),
        ([("barrel", {}), QUADS, ("weave", {})], "second", "runs on anyway"),
    ],
)
def test_a_way_that_is_not_there_is_told_with_a_remedy(rows, way, code):
    found = made(*rows, ("frame", {"through": way, "meeting": "apart"}))
    (told,) = [w for w in found.warnings if w.value == "through"]
    assert told.code == code
    (remedy,) = told.remedies
    again = made(*rows, ("frame", {"through": way, "meeting": "apart"} | remedy.values))
    assert "through" not in {w.value for w in again.warnings}


def test_laths_that_meet_others_at_a_small_angle_are_told_and_can_be_held_apart():
    trihexagons = {
        "pattern": "trihexagons",
        "bays_across": 12,
        "bays_along": 12,
        "spread": "plan",
    }
    laths = {"inner": "GL24h 140x60", "border": "GL24h 140x60"}
    woven = [("dome", {}), ("pattern", trihexagons), ("weave", {"width": 140, "thickness": 60})]
    welded = made(*woven, ("frame", laths))
    (notice,) = (w for w in welded.warnings if w.code == "cuts overrun")
    assert len(notice.which) > 1
    (remedy,) = notice.remedies
    apart = made(*woven, ("frame", laths | remedy.values))
    assert not any(w.code == "cuts overrun" for w in apart.warnings)
    (held,) = (w for w in apart.warnings if w.code == "held past bends")
    assert set(held.which) < set(range(apart.result.count))


def test_members_no_longer_than_their_section_is_across_are_told_with_it():
    fine = ("pattern", {"pattern": "quads", "bays_across": 60, "bays_along": 10})
    rows = [("barrel", {"length": 12, "span": 10, "rise": 3}), fine]
    slim, fat = (
        made(*rows, ("frame", {"inner": inner, "border": "CHS 60.3 × 4", "meeting": meeting}))
        for inner, meeting in (("CHS 168.3 × 6.3", "welded"), ("CHS 219.1 × 8", "apart"))
    )
    assert not {w.code for w in slim.warnings} & {"thicker than long"}
    (notice,) = (w for w in fat.warnings if w.code == "thicker than long")
    lengths = fat.result.lengths[list(notice.which)]
    across = np.array([s.shape.width for s in fat.result.sections])[fat.result.section_of]
    assert (lengths <= across[list(notice.which)]).all()
    assert "CHS 219.1 × 8, 219.1 mm across" in notice.text


def test_edge_members_lie_along_the_part_of_the_border_that_is_named():
    rows = [("barrel", {"length": 12, "span": 10, "rise": 3}), QUADS]
    whole = made(*rows, ("frame", {}))
    assert whole.figures["edge_members"].value == 2 * (16 + 6)
    feet = made(*rows, ("frame", {"edges": "heights"}))
    side = made(*rows, ("frame", {"edges": "side", "facing": 90}))
    by_count = sorted([feet.figures["edge_members"].value, side.figures["edge_members"].value])
    assert by_count == [2 * 6, 16]
    assert feet.figures["members"].value == whole.figures["members"].value
    ends = feet.result.ends[feet.result.role == role_number("edge")]
    assert np.abs(feet.result.places[ends][:, :, 2]).max() < 1e-9
    # What is not along it is as what is within, and heavier tubes are fewer.
    assert feet.figures["mass"].value < whole.figures["mass"].value
    none = made(*rows, ("frame", {"edges": "inner"}))
    (told,) = [w for w in none.warnings if w.value == "edges"]
    again = made(*rows, ("frame", {"edges": "inner"} | told.remedies[0].values))
    assert again.figures["edge_members"].value == 44


def test_edges_without_length_are_refused_with_what_merges_them():
    ugly = [("loft", {}), ("pattern", {"bays_across": 4, "bays_along": 4}), ("reciprocal", {})]
    ugly.append(("truncate", {"times": 5}))
    refused = list(outcomes(clauses(*ugly, ("frame", {}))).values())[-1]
    assert refused.status == "failed"
    assert refused.error_code == "edges without length"
    (remedy,) = refused.remedies
    mended = made(*ugly, (remedy.kind, remedy.values), ("frame", {}))
    assert mended.status == "done"


BARREL = [
    ("barrel", {"length": 12}),
    ("pattern", {"pattern": "quads", "bays_across": 8, "bays_along": 6}),
]


def depths(found):
    return found.figures["least_depth"].value, found.figures["most_depth"].value


def test_a_second_layer_lies_where_the_sentence_has_it():
    even = made(*BARREL, ("double-layer", {"depth": 0.8}))
    assert depths(even) == pytest.approx((0.8, 0.8))
    assert even.figures["members"].value == even.result.count
    middle = made(*BARREL, ("double-layer", {"reach": "middle", "depth": 0.5, "most": 1.5}))
    least, most = depths(middle)
    assert 0.5 < least < 0.9
    assert most == pytest.approx(1.5)
    pull = ("pull", {"points": [[0, 6, 3]], "reach": 3})
    drawn = made(
        BARREL[0], pull, BARREL[1], ("double-layer", {"reach": "pull", "depth": 0.5, "most": 1.5})
    )
    least, most = depths(drawn)
    assert least == pytest.approx(0.5)
    assert 0.5 < most <= 1.5
    outside = made(*BARREL, ("double-layer", {"side": "outside"}))
    count = len(outside.result.places) - len(even.result.places)
    assert count == 0
    higher = outside.result.places[-48:, 2].mean() - even.result.places[-48:, 2].mean()
    assert higher == pytest.approx(2.0 * even.result.normals[-48:, 2].mean(), rel=0.01)


def last_of(*rows, on):
    """What became of the last clause, which takes what is chosen for it."""
    return list(outcomes(clauses(*rows, on={-1: on})).values())[-1]


def test_a_second_layer_on_a_second_surface():
    rows = [*BARREL, ("barrel", {"length": 12, "rise": 5})]
    on = {"net": ["pattern-1"], "shape": ["barrel-2"]}
    found, failed = (
        last_of(*rows, ("double-layer", {"reach": "shape", "side": side}), on=on)
        for side in ("outside", "inside")
    )
    assert found.status == "done", found.error
    assert found.figures["least_depth"].value < found.figures["most_depth"].value
    assert (failed.error_code, failed.error_value) == ("no room for webs", "reach")
    none = last_of(*BARREL, ("double-layer", {"reach": "shape"}), on={})
    assert "choose one" in none.error


@pytest.mark.parametrize(
    ("pattern", "values", "code"),
    [
        ("hexagons", {"arrangement": "alternate"}, "bays not in turns"),
        ("quads", {"depth": 40.0}, "second layer folded"),
    ],
)
def test_a_second_layer_that_cannot_be_is_told_with_what_would_work(pattern, values, code):
    rows = [BARREL[0], (BARREL[1][0], BARREL[1][1] | {"pattern": pattern})]
    found = last_of(*rows, ("double-layer", values), on={})
    told = [(w.code, w.remedies) for w in found.warnings] + [(found.error_code, found.remedies)]
    (remedies,) = [r for own, r in told if own == code]
    again = made(*rows, ("double-layer", values | remedies[0].values))
    assert code not in [w.code for w in again.warnings]


def test_a_structure_goes_on_with_a_second_layer_and_keeps_its_numbers():
    frame = made(*BARREL, ("frame", {})).result
    alone = made(*BARREL, ("double-layer", {})).result
    rows = [*BARREL, ("frame", {}), ("double-layer", {})]
    both = last_of(*rows, on={"structure": ["frame-2"]}).result
    assert both.count == frame.count + alone.count
    assert both.since == (len(frame.places), frame.count)


DOUBLE = [*BARREL, ("double-layer", {})]
LOWEST = {"which": "heights", "low": -0.1, "high": 0.1}


def columns_of(found):
    """The columns of a structure: feet, heads."""
    made = found.result
    own = np.flatnonzero(made.role == role_number("column"))
    return made.places[made.ends[own, 0]], made.places[made.ends[own, 1]]


def test_columns_stand_where_they_are_to_and_their_feet_are_known():
    found = made(*DOUBLE, ("columns", LOWEST | {"level": -2.0}))
    feet, heads = columns_of(found)
    assert found.figures["columns"].value == len(feet) == 14
    assert found.result.foot.sum() == 14
    assert np.allclose(feet, heads - [0, 0, 2.0])
    assert found.figures["longest_column"].value == pytest.approx(2.0)
    one = made(*DOUBLE, ("columns", {"places": [[0, 0, 9], [0, 0, 8]], "level": -1}))
    feet, heads = columns_of(one)
    assert len(heads) == 1, "both places are nearest to one node"
    leaning = made(
        *DOUBLE, ("columns", LOWEST | {"way": "leaning", "towards": [[0, 6, -4]], "level": -3})
    )
    feet, heads = columns_of(leaning)
    to = np.array([0, 6, -4]) - heads
    way = feet - heads
    assert np.allclose(np.cross(to, way), 0, atol=1e-9)
    assert np.allclose(feet[:, 2], -3)
    normal = made(*DOUBLE, ("columns", LOWEST | {"way": "normal"}))
    feet, heads = columns_of(normal)
    assert np.abs(feet[:, 0]).min() < np.abs(heads[:, 0]).max()


def test_columns_by_chance_follow_their_seed():
    some = {"which": "chance", "share": 10, "level": -4}
    first, again, other = (
        columns_of(made(*DOUBLE, ("columns", some | {"seed": seed})))[1].tolist()
        for seed in (1, 1, 2)
    )
    assert first == again != other
    assert len(first) == len(other)


def test_columns_stand_under_the_middles_of_some_cells_or_where_a_net_was_held():
    some = {"which": "cells", "share": 20, "seed": 3, "level": -4}
    flat = [("barrel", {"length": 12, "rise": 0.5}), *DOUBLE[1:]]
    *_, net, _, found = outcomes(clauses(*flat, ("columns", some))).values()
    _, heads = columns_of(found)
    assert len(heads) == round(0.2 * net.result.cell_count)
    away = np.linalg.norm(net.result.cell_means[:, None, :2] - heads[:, :2], axis=2)
    # Under the node of the second layer, which is in the middle of its bay.
    assert away.min(axis=0).max() < 0.4
    assert (heads[:, 2] < net.result.vertices[:, 2].max()).all()
    settled = [*BARREL[:2], ("hold", {"which": "corners"}), ("settle", {})]
    *_, net, _, found = outcomes(
        clauses(*settled, ("frame", {}), ("columns", {"which": "held"}))
    ).values()
    _, heads = columns_of(found)
    held = net.result.equilibrium.held.any(axis=1)
    assert sorted(heads.tolist()) == sorted(net.result.vertices[held].tolist())


def test_columns_stand_on_a_ground_and_those_that_miss_it_are_told():
    ground = (
        "saddle",
        {"first": [-9, -9, -3], "second": [9, -9, -2], "third": [9, 3, -3], "fourth": [-9, 3, -2]},
    )
    rows = [*DOUBLE, ground, ("columns", LOWEST | {"down": "ground"})]
    on = {"structure": ["double-layer-2"], "ground": ["saddle-3"]}
    found = last_of(*rows, on=on)
    feet, _ = columns_of(found)
    assert found.status == "done"
    assert len(feet) < 14
    assert ((feet[:, 2] >= -3) & (feet[:, 2] <= -2)).all()
    (told,) = [w for w in found.warnings if "miss" in w.text]
    assert told.text.startswith(f"{14 - len(feet)} columns")
    assert len(told.which) == 14 - len(feet)
    assert "choose one" in last_of(*rows, on={"structure": ["double-layer-2"]}).error


def test_columns_branch_from_as_many_trunks_as_are_wanted():
    values = LOWEST | {"way": "branching", "trunks": 3, "level": -4.0}
    once, twice = (made(*DOUBLE, ("columns", values | {"levels": n})) for n in ("once", "twice"))
    assert once.figures["columns"].value == twice.figures["columns"].value == 3
    assert once.figures["branches"].value == 14
    # What is above a fork is halved, but for single nodes.
    assert 14 + 3 < twice.figures["branches"].value <= 14 + 2 * 3
    assert once.result.foot.sum() == 3
    held = once.result.places[once.result.foot]
    assert np.allclose(held[:, 2], -4)


@pytest.mark.parametrize(
    ("values", "value", "words"),
    [
        ({"way": "branching", "places": [[0, 0, 9]], "trunks": 2}, "trunks", "cannot share"),
        ({"way": "branching", "trunks": 1, "level": 30}, "level", "does not reach"),
        ({"level": 20.0}, "level", "No column reaches"),
        ({"which": "heights", "low": 50, "high": 60}, "low", "lie between heights of 0.00 m and"),
        ({"which": "chance", "share": 0}, "share", "No node"),
        ({"which": "cells", "share": 0}, "share", "No node"),
        ({"which": "held"}, "which", "has not settled"),
        ({"way": "leaning", "towards": [[0, 0, 30]], "places": [[5, 0, 0]]}, "level", "No column"),
    ],
)
def test_columns_that_cannot_stand_say_why(values, value, words):
    found = last_of(*DOUBLE, ("columns", values), on={})
    assert (found.status, found.error_value) == ("failed", value)
    assert words in found.error


@pytest.mark.parametrize(
    ("values", "titles"),
    [
        ({"role": "purlin"}, ["Take all chords", "Take all webs"]),
        ({"which": "section", "given": "IPE 200"}, ["Take those in "]),
        ({"which": "length", "shortest": 90, "longest": 99}, ["Take all members"]),
        ({"which": "heights", "low": 90, "high": 99}, ["Take all members"]),
    ],
)
def test_where_no_member_is_meant_others_are_offered_that_are(values, titles):
    found = last_of(*DOUBLE, ("give-section", values), on={})
    assert (found.status, found.error_code) == ("failed", "no member meant")
    assert all(r.title.startswith(tuple(titles)) for r in found.remedies)
    assert found.remedies[0].title.startswith(titles[0])
    for remedy in found.remedies:
        mended = made(*DOUBLE, ("give-section", values | dict(remedy.values)))
        assert mended.figures["meant"].value > 0


def test_columns_too_long_or_too_near_are_told_with_places():
    close = {"which": "chance", "share": 60, "level": -30, "apart": 1.5}
    found = made(*DOUBLE, ("columns", close))
    long, near = (
        next(w for w in found.warnings if w.value == value) for value in ("longest", "apart")
    )
    assert len(long.which) == found.figures["columns"].value
    assert (np.array(long.which) >= found.result.since[1]).all()
    assert near.at is not None
    assert "1.5 m" in near.text


def test_a_second_row_of_columns_leaves_the_first_its_names():
    first = made(*DOUBLE, ("columns", LOWEST)).result
    second = made(*DOUBLE, ("columns", LOWEST), ("columns", {"places": [[0, 6, 2]]})).result
    assert second.count == first.count + 1
    names = [names_of_structure(s).every_member[: first.count] for s in (first, second)]
    assert names[0] == names[1]
