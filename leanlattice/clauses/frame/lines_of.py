"""Clauses that give lines in space: of nets, structures and shapes, projected, or of a file."""

from __future__ import annotations

from collections.abc import Callable
from typing import Any, ClassVar, Literal

import numpy as np
from numpy.typing import NDArray

from ...core.geometry.line_sets import Lines, line_through, linked_runs
from ...core.geometry.lines import Line
from ...core.geometry.meshes import Body
from ...core.geometry.nets import Net
from ...core.geometry.surfaces import Surface
from ...core.nets.runs import border_runs, line_along, runs_of_way
from ...core.ribs.outlines import upper_edges
from ...core.ribs.parts import Ribs
from ...core.shaping.brought import DrawnLines
from ...core.shaping.facets import facets, feature_edges
from ...core.shaping.projected_lines import carried_onto
from ...core.structure.builders.between import line_of_member
from ...core.structure.roles import ROLE_NAMES, ROLES
from ...core.structure.structure import Structure
from ..base import Clause, ClauseError, Made, Notice, Take, Work, choice, file, headline, number
from ..said import metres
from ..shape.common import SHAPE
from ..shape.drawn import UNITS, metres_of, opened
from .lines import lines_from

__all__ = ["BringLines", "LinesOf", "ProjectCurves"]

Array = NDArray[np.float64]
MOST_LINES = 20_000
CLOSE = 1e-6
"""Metres by which lines may be off the edges of a shape."""
SHORTEST = 1e-6
"""Metres below which a line is a point."""
SMOOTH_PLACES = 12
"""What is led through more places than this is a curve."""


class LineClause(Clause):
    """Base of clauses that give lines."""

    chapter = "Frame"
    gives = "Lines"


def made_lines(lines: Lines, warnings: list[Notice], value: str) -> Made:
    """Lines with their figures; raises ``ClauseError`` about a ``value`` where there are none, or
    too many."""
    long = [k for k, line in enumerate(lines.lines) if line.length > SHORTEST]
    if not long:
        raise ClauseError("That gives no lines; other values would give some.", value)
    if len(long) > MOST_LINES:
        raise ClauseError(
            f"There would be {len(long):,} lines; at most {MOST_LINES:,} can be worked with.", value
        )
    layers = lines.layers or ("",) * len(lines.lines)
    kept = Lines(tuple(lines.lines[k] for k in long), tuple(layers[k] for k in long))
    bent = [np.abs(line.bulge).any() for line in kept.lines]
    figures = {
        "lines": headline("Lines", len(long)),
        "length": headline("Length", sum(line.length for line in kept.lines), "m", 2),
        "bent": headline("With arcs", int(np.count_nonzero(bent))),
        "closed": headline("Closed", sum(line.closed for line in kept.lines)),
    }
    names = dict.fromkeys(layer for layer in kept.layers if layer)
    if names:
        figures["layers"] = headline("Layers", len(names))
    return Made(kept, figures, warnings)


class LinesOf(LineClause):
    kind = "lines-of"
    title = "Take lines of it"
    summary = "Edges, strands, borders of a net, axes of members, edges of a shape or ribs: lines."
    sentence = "**Take** {what}, {bend}[bend=arcs| within {off} of them], as lines."
    takes: ClassVar[tuple[Take, ...]] = (
        Take(name="net", types=("Net",), label="Net", optional=True),
        Take(name="structure", types=("Structure",), label="Structure", optional=True, asked=True),
        Take(name="shape", types=("Shape",), label="Shape", optional=True, asked=True, beside=True),
        Take(name="ribs", types=("Ribs",), label="Ribs", optional=True, asked=True, beside=True),
    )

    what: Literal["edges", "first", "second", "third", "border", "axes", "sharp", "ribs"] = choice(
        "first",
        {
            "edges": "every edge of the net",
            "first": "the net's strands one way",
            "second": "the net's strands another way",
            "third": "the net's strands a third way",
            "border": "the net's borders",
            "axes": "the axes of members",
            "sharp": "the edges of the shape",
            "ribs": "the upper edges of ribs",
        },
        "What",
    )
    bend: Literal["straight", "arcs"] = choice(
        "straight",
        {"straight": "in straight pieces as they are", "arcs": "bent to arcs"},
        "Bending",
    )
    off: float = number(10.0, "mm", 0.1, 1000.0, 1.0, "Off them", "At most")

    def make(self, work: Work) -> Made:
        name, taken = SOURCES[self.what]
        found = work.inputs.get(name)
        if found is None:
            raise ClauseError(
                f"No {name} {'are' if name == 'ribs' else 'is'} chosen to take lines of; choose "
                "some below the sentence, or take something else.",
                "what",
            )
        lines = taken(found)
        if self.bend == "arcs":
            layers = lines.layers
            lines = Lines(tuple(_bent(line, self.off / 1000) for line in lines.lines), layers)
        return made_lines(lines, [], "what")


