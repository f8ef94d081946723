"""Words look as they are told, whatever their labels showed before and whatever the colours are."""

from __future__ import annotations

import re

from PyQt6.QtGui import QImage
from PyQt6.QtWidgets import QApplication, QWidget

from wise_cellar.handbook import glossary
from wise_cellar.ui.shell.window import MainWindow
from wise_cellar.ui.theme import Appearance, apply_appearance, font
from wise_cellar.ui.widgets.chooser import Chooser
from wise_cellar.ui.widgets.lines import Line, Lines
from wise_cellar.ui.widgets.panel import note, show_role


def test_a_label_keeps_its_font_when_its_role_or_the_colours_change(qapp: QApplication) -> None:
    """Unpolished, the toolkit's label goes back to the font that it was first shown in."""
    label = note("Words")
    label.show()
    QApplication.processEvents()
    label.setFont(font(15))
    for change in (
        lambda: show_role(label, "error"),
        lambda: apply_appearance(qapp, Appearance.LAMPLIGHT),
        lambda: apply_appearance(qapp, Appearance.LIMESTONE),
    ):
        change()
        assert label.font().pixelSize() == 15
    label.close()


def test_lines_look_as_they_are_told_whatever_their_labels_said_before(qapp: QApplication) -> None:
    told = [
        [Line("First"), Line("Second", "error", 11.5, strong=True)],
        [Line("Third", "caution", 11.5)],
        [Line("Fourth", "error", 15), Line("Fifth")],
    ]

    def looks(journey: list[list[Line]]) -> QImage:
        page, lines = QWidget(), Lines()
        page.setLayout(lines)
        page.resize(300, 120)
        page.show()
        for some in journey:
            lines.show_lines(some)
            QApplication.processEvents()
        picture = page.grab().toImage()
        page.close()
        return picture

    for last in told:
        assert looks([*told, last]) == looks([last])


def test_what_is_cut_in_a_chooser_is_known_to_be(qapp: QApplication) -> None:
    box = Chooser()
    box.addItems(["short", "small: nickel to 0.2 mm, and a good deal more than fits"])
    box.setFixedWidth(120)
    box.show()
    assert not box.is_cut
    box.setCurrentIndex(1)
    assert box.is_cut
    box.setFixedWidth(600)
    assert not box.is_cut
    box.close()


def test_an_answer_tells_its_word_of_the_glossary(window: MainWindow) -> None:
    told = [button.toolTip() for button in window.band.buttons[1:4]]
    for word, tooltip in zip(("Take-off mass", "Punch", "Weakest link"), told, strict=True):
        assert f"{word}: {glossary()[word]}" in re.sub("<[^>]*>", "", tooltip).replace("&#x27;", "'")
