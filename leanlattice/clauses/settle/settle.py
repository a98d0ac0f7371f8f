"""Letting a net go."""

from __future__ import annotations

from dataclasses import replace
from typing import Literal

import numpy as np
from numpy.typing import NDArray

from ...core.geometry.nets import Net
from ...core.nets.own import own_surface
from ...core.settling.solver import Settled, SettleError, Slide, settle
from ...core.settling.terms import Densities, EdgeTerm, Term
from ..base import ClauseError, Figure, Made, Notice, Take, Work, choice, count, number
from ..lattice.common import NET, made_net, place_of
from .holds import Hold, Push, SettleClause

__all__ = ["SettleNet"]

Array = NDArray[np.float64]
HOLDS = Take(name="holds", type="Hold", label="Holds", many=True, optional=True)
PUSHES = Take(name="pushes", type="Push", label="Pushes", many=True, optional=True)
AIMS = Take(name="aims", type="Aim", label="Aims", many=True, optional=True)
COLLAPSED = 0.03
RISE_ROUNDS = 25


class SettleNet(SettleClause):
    kind = "settle"
    title = "Settle"
    summary = "Lets the net go: it finds its form between what holds, pushes and aims, with its edge forces."
    sentence = (
        "**Settle** the net {sense}, its rise {rise}[rise=given| {height}], until the forces balance to {limit} of the load or "
        "{steps} steps are done."
    )
    takes = (NET, HOLDS, PUSHES, AIMS)
    gives = "Net"
    drawn = True

    sense: Literal["hanging", "standing"] = choice(
        "hanging", {"hanging": "hanging", "standing": "as its hanging form turned over, in compression"}, "Sense"
    )
    rise: Literal["free", "given"] = choice("free", {"free": "as it comes", "given": "made to be"}, "Rise")
    height: float = number(4.0, "m", 0.01, 1000.0, 0.1, "Rise", "Force densities are scaled together to meet it.")
    limit: float = number(0.01, "%", 1e-8, 10.0, 0.01, "Residual", "The largest at a free node, of the mean load.")
    steps: int = count(200, 1, 5000, "Steps")

    def make(self, work: Work) -> Made:
        net: Net = work.inputs["net"]
        held, slides = self._held(net, work.inputs.get("holds") or [])
        pushes: list[Push] = work.inputs.get("pushes") or []
        terms = [aim.term(net) for aim in work.inputs.get("aims") or []]
        if not terms:
            everything = np.arange(len(net.edges))
            terms = [(Densities(net.edges, len(net.vertices), np.ones(len(net.edges))), everything)]
        sign = -1.0 if self.sense == "standing" else 1.0

        def load(x: Array) -> Array:
            return sum((sign * p.loads(net, x) for p in pushes), np.zeros_like(x))

        def watch(step: int, residual: float, x: Array) -> None:
            work.progress(min(0.99, max(step / self.steps, -np.log10(max(residual, 1e-12)) / 12)))

        try:
            done = settle(net.vertices, [t for t, _ in terms], load, held, slides, self.limit / 100, self.steps, watch)
            if self.rise == "given":
                done = self._to_rise(net, done, [t for t, _ in terms], load, held, slides, watch)
        except SettleError as error:
            at = net.vertices[error.vertices[0]] if len(error.vertices) else None
            raise ClauseError(str(error), None, at) from None
        return self._made(net, done, terms, sign)

    def _held(self, net: Net, holds: list[Hold]) -> tuple[NDArray[np.bool_], list[Slide]]:
        held = np.zeros((len(net.vertices), 3), bool)
        slides = []
        for hold in holds:
            vertices = hold.vertices(net)
            held[vertices] |= np.array(hold.axes)
            slide = hold.slide(vertices[~held[vertices].any(axis=1)])
            if slide is not None and len(slide.vertices):
                slides.append(slide)
        return held, slides

    def _to_rise(self, net, done, terms, load, held, slides, watch) -> Settled:  # type: ignore[no-untyped-def]
        """Force densities scaled together until the form is as high as asked for, by secant steps."""
        dense = [t for t in terms if isinstance(t, Densities)]
        if not dense:
            raise ClauseError("A rise can be met where force densities are aimed for; add such an aim.", "rise")
        for _ in range(RISE_ROUNDS):
            now = float(np.ptp(done.vertices[:, 2]))
            if now < 1e-9:
                raise ClauseError("Nothing pushes the net up or down, so that it has no rise; add a push.", "rise")
            if abs(now / self.height - 1) < 1e-7:
                break
            for t in dense:
                t.weights = t.weights * (now / self.height)
                t._constant = None
            done = settle(net.vertices, terms, load, held, slides, self.limit / 100, self.steps, watch)
        return done

    def _made(self, net: Net, done: Settled, terms: list[tuple[Term, NDArray[np.int64]]], sign: float) -> Made:
        x = done.vertices
        forces = np.zeros(len(net.edges))
        for term, edges in terms:
            if isinstance(term, EdgeTerm):
                forces[edges] += sign * term.forces(x)
        lengths = np.linalg.norm(x[net.edges[:, 1]] - x[net.edges[:, 0]], axis=1)
        warnings = self._diagnosis(net, done, terms, lengths)
        if lengths.min() < 1e-6 * np.median(net.edge_lengths):
            collapsed = int((lengths < COLLAPSED * np.median(net.edge_lengths)).sum())
            raise ClauseError(
                f"{collapsed} edges have shrunk to nothing: {_what_collapsed(net, lengths)}. An aim for equal lengths there, or a "
                "hold, keeps them.", None, x[net.edges[int(np.argmin(lengths))]].mean(axis=0),
            )  # fmt: skip
        surface = own_surface(x, net.corners, net.offsets)
        settled = replace(net, surface=surface, vertices=x, uv=surface.closest(x), forces=forces, weave=None)
        load = sign * done.loads.sum(axis=0)
        figures = {
            "rise": Figure("Rise", float(np.ptp(x[:, 2])), "m", 3),
            "moved": Figure("Moved at most", float(np.linalg.norm(x - net.vertices, axis=1).max()), "m", 3),
            "residual": Figure("Residual of the load", done.residuals[-1] * 100, "%", 4),
            "steps": Figure("Steps", len(done.residuals) - 1),
            "largest_tension": Figure("Largest tension", float(max(forces.max(), 0.0)), "kN", 2),
            "largest_compression": Figure("Largest compression", float(max(-forces.min(), 0.0)), "kN", 2),
            "load": Figure("Load in all", float(np.linalg.norm(load)), "kN", 1),
            "reaction": Figure("Reaction upward", float(sign * done.reactions[:, 2].sum()), "kN", 1),
        }
        return made_net(settled, figures, warnings)

    def _diagnosis(
        self, net: Net, done: Settled, terms: list[tuple[Term, NDArray[np.int64]]], lengths: Array
    ) -> list[Notice]:
        out = []
        if not done.converged:
            gaps = sorted(((t.gap(done.vertices), t.name) for t, _ in terms), reverse=True)
            most = f"; furthest off is the aim for {gaps[0][1]}" if len(gaps) > 1 else ""
            out.append(Notice(
                f"After {len(done.residuals) - 1} steps {done.residuals[-1] * 100:.2g} % of the load is not balanced{most}. More "
                "steps, or a weaker aim that fights another, will help.", value="steps",
            ))  # fmt: skip
        small = np.flatnonzero(lengths < COLLAPSED * np.median(net.edge_lengths))
        if len(small):
            out.append(Notice(
                f"{len(small)} edges have all but collapsed, {_what_collapsed(net, lengths)}: an aim for equal lengths there, or "
                "holding them, keeps them.", at=place_of(done.vertices[net.edges[small[0]]].mean(axis=0)),
            ))  # fmt: skip
        return out


def _what_collapsed(net: Net, lengths: Array) -> str:
    small = lengths < COLLAPSED * np.median(net.edge_lengths)
    border = float(net.border[small].mean())
    return "those of the border" if border > 0.8 else "those within" if border < 0.2 else "at the border and within"
