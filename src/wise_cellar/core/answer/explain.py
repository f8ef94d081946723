"""How an answer comes about: the steps of the calculation with this design's own numbers in them."""

from __future__ import annotations

import math
from collections.abc import Callable
from dataclasses import dataclass
from enum import StrEnum

import numpy as np

from wise_cellar.core.answer.result import Answer
from wise_cellar.core.documents import BlockKind, CompleteDesign
from wise_cellar.core.lowering.designs import LoweredDesign, lower_one
from wise_cellar.core.physics.arrays import GRAVITY_M_S2, Bools
from wise_cellar.core.physics.wing import drag_n
from wise_cellar.core.propulsion.carrier import RotorPropulsion, WingPropulsion
from wise_cellar.core.units import (
    format_amps,
    format_celsius,
    format_grams,
    format_metres,
    format_minutes,
    format_number,
    format_rise,
    format_share,
    format_significant,
    format_speed,
    format_volts,
    format_watts,
)
from wise_cellar.core.words import lower_first


class Asked(StrEnum):
    """What is explained."""

    MINUTES = "the minutes"
    MASS = "the take-off mass"
    PUNCH = "the late punch"
    LINK = "the weakest link"
    END = "why it lands"


@dataclass(frozen=True)
class Step:
    """One step: a word for it, and the sentence with its numbers."""

    name: str
    sentence: str


def explain(complete: CompleteDesign, answer: Answer, asked: Asked) -> tuple[Step, ...]:
    """The steps behind an answer, in the order of the calculation."""
    return _STEPS[asked](complete, answer)


def as_text(asked: Asked, steps: tuple[Step, ...]) -> str:
    """All steps as lines, for the clipboard."""
    return "\n".join([f"How {asked} comes about", *(f"{step.name}: {step.sentence}" for step in steps)])


def _minutes(complete: CompleteDesign, answer: Answer) -> tuple[Step, ...]:
    lowered = lower_one(complete, answer.factor)
    series = answer.series
    longest = series.longest_block
    there = series.block == longest
    amps, volts = float(np.mean(series.pack_a[there])), float(np.mean(series.loaded_v[there]))
    rest = float(np.mean(series.resting_v[there]))
    label = sum(pack.label_mah for pack in complete.packs) / 1000
    used = float(series.charge_used_mah[-1]) / 1000
    return (
        _mass_step(complete, answer),
        *(_power_steps(complete, lowered, longest) if series.in_air[there].any() else _bench_steps(complete, answer)),
        Step("Amps", _amps(answer, there)),
        Step(
            "Volts",
            f"Cells that would rest at {format_volts(rest)} give {format_volts(volts)}:"
            f" {format_number(1000 * (rest - volts), 0)} mV a cell are lost{_of_wiring(answer, amps)}.",
        ),
        Step(
            "Charge",
            f"Of {format_number(label, 1)} Ah on the label {format_number(used, 2)} Ah are used before the end:"
            f" {format_number(answer.energy_used_wh, 0)} Wh.",
        ),
        Step("Minutes", _energy_over_power(answer)),
        Step("End", answer.reason.sentence),
    )


def _amps(answer: Answer, there: Bools) -> str:
    """What the packs give on the mean of a block."""
    amps = float(np.mean(answer.series.pack_a[there]))
    if len(answer.packs) == 1:
        each = amps / answer.build.recipe.parallel_count
        return f"On the mean of this block {format_amps(amps)} from the pack, {format_amps(each)} from each cell."
    shares = [float(np.mean(pack.series.amps[there])) for pack in answer.packs]
    told = ", ".join(
        f"{format_amps(share)} from the {lower_first(pack.complete.name)}"
        for share, pack in zip(shares, answer.packs, strict=True)
    )
    return f"On the mean of this block {format_amps(amps)} from all packs: {told}."


def _of_wiring(answer: Answer, amps: float) -> str:
    """What of the lost volts is lost in wiring, where there is one pack."""
    if len(answer.packs) > 1:
        return ", as the packs share the load by their own volts and resistances"
    ohm, series = answer.build.wiring_ohm, answer.build.recipe.series_count
    return f", of which {format_number(1000 * amps * ohm / series, 0)} in {format_number(1e3 * ohm, 1)} mΩ of wiring"


def _energy_over_power(answer: Answer) -> str:
    energy, power = answer.energy_used_wh, answer.mean_power_w
    if answer.duration_s <= 0 or power <= 0:
        return "Nothing is flown: no time is spent in the air."
    flown = f"{format_number(energy, 1)} Wh"
    if answer.ground_wh > 0.05:
        flown = f"({flown} − {format_number(answer.ground_wh, 1)} Wh on the ground)"
    minutes = 60 * (energy - answer.ground_wh) / power
    return (
        f"{flown} ÷ {format_watts(power)} on the mean of all that is flown = {format_number(minutes, 1)} min"
        " in the air."
    )


