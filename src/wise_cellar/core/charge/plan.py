"""The charge of one pack, planned: mode, cells, current within every rating, time, energy, and what to watch for."""

from __future__ import annotations

from dataclasses import dataclass, replace
from typing import Any

import numpy as np

from wise_cellar.core.answer import Answer, Finding
from wise_cellar.core.cells import one_hour_a, resting_curve
from wise_cellar.core.cells.charging import charge_lag
from wise_cellar.core.charge.allowed import (
    RAISED_V,
    CurrentLimit,
    charge_cautions,
    current_limits,
    found_low,
    refusal,
    soc_resting_at,
    waits,
)
from wise_cellar.core.charge.cc_cv import Charged, Held, OnCharger, Phase, charge
from wise_cellar.core.documents import (
    CellType,
    ChargeFrom,
    ChargeGoal,
    Charger,
    ChargeWish,
    CompleteDesign,
    CompletePack,
    Cooling,
    KineticClass,
    OcvFamily,
)
from wise_cellar.core.lowering.packs import LoweredPack, PackColumns, pack_arrays
from wise_cellar.core.pack import PackBuild
from wise_cellar.core.physics.arrays import ZERO_CELSIUS_K
from wise_cellar.core.physics.cell import CellParameters
from wise_cellar.core.units import (
    TOLD,
    format_amps,
    format_celsius,
    format_mah,
    format_number,
    format_significant,
    format_volts,
    format_watts,
)

TAPER_RATE = 1 / 20
STORAGE_SOC = {KineticClass.POLYMER_POUCH: 0.50}
STORAGE_SOC_ELSE = 0.45
"""An estimate of what ages least at rest without leaving a pack too empty: half for polymer, a little less else."""
UNEVEN = 0.01
"""Share of the charge by which the groups of a sound pack are apart."""


