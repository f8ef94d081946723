"""Landing policies side by side, and what to set on the craft's alarms."""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np

from wise_cellar.core.answer.hover import hover_left_s
from wise_cellar.core.answer.result import Answer
from wise_cellar.core.cells import resting_curve
from wise_cellar.core.csv_text import csv_text
from wise_cellar.core.documents import AlarmNames, CompleteDesign, LandingBasis, LandingPolicy, LandingRule
from wise_cellar.core.flight.batch import Ending, least, total
from wise_cellar.core.flight.integrator import fly
from wise_cellar.core.lowering.designs import lower, lower_one
from wise_cellar.core.units import (
    format_amps,
    format_mah,
    format_minutes,
    format_number,
    format_significant,
    format_volts,
)

WARNING_S = 120.0
"""How long before the landing rule calls the pilot is warned."""
FULLEST_CELL_V = 4.35
"""What a charger or a craft takes for the most that one cell can have, when it counts cells by itself."""
SENSOR_DOUBT = 0.10


@dataclass(frozen=True)
class PolicyOutcome:
    """One policy, or the landing by volts in bursts, flown."""

    policy: LandingPolicy | None
    """None of the volts that are seen in bursts."""
    threshold_v: float
    reserve: float | None
    """Share of the charge at which it calls besides; none of the design's own volts."""
    duration_s: float
    used_share: float
    """Charge given over the label's."""
    resting_v: float
    """Of a cell, after the rebound; of several packs the least."""
    hover_left_s: float
    """Hover until a cell meets its minimum or a load stops, begun where the flight ended: what is left to go round."""
    ending: Ending


@dataclass(frozen=True)
class AlarmCard:
    """What to set before the flight, from this very flight."""

    cells: int
    miscount_below: float | None
    """State of charge under which a count by voltage finds fewer cells; none where it never does."""
    miscount_cells: int
    warning_s: float
    """How long before the landing rule calls it warns; less than two minutes of a flight that is shorter."""
    punch_s: float
    warning_v: float
    land_v: float
    """A cell, under load at cruise; where it goes by bursts, as they show it."""
    in_bursts: bool
    warning_mah: float
    land_mah: float
    """Taken from the packs that the craft's counter sees."""
    capacity_mah: float
    cruise_a: float
    """Mean of the flight's longest block, which the craft's sensor ought to read."""


def policies(complete: CompleteDesign, factor: float) -> tuple[PolicyOutcome, ...]:
    """The three ready policies, the design's own volts where they are its rule, and the volts of bursts where there are
    any, in one batch."""
    wanted: list[LandingPolicy | None] = [LandingPolicy.GENTLE, LandingPolicy.BALANCED, LandingPolicy.DEEP]
    if complete.design.landing.policy is LandingPolicy.OWN:
        wanted.append(LandingPolicy.OWN)
    if complete.mission.has_bursts:
        wanted.append(None)
    designs = [_with_policy(complete, policy) for policy in wanted]
    lowered = [lower_one(design, factor) for design in designs]
    batch = lower(lowered)
    flown = fly(batch)
    left = hover_left_s(lowered, batch, flown)
    label = sum(pack.label_mah for pack in complete.packs)
    given = total(flown.charge_c * batch.parallel) / 3.6
    rest = least(batch.cell.ocv(flown.end_state.soc))
    return tuple(
        PolicyOutcome(
            policy,
            design.design.landing.burst_voltage_v if policy is None else design.landing_voltage_v,
            design.design.landing.reserve,
            float(flown.lasted_s[place]),
            float(given[place]) / label,
            float(rest[place]),
            float(left[place]),
            Ending(int(flown.ending[place])),
        )
        for place, (policy, design) in enumerate(zip(wanted, designs, strict=True))
    )


def _with_policy(complete: CompleteDesign, policy: LandingPolicy | None) -> CompleteDesign:
    present = complete.design.landing
    if policy is None:
        rule = LandingRule(basis=LandingBasis.BURSTS, burst_voltage_v=present.burst_voltage_v)
    else:
        rule = LandingRule(policy=policy, own_voltage_v=present.own_voltage_v, hold_s=present.hold_s)
    return complete.changed(design=complete.design.changed(landing=rule))


