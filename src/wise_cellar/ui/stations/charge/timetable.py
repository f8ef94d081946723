"""The day drawn as lanes, one a set, and its table; printed and saved as CSV."""

from __future__ import annotations

import html
from collections.abc import Iterable
from pathlib import Path

from PyQt6.QtCore import QAbstractTableModel, QEvent, QModelIndex, QObject, QRectF, QSize, Qt, pyqtSignal
from PyQt6.QtGui import QColor, QMouseEvent, QPainter, QPainterPath, QPaintEvent, QPen, QTextDocument
from PyQt6.QtPrintSupport import QPrintDialog, QPrinter
from PyQt6.QtWidgets import QFileDialog, QHBoxLayout, QPushButton, QSizePolicy, QVBoxLayout, QWidget

from wise_cellar.core.answer import Finding, Severity
from wise_cellar.core.charge import Doing, Entry, Timetable, clock, timetable_csv
from wise_cellar.core.documents import DocumentError
from wise_cellar.store.reading import write_whole
from wise_cellar.ui.theme import Colours, colours_of, font
from wise_cellar.ui.widgets.hatching import hatch
from wise_cellar.ui.widgets.labels import formatted
from wise_cellar.ui.widgets.lines import Line, Lines
from wise_cellar.ui.widgets.panel import note, paragraph
from wise_cellar.ui.widgets.picture import Picture
from wise_cellar.ui.widgets.plain_table import PlainTable
from wise_cellar.ui.widgets.plots import Key, key_text

LEAST_TABLE_PX = 150
NAME, TOP, LANE, BAR = 148.0, 22.0, 34.0, 9.0
LEFT = Qt.AlignmentFlag.AlignLeft | Qt.AlignmentFlag.AlignVCenter
CENTRE = Qt.AlignmentFlag.AlignHCenter | Qt.AlignmentFlag.AlignTop
HEADS = ("From", "To", "Set", "Pack", "What", "Charger")
SHARES = (0.1, 0.1, 0.26, 0.2, 0.24, 0.1)


MARKS = (
    (Doing.FLY, "▮"), (Doing.COOL, "▨"), (Doing.WARM, "▨"), (Doing.CHARGE, "▬"), (Doing.WAIT, "▭"),
)  # fmt: skip
"""How a bar looks beside its words in the key."""


def colour_of(doing: Doing, colours: Colours) -> QColor:
    """The colour of a bar; what it does is also told by its height and its hatching."""
    role = {
        Doing.FLY: colours.series[0], Doing.CHARGE: colours.series[1], Doing.COOL: colours.series[3],
        Doing.WARM: colours.series[2],
    }  # fmt: skip
    return QColor(role.get(doing, colours.rule))


