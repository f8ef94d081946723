"""Flights in the Logbook: written down by hand, dropped as logs, told apart, learned from, and let go."""

from __future__ import annotations

import json
import lzma
from datetime import datetime
from pathlib import Path

import numpy as np
import pytest
from PyQt6.QtCore import QPointF, Qt
from PyQt6.QtTest import QTest
from PyQt6.QtWidgets import QLabel
from pytestqt.qtbot import QtBot

from tests.core.test_logbook import as_log
from tests.store.test_flight_logs import dated_csv, gpx_text, ulog_bytes
from wise_cellar.core.documents import (
    BuiltPack,
    FlightEntry,
    LearnedOf,
    Mission,
    Recording,
    RecordingKind,
)
from wise_cellar.core.logbook import FlownFlight
from wise_cellar.core.logbook import rows_of as rows_of_log
from wise_cellar.core.logbook.season import season_to_json
from wise_cellar.demo import sample_workspace
from wise_cellar.store.series import growing_key
from wise_cellar.ui.shell.window import MainWindow
from wise_cellar.ui.state.logbook_edits import flights
from wise_cellar.ui.state.pack_life import fly_pack
from wise_cellar.ui.state.session import Session
from wise_cellar.ui.stations.logbook.flights_work import FlightsWork
from wise_cellar.ui.stations.logbook.learned_work import LearnedWork
from wise_cellar.ui.stations.logbook.packs_work import PacksWork
from wise_cellar.ui.stations.logbook.station import FLIGHTS, LEARNED, PACKS, LogbookStation
from wise_cellar.ui.widgets.entry_line import EntryLine
from wise_cellar.ui.widgets.lines import WordTable

STATION = "Logbook"
LOGS = Path(__file__).parent.parent / "data" / "logs"


@pytest.fixture
def station(window: MainWindow, qtbot: QtBot) -> LogbookStation:
    found = window.station(LogbookStation)
    found.pages.choose(FLIGHTS)
    qtbot.waitUntil(lambda: found.settled and found.flights.shown is not None, timeout=20000)
    return found


@pytest.fixture
def work(station: LogbookStation) -> FlightsWork:
    return station.flights


def typed(line: EntryLine, text: str) -> None:
    line.setText(text)
    line.submitted.emit(text)


def judged(work: FlightsWork, qtbot: QtBot) -> FlownFlight | None:
    qtbot.waitUntil(lambda: work.settled, timeout=20000)
    fact = None if work.shown is None else work.shown.fact
    return fact if isinstance(fact, FlownFlight) else None


def chosen(work: FlightsWork, identifier: str, qtbot: QtBot) -> None:
    work.choose(identifier)
    qtbot.waitUntil(lambda: work.settled and work.shown is not None and work.shown.flown.entry.id == identifier,
                    timeout=20000)  # fmt: skip


def texts(table: WordTable) -> list[list[str]]:
    found: dict[int, dict[int, str]] = {}
    for place in range(table.count()):
        item = table.itemAt(place)
        label = item.widget() if item is not None else None
        row, column, _, _ = table.getItemPosition(place)
        if isinstance(label, QLabel) and not label.isHidden():
            found.setdefault(row or 0, {})[column or 0] = label.text()
    return [[found[row][column] for column in sorted(found[row])] for row in sorted(found)]


def own(session: Session) -> list[FlightEntry]:
    return [one for one in flights(session) if not one.sample]


def words(work: FlightsWork) -> str:
    return " ".join(line.text for line in work.report.words.lines)


