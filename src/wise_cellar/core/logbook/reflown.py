"""A recorded flight as a mission, so that the design, or any other, flies it: and what differs, told."""

from __future__ import annotations

from collections.abc import Sequence
from contextlib import suppress
from dataclasses import dataclass, replace

import numpy as np

from wise_cellar.core.answer import Answer, answer
from wise_cellar.core.documents import (
    ENDLESS_KINDS,
    Block,
    BlockKind,
    CompleteDesign,
    DocumentError,
    LandingBasis,
    LearnedOf,
    LearnedValue,
    Mission,
    PhaseEdge,
    SensorFact,
)
from wise_cellar.core.documents.provenance import Day
from wise_cellar.core.logbook.evidence import Evidence, merged, together
from wise_cellar.core.logbook.flight_log import FlightLog
from wise_cellar.core.logbook.flying import Along, fly_many
from wise_cellar.core.logbook.groups import GroupsSeen, groups_seen
from wise_cellar.core.logbook.learning import (
    BEFORE,
    COOLING_STEP,
    DRAG_STEP,
    Learned,
    PackTold,
    expected_in,
    learn_cooling,
    learn_pack,
    learn_power,
    learned_of,
    told_words,
)
from wise_cellar.core.logbook.phases import Phase, PhaseKind, flights_in, phases_between, phases_of
from wise_cellar.core.logbook.sensors import AmpsSensor, amps_sensor, put_right
from wise_cellar.core.physics.arrays import Floats
from wise_cellar.core.propulsion.carrier import Propulsion, RotorPropulsion, propulsion
from wise_cellar.core.units import format_mah, format_minutes, format_number, format_volts, format_watts

ARMED_S = 8.0
"""Before take-off motors may turn already: the ground is looked at until then."""
MOST_BLOCKS = 200
RISES = 1.05
RESTS_S = 30.0
"""So long after landing nobody has changed the pack yet."""
ONE_POWER, SLIGHT_WIND_M_S = 0.06, 1.5
"""Cruises whose watts are so near are legs of one airspeed; in less wind a speed over ground is one through the air."""
LEAST_WARM_ROWS = 20
LEAST_SAY = 0.05
"""Of what was known before: less is nothing."""
SENSOR_DOUBT = 0.03
"""Of a current sensor that nothing was held against, one standard deviation."""
NO_CALL = {"basis": LandingBasis.CHARGE, "charge_percent": 100.0}
"""A landing rule that does not call: what was flown is flown to its end, as far as the pack carries it."""


@dataclass(frozen=True)
class FlownFlight:
    """One flight of a log over the same flight as the model flies it."""

    log: FlightLog
    """With its current put right, where the charger told how."""
    took_off_s: float
    landed_s: float
    phases: tuple[Phase, ...]
    expected: tuple[Phase, ...]
    """Watts in the same phases by the model."""
    answered: Answer
    """The model's flight of that mission, to its end or the pack's."""
    flies: CompleteDesign
    """The design with that mission."""
    sensor: AmpsSensor | None
    volts_offset: tuple[float, float] | None
    """Of the pack: told over true, V, and its doubt."""
    learned: tuple[Learned, ...]
    said: tuple[Evidence, ...]
    groups: GroupsSeen | None
    remarks: tuple[str, ...]

    @property
    def seconds(self) -> float:
        """In the air."""
        return self.landed_s - self.took_off_s

    @property
    def drawn_mah(self) -> float:
        """From take-off to landing."""
        return self.log.between(self.took_off_s, self.landed_s).drawn_mah()

    def sentences(self) -> list[str]:
        """What was flown, and what it teaches."""
        air = [one for one in self.phases if one.kind not in (PhaseKind.GROUND, PhaseKind.REST)]
        air = [one for one in air if np.isfinite(one.watts)]
        mean = sum(one.watts * one.seconds for one in air) / sum(one.seconds for one in air)
        least = min(one.least_v for one in air)
        told = [
            f"{format_minutes(self.seconds)} in the air, {format_mah(self.drawn_mah)},"
            f" {format_watts(mean)} in the mean, {format_volts(least)} at the lowest.",
        ]
        if self.sensor is not None:
            told.append(self.sensor.words())
        if self.volts_offset is not None and abs(self.volts_offset[0]) > 2 * self.volts_offset[1]:
            off, doubt = self.volts_offset
            more = "more" if off > 0 else "less"
            told.append(
                f"The voltage sensor tells {format_volts(abs(off))} {more} than there is (± {format_volts(doubt)})."
            )
        groups = [] if self.groups is None else self.groups.words()
        return [*told, *told_words(self.learned), *groups, *self.remarks]


