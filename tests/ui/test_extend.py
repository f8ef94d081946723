"""Extend, driven through its widgets: the bus, the plug, the own counter, packs put on and taken off."""

from __future__ import annotations

import numpy as np
import pytest
from PyQt6.QtCore import QPoint, QPointF, Qt
from PyQt6.QtWidgets import QApplication
from pytestqt.qtbot import QtBot

from tests.ui.conftest import field, settle, type_into, words
from wise_cellar.core.answer import answer
from wise_cellar.core.documents import CounterSees, Design, LandingBasis
from wise_cellar.core.units import format_mah
from wise_cellar.ui.shell.window import MainWindow
from wise_cellar.ui.state import bus_edits
from wise_cellar.ui.state.document_edits import take_in
from wise_cellar.ui.stations.compare.station import CompareStation
from wise_cellar.ui.stations.extend.confluence import Confluence
from wise_cellar.ui.stations.extend.station import COUNTER, PLUG, ExtendStation
from wise_cellar.ui.theme.palette import LIMESTONE
from wise_cellar.ui.widgets.plot_parts import Curve

STATION = "Extend"

EXTEND = 6


@pytest.fixture
def extend(window: MainWindow, qtbot: QtBot) -> ExtendStation:
    window.session.open_design("dunlin-extended")
    window.show_station(EXTEND)
    settle(qtbot, window.station(ExtendStation))
    return window.station(ExtendStation)


def test_the_headline_says_what_each_pack_gives(window: MainWindow, extend: ExtendStation) -> None:
    aux, own = window.session.answer.packs
    said = extend.headline.text().replace("\u202f", "").replace("\u00a0", " ")
    assert f"auxiliary {aux.given_mah:.0f} mAh ({100 * aux.charge_left:.0f} % left)" in said
    assert f"own battery {own.given_mah:.0f} mAh" in said


def test_the_streams_are_those_of_the_moment(window: MainWindow, extend: ExtendStation, qtbot: QtBot) -> None:
    """The cursor of the traces moves the picture; keys move it in time and choose a pack."""
    answered = window.session.answer
    plot = extend.traces.plots[0]
    at = plot.box.mapViewToScene(QPointF(5.0, float(answered.packs[0].series.amps.mean())))
    qtbot.mouseClick(extend.traces.viewport(), Qt.MouseButton.LeftButton, pos=extend.traces.mapFromScene(at))
    second = extend.second
    assert second == pytest.approx(300, abs=8)
    picture: Confluence = extend.confluence
    for stream, pack in zip(picture.streams, answered.packs, strict=True):
        assert stream.amps == pytest.approx(answered.series.at(pack.series.amps, second))
    assert sum(stream.amps for stream in picture.streams) == pytest.approx(
        answered.series.at(answered.series.pack_a, second)
    )
    assert sum(stream.share for stream in picture.streams) == pytest.approx(1)
    picture.setFocus()
    qtbot.keyClick(picture, Qt.Key.Key_Right)
    assert extend.second > second
    qtbot.keyClick(picture, Qt.Key.Key_Down)
    assert extend.packs.place == 1
    qtbot.mouseClick(picture, Qt.MouseButton.LeftButton, pos=QPoint(30, 50))
    assert extend.packs.place == 0
    assert [len(plot.parts(Curve)) for plot in extend.traces.plots] == [2, 2, 2, 2]


def test_a_pack_s_own_fields_move_the_answer(window: MainWindow, extend: ExtendStation, qtbot: QtBot) -> None:
    session = window.session
    before = session.answer
    extend.packs.show_place(1)
    type_into(qtbot, field(window, "design.packs.1.state.capacity_percent"), "80")
    assert session.answer.packs[1].left_mah < before.packs[1].left_mah
    type_into(qtbot, field(window, "cells.1.mass_g"), "120")
    assert session.answer.takeoff_mass_g == pytest.approx(before.takeoff_mass_g + 12)
    assert session.complete.packs[1].cell.mass_g == 120
    session.undo()
    session.undo()
    assert session.answer.duration_s == pytest.approx(before.duration_s)
    type_into(qtbot, field(window, "cells.1.dcir_mohm"), "")
    assert "needs a DC internal resistance" in field(window, "cells.1.dcir_mohm").error_text()
    assert session.complete.packs[1].cell.dcir_mohm == 24, "nothing is lost"


