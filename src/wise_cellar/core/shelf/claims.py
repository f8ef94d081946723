"""Claims on a cell's sheet that cannot be true, or cannot be held, each in a sentence with its numbers."""

from __future__ import annotations

from dataclasses import dataclass, replace

import numpy as np

from wise_cellar.core.cells import mean_resting_v
from wise_cellar.core.documents import CompleteDesign, Conditions, PackRecipe
from wise_cellar.core.flight import fly, lower, lower_one
from wise_cellar.core.physics.arrays import ZERO_CELSIUS_K, Floats

# The best cells of these families sold stay under these; a sheet above them has a wrong mass, size or capacity.
MOST_WH_KG, MOST_WH_L = 320.0, 850.0
MOVING_AIR_W_M2_K = 20.0
ROOM_C = 25.0
SHORT_OF_LABEL = 0.97
LARGE_SAG_V = 0.8


@dataclass(frozen=True)
class Sustained:
    """What a bare cell in moving air at 25 °C can give to the end, amps, and how hot it gets at its rating."""

    current_a: float
    at_rating_c: float


def claims(complete: CompleteDesign) -> list[str]:
    """Doubts about the present cell's sheet; empty when there are none."""
    cell = complete.cell_type
    found = []
    energy_wh = cell.capacity_mah / 1000 * mean_resting_v(cell)
    litres = cell.volume_l
    density, volumetric = 1000 * energy_wh / cell.mass_g, energy_wh / litres
    if density > MOST_WH_KG:
        found.append(
            f"{cell.capacity_mah:.0f} mAh in {cell.mass_g:g} g would be {density:.0f} Wh/kg; no such cell passes"
            f" {MOST_WH_KG:.0f}. Weigh it, and measure its capacity."
        )
    if volumetric > MOST_WH_L:
        found.append(
            f"{cell.capacity_mah:.0f} mAh in {cell.diameter_mm:g} × {cell.length_mm:g} mm would be {volumetric:.0f} Wh"
            f" a litre; no such cell passes {MOST_WH_L:.0f}. The label promises more than the can holds."
        )
    if cell.fitted is not None and cell.fitted.capacity_mah < SHORT_OF_LABEL * cell.capacity_mah:
        found.append(
            f"Measured {cell.fitted.capacity_mah:.0f} mAh where the label says {cell.capacity_mah:.0f}. Flights use"
            " what was measured."
        )
    sag = cell.rated_current_a * cell.resistance_mohm * 1e-3
    if sag > LARGE_SAG_V:
        found.append(
            f"At its rated {cell.rated_current_a:g} A it loses {sag:.2f} V to its own {cell.resistance_mohm:g} mΩ."
        )
    held = sustained(complete)
    if held.current_a < 0.98 * cell.rated_current_a:
        found.append(
            f"Its rated {cell.rated_current_a:g} A cannot be held to the end: bare in moving air it would reach"
            f" {held.at_rating_c:.0f} °C (limit {cell.max_temperature_c:g}). It can be held at up to"
            f" {held.current_a:.0f} A."
        )
    return found


def sustained(complete: CompleteDesign) -> Sustained:
    """Greatest mean current that a lone cell can hold from full to its minimum within its temperature limit.

    Discharges at many held powers in one batch; each has a mean current and a hottest temperature.
    """
    cell = complete.cell_type
    still = Conditions(air_temperature_c=ROOM_C)
    alone = complete.design.model_copy(
        update={
            "recipe": PackRecipe(series_count=1, parallel_count=1),
            "conditions": still,
        }
    )
    one = lower([lower_one(complete.model_copy(update={"design": alone}), 1.0)])
    rating_w = cell.rated_current_a * 0.5 * (cell.min_voltage_v + cell.max_voltage_v)
    powers = np.geomspace(0.02, 1.5, 40) * rating_w
    count = len(powers)
    wide = one.take(np.zeros(count, np.intp))
    surface = cell.surface_m2
    cell_alone = replace(wide.cell, cooling_w_k=np.full(count, MOVING_AIR_W_M2_K * surface))
    flown = fly(replace(wide.one_block(np.inf, powers), cell=cell_alone, wiring_ohm=np.zeros(count)))
    lasted = flown.end_s > 1.0
    if not lasted.any():
        return Sustained(0.0, ROOM_C)
    current = flown.charge_c[lasted] / flown.end_s[lasted]
    hottest = flown.hottest_k[lasted] - ZERO_CELSIUS_K
    rating = float(np.interp(cell.rated_current_a, current, hottest))
    return Sustained(_first_crossing(current, hottest, cell.max_temperature_c), rating)


def _first_crossing(current: Floats, hottest: Floats, limit: float) -> float:
    """Current at which the hottest temperature first passes ``limit``; the greatest one flown where it never does."""
    over = np.flatnonzero(hottest > limit)
    if over.size == 0:
        return float(current[-1])
    first = int(over[0])
    if first == 0:
        return float(current[0])
    share = (limit - hottest[first - 1]) / (hottest[first] - hottest[first - 1])
    return float(current[first - 1] + share * (current[first] - current[first - 1]))
