"""What a flight tells of its pack and of its craft's power: least squares on the model, with what is known before it.

Volts under a known current tell capacity and resistance apart where the flight was deep and uneven enough. Each
learned value is a share of what was expected, with its doubt; where the doubt is no smaller than before, the flight did
not tell it, and it is left. Errors of the model go along for minutes, so that many rows are few witnesses
(:data:`ALIKE_S`). Source: PHYSICS.md, "Learning from a recording"; ours: the doubts before, how alike neighbours are.
"""

from __future__ import annotations

from collections.abc import Mapping, Sequence
from dataclasses import dataclass, replace
from typing import Any

import numpy as np

from wise_cellar.core.curves import DischargeCurve, ModelParameters, simulate
from wise_cellar.core.documents import CompleteDesign, DocumentError, PackState
from wise_cellar.core.flight import ask
from wise_cellar.core.logbook.evidence import Evidence, Together
from wise_cellar.core.logbook.flight_log import FlightLog
from wise_cellar.core.logbook.phases import Phase, PhaseKind
from wise_cellar.core.lowering.packs import groups_of
from wise_cellar.core.physics.arrays import ZERO_CELSIUS_K, Floats
from wise_cellar.core.units import format_number

BIN_S = 4.0
ALIKE_S = 200.0
"""So long the model's error stays what it is: in that time all rows are one witness."""
VOLTS_DOUBT = 0.012
"""Of a cell's volts by the model, one standard deviation."""
BEFORE = {
    "capacity": 0.06,
    "resistance": 0.30,
    "power": 0.10,
    "drag": 0.25,
    "liveliness": 0.16,
    "cooling": 0.31,
    "lag": 0.20,
}
"""Doubts before the flight, one standard deviation, share of one: a pack that may be old."""
OFFSET_V = 0.012
"""Of a cell: what the volts sensor may be off."""
ACTIVATION_DOUBT = 10.0
"""Of how its kinetics change with warmth, kJ/mol: most cells were never tried in the cold."""
OF_PACK, OF_CRAFT = ("capacity", "resistance", "lag"), ("power", "drag", "liveliness")
CAN_BE = {
    "capacity": (0.4, 1.08), "resistance": (0.5, 4.0), "power": (0.5, 2.0), "drag": (0.3, 3.0),
    "liveliness": (0.5, 2.0), "cooling": (0.2, 4.0), "lag": (0.3, 3.0),
}  # fmt: skip
_OTHER_PACK = "another pack flew, or it did not start full, or its cells are not those of the design."
WRONG = {
    "capacity": _OTHER_PACK, "resistance": _OTHER_PACK,
    "power": "another craft flew, or its mass is not the design's, or the amps are not the pack's.",
    "lag": _OTHER_PACK,
    "drag": "its speed is not the one through the air, or another craft flew.",
    "liveliness": "it was not flown by hand as the mission has it.",
    "cooling": "its probe is not on the pack, or the pack was not as warm at first as the design has it.",
}  # fmt: skip
TOLD_SHARE = 0.7
"""A doubt that has not fallen under so much of what it was tells nothing."""
OFFSET, ACTIVATION = len(OF_PACK), len(OF_PACK) + 1
"""Places of what else is open in one flight: the offset of the volts, and how kinetics change with warmth."""
STEP, MOST_TRIES = 1e-3, 60
LEAST_DRAWN = 0.15
"""Of the label: less is too little to tell anything of the pack."""
PHASE_DOUBT, SLOPE_DOUBT, ALIKE_PHASES = 0.03, 0.10, 0.008
"""Of the power of a minute by the law, in level flight and in climbs and descents, and of all of a flight alike:
estimates from the reference logs."""
DRAG_STEP, COOLING_STEP = 0.2, 0.25
PROBE_DOUBT, LEAST_WARMER_K = 0.10, 5.0


