"""Power that a set of rotors needs to carry a weight, from momentum theory.

Sources: Leishman, *Principles of Helicopter Aerodynamics* (2nd ed., 2006), ch. 2 and 5, for hover, Glauert's
equation and the profile-power term. Not modelled: overlap of rotors, ground effect, vortex-ring descent, stall
and compressibility on the blades, the body's lift.
"""

from __future__ import annotations

import math

import numpy as np

from wise_cellar.core.physics.arrays import FloatOrArray, Floats

INDUCED_FACTOR = 1.15  # κ, non-uniform inflow
PROFILE_SPEED_FACTOR = 4.65
COAXIAL_AREA = 1.28
"""Discs that a coaxial pair is worth (Leishman, section 2.15: 1.28 times the area of one at equal thrust)."""
DUCTED_AREA, DUCT_DRAG = 1.2, 1.5
"""Discs that a rotor in a short duct is worth: 2σ with σ the area of the wake over the disc's, here 0.6 of at most 1,
where the wake of an open rotor contracts to 0.5 (Pereira, *Hover and Wind-Tunnel Testing of Shrouded Rotors*, PhD
thesis, University of Maryland, 2008, ch. 1); and the drag area of a craft with ducts over one without. Both values are
estimates for the class."""
DESCENT_GAIN, LEAST_DESCENT = 0.5, 0.7
"""Share of W·w that a slow descent wins back, and of level flight's power that it needs at least: estimates, because
momentum theory does not hold in the rotors' own wake (Leishman, section 2.13.6)."""


def default_figure_of_merit(diameter_m: float) -> float:
    """Figure of merit where none was measured: 0.42 to 76 mm, 0.50 at 100, 0.60 at 130, 0.66 from 250, straight
    between.

    ``diameter_m`` in metres. Source: our estimate for the class; low Reynolds numbers cost most on the smallest
    (Deters, Ananda & Selig, AIAA 2014-2151, measured small propellers at such speeds).
    """
    return float(np.interp(diameter_m, [0.076, 0.100, 0.130, 0.250], [0.42, 0.50, 0.60, 0.66]))


def default_drag_area_m2(diameter_m: float) -> float:
    """Drag area of a quad by propeller size, m²: a power law through 0.006 m² at 130 mm and 0.03 m² at 254 mm.

    Source: our estimate for the class. Not modelled: attitude, payload in the stream.
    """
    exponent = math.log(0.03 / 0.006) / math.log(254 / 130)
    return 0.006 * float((diameter_m / 0.130) ** exponent)


def disc_area_m2(count: FloatOrArray, diameter_m: FloatOrArray) -> FloatOrArray:
    """Area of the discs, m²: A = N·π·D²/4; numbers or arrays that broadcast.

    Source: geometry; discs that overlap are counted whole. Not modelled: the hub.
    """
    return count * np.pi * diameter_m**2 / 4


def hover_power_w(
    weight_n: FloatOrArray, density: FloatOrArray, area_m2: FloatOrArray, figure_of_merit: FloatOrArray
) -> FloatOrArray:
    """Shaft power to hover, W: W·v_h/FM with v_h = √(W/(2ρA)); newtons, kg/m³ and m², arrays that broadcast.

    Source: Leishman, *Principles of Helicopter Aerodynamics* (2nd ed., 2006), section 2.2 and 2.8. Not modelled: ground
    effect.
    """
    return weight_n * np.sqrt(weight_n / (2 * density * area_m2)) / figure_of_merit


def induced_velocity(thrust_n: FloatOrArray, density: FloatOrArray, area_m2: FloatOrArray,
                     along_m_s: FloatOrArray, through_m_s: FloatOrArray) -> Floats:  # fmt: skip
    """Glauert's v_i = v_h²/√(V_x² + (V_z + v_i)²), by Newton's method from the hover value.

    ``along_m_s`` lies in the disc, ``through_m_s`` crosses it downwards (≥ 0); m/s, arrays that broadcast. The left
    side
    minus the right rises monotonically in v_i, so the root is the only one.

    Source: Leishman, *Principles of Helicopter Aerodynamics* (2nd ed., 2006), section 2.14.
    """
    hover = np.asarray(thrust_n / (2 * density * area_m2), float)
    induced = np.sqrt(hover)
    for _ in range(12):
        through = through_m_s + induced
        speed = np.sqrt(along_m_s**2 + through**2)
        value = induced - hover / speed
        induced = np.maximum(induced - value / (1 + hover * through / speed**3), 1e-9)
    return np.asarray(induced)


