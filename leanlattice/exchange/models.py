"""Models of members and panels as solids: GLB, OBJ and STL, named by label."""

from __future__ import annotations

from collections.abc import Iterator
from pathlib import Path

import numpy as np
import trimesh
from numpy.typing import NDArray

from ..core.flat.sheets import Sheets
from ..core.framing.naming import Labelled
from ..core.framing.solids import member_solids, prism

__all__ = ["model_names", "write_models"]

COLOURS = {"member": [46, 58, 110, 255], "panel": [168, 196, 206, 140]}


def _solids(labelled: Labelled, sheets: Sheets | None) -> Iterator[tuple[str, str, NDArray[np.float64], NDArray[np.int32]]]:
    for m, vertices, faces in member_solids(labelled.frame):
        yield labelled.member_labels[m], "member", vertices, faces
    if sheets is None:
        return
    for part in sheets.layout.parts:
        flat = np.column_stack([part.outer, np.zeros(len(part.outer)), np.ones(len(part.outer))])
        polygon = flat @ part.pose[:3].T
        yield part.label, "panel", *prism(polygon, part.pose[:3, 2] * 1000, part.thickness / 1000)


def write_models(folder: Path, named: list[tuple[Labelled, Sheets | None]], formats: set[str]) -> None:
    """Writes ``model.glb``, ``model.obj`` and ``model.stl`` as far as asked for; z is up, metres.

    GLB is turned so that its y is up, as that format wants.
    """
    scene = trimesh.Scene()
    for labelled, sheets in named:
        for name, kind, vertices, faces in _solids(labelled, sheets):
            mesh = trimesh.Trimesh(vertices, faces, process=False)
            mesh.visual = trimesh.visual.TextureVisuals(
                material=trimesh.visual.material.PBRMaterial(
                    name=kind, baseColorFactor=COLOURS[kind], metallicFactor=0.1, roughnessFactor=0.7,
                    alphaMode="BLEND" if COLOURS[kind][3] < 255 else None,
                )
            )  # fmt: skip
            scene.add_geometry(mesh, node_name=name, geom_name=name)
    if "model.obj" in formats:
        (folder / "model.obj").write_text(_obj(scene), encoding="utf-8")
    if "model.stl" in formats:
        (folder / "model.stl").write_bytes(scene.to_mesh().export(file_type="stl"))
    if "model.glb" in formats:
        scene.apply_transform(trimesh.transformations.rotation_matrix(-np.pi / 2, [1, 0, 0]))
        (folder / "model.glb").write_bytes(scene.export(file_type="glb"))


def _obj(scene: trimesh.Scene) -> str:
    """One object a label; written here as the common exporter drops names of objects."""
    lines, base = ["# Lean Lattice, metres, z up"], 1
    for name, mesh in scene.geometry.items():
        lines.append(f"o {name}")
        lines += [f"v {x:.6f} {y:.6f} {z:.6f}" for x, y, z in mesh.vertices]
        lines += [f"f {a} {b} {c}" for a, b, c in mesh.faces + base]
        base += len(mesh.vertices)
    return "\n".join(lines) + "\n"


def model_names(path: Path) -> set[str]:
    """Labels of the solids in a GLB."""
    scene = trimesh.load_scene(path)
    return {str(name) for name in scene.graph.nodes_geometry}
