"""The clause that parts members into lengths that can be delivered."""

from __future__ import annotations

from collections.abc import Mapping
from typing import Any, ClassVar, Literal

from ...core.structure.spliced import Spliced, spliced
from ...core.structure.structure import Structure
from ..base import ClauseError, Made, Notice, Work, choice, headline, number
from ..said import metres, mm
from .chosen import CHOSEN, ChosenClause
from .common import structure_figures, told_of

__all__ = ["SpliceMembers"]

MOST_PIECES = 60_000


class SpliceMembers(ChosenClause):
    kind = "splice-members"
    title = "Splice members"
    summary = (
        "Long members in lengths that can be delivered, butted or lapped on a slant, staggered."
    )
    sentence = (
        "**Splice** " + CHOSEN + " into lengths of at most {longest_piece}, {joint}"
        "[joint=scarf| over {lap}], {order}, {clear} from nodes."
    )

    # Whatever is too long to be delivered; the rest stays as it is.
    begins: ClassVar[Mapping[str, Any]] = {"which": "all"}

    longest_piece: float = number(
        6.0, "m", 0.1, 100.0, 0.5, "Longest delivered", "With what one laps the next by"
    )
    joint: Literal["butt", "scarf"] = choice(
        "butt", {"butt": "butted", "scarf": "lapped on a slant"}, "Joint"
    )
    lap: float = number(400.0, "mm", 1.0, 5000.0, 50.0, "Lap", "Along the member")
    order: Literal["staggered", "even"] = choice(
        "staggered",
        {"staggered": "staggered from one to the next", "even": "side by side"},
        "Order",
    )
    clear: float = number(150.0, "mm", 0.0, 5000.0, 50.0, "Clear of nodes", "Where there is room")

    def make(self, work: Work) -> Made:
        base: Structure = work.inputs["structure"]
        meant = self.members(work)
        lap = self.lap / 1000 if self.joint == "scarf" else 0.0
        if lap > self.longest_piece / 2:
            raise ClauseError(
                f"Laps of {mm(self.lap)} at both ends leave nothing of "
                f"{metres(self.longest_piece)}; "
                f"at most {mm(self.longest_piece * 500)} would work.",
                "lap",
            )
        pieces = float((base.cut_lengths[meant] / (self.longest_piece - lap)).sum())
        if pieces > MOST_PIECES:
            raise ClauseError(
                f"That would be about {pieces:,.0f} pieces; at most {MOST_PIECES:,} can be worked "
                "with. Longer ones would be fewer.",
                "longest_piece",
            )
        clear = self.clear / 1000 + lap / 2
        staggered = self.order == "staggered"
        done = spliced(base, meant, self.longest_piece, lap, clear, staggered)
        made = done.structure
        figures = {
            "parted": headline("Members parted", done.parted),
            "splices": headline("Splices", done.splices),
            "longest_piece": headline("Longest piece", float(made.cut_lengths.max()), "m", 3),
        }
        warnings = [*told_of(made, base), *self._told(done)]
        return Made(made, figures | structure_figures(made), warnings)

    def _told(self, done: Spliced) -> list[Notice]:
        out, crowded = [], done.crowded
        if not done.parted:
            text = f"None of them is longer than {metres(self.longest_piece)}; nothing had to be spliced."
            out.append(Notice(text, value="longest_piece"))
        if crowded:
            text = (
                f"{crowded} {'splices are' if crowded > 1 else 'splice is'} nearer to a node than "
                f"{mm(self.clear)}, as nodes lie too close; a shorter lap would have more room."
            )
            out.append(Notice(text, value="clear"))
        if done.butted:
            text = (
                f"{done.butted} {'splices lie' if done.butted > 1 else 'splice lies'} in arcs and "
                f"{'are' if done.butted > 1 else 'is'} butted; a slant would not stay within them."
            )
            out.append(Notice(text, value="joint"))
        return out