@dataclass(frozen=True)
class ChargePlan:
    """What to set on the charger, what it will take, and what to be careful about."""

    pack: CompletePack
    goal: ChargeGoal
    mode: str
    cells: int
    limits: tuple[CurrentLimit, ...]
    """The least first: it governs."""
    full_v: float
    """Volts a cell that are held."""
    storage_v: float
    """Volts a cell at which it is stored, at rest."""
    start_soc: float
    wait_s: float
    """Until it is cool, or warm, enough to be charged."""
    warming: bool
    """Whether it waits to become warm."""
    refused: str
    """Why nothing is charged, a sentence; empty where it is."""
    raised: bool
    """Whether it is only brought up to its minimum, as it was found under it."""
    on_charger: OnCharger
    """What :attr:`charged` was computed of."""
    charged: Charged
    balance_s: float
    """To even out groups that are 1 % apart, at the end."""
    power_w: float
    """Of the charger, into the pack."""
    efficiency: float
    cautions: tuple[Finding, ...]

    @property
    def current_a(self) -> float:
        """To set."""
        return 0.0 if self.refused else self.limits[0].amps

    @property
    def end_v(self) -> float:
        """Volts a cell at which it comes to rest, or is held."""
        if self.raised:
            return RAISED_V
        return self.storage_v if self.goal is ChargeGoal.STORAGE else self.full_v

    @property
    def supply_wh(self) -> float:
        """What the supply gives; 0 for a discharge."""
        return max(self.charged.energy_j, 0.0) / 3600 / self.efficiency

    @property
    def drains(self) -> bool:
        """Whether the pack is discharged."""
        return self.charged.energy_j < 0

    def settings(self) -> list[tuple[str, str]]:
        """What to set, line by line; nothing where nothing is charged."""
        if self.refused:
            return [("Do", "Do not charge it")]
        current = f"{_amps(self.current_a)}, {self.governed}"
        weak = next((phase for phase in self.charged.phases if phase.held is Held.POWER), None)
        if weak is not None and self.charged.power_from_s <= 1.0:
            current = (
                f"{_amps(self.current_a)}; the charger's {format_watts(self.power_w, TOLD)} give"
                f" {format_number(weak.start_a, 1)} to {format_amps(weak.end_a)}"
            )
        doing = "Discharge" if self.drains else "Charge with balancing"
        if self.raised:
            doing = "Bring it up under watch, and stop it by hand"
        return [
            ("Mode", self.mode),
            ("Do", f"{doing}, for storage" if self.goal is ChargeGoal.STORAGE and not self.raised else doing),
            ("Cells", f"{self.cells}, set by hand"),
            ("Current", "as the charger discharges" if self.drains else current),
            (
                "Ends at",
                f"{format_volts(self.end_v)} a cell, {format_volts(self.cells * self.end_v)} in all",
            ),
        ]

    @property
    def governed(self) -> str:
        """What the current is limited by."""
        return f"limited by {self.limits[0].name}"

    def _phase_words(self, phase: Phase) -> str:
        """A stretch of the charge, and what limits it."""
        took, fall = (
            about(phase.seconds),
            f"{format_number(phase.start_a, 1)} falling to {format_amps(phase.end_a)}",
        )
        if phase.held is Held.CURRENT:
            return f"{took} with the current held at {_amps(phase.start_a)}, {self.governed}"
        if phase.held is Held.POWER:
            return f"{took} at the charger's {format_watts(self.power_w, TOLD)}, {fall}"
        return f"{took} with the voltage held at {format_volts(self.full_v)} a cell, {fall}"

    def sentences(self) -> list[str]:
        """What it takes."""
        if self.refused:
            return [self.refused]
        charged = self.charged
        waiting = "warming" if self.warming else "cooling"
        wait = f"After {about(self.wait_s)} of {waiting}, " if self.wait_s > 30 else ""
        if not charged.done:
            return [f"{wait}It does not come to its end within two days: the current is too small for this pack."]
        took = about(charged.seconds)
        if self.drains:
            given = (
                f"{format_mah(-charged.charge_c / 3.6)} and {format_number(-charged.energy_j / 3600, 1)} Wh are"
                " taken out"
            )
            return [f"{wait}{took}: {given}, down to {format_number(100 * charged.soc[-1], 0)} % of charge."]
        phases = [self._phase_words(phase) for phase in charged.phases]
        return [
            f"{wait}{took}: {', then '.join(phases)}." if phases else f"{wait}{took}.",
            (
                f"{format_mah(charged.charge_c / 3.6)} go in, {format_number(charged.energy_j / 3600, 1)} Wh at the"
                f" plug, {format_number(self.supply_wh, 1)} Wh from the supply;"
                f" {format_celsius(charged.temperature_c.max())} at the warmest."
            ),
            *self._balancing(),
        ]

    def _balancing(self) -> list[str]:
        """How long the end takes longer; one cell has nothing to be balanced with."""
        if self.cells == 1 or self.raised:
            return []
        return [f"Groups that are 1 % apart are even after {about(self.balance_s)} of balancing at the end."]


def charge_plan(complete: CompleteDesign, answer: Answer) -> ChargePlan:
    """Plan what the design's ``charge`` asks for, with its ``charger``; a pack that is not there means the first."""
    wish = complete.design.charge
    place = wish.pack if wish.pack < len(answer.packs) else 0
    flown = answer.packs[place]
    if wish.start is ChargeFrom.LANDING:
        soc, warm = flown.charge_left, float(flown.series.temperature_c[-1])
    elif wish.start is ChargeFrom.FOUND:
        soc, warm = soc_resting_at(flown.complete, wish.found_v), wish.temperature_c
    else:
        soc, warm = wish.start_percent / 100, wish.temperature_c
    lowest = answer.bus_start.lower_full_v if answer.bus_start is not None else flown.complete.cell.max_voltage_v
    return planned(flown.complete, flown.build, complete.design.charger, wish, soc, warm, lowest, len(answer.packs))


