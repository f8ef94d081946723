"""``wise-cellar fit``: a cell type's model from logs of its discharges."""

from __future__ import annotations

import argparse
from pathlib import Path

from wise_cellar.cli.given import add_units, command_parser, finite, read_told
from wise_cellar.core.documents import CellType, DocumentError, replaced
from wise_cellar.core.fit import fit_cell
from wise_cellar.core.units import TOLD, bare_number, format_amps, format_celsius, format_mah, format_number
from wise_cellar.store import write_exchange_file
from wise_cellar.store.curve_files import read_discharge_curve


def parser() -> argparse.ArgumentParser:
    """What it is told."""
    parser = command_parser(
        "fit",
        "Fit a cell type's model to logs of its discharges: any column names, separators and units.",
        "cell.json slow.csv fast.csv --out fitted.json",
    )
    parser.add_argument("cell", type=Path, help="a cell type exported from Wise Cellar")
    parser.add_argument("curves", type=Path, nargs="+", help="discharges of that cell from full, at two rates or more")
    parser.add_argument("--out", type=Path, required=True, help="where to write the cell type with its fitted model")
    parser.add_argument("--capacity-mah", type=finite, help="capacity, where no curve takes four hours or more")
    parser.add_argument("--current-a", type=finite, help="held current, where the logs are pairs of charge and volts")
    add_units(parser)
    return parser


def run(arguments: list[str]) -> int:
    """Fit, write the cell type, and say what the fit rests on; returns the exit status."""
    options = parser().parse_args(arguments)
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
        print(f"{name}: {format_number(1000 * residual, 1)} mV root mean square")
    model = fit.model
    print(
        f"Rests on up to {format_amps(model.highest_current_a, TOLD)} and {bare_number(model.coldest_c, '°C')}"
        f" to {format_celsius(model.warmest_c)}; capacity {format_mah(model.capacity_mah)}. Written to"
        f" {options.out}."
    )
    for remark in model.remarks:
        print(remark)
    return 0
