"""The table's own process and protocol: ``python -m leanlattice.table PORT``.

One command a line in UTF-8, one answer a line: ``OK`` or ``NO`` and JSON. ``LOAD NAME BYTES`` is
followed by the bytes of a DXF; ``START``, ``STOP``, ``CLEAR``, ``SHEET``, ``TOOL MM``, ``PACE
TIMES``, ``FAULT worn|missing``, ``PATH NUMBER``, ``STATUS``. The port it listens on is printed once
it does.
"""

from __future__ import annotations

import json
import socketserver
import sys
import threading
from typing import Any
from urllib.parse import unquote

import numpy as np

from .machine import Machine

LARGEST = 64 * 1024 * 1024


class _Connection(socketserver.StreamRequestHandler):
    server: _Table

    def handle(self) -> None:
        for line in self.rfile:
            words = line.decode("utf-8", "replace").split()
            if not words:
                continue
            with self.server.lock:
                good, answer = self._answer(words[0].upper(), words[1:])
            self.wfile.write(f"{'OK' if good else 'NO'} {json.dumps(answer)}\n".encode())

    def _answer(self, command: str, given: list[str]) -> tuple[bool, Any]:
        machine = self.server.machine
        try:
            if command == "LOAD":
                size = int(given[1])
                if not 0 <= size <= LARGEST:
                    return False, [
                        {"text": f"A file of {size} bytes is too large.", "x": 0, "y": 0}
                    ]
                made = machine.load(unquote(given[0]), self.rfile.read(size))
                return (
                    (False, [vars(f) for f in made])
                    if isinstance(made, list)
                    else (True, made.told())
                )
            if command == "PATH":
                job = next(
                    j for j in [*machine.queue, *machine.finished] if j.number == int(given[0])
                )
                return True, [
                    [m.kind, np.round(m.way, 2).tolist(), round(m.seconds, 4)]
                    for m in job.plan.moves
                ]
            if command == "TOOL":
                wrong = machine.change_tool(float(given[0]))
                return (False, wrong) if wrong else (True, machine.told())
            if command == "PACE":
                machine.told()
                machine.pace = min(max(float(given[0]), 0.1), 10_000.0)
            elif command == "FAULT" and given[0] in ("worn", "missing"):
                machine.fail(given[0])
            elif command in self.server.plain:
                self.server.plain[command]()
            elif command != "STATUS":
                return False, f"“{command}” is no command of this table."
        except (IndexError, ValueError, StopIteration):
            return False, f"“{command} {' '.join(given)}” is not understood."
        return True, machine.told()


class _Table(socketserver.ThreadingTCPServer):
    allow_reuse_address = True
    daemon_threads = True

    def __init__(self, port: int) -> None:
        super().__init__(("127.0.0.1", port), _Connection)
        self.machine, self.lock = Machine(), threading.Lock()
        self.plain = {
            "START": self.machine.start,
            "STOP": lambda: self.machine.fail("stop"),
            "CLEAR": self.machine.clear,
            "SHEET": self.machine.lay_sheet,
        }


def _end_with_input(table: _Table) -> None:
    sys.stdin.read()
    table.shutdown()


def main() -> None:
    with _Table(int(sys.argv[1]) if len(sys.argv) > 1 else 0) as table:
        print(table.server_address[1], flush=True)
        # It ends with whoever holds its input.
        threading.Thread(target=_end_with_input, args=(table,), daemon=True).start()
        table.serve_forever()


if __name__ == "__main__":
    main()
