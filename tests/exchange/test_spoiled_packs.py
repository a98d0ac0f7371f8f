"""Spoiled packs: whatever is spoiled, the check fails, and where hashes tell it names the file."""

from __future__ import annotations

import pytest

from leanlattice.exchange import check
from leanlattice.exchange.check import check_pack, findings_of
from leanlattice.exchange.checks import files, flat, pack_files
from leanlattice.exchange.groups import GROUPS
from leanlattice.exchange.pack import write_pack
from leanlattice.statement.document import ClauseEntry, Statement
from leanlattice.statement.evaluate import ResultCache, evaluate

from ..known import known
from .reading import note, read_by
from .spoiling import spoiled, spoils

ALL = check.CHECKS
SADDLE = {
    "first": [0, 0, 0],
    "second": [3, 0, 0.3],
    "third": [3, 2, 0.1],
    "fourth": [0, 2.4, 0.4],
}
SHEET = ("loft", {"profiles": [[[-4, -5, 1], [6, -5, 1]], [[-4, 7, 1], [6, 7, 1]]]})
FRAMED = [
    ("barrel", {"span": 5, "rise": 1.4, "length": 4, "centre": [1, 2, 0]}),
    ("pattern", {"pattern": "alternating", "bays_across": 2, "bays_along": 1}),
    ("frame", {"inner": "RHS 100 × 50 × 5", "border": "CHS 88.9 × 4", "set_out": "top", "meeting": "hub"}),
    ("panels", {"thickness": 12}),
    ("panel-edges", {"radius": 40, "holes": "sides", "hole": 30, "rim": 50, "spacing": 900}),
    ("name", {}), ("set-out", {"copies": 2, "width": 6000, "height": 3210}), ("bars", {}),
]  # fmt: skip
RIBS = [
    ("box", {"along_x": 0.9, "along_y": 0.6, "height": 0.3, "turn": 20, "centre": [1, 2, 0.4]}),
    ("waffle", {"number_first": 2, "number_second": 3, "thick_first": 6, "thick_second": 9}),
    ("set-out", {"width": 1500, "height": 900}),
]  # fmt: skip
SPLICED = [
    ("box", {"along_x": 2.4, "along_y": 0.5, "height": 0.3, "turn": 20, "centre": [1, 2, 0.4]}),
    ("waffle", {"number_first": 2, "number_second": 3, "thick_first": 12, "thick_second": 9}),
    ("splice-ribs", {"longest": 1400}),
    ("set-out", {"width": 1500, "height": 900}),
]  # fmt: skip
BENT = [
    ("box", {"along_x": 3, "along_y": 1, "height": 0.4, "centre": [0.5, 0, 0.2]}),
    ("draw", {"curves": [["arc", [[-1, -0.2], [0.5, 0.1], [2, 0.1]]]]}),
    ("spine-ribs", {"number_first": 3, "number_second": 1, "thick_first": 12, "thick_second": 4, "run": "following"}),
    ("set-out", {"width": 4000}),
]  # fmt: skip
SETTLED = [
    SHEET, ("pattern", {"pattern": "quads", "bays_across": 4, "bays_along": 4}), ("hold", {}), ("push", {"load": 2}),
    ("aim", {"density": 3}), ("settle", {}),
]  # fmt: skip
WOVEN = [
    ("barrel", {"centre": [1, 2, 0]}), ("pattern", {"pattern": "quads", "bays_across": 3, "bays_along": 3}), ("weave", {}),
    ("frame", {"inner": "Timber 120 × 40", "border": "Timber 160 × 60", "set_out": "top"}), ("name", {}),
    ("draw", {"curves": [["circle", [[0, 0], [3, 0]]], ["line", [[0, 5], [4, 6]]]]}),
]  # fmt: skip
PIECES = [
    ("box", {"along_x": 3, "along_y": 2, "height": 1, "turn": 20, "centre": [1, 2, 0.4]}),
    ("repeat", {"copies": 2, "dx": 5, "dy": 1}), ("solids", {"material": "limestone"}),
]  # fmt: skip
BLOCKS = [
    ("dome", {"span": 4, "rise": 1.5, "centre": [1, 2, 0]}),
    ("draw", {"curves": [["polygon", [[0.2, 0], [0.8, 0.1], [0.5, 0.6]]]], "plane": "front",
              "level": 2}),
    ("blocks", {"courses": 2, "blocks": 5, "within": 30, "crown": 1, "openings": "plain"}),
]  # fmt: skip
TEMPLATES = [
    ("barrel", {"span": 5, "rise": 1.4, "length": 4, "centre": [1, 2, 0]}),
    ("pattern", {"pattern": "alternating", "bays_across": 2, "bays_along": 1}),
    ("deepen", {"depth": 0.3}), ("face-templates", {"material": "PVC", "size": "smaller", "smaller": 3}),
    ("set-out", {"width": 6000, "height": 4210}),
]  # fmt: skip
OPENINGS = [
    ("barrel", {"span": 5, "rise": 1.4, "length": 4, "centre": [1, 2, 0]}),
    ("pattern", {"pattern": "alternating", "bays_across": 2, "bays_along": 1}),
    ("deepen", {"depth": 0.3, "form": "even", "share": 40, "radius": 0.1, "made_as": "one"}),
    ("face-templates", {"faces": "openings"}), ("set-out", {"width": 6000, "height": 4210}),
]  # fmt: skip
STRIPS = [
    ("barrel", {"span": 5, "rise": 1.4, "length": 3, "centre": [1, 2, 0]}),
    ("pattern", {"pattern": "quads", "bays_across": 4, "bays_along": 2}),
    ("strips", {"every": 400}), ("set-out", {"width": 3200, "height": 1600, "turns": "free"}),
]  # fmt: skip
MEMBRANE = [
    ("barrel", {"span": 5, "rise": 1.4, "length": 3, "centre": [1, 2, 0]}),
    ("pattern", {"pattern": "quads", "bays_across": 4, "bays_along": 2}),
    ("strips", {"material": "PVC", "joint": "flaps", "size": "smaller", "shorter": 2, "narrower": 1}),
    ("set-out", {"width": 3200, "height": 1600, "turns": "free"}),
]  # fmt: skip
UNROLLED = [
    ("barrel", {"span": 5, "rise": 1.4, "length": 3, "centre": [1, 2, 0]}),
    ("pattern", {"pattern": "voronoi", "density": "module", "module": 1.3}),
    ("unroll", {"length": 2500}), ("set-out", {"width": 4200, "height": 2600}),
]  # fmt: skip
PLATES = [
    ("barrel", {"span": 5, "rise": 1.4, "length": 4, "centre": [1, 2, 0]}),
    ("pattern", {"pattern": "voronoi", "density": "module", "module": 2.4}),
    ("frame", {"inner": "CHS 60.3 × 4", "meeting": "arms", "thickness": 8,
               "set_out": "top"}),
    ("node-plates", {"joint": "bolts", "bolt": "M12"}), ("set-out", {"width": 3000}),
]  # fmt: skip
JOINERY = [
    ("saddle", SADDLE | {"second": [6, 0, 0.6], "third": [6, 4, 0], "fourth": [0, 4.2, 0.8]}),
    ("pattern", {"pattern": "alternating", "bays_across": 2, "bays_along": 1}),
    ("frame", {"inner": "Timber 80 × 160", "border": "GL24h 100 × 200", "meeting": "arms", "thickness": 8,
               "set_out": "top"}),
    ("node-plates", {"joint": "bolts", "bolt": "M12", "cut": "alike", "tolerance": 50}), ("set-out", {"width": 3000}),
]  # fmt: skip
WRAPS = [
    ("barrel", {"span": 5, "rise": 1.4, "length": 4, "centre": [1, 2, 0]}),
    ("pattern", {"pattern": "voronoi", "density": "module", "module": 2.4}),
    ("frame", {"inner": "CHS 60.3 × 4", "border": "CHS 168.3 × 6.3", "set_out": "top"}),
    ("meet-otherwise", {"which": "all", "meeting": "coped"}),
    ("tube-ends", {}),
    ("set-out", {"width": 1200, "height": 800}),
]
HUBS = [
    ("barrel", {"span": 5, "rise": 1.4, "length": 4, "centre": [1, 2, 0]}),
    ("pattern", {"pattern": "voronoi", "density": "module", "module": 2.4}),
    ("frame", {"inner": "CHS 60.3 × 4", "meeting": "seats", "set_out": "top"}),
    ("hubs", {"bolt": "M12"}),
]
HUBS_ALIKE = [
    ("saddle", SADDLE | {"second": [6, 0, 0.6], "third": [6, 4, 0], "fourth": [0, 4.2, 0.8]}),
    ("pattern", {"pattern": "alternating", "bays_across": 1, "bays_along": 1}),
    ("frame", {"inner": "CHS 60.3 × 4", "meeting": "seats", "set_out": "top"}),
    ("hubs", {"made": "alike", "tolerance": 50, "joint": "hollow"}),
]
FEET = [
    ("saddle", SADDLE),
    ("pattern", {"pattern": "quads", "bays_across": 2, "bays_along": 1}),
    ("frame", {"border": "RHS 100 × 50 × 5", "set_out": "top", "meeting": "arms"}),
    ("columns", {"way": "leaning", "towards": [[2, 4, -3]], "section": "RHS 120 × 60 × 5"}),
    ("plate-ends", {"role": "edge", "at": "pairs", "gap": 10}),
    ("plate-ends", {"role": "column", "gap": 30}),
    ("end-plates", {"bolts": "6"}),
    ("set-out", {"width": 2000, "height": 1500}),
]
LINES = [
    ("barrel", {"centre": [1, 2, 0]}),
    ("draw", {"curves": [["circle", [[1, 2], [3, 2]]], ["line", [[-4, 0], [4, 3]]]]}),
    ("project-curves", {}),
]  # fmt: skip
SWOLLEN = [
    ("barrel", {"span": 5, "rise": 1.4, "length": 4, "centre": [1, 2, 0]}),
    ("pattern", {"bays_across": 2, "bays_along": 1}),
    ("frame", {"inner": "CHS 88.9 × 4", "border": "CHS 88.9 × 4", "meeting": "welded"}),
    ("swell-members", {"which": "all", "at_nodes": 1.4, "between": 0.7}), ("name", {}),
]  # fmt: skip
TWISTED = [
    ("saddle", SADDLE),
    ("pattern", {"pattern": "quads", "bays_across": 2, "bays_along": 1}),
    (
        "frame",
        {
            "inner": "RHS 100 × 50 × 5",
            "border": "CHS 88.9 × 4",
            "set_out": "top",
            "meeting": "arms",
        },
    ),
    ("panels", {"form": "bent", "thickness": 6, "stress": 400, "seat": "raised", "height": 90}),
    ("name", {}),
    ("set-out", {"width": 3000, "height": 2600}),
]
ALIKE = [
    ("saddle", SADDLE),
    ("pattern", {"pattern": "triangles", "bays_across": 3, "bays_along": 1}),
    ("frame", {"border": "RHS 100 × 50 × 5", "set_out": "top", "meeting": "arms"}),
    ("panels", {"cut": "alike", "alike": 200, "seat": "raised", "height": 90, "joint": 110}),
    ("set-out", {"width": 3000, "height": 2600}),
]
BODY = [("ball", {"radius": 2, "centre": [1, 2, 3]})]
PACKS = {
    "framed": FRAMED,
    "ribs": RIBS,
    "spliced": SPLICED,
    "bent": BENT,
    "settled": SETTLED,
    "woven": WOVEN,
    "lines": LINES,
    "swollen": SWOLLEN,
    "body": BODY,
    "twisted": TWISTED,
    "alike": ALIKE,
    "pieces": PIECES,
    "blocks": BLOCKS,
    "templates": TEMPLATES,
    "openings": OPENINGS,
    "strips": STRIPS,
    "membrane": MEMBRANE,
    "unrolled": UNROLLED,
    "plates": PLATES,
    "joinery": JOINERY,
    "wraps": WRAPS,
    "hubs": HUBS,
    "hubs alike": HUBS_ALIKE,
    "feet": FEET,
}


