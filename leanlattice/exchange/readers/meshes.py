"""Meshes from OBJ, STL, PLY, GLB and DXF."""

from __future__ import annotations

import io
import re
import struct

import ezdxf
import ezdxf.recover
import numpy as np
import trimesh
from ezdxf.render import MeshBuilder
from numpy.typing import NDArray

from ...core.shaping.brought import Loose, ReadProblem

__all__ = ["read_mesh"]

MOST_FACES = 2_000_000
DXF_UNITS = {1: 0.0254, 2: 0.3048, 4: 1e-3, 5: 1e-2, 6: 1.0, 7: 1e3, 14: 0.1}
"""Metres in the units a DXF header can name (ezdxf.units)."""


def _checked(
    vertices: NDArray[np.float64], triangles: NDArray[np.integer], unit: float = 0.0, up: str = ""
) -> Loose:
    if not len(triangles):
        raise ReadProblem("it holds no faces.")
    if len(triangles) > MOST_FACES:
        raise ReadProblem(f"it holds {len(triangles):,} faces; at most {MOST_FACES:,} are read.")
    if triangles.min() < 0 or triangles.max() >= len(vertices):
        raise ReadProblem(
            f"a face speaks of point {triangles.max() + 1:,}, but there are {len(vertices):,}."
        )
    wrong = np.flatnonzero(~np.isfinite(vertices[triangles]).all(axis=(1, 2)))
    if len(wrong):
        raise ReadProblem(f"face {wrong[0] + 1:,} has a corner that is not a number.")
    if np.abs(vertices[triangles]).max() > 1e9:
        raise ReadProblem(
            "it holds coordinates beyond 1,000,000,000; in whatever unit, that is no building."
        )
    return Loose(np.asarray(vertices, float), triangles.astype(np.int32), unit, up=up)


def _check_stl(content: bytes) -> None:
    """A binary STL says how many faces it holds; a hostile or cut-off one says more than there
    are."""
    if content[:5].lower() == b"solid" and b"facet" in content[:2000].lower():
        return
    if len(content) < 84:
        raise ReadProblem("it ends before its first face.")
    count = struct.unpack_from("<I", content, 80)[0]
    if 84 + 50 * count > len(content):
        there = (len(content) - 84) // 50
        raise ReadProblem(
            f"it says it holds {count:,} faces but ends after {there:,}; it was cut off on its way."
        )


def _check_ply(content: bytes) -> None:
    head = content[:4000].partition(b"end_header")[0].decode("latin-1")
    for kind, count in re.findall(r"element (\w+) (\d+)", head):
        if int(count) > 3 * MOST_FACES:
            raise ReadProblem(
                f"it says it holds {int(count):,} of “{kind}”; at most {MOST_FACES:,} faces are read."
            )


def read_mesh(content: bytes, ending: str) -> Loose:
    """Loose triangles of a file; all its objects together."""
    if ending == "dxf":
        return _read_dxf(content)
    if ending == "stl":
        _check_stl(content)
    if ending == "ply":
        _check_ply(content)
    if ending == "glb" and (len(content) < 12 or content[:4] != b"glTF"):
        raise ReadProblem("it does not begin as a GLB does.")
    if ending == "glb" and struct.unpack_from("<I", content, 8)[0] > len(content):
        raise ReadProblem("it ends before its end; it was cut off on its way.")
    loaded = trimesh.load_scene(
        io.BytesIO(content), file_type=ending, process=False, skip_materials=True
    )
    parts = [g for g in loaded.dump() if isinstance(g, trimesh.Trimesh)]
    if not parts:
        raise ReadProblem("it holds no faces.")
    counts = np.cumsum([0] + [len(p.vertices) for p in parts])
    vertices = np.vstack([p.vertices for p in parts])
    triangles = np.vstack([p.faces + n for p, n in zip(parts, counts[:-1], strict=True)])
    if ending == "glb":
        return _checked(vertices, triangles, 1.0, "y")
    return _checked(vertices, triangles)


def open_dxf(content: bytes) -> ezdxf.document.Drawing:
    """The drawing in a DXF, mended where it is damaged."""
    try:
        document, _ = ezdxf.recover.read(io.BytesIO(content))
    except (ezdxf.DXFError, OSError) as error:
        raise ReadProblem(f"it cannot be read as a drawing ({str(error)[:120]}).") from None
    return document


def _read_dxf(content: bytes) -> Loose:
    """3D faces, meshes and polyface meshes of a drawing; closed outlines of lines are not faces."""
    document = open_dxf(content)
    space = document.modelspace()
    vertices: list[tuple[float, float, float]] = []
    triangles: list[tuple[int, int, int]] = []

    def add(points: list[tuple[float, float, float]]) -> None:
        base = len(vertices)
        vertices.extend(points)
        triangles.extend((base, base + k, base + k + 1) for k in range(1, len(points) - 1))

    for face in space.query("3DFACE"):
        corners = [tuple(v) for v in face.wcs_vertices()]
        add(corners)
    for mesh in [
        *space.query("MESH"),
        *(p for p in space.query("POLYLINE") if p.is_poly_face_mesh or p.is_polygon_mesh),
    ]:
        builder = (
            MeshBuilder.from_mesh(mesh)
            if mesh.dxftype() == "MESH"
            else MeshBuilder.from_polyface(mesh)
        )
        for polygon in builder.faces_as_vertices():
            add([tuple(v) for v in polygon])
    if not triangles:
        raise ReadProblem(
            "it holds no faces or meshes; to bring in its lines, use a clause for curves."
        )
    unit = DXF_UNITS.get(int(document.header.get("$INSUNITS", 0)), 0.0)
    return _checked(np.array(vertices, float), np.array(triangles, np.int64), unit)
