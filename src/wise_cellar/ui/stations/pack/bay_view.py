"""The bay from above: where the pack lies in it, what must stay free, and the balance point."""

from __future__ import annotations

from PyQt6.QtCore import QPointF, QRectF, QSize, Qt
from PyQt6.QtGui import QPainter, QPainterPath, QPaintEvent, QPen
from PyQt6.QtWidgets import QSizePolicy

from wise_cellar.core.documents import Bay
from wise_cellar.core.pack import Stowed
from wise_cellar.core.units import format_mm, format_size
from wise_cellar.ui.theme import colours_of, font
from wise_cellar.ui.widgets.hatching import hatch
from wise_cellar.ui.widgets.picture import Picture


class BayView(Picture):
    """Ahead is to the right."""

    def __init__(self) -> None:
        super().__init__("The bay from above")
        self._bay: Bay | None = None
        self._stowed: Stowed | None = None
        self.setSizePolicy(QSizePolicy.Policy.Expanding, QSizePolicy.Policy.Expanding)
        self.setMinimumSize(200, 90)

    def sizeHint(self) -> QSize:
        """Wide and low, as bays are."""
        return QSize(300, 130)

    def show_bay(self, bay: Bay | None, stowed: Stowed | None) -> None:
        """Show the bay with the pack in it, or without where it does not go in."""
        self._bay, self._stowed = bay, stowed
        self.tell(_words(bay, stowed))
        self.update()

    def paintEvent(self, _event: QPaintEvent | None) -> None:
        """Bay, pack and what is kept free."""
        bay, stowed, colours = self._bay, self._stowed, colours_of(self)
        painter = QPainter(self)
        painter.setRenderHint(QPainter.RenderHint.Antialiasing)
        painter.setFont(font(11.5))
        painter.setPen(colours.colour("faint"))
        if bay is None:
            painter.drawText(self.rect(), Qt.AlignmentFlag.AlignCenter, "No bay yet: add its size at Craft.")
            return
        scale = min((self.width() - 60) / bay.length_mm, (self.height() - 8) / bay.width_mm)
        left, top = (self.width() - 40 - bay.length_mm * scale) / 2, (self.height() - bay.width_mm * scale) / 2

        def box(x: float, y: float, length: float, width: float) -> QRectF:
            return QRectF(left + x * scale, top + y * scale, length * scale, width * scale)

        painter.setBrush(colours.colour("ground"))
        whole = box(0, 0, bay.length_mm, bay.width_mm)
        painter.drawRect(whole)
        painter.drawText(QPointF(whole.right() + 6, whole.center().y() + 4), "ahead")
        if stowed is not None:
            painter.setPen(QPen(colours.colour("verdigris"), 1.6))
            painter.setBrush(colours.colour("rule"))
            pack = box(stowed.x_mm, stowed.y_mm, stowed.size_mm[0], stowed.size_mm[1])
            painter.drawRect(pack)
            painter.setPen(colours.colour("ink"))
            painter.drawText(pack, Qt.AlignmentFlag.AlignCenter, "pack")
        for kept in bay.keep_outs:
            free = box(kept.x_mm, kept.y_mm, kept.length_mm, kept.width_mm).intersected(whole)
            path = QPainterPath()
            path.addRect(free)
            hatch(painter, path, colours.colour("ochre"))
            name = painter.boundingRect(free, int(Qt.AlignmentFlag.AlignCenter), kept.name)
            painter.fillRect(name.adjusted(-3, 0, 3, 0), colours.colour("sheet"))
            painter.drawText(free, Qt.AlignmentFlag.AlignCenter, kept.name)


def _words(bay: Bay | None, stowed: Stowed | None) -> str:
    """What is drawn, in a sentence."""
    if bay is None:
        return "No bay yet."
    room = format_size(bay.length_mm, bay.width_mm, bay.height_mm).replace("×", "by")
    if stowed is None:
        return f"A bay of {room}; the pack does not go in."
    ahead = stowed.centre_mm(bay)
    where = f"{format_mm(abs(ahead))} {'ahead of' if ahead >= 0 else 'behind'} the middle"
    return f"A bay of {room}; the pack's middle is {where}, with {format_mm(stowed.spare_mm)} to spare."
