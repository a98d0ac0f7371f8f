"""How members meet at a node: the one table of ways, and what a structure is to be built with."""

from __future__ import annotations

from dataclasses import dataclass

__all__ = ["BODIES", "MEETINGS", "Meeting", "meeting_number"]

BODIES = ("ball", "hub", "disc", "plate")
"""Bodies at nodes: a sphere; a round one as high as its members; a round one of a thickness; one of
a thickness with a straight side for each member."""
MEETINGS = ("apart", "welded", *BODIES, "scarf", "arms", "seats", "plated")
"""A structure holds the ways by their places in this table, which only grows."""


@dataclass(frozen=True)
class Meeting:
    """How members are to meet: held ``apart`` by a gap, ``welded``, which is cut by planes, held
    back for one of the ``BODIES``, or joined by a ``scarf``: two that go straight on in one line
    share a plane that runs slantwise through them, and others are welded; or held back for the
    ``arms`` of node plates, which are folded onto their axes, or for the flat ``seats`` of round
    hubs, square to their axes; or ``plated``: cut for plates that one or two of them stand on.

    Parameters
    ----------
    way : an entry of ``MEETINGS``
    gap : least clear distance in metres between members that are not welded; of plates from each
        other, or from what they lie above
    sizes : of bodies: ``each`` as large as its node needs, but at least of the radius, all
        ``alike`` as large as any needs, or ``fixed`` by the radius; for arms, whether members of a
        section are held back alike
    radius : in metres, of bodies and of hubs with seats; for arms, how near to the node they are
        folded at most
    thickness : in metres, of discs and plates, also those that members stand on
    material : name of what bodies are made of
    lap : metres along which the plane of a scarf runs
    beyond : metres by which arms are wider than members on each side
    rounding : radius in metres of the corners between arms
    fold : angle in radians that arms are folded by at most
    saddles : whether tubes that are welded to the side of one no thinner are cut to fit it
    level : whether plates that one member stands on lie level, rather than square to it
    """

    way: str = "apart"
    gap: float = 0.0
    sizes: str = "each"
    radius: float = 0.0
    thickness: float = 0.0
    material: str = "S355"
    lap: float = 0.0
    beyond: float = 0.0
    rounding: float = 0.0
    fold: float = 0.5
    saddles: bool = False
    level: bool = True

    @property
    def is_alike_everywhere(self) -> bool:
        """Whether set-backs for arms or seats at one node follow from those at others."""
        return self.way in ("arms", "seats") and self.sizes == "alike"

    @property
    def has_bodies(self) -> bool:
        return self.way in BODIES


def meeting_number(way: str) -> int:
    """Place of a way in the table; raises ``ValueError`` for an unknown one."""
    return MEETINGS.index(way)
