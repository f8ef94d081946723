"""The Cells station."""

from __future__ import annotations

from collections.abc import Callable
from dataclasses import dataclass
from functools import partial
from pathlib import Path
from typing import TYPE_CHECKING

from PyQt6.QtCore import QPoint, Qt
from PyQt6.QtWidgets import (
    QMenu,
    QVBoxLayout,
    QWidget,
)

from wise_cellar.core.documents import CellType, CompleteDesign, DocumentError, FormFactor
from wise_cellar.core.shelf import (
    Claim,
    Discharge,
    Footing,
    ShelfRow,
    Sustained,
    claims,
    discharge_at_current,
    mean_cell_current_a,
    shelf_at_load,
    sustained,
)
from wise_cellar.core.units import TOLD, counted, format_amps, format_celsius
from wise_cellar.store import WorkspaceError
from wise_cellar.ui.state.cell_edits import add_cell_type, archive, delete_cell_types
from wise_cellar.ui.state.session import Session
from wise_cellar.ui.state.work import Worker
from wise_cellar.ui.stations.base import Station
from wise_cellar.ui.stations.cells import DOORWAY
from wise_cellar.ui.stations.cells.claims_panel import ClaimsPanel
from wise_cellar.ui.stations.cells.curves_panel import CurvesPanel
from wise_cellar.ui.stations.cells.discharge_picture import MOST_SHOWN
from wise_cellar.ui.stations.cells.files import CellFiles
from wise_cellar.ui.stations.cells.fit_picture import hold_against
from wise_cellar.ui.stations.cells.measured_panel import MeasuredPanel
from wise_cellar.ui.stations.cells.pictures import LOAD, CellPictures
from wise_cellar.ui.stations.cells.sheet_panel import SheetPanel
from wise_cellar.ui.stations.cells.shelf_bar import ShelfBar
from wise_cellar.ui.stations.cells.shelf_table import ShelfTable
from wise_cellar.ui.widgets.divided import Divided
from wise_cellar.ui.widgets.panel import note, show_role
from wise_cellar.ui.widgets.segments import Segments

SIDE = 348
LONGEST_CURVE_H = 20
SIDES = ("Claims", "Sheet", "Discharges", "Bench")
CLAIMS, SHEET, CURVES, BENCH = range(4)
HINT = "Choose up to four rows to see their curves. Enter or a double click takes a cell into the recipe."

if TYPE_CHECKING:
    from wise_cellar.ui.stations.cells.live_sheet import LiveSheet


@dataclass(frozen=True)
class CellClaims:
    """What a cell type's sheet claims, and what it can hold; it depends on nothing but the cell type."""

    cell: CellType
    claims: list[Claim]
    held: Sustained


@dataclass(frozen=True)
class ShelfFlown:
    """What one computation beside the window brings, and the design that it is of."""

    complete: CompleteDesign
    rows: list[ShelfRow]
    curves: list[Discharge]
    judged: CellClaims


def fly_shelf(
    complete: CompleteDesign, cells: list[CellType], chosen: list[CellType], factor: float, amps: float,
    footing: Footing, judged: CellClaims | None,
) -> ShelfFlown:  # fmt: skip
    """Rows of all cells, curves of the chosen ones, and the claims of the present one unless they are ``judged``."""
    cell = complete.pack.cell
    if judged is None or judged.cell != cell:
        held = sustained(complete)
        judged = CellClaims(cell, claims(cell, held), held)
    return ShelfFlown(
        complete,
        shelf_at_load(complete, cells, factor, amps, footing),
        discharge_at_current(complete, chosen, factor, amps),
        judged,
    )


