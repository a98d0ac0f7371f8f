"""What a table keeps in a folder, so that its queue outlives a power cut."""

from __future__ import annotations

import json
import os
import time
from dataclasses import dataclass, field
from pathlib import Path

from .machine import Job, Machine, prepared

__all__ = ["Keeper"]

STATE = "state.json"
EVERY = 2.0
"""Seconds after which it is noted again how far a sheet has been cut."""


@dataclass
class Keeper:
    """Keeps the queue of a ``machine`` in a ``folder``; without one nothing is kept."""

    machine: Machine
    folder: Path | None
    noted: float = field(default=0.0, init=False)

    def add(self, job: Job, content: bytes) -> None:
        """Keeps the file of a sheet that was taken."""
        if self.folder is not None:
            _write(self.folder / f"{job.number}.dxf", content)
            self.note()

    def note(self) -> None:
        """Keeps what is in the queue and how far that is; files of others go."""
        if self.folder is None:
            return
        self.noted = time.monotonic()
        m = self.machine
        told = {
            "tool": m.tool,
            "worn": m.worn,
            "sheet": m.sheet,
            "pace": m.pace,
            "count": m.count,
            "queue": [{"number": j.number, "name": j.name, "done": j.done} for j in m.queue],
        }
        _write(self.folder / STATE, json.dumps(told).encode())
        wanted = {f"{j.number}.dxf" for j in m.queue}
        for file in self.folder.glob("*.dxf"):
            if file.name not in wanted:
                file.unlink(missing_ok=True)

    def now_and_then(self) -> None:
        """Notes how far it is where that was not done for a while."""
        if self.machine.state == "running" and time.monotonic() - self.noted > EVERY:
            self.note()

    def bring_back(self) -> None:
        """Takes up what was in the queue; where there was something, it waits for a hand."""
        if self.folder is None:
            return
        self.folder.mkdir(parents=True, exist_ok=True)
        try:
            told = json.loads((self.folder / STATE).read_text(encoding="utf-8"))
            m = self.machine
            m.tool, m.worn, m.sheet = float(told["tool"]), float(told["worn"]), bool(told["sheet"])
            m.pace, m.count = float(told["pace"]), int(told["count"])
            rows = [(int(r["number"]), str(r["name"]), float(r["done"])) for r in told["queue"]]
        except FileNotFoundError:
            return
        except (OSError, ValueError, KeyError, TypeError):
            (self.folder / STATE).rename(self.folder / f"{STATE}.damaged")
            return
        for number, name, done in rows:
            file = self.folder / f"{number}.dxf"
            made = prepared(file.read_bytes(), m.tool) if file.exists() else []
            if isinstance(made, tuple):
                m.queue.append(Job(number, name, *made, done=min(done, made[0].seconds)))
        if m.queue:
            m.state, m.fault = "waiting", "off"


def _write(file: Path, content: bytes) -> None:
    """Writes a file whole or not at all."""
    part = file.with_suffix(".part")
    with part.open("wb") as out:
        out.write(content)
        out.flush()
        os.fsync(out.fileno())
    part.replace(file)
