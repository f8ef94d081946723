"""What an answer is made of: plain values, each with the document field that governs it.

Fields are paths from the root of a :class:`~wise_cellar.core.documents.CompleteDesign`, so that the interface can point
at the culprit.
"""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass
from enum import StrEnum

import numpy as np

from wise_cellar.core.answer.both_ends import OtherEnd
from wise_cellar.core.answer.bus import BusStart
from wise_cellar.core.answer.ending import EndReason
from wise_cellar.core.documents import CompletePack
from wise_cellar.core.flight.balance import RestingSource
from wise_cellar.core.lowering.packs import group_words
from wise_cellar.core.pack import Link, LinkKind, PackBuild, PackCurrents
from wise_cellar.core.physics.arrays import Bools, Floats, Ints
from wise_cellar.core.propulsion.calibration import CalibrationResult
from wise_cellar.core.units import format_minutes, format_volts
from wise_cellar.core.words import lower_first


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
    """Of the recipe's pack."""
    bus_a: float
    """Of all packs together, at the most."""
    thrust_margin: float
    thrust_n: float

    @property
    def collapsed(self) -> bool:
        """Whether motors and loads ask for more than the cells can supply at any current."""
        return self.bus_v < 1e-3

    @property
    def volts_words(self) -> str:
        """Volts a cell, in words."""
        return "cannot supply" if self.collapsed else f"{format_volts(self.volts_a_cell)} a cell"


@dataclass(frozen=True)
class Series:
    """Recorded flight in people's units, every array of shape ``(points,)``."""

    time_s: Floats
    loaded_v: Floats
    """Volts a cell as the craft sees them."""
    resting_v: Floats
    """Volts a cell after a long rest from this state of charge; of several packs the least."""
    punch_v: Floats
    """Volts a cell at the end of a burst begun here."""
    pack_a: Floats
    """Of all packs together, as is ``charge_used_mah``."""
    throttle: Floats
    """Duty of the motors, 1 = full."""
    temperature_c: Floats
    """Of several packs the warmest."""
    charge_used_mah: Floats
    thrust_margin: Floats
    punch_a: Floats
    """Greatest amps of one cell of the recipe's pack in a burst begun here."""
    block: Ints
    """Place in the mission."""
    in_air: Bools
    """Neither on the ground nor on the bench."""

    def at(self, values: Floats, second: float) -> float:
        """What an array of :attr:`time_s` is at a time; after the last point as there, at a step as after it."""
        place = int(np.searchsorted(self.time_s, second, side="right"))
        if place >= len(self.time_s):
            return float(values[-1])
        left, right = self.time_s[place - 1], self.time_s[place]
        share = (second - left) / (right - left) if right > left else 0.0
        return float(values[place - 1] + share * (values[place] - values[place - 1]))

    @property
    def longest_block(self) -> int:
        """The block that takes most of the time in the air; of a mission that never leaves the ground, of all."""
        if len(self.time_s) < 2:
            return int(self.block[0])
        seconds = np.diff(self.time_s)
        flown = seconds * self.in_air[1:]
        return int(np.argmax(np.bincount(self.block[1:], weights=flown if flown.any() else seconds)))


@dataclass(frozen=True)
class PackSeries:
    """One pack of a recorded flight, every array of shape ``(points,)``, over the time of :class:`Series`."""

    amps: Floats
    """Of the pack; negative while the others charge it."""
    cell_v: Floats
    """Under load, at a cell of its weakest group."""
    resting_v: Floats
    """Volts of that cell after a long rest from this state of charge, by itself."""
    soc: Floats
    given_mah: Floats
    temperature_c: Floats


@dataclass(frozen=True)
class GroupAnswer:
    """Series groups of a pack that are alike, volts of a cell."""

    members: tuple[int, ...]
    """Counted from 0, the negative end."""
    end_cell_v: float
    """Under load, at the end."""
    early_cell_v: float
    """At the end of a first burst."""
    late_cell_v: float
    """At the end of a late burst."""
    charge_left: float
    resting_v: float
    """After a long rest at the end, by itself."""
    soon_v: float
    """Ten seconds after landing, which is what a pilot reads."""
    hour_v: float
    """An hour after."""
    hottest_c: float
    coldest_c: float

    @property
    def words(self) -> str:
        """Which, counted as people do: "group 2", "groups 1, 3 and 4"."""
        return group_words(self.members)


