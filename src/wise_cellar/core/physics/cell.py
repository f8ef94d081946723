"""One cell: open-circuit voltage behind a resistance, one RC pair, a lagging electrode surface, and heat.

    dz/dt  = −I/Q                                  state of charge, Q in coulombs
    dw/dt  = (κ·f(I)·I/Q − w)/τ_w                  lag of the surface behind the bulk, κ in s
    dv₁/dt = (R₁·I − v₁)/τ₁                        polarisation
    V      = OCV(z − w) − v₁ − I·R₀(z, T)·g(I)
    C dT/dt = I·(OCV(z) − V) − G·(T − T_air)

f(I) = (min(|I|, I_r)/I_r)^p: with p = 0 the lag is proportional to the current, as where nothing was measured. With
p > 0 it grows faster up to I_r, as ions run short in the electrolyte too, and in proportion beyond.

g(I) = 1 − θ + θ·h(I/I₀)/h(I₁/I₀), h(x) = asinh(x)/x, I₁ the one-hour current: the share θ that charge transfer has of
R₀ at I₁ falls as the current passes the exchange current I₀ (:func:`transfer_factor`). θ = 0 where no steps of two
currents told it.

Positive current discharges. R₀ and R₁ follow s(z)-shape and Arrhenius temperature factors (R₁ temperature
only); κ and τ_w follow their own Arrhenius factor. Loss of capacity at rate or in the cold comes from the lag,
which brings V to its minimum while charge is still inside. Not modelled: hysteresis, self-discharge,
ageing within a flight, entropic heat, differences between the cells of a pack.

The form: Plett, *Battery Management Systems* vol. 1 (2015), ch. 2, with the solid-diffusion lag as one pole.
"""

from __future__ import annotations

from dataclasses import dataclass, fields, replace
from functools import cache, cached_property
from typing import NamedTuple

import numpy as np

from wise_cellar.core.physics.arrays import Bools, Floats, Ints
from wise_cellar.core.physics.curve_bank import CurveBank, OnGrid, SocCurve, on_grid
from wise_cellar.core.physics.numbers import (
    exp,
    exp_less_one,
    inverse_sinh,
    larger,
    pick,
    plain,
    smaller,
    some,
    square_root,
    where,
)

GAS_CONSTANT = 8.314  # J/(mol K)
REFERENCE_K = 298.15


@dataclass(frozen=True)
class CellParameters:
    """Parameters of cells, SI, all of one shape: in a flight ``(packs, groups, flights)``."""

    charge_c: Floats
    """Capacity Q, coulombs."""
    r0_ohm: Floats
    """R₀ at half charge and 25 °C."""
    r1_ohm: Floats
    tau1_s: Floats
    lag_gain_s: Floats
    """κ: lag in state of charge is κ·I/Q once settled."""
    lag_tau_s: Floats
    lag_exponent: Floats
    """p: 0 where the lag is proportional to the current."""
    lag_reference_a: Floats
    """I_r: the current at which κ is given, and up to which the lag grows faster than the current."""
    transfer_share: Floats
    """θ: what charge transfer has of R₀ at the one-hour current; 0 where R₀ is the same at every current."""
    exchange_a: Floats
    """I₀: exchange current of that charge transfer."""
    resistance_activation_j_mol: Floats
    lag_activation_j_mol: Floats
    heat_capacity_j_k: Floats
    cooling_w_k: Floats
    """Heat to the air for each kelvin above it, this cell's share of the pack."""
    air_k: Floats
    ocv: CurveBank
    shape: CurveBank
    """s(z): R₀ over its value at half charge."""

    @cached_property
    def saturates(self) -> bool:
        """Whether the resistance of any falls with its current."""
        return some(self.transfer_share)

    @cached_property
    def lags_more(self) -> bool:
        """Whether the lag of any grows faster than its current."""
        return some(self.lag_exponent)

    def of_pack(self, place: int) -> CellParameters:
        """Of one of the packs, which keeps its axis."""
        return replace(self, **{f.name: getattr(self, f.name)[place : place + 1] for f in fields(self)})

    def take(self, flights: Ints) -> CellParameters:
        """The parameters of some of the flights."""
        return CellParameters(*(getattr(self, f.name)[..., flights] for f in fields(self)))

    def plain(self, flight: int) -> CellParameters:
        """Of the one pack and group of a flight, in plain numbers."""
        return CellParameters(*(plain(getattr(self, f.name), flight) for f in fields(self)))


