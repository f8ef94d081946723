"""Tracing a printed chart: picture, two marks on each axis, points along each curve; all of it can be opened again."""

from __future__ import annotations

from pathlib import Path

from PyQt6.QtCore import QPointF
from PyQt6.QtGui import QImage, QKeySequence, QPixmap, QShortcut
from PyQt6.QtWidgets import QDialog, QFileDialog, QFormLayout, QHBoxLayout, QLineEdit, QPushButton, QVBoxLayout, QWidget

from wise_cellar.core.curves import traced_discharge
from wise_cellar.core.documents import (
    ChargeUnit,
    ChartAxis,
    DocumentError,
    TracedChart,
    TracedCurve,
)
from wise_cellar.core.units import (
    TOLD,
    QuantityError,
    counted,
    format_amps,
    format_celsius,
    format_number,
    format_significant,
    parse_typed,
    unit_of_field,
)
from wise_cellar.core.words import LONGEST_NAME, one_line
from wise_cellar.store import WorkspaceError
from wise_cellar.store.series import series_key
from wise_cellar.ui.state.session import Session
from wise_cellar.ui.stations.cells.chart_view import AXIS_KEYS, AXIS_WORDS, ChartView
from wise_cellar.ui.stations.cells.traced_result import TracedResult
from wise_cellar.ui.widgets.chooser import Chooser
from wise_cellar.ui.widgets.panel import fitted, heading, note
from wise_cellar.ui.widgets.segments import Segments

SIZE = (1080, 680)
SIDE = 330
LARGEST_PICTURE = 40_000_000
TOOLS = (*AXIS_WORDS, "Trace")
TRACE = 4
PICTURES = "Pictures (*.png *.jpg *.jpeg *.bmp *.gif *.webp *.tif *.tiff);;All (*)"
STEPS = (
    "Click a spot on the x axis whose value is printed.",
    "Click another spot on the x axis, far from the first.",
    "Click a spot on the y axis whose value is printed.",
    "Click another spot on the y axis, far from the first.",
    "Click along the curve from full to empty, closer where it bends. Drag a point to correct it.",
)