def test_a_flight_is_written_down_in_a_minute_and_judged(
    window: MainWindow, station: LogbookStation, work: FlightsWork, qtbot: QtBot
) -> None:
    window.session.open_design("dunlin-scout")
    work.panel.new.click()
    (entry,) = own(window.session)
    assert (entry.design_id, entry.pack_id, entry.start_charge_percent) == ("dunlin-scout", "", 100)
    assert "Neither its minutes nor its charge was written down" in words(work) or judged(work, qtbot) is None
    lines = work.panel.lines
    typed(lines["flown_at"], "2026-06-02 07:15")
    typed(lines["duration_min"], "16.5")
    typed(lines["returned_mah"], "2,43 Ah".replace(",", "."))
    typed(lines["landing_v"], "5.9 V")
    typed(lines["note"], "hazy")
    (entry,) = own(window.session)
    assert (entry.duration_min, entry.returned_mah, entry.landing_v, entry.note) == (16.5, 2430.0, 5.9, "hazy")
    assert entry.flown_at == datetime(2026, 6, 2, 7, 15)
    qtbot.waitUntil(lambda: work.settled and "Its power is" in words(work), timeout=20000)
    assert "16 min 30 s flown" in station.headline.text()
    rows = texts(work.report.apart)
    assert rows[0][0] == "planned"
    assert rows[-1] == ["flown", "16 min 30 s"]
    assert not work.strip.isVisibleTo(work.page), "nothing was logged"
    window.session.undo()
    (entry,) = own(window.session)
    assert entry.note == "", "each line is an edit"
    work.panel.forget.click()
    assert not own(window.session)
    window.session.undo()
    assert own(window.session) == [entry]


@pytest.mark.parametrize(("line", "text", "says"), [
    ("flown_at", "yesterday", "is no day; write one such as"), ("duration_min", "long", "is not a number"),
    ("landing_v", "-3", "must be more than"), ("name", "", "must be some text"), ("returned_mah", "3 kg", "kg"),
])  # fmt: skip
def test_what_cannot_be_is_told_and_kept_to_be_put_right(
    window: MainWindow, work: FlightsWork, qtbot: QtBot, line: str, text: str, says: str
) -> None:
    work.panel.new.click()
    (before,) = own(window.session)
    typed(work.panel.lines[line], text)
    assert says in work.panel.attempt.text()
    assert work.panel.lines[line].text() == text
    assert own(window.session) == [before]


def test_notes_of_another_pack_are_told_where_the_flight_is(
    window: MainWindow, work: FlightsWork, qtbot: QtBot
) -> None:
    work.panel.new.click()
    typed(work.panel.lines["returned_mah"], "90 Ah")
    qtbot.waitUntil(lambda: work.settled and "more than the pack's" in words(work), timeout=20000)
    assert own(window.session)[0].returned_mah == 90000.0, "it is kept, to be put right"


def test_the_season_is_walked_filtered_and_put_out(
    window: MainWindow, work: FlightsWork, qtbot: QtBot, tmp_path: Path
) -> None:
    assert len(work.rows) == 14
    assert work.totals.text().startswith("14 flights, ")
    last = work.chosen_id
    QTest.keyClick(work.picture, Qt.Key.Key_Left)
    assert work.chosen_id != last
    typed(work.filter, "wind>6")
    assert [row.craft for row in work.rows] == ["Whimbrel", "Turnstone"]
    typed(work.filter, "wind>hard")
    assert "is no limit" in work.refused.text()
    assert len(work.rows) == 14
    typed(work.filter, "dunlin")
    assert len(work.rows) == 3
    assert work.refused.isHidden()
    work.over.setCurrentIndex([work.over.itemText(n) for n in range(work.over.count())].index("over wind"))
    work.over.activated.emit(1)
    assert work.picture.over == "wind"
    x = work.picture.plot.box.viewRange()[0]
    assert x[0] < 2.0 < 3.0 < x[1] < 20, "metres a second, and no days"
    mass = [work.over.itemText(n) for n in range(work.over.count())].index("over take-off mass")
    work.over.setCurrentIndex(mass)
    work.over.activated.emit(mass)
    masses = [row.takeoff_g for row in work.rows]
    assert all(grams is not None and 200 < grams < 400 for grams in masses), "the scout, under 400 g"
    work.over.setCurrentIndex(1)
    work.over.activated.emit(1)
    at = work.picture.mapFromScene(work.picture.plot.box.mapViewToScene(QPointF(*work.picture._points[0])))
    assert work.picture.nearest(QPointF(at)) == 0
    work.out.put_out(tmp_path / "flights.json", season_to_json(work.rows))
    told = json.loads((tmp_path / "flights.json").read_text())
    assert [one["craft"] for one in told] == ["Dunlin"] * 3
    assert "flights.json holds 3 flights now" in work.totals.text()
    work.out.put_out(tmp_path / "none" / "flights.csv", "")
    assert work.out.refused.isVisibleTo(work.panels[-1])
    chosen(work, "spring-11", qtbot)
    work.out.put_on_paper(tmp_path / "flight.pdf", work.shown)
    assert (tmp_path / "flight.pdf").read_bytes().startswith(b"%PDF")
    assert (tmp_path / "flight.pdf").stat().st_size > 20_000


