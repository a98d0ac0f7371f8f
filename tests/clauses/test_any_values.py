"""Whatever values are allowed, a clause gives a result or a sentence that says what would work."""

from __future__ import annotations

import re

import pytest
from hypothesis import given, settings
from hypothesis import strategies as st

from leanlattice.clauses.registry import CLAUSE_TYPES
from leanlattice.exchange import wire
from leanlattice.statement.document import ClauseEntry, Statement
from leanlattice.statement.evaluate import ResultCache, evaluate, last_of_each

from ..known import known

SOLID = [("ball", {"solid": "body", "radius": 1}), ("box", {}), ("torus", {"solid": "body"})]
BODIES = [
    *([one] for one in SOLID), [("draw", {}), ("extrude", {})], [("draw", {}), ("funnels", {})],
    [("barrel", {}), ("thicken", {})], [("barrel", {}), ("base", {})], [*SOLID[:2], ("combine", {})],
]  # fmt: skip
SHAPES = [[(k, {})] for k in ("barrel", "ball", "saddle", "loft", "dome", "cage")] + BODIES
NETS = [[(k, {}), ("pattern", {})] for k in ("barrel", "dome", "ball", "saddle")]
FRAME = [("barrel", {}), ("pattern", {}), ("frame", {})]
BEFORE = {
    "Shape": SHAPES, "Curves": [[("draw", {})]], "Net": NETS, "Structure": [FRAME], "Panels": [[*FRAME, ("panels", {})]],
    "Ribs": [[SOLID[0], ("waffle", {}), ("slices", {"series": "P"})]],
}  # fmt: skip
"""What may stand before a clause that takes a result of a type."""
FACTORS = (0.0, 0.1, 0.3, 0.5, 0.8, 1.2, 2.0, 4.0, -1.0)
RIBS = [k for k, c in CLAUSE_TYPES.items() if c.gives == "Ribs"]
OTHERS = [k for k, c in CLAUSE_TYPES.items() if c.gives != "Ribs"]


def value(spec):
    """Any value of a kind that is one number or word: its ends, and what lies about its default."""
    if spec.kind == "choice":
        return st.sampled_from([c.key for c in spec.choices])
    if spec.kind == "count":
        return st.sampled_from(
            sorted({min(max(n, spec.least), spec.most) for n in (0, 1, 2, 3, 5, 8, 20)})
        )
    size = abs(spec.default) if isinstance(spec.default, int | float) and spec.default else 1.0
    about = {min(max(round(f * size, 4), spec.least), spec.most) for f in FACTORS}
    return st.sampled_from(sorted({spec.least, spec.most, *about}))


def values(kind):
    """Some of a clause's values, the others as they come."""
    plain = {
        n: s
        for n, s in CLAUSE_TYPES[kind].specs().items()
        if s.kind in ("number", "count", "choice")
    }
    return st.fixed_dictionaries({}, optional={n: value(s) for n, s in plain.items()})


@st.composite
def statements(draw, kinds, shapes=SHAPES):
    """A clause of some kind with any values, after what it can work on."""
    kind = draw(st.sampled_from(kinds))
    rows = []
    for take in CLAUSE_TYPES[kind].takes:
        known = [name for name in take.types if name in BEFORE]
        if known and not (take.optional and draw(st.booleans())):
            name = draw(st.sampled_from(known))
            for _ in range(2 if take.many else 1):
                rows += draw(st.sampled_from(shapes if name == "Shape" else BEFORE[name]))
    if take_curves(kind):
        rows.append(("draw", {"curves": [["spline", [[-3, -1], [0, 0.5], [3, 0]]]]}))
    rows.append((kind, draw(values(kind))))
    return Statement(
        name="Any",
        clauses=[ClauseEntry(id=f"c{i}", kind=k, values=v) for i, (k, v) in enumerate(rows)],
    )


def take_curves(kind):
    return kind in RIBS and any(
        "Curves" in t.types and not t.optional for t in CLAUSE_TYPES[kind].takes
    )


