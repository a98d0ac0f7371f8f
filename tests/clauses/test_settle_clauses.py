"""Clauses of chapter Settle together: the demos, what collapses and why, remedies, going on, and the words for bad input."""

from __future__ import annotations

import re

import numpy as np
import pytest
import shapely
from hypothesis import given, settings
from hypothesis import strategies as st

from leanlattice.core.geometry.nets import Net
from leanlattice.core.geometry.polygons import areas
from leanlattice.core.naming.numbering import bands, narrowest_bands
from leanlattice.core.structure.roles import ROLE_NAMES
from leanlattice.exchange.balance import carries
from leanlattice.statement.document import ClauseEntry, Statement, read_statement
from leanlattice.statement.evaluate import Cancelled, ResultCache, evaluate
from leanlattice.statement.plan import plan

from ..conftest import DEMO
from ..known import approx, held_to, known
from .test_shape_clauses import clauses, outcomes

VAULT = ("barrel", {"length": 12})
QUADS = ("pattern", {"pattern": "quads", "bays_across": 10, "bays_along": 12})
DIAGRID = ("pattern", {"pattern": "diagrid", "bays_across": 10, "bays_along": 12})
SHEET = ("loft", {"profiles": [[[-5, -6, 0], [5, -6, 0]], [[-5, 6, 0], [5, 6, 0]]]})
DISC = ("dome", {"span": 10, "rise": 1})
HELD = [SHEET, QUADS, ("hold", {})]


def settled(*rows, **more):
    """The outcome of the last clause, with the words for what went wrong if something did."""
    return list(outcomes(clauses(*rows), **more).values())[-1]


def of_demo(name, drop=(), dimensions=None, **changes):
    """Outcomes of a demo, some clauses left out and some values and dimensions changed."""
    statement = read_statement((DEMO / f"{name}.json").read_bytes())
    kept = [
        c.model_copy(update={"values": {**c.values, **changes.get(c.id, {})}})
        for c in statement.clauses
        if c.id not in drop
    ]
    named = [
        d.model_copy(update={"value": (dimensions or {}).get(d.name, d.value)})
        for d in statement.dimensions
    ]
    changed = statement.model_copy(update={"clauses": kept, "dimensions": named})
    found = {o.id: o for o in evaluate(changed, ResultCache())}
    assert {o.status for o in found.values()} == {"done"}, [
        o.error for o in found.values() if o.error
    ]
    return found


def balanced(net, share=2e-3):
    """Whether all forces at each vertex add up to nothing, added up here one edge at a time."""
    b = net.equilibrium
    total = b.loads + b.reactions + b.aims
    for (i, j), force in zip(net.edges.tolist(), b.forces.tolist(), strict=True):
        way = net.vertices[j] - net.vertices[i]
        way = force * way / np.linalg.norm(way)
        total[i] = total[i] + way
        total[j] = total[j] - way
    loads = np.linalg.norm(b.loads, axis=1).mean()
    scale = (
        loads
        if loads > 1e-9
        else max(np.abs(b.forces).mean(), np.linalg.norm(b.aims, axis=1).mean())
    )
    return np.abs(total).max() < share * scale


@known(
    "Reed Canopy on 3, 4 and 5 columns",
    "border on its guide curve, feet on the ground, forces sum to nothing, strips fold up to it",
)
@pytest.mark.parametrize("columns", [3, 4, 5])
def test_the_canopy_rises_onto_its_guide_curve_and_stands_on_the_ground(columns):
    later = ("tubes", "names", "stock", "sheets")
    found = of_demo("reed-canopy", later, {"columns": columns})
    last = found["canopy"]
    net, guide = last.result, found["edge"].result.curves[0]
    outer = max(net.loops, key=lambda loop: np.ptp(net.vertices[loop], axis=0).max())
    line = shapely.LineString(guide.points(np.linspace(0, 1, 400_001))[:, :2])
    assert shapely.distance(line, shapely.points(net.vertices[outer, :2])).max() < 1e-7, (
        "on the curve itself, as near as its samples are"
    )
    held_to(np.abs(net.vertices[outer, 2] - 4.2).max(), 1e-9)
    feet = np.setdiff1d(net.loop_vertices, outer)
    held_to(np.abs(net.vertices[feet, 2]).max(), 1e-15)
    assert len(net.loops) == columns + 1
    assert balanced(net)
    held_to(last.figures["residual"].value, 0.1)
    assert not [w for w in last.warnings if "collapsed" in w.text or "folded" in w.text]
    strips = found["cuts"].result
    held_to(strips.off, 1e-4)
    assert np.array_equal(strips.vertices, net.vertices)
    assert not len(strips.large)


