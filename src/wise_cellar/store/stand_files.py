"""Tables of thrust stands: throttle, thrust, current, voltage and, where it was logged, speed."""

from __future__ import annotations

import re
from pathlib import Path

from wise_cellar.core.documents import DocumentError, StandPoint, ThrustStand
from wise_cellar.core.physics.arrays import GRAVITY_M_S2
from wise_cellar.core.units import counted, format_significant
from wise_cellar.core.words import LONGEST_NAME, one_line, quoted
from wise_cellar.store.reading import told
from wise_cellar.store.text_tables import look_at_text

_NEEDS = "a thrust stand's table needs columns of throttle, thrust, current and voltage"
LEAST_ROWS, MOST_ROWS = 4, 400
_COLUMNS: dict[str, tuple[str, str]] = {
    "throttle_percent": ("throttle", r"throttle|\bpwm\b|\besc\b|\bduty\b"),
    "thrust_g": ("thrust", r"thrust|\bpull\b|\bload\b|\bforce\b"),
    "current_a": ("current", r"current|\bamps?\b|\ba\b"),
    "voltage_v": ("voltage", r"volt|\bv\b"),
    "speed_rpm": ("speed", r"rpm|speed|rev|turns|\b1 min\b"),
}
_THRUST_G = {
    "n": 1000 / GRAVITY_M_S2,
    "kg": 1000.0,
    "kgf": 1000.0,
    "oz": 28.349523125,
    "lb": 453.59237,
    "lbf": 453.59237,
}


def read_stand(path: Path) -> ThrustStand:
    """Table of a thrust stand for one motor; raises :class:`DocumentError` naming file, line and column.

    Throttle may be given in percent, as a share of one or as a servo pulse of 1000 to 2000 µs; rows at rest are left
    out. Thrust is in grams unless its column names N, kg, oz or lb.
    """
    table, name = look_at_text(path, "the table", _NEEDS), told(path.name)
    if not table.whole:
        raise DocumentError(f"{name} is too long; one row for each step of throttle is enough, {MOST_ROWS} at most.")
    places = _places(path, table.names)
    thrust_factor = _thrust_factor(table.names[places["thrust_g"]])
    rows: list[dict[str, float]] = []
    for number, texts in enumerate(table.rows, table.first_line):
        rows.append({name: _figure(path, number, texts, place, name, table.decimal) for name, place in places.items()})
    most = max(row["throttle_percent"] for row in rows)
    points = []
    for number, row in enumerate(rows, table.first_line):
        throttle = _percent(row["throttle_percent"], most)
        if throttle > 0 and row["thrust_g"] > 0 and row["current_a"] > 0:
            values = row | {"throttle_percent": throttle, "thrust_g": row["thrust_g"] * thrust_factor}
            points.append(_point(name, number, values))
    if len(points) < LEAST_ROWS:
        raise DocumentError(
            f"{name} has {counted(len(points), 'row')} with thrust; motor and propeller are fitted to at least"
            f" {LEAST_ROWS}, from low throttle to full."
        )
    if len(points) > MOST_ROWS:
        raise DocumentError(
            f"{name} has {len(points)} rows; one for each step of throttle is enough, {MOST_ROWS} at most."
        )
    return ThrustStand.from_data({"name": one_line(path.stem, LONGEST_NAME) or "table", "points": points})


def _point(name: str, line: int, values: dict[str, float]) -> StandPoint:
    try:
        return StandPoint.from_data(values)
    except DocumentError as error:
        raise DocumentError(f"{name}, line {line}: {error}", error.path) from error


def _places(path: Path, names: tuple[str, ...]) -> dict[str, int]:
    places: dict[str, int] = {}
    for field, (_, pattern) in _COLUMNS.items():
        plain = [re.sub(r"[^a-z0-9%]+", " ", name.lower()) for name in names]
        found = [n for n, name in enumerate(plain) if n not in places.values() and re.search(pattern, name)]
        if found:
            places[field] = found[0]
    missing = [words for field, (words, _) in _COLUMNS.items() if field not in places and field != "speed_rpm"]
    if missing:
        raise DocumentError(
            f"{told(path.name)} has no column of {' or '.join(missing)}; its columns are"
            f" {one_line(', '.join(name or 'unnamed' for name in names), 100)}. Name them throttle,"
            " thrust, current, voltage and rpm."
        )
    return places


def _thrust_factor(name: str) -> float:
    words = re.sub(r"[^a-z]+", " ", name.lower()).split()
    return next((factor for unit, factor in _THRUST_G.items() if unit in words), 1.0)


def _figure(path: Path, line: int, row: tuple[str, ...], place: int, field: str, decimal: str) -> float:
    text = row[place] if place < len(row) else ""
    try:
        value = float(text.replace(decimal, "."))
    except ValueError:
        words = _COLUMNS[field][0]
        said = f"{quoted(text)} is no number" if text else "it is empty"
        raise DocumentError(
            f"{told(path.name)}, line {line}: {words} is missing, {said}. Fill it in, or take the line out."
        ) from None
    if not 0 <= value < 1e9:
        raise DocumentError(
            f"{told(path.name)}, line {line}: {_COLUMNS[field][0]} is {format_significant(value)}; it must be 0"
            " or more, and a number that a stand can show."
        )
    return value


def _percent(throttle: float, most: float) -> float:
    """Percent, from a share of one or a servo pulse where the largest figure is one."""
    if most <= 1.0:
        return 100 * throttle
    return min(max((throttle - 1000) / 10, 0.0), 100.0) if most > 100 else throttle
