"""Known flights and readings: what the craft was seen to draw, each with the factor that it asks for."""

from __future__ import annotations

from collections.abc import Callable

from PyQt6.QtCore import Qt
from PyQt6.QtWidgets import QHBoxLayout, QPushButton, QVBoxLayout, QWidget

from wise_cellar.core.answer import as_known_flight
from wise_cellar.core.documents import DocumentError, KnownFlight, Manner
from wise_cellar.core.propulsion import Reading
from wise_cellar.core.units import format_number, format_watts
from wise_cellar.store import WorkspaceError
from wise_cellar.ui.state.session import Session
from wise_cellar.ui.stations.craft.new_flight import NewFlight
from wise_cellar.ui.widgets.chooser import Chooser
from wise_cellar.ui.widgets.field_grids import SwappedFields
from wise_cellar.ui.widgets.fields import Field, QuantityField, field_for
from wise_cellar.ui.widgets.labels import Label
from wise_cellar.ui.widgets.panel import heading, note, sheet

PATH = "craft.known_flights"
_ASKING = (
    "One flight on this pack, from full to landing: how long, and what the charger put back. It then scales the power"
    " of every answer; until both are told nothing changes."
)
_TOLD = "What it was seen to draw: all that count make one factor on power, used everywhere."
_UNSET = {"mean_current_a": "by charge", "mean_voltage_v": "by the reading", "read_voltage_v": "by the mean",
          "read_charge_mah": "at the end", "battery_series": "not told", "battery_mah": "not told"}  # fmt: skip
_TITLES = {"name": "Name", "used": "Counts", "manner": "Flown", "takeoff_mass_g": "Take-off mass",
           "airspeed_m_s": "Airspeed", "climb_m_s": "Climb", "liveliness": "Liveliness",
           "full_throttle_s": "Full throttle a minute", "throttle_percent": "Throttle held",
           "wind_m_s": "Wind", "gust_m_s": "Gusts",
           "duration_min": "Duration", "mean_voltage_v": "Mean pack voltage", "read_voltage_v": "Volts read once",
           "read_charge_mah": "Charge used then", "battery_series": "Its battery, in series",
           "battery_mah": "Its capacity", "battery_family": "Its chemistry", "battery_class": "Its cells",
           "air_temperature_c": "Air temperature", "altitude_m": "Altitude"}  # fmt: skip


def _shown(flight: KnownFlight) -> list[str]:
    """The fields that its manner and what was read ask for."""
    benched = flight.manner is Manner.BENCH
    manual, told = flight.manner is Manner.MANUAL, flight.battery_series is not None
    left_out = {
        "airspeed_m_s": benched or flight.manner is Manner.HOVER,
        "climb_m_s": flight.manner is not Manner.CLIMB,
        "takeoff_mass_g": benched,
        "throttle_percent": not benched,
        "wind_m_s": benched,
        "gust_m_s": benched,
        "liveliness": not manual,
        "full_throttle_s": not manual,
        "read_charge_mah": flight.read_voltage_v is None,
        "battery_family": not told,
        "battery_class": not told,
    }
    return [name for name in KnownFlight.model_fields if not left_out.get(name)]


