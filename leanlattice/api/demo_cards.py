"""Cards that demo projects come with: a picture and figures made from the same statement before, so
that there is something to look at from the first second on."""

from __future__ import annotations

import hashlib
import json
from collections.abc import Mapping
from pathlib import Path
from typing import Any, NamedTuple

__all__ = ["DemoCard", "card_of_demo", "digest_of", "write_demo_cards"]

FOLDER = "cards"
TABLE = "cards.json"


class DemoCard(NamedTuple):
    """A ``picture`` (PNG) and the ``figures`` of a demo project's card."""

    picture: bytes
    figures: dict[str, Any]


def digest_of(statement: Path) -> str:
    """By which a card is known to be of a ``statement`` file as it is."""
    return hashlib.sha256(statement.read_bytes()).hexdigest()


def card_of_demo(statement: Path) -> DemoCard | None:
    """The card that came with a ``statement`` file; ``None`` where there is none, or the statement
    has changed since it was made."""
    folder = statement.parent / FOLDER
    picture = folder / f"{statement.stem}.png"
    if not picture.exists() or not (folder / TABLE).exists():
        return None
    told = json.loads((folder / TABLE).read_text(encoding="utf-8")).get(statement.stem)
    if told is None or told["of"] != digest_of(statement):
        return None
    return DemoCard(picture.read_bytes(), told["figures"])


def write_demo_cards(demo: Path, cards: Mapping[str, DemoCard]) -> None:
    """Writes the cards of statement files in a ``demo`` folder, by the files' stems."""
    folder = demo / FOLDER
    folder.mkdir(exist_ok=True)
    table = {}
    for stem, card in sorted(cards.items()):
        (folder / f"{stem}.png").write_bytes(card.picture)
        table[stem] = {"of": digest_of(demo / f"{stem}.json"), "figures": card.figures}
    text = json.dumps(table, indent=1, ensure_ascii=False)
    (folder / TABLE).write_text(text + "\n", encoding="utf-8")
