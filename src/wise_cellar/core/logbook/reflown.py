"""A recorded flight as a mission, so that the design, or any other, flies it: and what differs, told."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass

import numpy as np

from wise_cellar.core.answer import Answer, answer
from wise_cellar.core.documents import Block, BlockKind, CompleteDesign, DocumentError, LandingBasis, Mission
from wise_cellar.core.logbook.flight_log import FlightLog
from wise_cellar.core.logbook.learning import Learned, expected_in, learn_pack, learn_power
from wise_cellar.core.logbook.phases import Phase, PhaseKind, flights_in, phases_of
from wise_cellar.core.logbook.sensors import AmpsSensor, amps_sensor, put_right
from wise_cellar.core.physics.arrays import Floats
from wise_cellar.core.units import format_mah, format_minutes, format_number, format_volts, format_watts

ARMED_S = 8.0
"""Before take-off motors may turn already: the ground is looked at until then."""
MOST_BLOCKS = 200
RISES = 1.05
RESTS_S = 30.0
"""So long after landing nobody has changed the pack yet."""
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
    sensor: AmpsSensor | None
    learned: tuple[Learned, ...]
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
        return [*told, *(one.words() for one in self.learned), *self.remarks]


def _over_ground(log: FlightLog) -> bool:
    """Whether its speed is one over ground."""
    return not np.isfinite(log.airspeed_m_s).any()


def mission_of(phases: Sequence[Phase], craft_id: str, *, over_ground: bool = False) -> Mission:
    """The mission that was flown, block by block, from take-off to landing; speeds are through the air, or
    ``over_ground``. Raises :class:`DocumentError` where nothing was flown, or more than a mission holds."""
    blocks = [
        _block(one, over_ground)
        for one in phases
        if one.kind not in (PhaseKind.GROUND, PhaseKind.REST) and one.seconds > 0
    ]
    if not blocks:
        raise DocumentError("Nothing was flown that could be flown again.")
    if len(blocks) > MOST_BLOCKS:
        raise DocumentError(
            f"This flight has more than {MOST_BLOCKS} phases: cut out the part that is to be looked at."
        )
    return Mission(id="as-flown", name="as flown", craft_id=craft_id, blocks=tuple(blocks))


def _block(phase: Phase, over_ground: bool) -> Block:
    seconds, speed = phase.seconds, 0.0 if np.isnan(phase.speed_m_s) else min(phase.speed_m_s, 60.0)
    climb = 0.0 if np.isnan(phase.climb_m_s) else phase.climb_m_s
    if phase.kind is PhaseKind.BURST:
        return Block(kind=BlockKind.PUNCH, duration_s=seconds)
    if phase.kind is PhaseKind.CLIMB:
        return Block(kind=BlockKind.TAKE_OFF, duration_s=seconds, climb_m_s=min(max(climb, 0.0), 20.0))
    if phase.kind is PhaseKind.DESCENT:
        return Block(kind=BlockKind.DESCENT, duration_s=seconds, sink_m_s=min(max(-climb, 0.1), 10.0))
    if phase.kind is PhaseKind.CRUISE:
        told = {"ground_speed_m_s": speed} if over_ground else {"airspeed_m_s": speed}
        return Block(kind=BlockKind.CRUISE, duration_s=seconds, **told)
    return Block(kind=BlockKind.HOVER, duration_s=seconds)


def flown_flight(
    log: FlightLog, complete: CompleteDesign, *, returned_mah: float | None = None, flight: int = 0
) -> FlownFlight:
    """One flight of a log held against the design, flown with a full pack; ``returned_mah`` is what the charger put
    back after the whole log. Raises :class:`DocumentError` where nothing flies in it."""
    flights = flights_in(log)
    _refuse_a_charge(log)
    flight = min(flight, len(flights) - 1)
    took_off, landed = flights[flight]
    load_w, remarks = complete.craft.load_w, []
    sensor = None
    if returned_mah is not None:
        ground = (0.0, took_off - ARMED_S) if took_off > ARMED_S else None
        sensor = amps_sensor(log, returned_mah, load_w, ground)
        log = put_right(log, sensor)
    later = [began for began, _ in flights if began > landed]
    phases = tuple(phases_of(log.of(log.time_s < min(later, default=np.inf)), (took_off, landed)))
    again = complete.changed(
        mission=mission_of(phases, complete.craft.id, over_ground=_over_ground(log)).changed(id=complete.mission.id)
    )
    again = again.with_design(landing=again.design.landing.changed(**NO_CALL))
    answered = answer(again)
    expected = tuple(expected_in(phases, answered, complete.pack.recipe.series_count, took_off))
    doubt = SENSOR_DOUBT if sensor is None else sensor.scale_doubt
    warm = warmth_of(log, answered, took_off)
    learned: list[Learned] = []
    for learn in (
        lambda: [learn_power(phases, expected, load_w, doubt)],
        lambda: _of_pack(log, flights, flight, complete, answered, warm),
    ):
        try:
            learned += learn()
        except DocumentError as error:
            remarks.append(str(error))
    if len(flights) > 1:
        remarks.append(f"{len(flights)} flights stand in this log; this is number {flight + 1}.")
    if sensor is None:
        remarks.append(
            "Nothing was held against the current sensor"
            f" (± {format_number(100 * SENSOR_DOUBT, 0)} %): tell what the charger put back."
        )
    return FlownFlight(log, took_off, landed, phases, expected, answered, sensor, tuple(learned), tuple(remarks))


def _of_pack(
    log: FlightLog, flights: Sequence[tuple[float, float]], flight: int, complete: CompleteDesign, answered: Answer,
    warm: Floats,
) -> tuple[Learned, ...]:  # fmt: skip
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