def _over_ground(log: FlightLog) -> bool:
    """Whether its speed is one over ground."""
    return not np.isfinite(log.airspeed_m_s).any()


def through_air(phases: Sequence[Phase], wind_m_s: float) -> tuple[tuple[Phase, ...], bool]:
    """Phases whose speeds are over ground with those through the air, and whether all of them are known.

    Legs that follow each other at one power were flown at one airspeed; over all headings alike E[v²] = V² + w², with v
    over ground, V through the air, w the wind. Of a single leg nobody knows the heading: its speed is left. Source: the
    triangle of velocities; not modelled: headings that are not alike.
    """
    found, known = list(phases), True
    cruises = [place for place, one in enumerate(phases) if one.kind is PhaseKind.CRUISE]
    while cruises:
        legs = [cruises.pop(0)]
        while cruises and _one_power(phases[legs[0]], phases[cruises[0]]):
            legs.append(cruises.pop(0))
        seconds = np.array([phases[place].seconds for place in legs])
        square = float((seconds * np.array([phases[place].speed_m_s for place in legs]) ** 2).sum() / seconds.sum())
        if len(legs) < 2:
            known = known and wind_m_s < SLIGHT_WIND_M_S
            continue
        air = float(np.sqrt(max(square - wind_m_s**2, 0.0)))
        for place in legs:
            found[place] = replace(phases[place], speed_m_s=air)
    return tuple(found), known


def _one_power(one: Phase, other: Phase) -> bool:
    return abs(other.watts - one.watts) < ONE_POWER * one.watts


def mission_of(phases: Sequence[Phase], craft_id: str, *, usual: Block | None = None) -> Mission:
    """The mission that was flown, block by block, from take-off to landing; what no speed tells apart is flown as the
    ``usual`` block. Raises :class:`DocumentError` where nothing was flown, or more than a mission holds."""
    blocks = [
        _block(one, usual) for one in phases if one.kind not in (PhaseKind.GROUND, PhaseKind.REST) and one.seconds > 0
    ]
    if not blocks:
        raise DocumentError("Nothing was flown that could be flown again.")
    if len(blocks) > MOST_BLOCKS:
        raise DocumentError(
            f"This flight has more than {MOST_BLOCKS} phases: cut out the part that is to be looked at."
        )
    return Mission(id="as-flown", name="as flown", craft_id=craft_id, blocks=tuple(blocks))


def _block(phase: Phase, usual: Block | None) -> Block:
    seconds, speed = phase.seconds, 0.0 if np.isnan(phase.speed_m_s) else min(phase.speed_m_s, 60.0)
    climb = 0.0 if np.isnan(phase.climb_m_s) else phase.climb_m_s
    if phase.kind is PhaseKind.BURST:
        return Block(kind=BlockKind.PUNCH, duration_s=seconds)
    if phase.kind is PhaseKind.CLIMB:
        return Block(kind=BlockKind.TAKE_OFF, duration_s=seconds, climb_m_s=min(max(climb, 0.0), 20.0))
    if phase.kind is PhaseKind.DESCENT:
        return Block(kind=BlockKind.DESCENT, duration_s=seconds, sink_m_s=min(max(-climb, 0.1), 10.0))
    if phase.kind is PhaseKind.CRUISE:
        return Block(kind=BlockKind.CRUISE, duration_s=seconds, airspeed_m_s=speed)
    if phase.kind is PhaseKind.FLIGHT and usual is not None:
        return usual.changed(duration_s=seconds, name="")
    return Block(kind=BlockKind.HOVER, duration_s=seconds)


@dataclass(frozen=True)
class Noted:
    """What is known of a flight beside its log."""

    returned_mah: float | None = None
    """What the charger put back after the whole log."""
    flight: int = 0
    """Of several in one log."""
    sensor: SensorFact | None = None
    """How far the craft's sensors are off, as other flights told it."""
    edges: tuple[PhaseEdge, ...] = ()
    """Phases as somebody put them right; none: as they are found."""


