"""Power needed against airspeed, with the speeds for the longest and the furthest flight and those of the mission."""

from __future__ import annotations

import numpy as np
from PyQt6.QtWidgets import QSizePolicy

from wise_cellar.core.documents import BlockKind
from wise_cellar.core.lowering import nominal_bus_v
from wise_cellar.core.propulsion import SpeedCurve, power_against_airspeed
from wise_cellar.core.units import format_km, format_number, format_speed
from wise_cellar.ui.state.session import Session
from wise_cellar.ui.theme import Colours
from wise_cellar.ui.widgets.labels import formatted
from wise_cellar.ui.widgets.panel import note
from wise_cellar.ui.widgets.plot import Plot
from wise_cellar.ui.widgets.plot_parts import DASHED, DOTTED, Curve, Dots, Moment, Part, Stroke
from wise_cellar.ui.widgets.plots import Key, ThemedPlots, key_text

LEVEL, LONGEST, FURTHEST = "level flight", "longest in the air", "furthest"
CRUISE, STALL = "cruise of the mission", "stall"


class SpeedPicture(ThemedPlots):
    """The other picture of the Craft station."""

    def __init__(self, session: Session) -> None:
        super().__init__()
        self._session = session
        self.setSizePolicy(QSizePolicy.Policy.Expanding, QSizePolicy.Policy.Expanding)
        self.setAccessibleName("Power needed against airspeed")
        self.key, self.words = formatted(note()), note()
        self.curve: SpeedCurve | None = None

    def lay_out(self) -> None:
        """One plot."""
        self.plot = Plot("m/s")
        self.plot.name_axes("Power", "W", "airspeed")
        self.addItem(self.plot, 0, 0)

    def draw(self, colours: Colours) -> None:
        """The curve of the present design."""
        complete, answer = self._session.complete, self._session.answer
        curve = power_against_airspeed(
            complete.craft, complete.design.conditions, answer.takeoff_mass_g, answer.factor, nominal_bus_v(complete)
        )
        self.curve = curve
        self.plot.dress(colours)
        parts: list[Part] = [
            Curve(curve.airspeed_m_s, curve.power_w, Stroke(colours.series[0], 2.2), LEVEL),
            Moment(curve.longest_m_s, Stroke(colours.ink, 1.2, DASHED), LONGEST),
            Moment(curve.furthest_m_s, Stroke(colours.ink, 1.2, DOTTED), FURTHEST),
        ]
        if curve.stall_m_s:
            parts.append(Moment(curve.stall_m_s, Stroke(colours.brick, 1.6), STALL))
        speeds = sorted(
            {b.airspeed_m_s for b in complete.mission.blocks if b.kind is BlockKind.CRUISE and b.airspeed_m_s}
        )
        powers = np.array([curve.power_at(speed) for speed in speeds], float)
        rim = Stroke(colours.ink, 1.4)
        parts.append(Dots(np.array(speeds, float), powers, "o", 10, rim, colours.verdigris, CRUISE))
        self.plot.show_parts(parts)
        self.key.setText(
            key_text(
                [
                    Key(LEVEL, colours.series[0]),
                    Key(LONGEST, colours.ink, DASHED),
                    Key(FURTHEST, colours.ink, DOTTED),
                    Key(CRUISE, colours.verdigris, mark="●"),
                    *([Key(STALL, colours.brick)] if curve.stall_m_s else []),
                ],
                colours,
            )
        )
        fastest, most = float(curve.airspeed_m_s[-1]), float(curve.power_w.max())
        self.plot.box.setRange(xRange=(0, fastest), yRange=(0, most * 1.05), padding=0, disableAutoRange=True)
        energy = answer.energy_used_wh
        stall = f"Stalls at {format_speed(curve.stall_m_s)}. " if curve.stall_m_s else ""
        self.words.setText(
            f"{stall}Longest in the air at {format_speed(curve.longest_m_s)}, furthest at"
            f" {format_speed(curve.furthest_m_s)}: with the {format_number(energy, 0)} Wh of this flight"
            f" {format_number(60 * energy / curve.power_at(curve.longest_m_s), 0)} min, or"
            f" {format_km(curve.km_for(energy, curve.furthest_m_s))} through still air."
        )
