"""A tray of forty numbered cells: one lot of Fell 21-45P, and three that must not be used."""

from __future__ import annotations

from datetime import date

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


def sample_tray(cell_type: CellType) -> tuple[NumberedCell, ...]:
    """Readings as a builder would have written them down; rounded as a meter, a scale and an analyser show them."""
    random = np.random.default_rng(SEED)
    values = resting_curve(cell_type).values
    grid = np.linspace(0.0, 1.0, len(values))
    tray = []
    for number in range(1, COUNT + 1):
        soc = CHARGE + 0.0015 * random.standard_normal()
        lost = 0.0007 + 0.0004 * random.random()
        capacity = cell_type.capacity_mah * (0.985 + 0.006 * random.standard_normal())
        ohm = cell_type.resistance_mohm * (1.0 + 0.025 * random.standard_normal())
        mass = cell_type.mass_g * (1.0 + 0.002 * random.standard_normal())
        if number == LEAKING:
            lost = 0.045
        if number == STRANGER:
            capacity, ohm, mass = 0.55 * cell_type.capacity_mah, 2.4 * cell_type.resistance_mohm, 0.9 * cell_type.mass_g
        first, second = np.interp([soc, soc - lost], grid, values)
        found_low = number == LOW
        tray.append(
            NumberedCell(
                id=f"{cell_type.id}-{number:02d}",
                number=number,
                cell_type_id=cell_type.id,
                sample=True,
                arrival_v=1.48 if found_low else round(float(first), 3),
                arrived_on=ARRIVED,
                rested_v=None if found_low else round(float(second), 3),
                rested_on=None if found_low else READ_AGAIN,
                capacity_mah=None if found_low else round(float(capacity)),
                dcir_mohm=None if found_low else round(float(ohm), 1),
                mass_g=round(float(mass), 1),
                looks=(Look.TORN_WRAP,) if number == TORN else (),
            )
        )
    return tuple(tray)
