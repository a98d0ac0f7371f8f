"""Nets that settle: against closed forms and published figures, and with an equilibrium check of its own."""

from __future__ import annotations

import numpy as np
import pytest
from hypothesis import given, settings
from hypothesis import strategies as st
from scipy.optimize import brentq
from scipy.spatial import cKDTree

from leanlattice.core.geometry.drawing import cubics_through, path_of
from leanlattice.core.geometry.forms import sphere
from leanlattice.core.geometry.paths import Frame2, PlaneCurve
from leanlattice.core.geometry.polygons import flatness, vector_areas
from leanlattice.core.geometry.surfaces import dome, loft
from leanlattice.core.patterns.lay import Placing, lay
from leanlattice.core.settling.cells import CellAreas, Film, FlatCells, RightAngles
from leanlattice.core.settling.newton import softest
from leanlattice.core.settling.problem import Problem, SettleError
from leanlattice.core.settling.shapes import ShapeCloseness
from leanlattice.core.settling.slides import (
    along_curves,
    along_lines,
    in_planes,
    nearest_on_mesh,
    over_mesh,
    over_surface,
)
from leanlattice.core.settling.solver import settle
from leanlattice.core.settling.terms import Closeness, Densities, FairStrands, Forces, Lengths, Term
from leanlattice.core.shaping.facets import facets

from ..conftest import roof
from ..known import approx, held_to, known


def none(x):
    return np.zeros_like(x)


def lengths(edges, count, strength, wanted=None):
    """Edges drawn to lengths (m,), or to their mean."""
    m = len(edges)
    target = np.broadcast_to(1.0 if wanted is None else wanted, m).astype(float)
    return Lengths(
        edges,
        count,
        np.broadcast_to(strength, m).astype(float),
        target,
        target,
        np.zeros(m if wanted is None else 0, np.int32),
    )


def grid(n):
    """A square grid of n bays of 1 m, its border held."""
    x, y = np.meshgrid(np.arange(n + 1.0), np.arange(n + 1.0))
    places = np.column_stack([x.ravel(), y.ravel(), np.zeros(x.size)])
    row = np.arange(x.size).reshape(n + 1, n + 1)
    edges = np.vstack([np.column_stack([row[:, :-1].ravel(), row[:, 1:].ravel()]),
                       np.column_stack([row[:-1].ravel(), row[1:].ravel()])])  # fmt: skip
    held = np.repeat(((places[:, :2] % n) == 0).any(axis=1)[:, None], 3, axis=1)
    return places, edges, held


def assert_balanced(x, edges, forces, loads, held, share=1e-6):
    """Edge forces and loads sum to nothing at free vertices: added up here from coordinates alone."""
    total = np.array(loads, float)
    for (a, b), force in zip(edges.tolist(), np.asarray(forces).tolist(), strict=True):
        along = (x[b] - x[a]) / np.linalg.norm(x[b] - x[a])
        total[a] += force * along
        total[b] -= force * along
    scale = np.linalg.norm(loads, axis=1).mean() or np.abs(forces).mean()
    assert np.abs(total[~held]).max() < share * scale


@known(
    "net of one force density, n bays",
    "middle sags 0.0736713 n² P/q as n grows; what is held stays to the last bit",
)
@pytest.mark.parametrize(("n", "known"), [(10, 0.0730984), (40, 0.0736351), (120, 0.0736671)])
def test_the_sag_of_a_square_net(n, known):
    places, edges, held = grid(n)
    loads = np.where(held, 0.0, [[0, 0, -0.7]])
    term = Densities(edges, len(places), np.full(len(edges), 2.0))
    made = settle(places, [term], lambda x: loads, held)
    assert made.converged
    assert -made.vertices[:, 2].min() / (n * n * 0.7 / 2) == approx(known, abs=1e-6)
    assert abs(known - 0.0736713) < 0.1 / n**2
    assert np.array_equal(made.vertices[held.any(axis=1)], places[held.any(axis=1)]), (
        "what is held stays to the last bit"
    )
    held_to(np.abs((made.reactions + made.loads).sum(axis=0)).max(), 1e-8)
    if n == 10:
        assert_balanced(made.vertices, edges, term.forces(made.vertices), loads, held, 1e-9)


