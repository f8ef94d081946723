"""What an answer is made of: plain values, each with the document field that governs it.

Fields are paths from the root of a :class:`~wise_cellar.core.documents.CompleteDesign`, so that the interface can point
at the culprit.
"""

from __future__ import annotations

from dataclasses import dataclass
from enum import StrEnum

import numpy as np

from wise_cellar.core.flight.calibration import CalibrationResult
from wise_cellar.core.flight.ending import EndReason
from wise_cellar.core.pack import Link, LinkKind, PackBuild, PackCurrents
from wise_cellar.core.physics.arrays import Floats, Ints


class Severity(StrEnum):
    """How bad a finding is."""

    CAUTION = "caution"
    OVER = "over a limit"


@dataclass(frozen=True)
class Finding:
    """Something to be careful about, in a sentence, and the field to look at."""

    severity: Severity
    sentence: str
    field: str


def over(sentence: str, field: str) -> Finding:
    """A limit that is passed."""
    return Finding(Severity.OVER, sentence, field)


def caution(sentence: str, field: str) -> Finding:
    """Something to be careful about."""
    return Finding(Severity.CAUTION, sentence, field)


@dataclass(frozen=True)
class PunchAnswer:
    """A full-throttle burst: volts a cell as the craft sees them at its end, amps a cell, thrust.

    The margin is over the weight, or over the drag of a wing in its cruise.
    """

    volts_a_cell: float
    cell_v: float
    bus_v: float
    amps_a_cell: float
    thrust_margin: float
    thrust_n: float


@dataclass(frozen=True)
class Series:
    """Recorded flight in people's units, every array of shape ``(points,)``."""

    time_s: Floats
    loaded_v: Floats
    """Volts a cell as the craft sees them."""
    resting_v: Floats
    """Volts a cell after a long rest from this state of charge."""
    punch_v: Floats
    """Volts a cell at the end of a burst begun here."""
    pack_a: Floats
    throttle: Floats
    """Duty of the motors, 1 = full."""
    temperature_c: Floats
    charge_used_mah: Floats
    thrust_margin: Floats
    punch_a: Floats
    """Greatest amps of one cell in a burst begun here."""
    block: Ints
    """Place in the mission."""

    @property
    def longest_block(self) -> int:
        """The block that takes most of the flight."""
        if len(self.time_s) < 2:
            return int(self.block[0])
        return int(np.argmax(np.bincount(self.block[1:], weights=np.diff(self.time_s))))


@dataclass(frozen=True)
class Answer:
    """Everything the interface shows of one design."""

    duration_s: float
    """In the air: what is spent on the ground or the bench aside."""
    takeoff_mass_g: float
    early_punch: PunchAnswer
    late_punch: PunchAnswer
    currents: PackCurrents
    links: tuple[Link, ...]
    reason: EndReason
    margin_until_s: float
    """Until when, from take-off, full throttle gives the thrust margin that is wanted; 0 where it never does."""
    cruising_m_s: float
    """Airspeed of its longest planned stretch, bursts and landing aside."""
    landing_call_s: float
    """When the landing rule called, from take-off; the end where it never did."""
    charge_left: float
    """Share of the label charge still inside at the end."""
    resting_v: float
    """Volts a cell after a long rest at the end."""
    hottest_c: float
    mean_power_w: float
    energy_used_wh: float
    series: Series
    build: PackBuild
    cell_dcir_ohm: float
    """What a 10 s pulse on one cell at half charge and 25 °C reads, by the model that flies."""
    calibration: CalibrationResult | None
    findings: tuple[Finding, ...]
    duration_field: str
    mass_field: str
    punch_field: str

    @property
    def punch_s(self) -> float:
        """Length of the burst that the answer asks about."""
        return self.currents.punch_s

    @property
    def weak_link(self) -> Link:
        """The link nearest its limit, or furthest over it."""
        return max((link for link in self.links if link.kind is not LinkKind.GROUP), key=lambda link: link.worst_share)

    @property
    def factor(self) -> float:
        """Calibration factor on shaft power; 1 where the craft has no known flight."""
        return self.calibration.factor if self.calibration else 1.0
