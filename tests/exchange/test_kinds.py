"""What the outside does with results: one object a type, and nothing that is listed twice."""

import re
from pathlib import Path
from unittest.mock import Mock

import numpy as np
import pytest

from leanlattice.core.materials import FINISHES, MATERIALS
from leanlattice.core.results import RESULT_TYPES, Result, result_type
from leanlattice.exchange import wire
from leanlattice.exchange.groups import GROUPS
from leanlattice.exchange.kinds import KINDS, kind_of, types_with
from leanlattice.exchange.kinds.kind import Kind, Layer, Picture
from leanlattice.exchange.pack import WRITERS
from leanlattice.exchange.subjects import subjects_of
from leanlattice.statement.document import ClauseEntry, Statement
from leanlattice.statement.evaluate import ResultCache, evaluate

ARMS = {"meeting": "arms"}
ROOF = ["loft", "pattern", "frame", "panels", "name", "set-out"]


def evaluated(*clauses):
    entries = [
        ClauseEntry(id=id, kind=kind, values=values, on=on) for id, kind, values, on in clauses
    ]
    return list(evaluate(Statement(clauses=entries), ResultCache()))


def of_kinds(*kinds):
    return evaluated(*((kind, kind, {}, {}) for kind in kinds))


def test_every_type_that_is_more_than_a_help_has_a_kind():
    assert set(KINDS) == {name for name, told in RESULT_TYPES.items() if not told.serves}


def test_what_picks_and_colours_is_there():
    layers = [layer.name for kind in KINDS.values() for layer in kind.layers]
    assert len(layers) == len(set(layers))
    for name, kind in KINDS.items():
        own = {layer.name: layer.thing for layer in kind.layers}
        assert {t for t in own.values() if t} <= set(RESULT_TYPES[name].things)
        for measure in kind.measures:
            assert measure.layer in own
            assert measure.thing == own[measure.layer]


def test_measures_are_sent_by_the_names_they_are_told_by():
    seen = set()
    roof = ((kind, kind, ARMS if kind == "frame" else {}, {}) for kind in ROOF)
    others = ("node-plates", "strips", "unroll", "box", "waffle", "solids")
    line = [[[0, 0], [3, 2]], [[3, 2], [6, 0]]]
    portal = [
        ("curves", "draw", {"curves": [["line", ends] for ends in line], "plane": "front"}, {}),
        ("steel", "frame-curves", {}, {}),
        ("bolted", "plate-ends", {"which": "all", "at": "pairs"}, {}),
        ("end-plates", "end-plates", {}, {}),
    ]
    ball = [("seated", "frame", {"meeting": "seats"}, {}), ("hubs", "hubs", {}, {})]
    for outcome in evaluated(*roof, *((kind, kind, {}, {}) for kind in others), *ball, *portal):
        kind = KINDS.get(outcome.gives)
        if kind is None or kind.measured is None:
            continue
        sent = kind.measured(outcome.result)
        settled = {m.name for m in kind.measures if m.layer == "forces"}
        assert {m.name for m in kind.measures} - settled <= sent.keys()
        seen.add(kind.name)
    assert seen == {name for name, kind in KINDS.items() if kind.measures}


def test_unrolled_parts_are_drawn_in_triangles_as_they_stand_and_as_they_lie():
    *_, last = of_kinds("barrel", "pattern", "unroll")
    told, arrays = KINDS["Unrolled"].drawing(last.result)
    parts, owner = last.result.parts, arrays["owner"]
    assert told["labels"] == [part.label for part in parts]
    stand, flat = (arrays[name][arrays["triangles"]] for name in ("positions", "flat"))
    for corners, within in ((stand, 0.05), (flat, 1e-4)):
        sides = np.cross(corners[:, 1] - corners[:, 0], corners[:, 2] - corners[:, 0])
        area = np.bincount(owner, np.linalg.norm(sides, axis=1) / 2)
        assert area == pytest.approx([part.area / 1e6 for part in parts], rel=within)
    # What is flat is all in the plane of its part.
    for k, part in enumerate(parts):
        off = (flat[owner == k] - part.pose[:3, 3]) @ part.pose[:3, 2]
        assert np.abs(off).max() * 1000 < 1e-3


def test_groups_and_writers_are_the_same_and_need_what_there_is():
    assert GROUPS.keys() == WRITERS.keys()
    for group in GROUPS.values():
        assert set(group.needs) <= KINDS.keys()
    in_groups = {s.group for kind in KINDS.values() for s in kind.schedules}
    assert in_groups <= GROUPS.keys()
    of_structures = {"Structure", "Panels", "Ribs", "Strips", "NodePlates", "EndPlates", "Hubs"}
    assert of_structures | {"Shape", "Net", "Solids"} == set(types_with("solids"))


