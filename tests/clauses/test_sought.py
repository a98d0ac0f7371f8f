"""Words that clauses are looked for by."""

from leanlattice.clauses.registry import CLAUSE_TYPES
from leanlattice.clauses.sought import SOUGHT_BY


def test_each_is_of_a_kind_and_says_what_its_title_and_summary_do_not():
    for kind, words in SOUGHT_BY.items():
        said = f"{CLAUSE_TYPES[kind].title} {CLAUSE_TYPES[kind].summary}".lower().split()
        for word in words.split():
            assert word.lower() not in said, (kind, word)


def test_what_a_structure_is_made_of_is_found_by_the_words_of_the_trade():
    found = {kind for kind, words in SOUGHT_BY.items() if "bars" in words}
    assert {"frame", "frame-curves", "trusses"} <= found
