"""A tray of forty numbered cells: one lot of Fell 21-45P, and three that must not be used."""

from __future__ import annotations

from datetime import date
from typing import Any

import numpy as np

from wise_cellar.core.cells import resting_curve
from wise_cellar.core.documents import CellType, Look, NumberedCell

COUNT = 40
SEED = 2145
ARRIVED, READ_AGAIN = date(2026, 3, 2), date(2026, 3, 9)
LOW, LEAKING, STRANGER = 8, 21, 33
"""Found far too low, loses volts at rest, is no such cell."""
TORN = 14
CHARGE = 0.32
"""Of cells as they are shipped."""


def readings_of(
    cell_type: CellType, random: np.random.Generator, *, lost: float | None = None, stranger: bool = False
) -> dict[str, float]:
    """What a meter, a scale and an analyser show of one cell of a lot: one that is sound, loses a share ``lost`` of its
    charge in a week, or is no such cell."""
    values = resting_curve(cell_type).values
    soc = CHARGE + 0.0015 * random.standard_normal()
    usual = 0.0007 + 0.0004 * random.random()
    capacity = cell_type.capacity_mah * (0.985 + 0.006 * random.standard_normal())
    ohm = cell_type.resistance_mohm * (1.0 + 0.025 * random.standard_normal())
    mass = cell_type.mass_g * (1.0 + 0.002 * random.standard_normal())
    if stranger:
        capacity, ohm, mass = 0.55 * cell_type.capacity_mah, 2.4 * cell_type.resistance_mohm, 0.9 * cell_type.mass_g
    gone = usual if lost is None else lost
    first, second = np.interp([soc, soc - gone], np.linspace(0.0, 1.0, len(values)), values)
    return {
        "arrival_v": round(float(first), 3), "rested_v": round(float(second), 3),
        "capacity_mah": round(float(capacity)), "dcir_mohm": round(float(ohm), 1), "mass_g": round(float(mass), 1),
    }  # fmt: skip


def sample_tray(cell_type: CellType) -> tuple[NumberedCell, ...]:
    """Readings as a builder would have written them down."""
    random = np.random.default_rng(SEED)
    tray = []
    for number in range(1, COUNT + 1):
        lost = 0.045 if number == LEAKING else None
        told: dict[str, Any] = dict(readings_of(cell_type, random, lost=lost, stranger=number == STRANGER))
        if number == LOW:
            told = {"arrival_v": 1.48, "mass_g": told["mass_g"]}
        tray.append(
            NumberedCell(
                id=f"{cell_type.id}-{number:02d}", number=number, cell_type_id=cell_type.id, sample=True,
                arrived_on=ARRIVED, rested_on=None if number == LOW else READ_AGAIN,
                looks=(Look.TORN_WRAP,) if number == TORN else (), **told,
            )
        )  # fmt: skip
    return tuple(tray)
