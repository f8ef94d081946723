"""Discharges from the columns of any log, and from a printed chart."""

from __future__ import annotations

import math
from collections.abc import Sequence
from typing import Any

import numpy as np
import pytest

from wise_cellar.core.curves import (
    Circumstances,
    LogColumn,
    Role,
    assemble,
    assemble_resting_table,
    chart_values,
    check_columns,
    clock_seconds,
    guess_columns,
    traced_discharge,
)
from wise_cellar.core.documents import ChargeUnit, ChartAxis, DocumentError, TracedChart, TracedCurve

TIME = np.linspace(0, 3600, 61)
VOLTS = 4.1 - 1.5 * TIME / 3600
AMPS = np.full(61, 2.0)
PLAIN = (LogColumn("t", Role.TIME, "s"), LogColumn("u", Role.VOLTAGE, "V"), LogColumn("i", Role.CURRENT, "A"))
T, V, A, Q, C, Z, X = (
    Role.TIME, Role.VOLTAGE, Role.CURRENT, Role.CAPACITY, Role.TEMPERATURE, Role.SOC, Role.IGNORED,
)  # fmt: skip


# What columns mean


@pytest.mark.parametrize(
    ("names", "row", "understood"),
    [
        (["time_s", "voltage_v", "current_a"], ["0", "4.1", "2"], [(T, "s"), (V, "V"), (A, "A")]),
        (["Test_Time(h)", "Voltage_mV", "I (mA)"], ["0", "4100", "2000"], [(T, "h"), (V, "mV"), (A, "mA")]),
        (["Zeit [min]", "U/V", "I/A", "Temp °C"], ["0", "4.1", "2", "25"], [(T, "min"), (V, "V"), (A, "A"), (C, "°C")]),
        (["Step", "Elapsed", "cellVolts", "Amps", "Discharged mAh"], ["1", "0:00:05", "4.1", "2", "1"],
         [(X, ""), (T, "h:m:s"), (V, "V"), (A, "A"), (Q, "mAh")]),
        (["Capacity (Ah)", "Voltage (V)"], ["0.1", "4.1"], [(Q, "Ah"), (V, "V")]),
        (["SoC %", "OCV"], ["100", "4.2"], [(Z, "%"), (V, "V")]),
        (["t", "V", "A", "T1 [F]"], ["0", "4.1", "2", "77"], [(T, "s"), (V, "V"), (A, "A"), (X, "")]),
        (["time", "volt", "amp", "Temperature K"], ["0", "4.1", "2", "298"], [(T, "s"), (V, "V"), (A, "A"), (C, "K")]),
        (["Kapazität mAh", "Spannung"], ["100", "3900"], [(Q, "mAh"), (V, "mV")]),
    ],
)  # fmt: skip
def test_names_tell_role_and_unit(names: list[str], row: list[str], understood: list[tuple[Role, str]]) -> None:
    assert [(c.role, c.unit) for c in guess_columns(names, [row, row])] == understood


def test_figures_tell_where_there_are_no_names() -> None:
    rows = [[str(t), "2.0", f"{v:.3f}"] for t, v in zip(TIME, VOLTS, strict=True)]
    roles = [c.role for c in guess_columns(["", "", ""], rows)]
    assert roles == [T, V, A] or roles == [T, A, V]
    pairs = [[f"{q:.3f}", f"{v:.3f}"] for q, v in zip(TIME / 1800, VOLTS, strict=True)]
    assert [c.role for c in guess_columns(["", ""], pairs)] == [Q, V]


def test_too_large_figures_without_a_unit_are_the_smaller_unit() -> None:
    columns = guess_columns(["time", "voltage", "current"], [["0", "4100", "2000"], ["1", "4090", "2000"]])
    assert [c.unit for c in columns] == ["s", "mV", "mA"]


def test_clocks_are_seconds() -> None:
    assert [clock_seconds(text) for text in ("1:02:03.5", "62:03", "7.25")] == [3723.5, 3723, 7.25]
    with pytest.raises(ValueError, match="could not convert"):
        clock_seconds("noon")


@pytest.mark.parametrize(
    ("roles", "says"),
    [([T, A], "No column is taken for volts"), ([V, A], "No column is taken for time"), ([T, V, V], "Two columns are")],
)
def test_roles_that_make_no_discharge_are_refused(roles: list[Role], says: str) -> None:
    with pytest.raises(DocumentError, match=says):
        check_columns([LogColumn(str(n), role) for n, role in enumerate(roles)])


# From columns to a discharge


def made(
    columns: Sequence[LogColumn] = PLAIN, *, cut_off: float = 2.5, given: Circumstances | None = None, **changes: Any
):  # type: ignore[no-untyped-def]
    figures = {T: TIME, V: VOLTS, A: AMPS} | {Role[name]: values for name, values in changes.items()}
    return assemble(columns, figures, given or Circumstances("log"), cut_off)


