"""The table of speed ratios: each row is measured against something like it in the same run."""

from __future__ import annotations

import gc
import itertools
import statistics
import sys
import time
from collections.abc import Callable, Iterator
from dataclasses import dataclass, replace
from pathlib import Path
from typing import Any

import numpy as np
from scipy.spatial import Voronoi

sys.path.insert(0, str(Path(__file__).resolve().parents[1]))


from leanlattice.core.geometry.forms import torus
from leanlattice.core.geometry.meshes import Body
from leanlattice.core.geometry.meshsurface import mesh_surface
from leanlattice.core.geometry.surfaces import Loft, loft
from leanlattice.core.patterns.lay import Placing, lay
from leanlattice.core.sections import find
from leanlattice.core.shaping.brought import repaired
from leanlattice.core.shaping.cutting import cut_in_plan
from leanlattice.core.shaping.facets import surface_mesh
from leanlattice.core.shaping.solids import boolean
from leanlattice.core.structure.builders.from_net import from_net
from leanlattice.core.structure.clashes import clashes_of
from leanlattice.core.structure.meetings import Meeting
from leanlattice.exchange.readers import open_brought
from leanlattice.exchange.wire import geometry
from leanlattice.statement.document import ClauseEntry, Statement, read_statement
from leanlattice.statement.edits import SetValue, apply
from leanlattice.statement.evaluate import Cancelled, ResultCache, evaluate

ROOT = Path(__file__).resolve().parents[1]
REPEATS = 7


@dataclass(frozen=True)
class Row:
    """One line of the table; ``share`` is to stay at or below ``limit``."""

    work: str
    against: str
    share: float
    limit: float
    unit: str = "×"


def seconds(*works: Callable[[], object], repeats: int = REPEATS) -> list[float]:
    """Median time of each; they take turns, so that a busy moment of the machine meets them alike."""
    taken: list[list[float]] = [[] for _ in works]
    for turn in range(repeats + 1):
        for k, work in enumerate(works):
            started = time.perf_counter()
            work()
            if turn:  # the first turn warms up
                taken[k].append(time.perf_counter() - started)
    return [statistics.median(t) for t in taken]


def hall() -> Loft:
    turns = np.linspace(np.pi, 0, 7)
    stations = ((0.0, 13.0, 4.6), (11.0, 15.6, 6.2), (22.0, 13.6, 5.0), (30.0, 11.0, 5.8))
    return loft(
        [
            np.column_stack([s / 2 * np.cos(turns), np.full(7, y), r * np.sin(turns)])
            for y, s, r in stations
        ]
    )


def diagrid() -> Iterator[Row]:
    surface = hall()
    points = lay(surface, "diagrid", (224, 224)).uv
    laid, evaluated = seconds(
        lambda: lay(surface, "diagrid", (224, 224)), lambda: surface.points(points)
    )
    yield Row(
        "lay a diagrid of 100,000 cells, welded, borders closed",
        "evaluating the surface at as many points",
        laid / evaluated,
        4.0,
    )


def bars() -> Iterator[Row]:
    from benchmarks.bars import bought_against_bound

    for work, share in zip(("bar after bar", "searched for"), bought_against_bound(), strict=True):
        yield Row(f"bars of two lengths for 2,000 members, {work}", "the bound", share, 1.01)


def strips() -> Iterator[Row]:
    """Strips of a barrel of 1,000 quads, unrolled, with flaps, drawn, against laying that net."""
    from leanlattice.core.flat.flaps import Joint
    from leanlattice.core.flat.seams import Room
    from leanlattice.core.flat.strips import strips_of
    from leanlattice.core.panels.panels import Sheet

    surface = hall()
    net = lay(surface, "quads", (25, 40))
    room, joint = Room(3.0, 1.5), Joint(0.025, 0.005, 0.15)
    sheet = Sheet("aluminium", 0.002)
    cut, formed = seconds(
        lambda: strips_of(net, "long", room, joint, sheet),
        lambda: lay(surface, "quads", (250, 400)),
        repeats=3,
    )
    yield Row(
        "strips of 1,000 quads, with flaps, drawn", "laying 100,000 quads", cut / formed, 60.0
    )


