"""Runs what workers need in the process that they are copies of, which imports this (``nursery``)."""

from __future__ import annotations

import gc
import logging

from ..exchange.processes import ends_after_its_parent
from .worker import warm_up

__all__: list[str] = []

log = logging.getLogger("leanlattice")

ends_after_its_parent()
try:
    warm_up()
except Exception:
    log.exception("workers are begun before all they need was run")
# Copies share what is loaded by now only as long as nothing goes through it.
gc.freeze()
