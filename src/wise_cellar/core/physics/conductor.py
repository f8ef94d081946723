"""Strips, wires and contacts: resistance, mass, heating."""

from __future__ import annotations

import math
from dataclasses import dataclass
from functools import cached_property

import numpy as np

from wise_cellar.core.physics.arrays import FloatOrArray, Floats
from wise_cellar.core.physics.numbers import exp_less_one, larger


@dataclass(frozen=True)
class Metal:
    """Properties at 20 °C: resistivity Ω·m, temperature coefficient 1/K, density kg/m³, specific heat J/(kg K), thermal
    conductivity W/(m K)."""

    resistivity: float
    temperature_coefficient: float
    density: float
    specific_heat: float
    conductivity: float


# Handbook values for annealed metal (CRC Handbook of Chemistry and Physics); plated steel and brass vary by alloy.
METALS: dict[str, Metal] = {
    "copper": Metal(1.724e-8, 0.0039, 8960, 385, 398),
    "nickel": Metal(6.99e-8, 0.006, 8900, 444, 91),
    "nickel-plated steel": Metal(1.43e-7, 0.005, 7850, 480, 52),
    "brass": Metal(6.6e-8, 0.0015, 8500, 380, 115),
    "aluminium": Metal(2.65e-8, 0.0039, 2700, 897, 237),
}

SURFACE_FREE = 12.0
"""W/(m² K), a strip in still air."""
SURFACE_WRAPPED = 8.0
"""The same under heat-shrink."""
STRIP_RISE_K = 30.0
LEAD_RISE_K = 40.0
UNDER_SLEEVE_C = 75.0
"""What strips and the cells under them may reach together: sleeves, tape and seals are made for little more."""
CAP_K_W = 20.0
"""What the end of a cell warms over the cell for each watt that strips bring into it: an estimate for the positive end,
whose way inwards is a thin tab and a gasket."""
WRAPPED_SHARE = 0.5
"""Of what a bare lead sheds, left under a wrap."""


def strip_rise_k(cells_c: FloatOrArray) -> Floats:
    """What strips may be warmer than cells of ``cells_c``, K: 30, and no more than 75 °C in all; at least 1 K.

    Source: what sleeves, tape and seals bear; both figures are our estimates.
    """
    return np.asarray(np.clip(UNDER_SLEEVE_C - np.asarray(cells_c), 1.0, STRIP_RISE_K))


def lead_surface_w_m2_k(diameter_m: float, rise_k: float = LEAD_RISE_K, air_c: float = 25.0) -> float:
    """Heat that a lead lying in still air sheds, W/(m² K), for its outer diameter at a rise over the air.

    Free convection round a horizontal cylinder, Nu = {0.60 + 0.387 Ra^⅙/[1 + (0.559/Pr)^(9/16)]^(8/27)}², and radiation
    of ε = 0.9. Source: Churchill & Chu, *Int. J. Heat Mass Transfer* 18 (1975) 1049; properties of air at the mean of
    both temperatures, straight about 300 K (Incropera & DeWitt, table A.4). Not modelled: leads that warm each other.
    """
    air_k = air_c + 273.15
    film_k, surface_k = air_k + rise_k / 2, air_k + rise_k
    warmer = film_k - 300.0
    viscosity, diffusivity = (15.89 + 0.1006 * warmer) * 1e-6, (22.5 + 0.148 * warmer) * 1e-6
    conductivity = 0.0263 + 7.4e-5 * warmer
    rayleigh = 9.81 * rise_k / film_k * diameter_m**3 / (viscosity * diffusivity)
    prandtl = viscosity / diffusivity
    spread = (1 + (0.559 / prandtl) ** (9 / 16)) ** (8 / 27)
    nusselt = (0.60 + 0.387 * rayleigh ** (1 / 6) / spread) ** 2
    radiated = 0.9 * 5.67e-8 * (surface_k**2 + air_k**2) * (surface_k + air_k)
    return float(nusselt * conductivity / diameter_m + radiated)


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
    rise_k_a2: Floats, time_constant_s: Floats, rise_k: FloatOrArray, cruise_a: Floats, punch_a: Floats, punch_s: float,
    felt_a2: FloatOrArray = 0.0,
) -> Floats:  # fmt: skip
    """How near conductors come to their limit, 1 = at it: the worst of cruise over the rated current, of the root of a
    punch's rise after cruise over ``rise_k``, and of the root of the rise along a flight.

    √(max(ΔT_cruise, ΔT_cruise·e + ΔT_punch·(1 − e), r·y)/ΔT_allowed), e = exp(−t/τ), ΔT = r·I² with r in K/A², y the
    greatest :func:`felt` square of the flown current. All arrays broadcast. Source: as :class:`Heating`.
    """
    kept = np.exp(-punch_s / time_constant_s)
    worst = np.maximum(cruise_a**2, cruise_a**2 * kept + punch_a**2 * (1 - kept))
    return np.asarray(np.sqrt(rise_k_a2 * np.maximum(worst, felt_a2) / rise_k))


