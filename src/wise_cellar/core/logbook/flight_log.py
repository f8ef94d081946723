"""What a flight left behind: volts and amps over time, and whatever else was told."""

from __future__ import annotations

from collections.abc import Mapping, Sequence
from dataclasses import dataclass, fields

import numpy as np

from wise_cellar.core.curves import LogColumn, Role
from wise_cellar.core.documents import DocumentError, RecordedChannel
from wise_cellar.core.physics.arrays import Bools, Floats
from wise_cellar.core.units import counted, format_significant

LEAST_ROWS = 20
GROUP = "group-"
"""What the quantity of a group's volts begins with; its number follows, from 1."""
OF_ROLE = {
    Role.VOLTAGE: "volts", Role.CURRENT: "amps", Role.CAPACITY: "charge_mah", Role.TEMPERATURE: "celsius",
    Role.THROTTLE: "throttle", Role.AIRSPEED: "airspeed_m_s", Role.GROUND_SPEED: "ground_speed_m_s",
    Role.HEIGHT: "height_m",
}  # fmt: skip
OF_QUANTITY = {
    "volts": ("volts", 1.0), "amps": ("amps", 1.0), "charge": ("charge_mah", 1.0), "temperature": ("celsius", 1.0),
    "throttle": ("throttle", 0.01), "speed": ("ground_speed_m_s", 1.0),
    "airspeed": ("airspeed_m_s", 1.0), "altitude": ("height_m", 1.0),
}  # fmt: skip
"""Of what instruments tell: the field, and what it is times to come into it."""


@dataclass(frozen=True)
class FlightLog:
    """Rows of one log in order, every array but the last of shape ``(rows,)``; not a number where nothing was told."""

    time_s: Floats
    """From its first row."""
    volts: Floats
    """Of the pack."""
    amps: Floats
    """Out of it, as the sensor told them."""
    charge_mah: Floats
    """By the counter on board."""
    celsius: Floats
    throttle: Floats
    """Share of one."""
    airspeed_m_s: Floats
    ground_speed_m_s: Floats
    height_m: Floats
    groups_v: Floats
    """(rows, groups) Of single groups, from the negative end; no columns where none was told."""

    def __len__(self) -> int:
        return len(self.time_s)

    def of(self, rows: Bools) -> FlightLog:
        """Some of its rows, with their times."""
        return FlightLog(*(getattr(self, field.name)[rows] for field in fields(self)))

    def between(self, start_s: float, end_s: float) -> FlightLog:
        """The rows from one second to another."""
        return self.of((self.time_s >= start_s) & (self.time_s < end_s))

    @property
    def speed_m_s(self) -> Floats:
        """Through the air where that was told, else over ground."""
        return self.airspeed_m_s if np.isfinite(self.airspeed_m_s).any() else self.ground_speed_m_s

    def drawn_mah(self) -> float:
        """By its own amps; a gap is bridged straight."""
        return float(np.trapezoid(self.amps, self.time_s)) / 3.6


def log_of_figures(
    columns: Sequence[LogColumn], figures: Mapping[Role, Floats], name: str, groups_v: Floats | None = None
) -> FlightLog:
    """A log from a table's columns, with the volts of its groups where they were read; raises
    :class:`DocumentError` with one sentence."""
    units = {column.role: column for column in columns}
    missing = [str(role) for role in (Role.TIME, Role.VOLTAGE, Role.CURRENT) if role not in figures]
    if missing:
        raise DocumentError(f"{name} tells no {' and no '.join(missing)}; a flight needs time, volts and amps.")
    told: dict[str, Floats] = {}
    for role, field in OF_ROLE.items():
        if role not in figures:
            continue
        if role is Role.TEMPERATURE:
            told[field] = _celsius(figures[role], units[role].unit)
        else:
            told[field] = figures[role] * units[role].factor * (1000.0 if role is Role.CAPACITY else 1.0)
    if groups_v is not None:
        told["groups_v"] = groups_v
    return _log(figures[Role.TIME] * units[Role.TIME].factor, told, name)


