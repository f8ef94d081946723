"""What several flights teach together, minutes told apart, a pack's life: against flights of known truth."""

from __future__ import annotations

import lzma
from datetime import date, datetime, timedelta
from functools import cache
from pathlib import Path

import numpy as np
import pytest
from hypothesis import given, settings
from hypothesis import strategies as st

from tests.core.test_logbook import LOGS
from tests.core.test_logbook import design as logged_design
from tests.flown import QUANTITIES, Made, Truth, made
from wise_cellar.core.answer import answer, spread
from wise_cellar.core.build.finished import resting_at
from wise_cellar.core.curves import group_columns, guess_columns
from wise_cellar.core.documents import (
    BuiltPack,
    CellType,
    CompleteDesign,
    DocumentError,
    FlightEntry,
    LearnedOf,
    NumberedCell,
    PackCharge,
    PackCheck,
    PhaseEdge,
)
from wise_cellar.core.logbook import FlightLog, PhaseKind, log_of_rows
from wise_cellar.core.logbook.apart import last_s
from wise_cellar.core.logbook.charged import charge_in
from wise_cellar.core.logbook.entries import (
    Fact,
    FlightSaid,
    against_other,
    against_plan,
    held,
    lesson,
    on_that_day,
    setting_of,
)
from wise_cellar.core.logbook.evidence import Evidence, merged, together
from wise_cellar.core.logbook.groups import groups_between, groups_seen
from wise_cellar.core.logbook.joining import Piece, joined
from wise_cellar.core.logbook.life import FlightOfPack, LifePoint, pack_life, trend_of
from wise_cellar.core.logbook.noted import flown_on, lasting
from wise_cellar.core.logbook.season import SeasonRow, picked, season_to_csv, totals
from wise_cellar.core.logbook.taking import with_lesson
from wise_cellar.demo import complete_sample, sample_documents
from wise_cellar.store.logs import read_piece

MORNING = datetime(2026, 4, 4, 9, 0)


@cache
def design(identifier: str = "dunlin-scout") -> CompleteDesign:
    complete = complete_sample(identifier)
    return complete.with_pack(state=complete.pack.state.changed(start_charge_percent=100.0))


def log_of(flight: Made) -> FlightLog:
    return log_of_rows(QUANTITIES, flight.rows, flight.entry.name)


@cache
def scouted(
    power: float, capacity: float, resistance: float, seed: int, scale: float = 1.0, early: float = 0.0
) -> tuple[Made, Fact, Fact]:
    """A flight of the scout, by its notes and by its log."""
    flight = made(design(), Truth(power, capacity, resistance, scale, 0.1), seed, f"flight {seed}", MORNING, early)
    return flight, held(flight.entry, design(), None), held(flight.entry, design(), log_of(flight))


# Evidence


def test_parabolas_add_and_tell_together_what_none_tells_alone() -> None:
    steep = np.array([[100.0, 100.0], [100.0, 100.0]])
    other = np.array([[100.0, -100.0], [-100.0, 100.0]])
    truth = np.array([0.10, -0.04])
    said = [Evidence(("power", "drag"), matrix @ truth, matrix) for matrix in (steep, other)]
    before = {"power": 10.0, "drag": 10.0}
    assert together(said, before).values == pytest.approx(truth, abs=1e-3)
    alone = together(said[:1], before)
    assert alone.values.sum() == pytest.approx(truth.sum(), abs=1e-3), "their sum is all that one tells"
    assert min(alone.doubts) > 5, "and neither by itself"


