"""Both faces of the pack, true to scale: cells by what they carry, strips by their heat, leads and balance taps."""

from __future__ import annotations

from PyQt6.QtCore import QEvent, QPointF, QRectF, QSizeF, Qt, pyqtSignal
from PyQt6.QtGui import QFocusEvent, QHelpEvent, QKeyEvent, QMouseEvent, QPainter, QPaintEvent, QPen
from PyQt6.QtWidgets import QSizePolicy, QToolTip

from wise_cellar.core.documents import Arrangement
from wise_cellar.core.pack import Face, PackBuild, RunHeat, RunKind, StripRun, run_heats
from wise_cellar.core.shown import shown
from wise_cellar.core.units import TOLD, counted, format_mm, format_size
from wise_cellar.ui.state.session import Session
from wise_cellar.ui.stations.pack.pointing import Spot, cell_words, run_words, spot_at
from wise_cellar.ui.theme import Colours, colours_of, font
from wise_cellar.ui.widgets.faces import MARGIN, FaceView, lead_line, place_faces, tap_spots
from wise_cellar.ui.widgets.marks import ROLE, State
from wise_cellar.ui.widgets.picture import Picture

SHARE_SPAN = 0.25
"""A cell that carries this much more than the mean is drawn in the full tint."""
HAIRLINE = 1.0
"""Width of outlines; a little more takes the toolkit twice as long."""
_STEPS = {Qt.Key.Key_Left: (-1, 0), Qt.Key.Key_Right: (1, 0), Qt.Key.Key_Up: (0, -1), Qt.Key.Key_Down: (0, 1)}


