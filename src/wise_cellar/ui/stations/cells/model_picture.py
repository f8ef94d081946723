"""What a cell is flown by: resting voltage and inner resistance over charge, and its sheet's beside them."""

from __future__ import annotations

import numpy as np

from wise_cellar.core.cells import electrical, resistance_shape, resting_curve
from wise_cellar.core.csv_text import csv_text
from wise_cellar.core.documents import CellType, FittedModel
from wise_cellar.core.physics.arrays import ZERO_CELSIUS_K, Floats
from wise_cellar.core.physics.cell import REFERENCE_K
from wise_cellar.core.units import format_celsius, format_number, format_significant
from wise_cellar.ui.theme import Colours, colours_of
from wise_cellar.ui.widgets.plot import Plot
from wise_cellar.ui.widgets.plot_parts import DASHED, Curve, Stroke
from wise_cellar.ui.widgets.plots import Key, key_text, title_text
from wise_cellar.ui.widgets.saved_plots import SavedPlots

POINTS = 401
BY_SHEET = "by sheet and family"


def flown_tables(cell: CellType) -> tuple[Floats, Floats, Floats]:
    """State of charge, resting volts and R₀ in milliohms at 25 °C, shape ``(points,)`` each."""
    soc = np.linspace(0.0, 1.0, POINTS)
    grid = np.linspace(0.0, 1.0, len(resting_curve(cell).values))
    volts = np.interp(soc, grid, resting_curve(cell).values)
    inner = 1e3 * electrical(cell)["r0_ohm"] * np.interp(soc, grid, resistance_shape(cell).values)
    return soc, volts, inner


def parameter_words(model: FittedModel) -> list[tuple[str, str]]:
    """The fitted figures with their names, as an engineer reads them."""
    half = float(np.interp(0.5, model.resistance_soc, model.resistance_mohm))
    low = float(np.interp(0.1, model.resistance_soc, model.resistance_mohm))
    lag = 100 * model.lag_gain_s / 3600 * model.lag_reference_a / (model.capacity_mah / 1000)
    heat = "by mass" if model.heat_capacity_j_k is None else f"{format_number(model.heat_capacity_j_k, 0)} J/K"
    transfer = [
        ("Charge transfer at 1C, exchange",
         f"{format_number(100 * model.transfer_share, 0)} % of R₀, {format_significant(model.exchange_a, 2)} A")
    ] if model.transfer_share > 0 else []  # fmt: skip
    return [
        ("R₀ at half charge, at 10 %", f"{format_number(half, 1)}, {format_number(low, 1)} mΩ"),
        ("R₁, time constant", f"{format_number(model.r1_mohm, 1)} mΩ, {format_number(model.tau1_s, 0)} s"),
        *transfer,
        (f"Surface lag at {format_significant(model.lag_reference_a, 3)} A",
         f"{format_number(lag, 1)} % of charge, {format_number(model.lag_tau_s, 0)} s"),
        ("Activation, R and lag", f"{format_number(model.resistance_activation_j_mol / 1000, 0)}, "
                                  f"{format_number(model.lag_activation_j_mol / 1000, 0)} kJ/mol"),
        ("Heat capacity", heat),
    ]  # fmt: skip


class ModelPicture(SavedPlots):
    """Resting volts at the left, R₀ at the right; what the sheet alone would give is dashed."""

    def __init__(self) -> None:
        super().__init__()
        self.setAccessibleName("Resting voltage and inner resistance over the state of charge")
        self._cell: CellType | None = None

    def lay_out(self) -> None:
        """Two plots side by side."""
        self._titles = [self.addLabel("", 0, place, justify="left") for place in range(2)]
        self.volts, self.inner = Plot("%"), Plot("%")
        self.volts.name_axes("Volts at rest", "V", "charge left")
        self.inner.name_axes("Inner resistance", "mΩ", "charge left")
        self.addItem(self.volts, 1, 0)
        self.addItem(self.inner, 1, 1)

    def show_cell(self, cell: CellType) -> None:
        """Draw what this cell is flown by."""
        self._cell = cell
        self.redraw()

    def draw(self, colours: Colours) -> None:
        """Both tables."""
        for label, words in zip(
            self._titles, ("Volts at rest", f"R₀, mΩ at {format_celsius(REFERENCE_K - ZERO_CELSIUS_K)}"), strict=True
        ):
            label.setText(title_text(words, colours))
        for plot in (self.volts, self.inner):
            plot.dress(colours)
        if self._cell is None:
            return
        self._draw(self._cell, colours)
        self.key.setText(self.key_words())
        for plot in (self.volts, self.inner):
            plot.box.autoRange(padding=0.03)

    def _draw(self, cell: CellType, colours: Colours) -> None:
        flown, sheet = Stroke(colours.series[0], 2.0), Stroke(colours.faint, 1.4, DASHED)
        at_rest, resisting = [], []
        for shown, stroke, name in ((cell, flown, "flown"), (_by_sheet(cell), sheet, BY_SHEET)):
            if shown is None:
                continue
            soc, volts, inner = flown_tables(shown)
            at_rest.append(Curve(100 * soc, volts, stroke, name))
            resisting.append(Curve(100 * soc, inner, stroke, name))
        self.volts.show_parts(at_rest)
        self.inner.show_parts(resisting)

    def key_words(self) -> str:
        """What the lines are."""
        colours, cell = colours_of(self), self._cell
        if cell is None:
            return ""
        keys = [Key("fitted" if cell.fitted is not None else "flown", colours.series[0])]
        if _by_sheet(cell) is not None:
            keys.append(Key(BY_SHEET, colours.faint, DASHED))
        return key_text(keys, colours)

    def as_csv(self) -> str:
        """Both tables."""
        tables = zip(*flown_tables(self._cell), strict=True) if self._cell is not None else ()
        return csv_text([["soc", "ocv_v", "r0_mohm"], *([f"{value:.6g}" for value in row] for row in tables)])


def _by_sheet(cell: CellType) -> CellType | None:
    """The cell without its own fit and table, where it has one."""
    if cell.fitted is None and cell.own_ocv is None:
        return None
    return cell.changed(fitted=None, own_ocv=None)