def few_lengths() -> Iterator[Row]:
    """2,000 edges of a net brought to 12 lengths, against laying a hundred times the net."""
    from leanlattice.core.settling.aims import Aim
    from leanlattice.core.settling.solver import settle

    surface = hall()
    net = lay(surface, "diagrid", (24, 40))
    held = np.zeros((len(net.vertices), 3), bool)

    def settled() -> None:
        aims = (Aim("few", strength=1e4, kinds=12), Aim("close", strength=1.0))
        terms = [aim.term(net, held)[0] for aim in aims]
        settle(net.vertices, terms, np.zeros_like, held, limit=1e-3)

    made, formed = seconds(settled, lambda: lay(surface, "quads", (250, 400)), repeats=3)
    title = f"{len(net.edges):,} edges settled to 12 lengths"
    yield Row(title, "laying 100,000 quads", made / formed, 3.0)


def plates() -> Iterator[Row]:
    """Folded plates at 1,071 nodes, drawn, against laying a hundred times the net."""
    from leanlattice.core.flat.node_plates import node_plates
    from leanlattice.core.structure.meetings import Meeting
    from leanlattice.core.structure.plate_arms import ArmJoint

    surface = hall()
    meeting = Meeting("arms", thickness=0.01, beyond=0.008, rounding=0.012, radius=0.06)
    tube = find("CHS 60.3 × 4")
    structure = from_net(lay(surface, "quads", (20, 50)), tube, tube, "centre", 0.0, meeting)
    cut, formed = seconds(
        lambda: node_plates(structure, ArmJoint(0.08), "steel", 0.001),
        lambda: lay(surface, "quads", (250, 400)),
        repeats=3,
    )
    yield Row("folded plates at 1,000 nodes, drawn", "laying 100,000 quads", cut / formed, 60.0)


def hub_solids() -> Iterator[Row]:
    """Hubs at 1,071 nodes, drilled, by kinds, against laying a hundred times the net."""
    from leanlattice.core.hubs.hubs import hubs
    from leanlattice.core.structure.hub_seats import Making
    from leanlattice.core.structure.meetings import Meeting

    surface, tube = hall(), find("CHS 60.3 × 4")
    meeting = Meeting("seats", gap=0.006, radius=0.04)
    structure = from_net(lay(surface, "quads", (20, 50)), tube, tube, "centre", 0.0, meeting)
    making = Making(hole=0.0102, deep=0.025)
    made, formed = seconds(
        lambda: hubs(structure, making, "M12", "S355", 0.001, lambda share: None).kind_of,
        lambda: lay(surface, "quads", (250, 400)),
        repeats=3,
    )
    yield Row("hubs at 1,000 nodes, by kinds", "laying 100,000 quads", made / formed, 60.0)


def copes_and_machine_files() -> Iterator[Row]:
    """2,070 tubes coped to their edge, and told to machines face by face, against laying a hundred
    times the net."""
    from leanlattice.core.working.faces import worked_faces
    from leanlattice.core.working.machined import Standard, machined

    surface, net = hall(), lay(hall(), "quads", (20, 50))
    tube, edge = find("CHS 60.3 × 4"), find("CHS 139.7 × 5")
    meeting = Meeting("welded", saddles=True)
    made: list[Any] = []

    def coped() -> None:
        made[:] = [from_net(net, tube, edge, "centre", 0.0, meeting)]
        _ = made[0].cut_backs.mean

    def told() -> None:
        work = machined(replace(made[0]))
        members = work.pieces.member[work.told(Standard.NC)].tolist()
        _ = [worked_faces(work.structure, m, work.slots) for m in members]

    cut, files, formed = seconds(coped, told, lambda: lay(surface, "quads", (250, 400)), repeats=3)
    count = made[0].count
    yield Row(f"{count:,} tubes coped and welded", "laying 100,000 quads", cut / formed, 3.0)
    yield Row(f"{count:,} tubes told to machines", "laying 100,000 quads", files / formed, 20.0)


def voronoi() -> Iterator[Row]:
    sheet = loft([np.array([[0.0, 0, 0], [60, 0, 0]]), np.array([[0.0, 40, 0], [60, 40, 0]])])
    turn = np.linspace(0, 2 * np.pi, 90, endpoint=False)
    region = cut_in_plan(
        sheet, np.column_stack([30 + 29 * np.cos(turn), 20 + 19 * np.sin(turn)]), keep_inside=True
    )
    points = np.random.default_rng(1).random((10_000, 2)) * [60, 40]
    placing = Placing(rounds=0)
    laid, plain = seconds(
        lambda: lay(region, "voronoi", (100, 100), placing=placing), lambda: Voronoi(points)
    )
    yield Row(
        "Voronoi net of 10,000 cells cut to an outline",
        "scipy's Voronoi of the same points",
        laid / plain,
        3.0,
    )


