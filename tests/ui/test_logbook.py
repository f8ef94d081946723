"""The Logbook in the window: bench runs on the load that stands in, by hand, and after a crash."""

from __future__ import annotations

from collections.abc import Callable, Iterator
from datetime import datetime
from pathlib import Path

import numpy as np
import pytest
from PyQt6.QtTest import QTest
from pytestqt.qtbot import QtBot

from wise_cellar.core.documents import Recording, RecordingKind
from wise_cellar.core.physics.arrays import Floats
from wise_cellar.demo import sample_workspace
from wise_cellar.instruments import Reading, shipped_profiles
from wise_cellar.instruments.stand_ins import Served
from wise_cellar.instruments.stand_ins.load import Load
from wise_cellar.store.series import growing_key
from wise_cellar.ui.shell.window import MainWindow
from wise_cellar.ui.state.desk import Desk, Device
from wise_cellar.ui.state.live_run import SCHEDULED, RunRecorder, scheduled_of
from wise_cellar.ui.state.recording_edits import recorded_rows
from wise_cellar.ui.state.session import Session
from wise_cellar.ui.stations.logbook.bench_work import BenchWork
from wise_cellar.ui.stations.logbook.run_panel import How
from wise_cellar.ui.stations.logbook.run_work import Source
from wise_cellar.ui.stations.logbook.station import BENCH, LogbookStation

STATION = "Logbook"


@pytest.fixture
def desk(window: MainWindow) -> Iterator[Desk]:
    yield window.bench.desk
    window.session.desk.close_all()


@pytest.fixture
def logbook(window: MainWindow, qtbot: QtBot) -> BenchWork:
    station = window.station(LogbookStation)
    station.pages.choose(BENCH)
    qtbot.waitUntil(lambda: station.settled and station.bench.planned is not None, timeout=10000)
    return station.bench


def typed(logbook: BenchWork, text: str, qtbot: QtBot) -> None:
    place = list(Source).index(Source.TYPED)
    logbook.what.source.setCurrentIndex(place)
    logbook.what.source.activated.emit(place)
    logbook.what.text.setPlainText(text)
    logbook.what.text.typed.emit()
    qtbot.waitUntil(lambda: logbook.settled, timeout=10000)


def load_on_the_pack(desk: Desk, speed: float = 20.0, every_s: float = 0.03) -> tuple[Device, Load]:
    session = desk.parent()
    assert isinstance(session, Session)
    recipe = session.complete.pack.recipe
    load = Load(session.complete.pack.cell, 5, recipe.series_count, recipe.parallel_count)
    served = Served(load, speed)
    served.start()
    profile = shipped_profiles()[load.profile]
    device = desk.open(profile.changed(talk=profile.talk.changed(every_s=every_s)), served.address, served)
    for _ in range(500):
        QTest.qWait(10)
        if device.last is not None:
            return device, load
    raise AssertionError("the load does not answer")


def words(logbook: BenchWork) -> str:
    return " ".join(line.text for line in logbook.run.words.lines)


def started(logbook: BenchWork, qtbot: QtBot) -> RunRecorder:
    logbook.run.start.click()
    recorder = logbook.run.recorder
    assert isinstance(recorder, RunRecorder), logbook.run.attempt.text()
    qtbot.waitUntil(lambda: len(recorder.rows) > 1, timeout=10000)
    return recorder


def taken_in(session: Session) -> list[Recording]:
    """All recordings but those of the sample world."""
    return [one for one in session.all(Recording).values() if not one.sample]


def runs(session: Session) -> list[Recording]:
    return [one for one in session.all(Recording).values() if one.kind is RecordingKind.BENCH]


def column(recorder: RunRecorder, name: str) -> Floats:
    return recorder.rows[:, 1 + recorder.quantities.index(name)]


