"""Ribs: sections of bodies, half-laps, and parts that are put together again without overlapping or missing anything."""

from __future__ import annotations

import manifold3d
import numpy as np
import pytest
import shapely
import trimesh
from hypothesis import given, settings
from hypothesis import strategies as st

from leanlattice.core.flat.together import put_together
from leanlattice.core.geometry.forms import sphere, torus
from leanlattice.core.geometry.meshes import Body
from leanlattice.core.ribs.assembly import assembly
from leanlattice.core.ribs.edges import footed, raised
from leanlattice.core.ribs.laps import Slots, lapped, slot_width
from leanlattice.core.ribs.lightened import drilled, hollowed, through
from leanlattice.core.ribs.meshed import rib_solid
from leanlattice.core.ribs.parts import Ribs, rib_parts
from leanlattice.core.ribs.planes import evenly, fan, parallel
from leanlattice.core.ribs.plates import cut_ribs
from leanlattice.core.ribs.spines import Bends, FoldError, Spine
from leanlattice.core.shaping.brought import repaired
from leanlattice.core.shaping.facets import surface_mesh
from leanlattice.core.shaping.solids import boolean, prism, solid_of_rings

from ..known import approx, held_to, known

UP = np.array([0.0, 0, 1])


def in_plan(angle):
    a = np.radians(angle)
    return np.array([np.sin(a), -np.cos(a), 0.0])


def ball(radius=1.0, at=(0, 0, 0), fine=(96, 48)):
    return Body(surface_mesh(sphere(np.array(at, float), radius), fine)[0])


def block(low, high):
    (x0, y0, z0), (x1, y1, z1) = low, high
    ring = np.array([[x0, y0, 0.0], [x1, y0, 0], [x1, y1, 0], [x0, y1, 0]])
    return prism(ring, [], UP, z0, z1)


def family(body, angle, number, series="A", thickness=0.018, **more):
    h = body.mesh.vertices @ in_plan(angle)
    return cut_ribs(
        body,
        parallel(in_plan(angle), UP, evenly(h.min(), h.max(), number)),
        series,
        thickness,
        **more,
    )


def waffle(body, angles=(0, 90), numbers=(5, 4), thick=(0.018, 0.012), slots=None):
    slots = slots or Slots(clearance=0.0003)
    first, second = (
        family(body, a, n, s, t) for a, n, s, t in zip(angles, numbers, "AB", thick, strict=True)
    )
    laps = lapped(first.ribs, second.ribs, slots, UP)
    zones = tuple(tuple(z) for z in laps.zones)
    return laps, Ribs(
        tuple(laps.ribs), tuple(laps.crossings), "plywood", ("A", "B"), zones, tuple(laps.passing)
    )


def solid_of(rib):
    rings = [np.asarray(r.coords)[:-1] for r in (rib.shape.exterior, *rib.shape.interiors)]
    return solid_of_rings(rings, rib.pose, rib.thickness)


def proof(ribs):
    parts = rib_parts(ribs).parts
    return put_together(parts, [(c.first, c.second) for c in ribs.crossings if not c.locked])


@known("ribs of a ball at distance d", "discs of radius √(R² − d²)")
@pytest.mark.parametrize("d", [0.0, 0.3, 0.7, 0.95])
def test_ribs_of_a_ball_are_discs(d):
    cut = cut_ribs(ball(fine=(256, 128)), parallel(in_plan(30), UP, np.array([d])), "A", 0.01)
    (rib,) = cut.ribs
    assert rib.shape.area == approx(np.pi * (1 - d * d), rel=5e-3)
    edge = rib.places(np.asarray(rib.shape.exterior.coords))
    assert np.linalg.norm(edge, axis=1) == approx(np.ones(len(edge)), abs=1e-3)
    assert edge @ in_plan(30) == approx(np.full(len(edge), d), abs=1e-9)


def test_planes_reach_past_the_body_and_say_what_they_miss():
    body = boolean([ball(1.0), ball(0.6, (3, 0, 0))], "union")
    cut = cut_ribs(
        body, parallel(in_plan(0), UP, np.array([-5.0, 0.0, 0.8, 5.0])), "A", 0.01, least_area=0.05
    )
    assert cut.missed == [1, 4]
    assert [r.label for r in cut.ribs] == ["A2a", "A2b", "A3"]
    waist = boolean([ball(1.0), ball(1.0, (1.9, 0, 0))], "union")
    assert cut_ribs(waist, parallel(in_plan(0), UP, np.zeros(1)), "A", 0.01, least_neck=0.7).necks
    assert not cut_ribs(
        waist, parallel(in_plan(0), UP, np.zeros(1)), "A", 0.01, least_neck=0.5
    ).necks
    small = cut_ribs(body, parallel(in_plan(0), UP, np.array([0.59])), "A", 0.01, least_area=0.1)
    assert [label for label, _ in small.left_out] == ["A1"]


