"""Strips: folded up again from their drawings and folds.csv, against the models and each other."""

from __future__ import annotations

import numpy as np
import scipy.spatial
import shapely

from .flat import flat_of
from .folded import face_at, folded_up, folds_by_part, holes_of, on_mesh
from .models import meshes_in
from .pack_files import Found, Pack, beyond

__all__ = ["holes_meet", "strips_as_told", "strips_folded"]

ROUND_MM = 0.002


def strips_as_told(pack: Pack) -> Found:
    """Neighbours of strips, which name each other and what flaps lie on; counts mistakes."""
    folds = folds_by_part(pack)
    named = {row["label"]: row["neighbours"].split() for row in pack.rows("strips")}
    for label, neighbours in named.items():
        for other in neighbours:
            is_odd = label not in named.get(other, [])
            yield beyond(is_odd), f"{label} in strips.csv: neighbours"
        for fold in folds.get(label, []):
            is_known = not fold.flap_on or fold.flap_on == label or fold.flap_on in neighbours
            yield beyond(not is_known), f"{label} in folds.csv: its flap lies on {fold.flap_on}"


def strips_folded(pack: Pack) -> Found:
    """How far (mm) corners of strips that are folded up are from those in model.glb, both ways;
    and flaps from the strips they lie on."""
    if not pack.has("model.glb") or not pack.rows("strips"):
        return
    meshes = {k: (v * 1000, t) for k, (v, t) in meshes_in(pack, "model.glb").items()}
    for label, strip in folded_up(pack, "strips").items():
        where = f"{label} folded up by folds.csv and poses.csv"
        if label not in meshes:
            continue
        room = ROUND_MM + 1e-7 * float(np.abs(meshes[label][0]).max())
        own = [k for k, on in enumerate(strip.flap_on) if not on]
        stand = np.vstack([strip.corners(k) for k in own])
        away = on_mesh(stand, meshes[label])
        yield max(float(away.max()) - room, 0.0), where
        back = np.asarray(scipy.spatial.cKDTree(stand).query(meshes[label][0])[0])
        yield max(float(back.max()) - room, 0.0), where
        for k, on in enumerate(strip.flap_on):
            if on in meshes:
                off = float(on_mesh(strip.corners(k), meshes[on]).max())
                yield max(off - room, 0.0), f"{label}: its flap on {on}, folds.csv"


def holes_meet(pack: Pack) -> Found:
    """How far (mm) holes of strips that are folded up are from the one they meet, of strips whose
    neighbours are all drawn: those too large for any sheet are not."""
    stand, labels = [], []
    strips = folded_up(pack, "strips")
    rows = {row["label"]: row for row in pack.rows("strips")}
    for label, strip in strips.items():
        _, _, inner = flat_of(pack).parts[label]
        if not inner:
            continue
        tree = shapely.STRtree(strip.faces)
        for middle in holes_of(pack, label):
            k = face_at(tree, middle, label)
            stand.append(strip.stand(k, middle[None])[0])
            labels.append(label)
    if not stand:
        return
    tree_of_all = scipy.spatial.cKDTree(np.array(stand))
    away = np.asarray(tree_of_all.query(np.array(stand), 2)[0])
    for label, off in zip(labels, away[:, 1].tolist(), strict=True):
        if all(other in strips for other in rows[label]["neighbours"].split()):
            yield off, f"a hole of {label} meets none"
