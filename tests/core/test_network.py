"""The interconnect as a circuit: closed forms, a circuit simulator's results, and what Kirchhoff and Tellegen
demand."""

from __future__ import annotations

import json
from pathlib import Path

import numpy as np
import pytest
from hypothesis import given, settings
from hypothesis import strategies as st
from scipy.sparse import coo_matrix
from scipy.sparse.linalg import spsolve

from tests.builders import cell_type
from tests.packs import REFERENCE_PACKS
from wise_cellar.core.cells import electrical
from wise_cellar.core.documents import Arrangement, Joint, LeadExit, Leads, NodeLayers, PackRecipe, Strip
from wise_cellar.core.pack import Interconnect, PackBuild, build_pack
from wise_cellar.core.physics.network import Network

CELL = cell_type()
REFERENCES = json.loads((Path(__file__).parents[1] / "data" / "networks.json").read_text())


def network(levels: list[int], resistors: list[tuple[int, int, float]]) -> Network:
    start, end, ohm = zip(*resistors, strict=True)
    return Network(np.array(levels), np.array(start), np.array(end), np.array([ohm], float))


def circuit_of(build: PackBuild) -> Interconnect:
    assert build.interconnect is not None
    return build.interconnect


def test_two_resistors_in_parallel_share_as_their_conductances() -> None:
    pair = network([0, 1], [(0, 1, 1.0), (0, 1, 3.0)])
    volts = pair.potentials(np.array([[1.0], [-1.0]]))
    assert volts[0, 1, 0] == pytest.approx(-0.75)
    assert pair.currents(volts)[0, :, 0] == pytest.approx([0.75, 0.25])


def test_an_unbalanced_bridge() -> None:
    """1 and 2 Ω over 3 and 4 Ω with 5 Ω across, 1 A through it; drops a, b to the middle points and R in all:

    a = (R − a)/3 + (b − a)/5, b/2 + (b − a)/5 = (R − b)/4, a + b/2 = 1: a = 44/71, b = 54/71, R = 170/71.
    """
    bridge = network([0, 1, 1, 2], [(0, 1, 1), (0, 2, 2), (1, 3, 3), (2, 3, 4), (1, 2, 5)])
    volts = bridge.potentials(np.array([[1.0], [0], [0], [-1.0]]))
    assert -volts[0, :, 0] == pytest.approx([0, 44 / 71, 54 / 71, 170 / 71])


def test_many_currents_at_once_are_the_sum_of_one_at_a_time() -> None:
    bridge = network([0, 1, 1, 2], [(0, 1, 1), (0, 2, 2), (1, 3, 3), (2, 3, 4), (1, 2, 5)])
    cases = np.array([[1.0, 0.5], [0, -0.5], [0, 0.25], [-1.0, -0.25]])
    both = bridge.potentials(cases)
    assert both[..., :1] == pytest.approx(bridge.potentials(cases[:, :1]))
    assert both[..., 1:] == pytest.approx(bridge.potentials(cases[:, 1:]))
    assert bridge.potentials(cases.sum(axis=1, keepdims=True))[..., 0] == pytest.approx(both.sum(axis=-1))


def test_a_point_joined_to_nothing_and_a_skipped_level_are_refused() -> None:
    with pytest.raises(ValueError, match="joined to others"):
        network([0, 0, 1], [(0, 2, 1)]).potentials(np.array([[1.0], [0.0], [-1.0]]))
    with pytest.raises(ValueError, match="of the next"):
        network([0, 1, 2], [(0, 2, 1), (0, 1, 1)]).potentials(np.array([[1.0], [0.0], [-1.0]]))


@pytest.mark.parametrize("name", REFERENCE_PACKS)
def test_agrees_with_a_circuit_simulator(name: str) -> None:
    circuit = circuit_of(build_pack(REFERENCE_PACKS[name], CELL))
    assert circuit.cell_a == pytest.approx(REFERENCES[name]["cell_a"], rel=1e-6)
    assert circuit.ohm == pytest.approx(REFERENCES[name]["pack_ohm"], rel=1e-6)


packs = st.builds(
    PackRecipe,
    series_count=st.integers(1, 9),
    parallel_count=st.integers(1, 6),
    arrangement=st.sampled_from([Arrangement.SQUARE, Arrangement.STAGGERED, Arrangement.STICKS, Arrangement.OWN]),
    tiers=st.integers(1, 2),
    joint=st.sampled_from(list(Joint)),
    strip=st.builds(Strip, thickness_mm=st.floats(0.05, 0.5), layers=st.integers(1, 3)),
    leads=st.builds(Leads, exit=st.sampled_from(list(LeadExit))),
    more_layers=st.lists(st.builds(NodeLayers, node=st.integers(0, 9), layers=st.integers(1, 6)), max_size=2).map(
        tuple
    ),
)


