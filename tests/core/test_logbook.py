"""Flights that were logged: cut into phases, their sensor put right, and what they teach, against hidden truths.

The two logs come from an independent simulation (tests/data/README.md tells of it); their truths stand here.
"""

from __future__ import annotations

import lzma
from datetime import date
from functools import cache
from pathlib import Path
from typing import Any

import numpy as np
import pytest
from hypothesis import given, settings
from hypothesis import strategies as st

from tests.builders import beside, cell_type, complete, craft
from tests.core.test_fit import curve
from wise_cellar.core.answer import answer, spread
from wise_cellar.core.documents import Block, CompleteDesign, Conditions, DocumentError, Load, PackState
from wise_cellar.core.fit import fit_cell
from wise_cellar.core.logbook import (
    FlightLog,
    FlownFlight,
    Noted,
    PhaseKind,
    amps_sensor,
    flights_in,
    flown_flight,
    log_of_figures,
    log_of_rows,
    mission_of,
    phases_of,
    put_right,
)
from wise_cellar.core.logbook.entries import FlightSaid, lesson
from wise_cellar.core.logbook.learning import expected_in
from wise_cellar.core.logbook.noted import flown_on
from wise_cellar.core.logbook.phases import Phase
from wise_cellar.core.logbook.reflown import carrier_of, through_air
from wise_cellar.core.logbook.taking import with_lesson
from wise_cellar.store.curve_files import look_at_table, read_figures

LOGS = Path(__file__).parent.parent / "data" / "logs"
TIRED = ("cell_a_c10_25c", "cell_a_c2_25c", "cell_a_1c_25c", "cell_a_pulses_25c")
TRUTHS: dict[int, dict[str, Any]] = {
    1: {"flight": (60.0, 2644.0), "returned": 12119.0, "scale": 0.96, "parallel": 3, "air": 17.0, "start": 20.0,
        "watts": [
        (PhaseKind.CLIMB, 310.0), (PhaseKind.HOVER, 285.2), (PhaseKind.CRUISE, 228.1), (PhaseKind.BURST, 656.9),
        (PhaseKind.DESCENT, 260.4), (PhaseKind.CRUISE, 239.4), (PhaseKind.HOVER, 284.6), (PhaseKind.CRUISE, 227.9),
        (PhaseKind.DESCENT, 255.6),
    ]},
    3: {"flight": (60.0, 2173.0), "returned": 7975.0, "scale": 1.03, "parallel": 2, "air": 2.0, "start": 15.0,
        "watts": [
        (PhaseKind.CLIMB, 249.1), (PhaseKind.HOVER, 221.3), (PhaseKind.CRUISE, 181.4), (PhaseKind.CLIMB, 254.3),
        (PhaseKind.CRUISE, 194.8), (PhaseKind.CRUISE, 181.4), (PhaseKind.DESCENT, 198.3),
    ]},
}  # fmt: skip
"""Watts at the plug of each phase."""


@pytest.fixture(scope="module")
def logs(tmp_path_factory: pytest.TempPathFactory) -> dict[int, FlightLog]:
    folder, found = tmp_path_factory.mktemp("logs"), {}
    for number in TRUTHS:
        path = folder / f"flight_0{number}.csv"
        path.write_bytes(lzma.decompress((LOGS / f"{path.name}.xz").read_bytes()))
        table = look_at_table(path)
        found[number] = log_of_figures(table.columns, read_figures(table).values, path.name)
    return found


@cache
def design(number: int) -> CompleteDesign:
    truth = TRUTHS[number]
    fitted = fit_cell([curve(name) for name in TIRED], cell_type()).model
    carrier = craft(loads=(Load(name="flight controller", power_w=12.5, min_input_v=4.5),))
    return complete(
        cell=cell_type(fitted=fitted), carrier=carrier, parallel_count=truth["parallel"],
        conditions=Conditions(air_temperature_c=truth["air"], altitude_m=10.0, wind_m_s=0.0),
        state=PackState(temperature_c=truth["start"]),
    )  # fmt: skip


@pytest.fixture(scope="module")
def flown(logs: dict[int, FlightLog]) -> dict[int, FlownFlight]:
    return {
        number: flown_flight(log, design(number), Noted(returned_mah=TRUTHS[number]["returned"]))
        for number, log in logs.items()
    }


