"""Functions over arrays that are compiled the first time they are called.

Importing the compiler takes longer than most of what a server does first; so a kernel is declared
with ``@compiled``, and the compiler is fetched when a kernel is first wanted.
"""

from __future__ import annotations

from collections.abc import Callable
from functools import update_wrapper
from typing import Any, TypeVar, cast

__all__ = ["Kernel", "compiled"]

F = TypeVar("F", bound=Callable[..., Any])


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
        if self._machine_code is None:
            from numba import njit

            self._machine_code = njit(cache=True, **self._options)(self._function)
            names = self._function.__globals__
            for name in self._function.__code__.co_names:
                if isinstance(names.get(name), Kernel):
                    names[name] = names[name].resolved()
        return self._machine_code


def compiled(function: F | None = None, **options: bool) -> Any:
    """Declare a kernel: ``@compiled`` or ``@compiled(fastmath=True)``."""
    if function is None:
        return lambda given: compiled(given, **options)
    return cast(F, Kernel(function, options))
