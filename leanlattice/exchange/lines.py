"""Lines in space as DXF: straight pieces and true arcs, on their layers, in metres."""

from __future__ import annotations

import io
import re
from typing import Any

import numpy as np
from ezdxf.enums import InsertUnits
from ezdxf.math import OCS, Vec3
from numpy.typing import NDArray

from ..core.geometry.line_sets import Lines
from .dxf import new_drawing

__all__ = ["layer_name", "lines_dxf"]

Array = NDArray[np.float64]
NO_LAYER = "LINES"
NOT_IN_NAMES = re.compile(r'[<>/\\":;?*|=`,]')


def layer_name(layer: str) -> str:
    """The name of a layer as a drawing may have it."""
    return NOT_IN_NAMES.sub("-", layer)[:200].strip() or NO_LAYER


def lines_dxf(lines: Lines) -> str:
    """A drawing of lines: each piece a line or an arc on its line's layer."""
    document = new_drawing(InsertUnits.Meters)
    space = document.modelspace()
    layers = lines.layers or ("",) * len(lines.lines)
    for name in dict.fromkeys(layer_name(layer) for layer in layers):
        if name not in document.layers:
            document.layers.add(name)
    for line, layer in zip(lines.lines, layers, strict=True):
        attributes = {"layer": layer_name(layer)}
        for start, chord, bulge in zip(line.places[:-1], line.chords, line.bulge, strict=True):
            if np.abs(bulge).any():
                _add_arc(space, start, chord, bulge, attributes)
            else:
                space.add_line(start.tolist(), (start + chord).tolist(), dxfattribs=attributes)
    out = io.StringIO()
    document.write(out)
    return out.getvalue()


def _add_arc(
    space: Any, start: Array, chord: Array, bulge: Array, attributes: dict[str, str]
) -> None:
    """An arc over a ``chord`` from its ``start``, in the plane of the chord and the ``bulge``."""
    length, rise = float(np.linalg.norm(chord)), float(np.linalg.norm(bulge))
    radius = (length**2 / 4 + rise**2) / (2 * rise)
    centre = start + chord / 2 + bulge * (1 - radius / rise)
    # Seen against this direction the arc runs counter-clockwise.
    normal = np.cross(bulge, chord)
    ocs = OCS(Vec3(normal / np.linalg.norm(normal)))
    middle, first, last = (Vec3(ocs.from_wcs(Vec3(p))) for p in (centre, start, start + chord))
    space.add_arc(
        middle,
        radius,
        (first - middle).angle_deg,
        (last - middle).angle_deg,
        dxfattribs=attributes | {"extrusion": tuple(ocs.uz)},
    )
