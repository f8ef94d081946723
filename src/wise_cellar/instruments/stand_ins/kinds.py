"""The kinds of stand-ins, each on the cells and the pack of a design."""

from __future__ import annotations

from collections.abc import Callable
from dataclasses import dataclass

from wise_cellar.core.answer import answer
from wise_cellar.core.charge import charge_plan
from wise_cellar.core.documents import CompleteDesign, DocumentError
from wise_cellar.core.words import quoted
from wise_cellar.instruments.stand_ins.charger import PackCharger
from wise_cellar.instruments.stand_ins.craft import FlyingCraft
from wise_cellar.instruments.stand_ins.load import Load
from wise_cellar.instruments.stand_ins.stand_in import StandIn
from wise_cellar.instruments.stand_ins.tray import CellMeter, Scale


@dataclass(frozen=True)
class Kind:
    """What may be stood in for."""

    title: str
    make: Callable[[CompleteDesign, int, bool], StandIn]


def _charger(complete: CompleteDesign, seed: int, _by_hand: bool) -> StandIn:
    plan = charge_plan(complete, answer(complete))
    if plan.refused:
        raise DocumentError(f"Nothing is charged by this plan: {plan.refused}")
    if plan.drains:
        raise DocumentError("This plan takes charge out; the charger that stands in only puts it in.")
    return PackCharger(plan, seed, complete.design.charger.balance_a)


def _pack_load(complete: CompleteDesign, seed: int, _by_hand: bool) -> StandIn:
    recipe = complete.pack.recipe
    return Load(complete.pack.cell, seed, recipe.series_count, recipe.parallel_count)


KINDS = {
    "meter": Kind("cell meter", lambda on, seed, by_hand: CellMeter(on.pack.cell, seed, by_hand=by_hand)),
    "scale": Kind("scale", lambda on, seed, by_hand: Scale(on.pack.cell, seed, by_hand=by_hand)),
    "load": Kind("load on one cell", lambda on, seed, _by_hand: Load(on.pack.cell, seed)),
    "pack-load": Kind("load on the pack", _pack_load),
    "craft": Kind("craft in flight", lambda on, seed, _by_hand: FlyingCraft(on, seed)),
    "charger": Kind("charger on the pack", _charger),
}
"""By the word that a command takes."""


def made(kind: str, on: CompleteDesign, seed: int, *, by_hand: bool = False) -> StandIn:
    """A stand-in of a kind on what a design has; ``by_hand``: the next cell comes when a reading was taken.

    Raises :class:`DocumentError` where there is no such kind, or none on this design.
    """
    if kind not in KINDS:
        raise DocumentError(f"{quoted(kind)} is no kind of stand-in: one of {', '.join(KINDS)}.")
    return KINDS[kind].make(on, seed, by_hand)