def test_a_typed_schedule_is_run_over_what_is_expected(
    window: MainWindow, desk: Desk, logbook: BenchWork, qtbot: QtBot, tmp_path: Path
) -> None:
    assert logbook.run.hint.isVisibleTo(logbook.page.window())
    _, load = load_on_the_pack(desk)
    typed(logbook, "10 A 20 s; rest 20 s; 2 x (200 W 15 s; 5 A 15 s)", qtbot)
    assert "6 steps in 1 min 40 s; by prediction the pack carries all of it" in logbook.sentences.lines[0].text
    recorder = started(logbook, qtbot)
    qtbot.waitUntil(lambda: load.on and load.amps == 10.0, timeout=5000)
    assert "Now 10.0 A" in words(logbook)
    qtbot.waitUntil(lambda: "Now rest" in words(logbook) and not load.on, timeout=5000)
    qtbot.waitUntil(lambda: load.on and load.watts == 200.0, timeout=5000)
    assert "expected" in words(logbook)
    qtbot.waitUntil(lambda: not recorder.running, timeout=15000)
    assert "It is over: the schedule is done." in words(logbook)
    qtbot.waitUntil(lambda: not load.on, timeout=5000)
    (one,) = runs(window.session)
    assert (one.series_count, one.parallel_count) == (4, 3)
    assert len(one.steps) == 6
    rows = recorded_rows(window.session, one)
    assert np.array_equal(rows, recorder.rows, equal_nan=True)
    amps, watts = column(recorder, "amps"), column(recorder, "amps") * column(recorder, "volts")
    scheduled = column(recorder, SCHEDULED)
    assert np.median(amps[(scheduled > 5) & (scheduled < 18)]) == pytest.approx(10.0, abs=0.05)
    assert np.median(watts[(scheduled > 44) & (scheduled < 53)]) == pytest.approx(200.0, rel=0.01)
    logbook.runs.put_out(tmp_path / "run.csv", one)
    logbook.runs.forget.click()
    assert not runs(window.session)
    logbook.what.take_in(tmp_path / "run.csv")
    (again,) = runs(window.session)
    assert again.steps == one.steps, "what is saved comes back as it was"
    assert np.array_equal(recorded_rows(window.session, again), rows, equal_nan=True)


def test_a_load_that_runs_away_is_stopped_within_one_reading(
    window: MainWindow, desk: Desk, logbook: BenchWork, qtbot: QtBot
) -> None:
    _, load = load_on_the_pack(desk, 1.0)
    typed(logbook, "5 A 60 s", qtbot)
    recorder = started(logbook, qtbot)
    qtbot.waitUntil(lambda: load.on and len(recorder.rows) > 5, timeout=5000)
    load.amps = 30.0
    qtbot.waitUntil(lambda: not load.on, timeout=5000)
    assert "the load draws" in words(logbook)
    assert np.count_nonzero(column(recorder, "amps") > 6.0) == 1


def test_a_load_may_follow_a_step_late_also_over_a_short_one(
    window: MainWindow, desk: Desk, logbook: BenchWork, qtbot: QtBot
) -> None:
    """Two steps are over within the time in which a load may still be seen at the one before them."""
    _, load = load_on_the_pack(desk, 1.0)
    typed(logbook, "12 A 2 s; 5 A 0.2 s; 4 A 60 s", qtbot)
    recorder = started(logbook, qtbot)
    qtbot.waitUntil(lambda: load.amps == 12.0, timeout=5000)
    qtbot.waitUntil(lambda: recorder.place == 2 and load.amps == 4.0, timeout=5000)
    load.amps = 12.0
    QTest.qWait(400)
    assert recorder.running
    qtbot.waitUntil(lambda: not recorder.running, timeout=5000)
    assert "the load draws 12.0 A and was told" in words(logbook), "but not for good"


def test_a_run_is_paused_and_goes_on_after_a_crash_with_the_gap_marked(
    window: MainWindow, desk: Desk, logbook: BenchWork, qtbot: QtBot
) -> None:
    _, load = load_on_the_pack(desk)
    typed(logbook, "4 A 4 s; 10 A 26 s; 4 A 60 s", qtbot)
    recorder = started(logbook, qtbot)
    qtbot.waitUntil(lambda: load.amps == 10.0 and column(recorder, "amps")[-1] > 9.0, timeout=5000)
    logbook.run.pause.click()
    flows = Reading(recorder.device.listener.now(), {"volts": 15.5, "amps": 10.0}, "")
    assert recorder._why_over(0.0, flows) == "", "what still flows for a moment is what this step was told"
    assert logbook.run.pause.text() == "Go on"
    qtbot.waitUntil(lambda: not load.on, timeout=5000)
    done, rows = recorder.scheduled_s, len(recorder.rows)
    qtbot.waitUntil(lambda: len(recorder.rows) > rows + 5, timeout=5000)
    assert recorder.scheduled_s == done, "nothing of the schedule passes"
    assert "Paused at 10.0 A" in words(logbook)
    logbook.run.pause.click()
    qtbot.waitUntil(lambda: load.on and recorder.scheduled_s > 12, timeout=5000)
    recorder._keep()
    # As a crash leaves it: nothing more is written down, and the reason is not.
    recorder._timer.stop()
    recorder._turn.stop()
    recorder.device.watchers.clear()
    logbook.run.recorder = None
    load.on = False
    logbook.refresh()
    (left,) = runs(window.session)
    assert left.ended == ""
    assert logbook.runs.words.text() == "Bench run: it was cut off."
    logbook.runs.go_on.click()
    again = logbook.run.recorder
    assert isinstance(again, RunRecorder), logbook.run.attempt.text()
    gap = np.flatnonzero(np.isnan(again.rows[:, 1:]).all(axis=1))
    assert len(gap) == 1
    assert again.scheduled_s >= scheduled_of(left.quantities, again.rows[: gap[0]]) - 1e-9
    qtbot.waitUntil(lambda: not again.running, timeout=15000)
    (one,) = runs(window.session)
    assert one.ended == "the schedule is done"
    rows_now = recorded_rows(window.session, one)
    assert np.isnan(rows_now[gap[0], 1:]).all()
    assert (np.diff(rows_now[:, 0]) >= 0).all()
    assert scheduled_of(one.quantities, rows_now) == pytest.approx(90.0, abs=2.5)
    assert not logbook.runs.go_on.isVisibleTo(logbook.page.window())


