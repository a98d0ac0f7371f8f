"""Structures: lengths, arms, what meets, links and masses against what was worked out by hand."""

from dataclasses import replace

import numpy as np
import pytest
import shapely
from hypothesis import given, settings
from hypothesis import strategies as st
from scipy.spatial.transform import Rotation

from leanlattice.core.geometry.arcs import arc_lengths, tangents
from leanlattice.core.materials import MATERIALS
from leanlattice.core.patterns.lay import lay
from leanlattice.core.sections import FAMILIES, Section, find
from leanlattice.core.structure.arms import PASSAGE, arms_of, links_of, set_backs
from leanlattice.core.structure.axes import set_out_lines
from leanlattice.core.structure.builders.from_net import from_net
from leanlattice.core.structure.meetings import Meeting
from leanlattice.core.structure.roles import ROLES
from leanlattice.core.structure.solids import member_solids

from ..conftest import SURFACES, roof
from ..known import approx, held_to, known
from . import structures

EVERY = {
    "diagrid": structures.diagrid,
    "double layer": lambda: structures.double_layer(2, 3, 1.5, 1.0),
    "truss": structures.truss,
    "weave": structures.weave,
    "reciprocal": structures.reciprocal,
    "arch": structures.arch,
    "branching column": structures.branching_column,
    "mirrored bay": structures.mirrored_bay,
    "purlin on rafter": structures.purlin_on_rafter,
}


def at(arms, node):
    """Arms at a node as (member, end)."""
    rows = slice(arms.start[node], arms.start[node + 1])
    return list(zip(arms.member[rows].tolist(), arms.end[rows].tolist(), strict=True))


@known(
    "four tubes at right angles, 10 mm apart",
    "r + 10 / √2 from the node, √2 m less that, and its mass",
)
def test_a_diagrid():
    made = structures.diagrid()
    arms = arms_of(made)
    assert at(arms, 0) == [(0, 0), (1, 0), (2, 0), (3, 0)]
    assert made.valence.tolist() == [4, 1, 1, 1, 1]
    back = set_backs(made, arms, 0.01)
    held_to(back[:, 0] - (0.04445 + 0.01 / np.sqrt(2)), 1e-12)
    held_to(back[:, 1], 0)
    cut = np.sqrt(2) - back[0, 0]
    # π (88.9² − 80.9²) / 4 mm² of steel.
    per_metre = np.pi * (0.0889**2 - 0.0809**2) / 4 * 7850
    held_to(replace(made, set_back=back).masses - cut * per_metre, 1e-9)


@known(
    "square on square offset", "counts by their formulas, webs √(b²/2 + d²), valences 8 and 6 to 8"
)
@given(st.integers(1, 4), st.integers(1, 4))
def test_a_double_layer(n, m):
    made = structures.double_layer(n, m, 1.5, 1.0)
    assert len(made.places) == (n + 1) * (m + 1) + n * m
    roles = [ROLES[name] for name in ("chord", "web")]
    numbers = [list(ROLES).index(role.name) for role in roles]
    chords, webs = (np.count_nonzero(made.role == k) for k in numbers)
    assert chords == (2 * n * m + n + m) + (2 * n * m - n - m)
    assert webs == 4 * n * m
    held_to(made.lengths[made.role == numbers[1]] - np.sqrt(1.5**2 / 2 + 1), 1e-12)
    held_to(made.lengths[made.role == numbers[0]] - 1.5, 1e-12)
    if n > 1 and m > 1:
        assert made.valence[n + 2] == 8
        assert set(made.valence[(n + 1) * (m + 1) :].tolist()) <= {6, 7, 8}
    # All that meets at a node meets in one point.
    assert not len(links_of(arms_of(made)).node)


