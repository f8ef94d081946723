"""Compare, driven through its widgets: search, limits, picture, table, swaps, columns, slopes."""

from __future__ import annotations

import csv
from pathlib import Path

import numpy as np
import pytest
from PyQt6.QtCore import QPoint, QPointF, Qt
from PyQt6.QtWidgets import QApplication
from pytestqt.qtbot import QtBot

from tests.ui.conftest import field, sample_at, settle, type_into
from wise_cellar.core.answer import answer
from wise_cellar.core.search import Flown
from wise_cellar.ui.shell.window import MainWindow
from wise_cellar.ui.stations.compare.station import BESIDE, CLOUD, SLOPES, SWAP, CompareStation
from wise_cellar.ui.widgets.plot_parts import Curve

STATION = "Compare"

COMPARE = 5


@pytest.fixture
def compare(window: MainWindow, qtbot: QtBot) -> CompareStation:
    """A few cells, so that it is quick."""
    window.session.edit("design.search.cell_ids", ("fell-21-45p", "tarn-18-33e"))
    window.session.edit("design.search.parallel", "1:4")
    window.show_station(COMPARE)
    settle(qtbot, window.station(CompareStation))
    return window.station(CompareStation)


def dot(compare: CompareStation, place: int) -> QPoint:
    """Where a design is in the picture."""
    flown = compare.flown
    assert flown is not None
    box = compare.cloud.picture.plot.box
    at = box.mapViewToScene(QPointF(flown.takeoff_g[place], flown.duration_s[place] / 60))
    return compare.cloud.picture.mapFromScene(at)


def test_every_combination_is_flown_and_the_present_design_is_one(window: MainWindow, compare: CompareStation) -> None:
    space, flown = compare.space, compare.flown
    assert space is not None
    assert flown is not None
    assert len(flown) == 2 * 4 * 4
    row = space.row_of(window.session.complete)
    place = int(np.searchsorted(flown.row, row))
    assert flown.duration_s[place] == pytest.approx(window.session.answer.duration_s, rel=1e-9)
    assert compare.search.words.text() == "32 designs flown."
    judged = compare.found and compare.found.judged
    assert judged is not None
    assert compare.headline.text().startswith(f"{judged.passes.sum()} of 32 designs keep to every limit")
    assert "excludes most" in compare.exclusion.words.text()
    assert f"Longest at {compare.aside.growth.peak + 1}P" in compare.grown.words.text()  # type: ignore[union-attr]


def test_a_step_along_the_axes_only_moves_the_mark(window: MainWindow, compare: CompareStation, qtbot: QtBot) -> None:
    window.session.edit("design.search.series", "3:6")
    settle(qtbot, compare)
    flown = compare.flown
    window.recipe.step("design.packs.0.recipe.parallel_count", 1)
    settle(qtbot, compare)
    assert compare.flown is flown, "nothing was flown again"
    assert compare.cloud.picture.shown is not None
    assert compare.cloud.picture.shown.present[0] == window.session.answer.takeoff_mass_g
    window.session.edit("design.conditions.wind_m_s", 9)
    settle(qtbot, compare)
    assert compare.flown is not flown


def test_a_dot_is_pointed_at_chosen_and_taken(window: MainWindow, compare: CompareStation, qtbot: QtBot) -> None:
    judged, flown, space = compare.found and compare.found.judged, compare.flown, compare.space
    assert judged is not None
    assert flown is not None
    assert space is not None
    place = int(np.flatnonzero(judged.passes)[0])
    found = compare.cloud.picture.nearest(QPointF(dot(compare, place)))
    assert flown.takeoff_g[found] == pytest.approx(flown.takeoff_g[place], rel=0.01)
    qtbot.mouseMove(compare.cloud.picture.viewport(), dot(compare, place))
    compare.cloud.point(place)
    assert compare.found.name(place) in compare.cloud.picture.corner_words
    qtbot.mouseClick(compare.cloud.picture.viewport(), Qt.MouseButton.LeftButton, pos=dot(compare, place))
    assert compare.cloud.current == found
    assert compare.chosen.title.text() == compare.found.name(found)
    assert compare.cloud.table.current_place() == found
    before = window.session.complete
    qtbot.mouseClick(compare.chosen.take_button, Qt.MouseButton.LeftButton)
    assert window.session.complete.pack.recipe == space.design(int(flown.row[found])).pack.recipe
    assert window.session.answer.duration_s == pytest.approx(flown.duration_s[found], rel=1e-9)
    window.session.undo()
    assert window.session.complete == before


