"""What is worth changing, each with its grams and its minutes, and a button that does it."""

from __future__ import annotations

from PyQt6.QtCore import Qt, pyqtSignal
from PyQt6.QtWidgets import QHBoxLayout, QPushButton, QVBoxLayout, QWidget

from wise_cellar.core.advice import Outcome, PackStudy
from wise_cellar.core.answer import Answer
from wise_cellar.core.units import format_change, format_share
from wise_cellar.core.words import upper_first
from wise_cellar.ui.theme import font
from wise_cellar.ui.widgets.panel import heading, note, sheet

MOST_SHOWN = 4
WORTH_TELLING = 0.03
"""Change of a link's share, of itself, that is worth a word."""


class AdvicePanel(QWidget):
    """The change that clears the weakest link, and others worth their grams."""

    taken = pyqtSignal(object)

    def __init__(self) -> None:
        super().__init__()
        column = QVBoxLayout(self)
        column.setContentsMargins(0, 0, 0, 0)
        panel, inside = sheet(spacing=6)
        column.addWidget(panel)
        inside.addWidget(heading("Worth changing"))
        self.words = note()
        self.words.setFont(font(13))
        inside.addWidget(self.words)
        self.outcomes: tuple[Outcome, ...] = ()
        self._entries = [_Entry() for _ in range(MOST_SHOWN)]
        for place, entry in enumerate(self._entries):
            entry.button.clicked.connect(lambda _on, place=place: self.taken.emit(self.outcomes[place]))
            inside.addWidget(entry)
            entry.hide()

    def show_waiting(self) -> None:
        """The proposals are being flown; those of the design before are gone."""
        self._show("Flying the proposals…", ())

    def show_study(self, study: PackStudy, answer: Answer) -> None:
        """Show what came of them."""
        weak = answer.weak_link
        first = (study.cure,) if study.cure is not None else ()
        rest = tuple(o for o in study.worth if o is not study.cure)[: MOST_SHOWN - len(first)]
        if study.cure is not None:
            words = f"Weakest link: {weak.name}. This clears it:"
        elif weak.worst_share > 1:
            words = f"Over its limit: {weak.name}. No change of wiring clears it. {upper_first(study.would)}"
        elif weak.worst_share > 0.85:
            words = f"Near its limit: {weak.name}. No change tried here would spare it."
        elif rest:
            words = "No link is near its limit. These gain time or save mass:"
        else:
            words = "No link is near its limit, and nothing tried here gains half a per cent for its grams."
        self._show(words, first + rest)

    def _show(self, words: str, outcomes: tuple[Outcome, ...]) -> None:
        self.words.setText(words)
        self.outcomes = outcomes
        for entry, outcome in zip(self._entries, outcomes, strict=False):
            entry.words.setText(outcome_words(outcome))
            entry.button.setAccessibleName(f"Do that: {outcome.proposal.words}")
        for place, entry in enumerate(self._entries):
            entry.setVisible(place < len(outcomes))


class _Entry(QWidget):
    """What a change brings, and the button that makes it."""

    def __init__(self) -> None:
        super().__init__()
        row = QHBoxLayout(self)
        row.setContentsMargins(0, 0, 0, 0)
        self.words, self.button = note(role=""), QPushButton("Do that")
        self.words.setFont(font(13))
        row.addWidget(self.words, 1)
        row.addWidget(self.button, 0, Qt.AlignmentFlag.AlignTop)


def outcome_words(outcome: Outcome) -> str:
    """The change, then grams, seconds, and the share of the link before and after where it moves."""
    parts = [format_change(outcome.added_g, 1, "g"), format_change(outcome.gain_s, 0, "s")]
    if abs(outcome.after - outcome.before) >= WORTH_TELLING * outcome.before:
        parts.append(f"{outcome.link} {format_share(outcome.before)} → {format_share(outcome.after)}")
    told = [part for part in parts if part != "no change"] or ["no change"]
    return f"{outcome.proposal.words}: {', '.join(told)}."
