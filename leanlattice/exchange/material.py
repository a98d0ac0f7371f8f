"""What there is to write of a statement: labelled things, and whatever else it ends in."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass
from functools import cached_property
from typing import Any

import numpy as np

from ..clauses.shape.drawn import Curves
from ..core.framing.frames import Frame
from ..core.framing.naming import name_all
from ..core.framing.panels import Panels
from ..core.geometry.meshes import Body, Mesh
from ..core.geometry.nets import Net
from ..core.geometry.surfaces import Surface
from ..core.ribs.parts import Ribs
from ..core.shaping.facets import facets
from ..core.shaping.onto import finer, measures
from ..statement.document import Statement
from ..statement.evaluate import Outcome
from .balance import carries
from .schedules import Named
from .step import exact_form

__all__ = ["HELPERS", "Material", "NotMade", "Shape", "not_made", "unused"]

TOLERANCE = 0.001
"""Members of frames that nobody labelled are of one type within this (m)."""
OFF, MOST_TRIANGLES = 5e-4, 40_000
"""How far (m) triangles of a body that are written lie from its curved faces, as long as there are
no more of them."""
HELPERS = ("Hold", "Push", "Aim", "Pull", "Stock")
"""Types of results that only serve other clauses."""
SERIES = ("", "A", "B", "C", "D")


@dataclass(frozen=True)
class NotMade:
    """Something that is designed but cannot be made as it is: what it is, its label, and why."""

    what: str
    label: str
    why: str


@dataclass(frozen=True, eq=False)
class Shape:
    """A body or surface of a ``clause``; ``ends`` tells whether nothing was made of it."""

    clause: str
    shape: Surface | Body
    ends: bool

    @cached_property
    def mesh(self) -> Mesh:
        """Its triangles; those of a body within ``OFF`` of its faces where ``MOST_TRIANGLES``
        suffice."""
        if isinstance(self.shape, Body) and self.shape.faces:
            return finer(self.shape, OFF, MOST_TRIANGLES).mesh
        return facets(self.shape).mesh

    @cached_property
    def measures(self) -> tuple[float, float] | None:
        """Volume (m³) and area (m²) of a body with its curved faces as they are."""
        return measures(self.shape) if isinstance(self.shape, Body) and self.shape.faces else None

    @property
    def closed(self) -> bool:
        return isinstance(self.shape, Body)

    @cached_property
    def form(self) -> Any:
        """Its exact form for STEP; ``None`` where triangles are all there is."""
        return exact_form(self.shape)

    @property
    def exact(self) -> bool:
        """Whether it is written in its exact form."""
        return self.form is not None


@dataclass(frozen=True, eq=False)
class Material:
    """What there is to write of a statement.

    ``named`` are labelled frames and ribs, and frames that nobody labelled with names by position.
    ``shapes`` are those that nothing was made of, those with an exact form of which something else
    than a shape was made, and the bodies ribs are cut from, ``nets`` and ``curves`` those that
    nothing was made of, ``settled`` nets that carry something; all by clause.
    """

    name: str
    named: list[Named]
    shapes: list[Shape]
    nets: list[tuple[str, Net]]
    curves: list[tuple[str, Curves]]
    settled: list[tuple[str, Net]]

    @property
    def framed(self) -> list[Named]:
        return [n for n in self.named if n.framed]

    @classmethod
    def of(cls, statement: Statement, outcomes: Sequence[Outcome]) -> Material:
        done = [o for o in outcomes if o.status == "done"]
        taken = {source for o in done for source in o.taken}
        ends = [o for o in done if o.id not in taken]
        named = Named.all_of(done)
        named += _unlabelled(ends, {n.source.series for n in named if n.framed})  # type: ignore[union-attr]
        cut = {o.source("shape") for o in done if isinstance(o.result, Ribs)}
        # What other shapes are made of is not what is built.
        changed = {i for o in done if isinstance(o.result, Surface | Body) for i in o.taken}
        every = [
            Shape(o.id, o.result, o.id not in taken)
            for o in done
            if isinstance(o.result, Surface | Body)
        ]
        shapes = [
            s for s in every if s.ends or s.clause in cut or (s.clause not in changed and s.exact)
        ]
        return cls(
            statement.name,
            named,
            shapes,
            [(o.id, o.result) for o in ends if isinstance(o.result, Net)],
            [(o.id, o.result) for o in ends if isinstance(o.result, Curves)],
            [(o.id, o.result) for o in done if o.kind == "settle" and carries(o.result)],
        )


def _unlabelled(ends: Sequence[Outcome], series: set[str]) -> list[Named]:
    """Frames that nobody labelled, each with the last panels on its net that nobody labelled, in a
    series that is free."""
    out = []
    for o in ends:
        free = [s for s in SERIES if s not in series]
        if not isinstance(o.result, Frame) or not free:
            continue
        series.add(free[0])
        panels = [
            p.result
            for p in ends
            if isinstance(p.result, Panels) and p.result.net_key == o.result.net_key
        ]
        named = name_all(o.result, panels[-1] if panels else None, free[0], TOLERANCE)
        out.append(Named(o.id, named))
    return out


def unused(outcomes: Sequence[Outcome], gives: dict[str, str]) -> list[Outcome]:
    """Clauses that only serve others and that nothing uses; ``gives`` tells types of results by
    kind."""
    taken = {source for o in outcomes for source in o.taken}
    return [
        o
        for o in outcomes
        if o.status == "done" and o.id not in taken and gives.get(o.kind, "") in HELPERS
    ]


def not_made(named: Sequence[Named]) -> list[NotMade]:
    """Parts on no sheet, panels without a part, and members on no bar or without a length."""
    out: list[NotMade] = []
    for n in named:
        out += _parts_not_made(n) + _members_not_made(n)
    return out


def _parts_not_made(named: Named) -> list[NotMade]:
    out = []
    if named.framed and named.labelled.panels is not None:
        labels = named.labelled.panel_labels
        lost = set(range(named.labelled.panels.count)) - set(named.panel_parts)
        joint = named.labelled.panels.joint * 1000
        out += [
            NotMade("panel", labels[i], f"too small for a joint of {joint:g} mm")
            for i in sorted(lost)
        ]
    if named.sheets is not None:
        layout = named.sheets.layout
        kind: Any = "panel" if named.framed else "rib"
        out += [
            NotMade(kind, layout.parts[i].label, "larger than any sheet")
            for i in np.flatnonzero(layout.sheet < 0).tolist()
        ]
    return out


def _members_not_made(named: Named) -> list[NotMade]:
    if not named.framed:
        return []
    frame, labels = named.labelled.frame, named.labelled.member_labels
    gone = np.flatnonzero(frame.cut_lengths <= 0)
    out = [NotMade("member", labels[m], "no length left between its set-backs") for m in gone]
    if named.bars is not None:
        long = np.flatnonzero((named.bars.bar < 0) & (frame.cut_lengths > named.bars.stock))
        why = f"longer than a bar of {named.bars.stock:g} m"
        out += [NotMade("member", labels[m], why) for m in long]
    return out
