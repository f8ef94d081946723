"""The present cell's discharges, the fit of its model to them, and what the fit rests on."""

from __future__ import annotations

from collections.abc import Callable, Sequence
from functools import partial
from typing import TYPE_CHECKING

from PyQt6.QtCore import Qt, pyqtSignal
from PyQt6.QtWidgets import QGridLayout, QHBoxLayout, QPushButton, QVBoxLayout, QWidget

from wise_cellar.core.curves import DischargeCurve
from wise_cellar.core.documents import CellType, DocumentError, FittedModel
from wise_cellar.core.units import bare_number, format_celsius, format_mah, format_number, format_significant
from wise_cellar.store import WorkspaceError
from wise_cellar.ui.state.cell_edits import CurveEntry, curves_of, load_curve, remove_curve, rename_curve, set_in_fit
from wise_cellar.ui.state.session import Session
from wise_cellar.ui.state.work import Worker
from wise_cellar.ui.stations.cells.fit_picture import load_words
from wise_cellar.ui.stations.cells.measured_panel import TEST_CAUTION
from wise_cellar.ui.stations.cells.model_picture import parameter_words
from wise_cellar.ui.theme import font
from wise_cellar.ui.widgets.entry_line import EntryLine
from wise_cellar.ui.widgets.panel import empty, heading, note, sheet
from wise_cellar.ui.widgets.tick_box import TickBox

if TYPE_CHECKING:
    from wise_cellar.core.fit import CellFit


def run_fit(curves: Sequence[DischargeCurve], cell: CellType) -> CellFit:
    """The fit, run beside the window; brings scipy in only now."""
    from wise_cellar.core.fit import fit_cell

    return fit_cell(curves, cell)


FIT_GONE = "Removed the fitted model: the sheet flies."