def test_what_is_taken_off_is_part_of_the_ledger(window: MainWindow, extend: ExtendStation, qtbot: QtBot) -> None:
    session, ledger = window.session, extend.weight.ledger
    names = [row.name for row in ledger.rows]
    assert names == ["Craft", "Taken off", "Auxiliary", "Own battery"]
    grams = [float(row.values[0].split()[0].replace("−", "-").replace("\u202f", "")) for row in ledger.rows]
    assert sum(grams) == pytest.approx(session.answer.takeoff_mass_g, abs=0.2)
    before = session.answer.takeoff_mass_g
    extend.weight.taken_off.add_row()
    type_into(qtbot, field(window, "design.taken_off.1.mass_g"), "9 g")
    assert session.answer.takeoff_mass_g == pytest.approx(before - 9)
    assert "g under the 400 g" in extend.weight.words.text()
    window.session.edit("design.conditions.payload_g", 100)
    assert "g over the 400 g that Dunlin may weigh" in extend.weight.words.text()
    assert extend.weight.words.palette().windowText().color().name() == LIMESTONE.brick.lower()
    type_into(qtbot, field(window, "design.taken_off.1.mass_g"), "900 g")
    assert "cannot be taken off Dunlin" in field(window, "design.taken_off.1.mass_g").error_text()


def test_the_plug_tells_current_window_and_the_lower_voltage(
    window: MainWindow, extend: ExtendStation, qtbot: QtBot
) -> None:
    extend.pages.choose(PLUG)
    session = window.session
    session.edit("design.packs.1.cell_type_id", "reed-2s-1900-hv")
    settle(qtbot, extend)
    start = session.answer.bus_start
    assert start is not None
    assert f"{-start.taker.current_a:.2f} A flow into the auxiliary at once, more than the" in words(extend)
    assert "on this bus it is charged to 4.20 V, 88 % of its charge" in words(extend)
    assert "0.15 V over what Tarn 18-29P may have: overcharged, it can vent and burn" in words(extend)
    assert "go on flowing into the own battery" in words(extend)
    shown = extend.plug.plot.plot.parts(Curve)[0]
    assert shown.y[0] == pytest.approx(start.packs[0].current_a, rel=1e-3)
    assert extend.plug.level_button.text() == "Start with all charged to 4.20 V a cell"
    qtbot.mouseClick(extend.plug.level_button, Qt.MouseButton.LeftButton)
    settle(qtbot, extend)
    assert session.complete.packs[1].state.start_charge_percent == pytest.approx(88.4, abs=0.3)
    assert session.answer.bus_start is not None
    assert session.answer.bus_start.safe
    assert not extend.plug.level_button.isEnabled()
    session.undo()
    assert session.complete.packs[1].state.start_charge_percent == 100


def test_packs_outside_the_window_are_marked_on_the_rail(window: MainWindow, extend: ExtendStation) -> None:
    window.session.edit("design.packs.1.state.start_charge_percent", 50)
    assert "On one bus as they rest" in window.rail.buttons[EXTEND].accessibleDescription()
    extend.packs.show_place(1)
    assert "On one bus as they rest" in field(window, "design.packs.1.state.start_charge_percent").finding_text()


