"""What to be careful about in a design: each finding a sentence with its numbers and the field it hangs on."""

from __future__ import annotations

from collections.abc import Iterator
from dataclasses import replace

import numpy as np

from wise_cellar.core.cells import Verdict, sheet_claims
from wise_cellar.core.documents import BlockKind, CellType, CompleteDesign
from wise_cellar.core.flight.batch import Ending
from wise_cellar.core.flight.joining_findings import joining_findings
from wise_cellar.core.flight.pack_findings import pack_findings
from wise_cellar.core.flight.result import Answer, Finding, Severity, caution, over
from wise_cellar.core.flight.wing_flight import wing_findings
from wise_cellar.core.physics.cell import voltage_under_power
from wise_cellar.core.units import format_minutes, format_share

WARM_C = 50.0
MUCH_LEFT = 1 / 3
FIT_MARGIN_C = 5.0


def findings(complete: CompleteDesign, answer: Answer) -> tuple[Finding, ...]:
    """All findings, those over a limit first."""
    rooms = (_cells, joining_findings, pack_findings, _punches, _heat, _fit_range, _landing, _craft, wing_findings)
    found = [finding for room in rooms for finding in room(complete, answer)]
    return tuple(sorted(found, key=lambda finding: finding.severity is not Severity.OVER))


def _cells(complete: CompleteDesign, _answer: Answer) -> Iterator[Finding]:
    """What the cell types themselves make impossible or leave in doubt."""
    for pack in complete.carried:
        for finding in _of_cell(pack.cell, pack.recipe.series_count):
            yield replace(finding, field=pack.field(finding.field))