class PackDrawing(Picture):
    """The picture of the Pack station. Arrow keys walk the cells; in an own placement they are dragged, moved with
    Shift and the arrows by half a pitch, and turned over with T or a double click."""

    move_asked = pyqtSignal(int, int, int)
    """A cell, and the steps of half a pitch along and across."""
    turn_asked = pyqtSignal(int)

    def __init__(self, session: Session) -> None:
        super().__init__("Both faces of the pack, to scale")
        self._session = session
        self._heats: tuple[RunHeat, ...] = ()
        self.chosen: int | None = None
        self._drag: tuple[FaceView, QPointF, QPointF] | None = None
        self.setSizePolicy(QSizePolicy.Policy.Expanding, QSizePolicy.Policy.Expanding)
        self.setMinimumSize(280, 120)
        self.setFocusPolicy(Qt.FocusPolicy.StrongFocus)

    @property
    def _build(self) -> PackBuild:
        return self._session.answer.build

    @property
    def _own(self) -> bool:
        build = self._build
        return build.recipe.arrangement is Arrangement.OWN and build.cell.form_factor.cylindrical

    def refresh(self) -> None:
        """Draw the present pack."""
        layout, answer = self._build.layout, self._session.answer
        self._heats = run_heats(self._build, answer.currents)
        if self.chosen is not None and self.chosen >= len(layout.cells):
            self.chosen = None
        size = format_size(layout.length_mm, layout.width_mm, layout.height_mm).replace("×", "by")
        self.tell(f"{counted(len(layout.cells), 'cell')}, {size}.")
        self.read(f"{self._words(self.chosen)}." if self.chosen is not None else "")
        self.update()

    def views(self) -> tuple[FaceView, ...]:
        """Where the faces lie now."""
        return place_faces(self._build, self.width(), self.height() - 26)

    # Pointing

    def event(self, event: QEvent | None) -> bool:
        """Tell what lies under the pointer."""
        if isinstance(event, QHelpEvent) and event.type() == QEvent.Type.ToolTip:
            QToolTip.showText(event.globalPos(), self.text_at(QPointF(event.pos())), self)
            return True
        return super().event(event)

    def text_at(self, point: QPointF) -> str:
        """Words for the strip or the cell at a screen point, or nothing."""
        spot = self._spot(point)
        if spot is None:
            return ""
        if spot.run is not None:
            return run_words(self._build, spot.run, self._heats[spot.run], self._session.answer.punch_s)
        return self._words(spot.cell, spot.view)

    def _spot(self, point: QPointF) -> Spot | None:
        return spot_at(self._build, self.views(), point)

    def _words(self, cell: int | None, view: FaceView | None = None) -> str:
        return cell_words(self._build, cell or 0, view, self._session.answer.currents)

    def mousePressEvent(self, event: QMouseEvent | None) -> None:
        """Choose a cell, and take hold of it in an own placement."""
        if event is None or event.button() != Qt.MouseButton.LeftButton:
            return
        spot = self._spot(event.position())
        self.chosen = spot.cell if spot is not None else None
        self._drag = (spot.view, event.position(), event.position()) if spot is not None and self._own else None
        self.refresh()

    def mouseMoveEvent(self, event: QMouseEvent | None) -> None:
        """Drag the cell."""
        if event is not None and self._drag is not None:
            self._drag = (self._drag[0], self._drag[1], event.position())
            self.update()

    def mouseReleaseEvent(self, _event: QMouseEvent | None) -> None:
        """Put the cell down on the nearest spot of the grid."""
        if self._drag is None or self.chosen is None:
            return
        steps = self._drag_steps()
        self._drag = None
        self.update()
        if steps != (0, 0):
            self.move_asked.emit(self.chosen, *steps)

    def mouseDoubleClickEvent(self, event: QMouseEvent | None) -> None:
        """Turn a cell over."""
        spot = self._spot(event.position()) if event is not None else None
        if spot is not None and self._own:
            self.turn_asked.emit(spot.cell)

    def _drag_steps(self) -> tuple[int, int]:
        if self._drag is None:
            return 0, 0
        view, start, now = self._drag
        (x0, y0), (x1, y1) = view.back(start), view.back(now)
        half = self._build.layout.pitch_mm / 2
        return round((x1 - x0) / half), round((y1 - y0) / half)

    def keyPressEvent(self, event: QKeyEvent | None) -> None:
        """Arrows walk the cells; Shift and an arrow moves one, T turns it over."""
        if event is None:
            return
        step = _STEPS.get(Qt.Key(event.key())) if event.key() in _STEPS else None
        if step is not None and self.views()[0].turned:
            step = step[::-1]
        if step is not None and event.modifiers() & Qt.KeyboardModifier.ShiftModifier and self._own:
            if self.chosen is not None:
                self.move_asked.emit(self.chosen, *step)
        elif step is not None:
            self.chosen = self._neighbour(step)
            self.refresh()
        elif event.key() == Qt.Key.Key_T and self.chosen is not None and self._own:
            self.turn_asked.emit(self.chosen)
        else:
            super().keyPressEvent(event)

    def focusInEvent(self, event: QFocusEvent | None) -> None:
        """Coming by key, start at the first cell."""
        super().focusInEvent(event)
        by_key = event is not None and event.reason() in (
            Qt.FocusReason.TabFocusReason,
            Qt.FocusReason.BacktabFocusReason,
        )
        if by_key and self.chosen is None:
            self.chosen = 0
        self.refresh()

    def _neighbour(self, step: tuple[int, int]) -> int:
        """The nearest cell in a direction, the present one where there is none."""
        cells = self._build.layout.cells
        if self.chosen is None:
            return 0
        here = cells[self.chosen]

        def way(place: int) -> tuple[float, float]:
            dx, dy = cells[place].x_mm - here.x_mm, cells[place].y_mm - here.y_mm
            return dx * step[0] + dy * step[1], abs(dx * step[1]) + abs(dy * step[0])

        ahead = [p for p in range(len(cells)) if cells[p].tier == here.tier and way(p)[0] > max(0.1, way(p)[1])]
        return min(ahead, key=lambda p: way(p)[0] + way(p)[1], default=self.chosen)

    # Painting

    def paintEvent(self, _event: QPaintEvent | None) -> None:
        """All faces and a scale."""
        colours = colours_of(self)
        painter = QPainter(self)
        painter.setRenderHint(QPainter.RenderHint.Antialiasing)
        views = self.views()
        for view in views:
            painter.setFont(font(13, strong=True))
            painter.setPen(colours.colour("ink"))
            painter.drawText(QPointF(view.origin.x(), view.origin.y() - 9), view.title)
            self._bodies(painter, colours, view)
            if not self._build.cell.whole_pack:
                self._strips(painter, colours, view)
                self._leads(painter, colours, view)
                self._taps(painter, colours, view)
            self._chosen_cell(painter, colours, view)
        self._scale_bar(painter, colours, views[0].scale)

    def _bodies(self, painter: QPainter, colours: Colours, view: FaceView) -> None:
        """Cells with polarity; those that carry more than their share in a deeper tint, with a figure where it fits."""
        build, layout = self._build, self._build.layout
        circuit = build.interconnect
        for place, cell in enumerate(layout.cells):
            if cell.tier != view.tier:
                continue
            body = view.body(layout, cell)
            painter.setPen(QPen(colours.colour("faint"), HAIRLINE))
            painter.setBrush(colours.colour("ground"))
            self._outline(painter, body)
            share = float(circuit.shares[place]) if circuit is not None else 1.0
            if share > 1.0:
                tint = colours.shade("ochre", min((share - 1.0) / SHARE_SPAN, 1.0) * 0.45)
                painter.setBrush(tint)
                self._outline(painter, body)
            painter.setBrush(Qt.BrushStyle.NoBrush)
            if build.cell.whole_pack:
                painter.setPen(colours.colour("ink"))
                painter.setFont(font(11.5))
                words = f"{build.cell.name}\n{build.cell.cells_in_series} cells in series"
                painter.drawText(body, int(Qt.AlignmentFlag.AlignCenter | Qt.TextFlag.TextWordWrap), words)
            elif layout.lying:
                self._lying_end(painter, body, cell.positive_up)
            elif not layout.any_way_up:
                self._standing_end(painter, body, cell.positive_up == (view.face is Face.TOP))

    def _outline(self, painter: QPainter, body: QRectF) -> None:
        if self._build.layout.any_way_up:
            painter.drawRoundedRect(body, 3, 3)
        else:
            painter.drawEllipse(body)

    @staticmethod
    def _standing_end(painter: QPainter, body: QRectF, positive: bool) -> None:
        centre, radius = body.center(), body.width() / 2
        if positive:
            painter.drawEllipse(centre, radius * 0.4, radius * 0.4)
        else:
            painter.drawLine(centre - QPointF(radius * 0.3, 0), centre + QPointF(radius * 0.3, 0))

    @staticmethod
    def _lying_end(painter: QPainter, body: QRectF, positive_ahead: bool) -> None:
        """The button at the positive end of a cell that lies."""
        depth = body.height()
        x = body.right() - depth * 0.12 if positive_ahead else body.left()
        painter.drawRect(QRectF(x, body.center().y() - depth * 0.2, depth * 0.12, depth * 0.4))

    def _strips(self, painter: QPainter, colours: Colours, view: FaceView) -> None:
        layout = self._build.layout
        width = max(self._build.recipe.strip.width_mm * view.scale, 2.0)
        order = sorted(range(len(layout.strips)), key=lambda place: layout.strips[place].between_groups)
        for place in order:
            run = layout.strips[place]
            if view.shows(layout, run):
                self._run(painter, colours, view, run, self._heats[place], width)

    def _run(
        self, painter: QPainter, colours: Colours, view: FaceView, run: StripRun, heat: RunHeat, width: float
    ) -> None:
        """A run in the colour of its state, deeper the warmer; over a limit with a broken line along it."""
        state = State.OVER if heat.share > 1 else State.CAUTION if heat.share > 0.85 else State.FINE
        start, end = view.at(run.start_mm), view.at(run.end_mm)
        if run.kind is RunKind.WIRE:
            painter.setPen(QPen(colours.colour("brick"), 2.0, Qt.PenStyle.DashLine))
            painter.drawLine(start, end)
            return
        colour = colours.shade(ROLE[state], 0.30 + 0.55 * min(heat.share, 1.0))
        painter.setPen(QPen(colour, width, Qt.PenStyle.SolidLine, Qt.PenCapStyle.SquareCap))
        if start == end:  # folded between two cells that face each other
            painter.drawPoint(start)
            return
        painter.drawLine(start, end)
        if state is not State.FINE:
            dash = Qt.PenStyle.DashLine if state is State.OVER else Qt.PenStyle.DotLine
            painter.setPen(QPen(colours.colour("sheet"), 1.6, dash))
            painter.drawLine(start, end)

    def _leads(self, painter: QPainter, colours: Colours, view: FaceView) -> None:
        """Leads, from the end groups to the nearer side of the pack."""
        layout = self._build.layout
        for terminal, sign in ((layout.negative, "−"), (layout.positive, "+")):
            if terminal is None or layout.face_of(terminal) != (view.tier, view.face):
                continue
            start, tip = lead_line(layout, view, terminal)
            painter.setPen(QPen(colours.colour("ink"), max(view.scale * 2.0, 3.0), cap=Qt.PenCapStyle.RoundCap))
            painter.drawLine(start, tip)
            upright = abs(tip.x() - start.x()) < abs(tip.y() - start.y())
            beside = QPointF(14, 0) if upright else QPointF(0, -14)
            painter.setFont(font(15, strong=True))
            painter.drawText(QRectF(tip + beside - QPointF(10, 10), QSizeF(20, 20)), Qt.AlignmentFlag.AlignCenter, sign)

    def _taps(self, painter: QPainter, colours: Colours, view: FaceView) -> None:
        for node, spot in tap_spots(self._build.layout, view).items():
            self._tap(painter, colours, view.at(spot), node)

    @staticmethod
    def _tap(painter: QPainter, colours: Colours, spot: QPointF, node: int) -> None:
        painter.setBrush(colours.colour("sheet"))
        painter.setPen(QPen(colours.colour("ink"), HAIRLINE))
        painter.drawEllipse(spot, 9.5, 9.5)
        painter.setFont(font(11.5, strong=True))
        painter.drawText(QRectF(spot.x() - 10, spot.y() - 10, 20, 20), Qt.AlignmentFlag.AlignCenter, str(node))
        painter.setBrush(Qt.BrushStyle.NoBrush)

    def _chosen_cell(self, painter: QPainter, colours: Colours, view: FaceView) -> None:
        """A ring around the chosen cell, and where it would be put down while it is dragged."""
        layout = self._build.layout
        if self.chosen is None or layout.cells[self.chosen].tier != view.tier:
            return
        body = view.body(layout, layout.cells[self.chosen])
        painter.setPen(QPen(colours.colour("verdigris"), 2.4))
        painter.setBrush(Qt.BrushStyle.NoBrush)
        if self.hasFocus():
            self._outline(painter, body.adjusted(-2, -2, 2, 2))
        steps = self._drag_steps()
        if steps != (0, 0):
            half = layout.pitch_mm / 2
            painter.setPen(QPen(colours.colour("verdigris"), 1.6, Qt.PenStyle.DashLine))
            self._outline(painter, body.translated(view.at((steps[0] * half, steps[1] * half)) - view.at((0.0, 0.0))))

    def _scale_bar(self, painter: QPainter, colours: Colours, scale: float) -> None:
        inches = shown("mm").per != 1.0
        lengths = (12.7, 25.4, 50.8, 101.6, 203.2) if inches else (10.0, 20.0, 50.0, 100.0, 200.0)
        length = next((mm for mm in lengths if mm * scale > 40), lengths[-1])
        y = self.height() - 10.0
        painter.setPen(QPen(colours.colour("faint"), 1.4))
        painter.drawLine(QPointF(MARGIN, y), QPointF(MARGIN + length * scale, y))
        for x in (MARGIN, MARGIN + length * scale):
            painter.drawLine(QPointF(x, y - 4), QPointF(x, y + 4))
        painter.setFont(font(11.5))
        painter.drawText(QPointF(MARGIN + length * scale + 8, y + 4), format_mm(length, TOLD))
