"""Discharges as arrays: from the columns of a table, from a printed chart, ready for a fit."""

from wise_cellar.core.curves.assembly import Assembled, Circumstances, RestingTable, assemble, assemble_resting_table
from wise_cellar.core.curves.chart import chart_values, traced_discharge
from wise_cellar.core.curves.columns import (
    TIMES,
    LogColumn,
    Role,
    check_columns,
    clock_seconds,
    group_columns,
    guess_columns,
    position_columns,
    units_of,
)
from wise_cellar.core.curves.curve import DischargeCurve
from wise_cellar.core.curves.simulation import ModelParameters, simulate

__all__ = [
    "TIMES",
    "Assembled",
    "Circumstances",
    "DischargeCurve",
    "LogColumn",
    "ModelParameters",
    "RestingTable",
    "Role",
    "assemble",
    "assemble_resting_table",
    "chart_values",
    "check_columns",
    "clock_seconds",
    "group_columns",
    "guess_columns",
    "position_columns",
    "simulate",
    "traced_discharge",
    "units_of",
]
