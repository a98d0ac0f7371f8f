"""What clauses make, and what that is made of: its fields, and nothing else."""

from __future__ import annotations

from dataclasses import fields
from typing import Any

__all__ = ["Result"]


class Result:
    """Base of the dataclasses that leave the process they were made in.

    What is worked out of the fields and remembered (``cached_property``) stays behind: it is worked
    out again where it is wanted.
    """

    def __getstate__(self) -> dict[str, Any]:
        return {f.name: getattr(self, f.name) for f in fields(self)}  # type: ignore[arg-type]