class DayPicture(Picture):
    """Lanes over the hours: flights high, charging low with one bar a pack, cooling hatched. A click tells more."""

    pointed = pyqtSignal(object)

    def __init__(self) -> None:
        super().__init__("The day, one lane a set")
        self.setSizePolicy(QSizePolicy.Policy.Expanding, QSizePolicy.Policy.Fixed)
        self.key = formatted(note())
        self.table: Timetable | None = None

    def sizeHint(self) -> QSize:
        """A lane for each set."""
        lanes = len(self.table.sets) if self.table is not None else 1
        return QSize(560, int(TOP + LANE * max(lanes, 1) + 6))

    def show_day(self, table: Timetable) -> None:
        """Draw a day."""
        self.table = table
        busy = (entry for entry in table.entries if entry.doing is not Doing.READY)
        self.tell(" ".join(table.sentences()), [", ".join(part for part in cells(entry) if part) for entry in busy])
        self.setFixedHeight(self.sizeHint().height())
        self._show_key()
        self.update()

    def changeEvent(self, event: QEvent | None) -> None:
        """The key in the other colour set."""
        super().changeEvent(event)
        if event is not None and event.type() == QEvent.Type.PaletteChange and self.table is not None:
            self._show_key()

    def _show_key(self) -> None:
        """What the bars stand for, in the colours of now."""
        colours = colours_of(self)
        warms = self.table is not None and any(entry.doing is Doing.WARM for entry in self.table.entries)
        self.key.setText(
            key_text(
                [Key(str(doing), colour_of(doing, colours).name(), mark=mark)
                 for doing, mark in MARKS if doing is not Doing.WARM or warms],
                colours,
            )
        )  # fmt: skip

    def _x(self, second: float) -> float:
        assert self.table is not None
        return NAME + (self.width() - NAME - 12) * min(second / self.table.day_s, 1.0)

    def _lanes(self) -> list[tuple[str, float]]:
        assert self.table is not None
        return [(name, TOP + place * LANE) for place, name in enumerate(self.table.sets)]

    def bars(self) -> list[tuple[QRectF, Entry]]:
        """Every bar with what it stands for."""
        table, found = self.table, []
        if table is None:
            return []
        for name, top in self._lanes():
            mine = [entry for entry in table.entries if entry.set_name == name and entry.start_s < table.day_s]
            packs = list(dict.fromkeys(entry.pack for entry in mine if entry.pack))
            for entry in mine:
                if entry.doing is Doing.READY:
                    continue
                left, right = self._x(entry.start_s), self._x(entry.end_s)
                if entry.doing is Doing.FLY:
                    box = QRectF(left, top + 4, right - left, LANE - 10)
                else:
                    lane = packs.index(entry.pack)
                    high = min(BAR, (LANE - 10) / max(len(packs), 1) - 1)
                    box = QRectF(left, top + 5 + lane * (high + 2), right - left, high)
                found.append((box, entry))
        return found

    def paintEvent(self, _event: QPaintEvent | None) -> None:
        """Hours, lanes and bars."""
        if self.table is None:
            return
        colours = colours_of(self)
        painter = QPainter(self)
        painter.setRenderHint(QPainter.RenderHint.Antialiasing)
        painter.setFont(font(11.5))
        hours = self.table.day_s / 3600
        step = next(step for step in (0.25, 0.5, 1, 2, 3, 4) if hours / step <= 12)
        for number in range(int(hours / step) + 1):
            x = self._x(number * step * 3600)
            painter.setPen(colours.colour("rule"))
            painter.drawLine(int(x), int(TOP) - 4, int(x), self.height())
            painter.setPen(colours.colour("faint"))
            painter.drawText(QRectF(x - 30, 0, 60, TOP), CENTRE, clock(number * step * 3600))
        painter.setPen(colours.colour("ink"))
        for name, top in self._lanes():
            words = painter.fontMetrics().elidedText(name, Qt.TextElideMode.ElideRight, int(NAME - 10))
            painter.drawText(QRectF(0, top, NAME - 8, LANE - 4), LEFT, words)
        for box, entry in self.bars():
            colour, path = colour_of(entry.doing, colours), QPainterPath()
            path.addRoundedRect(box, 2, 2)
            if entry.doing in (Doing.COOL, Doing.WARM):
                hatch(painter, path, colour)
            elif entry.doing is Doing.WAIT:
                painter.strokePath(path, QPen(colour, 1.0))
            else:
                painter.fillPath(path, colour)

    def mousePressEvent(self, event: QMouseEvent | None) -> None:
        """Tell what was clicked."""
        if event is not None:
            for box, entry in self.bars():
                if box.adjusted(-1, -2, 1, 2).contains(event.position()):
                    self.pointed.emit(entry)


class _Model(QAbstractTableModel):
    """The entries of a day."""

    def __init__(self, parent: QObject) -> None:
        super().__init__(parent)
        self.entries: tuple[Entry, ...] = ()

    def show_entries(self, entries: tuple[Entry, ...]) -> None:
        """Show others."""
        self.beginResetModel()
        self.entries = entries
        self.endResetModel()

    def rowCount(self, parent: QModelIndex | None = None) -> int:
        """One an entry."""
        return 0 if parent is not None and parent.isValid() else len(self.entries)

    def columnCount(self, parent: QModelIndex | None = None) -> int:
        """As many as there are headings."""
        return 0 if parent is not None and parent.isValid() else len(HEADS)

    def headerData(self, section: int, orientation: Qt.Orientation, role: int = 0) -> object:
        """The headings."""
        across = orientation is Qt.Orientation.Horizontal and role == Qt.ItemDataRole.DisplayRole
        if role == Qt.ItemDataRole.TextAlignmentRole:
            return int(LEFT)
        return HEADS[section] if across else None

    def data(self, index: QModelIndex, role: int = 0) -> object:
        """The cells."""
        if role == Qt.ItemDataRole.DisplayRole:
            return cells(self.entries[index.row()])[index.column()]
        return None


def cells(entry: Entry) -> tuple[str, ...]:
    """One line of the table."""
    charger = str(entry.charger) if entry.charger else ""
    return clock(entry.start_s), clock(entry.end_s), entry.set_name, entry.pack, str(entry.doing), charger


