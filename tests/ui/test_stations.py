"""The stations, through their real widgets."""

from __future__ import annotations

import itertools
from collections.abc import Callable
from pathlib import Path

import numpy as np
import pytest
from PyQt6 import sip
from PyQt6.QtCore import QEvent, QPointF, Qt
from PyQt6.QtWidgets import QApplication, QLabel, QLineEdit, QPushButton
from pytestqt.qtbot import QtBot

from tests.ui.conftest import answers, field, settle, type_into, write_into
from wise_cellar.core.advice import step_up
from wise_cellar.core.documents import Block, LandingBasis
from wise_cellar.core.pack import stow
from wise_cellar.core.units import format_grams, format_minutes, format_number
from wise_cellar.ui.shell.window import MainWindow
from wise_cellar.ui.stations.craft.station import CraftStation
from wise_cellar.ui.stations.flight.block_strip import spans
from wise_cellar.ui.stations.flight.readout import values_at
from wise_cellar.ui.stations.flight.station import LANDING, VIEWS, FlightStation
from wise_cellar.ui.widgets.fields import QuantityField
from wise_cellar.ui.widgets.plot_parts import Band, Curve, Dots
from wise_cellar.ui.widgets.segments import Segments


@pytest.fixture
def craft(window: MainWindow) -> CraftStation:
    window.show_station(1)
    station = window.stations[1]
    assert isinstance(station, CraftStation)
    return station


@pytest.fixture
def flight(window: MainWindow) -> FlightStation:
    window.show_station(4)
    station = window.stations[4]
    assert isinstance(station, FlightStation)
    return station


def button(station: object, text: str) -> QPushButton:
    return next(b for b in station.findChildren(QPushButton) if b.text() == text)  # type: ignore[attr-defined]


def test_only_stations_that_are_built_are_shown(window: MainWindow) -> None:
    assert [b.text() for b in window.rail.buttons] == [
        "Cellar",
        "Craft",
        "Cells",
        "Pack",
        "Flight",
        "Compare",
        "Extend",
        "Build",
        "Charge",
        "Logbook",
    ]


def test_control_and_a_number_go_to_a_station(window: MainWindow, qtbot: QtBot) -> None:
    for number, title in (
        (0, "Cellar"),
        (1, "Craft"),
        (2, "Cells"),
        (3, "Pack"),
        (4, "Flight"),
        (5, "Compare"),
        (6, "Extend"),
        (7, "Build"),
        (8, "Charge"),
    ):
        qtbot.keyClick(window, str(number), Qt.KeyboardModifier.ControlModifier)
        assert window.stations[window.stack.currentIndex()].title == title
        assert window.rail.buttons[number].isChecked()


def test_up_and_down_walk_the_rail(window: MainWindow, qtbot: QtBot) -> None:
    window.show_station(1)
    window.rail.buttons[1].setFocus()
    qtbot.keyClick(window.rail, Qt.Key.Key_Down)
    assert window.stack.currentIndex() == 2


# Craft


BELOW = {
    "craft.loads.0.power_w": "3.5",
    "craft.max_takeoff_mass_g": "2\u202f400",
    "craft.known_flights.0.takeoff_mass_g": "1\u202f910",
}


def test_panels_below_the_edge_come_once_the_window_is_painted(
    open_window: Callable[[], MainWindow], qtbot: QtBot
) -> None:
    window = open_window()
    window.show_station(1)
    QApplication.sendPostedEvents()
    station = window.stations[1]
    assert not {found.path for found in station.findChildren(QuantityField)} & BELOW.keys(), "painted first"
    settle(qtbot, station)
    there = {found.path: found.entry.text() for found in station.findChildren(QuantityField) if found.path in BELOW}
    assert there == {path: text for path, text in BELOW.items() if "known_flights" not in path}, "that one is folded"


@pytest.mark.parametrize("path", BELOW)
def test_a_field_below_the_edge_is_there_when_it_is_looked_for(
    open_window: Callable[[], MainWindow], path: str
) -> None:
    window = open_window()
    window.go_to_field(path)
    found = next(found for found in window.stations[1].findChildren(QuantityField) if found.path == path)
    assert window.focusWidget() is found.entry
    assert found.entry.text() == BELOW[path]


def test_the_chosen_word_is_the_heavier_one_from_the_first_showing(qtbot: QtBot) -> None:
    words = Segments(("Minutes", "Minutes"), "Two words that are alike")
    qtbot.addWidget(words)
    words.show()

    def ink() -> list[int]:
        """How dark each of them is."""
        image = words.grab().toImage()
        half = image.width() // 2
        return [
            sum(255 - image.pixelColor(x, y).lightness() for x in range(first, last) for y in range(image.height() - 5))
            for first, last in ((0, half), (half, image.width()))
        ]

    first, second = ink()
    assert first > second
    words.choose(1)
    first, second = ink()
    assert first < second


