"""What every cell and every run of strip carries at cruise and in a punch, and how warm strips get."""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np

from wise_cellar.core.pack.ledger import PackBuild
from wise_cellar.core.pack.rating import Carried, Carrier, strip_sorts
from wise_cellar.core.physics.conductor import strip_rise_k


@dataclass(frozen=True)
class PackCurrents:
    """What the pack gives, A: the most of any block but a punch, the most of a punch, and how long that lasts.

    Along a flight besides: the most that lasted longer than its cells' burst may, the greatest square of its current as
    each carrier feels it (:class:`Carrier`; none where nothing was flown), and its warmest cell.
    """

    cruise_a: float
    punch_a: float
    punch_s: float
    held_a: float = 0.0
    felt_a2: tuple[float, ...] = ()
    cells_c: float = 25.0

    @property
    def carried(self) -> Carried:
        """As arrays of one pack."""
        one = np.ones(1)
        felt_a2 = np.array(self.felt_a2 or np.zeros(len(Carrier)))[None]
        return Carried(self.cruise_a * one, self.punch_a * one, self.punch_s, felt_a2, self.cells_c * one)

    def felt(self, carrier: Carrier) -> float:
        """The square that one carrier feels at the most, A²."""
        return self.felt_a2[carrier] if self.felt_a2 else 0.0


@dataclass(frozen=True)
class RunHeat:
    """One run of strip."""

    cruise_a: float
    punch_a: float
    ohm: float
    cruise_rise_k: float
    """Above the cells, for good."""
    punch_rise_k: float
    """At the end of a punch after cruise."""
    flown_rise_k: float
    """At its warmest along the flight."""
    allowed_k: float

    @property
    def share(self) -> float:
        """The worst of its rises over what is allowed: the root of heating over heating allowed."""
        return float((max(self.cruise_rise_k, self.punch_rise_k, self.flown_rise_k) / self.allowed_k) ** 0.5)

    @property
    def cruise_drop_v(self) -> float:
        """Volts from end to end at cruise."""
        return self.cruise_a * self.ohm

    @property
    def cruise_w(self) -> float:
        """Watts lost at cruise."""
        return self.cruise_a**2 * self.ohm


def run_heats(build: PackBuild, currents: PackCurrents) -> tuple[RunHeat, ...]:
    """Every run of the layout, in its order; none of a pack bought whole.

    Source: the current that the circuit gives it (`pack/interconnect.py`) and :class:`Heating`, over the cells; along
    the flight as the run of its sort feels it that warms most. Not modelled: that it warms the cells under it.
    """
    circuit = build.interconnect
    if circuit is None:
        return ()
    found, allowed = [], float(strip_rise_k(currents.cells_c))
    sorts = strip_sorts(build.layout, build.recipe.series_count)
    sort_of = {run: sort for sort, runs in sorts.items() for run in runs}
    for place, (conductor, share) in enumerate(zip(circuit.conductors, circuit.run_a.tolist(), strict=True)):
        cruise, punch = abs(share) * currents.cruise_a, abs(share) * currents.punch_a
        heating = conductor.heating
        found.append(
            RunHeat(cruise, punch, conductor.resistance_ohm(), heating.steady_rise_k(cruise),
                    heating.pulse_rise_k(punch, currents.punch_s, cruise),
                    heating.rise_k_a2 * share**2 * currents.felt(sort_of[place]), allowed)
        )  # fmt: skip
    return tuple(found)
