"""The designs of a search flown in batches, by the integrator that flies a single one."""

from __future__ import annotations

from collections.abc import Callable, Sequence
from dataclasses import dataclass, fields

import numpy as np

from wise_cellar.core.answer.bus import (
    first_current_a,
    no_match,
    rests_too_high,
    takes_too_much,
    too_far_apart,
)
from wise_cellar.core.answer.limits import full_bus_v, of_whole_packs, strip_room_mm, strip_too_short, strip_too_wide
from wise_cellar.core.answer.switch_on import switch_on_v
from wise_cellar.core.cells import (
    VENTING_C,
    Verdict,
    burst_limit_a,
    charge_limit_a,
    half_charge_slope,
    lasting_limit_a,
    one_hour_a,
    sheet_verdict,
)
from wise_cellar.core.documents import CellType
from wise_cellar.core.flight import FlightBatch, FlightTraces, fly
from wise_cellar.core.flight.balance import Blocks, at_rest, evaluate
from wise_cellar.core.flight.batch import total
from wise_cellar.core.flight.punch import PunchOutcome, punch_from
from wise_cellar.core.lowering.designs import punch_seconds
from wise_cellar.core.lowering.packs import hottest_c
from wise_cellar.core.lowering.rows import LoweredRows, batch_of, lower_rows
from wise_cellar.core.lowering.space import Space
from wise_cellar.core.pack import stow
from wise_cellar.core.pack.rating import OUTWARDS, STRIPS, Carried, Carrier, carriers_of, cell_share, worst_of_pack
from wise_cellar.core.physics.arrays import ZERO_CELSIUS_K, Bools, Floats, Ints
from wise_cellar.core.physics.cell import CellState
from wise_cellar.core.physics.charging import COOL_C, chargeable_a
from wise_cellar.core.propulsion.handling import quickness
from wise_cellar.core.propulsion.steps import StepArrays

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
    quickness: Floats
    """About the slower of roll and pitch, over the craft with the battery it flies now; 1 of a wing."""
    least_bus_v: Floats
    """Of a first and a late burst, and of switching on."""
    hottest_c: Floats
    inside_c: Floats
    """The middle of the warmest cell."""
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
    """Leads, fuse or connector, whichever is worst."""
    joint_share: Floats
    """Welds or springs on the cells."""
    craft_share: Floats
    """ESCs or motors."""
    others_share: Floats
    """The worst link of any pack beside the searched one; 0 where there is none."""
    others_within: Floats
    """1 where packs beside are sound and stay within their temperatures."""
    fits_bus: Floats
    """1 where no pack is charged by the others with more, or higher, than it may."""
    fits: Floats
    """1 where it goes into the bay; of an auxiliary, where the craft's own battery does."""
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
        *(
            np.concatenate([getattr(batch.start, f.name), getattr(flown.late_state, f.name)], axis=-1)
            for f in fields(CellState)
        )
    )
    both = punch_from(batch, states, seconds, np.tile(np.arange(count), 2), standing=np.arange(2 * count) < count)

    def part(some: slice) -> PunchOutcome:
        return PunchOutcome(*(getattr(both, f.name)[..., some] for f in fields(PunchOutcome)))

    return part(slice(count)), part(slice(count, None))


