"""What the physics needs of one cell type: from its sheet and the defaults for its class, or from its fitted model."""

from wise_cellar.core.cells.charging import NO_RATING_RATE, charge_limit_a, one_hour_a, overfull_v
from wise_cellar.core.cells.claims import Claim, Verdict, sheet_claims, sheet_verdict
from wise_cellar.core.cells.doubts import (
    CellDoubts,
    CellFactors,
    Use,
    beyond,
    cell_doubts,
    cell_factors,
    most_burst_a,
)
from wise_cellar.core.cells.inside import VENTING_C, inside_heating
from wise_cellar.core.cells.limits import burst_limit_a, burst_s, lasting_limit_a, limit_field
from wise_cellar.core.cells.model import (
    LAG_ACTIVATION,
    LAG_DEFAULTS,
    R1_SHARE,
    RESISTANCE_ACTIVATION,
    TAU1_S,
    capacity_mah,
    electrical,
    half_charge_slope,
    heat_capacity_j_k,
    mean_resting_v,
    resistance_mohm,
    resistance_shape,
    resting_curve,
)
from wise_cellar.core.cells.specimens import LEAST_SPECIMENS, TENTH_TO_NINETIETH, Measured, believed, measured

__all__ = [
    "LAG_ACTIVATION",
    "LAG_DEFAULTS",
    "LEAST_SPECIMENS",
    "NO_RATING_RATE",
    "R1_SHARE",
    "RESISTANCE_ACTIVATION",
    "TAU1_S",
    "TENTH_TO_NINETIETH",
    "VENTING_C",
    "CellDoubts",
    "CellFactors",
    "Claim",
    "Measured",
    "Use",
    "Verdict",
    "believed",
    "beyond",
    "burst_limit_a",
    "burst_s",
    "capacity_mah",
    "cell_doubts",
    "cell_factors",
    "charge_limit_a",
    "electrical",
    "half_charge_slope",
    "heat_capacity_j_k",
    "inside_heating",
    "lasting_limit_a",
    "limit_field",
    "mean_resting_v",
    "measured",
    "most_burst_a",
    "one_hour_a",
    "overfull_v",
    "resistance_mohm",
    "resistance_shape",
    "resting_curve",
    "sheet_claims",
    "sheet_verdict",
]
