"""What lifts and drives the craft: propellers and motors, a wing, a hover test or a thrust stand in their place."""

from __future__ import annotations

from collections.abc import Callable
from functools import partial
from pathlib import Path

import numpy as np
from PyQt6.QtCore import Qt
from PyQt6.QtWidgets import QFileDialog, QPushButton, QVBoxLayout, QWidget

from wise_cellar.core.answer import WingFigures, wing_figures
from wise_cellar.core.documents import Craft, DocumentError, HoverTest, ThrustStand, Wing
from wise_cellar.core.lowering import nominal_bus_v
from wise_cellar.core.physics import wing as wing_law
from wise_cellar.core.physics.arrays import GRAVITY_M_S2
from wise_cellar.core.physics.rotor import default_drag_area_m2
from wise_cellar.core.propulsion import DriveNumbers, StandFit, drive_numbers, fitted_craft, residual, stand_curves
from wise_cellar.core.propulsion.carrier import propulsion, zero_lift_drag
from wise_cellar.core.propulsion.drive_numbers import drive_doubt_by_size, full_efficiency
from wise_cellar.core.units import (
    bare_number,
    counted,
    format_amps,
    format_loading,
    format_number,
    format_significant,
    format_speed,
)
from wise_cellar.store import WorkspaceError
from wise_cellar.store.stand_files import read_stand
from wise_cellar.ui.state.session import Session
from wise_cellar.ui.state.work import Worker
from wise_cellar.ui.widgets.field_grids import FieldGrid
from wise_cellar.ui.widgets.fields import Field, QuantityField, field_for
from wise_cellar.ui.widgets.panel import heading, note, sheet

_ROTORS = ("count", "coaxial", "around", "diameter_mm", "spacing_mm", "pitch_mm", "blades", "figure_of_merit",
           "thrust_coefficient", "power_coefficient")  # fmt: skip
_ONLY_ON_ROTORS = {"craft.rotors.coaxial", "craft.rotors.around", "craft.rotors.spacing_mm", "craft.drag_area_m2"}
_FROM_HOVER = {"craft.motor.kv_rpm_per_v", "craft.motor.resistance_mohm", "craft.motor.no_load_current_a",
               "craft.rotors.figure_of_merit", "craft.rotors.power_coefficient"}  # fmt: skip
_MOTOR = ("motor.kv_rpm_per_v", "motor.mass_g", "motor.resistance_mohm", "motor.no_load_current_a",
          "motor.max_current_a", "motor.max_voltage_v", "esc.max_current_a", "esc.max_voltage_v", "esc.efficiency",
          "esc.freewheeling")  # fmt: skip
_HOVER_TITLES = {"takeoff_mass_g": "Take-off mass", "voltage_v": "Pack voltage", "current_a": "Pack current",
                 "throttle_percent": "Throttle", "air_temperature_c": "Air temperature",
                 "altitude_m": "Altitude"}  # fmt: skip
TABLES = "Thrust-stand tables (*.csv *.txt *.tsv *.log);;All (*)"


