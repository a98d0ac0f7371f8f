"""Whole jobs, from first input to last file, with an early value changed at the end.

Some are walked in the interface by ``ui/test_jobs.py``, and all of them by ``make jobs``; the
others are done without it in ``cases/test_jobs.py``.
"""

from __future__ import annotations

from dataclasses import dataclass

from leanlattice.statement.document import ClauseEntry, Statement

from .conftest import DEMO, demo

DEMOS = {statement.name: statement for statement in (demo(p.stem) for p in DEMO.glob("*.json"))}


def clause(ident, kind, **given):
    return {"id": ident, "kind": kind, "values": given}


SIDE = [[0, 0, 0], [0.3, 0, 0.02], [0.5, 0, 0], [0.55, 0, 0.2], [0.52, 0, 0.4], [0.3, 0, 0.4],
        [0.15, 0, 0.5], [0.1, 0, 0.85], [0, 0, 0.85], [-0.05, 0, 0.4]]  # fmt: skip


def side(y, deeper=0.0, taller=0.0):
    """A side view of a seat at y, drawn out forward and upward."""
    return [[x * (1 + deeper), y, z * (1 + taller)] for x, _, z in SIDE]


@dataclass(frozen=True)
class Job:
    """Clauses, or a project of the demo; an early number, of a clause or else a dimension, and what
    it becomes; a figure that it changes, and tables with what each has to have in them; a group of
    files that is asked for, by its title, and a pattern of files that are written then."""

    name: str
    clauses: list
    early: tuple
    figure: str
    tables: tuple
    asked: str = ""
    written: str = ""

    def statement(self) -> Statement:
        if not self.clauses:
            return DEMOS[self.name]
        return Statement(name=self.name, clauses=[ClauseEntry(**c) for c in self.clauses])


