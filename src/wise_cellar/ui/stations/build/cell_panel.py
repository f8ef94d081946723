"""The chosen cell: its verdict with the arithmetic, what it looks like, its dates and a note."""

from __future__ import annotations

from collections.abc import Callable
from datetime import date
from typing import Any

from PyQt6.QtWidgets import QGridLayout, QHBoxLayout, QPushButton, QVBoxLayout, QWidget

from wise_cellar.core.build import Fate, JudgedCell, Tray
from wise_cellar.core.documents import DocumentError, Look
from wise_cellar.core.units import counted
from wise_cellar.core.words import quoted, upper_first
from wise_cellar.store import WorkspaceError
from wise_cellar.ui.state.session import Session
from wise_cellar.ui.state.tray_edits import change_cell, remove_cells, speak_for_type
from wise_cellar.ui.widgets.entry_line import EntryLine
from wise_cellar.ui.widgets.labels import Label
from wise_cellar.ui.widgets.lines import Line, Lines
from wise_cellar.ui.widgets.panel import heading, note, sheet, show_role
from wise_cellar.ui.widgets.tick_box import TickBox

ROLES = {Fate.USE: "", Fate.APART: "caution", Fate.NEVER: "error"}
DATES = (("arrived_on", "Arrived on"), ("rested_on", "Read again on"))


class CellPanel(QWidget):
    """What is known of one cell that is no number, and what the rules say of it."""

    def __init__(self, session: Session) -> None:
        super().__init__()
        self._session = session
        self.shown: JudgedCell | None = None
        column = QVBoxLayout(self)
        column.setContentsMargins(0, 0, 0, 0)
        panel, inside = sheet()
        column.addWidget(panel)
        self.title = heading("")
        inside.addWidget(self.title)
        self._remarks = Lines()
        inside.addLayout(self._remarks)
        self._more = QWidget()
        grid = QGridLayout(self._more)
        grid.setContentsMargins(0, 4, 0, 0)
        self.looks: dict[Look, TickBox] = {}
        for place, look in enumerate(Look):
            box = TickBox(upper_first(str(look)))
            box.clicked.connect(self._looked)
            self.looks[look] = box
            grid.addWidget(box, place // 2, place % 2)
        self.lines: dict[str, EntryLine] = {}
        for row, (name, title) in enumerate((*DATES, ("note", "Note")), 2):
            line = EntryLine()
            line.setAccessibleName(title)
            line.submitted.connect(self._taker(name))
            if name != "note":
                line.setPlaceholderText("such as 2026-03-14")
            self.lines[name] = line
            grid.addWidget(Label(title), row, 0)
            grid.addWidget(line, row, 1)
        inside.addWidget(self._more)
        self.error = note(role="error")
        self.error.hide()
        inside.addWidget(self.error)
        self.remove = QPushButton("Remove it from the tray")
        self.remove.setProperty("role", "quiet")
        self.remove.clicked.connect(self._remove)
        inside.addWidget(self.remove)

    def show_cell(self, one: JudgedCell | None) -> None:
        """Show a cell, or what to do where none is chosen."""
        self.shown = one
        for widget in (self._more, self.remove):
            widget.setVisible(one is not None)
        if one is None:
            self.title.setText("A cell")
            self._remarks.show_lines([Line("Choose a cell to see what the rules say of it.", "faint", 11.5)])
            return
        self.title.setText(f"Cell {one.cell.number}: {one.fate.words}")
        lines = []
        for remark in one.remarks:
            lines.append(Line(remark.sentence, ROLES[remark.fate], 11.5))
            lines.append(Line(remark.sum, "faint", 11.5))
        self._remarks.show_lines(lines or [Line("Nothing speaks against it.", "faint", 11.5)])
        for look, box in self.looks.items():
            box.setChecked(look in one.cell.looks)
        for name, line in self.lines.items():
            value = getattr(one.cell, name)
            line.show_text("" if value is None else str(value))

    def _looked(self) -> None:
        self._change(looks=tuple(look for look, box in self.looks.items() if box.isChecked()))

    def _taker(self, name: str) -> Callable[[str], None]:
        def take(text: str) -> None:
            value: Any = text.strip()
            if name != "note":
                try:
                    value = date.fromisoformat(value) if value else None
                except ValueError:
                    self._say(f"{quoted(text.strip())} is no date; write one such as 2026-03-14.")
                    return
            if self._change(**{name: value}):
                self.lines[name].accept_shown("" if value is None else str(value))

        return take

    def _change(self, **values: Any) -> bool:
        if self.shown is None:
            return False
        try:
            change_cell(self._session, self.shown.cell, **values)
        except (DocumentError, WorkspaceError) as error:
            self._say(str(error))
            return False
        self._say("")
        return True

    def _remove(self) -> None:
        if self.shown is None:
            return
        try:
            remove_cells(self._session, [self.shown.cell])
        except DocumentError as error:
            self._say(str(error))

    def _say(self, sentence: str) -> None:
        self.error.setText(sentence)
        self.error.setVisible(bool(sentence))


class TrayPanel(QWidget):
    """What there is to be said of all cells, and what they can tell their type."""

    def __init__(self, session: Session) -> None:
        super().__init__()
        self._session = session
        self.tray: Tray | None = None
        column = QVBoxLayout(self)
        column.setContentsMargins(0, 0, 0, 0)
        panel, inside = sheet()
        column.addWidget(panel)
        inside.addWidget(heading("This tray"))
        self.words = Lines()
        inside.addLayout(self.words)
        self.speak = QPushButton("Let it speak for its type")
        self.speak.setToolTip("Its usable cells become the bench results of the cell type: the range goes by them")
        self.speak.clicked.connect(self._speak)
        inside.addWidget(self.speak)
        row = QHBoxLayout()
        self.take_in, self.put_out = QPushButton("From a table…"), QPushButton("As a table…")
        self.take_in.setToolTip(
            "Cells from a CSV with columns such as number, arrival_v, capacity_mah, dcir_mohm, mass_g"
        )
        row.addWidget(self.take_in)
        row.addWidget(self.put_out)
        inside.addLayout(row)
        self.told = note(role="")
        self.told.hide()
        inside.addWidget(self.told)
        inside.addWidget(
            note(
                "Bad cells are kept apart from the good ones, their ends covered, until they are handed in.", "caution"
            )
        )

    def show_tray(self, tray: Tray) -> None:
        """Show what its cells have in common."""
        self.tray = tray
        counts = tray.counts()
        told = ", ".join(f"{count} to {fate.words}" if fate is not Fate.NEVER else f"{count} not to use"
                         for fate, count in counts.items() if count)  # fmt: skip
        lines = [Line(f"{counted(len(tray.cells), 'cell')}: {told}.", size=11.5)] if tray.cells else []
        lines += [Line(sentence, "caution", 11.5) for sentence in tray.of_lot]
        self.words.show_lines(lines or [Line("No cell of this type is numbered yet.", "faint", 11.5)])
        results = tray.bench_results()
        known = tray.cell_type.bench_results == results
        self.speak.setVisible(bool(results) and not known)
        self.put_out.setVisible(bool(tray.cells))

    def tell(self, sentence: str, *, error: bool = False) -> None:
        """Say what came of a table."""
        show_role(self.told, "error" if error else "")
        self.told.setText(sentence)
        self.told.setVisible(bool(sentence))

    def _speak(self) -> None:
        if self.tray is not None:
            speak_for_type(self._session, self.tray)