def test_a_heavier_part_makes_a_shorter_flight(craft: CraftStation, window: MainWindow, qtbot: QtBot) -> None:
    seconds, mass = window.session.answer.duration_s, window.session.answer.takeoff_mass_g
    type_into(qtbot, field(window, "craft.parts.0.mass_g"), "1 lb")
    assert window.session.value("craft.parts.0.mass_g") == pytest.approx(453.592, abs=1e-3)
    assert window.session.answer.takeoff_mass_g == pytest.approx(mass + 21.592, abs=1e-2)
    assert window.session.answer.duration_s < seconds
    assert "1\u202f172 g without a battery" in craft.headline.text()


def test_parts_are_added_named_and_removed(craft: CraftStation, window: MainWindow, qtbot: QtBot) -> None:
    qtbot.mouseClick(button(craft, "Add a part"), Qt.MouseButton.LeftButton)
    assert len(window.session.complete.craft.parts) == 9
    line = QApplication.focusWidget()
    assert line is field(window, "craft.parts.8.name").entry, "the name is ready to be typed"
    type_into(qtbot, field(window, "craft.parts.8.name"), "Landing light")
    type_into(qtbot, field(window, "craft.parts.8.mass_g"), "12")
    assert window.session.complete.craft.parts[8].name == "Landing light"
    craft.parts.remove_row(8)
    assert len(window.session.complete.craft.parts) == 8
    window.session.undo()
    assert window.session.complete.craft.parts[8].mass_g == 12


def test_a_craft_keeps_a_part(craft: CraftStation, window: MainWindow) -> None:
    for _ in range(7):
        craft.parts.remove_row(0)
    craft.parts.remove_row(0)
    assert len(window.session.complete.craft.parts) == 1
    assert not craft.parts.error.isHidden()
    assert craft.parts.error.text()


def test_a_load_with_a_high_minimum_browns_out(craft: CraftStation, window: MainWindow, qtbot: QtBot) -> None:
    type_into(qtbot, field(window, "craft.loads.1.min_input_v"), "13500 mV")
    assert answers(window)[4] == "survey camera browns out"
    window.go_to_field(window.band.buttons[4].shown.field)
    assert QApplication.focusWidget() is field(window, "craft.loads.1.min_input_v").entry


def test_an_empty_optional_field_shows_its_default(craft: CraftStation, window: MainWindow, qtbot: QtBot) -> None:
    merit = field(window, "craft.rotors.figure_of_merit")
    assert merit.entry.placeholderText() == "0.66 ± 10 %"
    type_into(qtbot, merit, "0.7")
    seconds = window.session.answer.duration_s
    type_into(qtbot, merit, "")
    assert window.session.value("craft.rotors.figure_of_merit") is None
    # The known flight holds the power at cruise, so only what it does not hold moves.
    assert window.session.answer.duration_s != seconds


def test_the_known_flight_can_be_forgotten_and_given(craft: CraftStation, window: MainWindow, qtbot: QtBot) -> None:
    assert window.session.answer.factor > 1.05
    window.go_to_field("craft.known_flights.0.name")
    qtbot.mouseClick(button(craft, "Remove it"), Qt.MouseButton.LeftButton)
    assert window.session.answer.factor == 1
    assert "No known flight" in craft.calibration.text()
    fresh = craft.flights.fresh.lines
    expected = float(fresh["charge_used_mah"].placeholderText())
    tell(qtbot, fresh["duration_min"], fresh["duration_min"].placeholderText())
    tell(qtbot, fresh["charge_used_mah"], f"{expected:.0f}")
    assert len(window.session.complete.craft.known_flights) == 1
    assert window.session.answer.factor == pytest.approx(1, abs=0.05), "what was expected is what was flown"
    type_into(qtbot, field(window, "craft.known_flights.0.charge_used_mah"), "30 Ah")
    assert len(window.session.complete.craft.known_flights) == 1
    assert window.session.answer.factor == pytest.approx(1, abs=0.05), "more than its battery holds is refused"
    type_into(qtbot, field(window, "craft.known_flights.0.duration_min"), "12 min")
    assert "times the predicted shaft power" in craft.calibration.text()
    assert "says that an input is wrong" in craft.calibration.text()


def test_overlapping_propellers_are_marked_on_the_rail(craft: CraftStation, window: MainWindow, qtbot: QtBot) -> None:
    type_into(qtbot, field(window, "craft.rotors.spacing_mm"), "24 cm")
    assert window.session.complete.craft.rotors.spacing_mm == 240
    assert window.rail.buttons[1].state == "over a limit"
    type_into(qtbot, field(window, "craft.rotors.spacing_mm"), "")
    assert window.rail.buttons[1].state == "fine"


