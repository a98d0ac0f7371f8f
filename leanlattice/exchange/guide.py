"""Pictures for the built-in guide, drawn from what the clauses really make."""

from __future__ import annotations

from functools import lru_cache

import numpy as np

from ..clauses.guide import GUIDE
from ..clauses.registry import CLAUSE_TYPES
from ..core.shaping.brought import Brought, DrawnLines, Heights, Loose, Picture, Wires
from ..core.shaping.solids import boolean, prism
from ..statement.document import ClauseEntry, Statement
from ..statement.evaluate import ResultCache, evaluate
from .pictures import picture_of

__all__ = ["guide_picture", "sample_file"]

GABLE = np.array([[-3.0, 0.0], [3.0, 0.0], [3.0, 3.0], [0.0, 5.5], [-3.0, 3.0]])


def sample_file(wanted: str, digest: str, name: str) -> Brought:
    """What stands in for a file where a clause type needs one: a rough block, hilly ground, a drawn
    gable."""
    if wanted == "mesh":
        flat = np.zeros(len(GABLE))
        both = boolean(
            [
                prism(
                    np.column_stack([GABLE[:, 0], flat, GABLE[:, 1]]),
                    [],
                    np.array([0.0, 1.0, 0.0]),
                    -6.0,
                    6.0,
                ),
                prism(
                    np.column_stack([flat, *(0.7 * GABLE.T)]),
                    [],
                    np.array([1.0, 0.0, 0.0]),
                    -5.0,
                    5.0,
                ),
            ],
            "union",
        ).mesh
        return Loose(both.vertices, both.triangles, 1.0)
    if wanted == "heights":
        x, y = np.meshgrid(np.linspace(0, 30, 31), np.linspace(0, 20, 21))
        z = 2.5 * np.exp(-((x - 9) ** 2 + (y - 12) ** 2) / 30) + 1.6 * np.exp(
            -((x - 22) ** 2 + (y - 7) ** 2) / 18
        )
        return Heights(np.column_stack([x.ravel(), y.ravel(), z.ravel()]))
    if wanted == "wires":
        u, v = np.meshgrid(np.linspace(-1, 1, 9), np.linspace(-1, 1, 7))
        points = np.column_stack([5 * u.ravel(), 4 * v.ravel(), (3 - 2 * u**2 - v**2).ravel()])
        rows = np.arange(63).reshape(7, 9)
        pairs = [(rows[:, :-1], rows[:, 1:]), (rows[:-1], rows[1:]), (rows[:-1, :-1], rows[1:, 1:])]
        return Wires(
            points, np.vstack([np.column_stack([a.ravel(), b.ravel()]) for a, b in pairs]), 1.0
        )
    if wanted == "lines":
        return _gable_frame()
    return Picture(np.zeros((120, 160)))


def _gable_frame() -> DrawnLines:
    """Three portals of a shed with its ridge, on layers of their own."""
    portal = np.array([(-3, 0, 0), (-3, 0, 2.5), (0, 0, 4), (3, 0, 2.5), (3, 0, 0)], float)
    along = [portal + [0.0, 4.0 * k, 0.0] for k in range(3)]
    ridge = np.array([(0, 0, 4), (0, 8, 4)], float)
    bulges = [np.zeros((len(places) - 1, 3)) for places in (*along, ridge)]
    return DrawnLines((*along, ridge), tuple(bulges), (*("FRAME",) * 3, "PURLIN"), 1.0)


@lru_cache(maxsize=256)
def guide_picture(kind: str, value: str = "", key: str = "") -> bytes | None:
    """PNG of what the guide's sample of a clause type makes, with one of its values chosen; ``None``
    where it has none, or no such value is pictured."""
    entry = GUIDE.get(kind)
    if entry is None or not entry.sample:
        return None
    clauses = [ClauseEntry(id=f"c{i}", kind=k, values=v) for i, (k, v) in enumerate(entry.sample)]
    if value:
        spec = CLAUSE_TYPES[kind].specs().get(value)
        if spec is None or not spec.pictured or key not in {c.key for c in spec.choices}:
            return None
        last_values = {**clauses[-1].values, value: key}
        clauses[-1] = clauses[-1].model_copy(update={"values": last_values})
    outcomes = evaluate(Statement(clauses=clauses), ResultCache(), open_file=sample_file, later=0.0)
    last = next((o.result for o in outcomes if o.id == clauses[-1].id and o.status == "done"), None)
    return None if last is None else picture_of(last)
