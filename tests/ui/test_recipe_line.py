"""The recipe line: tokens that step, open and say what was refused."""

from __future__ import annotations

import pytest
from PyQt6.QtCore import QPoint, QPointF, Qt
from PyQt6.QtGui import QWheelEvent
from PyQt6.QtWidgets import QApplication, QListWidget
from pytestqt.qtbot import QtBot

from tests.ui.conftest import answers, close_popovers, field, popover, press, type_into, write_into
from wise_cellar.core.documents import CellType, Mission, StripMetal
from wise_cellar.core.units import format_minutes
from wise_cellar.ui.shell.choosers import FieldsChooser, ListChooser
from wise_cellar.ui.shell.recipe_tokens import SENTENCE, TokenSpec
from wise_cellar.ui.shell.window import MainWindow
from wise_cellar.ui.state import bus_edits

STATION = "Extend"

PARALLEL = "design.packs.0.recipe.parallel_count"
SERIES = "design.packs.0.recipe.series_count"


def sentence(window: MainWindow) -> str:
    complete, words = window.session.complete, []
    for piece in SENTENCE:
        if isinstance(piece, TokenSpec):
            token = window.recipe.tokens[piece.path]
            assert token.isHidden() != piece.shown(complete)
            words += [] if token.isHidden() else [token.text()]
        else:
            words.append(piece if isinstance(piece, str) else piece.words(complete))
    return " ".join(word for word in words if word).replace("\u00a0", " ")


def test_the_design_reads_as_a_sentence(window: MainWindow) -> None:
    assert sentence(window) == (
        "Whimbrel carries 4S × 3P of Fell 21-45P joined by nickel 8 × 0.2 mm, two layers on 12 AWG, 160 mm leads,"
        " flying North transect at 12 °C, 40 m, wind 4 m/s and landing gentle"
    )


def test_a_design_with_packs_beside_reads_as_a_sentence_too(window: MainWindow) -> None:
    window.session.open_design("dunlin-extended")
    assert sentence(window).startswith(
        "Dunlin carries its own Reed 2S 2800 with 2S × 1P of Tarn 18-29P beside it, joined by nickel 8 × 0.2 mm, two"
        " layers on 18 AWG, 140 mm leads, flying Colony scout"
    )
    bus_edits.add_equal(window.session)
    assert "of Tarn 18-29P and 1 more pack beside it, joined by" in sentence(window)
    bus_edits.remove(window.session, 1)
    assert sentence(window).startswith("Dunlin carries 2S × 1P of Tarn 18-29P with 1 more pack beside it, joined by")


def test_the_own_battery_is_chosen_on_the_line(window: MainWindow, qtbot: QtBot) -> None:
    session = window.session
    session.open_design("dunlin-extended")
    other = session.complete.packs[1].cell.model_copy(update={"id": "other", "name": "Reed 2S 1300", "mass_g": 66})
    session.commit("Add a pack", [other])
    window.recipe.open_token("design.packs.1")
    chooser = popover()
    rows = chooser.findChild(QListWidget)
    assert rows is not None
    texts = [rows.item(row).text() for row in range(rows.count())]  # type: ignore[union-attr]
    assert any("Reed 2S 1300" in text for text in texts)
    mass = session.answer.takeoff_mass_g
    rows.setCurrentRow(next(n for n, text in enumerate(texts) if "Reed 2S 1300" in text))
    qtbot.keyClick(rows, Qt.Key.Key_Return)
    assert session.answer.takeoff_mass_g == pytest.approx(mass - 42)
    assert "carries its own Reed 2S 1300 with" in sentence(window)
    window.recipe.choose("design.packs.0.recipe.series_count", 3)
    assert "own battery has 2S and cannot stand beside 3S" in window.notice.label.text()
    assert session.value("design.packs.0.recipe.series_count") == 2


def test_bracket_adds_a_parallel_cell_and_the_band_changes(window: MainWindow, qtbot: QtBot) -> None:
    before = answers(window)
    press(qtbot, window, "]")
    assert window.session.value(PARALLEL) == 4
    assert window.recipe.tokens[PARALLEL].text() == "4P"
    after = answers(window)
    assert after[:3] != before[:3]
    assert after[0] == format_minutes(window.session.answer.duration_s)
    press(qtbot, window, "[")
    assert answers(window) == before


def test_braces_step_series_cells(window: MainWindow, qtbot: QtBot) -> None:
    mass = window.session.answer.takeoff_mass_g
    press(qtbot, window, "}")
    assert window.session.value(SERIES) == 5
    assert window.session.answer.takeoff_mass_g > mass + 180
    press(qtbot, window, "{")
    assert window.session.value(SERIES) == 4


