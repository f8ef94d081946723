"""Instruments that are listened to: what comes of each, what of it was understood, and a way to open another one."""

from __future__ import annotations

from collections.abc import Callable
from pathlib import Path

from PyQt6.QtWidgets import QDialog, QFileDialog, QHBoxLayout, QPushButton, QVBoxLayout, QWidget

from wise_cellar.core.documents import CompleteDesign
from wise_cellar.core.units import format_number
from wise_cellar.core.words import one_line
from wise_cellar.instruments import needs_asking, read_profile
from wise_cellar.instruments.quantities import quantity_of
from wise_cellar.instruments.stand_ins import KINDS
from wise_cellar.ui.shell.profile_sheet import TABLES, ProfileSheet
from wise_cellar.ui.state.desk import Desk, Device
from wise_cellar.ui.theme import font
from wise_cellar.ui.widgets.attempt import Attempt
from wise_cellar.ui.widgets.chooser import Chooser
from wise_cellar.ui.widgets.entry_line import EntryLine
from wise_cellar.ui.widgets.labels import Label
from wise_cellar.ui.widgets.lines import Line, Lines
from wise_cellar.ui.widgets.panel import dialog_column, note, sheet
from wise_cellar.ui.widgets.tick_box import TickBox

WIDTH, MOST_LETTERS = 600, 76
HOW = (
    "What has settled goes into the field in focus with F8, or by itself: the tray's current cell, a step's or a pin's"
    " volts, a pack's mass. Nothing is opened that you did not choose."
)
OUTSIDE = "This address lies outside of this computer. Press Open once more if you mean it."
SPEEDS = {"as time goes": 1.0, "ten times as fast": 10.0, "an hour a minute": 60.0}
WAITING = "nothing yet"


class _DeviceCard(QWidget):
    """One device: its last lines, what was understood, what is wrong."""

    def __init__(self, device: Device, close: Callable[[Device], None], correct: Callable[[Device], None]) -> None:
        super().__init__()
        self.device = device
        column = QVBoxLayout(self)
        column.setContentsMargins(0, 0, 0, 0)
        panel, inside = sheet(4)
        column.addWidget(panel)
        row = QHBoxLayout()
        self.title = Label()
        self.title.setFont(font(13, strong=True))
        row.addWidget(self.title, 1)
        self.truths = QPushButton("Its truths")
        self.truths.setToolTip("What is really so of the device that stands in")
        self.truths.setVisible(device.served is not None)
        self.correct, self.close_it = QPushButton("Correct…"), QPushButton("Close")
        self.correct.setToolTip("Say what each piece of its lines is")
        ways = ((self.truths, lambda _device: self._tell()), (self.correct, correct), (self.close_it, close))
        for button, run in ways:
            button.setProperty("role", "quiet")
            button.setAutoDefault(False)
            button.clicked.connect(lambda _on, run=run: run(device))
            row.addWidget(button)
        inside.addLayout(row)
        self.understood = Label()
        self.understood.setWordWrap(True)
        inside.addWidget(self.understood)
        self.sentence = note(role="error")
        inside.addWidget(self.sentence)
        self.raw, self.told = Lines(), Lines()
        inside.addLayout(self.raw)
        inside.addLayout(self.told)
        self.refresh()

    def _tell(self) -> None:
        """What is really so now; once more puts it away."""
        served = self.device.served
        if served is not None:
            truths = [] if self.told.lines else served.stand_in.truths()
            self.told.show_lines([Line(truth, "", 11.5) for truth in truths])

    def refresh(self) -> None:
        """Show what was heard last."""
        device = self.device
        self.title.setText(f"{device.name}, {device.address}")
        told = WAITING
        if device.last is not None:
            told = "   ".join(
                f"{quantity_of(name).title} {format_number(value, quantity_of(name).decimals)} {quantity_of(name).unit}"
                for name, value in device.latest.items()
            )
        self.understood.setText(told)
        self.sentence.setText(device.sentence)
        self.sentence.setVisible(bool(device.sentence))
        lines = list(device.lines)[-3:]
        self.raw.show_lines([Line(one_line(line, MOST_LETTERS), "faint", 11.5) for line in lines])


