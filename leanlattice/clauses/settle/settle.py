"""Letting a net go."""

from __future__ import annotations

from collections.abc import Callable
from dataclasses import replace
from typing import Any, Literal

import numpy as np
from numpy.typing import NDArray

from ...core.geometry.nets import Equilibrium, Net
from ...core.loads import Push
from ...core.nets.own import own_surface
from ...core.settling.aims import AimError
from ...core.settling.holds import Hold
from ...core.settling.problem import SettleError, Slide
from ...core.settling.solver import EVERY, Settled, State, settle
from ...core.settling.terms import Densities, EdgeTerm
from ..base import ClauseError, Figure, Made, Remedy, Take, Work, choice, count, headline, number
from ..lattice.common import NET, made_net
from ..said import metres
from .diagnosis import Used, diagnosis, fallen
from .holds import SettleClause

__all__ = ["SettleNet"]

Array = NDArray[np.float64]
HOLDS = Take(name="holds", types=("Hold",), label="Holds", many=True, optional=True)
PUSHES = Take(name="pushes", types=("Push",), label="Pushes", many=True, optional=True)
AIMS = Take(name="aims", types=("Aim",), label="Aims", many=True, optional=True)
RISE_ROUNDS = 25
LINEAR_LIMIT = 1e-8
"""The residual of force densities that one solve gives is far below any other limit."""
REACH = 3.0
"""What vertices slide on may lie so many times the net's size away."""
TRAIL, TRAIL_VERTICES = 24, 200_000
"""At most so many states are kept to go on from, and fewer of large nets."""


class SettleNet(SettleClause):
    kind = "settle"
    version = 2
    title = "Settle"
    summary = "Lets the net go: it finds its form between what holds, pushes and aims, with its edge forces."
    sentence = (
        "**Settle** the net {sense}, its rise {rise}[rise=given| {height}], until the forces balance to {limit} of the load or "
        "{steps} steps are done."
    )
    takes = (NET, HOLDS, PUSHES, AIMS)
    gives = "Net"
    goes_on = "steps"

    sense: Literal["hanging", "standing"] = choice(
        "hanging",
        {"hanging": "hanging", "standing": "standing, as it would hang turned over"},
        "Sense",
    )
    rise: Literal["free", "given"] = choice(
        "free", {"free": "as it comes", "given": "made to be"}, "Rise"
    )
    height: float = number(
        4.0, "m", 0.01, 1000.0, 0.1, "Rise", "Force densities are scaled together to meet it."
    )
    limit: float = number(
        0.1, "%", 1e-6, 10.0, 0.01, "Residual", "The largest at a free node, of the mean load."
    )
    steps: int = count(3000, 1, 100_000, "Steps", "More go on from there")

    def make(self, work: Work) -> Made:
        net: Net = work.inputs["net"]
        holds: list[Hold] = work.inputs.get("holds") or []
        held = self._held(net, holds)
        used = []
        for k, aim in enumerate(work.inputs.get("aims") or []):
            try:
                term, edges = aim.term(net, held[0])
            except AimError as error:
                raise ClauseError(str(error), error.value) from None
            used.append(Used(aim, term, edges, k))
        if not used:
            everything = np.arange(len(net.edges))
            used = [
                Used(
                    None,
                    Densities(net.edges, len(net.vertices), np.ones(len(net.edges))),
                    everything,
                )
            ]
        pushes: list[Push] = work.inputs.get("pushes") or []
        sign = -1.0 if self.sense == "standing" else 1.0

        def load(x: Array) -> Array:
            return sum((sign * p.loads(net, x) for p in pushes), np.zeros_like(x))

        try:
            done = self._settled(net, used, load, held, work)
        except SettleError as error:
            at = net.vertices[error.vertices[0]] if len(error.vertices) else None
            raise _refusal(error, len(net.vertices), at) from None
        return self._made(net, done, used, holds, sign)

    def _held(self, net: Net, holds: list[Hold]) -> tuple[NDArray[np.bool_], list[Slide]]:
        held = np.zeros((len(net.vertices), 3), bool)
        slides = []
        for hold in holds:
            vertices = hold.vertices(net)
            if not len(vertices):
                raise ClauseError(
                    "The hold finds no vertex of the net; other heights, places or outlines would.",
                    "which",
                )
            held[vertices] |= np.array(hold.axes)
            slide = hold.slide(net, vertices[~held[vertices].any(axis=1)])
            if slide is not None and len(slide.vertices):
                _check_reach(net, slide)
                slides.append(slide)
        return held, slides

    def _settled(
        self,
        net: Net,
        used: list[Used],
        load: Callable[[Array], Array],
        held: tuple[NDArray[np.bool_], list[Slide]],
        work: Work,
    ) -> Settled:
        terms = [u.term for u in used]
        limit = self.limit / 100
        if all(isinstance(t, Densities) for t in terms) and not held[1]:
            limit = min(limit, LINEAR_LIMIT)

        def run(state: State | None = None) -> Settled:
            return settle(net.vertices, terms, load, *held, limit, self.steps, watch, state)

        def watch(state: State) -> None:
            shown = work.show(state.x, state.step, state.residuals[-1])
            work.progress(
                min(
                    0.99,
                    max(
                        state.step / self.steps,
                        np.log10(max(state.residuals[-1] / limit, 1.0)) / -6 + 1,
                    ),
                )
            )
            if state.step % EVERY == 0 and (shown or state.step == self.steps):
                _keep(work.trail, state)

        if self.rise == "given":
            return self._to_rise(used, run)
        return run(
            max((s for s in work.trail if s.step <= self.steps), key=lambda s: s.step, default=None)
        )

    def _to_rise(self, used: list[Used], run: Callable[[], Settled]) -> Settled:
        """Force densities scaled together until the form is as high as asked for: where they are
        all there is, height times densities stays the same, and otherwise this comes nearer with
        each round."""
        dense = [u.term for u in used if isinstance(u.term, Densities)]
        if not dense:
            raise ClauseError(
                "A rise can be met where force densities are aimed for; add such an aim.", "rise"
            )
        for _ in range(RISE_ROUNDS):
            done = run()
            now = float(np.ptp(done.vertices[:, 2]))
            if now < 1e-9:
                raise ClauseError(
                    "Nothing pushes the net up or down, so that it has no rise; add a push.", "rise"
                )
            if abs(now / self.height - 1) < 1e-7:
                break
            for t in dense:
                t.scaled(now / self.height)
        return done

    def _made(
        self, net: Net, done: Settled, used: list[Used], holds: list[Hold], sign: float
    ) -> Made:
        x = done.vertices
        fallen(net, x)
        forces, aims = np.zeros(len(net.edges)), np.zeros_like(x)
        for u in used:
            if isinstance(u.term, EdgeTerm):
                forces[u.edges] += sign * u.term.forces(x)
            else:
                u.term.pull(x, aims)
        slid = np.zeros(len(x), bool)
        for slide in done.problem.slides:
            slid[slide.vertices] = True
        balance = Equilibrium(
            forces,
            sign * done.loads,
            sign * done.reactions,
            -sign * aims,
            np.array(done.residuals),
            net.edge_lengths,
            net.flatness,
            done.problem.held,
            slid,
        )
        surface = own_surface(x, net.corners, net.offsets)
        settled = replace(
            net, surface=surface, vertices=x, uv=surface.closest(x), equilibrium=balance, weave=None
        )
        warnings = diagnosis(net, done, used, holds, self.steps)
        return made_net(settled, self._figures(settled, done, used, net), warnings)

    def _figures(self, net: Net, done: Settled, used: list[Used], before: Net) -> dict[str, Figure]:
        balance: Any = net.equilibrium
        forces, reactions = balance.forces, balance.reactions
        moved = np.linalg.norm(net.vertices - before.vertices, axis=1)
        off = {
            f"aim_{k}": Figure(
                f"{u.term.name.capitalize()}: off by", u.term.gap(net.vertices), u.term.unit, 2
            )
            for k, u in enumerate(used, 1)
            if np.isfinite(u.term.fair)
        }
        return {
            "rise": headline("Rise", float(np.ptp(net.vertices[:, 2])), "m", 3),
            **_residuals(balance, done),
            "steps": headline("Steps", len(done.residuals) - 1),
            "moved": headline("Moved at most", float(moved.max()), "m", 3),
            **off,
            "largest_tension": headline("Largest tension", float(max(forces.max(), 0.0)), "kN", 2),
            "largest_compression": headline(
                "Largest compression", float(max(-forces.min(), 0.0)), "kN", 2
            ),
            "load": headline(
                "Load in all", float(np.linalg.norm(balance.loads.sum(axis=0))), "kN", 1
            ),
            "reaction": headline("Reactions upward", float(reactions[:, 2].sum()), "kN", 1),
            "thrust": headline(
                "Reactions sideways", float(np.linalg.norm(reactions[:, :2], axis=1).sum()), "kN", 1
            ),
            "stretched": headline(
                "Mean change of lengths",
                float((net.edge_lengths / before.edge_lengths).mean() - 1) * 100,
                "%",
                1,
            ),
            "flat_before": headline(
                "Least flat cell before", float(before.flatness.max()) * 1000, "mm", 1
            ),
        }


