"""Cards to cut out: what the pins of the balance plug read, the label of a pack, what to set on the alarms."""

from __future__ import annotations

from functools import partial

import segno
from PyQt6.QtCore import QRectF

from wise_cellar.core.build.label import LabelText
from wise_cellar.core.build.making import Making
from wise_cellar.core.units import format_number
from wise_cellar.core.words import upper_first
from wise_cellar.ui.stations.build.paper import FAINT, MARGIN_MM, Hand, Page, height_mm, width_mm

TITLE, TEXT, SMALL = 4.2, 3.2, 2.7
LABEL_MM = (86.0, 48.0)
CODE_MM = 24.0
QUIET_MODULES = 2
"""Free squares that a code has around it here; the label's own margin adds to them."""
CARD_WIDE_MM = 120.0
PIN_MM, PIN_HIGH_MM = 13.0, 9.0
LABELS = 4
"""How many labels a sheet has: one for the pack, others to spare."""


def tap_card(making: Making, title: str) -> list[Page]:
    """The plug pin by pin, with what each reads."""
    volts = [0.0]
    for each in making.group_v:
        volts.append(volts[-1] + each)
    return [partial(_taps, tuple(volts), title)] if len(volts) > 1 else []


def _taps(volts: tuple[float, ...], title: str, hand: Hand) -> None:
    wide = hand.size.mm[0] - 2 * MARGIN_MM
    y = MARGIN_MM
    hand.words(QRectF(MARGIN_MM, y, wide, 8), f"{title}: balance lead of {len(volts) - 1}S", TITLE, strong=True)
    y += 9
    told = (
        "Seen on the pins, the most negative on the left. Read each against pin 1, and between neighbours, before"
        " anything is plugged in."
    )
    hand.words(QRectF(MARGIN_MM, y, wide, 10), told, TEXT)
    y += height_mm(told, wide, TEXT) + 5
    a_row = int((wide - 2) // PIN_MM)
    for start in range(0, len(volts), a_row):
        _pins(hand, volts, start, min(start + a_row, len(volts)), y)
        y += PIN_HIGH_MM + 34
    caution = "Do not connect a charger while one reads otherwise: mend one wire at a time, the others insulated."
    hand.words(QRectF(MARGIN_MM, y, wide, 10), caution, TEXT, strong=True)


def _pins(hand: Hand, volts: tuple[float, ...], start: int, end: int, y: float) -> None:
    """One row of the plug: pins, what they read against the first, against the one before, and boxes."""
    for place in range(start, end):
        x = MARGIN_MM + (place - start) * PIN_MM
        hand.frame(QRectF(x, y, PIN_MM, PIN_HIGH_MM), 0.35)
        hand.words(QRectF(x, y, PIN_MM, PIN_HIGH_MM), str(place + 1), TITLE, strong=True, centred=True)
        against = format_number(volts[place], 2)
        hand.words(QRectF(x, y + PIN_HIGH_MM + 1, PIN_MM, 5), against, SMALL, centred=True)
        hand.frame(QRectF(x + 0.5, y + PIN_HIGH_MM + 7, PIN_MM - 1, 7))
        if place:
            step = format_number(volts[place] - volts[place - 1], 3)
            hand.words(QRectF(x, y + PIN_HIGH_MM + 16, PIN_MM, 5), step, SMALL, colour=FAINT, centred=True)
            hand.frame(QRectF(x + 0.5, y + PIN_HIGH_MM + 22, PIN_MM - 1, 7))


def label_sheet(label: LabelText) -> list[Page]:
    """Some labels to cut out and stick on."""
    return [partial(_labels, label)]


def _labels(label: LabelText, hand: Hand) -> None:
    wide, high = LABEL_MM
    for place in range(LABELS):
        x = MARGIN_MM + (place % 2) * (wide + 6)
        y = MARGIN_MM + (place // 2) * (high + 6)
        _label(hand, label, x, y)
    told = (
        "Cut along the lines and cover with clear tape. The code opens it in Wise Cellar: read it into Find with any"
        " scanner."
    )
    below = MARGIN_MM + (LABELS // 2) * (high + 6) + 2
    hand.words(QRectF(MARGIN_MM, below, hand.size.mm[0] - 2 * MARGIN_MM, 10), told, SMALL, colour=FAINT)


def _label(hand: Hand, label: LabelText, x: float, y: float) -> None:
    wide, high = LABEL_MM
    hand.frame(QRectF(x, y, wide, high), 0.2)
    inside = wide - CODE_MM - 9
    title = TITLE if width_mm(label.name, TITLE, strong=True) <= inside else TEXT
    hand.words(QRectF(x + 3, y + 2.5, inside, 11), label.name, title, strong=True)
    top = y + 3.5 + min(height_mm(label.name, inside, title, strong=True), 11)
    for line in label.lines:
        tall = height_mm(line, inside, SMALL)
        hand.words(QRectF(x + 3, top, inside, tall + 1), line, SMALL)
        top += tall + 0.4
    _code(hand, label.code, x + wide - CODE_MM - 3, y + 3)
    caution = height_mm(label.caution, wide - 6, 2.3, strong=True)
    hand.words(QRectF(x + 3, y + high - caution - 1.5, wide - 6, caution + 1), label.caution, 2.3, strong=True)


def _code(hand: Hand, text: str, x: float, y: float) -> None:
    """A code of squares (ISO/IEC 18004), a quarter of which may be scratched."""
    rows = [list(row) for row in segno.make(text, error="q", micro=False).matrix]
    each = CODE_MM / (len(rows) + 2 * QUIET_MODULES)
    for down, row in enumerate(rows):
        for across, dark in enumerate(row):
            if dark:
                left, top = x + (across + QUIET_MODULES) * each, y + (down + QUIET_MODULES) * each
                hand.dark(QRectF(left, top, each, each))


def alarm_sheet(lines: list[str]) -> list[Page]:
    """What to set on the craft, as a card."""
    return [partial(_alarms, lines)]


def _alarms(lines: list[str], hand: Hand) -> None:
    x, y, wide = MARGIN_MM, MARGIN_MM, CARD_WIDE_MM
    head, *told = lines
    top = y + 4
    hand.words(QRectF(x + 4, top, wide - 8, 8), upper_first(head), TITLE, strong=True)
    top += height_mm(head, wide - 8, TITLE, strong=True) + 2
    for sentence in told:
        tall = height_mm(sentence, wide - 8, TEXT)
        hand.words(QRectF(x + 4, top, wide - 8, tall + 1), sentence, TEXT)
        top += tall + 1.6
    hand.frame(QRectF(x, y, wide, top - y + 3), 0.3, 2.0)