def _mass_step(complete: CompleteDesign, answer: Answer) -> Step:
    payload = complete.design.conditions.payload_g
    parts = [f"{format_grams(complete.dry_mass_g)} of craft"]
    parts += [f"{format_grams(pack.build.mass_g)} of {lower_first(pack.complete.name)}" for pack in answer.packs]
    parts += [f"{format_grams(payload)} of payload"] if payload else []
    weight = answer.takeoff_mass_g * 1e-3 * GRAVITY_M_S2
    return Step(
        "Mass",
        f"{' + '.join(parts)} = {format_grams(answer.takeoff_mass_g)}, a weight of {format_number(weight, 1)} N.",
    )


def _power_steps(complete: CompleteDesign, lowered: LoweredDesign, block: int) -> tuple[Step, ...]:
    """Air, thrust and power of the block that takes most of the time, at its first step."""
    step = int(np.flatnonzero(lowered.steps.block == block)[0])
    carrier, steps, weight = lowered.propulsion, lowered.steps, np.array([lowered.weight_n])
    airspeed = float(carrier.airspeed_m_s(weight, steps)[step])
    motors = float(carrier.step_power(weight, steps)[0][step])
    label = f"{complete.mission.blocks[block].label}, the longest block, flies at {format_speed(airspeed)}"
    factor = (
        f", times {format_number(carrier.factor, 2)} from the known flight" if abs(carrier.factor - 1.0) > 0.005 else ""
    )
    conditions = complete.design.conditions
    told = _rotor_steps if isinstance(carrier, RotorPropulsion) else _wing_steps
    return (
        Step(
            "Air",
            f"{format_number(carrier.density, 3)} kg/m³ at {format_metres(conditions.altitude_m)} and"
            f" {format_celsius(conditions.air_temperature_c)}.",
        ),
        *told(carrier, lowered.weight_n, airspeed, label, factor),  # type: ignore[arg-type]
        Step(
            "Motors",
            f"This block takes {format_watts(motors)} at the battery, and"
            f" {format_watts(complete.craft.load_w, 1)} go to everything else.",
        ),
    )


def _bench_steps(complete: CompleteDesign, answer: Answer) -> tuple[Step, ...]:
    """A mission that never leaves the ground: nothing is lifted, and what flows is what was held."""
    series = answer.series
    block = complete.mission.blocks[series.longest_block]
    there = series.block == series.longest_block
    watts = float(np.mean(series.pack_a[there] * series.loaded_v[there])) * complete.pack.recipe.series_count
    held = (
        f" with {format_significant(block.throttle_percent)} % throttle held"
        if block.kind is BlockKind.THROTTLE
        else ""
    )
    return (
        Step(
            "Bench",
            f"{block.label}, the longest block, stays on the ground{held}: {format_watts(watts)} on its mean.",
        ),
    )


def _rotor_steps(carrier: RotorPropulsion, weight: float, airspeed: float, label: str, factor: str) -> tuple[Step, ...]:
    drag = 0.5 * carrier.density * airspeed**2 * carrier.drag_area_m2
    induced = math.sqrt(weight / (2 * carrier.density * carrier.area_m2))
    hover = weight * induced / carrier.figure_of_merit
    return (
        Step(
            "Thrust",
            f"{label}: {format_number(drag, 1)} N of drag, {format_number(math.hypot(weight, drag), 1)} N of thrust"
            f" on {format_number(carrier.area_m2, 3)} m² of discs.",
        ),
        Step(
            "Power",
            f"A hover would take {format_number(weight, 1)} N × {format_number(induced, 2)} m/s ÷"
            f" {format_number(carrier.figure_of_merit, 2)} (figure of merit) = {format_watts(hover)} at"
            f" the shafts{factor}.",
        ),
    )


def _wing_steps(carrier: WingPropulsion, weight: float, airspeed: float, label: str, factor: str) -> tuple[Step, ...]:
    polar = carrier.polar
    drag = float(drag_n(polar, carrier.density, weight, airspeed))
    lift = weight / (0.5 * carrier.density * airspeed**2 * polar.area_m2)
    stall = float(carrier.stall_m_s(np.array([weight]))[0])
    return (
        Step(
            "Wing",
            f"{label}, {format_number(airspeed / stall, 2)} times its stall of {format_speed(stall)}:"
            f" {format_number(weight, 1)} N on {format_number(100 * polar.area_m2, 0)} dm² take a lift"
            f" coefficient of {format_number(lift, 2)}.",
        ),
        Step(
            "Drag",
            f"{format_number(polar.zero_lift_drag, 3)} + {format_number(polar.induced_factor, 3)} ×"
            f" {format_number(lift, 2)}² ="
            f" {format_number(polar.zero_lift_drag + polar.induced_factor * lift**2, 4)}:"
            f" {format_number(drag, 2)} N.",
        ),
        Step(
            "Power",
            f"Level, {format_number(drag, 2)} N × {format_number(airspeed, 1)} m/s ÷"
            f" {format_number(carrier.efficiency, 2)} (efficiency of the drive) ="
            f" {format_watts(drag * airspeed / carrier.efficiency)} at the battery{factor}.",
        ),
    )


