"""What to be careful about in the craft: its propellers, the volts that it may see, what it was seen to do."""

from __future__ import annotations

from collections.abc import Iterator

from wise_cellar.core.answer.limits import full_bus_v
from wise_cellar.core.answer.result import Answer, Finding, caution, over
from wise_cellar.core.documents import CompleteDesign
from wise_cellar.core.units import format_mm, format_number, format_volts


def craft_findings(complete: CompleteDesign, answer: Answer) -> Iterator[Finding]:
    """Overlapping propellers, too many volts, known flights that cannot be."""
    rotors = complete.craft.rotors
    if rotors.spacing_mm is not None and rotors.diameter_mm > rotors.spacing_mm:
        yield over(
            f"Propellers of {format_mm(rotors.diameter_mm)} on motors {format_mm(rotors.spacing_mm)} apart"
            " overlap; the power here is that of rotors that do not.",
            "craft.rotors.spacing_mm",
        )
    full = max(float(full_bus_v(pack.recipe.series_count, pack.cell.max_voltage_v)) for pack in complete.packs)
    if full > complete.craft.esc.max_voltage_v:
        yield over(
            f"A full pack has {format_volts(full, 1)}; the ESC may see"
            f" {format_volts(complete.craft.esc.max_voltage_v, 1)}.",
            "craft.esc.max_voltage_v",
        )
    most = complete.craft.motor.max_voltage_v
    if most is not None and full > most:
        yield over(
            f"A full pack has {format_volts(full, 1)}; the motors may see {format_volts(most, 1)}.",
            "craft.motor.max_voltage_v",
        )
    if answer.calibration and not answer.calibration.plausible:
        yield caution(
            f"The known flights ask for {format_number(answer.calibration.factor, 2)} times the power that was"
            " predicted: check their figures and the craft's.",
            "craft.known_flights",
        )
