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
from wise_cellar.core.units import format_celsius, format_grams, format_minutes, format_share
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
            f"Cells that would rest at {rest:.2f} V give {volts:.2f} V: {1000 * (rest - volts):.0f} mV a cell are lost"
            f"{_of_wiring(answer, amps)}.",
        ),
        Step(
            "Charge",
            f"Of {label:.1f} Ah on the label {used:.2f} Ah are used before the end: {answer.energy_used_wh:.0f} Wh.",
        ),
        Step("Minutes", _energy_over_power(answer)),
        Step("End", answer.reason.sentence),
    )


def _amps(answer: Answer, there: Bools) -> str:
    """What the packs give on the mean of a block."""
    amps = float(np.mean(answer.series.pack_a[there]))
    if len(answer.packs) == 1:
        each = amps / answer.build.recipe.parallel_count
        return f"On the mean of this block {amps:.1f} A from the pack, {each:.1f} A from each cell."
    shares = [float(np.mean(pack.series.amps[there])) for pack in answer.packs]
    told = ", ".join(
        f"{share:.1f} A from the {lower_first(pack.complete.name)}"
        for share, pack in zip(shares, answer.packs, strict=True)
    )
    return f"On the mean of this block {amps:.1f} A from all packs: {told}."


def _of_wiring(answer: Answer, amps: float) -> str:
    """What of the lost volts is lost in wiring, where there is one pack."""
    if len(answer.packs) > 1:
        return ", as the packs share the load by their own volts and resistances"
    ohm, series = answer.build.wiring_ohm, answer.build.recipe.series_count
    return f", of which {1000 * amps * ohm / series:.0f} in {1e3 * ohm:.1f} mΩ of wiring"


def _energy_over_power(answer: Answer) -> str:
    energy, power = answer.energy_used_wh, answer.mean_power_w
    if answer.duration_s <= 0 or power <= 0:
        return "Nothing is flown: no time is spent in the air."
    flown = f"{energy:.1f} Wh"
    if answer.ground_wh > 0.05:
        flown = f"({flown} − {answer.ground_wh:.1f} Wh on the ground)"
    minutes = 60 * (energy - answer.ground_wh) / power
    return f"{flown} ÷ {power:.0f} W on the mean of all that is flown = {minutes:.1f} min in the air."


def _mass_step(complete: CompleteDesign, answer: Answer) -> Step:
    payload = complete.design.conditions.payload_g
    parts = [f"{format_grams(complete.dry_mass_g)} of craft"]
    parts += [f"{format_grams(pack.build.mass_g)} of {lower_first(pack.complete.name)}" for pack in answer.packs]
    parts += [f"{format_grams(payload)} of payload"] if payload else []
    weight = answer.takeoff_mass_g * 1e-3 * GRAVITY_M_S2
    return Step("Mass", f"{' + '.join(parts)} = {format_grams(answer.takeoff_mass_g)}, a weight of {weight:.1f} N.")


def _power_steps(complete: CompleteDesign, lowered: LoweredDesign, block: int) -> tuple[Step, ...]:
    """Air, thrust and power of the block that takes most of the time, at its first step."""
    step = int(np.flatnonzero(lowered.steps.block == block)[0])
    carrier, steps, weight = lowered.propulsion, lowered.steps, np.array([lowered.weight_n])
    airspeed = float(carrier.airspeed_m_s(weight, steps)[step])
    motors = float(carrier.step_power(weight, steps)[0][step])
    label = f"{complete.mission.blocks[block].label}, the longest block, flies at {airspeed:.1f} m/s"
    factor = f", times {carrier.factor:.2f} from the known flight" if abs(carrier.factor - 1.0) > 0.005 else ""
    conditions = complete.design.conditions
    told = _rotor_steps if isinstance(carrier, RotorPropulsion) else _wing_steps
    return (
        Step(
            "Air",
            f"{carrier.density:.3f} kg/m³ at {conditions.altitude_m:.0f} m and"
            f" {format_celsius(conditions.air_temperature_c)}.",
        ),
        *told(carrier, lowered.weight_n, airspeed, label, factor),  # type: ignore[arg-type]
        Step(
            "Motors",
            f"This block takes {motors:.0f} W at the battery, and {complete.craft.load_w:.1f} W go to everything else.",
        ),
    )


def _bench_steps(complete: CompleteDesign, answer: Answer) -> tuple[Step, ...]:
    """A mission that never leaves the ground: nothing is lifted, and what flows is what was held."""
    series = answer.series
    block = complete.mission.blocks[series.longest_block]
    there = series.block == series.longest_block
    watts = float(np.mean(series.pack_a[there] * series.loaded_v[there])) * complete.pack.recipe.series_count
    held = f" with {block.throttle_percent:g} % throttle held" if block.kind is BlockKind.THROTTLE else ""
    return (Step("Bench", f"{block.label}, the longest block, stays on the ground{held}: {watts:.0f} W on its mean."),)