def test_the_counter_s_ways_are_told_and_taken(window: MainWindow, extend: ExtendStation, qtbot: QtBot) -> None:
    extend.pages.choose(COUNTER)
    assert "does not offer to cut a battery's data line, to bridge its protection or to switch a failsafe off" in words(
        extend
    )
    rows = extend.counter.rows
    assert [outcome.rule.basis for outcome in rows.outcomes] == [
        LandingBasis.LOADED, LandingBasis.COUNTER, LandingBasis.COUNTER,
    ]  # fmt: skip
    everything = rows.outcomes[2]
    assert f"Auxiliary {format_mah(everything.packs[0].left_mah)} left" in rows.as_text()
    rows.setFocus()
    for _ in range(3):
        qtbot.keyClick(rows, Qt.Key.Key_Down)
    qtbot.keyClick(rows, Qt.Key.Key_Return)
    landing = window.session.complete.design.landing
    assert (landing.basis, landing.counter_sees) == (LandingBasis.COUNTER, CounterSees.ALL)
    assert window.session.answer.duration_s == pytest.approx(everything.duration_s)
    assert window.session.answer.reason.words == "its own counter says empty"
    settle(qtbot, extend)
    type_into(qtbot, field(window, "design.landing.charge_percent"), "40")
    settle(qtbot, extend)
    assert extend.counter.rows.outcomes[2].call_s < everything.call_s


def test_a_pack_alone_is_told_what_to_do_first(window: MainWindow, qtbot: QtBot) -> None:
    session = window.session
    session.open_design("dunlin-own")
    window.show_station(EXTEND)
    extend = window.station(ExtendStation)
    assert "Reed 2S 2800 has the bus of Dunlin to itself" in words(extend)
    assert not extend.pages.isVisible()
    qtbot.mouseClick(extend.begin.wire_button, Qt.MouseButton.LeftButton)
    settle(qtbot, extend)
    own = session.complete.own_battery
    assert own is not None
    assert own.cell.id == "reed-2s-2800"
    assert (session.complete.pack.recipe.series_count, session.complete.pack.cell.whole_pack) == (2, False)
    assert extend.pages.isVisible()
    session.undo()
    assert len(session.complete.packs) == 1


def test_an_own_battery_is_put_beside_a_built_pack(window: MainWindow, qtbot: QtBot) -> None:
    session = window.session
    session.open_design("dunlin-scout")
    window.show_station(EXTEND)
    begin = window.station(ExtendStation).begin
    assert begin.battery.currentText() == "Reed 2S 1900 HV", "the one of as many cells in series"
    qtbot.mouseClick(begin.own_button, Qt.MouseButton.LeftButton)
    settle(qtbot, window.station(ExtendStation))
    assert session.complete.own_battery is not None
    assert [pack.complete.name for pack in session.answer.packs] == ["Auxiliary", "Own battery"]


def test_the_battery_offered_follows_the_design(window: MainWindow) -> None:
    """Also where Extend was in view before: never one of other cells in series by itself."""
    session, begin = window.session, window.station(ExtendStation).begin
    window.show_station(EXTEND)
    assert begin.battery.currentText() == "Reed 4S 5200"
    session.open_design("dunlin-scout")
    assert begin.battery.currentText() == "Reed 2S 1900 HV"
    begin.battery.setCurrentText("Reed 4S 5200")
    session.edit("design.conditions.wind_m_s", 1)
    assert begin.battery.currentText() == "Reed 4S 5200", "what the user chose stays"


def test_equal_packs_are_added_named_and_taken_off(window: MainWindow, qtbot: QtBot) -> None:
    session = window.session
    session.open_design("whimbrel-transect")
    window.show_station(EXTEND)
    extend = window.station(ExtendStation)
    alone = session.answer
    qtbot.mouseClick(extend.begin.equal_button, Qt.MouseButton.LeftButton)
    settle(qtbot, extend)
    first, second = session.answer.packs
    assert first.given_mah == pytest.approx(second.given_mah, rel=1e-9)
    assert session.answer.takeoff_mass_g == pytest.approx(alone.takeoff_mass_g + second.build.mass_g)
    extend.packs.show_place(1)
    type_into(qtbot, field(window, "design.packs.1.name"), "tail pack")
    assert session.answer.packs[1].complete.name == "Tail pack"
    assert not extend.counter.rows.isVisibleTo(extend.counter), "there is no own battery to count"
    qtbot.mouseClick(extend.packs.add_button, Qt.MouseButton.LeftButton)
    assert len(session.answer.packs) == 3
    for _ in range(2):
        extend.packs.show_place(1)
        qtbot.mouseClick(extend.packs.remove_button, Qt.MouseButton.LeftButton)
    assert session.answer.duration_s == pytest.approx(alone.duration_s)


