"""The line to the cutting table, which is a process of its own and is begun when it is first spoken
to."""

from __future__ import annotations

import asyncio
import contextlib
import json
import secrets
import sys
from pathlib import Path
from typing import Any, Literal
from urllib.parse import quote

from fastapi import HTTPException
from pydantic import BaseModel, Field

__all__ = ["TableCommand", "TableLink"]

LINE = 256 * 1024 * 1024
LARGEST = 64 * 1024 * 1024
"""Bytes of a sheet the table takes."""
ANSWERS, LOADS = 10.0, 60.0
"""Seconds in which the table answers, and in which it has looked through a sheet."""

Streams = tuple[asyncio.StreamReader, asyncio.StreamWriter]


class TableCommand(BaseModel):
    """``start`` (or go on), ``stop``, ``clear`` the queue, lay a ``sheet``, change the ``tool``
    (mm), run at another ``pace``, or let it find its tool ``worn`` or its sheet ``missing``."""

    do: Literal["start", "stop", "clear", "sheet", "tool", "pace", "worn", "missing"]
    value: float = Field(0.0, allow_inf_nan=False)


class _Line:
    """One connection, on which one thing is said at a time."""

    def __init__(self) -> None:
        self.lock = asyncio.Lock()
        self.streams: Streams | None = None
        self.to: asyncio.subprocess.Process | None = None

    def cut(self) -> None:
        if self.streams is not None:
            self.streams[1].close()
        self.streams = None


class TableLink:
    """Speaks to the table; begins it anew when it has gone. Sheets go over a line of their own, so
    that it can be asked for its state while it reads one."""

    def __init__(self, folder: Path) -> None:
        self._folder = folder
        self._beginning = asyncio.Lock()
        self._process: asyncio.subprocess.Process | None = None
        self._port, self._secret = 0, ""
        self._orders, self._loads = _Line(), _Line()

    async def _begun(self) -> asyncio.subprocess.Process:
        async with self._beginning:
            if self._process is not None and self._process.returncode is None:
                return self._process
            self._secret = secrets.token_urlsafe(32)
            command = (sys.executable, "-m", "leanlattice.table", "0", str(self._folder))
            pipe = asyncio.subprocess.PIPE
            self._process = await asyncio.create_subprocess_exec(*command, stdin=pipe, stdout=pipe)
            assert self._process.stdin is not None
            assert self._process.stdout is not None
            self._process.stdin.write(f"{self._secret}\n".encode())
            await self._process.stdin.drain()
            self._port = int(await asyncio.wait_for(self._process.stdout.readline(), LOADS))
            return self._process

    async def _connected(self, line: _Line) -> Streams:
        process = await self._begun()
        if line.streams is None or line.to is not process:
            line.cut()
            line.streams = await asyncio.open_connection("127.0.0.1", self._port, limit=LINE)
            line.to = process
            reader, writer = line.streams
            writer.write(f"HELLO {self._secret}\n".encode())
            await asyncio.wait_for(reader.readline(), ANSWERS)
        return line.streams

    async def line(self, text: str) -> tuple[bool, Any]:
        """Whether the table did what a line says, and its answer; 503 where it does not answer."""
        return await self._said(self._orders, text, b"", ANSWERS)

    async def _said(
        self, line: _Line, text: str, content: bytes, seconds: float
    ) -> tuple[bool, Any]:
        async with line.lock:
            try:
                reader, writer = await self._connected(line)
                writer.write(f"{text}\n".encode() + content)
                await writer.drain()
                answer = (await asyncio.wait_for(reader.readline(), seconds)).decode()
                word, _, rest = answer.partition(" ")
                return word == "OK", json.loads(rest)
            except (TimeoutError, OSError, ValueError):
                line.cut()
                await self._end()
                raise HTTPException(
                    503, "The cutting table does not answer; try again and it is begun anew."
                ) from None

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
        if len(content) > LARGEST:
            said = f"The sheet has {len(content):,} bytes; the table reads {LARGEST:,} at most."
            return False, [{"text": said, "x": 0.0, "y": 0.0}]
        text = f"LOAD {quote(name)} {len(content)}"
        return await self._said(self._loads, text, content, LOADS)

    async def _end(self) -> None:
        process, self._process = self._process, None
        if process is not None and process.returncode is None:
            with contextlib.suppress(ProcessLookupError):
                process.kill()
            await process.wait()

    async def close(self) -> None:
        self._orders.cut()
        self._loads.cut()
        await self._end()
