"""What a pack takes, on paper: a row a material, with a box to tick."""

from __future__ import annotations

from collections.abc import Sequence
from functools import partial

from PyQt6.QtCore import QRectF

from wise_cellar.core.build.materials import Material
from wise_cellar.core.units import format_grams, format_number
from wise_cellar.ui.stations.build.paper import FAINT, MARGIN_MM, Hand, Page, PaperSize, height_mm

TITLE, TEXT, SMALL = 4.6, 3.2, 2.8
HEAD_MM, TICK_MM, GAP_MM = 14.0, 4.0, 2.0
HEADS = ("", "size", "count", "to cut", "to buy", "weighs")
SHARES = (0.21, 0.24, 0.07, 0.24, 0.14, 0.10)


def materials_sheet(found: Sequence[Material], title: str, size: PaperSize) -> list[Page]:
    """The list, over as many pages as it takes."""
    wide = size.mm[0] - 2 * MARGIN_MM - TICK_MM - 2
    room = size.mm[1] - 2 * MARGIN_MM - HEAD_MM - 8
    rows = [_texts(one) for one in found]
    rows.append(("Together", "", "", "", "", format_grams(sum(one.grams for one in found), 1)))
    pages: list[list[tuple[str, ...]]] = [[]]
    used = 0.0
    for row in rows:
        high = _high(row, wide)
        if used + high > room:
            pages.append([])
            used = 0.0
        pages[-1].append(row)
        used += high
    return [partial(_page, rows, f"{title}: materials") for rows in pages]


def _texts(one: Material) -> tuple[str, ...]:
    grams = format_grams(one.grams, 1) if one.grams else ""
    return one.name, one.size, format_number(one.count, 0), one.cut_words, one.stock_words, grams


def _high(row: Sequence[str], wide: float) -> float:
    return GAP_MM + max(height_mm(text, share * wide - 2, TEXT) for text, share in zip(row, SHARES, strict=True))


def _page(rows: Sequence[tuple[str, ...]], title: str, hand: Hand) -> None:
    wide = hand.size.mm[0] - 2 * MARGIN_MM - TICK_MM - 2
    left = MARGIN_MM + TICK_MM + 2
    hand.words(QRectF(MARGIN_MM, MARGIN_MM, wide, 8), title, TITLE, strong=True)
    y = MARGIN_MM + HEAD_MM - 5
    _row(hand, HEADS, left, y, wide, head=True)
    y += 6
    for row in rows:
        high = _high(row, wide)
        last = row[0] == "Together"
        if not last:
            hand.frame(QRectF(MARGIN_MM, y, TICK_MM, TICK_MM))
        _row(hand, row, left, y, wide, strong=last)
        y += high


def _row(
    hand: Hand, row: Sequence[str], left: float, y: float, wide: float, *, strong: bool = False, head: bool = False
) -> None:
    for text, share in zip(row, SHARES, strict=True):
        box = QRectF(left, y, share * wide - 2, 60)
        if head:
            hand.words(box, text, SMALL, colour=FAINT)
        else:
            hand.words(box, text, TEXT, strong=strong)
        left += share * wide