@dataclass(frozen=True)
class CellState:
    """State of cells, all of one shape: in a flight ``(packs, groups, flights)``."""

    soc: Floats
    lag: Floats
    v1: Floats
    temperature_k: Floats

    def of_pack(self, place: int) -> CellState:
        """Of one of the packs, which keeps its axis."""
        one = slice(place, place + 1)
        return CellState(self.soc[one], self.lag[one], self.v1[one], self.temperature_k[one])

    def copy(self) -> CellState:
        """The same in arrays of its own."""
        return CellState(self.soc.copy(), self.lag.copy(), self.v1.copy(), self.temperature_k.copy())

    def take(self, flights: Ints | Bools) -> CellState:
        """The state of some of the flights."""
        return CellState(
            pick(self.soc, flights), pick(self.lag, flights), pick(self.v1, flights), pick(self.temperature_k, flights)
        )

    def plain(self, flight: int) -> CellState:
        """Of the one pack and group of a flight, in plain numbers."""
        return CellState(*(plain(getattr(self, f.name), flight) for f in fields(self)))

    def merged(self, mask: Bools, other: CellState) -> CellState:
        """This state, with ``other`` where ``mask`` is set."""
        return CellState(
            where(mask, other.soc, self.soc),
            where(mask, other.lag, self.lag),
            where(mask, other.v1, self.v1),
            where(mask, other.temperature_k, self.temperature_k),
        )


@cache
def default_resistance_shape() -> SocCurve:
    """s(z) where nothing was fitted: 1 at half charge, 1.5 at 5 %, 1.74 at empty, 0.99 at full.

    s ∝ 1 + 0.776·exp(−z/0.12). Source: our estimate for lithium-ion cylinders. Not modelled: the other forms.
    """
    soc = np.linspace(0.0, 1.0, 101)
    rise = 0.776 * np.exp(-soc / 0.12)
    return SocCurve.from_points(soc, (1 + rise) / (1 + 0.776 * np.exp(-0.5 / 0.12)))


def arrhenius(activation_j_mol: Floats, temperature_k: Floats) -> Floats:
    """Factor exp[(E/R)·(1/T − 1/298.15)] on a resistance or a time constant; 1 at 25 °C.

    ``activation_j_mol`` J/mol, ``temperature_k`` K, arrays that broadcast. Source: Arrhenius' law with the gas constant
    R = 8.314 J/(mol K). Not modelled: other mechanisms that take over in deep cold (under about −20 °C).
    """
    return exp(activation_j_mol / GAS_CONSTANT * (1.0 / temperature_k - 1.0 / REFERENCE_K))


def electromotive_v(cell: CellParameters, state: CellState) -> Floats:
    """Voltage behind R₀, V: OCV(z − w) − v₁, of the shape of the state.

    Source: Plett, *Battery Management Systems* vol. 1 (2015), ch. 2, the open-circuit voltage taken at the electrode's
    surface.
    Not modelled: hysteresis.
    """
    return cell.ocv(state.soc - state.lag) - state.v1