def tell(qtbot: QtBot, line: QLineEdit, text: str) -> None:
    write_into(qtbot, line, text)
    qtbot.keyClick(line, Qt.Key.Key_Return)


def test_several_flights_stand_in_a_list_with_what_each_says(
    craft: CraftStation, window: MainWindow, qtbot: QtBot
) -> None:
    qtbot.mouseClick(button(craft, "Write down another"), Qt.MouseButton.LeftButton)
    fresh, before = craft.flights.fresh.lines, window.session.complete
    assert [line.text() for line in fresh.values()] == ["", "", ""], "empty until it is told"
    for name, text, says in (("duration_min", "long", "is not a number"), ("duration_min", "-3", "more than 0")):
        tell(qtbot, fresh[name], text)
        assert says in craft.flights.fresh.error.text()
    tell(qtbot, fresh["duration_min"], "20 min")
    assert window.session.complete == before, "and counts only when it is"
    tell(qtbot, fresh["charge_used_mah"], "12 mAh")
    assert "idling motors" in craft.flights.fresh.error.text()
    assert window.session.complete == before
    tell(qtbot, fresh["charge_used_mah"], "5.1 Ah")
    assert window.session.complete.craft.known_flights[1].charge_used_mah == 5100
    assert craft.flights.which.currentIndex() == 1
    type_into(qtbot, field(window, "craft.known_flights.1.name"), "windy one")
    type_into(qtbot, field(window, "craft.known_flights.1.mean_current_a"), "22 A")
    found = window.session.answer.calibration
    assert found is not None
    assert found.count == 2
    assert "2 known flights ask for" in craft.calibration.text()
    assert f"windy one: {found.readings[1].measured_w:.0f} W where" in craft.flights.words.text()
    used = field(window, "craft.known_flights.1.used")
    qtbot.waitUntil(used.isVisible)
    qtbot.mouseClick(used.entry, Qt.MouseButton.LeftButton)
    assert "windy one" in craft.flights.words.text()
    assert "compared only" in craft.flights.words.text()
    points = [dots for dots in craft.picture.plot.parts(Dots) if dots.symbol == "d"]
    assert len(points) == 2
    qtbot.mouseClick(button(craft, "Remove it"), Qt.MouseButton.LeftButton)
    assert [f.name for f in window.session.complete.craft.known_flights] == ["first count"]


def test_an_impossible_known_flight_is_refused_where_it_is_typed(
    craft: CraftStation, window: MainWindow, qtbot: QtBot
) -> None:
    before = answers(window)
    charge = field(window, "craft.known_flights.0.charge_used_mah")
    type_into(qtbot, charge, "15")
    assert "Check its charge, current, voltage and minutes" in charge.error_text()
    assert answers(window) == before
    assert window.session.value("craft.known_flights.0.charge_used_mah") == 5300


def test_the_bay_starts_from_the_pack(craft: CraftStation, window: MainWindow, qtbot: QtBot) -> None:
    qtbot.mouseClick(button(craft, "No bay: remove it"), Qt.MouseButton.LeftButton)
    assert window.session.complete.craft.bay is None
    qtbot.mouseClick(button(craft, "Add the battery bay"), Qt.MouseButton.LeftButton)
    assert stow(window.session.answer.build.layout, window.session.complete.craft.bay)


def test_the_picture_has_the_curves_and_the_points(craft: CraftStation, window: MainWindow) -> None:
    hover, _cruise = craft.picture.plot.parts(Curve)
    assert np.all(np.diff(hover.y) > 0)
    assert hover.x[0] == window.session.complete.craft.dry_mass_g
    design, _known = craft.picture.plot.parts(Dots)
    assert design.x[0] == pytest.approx(window.session.answer.takeoff_mass_g)
    window.session.compared.toggle_pin()
    window.recipe.step("design.packs.0.recipe.parallel_count", 1)
    assert len(craft.picture.plot.parts(Dots)) == 3, "and the pin"


# Flight


def test_the_strip_shows_the_blocks_as_flown(flight: FlightStation, window: MainWindow) -> None:
    flown = spans(window.session)
    assert [span.label for span in flown] == [block.label for block in window.session.complete.mission.blocks]
    assert flown[0].start_s == 0
    assert flown[-1].end_s == pytest.approx(window.session.answer.duration_s)
    for before, after in itertools.pairwise(flown):
        assert after.start_s == pytest.approx(before.end_s)
    assert flown[1].end_s - flown[1].start_s == pytest.approx(600)