def _columns(
    rows: Ints, lowered: LoweredRows, batch: FlightBatch, flown: FlightTraces, first: PunchOutcome, late: PunchOutcome
) -> Flown:
    complete, packs = lowered.complete, lowered.packs
    every = _Packs.of(lowered, batch, flown, (first, late))
    cruise, punch = every.cruise_a[0], every.punch_a[0]
    parallel = batch.parallel[0, 0]
    cruise_a, punch_a = cruise * parallel, punch * parallel
    carried = every.carried(0, batch, flown, punch_seconds(complete))
    carriers = lowered.carriers.shares(carried)
    bus_a = np.max([flown.cruise_bus_a, first.bus_a, late.bus_a, flown.punch_bus_a], axis=0)
    seconds = punch_seconds(complete)
    price = lowered.of_cells(lambda cell: np.nan if cell.price is None else cell.price)
    inside = lowered.of_cells(lambda cell: cell.cells_in_series)
    sheet = lowered.of_cells(lambda cell: sheet_verdict(cell) is not Verdict.CANNOT_BE)
    motors = max(1 / complete.craft.esc.max_current_a, 1 / complete.craft.motor.max_current_a)
    full_v = max((pack.complete.cell.max_voltage_v for pack in lowered.others), default=0.0)
    held = batch.parallel * batch.cell.charge_c * batch.group_share
    left = total(held * flown.end_state.soc) / total(held)
    return Flown(
        row=rows,
        pack_g=lowered.pack_g,
        takeoff_g=lowered.takeoff_g,
        duration_s=flown.lasted_s,
        ending=flown.ending,
        charge_left=left,
        usable_wh=flown.bus_energy_j / 3600,
        late_v=late.bus_v / batch.series,
        late_margin=late.thrust_margin,
        early_margin=first.thrust_margin,
        quickness=_quickness(lowered),
        least_bus_v=np.minimum(np.minimum(first.bus_v, late.bus_v), _switch_on_v(lowered, batch)),
        hottest_c=every.hottest_c[0],
        inside_c=lowered.carriers.inside_c(carried),
        coldest_c=every.coldest_c[0],
        hover_throttle=_hover_throttle(lowered, batch),
        price=packs.units * price,
        full_v=full_bus_v(batch.series, np.maximum(lowered.of_cells(lambda cell: cell.max_voltage_v), full_v)),
        cruise_a=cruise_a,
        punch_a=punch_a,
        cell_share=cell_share(
            packs.worst_share, cruise, punch, flown.held_current_a[0, 0], lowered.of_cells(lasting_limit_a),
            lowered.of_cells(lambda cell: burst_limit_a(cell, seconds)),
        ),
        strip_share=carriers[:, STRIPS].max(axis=1),
        lead_share=carriers[:, OUTWARDS].max(axis=1),
        joint_share=carriers[:, Carrier.JOINT],
        craft_share=bus_a * motors / complete.craft.rotors.count,
        others_share=every.others_share(lowered, batch, flown, seconds),
        others_within=every.others_within(lowered, batch, flown).astype(float),
        fits_bus=_fits_bus(lowered, batch, flown).astype(float),
        fits=_fits(lowered).astype(float),
        whole=(of_whole_packs(batch.series, inside) & (sheet > 0)).astype(float),
        strip_fits=_strip_fits(lowered),
    )  # fmt: skip


@dataclass(frozen=True)
class _Packs:
    """What every pack carried and how warm it got, arrays of shape ``(packs, rows)``."""

    cruise_a: Floats
    punch_a: Floats
    """Of one cell."""
    hottest_c: Floats
    coldest_c: Floats

    @classmethod
    def of(
        cls, lowered: LoweredRows, batch: FlightBatch, flown: FlightTraces, bursts: tuple[PunchOutcome, ...]
    ) -> _Packs:
        air = lowered.complete.design.conditions.air_temperature_c
        shares = np.array([lowered.packs.worst_share, *(np.full(batch.flights, pack.build.worst_share)
                                                        for pack in lowered.others)])  # fmt: skip
        return cls(
            flown.cruise_current_a[:, 0],
            np.max([flown.punch_current_a, *(burst.current_a for burst in bursts)], axis=0)[:, 0],
            hottest_c(flown.hottest_k.max(axis=1), air, shares),
            flown.coldest_k.min(axis=1) - ZERO_CELSIUS_K,
        )

    def carried(self, place: int, batch: FlightBatch, flown: FlightTraces, seconds: float) -> Carried:
        """What one place on the bus carries in every row."""
        count = batch.parallel[place, 0]
        return Carried(
            self.cruise_a[place] * count, self.punch_a[place] * count, seconds,
            (flown.felt_a2[place] * count**2).T, self.hottest_c[place],
        )  # fmt: skip

    def others_share(self, lowered: LoweredRows, batch: FlightBatch, flown: FlightTraces, seconds: float) -> Floats:
        """The worst link of any pack beside the searched one, over its limit; 0 where there is none."""
        worst = np.zeros(self.cruise_a.shape[1])
        for place, pack in enumerate(lowered.others, 1):
            held_a = flown.held_current_a[place, 0] * batch.parallel[place, 0]
            worst = np.maximum(worst, worst_of_pack(pack.build, self.carried(place, batch, flown, seconds), held_a))
        return worst

    def others_within(self, lowered: LoweredRows, batch: FlightBatch, flown: FlightTraces) -> Bools:
        """Whether every pack beside stays within its own temperatures."""
        within = np.ones(self.cruise_a.shape[1], bool)
        for place, pack in enumerate(lowered.others, 1):
            cell = pack.complete.cell
            within &= self.hottest_c[place] <= cell.max_temperature_c
            within &= self.coldest_c[place] >= cell.min_temperature_c
            carried = self.carried(place, batch, flown, punch_seconds(lowered.complete))
            within &= carriers_of(pack.build).take(np.zeros(batch.flights, np.intp)).inside_c(carried) <= VENTING_C
            within &= sheet_verdict(cell) is not Verdict.CANNOT_BE
        return within


