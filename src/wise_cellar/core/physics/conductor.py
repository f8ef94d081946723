"""Strips, wires and contacts: resistance, mass, heating."""

from __future__ import annotations

import math
from dataclasses import dataclass


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
class Conductor:
    """A length of bare metal: ``length_m``, cross-section ``area_m2``, surface perimeter ``perimeter_m``."""

    metal: Metal
    length_m: float
    area_m2: float
    perimeter_m: float
    surface: float
    """Heat transfer from its surface, W/(m² K)."""

    @property
    def mass_kg(self) -> float:
        """Mass of the metal."""
        return self.metal.density * self.length_m * self.area_m2

    def resistance_ohm(self, temperature_c: float = 20.0) -> float:
        """R = ρ₂₀[1 + α(T − 20)]·L/A."""
        factor = 1 + self.metal.temperature_coefficient * (temperature_c - 20.0)
        return self.metal.resistivity * factor * self.length_m / self.area_m2

    def steady_rise_k(self, current_a: float) -> float:
        """Temperature rise of a long run: I²R′ = h·perimeter·ΔT, resistance taken at 20 °C."""
        return current_a**2 * self.metal.resistivity / self.area_m2 / (self.surface * self.perimeter_m)

    def rated_current_a(self, rise_k: float) -> float:
        """Current that warms it by ``rise_k`` for good."""
        return math.sqrt(self.surface * self.perimeter_m * rise_k * self.area_m2 / self.metal.resistivity)

    @property
    def time_constant_s(self) -> float:
        """Heat capacity over surface conductance."""
        heat = self.metal.density * self.metal.specific_heat * self.area_m2
        return heat / (self.surface * self.perimeter_m)

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


def flat_strip(metal: Metal, length_m: float, width_m: float, thickness_m: float, surface: float) -> Conductor:
    """A flat strip; stacked layers are one strip of their summed thickness."""
    return Conductor(metal, length_m, width_m * thickness_m, 2 * (width_m + thickness_m), surface)


def awg_diameter_m(gauge: float) -> float:
    """Diameter of solid wire of American Wire Gauge ``gauge`` (ASTM B258): 0.127 mm · 92^((36 − n)/39)."""
    return 0.127e-3 * float(92 ** ((36 - gauge) / 39))


def stranded_lead(gauge: float, length_m: float, surface: float) -> Conductor:
    """The copper of one stranded silicone lead; it sheds heat from the outside of its insulation."""
    diameter = awg_diameter_m(gauge)
    outside = diameter + 2 * insulation_wall_m(gauge)
    return Conductor(METALS["copper"], length_m, math.pi * diameter**2 / 4, math.pi * outside, surface)


def insulation_wall_m(gauge: float) -> float:
    """Silicone wall, straight between 0.4 mm at 22 AWG and 0.9 mm at 10 AWG, never under 0.25 mm."""
    return max(0.4 + (22 - gauge) / 12 * 0.5, 0.25) * 1e-3


def lead_mass_kg(gauge: float, length_m: float) -> float:
    """Mass of one stranded silicone lead: copper × 1.15 for the lay of the strands, and the insulation."""
    diameter = awg_diameter_m(gauge)
    outside = diameter + 2 * insulation_wall_m(gauge)
    copper = METALS["copper"].density * math.pi * diameter**2 / 4 * length_m * 1.15
    return copper + 1250 * math.pi * (outside**2 - diameter**2) / 4 * length_m
