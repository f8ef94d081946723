"""``wise-cellar predict``: the answer for exported designs, with its range, what drives it, and its traces."""

from __future__ import annotations

import argparse
import json
from pathlib import Path
from typing import Any

from wise_cellar.cli.given import add_units, command_parser, read_design, rounded
from wise_cellar.core.answer import Answer, PackAnswer, PunchAnswer, Spread, answer, spread
from wise_cellar.core.csv_text import csv_text
from wise_cellar.core.documents import CompleteDesign
from wise_cellar.core.pack import Link
from wise_cellar.core.propulsion import handling
from wise_cellar.core.propulsion.handling import AXES
from wise_cellar.core.units import (
    bare_number,
    format_amps,
    format_celsius,
    format_grams,
    format_mah,
    format_minutes,
    format_number,
    format_share,
    format_volts,
    of_limit,
)
from wise_cellar.core.words import upper_first
from wise_cellar.store.reading import write_whole

DRIVERS_TOLD = 3


def parser() -> argparse.ArgumentParser:
    """What it is told."""
    parser = command_parser("predict", "Fly exported designs.", "whimbrel.json dunlin.json")
    parser.add_argument("files", type=Path, nargs="+", metavar="file", help="a design exported from Wise Cellar")
    parser.add_argument("--json", action="store_true", help="print the answer as JSON, of several files a list")
    parser.add_argument("--traces", type=Path, metavar="CSV", help="write the traces of one design as a table")
    add_units(parser)
    return parser


def run(arguments: list[str]) -> int:
    """Print the answer, or a table of several; returns the exit status."""
    options = parser().parse_args(arguments)
    if options.traces is not None and len(options.files) > 1:
        parser().error("--traces holds the traces of one design: name one file.")
    reports = []
    for path in options.files:
        complete = read_design(path, "predict")
        found = answer(complete)
        reports.append(_report(complete, found, spread(complete, found)))
        if options.traces is not None:
            write_whole(options.traces, traces_csv(found))
    if options.json:
        print(json.dumps(rounded(reports if len(reports) > 1 else reports[0]), indent=2, ensure_ascii=False))
    else:
        print(_as_table(reports) if len(reports) > 1 else _as_text(reports[0]))
    return 0


def traces_csv(found: Answer) -> str:
    """Every recorded point of a flight, units in the names."""
    series = found.series
    columns = {
        "time_s": series.time_s, "block": series.block + 1, "volts_a_cell": series.loaded_v,
        "resting_volts_a_cell": series.resting_v, "amps": series.pack_a, "throttle": series.throttle,
        "hottest_c": series.temperature_c, "charge_used_mah": series.charge_used_mah,
        "thrust_margin": series.thrust_margin, "volts_a_cell_in_a_burst": series.punch_v,
    }  # fmt: skip
    for place, pack in enumerate(found.packs if len(found.packs) > 1 else (), 1):
        columns |= {f"pack_{place}_amps": pack.series.amps, f"pack_{place}_volts_a_cell": pack.series.cell_v,
                    f"pack_{place}_charge": pack.series.soc}  # fmt: skip
    rows = zip(*([f"{value:.7g}" for value in values] for values in columns.values()), strict=True)
    return csv_text([tuple(columns), *rows])


def _report(complete: CompleteDesign, found: Answer, around: Spread) -> dict[str, Any]:
    """The answer as plain values, units in the names."""
    return {
        "design": complete.design.name,
        "where": found.where,
        "duration_s": found.duration_s,
        "other_end": None
        if found.other_end is None
        else {
            "by": found.other_end.words,
            "duration_s": found.other_end.duration_s,
            "calls": found.other_end.called,
        },
        "other_end_words": found.other_end_words,
        "given_mah": found.given_mah,
        "given_wh": found.energy_used_wh,
        **_range(around),
        "duration_governed_by": found.duration_field,
        "takeoff_mass_g": found.takeoff_mass_g,
        "takeoff_mass_governed_by": found.mass_field,
        "pack_mass_g": found.build.mass_g,
        "punch_s": found.punch_s,
        "early_punch": _punch(found.early_punch),
        "late_punch": _punch(found.late_punch),
        "punch_governed_by": found.punch_field,
        "weak_link": _link(found.weak_link),
        "ends_because": found.reason.ending.name.lower().replace("_", " "),
        "ends_sentence": found.reason.sentence,
        "ends_governed_by": found.reason.field,
        "charge_left": found.charge_left,
        "volts_a_cell_after_10_s": found.soon_v,
        "volts_a_cell_after_an_hour": found.hour_v,
        "resting_volts_a_cell": found.resting_v,
        "hover_left_s": found.hover_left_s,
        "hottest_c": found.hottest_c,
        "inside_c": found.inside_c,
        "handling": _handling(complete, found),
        "packs": [_pack(pack) for pack in found.packs],
        "calibration_factor": found.factor,
        "findings": [
            {"severity": str(f.severity), "sentence": f.sentence, "governed_by": f.field} for f in found.findings
        ],
    }


def _handling(complete: CompleteDesign, found: Answer) -> dict[str, Any] | None:
    """How it turns; none of a wing."""
    turns = handling(complete, found.build)
    if turns is None:
        return None
    return {
        "against": turns.against,
        **{f"inertia_{axis}_kg_m2": value for axis, value in zip(AXES, turns.inertia_kg_m2, strict=True)},
        **{f"quickness_{axis}": value for axis, value in zip(AXES, turns.quickness, strict=True)},
        "words": turns.words,
    }