def test_a_dropped_log_is_told_in_phases_with_what_was_put_back(
    window: MainWindow, station: LogbookStation, work: FlightsWork, qtbot: QtBot, tmp_path: Path
) -> None:
    log = tmp_path / "flight_03.csv"
    log.write_bytes(lzma.decompress((LOGS / f"{log.name}.xz").read_bytes()))
    window.files.take_in_all([log])
    assert window.stack.currentWidget() is station, "as it is in view, it is asked first"
    found = judged(work, qtbot)
    assert found is not None
    (entry,) = own(window.session)
    assert entry.duration_min == pytest.approx(2113 / 60, abs=0.1)
    assert entry.used_mah == pytest.approx(8235, rel=0.02), "by its own amps"
    assert entry.flown_at.year == 2026 or entry.flown_at.year > 2000
    assert "Nothing was held against the current sensor" in words(work)
    rows = work.report.table.rows
    assert rows[0][0].text == "on the ground"
    assert [row[0].text for row in rows].count("cruise") == 3
    assert [one.kind for one in work.strip.phases] == [one.kind for one in found.phases]
    assert work.traces.came
    typed(work.panel.lines["returned_mah"], "7975")
    qtbot.waitUntil(lambda: work.settled and "The current sensor tells" in words(work), timeout=20000)
    assert work.report.sensor.isVisibleTo(work.page)
    work.report.sensor.click()
    sensor = window.session.complete.craft.sensor
    assert sensor is not None
    assert sensor.amps_scale == pytest.approx(1.03, abs=0.01)
    typed(work.panel.lines["returned_mah"], "")
    qtbot.waitUntil(lambda: work.settled and work.shown is not None
                    and work.shown.flown.entry.returned_mah is None, timeout=20000)  # fmt: skip
    assert "The current sensor tells" in words(work), "the craft knows it from then on"
    station.pages.choose(LEARNED)
    learned = station.learned
    assert "Sensors: amps +3.0 %" in learned._lets[0][0].text()
    learned._lets[0][1].click()
    assert window.session.complete.craft.sensor is None
    window.session.undo()
    station.pages.choose(FLIGHTS)
    window.session.undo()
    window.session.undo()
    window.session.undo()
    window.session.undo()
    assert not own(window.session), "the log was one edit"
    assert not [one for one in window.session.all(Recording).values() if not one.sample]


