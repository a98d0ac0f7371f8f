"""Compiles kernels before tests, which would each do it again where they run side by side:
``python -m tests.warm``. What was compiled is kept on disk, so that a second time costs little."""

from __future__ import annotations

from concurrent.futures import ProcessPoolExecutor

from leanlattice.api.worker import warm_up, warm_up_later


def all_steps() -> list[str]:
    return list(warm_up_later())


if __name__ == "__main__":
    with ProcessPoolExecutor(2) as pool:
        for done in [pool.submit(warm_up), pool.submit(all_steps)]:
            done.result()
