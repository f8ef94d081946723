"""What carries a craft, lowered to SI: rotors or a wing, with motors, propellers and the air, ready for any weight."""

from __future__ import annotations

import math
from dataclasses import dataclass, replace
from typing import Protocol

import numpy as np

from wise_cellar.core.documents import Around, Craft, DocumentError, KnownFlight, Wing, WingLooks
from wise_cellar.core.physics import wing as law
from wise_cellar.core.physics.arrays import GRAVITY_M_S2, ZERO_CELSIUS_K, FloatOrArray, Floats
from wise_cellar.core.physics.atmosphere import air_density
from wise_cellar.core.physics.motor import Drive, operating_point
from wise_cellar.core.physics.rotor import (
    DUCT_DRAG,
    default_drag_area_m2,
    descent_power_w,
    disc_area_m2,
    flight_power_w,
)
from wise_cellar.core.propulsion.drive_numbers import (
    PART_THROTTLE_LOSS,
    DriveNumbers,
    area_share,
    drive_numbers,
    full_efficiency,
)
from wise_cellar.core.propulsion.steps import GUST_WEIGHTS, StepArrays
from wise_cellar.core.units import format_number


class Propulsion(Protocol):
    """What a flight asks of rotors or a wing. ``weight_n`` broadcasts against ``(steps,)``."""

    @property
    def density(self) -> float:
        """Of the air, kg/m³."""

    @property
    def factor(self) -> float:
        """Calibration factor on power."""

    @property
    def drive(self) -> Drive:
        """Motors and propellers, each array of shape ``(1,)``."""

    def with_factor(self, factor: float) -> Propulsion:
        """The same at another calibration factor."""

    def power(self, weight_n: Floats, airspeed_m_s: Floats, climb_m_s: Floats) -> tuple[Floats, Floats]:
        """Electrical power of the motors at the bus, W, and the volts each needs, in steady flight."""

    def step_power(self, weight_n: Floats, steps: StepArrays) -> tuple[Floats, Floats]:
        """The same for the steps of a mission; gusts swing the airspeed about its mean."""

    def airspeed_m_s(self, weight_n: Floats, steps: StepArrays) -> Floats:
        """Airspeed at which each step is flown."""

    def slip_rev_s(self, weight_n: Floats, steps: StepArrays) -> Floats:
        """Propeller speed without thrust in each step, for full or held throttle."""

    def thrust_wanted_n(self, weight_n: Floats, airspeed_m_s: Floats) -> Floats:
        """What the thrust margin is counted over: weight of rotors, drag of a wing."""


@dataclass(frozen=True)
class RotorPropulsion:
    """Rotors that carry the craft."""

    density: float
    area_m2: float
    diameter_m: float
    figure_of_merit: float
    drag_area_m2: float
    factor: float
    drive: Drive
    bus_v: FloatOrArray
    """Mean volts that the controllers work from; not a number where none are known, and full duty is taken."""

    def with_factor(self, factor: float) -> RotorPropulsion:
        """The same at another calibration factor, which is one on power and so on torque."""
        return replace(self, factor=factor, drive=_scaled(self.drive, factor / self.factor))

    def power(self, weight_n: Floats, airspeed_m_s: Floats, climb_m_s: Floats) -> tuple[Floats, Floats]:
        """Level or climbing flight, or the hover at no speed: :func:`flight_power_w` through :func:`operating_point`.

        Not modelled: that propellers turn faster in forward flight than in the hover of the same thrust.
        """
        return self._power(weight_n, airspeed_m_s, climb_m_s, np.ones(1))

    def _power(
        self, weight_n: Floats, airspeed_m_s: Floats, climb_m_s: Floats, ratio: Floats
    ) -> tuple[Floats, Floats]:  # fmt: skip
        """The power in steady flight, and the volts at so many times that power: thrust goes as its power's ⅔."""
        hover_speed = np.sqrt(weight_n / self.drive.count / self.drive.thrust_n_s2)
        shaft, thrust = flight_power_w(
            weight_n, self.density, self.area_m2, self.figure_of_merit, self.drag_area_m2, airspeed_m_s, climb_m_s,
            np.pi * hover_speed * self.diameter_m,
        )  # fmt: skip
        shaft = shaft * self.factor
        power, volts = operating_point(self.drive, thrust, shaft, self.bus_v)
        if np.any(livelier := (ratio > 0) & (ratio != 1.0)):
            more = np.where(livelier, ratio, 1.0)
            volts = operating_point(self.drive, thrust * more ** (2 / 3), shaft * more)[1]
        return power, volts

    def step_power(self, weight_n: Floats, steps: StepArrays) -> tuple[Floats, Floats]:
        """Steps of a mission; circles ask for more lift, a descent for less power."""
        airspeed = self.airspeed_m_s(weight_n, steps)
        lift = weight_n * law.load_factor(airspeed, steps.radius_m)
        climb = np.maximum(steps.climb_m_s, 0.0)
        power, volts = np.zeros((2, *lift.shape))
        for swing, share in _gusts(steps):
            one, need = self._power(lift, np.abs(airspeed + swing * steps.gust_m_s), climb, steps.ratio)
            power, volts = power + share * one, volts + share * need
        down = descent_power_w(power, lift, np.maximum(-steps.climb_m_s, 0.0))
        return down * steps.ratio, np.where(steps.ratio > 0, volts, 0.0)

    def airspeed_m_s(self, _weight_n: Floats, steps: StepArrays) -> Floats:
        """As asked for; where a place is held it is the wind."""
        return steps.airspeed_m_s

    def slip_rev_s(self, weight_n: Floats, steps: StepArrays) -> Floats:
        """None: rotors are taken as static."""
        return np.zeros(np.broadcast(weight_n, steps.airspeed_m_s).shape)

    def thrust_wanted_n(self, weight_n: Floats, _airspeed_m_s: Floats) -> Floats:
        """The weight."""
        return weight_n


