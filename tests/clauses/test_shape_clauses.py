"""Clauses of chapter Shape: what they make together, what they say, and the words for what they cannot do."""

from __future__ import annotations

import numpy as np
import pytest
from hypothesis import given
from hypothesis import strategies as st

from leanlattice.clauses.base import ClauseError, Work
from leanlattice.clauses.guide import GUIDE
from leanlattice.clauses.registry import CLAUSE_TYPES, group_of
from leanlattice.clauses.shape.placed import middles_of
from leanlattice.core.geometry.forms import sphere
from leanlattice.core.geometry.meshes import Body
from leanlattice.core.shaping.brought import Heights, Loose, Outlines, Picture
from leanlattice.exchange.guide import guide_picture, sample_file
from leanlattice.statement.document import ClauseEntry, Statement, files_used, read_statement
from leanlattice.statement.edits import EditError, ReshapeCage, apply
from leanlattice.statement.evaluate import ResultCache, evaluate
from leanlattice.statement.plan import plan
from leanlattice.store.files import FileStore, with_files, without_files

from ..conftest import DEMO, demo

CIRCLE = ["circle", [[0, 0], [1, 0]]]
LOOP = {"curves": [["loop", [[-8, -4], [7, -5], [10, 3], [1, 6], [-9, 4]]]]}


def no_file(wanted, digest, name):
    raise KeyError(digest)


def make(kind, inputs=None, open_file=no_file, **values):
    return CLAUSE_TYPES[kind].of(values).make(Work(inputs or {}, open_file=open_file)).finished()


def clauses(*rows, on=None):
    entries = [
        ClauseEntry(id=f"{kind}-{i}", kind=kind, values=values)
        for i, (kind, values) in enumerate(rows)
    ]
    for clause, sources in (on or {}).items():
        entries[clause] = entries[clause].model_copy(update={"on": sources})
    return Statement(clauses=entries)


def outcomes(statement, **more):
    return {o.id: o for o in evaluate(statement, ResultCache(), **more)}


SAMPLES = [k for k in GUIDE if GUIDE[k].sample]
SURFACES = [k for k in SAMPLES if CLAUSE_TYPES[k].gives == "Shape"]


@pytest.mark.parametrize("kind", SAMPLES)
def test_every_clause_of_the_guide_makes_what_it_shows(kind):
    statement = clauses(*GUIDE[kind].sample)
    made = outcomes(statement, open_file=sample_file)
    assert {o.status for o in made.values()} == {"done"}
    assert guide_picture(kind)[:4] == b"\x89PNG"
    assert GUIDE[kind].explained.endswith(".")


def test_the_guide_speaks_of_every_clause():
    assert set(GUIDE) == set(CLAUSE_TYPES)
    assert {group_of(k) for k in CLAUSE_TYPES.values()} == {
        "Curves", "Shapes", "Changes of shapes", "Changes of nets", "Lattice", "Settle", "Frame",
        "Ribs", "Prove", "Make",
    }  # fmt: skip
    assert guide_picture("nothing") is None


PICTURED = [
    (kind, spec.name)
    for kind, clause in CLAUSE_TYPES.items()
    for spec in clause.specs().values()
    if spec.pictured
]


@pytest.mark.parametrize(("kind", "value"), PICTURED)
def test_each_choice_has_a_picture_of_its_own(kind, value):
    keys = [choice.key for choice in CLAUSE_TYPES[kind].specs()[value].choices]
    pictures = {guide_picture(kind, value, key) for key in keys}
    assert None not in pictures
    assert len(pictures) == len(keys)
    assert guide_picture(kind, value, "nothing") is None
    assert guide_picture(kind, "series", "A") is None


@pytest.mark.parametrize("kind", SURFACES)
@pytest.mark.parametrize("pattern", ["diagrid", "alternating"])
def test_a_lattice_lies_on_every_shape(kind, pattern):
    rows = [
        *GUIDE[kind].sample,
        ("pattern", {"pattern": pattern, "bays_across": 12, "bays_along": 12}),
    ]
    net = list(outcomes(clauses(*rows), open_file=sample_file).values())[-1]
    assert net.status == "done", net.error
    result = net.result
    assert result.edge_cells.max(axis=1).min() >= 0, "every edge has a cell"
    border = np.concatenate(result.loops) if result.loops else np.zeros(0, int)
    assert len(border) == int(result.border.sum()), "borders are closed runs of border edges"
    assert result.edge_lengths.min() > 0