def test_a_plain_log_is_the_discharge_it_says() -> None:
    found = made()
    assert found.curve.charge_c[-1] == pytest.approx(7200)
    assert found.curve.temperature_k[0] == pytest.approx(298.15)
    assert any("No temperature is logged" in remark for remark in found.remarks)


def test_negative_discharge_is_turned_over_and_said() -> None:
    found = made(CURRENT=-AMPS)
    assert found.curve.current_a.min() == 2.0
    assert any("negative in the file" in remark for remark in found.remarks)


def test_only_the_discharge_of_a_cycle_is_taken() -> None:
    """An hour of charge, then an hour of discharge."""
    found = made(
        TIME=np.concatenate([TIME, TIME + 3700]), VOLTAGE=np.concatenate([VOLTS[::-1], VOLTS]),
        CURRENT=np.concatenate([-AMPS, AMPS]),
    )  # fmt: skip
    assert found.curve.charge_c[-1] == pytest.approx(7200)
    assert found.curve.time_s[0] == 0
    assert any("Rows 62 to 122 of 122 are the discharge" in remark for remark in found.remarks)


def test_units_are_changed_on_the_way_in() -> None:
    columns = (LogColumn("t", T, "min"), LogColumn("u", V, "mV"), LogColumn("i", A, "mA"), LogColumn("f", C, "°F"))
    found = made(columns, TIME=TIME / 60, VOLTAGE=1000 * VOLTS, CURRENT=1000 * AMPS, TEMPERATURE=np.full(61, 77.0))
    assert found.curve.time_s[-1] == pytest.approx(3600)
    assert found.curve.voltage_v[0] == pytest.approx(4.1)
    assert found.curve.temperature_k[0] == pytest.approx(298.15)


def test_charge_and_volts_become_a_discharge_at_a_held_current() -> None:
    """2 Ah at 2 A: an hour."""
    columns = (LogColumn("q", Q, "mAh"), LogColumn("u", V, "V"))
    found = made(columns, CAPACITY=TIME / 3600 * 2000, given=Circumstances("log", current_a=2.0))
    assert found.curve.time_s[-1] == pytest.approx(3600)
    with pytest.raises(DocumentError, match="type the current at which it was discharged"):
        made(columns, CAPACITY=TIME / 3600 * 2000)


def test_amps_follow_from_charge_and_time() -> None:
    columns = (LogColumn("t", T, "s"), LogColumn("u", V, "V"), LogColumn("q", Q, "Ah"))
    found = made(columns, CAPACITY=TIME / 3600 * 2)
    assert found.curve.current_a == pytest.approx(AMPS)


def test_volts_of_a_pack_are_divided() -> None:
    found = made(VOLTAGE=4 * VOLTS, given=Circumstances("log", cells_in_series=4))
    assert found.curve.voltage_v == pytest.approx(VOLTS)
    with pytest.raises(DocumentError, match=r"16\.4 V is no voltage of one cell"):
        made(VOLTAGE=4 * VOLTS)


def test_a_discharge_that_stops_early_is_taken_with_a_remark() -> None:
    assert any("ends at 2.60 V, above the cut-off of 2.50 V" in remark for remark in made().remarks)
    assert not any("cut-off" in remark for remark in made(cut_off=2.6).remarks)


def test_a_long_log_is_thinned_with_every_switch_kept() -> None:
    time = np.arange(120_000.0)
    amps = np.where(time % 1000 < 500, 2.0, 0.5)
    found = made(TIME=time, VOLTAGE=4.1 - time / 1e5, CURRENT=amps)
    assert len(found.curve.time_s) < 60_000
    assert np.sum(np.abs(np.diff(found.curve.current_a)) > 1) == np.sum(np.abs(np.diff(amps)) > 1)
    assert found.curve.charge_c[-1] == pytest.approx(np.sum(amps[:-1]), rel=1e-3)


@pytest.mark.parametrize(
    ("changes", "says"),
    [
        ({"VOLTAGE": VOLTS[::-1]}, "is a charge, not a discharge: its voltage goes from 2.60 to 4.10 V"),
        ({"CURRENT": 0 * AMPS}, "draws no current"),
        ({"TIME": np.where(np.arange(61) == 7, 0, TIME)}, "time runs backwards at row 8 of the data"),
        ({"VOLTAGE": np.where(np.arange(61) == 3, np.nan, VOLTS)}, "row 4 of the data, u: there is no number"),
        ({"VOLTAGE": np.where(np.arange(61) == 3, 0.0, VOLTS)}, "row 4 of the data: 0 V is no voltage of one cell"),
    ],
)
def test_what_is_no_discharge_is_a_sentence(changes: dict[str, Any], says: str) -> None:
    with pytest.raises(DocumentError, match=says):
        made(**changes)


def test_a_temperature_that_cannot_be_is_named() -> None:
    with pytest.raises(DocumentError, match="298 °C is no temperature of a cell; correct the unit"):
        made((*PLAIN, LogColumn("k", C, "°C")), TEMPERATURE=np.full(61, 298.0))


