"""Power needed against take-off mass, with the present design, the pin and the known flight as points."""

from __future__ import annotations

import numpy as np
from PyQt6.QtWidgets import QSizePolicy

from wise_cellar.core.answer import Answer
from wise_cellar.core.documents import CompleteDesign
from wise_cellar.core.lowering import nominal_bus_v
from wise_cellar.core.propulsion import power_against_mass
from wise_cellar.core.units import TOLD, format_speed
from wise_cellar.ui.state.session import Session
from wise_cellar.ui.theme import Colours
from wise_cellar.ui.widgets.labels import formatted
from wise_cellar.ui.widgets.panel import note
from wise_cellar.ui.widgets.plot import Plot, from_where
from wise_cellar.ui.widgets.plot_parts import DASHED, DOTTED, Curve, Dots, Moment, Part, Stroke
from wise_cellar.ui.widgets.plots import Key, ThemedPlots, key_text

HEAVIEST = "heaviest allowed"


def cruise_airspeed(complete: CompleteDesign) -> float:
    """Airspeed of the mission's first cruise; 0 where it has none."""
    return next((b.airspeed_m_s for b in complete.mission.blocks if b.airspeed_m_s > 0), 0.0)


class PowerPicture(ThemedPlots):
    """The picture of the Craft station."""

    def __init__(self, session: Session) -> None:
        super().__init__()
        self._session = session
        self.setSizePolicy(QSizePolicy.Policy.Expanding, QSizePolicy.Policy.Expanding)
        self.setAccessibleName("Power needed against take-off mass")
        self.key = formatted(note())
        self.plot = Plot("g")
        self.plot.name_axes("Power", "W", "take-off mass")
        self.addItem(self.plot, 0, 0)

    def draw(self, colours: Colours) -> None:
        """Curves and points of the present design."""
        complete, answer = self._session.complete, self._session.answer
        craft = complete.craft
        known = [flight.takeoff_mass_g for flight in craft.known_flights]
        self.plot.dress(colours)
        heaviest = max(
            craft.dry_mass_g * 2.2, answer.takeoff_mass_g * 1.15, (craft.max_takeoff_mass_g or 0) * 1.08,
            max(known, default=0.0) * 1.1,
        )  # fmt: skip
        speed = cruise_airspeed(complete)
        curve = power_against_mass(
            craft,
            complete.design.conditions,
            speed,
            np.linspace(craft.dry_mass_g, heaviest, 160),
            answer.factor,
            nominal_bus_v(complete),
        )
        hover, cruise = colours.series[1], colours.series[0]
        slowest = "hover" if craft.wing is None else "as slowly as is safe"
        parts: list[Part] = [Curve(curve.mass_g, curve.hover_w, Stroke(hover, dash=DASHED), slowest)]
        keys = [Key(slowest, hover, DASHED)]
        if speed:
            cruising = f"cruise at {format_speed(speed, TOLD)}"
            parts.append(Curve(curve.mass_g, curve.cruise_w, Stroke(cruise), cruising))
            keys.append(Key(cruising, cruise))
        watts = np.array([curve.hover_w, curve.cruise_w])
        least, top = float(np.nanmin(watts)), float(np.nanmax(watts))
        if craft.max_takeoff_mass_g:
            parts.append(Moment(craft.max_takeoff_mass_g, Stroke(colours.brick, 1.2, DOTTED), HEAVIEST))
            keys.append(Key(HEAVIEST, colours.brick, DOTTED))
        for mass, power, mark, fill, words in self._points(complete, answer):
            at = np.array([mass]), np.array([power])
            parts.append(Dots(*at, mark, 11, Stroke(colours.ink, 1.4), getattr(colours, fill), words))
            ringed = {"sheet": Key(words, colours.ink, mark="○"), "ochre": Key(words, colours.ochre, mark="◆")}
            key = ringed.get(fill, Key(words, colours.verdigris, mark="●"))
            keys += [key] if key not in keys else []
        self.key.setText(key_text(keys, colours))
        self.plot.show_parts(parts)
        self.plot.box.setRange(
            xRange=(craft.dry_mass_g * 0.98, heaviest),
            yRange=(from_where(least, top), top * 1.05),
            padding=0,
            disableAutoRange=True,
        )

    def _points(self, complete: CompleteDesign, answer: Answer) -> list[tuple[float, float, str, str, str]]:
        points = [(answer.takeoff_mass_g, answer.mean_power_w, "o", "verdigris", "this design, mean of the flight")]
        if self._session.compared.pinned and self._session.compared.pinned[0].craft == complete.craft:
            pinned = self._session.compared.pinned[1]
            points.append((pinned.takeoff_mass_g, pinned.mean_power_w, "o", "sheet", "pinned"))
        for reading in answer.calibration.readings if answer.calibration else ():
            points.append((reading.takeoff_mass_g, reading.measured_w, "d", "ochre", "known flights"))
        return points
