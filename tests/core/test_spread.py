"""The range of the answer: wider where less is known, about the answer itself, from the sources of the values."""

from __future__ import annotations

import math
from dataclasses import replace
from typing import Any

import numpy as np
import pytest

from tests.builders import LANDING, cell_type, complete, craft, cruise, fitted_model, mission
from wise_cellar.core.answer import Doubts, Spread, answer, spread
from wise_cellar.core.answer.doubts import doubts
from wise_cellar.core.answer.spread import percentiles
from wise_cellar.core.cells.doubts import BEYOND
from wise_cellar.core.documents import BenchResult, Block, CellType, Conditions, KnownFlight, LandingRule, Rotors
from wise_cellar.core.flight import Ending, fly
from wise_cellar.core.lowering import lower, lower_one
from wise_cellar.core.propulsion.drive_numbers import DRIVE


def known(cell: CellType, **changes: Any) -> Doubts:
    design = complete(cell=cell, **changes)
    return doubts(design, answer(design))


def spreading(cell: CellType, **changes: Any) -> Spread:
    design = complete(cell=cell, **changes)
    return spread(design, answer(design))


def specimens(*capacities: float, dcir: tuple[float, ...] = ()) -> tuple[BenchResult, ...]:
    pairs = [(mah, dcir[n] if n < len(dcir) else None) for n, mah in enumerate(capacities)]
    return tuple(BenchResult(label=str(n), capacity_mah=mah, dcir_mohm=mohm) for n, (mah, mohm) in enumerate(pairs))


def test_the_answer_lies_in_its_range_and_the_range_is_the_same_each_time() -> None:
    design = complete()
    found = spread(design, answer(design))
    assert found.duration_s[0] < answer(design).duration_s < found.duration_s[1]
    assert found.late_punch_v[0] < answer(design).late_punch.volts_a_cell < found.late_punch_v[1]
    assert found == spread(design, answer(design))


def test_minutes_spread_as_drive_and_capacity_do() -> None:
    """Independent shares add by squares: √(10² + 2² + 1.5²) % of drive, capacity and mass^1.5, on either side."""
    found, middle = spreading(cell_type()), answer(complete()).duration_s
    half = 0.5 * (found.duration_s[1] - found.duration_s[0]) / middle
    assert half == pytest.approx((0.08**2 + 0.02**2 + 0.015**2) ** 0.5, rel=0.25)


def test_a_known_flight_narrows_it() -> None:
    flight = KnownFlight(
        takeoff_mass_g=1910, airspeed_m_s=9, duration_min=21.5, charge_used_mah=5300, mean_voltage_v=14.4,
        air_temperature_c=17, altitude_m=10,
    )  # fmt: skip
    flown = spreading(cell_type(), carrier=craft(known_flights=(flight,)))
    blind = spreading(cell_type())
    assert flown.doubts.drive < blind.doubts.drive
    assert flown.duration_s[1] / flown.duration_s[0] < blind.duration_s[1] / blind.duration_s[0]


@pytest.mark.parametrize(
    ("changes", "capacity", "resistance", "because"),
    [
        ({}, 0.02, 0.15, "maker's sheet"),
        ({"source": "estimate"}, 0.05, 0.25, "estimate"),
        ({"source": "measured"}, 0.01, 0.08, "measured"),
        ({"dcir_mohm": None, "ac_resistance_mohm": 9}, 0.02, 0.25, "from an AC reading"),
        ({"fitted": fitted_model(coldest_c=0, warmest_c=60, highest_current_a=60)}, 0.02, 0.06, "fitted"),
    ],
)
def test_sources_decide_how_far_a_value_may_be_off(
    changes: dict[str, Any], capacity: float, resistance: float, because: str
) -> None:
    found = known(cell_type(**changes))
    assert (found.cell.capacity, found.cell.resistance) == (capacity, resistance)
    assert found.cell.resistance_because == because


