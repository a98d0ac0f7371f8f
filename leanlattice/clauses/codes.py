"""What notices and errors say that offer a remedy, by their codes: the one table of these texts.

Facts are numbers and names in braces; sentences are made of them here and never read back.
"""

from __future__ import annotations

from collections.abc import Mapping
from typing import Any

from .said import filled

__all__ = ["TEXTS", "text_of"]

TEXTS: dict[str, str] = {
    "aim missed for an aim": (
        "The aim for “{aim}” is missed by up to {gap:.3g} {unit}: that for “{other}” pulls "
        "against {share:.0f} % of its force."
    ),
    "aim missed for the load": (
        "The aim for “{aim}” is missed by up to {gap:.3g} {unit}: the load pulls against "
        "{share:.0f} % of its force."
    ),
    "aim missed for a hold": (
        "The aim for “{aim}” is missed by up to {gap:.3g} {unit}: what is held takes "
        "{share:.0f} % of its force."
    ),
    "barred": "{why}",
    "bent too far": (
        "{label} is bent to a radius of {radius:.2f} m, {times:.0f} times its thickness; "
        "sheets up to {thickness:g} mm bend so far."
    ),
    "bays apart": (
        "No node of one bay is a node of another, so that they stand apart. A step as long as the "
        "bay, a plane at its end, or a larger distance within which nodes are one, would join them."
    ),
    "bays coincide": (
        "{doubled:,} of the {members:,} members of copies lie on members that are there. A longer "
        "step, another angle or plane, or fewer copies would part them."
    ),
    "bays not in turns": (
        "An odd number of bays goes round ({x:.2f}, {y:.2f}, {z:.2f}) m, so that they cannot be "
        "taken in turns; a node under every bay works for any net."
    ),
    "blocks around a ring": (
        "The surface closes along {this}, so that nothing is above or below there; courses along "
        "{other} would work."
    ),
    "blocks at a point": (
        "The surface ends in a point above, where blocks would have no width; one block there, or "
        "an eye, would work."
    ),
    "blocks without a point": (
        "The surface does not end in a point above that one block could close; “up to its border” "
        "would work, or courses the other way."
    ),
    "bodies not reached": (
        "Members at {nodes} nodes meet before they reach bodies of {radius:g} mm radius; "
        "{needed:g} mm reaches them all."
    ),
    "cells fold over edges": (
        "At {depth:g} m deep sides of {edge:.0f} mm and less fold over, as mitres at their ends "
        "meet; merging vertices nearer than {needed:g} m, or a shallower one, would leave room."
    ),
    "cuts overrun": (
        "Members are too short for how small an angle they meet others at: their cuts reach past "
        "their next bend or each other, {members} in all, {label} by {past:.0f} mm. A net without "
        "such corners, or members held apart, would work."
    ),
    "edges collapsed": (
        "{edges} have all but collapsed, the shortest to {shortest:.0f} mm. An aim for equal "
        "lengths there, or a hold, keeps them apart."
    ),
    "edges collapsed sliding": (
        "{edges} have all but collapsed, the shortest to {shortest:.0f} mm. Its vertices "
        "slide together along what holds them. An aim for equal lengths there, or a hold, "
        "keeps them apart."
    ),
    "edges gone": (
        "{edges} have shrunk to nothing. An aim for equal lengths there, or a hold, keeps "
        "them apart."
    ),
    "edges without room": (
        "{panels} panels have no room for {wanted}, and stay as they are; {smaller} would fit more "
        "of them."
    ),
    "edges without length": (
        "{edges} edges of the net have no length, the first at ({x:.2f}, {y:.2f}, {z:.2f}) m; with "
        "their vertices merged there are none."
    ),
    "form runs away": (
        "The form runs away without end: nothing balances the load. Hold more, or aim for lengths."
    ),
    "gap of no whole rings": (
        "A gap of {gap:g} mm is no whole number of rings {ring:g} mm thick; slices every "
        "{low:g} m or {high:g} m have one that is."
    ),
    "held past bends": (
        "Members are held back past their next bend, where they may run into others: {members} in "
        "all, {label} by {past:.0f} mm. Slimmer sections, or a net without short edges there, "
        "would work."
    ),
    "hold unmet": (
        "The hold of {hold} cannot be met with the aim for “{aim}”: the {edges} edges beside "
        "it are {there:.0f} % off on the mean, those elsewhere {rest:.0f} %."
    ),
    "made too early": (
        "“{title}” below changes members or nodes that this is made for; put above, it is regarded."
    ),
    "no curve closed": (
        "None of the curves is closed, so they bound no body; make it open as walls."
    ),
    "open curve leaning": (
        "An open curve has no inside to lean to; set the taper to 0° or close it."
    ),
    "walls meet": (
        "With a taper of {taper:g}° and an edge of {top:g} m {why}; an inset of {most:.3g} m "
        "altogether, or a taper of {least:.1f}° alone, works."
    ),
    "module too large": (
        "A module of {module:g} m is larger than the shape allows, which measures {along_u:.2f} × "
        "{along_v:.2f} m; at most {fits:g} m works."
    ),
    "module too small": (
        "A module of {module:g} m would make {cells:,} cells; the limit is {most:,}, so a module of "
        "{works:g} m or more works."
    ),
    "too many bays": (
        "{across:,} × {along:,} bays would make {cells:,} cells; the limit is {most:,}, so "
        "{fewer:,} × {and_along:,} bays or fewer work."
    ),
    "no curves for cables": (
        "There are no curves for the cables yet: draw some above, and choose them as “Curves” in "
        "this clause's menu."
    ),
    "no curves for columns": (
        "There are no closed curves for the columns yet: draw circles above, and choose them as "
        "“Columns at” in this clause's menu."
    ),
    "no openings": (
        "These solids have no openings; choose others in this clause's menu, such as cells "
        "deepened about openings, or draw faces."
    ),
    "no member meant": "No member is meant. {there}.",
    "nothing above": (
        "There is no {label} above to work on; add one, such as {titles}, before it."
    ),
    "names stand twice": (
        "Names in this series are those of “{title}” above as well; another series tells them "
        "apart."
    ),
    "stands too low": (
        "“{title}” below makes a {label} of the same {of}, which is not regarded here; put above, "
        "it is."
    ),
    "places at one member": (
        "Places {first} and {second} are nearest to the same member; move {place} to another one."
    ),
    "slots at fault": "At {crossings} slots {fault}: {labels}.",
    "parts too large for sheets": (
        "{parts} larger than a sheet of {width:g} × {height:g} mm less its margin and left out; a "
        "larger sheet{helps} would work."
    ),
    "net folded": (
        "The net has folded over itself along {edges} edges. An aim for right angles or equal"
        " lengths, or a weaker push, keeps it open."
    ),
    "no nodes near": (
        "No two nodes are within {tolerance:g} mm of each other; the nearest are {nearest:g} mm "
        "apart."
    ),
    "thicker than long": (
        "{members} members are no longer than their section is across, {label} with "
        "{length:.0f} mm of {section}, {across:g} mm across. Wider bays, or a section slimmer "
        "than that, would work."
    ),
    "nothing held": (
        "Nothing is held along {axis}; hold some of them, or let them aim to stay close."
    ),
    "panels in each other": (
        "Panels run into their neighbours at {sides} sides, where they lean towards each other: "
        "joints of {joint:g} mm are too narrow; of {needed:g} mm they are clear."
    ),
    "panels in members": (
        "Panels and members share space at {clashes} of {sides} sides, by up to {depth:.1f} "
        "mm; panels raised {needed:g} mm from the net are clear."
    ),
    "parts too large": (
        "{parts} larger than a sheet of {width:g} × {height:g} mm less its margin and left "
        "out; a larger sheet or to splice them would work."
    ),
    "no edge members": (
        "No edge of the border is meant, and all is framed as what is within; the border lies "
        "between heights of {low:.2f} and {high:.2f} m."
    ),
    "no room for webs": (
        "The second surface leaves no room for webs {side} the net at {nodes} nodes, as at "
        "({x:.2f}, {y:.2f}, {z:.2f}) m: there it touches the net or lies on its other side."
    ),
    "no curves to follow": (
        "There are no curves above to follow; the net that is there, or curves, would work."
    ),
    "runs on anyway": (
        "The strands of this net run on whichever way is chosen, as it is woven or reciprocal."
    ),
    "runs on nowhere": "No edge runs on through a node: all bend there by 35° or more.",
    "runs on fewer ways": "Edges run on through nodes {ways} ways only; the last of them is taken.",
    "second layer folded": (
        "The second layer is folded at {chords} of its chords: it lies further away than the shape "
        "bends round there. A smaller depth or the other side would work."
    ),
    "section in no table": "No table of {family} has the size of {section}; it is taken as it is.",
    "twisted too far": (
        "{panels} panels would be twisted past the {most:g} MPa they are bent for, the most by "
        "{stress:.1f} MPa; of its material it could be {thickness:g} mm thick."
    ),
    "twisted too far for any sheet": (
        "{panels} panels would be twisted past the {most:g} MPa they are bent for, the most by "
        "{stress:.1f} MPa, and it would be so however thin; smaller bays would be flatter."
    ),
    "unbalanced": (
        "After {steps} steps {residual:.2g} % of the load is not balanced. Going on may balance it."
    ),
    "unbalanced and slack": (
        "After {steps} steps {residual:.2g} % of the load is not balanced. Nothing resists a "
        "motion of {vertices} vertices: they need a hold or an aim."
    ),
    "vertices held by nothing": (
        "{vertices} vertices are held by nothing along {axis}; hold some of them, or let them"
        " aim to stay close."
    ),
}
"""By code."""


def text_of(code: str, facts: Mapping[str, Any]) -> str:
    """The sentence of a code, its lengths marked; raises ``KeyError`` for a code or a fact that is
    not there."""
    return filled(TEXTS[code], facts)
