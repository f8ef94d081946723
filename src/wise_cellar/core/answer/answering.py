"""The answer to one design: five answers, the chain, the traces, and what to be careful about."""

from __future__ import annotations

from dataclasses import replace

import numpy as np

from wise_cellar.core.answer.both_ends import OtherEnd, other_end, other_rule
from wise_cellar.core.answer.bus import bus_start
from wise_cellar.core.answer.bus_links import bus_links, pack_currents
from wise_cellar.core.answer.ending import EndReason, end_reason
from wise_cellar.core.answer.findings import findings
from wise_cellar.core.answer.hover import hover_left_s
from wise_cellar.core.answer.result import Answer, GroupAnswer, PackAnswer, PackSeries, PunchAnswer, Series
from wise_cellar.core.cells import half_charge_slope
from wise_cellar.core.documents import CompleteDesign
from wise_cellar.core.flight.balance import at_rest
from wise_cellar.core.flight.batch import Ending, FlightBatch, FlightTraces, Trace, least, of_pack, total
from wise_cellar.core.flight.integrator import fly
from wise_cellar.core.flight.punch import PunchOutcome, punch_from
from wise_cellar.core.lowering.designs import LoweredDesign, lower, lower_one, punch_seconds
from wise_cellar.core.lowering.packs import LoweredPack
from wise_cellar.core.pack import PackCurrents
from wise_cellar.core.pack.rating import carriers_of
from wise_cellar.core.physics.arrays import ZERO_CELSIUS_K, Floats, Ints
from wise_cellar.core.physics.cell import CellState, pulse_resistance_ohm, rested_v
from wise_cellar.core.propulsion.calibration import calibrate

REBOUND_S = np.array([0.0, 1.0, 2.0, 5.0, 10.0, 20.0, 40.0, 80.0, 160.0, 320.0, 640.0, 1800.0, 3600.0])
"""After the end: when the volts of cells that rest are told."""
SOON, HOUR = (int(np.searchsorted(REBOUND_S, seconds)) for seconds in (10.0, 3600.0))
"""Of those, when a pilot reads the volts after landing, and when they tell the charge."""


def answer(complete: CompleteDesign, power_share: float = 1.0) -> Answer:
    """Fly one complete design and answer for it; ``power_share``: it needs so much of the power that it is thought to.

    Raises :class:`~wise_cellar.core.documents.DocumentError` when the craft's known flight cannot be explained.
    """
    calibration = calibrate(complete.craft)
    lowered = lower_one(complete, (calibration.factor if calibration else 1.0) * power_share)
    batch, flown, other = _flown(complete, lowered)
    trace = flown.trace[0]
    seconds = punch_seconds(complete)
    standing = np.zeros(2 + len(trace.time_s), bool)
    standing[0] = True  # the first burst of a wing is its launch
    punches = punch_from(batch, _with_ends(batch, flown, trace), seconds, standing=standing)
    early, late = _punch(batch, punches, 0), _punch(batch, punches, 1)
    rebound_v = rested_v(batch.cell, flown.end_state, REBOUND_S)
    packs = _packs(lowered, batch, flown, punches, seconds, rebound_v)
    peak = max(early.bus_a, late.bus_a, float(flown.punch_bus_a[0]))
    bus = PackCurrents(float(flown.cruise_bus_a[0]), peak, seconds)
    reason = end_reason(complete, lowered.packs, batch, flown)
    series = _series(batch, trace, punches, lowered.steps.block)
    ground_j, on_bench = _ground_j(series, batch), complete.mission.on_bench
    slopes = np.array([half_charge_slope(pack.complete.cell) for pack in packs])[:, None, None]
    dcir = of_pack(batch.group_share, pulse_resistance_ohm(batch.cell, slopes))
    result = Answer(
        duration_s=float(flown.lasted_s[0]),
        takeoff_mass_g=lowered.takeoff_mass_g,
        early_punch=early,
        late_punch=late,
        currents=packs[0].currents,
        bus_currents=bus,
        packs=packs,
        links=bus_links(lowered.packs, complete.craft, [pack.currents for pack in packs], bus),
        reason=reason,
        margin_until_s=_margin_until_s(series, complete.design.landing.least_margin),
        cruising_m_s=lowered.cruising_m_s,
        landing_call_s=float(flown.landing_call_s[0]),
        charge_left=_left(batch, flown),
        resting_v=min(pack.resting_v for pack in packs),
        hottest_c=max(pack.hottest_c for pack in packs),
        inside_c=max(pack.inside_c for pack in packs),
        hover_left_s=float(hover_left_s([lowered], batch, flown)[0]),
        bus_start=bus_start(complete.packs, batch),
        at_rest=at_rest(batch, slopes),
        on_bench=on_bench,
        mean_power_w=(float(flown.bus_energy_j[0]) - (0.0 if on_bench else ground_j))
        / max(float(flown.lasted_s[0]), 1e-9),
        energy_used_wh=float(flown.bus_energy_j[0]) / 3600,
        ground_wh=ground_j / 3600,
        series=series,
        rebound=(REBOUND_S, least(np.where(batch.there, rebound_v, np.inf))),
        build=lowered.build,
        cell_dcir_ohm=float(dcir[0, 0, 0]),
        calibration=calibration,
        other_end=other,
        findings=(),
        duration_field=_duration_field(reason),
        mass_field=_mass_field(lowered),
        punch_field="design.packs.0.cell_type_id",
    )
    return replace(result, findings=findings(complete, result))


