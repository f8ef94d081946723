"""Loads that draw more while they start, before take-off."""

from __future__ import annotations

import numpy as np

from wise_cellar.core.documents import Craft
from wise_cellar.core.flight.balance import RestingSource
from wise_cellar.core.physics.arrays import Floats
from wise_cellar.core.physics.cell import voltage_under_power


def switch_on_v(craft: Craft, source: RestingSource) -> Floats:
    """(loads, flights) Bus volts while each load of the craft starts and the others run as usual; infinite for one that
    draws no more at its start.

    The source is the packs at rest behind their resistance to a 10 s pulse. Source of the law:
    :func:`~wise_cellar.core.physics.cell.voltage_under_power`.
    """
    found = np.full((len(craft.loads), len(source.volts)), np.inf)
    for place, load in enumerate(craft.loads):
        if load.startup_w > load.power_w:
            watts = np.array(craft.load_w - load.bus_power_w + load.startup_w)
            found[place] = voltage_under_power(source.volts, source.ohm, watts)
    return found
