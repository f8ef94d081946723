"""The rail: the stations in working order, each with a mark for its state."""

from __future__ import annotations

from collections.abc import Sequence

from PyQt6.QtCore import QPoint, QRectF, QSize, Qt, pyqtSignal
from PyQt6.QtGui import QKeyEvent, QPainter, QPaintEvent
from PyQt6.QtWidgets import QButtonGroup, QRadioButton, QSizePolicy, QVBoxLayout, QWidget

from wise_cellar.ui.theme import colours_of, font
from wise_cellar.ui.widgets.labels import tip
from wise_cellar.ui.widgets.marks import State, draw_mark

WIDTH, HEIGHT, LOW_HEIGHT = 104, 46, 25


class RailButton(QRadioButton):
    """One station: the present one, of all of them."""

    def __init__(self, title: str, number: int) -> None:
        """The Cellar is number 0: it is judged by nothing, and has no mark."""
        super().__init__()
        self.setText(title)
        self._number, self._state = number, State.FINE
        self.setFocusPolicy(Qt.FocusPolicy.StrongFocus)
        self.setSizePolicy(QSizePolicy.Policy.Fixed, QSizePolicy.Policy.Preferred)
        self.show_state(State.FINE, "")

    def show_state(self, state: State, sentence: str) -> None:
        """Show the state, and its word and reason in the tooltip."""
        said = f"{self.text()}: {state.value}" + (f". {sentence}" if sentence else "")
        if not self._number:
            said = f"{self.text()}: every design, craft, mission and cell type"
        if said == self.accessibleDescription():
            return
        self._state = state
        self.setToolTip(tip(f"{said}\nCtrl+{self._number}"))
        self.setAccessibleName(self.text())
        self.setAccessibleDescription(said)
        self.update()

    @property
    def state(self) -> State:
        """What is shown."""
        return self._state

    def hitButton(self, pos: QPoint) -> bool:
        """All of it takes a click."""
        return self.rect().contains(pos)

    def sizeHint(self) -> QSize:
        """As wide as the rail."""
        return QSize(WIDTH, HEIGHT)

    def minimumSizeHint(self) -> QSize:
        """In a low window."""
        return QSize(WIDTH, LOW_HEIGHT)

    def paintEvent(self, _event: QPaintEvent | None) -> None:
        """Mark and name; the present station on the sheet colour with a verdigris edge."""
        colours = colours_of(self)
        painter = QPainter(self)
        painter.setRenderHint(QPainter.RenderHint.Antialiasing)
        if self.isChecked():
            painter.fillRect(self.rect(), colours.colour("sheet"))
            painter.fillRect(QRectF(0, 0, 3, self.height()), colours.colour("verdigris"))
        if self.hasFocus():
            painter.setPen(colours.colour("verdigris"))
            painter.drawRoundedRect(QRectF(self.rect()).adjusted(4.5, 4.5, -4.5, -4.5), 3, 3)
        if self._number:
            draw_mark(painter, self._state, QRectF(14, self.height() / 2 - 6, 12, 12), colours)
        else:
            painter.fillRect(QRectF(14, self.height() - 1, self.width() - 28, 1), colours.colour("rule"))
        strong = self.isChecked()
        painter.setFont(font(14, strong=strong))
        painter.setPen(colours.colour("ink" if strong or self.underMouse() else "faint"))
        box = QRectF(self.rect()).adjusted(36 if self._number else 14, 0, 0, 0)
        painter.drawText(box, Qt.AlignmentFlag.AlignVCenter, self.text())


class Rail(QWidget):
    """A column of station buttons; up and down walk it."""

    chosen = pyqtSignal(int)

    def __init__(self, titles: Sequence[str]) -> None:
        super().__init__()
        self.setFixedWidth(WIDTH)
        column = QVBoxLayout(self)
        column.setContentsMargins(0, 10, 0, 10)
        column.setSpacing(0)
        self._group = QButtonGroup(self)
        self.buttons: list[RailButton] = []
        for place, title in enumerate(titles):
            button = RailButton(title, place)
            self._group.addButton(button, place)
            column.addWidget(button)
            self.buttons.append(button)
        column.addStretch(1)
        self._group.idClicked.connect(self.chosen)

    def show_current(self, place: int) -> None:
        """Mark the present station."""
        self.buttons[place].setChecked(True)

    def keyPressEvent(self, event: QKeyEvent | None) -> None:
        """Up and down move to the next station."""
        if event is not None and event.key() in (Qt.Key.Key_Up, Qt.Key.Key_Down):
            step = 1 if event.key() == Qt.Key.Key_Down else -1
            place = (self._group.checkedId() + step) % len(self.buttons)
            self.buttons[place].setFocus()
            self.buttons[place].click()
            return
        super().keyPressEvent(event)
