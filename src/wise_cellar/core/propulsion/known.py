"""A known flight flown again: what the craft would have drawn in it, as it was flown, for a factor on power.

The battery is the one that was told: its open-circuit voltage from full to where the flight ended, behind one
resistance that makes its volts under load what was read, and falls as what it loses warms it. Without it, the mean
volts under load and no resistance: bursts then see no sag.
"""

from __future__ import annotations

from collections.abc import Callable
from dataclasses import dataclass
from functools import cached_property

import numpy as np

from wise_cellar.core.cells import LAG_ACTIVATION, LAG_DEFAULTS, R1_SHARE, RESISTANCE_ACTIVATION, SPECIFIC_HEAT, TAU1_S
from wise_cellar.core.documents import Block, BlockKind, Conditions, Craft, KineticClass, KnownFlight, Manner, Mission
from wise_cellar.core.physics.arrays import GRAVITY_M_S2, ZERO_CELSIUS_K, Floats
from wise_cellar.core.physics.cell import arrhenius, constant_power_current, default_resistance_shape
from wise_cellar.core.physics.motor import throttle_current_a
from wise_cellar.core.physics.ocv import ocv_curve
from wise_cellar.core.propulsion.carrier import Propulsion, propulsion
from wise_cellar.core.propulsion.steps import MINUTE_S, StepArrays

POINTS = 24
_KINDS = {Manner.MANUAL: BlockKind.MANUAL, Manner.BENCH: BlockKind.THROTTLE}
LEAST_OHM = 1e-12
WH_KG = {KineticClass.ENERGY_CYLINDER: 250.0, KineticClass.POWER_CYLINDER: 200.0, KineticClass.POLYMER_POUCH: 170.0}
"""Energy at rest over mass of a cell of a class, for how much heat it takes: estimates."""
COOLING_S = 900.0
"""Time constant of a sleeved pack's way to the temperature of the air: an estimate, cells of 70 g."""
WARM_PASSES = 4
"""Warmth and current by turns: the mean current then lies within 1e-3 of where it settles, in bursts of 20C."""
HALF = 0.5
"""Of the capacity: how far down a battery is taken to go where only a current was read."""