def test_the_keyboard_walks_the_edge_and_takes(window: MainWindow, compare: CompareStation, qtbot: QtBot) -> None:
    compare.cloud.picture.setFocus()
    seen = []
    for _ in range(3):
        qtbot.keyClick(compare.cloud.picture, Qt.Key.Key_Right)
        seen.append(compare.cloud.current)
    flown = compare.flown
    assert flown is not None
    assert (np.diff(flown.takeoff_g[seen]) >= 0).all()
    qtbot.keyClick(compare.cloud.picture, Qt.Key.Key_Left)
    chosen = compare.cloud.current
    qtbot.keyClick(compare.cloud.picture, Qt.Key.Key_Plus)
    low, high = compare.cloud.picture.plot.box.viewRange()[0]
    qtbot.keyClick(compare.cloud.picture, Qt.Key.Key_Home)
    assert np.diff(compare.cloud.picture.plot.box.viewRange()[0])[0] > high - low, "Home leaves the zoom"
    qtbot.keyClick(compare.cloud.picture, Qt.Key.Key_Return)
    assert window.session.answer.takeoff_mass_g == pytest.approx(flown.takeoff_g[chosen])


def test_wishes_exclude_and_the_excluded_are_shown_with_their_reasons(
    window: MainWindow, compare: CompareStation, qtbot: QtBot
) -> None:
    judged = compare.found and compare.found.judged
    assert judged is not None
    before = int(judged.passes.sum())
    type_into(qtbot, field(window, "design.search.wishes.least_duration_min"), "25 min")
    settle(qtbot, compare)
    after = compare.found and compare.found.judged
    assert after is not None
    assert 0 < int(after.passes.sum()) < before
    assert len(compare.cloud.table.places) == after.passes.sum()
    compare.cloud.excluded.setChecked(True)
    assert len(compare.cloud.table.places) == 32
    place = int(np.flatnonzero(~after.passes)[0])
    compare.cloud.choose(place)
    shown = [line.text for line in compare.chosen.reasons.lines]
    assert shown == after.reasons(place)
    type_into(qtbot, field(window, "design.search.wishes.least_duration_min"), "1000")
    settle(qtbot, compare)
    compare.cloud.excluded.setChecked(False)
    assert compare.headline.text().startswith("All 32 designs break a limit")
    assert compare.cloud.picture.shown is not None
    assert compare.cloud.picture.shown.visible.all(), "where nothing passes, all are shown"
    assert "Least time in the air excludes most: 32 of 32" in compare.exclusion.words.text()
    window.session.undo()
    settle(qtbot, compare)
    assert int(compare.found.judged.passes.sum()) == after.passes.sum()


def test_the_edge_counts_the_chosen_aims(compare: CompareStation) -> None:
    assert compare.cloud.picture.shown is not None
    assert compare.cloud.picture.shown.stepped
    two = int(compare.cloud.picture.shown.edge.sum())
    compare.cloud.margin_aim.setChecked(True)
    compare.cloud.price_aim.setChecked(True)
    assert not compare.cloud.picture.shown.stepped
    assert int(compare.cloud.picture.shown.edge.sum()) >= two
    compare.cloud.kinds.choose(1)
    assert compare.cloud.picture.shown.names == ("3S", "4S", "5S", "6S")


