"""The moment at which packs are put on one bus, before any load: what flows between them, and what may.

Each pack rests at S·OCV(z) behind its resistance R, cells and wiring. Together, the bus stands at V = Σ(E/R)/Σ(1/R) and
each pack gives (E − V)/R: of two, ΔE/ΣR from the fuller into the other. What a pack may take is told by
:func:`~wise_cellar.core.cells.charge_limit_a` at its warmth. Packs are put on one bus only within 50 mV a cell and
0.2 V at the plug, however much their resistance would let through. The window is told from a pack to all the others
that are on it already.
"""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass

import numpy as np

from wise_cellar.core.cells import charge_limit_a, resting_curve
from wise_cellar.core.documents import CompletePack
from wise_cellar.core.flight.balance import Blocks, evaluate
from wise_cellar.core.flight.batch import FlightBatch, of_pack
from wise_cellar.core.physics.arrays import ZERO_CELSIUS_K, Bools, FloatOrArray, Floats
from wise_cellar.core.physics.cell import resistance_ohm
from wise_cellar.core.physics.charging import COOL_C
from wise_cellar.core.units import format_amps, format_celsius

SAME_V = 0.005
"""Volts a cell: full voltages nearer to each other than this are one."""
FAR_APART_V = 0.3
"""Volts a cell between full voltages beyond which packs are no match for one bus at any charge."""
APART_V, APART_AT_PLUG_V = 0.05, 0.2
"""Between packs that are put on one bus, a cell and at the plug: our estimates. The resistance of a cold pack would
widen the window just where taking a charge harms most."""
TRACE_A = 0.05
"""What flows between packs that rest alike is no charge."""


def takes_too_much(taken_a: Floats, limit_a: Floats) -> Bools:
    """Whether a pack takes more than it may from the others; A of the pack, arrays that broadcast."""
    return np.asarray((taken_a > limit_a) & (taken_a > TRACE_A))


def most_apart_v(series: FloatOrArray) -> Floats:
    """Volts a cell that packs of so many cells in series may rest apart when they are put on one bus."""
    return np.minimum(APART_V, APART_AT_PLUG_V / np.asarray(series))


def too_far_apart(rest_v: Floats, series: FloatOrArray) -> Bools:
    """Whether packs that rest at so many volts a cell, ``(packs, …)``, must not be put on one bus."""
    return np.asarray(rest_v.max(axis=0) - rest_v.min(axis=0) > most_apart_v(series))


def rests_too_high(rest_v: Floats, full_v: Floats) -> Bools:
    """Whether a pack rests higher than where another on its bus is full, V a cell, and would charge it beyond.

    All of shape ``(packs, …)``.
    """
    return np.asarray(rest_v > full_v.min(axis=0) + SAME_V)


def flowing_in_a(bus_v: Floats, ohm: Floats) -> Floats:
    """A that flow into packs on one bus to which nothing else is joined, of volts and ohms behind them, ``(packs, …)``;
    negative where a pack gives."""
    together = (bus_v / ohm).sum(axis=0) / (1 / ohm).sum(axis=0)
    return np.asarray((together - bus_v) / ohm)


def no_match(full_v: Floats) -> Bools:
    """Whether packs, ``(packs, …)``, are full at volts so far apart that no charge suits all of them."""
    return np.asarray(full_v.max(axis=0) > full_v.min(axis=0) + FAR_APART_V)


def may_words(limit_a: float, celsius: float) -> str:
    """What a pack may take at its warmth: "it may take 1.9 A"."""
    if limit_a == 0.0:
        return f"at {format_celsius(celsius)} it may take nothing"
    return f"it may take {format_amps(limit_a)}" + (f" at {format_celsius(celsius)}" if celsius < COOL_C else "")


@dataclass(frozen=True)
class PackOnBus:
    """One pack at that moment."""

    complete: CompletePack
    rest_v: float
    """Volts a cell."""
    ohm: float
    """Cells and wiring, at the present warmth."""
    current_a: float
    """Of the pack at the first moment; negative where it takes."""
    limit_a: float
    """The most that it may take, at its warmth."""
    below_v: float
    above_v: float
    """Volts a cell by which it may rest under, and over, the others when it is put on their bus."""

    celsius: float
    """Its coldest cells."""

    @property
    def may_words(self) -> str:
        """What it may take."""
        return may_words(self.limit_a, self.celsius)

    @property
    def too_much(self) -> bool:
        """Whether it takes more than it may."""
        return bool(takes_too_much(np.array(-self.current_a), np.array(self.limit_a)))


