"""Where the methods of clauses come from: what an engineer can look up, by the kind of clause.

Each line says what is done, by whom and when; the code that does it tells the same in its
docstring, where the equation or clause is named.
"""

from __future__ import annotations

__all__ = ["SOURCES"]

_BOLTS = "Distances of bolts and holes: EN 1993-1-8, table 3.3"
_HOLES = "Diameters of holes: EN 1090-2, table 11"
_CELLS = "Cells about points: Voronoi, 1908; evened out: Lloyd, 1982"
_POWER = "Power cells: Aurenhammer, 1987"
_RIGID = "Parts laid over each other by least squares: Kabsch, 1976"

SOURCES: dict[str, tuple[str, ...]] = {
    "loft": (
        "Curves through points by chord length: Ahlberg, Nilson and Walsh, 1967",
        "Rational surfaces: Piegl and Tiller, 1997",
    ),
    "sweep": ("Frames that do not twist: Wang, Jüttler, Zheng and Liu, 2008",),
    "cage": (
        "Smooth surface of a cage: Catmull and Clark, 1978",
        "Creases and corners: Hoppe et al., 1994; DeRose, Kass and Truong, 1998",
    ),
    "span": ("Thin-plate spline through heights: Duchon, 1977",),
    "canopy": ("Columns kept apart: Lloyd, 1982",),
    "ground": ("Triangles through scattered heights: Delaunay, 1934",),
    "underlay": (
        "Pictures squared up: Hartley and Zisserman, 2004, 4.1",
        "Ratio of a rectangle's sides in a picture: Zhang and He, 2007",
    ),
    "smooth": ("Smoothed without shrinking: Taubin, 1995",),
    "bend": ("Free-form deformation: Sederberg and Parry, 1986",),
    "turn": ("Turns about an axis: Rodrigues, 1840",),
    "mirror": ("Reflection in a plane: Householder, 1958",),
    "pattern": (_CELLS,),
    "foam": (_POWER, "Cells of two kinds: Weaire and Phelan, 1994", "Evened out: Lloyd, 1982"),
    "reciprocal": ("Bars that bear each other in rings: Baverel, 2000",),
    "settle": (
        "Force densities: Schek, 1974",
        "Relaxation with kinetic damping: Barnes, 1999",
        "Steps that lessen the forces: Nocedal and Wright, 2006, 11.2",
        "Mechanisms of what does not balance: Pellegrino and Calladine, 1986",
    ),
    "push": ("Pressure and own weight on the form as it moves: Barnes, 1999",),
    "frame-curves": ("Curves as pairs of arcs: Bolton, 1975",),
    "project-curves": ("Where lines meet triangles: Möller and Trumbore, 1997",),
    "columns": ("Where columns meet the ground: Möller and Trumbore, 1997",),
    "cushions": ("Membranes under pressure: Prandtl, 1903", "In triangles: Courant, 1943"),
    "panels": (
        "Twist of bent sheets: Timoshenko and Woinowsky-Krieger, 1959, article 21",
        "Panels alike: Kabsch, 1976",
    ),
    "panel-edges": (_BOLTS,),
    "node-plates": (_BOLTS, _HOLES, _RIGID),
    "end-plates": (_BOLTS, _HOLES),
    "hubs": (_RIGID,),
    "strips": ("Seams by their lengths: Kruskal, 1956", _BOLTS),
    "face-templates": ("Laid flat with least stretch: Zhang, Xu, Gotsman and Gortler, 2008",),
    "unroll": ("Laid flat with least stretch: Zhang, Xu, Gotsman and Gortler, 2008",),
    "waffle": ("Order of assembly by free ways: Wilson and Latombe, 1994",),
    "spine-ribs": ("Frames that do not twist: Wang, Jüttler, Zheng and Liu, 2008",),
    "slices": ("Outlines thinned: Douglas and Peucker, 1973",),
    "bars": (
        "Patterns of bars: Gilmore and Gomory, 1961; bound: Farley, 1990",
        "First plan by least slack: Gupta and Ho, 1999",
    ),
    "set-out": (
        "Search on the order of placement: Gomes and Oliveira, 2002",
        "Least rectangle about a part: Freeman and Shapira, 1975",
    ),
}
"""By the kind of clause; those that only do plain geometry have none."""