def test_the_table_is_sorted_filtered_copied_and_saved(
    window: MainWindow, compare: CompareStation, qtbot: QtBot, tmp_path: Path
) -> None:
    flown = compare.flown
    assert flown is not None
    compare.cloud.excluded.setChecked(True)
    minutes = flown.duration_s[compare.cloud.table.places]
    assert (np.diff(minutes) <= 0).all(), "the longest first"
    heads = [column.head for column in compare.cloud.table.shown_columns]
    compare.cloud.table.horizontalHeader().sectionClicked.emit(heads.index("Take-off g"))
    assert (np.diff(flown.takeoff_g[compare.cloud.table.places]) <= 0).all()
    model = compare.cloud.table.model()
    assert model is not None
    assert model.headerData(heads.index("Take-off g"), Qt.Orientation.Horizontal) == "Take-off g\u00a0▾"
    compare.cloud.table.horizontalHeader().sectionClicked.emit(heads.index("Take-off g"))
    assert (np.diff(flown.takeoff_g[compare.cloud.table.places]) >= 0).all()
    qtbot.keyClicks(compare.cloud.filter, "tarn 4s")
    assert len(compare.cloud.table.places) == 4
    compare.cloud.table.setFocus()
    qtbot.keyClick(compare.cloud.table, Qt.Key.Key_C, Qt.KeyboardModifier.ControlModifier)
    clipboard = QApplication.clipboard()
    assert clipboard is not None
    assert len(clipboard.text().splitlines()) == 5
    assert compare.cloud.show_column("price", True) is None
    assert "price" in [column.key for column in compare.cloud.visible_columns()]
    compare.cloud.show_column("late_punch_v", False)
    assert "late_punch_v" not in [column.key for column in compare.cloud.visible_columns()]
    path = tmp_path / "found.csv"
    compare.cloud.save_csv(path)
    lines = list(csv.DictReader(path.read_text(encoding="utf-8").splitlines()))
    assert [line["cell"] for line in lines] == ["Tarn 18-33E"] * 4
    assert "price" in lines[0]
    compare.cloud.save_csv(tmp_path / "nowhere" / "found.csv")
    assert "cannot be written" in compare.cloud.under.text()
    compare.cloud.filter.setText("frogs>2")
    assert "compares nothing that is known" in compare.cloud.under.text()
    compare.cloud.filter.setText("9s")
    assert compare.cloud.under.text() == "No design shown is left by this filter."
    compare.cloud.filter.setText("")
    assert compare.cloud.under.isHidden()
    compare.cloud.table.selectRow(0)
    place = compare.cloud.table.current_place()
    assert compare.cloud.current == place
    qtbot.keyClick(compare.cloud.table, Qt.Key.Key_Return)
    assert window.session.answer.takeoff_mass_g == pytest.approx(flown.takeoff_g[place])


def test_a_pack_of_the_same_mass(window: MainWindow, compare: CompareStation, qtbot: QtBot) -> None:
    window.session.edit("design.search.cell_ids", ())
    compare.pages.choose(SWAP)
    settle(qtbot, compare)
    pack = compare.swap.packs.findText("Reed 4S 5200")
    compare.swap.packs.setCurrentIndex(pack)
    compare.swap.packs.activated.emit(pack)
    settle(qtbot, compare)
    assert window.session.value("design.search.swap_pack_id") == "reed-4s-5200"
    assert "Reed 4S 5200: " in compare.swap.words.text()
    assert compare.aside is not None
    assert answer(compare.aside.reference.complete).duration_s == pytest.approx(
        compare.aside.reference.flown.duration_s[0]
    )
    type_into(qtbot, field(window, "design.search.swap_percent"), "30")
    settle(qtbot, compare)
    offered = compare.cloud.table.places, compare.swap.table.places
    assert len(offered[1]) > 0
    compare.swap.table.selectRow(0)
    place = compare.swap.place_of(int(offered[1][0]))
    assert compare.cloud.current == place
    compare.swap.table.setFocus()
    qtbot.keyClick(compare.swap.table, Qt.Key.Key_Return)
    assert compare.flown is not None
    assert window.session.answer.takeoff_mass_g == pytest.approx(compare.flown.takeoff_g[place])


