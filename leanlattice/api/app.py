"""The application: routes, guard, live sessions and the built interface."""

from __future__ import annotations

import asyncio
import logging
from collections.abc import AsyncIterator
from contextlib import asynccontextmanager
from pathlib import Path
from sqlite3 import DatabaseError
from typing import Any

from fastapi import FastAPI
from starlette.concurrency import run_in_threadpool

from .. import __version__
from ..store.copies import make_copy
from ..store.files import FileStore, remove_leftovers
from ..store.results import ResultStore
from ..store.store import Store
from .beginnings import beginning_router
from .card_routes import card_router
from .catalogue import catalogue_router
from .channel import schemas
from .demo import restore_demo
from .file_routes import file_router
from .guard import Guard
from .limits import Limits
from .live import Hub
from .margin_routes import margin_router
from .pages import Pages
from .pool import Pool
from .problems import add_problem_handlers
from .routes import router
from .setting_routes import setting_router
from .settings import Settings
from .sheet_routes import sheet_router
from .state_routes import state_router
from .table_link import TableLink

__all__ = ["create_app"]

log = logging.getLogger("leanlattice")

UPLOADS = 2
"""Files, at most, that are read into memory at a time; others wait on the disk."""
FIRST_COPY, COPY_EVERY = 5.0, 1800.0
"""Seconds after the start, and between copies of the database."""


async def _copies(folder: Path) -> None:
    """Copies the database now and then, so that a damaged one can be put back."""
    await asyncio.sleep(FIRST_COPY)
    while True:
        try:
            await run_in_threadpool(make_copy, folder)
        except (OSError, DatabaseError) as error:
            log.warning("the database could not be copied: %s", error)
        await asyncio.sleep(COPY_EVERY)


ROUTERS = (
    router,
    card_router,
    beginning_router,
    catalogue_router,
    file_router,
    setting_router,
    margin_router,
    sheet_router,
    state_router,
)


def create_app(settings: Settings) -> FastAPI:
    """The ASGI application with its own store and workers."""

    @asynccontextmanager
    async def lifespan(app: FastAPI) -> AsyncIterator[None]:
        store = Store(settings.data)
        if settings.demo and not any(row.demo for row in store.projects()):
            restore_demo(store, app.state.files, settings.demo_folder)
        remove_leftovers(settings.data)
        results = ResultStore(settings.data)
        limits = Limits.of_machine(settings.workers, settings.worker_memory)
        pool = Pool(limits, settings.data / "files")
        app.state.hub = Hub(store, results, pool)
        app.state.table, app.state.arranging = TableLink(settings.data / "table"), {}
        app.state.uploads = asyncio.Semaphore(UPLOADS)
        copying = asyncio.create_task(_copies(settings.data))
        yield
        copying.cancel()
        await app.state.table.close()
        pool.close()
        results.close()
        store.close()

    app = FastAPI(
        title="Lean Lattice",
        version=__version__,
        lifespan=lifespan,
        docs_url=None,
        redoc_url=None,
        openapi_url="/api/openapi.json",
    )
    app.state.settings = settings
    app.state.files = FileStore(settings.data / "files")
    for own in ROUTERS:
        app.include_router(own)
    _tell_of_channel(app)
    add_problem_handlers(app)
    app.add_middleware(Guard)
    app.mount("/", Pages(settings.interface))
    return app


def _tell_of_channel(app: FastAPI) -> None:
    """Lets the document of the interface tell of what is said on the live channel, too."""
    of_routes = app.openapi

    def whole() -> dict[str, Any]:
        document = of_routes()
        known = document.setdefault("components", {}).setdefault("schemas", {})
        for name, schema in schemas().items():
            known.setdefault(name, schema)
        return document

    app.openapi = whole  # type: ignore[method-assign]
