"""The workspace as the window meets it: broken documents, files that move, copies, imports that meet what is here."""

from __future__ import annotations

import json
import pickle
import re
import shutil
import sqlite3
import subprocess
import sys
from collections.abc import Callable
from contextlib import closing
from datetime import date
from pathlib import Path

import numpy as np
import pytest
from benchmarks.memory import peak_mb
from PyQt6.QtCore import Qt
from PyQt6.QtWidgets import QFileDialog, QLabel, QWidget
from pytestqt.qtbot import QtBot

from tests.builders import beside, cell_type, complete, whole_pack
from tests.ui.conftest import answers, field, sample_at, settle, type_into
from wise_cellar.core.answer import Answer
from wise_cellar.core.curves import Assembled, DischargeCurve
from wise_cellar.core.documents import (
    CellType,
    CompleteDesign,
    Design,
    DocumentError,
    Part,
    Strip,
    StripMetal,
    replaced,
)
from wise_cellar.screenshots import VIEWS, check_view
from wise_cellar.store import Workspace, WorkspaceError, write_exchange_file
from wise_cellar.store.backups import backups_of, folder_of
from wise_cellar.ui.shell.broken_dialog import BrokenDialog
from wise_cellar.ui.shell.window import MainWindow
from wise_cellar.ui.state import session as session_module
from wise_cellar.ui.state.cell_edits import add_discharges, curves_of, rename_curve
from wise_cellar.ui.state.memory import MOST_KEPT, Memory
from wise_cellar.ui.state.session import QUIET_MS, Session
from wise_cellar.ui.stations.cells.station import CellsStation
from wise_cellar.ui.stations.charge.station import ChargeStation
from wise_cellar.ui.stations.compare.station import CompareStation
from wise_cellar.ui.stations.flight.station import VIEWS as FLIGHT_VIEWS
from wise_cellar.ui.stations.flight.station import FlightStation

DOCS = Path(__file__).parents[2] / "docs" / "screenshots"


def said(window: MainWindow) -> str:
    return window.notice.label.text() if window.notice.isVisible() else ""


def words_in(sheet: QWidget) -> str:
    return " ".join(label.text() for label in sheet.findChildren(QLabel))


def damage(path: Path, statement: str) -> None:
    with closing(sqlite3.connect(path, isolation_level=None)) as raw:
        raw.execute(statement)


# Broken documents


@pytest.fixture
def broken(window: MainWindow, workspace_path: Path, open_window: Callable[[], MainWindow]) -> MainWindow:
    """A workspace in which one mission cannot be read, and one design names a craft that is gone."""
    window.close()
    damage(workspace_path, """UPDATE document SET body = replace(body, '"kind": "hover"', '"kind": "soaring"')
                              WHERE kind = 'mission' AND instr(body, '"kind": "hover"')""")  # fmt: skip
    damage(workspace_path, """UPDATE document SET body = replace(body, '"craft_id": "turnstone"', '"craft_id": "gone"')
                              WHERE kind = 'design'""")  # fmt: skip
    return open_window()


def test_what_is_whole_opens_and_the_rest_is_listed_with_its_sentence(broken: MainWindow, qtbot: QtBot) -> None:
    names = {one.name for one in broken.session.library.broken}
    assert any("Turnstone" in name for name in names)
    assert broken.session.all(Design), "what is whole is here"
    assert "cannot be shown. " in said(broken)
    broken.notice.button.click()
    dialog = broken.tidings.broken_dialog
    assert dialog.list.count() == len(names)
    assert dialog.why.text().endswith(".")
    dialog.accept()


