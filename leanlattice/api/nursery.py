"""Where worker processes come from: one that has imported and run what they need, once for all, of
which each is a copy that shares its memory.

Where the system cannot copy processes, each worker imports for itself.
"""

from __future__ import annotations

import multiprocessing
from multiprocessing.context import ForkServerContext, SpawnContext

__all__ = ["make_ready", "processes"]

GROWN = "leanlattice.api.grown"
"""The module that is imported in what workers are copies of."""


def processes() -> ForkServerContext | SpawnContext:
    """The kind of processes that workers are."""
    if "forkserver" not in multiprocessing.get_all_start_methods():
        return multiprocessing.get_context("spawn")
    context = multiprocessing.get_context("forkserver")
    context.set_forkserver_preload([GROWN])
    return context


def make_ready() -> None:
    """Begins what workers are copies of, if it is not there, and does not wait for it."""
    if isinstance(processes(), ForkServerContext):
        from multiprocessing import forkserver

        forkserver.ensure_running()