@pytest.mark.parametrize("number", TRUTHS)
def test_take_off_landing_and_phases_are_those_that_were_flown(flown: dict[int, FlownFlight], number: int) -> None:
    truth, found = TRUTHS[number], flown[number]
    assert (found.took_off_s, found.landed_s) == pytest.approx(truth["flight"], abs=2.0)
    air = [phase for phase in found.phases if phase.kind not in (PhaseKind.GROUND, PhaseKind.REST)]
    assert [phase.kind for phase in air] == [kind for kind, _ in truth["watts"]]
    for phase, (_, watts) in zip(air, truth["watts"], strict=True):
        assert phase.watts == pytest.approx(watts, rel=0.04)
    edges = [phase.from_s for phase in found.phases] + [found.phases[-1].to_s]
    assert edges == sorted(edges)
    assert [phase.to_s for phase in found.phases[:-1]] == edges[1:-1], "without gaps"


@pytest.mark.parametrize("number", TRUTHS)
def test_the_current_sensor_is_put_right(flown: dict[int, FlownFlight], number: int) -> None:
    sensor = flown[number].sensor
    assert sensor is not None
    assert sensor.scale == pytest.approx(TRUTHS[number]["scale"], rel=0.01)
    assert sensor.offset_a == pytest.approx(0.1, abs=0.05)
    assert ("less" if sensor.scale < 1 else "more") in sensor.words()


@pytest.mark.parametrize("number", TRUTHS)
def test_capacity_resistance_and_power_are_learned_with_their_doubts(
    flown: dict[int, FlownFlight], number: int
) -> None:
    learned = {one.name: one for one in flown[number].learned}
    assert learned["capacity"].share == pytest.approx(1.0, abs=0.03), "a healthy pack"
    assert learned["resistance"].share == pytest.approx(1.0, abs=0.10)
    assert not learned["lag"].told, "a flight that goes on evenly does not part it from the rest, and that is said"
    assert "Not told by this flight: lag." in flown[number].sentences()
    assert all(one.told and 0 < one.doubt < one.before for name, one in learned.items() if name != "lag")
    air = [one for one in flown[number].expected if one.kind not in (PhaseKind.GROUND, PhaseKind.REST)]
    taught = as_taught(flown[number].flies, learned["drag"].share)
    series = answer(taught, power_share=learned["power"].share).series
    again = expected_in(air, series.time_s, 4 * series.pack_a * series.loaded_v, 60.0)
    level = [(one, watts) for one, (kind, watts) in zip(again, TRUTHS[number]["watts"], strict=True)
             if kind in (PhaseKind.HOVER, PhaseKind.CRUISE)]  # fmt: skip
    assert len(level) > 3
    for one, watts in level:
        assert one.watts == pytest.approx(watts, rel=0.02), "with what was learned it is as it truly was"


def as_taught(flies: CompleteDesign, drag: float) -> CompleteDesign:
    area = drag * carrier_of(flies).drag_area_m2
    return flies.changed(craft=flies.craft.changed(drag_area_m2=area))


def test_an_old_pack_is_told_from_a_new_one() -> None:
    """A flight of the model itself with a pack that has aged, by a sensor that is right."""
    old = design(1).with_pack(state=PackState(capacity_percent=90.0, resistance_percent=140.0, temperature_c=20.0))
    found = flown_flight(as_log(old), design(1))
    learned = {one.name: one for one in found.learned}
    assert learned["capacity"].share == pytest.approx(0.90, abs=2 * learned["capacity"].doubt)
    assert learned["resistance"].share == pytest.approx(1.40, abs=2 * 1.4 * learned["resistance"].doubt)
    assert any("Nothing was held against the current sensor" in remark for remark in found.remarks)


def as_log(flies: CompleteDesign, power: float = 1.0, noise: float = 0.01, ground_s: float = 40.0) -> FlightLog:
    """The model's own flight as a log, with the ground before it and the rest after."""
    answered = answer(flies, power_share=power)
    series, ends_s = answered.series, float(answered.series.time_s[-1])
    time_s = np.arange(0.0, ends_s + 2 * ground_s, 0.5)
    random, at_s = np.random.default_rng(4), np.arange(0.0, ends_s + 2 * ground_s, 0.5) - ground_s
    flies_now = (at_s >= 0) & (at_s <= ends_s)
    volts = np.where(at_s < 0, series.resting_v[0], np.interp(at_s - ends_s, *answered.rebound))
    volts = np.where(flies_now, np.interp(at_s, series.time_s, series.loaded_v), volts)
    amps = np.where(flies_now, np.interp(at_s, series.time_s, series.pack_a), flies.craft.load_w / 16.0)
    rows = np.stack([
        time_s, 4 * volts + noise * random.standard_normal(len(time_s)),
        amps + 0.1 * random.standard_normal(len(time_s)), np.interp(at_s, series.time_s, series.temperature_c),
    ], axis=1)  # fmt: skip
    return log_of_rows(["volts", "amps", "temperature"], rows, "own flight")


