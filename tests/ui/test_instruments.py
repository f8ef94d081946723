"""Instruments in the window: stand-ins that are listened to, and readings that go into the field in focus."""

from __future__ import annotations

from collections.abc import Iterator
from datetime import datetime
from functools import partial
from pathlib import Path

import numpy as np
import pytest
from PyQt6.QtCore import QEvent, Qt
from PyQt6.QtTest import QTest
from PyQt6.QtWidgets import QApplication, QDialog, QLabel
from pytestqt.qtbot import QtBot

from tests.ui.conftest import at_free_tray
from wise_cellar.core.documents import DischargeRecord, RecordedChannel, Recording
from wise_cellar.core.fit import fit_cell
from wise_cellar.demo.sample_packs import HALF_BUILT_ID
from wise_cellar.instruments import Listener, profile_to_toml, shipped_profiles
from wise_cellar.instruments.guard import Guard
from wise_cellar.instruments.stand_ins import Served
from wise_cellar.instruments.stand_ins.load import Load
from wise_cellar.instruments.stand_ins.tray import CellMeter, Scale
from wise_cellar.store import Workspace, WorkspaceError
from wise_cellar.store.series import growing_key
from wise_cellar.ui.shell.instruments_sheet import InstrumentsSheet
from wise_cellar.ui.shell.profile_sheet import ProfileSheet
from wise_cellar.ui.shell.window import MainWindow
from wise_cellar.ui.state.cell_edits import curves_of, load_curve
from wise_cellar.ui.state.desk import Desk
from wise_cellar.ui.state.live_discharge import DischargeRecorder
from wise_cellar.ui.state.recording_edits import recorded_rows
from wise_cellar.ui.state.session import Session
from wise_cellar.ui.state.tray_edits import cells_of, remove_cells
from wise_cellar.ui.stations import place_of
from wise_cellar.ui.stations.build.station import BuildStation
from wise_cellar.ui.stations.cells.live_sheet import LiveSheet
from wise_cellar.ui.stations.cells.station import CellsStation

STATION = "Build"


def own_recordings(session: Session) -> list[Recording]:
    """All but those of the sample world."""
    return [one for one in session.all(Recording).values() if not one.sample]


@pytest.fixture
def desk(window: MainWindow) -> Iterator[Desk]:
    yield window.bench.desk
    window.bench.desk.at_once = False
    window.session.desk.close_all()
    for dialog in QApplication.topLevelWidgets():
        if isinstance(dialog, QDialog):
            dialog.close()


@pytest.fixture
def build(window: MainWindow) -> BuildStation:
    return at_free_tray(window)


def words_of(window: MainWindow) -> str:
    return " ".join(label.text() for label in window.notice.findChildren(QLabel))


def test_a_tray_of_ten_is_measured_with_one_key_a_cell(
    window: MainWindow, desk: Desk, build: BuildStation, qtbot: QtBot
) -> None:
    session = window.session
    remove_cells(session, cells_of(session, "fell-21-45p"))
    device = desk.open_stand_in("meter", session.complete, seed=5, speed=8.0)
    meter = device.served.stand_in  # type: ignore[union-attr]
    assert isinstance(meter, CellMeter)
    table = build.on_tray.table
    table.setFocus()
    table.setCurrentIndex(build.on_tray.model.index(0, 1))
    for number in range(1, 11):
        qtbot.waitUntil(lambda: {"volts", "resistance"} <= set(desk.ready), timeout=10000)
        window.bench.take()
        assert len(cells_of(session, "fell-21-45p")) == number
    cells = cells_of(session, "fell-21-45p")
    assert [cell.arrival_v for cell in cells] == pytest.approx(meter.volts.tolist(), abs=0.002)
    assert [cell.dcir_mohm for cell in cells] == pytest.approx(meter.mohm.tolist(), rel=0.01)
    assert all(cell.rested_v is None for cell in cells)