def test_three_specimens_on_the_bench_set_the_doubt_two_do_not() -> None:
    """Capacities of 4 300, 4 500, 4 700: a standard deviation of 4.4 %, ± 5.7 % for 8 of 10."""
    wide = known(cell_type(bench_results=specimens(4300, 4500, 4700, dcir=(14, 15, 16))))
    assert wide.cell.capacity == pytest.approx(1.2816 * 200 / 4500, rel=1e-3)
    assert wide.cell.resistance == pytest.approx(1.2816 / 15, rel=1e-3)
    assert wide.cell.capacity_because == "3 specimens measured"
    assert known(cell_type(bench_results=specimens(4300, 4700))).cell.capacity == 0.02
    narrow = spreading(cell_type(bench_results=specimens(4495, 4500, 4505)))
    assert narrow.doubts.cell.capacity == 0.005, "never less than half a per cent"


def test_a_wide_bench_spread_widens_the_range_of_the_minutes() -> None:
    wide = spreading(cell_type(bench_results=specimens(3600, 4500, 5400)))
    sheet = spreading(cell_type())
    assert wide.duration_s[1] - wide.duration_s[0] > 1.5 * (sheet.duration_s[1] - sheet.duration_s[0])


def test_beyond_its_fit_every_doubt_of_a_cell_grows_with_the_distance() -> None:
    """The flight draws some 21 A a cell; three fits of the same numbers that rest on less and less."""
    wide = [
        known(cell_type(fitted=fitted_model(coldest_c=-10, warmest_c=60, highest_current_a=most, burst_a=90))).cell
        for most in (60, 5, 2.5)
    ]
    for name in ("capacity", "resistance", "lag"):
        inside, beyond, far = (getattr(one, name) for one in wide)
        assert inside < beyond < far, name
        assert far - beyond == pytest.approx(BEYOND[name] * math.log(2)), "the same for every doubling"
    assert wide[0].resistance_because == "fitted"
    assert wide[1].resistance_because == "fitted, flown outside it"


def test_a_punch_beyond_what_was_seen_is_doubtful_though_the_cruise_is_not() -> None:
    one, other = (
        known(cell_type(fitted=fitted_model(coldest_c=-10, warmest_c=60, highest_current_a=25, burst_a=seen))).cell
        for seen in (200, 25)
    )
    assert one.burst == one.resistance
    assert other.burst > other.resistance == one.resistance
    assert "% in bursts" in known(cell_type(fitted=fitted_model(highest_current_a=25))).words


@pytest.mark.parametrize("told", [True, False])
def test_colder_than_a_fit_doubts_grow_by_those_of_the_activation_energies(told: bool) -> None:
    """At 5 °C of a fit from 25 °C on: exp(E/R·Δ(1/T)), 30 and 5 kJ/mol; less where runs at two warmths told them."""
    fit = fitted_model(coldest_c=25, warmest_c=60, highest_current_a=60, burst_a=90, warmth_told=told)
    cold, warm = (known(cell_type(fitted=fit), conditions=Conditions(air_temperature_c=air)).cell for air in (-5, 25))
    assert cold.lag > 2 * warm.lag
    assert cold.resistance > warm.resistance
    inside = fitted_model(coldest_c=-10, warmest_c=60, highest_current_a=60, burst_a=90, warmth_told=True)
    there = known(cell_type(fitted=inside), conditions=Conditions(air_temperature_c=-5)).cell
    assert there.lag < cold.lag


# What drives it


def test_each_driver_alone_moves_the_minutes_by_what_is_said() -> None:
    """Drive worse by its ± share, everything else as it is: the flight is shorter by the driver's effect."""
    design = complete()
    found, middle = spread(design, answer(design)), answer(design)
    drive = next(driver for driver in found.drivers if driver.name == "drive efficiency")
    batch = lower([lower_one(design, middle.factor)])
    motors = batch.block_w - batch.load_w[:, None]
    worse = fly(replace(batch, block_w=motors * (1 + DRIVE[-1]) + batch.load_w[:, None])).lasted_s[0]
    better = fly(replace(batch, block_w=motors * (1 - DRIVE[-1]) + batch.load_w[:, None])).lasted_s[0]
    assert drive.effect_s == pytest.approx((better - worse) / 2, rel=0.1)
    capacity = next(driver for driver in found.drivers if driver.name == "capacity")
    assert capacity.effect_s == pytest.approx(0.02 * middle.duration_s, rel=0.15)