@known("chain", "catenary")
@pytest.mark.parametrize("links", [40, 160])
def test_a_chain_hangs_as_a_catenary(links):
    edges = np.column_stack([np.arange(links), np.arange(1, links + 1)])
    t = np.linspace(0, 1, links + 1)
    start = np.column_stack([10 * t, np.zeros(links + 1), -0.5 * np.sin(np.pi * t)])
    held = np.zeros((links + 1, 3), bool)
    held[[0, -1]] = True
    held[:, 1] = True
    loads = np.zeros_like(start)
    loads[:, 2] = -12 / links
    loads[[0, -1], 2] /= 2
    term = lengths(edges, links + 1, 5e3 * links, 12 / links)
    made = settle(start, [term], lambda x: loads, held, steps=2000)
    assert made.converged
    a = brentq(lambda a: 2 * a * np.sinh(5 / a) - 12, 1, 50)
    assert -made.vertices[:, 2].min() == approx(a * np.cosh(5 / a) - a, rel=2 / links**1.5)
    assert np.abs(made.reactions[0, 0]) == approx(a, rel=2 / links**1.5)
    assert_balanced(made.vertices, edges, term.forces(made.vertices), loads, held, 1e-5)


@known("film between two rings", "catenoid: area π a (h + a sinh(h/a)), waist a")
def test_a_film_between_two_rings_is_a_catenoid():
    turn = np.linspace(0, 2 * np.pi, 48, endpoint=False)
    tube = loft(
        [np.column_stack([np.cos(turn), np.sin(turn), np.full(48, z)]) for z in (0, 0.5, 1)],
        closed=True,
    )
    net = lay(tube, "quads", (96, 24))
    held = np.repeat((np.abs(net.vertices[:, 2] - 0.5) > 0.5 - 1e-9)[:, None], 3, axis=1)
    film = Film(net.vertices, net.corners, net.offsets, 1.0)
    made = settle(net.vertices, [film], none, held, limit=1e-4)
    assert made.converged
    a = brentq(lambda a: a * np.cosh(1 / (2 * a)) - 1, 0.6, 1)
    assert film.area(made.vertices) == approx(np.pi * a * (1 + a * np.sinh(1 / a)), rel=5e-4)
    assert np.linalg.norm(made.vertices[:, :2], axis=1).min() == approx(a, rel=1e-3)


@known("film over a ring under pressure", "part of a sphere")
def test_a_film_under_pressure_is_part_of_a_sphere():
    """Radius 2 T / p; over a ring of radius 1 the flatter cap is the one that stays."""
    net = lay(dome(2, 0.3, np.zeros(3)), "quads", (40, 12))
    held = np.repeat((net.vertices[:, 2] < 1e-9)[:, None], 3, axis=1)
    film = Film(net.vertices, net.corners, net.offsets, 1.0)
    sizes = np.diff(net.offsets)
    cell = np.repeat(np.arange(len(sizes)), sizes)

    def pressure(x):
        each = (1.25 * vector_areas(x, net.corners, net.offsets) / sizes[:, None])[cell]
        return np.stack([np.bincount(net.corners, each[:, k], len(x)) for k in range(3)], axis=1)

    made = settle(net.vertices, [film], pressure, held, limit=1e-4)
    radius = 2 / 1.25
    top = made.vertices[:, 2].max()
    assert top == approx(radius - np.sqrt(radius**2 - 1), rel=0.01)
    centre = np.array([0, 0, top - radius])
    assert np.linalg.norm(made.vertices - centre, axis=1) == approx(
        np.full(len(net.vertices), radius), rel=0.01
    )


AIMS = {
    "equal": lambda net: lengths(net.edges, len(net.vertices), 10.0),
    "one": lambda net: lengths(net.edges, len(net.vertices), 10.0, 1.1),
    "areas": lambda net: CellAreas(net.corners, net.offsets, len(net.vertices), 10.0),
    "flat": lambda net: FlatCells(net.corners, net.offsets, len(net.vertices), 1000.0),
    "close": lambda net: Closeness(
        np.arange(len(net.vertices)), len(net.vertices), 1.0, net.vertices
    ),
}


