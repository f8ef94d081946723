"""Logged discharges on disk: CSV with a header, one row a point."""

from __future__ import annotations

import csv
from pathlib import Path

import numpy as np

from wise_cellar.core.documents import DocumentError
from wise_cellar.core.fit import DischargeCurve
from wise_cellar.core.physics.arrays import ZERO_CELSIUS_K

NEEDED = ("time_s", "voltage_v", "current_a")
TEMPERATURE = "temperature_c"


def read_discharge_curve(path: Path, *, air_temperature_c: float = 25.0) -> DischargeCurve:
    """Curve from a CSV with the columns time_s, voltage_v, current_a and, where logged, temperature_c.

    Other columns are left aside. Without temperatures the cell is taken to stay at ``air_temperature_c``. Raises
    :class:`DocumentError` naming file, line and column.
    """
    try:
        with path.open(encoding="utf-8-sig", newline="") as file:
            reader = csv.DictReader(file)
            header = [name.strip() for name in reader.fieldnames or ()]
            missing = [name for name in NEEDED if name not in header]
            if missing:
                raise DocumentError(f"{path.name} has no column {missing[0]}; it needs {', '.join(NEEDED)}.")
            names = [*NEEDED, *([TEMPERATURE] if TEMPERATURE in header else [])]
            reader.fieldnames = header
            rows = [[_number(path, line, name, row.get(name)) for name in names] for line, row in enumerate(reader, 2)]
    except OSError as error:
        raise DocumentError(f"{path} cannot be read: {error.strerror}.") from error
    except (UnicodeDecodeError, csv.Error) as error:
        raise DocumentError(f"{path.name} is not a CSV in UTF-8.") from error
    table = np.array(rows, float).reshape(len(rows), len(names))
    warm = table[:, 3] if len(names) == 4 else np.full(len(rows), air_temperature_c)
    return DischargeCurve(path.stem, table[:, 0], table[:, 1], table[:, 2], warm + ZERO_CELSIUS_K)


def _number(path: Path, line: int, name: str, text: str | None) -> float:
    try:
        return float(text or "")
    except ValueError:
        raise DocumentError(f"{path.name}, line {line}, {name}: “{(text or '').strip()}” is not a number.") from None
