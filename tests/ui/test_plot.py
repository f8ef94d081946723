"""A plot that is told again and again what to show looks like one that was told once."""

from __future__ import annotations

from collections.abc import Callable, Iterator
from pathlib import Path

import numpy as np
import pytest
from hypothesis import given, settings
from hypothesis import strategies as st
from PyQt6 import sip
from PyQt6.QtCore import Qt
from PyQt6.QtGui import QImage
from PyQt6.QtTest import QTest
from PyQt6.QtWidgets import QApplication, QWidget

from wise_cellar.ui.theme import LAMPLIGHT, LIMESTONE, Colours, apply_appearance, dress
from wise_cellar.ui.theme.style import Appearance
from wise_cellar.ui.widgets.picture import NOTHING
from wise_cellar.ui.widgets.plot import AMONG, BEHIND, OVER, Plot
from wise_cellar.ui.widgets.plot_parts import DASHED, SOLID, Band, Curve, Dots, Level, Moment, Part, Stroke, Words
from wise_cellar.ui.widgets.plots import ThemedPlots
from wise_cellar.ui.widgets.saved_plots import SavedPlots

X = np.linspace(0.0, 10.0, 40)
COLOURS = ("#1E6F66", "#A3352A", "#2B6CA8")


class OnePlot(ThemedPlots):
    """A plot of fixed size; counts how often it draws."""

    def __init__(self) -> None:
        super().__init__()
        self.resize(240, 160)
        self.plot = Plot("min")
        self.addItem(self.plot, 0, 0)
        self.plot.box.setRange(xRange=(0, 10), yRange=(0, 5), padding=0, disableAutoRange=True)
        self.drawn_in: list[Colours] = []

    def draw(self, colours: Colours) -> None:
        """Only the axes."""
        self.drawn_in.append(colours)
        self.plot.dress(colours)

    def picture(self) -> QImage:
        """What is seen."""
        QApplication.processEvents()
        return self.grab().toImage()


@pytest.fixture
def made(qapp: QApplication) -> Iterator[Callable[[], OnePlot]]:
    """Makes plots that are in view in a window, and takes them away."""
    windows: list[QWidget] = []

    def make() -> OnePlot:
        window, plot = QWidget(), OnePlot()
        windows.append(window)
        dress(window)
        plot.setParent(window)
        window.resize(plot.size())
        window.show()
        plot.redraw()
        return plot

    yield make
    for window in windows:
        sip.delete(window)


strokes = st.builds(Stroke, st.sampled_from(COLOURS), st.sampled_from((1.0, 2.2)), st.sampled_from((SOLID, DASHED)))
heights = st.floats(0.2, 4.8)
curves = st.builds(lambda up, stroke: Curve(X, up + 0.1 * np.sin(X), stroke), heights, strokes)
bands = st.builds(lambda up, colour: Band(X, 0 * X + up - 0.2, 0 * X + up + 0.3, colour, 60), heights,
                  st.sampled_from(COLOURS))  # fmt: skip
dots = st.builds(
    lambda up, symbol, stroke, fill: Dots(X[::8], 0 * X[::8] + up, symbol, 9, stroke, fill),
    heights, st.sampled_from(("o", "d")), strokes, st.sampled_from(("", *COLOURS)),
)  # fmt: skip
words = st.builds(Words, st.sampled_from(("2P", "3P")), st.floats(1, 9), st.floats(1, 4), st.sampled_from(COLOURS))
any_part = st.one_of(
    curves, bands, dots, words, st.builds(Level, heights, strokes), st.builds(Moment, st.floats(0.5, 9.5), strokes)
)
pictures = st.lists(any_part, max_size=5)