def test_masses_go_in_by_themselves_once_they_stand_still(
    window: MainWindow, desk: Desk, build: BuildStation, qtbot: QtBot
) -> None:
    device = desk.open_stand_in("scale", window.session.complete, seed=6, speed=8.0)
    scale = device.served.stand_in  # type: ignore[union-attr]
    assert isinstance(scale, Scale)
    table = build.on_tray.table
    table.setFocus()
    table.setCurrentIndex(build.on_tray.model.index(0, 6))
    desk.at_once = True

    def weighed() -> int:
        return sum(
            cell.mass_g == pytest.approx(grams, abs=0.03)
            for cell, grams in zip(cells_of(window.session, "fell-21-45p"), scale.grams, strict=False)
        )

    qtbot.waitUntil(lambda: weighed() >= 4, timeout=20000)


def test_a_steps_volts_come_from_the_meter(window: MainWindow, desk: Desk, qtbot: QtBot) -> None:
    window.show_station(place_of("Build"))
    build = window.station(BuildStation)
    build.show_page("Steps")
    build.steps.choose(HALF_BUILT_ID)
    build.steps.panel.go_on()
    device = desk.open_stand_in("meter", window.session.complete, seed=7, speed=8.0)
    qtbot.waitUntil(lambda: "volts" in desk.ready, timeout=10000)
    first, second = build.steps.panel.readings[:2]
    QTest.keyClick(first.line, Qt.Key.Key_F8)
    assert first.line.text()
    assert abs(float(first.line.text()) - 3.51) < 0.05
    assert second.line.hasFocus(), "and it goes on"
    desk.close(device)
    assert not desk.devices


def test_what_cannot_be_taken_is_a_sentence(window: MainWindow, desk: Desk, qtbot: QtBot) -> None:
    window.bench.take()
    assert "No reading has settled" in words_of(window)
    desk.open_stand_in("scale", window.session.complete, speed=8.0)
    qtbot.waitUntil(lambda: "mass" in desk.ready, timeout=10000)
    window.rail.setFocus()
    window.bench.take()
    assert "has settled; put the focus where it goes" in words_of(window)
    assert "mass" in desk.ready, "and is not lost"


def test_the_sheet_shows_what_comes_and_what_was_understood(window: MainWindow, desk: Desk, qtbot: QtBot) -> None:
    window.commands.actions["Instruments…"].trigger()
    sheet = next(one for one in QApplication.topLevelWidgets() if isinstance(one, InstrumentsSheet))
    sheet.kinds.setCurrentIndex(0)
    sheet.start.click()
    (card,) = sheet.cards
    qtbot.waitUntil(lambda: "Volts" in card.understood.text(), timeout=10000)
    assert any("V=" in line.text for line in card.raw.lines)
    card.close_it.click()
    assert sheet.cards == []
    sheet.address.setText("usb")
    sheet.opening.click()
    assert "is no address of a device" in sheet.attempt.text()
    sheet.address.setText("tcp:192.0.2.7:5025")
    sheet.opening.click()
    assert "outside of this computer" in sheet.attempt.text()
    assert not desk.devices
    sheet.address.setText("serial:/dev/nothing-here")
    sheet.opening.click()
    (card,) = sheet.cards
    qtbot.waitUntil(lambda: "cannot be opened" in card.sentence.text(), timeout=10000)


# A discharge, recorded live


@pytest.fixture
def live(window: MainWindow, desk: Desk) -> Iterator[LiveSheet]:
    window.session.edit("design.packs.0.cell_type_id", "fell-21-49e")
    window.show_station(place_of("Cells"))
    station = window.station(CellsStation)
    station.curves.live_button.click()
    assert station.live is not None
    yield station.live
    if station.live is not None:
        station.live.close()


def load_of(desk: Desk, speed: float, every_s: float = 0.1) -> Load:
    session = desk.parent()
    assert isinstance(session, Session)
    load = Load(session.complete.pack.cell, seed=9)
    open_load(desk, Served(load, speed), every_s)
    return load


def open_load(desk: Desk, served: Served, every_s: float) -> None:
    served.start()
    profile = shipped_profiles()[served.stand_in.profile]
    device = desk.open(profile.changed(talk=profile.talk.changed(every_s=every_s)), served.address, served)
    for _ in range(1000):
        QTest.qWait(10)
        if device.last is not None:
            return
    raise AssertionError("the load does not answer")


