"""A day in the field: by hand where it is simple, and by what must hold where it is not."""

from __future__ import annotations

import csv
import io
import math
from itertools import pairwise

import pytest
from hypothesis import given, settings
from hypothesis import strategies as st

from tests.builders import cell_type, complete, cruise, mission
from wise_cellar.core.answer import answer
from wise_cellar.core.charge import Doing, PackTurn, SetKind, Timetable, charge_plan, field_day, set_kind, timetable_csv
from wise_cellar.core.documents import Charger, ChargeWish, FieldDay


def kind(name: str = "Scout", count: int = 1, flight: float = 20, *packs: tuple[float, float]) -> SetKind:
    """A set of packs, each with minutes of cooling and of charging."""
    turns = tuple(
        PackTurn(f"pack {n}", 60 * cool, 60 * full, 0.0, 20.0) for n, (cool, full) in enumerate(packs or ((0, 60),), 1)
    )
    return SetKind(name, count, 60 * flight, turns)


def day(hours: float = 6, turnaround: float = 5) -> FieldDay:
    return FieldDay(length_h=hours, turnaround_min=turnaround)


def flown(table: Timetable) -> list[float]:
    return [entry.start_s / 60 for entry in table.entries if entry.doing is Doing.FLY]


def test_one_set_and_one_charger_by_hand() -> None:
    """20 min up, an hour on the charger: every 80 min, the last at 320 min."""
    table = field_day([kind()], day(), Charger())
    assert flown(table) == [0, 80, 160, 240, 320]
    assert table.air_s == 5 * 20 * 60
    assert table.supply_wh == pytest.approx(5 * 20)


def test_cooling_comes_before_the_charge() -> None:
    table = field_day([kind("Scout", 1, 20, (15, 60))], day(), Charger())
    assert flown(table)[1] == 95
    cools = next(entry for entry in table.entries if entry.doing is Doing.COOL)
    assert (cools.start_s, cools.end_s) == (20 * 60, 35 * 60)


def test_a_set_is_ready_when_all_of_its_packs_are() -> None:
    """Two packs, one charger: one after the other; two chargers: at once."""
    both = kind("Scout", 1, 20, (0, 60), (0, 40))
    assert flown(field_day([both], day(), Charger(count=1)))[1] == 120
    assert flown(field_day([both], day(), Charger(count=2)))[1] == 80


def test_more_sets_fly_while_others_are_charged() -> None:
    one, three = (field_day([kind(count=n)], day(), Charger()) for n in (1, 3))
    assert three.air_s > one.air_s
    assert flown(three)[:3] == [0, 25, 50], "they are full in the morning, five minutes apart"


def test_the_supply_runs_out() -> None:
    table = field_day([kind()], day(), Charger(supply_wh=45))
    assert table.flights == 3, "two charges of 20 Wh, and the full set of the morning"
    assert "45 Wh are used up" in table.sentences()[-1]


def test_what_cannot_be_charged_is_told_and_the_day_goes_on() -> None:
    table = field_day([kind("Scout", 1, 20, (math.inf, 60)), kind("Other", 1, 10)], day(), Charger())
    assert "Scout: the pack 1 cannot be charged here" in " ".join(table.sentences())
    assert table.flights > 2


def test_a_flight_longer_than_the_day_is_not_begun() -> None:
    assert field_day([kind(flight=90)], day(hours=1), Charger()).flights == 0


@settings(max_examples=60, deadline=None)
@given(
    st.lists(
        st.tuples(
            st.integers(1, 3), st.floats(5, 40),
            st.lists(st.tuples(st.floats(0, 20), st.floats(20, 100)), min_size=1, max_size=2),
        ),
        min_size=1, max_size=3,
    ),
    st.integers(1, 3), st.floats(1, 9),
)  # fmt: skip
def test_no_day_breaks_what_must_hold(sets: list, chargers: int, hours: float) -> None:  # type: ignore[type-arg]
    kinds = [kind(f"kind {n}", count, flight, *packs) for n, (count, flight, packs) in enumerate(sets)]
    table = field_day(kinds, day(hours), Charger(count=chargers))
    flights = [entry for entry in table.entries if entry.doing is Doing.FLY]
    for before, after in pairwise(flights):
        assert after.start_s >= before.end_s + 300 - 1e-6, "one craft in the air, and its turnaround"
    assert all(entry.end_s <= table.day_s + 1e-6 for entry in flights)
    assert table.air_s == pytest.approx(sum(entry.end_s - entry.start_s for entry in flights))
    for number in range(1, chargers + 1):
        used = [entry for entry in table.entries if entry.charger == number]
        for before, after in pairwise(used):
            assert after.start_s >= before.end_s - 1e-6, "one pack on a charger"
    for name in table.sets:
        own = [entry for entry in table.entries if entry.set_name == name]
        ups = [entry for entry in own if entry.doing is Doing.FLY]
        for before, after in pairwise(ups):
            charged = [
                e for e in own if e.doing is Doing.CHARGE and before.end_s <= e.start_s and e.end_s <= after.start_s + 1
            ]
            packs = next(k for k in kinds if name.startswith(k.name)).packs
            assert len(charged) == len(packs), "nothing flies that is not full"


def test_it_exports_as_a_table() -> None:
    table = field_day([kind("Scout", 2, 20, (5, 60))], day(), Charger())
    rows = list(csv.DictReader(io.StringIO(timetable_csv(table))))
    assert rows[0] == {
        "start": "0:00", "end": "0:20", "minutes": "20.0", "set": "Scout 1", "pack": "", "what": "flies", "charger": "",
    }  # fmt: skip
    assert len(rows) == len(table.entries)
    assert {row["charger"] for row in rows if row["what"] == "is charged"} == {"1"}


def test_a_set_is_what_its_design_flies_and_charges() -> None:
    design = complete(cell=cell_type(charge_current_a=4.0), flown=mission(cruise(900)))
    charger = Charger(current_a=40, power_w=2000)
    answered = answer(design)
    made = set_kind("Whimbrel", 2, design, answered, charger)
    assert made.flight_s == answered.duration_s
    asked = design.design.model_copy(update={"charger": charger, "charge": ChargeWish(temperature_c=20)})
    plan = charge_plan(design.model_copy(update={"design": asked}), answered)
    assert made.packs[0].charge_s == pytest.approx(plan.charged.seconds)
    assert made.packs[0].supply_wh == pytest.approx(plan.supply_wh)
    slow = set_kind("Whimbrel", 2, design, answered, Charger(current_a=2))
    assert slow.packs[0].charge_s > made.packs[0].charge_s
