"""ULog, by pyulog."""

from __future__ import annotations

from collections.abc import Mapping
from pathlib import Path
from typing import Any

import numpy as np

from wise_cellar.core.documents import DocumentError
from wise_cellar.core.logbook.joining import Piece
from wise_cellar.store.logs.common import Progress, Series, damaged, made, of_several, quietly, stop
from wise_cellar.store.reading import readable, told

_ULOG_TOPICS = (
    "battery_status", "airspeed", "airspeed_validated", "vehicle_local_position", "vehicle_thrust_setpoint",
    "actuator_motors", "actuator_controls_0", "vehicle_gps_position", "sensor_gps",
)  # fmt: skip


def read_ulog(path: Path, progress: Progress) -> Piece:
    """What a ULog tells of a flight; raises :class:`DocumentError`."""
    from pyulog import ULog

    stop(progress, 0.1)
    try:
        with readable(path, "the log"), path.open("rb") as file, quietly():
            log = ULog(file, list(_ULOG_TOPICS))
    except DocumentError:
        raise
    except (Exception, SystemExit) as error:
        raise damaged(path, "ULog", type(error).__name__) from error
    stop(progress, 0.8)
    topics: dict[str, list[Any]] = {}
    for data in log.data_list:
        topics.setdefault(data.name, []).append(data)
    batteries = sorted(topics.get("battery_status", []), key=lambda one: one.multi_id)
    flowing = [one for one in batteries if np.nanmax(np.nan_to_num(one.data.get("current_a", np.zeros(1)))) > 1.0]
    if not batteries:
        raise DocumentError(f"{told(path.name)} tells of no battery; log battery_status.")
    battery = (flowing or batteries)[0]
    series: Series = {}
    _add(series, battery, {"volts": ("voltage_v", 1.0), "amps": ("current_a", 1.0),
                           "charge_mah": ("discharged_mah", 1.0), "celsius": ("temperature", 1.0)})  # fmt: skip
    for name in ("airspeed_validated", "airspeed"):
        if "airspeed_m_s" not in series:
            _add(series, _first(topics, name), {"airspeed_m_s": ("true_airspeed_m_s", 1.0)})
    place = _first(topics, "vehicle_local_position")
    if place is not None and {"vx", "vy", "z"} <= place.data.keys():
        seconds = place.data["timestamp"] * 1e-6
        series["ground_speed_m_s"] = seconds, np.hypot(place.data["vx"], place.data["vy"]).astype(float)
        series["height_m"] = seconds, -place.data["z"].astype(float)
    _add(series, _first(topics, "vehicle_thrust_setpoint"), {"throttle": ("xyz[2]", -1.0)})
    if "throttle" not in series:
        _add(series, _first(topics, "actuator_controls_0"), {"throttle": ("control[3]", 1.0)})
    clock = next((_first(topics, name) for name in ("vehicle_gps_position", "sensor_gps") if name in topics), None)
    return made(path, series, _wall_clock(clock), of_several(len(flowing)))


def _first(topics: Mapping[str, list[Any]], name: str) -> Any:
    return min(topics.get(name, []), key=lambda one: one.multi_id, default=None)


def _add(series: Series, topic: Any, wanted: Mapping[str, tuple[str, float]]) -> None:
    if topic is None:
        return
    seconds = topic.data["timestamp"] * 1e-6
    for field, (name, factor) in wanted.items():
        if name in topic.data:
            series[field] = seconds, factor * topic.data[name].astype(float)


def _wall_clock(gps: Any) -> float | None:
    """Seconds since 1970 at the log's own nought."""
    if gps is None or "time_utc_usec" not in gps.data:
        return None
    told_ = gps.data["time_utc_usec"] > 0
    if not told_.any():
        return None
    at = int(np.flatnonzero(told_)[0])
    return float(gps.data["time_utc_usec"][at]) * 1e-6 - float(gps.data["timestamp"][at]) * 1e-6