def test_a_broken_document_is_mended_in_place(broken: MainWindow) -> None:
    dialog = BrokenDialog(broken, broken.session)
    row = next(n for n, one in enumerate(dialog.broken) if "gone" in one.sentence)
    dialog.list.setCurrentRow(row)
    name = dialog.broken[row].name
    dialog.mend()
    assert "gone" in dialog.said.text(), "as it is it cannot be kept"
    dialog.text.setPlainText(dialog.text.toPlainText().replace('"craft_id": "gone"', '"craft_id": "turnstone"'))
    dialog.mend()
    assert name in {design.name for design in broken.session.all(Design).values()}
    assert f"{name} is whole again." in dialog.said.text()


def test_a_broken_document_is_exported_as_it_is_and_deleted_with_a_way_back(broken: MainWindow, tmp_path: Path) -> None:
    dialog = BrokenDialog(broken, broken.session)
    row = next(n for n, one in enumerate(dialog.broken) if "soaring" in one.body)
    dialog.list.setCurrentRow(row)
    one = dialog.broken[row]
    dialog.export_to(tmp_path / "as-it-is.json")
    assert (tmp_path / "as-it-is.json").read_text() == one.body
    dialog.export_to(tmp_path / "nowhere" / "x.json")
    assert "cannot be written" in dialog.said.text()
    dialog.delete()
    assert one not in broken.session.library.broken
    broken.session.undo()
    assert one.body in {each.body for each in broken.session.library.broken}


def test_a_workspace_without_a_whole_design_still_opens(window: MainWindow, workspace_path: Path) -> None:
    window.close()
    damage(workspace_path, "UPDATE document SET body = substr(body, 1, 50) WHERE kind = 'design'")
    with Workspace.open(workspace_path) as workspace:
        session = Session(workspace)
        assert session.complete is not None
        assert len(session.library.broken) >= 5
        session.close()


def test_a_long_name_of_an_older_workspace_is_cut_and_said(
    window: MainWindow, workspace_path: Path, open_window: Callable[[], MainWindow]
) -> None:
    name = window.session.complete.craft.name
    window.close()
    damage(workspace_path, f"""UPDATE document SET body = replace(body, '"name": "{name}"', '"name": "{"W" * 200}"')
                               WHERE kind = 'craft'""")  # fmt: skip
    again = open_window()
    assert again.session.complete.craft.name == "W" * 80
    assert "was longer than 80 letters and is cut" in said(again)


def test_a_craft_is_not_made_lighter_than_another_design_took_off_it(window: MainWindow, qtbot: QtBot) -> None:
    session = window.session
    session.open_design("dunlin-extended")
    session.edit("design.taken_off", (Part(name="lid", mass_g=60),))
    session.open_design("dunlin-scout")
    before = session.complete
    light = tuple(part.model_copy(update={"mass_g": 1.0}) for part in before.craft.parts)
    with pytest.raises(DocumentError, match=r"The design “Dunlin.*” could not be flown any more: 60 g cannot be taken"):
        session.edit("craft.parts", light)
    assert session.complete == before


# The file


def test_after_a_quiet_second_a_copy_of_the_file_has_every_edit(
    window: MainWindow, qtbot: QtBot, workspace_path: Path, tmp_path: Path
) -> None:
    window.session.edit("craft.parts.0.mass_g", 432.5)
    qtbot.wait(QUIET_MS + 300)
    copy = tmp_path / "copy.cellar"
    shutil.copy(workspace_path, copy)
    with Workspace.open(copy) as opened:
        session = Session(opened)
        assert session.value("craft.parts.0.mass_g") == 432.5
        session.close()


def test_a_renamed_file_is_missed_said_and_left_behind_with_a_copy(
    window: MainWindow, qtbot: QtBot, workspace_path: Path, tmp_path: Path
) -> None:
    session = window.session
    session.edit("craft.parts.0.mass_g", 432.5)
    before = answers(window)
    workspace_path.rename(tmp_path / "elsewhere.cellar")
    window.show_station(1)
    mass = field(window, "craft.parts.1.mass_g")
    type_into(qtbot, mass, "777")
    assert "was moved, renamed or deleted while it was open here" in mass.error_text()
    assert answers(window) == before
    window.files.save_copy_to(tmp_path / "rescued.cellar")
    assert session.workspace.path.name == "rescued.cellar"
    assert session.value("craft.parts.0.mass_g") == 432.5
    assert session.workspace.undo_label() == "Change part mass", "with its history"
    session.edit("craft.parts.1.mass_g", 777.0)
    with Workspace.open(tmp_path / "elsewhere.cellar") as old:
        assert old.undo_label() == "Change part mass", "the file has what it had, where it is now"


