"""Units as one thinks: what is shown, what is typed back, and that nothing goes round them."""

from __future__ import annotations

import ast
import re
from collections.abc import Iterator
from itertools import product
from pathlib import Path

import pytest
from hypothesis import given
from hypothesis import strategies as st

import wise_cellar
from tests.builders import complete
from wise_cellar.core.answer import Asked, answer, explain
from wise_cellar.core.search import sensitivity
from wise_cellar.core.shown import CHOICES, READY, Units, read_units, shown, shown_in
from wise_cellar.core.units import (
    TOLD,
    QuantityError,
    bare_number,
    entry_text,
    format_celsius,
    format_change,
    format_grams,
    format_km,
    format_loading,
    format_metres,
    format_mm,
    format_number,
    format_quantity,
    format_rise,
    format_section,
    format_size,
    format_span,
    format_speed,
    format_volts,
    parse_typed,
    unit_of_field,
)

FIELDS = ("mass_g", "length_mm", "altitude_m", "airspeed_m_s", "air_temperature_c", "area_dm2", "capacity_mah",
          "drag_area_m2", "max_current_a")  # fmt: skip
IMPERIAL = READY["imperial"]
EVERY = [
    Units(*chosen, decimal_comma=comma) for *chosen, comma in product(*CHOICES.values(), (False, True))
]  # fmt: skip
some_units = st.sampled_from(EVERY)
values = st.floats(-60, 50_000).filter(lambda value: value == 0 or abs(value) > 1e-3)


@given(some_units, st.sampled_from(FIELDS), values)
def test_what_a_field_shows_is_read_back_as_what_it_shows(wanted: Units, field: str, value: float) -> None:
    unit = unit_of_field(field)
    with shown_in(wanted):
        text = entry_text(value, unit)
        back = parse_typed(text, unit)
        assert entry_text(back, unit) == text
        into = shown(unit.symbol)
        digits = len(text.replace(".", ",").partition(",")[2])
        assert abs(into.of(back) - into.of(value)) <= 0.5000001 * 10.0**-digits


@given(some_units, st.sampled_from(FIELDS), values)
def test_a_number_with_its_unit_means_the_same_whatever_is_shown(wanted: Units, field: str, value: float) -> None:
    unit = unit_of_field(field)
    text = f"{value:.6f} {unit.symbol}"
    with shown_in(wanted):
        assert parse_typed(text, unit) == pytest.approx(round(value, 6))
        said, into = format_quantity(value, unit), shown(unit.symbol)
        fine = 0.501 * 10.0 ** -max(unit.decimals + into.finer, 0) / into.per
        assert parse_typed(said, unit) == pytest.approx(value, abs=fine)


@given(some_units)
def test_units_are_written_and_read_back(wanted: Units) -> None:
    assert read_units(wanted.written()) == wanted


@pytest.mark.parametrize(
    ("text", "wanted"),
    [
        ("metric", Units()),
        ("imperial", IMPERIAL),
        ("oz, in", Units(mass="oz", length="in")),
        ("F,kn,comma", Units(temperature="°F", speed="kn", decimal_comma=True)),
        ("imperial,g", Units("g", "in", "ft", "mph", "°F")),
    ],
)
def test_units_of_a_command_line(text: str, wanted: Units) -> None:
    assert read_units(text) == wanted


def test_an_unknown_unit_is_a_sentence() -> None:
    with pytest.raises(ValueError, match="“stone” is no unit to show; write one or more of metric, imperial, g, oz"):
        read_units("oz,stone")


def test_quantities_in_the_units_that_are_shown() -> None:
    """Factors of the international pound, inch, mile and nautical mile."""
    with shown_in(IMPERIAL):
        assert format_grams(2044) == "72.1 oz"
        assert format_grams(100, TOLD) == "3.53 oz"
        assert format_mm(160, TOLD) == "6.3 in"
        assert format_size(127, 65, 22) == "5.0 × 2.6 × 0.9 in"
        assert format_section(8, 0.2) == "0.315 × 0.00787 in"
        assert format_span(2400) == "94 in"
        assert format_metres(40) == "131 ft"
        assert format_speed(10) == "22.4 mph"
        assert format_km(12) == "7.5 mi"
        assert format_celsius(-40) == "−40 °F"
        assert format_rise(10) == "18 °F"
        assert format_loading(30.515) == "10.0 oz/ft²"
        assert format_change(140, 0, "g") == "+4.9 oz"
        assert bare_number(20, "°C") == "68"
        assert format_quantity(20, unit_of_field("area_dm2")) == "310\u00a0in²"
    with shown_in(Units(speed="km/h")):
        assert format_speed(10) == "36.0 km/h"
    with shown_in(Units(speed="kn")):
        assert format_speed(10) == "19.4 kn"
        assert format_km(1.852) == "1.0 nmi"