@settings(max_examples=40, deadline=None)
@given(st.lists(st.floats(-0.2, 0.2), min_size=2, max_size=6), st.floats(0.01, 0.1))
def test_equal_doubts_give_the_mean_and_no_doubt_grows_by_hearing_more(values: list[float], doubt: float) -> None:
    said = [Evidence(("power",), np.array([one / doubt**2]), np.array([[1 / doubt**2]])) for one in values]
    before = {"power": 1e3}
    one, every = together(said[:1], before), together(said, before)
    assert min(values) - 1e-6 <= every.value("power") <= max(values) + 1e-6
    alike = together(said[:1] * len(values), before)
    assert alike.value("power") == pytest.approx(values[0], abs=1e-4)
    assert alike.doubt("power") < one.doubt("power")


def test_one_flight_that_disagrees_hardly_counts() -> None:
    said = [Evidence(("power",), np.array([one * 1e4]), np.array([[1e4]])) for one in (0.05, 0.06, 0.055, 0.40)]
    found = together(said, {"power": 0.1})
    assert found.value("power") == pytest.approx(0.055, abs=0.02)
    assert found.weights[3] < 0.2 < min(found.weights[:3])


def test_what_is_said_of_some_names_alone_knows_no_more_of_the_others_than_before() -> None:
    whole = merged([
        Evidence(("power", "capacity"), np.array([30.0, 10.0]), np.array([[400.0, 150.0], [150.0, 300.0]])),
        Evidence(("capacity",), np.array([2.0]), np.array([[50.0]])),
    ])  # fmt: skip
    before = {"power": 0.1, "capacity": 0.06}
    both = together([whole], before)
    alone = together([whole.alone(("power",), before)], {"power": 0.1})
    assert alone.value("power") == pytest.approx(both.value("power"), rel=1e-9)
    assert alone.doubt("power") == pytest.approx(both.doubt("power"), rel=1e-9)


# Single flights


@pytest.mark.parametrize(("power", "capacity"), [(1.10, 1.0), (0.95, 0.92), (1.05, 0.85)])
def test_notes_tell_power_and_capacity_within_their_doubts(power: float, capacity: float) -> None:
    _, noted, logged = scouted(power, capacity, 1.1, 3)
    for fact in (noted, logged):
        learned = {one.name: one for one in fact.learned}
        for name, truth in (("power", power), ("capacity", capacity)):
            assert learned[name].share == pytest.approx(truth, abs=2.5 * learned[name].doubt)
    doubts = [{one.name: one.doubt for one in fact.learned} for fact in (noted, logged)]
    assert doubts[1]["power"] < doubts[0]["power"], "a log tells more than notes"


def test_what_was_noted_covers_the_truth_in_eight_of_ten() -> None:
    """Twelve flights of different truths: those within 1.28 doubts, of power and of capacity."""
    inside = []
    random = np.random.default_rng(11)
    for seed in range(12):
        power, capacity = 1 + 0.08 * random.standard_normal(), 1 - 0.15 * random.random()
        _, noted, logged = scouted(round(power, 3), round(capacity, 3), 1.1, 40 + seed, scale=0.97)
        for fact in (noted, logged):
            learned = {one.name: one for one in fact.learned}
            for name, truth in (("power", power), ("capacity", capacity)):
                inside.append(abs(np.log(learned[name].share / truth)) <= 1.2816 * learned[name].doubt)
    assert np.mean(inside) >= 0.8


def test_minutes_alone_teach_nothing_and_that_is_said() -> None:
    entry = FlightEntry(id="a", name="a", flown_at=MORNING, design_id="dunlin-scout", duration_min=15.0)
    found = held(entry, design(), None)
    assert not found.said
    assert any("minutes alone teach nothing" in sentence for sentence in found.sentences())
    nothing = held(entry.changed(duration_min=None), design(), None)
    assert any("Neither its minutes nor its charge" in sentence for sentence in nothing.sentences())


@pytest.mark.parametrize(("changed", "says"), [
    ({"returned_mah": 9000.0}, "more than the pack's"), ({"landing_v": 16.4}, "no voltage of 2 cells in series"),
    ({"resting_v": 3.3}, "Write the volts of the whole pack"),
])  # fmt: skip
def test_notes_that_cannot_be_are_refused(changed: dict[str, float], says: str) -> None:
    entry = FlightEntry(id="a", name="a", flown_at=MORNING, design_id="dunlin-scout", duration_min=15.0)
    with pytest.raises(DocumentError, match=says):
        held(entry.changed(**changed), design(), None)