def flight_power_w(
    weight_n: FloatOrArray, density: FloatOrArray, area_m2: FloatOrArray, figure_of_merit: FloatOrArray,
    drag_area_m2: FloatOrArray, airspeed_m_s: FloatOrArray, climb_m_s: FloatOrArray, tip_speed_m_s: FloatOrArray,
) -> tuple[Floats, Floats]:  # fmt: skip
    """Shaft power, W, and thrust, N, of level or climbing flight; the hover at zero speed.

    T = √(W² + D²), D = ½ρV²·CdA, disc tilt tan α = D/W, inflow through the disc V·sin α + w·cos α;
    P = κ·T·v_i + P₀(1 + 4.65 μ²) + D·V + W·w, P₀ = hover power − κ·W·v_h (at least 0), μ = V/tip speed.
    Where P₀ is held at 0 the induced factor is lowered instead, so that the hover power is met exactly. Arrays
    broadcast.

    Source: Leishman, *Principles of Helicopter Aerodynamics* (2nd ed., 2006), sections 2.14 and 5.5;
    climb as flow through the disc. Not modelled: the body's lift, stall of the retreating blade.
    """
    drag = 0.5 * density * airspeed_m_s**2 * drag_area_m2
    thrust = np.sqrt(weight_n**2 + drag**2)
    through = airspeed_m_s * drag / thrust + climb_m_s * weight_n / thrust
    along = airspeed_m_s * weight_n / thrust
    induced = induced_velocity(thrust, density, area_m2, along, through)
    hover_ideal = weight_n * np.sqrt(weight_n / (2 * density * area_m2))
    factor = np.minimum(INDUCED_FACTOR, 1 / figure_of_merit)
    profile = hover_ideal / figure_of_merit - factor * hover_ideal
    advance = airspeed_m_s / tip_speed_m_s
    power = (
        factor * thrust * induced
        + profile * (1 + PROFILE_SPEED_FACTOR * advance**2)
        + drag * airspeed_m_s
        + weight_n * climb_m_s
    )
    return np.asarray(power), np.asarray(thrust)


def default_thrust_coefficient(pitch_ratio: float, blades: float) -> float:
    """Static Ct ≈ (0.08 + 0.09·pitch/diameter)(blades/2)^0.7, thrust Ct·ρ·n²·D⁴ with n in rev/s.

    Source: our estimate for small propellers. Not modelled: Reynolds number, the blades' outline.
    """
    return (0.08 + 0.09 * pitch_ratio) * float((blades / 2) ** 0.7)


def power_coefficient(thrust_coefficient: float, figure_of_merit: float) -> float:
    """Static Cp = Ct^1.5·√(2/π)/FM, power Cp·ρ·n³·D⁵: the same hover power as :func:`hover_power_w`.

    Source: the definitions of Ct, Cp and the figure of merit put together (McCormick, *Aerodynamics, Aeronautics and
    Flight Mechanics*, 2nd ed., ch. 6).
    """
    return math.pow(thrust_coefficient, 1.5) * math.sqrt(2 / math.pi) / figure_of_merit


def static_figure_of_merit(thrust_coefficient: float, power_coefficient_: float) -> float:
    """:func:`power_coefficient` the other way round: FM = Ct^1.5·√(2/π)/Cp, of a propeller alone.

    Source: as there (McCormick, ch. 6). Not modelled: what the frame under it takes.
    """
    return math.pow(thrust_coefficient, 1.5) * math.sqrt(2 / math.pi) / power_coefficient_


def descent_power_w(level_w: Floats, weight_n: Floats, sink_m_s: Floats) -> Floats:
    """Power in a descent, W: max(P − 0.5·W·w, 0.7·P); watts, newtons and m/s, arrays that broadcast.

    Source: our estimate; momentum theory does not hold in the rotors' own wake (Leishman, *Principles of Helicopter
    Aerodynamics*, 2nd ed., 2006, section 2.13.6).
    """
    return np.maximum(level_w - DESCENT_GAIN * weight_n * sink_m_s, LEAST_DESCENT * level_w)
