"""The sentence with gaps: what is filled in, what it did to the minutes, and what is taken for the rest."""

from __future__ import annotations

from collections.abc import Callable
from functools import partial
from typing import Any

from PyQt6.QtCore import QSize, Qt, pyqtSignal
from PyQt6.QtGui import QFontMetricsF, QKeyEvent
from PyQt6.QtWidgets import QHBoxLayout, QPushButton, QVBoxLayout, QWidget

from wise_cellar.core.begin import USUAL, Narrowed, narrowing
from wise_cellar.core.documents import CellType, DocumentError
from wise_cellar.core.units import (
    TOLD,
    counted,
    format_amps,
    format_grams,
    format_mm,
    format_number,
    format_quantity,
    format_watts,
    unit_of_field,
)
from wise_cellar.core.words import upper_first
from wise_cellar.store import WorkspaceError
from wise_cellar.ui.state.sentence import Sentence
from wise_cellar.ui.state.session import Session
from wise_cellar.ui.state.work import Worker
from wise_cellar.ui.stations.cellar.gaps import SENTENCE, ChosenGap, Gap, TypedGap, gap_of
from wise_cellar.ui.stations.cellar.narrowing_picture import NarrowingPicture
from wise_cellar.ui.theme import BAR_PX, font, polish_again
from wise_cellar.ui.widgets.chooser import Chooser
from wise_cellar.ui.widgets.entry_line import EntryLine
from wise_cellar.ui.widgets.flow_layout import FlowLayout
from wise_cellar.ui.widgets.labels import Label
from wise_cellar.ui.widgets.panel import heading, note, scrolling_column, sheet

SIZE, HEIGHT, LEAST = 16, 30, 46
SIDE = 270


class GapLine(EntryLine):
    """A gap that is typed into, as wide as what stands in it; Enter goes on to the next."""

    went_on = pyqtSignal()

    def __init__(self, gap: TypedGap) -> None:
        super().__init__()
        self.gap = gap
        self.setFont(font(SIZE, strong=True))
        self.setFixedHeight(HEIGHT)
        self.setAccessibleName(gap.title)
        self.setToolTip(f"{gap.title}. {gap.help}".strip())
        self.textChanged.connect(self._widen)

    def show_usual(self, text: str) -> None:
        """What is taken while it is open, in faint letters."""
        if text != self.placeholderText():
            self.setPlaceholderText(text)
            self._widen()

    def sizeHint(self) -> QSize:
        """The text, or what stands for it."""
        text = self.text() or self.placeholderText()
        return QSize(max(round(QFontMetricsF(self.font()).horizontalAdvance(text)) + 22, LEAST), HEIGHT)

    def minimumSizeHint(self) -> QSize:
        """The same."""
        return self.sizeHint()

    def _widen(self) -> None:
        self.updateGeometry()

    def keyPressEvent(self, event: QKeyEvent | None) -> None:
        """Enter takes what was typed and goes on."""
        if event is not None and event.key() in (Qt.Key.Key_Return, Qt.Key.Key_Enter) and not event.modifiers():
            if self.finish():
                self.went_on.emit()
            return
        super().keyPressEvent(event)


class GapChoice(Chooser):
    """A gap of a few choices."""

    def __init__(self, gap: ChosenGap) -> None:
        super().__init__()
        self.gap = gap
        self.values: tuple[Any, ...] = ()
        self.setFont(font(SIZE, strong=True))
        self.setFixedHeight(HEIGHT)
        self.setSizeAdjustPolicy(Chooser.SizeAdjustPolicy.AdjustToContents)
        self.setAccessibleName(gap.title)
        self.setToolTip(gap.title)

    def show_choices(self, sentence: Sentence) -> None:
        """Offer what fits, and show what was chosen."""
        choices = self.gap.choices(sentence.said, sentence.begun)
        words = [text for text, _ in choices]
        if words != [self.itemText(place) for place in range(self.count())]:
            self.clear()
            self.addItems(words)
        self.values = tuple(value for _, value in choices)
        told = getattr(sentence.said, self.gap.name)
        self.setCurrentIndex(self.values.index(told) if told in self.values else 0)


