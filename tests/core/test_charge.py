"""Constant current, constant voltage: against scipy's integration of the same law, and against hand sums."""

from __future__ import annotations

from dataclasses import replace

import numpy as np
import pytest
from scipy.integrate import solve_ivp

from tests.builders import cell_type, complete
from tests.reference_flight import ReferenceFlight
from wise_cellar.core.charge.cc_cv import LONGEST_S, OnCharger, charge
from wise_cellar.core.documents import CompleteDesign, Conditions, PackState
from wise_cellar.core.lowering import lower, lower_one


def on_charger(design: CompleteDesign, **changes: object) -> OnCharger:
    batch = lower([lower_one(design, 1.0)])
    values = {"current_a": 4.5, "power_w": 1e6, "voltage_v": 4.2, "taper_a": 0.5}
    return OnCharger(
        batch.cell,
        batch.start,
        batch.group_share,
        4,
        int(batch.parallel[0, 0, 0]),
        float(batch.wiring_ohm[0, 0, 0]),
        **(values | changes),
    )


EMPTY = {"conditions": Conditions(air_temperature_c=22), "state": PackState(start_charge_percent=10)}


@pytest.mark.parametrize(("current", "power"), [(4.5, 1e6), (13.5, 1e6), (13.5, 90.0)])
def test_a_charge_takes_as_long_as_solve_ivp_has_it(current: float, power: float) -> None:
    """Four equations of one cell under the least of three currents; ended by the tapered current."""
    design = complete(**EMPTY)
    pack, cell = on_charger(design, current_a=current, power_w=power), ReferenceFlight(design)

    def into(y: np.ndarray) -> tuple[float, float, float]:
        z, w, v1, kelvin = y
        emf = cell.ocv(z - w) - v1
        ohm = cell.r0 * cell.shape(z) * cell.factor(20e3, kelvin) + cell.outer
        by_power = (-emf + np.sqrt(emf**2 + 4 * ohm * power / (cell.s * cell.p))) / (2 * ohm)
        return min(current / cell.p, by_power, (4.2 - emf) / ohm), emf, ohm

    def derivative(_t: float, y: np.ndarray) -> list[float]:
        z, w, v1, kelvin = y
        i, emf, ohm = into(y)
        slow, inner = cell.factor(25e3, kelvin), ohm - cell.outer
        heat = -i * (cell.ocv(z) - emf - i * inner)
        return [
            i / cell.q,
            (-cell.kappa * slow * i / cell.q - w) / (cell.tau_w * slow),
            (-cell.r1 * cell.factor(20e3, kelvin) * i - v1) / cell.tau1,
            (heat - cell.cool * (kelvin - cell.air)) / cell.heat,
        ]

    def tapered(_t: float, y: np.ndarray) -> float:
        _, emf, ohm = into(y)
        return (4.2 - emf) / ohm * cell.p - 0.5

    tapered.terminal = True  # type: ignore[attr-defined]
    found = solve_ivp(
        derivative, (0, 1e5), cell.start(), method="LSODA", rtol=1e-9, atol=1e-11, events=tapered, max_step=10.0
    )
    charged = charge(pack)
    assert charged.done
    assert charged.seconds == pytest.approx(found.t[-1], rel=1e-3)
    assert charged.soc[-1] == pytest.approx(found.y[0, -1], abs=2e-4)
    assert charged.temperature_c.max() == pytest.approx(found.y[3].max() - 273.15, abs=0.1)
    assert charged.current_a[-1] == pytest.approx(0.5, rel=1e-2)
    middle = 0.5 * charged.seconds
    y = np.array([np.interp(middle, found.t, row) for row in found.y])
    assert np.interp(middle, charged.time_s, charged.soc) == pytest.approx(y[0], abs=2e-3)


def test_volts_rise_to_what_is_held_and_stay() -> None:
    charged = charge(on_charger(complete(**EMPTY)))
    assert charged.voltage_v.max() == pytest.approx(4 * 4.2, abs=1e-6)
    before = charged.time_s < charged.held_from_s
    assert charged.current_a[before] == pytest.approx(4.5)
    assert np.all(np.diff(charged.current_a[~before]) < 1e-9)
    assert 0 < charged.held_from_s < charged.seconds


def test_charge_and_energy_are_booked() -> None:
    pack = on_charger(complete(**EMPTY))
    charged = charge(pack)
    steps = np.diff(charged.time_s)
    amps = charged.current_a
    assert (0.5 * (amps[1:] + amps[:-1]) * steps).sum() == pytest.approx(charged.charge_c, rel=2e-3)
    soc = np.linspace(charged.soc[0], charged.soc[-1], 2000)
    at_rest = (
        float(np.trapezoid(pack.cell.ocv(soc[None, None])[0, 0], soc)) * float(pack.cell.charge_c[0, 0, 0]) * 4 * 3
    )
    assert at_rest < charged.energy_j < 1.1 * at_rest, "some of it stays as heat"


def test_a_weak_charger_takes_longer_and_warms_less() -> None:
    strong, weak = (charge(on_charger(complete(**EMPTY), current_a=13.5, power_w=w)) for w in (1e6, 60.0))
    assert weak.seconds > 1.5 * strong.seconds
    assert weak.temperature_c.max() < strong.temperature_c.max()
    holding = weak.time_s < weak.held_from_s
    assert (weak.current_a * weak.voltage_v)[holding] == pytest.approx(60.0, rel=1e-6)


def test_to_storage_it_charges_or_drains_to_just_that_much() -> None:
    low = charge(on_charger(complete(**EMPTY), until_soc=0.45))
    full = charge(on_charger(complete(), until_soc=0.45, discharge_w=20.0))
    for charged in (low, full):
        assert charged.done
        assert charged.soc[-1] == pytest.approx(0.45, abs=1e-4)
    assert low.energy_j > 0 > full.energy_j
    assert (full.current_a * full.voltage_v) == pytest.approx(-20.0, rel=1e-6)
    assert full.seconds == pytest.approx(-full.energy_j / 20, rel=1e-3)


def test_a_full_pack_is_done_at_once_and_a_hopeless_one_gives_up() -> None:
    assert charge(on_charger(complete())).seconds < 60
    trickle = charge(on_charger(complete(**EMPTY), current_a=0.05, taper_a=0.01))
    assert not trickle.done
    assert trickle.seconds == LONGEST_S


def test_cold_cells_are_held_sooner() -> None:
    warm, cold = (
        charge(on_charger(complete(cell=cell_type(), **(EMPTY | {"conditions": Conditions(air_temperature_c=air)}))))
        for air in (25, 6)
    )
    assert cold.held_from_s < warm.held_from_s
    assert cold.seconds > warm.seconds


def test_wiring_is_inside_what_the_charger_holds() -> None:
    pack = on_charger(complete(**EMPTY))
    assert charge(replace(pack, wiring_ohm=0.2)).held_from_s < charge(pack).held_from_s
