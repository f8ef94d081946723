"""``wise-cellar log``: a flight that was logged, cut into phases and held against an exported design."""

from __future__ import annotations

import argparse
import json
import math
from pathlib import Path
from typing import Any

from wise_cellar.cli.given import add_units, command_parser, finite, read_design, rounded, whole
from wise_cellar.core.documents import DocumentError
from wise_cellar.core.logbook import FlownFlight, Noted, Phase, flown_flight
from wise_cellar.core.logbook.apart import Apart
from wise_cellar.core.logbook.entries import against_plan
from wise_cellar.core.units import format_amps, format_mah, format_minutes, format_volts, format_watts
from wise_cellar.store.logs import read_flights


def parser() -> argparse.ArgumentParser:
    """What it is told."""
    parser = command_parser(
        "log", "Hold a logged flight against a design.", "flight.csv --design whimbrel.json --returned 7150"
    )
    parser.add_argument(
        "file", type=Path, nargs="+",
        help="a table (CSV) with time, volts and amps, a ULog, a DataFlash or telemetry log; pieces of one flight, and"
        " its GPX track beside it",
    )  # fmt: skip
    parser.add_argument("--design", type=Path, required=True, help="the design that flew, exported from Wise Cellar")
    parser.add_argument("--returned", type=finite, metavar="MAH", help="what the charger put back after the whole log")
    parser.add_argument("--flight", type=whole, default=1, help="which of several flights in the log, from 1")
    parser.add_argument(
        "--start", type=finite, default=None, metavar="PERCENT", help="charge at take-off; else the design's"
    )
    parser.add_argument("--json", action="store_true", help="print it as JSON")
    add_units(parser)
    return parser


def run(arguments: list[str]) -> int:
    """Print what was flown and what it teaches; returns the exit status. Raises :class:`DocumentError`."""
    options = parser().parse_args(arguments)
    if options.flight < 1 or (options.returned is not None and options.returned <= 0):
        raise DocumentError("--flight counts from 1, and --returned is more than 0 mAh.")
    pieces = read_flights(options.file)
    if len(pieces) > 1:
        names = ", ".join(piece.name for piece in pieces)
        raise DocumentError(f"These are logs of several flights ({names}): hold one against the design at a time.")
    complete = read_design(options.design, "log")
    if options.start is not None:
        complete = complete.with_pack(state=complete.pack.state.changed(start_charge_percent=options.start))
    noted = Noted(options.returned, options.flight - 1, complete.craft.sensor)
    found = flown_flight(pieces[0].log, complete, noted)
    parts = against_plan(found, complete)
    remarks = pieces[0].remarks
    if options.json:
        print(json.dumps(rounded(_report(found, parts, remarks)), indent=2, ensure_ascii=False))
    else:
        print(_text(found, parts, remarks))
    return 0


def _text(found: FlownFlight, parts: Apart, remarks: tuple[str, ...]) -> str:
    planned, flown = format_minutes(parts.first_s), format_minutes(parts.last_s)
    lines = [*found.sentences(), *remarks, "", f"{planned} planned, {flown} flown:", *parts.sentences(), ""]
    for phase, expected in zip(found.phases, found.expected, strict=True):
        usual = "" if math.isnan(expected.watts) else f", {format_watts(expected.watts)} expected"
        lines.append(
            f"{phase.kind:14} {format_minutes(phase.from_s)} to {format_minutes(phase.to_s)}:"
            f" {format_watts(phase.watts)}{usual}, {format_amps(phase.amps)}, {format_volts(phase.volts)},"
            f" {format_mah(phase.mah)}"
        )
    return "\n".join(lines)


def _report(found: FlownFlight, parts: Apart, remarks: tuple[str, ...]) -> dict[str, Any]:
    return {
        "take_off_s": found.took_off_s,
        "landing_s": found.landed_s,
        "seconds": found.seconds,
        "drawn_mah": found.drawn_mah,
        "sensor": None if found.sensor is None else {
            "scale": found.sensor.scale, "offset_a": found.sensor.offset_a,
            "scale_doubt": found.sensor.scale_doubt,
        },
        "learned": [
            {"name": one.name, "share": one.share, "doubt": one.doubt, "told": one.told}
            for one in found.learned
        ],
        "phases": [
            {**_phase(phase), "expected_w": expected.watts}
            for phase, expected in zip(found.phases, found.expected, strict=True)
        ],
        "minutes": {
            "planned_s": parts.first_s, "flown_s": parts.last_s, "not_explained_s": parts.left_s,
            "parts": [{"name": part.name, "seconds": part.seconds, "words": part.words} for part in parts.parts],
        },
        "volts_offset_v": None if found.volts_offset is None else found.volts_offset[0],
        "remarks": [*found.remarks, *remarks],
    }  # fmt: skip


def _phase(phase: Phase) -> dict[str, Any]:
    told = {
        "from_s": phase.from_s, "to_s": phase.to_s, "watts": phase.watts, "amps": phase.amps, "volts": phase.volts,
        "least_v": phase.least_v, "throttle": phase.throttle, "speed_m_s": phase.speed_m_s,
        "climb_m_s": phase.climb_m_s, "mah": phase.mah, "wh": phase.wh,
    }  # fmt: skip
    return {"kind": str(phase.kind)} | told