def reevaluation() -> Iterator[Row]:
    """The last clause of the Boat Hall, alone and behind as many clauses as make 200."""
    statement = read_statement((ROOT / "demo" / "boat-hall.json").read_bytes())
    more = 200 - len(statement.clauses)
    others = [ClauseEntry(id=f"other-{k}", kind="dome") for k in range(more)]
    long = statement.model_copy(update={"clauses": [*others, *statement.clauses]})
    for name, each in (("", statement), (" of 200", long)):
        last, cache = each.clauses[-1].id, ResultCache()
        alone, whole = [], []
        list(evaluate(each, cache))
        for k in range(1, REPEATS + 2):
            changed, _ = apply(each, SetValue(clause=last, name="kerf", value=4 + k / 8))
            started = time.perf_counter()
            outcome = [o for o in evaluate(changed, cache) if not o.again]
            whole.append(time.perf_counter() - started)
            assert [o.id for o in outcome] == [last]
            alone.append(outcome[0].seconds)
        yield Row(
            f"re-evaluating after the last clause{name} changed",
            "the last clause alone",
            statistics.median(whole[1:]) / statistics.median(alone[1:]),
            1.05,
        )


def structures() -> Iterator[Row]:
    """What is remembered of a net is worked out anew for both."""
    net = lay(hall(), "triangles", (58, 58))
    inner, border = find("CHS 88.9 × 4"), find("CHS 139.7 × 5")

    def own() -> None:
        ends = net.vertices[net.edges]
        np.linalg.norm(ends[:, 1] - ends[:, 0], axis=1)
        net.surface.normals(net.uv)
        np.argsort(net.edges.ravel(), kind="stable")

    built, plain = seconds(
        lambda: from_net(replace(net), inner, border, "top", 0.0, Meeting(gap=0.01)), own, repeats=9
    )
    yield Row(
        f"structure of {len(net.edges):,} members from a net, set-backs included",
        "its edge lengths, normals and sorting of nodes",
        built / plain,
        8.0,
    )


def last_dragged(
    statement: Statement, name: str, value: Callable[[int], Any], figure: str = "members"
) -> Callable[[], float]:
    """Evaluates a statement with a value of its last clause changed, to another each time; tells
    how many members, or what a ``figure`` counts, it has."""
    cache, count = ResultCache(), itertools.count(1)
    list(evaluate(statement, cache))
    last = statement.clauses[-1].id

    def drag() -> float:
        edit = SetValue(clause=last, name=name, value=value(next(count)))
        (outcome,) = [o for o in evaluate(apply(statement, edit)[0], cache) if not o.again]
        return float(outcome.figures[figure].value)

    return drag


def of(*rows: tuple[str, dict[str, Any]]) -> Statement:
    """A statement of clauses by their kinds and values."""
    clauses = [ClauseEntry(id=f"c{k}", kind=kind, values=v) for k, (kind, v) in enumerate(rows)]
    return Statement(name="Bench", clauses=clauses)


def coverings_dragged() -> Iterator[Row]:
    """What hands drag of blocks, pierced shells and panels, and a frame of 2,000 members that is
    rolled."""
    vault = ("barrel", {})
    fine = ("pattern", {"pattern": "quads", "bays_across": 32, "bays_along": 30})
    frame = last_dragged(of(vault, fine, ("frame", {})), "roll", lambda k: k / 8)
    dome = ("dome", {"span": 30, "rise": 15})
    blocks = ("blocks", {"courses": 26, "blocks": 96, "least": 0.4, "within": 5})
    cells = ("pattern", {"pattern": "quads", "bays_across": 25, "bays_along": 20})
    shell = ("deepen", {"form": "even", "made_as": "one", "radius": 0.05})
    many = ("pattern", {"pattern": "quads", "bays_across": 100, "bays_along": 50})
    panels = (many, ("panels", {}), ("give-sheet", {}))
    dragged = (
        ("courses of blocks", of(dome, blocks), "courses", lambda k: 26 + k, "solids"),
        ("openings of a shell", of(vault, cells, shell), "share", lambda k: 40 + k / 7, "solids"),
        ("share of panels of a sheet", of(vault, *panels), "share", lambda k: 20 + k / 7, "panels"),
    )  # fmt: skip
    for what, statement, name, value, figure in dragged:
        drag = last_dragged(statement, name, value, figure)
        taken, alone = seconds(drag, frame)
        yield Row(
            f"the {what} dragged, {drag():,.0f} {figure}",
            f"a frame of {frame():,.0f} members rolled",
            taken / alone,
            25.0 if figure == "solids" else 1.0,
        )


