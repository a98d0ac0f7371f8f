"""Processes that end with the one that began them, and reading of files in one that may die."""

from __future__ import annotations

import atexit
import contextlib
import multiprocessing
import os
import resource
import select
import signal
import sys
import threading
import time
from multiprocessing.connection import Connection
from typing import Any

from ..core.shaping.brought import Brought, ReadProblem

__all__ = ["Reader", "ends_after_its_parent", "ends_with_its_parent"]

DEATH_SIGNAL = 1
"""Linux's name for the signal a process gets when its parent ends (prctl(2))."""
SECONDS = 7.0
"""In which a file is to be read; what goes before and after it takes up to two more."""
MEMORY = 1_000_000_000
"""Bytes that reading a file may take."""
BEGINS = 120.0
"""Seconds in which a process that reads is to be there."""


def ends_with_its_parent() -> None:
    """Sees to it that this process does not outlive the one that began it, in whatever way that
    ends and whatever this one is at."""
    if sys.platform == "linux":
        import ctypes

        ctypes.CDLL(None).prctl(DEATH_SIGNAL, signal.SIGKILL)
    ends_after_its_parent()


def ends_after_its_parent() -> None:
    """The same for a process that is at little, and whose parent may be a thread that ends before
    the process it is of."""
    threading.Thread(target=_end_after, args=(os.getppid(),), daemon=True).start()


def _end_after(parent: int) -> None:
    with contextlib.suppress(AttributeError, OSError):  # not every system tells of an end
        ended = os.pidfd_open(parent)
        while os.getppid() == parent:
            select.select([ended], [], [])
    while os.getppid() == parent:
        time.sleep(1.0)
    os._exit(1)


class Reader:
    """Reads files in a process of its own, begun when it is first needed, with at most ``seconds``
    and ``memory`` (bytes) for each: whatever a file does to it, only that one is refused."""

    def __init__(self, seconds: float = SECONDS, memory: int = MEMORY) -> None:
        self.seconds, self.memory = seconds, memory
        self._process: Any = None
        self._line: Connection | None = None
        self._is_ready = False
        atexit.register(self.close)

    def __call__(self, wanted: str, name: str, content: bytes) -> Brought:
        """What a file holds; raises ``ReadProblem`` with a sentence."""
        line = self._ready()
        told = f"“{name[-60:]}”"
        try:
            line.send((wanted, name, content))
            if not line.poll(self.seconds):
                self._begin()
                raise ReadProblem(
                    f"{told} takes more than {self.seconds:.0f} s to be read. Save it again with "
                    "less in it, or in parts; what is repeated within what is repeated grows fast."
                )
            good, found = line.recv()
        except (EOFError, OSError):
            self._begin()
            raise ReadProblem(
                f"{told} needs more than {self.memory / 1e9:g} GB of memory to be read, or is "
                "damaged. Save it again with less in it."
            ) from None
        if not good:
            raise ReadProblem(found)
        return found

    def prepare(self) -> None:
        """Begins the process, if there is none, and does not wait for it."""
        if self._line is None:
            self._begin()

    def _begin(self) -> Connection:
        """Begins a process, instead of the one there is; the next file finds it ready."""
        self.close()
        context = multiprocessing.get_context("spawn")
        self._line, theirs = context.Pipe()
        self._process = context.Process(target=_read, args=(theirs, self.memory), daemon=True)
        self._process.start()
        self._is_ready = False
        theirs.close()
        return self._line

    def _ready(self) -> Connection:
        """The line to a process that reads."""
        line = self._line
        if line is None or not self._process.is_alive():
            line = self._begin()
        if not self._is_ready:
            try:
                if not line.poll(BEGINS):
                    raise EOFError
                self._is_ready = bool(line.recv())
            except (EOFError, OSError):
                self.close()
                raise ReadProblem("Files cannot be read at the moment; try again.") from None
        return line

    def close(self) -> None:
        """Ends the process."""
        if self._line is not None:
            self._line.close()
        if self._process is not None:
            self._process.kill()
            self._process.join(5)
        self._line = self._process = None


def _read(line: Connection, memory: int) -> None:
    """Main loop of the process that reads."""
    ends_with_its_parent()
    signal.signal(signal.SIGINT, signal.SIG_IGN)
    from .readers import open_brought

    most = _data() + memory
    resource.setrlimit(resource.RLIMIT_DATA, (most, most))
    with contextlib.suppress(EOFError, OSError):
        line.send("ready")
        while True:
            wanted, name, content = line.recv()
            try:
                line.send((True, open_brought(wanted, name, content)))
            except ReadProblem as problem:
                line.send((False, str(problem)))


def _data() -> int:
    """Bytes of data this process holds, where the system says so."""
    try:
        with open("/proc/self/statm", encoding="ascii") as file:
            return int(file.read().split()[5]) * resource.getpagesize()
    except OSError:
        return 0