@known(
    "slots at any angle, thickness, share",
    "(b + a cos θ) / sin θ plus clearance wide, the share of the common length deep",
)
@given(
    st.floats(0.003, 0.06),
    st.floats(0.003, 0.06),
    st.floats(15, 165),
    st.floats(0, 0.002),
    st.floats(0.2, 0.8),
)
@settings(max_examples=25, deadline=None)
def test_a_slot_is_as_wide_and_deep_as_its_formula_says(a, b, theta, clearance, share):
    body = block((-1, -1, 0), (1, 1, 0.4))
    first = cut_ribs(body, parallel(in_plan(0), UP, np.zeros(1)), "A", a).ribs
    second = cut_ribs(body, parallel(in_plan(theta), UP, np.zeros(1)), "B", b).ribs
    laps = lapped(first, second, Slots(clearance, share), UP)
    t = np.radians(theta)
    for rib, own, other, depth in (
        (laps.ribs[0], a, b, share * 0.4),
        (laps.ribs[1], b, a, (1 - share) * 0.4),
    ):
        lost = (
            0.4 * shapely.box(*first[0].shape.bounds).bounds[2] * 0
            + (first if rib.series == "A" else second)[0].shape.area
        )
        width = (other + own * abs(np.cos(t))) / np.sin(t) + clearance
        assert lost - rib.shape.area == approx(width * depth, rel=1e-6)
        assert slot_width(own, other, np.cos(t)) + clearance == approx(width)
    assert laps.crossings[0].middles[0] == approx((1 - share) * 0.4)


def brought():
    """A lumpy mesh as a file holds it: loose triangles, some of them turned the wrong way."""
    mesh = ball(1.0, fine=(40, 20)).mesh
    p = mesh.vertices * (
        1 + 0.12 * np.sin(5 * mesh.vertices[:, :1]) * np.cos(4 * mesh.vertices[:, 1:2])
    )
    loose = p[mesh.triangles].reshape(-1, 3)
    triangles = np.arange(len(loose)).reshape(-1, 3)
    triangles[::7] = triangles[::7, ::-1]
    body, _ = repaired(loose, triangles.astype(np.int32))
    assert isinstance(body, Body)
    return body


BODIES = {
    "brought mesh": brought,
    "ball": lambda: ball(),
    "torus": lambda: Body(surface_mesh(torus(np.zeros(3), 1.0, 0.35), (96, 48))[0]),
    "block with a hole": lambda: boolean(
        [block((-1, -0.8, 0), (1, 0.8, 0.6)), block((-0.3, -0.2, -1), (0.4, 0.3, 2))], "difference"
    ),
    "two balls": lambda: boolean([ball(0.8), ball(0.5, (1.0, 0.3, 0.2))], "union"),
    "ring on its side": lambda: boolean([block((-1, -0.5, 0), (1, 0.5, 1)), block((-0.6, -2, 0.3), (0.6, 2, 0.7))], "difference"),
}  # fmt: skip