def test_the_cursor_reads_every_trace(flight: FlightStation, window: MainWindow, qtbot: QtBot) -> None:
    series = window.session.answer.series
    flight.traces.setFocus()
    qtbot.keyClick(flight.traces, Qt.Key.Key_Home)
    assert flight.readout.labels["At rest"].text() == f"{series.resting_v[0]:.2f} V"
    qtbot.keyClick(flight.traces, Qt.Key.Key_End)
    labels = flight.readout.labels
    assert labels["Under load"].text() == f"{series.loaded_v[-1]:.2f} V"
    assert labels["Cells"].text() == f"{series.temperature_c[-1]:.0f}\u00a0°C"
    at_end = flight.traces.cursor_s
    qtbot.keyClick(flight.traces, Qt.Key.Key_Left)
    assert flight.traces.cursor_s == pytest.approx(at_end * 0.99)
    qtbot.keyClick(flight.traces, Qt.Key.Key_Left, Qt.KeyboardModifier.ShiftModifier)
    assert flight.traces.cursor_s == pytest.approx(at_end * 0.89)


def test_values_between_two_points_are_between_their_values(window: MainWindow) -> None:
    series = window.session.answer.series
    middle = float(series.time_s[5] + series.time_s[6]) / 2
    read = float(values_at(window.session.answer, middle)["Under load"].split()[0])
    low, high = sorted(series.loaded_v[5:7])
    assert low - 0.006 <= read <= high + 0.006


def test_traces_draw_the_series(flight: FlightStation, window: MainWindow) -> None:
    series = window.session.answer.series
    rest, punch, loaded, rebound = flight.traces.plots[0].parts(Curve)
    assert rebound.x[0] == pytest.approx(series.time_s[-1] / 60)
    assert rebound.y[-1] > rebound.y[0] > series.loaded_v[-1], "cells recover after landing"
    assert np.array_equal(rest.y, series.resting_v)
    assert np.array_equal(punch.y, series.punch_v)
    assert np.array_equal(loaded.x, series.time_s / 60)
    assert np.array_equal(flight.traces.plots[1].parts(Curve)[0].y, series.pack_a)


def test_a_block_is_chosen_and_changed(flight: FlightStation, window: MainWindow, qtbot: QtBot) -> None:
    flight.select_block(1)
    duration = field(window, "mission.blocks.1.duration_s")
    assert duration.entry.text() == "600"
    type_into(qtbot, duration, "5 min")
    assert window.session.value("mission.blocks.1.duration_s") == 300
    assert spans(window.session)[1].end_s - spans(window.session)[1].start_s == pytest.approx(300)
    speed = field(window, "mission.blocks.1.airspeed_m_s")
    type_into(qtbot, speed, "50 km/h")
    assert window.session.value("mission.blocks.1.airspeed_m_s") == pytest.approx(13.889, abs=1e-3)


def test_a_block_that_would_hide_the_next_is_refused(flight: FlightStation, window: MainWindow, qtbot: QtBot) -> None:
    flight.select_block(1)
    duration = field(window, "mission.blocks.1.duration_s")
    type_into(qtbot, duration, "")
    assert "is never flown, because block 2 (North leg) lasts until the landing rule" in duration.error_text()
    assert window.session.value("mission.blocks.1.duration_s") == 600


def test_blocks_are_added_changed_in_kind_and_removed(flight: FlightStation, window: MainWindow, qtbot: QtBot) -> None:
    flight.select_block(3)
    qtbot.mouseClick(button(flight, "Add one before it"), Qt.MouseButton.LeftButton)
    assert [b.label for b in window.session.complete.mission.blocks][2:5] == ["Pull-up", "Hover", "South leg"]
    assert len(spans(window.session)) == 8
    kind = field(window, "mission.blocks.3.kind")
    punch = kind.entry.findText("punch")
    kind.entry.setCurrentIndex(punch)
    kind.entry.activated.emit(punch)
    assert window.session.complete.mission.blocks[3].kind == "punch"
    qtbot.mouseClick(button(flight, "Remove it"), Qt.MouseButton.LeftButton)
    assert len(window.session.complete.mission.blocks) == 7


def test_a_block_after_landing_is_refused(flight: FlightStation, window: MainWindow, qtbot: QtBot) -> None:
    flight.select_block(6)
    qtbot.mouseClick(button(flight, "Add one before it"), Qt.MouseButton.LeftButton)
    assert "is never flown, because block 6 (North leg, until landing)" in flight.block_error.text()
    assert len(window.session.complete.mission.blocks) == 7


def test_a_copied_mission_is_changed_alone(flight: FlightStation, window: MainWindow) -> None:
    window.commands.actions["Fly a copy of this mission"].trigger()
    assert window.session.complete.mission.name == "North transect, copy"
    window.session.edit("mission.blocks.1.duration_s", 60)
    window.session.open_design("whimbrel-energy")
    assert window.session.value("mission.blocks.1.duration_s") == 600


