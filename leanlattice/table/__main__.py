"""The table's own process and protocol: ``python -m leanlattice.table PORT [FOLDER]``.

It prints the port it listens on, and keeps its queue in the folder, where it is given one. Who
speaks to it says ``HELLO SECRET`` first; the secret is the first line of its input, so that only
whoever began it has it.

One command a line in UTF-8, one answer a line: ``OK`` or ``NO`` and JSON. ``LOAD NAME BYTES`` is
followed by the bytes of a DXF; ``START``, ``STOP``, ``CLEAR``, ``SHEET``, ``TOOL MM``, ``PACE
TIMES``, ``FAULT worn|missing``, ``PATH NUMBER``, ``STATUS``.
"""

from __future__ import annotations

import hmac
import json
import math
import socketserver
import sys
import threading
from pathlib import Path
from typing import Any
from urllib.parse import unquote

import numpy as np

from .keeping import Keeper
from .machine import Machine, prepared
from .reading import Fault

LARGEST = 64 * 1024 * 1024
LONGEST_LINE = 4096
LONGEST_NAME = 200
IDLE, LOADING, GREETING = 600.0, 30.0, 30.0
"""Seconds without a word after which a line is cut: between commands, while a sheet comes, and
before it has said who it is."""
MOST_LINES = 16


class _Connection(socketserver.StreamRequestHandler):
    server: _Table

    def handle(self) -> None:
        if not self.server.room.acquire(blocking=False):
            return
        try:
            if self._greeted():
                while self._next():
                    pass
        except (TimeoutError, ConnectionError):
            pass
        finally:
            self.server.room.release()

    def _line(self, seconds: float) -> list[str] | None:
        """The words of a line, none at the end or where it is too long."""
        self.connection.settimeout(seconds)
        line = self.rfile.readline(LONGEST_LINE)
        return line.decode("utf-8", "replace").split() if line.endswith(b"\n") else None

    def _greeted(self) -> bool:
        words = self._line(GREETING) or [""]
        said = words[1] if words[0] == "HELLO" and len(words) == 2 else ""
        good = hmac.compare_digest(said.encode(), self.server.secret.encode())
        self._say(good, "at your service" if good else "This table takes orders from its own line.")
        return good

    def _next(self) -> bool:
        words = self._line(IDLE)
        if words is None:
            return False
        if words:
            self._say(*self._answer(words[0].upper(), words[1:]))
        return True

    def _say(self, good: bool, answer: Any) -> None:
        text = json.dumps(answer, allow_nan=False)
        self.wfile.write(f"{'OK' if good else 'NO'} {text}\n".encode())

    def _answer(self, command: str, given: list[str]) -> tuple[bool, Any]:
        try:
            if command == "LOAD":
                return self._load(unquote(given[0])[:LONGEST_NAME], int(given[1]))
            with self.server.lock:
                return self.server.answer(command, given)
        except (IndexError, ValueError, StopIteration):
            return False, f"“{command} {' '.join(given)[:80]}” is not understood."

    def _load(self, name: str, size: int) -> tuple[bool, Any]:
        if not 0 <= size <= LARGEST:
            raise ConnectionError  # what follows could not be told from commands
        self.connection.settimeout(LOADING)
        content = self.rfile.read(size)
        if len(content) < size:
            raise ConnectionError
        machine = self.server.machine
        # One sheet is read at a time; meanwhile the table answers everybody else.
        with self.server.reading:
            tool = machine.tool
            made = prepared(content, tool)
            with self.server.lock:
                job = machine.take(name, tool, made)
                if isinstance(job, list):
                    return False, [_told(f) for f in job]
                self.server.keeper.add(job, content)
                return True, job.told()


def _told(fault: Fault) -> dict[str, Any]:
    x, y = (v if math.isfinite(v) else 0.0 for v in (fault.x, fault.y))
    return {"text": fault.text, "x": x, "y": y}


class _Table(socketserver.ThreadingTCPServer):
    allow_reuse_address = True
    daemon_threads = True

    def __init__(self, port: int, secret: str, folder: Path | None) -> None:
        super().__init__(("127.0.0.1", port), _Connection)
        self.secret = secret
        self.machine = Machine()
        self.lock, self.reading = threading.Lock(), threading.Lock()
        self.room = threading.BoundedSemaphore(MOST_LINES)
        self.keeper = Keeper(self.machine, folder)
        self.keeper.bring_back()
        self.plain = {
            "START": self.machine.start,
            "STOP": lambda: self.machine.fail("stop"),
            "CLEAR": self.machine.clear,
            "SHEET": self.machine.lay_sheet,
        }

    def answer(self, command: str, given: list[str]) -> tuple[bool, Any]:
        """What it says to a command, once that is done."""
        machine = self.machine
        if command == "STATUS":
            told = machine.told()
            self.keeper.now_and_then()
            return True, told
        if command == "PATH":
            every = [*machine.queue, *machine.finished]
            job = next(j for j in every if j.number == int(given[0]))
            moves = job.plan.moves
            return True, [[m.kind, np.round(m.way, 2).tolist(), round(m.seconds, 4)] for m in moves]
        if command == "TOOL":
            wrong = machine.change_tool(_number(given[0]))
            if wrong:
                return False, wrong
        elif command == "PACE":
            machine.told()
            machine.pace = min(max(_number(given[0]), 0.1), 10_000.0)
        elif command == "FAULT" and given[0] in ("worn", "missing"):
            machine.fail(given[0])
        elif command in self.plain:
            self.plain[command]()
        else:
            return False, f"“{command[:40]}” is no command of this table."
        told = machine.told()
        self.keeper.note()
        return True, told


def _number(text: str) -> float:
    value = float(text)
    if not math.isfinite(value):
        raise ValueError(text)
    return value


def _end_with_input(table: _Table) -> None:
    sys.stdin.read()
    table.shutdown()


def main() -> None:
    port = int(sys.argv[1]) if len(sys.argv) > 1 else 0
    folder = Path(sys.argv[2]) if len(sys.argv) > 2 else None
    with _Table(port, sys.stdin.readline().strip(), folder) as table:
        print(table.server_address[1], flush=True)
        # It ends with whoever holds its input.
        threading.Thread(target=_end_with_input, args=(table,), daemon=True).start()
        table.serve_forever()


if __name__ == "__main__":
    main()