@known(
    "ribs of balls, tori, blocks with holes, unions, at random angles and thicknesses",
    "put together they overlap by nothing and meet; who crosses is slotted or listed",
)
@pytest.mark.parametrize("name", BODIES)
@given(st.data())
@settings(max_examples=4, deadline=None)
def test_assembled_ribs_never_overlap_and_every_crossing_is_slotted_or_listed(name, data):
    body = BODIES[name]()
    first, between = data.draw(st.floats(0, 180)), data.draw(st.floats(35, 145))
    numbers = data.draw(st.integers(2, 6)), data.draw(st.integers(2, 6))
    thick = data.draw(st.floats(0.004, 0.04)), data.draw(st.floats(0.004, 0.04))
    slots = Slots(data.draw(st.floats(0, 0.001)), data.draw(st.floats(0.3, 0.7)), data.draw(st.sampled_from([0.0, 0.003])),
                  data.draw(st.sampled_from(["diagonal", "across", "along"])), 0.01)  # fmt: skip
    laps, ribs = waffle(body, (first, first + between), numbers, thick, slots)
    found = proof(ribs)
    held_to(found.overlap, 1.0)
    # Where a tool's reliefs take all of a slot's bottom, a plate rests on its corners, which the clearance moves apart.
    # Of ribs that fall apart, which is told, what is lost meets nobody.
    if not laps.fell:
        held_to(max(found.gap - slots.clearance * 500, 0.0), 0.05)
    # Worked out anew from the bare plates: who crosses whom.
    bare = [
        *family(body, first, numbers[0], "A", thick[0]).ribs,
        *family(body, first + between, numbers[1], "B", thick[1]).ribs,
    ]
    solids = [solid_of(r) for r in bare]
    known = {(c.first, c.second) for c in laps.crossings}
    count = sum(r.series == "A" for r in bare)
    for i in range(count):
        for j in range(count, len(bare)):
            if (solids[i] ^ solids[j]).volume() > 1e-9:
                assert (i, j) in known, (
                    f"{bare[i].label} and {bare[j].label} cross and nobody says so"
                )


def test_ribs_that_would_lock_each_other_are_listed():
    """Through a body with a void, one above the other on the same line: the upper half could not be passed."""
    laps, _ = waffle(BODIES["ring on its side"](), numbers=(2, 3))
    assert any(c.locked for c in laps.crossings)
    assert not any(c.fault for c in waffle(ball(), numbers=(3, 3))[0].crossings)


def test_reliefs_clear_the_inner_corners_of_a_round_tool():
    body, r = block((-1, -1, 0), (1, 1, 0.4)), 0.004
    sharp = waffle(body, numbers=(1, 1), slots=Slots(0.0))[0].ribs[0].shape
    for corners in ("diagonal", "across", "along"):
        cleared = waffle(body, numbers=(1, 1), slots=Slots(0.0, 0.5, r, corners))[0].ribs[0].shape
        assert cleared.area < sharp.area
        # A disc of the tool reaches every corner of the slot.
        slot = shapely.box(*sharp.bounds).difference(sharp)
        x0, y0, x1, _ = slot.bounds
        opening = shapely.box(*sharp.bounds).difference(cleared).buffer(1e-5)
        reached = opening.buffer(-r).buffer(r + 2e-5)
        assert all(reached.buffer(2e-4).contains(shapely.Point(x, y0)) for x in (x0, x1))


def test_slots_too_near_ends_and_each_other_are_told():
    body = block((-0.5, -0.5, 0), (0.5, 0.5, 0.2))
    near = [cut_ribs(body, parallel(in_plan(a), UP, np.array(at)), s, 0.01).ribs for a, s, at in
            ((0, "A", [0.0]), (90, "B", [-0.485, 0.1, 0.118]))]  # fmt: skip
    laps = lapped(*near, Slots(0.0, wall=0.015), UP)
    faults = [c.fault for c in laps.crossings]
    assert "end" in faults
    assert faults.count("slot") == 2


def test_open_ribs_keep_their_borders_and_holes_their_walls():
    laps, _ = waffle(block((-1, -1, 0), (1, 1, 0.6)), numbers=(2, 2))
    light = hollowed(laps.ribs, laps.zones, 0.06, 0.03)
    for before, after, zones in zip(laps.ribs, light, laps.zones, strict=True):
        assert 0.2 * before.shape.area < after.shape.area < 0.8 * before.shape.area
        for ring in after.shape.interiors:
            opening = shapely.Polygon(ring)
            assert opening.distance(before.shape.exterior) > 0.06 - 1e-6
            assert min(opening.distance(z) for z in zones) > 0.06 - 1e-6
    plates = cut_ribs(
        ball(), parallel(UP, np.array([0, 1.0, 0]), np.linspace(-0.9, 0.9, 7)), "A", 0.02
    ).ribs
    made, thin = drilled(plates, [through(np.array([0.4, 0, 0]), UP)], 0.02, 0.05)
    assert thin == ["A1", "A7"]
    assert [len(r.shape.interiors) for r in made] == [0, 1, 1, 1, 1, 1, 0]


