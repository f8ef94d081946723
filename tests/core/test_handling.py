"""How quickly a craft turns with a pack: boxes and points by hand, along against across, high against low."""

from __future__ import annotations

import re

import numpy as np
import pytest

from tests.builders import beside, cell_type, complete, craft
from wise_cellar.core.answer import answer
from wise_cellar.core.documents import Bay, CompleteDesign, KnownFlight, Wing
from wise_cellar.core.documents.search import Wishes
from wise_cellar.core.lowering.space import Space
from wise_cellar.core.physics.inertia import Frame, arm_m, box_inertia, craft_inertia
from wise_cellar.core.propulsion import Handling, disc_loading_g_dm2, handling
from wise_cellar.core.propulsion.handling import frame_of
from wise_cellar.core.search.flown import fly_rows
from wise_cellar.core.search.limits import judge


def one(value: float) -> np.ndarray:
    return np.array([value])


def test_a_box_and_a_ring_of_motors_by_hand() -> None:
    """A box of 0.6 kg, 0.2 by 0.1 by 0.05 m: roll 0.6·(0.01 + 0.0025)/12. Four motors of 0.1 kg at 0.2 m: 4·0.1·0.04
    about yaw, half of it about roll."""
    assert box_inertia(one(0.6), one(0.2), one(0.1), one(0.05))[:, 0] == pytest.approx([6.25e-4, 2.125e-3, 2.5e-3])
    frame = Frame(4, 4, 0.2, 0.1, 0.0, (0.1, 0.1, 0.1))
    nothing = (one(0.0), one(0.0), one(0.0))
    assert craft_inertia(frame, one(0.0), nothing)[:, 0] == pytest.approx([0.008, 0.008, 0.016])


def test_a_pack_under_the_propellers_adds_the_reduced_mass() -> None:
    """0.4 kg of craft and 0.4 of pack 0.1 m below: 0.2·0.01 about roll and pitch, nothing about yaw."""
    frame = Frame(4, 4, 0.2, 0.1, 0.0, (0.1, 0.1, 0.1))
    size = (one(0.1), one(0.1), one(0.1))
    level, low = (craft_inertia(frame, one(0.4), size, above)[:, 0] for above in (0.0, -0.1))
    assert low - level == pytest.approx([0.002, 0.002, 0.0])


def test_arms_follow_from_the_distance_between_motors() -> None:
    """A square of 0.3 m: half its diagonal; a hexagon: the side itself."""
    assert arm_m(0.3, 4) == pytest.approx(0.3 / 2**0.5)
    assert arm_m(0.3, 6) == pytest.approx(0.3)
    told = craft(rotors=craft().rotors.changed(spacing_mm=400))
    assert frame_of(told).arm_m == pytest.approx(0.4 / 2**0.5)
    assert frame_of(told).rest_kg + 4 * frame_of(told).motor_kg == pytest.approx(1.15)


def test_disc_loading_counts_a_pair_over_each_other_once() -> None:
    """Four propellers of 200 mm are 12.57 dm²; as two coaxial pairs half of it is seen from above."""
    rotors = craft().rotors.changed(count=4, diameter_mm=200)
    assert disc_loading_g_dm2(craft(rotors=rotors), 1257) == pytest.approx(100, rel=1e-3)
    assert disc_loading_g_dm2(craft(rotors=rotors.changed(coaxial=True)), 1257) == pytest.approx(200, rel=1e-3)


def turns(design: CompleteDesign) -> Handling:
    found = handling(design, answer(design).build)
    assert found is not None
    return found


FLOWN = KnownFlight(takeoff_mass_g=1500, duration_min=20, charge_used_mah=5000, mean_voltage_v=14.5)


def test_a_heavier_pack_turns_more_slowly_than_the_battery_flown_now() -> None:
    of = craft(known_flights=(FLOWN,))
    small, big = (turns(complete(carrier=of, parallel_count=count)) for count in (2, 5))
    assert big.slowest < small.slowest < 1
    assert all(b < s for s, b in zip(small.quickness, big.quickness, strict=True))
    assert small.against == "the 350 g battery of its known flight"
    assert re.search(r"pitch −\d+", big.words)
    assert all(0 < doubt < 0.2 for doubt in big.doubt)
    assert f"pitch {1e3 * big.inertia_kg_m2[1]:.1f}" in big.figures


def test_along_against_across_and_high_against_low() -> None:
    """A long pack costs pitch; turned, it costs roll. Hung 80 mm under the propellers, it would be quicker level."""
    long = complete(parallel_count=6)
    found = turns(long)
    assert found.turned[0] == pytest.approx(found.quickness[1], rel=0.02)
    assert found.turned[1] == pytest.approx(found.quickness[0], rel=0.02)
    hung = complete(parallel_count=6, carrier=craft(bay=Bay(length_mm=600, width_mm=300, height_mm=200, above_mm=-80)))
    low = turns(hung)
    assert low.slowest < low.level[0]
    assert "In the plane of the propellers" in low.words


def test_the_own_battery_alone_is_what_an_extended_one_is_held_against() -> None:
    own = (cell_type(id="own", name="Fell 21-40E"), {"own": True})
    found = turns(beside(complete(), own))
    assert found.against == "its own battery alone"
    assert found.slowest < 1


def test_a_wing_turns_by_its_surfaces() -> None:
    winged = complete(carrier=craft(wing=Wing(span_mm=1900, area_dm2=40)))
    assert handling(winged, answer(winged).build) is None


def test_a_search_tells_the_same_and_may_ask_for_it() -> None:
    design = complete(carrier=craft(known_flights=(FLOWN,)))
    space = Space.around(design, parallel=range(1, 7))
    flown = fly_rows(space, space.rows, 1.0)
    for place in range(6):
        single = turns(space.design(place))
        assert flown.quickness[place] == pytest.approx(single.slowest, rel=1e-9)
    assert (np.diff(flown.quickness) < 0).all()
    asked = 100 * float(flown.quickness[2]) + 0.01
    wishes = Wishes(least_quickness_percent=asked)
    judged = judge(space, flown, wishes)
    failing = next(limit for limit in judged.limits if limit.name == "Quickness")
    assert failing.fails.tolist() == [False, False, True, True, True, True]