@pytest.mark.parametrize("aim", ["equal", "one", "areas", "flat"])
def test_an_aim_comes_nearer_to_what_it_says(aim):
    net = lay(roof(), "nudged" if aim == "areas" else "quads", (8, 12), placing=Placing(rounds=0))
    term, near = AIMS[aim](net), AIMS["close"](net)
    held = np.zeros((len(net.vertices), 3), bool)
    made = settle(net.vertices, [term, near], none, held, limit=1e-3)
    assert term.gap(made.vertices) < 0.6 * term.gap(net.vertices)
    if aim == "flat":
        assert flatness(made.vertices, net.corners, net.offsets).max() < 0.2 * net.flatness.max()


def test_right_angles_and_fair_strands():
    net = lay(roof(), "rhombs", (8, 10), placing=Placing(lean=0.4))
    held = np.zeros((len(net.vertices), 3), bool)
    corners = quads_of(net)
    term = RightAngles(corners, net.vertices, 50.0)
    made = settle(net.vertices, [term, AIMS["close"](net)], none, held, limit=1e-3)
    off = [
        np.abs(np.degrees(np.arcsin(term._cosines(x)))).mean()
        for x in (net.vertices, made.vertices)
    ]
    assert off[1] < 0.7 * off[0]
    line = np.column_stack([np.arange(9.0), np.random.default_rng(1).random(9), np.zeros(9)])
    triples = np.column_stack([np.arange(7), np.arange(1, 8), np.arange(2, 9)])
    held = np.zeros((9, 3), bool)
    held[[0, -1]] = True
    straight = settle(line, [FairStrands(triples, 9, 1.0)], none, held)
    assert np.diff(straight.vertices, 2, axis=0) == pytest.approx(np.zeros((7, 3)), abs=1e-9)


def test_edge_forces_are_what_was_asked_for():
    places, edges, held = grid(6)
    inner = ~held[edges].all(axis=(1, 2))
    term = Forces(edges[inner], len(places), np.full(int(inner.sum()), 4.0), 0.02)
    loads = np.where(held, 0.0, [[0, 0, -0.5]])
    made = settle(places, [term], lambda x: loads, held, limit=1e-6)
    assert made.converged
    assert term.forces(made.vertices) == pytest.approx(np.full(int(inner.sum()), 4.0))
    assert_balanced(made.vertices, edges[inner], term.forces(made.vertices), loads, held, 1e-5)


@known("what slides on a drawn curve", "is on it")
@given(st.floats(0.2, 5), st.floats(0.05, 2) | st.floats(-2, -0.05), st.floats(0.5, 20))
@settings(max_examples=10)
def test_what_slides_on_a_curve_stays_on_it(density, load, spring):
    places, edges, held = grid(5)
    held = np.zeros_like(held)
    held[:6] = True  # one side
    turn = np.linspace(-0.2, np.pi + 0.2, 400)
    curve = np.column_stack([2.5 + 3 * np.cos(turn), np.full(400, 6.0), 3 * np.sin(turn)])
    far = np.arange(30, 36)
    terms = [Densities(edges, 36, np.full(len(edges), density)),
             lengths(edges, 36, spring, 0.8)]  # fmt: skip
    loads = np.zeros((36, 3))
    loads[:, 2] = load
    made = settle(places, terms, lambda x: loads, held, [along_lines(far, (curve,))], limit=1e-4)
    x = made.vertices[far]
    assert x[:, 1] == approx(np.full(6, 6.0), abs=1e-9)
    assert np.hypot(x[:, 0] - 2.5, x[:, 2]) == approx(np.full(6, 3.0), abs=1e-3)
    assert np.array_equal(made.vertices[:6], places[:6])


LEVEL = Frame2(np.array([1.0, 2.0, 3.0]), np.array([0.6, 0.8, 0.0]), np.array([0.0, 0.0, 1.0]))


