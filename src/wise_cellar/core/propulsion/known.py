"""A known flight flown again: what the craft would have drawn in it, as it was flown, for a factor on power.

The battery is the one that was told: its open-circuit voltage from full to where the flight ended, behind one
resistance that makes its volts under load what was read. Without it, the mean volts under load and no resistance:
bursts then see no sag.
"""

from __future__ import annotations

from dataclasses import dataclass
from functools import cached_property

import numpy as np

from wise_cellar.core.cells import LAG_ACTIVATION, LAG_DEFAULTS, R1_SHARE, TAU1_S
from wise_cellar.core.documents import Block, BlockKind, Conditions, Craft, KnownFlight, Manner, Mission
from wise_cellar.core.physics.arrays import GRAVITY_M_S2, ZERO_CELSIUS_K, Floats
from wise_cellar.core.physics.cell import arrhenius, constant_power_current, default_resistance_shape
from wise_cellar.core.physics.motor import throttle_current_a
from wise_cellar.core.physics.ocv import ocv_curve
from wise_cellar.core.propulsion.carrier import Propulsion, propulsion
from wise_cellar.core.propulsion.steps import MINUTE_S, StepArrays

POINTS = 24
_KINDS = {Manner.MANUAL: BlockKind.MANUAL, Manner.BENCH: BlockKind.THROTTLE}
LEAST_OHM = 1e-12
WARMER_K = 10.0
"""How much warmer than the air cells are on the mean of a flight, for their lag: an estimate."""
HALF = 0.5
"""Of the capacity: how far down a battery is taken to go where only a current was read."""


@dataclass(frozen=True)
class _Battery:
    """Along the charge that was drawn, shape ``(points,)``: volts without load, and resistance over its value at half
    charge."""

    emf_v: Floats
    shape: Floats


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
        flight, steps = self.flight, self.steps
        carrier = self._carrier(factor)
        motors = carrier.step_power(self.weight_n, steps)[0]
        watts = np.broadcast_to(motors + self.craft.load_w, steps.seconds.shape)
        emf = self._battery.emf_v[:, None]
        ohm = np.maximum(self._half_ohm(watts) * self._battery.shape, LEAST_OHM)[:, None]
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

    def _throttled_a(self, carrier: Propulsion, emf: Floats, ohm: Floats, duty: float) -> Floats:
        """(points, 1) Amps at a held throttle."""
        drive, one = carrier.drive, np.ones_like(emf[:, 0])
        slip = carrier.slip_rev_s(self.weight_n, self.steps)[..., np.flatnonzero(self.steps.duty > 0)[:1]]
        amps = throttle_current_a(drive, duty * one, emf[:, 0], ohm[:, 0], self.craft.load_w * one, slip * one)
        return np.asarray(amps)[:, None]

    @cached_property
    def _battery(self) -> _Battery:
        flight = self.flight
        if flight.battery_series is None or flight.battery_mah is None:
            assert flight.mean_voltage_v is not None
            return _Battery(np.array([flight.mean_voltage_v]), np.zeros(1))
        used = self._used_mah or flight.read_charge_mah or HALF * flight.battery_mah
        share = (np.arange(POINTS) + 0.5) / POINTS
        soc = 1 - share * min(used / flight.battery_mah, 1.0)
        return _Battery(self._emf_v(soc), _shape(soc))

    def _emf_v(self, soc: Floats) -> Floats:
        """Volts without load at states of charge, at the electrode's surface."""
        flight = self.flight
        assert flight.battery_series is not None
        assert flight.battery_mah is not None
        kelvin = np.array(flight.air_temperature_c + WARMER_K + ZERO_CELSIUS_K)
        warm = float(arrhenius(np.array(LAG_ACTIVATION), kelvin))
        lag = warm * LAG_DEFAULTS[flight.battery_class][0] * flight.mean_a / (flight.battery_mah / 1000)
        values = ocv_curve(flight.battery_family.value).values
        return flight.battery_series * np.interp(soc - lag, np.linspace(0.0, 1.0, len(values)), values)

    def _half_ohm(self, watts: Floats) -> float:
        """The battery's resistance at half charge that its volts under load tell, its steady flight at such a power."""
        flight, battery = self.flight, self._battery
        if len(battery.emf_v) == 1:
            return 0.0
        if flight.mean_voltage_v is not None:
            # The mean over time, in which a held power spends more of it where volts are high.
            rest_v = float((battery.emf_v**2).sum() / battery.emf_v.sum())
            steady_a = self._steady_a(watts, flight.mean_voltage_v)
            felt_a = steady_a + self._fast_share * max(flight.mean_a - steady_a, 0.0)
            return (rest_v - flight.mean_voltage_v) / felt_a / float(battery.shape.mean())
        assert flight.read_voltage_v is not None
        assert flight.battery_mah is not None
        read = self._used_mah if flight.read_charge_mah is None else flight.read_charge_mah
        soc = np.array([max(1 - read / flight.battery_mah, 0.0)])
        steady_a = self._steady_a(watts, flight.read_voltage_v)
        return float((self._emf_v(soc)[0] - flight.read_voltage_v) / steady_a / _shape(soc)[0])

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
        carrier = self._carrier(1.0)
        watts = np.broadcast_to(
            carrier.step_power(self.weight_n, self.steps)[0] + self.craft.load_w, self.steps.seconds.shape
        )
        sag = self._half_ohm(watts) * self._battery.shape * self.flight.mean_a
        return float((self._battery.emf_v - sag).mean())


def _shape(soc: Floats) -> Floats:
    values = default_resistance_shape().values
    return np.interp(soc, np.linspace(0.0, 1.0, len(values)), values)