class Asked:
    """A clock that goes on with every question, however busy the machine is."""

    def __init__(self, load: Load, step_s: float) -> None:
        self.now_s, order = 0.0, load.order

        def answered(text: str, now_s: float) -> str | None:
            if "VOLT" in text:
                self.now_s += step_s
            return order(text, now_s)

        load.order = answered  # type: ignore[method-assign]

    def __call__(self) -> float:
        return self.now_s


def test_a_discharge_is_recorded_to_its_cut_off_and_becomes_a_curve(
    window: MainWindow, desk: Desk, live: LiveSheet, qtbot: QtBot, monkeypatch: pytest.MonkeyPatch
) -> None:
    session = window.session
    assert "No load is listened to yet" in live.words.lines[0].text
    load = Load(session.complete.pack.cell, seed=9)
    clock = Asked(load, 0.021)  # longer than it waits between questions
    monkeypatch.setattr("wise_cellar.ui.state.desk.Listener", partial(Listener, clock=clock))
    open_load(desk, Served(load, 4000.0, clock), every_s=0.02)
    usual = live.plot.expected_v(4000.0)
    assert np.isnan(live.plot.expected_v(6000.0)), "nothing is expected past the end"
    live.amps.setText("0.48 A")
    live.amps.submitted.emit("0.48 A")
    assert usual < live.plot.expected_v(4000.0) < usual + 0.1, "half the current, higher volts"
    live.start.click()
    assert live.recorder is not None, live.attempt.text()
    qtbot.waitUntil(lambda: live.recorder is not None and not live.recorder.running, timeout=60000)
    assert "2.50 V is reached" in live.words.lines[-1].text
    assert live.plot.volts[5] == pytest.approx(live.plot.expected_v(live.plot.mah[5]), abs=0.03)
    qtbot.waitUntil(lambda: not load.on, timeout=3000)
    assert len(live.plot.mah) > 5
    live.keep.click()
    assert live.attempt.isHidden(), live.attempt.text()
    (record,) = [one for one in session.all(DischargeRecord).values() if one.cell_type_id == "fell-21-49e"]
    assert record.mean_current_a == pytest.approx(0.48, rel=0.02)
    assert record.charge_mah == pytest.approx(load.pack.given_mah, rel=0.02)
    assert record.end_v <= 2.55
    entry = next(one for one in curves_of(session, "fell-21-49e") if one.name == record.name)
    fitted = fit_cell([load_curve(session, entry)], session.complete.pack.cell).model
    assert fitted.capacity_mah == pytest.approx(load.pack.capacity_mah[0], rel=0.02), "the cell that nobody told"
    assert not own_recordings(session), "what was kept is no recording any more"
    session.undo()
    assert own_recordings(session), "and comes back"
    assert not session.all(DischargeRecord).keys() & {record.id}


def test_a_load_that_runs_away_is_stopped_within_one_reading(
    window: MainWindow, desk: Desk, live: LiveSheet, qtbot: QtBot
) -> None:
    load = load_of(desk, 1.0)
    live.amps.setText("1")
    live.start.click()
    qtbot.waitUntil(lambda: load.on and live.recorder is not None and len(live.recorder.rows) > 1, timeout=10000)
    load.amps = 9.0
    qtbot.waitUntil(lambda: not load.on, timeout=5000)
    assert "the load draws" in live.words.lines[-1].text
    assert "was told 1.0 A" in live.words.lines[-1].text
    over = [row[2] for row in live.recorder.rows if row[2] > 1.3]  # type: ignore[union-attr]
    assert len(over) == 1


def started(live: LiveSheet, load: Load, qtbot: QtBot) -> DischargeRecorder:
    live.start.click()
    qtbot.waitUntil(lambda: load.on and live.recorder is not None and len(live.recorder.rows) > 1, timeout=10000)
    assert live.recorder is not None
    return live.recorder


def test_it_ends_when_the_sheet_is_closed(window: MainWindow, desk: Desk, live: LiveSheet, qtbot: QtBot) -> None:
    load = load_of(desk, 1.0)
    started(live, load, qtbot)
    live.close()
    QApplication.sendPostedEvents(None, QEvent.Type.DeferredDelete.value)
    qtbot.waitUntil(lambda: not load.on, timeout=5000)
    (left,) = own_recordings(window.session)
    assert left.ended == "the window of the discharge was closed"
    qtbot.waitUntil(lambda: not desk.devices[0].watchers, timeout=5000)  # it was seen to be off