def test_the_block_follows_the_strip_by_the_pointer(flight: FlightStation, qtbot: QtBot) -> None:
    view = flight.traces.strip.box
    middle = view.mapViewToScene(QPointF(15.0, 0.5))
    qtbot.mouseClick(
        flight.traces.viewport(), Qt.MouseButton.LeftButton, pos=flight.traces.mapFromScene(middle)
    )  # fmt: skip
    qtbot.waitUntil(lambda: flight.traces.selected_block == 3, timeout=2000)
    assert flight.blocks.currentText() == "4  South leg"


def test_landing_earlier_leaves_more(flight: FlightStation, window: MainWindow, qtbot: QtBot) -> None:
    flight.views.choose(VIEWS.index(LANDING))
    left = window.session.answer.charge_left
    window.session.edit("design.landing.policy", "deep")
    assert window.session.answer.charge_left < left
    assert "Calls at 2.70 V" in flight.landing.words.text()


def test_cold_is_warned_about_on_the_flight_station(flight: FlightStation, window: MainWindow, qtbot: QtBot) -> None:
    assert flight.findings_sheet.isHidden(), "the sample has nothing to be careful about"
    type_into(qtbot, field(window, "design.conditions.air_temperature_c"), "-10")
    assert "Below 0\u00a0°C cells sag strongly" in flight.findings.text().replace("0 °C", "0\u00a0°C")
    assert window.rail.buttons[4].state != "fine"


def test_another_mission_brings_its_blocks(flight: FlightStation, window: MainWindow) -> None:
    flight.select_block(6)
    window.session.edit("design.mission_id", "colony-scout")
    assert flight.blocks.count() == 6
    assert flight.traces.selected_block == 5


# On the bench


def test_the_charge_of_a_run_on_the_bench_is_taken_for_the_pack(flight: FlightStation, window: MainWindow) -> None:
    """Less charge than predicted makes the pack an older one, and the prediction the charge that was measured."""
    session, bench = window.session, flight.bench
    assert bench.widget.isHidden(), "the sample flies"
    session.edit("mission.blocks", (Block(kind="throttle step", bench_current_a=15.0),))
    assert not bench.widget.isHidden()
    assert f"Predicted: {format_number(session.answer.given_mah, 0)} mAh" in bench.words.text()
    measured = 0.9 * session.answer.given_mah
    bench.entry.setText(f"{measured:.0f}")
    bench.button.click()
    assert session.value("design.packs.0.state.capacity_percent") == pytest.approx(90, abs=1)
    assert session.answer.given_mah == pytest.approx(measured, rel=2e-3)
    assert f"Predicted: {format_number(session.answer.given_mah, 0)} mAh" in bench.words.text()
    assert bench.error.isHidden()


@pytest.mark.parametrize(("typed", "told"), [("a lot", "a lot"), ("900", "between 40 and 110 %"), ("-3", "−3")])
def test_a_charge_that_no_such_pack_gives_is_refused_and_kept(
    flight: FlightStation, window: MainWindow, typed: str, told: str
) -> None:
    window.session.edit("mission.blocks", (Block(kind="throttle step", bench_current_a=15.0),))
    flight.bench.entry.setText(typed)
    flight.bench.button.click()
    assert told in flight.bench.error.text()
    assert not flight.bench.error.isHidden()
    assert flight.bench.entry.text() == typed
    assert window.session.value("design.packs.0.state.capacity_percent") == 100


# The strip


def test_an_edge_of_a_block_is_pulled(flight: FlightStation, window: MainWindow, qtbot: QtBot) -> None:
    traces = flight.traces
    leg = spans(window.session)[1]
    assert window.session.value("mission.blocks.1.duration_s") == 600
    y = traces.strip.sceneBoundingRect().center().y()
    start = traces.mapFromScene(QPointF(traces.strip_x(leg.end_s), y))
    end = traces.mapFromScene(QPointF(traces.strip_x(leg.end_s - 200), y))
    qtbot.mouseMove(traces.viewport(), start)
    assert traces.edge_at(traces.mapToScene(start)) is not None
    qtbot.mousePress(traces.viewport(), Qt.MouseButton.LeftButton, pos=start)
    qtbot.mouseMove(traces.viewport(), end)
    qtbot.mouseRelease(traces.viewport(), Qt.MouseButton.LeftButton, pos=end)
    pulled = window.session.value("mission.blocks.1.duration_s")
    assert pulled % 5 == 0
    assert pulled == pytest.approx(400, abs=10)
    assert traces.selected_block == 1
    window.session.undo()
    assert window.session.value("mission.blocks.1.duration_s") == 600