def resistance_ohm(cell: CellParameters, state: CellState, charge: OnGrid | None = None) -> Floats:
    """R₀(z, T) = R_ref·s(z)·exp[(Eₐ/R)(1/T − 1/298.15)], ohms, of the shape of the state, at the one-hour current.

    ``charge`` is where its state of charge lies on the curves' grid, if that is at hand.

    Source: Plett, *Battery Management Systems* vol. 1 (2015), ch. 2; s(z) as fitted, or our estimate for the class. Not
    modelled: growth of
    resistance with age within a flight; other currents are :func:`transfer_factor`'s.
    """
    factor = arrhenius(cell.resistance_activation_j_mol, state.temperature_k)
    return cell.r0_ohm * cell.shape.at(charge or on_grid(state.soc)) * factor


def transfer_factor(cell: CellParameters, current: Floats) -> Floats:
    """g(I): R₀ at a current over R₀ at the one-hour current; A of one cell, arrays that broadcast.

    g = 1 − θ + θ·h(I/I₀)/h(I₁/I₀), h(x) = asinh(x)/x.

    Source: Butler-Volmer kinetics with equal transfer coefficients, solved for the overpotential, a·asinh(I/I₀) (Plett,
    *Battery Management Systems* vol. 1, 2015, ch. 3); as a share of R₀ it keeps that one's way with charge and warmth.
    Not modelled: an exchange current of its own for each of both electrodes, charge and warmth.
    """
    return saturation(current, cell.charge_c / 3600.0, cell.transfer_share, cell.exchange_a)


def saturation(current: Floats, one_hour_a: Floats, share: Floats, exchange_a: Floats) -> Floats:
    """:func:`transfer_factor` of plain arrays: θ ``share`` at ``one_hour_a``, amperes.

    Source: as there.
    """
    return 1.0 - share + share * _less(current / exchange_a) / _less(one_hour_a / exchange_a)


def _less(ratio: Floats) -> Floats:
    """asinh(x)/x, 1 at 0."""
    x = larger(abs(ratio), 1e-6)
    return inverse_sinh(x) / x


def constant_power_current(emf_v: Floats, resistance: Floats, power_w: Floats) -> tuple[Floats, Floats]:
    """Current that delivers ``power_w`` outside ``resistance``, A, and the discriminant as a share of E².

    From V·I = P with V = E − R·I: R·I² − E·I + P = 0. The smaller root is the stable one: it goes to P/E as R
    goes to 0, while the larger goes to a short circuit. A negative discriminant means that P cannot be
    delivered at any current; the current of greatest power, E/(2R), is returned there. Volts, ohms and watts, arrays
    that broadcast. Source: Ohm's law.
    """
    discriminant = 1.0 - 4.0 * resistance * power_w / (emf_v * emf_v)
    root = square_root(larger(discriminant, 0.0))
    # P·2/(E·(1 + root)) is the same root without the cancellation of E − √… at small R, except past the limit.
    current = where(discriminant >= 0.0, power_w, emf_v * emf_v / (4.0 * resistance)) * 2.0 / (emf_v * (1.0 + root))
    return current, discriminant


def voltage_under_power(emf_v: Floats, resistance: Floats, power_w: Floats) -> Floats:
    """Voltage outside ``resistance`` while ``power_w`` is drawn, V: E/2 + √(E²/4 − P·R); 0 where it cannot be.

    Volts, ohms and watts, arrays that broadcast. Source: Ohm's law, the stable root of V² − E·V + P·R = 0.
    """
    room = emf_v**2 / 4 - power_w * resistance
    return np.where(room > 0, emf_v / 2 + np.sqrt(np.maximum(room, 0.0)), 0.0)


Filter = tuple[Floats, Floats, Floats]
"""Weights of a constant and of a ramp, and the decay."""


class StepFilters(NamedTuple):
    """What a step of one length does to cells whose temperature factors are held; the shape of the cells."""

    polarisation: Filter
    heat: Filter
    lag: Filter
    r1_ohm: Floats
    lag_s: Floats
    """κ, at that temperature."""


