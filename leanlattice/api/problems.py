"""Answers to what cannot be done: a problem body (RFC 9457), never a trace."""

from __future__ import annotations

import logging
from collections.abc import Awaitable, Callable

from fastapi import FastAPI, HTTPException, Request, Response
from fastapi.exceptions import RequestValidationError
from fastapi.responses import JSONResponse
from starlette.exceptions import HTTPException as StarletteHTTPException

from ..statement.document import StatementError
from ..statement.edits import EditError
from ..store.database import StorageError, in_words
from ..store.store import Stale, UnknownProject, Unreadable
from .guard import problem

__all__ = ["add_problem_handlers"]

log = logging.getLogger("leanlattice")


def _sentence(error: RequestValidationError) -> str:
    first = error.errors()[0]
    where = " → ".join(str(x) for x in first["loc"] if x != "body") or "the body"
    shown = repr(first.get("input"))[:80]
    return f"{where}: {first['msg'].removeprefix('Value error, ')} (given: {shown})."


def _no_storage(error: StorageError) -> JSONResponse:
    log.warning("%s", error)
    if error.full:
        return problem(507, "No room", str(error))
    return problem(503, "Storage does not answer", str(error))


def add_problem_handlers(app: FastAPI) -> None:
    """Sentences for everything that can go wrong in a request."""

    def on(kind: type[Exception], status: int, title: str, say: Callable[[Exception], str]) -> None:
        async def handler(_: Request, error: Exception) -> Response:
            return problem(status, title, say(error))

        app.add_exception_handler(kind, handler)

    on(
        UnknownProject,
        404,
        "No such project",
        lambda e: "There is no such project; it may have been removed.",
    )
    on(
        Stale,
        409,
        "Changed meanwhile",
        lambda e: (
            "The project was changed in another window; it is shown as it is "
            "now. Make your change again if it is still wanted."
        ),
    )
    on(Unreadable, 422, "Cannot be read", str)

    @app.exception_handler(StorageError)
    async def storage(_: Request, error: StorageError) -> Response:
        return _no_storage(error)

    on(EditError, 409, "Does not fit", str)
    on(StatementError, 422, "Not a statement", str)
    on(
        RequestValidationError,
        422,
        "Not understood",
        lambda e: _sentence(e) if isinstance(e, RequestValidationError) else "",
    )

    @app.exception_handler(StarletteHTTPException)
    async def http(_: Request, error: StarletteHTTPException) -> Response:
        title = {404: "Not found", 405: "Not possible here"}.get(error.status_code, "Refused")
        return problem(error.status_code, title, error.detail)

    @app.middleware("http")
    async def faults(request: Request, call: Callable[[Request], Awaitable[Response]]) -> Response:
        try:
            return await call(request)
        except HTTPException:
            raise
        except Exception as error:
            told = in_words(error, request.app.state.settings.data)
            if told is not None:
                return _no_storage(told)
            log.exception("fault while answering %s %s", request.method, request.url.path)
            return problem(
                500,
                "A fault of ours",
                "Something went wrong in the server; nothing was changed. The log says more.",
            )
