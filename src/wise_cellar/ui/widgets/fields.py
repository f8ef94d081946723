"""Fields bound to a path of the present design: they show its value and ask the session to change it."""

from __future__ import annotations

from collections.abc import Callable
from datetime import date
from enum import Enum
from typing import Any

from PyQt6 import sip
from PyQt6.QtCore import Qt, QTimer
from PyQt6.QtGui import QFontMetricsF
from PyQt6.QtWidgets import QComboBox, QHBoxLayout, QLabel, QLineEdit, QVBoxLayout, QWidget

from wise_cellar.core.answer import Severity
from wise_cellar.core.documents import CompleteDesign, Document, DocumentError, field_info
from wise_cellar.core.shown import shown
from wise_cellar.core.units import QuantityError, entry_text, parse_typed
from wise_cellar.core.words import upper_first
from wise_cellar.handbook import meaning_of
from wise_cellar.store import WorkspaceError
from wise_cellar.ui.state.session import Session
from wise_cellar.ui.theme import font, polish_again
from wise_cellar.ui.widgets.chooser import Chooser
from wise_cellar.ui.widgets.entry_line import EntryLine
from wise_cellar.ui.widgets.labels import Label, tip, unit_label
from wise_cellar.ui.widgets.panel import note, reveal
from wise_cellar.ui.widgets.register import Register
from wise_cellar.ui.widgets.source_drawing import EstimateMark
from wise_cellar.ui.widgets.tick_box import TickBox

LABEL_WIDTH = 150
ENTRY_WIDTH = 96

FIELDS: Register[Field] = Register()
"""All fields that there are."""


class Field(QWidget):
    """A labelled field at ``path``. A refused entry stays visible with its sentence and changes nothing."""

    def __init__(self, session: Session, path: str, title: str = "") -> None:
        super().__init__()
        FIELDS.put(self)
        self.session, self.path = session, path
        self.info = field_info(CompleteDesign, path)
        self._shown_of: Document | None = None
        """The document whose value is shown."""
        self.title = title or upper_first(self.info.title)
        self._column = QVBoxLayout(self)
        self._column.setContentsMargins(0, 0, 0, 0)
        self._column.setSpacing(2)
        self._row = QHBoxLayout()
        self._row.setSpacing(6)
        self._label = Label(self.title)
        self._label.setFixedWidth(LABEL_WIDTH)
        self._label.setWordWrap(QFontMetricsF(font()).horizontalAdvance(self.title) > LABEL_WIDTH)
        self._row.addWidget(self._label)
        self._column.addLayout(self._row)
        self._errors = self._column
        self._error: QLabel | None = None
        self._finding: QLabel | None = None
        self._marked = ""
        meaning = meaning_of(self.title)
        self._help = "\n".join(part for part in (self.info.description, meaning) if part)
        if self._help:
            self.setToolTip(tip(self._help))

    @property
    def entry(self) -> QWidget:
        """The widget that takes the keys."""
        raise NotImplementedError

    def refresh(self) -> None:
        """Show the present value, and what is to be careful about in it; in the same document it is the same."""
        document = self.session.document(self.path)
        if document is not self._shown_of:
            self._show_value()
            self._shown_of = document
        self._mark()

    def _show_value(self) -> None:
        raise NotImplementedError

    def _mark(self) -> None:
        """The first finding that hangs on this very field: a sentence under it, in a row of fields a tooltip."""
        found = next((f for f in self.session.answer.findings if f.field == self.path), None)
        sentence = found.sentence if found is not None else ""
        if sentence == self._marked:
            return
        self._marked = sentence
        self.setToolTip(tip(sentence or self._help))
        if self._finding is None:
            self._finding = note()
            self._column.addWidget(self._finding)
        over = found is not None and found.severity is Severity.OVER
        self._finding.setProperty("role", "error" if over else "caution")
        polish_again([self._finding])
        self._finding.setText(sentence)
        self._finding.setVisible(bool(sentence) and not self._label.isHidden())

    def finding_text(self) -> str:
        """What is to be careful about in this field, or nothing."""
        return self._marked

    def set_label_width(self, width: int) -> None:
        """Give the label another width; a long title wraps."""
        self._label.setFixedWidth(width)
        self._label.setWordWrap(True)

    def say_in(self, column: QVBoxLayout) -> None:
        """Say why an entry was refused in another column, under what is first in it; here it would be squeezed."""
        self._errors = column

    def hide_label(self) -> None:
        """Show the entry alone; the label stays its accessible name."""
        self._label.hide()

    def hide_unit(self) -> None:
        """Show the entry without its unit; fields without one have nothing to hide."""

    def error_text(self) -> str:
        """The sentence shown, or nothing."""
        return self._error.text() if self._error is not None and not self._error.isHidden() else ""

    def _bind(self, widget: QWidget) -> None:
        widget.setAccessibleName(self.title)
        widget.setAccessibleDescription(self.info.description or shown(self.info.unit.symbol).symbol)
        self._label.setBuddy(widget)

    def _say(self, sentence: str) -> None:
        if sentence == self.error_text():
            return  # polishing a widget again is slow, and every refresh of every field comes here
        if self._error is None:
            self._error = note(role="error")
            self._errors.insertWidget(1, self._error)
        self._error.setText(sentence)
        self._error.setVisible(bool(sentence))
        if sentence:
            # The layout learns of the sentence's height only when the event loop runs again.
            QTimer.singleShot(0, self._reveal_error)
        self.entry.setProperty("wrong", "true" if sentence else "false")
        polish_again([self.entry])

    def _reveal_error(self) -> None:
        if not sip.isdeleted(self) and self._error is not None and not self._error.isHidden():
            reveal(self._error)

    @property
    def stands(self) -> bool:
        """Whether what it stands for is there: a test may be removed, a row may go, while its field is still here."""
        try:
            self.session.value(self.path)
        except KeyError:
            return False
        return True

    def _submit(self, value: Any) -> bool:
        return self._try(lambda: self.session.edit(self.path, value))

    def _try(self, edit: Callable[[], object]) -> bool:
        """Make an edit; ``False``, with the sentence shown, when it is refused."""
        try:
            edit()
        except (DocumentError, WorkspaceError) as error:
            self._say(str(error))
            return False
        self._say("")
        return True