@dataclass(frozen=True)
class Learned:
    """One value, as a share of what was expected."""

    name: str
    share: float
    doubt: float
    before: float
    """Doubt before."""

    @property
    def told(self) -> bool:
        """Whether the flight told it."""
        return self.can_be and self.doubt < TOLD_SHARE * self.before

    @property
    def can_be(self) -> bool:
        """Whether it can be of this pack and this craft at all."""
        low, high = CAN_BE[self.name]
        return low < self.share < high

    def words(self) -> str:
        """A sentence."""
        if not self.can_be:
            percent = format_number(100 * self.share, 0)
            return f"Its {self.name} would be {percent} % of what was expected, which cannot be: {WRONG[self.name]}"
        if not self.told:
            return f"These flights do not tell its {self.name}."
        percent = f"{format_number(100 * self.share, 0)} ± {format_number(100 * self.doubt, 0)} %"
        return f"Its {self.name} is {percent} of what was expected."


def told_words(learned: Sequence[Learned]) -> list[str]:
    """What a flight told, a sentence each, and in one what it did not."""
    said = [one.words() for one in learned if one.told or not one.can_be]
    silent = [one.name for one in learned if one.can_be and not one.told]
    if not silent:
        return said
    names = silent[0] if len(silent) == 1 else f"{', '.join(silent[:-1])} and {silent[-1]}"
    return [*said, f"Not told by this flight: {names}."]


@dataclass(frozen=True)
class PackTold:
    """What a flight told of its pack, and of the voltage sensor."""

    evidence: Evidence
    volts_offset_v: float
    """Of the whole pack: told over true."""
    volts_doubt_v: float


def learn_pack(log: FlightLog, complete: CompleteDesign, wiring_ohm: float, celsius: Floats) -> PackTold:
    """Capacity and resistance of the design's only pack, charged at the start of the log as its state has it;
    ``celsius`` its warmth at every row, ``wiring_ohm`` between its cells and where the volts were read.

    Raises :class:`DocumentError` where it cannot tell: several packs, or hardly anything was drawn.
    """
    from scipy.optimize import least_squares

    if len(complete.packs) > 1:
        raise DocumentError("Several packs flew together: a flight tells of one alone.")
    recipe, cell = complete.pack.recipe, complete.pack.cell
    if log.drawn_mah() < LEAST_DRAWN * complete.pack.label_mah:
        raise DocumentError("Too little was drawn to tell anything of the pack.")
    time_s, amps, volts, warm = _binned(log, celsius)
    cell_v = (volts + amps * wiring_ohm) / recipe.series_count
    curve = DischargeCurve(
        "flight", time_s, cell_v, np.maximum(amps / recipe.parallel_count, 0.0), warm + ZERO_CELSIUS_K
    )
    state = complete.pack.state
    base, start = _as_built(ModelParameters.of_cell(cell), state), state.start_charge_percent / 100
    groups = groups_of(state, recipe.series_count)
    weight = np.sqrt(BIN_S / ALIKE_S) / VOLTS_DOUBT
    before = np.array([*(BEFORE[name] for name in OF_PACK), OFFSET_V, ACTIVATION_DOUBT])

    def model_v(sets: Floats) -> Floats:
        ask()
        aged = _changed(base, sets)
        volts = sum(
            len(one.members) * simulate(
                replace(
                    aged, charge_c=aged.charge_c * one.capacity, r1_ohm=aged.r1_ohm * one.resistance,
                    resistance_ohm=aged.resistance_ohm * one.resistance,
                ), curve, start,
            ) for one in groups
        )  # fmt: skip
        return np.asarray(volts / recipe.series_count + sets[:, OFFSET : OFFSET + 1])

    def misses(x: Floats) -> Floats:
        return np.concatenate([weight * (model_v(x[None])[0] - cell_v), x / before])

    def slopes(x: Floats) -> Floats:
        sets = x + STEP * np.vstack([np.zeros(len(x)), np.eye(len(x))])
        many = model_v(sets)
        return np.concatenate([weight * (many[1:] - many[0]).T / STEP, np.diag(1 / before)])

    found = least_squares(misses, np.zeros(len(before)), jac=slopes, loss="soft_l1", max_nfev=MOST_TRIES)
    jacobian = slopes(found.x)
    whole = jacobian.T @ jacobian
    offset = found.x[OFFSET] * recipe.series_count
    doubt = float(np.sqrt(np.linalg.inv(whole)[OFFSET, OFFSET])) * recipe.series_count
    return PackTold(_of_the_pack(whole, found.x, before), float(offset), doubt)


