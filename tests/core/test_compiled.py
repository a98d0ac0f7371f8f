"""Kernels are compiled when first called, and not before."""

import numpy as np

from leanlattice.core.compiled import Kernel, compiled
from leanlattice.core.geometry import nets


@compiled
def _doubled(values):
    return values * 2


@compiled(fastmath=True)
def _doubled_and_summed(values):
    return _doubled(values).sum()


def test_a_kernel_calls_another_in_machine_code():
    assert isinstance(_doubled, Kernel)
    assert _doubled_and_summed(np.arange(4.0)) == 12
    assert not isinstance(_doubled, Kernel)
    assert _doubled.py_func(np.ones(1)) == [2]


def test_a_kernel_keeps_its_name_and_words():
    kernels = [value for value in vars(nets).values() if isinstance(value, Kernel)]
    assert kernels
    assert all(kernel.__name__ in vars(nets) for kernel in kernels)
