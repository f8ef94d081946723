"""From the columns of a table to one discharge, with words for everything that was understood on the way."""

from __future__ import annotations

from collections.abc import Mapping, Sequence
from dataclasses import dataclass

import numpy as np

from wise_cellar.core.curves.columns import LogColumn, Role, check_columns, measurable
from wise_cellar.core.curves.curve import DischargeCurve
from wise_cellar.core.documents import DocumentError, OcvTable
from wise_cellar.core.physics.arrays import ZERO_CELSIUS_K, Bools, Floats
from wise_cellar.core.units import (
    TOLD,
    counted,
    format_amps,
    format_celsius,
    format_number,
    format_significant,
    format_volts,
)

REST_SHARE = 0.02
"""Currents below this share of the greatest are taken for rest."""
LEAST_CELL_V, MOST_CELL_V = 0.3, 5.0
COLDEST_C, HOTTEST_C = -60.0, 150.0
MOST_A, LONGEST_S = 5000.0, 1e8
KEPT_POINTS = 50_000


@dataclass(frozen=True)
class Circumstances:
    """What the file does not say."""

    name: str
    current_a: float | None = None
    """Held current, where no column gives one."""
    air_temperature_c: float = 25.0
    cells_in_series: int = 1
    """The logged volts are those of so many cells."""


@dataclass(frozen=True)
class Assembled:
    """A discharge and the sentences on how it was read."""

    curve: DischargeCurve
    remarks: tuple[str, ...]


@dataclass(frozen=True)
class RestingTable:
    """A table of resting voltage and the sentences on how it was read."""

    table: OcvTable
    remarks: tuple[str, ...] = ()


def assemble(
    columns: Sequence[LogColumn], figures: Mapping[Role, Floats], given: Circumstances, cut_off_v: float
) -> Assembled:
    """Discharge from the figures of each role, as they stand in the file.

    Raises :class:`DocumentError` with one sentence: text and gaps, time that runs backwards, a charge in place of a
    discharge, no current. A discharge that ends above ``cut_off_v`` is taken, with a remark.
    """
    check_columns(columns)
    values: dict[Role, Floats] = {
        c.role: _converted(c, figures[c.role], given.name) for c in columns if c.role is not Role.IGNORED
    }
    if not len(values[Role.VOLTAGE]):
        raise DocumentError(f"{given.name} has no rows of figures; a discharge needs some.")
    _check_held(given)
    remarks: list[str] = []
    volts = values[Role.VOLTAGE] / given.cells_in_series
    if given.cells_in_series > 1:
        remarks.append(f"Volts are of {given.cells_in_series} cells in series, and divided by that.")
    _check_volts(volts, given)
    current = _current(values, given, remarks)
    _check_amps(current, given.name)
    time = _time(values, current, given, remarks)
    _check_length(float(time[-1]), given.name)
    start, stop, sign = _discharge_span(volts, current, given.name)
    if sign < 0:
        remarks.append("Discharge is negative in the file, and was turned over.")
    if start > 0 or stop < len(volts):
        remarks.append(
            f"Rows {start + 1} to {stop} of {len(volts)} are the discharge; charging before or after it is left aside."
        )
    span = slice(start, stop)
    time, volts, current = time[span] - time[start], volts[span], np.maximum(sign * current[span], 0.0)
    if Role.TEMPERATURE in values:
        kelvin = values[Role.TEMPERATURE][span] + ZERO_CELSIUS_K
    else:
        kelvin = np.full(len(time), given.air_temperature_c + ZERO_CELSIUS_K)
        remarks.append(
            f"No temperature is logged: the cell is taken to stay at {format_celsius(given.air_temperature_c, TOLD)}."
        )
    curve = DischargeCurve(given.name, time, volts, current, kelvin)
    if len(time) > KEPT_POINTS:
        curve = curve.thinned(KEPT_POINTS)
        found, kept = (format_number(len(one), 0) for one in (time, curve.time_s))
        remarks.append(f"{found} points; {kept} of them are kept, every switch among them.")
    if float(volts[current > 0].min()) > cut_off_v + 0.05:
        remarks.append(
            f"It ends at {format_volts(float(volts[current > 0].min()))}, above the cut-off of"
            f" {format_volts(cut_off_v)}, so it does not tell the capacity."
        )
    return Assembled(curve, tuple(remarks))


