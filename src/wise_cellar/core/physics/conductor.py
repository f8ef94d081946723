"""Strips, wires and contacts: resistance, mass, heating."""

from __future__ import annotations

import math
from dataclasses import dataclass
from functools import cached_property

import numpy as np

from wise_cellar.core.physics.arrays import FloatOrArray, Floats


@dataclass(frozen=True)
class Metal:
    """Properties at 20 °C: resistivity Ω·m, temperature coefficient 1/K, density kg/m³, specific heat J/(kg K)."""

    resistivity: float
    temperature_coefficient: float
    density: float
    specific_heat: float


# Resistivity, coefficient and density: handbook values for annealed metal (CRC Handbook of Chemistry and
# Physics); plated steel and brass vary by alloy.
METALS: dict[str, Metal] = {
    "copper": Metal(1.724e-8, 0.0039, 8960, 385),
    "nickel": Metal(6.99e-8, 0.006, 8900, 444),
    "nickel-plated steel": Metal(1.43e-7, 0.005, 7850, 480),
    "brass": Metal(6.6e-8, 0.0015, 8500, 380),
    "aluminium": Metal(2.65e-8, 0.0039, 2700, 897),
}

SURFACE_FREE = 12.0  # W/(m² K), a strip or wire in still air
SURFACE_WRAPPED = 8.0  # under heat-shrink
STRIP_RISE_K = 30.0
LEAD_RISE_K = 40.0


@dataclass(frozen=True)
class Heating:
    """How a conductor warms: first order, ``rise_k_a2`` kelvin for each squared ampere once settled.

    C·dT/dt = I²·R − G·ΔT: ΔT(t) = ΔT_before·e + ΔT_current·(1 − e), e = exp(−t/τ), τ = C/G. Source: Incropera & DeWitt,
    *Fundamentals of Heat and Mass Transfer*, ch. 5 (lumped capacity).
    Not modelled: the resistance is that at 20 °C throughout, so a rise of 30 K is told some 10 % too small.
    """

    rise_k_a2: float
    time_constant_s: float

    def steady_rise_k(self, current_a: float) -> float:
        """Rise after a long time."""
        return current_a**2 * self.rise_k_a2

    def rated_current_a(self, rise_k: float) -> float:
        """Current that warms it by ``rise_k`` for good."""
        return math.sqrt(rise_k / self.rise_k_a2)

    def pulse_rise_k(self, current_a: float, pulse_s: float, before_a: float) -> float:
        """Rise at the end of ``pulse_s`` of ``current_a`` after ``before_a`` for long.

        ΔT(t) = ΔT_before·e + ΔT_current·(1 − e), e = exp(−t/τ).
        """
        kept = math.exp(-pulse_s / self.time_constant_s)
        return self.steady_rise_k(before_a) * kept + self.steady_rise_k(current_a) * (1 - kept)

    def pulse_current_a(self, rise_k: float, pulse_s: float, before_a: float) -> float:
        """Current that reaches ``rise_k`` in ``pulse_s`` after ``before_a`` for long; 0 if that is too much."""
        kept = math.exp(-pulse_s / self.time_constant_s)
        room = rise_k - self.steady_rise_k(before_a) * kept
        return self.rated_current_a(1.0) * math.sqrt(max(room, 0.0) / (1.0 - kept))

    def allowed_s(self, rise_k: float, current_a: float, before_a: float) -> float:
        """Time until ``current_a`` warms it by ``rise_k`` after ``before_a`` for long; infinite where it never does.

        From the rise above: t = τ·ln[(ΔT_current − ΔT_before)/(ΔT_current − ΔT_allowed)].
        """
        before, after = self.steady_rise_k(before_a), self.steady_rise_k(current_a)
        if before >= rise_k:
            return 0.0
        return math.inf if after <= rise_k else self.time_constant_s * math.log((after - before) / (after - rise_k))