def test_drivers_add_by_squares_to_the_range_and_stand_in_order() -> None:
    found = spreading(cell_type())
    effects = [driver.effect_s for driver in found.drivers]
    assert effects == sorted(effects, reverse=True)
    half = 0.5 * (found.duration_s[1] - found.duration_s[0])
    assert half == pytest.approx(sum(effect**2 for effect in effects) ** 0.5, rel=0.15)


def test_the_measurement_that_shrinks_most_is_named() -> None:
    found = spreading(cell_type())
    assert found.best_measurement is not None
    assert found.best_measurement.measure == "enter one flight with a battery you know"
    known_flight = KnownFlight(
        takeoff_mass_g=1910, airspeed_m_s=9, duration_min=21.5, charge_used_mah=5300, mean_voltage_v=14.4,
        air_temperature_c=17, altitude_m=10,
    )  # fmt: skip
    flown = spreading(cell_type(), carrier=craft(known_flights=(known_flight,)))
    assert flown.best_measurement is not None
    assert flown.best_measurement.name == "capacity"


def test_the_wind_spreads_only_what_is_held_against_it() -> None:
    holding = spreading(cell_type(), flown=mission(Block(kind="hover"), LANDING), conditions=Conditions(wind_m_s=12))
    held = next(d for d in holding.drivers if d.name == "wind").effect_s
    assert held > 20
    still = spreading(cell_type())
    assert not [driver for driver in still.drivers if driver.name == "wind"]
    by_air = spreading(cell_type(), conditions=Conditions(wind_m_s=12), flown=mission(cruise(), LANDING))
    assert next(d for d in by_air.drivers if d.name == "wind").effect_s < 0.1 * held, "only the landing hovers"


def test_bands_hold_the_flight_and_widen_towards_its_end() -> None:
    design = complete()
    bands, series = spread(design, answer(design)).bands, answer(design).series
    flown = bands.time_s <= series.time_s[-1]
    for band, trace in (
        (bands.loaded_v, series.loaded_v), (bands.throttle, series.throttle), (bands.pack_a, series.pack_a)
    ):  # fmt: skip
        values = np.interp(bands.time_s, series.time_s, trace)
        inside = (band[0] - 5e-3 <= values) & (values <= band[1] + 5e-3)
        assert inside[flown].mean() > 0.95
    assert bands.time_s[-1] > series.time_s[-1], "longer flights go on"
    width = bands.loaded_v[1] - bands.loaded_v[0]
    assert width[-20] > 1.5 * width[20] > 0
    assert np.all(bands.pack_a[0] <= bands.pack_a[1])


def test_percentiles_are_numpys() -> None:
    values = np.random.default_rng(3).normal(size=(50, 8))
    values[20:, 5:] = np.nan
    assert percentiles(values) == pytest.approx(np.nanpercentile(values, (10, 90), axis=0))


# The drive by its size


@pytest.mark.parametrize(("diameter", "doubt"), [(65, 0.25), (80, 0.25), (105, 0.20), (130, 0.15), (254, 0.10)])
def test_a_drive_of_which_nothing_is_known_is_in_doubt_by_its_size(diameter: float, doubt: float) -> None:
    small = complete(carrier=craft(rotors=Rotors(diameter_mm=diameter, pitch_mm=diameter / 2)))
    assert doubts(small, answer(complete())).drive == pytest.approx(doubt)


def test_the_doubt_of_a_drive_reaches_an_end_by_thrust_and_bursts() -> None:
    """A motor that can hardly hold the craft late in the pack: where it runs out of thrust hangs on its drive."""
    weak = complete(
        carrier=craft(motor=craft().motor.changed(kv_rpm_per_v=420)),
        landing=LandingRule(policy="own", own_voltage_v=2.6),
    )
    found = answer(weak)
    assert found.reason.ending is Ending.OUT_OF_THRUST
    low, high = spread(weak, found).duration_s
    by_watts_alone = 2 * 0.1 * found.duration_s
    assert high - low > 1.5 * by_watts_alone
    sound = spread(complete(), answer(complete()))
    assert sound.late_punch_v[1] - sound.late_punch_v[0] > 0.02