def test_a_pack_beside_is_built_of_other_cells(window: MainWindow, extend: ExtendStation, qtbot: QtBot) -> None:
    session = window.session
    bus_edits.add_equal(session)
    extend.packs.show_place(2)
    box = extend.packs.cell
    place = box.findText("Fell 18-35E")
    box.setCurrentIndex(place)
    box.activated.emit(place)
    assert session.complete.packs[2].cell.name == "Fell 18-35E"
    assert {pack.cell.id for pack in session.complete.packs[1:]} == {"reed-2s-2800", "fell-18-35e"}
    session.edit("design.packs.2.recipe.parallel_count", 2)
    assert session.answer.packs[2].build.recipe.parallel_count == 2


def test_findings_lead_to_the_pack_they_hang_on(window: MainWindow, extend: ExtendStation) -> None:
    window.show_station(1)
    window.go_to_field("design.packs.1.recipe.leads.connector")
    assert window.stack.currentIndex() == EXTEND
    assert extend.packs.place == 1
    window.show_station(1)
    window.go_to_field("cells.1.charge_current_a")
    assert QApplication.focusWidget() is field(window, "cells.1.charge_current_a").entry


def test_an_extended_design_travels_whole(window: MainWindow, extend: ExtendStation) -> None:
    session = window.session
    complete = session.complete
    cell = complete.packs[1].cell
    session.edit("cells.1.mass_g", 99)
    take_in(session, complete)
    assert session.complete.packs[1].cell.mass_g == cell.mass_g, "it brings its own battery, under another name"
    assert session.complete.packs[1].cell.id != cell.id
    assert session.answer.duration_s == pytest.approx(answer(complete).duration_s)
    assert len(session.all(Design)) == 7


def test_compare_sweeps_the_auxiliary_beside_the_same_battery(window: MainWindow, qtbot: QtBot) -> None:
    window.session.open_design("dunlin-extended")
    window.show_station(5)
    compare = window.station(CompareStation)
    qtbot.waitUntil(lambda: compare.settled, timeout=20_000)
    assert compare.flown is not None
    assert len(compare.flown) == 3 * 6
    grown = compare.aside.growth if compare.aside is not None else None
    assert grown is not None
    assert grown.alone is not None
    assert "With its own battery alone it flies" in compare.grown.words.text()
    assert "its own battery alone" in compare.cloud.picture.key.text().replace("&nbsp;", " ")
    spread = compare.cloud.picture.plot.box.viewRange()[0]
    assert spread[0] < grown.alone.takeoff_g[0] < grown.takeoff_g[grown.peak] < spread[1], "the peak is in view"
    place = int(np.argmax(compare.flown.duration_s))
    compare.take(place)
    assert window.session.complete.own_battery is not None
    assert window.session.answer.duration_s == pytest.approx(compare.flown.duration_s[place], rel=1e-9)


def test_the_name_of_a_pack_keeps_its_letters_in_a_sentence(
    window: MainWindow, extend: ExtendStation, qtbot: QtBot
) -> None:
    for name, said in (("Reserve HV", "reserve HV"), ("HV reserve", "HV reserve")):
        window.session.edit("design.packs.1.name", name)
        settle(qtbot, extend)
        assert f", {said} " in extend.headline.text()
        extend.pages.choose(PLUG)
        assert f"{said} 4." in words(extend)
