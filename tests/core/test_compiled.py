"""Kernels are compiled when first called, and not before."""

import contextlib
import os
import subprocess
import sys
import threading
from pathlib import Path

import numba
import numpy as np

from leanlattice.core.compiled import Kernel, compiled
from leanlattice.core.geometry import nets


@compiled
def _doubled(values):
    return values * 2


@compiled(fastmath=True)
def _doubled_and_summed(values):
    return _doubled(values).sum()


def test_a_kernel_calls_another_in_machine_code():
    assert isinstance(_doubled, Kernel)
    assert _doubled_and_summed(np.arange(4.0)) == 12
    assert not isinstance(_doubled, Kernel)
    assert _doubled.py_func(np.ones(1)) == [2]


@compiled
def _tripled(values):
    return values * 3


def test_threads_that_want_a_kernel_at_once_wait_for_one_to_make_it(monkeypatch):
    both, njit = threading.Barrier(2), numba.njit

    def slow(**options):
        with contextlib.suppress(threading.BrokenBarrierError):
            both.wait(0.5)
        return njit(**options)

    monkeypatch.setattr(numba, "njit", slow)
    kernel, told = _tripled, []
    threads = [
        threading.Thread(target=lambda: told.append(kernel(np.ones(2)).tolist()), daemon=True)
        for _ in range(2)
    ]
    for thread in threads:
        thread.start()
    for thread in threads:
        thread.join(30)
    assert told == [[3.0, 3.0]] * 2, "none waits for a turn that it has itself"


def test_a_kernel_keeps_its_name_and_words():
    kernels = [value for value in vars(nets).values() if isinstance(value, Kernel)]
    assert kernels
    assert all(kernel.__name__ in vars(nets) for kernel in kernels)


KERNEL = """
from leanlattice.core.compiled import compiled

@compiled
def doubled(values):
    return values + values
"""
AT_ONCE = """
import sys, time
import contextlib
import os
import subprocess
import sys
import threading
from pathlib import Path

import numpy as np
from numba.core.caching import IndexDataCacheFile
import kernel

saved = IndexDataCacheFile._save_index

def slowly(*arguments):
    time.sleep(1.0)
    saved(*arguments)

IndexDataCacheFile._save_index = slowly
print(kernel.doubled(np.ones(3, sys.argv[1])).tolist())
"""


def test_processes_that_compile_at_once_do_not_mix_their_code(tmp_path):
    (tmp_path / "kernel.py").write_text(KERNEL)
    (tmp_path / "at_once.py").write_text(AT_ONCE)
    command = [sys.executable, "at_once.py"]
    where = {"cwd": tmp_path, "env": os.environ | {"PYTHONPATH": str(Path.cwd())}}

    def running():
        kinds = ("float64", "int64", "float32")
        return [subprocess.Popen([*command, k], stdout=subprocess.PIPE, **where) for k in kinds]

    # The first three compile and keep their code, the others read it.
    for processes in (running(), running()):
        told = [process.communicate(timeout=120)[0].decode().strip() for process in processes]
        assert told == ["[2.0, 2.0, 2.0]", "[2, 2, 2]", "[2.0, 2.0, 2.0]"]
    assert len(list(tmp_path.rglob("*.nbc"))) == 3


def test_a_kernel_is_compiled_anew_when_one_that_it_calls_has_changed(tmp_path):
    caller = KERNEL.replace("compiled\n\n", "compiled\nfrom called import once\n\n", 1)
    (tmp_path / "kernel.py").write_text(caller.replace("values + values", "once(values) * 10"))
    told = []
    for factor in ("1.0", "25.0"):
        text = KERNEL.replace("doubled", "once").replace("values + values", f"values * {factor}")
        (tmp_path / "called.py").write_text(text)
        command = "import numpy, kernel; print(kernel.doubled(numpy.ones(1))[0])"
        done = subprocess.run(
            [sys.executable, "-c", command],
            cwd=tmp_path,
            env=os.environ | {"PYTHONPATH": str(Path.cwd())},
            capture_output=True,
            check=True,
        )
        told.append(float(done.stdout))
    assert told == [10.0, 250.0]
