"""Sheets of the Help menu."""

from __future__ import annotations

from collections.abc import Sequence

from PyQt6.QtWidgets import QDialog, QGridLayout, QVBoxLayout, QWidget

from wise_cellar import __version__
from wise_cellar.ui.theme import font
from wise_cellar.ui.widgets.labels import Label
from wise_cellar.ui.widgets.panel import dialog_column, note

# Keys that widgets take for themselves, beside the bindings of the commands.
WIDGET_KEYS = (
    ("These keys", "F1 in the handbook"),
    ("Step the token in focus", "Up, Down, wheel"),
    ("Next token", "Tab"),
    ("Open the token in focus", "Enter"),
    ("Move the cursor of the flight, or the crosshair", "Left, Right"),
    ("Take the cell in focus on the shelf", "Enter"),
    ("Copy the shelf as text", "Ctrl+C"),
)

TRUST = (
    "Each answer is a simulated flight, not a formula: cell, wiring, motors and mission are stepped through time. Where"
    " you gave no measurement, estimates for the class are used: drive efficiency within about 8 %, a cell's resistance"
    " within 15 %, cooling within 40 %. The range beside the minutes comes from 200 flights in which capacity,"
    " resistance, drive and mass are varied by what is known of each: 8 of 10 fall into it. Wear, gusts, a cell that"
    " is not what its label says are not in it.",
    "Lithium-ion cells burn. Test a new pack on the bench first, charge it under supervision, and land with a margin."
    " Rules for aircraft mass, for flying and for carrying batteries are local: check yours.",
)

ABOUT = (
    "Design lithium-ion packs for drones and see how long they fly.",
    "Free software under the GNU General Public License, version 3 or later.",
    "Typeface: Cellar Sans, made from Source Sans 3, under the SIL Open Font License 1.1.",
)

TWO_COLUMNS_PX = 780


def shortcuts_sheet(owner: QWidget, bindings: Sequence[tuple[str, str]]) -> QDialog:
    """Open a sheet of every binding, in two columns where there is room."""
    dialog, column = _sheet(owner, "Shortcuts")
    grid = QGridLayout()
    grid.setHorizontalSpacing(24)
    keys = [*bindings, *WIDGET_KEYS]
    rows = -(-len(keys) // (2 if owner.width() >= TWO_COLUMNS_PX else 1))
    for place, (words, sequence) in enumerate(keys):
        strong = Label(sequence)
        strong.setFont(font(13, strong=True))
        grid.addWidget(Label(words), place % rows, 2 * (place // rows))
        grid.addWidget(strong, place % rows, 2 * (place // rows) + 1)
    column.addLayout(grid)
    dialog.open()
    return dialog


def trust_sheet(owner: QWidget, present: str) -> QDialog:
    """Open a sheet on what the answer rests on; ``present`` words the doubts of the present design."""
    now = f"Here: {present}." if present else ""
    return _text_sheet(owner, "How far to trust the answer", [text for text in (*TRUST, now) if text])


def about_sheet(owner: QWidget) -> QDialog:
    """Open a sheet with name, version and licences."""
    return _text_sheet(owner, f"Wise Cellar {__version__}", ABOUT)


def _text_sheet(owner: QWidget, title: str, paragraphs: Sequence[str]) -> QDialog:
    dialog, column = _sheet(owner, title)
    for paragraph in paragraphs:
        words = note(paragraph, role="")
        words.setFont(font(13))
        words.setMinimumWidth(520)
        column.addWidget(words)
    dialog.open()
    return dialog


def _sheet(owner: QWidget, title: str) -> tuple[QDialog, QVBoxLayout]:
    dialog = QDialog(owner)
    return dialog, dialog_column(dialog, title)
