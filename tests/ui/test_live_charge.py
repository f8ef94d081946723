"""A charge that is watched in the window, by the charger that stands in."""

from __future__ import annotations

from collections.abc import Iterator
from pathlib import Path

import pytest
from pytestqt.qtbot import QtBot

from wise_cellar.core.documents import ChargeFrom, Recording, RecordingKind, replaced
from wise_cellar.instruments.stand_ins.charger import PackCharger
from wise_cellar.ui.shell.window import MainWindow
from wise_cellar.ui.state.desk import Desk, Device
from wise_cellar.ui.state.recording_edits import recorded_rows
from wise_cellar.ui.state.session import Session
from wise_cellar.ui.stations.charge.live_panel import LivePanel
from wise_cellar.ui.stations.charge.station import ChargeStation

STATION = "Charge"
SPEED = 400.0
UNHURRIED = 120.0
"""So fast that it ends within some seconds, so slow that a busy machine still tells when it will be done."""


@pytest.fixture
def desk(window: MainWindow) -> Iterator[Desk]:
    yield window.bench.desk
    window.session.desk.close_all()


@pytest.fixture
def station(window: MainWindow, qtbot: QtBot) -> ChargeStation:
    session = window.session
    wish = session.complete.design.charge.changed(start=ChargeFrom.GIVEN, start_percent=90.0)
    session.commit("Charge from there", [session.complete.design.changed(charge=wish)])
    found = window.station(ChargeStation)
    qtbot.waitUntil(lambda: found.settled and found.planned is not None, timeout=10000)
    return found


def words(panel: LivePanel) -> str:
    return " ".join(line.text for line in (*panel.alarms.lines, *panel.words.lines))


def watched(station: ChargeStation, desk: Desk, qtbot: QtBot, speed: float = SPEED) -> tuple[Device, PackCharger]:
    device = desk.open_stand_in("charger", station.session.complete, seed=3, speed=speed)
    charger = device.served.stand_in  # type: ignore[union-attr]
    assert isinstance(charger, PackCharger)
    qtbot.waitUntil(lambda: device.last is not None, timeout=10000)
    station.live.watch.click()
    assert station.live.running, station.live.attempt.text()
    qtbot.waitUntil(lambda: station.live.recorder is not None and len(station.live.recorder.came) > 3, timeout=10000)
    return device, charger


def heated(charger: PackCharger, celsius: float) -> bool:
    """Its probe is hot: told again and again, as the charger's own thread may be writing it just then."""
    charger._probe_c = celsius
    return True


def charges(session: Session) -> list[Recording]:
    return [one for one in session.all(Recording).values() if one.kind is RecordingKind.CHARGE]


def test_a_charge_is_watched_to_its_end_and_kept(
    window: MainWindow,
    desk: Desk,
    station: ChargeStation,
    qtbot: QtBot,
    tmp_path: Path,
    monkeypatch: pytest.MonkeyPatch,
) -> None:
    monkeypatch.setattr("wise_cellar.instruments.stand_ins.charger.LONGEST_BALANCE_S", 60.0)
    panel = station.live
    for kind in ("pack-load", "craft"):
        desk.open_stand_in(kind, window.session.complete)
    assert panel.hint.isVisibleTo(panel), "neither is a charger"
    assert not panel.watch.isVisibleTo(panel)
    desk.close_all()
    device, charger = watched(station, desk, qtbot, UNHURRIED)
    qtbot.waitUntil(lambda: "Done in" in words(panel) or not panel.running, timeout=40000)
    assert "Done in" in words(panel)
    assert "4 groups" not in words(panel)
    assert len(panel.sticks.apart) == 4
    recorder = panel.recorder
    assert recorder is not None
    qtbot.waitUntil(lambda: recorder.expected is not recorder.plan.charged, timeout=10000)
    qtbot.waitUntil(lambda: not recorder.running, timeout=40000)
    assert "It is over: the charger has ended it." in words(panel)
    counted = recorder.rows[:, 1 + recorder.quantities.index("charge")]
    assert counted[-1] == pytest.approx(charger.put_in_mah, abs=2.0)
    assert recorder.came.put_in_mah > 0.5 * (counted[-1] - counted[0])
    (one,) = charges(window.session)
    assert one.ended == "the charger has ended it"
    assert one.series_count == 4
    rows = recorded_rows(window.session, one)
    assert len(rows) == len(recorder.rows)
    desk.close(device)
    panel.kept.chooser.activated.emit(0)
    assert "went in, in" in words(panel), "it is drawn again, with no charger"
    panel.kept.put_out(tmp_path / "charge.csv", one)
    head = (tmp_path / "charge.csv").read_text(encoding="utf-8")
    assert "# kind: charge" in head
    assert "time_s,volts_V,amps_A,temperature_C,charge_mAh,group-1_V" in head
    panel.kept.forget.click()
    assert not charges(window.session)
    window.session.undo()
    assert charges(window.session)


def test_it_is_stopped_by_itself_where_it_is_over_a_limit(
    window: MainWindow, desk: Desk, station: ChargeStation, qtbot: QtBot, monkeypatch: pytest.MonkeyPatch
) -> None:
    monkeypatch.setattr("wise_cellar.instruments.stand_ins.charger.CENTIGRADE_LAG_S", 1e12)  # its probe stays hot
    _, charger = watched(station, desk, qtbot)
    qtbot.waitUntil(lambda: heated(charger, 90.0) and not charger.on, timeout=10000)
    qtbot.waitUntil(lambda: not station.live.running, timeout=10000)
    assert "It is over: The pack is at" in words(station.live)


def test_it_is_only_told_where_one_says_so_and_stopped_by_hand(
    window: MainWindow, desk: Desk, station: ChargeStation, qtbot: QtBot, monkeypatch: pytest.MonkeyPatch
) -> None:
    monkeypatch.setattr("wise_cellar.instruments.stand_ins.charger.CENTIGRADE_LAG_S", 1e12)  # its probe stays hot
    _, charger = watched(station, desk, qtbot)
    station.live.at_alarm.click()
    qtbot.waitUntil(lambda: heated(charger, 300.0) and "charging ends at 45 °C" in words(station.live), timeout=10000)
    assert charger.on
    assert station.live.running
    station.live.stop_it.click()
    qtbot.waitUntil(lambda: not charger.on, timeout=10000)
    assert "It is over: it was stopped by hand." in words(station.live)


def test_it_goes_on_when_nobody_watches_or_the_page_is_made_anew(
    window: MainWindow, desk: Desk, station: ChargeStation, qtbot: QtBot
) -> None:
    _, charger = watched(station, desk, qtbot)
    other = LivePanel(window.session)
    qtbot.addWidget(other)
    assert other.recorder is station.live.recorder, "another page finds what is running"
    other.close_work()
    station.live.leave.click()
    assert not station.live.running
    qtbot.wait(200)
    assert charger.on


def test_nothing_is_watched_where_nothing_is_charged(
    window: MainWindow, desk: Desk, station: ChargeStation, qtbot: QtBot
) -> None:
    desk.open_stand_in("charger", window.session.complete, seed=3, speed=SPEED)
    assert station.live.watch.isVisibleTo(station.live)
    cold = replaced(window.session.complete, "design.charge.temperature_c", -10.0)
    window.session.commit("Colder", [cold.design])
    qtbot.waitUntil(lambda: station.planned is not None and bool(station.planned.plan.refused), timeout=10000)
    assert not station.live.watch.isVisibleTo(station.live)
