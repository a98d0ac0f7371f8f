"""SVG of sheets: the same outlines and layers as their DXF, in millimetres."""

from __future__ import annotations

from xml.etree import ElementTree as Xml

import numpy as np
from numpy.typing import NDArray

from ..core.flat.sheets import Layout, placed

__all__ = ["sheet_svg"]

LINES = {
    "SHEET": "#8a8778",
    "MARK": "#7a2e62",
    "SCORE": "#4a7a5a",
    "CUT_INNER": "#2e3a6e",
    "CUT_OUTER": "#2e3a6e",
    "TAB": "#b07818",
}


def _path(points: NDArray[np.float64], height: float, close: bool) -> str:
    text = " ".join(f"{x:.3f},{height - y:.3f}" for x, y in points)
    return f"M{text}" + ("Z" if close else "")


def sheet_svg(layout: Layout, sheet: int) -> str:
    """One sheet as SVG text; every part is a group with its label as ``id``."""
    w, h = layout.stock(sheet).width, layout.stock(sheet).height
    root = Xml.Element(
        "svg",
        xmlns="http://www.w3.org/2000/svg",
        width=f"{w:g}mm",
        height=f"{h:g}mm",
        viewBox=f"0 0 {w:g} {h:g}",
    )
    style = {"fill": "none", "stroke-width": "1", "vector-effect": "non-scaling-stroke"}
    Xml.SubElement(
        root,
        "rect",
        {
            "class": "SHEET",
            "width": f"{w:g}",
            "height": f"{h:g}",
            "stroke": LINES["SHEET"],
            **style,
        },
    )
    for i in layout.in_order(sheet):
        part, angle, shift = layout.parts[i], layout.angle[i], layout.shift[i]
        group = Xml.SubElement(root, "g", {"id": part.label, "class": "PART"})
        outer, inner, tabs = layout.ways(i)
        drawn = {
            "MARK": " ".join(_path(placed(m, angle, shift), h, False) for m in part.marks),
            "SCORE": " ".join(_path(placed(s, angle, shift), h, False) for s in part.scores),
            "CUT_INNER": " ".join(_path(ring, h, True) for ring in inner),
            "CUT_OUTER": " ".join(_path(ring, h, True) for ring in outer),
            "TAB": " ".join(_path(line, h, False) for line in tabs),
        }
        for layer, path in drawn.items():
            if path:
                Xml.SubElement(
                    group, "path", {"class": layer, "d": path, "stroke": LINES[layer], **style}
                )
    return Xml.tostring(root, encoding="unicode") + "\n"