class BeginPage(QWidget):
    """The sentence above, the picture of the range under it, what is taken for open gaps beside it."""

    def __init__(self, session: Session) -> None:
        super().__init__()
        self._session = session
        self._worker = Worker(self)
        self._worker.finished.connect(self._show_narrowing)
        column = QVBoxLayout(self)
        column.setContentsMargins(0, 0, 0, 0)
        column.setSpacing(12)
        above = QHBoxLayout()
        above.setContentsMargins(0, 0, BAR_PX, 0)
        above.addWidget(self._sentence_sheet())
        column.addLayout(above)
        row = QHBoxLayout()
        row.setSpacing(12)
        panel, inside = sheet()
        inside.addWidget(heading("What every filled gap did to the minutes"))
        self.picture = NarrowingPicture()
        inside.addWidget(self.picture, 1)
        row.addWidget(panel, 1)
        area, side = scrolling_column(SIDE)
        side.addWidget(self._side())
        side.addStretch(1)
        row.addWidget(area)
        column.addLayout(row, 1)

    def _sentence_sheet(self) -> QWidget:
        panel, inside = sheet(spacing=6)
        self.headline = heading("Begin with a craft of your own")
        inside.addWidget(self.headline)
        inside.addWidget(note("Fill what you know, in any unit; leave the rest open. Enter goes on to the next gap."))
        self._pieces: list[tuple[str, QWidget]] = []
        self._lines: list[QWidget] = []
        for line in SENTENCE:
            holder = QWidget()
            policy = holder.sizePolicy()
            policy.setHeightForWidth(True)
            holder.setSizePolicy(policy)
            flow = FlowLayout(holder, gap=6, line_gap=6)
            for said_of, piece in line:
                widget = self._word(piece) if isinstance(piece, str) else self._gap(piece)
                flow.addWidget(widget)
                self._pieces.append((said_of, widget))
            self._lines.append(holder)
            inside.addWidget(holder)
        self.error = note(role="error")
        self.error.hide()
        inside.addWidget(self.error)
        self.caution = note(role="caution")
        inside.addWidget(self.caution)
        row = QHBoxLayout()
        self.make_button = QPushButton("Make it   Ctrl+Enter")
        self.make_button.clicked.connect(self.finish)
        self.aside_button, self.open_button = QPushButton("Leave it for later"), QPushButton("Open every gap")
        self.aside_button.clicked.connect(self._session.set_aside)
        self.open_button.clicked.connect(lambda: self._try(self._session.draft.begin_anew, ""))
        for button in (self.make_button, self.aside_button, self.open_button):
            row.addWidget(button)
        row.addStretch(1)
        inside.addLayout(row)
        return panel

    def _word(self, text: str) -> QWidget:
        label = Label(text)
        label.setFont(font(SIZE))
        label.setFixedHeight(HEIGHT)
        return label

    def _gap(self, gap: Gap) -> QWidget:
        if isinstance(gap, ChosenGap):
            choice = GapChoice(gap)
            choice.activated.connect(lambda place: self._fill(gap.name, {gap.name: choice.values[place]}))
            return choice
        line = GapLine(gap)
        line.submitted.connect(partial(self._typed, line))
        line.went_on.connect(line.focusNextChild)
        return line

    def _side(self) -> QWidget:
        panel, inside = sheet()
        inside.addWidget(heading("Or start from a usual one"))
        for usual in USUAL:
            button = QPushButton(usual.words)
            button.clicked.connect(partial(self._start_from, usual.said))
            inside.addWidget(button)
        inside.addWidget(note("Sizes, not makes: each is an estimate for its class."))
        inside.addSpacing(8)
        inside.addWidget(heading("Taken for what is open"))
        self.taken = note()
        self.taken.setFont(font(13))
        inside.addWidget(self.taken)
        inside.addStretch(1)
        return panel

    # Showing

    def refresh(self) -> None:
        """Show the present sentence."""
        sentence = self._session.sentence
        if sentence is None:
            return
        said, begun = sentence.said, sentence.begun
        kind = "wing" if said.winged else "rotors"
        for said_of, widget in self._pieces:
            widget.setVisible(said_of in ("all", kind))
            if isinstance(widget, GapChoice):
                widget.show_choices(sentence)
            elif isinstance(widget, GapLine):
                widget.show_text(widget.gap.words(said, begun))
                widget.show_usual(widget.gap.usual(begun))
        for line in self._lines:
            layout = line.layout()
            assert layout is not None, "each line of the sentence has one"
            layout.invalidate()
            line.updateGeometry()
        self.aside_button.setVisible(not self._session.empty)
        self.open_button.setVisible(bool(said.filled))
        self.taken.setText("\n".join(taken_words(sentence)))
        self.caution.setText(self._caution())
        self.caution.setVisible(bool(self.caution.text()))
        cells = self._session.all(CellType)
        self._worker.run(partial(narrowing, said, dict(cells)), of=said)

    def _caution(self) -> str:
        """What is hard to believe of what was told: the first finding on the known flight."""
        findings = self._session.answer.findings
        return next((one.sentence for one in findings if one.field.startswith("craft.known_flights")), "")

    def _show_narrowing(self, rows: tuple[Narrowed, ...]) -> None:
        sentence = self._session.sentence
        if sentence is not None:
            self.picture.show_rows([(told_words(one.gap, sentence), one) for one in rows])

    @property
    def settled(self) -> bool:
        """Whether nothing is being flown beside the window."""
        return not self._worker.busy

    def close_work(self) -> None:
        """Stop flying."""
        self._worker.close()

    def focus_gap(self, path: str) -> bool:
        """Put the focus on the gap that stands for a field."""
        widget = self.line_of(gap_of(path))
        if widget is None:
            return False
        widget.setFocus(Qt.FocusReason.ShortcutFocusReason)
        return True

    def line_of(self, name: str) -> QWidget | None:
        """The gap of a name that is in view."""
        for _, widget in self._pieces:
            if isinstance(widget, GapLine | GapChoice) and widget.gap.name == name and not widget.isHidden():
                return widget
        return None

    # Filling

    def _typed(self, line: GapLine, text: str) -> None:
        if self._session.sentence is None:
            line.accept_shown("")  # it was refused, and the sentence is left or made since
            return
        if text == line.gap.words(self._sentence.said, self._sentence.begun):
            self._say(line, "")
            return
        try:
            gaps = line.gap.read(text, self._session.all(CellType))
        except DocumentError as error:
            self._say(line, f"{line.gap.title}: {error}")
            return
        if self._fill(line.gap.name, gaps):
            line.accept_shown(line.gap.words(self._sentence.said, self._sentence.begun))

    @property
    def _sentence(self) -> Sentence:
        sentence = self._session.sentence
        assert sentence is not None, "the page is shown with a sentence only"
        return sentence

    def _fill(self, name: str, gaps: dict[str, Any]) -> bool:
        if "carried" in gaps:
            gaps |= {"arranged": None, "purpose": None, "span_mm": None, "rotor_count": None}
        return self._try(lambda: self._session.draft.fill(**gaps), name)

    def _start_from(self, said: Any) -> None:
        gaps = {name: getattr(said, name) for name in type(said).model_fields if name in said.model_fields_set}
        cleared = {"arranged": None, "span_mm": None, "rotor_count": None, "propeller_mm": None}
        self._try(lambda: self._session.draft.fill(**(cleared | gaps)), "")

    def _try(self, change: Callable[[], object], name: str) -> bool:
        line = self.line_of(name)
        try:
            change()
        except (DocumentError, WorkspaceError) as error:
            at = self.line_of(gap_of(error.path)) if isinstance(error, DocumentError) and error.path else None
            title = getattr(getattr(at or line, "gap", None), "title", "")
            self._say(line, f"{title}: {error}" if title else str(error))
            self.refresh()
            return False
        self._say(line, "")
        return True

    def _say(self, line: QWidget | None, sentence: str) -> None:
        """What was refused, under the sentence, and the gap in which it was marked."""
        self.error.setText(sentence)
        self.error.setVisible(bool(sentence))
        if line is not None:
            line.setProperty("wrong", "true" if sentence else "false")
            polish_again([line])

    def finish(self) -> None:
        """Make everything, once all that is typed is taken."""
        for _, widget in self._pieces:
            if isinstance(widget, GapLine) and not widget.isHidden() and not widget.finish():
                widget.setFocus(Qt.FocusReason.OtherFocusReason)
                return
        self._try(self._session.draft.finish, "")


