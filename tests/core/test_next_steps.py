"""What to weigh or measure next, held against the range once it is done."""

from __future__ import annotations

import re
from typing import Any

import pytest

from wise_cellar.core.answer import answer, spread, what_next
from wise_cellar.core.begin import Beginning, Purpose, make, read_description
from wise_cellar.core.documents import CompleteDesign, SourceKind, ValueSource
from wise_cellar.demo import complete_sample


def begun(**gaps: Any) -> CompleteDesign:
    return make(Beginning(**gaps), lambda _, name: re.sub(r"[^a-z0-9]+", "-", name.lower()), {}).complete


def asked(complete: CompleteDesign) -> Any:
    answered = answer(complete)
    found = spread(complete, answered)
    return what_next(complete, answered, found), found.duration_s


def width(ends: Any) -> float:
    return float(ends[1] - ends[0])


def test_an_unweighed_craft_is_to_be_weighed_and_the_range_becomes_what_was_said() -> None:
    complete = begun(propeller_mm=254.0, purpose=Purpose.HOVER)
    found, now = asked(complete)
    step = next(step for step in found.steps if step.name == "Weigh the craft")
    assert step.field == "craft.parts.0.mass_g"
    assert step.high_s - step.low_s < width(now)
    told = complete.changed(craft=complete.craft.told("parts.0.mass_g"))
    after, then = asked(told)
    assert then == pytest.approx((step.low_s, step.high_s))
    assert "Weigh the craft" in after.done


def test_a_measured_cell_ticks_itself_off() -> None:
    complete = begun(propeller_mm=254.0, mass_g=1150.0, purpose=Purpose.HOVER, onto=read_description("21700 4200 mAh"))
    found, _ = asked(complete)
    assert not {"Measure the capacity", "Measure the resistance"} & set(found.done)
    sources = tuple(ValueSource(field=name, kind=SourceKind.MEASURED) for name in ("capacity_mah", "dcir_mohm"))
    after, _ = asked(complete.changed(cells=(complete.cells[0].changed(sources=sources),)))
    assert {"Measure the capacity", "Measure the resistance"} <= set(after.done)
    assert not any(step.name.startswith("Measure") for step in after.steps)


def test_minutes_alone_ask_for_what_the_charger_puts_back() -> None:
    gaps = {"propeller_mm": 254.0, "mass_g": 1150.0, "battery": read_description("4S 5200 mAh polymer"),
            "flown_min": 20.0, "purpose": Purpose.LEGS}  # fmt: skip
    found, now = asked(begun(**gaps))
    step = next(step for step in found.steps if step.name == "Note what the charger puts back")
    assert step.field == "craft.known_flights.0.charge_used_mah"
    assert step.high_s - step.low_s < 0.8 * width(now)
    after, _ = asked(begun(**gaps, charge_mah=4160.0))
    assert "A known flight" in after.done


def test_three_steps_at_most_best_first_and_each_brings_something() -> None:
    found, now = asked(begun())
    widths = [step.high_s - step.low_s for step in found.steps]
    assert len(widths) == 3
    assert widths == sorted(widths)
    assert widths[-1] < width(now)


def test_a_fitted_cell_is_asked_for_no_resistance() -> None:
    found, _ = asked(complete_sample("whimbrel-energy"))
    assert not any("resistance" in step.name for step in found.steps)
    assert "Measure the capacity" in found.done
