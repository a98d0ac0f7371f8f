"""Models of members and panels as solids: GLB, OBJ and STL, named by label."""

from __future__ import annotations

from collections.abc import Iterator
from pathlib import Path

import numpy as np
import trimesh
from numpy.typing import NDArray

from ..core.framing.solids import member_solids, prism
from ..core.geometry.triangulation import polygon_triangles
from ..core.ribs.meshed import rib_solid
from ..core.ribs.parts import Ribs
from .ends import y_up
from .material import Material
from .schedules import Named

__all__ = ["model_names", "write_models"]

COLOURS = {
    "member": [46, 58, 110, 255],
    "panel": [168, 196, 206, 140],
    "rib": [214, 186, 140, 255],
    "shape": [206, 201, 186, 255],
}


SEGMENTS = 24
"""Sides of a round section; their corners lie outside of it, so that the solid has its volume."""
Solid = tuple[str, str, NDArray[np.float64], NDArray[np.int32]]
"""Label, kind, vertices (n, 3) and triangles (m, 3)."""


def _rib_solids(ribs: Ribs) -> Iterator[Solid]:
    for rib in ribs.ribs:
        vertices, triangles = rib_solid(rib)
        yield rib.label, "rib", vertices, triangles.astype(np.int32)


def _solids(named: Named) -> Iterator[Solid]:
    labelled = named.labelled
    for m, vertices, faces in member_solids(labelled.frame, SEGMENTS, same_area=True):
        yield labelled.member_labels[m], "member", vertices, faces
    for part in named.panel_parts.values():
        flat = np.column_stack([part.outer, np.zeros(len(part.outer)), np.ones(len(part.outer))])
        polygon = flat @ part.pose[:3].T
        yield part.label, "panel", *prism(polygon, part.pose[:3, 2] * 1000, part.thickness / 1000)


def _end_solids(material: Material) -> Iterator[Solid]:
    """Shapes and cells of nets that a statement ends in."""
    for shape in material.shapes:
        if shape.ends:
            yield shape.clause, "shape", shape.mesh.vertices, shape.mesh.triangles
    for clause, net in material.nets:
        triangles, _ = polygon_triangles(net.vertices, net.corners, net.offsets)
        yield clause, "shape", net.vertices, triangles


def write_models(folder: Path, material: Material, formats: set[str]) -> None:
    """Writes ``model.glb``, ``model.obj`` and ``model.stl`` as far as asked for; z is up, metres.

    GLB is turned so that its y is up, as that format wants.
    """
    solids: list[Solid] = []
    for n in material.named:
        solids += _rib_solids(n.source) if isinstance(n.source, Ribs) else _solids(n)
    solids += _end_solids(material)
    if "model.obj" in formats:
        (folder / "model.obj").write_text(_obj(solids), encoding="utf-8")
    if "model.stl" in formats:
        meshes = [
            trimesh.Trimesh(vertices, faces, process=False) for _, _, vertices, faces in solids
        ]
        (folder / "model.stl").write_bytes(trimesh.util.concatenate(meshes).export(file_type="stl"))
    if "model.glb" in formats:
        (folder / "model.glb").write_bytes(_glb(solids))


def _glb(solids: list[Solid]) -> bytes:
    materials = {
        kind: trimesh.visual.material.PBRMaterial(
            name=kind,
            baseColorFactor=colour,
            metallicFactor=0.1,
            roughnessFactor=0.7,
            alphaMode="BLEND" if colour[3] < 255 else None,
        )
        for kind, colour in COLOURS.items()
    }
    scene = trimesh.Scene()
    for name, kind, vertices, faces in solids:
        mesh = trimesh.Trimesh(y_up(vertices), faces, process=False)
        mesh.visual = trimesh.visual.TextureVisuals(material=materials[kind])
        scene.add_geometry(mesh, node_name=name, geom_name=name)
    return bytes(scene.export(file_type="glb"))


def _obj(solids: list[Solid]) -> str:
    """One object a label; written here as the common exporter drops names of objects."""
    lines, base = ["# Lean Lattice, metres, z up"], 1
    for name, _, vertices, faces in solids:
        lines.append(f"o {name}")
        lines += [f"v {x:.6f} {y:.6f} {z:.6f}" for x, y, z in vertices.tolist()]
        lines += [f"f {a} {b} {c}" for a, b, c in (faces + base).tolist()]
        base += len(vertices)
    return "\n".join(lines) + "\n"


def model_names(path: Path) -> set[str]:
    """Labels of the solids in a GLB."""
    scene = trimesh.load_scene(path)
    return {str(name) for name in scene.graph.nodes_geometry}
