"""Beside the charge: what to set, what is wanted, the chargers at hand, and the sets of a day."""

from __future__ import annotations

from collections.abc import Sequence

from PyQt6.QtCore import Qt
from PyQt6.QtGui import QGuiApplication
from PyQt6.QtWidgets import QGridLayout, QHBoxLayout, QPushButton, QVBoxLayout, QWidget

from wise_cellar.core.charge import ChargePlan
from wise_cellar.core.documents import ChargeFrom, Charger, ChargeWish, DaySet, Design
from wise_cellar.core.documents.charging import MOST_SETS
from wise_cellar.ui.state.session import Session
from wise_cellar.ui.theme import font
from wise_cellar.ui.widgets.attempt import Attempt
from wise_cellar.ui.widgets.chooser import Chooser
from wise_cellar.ui.widgets.field_grids import FieldGrid
from wise_cellar.ui.widgets.fields import QuantityField, field_for
from wise_cellar.ui.widgets.labels import Label
from wise_cellar.ui.widgets.panel import empty, heading, note, sheet

_WISH = [name for name in ChargeWish.model_fields if name != "pack"]
_UNSET = {"most_c_rate": "1C", "supply_wh": "no end", "place_temperature_c": "as flown"}


def _grid(session: Session, root: str, names: Sequence[str]) -> FieldGrid:
    def made(name: str):  # type: ignore[no-untyped-def]
        path, unset = f"design.{root}.{name}", _UNSET.get(name)
        return QuantityField(session, path, default=lambda: unset) if unset else field_for(session, path)

    return FieldGrid([made(name) for name in names])


class SettingsPanel(QWidget):
    """What to set on the charger, large, to read from the screen or to copy."""

    def __init__(self) -> None:
        super().__init__()
        column = QVBoxLayout(self)
        column.setContentsMargins(0, 0, 0, 0)
        panel, inside = sheet(spacing=6)
        column.addWidget(panel)
        top = QHBoxLayout()
        self.title = heading("Set on the charger")
        top.addWidget(self.title, 1)
        self.copy_button = QPushButton("Copy")
        self.copy_button.setAccessibleName("Copy the charging plan")
        self.copy_button.clicked.connect(self.copy)
        top.addWidget(self.copy_button)
        inside.addLayout(top)
        self._grid = QGridLayout()
        self._grid.setVerticalSpacing(4)
        self._grid.setColumnStretch(1, 1)
        inside.addLayout(self._grid)
        self._plan: ChargePlan | None = None

    def show_plan(self, plan: ChargePlan) -> None:
        """Show its settings."""
        self._plan = plan
        empty(self._grid)
        for row, (name, value) in enumerate(plan.settings()):
            label, words = note(name), Label(value)
            words.setFont(font(13, strong=True))
            words.setWordWrap(True)
            words.say_of(name)
            label.setFixedWidth(56)
            self._grid.addWidget(label, row, 0, Qt.AlignmentFlag.AlignTop)
            self._grid.addWidget(words, row, 1)

    def as_text(self) -> str:
        """Settings, times and cautions as lines."""
        plan = self._plan
        if plan is None:
            return ""
        settings = [f"{name}: {value}" for name, value in plan.settings()]
        cautions = [caution.sentence for caution in plan.cautions]
        return "\n".join([f"{plan.pack.name}, {plan.pack.cell.name}", *settings, *plan.sentences(), *cautions])

    def copy(self) -> None:
        """Put the plan on the clipboard."""
        clipboard = QGuiApplication.clipboard()
        if clipboard is not None:
            clipboard.setText(self.as_text())


class WishPanel(QWidget):
    """Which pack, from where, for what, and how fast at the most."""

    def __init__(self, session: Session) -> None:
        super().__init__()
        self._session = session
        column = QVBoxLayout(self)
        column.setContentsMargins(0, 0, 0, 0)
        panel, inside = sheet(spacing=6)
        column.addWidget(panel)
        inside.addWidget(heading("What is charged"))
        self.pack = Chooser()
        self.pack.setAccessibleName("Pack that is charged")
        self.pack.activated.connect(self._picked)
        inside.addWidget(self.pack)
        self.fields = _grid(session, "charge", _WISH)
        inside.addWidget(self.fields)
        self.error = Attempt()
        inside.addWidget(self.error)

    def refresh(self) -> None:
        """Show the packs and the wish."""
        complete = self._session.complete
        names = [f"{pack.name}, {pack.cell.name}" for pack in complete.packs]
        if [self.pack.itemText(n) for n in range(self.pack.count())] != names:
            self.pack.clear()
            self.pack.addItems(names)
        wish = complete.design.charge
        self.pack.setCurrentIndex(wish.pack if wish.pack < len(names) else 0)
        self.fields.refresh()
        for field in self.fields.fields:
            if field.path.endswith("start_percent"):
                field.setVisible(wish.start is ChargeFrom.GIVEN)
            elif field.path.endswith("found_v"):
                field.setVisible(wish.start is ChargeFrom.FOUND)

    def _picked(self, place: int) -> None:
        self.error.make(lambda: self._session.edit("design.charge.pack", place, "Choose the pack to charge"))