def test_volts_the_wrong_way_round_are_told() -> None:
    with pytest.raises(DocumentError, match="wrong way round"):
        FlightEntry(id="a", name="a", flown_at=MORNING, design_id="x").changed(landing_v=7.0, resting_v=6.2)


def test_a_flight_that_did_not_start_full_is_told_so_and_not_taken_for_a_weak_pack() -> None:
    complete = design().with_pack(state=design().pack.state.changed(start_charge_percent=88.0))
    flight = made(complete, Truth(1.06), 5, "not full", MORNING)
    for log in (None, log_of(flight)):
        fact = held(flight.entry, design(), log)
        learned = {one.name: one for one in fact.learned}
        assert learned["capacity"].share == pytest.approx(1.0, abs=2.5 * learned["capacity"].doubt)
        names = [part.name for part in against_plan(fact, design()).parts]
        assert "how full it started" in names


def test_edges_that_were_moved_are_taken_as_they_are() -> None:
    flight, _, logged = scouted(1.0, 1.0, 1.0, 9)
    phases = logged.phases  # type: ignore[union-attr]
    edges = [PhaseEdge(from_s=one.from_s, kind=str(one.kind)) for one in phases]
    place = max(at for at, one in enumerate(phases) if one.kind is PhaseKind.CRUISE)
    edges[place] = edges[place].changed(from_s=edges[place].from_s + 7.0)
    moved = held(flight.entry.changed(edges=tuple(edges)), design(), log_of(flight))
    assert moved.phases[place].from_s == pytest.approx(phases[place].from_s + 7.0)  # type: ignore[union-attr]
    assert moved.phases[place - 1].to_s == moved.phases[place].from_s  # type: ignore[union-attr]
    unknown = (edges[0].changed(kind="dance"), *edges[1:])
    with pytest.raises(DocumentError, match="“dance” is no kind of phase"):
        held(flight.entry.changed(edges=unknown), design(), log_of(flight))


# Minutes told apart


def test_parts_add_up_and_name_what_was_changed() -> None:
    flight, _, logged = scouted(1.12, 0.9, 1.0, 21)
    parts = against_plan(logged, design())
    assert parts.first_s == pytest.approx(answer(design()).duration_s, abs=1.0)
    assert parts.last_s == pytest.approx(flight.answered.duration_s, abs=2.0)
    assert sum(part.seconds for part in parts.parts) + parts.left_s == pytest.approx(parts.last_s - parts.first_s)
    told = {part.name: part.seconds for part in parts.parts}
    assert told["power as it was"] < -30
    assert told["capacity"] < -30
    assert abs(parts.left_s) < 25, "hardly anything is left"


def test_of_two_flights_what_was_not_alike_is_taken_out() -> None:
    windy = design().with_design(conditions=design().design.conditions.changed(wind_m_s=9.0, air_temperature_c=4.0))
    first, second = made(design(), Truth(1.05), 31, "calm", MORNING), made(windy, Truth(1.05), 32, "windy", MORNING)
    one, other = held(first.entry, design(), log_of(first)), held(second.entry, design(), log_of(second))
    found = against_other(one, design(), other, design())
    assert found.first_s == pytest.approx(first.answered.duration_s, abs=3.0)
    assert "air" in {part.name for part in found.parts}
    assert abs(found.left_s) < 25
    back = against_other(other, design(), one, design())
    assert back.last_s - back.first_s == pytest.approx(found.first_s - found.last_s)


