"""The sheet of the present cell: every value with its source."""

from __future__ import annotations

from collections.abc import Callable
from datetime import date
from functools import partial

from PyQt6.QtCore import QRectF, QSize, Qt
from PyQt6.QtGui import QPainter, QPaintEvent
from PyQt6.QtWidgets import QHBoxLayout, QPushButton, QVBoxLayout, QWidget

from wise_cellar.core.documents import CellType, FormFactor, SourceKind, ValueSource, field_info
from wise_cellar.ui.state.cell_edits import change_form
from wise_cellar.ui.state.document_edits import duplicate_cell_type
from wise_cellar.ui.state.session import Session
from wise_cellar.ui.stations.cells.source_mark import SourceMark
from wise_cellar.ui.theme import colours_of, font
from wise_cellar.ui.widgets.fields import ChoiceField, Field, field_for
from wise_cellar.ui.widgets.panel import heading, note, sheet
from wise_cellar.ui.widgets.source_drawing import draw_source

TABLE_GONE = "Removed its own voltage table: the family's flies."
LABEL = 132
PARTS: tuple[tuple[str, tuple[str, ...]], ...] = (
    ("", ("name", "form_factor")),
    ("Size and mass", ("diameter_mm", "length_mm", "width_mm", "thickness_mm", "cells_in_series", "mass_g")),
    ("Capacity and resistance", ("capacity_mah", "nominal_voltage_v", "dcir_mohm", "ac_resistance_mohm")),
    ("Currents", ("continuous_current_a", "c_rating", "pulse_current_a", "pulse_s", "trusted_current_a",
                  "charge_current_a")),
    ("Limits", ("min_voltage_v", "max_voltage_v", "min_temperature_c", "max_temperature_c")),
    ("What stands in for measurements", ("ocv_family", "kinetic_class")),
    ("", ("price", "notes")),
)  # fmt: skip
UNSOURCED = ("name", "form_factor", "trusted_current_a", "notes", "ocv_family", "kinetic_class", "cells_in_series")
ONLY_CYLINDERS, NOT_CYLINDERS, ONLY_PACKS = ("diameter_mm",), ("width_mm", "thickness_mm"), ("cells_in_series",)


class FormField(ChoiceField):
    """The form; another one brings the sizes that it needs."""

    def _chosen(self, index: int) -> None:
        if not self._try(lambda: change_form(self.session, list(FormFactor)[index])):
            self.refresh()


class _Legend(QWidget):
    """What the three marks mean."""

    def __init__(self) -> None:
        super().__init__()
        self.setFixedHeight(20)
        self.setAccessibleName("Marks: filled is measured, a ring is from a maker's sheet, broken is an estimate")

    def sizeHint(self) -> QSize:
        """One line."""
        return QSize(240, 20)

    def paintEvent(self, _event: QPaintEvent | None) -> None:
        """Marks with their words."""
        painter, colours = QPainter(self), colours_of(self)
        painter.setFont(font(11.5))
        words, x = "After a value:", 0.0
        for kind in (None, *SourceKind):
            if kind is not None:
                draw_source(painter, kind, QRectF(x + 1, 7, 7, 7), colours)
                words, x = str(kind), x + 12
            painter.setPen(colours.colour("faint"))
            painter.drawText(QRectF(x, 0, 110, 20), Qt.AlignmentFlag.AlignVCenter, words)
            x += 9 + painter.fontMetrics().horizontalAdvance(words)


class SheetPanel(QWidget):
    """Fields of the present cell type in parts, with the mark of each value's source."""

    def __init__(self, session: Session, attempt: Callable[[Callable[[], object]], bool]) -> None:
        super().__init__()
        self._session, self._attempt = session, attempt
        self._rows: dict[str, tuple[QWidget, Field, SourceMark | None]] = {}
        column = QVBoxLayout(self)
        column.setContentsMargins(0, 0, 0, 0)
        panel, inside = sheet(spacing=4)
        column.addWidget(panel)
        self._title = heading("")
        inside.addWidget(self._title)
        self.words = note()
        inside.addWidget(self.words)
        inside.addWidget(_Legend())
        for title, names in PARTS:
            if title:
                part = note(title, role="")
                part.setFont(font(13, strong=True))
                part.setContentsMargins(0, 8, 0, 0)
                inside.addWidget(part)
            for name in names:
                inside.addWidget(self._row(name))
        inside.addSpacing(6)
        self._own_table = QPushButton("Remove its own voltage table")
        self._own_table.setProperty("role", "quiet")
        self._own_table.clicked.connect(lambda: attempt(lambda: session.edit("cells.0.own_ocv", None, "", TABLE_GONE)))
        inside.addWidget(self._own_table, 0, Qt.AlignmentFlag.AlignLeft)
        copy = QPushButton("Go on with a copy of this cell")
        copy.setProperty("role", "quiet")
        copy.clicked.connect(lambda: attempt(partial(duplicate_cell_type, session)))
        inside.addWidget(copy, 0, Qt.AlignmentFlag.AlignLeft)
        inside.addWidget(
            note("A label is a claim: measure capacity and resistance of a few cells before you build.", "caution")
        )

    def _row(self, name: str) -> QWidget:
        path = f"cells.0.{name}"
        field = FormField(self._session, path) if name == "form_factor" else field_for(self._session, path)
        field.set_label_width(LABEL)
        row = QWidget()
        line = QHBoxLayout(row)
        line.setContentsMargins(0, 0, 0, 0)
        line.setSpacing(2)
        line.addWidget(field, 1)
        mark = None
        if name not in UNSOURCED:
            mark = SourceMark(field_info(CellType, name).title)
            mark.changed.connect(partial(self._set_source, name))
            kept = mark.sizePolicy()
            kept.setRetainSizeWhenHidden(True)
            mark.setSizePolicy(kept)
            line.addWidget(mark, 0, Qt.AlignmentFlag.AlignTop)
        else:
            line.addSpacing(22)
        self._rows[name] = (row, field, mark)
        return row

    def refresh(self) -> None:
        """Show the present cell's sheet."""
        cell = self._session.complete.pack.cell
        self._title.setText(cell.name)
        self.words.setText(source_words(cell))
        self._own_table.setVisible(cell.own_ocv is not None)
        cylinder = cell.form_factor.cylindrical
        for name, (row, field, mark) in self._rows.items():
            row.setVisible(
                not (name in ONLY_CYLINDERS and not cylinder)
                and not (name in NOT_CYLINDERS and cylinder)
                and not (name in ONLY_PACKS and not cell.whole_pack)
            )
            field.refresh()
            if mark is not None:
                mark.show_source(*cell.source_of(name))
                mark.setVisible(getattr(cell, name) is not None)

    def _set_source(self, name: str, kind: SourceKind, day: date | None) -> None:
        cell = self._session.complete.pack.cell
        others = tuple(s for s in cell.sources if s.field != name)
        sources = (*others, ValueSource(field=name, kind=kind, day=day))
        title = field_info(CellType, name).title
        self._attempt(lambda: self._session.edit("cells.0.sources", sources, f"Source of {title}"))


def source_words(cell: CellType) -> str:
    """What flights of the cell rest on."""
    if cell.fitted is not None:
        return (
            "Flown by a fit to its own discharges. Capacity, resistance, family and kinetic class below stand for the"
            " label."
        )
    table = "its own voltage table" if cell.own_ocv is not None else "the family's voltage table"
    resistance = "the resistance below" if cell.dcir_mohm is not None else "a resistance estimated from the AC reading"
    return f"Flown by its sheet: {table}, {resistance}, surface lag by class (an estimate)."