@known(
    "holes for rods at any slant",
    "a rod passes and touches nothing; area π r² / cos φ + 2 r t tan φ",
)
@given(st.floats(-1.2, 1.2), st.floats(-1.2, 1.2), st.floats(0.004, 0.03), st.floats(0.002, 0.04))
@settings(max_examples=30, deadline=None)
def test_rods_pass_their_holes_however_they_slant(over, up, radius, thickness):
    (plate,) = cut_ribs(
        block((-1, -1, -1), (1, 1, 1)), parallel(in_plan(20), UP, np.zeros(1)), "A", thickness
    ).ribs
    way = plate.normal + over * plate.x + up * plate.y
    way /= np.linalg.norm(way)
    (made,), thin = drilled([plate], [through(np.array([0.02, 0.01, 0.1]), way)], radius, 0.01)
    assert not thin
    aside = np.cross(way, UP) / np.linalg.norm(np.cross(way, UP))
    rod = manifold3d.Manifold.cylinder(3, radius, radius, 96, True)
    rod = rod.transform(np.column_stack([aside, np.cross(way, aside), way, [0.02, 0.01, 0.1]]))
    assert (solid_of(made) ^ rod).volume() < 1e-3 * thickness * radius**2
    slant = np.hypot(over, up)
    needed = np.pi * radius**2 * np.sqrt(1 + slant**2) + 2 * radius * thickness * slant
    assert plate.shape.area - made.shape.area == approx(needed, rel=3e-3), (
        "and no more is taken than needed"
    )


def test_planes_along_a_spine_stand_square_to_its_true_tangent():
    turn = np.linspace(0, np.pi / 2, 400)
    line = np.column_stack([5 * np.cos(turn), 5 * np.sin(turn), np.zeros(400)])
    planes = Spine(line).planes(np.linspace(0.5, 7.3, 9))
    radial = planes.origins[:, :2] / np.linalg.norm(planes.origins[:, :2], axis=1, keepdims=True)
    assert np.abs(np.einsum("ij,ij->i", planes.normals[:, :2], radial)).max() < 1e-4
    assert np.abs(planes.normals[:, 2]).max() == 0


def spined(body, spine, number, offsets, thick=(0.018, 0.009), slots=None):
    """Ribs square to a spine and ones that follow it."""
    planes = spine.planes(evenly(0.0, spine.length, number))
    beyond = spine.beyond(body.mesh.vertices)
    bends = Bends(tuple(spine.follow(o, planes, beyond, 0.03) for o in offsets))
    first, second = cut_ribs(body, planes, "A", thick[0]), cut_ribs(body, bends, "B", thick[1])
    laps = lapped(first.ribs, second.ribs, slots or Slots(0.0003), UP)
    zones = tuple(tuple(z) for z in laps.zones)
    return laps, Ribs(
        tuple(laps.ribs), tuple(laps.crossings), "plywood", ("A", "B"), zones, tuple(laps.passing)
    )


def arc(radius, turn, ends=(0.0, 0.0), fine=600):
    """An arc that turns by ``turn`` (°), straight on by so much at its ends."""
    a = np.radians(np.linspace(0, turn, fine))
    line = np.column_stack([radius * np.cos(a), radius * np.sin(a), np.zeros(fine)])
    way = np.array([-np.sin(a[-1]), np.cos(a[-1]), 0])
    return np.vstack([line[:1] - [[0, ends[0], 0]], line, line[-1:] + ends[1] * way])


@known(
    "ribs bent along an arc at an offset",
    "flat length is radius × angle; every edge lies at its radius",
)
def test_ribs_that_follow_a_spine_unroll_to_their_lengths_and_lie_at_their_offsets():
    outer, inner = (np.column_stack([r * np.cos(a), r * np.sin(a), 0 * a]) for r in (9.0, 5.0)
                    for a in [np.linspace(0, 2 * np.pi, 721)[:-1]])  # fmt: skip
    tube = prism(outer, [inner], UP, 0.0, 1.2)
    quarter = boolean([tube, block((0, 0, -1), (20, 20, 2))], "intersection")
    laps, ribs = spined(quarter, Spine(arc(7.0, 90.0)), 9, [-1.5, 0.0, 1.2], slots=Slots(0.0))
    # To the left of a spine that turns left is inside.
    for rib, radius in zip(laps.ribs[9:], (8.5, 7.0, 5.8), strict=True):
        assert rib.shape.envelope.area == approx(np.pi / 2 * radius * 1.2, rel=1e-4)
        edge = rib.places(np.asarray(rib.shape.exterior.coords))
        assert np.linalg.norm(edge[:, :2], axis=1) == approx(np.full(len(edge), radius), abs=1e-3)
        assert rib.bend.radius == approx(radius, rel=1e-3)
        corners, triangles = rib_solid(rib)
        made = trimesh.Trimesh(corners, triangles, process=False)
        assert made.is_watertight
        assert made.volume == approx(rib.shape.area * rib.thickness, rel=1e-3)
    assert len(laps.crossings) == 27
    assert not any(c.fault for c in laps.crossings)
    found = put_together(
        rib_parts(ribs).parts,
        [(c.first, c.second) for c in ribs.crossings],
        quarter,
        ribs.off_body(),
    )
    held_to(found.overlap, 1e-3)
    held_to(found.gap, 0.01)
    held_to(found.away, 0.2)


