"""Results of every type of clause leave their process and come back as they were."""

from __future__ import annotations

import io
import pickle
from dataclasses import fields, is_dataclass

import numpy as np
import pytest
import shapely
from PIL import Image

from leanlattice.clauses.base import Take
from leanlattice.clauses.registry import CLAUSE_TYPES, checked
from leanlattice.core.results import RESULT_TYPES, Result, result_type, type_of
from leanlattice.exchange import wire
from leanlattice.exchange.readers import open_brought
from leanlattice.statement.document import ClauseEntry, Statement
from leanlattice.statement.evaluate import ResultCache, evaluate

from .test_any_values import BEFORE


def picture():
    out = io.BytesIO()
    Image.new("RGB", (40, 30), "white").save(out, "PNG")
    return out.getvalue()


PICTURE = picture()
FILES = {
    "import": ("part.obj", b"v 0 0 0\nv 2 0 0\nv 2 3 0\nv 0 3 1\nf 1 2 3\nf 1 3 4\n"),
    "bring-lines": ("rods.csv", b"x1,y1,z1,x2,y2,z2\n0,0,0,2,0,0\n2,0,0,2,3,1\n"),
    "wireframe": ("rods.csv", b"x1,y1,z1,x2,y2,z2\n0,0,0,2,0,0\n2,0,0,2,3,1\n2,3,1,0,0,0\n"),
    "bring-curves": (
        "ring.svg",
        b'<svg xmlns="http://www.w3.org/2000/svg" width="9mm" height="9mm"><path d="M0 0H9V9Z"/></svg>',
    ),
    "underlay": ("plan.png", PICTURE),
    "ground": ("heights.csv", b"0,0,1\n9,0,2\n9,9,1\n0,9,3\n4,4,2\n"),
}
BALL, SHEET = ("ball", {"solid": "body"}), ("barrel", {})
RISING = ("draw", {"curves": [["line", [[1, 0], [2, 3]]]], "plane": "front"})
ALONG = ("draw", {"curves": [["spline", [[-3, -1], [0, 0.5], [3, 0]]]]})
ARCH = [
    (
        "draw",
        {
            "curves": [["arc", [[-6, 0], [0, 3], [6, 0]]], ["line", [[-6, 0], [6, 0]]]],
            "plane": "front",
        },
    ),
]
NET = ("pattern", {"bays_across": 6, "bays_along": 8})
GIVEN = {
    "revolve": [RISING],
    "translate": [RISING, ("draw", {"curves": [["line", [[0, 0], [0, 4]]]]})],
    "trim-curves": [ALONG, ("draw", {})],
    "regions": [("draw", {})],
    "set-out": [SHEET, NET, ("panels", {})],
    "node-plates": [SHEET, NET, ("frame", {"meeting": "arms"})],
    "plate-ends": [*ARCH, ("frame-curves", {}), ("columns", {})],
    "end-plates": [*ARCH, ("frame-curves", {}), ("plate-ends", {"which": "all", "at": "pairs"})],
    "tube-ends": [SHEET, NET, ("frame", {})],
    "hubs": [SHEET, NET, ("frame", {"meeting": "seats"})],
    "rib-slots": [BALL, ("waffle", {})],
    "rib-feet": [BALL, ("waffle", {})],
    "rib-openings": [BALL, ("waffle", {})],
    "rib-rods": [("ball", {"solid": "body", "centre": [0, 0, 1]}), ("waffle", {})],
    "part-by-cells": [SHEET, NET, ("thicken", {})],
    "blocks": [("dome", {})],
    "check-solids": [BALL, ("solids", {})],
    "face-templates": [("box", {}), ("solids", {})],
    "combine": [BALL, ("box", {})],
    "between": [("barrel", {"centre": [0, 0, 9]}), SHEET],
    "hollow": [BALL],
    "openings": [BALL, ("draw", {"curves": [["circle", [[0, 0], [0.3, 0]]]]})],
    "repeat": [BALL],
    "faces": [("box", {})],
    "settle": [SHEET, NET, ("hold", {}), ("push", {}), ("aim", {})],
    "waffle": [BALL],
    "round-ribs": [BALL],
    "slices": [("ball", {"solid": "body", "radius": 0.4})],
    "splice-ribs": [BALL, ("waffle", {"number_first": 2, "number_second": 2})],
    "spine-ribs": [BALL, ALONG],
    "circles": [("draw", {})],
    "trusses": [("draw", {})],
    "lines-of": [SHEET, NET],
    "struts": [*ARCH, ("frame-curves", {})],
    "repeat-bay": [*ARCH, ("frame-curves", {})],
    "solids": [BALL],
}
"""What stands before a clause that could not work on just anything of the type it takes."""


