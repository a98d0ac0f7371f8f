# ruff: noqa: E501
"""Clause types: their sentences and figures, and the words for what they cannot do."""

from __future__ import annotations

import math

import numpy as np
import pytest

from leanlattice.clauses.base import ClauseError, Work
from leanlattice.clauses.registry import CLAUSE_TYPES
from leanlattice.core.geometry.surfaces import Surface

from ..conftest import arch, ring, roof


def make(kind, inputs=None, **values):
    return CLAUSE_TYPES[kind].of(values).make(Work(inputs or {})).finished()


def flat(line):
    return [[float(c) for c in p] for p in line]


@pytest.mark.parametrize("kind", CLAUSE_TYPES)
def test_every_type_tells_the_interface_all_it_needs(kind):
    clause = CLAUSE_TYPES[kind]
    specs = clause.specs()
    named = {s.value for s in clause.segments() if s.value}
    assert named == set(specs), "a value that cannot be reached from the sentence"
    for spec in specs.values():
        assert spec.label
        assert spec.default is not None
        if spec.kind in ("number", "count"):
            assert spec.least <= spec.default <= spec.most
            assert spec.step > 0
        if spec.kind == "choice":
            assert spec.default in {c.key for c in spec.choices}
    assert clause.chapter in ("Shape", "Lattice", "Settle", "Frame", "Prove", "Make")
    sentence = clause().reads()
    assert "{" not in sentence
    assert "[" not in sentence
    assert sentence.endswith(".")


@pytest.mark.parametrize(
    ("kind", "values", "value", "words"),
    [
        ("loft", {"profiles": [[[0, 0, 0], [1, 0, 0]]]}, "profiles", "1 profiles.*2 to 60"),
        ("loft", {"profiles": [[[0, 0, 0]], [[0, 1, 0], [1, 1, 0]]]}, "profiles", "Profile 1 has 1 point; it needs 2"),
        ("loft", {"profiles": [[], []]}, "profiles", "Profile 1 has 0 points"),
        ("loft", {"profiles": [[[0, 0, 0], [1, 0, 0]], [[0, 1, 0], [0, 1, 0]]]}, "profiles", "Points 1 and 2 of profile 2"),
        ("loft", {"profiles": [[[0, 0, 0], [math.nan, 0, 0]], [[0, 1, 0], [1, 1, 0]]]}, "profiles", "nan"),
        ("loft", {"profiles": [[[0, 0, 0], [2e7, 0, 0]], [[0, 1, 0], [1, 1, 0]]]}, "profiles", r"at most 10,000"),
        ("loft", {"profiles": [[[-5, 0, 0], [5, 0, 0]], [[-5, 1, 0], [5, -1, 0]]]}, "profiles", "Profiles 1 and 2 cross"),
        ("loft", {"profiles": "boat"}, "profiles", "boat"),
        ("loft", {"profiles": [[[0, 0, 0], [1, 0, 0]], [[0, 1, 0], [1, 1, 0]]], "closed": "closed"}, "profiles", "closed one needs 3"),
        ("loft", {"closed": "ajar"}, "closed", "ajar.*open, closed"),
        ("dome", {"span": 0}, "span", "Span is 0 m; it must be from 0.1 to 1,000 m"),
        ("dome", {"span": 10, "rise": 11}, "rise", "at most 9.5 m"),
        ("dome", {"rise": math.inf}, "rise", "inf"),
        ("frame", {"gap": -1}, "gap", "from 0 to 500 mm"),
        ("pattern", {"bays_across": 0}, "bays_across", "Bays across is 0; it must be a whole number from 1"),
        ("pattern", {"bays_along": 2.5}, "bays_along", "2.5"),
        ("pattern", {"pattern": "spirals"}, "pattern", "spirals.*quads"),
        ("panels", {"colour": "red"}, None, "no value called “colour”"),
    ],
)  # fmt: skip
def test_bad_values_get_a_sentence_that_names_them(kind, values, value, words):
    with pytest.raises(ClauseError, match=words) as error:
        make(kind, **values)
    assert error.value.value == value


