"""What clauses tell of panels that are twisted cold."""

from __future__ import annotations

import numpy as np

from ..core.panels.panels import Panels
from ..core.panels.twist import thickest, twists_of
from .base import Figure, Notice, headline

__all__ = ["twist_figures", "twisted_too_far"]


def twist_figures(panels: Panels) -> dict[str, Figure]:
    """What is told of panels that are twisted, where some may be."""
    if panels.bending is None:
        return {}
    twist, stress = (float(v.max(initial=0.0)) for v in (panels.twists, panels.twist_stresses))
    return {
        "bent": headline("Panels bent", int(panels.bent.sum())),
        "twist": Figure("Most twisted", twist * 1000, "mm", 1),
        "twist_stress": Figure("Most stressed by it", stress / 1e6, "MPa", 1),
    }


def twisted_too_far(panels: Panels) -> list[Notice]:
    """What is said where twisting takes more than it was to."""
    if panels.bending is None:
        return []
    most, stresses = panels.bending.stress, panels.twist_stresses
    which = np.flatnonzero(stresses > most * (1 + 1e-9))
    if not which.size:
        return []
    worst = int(np.argmax(stresses))
    own = slice(*panels.offsets[worst : worst + 2].tolist())
    corners = panels.places[panels.corners[own]]
    x, y, z = corners.mean(axis=0).tolist()
    twists, material = twists_of(corners[None]), [panels.materials[worst]]
    # Rounded down, so that what is named works.
    thickness = float(np.floor(thickest(twists, np.array([most]), material)[0] * 1e4)) / 10
    facts = {"panels": which.size, "stress": stresses[worst] / 1e6, "most": most / 1e6}
    return [
        Notice.coded(
            "twisted too far" if thickness > 0 else "twisted too far for any sheet",
            facts | {"thickness": thickness},
            of="panel",
            which=tuple(map(int, which[:2000])),
            at=(x, y, z),
            value="thickness",
        )
    ]
