"""The Cells station."""

from __future__ import annotations

from collections.abc import Callable

from PyQt6.QtCore import Qt
from PyQt6.QtWidgets import QPushButton, QWidget

from wise_cellar.core.documents import CellType, DocumentError
from wise_cellar.core.shelf import claims, discharge_at_load, shelf_at_load
from wise_cellar.store import WorkspaceError
from wise_cellar.ui.session import Session
from wise_cellar.ui.stations.base import Station
from wise_cellar.ui.stations.cells.discharge_picture import MOST_SHOWN, DischargePicture
from wise_cellar.ui.stations.cells.shelf_table import ShelfTable
from wise_cellar.ui.widgets.fields import FieldGrid, field_for
from wise_cellar.ui.widgets.panel import heading, note, sheet

SIDE = 348
SHEET_FIELDS = (
    "name", "form_factor", "diameter_mm", "length_mm", "mass_g", "capacity_mah", "dcir_mohm", "continuous_current_a",
    "pulse_current_a", "min_voltage_v", "max_voltage_v", "max_temperature_c", "ocv_family", "kinetic_class", "price",
)  # fmt: skip


class CellsStation(Station):
    """Discharge curves above, the shelf under them; beside them the sheet of the present cell."""

    title = "Cells"
    prefixes = ("cell_type", "design.cell_type_id")

    def __init__(self, session: Session) -> None:
        super().__init__(session)
        column, self._headline, side = self.lay_out(SIDE)
        self.picture = DischargePicture()
        column.addWidget(self.picture.key)
        column.addWidget(self.picture, 5)
        self.table = ShelfTable()
        column.addWidget(self.table, 5)
        self._hint = note(
            "Choose up to four rows to see their curves at this flight's mean power."
            " Enter or a double click takes a cell into the recipe."
        )
        column.addWidget(self._hint)
        panel, inside = sheet()
        inside.addWidget(heading("Claims and doubts"))
        self._claims = note(role="")
        inside.addWidget(self._claims)
        side.addWidget(panel)
        side.addWidget(self._sheet())
        side.addStretch(1)
        self._claimed: CellType | None = None
        self.table.taken.connect(self._take)
        self.table.selection_changed.connect(self._show_curves)

    def _sheet(self) -> QWidget:
        panel, column = sheet()
        self._sheet_title = heading("")
        column.addWidget(self._sheet_title)
        self._source = note()
        column.addWidget(self._source)
        self._grid = FieldGrid([field_for(self.session, f"cell_type.{name}") for name in SHEET_FIELDS])
        column.addWidget(self._grid)
        copy = QPushButton("Go on with a copy of this cell")
        copy.setProperty("role", "quiet")
        copy.clicked.connect(self._copy)
        column.addWidget(copy, 0, Qt.AlignmentFlag.AlignLeft)
        self._error = note(role="error")
        self._error.hide()
        column.addWidget(self._error)
        column.addWidget(
            note("A label is a claim: measure capacity and resistance of a few cells before you build.", "caution")
        )
        return panel

    def refresh(self) -> None:
        """Fly every cell type of the shelf in the present design, and show the present one's sheet."""
        session = self.session
        complete, answer = session.complete, session.answer
        cells = list(session.all(CellType).values())
        recipe = complete.design.recipe
        self._headline.setText(
            f"{len(cells)} cells at {complete.craft.name}'s load, {recipe.series_count}S × {recipe.parallel_count}P"
        )
        self.table.show_rows(shelf_at_load(complete, cells, answer.factor), complete.cell_type.id)
        self._sheet_title.setText(complete.cell_type.name)
        self._source.setText(self._source_words())
        self._grid.refresh()
        if self._claimed != complete.cell_type:
            self._claimed = complete.cell_type
            doubts = claims(complete)
            self._claims.setText("\n".join(doubts) or "Nothing on its sheet is beyond what such cells do.")
        self._show_curves()

    def _source_words(self) -> str:
        cell = self.session.complete.cell_type
        if cell.fitted is None:
            return "Flown by its sheet: the chemistry family's voltage, the resistance below, lag by class (estimates)."
        fit = cell.fitted
        return (
            f"Flown by a fit to its own curves: {fit.residual_mv:.1f} mV, up to {fit.highest_current_a:g} A,"
            f" {fit.coldest_c:.0f} to {fit.warmest_c:.0f}\u00a0°C, {fit.capacity_mah:.0f} mAh. Capacity and resistance"
            " below stand for the label."
        )

    def _show_curves(self) -> None:
        session = self.session
        shelf = session.all(CellType)
        wanted = (self.table.selected_ids() or [session.complete.cell_type.id])[:MOST_SHOWN]
        power = session.answer.mean_power_w
        self.picture.show_curves(
            discharge_at_load(session.complete, [shelf[key] for key in wanted], session.answer.factor, power)
        )

    def _take(self, identifier: str) -> None:
        self._try(lambda: self.session.edit("design.cell_type_id", identifier))

    def _copy(self) -> None:
        self._try(self.session.duplicate_cell_type)

    def _try(self, run: Callable[[], object]) -> None:
        try:
            run()
        except (DocumentError, WorkspaceError) as error:
            self._error.setText(str(error))
            self._error.show()
            return
        self._error.hide()