def test_by_hand_nothing_is_sent_and_the_throttle_is_told_down(
    window: MainWindow, desk: Desk, logbook: BenchWork, qtbot: QtBot
) -> None:
    _, load = load_on_the_pack(desk, 5.0)
    logbook.run.how.setCurrentIndex(list(How).index(How.HAND))
    logbook.run.how.activated.emit(1)
    assert "Bolt the craft down" in logbook.run.caution.text()
    recorder = started(logbook, qtbot)
    assert recorder.by_hand
    qtbot.waitUntil(lambda: "of throttle" in words(logbook), timeout=5000)
    assert "Now Climb, about 5" in words(logbook), "as the mission names it"
    assert not load.on
    load.amps, load.on = 190.0, True
    qtbot.waitUntil(lambda: not recorder.running, timeout=5000)
    assert "Throttle down now: " in words(logbook)
    assert load.on, "nothing was sent"


@pytest.mark.parametrize(("text", "says"), [
    ("10 A", "is no step"), ("", "A schedule has at least one step"), ("9000 A 5 s", "at most 5"),
])  # fmt: skip
def test_what_is_no_schedule_is_told_and_kept(
    window: MainWindow, logbook: BenchWork, qtbot: QtBot, text: str, says: str
) -> None:
    typed(logbook, text, qtbot)
    assert says in logbook.sentences.lines[0].text
    assert logbook.what.text.toPlainText() == text
    assert logbook.planned is None
    assert logbook.run.expected is None


def edited(entry: object, text: str) -> Callable[[BenchWork], None]:
    def edit(logbook: BenchWork) -> None:
        line = getattr(logbook.run, str(entry))
        line.setText(text)
        line.submitted.emit(text)

    return edit


@pytest.mark.parametrize(("edit", "says"), [
    (edited("least", "1.0"), "ends at 2.50 V a cell or above"), (edited("warmest", "200"), "may be up to"),
    (edited("most", "3"), "Step 1 draws 10.0 A; 3.0 A are the most"), (edited("most", "x"), "is not a number"),
])  # fmt: skip
def test_limits_that_are_none_are_refused_before_anything_is_drawn(
    window: MainWindow,
    desk: Desk,
    logbook: BenchWork,
    qtbot: QtBot,
    edit: Callable[[BenchWork], None],
    says: str,
) -> None:
    _, load = load_on_the_pack(desk)
    typed(logbook, "10 A 20 s", qtbot)
    edit(logbook)
    logbook.run.start.click()
    assert says in logbook.run.attempt.text()
    assert not logbook.run.running
    assert not load.on
    assert not runs(window.session)


def test_a_pack_where_a_cell_is_wanted_is_refused(
    window: MainWindow, desk: Desk, logbook: BenchWork, qtbot: QtBot
) -> None:
    load_on_the_pack(desk)
    logbook.what.on.setCurrentIndex(1)
    logbook.what.on.activated.emit(1)
    qtbot.waitUntil(
        lambda: logbook.settled and logbook.planned is not None and logbook.planned.question.one_cell, timeout=9000
    )
    logbook.run.start.click()
    assert "It cannot begin: 16." in logbook.run.attempt.text()
    assert not runs(window.session)


