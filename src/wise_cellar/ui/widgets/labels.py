"""Labels and tooltips that show text as it is: a name that looks like mark-up must never be read as mark-up.

The toolkit's own label guesses from its text whether it is rich; one that was written by a stranger could then name
files to load. So every label here is plain, and what we format ourselves says so.
"""

from __future__ import annotations

import html

from PyQt6.QtCore import Qt
from PyQt6.QtWidgets import QLabel, QWidget


class Label(QLabel):
    """A line of plain text."""

    def __init__(self, text: str = "", parent: QWidget | None = None) -> None:
        super().__init__(parent)
        self.setTextFormat(Qt.TextFormat.PlainText)
        self.setText(text)


def formatted(label: QLabel) -> QLabel:
    """The label made to show mark-up of our own; whoever sets its text escapes what others wrote."""
    label.setTextFormat(Qt.TextFormat.RichText)
    return label


def tip(text: str) -> str:
    """A tooltip that shows ``text`` as it is."""
    return f"<span>{html.escape(text)}</span>" if "<" in text else text