def rows_before(kind):
    """What a clause can work on as it comes."""
    if kind in GIVEN:
        return GIVEN[kind]
    rows = []
    for take in CLAUSE_TYPES[kind].takes:
        if take.types[0] in BEFORE and not take.optional:
            for _ in range(2 if take.many else 1):
                rows += BEFORE[take.types[0]][0]
    return rows


def made_by(kind):
    """The result of a clause with its values as they come."""
    values, content = {}, {}
    if kind in FILES:
        name, content[kind] = FILES[kind]
        values = {"file": ["0" * 64, name]}
    rows = [*rows_before(kind), (kind, values)]
    statement = Statement(
        clauses=[ClauseEntry(id=f"c{i}", kind=k, values=v) for i, (k, v) in enumerate(rows)]
    )

    def open_file(wanted, digest, name):
        return open_brought(wanted, name, content[kind])

    return list(evaluate(statement, ResultCache(), open_file=open_file))[-1]


def differences(one, two, where="", seen=None):
    """Fields of two results that are not the same."""
    seen = set() if seen is None else seen
    if id(one) in seen:
        return
    seen.add(id(one))
    if type(one) is not type(two):
        yield where
    elif isinstance(one, np.ndarray):
        if one.dtype != two.dtype or not np.array_equal(one, two, equal_nan=one.dtype.kind == "f"):
            yield where
    elif isinstance(one, shapely.Geometry):
        if not shapely.equals_identical(one, two):
            yield where
    elif is_dataclass(one):
        for f in fields(one):
            name = f"{where}.{f.name}"
            yield from differences(getattr(one, f.name), getattr(two, f.name), name, seen)
    elif isinstance(one, list | tuple) and len(one) == len(two):
        for k, pair in enumerate(zip(one, two, strict=True)):
            yield from differences(*pair, f"{where}[{k}]", seen)
    elif isinstance(one, dict):
        for key in one:
            yield from differences(one[key], two.get(key), f"{where}[{key}]", seen)
    elif isinstance(one, str | int | float | bool | type(None)) and one != two:
        yield where


@pytest.mark.parametrize("kind", CLAUSE_TYPES)
def test_a_result_comes_back_as_it_was(kind):
    made = made_by(kind)
    assert made.status == "done", made.error
    assert isinstance(made.result, RESULT_TYPES[CLAUSE_TYPES[kind].gives].classes)
    before = wire.geometry(made.key, made.result, made.aids)
    text = pickle.dumps(made.result)
    back = pickle.loads(text)
    assert list(differences(made.result, back)) == []
    assert wire.geometry(made.key, back, made.aids) == before
    # What was worked out of it in the meantime does not travel.
    assert abs(len(pickle.dumps(back)) - len(text)) < 100 + 0.01 * len(text)


def test_a_type_that_is_declared_nowhere_is_told_at_once():
    class Odd(CLAUSE_TYPES["frame"]):
        kind = "odd"
        takes = (Take(name="net", types=("Nett",), label="Net"),)

    with pytest.raises(TypeError, match="“odd” takes or gives “Nett”"):
        checked([Odd])


def test_classes_of_one_type_tell_the_same_of_it(monkeypatch):
    monkeypatch.setattr("leanlattice.core.results.RESULT_TYPES", dict(RESULT_TYPES))

    class Other(Result):
        pass

    with pytest.raises(TypeError, match="something else"):
        result_type("Shape", "form")(Other)
    assert type_of(Other()) is None
