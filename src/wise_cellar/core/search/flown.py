"""The designs of a search flown in batches, by the integrator that flies a single one."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass, fields

import numpy as np

from wise_cellar.core.cells import Verdict, half_charge_slope, sheet_verdict
from wise_cellar.core.flight import FlightBatch, FlightTraces, fly
from wise_cellar.core.flight.balance import Blocks, evaluate
from wise_cellar.core.flight.lowering import punch_seconds
from wise_cellar.core.flight.pack_findings import WIDEST_STRIP
from wise_cellar.core.flight.plan import StepArrays
from wise_cellar.core.flight.punch import PunchOutcome, punch_from
from wise_cellar.core.pack.ledger import CONNECTORS
from wise_cellar.core.physics import cell as law
from wise_cellar.core.physics.arrays import ZERO_CELSIUS_K, Floats, Ints
from wise_cellar.core.physics.cell import CellState, pulse_resistance_ohm
from wise_cellar.core.physics.conductor import LEAD_RISE_K, STRIP_RISE_K, worst_shares
from wise_cellar.core.search.packs import PackTable
from wise_cellar.core.search.rows import LoweredRows, batch_of, lower_rows
from wise_cellar.core.search.space import Space

MOST_AT_ONCE, LEAST_AT_ONCE = 12_000, 250
"""More at once are flown faster each, and are longer in coming."""
FIRST_AT_ONCE = 2500
"""Of a search that takes some seconds the first are few, so that something is seen soon."""
MOST_STEPS_AT_ONCE = 150_000
"""Flights times steps of the mission: what bounds the memory of a batch."""


@dataclass(frozen=True)
class Flown:
    """What a search keeps of every design, one column each of shape ``(rows,)``, in people's units."""

    row: Ints
    pack_g: Floats
    takeoff_g: Floats
    duration_s: Floats
    ending: Ints
    charge_left: Floats
    usable_wh: Floats
    late_v: Floats
    """Volts a cell, as the craft sees them, at the end of a burst begun when the landing rule calls."""
    late_margin: Floats
    early_margin: Floats
    least_bus_v: Floats
    """Of a first and a late burst, and of switching on."""
    hottest_c: Floats
    coldest_c: Floats
    hover_throttle: Floats
    """Of a full pack, 1 = full; of a wing where it holds its height."""
    price: Floats
    """Of all cells; not a number where a cell has no price."""
    full_v: Floats
    cruise_a: Floats
    """Of the pack, the most in any block but a punch."""
    punch_a: Floats
    cell_share: Floats
    """Worse of cruise and punch over what the cell that carries most may give, 1 = all of it."""
    strip_share: Floats
    lead_share: Floats
    """Leads or connector, whichever is worse."""
    craft_share: Floats
    """ESCs or motors."""
    fits: Floats
    """1 where it goes into the bay."""
    whole: Floats
    """1 where it is made of whole packs and of cells whose sheet can be true."""
    strip_fits: Floats
    """1 where the strip is neither too wide for the cells nor too short."""

    def take(self, some: Ints) -> Flown:
        """Some of the rows."""
        return Flown(*(getattr(self, f.name)[some] for f in fields(self)))

    def __len__(self) -> int:
        return len(self.row)


def joined(parts: Sequence[Flown]) -> Flown:
    """All rows of several results, in order of their rows."""
    whole = Flown(*(np.concatenate([getattr(part, f.name) for part in parts]) for f in fields(Flown)))
    return whole.take(np.argsort(whole.row, kind="stable"))