@pytest.mark.parametrize(
    ("values", "value", "words"),
    [
        (
            {"density": "module", "module": 40},
            "module",
            r"module of 40 m is larger.*at most \d+ m works",
        ),
        (
            {"density": "module", "module": 0.01},
            "module",
            r"limit is 120,000, so a module of 0\.\d+ m or more",
        ),
        (
            {"bays_across": 500, "bays_along": 400},
            "bays_across",
            r"400,000 cells; the limit is 120,000, so \d+ × \d+ bays",
        ),
        ({"bays_across": 1, "bays_along": 1, "border": "whole"}, "border", "no cell is left"),
    ],
)
def test_patterns_that_do_not_fit_the_shape(values, value, words):
    with pytest.raises(ClauseError, match=words) as error:
        make("pattern", {"shape": roof()}, **values)
    assert error.value.value == value


def test_what_the_limit_says_works_does_work():
    shape = roof()
    with pytest.raises(ClauseError) as error:
        make("pattern", {"shape": shape}, density="module", module=0.02)
    works = float(error.value.text.split("module of ")[-1].split(" m")[0])
    assert (
        make("pattern", {"shape": shape}, density="module", module=works).result.cell_count
        <= 120_000
    )


def test_a_ring_needs_three_bays():
    tube = make("loft", profiles=[flat(ring(0, 3, 8)), flat(ring(5, 3, 8))], closed="closed").result
    with pytest.raises(ClauseError, match="give 3 or more"):
        make("pattern", {"shape": tube}, bays_across=2)


def test_deviation_from_the_module_is_what_was_laid():
    shape = roof()
    made = make("pattern", {"shape": shape}, density="module", module=1.7, pattern="quads")
    figures = made.figures
    for way, length in zip(("across", "along"), shape.lengths, strict=True):
        bays = figures[f"bays_{way}"].value
        assert figures[f"module_{way}"].value == pytest.approx(length / bays)
        assert figures[f"deviation_{way}"].value == pytest.approx(100 * (length / bays / 1.7 - 1))
    assert made.result.cell_count == figures["bays_across"].value * figures["bays_along"].value


def test_unknown_sections_name_what_would_work():
    net = make("pattern", {"shape": roof()}).result
    with pytest.raises(
        ClauseError, match="no section “CHS 90 × 50”: a wall .*“CHS 88.9 ×"
    ) as error:
        make("frame", {"net": net}, inner="CHS 90 × 50")
    assert error.value.value == "inner"


def test_sections_of_a_size_no_table_has_are_taken_and_told():
    net = make("pattern", {"shape": roof()}).result
    made = make("frame", {"net": net}, inner="CHS 90 × 4 S235", border="Box 300 × 200 × 12")
    assert [s.name for s in made.result.sections] == ["CHS 90 × 4 S235", "Box 300 × 200 × 12"]
    (notice,) = [w for w in made.warnings if "size" in w.text]
    assert notice.value == "inner"
    assert notice.remedies[0].values == {"inner": "CHS 88.9 × 4 S235"}


def test_bodies_that_members_do_not_reach_are_told_with_what_would_reach():
    net = make("pattern", {"shape": roof()}, pattern="triangles").result
    frame = make("frame", {"net": net}, meeting="ball", sizes="fixed", radius=60)
    (notice,) = frame.warnings
    assert notice.code == "bodies not reached"
    assert notice.value == "radius"
    for remedy in notice.remedies:
        mended = make(
            "frame", {"net": net}, **{"meeting": "ball", "sizes": "fixed"} | remedy.values
        )
        assert not mended.warnings
    welded = make("frame", {"net": net})
    assert "bodies" not in welded.figures
    masses = {k: frame.figures[k].value for k in ("mass", "body_mass", "bodies")}
    assert masses["mass"] == pytest.approx(frame.result.masses.sum() + masses["body_mass"])
    assert masses["bodies"] == np.count_nonzero(frame.result.radius)