def outcome(statement):
    """The last outcome, which is no fault of ours and can be shown."""
    *before, last = last_of_each(evaluate(statement, ResultCache()))
    assert all(o.status == "done" for o in before), "what stands before can be worked on"
    assert "could not be computed" not in last.error, last.error
    if last.status == "failed":
        assert re.search(r"[.!]$", last.error), f"no sentence: {last.error}"
    if last.status == "done":
        message = wire.geometry(last.key, last.result, last.aids)
        assert message is None or len(message) > 0
        wire.measures(last.key, last.result)
    return last


@known("any clauses with any values on any others", "a result or a sentence")
@given(statements(OTHERS))
@settings(max_examples=60)
def test_any_clause_gives_a_result_or_a_sentence(statement):
    outcome(statement)


@given(statements(RIBS, BODIES))
@settings(max_examples=7)
def test_any_ribs_go_together_or_it_is_told_where_not(statement):
    made = outcome(statement)
    if made.status != "done":
        return
    ribs = made.result
    assert all(r.shape.is_valid and r.shape.area > 0 for r in ribs.ribs)
    if wire.has_sketch(ribs):
        assert len(ribs.unslotted) == len(ribs.ribs)
        assert all(
            s.buffer(1e-6).covers(r.shape) for s, r in zip(ribs.unslotted, ribs.ribs, strict=True)
        )
    series = {r.label: r.series for r in ribs.ribs}
    wrong = {
        frozenset((ribs.labels[c.first], ribs.labels[c.second])) for c in ribs.crossings if c.fault
    }
    if made.figures["overlap"].value > 1.0:
        # It is told which; they are of one set, which is told too, lock each other, or were asked to overlap.
        (told,) = (w.text for w in made.warnings if "overlap" in w.text)
        one, two = re.findall(r"[A-Z]+\d+[a-z]*", told)
        values = statement.clauses[-1].values
        assert (
            series[one] == series[two] or {one, two} in wrong or values.get("clearance", 0) < -0.5
        ), told


LIBRARIES = re.compile(
    r"NoneType|object has no|array|ndarray|dimension\)|index \d|out of bounds|broadcast|shapes? \("
    r"|argument|axis \d|traceback|numpy|scipy|shapely|trimesh|manifold|LinAlg|Singular|convert|\bNaN\b|\binf\b",
    re.IGNORECASE,
)
"""What libraries say and no engineer should read."""


@st.composite
def chains(draw):
    """Clauses of any kinds one after the other, each with any values and often on any before it,
    of whatever type."""
    start = draw(st.sampled_from([*SHAPES, *NETS]))
    kinds = [k for k, _ in start] + draw(st.lists(st.sampled_from(OTHERS), min_size=3, max_size=7))
    entries = []
    for i, kind in enumerate(kinds):
        on = {}
        for take in CLAUSE_TYPES[kind].takes if i else ():
            if draw(st.integers(0, 3)) == 0:
                picked = draw(st.integers(0, i - 1))
                on[take.name] = [f"c{picked}"] if take.many else f"c{picked}"
        entries.append(ClauseEntry(id=f"c{i}", kind=kind, on=on, values=draw(values(kind))))
    return Statement(name="Any", clauses=entries)


@given(chains())
@settings(max_examples=40)
def test_no_word_of_a_library_reaches_an_engineer(statement):
    for found in evaluate(statement, ResultCache()):
        assert "could not be computed" not in found.error, found.error
        for text in (found.error, *(w.text for w in found.warnings)):
            assert not LIBRARIES.search(text), text
            assert not text or re.search(r"[.!]$", text), f"no sentence: {text}"
        told = [found.error, *(w.text for w in found.warnings)]
        told += [f"{figure.label} {figure.value}" for figure in found.figures.values()]
        assert not re.search(r"[\ue000-\uf8ff]", " ".join(told)), "marks are left"


@pytest.mark.parametrize("kind", CLAUSE_TYPES)
def test_values_beyond_their_ends_are_named(kind):
    kind = CLAUSE_TYPES[kind]
    for name, spec in kind.specs().items():
        if spec.kind not in ("number", "count"):
            continue
        statement = Statement(
            name="Any",
            clauses=[ClauseEntry(id="c", kind=kind.kind, values={name: spec.most * 2 + 1})],
        )
        (one,) = evaluate(statement, ResultCache())
        assert one.error_value == name
        assert spec.label in one.error
        assert f"{spec.most:,g}" in one.error
