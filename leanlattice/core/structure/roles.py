"""What members are in a structure: the one table of roles."""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray

__all__ = ["ROLES", "ROLE_NAMES", "Role", "role_layers", "role_number"]


@dataclass(frozen=True)
class Role:
    """What a member is: the ``letter`` of its name, its class and predefined type in building
    models (``ifc``), whether it carries ``tension_only``, and its ``precedence``.

    Where members meet, one of a higher precedence runs on or stops later; equals share.
    """

    name: str
    letter: str
    ifc: tuple[str, str]
    precedence: int
    tension_only: bool = False

    @property
    def plural(self) -> str:
        """Several of them, in a sentence."""
        return _PLURALS.get(self.name, f"{self.name}s")

    @property
    def layer(self) -> str:
        """Its layer in wireframes."""
        return self.name.upper()


_PLURALS = {"grid": "grid members", "edge": "edge members", "arch": "arches"}
_EVERY = (
    Role("grid", "M", ("IfcMember", "MEMBER"), 3),
    Role("edge", "E", ("IfcBeam", "BEAM"), 4),
    Role("chord", "H", ("IfcMember", "CHORD"), 5),
    Role("web", "W", ("IfcMember", "STRUT"), 1),
    Role("post", "O", ("IfcMember", "POST"), 2),
    Role("column", "C", ("IfcColumn", "COLUMN"), 6),
    Role("strut", "S", ("IfcMember", "STRUT"), 2),
    Role("tie", "I", ("IfcMember", "BRACE"), 0, tension_only=True),
    Role("arch", "V", ("IfcMember", "MEMBER"), 6),
    Role("purlin", "R", ("IfcMember", "PURLIN"), 2),
    Role("brace", "D", ("IfcMember", "BRACE"), 1),
    Role("lath", "L", ("IfcMember", "MEMBER"), 3),
)
ROLES: dict[str, Role] = {role.name: role for role in _EVERY}
"""By name. No letter is one of ribs, of panels or of nodes. A structure holds roles by their places
in this table, which only grows."""
ROLE_NAMES = tuple(ROLES)


def role_layers() -> NDArray[np.str_]:
    """Layers of all roles in the order of the table."""
    return np.array([role.layer for role in ROLES.values()])


def role_number(name: str) -> int:
    """Place of a role in the table; raises ``ValueError`` for an unknown one."""
    return ROLE_NAMES.index(name)
