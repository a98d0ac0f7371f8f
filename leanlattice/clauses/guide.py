"""The built-in guide: a second line on each clause type, and a small statement that shows what it
makes."""

from __future__ import annotations

from dataclasses import dataclass
from typing import Any

__all__ = ["GUIDE", "GuideEntry"]

Sample = tuple[tuple[str, dict[str, Any]], ...]


@dataclass(frozen=True)
class GuideEntry:
    """``explained`` adds to a clause type's summary; ``sample`` are the kinds and values of clauses
    of which the last is of that type."""

    explained: str
    sample: Sample = ()


PLAN: Sample = (("draw", {}),)
LOOP: Sample = (("draw", {"curves": [["loop", [[-8, -4], [7, -5], [10, 3], [1, 6], [-9, 4]]]]}),)
ARC: Sample = (("draw", {"curves": [["arc", [[0, 4], [2.8, 2.8], [4, 0]]]], "plane": "front"}),)
ROUND: Sample = (("draw", {"curves": [["circle", [[0, 0], [1, 0]]]]}),)
BENT: Sample = (("draw", {"curves": [["spline", [[0, 0], [5, 4], [11, 2], [15, 6]]]]}),)
TWO: Sample = (
    ("draw", {"curves": [["circle", [[0, 0], [3, 0]]], ["rectangle", [[1, -2], [8, 2]]]]}),
)
VAULT: Sample = (("barrel", {"length": 12}),)
ROOF: Sample = (("barrel", {"length": 12, "span": 10, "rise": 3.5}),)
FAR_END_UP = (
    [[0, 0, 0]] * 5 + [[0, 0, 5]] + [[0, 0, 0]] * 5 + [[0, 0, 6]] + [[0, 0, 0]] * 5 + [[0, 0, 5]]
)
STAGE: Sample = (
    (
        "draw",
        {
            "curves": [["arc", [[-8, 0.8], [0, 3], [8, 0.8]]], ["line", [[-8, 0], [8, 0]]]],
            "plane": "front",
        },
    ),
)
BLOCK: Sample = (("box", {}),)
WINDOW: Sample = (
    ("draw", {"curves": [["circle", [[-1, 2], [0, 2]]]], "plane": "front", "level": -3}),
)

SOME_FILE = ["0" * 64, "sample"]
"""Stands for a file; whoever draws the picture brings its content."""

