"""Cells and panels that are not convex."""

from __future__ import annotations

import numpy as np
import pytest
import shapely
import trimesh

from leanlattice.core.geometry.polygons import areas
from leanlattice.exchange.pack import write_pack

from .conftest import statement_of


def face_areas(surface):
    """Areas of a shape's triangles, below 0 where they are turned over in plan."""
    return surface.mesh.triangle_crosses[:, 2] / 2


def test_a_net_taken_as_a_shape_keeps_the_area_of_its_cells(outcomes):
    cells, shape = (
        outcomes("netshape_concave")["open"].result,
        outcomes("netshape_concave")["skin"].result,
    )
    own = areas(cells.vertices, cells.corners, cells.offsets).sum()
    assert own == pytest.approx(9.061, abs=5e-4)
    assert face_areas(shape).min() > 0
    assert face_areas(shape).sum() == pytest.approx(own, rel=1e-9)


@pytest.mark.parametrize("name", ["split_nc", "nonconvex"])
def test_panels_of_cells_that_are_not_convex_fill_them_once(outcomes, name):
    panels = next(o.result for o in outcomes(name).values() if o.kind == "panels")
    plan = [
        shapely.Polygon(panels.places[panels.corners[a:b], :2])
        for a, b in zip(panels.offsets[:-1], panels.offsets[1:], strict=True)
    ]
    whole = shapely.union_all(plan)
    assert all(p.is_valid and p.area > 1e-6 for p in plan)
    assert sum(p.area for p in plan) == pytest.approx(whole.area, rel=1e-9)


@pytest.mark.parametrize("name", ["nonconvex", "concave_panels"])
def test_panels_in_models_have_the_faces_of_their_outlines(outcomes, tmp_path, name):
    write_pack(tmp_path, statement_of(name), list(outcomes(name).values()), {"model.glb"})
    layout = next(o.result.layout for o in outcomes(name).values() if o.kind == "set-out")
    scene = trimesh.load_scene(tmp_path / "model.glb")
    for part in layout.parts:
        solid = scene.geometry[part.label]
        assert solid.is_watertight, part.label
        assert solid.volume == pytest.approx(part.area * part.thickness * 1e-9, rel=1e-5), (
            part.label
        )
        largest = np.abs(solid.facets_area).max() if len(solid.facets) else 0.0
        assert largest == pytest.approx(part.area * 1e-6, rel=1e-5), part.label
