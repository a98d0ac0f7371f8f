"""Answers to what cannot be done: a problem body (RFC 9457), never a trace; and who may ask at
all."""

from __future__ import annotations

import logging
from collections.abc import Awaitable, Callable
from urllib.parse import urlsplit

from fastapi import FastAPI, HTTPException, Request, Response
from fastapi.exceptions import RequestValidationError
from fastapi.responses import JSONResponse
from starlette.exceptions import HTTPException as StarletteHTTPException
from starlette.types import ASGIApp, Message, Receive, Scope, Send

from ..statement.document import StatementError
from ..statement.edits import EditError
from ..store.database import StorageError, in_words
from ..store.store import Stale, UnknownProject, Unreadable
from .messages import Problem

__all__ = ["Guard", "add_problem_handlers", "problem"]

log = logging.getLogger("leanlattice")

HOSTS = {"127.0.0.1", "localhost", "::1"}
LARGEST_BODY = 10_000_000
LARGEST_UPLOAD = 160_000_000
"""Bytes where files come in."""
UPLOADS = {"/api/files", "/api/projects/import"}
SECURITY = {
    "Content-Security-Policy": "default-src 'self'; style-src 'self' 'unsafe-inline'; img-src 'self' data: blob:; "
    "connect-src 'self' ws://127.0.0.1:* ws://localhost:*; frame-ancestors 'none'",
    "X-Content-Type-Options": "nosniff",
    "Referrer-Policy": "no-referrer",
}


def problem(status: int, title: str, detail: str) -> JSONResponse:
    body = Problem(title=title, status=status, detail=detail).model_dump()
    return JSONResponse(body, status, media_type="application/problem+json", headers=SECURITY)


class Guard:
    """Refuses foreign Host and Origin headers, over-long bodies, and adds security headers.

    The server listens on this machine only; without this a page from elsewhere could still reach it
    through the user's browser.
    """

    def __init__(self, app: ASGIApp) -> None:
        self.app = app

    async def __call__(self, scope: Scope, receive: Receive, send: Send) -> None:
        refused = self._refused(scope) if scope["type"] in ("http", "websocket") else None
        if refused is None:
            await self.app(scope, receive, _secured(send) if scope["type"] == "http" else send)
        elif scope["type"] == "http":
            await refused(scope, receive, send)
        else:
            await receive()
            await send({"type": "websocket.close", "code": 1008, "reason": "Not this host"})

    def _refused(self, scope: Scope) -> JSONResponse | None:
        headers = {k.decode("latin-1").lower(): v.decode("latin-1") for k, v in scope["headers"]}
        reason = _refusal(headers)
        if reason:
            return problem(421, "Not this host", reason)
        length = headers.get("content-length", "0")
        most = LARGEST_UPLOAD if scope.get("path") in UPLOADS else LARGEST_BODY
        if (
            not length.isdigit()
            or int(length) > most
            or "chunked" in headers.get("transfer-encoding", "")
        ):
            detail = (
                f"The body must say its length, at most {most:,} bytes; it said “{length[:20]}”."
            )
            return problem(413, "Too large", detail)
        return None


def _secured(send: Send) -> Send:
    async def secured(message: Message) -> None:
        if message["type"] == "http.response.start":
            message["headers"] = [
                *message["headers"],
                *((k.encode(), v.encode()) for k, v in SECURITY.items()),
            ]
        await send(message)

    return secured


def _host_of(netloc: str) -> str | None:
    try:
        return urlsplit(f"//{netloc}").hostname
    except ValueError:
        return None


def _netloc(origin: str) -> str | None:
    try:
        return urlsplit(origin).netloc
    except ValueError:
        return None


def _refusal(headers: dict[str, str]) -> str:
    host = headers.get("host", "")
    if _host_of(host) not in HOSTS:
        return f"This server answers to 127.0.0.1 and localhost, not to “{host[:60]}”."
    origin = headers.get("origin")
    if origin and origin != "null" and _netloc(origin) != host:
        return f"This server answers to its own pages, not to those of “{origin[:60]}”."
    return "This server answers to its own pages only." if origin == "null" else ""


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
        return problem(error.status_code, title, str(error.detail))

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