def structures_dragged() -> Iterator[Row]:
    """What hands drag of structures of 2,000 members, and a frame of as many that is rolled."""
    vault = ("barrel", {})
    net = ("pattern", {"pattern": "quads", "bays_across": 16, "bays_along": 15})
    fine = ("pattern", {"pattern": "quads", "bays_across": 32, "bays_along": 30})
    double, lines = (
        ("double-layer", {}),
        [["arc", [[-20, 1], [0, 6], [20, 1]]], ["line", [[-20, 0], [20, 0]]]],
    )
    drawn = ("draw", {"curves": lines, "plane": "front"})
    struts = ("struts", {"lines": [[0, 0, 6], [0, 0, 0]]})
    frame = last_dragged(of(vault, fine, ("frame", {})), "roll", lambda k: k / 8)
    columns = ("columns", {"level": -4})
    dragged = (
        ("depth of a double layer", of(vault, net, double), "depth", lambda k: 1 + k / 100),
        (
            "place of a column under a double layer",
            of(vault, net, double, columns),
            "places",
            lambda k: [[k / 10, 0.0, 3.0]],
        ),
        (
            "number of struts between two lines",
            of(drawn, ("frame-curves", {}), struts),
            "how_many",
            lambda k: 350 + k,
        ),
        (
            "swelling of members",
            of(vault, fine, ("frame", {"meeting": "ball"}), ("swell-members", {"which": "all"})),
            "at_nodes",
            lambda k: 1.2 + k / 200,
        ),
    )
    for what, statement, name, value in dragged:
        drag = last_dragged(statement, name, value)
        taken, alone = seconds(drag, frame)
        yield Row(
            f"the {what} dragged, {drag():,.0f} members",
            f"a frame of {frame():,.0f} members rolled",
            taken / alone,
            4.0,
        )


def clashes() -> Iterator[Row]:
    """Members that do not meet, looked for among 5,000; and the structure they are of built."""
    rows = [
        ClauseEntry(id="vault", kind="barrel"),
        ClauseEntry(
            id="net",
            kind="pattern",
            values={"pattern": "quads", "bays_across": 26, "bays_along": 25},
        ),
        ClauseEntry(id="grid", kind="double-layer"),
    ]
    statement = Statement(name="Bench", clauses=rows)
    *_, grid = evaluate(statement, ResultCache())
    build = last_dragged(statement, "depth", lambda k: 1 + k / 100)
    found, built = seconds(lambda: clashes_of(grid.result), build)
    yield Row(
        f"clashes of {grid.result.count:,} members", "their structure built", found / built, 3.0
    )


def structures_that_go_on() -> Iterator[Row]:
    """Ten frames, one behind the other, the last one changed; and one such frame alone."""
    net = {"bays_across": 29, "bays_along": 8, "pattern": "triangles"}

    def statement_of(count: int) -> Statement:
        clauses = []
        for k in range(count):
            shape = {"length": 20, "centre": [0, 20 * k, 0]}
            on = {"structure": [f"frame-{k - 1}"]} if k else {"structure": []}
            clauses += [
                ClauseEntry(id=f"shape-{k}", kind="barrel", values=shape),
                ClauseEntry(id=f"net-{k}", kind="pattern", values=net),
                ClauseEntry(id=f"frame-{k}", kind="frame", on={"net": [f"net-{k}"]} | on),
            ]
        return Statement(name="Bench", clauses=clauses)

    turns = ("roll", lambda k: k / 8)
    ten, one = last_dragged(statement_of(10), *turns), last_dragged(statement_of(1), *turns)
    taken, alone = seconds(ten, one)
    yield Row(
        f"the last of ten frames one behind the other dragged, {ten():,.0f} members",
        "the last one alone",
        taken / alone,
        1.5,
    )


