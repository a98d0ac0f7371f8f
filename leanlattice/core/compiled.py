"""Functions over arrays that are compiled the first time they are called.

Importing the compiler takes longer than most of what a server does first; so a kernel is declared
with ``@compiled``, and the compiler is fetched when a kernel is first wanted. What was compiled is
kept on disk for all processes, which take turns in reading and writing it: each kernel's index of
what it is compiled for and the code itself are two files, and have to be of one writer.
"""

from __future__ import annotations

import contextlib
import fcntl
import os
import threading
from collections.abc import Callable, Iterator
from functools import update_wrapper
from typing import Any, TypeVar, cast

__all__ = ["Kernel", "compiled"]

F = TypeVar("F", bound=Callable[..., Any])
_RESOLVING = threading.RLock()
"""One thread at a time gives kernels to the compiler: of two that both did, one would take its turn
within its own turn, which would never come."""


class Kernel:
    """A function that becomes machine code with its first call; what was compiled is kept on disk.

    ``options`` are those of ``numba.njit``.
    """

    def __init__(self, function: Callable[..., Any], options: dict[str, bool]) -> None:
        self._function = function
        self._options = options
        self._machine_code: Callable[..., Any] | None = None
        update_wrapper(self, function)

    def __call__(self, *arguments: Any) -> Any:
        return (self._machine_code or self.resolved())(*arguments)

    def resolved(self) -> Callable[..., Any]:
        """What the compiler made of it. Kernels it calls by name are given to the compiler too."""
        with _RESOLVING:
            if self._machine_code is None:
                self._machine_code = self._made()
            return self._machine_code

    def _made(self) -> Callable[..., Any]:
        from numba import njit

        made = njit(cache=True, **self._options)(self._function)
        names = self._function.__globals__
        for name in self._function.__code__.co_names:
            if isinstance(names.get(name), Kernel):
                names[name] = names[name].resolved()
        called = [names.get(name) for name in self._function.__code__.co_names]
        _depend_on(made, [c for c in called if hasattr(c, "_cache")])
        _take_turns(made)
        return cast(Callable[..., Any], made)


def compiled(function: F | None = None, **options: bool) -> Any:
    """Declare a kernel: ``@compiled`` or ``@compiled(fastmath=True)``."""
    if function is None:
        return lambda given: compiled(given, **options)
    return cast(F, Kernel(function, options))


def _depend_on(machine_code: Any, called: list[Any]) -> None:
    """Lets what is kept of a kernel be of no use once a file of those it calls has changed: their
    code is part of its own."""
    kept = machine_code._cache._cache_file
    others = tuple(kernel._cache._cache_file._source_stamp for kernel in called)
    kept._source_stamp = (kept._source_stamp, *others)


def _take_turns(machine_code: Any) -> None:
    """Lets one process at a time read or write what is kept of a kernel. Otherwise two that
    compile it for different types at once both call their code the first, and whoever comes later
    runs the one for the types of the other."""
    kept = machine_code._cache._cache_file
    turns = os.path.join(kept._cache_path, "kernels.lock")
    for name in ("load", "save"):
        setattr(kept, name, _in_turn(getattr(kept, name), turns))


def _in_turn(function: Callable[..., Any], turns: str) -> Callable[..., Any]:
    def alone(*arguments: Any) -> Any:
        with _turn(turns):
            return function(*arguments)

    return alone


@contextlib.contextmanager
def _turn(turns: str) -> Iterator[None]:
    """A turn by a file that is locked; where none can be written, nothing is, and no turn is
    needed."""
    with contextlib.ExitStack() as stack:
        with contextlib.suppress(OSError):
            os.makedirs(os.path.dirname(turns), exist_ok=True)
            file = stack.enter_context(open(turns, "wb"))
            fcntl.flock(file, fcntl.LOCK_EX)
        yield