def planned(
    pack: CompletePack, build: PackBuild, charger: Charger, wish: ChargeWish, soc: float, warm_c: float, full_v: float,
    packs: int = 1,
) -> ChargePlan:  # fmt: skip
    """Plan the charge of one pack from a state of charge and a temperature, up to ``full_v`` a cell."""
    cell, air = pack.cell, wish.temperature_c
    storage = STORAGE_SOC.get(cell.kinetic_class, STORAGE_SOC_ELSE)
    wait, begins_c = waits(pack, build, warm_c, air)
    # It goes on in the air of the place, whatever warmth it begins with.
    limits = tuple(sorted(current_limits(pack, build, charger, wish, min(begins_c, air)), key=lambda limit: limit.amps))
    drains = wish.goal is ChargeGoal.STORAGE and soc > storage
    low = found_low(cell, wish)
    until = soc_resting_at(pack, RAISED_V) if low else storage if wish.goal is ChargeGoal.STORAGE else None
    refused = "" if drains else refusal(pack, wish, min(begins_c, air), max(begins_c, air), full_v)
    amps = limits[0].amps
    curve = resting_curve(cell)

    def rest_v(share: float) -> float:
        return float(np.interp(share, np.linspace(0, 1, len(curve.values)), curve.values))

    standing = _standing(pack, build, soc, begins_c, air)
    if not drains:
        standing["cell"] = _charging(cell, standing["cell"])
    on_charger = OnCharger(
        **standing,
        current_a=amps,
        power_w=charger.power_w,
        voltage_v=full_v,
        taper_a=min(TAPER_RATE * one_hour_a(cell) * pack.recipe.parallel_count, 0.2 * amps),
        until_soc=soc if refused else until,
        discharge_w=charger.discharge_w,
    )
    return ChargePlan(
        pack=pack,
        goal=wish.goal,
        mode=mode_words(cell.ocv_family, full_v) + ("" if low else f", {format_volts(full_v)} a cell"),
        cells=pack.recipe.series_count,
        limits=limits,
        full_v=full_v,
        storage_v=rest_v(storage),
        start_soc=soc,
        wait_s=wait,
        warming=begins_c > warm_c,
        refused=refused,
        raised=low,
        on_charger=on_charger,
        charged=charge(on_charger),
        balance_s=UNEVEN * pack.label_mah * 3.6 / charger.balance_a,
        power_w=charger.power_w,
        efficiency=charger.efficiency,
        cautions=tuple(charge_cautions(pack, wish, soc, warm_c, full_v, packs)),
    )


def _amps(value: float) -> str:
    return f"{format_significant(value, 2)} A" if value < 1 else format_amps(value)


def about(seconds: float) -> str:
    """A time as one plans with it: "48 s", "62 min", "3 h 10 min"."""
    if seconds < 90:
        return f"{format_number(seconds, 0)} s"
    minutes = round(seconds / 60)
    return f"{minutes} min" if minutes < 120 else f"{minutes // 60} h {minutes % 60:02d} min"


def mode_words(family: OcvFamily, full_v: float) -> str:
    """The charger's mode in words; a high-voltage polymer that is charged to less is charged as any polymer."""
    if family is OcvFamily.LFP:
        return "iron phosphate"
    if family is OcvFamily.HIGH_VOLTAGE_POLYMER and full_v > 4.25:
        return "high-voltage polymer"
    polymer = family in (OcvFamily.POLYMER, OcvFamily.HIGH_VOLTAGE_POLYMER)
    return "lithium polymer" if polymer else "lithium-ion"


def _charging(cell: CellType, values: CellParameters) -> CellParameters:
    """The same with the lag that charging has."""
    gain_s, tau_s = (np.full_like(values.charge_c, value) for value in charge_lag(cell))
    return replace(values, lag_gain_s=gain_s, lag_tau_s=tau_s, lag_exponent=np.zeros_like(gain_s))


def _standing(pack: CompletePack, build: PackBuild, soc: float, warm_c: float, air_c: float) -> dict[str, Any]:
    """The pack beside the charger: at rest, in still air, its groups charged alike."""
    there = replace(pack, of=pack.of.changed(cooling=Cooling.CLOSED), air_temperature_c=air_c)
    lowered = pack_arrays(PackColumns.of([LoweredPack(there, build)]))
    start = lowered["start"]
    start.soc[:], start.temperature_k[:] = soc, warm_c + ZERO_CELSIUS_K
    return {
        "cell": lowered["cell"],
        "start": start,
        "group_share": lowered["group_share"],
        "series": pack.recipe.series_count,
        "parallel": pack.recipe.parallel_count,
        "wiring_ohm": build.wiring_ohm,
    }
