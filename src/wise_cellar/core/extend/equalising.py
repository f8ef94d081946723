"""What flows between packs once they are on one bus and nothing else is drawn: its decay, the charge moved, the heat.

Flown by the integrator with a block of no power, so with the surface lag and the polarisation of every cell. With
neither, and straight resting voltages, two packs are two capacitors behind ΣR: I = ΔE/ΣR·exp(−t/τ) with
τ = ΣR·C₁C₂/(C₁ + C₂) and C = 3600·Q/(dE/dz); a test holds the flight to that.
"""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np

from wise_cellar.core.answer.bus import BusStart, PackOnBus, charge_percent_at
from wise_cellar.core.cells import charge_limit_a, one_hour_a
from wise_cellar.core.documents import CompleteDesign
from wise_cellar.core.flight import FlightBatch, fly
from wise_cellar.core.flight.batch import of_pack
from wise_cellar.core.lowering import lower, lower_one
from wise_cellar.core.physics.arrays import ZERO_CELSIUS_K, Floats
from wise_cellar.core.physics.charging import COOL_C
from wise_cellar.core.units import format_amps, format_celsius, format_mah, format_number, format_volts
from wise_cellar.core.words import lower_first

WATCHED_S = 4 * 3600.0
SETTLED_SHARE = 0.1
"""Of the first current: when it counts as over."""
SMALL_A = 0.01
TOLERANCE_V = 2e-5
"""A step's error in volts is one of amps over so little resistance."""


@dataclass(frozen=True)
class Equalising:
    """Put on one bus at rest, arrays of shape ``(points,)`` or ``(packs, points)``."""

    time_s: Floats
    amps: Floats
    """Of each pack; negative where it takes."""
    rest_v: Floats
    """Volts a cell of each pack, after a rest of its own."""
    settled_s: float
    """When the current has fallen to a tenth; infinite where it does not in four hours."""
    moved_mah: float
    """Charge that went from pack to pack in all that time."""
    heat_j: float
    """Left in cells and wires in all that time."""
    warmest_c: float

    @property
    def first_a(self) -> float:
        """The greatest current of any pack at the first moment."""
        return float(np.abs(self.amps[:, 0]).max())


def equalise(complete: CompleteDesign) -> Equalising | None:
    """Put the packs of a design on one bus at their present charge; none where it has one pack."""
    batch = lower([lower_one(complete, 1.0)])
    return None if len(batch.parallel) == 1 else equalised(batch)


def equalised(batch: FlightBatch) -> Equalising:
    """The same of a batch of one flight with several packs."""
    idle = batch.one_block(WATCHED_S, power_w=np.zeros(1))
    trace = fly(idle, record=True, tolerance_v=TOLERANCE_V).trace[0]
    amps = (trace.current_a * batch.parallel)[:, 0]
    every = np.zeros(len(trace.time_s), np.intp)
    rest_v = of_pack(batch.group_share, batch.cell.ocv[..., every](trace.state.soc))[:, 0]
    largest = np.abs(amps).max(axis=0)
    calm = np.flatnonzero(largest <= max(SETTLED_SHARE * largest[0], SMALL_A))
    # All groups of a pack give the same charge.
    drawn_c = ((batch.start.soc - trace.state.soc) * batch.cell.charge_c * batch.parallel)[:, 0]
    given_c = drawn_c[:, -1].clip(0.0)
    # All that one gives goes into the other or to heat: what is lost is the energy at rest before, less that after.
    lost_j = batch.series * np.diff(drawn_c, axis=1) * 0.5 * (rest_v[:, 1:] + rest_v[:, :-1])
    return Equalising(
        time_s=trace.time_s,
        amps=amps,
        rest_v=rest_v,
        settled_s=float(trace.time_s[calm[0]]) if len(calm) else np.inf,
        moved_mah=float(given_c.sum()) / 3.6,
        heat_j=float(lost_j.sum()),
        warmest_c=float(trace.state.temperature_k.max()) - ZERO_CELSIUS_K,
    )


def bus_sentences(start: BusStart, flow: Equalising) -> tuple[str, ...]:
    """What happens when they are plugged in, whether it may, within which window, and what to charge to first."""
    return (*_flow_words(start, flow), *_window_words(start), *_full_words(start))