@known("nearest place on a drawn curve", "on the curve itself")
@given(st.integers(0, 10**6))
@settings(max_examples=10)
def test_the_nearest_place_on_a_drawn_curve_is_on_the_curve_itself(seed):
    rng = np.random.default_rng(seed)
    places = rng.uniform(-8, 8, (40, 3))
    circle = PlaneCurve(path_of("circle", [[0, 0], [5, 0]]), LEVEL)
    free = PlaneCurve(cubics_through(np.array([[0, 0], [3, 2], [6, 0], [8, 3.0]])), LEVEL)
    on_circle = along_curves(np.arange(40), [circle]).onto(places)
    assert np.linalg.norm(on_circle - LEVEL.origin, axis=1) == approx(np.full(40, 5.0), abs=1e-12)
    slide = along_curves(np.arange(40), [free])
    at = slide.onto(places)
    dense = free.points(np.linspace(0, 1, 40_001))
    wanted = cKDTree(dense).query(places)[0]
    # Between two branches that are all but as near the nearest chord decides.
    assert np.linalg.norm(at - places, axis=1) == approx(wanted, abs=2e-3)
    held_to(cKDTree(dense).query(at)[0].max(), 1e-3)
    across = slide.across(places)
    along = np.cross(across[:, 0], across[:, 1])
    inner = ~slide.back(places).any(axis=1)
    assert np.abs(np.einsum("nd,nd->n", places - at, along))[inner].max() < 1e-9, (
        "square to the curve"
    )
    assert np.einsum("nkd,nld->nkl", across, across) == approx(
        np.broadcast_to(np.eye(2), (40, 2, 2)), abs=1e-12
    )


def test_a_vertex_rests_in_a_corner_of_its_guide_or_passes_it():
    """A spring draws a vertex along a bent guide; what draws it into the corner keeps it there."""
    guide = np.array([[-3.0, 0, 0], [0, -3.0, 0], [3.0, 0, 0]])
    for anchor, wanted in (
        ([0.0, -9, 0], [0.0, -3, 0]),
        ([4.0, -1, 0], [3.0, 0, 0]),
        ([1.0, 0, 0], [-1.0, -2, 0]),
    ):
        places = np.array([[-2.0, -1, 0], anchor])
        held = np.array([[False] * 3, [True] * 3])
        spring = Densities(np.array([[0, 1]]), 2, np.ones(1))
        slide = along_lines(np.array([0]), (guide,))
        made = settle(places, [spring], none, held, [slide], limit=1e-6, steps=4000)
        assert made.converged, anchor
        assert made.vertices[0] == pytest.approx(wanted, abs=1e-4)


@known("what slides on a sphere", "is on the sphere; reactions along its normal")
@given(st.integers(0, 10**6))
@settings(max_examples=10)
def test_what_slides_on_a_surface_is_on_the_surface_itself(seed):
    rng = np.random.default_rng(seed)
    ball = sphere(np.array([1.0, 2.0, 3.0]), 3.0)
    shown = facets(ball)
    way = rng.normal(size=(60, 3))
    way /= np.linalg.norm(way, axis=1, keepdims=True)
    places = np.array([1.0, 2.0, 3.0]) + rng.uniform(1.0, 6.0, (60, 1)) * way
    slide = over_surface(np.arange(60), ball, shown.mesh, shown.uv)
    assert slide.onto(places) == approx([1.0, 2.0, 3.0] + 3.0 * way, abs=1e-6)
    assert np.linalg.norm(slide.onto(places) - [1, 2, 3], axis=1) == approx(
        np.full(60, 3.0), abs=1e-12
    )
    assert np.abs(slide.across(places)[:, 0]) == approx(np.abs(way), abs=1e-6)


