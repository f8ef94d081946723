"""Both faces of a pack on paper at true scale: a template to lay numbered cells on."""

from __future__ import annotations

from collections.abc import Iterator, Sequence
from dataclasses import dataclass
from functools import partial

from PyQt6.QtCore import QPointF, QRectF, Qt
from PyQt6.QtGui import QPen

from wise_cellar.core.pack import Face, PackBuild
from wise_cellar.core.units import format_mm
from wise_cellar.ui.stations.build.paper import DOT, INK, MARGIN_MM, PALE, Hand, Page, PaperSize
from wise_cellar.ui.widgets.faces import FaceView, faces_of

HEAD_MM, FOOT_MM = 16.0, 26.0
OVERLAP_MM = 10.0
"""By which neighbouring pages show the same."""
RULER_MM = 100
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


def room_mm(size: PaperSize) -> tuple[float, float]:
    """What of a page is free for a face, across and down."""
    across, down = size.mm
    return across - 2 * MARGIN_MM, down - 2 * MARGIN_MM - HEAD_MM - FOOT_MM


def sheet_pages(build: PackBuild, size: PaperSize) -> list[SheetPage]:
    """The pages of all faces; a face that is larger than a page goes over several, which overlap."""
    layout = build.layout
    across, down = room_mm(size)
    wide = max(cell.x_mm for cell in layout.cells) + layout.body_mm[0] / 2
    deep = max(cell.y_mm for cell in layout.cells) + layout.body_mm[1] / 2
    found = []
    for tier, face, title in faces_of(build):
        turned = wide > across >= deep
        along, high = (deep, wide) if turned else (wide, deep)
        view = FaceView(face, tier, title, QPointF(0, 0), DOT, along, turned)
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


def face_sheet(build: PackBuild, title: str, groups: Sequence[Sequence[int]], size: PaperSize) -> list[Page]:
    """The template; ``groups`` are the numbers of the cells of each group."""
    return [partial(_page, build, one, title, groups) for one in sheet_pages(build, size)]


def _page(build: PackBuild, page: SheetPage, title: str, groups: Sequence[Sequence[int]], hand: Hand) -> None:
    across, down = room_mm(hand.size)
    head = f"{title}: {page.face.title.lower()}" + (f", page {page.number} of {page.of}" if page.of > 1 else "")
    hand.words(QRectF(MARGIN_MM, MARGIN_MM, across, HEAD_MM), head, 4.6, strong=True)
    painter = hand.painter
    painter.save()
    painter.translate(MARGIN_MM * DOT, (MARGIN_MM + HEAD_MM) * DOT)
    painter.setClipRect(QRectF(-DOT, -DOT, (across + 2) * DOT, (down + 2) * DOT))
    painter.translate(-page.left_mm * DOT, -page.top_mm * DOT)
    _face(hand, build, page.face, groups)
    painter.restore()
    _ruler(hand)
    hand.words(QRectF(MARGIN_MM, hand.size.mm[1] - MARGIN_MM - 10, across, 10), CAUTION, 3.0)


def _face(hand: Hand, build: PackBuild, view: FaceView, groups: Sequence[Sequence[int]]) -> None:
    layout, painter = build.layout, hand.painter
    numbers = [list(group) for group in groups]
    # In the order of the layout, so that a cell has the same number on both faces.
    taken = [
        numbers[cell.group].pop(0) if cell.group < len(numbers) and numbers[cell.group] else 0 for cell in layout.cells
    ]
    painter.setPen(QPen(PALE, build.recipe.strip.width_mm * DOT, Qt.PenStyle.SolidLine, Qt.PenCapStyle.FlatCap))
    for run in layout.strips:
        if view.shows(layout, run):
            painter.drawLine(view.at(run.start_mm), view.at(run.end_mm))
    for cell, number in zip(layout.cells, taken, strict=True):
        if cell.tier != view.tier:
            continue
        box = view.body(layout, cell)
        painter.setPen(QPen(INK, 0.35 * DOT))
        painter.setBrush(Qt.BrushStyle.NoBrush)
        standing = build.cell.form_factor.cylindrical and not layout.lying
        (painter.drawEllipse if standing else painter.drawRect)(box)
        up = cell.positive_up == (view.face is Face.TOP)
        painter.setPen(QPen(INK, 0.5 * DOT))
        if standing and up:
            painter.drawEllipse(box.center(), 4.0 * DOT, 4.0 * DOT)
        middle = QRectF(box.x() / DOT, box.center().y() / DOT - 4.5, box.width() / DOT, 5)
        hand.words(middle, "+" if up else "−", 5.0, strong=True, centred=True)
        if number:
            under = QRectF(box.x() / DOT, box.center().y() / DOT + 4.4, box.width() / DOT, 4)
            hand.words(under, f"{number} · group {cell.group + 1}", 2.4, centred=True)


def _ruler(hand: Hand) -> None:
    """To check that the printer kept the scale."""
    y = hand.size.mm[1] - MARGIN_MM - FOOT_MM + 10
    hand.line((MARGIN_MM, y), (MARGIN_MM + RULER_MM, y))
    for mm in range(0, RULER_MM + 1, 5):
        hand.line((MARGIN_MM + mm, y), (MARGIN_MM + mm, y - (4.0 if mm % 10 == 0 else 2.5)))
    words = f"This is {format_mm(RULER_MM, 1)}. If a ruler says otherwise, print without fitting to the page."
    hand.words(QRectF(MARGIN_MM + RULER_MM + 3, y - 5, 80, 9), words, 2.8)