@known("Boat Hall of 12 lengths", "its members of 12 lengths, and their saw lengths, to 1 mm")
def test_a_net_is_settled_to_a_few_lengths_and_its_members_are_cut_to_as_few():
    found = of_demo("boat-hall", ("glazing", "sheets"))
    before, after = found["net"].result, found["alike"].result
    grouped = [narrowest_bands(before.edge_lengths[own], kinds)
               for own, kinds in ((~before.border, 9), (before.border, 3))]  # fmt: skip
    for own, group in zip((~before.border, before.border), grouped, strict=True):
        lengths = after.edge_lengths[own]
        for k in np.unique(group):
            held_to(np.ptp(lengths[group == k]), 1e-3)
    assert found["alike"].figures["distinct_lengths"].value == 12
    assert found["alike"].figures["moved"].value < 0.2
    structure = found["names"].result
    cut = structure.cut_lengths[structure.role < 2]
    section = structure.section_of[structure.role < 2]
    kinds = sum(int(bands(cut[section == k], 0.001).max()) + 1 for k in np.unique(section))
    assert kinds == 12
    # Rails between the feet are coped, and add but the kinds the border has there.
    assert structure.cuts.is_saddle.all()
    assert structure.cuts.count == 2 * (structure.role == ROLE_NAMES.index("strut")).sum()
    assert found["plates"].result.count == len(before.vertices)


def test_lengths_that_are_nearly_alike_become_one():
    *_, net, _, _, last = outcomes(
        clauses(
            ("dome", {"span": 10, "rise": 3}),
            ("pattern", {"pattern": "triangles", "density": "module", "module": 1.5}),
            ("aim", {"aim": "merged", "tolerance": 60, "strength": 1e4}),
            ("aim", {"aim": "close", "strength": 1}),
            ("settle", {}),
        )
    ).values()
    group = bands(net.result.edge_lengths, 0.06)
    lengths = last.result.edge_lengths
    assert 1 < group.max() + 1 < 12
    for k in np.unique(group):
        assert np.ptp(lengths[group == k]) < 2e-3
    assert last.figures["moved"].value < 0.1


def test_without_its_saving_aim_the_canopys_border_slides_together():
    last = of_demo("reed-canopy", ("even", "tubes", "names", "stock", "cuts", "sheets"))["canopy"]
    words = " ".join(w.text for w in last.warnings)
    assert re.search(r"edges of the outer border have all but collapsed.*slide together", words), (
        words
    )
    remedy = next(r for w in last.warnings for r in w.remedies)
    assert (remedy.kind, remedy.values) == ("aim", {"aim": "equal", "over": "outer"})


@known("hall turned over", "compression alone, rise as asked, reactions carry the load")
def test_the_hall_stands_as_it_hangs_turned_over():
    found = of_demo("boat-hall-hung")
    net = found["hung"].result
    assert np.ptp(net.vertices[:, 2]) == approx(6.0, rel=1e-6)
    assert net.vertices[:, 2].min() > -1e-9
    assert net.equilibrium.forces.max() < 1e-9, "nothing but compression"
    assert net.equilibrium.reactions[:, 2].sum() == approx(
        -net.equilibrium.loads[:, 2].sum(), rel=1e-6
    )
    assert balanced(net)
    held = plan(read_statement((DEMO / "boat-hall-hung.json").read_bytes()))
    assert {s.entry.kind for s in held} >= {"hold", "push", "aim", "settle", "frame"}
    # Without its saving aim the middle is held by nothing.
    rows = [SHEET, DIAGRID, ("hold", {"which": "side"}), ("hold", {"which": "side", "azimuth": 180}), ("push", {}),
            ("aim", {"aim": "density", "density": 6, "over": "border"}), ("settle", {"sense": "standing"})]  # fmt: skip
    lost = settled(*rows)
    assert lost.status == "failed"
    assert "vertices are held by nothing" in lost.error
    assert lost.remedies


def test_the_gallerys_cage_is_relaxed_and_a_film_without_a_mesh_of_its_own_collapses():
    found = of_demo("tide-gallery")
    relaxed = found["relaxed"]
    assert not relaxed.warnings
    assert relaxed.figures["moved"].value > 0.5
    assert balanced(relaxed.result)
    area = [
        areas(n.vertices, n.corners, n.offsets).sum()
        for n in (found["faces"].result, relaxed.result)
    ]
    assert area[1] < 0.98 * area[0]
    assert found["laths"].result.weave is not None
    top = found["relaxed"].result.vertices[:, 2].max()
    assert found["laths"].result.vertices[:, 2].max() == pytest.approx(top, abs=0.05), (
        "woven on the relaxed roof"
    )
    after = ("roof", "net", "tidy", "laths", "timber", "lengths", "names", "stock")
    lost = of_demo("tide-gallery", drop=("even", *after), relaxed={"steps": 900})["relaxed"]
    assert any("edges within have all but collapsed" in w.text for w in lost.warnings), (
        lost.warnings
    )


