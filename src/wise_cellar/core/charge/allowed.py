"""What of a charge is allowed: the wait before it, every current that it may not exceed, why nothing is charged at all,
and what to watch for."""

from __future__ import annotations

import math
from collections.abc import Iterator
from dataclasses import dataclass

from wise_cellar.core.answer import Finding
from wise_cellar.core.answer.bus import charge_percent_at
from wise_cellar.core.answer.result import caution, over
from wise_cellar.core.cells import one_hour_a, overfull_v, resting_curve
from wise_cellar.core.cells.charging import WITHIN_V, overfull_words
from wise_cellar.core.documents import CellType, ChargeFrom, Charger, ChargeWish, CompletePack, Cooling, KineticClass
from wise_cellar.core.lowering.packs import COOLING_W_M2_K, LoweredPack, PackColumns, pack_arrays
from wise_cellar.core.pack import LinkKind, PackBuild, PackCurrents, pack_links
from wise_cellar.core.physics.cell import CellParameters
from wise_cellar.core.physics.charging import COLD_PLACE_C, COOL_C, COOL_RATE, FROST_C, HOT_C
from wise_cellar.core.units import format_celsius, format_number, format_volts
from wise_cellar.core.words import lower_first

COOLED_C = 40.0
"""A warm pack waits until it is down to it."""
LEAST_WARMING_S = 3600.0
"""A cold pack waits so long at the least: its middle is warm after its skin is."""
FIRST_RATE = 1 / 5
NEVER_V, NEVER_V_POLYMER = 2.0, 2.5
"""A cell found under it is not charged again: copper may have dissolved, and comes back as a short circuit."""
RAISED_V, RAISING_RATE = 3.0, 1 / 20
"""A cell found under its minimum is brought up to it first, at so much of the one-hour current, under watch."""


@dataclass(frozen=True)
class CurrentLimit:
    """One of the currents that none of the charge may exceed, of the pack."""

    name: str
    amps: float
    field: str
    estimate: bool = False


def waits(pack: CompletePack, build: PackBuild, from_c: float, air_c: float) -> tuple[float, float]:
    """Seconds until a pack that lies in still air may be charged, and its warmth then, °C."""
    cooled = max(COOLED_C, air_c + 1.0)
    if from_c > cooled:
        return settling_s(pack, build, from_c, cooled, air_c), cooled
    if from_c < COOL_C and air_c > from_c:
        # Where the place itself is cool, it is as warm as it gets there.
        until = COOL_C if air_c > COOL_C + 1.0 else max(air_c - 1.0, from_c)
        return max(settling_s(pack, build, from_c, until, air_c), LEAST_WARMING_S), max(until, from_c)
    return 0.0, from_c


def soc_resting_at(pack: CompletePack, volts: float) -> float:
    """State of charge at which a cell of a pack rests at ``volts``; negative where it is emptier than empty."""
    curve = resting_curve(pack.cell)
    below = (volts - float(curve.values[0])) / curve.slope_below
    return below if below < 0 else charge_percent_at(pack, volts) / 100


def never_v(cell: CellType) -> float:
    """Volts at rest under which a cell is not charged again."""
    return NEVER_V_POLYMER if cell.kinetic_class is KineticClass.POLYMER_POUCH else NEVER_V


def found_low(cell: CellType, wish: ChargeWish) -> bool:
    """Whether a pack was found under its minimum, and so is brought up slowly first."""
    return wish.start is ChargeFrom.FOUND and never_v(cell) <= wish.found_v < min(cell.min_voltage_v, RAISED_V)


def refusal(pack: CompletePack, wish: ChargeWish, coldest_c: float, warmest_c: float, full_v: float) -> str:
    """Why a pack is not charged at all; empty where it is."""
    family = overfull_v(pack.cell)
    if family is not None and full_v > family + WITHIN_V:
        return overfull_words(pack.cell, family)
    if wish.start is ChargeFrom.FOUND and wish.found_v < (never := never_v(pack.cell)):
        return (
            f"Found at {format_volts(wish.found_v)} a cell, under {format_volts(never, 1)}, it is not"
            " charged again: insulate its plugs and hand it in where batteries are taken back."
        )
    if coldest_c < FROST_C:
        return (
            f"At {format_celsius(coldest_c)} nothing is charged: lithium plates out inside the cells and stays there."
        )
    if warmest_c > HOT_C:
        return f"At {format_celsius(warmest_c)} nothing is charged; {format_celsius(HOT_C)} is the most."
    return ""


def current_limits(
    pack: CompletePack, build: PackBuild, charger: Charger, wish: ChargeWish, celsius: float
) -> Iterator[CurrentLimit]:
    """Every current that the pack may not be charged above."""
    cell, parallel = pack.cell, pack.recipe.parallel_count
    label = one_hour_a(cell) * parallel
    field = pack.path("cell.charge_current_a")
    if cell.charge_current_a is None:
        yield CurrentLimit("half of 1C, as the cell tells no charge current", label / 2, field, estimate=True)
    else:
        yield CurrentLimit("the cell's charge current", cell.charge_current_a * parallel, field)
    wanted, words = (1.0, "1C, the usual most") if wish.most_c_rate is None else (wish.most_c_rate, "your own wish")
    yield CurrentLimit(words, wanted * label, "design.charge.most_c_rate")
    yield CurrentLimit("the charger's current", charger.current_a, "design.charger.current_a")
    if wish.first_charge:
        yield CurrentLimit("the first charge after building", FIRST_RATE * label, "design.charge.first_charge")
    if found_low(cell, wish):
        yield CurrentLimit("a twentieth of 1C, as it was found so low", RAISING_RATE * label, "design.charge.found_v")
    if celsius < COOL_C:
        yield CurrentLimit(
            f"the cold: a fifth of 1C under {format_celsius(COOL_C)}", COOL_RATE * label, "design.charge.temperature_c"
        )
    for link in pack_links(build, PackCurrents(1.0, 1.0, 1.0)):
        if link.kind not in (LinkKind.CELL, LinkKind.GROUP):
            amps = link.cruise_limit_a / link.cruise_a
            yield CurrentLimit(lower_first(link.name), amps, pack.path(link.field))


