"""The flights of the Logbook on paper and in files."""

from __future__ import annotations

from collections.abc import Callable, Sequence
from pathlib import Path

from PyQt6.QtCore import pyqtSignal
from PyQt6.QtWidgets import QFileDialog, QPushButton, QVBoxLayout, QWidget

from wise_cellar.core.logbook.season import SeasonRow, season_to_csv, season_to_json
from wise_cellar.core.units import counted
from wise_cellar.store.reading import write_whole
from wise_cellar.ui.state.flight_facts import Shown
from wise_cellar.ui.stations.logbook.run_picture import RunPicture
from wise_cellar.ui.widgets.attempt import Attempt
from wise_cellar.ui.widgets.panel import button_row


class FlightsOut(QWidget):
    """Buttons that write the flights in view as a table or as JSON, and the chosen one as PDF; why one was not."""

    said = pyqtSignal(str)
    """What stands where now."""

    def __init__(
        self, rows: Callable[[], Sequence[SeasonRow]], shown: Callable[[], Shown | None], traces: RunPicture
    ) -> None:
        super().__init__()
        self._rows, self._shown, self._traces = rows, shown, traces
        self.refused = Attempt()
        column = QVBoxLayout(self)
        column.setContentsMargins(0, 0, 0, 0)
        column.setSpacing(6)
        as_csv, as_json = QPushButton("Flights as CSV…"), QPushButton("As JSON…")
        column.addLayout(button_row((as_csv, self._ask_csv), (as_json, self._ask_json)))
        column.addLayout(button_row((QPushButton("This flight as PDF…"), self._ask_pdf)))
        column.addWidget(self.refused)

    def _ask_csv(self) -> None:
        name, _ = QFileDialog.getSaveFileName(self, "Flights as a table", "flights.csv", "Tables (*.csv)")
        if name:
            self.put_out(Path(name), season_to_csv(self._rows()))

    def _ask_json(self) -> None:
        name, _ = QFileDialog.getSaveFileName(self, "Flights as JSON", "flights.json", "JSON (*.json)")
        if name:
            self.put_out(Path(name), season_to_json(self._rows()))

    def put_out(self, path: Path, text: str) -> None:
        """Write a file, and say so."""
        if self.refused.make(lambda: write_whole(path, text)):
            self.said.emit(f"{path.name} holds {counted(len(self._rows()), 'flight')} now.")

    def _ask_pdf(self) -> None:
        shown = self._shown()
        if shown is None:
            self.refused.say("This flight is not judged yet: wait until it is read.")
            return
        proposed = f"{shown.flown.entry.id}.pdf"
        name, _ = QFileDialog.getSaveFileName(self, "The flight on paper", proposed, "PDF (*.pdf)")
        if name:
            self.put_on_paper(Path(name), shown)

    def put_on_paper(self, path: Path, shown: Shown) -> None:
        """Write a flight as a page of PDF."""
        from wise_cellar.ui.stations.logbook.flight_sheet import write_flight_sheet

        if self.refused.make(lambda: write_flight_sheet(path, shown, self._traces)):
            self.said.emit(f"{shown.flown.entry.name} stands in {path.name}.")
