"""How far a cell's values may be off at the currents and the warmth at which it is flown, and what each rests on.

Every ``±`` is the 10th to the 90th percentile. Beyond what the values rest on, each grows with the distance: with how
many times the current (in e-folds), and with how many kelvin colder, by the doubt of the activation energies.
"""

from __future__ import annotations

import math
from collections.abc import Sequence
from dataclasses import dataclass

import numpy as np

from wise_cellar.core.cells.specimens import TENTH_TO_NINETIETH, believed
from wise_cellar.core.documents import CellType, FittedModel, LearnedOf, LearnedValue, SourceKind
from wise_cellar.core.physics.arrays import ZERO_CELSIUS_K, Floats
from wise_cellar.core.physics.cell import GAS_CONSTANT
from wise_cellar.core.units import counted

CAPACITY = {SourceKind.MEASURED: 0.01, SourceKind.MAKERS_SHEET: 0.02, SourceKind.ESTIMATE: 0.05}
RESISTANCE = {SourceKind.MEASURED: 0.08, SourceKind.MAKERS_SHEET: 0.15, SourceKind.ESTIMATE: 0.25}
FROM_AC, FITTED_CAPACITY, FITTED_RESISTANCE = 0.25, 0.02, 0.06
LAG, LIFTED_LAG, FITTED_LAG = 0.25, 0.40, 0.15
"""Of the charge left behind at rate: of the class; where a fit's resting volts were lifted by it, so that what it is
off by counts twice; and fitted."""
BEYOND = {"capacity": 0.01, "resistance": 0.40, "lag": 0.40}
"""What each e-fold of current beyond what a fit rests on adds."""
SLOW_OPEN = 1.0
"""Of the slow part of the resistance where one current alone was seen: ten seconds do not show it."""
ENERGY_J_MOL, LAG_ENERGY_J_MOL = 5e3, 30e3
FITTED_ENERGY_J_MOL, FITTED_LAG_ENERGY_J_MOL = 3e3, 10e3
"""Doubt of the activation energies of resistance and of lag where nothing told them, and where runs did; those that did
are held against 25 °C, where most was seen."""
VOLTS, FAMILY_VOLTS, MOSTLY_SEEN = 0.005, 0.020, 0.1
"""Least doubt of resting volts, V a cell; and where a fit leaves more than that share of the charge to the family's
table."""
ROOM_C, WARM_C = 25.0, 45.0
"""Warmth that a sheet's values are of, and up to which they hold as a cell warms."""
NEAR_K = 5.0
"""Warmer or colder by so much is the same."""


@dataclass(frozen=True)
class Use:
    """What a flight asks of each cell of a pack, the one that carries most: amperes for good and in bursts, and its
    coldest and warmest, °C."""

    lasting_a: float
    burst_a: float
    coldest_c: float
    warmest_c: float


@dataclass(frozen=True)
class CellDoubts:
    """Doubts as shares of one; those of resistance and lag are factors, (1 + d) up or down alike."""

    capacity: float
    resistance: float
    burst: float
    """Of the resistance in bursts."""
    slow: float
    """Of its slow part, R₁."""
    lag: float
    volts: float
    """Of the resting volts, V a cell."""
    lifted_from_a: float
    """Where the resistance is higher than thought, resting volts are too, by this current: at it the sum was seen."""
    capacity_because: str
    resistance_because: str


@dataclass(frozen=True)
class Beyond:
    """How far a use lies beyond what a cell's values rest on."""

    current: float
    """E-folds of the lasting current."""
    burst: float
    """The same of bursts."""
    warmth_per_k: float
    """Δ(1/T), 1/K, from the coldest or the warmest that was seen."""

    @property
    def outside(self) -> bool:
        """Whether it does at all."""
        return max(self.current, self.burst, self.warmth_per_k) > 0


