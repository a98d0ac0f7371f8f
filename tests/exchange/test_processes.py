"""Files that would take a process with them are refused with a sentence, and the next one is read."""

from __future__ import annotations

import os
import signal
import subprocess
import sys
import time

import numpy as np
import psutil
import pytest

from leanlattice.core.shaping.brought import Heights, ReadProblem
from leanlattice.exchange.processes import Reader

PLACES = b"1,2,3\n2,3,4\n4,5,1\n"


def used_in_itself(depth=13):
    """Ten of ten of ten and so on: a few kilobytes that stand for more paths than there are."""
    use = '<g id="a{}">' + '<use xlink:href="#a{}"/>' * 10 + "</g>"
    groups = "".join(use.format(k, *[k - 1] * 10) for k in range(1, depth))
    head = '<svg xmlns="http://www.w3.org/2000/svg" xmlns:xlink="http://www.w3.org/1999/xlink">'
    first = '<g id="a0"><path d="M0 0L1 1L1 0Z"/></g>'
    last = f'<use xlink:href="#a{depth - 1}"/>'
    return f"{head}<defs>{first}{groups}</defs>{last}</svg>".encode()


def brackets(depth=200_000):
    """A STEP file whose value is nested deeper than any stack."""
    lines = ["ISO-10303-21;", "HEADER;", "FILE_DESCRIPTION((''),'2;1');",
             "FILE_NAME('a','',(''),(''),'','','');", "FILE_SCHEMA(('AUTOMOTIVE_DESIGN'));",
             "ENDSEC;", "DATA;", f"#1=CARTESIAN_POINT('',{'(' * depth}0.{')' * depth});",
             "ENDSEC;", "END-ISO-10303-21;", ""]  # fmt: skip
    return "\n".join(lines).encode()


def triangles(count=400_000):
    facets = np.zeros(count, [("normal", "<f4", 3), ("corners", "<f4", (3, 3)), ("rest", "<u2")])
    facets["corners"] = np.random.default_rng(1).random((count, 3, 3))
    return b"\0" * 80 + np.uint32(count).tobytes() + facets.tobytes()


@pytest.fixture(scope="module")
def reader():
    found = Reader(seconds=3.0, memory=200_000_000)
    yield found
    found.close()


@pytest.mark.parametrize(
    ("wanted", "name", "content", "said"),
    [
        ("outlines", "use.svg", used_in_itself, "more than 3 s"),
        ("mesh", "brackets.step", brackets, "memory|more than 3 s"),
        ("mesh", "many.stl", triangles, "memory"),
        ("heights", "letters.csv", lambda: b"a,b,c", "letters.csv"),
    ],
)
def test_a_file_that_would_end_the_process_is_refused_and_the_next_is_read(
    reader, wanted, name, content, said
):
    reader("heights", "before.csv", PLACES)
    began = time.monotonic()
    with pytest.raises(ReadProblem, match=said) as told:
        reader(wanted, name, content())
    assert name in str(told.value)
    assert time.monotonic() - began < 30
    found = reader("heights", "after.csv", PLACES)
    assert isinstance(found, Heights)
    assert found.points.tolist() == [[1, 2, 3], [2, 3, 4], [4, 5, 1]]


def test_a_process_that_reads_ends_with_the_one_that_began_it():
    script = (
        "from leanlattice.exchange.processes import Reader; import time\n"
        "if __name__ == '__main__':\n"
        "    r = Reader(); r('heights', 'a.csv', b'1,2,3\\n2,3,4\\n4,5,1\\n')\n"
        "    print(r._process.pid, flush=True); time.sleep(60)\n"
    )
    begun = subprocess.Popen([sys.executable, "-c", script], stdout=subprocess.PIPE, text=True)
    child = psutil.Process(int(begun.stdout.readline()))
    os.kill(begun.pid, signal.SIGKILL)
    begun.wait()
    begun.stdout.close()
    gone, _ = psutil.wait_procs([child], 10)
    assert gone or child.status() == psutil.STATUS_ZOMBIE


def test_a_process_that_is_begun_in_time_is_not_waited_for():
    reader = Reader(seconds=20.0)
    reader.prepare()
    begun = reader._process.pid
    reader.prepare()
    assert isinstance(reader("heights", "a.csv", PLACES), Heights)
    assert reader._process.pid == begun
    reader.close()
