"""The pictures of the Cells station: discharges at this load, the present cell's own, and its model."""

from __future__ import annotations

from pathlib import Path

from PyQt6.QtCore import pyqtSignal
from PyQt6.QtWidgets import QFileDialog, QPushButton, QStackedWidget, QVBoxLayout, QWidget

from wise_cellar.ui.stations.cells.discharge_picture import HEIGHTS, WIDTHS, DischargePicture
from wise_cellar.ui.stations.cells.fit_picture import FitPicture
from wise_cellar.ui.stations.cells.model_picture import ModelPicture
from wise_cellar.ui.widgets.labels import Label
from wise_cellar.ui.widgets.saved_plots import SavedPlots
from wise_cellar.ui.widgets.segments import Segments
from wise_cellar.ui.widgets.turning import TurningBar

LEAST_PICTURE = 150
PICTURES = ("At this load", "Its own discharges", "Its model")
LOAD, OWN, MODEL = range(3)
PICTURE_KINDS = "Picture (*.png);;Scalable picture (*.svg);;Curves as a table (*.csv)"


class _Pictures(QStackedWidget):
    """Takes the room that is left: the keys above the pictures, which wrap, must not ask for more."""

    def hasHeightForWidth(self) -> bool:
        """No."""
        return False


class CellPictures(QWidget):
    """One of three pictures under the choice of it, and of its axes."""

    save_asked = pyqtSignal(object)
    """The path to save what is shown to."""
    shown = pyqtSignal(int)

    def __init__(self) -> None:
        super().__init__()
        column = QVBoxLayout(self)
        column.setContentsMargins(0, 0, 0, 0)
        column.setSpacing(8)
        self.load, self.fit, self.model = DischargePicture(), FitPicture(), ModelPicture()
        self._stack = _Pictures()
        self._drawn: tuple[SavedPlots, ...] = (self.load, self.fit, self.model)
        for picture in self._drawn:
            self._stack.addWidget(self._page(picture.key, picture))
        column.addWidget(self._bar())
        self._stack.setMinimumHeight(LEAST_PICTURE)
        column.addWidget(self._stack, 1)

    @staticmethod
    def _page(key: QWidget, picture: QWidget) -> QWidget:
        page = QWidget()
        column = QVBoxLayout(page)
        column.setContentsMargins(0, 0, 0, 0)
        column.setSpacing(2)
        column.addWidget(key)
        column.addWidget(picture, 1)
        return page

    def _bar(self) -> TurningBar:
        self.which = Segments(PICTURES, "Picture")
        self.heights, self.widths = Segments(HEIGHTS, "Upwards"), Segments(WIDTHS, "Across")
        self._against = Label("against")
        self._against.setProperty("role", "faint")
        self.save_button = QPushButton("Save…")
        self.save_button.setToolTip("Save this picture as PNG or SVG, or what it shows as CSV")
        self.which.chosen.connect(self._show_picture)
        self.heights.chosen.connect(lambda _place: self._show_axes())
        self.widths.chosen.connect(lambda _place: self._show_axes())
        self.save_button.clicked.connect(self._ask)
        return TurningBar([self.which], [self.heights, self._against, self.widths, self.save_button], 16)

    def _show_picture(self, place: int) -> None:
        self._stack.setCurrentIndex(place)
        for widget in (self.heights, self._against, self.widths):
            widget.setVisible(place == LOAD)
        self.shown.emit(place)

    def _show_axes(self) -> None:
        self.load.show_axes(HEIGHTS[self.heights.current], WIDTHS[self.widths.current])

    def _ask(self) -> None:
        name, _ = QFileDialog.getSaveFileName(self, "Save the curves", "discharge.png", PICTURE_KINDS)
        if name:
            self.save_asked.emit(Path(name))

    def save(self, path: Path, cell_name: str, load: str) -> None:
        """Save the picture that is shown as PNG or SVG, or what it shows as CSV.

        Raises :class:`DocumentError` or ``WorkspaceError`` where it cannot be written.
        """
        place = self.which.current
        caption = f"{cell_name}: {PICTURES[place].lower()}"
        if place == LOAD:
            caption = f"{load}, {self.load.height_of} against {self.load.width_of}"
        self._drawn[place].save(path, caption)