def test_what_cannot_settle_is_said():
    places, edges, held = grid(4)
    count = len(places)
    with pytest.raises(SettleError, match="25 vertices are held by nothing along x"):
        settle(places, [Densities(edges, count, np.ones(len(edges)))], none, np.zeros_like(held))
    loose = np.vstack([places, [[9, 9, 0], [10, 9, 0]]])
    with pytest.raises(SettleError, match="2 vertices are held by nothing") as error:
        settle(loose, [Densities(np.vstack([edges, [[count, count + 1]]]), count + 2, np.ones(len(edges) + 1))], none,
               np.vstack([held, np.zeros((2, 3), bool)]))  # fmt: skip
    assert error.value.vertices.tolist() == [count, count + 1]
    wrong = np.zeros_like(places)
    wrong[7, 2] = np.nan
    with pytest.raises(SettleError, match="load on 1 vertices is not a number") as error:
        settle(places, [Densities(edges, count, np.ones(len(edges)))], lambda x: wrong, held)
    assert error.value.vertices.tolist() == [7]
    # Two densities that cancel: a vertex between a push and a pull of equal size.
    chain = np.array([[0.0, 0, 0], [1, 0, 0], [2, 0, 0]])
    ends = np.array([[True] * 3, [False] * 3, [True] * 3])
    with pytest.raises(SettleError, match="cancel each other|runs away"):
        settle(chain, [Densities(np.array([[0, 1], [1, 2]]), 3, np.array([1.0, -1.0]))],
               lambda x: np.array([[0, 0, 0], [0, 0, -1.0], [0, 0, 0]]), ends)  # fmt: skip


def test_each_step_is_watched_and_can_be_stopped():
    places, edges, held = grid(8)
    loads = np.where(held, 0.0, [[0, 0, -1.0]])
    term = lengths(edges, len(places), 50.0, 0.9)
    seen = []

    def watch(state):
        seen.append((state.step, state.residuals[-1], state.x[:, 2].min()))
        if state.step == 30:
            raise KeyboardInterrupt

    with pytest.raises(KeyboardInterrupt):
        settle(places, [term], lambda x: loads, held, limit=1e-12, watch=watch)
    assert [s for s, _, _ in seen] == [0, 10, 20, 30]
    assert len({z for _, _, z in seen}) == 4, "the form moves"


def quads_of(net):
    """Corners (m, 3), each after the one before it, of the cells of four."""
    quads = np.repeat(np.diff(net.offsets) == 4, np.diff(net.offsets))
    corner = np.arange(len(net.corners))
    after, before = corner + 1, corner - 1
    after[net.offsets[1:] - 1], before[net.offsets[:-1]] = net.offsets[:-1], net.offsets[1:] - 1
    return np.column_stack([net.corners[before], net.corners, net.corners[after]])[quads]


def terms_of(net):
    count, e = len(net.vertices), net.edges
    some = np.full(len(e), 3.0)
    row = np.column_stack([np.arange(count - 2), np.arange(1, count - 1), np.arange(2, count)])
    return {
        "densities": Densities(e, count, np.linspace(-1, 4, len(e))),
        "forces": Forces(e, count, np.linspace(-2, 4, len(e)), 0.05),
        "lengths": lengths(e, count, 5.0, 0.9),
        "equal": lengths(e, count, 5.0),
        "between": Lengths(e, count, some, np.full(len(e), 0.7), np.full(len(e), 1.0)),
        "flat": FlatCells(net.corners, net.offsets, count, 20.0),
        "areas": CellAreas(net.corners, net.offsets, count, 6.0),
        "film": Film(net.vertices, net.corners, net.offsets, 2.0),
        "right": RightAngles(quads_of(net), net.vertices, 4.0),
        "fair": FairStrands(row, count, 2.0),
        "close": Closeness(np.arange(count), count, 1.5, net.vertices + 0.1),
        "shape": ShapeCloseness(facets(dome(9, 2.5, np.zeros(3))).mesh, count, 3.0),
    }


NET = lay(roof(), "rhombs", (4, 5), placing=Placing(lean=0.4))


@known("every aim", "its pull is the gradient of what it stores, by central differences")
@pytest.mark.parametrize("name", terms_of(NET))
@given(st.integers(0, 10_000))
@settings(max_examples=5, deadline=None)
def test_the_pull_of_an_aim_is_the_gradient_of_what_it_stores(name, seed):
    term, rng = terms_of(NET)[name], np.random.default_rng(seed)
    x = NET.vertices + 0.03 * rng.standard_normal(NET.vertices.shape)
    term.refresh(x)
    term.energy(NET.vertices)
    pull = np.zeros_like(x)
    term.pull(x, pull)
    for _ in range(3):
        way = rng.standard_normal(x.shape)
        step = 1e-5
        change = (term.energy(x + step * way) - term.energy(x - step * way)) / (2 * step)
        scale = np.linalg.norm(pull) * np.linalg.norm(way) / np.sqrt(x.size)
        held_to((change - float(np.sum(pull * way))) / (scale + 1e-6), 2e-3)
    if name != "forces":
        plain = np.zeros_like(x)
        Term.pull(term, x, plain)
        assert pull == approx(plain, abs=1e-9 * max(1.0, np.abs(plain).max())), (
            "compiled as in rows"
        )