def flown_flight(log: FlightLog, complete: CompleteDesign, noted: Noted | None = None) -> FlownFlight:
    """One flight of a log held against the design, flown with its pack as its state has it. Raises
    :class:`DocumentError` where nothing flies in it."""
    noted = noted or Noted()
    flights = flights_in(log)
    _refuse_a_charge(log)
    flight = min(noted.flight, len(flights) - 1)
    took_off, landed = flights[flight]
    log, sensor, doubt = _put_right(log, complete, noted, took_off)
    later = [began for began, _ in flights if began > landed]
    mine = log.of(log.time_s < min(later, default=np.inf))
    phases = tuple(phases_between(mine, noted.edges) if noted.edges else phases_of(mine, (took_off, landed)))
    if noted.edges:
        air = [one for one in phases if one.kind not in (PhaseKind.GROUND, PhaseKind.REST)]
        took_off, landed = (air[0].from_s, air[-1].to_s) if air else (took_off, landed)
    speeds_known = True
    if _over_ground(log):
        phases, speeds_known = through_air(phases, complete.design.conditions.wind_m_s)
    again = as_it_was_flown(complete, phases)
    answered = answer(again)
    series = answered.series
    watts = series.pack_a * series.loaded_v * complete.pack.recipe.series_count
    expected = tuple(expected_in(phases, series.time_s, watts, took_off))
    said, remarks, offset = _say(
        log, flights, flight, again, answered, phases, expected, doubt, speeds_known=speeds_known
    )  # fmt: skip
    learned = learned_of(
        together([merged(said)] if said else [], BEFORE), {name: BEFORE[name] for one in said for name in _telling(one)}
    )
    if len(flights) > 1:
        remarks.append(f"{len(flights)} flights stand in this log; this is number {flight + 1}.")
    if sensor is None:
        remarks.append(
            "Nothing was held against the current sensor"
            f" (± {format_number(100 * SENSOR_DOUBT, 0)} %): tell what the charger put back."
        )
    return FlownFlight(
        log, took_off, landed, phases, expected, answered, again, sensor, offset, tuple(learned), tuple(said),
        groups_seen(mine, complete.pack.cell) if flight == 0 else None, tuple(remarks),
    )  # fmt: skip


def _telling(one: Evidence) -> tuple[str, ...]:
    """Of what a flight says anything: drag and liveliness only where it was flown so."""
    pairs = zip(one.names, np.diag(one.information), strict=True)
    return tuple(name for name, said in pairs if said * BEFORE[name] ** 2 > LEAST_SAY)


def _put_right(
    log: FlightLog, complete: CompleteDesign, noted: Noted, took_off: float
) -> tuple[FlightLog, AmpsSensor | None, float]:
    """The log with the amps and the volts that were, the sensor where it is known, and the doubt of its scale."""
    known = noted.sensor
    if known is not None:
        log = replace(log, volts=log.volts - known.volts_offset_v)
    if noted.returned_mah is not None:
        ground = (0.0, took_off - ARMED_S) if took_off > ARMED_S else None
        missing = (1 - complete.pack.state.start_charge_percent / 100) * complete.pack.label_mah
        sensor = amps_sensor(log, max(noted.returned_mah - missing, 1.0), complete.craft.load_w, ground)
        return put_right(log, sensor), sensor, sensor.scale_doubt
    if known is not None:
        sensor = AmpsSensor(known.amps_scale, known.amps_offset_a, known.amps_doubt_percent / 100)
        return put_right(log, sensor), sensor, sensor.scale_doubt
    return log, None, SENSOR_DOUBT


def as_it_was_flown(complete: CompleteDesign, phases: Sequence[Phase]) -> CompleteDesign:
    """The design with the mission that was flown, to its end or the pack's; what no speed tells apart is flown as its
    own mission's longest block."""
    mission = mission_of(phases, complete.craft.id, usual=_usual(complete.mission))
    again = complete.changed(mission=mission.changed(id=complete.mission.id))
    return again.with_design(landing=again.design.landing.changed(**NO_CALL))


def _usual(mission: Mission) -> Block | None:
    """The block that a mission mostly is; none on a bench."""
    steady = [block for block in mission.blocks if block.kind in ENDLESS_KINDS and block.kind is not BlockKind.THROTTLE]
    return max(steady, key=lambda block: block.duration_s or np.inf, default=None)