def test_a_decimal_comma_is_shown_and_typed() -> None:
    volts, charge = unit_of_field("min_voltage_v"), unit_of_field("capacity_mah")
    with shown_in(Units(decimal_comma=True)):
        assert format_volts(3.3) == "3,30 V"
        assert format_number(1234.5, 1) == "1\u202f234,5"
        assert parse_typed("3,3", volts) == parse_typed("3.3", volts) == 3.3
        assert parse_typed("1,234", charge) == 1.234
        assert parse_typed("1.234,5", charge) == 1234.5
        with pytest.raises(QuantityError, match=r"“1\.200” may be 1,2 or 1200; write it without the point"):
            parse_typed("1.200", charge)


def test_a_bare_number_is_in_what_is_shown() -> None:
    with shown_in(IMPERIAL):
        assert parse_typed("10", unit_of_field("diameter_mm")) == 254
        assert parse_typed("50", unit_of_field("air_temperature_c")) == pytest.approx(10)
        assert parse_typed("4.2", unit_of_field("max_voltage_v")) == 4.2


def test_sentences_follow_and_the_answer_does_not() -> None:
    design = complete()
    as_kept = answer(design)
    with shown_in(IMPERIAL):
        found = answer(design)
        said = " ".join(step.sentence for step in explain(design, found, Asked.MASS))
    assert found.duration_s == as_kept.duration_s
    assert " oz" in said
    assert " g" not in said


def test_a_slope_is_told_for_a_unit_that_is_shown() -> None:
    design = complete()
    kept = {slope.name: slope for slope in sensitivity(design, 1.0)}
    with shown_in(IMPERIAL):
        told = {slope.name: slope for slope in sensitivity(design, 1.0)}
    assert (told["Take-off mass"].unit, told["Altitude"].unit) == ("1 oz more", "100 ft higher")
    assert told["Take-off mass"].seconds == pytest.approx(28.349523125 * kept["Take-off mass"].seconds)
    assert told["Air and pack"].seconds == pytest.approx(kept["Air and pack"].seconds / 1.8)
    assert told["Capacity"].seconds == kept["Capacity"].seconds


ROOT = Path(wise_cellar.__file__).parent
SHOWING = ("core", "instruments", "ui", "cli", "store")
SHOWN_UNITS = re.compile(r"^[\s\u00a0]*(mm|m/s|°C|g|km)(?![\w/²·])")
ARITHMETIC = {"core/units.py", "core/answer/explain.py", "core/cells/claims.py", "core/propulsion/handling.py"}
"""Where a number is reckoned before the reader's eyes, in units that multiply."""


def _shown_numbers() -> Iterator[tuple[str, ast.FormattedValue, str]]:
    """File, number in a text, and what stands behind it."""
    for folder in SHOWING:
        for path in sorted((ROOT / folder).rglob("*.py")):
            if path.parent.name == "stand_ins":
                continue  # a device sends what it sends
            for node in ast.walk(ast.parse(path.read_text(encoding="utf-8"))):
                if isinstance(node, ast.JoinedStr):
                    for place, part in enumerate(node.values):
                        behind = node.values[place + 1] if place + 1 < len(node.values) else None
                        words = str(behind.value) if isinstance(behind, ast.Constant) else ""
                        if isinstance(part, ast.FormattedValue):
                            yield str(path.relative_to(ROOT)), part, words


def test_no_text_writes_a_unit_by_itself_that_may_be_shown_as_another() -> None:
    found = {f"{file}: {ast.unparse(part)}{words[:6]}" for file, part, words in _shown_numbers()
             if file not in ARITHMETIC and SHOWN_UNITS.match(words)}  # fmt: skip
    assert not found


def test_no_text_writes_a_decimal_by_itself() -> None:
    """What is written for machines does: tables, and numbers that are rounded by way of a text."""
    machines = {"core/units.py", "core/search/table.py", "core/documents/tables.py", "core/build/materials.py",
                "core/fit/fitting.py", "core/fit/told.py", "core/begin/sizes.py", "core/begin/making.py",
                "core/answer/landing.py",
                "core/charge/field_day.py", "cli/given.py", "cli/predict.py", "ui/stations/cells/model_picture.py",
                "ui/stations/cells/discharge_picture.py", "ui/stations/cells/fit_picture.py",
                "ui/stations/craft/flights_panel.py", "core/search/sensitivity.py"}  # fmt: skip
    decimal = {file for file, part, _ in _shown_numbers()
               if part.format_spec is not None and re.search(r"[fg]'$", ast.unparse(part.format_spec))}  # fmt: skip
    assert decimal <= machines