class PropulsionPanel(QWidget):
    """Fields of propellers, motors and controllers; a wing or a hover test are added and removed here."""

    def __init__(self, session: Session) -> None:
        super().__init__()
        self._session = session
        self._worker = Worker(self)
        self._worker.finished.connect(self._take_fit)
        self._worker.failed.connect(self._refuse)
        column = QVBoxLayout(self)
        column.setContentsMargins(0, 0, 0, 0)
        column.setSpacing(12)
        self.wing_words, self._hover_words, self.stand_words = note(), note(), note()
        column.addWidget(self._wing_sheet())
        column.addWidget(self._drive_sheet())

    @property
    def settled(self) -> bool:
        """Whether no table is being fitted."""
        return not self._worker.busy

    def close_work(self) -> None:
        """Stop fitting."""
        self._worker.close()

    def _wing_sheet(self) -> QWidget:
        panel, column = sheet()
        column.addWidget(heading("What carries it"))
        self._carried = note()
        column.addWidget(self._carried)
        unset = {
            "zero_lift_drag": lambda: format_number(self._drag_now(), 3),
            "drive_efficiency": lambda: format_significant(wing_law.DEFAULT_DRIVE_EFFICIENCY),
        }
        self._wing = FieldGrid([self._field(f"craft.wing.{name}", unset.get(name)) for name in Wing.model_fields])
        column.addWidget(self._wing)
        column.addWidget(self.wing_words)
        self.wing_button = self._quiet(column, self._toggle_wing)
        return panel

    def _drive_sheet(self) -> QWidget:
        panel, column = sheet()
        self._title = heading("")
        column.addWidget(self._title)
        unset: dict[str, Callable[[], str]] = {
            "spacing_mm": lambda: "clear",
            "figure_of_merit": lambda: f"{format_number(self._numbers().figure_of_merit, 2)} {self._doubt()}",
            "thrust_coefficient": lambda: format_number(self._numbers().thrust_coefficient, 3),
            "power_coefficient": lambda: format_number(self._numbers().power_coefficient, 4),
        }
        rotors = [self._field(f"craft.rotors.{name}", unset.get(name)) for name in _ROTORS]
        drag = self._field(
            "craft.drag_area_m2", lambda: f"{bare_number(default_drag_area_m2(self._diameter_m()), 'm²', 3)} by size"
        )
        anything: dict[str, Callable[[], str]] = {
            "motor.max_voltage_v": lambda: "any",
            "motor.mass_g": lambda: "by size",
            "motor.resistance_mohm": lambda: f"{format_number(1e3 * self._numbers().winding_ohm, 0)} {self._doubt()}",
            "motor.no_load_current_a": lambda: f"{format_number(self._numbers().no_load_a, 2)} {self._doubt()}",
            "esc.efficiency": lambda: f"{format_significant(self._esc_efficiency())} ± 3 %",
        }
        motors = [self._field(f"craft.{name}", anything.get(name)) for name in _MOTOR]
        self._grid = FieldGrid([*rotors, drag, *motors])
        column.addWidget(self._grid)
        column.addWidget(
            note("Grey values are estimates for the size, with their doubt: type what was measured in their place.")
        )
        self.stand_words.setProperty("role", "")
        column.addWidget(self.stand_words)
        self._quiet(column, self.ask_stand, "Fit to a thrust-stand table…")
        self.forget_button = self._quiet(column, self._forget_stand, "Remove the table")
        self._hover = FieldGrid([self._hover_field(name) for name in HoverTest.model_fields])
        self._hover_title = heading("Hover test, in place of motor numbers")
        column.addWidget(self._hover_title)
        column.addWidget(self._hover)
        column.addWidget(self._hover_words)
        self.hover_button = self._quiet(column, self._toggle_hover)
        self.error = note(role="error")
        self.error.hide()
        column.addWidget(self.error)
        return panel

    def _doubt(self) -> str:
        """Of what is taken from the size."""
        return f"± {format_number(100 * drive_doubt_by_size(self._craft), 0)} %"

    def _esc_efficiency(self) -> float:
        return float(full_efficiency(self._craft, nominal_bus_v(self._session.complete)))

    def _quiet(self, column: QVBoxLayout, act: Callable[[], None], text: str = "") -> QPushButton:
        button = QPushButton(text)
        button.setProperty("role", "quiet")
        button.clicked.connect(lambda: act())
        column.addWidget(button, 0, Qt.AlignmentFlag.AlignLeft)
        return button

    def _field(self, path: str, default: Callable[[], str] | None) -> Field:
        return QuantityField(self._session, path, default=default) if default else field_for(self._session, path)

    def _hover_field(self, name: str) -> Field:
        return field_for(self._session, f"craft.hover_test.{name}", _HOVER_TITLES[name])

    @property
    def _craft(self) -> Craft:
        return self._session.complete.craft

    def _diameter_m(self) -> float:
        return self._craft.rotors.diameter_mm * 1e-3

    def _numbers(self) -> DriveNumbers:
        return drive_numbers(self._craft)

    def _figures(self) -> WingFigures | None:
        return wing_figures(self._session.complete, self._session.answer)

    def _drag_now(self) -> float:
        wing = self._craft.wing
        return zero_lift_drag(self._craft, wing) if wing is not None else 0.0

    def refresh(self) -> None:
        """Show the present craft."""
        craft = self._craft
        winged, hovers = craft.wing is not None, craft.hover_test is not None
        self._carried.setText("Rotors hold it up." if not winged else "A wing carries it; propellers only pull.")
        self._title.setText("Propellers and motors" if winged else "Rotors and motors")
        self.wing_button.setText("No wing: rotors carry it" if winged else "It flies on a wing: add it")
        self.hover_button.setText("Use motor numbers instead" if hovers else "Only a hover is known: enter it")
        self.hover_button.setVisible(not winged)
        for grid, shown in ((self._wing, winged), (self._hover, hovers)):
            grid.setVisible(shown)
            if shown:
                grid.refresh()
        self._hover_title.setVisible(hovers)
        for field in self._grid.fields:
            field.setVisible(not (winged and field.path in _ONLY_ON_ROTORS))
            field.setEnabled(not (hovers and field.path in _FROM_HOVER))
        self._grid.refresh()
        self._show_words(craft)

    def _show_words(self, craft: Craft) -> None:
        figures = self._figures()
        self.wing_words.setVisible(figures is not None)
        if figures is not None:
            self.wing_words.setText(_wing_words(figures))
        self._hover_words.setVisible(craft.hover_test is not None)
        if craft.hover_test is not None:
            numbers = self._numbers()
            self._hover_words.setText(
                f"Met by a motor of {format_number(60 * numbers.kv_rev_s_v, 0)} rpm/V with"
                f" {format_number(1e3 * numbers.winding_ohm, 0)} mΩ that is 80 % efficient in the hover; figure"
                f" of merit {format_number(numbers.figure_of_merit, 2)}. Full throttle is an estimate from it."
            )
        stand = craft.stand
        self.stand_words.setVisible(stand is not None)
        self.forget_button.setVisible(stand is not None)
        if stand is not None:
            self.stand_words.setText(_stand_words(craft, stand))

    def _toggle_wing(self) -> None:
        if self._craft.wing is not None:
            self._change({"wing": None}, "Remove the wing", "Removed the wing.")
            return
        # A plain wing that carries the present mass at 55 g/dm², of aspect ratio 8. Flights noted on rotors say nothing
        # about its drag: they are set aside.
        area = min(max(round(self._session.answer.takeoff_mass_g / 55, 1), 1.0), 2000.0)
        span = min(max(round((8 * area * 1e4) ** 0.5, -1), 100.0), 12_000.0)
        rotors = self._craft.rotors.changed(coaxial=False)
        flights = tuple(flight.changed(used=False) for flight in self._craft.known_flights)
        wing = Wing(span_mm=span, area_dm2=area)
        self._change({"wing": wing, "rotors": rotors, "hover_test": None, "known_flights": flights}, "Add a wing")

    def _toggle_hover(self) -> None:
        if self._craft.hover_test is not None:
            self._change({"hover_test": None}, "Remove the hover test", "Removed the hover test.")
            return
        # Starts from this design's own hover, so that nothing changes much until the user's figures replace it.
        answer, conditions = self._session.answer, self._session.complete.design.conditions
        air = conditions.altitude_m, conditions.air_temperature_c
        mass, volts = round(answer.takeoff_mass_g), round(3.7 * self._session.complete.pack.recipe.series_count, 1)
        weight, still = np.array([mass * 1e-3 * GRAVITY_M_S2]), np.zeros(1)
        watts, motor_v = propulsion(self._craft, *air, answer.factor, volts).power(weight, still, still)
        fresh = HoverTest(
            takeoff_mass_g=max(mass, 21), voltage_v=volts,
            current_a=min(max(round((watts[0] + self._craft.load_w) / volts, 1), 0.1), 1000),
            throttle_percent=min(max(round(100 * motor_v[0] / volts), 10), 90),
            altitude_m=air[0], air_temperature_c=air[1],
        )  # fmt: skip
        self._change({"hover_test": fresh}, "Add a hover test")

    def ask_stand(self) -> None:
        """Ask for a table and fit motor and propeller to it."""
        name, _ = QFileDialog.getOpenFileName(self, "Thrust-stand table", "", TABLES)
        if name:
            self.take_stand(Path(name))

    def take_stand(self, path: Path) -> None:
        """Fit motor and propeller to a table."""
        try:
            stand = read_stand(path)
        except DocumentError as error:
            self._refuse(error)
            return
        self._worker.run(partial(_fitted, self._craft, stand))

    def _take_fit(self, found: tuple[ThrustStand, StandFit]) -> None:
        fitted = fitted_craft(self._craft, *found)
        self._change({name: getattr(fitted, name) for name in ("rotors", "motor", "stand", "hover_test")},
                     "Fit to a thrust stand")  # fmt: skip

    def _forget_stand(self) -> None:
        self._change({"stand": None}, "Remove the thrust stand", "Removed the table of the thrust stand.")

    def _change(self, values: dict[str, object], label: str, gone: str = "") -> None:
        try:
            changed = Craft.from_data(self._craft.changed(**values).model_dump())
            self._session.edit("craft", changed, label, gone)
        except (DocumentError, WorkspaceError) as error:
            self._refuse(error)
            return
        self.error.hide()

    def _refuse(self, error: Exception) -> None:
        self.error.setText(str(error))
        self.error.show()


def _fitted(craft: Craft, stand: ThrustStand) -> tuple[ThrustStand, StandFit]:
    """Imported here, because scipy takes half a second."""
    from wise_cellar.core.fit import fit_stand

    return stand, fit_stand(craft, stand)


def _stand_words(craft: Craft, stand: ThrustStand) -> str:
    off = residual(stand_curves(craft, stand), stand)
    speed = f", speed {format_number(100 * off.speed, 1)} %" if off.speed is not None else ""
    return (
        f"Against {stand.name}, {counted(len(stand.points), 'row')}, these numbers are off by"
        f" {format_number(100 * off.thrust, 1)} % in thrust and {format_number(100 * off.current, 1)} % in"
        f" current{speed}."
    )


def _wing_words(figures: WingFigures) -> str:
    return (
        f"{format_loading(figures.loading_g_dm2)}. Stalls at {format_speed(figures.stall_m_s)}; where no speed"
        f" is asked for it flies {format_speed(figures.holding_m_s)}. Launch:"
        f" {format_amps(figures.launch_a, 0)}, a pull of"
        f" {format_number(100 * figures.launch_thrust_share, 0)} % of the weight. Late in the pack it still"
        f" climbs {format_speed(figures.climb_m_s)}."
    )
