"""Does the range cover? Every way of leaving runs out of a fit, and each unseen run flown with the product's doubts.

``python -m tests.truth`` prints the table that stands in docs/truth.md. The cells are those of ``tests/data``, made
with an electrochemical model that shares nothing with ours. The sheet that stands in for what a fit leaves open is a
right one, or off by its own doubt either way.
"""

from __future__ import annotations

import json
from collections.abc import Iterator, Sequence
from dataclasses import dataclass, replace
from functools import cache
from itertools import combinations
from pathlib import Path
from typing import Any

import numpy as np

from tests.builders import cell_type, complete, mission
from wise_cellar.core.answer import answer, spread
from wise_cellar.core.cells.doubts import CellDoubts, Use, cell_doubts, cell_factors
from wise_cellar.core.curves import DischargeCurve, ModelParameters, simulate
from wise_cellar.core.curves.simulation import interpolate_rows
from wise_cellar.core.documents import (
    Block,
    CellType,
    CompleteDesign,
    Conditions,
    FittedModel,
    LandingRule,
    Leads,
    PackState,
)
from wise_cellar.core.fit import fit_cell
from wise_cellar.core.physics.cell import saturation
from wise_cellar.demo.sample_craft import whimbrel
from wise_cellar.store.curve_files import read_discharge_curve

DATA = Path(__file__).parent / "data"
CUT_OFF_V, SAMPLES, POINTS = 2.5, 150, 600
FITTED = {
    "cell_a": ("c10_25c", "c2_25c", "1c_25c", "pulses_25c"),
    "cell_b": ("c10_25c", "1c_25c", "1c_0c"),
}
ONLY_UNSEEN = {
    "cell_a": ("12w_25c", "15c_25c", "mission_25c"),
    "cell_b": ("c2_25c", "12w_25c", "1c_10c", "c2_0c", "12w_0c"),
}
HELD_W = {"12w_25c": 12.0, "12w_0c": 12.0}
SHEETS = {"low": (0.98, 0.87), "right": (1.0, 1.0), "high": (1.02, 1.15)}
TRUE_MAH, TRUE_MOHM = {"cell_a": 5134.0, "cell_b": 4900.0}, {"cell_a": 28.6, "cell_b": 33.0}


@dataclass(frozen=True)
class Met:
    """One quantity of one unseen run: as it was, and the 10th, 50th and 90th percentile of what was told before."""

    cell: str
    fitted: tuple[str, ...]
    sheet: str
    run: str
    quantity: str
    truth: float
    low: float
    middle: float
    high: float

    @property
    def covered(self) -> bool:
        return self.low <= self.truth <= self.high

    @property
    def off(self) -> float:
        return self.middle / self.truth - 1

    @property
    def width(self) -> float:
        return (self.high - self.low) / self.truth


@cache
def run_of(cell: str, name: str) -> DischargeCurve:
    folder = "curves" if name in FITTED[cell] else "unseen"
    return read_discharge_curve(DATA / folder / f"{cell}_{name}.csv")


def sheet(cell: str, which: str) -> CellType:
    capacity, resistance = SHEETS[which]
    return cell_type(capacity_mah=capacity * TRUE_MAH[cell], dcir_mohm=resistance * TRUE_MOHM[cell])


def ways(cell: str) -> Iterator[tuple[str, ...]]:
    for count in range(1, len(FITTED[cell]) + 1):
        yield from combinations(FITTED[cell], count)


@cache
def fitted_cell(cell: str, names: tuple[str, ...], which: str) -> CellType:
    given = sheet(cell, which)
    model: FittedModel = fit_cell([run_of(cell, name) for name in names], given).model
    changed: CellType = given.changed(fitted=model)
    return changed


def halved(doubts: CellDoubts, scale: float) -> CellDoubts:
    """The same doubts, smaller by a factor: for the test that this would not do."""
    shares = ("capacity", "resistance", "burst", "slow", "lag", "volts")
    return replace(doubts, **{name: scale * getattr(doubts, name) for name in shares})