@known(
    "webs at a chord that runs through, with a gap",
    "their axes 60 mm off the node, cut at the chord's side",
)
def test_a_truss():
    made = structures.truss()
    arms = arms_of(made)
    held_to(made.lengths - [2, np.hypot(0.94, 1), np.hypot(0.94, 1)], 1e-12)
    assert at(arms, 1) == [(0, PASSAGE), (1, 1), (2, 1)]
    assert made.valence.tolist() == [1, 4, 1, 1, 1]
    # Chord and webs meet; the chord is set back nowhere, the webs by (r₁ + r₂ cos θ) / sin θ less
    # what their axes are off the node along the chord.
    assert set(arms.cluster[arms.start[1] : arms.start[2]].tolist()) == {0}
    back = set_backs(made, arms, 0.0)
    assert back[0].tolist() == [0, 0]
    assert back[1:, 0].tolist() == [0, 0]
    cosine, sine = 0.94 / np.hypot(0.94, 1), 1 / np.hypot(0.94, 1)
    side = (0.05 + 0.03015 * cosine) / sine
    assert back[1, 1] >= side - 1e-12
    held_to(back[1, 1] - back[2, 1], 1e-12)


@known(
    "laths over and under each other",
    "two passages a crossing, a link of a thickness, lengths over the levels",
)
def test_a_weave():
    made = structures.weave(0.02)
    arms = arms_of(made)
    held_to(made.lengths - (2 * np.hypot(1, 0.01) + np.hypot(1, 0.02)), 1e-12)
    links = links_of(arms)
    assert links.node.tolist() == [1, 2, 5, 6]
    held_to(links.way[:, :2], 0)
    held_to(links.way[:, 2] - [-0.02, 0.02, 0.02, -0.02], 1e-12)
    for node in links.node:
        assert [end for _, end in at(arms, node)] == [PASSAGE, PASSAGE]
    held_to(set_backs(made, arms, 0.01), 0)
    assert made.count == 4


@known(
    "a reciprocal frame of three bars",
    "three members, an end on a passage at each contact, links of a depth",
)
def test_a_reciprocal_frame():
    made = structures.reciprocal(0.12)
    arms, links = arms_of(made), links_of(arms_of(made))
    assert made.count == 3
    side = 0.5 * np.sqrt(3)
    held_to(made.lengths - (np.hypot(2 * side, 0.06) + np.hypot(side, 0.12)), 1e-12)
    for node in range(3):
        assert sorted(end for _, end in at(arms, node)) == [PASSAGE, 1]
    assert made.valence.tolist() == [3, 3, 3, 1, 1, 1]
    held_to(np.abs(links.way) - [0, 0, 0.12], 1e-12)
    assert made.foot.tolist() == [False] * 3 + [True] * 3


@known("an arch of two quarter circles", "π R long, upright at its feet, level at its crown")
def test_an_arch():
    made = structures.arch(5.0)
    held_to(made.lengths - 5 * np.pi, 1e-12)
    arms = arms_of(made)
    held_to(arms.away - [(0, 0, 1), (1, 0, 0), (0, 0, 1)], 1e-12)
    held_to(arms.up[1] - (0, 0, 1), 1e-12)
    per_metre = np.pi * (0.0889**2 - 0.0809**2) / 4 * 7850
    held_to(made.masses - 5 * np.pi * per_metre, 1e-9)


@known(
    "a branching column below a beam",
    "three ends at the fork, ends at the side of the beam that runs on",
)
def test_a_branching_column():
    made = structures.branching_column()
    arms = arms_of(made)
    held_to(made.lengths - [3, np.sqrt(2), np.sqrt(2), 4], 1e-12)
    assert at(arms, 1) == [(0, 1), (1, 0), (2, 0)]
    assert at(arms, 2) == [(1, 1), (3, PASSAGE)]
    back = set_backs(made, arms, 0.0)
    # At 45° to a beam 50 mm deep from its axis: (50 + 44.45 cos 45°) / sin 45°.
    held_to(back[1:3, 1] - (0.05 + 0.04445 * np.sqrt(0.5)) * np.sqrt(2), 1e-12)
    assert back[3].tolist() == [0, 0]


def test_a_mirrored_bay():
    made = structures.mirrored_bay()
    assert made.copy_of.tolist() == [0, 1, 0, 1]
    assert made.mirrored.tolist() == [False, False, True, True]
    held_to(made.lengths[2:] - made.lengths[:2], 0)
    held_to(made.masses[2:] - made.masses[:2], 0)
    back = set_backs(made, arms_of(made), 0.01)
    held_to(back[2:] - back[:2], 1e-12)
    own, other = made.axis_places[:4], made.axis_places[4:]
    held_to(other * (-1, 1, 1) - own, 0)