@pytest.mark.parametrize(
    ("kind", "values", "value", "words"),
    [
        ("draw", {"curves": []}, "curves", "Nothing is drawn yet"),
        ("draw", {"curves": [["squiggle", [[0, 0], [1, 1]]]]}, "curves", "Curve 1 is a “squiggle”"),
        (
            "draw",
            {"curves": [["circle", [[0, 0]]]]},
            "curves",
            "Curve 1, a circle, has 1 points; it needs 2",
        ),
        (
            "draw",
            {"curves": [["line", [[0, 0], [0, 0], [1, 1]]]]},
            "curves",
            "Points 1 and 2 of curve 1",
        ),
        ("draw", {"curves": [["rectangle", [[0, 0], [5, 0]]]]}, "curves", "no width or no height"),
        ("draw", {"curves": [["line", [[0, 0], [float("nan"), 0]]]]}, "curves", "nan"),
        ("import", {}, "file", "No file is chosen"),
        ("import", {"file": ["a" * 64, "x.stl"]}, "file", "not stored here; choose the file again"),
        ("underlay", {}, "file", "No file is chosen"),
        ("torus", {"tube": 6}, "tube", "closes the middle.*less than 5 m"),
        ("saddle", {"third": [18, -6, 8]}, "first", "on one line"),
        ("barrel", {"rise": 20}, "rise", "at most 9.5 m"),
        ("cage", {"cage": [[], []]}, "cage", "no faces|vertices"),
        ("cage", {"cage": [[[0, 0, 0]], [[0, 1, 2]]]}, "cage", "point 3; there are 1"),
        ("cage", {"cage": [[[0, 0]], [["a"]]]}, "cage", "."),
        ("cage", {"rounds": 7}, "rounds", "from 1 to 6"),
    ],
)
def test_bad_values_get_a_sentence_that_names_them(kind, values, value, words):
    with pytest.raises(ClauseError, match=words) as error:
        make(kind, **values)
    assert error.value.value == value


@pytest.mark.parametrize(
    ("curve", "values", "code"),
    [
        (["line", [[0, 0], [4, 0]]], {}, "no curve closed"),
        (["line", [[0, 0], [4, 0]]], {"ends": "open", "taper": 5}, "open curve leaning"),
        (["rectangle", [[0, 0], [6, 4]]], {"taper": 60}, "walls meet"),
        (["rectangle", [[0, 0], [6, 4]]], {"taper": 20, "top": 1.5}, "walls meet"),
    ],
)
def test_what_would_mend_an_extrusion_does(curve, values, code):
    inputs = {"curves": drawn(curves=[curve])}
    with pytest.raises(ClauseError) as error:
        make("extrude", inputs, **values)
    (remedy,) = error.value.remedies
    assert error.value.code == code
    mended = make("extrude", inputs, **values | remedy.values)
    assert mended.figures["area"].value > 1


LOOPED = ("draw", {"curves": [["circle", [[0, 0], [9, 0]]]]})
ROUND = ("circles", {"circles": 2, "radius": 1})
OPENED = {"form": "even", "made_as": "one"}
DEEPENED = (("ball", {}), ("pattern", {"pattern": "quads"}), ("deepen", OPENED), ("deepen", {}))


@pytest.mark.parametrize(
    ("rows", "last", "code", "title", "on"),
    [
        ((LOOPED, ROUND, LOOPED), ("canopy", {"columns": "middles"}),
         "no curves for columns", "Stand them at the circles above", {"centres": "circles-1"}),
        ((LOOPED,), ("canopy", {"columns": "middles"}), "no curves for columns", None, {}),
        (DEEPENED, ("face-templates", {"faces": "openings"}), "no openings",
         "Draw those of the other cells", {"solids": "deepen-2"}),
        (DEEPENED[:2] + DEEPENED[3:], ("face-templates", {"faces": "openings"}), "no openings",
         "Draw every face", {}),
    ],
)  # fmt: skip
def test_something_else_to_work_on_is_offered_where_there_is_some(rows, last, code, title, on):
    entries = [
        ClauseEntry(id=f"{kind}-{k}", kind=kind, values=values)
        for k, (kind, values) in enumerate((*rows, last))
    ]
    statement = Statement(clauses=entries)
    *_, told = evaluate(statement, ResultCache())
    assert told.error_code == code
    if title is None:
        assert told.remedies == ()
        return
    remedy = told.remedies[0]
    assert (remedy.title, remedy.on) == (title, on)
    entries[-1].on.update(remedy.on)
    entries[-1].values.update(remedy.values)
    done = [o for o in evaluate(statement, ResultCache()) if o.id == told.id]
    assert done[-1].status == "done", done[-1].error


