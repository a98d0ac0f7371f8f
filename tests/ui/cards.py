"""The cards that demo projects and beginnings come with, made anew:
``python -m tests.ui.cards FOLDER``, a folder of statement files."""

from __future__ import annotations

import io
import sys
import tempfile
import time
from pathlib import Path
from typing import Any

import httpx
from PIL import Image

from leanlattice.api.demo_cards import DemoCard, write_demo_cards
from leanlattice.statement.upgrade import read_upgraded

from .browser import Page, Server, chromium

BARE = {"model"}
"""What begins with nothing to draw."""
COLOURS = 128
QUIET = 6.0
"""Seconds after which the view has sent its picture."""


def main(folder: Path) -> None:
    stems = {
        read_upgraded(file.read_bytes()).name: file.stem
        for file in folder.glob("*.json")
        if file.stem not in BARE
    }
    cards: dict[str, DemoCard] = {}
    with tempfile.TemporaryDirectory() as data:
        server = Server(Path(data) / "data", demo_folder=str(folder.resolve()))
        try:
            with chromium(Path(data)) as browser:
                page = Page(browser, server.url)
                for name, stem in sorted(stems.items()):
                    page.open_project(name)
                    page.fine_picture()
                    time.sleep(QUIET)
                    cards[stem] = _card_of(server.url, name)
        finally:
            server.stop()
    write_demo_cards(folder, cards)


def _card_of(url: str, name: str) -> DemoCard:
    """The card of the demo project of a ``name`` as the server keeps it."""
    rows: list[dict[str, Any]] = httpx.get(f"{url}/api/projects").json()
    row = next(row for row in rows if row["demo"] and row["name"] == name)
    picture = httpx.get(f"{url}/api/projects/{row['id']}/picture").content
    told = {"picture": True, "builds": row["builds"]}
    return DemoCard(smaller(picture), told | row["figures"])


def smaller(picture: bytes) -> bytes:
    """A PNG of as many colours as are seen on a card."""
    out = io.BytesIO()
    image = Image.open(io.BytesIO(picture)).convert("RGB")
    image.quantize(COLOURS, dither=Image.Dither.NONE).save(out, "PNG", optimize=True)
    return out.getvalue()


if __name__ == "__main__":
    main(Path(sys.argv[1]))
