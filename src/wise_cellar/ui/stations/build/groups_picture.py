"""The groups of a pack as rows: each cell with its number, and what the group holds against the least."""

from __future__ import annotations

from PyQt6.QtCore import QPointF, QRectF, QSize, Qt
from PyQt6.QtGui import QPainter, QPaintEvent, QPen
from PyQt6.QtWidgets import QSizePolicy

from wise_cellar.core.build import Matched
from wise_cellar.core.units import format_mah, format_number
from wise_cellar.ui.theme import colours_of, font
from wise_cellar.ui.widgets.picture import Picture

LEAST_ROW, MOST_ROW, LABEL, FIGURES, GAP = 24.0, 38.0, 64.0, 210.0, 14.0
BAR = 0.9
"""Of the least group: bars begin there, else all would look alike."""


class GroupsPicture(Picture):
    """One row a group, from the negative end of the first pack on."""

    def __init__(self) -> None:
        super().__init__("Cells in their groups")
        self.setSizePolicy(QSizePolicy.Policy.Expanding, QSizePolicy.Policy.Minimum)
        self.shown: Matched | None = None

    def show_groups(self, matched: Matched | None) -> None:
        """Show these groups."""
        self.shown = matched
        if matched is not None:
            told = [
                f"{self._name(place)}: cells {', '.join(str(cell.number) for cell in group)}"
                for place, group in enumerate(matched.groups)
            ]
            self.tell("; ".join(told), told)
        self.updateGeometry()
        self.update()

    def _name(self, place: int) -> str:
        asked = self.shown.asked if self.shown is not None else None
        if asked is None or asked.packs == 1:
            return f"group {place + 1}"
        return f"{place // asked.series + 1}: {place % asked.series + 1}"

    def sizeHint(self) -> QSize:
        """As high as its rows."""
        rows = len(self.shown.groups) if self.shown is not None else 1
        return QSize(480, int(rows * (MOST_ROW if rows <= 8 else LEAST_ROW)) + 8)

    def minimumSizeHint(self) -> QSize:
        """The same: the page scrolls."""
        return QSize(300, self.sizeHint().height())

    def paintEvent(self, _event: QPaintEvent | None) -> None:
        """Rows of numbered cells, with bars."""
        matched = self.shown
        if matched is None:
            return
        colours, painter = colours_of(self), QPainter(self)
        painter.setRenderHint(QPainter.RenderHint.Antialiasing)
        rows = len(matched.groups)
        row = MOST_ROW if rows <= 8 else LEAST_ROW
        room = self.width() - LABEL - FIGURES - 2 * GAP
        across = min(row - 4, room / max(matched.asked.parallel, 1))
        low, high = BAR * matched.least_mah, float(matched.capacity_mah.max())
        for place, group in enumerate(matched.groups):
            top = 4 + place * row
            painter.setFont(font(11.5))
            painter.setPen(colours.colour("faint"))
            box = QRectF(0, top, LABEL, row - 4)
            painter.drawText(box, Qt.AlignmentFlag.AlignVCenter, self._name(place))
            for number, cell in enumerate(group):
                middle = QPointF(LABEL + (number + 0.5) * across, top + (row - 4) / 2)
                painter.setPen(QPen(colours.colour("faint"), 1.2))
                painter.setBrush(colours.colour("ground"))
                painter.drawEllipse(middle, across / 2 - 1, across / 2 - 1)
                painter.setPen(colours.colour("ink"))
                painter.setFont(font(11.5 if across >= 24 else 9))
                around = QRectF(middle.x() - across / 2, top, across, row - 4)
                painter.drawText(around, Qt.AlignmentFlag.AlignCenter, str(cell.number))
            left = LABEL + matched.asked.parallel * across + GAP
            held = float(matched.capacity_mah[place])
            least = held <= matched.least_mah * (1 + 1e-9)
            width = max(self.width() - FIGURES - left, 10.0)
            painter.fillRect(QRectF(left, top + row / 2 - 4, width, 4), colours.colour("rule"))
            share = (held - low) / max(high - low, 1e-9)
            painter.fillRect(
                QRectF(left, top + row / 2 - 4, width * share, 4), colours.colour("ochre" if least else "verdigris")
            )
            painter.setFont(font(11.5, strong=least))
            painter.setPen(colours.colour("ink"))
            ohm = 1e3 / float(matched.siemens[place])
            words = f"{format_mah(held)}   {format_number(ohm, 2)} mΩ{'   least' if least else ''}"
            painter.drawText(
                QRectF(self.width() - FIGURES + GAP, top, FIGURES - GAP, row - 4), Qt.AlignmentFlag.AlignVCenter, words
            )
