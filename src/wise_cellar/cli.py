"""The ``wise-cellar`` command: the window, and what works without one."""

from __future__ import annotations

import argparse
import io
import json
import sys
from collections.abc import Sequence
from pathlib import Path
from typing import Any

from wise_cellar import __version__
from wise_cellar.core.documents import CompleteDesign, DocumentError, json_schema
from wise_cellar.core.units import format_minutes, format_quantity, format_share, unit_of_field

BAD_INPUT = 2


def main(arguments: Sequence[str] | None = None) -> int:
    """Run the command; returns the exit status: 0, or 2 with one sentence on standard error for bad input."""
    given = list(sys.argv[1:] if arguments is None else arguments)
    commands = {
        "predict": _predict, "compare": _compare, "charge": _charge, "fit": _fit, "schema": _schema,
        "screenshots": _screenshots,
    }  # fmt: skip
    from wise_cellar.store import WorkspaceError

    # What cannot be written in the terminal's encoding is written as a question mark.
    for stream in (sys.stdout, sys.stderr):
        if isinstance(stream, io.TextIOWrapper):
            stream.reconfigure(errors="replace")
    try:
        if given and given[0] in commands:
            return commands[given[0]](given[1:])
        return _window(given)
    except (DocumentError, WorkspaceError) as error:
        print(error, file=sys.stderr)
        return BAD_INPUT


def _predict(arguments: list[str]) -> int:
    parser = argparse.ArgumentParser(prog="wise-cellar predict", description="Fly an exported design.")
    parser.add_argument("file", type=Path, help="a design exported from Wise Cellar")
    parser.add_argument("--json", action="store_true", help="print the answer as JSON")
    options = parser.parse_args(arguments)
    from wise_cellar.cli_input import read_design

    report = _report(read_design(options.file, "predict"))
    print(json.dumps(_rounded(report), indent=2, ensure_ascii=False) if options.json else _as_text(report))
    return 0


def _report(complete: CompleteDesign) -> dict[str, Any]:
    """The answer as plain values, units in the names."""
    from wise_cellar.core.flight import answer

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
            "governed_by": weak.field,
        },
        "ends_because": found.reason.ending.name.lower().replace("_", " "),
        "ends_sentence": found.reason.sentence,
        "ends_governed_by": found.reason.field,
        "charge_left": found.charge_left,
        "resting_volts_a_cell": found.resting_v,
        "hottest_c": found.hottest_c,
        "packs": [
            {
                "name": pack.carried.name,
                "cell_type": pack.carried.cell.name,
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
        f" {report['resting_volts_a_cell']:.2f} V a cell at rest, hottest cell {report['hottest_c']:.0f} °C",
    ]
    if len(report["packs"]) > 1:
        lines += [
            f"  {pack['name']}: {pack['given_mah']:.0f} mAh, {format_share(pack['charge_left'])} left, up to"
            f" {pack['cruise_a']:.1f} A at cruise"
            for pack in report["packs"]
        ]
    lines += [f"  {f['severity'].capitalize()}: {f['sentence']}" for f in report["findings"]]
    return "\n".join(lines)


def _compare(arguments: list[str]) -> int:
    from wise_cellar.cli_compare import compare

    return compare(arguments)


def _charge(arguments: list[str]) -> int:
    from wise_cellar.cli_charge import charge

    return charge(arguments)


def _fit(arguments: list[str]) -> int:
    from wise_cellar.cli_input import finite, read_told

    parser = argparse.ArgumentParser(
        prog="wise-cellar fit",
        description="Fit a cell type's model to logs of its discharges: any column names, separators and units.",
    )
    parser.add_argument("cell", type=Path, help="a cell type exported from Wise Cellar")
    parser.add_argument("curves", type=Path, nargs="+", help="discharges of that cell from full, at two rates or more")
    parser.add_argument("--out", type=Path, required=True, help="where to write the cell type with its fitted model")
    parser.add_argument("--capacity-mah", type=finite, help="capacity, where no curve takes four hours or more")
    parser.add_argument("--current-a", type=finite, help="held current, where the logs are pairs of charge and volts")
    options = parser.parse_args(arguments)
    from wise_cellar.core.documents import CellType, replaced
    from wise_cellar.core.fit import fit_cell
    from wise_cellar.store import write_exchange_file
    from wise_cellar.store.curve_files import read_discharge_curve

    found = read_told(options.cell)
    cell = found.document
    if not isinstance(cell, CellType):
        raise DocumentError(f"{options.cell.name} holds a {found.kind}; fit needs an exported cell type.")
    curves = [
        read_discharge_curve(path, cut_off_v=cell.min_voltage_v, current_a=options.current_a) for path in options.curves
    ]
    fit = fit_cell(curves, cell, capacity_mah=options.capacity_mah)
    write_exchange_file(options.out, replaced(cell, "fitted", fit.model))
    for name, residual in fit.residual_v:
        print(f"{name}: {1000 * residual:.1f} mV root mean square")
    model = fit.model
    print(
        f"Rests on up to {model.highest_current_a:g} A and {model.coldest_c:.0f} to {model.warmest_c:.0f} °C;"
        f" capacity {model.capacity_mah:.0f} mAh. Written to {options.out}."
    )
    return 0


def _schema(arguments: list[str]) -> int:
    argparse.ArgumentParser(prog="wise-cellar schema", description="Print the JSON Schema of exports.").parse_args(
        arguments
    )
    print(json.dumps(json_schema(), indent=2, ensure_ascii=False))
    return 0


def _screenshots(arguments: list[str]) -> int:
    parser = argparse.ArgumentParser(
        prog="wise-cellar screenshots", description="Save one PNG per station from the sample workspace."
    )
    parser.add_argument("folder", type=Path)
    parser.add_argument("--all", action="store_true", help="every main view, for the documentation")
    options = parser.parse_args(arguments)
    from wise_cellar.ui.screenshots import save_screenshots

    for path in save_screenshots(options.folder, every_view=options.all):
        print(path)
    return 0


def _window(arguments: list[str]) -> int:
    parser = argparse.ArgumentParser(
        prog="wise-cellar",
        description="Design lithium-ion packs for drones and see how long they fly.",
        epilog="Without a window: wise-cellar predict, compare, charge, fit, schema, screenshots (each with --help).",
    )
    parser.add_argument("workspace", nargs="?", type=Path, help="the workspace file to open")
    parser.add_argument("--demo", action="store_true", help="open the sample workspace")
    parser.add_argument("--version", action="version", version=__version__)
    options = parser.parse_args(arguments)
    from wise_cellar.ui.application import run

    return run(options.workspace, demo=options.demo)
