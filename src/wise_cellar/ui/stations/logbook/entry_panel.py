"""A flight as it is written down: whatever nobody knows stays empty."""

from __future__ import annotations

from datetime import datetime
from functools import partial

from PyQt6.QtCore import Qt, pyqtSignal
from PyQt6.QtWidgets import QGridLayout, QPushButton, QVBoxLayout, QWidget

from wise_cellar.core.documents import BuiltPack, Design, DocumentError, FlightEntry, Mission, field_info
from wise_cellar.core.pack.cautions import AFTER_A_CRASH
from wise_cellar.core.units import QuantityError, entry_text, format_share, parse_typed, unit_of_field
from wise_cellar.core.words import quoted
from wise_cellar.ui.state.logbook_edits import write_flight
from wise_cellar.ui.state.session import Session
from wise_cellar.ui.widgets.attempt import Attempt
from wise_cellar.ui.widgets.chooser import Chooser
from wise_cellar.ui.widgets.entry_line import EntryLine
from wise_cellar.ui.widgets.labels import Label, unit_label
from wise_cellar.ui.widgets.panel import button_row, heading, note, sheet
from wise_cellar.ui.widgets.tick_box import TickBox

TEXTS = (("name", "Name"), ("place", "Place"))
NUMBERS = (
    ("duration_min", "Minutes flown"), ("returned_mah", "The charger put back"), ("used_mah", "Its counter said"),
    ("landing_v", "Volts at landing"), ("resting_v", "Volts an hour after"),
    ("start_charge_percent", "Charge at take-off"),
    ("air_temperature_c", "Air"), ("wind_m_s", "Wind"), ("pack_temperature_c", "Pack at take-off"),
    ("altitude_m", "Height of the place"),
)  # fmt: skip
WHEN = "%Y-%m-%d %H:%M"
NO_PACK, AS_TOLD = "no pack with a name", "as its log, or the design"
ENTRY_PX = 118
WIDE = ("flown_at", "name", "place", "note")
"""Lines of words."""