def step_filters(
    cell: CellParameters, step_s: Floats, factor_k: Floats, other: StepFilters | None = None
) -> StepFilters:
    """The filters of a step with the temperature factors of R₁, κ and τ_w held at ``factor_k``; ``other`` are those of
    the same step at another temperature, where they are at hand.

    Weights 1 − e^(−Δt/τ) of a constant and 1 − (τ/Δt)(1 − e^(−Δt/τ)) of a ramp, for τ = R₁C₁, C_th/(hA) and τ_w;
    ``step_s`` in s, arrays that broadcast. Source: the exact solution of a first-order lag under a current that is
    straight over a step.
    """
    polarisation = _filter(step_s, cell.tau1_s) if other is None else other.polarisation
    heat = _filter(step_s, cell.heat_capacity_j_k / cell.cooling_w_k) if other is None else other.heat
    w_factor = arrhenius(cell.lag_activation_j_mol, factor_k)
    r1_ohm = cell.r1_ohm * arrhenius(cell.resistance_activation_j_mol, factor_k)
    return StepFilters(
        polarisation, heat, _filter(step_s, cell.lag_tau_s * w_factor), r1_ohm, cell.lag_gain_s * w_factor
    )


def advance(
    cell: CellParameters, state: CellState, step_s: Floats, current_start: Floats, current_end: Floats,
    heat_start: Floats, heat_end: Floats, filters: StepFilters,
) -> CellState:  # fmt: skip
    """State after ``step_s`` with current and heat running straight from start to end.

    Exact for that forcing (so stable at any step): with u(t) = a + b·t/h and y' = (g·u − y)/τ,
    y(h) = y₀e + g·[a(1 − e) + b(1 − (1 − e)τ/h)], e = exp(−h/τ). ``filters`` are :func:`step_filters` of this step.
    Arrays broadcast to the shape of the state.

    Source: exact discretisation of first-order lags under a ramp (first-order hold; Franklin, Powell & Workman,
    *Digital Control of Dynamic Systems*, 3rd ed., section 6.3). Not modelled: temperature factors that move within the
    step.
    """
    constant, ramp, decay = filters.polarisation
    v1 = state.v1 * decay + filters.r1_ohm * (current_start * constant + (current_end - current_start) * ramp)

    constant, ramp, decay = filters.lag
    drawn_start, drawn_end = _lagging(cell, current_start), _lagging(cell, current_end)
    drawn = drawn_start * constant + (drawn_end - drawn_start) * ramp
    lag = state.lag * decay + filters.lag_s / cell.charge_c * drawn

    soc = state.soc - step_s * (current_start + current_end) / (2.0 * cell.charge_c)

    constant, ramp, decay = filters.heat
    warmer = (heat_start * constant + (heat_end - heat_start) * ramp) / cell.cooling_w_k
    temperature = cell.air_k + (state.temperature_k - cell.air_k) * decay + warmer
    return CellState(soc, lag, v1, temperature)


def yielding_ohm(cell: CellParameters, state: CellState, step_s: Floats, filters: StepFilters) -> Floats:
    """Ohms by which the voltage behind R₀ at the end of a step yields to the current at that end, near ``state``.

    −dE/dI₁ = OCV'(z − w)·(Δt/2 + κ·ρ_w)/Q + R₁·ρ₁ with the weights ρ of a ramp in ``filters``. Arrays broadcast to the
    shape of the state. Source: :func:`advance`, differentiated. Not modelled: a lag that grows faster than its current.
    """
    charge_s = step_s / 2.0 + filters.lag_s * filters.lag[1]
    slope_v = cell.ocv.slope(on_grid(state.soc - state.lag))
    return slope_v * charge_s / cell.charge_c + filters.r1_ohm * filters.polarisation[1]


def rested_v(cell: CellParameters, state: CellState, seconds: Floats) -> Floats:
    """Volts of a cell that has rested for so long in its air, by itself: OCV(z − w) − v₁; arrays that broadcast.

    Source: :func:`advance` without current. Not modelled: groups and packs that go on charging each other.
    """
    none, filters = np.zeros_like(state.soc), step_filters(cell, seconds, state.temperature_k)
    return electromotive_v(cell, advance(cell, state, seconds, none, none, none, none, filters))


