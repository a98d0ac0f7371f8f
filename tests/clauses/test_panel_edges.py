"""The clause that works edges of panels: what it makes, and what it says where there is no room."""

from __future__ import annotations

import pytest

from leanlattice.core.panels.names import names_of_panels

from .test_lattice_clauses import clauses, outcomes

ROOF = (
    ("barrel", {"span": 8, "rise": 2, "length": 6}),
    ("pattern", {"pattern": "hexagons", "density": "module", "module": 1.2}),
    ("panels", {"tolerance": 200}),
)


def worked(**values):
    return list(outcomes(clauses(*ROOF, ("panel-edges", values))).values())[-1]


def test_panels_get_holes_and_those_without_room_are_told_and_are_of_other_types():
    outcome = worked(radius=120, holes="corners", hole=20, rim=60)
    panels, figures = outcome.result, outcome.figures
    bare = {k for w in outcome.warnings for k in w.which}
    assert figures["worked"].value + len(bare) == panels.count
    assert bare
    assert figures["holes"].value > 4 * (panels.count - len(bare))
    types = names_of_panels(panels).panel_type
    of_bare = {int(types[k]) for k in bare}
    assert not of_bare & {int(types[k]) for k in range(panels.count) if k not in bare}
    (told,) = outcome.warnings
    assert told.code == "edges without room"
    assert told.value == "rim"
    assert told.at is not None


@pytest.mark.parametrize(
    ("values", "value", "works"),
    [
        ({"holes": "corners", "hole": 20, "rim": 23}, "rim", "24 mm"),
        ({"holes": "sides", "hole": 20, "rim": 40, "spacing": 80}, "spacing", "88 mm"),
    ],
)
def test_holes_that_fit_nowhere_say_what_would_work(values, value, works):
    outcome = worked(**values)
    assert outcome.status == "failed"
    assert outcome.error_value == value
    assert works in outcome.error
    better = float(works.split()[0])
    assert worked(**{**values, value: better}).status == "done"


def test_edges_can_be_left_as_they_are():
    panels = worked(corners="sharp").result
    assert not panels.edges.are_worked
