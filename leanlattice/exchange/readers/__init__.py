"""Readers of files that are brought in: by ending, each giving what the core calls brought."""

from __future__ import annotations

from collections.abc import Callable

from ...core.shaping.brought import Brought, ReadProblem
from ...statement.document import LARGEST_BROUGHT
from .heights import read_heights, read_picture
from .lines import read_csv_lines, read_dxf_lines, read_obj_lines
from .meshes import read_mesh
from .outlines import read_dxf_outlines, read_svg
from .step import read_step
from .wires import read_csv_wires, read_dxf_wires, read_obj_wires

__all__ = ["ENDINGS", "open_brought"]

Reader = Callable[[bytes, str], Brought]
MESHES: dict[str, Reader] = dict.fromkeys(("obj", "stl", "ply", "glb", "dxf"), read_mesh)
STEPS: dict[str, Reader] = dict.fromkeys(("step", "stp"), read_step)
TEXTS: dict[str, Reader] = dict.fromkeys(("csv", "xyz", "txt"), read_heights)
PICTURES: dict[str, Reader] = dict.fromkeys(("png", "jpg", "jpeg"), read_picture)
READERS: dict[str, dict[str, Reader]] = {
    "mesh": MESHES | STEPS,
    "heights": TEXTS | PICTURES,
    "outlines": {"svg": read_svg, "dxf": read_dxf_outlines},
    "picture": PICTURES,
    "lines": {"dxf": read_dxf_lines, "obj": read_obj_lines, "csv": read_csv_lines},
    "wires": {"dxf": read_dxf_wires, "obj": read_obj_wires, "csv": read_csv_wires},
}
"""Readers by what is wanted and by the file's ending."""

ENDINGS = {wanted: sorted(by_ending) for wanted, by_ending in READERS.items()}


def open_brought(wanted: str, name: str, content: bytes) -> Brought:
    """What a file holds, as meshes, heights, outlines, lines or a picture; raises ``ReadProblem``
    with a sentence."""
    ending = name.rpartition(".")[2].lower()
    readers = READERS[wanted]
    if ending not in readers:
        raise ReadProblem(
            f"“{name[-60:]}” is not of a kind that can be read here; {', '.join(ENDINGS[wanted])} are."
        )
    if not content:
        raise ReadProblem(f"“{name[-60:]}” is empty.")
    if len(content) > LARGEST_BROUGHT:
        raise ReadProblem(
            f"“{name[-60:]}” has {len(content):,} bytes; at most {LARGEST_BROUGHT:,} are read."
        )
    try:
        return readers[ending](content, ending)
    except ReadProblem as problem:
        raise ReadProblem(f"“{name[-60:]}”: {problem}") from None
    except (MemoryError, RecursionError):
        raise ReadProblem(
            f"“{name[-60:]}” needs more memory to be read than it may have, or is nested too "
            "deeply. Save it again with less in it."
        ) from None
    except Exception as fault:
        raise ReadProblem(
            f"“{name[-60:]}” cannot be read as {ending.upper()}: {str(fault)[:150] or type(fault).__name__}."
        ) from fault