def _as_built(base: ModelParameters, state: PackState) -> ModelParameters:
    """A cell as the state of its pack has it: aged, with the lag that was learned before."""
    resists = state.resistance_percent / 100
    return replace(
        base, charge_c=base.charge_c * state.capacity_percent / 100, resistance_ohm=base.resistance_ohm * resists,
        r1_ohm=base.r1_ohm * resists, lag_gain_s=base.lag_gain_s * state.lag_share,
    )  # fmt: skip


def _changed(base: ModelParameters, sets: Floats) -> ModelParameters:
    """One cell for each row of what a flight may tell of it."""
    share = np.exp(sets[:, : len(OF_PACK)])
    changed: dict[str, Any] = {name: np.repeat(getattr(base, name), len(sets), axis=0) for name in _REPEATED} | {
        "charge_c": base.charge_c * share[:, 0], "resistance_ohm": base.resistance_ohm * share[:, 1:2],
        "r1_ohm": base.r1_ohm * share[:, 1], "lag_gain_s": base.lag_gain_s * share[:, 2],
        "resistance_activation_j_mol": base.resistance_activation_j_mol + 1000.0 * sets[:, ACTIVATION],
        "lag_activation_j_mol": base.lag_activation_j_mol + 1000.0 * sets[:, ACTIVATION],
    }  # fmt: skip
    return replace(base, **changed)


def _of_the_pack(whole: Floats, found: Floats, before: Floats) -> Evidence:
    """The say on the pack alone: what else was open is taken out of it, and what was known before."""
    mine, other = slice(0, len(OF_PACK)), slice(len(OF_PACK), None)
    across = whole[mine, other] @ np.linalg.inv(whole[other, other])
    vector = (whole @ found)[mine] - across @ (whole @ found)[other]
    information = whole[mine, mine] - across @ whole[other, mine]
    return Evidence(OF_PACK, vector, information - np.diag(1 / before[mine] ** 2))


def learned_of(told: Together, before: Mapping[str, float]) -> tuple[Learned, ...]:
    """Values with their doubts; ``before``: doubts before."""
    learned = [
        Learned(name, float(np.exp(told.value(name))), told.doubt(name), doubt) for name, doubt in before.items()
    ]
    if not all(one.can_be for one in learned):
        # What stands beside a value that cannot be is worth no more than before.
        learned = [replace(one, doubt=one.before) if one.can_be else one for one in learned]
    return tuple(learned)


_REPEATED = ("ocv_v", "tau1_s", "lag_gain_s", "lag_tau_s", "transfer_share", "exchange_a",
             )  # fmt: skip