def _rotor_steps(carrier: RotorPropulsion, weight: float, airspeed: float, label: str, factor: str) -> tuple[Step, ...]:
    drag = 0.5 * carrier.density * airspeed**2 * carrier.drag_area_m2
    induced = math.sqrt(weight / (2 * carrier.density * carrier.area_m2))
    hover = weight * induced / carrier.figure_of_merit
    return (
        Step(
            "Thrust",
            f"{label}: {drag:.1f} N of drag, {math.hypot(weight, drag):.1f} N of thrust"
            f" on {carrier.area_m2:.3f} m² of discs.",
        ),
        Step(
            "Power",
            f"A hover would take {weight:.1f} N × {induced:.2f} m/s ÷ {carrier.figure_of_merit:.2f} (figure of merit) ="
            f" {hover:.0f} W at the shafts{factor}.",
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
            f"{label}, {airspeed / stall:.2f} times its stall of {stall:.1f} m/s: {weight:.1f} N on"
            f" {100 * polar.area_m2:.0f} dm² take a lift coefficient of {lift:.2f}.",
        ),
        Step(
            "Drag",
            f"{polar.zero_lift_drag:.3f} + {polar.induced_factor:.3f} × {lift:.2f}² ="
            f" {polar.zero_lift_drag + polar.induced_factor * lift**2:.4f}: {drag:.2f} N.",
        ),
        Step(
            "Power",
            f"Level, {drag:.2f} N × {airspeed:.1f} m/s ÷ {carrier.efficiency:.2f} (efficiency of the drive) ="
            f" {drag * airspeed / carrier.efficiency:.0f} W at the battery{factor}.",
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
        entries = ", ".join(f"{entry.name.lower()} {entry.mass_g:.1f} g" for entry in pack.build.masses)
        steps.append(Step(pack.complete.name, f"{entries}."))
    steps.append(_mass_step(complete, answer))
    return (*steps, Step("Limit", f"{room} the {format_grams(limit)} allowed.")) if limit else tuple(steps)


def _punch(complete: CompleteDesign, answer: Answer) -> tuple[Step, ...]:
    late = answer.late_punch
    called = float(np.interp(answer.landing_call_s, answer.series.time_s, answer.series.resting_v))
    over = complete.craft.margin_over
    lost = called - late.volts_a_cell
    return (
        Step("When", f"Full throttle for {answer.punch_s:g} s when the landing rule calls, at {_clock(answer)}."),
        Step(
            "Amps",
            f"Motors at full throttle draw {late.bus_a:.0f} A, {late.amps_a_cell:.0f} A from each cell"
            f"{_whose(answer)}.",
        ),
        Step(
            "Volts",
            "Motors and loads ask for more than these cells can supply at any current: the volts collapse."
            if late.collapsed
            else f"Cells that would rest at {called:.2f} V sag by {lost:.2f} V to {late.volts_a_cell:.2f} V as the"
            f" craft sees them: {late.bus_v:.1f} V on the bus.",
        ),
        Step(
            "Thrust",
            f"On {late.bus_v:.1f} V the propellers give {late.thrust_n:.1f} N, {late.thrust_margin:.1f} times {over}"
            f" of {late.thrust_n / max(late.thrust_margin, 1e-9):.1f} N.",
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
        Step("Pack", f"{currents.cruise_a:.1f} A at the most of cruise, {currents.punch_a:.0f} A in a punch."),
        Step("Link", f"{link.name} carries {link.cruise_a:.1f} A and {link.punch_a:.1f} A of it."),
        Step(
            "Limit",
            f"{link.cruise_limit_a:.1f} A for good, {link.punch_limit_a:.1f} A for the {currents.punch_s:g} s of a"
            f" punch: {format_share(link.cruise_share)} at cruise, {format_share(link.punch_share)} in the punch.",
        ),
    ]
    if link.rises_k is not None:
        cruise, punch = link.rises_k
        steps.append(
            Step("Heat", f"It warms by {cruise:.0f} K at cruise and by {punch:.0f} K at the end of the punch.")
        )
    if link.by_flight:
        share = format_share(link.flown_share)
        words = (
            f"The bursts of the flight, one after another, warm it by {link.flown_rise_k:.0f} K: {share}."
            if link.flown_rise_k is not None
            else f"{link.held_a:.1f} A last longer than a burst may: {share} of what it gives for good."
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
            f" {answer.resting_v:.2f} V, where they gave {answer.series.loaded_v[-1]:.2f} V under load.",
        ),
    )


_STEPS: dict[Asked, Callable[[CompleteDesign, Answer], tuple[Step, ...]]] = {
    Asked.MINUTES: _minutes,
    Asked.MASS: _mass,
    Asked.PUNCH: _punch,
    Asked.LINK: _link,
    Asked.END: _end,
}
