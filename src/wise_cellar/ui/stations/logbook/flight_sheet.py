"""A flight's page on paper."""

from __future__ import annotations

import html
from collections.abc import Sequence
from pathlib import Path

from PyQt6.QtCore import QMarginsF, QUrl
from PyQt6.QtGui import QPageLayout, QPageSize, QPdfWriter, QTextDocument
from PyQt6.QtWidgets import QWidget

from wise_cellar.core.documents import DocumentError
from wise_cellar.core.logbook import FlownFlight
from wise_cellar.core.logbook.apart import signed_minutes
from wise_cellar.core.units import format_celsius, format_minutes, format_speed, format_volts, format_watts
from wise_cellar.ui.state.flight_facts import Shown
from wise_cellar.ui.theme import font

DPI, MARGIN_MM, PICTURE_PX = 150, 15.0, 620


def flight_page(shown: Shown) -> str:
    """The page as HTML; the picture of its traces is the resource ``traces``."""
    entry, fact = shown.flown.entry, shown.fact
    weather = shown.flown.complete.design.conditions
    air = entry.air_temperature_c if entry.air_temperature_c is not None else weather.air_temperature_c
    wind = entry.wind_m_s if entry.wind_m_s is not None else weather.wind_m_s
    complete = shown.flown.complete
    about = [
        f"{entry.flown_at:%Y-%m-%d %H:%M}", complete.craft.name, complete.pack.words, entry.place,
        f"{format_celsius(air)}, wind {format_speed(wind)}", entry.note,
    ]  # fmt: skip
    parts = [f"<h2>{_safe(entry.name)}</h2><p>{_safe(' · '.join(word for word in about if word))}</p>"]
    parts += [f"<p>{_safe(sentence)}</p>" for sentence in fact.sentences()]
    rows = [("planned", format_minutes(shown.parts.first_s), "")]
    rows += [(part.name, signed_minutes(part.seconds), part.words) for part in shown.parts.parts]
    rows += [("not explained", signed_minutes(shown.parts.left_s), ""),
             ("flown", format_minutes(shown.parts.last_s), "")]  # fmt: skip
    parts.append(f"<h3>Where the minutes went</h3>{_table(rows)}")
    if isinstance(fact, FlownFlight):
        parts.append(f"<p><img src='traces' width='{PICTURE_PX}'></p>")
        phases = [("Phase", "From", "For", "Watts", "Volts")]
        phases += [(str(one.kind), format_minutes(one.from_s), format_minutes(one.seconds), format_watts(one.watts),
                    format_volts(one.volts)) for one in fact.phases]  # fmt: skip
        parts.append(f"<h3>Phase by phase</h3>{_table(phases)}")
    return "".join(parts)


def _safe(text: str) -> str:
    return html.escape(text)


def _table(rows: Sequence[tuple[str, ...]]) -> str:
    lines = "".join("<tr>" + "".join(f"<td>{_safe(cell)}&nbsp;&nbsp;</td>" for cell in row) + "</tr>" for row in rows)
    return f"<table cellspacing='3'>{lines}</table>"


def write_flight_sheet(path: Path, shown: Shown, traces: QWidget) -> None:
    """Write a flight's page as PDF; raises :class:`DocumentError` where the file cannot be written."""
    try:
        with path.open("wb"):
            pass
    except OSError as error:
        raise DocumentError(f"{path} cannot be written: {error.strerror}.") from error
    writer = QPdfWriter(str(path))
    writer.setResolution(DPI)
    writer.setTitle(shown.flown.entry.name)
    margins = QMarginsF(MARGIN_MM, MARGIN_MM, MARGIN_MM, MARGIN_MM)
    writer.setPageLayout(
        QPageLayout(QPageSize(QPageSize.PageSizeId.A4), QPageLayout.Orientation.Portrait, margins,
                    QPageLayout.Unit.Millimeter)
    )  # fmt: skip
    page = QTextDocument()
    page.setDefaultFont(font(11))
    page.addResource(QTextDocument.ResourceType.ImageResource.value, QUrl("traces"), traces.grab().toImage())
    page.setHtml(flight_page(shown))
    page.print(writer)
