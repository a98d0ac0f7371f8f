"""What tests share: surfaces, statements, and a profile of hypothesis that suits a slow machine."""

from __future__ import annotations

import math
from pathlib import Path

import numpy as np
import pytest
from hypothesis import HealthCheck, settings
from hypothesis import strategies as st

from leanlattice.core.geometry.surfaces import Loft, dome, loft
from leanlattice.statement.document import Statement, read_statement

from .known import Verification


def pytest_addoption(parser):
    parser.addoption("--write-verification", action="store_true", help="write docs/verification.md")
    parser.addoption("--every-job", action="store_true", help="walk all jobs in the interface")


def pytest_configure(config):
    config.pluginmanager.register(Verification(config), "verification")
    config.addinivalue_line("markers", "known(case, answer): a row of docs/verification.md")


settings.register_profile(
    "project",
    deadline=None,
    max_examples=25,
    derandomize=True,
    suppress_health_check=list(HealthCheck),
)
settings.load_profile("project")

DEMO = Path(__file__).resolve().parents[1] / "demo"


def arch(y: float, span: float, rise: float, count: int = 7) -> np.ndarray:
    """Points of an arch over x, from the left foot to the right one."""
    t = np.linspace(math.pi, 0, count)
    return np.column_stack([span / 2 * np.cos(t), np.full(count, y), rise * np.sin(t)])


def ring(y: float, radius: float, count: int = 32) -> np.ndarray:
    t = np.linspace(0, 2 * math.pi, count, endpoint=False)
    return np.column_stack([radius * np.cos(t), np.full(count, y), radius * np.sin(t)])


def roof() -> Loft:
    return loft([arch(0, 12, 4), arch(9, 15, 6, 5), arch(20, 11, 4.5, 9)])


SURFACES = {
    "roof": roof,
    "tube": lambda: loft([ring(0, 3), ring(5, 4), ring(11, 3.5)], closed=True),
    "swapped roof": lambda: loft([arch(0, 12, 4), arch(20, 11, 4.5)], swapped=True),
    "dome": lambda: dome(10, 3, np.array([1.0, 2.0, 0.5])),
    "bulging dome": lambda: dome(10, 8, np.zeros(3)),
    "flat sheet": lambda: loft(
        [np.array([[0, 0, 0], [6, 0, 0]]), np.array([[0, 4, 0], [6, 4, 0]])]
    ),
}


@pytest.fixture(params=SURFACES)
def surface(request):
    return SURFACES[request.param]()


def surfaces() -> st.SearchStrategy:
    """Lofts of arches of any size, and domes."""
    size = st.floats(2, 40)
    lofts = st.lists(st.tuples(size, size), min_size=2, max_size=5).map(
        lambda rows: loft(
            [
                arch(8.0 * i, span, 0.45 * rise + 0.2, 5 + i % 3)
                for i, (span, rise) in enumerate(rows)
            ]
        )
    )
    domes = st.tuples(size, st.floats(0.05, 0.9)).map(
        lambda d: dome(d[0], d[0] * d[1], np.zeros(3))
    )
    return st.one_of(lofts, domes)


def demo(name: str) -> Statement:
    return read_statement((DEMO / f"{name}.json").read_bytes())


@pytest.fixture
def boat_hall() -> Statement:
    return demo("boat-hall")


@pytest.fixture
def shelter() -> Statement:
    return demo("ferry-shelter")