def test_what_lasts_until_landing_has_no_edge_to_pull(flight: FlightStation, window: MainWindow) -> None:
    traces = flight.traces
    endless = next(
        s for s in spans(window.session) if window.session.complete.mission.blocks[s.block].duration_s is None
    )
    y = traces.strip.sceneBoundingRect().center().y()
    assert traces.edge_at(QPointF(traces.strip_x(endless.end_s), y)) is None


def test_a_repeat_is_added_and_shows_on_the_strip(flight: FlightStation, window: MainWindow, qtbot: QtBot) -> None:
    flight.select_block(2)
    flight.repeats.add_row()
    type_into(qtbot, field(window, "mission.repeats.0.times"), "4")
    assert [span.block for span in spans(window.session)].count(2) == 1, "one block again and again is one span"
    punches = window.session.answer.series.throttle == 1
    assert punches.sum() > 8
    type_into(qtbot, field(window, "mission.repeats.0.first"), "2")
    assert [span.block for span in spans(window.session)][:5] == [0, 1, 2, 1, 2]
    type_into(qtbot, field(window, "mission.repeats.0.last"), "99")
    assert "names a block that is not there" in field(window, "mission.repeats.0.last").error_text()
    flight.repeats.remove_row(0)
    assert window.session.value("mission.repeats") == ()
    assert "Removed the repeat: block" in window.notice.label.text()


def test_the_fields_of_a_block_follow_its_kind(flight: FlightStation, window: MainWindow, qtbot: QtBot) -> None:
    flight.select_block(1)
    heading = field(window, "mission.blocks.1.heading_deg")
    assert heading.isHidden(), "only over ground"
    type_into(qtbot, field(window, "mission.blocks.1.ground_speed_m_s"), "36 km/h")
    assert window.session.value("mission.blocks.1.ground_speed_m_s") == pytest.approx(10)
    assert not field(window, "mission.blocks.1.heading_deg").isHidden()
    assert not field(window, "mission.blocks.1.airspeed_m_s").isEnabled()
    before = window.session.answer.energy_used_wh
    back = field(window, "mission.blocks.1.out_and_back")
    qtbot.mouseClick(back.entry, Qt.MouseButton.LeftButton)
    assert window.session.value("mission.blocks.1.out_and_back") is True
    assert window.session.answer.energy_used_wh != before


# Landing, alarms, range, explanation


def test_landing_fields_follow_what_is_landed_by(flight: FlightStation, window: MainWindow, qtbot: QtBot) -> None:
    flight.views.choose(VIEWS.index(LANDING))

    def shown() -> set[str]:
        return {f.path.rsplit(".", 1)[1] for f in flight.landing.fields.fields if not f.isHidden()}

    assert shown() == {"basis", "policy", "hold_s", "least_margin", "strict_minimum"}
    window.session.edit("design.landing.basis", LandingBasis.COUNTER)
    assert shown() == {"basis", "charge_percent", "counter_mah", "least_margin", "strict_minimum"}
    type_into(qtbot, field(window, "design.landing.counter_mah"), "5 Ah")
    assert "Calls at 4\u202f000 mAh." in flight.landing.words.text()
    assert window.session.answer.reason.words == "its own counter says empty"


def test_policies_stand_side_by_side_once_flown(flight: FlightStation, window: MainWindow, qtbot: QtBot) -> None:
    flight.views.choose(VIEWS.index(LANDING))
    qtbot.waitUntil(lambda: flight.settled and len(flight.landing.outcomes) == 4, timeout=20000)
    texts = [label.text() for label in flight.landing.findChildren(QLabel)]
    for outcome in flight.landing.outcomes:
        assert f"{outcome.duration_s / 60:.1f}" in texts
    assert flight.landing.outcomes[-1].policy is None, "the sample mission has bursts, so they are a rule too"
    mine = next(o for o in flight.landing.outcomes if o.policy == window.session.complete.design.landing.policy)
    assert mine.duration_s == pytest.approx(window.session.answer.duration_s)


def test_the_alarm_card_is_copied_and_saved(
    flight: FlightStation, window: MainWindow, tmp_path: Path, qtbot: QtBot
) -> None:
    flight.views.choose(VIEWS.index(LANDING))
    qtbot.mouseClick(flight.landing.copy_button, Qt.MouseButton.LeftButton)
    clipboard = QApplication.clipboard()
    assert clipboard is not None
    assert "Lock the cell count at 4" in clipboard.text()
    assert flight.landing.card.text() in clipboard.text()
    type_into(qtbot, field(window, "craft.alarm_names.capacity"), "my capacity")
    assert flight.landing.values[0].text() == "pack_capacity_mah = 13200"
    flight.landing.save(tmp_path / "alarms.txt")
    assert (tmp_path / "alarms.txt").read_text().splitlines()[0] == "my capacity = 13200"
    flight.landing.save(tmp_path / "alarms.csv")
    assert (tmp_path / "alarms.csv").read_text().splitlines()[1] == "my capacity,13200"
    flight.landing.save(tmp_path / "nowhere" / "alarms.txt")
    assert "cannot be written" in flight.landing.error.text()


