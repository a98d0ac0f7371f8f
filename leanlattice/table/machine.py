"""The table itself: a queue, states, a clock, and faults."""

from __future__ import annotations

import time
from collections.abc import Callable
from dataclasses import dataclass
from typing import Any

import numpy as np

from .planning import Plan, planned
from .reading import Fault, Unreadable, faults_of, read_sheet_file

__all__ = ["Job", "Machine", "prepared"]

LIFE = 400_000.0
"""A tool is worn after so many millimetres of cuts."""
MOST_QUEUED = 40
FAULTS = {
    "worn": "The tool is worn; change it and go on.",
    "missing": "There is no sheet on the table; lay one and go on.",
    "stop": "Stopped by hand; go on when it is safe.",
    "off": "The table was off; its queue is as it was. See where the tool is, then go on.",
}
BY_HAND = ("stop", "off")
"""Faults that are seen to by going on."""


@dataclass
class Job:
    """A sheet on its way: its plan, and how many seconds of it are done."""

    number: int
    name: str
    plan: Plan
    size: tuple[float, float]
    done: float = 0.0

    def told(self) -> dict[str, Any]:
        totals = self.plan.totals
        return {
            "number": self.number,
            "name": self.name,
            "seconds": self.plan.seconds,
            "done": self.done,
            "cut_mm": totals["cut"],
            "mark_mm": totals["mark"],
            "idle_mm": totals["idle"],
            "width": self.size[0],
            "height": self.size[1],
            "starts": self.plan.starts,
        }


def prepared(content: bytes, tool: float) -> tuple[Plan, tuple[float, float]] | list[Fault]:
    """The plan of a sheet for a ``tool`` (mm) and the sheet's size, or what cannot be cut."""
    try:
        file = read_sheet_file(content)
    except Unreadable as error:
        return [Fault(str(error), 0.0, 0.0)]
    faults = faults_of(file, tool)
    if faults:
        return faults
    assert file.sheet is not None
    width, height = np.ptp(file.sheet, axis=0).tolist()
    return planned(file, tool), (width, height)


class Machine:
    """States: ready, running, waiting (for a hand: see its fault), and none else. ``pace`` is how
    much faster than a real table its clock runs. It is not safe to use from several threads at
    once."""

    def __init__(self, clock: Callable[[], float] = time.monotonic) -> None:
        self.clock, self.last = clock, clock()
        self.state, self.fault, self.pace = "ready", "", 30.0
        self.tool, self.worn, self.sheet = 3.0, 0.0, True
        self.queue: list[Job] = []
        self.finished: list[Job] = []
        self.count = 0

    def load(self, name: str, content: bytes) -> Job | list[Fault]:
        """Reads a sheet and puts it in the queue, or says what cannot be cut."""
        tool = self.tool
        return self.take(name, tool, prepared(content, tool))

    def take(
        self, name: str, tool: float, made: tuple[Plan, tuple[float, float]] | list[Fault]
    ) -> Job | list[Fault]:
        """Puts what was ``prepared`` for a ``tool`` (mm) in the queue, or says why not."""
        self.pass_time()
        if isinstance(made, list):
            return made
        if len(self.queue) >= MOST_QUEUED:
            text = f"There are {MOST_QUEUED} sheets in the queue; let some of them be cut first."
            return [Fault(text, 0.0, 0.0)]
        if tool != self.tool:
            text = f"The tool was changed to {self.tool:g} mm meanwhile; send the sheet again."
            return [Fault(text, 0.0, 0.0)]
        self.count += 1
        job = Job(self.count, name, *made)
        self.queue.append(job)
        return job

    def start(self) -> None:
        """Begins, or goes on after a fault that has been seen to."""
        self.pass_time()
        if self.state == "waiting" and self.fault in BY_HAND:
            self.fault = ""
        if not self.fault:
            self.state = "running" if self.queue else "ready"
        if self.state == "running" and not self.sheet:
            self.fail("missing")

    def fail(self, fault: str) -> None:
        """Makes it stop as it would by itself: by hand, worn, or without a sheet."""
        self.pass_time()
        if fault == "missing":
            self.sheet = False
        if fault == "worn":
            self.worn = LIFE
        if self.state == "running" or fault != "stop":
            self.state, self.fault = "waiting", fault

    def change_tool(self, width: float) -> str:
        """A fresh tool; what is in the queue was planned for the one before and stays only if it is
        as wide."""
        self.pass_time()
        if not 0.05 <= width <= 50:
            return f"A tool {width:g} mm wide does not fit; from 0.05 to 50 mm does."
        if width != self.tool and self.queue:
            return f"{len(self.queue)} sheets wait that were planned for a tool of {self.tool:g} mm; clear them first."
        self.tool, self.worn = width, 0.0
        self._seen_to("worn")
        return ""

    def lay_sheet(self) -> None:
        self.pass_time()
        self.sheet = True
        self._seen_to("missing")

    def clear(self) -> None:
        """Empties the queue."""
        self.queue, self.state = [], "ready"
        if self.fault in BY_HAND:
            self.fault = ""

    def _seen_to(self, fault: str) -> None:
        if self.fault == fault:
            self.fault, self.state = "", "ready"

    def pass_time(self) -> None:
        """Lets the clock of the table catch up."""
        now = self.clock()
        passed, self.last = (now - self.last) * self.pace, now
        while self.state == "running" and passed > 0 and self.queue:
            job = self.queue[0]
            step = min(passed, job.plan.seconds - job.done)
            speed = job.plan.totals["cut"] / max(job.plan.seconds, 1e-9)
            if self.worn + step * speed >= LIFE:
                job.done += max(LIFE - self.worn, 0.0) / max(speed, 1e-9)
                self.worn, self.state, self.fault = LIFE, "waiting", "worn"
                return
            job.done, passed, self.worn = job.done + step, passed - step, self.worn + step * speed
            if job.done >= job.plan.seconds - 1e-9:
                self.finished = [self.queue.pop(0), *self.finished][:MOST_QUEUED]
                if not self.queue:
                    self.state = "ready"

    def told(self) -> dict[str, Any]:
        """State, tool, queue, and where the tool is."""
        self.pass_time()
        out: dict[str, Any] = {
            "state": self.state,
            "fault": self.fault,
            "says": FAULTS.get(self.fault, ""),
            "goes_on": not self.fault or self.fault in BY_HAND,
            "tool": self.tool,
            "worn": min(self.worn / LIFE, 1.0),
            "sheet": self.sheet,
            "pace": self.pace,
            "queue": [j.told() for j in self.queue],
            "finished": [j.told() for j in self.finished],
        }
        if self.queue:
            job = self.queue[0]
            move, x, y = job.plan.at(job.done)
            out |= {"move": move, "x": x, "y": y, "kind": job.plan.moves[move].kind}
        return out