def test_a_type_without_a_drawing_of_its_own_is_drawn_by_its_picture(monkeypatch):
    monkeypatch.setattr("leanlattice.core.results.RESULT_TYPES", dict(RESULT_TYPES))

    @result_type("Tent", "tent")
    class Tent(Result):
        pass

    def picture(tent):
        places = np.array([[0, 0, 0], [1, 0, 0], [0, 1, 1.0]])
        return Picture(places, np.array([[0, 1, 2]], np.int32), [places[[0, 1, 2]]])

    kind = Kind("Tent", layers=(Layer("tents", "Tents"),), picture=picture)
    monkeypatch.setitem(KINDS, "Tent", kind)
    header, arrays = wire.unpack_arrays(wire.geometry("k", Tent()))
    assert header["of"] == "Tent"
    assert arrays["triangles"].tolist() == [[0, 1, 2]]
    ends = arrays["positions"][arrays["lines"]]
    assert ends.tolist() == [[[0, 0, 0], [1, 0, 0]], [[1, 0, 0], [0, 1, 1]]]


def test_what_only_serves_is_no_subject_and_sheets_are_numbered_on():
    small = {"along_x": 1.0, "along_y": 1.0, "height": 0.5}
    outcomes = evaluated(
        ("b1", "box", small, {}),
        ("w1", "waffle", {"number_first": 2, "number_second": 2}, {}),
        ("st", "sheet-stock", {}, {}),
        ("s1", "set-out", {}, {"parts": ["w1"]}),
        ("b2", "box", small, {}),
        ("w2", "waffle", {"number_first": 2, "number_second": 2}, {"shape": "b2"}),
        ("s2", "set-out", {}, {"parts": ["w2"]}),
    )
    assert all(o.status == "done" for o in outcomes)
    subjects = {s.clause: s for s in subjects_of(outcomes)}
    assert subjects.keys() == {"b1", "w1", "s1", "b2", "w2", "s2"}
    assert subjects["w1"].sheets_before == 0
    assert subjects["w2"].sheets_before == subjects["w1"].on_sheets.layout.sheet_count > 0
    assert not subjects["w1"].ends
    assert subjects["s2"].ends


@pytest.mark.parametrize("facet", ["solids", "lines", "building"])
def test_facets_of_what_something_was_made_of_are_empty(facet):
    """A net with a structure on it and the shape below are in no file twice."""
    for subject in subjects_of(of_kinds("loft", "pattern", "frame")):
        build = getattr(KINDS[subject.type], facet)
        if build is None or subject.type == "Structure":
            continue
        model = Mock()
        made = build(model, subject) if facet == "building" else build(subject)
        assert not model.mock_calls
        assert not list(made or ())


@pytest.mark.parametrize(
    ("inner", "border", "looks", "colour"),
    [
        ("Timber 60 × 160", "CHS 88.9 × 4", [(178, 146, 92), None], (178, 146, 92)),
        ("CHS 60.3 × 4", "Timber 60 × 160", [None, (178, 146, 92)], Picture(0, None, []).colour),
    ],
)
def test_structures_are_drawn_in_what_they_are_of(inner, border, looks, colour):
    frame = ("frame", "frame", {"inner": inner, "border": border}, {})
    *_, made = evaluated(("loft", "loft", {}, {}), ("pattern", "pattern", {}, {}), frame)
    kind = KINDS["Structure"]
    told, _ = kind.drawn(made.result)
    assert [section["look"] for section in told["sections"]] == looks
    assert kind.picture(made.result).colour == colour


def test_the_view_knows_how_every_material_takes_light():
    source = Path(__file__).parents[2] / "frontend" / "src" / "view" / "finishes.ts"
    known = re.search(r"FINISHES = \[(.*)\] as const", source.read_text(encoding="utf-8"))
    assert known
    assert set(re.findall(r'"(\w+)"', known[1])) == set(FINISHES.values())
    assert {material.finish for material in MATERIALS.values()} == set(FINISHES.values())


def test_finishes_are_sent_with_what_is_of_a_material():
    kinds = [kind for kind in ROOF if kind not in ("name", "set-out")]
    kinds += ["strips", "box", "waffle", "solids"]
    made = [outcome.result for outcome in of_kinds(*kinds) if outcome.status == "done"]
    told = [kind.drawing(result)[0] for result in made if (kind := kind_of(result))]
    looking = [t for t in told if "looks" in t]
    assert len(looking) >= 3
    for t in looking:
        assert len(t["finishes"]) == len(t["looks"]) == len(t["clear"])
    (framed,) = (t["sections"] for t in told if "sections" in t)
    assert {section["finish"] for section in framed} == {"metal"}