def log_of_rows(quantities: Sequence[str], rows: Floats, name: str) -> FlightLog:
    """A log from what was recorded live. Quantities may have been told one after the other: the others are as last
    told. Raises :class:`DocumentError`."""
    missing = [wanted for wanted in ("volts", "amps") if wanted not in quantities]
    if missing:
        raise DocumentError(f"{name} tells no {' and no '.join(missing)}; a flight needs volts and amps.")
    told = {}
    for place, quantity in enumerate(quantities, 1):
        if quantity in OF_QUANTITY:
            field, factor = OF_QUANTITY[quantity]
            told[field] = factor * _as_last_told(rows[:, place])
    groups = [place for place, quantity in enumerate(quantities, 1) if quantity.startswith(GROUP)]
    if groups:
        told["groups_v"] = np.stack([_as_last_told(rows[:, place]) for place in groups], axis=1)
    there = np.isfinite(rows[:, 1 + list(quantities).index("amps")])
    return _log(rows[there, 0], {field: values[there] for field, values in told.items()}, name)


def log_of_series(series: Mapping[str, tuple[Floats, Floats]], name: str) -> tuple[FlightLog, float]:
    """A log from fields that were told each at seconds of its own, and the second at which it begins: a row where amps
    were told, the others between what was told before and after. Raises :class:`DocumentError`."""
    missing = [wanted for wanted in ("volts", "amps") if wanted not in series]
    if missing:
        raise DocumentError(f"{name} tells no {' and no '.join(missing)}; a flight needs volts and amps.")
    time_s, amps = series["amps"]
    order = np.argsort(time_s, kind="stable")
    time_s, amps = time_s[order], amps[order]
    told = {"amps": amps}
    for field, (seconds, values) in series.items():
        there = np.isfinite(values)
        if field != "amps" and there.any():
            sorted_ = np.argsort(seconds[there], kind="stable")
            told[field] = np.interp(time_s, seconds[there][sorted_], values[there][sorted_])
    if "volts" not in told:
        raise DocumentError(f"{name} tells no volts that are numbers.")
    return _log(time_s, told, name), float(time_s[0]) if len(time_s) else 0.0


def _as_last_told(values: Floats) -> Floats:
    last = np.maximum.accumulate(np.where(np.isfinite(values), np.arange(len(values)), 0))
    return values[last]


def _celsius(figures: Floats, unit: str) -> Floats:
    if unit == "°F":
        return (figures - 32.0) / 1.8
    return figures - 273.15 if unit == "K" else figures


def _log(time_s: Floats, told: Mapping[str, Floats], name: str) -> FlightLog:
    if len(time_s) < LEAST_ROWS:
        raise DocumentError(f"{name} has {counted(len(time_s), 'row')}; a flight needs at least {LEAST_ROWS}.")
    back = np.flatnonzero(np.diff(time_s) < 0)
    if back.size:
        at = int(back[0])
        raise DocumentError(
            f"{name}, row {at + 2}: its clock goes back, from {format_significant(float(time_s[at]))} s to"
            f" {format_significant(float(time_s[at + 1]))} s; cut it there."
        )
    kept = np.isfinite(told["volts"]) & np.isfinite(told["amps"]) & np.isfinite(time_s)
    kept &= np.concatenate([[True], np.diff(time_s) > 0])
    if np.count_nonzero(kept) < LEAST_ROWS:
        raise DocumentError(f"{name}: its clock stands still, or it tells no volts with amps.")
    none = {"groups_v": np.zeros((len(time_s), 0))}
    nothing = np.full(len(time_s), np.nan)
    values = {
        field.name: told.get(field.name, none.get(field.name, nothing))[kept]
        for field in fields(FlightLog)
        if field.name != "time_s"
    }
    return FlightLog(time_s=time_s[kept] - time_s[kept][0], **values)


def rows_of(log: FlightLog) -> tuple[tuple[RecordedChannel, ...], Floats]:
    """A log as it is recorded: its channels, and its rows, (rows, 1 + channels), seconds first."""
    told = [(name, *of) for name, of in OF_QUANTITY.items() if np.isfinite(getattr(log, of[0])).any()]
    channels = [RecordedChannel(quantity=name, unit=UNITS[name]) for name, _, _ in told]
    columns = [getattr(log, field) / factor for _, field, factor in told]
    groups = range(log.groups_v.shape[1])
    channels += [RecordedChannel(quantity=f"{GROUP}{place + 1}", unit="V") for place in groups]
    return tuple(channels), np.stack([log.time_s, *columns, *log.groups_v.T], axis=1)


UNITS = {
    "volts": "V", "amps": "A", "charge": "mAh", "temperature": "°C", "throttle": "%", "speed": "m/s",
    "airspeed": "m/s", "altitude": "m",
}  # fmt: skip
"""That recordings keep these in."""