def test_a_resting_table_covers_all_charge_and_rises() -> None:
    columns = (LogColumn("z", Z, "%"), LogColumn("u", V, "V"))
    soc, volts = np.linspace(100, 0, 21), np.linspace(4.2, 3.0, 21)
    table = assemble_resting_table(columns, {Z: soc, V: volts}, "table")
    assert (table.soc[0], table.soc[-1], table.ocv_v[0], table.ocv_v[-1]) == (0, 1, 3.0, 4.2)
    with pytest.raises(DocumentError, match=r"covers states of charge 0\.50 to 1\.00"):
        assemble_resting_table(columns, {Z: soc[:11], V: volts[:11]}, "table")
    with pytest.raises(DocumentError, match="it must rise with the charge"):
        assemble_resting_table(columns, {Z: soc, V: volts[::-1]}, "table")


# Printed charts


def chart(turned: float = 0.0, **changes: Any) -> TracedChart:
    """Axes of 700 by 500 pixels, 0 … 3.5 Ah and 2.5 … 4.25 V, turned by so many degrees about the corner."""
    corner = at(0, 2.5, turned)
    values: dict[str, Any] = {
        "id": "c", "name": "chart", "cell_type_id": "cell", "picture_key": "key",
        "x_axis": ChartAxis(first_px=corner, first_value=0, second_px=at(3.5, 2.5, turned), second_value=3.5),
        "y_axis": ChartAxis(first_px=corner, first_value=2.5, second_px=at(0, 4.25, turned), second_value=4.25),
    }  # fmt: skip
    return TracedChart(**(values | changes))


def at(charge: float, volts: float, turned: float = 0.0) -> tuple[float, float]:
    """Pixel of a point of the chart."""
    x, y, angle = 200 * charge, -500 * (volts - 2.5) / 1.75, math.radians(turned)
    return 100 + x * math.cos(angle) - y * math.sin(angle), 600 + x * math.sin(angle) + y * math.cos(angle)


@pytest.mark.parametrize("turned", [0.0, 2.0, -7.0])
def test_points_of_a_chart_that_lies_crooked_are_read(turned: float) -> None:
    points = ((0.0, 4.1), (1.7, 3.6), (3.2, 2.6))
    found = chart_values(chart(turned), tuple(at(*point, turned) for point in points))
    assert found == pytest.approx(np.array(points), abs=1e-9)


def law(charge: np.ndarray) -> np.ndarray:
    return np.asarray(4.14 - 0.28 * charge - 0.6 * np.exp((charge - 3.2) / 0.12))


CLICKED = (0.0, 0.3, 0.8, 1.4, 2.0, 2.5, 2.8, 2.95, 3.05, 3.12, 3.2)


def traced(charges: Sequence[float] = CLICKED, **changes: Any) -> TracedCurve:
    points = tuple(at(q, float(law(np.array(q)))) for q in charges)
    return TracedCurve(**({"name": "0.6 A", "current_a": 0.6, "points": points} | changes))


def test_a_traced_curve_is_the_printed_one() -> None:
    found = traced_discharge(chart(), traced())
    assert found.charge_c[-1] / 3600 == pytest.approx(3.2)
    assert found.time_s[-1] == pytest.approx(3.2 * 3600 / 0.6)
    assert np.abs(found.voltage_v - law(found.charge_c / 3600)).max() < 0.006


def test_a_chart_in_milliampere_hours_reads_the_same() -> None:
    axis = chart().x_axis.model_copy(update={"second_value": 3500.0})
    found = traced_discharge(chart(x_axis=axis, x_unit=ChargeUnit.MAH), traced())
    assert found.charge_c[-1] / 3600 == pytest.approx(3.2)


@pytest.mark.parametrize(
    ("changed", "curve", "says"),
    [
        ({"x_axis": ChartAxis()}, traced(), "Mark two points on the x axis first"),
        ({"y_axis": ChartAxis(first_px=(0, 0), second_px=(0, 9), first_value=3, second_value=3)}, traced(),
         "Both marks of the y axis have the value 3"),
        ({"x_axis": ChartAxis(first_px=(5, 5), second_px=(6, 5))}, traced(), "lie on one spot"),
        ({"x_axis": ChartAxis(first_px=(0, 0), second_px=(0, 90))}, traced(), "lie on one line"),
        ({}, traced(CLICKED[:4]), "has 4 points; click along the curve for at least 5"),
        ({}, traced(points=tuple(at(q, 3 + q / 4) for q in range(5))), "rises from 3.00 to 4.00 V"),
        ({}, traced(CLICKED[3:]), "begins at 1.40 Ah; trace it from the full cell on"),
        ({}, traced(points=tuple(at(q, 8 - q) for q in range(5))), "a point lies at 8.00 V"),
    ],
)  # fmt: skip
def test_what_is_missing_on_a_chart_is_said(changed: dict[str, Any], curve: TracedCurve, says: str) -> None:
    with pytest.raises(DocumentError, match=says):
        traced_discharge(chart(**changed), curve)
