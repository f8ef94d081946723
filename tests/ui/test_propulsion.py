"""What drives a craft, changed at the Craft station: wing, thrust stand, hover; and what Flight makes of it."""

from __future__ import annotations

from pathlib import Path

import pytest
from PyQt6.QtCore import Qt
from PyQt6.QtWidgets import QApplication, QLabel
from pytestqt.qtbot import QtBot

from tests.ui.conftest import field, press, type_into
from wise_cellar.core.answer import wing_figures
from wise_cellar.core.documents import Block, BlockKind
from wise_cellar.ui.shell.window import MainWindow
from wise_cellar.ui.stations.craft.propulsion_panel import PropulsionPanel
from wise_cellar.ui.stations.craft.station import CraftStation
from wise_cellar.ui.stations.flight.station import FlightStation
from wise_cellar.ui.widgets.plot_parts import Band

STATION = "Craft"

STAND = """Throttle (%),Thrust (g),Current (A),Voltage (V),RPM
20,120,0.9,16.2,2750
40,395,3.9,16.0,5000
60,760,9.6,15.7,7050
80,1180,18.0,15.3,8700
100,1590,28.5,14.8,10200
"""


@pytest.fixture
def panel(window: MainWindow) -> PropulsionPanel:
    window.show_station(1)
    return window.station(CraftStation).propulsion


@pytest.fixture
def turnstone(window: MainWindow, panel: PropulsionPanel) -> PropulsionPanel:
    window.session.open_design("turnstone-shoreline")
    return panel


def test_the_wing_is_a_page_of_fields_and_words(window: MainWindow, turnstone: PropulsionPanel, qtbot: QtBot) -> None:
    before = window.session.answer
    stall = wing_figures(window.session.complete, before).stall_m_s  # type: ignore[union-attr]
    assert f"Stalls at {stall:.1f} m/s" in turnstone.wing_words.text()
    assert "drag coefficient of 0.034" in window.station(CraftStation).calibration.text()
    assert not field(window, "craft.rotors.coaxial").isVisible()
    type_into(qtbot, field(window, "craft.wing.area_dm2"), "0.3 m2")
    assert window.session.value("craft.wing.area_dm2") == 30
    assert window.session.answer.duration_s != before.duration_s
    faster = wing_figures(window.session.complete, window.session.answer).stall_m_s  # type: ignore[union-attr]
    assert f"Stalls at {faster:.1f} m/s" in turnstone.wing_words.text()
    assert faster > stall
    type_into(qtbot, field(window, "craft.wing.span_mm"), "500 mm")
    assert "aspect ratio" in field(window, "craft.wing.span_mm").error_text()
    assert window.session.value("craft.wing.span_mm") == 1900


def test_the_speed_picture_begins_at_the_stall(window: MainWindow, turnstone: PropulsionPanel) -> None:
    craft = window.station(CraftStation)
    craft.which.choose(1)
    assert craft.speeds.curve is not None
    assert "Stalls at" in craft.speeds.words.text()
    assert "stall" in craft.speeds.key.text()
    assert craft.speeds.curve.airspeed_m_s[0] == pytest.approx(craft.speeds.curve.stall_m_s)


def test_a_wing_is_put_on_and_taken_off(window: MainWindow, panel: PropulsionPanel, qtbot: QtBot) -> None:
    before = window.session.complete
    qtbot.mouseClick(panel.wing_button, Qt.MouseButton.LeftButton)
    assert window.session.value("craft.wing") is not None
    assert panel.error.isHidden()
    assert "Stalls at" in panel.wing_words.text()
    assert not any(flight.used for flight in window.session.complete.craft.known_flights), "they were flown on rotors"
    qtbot.mouseClick(panel.wing_button, Qt.MouseButton.LeftButton)
    assert window.session.value("craft.wing") is None
    window.session.undo()
    window.session.undo()
    assert window.session.complete == before


def test_a_block_under_the_stall_is_marked_at_its_field(
    window: MainWindow, turnstone: PropulsionPanel, qtbot: QtBot
) -> None:
    window.show_station(4)
    window.station(FlightStation).select_block(1)
    QApplication.processEvents()
    type_into(qtbot, field(window, "mission.blocks.1.ground_speed_m_s"), "")
    entry = field(window, "mission.blocks.1.airspeed_m_s")
    type_into(qtbot, entry, "6")
    assert "stalls at" in entry.finding_text()
    assert window.session.value("mission.blocks.1.airspeed_m_s") == 6, "marked, and still computed"
    type_into(qtbot, entry, "15")
    assert entry.finding_text() == ""


