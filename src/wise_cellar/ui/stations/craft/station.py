"""The Craft station."""

from __future__ import annotations

from collections.abc import Callable

from PyQt6.QtCore import Qt
from PyQt6.QtWidgets import QHBoxLayout, QPushButton, QVBoxLayout, QWidget

from wise_cellar.core.answer import wing_figures
from wise_cellar.core.documents import Balance, DocumentError, KeepOut, Load, Part
from wise_cellar.core.units import format_grams, format_number
from wise_cellar.store import WorkspaceError
from wise_cellar.ui.state.session import Session
from wise_cellar.ui.stations.base import Station
from wise_cellar.ui.stations.craft import DOORWAY
from wise_cellar.ui.stations.craft.feed_panel import FeedPanel
from wise_cellar.ui.stations.craft.flights_panel import PATH as FLIGHTS
from wise_cellar.ui.stations.craft.flights_panel import FlightsPanel
from wise_cellar.ui.stations.craft.power_picture import PowerPicture
from wise_cellar.ui.stations.craft.propulsion_panel import PropulsionPanel
from wise_cellar.ui.stations.craft.speed_picture import SpeedPicture
from wise_cellar.ui.stations.doorway import is_within
from wise_cellar.ui.theme import font
from wise_cellar.ui.widgets.field_grids import FieldGrid
from wise_cellar.ui.widgets.fields import Field, field_for
from wise_cellar.ui.widgets.labels import Label
from wise_cellar.ui.widgets.panel import heading, note, reveal, sheet
from wise_cellar.ui.widgets.row_list import RowList
from wise_cellar.ui.widgets.segments import Segments

SIDE = 400
FLIGHT_PLACE = 2
"""Where the number of a known flight stands in its path."""