def bytes_sent() -> Iterator[Row]:
    structure = from_net(
        lay(hall(), "diagrid", (26, 40)),
        find("CHS 88.9 × 4"),
        find("CHS 139.7 × 5"),
        "top",
        0,
        Meeting(gap=0.01),
    )
    message = geometry("0" * 32, structure)
    assert message is not None
    raw = structure.places.size * 4 + structure.ends.size * 4
    yield Row(
        f"bytes sent to show a structure of {structure.count:,} members",
        "its raw float32 positions and indices",
        len(message) / raw,
        1.2,
    )


def cancelling() -> Iterator[Row]:
    """How long the longest clause of the demo goes on after it is no longer wanted."""
    statement = read_statement((ROOT / "demo" / "boat-hall.json").read_bytes())
    heard: list[float] = []

    def progress(clause: str, share: float) -> None:
        heard.append(time.perf_counter())

    list(evaluate(statement, ResultCache(), on_progress=progress))
    gaps = np.diff(heard)
    try:
        list(evaluate(statement, ResultCache(), cancelled=lambda: True))
    except Cancelled:
        yield Row(
            "longest wait before a long clause notices a cancel",
            "",
            float(gaps.max()) * 1000,
            500,
            "ms",
        )


def people() -> Iterator[Row]:
    from benchmarks.people import drag_to_picture, open_to_picture

    drags, still = drag_to_picture()
    yield Row(
        f"from the drag of a value to the new picture, 95th percentile of {len(drags)}",
        f"beyond redrawing the scene unchanged, {still:.0f} ms",
        float(np.percentile(drags, 95)) - still,
        150,
        "ms",
    )
    yield Row(
        "from opening a project to its picture", "known results", open_to_picture(), 2000, "ms"
    )


def large_meshes() -> Iterator[Row]:
    """Loose triangles of a torus, some of them turned the wrong way, until a lattice can be laid; then a union."""
    mesh, _ = surface_mesh(torus(np.zeros(3), 5.0, 1.5), (320, 160))
    rng = np.random.default_rng(1)
    triangles = np.delete(mesh.triangles, [5, 777, 7778], axis=0)
    turned = rng.choice(len(triangles), 3000, replace=False)
    triangles[turned] = triangles[turned][:, ::-1]
    facets_ = np.zeros(
        len(triangles), [("normal", "<f4", 3), ("corners", "<f4", (3, 3)), ("rest", "<u2")]
    )
    facets_["corners"] = mesh.vertices[triangles]
    content = b"\0" * 80 + np.uint32(len(triangles)).tobytes() + facets_.tobytes()
    started = time.perf_counter()
    loose = open_brought("mesh", "torus.stl", content)
    body, _ = repaired(loose.vertices, loose.triangles)
    assert isinstance(body, Body)
    mesh_surface(body.mesh)
    taken = time.perf_counter() - started
    yield Row(f"import, repair and parameters of {len(triangles):,} triangles", "", taken, 10, "s")
    other = Body(body.mesh.with_vertices(body.mesh.vertices + [3.0, 0.0, 0.3]))
    started = time.perf_counter()
    boolean([body, other], "union")
    yield Row("union of two such bodies", "", time.perf_counter() - started, 5, "s")


def dragged(what: str, taken: list[float], most: float) -> Row:
    """Milliseconds ``taken`` from previews of a drag to their pictures, and at ``most``."""
    worst = float(np.percentile(taken, 95))
    return Row(f"{what}, 95th percentile", f"{len(taken)} pictures", worst, most, "ms")


def shapes() -> Iterator[Row]:
    from benchmarks.people import drag_shapes

    for name, taken in drag_shapes().items():
        yield dragged(f"drag of a handle: {name}", taken, 150)


def nets() -> Iterator[Row]:
    from benchmarks.people import NETS, contact_sheet, drag_shapes

    for name, taken in drag_shapes(dragged=NETS).items():
        yield dragged(f"drag of a {name}", taken, 150)
    yield Row(
        "contact sheet of 24 scattered patterns of 500 cells",
        "begun cold",
        contact_sheet(),
        10,
        "s",
    )