def test_temperatures_outside_the_cell_s_limits_are_marked_at_their_field(window: MainWindow, qtbot: QtBot) -> None:
    window.show_station(4)
    window.station(FlightStation).views.choose(1)
    cold = field(window, "design.packs.0.state.temperature_c")
    type_into(qtbot, cold, "-25")
    assert "may not be discharged below" in cold.finding_text()
    (said,) = [label for label in cold.findChildren(QLabel) if label.text() == cold.finding_text()]
    qtbot.waitUntil(said.isVisible)


def test_a_loiter_is_flown_and_bound_missions_are_offered_to_their_craft(
    window: MainWindow, turnstone: PropulsionPanel, qtbot: QtBot
) -> None:
    window.show_station(4)
    circles = [n for n, block in enumerate(window.session.complete.mission.blocks) if block.kind is BlockKind.LOITER]
    window.station(FlightStation).select_block(circles[0])
    QApplication.processEvents()
    type_into(qtbot, field(window, f"mission.blocks.{circles[0]}.radius_m"), "8")
    assert "tighter than" in field(window, f"mission.blocks.{circles[0]}.radius_m").finding_text()
    assert "Turnstone only" in window.station(FlightStation).made_for.text()
    qtbot.mouseClick(window.station(FlightStation).bind_button, Qt.MouseButton.LeftButton)
    assert window.session.value("mission.craft_id") == ""
    assert "every craft" in window.station(FlightStation).made_for.text()
    qtbot.mouseClick(window.station(FlightStation).bind_button, Qt.MouseButton.LeftButton)
    assert window.session.value("mission.craft_id") == "turnstone"


def test_a_mission_of_another_craft_is_not_offered(window: MainWindow, qtbot: QtBot) -> None:
    token = window.recipe.tokens["design.mission_id"]
    token.setFocus()
    seen = set()
    for _ in range(4):
        press(qtbot, token, Qt.Key.Key_Down)
        seen.add(window.session.value("design.mission_id"))
    assert seen == {"north-transect", "colony-scout"}


def test_a_stand_s_table_is_fitted_and_its_residual_shown(
    window: MainWindow, panel: PropulsionPanel, qtbot: QtBot, tmp_path: Path
) -> None:
    path = tmp_path / "shed.csv"
    path.write_text(STAND, encoding="utf-8")
    before = window.session.answer.late_punch.thrust_margin
    panel.take_stand(path)
    qtbot.waitUntil(lambda: window.session.value("craft.stand") is not None, timeout=20000)
    assert "Against shed, 5 rows" in panel.stand_words.text()
    fitted = window.session.value("craft.rotors.thrust_coefficient")
    assert field(window, "craft.rotors.thrust_coefficient").entry.text() == f"{fitted:.3f}"
    assert window.session.answer.late_punch.thrust_margin != pytest.approx(before, rel=1e-3)
    shown = panel.stand_words.text()
    type_into(qtbot, field(window, "craft.rotors.thrust_coefficient"), "0.09")
    assert panel.stand_words.text() != shown, "the residual is that of the numbers in the fields"
    path.write_text(STAND.replace("395", ""), encoding="utf-8")
    panel.take_stand(path)
    assert "line 3: thrust is missing" in panel.error.text()
    assert window.session.value("craft.stand") is not None
    qtbot.mouseClick(panel.forget_button, Qt.MouseButton.LeftButton)
    assert window.session.value("craft.stand") is None


def test_only_a_hover_is_known(window: MainWindow, panel: PropulsionPanel, qtbot: QtBot) -> None:
    before = window.session.answer
    qtbot.mouseClick(panel.hover_button, Qt.MouseButton.LeftButton)
    assert window.session.answer.factor == pytest.approx(1.0, abs=0.05), "it starts from the craft's own hover"
    assert window.session.answer.duration_s == pytest.approx(before.duration_s, rel=0.03)
    assert not field(window, "craft.motor.kv_rpm_per_v").isEnabled()
    margin = window.session.answer.early_punch.thrust_margin
    type_into(qtbot, field(window, "craft.hover_test.throttle_percent"), "35")
    assert window.session.answer.early_punch.thrust_margin > margin
    type_into(qtbot, field(window, "craft.hover_test.current_a"), "2")
    assert "cannot hover on less than" in field(window, "craft.hover_test.current_a").error_text()
    qtbot.mouseClick(panel.hover_button, Qt.MouseButton.LeftButton)
    assert window.session.value("craft.hover_test") is None


def test_bands_that_come_while_another_station_is_seen_are_drawn_on_return(window: MainWindow, qtbot: QtBot) -> None:
    window.show_station(4)
    block = Block(kind=BlockKind.HOVER, name="Watch", duration_s=45)
    window.session.edit("mission.blocks", (block, *window.session.complete.mission.blocks), "Add")
    window.show_station(1)
    qtbot.waitUntil(lambda: window.session.spread is not None, timeout=20000)
    window.show_station(4)
    assert all(plot.parts(Band) for plot in window.station(FlightStation).traces.plots)