def test_an_edge_is_dragged_moved_by_keys_and_let_go(window: MainWindow, work: FlightsWork, qtbot: QtBot) -> None:
    chosen(work, "spring-11", qtbot)
    strip = work.strip
    before = strip.phases[2].from_s
    strip.resize(900, strip.height())
    x = round(strip.x_of(before))
    QTest.mousePress(strip, Qt.MouseButton.LeftButton, pos=QPointF(x, 15).toPoint())
    assert strip.edge == 2
    QTest.mouseMove(strip, QPointF(x + 12, 15).toPoint())
    QTest.mouseRelease(strip, Qt.MouseButton.LeftButton, pos=QPointF(x + 12, 15).toPoint())
    qtbot.waitUntil(lambda: work.settled and strip.phases[2].from_s > before + 5, timeout=20000)
    moved = strip.phases[2].from_s
    QTest.keyClick(strip, Qt.Key.Key_Left)
    qtbot.waitUntil(lambda: work.settled and strip.phases[2].from_s == pytest.approx(moved - 1.0), timeout=20000)
    entry = work.entry
    assert entry is not None
    assert entry.edges
    work.report.found.click()
    qtbot.waitUntil(lambda: work.settled and strip.phases[2].from_s == before, timeout=20000)
    window.session.undo()
    qtbot.waitUntil(lambda: work.settled and strip.phases[2].from_s == pytest.approx(moved - 1.0), timeout=20000)


def test_two_flights_are_compared_fairly(window: MainWindow, work: FlightsWork, qtbot: QtBot) -> None:
    chosen(work, "spring-05", qtbot)
    place = next(n for n in range(work.other.count()) if "south marsh 4" in work.other.itemText(n))
    work.other.setCurrentIndex(place)
    work.other.activated.emit(place)
    qtbot.waitUntil(lambda: work.settled and work.shown is not None and work.shown.beside is not None, timeout=20000)
    rows = texts(work.report.beside)
    assert rows[0][0] == "that flight"
    assert any(row[0].startswith("air: ") for row in rows), "one of them in much wind"
    assert any(row[0] == "not explained" for row in rows)


def test_any_design_flies_what_was_flown(window: MainWindow, work: FlightsWork, qtbot: QtBot) -> None:
    chosen(work, "spring-11", qtbot)
    work.report.mission.click()
    (made,) = [one for one in window.session.all(Mission).values() if one.name.startswith("As flown: ")]
    window.session.edit("design.mission_id", made.id)
    assert window.session.complete.mission.name == made.name
    assert window.session.answer.duration_s > 300


def test_several_logs_and_formats_are_taken_all_or_none(
    window: MainWindow, station: LogbookStation, work: FlightsWork, qtbot: QtBot, tmp_path: Path
) -> None:
    rows = "\n".join(f"{n},{16 - n / 100},{0.8 if n < 20 or n > 80 else 15}" for n in range(100))
    first, second, third = tmp_path / "a.csv", tmp_path / "again" / "a.csv", tmp_path / "b.csv"
    second.parent.mkdir()
    for path in (first, second):
        path.write_text(f"time,volts,amps\n{rows}\n")
    third.write_text("nothing\n")
    assert not station.take_in([first, third])
    assert not own(window.session)
    assert station.take_in([first, second])
    assert len(own(window.session)) == 2, "two files of one name"
    window.session.undo()
    assert not own(window.session), "in one edit"
    ulog, track = tmp_path / "flight.ulg", tmp_path / "walk.gpx"
    ulog.write_bytes(ulog_bytes(batteries=2))
    track.write_text(gpx_text())
    assert station.take_in([ulog, dated_csv(tmp_path / "other.csv"), track])
    notes = {one.name: one.note for one in own(window.session)}
    assert "2 batteries" in notes["flight"]
    assert "Speed over ground by walk.gpx" in notes["flight"] + notes["other"]
    ground = tmp_path / "ground.csv"
    ground.write_text("time,volts,amps\n" + "\n".join(f"{n},16.1,0.8" for n in range(100)))
    assert not station.take_in([ground])
    assert len(own(window.session)) == 2, "nothing flies in it, and nothing of it is kept"


