"""What becomes of an auxiliary where the craft is charged through its own port."""

from __future__ import annotations

from dataclasses import dataclass

from wise_cellar.core.answer import Answer
from wise_cellar.core.answer.bus import SAME_V, TRACE_A, PackOnBus
from wise_cellar.core.cells import NO_RATING_RATE, one_hour_a
from wise_cellar.core.units import format_amps, format_volts
from wise_cellar.core.words import lower_first


@dataclass(frozen=True)
class ThroughCraft:
    """A charger on the craft's own port, set for its own battery, with all packs on one bus and resting alike."""

    charger_a: float
    """What its own battery may be charged with by its maker."""
    own: PackOnBus
    other: PackOnBus
    """The auxiliary that comes off worst."""
    into_other_a: float
    """Its share of the charger's current, by its conductance."""
    over_v: float
    """Volts a cell by which the charger's end is over what the auxiliary may have; 0 where it is not."""

    @property
    def sentence(self) -> str:
        """In words."""
        name, own = lower_first(self.other.complete.name), lower_first(self.own.complete.name)
        full = self.own.complete.cell.max_voltage_v
        end = (
            (
                f"It ends at {format_volts(full)} a cell, {format_volts(self.over_v)} over what"
                f" {self.other.complete.cell.name} may have: overcharged, it can vent and burn."
            )
            if self.over_v > SAME_V
            else f"It ends at {format_volts(full)} a cell, which the {name} may have."
        )
        return (
            f"A charger on the craft's port, set for the {own} at {format_amps(self.charger_a)}, would"
            f" put {format_amps(self.into_other_a)} of it into the {name}, which may take"
            f" {format_amps(self.other.limit_a)}. {end} Nothing there balances the {name}'s cells. Take"
            " it off before you charge in the craft, and charge each by itself."
        )


def charge_through_craft(answer: Answer) -> ThroughCraft | None:
    """None where the craft has no battery of its own beside the recipe's pack."""
    packs = answer.bus_start.packs if answer.bus_start is not None else ()
    own = next((pack for pack in packs if pack.complete.own), None)
    if own is None:
        return None
    cell = own.complete.cell
    each = NO_RATING_RATE * one_hour_a(cell) if cell.charge_current_a is None else cell.charge_current_a
    charger = each * own.complete.recipe.parallel_count
    together = sum(1 / pack.ohm for pack in packs)

    def over_v(pack: PackOnBus) -> float:
        return max(cell.max_voltage_v - pack.complete.cell.max_voltage_v, 0.0)

    def amps(pack: PackOnBus) -> float:
        return charger / pack.ohm / together

    worst = max(
        (pack for pack in packs if pack is not own),
        key=lambda p: (over_v(p) > SAME_V, amps(p) / max(p.limit_a, TRACE_A)),
    )
    return ThroughCraft(charger, own, worst, amps(worst), over_v(worst))
