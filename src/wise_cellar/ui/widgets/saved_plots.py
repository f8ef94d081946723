"""Pictures that can be saved: as PNG or SVG with their caption and key, or as the table that they draw."""

from __future__ import annotations

import html
from pathlib import Path

from PyQt6.QtCore import QRectF, QSize
from PyQt6.QtGui import QImage, QPainter, QTextDocument
from PyQt6.QtSvg import QSvgGenerator
from PyQt6.QtWidgets import QSizePolicy

from wise_cellar.core.documents import DocumentError
from wise_cellar.store.reading import write_picture, write_whole
from wise_cellar.ui.theme import colours_of
from wise_cellar.ui.widgets.labels import formatted
from wise_cellar.ui.widgets.panel import note
from wise_cellar.ui.widgets.plots import ThemedPlots

CAPTION_PX = 48


class SavedPlots(ThemedPlots):
    """Plots with a key above them; what is drawn can be saved."""

    def __init__(self) -> None:
        super().__init__()
        self.setSizePolicy(QSizePolicy.Policy.Expanding, QSizePolicy.Policy.Expanding)
        self.key = formatted(note())

    def key_words(self) -> str:
        """Rich text of the key."""
        raise NotImplementedError

    def as_csv(self) -> str:
        """What is drawn as a table, units in the column names."""
        raise NotImplementedError

    def save(self, path: Path, caption: str) -> None:
        """Save as PNG, SVG or CSV by the name's ending; raises :class:`DocumentError` with a sentence."""
        kind = path.suffix.lower()
        if kind not in (".png", ".svg", ".csv"):
            raise DocumentError(f"{path.name} must end in .png, .svg or .csv, which says what is saved.")
        if kind == ".csv":
            write_whole(path, self.as_csv())
            return
        size = QSize(self.width(), self.height() + CAPTION_PX)
        draw = self._png if kind == ".png" else self._svg
        write_picture(path, lambda part: draw(part, size, caption))

    def _png(self, path: str, size: QSize, caption: str) -> bool:
        image = QImage(size * 2, QImage.Format.Format_ARGB32)
        image.setDevicePixelRatio(2.0)
        self._paint(QPainter(image), size, caption)
        return image.save(path, "PNG")

    def _svg(self, path: str, size: QSize, caption: str) -> bool:
        generator = QSvgGenerator()
        generator.setFileName(path)
        generator.setSize(size)
        generator.setViewBox(QRectF(0, 0, size.width(), size.height()))
        generator.setTitle(caption)
        self._paint(QPainter(generator), size, caption)
        return Path(path).stat().st_size > 0

    def _paint(self, painter: QPainter, size: QSize, caption: str) -> None:
        self.draw_now()
        colours = colours_of(self)
        painter.setRenderHint(QPainter.RenderHint.Antialiasing)
        painter.fillRect(QRectF(0, 0, size.width(), size.height()), colours.colour("sheet"))
        words = QTextDocument()
        words.setDefaultFont(self.key.font())
        words.setTextWidth(size.width() - 16)
        words.setHtml(f'<span style="color:{colours.ink}">{html.escape(caption)}</span><br>{self.key_words()}')
        painter.translate(8, 4)
        words.drawContents(painter)
        painter.translate(-8, -4)
        target = QRectF(0, CAPTION_PX, size.width(), size.height() - CAPTION_PX)
        self.scene().render(painter, target, QRectF(self.rect()))
        painter.end()