class FlightsPanel(QWidget):
    """The list, the fields of the chosen one, and what all of them say together."""

    def __init__(self, session: Session) -> None:
        super().__init__()
        self._session = session
        column = QVBoxLayout(self)
        column.setContentsMargins(0, 0, 0, 0)
        panel, self._inside = sheet()
        column.addWidget(panel)
        self._inside.addWidget(heading("Known flight"))
        self.hint = note()
        self._inside.addWidget(self.hint)
        self.which = Chooser()
        self.which.setAccessibleName("Known flight")
        self.which.activated.connect(lambda _: self.refresh())
        self._inside.addWidget(self.which)
        self.fresh = NewFlight()
        self.fresh.told.connect(self._write_down)
        self._inside.addWidget(self.fresh)
        self._asking = False
        self.words = Label()
        self.words.setWordWrap(True)
        self.words.setProperty("role", "faint")
        self._inside.addWidget(self.words)
        self.error = note(role="error")
        self.error.hide()
        self._inside.addWidget(self.error)
        self._fields = SwappedFields()
        self._inside.addWidget(self._fields)
        self._opened = False
        row = QHBoxLayout()
        self.numbers_button = QPushButton("Its numbers")
        self.numbers_button.clicked.connect(lambda: self.open_numbers(open_them=not self._opened))
        row.addWidget(self.numbers_button)
        self.add_button, self.remove_button = QPushButton("Write down another"), QPushButton("Remove it")
        for button, act in ((self.add_button, self.add), (self.remove_button, self.remove)):
            button.clicked.connect(act)
            row.addWidget(button)
        row.addStretch(1)
        self._inside.addLayout(row)

    def open_numbers(self, *, open_them: bool = True) -> None:
        """Show the fields of the flight in view, which are made only then, or fold them away."""
        self._opened = open_them
        self.refresh()

    def make_fields(self) -> None:
        """Have the fields there, open or not: they are looked for."""
        self._show_fields(made=True)

    @property
    def _flights(self) -> tuple[KnownFlight, ...]:
        return self._session.complete.craft.known_flights

    def refresh(self) -> None:
        """Show the present flights."""
        names = [flight.name or f"flight {place + 1}" for place, flight in enumerate(self._flights)]
        if [self.which.itemText(i) for i in range(self.which.count())] != names:
            chosen = max(min(self.which.currentIndex(), len(names) - 1), 0)
            self.which.clear()
            self.which.addItems(names)
            self.which.setCurrentIndex(chosen if names else -1)
        asking = self._asking or not names
        self.hint.setText(_ASKING if asking else _TOLD)
        self.fresh.setVisible(asking)
        if asking:
            self.fresh.show_expected(self._expected() if self._session.answer.duration_s > 0 else None)
        self.which.setVisible(len(names) > 1)
        self.add_button.setVisible(bool(names) and not asking)
        self.remove_button.setVisible(bool(names))
        self.numbers_button.setVisible(bool(names))
        self.numbers_button.setText("Fold its numbers" if self._opened else "Its numbers")
        self._show_fields(made=self._opened)
        self.error.hide()
        found = self._session.answer.calibration
        self.words.setText("\n".join(reading_words(reading) for reading in found.readings) if found else "")
        self.words.setVisible(found is not None)

    def _show_fields(self, *, made: bool) -> None:
        place = self.which.currentIndex() if self._flights else None
        shown = _shown(self._flights[place]) if place is not None else []
        if made or self._fields.fields:
            key = (place, *shown) if shown else None
            self._fields.show_for(key, lambda: [self._field(f"{PATH}.{place}.{name}") for name in shown])
        self._fields.setVisible(self._opened)

    def _field(self, path: str) -> Field:
        name = path.rsplit(".", 1)[1]
        unset, title = _UNSET.get(name), _TITLES.get(name, "")
        if unset:
            return QuantityField(self._session, path, title, default=lambda: unset)
        return field_for(self._session, path, title)

    def choose(self, place: int) -> None:
        """Bring a flight into view."""
        self.which.setCurrentIndex(place)
        self.refresh()

    def add(self) -> None:
        """Ask for another; it counts once it is told."""
        self._asking = True
        self.fresh.clear()
        self.refresh()
        self.fresh.lines["duration_min"].setFocus(Qt.FocusReason.OtherFocusReason)

    def _expected(self) -> KnownFlight:
        """This design's own prediction, as somebody would have written it down."""
        fresh = as_known_flight(self._session.complete, self._session.answer)
        return fresh.changed(**{name: _plain(getattr(fresh, name)) for name in _ROUNDED})

    def _write_down(self, told: dict[str, float]) -> None:
        """The flight as this design would fly it, with what was told in place of what was predicted."""
        if self._session.answer.duration_s <= 0:
            self.fresh.refuse("This design does not fly at all: first make one that does, then write down its flight.")
            return
        try:
            flights = (*self._flights, self._expected().changed(name="", **told))
            self._session.edit(PATH, flights, "Write down a known flight")
        except (DocumentError, WorkspaceError) as error:
            self.fresh.refuse(str(error))
            return
        self._asking = False
        self.fresh.clear()
        self._opened = True
        self.choose(len(self._flights) - 1)
        self._fields.fields[0].entry.setFocus(Qt.FocusReason.OtherFocusReason)

    def remove(self) -> None:
        """Remove the flight in view."""
        place = self.which.currentIndex()
        name = self.which.itemText(place)
        others = (*self._flights[:place], *self._flights[place + 1 :])
        if self._change(others, "Remove a known flight", f"Removed the known flight {name}."):
            near = self.remove_button if self._flights else self.fresh.lines["duration_min"]
            near.setFocus(Qt.FocusReason.OtherFocusReason)

    def _change(self, flights: tuple[KnownFlight, ...], label: str, gone: str = "") -> bool:
        return self._try(lambda: self._session.edit(PATH, flights, label, gone))

    def _try(self, edit: Callable[[], object]) -> bool:
        try:
            edit()
        except (DocumentError, WorkspaceError) as error:
            self.error.setText(str(error))
            self.error.show()
            return False
        return True


_ROUNDED = ("takeoff_mass_g", "airspeed_m_s", "full_throttle_s", "duration_min", "charge_used_mah", "mean_voltage_v")


def _plain(value: float | None) -> float | None:
    """As people write it down."""
    return None if value is None else float(f"{value:.4g}")


def reading_words(reading: Reading) -> str:
    """What one flight says: "first count: 213 W where 192 W were predicted, × 1.12"."""
    words = (
        f"{reading.name}: {format_watts(reading.measured_w)} where {format_watts(reading.predicted_w)} were predicted,"
    )
    words += f" × {format_number(reading.factor, 2)}"
    if not reading.used:
        return f"{words}, compared only"
    return f"{words}, counts {format_number(100 * reading.weight, 0)} %" if reading.weight < 0.995 else words