def settling() -> Iterator[Row]:
    from benchmarks import settling as s

    yield Row(
        "force-density form of 40,000 vertices",
        "one factorisation and solve of the same matrix",
        s.force_density(seconds),
        1.2,
    )
    yield Row(
        "one relaxation step, 10,000 vertices",
        "one sparse product of the same pattern, three right-hand sides",
        s.relaxation_step(seconds),
        2.5,
    )
    for what, against, taken, limit, unit in s.as_people_wait(ROOT):
        yield Row(what, against, taken, limit, unit)
    yield Row(
        "longest wait between two pictures of a net that settles",
        "5,073 edges",
        s.pictures(),
        100,
        "ms",
    )


def ribs() -> Iterator[Row]:
    from benchmarks.people import RIBS, drag_shapes
    from benchmarks.ribs import nested_ribs, slotted_ribs

    yield Row(
        "200 ribs from a body of 100,000 triangles, slots included",
        "the 200 bare plane sections",
        slotted_ribs(seconds),
        2.0,
    )
    count, first, outside = nested_ribs(ROOT)
    yield Row(f"first arrangement of {count} ribs on sheets", "once compiled", first, 1.0, "s")
    yield Row(
        f"outside the outlines of {count} ribs after 30 s",
        "sheets as far as they are taken",
        outside * 100,
        30,
        "%",
    )
    for name, taken in drag_shapes(dragged=RIBS).items():
        yield dragged(f"drag of the {name}", taken, 300)


def packs() -> Iterator[Row]:
    from benchmarks.packs import checked_pack

    parts, share = checked_pack()
    yield Row(f"checking a pack of {parts:,} parts", "reading its files", share, 3.0)


def large_models() -> Iterator[Row]:
    from benchmarks.large import first_picture, large_models

    found = large_models()
    yield Row("10,000 members turned, longest frame", "drawn in software", found.turned, 500, "ms")
    yield Row("100,000 cells changed, to the picture", "", found.changed, 3000, "ms")
    yield Row("100,000 cells seen from another side", "", found.looked, 500, "ms")
    yield Row("first picture of a demo, cold", "", first_picture(), 1500, "ms")


def crowd() -> Iterator[Row]:
    from benchmarks.crowd import crowd as at_work

    alone, alone_wait, _ = at_work(1, 20)
    acknowledged, longest, changes = at_work(20, 90)
    yield Row(
        "20 people at work: a change is acknowledged, 95th percentile",
        f"alone: {alone * 1000:.0f} ms; {changes} changes",
        acknowledged * 1000,
        1000,
        "ms",
    )
    yield Row(
        "20 people at work: the longest any goes without a result",
        f"alone: {alone_wait:.1f} s; a change each 2 s",
        longest,
        10,
        "s",
    )


TABLE = {
    "diagrid": diagrid,
    "voronoi": voronoi,
    "bars": bars,
    "strips": strips,
    "plates": plates,
    "hubs": hub_solids,
    "machine files": copes_and_machine_files,
    "few lengths": few_lengths,
    "re-evaluation": reevaluation,
    "structures": structures,
    "structures that go on": structures_that_go_on,
    "structures dragged": structures_dragged,
    "coverings dragged": coverings_dragged,
    "clashes": clashes,
    "bytes": bytes_sent,
    "cancel": cancelling,
    "people": people,
    "large meshes": large_meshes,
    "shapes": shapes,
    "nets": nets,
    "settling": settling,
    "ribs": ribs,
    "packs": packs,
    "large models": large_models,
    "crowd": crowd,
}


def main(only: str = "") -> int:
    """Prints the rows whose name contains ``only``; 1 when one is above its limit."""
    worst = 0
    gc.freeze()  # as workers do: what is loaded stays
    print(f"{'work':68} {'against':46} {'ratio':>10} {'at most':>9}")
    for name, measure in TABLE.items():
        if only and only not in name:
            continue
        for row in measure():
            held = row.share <= row.limit
            worst |= not held
            print(
                f"{row.work:68} {row.against:46} {row.share:8.2f} {row.unit:2} {row.limit:6g} {row.unit:2}"
                f"{'' if held else '  ABOVE'}",
                flush=True,
            )
    return int(worst)


if __name__ == "__main__":
    raise SystemExit(main(*sys.argv[1:2]))
