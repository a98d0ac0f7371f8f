"""Openings cut square to walls: closed forms, which walls, and how far cutters go."""

from __future__ import annotations

import numpy as np
import pytest

from leanlattice.core.shaping.solids import as_body, as_solid, boolean
from leanlattice.core.shaping.squared import squared_cutters

from ..known import known

manifold3d = pytest.importorskip("manifold3d")
ALONG = np.array([0.0, 1.0, 0.0])


def shell(outer=3.0, thick=0.3, segments=256):
    whole = manifold3d.Manifold.sphere(outer, segments)
    return as_body(whole - manifold3d.Manifold.sphere(outer - thick, segments))


def circle(radius, x=0.0, z=0.0, y=0.0, sides=128):
    angle = 2 * np.pi * np.arange(sides) / sides
    return np.column_stack(
        [x + radius * np.cos(angle), np.full(sides, y), z + radius * np.sin(angle)]
    )


def removed(body, cutters):
    return body.volume - boolean([body, *cutters], "difference").volume


@known(
    "a round opening r through a shell between R and R′",
    "2π ∕ 3 (R³ − (R² − r²)^1.5 − R′³ + (R′² − r²)^1.5)",
)
def test_an_opening_takes_what_its_closed_form_does():
    body = shell()
    (cutter,) = squared_cutters(body, circle(0.8), ALONG, "ahead")
    cap = [radius**3 - (radius**2 - 0.8**2) ** 1.5 for radius in (3.0, 2.7)]
    expected = 2 * np.pi / 3 * (cap[0] - cap[1])
    assert removed(body, [cutter]) == pytest.approx(expected, rel=3e-3)


@pytest.mark.parametrize(("reach", "walls"), [("through", 2), ("ahead", 1), ("behind", 1)])
def test_each_wall_has_an_opening_square_to_it(reach, walls):
    body = shell()
    cutters = squared_cutters(body, circle(0.4, x=1.5, z=1.2), ALONG, reach)
    assert len(cutters) == walls
    for cutter in cutters:
        middle = cutter.mesh.vertices.mean(axis=0)
        axis = middle / np.linalg.norm(middle)
        # Its faces are its two ends, square to the radius there, and what goes along that.
        crosses = cutter.mesh.triangle_crosses
        cosine = np.abs(crosses @ axis) / np.linalg.norm(crosses, axis=1)
        assert (np.minimum(cosine, 1 - cosine) < 0.02).all()
        assert np.sign(middle[1]) == {"ahead": 1, "behind": -1}.get(reach, np.sign(middle[1]))
    left = boolean([body, *cutters], "difference")
    assert as_solid(left).genus() == walls - 1


def test_a_cutter_stops_before_the_next_wall():
    near = manifold3d.Manifold.cube((4, 0.2, 4), True)
    far = near.translate((0, 0.5, 0))
    body = as_body(near + far)
    one, other = squared_cutters(body, circle(0.5, y=-2.0), ALONG, "through")
    assert removed(body, [one]) == pytest.approx(0.2 * np.pi * 0.25, rel=1e-3)
    assert removed(body, [one, other]) == pytest.approx(0.4 * np.pi * 0.25, rel=1e-3)


def test_an_outline_that_lands_nowhere_cuts_nothing():
    assert squared_cutters(shell(), circle(0.4, x=5.0), ALONG, "through") == []
    flat = as_body(manifold3d.Manifold.cube((4, 4, 0.2), True))
    assert squared_cutters(flat, circle(0.1, y=-5.0, z=0.5), ALONG, "through") == []