def test_current_alone_tells_flight_and_bursts() -> None:
    blocks = (Block(kind="cruise", duration_s=300, airspeed_m_s=9), Block(kind="punch", duration_s=6),
              Block(kind="cruise", duration_s=300, airspeed_m_s=9))  # fmt: skip
    base = design(1)
    log = as_log(base.changed(mission=base.mission.changed(blocks=blocks)))
    (flight,) = flights_in(log)
    assert flight == pytest.approx((40.0, 646.0), abs=2.0)
    kinds = [phase.kind for phase in phases_of(log, flight)]
    assert kinds == [PhaseKind.GROUND, PhaseKind.FLIGHT, PhaseKind.BURST, PhaseKind.FLIGHT, PhaseKind.REST]
    assert len(mission_of(phases_of(log, flight), "craft").blocks) == 3


def test_a_burst_is_as_long_as_it_was_whatever_short_flying_lies_beside_it() -> None:
    seconds = np.arange(0.0, 600.0, 0.2)
    amps = np.select([seconds < 30, seconds >= 570], [0.5, 0.5], 15.0)
    for start in (300.0, 306.0):
        amps[(seconds >= start) & (seconds < start + 3.0)] = 45.0
    rows = np.stack([seconds, np.full(len(seconds), 16.0), amps], axis=1)
    log = log_of_rows(["volts", "amps"], rows, "two bursts")
    bursts = [phase for phase in phases_of(log, flights_in(log)[0]) if phase.kind is PhaseKind.BURST]
    assert [phase.from_s for phase in bursts] == pytest.approx([300.0, 306.0], abs=0.5)
    assert [phase.to_s for phase in bursts] == pytest.approx([303.0, 309.0], abs=0.5)
    assert [phase.watts for phase in bursts] == pytest.approx([720.0, 720.0], rel=0.04)


@pytest.mark.parametrize("ground_s", [0.0, 5000.0])
def test_a_flight_is_found_however_long_it_stood_on_the_ground(ground_s: float) -> None:
    time_s = np.arange(0.0, 600.0 + 2 * ground_s, 1.0)
    flies = (time_s >= ground_s) & (time_s < ground_s + 600.0)
    rows = np.stack([time_s, np.full(len(time_s), 15.0), np.where(flies, 15.0, 0.9) + 0.1 * np.sin(time_s)], axis=1)
    rows[int(ground_s) + 100 : int(ground_s) + 104, 2] = 60.0
    if not ground_s:
        rows[:5, 2] = rows[-5:, 2] = 0.9
    (flight,) = flights_in(log_of_rows(["volts", "amps"], rows, "one"))
    assert flight == pytest.approx((ground_s, ground_s + 600.0), abs=6.0)


def test_several_flights_of_one_log_are_told_apart() -> None:
    log = as_log(design(1))
    later = FlightLog(*(np.concatenate([values, values + (log.time_s[-1] + 1.0 if place == 0 else 0.0)])
                        for place, values in enumerate(vars(log).values())))  # fmt: skip
    assert len(flights_in(later)) == 2
    found = flown_flight(later, design(1), Noted(flight=1))
    assert any("2 flights stand in this log; this is number 2" in remark for remark in found.remarks)
    assert any("only the first of a log tells of it" in remark for remark in found.remarks)
    assert [one.name for one in found.learned] == ["power"]
    first = flown_flight(later, design(1), Noted(flight=0))
    alone = flown_flight(log, design(1))
    assert [one.share for one in first.learned] == pytest.approx([one.share for one in alone.learned], rel=0.01)