def assemble_resting_table(columns: Sequence[LogColumn], figures: Mapping[Role, Floats], name: str) -> OcvTable:
    """Own table of resting voltage from columns of state of charge and volts; raises :class:`DocumentError`."""
    check_columns(columns)
    values = {c.role: _converted(c, figures[c.role], name) for c in columns if c.role in (Role.SOC, Role.VOLTAGE)}
    if Role.SOC not in values:
        raise DocumentError(f"{name} has no column of states of charge; choose the one that holds them.")
    order = np.argsort(values[Role.SOC], kind="stable")
    soc, volts = values[Role.SOC][order], values[Role.VOLTAGE][order]
    if len(soc) < 5:
        raise DocumentError(
            f"{name} has {counted(len(soc), 'state of charge', 'states of charge')};"
            " a resting table must have 5 or more."
        )
    if soc[0] > 0.005 or soc[-1] < 0.995 or soc[0] < -0.005 or soc[-1] > 1.005:
        raise DocumentError(
            f"{name} covers states of charge {format_number(soc[0], 2)} to {format_number(soc[-1], 2)} in"
            f" {len(soc)} points; a resting table must go from 0 to 1 in 5 points or more."
        )
    soc = np.clip(soc, 0.0, 1.0)
    if np.any(np.diff(soc) <= 0):
        raise DocumentError(f"{name} names a state of charge twice; each may stand once.")
    if np.any(np.diff(volts) < 0):
        place = int(np.argmax(np.diff(volts) < 0))
        raise DocumentError(
            f"{name}: the resting voltage falls from {format_number(volts[place], 3)} to"
            f" {format_volts(volts[place + 1], 3)} where charge rises; it must rise with the charge."
        )
    soc[0], soc[-1] = 0.0, 1.0
    kept = np.unique(np.linspace(0, len(soc) - 1, min(len(soc), 501)).round().astype(int))
    return OcvTable.from_data({"soc": soc[kept].tolist(), "ocv_v": volts[kept].tolist()})


def _converted(column: LogColumn, figures: Floats, name: str) -> Floats:
    gaps = np.flatnonzero(~measurable(figures))
    if gaps.size:
        raise DocumentError(
            f"{name}, row {int(gaps[0]) + 1} of the data, {column.name}: there is no number that could be measured;"
            " every row needs one, or leave the column aside."
        )
    if column.role is Role.TEMPERATURE:
        celsius = _celsius(figures, column.unit)
        wrong = np.flatnonzero((celsius < COLDEST_C) | (celsius > HOTTEST_C))
        if wrong.size:
            raise DocumentError(
                f"{name}, row {int(wrong[0]) + 1} of the data, {column.name}: {format_celsius(celsius[wrong[0]])} is no"
                " temperature of a cell; correct the unit, or leave the column aside."
            )
        return celsius
    return figures * column.factor


def _celsius(figures: Floats, unit: str) -> Floats:
    if unit == "°F":
        return (figures - 32) / 1.8
    return np.asarray(figures - ZERO_CELSIUS_K if unit == "K" else figures)


def _check_volts(volts: Floats, given: Circumstances) -> None:
    wrong = np.flatnonzero((volts < LEAST_CELL_V) | (volts > MOST_CELL_V))
    if wrong.size:
        raise DocumentError(
            f"{given.name}, row {int(wrong[0]) + 1} of the data: {format_significant(volts[wrong[0]], 3)} V is"
            " no voltage of one cell; correct the unit, the column, or the number of cells in series that were"
            " logged."
        )


def _current(values: Mapping[Role, Floats], given: Circumstances, remarks: list[str]) -> Floats:
    count = len(values[Role.VOLTAGE])
    if Role.CURRENT in values:
        return values[Role.CURRENT]
    if given.current_a is not None:
        remarks.append(f"The current is taken to be {format_amps(given.current_a, TOLD)} throughout.")
        return np.full(count, given.current_a)
    if Role.TIME in values and Role.CAPACITY in values:
        _check_rising(values[Role.TIME], given.name)
        steps = np.diff(values[Role.TIME])
        drawn = np.diff(np.abs(values[Role.CAPACITY])) * 3600
        between = np.where(steps > 0, drawn / np.where(steps > 0, steps, 1.0), 0.0)
        remarks.append("Amps follow from the charge drawn and the time.")
        return np.concatenate([between, between[-1:]])
    raise DocumentError(f"{given.name} has no column of amps: type the current at which it was discharged.")