GUIDE: dict[str, GuideEntry] = {
    "draw": GuideEntry(
        "Points snap to the grid, to points, middles and directions; lengths can be typed.",
        (
            (
                "draw",
                {
                    "curves": [
                        ["loop", [[-8, -4], [7, -5], [10, 3], [1, 6], [-9, 4]]],
                        ["circle", [[-2, 0], [0, 0]]],
                        ["arc", [[3, -2], [5, 0], [3, 2]]],
                    ]
                },
            ),
        ),
    ),
    "bring-curves": GuideEntry(
        "Arcs stay arcs. The unit is taken from the file where it says one.", LOOP
    ),
    "underlay": GuideEntry(
        "Mark four corners of something rectangular, and one length you know; then draw over it.",
        (("underlay", {"file": SOME_FILE, "plane": "front"}),),
    ),
    "round-corners": GuideEntry(
        "Where the radius does not fit, the largest that does is made and the corner is listed.",
        (*PLAN, ("round-corners", {"radius": 1.5})),
    ),
    "offset-curves": GuideEntry(
        "Outward or inward; what would cross itself is cleared away.",
        (*LOOP, ("offset-curves", {"distance": 1.5, "keep": "both"})),
    ),
    "trim-curves": GuideEntry(
        "Works on the curves two clauses give: those to be trimmed, and those that trim.",
        (
            ("draw", {"curves": [["line", [[-8, y], [8, y]]] for y in (-4, -2, 0, 2, 4)]}),
            ("draw", {"curves": [["circle", [[0, 0], [6, 0]]]]}),
            ("trim-curves", {}),
        ),
    ),
    "extend-curves": GuideEntry(
        "Ends that meet nothing further on stay, and are counted.",
        (
            ("draw", {"curves": [["line", [[-1, y], [1, y]]] for y in (-3, -1, 1, 3)]}),
            ("draw", {"curves": [["circle", [[0, 0], [5, 0]]]]}),
            ("extend-curves", {"what": "both"}),
        ),
    ),
    "join-curves": GuideEntry(
        "Curves may run either way; the tolerance closes small gaps.", (*LOOP, ("join-curves", {}))
    ),
    "split-curves": GuideEntry(
        "By length along the curve, whatever it is made of.",
        (*LOOP, ("split-curves", {"parts": 5})),
    ),
    "mirror-curves": GuideEntry(
        "With the first curves kept, halves become wholes; join them next.",
        (
            ("draw", {"curves": [["spline", [[0, -5], [4, -3], [3, 2], [0, 5]]]]}),
            ("mirror-curves", {}),
        ),
    ),
    "copy-curves": GuideEntry(
        "A full turn is divided evenly; a part of one has a copy at either end.",
        (
            ("draw", {"curves": [["circle", [[5, 0], [6.6, 0]]]]}),
            ("copy-curves", {"way": "around", "copies": 8}),
        ),
    ),
    "unite-outlines": GuideEntry(
        "True arcs stay; where outlines run along each other they are made straight.",
        (*TWO, ("unite-outlines", {})),
    ),
    "smooth-curves": GuideEntry(
        "Eased 0 times it only spaces the points evenly.",
        (*PLAN, ("smooth-curves", {"points": 40, "rounds": 30})),
    ),
    "circles": GuideEntry(
        "Radii may follow height or pull points; other clauses take their middles for places.",
        (
            *PLAN,
            ("pull", {"points": [[1, 1, 0]], "reach": 5}),
            ("circles", {"circles": 9, "graded": "pull", "radius": 0.2, "other": 0.9}),
        ),
    ),
    "regions": GuideEntry(
        "Lines that cross enclose regions between them; each becomes a closed curve.",
        (
            (
                "draw",
                {
                    "curves": [
                        ["circle", [[0, 0], [4, 0]]],
                        ["line", [[-5, -1], [5, 1]]],
                        ["line", [[-1, -5], [1, 5]]],
                    ]
                },
            ),
            ("regions", {}),
        ),
    ),
    "band": GuideEntry(
        "For walls, paths and strips about a line.",
        (
            ("draw", {"curves": [["spline", [[-4, -1], [-1, 1.5], [2, -1], [5, 1]]]]}),
            ("band", {"width": 0.8, "ends": "round"}),
        ),
    ),
    "loft": GuideEntry(
        "Drag the points of the profiles; closed profiles make a tube.", (("loft", {}),)
    ),
    "dome": GuideEntry(
        "Half the span as rise makes a half sphere; more makes it bulge.", (("dome", {}),)
    ),
    "extrude": GuideEntry(
        "Closed to a body, with its edges rounded if wished, or open as walls that can lean and taper.",
        (*LOOP, ("extrude", {"height": 5, "taper": 6})),
    ),
    "revolve": GuideEntry(
        "A profile that ends on the axis closes there; a wedge can be closed to a body.",
        (*ARC, ("revolve", {"sweep": 270})),
    ),
    "sweep": GuideEntry(
        "Frames follow the spine's true tangent; several profiles blend from its start to its end.",
        (*ROUND, *BENT, ("sweep", {})),
    ),
    "translate": GuideEntry(
        "An arch along an arch makes a shell of flat quads.",
        (
            ("draw", {"curves": [["arc", [[-4, 0], [0, 2.5], [4, 0]]]], "plane": "front"}),
            ("draw", {"curves": [["arc", [[-7, 0], [0, 2], [7, 0]]]], "plane": "side"}),
            ("translate", {}),
        ),
    ),
    "span": GuideEntry(
        "Drag the heights; stiffness decides how near it passes, the edge may meet the ground level.",
        (*LOOP, ("span", {"heights": [[-3, 0, 4], [5, 0, 2.5]]})),
    ),
    "cage": GuideEntry(
        "Split, draw out, bridge and weld on the Trace screen; creases and corners keep it sharp.",
        (("cage", {}),),
    ),
    "canopy": GuideEntry(
        "Scatter the columns by a seed or place them; border and feet are known by name.",
        (*LOOP, ("canopy", {"posts": 3})),
    ),
    "funnels": GuideEntry(
        "Two skins mirrored make a body whose funnels go right through.",
        (
            ("draw", {"curves": [["rectangle", [[-6, -4], [6, 4]]]]}),
            ("funnels", {"sites": [[-2.5, -1, 0], [2.5, 1, 0]]}),
        ),
    ),
    "ball": GuideEntry("A lattice wraps it all round, its poles above and below.", (("ball", {}),)),
    "ellipsoid": GuideEntry(
        "Three axes of any length, whole or only the upper half.", (("ellipsoid", {}),)
    ),
    "torus": GuideEntry(
        "Closed both ways; a lattice meets itself along and across.", (("torus", {}),)
    ),
    "cylinder": GuideEntry(
        "Its wall alone takes a lattice; solid it can be cut and united.", (("cylinder", {}),)
    ),
    "barrel": GuideEntry("Part of a cylinder lying down: true arcs, no ends.", VAULT),
    "cone": GuideEntry("With no radius above it comes to a point.", (("cone", {"top": 1}),)),
    "conoid": GuideEntry("Every line along its length is straight.", (("conoid", {}),)),
    "saddle": GuideEntry(
        "Straight lines both ways; Alt drags the corners up and down.", (("saddle", {}),)
    ),
    "box": GuideEntry("A block to stack, cut and unite.", BLOCK),
    "ground": GuideEntry(
        "Places that lie on others in plan are told; a picture's black is low and its white high.",
        (("ground", {"file": SOME_FILE}),),
    ),
    "import": GuideEntry(
        "Says what it repaired: holes, doubled points, faces turned the wrong way, stray pieces.",
        (("import", {"file": SOME_FILE}),),
    ),
    "combine": GuideEntry(
        "Takes all shapes above that nothing else has taken up, or those chosen in its menu.",
        (
            *BLOCK,
            ("ball", {"solid": "body", "centre": [2, -2, 4], "radius": 2.5}),
            ("combine", {"operation": "difference"}),
        ),
    ),
    "thicken": GuideEntry(
        "Square to the surface everywhere, with walls along its border.",
        (*VAULT, ("thicken", {"thickness": 0.8})),
    ),
    "base": GuideEntry(
        "A landscape model stands on one, or a seat; nothing of the surface may overhang.",
        (("saddle", {}), ("base", {"depth": 1.5})),
    ),
    "between": GuideEntry(
        "Whichever lies higher is the upper one; it says where they come too near.",
        (*VAULT, ("barrel", {"length": 12, "rise": 1}), ("between", {})),
    ),
    "hollow": GuideEntry(
        "The wall keeps its thickness at edges; what does not fit is said, with the most that does.",
        (
            *BLOCK,
            ("hollow", {"wall": 0.6}),
            ("cut-plane", {"through": [0, 0, 2.6], "keep": "before"}),
        ),
    ),
    "cut-plane": GuideEntry(
        "A surface keeps its parameters, a body gets a flat face.",
        (
            ("ball", {"solid": "body"}),
            ("cut-plane", {"through": [0, 0, 2.5], "azimuth": 240, "rise": 60}),
        ),
    ),
    "cut-plan": GuideEntry(
        "The border follows the outline, corners included.",
        (("dome", {"span": 16, "rise": 4}), *PLAN, ("cut-plan", {})),
    ),
    "openings": GuideEntry(
        "Curves that meet nothing are told; reach can stop at their plane.",
        (*BLOCK, ("hollow", {"wall": 0.4}), *WINDOW, ("openings", {"reach": "behind"})),
    ),
    "mirror": GuideEntry(
        "Bodies are united with their image, surfaces joined where they meet.",
        (
            ("box", {"centre": [2, 0, 0], "along_x": 4}),
            ("ball", {"solid": "body", "centre": [5, 0, 2], "radius": 2}),
            ("combine", {}),
            ("mirror", {"keep": "both"}),
        ),
    ),
    "repeat": GuideEntry(
        "Copies that touch are welded; bodies are united.",
        (
            ("cone", {"radius": 2, "height": 4, "solid": "body"}),
            ("repeat", {"copies": 3, "dx": 3}),
        ),
    ),
    "move": GuideEntry(
        "By typed distances; formulas and named dimensions work too.", (*BLOCK, ("move", {"dz": 2}))
    ),
    "turn": GuideEntry(
        "Right-handed about an axis through any place.",
        (*BLOCK, ("turn", {"angle": 30, "axis": "y"})),
    ),
    "scale": GuideEntry(
        "Different factors by direction turn spheres into ellipsoids.",
        (("ball", {}), ("scale", {"fz": 0.5})),
    ),
    "smooth": GuideEntry(
        "Bumps go, volume stays; the border can be kept.",
        (
            *BLOCK,
            ("bend", {"nx": 2, "ny": 2, "moves": [[0, 0, 0]] * 7 + [[0, 0, 2]]}),
            ("smooth", {"rounds": 60}),
        ),
    ),
    "swap": GuideEntry(
        "What was outside becomes inside: members, panels and thickness follow.",
        (*VAULT, ("swap", {})),
    ),
    "bend": GuideEntry(
        "Shift click picks several points of the box; Alt drags them up and down.",
        (*VAULT, ("bend", {"moves": FAR_END_UP})),
    ),
    "take-side": GuideEntry(
        "The top is laid out by its plan; walls and undersides are flattened.",
        (
            ("box", {}),
            ("ball", {"solid": "body", "centre": [0, 0, 4]}),
            ("combine", {}),
            ("take-side", {}),
        ),
    ),
    "pattern": GuideEntry(
        "Fourteen patterns; three border treatments close the edge, and pull points draw it together.",
        (("dome", {}), ("pattern", {"bays_across": 16, "bays_along": 5})),
    ),
    "own-module": GuideEntry(
        "Ends that nearly meet are joined; lines that lead nowhere are told.",
        (
            *ROOF,
            (
                "draw",
                {
                    "curves": [
                        ["line", [[0, 0.5], [0.3, 0.5], [0.5, 0.8], [0.7, 0.5], [1, 0.5]]],
                        ["line", [[0.5, 0.8], [0.5, 1]]],
                        ["line", [[0.3, 0.5], [0.5, 0.2], [0.7, 0.5]]],
                        ["line", [[0.5, 0.2], [0.5, 0]]],
                    ]
                },
            ),
            ("own-module", {"bay": "given", "bays_across": 7, "bays_along": 8}),
        ),
    ),
    "geodesic": GuideEntry(
        "Whole on a ball, cut at the foot of a dome; on other shapes rays run from the sphere nearest to them.",
        (("dome", {"span": 12, "rise": 5}), ("geodesic", {"frequency": 6})),
    ),
    "foam": GuideEntry(
        "Turn it to odd angles and a regular foam looks irregular; closed bodies are cut all round.",
        (*BLOCK, ("foam", {"width": 1.6})),
    ),
    "equal-mesh": GuideEntry(
        "As for elastic gridshells laid out flat; where rhombs close up it ends and says where.",
        (*ROOF, ("equal-mesh", {"length": 0.9, "turn": 45})),
    ),
    "pull": GuideEntry(
        "Below 0 % they spread it; the pattern stays sound however strong they are.",
        (
            ("barrel", {"length": 12}),
            ("pull", {"points": [[0, 0, 3.5]], "strength": 70, "reach": 4}),
            ("pattern", {"pattern": "hexagons", "bays_across": 18, "bays_along": 20}),
        ),
    ),
    "pull-curves": GuideEntry(
        "Draw a line over a roof and the pattern gathers along it.",
        (
            ("barrel", {"length": 12}),
            ("draw", {"curves": [["line", [[-4, -5], [4, 5]]]], "level": 3}),
            ("pull-curves", {"strength": 75, "reach": 2.5}),
            ("pattern", {"pattern": "quads", "bays_across": 20, "bays_along": 20}),
        ),
    ),
    "refine": GuideEntry(
        "Where fine meets coarse the net stays sound: no vertex hangs on an edge.",
        (
            *ROOF,
            ("pattern", {"pattern": "triangles", "bays_across": 8, "bays_along": 8}),
            ("refine", {"low": 2.6, "high": 9, "times": 2}),
        ),
    ),
    "leave-out": GuideEntry(
        "A body's underside needs no lattice; regions cut openings through whole cells.",
        (
            *BLOCK,
            ("pattern", {"bays_across": 8, "bays_along": 6}),
            ("leave-out", {"facing": "sideways"}),
        ),
    ),
    "truncate": GuideEntry(
        "Each time the corners go; the middles are put back onto the shape.",
        (
            *ROOF,
            ("pattern", {"pattern": "equilateral", "bays_across": 7, "bays_along": 9}),
            ("truncate", {}),
        ),
    ),
    "dual": GuideEntry(
        "Of triangles it makes hexagons; twice gives back what was.",
        (
            *ROOF,
            ("pattern", {"pattern": "triangles", "bays_across": 8, "bays_along": 9}),
            ("dual", {}),
        ),
    ),
    "inset": GuideEntry(
        "A share, a distance from the sides, or growing with height; what does not fit is told.",
        (
            *ROOF,
            ("pattern", {"pattern": "quads", "bays_across": 6, "bays_along": 7}),
            ("inset", {"share": 35, "radius": 0.3, "keep": "open"}),
        ),
    ),
    "raise": GuideEntry(
        "Outside or inside; pull points above make them deeper or flatter.",
        (
            *ROOF,
            ("pattern", {"pattern": "quads", "bays_across": 6, "bays_along": 7}),
            ("raise", {}),
        ),
    ),
    "thin": GuideEntry(
        "Another seed takes others; what would leave the net unsound stays and is counted.",
        (
            *ROOF,
            ("pattern", {"pattern": "hexagons", "bays_across": 8, "bays_along": 10}),
            ("thin", {}),
        ),
    ),
    "divide-edges": GuideEntry(
        "New vertices lie on the shape; cells take them as corners.",
        (
            *ROOF,
            ("pattern", {"pattern": "quads", "bays_across": 3, "bays_along": 4}),
            ("divide-edges", {"longest": 1.5}),
        ),
    ),
    "merge": GuideEntry(
        "Border vertices keep their place; chains of short edges end at one vertex.",
        (
            *ROOF,
            ("pattern", {"pattern": "voronoi", "bays_across": 8, "bays_along": 10, "rounds": 0}),
            ("merge", {"distance": 0.4}),
        ),
    ),
    "ease": GuideEntry(
        "Evens out scattered patterns and what other changes left uneven.",
        (
            *ROOF,
            ("pattern", {"pattern": "nudged", "bays_across": 8, "bays_along": 10, "rounds": 0}),
            ("ease", {}),
        ),
    ),
    "weave": GuideEntry(
        "Crossings and levels are counted; where passing in turns cannot hold, it is told.",
        (
            *ROOF,
            ("pattern", {"pattern": "trihexagons", "bays_across": 9, "bays_along": 10}),
            ("weave", {"width": 220, "thickness": 90}),
        ),
    ),
    "reciprocal": GuideEntry(
        "By an angle, or by how far ends engage; gaps between the bars' middle lines are told.",
        (
            *ROOF,
            ("pattern", {"pattern": "quads", "bays_across": 6, "bays_along": 7}),
            ("reciprocal", {"angle": 14, "width": 140}),
        ),
    ),
    "mark-edges": GuideEntry(
        "Colour by marks shows them; the frame can give each mark its section.",
        (
            ("dome", {}),
            ("pattern", {"pattern": "quads", "bays_across": 16, "bays_along": 5}),
            ("mark-edges", {"which": "ribs"}),
        ),
    ),
    "mark-cells": GuideEntry(
        "Panels can be laid in marked cells alone, or in all others.",
        (
            *ROOF,
            ("pattern", {"pattern": "trihexagons", "bays_across": 9, "bays_along": 10}),
            ("mark-cells", {"where": "corners"}),
        ),
    ),
    "faces": GuideEntry(
        "Quads stay quads; names of borders and feet go along.",
        (*LOOP, ("canopy", {}), ("faces", {})),
    ),
    "wireframe": GuideEntry(
        "Nodes and members as tables work too, those of a pack among them; loose ends are told.",
        (("wireframe", {"file": SOME_FILE, "most": 5}),),
    ),
    "hold": GuideEntry(
        "Exact, never soft: what slides on a level, curve or shape never leaves it, and is drawn to it evenly."
    ),
    "push": GuideEntry(
        "Several pushes add up; loads on plan and surface, pressure and weight follow the form."
    ),
    "aim": GuideEntry(
        "Several aims settle between each other by their strengths; without one, force densities of 1 kN/m."
    ),
    "settle": GuideEntry(
        "Turned over, what hung in tension stands in compression; a rise can be asked for.",
        (
            ("loft", {"profiles": [[[-5, -6, 0], [5, -6, 0]], [[-5, 6, 0], [5, 6, 0]]]}),
            ("pattern", {"pattern": "quads", "bays_across": 12, "bays_along": 14}),
            ("hold", {}),
            ("push", {}),
            ("settle", {"sense": "standing", "rise": "given", "height": 3.5}),
        ),
    ),
    "net-shape": GuideEntry(
        "A cage relaxed as a net becomes the shape for a finer pattern.",
        (
            ("loft", {"profiles": [[[-5, -6, 0], [5, -6, 0]], [[-5, 6, 0], [5, 6, 0]]]}),
            ("pattern", {"pattern": "quads", "bays_across": 12, "bays_along": 14}),
            ("hold", {}),
            ("push", {"load": -1}),
            ("settle", {}),
            ("net-shape", {}),
        ),
    ),
    "frame": GuideEntry(
        "Roll follows the shape's normal; set-backs at nodes are worked out.",
        (("dome", {}), ("pattern", {"bays_across": 12, "bays_along": 4}), ("frame", {})),
    ),
    "double-layer": GuideEntry(
        "Depth, side and arrangement can be changed at any time; a second surface can bear it.",
        (
            ("barrel", {"length": 12}),
            ("pattern", {"pattern": "quads", "bays_across": 9, "bays_along": 9}),
            ("double-layer", {"depth": 0.9}),
        ),
    ),
    "cut-lines": GuideEntry(
        "They follow the shape; planes that miss it are told. Framed, they become arches and ribs.",
        (*VAULT, ("cut-lines", {"cuts": 6})),
    ),
    "frame-curves": GuideEntry(
        "True arcs stay arcs; radii and lengths are listed, and ends that meet are one node.",
        (
            (
                "draw",
                {
                    "curves": [
                        ["arc", [[-6, 0], [0, 4], [6, 0]]],
                        ["line", [[-6, 0], [6, 0]]],
                        ["line", [[-3, 0], [-3, 3.2]]],
                        ["line", [[0, 0], [0, 4]]],
                        ["line", [[3, 0], [3, 3.2]]],
                    ],
                    "plane": "front",
                },
            ),
            ("frame-curves", {}),
        ),
    ),
    "trusses": GuideEntry(
        "Webs of five kinds, one second chord or two; trusses that cross share their nodes.",
        (
            (
                "draw",
                {
                    "curves": [
                        ["arc", [[-8, 0], [0, 2.5], [8, 0]]],
                    ],
                    "plane": "front",
                },
            ),
            ("trusses", {"panels": 9, "chords": "two", "width": 1.2, "depth": 1.2}),
        ),
    ),
    "struts": GuideEntry(
        "They land on the lines nearest to the places picked, which run on; angles are told.",
        (
            *STAGE,
            ("frame-curves", {"role": "chord"}),
            ("struts", {"lines": [[0, 0, 2], [0, 0, 0]], "how_many": 6}),
        ),
    ),
    "link": GuideEntry(
        "Ties carry tension alone; places are nodes, or lie within members, which run on.",
        (
            ("draw", {"curves": [["arc", [[-6, 0], [0, 3], [6, 0]]]], "plane": "front"}),
            ("frame-curves", {}),
            ("link", {"places": [[-6, 0, 0], [6, 0, 0]]}),
        ),
    ),
    "columns": GuideEntry(
        "Feet are known as supports; columns too long, too near or off the ground are told.",
        (
            ("barrel", {"length": 12, "rise": 2.5}),
            ("pattern", {"pattern": "quads", "bays_across": 9, "bays_along": 9}),
            ("double-layer", {"depth": 0.9}),
            ("columns", {"which": "heights", "low": -0.1, "high": 0.1}),
        ),
    ),
    "brace-bays": GuideEntry(
        "Between nodes of the net; crossed ones share a node in the middle.",
        (
            ("barrel", {}),
            ("pattern", {"pattern": "quads", "bays_across": 10, "bays_along": 6}),
            ("frame", {}),
            ("brace-bays", {"which": "second"}),
        ),
    ),
    "repeat-bay": GuideEntry(
        "Copies follow their bay; where bays meet they share nodes, and members meet anew.",
        (
            (
                "draw",
                {
                    "curves": [
                        ["arc", [[-3, 0], [0, 2.5], [3, 0]]],
                        ["line", [[-3, 0], [3, 0]]],
                    ],
                    "plane": "front",
                },
            ),
            ("frame-curves", {}),
            ("struts", {"lines": [[0, 0, 2.5], [0, 0, 0]], "how_many": 3}),
            ("repeat-bay", {"dx": 6, "dy": 0, "copies": 3}),
        ),
    ),
    "join-nodes": GuideEntry(
        "The only place where members join by coordinates; those that lie on others are left out.",
        (
            ("dome", {}),
            ("pattern", {"pattern": "quads", "bays_across": 16, "bays_along": 6}),
            ("frame", {}),
            ("join-nodes", {"tolerance": 600}),
        ),
    ),
    "lines-of": GuideEntry(
        "Framed, put trusses along or cut to, like curves that are drawn.",
        (("barrel", {}), ("pattern", {"pattern": "quads"}), ("lines-of", {"bend": "arcs"})),
    ),
    "project-curves": GuideEntry(
        "Arcs and straight pieces on the shape; where curves leave it, they end.",
        (
            ("barrel", {}),
            ("draw", {"curves": [["circle", [[0, 0], [3, 0]]], ["line", [[-4, -3], [4, 3]]]]}),
            ("project-curves", {}),
        ),
    ),
    "bring-lines": GuideEntry(
        "A layer named after a section or a role says what is on it, when they are framed.",
        (("bring-lines", {"file": ["0" * 64, "shed.dxf"]}),),
    ),
    "give-section": GuideEntry(
        "Members meet anew at their nodes; a top or bottom that lies on the net stays on it.",
        (
            ("dome", {}),
            ("pattern", {"bays_across": 12, "bays_along": 4}),
            ("frame", {}),
            (
                "give-section",
                {"which": "heights", "low": -1, "high": 1, "section": "CHS 219.1 × 8"},
            ),
        ),
    ),
    "grade-sections": GuideEntry(
        "Sizes that are commonly made between the two, in even ratios of height and mass.",
        (
            ("dome", {}),
            ("pattern", {"bays_across": 12, "bays_along": 4}),
            ("frame", {}),
            ("grade-sections", {"by": "deep", "thick": "CHS 219.1 × 8"}),
        ),
    ),
    "turn-members": GuideEntry(
        "Straight members stand one way all along; bent ones turn with their arcs.",
        (
            ("dome", {}),
            ("pattern", {"pattern": "quads", "bays_across": 12, "bays_along": 4}),
            ("frame", {"inner": "RHS 200 × 100 × 6.3"}),
            ("turn-members", {}),
        ),
    ),
    "meet-otherwise": GuideEntry(
        "Where others are held back for plates or hubs, what comes to an edge may be welded to it.",
        (
            ("dome", {}),
            ("pattern", {"bays_across": 8, "bays_along": 4}),
            ("frame", {"inner": "CHS 139.7 × 5", "border": "CHS 244.5 × 8", "meeting": "seats"}),
            ("meet-otherwise", {"role": "edge", "meeting": "coped"}),
        ),
    ),
    "plate-ends": GuideEntry(
        "One plate holds what ends at a foot; where two meet each has one, and they are bolted.",
        (
            ("dome", {"span": 8, "rise": 1, "centre": [0, 0, 4]}),
            ("pattern", {"pattern": "quads", "bays_across": 6, "bays_along": 3}),
            ("frame", {"inner": "CHS 139.7 × 5"}),
            ("columns", {}),
            ("plate-ends", {"role": "column"}),
        ),
    ),
    "swell-members": GuideEntry(
        "Walls grow and shrink with the tubes; each length between nodes is made of eight cones.",
        (
            ("dome", {}),
            ("pattern", {"bays_across": 10, "bays_along": 4}),
            ("frame", {"inner": "CHS 219.1 × 8"}),
            ("swell-members", {"at_nodes": 1.8, "between": 0.5}),
        ),
    ),
    "leave-out-members": GuideEntry(
        "Nodes that only they led to go with them; what hangs free is told.",
        (
            ("dome", {}),
            ("pattern", {"bays_across": 12, "bays_along": 4}),
            ("frame", {}),
            ("leave-out-members", {"which": "around", "near": [[0, -5, 0]], "reach": 2}),
        ),
    ),
    "check-solids": GuideEntry(
        "A clause further down the statement than what it checks; it changes nothing.",
        (
            ("dome", {"span": 10, "rise": 5}),
            ("blocks", {"courses": 8, "blocks": 24, "within": 20}),
            ("check-solids", {"heaviest": 600}),
        ),
    ),
    "face-templates": GuideEntry(
        "To scale on sheets, plane faces exactly; each side bears the face beyond and the angle. Of "
        "pierced cells and shells the openings can be drawn, those alike once.",
        (
            ("dome", {"span": 10, "rise": 5}),
            ("blocks", {"courses": 8, "blocks": 24, "within": 20}),
            ("face-templates", {"faces": "around"}),
        ),
    ),
    "strips": GuideEntry(
        "Folds are scored whole away from the outside, with a gap towards it. Each flap lies on "
        "the neighbour it is screwed to. Fabric and film are not scored, and may be cut smaller by "
        "what they give under tension.",
        (
            ("barrel", {"span": 6, "rise": 2, "length": 5}),
            ("pattern", {"pattern": "quads", "bays_across": 10, "bays_along": 5}),
            ("strips", {"along": "short"}),
        ),
    ),
    "node-plates": GuideEntry(
        "Members are framed held back for them. Folds are scored whole away from the outside, with "
        "a gap towards it.",
        (
            ("dome", {"span": 6, "rise": 1.5}),
            ("pattern", {"pattern": "triangles", "density": "module", "module": 1.5}),
            ("frame", {"inner": "CHS 60.3 × 4", "meeting": "arms", "thickness": 8}),
            ("node-plates", {}),
        ),
    ),
    "end-plates": GuideEntry(
        "Ends of members are cut for them before. The outline of what stands on a plate is marked.",
        (
            (
                "draw",
                {
                    "curves": [["line", [[-3, 0], [0, 2]]], ["line", [[0, 2], [3, 0]]]],
                    "plane": "front",
                },
            ),
            ("frame-curves", {"section": "RHS 300 × 200 × 8"}),
            ("plate-ends", {"which": "all", "at": "pairs"}),
            ("plate-ends", {"which": "all", "at": "alone"}),
            ("end-plates", {}),
        ),
    ),
    "hubs": GuideEntry(
        "Members are framed held back for them. Holes are as wide as the drill of a thread.",
        (
            ("barrel", {"span": 6, "rise": 1.5, "length": 6}),
            ("pattern", {"pattern": "quads", "bays_across": 4, "bays_along": 4}),
            ("double-layer", {"depth": 0.8, "meeting": "seats"}),
            ("hubs", {}),
        ),
    ),
    "tube-ends": GuideEntry(
        "A template goes once round its tube, “up” along the height of the section, its lower edge "
        "level with the tube's first.",
        (
            ("barrel", {"span": 4, "rise": 1.2, "length": 4}),
            ("pattern", {"pattern": "quads", "bays_across": 3, "bays_along": 3}),
            ("frame", {"inner": "CHS 114.3 × 5", "border": "CHS 114.3 × 5"}),
            ("tube-ends", {}),
        ),
    ),
    "unroll": GuideEntry(
        "Exact where a surface bends one way; where it bends both ways the stretch is told. Seams "
        "run between cells.",
        (
            ("barrel", {"span": 6, "rise": 2, "length": 5}),
            ("pattern", {"pattern": "hexagons", "density": "module", "module": 0.8}),
            ("unroll", {}),
        ),
    ),
    "deepen": GuideEntry(
        "Neighbours share their mitre. One shell and a thin skin away from it are two clauses.",
        (
            ("dome", {"span": 10, "rise": 4}),
            ("pattern", {"pattern": "hexagons", "density": "module", "module": 1.6}),
            ("pull", {"points": [[3, -3, 2]], "reach": 4}),
            ("deepen", {"form": "even", "depth": 0.4, "side": "middle", "share": 60}),
        ),
    ),
    "cushions": GuideEntry(
        "The span is the widest circle about a cell's middle; foils begin where they are held.",
        (
            ("barrel", {"span": 8, "rise": 2.5, "length": 8}),
            ("pattern", {"pattern": "hexagons", "density": "module", "module": 1.5}),
            ("cushions", {"up": 16, "down": 10}),
        ),
    ),
    "give-sheet": GuideEntry(
        "A second share is taken of what is left, so that shares of several clauses add up.",
        (
            ("barrel", {"span": 8, "rise": 3, "length": 8}),
            ("pattern", {"pattern": "quads", "bays_across": 6, "bays_along": 6}),
            ("panels", {}),
            ("give-sheet", {"share": 30}),
            ("give-sheet", {"share": 20, "material": "plywood", "thickness": 18}),
        ),
    ),
    "blocks": GuideEntry(
        "Joints stand square to the surface. An opening is a closed curve; lintels rest beside it.",
        (
            ("dome", {"span": 10, "rise": 5}),
            (
                "blocks",
                {
                    "courses": 8,
                    "blocks": 24,
                    "thickness": 0.5,
                    "crown": 1.4,
                    "joint": 40,
                    "within": 20,
                },
            ),
        ),
    ),
    "part-by-cells": GuideEntry(
        "Pieces stay in their places; made solids of a material, each is listed with its mass.",
        (
            ("dome", {}),
            ("pattern", {"pattern": "hexagons", "bays_across": 10, "bays_along": 4}),
            ("thicken", {"thickness": 0.4, "side": "inside"}),
            ("part-by-cells", {"joint": 60, "reach": 0.6}),
        ),
    ),
    "check-members": GuideEntry(
        "Clashes are those of true solids as their cuts leave them; each is told with its place.",
        (
            ("dome", {}),
            ("pattern", {"bays_across": 12, "bays_along": 4}),
            ("frame", {}),
            ("check-members", {}),
        ),
    ),
    "splice-members": GuideEntry(
        "Between nodes, as even as can be; neighbours take turns. A slant is one plane both share.",
        (
            ("barrel", {}),
            ("pattern", {"pattern": "quads", "bays_across": 12, "bays_along": 8}),
            ("weave", {}),
            ("frame", {"inner": "GL24h 140x60", "border": "GL24h 200x100"}),
            ("splice-members", {"which": "role", "role": "lath", "joint": "scarf"}),
        ),
    ),
    "panels": GuideEntry(
        "Joints are taken off; what is not flat is told and shown.",
        (("dome", {}), ("pattern", {"bays_across": 12, "bays_along": 4}), ("panels", {})),
    ),
    "panel-edges": GuideEntry(
        "Holes keep 1.2 times their diameter from edges and 2.2 times from each other; panels "
        "without room stay as they are and are told.",
        (
            ("dome", {"span": 6, "rise": 1.6}),
            ("pattern", {"pattern": "quads", "bays_across": 5, "bays_along": 5}),
            ("panels", {"thickness": 4, "material": "aluminium", "tolerance": 60}),
            ("panel-edges", {"radius": 140, "holes": "sides", "hole": 40, "rim": 80}),
        ),
    ),
    "solids": GuideEntry(
        "Pieces that do not touch are solids of their own; a void within one stays with it.",
        (
            ("box", {"along_x": 3, "along_y": 3, "height": 2}),
            ("repeat", {"copies": 3, "dx": 4}),
            ("solids", {}),
        ),
    ),
    "waffle": GuideEntry(
        "Slots are as wide as plates and clearance ask, half the common length deep; each crossing is proved.",
        (
            ("ball", {"radius": 2, "solid": "body"}),
            ("waffle", {"number_first": 7, "number_second": 7}),
        ),
    ),
    "spine-ribs": GuideEntry(
        "Square to the curve's true tangent; others run straight, or bent along its offsets.",
        (
            ("box", {"along_x": 10, "along_y": 4, "height": 2}),
            ("draw", {"curves": [["spline", [[-4.5, -1], [-1, 1], [4.5, 0]]]]}),
            ("spine-ribs", {"number_first": 9, "run": "following", "thick_second": 9}),
        ),
    ),
    "round-ribs": GuideEntry(
        "Ribs stand about a core; rings lie level and are slotted into them.",
        (("ball", {"radius": 2, "solid": "body"}), ("round-ribs", {"number_second": 4})),
    ),
    "slices": GuideEntry(
        "Stacked they fill the body; apart they stand on rods.",
        (("ball", {"radius": 1, "solid": "body"}), ("slices", {"way": "spaced", "spacing": 0.12})),
    ),
    "rib-slots": GuideEntry(
        "Ribs are slotted anew, and proved anew; without it plates have 0.2 mm to spare, half and half.",
        (
            ("ball", {"radius": 2, "solid": "body"}),
            ("waffle", {"number_first": 5, "number_second": 5}),
            ("rib-slots", {"clearance": 0.5, "share": 60}),
        ),
    ),
    "rib-feet": GuideEntry(
        "Feet stand under both ends; what is moved by intent is no edge off the body.",
        (
            ("ball", {"radius": 2, "solid": "body"}),
            ("waffle", {"number_first": 5, "number_second": 5}),
            ("rib-feet", {"ground": 0.6, "foot": 200}),
        ),
    ),
    "rib-openings": GuideEntry(
        "What would be smaller than a round of its radius stays solid.",
        (
            ("ball", {"radius": 2, "solid": "body"}),
            ("waffle", {"number_first": 5, "number_second": 5}),
            ("rib-openings", {"border": 150, "radius": 60}),
        ),
    ),
    "rib-rods": GuideEntry(
        "Holes are longer the more a cable slants; one too near an edge is left out and told.",
        (
            ("ball", {"radius": 2, "solid": "body"}),
            ("waffle", {"number_first": 5, "number_second": 5}),
            ("rib-rods", {"rod": 40, "holes": [[0.4, 0, 3.6], [-0.4, 0, 3.6]]}),
        ),
    ),
    "splice-ribs": GuideEntry(
        "Joints keep clear of slots and are staggered; lengths are joined before their rib goes in.",
        (
            ("box", {"along_x": 4, "along_y": 1, "height": 0.4}),
            ("waffle", {"number_first": 2, "number_second": 5}),
            ("splice-ribs", {"longest": 1600}),
        ),
    ),
    "name": GuideEntry(
        "Neighbours get neighbouring labels, on the part, in the schedule and in the model."
    ),
    "sheet-stock": GuideEntry(
        "Several of them stand one below another; the set-out clause takes from all above it."
    ),
    "set-out": GuideEntry(
        "Takes all panels, ribs and templates above that are on no sheets yet. Small parts go into openings of large ones; "
        "parts are moved and pinned on the Sheets screen."
    ),
    "bars": GuideEntry("Filled so that the least is left over; too long members are named."),
}