def test_what_spreads_the_minutes_is_ranked_and_leads_to_its_field(
    flight: FlightStation, window: MainWindow, qtbot: QtBot
) -> None:
    qtbot.waitUntil(lambda: window.session.settled, timeout=20000)
    spread = window.session.spread
    assert spread is not None
    assert [row.name.lower() for row in flight.range.ledger.rows] == [driver.name for driver in spread.drivers]
    assert len(flight.traces.plots[0].parts(Band)) == 1
    window.session.edit("design.landing.hold_s", 5)
    qtbot.waitUntil(lambda: window.session.settled and window.session.spread is not None, timeout=20000)
    assert len(flight.traces.plots[0].parts(Band)) == 1


def test_what_next_says_how_and_what_it_would_bring(flight: FlightStation, window: MainWindow, qtbot: QtBot) -> None:
    flight.views.choose(3)
    qtbot.waitUntil(lambda: flight.next.found is not None, timeout=20000)
    found, spread = flight.next.found, window.session.spread
    assert found is not None
    assert spread is not None
    assert [button.text() for button in flight.next.buttons] == [step.name for step in found.steps]
    assert "becomes" in flight.next.buttons[0].accessibleDescription()
    assert {"A known flight", "Weigh the craft"} <= set(found.done)
    flight.next.buttons[0].click()
    assert window.focusWidget() is not None
    window.session.edit("design.packs.0.recipe.weighed_g", window.session.answer.build.mass_g)
    window.show_station(4)
    qtbot.waitUntil(lambda: flight.next.found is not None, timeout=20000)
    assert "Weigh the pack" in flight.next.found.done, "done ones tick themselves off"


def test_the_pages_stay_in_view_however_many_cautions_there_are(
    flight: FlightStation, window: MainWindow, qtbot: QtBot
) -> None:
    window.session.edit("design.conditions.air_temperature_c", -20)
    window.session.edit("design.packs.0.recipe.leads.gauge_awg", 24)
    window.session.edit("craft.max_takeoff_mass_g", 1500)
    sentences = [finding.sentence for finding in window.session.answer.findings]
    assert len(sentences) > 3
    assert flight.findings.text().split("\n") == sentences[:2]
    QApplication.processEvents()
    assert flight.views.visibleRegion().boundingRect().height() >= flight.views.height() - 1
    flight.more_findings.click()
    assert flight.findings.text().split("\n")[: len(sentences)] == sentences
    flight.more_findings.click()


def test_an_answer_is_explained_and_copied(flight: FlightStation, window: MainWindow, qtbot: QtBot) -> None:
    panel = flight.explanation
    flight.views.choose(4)
    words = [label.text() for label in panel.findChildren(QLabel)]
    assert any(f"= {format_grams(window.session.answer.takeoff_mass_g)}" in text for text in words)
    mass = panel.asked.findText("the take-off mass")
    panel.asked.setCurrentIndex(mass)
    panel.asked.activated.emit(mass)
    qtbot.mouseClick(panel.copy_button, Qt.MouseButton.LeftButton)
    clipboard = QApplication.clipboard()
    assert clipboard is not None
    assert clipboard.text().startswith("How the take-off mass comes about")
    assert "12 cells 834.0 g" in clipboard.text()


def test_the_margin_wanted_is_told_beside_the_cursor(flight: FlightStation, window: MainWindow, qtbot: QtBot) -> None:
    assert "is there to the end" in flight.readout.margin.text()
    type_into(qtbot, field(window, "design.landing.least_margin"), "2.2")
    assert "2.2 is there until" in flight.readout.margin.text()
    type_into(qtbot, field(window, "design.landing.least_margin"), "4.5")
    assert "is never there" in flight.readout.margin.text()


def test_power_against_airspeed_tells_the_best_speeds(craft: CraftStation, window: MainWindow, qtbot: QtBot) -> None:
    window.session.edit("craft.known_flights", ())
    craft.which.choose(1)
    assert craft.speeds.isVisible()
    assert not craft.picture.isVisible()
    before = craft.speeds.curve
    assert before is not None
    assert f"furthest at {before.furthest_m_s:.1f} m/s" in craft.speeds.words.text()
    type_into(qtbot, field(window, "craft.rotors.count"), "8")
    box = field(window, "craft.rotors.coaxial")
    qtbot.mouseClick(box.entry, Qt.MouseButton.LeftButton)
    assert window.session.complete.craft.rotors.coaxial
    assert craft.speeds.curve is not None
    assert craft.speeds.curve.power_w[0] < before.power_w[0]
    craft.which.choose(0)
    assert craft.picture.isVisible()