class CraftStation(Station):
    """Picture of power against mass; beside it the parts scale, propulsion, limits, loads and the known flight."""

    doorway = DOORWAY

    def __init__(self, session: Session) -> None:
        super().__init__(session)
        column, self.headline, self._side = self.lay_out(SIDE)
        self.picture = PowerPicture(session)
        self.speeds = SpeedPicture(session)
        self.which = Segments(("Against take-off mass", "Against airspeed"), "What the watts stand against")
        self.which.chosen.connect(self._choose_picture)
        self.which.chosen.connect(lambda _: self._redraw())
        top = QHBoxLayout()
        top.addWidget(note("Watts at the battery"))
        top.addStretch(1)
        top.addWidget(self.which)
        column.addLayout(top)
        for widget in (self.picture.key, self.speeds.key, self.speeds.words):
            column.addWidget(widget)
        column.addWidget(self.picture, 1)
        column.addWidget(self.speeds, 1)
        self._choose_picture(0)
        self.calibration = note()
        column.addWidget(self.calibration)
        self._grids: list[FieldGrid] = []
        self._side.addWidget(self._scale())
        self.flights = FlightsPanel(self.session)
        self._side.addWidget(self.flights)
        self.propulsion = PropulsionPanel(session)
        self._side.addWidget(self.propulsion)
        self._side.addStretch(1)
        for panel in (self._loads(), self._limits(), self._balance()):
            self._side.add_later(panel)
        self._side.completed.connect(self._refresh_below)

    @property
    def settled(self) -> bool:
        """Whether no table is being fitted, and every panel is in its place."""
        return self.propulsion.settled and self._side.complete

    def fields(self) -> list[Field]:
        """Those of panels below the edge and of the known flight too, which are made when they are asked for."""
        self._side.put_all()
        self.flights.make_fields()
        return super().fields()

    def focus_field(self, path: str) -> bool:
        """A field of a known flight is unfolded first; with none yet, the lines that ask for one."""
        if is_within(path, FLIGHTS):
            parts = path.split(".")
            if not self.session.complete.craft.known_flights:
                self.flights.fresh.lines["duration_min"].setFocus(Qt.FocusReason.ShortcutFocusReason)
                reveal(self.flights)
                return True
            if len(parts) > FLIGHT_PLACE:
                self.flights.choose(int(parts[FLIGHT_PLACE]))
            self.flights.open_numbers()
        return super().focus_field(path)

    def close_work(self) -> None:
        """Stop fitting."""
        self.propulsion.close_work()

    def leave_workspace(self) -> None:
        """Fit no drive for it any more."""
        self.propulsion.close_work()

    def refresh(self) -> None:
        """Show the present craft."""
        craft, answer = self.session.complete.craft, self.session.answer
        self.headline.setText(
            f"{craft.name} weighs {format_grams(craft.dry_mass_g)} without a battery and"
            f" {format_grams(answer.takeoff_mass_g)} with this one"
        )
        self._total.setText(format_grams(craft.dry_mass_g))
        self.parts.refresh()
        self.flights.refresh()
        self.propulsion.refresh()
        if self._side.complete:
            self._refresh_below()
        self._redraw()
        self.calibration.setText(self._calibration_words())

    def _refresh_below(self) -> None:
        """Show the present craft in the panels below the edge of the window."""
        craft = self.session.complete.craft
        self.loads.refresh()
        self.feed.refresh()
        for optional, button, grid in self._optional:
            present = self.session.value(optional) is not None
            button.setText(self._optional_words[optional][1 if present else 0])
            grid.setVisible(present)
            if present:
                grid.refresh()
        self._kept_free.setVisible(craft.bay is not None)
        if craft.bay is not None:
            self.keep_outs.refresh()
        for grid in self._grids:
            grid.refresh()

    def _redraw(self) -> None:
        (self.speeds if self.which.current else self.picture).redraw()

    def _choose_picture(self, chosen: int) -> None:
        for widget in (self.picture, self.picture.key):
            widget.setVisible(chosen == 0)
        for widget in (self.speeds, self.speeds.key, self.speeds.words):
            widget.setVisible(chosen == 1)

    def _calibration_words(self) -> str:
        found, wing = self.session.answer.calibration, self.session.complete.craft.wing
        if found is None:
            guessed = "propeller size" if wing is None else "a usual drag and drive"
            return (
                f"No known flight: power is an estimate from {guessed}."
                " One flight with a battery you know would narrow it."
            )
        known = "The known flight asks" if found.count == 1 else f"{found.count} known flights ask"
        spread = (
            f", ± {format_number(100 * found.scatter, 0)} % from flight to flight" if found.scatter is not None else ""
        )
        figures = wing_figures(self.session.complete, self.session.answer)
        if wing is not None and wing.zero_lift_drag is None and figures is not None:
            return f"{known} for a drag coefficient of {format_number(figures.zero_lift_drag, 3)} without lift{spread}."
        doubt = "" if found.plausible else " A factor outside 0.6 to 1.6 says that an input is wrong: check them."
        return (
            f"{known} for {format_number(found.factor, 2)} times the predicted shaft power{spread}; it is used"
            f" everywhere.{doubt}"
        )

    def _scale(self) -> QWidget:
        panel, column = sheet()
        top = QHBoxLayout()
        top.addWidget(heading("Parts on the scale"))
        top.addStretch(1)
        self._total = Label()
        self._total.setFont(font(15, strong=True))
        top.addWidget(self._total)
        column.addLayout(top)
        self.parts = RowList(
            self.session,
            "craft.parts",
            ("name", "mass_g"),
            "part",
            lambda: Part(name="Part", mass_g=0),
            (0, 116),
        )
        column.addWidget(self.parts)
        return panel

    def _loads(self) -> QWidget:
        panel, column = sheet()
        column.addWidget(heading("What else draws power"))
        column.addWidget(note("Power, and the least pack voltage at which it still works."))
        self.loads = RowList(
            self.session, "craft.loads", ("name", "power_w", "min_input_v"), "load",
            lambda: Load(name="load", power_w=1), (0, 108, 108),
        )  # fmt: skip
        column.addWidget(self.loads)
        self.feed = FeedPanel(self.session)
        column.addWidget(self.feed)
        return panel

    def _limits(self) -> QWidget:
        panel, column = sheet()
        column.addWidget(heading("Limits"))
        grid = FieldGrid([field_for(self.session, "craft.max_takeoff_mass_g")])
        self._grids.append(grid)
        column.addWidget(grid)
        column.addWidget(
            note(
                "Mass classes and rules for flight are local: check the ones that hold where you fly.",
                "caution",
            )
        )
        self._optional: list[tuple[str, QPushButton, FieldGrid]] = []
        self._optional_words = {
            "craft.bay": ("Add the battery bay", "No bay: remove it"),
            "craft.balance": ("Add its balance point", "No balance point: remove it"),
        }
        self._add_optional(column, "craft.bay", ("length_mm", "width_mm", "height_mm", "above_mm"), self._toggle_bay)
        self._kept_free = QWidget()
        kept = QVBoxLayout(self._kept_free)
        kept.setContentsMargins(0, 0, 0, 0)
        kept.addWidget(note("What must stay free in the bay: from its rear and left wall, then along and across."))
        self.keep_outs = RowList(
            self.session, "craft.bay.keep_outs", ("name", "x_mm", "y_mm", "length_mm", "width_mm"), "part kept free",
            KeepOut, (0, 56, 56, 56, 56), units=False,
        )  # fmt: skip
        kept.addWidget(self.keep_outs)
        column.addWidget(self._kept_free)
        return panel

    def _balance(self) -> QWidget:
        panel, column = sheet()
        column.addWidget(heading("Balance"))
        column.addWidget(
            note(
                "Lengths are ahead of one point of the craft, such as the middle of the rotors; behind it they are"
                " negative."
            )
        )
        self._add_optional(column, "craft.balance", tuple(Balance.model_fields), self._toggle_balance)
        return panel

    def _add_optional(self, column: QVBoxLayout, path: str, names: tuple[str, ...], toggle: Callable[[], None]) -> None:
        grid = FieldGrid([field_for(self.session, f"{path}.{name}") for name in names])
        column.addWidget(grid)
        button = QPushButton()
        button.setProperty("role", "quiet")
        button.clicked.connect(toggle)
        column.addWidget(button, 0, Qt.AlignmentFlag.AlignLeft)
        self._optional.append((path, button, grid))

    def _toggle_bay(self) -> None:
        layout = self.session.answer.build.layout
        fresh = {
            "length_mm": round(layout.length_mm + 5), "width_mm": round(layout.width_mm + 5),
            "height_mm": round(layout.height_mm + 3),
        }  # fmt: skip
        self._toggle("craft.bay", fresh)

    def _toggle_balance(self) -> None:
        self._toggle("craft.balance", Balance())

    def _toggle(self, path: str, fresh: object) -> None:
        value = None if self.session.value(path) is not None else fresh
        try:
            self.session.edit(path, value)
        except (DocumentError, WorkspaceError) as error:
            self.calibration.setText(str(error))