def drawn(**values):
    return make("draw", **values).result


@pytest.mark.parametrize(
    ("kind", "inputs", "values", "words"),
    [
        ("extrude", {"curves": {"curves": [["line", [[0, 0], [4, 0]]]]}}, {}, "None of the curves is closed"),
        ("extrude", {"curves": {"curves": [["line", [[0, 0], [4, 0]]]]}}, {"ends": "open", "taper": 5}, "no inside to lean"),
        ("extrude", {"curves": {}}, {"taper": 60}, "walls meet before the top; an inset of 3 m.*36.9°"),
        ("revolve", {"curves": {"curves": [["line", [[-1, 1], [2, 1]]]], "plane": "front"}}, {}, "crosses the axis"),
        ("revolve", {"curves": {"curves": [["line", [[0, 0], [0, 3]]]], "plane": "front"}}, {}, "lies on the axis"),
        ("translate", {"generatrix": {"curves": [["line", [[0, 0], [4, 0]]]]},
                       "directrix": {"curves": [["line", [[0, 1], [9, 1]]]]}}, {}, "run the same way"),
        ("span", {"outline": {"curves": [["line", [[0, 0], [4, 0]]]]}}, {}, "not closed"),
        ("span", {"outline": {"curves": [["polygon", [[0, 0], [4, 4], [4, 0], [0, 4]]]]}}, {}, "crosses itself"),
        ("span", {"outline": {"plane": "front"}}, {}, "no area"),
        ("canopy", {"outline": LOOP}, {"columns": "placed", "sites": [[90, 0, 0]]}, "Column 1 .* outside the outline"),
        ("canopy", {"outline": LOOP}, {"columns": "placed", "sites": []}, "0 columns; 1 to 60"),
        ("funnels", {"outline": {}}, {"sites": [[4.9, 0, 0]]}, "needs 1.00 m to each side and has 0.10 m"),
        ("funnels", {"outline": {}}, {"sites": [[0, 0, 0], [1, 0, 0]]}, "1.00 m apart and need 2.00 m"),
        ("funnels", {"outline": {}}, {"sites": [[50, 0, 0]]}, "lies outside the outline"),
        ("trim-curves", {"curves": {}, "by": {"curves": [["circle", [[90, 0], [91, 0]]]]}}, {}, "No curve is left"),
        ("unite-outlines", {"curves": {"curves": [["line", [[0, 0], [4, 0]]]]}}, {}, "None of the curves is closed"),
        ("offset-curves", {"curves": {"curves": [CIRCLE]}}, {"side": "in", "distance": 2}, "No curve is left"),
    ],
)  # fmt: skip
def test_what_cannot_be_made_of_curves_is_told(kind, inputs, values, words):
    with pytest.raises(ClauseError, match=words):
        make(kind, {name: drawn(**v) for name, v in inputs.items()}, **values)


def box(**values):
    return make("box", **values).result


@pytest.mark.parametrize(
    ("kind", "shape", "values", "words"),
    [
        (
            "hollow",
            "box",
            {"wall": 3.5},
            "leaves no room inside; at most 1.99\\d m|at most 2 m works",
        ),
        ("hollow", "dome", {}, "works on closed bodies"),
        ("thicken", "box", {}, "is a body already"),
        ("swap", "box", {}, "only the sides of a surface"),
        ("cut-plane", "dome", {"through": [0, 0, 50]}, "nothing of the surface is left"),
        ("cut-plane", "box", {"through": [0, 0, 50]}, "Nothing is left of the body"),
        ("faces", "dome", {}, "has no faces of its own"),
    ],
)
def test_what_cannot_be_done_to_a_shape_is_told(kind, shape, values, words):
    with pytest.raises(ClauseError, match=words):
        make(kind, {"shape": make(shape).result}, **values)


