"""The recipe line: the design as a sentence whose tokens can be changed."""

from __future__ import annotations

from functools import partial

from PyQt6 import sip
from PyQt6.QtCore import QSize, Qt, pyqtSignal
from PyQt6.QtWidgets import QFrame, QHBoxLayout, QLabel, QPushButton, QScrollArea, QSizePolicy, QWidget

from wise_cellar.core.documents import DocumentError
from wise_cellar.store import WorkspaceError
from wise_cellar.ui.shell.held import HeldSteps
from wise_cellar.ui.shell.recipe_tokens import PARALLEL, SENTENCE, SERIES, TokenSpec, WordSpec
from wise_cellar.ui.shell.token import HEIGHT, Token
from wise_cellar.ui.state.session import Session
from wise_cellar.ui.theme import font
from wise_cellar.ui.widgets.flow_layout import FlowLayout
from wise_cellar.ui.widgets.labels import Label
from wise_cellar.ui.widgets.panel import make_scrolling

LOW_LINES, LINE_GAP = 2, 4


class _SentenceArea(QScrollArea):
    """As high as the sentence, or as so many of its lines, which scroll."""

    def __init__(self, sentence: QWidget) -> None:
        super().__init__()
        self.most_lines = 0
        make_scrolling(self, sentence)
        self.show_lines(0)
        policy = QSizePolicy(QSizePolicy.Policy.Expanding, QSizePolicy.Policy.Minimum)
        policy.setHeightForWidth(True)
        self.setSizePolicy(policy)

    def show_lines(self, most: int) -> None:
        """So many lines, which scroll; 0: all of them."""
        self.most_lines = most
        policy = Qt.ScrollBarPolicy.ScrollBarAsNeeded if most else Qt.ScrollBarPolicy.ScrollBarAlwaysOff
        self.setVerticalScrollBarPolicy(policy)
        self.updateGeometry()

    def hasHeightForWidth(self) -> bool:
        """Narrower is taller."""
        return True

    def heightForWidth(self, width: int) -> int:
        """The whole sentence, or the lines that are shown."""
        sentence = self.widget()
        whole = sentence.heightForWidth(width) if sentence is not None else 0
        return min(whole, self.most_lines * (HEIGHT + LINE_GAP)) if self.most_lines else whole

    def sizeHint(self) -> QSize:
        """In its present width."""
        return QSize(400, self.heightForWidth(self.width()))

    def minimumSizeHint(self) -> QSize:
        """The same."""
        return QSize(200, self.heightForWidth(self.width()))


class RecipeLine(QFrame):
    """Sentence of words and tokens, with Find at its right."""

    find_requested = pyqtSignal()
    refused = pyqtSignal(str)
    begin_requested = pyqtSignal()

    def __init__(self, session: Session) -> None:
        super().__init__()
        self.session = session
        self.held = HeldSteps(self)
        self._counts = {path: partial(self.step, path) for path in (SERIES, PARALLEL)}
        self.setObjectName("ground")
        row = QHBoxLayout(self)
        row.setContentsMargins(16, 8, 12, 8)
        self._sentence = QWidget()
        policy = QSizePolicy(QSizePolicy.Policy.Expanding, QSizePolicy.Policy.Minimum)
        policy.setHeightForWidth(True)
        self._sentence.setSizePolicy(policy)
        flow = FlowLayout(self._sentence, gap=5, line_gap=LINE_GAP)
        self.tokens: dict[str, Token] = {}
        self._words: list[tuple[WordSpec, QLabel]] = []
        self._plain: list[QLabel] = []
        self._begun = self._word("A craft to begin with: its recipe comes with it, and can then be changed here.")
        flow.addWidget(self._begun)
        for piece in SENTENCE:
            if isinstance(piece, TokenSpec):
                flow.addWidget(self._token(piece))
                continue
            label = self._word(piece if isinstance(piece, str) else "")
            if isinstance(piece, WordSpec):
                self._words.append((piece, label))
            else:
                self._plain.append(label)
            flow.addWidget(label)
        self._area = _SentenceArea(self._sentence)
        row.addWidget(self._area, 1)
        find = QPushButton("Find anything   Ctrl K")
        find.setProperty("role", "quiet")
        find.setFocusPolicy(Qt.FocusPolicy.NoFocus)
        find.clicked.connect(self.find_requested)
        row.addWidget(find, 0, Qt.AlignmentFlag.AlignTop)
        session.changed.connect(self.refresh)
        self.refresh()

    def refresh(self) -> None:
        """Show the present design."""
        complete, beginning = self.session.complete, self.session.sentence is not None
        high = self._area.sizeHint()
        self._begun.setVisible(beginning)
        for label in self._plain:
            label.setVisible(not beginning)
        for piece in SENTENCE:
            if isinstance(piece, TokenSpec):
                token, shown = self.tokens[piece.path], piece.shown(complete) and not beginning
                token.setVisible(shown)
                if shown:
                    token.show_text(piece.words(complete))
        for spec, label in self._words:
            words = spec.words(complete)
            label.setText(words)
            label.setVisible(bool(words) and not beginning)
        if self._area.sizeHint() != high:
            self._area.updateGeometry()

    def show_low(self, low: bool) -> None:
        """Two lines that scroll, in a low window; or all of it."""
        self._area.show_lines(LOW_LINES if low else 0)

    def focus_field(self, path: str) -> bool:
        """Put the focus on the token that stands for ``path`` or holds it."""
        for token_path in self.tokens:
            if self.tokens[token_path].isHidden():
                continue
            if path == token_path or path.startswith(token_path + "."):
                self.tokens[token_path].setFocus(Qt.FocusReason.ShortcutFocusReason)
                return True
        return False

    def open_token(self, path: str) -> None:
        """Open the chooser of a token."""
        self.tokens[path].click()

    def step(self, path: str, by: int) -> None:
        """Step a whole number, and say so when it cannot go further."""
        try:
            if not self.session.step(path, by):
                end = "fewest" if by < 0 else "most"
                self.refused.emit(f"{self.session.value(path)} is the {end} that this part of the recipe takes.")
        except (DocumentError, WorkspaceError) as error:
            self.refused.emit(str(error))

    def ask_step(self, path: str, by: int) -> None:
        """Step a count by a key that may be held."""
        self.held.ask(self._counts[path], by)

    def choose(self, path: str, value: object) -> None:
        """Set what a token stands for, and say so when it is refused."""
        try:
            self.session.edit(path, value)
        except (DocumentError, WorkspaceError) as error:
            self.refused.emit(str(error))

    def begin(self) -> None:
        """Ask for the sentence that a craft begins with."""
        self.begin_requested.emit()

    def _word(self, text: str) -> QLabel:
        label = Label(text)
        label.setFont(font(16))
        label.setFixedHeight(HEIGHT)
        return label

    def _token(self, spec: TokenSpec) -> Token:
        token = Token(spec.name, steps=spec.step is not None)
        token.clicked.connect(lambda: self._open(spec, token))
        if spec.step is not None:
            stepping = self._counts.get(spec.path) or partial(spec.step, self)
            token.stepped.connect(lambda by: self.held.ask(stepping, by))
        self.tokens[spec.path] = token
        return token

    def _open(self, spec: TokenSpec, token: Token) -> None:
        popover = spec.open(self, token)
        token.set_open(True)
        # The window may go with its popups.
        popover.destroyed.connect(lambda: None if sip.isdeleted(token) else token.set_open(False))
        popover.open_below(token)
