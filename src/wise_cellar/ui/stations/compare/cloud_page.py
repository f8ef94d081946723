"""The first page of Compare: every design in one picture, and under it in one table."""

from __future__ import annotations

import json
from functools import partial
from pathlib import Path

import numpy as np
from PyQt6.QtCore import pyqtSignal
from PyQt6.QtWidgets import QFileDialog, QHBoxLayout, QMenu, QPushButton, QVBoxLayout, QWidget

from wise_cellar.core.documents import DocumentError
from wise_cellar.core.search import (
    FILTER_EXAMPLE,
    Aim,
    DesignColumn,
    Found,
    Growth,
    as_csv,
    columns,
    gains,
    matching,
    pareto,
)
from wise_cellar.core.units import format_number
from wise_cellar.store.reading import write_whole
from wise_cellar.ui.state.session import Session
from wise_cellar.ui.stations.compare.cloud import Cloud, ShownCloud
from wise_cellar.ui.widgets.column_table import ColumnTable
from wise_cellar.ui.widgets.divided import Divided
from wise_cellar.ui.widgets.labels import Label
from wise_cellar.ui.widgets.panel import note
from wise_cellar.ui.widgets.search_line import SearchLine
from wise_cellar.ui.widgets.segments import Segments
from wise_cellar.ui.widgets.tick_box import TickBox
from wise_cellar.ui.widgets.turning import TurningBar

KINDS = ("Cell", "Cells in series")
SHOWN_COLUMNS = "compare_columns"