class TraceDialog(QDialog):
    """Picture at the left, marks and curves at the right.

    Ctrl+Z takes the last mark back; nothing is kept before Keep is pressed.
    """

    def __init__(self, parent: QWidget, session: Session, chart: TracedChart | None) -> None:
        super().__init__(parent)
        self._session = session
        self._cell = session.complete.pack.cell
        self.chart: TracedChart | None = chart
        self._picture = b""
        self._earlier: list[TracedChart] = []
        self._dragged: int | None = None
        self.setWindowTitle("Trace a printed chart")
        self.resize(*SIZE)
        self._build()
        if chart is not None:
            self._picture = session.workspace.series(chart.picture_key)
            self._lay_down(chart.name)

    # Building

    def _build(self) -> None:
        row = QHBoxLayout(fitted(self))
        row.setContentsMargins(16, 14, 16, 14)
        row.setSpacing(16)
        self.view = ChartView()
        row.addWidget(self.view, 1)
        side = QWidget()
        side.setFixedWidth(SIDE)
        column = QVBoxLayout(side)
        column.setContentsMargins(0, 0, 0, 0)
        column.setSpacing(8)
        column.addWidget(heading(f"A chart of {self._cell.name}"))
        self.tools = Segments(TOOLS, "What a click places")
        self.tools.chosen.connect(lambda _place: self._show())
        column.addWidget(self.tools)
        self.step = note(role="")
        column.addWidget(self.step)
        axes = QHBoxLayout()
        self.values: list[QLineEdit] = []
        for axis, words in (("x", "x axis"), ("y", "y axis, V")):
            form = QFormLayout()
            form.addRow(note(words, role=""), None)
            for which in ("first", "second"):
                line = QLineEdit()
                line.setFixedWidth(76)
                line.setAccessibleName(f"Value at the {which} mark of the {axis} axis")
                line.editingFinished.connect(self._values_changed)
                form.addRow(which, line)
                self.values.append(line)
            axes.addLayout(form)
        column.addLayout(axes)
        self.unit = Segments([str(unit) for unit in ChargeUnit], "Unit of the x axis")
        self.unit.chosen.connect(lambda place: self._change({"x_unit": list(ChargeUnit)[place]}))
        column.addWidget(self.unit)
        column.addLayout(self._curve_part())
        self.traced = TracedResult()
        column.addWidget(self.traced)
        self.error = note(role="error")
        column.addWidget(self.error)
        column.addStretch(1)
        buttons = QHBoxLayout()
        cancel = QPushButton("Cancel")
        cancel.clicked.connect(self.reject)
        self.keep_button = QPushButton("Keep")
        self.keep_button.clicked.connect(self.keep)
        buttons.addStretch(1)
        buttons.addWidget(cancel)
        buttons.addWidget(self.keep_button)
        for button in (cancel, self.keep_button):
            button.setAutoDefault(False)
        column.addLayout(buttons)
        row.addWidget(side)
        self.view.placed.connect(self._place)
        self.view.moved.connect(self._move)
        self.view.dropped.connect(self._drop)
        self.view.removed.connect(self._remove)
        back = QShortcut(QKeySequence.StandardKey.Undo, self)
        back.activated.connect(self.take_back)

    def _curve_part(self) -> QVBoxLayout:
        column = QVBoxLayout()
        column.setSpacing(6)
        row = QHBoxLayout()
        self.curves = Chooser()
        self.curves.setAccessibleName("Curve that is traced")
        self.curves.activated.connect(lambda _index: self._show())
        add = QPushButton("Another curve")
        add.setAutoDefault(False)
        add.clicked.connect(self.add_curve)
        row.addWidget(self.curves, 1)
        row.addWidget(add)
        column.addLayout(row)
        form = QFormLayout()
        self.name, self.current, self.air = QLineEdit(), QLineEdit(), QLineEdit()
        for line, words in ((self.name, "Name"), (self.current, "Discharge current"), (self.air, "Air")):
            line.setAccessibleName(words)
            line.editingFinished.connect(self._curve_changed)
            form.addRow(words, line)
        column.addLayout(form)
        return column

    # The picture

    def ask_picture(self) -> Path | None:
        """Ask for a picture; ``None`` when none was chosen."""
        name, _ = QFileDialog.getOpenFileName(self.parentWidget(), "Trace a printed chart", "", PICTURES)
        return Path(name) if name else None

    def open_picture(self, path: Path) -> None:
        """Begin a chart on this picture. One that cannot be used is named, and the panel stays empty."""
        sentence = ""
        try:
            if path.stat().st_size > LARGEST_PICTURE:
                sentence = (
                    f"{path.name} has {format_number(path.stat().st_size / 1e6, 0)} MB; pictures up to 40 MB can be"
                    " traced."
                )
            else:
                self._picture = path.read_bytes()
        except OSError as error:
            sentence = f"{path} cannot be read: {error.strerror}."
        if not sentence and QPixmap.fromImage(_image(self._picture)).isNull():
            sentence = f"{path.name} is no picture that can be read; use a PNG or JPEG of the chart."
        if sentence:
            self.error.setText(sentence)
            self._picture = b""
            self.keep_button.setEnabled(False)
            return
        self.chart = TracedChart(
            id=self._session.free_id(TracedChart, f"{self._cell.id} {path.stem}"),
            name=one_line(path.stem, LONGEST_NAME) or "chart",
            cell_type_id=self._cell.id,
            picture_key=series_key(self._picture),
            y_axis=ChartAxis(first_value=self._cell.min_voltage_v, second_value=self._cell.max_voltage_v),
            x_axis=ChartAxis(first_value=0, second_value=round(self._cell.capacity_mah / 1000, 1)),
            curves=(self._fresh_curve(0),),
        )
        self._lay_down(path.name)

    def _fresh_curve(self, place: int) -> TracedCurve:
        amps = round(self._cell.capacity_mah / 1000 * (0.2 if place == 0 else 1.0), 2)
        return TracedCurve(name=f"traced {place + 1}", current_a=amps)

    def _lay_down(self, name: str) -> None:
        self.setWindowTitle(f"Trace a printed chart: {name}")
        self.view.show_picture(QPixmap.fromImage(_image(self._picture)))
        marked = self.chart is not None and all(getattr(getattr(self.chart, a), m) is not None for a, m in AXIS_KEYS)
        self.tools.choose(TRACE if marked else 0)
        self._show()

    # Marks

    def _change(self, update: dict[str, object], *, same_drag: bool = False) -> None:
        """Change the chart; what it was can be taken back, a drag as a whole."""
        if self.chart is None:
            return
        try:
            changed = TracedChart.from_data(self.chart.model_dump() | _plain(update))
        except DocumentError as error:
            self.error.setText(str(error))
            return
        if changed != self.chart:
            if not same_drag:
                self._earlier.append(self.chart)
            self.chart = changed
        self._show()

    def take_back(self) -> None:
        """Take the last change back."""
        if self._earlier:
            self.chart = self._earlier.pop()
            self._show()

    def _place(self, at: QPointF) -> None:
        if self.chart is None:
            return
        if self.tools.current == TRACE:
            curve = self.chart.curves[self._at()]
            self._change_curve({"points": (*curve.points, (at.x(), at.y()))})
            return
        self._set_axis(self.tools.current, (at.x(), at.y()))
        self.tools.choose(self.tools.current + 1)

    def _move(self, mark: int, to: QPointF) -> None:
        if self.chart is None:
            return
        same_drag, self._dragged = self._dragged == mark, mark
        if mark < TRACE:
            self._set_axis(mark, (to.x(), to.y()), same_drag=same_drag)
            return
        points = list(self.chart.curves[self._at()].points)
        points[mark - TRACE] = (to.x(), to.y())
        self._change_curve({"points": tuple(points)}, same_drag=same_drag)

    def _drop(self) -> None:
        self._dragged = None

    def _remove(self, mark: int) -> None:
        if self.chart is None or mark < TRACE:
            return
        points = list(self.chart.curves[self._at()].points)
        del points[mark - TRACE]
        self._change_curve({"points": tuple(points)})

    def _set_axis(self, mark: int, at: tuple[float, float], *, same_drag: bool = False) -> None:
        if self.chart is not None:
            axis, name = AXIS_KEYS[mark]
            self._change({axis: getattr(self.chart, axis).changed(**({name: at}))}, same_drag=same_drag)

    def _values_changed(self) -> None:
        if self.chart is None:
            return
        try:
            x1, x2, y1, y2 = (_value(line.text()) for line in self.values)
        except QuantityError as error:
            self.error.setText(str(error))
            return
        self._change({
            "x_axis": self.chart.x_axis.changed(first_value=x1, second_value=x2),
            "y_axis": self.chart.y_axis.changed(first_value=y1, second_value=y2),
        })  # fmt: skip

    # Curves

    def _at(self) -> int:
        return max(self.curves.currentIndex(), 0)

    def add_curve(self) -> None:
        """Begin another curve of the same chart."""
        if self.chart is None:
            return
        place = len(self.chart.curves)
        self._change({"curves": (*self.chart.curves, self._fresh_curve(place))})
        self.curves.setCurrentIndex(place)
        self.tools.choose(TRACE)
        self._show()

    def _change_curve(self, update: dict[str, object], *, same_drag: bool = False) -> None:
        if self.chart is None:
            return
        curves = list(self.chart.curves)
        curves[self._at()] = curves[self._at()].changed(**update)
        self._change({"curves": tuple(curves)}, same_drag=same_drag)

    def _curve_changed(self) -> None:
        try:
            current = parse_typed(self.current.text(), unit_of_field("current_a"))
            air = parse_typed(self.air.text(), unit_of_field("air_temperature_c"))
        except QuantityError as error:
            self.error.setText(str(error))
            return
        name = self.name.text().strip() or f"traced {self._at() + 1}"
        self._change_curve({"name": name, "current_a": current, "air_temperature_c": air})

    # Showing

    def _show(self) -> None:
        chart = self.chart
        if chart is None:
            return
        at = min(self._at(), len(chart.curves) - 1)
        self.curves.clear()
        self.curves.addItems([f"{curve.name}, {counted(len(curve.points), 'point')}" for curve in chart.curves])
        self.curves.setCurrentIndex(at)
        self.step.setText(STEPS[self.tools.current])
        curve = chart.curves[at]
        self.name.setText(curve.name)
        self.current.setText(format_amps(curve.current_a, TOLD))
        self.air.setText(format_celsius(curve.air_temperature_c, TOLD))
        x, y = chart.x_axis, chart.y_axis
        values = (x.first_value, x.second_value, y.first_value, y.second_value)
        for line, value in zip(self.values, values, strict=True):
            line.setText(format_significant(value))
        self.unit.choose(list(ChargeUnit).index(chart.x_unit))
        self.view.show_chart(chart, at)
        good, faults = [], []
        for one in chart.curves:
            try:
                good.append(traced_discharge(chart, one))
            except DocumentError as error:
                faults.append(str(error))
        self.traced.show_curves(good)
        self.error.setText(faults[0] if faults else "")
        self.keep_button.setEnabled(True)

    def keep(self) -> None:
        """Keep the chart with everything on it, finished or not, as one edit."""
        if self.chart is None:
            return
        try:
            self._session.commit(
                f"Trace {self.chart.name}", [self.chart], series={self.chart.picture_key: self._picture}
            )  # fmt: skip
        except (DocumentError, WorkspaceError) as error:
            self.error.setText(str(error))
            return
        self.accept()


def _image(data: bytes) -> QImage:
    return QImage.fromData(data)


def _plain(update: dict[str, object]) -> dict[str, object]:
    def plain(value: object) -> object:
        if isinstance(value, tuple):
            return tuple(plain(inner) for inner in value)
        return value.model_dump() if isinstance(value, ChartAxis | TracedCurve) else value

    return {name: plain(value) for name, value in update.items()}


def _value(text: str) -> float:
    return parse_typed(text, unit_of_field("value"))
