"""What every cell and every run of strip carries at cruise and in a punch, and how warm strips get."""

from __future__ import annotations

from dataclasses import dataclass

from wise_cellar.core.pack.ledger import PackBuild
from wise_cellar.core.physics.conductor import STRIP_RISE_K


@dataclass(frozen=True)
class PackCurrents:
    """What the pack gives, A: the most of any block but a punch, the most of a punch, and how long that lasts."""

    cruise_a: float
    punch_a: float
    punch_s: float


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

    @property
    def share(self) -> float:
        """The worse of its currents over what the 30 K allow: the root of heating over heating allowed."""
        return float((max(self.cruise_rise_k, self.punch_rise_k) / STRIP_RISE_K) ** 0.5)

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

    Source: the current that the circuit gives it (`pack/interconnect.py`) and :class:`Heating`, over the air. Not
    modelled: the cells under it, which it warms and which warm it.
    """
    circuit = build.interconnect
    if circuit is None:
        return ()
    found = []
    for conductor, share in zip(circuit.conductors, circuit.run_a.tolist(), strict=True):
        cruise, punch = abs(share) * currents.cruise_a, abs(share) * currents.punch_a
        heating = conductor.heating
        found.append(
            RunHeat(cruise, punch, conductor.resistance_ohm(), heating.steady_rise_k(cruise),
                    heating.pulse_rise_k(punch, currents.punch_s, cruise))
        )  # fmt: skip
    return tuple(found)