@dataclass(frozen=True)
class WingPropulsion:
    """A wing that carries the craft and propellers that pull it. It is never flown slower than its stall."""

    density: float
    polar: law.Polar
    efficiency: float
    """From battery to thrust."""
    pitch_m: float
    factor: float
    drive: Drive

    def with_factor(self, factor: float) -> WingPropulsion:
        """The same at another calibration factor, which is one on power and so on torque."""
        return replace(self, factor=factor, drive=_scaled(self.drive, factor / self.factor))

    def stall_m_s(self, lift_n: Floats) -> Floats:
        """Speed of the stall at a lift."""
        return np.asarray(law.stall_speed_m_s(self.polar, self.density, lift_n))

    def holding_m_s(self, weight_n: Floats) -> Floats:
        """Where no speed is asked for, m/s: that of least power, at least 1.2 times the stall."""
        least = law.least_power_speed_m_s(self.polar, self.density, weight_n)
        return np.maximum(least, law.SAFE_OVER_STALL * self.stall_m_s(weight_n))

    def power(self, weight_n: Floats, airspeed_m_s: Floats, climb_m_s: Floats) -> tuple[Floats, Floats]:
        """(D·V + W·w)/η, at least 0: a steep descent glides with the motors at rest.

        Source: Anderson, *Aircraft Performance and Design* (1999), ch. 5; the efficiency from battery to thrust is our
        estimate until a known cruise tells it.
        """
        return self._power(weight_n, airspeed_m_s, climb_m_s, np.ones(1))

    def _power(
        self, weight_n: Floats, airspeed_m_s: Floats, climb_m_s: Floats, ratio: Floats
    ) -> tuple[Floats, Floats]:  # fmt: skip
        """The power in steady flight, and the volts at so many times that power, as of so many times that thrust."""
        airspeed = np.maximum(airspeed_m_s, self.stall_m_s(weight_n))
        thrust = law.drag_n(self.polar, self.density, weight_n, airspeed) + weight_n * climb_m_s / airspeed
        thrust = np.maximum(np.asarray(thrust), 0.0)
        power = self.factor * thrust * airspeed / self.efficiency
        drive, each = self.drive, ratio * thrust / self.drive.count
        slip = np.asarray(law.slip_rev_s(airspeed, self.pitch_m))
        back_v = law.propeller_speed_rev_s(each, drive.thrust_n_s2, slip) / drive.kv_rev_s_v
        # The motor's share of the power at V = n/k + I·R: a quadratic in V.
        motor_w = ratio * power * drive.controller_efficiency / drive.count
        volts = 0.5 * (back_v + np.sqrt(back_v**2 + 4 * drive.winding_ohm * motor_w))
        return power, np.where(power > 0, volts, 0.0)

    def step_power(self, weight_n: Floats, steps: StepArrays) -> tuple[Floats, Floats]:
        """Steps of a mission; circles ask for more lift."""
        airspeed = self.airspeed_m_s(weight_n, steps)
        lift = weight_n * law.load_factor(airspeed, self._radius_m(weight_n, steps))
        power, volts = np.zeros((2, *lift.shape))
        for swing, share in _gusts(steps):
            speed = np.maximum(airspeed + swing * steps.gust_m_s, 0.0)
            one, need = self._power(lift, speed, steps.climb_m_s, steps.ratio)
            power, volts = power + share * one, volts + share * need
        return power * steps.ratio, np.where(steps.ratio > 0, volts, 0.0)

    def airspeed_m_s(self, weight_n: Floats, steps: StepArrays) -> Floats:
        """As asked for, but never under the stall, in a circle under its own."""
        radius = self._radius_m(weight_n, steps)
        holding = self.holding_m_s(weight_n)
        turning = law.turning_stall_m_s(np.where(steps.holding, law.SAFE_OVER_STALL, 1.0) * self.stall_m_s(weight_n),
                                        radius)  # fmt: skip
        return np.maximum(np.where(steps.holding, holding, steps.airspeed_m_s), turning)

    def slip_rev_s(self, weight_n: Floats, steps: StepArrays) -> Floats:
        """By the airspeed; none on the ground."""
        airspeed = self.airspeed_m_s(weight_n, steps)
        return np.where(steps.ground, 0.0, law.slip_rev_s(airspeed, self.pitch_m))

    def thrust_wanted_n(self, weight_n: Floats, airspeed_m_s: Floats) -> Floats:
        """The drag in level flight."""
        airspeed = np.maximum(airspeed_m_s, self.stall_m_s(weight_n))
        return np.asarray(law.drag_n(self.polar, self.density, weight_n, airspeed))

    def tightest_m(self, weight_n: Floats) -> Floats:
        """Least radius that is circled, m: 1.6·V_s²/g, our estimate: at 1.44 no speed is left to fly it at."""
        return np.asarray(law.TIGHTEST_TURN * self.stall_m_s(weight_n) ** 2 / GRAVITY_M_S2)

    def _radius_m(self, weight_n: Floats, steps: StepArrays) -> Floats:
        return np.maximum(steps.radius_m, self.tightest_m(weight_n))


