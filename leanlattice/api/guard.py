"""Who may ask at all, and what every answer carries."""

from __future__ import annotations

from urllib.parse import urlsplit

from starlette.responses import JSONResponse
from starlette.types import ASGIApp, Message, Receive, Scope, Send

__all__ = ["Guard", "problem"]

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
    """A problem body after RFC 9457, as ``messages.Problem`` has it; of a ``detail`` that knows its
    lengths it has these, too."""
    lengths = [length._asdict() for length in getattr(detail, "lengths", ())]
    body = {"type": "about:blank", "title": title, "status": status, "detail": detail}
    body |= {"lengths": lengths}
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