class CloudPage(QWidget):
    """``chosen`` brings the place of the design that is ringed, ``taken`` of one that shall become the design."""

    chosen = pyqtSignal(int)
    taken = pyqtSignal(int)

    def __init__(self, session: Session) -> None:
        super().__init__()
        self._session = session
        self._found: Found | None = None
        self._growth: Growth | None = None
        self._columns: tuple[DesignColumn, ...] = ()
        column = QVBoxLayout(self)
        column.setContentsMargins(0, 0, 0, 0)
        column.setSpacing(4)
        column.addWidget(self._picture_bar())
        self.picture = Cloud()
        self.picture.setMinimumHeight(130)
        column.addWidget(self.picture.key)
        lower = QWidget()
        under = QVBoxLayout(lower)
        under.setContentsMargins(0, 0, 0, 0)
        under.setSpacing(4)
        under.addLayout(self._table_bar())
        self.under = note(role="error")
        self.under.hide()
        under.addWidget(self.under)
        self.table = ColumnTable("Designs that were flown")
        self.table.setMinimumHeight(76)
        under.addWidget(self.table, 1)
        self.divided = Divided("compare", self.picture, lower)
        self.divided.share(62, 38)
        column.addWidget(self.divided, 1)
        self.picture.pointed.connect(self.point)
        self.picture.chosen.connect(self.choose)
        self.picture.taken.connect(self.taken)
        self.table.chosen.connect(self.choose)
        self.table.taken.connect(self.taken)

    def _picture_bar(self) -> TurningBar:
        self.kinds = Segments(KINDS, "Colour and shape by")
        self.price_aim, self.margin_aim = TickBox("price"), TickBox("margin")
        self.excluded = TickBox("excluded too")
        self.price_aim.setToolTip("The edge counts a lower price too")
        self.margin_aim.setToolTip("The edge counts a greater thrust margin too")
        self.excluded.setToolTip("Show designs that break a limit, with their reasons")
        faint = Label("the edge counts mass, minutes and")
        faint.setProperty("role", "faint")
        self.kinds.chosen.connect(lambda _place: self._draw())
        for box in (self.price_aim, self.margin_aim, self.excluded):
            box.toggled.connect(lambda _on: self._draw())
        return TurningBar([self.kinds, self.excluded], [faint, self.price_aim, self.margin_aim], 12)

    def _table_bar(self) -> QHBoxLayout:
        row = QHBoxLayout()
        row.setSpacing(8)
        self.filter = SearchLine()
        self.filter.setPlaceholderText(f"Filter: {FILTER_EXAMPLE}")
        self.filter.setAccessibleName("Filter the table")
        row.addWidget(self.filter, 1)
        self.columns_button, self.csv_button = QPushButton("Columns…"), QPushButton("CSV…")
        self.columns_button.setToolTip("Which columns are shown")
        self.csv_button.setToolTip("Save the rows shown, with every column")
        self._menu = QMenu(self.columns_button)
        self._menu.aboutToShow.connect(self._fill_menu)
        self.columns_button.setMenu(self._menu)
        row.addWidget(self.columns_button)
        row.addWidget(self.csv_button)
        self.filter.textChanged.connect(lambda _text: self._fill_table())
        self.csv_button.clicked.connect(self.ask_csv)
        return row

    # Showing

    @property
    def current(self) -> int:
        """Place of the design that is ringed; -1 where none is."""
        return self.picture.current

    def show_nothing(self) -> None:
        """Before anything is flown."""
        self._found = None
        self.picture.redraw()

    def show_found(self, found: Found, grown: Growth | None) -> None:
        """Show what was found; ``grown`` is the curve of the present design."""
        known, self._found, self._growth = self._found, found, grown
        if found is known:
            self._draw_cloud()
            return
        self._columns = columns(found.space, found.flown, found.judged)
        self._draw()

    def _draw(self) -> None:
        self._draw_cloud()
        self._fill_table()

    def _draw_cloud(self) -> None:
        found = self._found
        if found is None:
            return
        flown, passes = found.flown, found.judged.passes
        aims = [Aim.MINUTES, Aim.MASS]
        aims += [Aim.PRICE] if self.price_aim.isChecked() else []
        aims += [Aim.MARGIN] if self.margin_aim.isChecked() else []
        place, by_cell = found.space.places(flown.row), self.kinds.current == 0
        names = [c.name for c in found.space.cells] if by_cell else [f"{count}S" for count in found.space.series]
        answered, pinned = self._session.answer, self._session.compared.pinned
        self.picture.show_designs(ShownCloud(
            flown, passes, pareto(gains(flown, aims), passes), len(aims) == 2,
            place.cells if by_cell else place.series, tuple(names), self.excluded.isChecked() or not passes.any(),
            (answered.takeoff_mass_g, answered.duration_s / 60),
            (pinned[1].takeoff_mass_g, pinned[1].duration_s / 60) if pinned is not None else None,
            self._growth,
        ))  # fmt: skip

    def choose(self, place: int) -> None:
        """Ring a design, in the picture and in the table."""
        self.picture.choose(place)
        if self._found is not None:
            self.picture.say(self._words(self._found, place))
        self.table.go_to(place)
        self.chosen.emit(place)

    def keep(self, place: int) -> None:
        """The ringed design has another place now."""
        self.picture.current = place

    def point(self, place: int) -> None:
        """Tell what is under the pointer."""
        found = self._found
        known = found is not None and place >= 0
        self.picture.show_in_corner(self._words(found, place) if found is not None and known else "")

    def _words(self, found: Found, place: int) -> str:
        return f"{found.name(place)}: {found.figures(place)}"

    def tell(self, words: str) -> None:
        """Say what was refused, or nothing."""
        self.under.setText(words)
        self.under.setVisible(bool(words))

    # The table

    def _fill_table(self) -> None:
        found = self._found
        if found is None:
            return
        visible = self.picture.shown.visible if self.picture.shown is not None else found.judged.passes
        try:
            wanted = matching(self._columns, self.filter.text())
            self.tell("" if (visible & wanted).any() else "No design shown is left by this filter.")
        except DocumentError as error:
            wanted = np.ones(len(found.flown), bool)
            self.tell(str(error))
        rows = np.flatnonzero(visible & wanted)
        self.table.show_columns(self.visible_columns(), rows, faint=~found.judged.passes, sort=("duration_s", True))
        if self.current >= 0:
            self.table.go_to(self.current)

    def visible_columns(self) -> list[DesignColumn]:
        """Those that the user wants to see."""
        kept = self._session.workspace.setting(SHOWN_COLUMNS)
        wanted = set(json.loads(kept)) if kept else None
        return [c for c in self._columns if (c.usual if wanted is None else c.key in wanted)]

    def _fill_menu(self) -> None:
        self._menu.clear()
        shown = {column.key for column in self.visible_columns()}
        for column in self._columns:
            action = self._menu.addAction(f"{column.head}: {column.meaning.lower()}")
            if action is not None:
                action.setCheckable(True)
                action.setChecked(column.key in shown)
                action.toggled.connect(partial(self.show_column, column.key))

    def show_column(self, key: str, on: bool) -> None:
        """Show a column or hide it, and remember that."""
        keys = [c.key for c in self.visible_columns() if c.key != key] + ([key] if on else [])
        if keys:
            self._session.workspace.remember(SHOWN_COLUMNS, json.dumps(sorted(keys)))
        self._fill_table()

    def ask_csv(self) -> None:
        """Ask where the table goes."""
        name, _ = QFileDialog.getSaveFileName(self, "Save the table", "compare.csv", "Table (*.csv)")
        if name:
            self.save_csv(Path(name))

    def save_csv(self, path: Path) -> None:
        """Save the rows that are shown, every column of them."""
        try:
            write_whole(path, as_csv(self._columns, self.table.places))
        except DocumentError as error:
            self.tell(str(error))
            return
        self.picture.show_in_corner(f"{format_number(len(self.table.places), 0)} rows are in {path.name}.")
