"""The pyramid as docs/verification.md shows it."""

from __future__ import annotations

from . import by_hand

BEGINS = "## A pyramid worked out by hand\n"
TEXT = """
Four lines of tubes over a rectangle on the ground, four along its sides, and glass between them. Its apex is off the middle, so
that no two members and no two panes are alike and whatever is mirrored, turned or mixed up shows. `tests/golden/by_hand.py` works
it out from the corners alone, knowing nothing of the application; `tests/golden/compare.py` holds the pack to it: every column
below, the figures, lines and their layers, placements in the building model, volumes, middles and directions of all solids, the
views of the drawings, and where parts lie on sheets.

- **Corners**, m: {corners}.
- **Members** {members}. The grid is CHS 88.9 × 4, the edge CHS 139.7 × 5, of S355; what is measured goes from the first
  node to the second.
- **Names** go along y, the longer way, and within a row along x; edges count for themselves.
- **Height** of a member's section: along the sum of the unit normals of the panes beside it. **Roll**: from the upright plane
  through the axis to it, right-handed about the axis.
- **Normal** of a node: of the panes' normals, each times its angle there (Thürmer and Wüthrich, 1998). **Plan angle**: about it,
  from the node's first member; **elevation**: above the plane square to it; **twist**: from it to the section's height,
  right-handed about the member as it leaves.
- **Set-back**: the least start at which two tubes, as rectangles in the plane of their axes, are 10 mm apart; of a member's pairs
  the largest. **Cut length**: from node to node less both.
- **Mass**: π/4 (d² − (d − 2t)²) × cut length × 7850 kg/m³. **Types**: by section, the shorter first.
- **Panes**: 12 mm glass with joints of 20 mm. With the inner circle's radius ρ = 2A/U, 10 mm off every side leave (ρ − 10 mm)/ρ
  of all lengths. They are raised by √(69.85² − 10²) = 69.13 mm, to a tenth upward 69.2 mm, which clears the edge tubes.
- **Pose**: the place of the corner where the longest side begins, counter-clockwise seen from outside, then the directions of that
  side and square to it.
- **Sheets** of 10 × 4.8 m; the mean of a pane's corners lies at {lies}.
- **Bars** of 12 m: the longest member left and with it those that fill the bar best, 4 mm for each cut between.
- **Cutting** at 3 m/min and 3 s to begin each of 4 outlines: {minutes:.3f} min at £45 an hour, and 2 sheets at £60: £{cost:.3f}.
"""


def as_markdown():
    """The whole section, with a table a file."""
    corners = "; ".join(f"{n} ({x:g}, {y:g}, {z:g})" for n, (x, y, z) in by_hand.CORNERS.items())
    members = ", ".join(f"{m} from {a} to {b}" for m, (a, b) in by_hand.MEMBERS.items())
    lies = "; ".join(
        f"({x:g}, {y:g}) mm on sheet {sheet}, turned by {turn}°, for {p}"
        for p, (sheet, (x, y), turn) in by_hand.LIES.items()
    )
    cost = by_hand.FIGURES["sheets", "cost"]()
    text = TEXT.format(
        corners=corners, members=members, lies=lies, minutes=by_hand.cut_minutes(), cost=cost
    )
    return BEGINS + text + "".join(_table(name) for name in by_hand.COLUMNS)


def _table(name):
    header, rows = by_hand.table(name)
    lines = [header, ["---"] * len(header), *([_cell(v) for v in row] for row in rows)]
    return f"\n`{name}`\n\n" + "".join(f"| {' | '.join(cells)} |\n" for cells in lines)


def _cell(value):
    if isinstance(value, str):
        return value
    return f"{value:.4f}".rstrip("0").rstrip(".").replace("-0", "0" if value == 0 else "-0")
