"""One server and one browser for all tests of the interface."""

from __future__ import annotations

from pathlib import Path

import psutil
import pytest

from .browser import Browsers, Page, Server


@pytest.fixture(scope="session")
def downloads(tmp_path_factory):
    return tmp_path_factory.mktemp("downloads")


@pytest.fixture(scope="session")
def server(tmp_path_factory):
    server = Server(tmp_path_factory.mktemp("ui") / "data")
    yield server
    server.stop()


@pytest.fixture(scope="session")
def browsers(downloads):
    browsers = Browsers(downloads)
    yield browsers
    browsers.close()


@pytest.fixture
def browser(browsers):
    yield browsers.answering()
    browsers.leave()


@pytest.fixture
def page(browser, server):
    yield Page(browser, server.url)
    problems = [
        e["message"]
        for e in browser.get_log("browser")
        if e["level"] == "SEVERE" and "status of 4" not in e["message"]
    ]
    assert not problems, problems


@pytest.hookimpl(hookwrapper=True)
def pytest_runtest_makereport(item, call):
    """A test that failed tells what the machine was at, as most of what fails here waited."""
    outcome = yield
    report = outcome.get_result()
    if report.failed:
        report.sections.append(("The machine", _machine()))
        server = item.funcargs.get("server")
        if server is not None:
            said = Path(server.log.name).read_text(errors="replace")
            report.sections.append(("The server", said[-3000:]))


def _machine():
    """How busy the machine is, and with what."""
    told = [f"load {psutil.getloadavg()}, memory free {psutil.virtual_memory().available >> 20} MB"]
    of = ["pid", "name", "status", "memory_info", "cpu_times", "cmdline"]
    every = [p.info for p in psutil.process_iter(of) if p.info["memory_info"]]
    every.sort(key=lambda info: -info["memory_info"].rss)
    for info in every[:16]:
        size, used = info["memory_info"].rss >> 20, info["cpu_times"]
        seconds = 0 if used is None else round(used.user + used.system)
        line = " ".join(info["cmdline"] or [])[:120]
        told.append(f"{info['pid']} {info['status']} {size} MB {seconds} s {info['name']} {line}")
    return "\n".join(told)