@dataclass(frozen=True)
class BusStart:
    """All packs, in the order in which the design carries them."""

    packs: tuple[PackOnBus, ...]
    series_count: int

    @property
    def apart_v(self) -> float:
        """Volts a cell between the fullest and the emptiest."""
        volts = [pack.rest_v for pack in self.packs]
        return max(volts) - min(volts)

    @property
    def taker(self) -> PackOnBus:
        """The pack that takes most of what it may."""
        return max(self.packs, key=lambda pack: -pack.current_a / max(pack.limit_a, TRACE_A))

    @property
    def safe(self) -> bool:
        """Whether none takes more than it may, and they rest near enough to each other."""
        return not any(pack.too_much for pack in self.packs) and not too_far_apart(self.rest_v, self.series_count)

    @property
    def rest_v(self) -> Floats:
        """(packs,) Volts a cell at which each rests."""
        return np.array([pack.rest_v for pack in self.packs])

    @property
    def full_v(self) -> Floats:
        """(packs,) Volts a cell at which each is full."""
        return np.array([pack.complete.cell.max_voltage_v for pack in self.packs])

    @property
    def lower_full_v(self) -> float:
        """The lowest full voltage of any pack: what all of them are charged to."""
        return float(self.full_v.min())

    @property
    def above_lower_full(self) -> tuple[PackOnBus, ...]:
        """Packs that may be charged higher than the lowest of them."""
        return tuple(pack for pack in self.packs if pack.complete.cell.max_voltage_v > self.lower_full_v + SAME_V)


def bus_start(packs: Sequence[CompletePack], batch: FlightBatch) -> BusStart | None:
    """The first moment of the packs of a batch of one flight; none where there is one pack."""
    if len(batch.parallel) == 1:
        return None
    series, parallel = float(batch.series[0]), batch.parallel[:, 0, 0]
    rest_v = batch.rest_v[:, 0, 0]
    amps = first_current_a(batch)[:, 0, 0] * parallel
    ohms = pack_ohms(batch)[:, 0]
    coldest = batch.start.temperature_k.min(axis=1)[:, 0] - ZERO_CELSIUS_K
    each = [charge_limit_a(pack.cell, float(celsius)) for pack, celsius in zip(packs, coldest, strict=True)]
    limits, most = np.array(each) * parallel, float(most_apart_v(series))
    found = []
    for place, pack in enumerate(packs):
        below, above = _window_v(ohms, limits, place)
        found.append(
            PackOnBus(
                pack, float(rest_v[place]), float(ohms[place]), float(amps[place]), float(limits[place]),
                min(below / series, most), min(above / series, most), float(coldest[place]),
            )
        )  # fmt: skip
    return BusStart(tuple(found), round(series))


def first_current_a(batch: FlightBatch) -> Floats:
    """Current of one cell of every pack at the first moment, before any load, of shape ``(packs, 1, flights)``."""
    idle = batch.one_block(1.0, power_w=np.zeros(batch.flights))
    every = np.arange(batch.flights)
    return evaluate(idle, idle.start, Blocks(idle).demand(every, np.zeros_like(every))).current


def pack_ohms(batch: FlightBatch) -> Floats:
    """Resistance of every pack at the start, of shape ``(packs, flights)``: the straight part, that acts at once."""
    inner = of_pack(batch.group_share, resistance_ohm(batch.cell, batch.start))
    return np.asarray((inner * batch.series / batch.parallel + batch.wiring_ohm)[:, 0])


def _window_v(ohms: Floats, limits_a: Floats, place: int) -> tuple[float, float]:
    """Volts of the bus by which one pack may rest under, and over, the others, which rest alike on one bus.

    Under them it takes all that flows: ΔE = I·(R + R_others). Over them each of the others takes its share by its
    conductance, R_others/R_k of what flows.
    """
    others = np.delete(ohms, place)
    together = 1 / (1 / others).sum()
    through = ohms[place] + together
    into_others = (np.delete(limits_a, place) * others / together).min()
    return float(limits_a[place] * through), float(into_others * through)


def charge_percent_at(pack: CompletePack, volts: float) -> float:
    """State of charge, %, at which a cell of the pack comes to rest at ``volts``; 100 where it never rests so high."""
    curve = resting_curve(pack.cell)
    soc = np.linspace(0.0, 1.0, len(curve.values))
    return float(100 * np.interp(volts, curve.values, soc))