def test_it_ends_when_the_instrument_is_closed(window: MainWindow, desk: Desk, live: LiveSheet, qtbot: QtBot) -> None:
    load = load_of(desk, 1.0)
    started(live, load, qtbot)
    (device,) = desk.devices
    served, device.served = device.served, None  # it stays plugged in
    assert served is not None
    desk.close(device)
    qtbot.waitUntil(lambda: not load.on, timeout=5000)
    served.stop()
    (left,) = own_recordings(window.session)
    assert left.ended == "the instrument was closed"


def test_it_ends_when_the_load_tells_volts_and_no_amps_any_more(
    window: MainWindow, desk: Desk, live: LiveSheet, qtbot: QtBot
) -> None:
    load = load_of(desk, 1.0)
    started(live, load, qtbot)
    order = load.order
    load.order = lambda text, now_s: "?" if "CURR?" in text else order(text, now_s)  # type: ignore[method-assign]
    qtbot.waitUntil(lambda: not load.on, timeout=8000)
    assert "no reading has come" in live.words.lines[-1].text


def test_a_load_that_does_not_stop_is_told_again_and_so_is_the_user(
    window: MainWindow, desk: Desk, live: LiveSheet, qtbot: QtBot, monkeypatch: pytest.MonkeyPatch
) -> None:
    monkeypatch.setattr("wise_cellar.ui.state.recorder.OFF_AFTER_S", 0.2)
    load = load_of(desk, 1.0)
    order = load.order
    deaf = [3]

    def hears(text: str, now_s: float) -> str | None:
        if "INP OFF" in text and deaf[0]:
            deaf[0] -= 1
            return None
        return order(text, now_s)

    load.order = hears  # type: ignore[method-assign]
    recorder = started(live, load, qtbot)
    live.stop_it.click()
    assert not recorder.running
    qtbot.waitUntil(lambda: "told to stop and still draws 1.0 A" in live.attempt.text(), timeout=5000)
    assert "by its own switch" in live.attempt.text()
    qtbot.waitUntil(lambda: not load.on, timeout=5000)
    (device,) = desk.devices
    qtbot.waitUntil(lambda: not device.watchers, timeout=5000)


def test_it_ends_when_the_load_draws_nothing(
    window: MainWindow, desk: Desk, live: LiveSheet, qtbot: QtBot, monkeypatch: pytest.MonkeyPatch
) -> None:
    monkeypatch.setattr("wise_cellar.ui.state.live_discharge.LONGEST_WAIT_S", 0.5)
    load = load_of(desk, 1.0)
    order = load.order
    load.order = lambda text, now_s: None if "INP ON" in text else order(text, now_s)  # type: ignore[method-assign]
    live.start.click()
    qtbot.waitUntil(lambda: "draws nothing" in live.words.lines[-1].text, timeout=5000)
    assert live.recorder is not None
    assert len(live.recorder.rows) == 0, "what came before it drew is no part of the discharge"
    (left,) = own_recordings(window.session)
    live.keep.click()
    assert "has no rows of figures" in live.attempt.text()
    live.forget.click()
    assert not own_recordings(window.session), left


def test_it_ends_when_what_comes_cannot_be_written_down(
    window: MainWindow, desk: Desk, live: LiveSheet, qtbot: QtBot, monkeypatch: pytest.MonkeyPatch
) -> None:
    load = load_of(desk, 1.0)
    started(live, load, qtbot)

    def full(*_: object) -> None:
        raise WorkspaceError("The disk is full.")

    monkeypatch.setattr(window.session.workspace, "grow_series", full)
    qtbot.waitUntil(lambda: not load.on, timeout=5000)
    assert "The disk is full" in live.words.lines[-1].text