def verdict(start: BusStart, flow: Equalising) -> str:
    """Whether these packs may be put on one bus as they are, in a line."""
    taker = start.taker
    if flow.first_a < SMALL_A:
        return "They may be put on one bus as they are: nothing flows."
    if start.safe:
        return f"They may be put on one bus as they are: {format_amps(-taker.current_a)} flow at first."
    into = lower_first(taker.complete.name)
    if taker.too_much:
        may = format_amps(taker.limit_a)
        return f"Not as they are: {format_amps(-taker.current_a)} into the {into}, which may take {may}."
    return f"Not as they are: {format_amps(-taker.current_a)} would flow into the {into} at once."


def figures(start: BusStart, flow: Equalising) -> list[tuple[str, ...]]:
    """The numbers behind it: a row a pack under a head, then what comes of it."""
    rows: list[tuple[str, ...]] = [("", "rests at", "at once", "may take")]
    rows += [
        (
            pack.complete.name,
            f"{format_volts(pack.rest_v)} a cell",
            format_amps(pack.current_a),
            format_amps(pack.limit_a) if pack.current_a < 0 else "",
        )
        for pack in start.packs
    ]
    settles = _time(flow.settled_s) if np.isfinite(flow.settled_s) else "over four hours"
    rows.append(("Until a tenth flows", settles, format_mah(flow.moved_mah), format_celsius(flow.warmest_c)))
    return rows


def _flow_words(start: BusStart, flow: Equalising) -> list[str]:
    rest = ", ".join(f"{lower_first(pack.complete.name)} {format_volts(pack.rest_v)}" for pack in start.packs)
    if flow.first_a < SMALL_A:
        return [f"They rest at the same volts a cell ({rest}): nothing flows on one bus."]
    taker = start.taker
    settled = (
        f"falls to a tenth in {_time(flow.settled_s)}" if np.isfinite(flow.settled_s) else "goes on for over four hours"
    )
    may = "more than" if taker.too_much else "within"
    return [
        (
            f"They rest at {rest} a cell. On one bus, {format_amps(-taker.current_a, 2)} flow into the"
            f" {lower_first(taker.complete.name)} at once, {may} the {format_amps(taker.limit_a)} it may be"
            f" charged with ({_rating_words(taker)})."
        ),
        f"The current {settled}; {format_mah(flow.moved_mah)} move in all, and {_heat(flow.heat_j)} of heat stay in"
        f" cells and wires: {format_celsius(flow.warmest_c)} at the most.",
    ]


def _rating_words(pack: PackOnBus) -> str:
    cell = pack.complete.cell
    if pack.limit_a < charge_limit_a(cell, COOL_C) * pack.complete.recipe.parallel_count:
        return f"at its {format_celsius(pack.celsius)}"
    if cell.charge_current_a is None:
        return "half of 1C, as its sheet tells no charge current"
    return "1C" if cell.charge_current_a > one_hour_a(cell) else "its charge rating"


def _window_words(start: BusStart) -> list[str]:
    first = start.packs[0]
    below, above = 1000 * first.below_v, 1000 * first.above_v
    return [
        (
            f"Put the {lower_first(first.complete.name)} on the bus only where it rests between"
            f" {format_number(below, 0)} mV under and {format_number(above, 0)} mV over the other, a cell:"
            f" {format_number(below * start.series_count, 0)} and {format_number(above * start.series_count, 0)} mV"
            " at the plug. Measure both before you plug in, every time."
        )
    ]


def _full_words(start: BusStart) -> list[str]:
    lowest, words = start.lower_full_v, []
    for pack in start.above_lower_full:
        percent = charge_percent_at(pack.complete, lowest)
        lost = (100 - percent) / 100 * pack.complete.label_mah * pack.complete.state.capacity_percent / 100
        words.append(
            f"The {lower_first(pack.complete.name)} would be full at"
            f" {format_volts(pack.complete.cell.max_voltage_v)} a cell; on this bus it is charged to"
            f" {format_volts(lowest)}, {format_number(percent, 0)} % of its charge. {format_mah(lost)} are"
            " given up."
        )
    if not words:
        words.append(f"All of them are full at {format_volts(lowest)} a cell.")
    return words


def _time(seconds: float) -> str:
    return f"{format_number(seconds, 0)} s" if seconds < 100 else f"{format_number(seconds / 60, 0)} min"


def _heat(joules: float) -> str:
    return f"{format_number(joules, 0)} J" if joules >= 10 else f"{format_number(joules, 1)} J"