def test_a_file_that_was_written_over_is_saved_from_what_is_in_the_window(
    window: MainWindow, workspace_path: Path, tmp_path: Path
) -> None:
    session = window.session
    session.edit("craft.parts.0.mass_g", 432.5)
    session.workspace.settle()
    workspace_path.write_bytes(b"SQLite format 3\x00" + b"another program" * 500)
    with pytest.raises(WorkspaceError, match="was changed by another program"):
        session.edit("craft.parts.0.mass_g", 1.0)
    designs = session.all(Design)
    window.files.save_copy_to(tmp_path / "rescued.cellar")
    assert session.workspace.path.name == "rescued.cellar"
    assert session.value("craft.parts.0.mass_g") == 432.5
    assert session.all(Design) == designs


def test_what_was_refused_for_one_workspace_is_not_shown_in_another(
    window: MainWindow, qtbot: QtBot, tmp_path: Path
) -> None:
    window.show_station(1)
    mass = field(window, "craft.parts.0.mass_g")
    before = mass.entry.text()
    type_into(qtbot, mass, "heavy")
    assert "is not a number" in mass.error_text()
    window.files.show_workspace(sample_at(tmp_path / "other.cellar"))
    assert (mass.entry.text(), mass.error_text()) == (before, "")
    assert window.session.workspace.undo_label() is None, "and nothing was written there"


def test_a_fit_for_one_workspace_is_not_put_into_another(window: MainWindow, qtbot: QtBot, tmp_path: Path) -> None:
    cells = window.station(CellsStation)
    window.session.edit("design.packs.0.cell_type_id", "fell-21-50e")
    cells.refresh()
    cells.curves.fit()
    assert cells.curves.busy
    window.files.show_workspace(sample_at(tmp_path / "other.cellar"))
    window.session.edit("design.packs.0.cell_type_id", "fell-21-50e")
    assert not cells.curves.busy
    settle(qtbot, cells)
    assert window.session.workspace.undo_label() == "Change cell type", "nothing came of the fit"


def test_what_was_chosen_in_one_workspace_is_not_chosen_in_another(
    window: MainWindow, qtbot: QtBot, tmp_path: Path
) -> None:
    window.show_station(2)
    cells = window.station(CellsStation)
    settle(qtbot, cells)
    cells.table.selectRow(cells.table.shown_ids().index("tarn-18-29p"))
    cells.bar.search.setText("tarn")
    window.session.compared.toggle_pin()
    window.files.show_workspace(sample_at(tmp_path / "other.cellar"))
    settle(qtbot, cells)
    assert cells.table.selected_ids() == [window.session.complete.pack.cell.id]
    assert len(cells.table.shown_ids()) == len(window.session.all(CellType))
    assert window.session.compared.pinned is None


def test_a_workspace_that_shows_nothing_is_refused_and_closed(
    window: MainWindow, tmp_path: Path, monkeypatch: pytest.MonkeyPatch
) -> None:
    def never(_complete: CompleteDesign) -> Answer:
        raise RuntimeError("needs over 20 000 steps")

    window.session.edit("craft.parts.0.mass_g", 432.5)
    before, path = answers(window), window.session.workspace.path
    opened = Workspace.open(tmp_path / "other.cellar")
    with monkeypatch.context() as patched:
        patched.setattr(session_module, "answer", never)
        patched.setattr(window.session, "flown", Memory())
        patched.setattr(sys, "excepthook", lambda *_: None)
        with pytest.raises(WorkspaceError, match="holds no design that could be shown"):
            window.session.go_on_in(opened)
    with pytest.raises(WorkspaceError, match="a closed database"):
        opened.setting("design")
    assert (answers(window), window.session.workspace.path) == (before, path)
    window.session.edit("craft.parts.0.mass_g", 433.5)


