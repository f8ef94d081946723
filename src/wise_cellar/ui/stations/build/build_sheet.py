"""The steps on paper: what to do, the volts to expect, and boxes to tick and to write in."""

from __future__ import annotations

from collections.abc import Callable, Iterator
from dataclasses import dataclass
from functools import partial

from PyQt6.QtCore import QRectF

from wise_cellar.core.build.making import Making
from wise_cellar.core.build.steps import Step
from wise_cellar.core.documents import StepRecord
from wise_cellar.core.units import format_number
from wise_cellar.ui.stations.build.paper import FAINT, MARGIN_MM, Hand, Page, PaperSize, height_mm

HEAD_MM, FOOT_MM = 12.0, 8.0
TITLE, TEXT, SMALL = 4.0, 3.2, 2.8
"""Heights of letters, mm."""
TICK_MM, READING_MM, GAP_MM = 5.0, 6.5, 3.0
BOX_WIDE_MM, EXPECT_WIDE_MM = 26.0, 40.0


@dataclass(frozen=True)
class _Block:
    """Something of a height that is not parted between pages."""

    high_mm: float
    draw: Callable[[Hand, float], None]
    """At a distance from the top, mm."""


def build_sheet(making: Making, title: str, size: PaperSize) -> list[Page]:
    """All steps, over as many pages as they take."""
    wide = size.mm[0] - 2 * MARGIN_MM
    room = size.mm[1] - 2 * MARGIN_MM - HEAD_MM - FOOT_MM
    pages: list[list[_Block]] = [[]]
    used = 0.0
    for place, step in enumerate(making.steps):
        whole = list(_blocks(place, step, making.record(step), wide))
        # A step begins where its first three blocks have room, and goes on over pages where it is long.
        if used + sum(block.high_mm for block in whole[:3]) > room:
            pages.append([])
            used = 0.0
        for block in whole:
            if used + block.high_mm > room:
                pages.append([])
                used = 0.0
            pages[-1].append(block)
            used += block.high_mm
    return [partial(_page, blocks, title, number, len(pages)) for number, blocks in enumerate(pages, 1)]


def _page(blocks: list[_Block], title: str, number: int, of: int, hand: Hand) -> None:
    across, down = hand.size.mm
    hand.words(QRectF(MARGIN_MM, MARGIN_MM, across - 2 * MARGIN_MM, HEAD_MM), title, 4.6, strong=True)
    y = MARGIN_MM + HEAD_MM
    for block in blocks:
        block.draw(hand, y)
        y += block.high_mm
    foot = f"Page {number} of {of}. Rules for batteries and aircraft are local: check yours."
    hand.words(QRectF(MARGIN_MM, down - MARGIN_MM - 4, across - 2 * MARGIN_MM, 5), foot, SMALL, colour=FAINT)


def _blocks(place: int, step: Step, record: StepRecord, wide: float) -> Iterator[_Block]:
    left = MARGIN_MM + TICK_MM + 3
    read = {reading.of: reading.volts for reading in record.readings}

    def head(hand: Hand, y: float) -> None:
        hand.frame(QRectF(MARGIN_MM, y + GAP_MM, TICK_MM, TICK_MM), 0.35)
        hand.words(QRectF(left, y + GAP_MM, wide - 60, 6), f"{place + 1}  {step.title}", TITLE, strong=True)
        if record.at is not None:
            box = QRectF(MARGIN_MM, y + GAP_MM, TICK_MM, TICK_MM)
            hand.words(box, "–" if record.left_out else "✓", TEXT, strong=True, centred=True)
            hand.words(QRectF(MARGIN_MM + wide - 38, y + GAP_MM + 0.6, 38, 5), f"{record.at:%Y-%m-%d %H:%M}", TEXT)
        hand.words(QRectF(MARGIN_MM + wide - 46, y + GAP_MM + 0.8, 16, 5), "on", SMALL, colour=FAINT)
        hand.line((MARGIN_MM + wide - 40, y + GAP_MM + 5), (MARGIN_MM + wide, y + GAP_MM + 5), 0.2)

    yield _Block(TICK_MM + GAP_MM + 2.0, head)
    for sentence in step.told:
        yield _text(f"!  {sentence}", left, wide, TEXT, strong=True)
    for sentence in step.do:
        yield _text(sentence, left, wide, TEXT)
    small = [f"With: {', '.join(step.tools)}."] if step.tools else []
    for sentence in (*small, *step.pieces, *([step.heat] if step.heat else [])):
        yield _text(sentence, left, wide, SMALL)
    for one in step.expected:
        within = format_number(one.within_v, 3 if one.within_v < 0.1 else 2)
        told = f"{format_number(one.volts, 3)} ± {within} V"
        volts = read.get(one.key)
        was = "" if volts is None else format_number(volts, 3)
        yield _Block(READING_MM, partial(_reading, (one.words, told, was), left, wide))
    if record.note:
        yield _text(record.note, left, wide, SMALL)


def _text(sentence: str, left: float, wide: float, high: float, *, strong: bool = False) -> _Block:
    room = wide - (left - MARGIN_MM)
    tall = height_mm(sentence, room, high, strong=strong) + 0.8

    def draw(hand: Hand, y: float) -> None:
        hand.words(QRectF(left, y, room, tall + 2), sentence, high, strong=strong)

    return _Block(tall, draw)


def _reading(texts: tuple[str, str, str], left: float, wide: float, hand: Hand, y: float) -> None:
    """What, what to expect, and what was read; a box to write in where nothing was."""
    words, told, was = texts
    right = MARGIN_MM + wide
    hand.words(QRectF(left, y + 1.2, wide - BOX_WIDE_MM - EXPECT_WIDE_MM - 10, 5), words, SMALL)
    hand.words(QRectF(right - BOX_WIDE_MM - EXPECT_WIDE_MM, y + 1.2, EXPECT_WIDE_MM - 2, 5), told, TEXT, strong=True)
    hand.frame(QRectF(right - BOX_WIDE_MM, y + 0.4, BOX_WIDE_MM, READING_MM - 1.0))
    hand.words(QRectF(right - BOX_WIDE_MM, y + 0.4, BOX_WIDE_MM, READING_MM - 1.0), was, TEXT, centred=True)