def test_brackets_step_on_every_station_at_once(window: MainWindow, qtbot: QtBot) -> None:
    """Coming to a station puts the focus into no text field."""
    for station in range(1, 8):
        window.recipe.tokens[PARALLEL].setFocus()
        qtbot.keyClick(window, str(station), Qt.KeyboardModifier.ControlModifier)
        QApplication.processEvents()
        assert QApplication.focusWidget() is window.stack
        qtbot.keyClick(QApplication.focusWidget(), "]")
        assert window.session.value(PARALLEL) == 3 + station


def test_a_click_beside_the_fields_leaves_them(window: MainWindow, qtbot: QtBot) -> None:
    window.show_station(1)
    field(window, "craft.parts.0.name").entry.setFocus()
    qtbot.mouseClick(window.stations[1], Qt.MouseButton.LeftButton, pos=QPoint(4, 4))
    assert QApplication.focusWidget() is window.stack


def test_brackets_can_be_typed_into_a_field(window: MainWindow, qtbot: QtBot) -> None:
    window.show_station(1)
    name = field(window, "craft.parts.0.name")
    type_into(qtbot, name, "Frame [carbon]")
    assert window.session.value("craft.parts.0.name") == "Frame [carbon]"
    assert window.session.value(PARALLEL) == 3


def test_no_step_beyond_the_end_and_a_sentence_for_it(window: MainWindow, qtbot: QtBot) -> None:
    for _ in range(2):
        press(qtbot, window, "[")
    assert window.session.value(PARALLEL) == 1
    press(qtbot, window, "[")
    assert window.session.value(PARALLEL) == 1
    assert window.notice.isVisible()
    assert window.notice.label.text() == "1 is the fewest that this part of the recipe takes."


@pytest.mark.parametrize(
    ("path", "key", "expected"),
    [
        (PARALLEL, Qt.Key.Key_Up, 4),
        (PARALLEL, Qt.Key.Key_Down, 2),
        ("design.packs.0.recipe.leads.gauge_awg", Qt.Key.Key_Up, 11),
        ("design.landing.policy", Qt.Key.Key_Down, "balanced"),
        ("design.mission_id", Qt.Key.Key_Down, "colony-scout"),
        ("design.craft_id", Qt.Key.Key_Down, "dunlin"),
    ],
)
def test_up_and_down_step_the_token_in_focus(
    window: MainWindow, qtbot: QtBot, path: str, key: Qt.Key, expected: object
) -> None:
    token_path = next(t for t in window.recipe.tokens if path == t or path.startswith(t + "."))
    token = window.recipe.tokens[token_path]
    token.setFocus()
    qtbot.keyClick(token, key)
    assert window.session.value(path) == expected


def test_the_strip_token_steps_through_larger_and_smaller_strips(window: MainWindow, qtbot: QtBot) -> None:
    token = window.recipe.tokens["design.packs.0.recipe.strip"]
    press(qtbot, token, Qt.Key.Key_Up)
    assert token.text() == "nickel 10 × 0.2 mm, two layers"
    for _ in range(6):
        press(qtbot, token, Qt.Key.Key_Down)
    assert token.text() == "nickel 6 × 0.15 mm, one layer"


def test_the_wheel_steps_one_notch_at_a_time(window: MainWindow) -> None:
    token = window.recipe.tokens[PARALLEL]
    token.setFocus()
    for delta in (60, 60, -120):
        event = QWheelEvent(
            QPointF(5, 5), QPointF(5, 5), QPoint(), QPoint(0, delta), Qt.MouseButton.NoButton,
            Qt.KeyboardModifier.NoModifier, Qt.ScrollPhase.NoScrollPhase, False,
        )  # fmt: skip
        QApplication.sendEvent(token, event)
        QApplication.processEvents()
    assert window.session.value(PARALLEL) == 3
    assert window.session.workspace.undo_label() == "Change cells in parallel"


@pytest.mark.parametrize("design", ["whimbrel-transect", "dunlin-extended"])
def test_tab_walks_the_tokens(window: MainWindow, qtbot: QtBot, design: str) -> None:
    window.session.open_design(design)
    window.focus_recipe()
    order = [p.path for p in SENTENCE if isinstance(p, TokenSpec) and p.shown(window.session.complete)]
    for path in order:
        assert QApplication.focusWidget() is window.recipe.tokens[path]
        qtbot.keyClick(window.recipe.tokens[path], Qt.Key.Key_Tab)