@known("masses of every aim", "bound its stiffness")
@pytest.mark.parametrize("name", [n for n in terms_of(NET) if n != "forces"])
def test_masses_bound_the_stiffness_of_every_aim(name):
    """The whole stiffness is nowhere above its bound at the vertices: steps of unit time with these masses are stable."""
    term = terms_of(NET)[name]
    if name == "densities":
        term = Densities(NET.edges, len(NET.vertices), np.linspace(0.5, 4, len(NET.edges)))
    term.refresh(NET.vertices)
    whole = term.stiffness_at(NET.vertices).toarray()
    bound = np.zeros_like(whole)
    for v, block in enumerate(term.stiffness_bound(NET.vertices)):
        bound[3 * v : 3 * v + 3, 3 * v : 3 * v + 3] = block
    held_to(min(np.linalg.eigvalsh(bound - whole).min() / np.abs(whole).max(), 0.0), 1e-8)


@known("what slides on a mesh", "no place of the mesh is nearer")
@given(st.integers(0, 1000), st.floats(0.2, 3))
@settings(max_examples=10, deadline=None)
def test_the_nearest_place_on_a_mesh_is_none_nearer_by_trying(seed, away):
    mesh = facets(dome(6, 2, np.zeros(3))).mesh
    rng = np.random.default_rng(seed)
    x = rng.uniform(-3, 3, (20, 3)) * [1, 1, 0.2] + [0, 0, away]
    at, normals, _ = nearest_on_mesh(mesh)(x)
    share = rng.dirichlet([1, 1, 1], (2000,))
    tried = np.einsum(
        "nk,nkd->nd",
        share,
        mesh.vertices[mesh.triangles[rng.integers(0, len(mesh.triangles), 2000)]],
    )
    nearest = np.linalg.norm(at - x, axis=1)
    assert (np.linalg.norm(tried[None] - x[:, None], axis=2).min(axis=1) > nearest - 1e-9).all()
    assert np.linalg.norm(normals, axis=1) == approx(np.ones(20))


@known("what slides on shapes and in planes", "stays there")
@given(st.floats(0.05, 3), st.floats(0.3, 3))
@settings(max_examples=8, deadline=None)
def test_what_slides_on_a_shape_or_in_planes_stays_there(load, density):
    places, edges, held = grid(6)
    held = np.zeros_like(held)
    held[places[:, 1] == 0] = True
    far, side = (
        np.flatnonzero(places[:, 1] == 6),
        np.flatnonzero((places[:, 0] == 0) & (places[:, 1] % 6 > 0)),
    )
    mesh = facets(dome(14, 3, np.array([3.0, 6.0, -1.0]))).mesh
    slides = [over_mesh(far, mesh), in_planes(side, places[side], np.array([1.0, 0, 0]))]
    loads = np.zeros_like(places)
    loads[:, 2] = load
    term = Densities(edges, len(places), np.full(len(edges), density))
    made = settle(places, [term], lambda x: loads, held, slides, limit=1e-3)
    assert made.converged
    at = nearest_on_mesh(mesh)(made.vertices[far])[0]
    assert made.vertices[far] == approx(at, abs=1e-9)
    held_to(np.abs(made.vertices[side, 0]).max(), 1e-12)
    assert np.abs(made.reactions[side][:, 1:]).max() < 2e-3 * max(abs(load), density), (
        "they hold across the plane alone"
    )