def test_any_other_design_flies_a_recorded_flight() -> None:
    _, _, logged = scouted(1.0, 1.0, 1.0, 9)
    mission = flown_on(logged.flies.mission)
    larger = design().with_pack(recipe=design().pack.recipe.changed(parallel_count=2))
    same, more = (answer(one.changed(mission=mission)) for one in (design(), larger))
    assert more.duration_s > 1.3 * same.duration_s


def test_a_mission_lasts_as_long_as_it_is_told() -> None:
    mission = design().mission
    told = lasting(mission, 900.0)
    assert sum(block.duration_s or 0.0 for block in told.blocks) == pytest.approx(900.0)
    assert lasting(mission, 30.0) == flown_on(mission), "shorter than its blocks: on and on"


# Together


def test_three_flights_make_the_range_half_as_wide_and_the_next_one_is_in_it() -> None:
    truth, told = (1.09, 0.97, 1.05), []
    for seed in (61, 62, 63):
        flight, noted, logged = scouted(*truth, seed, scale=0.96)
        told.append(FlightSaid(flight.entry.id, flight.entry.name, noted if seed == 62 else logged))
    before = answer(design())
    wide = spread(design(), before).duration_s
    taught = with_lesson(design(), lesson(told, ("power", "drag", "capacity", "resistance", "cooling")), date.today())
    after = answer(taught)
    narrow = spread(taught, after).duration_s
    assert narrow[1] - narrow[0] < 0.5 * (wide[1] - wide[0])
    fourth, _, _ = scouted(*truth, 64, scale=0.96)
    assert narrow[0] <= fourth.answered.duration_s <= narrow[1]
    power = taught.craft.taught(LearnedOf.POWER)
    assert power is not None
    assert len(power.flights) == 3, "it keeps where it came from"
    assert spread(taught, after).drivers[0].because != "estimates for the size"


def test_a_flight_of_another_craft_among_four_hardly_counts() -> None:
    told = []
    for seed, power in ((61, 1.09), (62, 1.09), (63, 1.09), (71, 1.6)):
        flight, _, logged = scouted(power, 0.97, 1.05, seed, scale=0.96)
        told.append(FlightSaid(flight.entry.id, flight.entry.name, logged))
    found = lesson(told, ("power", "drag"))
    assert found.odd == ("flight 71",)
    one = found.of("power")
    assert one is not None
    assert one.share == pytest.approx(1.09, abs=0.04)


def test_nothing_is_learned_of_what_no_flight_says() -> None:
    flight, noted, _ = scouted(1.09, 0.97, 1.05, 62, scale=0.96)
    found = lesson([FlightSaid(flight.entry.id, flight.entry.name, noted)], ("drag", "cooling", "liveliness"))
    assert not found.learned
    assert with_lesson(design(), found, date.today()) == design()


# A pack's life


@cache
def built() -> tuple[BuiltPack, CellType, tuple[NumberedCell, ...]]:
    documents = sample_documents()
    pack = next(one for one in documents if isinstance(one, BuiltPack) and one.id == "dunlin-1")
    cell = next(one for one in documents if isinstance(one, CellType) and one.id == pack.cell_type_id)
    return pack, cell, ()


def points(shares: list[float], every_days: int = 20, doubt: float = 0.02) -> list[LifePoint]:
    first = date(2026, 1, 5)
    return [LifePoint(first + timedelta(days=every_days * place), share, doubt, str(place))
            for place, share in enumerate(shares)]  # fmt: skip


def test_a_trend_finds_its_slope_and_its_day() -> None:
    line = [1.0 - 0.30 * 20 * place / 365.25 for place in range(8)]
    trend = trend_of(points(line), 0.8, 0.2)
    assert trend is not None
    assert trend.a_year == pytest.approx(-0.30, abs=0.08)
    assert trend.now == pytest.approx(line[-1], abs=0.01)
    assert trend.worn_on is not None
    ends = trend.day + timedelta(days=365.25 * (line[-1] - 0.8) / 0.30)
    assert trend.worn_between is not None
    assert trend.worn_between[0] <= ends <= trend.worn_between[1]


