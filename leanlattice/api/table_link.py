"""The line to the cutting table, which is a process of its own and is begun when it is first spoken
to."""

from __future__ import annotations

import asyncio
import contextlib
import json
import logging
import secrets
import sys
from pathlib import Path
from typing import Any, Literal
from urllib.parse import quote

from fastapi import HTTPException
from pydantic import BaseModel, Field

__all__ = ["TableCommand", "TableLink"]

log = logging.getLogger(__name__)

LINE = 256 * 1024 * 1024
LARGEST = 64 * 1024 * 1024
"""Bytes of a sheet the table takes."""
ANSWERS, LOADS = 10.0, 60.0
"""Seconds in which the table answers, and in which it has looked through a sheet."""

GREETING = 30.0
"""Seconds in which it says who it is, as long as it lets itself be asked."""
FAILED = (TimeoutError, OSError, ValueError)

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
        """The table's process, which is known once it has said where it listens."""
        async with self._beginning:
            if self._process is not None and self._process.returncode is None:
                return self._process
            self._secret = secrets.token_urlsafe(32)
            command = (sys.executable, "-m", "leanlattice.table", "0", str(self._folder))
            pipe = asyncio.subprocess.PIPE
            process = await asyncio.create_subprocess_exec(*command, stdin=pipe, stdout=pipe)
            try:
                assert process.stdin is not None
                assert process.stdout is not None
                process.stdin.write(f"{self._secret}\n".encode())
                await process.stdin.drain()
                self._port = int(await asyncio.wait_for(process.stdout.readline(), LOADS))
            except BaseException:
                await _ended(process)
                raise
            self._process = process
            return process

    async def _connected(self, line: _Line) -> Streams:
        process = await self._begun()
        if line.streams is None or line.to is not process:
            line.cut()
            line.to = process
            line.streams = await asyncio.open_connection("127.0.0.1", self._port, limit=LINE)
            reader, writer = line.streams
            writer.write(f"HELLO {self._secret}\n".encode())
            if not (await asyncio.wait_for(reader.readline(), GREETING)).startswith(b"OK"):
                raise ConnectionError("The table did not greet.")
        return line.streams

    async def line(self, text: str) -> tuple[bool, Any]:
        """Whether the table did what a line says, and its answer; 503 where it does not answer."""
        return await self._said(self._orders, text, b"", ANSWERS)

    async def _said(
        self, line: _Line, text: str, content: bytes, seconds: float
    ) -> tuple[bool, Any]:
        async with line.lock:
            try:
                try:
                    reader, writer = await self._connected(line)
                except FAILED as error:
                    # Nothing was said yet, so that it may be begun anew at once.
                    await self._gone(line, error)
                    reader, writer = await self._connected(line)
                writer.write(f"{text}\n".encode() + content)
                await writer.drain()
                answer = (await asyncio.wait_for(reader.readline(), seconds)).decode()
                word, _, rest = answer.partition(" ")
                return word == "OK", json.loads(rest)
            except FAILED as error:
                await self._gone(line, error)
                raise HTTPException(
                    503, "The cutting table does not answer; try again and it is begun anew."
                ) from None
            except asyncio.CancelledError:
                # An answer nobody waited for must not be taken for that to the next line.
                line.cut()
                raise

    async def _gone(self, line: _Line, error: Exception) -> None:
        """Ends the process a line spoke to, never one that was begun anew since."""
        log.warning("the cutting table does not answer: %r", error)
        line.cut()
        if line.to is not None and line.to is self._process:
            await self._end()

    async def ask(self, text: str) -> dict[str, Any]:
        """What the table answers to a line that only asks, said again where it has gone meanwhile."""
        try:
            _, answer = await self.line(text)
        except HTTPException:
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
        if process is not None:
            await _ended(process)

    async def close(self) -> None:
        self._orders.cut()
        self._loads.cut()
        await self._end()


async def _ended(process: asyncio.subprocess.Process) -> None:
    if process.returncode is None:
        with contextlib.suppress(ProcessLookupError):
            process.kill()
        await process.wait()