def test_a_flight_is_recorded_from_take_off_over_what_was_expected_and_run_again(
    window: MainWindow, desk: Desk, logbook: BenchWork, qtbot: QtBot
) -> None:
    device = desk.open_stand_in("craft", window.session.complete, seed=4, speed=60.0)
    qtbot.waitUntil(lambda: {"amps", "group-4", "throttle"} <= set(device.latest), timeout=10000)
    assert logbook.run.how.itemText(0) == str(How.HAND), "nothing can be told to a craft"
    logbook.run.how.setCurrentIndex(1)
    logbook.run.how.activated.emit(1)
    assert not logbook.run.limits.isVisibleTo(logbook.run)
    logbook.run.start.click()
    flight = logbook.run.recorder
    assert flight is not None
    assert "Listening. It is recorded from take-off on." in words(logbook) or len(flight.rows)
    qtbot.waitUntil(lambda: len(flight.rows) > 0 and flight.rows[-1, 0] > 200, timeout=20000)
    amps = flight.rows[:, 1 + flight.quantities.index("amps")]
    assert amps[np.isfinite(amps)][0] > 5, "it begins with the take-off"
    assert "expected" in words(logbook)
    assert set(logbook.picture.came) == {"amps", "cell", "watts", "celsius"}
    assert all(np.isfinite(values).all() for _, values in logbook.picture.came.values()), "no gaps where none is"
    logbook.run.stop_it.click()
    (one,) = [each for each in taken_in(window.session) if each.kind is RecordingKind.FLIGHT]
    assert one.design_id == window.session.complete.design.id
    place = list(Source).index(Source.RECORDED)
    logbook.what.source.setCurrentIndex(place)
    logbook.what.source.activated.emit(place)
    qtbot.waitUntil(
        lambda: logbook.planned is not None and logbook.planned.question.source is Source.RECORDED, timeout=9000
    )
    assert logbook.planned is not None
    seconds = sum(step.seconds for step in logbook.planned.load)
    assert seconds == pytest.approx(flight.rows[-1, 0], rel=0.02)


def test_what_is_recorded_ends_with_its_workspace(
    window: MainWindow, desk: Desk, logbook: BenchWork, qtbot: QtBot, tmp_path: Path
) -> None:
    _, load = load_on_the_pack(desk)
    typed(logbook, "10 A 500 s", qtbot)
    recorder = started(logbook, qtbot)
    qtbot.waitUntil(lambda: load.on, timeout=5000)
    window.session.go_on_in(sample_workspace(tmp_path / "other.cellar"))
    assert not recorder.running
    qtbot.waitUntil(lambda: not load.on, timeout=5000)
    assert recorder.recording is not None
    assert recorder.recording.ended == "another workspace was opened"
    assert not taken_in(window.session)
    assert logbook.run.recorder is None


def test_two_runs_of_one_schedule_are_laid_beside_each_other(
    window: MainWindow, logbook: BenchWork, qtbot: QtBot
) -> None:
    session, time_s = window.session, np.arange(0.0, 600.0)
    for name, volts in (("first", 15.0), ("second", 14.8)):
        amps = np.where(time_s < 500, 10.0, 0.0)
        rows = np.column_stack([time_s, np.full(len(time_s), volts), amps])
        one = Recording(
            id=name, name=name, kind=RecordingKind.BENCH, cell_type_id=session.complete.pack.cell.id, series_count=4,
            parallel_count=3, channels=[{"quantity": "volts", "unit": "V"}, {"quantity": "amps", "unit": "A"}],
            series_key=growing_key(), begun_at=datetime(2026, 5, 2, 9 if name == "second" else 8), amps=10.0,
            least_v=10.0, ended="the schedule is done",
        )  # fmt: skip
        session.commit("Take it in", [one])
        session.workspace.grow_series(one.series_key, [rows.astype("<f8").tobytes()])
    logbook.refresh()
    logbook.runs.chooser.activated.emit(0)
    assert [logbook.beside.itemText(n)[-5:] for n in range(2)] == ["de it", "first"]
    assert not logbook.picture.beside
    logbook.beside.setCurrentIndex(1)
    logbook.beside.activated.emit(1)
    assert logbook.picture.beside
    assert "0.3\u00a0Wh" in logbook.beside_words.text(), "0.2 V at 10 A for 500 s"
    assert "50\u00a0mV a cell above" in logbook.beside_words.text()
    window.session.undo()
    assert not logbook.picture.beside