class DayTable(PlainTable):
    """Every flight, cooling and charge, in order."""

    def __init__(self) -> None:
        super().__init__("Timetable", 22)
        self.setMinimumHeight(LEAST_TABLE_PX)
        self._model = _Model(self)
        self.setModel(self._model)

    def show_day(self, table: Timetable) -> None:
        """Show a day; what a set does while it is merely ready is left out."""
        self._model.show_entries(tuple(entry for entry in table.entries if entry.doing is not Doing.READY))
        self.make_room()

    def go_to(self, entry: Entry) -> None:
        """Go to an entry."""
        if entry in self._model.entries:
            self.selectRow(self._model.entries.index(entry))

    def take_current(self) -> None:
        """There is nothing to take here."""

    def as_text(self) -> str:
        """The table as tab-separated lines."""
        return "\n".join("\t".join(line) for line in (HEADS, *(cells(entry) for entry in self._model.entries)))

    def make_room(self) -> None:
        """Share the width out."""
        viewport = self.viewport()
        width = viewport.width() if viewport is not None else self.width()
        for column, share in enumerate(SHARES):
            self.setColumnWidth(column, int(share * width))


def caution_lines(cautions: Iterable[Finding]) -> list[Line]:
    """What to be careful about, a small line each."""
    return [
        Line(caution.sentence, "error" if caution.severity is Severity.OVER else "caution", 11.5)
        for caution in cautions
    ]


class DayPage(QWidget):
    """The day: in words, drawn, and as a table, with what prints and saves it."""

    def __init__(self) -> None:
        super().__init__()
        self.table: Timetable | None = None
        self._title = ""
        column = QVBoxLayout(self)
        column.setContentsMargins(0, 4, 10, 0)
        column.setSpacing(6)
        self.words = paragraph()
        column.addWidget(self.words)
        self.cautions = Lines(paragraph)
        self.cautions.setSpacing(3)
        column.addLayout(self.cautions)  # above what scrolls away
        self.picture, self.list = DayPicture(), DayTable()
        column.addWidget(self.picture.key)
        column.addWidget(self.picture)
        column.addWidget(self.list, 1)
        self.picture.pointed.connect(self.list.go_to)
        row = QHBoxLayout()
        self.print_button, self.save_button = QPushButton("Print…"), QPushButton("Save as CSV…")
        self.print_button.clicked.connect(self._ask_printer)
        self.save_button.clicked.connect(self._ask_where)
        row.addWidget(self.print_button)
        row.addWidget(self.save_button)
        row.addStretch(1)
        column.addLayout(row)
        self.error = note(role="error")
        self.error.hide()
        column.addWidget(self.error)

    def show_day(self, title: str, table: Timetable) -> None:
        """Show a day."""
        self.table, self._title = table, title
        self.words.setText(" ".join(table.sentences()))
        self.picture.show_day(table)
        self.list.show_day(table)
        self.cautions.show_lines(caution_lines(table.cautions))
        self.error.hide()

    def show_error(self, sentence: str) -> None:
        """Say why there is no day to show."""
        self.error.setText(sentence)
        self.error.show()

    def as_html(self) -> str:
        """The sheet that is printed."""
        if self.table is None:
            return ""
        heads = "".join(f"<th align='left'>{head}&nbsp;&nbsp;</th>" for head in HEADS)
        lines = "".join(
            f"<tr>{''.join(f'<td>{html.escape(cell)}&nbsp;&nbsp;&nbsp;</td>' for cell in cells(entry))}</tr>"
            for entry in self.table.entries
            if entry.doing is not Doing.READY
        )
        words = html.escape(" ".join(self.table.sentences()))
        cautions = "".join(f"<li>{html.escape(caution.sentence)}</li>" for caution in self.table.cautions)
        return (
            f"<h2>{html.escape(self._title)}</h2><p>{words}</p>"
            "<p>Times are hours and minutes from the start of the day."
            " Charge each pack by itself, and never put packs of two states together.</p>"
            f"<table cellspacing='2'><tr>{heads}</tr>{lines}</table><ul>{cautions}</ul>"
        )

    def print_to(self, printer: QPrinter) -> None:
        """Print the sheet."""
        document = QTextDocument()
        document.setDefaultFont(font(10))
        document.setHtml(self.as_html())
        document.print(printer)

    def _ask_printer(self) -> None:
        printer = QPrinter(QPrinter.PrinterMode.HighResolution)
        if QPrintDialog(printer, self).exec():
            self.print_to(printer)

    def _ask_where(self) -> None:
        path, _ = QFileDialog.getSaveFileName(self, "Save the timetable", "field-day.csv", "Tables (*.csv)")
        if path:
            self.save(Path(path))

    def save(self, path: Path) -> None:
        """Write the table; says so in a sentence where it cannot be written."""
        if self.table is None:
            return
        try:
            write_whole(path, timetable_csv(self.table))
        except DocumentError as error:
            self.show_error(str(error))
            return
        self.error.hide()