def _range(around: Spread) -> dict[str, Any]:
    best = around.best_measurement
    return {
        "duration_8_of_10_from_s": around.duration_s[0],
        "duration_8_of_10_to_s": around.duration_s[1],
        "late_punch_8_of_10_from_v": around.late_punch_v[0],
        "late_punch_8_of_10_to_v": around.late_punch_v[1],
        "drivers": [
            {
                "name": one.name,
                "doubt": one.doubt,
                "rests_on": one.because,
                "effect_s": one.effect_s,
                "once_measured_s": one.measured_s,
                "measure": one.measure,
                "governed_by": one.field,
            }
            for one in around.drivers
        ],
        "best_measurement": None if best is None else best.measure,
    }


def _punch(burst: PunchAnswer) -> dict[str, float]:
    return {
        "volts_a_cell": burst.volts_a_cell,
        "amps_a_cell": burst.amps_a_cell,
        "thrust_margin": burst.thrust_margin,
    }


def _link(weak: Link) -> dict[str, Any]:
    return {
        "name": weak.name,
        "cruise_share": weak.cruise_share,
        "punch_share": weak.punch_share,
        "flight_share": weak.flown_share,
        "governed_by": weak.field,
    }


def _pack(pack: PackAnswer) -> dict[str, Any]:
    return {
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


def _as_text(report: dict[str, Any]) -> str:
    weak, late = report["weak_link"], report["late_punch"]
    lines = [
        report["design"],
        f"  {upper_first(report['where']):<14} {format_minutes(report['duration_s'])}, 8 of 10"
        f" {format_minutes(report['duration_8_of_10_from_s'])} to {format_minutes(report['duration_8_of_10_to_s'])}",
        f"  Take-off mass  {format_grams(report['takeoff_mass_g'])} (pack {format_grams(report['pack_mass_g'])})",
        f"  First punch    {format_volts(report['early_punch']['volts_a_cell'])} a cell",
        (
            f"  Late punch     {format_volts(late['volts_a_cell'])} a cell, thrust margin"
            f" {format_number(late['thrust_margin'], 1)}"
        ),
        f"  Weakest link   {weak['name']}: {of_limit(weak['cruise_share'])} at cruise,"
        f" {format_share(weak['punch_share'])} at punch",
        f"  Ends because   {report['ends_sentence']}",
        f"  Given          {format_mah(report['given_mah'])}, {format_number(report['given_wh'], 1)} Wh",
        (
            f"  After landing  {format_share(report['charge_left'])} of the charge left,"
            f" {format_volts(report['volts_a_cell_after_10_s'])} a cell 10 s after,"
            f" {format_volts(report['volts_a_cell_after_an_hour'])} an hour after, hottest cell"
            f" {format_celsius(report['hottest_c'])}, {bare_number(report['inside_c'], '°C')} inside"
        ),
    ]
    if report["other_end_words"]:
        lines.insert(2, f"                 {report['other_end_words']}")
    if report["handling"] is not None:
        lines.append(f"  Turns          {report['handling']['words']}")
    if len(report["packs"]) > 1:
        lines += [
            f"  {pack['name']}: {format_mah(pack['given_mah'])}, {format_share(pack['charge_left'])} left, up to"
            f" {format_amps(pack['cruise_a'])} at cruise"
            for pack in report["packs"]
        ]
    lines += [
        f"  In doubt       {one['name']} {one['doubt']} ({one['rests_on']}): ± {format_minutes(one['effect_s'])}"
        for one in report["drivers"][:DRIVERS_TOLD]
    ]
    if report["best_measurement"] is not None:
        lines.append(f"  Would help     {report['best_measurement']}")
    lines += [f"  {f['severity'].capitalize()}: {f['sentence']}" for f in report["findings"]]
    return "\n".join(lines)


def _as_table(reports: list[dict[str, Any]]) -> str:
    """A line a design: minutes with their range, grams, late volts, the weakest link, how many findings."""
    heads = ("design", "minutes", "8 of 10", "take-off", "late punch", "weakest link", "over a limit", "cautions")
    rows = [heads]
    for report in reports:
        weak = report["weak_link"]
        worst = max(weak[name] for name in ("cruise_share", "punch_share", "flight_share"))
        severities = [one["severity"] for one in report["findings"]]
        low, high = (report[f"duration_8_of_10_{end}_s"] / 60 for end in ("from", "to"))
        minutes = f"{format_number(report['duration_s'] / 60, 1)} min"
        if report["where"] != "in the air":
            minutes = f"{minutes} {report['where']}"
        rows.append((
            report["design"], minutes, f"{format_number(low, 1)} to {format_number(high, 1)}",
            format_grams(report["takeoff_mass_g"]),
            format_volts(report["late_punch"]["volts_a_cell"]), f"{weak['name']} {format_share(worst)}",
            str(severities.count("over a limit")), str(severities.count("caution")),
        ))  # fmt: skip
    widths = [max(len(row[column]) for row in rows) for column in range(len(heads))]
    return "\n".join("  ".join(cell.ljust(width) for cell, width in zip(row, widths, strict=True)).rstrip()
                     for row in rows)  # fmt: skip
