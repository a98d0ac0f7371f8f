"""All clause types by kind. A new one is entered here."""

from __future__ import annotations

from collections.abc import Iterable

from ..core.results import RESULT_TYPES
from .base import Clause
from .end_plates import MakeEndPlates
from .frame.between import Link, Struts
from .frame.blocks import LayBlocks
from .frame.bracing import BraceBays
from .frame.chosen import GiveSection, GradeSections, LeaveOutMembers, MeetOtherwise, TurnMembers
from .frame.columns import StandOnColumns
from .frame.cushions import BlowCushions
from .frame.deepened import DeepenCells
from .frame.double import DoubleLayer
from .frame.given_sheets import GiveSheet
from .frame.join import JoinNodes
from .frame.lines import FrameCurves
from .frame.lines_of import BringLines, LinesOf, ProjectCurves
from .frame.net import FrameNet
from .frame.parting import PartByCells
from .frame.plated import StandOnPlates
from .frame.repeat import RepeatBay
from .frame.splices import SpliceMembers
from .frame.swelling import SwellMembers
from .frame.trusses import Trusses
from .hubs import MakeHubs
from .lattice import changes as nets
from .lattice import foam, lay, marks, swung, weaving, wires, zones
from .make import CutBars, Name
from .node_plates import MakeNodePlates
from .panel_edges import WorkPanelEdges
from .panels import PanelCells
from .prove.limits import CheckMembers
from .prove.solids import CheckSolids
from .ribs.amended import RibFeet, RibOpenings, RibRods, RibSlots
from .ribs.kinds import RoundRibs, SpineRibs, Waffle
from .ribs.slices import Slices
from .ribs.splices import SpliceRibs
from .settle import aims, holds, pushes, settle, shapes
from .shape import (
    bases,
    changes,
    curvework,
    cut_lines,
    drawn,
    files,
    forms,
    lofts,
    meshed,
    placed,
    solids,
    swept,
)
from .sheets import SetOut, SheetStock
from .solids import MakeSolids
from .strips import CutStrips
from .templates import DrawTemplates
from .tube_ends import DrawTubeEnds
from .unroll import Unroll

__all__ = ["CLAUSE_TYPES", "group_of"]

CURVES: tuple[type[Clause], ...] = (
    drawn.DrawCurves, drawn.BringCurves, files.UnderlayClause, curvework.RoundCorners, curvework.OffsetCurves,
    curvework.TrimCurves, curvework.ExtendCurves, curvework.JoinCurves, curvework.SplitCurves, curvework.MirrorCurves,
    curvework.CopyCurves, curvework.UniteOutlines, curvework.SmoothCurves, placed.CirclesAt, placed.RegionsBetween,
    cut_lines.CutLines,
    placed.BandAbout,
)  # fmt: skip
SHAPES: tuple[type[Clause], ...] = (
    lofts.LoftShape, lofts.DomeShape, swept.Extrude, swept.Revolve, swept.Sweep, swept.Translate, meshed.Span,
    meshed.CageShape, meshed.Canopy, meshed.FunnelSlab, forms.Ball, forms.Ellipsoid, forms.Torus, forms.Cylinder,
    forms.Barrel, forms.Cone, forms.Conoid, forms.HyperbolicParaboloid, forms.Box, files.GroundShape, files.ImportShape,
)  # fmt: skip
OPERATIONS: tuple[type[Clause], ...] = (
    solids.CombineBodies, solids.Thicken, bases.OnBase, bases.BetweenSurfaces,
    solids.HollowBody, solids.CutByPlane, solids.CutInPlan, solids.CutOpenings,
    changes.MirrorShape, changes.RepeatShape, changes.MoveShape, changes.TurnShape, changes.ScaleShape,
    changes.SmoothShape, changes.SwapSides, changes.BendShape, changes.TakeSide,
)  # fmt: skip
PATTERNS: tuple[type[Clause], ...] = (
    lay.LayPattern, lay.LayModule, swung.LayGeodesic, swung.SwingMesh, foam.CutFoam, lay.TakeFaces, wires.BringWires,
    lay.PullTo, lay.PullAlong,
)  # fmt: skip
NETS: tuple[type[Clause], ...] = (
    zones.RefineCells, zones.LeaveOut, nets.TruncateNet, nets.DualNet, nets.InsetCells, nets.RaiseCells, nets.ThinOut,
    nets.DivideEdges, nets.MergeNear, nets.EaseNet, weaving.WeaveStrands, weaving.TurnEdges,
    marks.MarkEdges, marks.MarkCells,
)  # fmt: skip
SETTLE: tuple[type[Clause], ...] = (
    holds.HoldVertices,
    pushes.PushNet,
    aims.AimFor,
    settle.SettleNet,
    shapes.ShapeOfNet,
)
RIBS: tuple[type[Clause], ...] = (
    Waffle,
    SpineRibs,
    RoundRibs,
    Slices,
    RibSlots,
    RibFeet,
    RibOpenings,
    RibRods,
    SpliceRibs,
)
LATER: tuple[type[Clause], ...] = (
    *PATTERNS,
    *NETS,
    *SETTLE,
    BringLines,
    LinesOf,
    ProjectCurves,
    FrameNet,
    DoubleLayer,
    FrameCurves,
    Trusses,
    Struts,
    Link,
    BraceBays,
    StandOnColumns,
    RepeatBay,
    JoinNodes,
    GiveSection,
    GradeSections,
    TurnMembers,
    MeetOtherwise,
    StandOnPlates,
    SwellMembers,
    LeaveOutMembers,
    SpliceMembers,
    PartByCells,
    LayBlocks,
    BlowCushions,
    DeepenCells,
    CheckMembers,
    CheckSolids,
    PanelCells,
    GiveSheet,
    *RIBS,
    Name,
    WorkPanelEdges,
    MakeNodePlates,
    MakeEndPlates,
    MakeHubs,
    DrawTubeEnds,
    DrawTemplates,
    CutStrips,
    Unroll,
    SheetStock,
    SetOut,
    CutBars,
    MakeSolids,
)

CLAUSE_TYPES: dict[str, type[Clause]] = {c.kind: c for c in (*SHAPES, *CURVES, *OPERATIONS, *LATER)}


def checked(types: Iterable[type[Clause]]) -> None:
    """Raises ``TypeError`` where a clause takes or gives results of a type that is not declared."""
    for kind in types:
        for name in (kind.gives, *(name for take in kind.takes for name in take.types)):
            if name not in RESULT_TYPES:
                raise TypeError(f"“{kind.kind}” takes or gives “{name}”, which is declared nowhere")


checked(CLAUSE_TYPES.values())


def group_of(kind: type[Clause]) -> str:
    """Where a clause type stands in the guide."""
    for title, group in (
        ("Curves", CURVES),
        ("Shapes", SHAPES),
        ("Changes of shapes", OPERATIONS),
        ("Changes of nets", NETS),
        ("Ribs", RIBS),
    ):
        if kind in group:
            return title
    return kind.chapter