def test_what_was_recorded_before_a_crash_is_offered_again(
    window: MainWindow, desk: Desk, live: LiveSheet, qtbot: QtBot
) -> None:
    session = window.session
    rows = np.stack([np.arange(0.0, 6000.0, 60.0), np.linspace(4.1, 2.9, 100), np.full(100, 2.4)], axis=1)
    recording = Recording(
        id="cut-off", name="cut off", cell_type_id="fell-21-49e", device="SCPI load", series_key=growing_key(),
        begun_at=datetime(2026, 3, 1, 10, 0), amps=2.4, least_v=2.5,
        channels=tuple(RecordedChannel(quantity=q, unit=u) for q, u in (("volts", "V"), ("amps", "A"))),
    )  # fmt: skip
    session.commit("Record", [recording])
    session.workspace.grow_series(recording.series_key, [rows[:50].tobytes(), rows[50:].tobytes()[:-5]])
    live.close()
    QApplication.processEvents()
    window.station(CellsStation).curves.live_button.click()
    sheet = window.station(CellsStation).live
    assert sheet is not None
    assert "cut off, begun 2026-03-01 10:00, is recorded: it was cut off." in sheet.words.lines[0].text
    assert len(recorded_rows(session, recording)) == 99, "half a row is none"
    sheet.keep.click()
    assert sheet.attempt.isHidden(), sheet.attempt.text()
    assert any(one.name == "cut off" for one in session.all(DischargeRecord).values())


def test_a_recording_goes_out_as_a_table_and_comes_back_the_same(
    window: MainWindow, live: LiveSheet, tmp_path: Path
) -> None:
    session = window.session
    live.take_in(tmp_path / "none.csv")
    assert "There is no file" in live.attempt.text()
    (tmp_path / "masses.csv").write_text("time_s,mass_g\n0,69.2\n")
    live.take_in(tmp_path / "masses.csv")
    assert live.attempt.text() == "masses.csv: it tells no volts and no amps; volts and amps are wanted."
    assert not own_recordings(session)
    rows = [f"{60 * place},{4.1 - 0.012 * place:.3f},2.4" for place in range(100)]
    (tmp_path / "dusk.csv").write_text("\n".join(["time_s,volts_V,amps_A", *rows]))
    live.take_in(tmp_path / "dusk.csv")
    assert live.attempt.isHidden(), live.attempt.text()
    assert len(live.plot.mah) == 100
    assert live.plot.mah[-1] == pytest.approx(2.4 * 99 / 60 * 1000)
    (first,) = own_recordings(session)
    live.put_out(tmp_path / "out.csv", first)
    assert "out.csv holds 100 readings of dusk now" in live.words.lines[0].text
    live.forget.click()
    assert not own_recordings(session)
    live.take_in(tmp_path / "out.csv")
    (again,) = own_recordings(session)
    assert again.changed(id=first.id, series_key=first.series_key) == first
    live.keep.click()
    assert any(one.name == "dusk" for one in session.all(DischargeRecord).values())


def test_a_load_that_has_not_answered_yet_is_not_told_to_draw(
    window: MainWindow, desk: Desk, live: LiveSheet, tmp_path: Path
) -> None:
    desk.open(shipped_profiles()["scpi-load"], f"serial:{tmp_path / 'nowhere'}")
    live.start.click()
    assert live.attempt.text() == "Nothing has come of SCPI load yet: is it on, and is this its port?"
    assert not own_recordings(window.session)


@pytest.mark.parametrize(("amps", "least", "says"), [
    ("200", "2.5", "may give up to"), ("0", "2.5", "may give up to"), ("2", "1.0", "ends at 2.50 V or above"),
    ("2", "14.8", "write volts of one cell"), ("much", "2.5", "“much” is not a number"),
])  # fmt: skip
def test_limits_that_are_none_of_the_cells_are_refused(
    window: MainWindow, desk: Desk, live: LiveSheet, amps: str, least: str, says: str
) -> None:
    load = load_of(desk, 1.0)
    live.amps.setText(amps)
    live.least.setText(least)
    live.start.click()
    assert says in live.attempt.text()
    assert live.recorder is None
    assert not load.on


def test_a_guard_ends_it_for_each_of_its_limits() -> None:
    guard = Guard(2.0, 2.5, 60.0, 7200.0)
    assert guard.at(10.0, {"volts": 3.5, "amps": 2.05, "temperature": 40.0}) == ""
    assert "2.50 V is reached" in guard.at(10.0, {"volts": 2.49, "amps": 2.0})
    assert "may not be warmer" in guard.at(10.0, {"volts": 3.5, "amps": 2.0, "temperature": 61.0})
    assert "was told 2.0 A" in guard.at(10.0, {"volts": 3.5, "amps": 2.5})
    assert "are over" in guard.at(7200.0, {"volts": 3.5, "amps": 2.0})
    assert guard.without(2.0) == ""
    assert "no reading has come for 4 seconds" in guard.without(4.0)


