"""Requests that wait as long as a busy machine may need: a disk shared with others can stop
for seconds, for which a test of what an answer says is not to fail."""

from __future__ import annotations

import functools

import httpx

SECONDS = 60

get = functools.partial(httpx.get, timeout=SECONDS)
post = functools.partial(httpx.post, timeout=SECONDS)
Client = functools.partial(httpx.Client, timeout=SECONDS)