def test_a_design_that_cannot_be_flown_does_not_close_the_others(
    window: MainWindow, open_window: Callable[[], MainWindow], monkeypatch: pytest.MonkeyPatch
) -> None:
    window.session.open_design("dunlin-scout")
    window.close()
    real, raised = session_module.answer, []

    def sometimes(complete: CompleteDesign) -> Answer:
        if complete.design.id == "dunlin-scout":
            raise RuntimeError("needs over 20 000 steps")
        return real(complete)

    monkeypatch.setattr(session_module, "answer", sometimes)
    monkeypatch.setattr(sys, "excepthook", lambda *error: raised.append(error))
    again = open_window()
    assert again.session.complete.design.id != "dunlin-scout"
    assert "Dunlin, scout is not shown: Something went wrong here that nobody foresaw" in said(again)
    assert len(raised) == 1, "and it was logged"


def test_a_copy_is_saved_beside_a_file_that_is_well(window: MainWindow, tmp_path: Path, workspace_path: Path) -> None:
    window.session.edit("craft.parts.0.mass_g", 432.5)
    window.files.save_copy_to(tmp_path / "copy.cellar")
    assert "A copy of all that is here is in" in said(window)
    assert window.session.workspace.path == workspace_path, "the window stays where it was"
    with Workspace.open(tmp_path / "copy.cellar") as copy:
        assert copy.undo_label() == "Change part mass"
    window.files.save_copy_to(workspace_path)
    assert "choose another name for the copy" in said(window)
    window.files.save_copy_to(tmp_path / "nowhere" / "copy.cellar")
    assert "cannot be" in said(window)


@pytest.mark.parametrize("name", ["x" * 300 + ".cellar", "a\x00b.cellar", "folder"])
def test_odd_names_of_workspaces_are_sentences_in_the_window(window: MainWindow, tmp_path: Path, name: str) -> None:
    (tmp_path / "folder").mkdir()
    window.files.show_workspace(tmp_path / name)
    assert said(window).endswith(".")
    assert len(said(window)) <= 300


# Imports


def test_two_unlike_cells_of_one_name_stay_two(window: MainWindow, tmp_path: Path) -> None:
    """A design whose cells and battery have one name: the 3 250 mAh cell became the 1 900 mAh battery."""
    session = window.session
    here = next(iter(session.all(CellType).values()))
    cell = cell_type(id=here.id, name="Reed twin", capacity_mah=3250)
    battery = whole_pack(id="other", name="Reed twin", capacity_mah=1900)
    taken = cell_type(id="other", name="Reed twin", capacity_mah=999)
    session.commit("One with that identifier", [taken])
    design = beside(complete(cell=cell, series_count=2, parallel_count=1), (battery, {"own": True}))
    design = design.model_copy(update={"design": design.design.model_copy(update={"cell_type_id": cell.id})})
    path = tmp_path / "twins.json"
    write_exchange_file(path, design)
    window.files.take_in(path)
    assert session.complete.pack.cell.capacity_mah == 3250
    assert session.complete.packs[1].cell.capacity_mah == 1900
    ids = {session.complete.pack.cell.id, session.complete.packs[1].cell.id, here.id, "other"}
    assert len(ids) == 4


def test_an_import_says_what_was_cut(window: MainWindow, tmp_path: Path) -> None:
    path = tmp_path / "craft.json"
    write_exchange_file(path, window.session.complete.craft)
    data = json.loads(path.read_text())
    data["document"] |= {"id": "another", "name": "N" * 100}
    path.write_text(json.dumps(data))
    window.files.take_in(path)
    assert "Imported the craft" in said(window)
    assert "was longer than 80 letters and is cut" in said(window)


