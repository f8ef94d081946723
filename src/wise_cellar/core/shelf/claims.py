"""Claims of a sheet that only a flight can judge: the heat of its rated current, the energy of its nominal voltage."""

from __future__ import annotations

from bisect import bisect_left
from collections.abc import Callable, Iterator
from dataclasses import dataclass, replace
from functools import cache

import numpy as np

from wise_cellar.core.cells import Claim, Verdict, capacity_mah, mean_resting_v, sheet_claims
from wise_cellar.core.documents import CellType, CompleteDesign, Conditions, Pack, PackRecipe
from wise_cellar.core.flight import FlightBatch, FlightTraces, fly
from wise_cellar.core.lowering import lower, lower_one
from wise_cellar.core.physics.arrays import ZERO_CELSIUS_K, Floats
from wise_cellar.core.units import (
    TOLD,
    format_amps,
    format_celsius,
    format_number,
    format_significant,
    format_volts,
    format_watts,
)

MOVING_AIR_W_M2_K = 20.0
ROOM_C = 25.0
SAFE_CELL_C = 60.0
NOMINAL_OFF = 0.02


@dataclass(frozen=True)
class HeldDischarge:
    """A lone cell at a held current in moving air at 25 °C, from full to its minimum."""

    current_a: float
    hottest_c: float
    to_60_c_s: float | None
    """Seconds until 60 °C; none where it never gets there."""
    lasted_s: float
    start_heat_w: float
    """Heat at the start, I²·R of a 10 s pulse."""


@dataclass(frozen=True)
class Sustained:
    """The current that a lone cell can hold to the end within its temperature limit, and what its claim would do."""

    trusted_a: float
    at_claim: HeldDischarge


def claims(cell: CellType, held: Sustained) -> list[Claim]:
    """Every claim of a cell's sheet, the worst first; ``held`` is what :func:`sustained` found of it."""
    found = [*sheet_claims(cell), *_heat_claims(cell, held), *_energy_claims(cell)]
    return sorted(found, key=lambda claim: -claim.verdict)


def _heat_claims(cell: CellType, held: Sustained) -> Iterator[Claim]:
    claim = held.at_claim
    limit = cell.max_temperature_c
    whole = held.trusted_a >= 0.98 * cell.rated_current_a
    hot = f"reaches {format_celsius(claim.hottest_c)}" if claim.hottest_c < 200 else f"passes {format_celsius(200)}"
    soon = (
        "" if claim.to_60_c_s is None else f" {format_celsius(SAFE_CELL_C)} are passed after {_clock(claim.to_60_c_s)}."
    )
    if claim.lasted_s < 1.0:
        said = (
            f"{format_significant(cell.rated_current_a, 3)} A pull a full cell under"
            f" {format_volts(cell.min_voltage_v, TOLD)} at once."
        )
        verdict = Verdict.CANNOT_BE
    elif whole:
        said = f"Held to the end, bare in moving air, it {hot} (limit {format_celsius(limit)})."
        verdict = Verdict.HOLDS
    else:
        said = (
            f"Held to the end, bare in moving air, it {hot} (limit {format_celsius(limit)}).{soon}"
            f" Up to {format_amps(held.trusted_a, 0)} can be held."
        )
        verdict = Verdict.CANNOT_BE if held.trusted_a < 0.5 * cell.rated_current_a else Verdict.DOUBTFUL
    yield Claim(
        verdict,
        f"Heat at its rated {format_significant(cell.rated_current_a, 3)} A",
        said,
        (
            f"({format_significant(cell.rated_current_a, 3)} A)² × {format_significant(cell.resistance_mohm, 3)} mΩ"
            f" = {format_watts(claim.start_heat_w, 1)} a cell at first; {format_significant(MOVING_AIR_W_M2_K)}"
            f" W/(m² K) × {format_number(1e4 * cell.surface_m2, 0)} cm² in {format_celsius(ROOM_C)} air, flown to"
            f" {format_volts(cell.min_voltage_v, TOLD)}"
        ),
        "cell.trusted_current_a",
    )