@known("roof of 1,040 quads", "flat from 18 mm; apart when nothing keeps it")
def test_a_roof_of_quads_is_flattened_and_slides_apart_when_nothing_keeps_it():
    found = of_demo("seed-house")
    before, after = found["bays"].result, found["glazed"].result
    assert before.flatness.max() > 0.015
    held_to(after.flatness.max(), 0.001)
    assert found["panes"].figures["split"].value == 0
    # Drawn to the shape alone, the cells are as flat where they have slid together.
    left_out = (
        "fair",
        "flatter",
        "nearby",
        "glazed",
        "grid",
        "trees",
        "hubs",
        "panes",
        "names",
        "stock",
    )
    lost = of_demo("seed-house", drop=left_out, near={"aim": "skin", "strength": 1})["fairly"]
    assert any("collapsed" in w.text for w in lost.warnings), lost.warnings


@pytest.mark.parametrize(
    ("rows", "words", "value"),
    [
        ([SHEET, QUADS, ("push", {}), ("settle", {})], "Nothing is held along x", None),
        ([SHEET, QUADS, ("hold", {"how": "level"}), ("push", {}), ("settle", {})], "Nothing is held along x", None),
        ([SHEET, QUADS, ("hold", {"which": "inner"}), ("settle", {})], "finds no vertex", None),
        ([SHEET, QUADS, ("hold", {"how": "curve"}), ("settle", {})], "no curve above", "how"),
        ([SHEET, QUADS, ("draw", {"level": 900}), ("hold", {"how": "curve"}), ("settle", {})], "out of its reach", None),
        ([*HELD, ("push", {}), ("aim", {"aim": "density", "density": 0}), ("settle", {})],
         "cancel each other|runs away", None),
        ([*HELD, ("aim", {"aim": "between", "least": 3, "most": 1}), ("settle", {})], "exchange the two", "least"),
        ([*HELD, ("aim", {"aim": "length", "over": "third"}), ("settle", {})], "no such edges", None),
        ([*HELD, ("aim", {"aim": "length"}), ("settle", {"rise": "given"})], "force densities are aimed for", "rise"),
        ([*HELD, ("settle", {"rise": "given"})], "Nothing pushes the net", "rise"),
        ([*HELD, ("push", {"push": "section", "members": "CHS 1 × 1"}), ("settle", {})], "no section", "members"),
        ([*HELD, ("push", {"load": 1e9}), ("settle", {})], "Load is 1e\\+09", "load"),
    ],
)  # fmt: skip
def test_what_cannot_settle_is_said(rows, words, value):
    found = outcomes(clauses(*rows))
    wrong = next(o for o in found.values() if o.status == "failed")
    assert re.search(words, wrong.error), wrong.error
    if value:
        assert wrong.error_value == value
    assert all(o.status == "done" for o in list(found.values())[:2]), "what stands above goes on"


def test_a_hold_that_lengths_cannot_meet_is_named():
    line = ("draw", {"curves": [["line", [[-5, 20], [5, 20]]]], "level": 0})
    near, far = {"which": "side", "azimuth": 270}, {"which": "side", "azimuth": 90, "how": "curve"}
    rows = [SHEET, QUADS, ("hold", near), line, ("hold", far), ("aim", {"aim": "density", "density": 300.0}),
            ("aim", {"aim": "today", "strength": 10000}), ("settle", {})]  # fmt: skip
    last = settled(*rows)
    assert last.status == "done", last.error
    texts = [w.text for w in last.warnings]
    assert any("lengths as they were" in t for t in texts), texts
    tenth = [r for w in last.warnings for r in w.remedies if "strength" in r.values]
    assert tenth
    assert all((r.of, r.place) == ("aims", 1) for r in tenth)


def test_aims_that_fight_are_told_with_their_shares():
    rows = [
        VAULT,
        DIAGRID,
        ("aim", {"aim": "length", "length": 0.5}),
        ("aim", {"aim": "close", "strength": 100}),
        ("settle", {}),
    ]
    last = settled(*rows)
    text = next(w.text for w in last.warnings if "one length" in w.text)
    assert re.search(
        r"missed by up to [\d.]+ %: that for “closeness” pulls against \d+ % of its force", text
    ), text
    titles = {r.title: r for w in last.warnings for r in w.remedies}
    assert titles["Make “closeness” a tenth as strong"].values == {"strength": 10.0}
    assert last.figures["aim_1"].unit == "%"


