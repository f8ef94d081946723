"""Both faces of a pack on paper at true scale: a template to lay numbered cells on."""

from __future__ import annotations

from collections.abc import Iterator, Sequence
from dataclasses import dataclass
from pathlib import Path

from PyQt6.QtCore import QMarginsF, QPointF, QRectF, QSizeF, Qt
from PyQt6.QtGui import QColor, QFontMetricsF, QPageLayout, QPageSize, QPainter, QPdfWriter, QPen

from wise_cellar.core.documents import DocumentError
from wise_cellar.core.pack import Face, PackBuild
from wise_cellar.core.units import format_mm
from wise_cellar.store.reading import told
from wise_cellar.ui.theme import font
from wise_cellar.ui.widgets.faces import FaceView, faces_of

DPI, MM_PER_INCH = 300, 25.4
PAGE_MM = QSizeF(210.0, 297.0)
MARGIN_MM, HEAD_MM, FOOT_MM = 12.0, 16.0, 26.0
OVERLAP_MM = 10.0
"""By which neighbouring pages show the same."""
RULER_MM = 100
INK, PALE = QColor("#000000"), QColor("#d8d8d8")
CAUTION = (
    "Insulating rings on every positive end before any strip. Cover the face you are not working on. Rings,"
    " watch and tools off the bench."
)


@dataclass(frozen=True)
class SheetPage:
    """A page: the face it shows, and the corner of that face which lies at its upper left, mm."""

    face: FaceView
    left_mm: float
    top_mm: float
    number: int
    of: int


def room_mm() -> tuple[float, float]:
    """What of a page is free for a face, across and down."""
    return PAGE_MM.width() - 2 * MARGIN_MM, PAGE_MM.height() - 2 * MARGIN_MM - HEAD_MM - FOOT_MM


def sheet_pages(build: PackBuild) -> list[SheetPage]:
    """The pages of all faces; a face that is larger than a page goes over several, which overlap."""
    layout = build.layout
    across, down = room_mm()
    wide = max(cell.x_mm for cell in layout.cells) + layout.body_mm[0] / 2
    deep = max(cell.y_mm for cell in layout.cells) + layout.body_mm[1] / 2
    found = []
    for tier, face, title in faces_of(build):
        turned = wide > across >= deep
        along, high = (deep, wide) if turned else (wide, deep)
        view = FaceView(face, tier, title, QPointF(0, 0), DPI / MM_PER_INCH, along, turned)
        corners = [(x, y) for y in _starts(high, down) for x in _starts(along, across)]
        found += [SheetPage(view, x, y, number, len(corners)) for number, (x, y) in enumerate(corners, 1)]
    return found


def _starts(whole: float, room: float) -> Iterator[float]:
    """Where pages begin along a side."""
    start = 0.0
    yield start
    while start + room < whole:
        start += room - OVERLAP_MM
        yield start


def write_faces(path: Path, build: PackBuild, title: str, groups: Sequence[Sequence[int]]) -> int:
    """Write the template as a PDF; returns the number of pages. ``groups`` are the numbers of the cells of each group.

    Raises :class:`DocumentError` where it cannot be written.
    """
    try:
        with path.open("ab"):
            pass
    except OSError as error:
        raise DocumentError(f"{told(path.name)} cannot be written: {error.strerror}.") from error
    writer = QPdfWriter(str(path))
    writer.setResolution(DPI)
    page = QPageSize(PAGE_MM, QPageSize.Unit.Millimeter, "A4")
    writer.setPageLayout(QPageLayout(page, QPageLayout.Orientation.Portrait, QMarginsF(0, 0, 0, 0)))
    writer.setTitle(title)
    painter = QPainter(writer)
    pages = sheet_pages(build)
    for place, one in enumerate(pages):
        if place:
            writer.newPage()
        paint_page(painter, build, one, title, groups)
    painter.end()
    return len(pages)


