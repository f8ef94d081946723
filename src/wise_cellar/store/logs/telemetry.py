"""Telemetry logs of MAVLink, by pymavlink."""

from __future__ import annotations

from pathlib import Path
from typing import Any

import numpy as np

from wise_cellar.core.documents import DocumentError
from wise_cellar.core.logbook.joining import Piece
from wise_cellar.store.curve_files import CancelledError
from wise_cellar.store.logs.common import Progress, damaged, made, quietly
from wise_cellar.store.reading import told

UNKNOWN_MV, UNKNOWN_CELSIUS = 65535, 32767


def read_telemetry(path: Path, progress: Progress) -> Piece:
    """What a telemetry log tells of a flight; raises :class:`DocumentError`."""
    from pymavlink import mavutil

    rows: dict[str, list[tuple[float, float]]] = {}
    systems: set[int] = set()
    try:
        with quietly():
            link = mavutil.mavlogfile(str(path), notimestamps=False)
            try:
                _listen(link, rows, systems, progress)
            finally:
                link.close()
    except CancelledError:
        raise
    except Exception as error:
        raise damaged(path, "telemetry", type(error).__name__) from error
    if not {"volts", "amps"} <= rows.keys():
        raise DocumentError(f"{told(path.name)} tells of no battery with volts and amps.")
    series = {}
    for field, values in rows.items():
        table = np.array(values)
        series[field] = table[:, 0], table[:, 1]
    remarks = () if len(systems) < 2 else (f"{len(systems)} crafts speak in this log; the first is heard.",)
    return made(path, series, None, remarks)


def _listen(link: Any, rows: dict[str, list[tuple[float, float]]], systems: set[int], progress: Progress) -> None:
    wanted = ["SYS_STATUS", "BATTERY_STATUS", "VFR_HUD"]
    heard = 0
    while (message := link.recv_match(type=wanted)) is not None:
        heard += 1
        if heard % 2000 == 0 and not progress(min(float(getattr(link, "percent", 50.0)) / 100, 1.0)):
            raise CancelledError
        systems.add(message.get_srcSystem())
        if message.get_srcSystem() != next(iter(systems)) and len(systems) > 1:
            continue
        at, kind = float(message._timestamp), message.get_type()
        told_: dict[str, float] = {}
        if kind == "SYS_STATUS":
            if message.voltage_battery != UNKNOWN_MV:
                told_["volts"] = message.voltage_battery * 1e-3
            if message.current_battery >= 0:
                told_["amps"] = message.current_battery * 1e-2
        elif kind == "BATTERY_STATUS" and message.id == 0:
            if message.current_consumed >= 0:
                told_["charge_mah"] = float(message.current_consumed)
            if message.temperature != UNKNOWN_CELSIUS:
                told_["celsius"] = message.temperature * 1e-2
        elif kind == "VFR_HUD":
            told_ = {"airspeed_m_s": message.airspeed, "ground_speed_m_s": message.groundspeed,
                     "throttle": message.throttle * 1e-2, "height_m": message.alt}  # fmt: skip
        for field, value in told_.items():
            rows.setdefault(field, []).append((at, value))