@pytest.fixture(
    scope="module", params=[pytest.param(k, marks=pytest.mark.xdist_group(k)) for k in PACKS]
)
def pack(request, tmp_path_factory):
    folder = tmp_path_factory.mktemp(request.param)
    rows = PACKS[request.param]
    statement = Statement(
        clauses=[ClauseEntry(id=f"c{k}", kind=kind, values=v) for k, (kind, v) in enumerate(rows)]
    )
    outcomes = list(evaluate(statement, ResultCache()))
    assert {o.status for o in outcomes} == {"done"}, [o.error for o in outcomes if o.error]
    alone = write_pack(tmp_path_factory.mktemp("alone"), statement, outcomes, {"schedules"})
    assert not alone.wrong, alone.wrong
    written = write_pack(folder, statement, outcomes, set(GROUPS))
    assert not written.wrong, written.wrong
    assert not [f for f in check_pack(folder) if not f.passed], "read back again"
    return folder


@pytest.fixture(autouse=True)
def _each_content_is_read_once(monkeypatch):
    """A spoiled pack differs from the last by one file: the others need not be read again."""
    for module, name in (
        (pack_files, "read_sheet"),
        (flat, "read_sheet"),
        (files, "_pdf_text"),
    ):
        monkeypatch.setattr(module, name, read_once(getattr(module, name)))