def _flown(complete: CompleteDesign, lowered: LoweredDesign) -> tuple[FlightBatch, FlightTraces, OtherEnd | None]:
    """The flight; of an extended battery its other end too: two flown together take hardly longer than one."""
    rule = other_rule(complete)
    if rule is None:
        batch = lower([lowered])
        return batch, fly(batch, record=True), None
    other = complete.changed(design=complete.design.changed(landing=rule))
    both = lower([lowered, lower_one(other, lowered.factor)])
    flown = fly(both, record=True)
    (batch, mine), (_, others) = ((both.take(place), flown.take(place)) for place in np.arange(2)[:, None])
    return batch, mine, other_end(rule, others, float(mine.lasted_s[0]))


def _with_ends(batch: FlightBatch, flown: FlightTraces, trace: Trace) -> CellState:
    """Start, landing call, then every recorded point."""
    return CellState(
        *(
            np.concatenate(
                [getattr(batch.start, name), getattr(flown.late_state, name), getattr(trace.state, name)], axis=-1
            )
            for name in CellState.__dataclass_fields__
        )
    )


def _punch(batch: FlightBatch, outcome: PunchOutcome, row: int) -> PunchAnswer:
    return PunchAnswer(
        float(outcome.bus_v[row] / batch.series[0]),
        float(outcome.cell_v[..., row].min()),
        float(outcome.bus_v[row]),
        float(outcome.current_a[0, 0, row]),
        float(outcome.bus_a[row]),
        float(outcome.thrust_margin[row]),
        float(outcome.thrust_margin[row] * batch.thrust_wanted_n[0]),
    )


def _packs(
    lowered: LoweredDesign, batch: FlightBatch, flown: FlightTraces, punches: PunchOutcome, seconds: float,
    rebound_v: Floats,
) -> tuple[PackAnswer, ...]:  # fmt: skip
    """What each pack did; ``rebound_v`` (packs, groups, moments) at :data:`REBOUND_S` after the end."""
    trace = flown.trace[0]
    every = np.zeros(len(trace.time_s), np.intp)
    rest = batch.cell.ocv[..., every](trace.state.soc)
    share = batch.group_share * batch.cell.charge_c
    inside = _mean(trace.state.soc, share)
    given_c = (batch.start.soc - trace.state.soc)[:, 0] * batch.cell.charge_c[:, 0]
    # Of several packs one may give more late, when the other is nearly empty.
    peak = np.maximum(punches.current_a[:, 0, :2].max(axis=1), flown.punch_current_a[:, 0, 0])
    currents = pack_currents(lowered.packs, flown, 0, peak, seconds)
    found = []
    for place, pack in enumerate(lowered.packs):
        parallel = pack.build.recipe.parallel_count
        groups = _groups(pack, place, batch, flown, punches, rebound_v[place])
        weak = min(range(len(groups)), key=lambda group: groups[group].end_cell_v)
        found.append(
            PackAnswer(
                pack.complete,
                pack.build,
                currents[place],
                groups,
                weakest=groups[weak],
                taken_a=float(flown.taken_current_a[place, 0, 0]) * parallel,
                dip_s=float(flown.dip_s[place, 0, 0]),
                dip_v=float(flown.dip_v[place, 0, 0]),
                given_mah=float(flown.charge_c[place, 0, 0]) * parallel / 3.6,
                charge_left=float(_mean(flown.end_state.soc, share)[place, 0]),
                inside_c=float(carriers_of(pack.build).inside_c(currents[place].carried)[0]),
                series=PackSeries(
                    trace.current_a[place, 0] * parallel,
                    trace.cell_v[place, weak],
                    rest[place, weak],
                    inside[place],
                    given_c[place] * parallel / 3.6,
                    trace.state.temperature_k[place].max(axis=0) - ZERO_CELSIUS_K,
                ),
            )
        )
    return tuple(found)