def learn_power(
    phases: Sequence[Phase], expected: Sequence[Phase], dragged: Sequence[Phase], load_w: float, doubt: float,
    *, by_hand: bool = False,
) -> Evidence:  # fmt: skip
    """What the craft draws, over what the same phases were expected to, the loads that always run aside; ``dragged``
    are the phases as expected with :data:`DRAG_STEP` more drag, ``doubt`` is that of the current's scale, ``by_hand``
    says that what no speed tells apart was flown by hand. Raises :class:`DocumentError` where nothing steady was flown.

    Of each phase ln(P/P₀) = ln(power) + s·ln(drag) + ln(liveliness) where it was flown by hand, s = ∂lnP₀/∂ln(drag). A
    phase counts by the square root of its minutes, as neighbours of one phase are alike. Source: ours.
    """
    rows = [
        (one.seconds, one.watts - load_w, other.watts - load_w, third.watts - load_w, one.kind)
        for one, other, third in zip(phases, expected, dragged, strict=True)
        if one.kind not in (PhaseKind.GROUND, PhaseKind.REST, PhaseKind.BURST)
        and np.isfinite(one.watts + other.watts + third.watts)
        and min(one.watts, other.watts, third.watts) > load_w
    ]
    if not rows:
        raise DocumentError("Nothing steady was flown that would tell the power.")
    seconds, seen, ours, more = (np.array([row[place] for row in rows]) for place in range(4))
    misses = np.log(seen / ours)
    nameless = np.array([row[4] is PhaseKind.FLIGHT for row in rows])
    by_drag = np.where(nameless, 0.0, np.log(more / ours) / np.log1p(DRAG_STEP))
    lively = np.where(nameless & by_hand, 1.0, 0.0)
    table = np.column_stack([np.ones(len(rows)), by_drag, lively])
    sloped = np.array([row[4] in (PhaseKind.CLIMB, PhaseKind.DESCENT) for row in rows])
    each = np.where(sloped, SLOPE_DOUBT, PHASE_DOUBT) * np.sqrt(60.0 / np.clip(seconds, 6.0, 600.0))
    spread = np.diag(each**2) + np.full((len(rows), len(rows)), doubt**2 + ALIKE_PHASES**2)
    weighed = np.linalg.solve(spread, np.column_stack([table, misses]))
    return Evidence(OF_CRAFT, table.T @ weighed[:, -1], table.T @ weighed[:, :-1])


def learn_cooling(
    seen_c: Floats, ours_c: Floats, better_c: Floats, air_c: float, heated: float
) -> Evidence:  # fmt: skip
    """How well the pack is cooled, by its warmth in the last half of a flight over the air's; ``ours_c`` and
    ``better_c`` are the model's at the same moments, the second with :data:`COOLING_STEP` more of it; ``heated`` is the
    logarithm of the heat that the flight made over the model's.

    ln(ΔT/ΔT₀) = s·ln(cooling) + ln(heat), s = ∂lnΔT₀/∂ln(cooling). Raises :class:`DocumentError` where it hardly warms.
    Source:
    ours; a probe on the sleeve is a few kelvin behind the cells: :data:`PROBE_DOUBT`.
    """
    half = slice(len(seen_c) // 2, None)
    seen, ours, better = (float(values[half].mean()) - air_c for values in (seen_c, ours_c, better_c))
    if min(seen, ours, better) < LEAST_WARMER_K:
        raise DocumentError("The pack hardly warms over the air: nothing tells how well it is cooled.")
    slope = float(np.log(better / ours)) / np.log1p(COOLING_STEP)
    say = slope / PROBE_DOUBT**2
    return Evidence(("cooling",), np.array([say * (np.log(seen / ours) - heated)]), np.array([[say * slope]]))


def expected_in(phases: Sequence[Phase], time_s: Floats, watts: Floats, took_off_s: float) -> list[Phase]:
    """What was expected in the same stretches of the same mission, whose first second is the take-off, by its watts
    over time."""
    energy = np.concatenate([np.zeros(1), np.cumsum(0.5 * (watts[1:] + watts[:-1]) * np.diff(time_s))])
    found = []
    for phase in phases:
        start, end = np.clip([phase.from_s - took_off_s, phase.to_s - took_off_s], 0.0, float(time_s[-1]))
        given = float(np.interp(end, time_s, energy) - np.interp(start, time_s, energy))
        found.append(replace(phase, watts=given / (end - start) if end > start else np.nan))
    return found


def _binned(log: FlightLog, celsius: Floats) -> tuple[Floats, Floats, Floats, Floats]:
    """Means of stretches of :data:`BIN_S`, from the start of the log."""
    place = (log.time_s / BIN_S).astype(int)
    counts = np.bincount(place)
    there = counts > 0
    means = [
        np.bincount(place, weights=values)[there] / counts[there]
        for values in (log.time_s, log.amps, log.volts, celsius)
    ]
    return means[0], means[1], means[2], means[3]