def test_a_log_with_two_flights_becomes_two_lines(
    window: MainWindow, station: LogbookStation, work: FlightsWork, qtbot: QtBot, tmp_path: Path
) -> None:
    def amps(n: int) -> float:
        return 15.0 if 20 < n < 90 or 150 < n < 240 else 0.8

    path = tmp_path / "twice.csv"
    path.write_text("time,volts,amps\n" + "\n".join(f"{n},{16 - n / 300},{amps(n)}" for n in range(300)))
    assert station.take_in([path])
    told = own(window.session)
    assert [(one.name, one.of_log) for one in told] == [("twice, flight 1", 1), ("twice, flight 2", 2)]
    assert [one.duration_min for one in told] == pytest.approx([69 / 60, 89 / 60], abs=0.05)
    work.choose(told[0].id)
    work.panel.forget.click()
    assert len([one for one in window.session.all(Recording).values() if not one.sample]) == 1, "its log stays"
    work.panel.forget.click() if work.entry is not None and not work.entry.sample else None


def test_a_large_log_is_read_beside_the_window_and_stopped(
    window: MainWindow, station: LogbookStation, work: FlightsWork, qtbot: QtBot, tmp_path: Path,
    monkeypatch: pytest.MonkeyPatch,
) -> None:  # fmt: skip
    monkeypatch.setattr("wise_cellar.ui.state.log_reading.LARGE_BYTES", 1000)
    path = dated_csv(tmp_path / "large.csv")
    assert station.take_in([path])
    assert work.panel.stop.isVisibleTo(work.panel)
    qtbot.waitUntil(lambda: station.settled and len(own(window.session)) == 1, timeout=20000)
    assert not work.panel.stop.isVisibleTo(work.panel)
    window.session.undo()
    assert station.take_in([path])
    work.panel.stop.click()
    qtbot.waitUntil(lambda: work.settled, timeout=20000)
    assert not own(window.session)
    assert not work.panel.stop.isVisibleTo(work.panel)
    ground = tmp_path / "ground.csv"
    ground.write_text("time,volts,amps\n" + "\n".join(f"{n},16.1,0.8" for n in range(300)))
    assert station.take_in([ground])
    qtbot.waitUntil(lambda: "Nothing flies in this log" in work.panel.attempt.text(), timeout=20000)


def test_a_telemetry_recording_is_a_flight_before_anybody_wrote_a_word(
    window: MainWindow, work: FlightsWork, qtbot: QtBot
) -> None:
    session = window.session
    channels, rows = rows_of_log(as_log(session.complete, power=1.1))
    one = Recording(
        id="heard", name="Heard by radio", kind=RecordingKind.FLIGHT, cell_type_id=session.complete.pack.cell.id,
        series_count=4, parallel_count=3, channels=channels, series_key=growing_key(),
        design_id=session.complete.design.id, begun_at=datetime(2026, 6, 2, 9, 30), amps=0.0, least_v=0.0,
    )  # fmt: skip
    session.commit("Take it in", [one])
    session.workspace.grow_series(one.series_key, [rows.astype("<f8").tobytes()])
    assert "of-heard" not in session.all(FlightEntry)
    work.choose("of-heard")
    found = judged(work, qtbot)
    assert found is not None
    power = next(each for each in found.learned if each.name == "power")
    assert power.share == pytest.approx(1.1, abs=0.05)
    typed(work.panel.lines["place"], "North marsh")
    assert session.all(FlightEntry)["of-heard"].place == "North marsh"


def hears(work: LearnedWork, qtbot: QtBot) -> None:
    qtbot.waitUntil(lambda: work.settled and work.taught is not None, timeout=40000)


