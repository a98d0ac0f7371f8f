"""Jobs walked in the interface, from first input to last file, with an early value changed at the
end: some of them, or all with ``--every-job``."""

from __future__ import annotations

import re
import time
import zipfile
from itertools import islice

import pytest

from leanlattice.exchange.check import findings_of

from ..jobs import JOBS, WALKED
from .test_stories import new_project, set_dimension, set_value, statement, values

pytestmark = [pytest.mark.ui, pytest.mark.xdist_group("ui jobs")]


def pytest_generate_tests(metafunc):
    every = metafunc.config.getoption("--every-job")
    metafunc.parametrize("name", [name for name in JOBS if every or name in WALKED])


@pytest.mark.timeout(600)
def test_a_job_from_first_input_to_last_file(page, downloads, tmp_path, name):
    job = JOBS[name]
    if job.clauses:
        new_project(page, job.name, *job.clauses)
    else:
        page.open_project(job.name)
    before = page.figure(job.figure)
    ident, value, old, new = job.early
    dimensions = {d["name"]: d["value"] for d in statement(page)[1]["dimensions"]}
    told = values(page, ident) if ident else dimensions
    assert f"{told.get(value, old):g}" == f"{float(old):g}"
    if ident:
        set_value(page, ident, value, new)
    else:
        set_dimension(page, value, new)
    page.wait(lambda: page.figure(job.figure) != before)
    page.ready()
    assert not page.find_all('section [role="alert"]')

    page.click("Deliver", "a")
    if job.asked:
        box = f'//label[contains(., "{job.asked}")]//input'
        page.wait(lambda: page.browser.find_element("xpath", box)).click()
    page.click("Write the pack", "button")
    link = page.wait(lambda: page.find('[data-testid="pack"] a'), 200)
    told = page.find('[data-testid="pack"]').text
    assert re.search(r"All \d+ checks passed", told), told
    assert "not all could be made" not in told
    link.click()
    archive = page.wait(lambda: next(iter(downloads.glob("*.zip"))), 30)
    time.sleep(0.5)
    with zipfile.ZipFile(archive) as z:
        z.extractall(tmp_path)
    archive.unlink()
    for table in job.tables:
        assert (tmp_path / f"{table}.csv").read_text().count("\n") > 4, table
    assert not job.written or any(tmp_path.glob(job.written))
    # It was checked before it was handed out, and comes as it was.
    assert all(f.passed for f in islice(findings_of(tmp_path), 2))
