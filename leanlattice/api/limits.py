"""What worker processes may take of a machine."""

from __future__ import annotations

import os
from dataclasses import dataclass

import psutil

__all__ = ["Limits"]

GIGABYTE = 1_000_000_000
SHARE = 0.8
"""Of the machine's memory that workers may take together."""


@dataclass(frozen=True)
class Limits:
    """Bounds of a pool: so many ``workers`` at work at a time, and at ``most`` so many processes
    while some are at jobs that take long; each may take ``memory`` bytes.

    A job that runs for ``long`` seconds gives way to others. One whose worker says nothing for
    ``quiet`` seconds is told of, and ended after as many more. What waits for the worker that knows
    its project goes to another after ``wait`` seconds.
    """

    workers: int = 2
    most: int = 4
    memory: int = 2 * GIGABYTE
    long: float = 3.0
    quiet: float = 60.0
    wait: float = 1.0

    @classmethod
    def of_machine(cls, workers: int | None = None, memory: int | None = None) -> Limits:
        """Bounds by the cores and the memory there are; ``workers``, and the ``memory`` of each
        (bytes), where they are asked for."""
        total = psutil.virtual_memory().total * SHARE
        if workers is None:
            workers = max(1, min(len(os.sched_getaffinity(0)), int(total / GIGABYTE)))
        most = min(2 * workers, max(workers, int(total / GIGABYTE)))
        if memory is None:
            memory = int(min(3 * GIGABYTE, max(GIGABYTE, total / max(most, 1))))
        return cls(workers, most, memory)