def lagging_current(current: Floats, exponent: Floats | float, reference_a: Floats | float) -> Floats:
    """f(I)·I, A: what the surface lag answers to, f(I) = (min(|I|, I_r)/I_r)^p; arrays that broadcast.

    Source: our own form, chosen with unseen runs of two simulated cells (docs/architecture.md, "Rules").
    """
    lagging: Floats = current * smaller(abs(current) / reference_a, 1.0) ** exponent
    return lagging


def _lagging(cell: CellParameters, current: Floats) -> Floats:
    """The same of cells that fly, most of which have no exponent."""
    return lagging_current(current, cell.lag_exponent, cell.lag_reference_a) if cell.lags_more else current


def _filter(step_s: Floats, tau_s: Floats) -> Filter:
    """Weights of a constant and of a ramp, and the decay, of a first-order lag over a step."""
    ratio = step_s / tau_s
    lost = exp_less_one(-ratio)
    return -lost, 1.0 + lost / larger(ratio, 1e-12), 1.0 + lost


def pulse_resistance_ohm(cell: CellParameters, ocv_slope_v: Floats, pulse_s: float = 10.0) -> Floats:
    """What a pulse of ``pulse_s`` at half charge and 25 °C reads, ohms; where it matters, of the one-hour current.

    R₀ + R₁(1 − e^(−t/τ₁)) + (κ/Q)(1 − e^(−t/τ_w))·dOCV/dz; ``ocv_slope_v`` is dOCV/dz there, V. Arrays that broadcast.

    Source: the step response of the model above; a pulse of 10 s is that of IEC 61960-3's DC method, rounded.
    """
    one_hour_a = cell.charge_c / 3600.0
    lag_ohm = cell.lag_gain_s * _lagging(cell, one_hour_a) / one_hour_a / cell.charge_c * ocv_slope_v
    return step_ohm(pulse_s, cell.r0_ohm, (cell.r1_ohm, cell.tau1_s), (lag_ohm, cell.lag_tau_s))


def step_ohm(after_s: float, at_once: Floats, *slow: tuple[Floats, Floats]) -> Floats:
    """Ohms that a step of current shows after a time: what acts at once, and parts that settle, each with its time
    constant in s: R(1 − e^(−t/τ)). Arrays that broadcast. Source: the step response of first-order lags."""
    return np.asarray(at_once + sum(ohm * -np.expm1(-after_s / tau_s) for ohm, tau_s in slow))


def resistance_from_dcir(
    dcir_ohm: float, charge_c: float, lag_gain_s: float, lag_tau_s: float, ocv_slope_v: float, *,
    pulse_s: float = 10.0, r1_share: float = 0.3, tau1_s: float = 15.0,
) -> tuple[float, float]:  # fmt: skip
    """R₀ and R₁, ohms, of a cell whose ``pulse_s`` pulse at half charge and 25 °C gives ``dcir_ohm``.

    DCIR = R₀ + R₁(1 − e^(−t/τ₁)) + (κ/Q)(1 − e^(−t/τ_w))·dOCV/dz, R₁ = ``r1_share``·R₀. The lag's part is held to
    at most 40 % of the reading, so that a doubtful reading never gives a cell without resistance.

    Source: the pulse put through this module's own equations; ``r1_share`` and ``tau1_s`` are our estimates. Not
    modelled: a pulse at another charge or warmth.
    """
    lag_part = lag_gain_s / charge_c * -np.expm1(-pulse_s / lag_tau_s) * ocv_slope_v
    remaining = dcir_ohm - min(float(lag_part), 0.4 * dcir_ohm)
    r0 = remaining / (1.0 + r1_share * -np.expm1(-pulse_s / tau1_s))
    return float(r0), float(r1_share * r0)