@known(
    "ribs along random arcs and ones that follow them",
    "put together they overlap by nothing; surfaces are closed",
)
@given(st.floats(3, 30), st.floats(40, 260), st.integers(2, 9), st.floats(0.1, 0.8), st.sampled_from([-1, 1]),
       st.sampled_from([0.0, 0.0006]))  # fmt: skip
@settings(max_examples=6, deadline=None)
def test_bent_ribs_never_overlap(radius, turn, number, share, side, clearance):
    spine, size = Spine(arc(radius, turn, (0.5, 1.0))), 0.4 * radius
    body = boolean(
        [ball(size, at, (48, 24)) for at in spine.line[::100] + [0, 0, 0.2 * size]], "union"
    )
    laps, ribs = spined(
        body,
        spine,
        number,
        [side * share * size, 0.0],
        (0.018, 0.012),
        Slots(clearance, wall=0.005),
    )
    found = proof(ribs)
    held_to(found.overlap, 1.0)
    met = {(ribs.labels[c.first], ribs.labels[c.second]) for c in laps.crossings}
    solids = {r.label: rib_solid(r) for r in laps.ribs}
    assert all(trimesh.Trimesh(*s, process=False).is_watertight for s in solids.values())
    for one in (r for r in laps.ribs if r.series == "A"):
        for two in (r for r in laps.ribs if r.series == "B"):
            at = one.flattened(two.places(np.asarray(two.shape.exterior.coords)))
            side = (two.places(np.asarray(two.shape.exterior.coords)) - one.origin) @ one.normal
            there = at[np.abs(side) < one.thickness / 2]
            if len(there) and shapely.contains_xy(one.shape.buffer(-0.02), *there.T).any():
                assert (one.label, two.label) in met


def test_a_spine_closes_and_its_offsets_end_where_they_would_fold():
    ring = Spine(arc(4.0, 360.0))
    assert ring.closed
    body = Body(surface_mesh(torus(np.zeros(3), 4.0, 1.0), (192, 48))[0])
    laps, ribs = spined(body, ring, 12, [-0.5, 0.4])
    assert len(laps.crossings) == 24
    assert proof(ribs).overlap < 1e-3
    assert [length_of(r) for r in laps.ribs[12:]] == pytest.approx(
        [2 * np.pi * 4.5, 2 * np.pi * 3.6], rel=1e-3
    )
    with pytest.raises(FoldError) as told:
        Spine(arc(2.0, 120.0)).follow(2.3, ring.planes(np.zeros(1)), (0.0, 0.0), 0.03)
    assert told.value.radius == pytest.approx(2.0, rel=1e-2)


def length_of(rib):
    return rib.shape.bounds[2] - rib.shape.bounds[0]


def test_ribs_in_a_round_take_rings():
    body = ball()
    upright = cut_ribs(body, fan(np.zeros(3), 9, 0.2), "A", 0.012).ribs
    rings = []
    for rib in cut_ribs(
        body, parallel(UP, np.array([0, 1.0, 0]), np.array([-0.4, 0.1, 0.5])), "B", 0.012
    ).ribs:
        shape = rib.shape.difference(rib.shape.buffer(-0.2))
        rings.append(type(rib)(**{**rib.__dict__, "shape": shape}))
    laps = lapped(upright, rings, Slots(0.0002, wall=0.01), UP)
    assert len(laps.crossings) == 27
    assert not any(c.fault for c in laps.crossings)
    found = proof(Ribs(tuple(laps.ribs), tuple(laps.crossings), "plywood", ("A", "B")))
    assert found.overlap < 1e-3
    assert found.gap < 0.01