def test_scatter_is_no_trend_and_too_few_points_are_none() -> None:
    flat = trend_of(points([0.97, 0.98, 0.965, 0.975, 0.97]), 0.8, 0.2)
    assert flat is not None
    assert not flat.falls
    assert flat.worn_on is None
    assert trend_of(points([1.0, 0.9]), 0.8, 0.2) is None


def test_one_wild_point_does_not_bend_a_trend() -> None:
    line = [1.0 - 0.01 * place for place in range(8)]
    wild = [*line[:5], 0.6, *line[6:]]
    trend = trend_of(points(wild), 0.8, 0.2)
    assert trend is not None
    assert trend.now == pytest.approx(line[-1], abs=0.02)


@pytest.mark.parametrize(("fade", "verdict"), [(0.0, "Fine"), (0.065, "Use it gently"), (0.11, "Retire it")])
def test_a_pack_is_judged_by_where_its_flights_lead(fade: float, verdict: str) -> None:
    pack, cell, _ = built()
    flights = []
    for turn in range(5):
        share = 1.0 - fade * turn
        flight, _, logged = scouted(1.0, round(share, 3), 1.0 + fade, 80 + turn)
        entry = flight.entry.changed(flown_at=MORNING + timedelta(days=30 * turn))
        flights.append(FlightOfPack(entry, logged))
    life = pack_life(pack.changed(checks=()), cell, flights)
    assert life.verdict == verdict, life.reasons
    assert life.capacity_trend is not None
    assert life.capacity_trend.now == pytest.approx(1.0 - 4 * fade, abs=0.06)
    assert life.hours.flights == 5
    assert life.hours.cycles == pytest.approx(
        sum(one.fact.drawn_mah for one in flights) / cell.capacity_mah, rel=1e-6
    )  # fmt: skip


def test_a_group_that_falls_behind_and_one_that_loses_are_named() -> None:
    pack, cell, _ = built()
    checks = (
        PackCheck(day=date(2026, 3, 1), group_v=(3.62, 3.44), used_mah=1900.0),
        PackCheck(day=date(2026, 4, 1), group_v=(4.10, 4.10), used_mah=0.0),
        PackCheck(day=date(2026, 4, 11), group_v=(4.09, 3.95), used_mah=0.0),
    )
    life = pack_life(pack.changed(checks=checks), cell, [])
    assert life.weak_group == 2
    assert any("Group 2 holds" in reason for reason in life.reasons)
    assert life.loses_mah_day is not None
    assert life.loses_mah_day > 10
    assert any("a day at rest" in reason for reason in life.reasons)
    assert life.verdict != "Fine"


def test_a_pack_that_nothing_is_known_of_is_told_so() -> None:
    pack, cell, _ = built()
    life = pack_life(pack.changed(checks=()), cell, [])
    assert life.verdict == "Not known yet"
    assert "3 flights" in life.reasons[-1]


# A season, and pieces


def season() -> list[SeasonRow]:
    return [
        SeasonRow(FlightEntry(id=str(number), name=name, flown_at=MORNING + timedelta(days=number), design_id="d",
                              place=place, wind_m_s=wind, duration_min=minutes, returned_mah=back), craft, "design", "")
        for number, (name, craft, place, wind, minutes, back) in enumerate([
            ("one", "Whimbrel", "Marsh", 2.0, 30.0, 9000.0), ("two", "Dunlin", "Bank", 8.0, 16.0, None),
            ("=three", "Whimbrel", "Shore", None, None, 100.0),
        ])
    ]  # fmt: skip


@pytest.mark.parametrize(("typed", "names"), [
    ("", ["one", "two", "=three"]), ("whimbrel", ["one", "=three"]), ("wind > 6", ["two"]), ("wind<6 marsh", ["one"]),
    ("minutes>20", ["one"]), ("charge<500", ["=three"]), ("nobody", []),
])  # fmt: skip
def test_typed_words_and_limits_pick_flights(typed: str, names: list[str]) -> None:
    assert [row.entry.name for row in picked(season(), typed)] == names


