"""Paper: its sizes, how things are drawn on it in millimetres, and how sheets become a PDF or go to a printer."""

from __future__ import annotations

from collections.abc import Callable, Sequence
from dataclasses import dataclass
from enum import StrEnum
from pathlib import Path

from PyQt6.QtCore import QMarginsF, QPointF, QRectF, QSizeF, Qt
from PyQt6.QtGui import QColor, QFont, QFontMetricsF, QPageLayout, QPageSize, QPainter, QPdfWriter, QPen
from PyQt6.QtPrintSupport import QPrinter

from wise_cellar.core.documents import DocumentError
from wise_cellar.store.reading import told
from wise_cellar.ui.theme import font

DPI, MM_PER_INCH = 300, 25.4
DOT = DPI / MM_PER_INCH
"""Dots a millimetre."""
MARGIN_MM = 12.0
INK, FAINT, PALE = QColor("#000000"), QColor("#555555"), QColor("#d8d8d8")
TALLEST_MM = 400.0


class PaperSize(StrEnum):
    """What printers hold."""

    A4 = "A4"
    LETTER = "Letter"

    @property
    def mm(self) -> tuple[float, float]:
        """Across and down."""
        return (210.0, 297.0) if self is PaperSize.A4 else (215.9, 279.4)

    @property
    def layout(self) -> QPageLayout:
        """Upright, without margins: sheets have their own."""
        page = QPageSize(QSizeF(*self.mm), QPageSize.Unit.Millimeter, str(self))
        return QPageLayout(page, QPageLayout.Orientation.Portrait, QMarginsF(0, 0, 0, 0))


@dataclass(frozen=True)
class Hand:
    """What draws: a painter with :data:`DPI` dots an inch, told everything in millimetres."""

    painter: QPainter
    size: PaperSize

    def words(
        self, box_mm: QRectF, text: str, high_mm: float, *, strong: bool = False, centred: bool = False,
        colour: QColor = INK,
    ) -> None:  # fmt: skip
        """Words of a height, wrapped in a box; centred ones may be wider than it."""
        self.painter.setFont(face_of(high_mm, strong=strong))
        self.painter.setPen(colour)
        box = QRectF(box_mm.x() * DOT, box_mm.y() * DOT, box_mm.width() * DOT, box_mm.height() * DOT)
        if centred:
            wide = QFontMetricsF(self.painter.font()).horizontalAdvance(text)
            box.adjust(-wide / 2, 0, wide / 2, 0)
            self.painter.drawText(box, Qt.AlignmentFlag.AlignCenter, text)
        else:
            self.painter.drawText(box, Qt.TextFlag.TextWordWrap, text)

    def line(self, start_mm: tuple[float, float], end_mm: tuple[float, float], wide_mm: float = 0.25) -> None:
        """A line."""
        self.painter.setPen(QPen(INK, wide_mm * DOT))
        self.painter.drawLine(QPointF(start_mm[0] * DOT, start_mm[1] * DOT), QPointF(end_mm[0] * DOT, end_mm[1] * DOT))

    def frame(self, box_mm: QRectF, wide_mm: float = 0.25, round_mm: float = 0.0) -> None:
        """An empty box, to write or tick in."""
        self.painter.setPen(QPen(INK, wide_mm * DOT))
        self.painter.setBrush(Qt.BrushStyle.NoBrush)
        box = QRectF(box_mm.x() * DOT, box_mm.y() * DOT, box_mm.width() * DOT, box_mm.height() * DOT)
        self.painter.drawRoundedRect(box, round_mm * DOT, round_mm * DOT)

    def dark(self, box_mm: QRectF) -> None:
        """A black field."""
        box = QRectF(box_mm.x() * DOT, box_mm.y() * DOT, box_mm.width() * DOT, box_mm.height() * DOT)
        self.painter.fillRect(box, INK)


Page = Callable[[Hand], None]


def face_of(high_mm: float, *, strong: bool = False) -> QFont:
    """The font of a height on paper."""
    face = font(13, strong=strong)
    face.setPixelSize(max(round(high_mm * DOT), 1))
    return face


def height_mm(text: str, wide_mm: float, high_mm: float, *, strong: bool = False) -> float:
    """What words take, wrapped to a width."""
    room = QRectF(0, 0, wide_mm * DOT, TALLEST_MM * DOT)
    metrics = QFontMetricsF(face_of(high_mm, strong=strong))
    return metrics.boundingRect(room, int(Qt.TextFlag.TextWordWrap), text).height() / DOT


def width_mm(text: str, high_mm: float, *, strong: bool = False) -> float:
    """What words take on one line."""
    return QFontMetricsF(face_of(high_mm, strong=strong)).horizontalAdvance(text) / DOT


def write_pdf(path: Path, pages: Sequence[Page], size: PaperSize, title: str) -> int:
    """Write pages as a PDF; how many there are. Raises :class:`DocumentError` where it cannot be written."""
    try:
        with path.open("ab"):
            pass
    except OSError as error:
        raise DocumentError(f"{told(path.name)} cannot be written: {error.strerror}.") from error
    writer = QPdfWriter(str(path))
    writer.setResolution(DPI)
    writer.setPageLayout(size.layout)
    writer.setTitle(title)
    painter = QPainter(writer)
    for place, page in enumerate(pages):
        if place:
            writer.newPage()
        draw(page, painter, size)
    painter.end()
    return len(pages)


def print_pages(printer: QPrinter, pages: Sequence[Page], size: PaperSize) -> None:
    """Print pages at their true scale, whatever the resolution of the printer."""
    printer.setFullPage(True)
    printer.setPageLayout(size.layout)
    painter = QPainter(printer)
    scale = printer.resolution() / DPI
    for place, page in enumerate(pages):
        if place:
            printer.newPage()
        painter.save()
        painter.scale(scale, scale)
        draw(page, painter, size)
        painter.restore()
    painter.end()


def draw(page: Page, painter: QPainter, size: PaperSize) -> None:
    """Draw one page."""
    painter.setRenderHint(QPainter.RenderHint.Antialiasing)
    page(Hand(painter, size))