def _edges(net: Net) -> Lines:
    return Lines(tuple(line_along(net, run) for run in net.edges.astype(np.int64)))


def _strands(way: int) -> Callable[[Net], Lines]:
    return lambda net: Lines(tuple(line_along(net, run) for run in runs_of_way(net, way)))


def _borders(net: Net) -> Lines:
    return Lines(tuple(line_along(net, run) for run in border_runs(net)))


def _axes(structure: Structure) -> Lines:
    lines = tuple(line_of_member(structure, m) for m in range(structure.count))
    return Lines(lines, tuple(ROLES[ROLE_NAMES[k]].layer for k in structure.role.tolist()))


def _sharp(shape: Surface | Body) -> Lines:
    """Borders and creases, parted where more than two of them meet."""
    drawn = facets(shape)
    mesh = drawn.mesh
    edges = feature_edges(mesh).astype(np.int64)
    if not len(edges):
        return Lines(())
    is_corner = np.bincount(edges.ravel(), minlength=len(mesh.vertices)) != 2
    # Where more than two meet each gets a place of its own.
    vertex, number = edges.ravel(), np.arange(edges.size)
    own = np.where(is_corner[vertex], len(mesh.vertices) + number, vertex)
    used, rows = np.unique(own, return_inverse=True)
    at = np.empty(len(used), np.int64)
    at[rows.ravel()] = vertex
    normals = np.zeros_like(mesh.vertices)
    np.add.at(normals, drawn.vertex, drawn.normals)
    lines = []
    for run, closed in linked_runs(rows.reshape(-1, 2), len(used)):
        nodes = at[[*run, run[0]] if closed else run]
        lines.append(line_through(mesh.vertices[nodes], normals[nodes], CLOSE))
    return Lines(tuple(lines))


def _along_ribs(ribs: Ribs) -> Lines:
    lines = [line_through(*edge, CLOSE) for edge in upper_edges(ribs)]
    return Lines(tuple(lines), tuple(rib.series for rib in ribs.ribs if not rib.bend))


SOURCES: dict[str, tuple[str, Callable[[Any], Lines]]] = {
    "edges": ("net", _edges),
    "first": ("net", _strands(0)),
    "second": ("net", _strands(1)),
    "third": ("net", _strands(2)),
    "border": ("net", _borders),
    "axes": ("structure", _axes),
    "sharp": ("shape", _sharp),
    "ribs": ("ribs", _along_ribs),
}
"""Where lines are taken from: the input, and how of what it holds."""


def _bent(line: Line, off: float) -> Line:
    if np.abs(line.bulge).any():
        return line
    return line_through(line.places, line.normals, off)