# A profile, corrected by pointing


def test_what_was_not_understood_is_corrected_by_pointing(
    window: MainWindow, desk: Desk, tmp_path: Path, qtbot: QtBot
) -> None:
    source = tmp_path / "bench.txt"
    source.write_text("12:04;3,512;15,1\n")
    window.bench.show()
    sheet = next(one for one in QApplication.topLevelWidgets() if isinstance(one, InstrumentsSheet))
    sheet.address.setText(f"file:{source}")
    sheet.profiles.setCurrentIndex(sheet.profiles.findText("key=value lines"))
    sheet.opening.click()
    (device,) = desk.devices

    def say(line: str) -> None:
        with source.open("a", encoding="utf-8") as file:
            file.write(line + "\n")

    say("12:05;3,513;15,2")
    qtbot.waitUntil(lambda: list(device.lines)[-1:] == ["12:05;3,513;15,2"], timeout=5000)
    assert "holds no pair" in device.sentence
    sheet.cards[0].correct.click()
    panel = next(one for one in QApplication.topLevelWidgets() if isinstance(one, ProfileSheet))
    assert panel.line.text() == "12:05;3,513;15,2"
    panel.take.click()
    assert panel.attempt.text() == "Nothing of the line is read: say of one piece at least what it is."
    for chooser, text in ((panel.form, "columns"), (panel.decimal, "comma"), (panel.separator, "semicolon")):
        chooser.setCurrentIndex(chooser.findText(text))
    panel.separator.activated.emit(panel.separator.currentIndex())
    assert panel.attempt.isHidden(), panel.attempt.text()
    assert [row.source for row in panel.rows] == ["1", "2", "3"]
    panel.rows[1].choose("volts", "V")
    panel.rows[2].choose("resistance", "mΩ")
    panel.name.setText("key=value lines")
    panel.take.click()
    assert "ships with the product" in panel.attempt.text()
    panel.name.setText("bench meter")
    panel.baud.setText("quick")
    panel.put_out(tmp_path / "bench.toml")
    assert "whole number, such as 9600" in panel.attempt.text()
    panel.baud.setText("9600")
    panel.put_out(tmp_path / "bench.toml")
    panel.take.click()
    say("12:06;3,514;15,3")
    wanted = {"volts": 3.514, "resistance": 15.3}
    qtbot.waitUntil(lambda: device.last is not None and device.last.values == wanted, timeout=5000)
    assert sheet.cards[0].title.text().startswith("bench meter, file:")
    assert list(desk.own) == ["bench meter"]
    window.session.go_on_in(Workspace.open(tmp_path / "another.cellar"))
    assert not desk.own, "it stays with its workspace"


def test_a_profile_from_a_file_is_chosen(window: MainWindow, desk: Desk, tmp_path: Path) -> None:
    window.bench.show()
    sheet = next(one for one in QApplication.topLevelWidgets() if isinstance(one, InstrumentsSheet))
    path = tmp_path / "scale.toml"
    path.write_text("name = 3")
    sheet.take_in(path)
    assert sheet.attempt.text().startswith("scale.toml: ")
    profile = shipped_profiles()["pairs"].changed(name="kitchen scale")
    path.write_text(profile_to_toml(profile), encoding="utf-8")
    sheet.take_in(path)
    assert sheet.attempt.isHidden()
    assert sheet.profiles.currentText() == "kitchen scale"
    assert desk.own == {"kitchen scale": profile}


def test_another_profile_ends_a_discharge_that_is_recorded(
    window: MainWindow, desk: Desk, live: LiveSheet, qtbot: QtBot
) -> None:
    load = load_of(desk, 1.0)
    started(live, load, qtbot)
    (device,) = desk.devices
    desk.talk_by(device, shipped_profiles()["scpi-meter"])
    qtbot.waitUntil(lambda: not load.on, timeout=5000)
    assert live.recorder is not None
    assert not live.recorder.running