@settings(max_examples=25, deadline=None)
@given(before=st.lists(pictures, min_size=1, max_size=3), last=pictures, layer=st.sampled_from((BEHIND, AMONG, OVER)))
def test_what_was_shown_before_leaves_no_trace(before: list[list[Part]], last: list[Part], layer: int) -> None:
    reused, fresh = OnePlot(), OnePlot()
    try:
        for plot in (reused, fresh):
            plot.show()
            plot.redraw()
        for parts in before:
            reused.plot.show_parts(parts, layer)
            reused.picture()
        for plot in (reused, fresh):
            plot.plot.show_parts(last, layer)
        assert reused.picture() == fresh.picture()
        assert reused.plot.parts(Curve) == [part for part in last if isinstance(part, Curve)]
    finally:
        sip.delete(reused)
        sip.delete(fresh)


def test_the_later_part_lies_over_the_earlier_also_when_they_change_places(made: Callable[[], OnePlot]) -> None:
    wide, other = (Level(2.5, Stroke(colour, 30.0)) for colour in COLOURS[:2])
    plot = made()
    for first, second in ((wide, other), (other, wide), (wide, other)):
        plot.plot.show_parts([first, second])
        middle = plot.picture().pixelColor(140, 70).name().upper()
        assert middle == second.stroke.colour.upper()


def test_layers_are_told_by_themselves(made: Callable[[], OnePlot]) -> None:
    plot = made()
    curve, cursor = Curve(X, 0 * X + 1, Stroke(COLOURS[0])), Moment(4.0, Stroke(COLOURS[1]))
    plot.plot.show_parts([cursor], OVER)
    plot.plot.show_parts([curve])
    assert plot.plot.parts(Moment) == [cursor]
    plot.plot.show_parts([], OVER)
    assert plot.plot.parts(Moment) == []
    assert plot.plot.parts(Curve) == [curve]


def test_a_curve_breaks_where_it_is_not_a_number(made: Callable[[], OnePlot]) -> None:
    plot, gap = made(), np.where((X > 3) & (X < 7), np.nan, 2.5)
    plot.plot.show_parts([Curve(X, 0 * X + 2.5, Stroke(COLOURS[1], 6.0))])
    whole = plot.picture()
    plot.plot.show_parts([Curve(X, gap, Stroke(COLOURS[1], 6.0))])
    broken = plot.picture()
    middle = plot.mapFromScene(plot.plot.box.mapViewToScene(plot.plot.box.viewRect().center()))
    assert whole.pixelColor(middle).name().upper() == COLOURS[1]
    assert broken.pixelColor(middle).name().upper() != COLOURS[1]


def test_a_picture_out_of_view_is_drawn_when_it_is_seen(made: Callable[[], OnePlot], qapp: QApplication) -> None:
    plot = made()
    drawn = len(plot.drawn_in)
    plot.hide()
    for _ in range(3):
        plot.redraw()
    apply_appearance(qapp, Appearance.LAMPLIGHT)
    try:
        assert len(plot.drawn_in) == drawn
        plot.show()
        assert plot.drawn_in[drawn:] == [LAMPLIGHT], "once, in the colours of now"
    finally:
        apply_appearance(qapp, Appearance.LIMESTONE)
    assert plot.drawn_in[-1] is LIMESTONE


class SavedOnePlot(SavedPlots):
    """A curve at a height, to be saved."""

    def __init__(self) -> None:
        super().__init__()
        self.resize(240, 160)
        self.plot = Plot()
        self.addItem(self.plot, 0, 0)
        self.plot.box.setRange(xRange=(0, 10), yRange=(0, 5), padding=0, disableAutoRange=True)
        self.height_shown = 1.0

    def draw(self, colours: Colours) -> None:
        self.plot.dress(colours)
        self.plot.show_parts([Curve(X, 0 * X + self.height_shown, Stroke(colours.brick, 4.0))])

    def key_words(self) -> str:
        return ""


def test_a_picture_out_of_view_is_saved_as_it_would_be_seen(qapp: QApplication, tmp_path: Path) -> None:
    picture = SavedOnePlot()
    picture.show()
    picture.redraw()
    QApplication.processEvents()
    picture.height_shown = 4.0
    picture.redraw()
    picture.save(tmp_path / "seen.png", "A caption")
    picture.height_shown = 1.0
    picture.redraw()
    picture.hide()
    picture.height_shown = 4.0
    picture.redraw()
    picture.save(tmp_path / "hidden.png", "A caption")
    assert QImage(str(tmp_path / "hidden.png")) == QImage(str(tmp_path / "seen.png"))
    sip.delete(picture)