def test_a_limit_that_cannot_be_read_is_told() -> None:
    with pytest.raises(DocumentError, match="write one such as wind>6"):
        picked(season(), "wind>fast")


def test_totals_and_a_table_that_a_spreadsheet_never_carries_out() -> None:
    assert totals(season()) == "3 flights, 46 min 00 s in the air, 23.0 min in the mean, 9\u202f100 mAh put back"
    lines = season_to_csv(season()).splitlines()
    assert len(lines) == 4
    assert lines[3].startswith("2026-04-06T09:00,'=three,Whimbrel")


@settings(max_examples=30, deadline=None)
@given(st.floats(1.0, 119.0), st.integers(30, 200))
def test_pieces_are_joined_at_their_clocks(gap: float, cut: int) -> None:
    flight, _, _ = scouted(1.0, 1.0, 1.0, 9)
    whole = log_of(flight)
    rows = np.arange(len(whole))
    first = whole.of(rows < len(whole) - cut)
    second = whole.of(rows >= len(whole) - cut)
    pieces = [Piece("b", log_from_nought(second), 1000.0 + float(first.time_s[-1]) + gap, None),
              Piece("a", first, 1000.0, None)]  # fmt: skip
    (one,) = joined(pieces)
    assert len(one.log) == len(whole)
    assert one.log.time_s[len(first)] - first.time_s[-1] == pytest.approx(gap)
    assert (np.diff(one.log.time_s) > 0).all()


def log_from_nought(log: FlightLog) -> FlightLog:
    return FlightLog(log.time_s - log.time_s[0], *[value for name, value in vars(log).items() if name != "time_s"])


def test_the_weather_of_the_day_is_the_one_that_is_flown_in() -> None:
    entry = FlightEntry(id="a", name="a", flown_at=MORNING, design_id="d", air_temperature_c=-3.0, wind_m_s=7.0)
    day = on_that_day(entry, design())
    assert (day.design.conditions.air_temperature_c, day.design.conditions.wind_m_s) == (-3.0, 7.0)
    assert day.design.conditions.altitude_m == design().design.conditions.altitude_m


def test_a_flight_lasts_by_its_setting_as_long_as_it_did() -> None:
    flight, _, logged = scouted(1.12, 0.9, 1.0, 21)
    assert last_s([setting_of(logged, design())])[0] == pytest.approx(flight.answered.duration_s, rel=0.02)


# Groups


def grouped(holds: tuple[float, ...], used: float = 0.75, noise: float = 0.001) -> FlightLog:
    """A pack at rest, drawn from, and at rest again; every group of so much of the usual capacity."""
    _, cell, _ = built()
    random = np.random.default_rng(5)
    time_s = np.arange(0.0, 1200.0)
    flies = (time_s > 60) & (time_s < 1080)
    share = np.clip((time_s - 60) / 1020, 0, 1)
    volts = np.stack([[resting_at(cell, 1 - used * one / each) for one in share] for each in holds], axis=1)
    volts = volts - 0.1 * flies[:, None] + noise * random.standard_normal(volts.shape)
    names = ["volts", "amps", *(f"group-{place + 1}" for place in range(len(holds)))]
    amps = np.where(flies, 8.0, 0.1)
    rows = np.column_stack([time_s, volts.sum(axis=1), amps, volts])
    return log_of_rows(names, rows, "grouped")


@pytest.mark.parametrize("weak", [0, 2, 3])
def test_the_weak_group_is_named_with_what_it_holds(weak: int) -> None:
    _, cell, _ = built()
    holds = tuple(0.93 if place == weak else 1.0 + 0.003 * place for place in range(4))
    found = groups_seen(grouped(holds), cell)
    assert found is not None
    assert found.weakest == weak
    assert found.holds[weak] == pytest.approx(0.93, abs=0.012)
    assert f"Group {weak + 1} holds" in found.words()[0]


