"""The whole soak test: ``python -m tests.soak``, or some of its trials by their numbers from 0;
what they found goes into the table in docs/reliability.md, each row with its day."""

from __future__ import annotations

import re
import sys
import tempfile
import time
from datetime import UTC, datetime
from pathlib import Path

from . import trials
from .trials import Found

DOCUMENT = Path(__file__).parents[2] / "docs" / "reliability.md"
SAID = {True: "held", False: "DID NOT HOLD", None: "not tried"}
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
                print(
                    f"{SAID[found.held]}: {found.tried}: {found.found} ({taken:.0f} s)", flush=True
                )
    write(every)
    return int(any(f.held is False for f in every))


HEAD = ["| tried | promised | found | | on |", "|---|---|---|---|---|"]


def write(every: list[Found]) -> None:
    """Puts rows of what was tried in their places in the table of the document."""
    text = DOCUMENT.read_text(encoding="utf-8")
    before, rest = text.split(BEGIN)
    table, after = rest.split(END)
    rows = {_what(row): row for row in table.splitlines() if row.startswith("| ")}
    rows.pop(_what(HEAD[0]), None)
    day = datetime.now(UTC).strftime("%Y-%m-%d")
    for f in every:
        row = f"| {f.tried} | {f.promised} | {f.found} | {SAID[f.held]} | {day} |"
        rows[_what(row)] = row
    told = "\n".join([*HEAD, *rows.values()])
    DOCUMENT.write_text(f"{before}{BEGIN}\n{told}\n{END}{after}", encoding="utf-8")


def _what(row: str) -> str:
    """What a row of the table is about, whatever the numbers in it are."""
    return re.sub(r"[\d.]+", "", row.split("|")[1]).strip()


if __name__ == "__main__":
    raise SystemExit(main())