def test_two_to_four_designs_side_by_side(window: MainWindow, compare: CompareStation, qtbot: QtBot) -> None:
    compare.pages.choose(BESIDE)
    assert not compare.beside.hint.isHidden()
    window.session.compared.toggle_pin()
    window.session.step("design.packs.0.recipe.parallel_count", 1)
    settle(qtbot, compare)
    assert compare.aside is not None
    assert [one.name for one in compare.aside.beside] == ["This design", "Pinned"]
    told, judged = compare.beside.sentences
    assert judged.startswith("4S 3P of Fell 21-45P: ")
    assert told.startswith("Pinned: −")
    assert "mass +" in told
    compare.pages.choose(CLOUD)
    judged = compare.found and compare.found.judged
    assert judged is not None
    for place in np.flatnonzero(judged.passes)[:3].tolist():
        compare.cloud.choose(place)
        qtbot.mouseClick(compare.chosen.beside_button, Qt.MouseButton.LeftButton)
        settle(qtbot, compare)
    assert compare.pages.current == BESIDE
    assert len(compare.aside.beside) == 4, "four at most"
    assert len(compare.beside.picture.plots[0].parts(Curve)) == 4
    compare.beside.dropped.emit(1)
    settle(qtbot, compare)
    assert window.session.compared.pinned is None
    assert "Pinned" not in [one.name for one in compare.aside.beside]


def test_slopes_lead_to_their_fields(window: MainWindow, compare: CompareStation, qtbot: QtBot) -> None:
    compare.pages.choose(SLOPES)
    rows = compare.slopes.ledger.rows
    assert {"Take-off mass", "Wind", "Leads and joints", "Air and pack"} <= {row.name for row in rows}
    place = next(n for n, row in enumerate(rows) if row.name == "Wind")
    grown = compare.slopes.grown.rows
    assert len(grown) == 12
    assert sum(row.name.endswith("longest") for row in grown) == 1
    assert window.session.answer.takeoff_mass_g == pytest.approx(compare.aside.growth.takeoff_g[2])  # type: ignore[union-attr]
    compare.slopes.ledger.field_requested.emit(rows[place].field)
    assert window.stations[window.stack.currentIndex()].title == "Flight"


def test_what_cannot_be_searched_is_a_sentence(window: MainWindow, compare: CompareStation, qtbot: QtBot) -> None:
    flown = compare.flown
    entry = field(window, "design.search.series")
    type_into(qtbot, entry, "8:3")
    assert "is empty: the smaller number comes first" in entry.error_text()
    assert window.session.value("design.search.series") == ""
    assert compare.flown is flown
    type_into(qtbot, entry, "")
    window.session.edit("design.search.cell_ids", ())
    window.session.edit("design.search.gauges", "0:30")
    window.session.edit("design.search.parallel", "1:25")
    window.session.edit("design.search.every_joint", True)
    window.session.edit("design.search.every_policy", True)
    type_into(qtbot, entry, "1:20")
    settle(qtbot, compare)
    assert "is the most that is searched at once. With" in compare.search.error.text()


def test_cells_are_ticked_and_one_stays(window: MainWindow, compare: CompareStation, qtbot: QtBot) -> None:
    cells = compare.search.cells
    assert cells.ticked() == ["fell-21-45p", "tarn-18-33e"]
    for place in range(cells.count()):
        item = cells.item(place)
        assert item is not None
        if item.checkState() is Qt.CheckState.Checked:
            item.setCheckState(Qt.CheckState.Unchecked)
    assert len(cells.ticked()) == 1
    qtbot.mouseClick(compare.search.own_button, Qt.MouseButton.LeftButton)
    assert window.session.value("design.search.cell_ids") == ("fell-21-45p",)
    qtbot.mouseClick(compare.search.all_button, Qt.MouseButton.LeftButton)
    assert window.session.value("design.search.cell_ids") == ()
    settle(qtbot, compare)
    assert len(cells.ticked()) == cells.count()