@known("stopping and going on", "the same form as without stopping, to the last bit")
def test_stopping_going_on_and_beginning_again_give_the_same_form():
    rows = [
        VAULT,
        QUADS,
        ("hold", {}),
        ("push", {}),
        ("aim", {"aim": "equal"}),
        ("aim", {"aim": "close", "strength": 3}),
    ]
    cache, seen = ResultCache(), []

    def watch(clause, source, places, step, residual):
        seen.append((clause, source, step))
        return True

    def to(steps, cache=cache):
        statement = clauses(*rows, ("settle", {"steps": steps, "limit": 1e-4}))
        return list(evaluate(statement, cache, on_motion=watch))[-1]

    half = to(60)
    assert half.figures["steps"].value == 60
    assert any(
        "is not balanced" in w.text and w.remedies[0].values == {"steps": 120}
        for w in half.warnings
    )
    assert {(c, s) for c, s, _ in seen} == {("settle-6", "pattern-1")}
    seen.clear()
    whole = to(3000)
    assert min(step for _, _, step in seen) == 60, "it goes on from where it stopped"
    again = to(3000, ResultCache())
    assert np.array_equal(whole.result.vertices, again.result.vertices), "as if it had not stopped"
    assert list(whole.result.equilibrium.residuals) == list(again.result.equilibrium.residuals)
    cache.forget(
        [s.trail for s in plan(clauses(*rows, ("settle", {"steps": 60, "limit": 1e-4}))) if s.trail]
    )
    seen.clear()
    cache._made.clear()
    to(60)
    assert min(step for _, _, step in seen) == 0, "what is forgotten begins anew"


def test_a_settling_net_can_be_stopped_at_any_picture():
    rows = [
        VAULT,
        QUADS,
        ("hold", {}),
        ("push", {}),
        ("aim", {"aim": "today", "share": 115, "strength": 1e4}),
        ("settle", {"limit": 1e-6}),
    ]
    heard = []
    with pytest.raises(Cancelled):
        for _ in evaluate(clauses(*rows), ResultCache(), cancelled=lambda: len(heard) > 3,
                          on_motion=lambda *what: bool(heard.append(what[3]))):  # fmt: skip
            pass
    assert heard[-1] <= 40


PUSHES = {
    "plan": ({"load": 2}, lambda net: -2 * 12 * 10),
    "surface": ({"load": 2}, lambda net: -2 * areas(net.vertices, net.corners, net.offsets).sum()),
    "weight": ({"mass": 30}, lambda net: -30 * 9.80665e-3 * net.edge_lengths.sum()),
    "section": ({"members": "CHS 88.9 × 4"}, lambda net: -8.38 * 9.80665e-3 * net.edge_lengths.sum()),
    "skin": ({"thickness": 100, "density": 600},
             lambda net: -60 * 9.80665e-3 * areas(net.vertices, net.corners, net.offsets).sum()),
    "points": ({"force": 7, "places": [[0, 0, 0], [2, 3, 0]]}, lambda net: -14),
}  # fmt: skip


@pytest.mark.parametrize("push", PUSHES)
def test_pushes_add_up_to_what_they_say(push):
    values, total = PUSHES[push]
    last = settled(
        SHEET,
        QUADS,
        ("hold", {}),
        ("push", {"push": push, **values}),
        ("aim", {"density": 4.0}),
        ("settle", {}),
    )
    net = last.result
    assert net.equilibrium.loads[:, 2].sum() == pytest.approx(total(net), rel=2e-3)
    assert balanced(net)
    assert carries(net)


def test_pressure_pushes_along_the_normals():
    last = settled(
        SHEET,
        QUADS,
        ("hold", {}),
        ("push", {"push": "pressure", "load": 1.5}),
        ("aim", {"density": 8.0}),
        ("settle", {}),
    )
    loads = last.result.equilibrium.loads
    assert loads[:, 2].sum() == pytest.approx(1.5 * 120, rel=1e-3), (
        "its upward part acts on the plan"
    )
    assert np.abs(loads[:, :2]).max() > 0.05
    assert balanced(last.result)


