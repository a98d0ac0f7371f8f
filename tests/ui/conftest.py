"""One server and one browser for all tests of the interface."""

from __future__ import annotations

import pytest

from .browser import Page, Server, chromium


@pytest.fixture(scope="session")
def downloads(tmp_path_factory):
    return tmp_path_factory.mktemp("downloads")


@pytest.fixture(scope="session")
def server(tmp_path_factory):
    server = Server(tmp_path_factory.mktemp("ui") / "data")
    yield server
    server.stop()


@pytest.fixture(scope="session")
def browser(downloads):
    with chromium(downloads) as browser:
        yield browser


@pytest.fixture
def page(browser, server):
    yield Page(browser, server.url)
    problems = [
        e["message"]
        for e in browser.get_log("browser")
        if e["level"] == "SEVERE" and "status of 4" not in e["message"]
    ]
    assert not problems, problems