def _mass(complete: CompleteDesign, answer: Answer) -> tuple[Step, ...]:
    parts = ", ".join(f"{part.name} {format_grams(part.mass_g)}" for part in complete.craft.parts)
    limit = complete.craft.max_takeoff_mass_g
    room = (
        f"{format_grams(limit - answer.takeoff_mass_g)} under" if limit and limit >= answer.takeoff_mass_g else "over"
    )
    off = ", ".join(f"{part.name} {format_grams(part.mass_g)}" for part in complete.design.taken_off)
    steps = [Step("Craft", f"{parts}{f'; taken off: {off}' if off else ''}.")]
    for pack in answer.packs:
        entries = ", ".join(f"{entry.name.lower()} {format_grams(entry.mass_g, 1)}" for entry in pack.build.masses)
        steps.append(Step(pack.complete.name, f"{entries}."))
    steps.append(_mass_step(complete, answer))
    return (*steps, Step("Limit", f"{room} the {format_grams(limit)} allowed.")) if limit else tuple(steps)


def _punch(complete: CompleteDesign, answer: Answer) -> tuple[Step, ...]:
    late = answer.late_punch
    called = float(np.interp(answer.landing_call_s, answer.series.time_s, answer.series.resting_v))
    over = complete.craft.margin_over
    lost = called - late.volts_a_cell
    return (
        Step(
            "When",
            f"Full throttle for {format_significant(answer.punch_s)} s when the landing rule calls, at"
            f" {_clock(answer)}.",
        ),
        Step(
            "Amps",
            f"Motors at full throttle draw {format_amps(late.bus_a, 0)},"
            f" {format_amps(late.amps_a_cell, 0)} from each cell{_whose(answer)}.",
        ),
        Step(
            "Volts",
            "Motors and loads ask for more than these cells can supply at any current: the volts collapse."
            if late.collapsed
            else (
                f"Cells that would rest at {format_volts(called)} sag by {format_volts(lost)} to"
                f" {format_volts(late.volts_a_cell)} as the craft sees them: {format_volts(late.bus_v, 1)}"
                " on the bus."
            ),
        ),
        Step(
            "Thrust",
            f"On {format_volts(late.bus_v, 1)} the propellers give {format_number(late.thrust_n, 1)} N,"
            f" {format_number(late.thrust_margin, 1)} times {over} of"
            f" {format_number(late.thrust_n / max(late.thrust_margin, 1e-9), 1)} N.",
        ),
    )


def _whose(answer: Answer) -> str:
    return "" if len(answer.packs) == 1 else f" of the {lower_first(answer.packs[0].complete.name)}"


def _clock(answer: Answer) -> str:
    return format_minutes(answer.landing_call_s)


def _link(_complete: CompleteDesign, answer: Answer) -> tuple[Step, ...]:
    link = answer.weak_link
    currents = answer.bus_currents if link.pack is None else answer.packs[link.pack].currents
    steps = [
        Step(
            "Pack",
            (f"{format_amps(currents.cruise_a)} at the most of cruise, {format_amps(currents.punch_a, 0)} in a punch."),
        ),
        Step(
            "Link",
            f"{link.name} carries {format_amps(link.cruise_a)} and {format_amps(link.punch_a)} of it.",
        ),
        Step(
            "Limit",
            f"{format_amps(link.cruise_limit_a)} for good, {format_amps(link.punch_limit_a)} for"
            f" the {format_significant(currents.punch_s)} s of a punch: {format_share(link.cruise_share)} at"
            f" cruise, {format_share(link.punch_share)} in the punch.",
        ),
    ]
    if link.rises_k is not None:
        cruise, punch = link.rises_k
        steps.append(
            Step(
                "Heat",
                f"It warms by {format_rise(cruise)} at cruise and by {format_rise(punch)} at the end of the punch.",
            )
        )
    if link.by_flight:
        share = format_share(link.flown_share)
        words = (
            f"The bursts of the flight, one after another, warm it by {format_rise(link.flown_rise_k)}: {share}."
            if link.flown_rise_k is not None
            else f"{format_amps(link.held_a)} last longer than a burst may: {share} of what it gives for good."
            if link.held_a
            else f"The bursts of the flight, one after another, come to {share} of what it bears."
        )
        steps.append(Step("Flight", words))
    return tuple(steps)


def _end(complete: CompleteDesign, answer: Answer) -> tuple[Step, ...]:
    return (
        Step("Rule", answer.reason.sentence),
        Step(
            "Then",
            f"{format_share(answer.charge_left)} of the charge is left; the cells come to rest at"
            f" {format_volts(answer.resting_v)}, where they gave"
            f" {format_volts(answer.series.loaded_v[-1])} under load.",
        ),
    )


_STEPS: dict[Asked, Callable[[CompleteDesign, Answer], tuple[Step, ...]]] = {
    Asked.MINUTES: _minutes,
    Asked.MASS: _mass,
    Asked.PUNCH: _punch,
    Asked.LINK: _link,
    Asked.END: _end,
}
