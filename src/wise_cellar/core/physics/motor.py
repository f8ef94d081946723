"""Brushless motors behind their controllers, and full throttle on a sagging source.

A motor with speed constant k (rev/s per volt), torque constant Kt = 1/(2πk), winding resistance R and no-load
current I₀: I = Q/Kt + I₀, V = n/k + I·R (Drela, *First-Order DC Electric Motor Model*, 2007). The controller hands it
V = duty·V_bus and keeps η of the power, less of it at part throttle.

A propeller in an airstream that would turn it at u without thrust gives T = k_T·(n² − u·n) and takes
Q = k_Q·(n² − c·u·n): coefficients that fall straight with the advance ratio, c = :data:`TORQUE_UNLOADING`. Rotors of a
multirotor are taken as static, u = 0.
"""

from __future__ import annotations

from dataclasses import dataclass, fields

import numpy as np

from wise_cellar.core.physics.arrays import FloatOrArray, Floats, Ints
from wise_cellar.core.physics.numbers import held_between, larger, pick, plain, smaller, square_root, where
from wise_cellar.core.physics.wing import TORQUE_UNLOADING

MOST_DUTY = 0.95
"""Above this duty nothing is left to hold attitude with."""


@dataclass(frozen=True)
class Drive:
    """Motors, controllers and propellers of every flight, each of shape ``(flights,)``, SI."""

    count: Floats
    kv_rev_s_v: Floats
    winding_ohm: Floats
    no_load_a: Floats
    controller_efficiency: Floats
    """At full duty."""
    part_throttle_loss: Floats
    """What it loses of it towards no duty at all: :func:`controller_efficiency`."""
    thrust_n_s2: Floats
    """Thrust of one rotor over n²: Ct·ρ·D⁴."""
    torque_nm_s2: Floats
    """Torque of one rotor over n²: Cp·ρ·D⁵/(2π), times the calibration factor."""

    def take(self, flights: Ints) -> Drive:
        """The drive of some of the flights."""
        return Drive(*(pick(getattr(self, f.name), flights) for f in fields(self)))

    def plain(self, flight: int) -> Drive:
        """The drive of one flight, in plain numbers."""
        return Drive(*(plain(getattr(self, f.name), flight) for f in fields(self)))


def controller_efficiency(full: Floats, loss: Floats, duty: Floats) -> Floats:
    """η at a duty, as a share: η₁ − k·(1 − d), arrays that broadcast.

    Source: our estimate of a straight fall: each pulse costs the switches alike, however short, and what runs on
    between pulses drops its volts across them, or across diodes, which costs about twice as much (Gong, MacNeill &
    Verstraete, *Performance testing and modeling of a brushless DC motor, electronic speed controller and propeller*,
    AIAA 2018-4584, saw such a fall). Not modelled: pulse frequency, temperature.
    """
    return full - loss * (1.0 - held_between(duty, 0.0, 1.0))


def motor_current_a(drive: Drive, torque_nm: Floats) -> Floats:
    """Current of one motor at a shaft torque, A: Q/Kt + I₀, Kt = 1/(2π·k); N·m, shape ``(flights,)``.

    Source: Drela, *First-Order DC Electric Motor Model* (2007). Not modelled: iron loss that grows with speed.
    """
    return torque_nm * 2 * np.pi * drive.kv_rev_s_v + drive.no_load_a


def operating_point(
    drive: Drive, thrust_n: Floats, shaft_power_w: Floats, bus_v: FloatOrArray = np.nan
) -> tuple[Floats, Floats]:  # fmt: skip
    """Electrical power of all motors at the bus, W, and the volts each motor needs.

    ``thrust_n`` and ``shaft_power_w`` are for the whole craft. Speed follows from the static thrust law (in forward
    flight the true speed is a little higher, so duty is slightly low there); torque from power over speed. Arrays
    broadcast against the drive's. ``bus_v`` is what the duty is taken of, the flight's mean: what is not a number is
    full duty. Source: Drela, *First-Order DC Electric Motor Model* (2007). Not modelled: that the duty rises as the
    pack runs down.
    """
    speed = np.sqrt(thrust_n / drive.count / drive.thrust_n_s2)
    torque = shaft_power_w / drive.count / (2 * np.pi * speed)
    current = motor_current_a(drive, torque)
    volts = speed / drive.kv_rev_s_v + current * drive.winding_ohm
    duty = np.where(np.isnan(bus_v), 1.0, volts / bus_v)
    kept = controller_efficiency(drive.controller_efficiency, drive.part_throttle_loss, duty)
    return drive.count * volts * current / kept, volts