@known("a square of bars, with a diagonal or without", "one mechanism, none")
def test_a_mechanism_is_found_by_how_little_resists_it():
    """A square of bars turns freely about its fixed side; with a diagonal nothing does."""
    x = np.array([[0.0, 0, 0], [1, 0, 0], [1, 1, 0], [0, 1, 0]])
    held = np.zeros((4, 3), bool)
    held[:2] = True
    held[:, 2] = True
    bars = [[1, 2], [2, 3], [3, 0]]
    for edges, free in ((bars, True), ([*bars, [0, 2]], False)):
        term = lengths(np.array(edges), 4, 10.0, [1.0, 1, 1, np.sqrt(2)][: len(edges)])
        motion, share = softest(Problem(x, [term], none, held, []), x)
        assert (share < 1e-7) == free
        if free:
            assert np.abs(motion[2:, 0]) == approx([1.0, 1.0], abs=1e-3)


@known(
    "chains of any number of links and slack",
    "their funicular polygon, closing in on the catenary",
)
@given(st.integers(3, 24), st.floats(1.05, 1.6), st.floats(0.5, 20))
@settings(max_examples=10, deadline=None)
def test_chains_of_any_number_and_length_are_catenaries(half, slack, weight):
    links, span = 2 * half, 8.0
    length = slack * span
    edges = np.column_stack([np.arange(links), np.arange(1, links + 1)])
    t = np.linspace(0, 1, links + 1)
    start = np.column_stack([span * t, np.zeros(links + 1), -0.3 * np.sin(np.pi * t)])
    held = np.zeros((links + 1, 3), bool)
    held[[0, -1]] = True
    held[:, 1] = True
    loads = np.zeros_like(start)
    loads[1:-1, 2] = -weight * length / links
    term = lengths(edges, links + 1, 2e4 * links * weight, length / links)
    made = settle(start, [term], lambda x: loads, held, limit=1e-4)
    assert made.converged
    # A chain of links hangs on the corners of its funicular polygon, which closes in on the catenary with their square.
    a = brentq(lambda a: 2 * a * np.sinh(span / 2 / a) - length, 0.3, 1e3)
    assert -made.vertices[:, 2].min() == approx(a * np.cosh(span / 2 / a) - a, rel=1.5 / links**1.2)
    assert_balanced(made.vertices, edges, term.forces(made.vertices), loads, held, 1e-3)


@known("closed film with gas in it", "a sphere of radius 2 T / p")
def test_a_closed_film_with_gas_in_it_is_a_bubble():
    """A closed film under pressure p has the radius 2 T / p, from a net that starts elsewhere (Laplace, 1806)."""
    net = lay(sphere(np.zeros(3), 1.0), "quads", (24, 12))
    film = Film(net.vertices, net.corners, net.offsets, 1.0)
    near = Closeness(np.arange(len(net.vertices)), len(net.vertices), 1e-4, net.vertices)
    sizes = np.diff(net.offsets)
    cell = np.repeat(np.arange(len(sizes)), sizes)
    held = np.zeros((len(net.vertices), 3), bool)
    volume = 4 / 3 * np.pi

    def pressure(x):
        # Kept at the volume of the start: a bubble of gas, as a free one at constant pressure is not stable.
        across = vector_areas(x, net.corners, net.offsets)
        middles = np.add.reduceat(x[net.corners], net.offsets[:-1]) / sizes[:, None]
        now = float(np.einsum("ij,ij->", across, middles)) / 3
        each = (2.0 * volume / now * across / sizes[:, None])[cell]
        return np.stack([np.bincount(net.corners, each[:, k], len(x)) for k in range(3)], axis=1)

    made = settle(
        1.08 * net.vertices * [1, 1, 0.9], [film, near], pressure, held, limit=2e-2, steps=3000
    )
    radius = np.linalg.norm(made.vertices - made.vertices.mean(axis=0), axis=1)
    held_to(radius.std() / radius.mean(), 0.01)
    across = vector_areas(made.vertices, net.corners, net.offsets)
    middles = np.add.reduceat(made.vertices[net.corners], net.offsets[:-1]) / sizes[:, None]
    inside = 2.0 * volume / (float(np.einsum("ij,ij->", across, middles)) / 3)
    assert radius.mean() == approx(2 / inside, rel=0.03)
