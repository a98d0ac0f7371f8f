"""Cards that demo projects come with: there from the first second, and of the statements as they
are."""

from __future__ import annotations

import io
import json

import pytest
from PIL import Image

from leanlattice.api.card_routes import figures_of_card
from leanlattice.api.demo import restore_demo
from leanlattice.api.demo_cards import DemoCard, card_of_demo, write_demo_cards
from leanlattice.api.messages import outcome_message
from leanlattice.exchange.readers import open_brought
from leanlattice.statement.evaluate import ResultCache, evaluate
from leanlattice.statement.upgrade import read_upgraded
from leanlattice.store.files import FileStore
from leanlattice.store.store import Store

from ..conftest import DEMO

FILES = sorted(DEMO.glob("*.json"))
SMALL = ["ferry-shelter", "gull-porch", "mooring-stone", "wardens-bench"]


@pytest.mark.parametrize("file", FILES, ids=lambda file: file.stem)
def test_every_demo_has_a_card_of_its_statement_as_it_is(file):
    card = card_of_demo(file)
    assert card is not None, "make shots makes cards anew"
    picture = Image.open(io.BytesIO(card.picture))
    assert picture.size == (480, 300)
    assert len({pixel for _, pixel in picture.convert("RGB").getcolors(200_000)}) > 50
    assert card.figures["builds"]
    assert len(card.figures) > 2


@pytest.mark.parametrize("stem", SMALL)
def test_figures_of_cards_are_what_demos_come_to(stem):
    file = DEMO / f"{stem}.json"
    statement = read_upgraded(file.read_bytes())

    def open_file(wanted, digest, name):
        return open_brought(wanted, name, statement.files[digest].bytes())

    outcomes = evaluate(statement, ResultCache(), open_file=open_file)
    card = card_of_demo(file)
    assert card is not None
    told = json.loads(json.dumps(figures_of_card(map(outcome_message, outcomes))))
    assert [plain(f) for f in told.items()] == [plain(f) for f in card.figures.items()]


def plain(told):
    """A figure to as many digits as machines agree on."""
    name, figure = told
    return name, f"{figure['value']:.6g}" if isinstance(figure, dict) else figure


def test_a_card_is_of_its_statement_and_of_no_other(tmp_path):
    (tmp_path / "hut.json").write_text(FILES[0].read_text(encoding="utf-8"), encoding="utf-8")
    assert card_of_demo(tmp_path / "hut.json") is None
    write_demo_cards(tmp_path, {"hut": DemoCard(b"a picture", {"picture": True})})
    assert card_of_demo(tmp_path / "hut.json") == (b"a picture", {"picture": True})
    with (tmp_path / "hut.json").open("a", encoding="utf-8") as file:
        file.write("\n")
    assert card_of_demo(tmp_path / "hut.json") is None


def test_restored_demos_have_their_cards_at_once(tmp_path):
    store = Store(tmp_path / "data")
    for project in restore_demo(store, FileStore(tmp_path / "files"), DEMO):
        row = store.project(project)
        assert json.loads(row.figures)["picture"]
        assert store.picture(project)
        assert row.created == row.changed