def _say(
    log: FlightLog, flights: Sequence[tuple[float, float]], flight: int, again: CompleteDesign, answered: Answer,
    phases: Sequence[Phase], expected: Sequence[Phase], doubt: float, *, speeds_known: bool,
) -> tuple[list[Evidence], list[str], tuple[float, float] | None]:  # fmt: skip
    """What a flight says of its craft and of its pack, remarks, and how far the volts sensor is off, with its doubt."""
    said: list[Evidence] = []
    remarks: list[str] = []
    offset, otherwise = None, _otherwise(again)
    try:
        took_off = phases[0].to_s if phases[0].kind is PhaseKind.GROUND else phases[0].from_s
        dragged = expected
        if speeds_known and otherwise.dragged is not None:
            dragged = expected_in(phases, otherwise.dragged.time_s, otherwise.dragged.watts, took_off)
        usual = _usual(again.mission)
        by_hand = usual is not None and usual.kind is BlockKind.MANUAL
        said.append(learn_power(phases, expected, dragged, again.craft.load_w, doubt, by_hand=by_hand))
    except DocumentError as error:
        remarks.append(str(error))
    try:
        told = _of_pack(log, flights, flight, again, answered, warmth_of(log, answered, flights[flight][0]))
        said.append(told.evidence)
        offset = told.volts_offset_v, told.volts_doubt_v
    except DocumentError as error:
        remarks.append(str(error))
    alone = together([merged(said)] if said else [], BEFORE)
    heated = 2 * alone.value("power") + alone.value("resistance")  # heat goes as I²R
    air_c = again.design.conditions.air_temperature_c
    cooling = _of_cooling(log, flights[0], answered, otherwise.cooler, air_c, heated) if flight == 0 else None
    return [*said, *([] if cooling is None else [cooling])], remarks, offset


def _of_cooling(
    log: FlightLog, flight: tuple[float, float], answered: Answer, cooler: Along, air_c: float, heated: float
) -> Evidence | None:
    """How well the pack is cooled, where its warmth was told and it warms at all."""
    there = np.isfinite(log.celsius) & (log.time_s >= flight[0]) & (log.time_s < flight[1])
    if there.sum() < LEAST_WARM_ROWS:
        return None
    clock = log.time_s[there] - flight[0]
    ours = np.interp(clock, answered.series.time_s, answered.series.temperature_c)
    with suppress(DocumentError):
        better = np.interp(clock, cooler.time_s, cooler.celsius)
        return learn_cooling(log.celsius[there], ours, better, air_c, heated)
    return None


@dataclass(frozen=True)
class _Otherwise:
    """The same flight with a pack that is cooled better, and with more drag; the second not of a wing, whose drag and
    drive one speed does not part."""

    cooler: Along
    dragged: Along | None


def _otherwise(complete: CompleteDesign) -> _Otherwise:
    state, carrier = complete.pack.state, carrier_of(complete)
    known = LearnedValue(of=LearnedOf.COOLING, value=state.cooling_share * (1 + COOLING_STEP), doubt_percent=1.0,
                         learned_on=Day.min)  # fmt: skip
    others = tuple(one for one in state.learned if one.of is not LearnedOf.COOLING)
    flights = [(complete.with_pack(state=state.changed(learned=(*others, known))), 1.0)]
    if isinstance(carrier, RotorPropulsion):
        area = carrier.drag_area_m2 * (1 + DRAG_STEP)
        flights.append((complete.changed(craft=complete.craft.changed(drag_area_m2=area)), 1.0))
    flown = fly_many(flights)
    return _Otherwise(flown[0], flown[1] if len(flown) > 1 else None)


def carrier_of(complete: CompleteDesign) -> Propulsion:
    """What carries its craft, in the weather of the design."""
    weather = complete.design.conditions
    return propulsion(complete.craft, weather.altitude_m, weather.air_temperature_c, 1.0, 10.0)


def _of_pack(
    log: FlightLog, flights: Sequence[tuple[float, float]], flight: int, complete: CompleteDesign, answered: Answer,
    warm: Floats,
) -> PackTold:  # fmt: skip
    """What the first flight of a log tells of its pack: until it lands and has rested, as then it may be changed."""
    if flight > 0:
        raise DocumentError(
            "What was in the pack before this flight is not known: only the first of a log tells of it."
        )
    mine = log.time_s < flights[0][1] + RESTS_S
    return learn_pack(log.of(mine), complete, answered.build.wiring_ohm, warm[mine])


def _refuse_a_charge(log: FlightLog) -> None:
    """Raises :class:`DocumentError` where volts rise while amps flow for long."""
    flows = log.of(log.amps > 0.25 * np.percentile(log.amps, 90))
    first, last = (
        np.median(flows.volts[part]) for part in (slice(0, len(flows) // 5 + 1), slice(-len(flows) // 5, None))
    )
    if last > first * RISES:
        raise DocumentError(
            f"Its volts rise from {format_volts(float(first))} to {format_volts(float(last))} while amps flow: this is"
            " a charge, not a flight, or the current counts the other way round."
        )


def warmth_of(log: FlightLog, answered: Answer, took_off_s: float) -> Floats:
    """The cells' warmth at every row, °C: as told, else as the model's own flight has it."""
    there = np.isfinite(log.celsius)
    if there.any():
        return np.interp(log.time_s, log.time_s[there], log.celsius[there])
    series = answered.series
    return np.interp(log.time_s - took_off_s, series.time_s, series.temperature_c)