def in_parts(space: Space, workers: int) -> list[Ints]:
    """The rows of a space in batches: large ones to be fast, bounded for memory, as many as there are workers or a
    multiple of it."""
    rows = space.rows
    steps = len(StepArrays.of(space.complete.mission, space.complete.design.conditions).seconds)
    most = min(MOST_AT_ONCE, max(MOST_STEPS_AT_ONCE // steps, LEAST_AT_ONCE))
    early = min(FIRST_AT_ONCE, most) * workers if len(rows) > most * workers else 0
    rounds = max(-(-(len(rows) - early) // (most * workers)), 1)
    parts = np.array_split(rows[:early], workers) + np.array_split(rows[early:], rounds * workers)
    return [part for part in parts if len(part)]


def fly_rows(space: Space, rows: Ints, factor: float) -> Flown:
    """Fly some rows of a space in one batch; ``factor`` is the craft's calibration."""
    lowered = lower_rows(space, rows, factor)
    batch = batch_of(lowered)
    flown = fly(batch)
    first, late = _punches(batch, flown, punch_seconds(space.complete))
    return _columns(rows, lowered, batch, flown, first, late)


def _punches(batch: FlightBatch, flown: FlightTraces, seconds: float) -> tuple[PunchOutcome, PunchOutcome]:
    """From the start, which for a wing is its launch, and from where the landing rule called."""
    count = batch.flights
    states = CellState(
        *(np.concatenate([getattr(batch.start, f.name), getattr(flown.late_state, f.name)]) for f in fields(CellState))
    )
    both = punch_from(batch, states, seconds, np.tile(np.arange(count), 2), standing=np.arange(2 * count) < count)

    def part(some: slice) -> PunchOutcome:
        return PunchOutcome(*(getattr(both, f.name)[some] for f in fields(PunchOutcome)))

    return part(slice(count)), part(slice(count, None))


def _columns(
    rows: Ints, lowered: LoweredRows, batch: FlightBatch, flown: FlightTraces, first: PunchOutcome, late: PunchOutcome
) -> Flown:
    complete, packs = lowered.complete, lowered.packs
    cruise, punch = flown.cruise_current_a, np.maximum(first.current_a, flown.punch_current_a)
    cruise_a, punch_a = cruise * batch.parallel, punch * batch.parallel
    seconds = punch_seconds(complete)
    air = complete.design.conditions.air_temperature_c
    price = lowered.of_cells(lambda cell: np.nan if cell.price is None else cell.price)
    inside = lowered.of_cells(lambda cell: cell.cells_in_series)
    sheet = lowered.of_cells(lambda cell: sheet_verdict(cell) is not Verdict.CANNOT_BE)
    motors = max(1 / complete.craft.esc.max_current_a, 1 / complete.craft.motor.max_current_a)
    return Flown(
        row=rows,
        pack_g=lowered.pack_g,
        takeoff_g=lowered.takeoff_g,
        duration_s=flown.airborne_s,
        ending=flown.ending,
        charge_left=flown.end_state.soc,
        usable_wh=flown.energy_j / 3600,
        late_v=late.bus_v / batch.series,
        late_margin=late.thrust_margin,
        early_margin=first.thrust_margin,
        least_bus_v=np.minimum(np.minimum(first.bus_v, late.bus_v), _switch_on_v(lowered, batch)),
        hottest_c=air + (flown.hottest_k - ZERO_CELSIUS_K - air) * packs.worst_share**2,
        coldest_c=flown.coldest_k - ZERO_CELSIUS_K,
        hover_throttle=_hover_throttle(lowered, batch),
        price=packs.units * price,
        full_v=batch.series * lowered.of_cells(lambda cell: cell.max_voltage_v),
        cruise_a=cruise_a,
        punch_a=punch_a,
        cell_share=packs.worst_share * np.maximum(
            cruise / lowered.of_cells(lambda cell: cell.limit_current_a),
            punch / lowered.of_cells(lambda cell: cell.limit_for(seconds)),
        ),
        strip_share=_strip_share(packs, cruise_a, punch_a, seconds),
        lead_share=_lead_share(lowered, cruise_a, punch_a, seconds),
        craft_share=np.maximum(cruise_a, punch_a) * motors / complete.craft.rotors.count,
        fits=packs.fits.astype(float),
        whole=((batch.series % inside == 0) & (sheet > 0)).astype(float),
        strip_fits=_strip_fits(lowered),
    )  # fmt: skip


def _strip_share(packs: PackTable, cruise_a: Floats, punch_a: Floats, seconds: float) -> Floats:
    cruise, punch = packs.strip_share * cruise_a[:, None], packs.strip_share * punch_a[:, None]
    shares = worst_shares(packs.strip_rise_k_a2, packs.strip_time_s, STRIP_RISE_K, cruise, punch, seconds)
    return np.asarray(shares.max(axis=1))


def _lead_share(lowered: LoweredRows, cruise_a: Floats, punch_a: Floats, seconds: float) -> Floats:
    leads, plug = lowered.leads, CONNECTORS[lowered.complete.design.recipe.leads.connector].heating
    rise, time_s = np.array(plug.rise_k_a2), np.array(plug.time_constant_s)
    return np.maximum(
        worst_shares(leads.rise_k_a2, leads.time_s, LEAD_RISE_K, cruise_a, punch_a, seconds),
        worst_shares(rise, time_s, LEAD_RISE_K, cruise_a, punch_a, seconds),
    )


def _strip_fits(lowered: LoweredRows) -> Floats:
    strip, packs = lowered.complete.design.recipe.strip, lowered.packs
    room = lowered.of_cells(
        lambda cell: cell.diameter_mm if cell.diameter_mm is not None else (cell.width_mm or 0.0) / 2
    )
    long_enough = strip.piece_mm is None or packs.longest_piece_mm <= strip.piece_mm
    narrow = (strip.width_mm <= WIDEST_STRIP * room) | (packs.longest_piece_mm == 0)
    return np.asarray(narrow & long_enough, float)


def _hover_throttle(lowered: LoweredRows, batch: FlightBatch) -> Floats:
    """Volts that the motors need in a hover over what the full pack gives in it."""
    power, motor_v = lowered.carrier.step_power(batch.weight_n[:, None], lowered.space.hover)
    hover = batch.one_block(1.0, power_w=power[:, 0] + batch.load_w)
    every = np.arange(batch.flights)
    bus_v = evaluate(hover, hover.start, Blocks(hover).demand(every, np.zeros_like(every))).bus_v
    return np.asarray(motor_v[:, 0] / bus_v)


def _switch_on_v(lowered: LoweredRows, batch: FlightBatch) -> Floats:
    """Least bus volts while any load starts; infinite where none draws more at its start."""
    craft = lowered.complete.craft
    slope = lowered.of_cells(half_charge_slope)
    rest = batch.series * batch.cell.ocv(batch.start.soc)
    inner = pulse_resistance_ohm(batch.cell, slope) * batch.series / batch.parallel + batch.wiring_ohm
    volts = np.full(batch.flights, np.inf)
    for load in craft.loads:
        if load.startup_w > load.power_w:
            watts = np.array(craft.load_w - load.bus_power_w + load.startup_w)
            volts = np.minimum(volts, law.voltage_under_power(rest, inner, watts))
    return volts
