"""Claims of the present cell's sheet, each with a mark, a sentence and its arithmetic."""

from __future__ import annotations

from collections import Counter
from collections.abc import Sequence

from PyQt6.QtCore import QRectF, QSize, Qt, pyqtSignal
from PyQt6.QtGui import QPainter, QPaintEvent
from PyQt6.QtWidgets import QHBoxLayout, QPushButton, QVBoxLayout, QWidget

from wise_cellar.core.shelf import Claim, Verdict
from wise_cellar.core.units import TOLD, format_amps, format_significant
from wise_cellar.ui.stations.cells.shelf_line import MARK_OF
from wise_cellar.ui.theme import colours_of, font
from wise_cellar.ui.widgets.labels import Label, tip
from wise_cellar.ui.widgets.marks import draw_mark
from wise_cellar.ui.widgets.panel import empty, note, sheet


class _Mark(QWidget):
    """The drawn mark of a verdict."""

    def __init__(self, verdict: Verdict) -> None:
        super().__init__()
        self._verdict = verdict
        self.setFixedSize(QSize(16, 20))
        self.setToolTip(tip(verdict.words))
        self.setAccessibleName(verdict.words)

    def paintEvent(self, _event: QPaintEvent | None) -> None:
        """Draw it."""
        draw_mark(QPainter(self), MARK_OF[self._verdict], QRectF(1, 4, 13, 13), colours_of(self))


class ClaimsPanel(QWidget):
    """One entry a claim; the current that can be held is offered as the cell's limit."""

    trust_asked = pyqtSignal(object)

    def __init__(self) -> None:
        super().__init__()
        column = QVBoxLayout(self)
        column.setContentsMargins(0, 0, 0, 0)
        panel, self._inside = sheet(spacing=10)
        column.addWidget(panel)
        self.title = Label()
        self.title.setFont(font(15, strong=True))
        self.title.setWordWrap(True)
        self._inside.addWidget(self.title)
        self._entries = QVBoxLayout()
        self._entries.setSpacing(12)
        self._inside.addLayout(self._entries)
        self.trust = QPushButton()
        self.trust.clicked.connect(lambda: self.trust_asked.emit(self._offer))
        self.trust.hide()
        self._inside.addWidget(self.trust, 0, Qt.AlignmentFlag.AlignLeft)
        self._offer: float | None = None
        self.claims: tuple[Claim, ...] = ()

    def show_claims(self, name: str, claims: Sequence[Claim]) -> None:
        """Show these claims."""
        self.claims = tuple(claims)
        counts = Counter(claim.verdict for claim in claims if claim.verdict is not Verdict.HOLDS)
        faults = ", ".join(f"{count} {verdict.words}" for verdict, count in sorted(counts.items(), reverse=True))
        rest = f"of {len(claims)} claims {faults}" if faults else "all claims hold"
        self.title.setText(f"{name}: {rest}")
        empty(self._entries)
        for claim in claims:
            self._entries.addWidget(_entry(claim))

    def offer(self, held_a: float, rated_a: float, trusted_a: float | None) -> None:
        """Offer the current that can be held as the limit, or the way back to the claim."""
        self.trust.setVisible(trusted_a is not None or held_a < 0.98 * rated_a)
        if trusted_a is None:
            self._offer = round(held_a, 1)
            self.trust.setText(f"Use {format_amps(self._offer, TOLD)} as its limit")
        else:
            self._offer = None
            self.trust.setText(
                f"Back to the claimed {format_significant(rated_a, 3)} A (now {format_amps(trusted_a, TOLD)})"
            )


def _entry(claim: Claim) -> QWidget:
    widget = QWidget()
    row = QHBoxLayout(widget)
    row.setContentsMargins(0, 0, 0, 0)
    row.setSpacing(8)
    row.addWidget(_Mark(claim.verdict), 0, Qt.AlignmentFlag.AlignTop)
    column = QVBoxLayout()
    column.setSpacing(1)
    title = Label(f"{claim.title}: {claim.verdict.words}")
    title.setFont(font(13, strong=True))
    title.setWordWrap(True)
    column.addWidget(title)
    sentence = note(claim.sentence, role="")
    sentence.setFont(font(13))
    column.addWidget(sentence)
    column.addWidget(note(claim.arithmetic))
    row.addLayout(column, 1)
    return widget