def test_flights_narrow_the_range_one_by_one_and_are_let_go(
    window: MainWindow, station: LogbookStation, qtbot: QtBot
) -> None:
    session = window.session
    session.open_design("dunlin-scout")
    fly_pack(session, session.all(BuiltPack)["dunlin-1"])
    qtbot.waitUntil(lambda: session.settled and session.spread is not None, timeout=20000)
    wide = session.spread.duration_s
    plain = session.complete
    station.pages.choose(LEARNED)
    learned = station.learned
    hears(learned, qtbot)
    assert "Dunlin 1" in station.headline.text()
    assert any("% as wide" in line.text for line in learned.range.lines)
    for name in ("power", "capacity", "resistance"):
        assert learned.takes[name].isVisibleTo(learned.page), name
        learned.takes[name].click()
        assert learned.attempt.isHidden(), learned.attempt.text()
        hears(learned, qtbot)
    power = session.complete.craft.taught(LearnedOf.POWER)
    assert power is not None
    assert power.value == pytest.approx(1.09, abs=0.03), "as its hidden truth is"
    assert len(power.flights) == 3
    assert session.complete.pack.state.taught(LearnedOf.CAPACITY) is not None
    assert session.all(BuiltPack)["dunlin-1"].learned, "the pack keeps it, for whatever design flies it"
    qtbot.waitUntil(lambda: session.settled and session.spread.duration_s != wide, timeout=20000)
    narrow = session.spread.duration_s
    assert narrow[1] - narrow[0] < 0.5 * (wide[1] - wide[0])
    shares = [learned.words[name][2].text() for name in ("power", "capacity")]
    assert all(text.startswith(("100 ±", "99 ±", "101 ±")) or "does not tell" in text for text in shares), shares
    kept = [label.text() for label, _ in learned._lets if not label.isHidden()]
    assert len(kept) == 3
    for _ in range(3):
        learned._lets[0][1].click()
    assert session.complete.craft == plain.craft
    assert session.complete.pack.state == plain.pack.state
    for _ in range(6):
        session.undo()
    assert session.complete == plain


def test_a_design_that_flies_no_known_pack_is_told_where_to_choose_one(
    window: MainWindow, station: LogbookStation, qtbot: QtBot
) -> None:
    window.session.open_design("dunlin-scout")
    station.pages.choose(LEARNED)
    hears(station.learned, qtbot)
    told = " ".join(line.text for line in station.learned.sentences.lines)
    assert "Choose one under Packs" in told
    assert station.learned.takes["power"].isVisibleTo(station.learned.page), "the craft is told of all the same"
    assert not station.learned.takes["capacity"].isVisibleTo(station.learned.page)


def test_a_flight_that_does_not_count_is_not_heard(
    window: MainWindow, station: LogbookStation, work: FlightsWork, qtbot: QtBot
) -> None:
    window.session.open_design("dunlin-scout")
    chosen(work, "spring-04", qtbot)
    work.panel.teaches.click()
    assert window.session.all(FlightEntry)["spring-04"].teaches is False
    station.pages.choose(LEARNED)
    hears(station.learned, qtbot)
    taught = station.learned.taught
    assert taught is not None
    assert len(taught.of_craft.flights) == 2


def test_a_flight_whose_pack_cannot_be_is_left_out_and_the_others_are_heard(
    window: MainWindow, station: LogbookStation, qtbot: QtBot
) -> None:
    session = window.session
    session.open_design("dunlin-scout")
    pack = session.all(BuiltPack)["dunlin-1"]
    broken = pack.changed(id="broken", name="Broken", cell_type_id="gone", groups=())
    entry = session.all(FlightEntry)["spring-06"].changed(id="odd", name="odd", sample=False, pack_id="broken")
    session.commit("Write it down", [broken, entry])
    station.pages.choose(LEARNED)
    hears(station.learned, qtbot)
    taught = station.learned.taught
    assert taught is not None
    assert len(taught.of_craft.flights) == 3
    station.pages.choose(FLIGHTS)
    station.flights.choose("odd")
    assert "a cell type that is not in the workspace any more" in words(station.flights)


def lives(work: PacksWork, qtbot: QtBot) -> None:
    qtbot.waitUntil(lambda: work.settled and work.life is not None, timeout=40000)