# For whoever does not see it


def walked(plot: OnePlot, *keys: Qt.Key) -> str:
    for key in keys:
        QTest.keyClick(plot, key)
    return plot.accessibleDescription()


def two_lines(plot: OnePlot) -> None:
    plot.plot.name_axes("Watts", "W", "minutes")
    plot.plot.show_parts([
        Curve(np.array([0.0, 5.0, 10.0]), np.array([1.0, 4.0, 2.0]), Stroke(COLOURS[0]), "hover"),
        Curve(np.array([0.0, 10.0]), np.array([3.0, 3.0]), Stroke(COLOURS[1]), "cruise"),
        Curve(X, X / 4, Stroke(COLOURS[2])),
        Level(4.5, Stroke(COLOURS[1]), "the most"),
    ])  # fmt: skip


def test_a_plot_says_what_is_named_in_it(made: Callable[[], OnePlot]) -> None:
    plot = made()
    two_lines(plot)
    plot.tell_now()
    assert plot.accessibleDescription() == (
        "Watts over minutes. Hover rises from 1\u00a0W at 0\u00a0min to 4\u00a0W at 5\u00a0min,"
        " then falls to 2\u00a0W at 10\u00a0min. Cruise stays at 3\u00a0W from 0\u00a0min to 10\u00a0min."
        " The most: 4.5\u00a0W."
    )


def test_its_points_are_walked_by_keys(made: Callable[[], OnePlot]) -> None:
    plot = made()
    two_lines(plot)
    before = plot.picture()
    right, left, up, down = Qt.Key.Key_Right, Qt.Key.Key_Left, Qt.Key.Key_Up, Qt.Key.Key_Down
    assert walked(plot, right).startswith("Hover: 1\u00a0W at 0\u00a0min. Watts over")
    assert walked(plot, right).startswith("Hover: 4\u00a0W at 5\u00a0min")
    assert plot.corner_words == "Hover: 4\u00a0W at 5\u00a0min", "who sees it reads it too"
    assert plot.picture() != before, "and where it is"
    plot.redraw()
    assert plot.corner_words.startswith("Hover: 4"), "drawn again, it stays there"
    assert walked(plot, right, right).startswith("Hover: 2\u00a0W at 10\u00a0min"), "it stays at the end"
    assert walked(plot, down).startswith("Cruise: 3\u00a0W at 10\u00a0min"), "the other line, at the nearest place"
    assert walked(plot, left).startswith("Cruise: 3\u00a0W at 0\u00a0min")
    assert walked(plot, up).startswith("Hover: 1\u00a0W at 0\u00a0min")
    assert walked(plot, Qt.Key.Key_Escape).startswith("Watts over")
    assert not plot.corner_words


def test_a_plot_of_nothing_says_so(made: Callable[[], OnePlot]) -> None:
    plot = made()
    plot.tell_now()
    assert plot.accessibleDescription() == NOTHING
    assert walked(plot, Qt.Key.Key_Right) == NOTHING


def test_dots_are_walked_from_left_to_right(made: Callable[[], OnePlot]) -> None:
    plot = made()
    plot.plot.name_axes("Minutes", "min")
    x, y = np.array([7.0, 2.0, np.nan, 5.0]), np.array([1.0, 2.0, 3.0, 4.0])
    plot.plot.show_parts([Dots(x, y, "o", 9, Stroke(COLOURS[0]), name="cells")])
    plot.tell_now()
    assert "Cells: 3 from 2\u00a0min to 7\u00a0min, 1\u00a0min to 4\u00a0min." in plot.accessibleDescription()
    said = [walked(plot, Qt.Key.Key_Right).split(". Minutes.")[0] for _ in range(3)]
    assert [words.rpartition(" at ")[2] for words in said] == ["2\u00a0min", "5\u00a0min", "7\u00a0min"]