def test_parts_carry_their_names_and_go_back_to_their_places():
    _, ribs = waffle(ball(), numbers=(4, 4))
    made = rib_parts(ribs)
    parts, without = made.parts, made.unlabelled.tolist()
    assert not without
    for rib, part in zip(ribs.ribs, parts, strict=True):
        assert part.label == rib.label
        assert part.area == pytest.approx(rib.shape.area * 1e6, rel=1e-9)
        back = (
            np.column_stack([part.outer, np.zeros(len(part.outer)), np.ones(len(part.outer))])
            @ part.pose.T
        )
        assert np.linalg.norm(back[:, :3], axis=1).max() < 1.001
        outline = shapely.Polygon(part.outer, part.inner)
        assert part.marks
        for mark in part.marks:
            assert outline.contains(shapely.LineString(mark)), "lettering never crosses an outline"


def test_what_does_not_fit_together_is_measured():
    _, ribs = waffle(ball(), numbers=(3, 3))
    parts = rib_parts(ribs).parts
    meeting = [(c.first, c.second) for c in ribs.crossings]
    good = put_together(parts, meeting, ball(), ribs.zones)
    assert good.overlap < 1.0
    assert good.away < 0.05, "edges lie on the ball"
    moved = parts[0].pose.copy()
    moved[:3, 3] += [0.0, 0.004, 0.0]
    spoiled = (type(parts[0])(**{**parts[0].__dict__, "pose": moved}), *parts[1:])
    assert put_together(spoiled, meeting).overlap > 100
    lifted = parts[0].pose.copy()
    lifted[2, 3] -= 0.02
    spoiled = (type(parts[0])(**{**parts[0].__dict__, "pose": lifted}), *parts[1:])
    found = put_together(spoiled, meeting)
    assert found.gap > 0.1 or found.overlap > 100


@known(
    "order of assembly",
    "every rib comes in along its way without touching those in place",
)
@pytest.mark.parametrize("name", BODIES)
@given(st.data())
@settings(max_examples=2, deadline=None)
def test_ribs_go_together_in_the_order_and_the_way_that_is_given(name, data):
    numbers = data.draw(st.integers(2, 4)), data.draw(st.integers(2, 4))
    laps, ribs = waffle(
        BODIES[name](), (0, data.draw(st.floats(50, 130))), numbers, slots=Slots(0.0005)
    )
    order = assembly(len(ribs.ribs), ribs.crossings, laps.passing)
    assert sorted([*order.order, *(k for group in order.locked for k in group)]) == list(
        range(len(ribs.ribs))
    )
    placed = manifold3d.Manifold()
    for k, way in zip(order.order, order.way, strict=True):
        rib = solid_of(ribs.ribs[k])
        for back in (0.01, 0.05, 0.2, 0.6, 1.5):
            if way.any():
                assert (rib.translate(-back * way) ^ placed).volume() < 1e-9, (
                    f"{ribs.labels[k]} is in the way"
                )
        placed += rib
    for group in order.locked:
        # None of those that are left can move off along the lines it is held by.
        for k in group:
            rest = [solid_of(ribs.ribs[j]) for j in group if j != k]
            rib = solid_of(ribs.ribs[k])
            for step in np.array([[0, 0, 0.3], [0, 0, -0.3]]):
                assert (
                    sum(
                        (rib.translate(step * f) ^ r).volume()
                        for r in rest
                        for f in (0.3, 1.0, 1.7, 2.5)
                    )
                    > 1e-9
                )


def test_slots_change_sides_where_ribs_would_lock_otherwise():
    """A comb over a bar: the first, slotted from above, has a roof over the slot; from below it has none."""
    roofed = boolean([block((-1, -0.4, 0), (1, 0.4, 0.3)), block((-1, -0.05, 0.6), (1, 0.05, 0.9)),
                      block((0.8, -0.05, 0), (1, 0.05, 0.9))], "union")  # fmt: skip
    fixed, _ = waffle(roofed, (0, 90), (1, 1), slots=Slots(0.0))
    turned, ribs = waffle(roofed, (0, 90), (1, 1), slots=Slots(0.0, turn=True))
    assert [c.locked for c in fixed.crossings] == [True, False]
    assert [c.locked for c in turned.crossings] == [False, False]
    assert not ribs.assembly.locked
    assert ribs.put_in() == {"A": "stood up", "B": "from above and from below"}
    assert proof(ribs).overlap < 1e-3