def test_a_packs_life_is_told_with_a_verdict_and_flown_or_retired(
    window: MainWindow, station: LogbookStation, qtbot: QtBot
) -> None:
    session = window.session
    session.open_design("whimbrel-energy")
    station.pages.choose(PACKS)
    packs = station.packs
    place = next(n for n, row in enumerate(packs.table.rows) if row[0].text == "Whimbrel 1")
    packs.table.choose(place)
    qtbot.waitUntil(lambda: packs.settled and packs.chosen_id == "whimbrel-1", timeout=40000)
    lives(packs, qtbot)
    life = packs.life
    assert life is not None
    assert life.verdict == "Use it gently"
    assert life.weak_group == 3
    assert life.hours.flights == 7
    assert life.capacity_trend is not None
    assert life.capacity_trend.now == pytest.approx(0.826, abs=0.03), "as its hidden truth is"
    assert packs.picture.plots[0].opacity() == 1.0
    packs.fly.click()
    flies = session.complete.design.packs[0].flies
    assert flies is not None
    assert flies.id == "whimbrel-1"
    old = session.answer.duration_s
    packs.as_new.click()
    assert session.answer.duration_s > 1.1 * old
    packs.retire.click()
    assert session.all(BuiltPack)["whimbrel-1"].retired
    qtbot.waitUntil(lambda: packs.settled, timeout=20000)
    assert packs.retire.text() == "Use it again"
    packs.fly.click()
    assert "retired" in packs.attempt.text()


def test_another_workspace_shows_its_own_flights(
    window: MainWindow, station: LogbookStation, work: FlightsWork, qtbot: QtBot, tmp_path: Path
) -> None:
    work.panel.new.click()
    window.session.go_on_in(sample_workspace(tmp_path / "other.cellar"))
    qtbot.waitUntil(lambda: station.settled and work.shown is not None, timeout=20000)
    assert not own(window.session)
    assert len(work.rows) == 14


def test_the_lines_of_a_life_hold_all_its_points(window: MainWindow, station: LogbookStation, qtbot: QtBot) -> None:
    station.pages.choose(PACKS)
    lives(station.packs, qtbot)
    life = station.packs.life
    assert life is not None
    (low, high), _ = station.packs.picture.plots[0].box.viewRange()
    days = np.array([one.day.toordinal() for one in life.capacity])
    assert low <= days.min() <= days.max() <= high


def test_a_charge_is_written_down_read_from_its_log_and_taken_back(
    window: MainWindow, station: LogbookStation, qtbot: QtBot, tmp_path: Path
) -> None:
    station.pages.choose(PACKS)
    packs, session = station.packs, window.session
    packs.choose("turnstone-1")
    panel = packs.charges
    panel.write.click()
    assert "Write down what the charger put in" in panel.attempt.text()
    panel.lines["charge_mah"].setText("6.4 Ah")
    panel.lines["before_v"].setText("3.50 3.51")
    panel.lines["after_v"].setText("4.19 4.19 4.19 4.18")
    panel.write.click()
    assert "read all" in panel.attempt.text()
    assert panel.lines["before_v"].text() == "3.50 3.51", "it stays, to be put right"
    panel.lines["before_v"].setText("3.50 3.51 3.50 3500mV")
    panel.lines["day"].setText("2026-05-22")
    panel.write.click()
    assert panel.attempt.isHidden(), panel.attempt.text()
    (charge,) = session.all(BuiltPack)["turnstone-1"].charges
    assert (charge.charge_mah, charge.before_v[3], str(charge.day)) == (6400.0, 3.5, "2026-05-22")
    assert "2026-05-22: 6\u202f400" in panel.told.lines[0].text
    log = tmp_path / "charge_4s2p.csv"
    log.write_bytes(lzma.decompress((LOGS / f"{log.name}.xz").read_bytes()))
    panel.take_in(log)
    charges = session.all(BuiltPack)["turnstone-1"].charges
    assert [one.charge_mah for one in charges if one.note] == [9345.0]
    flight = tmp_path / "flight_03.csv"
    flight.write_bytes(lzma.decompress((LOGS / f"{flight.name}.xz").read_bytes()))
    panel.take_in(flight)
    assert "is no charge" in panel.attempt.text()
    panel.back.click()
    assert len(session.all(BuiltPack)["turnstone-1"].charges) == 1
    qtbot.waitUntil(lambda: packs.settled, timeout=30000)