def _mean(values: Floats, share: Floats) -> Floats:
    """(packs, points) Mean over the groups of each pack, each by its share of the whole."""
    if share.shape[1] == 1:
        return values[:, 0]
    return np.asarray((values * share).sum(axis=1) / share.sum(axis=1))


def _groups(
    pack: LoweredPack, place: int, batch: FlightBatch, flown: FlightTraces, punches: PunchOutcome, rebound_v: Floats
) -> tuple[GroupAnswer, ...]:
    rest = batch.cell.ocv(flown.end_state.soc)
    return tuple(
        GroupAnswer(
            group.members,
            end_cell_v=float(flown.end_cell_v[place, number, 0]),
            early_cell_v=float(punches.cell_v[place, number, 0]),
            late_cell_v=float(punches.cell_v[place, number, 1]),
            charge_left=float(flown.end_state.soc[place, number, 0]),
            resting_v=float(rest[place, number, 0]),
            soon_v=float(rebound_v[number, SOON]),
            hour_v=float(rebound_v[number, HOUR]),
            hottest_c=pack.hottest_c(float(flown.hottest_k[place, number, 0])),
            coldest_c=float(flown.coldest_k[place, number, 0]) - ZERO_CELSIUS_K,
        )
        for number, group in enumerate(pack.groups)
    )


def _left(batch: FlightBatch, flown: FlightTraces) -> float:
    """Share of the charge of all packs that is left."""
    held = batch.cell.charge_c * batch.parallel * batch.group_share
    return float(total(held * flown.end_state.soc)[0] / total(held)[0])


def _series(batch: FlightBatch, trace: Trace, punches: PunchOutcome, blocks: Ints) -> Series:
    series = float(batch.series[0])
    motor_v = batch.block_motor_v[0][trace.block]
    held = batch.block_duty[0][trace.block]
    throttle = np.where(held > 0, held, motor_v / np.maximum(trace.bus_v, 1e-6))
    # All groups of a pack give the same charge.
    used = (batch.start.soc - trace.state.soc)[:, 0]
    used_mah = (used * (batch.cell.charge_c * batch.parallel)[:, 0]).sum(axis=0) / 3.6
    rest = batch.cell.ocv[..., np.zeros(len(trace.time_s), np.intp)](trace.state.soc)
    return Series(
        time_s=trace.time_s,
        loaded_v=trace.bus_v / series,
        resting_v=least(rest),
        punch_v=punches.bus_v[2:] / series,
        pack_a=trace.bus_a,
        throttle=throttle,
        temperature_c=-least(-trace.state.temperature_k) - ZERO_CELSIUS_K,
        charge_used_mah=used_mah,
        thrust_margin=punches.thrust_margin[2:],
        punch_a=punches.current_a[0, 0, 2:],
        block=blocks[trace.block],
        in_air=~batch.block_ground[0][trace.block],
    )


def _ground_j(series: Series, batch: FlightBatch) -> float:
    """Energy drawn on the ground or the bench, by the trapezoid rule on the recorded points."""
    watts = series.pack_a * series.loaded_v * float(batch.series[0])
    there = ~series.in_air[1:]
    return float((0.5 * (watts[1:] + watts[:-1]) * np.diff(series.time_s) * there).sum())


def _margin_until_s(series: Series, wanted: float) -> float:
    """The last moment of the flight at which a burst still gives the margin."""
    enough = np.flatnonzero(series.thrust_margin >= wanted)
    if not len(enough):
        return 0.0
    last = int(enough[-1])
    if last + 1 >= len(series.time_s):
        return float(series.time_s[last])
    there, gone = series.thrust_margin[last], series.thrust_margin[last + 1]
    share = (there - wanted) / (there - gone)
    return float(series.time_s[last] + share * (series.time_s[last + 1] - series.time_s[last]))


def _duration_field(reason: EndReason) -> str:
    """Minutes are governed by what ended them, or by the charge on board."""
    by_charge = reason.ending in (Ending.RESERVE_REACHED, Ending.CELL_CUT_OFF)
    return "design.packs.0.recipe.parallel_count" if by_charge else reason.field


def _mass_field(lowered: LoweredDesign) -> str:
    heavier_pack = lowered.build.mass_g > lowered.complete.dry_mass_g
    return "design.packs.0.recipe.parallel_count" if heavier_pack else "craft.parts"