def _check_reach(net: Net, slide: Slide) -> None:
    """Raises ``ClauseError`` where what vertices slide on is out of a net's reach."""
    at = net.vertices[slide.vertices]
    away = np.linalg.norm(slide.onto(at) - at, axis=1)
    size = float(np.linalg.norm(np.ptp(net.vertices, axis=0)))
    if away.max() > REACH * size:
        raise ClauseError(
            f"What the vertices are to slide on lies up to {metres(away.max(), '.1f')} away from "
            "the net, "
            f"which is {metres(size, '.1f')} large, and is out of its reach; move it nearer, or "
            "look "
            "whether its unit is right.",
            "how",
            at[int(np.argmax(away))],
        )


def _keep(trail: list[State], state: State) -> None:
    if not trail or trail[-1].step < state.step:
        trail.append(state.copy())
    del trail[: -max(2, min(TRAIL, TRAIL_VERTICES // max(len(state.x), 1)))]


def _refusal(error: SettleError, count: int, at: Array | None) -> ClauseError:
    """What is said where there is no form to settle to, of so many vertices, and what helps."""
    if error.loose_along:
        hold = Remedy("Hold the borders", {"which": "border"}, "hold")
        close = Remedy("Stay close", {"aim": "close", "strength": 1.0}, "aim")
        facts = {"axis": error.loose_along, "vertices": len(error.vertices)}
        code = "nothing held" if len(error.vertices) == count else "vertices held by nothing"
        return ClauseError.of(code, facts, at=at, remedies=(hold, close))
    if error.runs_away:
        lengths = Remedy("Aim for lengths as they are", {"aim": "today"}, "aim")
        return ClauseError.of("form runs away", {}, at=at, remedies=(lengths,))
    return ClauseError(str(error), None, at)


def _residuals(balance: Equilibrium, done: Settled) -> dict[str, Figure]:
    """What is not balanced, by what it is a share of."""
    loaded = np.abs(balance.loads).max(initial=0.0) > 0
    name = "Residual of the load" if loaded else "Residual of the pull at first"
    return {
        "residual": headline(name, done.residuals[-1] * 100, "%", 4),
        "residual_of": Figure("Residual measured against", done.scale, "kN", 6),
    }
