"""What can be pasted elsewhere: the answer as text, the station as a picture."""

from __future__ import annotations

from PyQt6.QtGui import QGuiApplication
from PyQt6.QtWidgets import QWidget

from wise_cellar.core.answer.told import answer_as_text
from wise_cellar.ui.shell.notice import NoticeLine
from wise_cellar.ui.state.session import Session


def copy_answer(session: Session, notice: NoticeLine) -> None:
    """The five answers and the findings as text."""
    clipboard = QGuiApplication.clipboard()
    if clipboard is not None:
        clipboard.setText(answer_as_text(session.complete, session.answer))
    notice.say("The answer is on the clipboard.")


def copy_picture(shown: QWidget, notice: NoticeLine) -> None:
    """What is shown as a picture."""
    clipboard = QGuiApplication.clipboard()
    if clipboard is not None:
        clipboard.setPixmap(shown.grab())
    notice.say("The picture is on the clipboard.")
