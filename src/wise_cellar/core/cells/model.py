"""One cell type's part of lowering: documents in people's units become curves and SI parameters."""

from __future__ import annotations

from functools import lru_cache

import numpy as np

from wise_cellar.core.cells.specimens import believed
from wise_cellar.core.documents import CellType, FittedModel, KineticClass, OcvTable
from wise_cellar.core.physics.cell import default_resistance_shape, resistance_from_dcir
from wise_cellar.core.physics.curve_bank import SocCurve
from wise_cellar.core.physics.ocv import LEAST_SLOPE_BELOW_EMPTY, ocv_curve

# Surface lag where nothing was measured: hours of lag per C-rate, and its time constant in seconds.
LAG_DEFAULTS = {
    KineticClass.ENERGY_CYLINDER: (0.035, 120.0),
    KineticClass.POWER_CYLINDER: (0.008, 40.0),
    KineticClass.POLYMER_POUCH: (0.004, 30.0),
}
R1_SHARE, TAU1_S = 0.3, 15.0
RESISTANCE_ACTIVATION, LAG_ACTIVATION = 20e3, 25e3  # J/mol
UNDER_LOAD = 0.95
SPECIFIC_HEAT = 950.0  # J/(kg K), a lithium-ion cell


def capacity_mah(cell: CellType) -> float:
    """Capacity that is flown, mAh: the median of three specimens or more, else as fitted, else the sheet's."""
    bench = believed(cell, "capacity_mah")
    if bench is not None:
        return bench.median
    return cell.fitted.capacity_mah if cell.fitted is not None else cell.capacity_mah


def resistance_mohm(cell: CellType) -> float:
    """DC internal resistance at half charge and 25 °C that flies where no fit stands in: the median of three or more
    specimens, else the sheet's."""
    bench = believed(cell, "dcir_mohm")
    return cell.resistance_mohm if bench is None else bench.median


def resting_curve(cell: CellType) -> SocCurve:
    """Open-circuit voltage over state of charge: as fitted, else the cell's own table, else its family's."""
    if cell.fitted is not None:
        return _fitted_curves(cell.fitted)[0]
    return ocv_curve(cell.ocv_family) if cell.own_ocv is None else _own_curve(cell.own_ocv)


def resistance_shape(cell: CellType) -> SocCurve:
    """R₀ over its value at half charge: as fitted, else the default shape."""
    return default_resistance_shape() if cell.fitted is None else _fitted_curves(cell.fitted)[1]


def mean_resting_v(cell: CellType) -> float:
    """Mean open-circuit voltage from full to empty, which times capacity is the energy at rest."""
    return float(resting_curve(cell).values.mean())


def nominal_cell_v(cell: CellType) -> float:
    """Volts that a cell has under load on the mean of a flight, for what hangs on them a little: 0.95 of its mean at
    rest, an estimate."""
    return UNDER_LOAD * mean_resting_v(cell)


def half_charge_slope(cell: CellType) -> float:
    """dOCV/dz at half charge, volts."""
    values = resting_curve(cell).values
    middle, reach = len(values) // 2, len(values) // 50
    return float(values[middle + reach] - values[middle - reach]) / (2 * reach / (len(values) - 1))


def heat_capacity_j_k(cell: CellType) -> float:
    """Heat capacity of one cell: as fitted, else its mass by the specific heat of its class."""
    if cell.fitted is not None and cell.fitted.heat_capacity_j_k is not None:
        return cell.fitted.heat_capacity_j_k
    return cell.mass_g / cell.cells_in_series * 1e-3 * SPECIFIC_HEAT


def electrical(cell: CellType) -> dict[str, float]:
    """Electrical parameters of one cell, SI, by their names in
    :class:`~wise_cellar.core.physics.cell.CellParameters`."""
    values = _fitted(cell.fitted) if cell.fitted else _from_sheet(cell)
    return values | {"charge_c": 3.6 * capacity_mah(cell)}


def _from_sheet(cell: CellType) -> dict[str, float]:
    """From a maker's sheet and the defaults for the class."""
    charge = 3.6 * capacity_mah(cell)
    lag_hours, lag_tau = LAG_DEFAULTS[cell.kinetic_class]
    lag_gain = lag_hours * 3600.0
    r0, r1 = resistance_from_dcir(
        resistance_mohm(cell) * 1e-3, charge, lag_gain, lag_tau, half_charge_slope(cell), r1_share=R1_SHARE,
        tau1_s=TAU1_S,
    )  # fmt: skip
    return {
        "charge_c": charge,
        "r0_ohm": r0,
        "r1_ohm": r1,
        "tau1_s": TAU1_S,
        "lag_gain_s": lag_gain,
        "lag_tau_s": lag_tau,
        "lag_exponent": 0.0,
        "lag_reference_a": 1.0,
        "transfer_share": 0.0,
        "exchange_a": 1.0,
        "resistance_activation_j_mol": RESISTANCE_ACTIVATION,
        "lag_activation_j_mol": LAG_ACTIVATION,
    }


def _fitted(model: FittedModel) -> dict[str, float]:
    return {
        "charge_c": model.capacity_mah * 3.6,
        "r0_ohm": 1e-3 * float(np.interp(0.5, model.resistance_soc, model.resistance_mohm)),
        "r1_ohm": 1e-3 * model.r1_mohm,
        "tau1_s": model.tau1_s,
        "lag_gain_s": model.lag_gain_s,
        "lag_tau_s": model.lag_tau_s,
        "lag_exponent": model.lag_exponent,
        "lag_reference_a": model.lag_reference_a,
        "transfer_share": model.transfer_share,
        "exchange_a": model.exchange_a,
        "resistance_activation_j_mol": model.resistance_activation_j_mol,
        "lag_activation_j_mol": model.lag_activation_j_mol,
    }


@lru_cache(maxsize=256)
def _fitted_curves(model: FittedModel) -> tuple[SocCurve, SocCurve]:
    """Open-circuit voltage, and resistance over its value at half charge."""
    resistance = np.array(model.resistance_mohm)
    half = np.interp(0.5, model.resistance_soc, resistance)
    return (
        SocCurve.from_points(np.array(model.ocv_soc), np.array(model.ocv_v), least_slope_below=LEAST_SLOPE_BELOW_EMPTY),
        SocCurve.from_points(np.array(model.resistance_soc), resistance / half),
    )


@lru_cache(maxsize=256)
def _own_curve(table: OcvTable) -> SocCurve:
    return SocCurve.from_points(np.array(table.soc), np.array(table.ocv_v), least_slope_below=LEAST_SLOPE_BELOW_EMPTY)
