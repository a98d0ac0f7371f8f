"""What the interface draws: results as binary arrays.

A message is a little-endian uint32 with the length of a JSON header, the header padded to a
multiple of 4 bytes, and the arrays one after the other, each padded to 4 bytes. The header says
what it is and, array by array, the name, the type, the shape and the offset from the end of the
header.
"""

from __future__ import annotations

import json
import struct
from collections.abc import Mapping
from typing import Any

import numpy as np
from numpy.typing import NDArray

from .kinds import kind_of

__all__ = ["geometry", "has_sketch", "measures", "motion", "pack_arrays", "unpack_arrays"]

Arrays = dict[str, NDArray[Any]]


def pack_arrays(header: dict[str, Any], arrays: Arrays) -> bytes:
    """One message from a header and arrays."""
    listed, blocks, offset = [], [], 0
    for name, array in arrays.items():
        data = np.ascontiguousarray(array).tobytes()
        listed.append(
            {"name": name, "type": array.dtype.str, "shape": array.shape, "offset": offset}
        )
        data += b"\0" * (-len(data) % 4)
        blocks.append(data)
        offset += len(data)
    head = json.dumps({**header, "arrays": listed}, separators=(",", ":")).encode()
    head += b" " * (-len(head) % 4)
    return struct.pack("<I", len(head)) + head + b"".join(blocks)


def unpack_arrays(message: bytes) -> tuple[dict[str, Any], Arrays]:
    """Header and arrays of a message."""
    (size,) = struct.unpack_from("<I", message)
    header = json.loads(message[4 : 4 + size])
    out = {}
    for a in header["arrays"]:
        count = int(np.prod(a["shape"]))
        out[a["name"]] = np.frombuffer(message, a["type"], count, 4 + size + a["offset"]).reshape(
            a["shape"]
        )
    return header, out


def has_sketch(result: Any) -> bool:
    """Whether there is something simpler to show a result by while a hand drags."""
    kind = kind_of(result)
    return kind is not None and kind.has_sketch(result)


def geometry(
    key: str, result: Any, aids: Mapping[str, NDArray[Any]] | None = None, sketch: bool = False
) -> bytes | None:
    """The message that shows a result, as a sketch of it if wanted, or ``None`` where there is
    nothing to draw. ``aids`` go along with it."""
    kind = kind_of(result)
    if kind is None or not kind.is_drawn:
        return None
    meta, arrays = kind.drawing(result, sketch)
    arrays |= {f"aid {name}": np.asarray(a, "<f4") for name, a in (aids or {}).items()}
    return pack_arrays({"type": "geometry", "key": key, "of": kind.name, "meta": meta}, arrays)


def motion(
    clause: str, source: str, places: NDArray[np.float64], step: int, residual: float
) -> bytes:
    """The message that shows the net of clause ``source`` at other ``places`` (V, 3) while
    ``clause`` moves it: after how many ``step``s, and with what ``residual``."""
    return pack_arrays(
        {
            "type": "motion",
            "key": clause,
            "of": source,
            "meta": {"step": step, "residual": residual},
        },
        {"positions": places.astype("<f4")},
    )


def measures(key: str, result: Any, waits: bool = False) -> bytes | None:
    """The message with the figures of each single thing in a result, for colours, distributions and
    details, and with their names; ``None`` where there are none, or somebody ``waits`` who would
    have to for long."""
    kind = kind_of(result)
    if kind is None or (kind.measured is None and kind.named is None):
        return None
    if waits and kind.measured_later:
        return None
    figures = kind.measured(result) if kind.measured is not None else {}
    meta, names = kind.named(result) if kind.named is not None else ({}, {})
    arrays = {name: values.astype("<f4") for name, values in figures.items()} | names
    return pack_arrays({"type": "measures", "key": key, "of": kind.name, "meta": meta}, arrays)
