"""The built interface: one page for all addresses that are not of the service, and what it
loads."""

from __future__ import annotations

from pathlib import Path

from starlette.responses import FileResponse, Response
from starlette.staticfiles import StaticFiles
from starlette.types import Receive, Scope, Send

from .guard import problem

__all__ = ["Pages"]

ICON = "icon.svg"


class Pages:
    """An ASGI application of the files in a folder."""

    def __init__(self, folder: Path) -> None:
        self._folder = folder
        self._assets = StaticFiles(directory=folder / "assets", check_dir=False)

    async def __call__(self, scope: Scope, receive: Receive, send: Send) -> None:
        await self._answer(scope["path"].lstrip("/"), scope, receive, send)

    async def _answer(self, path: str, scope: Scope, receive: Receive, send: Send) -> None:
        if scope["type"] != "http":
            await send({"type": "websocket.close", "code": 4404, "reason": "Nothing here"})
            return
        answer: Response
        if scope["method"] not in ("GET", "HEAD"):
            detail = f"{scope['method']} is not possible at /{path[:80]}."
            answer = problem(405, "Not possible here", detail)
        elif path.startswith("api/"):
            answer = problem(404, "Not found", f"There is nothing at /{path[:80]}.")
        elif path.startswith("assets/") and self._folder.is_dir():
            await self._assets({**scope, "path": f"/{path[len('assets/') :]}"}, receive, send)
            return
        elif not (self._folder / "index.html").is_file():
            detail = "The interface is not built; run “make build”."
            answer = problem(404, "Not found", detail)
        else:
            name = path if path == ICON else "index.html"
            headers = {"Cache-Control": "no-cache"}
            answer = FileResponse(self._folder / name, headers=headers)
        await answer(scope, receive, send)