def test_groups_that_are_alike_and_a_log_that_does_not_tell_are_left_alone() -> None:
    _, cell, _ = built()
    alike = groups_seen(grouped((1.0, 1.004, 0.997, 1.0)), cell)
    assert alike is not None
    assert alike.weakest is None
    assert not alike.words()
    shallow = groups_seen(grouped((1.0, 0.9), used=0.15), cell)
    assert shallow is not None
    assert shallow.weakest is None, "hardly used: nothing tells what a group holds"
    log = grouped((1.0, 0.9))
    assert groups_seen(log.of(log.time_s < 1080), cell) is None, "it does not end at rest"
    assert groups_seen(log_of(scouted(1.0, 1.0, 1.0, 9)[0]), cell) is None


def test_groups_in_the_columns_of_a_table_are_found_by_their_numbers() -> None:
    def found(*names: str) -> list[str]:
        row = ["0", "16.8", "1.0", *["4.2"] * len(names)]
        columns = guess_columns(["Time(s)", "Pack(V)", "Current(A)", *names], [row])
        return [column.name for _, column in group_columns(columns)]

    assert found("Group1(V)", "Group2(V)") == ["Group1(V)", "Group2(V)"]
    assert found("cell2_V", "cell1_V") == ["cell1_V", "cell2_V"]
    assert found("cell 1 mV", "cell 2 mV", "cell 3 mV") == ["cell 1 mV", "cell 2 mV", "cell 3 mV"]
    assert found("cell1_V", "cell3_V") == [], "one is missing"
    assert found("roll", "pitch") == []


def test_a_logged_charge_tells_what_went_in_and_the_weak_group(tmp_path: Path) -> None:
    """Of another model (tests/data/README.md): groups of 98 % of 5.134 Ah a cell, the third of 94.1 %, two in
    parallel."""
    path = tmp_path / "charge_4s2p.csv"
    path.write_bytes(lzma.decompress((LOGS / f"{path.name}.xz").read_bytes()))
    piece = read_piece(path)
    assert isinstance(piece, Piece)
    charge = charge_in(piece.log, date(2026, 5, 2), "charge_4s2p.csv")
    assert charge.charge_mah == pytest.approx(9345, abs=3)
    seen = groups_between(logged_design(1).pack.cell, np.array(charge.before_v), np.array(charge.after_v))
    assert seen.weakest == 2
    assert seen.holds[2] == pytest.approx(0.9408 / 0.98, abs=0.01)
    held = 0.995 * charge.charge_mah / seen.used / 2
    assert held == pytest.approx(5134 * np.array([0.98, 0.98, 0.9408, 0.98]), rel=0.01)


def test_what_is_no_charge_is_told() -> None:
    flight, _, _ = scouted(1.0, 1.0, 1.0, 9)
    with pytest.raises(DocumentError, match="is no charge: its volts go from"):
        charge_in(log_of(flight), date(2026, 5, 2), "flight.csv")


def test_charges_are_points_of_a_life_and_their_groups_are_those_of_the_pack() -> None:
    pack, cell, _ = built()
    charge = PackCharge(day=date(2026, 5, 2), charge_mah=2500, before_v=(3.45, 3.30), after_v=(4.19, 4.19))
    life = pack_life(pack.changed(checks=(), charges=(charge,)), cell, [])
    assert [point.by for point in life.capacity] == ["charge of 2026-05-02"]
    assert life.weak_group == 2
    with pytest.raises(DocumentError, match="has 2 groups: write the volts of all of them"):
        pack.changed(charges=(charge.changed(before_v=(3.4,), after_v=(4.1,)),))
    with pytest.raises(DocumentError, match="read all"):
        charge.changed(before_v=(3.4,))