def _time(values: Mapping[Role, Floats], current: Floats, given: Circumstances, remarks: list[str]) -> Floats:
    if Role.TIME in values:
        _check_rising(values[Role.TIME], given.name)
        return np.asarray(values[Role.TIME] - values[Role.TIME][0])
    if Role.CAPACITY not in values:
        raise DocumentError(f"{given.name} has neither time nor charge drawn; a discharge needs one of them.")
    drawn = np.abs(values[Role.CAPACITY])
    backwards = np.flatnonzero(np.diff(drawn) < 0)
    if backwards.size:
        raise DocumentError(
            f"{given.name}: the charge drawn falls at row {int(backwards[0]) + 2} of the data; it must rise."
        )
    between = 0.5 * (np.abs(current[1:]) + np.abs(current[:-1]))
    if np.any(between <= 0):
        raise DocumentError(f"{given.name} gives no time, so its current may not be zero anywhere.")
    remarks.append("Time follows from the charge drawn and the current.")
    return np.concatenate([np.zeros(1), np.cumsum(np.diff(drawn) * 3600 / between)])


def _check_held(given: Circumstances) -> None:
    if given.current_a is not None and not 0 < given.current_a <= MOST_A:
        raise DocumentError(
            f"{format_amps(given.current_a, TOLD)} is no current that a cell is discharged with; type one of"
            f" up to {format_amps(MOST_A, TOLD)}."
        )


def _check_amps(current: Floats, name: str) -> None:
    beyond = np.flatnonzero(np.abs(current) > MOST_A)
    if beyond.size:
        raise DocumentError(
            f"{name}, row {int(beyond[0]) + 1} of the data: {format_significant(current[beyond[0]], 3)} A"
            " is no current of one cell; correct the unit or the column."
        )


def _check_length(seconds: float, name: str) -> None:
    if not 0 < seconds <= LONGEST_S:
        raise DocumentError(
            f"{name}: time goes on by {format_significant(seconds, 3)} s from the first row to the last,"
            " so it holds no discharge; correct the column or the unit of time."
        )


def _check_rising(time: Floats, name: str) -> None:
    backwards = np.flatnonzero(np.diff(time) < 0)
    if backwards.size:
        at = int(backwards[0])
        raise DocumentError(
            f"{name}: time runs backwards at row {at + 2} of the data, from {format_significant(time[at])} to"
            f" {format_significant(time[at + 1])} s; it must rise."
        )


def _discharge_span(volts: Floats, current: Floats, name: str) -> tuple[int, int, float]:
    """First and last row (exclusive) of the discharge, and the sign of its current."""
    most = float(np.abs(current).max())
    if most <= 0:
        raise DocumentError(
            f"{name} draws no current; a discharge needs one, or type the current if it was not logged."
        )
    positive, negative = current > REST_SHARE * most, current < -REST_SHARE * most
    sign = 1.0
    if positive.any() and negative.any():
        # Of the two, the one under which the voltage falls discharges.
        change = np.diff(volts)
        sign = 1.0 if float(change[positive[1:]].sum()) < float(change[negative[1:]].sum()) else -1.0
    elif negative.any():
        sign = -1.0
    drawing = positive if sign > 0 else negative
    charging = negative if sign > 0 else positive
    start, stop = _longest_without(charging, drawing)
    active = np.flatnonzero(drawing[start:stop]) + start
    first, last = float(volts[active[0]]), float(volts[active[-1]])
    if last >= first:
        raise DocumentError(
            f"{name} is a charge, not a discharge: its voltage goes from {format_number(first, 2)} to"
            f" {format_volts(last)}. Import the discharge."
        )
    return start, stop, sign


def _longest_without(charging: Bools, drawing: Bools) -> tuple[int, int]:
    """The stretch without charging that draws for most rows."""
    edges = np.flatnonzero(np.diff(np.concatenate([[True], charging, [True]]).astype(int)))
    best = (0, len(charging))
    if charging.any():
        stretches = list(zip(edges[::2], edges[1::2], strict=False))
        best = max(stretches, key=lambda s: int(drawing[s[0] : s[1]].sum()))
    return int(best[0]), int(best[1])