def test_three_ribs_at_one_place_are_told():
    body = block((-1, -1, 0), (1, 1, 0.4))
    first = cut_ribs(body, parallel(in_plan(0), UP, np.array([0.0])), "A", 0.02).ribs
    others = [*cut_ribs(body, parallel(in_plan(60), UP, np.array([0.0])), "B", 0.02).ribs,
              *cut_ribs(body, parallel(in_plan(120), UP, np.array([0.0])), "C", 0.02).ribs]  # fmt: skip
    assert all(c.fault == "three" for c in lapped(first, others, Slots(), UP).crossings)


def test_chamfered_entries_widen_slots_on_both_sides_of_their_open_end():
    body, c = block((-1, -1, 0), (1, 1, 0.4)), 0.006
    square, chamfered = (
        waffle(body, numbers=(1, 1), slots=Slots(0.0, chamfer=by))[0].ribs for by in (0.0, c)
    )
    for before, after in zip(square, chamfered, strict=True):
        assert before.shape.area - after.shape.area == pytest.approx(c * c, rel=1e-6)


@known("edges moved by ±d", "areas")
@given(st.floats(-0.1, 0.3))
@settings(max_examples=15, deadline=None)
def test_upper_edges_stand_as_proud_as_they_are_told(by):
    tub = shapely.Polygon([(0, 0), (2, 0), (2, 1), (1.5, 1), (1.5, 0.6), (0.5, 0.6), (0.5, 1), (0, 1)],
                          [[(0.8, 0.2), (1.2, 0.2), (1.2, 0.4), (0.8, 0.4)]])  # fmt: skip
    assert raised(tub, by).area == approx(tub.area + 2 * by, abs=1e-9)
    assert len(raised(tub, by).interiors) == 1
    ball_rib = (
        cut_ribs(ball(), parallel(UP, np.array([0, 1.0, 0]), np.zeros(1)), "A", 0.02).ribs[0].shape
    )
    assert raised(ball_rib, by).area == approx(ball_rib.area + 2 * by, abs=0.25 * by * by + 1e-4)


def test_feet_reach_the_ground_where_ribs_are_above_it():
    disc = shapely.Point(0, 2).buffer(1.0)
    made, added = footed(disc, 0.0, 0.2, 0.1)
    assert made.bounds[1] == pytest.approx(0)
    assert made.intersection(shapely.box(-5, -1, 5, 0.5)).area == pytest.approx(2 * 0.2 * 0.5)
    assert made.area == pytest.approx(disc.area + added.area)
    assert footed(disc, 1.5, 0.2, 0.1)[1].is_empty, "it reaches below that ground already"
    assert footed(disc, 0.0, 3.0, 0.0)[1].is_empty, "it is shorter than a foot"
    one, _ = footed(disc, 0.0, 0.9, 0.2)
    assert one.intersection(shapely.box(-5, -1, 5, 0.5)).area == pytest.approx(0.9 * 0.5)


def test_a_rib_that_slots_part_is_told_and_keeps_its_largest_piece():
    """Through the two halves of a ring on its side a plate is slotted so far that its foot falls
    off."""
    slots = Slots(0.0, 0.3, 0.0, "diagonal", 0.01)
    laps, ribs = waffle(
        BODIES["ring on its side"](), (107.0, 219.0), (3, 3), (0.03125, 0.03125), slots
    )
    assert [laps.ribs[k].label for k in laps.fell] == ["B2"]
    found = proof(ribs)
    assert found.overlap < 1e-3
    assert found.apart == ("A2b", "B2")


@known("slots in ribs of a ball", "the share of the common length where the plates' middles meet")
@pytest.mark.parametrize("share", [0.3, 0.4, 0.5, 0.65])
def test_slots_on_curved_edges_take_their_share(share):
    laps, _ = waffle(ball(), (0.0, 90.0), (7, 8), (0.018, 0.024), Slots(0.0, share))
    bare = {
        r.label: r
        for angle, number, series, thick in ((0.0, 7, "A", 0.018), (90.0, 8, "B", 0.024))
        for r in family(ball(), angle, number, series, thick).ribs
    }
    for c in laps.crossings:
        for k, own in ((c.first, share), (c.second, 1 - share)):
            rib = laps.ribs[k]
            across = rib.flattened(c.place[None])[0][0]
            upright = shapely.LineString([(across, -5), (across, 5)])
            whole = bare[rib.label].shape.intersection(upright).length
            assert 1 - rib.shape.intersection(upright).length / whole == approx(own, abs=2e-3)