def _of_cell(cell: CellType, series: int) -> Iterator[Finding]:
    if series % cell.cells_in_series:
        fitting = sorted({max(series // cell.cells_in_series, 1), series // cell.cells_in_series + 1})
        counts = " or ".join(f"{count * cell.cells_in_series}S" for count in fitting)
        yield over(
            f"{cell.name} is bought whole with {cell.cells_in_series} cells in series; {series}S cannot be made of it,"
            f" {counts} can.",
            "design.recipe.series_count",
        )
    for claim in sheet_claims(cell):
        if claim.verdict is Verdict.CANNOT_BE:
            yield over(f"{cell.name}, {claim.title.lower()}: {claim.sentence}", claim.field)
    if cell.dcir_mohm is None and cell.fitted is None:
        yield caution(
            f"{cell.name} has only an AC resistance, {cell.ac_resistance_mohm:g} mΩ. A DC resistance of"
            f" {cell.resistance_mohm:.0f} mΩ is estimated from it (AC is 0.5 to 0.7 of DC): measure a 10 s pulse.",
            "cell_type.dcir_mohm",
        )


def _punches(complete: CompleteDesign, answer: Answer) -> Iterator[Finding]:
    first = "a first punch" if complete.craft.wing is None else "the launch"
    for word, punch in ((first, answer.early_punch), ("a late punch", answer.late_punch)):
        if punch.collapsed:
            yield over(
                f"In {word} motors and loads ask for more than these cells can supply at any current: everything on"
                " board restarts.",
                "design.cell_type_id",
            )
            continue
        stopped = [(i, load) for i, load in enumerate(complete.craft.loads) if punch.bus_v < load.least_bus_v]
        for place, load in stopped:
            yield over(
                f"Cells sag to {punch.volts_a_cell:.2f} V in {word}: the pack gives {punch.bus_v:.1f} V and"
                f" {load.name} (min {load.least_bus_v:.1f} V) restarts.",
                f"craft.loads.{place}.min_input_v",
            )
    yield from _switch_on(complete, answer)
    for pack in answer.packs:
        least = pack.carried.cell.min_voltage_v
        if pack.late_cell_v < least:
            yield caution(
                f"A late punch pulls the {pack.cells} to {pack.late_cell_v:.2f} V, under their minimum of"
                f" {least:.2f} V.",
                "design.landing.policy",
            )
    margin, wanted = answer.late_punch.thrust_margin, complete.design.landing.least_margin
    if margin < wanted:
        until = format_minutes(answer.margin_until_s)
        yield caution(
            f"Late in the pack full throttle gives only {margin:.1f} times {complete.craft.margin_over}:"
            f" {'a dive is pulled out too low' if complete.craft.wing is None else 'it hardly climbs any more'}."
            f" {wanted:g} times are there until {until}.",
            "design.recipe.series_count",
        )


def _switch_on(complete: CompleteDesign, answer: Answer) -> Iterator[Finding]:
    """Loads that draw more while they start, before take-off: the volts must keep all of them up."""
    for place, load in enumerate(complete.craft.loads):
        if load.startup_w <= load.power_w:
            continue
        watts = complete.craft.load_w - load.bus_power_w + load.startup_w
        volts = float(voltage_under_power(answer.at_rest.volts, answer.at_rest.ohm, np.array([watts]))[0])
        stopped = [other for other in complete.craft.loads if volts < other.least_bus_v]
        if stopped:
            yield over(
                f"{load.name} draws {load.startup_w:.0f} W at switch-on: the pack gives {volts:.1f} V then, and"
                f" {stopped[0].name} (min {stopped[0].least_bus_v:.1f} V) restarts.",
                f"craft.loads.{place}.startup_w",
            )


def _heat(complete: CompleteDesign, answer: Answer) -> Iterator[Finding]:
    for pack in answer.packs:
        cell, cells = pack.carried.cell, pack.cells[:1].upper() + pack.cells[1:]
        cooling = pack.carried.field("design.conditions.cooling")
        if pack.hottest_c > cell.max_temperature_c:
            yield over(
                f"{cells} reach {pack.hottest_c:.0f} °C; {cell.name} may reach {cell.max_temperature_c:.0f} °C.",
                cooling,
            )
        elif pack.hottest_c > WARM_C:
            yield caution(f"{cells} reach {pack.hottest_c:.0f} °C, warm for lithium-ion.", cooling)
        if pack.coldest_c < cell.min_temperature_c:
            yield over(
                f"{cells} are at {pack.coldest_c:.0f} °C; {cell.name} may not be discharged below"
                f" {cell.min_temperature_c:.0f} °C.",
                pack.carried.field("design.conditions.pack_temperature_c"),
            )
    if complete.design.conditions.air_temperature_c < 0:
        yield caution(
            "Below 0 °C cells sag strongly: start with a warm pack, and expect more doubt in this answer.",
            "design.conditions.air_temperature_c",
        )


def outside_fit(complete: CompleteDesign, answer: Answer) -> bool:
    """Whether a fitted cell is flown outside the currents and temperatures that its fit rests on."""
    return any(True for _ in _fit_range(complete, answer))


def _fit_range(_complete: CompleteDesign, answer: Answer) -> Iterator[Finding]:
    """Nothing is extrapolated silently: a flight outside what a fitted cell was measured at says so."""
    for pack in answer.packs:
        cell, fitted = pack.carried.cell, pack.carried.cell.fitted
        if fitted is None:
            continue
        cruise = pack.currents.cruise_a * pack.build.worst_share / pack.build.recipe.parallel_count
        if cruise > fitted.highest_current_a:
            yield caution(
                f"Each cell gives {cruise:.1f} A; the fit of {cell.name} rests on at most"
                f" {fitted.highest_current_a:.1f} A. Expect more doubt, or add a faster discharge.",
                pack.carried.field("cell_type.fitted"),
            )
        if pack.coldest_c < fitted.coldest_c - FIT_MARGIN_C or pack.hottest_c > fitted.warmest_c + FIT_MARGIN_C:
            yield caution(
                f"Cells are between {pack.coldest_c:.0f} and {pack.hottest_c:.0f} °C; the fit of {cell.name} rests on"
                f" {fitted.coldest_c:.0f} to {fitted.warmest_c:.0f} °C. Expect more doubt, or add a discharge at that"
                " temperature.",
                pack.carried.field("cell_type.fitted"),
            )


def _landing(complete: CompleteDesign, answer: Answer) -> Iterator[Finding]:
    if answer.reason.ending is Ending.RESERVE_REACHED and answer.charge_left > MUCH_LEFT:
        yield caution(
            f"The landing rule ends the flight with {format_share(answer.charge_left)} of the charge unused.",
            "design.landing.policy",
        )
    if answer.reason.ending not in (Ending.RESERVE_REACHED, Ending.MISSION_COMPLETE):
        yield over(answer.reason.sentence, answer.reason.field)
    yield from _mission(complete, answer)


def _mission(complete: CompleteDesign, answer: Answer) -> Iterator[Finding]:
    """Blocks that go backwards, and blocks that the pack does not last for."""
    wind = complete.design.conditions.wind_m_s
    for place, block in enumerate(complete.mission.blocks):
        if block.kind is BlockKind.CRUISE and block.ground_speed_m_s is None and block.airspeed_m_s < wind:
            yield caution(
                f"{block.label} flies {block.airspeed_m_s:.0f} m/s through the air against {wind:.0f} m/s of wind and"
                " goes backwards.",
                f"mission.blocks.{place}.airspeed_m_s",
            )
    flown = set(answer.series.block.tolist())
    blocks = complete.mission.blocks
    missed = [n for n, block in enumerate(blocks) if n not in flown and block.kind is not BlockKind.LANDING]
    if missed:
        yield caution(
            f"{blocks[missed[0]].label}, block {missed[0] + 1} of {len(blocks)}, is not reached: the mission"
            " is longer than the pack.",
            f"mission.blocks.{missed[0]}.duration_s",
        )


def _craft(complete: CompleteDesign, answer: Answer) -> Iterator[Finding]:
    rotors = complete.craft.rotors
    if rotors.spacing_mm is not None and rotors.diameter_mm > rotors.spacing_mm:
        yield over(
            f"Propellers of {rotors.diameter_mm:.0f} mm on motors {rotors.spacing_mm:.0f} mm apart overlap; the power"
            " here is that of rotors that do not.",
            "craft.rotors.spacing_mm",
        )
    full = max(pack.recipe.series_count * pack.cell.max_voltage_v for pack in complete.carried)
    if full > complete.craft.esc.max_voltage_v:
        yield over(
            f"A full pack has {full:.1f} V; the ESC may see {complete.craft.esc.max_voltage_v:.1f} V.",
            "craft.esc.max_voltage_v",
        )
    most = complete.craft.motor.max_voltage_v
    if most is not None and full > most:
        yield over(
            f"A full pack has {full:.1f} V; the motors may see {most:.1f} V.",
            "craft.motor.max_voltage_v",
        )
    if answer.calibration and not answer.calibration.plausible:
        yield caution(
            f"The known flights ask for {answer.calibration.factor:.2f} times the power that was predicted: check their"
            " figures and the craft's.",
            "craft.known_flights",
        )