def alarm_card(complete: CompleteDesign, answer: Answer) -> AlarmCard:
    """What to set on the craft, from the present flight: its volts and charge when the rule calls, and before."""
    recipe, series = complete.pack.recipe, answer.series
    call = answer.landing_call_s
    warning_s = min(WARNING_S, call)
    before = call - warning_s
    quiet = np.concatenate([[True], np.diff(series.time_s) > 0])

    def at(values: np.ndarray, second: float) -> float:
        return float(np.interp(second, series.time_s[quiet], values[quiet]))

    below, fewer = _miscount(complete)
    seen = np.array(complete.counted, float)
    used = seen @ np.array([pack.series.given_mah for pack in answer.packs])
    loaded = complete.design.landing.basis is LandingBasis.LOADED
    in_bursts = complete.design.landing.basis is LandingBasis.BURSTS
    volts = series.punch_v if in_bursts else series.loaded_v
    seen_v = complete.design.landing.burst_voltage_v if in_bursts else at(volts, call)
    land_v = max(complete.landing_voltage_v, seen_v) if loaded else seen_v
    return AlarmCard(
        cells=recipe.series_count,
        miscount_below=below,
        miscount_cells=fewer,
        warning_s=warning_s,
        punch_s=answer.punch_s,
        warning_v=max(at(volts, before), land_v),
        land_v=land_v,
        in_bursts=in_bursts,
        warning_mah=at(used, before),
        land_mah=at(used, call),
        capacity_mah=float(seen @ [pack.label_mah for pack in complete.packs]),
        cruise_a=float(np.mean(series.pack_a[series.block == series.longest_block])),
    )


def _miscount(complete: CompleteDesign) -> tuple[float | None, int]:
    """Where a count goes wrong that takes the fewest cells which could hold the resting voltage.

    It finds ceil(S·v/4.35) cells at v volts a cell, fewer than S once v ≤ 4.35·(S − 1)/S.
    """
    series = complete.pack.recipe.series_count
    volts = FULLEST_CELL_V * (series - 1) / series
    curve = resting_curve(complete.pack.cell)
    soc = np.linspace(0.0, 1.0, len(curve.values))
    if volts <= curve.values[0]:
        return None, series
    return float(np.interp(volts, curve.values, soc)), series - 1


def card_lines(complete: CompleteDesign, card: AlarmCard) -> list[str]:
    """The card in sentences, for the clipboard and the field."""
    warn, land = card.warning_v * card.cells, card.land_v * card.cells
    craft, design = complete.craft.name, complete.design.name
    lines = [design if design.startswith(craft) else f"{craft}, {design}"]
    lines.append(f"Lock the cell count at {card.cells}.")
    if card.miscount_below is not None:
        lines[-1] = (
            f"Lock the cell count at {card.cells}: below {format_number(100 * card.miscount_below, 0)} % of"
            f" charge a count by voltage takes it for {card.miscount_cells} cells, and every alarm is wrong."
        )
    how = "in a burst" if card.in_bursts else "under load"
    delay = (
        (
            f"Set the alarm's delay shorter than your punch of {format_significant(card.punch_s)} s, so that a burst"
            " sets it off."
        )
        if card.in_bursts
        else (
            f"Set the alarm's delay longer than your punch of {format_significant(card.punch_s)} s, or punches set"
            " it off."
        )
    )
    lines += [
        f"Warning at {format_volts(card.warning_v)} a cell {how}, {format_volts(warn, 1)} in all:"
        f" {format_minutes(card.warning_s)} are left.",
        f"Land now at {format_volts(card.land_v)} a cell {how}, {format_volts(land, 1)} in all.",
        f"Warning at {format_mah(card.warning_mah)} used, land at {format_number(card.land_mah, 0)} of"
        f" {format_mah(card.capacity_mah)}.",
        delay,
        (
            f"At cruise the current sensor should read {format_amps(card.cruise_a)}; one that is"
            f" {format_number(100 * SENSOR_DOUBT, 0)} % off is set wrong, and so is its count of charge."
        ),
    ]
    return lines


@dataclass(frozen=True)
class AlarmValue:
    """One value of the card for a device: its field among a craft's :class:`AlarmNames`, our name, the number."""

    field: str
    name: str
    value: float
    decimals: int

    @property
    def text(self) -> str:
        """The number, plain."""
        return f"{self.value:.{self.decimals}f}"


def alarm_values(card: AlarmCard) -> tuple[AlarmValue, ...]:
    """What a device is told: volts of the pack under load, and charge in mAh."""
    return (
        AlarmValue("capacity", "pack_capacity_mah", card.capacity_mah, 0),
        AlarmValue("warning", "warning_pack_v", card.warning_v * card.cells, 2),
        AlarmValue("landing", "land_pack_v", card.land_v * card.cells, 2),
        AlarmValue("warning_left", "warning_left_mah", max(card.capacity_mah - card.warning_mah, 0.0), 0),
        AlarmValue("landing_left", "land_left_mah", max(card.capacity_mah - card.land_mah, 0.0), 0),
    )


def card_values(card: AlarmCard, names: AlarmNames, *, as_table: bool = False) -> str:
    """The card as lines of ``name = value``, or as a table of two columns, under what the craft's device calls each.

    A value for which no name of the device is known stands under our own.
    """
    rows = [(getattr(names, one.field) or one.name, one.text) for one in alarm_values(card)]
    if as_table:
        return csv_text([("name", "value"), *rows])
    return "".join(f"{name} = {value}\n" for name, value in rows)