def beyond(cell: CellType, use: Use) -> Beyond:
    """How far a flight goes beyond what the cell's values rest on; a sheet's rest on 25 °C and on any current.

    Source: our own measure, in the quantities in which the laws of current and warmth are straight lines.
    """
    fitted = cell.fitted
    coldest, warmest = (ROOM_C, WARM_C) if fitted is None else (fitted.coldest_c, fitted.warmest_c)
    away = max(_colder(use.coldest_c, coldest), _colder(warmest, use.warmest_c))
    return Beyond(
        0.0 if fitted is None else _folds(use.lasting_a, fitted.highest_current_a),
        0.0 if fitted is None else _folds(use.burst_a, most_burst_a(fitted)),
        away,
    )


def most_burst_a(fitted: FittedModel) -> float:
    """The highest current that a fit saw for some seconds, A."""
    return max(fitted.burst_a or 0.0, fitted.highest_current_a)


def cell_doubts(
    cell: CellType, use: Use, *, capacity_measured: bool = False, resistance_measured: bool = False,
    taught: Sequence[LearnedValue] = (),
) -> CellDoubts:  # fmt: skip
    """Doubts of a cell's values as it is flown; ``capacity_measured`` and ``resistance_measured``: of this very pack,
    ``taught``: by flights of it, which see all of a use and not the values alone.

    Source: the shares of `docs/truth.md`, held against runs that fits had not seen; their growth beyond a fit is our
    estimate by the same runs, in the cold the doubt of the activation energies. Not modelled: doubts that go together.
    """
    fitted, out = cell.fitted, beyond(cell, use)
    of_pack = "measured of this pack"
    capacity, why_capacity = min([_capacity(cell), *[(CAPACITY[SourceKind.MEASURED], of_pack)] * capacity_measured])
    resistance, why_resistance = min(
        [_resistance(cell), *[(RESISTANCE[SourceKind.MEASURED], of_pack)] * resistance_measured]
    )
    for value in taught:
        half, because = TENTH_TO_NINETIETH * value.doubt_percent / 100, value.words
        if value.of is LearnedOf.CAPACITY:
            capacity, why_capacity = half, because
        elif value.of is LearnedOf.RESISTANCE:
            resistance, why_resistance = half, because
    told = {value.of for value in taught}
    cold_resistance, cold_lag = _cold(fitted, use, out)
    lag_told = next((one for one in taught if one.of is LearnedOf.LAG), None)
    lag = LAG if fitted is None else LIFTED_LAG if fitted.lag_given else FITTED_LAG
    slow = SLOW_OPEN if fitted is not None and fitted.lag_given else resistance
    elsewhere = ", flown outside it" if fitted is not None and out.outside else ""
    by_current = {name: each * out.current for name, each in BEYOND.items()}
    for of in told & {LearnedOf.CAPACITY, LearnedOf.RESISTANCE}:
        by_current[of.value] = 0.0  # flights saw its currents
    return CellDoubts(
        capacity=capacity + by_current["capacity"],
        resistance=resistance + by_current["resistance"] + cold_resistance,
        burst=resistance + BEYOND["resistance"] * out.burst + cold_resistance,
        slow=slow + by_current["resistance"] + cold_resistance,
        lag=lag + by_current["lag"] + cold_lag
        if lag_told is None
        else TENTH_TO_NINETIETH * lag_told.doubt_percent / 100 + cold_lag,
        volts=_volts(fitted),
        lifted_from_a=0.0 if fitted is None else fitted.lifted_from_a,
        capacity_because=why_capacity + elsewhere,
        resistance_because=why_resistance + elsewhere,
    )


def _cold(fitted: FittedModel | None, use: Use, out: Beyond) -> tuple[float, float]:
    """What cold adds to the doubts of resistance and of lag: outside of what was seen by energies that nobody told, and
    inside of it, as it lies away from room temperature, by those that runs did."""
    told = fitted is not None and fitted.warmth_told
    away = _colder(use.coldest_c, ROOM_C) if told else 0.0
    pairs = ((ENERGY_J_MOL, FITTED_ENERGY_J_MOL), (LAG_ENERGY_J_MOL, FITTED_LAG_ENERGY_J_MOL))
    resistance, lag = (
        math.expm1(open_ / GAS_CONSTANT * out.warmth_per_k) + math.expm1(told_ / GAS_CONSTANT * away)
        for open_, told_ in pairs
    )
    return resistance, lag


