"""What a session holds of the sentence with gaps: filled gap by gap, taken back, finished, told again."""

from __future__ import annotations

from collections.abc import Callable
from contextlib import suppress
from typing import TYPE_CHECKING, Any

from wise_cellar.core.answer import Answer
from wise_cellar.core.begin import Beginning
from wise_cellar.core.documents import CompleteDesign, DocumentError
from wise_cellar.ui.state.sentence import Sentence, keep, kept_sentence, sentence_of

if TYPE_CHECKING:
    from wise_cellar.ui.state.session import Session


class Draft:
    """The sentence and its way back; ``show`` has the window show what it stands for."""

    def __init__(self, session: Session, show: Callable[[CompleteDesign, Answer], None]) -> None:
        self._session, self._show_design = session, show
        self.sentence: Sentence | None = None
        """As told so far; none while a design of the workspace is shown."""
        self._earlier: list[Beginning] = []
        """What was told before each gap that was filled, the last one last."""
        self._finished: Beginning | None = None
        """What was finished last, should that be taken back."""

    @property
    def can_take_back(self) -> bool:
        """Whether a gap was filled that can be opened again."""
        return self.sentence is not None and bool(self._earlier)

    def forget(self) -> None:
        """Another workspace is shown."""
        self.sentence = None
        self._earlier.clear()

    def leave(self) -> None:
        """A design of the workspace is shown."""
        if self.sentence is not None:
            self._finished = self.sentence.said
            self.forget()

    def show(self, sentence: Sentence) -> None:
        """Show what a sentence stands for."""
        self.sentence = sentence
        self._show_design(sentence.begun.complete, sentence.answer)

    def begin(self) -> None:
        """Go on with the sentence, half filled or open."""
        if self.sentence is None:
            self.show(self._kept())

    def fill(self, **gaps: Any) -> None:
        """Fill some gaps, or open them with ``None``; kept at once."""
        if self.sentence is None:
            return
        before = self.sentence.said
        if before != (said := before.changed(**gaps)):
            self._tell(said)
            self._earlier.append(before)

    def begin_anew(self) -> None:
        """Open every gap."""
        self.fill(**{name: field.get_default() for name, field in Beginning.model_fields.items()})

    def take_back(self) -> None:
        """Tell what was told before the last gap."""
        self._tell(self._earlier.pop())

    def say_again(self) -> None:
        """Word what it stands for anew."""
        if self.sentence is not None:
            self.show(self._of(self.sentence.said))

    def tell_last(self) -> None:
        """Show what was told last, as where no design is left."""
        if self._finished is not None:
            with suppress(DocumentError):
                keep(self._session.workspace, self._finished)
                self.show(self._of(self._finished))
                return
        self.show(self._kept())

    def finish(self) -> None:
        """Put what the sentence stands for into the workspace, as one edit, and show its first design."""
        session = self._session
        if self.sentence is None:
            return
        begun = self.sentence.begun
        session.commit(f"Begin {begun.craft.name}", begun.documents, show=begun.designs[0].id)
        keep(session.workspace, None)
        session.began.emit(begun.craft.name)

    def _tell(self, said: Beginning) -> None:
        sentence = self._of(said)
        keep(self._session.workspace, said)
        self.show(sentence)

    def _of(self, said: Beginning) -> Sentence:
        return sentence_of(said, self._session.library, self._session.answer_of)

    def _kept(self) -> Sentence:
        return kept_sentence(self._session.workspace, self._session.library, self._session.answer_of)
