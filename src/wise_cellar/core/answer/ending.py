"""The end of a flight in words, and the field that governs it."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass

import numpy as np

from wise_cellar.core.documents import CompleteDesign, CompletePack, LandingBasis, LandingPolicy, Load
from wise_cellar.core.flight.batch import Ending, FlightBatch, FlightTraces, total
from wise_cellar.core.lowering.packs import LoweredPack, group_words
from wise_cellar.core.units import format_mah, format_number, format_significant, format_volts
from wise_cellar.core.words import lower_first

SOC_WITHIN = 2e-3
"""A rule calls some seconds after its reserve is met, as long as it holds."""


@dataclass(frozen=True)
class EndReason:
    """Why the flight ends: a few words for the band, a sentence, and the field to look at."""

    ending: Ending
    words: str
    sentence: str
    field: str


_FIELD_OF = {
    LandingBasis.LOADED: "design.landing.policy",
    LandingBasis.BURSTS: "design.landing.burst_voltage_v",
    LandingBasis.RESTING: "design.landing.resting_voltage_v",
    LandingBasis.CHARGE: "design.landing.charge_percent",
    LandingBasis.COUNTER: "design.landing.counter_mah",
}


def _called(complete: CompleteDesign, batch: FlightBatch, flown: FlightTraces) -> str:
    """How the landing rule came to call."""
    rule, used = complete.design.landing, complete.landing_charge_mah
    calls = "ends the run" if complete.mission.on_bench else "calls the craft home"
    if rule.basis is LandingBasis.BURSTS:
        return f"A burst shows {format_volts(rule.burst_voltage_v)} a cell, and the landing rule {calls}."
    if rule.basis is LandingBasis.RESTING:
        return f"Cells would rest at {format_volts(rule.resting_voltage_v)}, and the landing rule {calls}."
    if used is not None:
        whose = "The craft has counted" if rule.basis is LandingBasis.COUNTER else "The pack has given"
        return (
            f"{whose} {format_mah(used)}, {format_number(rule.charge_percent, 0)} % of what it goes by, and is"
            " called home."
        )
    left = float(total(batch.counted * flown.late_state.soc)[0])
    if rule.reserve is not None and left <= rule.reserve + SOC_WITHIN:
        return (
            f"{format_number(100 * rule.reserve, 0)} % of the charge is left, the reserve of the {rule.policy}"
            f" landing rule, which {calls}."
        )
    whose = "your own" if rule.policy is LandingPolicy.OWN else f"the {rule.policy}"
    return (
        f"Cells stay at {format_volts(complete.landing_voltage_v)} under load for"
        f" {format_significant(rule.hold_s)} s, and {whose} landing rule {calls}."
    )


def first_to_stop(complete: CompleteDesign) -> tuple[int, Load] | None:
    """The load with the highest minimum input voltage, and its place in the craft's list."""
    loads = list(enumerate(complete.craft.loads))
    return max(loads, key=lambda entry: entry[1].least_bus_v) if loads else None


def _met_its_minimum(packs: Sequence[LoweredPack], flown: FlightTraces) -> tuple[CompletePack, str]:
    """The pack whose cells came to their minimum, and which of its groups, where they differ."""
    least = np.array([[pack.complete.cell.min_voltage_v] for pack in packs])
    margins = flown.end_cell_v[..., 0] - least
    place, number = np.unravel_index(int(np.argmin(margins)), margins.shape)
    pack = packs[int(place)]
    groups = pack.groups
    words = group_words(groups[int(number)].members) if len(groups) > 1 else ""
    return pack.complete, words


def end_reason(
    complete: CompleteDesign, packs: Sequence[LoweredPack], batch: FlightBatch, flown: FlightTraces
) -> EndReason:
    """The reason why the batch's only flight ended."""
    ending = Ending(int(flown.ending[0]))
    rule = complete.design.landing
    if ending is Ending.RESERVE_REACHED:
        words = {
            LandingBasis.COUNTER: "its own counter says empty",
            LandingBasis.BURSTS: f"a burst shows {format_volts(rule.burst_voltage_v)}",
        }.get(rule.basis, "the reserve is reached")
        return EndReason(ending, words, _called(complete, batch, flown), _FIELD_OF[rule.basis])
    if ending is Ending.CELL_CUT_OFF:
        pack, group = _met_its_minimum(packs, flown)
        of = "" if pack.alone else f" of the {lower_first(pack.name)}"
        whose = f"Cells of {group}{of}" if group else f"Cells{of}"
        called = flown.landing_call_s[0] < flown.end_s[0]
        when = "while landing: the rule calls too late for this mission" if called else "before the landing rule calls"
        return EndReason(
            ending,
            "cells sag to their minimum",
            (
                f"{whose} sag to {format_volts(pack.cell.min_voltage_v)} under load, the least"
                f" {pack.cell.name} allows, {when}."
            ),
            _FIELD_OF[rule.basis] if called else pack.path("cell.min_voltage_v"),
        )
    if ending is Ending.BROWN_OUT:
        stopping = first_to_stop(complete)
        assert stopping is not None, "only a load can brown out"
        place, load = stopping
        return EndReason(
            ending,
            f"{load.name} browns out",
            f"The pack sags to {format_volts(load.least_bus_v, 1)}, and {load.name} stops below that.",
            f"craft.loads.{place}.min_input_v",
        )
    if ending is Ending.OUT_OF_THRUST:
        return EndReason(
            ending,
            "it runs out of thrust",
            "Holding the craft needs more than 95 % throttle at this voltage: nothing is left to steer with.",
            "design.packs.0.recipe.series_count",
        )
    if ending is Ending.NO_POWER:
        return EndReason(
            ending,
            "cells cannot supply the power",
            "The power asked for is more than these cells can deliver at any current: their resistance is too high.",
            "design.packs.0.cell_type_id",
        )
    return EndReason(
        ending,
        "the mission is complete",
        "Every block of the mission is flown with charge to spare.",
        "mission.blocks",
    )