# Nothing is flown anew for what is not flown, or was a moment ago


def test_undo_and_a_design_shown_again_bring_their_answers_without_flying(
    window: MainWindow, monkeypatch: pytest.MonkeyPatch
) -> None:
    session, flown, real = window.session, [], session_module.answer

    def counted(complete: CompleteDesign) -> Answer:
        flown.append(complete)
        return real(complete)

    monkeypatch.setattr(session_module, "answer", counted)
    monkeypatch.setattr(session, "flown", Memory())
    session.open_design("whimbrel-transect")
    first, path = session.answer, "craft.parts.0.mass_g"
    session.edit(path, 440)
    heavier = session.answer
    session.undo()
    assert session.answer is first
    session.redo()
    assert session.answer is heavier
    session.edit(path, 432)
    assert session.answer is first, "what is as it was flies as it did"
    session.open_design("dunlin-scout")
    session.open_design("whimbrel-transect")
    assert session.answer is first
    assert len(flown) == 3
    for place in range(MOST_KEPT):
        session.edit(path, 500 + place)
    session.edit(path, 432)
    assert session.answer is not first, "shown longest ago, so forgotten"
    assert session.answer.duration_s == first.duration_s
    assert len(flown) == 3 + MOST_KEPT + 1


def test_a_curve_of_an_unused_cell_renamed_leaves_answer_and_range(window: MainWindow, qtbot: QtBot) -> None:
    session = window.session
    unused = next(key for key in session.all(CellType) if key != session.complete.pack.cell.id)
    time = np.linspace(0, 3600, 40)
    curve = DischargeCurve("slow", time, np.linspace(4.1, 3.0, 40), np.full(40, 2.0), np.full(40, 298.0))
    add_discharges(session, unused, [(Assembled(curve, ()), "slow.csv", 25.0)])
    qtbot.waitUntil(lambda: session.settled, timeout=20_000)
    answer, spread = session.answer, session.spread
    assert spread is not None
    rename_curve(session, curves_of(session, unused)[-1], "slower")
    assert session.answer is answer
    assert session.spread is spread
    assert session.settled
    session.undo()
    assert session.answer is answer


# The recipe line tells what is so


@pytest.mark.parametrize(
    ("basis", "words", "path"),
    [
        ("volts at rest", "at 3.50 V at rest", "design.landing.resting_voltage_v"),
        ("charge used", "after 80 % of charge", "design.landing.charge_percent"),
        ("the craft's own counter", "by its counter, 80 %", "design.landing.charge_percent"),
    ],
)
def test_the_landing_rule_is_told_and_stepped_by_what_it_goes_by(
    window: MainWindow, basis: str, words: str, path: str
) -> None:
    token = window.recipe.tokens["design.landing"]
    window.session.edit("design.landing.basis", basis)
    assert token.text() == words
    before, flown = window.session.value(path), window.session.answer.duration_s
    token.stepped.emit(-1)
    assert window.session.value(path) < before
    assert token.text() != words
    assert window.session.answer.duration_s != flown, "stepping it changes the flight"


def test_a_step_of_the_strip_keeps_its_metal_and_the_longest_piece(window: MainWindow) -> None:
    strip = Strip(metal=StripMetal.COPPER, width_mm=8, thickness_mm=0.1, piece_mm=400, underlay="copper braid")
    window.session.edit("design.packs.0.recipe.strip", strip)
    window.recipe.tokens["design.packs.0.recipe.strip"].stepped.emit(1)
    stepped = window.session.complete.pack.recipe.strip
    assert stepped.width_mm * stepped.thickness_mm * stepped.layers > 0.8
    kept = {"width_mm": 8, "thickness_mm": 0.1, "layers": 1}
    assert stepped.model_copy(update=kept) == strip