def full_throttle(
    drive: Drive, emf_v: Floats, source_ohm: Floats, load_w: Floats, slip: FloatOrArray = 0.0,
    kept: Floats | None = None,
) -> tuple[Floats, Floats]:  # fmt: skip
    """Bus current, A, and bus voltage, V, with every motor at duty 1 on one sagging source.

    At speed n a motor takes I = q·(n² − c·u·n) + I₀ at V = n/k + I·R; the source gives V = E − R_s·(N·I/η + P_load/V).
    The difference falls monotonically in n wherever V is above the load's own collapse, and is solved by
    Newton's method from a speed that is too high. ``load_w`` is everything else on the bus, ``slip`` is u, rev/s,
    ``kept`` η where it is not that of full duty. Where the source cannot supply the loads at any voltage, the bus is at
    0 V and the source is shorted. Shape ``(flights,)``. Source: Drela, *First-Order DC Electric Motor Model* (2007),
    put on a Thevenin source.
    """
    torque_current = drive.torque_nm_s2 * 2 * np.pi * drive.kv_rev_s_v
    unloaded = TORQUE_UNLOADING * slip
    current_share = drive.count / (drive.controller_efficiency if kept is None else kept)
    # Without R_s and loads the balance is a quadratic in n; its positive root starts from above.
    a = torque_current * (drive.winding_ohm + source_ohm * current_share)
    b = 1 / drive.kv_rev_s_v
    b_slip = b - a * unloaded
    c = drive.no_load_a * (drive.winding_ohm + source_ohm * current_share) - emf_v
    speed = 2 * larger(-c, 0.0) / (b_slip + square_root(b_slip * b_slip - 4 * a * smaller(c, 0.0)))
    for _ in range(4):
        motor = torque_current * speed * (speed - unloaded) + drive.no_load_a
        bus = larger(speed * b + motor * drive.winding_ohm, 1e-3)
        loads = source_ohm * load_w / bus
        slope_bus = b + torque_current * (2 * speed - unloaded) * drive.winding_ohm
        value = a * speed**2 + b_slip * speed + c + loads
        slope = 2 * a * speed + b_slip - loads / bus * slope_bus
        speed = larger(speed - value / larger(slope, 0.05 * b), 0.0)
    motor = larger(torque_current * speed * (speed - unloaded) + drive.no_load_a, 0.0)
    bus = speed * b + motor * drive.winding_ohm
    current = current_share * motor + load_w / larger(bus, 1e-3)
    # Loads of constant power have no operating point on a source that is too weak: it is drawn down to nothing.
    collapsed = current * source_ohm >= emf_v
    shorted = larger(emf_v, 0.0) / larger(source_ohm, 1e-12)
    return where(collapsed, shorted, current), where(collapsed, 0.0, bus)


def throttle_current_a(
    drive: Drive, duty: Floats, emf_v: Floats, source_ohm: Floats, load_w: Floats, slip: FloatOrArray = 0.0
) -> Floats:
    """Bus current, A, with every motor at ``duty`` on one sagging source.

    At duty d a controller is a transformer: the motor sees d·V and the bus d·I. Put on the motor's side, the source is
    E' = d·E behind R' = d²·R, and what flows there is the bus current over d. Shape ``(flights,)``.

    The controller keeps of the power what it keeps at that duty.

    Source: an averaged buck converter (Erickson & Maksimović, *Fundamentals of Power Electronics*, ch. 3).
    """
    kept = controller_efficiency(drive.controller_efficiency, drive.part_throttle_loss, duty)
    current, _ = full_throttle(drive, duty * emf_v, duty**2 * source_ohm, load_w, slip, kept)
    return duty * current


def speed_on_rev_s(drive: Drive, motor_v: Floats, slip: FloatOrArray = 0.0) -> Floats:
    """Speed, rev/s, at which R·(q·(n² − c·u·n) + I₀) + n/k is the volts at the motor: the positive root of the
    quadratic.

    Source: Drela, *First-Order DC Electric Motor Model* (2007).
    """
    a = drive.torque_nm_s2 * 2 * np.pi * drive.kv_rev_s_v * drive.winding_ohm
    b = 1 / drive.kv_rev_s_v - a * TORQUE_UNLOADING * slip
    room = np.maximum(motor_v - drive.no_load_a * drive.winding_ohm, 0.0)
    return np.asarray(2 * room / (b + np.sqrt(b * b + 4 * a * room)))


def full_throttle_thrust_n(drive: Drive, bus_v: Floats, slip: FloatOrArray = 0.0) -> Floats:
    """Thrust of all rotors at duty 1 on ``bus_v``, N: N·k_T·(n² − u·n) at the speed of :func:`speed_on_rev_s`; at least
    0.

    Source: as the module has it.
    """
    speed = speed_on_rev_s(drive, bus_v, slip)
    return np.asarray(drive.count * drive.thrust_n_s2 * np.maximum(speed * (speed - slip), 0.0))
