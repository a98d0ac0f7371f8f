"""The line to the cutting table, which is a process of its own and is begun when it is first spoken
to."""

from __future__ import annotations

import asyncio
import contextlib
import json
import sys
from typing import Any, Literal
from urllib.parse import quote

from fastapi import HTTPException
from pydantic import BaseModel, Field

__all__ = ["TableCommand", "TableLink"]

LINE = 256 * 1024 * 1024
WAIT = 60.0
"""Seconds in which the table answers; large sheets take it a while to look through."""


class TableCommand(BaseModel):
    """``start`` (or go on), ``stop``, ``clear`` the queue, lay a ``sheet``, change the ``tool``
    (mm), run at another ``pace``, or let it find its tool ``worn`` or its sheet ``missing``."""

    do: Literal["start", "stop", "clear", "sheet", "tool", "pace", "worn", "missing"]
    value: float = Field(0.0, allow_inf_nan=False)


class TableLink:
    """Speaks to the table one command at a time; begins it anew when it has gone."""

    def __init__(self) -> None:
        self._lock = asyncio.Lock()
        self._process: asyncio.subprocess.Process | None = None
        self._streams: tuple[asyncio.StreamReader, asyncio.StreamWriter] | None = None

    async def _connected(self) -> tuple[asyncio.StreamReader, asyncio.StreamWriter]:
        if (
            self._streams is not None
            and self._process is not None
            and self._process.returncode is None
        ):
            return self._streams
        self._process = await asyncio.create_subprocess_exec(
            sys.executable,
            "-m",
            "leanlattice.table",
            "0",
            stdin=asyncio.subprocess.PIPE,
            stdout=asyncio.subprocess.PIPE,
        )
        assert self._process.stdout is not None
        port = int(await asyncio.wait_for(self._process.stdout.readline(), WAIT))
        self._streams = await asyncio.open_connection("127.0.0.1", port, limit=LINE)
        return self._streams

    async def line(self, text: str, content: bytes = b"") -> tuple[bool, Any]:
        """Whether the table did what a line says, and its answer; 503 where it does not answer."""
        async with self._lock:
            try:
                reader, writer = await self._connected()
                writer.write(f"{text}\n".encode() + content)
                await writer.drain()
                answer = (await asyncio.wait_for(reader.readline(), WAIT)).decode()
                if not answer:
                    raise ConnectionError
            except (TimeoutError, OSError, ValueError):
                await self.close()
                raise HTTPException(
                    503, "The cutting table does not answer; try again and it is begun anew."
                ) from None
            word, _, rest = answer.partition(" ")
            return word == "OK", json.loads(rest)

    async def ask(self, text: str) -> dict[str, Any]:
        _, answer = await self.line(text)
        out: dict[str, Any] = answer
        return out

    async def command(self, given: TableCommand) -> tuple[bool, Any]:
        words = {
            "tool": f"TOOL {given.value:g}",
            "pace": f"PACE {given.value:g}",
            "worn": "FAULT worn",
            "missing": "FAULT missing",
        }
        return await self.line(words.get(given.do, given.do.upper()))

    async def load(self, name: str, content: bytes) -> tuple[bool, Any]:
        return await self.line(f"LOAD {quote(name)} {len(content)}", content)

    async def close(self) -> None:
        if self._streams is not None:
            self._streams[1].close()
        if self._process is not None and self._process.returncode is None:
            with contextlib.suppress(ProcessLookupError):
                self._process.kill()
            await self._process.wait()
        self._process, self._streams = None, None
