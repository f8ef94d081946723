"""What goes on paper: which sheet, on which paper, as a PDF or to a printer."""

from __future__ import annotations

from collections.abc import Callable
from dataclasses import dataclass
from datetime import date
from enum import StrEnum
from pathlib import Path

from PyQt6.QtPrintSupport import QPrintDialog, QPrinter
from PyQt6.QtWidgets import QFileDialog, QGridLayout, QHBoxLayout, QPushButton, QVBoxLayout, QWidget

from wise_cellar.core.answer import Answer, alarm_card, card_lines
from wise_cellar.core.build.label import label_text
from wise_cellar.core.build.making import Making
from wise_cellar.core.build.materials import materials
from wise_cellar.core.documents import CompleteDesign
from wise_cellar.core.shown import shown
from wise_cellar.core.units import counted
from wise_cellar.ui.stations.build.build_sheet import build_sheet
from wise_cellar.ui.stations.build.cards import alarm_sheet, label_sheet, tap_card
from wise_cellar.ui.stations.build.face_sheet import face_sheet
from wise_cellar.ui.stations.build.materials_sheet import materials_sheet
from wise_cellar.ui.stations.build.paper import Page, PaperSize, print_pages, write_pdf
from wise_cellar.ui.widgets.attempt import Attempt
from wise_cellar.ui.widgets.chooser import Chooser
from wise_cellar.ui.widgets.labels import Label
from wise_cellar.ui.widgets.panel import heading, note, sheet


class Sheet(StrEnum):
    """What can be put on paper."""

    STEPS = "Build sheet"
    FACES = "Faces, 1 : 1"
    MATERIALS = "Materials"
    TAPS = "Tap card"
    LABEL = "Label"
    ALARMS = "Alarm card"


@dataclass(frozen=True)
class Subject:
    """What a sheet is of: a pack, or the design at hand."""

    making: Making
    complete: CompleteDesign
    answer: Answer

    @property
    def title(self) -> str:
        """Name of the pack, or of the design."""
        return self.making.pack.name if self.making.pack is not None else self.complete.design.name

    def pages(self, which: Sheet, size: PaperSize) -> list[Page]:
        """The pages of a sheet."""
        making = self.making
        match which:
            case Sheet.STEPS:
                return build_sheet(making, self.title, size)
            case Sheet.FACES:
                return face_sheet(making.bench.build, self.title, making.numbers, size)
            case Sheet.MATERIALS:
                return materials_sheet(materials(making.bench.build), self.title, size)
            case Sheet.TAPS:
                return tap_card(making, self.title)
            case Sheet.LABEL:
                return label_sheet(label_text(making, self.complete, self.answer, str(date.today())))
            case Sheet.ALARMS:
                return alarm_sheet(card_lines(self.complete, alarm_card(self.complete, self.answer)))


class SheetsPanel(QWidget):
    """``subject`` is asked for what the sheet is of."""

    def __init__(self, subject: Callable[[], Subject | None]) -> None:
        super().__init__()
        self._subject = subject
        column = QVBoxLayout(self)
        column.setContentsMargins(0, 0, 0, 0)
        panel, inside = sheet()
        column.addWidget(panel)
        inside.addWidget(heading("On paper"))
        grid = QGridLayout()
        self.which, self.paper = Chooser(), Chooser()
        self.which.addItems([str(one) for one in Sheet])
        self.paper.addItems([str(one) for one in PaperSize])
        if shown("mm").per != 1.0:
            self.paper.setCurrentIndex(list(PaperSize).index(PaperSize.LETTER))
        for row, (title, chooser) in enumerate((("Sheet", self.which), ("Paper", self.paper))):
            chooser.setAccessibleName(title)
            grid.addWidget(Label(title), row, 0)
            grid.addWidget(chooser, row, 1)
        inside.addLayout(grid)
        row_of_buttons = QHBoxLayout()
        self.save, self.print = QPushButton("As a PDF…"), QPushButton("Print…")
        self.save.clicked.connect(lambda _on: self._ask_file())
        self.print.clicked.connect(lambda _on: self._ask_printer())
        row_of_buttons.addWidget(self.save)
        row_of_buttons.addWidget(self.print)
        row_of_buttons.addStretch(1)
        inside.addLayout(row_of_buttons)
        self.attempt = Attempt()
        inside.addWidget(self.attempt)
        self.told = note()
        self.told.hide()
        inside.addWidget(self.told)

    def choose(self, which: Sheet) -> None:
        """Choose a sheet."""
        self.which.setCurrentIndex(list(Sheet).index(which))

    @property
    def chosen(self) -> tuple[Sheet, PaperSize]:
        """Sheet and paper."""
        return list(Sheet)[self.which.currentIndex()], list(PaperSize)[self.paper.currentIndex()]

    def _ask_file(self) -> None:
        subject = self._subject()
        if subject is None:
            return
        usual = f"{subject.title}, {self.chosen[0].lower()}.pdf".replace("/", "-").replace(" : ", "-")
        name, _ = QFileDialog.getSaveFileName(self, "On paper", usual, "PDF (*.pdf)")
        if name:
            self.write(Path(name))

    def write(self, path: Path) -> bool:
        """Write the chosen sheet as a PDF; whether it could be written."""
        subject, (which, size) = self._subject(), self.chosen
        if subject is None:
            return False
        pages = subject.pages(which, size)
        done = self.attempt.make(lambda: write_pdf(path, pages, size, f"{subject.title}: {which.lower()}"))
        self.told.setText(f"{path} holds {counted(len(pages), 'page')} now." if done else "")
        self.told.setVisible(done)
        return done

    def _ask_printer(self) -> None:
        subject, (which, size) = self._subject(), self.chosen
        if subject is None:
            return
        printer = QPrinter(QPrinter.PrinterMode.HighResolution)
        dialog = QPrintDialog(printer, self)
        if dialog.exec() == QPrintDialog.DialogCode.Accepted:
            print_pages(printer, subject.pages(which, size), size)