def test_a_cell_is_chosen_from_its_list(window: MainWindow, qtbot: QtBot) -> None:
    token = window.recipe.tokens["design.packs.0.cell_type_id"]
    token.setFocus()
    qtbot.keyClick(token, Qt.Key.Key_Return)
    opened = popover()
    assert isinstance(opened, ListChooser)
    rows = opened.findChild(QListWidget)
    assert rows.count() == len(window.session.all(CellType))
    assert rows.currentItem().text().startswith("Fell 21-45P")
    minutes = window.session.answer.duration_s
    qtbot.keyClick(rows, Qt.Key.Key_Down)
    assert window.session.complete.pack.cell.name == "Fell 21-49E", "walking the list shows each answer at once"
    assert window.session.answer.duration_s != minutes
    qtbot.keyClick(rows, Qt.Key.Key_Return)
    assert not opened.isVisible()
    assert token.text() == "Fell 21-49E"


@pytest.mark.parametrize("path", [SERIES, PARALLEL, "design.craft_id", "design.mission_id"])
def test_every_list_opens_on_the_present_value(window: MainWindow, path: str) -> None:
    window.recipe.open_token(path)
    opened = popover()
    rows = opened.findChild(QListWidget)
    assert rows.currentRow() >= 0
    assert window.recipe.tokens[path].text() in rows.currentItem().text()
    close_popovers()


def test_conditions_take_units_and_show_what_they_understood(window: MainWindow, qtbot: QtBot) -> None:
    window.recipe.open_token("design.conditions")
    opened = popover()
    assert isinstance(opened, FieldsChooser)
    temperature = opened.fields[0]
    type_into(qtbot, temperature, "85F")
    assert window.session.value("design.conditions.air_temperature_c") == pytest.approx(29.444, abs=1e-3)
    assert temperature.entry.text() == "29.44"
    assert window.recipe.tokens["design.conditions"].text().startswith("29.4\u00a0°C")


def test_what_is_refused_keeps_its_popover_and_is_tried_once(window: MainWindow, qtbot: QtBot) -> None:
    """The toolkit asks a popup that does not close up to a thousand times: two seconds of a window."""
    window.recipe.open_token("design.conditions")
    opened = popover()
    assert isinstance(opened, FieldsChooser)
    temperature, tried = opened.fields[0], list[str]()
    temperature.entry.submitted.connect(tried.append)  # type: ignore[attr-defined]
    write_into(qtbot, temperature.entry, "hot")  # type: ignore[arg-type]
    for _ in range(50):
        opened.close()
    assert opened.isVisible()
    assert "is not a number" in temperature.error_text()
    assert tried == ["hot"]
    window.session.edit("design.conditions.wind_m_s", 7)
    opened.close()
    assert tried == ["hot", "hot"], "it might be taken beside other values"
    write_into(qtbot, temperature.entry, "20")  # type: ignore[arg-type]
    opened.close()
    assert not opened.isVisible()
    assert window.session.value("design.conditions.air_temperature_c") == 20


def test_strips_and_leads_open_their_fields(window: MainWindow, qtbot: QtBot) -> None:
    window.recipe.open_token("design.packs.0.recipe.strip")
    fields = {f.path: f for f in popover().fields}  # type: ignore[attr-defined]
    type_into(qtbot, fields["design.packs.0.recipe.strip.width_mm"], "1 cm")
    assert window.session.value("design.packs.0.recipe.strip.width_mm") == 10
    metal = fields["design.packs.0.recipe.strip.metal"]
    metal.entry.setCurrentIndex(2)
    metal.entry.activated.emit(2)
    assert window.session.value("design.packs.0.recipe.strip.metal") is StripMetal.COPPER
    close_popovers()
    window.recipe.open_token("design.packs.0.recipe.leads")
    fields = {f.path: f for f in popover().fields}  # type: ignore[attr-defined]
    type_into(qtbot, fields["design.packs.0.recipe.leads.gauge_awg"], "14 awg")
    assert window.recipe.tokens["design.packs.0.recipe.leads"].text() == "14 AWG, 160 mm"


def test_the_landing_rule_can_be_ones_own(window: MainWindow, qtbot: QtBot) -> None:
    minutes = window.session.answer.duration_s
    window.recipe.open_token("design.landing")
    fields = {f.path: f for f in popover().fields}  # type: ignore[attr-defined]
    policy = fields["design.landing.policy"]
    policy.entry.setCurrentIndex(3)
    policy.entry.activated.emit(3)
    type_into(qtbot, fields["design.landing.own_voltage_v"], "3500 mV")
    assert window.recipe.tokens["design.landing"].text() == "at 3.5 V"
    assert window.session.answer.duration_s < minutes


def test_a_mission_step_flies_the_other_mission(window: MainWindow, qtbot: QtBot) -> None:
    qtbot.keyClick(window.recipe.tokens["design.mission_id"], Qt.Key.Key_Up)
    other = window.session.complete.mission
    assert other in window.session.all(Mission).values()
    assert other.name != "North transect"


def test_tokens_have_names_for_a_screen_reader(window: MainWindow) -> None:
    for token in window.recipe.tokens.values():
        assert token.accessibleName()
        assert token.accessibleDescription() == token.text()