def test_lengths_within_what_a_shape_refuses_are_known_as_numbers():
    with pytest.raises(ClauseError) as told:
        make("hollow", {"shape": box()}, wall=3.5)
    wall, most = told.value.text.lengths
    assert (wall.values, wall.unit, most.unit) == ((3.5,), "m", "m")
    with pytest.raises(ClauseError, match="overhangs") as told:
        make("base", {"shape": sphere(np.zeros(3), 1.0)}, level=-50.0, by="level")
    (at,) = told.value.text.lengths
    assert at.values == tuple(told.value.at)


def test_figures_are_those_of_the_shape():
    made = make("box", along_x=2, along_y=3, height=4)
    assert made.figures["volume"].value == pytest.approx(24)
    assert made.figures["area"].value == pytest.approx(52)
    assert made.figures["extent_z"].value == pytest.approx(4)
    ball = make("ball", radius=2.5)
    assert ball.figures["smallest_radius"].value == pytest.approx(2.5)
    assert ball.figures["area"].value == pytest.approx(25 * np.pi)
    bowl = make(
        "swap",
        {"shape": make("scale", {"shape": make("dome", span=10, rise=2).result}, fz=1.0).result},
    )
    assert "low_points" not in bowl.figures
    sag = make("span", {"outline": drawn(**LOOP)}, heights=[[0, 0, -1.0]])
    assert sag.figures["low_points"].value == 1
    assert sag.figures["deepest"].value == pytest.approx(1000, rel=0.05)
    assert "Water would stand" in sag.warnings[0].text
    assert sag.warnings[0].at[2] == pytest.approx(-1, abs=0.05)


@pytest.mark.parametrize("later", [None, 0.0])
def test_what_is_told_of_a_shape_is_not_told_again_of_what_is_made_from_it(later):
    rows = clauses(
        ("draw", LOOP), ("span", {"heights": [[0, 0, -1.0]]}), ("base", {}), ("move", {"dx": 4.0})
    )
    *_, sag, base, moved = {o.id: o for o in evaluate(rows, ResultCache(), later=later)}.values()
    assert sag.figures["low_points"].value == base.figures["low_points"].value == 1
    assert [("Water would stand" in w.text) for w in sag.warnings] == [True]
    assert not base.warnings
    assert moved.complete


def test_shapes_that_cross_themselves_say_where():
    knot = drawn(curves=[["spline", [[0, 0], [8, 6], [8, 0], [0, 6]]]])
    pipe = make(
        "sweep", {"profiles": drawn(curves=[["circle", [[0, 0], [0.5, 0]]]]), "spine": knot}
    )
    (told,) = [w for w in pipe.warnings if "crosses itself, first near" in w.text]
    spine = knot.curves[0].points(np.linspace(0, 1, 400))
    near = np.flatnonzero(np.linalg.norm(spine - told.at, axis=1) < 0.6)
    assert np.diff(near).max() > 50, "where two parts of the spine come near each other"
    assert "self_crossings" in pipe.figures


def test_combining_takes_all_that_nothing_else_has_taken_up():
    statement = clauses(("box", {}), ("box", {"centre": [20, 0, 0]}), ("move", {"dx": 1}), ("ball", {"solid": "body"}),
                        ("combine", {"operation": "union"}))  # fmt: skip
    steps = plan(statement)
    assert steps[-1].inputs == {"shapes": ("box-0", "move-2", "ball-3")}
    made = outcomes(statement)
    assert made["combine-4"].figures["parts"].value == 3
    chosen = clauses(
        ("box", {}),
        ("ball", {"solid": "body"}),
        ("combine", {}),
        on={2: {"shapes": ["ball-1", "box-0"]}},
    )
    assert plan(chosen)[-1].taken == ["ball-1", "box-0"]
    first, second = (outcomes(s)["combine-2"].result.volume for s in (
        clauses(("box", {}), ("ball", {"solid": "body"}), ("combine", {"operation": "difference"})),
        clauses(("box", {}), ("ball", {"solid": "body"}), ("combine", {"operation": "difference"}),
                on={2: {"shapes": ["ball-1", "box-0"]}}),
    ))  # fmt: skip
    assert first != pytest.approx(second), "the order is the one chosen"
    alone = outcomes(clauses(("box", {}), ("combine", {})))["combine-1"]
    assert "only one shape" in alone.error


