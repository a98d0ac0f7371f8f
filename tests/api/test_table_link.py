"""The line to the cutting table holds whatever becomes of who asked, and of the table."""

from __future__ import annotations

import asyncio

import pytest
from fastapi import HTTPException

from leanlattice.api import table_link
from leanlattice.api.table_link import TableLink


def spoken(tmp_path, story):
    """Runs a story with a line to a table of its own."""

    async def whole():
        link = TableLink(tmp_path / "table")
        try:
            return await story(link)
        finally:
            await link.close()

    return asyncio.run(whole())


async def given_up(link, asked, after):
    """Whoever asked gives up ``after`` so many seconds."""
    with pytest.raises(asyncio.TimeoutError):
        await asyncio.wait_for(asked, after)


@pytest.mark.parametrize("after", [0.0, 0.05])
def test_who_gives_up_while_the_table_begins_leaves_it_to_the_next(tmp_path, after):
    async def story(link):
        await given_up(link, link.ask("STATUS"), after)
        return await link.ask("STATUS")

    assert spoken(tmp_path, story)["state"] == "ready"


def test_an_answer_nobody_waited_for_is_not_taken_for_the_next_one(tmp_path, monkeypatch):
    async def story(link):
        await link.ask("STATUS")
        readline = asyncio.StreamReader.readline

        async def slowly(reader):
            await asyncio.sleep(0.2)
            return await readline(reader)

        monkeypatch.setattr(asyncio.StreamReader, "readline", slowly)
        await given_up(link, link.line("PATH 7"), 0.05)
        monkeypatch.undo()
        return await link.line("STATUS")

    good, answer = spoken(tmp_path, story)
    assert good
    assert answer["state"] == "ready"


def test_a_table_that_has_gone_is_begun_anew_once_for_all_who_ask(tmp_path):
    async def story(link):
        await link.ask("STATUS")
        await link.load("nothing", b"")
        gone = link._process
        gone.kill()
        told = await asyncio.gather(*(link.ask("STATUS") for _ in range(3)))
        begun = link._process
        # The other line still leads to the table that has gone; that is no reason to end this one.
        await link.load("nothing", b"")
        return [t["state"] for t in told], gone is not begun, begun is link._process

    states, anew, stays = spoken(tmp_path, story)
    assert states == ["ready"] * 3
    assert anew
    assert stays


def test_a_table_that_cannot_be_begun_is_said_to_be_so(tmp_path, monkeypatch):
    monkeypatch.setattr(table_link.sys, "executable", "/bin/false")

    async def story(link):
        with pytest.raises(HTTPException) as refused:
            await link.ask("STATUS")
        return refused.value

    refused = spoken(tmp_path, story)
    assert refused.status_code == 503
    assert "does not answer" in refused.detail
