"""The whole soak test: ``python -m tests.soak``; its table goes into docs/reliability.md."""

from __future__ import annotations

import sys
import tempfile
import time
from datetime import UTC, datetime
from pathlib import Path

from . import trials
from .trials import Found

DOCUMENT = Path(__file__).parents[2] / "docs" / "reliability.md"
BEGIN, END = "<!-- measured -->", "<!-- /measured -->"


def main() -> int:
    """Runs all trials and writes the table; 1 when something did not hold."""
    work = [
        lambda f: [trials.kills(f, 100)],
        lambda f: [trials.requests(f, 10_000)],
        lambda f: [trials.files(f, 200)],
        lambda f: trials.people(f, 20, 300, 10),
        lambda f: [trials.full_disk(f, 2)],
    ]
    every: list[Found] = []
    for k, trial in enumerate(work):
        if sys.argv[1:] and str(k) not in sys.argv[1:]:
            continue
        began = time.monotonic()
        with tempfile.TemporaryDirectory(ignore_cleanup_errors=True) as folder:
            for found in trial(Path(folder)):
                every.append(found)
                taken = time.monotonic() - began
                said = "held" if found.held else "DID NOT HOLD"
                print(f"{said}: {found.tried}: {found.found} ({taken:.0f} s)", flush=True)
    if not sys.argv[1:]:
        write(every)
    return int(not all(f.held for f in every))


def write(every: list[Found]) -> None:
    """Puts the table in its place in the document."""
    text = DOCUMENT.read_text(encoding="utf-8")
    before, rest = text.split(BEGIN)
    after = rest.split(END)[1]
    rows = ["| tried | promised | found | |", "|---|---|---|---|"]
    held = {True: "held", False: "NOT HELD"}
    rows += [f"| {f.tried} | {f.promised} | {f.found} | {held[f.held]} |" for f in every]
    day = datetime.now(UTC).strftime("%Y-%m-%d")
    table = "\n".join([f"Measured on {day}.", "", *rows])
    DOCUMENT.write_text(f"{before}{BEGIN}\n{table}\n{END}{after}", encoding="utf-8")


if __name__ == "__main__":
    raise SystemExit(main())