def _gusts(steps: StepArrays) -> tuple[tuple[float, float], ...]:
    return GUST_WEIGHTS if steps.gust_m_s else ((0.0, 1.0),)


def propulsion(
    craft: Craft, altitude_m: float, air_temperature_c: float, factor: float, bus_v: FloatOrArray = np.nan
) -> Propulsion:  # fmt: skip
    """Propulsion of ``craft`` in the given air, its power multiplied by ``factor``, on a bus of ``bus_v`` on the mean:
    a number, or of shape ``(flights, 1)``; not a number: full duty.

    Raises :class:`DocumentError` when a hover test or known cruises contradict the craft. Source: `physics/rotor.py` or
    `physics/wing.py`, whichever carries it; the factor is what known flights ask for (`calibration.py`).
    """
    if craft.wing is not None:
        return wing_propulsion(craft, craft.wing, altitude_m, air_temperature_c, factor)
    return rotor_propulsion(craft, altitude_m, air_temperature_c, factor, bus_v)


def rotor_propulsion(
    craft: Craft, altitude_m: float, air_temperature_c: float, factor: float, bus_v: FloatOrArray = np.nan
) -> RotorPropulsion:  # fmt: skip
    """Propulsion of a craft on rotors; the discs of pairs and in ducts count as :func:`area_share` has it.

    Source: momentum theory (`physics/rotor.py`), the drag area as given or our default by size. Not modelled: one rotor
    in another's wake besides coaxial pairs, lift of the body.
    """
    density = float(air_density(altitude_m, air_temperature_c + ZERO_CELSIUS_K))
    rotors, numbers = craft.rotors, drive_numbers(craft)
    diameter = rotors.diameter_mm * 1e-3
    # A pair takes the power of its thrust on a smaller disc than two apart would share.
    share = area_share(rotors)
    drag = default_drag_area_m2(diameter) * (DUCT_DRAG if rotors.around is Around.DUCT else 1.0)
    drive = _drive(craft, numbers, density, factor / math.sqrt(share), bus_v)
    return RotorPropulsion(
        density,
        float(disc_area_m2(rotors.count, diameter)) * share,
        diameter,
        numbers.figure_of_merit,
        craft.drag_area_m2 or drag,
        factor,
        drive,
        bus_v,
    )