def _energy_claims(cell: CellType) -> Iterator[Claim]:
    if cell.nominal_voltage_v is None:
        return
    resting = mean_resting_v(cell)
    label = cell.capacity_mah / 1000 * cell.nominal_voltage_v
    rest = capacity_mah(cell) / 1000 * resting
    share = rest / label
    verdict = Verdict.HOLDS if share >= 1 - NOMINAL_OFF else Verdict.DOUBTFUL if share >= 0.85 else Verdict.CANNOT_BE
    ends = "which it has at rest" if verdict is Verdict.HOLDS else f"but it has {format_number(rest, 1)} Wh at rest"
    yield Claim(
        verdict,
        "Nominal voltage as energy",
        (
            f"{format_number(label, 1)} Wh are promised, {ends}; under load it gives less still. Plan with usable"
            " Wh, not with this."
        ),
        (
            f"{format_number(cell.capacity_mah / 1000, 2)} Ah × {format_volts(cell.nominal_voltage_v, TOLD)} ="
            f" {format_number(label, 1)} Wh; {format_number(capacity_mah(cell) / 1000, 2)} Ah ×"
            f" {format_volts(resting)} mean at rest = {format_number(rest, 1)} Wh"
        ),
        "cell.nominal_voltage_v",
    )


def sustained(complete: CompleteDesign) -> Sustained:
    """Greatest current that a lone one can hold from full to its minimum within its temperature limit.

    Discharges at held currents, bare in moving air at 25 °C. The more current, the hotter, as long as most of the
    charge comes out: so far, the first of a row of currents that is too much is sought by halving, beyond one by one.
    """
    cell = complete.pack.cell
    lone = Pack(cell_type_id=cell.id, recipe=PackRecipe(series_count=cell.cells_in_series, parallel_count=1))
    alone = complete.design.changed(packs=(lone,), conditions=Conditions(air_temperature_c=ROOM_C))
    bare = _bare(lower([lower_one(complete.changed(design=alone, cells=(cell,)), 1.0)]), cell)
    currents = cell.rated_current_a * np.geomspace(0.02, 1.0, 32)

    @cache
    def held(place: int) -> FlightTraces:
        return fly(bare.one_block(np.inf, cell_current_a=currents[place : place + 1]), record=True)

    def hottest_c(place: int) -> float:
        flown = held(place)
        return float(flown.hottest_k[0, 0, 0]) - ZERO_CELSIUS_K if flown.end_s[0] > 1.0 else np.inf

    def too_hot(place: int) -> bool:
        return hottest_c(place) > cell.max_temperature_c

    def too_much(place: int) -> bool:
        return too_hot(place) or float(held(place).end_state.soc[0, 0, 0]) > 0.5

    every = range(len(currents))
    beyond = every[bisect_left(every, True, key=too_much) :]
    first = next((place for place in beyond if too_hot(place)), None)
    claim = held(every[-1])
    trace = claim.trace[0]
    celsius = trace.state.temperature_k[0, 0] - ZERO_CELSIUS_K
    over = np.flatnonzero(celsius >= SAFE_CELL_C)
    to_60 = float(np.interp(SAFE_CELL_C, celsius[: over[0] + 1], trace.time_s[: over[0] + 1])) if over.size else None
    return Sustained(
        float(currents[-1]) if first is None else _where_it_passes(currents, hottest_c, cell.max_temperature_c, first),
        HeldDischarge(
            float(currents[-1]),
            float(celsius.max()),
            to_60,
            float(claim.end_s[0]),
            cell.rated_current_a**2 * cell.resistance_mohm * 1e-3,
        ),
    )


def _bare(one: FlightBatch, cell: CellType) -> FlightBatch:
    """A lone cell, or whole pack, that loses heat through its own surface only."""
    shape = one.parallel.shape
    share = np.full(shape, MOVING_AIR_W_M2_K * cell.surface_m2 / cell.cells_in_series)
    return replace(one, cell=replace(one.cell, cooling_w_k=share), wiring_ohm=np.zeros(shape))


def _where_it_passes(current: Floats, hottest: Callable[[int], float], limit: float, first: int) -> float:
    """Current at which the hottest temperature passes ``limit``, which it does between the one before the place
    ``first`` and that one; ``hottest`` tells it by the place of a current."""
    if first == 0 or not np.isfinite(hottest(first)):
        return float(current[max(first - 1, 0)])
    share = (limit - hottest(first - 1)) / (hottest(first) - hottest(first - 1))
    return float(current[first - 1] + share * (current[first] - current[first - 1]))


def _clock(seconds: float) -> str:
    return f"{format_number(seconds, 0)} s" if seconds < 100 else f"{format_number(seconds / 60, 0)} min"