class InstrumentsSheet(QDialog):
    """Stays beside the window while one works."""

    def __init__(self, owner: QWidget, desk: Desk, design: Callable[[], CompleteDesign]) -> None:
        super().__init__(owner)
        self._desk, self._design = desk, design
        self._asked = ""
        column = dialog_column(self, "Instruments", width=WIDTH)
        self._cards = QVBoxLayout()
        self._cards.setSpacing(8)
        column.addLayout(self._cards)
        self.cards: list[_DeviceCard] = []
        row = QHBoxLayout()
        self.profiles = Chooser()
        self.profiles.setAccessibleName("How it talks")
        self.address = EntryLine()
        self.address.setAccessibleName("Where it is")
        self.address.setPlaceholderText("serial:/dev/ttyUSB0, tcp:127.0.0.1:5025, file:/path")
        self.opening = QPushButton("Open")
        self.opening.setAutoDefault(False)
        self.opening.clicked.connect(lambda _on: self._open())
        self.taking = QPushButton("Profile…")
        self.taking.setToolTip("Take in a way of talking from a file (TOML)")
        self.taking.setAutoDefault(False)
        self.taking.clicked.connect(lambda _on: self._ask_in())
        for widget, stretch in ((self.profiles, 0), (self.taking, 0), (self.address, 1), (self.opening, 0)):
            row.addWidget(widget, stretch)
        column.addLayout(row)
        row = QHBoxLayout()
        row.addWidget(Label("Nothing plugged in?"))
        self.kinds = Chooser()
        self.kinds.setAccessibleName("Kind of stand-in")
        self.kinds.addItems([kind.title for kind in KINDS.values()])
        self.start = QPushButton("Start a stand-in")
        self.start.setAutoDefault(False)
        self.start.clicked.connect(lambda _on: self._start())
        self.speeds = Chooser()
        self.speeds.setAccessibleName("How fast its time passes")
        self.speeds.addItems(list(SPEEDS))
        for widget in (self.kinds, self.speeds, self.start):
            row.addWidget(widget)
        row.addStretch(1)
        column.addLayout(row)
        self.attempt = Attempt()
        column.addWidget(self.attempt)
        self.at_once = TickBox("Take a reading as soon as it has settled")
        self.at_once.setChecked(desk.at_once)
        self.at_once.clicked.connect(self._choose_at_once)
        column.addWidget(self.at_once)
        column.addWidget(note(HOW))
        column.addStretch(1)
        desk.changed.connect(self._show_devices)
        desk.heard.connect(self._heard)
        self._show_devices()

    def _choose_at_once(self, on: bool) -> None:
        self._desk.at_once = on

    def _show_devices(self) -> None:
        chosen = self.profiles.currentText()
        if [self.profiles.itemText(at) for at in range(self.profiles.count())] != list(self._desk.profiles):
            self.profiles.clear()
            self.profiles.addItems(list(self._desk.profiles))
            self.profiles.setCurrentIndex(max(self.profiles.findText(chosen), 0))
        for card in [one for one in self.cards if one.device not in self._desk.devices]:
            self.cards.remove(card)
            self._cards.removeWidget(card)
            card.deleteLater()
        there = [card.device for card in self.cards]
        for device in self._desk.devices:
            if device not in there:
                card = _DeviceCard(device, self._desk.close, self._correct)
                self.cards.append(card)
                self._cards.addWidget(card)
        for card in self.cards:
            card.refresh()

    def _correct(self, device: Device) -> None:
        ProfileSheet(self, self._desk, device).show()

    def _ask_in(self) -> None:
        name, _ = QFileDialog.getOpenFileName(self, "A way of talking", "", TABLES)
        if name:
            self.take_in(Path(name))

    def take_in(self, path: Path) -> None:
        """Take in a profile from a file, and choose it."""

        def take() -> None:
            profile = read_profile(path)
            self._desk.keep_profile(profile)
            self.profiles.setCurrentIndex(self.profiles.findText(profile.name))

        self.attempt.make(take)

    def _heard(self, device: Device) -> None:
        for card in self.cards:
            if card.device is device:
                card.refresh()

    def _open(self) -> None:
        address = self.address.text().strip()
        if needs_asking(address) and self._asked != address:
            self._asked = address
            self.attempt.say(OUTSIDE)
            return
        profile = self._desk.profiles[self.profiles.currentText()]
        if self.attempt.make(lambda: self._desk.open(profile, address)):
            self.address.accept_shown("")

    def _start(self) -> None:
        kind = list(KINDS)[self.kinds.currentIndex()]
        speed = list(SPEEDS.values())[self.speeds.currentIndex()]
        self.attempt.make(lambda: self._desk.open_stand_in(kind, self._design(), speed=speed))
