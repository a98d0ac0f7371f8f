"""Every sentence in every choice, to be read aloud: ``pytest -s -k read_aloud`` prints them."""

from __future__ import annotations

import re

import pytest

from leanlattice.clauses.base import MORE
from leanlattice.clauses.registry import CLAUSE_TYPES
from leanlattice.clauses.values import read

NO_SENTENCE = {
    "two spaces": r"  ",
    "a space before a mark": r" [,.;:]",
    "two marks": r"[,.;:]{2}",
    "a place left open": r"[{}\[\]|*]",
    "one of many": r"(?<![\d.])1 (?:times|curves|places|profiles|points|columns|faces|sheets|bays)\b",
    "a before a vowel": r"\ba [aeio]\w",
    "an before none": r"\ban [bcdfgjklmnpqrstvwxz]\w",
    "a word twice": r"\b([a-z]{2,}) \1\b",
    "a bare unit": r"(?<!\d) (?:mm|cm²|kN/m²|m²)\b",
}
"""What no sentence holds."""


def sentences(kind):
    """The sentence with every choice of every value in turn, and each pair that belongs
    together."""
    cls = CLAUSE_TYPES[kind]
    choices = {n: [c.key for c in s.choices] for n, s in cls.specs().items() if s.choices}
    plain = cls.model_construct()
    out = {plain.reads()}
    for name, keys in choices.items():
        for key in keys:
            one = cls.model_construct(**{name: key})
            out.add(one.reads())
            # What is only shown with this choice may be chosen itself.
            for inner in {s.value for s in cls.segments() if s.when == name and key in s.equals}:
                for k in choices.get(inner, []):
                    out.add(cls.model_construct(**{name: key, inner: k}).reads())
    return sorted(out)


@pytest.mark.parametrize("kind", sorted(CLAUSE_TYPES))
def test_sentences_can_be_read_aloud(kind):
    for text in sentences(kind):
        print(text)
        assert text[0].isupper()
        assert text.endswith(".")
        found = {name for name, pattern in NO_SENTENCE.items() if re.search(pattern, text)}
        assert not found, f"{text}: {found}"


@pytest.mark.parametrize("kind", sorted(CLAUSE_TYPES))
def test_counts_read_well_for_one_and_many(kind):
    cls = CLAUSE_TYPES[kind]
    for name, spec in cls.specs().items():
        if spec.kind == "count":
            for value in (max(1, int(spec.least or 0)), 3):
                text = cls.model_construct(**{name: value}).reads()
                for rule in ("one of many", "a word twice", "two spaces"):
                    assert not re.search(NO_SENTENCE[rule], text), text


MOST_WORDS = 34
"""What a sentence says before the rest of it, as it begins, numbers counted too."""


@pytest.mark.parametrize("kind", sorted(CLAUSE_TYPES))
def test_what_a_sentence_says_first_is_short_and_nothing_of_it_is_lost(kind):
    cls = CLAUSE_TYPES[kind]
    assert cls.sentence.count(MORE) <= 1
    begun = cls.model_construct()
    first = "".join(
        read(cls.specs()[s.value], getattr(begun, s.value)) if s.value else s.text
        for s in cls.segments()
        if not s.more and (s.when not in cls.specs() or str(getattr(begun, s.when)) in s.equals)
    )
    assert begun.reads().startswith(first)
    words = re.sub(r"\b[A-Z]+ [\d.]+ × [\d.]+", "section", first).split()
    assert len(words) <= MOST_WORDS, first
    assert MORE not in begun.reads()


def test_no_menu_says_the_same_twice():
    for kind in CLAUSE_TYPES.values():
        for name, spec in kind.specs().items():
            titles = [choice.title for choice in spec.choices or []]
            assert len(set(titles)) == len(titles), (kind.kind, name)