class EntryPanel(QWidget):
    """``began`` asks for a new line, ``read`` for a log, ``removed`` to forget this one."""

    began = pyqtSignal()
    read = pyqtSignal()
    removed = pyqtSignal()

    def __init__(self, session: Session) -> None:
        super().__init__()
        self._session = session
        self.entry: FlightEntry | None = None
        self._ids: dict[str, list[str]] = {}
        column = QVBoxLayout(self)
        column.setContentsMargins(0, 0, 0, 0)
        panel, inside = sheet(spacing=6)
        column.addWidget(panel)
        self.title = heading("A flight")
        inside.addWidget(self.title)
        self.new, self.log, self.forget = (
            QPushButton("Write one down"),
            QPushButton("Read logs…"),
            QPushButton("Remove"),
        )
        self.log.setToolTip("Tables (CSV), ULog, DataFlash and telemetry logs, GPX tracks; they can be dropped as well")
        self.forget.setProperty("role", "quiet")
        inside.addLayout(button_row((self.new, self.began.emit), (self.log, self.read.emit)))
        self.reading, self.stop = note(), QPushButton("Stop")
        self.stop.setToolTip("Nothing of it is kept")
        inside.addWidget(self.reading)
        inside.addLayout(button_row((self.stop, lambda: None)))
        self.show_reading(None)
        self.attempt = Attempt()
        inside.addWidget(self.attempt)
        self._form = QWidget()
        grid = QGridLayout(self._form)
        grid.setContentsMargins(0, 0, 0, 0)
        grid.setVerticalSpacing(4)
        self.lines: dict[str, EntryLine] = {}
        self.choosers: dict[str, Chooser] = {}
        self._line(grid, "flown_at", "Flown at")
        for name, title in TEXTS:
            self._line(grid, name, title)
        for name, title in (("design_id", "Design"), ("pack_id", "Built pack"), ("mission_id", "Flown as")):
            self._chooser(grid, name, title)
        for name, title in NUMBERS:
            self._line(grid, name, title)
        self._line(grid, "note", "Note")
        self.teaches = TickBox("Counts in what is learned")
        self.teaches.clicked.connect(lambda on: self._write("teaches", on))
        grid.addWidget(self.teaches, grid.rowCount(), 0, 1, 3)
        inside.addWidget(self._form)
        inside.addLayout(button_row((self.forget, self.removed.emit)))
        inside.addWidget(note(AFTER_A_CRASH, "caution"))

    def _line(self, grid: QGridLayout, name: str, title: str) -> None:
        line = EntryLine()
        line.setAccessibleName(title)
        line.setPlaceholderText("not noted")
        line.submitted.connect(partial(self._take, name))
        if name not in WIDE:
            line.setMaximumWidth(ENTRY_PX)
            line.setAlignment(Qt.AlignmentFlag.AlignRight)
            unit = unit_label(unit_of_field(name))
            line.setAccessibleDescription(unit.text())
            grid.addWidget(unit, grid.rowCount(), 2)
        self._add(grid, title, line, 2 if name in WIDE else 1)
        self.lines[name] = line

    def _chooser(self, grid: QGridLayout, name: str, title: str) -> None:
        chooser = Chooser()
        chooser.setAccessibleName(title)
        chooser.setMinimumContentsLength(14)
        chooser.setSizeAdjustPolicy(Chooser.SizeAdjustPolicy.AdjustToMinimumContentsLengthWithIcon)
        chooser.activated.connect(lambda place: self._write(name, self._ids[name][place]))
        self._add(grid, title, chooser)
        self.choosers[name] = chooser

    @staticmethod
    def _add(grid: QGridLayout, title: str, widget: QWidget, columns: int = 2) -> None:
        row = grid.rowCount() - (columns == 1)
        grid.addWidget(Label(title), row, 0)
        grid.addWidget(widget, row, 1, 1, columns)

    def show_reading(self, share: float | None) -> None:
        """How far the reading of large logs is; none: nothing is read."""
        self.reading.setVisible(share is not None)
        self.stop.setVisible(share is not None)
        self.log.setEnabled(share is None)
        if share is not None:
            self.reading.setText(f"Reading: {format_share(share)}.")

    def show_entry(self, entry: FlightEntry | None) -> None:
        """Show a flight; what was typed of another is forgotten."""
        other = self.entry is None or entry is None or self.entry.id != entry.id
        self.entry = entry
        for widget in (self._form, self.forget):
            widget.setVisible(entry is not None)
        self.title.setText("A flight" if entry is None else "This flight")
        if entry is None:
            return
        if other:
            self.attempt.hide()
        for name, line in self.lines.items():
            text = self._text(entry, name)
            if other:
                line.accept_shown(text)
            line.show_text(text)
            line.setToolTip(field_info(FlightEntry, name).description)
        self._choose(entry)
        self.teaches.setChecked(entry.teaches)

    @staticmethod
    def _text(entry: FlightEntry, name: str) -> str:
        value = getattr(entry, name)
        if isinstance(value, datetime):
            return f"{value:{WHEN}}"
        if value is None or isinstance(value, str):
            return value or ""
        return entry_text(value, unit_of_field(name))

    def _choose(self, entry: FlightEntry) -> None:
        session = self._session
        packs = [one for one in session.all(BuiltPack).values() if one.finished]
        lists: dict[str, list[tuple[str, str]]] = {
            "design_id": [(one.id, one.name) for one in session.all(Design).values()],
            "pack_id": [("", NO_PACK), *((one.id, one.name) for one in packs)],
            "mission_id": [("", AS_TOLD), *((one.id, one.name) for one in session.all(Mission).values())],
        }
        for name, listed in lists.items():
            chooser, value = self.choosers[name], getattr(entry, name)
            if value not in [identifier for identifier, _ in listed]:
                listed.append((value, f"{quoted(value)}, which is gone"))
            words = [text for _, text in listed]
            if [chooser.itemText(place) for place in range(chooser.count())] != words:
                chooser.clear()
                chooser.addItems(words)
            self._ids[name] = [identifier for identifier, _ in listed]
            chooser.setCurrentIndex(self._ids[name].index(value))

    def _take(self, name: str, text: str) -> None:
        try:
            value = self._read(name, text.strip())
        except (QuantityError, DocumentError) as error:
            self.attempt.say(str(error))
            return
        if self._write(name, value) and self.entry is not None:
            self.lines[name].accept_shown(self._text(self.entry, name))

    def _read(self, name: str, text: str) -> object:
        if name == "flown_at":
            for form in (WHEN, "%Y-%m-%d"):
                try:
                    return datetime.strptime(text, form)
                except ValueError:
                    continue
            raise DocumentError(f"{quoted(text)} is no day; write one such as 2026-03-14 09:30.")
        if name in WIDE:
            return text
        if not text:
            return 100.0 if name == "start_charge_percent" else None
        return parse_typed(text, unit_of_field(name))

    def _write(self, name: str, value: object) -> bool:
        entry = self.entry
        if entry is None:
            return False
        title = field_info(FlightEntry, name).title
        return self.attempt.make(lambda: write_flight(self._session, entry.changed(**{name: value}), title))
