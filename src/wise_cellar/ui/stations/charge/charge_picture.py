"""A charge over time: current, volts at the plug, charge inside."""

from __future__ import annotations

from wise_cellar.core.charge import ChargePlan, Held
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


class ChargePicture(PlotGrid):
    """Four plots on one time axis, with the moment at which the voltage is held."""

    def __init__(self) -> None:
        super().__init__("Current, volts, charge and warmth while charging", QUANTITIES, "min")
        self._plan: ChargePlan | None = None

    def show_plan(self, plan: ChargePlan) -> None:
        """Draw a plan."""
        self._plan = plan
        self.redraw()

    def draw(self, colours: Colours) -> None:
        """The plan as it would go."""
        self.dress(colours)
        if self._plan is not None:
            self._draw(self._plan, colours)

    def _draw(self, plan: ChargePlan, colours: Colours) -> None:
        charged, series = plan.charged, colours.series
        minutes = charged.time_s / 60
        values = (charged.current_a, charged.voltage_v / plan.cells, 100 * charged.soc, charged.temperature_c)
        phases = (charged.power_from_s, charged.held_from_s)
        begins = [] if plan.drains else sorted({s / 60 for s in phases if 1.0 < s < charged.seconds})
        for place, (plot, drawn) in enumerate(zip(self.plots, values, strict=True)):
            parts: list[Part] = [Curve(minutes, drawn, Stroke(series[(1, 0, 2, 3)[place]], 2.2))]
            parts += [Moment(at, Stroke(colours.ink, 1.0, DOTTED)) for at in begins]
            if place == VOLTS:
                parts.append(Level(plan.end_v if plan.raised else plan.full_v, Stroke(colours.brick, 1.2, DASHED)))
            plot.show_parts(parts)
            plot.box.setXRange(0, max(float(minutes[-1]), 0.1), padding=0.01)
        self.plots[0].box.setYRange(
            min(0.0, float(charged.current_a.min())), float(charged.current_a.max()), padding=0.03
        )
        self.plots[2].box.setYRange(0, 100, padding=0.02)
        low, high = float(charged.temperature_c.min()), float(charged.temperature_c.max())
        # A degree more or less is no finding: not blown up to the height of the plot.
        room = max(LEAST_RANGE_K - (high - low), 0.0) / 2
        self.plots[3].box.setYRange(low - room, high + room, padding=0.05)
        reached = (
            f"{format_volts(plan.end_v)} a cell, the end"
            if plan.raised
            else f"{format_volts(plan.full_v)} a cell, held"
        )
        keys = [Key(reached, colours.brick, DASHED)]
        if begins:
            keys.append(Key(_limits_words(plan), colours.ink, DOTTED))
        self.key.setText(key_text(keys, colours))


def _limits_words(plan: ChargePlan) -> str:
    """What the dotted lines stand for."""
    held = {phase.held for phase in plan.charged.phases}
    both = held >= {Held.CURRENT, Held.POWER}
    return "from here the power is held, then the voltage" if both else "the voltage is held from here"