def cooling_s(pack: CompletePack, build: PackBuild, from_c: float, to_c: float, air_c: float) -> float:
    """Time a resting pack takes to cool in still air; infinite where the air is as warm."""
    if from_c <= to_c:
        return 0.0
    return math.inf if air_c >= to_c else settling_s(pack, build, from_c, to_c, air_c)


def settling_s(pack: CompletePack, build: PackBuild, from_c: float, to_c: float, air_c: float) -> float:
    """Time a resting pack takes in still air to a warmth that lies between its own and the air's.

    T = T_air + (T₀ − T_air)·exp(−t·UA/C), U of a closed bay.
    """
    cell: CellParameters = pack_arrays(PackColumns.of([LoweredPack(pack, build)]))["cell"]
    area = build.outer_area_m2 / (pack.recipe.series_count * pack.recipe.parallel_count)
    tau = float(cell.heat_capacity_j_k[0, 0, 0]) / (COOLING_W_M2_K[Cooling.CLOSED] * area)
    return tau * math.log((from_c - air_c) / (to_c - air_c))


def charge_cautions(
    pack: CompletePack, wish: ChargeWish, soc: float, warm_c: float, full_v: float, packs: int
) -> Iterator[Finding]:
    """What to watch for in the charge of one pack of ``packs`` of a design."""
    if (family := overfull_v(pack.cell)) is not None:
        yield over(overfull_words(pack.cell, family), pack.path("cell.max_voltage_v"))
    yield from _of_warmth(wish, warm_c)
    yield from _of_emptiness(pack.cell, wish, soc)
    yield from _of_pack(pack, full_v, packs)
    if wish.first_charge:
        yield caution(
            "First charge after building: outdoors or on stone, at a fifth of 1C. After ten minutes feel every cell and"
            " measure every group; one that is warm or 50 mV apart stops the charge.",
            "design.charge.first_charge",
        )
    yield caution(
        "Not flown for two days: take it to storage. Look every three months; one group falling alone is the end of the"
        " pack.",
        "design.charge.goal",
    )
    yield caution(
        "Stay with it, on a ground that cannot burn, away from what can. Stop where a cell swells, smells or warms more"
        " than the others. Rules for charging and carrying packs are local: check yours.",
        "design.charge",
    )


def _of_warmth(wish: ChargeWish, warm_c: float) -> Iterator[Finding]:
    """Frost and heat, of the pack and of the place."""
    temperature = "design.charge.temperature_c"
    if warm_c < COLD_PLACE_C:
        yield over(
            f"It is at {format_celsius(warm_c)}. Never charge a cell under {format_celsius(FROST_C)}: bring it"
            f" indoors until its middle is over {format_celsius(COOL_C)}, an hour or more.",
            temperature,
        )
    if wish.temperature_c < COLD_PLACE_C:
        yield over(
            f"At {format_celsius(wish.temperature_c)} these packs must not be charged: charge indoors, or in"
            " a warm box.",
            temperature,
        )
    elif wish.temperature_c > HOT_C:
        yield over(
            f"At {format_celsius(wish.temperature_c)} do not charge; {format_celsius(HOT_C)} is the most.", temperature
        )
    elif warm_c > HOT_C:
        yield caution(
            f"It lands at {format_celsius(warm_c)}: let it cool to {format_celsius(COOLED_C)} before you charge it.",
            temperature,
        )


def _of_emptiness(cell: CellType, wish: ChargeWish, soc: float) -> Iterator[Finding]:
    """A pack under its minimum."""
    if found_low(cell, wish):
        yield over(
            f"It was found under its minimum: a twentieth of 1C to {format_volts(RAISED_V, 1)}, under watch,"
            " then plan it again from there. If it warms, or falls back overnight, it is not used again: hand"
            " it in.",
            "design.charge.found_v",
        )
    elif soc < 0 and wish.start is not ChargeFrom.FOUND:
        yield over(
            "It is below empty: measure what it rests at, and charge from the volts as found.", "design.charge.start"
        )


def _of_pack(pack: CompletePack, full_v: float, packs: int) -> Iterator[Finding]:
    """What its sheet, its bus and its wiring ask for."""
    cell, name = pack.cell, lower_first(pack.name)
    if cell.charge_current_a is None:
        yield caution(
            f"{cell.name} tells no charge current: half of 1C is taken. Look for it on its sheet.",
            pack.path("cell.charge_current_a"),
        )
    if full_v < cell.max_voltage_v - 0.005:
        yield caution(
            f"{cell.name} would take {format_volts(cell.max_voltage_v)} a cell; what it shares the bus"
            f" with may only have {format_volts(full_v)},"
            f" {format_number(charge_percent_at(pack, full_v), 0)} % of its charge.",
            pack.path("cell.max_voltage_v"),
        )
    if packs > 1:
        yield caution(
            f"Charge the {name} by itself, off the bus. Never put packs of two states together: not on the charger, not"
            " on an adaptor, not in the craft.",
            "design.packs",
        )
    if not cell.whole_pack and not pack.recipe.balance.fitted and pack.recipe.series_count > 1:
        yield caution(
            "Without a balance lead the charger sees no single group: measure each by hand, before and after.",
            pack.path("recipe.balance.fitted"),
        )
