"""Groups of files of a pack: what they are called, and of what results they are."""

from __future__ import annotations

from dataclasses import dataclass

from .kinds import types_with

__all__ = ["GROUPS", "Group"]


@dataclass(frozen=True)
class Group:
    """A group of files: its ``title``, what it is ``about``, and the types of results it ``needs``
    one of, or only such as clauses of the kinds ``made_by`` give; one ``on_request`` is only
    written when it is named."""

    title: str
    about: str
    needs: tuple[str, ...]
    on_request: bool = False
    made_by: tuple[str, ...] = ()


SOLID = types_with("solids")
GROUPS: dict[str, Group] = {
    "schedules": Group(
        "Schedules",
        "nodes, members, types, angles, panels, ribs, strips, node and end plates, hubs, folds, "
        "parts, sheets, places, bars, solids as CSV",
        (
            "Structure",
            "Panels",
            "Ribs",
            "Strips",
            "Unrolled",
            "NodePlates",
            "EndPlates",
            "Hubs",
            "TubeTemplates",
            "Solids",
        ),
    ),
    "forces": Group(
        "Forces of settled nets",
        "places, loads, reactions and edge forces in kN as CSV",
        ("Net",),
        made_by=("settle",),
    ),
    "sheets": Group("Sheets", "flat parts to cut, DXF and SVG in millimetres", ("Sheets",)),
    "parts": Group("Single parts", "every flat part as a DXF of its own", ("Sheets",), True),
    "drawings.pdf": Group(
        "Drawings, PDF",
        "plan, elevations, assembly plan, schedules on A3",
        ("Structure",),
    ),
    "wireframe.dxf": Group(
        "Wireframe",
        "set-out lines of members and edges of nets, DXF in metres",
        types_with("lines"),
    ),
    "model.glb": Group(
        "Model, GLB", "members, panels, ribs and bodies as solids with their labels", SOLID
    ),
    "model.obj": Group("Model, OBJ", "the same solids as named objects", SOLID),
    "model.stl": Group("Model, STL", "the same solids as one mesh", SOLID),
    "model.ifc": Group(
        "Building model, IFC 4",
        "members, plates, ribs and shapes with profiles and materials",
        types_with("building"),
    ),
    "shape.step": Group("Shape, STEP", "surfaces and bodies in their exact form", ("Shape",)),
    "bodies.step": Group(
        "Solids, STEP",
        "solids of a material bounded by plane faces, up to 40,000 of these; a minute for 10,000",
        ("Solids",),
        True,
    ),
    "hubs.step": Group(
        "Hubs, STEP",
        "the first hub of each kind in its exact form, up to 100 kinds; a minute for these",
        ("Hubs",),
        True,
    ),
    "machine": Group(
        "Machine files",
        "steel members as DSTV NC, one a piece, and timber members as BTLx, with what is worked",
        ("Structure",),
        True,
    ),
    "solids": Group(
        "Shapes", "volumes, areas and middles as CSV, and their triangles as GLB", ("Shape",)
    ),
    "nets": Group("Nets", "nodes, edges, cells and strands as CSV", ("Net",)),
    "curves": Group(
        "Curves", "lengths and areas as CSV, the curves as DXF and SVG", ("Curves", "Lines")
    ),
}
"""In the order in which they are written; each is written of what there is material for."""