HOLDS = {
    "side": ({"which": "side", "azimuth": 0}, lambda p: p[:, 0] > 5 - 1e-9),
    "corners": ({"which": "corners"}, lambda p: (np.abs(p[:, 0]) > 5 - 1e-9) & (np.abs(p[:, 1]) > 6 - 1e-9)),
    "heights": ({"which": "heights", "low": -1, "high": 1}, lambda p: p[:, 0] < 99),
    "places": ({"which": "places", "places": [[0, 0, 0], [3, 3, 0]]}, lambda p: (p == [0, 0, 0]).all(1) | (p == [3, 3, 0]).all(1)),
    "loops": ({"which": "loops", "places": [[0, 9, 0]]}, lambda p: (np.abs(p[:, 0]) > 5 - 1e-9) | (np.abs(p[:, 1]) > 6 - 1e-9)),
}  # fmt: skip


@pytest.mark.parametrize("which", HOLDS)
@pytest.mark.parametrize("how", ["fixed", "level", "plumb", "upright"])
def test_holds_keep_exactly_what_they_say(which, how):
    values, expected = HOLDS[which]
    near = ("aim", {"aim": "close", "strength": 0.2})
    last = settled(SHEET, QUADS, ("hold", {**values, "how": how, **({} if which == "side" else {"azimuth": 90})}),
                   ("push", {"load": 0.3}), ("aim", {"density": 1.0}), near, ("settle", {}))  # fmt: skip
    if (which, how) == ("heights", "fixed"):
        assert "no such edges that are free to move" in last.error
        return
    assert last.status == "done", last.error
    start = settled(SHEET, QUADS).result.vertices
    held, moved = expected(start), last.result.vertices - start
    axes = {
        "fixed": [0, 1, 2],
        "level": [2],
        "plumb": [0, 1],
        "upright": [0 if which == "side" else 1],
    }[how]
    assert held.any()
    assert np.abs(moved[held][:, axes]).max() < 1e-9
    assert np.abs(moved[~held]).max() > 1e-3 if not held.all() else True
    reactions = last.result.equilibrium.reactions
    assert np.abs(reactions[~held]).max(initial=0.0) == 0.0


@given(st.integers(0, 359), st.floats(0.3, 4))
@settings(max_examples=8, deadline=None)
def test_the_side_of_a_round_net_is_the_quarter_towards_it(azimuth, density):
    last = settled(DISC, ("pattern", {"pattern": "quads", "bays_across": 24, "bays_along": 5}),
                   ("hold", {"which": "side", "azimuth": azimuth}), ("push", {"load": -0.5}), ("aim", {"density": density}),
                   ("settle", {}))  # fmt: skip
    r = last.result.equilibrium.reactions
    held = np.flatnonzero(np.linalg.norm(r, axis=1) > 0)
    assert 5 <= len(held) <= 8
    assert balanced(last.result)
    assert r[:, 2].sum() == pytest.approx(-last.result.equilibrium.loads[:, 2].sum(), rel=1e-6)


def test_a_settled_net_is_a_shape_for_another_pattern():
    rows = [
        SHEET,
        QUADS,
        ("hold", {}),
        ("push", {"load": -2}),
        ("settle", {}),
        ("net-shape", {}),
        ("pattern", {"pattern": "hexagons"}),
    ]
    found = list(outcomes(clauses(*rows)).values())
    net = found[-1].result
    assert isinstance(net, Net)
    assert net.vertices[:, 2].max() == pytest.approx(found[4].result.vertices[:, 2].max(), rel=0.02)
    assert net.equilibrium is None, "another net has no forces yet"


def test_the_same_statement_gives_the_same_form():
    statement = Statement(clauses=[
        ClauseEntry(id="a", kind="barrel"), ClauseEntry(id="b", kind="pattern", values={"bays_across": 8, "bays_along": 9}),
        ClauseEntry(id="c", kind="hold", values={"which": "corners"}), ClauseEntry(id="d", kind="push"),
        ClauseEntry(id="e", kind="aim", values={"aim": "equal"}), ClauseEntry(id="f", kind="aim", values={"aim": "film"}),
        ClauseEntry(id="g", kind="settle", values={"steps": 300}),
    ])  # fmt: skip
    first, second = (list(evaluate(statement, ResultCache()))[-1].result.vertices for _ in range(2))
    assert np.array_equal(first, second)


def test_a_net_that_is_where_its_aims_want_it_stays_and_is_there_at_once():
    """All edges of one length are made of few lengths: nothing pulls but what rounding leaves."""
    few = ("aim", {"aim": "few", "kinds": 6, "strength": 1e4})
    last = settled(SHEET, QUADS, ("hold", {}), few, ("settle", {}))
    assert not last.warnings
    assert last.figures["steps"].value < 5
    assert last.figures["moved"].value < 1e-9
