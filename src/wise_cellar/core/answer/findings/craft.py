"""What to be careful about in the craft: its propellers, the volts that it may see, what it was seen to do."""

from __future__ import annotations

from collections.abc import Iterator

from wise_cellar.core.answer.limits import full_bus_v
from wise_cellar.core.answer.result import Answer, Finding, caution, over
from wise_cellar.core.documents import CompleteDesign


def craft_findings(complete: CompleteDesign, answer: Answer) -> Iterator[Finding]:
    """Overlapping propellers, too many volts, known flights that cannot be."""
    rotors = complete.craft.rotors
    if rotors.spacing_mm is not None and rotors.diameter_mm > rotors.spacing_mm:
        yield over(
            f"Propellers of {rotors.diameter_mm:.0f} mm on motors {rotors.spacing_mm:.0f} mm apart overlap; the power"
            " here is that of rotors that do not.",
            "craft.rotors.spacing_mm",
        )
    full = max(float(full_bus_v(pack.recipe.series_count, pack.cell.max_voltage_v)) for pack in complete.packs)
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