def test_building_a_weighed_pack_otherwise_says_what_becomes_of_the_scale(window: MainWindow) -> None:
    session = window.session
    session.edit("design.packs.0.recipe.weighed_g", session.answer.build.mass_g + 100)
    session.edit("design.packs.0.recipe.parallel_count", 2)
    assert session.value("design.packs.0.recipe.weighed_g") is None
    assert session.value("design.packs.0.recipe.fittings.other_g") == pytest.approx(100, abs=0.1)
    assert "stay among the other grams" in said(window)
    window.notice.button.click()
    assert session.value("design.packs.0.recipe.weighed_g") is not None


# The field day and a swap that does not fit


def test_the_field_day_follows_the_other_designs_of_its_sets(window: MainWindow, qtbot: QtBot) -> None:
    session = window.session
    session.edit("design.day.sets", ({"design_id": "", "count": 1}, {"design_id": "whimbrel-energy", "count": 1}))
    first, charge = session.complete.design.id, window.station(ChargeStation)
    window.show_station(window.stations.index(charge))
    settle(qtbot, charge)
    before = charge.planned.day.air_s  # type: ignore[union-attr]
    session.open_design("whimbrel-energy")
    session.edit("design.packs.0.recipe.parallel_count", 1)
    session.open_design(first)
    settle(qtbot, charge)
    after = charge.planned.day.air_s  # type: ignore[union-attr]
    assert after != before
    session.undo()
    session.open_design(first)
    settle(qtbot, charge)
    assert charge.planned.day.air_s == pytest.approx(before)  # type: ignore[union-attr]


def test_the_field_day_keeps_to_no_faster_than_and_to_any_air(window: MainWindow, qtbot: QtBot) -> None:
    session, charge = window.session, window.station(ChargeStation)
    window.show_station(window.stations.index(charge))
    session.edit("design.charger.current_a", 60.0)
    session.edit("design.charger.power_w", 1500.0)
    settle(qtbot, charge)
    quick = charge.planned.day.air_s  # type: ignore[union-attr]
    session.edit("design.charge.most_c_rate", 0.1)
    settle(qtbot, charge)
    assert charge.planned.day.air_s < quick  # type: ignore[union-attr]
    session.edit("design.conditions.air_temperature_c", -40.0)
    settle(qtbot, charge)
    assert charge.planned is not None
    assert charge.planned.complete == session.complete, "it was planned, or said why not"


def test_a_swapped_pack_that_does_not_fit_takes_nothing_else_with_it(window: MainWindow, qtbot: QtBot) -> None:
    session = window.session
    session.open_design("dunlin-extended")
    unfit = whole_pack(id="three", name="Reed 3S", cells_in_series=3)
    session.commit("A pack of three", [unfit])
    session.edit("design.search.swap_pack_id", "three")
    compare = window.station(CompareStation)
    window.go_to_page("Compare", "Same mass")
    settle(qtbot, compare)
    assert compare.aside is not None
    assert compare.aside.reference is None
    assert len(compare.aside.growth.parallel) >= 12
    assert compare.aside.slopes
    assert "choose another pack to swap" in compare.swap.words.text()


# Pictures


def test_every_picture_of_the_documents_names_what_it_must_show() -> None:
    kept = {path.stem for path in DOCS.glob("*.png")}
    assert kept == set(VIEWS)
    readme = (DOCS.parents[1] / "README.md").read_text(encoding="utf-8")
    assert set(re.findall(r"docs/screenshots/([a-z-]+)\.png", readme)) == kept
    assert len(kept) < 20