JOBS = {
    "coffered ceiling": Job(
        "Sail Loft",
        [
            clause("outline", "draw", level=3.2, curves=[
                ["polygon", [[0, 0], [7.3, 0.4], [8.6, 4.1], [5.0, 6.2], [0.6, 5.3]]]]),
            clause("ceiling", "span", heights=[], edge="level"),
            clause("coffers", "pattern", pattern="equilateral", density="exact", module=0.9, sliver=8),
            clause("tidy", "merge", distance=0.3),
            clause("apex", "raise", depth=0.1, side="outside"),
            clause("battens", "frame", inner="CHS 21.3 × 2.6", border="CHS 26.9 × 2.6",
                   set_out="bottom", gap=4),
            clause("faces", "panels", material="plywood", thickness=9, joint=40),
            clause("names", "name"),
            clause("boards", "set-out", width=2500, height=1250, price=48),
        ],
        ("coffers", "module", "0.9", "1.2"), "panels", ("panels", "parts", "members"),
    ),
    "ringed dome": Job(
        "Tern Dome", [], ("hill", "stiffness", "35", "45"), "mass", ("bodies", "templates", "parts")
    ),
    "pierced facade": Job(
        "Net Loft", [], ("screen", "height", "6.4", "5.6"), "mass", ("templates", "openings", "parts")
    ),
    "block dome": Job(
        "Ice House", [], ("blocks", "courses", "13", "11"), "solids", ("bodies", "templates", "parts")
    ),
    "coffers": Job(
        "Drying Loft", [], ("coffers", "depth", "0.38", "0.3"), "cut_length", ("panels", "parts")
    ),
    "roof to building model": Job(
        "Market Roof",
        [
            clause("roof", "loft", profiles=[
                [[0, 0, 4], [5, 0, 6], [10, 0, 4.5]], [[0, 7, 4.4], [5, 7, 6.6], [10, 7, 4.2]],
                [[0, 14, 3.8], [5, 14, 5.6], [10, 14, 4.6]]]),
            clause("net", "pattern", pattern="alternating", bays_across=7, bays_along=9),
            clause("beams", "frame", inner="RHS 120 × 60 × 5", border="RHS 140 × 80 × 6",
                   set_out="top"),
            clause("panes", "panels", thickness=14, joint=18),
            clause("some", "give-sheet", share=30, material="aluminium", thickness=4),
            clause("more", "give-sheet", share=20, material="polycarbonate", thickness=10, seed=2),
            clause("edges", "panel-edges", radius=40, holes="sides", hole=14, rim=45, spacing=700),
            clause("names", "name"),
        ],
        ("net", "bays_across", "7", "8"), "panels", ("members", "panels"),
    ),
    "waffle of a blob": Job(
        "Mooring Float",
        [
            clause("one", "ball", radius=0.7, centre=[0, 0, 0.6], solid="body"),
            clause("two", "ball", radius=0.5, centre=[0.8, 0.2, 0.5], solid="body"),
            clause("three", "ball", radius=0.45, centre=[-0.5, 0.6, 0.5], solid="body"),
            clause("blob", "combine"),
            clause("floor", "cut-plane", through=[0, 0, 0.1]),
            clause("ribs", "waffle", number_first=9, number_second=7, thick_first=5.8, thick_second=5.8),
            clause("boards", "set-out", width=3050, height=1525, turns="free"),
        ],
        ("one", "radius", "0.7", "0.8"), "rib_area", ("ribs", "assembly", "parts"),
    ),
    "dome of shrinking cells": Job(
        "Tern Globe",
        [
            clause("globe", "ball", radius=4, centre=[0, 0, 3]),
            clause("side", "pull", points=[[4, 0, 4]], strength=-45, reach=7),
            clause("net", "pattern", pattern="quads", bays_across=8, bays_along=5),
            clause("middles", "truncate", times=2),
            clause("open", "leave-out", where="height", low=-2, high=0.6),
            clause("tubes", "frame", inner="CHS 76.1 × 4", border="CHS 76.1 × 4", meeting="welded"),
            clause("swell", "swell-members", which="all", growth="pull"),
            clause("names", "name"),
            clause("bars", "bars"),
        ],
        ("globe", "radius", "4", "4.5"), "mass", ("members", "pieces", "bars"),
    ),
    "foam wall": Job("Spray Wall", [], ("wall", "height", "5.5", "4.5"), "members", ("members", "bars")),
    "woven timber roof": Job(
        "Tide Gallery", [], ("lengths", "longest_piece", "13.5", "10"), "members",
        ("members", "crossings", "bars", "machine"), "Machine files", "machine/*.btlx",
    ),
    "space truss roof": Job(
        "Fern House",
        [
            clause("roof", "loft", profiles=[
                [[-4, 0, 0.5], [0, 0, 2.5], [4, 0, 0.5]], [[-4.4, 6, 0.5], [0, 6, 3.1], [4.2, 6, 0.6]],
                [[-4, 12, 0.5], [0, 12, 2.6], [4, 12, 0.5]],
            ]),
            clause("net", "pattern", pattern="quads", bays_across=8, bays_along=10),
            clause("grid", "double-layer", depth=0.7, top="SHS 60 × 4", bottom="SHS 50 × 4",
                   web="CHS 42.4 × 4"),
            clause("larger", "grade-sections", role="chord", thin="SHS 50 × 4", thick="SHS 80 × 5",
                   steps=3, by="high"),
            clause("trees", "columns", places=[[-2, 3, 1], [2, 3, 1], [-2, 9, 1], [2, 9, 1]], level=0),
            clause("limits", "check-members"),
            clause("glass", "panels", material="glass", thickness=12, joint=14, tolerance=40),
            clause("names", "name"),
            clause("bars", "bars"),
        ],
        ("grid", "depth", "0.7", "0.9"), "mass", ("members", "panels", "bars"),
    ),
    "cushion roof": Job(
        "Seed House in cushions", [], ("cushions", "up", "16", "20"), "volume",
        ("bodies", "members", "bars"),
    ),
    "spine hall": Job(
        "Reed Tunnel",
        [
            clause("hall", "loft", profiles=[
                [[-3, 0, 0], [-2, 0, 2.4], [0, 0, 3.2], [2, 0, 2.4], [3, 0, 0]],
                [[-4, 8, 0], [-2.6, 8, 2.9], [0, 8, 3.9], [2.6, 8, 2.9], [4, 8, 0]],
                [[-2, 16, 0], [-1, 16, 2.4], [1, 16, 3.2], [3, 16, 2.4], [4, 16, 0]],
            ]),
            clause("way", "draw", curves=[["spline", [[0, 0], [0.2, 8], [1, 16]]]]),
            clause("cuts", "cut-lines", way="spine", cuts=9),
            clause("arches", "frame-curves", section="GL24h 120x240", off=15),
            clause("lengths", "splice-members", role="arch", longest_piece=6, joint="scarf", lap=900),
            clause("names", "name"),
            clause("bars", "bars"),
        ],
        ("cuts", "cuts", "9", "11"), "members", ("members", "pieces", "cuts"),
    ),
    "thinning tower": Job(
        "Watch Tower",
        [
            clause("foot", "box", along_x=4, along_y=4, height=4),
            clause("shaft", "box", along_x=3, along_y=3, height=6, centre=[0, 0, 4]),
            clause("tower", "combine"),
            clause("skin", "pattern", pattern="diagrid", density="module", module=1.5),
            clause("open", "leave-out", where="facing", facing="down"),
            clause("fine", "refine", where="height", low=0, high=4),
            clause("bars", "frame", inner="CHS 48.3 × 4", border="CHS 60.3 × 4"),
            clause("large", "give-section", which="cells", least=0.9, most=50, section="CHS 60.3 × 4"),
            clause("names", "name"),
            clause("stock", "bars"),
        ],
        ("skin", "module", "1.5", "1.2"), "members", ("members", "member_types", "bars"),
    ),
    "half-funnel vault": Job(
        "Gull Porch", [], ("porch", "sweep", "180", "160"), "area", ("members", "panels", "parts")
    ),
    "hollow-column canopy": Job(
        "Egret Canopy",
        [
            clause("plan", "draw", curves=[["loop", [
                [-9, -3], [-3, -5.2], [4, -4.6], [9, -3], [9.4, 2.6], [3, 4.8], [-4, 4.4], [-9.2, 2.4]]]]),
            clause("stages", "circles", circles=3, radius=4),
            clause("together", "unite-outlines"),
            clause("edge", "smooth-curves", points=60, rounds=3),
            clause("reeds", "canopy", columns="middles", height=0.1, share=18, around=16, along=8)
            | {"on": {"outline": ["edge"], "centres": ["stages"]}},
            clause("cells", "faces"),
            clause("feet", "hold", which="inner", how="level"),
            clause("rim", "hold", which="outer", how="curve", raised=4) | {"on": {"curves": ["edge"]}},
            clause("skin", "aim", aim="density", density=1.0, over="inner"),
            clause("even", "aim", aim="equal", over="outer", strength=90),
            clause("uplift", "push", push="plan", load=-0.05),
            clause("canopy", "settle"),
            clause("cuts", "strips", along="ends", length=3950, width=1950),
            clause("sheets", "set-out", width=4000, height=2000, margin=10, spacing=8),
        ],
        ("stages", "circles", "3", "4"), "strips", ("strips", "folds", "parts"),
    ),
    "perforated wall": Job(
        "Sluice Wall", [], ("", "open", "62", "50"), "unrolled_area", ("unrolled", "unrolled_places", "parts")
    ),
    "strutted bay": Job(
        "Landing Stage", [], ("vs", "how_many", "3", "4"), "members", ("members", "bars", "cuts")
    ),
    "roof on scattered columns": Job(
        "Heron Roost", [], ("columns", "share", "8", "10"), "members", ("members", "panels", "nodes")
    ),
    "waffle pavilion": Job(
        "Bird Hide", [], ("corners", "radius", "0.6", "0.9"), "rib_area", ("ribs", "assembly", "parts")
    ),
    "sliced seat": Job(
        "Lock Seat",
        [
            clause("skin", "loft", ends="capped", closed="closed",
                   profiles=[side(0), side(0.6, 0.1, 0.1), side(1.2)]),
            clause("size", "scale", fx=1, fy=1, fz=1),
            clause("bow", "bend", nx=2, ny=3, nz=2, moves=[
                [0, 0, 0]] * 4 + [[0.1, 0, 0], [0.1, 0, 0.05]] * 2 + [[0, 0, 0]] * 4),
            clause("slices", "slices", azimuth=90, rise=0, way="spaced", spacing=0.054, rods="at",
                   holes=[[0.2, 0.6, 0.2], [0.4, 0.6, 0.2]], rod=12, spacers="rings", ring=40),
            clause("boards", "set-out", turns="free"),
        ],
        ("size", "fx", "1", "1.2"), "rib_area", ("ribs", "parts"),
    ),
    "traced seat": Job(
        "Warden's Bench", [], ("seat", "height", "2.4", "2"), "rib_area", ("ribs", "assembly", "parts")
    ),
    "landscape model": Job(
        "Marsh Model", [], ("model", "fz", "0.03", "0.04"), "rib_area", ("ribs", "assembly", "parts")
    ),
}  # fmt: skip

# What is cut of a body, what is settled, what is asked for of a pack, what has layers, brackets and
# pieces, what begins with a picture.
WALKED = {
    "pierced facade",
    "hollow-column canopy",
    "woven timber roof",
    "space truss roof",
    "strutted bay",
    "traced seat",
}