@known("a purlin on a rafter", "two passages, half the depths of both apart, nothing cut")
def test_a_purlin_on_a_rafter():
    made = structures.purlin_on_rafter()
    arms = arms_of(made)
    links = links_of(arms)
    assert links.node.tolist() == [1]
    held_to(links.way - (0, 0, 0.1 + 0.06), 1e-12)
    held_to(set_backs(made, arms, 0.02), 0)
    # A hair lower it is let into the rafter, and they meet.
    lower = replace(made, offset=made.offset * (1, 1, 0.99))
    assert not len(links_of(arms_of(lower)).node)


@known("a tube that swells to twice its size", "7/3 of its mass as long and even")
def test_masses_follow_the_scale():
    made = structures.structure([(0, 0, 0), (1, 0, 0)], [{"path": [0, 1], "scale": [1.0, 2.0]}])
    plain = structures.structure([(0, 0, 0), (1, 0, 0)], [{"path": [0, 1]}])
    held_to(made.masses / plain.masses - 7 / 3, 1e-12)


@given(st.floats(0.1, 20), st.floats(0.001, 3.1), st.floats(0, 6.28))
def test_arcs_are_those_of_their_circles(radius, angle, turn):
    chord = np.array([[2 * radius * np.sin(angle / 2), 0, 0]])
    way = np.array([0, np.cos(turn), np.sin(turn)])
    bulge = radius * (1 - np.cos(angle / 2)) * way[None]
    assert arc_lengths(chord, bulge)[0] == pytest.approx(radius * angle, rel=1e-9)
    leaving, arriving = tangents(chord, bulge)
    half = np.array([np.cos(angle / 2), 0, 0])
    assert leaving[0] == pytest.approx(half + np.sin(angle / 2) * way, abs=1e-9)
    assert arriving[0] == pytest.approx(half - np.sin(angle / 2) * way, abs=1e-9)


@pytest.mark.parametrize("name", EVERY)
@given(st.integers(0, 10**6))
@settings(max_examples=10)
def test_nothing_depends_on_where_and_how_it_stands(name, seed):
    made = EVERY[name]()
    turn = Rotation.random(random_state=seed).as_matrix()
    ways = {n: getattr(made, n) @ turn.T for n in ("offset", "up", "bulge", "normals")}
    moved = replace(made, places=made.places @ turn.T + 7.0, **ways)
    held_to(moved.lengths - made.lengths, 1e-9)
    before, after = arms_of(made), arms_of(moved)
    assert after.cluster.tolist() == before.cluster.tolist()
    held_to(links_of(after).way - links_of(before).way @ turn.T, 1e-9)
    held_to(set_backs(moved, after, 0.01) - set_backs(made, before, 0.01), 1e-7)


SECTIONS = st.sampled_from(["CHS 60.3 × 4", "SHS 80 × 4", "RHS 120 × 60 × 5", "Timber 60 × 160"])


@known("structures of nets", "a member along every edge, from vertex to vertex, on its line")
@pytest.mark.parametrize("name", SURFACES)
@given(SECTIONS, SECTIONS, st.sampled_from(["top", "centre", "bottom"]), st.floats(-3, 3))
@settings(max_examples=10, deadline=None)
def test_a_structure_of_a_net_has_a_member_along_every_edge(name, inner, border, set_out, roll):
    net = lay(SURFACES[name](), "triangles", (6, 5))
    made = from_net(net, find(inner), find(border), set_out, roll, Meeting(gap=0.01), source="n")
    held_to(made.lengths - net.edge_lengths, 1e-12)
    held_to(made.valence - net.valence, 0)
    assert made.ends.tolist() == net.edges.tolist()
    assert made.origin[:, 1].tolist() == list(range(len(net.vertices)))
    assert made.sources == ("n",)
    edge = list(ROLES).index("edge")
    assert (made.role == edge).tolist() == net.border.tolist()
    names = [made.sections[k].name for k in made.section_of]
    assert names == [find(border if b else inner).name for b in net.border]
    # The line that is named lies on the net: the section's middle half a height off it.
    heights = np.array([made.sections[k].shape.height for k in made.section_of])
    lift = {"top": -0.5, "centre": 0.0, "bottom": 0.5}[set_out] * heights
    held_to(made.offset[::2] - lift[:, None] * made.up, 1e-12)
    held_to(np.einsum("ij,ij->i", made.up, made.chords), 1e-9)
    assert made.is_plain.all()