def test_of_two_inputs_the_last_has_the_nearest_clause():
    statement = clauses(
        ("draw", {"curves": [CIRCLE]}),
        ("draw", {"curves": [["line", [[0, 0], [9, 0]]]]}),
        ("sweep", {}),
    )
    assert plan(statement)[-1].inputs == {"profiles": ("draw-0",), "spine": ("draw-1",)}
    spanned = clauses(("draw", LOOP), ("draw", {"curves": [CIRCLE]}), ("span", {}))
    assert plan(spanned)[-1].inputs == {"outline": ("draw-1",)}, (
        "curves to pass near are only taken when asked for"
    )
    asked = clauses(("draw", LOOP), ("draw", {"curves": [["line", [[-4, 0], [4, 0]]]], "level": 2}), ("span", {"heights": []}),
                    on={2: {"outline": "draw-0", "guides": "draw-1"}})  # fmt: skip
    made = outcomes(asked)["span-2"]
    assert made.status == "done"
    assert made.figures["miss"].value < 1


def test_changing_the_columns_is_one_edit():
    feet = []
    for posts in (3, 4, 5):
        made = outcomes(clauses(("draw", LOOP), ("canopy", {"posts": posts}), ("faces", {})))
        assert made["faces-2"].status == "done"
        feet.append(len(made["faces-2"].result.loops) - 1)
    assert feet == [3, 4, 5]


def test_a_tower_of_one_named_dimension_grows_evenly():
    tower = demo("lamp-tower")
    volumes = []
    for block in (2.0, 3.0):
        statement = tower.model_copy(deep=True)
        statement.dimensions[0].value = block
        volumes.append(outcomes(statement)["tower"].result.volume)
    assert volumes[1] / volumes[0] == pytest.approx(1.5**3, rel=1e-3)


def rings(*ends, tilt=0.0):
    """Closed profiles of 32 points on circles of (height, radius), the last out of its plane by
    ``tilt``."""
    turns = np.linspace(0, 2 * np.pi, 33)[:-1]
    made = [
        np.column_stack([r * np.cos(turns), r * np.sin(turns), np.full(32, z)]) for z, r in ends
    ]
    made[-1][:, 2] += tilt * np.cos(2 * turns)
    return [m.tolist() for m in made]


@pytest.mark.parametrize("outside", ["out", "swapped"])
@pytest.mark.parametrize("ends", [((0, 2), (3, 1)), ((3, 1), (0, 2))])
def test_a_loft_through_closed_profiles_is_closed_to_a_body(ends, outside):
    """The frustum of a cone: volume π h (R² + R r + r²) / 3; its lattice lies on its wall."""
    lofted = {"profiles": rings(*ends), "closed": "closed", "ends": "capped", "outside": outside}
    statement = clauses(
        ("loft", lofted), ("pattern", {"pattern": "quads", "bays_across": 12, "bays_along": 4})
    )
    solid, net = outcomes(statement).values()
    assert isinstance(solid.result, Body)
    assert solid.figures["volume"].value == pytest.approx(np.pi * 3 * (4 + 2 + 1) / 3, rel=5e-3)
    assert not solid.result.mesh.loops
    assert solid.result.skin.normals(np.array([[0.0, 0.5]]))[0, 0] > 0.5
    assert net.figures["cells"].value == 48


def test_ends_of_a_loft_that_are_not_flat_are_told():
    bent = {"profiles": rings((0, 2), (3, 1), tilt=0.3), "closed": "closed", "ends": "capped"}
    with pytest.raises(ClauseError, match="not flat.*each into one plane"):
        make("loft", **bent)


@pytest.mark.parametrize(
    ("name", "last", "kind"),
    [
        ("lamp-tower", "tower", Body),
        ("bird-hide", "slab", Body),
        ("net-loft", "facade", Body),
    ],
)
def test_demo_shapes_are_closed_bodies(name, last, kind):
    statement = demo(name)
    import base64

    from leanlattice.exchange.readers import open_brought

    content = {d: base64.b64decode(f.content) for d, f in statement.files.items()}
    made = outcomes(
        statement, open_file=lambda wanted, digest, n: open_brought(wanted, n, content[digest])
    )
    assert {o.status for o in made.values()} == {"done"}
    body = made[last].result
    assert isinstance(body, kind)
    assert not body.mesh.loops
    assert body.volume > 0
    assert "self_crossings" not in made[last].figures


