"""Requests whose JSON is read strictly, at one gate for all routes."""

from __future__ import annotations

from collections.abc import Callable, Coroutine
from typing import Any

from fastapi import HTTPException, Request, Response
from fastapi.routing import APIRoute

from ..statement.strict_json import NotJson, read_json

__all__ = ["StrictRoute"]


class _StrictRequest(Request):
    async def json(self) -> Any:
        try:
            return read_json(await self.body())
        except NotJson as error:
            raise HTTPException(422, str(error)) from None


class StrictRoute(APIRoute):
    """A route that reads what it is sent by ``read_json``."""

    def get_route_handler(self) -> Callable[[Request], Coroutine[Any, Any, Response]]:
        handler = super().get_route_handler()

        async def strict(request: Request) -> Response:
            return await handler(_StrictRequest(request.scope, request.receive))

        return strict