def test_marked_edges_have_sections_of_their_own():
    net = lay(roof(), "diagrid", (4, 3))
    marks = np.zeros(len(net.edges), np.int32)
    marks[[2, 5]] = 1, 2
    own = (find("CHS 168.3 × 6.3"), find("CHS 114.3 × 5"))
    made = from_net(
        replace(net, marks=marks),
        find("CHS 88.9 × 4"),
        find("CHS 88.9 × 4"),
        "centre",
        0,
        Meeting(gap=0.01),
        own,
    )
    assert [made.sections[k].name for k in made.section_of[[2, 5, 0]]] == [
        own[0].name,
        own[1].name,
        "CHS 88.9 × 4",
    ]
    assert made.lengths == approx(net.edge_lengths)


def volume_and_faults(vertices, triangles):
    """Volume of a solid, and its edges that are not passed once each way."""
    corner = vertices[triangles]
    volume = np.einsum("ij,ij->", corner[:, 0], np.cross(corner[:, 1], corner[:, 2])) / 6
    sides = np.concatenate([triangles[:, [0, 1]], triangles[:, [1, 2]], triangles[:, [2, 0]]])
    ways = set(map(tuple, sides.tolist()))
    return volume, len(sides) - len(ways) + sum((b, a) not in ways for a, b in ways)


@pytest.mark.parametrize("name", EVERY)
def test_solids_are_closed_and_weigh_what_they_are_said_to(name):
    made = EVERY[name]()
    made = replace(made, set_back=set_backs(made, arms_of(made), 0.01))
    seen = []
    for m, vertices, triangles in member_solids(made, 96, same_area=True):
        volume, faults = volume_and_faults(vertices, triangles)
        assert faults == 0
        section = made.sections[made.section_of[m]]
        sharp = section.shape.properties.area / polygon_area(section, 96)
        said = made.masses[m] / section.material.density
        # Sharp corners are drawn where a shape has round ones; arcs are chords.
        assert volume * sharp == pytest.approx(said, rel=2e-3)
        seen.append(m)
    assert seen == np.flatnonzero(made.cut_lengths > 0).tolist() == list(range(made.count))


def polygon_area(section, segments):
    """Area between the outlines of a section as they are drawn, of circles that of the circles."""
    circle = 2 * np.pi / segments / np.sin(2 * np.pi / segments) if section.shape.round else 1.0
    return polygon_of(section, segments).area * circle


def polygon_of(section, segments=16):
    pieces = section.shape.pieces(segments)
    return shapely.MultiPolygon(
        [(outer, [] if inner is None else [inner]) for outer, inner in pieces]
    )


@known("square bars of every family of sections", "area times length, and the surface of a prism")
@pytest.mark.parametrize("family", FAMILIES)
def test_bars_of_every_family_have_the_volume_and_the_surface_of_prisms(family):
    """The surface tells whether faces of ends lie over each other, which volumes do not."""
    section = Section(next(FAMILIES[family].made()), MATERIALS[FAMILIES[family].materials[0]])
    made = structures.structure([(0, 0, 0), (3, 0, 0)], [{"path": [0, 1], "section": section.name}])
    ((_, vertices, triangles),) = member_solids(made, 16)
    volume, faults = volume_and_faults(vertices, triangles)
    polygon = polygon_of(section)
    corner = vertices[triangles]
    cross = np.cross(corner[:, 1] - corner[:, 0], corner[:, 2] - corner[:, 0])
    assert faults == 0
    held_to(volume / (3 * polygon.area) - 1, 1e-12)
    surface = np.linalg.norm(cross, axis=1).sum() / 2
    held_to(surface / (3 * polygon.length + 2 * polygon.area) - 1, 1e-12)