@dataclass(frozen=True)
class FlownBefore:
    """A craft's known flight, and what would have been drawn in it."""

    craft: Craft
    flight: KnownFlight

    @cached_property
    def steps(self) -> StepArrays:
        """A minute of it."""
        flight = self.flight
        hovering = flight.manner is Manner.HOVER or (flight.manner is Manner.LEVEL and flight.airspeed_m_s == 0)
        kind = BlockKind.HOVER if hovering else BlockKind.CRUISE
        if flight.manner in _KINDS:
            kind = _KINDS[flight.manner]
        block = Block(
            kind=kind, duration_s=MINUTE_S, airspeed_m_s=flight.airspeed_m_s,
            climb_m_s=flight.climb_m_s if flight.manner is Manner.CLIMB else 0.0, liveliness=flight.liveliness,
            full_throttle_s=flight.full_throttle_s, throttle_percent=flight.throttle_percent,
        )  # fmt: skip
        weather = Conditions(
            air_temperature_c=flight.air_temperature_c, altitude_m=flight.altitude_m, wind_m_s=flight.wind_m_s,
            gust_m_s=flight.gust_m_s,
        )  # fmt: skip
        return StepArrays.of(Mission(id="known", name="known", blocks=(block,)), weather)

    @property
    def weight_n(self) -> Floats:
        """(1,)"""
        return np.array([self.flight.takeoff_mass_g * 1e-3 * GRAVITY_M_S2])

    def mean_a(self, factor: float) -> float:
        """Amps on the mean of the flight, the charge drawn over its time, at a factor on shaft power."""
        amps, _ = self._drawn(factor)
        return float(1 / (1 / (self._share * amps).sum(axis=1)).mean())

    def mean_w(self, factor: float) -> float:
        """Watts likewise."""
        amps, volts = self._drawn(factor)
        seconds = 1 / (self._share * amps).sum(axis=1)
        return float(((self._share * amps * volts).sum(axis=1) * seconds).sum() / seconds.sum())

    @property
    def measured_w(self) -> float:
        """What it drew, W: mean volts under load times mean amps."""
        return self.flight.mean_a * self._mean_v

    def _carrier(self, factor: float) -> Propulsion:
        return self._once.with_factor(factor)

    @cached_property
    def _once(self) -> Propulsion:
        """At a factor of 1."""
        flight = self.flight
        volts = flight.mean_voltage_v or flight.read_voltage_v
        assert volts is not None
        return propulsion(self.craft, flight.altitude_m, flight.air_temperature_c, 1.0, volts)

    @property
    def _share(self) -> Floats:
        return np.asarray(self.steps.seconds / self.steps.seconds.sum())

    def _drawn(self, factor: float) -> tuple[Floats, Floats]:
        """Amps and bus volts, ``(points, steps)``."""
        carrier, watts = self._carrier(factor), self._watts(factor)

        def flown(emf: Floats, ohm: Floats) -> tuple[Floats, Floats]:
            return self._behind(carrier, watts, emf[:, None], ohm[:, None])

        return self._warmed(watts, flown)

    def _warmed(self, watts: Floats, flown: Callable[[Floats, Floats], tuple[Floats, Floats]]) -> tuple[Floats, Floats]:
        """Amps and volts, ``(points, steps)``, behind a battery that what it loses in that flight warms.

        Source: one heat capacity and one cooling, as the cells of a pack have them. Not modelled: the lag's heat.
        """
        if self.flight.battery_series is None or self.flight.battery_mah is None:
            assert self.flight.mean_voltage_v is not None
            return flown(np.array([self.flight.mean_voltage_v]), np.array([LEAST_OHM]))
        rise_k = np.zeros(POINTS)
        for _ in range(WARM_PASSES):
            emf = self._emf_v(self._soc, rise_k)
            ohm = np.maximum(self._half_ohm(watts, emf, rise_k) * self._shape(self._soc, rise_k), LEAST_OHM)
            amps, volts = flown(emf, ohm)
            rise_k = self._warming_k_w @ (self._share * amps * (emf[:, None] - volts)).sum(axis=1)
        return amps, volts

    def _behind(self, carrier: Propulsion, watts: Floats, emf: Floats, ohm: Floats) -> tuple[Floats, Floats]:
        """Amps and volts behind volts without load and a resistance ``(points, 1)``."""
        flight, steps = self.flight, self.steps
        if flight.manner is Manner.BENCH:
            amps = self._throttled_a(carrier, emf, ohm, flight.throttle_percent / 100)
            return amps, emf - ohm * amps
        amps, _ = constant_power_current(emf, ohm, watts)
        amps = np.broadcast_to(amps, (len(emf), len(watts)))
        if not steps.punch.any():
            return amps, emf - ohm * amps
        # A burst is over before polarisation has followed: it goes on from where the flight before it left the volts.
        steady = amps[:, ~steps.punch].mean(axis=1)[:, None]
        fast = ohm * self._fast_share
        before = emf - (ohm - fast) * steady
        bursts = np.broadcast_to(self._throttled_a(carrier, before, fast, 1.0), amps.shape)
        volts = np.where(steps.punch, before - fast * bursts, emf - ohm * amps)
        return np.where(steps.punch, bursts, amps), volts

    def _watts(self, factor: float) -> Floats:
        """(steps,)"""
        motors = self._carrier(factor).step_power(self.weight_n, self.steps)[0]
        return np.broadcast_to(motors + self.craft.load_w, self.steps.seconds.shape)

    def _throttled_a(self, carrier: Propulsion, emf: Floats, ohm: Floats, duty: float) -> Floats:
        """(points, 1) Amps at a held throttle."""
        drive, one = carrier.drive, np.ones_like(emf[:, 0])
        slip = carrier.slip_rev_s(self.weight_n, self.steps)[..., np.flatnonzero(self.steps.duty > 0)[:1]]
        amps = throttle_current_a(drive, duty * one, emf[:, 0], ohm[:, 0], self.craft.load_w * one, slip * one)
        return np.asarray(amps)[:, None]

    @cached_property
    def _flown_mah(self) -> float:
        """Down to where the battery is followed."""
        assert self.flight.battery_mah is not None
        return self._used_mah or self.flight.read_charge_mah or HALF * self.flight.battery_mah

    @cached_property
    def _soc(self) -> Floats:
        """(points,) Along the charge that was drawn."""
        assert self.flight.battery_mah is not None
        share = (np.arange(POINTS) + 0.5) / POINTS
        return np.asarray(1 - share * min(self._flown_mah / self.flight.battery_mah, 1.0))

    @cached_property
    def _warming_k_w(self) -> Floats:
        """(points, points) Kelvin over the air at a point, of a watt lost at a point before it."""
        flight = self.flight
        assert flight.battery_series is not None
        assert flight.battery_mah is not None
        values = ocv_curve(flight.battery_family.value).values
        mass_kg = flight.battery_series * float(values.mean()) * flight.battery_mah / 1000 / WH_KG[flight.battery_class]
        step_s = 3.6 * self._flown_mah / flight.mean_a / POINTS
        after = (np.arange(POINTS)[:, None] - np.arange(POINTS)) * step_s
        kept = np.where(after < 0, 0.0, np.exp(-np.maximum(after, 0.0) / COOLING_S))
        gained_k_w = -float(np.expm1(-step_s / COOLING_S)) * COOLING_S / (mass_kg * SPECIFIC_HEAT)
        return np.asarray(gained_k_w * kept)

    def _emf_v(self, soc: Floats, rise_k: Floats) -> Floats:
        """Volts without load at states of charge, at the electrode's surface."""
        flight = self.flight
        assert flight.battery_series is not None
        assert flight.battery_mah is not None
        warm = arrhenius(np.array(LAG_ACTIVATION), self._kelvin(rise_k))
        hours, follows_s = LAG_DEFAULTS[flight.battery_class]
        seconds = 3.6 * (1 - soc) * flight.battery_mah / flight.mean_a
        lag = -np.expm1(-seconds / follows_s) * warm * hours * flight.mean_a / (flight.battery_mah / 1000)
        values = ocv_curve(flight.battery_family.value).values
        return flight.battery_series * np.interp(soc - lag, np.linspace(0.0, 1.0, len(values)), values)

    def _shape(self, soc: Floats, rise_k: Floats) -> Floats:
        """Resistance over that at half charge and 25 °C."""
        values = default_resistance_shape().values
        warm = arrhenius(np.array(RESISTANCE_ACTIVATION), self._kelvin(rise_k))
        return warm * np.interp(soc, np.linspace(0.0, 1.0, len(values)), values)

    def _kelvin(self, rise_k: Floats) -> Floats:
        return self.flight.air_temperature_c + ZERO_CELSIUS_K + rise_k

    def _half_ohm(self, watts: Floats, emf_v: Floats, rise_k: Floats) -> float:
        """The battery's resistance at half charge and 25 °C that its volts under load tell, its steady flight at such a
        power, and so much warmer than the air."""
        flight = self.flight
        if flight.mean_voltage_v is not None:
            # The mean over time, in which a held power spends more of it where volts are high.
            rest_v = float((emf_v**2).sum() / emf_v.sum())
            steady_a = self._steady_a(watts, flight.mean_voltage_v)
            felt_a = steady_a + self._fast_share * max(flight.mean_a - steady_a, 0.0)
            return (rest_v - flight.mean_voltage_v) / felt_a / float(self._shape(self._soc, rise_k).mean())
        assert flight.read_voltage_v is not None
        assert flight.battery_mah is not None
        read = self._used_mah if flight.read_charge_mah is None else flight.read_charge_mah
        soc = np.array([max(1 - read / flight.battery_mah, 0.0)])
        there_k = np.interp(soc, self._soc[::-1], rise_k[::-1])
        steady_a = self._steady_a(watts, flight.read_voltage_v)
        return float((self._emf_v(soc, there_k)[0] - flight.read_voltage_v) / steady_a / self._shape(soc, there_k)[0])

    @property
    def _used_mah(self) -> float:
        """As told, else by amps and minutes; 0 where no length was noted."""
        flight = self.flight
        return flight.charge_used_mah or 1000 * flight.mean_a * (flight.duration_min or 0.0) / 60

    def _steady_a(self, watts: Floats, volts: float) -> float:
        """Amps besides bursts: by the power asked for, on the bench as they were read."""
        if self.flight.manner is Manner.BENCH:
            return self.flight.mean_a
        return float(watts[~self.steps.punch].mean()) / volts

    @cached_property
    def _fast_share(self) -> float:
        """What of the resistance a burst feels on its mean; all of it where there is none."""
        if not self.steps.punch.any():
            return 1.0
        ratio = float(self.steps.seconds[self.steps.punch].mean()) / TAU1_S
        followed = 1 + float(np.expm1(-ratio)) / ratio
        return (1 + R1_SHARE * followed) / (1 + R1_SHARE)

    @property
    def _mean_v(self) -> float:
        if self.flight.mean_voltage_v is not None:
            return self.flight.mean_voltage_v
        flown_a = np.full((POINTS, 1), self.flight.mean_a)
        volts = self._warmed(self._watts(1.0), lambda emf, ohm: (flown_a, (emf - ohm * self.flight.mean_a)[:, None]))[1]
        return float(volts.mean())