def test_a_picture_of_the_wrong_station_page_or_design_is_refused(window: MainWindow) -> None:
    window.show_station(window.stations.index(window.station(ChargeStation)))
    for name in ("taps", "pack-by-hand", "cells-lamplight"):
        with pytest.raises(DocumentError, match=rf"{name}\.png would show Charge"):
            check_view(name, window)
    flight = window.station(FlightStation)
    window.show_station(window.stations.index(flight))
    flight.views.choose(FLIGHT_VIEWS.index("Mission"))
    check_view("flight", window)
    with pytest.raises(DocumentError, match=r"landing\.png would show Flight"):
        check_view("landing", window)
    window.session.open_design("dunlin-scout")
    with pytest.raises(DocumentError, match=r"flight\.png would show Flight, dunlin-scout"):
        check_view("flight", window)
    with pytest.raises(DocumentError):
        check_view("a-picture-that-nobody-asked-for", window)


# The benchmark


def test_the_memory_of_a_search_s_processes_can_be_asked_for_however_they_were_started() -> None:
    """In a process that a fork server starts, what stands in ``__main__`` is not there."""
    assert peak_mb.__module__ == "benchmarks.memory"
    body = pickle.dumps(peak_mb)
    done = subprocess.run(
        [sys.executable, "-c", f"import pickle; print(pickle.loads({body!r})())"], capture_output=True, text=True,
        check=True, cwd=DOCS.parents[1],
    )  # fmt: skip
    assert float(done.stdout) > 1


def test_names_of_other_programs_are_nowhere_in_what_we_write() -> None:
    for path in (DOCS.parents[1] / "src").rglob("*.py"):
        assert "BATT_" not in path.read_text(encoding="utf-8"), path


def test_replaced_names_a_field_that_is_not_there() -> None:
    with pytest.raises((KeyError, DocumentError)):
        replaced(complete(), "craft.colour.name", "red")


def test_a_backup_is_opened_beside_the_present_workspace(window: MainWindow, qtbot: QtBot) -> None:
    path = window.session.workspace.path
    window.files.show_backups()
    assert not window.files.backups_sheet.buttons
    assert "None is kept yet" in words_in(window.files.backups_sheet)
    window.files.backups_sheet.close()
    folder_of(path).mkdir(parents=True)
    window.session.workspace.copy_to(folder_of(path) / "2026-03-14.cellar")
    window.recipe.step("design.packs.0.recipe.parallel_count", 1)
    present = window.session.complete.pack.recipe.parallel_count
    window.commands.actions["Backups…"].trigger()
    sheet = window.files.backups_sheet
    assert "Saturday, 2026-03-14" in words_in(sheet)
    qtbot.mouseClick(sheet.buttons[0], Qt.MouseButton.LeftButton)
    assert not sheet.isVisible()
    assert window.session.workspace.path == path.with_name("sample of 2026-03-14.cellar")
    assert window.session.complete.pack.recipe.parallel_count == present - 1
    assert said(window) == "This is sample of 2026-03-14.cellar; sample.cellar is as you left it."
    window.files.show_workspace(path)
    assert window.session.complete.pack.recipe.parallel_count == present
    (of_today,) = (one for one in backups_of(path) if one.day != date(2026, 3, 14))
    assert of_today.version is None


def test_all_is_moved_out_and_in_again_from_the_menu(
    window: MainWindow, tmp_path: Path, monkeypatch: pytest.MonkeyPatch
) -> None:
    folder, before = tmp_path / "moved", window.session.complete
    monkeypatch.setattr(QFileDialog, "getSaveFileName", lambda *_: (str(folder), ""))
    window.commands.actions["Move all out…"].trigger()
    assert re.fullmatch(r"All \d+ documents are in .*moved, as JSON and CSV\.", said(window))
    window.commands.actions["Move all out…"].trigger()
    assert said(window).endswith("is there and not empty; name a folder that is new.")
    monkeypatch.setattr(QFileDialog, "getExistingDirectory", lambda *_: str(folder))
    window.commands.actions["Move in…"].trigger()
    assert window.session.workspace.path == tmp_path / "moved.cellar"
    assert window.session.complete == before
    (folder / "contents.json").unlink()
    window.commands.actions["Move in…"].trigger()
    assert said(window).startswith("There is no file ")
