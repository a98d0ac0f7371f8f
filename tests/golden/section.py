"""The pyramid as docs/verification.md shows it."""

from __future__ import annotations

from pathlib import Path

from . import by_hand

BEGINS = "## A pyramid worked out by hand\n"
TEMPLATE = Path(__file__).with_name("pyramid.md")


def as_markdown():
    """The whole section, with a table a file."""
    corners = "; ".join(f"{n} ({x:g}, {y:g}, {z:g})" for n, (x, y, z) in by_hand.CORNERS.items())
    members = ", ".join(f"{m} from {a} to {b}" for m, (a, b) in by_hand.MEMBERS.items())
    lies = "; ".join(
        f"({x:g}, {y:g}) mm on sheet {sheet}, turned by {turn}°, for {p}"
        for p, (sheet, (x, y), turn) in by_hand.LIES.items()
    )
    cost = by_hand.FIGURES["sheets", "cost"]()
    text = TEMPLATE.read_text(encoding="utf-8").format(
        corners=corners, members=members, lies=lies, minutes=by_hand.cut_minutes(), cost=cost
    )
    return f"{BEGINS}\n{text}" + "".join(_table(name) for name in by_hand.COLUMNS)


def _table(name):
    header, rows = by_hand.table(name)
    lines = [header, ["---"] * len(header), *([_cell(v) for v in row] for row in rows)]
    return f"\n`{name}`\n\n" + "".join(f"| {' | '.join(cells)} |\n" for cells in lines)


def _cell(value):
    if isinstance(value, str):
        return value
    return f"{value:.4f}".rstrip("0").rstrip(".").replace("-0", "0" if value == 0 else "-0")