@known("a swelling bar and a mitred one", "a frustum's volume; a bend's as long as its axis")
def test_solids_swell_and_are_mitred():
    bar = {"section": "Round 100"}
    swells = structures.structure(
        [(0, 0, 0), (2, 0, 0)], [bar | {"path": [0, 1], "scale": [1.0, 3.0]}]
    )
    turns = structures.structure([(0, 0, 0), (1, 0, 0), (1, 1, 0)], [bar | {"path": [0, 1, 2]}])
    ((_, *frustum),) = member_solids(swells, 96, same_area=True)
    ((_, *bend),) = member_solids(turns, 96, same_area=True)
    area = np.pi * 0.05**2
    held_to(volume_and_faults(*frustum)[0] / (2 * area * 13 / 3) - 1, 1e-9)
    held_to(volume_and_faults(*bend)[0] / (2 * area) - 1, 1e-9)


@known(
    "a bar that bends and is turned about its axis at a node",
    "closed, as large as its section times its axis",
)
@given(
    st.integers(5, 100),
    st.integers(-90, 90),
    st.sampled_from(["RHS 200 × 100 × 8", "CHS 88.9 × 4"]),
)
def test_solids_of_bars_that_turn_about_their_axes_are_as_large_as_these_are_long(
    bend, twist, section
):
    along, across = np.cos(np.radians(bend)), np.sin(np.radians(bend))
    places = [(0, 0, 0), (1, 0, 0), (1 + along, across, 0)]
    sideways = np.array([-across, along, 0.0])
    c, s = np.cos(np.radians(twist)), np.sin(np.radians(twist))
    ups = [(0, 0, 1), tuple(c * np.array([0, 0, 1.0]) + s * sideways)]
    made = structures.structure(places, [{"section": section, "path": [0, 1, 2], "up": ups}])
    ((_, *solid),) = member_solids(made, 24, same_area=True)
    volume, faults = volume_and_faults(*solid)
    assert not faults
    held_to(volume / (2 * polygon_area(made.sections[0], 24)) - 1, 1e-6)


def test_lines_follow_nodes_and_arcs():
    lines, member = set_out_lines(structures.arch(5.0))
    assert set(member.tolist()) == {0}
    held_to(np.linalg.norm(lines, axis=2) - 5.0, 1e-9)
    held_to(lines[1:, 0] - lines[:-1, 1], 1e-12)
    lines, member = set_out_lines(structures.weave())
    assert member.tolist() == [0] * 3 + [1] * 3 + [2] * 3 + [3] * 3
    held_to(lines[:, :, 2], 0)


def test_middles_are_half_way():
    held_to(structures.arch(5.0).middles - (0, 0, 5), 1e-9)
    held_to(structures.truss().middles - [(1, 0, 0), (0.5, 0, 0.5), (1.5, 0, 0.5)], 1e-12)
    held_to(structures.weave().middles - [(1.5, 1, 0), (1.5, 2, 0), (1, 1.5, 0), (2, 1.5, 0)], 1e-9)
    quarter = structures.structure([(0, 0, 0), (2, 0, 0)], [{"path": [0, 1], "bulge": [(0, 0, 1)]}])
    held_to(quarter.middles - (1, 0, 1), 1e-12)


@known("tube along a circle", "its area times 2 π R (Pappus), as mass and as solid")
@pytest.mark.parametrize("section", ["CHS 88.9 × 4", "L 100 × 65 × 9"])
def test_members_along_circles_weigh_what_pappus_says(section):
    made = structures.arch(5.0)
    own = find(section)
    bent = replace(made, sections=(own,))
    shape = own.shape
    # The height points away from the middle of the circle.
    radius = 5.0 + shape.centroid[1]
    wanted = shape.properties.area * np.pi * radius
    held_to(bent.masses[0] / (wanted * own.material.density) - 1, 1e-9)
    ((_, vertices, triangles),) = member_solids(bent, 24, same_area=True)
    p = vertices[triangles]
    volume = np.einsum("ij,ij->", p[:, 0], np.cross(p[:, 1], p[:, 2])) / 6
    sharp = structures.sharpness(own)
    held_to(volume / (wanted * sharp) - 1, 2e-3)