def paint_page(
    painter: QPainter, build: PackBuild, page: SheetPage, title: str, groups: Sequence[Sequence[int]]
) -> None:
    """One page, in dots of the paper; any painter of ``DPI`` dots an inch will do."""
    dot = DPI / MM_PER_INCH
    across, down = room_mm()
    painter.setRenderHint(QPainter.RenderHint.Antialiasing)
    head = f"{title}: {page.face.title.lower()}" + (f", page {page.number} of {page.of}" if page.of > 1 else "")
    _words(painter, QRectF(MARGIN_MM, MARGIN_MM, across, HEAD_MM), head, 4.6, strong=True)
    painter.save()
    painter.translate(MARGIN_MM * dot, (MARGIN_MM + HEAD_MM) * dot)
    painter.setClipRect(QRectF(-dot, -dot, (across + 2) * dot, (down + 2) * dot))
    painter.translate(-page.left_mm * dot, -page.top_mm * dot)
    _face(painter, build, page.face, groups)
    painter.restore()
    _ruler(painter)
    _words(painter, QRectF(MARGIN_MM, PAGE_MM.height() - MARGIN_MM - 10, across, 10), CAUTION, 3.0)


def _face(painter: QPainter, build: PackBuild, view: FaceView, groups: Sequence[Sequence[int]]) -> None:
    layout, dot = build.layout, view.scale
    numbers = [list(group) for group in groups]
    # In the order of the layout, so that a cell has the same number on both faces.
    taken = [
        numbers[cell.group].pop(0) if cell.group < len(numbers) and numbers[cell.group] else 0 for cell in layout.cells
    ]
    painter.setPen(QPen(PALE, build.recipe.strip.width_mm * dot, Qt.PenStyle.SolidLine, Qt.PenCapStyle.FlatCap))
    for run in layout.strips:
        if view.shows(layout, run):
            painter.drawLine(view.at(run.start_mm), view.at(run.end_mm))
    for cell, number in zip(layout.cells, taken, strict=True):
        if cell.tier != view.tier:
            continue
        box = view.body(layout, cell)
        painter.setPen(QPen(INK, 0.35 * dot))
        painter.setBrush(Qt.BrushStyle.NoBrush)
        standing = build.cell.form_factor.cylindrical and not layout.lying
        (painter.drawEllipse if standing else painter.drawRect)(box)
        up = cell.positive_up == (view.face is Face.TOP)
        painter.setPen(QPen(INK, 0.5 * dot))
        if standing and up:
            painter.drawEllipse(box.center(), 4.0 * dot, 4.0 * dot)
        middle = QRectF(box.x() / dot, box.center().y() / dot - 4.5, box.width() / dot, 5)
        _words(painter, middle, "+" if up else "−", 5.0, strong=True, centred=True)
        if number:
            under = QRectF(box.x() / dot, box.center().y() / dot + 4.4, box.width() / dot, 4)
            _words(painter, under, f"{number} · group {cell.group + 1}", 2.4, centred=True)


def _ruler(painter: QPainter) -> None:
    """To check that the printer kept the scale."""
    dot, y = DPI / MM_PER_INCH, PAGE_MM.height() - MARGIN_MM - FOOT_MM + 10
    painter.setPen(QPen(INK, 0.25 * dot))
    painter.drawLine(QPointF(MARGIN_MM * dot, y * dot), QPointF((MARGIN_MM + RULER_MM) * dot, y * dot))
    for mm in range(0, RULER_MM + 1, 5):
        tall = 4.0 if mm % 10 == 0 else 2.5
        x = (MARGIN_MM + mm) * dot
        painter.drawLine(QPointF(x, y * dot), QPointF(x, (y - tall) * dot))
    words = f"This is {format_mm(RULER_MM, 1)}. If a ruler says otherwise, print without fitting to the page."
    _words(painter, QRectF(MARGIN_MM + RULER_MM + 3, y - 5, 80, 9), words, 2.8)


def _words(
    painter: QPainter, box_mm: QRectF, text: str, high_mm: float, *, strong: bool = False, centred: bool = False
) -> None:
    """Words of a height in millimetres, wrapped in a box."""
    dot = DPI / MM_PER_INCH
    face = font(13, strong=strong)
    face.setPixelSize(max(round(high_mm * dot), 1))
    painter.setFont(face)
    painter.setPen(INK)
    box = QRectF(box_mm.x() * dot, box_mm.y() * dot, box_mm.width() * dot, box_mm.height() * dot)
    if centred:
        wide = QFontMetricsF(face).horizontalAdvance(text)
        box.adjust(-wide / 2, 0, wide / 2, 0)
        painter.drawText(box, Qt.AlignmentFlag.AlignCenter, text)
    else:
        painter.drawText(box, Qt.TextFlag.TextWordWrap, text)