def test_a_frame_goes_on_with_another_and_is_joined_to_it():
    vaults = [make("barrel", span=6, length=8, centre=(0, 8 * k, 0)).result for k in (0, 1)]
    bays = {"bays_across": 6, "bays_along": 8}
    nets = [make("pattern", {"shape": vault}, **bays).result for vault in vaults]
    first = make("frame", {"net": nets[0]})
    both = make("frame", {"net": nets[1], "structure": first.result}, meeting="ball")
    assert both.figures["members"].value == 2 * first.figures["members"].value
    far = make("join-nodes", {"structure": both.result}, tolerance=0)
    # They lie on each other, and are joined even so.
    assert far.figures["joined"].value == 7
    near = make("join-nodes", {"structure": both.result})
    assert (near.figures["joined"].value, near.figures["left_out"].value) == (7, 6)
    (notice,) = make("join-nodes", {"structure": first.result}).warnings
    assert notice.code == "no nodes near"
    (remedy,) = notice.remedies
    assert make("join-nodes", {"structure": first.result}, **remedy.values).figures["joined"].value
    with pytest.raises(ClauseError, match="leaves no member"):
        make("join-nodes", {"structure": first.result}, tolerance=2000)


def test_members_without_length_and_unflat_cells_are_told():
    net = make("pattern", {"shape": roof()}, bays_across=40, bays_along=60).result
    frame = make("frame", {"net": net}, inner="CHS 406.4 × 10", meeting="apart")
    assert "no length left" in frame.warnings[0].text
    assert all(frame.result.cut_lengths[i] <= 0 for i in frame.warnings[0].which)
    panels = make("panels", {"net": net}, tolerance=0)
    assert f"{len(panels.result.split_cells)} of {net.cell_count} cells" in panels.warnings[0].text


def test_shapes_fold_warnings_and_figures():
    folded = [flat(arch(0, 10, 3)), flat(arch(6, 10, 3)), flat(arch(3, 10, 6))]
    assert any("folds over" in w.text for w in make("loft", profiles=folded).warnings)
    good = make("loft")
    assert isinstance(good.result, Surface)
    assert not good.warnings
    assert good.figures["extent_y"].value == pytest.approx(18)
    assert good.figures["smallest_radius"].value == pytest.approx(3.5, rel=0.5)


def test_sheets_tell_what_they_leave_out():
    net = make("pattern", {"shape": roof()}, bays_across=6, bays_along=8).result
    panels = make("panels", {"net": net}, joint=20).result
    sheets = make("set-out", {"parts": [panels]}, width=1500, height=1000)
    left = int((sheets.result.layout.sheet < 0).sum())
    assert left
    assert f"{left} panels" in sheets.warnings[0].text
    with pytest.raises(ClauseError, match="margin of 600 mm leaves nothing"):
        make("set-out", {"parts": [panels]}, width=1500, height=1000, margin=600)


def test_a_body_becomes_solids_of_a_material_and_a_surface_does_not():
    box = make("box", {}, along_x=2.0, along_y=3.0, height=1.0).result
    made = make("solids", {"shape": box}, material="limestone")
    figures = {name: figure.value for name, figure in made.figures.items()}
    assert figures["solids"] == 1
    assert figures["volume"] == pytest.approx(6.0)
    assert figures["mass"] == figures["heaviest"] == pytest.approx(6 * 2600)
    assert made.figures["heaviest"].at == pytest.approx((0, 0, 0.5), abs=1e-9)
    with pytest.raises(ClauseError, match="no inside; thicken it"):
        make("solids", {"shape": roof()})
    with pytest.raises(ClauseError, match="the largest piece has 6e.03 dm³") as error:
        make("solids", {"shape": box}, least=7000.0)
    assert error.value.value == "least"
