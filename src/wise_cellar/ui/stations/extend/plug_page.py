"""What flows between packs once they are plugged together, whether it may, and how to do it well."""

from __future__ import annotations

from collections.abc import Sequence

import numpy as np
from PyQt6.QtWidgets import QHBoxLayout, QPushButton, QSizePolicy, QVBoxLayout, QWidget

from wise_cellar.core.answer.bus import APART_V, BusStart
from wise_cellar.core.answer.findings.bus import landed_flow
from wise_cellar.core.extend import (
    Equalising,
    bus_sentences,
    charge_through_craft,
    figures,
    fuse_sentences,
    verdict,
)
from wise_cellar.core.physics.charging import COLD_PLACE_C
from wise_cellar.core.units import format_celsius, format_number, format_volts
from wise_cellar.core.words import lower_first
from wise_cellar.ui.state import bus_edits
from wise_cellar.ui.state.session import Session
from wise_cellar.ui.stations.extend.pack_traces import DASHES
from wise_cellar.ui.theme import Colours, font
from wise_cellar.ui.widgets.attempt import Attempt
from wise_cellar.ui.widgets.labels import formatted
from wise_cellar.ui.widgets.lines import Line, Lines, WordTable
from wise_cellar.ui.widgets.panel import note, paragraph, show_role
from wise_cellar.ui.widgets.plot import Plot
from wise_cellar.ui.widgets.plot_parts import DASHED, Curve, Level, Part, Stroke
from wise_cellar.ui.widgets.plots import Key, ThemedPlots, key_text, title_text

PLOT_PX, FIGURES_PX = 190, 620
SHOWN_TIMES, FAR_LIMIT = 3.0, 6.0
"""How many times the time to settle is drawn."""
PLUGS = "Check the polarity of both plugs by meter before you put them on one bus, and keep their balance plugs apart."
CAUTION = (
    "Put packs on one bus only when all are full, of the same volts, and measured at the plug. A spark, a warm lead"
    " or a plug that pulls means: stop and measure. Rules for batteries aboard are local; ask someone qualified where"
    " you are not sure."
)


def before_words() -> str:
    """What is to be known before packs are put on one bus."""
    return (
        f"Never more than {format_number(1000 * APART_V, 0)} mV a cell apart, and never under"
        f" {format_celsius(COLD_PLACE_C)}: measure each pack at its plug, with the same meter."
    )


class EqualisingPlot(ThemedPlots):
    """Current of each pack from the moment they are plugged in, with what each may take."""

    def __init__(self) -> None:
        super().__init__()
        self.setSizePolicy(QSizePolicy.Policy.Expanding, QSizePolicy.Policy.Fixed)
        self.setFixedHeight(PLOT_PX)
        self.setAccessibleName("Current between the packs after plugging in")
        self.key = formatted(note())
        self.plot = Plot("min")
        self.plot.name_axes("Gives", "A")
        self.addItem(self.plot, 0, 0)
        self._shown: tuple[BusStart, Equalising] | None = None

    def show_flow(self, start: BusStart, flow: Equalising) -> None:
        """Draw it."""
        self._shown = start, flow
        self.redraw()

    def draw(self, colours: Colours) -> None:
        """What flows."""
        self.plot.dress(colours)
        self.plot.show_title(title_text("Amps after plugging in, below zero a pack takes", colours))
        if self._shown is None:
            return
        start, flow = self._shown
        keys: list[Key] = []
        parts: list[Part] = []
        for place, (pack, amps) in enumerate(zip(start.packs, flow.amps, strict=True)):
            colour = colours.series[place % len(colours.series)]
            parts.append(Curve(flow.time_s / 60, amps, Stroke(colour, 2.0, DASHES[place]), pack.complete.name))
            keys.append(Key(pack.complete.name, colour, DASHES[place]))
        taker, first = start.taker, max(float(np.abs(flow.amps).max()), 0.05)
        # A limit far beyond what flows would press the curves into a line.
        drawn = taker.current_a < 0 and taker.limit_a < FAR_LIMIT * first
        if drawn:
            most_taken = f"the most that the {lower_first(taker.complete.name)} may take"
            parts.append(Level(-taker.limit_a, Stroke(colours.brick, 1.2, DASHED), most_taken))
            keys.append(Key(most_taken, colours.brick, DASHED))
        settled = flow.settled_s if np.isfinite(flow.settled_s) else float(flow.time_s[-1])
        self.plot.show_parts(parts)
        self.plot.box.setXRange(0, max(SHOWN_TIMES * settled, 30.0) / 60, padding=0.01)
        most = max(first, taker.limit_a if drawn else 0.0)
        self.plot.box.setYRange(-1.1 * most, 1.1 * most, padding=0)
        self.key.setText(key_text(keys, colours))


class PlugPage(QWidget):
    """The plot, what it means in sentences, and the way to start with packs that rest alike."""

    def __init__(self, session: Session) -> None:
        super().__init__()
        self._session = session
        column = QVBoxLayout(self)
        column.setContentsMargins(0, 0, 10, 0)
        column.setSpacing(6)
        self.verdict = paragraph(size=15)
        self.verdict.setFont(font(15, strong=True))
        column.addWidget(self.verdict)
        self.plot = EqualisingPlot()
        column.addWidget(self.plot.key)
        column.addWidget(self.plot)
        row = QHBoxLayout()
        self.level_button = QPushButton()
        self.level_button.clicked.connect(self._level)
        row.addWidget(self.level_button)
        row.addStretch(1)
        column.addLayout(row)
        self._figures = WordTable()
        self._figures.setHorizontalSpacing(24)
        self._figures.setColumnStretch(0, 1)
        column.addWidget(self._figures.held(FIGURES_PX))
        self._sentences = Lines(paragraph)
        self._sentences.setSpacing(4)
        column.addLayout(self._sentences)
        self.error = Attempt()
        column.addWidget(self.error)
        column.addStretch(1)

    def show_flow(self, flow: Equalising | None) -> None:
        """Show what was flown for the present design."""
        answer = self._session.answer
        start = answer.bus_start
        if start is None or flow is None:
            return
        self.plot.show_flow(start, flow)
        through = charge_through_craft(answer)
        self.verdict.setText(verdict(start, flow))
        show_role(self.verdict, "" if start.safe else "error")
        head, *rows = figures(start, flow)
        self._figures.show_rows(
            [[Line(text, "faint", 11.5) for text in head], *([Line(text) for text in row] for row in rows)]
        )
        words: list[tuple[str, str]] = [(text, "") for text in bus_sentences(start, flow)]
        words[0] = (words[0][0], "" if start.safe else "error")
        landed = landed_flow(answer)
        if landed is not None:
            words.append((landed.sentence, "error" if landed.too_much else ""))
        if through is not None:
            words.append((through.sentence, "error" if through.over_v > 0 else "caution"))
        words += [(text, "caution") for text in fuse_sentences(answer)]
        self._say([(before_words(), "caution"), *words, (PLUGS, "caution"), (CAUTION, "caution")])
        volts = start.lower_full_v
        self.level_button.setText(f"Start with all charged to {format_volts(volts)} a cell")
        level = all(abs(pack.rest_v - volts) < 0.01 for pack in start.packs)
        self.level_button.setEnabled(not level)

    def _say(self, words: Sequence[tuple[str, str]]) -> None:
        self._sentences.show_lines([Line(text, role, 11.5) for text, role in words if text])

    def _level(self) -> None:
        start = self._session.answer.bus_start
        if start is not None:
            self.error.make(lambda: bus_edits.charge_all_to(self._session, start.lower_full_v))
