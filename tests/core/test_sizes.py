"""How much memory results take, by which caches are bounded."""

from dataclasses import dataclass, field
from functools import cached_property
from typing import Any

import numpy as np

from leanlattice.core.results import Result
from leanlattice.core.sizes import LEAST


@dataclass(frozen=True, eq=False)
class Made(Result):
    places: np.ndarray
    others: Any = None
    named: dict[str, Any] = field(default_factory=dict)

    @cached_property
    def doubled(self):
        return np.concatenate([self.places, self.places])


def test_bytes_are_those_of_the_arrays_in_fields():
    places = np.zeros(1000)
    assert Made(places).nbytes == 8000 + 2 * LEAST
    nested = Made(places, [Made(np.zeros(500)), "text"], {"more": np.zeros(10, np.int32)})
    assert nested.nbytes == 8000 + 4000 + 40 + 4 * LEAST


def test_an_array_counts_once_and_as_the_whole_it_is_a_part_of():
    whole = np.zeros((1000, 3))
    one = Made(whole, [whole, whole.T, whole[:5]])
    assert one.nbytes == 24000 + 2 * LEAST
    assert Made(whole[:5]).nbytes == 24000 + 2 * LEAST


def test_what_is_worked_out_of_the_fields_does_not_count():
    made = Made(np.zeros(1000))
    before = made.nbytes
    assert len(made.doubled) == 2000
    assert made.nbytes == before


def test_a_result_that_holds_itself_is_counted():
    ring = [np.zeros(10)]
    ring.append(ring)
    assert Made(np.zeros(10), ring).nbytes == 160 + 2 * LEAST