def test_a_search_is_stopped_and_what_came_stays(window: MainWindow, compare: CompareStation, qtbot: QtBot) -> None:
    came: list[int] = []
    compare.searching.came.connect(lambda part: came.append(len(part)))
    window.session.edit("design.search.cell_ids", ())
    window.session.edit("design.search.every_joint", True)
    window.session.edit("design.search.every_policy", True)
    window.session.edit("design.search.parallel", "1:12")
    qtbot.waitUntil(lambda: compare.searching.busy, timeout=5000)
    assert compare.search.stop_button.isVisible()
    qtbot.mouseClick(compare.search.stop_button, Qt.MouseButton.LeftButton)
    flown = sum(came)
    assert not compare.searching.busy
    assert "then stopped." in compare.search.words.text()
    settle(qtbot, compare)
    assert sum(came) == flown, "nothing comes after it"
    window.session.edit("design.search.every_joint", False)
    window.session.edit("design.search.parallel", "1:4")
    window.session.edit("design.search.cell_ids", ("fell-21-45p",))
    settle(qtbot, compare)
    assert compare.search.stop_button.isHidden()
    compare.searching.stop()
    compare.flown = compare.flown.take(np.arange(5))  # type: ignore[union-attr]
    window.session.edit("design.search.wishes.least_margin", 1.2)
    settle(qtbot, compare)
    assert len(compare.flown) == 5, "what was stopped stays stopped"
    assert compare.search.stop_button.text() == "Fly them all"
    qtbot.mouseClick(compare.search.stop_button, Qt.MouseButton.LeftButton)
    settle(qtbot, compare)
    assert len(compare.flown) == len(compare.space.rows)  # type: ignore[union-attr, arg-type]


def test_a_search_that_was_flown_is_shown_again_without_flying(
    window: MainWindow, compare: CompareStation, qtbot: QtBot
) -> None:
    flown = compare.flown
    assert flown is not None
    window.session.edit("design.search.parallel", "2:3")
    settle(qtbot, compare)
    assert compare.flown is not flown
    window.session.undo()
    settle(qtbot, compare)
    assert compare.flown is flown
    assert compare.found is not None
    assert compare.found.flown is flown
    assert compare.headline.text().startswith(f"{compare.found.judged.passes.sum()} of {len(flown)} designs")


def test_designs_beside_are_left_with_their_workspace(
    window: MainWindow, compare: CompareStation, qtbot: QtBot, tmp_path: Path
) -> None:
    compare.cloud.choose(0)
    compare.put_beside()
    settle(qtbot, compare)
    assert compare.aside is not None
    assert len(compare.aside.beside) == 2
    window.files.show_workspace(sample_at(tmp_path / "other.cellar"))
    settle(qtbot, compare)
    assert len(compare.aside.beside) == 1


def test_the_search_shown_longest_ago_is_forgotten_first(
    window: MainWindow, compare: CompareStation, qtbot: QtBot
) -> None:
    def search(parallel: str) -> Flown | None:
        window.session.edit("design.search.parallel", parallel)
        settle(qtbot, compare)
        return compare.flown

    first = search("1:2")
    assert first is not None
    search("2:3")
    assert search("1:2") is first
    for other in ("1:3", "3:3"):
        search(other)
    assert search("1:2") is first, "it was looked at again meanwhile"


def test_what_was_found_for_another_design_is_refused_where_it_does_not_fit(
    window: MainWindow, compare: CompareStation
) -> None:
    window.session.open_design("dunlin-extended")
    before = window.session.complete
    assert compare.found is not None
    compare.take(0)
    assert "need as many cells in series" in compare.cloud.under.text()
    assert window.session.complete == before