@settings(max_examples=25, deadline=None)
@given(st.floats(0.8, 1.25), st.floats(-0.5, 0.5), st.floats(0.2, 2.0))
def test_a_sensor_of_any_scale_and_offset_is_found(scale: float, offset: float, idle_a: float) -> None:
    time_s = np.arange(0.0, 1300.0, 1.0)
    flows = np.where((time_s > 60) & (time_s < 1200), 18.0, idle_a)
    none = np.full(len(time_s), np.nan)
    log = FlightLog(time_s, np.full(len(time_s), 15.0), scale * flows + offset, *[none] * 6, none[:, None][:, :0])
    returned = float(np.trapezoid(flows, time_s)) / 3.6 / 0.995
    found = amps_sensor(log, returned, 15.0 * idle_a, (0.0, 50.0))
    assert found.scale == pytest.approx(scale, rel=1e-3)
    assert found.offset_a == pytest.approx(offset, abs=2e-3)
    assert put_right(log, found).amps == pytest.approx(flows, abs=0.03)


def test_a_flight_of_too_many_phases_is_refused_and_not_cut(flown: dict[int, FlownFlight]) -> None:
    with pytest.raises(DocumentError, match="more than 200 phases"):
        mission_of(40 * flown[3].phases, "craft")


def test_what_is_no_flight_is_a_sentence(logs: dict[int, FlightLog]) -> None:
    log = logs[3]
    ground = log.between(0.0, 55.0)
    with pytest.raises(DocumentError, match="Nothing flies in this log"):
        flights_in(ground)
    with pytest.raises(DocumentError, match="hardly of one flight"):
        amps_sensor(log, 3000.0, 12.5, (0.0, 50.0))
    with pytest.raises(DocumentError, match="a flight needs volts and amps"):
        log_of_rows(["volts"], np.zeros((30, 2)), "one")
    back = np.stack([np.r_[np.arange(20.0), np.arange(20.0)], np.full(40, 15.0), np.full(40, 9.0)], axis=1)
    with pytest.raises(DocumentError, match="row 21: its clock goes back, from 19 s to 0 s"):
        log_of_rows(["volts", "amps"], back, "one")
    with pytest.raises(DocumentError, match="at least 20"):
        log_of_rows(["volts", "amps"], back[:5], "one")
    two = beside(design(1), (cell_type(id="other"), {}))
    found = flown_flight(log, two)
    assert any("Several packs flew together" in remark for remark in found.remarks)
    assert found.sentences()


@pytest.mark.parametrize(("target", "other"), [(1, 3), (3, 1)])
def test_a_flight_lies_inside_the_range_that_another_taught(
    flown: dict[int, FlownFlight], target: int, other: int
) -> None:
    """One craft with another pack, another sensor and another day: its minutes to the charge that was drawn."""
    craft = lesson([FlightSaid(str(other), str(other), flown[other])], ("power", "drag"))
    found, complete = flown[target], design(target)
    percent = 100 * found.drawn_mah / complete.pack.label_mah
    flies = complete.changed(mission=flown_on(found.flies.mission)).with_design(
        landing=complete.design.landing.changed(basis="charge used", charge_percent=percent)
    )
    taught = with_lesson(flies, craft, date(2026, 5, 1))
    wide, narrow = (spread(one, answer(one)).duration_s for one in (flies, taught))
    assert narrow[0] <= found.seconds <= narrow[1]
    assert narrow[1] - narrow[0] < 0.5 * (wide[1] - wide[0])


def test_legs_of_one_power_are_of_one_airspeed_whatever_they_make_over_ground() -> None:
    def leg(speed: float, watts: float, seconds: float = 90.0) -> Phase:
        return Phase(PhaseKind.CRUISE, 0.0, seconds, watts, 15.0, 15.0, 14.8, 0.5, speed, 0.0)

    out_and_back = [leg(12.7, 230.0), leg(5.2, 231.0), leg(12.6, 229.0), leg(5.4, 230.0)]
    faster = [leg(16.7, 262.0), leg(9.4, 263.0)]
    found, known = through_air([*out_and_back, *faster], 3.5)
    assert [one.speed_m_s for one in found[:4]] == pytest.approx([9.1] * 4, abs=0.1)
    assert [one.speed_m_s for one in found[4:]] == pytest.approx([13.1] * 2, abs=0.1)
    assert known
    single, known = through_air([leg(12.7, 230.0)], 3.5)
    assert single[0].speed_m_s == 12.7
    assert not known, "of one leg nobody knows the heading"
    assert through_air([leg(9.0, 230.0)], 0.5)[1], "in hardly any wind it is the same"