def felt(before_a2: Floats, start_a2: Floats, end_a2: Floats, seconds: Floats, time_constant_s: Floats) -> Floats:
    """The squared current that metal feels, A², after a stretch in which the square runs straight from start to end.

    τ·dy/dt = I² − y, solved exactly: y = y₀·e + I₀²·(g − e) + I₁²·(1 − g), e = exp(−t/τ), g = (1 − e)·τ/t; times r it
    is the rise of :class:`Heating`. Seconds and time constant in s; all arrays broadcast. Source: a first-order lag
    with a ramp as its input, by variation of constants.
    """
    over = larger(seconds / time_constant_s, 1e-9)
    lost = exp_less_one(-over)
    kept, mean = 1.0 + lost, -lost / over
    return before_a2 * kept + start_a2 * (mean - kept) + end_a2 * (1.0 - mean)


@dataclass(frozen=True)
class Conductor:
    """A length of metal, possibly of several side by side along all of it."""

    parts: tuple[tuple[Metal, float], ...]
    """Each metal and its cross-section, m²."""
    length_m: float
    perimeter_m: float
    surface: float
    """Heat transfer from its surface, W/(m² K)."""
    between_cells: bool = False
    """Whether both of its ends lie on cells, which take most of its heat."""

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
        """Of a long run over the air: I²R′ = h·perimeter·ΔT, and heat capacity over surface conductance.

        Between two cells over the cells: the middle of a fin that is heated throughout and held at its ends,
        ΔT = R′I²/(hP)·[1 − 1/cosh(mL/2)], m² = hP/(kA), and its ends above the cell, by half of its heat each into
        ``CAP_K_W``. Source: Incropera & DeWitt, ch. 3 (conduction with heat generation; fins). Not modelled: the heat
        of the joint itself, and that both ends of a cell take heat from several strips.
        """
        loss = self.surface * self.perimeter_m
        heat = sum(metal.density * metal.specific_heat * area for metal, area in self.parts)
        rise = self.ohm_per_m / loss
        if self.between_cells:
            along = sum(metal.conductivity * area for metal, area in self.parts)
            half = math.sqrt(loss / along) * self.length_m / 2
            rise = rise * (1 - 1 / math.cosh(half)) + CAP_K_W * self.ohm_per_m * self.length_m / 2
        return Heating(rise, heat * rise / self.ohm_per_m)


def awg_diameter_m(gauge: float) -> float:
    """Diameter, m, of solid wire of American Wire Gauge ``gauge``: d = 0.127 mm · 92^((36 − n)/39).

    Source: ASTM B258. Not modelled: the air between the strands of a lead, which is thicker for the same copper.
    """
    return 0.127e-3 * float(92 ** ((36 - gauge) / 39))


def stranded_lead(gauge: float, length_m: float, *, wrapped: bool = False) -> Conductor:
    """The copper of one stranded silicone lead; it sheds heat from the outside of its insulation, half of it under a
    wrap.

    Source: copper as solid wire of the gauge (ASTM B258), :func:`lead_surface_w_m2_k`. Not modelled: the temperature
    drop through the insulation, and the heat that it takes up.
    """
    diameter = awg_diameter_m(gauge)
    outside = diameter + 2 * insulation_wall_m(gauge)
    surface = lead_surface_w_m2_k(outside) * (WRAPPED_SHARE if wrapped else 1.0)
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
