"""The chosen pack: flown, built again, measured, repaired, renamed, retired."""

from __future__ import annotations

from collections.abc import Callable, Sequence

from PyQt6.QtCore import pyqtSignal
from PyQt6.QtWidgets import QGridLayout, QHBoxLayout, QPushButton, QVBoxLayout, QWidget

from wise_cellar.core.documents import BuiltPack, Design
from wise_cellar.ui.state.pack_life import (
    fly_pack,
    rename_pack,
    retire_pack,
)
from wise_cellar.ui.state.pack_making import remove_pack
from wise_cellar.ui.state.session import Session
from wise_cellar.ui.stations.build.packs_page import Shelved
from wise_cellar.ui.stations.build.readings_panel import ReadingsPanel
from wise_cellar.ui.stations.build.repair_panel import RepairPanel
from wise_cellar.ui.widgets.attempt import Attempt
from wise_cellar.ui.widgets.entry_line import EntryLine
from wise_cellar.ui.widgets.labels import Label
from wise_cellar.ui.widgets.lines import Line, Lines
from wise_cellar.ui.widgets.panel import heading, note, sheet


class PackPanel(QWidget):
    """``steps_asked`` names a pack whose steps are to be shown, ``like_asked`` asks for another one like it."""

    steps_asked = pyqtSignal(str)
    like_asked = pyqtSignal()

    def __init__(self, session: Session) -> None:
        super().__init__()
        self._session = session
        self.pack: BuiltPack | None = None
        column = QVBoxLayout(self)
        column.setContentsMargins(0, 0, 0, 0)
        column.setSpacing(12)
        column.addWidget(self._made_uses())
        self.readings, self.mending = ReadingsPanel(session), RepairPanel(session)
        column.addWidget(self.readings)
        column.addWidget(self.mending)
        self.mending.steps_asked.connect(self.steps_asked)

    # Parts

    def _made_uses(self) -> QWidget:
        panel, inside = sheet()
        self.title = heading("")
        inside.addWidget(self.title)
        self.words = Lines()
        inside.addLayout(self.words)
        self.fly, self.like = QPushButton("Fly it"), QPushButton("Build another like it")
        self.steps = QPushButton("Its steps")
        row = QHBoxLayout()
        for button in (self.fly, self.like, self.steps):
            row.addWidget(button)
        row.addStretch(1)
        inside.addLayout(row)
        self.fly.clicked.connect(lambda _on: self._make(fly_pack))
        self.like.clicked.connect(lambda _on: self.like_asked.emit())
        self.steps.clicked.connect(lambda _on: self._ask_steps())
        grid = QGridLayout()
        self.name = EntryLine()
        self.name.setAccessibleName("Name of the pack")
        self.name.submitted.connect(self._rename)
        grid.addWidget(Label("Name"), 0, 0)
        grid.addWidget(self.name, 0, 1)
        inside.addLayout(grid)
        self.attempt = Attempt()
        inside.addWidget(self.attempt)
        self._told = note()
        self._told.hide()
        inside.addWidget(self._told)
        row = QHBoxLayout()
        self.retire, self.remove = QPushButton("Retire"), QPushButton("Remove")
        for button in (self.retire, self.remove):
            button.setProperty("role", "quiet")
            row.addWidget(button)
        row.addStretch(1)
        self.retire.clicked.connect(lambda _on: self._retire())
        self.remove.clicked.connect(lambda _on: self._make(remove_pack))
        inside.addLayout(row)
        self._uses = panel
        return panel

    # Showing

    def show_pack(self, shelved: Shelved | None, flown_by: Sequence[Design]) -> None:
        """Show a pack; none where there is none."""
        other = shelved is None or self.pack is None or self.pack.id != shelved.pack.id
        self.pack = None if shelved is None else shelved.pack
        self._uses.setVisible(shelved is not None)
        pack = self.pack
        finished = pack is not None and pack.finished
        self.readings.setVisible(finished)
        self.mending.setVisible(finished)
        if shelved is None or pack is None:
            return
        self.title.setText(pack.name)
        told = [f"{shelved.made_of}, {shelved.words}, begun {pack.begun_on}."]
        if flown_by:
            told.append(f"Flown by {', '.join(design.name for design in flown_by)}.")
        if pack.notes:
            told.append(pack.notes)
        self.words.show_lines([Line(words, "faint", 11.5) for words in told])
        self.fly.setVisible(finished and not pack.retired and pack.repair is None)
        self.retire.setText("Use it again" if pack.retired else "Retire")
        self.retire.setVisible(finished)
        self.name.show_text(pack.name)
        if finished:
            self.readings.show_pack(pack)
        if other:
            self.attempt.hide()

    def say(self, sentence: str) -> None:
        """Say what is on its way; nothing any more."""
        self._told.setText(sentence)
        self._told.setVisible(bool(sentence))
        self.like.setEnabled(not sentence)

    def forget(self) -> None:
        """Another workspace is about to be shown."""
        self.pack = self.readings.pack = None

    # Doing

    def _make(self, edit: Callable[[Session, BuiltPack], object]) -> bool:
        pack = self.pack
        return pack is not None and self.attempt.make(lambda: edit(self._session, pack))

    def _rename(self, text: str) -> None:
        if self._make(lambda session, pack: rename_pack(session, pack, text)):
            self.name.accept_shown(text.strip())

    def _ask_steps(self) -> None:
        if self.pack is not None:
            self.steps_asked.emit(self.pack.id)

    def _retire(self) -> None:
        pack = self.pack
        if pack is not None:
            self.attempt.make(lambda: retire_pack(self._session, pack, retired=not pack.retired))