@settings(deadline=None)
@given(packs)
def test_currents_balance_at_every_point_and_power_in_all(recipe: PackRecipe) -> None:
    """Kirchhoff: what runs and cells carry away from a point is what is fed in. Tellegen: V·I of the pack is the
    loss of all resistors, and the ledger splits exactly that."""
    build = build_pack(recipe, CELL)
    circuit, cells = circuit_of(build), len(build.layout.cells)
    away = np.zeros(2 * cells)
    amps = np.concatenate([circuit.run_a, circuit.cell_a])
    np.add.at(away, circuit.network.start, amps)
    np.add.at(away, circuit.network.end, -amps)
    assert build.layout.negative is not None
    assert build.layout.positive is not None
    away[build.layout.negative.cell] -= 1.0
    away[build.layout.positive.cell + cells] += 1.0
    assert np.abs(away).max() < 1e-9
    assert float(np.sum(amps**2 * circuit.network.ohm)) == pytest.approx(circuit.ohm, rel=1e-9)
    ideal = recipe.series_count * electrical(CELL)["r0_ohm"] / recipe.parallel_count
    parts = circuit.joint_ohm + circuit.strip_ohm + circuit.uneven_ohm
    assert parts + ideal == pytest.approx(circuit.ohm, rel=1e-9)
    assert circuit.uneven_ohm >= -1e-12, "sharing evenly loses least"
    for group in range(recipe.series_count):
        mine = [place for place, cell in enumerate(build.layout.cells) if cell.group == group]
        assert circuit.cell_a[mine].sum() == pytest.approx(1.0)


@settings(deadline=None, max_examples=20)
@given(packs)
def test_agrees_with_a_general_sparse_solver(recipe: PackRecipe) -> None:
    build = build_pack(recipe, CELL)
    circuit, layout = circuit_of(build), build.layout
    net, points = circuit.network, len(circuit.potentials_v)
    rows = np.concatenate([net.start, net.end, net.start, net.end])
    columns = np.concatenate([net.start, net.end, net.end, net.start])
    conductance = 1 / net.ohm[0]
    values = np.concatenate([conductance, conductance, -conductance, -conductance])
    matrix = coo_matrix((values, (rows, columns)), shape=(points, points)).tocsc()
    fed = np.zeros(points)
    assert layout.negative is not None
    assert layout.positive is not None
    fed[layout.negative.cell] += 1.0
    fed[layout.positive.cell + points // 2] -= 1.0
    volts = np.concatenate([[0.0], np.atleast_1d(spsolve(matrix[1:, 1:], fed[1:]))])
    assert circuit.potentials_v == pytest.approx(volts, rel=1e-7, abs=1e-9)


def test_a_symmetric_pack_shares_symmetrically() -> None:
    """Leads in the middle of three: the outer two carry the same, in every group."""
    circuit = circuit_of(build_pack(PackRecipe(series_count=4, parallel_count=3), CELL))
    shares = circuit.shares.reshape(4, 3)
    assert shares[:, 0] == pytest.approx(shares[:, 2])
    assert shares[0] == pytest.approx(shares[3])
    assert shares[0, 1] > 1 > shares[0, 0]


def test_two_cells_in_parallel_by_hand() -> None:
    """1S 2P, both leads at one cell: the far cell has two bars r more in series, so it carries R/(2R + 2r)."""
    build = build_pack(PackRecipe(series_count=1, parallel_count=2, leads=Leads(exit=LeadExit.SAME_END)), CELL)
    circuit = circuit_of(build)
    bar, cell = circuit.conductors[0].resistance_ohm(), float(circuit.network.ohm[0, -1])
    assert sorted(circuit.cell_a) == pytest.approx(
        [cell / (2 * cell + 2 * bar), (cell + 2 * bar) / (2 * cell + 2 * bar)]
    )
    corners = build_pack(
        PackRecipe(series_count=1, parallel_count=2, leads=Leads(exit=LeadExit.OPPOSITE_CORNERS)), CELL
    )
    assert circuit_of(corners).cell_a == pytest.approx([0.5, 0.5]), "each path has one bar"


def test_where_the_leads_attach_decides_who_carries_most() -> None:
    worst = {
        exit_: build_pack(PackRecipe(series_count=2, parallel_count=12, leads=Leads(exit=exit_)), CELL).worst_share
        for exit_ in LeadExit
    }
    assert worst[LeadExit.SAME_END] > worst[LeadExit.MIDDLE] > 1
    assert worst[LeadExit.SAME_END] > 1.1 * worst[LeadExit.OPPOSITE_CORNERS]


def test_more_layers_on_a_link_take_its_heat_and_leave_the_others() -> None:
    plain = build_pack(PackRecipe(series_count=4, parallel_count=2, bands=1), CELL)
    doubled = build_pack(
        PackRecipe(series_count=4, parallel_count=2, bands=1, more_layers=(NodeLayers(node=2, layers=2),)), CELL
    )
    for run, before, after in zip(
        plain.layout.strips, circuit_of(plain).conductors, circuit_of(doubled).conductors, strict=True
    ):
        ratio = 0.5 if run.node == 2 else 1.0
        assert after.resistance_ohm() == pytest.approx(ratio * before.resistance_ohm())
    assert doubled.mass_g > plain.mass_g
    assert doubled.wiring_ohm < plain.wiring_ohm