def test_the_net_loft_is_traced_in_its_true_proportions():
    import base64

    from leanlattice.exchange.readers import open_brought

    statement = demo("net-loft")
    content = {d: base64.b64decode(f.content) for d, f in statement.files.items()}
    made = outcomes(
        statement, open_file=lambda wanted, digest, n: open_brought(wanted, n, content[digest])
    )
    assert made["sketch"].figures["width"].value == pytest.approx(20, rel=1e-3)
    assert made["sketch"].figures["height"].value == pytest.approx(12, rel=1e-3)
    assert made["facade"].figures["openings"].value == 5
    windows = made["soft"].result.curves
    sizes = [abs(c.path.signed_area) for c in windows]
    assert sizes[:4] == sorted(sizes[:4]), "openings grow upward"


def brought(thing):
    return lambda wanted, digest, name: thing


FILE = ["f" * 64, "thing.obj"]


def loose(scale=1.0, unit=0.0):
    body = box()
    return Loose(body.mesh.vertices * scale, body.mesh.triangles, unit)


def test_imports_ask_for_unit_and_up_and_tell_what_they_did():
    made = make("import", open_file=brought(loose()), file=FILE)
    assert any("does not say its unit" in w.text for w in made.warnings)
    assert made.result.volume == pytest.approx(144)
    small = make("import", open_file=brought(loose(1000.0)), file=FILE, unit="mm")
    assert small.result.volume == pytest.approx(144)
    assert not small.warnings
    upright = make("import", open_file=brought(loose()), file=FILE, up="y", unit="m")
    assert upright.figures["extent_y"].value == pytest.approx(4)
    with pytest.raises(ClauseError, match="600,?000|large; choose the unit"):
        make("import", open_file=brought(loose(1e5)), file=FILE, unit="m")
    with pytest.raises(ClauseError, match="Only a STEP file"):
        make("import", open_file=brought(loose()), file=FILE, part="face", unit="m")
    torn = loose()
    open_box = Loose(torn.vertices, torn.triangles[:-2], 1.0)
    surface = make("import", open_file=brought(open_box), file=FILE, holes="left")
    assert any("is open along 1 border" in w.text and w.at for w in surface.warnings)


def test_ground_underlay_and_brought_curves_from_files():
    rng = np.random.default_rng(1)
    heights = Heights(rng.random((200, 3)) * [60, 40, 3] + [500_000, 5_900_000, 0])
    made = make("ground", open_file=brought(heights), file=FILE)
    assert "moved by (-500" in made.warnings[0].text
    assert made.figures["extent_x"].value == pytest.approx(60, rel=0.1)
    assert (
        make("ground", open_file=brought(heights), file=FILE, eased=5).figures["area"].value
        < made.figures["area"].value
    )
    rows = clauses(("ground", {"file": FILE}), ("scale", {"fz": 2.0}))
    ground, scaled = evaluate(rows, ResultCache(), open_file=brought(heights))
    assert ground.figures["low_points"].value >= scaled.figures["low_points"].value > 0
    assert not [w for w in (*ground.warnings, *scaled.warnings) if "Water" in w.text], (
        "on ground water may stand"
    )
    with pytest.raises(ClauseError, match="holds heights and is no picture"):
        make("ground", open_file=brought(heights), file=FILE, source="picture")
    with pytest.raises(ClauseError, match="is a picture"):
        make("ground", open_file=brought(Picture(np.zeros((9, 9)))), file=FILE)
    picture = Picture(np.zeros((300, 400)))
    under = make("underlay", open_file=brought(picture), file=FILE, length=20)
    assert under.result.size == pytest.approx((20, 15))
    with pytest.raises(ClauseError, match="on one place"):
        make("underlay", open_file=brought(picture), file=FILE, known=[[0.5, 0.5], [0.5, 0.5]])
    with pytest.raises(ClauseError, match="upper left"):
        make(
            "underlay",
            open_file=brought(picture),
            file=FILE,
            corners=[[0, 0], [1, 1], [1, 0], [0, 1]],
        )
    paths = tuple(c.path for c in drawn(**LOOP).curves)
    curves = make("bring-curves", open_file=brought(Outlines(paths, 1e-3)), file=FILE, unit="cm")
    assert curves.figures["length"].value == pytest.approx(paths[0].length / 100)
    assert (
        "does not say its unit"
        in make("bring-curves", open_file=brought(Outlines(paths)), file=FILE).warnings[0].text
    )
    with pytest.raises(ClauseError, match="choose another unit"):
        make(
            "bring-curves",
            open_file=brought(
                Outlines(tuple(p.mapped(np.eye(2) * 1e6, np.zeros(2)) for p in paths))
            ),
            file=FILE,
        )