class QuantityField(Field):
    """A number with its unit. ``default`` words the placeholder of an optional one left empty."""

    def __init__(self, session: Session, path: str, title: str = "", default: Callable[[], str] | None = None) -> None:
        super().__init__(session, path, title)
        self._default = default
        self._estimate: EstimateMark | None = None
        self._line = EntryLine()
        self._line.setAlignment(Qt.AlignmentFlag.AlignRight)
        self._line.setMinimumWidth(64)
        self._line.setMaximumWidth(ENTRY_WIDTH)
        self._line.submitted.connect(self._typed)
        self._unit = unit_label(self.info.unit)
        self._row.addStretch(1)
        self._row.addWidget(self._line, 2)
        self._row.addWidget(self._unit)
        self._bind(self._line)

    @property
    def entry(self) -> QLineEdit:
        """The line."""
        return self._line

    def refresh(self) -> None:
        """Show the present value, and in words what goes for it where there is none."""
        super().refresh()
        if self._default is not None:
            self._line.setPlaceholderText(self._default())

    def hide_unit(self) -> None:
        """Show the number alone."""
        self._unit.hide()
        self._line.setMinimumWidth(36)

    def _show_value(self) -> None:
        text = self._text()
        self._line.show_text(text)
        if self._line.text() == text:
            self._say("")
        self._show_estimate()

    def _show_estimate(self) -> None:
        """A mark where the value is a usual one that nobody has told."""
        inside = self.path.removeprefix("craft.")
        guessed = inside != self.path and self.session.complete.craft.is_estimate(inside)
        if guessed and self._estimate is None:
            self._estimate = EstimateMark()
            self._row.addWidget(self._estimate)
        if self._estimate is not None:
            self._estimate.setVisible(guessed)

    def _text(self) -> str:
        value = self.session.value(self.path)
        return "" if value is None else entry_text(value, self.info.unit, whole=self.info.whole)

    def _typed(self, text: str) -> None:
        if not self.stands:
            self._line.accept_shown("")
            return
        if not text.strip():
            if self.info.optional:
                if self._submit(None):
                    self._line.accept_shown(self._text())
            else:
                self._say(f"{self.title} needs a value; write {self.info.unit.example}.")
            return
        if text == self._text():
            self._say("")
            return
        try:
            value = parse_typed(text, self.info.unit)
        except QuantityError as error:
            self._say(f"{self.title}: {error}")
            return
        if self._submit(int(value) if self.info.whole and value == int(value) else value):
            self._line.accept_shown(self._text())