class CellsStation(Station):
    """Discharge curves above, the shelf under them; beside them claims, sheet, discharges and bench results."""

    doorway = DOORWAY

    def __init__(self, session: Session) -> None:
        super().__init__(session)
        column, self.headline, side = self.lay_out(SIDE)
        self.pictures = CellPictures()
        self.bar, self.table = ShelfBar(), ShelfTable()
        lower = QWidget()
        under = QVBoxLayout(lower)
        under.setContentsMargins(0, 0, 0, 0)
        under.addWidget(self.bar)
        under.addWidget(self.table, 1)
        self.hint = note(HINT)
        under.addWidget(self.hint)
        self.divided = Divided("cells", self.pictures, lower)
        self.divided.share(52, 48)
        column.addWidget(self.divided, 1)
        self._fill_side(side)
        self._worker = Worker(self)
        self._worker.finished.connect(self._take_flown)
        self._worker.failed.connect(lambda error: self._say(str(error), error=True))
        self.files = CellFiles(self, session, self._say)
        self.files.imported.connect(lambda: self.views.choose(CURVES))
        self.pictures.shown.connect(lambda place: self.views.choose(CURVES) if place != LOAD else None)
        self.pictures.save_asked.connect(self.save_curves)
        self._judged: CellClaims | None = None
        self.live: LiveSheet | None = None
        self.table.taken.connect(self._take)
        self._curves = Worker(self)
        self._curves.finished.connect(self.pictures.load.show_curves)
        self.table.selection_changed.connect(self._fly_curves)
        self.table.setContextMenuPolicy(Qt.ContextMenuPolicy.CustomContextMenu)
        self.table.customContextMenuRequested.connect(self._open_menu)
        self.bar.searched.connect(self._search)
        self.bar.changed.connect(self._fly_on_footing)
        self.bar.add_asked.connect(self._add)
        self.bar.table_in_asked.connect(self.files.ask_table_in)
        self.bar.table_out_asked.connect(self.files.ask_table_out)
        self.bar.archive_asked.connect(self._archive_chosen)
        self.bar.delete_asked.connect(self._delete_chosen)

    # Building

    def _fill_side(self, side: QVBoxLayout) -> None:
        self.views = Segments(SIDES, "What is beside the shelf")
        side.addWidget(self.views)
        self.claims = ClaimsPanel()
        self.sheet = SheetPanel(self.session, self._try)
        self.curves = CurvesPanel(self.session, self._try)
        self.bench = MeasuredPanel(self.session, self._try)
        self._sides: tuple[QWidget, ...] = (self.claims, self.sheet, self.curves, self.bench)
        for panel in self._sides:
            side.addWidget(panel)
        side.addStretch(1)
        self.views.chosen.connect(self._show_side)
        self._show_side(CLAIMS)
        self.claims.trust_asked.connect(self._trust)
        self.curves.import_asked.connect(lambda: self.files.ask_import())
        self.curves.live_asked.connect(self._record_live)
        self.curves.trace_asked.connect(lambda chart: self.files.open_trace(chart))

    def _record_live(self) -> None:
        """A discharge, by a load that is listened to; the sheet stays beside the window."""
        from wise_cellar.ui.stations.cells.live_sheet import LiveSheet

        if self.live is None:
            self.live = LiveSheet(self, self.session)
            self.live.destroyed.connect(self._forget_live)
        self.live.show()
        self.live.raise_()

    def _forget_live(self) -> None:
        self.live = None

    def _close_live(self) -> None:
        if self.live is not None:
            self.live.close()

    # Showing

    def refresh(self) -> None:
        """Show the present cell at once, and fly the shelf beside the window."""
        session = self.session
        recipe = session.complete.pack.recipe
        count = sum(not cell.archived for cell in session.all(CellType).values())
        self.headline.setText(
            f"{counted(count, 'cell type')} at {session.complete.craft.name}'s load, {recipe.series_count}S ×"
            f" {recipe.parallel_count}P: {format_amps(self.cell_current_a())} a cell,"
            f" {format_celsius(session.complete.design.conditions.air_temperature_c, TOLD)} air"
        )
        self.sheet.refresh()
        if self.curves.refresh():
            self._show_against()
        self.bench.refresh()
        self._fly()

    def cell_current_a(self) -> float:
        """The present mean amps a cell; enough to empty it in twenty hours, so that every curve comes to an end."""
        complete, answer = self.session.complete, self.session.answer
        mean = mean_cell_current_a(complete, float(answer.packs[0].series.given_mah[-1]), answer.duration_s)
        return max(mean, complete.pack.cell.capacity_mah / 1000 / LONGEST_CURVE_H)

    @property
    def settled(self) -> bool:
        """Whether everything beside the window has come back."""
        return not self._worker.busy and not self._curves.busy and not self.curves.busy

    def close_work(self) -> None:
        """Stop what runs beside the window."""
        self._worker.close()
        self._curves.close()
        self.curves.close_work()
        self.files.close_dialog()
        self._close_live()

    def leave_workspace(self) -> None:
        """Choose no cell, hide none, and fit none."""
        self.curves.close_work()
        self.files.close_dialog()
        self._close_live()
        self.bar.hide_none()
        self.table.choose_none()

    def shown_cells(self) -> list[CellType]:
        """The cell types on the shelf: all but the archived ones, which come where asked for or where in use."""
        present = self.session.complete.pack.cell.id
        return [
            cell
            for cell in self.session.all(CellType).values()
            if not cell.archived or self.bar.archived.isChecked() or cell.id == present
        ]

    def _chosen(self) -> list[CellType]:
        shelf = self.session.all(CellType)
        wanted = [key for key in self.table.chosen_ids(self.session.complete.pack.cell.id) if key in shelf]
        return [shelf[key] for key in wanted[:MOST_SHOWN]]

    def _fly(self) -> None:
        self._curves.forget()  # what is flown brings them too
        session, shown, chosen = self.session, self.shown_cells(), self._chosen()
        footing = self.bar.present_footing
        self._worker.run(
            partial(
                fly_shelf, session.complete, shown, chosen, session.answer.factor, self.cell_current_a(), footing,
                self._judged,
            ),
            of=(session.complete, shown, chosen, footing),
        )  # fmt: skip

    def _fly_on_footing(self) -> None:
        self.table.show_packs(self.bar.present_footing is Footing.SAME_MASS)
        self._fly()

    def _take_flown(self, flown: ShelfFlown) -> None:
        if flown.complete != self.session.complete:
            return  # the design was changed from another station meanwhile; coming back here flies it again
        cell = flown.complete.pack.cell
        self.table.show_rows(flown.rows, cell.id)
        of_cells = [curve.cell for curve in flown.curves]
        if of_cells == self._chosen():  # else others were chosen since, and are being flown
            self.pictures.load.show_curves(flown.curves)
        if flown.judged is not self._judged:
            self._judged = flown.judged
            self.claims.show_claims(cell.name, flown.judged.claims)
            self.claims.offer(flown.judged.held.trusted_a, cell.rated_current_a, cell.trusted_current_a)

    def _fly_curves(self) -> None:
        """Curves of the chosen rows, beside the window: one at a hundredth of an amp takes hundreds of steps."""
        complete, chosen, amps = self.session.complete, self._chosen(), self.cell_current_a()
        self._curves.run(
            partial(discharge_at_current, complete, chosen, self.session.answer.factor, amps),
            of=(complete, chosen, amps),
        )

    def _show_against(self) -> None:
        cell = self.session.complete.pack.cell
        self.pictures.fit.show_against(hold_against(cell, self.curves.curves))
        self.pictures.model.show_cell(cell)

    def _search(self) -> None:
        self.table.filter.search(self.bar.search.text(), fine_only=self.bar.fine_only.isChecked())
        hidden = len(self.table.shelf.rows) - self.table.filter.rowCount()
        self.hint.setText(f"{hidden} cell types are hidden by the search or the limits." if hidden else HINT)

    def _show_side(self, place: int) -> None:
        for number, panel in enumerate(self._sides):
            panel.setVisible(number == place)

    def focus_field(self, path: str) -> bool:
        """Open the side that holds the field, then focus it."""
        if path == "cells.0.fitted":
            self.views.choose(CURVES)
            self.curves.fit_button.setFocus(Qt.FocusReason.ShortcutFocusReason)
            return True
        if path.startswith("cells.0.bench_results"):
            self.views.choose(BENCH)
            self.bench.table.setFocus(Qt.FocusReason.ShortcutFocusReason)
            return True
        self.views.choose(SHEET)
        return super().focus_field(path)

    # Editing

    def _take(self, identifier: str) -> None:
        self._try(lambda: self.session.edit("design.packs.0.cell_type_id", identifier))

    def _trust(self, current_a: float | None) -> None:
        self._try(lambda: self.session.edit("cells.0.trusted_current_a", current_a, "Current we trust"))

    def add_like_present(self) -> None:
        """A new cell type of the present one's form."""
        self._add(self.session.complete.pack.cell.form_factor)

    def fit(self) -> None:
        """Fit the present cell to its discharges."""
        self.views.choose(CURVES)
        if self.curves.fit_button.isEnabled():
            self.curves.fit()
        else:
            self._say("There is no discharge to fit: import or trace one first.", error=True)

    def _add(self, form: FormFactor) -> None:
        if self._try(lambda: add_cell_type(self.session, form)):
            self.focus_field("cells.0.name")

    def _present_ids(self) -> list[str]:
        """The chosen cell types that are still here: the rows follow a deletion only when the shelf is flown again."""
        return [key for key in self.table.selected_ids() if key in self.session.all(CellType)]

    def _archive_chosen(self) -> None:
        """Take the chosen cell types off the shelf, or put them back where the first is off it."""
        chosen = self._present_ids()
        if chosen:
            put_back = self.session.all(CellType)[chosen[0]].archived
            self._try(partial(archive, self.session, chosen, not put_back))

    def _delete_chosen(self) -> None:
        chosen = self._present_ids()
        if chosen:
            self._try(partial(delete_cell_types, self.session, chosen))

    def _open_menu(self, at: QPoint) -> None:
        """What can be done with the chosen cell types."""
        chosen, viewport = self._present_ids(), self.table.viewport()
        if not chosen or viewport is None:
            return
        menu = QMenu(self.table)
        put_back = self.session.all(CellType)[chosen[0]].archived
        for words, run in (
            ("Take into the recipe", partial(self._take, chosen[0])),
            ("Put back on the shelf" if put_back else "Archive", self._archive_chosen),
            ("Delete", self._delete_chosen),
        ):
            action = menu.addAction(words)
            if action is not None:
                action.triggered.connect(lambda _checked=False, r=run: r())
        menu.popup(viewport.mapToGlobal(at))

    def _try(self, run: Callable[[], object]) -> bool:
        try:
            run()
        except (DocumentError, WorkspaceError) as error:
            self._say(str(error), error=True)
            return False
        self._say("")
        return True

    def _say(self, sentence: str, *, error: bool = False) -> None:
        """A sentence under the shelf; the hint again when there is none."""
        self.hint.setText(sentence or HINT)
        show_role(self.hint, "error" if error else "faint")

    def save_curves(self, path: Path) -> None:
        """Save the picture that is shown as PNG or SVG, or what it shows as CSV."""
        load = self.headline.text().split(": ", 1)[1]
        if self._try(lambda: self.pictures.save(path, self.session.complete.pack.cell.name, load)):
            self._say(f"Saved to {path}.")
