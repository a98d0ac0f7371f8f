"""Packs of random shapes, nets, members and parts: these fit, or it is told which do not and why."""

from __future__ import annotations

import tempfile
from pathlib import Path

from hypothesis import HealthCheck, Phase, given, settings
from hypothesis import strategies as st

from leanlattice.exchange.pack import write_pack
from leanlattice.statement.document import ClauseEntry, Statement
from leanlattice.statement.evaluate import ResultCache, evaluate

TUBES = ["CHS 48.3 × 4", "CHS 88.9 × 4", "CHS 139.7 × 5"]
OTHERS = ["RHS 120 × 60 × 5", "SHS 60 × 4", "IPE 120", "L 100 × 75 × 8", "Timber 60 × 160"]
WANTED = {"schedules", "sheets", "wireframe.dxf", "model.glb", "model.ifc", "machine"}
MAKERS = {
    "arms": [("node-plates", "cut")],
    "seats": [("hubs", "made")],
    "welded": [("tube-ends", "")],
    "coped": [("tube-ends", "")],
}
"""What is made of members by how they meet, and which value tells whether it is made alike."""
SHAPES = st.one_of(
    st.fixed_dictionaries(
        {"kind": st.just("dome"), "span": st.floats(4, 14), "rise": st.floats(0.8, 4)}
    ),
    st.fixed_dictionaries(
        {
            "kind": st.just("barrel"),
            "span": st.floats(4, 10),
            "rise": st.floats(0.6, 4),
            "length": st.floats(3, 12),
        }
    ),
    st.fixed_dictionaries({"kind": st.just("loft")}),
)
NETS = st.fixed_dictionaries(
    {
        "pattern": st.sampled_from(["quads", "triangles", "diagrid", "alternating", "hexagons"]),
        "bays_across": st.integers(3, 7),
        "bays_along": st.integers(2, 5),
        "border": st.sampled_from(["cut", "whole"]),
    }
)
FRAMES = st.fixed_dictionaries(
    {
        "inner": st.sampled_from(TUBES + OTHERS),
        "border": st.sampled_from(TUBES + OTHERS),
        "set_out": st.sampled_from(["top", "centre", "bottom"]),
        "roll": st.sampled_from([0.0, 30.0, 90.0]),
        "meeting": st.sampled_from(
            ["welded", "coped", "apart", "ball", "hub", "disc", "plate", "arms", "seats"]
        ),
        "gap": st.floats(2, 40),
        "radius": st.floats(40, 200),
        "thickness": st.floats(5, 20),
    }
)
EDGES = st.fixed_dictionaries(
    {
        "corners": st.sampled_from(["sharp", "round"]),
        "radius": st.floats(1, 150),
        "holes": st.sampled_from(["none", "corners", "sides"]),
        "hole": st.floats(4, 30),
        "rim": st.floats(36, 90),
    }
)
PANELS = st.fixed_dictionaries(
    {
        "joint": st.floats(2, 60),
        "thickness": st.floats(3, 25),
        "form": st.sampled_from(["flat", "bent"]),
        "stress": st.floats(2, 60),
        "alike": st.floats(0.5, 20),
        "cut": st.sampled_from(["own", "alike"]),
    }
)
FEET = st.one_of(
    st.none(),
    st.tuples(
        st.fixed_dictionaries(
            {
                "which": st.just("heights"),
                "low": st.just(-1.0),
                "high": st.floats(0.2, 2.0),
                "way": st.sampled_from(["upright", "leaning", "branching"]),
                "towards": st.just([[3, 1, -3]]),
                "section": st.sampled_from(["CHS 168.3 × 6.3", "HEB 200", "RHS 200 × 100 × 6.3"]),
            }
        ),
        st.fixed_dictionaries(
            {
                "role": st.just("column"),
                "lie": st.sampled_from(["level", "square"]),
                "gap": st.floats(0, 40),
                "thickness": st.floats(8, 40),
            }
        ),
        st.fixed_dictionaries(
            {
                "outline": st.sampled_from(["rectangle", "round"]),
                "beyond": st.floats(30, 150),
                "bolts": st.sampled_from(["4", "6", "8", "12"]),
                "bolt": st.sampled_from(["M12", "M20"]),
            }
        ),
    ),
)
"""Columns with plates under them."""


# A pack takes seconds: one that fails is told as it is.
@settings(
    phases=[Phase.reuse, Phase.generate],
    max_examples=6,
    suppress_health_check=[HealthCheck.too_slow],
    deadline=None,
)
@given(SHAPES, NETS, FRAMES, PANELS, EDGES, FEET)
def test_random_parts_fit_or_it_is_told_why_they_do_not(shape, net, frame, panels, edges, feet):
    kind = shape["kind"]
    own = {name: value for name, value in shape.items() if name != "kind"}
    rows = [(kind, own), ("pattern", net), ("frame", frame)]
    # What is made of members comes after all that changes them.
    columns, plated, plates = feet or ({}, {}, {})
    rows += [("columns", columns), ("plate-ends", plated)] if feet else []
    rows += [("panels", panels), ("panel-edges", edges)]
    kinds = {"tolerance": panels["alike"]}
    for maker, way in MAKERS.get(frame["meeting"], []):
        rows.append((maker, kinds | ({way: panels["cut"]} if way else {})))
    rows += [("end-plates", plates)] if feet else []
    rows += [("name", {}), ("set-out", {"width": 8000, "height": 4000}), ("bars", {})]
    statement = Statement(
        clauses=[ClauseEntry(id=f"c{k}", kind=k_, values=v) for k, (k_, v) in enumerate(rows)]
    )
    outcomes = list(evaluate(statement, ResultCache()))
    # What cannot be made says what would work, and what does not depend on it goes on.
    for outcome in outcomes:
        assert outcome.status in ("done", "failed", "waiting"), outcome
        assert outcome.status == "done" or len(outcome.error.split()) > 4, outcome
    told = " ".join(w.text for o in outcomes for w in o.warnings)
    with tempfile.TemporaryDirectory() as folder:
        written = write_pack(Path(folder), statement, outcomes, WANTED)
    # A part without room for its label is told of where it is made.
    lacking = {"every part bears its label"} if "no room for" in told else set()
    # So are panels that lean to each other over a joint too narrow for their thickness.
    lacking |= {"panels put back share nothing"} if "oints of" in told else set()
    wrong = [f for f in written.findings if not f.passed and f.check not in lacking]
    if wrong:
        raise AssertionError(f"{wrong}\n{rows}")