class TextField(Field):
    """A line of text, such as a name."""

    def __init__(self, session: Session, path: str, title: str = "") -> None:
        super().__init__(session, path, title)
        self._line = EntryLine()
        self._line.setProperty("role", "name")
        self._line.submitted.connect(self._typed)
        self._row.addWidget(self._line, 1)
        self._bind(self._line)

    @property
    def entry(self) -> EntryLine:
        """The line."""
        return self._line

    def _show_value(self) -> None:
        text = str(self.session.value(self.path))
        self._line.show_text(text)
        self._line.setToolTip(tip(text))  # a long name is cut in its line

    def _typed(self, text: str) -> None:
        if not self.stands:
            self._line.accept_shown("")
        elif self._submit(text):
            self._line.accept_shown(str(self.session.value(self.path)))


class DateField(TextField):
    """A date as ``2026-03-14``, or none."""

    def __init__(self, session: Session, path: str, title: str = "") -> None:
        super().__init__(session, path, title)
        self.entry.setPlaceholderText("such as 2026-03-14")

    def _show_value(self) -> None:
        self.entry.show_text(self._text())

    def _text(self) -> str:
        value = self.session.value(self.path)
        return "" if value is None else str(value.isoformat())

    def _typed(self, text: str) -> None:
        if not self.stands:
            self.entry.accept_shown("")
        elif self._submit(text.strip() or None):
            self.entry.accept_shown(self._text())


class ChoiceField(Field):
    """One of the members of an enumeration."""

    def __init__(self, session: Session, path: str, title: str = "") -> None:
        super().__init__(session, path, title)
        members: type[Enum] = self.info.annotation
        self._members = list(members)
        self._box = Chooser()
        self._box.setSizeAdjustPolicy(QComboBox.SizeAdjustPolicy.AdjustToMinimumContentsLengthWithIcon)
        self._box.setMinimumContentsLength(8)
        self._box.addItems([str(getattr(member, "words", member.value)) for member in self._members])
        self._box.setFont(font())
        self._box.activated.connect(self._chosen)
        self._row.addWidget(self._box, 1)
        self._bind(self._box)

    @property
    def entry(self) -> QComboBox:
        """The box."""
        return self._box

    def _show_value(self) -> None:
        self._box.setCurrentIndex(self._members.index(self.session.value(self.path)))

    def _chosen(self, index: int) -> None:
        if not self._submit(self._members[index]):
            self._show_value()


class CheckField(Field):
    """Yes or no."""

    def __init__(self, session: Session, path: str, title: str = "") -> None:
        super().__init__(session, path, title)
        self._box = TickBox()
        self._box.clicked.connect(self._ticked)
        self._row.addStretch(1)
        self._row.addWidget(self._box)
        self._row.addSpacing(40)
        self._bind(self._box)

    @property
    def entry(self) -> TickBox:
        """The box."""
        return self._box

    def _show_value(self) -> None:
        self._box.setChecked(bool(self.session.value(self.path)))

    def _ticked(self, on: bool) -> None:
        if not self._submit(on):
            self._show_value()


def field_for(session: Session, path: str, title: str = "") -> Field:
    """The kind of field that fits ``path``."""
    annotation = field_info(CompleteDesign, path).annotation
    if isinstance(annotation, type) and issubclass(annotation, Enum):
        return ChoiceField(session, path, title)
    if annotation is bool:
        return CheckField(session, path, title)
    if annotation is date:
        return DateField(session, path, title)
    return TextField(session, path, title) if annotation is str else QuantityField(session, path, title)