def worst_shares(
    rise_k_a2: Floats, time_constant_s: Floats, rise_k: FloatOrArray, cruise_a: Floats, punch_a: Floats, punch_s: float
) -> Floats:
    """How near conductors come to their limit, 1 = at it: the worse of cruise over the rated current and of the root of
    a punch's rise after cruise over ``rise_k``.

    √(max(ΔT_cruise, ΔT_cruise·e + ΔT_punch·(1 − e))/ΔT_allowed), e = exp(−t/τ), ΔT = r·I² with r in K/A². All arrays
    broadcast. Source: as :class:`Heating`.
    """
    kept = np.exp(-punch_s / time_constant_s)
    rise = rise_k_a2 * (cruise_a**2 * kept + punch_a**2 * (1 - kept))
    return np.asarray(np.sqrt(np.maximum(rise_k_a2 * cruise_a**2, rise) / rise_k))


@dataclass(frozen=True)
class Conductor:
    """A length of metal, possibly of several side by side along all of it."""

    parts: tuple[tuple[Metal, float], ...]
    """Each metal and its cross-section, m²."""
    length_m: float
    perimeter_m: float
    surface: float
    """Heat transfer from its surface, W/(m² K)."""

    @cached_property
    def mass_per_m(self) -> float:
        """Mass of the metal, kg/m."""
        return sum(metal.density * area for metal, area in self.parts)

    @property
    def ohm_per_m(self) -> float:
        """At 20 °C; the parts share the current."""
        return 1.0 / sum(area / metal.resistivity for metal, area in self.parts)

    @cached_property
    def cold_ohm(self) -> float:
        """Resistance at 20 °C."""
        return self.resistance_ohm()

    def resistance_ohm(self, temperature_c: float = 20.0) -> float:
        """R = ρ₂₀[1 + α(T − 20)]·L/A, ohms, the parts in parallel. Source: CRC Handbook of Chemistry and Physics."""
        siemens = sum(
            area / (metal.resistivity * (1 + metal.temperature_coefficient * (temperature_c - 20.0)))
            for metal, area in self.parts
        )
        return self.length_m / siemens

    @cached_property
    def heating(self) -> Heating:
        """Of a long run: I²R′ = h·perimeter·ΔT, and heat capacity over surface conductance."""
        loss = self.surface * self.perimeter_m
        heat = sum(metal.density * metal.specific_heat * area for metal, area in self.parts)
        return Heating(self.ohm_per_m / loss, heat / loss)


def awg_diameter_m(gauge: float) -> float:
    """Diameter, m, of solid wire of American Wire Gauge ``gauge``: d = 0.127 mm · 92^((36 − n)/39).

    Source: ASTM B258. Not modelled: the air between the strands of a lead, which is thicker for the same copper.
    """
    return 0.127e-3 * float(92 ** ((36 - gauge) / 39))


def stranded_lead(gauge: float, length_m: float, surface: float) -> Conductor:
    """The copper of one stranded silicone lead; it sheds heat from the outside of its insulation.

    Source: copper as solid wire of the gauge (ASTM B258). Not modelled: the temperature drop through the insulation.
    """
    diameter = awg_diameter_m(gauge)
    outside = diameter + 2 * insulation_wall_m(gauge)
    return Conductor(((METALS["copper"], math.pi * diameter**2 / 4),), length_m, math.pi * outside, surface)


def insulation_wall_m(gauge: float) -> float:
    """Silicone wall, m: straight between 0.4 mm at 22 AWG and 0.9 mm at 10 AWG, never under 0.25 mm.

    Source: our estimate of the class of flexible silicone leads.
    """
    return max(0.4 + (22 - gauge) / 12 * 0.5, 0.25) * 1e-3


def lead_mass_kg(gauge: float, length_m: float) -> float:
    """Mass of one stranded silicone lead, kg: copper × 1.15 for the lay of the strands, and the insulation.

    π·d²/4·8960·1.15 + π·(D² − d²)/4·1250 for each metre. Source: the gauge by ASTM B258; the lay and the wall are our
    estimates.
    """
    diameter = awg_diameter_m(gauge)
    outside = diameter + 2 * insulation_wall_m(gauge)
    copper = METALS["copper"].density * math.pi * diameter**2 / 4 * length_m * 1.15
    return copper + 1250 * math.pi * (outside**2 - diameter**2) / 4 * length_m
