"""Nets let go."""

from __future__ import annotations

import numpy as np
import pytest


def test_a_border_comes_to_rest_on_a_guide_with_corners(outcomes):
    settled = outcomes("settle_corner_guide")["set"]
    assert settled.figures["residual"].value < 0.1
    assert not [w for w in settled.warnings if "not balanced" in w.text]
    net = settled.result
    outer = max(net.loops, key=lambda loop: np.ptp(net.vertices[loop], axis=0).max())
    middles = np.array([[-1.17, -2.34], [1.17, 1.17], [-1.17, 2.925]])
    off = np.linalg.norm(net.vertices[outer, None, :2] - middles, axis=2) - 5.85
    assert off.min(axis=1) == pytest.approx(np.zeros(len(outer)), abs=1e-9)
