"""What people type, and what they read."""

from __future__ import annotations

import pytest
from hypothesis import given
from hypothesis import strategies as st

from wise_cellar.core.units import (
    QuantityError,
    counted,
    format_change,
    format_mah,
    format_minutes,
    format_narrowing,
    format_number,
    format_quantity,
    format_range,
    format_share,
    of_limit,
    parse_quantity,
    unit_of_field,
)


@pytest.mark.parametrize(
    ("field", "typed", "value"),
    [
        ("mass_g", "1.2kg", 1200),
        ("mass_g", "1,2 kg", 1200),
        ("mass_g", "2 oz", 56.69904625),
        ("mass_g", "1 250", 1250),
        ("capacity_mah", "3000mAh", 3000),
        ("capacity_mah", "3 Ah", 3000),
        ("gauge_awg", "14 awg", 14),
        ("air_temperature_c", "85F", 29.4444444),
        ("air_temperature_c", "−5", -5),
        ("air_temperature_c", "273.15 K", 0),
        ("dcir_mohm", "0.018 ohm", 18),
        ("dcir_mohm", "18 mΩ", 18),
        ("length_mm", "6.3 in", 160.02),
        ("altitude_m", "130 ft", 39.624),
        ("airspeed_m_s", "36 km/h", 10),
        ("airspeed_m_s", "10 kn", 5.14444),
        ("duration_s", "1:30", 90),
        ("duration_s", "1.5 min", 90),
        ("duration_min", "12:30", 12.5),
        ("drag_area_m2", "300 cm²", 0.03),
        ("kv_rpm_per_v", "920 kv", 920),
        ("start_charge_percent", "80 %", 80),
        ("max_current_a", "500 mA", 0.5),
        ("power_w", "1.5e3 mW", 1.5),
        ("layers", "3", 3),
    ],
)
def test_typed_quantities_become_the_unit_of_the_field(field: str, typed: str, value: float) -> None:
    assert parse_quantity(typed, unit_of_field(field)) == pytest.approx(value, rel=1e-6)


@pytest.mark.parametrize(
    ("field", "typed", "says"),
    [
        ("mass_g", "heavy", "“heavy” is not a number; write 250 g or 1.2 kg."),
        ("mass_g", "", "“” is not a number; write 250 g or 1.2 kg."),
        ("mass_g", "12 V", "“V” is not a unit of a mass here; write 250 g or 1.2 kg."),
        ("mass_g", "1.2.3", "“.3” is not a unit of a mass here; write 250 g or 1.2 kg."),
        ("layers", "3 g", "“g” is not a unit of a number without a unit here; write a plain number such as 4."),
        ("mass_g", "1:30", "“:30” is not a unit of a mass here; write 250 g or 1.2 kg."),
    ],
)
def test_a_bad_quantity_is_refused_with_a_sentence(field: str, typed: str, says: str) -> None:
    with pytest.raises(QuantityError) as refusal:
        parse_quantity(typed, unit_of_field(field))
    assert str(refusal.value) == says


def test_the_unit_is_the_longest_suffix_of_the_field_name() -> None:
    assert unit_of_field("airspeed_m_s").symbol == "m/s"
    assert unit_of_field("hold_s").symbol == "s"
    assert unit_of_field("drag_area_m2").symbol == "m²"
    assert unit_of_field("altitude_m").symbol == "m"
    assert unit_of_field("series_count").symbol == ""
    assert unit_of_field("a").symbol == "", "a whole name is not a suffix"


@given(st.floats(-1e6, 1e6), st.sampled_from(["mass_g", "capacity_mah", "min_voltage_v", "layers"]))
def test_a_shown_number_reads_back_as_what_it_shows(value: float, field: str) -> None:
    unit = unit_of_field(field)
    shown = format_quantity(value, unit)
    assert parse_quantity(shown, unit) == pytest.approx(value, abs=0.51 * 10**-unit.decimals)


def test_one_is_told_as_one() -> None:
    assert [counted(count, "cell") for count in (0, 1, 12, 1200)] == [
        "0 cells",
        "1 cell",
        "12 cells",
        "1\u202f200 cells",
    ]
    assert counted(2, "state of charge", "states of charge") == "2 states of charge"


def test_numbers_have_true_minus_signs_and_spaced_thousands() -> None:
    assert format_number(-12345.678, 1) == "−12\u202f345.7"
    assert format_number(-0.04, 1) == "0.0", "nothing is not negative"
    assert format_quantity(18.50, unit_of_field("dcir_mohm")) == "18.5\u00a0mΩ"
    assert format_share(0.714) == "71\u00a0%"


def test_durations_and_changes_in_words() -> None:
    assert format_minutes(2170.4) == "36 min 10 s"
    assert format_minutes(59.6) == "1 min 00 s"
    assert format_minutes(-75) == "−1 min 15 s"
    assert format_minutes(8) == "8 s"
    assert format_change(140.2, 0, "g") == "+140 g"
    assert format_change(-0.06, 2, "V") == "−0.06 V"
    assert format_change(0.001, 2, "V") == "no change"


def test_digits_mean_something() -> None:
    assert format_share(0.714) == "71\u00a0%"
    assert format_share(14.09) == "14\u00a0times"
    assert of_limit(0.71) == "71\u00a0% of its limit"
    assert of_limit(14.09, "limit") == "14\u00a0times limit"
    assert format_range(33 * 60, 39 * 60) == "33 … 39"
    assert format_range(504, 588) == "8.4 … 9.8"
    assert format_range(120, 7200) == "unknown", "2 … 120 says nothing"
    assert format_mah(9283.4) == "9\u202f283 mAh"


def test_what_a_measurement_brings_is_told_as_finely_as_it_shows() -> None:
    assert format_narrowing((27 * 60, 49 * 60), (32 * 60, 40 * 60)) == "27 … 49 becomes 32 … 40"
    assert format_narrowing((36.2 * 60, 39.2 * 60), (36.5 * 60, 39.1 * 60)) == "36.2 … 39.2 becomes 36.5 … 39.1"
    assert format_narrowing((36.2 * 60, 39.2 * 60), (36.21 * 60, 39.19 * 60)) == "36.2 … 39.2 stays"