class ChargerPanel(QWidget):
    """The chargers at hand."""

    def __init__(self, session: Session) -> None:
        super().__init__()
        column = QVBoxLayout(self)
        column.setContentsMargins(0, 0, 0, 0)
        panel, inside = sheet(spacing=6)
        column.addWidget(panel)
        inside.addWidget(heading("Chargers at hand"))
        self.fields = _grid(session, "charger", list(Charger.model_fields))
        inside.addWidget(self.fields)

    def refresh(self) -> None:
        """Show them."""
        self.fields.refresh()


class SetsPanel(QWidget):
    """The sets of packs that are taken along, each by the design that flies it."""

    def __init__(self, session: Session) -> None:
        super().__init__()
        self._session = session
        self.choosers: list[Chooser] = []
        column = QVBoxLayout(self)
        column.setContentsMargins(0, 0, 0, 0)
        panel, inside = sheet(spacing=6)
        column.addWidget(panel)
        inside.addWidget(heading("The day"))
        self.fields = _grid(session, "day", ("length_h", "turnaround_min", "place_temperature_c"))
        inside.addWidget(self.fields)
        inside.addWidget(
            note("Sets of packs, full in the morning: the design that flies each, and how many there are.")
        )
        self._rows = QVBoxLayout()
        self._rows.setSpacing(4)
        inside.addLayout(self._rows)
        self.add_button = QPushButton("Add a set")
        self.add_button.setProperty("role", "quiet")
        self.add_button.clicked.connect(self.add)
        inside.addWidget(self.add_button, 0, Qt.AlignmentFlag.AlignLeft)
        self.error = Attempt()
        inside.addWidget(self.error)

    def refresh(self) -> None:
        """Show the sets, made anew where there are more or fewer."""
        self.fields.refresh()
        sets = self._session.complete.design.day.sets
        if len(sets) != len(self.choosers):
            empty(self._rows)
            self.choosers = []
            for place in range(len(sets)):
                self._rows.addWidget(self._row(place, several=len(sets) > 1))
        designs = self._session.all(Design)
        present = self._session.complete.design.id
        keys = ["", *(key for key in designs if key != present)]
        words = ["This design", *(designs[key].name for key in keys[1:])]
        for chooser, one in zip(self.choosers, sets, strict=True):
            chooser.clear()
            for key, text in zip(keys, words, strict=True):
                chooser.addItem(text, key)
            if one.design_id not in keys:
                chooser.addItem(f"{one.design_id}, not here", one.design_id)
            chooser.setCurrentIndex(chooser.findData(one.design_id))
        for count in self.findChildren(QuantityField):
            count.refresh()
        self.add_button.setVisible(len(sets) < MOST_SETS)

    def add(self) -> None:
        """One more set, of this design."""
        self._change([*self._session.complete.design.day.sets, DaySet()], "Add a set of packs")

    def _row(self, place: int, *, several: bool) -> QWidget:
        widget = QWidget()
        row = QHBoxLayout(widget)
        row.setContentsMargins(0, 0, 0, 0)
        row.setSpacing(6)
        chooser = Chooser()
        chooser.setAccessibleName(f"Design of set {place + 1}")
        chooser.setMinimumContentsLength(8)
        chooser.setSizeAdjustPolicy(Chooser.SizeAdjustPolicy.AdjustToMinimumContentsLengthWithIcon)
        chooser.activated.connect(lambda _row: self._chosen(place))
        self.choosers.append(chooser)
        row.addWidget(chooser, 1)
        count = QuantityField(self._session, f"design.day.sets.{place}.count")
        count.hide_label()
        count.hide_unit()
        count.setFixedWidth(56)
        row.addWidget(count)
        remove = QPushButton("×")
        remove.setProperty("role", "quiet")
        remove.setFixedWidth(24)
        remove.setAccessibleName(f"Remove set {place + 1}")
        remove.clicked.connect(lambda: self._remove(place))
        remove.setEnabled(several)
        row.addWidget(remove)
        return widget

    def _chosen(self, place: int) -> None:
        sets = list(self._session.complete.design.day.sets)
        sets[place] = sets[place].changed(design_id=str(self.choosers[place].currentData()))
        self._change(sets, "Choose the design of a set")

    def _remove(self, place: int) -> None:
        sets = list(self._session.complete.design.day.sets)
        del sets[place]
        self._change(sets, "Remove a set of packs", f"Removed set {place + 1} of the day.")

    def _change(self, sets: Sequence[DaySet], label: str, gone: str = "") -> None:
        self.error.make(lambda: self._session.edit("design.day.sets", tuple(sets), label, gone))