def test_a_tick_that_is_refused_is_taken_off_again(window: MainWindow, qtbot: QtBot) -> None:
    window.session.edit("craft.rotors.count", 3)
    window.show_station(1)
    box = field(window, "craft.rotors.coaxial")
    qtbot.mouseClick(box.entry, Qt.MouseButton.LeftButton, pos=box.entry.rect().center())
    assert "do not make coaxial pairs" in box.error_text()
    assert not box.entry.isChecked()


def test_a_load_is_put_behind_a_step_up(craft: CraftStation, window: MainWindow, qtbot: QtBot) -> None:
    place = [load.name for load in window.session.complete.craft.loads].index("survey camera")
    craft.feed.which.setCurrentIndex(place)
    craft.feed.which.activated.emit(place)
    path = f"craft.loads.{place}.converter"
    assert field(window, f"{path}_efficiency").isHidden()
    before = window.session.complete.craft.load_w
    box = field(window, path).entry
    choice = box.findText("step-up")
    box.setCurrentIndex(choice)
    box.activated.emit(choice)
    assert not field(window, f"{path}_efficiency").isHidden()
    assert window.session.complete.craft.load_w > before, "the step-up takes its part"
    type_into(qtbot, field(window, f"{path}_efficiency"), "1.4")
    assert "at most" in field(window, f"{path}_efficiency").error_text()


def test_what_a_step_up_would_buy_is_said_where_a_load_stops(
    flight: FlightStation, window: MainWindow, qtbot: QtBot
) -> None:
    window.session.edit("craft.loads.1.min_input_v", 14.2)
    window.session.edit("design.landing.policy", "deep")
    assert window.session.answer.reason.words == "survey camera browns out"
    qtbot.waitUntil(lambda: flight.settled, timeout=20000)
    found = step_up(window.session.complete, window.session.answer)
    assert found is not None
    assert found.gain_s > 60
    assert f"A step-up in front of survey camera (+6 g) would give +{format_minutes(found.gain_s)}" in (
        flight.findings.text()
    )


def test_a_group_that_differs_is_entered_drawn_and_named(
    flight: FlightStation, window: MainWindow, qtbot: QtBot
) -> None:
    flight.views.choose(1)
    flight.unlike.add_row()
    assert window.session.value("design.packs.0.state.groups.0.group") == 1
    type_into(qtbot, field(window, "design.packs.0.state.groups.0.group"), "2")
    type_into(qtbot, field(window, "design.packs.0.state.groups.0.capacity_percent"), "78")
    settle(qtbot, flight)
    volts = flight.traces.plots[0].parts(Curve)
    weak = window.session.answer.packs[0].series.cell_v
    assert any(len(curve.y) == len(weak) and (curve.y == weak).all() for curve in volts)
    assert "group 2, the weakest, under load" in flight.traces.key.text().replace("&nbsp;", " ")
    assert any("Group 2 is the weakest" in one.sentence for one in window.session.answer.findings)
    flight.unlike.add_row()
    assert window.session.value("design.packs.0.state.groups.1.group") == 1
    second = field(window, "design.packs.0.state.groups.1.group")
    type_into(qtbot, second, "2")
    assert "A group that differs is named once" in second.error_text()
    settle(qtbot, flight)
    (said,) = [label for label in flight.unlike.findChildren(QLabel) if label.text() == second.error_text()]
    assert said.width() > 4 * second.width(), "under the whole row, not squeezed under its field"
    flight.unlike.remove_row(0)
    assert [one.group for one in window.session.value("design.packs.0.state.groups")] == [1]
    assert "Removed the group that differs: group 2." in window.notice.label.text()


def test_what_is_flown_for_a_station_that_is_made_anew_is_not_shown_in_the_old_one(
    window: MainWindow, qtbot: QtBot
) -> None:
    window.go_to_page("Flight", "Range")
    flight = window.station(FlightStation)
    qtbot.waitUntil(lambda: window.session.spread is not None and flight.next.settled, timeout=20_000)
    found = window.session.spread
    window.say_again()
    flight.next.ask(found)  # a range may come before the old station goes
    QApplication.sendPostedEvents(None, QEvent.Type.DeferredDelete.value)
    assert sip.isdeleted(flight.next)
    qtbot.waitUntil(lambda: window.session.settled, timeout=20_000)
