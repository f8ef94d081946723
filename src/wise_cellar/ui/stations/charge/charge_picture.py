"""A charge over time: current, volts at the plug, charge inside."""

from __future__ import annotations

import numpy as np

from wise_cellar.core.charge import Came, Charged, ChargePlan, Held
from wise_cellar.core.physics.arrays import Floats
from wise_cellar.core.units import format_volts
from wise_cellar.ui.theme import Colours
from wise_cellar.ui.widgets.plot_grid import PlotGrid, Quantity
from wise_cellar.ui.widgets.plot_parts import DASHED, DOTTED, Curve, Level, Moment, Part, Stroke
from wise_cellar.ui.widgets.plots import Key, key_text

QUANTITIES = (
    Quantity("Amps into the pack"),
    Quantity("Volts a cell at the plug"),
    Quantity("Charge inside", "%"),
    Quantity("Cells", "°C"),
)
VOLTS = 1
LEAST_RANGE_K = 5.0
MOST_POINTS = 1200
PLANNED, EXPECTED, COMES = "as planned", "expected", "as it comes"


class ChargePicture(PlotGrid):
    """Four plots on one time axis, with the moment at which the voltage is held."""

    def __init__(self) -> None:
        super().__init__("Current, volts, charge and warmth while charging", QUANTITIES, "min")
        self._plan: ChargePlan | None = None
        self._live: tuple[Charged, Came] | None = None

    def show_plan(self, plan: ChargePlan) -> None:
        """Draw a plan."""
        self._plan, self._live = plan, None
        self.redraw()

    def show_came(self, plan: ChargePlan, expected: Charged, came: Came) -> None:
        """Draw what has come over what was expected."""
        self._plan, self._live = plan, (expected, came)
        self.redraw()

    def draw(self, colours: Colours) -> None:
        """The plan as it would go."""
        self.dress(colours)
        if self._plan is not None:
            expected, came = self._live or (self._plan.charged, None)
            self._draw(self._plan, expected, came, colours)

    def _draw(self, plan: ChargePlan, charged: Charged, came: Came | None, colours: Colours) -> None:
        series = colours.series
        minutes = charged.time_s / 60
        values = (charged.current_a, charged.voltage_v / plan.cells, 100 * charged.soc, charged.temperature_c)
        phases = (charged.power_from_s, charged.held_from_s)
        begins = [] if plan.drains else sorted({s / 60 for s in phases if 1.0 < s < charged.seconds})
        seen = _seen(plan, charged, came) if came is not None else ()
        last_min = max(float(minutes[-1]), came.seconds / 60 if came is not None else 0.0, 0.1)
        for place, (plot, drawn) in enumerate(zip(self.plots, values, strict=True)):
            stroke = Stroke(series[(1, 0, 2, 3)[place]], 2.2)
            whole = stroke if not seen else Stroke(colours.faint, 1.4)
            parts: list[Part] = [Curve(minutes, drawn, whole, EXPECTED if seen else PLANNED)]
            if seen:
                parts += [Curve(*line, Stroke(stroke.colour, 0.8)) for line in seen[place][1:]]
                parts.append(Curve(*seen[place][0], stroke, COMES))
            parts += [Moment(at, Stroke(colours.ink, 1.0, DOTTED), _limits_words(plan)) for at in begins]
            if place == VOLTS:
                parts.append(
                    Level(plan.end_v if plan.raised else plan.full_v, Stroke(colours.brick, 1.2, DASHED), "end")
                )
            plot.show_parts(parts)
            plot.box.setXRange(0, last_min, padding=0.01)
        amps, celsius = (
            np.concatenate([values[place], *(line[1] for line in (seen[place] if seen else ()))]) for place in (0, 3)
        )
        self.plots[0].box.setYRange(min(0.0, float(amps.min())), float(amps.max()), padding=0.03)
        self.plots[2].box.setYRange(0, 100, padding=0.02)
        low, high = float(np.nanmin(celsius)), float(np.nanmax(celsius))
        # A degree more or less is no finding: not blown up to the height of the plot.
        room = max(LEAST_RANGE_K - (high - low), 0.0) / 2
        self.plots[3].box.setYRange(low - room, high + room, padding=0.05)
        reached = (
            f"{format_volts(plan.end_v)} a cell, the end"
            if plan.raised
            else f"{format_volts(plan.full_v)} a cell, held"
        )
        keys = [Key(reached, colours.brick, DASHED)]
        if seen:
            groups = came is not None and came.groups.shape[1]
            keys += [
                Key(f"{COMES}, thin: each group" if groups else COMES, series[0]),
                Key(EXPECTED, colours.faint),
            ]
        if begins:
            keys.append(Key(_limits_words(plan), colours.ink, DOTTED))
        self.key.setText(key_text(keys, colours))


def _seen(plan: ChargePlan, expected: Charged, came: Came) -> list[list[tuple[Floats, Floats]]]:
    """What has come, thinned: lines over minutes for each plot, the first of them the one that is drawn strong."""
    # Nothing of a charge comes and goes in a moment: some of the readings tell all of it.
    some = slice(None, None, max(len(came) // MOST_POINTS, 1))
    minutes = came.time_s[some] / 60
    inside = 100 * (expected.soc[0] + came.charge_mah[some] / plan.pack.label_mah)
    lines = (
        [came.amps[some]], [came.volts[some] / plan.cells, *came.groups[some].T], [inside], [came.celsius[some]]
    )  # fmt: skip
    return [[(minutes, values) for values in mine] for mine in lines]


def _limits_words(plan: ChargePlan) -> str:
    """What the dotted lines stand for."""
    held = {phase.held for phase in plan.charged.phases}
    both = held >= {Held.CURRENT, Held.POWER}
    return "from here the power is held, then the voltage" if both else "the voltage is held from here"
