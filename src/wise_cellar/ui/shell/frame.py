"""Where the parts of the window stand."""

from __future__ import annotations

from PyQt6.QtWidgets import QFrame, QHBoxLayout, QVBoxLayout, QWidget


class Frame(QWidget):
    """The recipe line on top, the rail and the station under it, then what is told and asked, and the answers."""

    def __init__(self, above: QWidget, beside: QWidget, station: QWidget, told: QWidget, below: list[QWidget]) -> None:
        super().__init__()
        self.setObjectName("ground")
        column = QVBoxLayout(self)
        column.setContentsMargins(0, 0, 0, 0)
        column.setSpacing(0)
        middle = QHBoxLayout()
        middle.setSpacing(0)
        middle.addWidget(beside)
        middle.addWidget(_hairline(vertical=True))
        middle.addWidget(station, 1)
        column.addWidget(above)
        column.addWidget(_hairline())
        column.addLayout(middle, 1)
        column.addWidget(told)
        column.addWidget(_hairline())
        for part in below:
            column.addWidget(part)


def _hairline(*, vertical: bool = False) -> QFrame:
    line = QFrame()
    line.setObjectName("rule")
    if vertical:
        line.setFixedWidth(1)
    else:
        line.setFixedHeight(1)
    return line