def wing_propulsion(
    craft: Craft, wing: Wing, altitude_m: float, air_temperature_c: float, factor: float
) -> WingPropulsion:
    """Propulsion of a craft on a wing.

    Source: the parabolic polar (`physics/wing.py`), one efficiency of the drive for all speeds. Not modelled: how that
    falls away from the propeller's best speed, and the wash over the wing.
    """
    density = float(air_density(altitude_m, air_temperature_c + ZERO_CELSIUS_K))
    drive = _drive(craft, drive_numbers(craft), density, factor)
    return WingPropulsion(
        density, _polar(wing, zero_lift_drag(craft, wing)), _efficiency(wing), craft.rotors.pitch_mm * 1e-3, factor,
        drive,
    )  # fmt: skip


LOOKS_DRAG = {WingLooks.CLEAN: 0.025, WingLooks.TIDY: 0.035, WingLooks.BOXY: 0.050}
"""Drag coefficient without lift on the wing's area by what a craft looks like, ± 20 %: estimates for the class."""


def zero_lift_drag(craft: Craft, wing: Wing) -> float:
    """Drag coefficient without lift: as given, else the median of what the known cruises ask for, else the default.

    Raises :class:`DocumentError` when the cruises leave no drag. Source: the polar solved for the drag of a level
    cruise; that the median is taken, and the default, are our estimates.
    """
    if wing.zero_lift_drag is not None:
        return wing.zero_lift_drag
    cruises = [(place, flight) for place, flight in enumerate(craft.known_flights) if flight.used]
    found = [
        (place, _cruise_drag(craft, wing, flight))
        for place, flight in cruises
        if flight.level and flight.airspeed_m_s > 0 and flight.mean_voltage_v is not None
    ]
    if not found:
        return LOOKS_DRAG[wing.looks]
    middle = float(np.median([drag for _, drag in found]))
    if not 0.005 <= middle <= 0.3:
        raise DocumentError(
            f"The known cruises ask for a drag coefficient of {format_number(middle, 3)} without lift; aircraft"
            " have 0.005 to 0.3. Check mass, airspeed, volts and amps, or the wing's area and its drive's"
            " efficiency.",
            f"known_flights.{found[0][0]}.airspeed_m_s",
        )
    return middle


def _cruise_drag(craft: Craft, wing: Wing, flight: KnownFlight) -> float:
    """(P·η/V − k·W²/(q·S))/(q·S), P without the other loads."""
    density = float(air_density(flight.altitude_m, flight.air_temperature_c + ZERO_CELSIUS_K))
    weight, airspeed = flight.takeoff_mass_g * 1e-3 * GRAVITY_M_S2, flight.airspeed_m_s
    drag = (flight.mean_a * (flight.mean_voltage_v or 0.0) - craft.load_w) * _efficiency(wing) / airspeed
    polar = _polar(wing, 0.0)
    induced = float(law.drag_n(polar, density, weight, airspeed))
    return (drag - induced) / (0.5 * density * airspeed**2 * polar.area_m2)


def _polar(wing: Wing, zero_lift: float) -> law.Polar:
    return law.Polar(wing.area_dm2 * 1e-2, wing.aspect_ratio, zero_lift, wing.span_efficiency, wing.greatest_lift)


def _efficiency(wing: Wing) -> float:
    return wing.drive_efficiency or law.DEFAULT_DRIVE_EFFICIENCY


def _drive(craft: Craft, numbers: DriveNumbers, density: float, factor: float, bus_v: FloatOrArray = np.nan) -> Drive:
    diameter = craft.rotors.diameter_mm * 1e-3
    torque = numbers.power_coefficient * factor * density * diameter**5 / (2 * math.pi)
    return Drive(
        count=_one(craft.rotors.count),
        kv_rev_s_v=_one(numbers.kv_rev_s_v),
        winding_ohm=_one(numbers.winding_ohm),
        no_load_a=_one(numbers.no_load_a),
        controller_efficiency=np.atleast_1d(full_efficiency(craft, bus_v)),
        part_throttle_loss=_one(PART_THROTTLE_LOSS[craft.esc.freewheeling]),
        thrust_n_s2=_one(numbers.thrust_coefficient * density * diameter**4),
        torque_nm_s2=_one(torque),
    )


def _scaled(drive: Drive, by: float) -> Drive:
    return replace(drive, torque_nm_s2=drive.torque_nm_s2 * by)


def _one(value: float) -> Floats:
    return np.array([float(value)])
