"""Models of members and panels as solids: GLB, OBJ and STL, named by label."""

from __future__ import annotations

from collections.abc import Iterable
from pathlib import Path

import numpy as np
import trimesh
from numpy.typing import NDArray

from ..core.geometry.meshes import Mesh
from .kinds.kind import Solid
from .material import Material

__all__ = ["model_names", "write_model", "write_skins", "y_up"]

COLOURS = {
    "member": [46, 58, 110, 255],
    "node": [141, 135, 104, 255],
    "panel": [168, 196, 206, 140],
    "rib": [214, 186, 140, 255],
    "shape": [206, 201, 186, 255],
}


def y_up(places: NDArray[np.float64]) -> NDArray[np.float64]:
    """Places (n, 3) as GLB wants them, with y upward."""
    return places[:, [0, 2, 1]] * [1.0, 1.0, -1.0]


def write_model(path: Path, material: Material) -> None:
    """Writes all solids as GLB, OBJ or STL, by the ending of ``path``; z is up, metres. Nothing
    where there are none.

    GLB is turned so that its y is up, as that format wants.
    """
    if material.solids:
        path.write_bytes(WRITERS[path.suffix](material.solids))


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
    for solid in solids:
        mesh = trimesh.Trimesh(y_up(solid.vertices), solid.triangles, process=False)
        mesh.visual = trimesh.visual.TextureVisuals(material=materials[solid.look])
        scene.add_geometry(mesh, node_name=solid.name, geom_name=solid.name)
    return bytes(scene.export(file_type="glb"))


def _obj(solids: list[Solid]) -> bytes:
    """One object a label; written here as the common exporter drops names of objects."""
    lines, base = ["# Lean Lattice, metres, z up"], 1
    for solid in solids:
        lines.append(f"o {solid.name}")
        lines += [f"v {x:.6f} {y:.6f} {z:.6f}" for x, y, z in solid.vertices.tolist()]
        lines += [f"f {a} {b} {c}" for a, b, c in (solid.triangles + base).tolist()]
        base += len(solid.vertices)
    return ("\n".join(lines) + "\n").encode()


def _stl(solids: list[Solid]) -> bytes:
    meshes = [trimesh.Trimesh(s.vertices, s.triangles, process=False) for s in solids]
    return bytes(trimesh.util.concatenate(meshes).export(file_type="stl"))


WRITERS = {".glb": _glb, ".obj": _obj, ".stl": _stl}


def write_skins(path: Path, skins: Iterable[tuple[str, Mesh]]) -> None:
    """Writes meshes by name, without a look, as GLB."""
    scene = trimesh.Scene()
    for name, mesh in skins:
        drawn = trimesh.Trimesh(y_up(mesh.vertices), mesh.triangles, process=False)
        scene.add_geometry(drawn, node_name=name, geom_name=name)
    path.write_bytes(bytes(scene.export(file_type="glb")))


def model_names(path: Path) -> set[str]:
    """Labels of the solids in a GLB."""
    scene = trimesh.load_scene(path)
    return {str(name) for name in scene.graph.nodes_geometry}
