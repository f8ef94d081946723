"""``wise-cellar predict``: the answer for an exported design."""

from __future__ import annotations

import argparse
import json
from pathlib import Path
from typing import Any

from wise_cellar.cli.given import read_design
from wise_cellar.core.answer import answer
from wise_cellar.core.documents import CompleteDesign
from wise_cellar.core.units import format_minutes, format_quantity, format_share, unit_of_field


def run(arguments: list[str]) -> int:
    """Print the answer; returns the exit status."""
    parser = argparse.ArgumentParser(prog="wise-cellar predict", description="Fly an exported design.")
    parser.add_argument("file", type=Path, help="a design exported from Wise Cellar")
    parser.add_argument("--json", action="store_true", help="print the answer as JSON")
    options = parser.parse_args(arguments)
    report = _report(read_design(options.file, "predict"))
    print(json.dumps(_rounded(report), indent=2, ensure_ascii=False) if options.json else _as_text(report))
    return 0


def _report(complete: CompleteDesign) -> dict[str, Any]:
    """The answer as plain values, units in the names."""
    found = answer(complete)
    weak = found.weak_link

    def punch(burst: Any) -> dict[str, float]:
        return {
            "volts_a_cell": burst.volts_a_cell,
            "amps_a_cell": burst.amps_a_cell,
            "thrust_margin": burst.thrust_margin,
        }

    return {
        "design": complete.design.name,
        "duration_s": found.duration_s,
        "duration_governed_by": found.duration_field,
        "takeoff_mass_g": found.takeoff_mass_g,
        "takeoff_mass_governed_by": found.mass_field,
        "pack_mass_g": found.build.mass_g,
        "punch_s": found.punch_s,
        "early_punch": punch(found.early_punch),
        "late_punch": punch(found.late_punch),
        "punch_governed_by": found.punch_field,
        "weak_link": {
            "name": weak.name,
            "cruise_share": weak.cruise_share,
            "punch_share": weak.punch_share,
            "flight_share": weak.flown_share,
            "governed_by": weak.field,
        },
        "ends_because": found.reason.ending.name.lower().replace("_", " "),
        "ends_sentence": found.reason.sentence,
        "ends_governed_by": found.reason.field,
        "charge_left": found.charge_left,
        "resting_volts_a_cell": found.resting_v,
        "hottest_c": found.hottest_c,
        "inside_c": found.inside_c,
        "packs": [
            {
                "name": pack.complete.name,
                "cell_type": pack.complete.cell.name,
                "mass_g": pack.build.mass_g,
                "given_mah": pack.given_mah,
                "charge_left": pack.charge_left,
                "cruise_a": pack.currents.cruise_a,
                "taken_a": pack.taken_a,
                "resting_volts_a_cell": pack.resting_v,
                "hottest_c": pack.hottest_c,
            }
            for pack in found.packs
        ],
        "calibration_factor": found.factor,
        "findings": [
            {"severity": str(f.severity), "sentence": f.sentence, "governed_by": f.field} for f in found.findings
        ],
    }


def _rounded(value: Any) -> Any:
    """Plain values with numbers of six digits, which is more than any of them is good for."""
    if isinstance(value, dict):
        return {key: _rounded(inner) for key, inner in value.items()}
    if isinstance(value, list):
        return [_rounded(inner) for inner in value]
    return float(f"{value:.6g}") if isinstance(value, float) else value


def _as_text(report: dict[str, Any]) -> str:
    grams = unit_of_field("mass_g")
    weak, late = report["weak_link"], report["late_punch"]
    lines = [
        report["design"],
        f"  In the air     {format_minutes(report['duration_s'])}",
        f"  Take-off mass  {format_quantity(round(report['takeoff_mass_g']), grams)}"
        f" (pack {format_quantity(round(report['pack_mass_g']), grams)})",
        f"  First punch    {report['early_punch']['volts_a_cell']:.2f} V a cell",
        f"  Late punch     {late['volts_a_cell']:.2f} V a cell, thrust margin {late['thrust_margin']:.1f}",
        f"  Weakest link   {weak['name']}: {format_share(weak['cruise_share'])} of its limit at cruise,"
        f" {format_share(weak['punch_share'])} at punch",
        f"  Ends because   {report['ends_sentence']}",
        f"  After landing  {format_share(report['charge_left'])} of the charge left,"
        f" {report['resting_volts_a_cell']:.2f} V a cell at rest, hottest cell {report['hottest_c']:.0f} °C,"
        f" {report['inside_c']:.0f} inside",
    ]
    if len(report["packs"]) > 1:
        lines += [
            f"  {pack['name']}: {pack['given_mah']:.0f} mAh, {format_share(pack['charge_left'])} left, up to"
            f" {pack['cruise_a']:.1f} A at cruise"
            for pack in report["packs"]
        ]
    lines += [f"  {f['severity'].capitalize()}: {f['sentence']}" for f in report["findings"]]
    return "\n".join(lines)