def told_words(gap: str, sentence: Sentence) -> str:
    """What was told in a gap, for its bar."""
    said, begun = sentence.said, sentence.begun

    def told(name: str) -> str:
        return format_quantity(float(getattr(said, name)), unit_of_field(name))

    words: dict[str, Callable[[], str]] = {
        "": lambda: "nothing told",
        "carried": lambda: f"carried by {said.carried}",
        "rotor_count": lambda: counted(said.rotor_count or 0, "propeller"),
        "arranged": lambda: str(said.arranged),
        "propeller_mm": lambda: f"propellers of {told('propeller_mm')}",
        "span_mm": lambda: f"spans {told('span_mm')}",
        "mass_g": lambda: f"weighs {told('mass_g')}",
        "battery": lambda: said.battery.words if said.battery else "",
        "flown_min": lambda: f"flies {told('flown_min')}",
        "charge_mah": lambda: f"takes {told('charge_mah')} back",
        "purpose": lambda: f"for {said.purpose}",
        "onto": lambda: f"on {said.onto.words if said.onto else ''}",
        "onto_cell_id": lambda: f"on {begun.complete.pack.cell.name}",
    }
    return upper_first(words[gap]())


def taken_words(sentence: Sentence) -> list[str]:
    """What is taken for the gaps that are open, a line each; all of it is an estimate."""
    said, begun = sentence.said, sentence.begun
    craft, pack = begun.craft, begun.complete.pack
    found = []
    if said.propeller_mm is None:
        found.append(f"Propellers of {format_mm(craft.rotors.diameter_mm)}")
    if craft.wing is not None and said.span_mm is None:
        found.append(f"A span of {format_mm(craft.wing.span_mm)}")
    if said.mass_g is None:
        found.append(f"{format_grams(craft.dry_mass_g)} without a battery")
    if said.purpose is None:
        found.append(upper_first(str(begun.purpose)))
    if said.onto is None and not said.onto_cell_id and said.battery is None:
        recipe = pack.recipe
        found.append(f"{recipe.series_count}S {recipe.parallel_count}P of {pack.cell.name}")
    found.append(
        f"Motors of {format_number(craft.motor.kv_rpm_per_v, 0)} rpm/V, good for"
        f" {format_amps(craft.motor.max_current_a, TOLD)}"
    )
    found.append(f"{format_watts(craft.load_w, TOLD)} for electronics")
    if said.battery is not None and said.battery.mass_g is None:
        battery = next((cell for cell in begun.cells if cell.whole_pack), None)
        if battery is not None:
            found.append(f"{format_grams(battery.mass_g, TOLD)} for the battery flown now")
    if said.flown_min is not None and said.charge_mah is None and craft.known_flights:
        found.append("Four fifths of the battery used in that flight")
    return found