@dataclass(frozen=True)
class PackAnswer:
    """One of the packs on the bus."""

    complete: CompletePack
    build: PackBuild
    currents: PackCurrents
    groups: tuple[GroupAnswer, ...]
    """Its series groups, those that are alike together: one where all are."""
    weakest: GroupAnswer
    """Those that sag lowest at the end."""
    taken_a: float
    """The most that it took back from the others; 0 where they never charged it."""
    dip_s: float
    """Seconds of bursts in which a cell was under its minimum, ``dip_v`` at the lowest."""
    dip_v: float
    given_mah: float
    """Charge given, less what it took back."""
    charge_left: float
    """Share of its charge still inside at the end."""
    inside_c: float
    """The middle of the warmest cell at its warmest."""
    series: PackSeries

    @property
    def early_cell_v(self) -> float:
        """At the end of a first burst, of the group that sags lowest in it."""
        return min(group.early_cell_v for group in self.groups)

    @property
    def late_cell_v(self) -> float:
        """At the end of a late burst, of the group that sags lowest in it."""
        return min(group.late_cell_v for group in self.groups)

    @property
    def resting_v(self) -> float:
        """Volts a cell after a long rest at the end, by itself, of the lowest group."""
        return min(group.resting_v for group in self.groups)

    @property
    def soon_v(self) -> float:
        """Volts a cell ten seconds after landing, by itself, of the lowest group."""
        return min(group.soon_v for group in self.groups)

    @property
    def hour_v(self) -> float:
        """The same an hour after."""
        return min(group.hour_v for group in self.groups)

    @property
    def hottest_c(self) -> float:
        """The warmest cell at its warmest."""
        return max(group.hottest_c for group in self.groups)

    @property
    def coldest_c(self) -> float:
        """The coldest cell at its coldest."""
        return min(group.coldest_c for group in self.groups)

    @property
    def weakest_words(self) -> str:
        """Which of its groups is the weakest; nothing where all are alike."""
        return self.weakest.words if len(self.groups) > 1 else ""

    @property
    def cells(self) -> str:
        """Its cells in a sentence."""
        return "cells" if self.complete.alone else f"cells of the {lower_first(self.complete.name)}"

    @property
    def left_mah(self) -> float:
        """Charge still inside, of the label's at its age."""
        return self.charge_left * self.complete.label_mah * self.complete.state.capacity_percent / 100


@dataclass(frozen=True)
class Answer:
    """Everything the interface shows of one design."""

    duration_s: float
    """In the air: what is spent on the ground or the bench aside; of a run on the bench, all of it."""
    takeoff_mass_g: float
    early_punch: PunchAnswer
    late_punch: PunchAnswer
    currents: PackCurrents
    """Of the recipe's pack."""
    bus_currents: PackCurrents
    """Of all packs together, which the craft draws."""
    packs: tuple[PackAnswer, ...]
    """First the recipe's, then those beside it."""
    links: tuple[Link, ...]
    """Of every pack, and of the craft."""
    reason: EndReason
    margin_until_s: float
    """Until when, from take-off, full throttle gives the thrust margin that is wanted; 0 where it never does."""
    cruising_m_s: float
    """Airspeed of its longest planned stretch, bursts and landing aside."""
    landing_call_s: float
    """When the landing rule called, from take-off; the end where it never did."""
    charge_left: float
    """Share of the charge of all packs still inside at the end."""
    resting_v: float
    """Volts a cell after a long rest at the end; of several packs the least."""
    hottest_c: float
    inside_c: float
    """The middle of the warmest cell at its warmest."""
    hover_left_s: float
    """From where the flight ended, until a cell meets its minimum or a load stops; of a wing its loiter."""
    bus_start: BusStart | None
    """The moment at which several packs are put on one bus."""
    at_rest: RestingSource
    """What a load that starts before take-off meets."""
    on_bench: bool
    """Whether it never leaves the ground: a run on the bench, told by its minutes there."""
    mean_power_w: float
    """In the air, or on the bench, of all blocks and loads."""
    energy_used_wh: float
    """From the start to the end, ``ground_wh`` of it on the ground or the bench."""
    ground_wh: float
    series: Series
    rebound: tuple[Floats, Floats]
    """Seconds after the end, and volts a cell of the lowest that rests."""
    build: PackBuild
    """The recipe's pack."""
    cell_dcir_ohm: float
    """What a 10 s pulse on one cell at half charge and 25 °C reads, by the model that flies."""
    calibration: CalibrationResult | None
    other_end: OtherEnd | None
    """Of an extended battery, where the call that was not chosen would bring it down."""
    findings: tuple[Finding, ...]
    duration_field: str
    mass_field: str
    punch_field: str

    @property
    def where(self) -> str:
        """Where its minutes are spent: "in the air" or "on the bench"."""
        return "on the bench" if self.on_bench else "in the air"

    @property
    def other_end_words(self) -> str:
        """Where the call that was not chosen would bring it down; nothing where there is none."""
        other = self.other_end
        if other is None:
            return ""
        return f"{other.words} {format_minutes(other.duration_s)}" + ("" if other.called else ", and it never calls")

    @property
    def given_mah(self) -> float:
        """Charge that all packs gave."""
        return sum(pack.given_mah for pack in self.packs)

    @property
    def soon_v(self) -> float:
        """Volts a cell ten seconds after landing; of several packs, each by itself, the least."""
        return min(pack.soon_v for pack in self.packs)

    @property
    def hour_v(self) -> float:
        """The same an hour after."""
        return min(pack.hour_v for pack in self.packs)

    @property
    def punch_s(self) -> float:
        """Length of the burst that the answer asks about."""
        return self.currents.punch_s

    @property
    def weak_link(self) -> Link:
        """The link nearest its limit, or furthest over it."""
        return weakest(self.links)

    @property
    def recipe_links(self) -> tuple[Link, ...]:
        """Those of the recipe's pack, and the craft's."""
        return tuple(link for link in self.links if not link.pack)

    @property
    def factor(self) -> float:
        """Calibration factor on shaft power; 1 where the craft has no known flight."""
        return self.calibration.factor if self.calibration else 1.0


def weakest(links: Sequence[Link]) -> Link:
    """The link nearest its limit, or furthest over it."""
    return max((link for link in links if link.kind is not LinkKind.GROUP), key=lambda link: link.worst_share)