def read_once(read):
    known = {}

    def by_age(path):
        note(path)
        found = path.stat()
        key = path, found.st_size, found.st_mtime_ns
        if key not in known:
            known[key] = read(path)
        return known[key]

    return by_age


@known(
    "packs of all kinds, every column and file of theirs spoiled in turn",
    "found, with the manifest made anew",
)
@pytest.mark.timeout(600)
def test_whatever_is_spoiled_fails_though_the_manifest_agrees(pack, tmp_path, monkeypatch):
    # As of a pack whose manifest was made anew, so that hashes tell nothing.
    monkeypatch.setattr(files, "differences_but", lambda *_: [])
    every, reads = {one.name: one for one in ALL}, read_by(ALL, pack)
    missed = []
    for name, how, spoil in spoils(pack):
        if how == "deleted":
            continue  # a manifest that does not list a file is that of a pack without it
        spoiled(pack, tmp_path / "copy", spoil)
        # Others find what they found before; those that take least long come first.
        own = [one for one, read in reads.items() if name in read or name == "checks.json"]
        monkeypatch.setattr(check, "CHECKS", tuple(every[one] for one in own))
        if all(f.passed for f in findings_of(tmp_path / "copy")):
            missed.append(f"{name}: {how}")
    assert not missed, "\n".join(missed)


def test_checks_are_known_by_what_they_read(pack):
    reads = read_by(ALL, pack)
    assert reads["report against statement"] >= {"report.json", "statement.json"}
    tables = {path.name for path in pack.glob("*.csv")}
    assert tables <= set().union(*reads.values())


@pytest.mark.timeout(600)
def test_whatever_is_spoiled_is_named_by_the_manifest(pack, tmp_path):
    for name, how, spoil in spoils(pack):
        if how not in ("deleted", "garbage", "cut off"):
            continue
        spoiled(pack, tmp_path / "copy", spoil)
        failing = (f for f in findings_of(tmp_path / "copy") if not f.passed)
        named = (name, name.partition(".")[0])
        assert any(word in f.where for f in failing for word in named), (name, how)


def test_files_that_are_not_of_a_pack_are_named(pack, tmp_path):
    spoiled(pack, tmp_path / "copy", lambda copy: (copy / "notes.txt").write_text("mine"))
    finding = next(f for f in check_pack(tmp_path / "copy") if not f.passed)
    assert "notes.txt is not of this pack" in finding.where