def test_statements_carry_the_files_they_use(tmp_path):
    files = FileStore(tmp_path)
    digest = files.put(b"0 0 1\n1 0 2\n0 1 3\n")
    assert files.put(b"0 0 1\n1 0 2\n0 1 3\n") == digest
    statement = clauses(("ground", {"file": [digest, "heights.xyz"]}))
    assert files_used(statement) == {digest: "heights.xyz"}
    whole = read_statement(with_files(statement, files).text())
    other = FileStore(tmp_path / "other")
    assert without_files(whole, other).text() == statement.text()
    assert other.get(digest) == files.get(digest)
    with pytest.raises(KeyError):
        other.get("0" * 64)
    with pytest.raises(KeyError):
        other.get("../../etc/passwd")
    broken = with_files(statement, files).text().replace(digest, "0" * 64, 1)
    if '"files"' in broken:
        spoiled = with_files(statement, files).model_dump()
        spoiled["files"]["0" * 64] = spoiled["files"].pop(digest)
        import json

        from leanlattice.statement.document import StatementError

        with pytest.raises(StatementError, match="not the one its hash names"):
            read_statement(json.dumps(spoiled))


@given(st.sampled_from(["split", "split face", "draw out", "bridge", "delete", "weld", "crease", "corner", "face"]),
       st.lists(st.tuples(st.integers(-1, 14), st.integers(-1, 14)), max_size=3),
       st.lists(st.integers(-1, 14), max_size=3))  # fmt: skip
def test_any_change_of_a_cage_can_be_taken_back_or_is_refused_in_words(work, edges, numbers):
    statement = clauses(("cage", {}))
    edit = ReshapeCage(
        clause="cage-0", do=work, edges=edges, faces=numbers, points=numbers, by=(1, 0, 0)
    )
    try:
        after, inverse = apply(statement, edit)
    except EditError as error:
        assert str(error).endswith(".")
        return
    assert outcomes(after)["cage-0"].status in ("done", "failed")
    assert apply(after, inverse)[0].text() == statement.text()


def test_a_cage_clause_is_needed_to_change_a_cage():
    with pytest.raises(EditError, match="has no cage"):
        apply(clauses(("box", {})), ReshapeCage(clause="box-0", do="split"))


def test_formulas_stand_in_drawn_curves():
    statement = Statement.model_validate({
        "dimensions": [{"name": "half", "value": 4.0}],
        "clauses": [{"id": "d", "kind": "draw", "values": {"curves": [["rectangle", [["-half", -3], ["half", "half / 2"]]]]}}],
    })  # fmt: skip
    assert outcomes(statement)["d"].figures["enclosed"].value == pytest.approx(40)


def test_demo_files_stay_small_enough_to_read():
    assert sum(p.stat().st_size for p in DEMO.glob("*.json")) < 400_000


RECTANGLE = ("draw", {"curves": [["rectangle", [[-6, -4], [6, 4]]]]})