def varied(
    model: ModelParameters, doubts: Sequence[CellDoubts], samples: int, *, burst: bool = False
) -> ModelParameters:
    """Sets within each of the doubts, one after the other; with the resistance as it is in bursts, or else."""
    half = float(model.resistance_ohm[0, model.resistance_ohm.shape[1] // 2])
    normal = np.random.default_rng(7).standard_normal((4, samples))
    found = [cell_factors(each, normal, half, float(model.r1_ohm[0])) for each in doubts]

    def factor(name: str) -> np.ndarray:
        return np.concatenate([np.broadcast_to(getattr(each, name), samples) for each in found])

    def wide(values: np.ndarray) -> np.ndarray:
        return np.repeat(values, samples * len(doubts), axis=0)

    ohms = factor("burst" if burst else "resistance")
    return replace(
        model, charge_c=model.charge_c * factor("capacity"), ocv_v=wide(model.ocv_v) + factor("volts")[:, None],
        resistance_ohm=wide(model.resistance_ohm) * ohms[:, None], r1_ohm=model.r1_ohm * factor("slow"),
        tau1_s=wide(model.tau1_s), lag_gain_s=model.lag_gain_s * factor("lag"), lag_tau_s=wide(model.lag_tau_s),
        transfer_share=wide(model.transfer_share), exchange_a=wide(model.exchange_a),
        resistance_activation_j_mol=wide(model.resistance_activation_j_mol),
        lag_activation_j_mol=wide(model.lag_activation_j_mol),
    )  # fmt: skip


def carried_on(run: DischargeCurve) -> DischargeCurve:
    """The same with its last current held for half as long again."""
    more = np.linspace(0.0, 0.4 * run.time_s[-1], 200)[1:]

    def longer(values: np.ndarray) -> np.ndarray:
        return np.concatenate([values, np.full(len(more), values[-1])])

    return DischargeCurve(
        run.name, np.concatenate([run.time_s, run.time_s[-1] + more]), longer(run.voltage_v), longer(run.current_a),
        longer(run.temperature_k),
    )  # fmt: skip


def ends_s(volts: np.ndarray, time: np.ndarray) -> np.ndarray:
    """When each set falls to the cut-off; the log's end where it does not."""
    below = volts <= CUT_OFF_V
    after = np.where(below.any(axis=1), np.maximum(np.argmax(below, axis=1), 1), len(time) - 1)
    rows = np.arange(len(volts))
    high, low = volts[rows, after - 1], volts[rows, after]
    share = np.clip((high - CUT_OFF_V) / np.where(high > low, high - low, 1.0), 0.0, 1.0)
    return np.asarray(time[after - 1] + share * (time[after] - time[after - 1]))


def at_power(model: ModelParameters, run: DischargeCurve, watts: float) -> np.ndarray:
    """Volts of all sets while each gives the same power: the model's equations stepped point by point."""
    count = len(model.charge_c)
    soc, lag, polarisation = np.ones(count), np.zeros(count), np.zeros(count)
    amps = np.full(count, watts / 4.0)
    volts = np.zeros((count, len(run.time_s)))
    rows = np.arange(count)[:, None]
    for place, step in enumerate(np.diff(run.time_s, append=run.time_s[-1])):
        kelvin = run.temperature_k[place]
        stiff, slow = (
            np.exp(energy / 8.314 * (1 / kelvin - 1 / 298.15))
            for energy in (model.resistance_activation_j_mol, model.lag_activation_j_mol)
        )
        surface = soc - lag
        emf = interpolate_rows(model.ocv_soc, model.ocv_v, np.maximum(surface, 0.0)[:, None])[:, 0] - polarisation
        emf += 25.0 * np.minimum(surface, 0.0)
        inner = interpolate_rows(model.resistance_soc, model.resistance_ohm, soc[:, None])[rows[:, 0], 0] * stiff
        for _ in range(3):
            ohm = inner * saturation(amps, model.charge_c / 3600, model.transfer_share, model.exchange_a)
            amps = np.maximum(emf - np.sqrt(np.maximum(emf**2 - 4 * ohm * watts, 0.0)), 0.0) / (2 * ohm)
        volts[:, place] = np.where(emf**2 < 4 * ohm * watts, 0.0, emf - amps * ohm)
        soc = soc - amps * step / model.charge_c
        growth = np.minimum(amps / model.lag_reference_a, 1.0) ** model.lag_exponent
        settled = model.lag_gain_s * slow * amps * growth / model.charge_c
        lag = settled + (lag - settled) * np.exp(-step / (model.lag_tau_s * slow))
        settled = model.r1_ohm * stiff * amps
        polarisation = settled + (polarisation - settled) * np.exp(-step / model.tau1_s)
    return volts


def met(
    cell: str, names: tuple[str, ...], which: str, scales: Sequence[float] = (1.0,), samples: int = SAMPLES
) -> Iterator[tuple[Met, ...]]:
    """Every unseen run under one fit, with its doubts and with smaller ones."""
    fitted = fitted_cell(cell, names, which)
    model = ModelParameters.of_cell(fitted)
    for name in (*FITTED[cell], *ONLY_UNSEEN[cell]):
        if name in names:
            continue
        run = run_of(cell, name)
        celsius = run.temperature_k - 273.15
        use = Use(run.sustained_a, run.burst_a, float(celsius.min()), float(celsius.max()))
        doubts = [halved(cell_doubts(fitted, use), scale) for scale in scales]
        run = run.thinned(POINTS)
        longer, told = carried_on(run), varied(model, doubts, samples)
        volts = at_power(told, longer, HELD_W[name]) if name in HELD_W else simulate(told, longer)
        found = []
        half = int(np.searchsorted(run.charge_c, 0.5 * run.charge_c[-1]))
        rise = np.flatnonzero((np.diff(run.current_a) > 5) & (run.current_a[:-1] > 1))
        half = half if not len(rise) else int(rise[2])
        found.append(("volts at mid-run", float(run.voltage_v[half]), volts[:, half]))
        if name != "pulses_25c":
            found.append(("end", float(run.time_s[-1]), ends_s(volts, longer.time_s)))
        else:
            stiff = simulate(varied(model, doubts, samples, burst=True), run)
            end = int(np.searchsorted(run.time_s, run.time_s[half] + 10.0, side="left"))
            found.append(("10 A step", float(run.voltage_v[half] - run.voltage_v[end]), stiff[:, half] - stiff[:, end]))
        for quantity, truth, values in found:
            yield tuple(
                Met(cell, names, which, name, quantity, truth, *np.percentile(each, (10, 50, 90)).tolist())
                for each in np.split(values, len(scales))
            )


def everything() -> list[Met]:
    """All ways of leaving runs out, with all sheets."""
    every = ((cell, names, which) for cell in FITTED for names in ways(cell) for which in SHEETS)
    return [one for cell, names, which in every for (one,) in met(cell, names, which)]


# Flights


@dataclass(frozen=True)
class Phase:
    """One phase of a flight that was flown: as it was, and what was told before it, uncalibrated."""

    flight: str
    name: str
    quantity: str
    truth: float
    low: float
    middle: float
    high: float

    @property
    def covered(self) -> bool:
        return self.low <= self.truth <= self.high


def flown_design(flight: dict[str, Any]) -> tuple[CompleteDesign, list[dict[str, Any]]]:
    """The sample quad without its known flight, on the cell as all its runs fit it, flying the phases."""
    names = FITTED["cell_a"]
    cell = fitted_cell("cell_a", names, "right")
    phases = [phase for phase in flight["phases"] if phase["name"] != "landing"]
    blocks = []
    for phase in phases:
        kind = {"full power": "punch", "hover": "hover", "descent": "descent", "settle": "descent", "climb": "take-off"}
        found = next((word for start, word in kind.items() if phase["name"].startswith(start)), "cruise")
        speed = {} if found == "hover" else {"airspeed_m_s": phase["airspeed_m_s"]}
        climb = phase["climb_m_s"]
        more = {"climb_m_s": climb} if climb > 0 else {"sink_m_s": -climb} if climb < 0 else {}
        blocks.append(Block.from_data({"kind": found, "duration_s": phase["seconds"], **speed, **more}))
    # Leads and joints as they were: 14 AWG has 16.6 mΩ for a metre there and back.
    leads = Leads(gauge_awg=14, length_mm=max(1000 * (flight["leads_mohm"] - 2.5) / 16.6, 20), connector="90 A class")
    design = complete(
        cell=cell, carrier=whimbrel().changed(known_flights=()), flown=mission(*blocks),
        parallel_count=flight["parallel"], leads=leads, weighed_g=flight["takeoff_mass_g"] - 1150.0,
        conditions=Conditions(
            air_temperature_c=flight["air_temperature_c"], altitude_m=10, wind_m_s=flight["wind_m_s"]
        ),
        state=PackState(
            temperature_c=flight["pack_temperature_c"], capacity_percent=100 * flight["capacity_share"],
            resistance_percent=100 * flight["resistance_share"],
        ),
        landing=LandingRule(policy="own", own_voltage_v=2.5),
    )  # fmt: skip
    return design, phases


def told_phases(name: str, flight: dict[str, Any]) -> Iterator[Phase]:
    """Amps and volts of each long phase, against the shaded range."""
    design, phases = flown_design(flight)
    found = answer(design)
    bands = spread(design, found).bands
    start = 0.0
    for phase in phases:
        end = start + phase["seconds"]
        inside = (bands.time_s >= start + 2) & (bands.time_s <= end - 2)
        if phase["seconds"] >= 60 and inside.any():
            here = (found.series.time_s > start + 1) & (found.series.time_s < end - 1)
            seconds = found.series.time_s[here]
            for quantity, truth, band, line in (
                ("amps", phase["amps"], bands.pack_a, found.series.pack_a),
                ("volts", phase["volts"] / 4, bands.loaded_v, found.series.loaded_v),
            ):
                low, high = (float(np.nanmean(side[inside])) for side in band)
                middle = float(np.trapezoid(line[here], seconds) / np.ptp(seconds))
                yield Phase(name, phase["name"], quantity, truth, low, middle, high)
        start = end


def all_phases() -> list[Phase]:
    flights = json.loads((DATA / "flights.json").read_text(encoding="utf-8"))
    return [one for name, flight in flights.items() for one in told_phases(name, flight)]


# docs/truth.md

PAGE = Path(__file__).parents[1] / "docs" / "truth.md"
BEGINS, ENDS = "<!-- measured: script/make-truth -->", "<!-- end of what is measured -->"
KINDS = {
    "one run and the sheet": lambda cell, names: len(names) == 1 and "pulses" not in names[0],
    "two runs": lambda cell, names: len(names) == 2 and not any("pulses" in name for name in names),
    "more": lambda cell, names: len(names) > 2 and not any("pulses" in name for name in names),
    "pulses alone": lambda cell, names: names == ("pulses_25c",),
    "pulses and others": lambda cell, names: len(names) > 1 and any("pulses" in name for name in names),
}
QUANTITIES = {"end": "when it ends", "volts at mid-run": "volts in mid-run", "10 A step": "volts of a 10 A step"}


def table(heads: Sequence[str], rows: Sequence[Sequence[str]]) -> list[str]:
    return [
        f"| {' | '.join(heads)} |",
        f"|{'|'.join(' --- ' for _ in heads)}|",
        *(f"| {' | '.join(row)} |" for row in rows),
    ]


def coverage_lines(found: Sequence[Met]) -> list[str]:
    rows = []
    for quantity, words in QUANTITIES.items():
        every = [one for one in found if one.quantity == quantity]
        rows.append((f"**{words}**", "**all**", *figures(every)))
        for kind, belongs in KINDS.items():
            some = [one for one in every if belongs(one.cell, one.fitted)]
            if some:
                rows.append((words, kind, *figures(some)))
    return table(("unseen runs", "fitted on", "how many", "in the range", "median width", "median miss"), rows)


def figures(some: Sequence[Met]) -> tuple[str, str, str, str]:
    inside = sum(one.covered for one in some)
    width = 100 * float(np.median([one.width for one in some]))
    off = 100 * float(np.median([abs(one.off) for one in some]))
    return str(len(some)), f"{100 * inside / len(some):.0f} %", f"{width:.1f} %", f"{off:.1f} %"


def flight_lines(found: Sequence[Phase]) -> list[str]:
    rows = [
        (
            one.flight.replace("_", " "), one.name, one.quantity, f"{one.truth:.2f}", f"{one.middle:.2f}",
            f"{one.low:.2f} … {one.high:.2f}", "yes" if one.covered else "**no**",
        )
        for one in found
    ]  # fmt: skip
    inside = sum(one.covered for one in found)
    heads = ("flight", "phase", "", "as flown", "told", "range", "inside")
    return [*table(heads, rows), "", f"{inside} of {len(found)} lie inside."]


def measured() -> str:
    lines = [BEGINS, "", "### Cells: every way of leaving runs out", "", *coverage_lines(everything())]
    lines += [
        "",
        "### Flights: three of one craft, before anything of it was measured",
        "",
        *flight_lines(all_phases()),
    ]
    return "\n".join([*lines, "", ENDS])


def main() -> None:
    text = PAGE.read_text(encoding="utf-8")
    before, rest = text.split(BEGINS)
    PAGE.write_text(before + measured() + rest.split(ENDS)[1], encoding="utf-8")


if __name__ == "__main__":
    main()