class ProjectCurves(LineClause):
    kind = "project-curves"
    title = "Project curves"
    summary = "Curves carried onto a shape: straight down, sideways, or the shortest way."
    sentence = (
        "**Project** the curves {way}[way=level| facing {azimuth}] onto the shape, {bend}, within "
        "{off} of it."
    )
    takes: ClassVar[tuple[Take, ...]] = (
        Take(name="curves", types=("Curves", "Lines"), label="Curves"),
        SHAPE.model_copy(update={"beside": True}),
    )

    way: Literal["down", "level", "nearest"] = choice(
        "down",
        {"down": "straight up and down", "level": "level", "nearest": "the shortest way"},
        "Way",
    )
    azimuth: float = number(90.0, "°", -360.0, 360.0, 5.0, "Facing", "In plan, from x")
    bend: Literal["straight", "arcs"] = choice(
        "arcs", {"straight": "in straight pieces", "arcs": "bent to arcs"}, "Bending"
    )
    off: float = number(5.0, "mm", 0.1, 1000.0, 1.0, "Off it", "At most")

    def make(self, work: Work) -> Made:
        given = lines_from(work.inputs["curves"], 1e-4)
        shape = work.inputs["shape"]
        facing = np.radians(self.azimuth)
        way = {
            "down": np.array([0.0, 0.0, -1.0]),
            "level": np.array([np.cos(facing), np.sin(facing), 0.0]),
            "nearest": None,
        }[self.way]
        lines, layers, missed = [], [], []
        for k, line in enumerate(given.lines):
            work.progress(k / len(given.lines))
            found = carried_onto(line, shape, way)
            if not found:
                missed.append(line.places[0])
            for places, normals in found:
                made = line_through(places, normals, self.off / 1000, self.bend == "arcs")
                lines.append(made)
                layers.append(given.layers[k])
        if not lines:
            raise ClauseError(
                "No curve meets the shape that way; another way, or curves over it, would.", "way"
            )
        return made_lines(Lines(tuple(lines), tuple(layers)), _missed(missed), "way")


def _missed(starts: list[Array]) -> list[Notice]:
    """What is told of curves that begin at ``starts`` and meet the shape nowhere."""
    if not starts:
        return []
    x, y, z = starts[0].tolist()
    text = (
        f"{len(starts)} {'curves miss' if len(starts) > 1 else 'curve misses'} the shape and "
        f"{'are' if len(starts) > 1 else 'is'} left out; the shortest way meets it from anywhere."
    )
    return [Notice(text, at=(x, y, z), value="way")]


class BringLines(LineClause):
    kind = "bring-lines"
    title = "Bring lines from a file"
    summary = (
        "Lines and arcs in space from DXF, OBJ or CSV with their layers, to be framed as drawn."
    )
    sentence = (
        "**Bring** the lines of {file} in {unit}, {up} being up, curves within {off} of them."
    )

    file: list[str] = file("File", ["dxf", "obj", "csv"], "DXF, OBJ or CSV")
    unit: Literal["file", "m", "cm", "mm"] = choice(
        "file", UNITS, "Unit", "A file that says none counts as metres."
    )
    up: Literal["z", "y"] = choice(
        "z", {"z": "z", "y": "y"}, "Up", "Which axis of the file points upward"
    )
    off: float = number(5.0, "mm", 0.1, 1000.0, 1.0, "Off them", "Of arcs for smooth curves")

    def make(self, work: Work) -> Made:
        drawn: DrawnLines = opened(work, self.file, "lines")
        scale, warnings = metres_of(self.unit, drawn.unit)
        every = np.vstack(drawn.places) * scale
        size = float(np.ptp(every, axis=0).max())
        if not 1e-2 <= size <= 20_000:
            raise ClauseError(
                f"In {UNITS[self.unit]} the lines are {metres(size, ',.4g')} large; choose the "
                "unit they "
                "were drawn in.",
                "unit",
            )
        lines = [
            self._line(places * scale, bulges * scale)
            for places, bulges in zip(drawn.places, drawn.bulges, strict=True)
        ]
        return made_lines(Lines(tuple(lines), drawn.layers), warnings, "file")

    def _line(self, places: Array, bulges: Array) -> Line:
        """A line of the file, in metres; a run of many places without arcs as few arcs."""
        if self.up == "y":
            places, bulges = (at[:, [0, 2, 1]] * [1.0, -1.0, 1.0] for at in (places, bulges))
        if len(places) > SMOOTH_PLACES and not bulges.any():
            return line_through(places, None, self.off / 1000)
        return Line(places, bulges, np.tile([0.0, 0.0, 1.0], (len(places), 1)))