def test_columns_stand_at_the_middles_of_circles_and_move_with_them():
    def of(seed):
        rows = (
            RECTANGLE,
            ("circles", {"circles": 4, "seed": seed}),
            ("canopy", {"columns": "middles"}),
        )
        on = {2: {"outline": "draw-0", "centres": "circles-1"}}
        found = list(outcomes(clauses(*rows, on=on)).values())
        assert found[-1].status == "done", found[-1].error
        return found

    for seed in (1, 2):
        found = of(seed)
        middles = np.array([at for at, _ in middles_of(found[1].result)])
        assert found[-1].figures["columns"].value == 4
        mesh = found[-1].result.mesh
        low = mesh.vertices[mesh.vertices[:, 2] < 1e-6][:, :2]
        away = np.linalg.norm(low[:, None] - middles[None, :, :2], axis=2).min(axis=1)
        assert away.max() < 2.0, "every foot stands about a circle"
    assert not np.allclose(middles, [at for at, _ in middles_of(of(1)[1].result)])


@pytest.mark.parametrize(
    ("graded", "expected"),
    [("alike", [0.2, 0.2, 0.2]), ("height", [0.2, 0.6, 1.0]), ("pull", [0.2, 0.6, 1.0])],
)
def test_circles_grow_with_height_or_away_from_a_pull(graded, expected):
    sites = [[0, 0, 0], [2, 0, 1], [9, 0, 2]]
    found = outcomes(clauses(
        ("pull", {"points": [[0, 0, 0]], "reach": 2 * 5**0.5}),
        ("circles", {"where": "places", "sites": sites, "radius": 0.2, "other": 1.0, "graded": graded}),
    ))  # fmt: skip
    curves = list(found.values())[-1].result.curves
    assert [c.path.length / (2 * np.pi) for c in curves] == pytest.approx(expected)
    assert [c.frame.origin[2] for c in curves] == [0, 1, 2]


def test_regions_and_bands_are_closed_curves_that_can_be_extruded():
    cross = ("draw", {"curves": [["circle", [[0, 0], [4, 0]]], ["line", [[-5, -1], [5, 1]]]]})
    found = list(outcomes(clauses(cross, ("regions", {}), ("extrude", {"height": 1}))).values())
    assert found[1].figures["closed"].value == 2
    assert found[1].figures["enclosed"].value == pytest.approx(16 * np.pi)
    assert found[2].status == "done"
    line = ("draw", {"curves": [["line", [[0, 0], [5, 0]]]]})
    found = list(
        outcomes(clauses(line, ("band", {"width": 0.4}), ("extrude", {"height": 2}))).values()
    )
    assert found[2].result.volume == pytest.approx(5 * 0.4 * 2)


@pytest.mark.parametrize(
    ("rows", "value", "words"),
    [
        ([("circles", {})], "where", "no closed curve above"),
        ([RECTANGLE, ("circles", {"graded": "pull"})], "graded", "no pull points"),
        ([RECTANGLE, ("canopy", {"columns": "middles"})], "columns", "draw circles above"),
        (
            [("draw", {"curves": [["line", [[0, 0], [5, 0]]]]}), ("regions", {})],
            None,
            "enclose nothing",
        ),
        ([RECTANGLE, ("regions", {"least": 1000})], "least", "No curve is left"),
    ],
)
def test_what_places_and_lines_do_not_give_is_said(rows, value, words):
    last = list(outcomes(clauses(*rows)).values())[-1]
    assert last.status == "failed"
    assert words in last.error
    assert last.error_value == value


def test_circles_stand_at_nodes_of_a_structure():
    rows = [
        ("barrel", {"length": 12}),
        ("pattern", {"pattern": "quads", "bays_across": 8, "bays_along": 6}),
        ("frame", {}),
        ("columns", {"places": [[0, 0, 9], [0, 6, 9]], "level": -3}),
    ]
    structure = list(outcomes(clauses(*rows)).values())[-1].result

    def circles(nodes, on=True):
        chosen = {4: {"structure": ["columns-3"]}} if on else {}
        circle = ("circles", {"where": "nodes", "nodes": nodes, "radius": 0.3})
        return list(outcomes(clauses(*rows, circle, on=chosen)).values())[-1]

    def middles(found):
        return sorted(curve.frame.origin.tolist() for curve in found.result.curves)

    feet, heads, every = (circles(nodes) for nodes in ("feet", "heads", "all"))
    assert middles(feet) == sorted(structure.places[structure.foot].tolist())
    assert middles(heads) == [[x, y, z] for x, y, z in middles(heads) if z > 0]
    assert len(middles(heads)) == len(middles(feet)) == 2
    assert len(every.result.curves) == len(structure.places)
    assert "No structure is chosen" in circles("feet", on=False).error
