"""Lengths in sentences are known as numbers, and the sentences read as before."""

from __future__ import annotations

import ast
import pickle
import re
from pathlib import Path

import pytest
from hypothesis import given
from hypothesis import strategies as st

from leanlattice.clauses.base import ClauseError, Notice, Remedy
from leanlattice.clauses.codes import TEXTS, text_of
from leanlattice.clauses.said import filled, metres, mm, mm_by, place_text, said

words = st.text(st.characters(exclude_categories=["Co", "Cs"]), max_size=12)
values = st.floats(-1e6, 1e6)


@given(st.lists(st.tuples(words, values, st.sampled_from((mm, metres)))), words)
def test_lengths_stand_where_their_words_do(parts, end):
    marked = "".join(before + unit(value, ".2f") for before, value, unit in parts) + end
    plain = "".join(
        before + f"{value:.2f} {'mm' if unit is mm else 'm'}" for before, value, unit in parts
    )
    told = said(marked)
    assert told == plain + end
    assert [length.values for length in told.lengths] == [(value,) for _, value, _ in parts]
    assert [length.unit for length in told.lengths] == [
        "mm" if unit is mm else "m" for *_, unit in parts
    ]
    assert said(f"Not made: {told.marked}").lengths == tuple(
        length._replace(at=length.at + len("Not made: ")) for length in told.lengths
    )
    for at, own, *_ in told.lengths:
        assert told[at : at + len(own)] == own


@pytest.mark.parametrize(
    ("text", "facts", "told", "length"),
    [
        ("a gap of {gap:.1f} mm.", {"gap": 2.34}, "a gap of 2.3 mm.",
         (9, "2.3 mm", (2.34,), "mm", "{}")),
        ("a sheet of {w:g} × {h:g} mm", {"w": 25, "h": 12}, "a sheet of 25 × 12 mm",
         (11, "25 × 12 mm", (25, 12), "mm", "{} × {}")),
        ("{n} members, {a:g} m² and {m:g} MPa", {"n": 3, "a": 4, "m": 5}, "3 members, 4 m² and 5 MPa", None),
        ("at ({x:g}, {y:g}) m", {"x": 1, "y": 2}, "at (1, 2) m", (3, "(1, 2) m", (1, 2), "m", "({}, {})")),
        ("{low:.1f} and {high:.1f} m", {"low": 1, "high": 2}, "1.0 and 2.0 m",
         (0, "1.0 and 2.0 m", (1, 2), "m", "{} and {}")),
        ("{n} and {c:g} mm", {"n": 4, "c": 1.5}, "4 and 1.5 mm", (6, "1.5 mm", (1.5,), "mm", "{}")),
    ],
)  # fmt: skip
def test_what_is_followed_by_a_unit_of_length_in_the_text_of_a_code_is_one(
    text, facts, told, length
):
    found = said(filled(text, facts))
    assert found == told
    assert found.lengths == ((length,) if length else ())


def test_all_texts_read_as_they_are_written():
    class Any(dict):
        def __missing__(self, name):
            return 7.0

    for code, text in TEXTS.items():
        found = said(text_of(code, Any()))
        assert found == text.format_map(Any())
    assert said(text_of("walls meet", Any())).lengths[0].unit == "m"


def test_notices_errors_and_remedies_know_them_wherever_they_go():
    remedy = Remedy(f"Make it {mm(5)}", {})
    facts = {"radius": 5.0, "times": 3.0, "label": "A", "thickness": 2}
    notice = Notice.coded("bent too far", facts, remedies=(remedy,))
    error = ClauseError(f"At most {metres(2.5)} works.")
    for text, value in ((notice.text, 5.0), (error.text, 2.5), (remedy.title, 5.0)):
        assert pickle.loads(pickle.dumps(text)).lengths[0].values == (value,)
    assert str(error) == "At most 2.5 m works."


def test_sizes_and_places_are_told_as_one():
    told = said(f"{mm_by(2500, 1250.5)} at {place_text((1, 2, 3.456))}")
    assert told == "2500 × 1250.5 mm at (1.00, 2.00, 3.46) m"
    size, place = told.lengths
    assert size.form.format(*size.values) == "2500.0 × 1250.5"
    assert place.values == (1, 2, 3.456)


def bare_lengths(code):
    """Numbers with a unit of length put into sentences as words alone."""
    for text in ast.walk(ast.parse(code)):
        if not isinstance(text, ast.JoinedStr):
            continue
        for number, after in zip(text.values, text.values[1:], strict=False):
            unit = isinstance(after, ast.Constant) and re.match(r" (mm|m)(?![\w²³/])", after.value)
            if unit and isinstance(number, ast.FormattedValue):
                yield ast.unparse(text)


def test_no_sentence_holds_a_length_that_is_words_alone():
    root = Path(__file__).resolve().parents[2] / "leanlattice"
    # Names of sections and sheets, and what is read of the sizes in them, are in millimetres in any
    # project.
    found = {
        f"{path.relative_to(root)}: {text}"
        for part in ("core", "clauses")
        for path in sorted((root / part).rglob("*.py"))
        if path.parent.name != "sections"
        for text in bare_lengths(path.read_text())
    }
    assert {text for text in found if "said.py" not in text} == {
        "clauses/frame/given_sheets.py: "
        "f'{sheet.thickness * 1000:g} mm {MATERIALS[sheet.material].title}'"
    }