def _volts(fitted: FittedModel | None) -> float:
    """Of the resting volts, V a cell."""
    if fitted is None:
        return VOLTS
    volts = max(VOLTS, TENTH_TO_NINETIETH * 1e-3 * fitted.residual_mv)
    if fitted.lowest_soc > MOSTLY_SEEN:
        volts = math.hypot(volts, FAMILY_VOLTS)
    if fitted.warmth_told:
        return volts
    # What a cold run had of polarisation and of resting volts is told apart by the activation energies alone.
    half_ohm = 1e-3 * fitted.resistance_mohm[len(fitted.resistance_mohm) // 2]
    cold = math.expm1(LAG_ENERGY_J_MOL / GAS_CONSTANT * _colder(fitted.coldest_c, ROOM_C))
    return volts + cold * fitted.lifted_from_a * half_ohm


@dataclass(frozen=True)
class CellFactors:
    """What cells may be instead, each of shape ``(samples,)``: shares of capacity, resistance and lag, and volts above
    the resting voltage."""

    capacity: Floats
    resistance: Floats
    burst: Floats
    slow: Floats
    lag: Floats
    volts: Floats


def cell_factors(doubts: CellDoubts, normal: Floats, inner_ohm: float, slow_ohm: float) -> CellFactors:
    """Cells within the doubts, by standard normal numbers of shape ``(4, samples)``.

    ``inner_ohm`` and ``slow_ohm`` are R₀ and R₁ at half charge, whose doubts resting volts share. Source: a normal
    spread of capacity and volts, and of the logarithm of resistance and lag, with the doubt as its 10th and 90th
    percentile.
    """
    one = normal / TENTH_TO_NINETIETH
    resistance, slow = (np.exp(np.log1p(doubt) * one[1]) for doubt in (doubts.resistance, doubts.slow))
    lifted = inner_ohm * (resistance - 1) + slow_ohm * (slow - 1)
    return CellFactors(
        np.maximum(1 + doubts.capacity * one[0], 0.2),
        resistance,
        np.exp(np.log1p(doubts.burst) * one[1]),
        slow,
        np.exp(np.log1p(doubts.lag) * one[2]),
        doubts.volts * one[3] + doubts.lifted_from_a * lifted,
    )


def _folds(amps: float, most_a: float) -> float:
    return max(math.log(max(amps, 1e-9) / most_a), 0.0)


def _colder(celsius: float, seen_c: float) -> float:
    """Δ(1/T), 1/K, of what is colder than was seen by more than a few kelvin; 0 of the rest."""
    if celsius >= seen_c - NEAR_K:
        return 0.0
    return 1.0 / (celsius + ZERO_CELSIUS_K) - 1.0 / (seen_c + ZERO_CELSIUS_K)


def _capacity(cell: CellType) -> tuple[float, str]:
    specimens = believed(cell, "capacity_mah")
    if specimens is not None:
        return max(specimens.spread, 0.005), f"{counted(specimens.count, 'specimen')} measured"
    if cell.fitted is not None and not cell.fitted.capacity_given:
        return FITTED_CAPACITY, "fitted"
    kind = cell.source_of("capacity_mah")[0]
    return CAPACITY[kind], str(kind)


def _resistance(cell: CellType) -> tuple[float, str]:
    if cell.fitted is not None and not cell.fitted.resistance_given:
        return FITTED_RESISTANCE, "fitted"
    specimens = believed(cell, "dcir_mohm")
    if specimens is not None:
        return max(specimens.spread, 0.02), f"{counted(specimens.count, 'specimen')} measured"
    if cell.dcir_mohm is None:
        return FROM_AC, "from an AC reading"
    kind = cell.source_of("dcir_mohm")[0]
    return RESISTANCE[kind], str(kind)