def _fits_bus(lowered: LoweredRows, batch: FlightBatch, flown: FlightTraces) -> Bools:
    """Whether no pack is charged by the others, joined or in flight, with more than it may, or higher than it may be;
    and whether they rest near enough to each other to be joined. What flows after landing is no limit of a design:
    hands part the packs."""
    if not lowered.others:
        return np.ones(batch.flights, bool)

    def of_each(value: Callable[[CellType], float]) -> Floats:
        others = [np.full(batch.flights, value(pack.complete.cell)) for pack in lowered.others]
        return np.array([lowered.of_cells(value), *others])

    parallel, rest_v, full_v = batch.parallel[:, 0], batch.rest_v[:, 0], of_each(lambda cell: cell.max_voltage_v)
    one_hour, rating = of_each(one_hour_a), of_each(lambda cell: charge_limit_a(cell, COOL_C))
    harmed = rests_too_high(rest_v, full_v)
    for taken_a, kelvin in (
        (-first_current_a(batch)[:, 0] * parallel, batch.start.temperature_k),
        (flown.taken_current_a[:, 0] * parallel, flown.coldest_k),
    ):
        may_a = chargeable_a(rating, one_hour, kelvin.min(axis=1) - ZERO_CELSIUS_K) * parallel
        harmed |= takes_too_much(taken_a, may_a)
    return np.asarray(~(harmed.any(axis=0) | no_match(full_v) | too_far_apart(rest_v, batch.series)))


def _fits(lowered: LoweredRows) -> Bools:
    """Whether what belongs into the bay goes in: the craft's own battery where it has one, else the searched pack."""
    bay = lowered.complete.craft.bay
    own = next((pack.build.layout for pack in lowered.others if pack.complete.own), None)
    if own is None or bay is None:
        return lowered.packs.fits
    return np.full(len(lowered.packs.fits), stow(own, bay) is not None)


def _strip_fits(lowered: LoweredRows) -> Floats:
    strip, packs = lowered.complete.pack.recipe.strip, lowered.packs
    too_wide = strip_too_wide(strip.width_mm, lowered.of_cells(strip_room_mm)) & (packs.longest_piece_mm > 0)
    return np.asarray(~(too_wide | strip_too_short(packs.longest_piece_mm, strip.piece_mm)), float)


def _quickness(lowered: LoweredRows) -> Floats:
    """As each pack lies; those beside it count as part of it."""
    complete, packs = lowered.complete, lowered.packs
    count = len(packs.mass_g)
    if complete.craft.wing is not None:
        return np.ones(count)
    bay = complete.craft.bay
    kilos = 1e-3 * (lowered.pack_g + sum(pack.build.mass_g for pack in lowered.others))
    size = (1e-3 * packs.along_mm, 1e-3 * packs.across_mm, 1e-3 * packs.up_mm)
    _, share = quickness(complete, kilos, size, 1e-3 * bay.above_mm if bay is not None else 0.0)
    return np.asarray(share[:2].min(axis=0))


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
    others = [np.full(batch.flights, half_charge_slope(pack.complete.cell)) for pack in lowered.others]
    slopes = np.array([lowered.of_cells(half_charge_slope), *others])
    source = at_rest(batch, slopes[:, None])
    return np.asarray(switch_on_v(craft, source).min(axis=0, initial=np.inf))