class CurvesPanel(QWidget):
    """Discharges with a tick for those in the fit; import, trace, fit."""

    import_asked = pyqtSignal()
    live_asked = pyqtSignal()
    trace_asked = pyqtSignal(object)

    def __init__(self, session: Session, attempt: Callable[[Callable[[], object]], bool]) -> None:
        super().__init__()
        self._session, self._attempt = session, attempt
        self.entries: list[CurveEntry] = []
        self.curves: list[tuple[DischargeCurve, bool]] = []
        self._worker = Worker(self)
        self._worker.finished.connect(self._take_fit)
        self._worker.failed.connect(self._fit_failed)
        self._fitting: CellType | None = None
        self._shown: tuple[CellType, list[CurveEntry]] | None = None
        column = QVBoxLayout(self)
        column.setContentsMargins(0, 0, 0, 0)
        column.setSpacing(12)
        column.addWidget(self._discharges_sheet())
        column.addWidget(self._model_sheet())

    def _discharges_sheet(self) -> QWidget:
        panel, inside = sheet(spacing=6)
        self._title = heading("")
        inside.addWidget(self._title)
        self._empty = note(
            "No discharges yet. Import logs of a charger or analyser, or trace a printed chart. Slow and fast ones, a"
            " pulse test and a cold one each tell more."
        )
        inside.addWidget(self._empty)
        self._list = QVBoxLayout()
        self._list.setSpacing(4)
        inside.addLayout(self._list)
        buttons = QHBoxLayout()
        self.import_button = QPushButton("Import discharges…")
        self.import_button.clicked.connect(self.import_asked)
        self.trace_button = QPushButton("Trace a chart…")
        self.trace_button.clicked.connect(lambda: self.trace_asked.emit(None))
        buttons.addWidget(self.import_button)
        buttons.addWidget(self.trace_button)
        buttons.addStretch(1)
        inside.addLayout(buttons)
        self.live_button = QPushButton("Record one live…")
        self.live_button.setToolTip("A load draws, and what it tells is recorded to the cut-off")
        self.live_button.clicked.connect(self.live_asked)
        inside.addWidget(self.live_button, 0, Qt.AlignmentFlag.AlignLeft)
        inside.addWidget(note(TEST_CAUTION, "caution"))
        return panel

    def _model_sheet(self) -> QWidget:
        panel, inside = sheet(spacing=6)
        inside.addWidget(heading("Fitted model"))
        self.words = note(role="")
        self.words.setFont(font(13))
        inside.addWidget(self.words)
        self.figures = QGridLayout()
        self.figures.setHorizontalSpacing(12)
        self.figures.setVerticalSpacing(2)
        inside.addLayout(self.figures)
        self._remarks = note()
        inside.addWidget(self._remarks)
        row = QHBoxLayout()
        self.fit_button = QPushButton("Fit the model")
        self.fit_button.clicked.connect(self.fit)
        self.forget_button = QPushButton("Fly the sheet instead")
        self.forget_button.setProperty("role", "quiet")
        self.forget_button.clicked.connect(
            lambda: self._attempt(lambda: self._session.edit("cells.0.fitted", None, "Remove the fit", FIT_GONE))
        )
        row.addWidget(self.fit_button)
        row.addWidget(self.forget_button)
        row.addStretch(1)
        inside.addLayout(row)
        self.error = note(role="error")
        self.error.hide()
        inside.addWidget(self.error)
        return panel

    def close_work(self) -> None:
        """Stop a fit that is running."""
        self._worker.close()

    @property
    def busy(self) -> bool:
        """Whether a fit is running."""
        return self._worker.busy

    def refresh(self) -> bool:
        """Show the present cell's discharges and fit; ``False`` when they are shown already."""
        cell = self._session.complete.pack.cell
        entries = curves_of(self._session, cell.id)
        if self._shown == (cell, entries):
            return False
        self._shown = (cell, entries)
        self._title.setText(f"Discharges of {cell.name}")
        self.entries = entries
        self.curves, faults = [], []
        empty(self._list)
        for entry in self.entries:
            try:
                curve: DischargeCurve | None = load_curve(self._session, entry)
            except (DocumentError, WorkspaceError) as error:
                curve = None
                faults.append(str(error))
            if curve is not None:
                self.curves.append((curve, entry.in_fit))
            self._list.addWidget(self._entry(entry, curve))
        self._empty.setVisible(not self.entries)
        self.fit_button.setEnabled(any(in_fit for _, in_fit in self.curves))
        self.fit_button.setText("Fit again" if cell.fitted is not None else "Fit the model")
        self.forget_button.setVisible(cell.fitted is not None)
        self.words.setText(fit_words(cell.fitted))
        self._remarks.setText("\n".join(cell.fitted.remarks) if cell.fitted is not None else "")
        self._remarks.setVisible(cell.fitted is not None)
        self._show_figures(cell.fitted)
        if self._fitting is None:
            self._say(" ".join(faults))
        return True

    def _show_figures(self, model: FittedModel | None) -> None:
        empty(self.figures)
        for place, (words, value) in enumerate(parameter_words(model) if model is not None else ()):
            self.figures.addWidget(note(words), place, 0)
            figure = note(value, role="")
            figure.setAlignment(Qt.AlignmentFlag.AlignRight)
            self.figures.addWidget(figure, place, 1)

    def fit(self) -> None:
        """Fit the model to the ticked discharges, beside the window."""
        self._fitting = self._session.complete.pack.cell
        self.fit_button.setText("Fitting…")
        self.fit_button.setEnabled(False)
        self._say("")
        self._worker.run(partial(run_fit, [curve for curve, in_fit in self.curves if in_fit], self._fitting))

    def _take_fit(self, found: CellFit) -> None:
        asked, self._fitting, self._shown = self._fitting, None, None
        if asked is not None and asked.id == self._session.complete.pack.cell.id:
            self._attempt(lambda: self._session.edit("cells.0.fitted", found.model, "Fit the model"))
        self.refresh()

    def _fit_failed(self, error: Exception) -> None:
        self._fitting = self._shown = None
        self.refresh()
        sentence = str(error) if isinstance(error, DocumentError) else "These discharges cannot be fitted together."
        self._say(sentence)

    def _say(self, sentence: str) -> None:
        self.error.setText(sentence)
        self.error.setVisible(bool(sentence))

    def _entry(self, entry: CurveEntry, curve: DischargeCurve | None) -> QWidget:
        widget = QWidget()
        grid = QGridLayout(widget)
        grid.setContentsMargins(0, 0, 0, 0)
        grid.setHorizontalSpacing(6)
        grid.setVerticalSpacing(0)
        grid.setColumnStretch(1, 1)
        tick = TickBox()
        tick.setChecked(entry.in_fit)
        tick.setToolTip("Used in the fit; without the tick it is held out, and only compared")
        tick.setAccessibleName(f"Use {entry.name} in the fit")
        tick.clicked.connect(lambda on: self._attempt(lambda: set_in_fit(self._session, entry, on)))
        grid.addWidget(tick, 0, 0)
        words = load_words(curve) if curve is not None else "not complete"
        text = EntryLine()
        text.setProperty("role", "name")
        text.show_text(entry.name)
        text.setAccessibleName(f"Name of {entry.name}")
        text.submitted.connect(lambda name: self._attempt(lambda: rename_curve(self._session, entry, name)))
        grid.addWidget(text, 0, 1)
        grid.addWidget(note(words if entry.traced is None else f"{words}, traced"), 1, 1)
        if entry.traced is not None:
            edit = QPushButton("Edit")
            edit.setProperty("role", "quiet")
            edit.setAccessibleName(f"Edit the chart of {entry.name}")
            edit.clicked.connect(lambda: self.trace_asked.emit(entry.source))
            grid.addWidget(edit, 0, 2)
        remove = QPushButton("×")
        remove.setProperty("role", "quiet")
        remove.setFixedWidth(24)
        remove.setAccessibleName(f"Remove {entry.name}")
        remove.clicked.connect(lambda: self._attempt(lambda: remove_curve(self._session, entry)))
        grid.addWidget(remove, 0, 3)
        return widget


def fit_words(model: FittedModel | None) -> str:
    """What a fit is and rests on."""
    if model is None:
        return "Flights use the sheet. A fit to this cell's own discharges takes its place, and can be undone."
    capacity = "capacity of the sheet" if model.capacity_given else "capacity as drawn"
    burst = ""
    if model.burst_a is not None and model.burst_a > model.highest_current_a:
        burst = f", {format_significant(model.burst_a, 3)} A in bursts,"
    resistance = "the sheet's resistance" if model.resistance_given else "resistance by steps of the current"
    return (
        f"Meets its discharges to {format_number(model.residual_mv, 1)} mV. Rests on up to"
        f" {format_significant(model.highest_current_a, 3)} A{burst} and {bare_number(model.coldest_c, '°C')} to"
        f" {format_celsius(model.warmest_c)}; {format_mah(model.capacity_mah)}, {capacity}; {resistance}. Beyond"
        " that the answer says so, and its doubts grow with the distance."
    )
